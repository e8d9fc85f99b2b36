package edit

import (
	"math"
	"slices"

	"hammerset/core/sketch"
)

// Editing keeps what the drawing says as far as it can be kept: sizes go on
// holding what they held, on guide lines if need be, and curves that are cut
// stay tied to what cut them. Every function works on the solved places and
// changes the draft only; the caller solves it afterwards, and a refusal leaves
// the draft to be thrown away.

// extent are the kinds of constraints that mean where a line ends, and not only
// how it lies.
var extent = []string{"length", "equal", "midpoint", "symmetric", "horizontal-distance", "vertical-distance"}

// keepWhole puts the constraints that mean a line's whole extent on a guide line
// between its old ends, so that they go on holding what they held. It gives the
// guide line, if one was needed.
//
// A line of 40 mm that is trimmed to 25 mm still has its 40 mm, now on the guide
// line: otherwise the size would pull the trimmed end back to where it was.
func (d *Draft) keepWhole(id string) (guide string) {
	e := *d.Entity(id)
	if e.Kind != sketch.KindLine {
		return ""
	}
	whole := slices.ContainsFunc(d.Constraints, func(k sketch.Constraint) bool {
		return slices.Contains(extent, k.Kind) && slices.Contains(k.Of, id)
	})
	if !whole {
		return ""
	}
	guide = d.guide(e.From, e.To)
	d.retarget(id, guide, extent...)
	return guide
}

// endOn makes a new point at a place on another curve.
//
// The point is held on the other curve by a constraint, which is what the
// trimming meant. An end of the other curve at that place is used as it is: a
// point of its own would be held twice.
func (d *Draft) endOn(at sketch.Vec, with string) string {
	w := d.Entity(with)
	if w != nil {
		for _, p := range w.Refs() { // where the other curve ends or has a point, that is it
			if d.At(p).Distance(at) < meeting(at) && (p == w.From || p == w.To || p == w.Start || p == w.End) {
				return p
			}
		}
	}
	p := d.Point(at)
	if w != nil {
		d.Constrain("on-curve", "", p, with)
	}
	return p
}

// meeting is how far apart places are that are one: where two curves touch, the place of
// touching is known to the square root of what other crossings are.
func meeting(at sketch.Vec) float64 { return 1e-5 * math.Max(10, at.Norm()) }

// around finds the crossings next to a parameter on either side.
//
// Crossings come in order, so that the last before and the first after are the
// next.
func around(list []sketch.Crossing, t, slack float64) (before, after *sketch.Crossing) {
	for i := range list {
		switch c := &list[i]; {
		case c.T < t-slack:
			before = c
		case c.T > t+slack && after == nil:
			after = c
		}
	}
	return before, after
}

// bounds finds the crossings between which a place on curve i lies, among those that
// divide it (inner), in order along it. Of an open curve a piece at an end has one of them;
// of a closed one the piece may run through its start.
//
// The parameter of the nearest place is brought into the turn that begins at the
// curve's start, in which the crossings are counted too. Crossings at the ends
// of an open curve divide nothing.
func bounds(all []sketch.Curve, i int, at sketch.Vec) (before, after *sketch.Crossing, inner []sketch.Crossing) {
	c := &all[i]
	t, _ := c.Nearest(at)
	lo, hi := c.Range()
	if c.Closed() || c.Kind == sketch.KindArc || c.Kind == sketch.KindEllArc {
		for t < lo {
			t += 2 * math.Pi
		}
		for t > lo+2*math.Pi {
			t -= 2 * math.Pi
		}
	}
	slack := 1e-7 * (hi - lo)
	for _, x := range sketch.Crossings(all, i, false) {
		inside := x.T > lo+slack && x.T < hi-slack && x.At.Distance(c.A) > meeting(x.At) && x.At.Distance(c.B) > meeting(x.At)
		if c.Closed() || inside {
			inner = append(inner, x)
		}
	}
	before, after = around(inner, t, slack)
	return before, after, inner
}

