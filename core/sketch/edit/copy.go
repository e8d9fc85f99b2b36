package edit

import (
	"math"
	"slices"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

// Copies stay copies: constraints tie each to its original, with exactly as many
// as the copy has unknowns, so that it neither floats nor says anything twice.
// That is why arcs are treated apart: an arc has a condition of its own (both
// ends at one distance from the centre), and a tie of its last point would
// repeat that.

// duplicate adds a copy of entities with their points moved by f, and gives the
// new name of each. Points in keep are shared with the original.
//
// Traced marks are not copied: a copy of a traced edge is drawn and not traced.
func (d *Draft) duplicate(ids []string, f func(sketch.Vec) sketch.Vec, keep map[string]bool) (names map[string]string,
	made []string) {
	names = map[string]string{}
	list := d.closure(ids)
	for _, id := range list { // points first
		e := *d.Entity(id)
		if e.Kind != sketch.KindPoint {
			continue
		}
		if keep[id] {
			names[id] = id
			continue
		}
		names[id] = d.Point(f(d.At(id)))
	}
	for _, id := range list {
		e := *d.Entity(id)
		if e.Kind == sketch.KindPoint {
			continue
		}
		e.Through, e.Poles, e.Knots = slices.Clone(e.Through), slices.Clone(e.Poles), slices.Clone(e.Knots)
		e.ID, e.Traced = "", nil
		e.Rename(names)
		names[id] = d.Add(e)
		made = append(made, names[id])
	}
	return names, made
}

// Mirror draws entities again on the other side of a line, symmetric to it.
// Points that lie on the line are shared.
//
// The image of p about a line through a along u is a + 2u(u·v) - v with v = p -
// a. A reflection turns an arc's sense round, so its ends are swapped to keep it
// counter-clockwise. A point on the line is its own image and becomes one point.
func (d *Draft) Mirror(ids []string, line string) (made []string, err error) {
	all, err := d.curves()
	if err != nil {
		return nil, err
	}
	axis := sketch.Curve{A: sketch.Vec{}, B: sketch.Vec{X: 1}}
	switch line {
	case sketch.XAxis:
	case sketch.YAxis:
		axis.B = sketch.Vec{Y: 1}
	default:
		i := slices.IndexFunc(all, func(c sketch.Curve) bool { return c.ID == line && c.Kind == sketch.KindLine })
		if i < 0 {
			return nil, refuse("things are mirrored about a line, and %s is none", d.call(line))
		}
		axis = all[i]
	}
	ids = slices.DeleteFunc(slices.Clone(ids), func(id string) bool { return id == line })
	if len(ids) == 0 {
		return nil, refuse("choose what is to be mirrored, and the line last")
	}
	u := axis.B.Sub(axis.A).Unit()
	image := func(p sketch.Vec) sketch.Vec {
		v := p.Sub(axis.A)
		return axis.A.Add(u.Scale(2 * v.Dot(u))).Sub(v)
	}
	keep := map[string]bool{}
	for _, id := range d.closure(ids) {
		if e := d.Entity(id); e.Kind == sketch.KindPoint && image(d.At(id)).Distance(d.At(id)) < 1e-6 {
			keep[id] = true
		}
	}
	names, made := d.duplicate(ids, image, keep)
	held := map[string]bool{}
	for _, to := range names {
		// A reflection turns the sense round; that of an elliptical arc goes with its
		// axes.
		if e := d.Entity(to); e.Kind == sketch.KindArc {
			e.Start, e.End = e.End, e.Start
		}
	}
	// An arc by itself is tied whole, so that its own condition is not said twice.
	for _, id := range d.closure(ids) {
		to, e := names[id], d.Entity(id)
		switch e.Kind {
		case sketch.KindArc:
			if !slices.ContainsFunc(e.Refs(), func(p string) bool { return keep[p] || held[p] }) {
				d.Constrain("symmetric", "", id, to, line)
				for _, p := range e.Refs() {
					held[p] = true
				}
			}
		case sketch.KindCircle:
			d.Constrain("equal", "", id, to)
		}
	}
	for _, id := range d.closure(ids) {
		if e := d.Entity(id); e.Kind == sketch.KindPoint && !keep[id] && !held[id] {
			d.Constrain("symmetric", "", id, names[id], line)
		}
	}
	return made, nil
}

// tie ties a copy to its original: from a first point that is placed already,
// every other point follows by guide lines or the copied lines themselves,
// parallel and equal to those of the original. same tells whether directions are
// kept too (a shift) or lengths alone tie (a turn).
func (d *Draft) tie(ids []string, names map[string]string, first string) {
	placed := map[string]bool{first: true}
	list := d.closure(ids)
	// Lines that lead from a placed point to one that is not.
	for grown := true; grown; {
		grown = false
		for _, id := range list {
			e := *d.Entity(id)
			if e.Kind != sketch.KindLine || placed[e.From] == placed[e.To] {
				continue
			}
			placed[e.From], placed[e.To], grown = true, true, true
			d.Constrain("parallel", "", id, names[id])
			d.Constrain("equal", "", id, names[id])
		}
		if grown {
			continue
		}
		for _, id := range list {
			if e := d.Entity(id); e.Kind == sketch.KindPoint && !placed[id] {
				placed[id], grown = true, true
				g, h := d.guide(first, id), d.guide(names[first], names[id])
				d.Constrain("parallel", "", g, h)
				// The last point of an arc keeps its distance from the centre by
				// the arc's own condition.
				own := false
				for _, c := range list {
					a := d.Entity(c)
					own = own || a.Kind == sketch.KindArc && a.End == id && a.Center == first && placed[a.Start]
				}
				if !own {
					d.Constrain("equal", "", g, h)
				}
				break
			}
		}
	}
	for _, id := range list {
		if d.Entity(id).Kind == sketch.KindCircle {
			d.Constrain("equal", "", id, names[id])
		}
	}
}

// firstPoint is the point by which a selection is placed: the centre of a first
// round curve, or its first point.
//
// A hole is placed by its centre and not by a point on it.
func (d *Draft) firstPoint(ids []string) (string, error) {
	for _, id := range d.closure(ids) {
		if e := d.Entity(id); e.Center != "" && e.Kind != sketch.KindPoint {
			return e.Center, nil
		}
	}
	for _, id := range d.closure(ids) {
		if d.Entity(id).Kind == sketch.KindPoint {
			return id, nil
		}
	}
	return "", refuse("choose what is to be copied first")
}

// Row copies entities in a row: count in all, each a step on from the last. The
// spacing is one size (formula) on the first of a chain of equal guide lines.
//
// The first spacing carries the size, with its formula; the other guide lines
// are equal and parallel to it. Changing the spacing is then one number, as on a
// drawing that says 5x 20 (ISO 129-1).
func (d *Draft) Row(ids []string, count int, step sketch.Vec, formula string) (made []string, err error) {
	if count < 2 || count > 200 {
		return nil, refuse("a row has 2 to 200 members, not %d", count)
	}
	if step.Norm() < 1e-9 {
		return nil, refuse("the members of a row stand apart: give a spacing greater than zero")
	}
	first, err := d.firstPoint(ids)
	if err != nil {
		return nil, err
	}
	last, lead := first, ""
	for k := 1; k < count; k++ {
		by := step.Scale(float64(k))
		names, more := d.duplicate(ids, func(p sketch.Vec) sketch.Vec { return p.Add(by) }, nil)
		made = append(made, more...)
		g := d.guide(last, names[first])
		switch {
		case lead != "":
			d.Constrain("parallel", "", lead, g)
			d.Constrain("equal", "", lead, g)
		default:
			lead = g
			d.Constrain("length", formula, g)
			switch {
			case math.Abs(step.Y) < 1e-9*math.Abs(step.X):
				d.Constrain("horizontal", "", g)
			case math.Abs(step.X) < 1e-9*math.Abs(step.Y):
				d.Constrain("vertical", "", g)
			default:
				d.Constrain("angle", angleFormula(math.Abs(sketch.Vec{}.AngleTo(step))), sketch.XAxis, g)
			}
		}
		last = names[first]
		d.tie(ids, names, first)
	}
	return made, nil
}

// Ring copies entities about a centre point: count in all, evenly over an angle
// in radians (a full turn when it is 2π; then the last is a step before the
// first). Every point of a copy stands at the radius of its original and an
// angle on.
//
// Angles are given from one spoke to the next, each with the step as its value;
// for a full turn as a formula (360 deg/6), so that the number of members can be
// read in it.
func (d *Draft) Ring(ids []string, count int, center string, angle float64) (made []string, err error) {
	if count < 2 || count > 200 {
		return nil, refuse("a ring has 2 to 200 members, not %d", count)
	}
	steps := float64(count)
	if math.Abs(angle) < 2*math.Pi-1e-9 {
		steps--
	}
	turn := angle / steps
	if math.Abs(turn) < 1e-9 || math.Abs(turn) >= math.Pi*2-1e-9 {
		return nil, refuse("give the angle that the ring covers, up to 360 deg")
	}
	m := d.At(center)
	keep := map[string]bool{center: true}
	points := slices.DeleteFunc(d.closure(ids), func(id string) bool {
		return d.Entity(id).Kind != sketch.KindPoint || id == center || d.At(id).Distance(m) < 1e-9
	})
	if len(points) == 0 {
		return nil, refuse("everything chosen stands in the centre of the ring")
	}
	value := angleFormula(math.Abs(turn))
	if math.Abs(angle) >= 2*math.Pi-1e-9 {
		value = "360 deg/" + quantity.FormatDecimal(steps, 0)
	}
	spokes := map[string]string{}
	for _, p := range points {
		spokes[p] = d.guide(center, p)
	}
	last := map[string]string{}
	for p, g := range spokes {
		last[p] = g
	}
	for k := 1; k < count; k++ {
		by := turn * float64(k)
		names, more := d.duplicate(ids, func(p sketch.Vec) sketch.Vec {
			return m.Polar(m.Distance(p), m.AngleTo(p)+by)
		}, keep)
		made = append(made, more...)
		done := map[string]bool{}
		for _, p := range points {
			g := d.guide(center, names[p])
			d.Constrain("angle", value, last[p], g)
			last[p] = g
			own := false // an arc's own condition gives the last of its points
			for _, id := range d.closure(ids) {
				a := d.Entity(id)
				own = own || a.Kind == sketch.KindArc && a.End == p && done[a.Start] && (done[a.Center] || a.Center == center)
			}
			if !own {
				d.Constrain("equal", "", spokes[p], g)
			}
			done[p] = true
		}
		for _, id := range d.closure(ids) {
			if d.Entity(id).Kind == sketch.KindCircle {
				d.Constrain("equal", "", id, names[id])
			}
		}
	}
	return made, nil
}
