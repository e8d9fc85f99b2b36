package audit

import (
	"math"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// drawn are the rows of what is always read from a drawing without being stated (ISO 129-1 has no dimension for what is
// drawn parallel, square, tangent or on one axis): each with its evidence.
type drawn struct {
	row []float64
	why evidence
}

// evidence is what a row was read from: the faces, and what they are to one another.
type evidence struct {
	what string
	a, b int // carriers
}

// read collects what is read from the drawing.
func (u *unknowns) read(ex *exercise.Exercise) []drawn {
	var out []drawn
	out = append(out, u.directions()...)
	out = append(out, u.coaxial()...)
	out = append(out, u.tangent()...)
	out = append(out, u.drillPoints()...)
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		places, err := u.placesOf(c)
		if err != nil {
			continue // told with the characteristic
		}
		out = append(out, u.inLine(c.Declared(), places)...)
		if !spaced(ex, c) {
			out = append(out, u.evenly(c.Declared(), places)...)
		}
	}
	return out
}

// directions reads parallel and square: directions that are parallel form a class, of which the others follow the
// largest, and classes that are square to one another stay so.
func (u *unknowns) directions() []drawn {
	var out []drawn
	var leaders []int
	order := make([]int, len(u.carriers))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return int(math.Copysign(1,
			u.carriers[b].area-u.carriers[a].area))
	})
	for _, c := range order {
		dir := u.carriers[c].dir
		if dir == (solid.Vec{}) || len(u.carriers[c].faces) == 0 {
			continue
		}
		k := slices.IndexFunc(leaders, func(l int) bool { return u.carriers[l].dir.Parallel(dir, onto) })
		if k < 0 {
			for _, l := range leaders {
				if math.Abs(u.carriers[l].dir.Dot(dir)) < onto {
					row := u.row()
					u.putTurn(row, c, u.carriers[l].dir)
					u.putTurn(row, l, dir)
					out = append(out, drawn{row, evidence{"square", c, l}})
				}
			}
			leaders = append(leaders, c)
			continue
		}
		l := leaders[k]
		sign := math.Copysign(1, dir.Dot(u.carriers[l].dir))
		x := dir.Perpendicular()
		for _, across := range []solid.Vec{x, dir.Cross(x)} {
			row := u.row()
			u.putTurn(row, c, across)
			u.putTurn(row, l, across.Scale(-sign))
			out = append(out, drawn{row, evidence{"parallel", c, l}})
		}
	}
	return out
}

// round tells whether a carrier has a middle: an axis or a centre.
func (c *carrier) round() bool { return c.kind != solid.PlaneFace }

// coaxial reads what is on one axis, or about one centre.
func (u *unknowns) coaxial() []drawn {
	var out []drawn
	for b := range u.carriers {
		if !u.carriers[b].round() {
			continue
		}
		for a := range b {
			if !u.sameMiddle(a, b) {
				continue
			}
			x, y := &u.carriers[a], &u.carriers[b]
			ways := []solid.Vec{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}
			if x.dir != (solid.Vec{}) || y.dir != (solid.Vec{}) {
				axis := x.dir
				if axis == (solid.Vec{}) {
					axis = y.dir
				}
				p := axis.Perpendicular()
				ways = []solid.Vec{p, axis.Cross(p)}
			}
			for _, along := range ways {
				row := u.row()
				at := y.at
				if y.dir != (solid.Vec{}) && x.dir == (solid.Vec{}) {
					at = x.at
				}
				u.putShift(row, b, at, along)
				u.putShift(row, a, at, along.Scale(-1))
				out = append(out, drawn{row, evidence{"on one axis", a, b}})
			}
			break
		}
	}
	return out
}

// sameMiddle tells whether two round carriers are on one axis, or about one centre.
func (u *unknowns) sameMiddle(a, b int) bool {
	x, y := &u.carriers[a], &u.carriers[b]
	if !x.round() {
		return false
	}
	none := solid.Vec{}
	switch {
	case x.dir == none && y.dir == none:
		return x.at.Distance(y.at) < onto
	case x.dir == none:
		x, y = y, x
	}
	return (y.dir == none || x.dir.Parallel(y.dir, onto)) && solid.FromAxis(y.at, x.at, x.dir).Norm() < onto
}

// tangent reads that faces run smoothly into one another: along their edge both move alike across it.
func (u *unknowns) tangent() []drawn {
	var out []drawn
	for _, e := range u.g.Edges {
		if !e.Smooth || e.Seam || e.Degenerate || len(e.Faces) != 2 {
			continue
		}
		a, b := u.of[e.Faces[0]], u.of[e.Faces[1]]
		if a < 0 || b < 0 || a == b {
			continue
		}
		for _, p := range points(e) {
			row := u.row()
			n := u.carriers[a].normal(p)
			u.put(row, a, 1, func(w way) float64 { return u.carriers[a].moved(w, p, n) })
			u.put(row, b, -1, func(w way) float64 { return u.carriers[b].moved(w, p, n) })
			out = append(out, drawn{row, evidence{"tangent", a, b}})
		}
	}
	return out
}