// TrimPiece gives the part of a solved curve that Trim would take away at a place; false
// where it would refuse.
//
// The interface shows it before the button is pressed, and asks this function so
// that what is shown is what goes.
func TrimPiece(all []sketch.Curve, i int, at sketch.Vec) (lo, hi float64, ok bool) {
	c := &all[i]
	lo, hi = c.Range()
	before, after, inner := bounds(all, i, at)
	if c.Closed() && c.Kind != sketch.KindSpline {
		if len(inner) == 1 {
			return lo, hi, false
		}
		if len(inner) > 1 && before == nil {
			before = &sketch.Crossing{T: inner[len(inner)-1].T - 2*math.Pi}
		}
		if len(inner) > 1 && after == nil {
			after = &sketch.Crossing{T: inner[0].T + 2*math.Pi}
		}
	}
	if before != nil {
		lo = before.T
	}
	if after != nil {
		hi = after.T
	}
	return lo, hi, true
}

// Trim removes the piece of a curve at a place, as far as the next crossing with
// another curve on either side. With no crossing at all the whole curve goes.
//
// A circle that loses a piece becomes an arc, and its radius stays where the
// constraint on it has it. A line cut in its middle becomes two on one line. An
// elliptical arc runs from start to end in the sense from its major to its minor
// axis, which may be clockwise: then its ends are swapped.
func (d *Draft) Trim(id string, at sketch.Vec) error {
	all, i, err := d.curve(id)
	if err != nil {
		return err
	}
	c := &all[i]
	before, after, inner := bounds(all, i, at)
	e := *d.Entity(id)
	switch c.Kind {
	case sketch.KindSpline:
		if before == nil && after == nil {
			d.Remove(id)
			return nil
		}
		d.trimSpline(id, c, before, after)
		return nil
	case sketch.KindCircle, sketch.KindEllipse:
		if len(inner) == 0 {
			d.Remove(id)
			return nil
		}
		if len(inner) < 2 {
			return refuse("%s crosses one other curve in one place only: nothing bounds the piece to be taken out",
				d.call(id))
		}
		// Between the last and the first crossing the curve runs through its start.
		if before == nil {
			before = &inner[len(inner)-1]
		}
		if after == nil {
			after = &inner[0]
		}
		start, end := d.endOn(after.At, after.With), d.endOn(before.At, before.With)
		n := d.Entity(id)
		n.Start, n.End = start, end
		if c.Kind == sketch.KindCircle {
			n.Kind, n.Radius = sketch.KindArc, 0
		} else {
			n.Kind = sketch.KindEllArc
			if m, q := d.At(e.Major).Sub(d.At(e.Center)), d.At(e.Minor).Sub(d.At(e.Center)); m.Cross(q) < 0 {
				n.Start, n.End = end, start
			}
		}
		return nil
	}
	if before == nil && after == nil {
		d.Remove(id)
		return nil
	}
	from, to := endsOf(&e)
	flip := c.Kind == sketch.KindEllArc && d.At(*from).Distance(c.A) > d.At(*from).Distance(c.B)
	if flip {
		from, to = to, from
	}
	guide := d.keepWhole(id)
	oldFrom, oldTo := *from, *to
	// ends gives the ends of a curve anew: adding points moves the entities.
	ends := func(e *sketch.Entity) (from, to *string) {
		if from, to = endsOf(e); flip {
			from, to = to, from
		}
		return from, to
	}
	switch {
	case before == nil || after == nil: // a piece at one end goes
		at := before
		if at == nil {
			at = after
		}
		p := d.replace(id, at)
		from, to := ends(d.Entity(id))
		if before == nil {
			*from = p
		} else {
			*to = p
		}
		if guide != "" {
			d.Constrain("on-curve", "", p, guide)
		}
	default: // out of the middle: what is left are two curves
		second := e
		second.ID = ""
		end, begin := d.replace(id, before), d.replace(id, after)
		_, to := ends(d.Entity(id))
		*to = end
		from, last := ends(&second)
		*from, *last = begin, oldTo
		d.continueAs(id, d.Add(second))
	}
	d.orphans(oldFrom, oldTo)
	return nil
}

// replace makes the point where a curve ends from now on. It may move the
// entity list, so callers look the entity up again.
func (d *Draft) replace(id string, x *sketch.Crossing) string {
	p := d.endOn(x.At, x.With)
	// A curve goes through its own end: to say so adds nothing.
	d.Constraints = slices.DeleteFunc(d.Constraints, func(k sketch.Constraint) bool {
		return k.Kind == "on-curve" && slices.Contains(k.Of, p) && slices.Contains(k.Of, id)
	})
	return p
}

