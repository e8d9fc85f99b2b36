package audit

import (
	"math"
	"slices"
	"sort"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
)

// step is how far a surface is moved to see how a measure follows, in shares of the lever: its square is far below
// what counts, and the measure's own noise far below the step.
const step = 2e-6

// noise is what rounding leaves, of the largest number of such a row, where a measure does not follow.
const noise = 1e-6

// statedRows are the rows of a characteristic: what it measures at each of its places, by the same measure as the
// check has. A kind that is no size has none.
func (u *unknowns) statedRows(c *exercise.Characteristic, places []characteristic.Place) ([][]float64, error) {
	kind := c.Declared()
	var out [][]float64
	switch {
	case kind.From != nil: // its exact sizes
		for _, p := range places {
			for _, from := range p[1:] {
				row, err := u.measured(kind.From, characteristic.Place{p[0], from}, characteristic.How{})
				if err != nil {
					return nil, err
				}
				out = append(out, row)
			}
		}
		return out, nil
	case kind.Whole() || kind.Counts || kind.Zero() || kind.Datum:
		return nil, nil
	case kind.Worded(): // a thread: the bore or shank that it is modelled as
		for _, p := range places {
			out = append(out, u.sizeRow(p.Faces()[0], grow))
		}
		return out, nil
	case kind.Around && kind.Line == characteristic.NoLine && len(places) > 0 && len(kind.Repeated(places[0])) > 0 &&
		!u.startsAtFace(places[0]):
		for _, p := range places {
			out = append(out, u.gapRows(p)...)
		}
		return out, nil
	}
	for _, p := range places {
		for _, one := range u.single(kind, p) {
			row, err := u.measured(kind, one, c.How())
			if err != nil {
				return nil, err
			}
			out = append(out, row)
		}
		if kind.Bevel { // a chamfer: its angle of 45 degrees is stated with its leg
			out = append(out, u.bevelRow(p[0][0]))
		}
	}
	return out, nil
}

// startsAtFace tells whether the second operand is a flat face from which an angle is counted.
func (u *unknowns) startsAtFace(p characteristic.Place) bool {
	return len(p) > 2 && u.g.Faces[p[1][0]].Kind == solid.PlaneFace
}

// single splits a place that is measured over several features at once into places of one each, of which each has the
// same value: the holes of a circle, the neighbours of a row, and of an angle from a face the hole nearest to it.
func (u *unknowns) single(kind *characteristic.Kind, p characteristic.Place) []characteristic.Place {
	if kind.Repeated == nil || kind.Scope != characteristic.Together {
		return []characteristic.Place{p}
	}
	repeated := kind.Repeated(p)
	if !kind.Around {
		sorted := u.inRow(repeated)
		var out []characteristic.Place
		for i := 1; i < len(sorted); i++ {
			out = append(out, characteristic.Place{sorted[i-1 : i], sorted[i : i+1]})
		}
		return out
	}
	from := slices.IndexFunc(p, func(o []int) bool { return len(o) > 0 && slices.Contains(repeated, o[0]) })
	var out []characteristic.Place
	for _, f := range repeated {
		out = append(out, append(slices.Clone(p[:from]), []int{f}))
	}
	if !u.startsAtFace(p) {
		return out
	}
	least, first := math.Inf(1), 0
	for i, one := range out {
		if v, err := kind.Measure(u.g, one, characteristic.How{}); err == nil && v < least-1e-9 {
			least, first = v, i
		}
	}
	return out[first : first+1]
}

// inRow puts faces in the order in which they stand along the line through the two that are farthest apart.
func (u *unknowns) inRow(faces []int) []int {
	at := func(f int) solid.Vec { return u.g.Faces[f].Locus().At }
	var dir solid.Vec
	for _, a := range faces {
		for _, b := range faces {
			d := at(b).Sub(at(a))
			if f := u.g.Faces[a]; f.Kind != solid.PlaneFace {
				d = d.Sub(f.Axis.Scale(d.Dot(f.Axis)))
			}
			if d.Norm() > dir.Norm() {
				dir = d
			}
		}
	}
	out := slices.Clone(faces)
	sort.Slice(out, func(i, k int) bool { return at(out[i]).Dot(dir) < at(out[k]).Dot(dir) })
	return out
}