// drillPoints reads the angle of the point that a drill leaves: it is drawn at about 120 degrees and not dimensioned
// (common practice, no source).
func (u *unknowns) drillPoints() []drawn {
	var out []drawn
	for i, f := range u.g.Faces {
		if f.Kind != solid.ConeFace || !f.Hollow {
			continue
		}
		apex, bore := false, -1
		for _, e := range f.Edges {
			x := u.g.Edges[e]
			apex = apex || x.Degenerate
			for _, o := range x.Faces {
				if o != i && u.g.Faces[o].Kind == solid.CylinderFace && u.g.Faces[o].Hollow {
					bore = o
				}
			}
		}
		if bore >= 0 && (apex || len(f.Edges) <= 2) && u.of[bore] >= 0 {
			out = append(out, drawn{u.sizeRow(i, open), evidence{"point of a drill", u.of[i], u.of[bore]}})
		}
	}
	return out
}

// inLine reads that equal features which are drawn in a row, along or across a flat face, are in one line: they are
// stated together.
func (u *unknowns) inLine(kind *characteristic.Kind, places []characteristic.Place) []drawn {
	var all []int
	for _, p := range places {
		for _, f := range p.Faces() {
			if c := u.of[f]; c >= 0 && u.carriers[c].kind == solid.CylinderFace && !slices.Contains(all, c) {
				all = append(all, c)
			}
		}
	}
	if len(places) < 2 && !(kind.Scope == characteristic.Together) {
		return nil
	}
	var out []drawn
	for i, b := range all {
		for _, a := range all[:i] {
			x, y := &u.carriers[a], &u.carriers[b]
			if !x.dir.Parallel(y.dir, onto) {
				continue
			}
			d := solid.FromAxis(y.at, x.at, x.dir)
			for k, l := range u.carriers {
				if l.kind != solid.PlaneFace || len(l.faces) == 0 || math.Abs(l.dir.Dot(x.dir)) > onto ||
					math.Abs(d.Dot(l.dir)) > onto ||
					d.Norm() < onto {
					continue
				}
				row := u.row()
				u.putShift(row, b, y.at, l.dir)
				u.putShift(row, a, y.at, l.dir.Scale(-1))
				u.putTurn(row, k, d)
				out = append(out, drawn{row, evidence{"in line", a, b}})
				break
			}
		}
	}
	return out
}

// spaced tells whether the angle between the features of a circle is stated by another characteristic.
func spaced(ex *exercise.Exercise, circle *exercise.Characteristic) bool {
	return slices.ContainsFunc(ex.Characteristics, func(c exercise.Characteristic) bool {
		k := c.Declared()
		return k.Around && k.Line == characteristic.NoLine && len(c.Of) > 0 && len(circle.Of) > 0 &&
			len(c.Of[0]) > 1 && len(circle.Of[0]) > 1 && c.Of[0][1] == circle.Of[0][1]
	})
}

// evenly reads that the features of a circle are evenly spaced where they are: that is what "n x" on a circle says.
func (u *unknowns) evenly(kind *characteristic.Kind, places []characteristic.Place) []drawn {
	if !kind.Ring {
		return nil
	}
	var out []drawn
	for _, p := range places {
		if len(p) < 2 || len(p[1:].Faces()) < 3 || !u.even(p) {
			continue
		}
		gaps := u.gapRows(p)
		for i := 1; i < len(gaps); i++ {
			subtract(gaps[i-1], gaps[i], 1)
			out = append(out, drawn{gaps[i-1], evidence{"evenly spaced", u.of[p[0][0]], u.of[p[1][0]]}})
		}
		// The last gap closes the round: the sum of all is a whole turn.
		last := gaps[len(gaps)-1]
		for _, g := range u.gapRows(p) {
			subtract(last, g, -1)
		}
		out = append(out, drawn{last, evidence{"evenly spaced", u.of[p[0][0]], u.of[p[1][0]]}})
	}
	return out
}

// even tells whether features stand at equal angles around a middle.
func (u *unknowns) even(p characteristic.Place) bool {
	axis := u.g.Faces[p[0][0]]
	x := axis.Axis.Perpendicular()
	y := axis.Axis.Cross(x)
	var angles []float64
	for _, f := range p[1:].Faces() {
		d := u.g.Faces[f].Origin.Sub(axis.Origin)
		angles = append(angles, math.Atan2(d.Dot(y), d.Dot(x)))
	}
	slices.Sort(angles)
	for i := range angles {
		gap := angles[(i+1)%len(angles)] - angles[i]
		if math.Abs(math.Remainder(gap-2*math.Pi/float64(len(angles)), 2*math.Pi)) > onto {
			return false
		}
	}
	return true
}
