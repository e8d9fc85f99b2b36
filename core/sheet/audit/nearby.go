package audit

import (
	"math"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/solid"
)

const (
	// aside is how far positions are changed to look at a part from nearby, in shares of the lever.
	aside = 0.01
	// independentNearby is independent for rows there: those of surfaces that meet in curves are right to the square of
	// aside alone.
	independentNearby = 1e-3
)

// nearby is the part with other positions, as far as what is always read from a drawing leaves them free. Where a part
// stands specially, as with three axes in one line, a size seems to follow from others that it does not follow from;
// there is hardly a part that does so here as well.
type nearby struct {
	u     *unknowns
	ex    *exercise.Exercise
	given *basis
	rows  map[string][][]float64 // of characteristics; nil of one that cannot be measured here
}

// nearby changes the positions of all surfaces at once, each change that is free by another amount. Directions and
// sizes stay, so that what is parallel, square, coaxial or tangent stays so exactly.
func (u *unknowns) nearby(ex *exercise.Exercise, given *basis) *nearby {
	held, around := given.clone(), u.ringed(ex)
	for i := range u.carriers {
		c := &u.carriers[i]
		for k, w := range c.ways {
			if c.faces == nil || around[i] || w.kind != along && w.kind != sideways && w.kind != endways {
				own := u.row()
				own[c.first+k] = 1
				held.add(own)
			}
		}
	}
	x := u.row()
	for i, v := range held.loose(u.n) {
		_, share := math.Modf(float64(i+1) * math.Phi) // spread evenly, and never the same twice
		subtract(x, v, 0.5+share)
	}
	if _, most := furthest(x); most > 0 {
		for i := range x {
			x[i] *= aside * u.lever / most
		}
	}
	g := u.shifted(x)
	out := &nearby{u: newUnknowns(g), ex: ex, given: &basis{}, rows: map[string][][]float64{}}
	for _, d := range out.u.read(ex) {
		out.given.add(d.row)
	}
	return out
}

// ringed are the carriers of what stands around something: they stay, since evenly spaced is nothing that shifts of
// each alone keep exactly.
func (u *unknowns) ringed(ex *exercise.Exercise) map[int]bool {
	out := map[int]bool{}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		if !c.Declared().Around && !c.Declared().Ring {
			continue
		}
		places, err := u.placesOf(c)
		if err != nil {
			continue // told with the characteristic
		}
		for _, p := range places {
			for _, f := range p.Faces() {
				out[u.of[f]] = true
			}
		}
	}
	return out
}

// shifted is the geometry after shifts of its surfaces.
func (u *unknowns) shifted(x []float64) *solid.Geometry {
	g := *u.g
	g.Faces, g.Edges = slices.Clone(g.Faces), slices.Clone(g.Edges)
	shift := func(f int) (d solid.Vec) {
		if c := u.of[f]; c >= 0 {
			for k, w := range u.carriers[c].ways {
				d = d.Add(w.shift.Scale(x[u.carriers[c].first+k]))
			}
		}
		return d
	}
	for i := range g.Faces {
		f := &g.Faces[i]
		f.Origin, f.Centroid = f.Origin.Add(shift(i)), f.Centroid.Add(shift(i))
	}
	for i := range g.Edges {
		e := &g.Edges[i]
		d := u.edgeShift(e.Faces, shift)
		e.A, e.B, e.Mid, e.Center = e.A.Add(d), e.B.Add(d), e.Mid.Add(d), e.Center.Add(d)
	}
	return &g
}

// edgeShift is how an edge moves with its faces: with a round one, and along its axis with a flat one; else by the
// least that keeps it on both.
func (u *unknowns) edgeShift(faces []int, shift func(f int) solid.Vec) solid.Vec {
	var out solid.Vec
	var way solid.Vec // in which alone it can still move; in any where it is zero
	for _, f := range faces {
		if u.of[f] >= 0 && u.g.Faces[f].Kind != solid.PlaneFace {
			out, way = shift(f), u.g.Faces[f].Axis
			break
		}
	}
	for _, f := range faces {
		if u.of[f] < 0 || u.g.Faces[f].Kind != solid.PlaneFace {
			continue
		}
		n := u.g.Faces[f].Normal
		along := n
		if way != (solid.Vec{}) {
			along = way.Scale(way.Dot(n))
		}
		if s := along.Dot(n); s > 1e-6 {
			out = out.Add(along.Scale(shift(f).Sub(out).Dot(n) / s))
		}
		if way == (solid.Vec{}) { // a second flat face moves it within the first
			for _, o := range faces {
				if o != f {
					way = n.Cross(u.g.Faces[o].Normal).Cross(n)
				}
			}
			way = way.Unit()
		}
	}
	return out
}

// of gives the rows of a characteristic here.
func (n *nearby) of(id string) [][]float64 {
	if rows, ok := n.rows[id]; ok {
		return rows
	}
	c := n.ex.Characteristic(id)
	var rows [][]float64
	if places, err := n.u.placesOf(c); err == nil {
		if list, err := n.u.statedRows(c, places); err == nil {
			rows = list
		}
	}
	n.rows[id] = rows
	return rows
}

// follows tells whether a characteristic follows from others here too. What cannot be measured here says nothing
// against it.
func (n *nearby) follows(others []said, s said) bool {
	b := n.given.clone()
	for _, o := range others {
		for _, r := range n.of(o.id) {
			b.add(r)
		}
	}
	for _, r := range n.of(s.id) {
		if _, share := b.left(r); share > independentNearby {
			return false
		}
	}
	return true
}