// endsOf gives the two ends of an open curve.
//
// They are pointers into the entity, which stop being valid when the list of
// entities grows.
func endsOf(e *sketch.Entity) (from, to *string) {
	if e.Kind == sketch.KindLine {
		return &e.From, &e.To
	}
	return &e.Start, &e.End
}

// continueAs ties the second part of a divided curve to the first.
//
// For an arc the shared centre is a tie already.
func (d *Draft) continueAs(id, other string) {
	switch d.Entity(id).Kind {
	case sketch.KindLine:
		d.Constrain("collinear", "", id, other)
	case sketch.KindArc: // they share their centre; the radius is left to tie
		d.Constrain("equal", "", id, other)
	}
}

// orphans removes points that nothing stands on and no constraint names.
//
// A point that a constraint names is kept: a size may be measured to it.
func (d *Draft) orphans(ids ...string) {
	for _, id := range ids {
		used := false
		for i := range d.Entities {
			for _, p := range d.Entities[i].Refs() {
				used = used || p == id
			}
		}
		for _, k := range d.Constraints {
			for _, of := range k.Of {
				used = used || of == id && k.Kind != "coincident"
			}
		}
		if !used && d.Entity(id) != nil {
			d.Remove(id)
		}
	}
}

// Extend lengthens a line or arc at the end nearer to a place, to the next curve
// in its way.
//
// It goes to the nearest crossing beyond the end, of the endless line or the
// whole circle. Extending an arc by more than its gap is impossible, since the
// crossing nearest behind its end comes first.
func (d *Draft) Extend(id string, at sketch.Vec) error {
	all, i, err := d.curve(id)
	if err != nil {
		return err
	}
	c := &all[i]
	if c.Kind != sketch.KindLine && c.Kind != sketch.KindArc {
		return refuse("only lines and arcs are extended, and %s is neither", d.call(id))
	}
	atEnd := at.Distance(c.B) < at.Distance(c.A)
	lo, hi := c.Range()
	slack := 1e-7 * (hi - lo)
	var best *sketch.Crossing
	for _, x := range sketch.Crossings(all, i, true) {
		t := x.T
		if c.Kind == sketch.KindArc { // angles beyond the end, the short way on
			t = lo + math.Mod(math.Mod(t-lo, 2*math.Pi)+2*math.Pi, 2*math.Pi)
			if t <= hi+slack {
				continue
			}
			if !atEnd {
				t -= 2 * math.Pi
			}
		}
		x.T = t
		y := x
		if atEnd && t > hi+slack && (best == nil || t < best.T) || !atEnd && t < lo-slack && (best == nil || t > best.T) {
			best = &y
		}
	}
	if best == nil {
		return refuse("no curve is in the way of %s at this end", d.call(id))
	}
	guide := d.keepWhole(id)
	p := d.endOn(best.At, best.With)
	from, to := endsOf(d.Entity(id))
	end := from
	if atEnd {
		end = to
	}
	old := *end
	*end = p
	if guide != "" {
		d.Constrain("on-curve", "", old, id)
	}
	d.orphans(old)
	return nil
}

// Split divides a curve at a place into two that go on in one another. A circle
// or an ellipse falls into halves.
//
// Both halves keep what the whole was constrained to by sharing ends and
// direction, so that splitting moves nothing.
func (d *Draft) Split(id string, at sketch.Vec) (other string, err error) {
	all, i, err := d.curve(id)
	if err != nil {
		return "", err
	}
	c := &all[i]
	t, q := c.Nearest(at)
	if !c.Closed() && (q.Distance(c.A) < 1e-6 || q.Distance(c.B) < 1e-6) {
		return "", refuse("%s already ends here", d.call(id))
	}
	switch c.Kind {
	case sketch.KindSpline:
		cut := sketch.Crossing{T: t, At: q}
		return d.trimSpline(id, c, &cut, &cut), nil
	case sketch.KindCircle, sketch.KindEllipse:
		return d.halve(id, c, q), nil
	}
	d.keepWhole(id)
	p := d.Point(q)
	second := *d.Entity(id)
	second.ID = ""
	_, to := endsOf(d.Entity(id))
	*to = p
	from, _ := endsOf(&second)
	*from = p
	other = d.Add(second)
	if c.Kind == sketch.KindLine { // they share a point, so that parallel says they are in line
		d.Constrain("parallel", "", id, other)
	}
	return other, nil
}