// gapRows are the angles between neighbours around an axis: each is stated.
func (u *unknowns) gapRows(p characteristic.Place) [][]float64 {
	middle, holes := p[0][0], slices.Clone(p[1:].Faces())
	axis := u.g.Faces[middle]
	angle := u.angles(middle)
	sort.Slice(holes, func(i, k int) bool { return angle(holes[i]) < angle(holes[k]) })
	var out [][]float64
	for i := 1; i < len(holes); i++ {
		row := u.row()
		for k, sign := range []float64{-1, 1} {
			f := u.g.Faces[holes[i-1+k]]
			arm := solid.FromAxis(f.Origin, axis.Origin, axis.Axis)
			round := axis.Axis.Cross(arm).Scale(sign / arm.Dot(arm))
			at := f.Origin
			u.putShift(row, u.of[holes[i-1+k]], at, round)
			u.putShift(row, u.of[middle], at, round.Scale(-1))
		}
		out = append(out, row)
	}
	return out
}

// angles gives at which angle around the axis of a face another one stands.
func (u *unknowns) angles(middle int) func(f int) float64 {
	axis := u.g.Faces[middle]
	x := axis.Axis.Perpendicular()
	y := axis.Axis.Cross(x)
	return func(f int) float64 {
		d := u.g.Faces[f].Origin.Sub(axis.Origin)
		return math.Atan2(d.Dot(y), d.Dot(x))
	}
}

// putShift adds to a row how far what is fixed to a carrier moves at a place, along a vector.
func (u *unknowns) putShift(row []float64, c int, at, along solid.Vec) {
	u.put(row, c, 1, func(w way) float64 { return along.Dot(w.shift.Add(w.turn.Cross(at.Sub(u.carriers[c].at)))) })
}

// putTurn adds to a row how far the direction of a carrier leans, along a vector.
func (u *unknowns) putTurn(row []float64, c int, along solid.Vec) {
	u.put(row, c, 1, func(w way) float64 { return along.Dot(w.turn.Cross(u.carriers[c].dir)) })
}

// sizeRow is a size of the carrier of a face alone.
func (u *unknowns) sizeRow(face int, kind wayKind) []float64 {
	row := u.row()
	if c := u.of[face]; c >= 0 {
		u.put(row, c, 1, func(w way) float64 {
			if w.kind == kind {
				return 1
			}
			return 0
		})
	}
	return row
}

// bevelRow is the angle of a bevel: that of a cone, or of a flat one to the largest flat face beside it.
func (u *unknowns) bevelRow(face int) []float64 {
	if u.g.Faces[face].Kind == solid.ConeFace {
		return u.sizeRow(face, open)
	}
	row := u.row()
	best := characteristic.BevelOf(u.g, face)
	if best >= 0 && u.of[face] >= 0 {
		a, b := u.of[face], u.of[best]
		u.putTurn(row, a, u.carriers[b].dir)
		u.putTurn(row, b, u.carriers[a].dir)
	}
	return row
}

// measured is how a measure at a place follows the unknowns, by small steps to both sides.
func (u *unknowns) measured(kind *characteristic.Kind, p characteristic.Place, how characteristic.How) ([]float64,
	error) {
	row := u.row()
	if _, err := kind.Measure(u.g, p, how); err != nil {
		return nil, err
	}
	h := step * u.lever
	faces := p.Faces()
	for _, c := range u.around(faces) {
		for k, w := range u.carriers[c].ways {
			var ends [2]float64
			for i, side := range []float64{-h, h} {
				u.change(c, w, side, faces)
				v, err := kind.Measure(&u.trial, p, how)
				u.restore(c, faces)
				if err != nil {
					return nil, err
				}
				ends[i] = v
			}
			row[u.carriers[c].first+k] = (ends[1] - ends[0]) / (2 * h)
		}
	}
	_, most := furthest(row)
	for i, x := range row {
		if math.Abs(x) < noise*math.Abs(most) {
			row[i] = 0
		}
	}
	return row, nil
}

