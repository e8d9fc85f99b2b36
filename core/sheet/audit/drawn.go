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

// Words for what is read from a drawing.
const (
	parallel   = "parallel"
	square     = "square"
	coaxial    = "on one axis"
	tangent    = "tangent"
	inLine     = "in line"
	evenly     = "evenly spaced"
	drillPoint = "point of a drill"
	symmetric  = "symmetric"
	midway     = "through the middle" // a flat face, of the round one that it cuts in two
	centre     = "centre plane"       // where it lies, which is of no face
	asserted   = "stated"             // by a characteristic without a number
)

// plain is what anyone sees at a glance.
var plain = map[string]bool{parallel: true, square: true, tangent: true, asserted: true}

// refusals are the carriers of what an exercise does not want to be read. What is of faces that are gone is nothing.
func (u *unknowns) refusals(ex *exercise.Exercise) []evidence {
	var out []evidence
	for _, r := range ex.Refused {
		var of []int
		for _, ref := range r.Of {
			if list := u.g.Named(ref.Name); len(list) > 0 && u.of[list[0]] >= 0 {
				of = append(of, u.of[list[0]])
			}
		}
		if len(of) == 2 {
			out = append(out, evidence{r.What, of[0], of[1]})
		}
	}
	return out
}

// allowed leaves out what is refused.
func (u *unknowns) allowed(list []drawn, refused []evidence) []drawn {
	return slices.DeleteFunc(list, func(d drawn) bool {
		return slices.Contains(refused, d.why) || slices.Contains(refused, evidence{d.why.what, d.why.b, d.why.a})
	})
}

// read collects what is read from the drawing, but for what is refused.
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
	out = u.allowed(out, u.refusals(ex))
	for i := range ex.Characteristics { // what is stated cannot be refused
		c := &ex.Characteristics[i]
		places, err := u.placesOf(c)
		if err != nil {
			continue // told with the characteristic
		}
		for _, p := range places {
			for _, d := range u.asserted(c.Declared().Holds, p) {
				d.why.what = asserted
				out = append(out, d)
			}
		}
	}
	return out
}

// directions reads parallel and square: directions that are parallel form a class, of which the others follow the
// largest, and classes that are square to one another stay so.
func (u *unknowns) directions() []drawn {
	var out []drawn
	var leaders []int
	for _, c := range u.bySize() {
		dir := u.carriers[c].dir
		if dir == (solid.Vec{}) || len(u.carriers[c].faces) == 0 {
			continue
		}
		k := slices.IndexFunc(leaders, func(l int) bool { return u.carriers[l].dir.Parallel(dir, onto) })
		if k >= 0 {
			out = append(out, u.aligned(c, leaders[k])...)
			continue
		}
		for _, l := range leaders {
			out = append(out, u.aligned(c, l)...)
		}
		leaders = append(leaders, c)
	}
	return out
}

// aligned are the rows by which two directions that are parallel or square to one another stay so.
func (u *unknowns) aligned(a, b int) []drawn {
	x, y := u.carriers[a].dir, u.carriers[b].dir
	switch {
	case math.Abs(x.Dot(y)) < onto:
		row := u.row()
		u.putTurn(row, a, y)
		u.putTurn(row, b, x)
		return []drawn{{row, evidence{square, a, b}}}
	case !x.Parallel(y, onto):
		return nil
	}
	sign := math.Copysign(1, x.Dot(y))
	p := x.Perpendicular()
	var out []drawn
	for _, across := range []solid.Vec{p, x.Cross(p)} {
		row := u.row()
		u.putTurn(row, a, across)
		u.putTurn(row, b, across.Scale(-sign))
		out = append(out, drawn{row, evidence{parallel, a, b}})
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
			out = append(out, u.onAxis(a, b)...)
			break
		}
	}
	return out
}

// onAxis are the rows by which what is on one axis, or about one centre, stays there.
func (u *unknowns) onAxis(a, b int) []drawn {
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
	at := y.at
	if y.dir != (solid.Vec{}) && x.dir == (solid.Vec{}) {
		at = x.at
	}
	var out []drawn
	for _, along := range ways {
		row := u.row()
		u.putShift(row, b, at, along)
		u.putShift(row, a, at, along.Scale(-1))
		out = append(out, drawn{row, evidence{coaxial, a, b}})
	}
	return out
}