// halve makes two arcs of a circle or ellipse, from a place on it and from the
// place opposite.
//
// The two cuts lie opposite each other: any two would do, and these stay a
// diameter.
func (d *Draft) halve(id string, c *sketch.Curve, q sketch.Vec) (other string) {
	e := d.Entity(id)
	e.Kind, e.Radius = map[string]string{sketch.KindCircle: sketch.KindArc, sketch.KindEllipse: sketch.KindEllArc}[e.Kind],
		0
	second := *e
	second.ID = ""
	a, b := d.Point(q), d.Point(c.Center.Scale(2).Sub(q))
	e = d.Entity(id)
	e.Start, e.End = a, b
	second.Start, second.End = b, a
	d.Constrain("collinear", "", a, second.Center, b)
	return d.Add(second)
}

// trimSpline leaves of a spline what runs up to before and from after on, where
// these are given. The shape stays: knots are put in where it is cut, and the
// pieces stand on their poles. It gives the second piece, if there is one.
//
// Inserting a knot three times at the cut splits a cubic spline into two without
// changing its shape (de Boor, A Practical Guide to Splines).
func (d *Draft) trimSpline(id string, c *sketch.Curve, before, after *sketch.Crossing) (other string) {
	e := *d.Entity(id)
	old := e.Refs()
	lo, hi := c.Range()
	piece := func(lo, hi float64, first, last string) sketch.Entity {
		poles, knots := c.Part(lo, hi)
		n := sketch.Entity{Kind: sketch.KindSpline, Guide: e.Guide, Knots: knots}
		for i, p := range poles {
			switch {
			case i == 0 && first != "":
				n.Poles = append(n.Poles, first)
			case i == len(poles)-1 && last != "":
				n.Poles = append(n.Poles, last)
			default:
				n.Poles = append(n.Poles, d.Point(p))
			}
		}
		return n
	}
	var pieces []sketch.Entity
	joint := ""
	if before != nil {
		joint = d.endOn(before.At, before.With)
		pieces = append(pieces, piece(lo, before.T, old[0], joint))
	}
	if after != nil {
		if before == nil || after != before {
			joint = d.endOn(after.At, after.With)
		}
		pieces = append(pieces, piece(after.T, hi, joint, old[len(old)-1]))
	}
	pieces[0].ID = id
	*d.Entity(id) = pieces[0]
	if len(pieces) > 1 {
		other = d.Add(pieces[1])
	}
	d.orphans(old...)
	return other
}

// corner finds the two lines that meet in a point, with the point in which each
// of them ends there.
//
// Guide lines do not count: a guide through a corner is no third side of it.
func (d *Draft) corner(point string) (l, m string, pl, pm string, err error) {
	var found [][2]string
	for i := range d.Entities {
		e := &d.Entities[i]
		if e.Kind != sketch.KindLine || e.Guide {
			continue
		}
		for _, p := range []string{e.From, e.To} {
			if d.same(p, point) {
				found = append(found, [2]string{e.ID, p})
			}
		}
	}
	if len(found) != 2 || found[0][0] == found[1][0] {
		return "", "", "", "", refuse("a corner is where two lines meet, and %d meet at %s", len(found),
			d.call(point))
	}
	return found[0][0], found[1][0], found[0][1], found[1][1], nil
}