// around are the carriers of faces and of those that they have an edge with.
func (u *unknowns) around(faces []int) []int {
	var out []int
	see := func(f int) {
		if c := u.of[f]; c >= 0 && !slices.Contains(out, c) {
			out = append(out, c)
		}
	}
	for _, f := range faces {
		see(f)
		for _, e := range u.g.Faces[f].Edges {
			for _, other := range u.g.Edges[e].Faces {
				see(other)
			}
		}
	}
	return out
}

// change changes a carrier a little in the trial geometry, with the edges of some of the faces.
func (u *unknowns) change(c int, w way, h float64, faces []int) {
	for _, f := range u.carriers[c].faces {
		u.trial.Faces[f] = u.carriers[c].change(u.g.Faces[f], w, h)
	}
	for _, f := range faces {
		for _, e := range u.g.Faces[f].Edges {
			x := u.g.Edges[e]
			if slices.ContainsFunc(x.Faces, func(side int) bool { return u.of[side] == c }) {
				u.trial.Edges[e] = u.follows(x, c, w, h)
			}
		}
	}
}

// restore takes a change of a carrier back.
func (u *unknowns) restore(c int, faces []int) {
	for _, f := range u.carriers[c].faces {
		u.trial.Faces[f] = u.g.Faces[f]
	}
	for _, f := range faces {
		for _, e := range u.g.Faces[f].Edges {
			u.trial.Edges[e] = u.g.Edges[e]
		}
	}
}

// follows is an edge after a small change of one of the two carriers that meet in it: each of its places moves across
// the edge by the least that keeps it on both.
func (u *unknowns) follows(e solid.Edge, c int, w way, h float64) solid.Edge {
	move := func(p solid.Vec) solid.Vec {
		own := u.carriers[c].normal(p)
		far := h * u.carriers[c].moved(w, p, own)
		for _, f := range e.Faces {
			o := u.of[f]
			if o < 0 || o == c {
				continue
			}
			across := u.carriers[o].normal(p)
			if s := own.Dot(across); 1-s*s > 1e-6 {
				return p.Add(own.Sub(across.Scale(s)).Scale(far / (1 - s*s)))
			}
		}
		return p.Add(own.Scale(far))
	}
	if e.Kind == solid.CircleEdge {
		at := e.Places()
		a, b, d := move(at[0]), move(at[1]), move(at[2])
		e.Center, e.Radius, e.Axis = circle(a, b, d, e.Axis)
	}
	e.A, e.Mid, e.B = move(e.A), move(e.Mid), move(e.B)
	return e
}

// circle is the circle through three places, with an axis on the side of another one.
func circle(a, b, d, axis solid.Vec) (centre solid.Vec, radius float64, along solid.Vec) {
	p, q := b.Sub(a), d.Sub(a)
	n := p.Cross(q)
	s := 1 / (2 * n.Dot(n))
	to := n.Cross(p).Scale(q.Dot(q) * s).Add(q.Cross(n).Scale(p.Dot(p) * s))
	along = n.Unit()
	if along.Dot(axis) < 0 {
		along = along.Scale(-1)
	}
	return a.Add(to), to.Norm(), along
}

// placesOf are the places of a characteristic on the part.
func (u *unknowns) placesOf(c *exercise.Characteristic) ([]characteristic.Place, error) {
	if c.Declared().Whole() {
		return nil, nil
	}
	return inspect.Places(u.g, c)
}