// asserted are the rows of a characteristic without a number: that two directions keep how they stand, that two are on
// one axis, that one middle is another.
func (u *unknowns) asserted(holds characteristic.Holds, p characteristic.Place) []drawn {
	var c []int
	for _, f := range p.Faces() {
		if u.of[f] < 0 {
			return nil
		}
		c = append(c, u.of[f])
	}
	switch {
	case holds == characteristic.Directions && len(c) == 2:
		return u.aligned(c[0], c[1])
	case holds == characteristic.Axes && len(c) == 2 && u.sameMiddle(c[0], c[1]):
		return u.onAxis(c[0], c[1])
	case holds == characteristic.Middles && len(c) >= 3:
		return []drawn{{u.middleRow(c), evidence{symmetric, c[0], c[1]}}}
	}
	return nil
}

// middleRow is how far the middle of the first two carriers is from that of the others, along the normal of the first
// two, or from axis to axis. All are taken at one level, and planes where the axes are, so that nothing but that
// distance counts; where all are axes the direction turns with the first two.
func (u *unknowns) middleRow(c []int) []float64 {
	first, second := &u.carriers[c[0]], &u.carriers[c[1]]
	n := first.dir
	if first.round() {
		n = solid.FromAxis(second.at, first.at, n).Unit()
	}
	middle := first.at.Add(second.at).Scale(0.5)
	if k := slices.IndexFunc(c, func(i int) bool { return u.carriers[i].round() }); k >= 2 {
		middle = u.carriers[c[k]].at
	}
	level := func(x *carrier) solid.Vec {
		if x.round() {
			return x.at.Sub(x.dir.Scale(x.at.Sub(middle).Dot(x.dir)))
		}
		return middle.Add(n.Scale(x.at.Sub(middle).Dot(n)))
	}
	row := u.row()
	var apart solid.Vec // of the two middles
	for i, x := range c {
		at, share := level(&u.carriers[x]), 0.5
		if i >= 2 {
			share = -1 / float64(len(c)-2)
		}
		u.putShift(row, x, at, n.Scale(share))
		apart = apart.Add(at.Scale(share))
	}
	if across := apart.Sub(n.Scale(apart.Dot(n))); first.round() {
		p, q := level(first), level(second)
		across = across.Scale(1 / q.Distance(p))
		u.putShift(row, c[1], q, across)
		u.putShift(row, c[0], p, across.Scale(-1))
	} else {
		u.putTurn(row, c[0], across)
	}
	return row
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
		for _, p := range e.Places() {
			row := u.row()
			n := u.carriers[a].normal(p)
			u.put(row, a, 1, func(w way) float64 { return u.carriers[a].moved(w, p, n) })
			u.put(row, b, -1, func(w way) float64 { return u.carriers[b].moved(w, p, n) })
			out = append(out, drawn{row, evidence{tangent, a, b}})
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
			out = append(out, drawn{u.sizeRow(i, open), evidence{drillPoint, u.of[i], u.of[bore]}})
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
				out = append(out, drawn{row, evidence{inLine, a, b}})
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
		if len(p) < 2 || len(p[1:].Faces()) < 3 || slices.ContainsFunc(p.Faces(), u.shapelessFace) || !u.even(p) {
			continue
		}
		gaps := u.gapRows(p)
		for i := 1; i < len(gaps); i++ {
			subtract(gaps[i-1], gaps[i], 1)
			out = append(out, drawn{gaps[i-1], evidence{evenly, u.of[p[0][0]], u.of[p[1][0]]}})
		}
		// The last gap closes the round: the sum of all is a whole turn.
		last := gaps[len(gaps)-1]
		for _, g := range u.gapRows(p) {
			subtract(last, g, -1)
		}
		out = append(out, drawn{last, evidence{evenly, u.of[p[0][0]], u.of[p[1][0]]}})
	}
	return out
}

// shapelessFace tells whether a face lies on no carrier.
func (u *unknowns) shapelessFace(f int) bool { return u.of[f] < 0 }

// even tells whether features stand at equal angles around a middle.
func (u *unknowns) even(p characteristic.Place) bool {
	angle := u.angles(p[0][0])
	var angles []float64
	for _, f := range p[1:].Faces() {
		angles = append(angles, angle(f))
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