// cutBack moves the ends of two lines that meet in a corner back by a length
// along each. The corner stays as a point on both lines: the theoretical sharp
// corner, to which sizes go on being given.
//
// It refuses to take a line away whole; an arc of that radius does not touch it.
func (d *Draft) cutBack(point string, back float64) (l, m, a, b string, err error) {
	l, m, pl, pm, err := d.corner(point)
	if err != nil {
		return "", "", "", "", err
	}
	var ends [2]string
	for i, k := range [][2]string{{l, pl}, {m, pm}} {
		e := d.Entity(k[0])
		far := e.From
		if far == k[1] {
			far = e.To
		}
		v := d.At(far).Sub(d.At(k[1]))
		if back >= v.Norm() {
			return "", "", "", "", refuse("%s is %s long from the corner, and %s would be cut off it", d.call(k[0]),
				d.Words(v.Norm()), d.Words(back))
		}
		d.keepWhole(k[0])
		ends[i] = d.Point(d.At(k[1]).Add(v.Unit().Scale(back)))
		e = d.Entity(k[0])
		if e.From == k[1] {
			e.From = ends[i]
		} else {
			e.To = ends[i]
		}
	}
	d.Constrain("on-curve", "", pl, l)
	d.Constrain("on-curve", "", pm, m)
	return l, m, ends[0], ends[1], nil
}

// Round puts an arc of a radius (a formula, and its value in millimetres) into
// the corner of two lines.
//
// With the lines at an angle of 2h between them, a circle of radius r touches
// both at r / tan h from the corner, and its centre is at r / sin h on the
// bisector. An arc runs counter-clockwise from start to end, so that the order
// of its ends is that in which the centre sees them.
func (d *Draft) Round(point, formula string, radius float64) (arc string, err error) {
	l, m, pl, pm, err := d.corner(point)
	if err != nil {
		return "", err
	}
	p := d.At(point)
	far := func(id, end string) sketch.Vec {
		e := d.Entity(id)
		if e.From == end {
			return d.At(e.To)
		}
		return d.At(e.From)
	}
	u, v := far(l, pl).Sub(p).Unit(), far(m, pm).Sub(p).Unit()
	half := math.Acos(math.Max(-1, math.Min(1, u.Dot(v)))) / 2
	if half < 1e-4 || half > math.Pi/2-1e-4 {
		return "", refuse("the lines at %s are in line and have no corner to round", d.call(point))
	}
	l, m, a, b, err := d.cutBack(point, radius/math.Tan(half))
	if err != nil {
		return "", err
	}
	c := d.Point(p.Add(u.Add(v).Unit().Scale(radius / math.Sin(half))))
	if d.At(a).Sub(d.At(c)).Cross(d.At(b).Sub(d.At(c))) > 0 {
		arc = d.Arc(c, a, b)
	} else {
		arc = d.Arc(c, b, a)
	}
	d.Constrain("tangent", "", arc, l)
	d.Constrain("tangent", "", arc, m)
	d.Constrain("radius", formula, arc)
	return arc, nil
}

// Bevel cuts the corner of two lines off, at the same distance along both.
//
// The corner stays as a point, to which the distances of the bevel are given by
// guide lines, as a drawing states a chamfer on a plate.
func (d *Draft) Bevel(point, formula string, distance float64) (line string, err error) {
	_, _, a, b, err := d.cutBack(point, distance)
	if err != nil {
		return "", err
	}
	line = d.Line(a, b)
	g0, g1 := d.guide(point, a), d.guide(point, b)
	d.Constrain("equal", "", g0, g1)
	d.Constrain("length", formula, g0)
	return line, nil
}

// Offset draws a chain of lines and arcs, or a circle, again at a distance: to
// the left of its run when it is greater than zero (formula gives its size).
//
// Each curve is tied to its original by one distance, with the same formula, so
// that the chain stays an offset when the size changes. Corners stay corners;
// that is what a wall of constant thickness has outside and inside.
func (d *Draft) Offset(ids []string, formula string, distance float64) (made []string, err error) {
	all, err := d.curves()
	if err != nil {
		return nil, err
	}
	curve := map[string]*sketch.Curve{}
	for i := range all {
		curve[all[i].ID] = &all[i]
	}
	if len(ids) == 1 && curve[ids[0]] != nil && curve[ids[0]].Kind == sketch.KindCircle {
		c := curve[ids[0]]
		if c.Radius-distance <= 0 {
			return nil, refuse("the circle has a radius of %s, and %s inside it there is nothing", d.Words(c.Radius),
				d.Words(distance))
		}
		id := d.Circle(d.Entity(ids[0]).Center, c.Radius-distance)
		d.Constrain("distance", formula, ids[0], id)
		return []string{id}, nil
	}
	chain, closed, err := d.order(ids)
	if err != nil {
		return nil, err
	}
	var list []beside
	for _, k := range chain {
		b, err := d.beside(k, curve[k.id], distance)
		if err != nil {
			return nil, err
		}
		list = append(list, b)
	}
	points, err := d.offsetPoints(list, closed, distance)
	if err != nil {
		return nil, err
	}
	for i, k := range list {
		var id string
		switch e := *d.Entity(k.id); {
		case k.line:
			id = d.Line(points[i], points[i+1])
			d.Constrain("parallel", "", k.id, id)
		case k.backwards:
			id = d.Arc(e.Center, points[i+1], points[i])
		default:
			id = d.Arc(e.Center, points[i], points[i+1])
		}
		d.Constrain("distance", formula, k.id, id)
		made = append(made, id)
	}
	return made, nil
}

