package audit

import (
	"math"
	"slices"
	"strings"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// candidate is a characteristic that could be stated. Candidates are proposed in the order of their ranks, and among
// those of one rank in the order in which they were found.
type candidate struct {
	Sized
	kind    *characteristic.Kind
	rows    []sparse // once they were asked for
	asked   bool
	rank    int
	touches []int // carriers that it can follow
}

// proposedBefore is the rank of what was proposed for something else already.
const proposedBefore = 0

// change is one that nothing holds, with how long it is and which carriers it moves.
type change struct {
	v     []float64
	long  float64
	moves []bool
}

func (u *unknowns) changeOf(v []float64) change {
	out := change{v, norm(v), make([]bool, len(u.carriers))}
	for i := range u.carriers {
		c := &u.carriers[i]
		out.moves[i] = slices.ContainsFunc(v[c.first:c.first+len(c.ways)], func(x float64) bool {
			return math.Abs(x) > 1e-6*out.long
		})
	}
	return out
}

// seeing is the first of the rows of a candidate that changes with a change, or -1. The rows are worked out when they
// are first needed: most pairs of faces are far from whatever is loose.
func (u *unknowns) seeing(c *candidate, of change) int {
	if !slices.ContainsFunc(c.touches, func(i int) bool { return of.moves[i] }) {
		return -1
	}
	if !c.asked {
		c.asked = true
		// What is nothing, as the distance of a centre from the axis that it lies on, is never stated.
		size, err := c.kind.Measure(u.g, c.Places[0], characteristic.How{})
		if err == nil && math.Abs(size) < onto {
			return -1
		}
		rows, err := u.statedRows(&exercise.Characteristic{Kind: c.Kind}, c.Places)
		if err == nil && len(rows) > 0 && norm(rows[0]) > nothing {
			for _, row := range rows {
				c.rows = append(c.rows, thinned(row))
			}
		}
	}
	for i := range c.rows {
		if r := &c.rows[i]; math.Abs(r.dot(of.v)) > 1e-3*r.long*of.long {
			return i
		}
	}
	return -1
}

// best is the candidate to propose for a change: the first that was proposed for another already, else the first by
// rank; nil where none sees it.
func (u *unknowns) best(all, ordered []*candidate, of change) *candidate {
	for _, c := range all {
		if c.rank == proposedBefore && u.seeing(c, of) >= 0 {
			return c
		}
	}
	for _, c := range ordered {
		if c.rank != proposedBefore && u.seeing(c, of) >= 0 {
			return c
		}
	}
	return nil
}

// finding collects candidates.
type finding struct {
	*unknowns
	moves  []bool        // of each carrier: it is loose
	beside map[int][]int // of a face: the carriers that a measure on it can follow
	out    []*candidate
}

// add adds what a drawing could state of a place.
func (f *finding) add(operands ...[]int) {
	place := characteristic.Place(operands)
	for _, kind := range characteristic.All() {
		if kind.Proposed == nil || !kind.Proposed(f.g, place) {
			continue
		}
		c := &candidate{Sized: Sized{kind.Name, []characteristic.Place{place}}, kind: kind, rank: f.rank(kind, place)}
		for _, face := range place.Faces() {
			if _, known := f.beside[face]; !known {
				f.beside[face] = f.around([]int{face})
			}
			c.touches = append(c.touches, f.beside[face]...)
		}
		f.out = append(f.out, c)
	}
}

// flats are the flat carriers with a face, by number.
func (f *finding) flats(among func(k int, o *carrier) bool) []int {
	var out []int
	for k := range f.carriers {
		if o := &f.carriers[k]; o.kind == solid.PlaneFace && len(o.faces) > 0 && among(k, o) {
			out = append(out, k)
		}
	}
	return out
}

// candidates are the sizes that a drawing could state of what is loose: of single faces, and between two of which one
// is loose.
func (u *unknowns) candidates(loose [][]float64) []*candidate {
	f := &finding{unknowns: u, moves: make([]bool, len(u.carriers)), beside: map[int][]int{}}
	for i := range u.carriers {
		c := &u.carriers[i]
		f.moves[i] = slices.ContainsFunc(loose, func(v []float64) bool { return norm(v[c.first:c.first+len(c.ways)]) > 1e-3 })
	}
	f.faces()
	for _, circle := range u.circles() {
		if slices.ContainsFunc(circle.Faces(), func(face int) bool { return f.moves[u.of[face]] }) {
			f.add(circle...)
		}
	}
	for i := range u.carriers {
		switch c := &u.carriers[i]; {
		case len(c.faces) == 0:
		case c.kind == solid.PlaneFace && f.moves[i]:
			f.corners(i)
		case c.kind == solid.ConeFace:
			f.tapers(i)
		}
	}
	return f.out
}

// faces adds the sizes of single faces and of pairs of them.
func (f *finding) faces() {
	face := func(c int) []int { return f.carriers[c].faces[:1] }
	for i := range f.carriers {
		if len(f.carriers[i].faces) == 0 {
			continue
		}
		if f.moves[i] {
			f.add(face(i))
		}
		for k := range f.carriers[:i] {
			if (f.moves[i] || f.moves[k]) && len(f.carriers[k].faces) > 0 {
				f.add(face(k), face(i))
			}
		}
	}
}

// corners adds the distances from flat faces to the lines in which a flat face meets others at a slant.
func (f *finding) corners(c int) {
	own := f.carriers[c].faces[0]
	for _, beside := range f.slanting(c) {
		for _, k := range f.flats(func(k int, _ *carrier) bool { return k != c && k != f.of[beside] }) {
			f.add(f.carriers[k].faces[:1], []int{own, beside})
		}
	}
}

// tapers adds the distances from flat faces to the circles in which a cone meets others, and the circles in which it
// meets flat ones.
func (f *finding) tapers(c int) {
	cone := &f.carriers[c]
	for _, k := range f.flats(func(k int, o *carrier) bool {
		return (f.moves[c] || f.moves[k]) && o.dir.Parallel(cone.dir, onto)
	}) {
		for _, flat := range f.carriers[k].faces {
			f.add(cone.faces[:1], []int{flat})
		}
	}
	for _, beside := range f.rims(c) {
		for _, k := range f.flats(func(k int, o *carrier) bool {
			return (f.moves[c] || f.moves[k]) && o.dir.Parallel(cone.dir, onto)
		}) {
			f.add(f.carriers[k].faces[:1], []int{cone.faces[0], beside})
		}
	}
}

// rims are the round faces that a cone meets in a circle: where it begins or ends, which is where a drawing gives the
// place of a cone from (ISO 3040).
func (u *unknowns) rims(c int) []int {
	var out []int
	for _, f := range u.carriers[c].faces {
		for _, e := range u.g.Faces[f].Edges {
			for _, o := range u.g.Edges[e].Faces {
				if u.of[o] < 0 || u.of[o] == c || slices.Contains(out, o) {
					continue
				}
				if _, ok := u.g.Faces[f].Rim(u.g.Faces[o]); ok {
					out = append(out, o)
				}
			}
		}
	}
	return out
}

// circles are the holes of one size, three or more, that are evenly spaced around a round face: each with the largest
// face that they are around.
func (u *unknowns) circles() []characteristic.Place {
	var out []characteristic.Place
	for _, c := range u.bySize() {
		middle := &u.carriers[c]
		if middle.kind != solid.CylinderFace && middle.kind != solid.ConeFace || len(middle.faces) == 0 {
			continue
		}
		axis := u.g.Faces[middle.faces[0]]
		for i := range u.carriers {
			place := characteristic.Place{{middle.faces[0]}}
			for k := range u.carriers {
				if a, b := u.hole(i), u.hole(k); k >= i && a != nil && b != nil && math.Abs(a.Radius-b.Radius) < onto &&
					a.Axis.Parallel(b.Axis, onto) && b.Axis.Parallel(axis.Axis, onto) &&
					math.Abs(solid.FromAxis(a.Origin, axis.Origin, axis.Axis).Norm()-
						solid.FromAxis(b.Origin, axis.Origin, axis.Axis).Norm()) < onto {
					place = append(place, u.carriers[k].faces[:1])
				}
			}
			if len(place) < 4 {
				continue
			}
			known := slices.ContainsFunc(out, func(p characteristic.Place) bool {
				return slices.Contains(p[1:].Faces(), u.carriers[i].faces[0])
			})
			if !known && u.even(place) {
				out = append(out, place)
			}
		}
	}
	return out
}

// hole is the hollow round face of a carrier; nil where it has none.
func (u *unknowns) hole(c int) *solid.Face {
	if u.carriers[c].kind != solid.CylinderFace || len(u.carriers[c].faces) == 0 {
		return nil
	}
	if f := &u.g.Faces[u.carriers[c].faces[0]]; f.Hollow {
		return f
	}
	return nil
}

// slanting are the flat faces that a flat face meets at a slant: the line in which they meet is what a drawing gives of
// a slope (ISO 129-1 has theoretical corners for this).
func (u *unknowns) slanting(c int) []int {
	var out []int
	for _, f := range u.carriers[c].faces {
		for _, e := range u.g.Faces[f].Edges {
			for _, o := range u.g.Edges[e].Faces {
				s := math.Abs(u.g.Faces[o].Normal.Dot(u.g.Faces[f].Normal))
				if u.g.Faces[o].Kind == solid.PlaneFace && s > onto && s < 1-onto && !slices.Contains(out, o) {
					out = append(out, o)
				}
			}
		}
	}
	return out
}

// rank puts candidates in order: a size of a face alone before a distance, of one step before one from step to step,
// one that slants after those, and an angle last.
func (u *unknowns) rank(kind *characteristic.Kind, p characteristic.Place) int {
	faces := p.Faces()
	if len(faces) == 1 {
		return 1
	}
	if kind.Ring {
		return 2
	}
	out := 10
	if u.step(faces[0]) != u.step(faces[1]) {
		out += 4
	}
	if kind.Dim == quantity.Angle || len(faces) > len(p) {
		out += 6
	}
	if kind.Dim == quantity.Angle && !u.meeting(faces[0], faces[1]) {
		out += 3 // an angle is read where its sides meet
	}
	if u.g.Faces[faces[0]].Kind != solid.PlaneFace || u.g.Faces[faces[1]].Kind != solid.PlaneFace {
		out++
	}
	if u.slants(faces[0], faces[1]) {
		out += 8
	}
	return out
}

// meeting tells whether two faces have an edge in common.
func (u *unknowns) meeting(a, b int) bool {
	return slices.ContainsFunc(u.g.Faces[a].Edges, func(e int) bool { return slices.Contains(u.g.Edges[e].Faces, b) })
}

// slants tells whether the way from one axis to another is square to no flat face: a drawing gives both from such faces
// instead.
func (u *unknowns) slants(a, b int) bool {
	f, g := u.g.Faces[a], u.g.Faces[b]
	if f.Kind != solid.CylinderFace || g.Kind != solid.CylinderFace || !f.Axis.Parallel(g.Axis, onto) {
		return false
	}
	way := solid.FromAxis(g.Origin, f.Origin, f.Axis)
	return way.Norm() > onto && !slices.ContainsFunc(u.carriers, func(c carrier) bool {
		return c.kind == solid.PlaneFace && len(c.faces) > 0 && c.dir.Parallel(way.Unit(), onto)
	})
}

// repeat gives a size of one face the places at which other faces have the same size and lack it too: together they
// are stated once, as "n x".
func (u *unknowns) repeat(c *candidate, all []*candidate, loose []change) {
	if len(c.Places) != 1 || len(c.Places[0]) != 1 {
		return
	}
	own := u.g.Faces[c.Places[0][0][0]]
	size, err := c.kind.Measure(u.g, c.Places[0], characteristic.How{})
	if err != nil {
		return
	}
	for _, o := range all {
		if o == c || o.Kind != c.Kind || o.rank == proposedBefore || len(o.Places) != 1 || len(o.Places[0]) != 1 {
			continue
		}
		f := u.g.Faces[o.Places[0][0][0]]
		if f.Kind != own.Kind || f.Hollow != own.Hollow {
			continue
		}
		v, err := o.kind.Measure(u.g, o.Places[0], characteristic.How{})
		if err == nil && math.Abs(v-size) < onto &&
			slices.ContainsFunc(loose, func(v change) bool { return u.seeing(o, v) >= 0 }) {
			c.Places = append(c.Places, o.Places[0])
			c.rows, c.touches = append(c.rows, o.rows...), append(c.touches, o.touches...)
		}
	}
}

// step is the step of a model that made a face; the name of a face of a file says none.
func (u *unknowns) step(face int) string {
	if face < len(u.g.Names) && len(u.g.Names[face]) > 0 {
		step, _, _ := strings.Cut(u.g.Names[face][0], "/")
		return step
	}
	return ""
}