// beside is what lies at a distance from a curve of a chain, without its ends: a line through a in
// the direction dir, or a circle about a with the radius r.
//
// The two kinds have their own fields in use: a and dir for a line, a and r for
// a circle.
type beside struct {
	link
	line   bool
	a, dir sketch.Vec
	r      float64
}

// beside is the line or circle at a signed distance to the left of a link as it
// is run through. An arc run counterclockwise has its centre to the left, so
// that its radius shrinks by the distance; run backwards it grows. Where nothing
// is left of it the offset is refused.
func (d *Draft) beside(k link, c *sketch.Curve, distance float64) (beside, error) {
	switch c.Kind {
	case sketch.KindLine:
		from := d.At(k.from)
		u := d.At(k.to).Sub(from).Unit()
		return beside{k, true, from.Add(u.Left().Scale(distance)), u, 0}, nil
	case sketch.KindArc:
		r := c.Radius - distance
		if k.backwards {
			r = c.Radius + distance
		}
		if r <= 1e-9 {
			return beside{}, refuse("%s has a radius of %s, and %s to this side nothing is left of it", d.call(k.id),
				d.Words(c.Radius), d.Words(distance))
		}
		return beside{k, false, c.Center, sketch.Vec{}, r}, nil
	}
	return beside{}, refuse("only lines, arcs and circles are offset, and %s is none of these", d.call(k.id))
}

// curve is the line, long enough, or the circle.
//
// Far is how much of the endless line is needed to meet its neighbours.
func (b beside) curve(far float64) sketch.Curve {
	if b.line {
		return sketch.Curve{ID: "k", Kind: sketch.KindLine, A: b.a.Sub(b.dir.Scale(far)), B: b.a.Add(b.dir.Scale(far))}
	}
	return sketch.Curve{ID: "k", Kind: sketch.KindCircle, Center: b.a, Radius: b.r}
}

// joint is where two of them meet, beside the corner of the curves themselves.
//
// Neighbours in line meet nowhere else than at the shared end. Of two places the
// one nearer the corner is meant; one that is 50 distances away is no corner of
// this chain any more.
func (d *Draft) joint(p, q beside, corner sketch.Vec, distance float64) (sketch.Vec, error) {
	if p.line && q.line {
		den := p.dir.Cross(q.dir)
		if math.Abs(den) < 1e-9 {
			return q.a, nil
		}
		return p.a.Add(p.dir.Scale(q.a.Sub(p.a).Cross(q.dir) / den)), nil
	}
	far := 1e3 * (1 + math.Abs(distance) + math.Max(corner.Distance(p.a), corner.Distance(q.a)))
	best, at := math.Inf(1), sketch.Vec{}
	for _, x := range sketch.Crossings([]sketch.Curve{p.curve(far), q.curve(far)}, 0, false) {
		if v := x.At.Distance(corner); v < best && v < 50*math.Abs(distance)+1 {
			best, at = v, x.At
		}
	}
	if math.IsInf(best, 1) {
		return at, refuse("%s and %s no longer meet at this distance", d.call(p.id), d.call(q.id))
	}
	return at, nil
}

// offsetPoints makes the points of an offset chain: where its curves meet, and its ends.
//
// A closed chain has its first point as its last.
func (d *Draft) offsetPoints(list []beside, closed bool, distance float64) ([]string, error) {
	n := len(list)
	points := make([]string, n+1)
	end := func(k beside, at sketch.Vec) string {
		if k.line {
			return d.Point(at.Add(k.dir.Left().Scale(distance)))
		}
		return d.Point(k.a.Polar(k.r, k.a.AngleTo(at)))
	}
	for i := range n {
		if i == 0 && !closed {
			points[0] = end(list[0], d.At(list[0].from))
			continue
		}
		at, err := d.joint(list[(i+n-1)%n], list[i], d.At(list[i].from), distance)
		if err != nil {
			return nil, err
		}
		points[i] = d.Point(at)
	}
	if points[n] = points[0]; !closed {
		points[n] = end(list[n-1], d.At(list[n-1].to))
	}
	return points, nil
}

// link is a curve in a chain, run from one of its ends to the other.
type link struct {
	id        string
	from, to  string
	backwards bool // against an arc's own sense
}

// order sorts curves into one chain, end to end.
//
// It grows from the first curve at either end. Curves are turned as the chain
// needs them; what counts as left of the chain is left of the first curve as it
// was drawn.
func (d *Draft) order(ids []string) (chain []link, closed bool, err error) {
	var left []link
	for _, id := range ids {
		e := d.Entity(id)
		if e == nil || (e.Kind != sketch.KindLine && e.Kind != sketch.KindArc) {
			return nil, false, refuse("a chain is made of lines and arcs, and %s is neither", d.call(id))
		}
		from, to := endsOf(e)
		left = append(left, link{id: id, from: *from, to: *to})
	}
	if len(left) == 0 {
		return nil, false, refuse("choose the curves of a chain first")
	}
	chain = left[:1:1]
	left = left[1:]
	turn := func(k link) link { return link{k.id, k.to, k.from, !k.backwards} }
	for len(left) > 0 {
		grown := false
		for i, k := range left {
			last, first := chain[len(chain)-1], chain[0]
			switch {
			case d.same(last.to, k.from):
				chain = append(chain, k)
			case d.same(last.to, k.to):
				chain = append(chain, turn(k))
			case d.same(first.from, k.to):
				chain = append([]link{k}, chain...)
			case d.same(first.from, k.from):
				chain = append([]link{turn(k)}, chain...)
			default:
				continue
			}
			left = append(left[:i:i], left[i+1:]...)
			grown = true
			break
		}
		if !grown {
			return nil, false, refuse("%s does not join on to the others: a chain runs end to end", d.call(left[0].id))
		}
	}
	return chain, len(chain) > 1 && d.same(chain[0].from, chain[len(chain)-1].to), nil
}

// Chain lists the curves that join on to one another end to end, starting from
// one of them, up to where three or more meet.
//
// Where three or more meet, which way it goes on would be a guess.
func (d *Draft) Chain(id string) []string {
	out := []string{id}
	in := map[string]bool{id: true}
	for i := 0; i < len(out); i++ {
		e := d.Entity(out[i])
		if e == nil || e.Kind == sketch.KindCircle || e.Kind == sketch.KindEllipse || e.Kind == sketch.KindPoint {
			continue
		}
		for _, end := range d.openEnds(e) {
			var at []string
			for j := range d.Entities {
				o := &d.Entities[j]
				if o.Guide != e.Guide || o.ID == e.ID {
					continue
				}
				for _, q := range d.openEnds(o) {
					if d.same(q, end) {
						at = append(at, o.ID)
					}
				}
			}
			if len(at) == 1 && !in[at[0]] {
				in[at[0]] = true
				out = append(out, at[0])
			}
		}
	}
	return out
}

// openEnds are the points in which an open curve ends; a closed one has none.
func (d *Draft) openEnds(e *sketch.Entity) []string {
	switch e.Kind {
	case sketch.KindLine:
		return []string{e.From, e.To}
	case sketch.KindArc, sketch.KindEllArc:
		return []string{e.Start, e.End}
	case sketch.KindSpline:
		all := append(append([]string(nil), e.Through...), e.Poles...)
		return []string{all[0], all[len(all)-1]}
	}
	return nil
}
