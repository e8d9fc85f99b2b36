package review

import (
	"fmt"
	"math"
	"sort"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/edit"
)

// Findings about what holds today and does not say why. Each is offered only
// when the constraint that it offers would take freedom away (the probe asks the
// solver's matrix), so that following all of them never over-constrains a
// sketch.

// nearby is how near things are, relative to the size of the sketch, that look
// joined; exact is how near they are when only the word is missing.
const (
	nearby = 0.01
	exact  = 1e-5
)

// offer adds a finding whose repair is a constraint, when that takes freedoms
// away; later offers count it as given. near is how far off it may be, in
// millimetres.
//
// Takes is how many freedoms the constraint would take, of the rows that it has.
// All rows must count, or it would be spare in part; a constraint that takes
// none is let through nowhere. Once offered it counts as given, so that ten
// parallel lines make nine findings and not forty-five.
func (r *reviewer) offer(f Finding, near float64, kind string, of ...string) bool {
	g, ok := r.probe.Ask(sketch.Constraint{ID: "asked", Kind: kind, Of: of})
	if !ok || g.Off > near || g.Takes < g.Rows && (g.Takes == 0 || g.Off > exact*r.scale) {
		return false
	}
	r.probe.Take(g)
	f.ID = f.Kind + " " + kind + " " + fmt.Sprint(of)
	f.Entities = of
	f.Repair = r.called.Constraint(sketch.Constraint{Kind: kind, Of: of})
	f.Remedy = "say so: " + f.Repair
	f.repair = func(d *edit.Draft) error {
		if kind == "coincident" {
			d.Join(of[0], of[1])
		} else {
			d.Constrain(kind, "", of...)
		}
		return nil
	}
	r.add(f)
	return true
}

// apart finds points that look joined to another point or a curve and are not.
//
// Points are sorted by x, so that only neighbours within reach are compared.
// Whether two points were meant as one is judged by the shortest curve that ends
// in either: a gap of a fifth of a curve is a shape and not a slip.
func (r *reviewer) apart() {
	ids, reach := r.reaches()
	at := r.sol.Points
	sort.SliceStable(ids, func(i, j int) bool { return at[ids[i]].X < at[ids[j]].X })
	for i, p := range ids {
		for j := i + 1; j < len(ids) && at[ids[j]].X-at[p].X <= nearby*r.scale; j++ {
			q := ids[j]
			d := at[p].Distance(at[q])
			if d > math.Min(reach[p], reach[q]) || r.ends.Root(p) == r.ends.Root(q) {
				continue
			}
			f := Finding{Kind: Apart, At: vec(at[p]), Near: vec(at[q]),
				What: fmt.Sprintf("%s and %s look like one point and are %s apart", r.call(p), r.call(q), r.d.Words(d))}
			if d < exact*r.scale {
				f.What = fmt.Sprintf("%s and %s are in one place and not joined", r.call(p), r.call(q))
			}
			if r.offer(f, d*2+exact*r.scale, "coincident", p, q) {
				r.ends.Join(q, p) // what stands on both is said once
			}
		}
	}
	for _, p := range ids {
		if p != sketch.Origin {
			r.offCurves(p, math.Min(reach[p], 0.5*nearby*r.scale))
		}
	}
}

// reaches lists the points with how far each may be off another place, by the shortest curve on it.
func (r *reviewer) reaches() (ids []string, reach map[string]float64) {
	reach = map[string]float64{sketch.Origin: nearby * r.scale}
	for _, e := range r.d.Entities {
		c := r.curve[e.ID]
		if c == nil {
			continue
		}
		lo, hi := c.Range()
		l := math.Min(nearby*r.scale, 0.2*c.Length(lo, hi))
		for _, p := range e.Refs() {
			if p == sketch.Origin {
				continue
			}
			if _, seen := reach[p]; !seen {
				ids = append(ids, p)
				reach[p] = l
			}
			reach[p] = math.Min(reach[p], l)
		}
	}
	for _, e := range r.d.Entities {
		if _, seen := reach[e.ID]; !seen && e.Kind == sketch.KindPoint && len(e.Traced) == 0 {
			ids = append(ids, e.ID)
			reach[e.ID] = nearby * r.scale
		}
	}
	return append(ids, sketch.Origin), reach
}

// offCurves tells of curves that a point nearly lies on.
//
// Splines are left out, as a point beside a spline is mostly one of its own.
func (r *reviewer) offCurves(p string, reach float64) {
	at := r.sol.Points[p]
	for _, c := range r.sol.Curves {
		if e := r.d.Entity(c.ID); r.standsOn(e, p) || c.Kind == sketch.KindSpline {
			continue
		}
		_, q := c.Nearest(at)
		d := q.Distance(at)
		if d > reach {
			continue
		}
		f := Finding{Kind: OffCurve, At: vec(at), Near: vec(q), What: fmt.Sprintf("%s is %s off %s", r.call(p),
			r.d.Words(d), r.call(c.ID))}
		if d < exact*r.scale {
			f.What = fmt.Sprintf("%s lies on %s, and nothing says so", r.call(p), r.call(c.ID))
		}
		r.offer(f, d*2+exact*r.scale, "on-curve", p, c.ID)
	}
}

// standsOn tells whether a curve is made on a point, or one that is joined to it.
func (r *reviewer) standsOn(e *sketch.Entity, p string) bool {
	for _, q := range e.Refs() {
		if r.ends.Root(q) == r.ends.Root(p) {
			return true
		}
	}
	return false
}

// slanted finds lines that are nearly horizontal or vertical.
//
// Up to 2 degrees is what a hand takes for level (common practice, no source). A
// line that was meant to slant by less is drawn with a size, which takes the
// freedom away and with it the finding.
func (r *reviewer) slanted() {
	const most = 2 * math.Pi / 180
	for _, c := range r.sol.Curves {
		if c.Kind != sketch.KindLine || c.Traced {
			continue
		}
		v := c.B.Sub(c.A)
		for kind, off := range map[string]float64{"horizontal": math.Abs(v.Y), "vertical": math.Abs(v.X)} {
			if off > math.Sin(most)*v.Norm() {
				continue
			}
			f := Finding{Kind: Slanted, At: vec(c.A.Midpoint(c.B)), What: fmt.Sprintf("%s is %s off %s", r.call(c.ID),
				quantity.FormulaFormat(quantity.Degree).Angle(math.Asin(off/v.Norm())), kind)}
			if off < exact*v.Norm() {
				f.What = fmt.Sprintf("%s is %s, and nothing says so", r.call(c.ID), kind)
			}
			r.offer(f, 1.01*off+exact*r.scale, kind, c.ID)
		}
	}
}

// unsaid finds relations that hold exactly and are not said: as in a drawing that
// was read from a file.
//
// In a sketch without freedom nothing is unsaid.
func (r *reviewer) unsaid() {
	if r.sol.Freedom == 0 {
		return
	}
	r.unsaidCorners()
	r.unsaidRadii()
	for i := range r.sol.Curves {
		c := &r.sol.Curves[i]
		for j := range r.sol.Curves[:i] {
			d := &r.sol.Curves[j]
			if c.Kind != sketch.KindLine || d.Kind != sketch.KindLine || c.Traced {
				continue
			}
			v, w := c.B.Sub(c.A).Unit(), d.B.Sub(d.A).Unit()
			if math.Abs(v.Cross(w)) < 1e-6 {
				r.tell(c.A.Midpoint(c.B), fmt.Sprintf("%s and %s are parallel", r.call(d.ID), r.call(c.ID)), "parallel", d.ID, c.ID)
			}
		}
	}
}

// tell offers a constraint that holds already.
//
// What holds within 1e-4 of the size of the sketch was drawn so.
func (r *reviewer) tell(at sketch.Vec, words, kind string, of ...string) {
	r.offer(Finding{Kind: Unsaid, At: vec(at), What: words + ", and nothing says so"}, 1e-4*r.scale, kind, of...)
}

// unsaidCorners tells of curves that meet square, in line or tangent.
func (r *reviewer) unsaidCorners() {
	meet := map[string][]*sketch.Curve{}
	var roots []string
	for i := range r.sol.Curves {
		c := &r.sol.Curves[i]
		e := r.d.Entity(c.ID)
		if e == nil || c.Closed() {
			continue
		}
		for _, p := range []string{e.From, e.To, e.Start, e.End} {
			if p == "" {
				continue
			}
			k := r.ends.Root(p)
			if meet[k] == nil {
				roots = append(roots, k)
			}
			meet[k] = append(meet[k], c)
		}
	}
	for _, k := range roots {
		for i, c := range meet[k] {
			for _, d := range meet[k][:i] {
				r.unsaidCorner(c, d, r.sol.Points[k])
			}
		}
	}
}

// unsaidCorner looks at a corner where two curves end in one point: what looks
// square, in line or tangent, and is said by nothing, gives way when a size
// changes. The angle between the tangents is taken by the sine of their cross
// product, from 0 to π/2, since it does not count which way they run. Two lines
// must be as exact as a solver leaves them; an arc is drawn by hand, and 2e-3 (a
// tenth of a degree) is what eyes take for tangent.
func (r *reviewer) unsaidCorner(c, d *sketch.Curve, at sketch.Vec) {
	t, _ := c.Nearest(at)
	u, _ := d.Nearest(at)
	v, w := c.Tangent(t).Unit(), d.Tangent(u).Unit()
	a := math.Abs(math.Asin(math.Max(-1, math.Min(1, v.Cross(w))))) // between their tangents, 0 to π/2
	straight := c.Kind == sketch.KindLine && d.Kind == sketch.KindLine
	switch {
	case straight && a > math.Pi/2-1e-4:
		r.tell(at, fmt.Sprintf("%s and %s are square to one another", r.call(d.ID), r.call(c.ID)),
			"perpendicular", d.ID, c.ID)
	case straight && a < 1e-4:
		r.tell(at, fmt.Sprintf("%s and %s are in line", r.call(d.ID), r.call(c.ID)), "parallel", d.ID, c.ID)
	case !straight && a < 2e-3 && c.Kind != sketch.KindSpline && d.Kind != sketch.KindSpline:
		r.tell(at, fmt.Sprintf("%s and %s are tangent", r.call(d.ID), r.call(c.ID)), "tangent", d.ID, c.ID)
	}
}

// unsaidRadii tells of round curves of one radius.
//
// Radii are one when they agree to five places, as files state them.
func (r *reviewer) unsaidRadii() {
	groups := map[string][]*sketch.Curve{}
	var keys []string
	for i := range r.sol.Curves {
		c := &r.sol.Curves[i]
		if c.Kind != sketch.KindCircle && c.Kind != sketch.KindArc || c.Traced {
			continue
		}
		key := fmt.Sprintf("%.5g", c.Radius)
		if groups[key] == nil {
			keys = append(keys, key)
		}
		groups[key] = append(groups[key], c)
	}
	for _, key := range keys {
		first := groups[key][0]
		for _, c := range groups[key][1:] {
			r.tell(c.Center, fmt.Sprintf("%s and %s have the same radius", r.call(first.ID), r.call(c.ID)), "equal",
				first.ID, c.ID)
		}
	}
}

// number gives the value of a size that is a plain number; ok is false for
// formulas that follow a parameter.
func (r *reviewer) number(k *sketch.Constraint) (float64, bool) {
	dim, size := sketch.Sizes[k.Kind]
	if !size || k.Driven || k.Value == "" {
		return 0, false
	}
	f, err := quantity.Parse(k.Value)
	if err != nil || len(f.Names()) > 0 {
		return 0, false
	}
	v, err := r.d.Values.Eval(k.Value, dim)
	return v, err == nil
}

// repeated finds one number typed as the size of several curves that could be
// equal instead.
//
// One number typed five times has to be changed five times; the drawing gives it
// once (ISO 129-1: each dimension is stated once).
func (r *reviewer) repeated() {
	groups := map[string][]*sketch.Constraint{}
	var keys []string
	for i := range r.d.Constraints {
		k := &r.d.Constraints[i]
		v, ok := r.number(k)
		if !ok || len(k.Of) != 1 || k.Kind != "length" && k.Kind != "radius" && k.Kind != "diameter" {
			continue
		}
		c := r.curve[k.Of[0]]
		if c == nil || k.Kind == "length" && c.Kind != sketch.KindLine {
			continue
		}
		key := fmt.Sprintf("%s %.9g", k.Kind, v)
		if groups[key] == nil {
			keys = append(keys, key)
		}
		groups[key] = append(groups[key], k)
	}
	for _, key := range keys {
		g := groups[key]
		if len(g) < 2 {
			continue
		}
		var ids, of []string
		for _, k := range g {
			ids, of = append(ids, k.ID), append(of, k.Of[0])
		}
		r.add(Finding{ID: Repeated + " " + fmt.Sprint(ids), Kind: Repeated, Constraints: ids, Entities: of,
			What: fmt.Sprintf("the %s %s is typed %d times: %s", g[0].Kind, g[0].Value, len(g),
				quantity.List(r.called.All(of), 8)),
			Repair: "keep one of them and make the others equal", repair: func(d *edit.Draft) error {
				d.Remove(ids[1:]...)
				d.Constrain("equal", "", of...)
				return nil
			}})
	}
}

// side is a size from something that could be a line of symmetry to something
// else, with the side on which that is.
type side struct {
	k     *sketch.Constraint
	axis  string
	point string // of which the size is, one end of it for a line
	line  string
	off   float64
}

// sides reads a size as one from a line of symmetry.
//
// Two sizes of equal value from an axis to both sides mean symmetry. The offset
// has a sign, that of the side, by the cross product with the axis.
func (r *reviewer) sides(k *sketch.Constraint) (out []side) {
	if len(k.Of) != 2 || k.Driven {
		return nil
	}
	axisOf := func(id string) *sketch.Curve {
		switch id {
		case sketch.XAxis:
			return &sketch.Curve{Kind: sketch.KindLine, B: sketch.Vec{X: 1}}
		case sketch.YAxis:
			return &sketch.Curve{Kind: sketch.KindLine, B: sketch.Vec{Y: 1}}
		}
		if c := r.curve[id]; c != nil && c.Kind == sketch.KindLine {
			return c
		}
		return nil
	}
	for i := range 2 {
		from, to := k.Of[i], k.Of[1-i]
		axis := from
		switch k.Kind {
		case "horizontal-distance", "vertical-distance":
			if from != sketch.Origin {
				continue
			}
			axis = map[string]string{"horizontal-distance": sketch.YAxis, "vertical-distance": sketch.XAxis}[k.Kind]
		case "distance":
		default:
			continue
		}
		a := axisOf(axis)
		if a == nil {
			continue
		}
		s := side{k: k, axis: axis}
		if p, ok := r.sol.Points[to]; ok {
			s.point, s.off = to, a.B.Sub(a.A).Unit().Cross(p.Sub(a.A))
		} else if l := r.curve[to]; l != nil && l.Kind == sketch.KindLine {
			s.line, s.off = to, a.B.Sub(a.A).Unit().Cross(l.A.Midpoint(l.B).Sub(a.A))
		} else {
			continue
		}
		out = append(out, s)
	}
	return out
}

// twoSided finds symmetry that is given by two equal sizes from the middle.
//
// Each size is used once: four equal distances make two pairs.
func (r *reviewer) twoSided() {
	var all []side
	for i := range r.d.Constraints {
		all = append(all, r.sides(&r.d.Constraints[i])...)
	}
	used := map[string]bool{}
	for i, a := range all {
		for _, b := range all[:i] {
			if a.k == b.k || used[a.k.ID] || used[b.k.ID] || a.axis != b.axis || a.k.Value != b.k.Value || a.off*b.off >= 0 ||
				(a.line == "") != (b.line == "") {
				continue
			}
			p, q := a.point, b.point
			if a.line != "" {
				p, q = r.opposite(a, b)
			}
			if p == "" || q == "" {
				continue
			}
			used[a.k.ID], used[b.k.ID] = true, true
			gone, axis := a.k.ID, a.axis
			r.add(Finding{ID: TwoSided + " " + b.k.ID + " " + gone, Kind: TwoSided, Constraints: []string{b.k.ID, gone},
				Entities: []string{p, q},
				What: fmt.Sprintf("%s and %s are held symmetric about %s by two sizes of %s: change one, and the other stays",
					r.call(q), r.call(p), r.call(axis), a.k.Value),
				Repair: fmt.Sprintf("keep one size and make %s and %s symmetric about %s", r.call(q), r.call(p), r.call(axis)),
				repair: func(d *edit.Draft) error {
					d.Remove(gone)
					d.Constrain("symmetric", "", q, p, axis)
					return nil
				}})
		}
	}
}

// opposite finds an end of one line and the end of the other that is across the
// axis from it.
//
// The nearest two ends are across the axis from each other, since the lines are
// mirror images.
func (r *reviewer) opposite(a, b side) (p, q string) {
	l, m := r.d.Entity(a.line), r.d.Entity(b.line)
	best := math.Inf(1)
	for _, u := range []string{l.From, l.To} {
		for _, v := range []string{m.From, m.To} {
			if d := r.sol.Points[u].Distance(r.sol.Points[v]); d < best {
				best, p, q = d, u, v
			}
		}
	}
	return p, q
}

// plain finds sizes that a constraint says better: right angles and zeros.
//
// An angle of 90 degrees says the same as perpendicular, and reads as a size
// that someone might change.
func (r *reviewer) plain() {
	for i := range r.d.Constraints {
		k := r.d.Constraints[i]
		v, ok := r.number(&k)
		if !ok {
			continue
		}
		kind := ""
		switch deg := v * 180 / math.Pi; {
		case k.Kind == "angle" && len(k.Of) == 2 && math.Abs(deg-90) < 1e-9:
			kind = "perpendicular"
		case k.Kind == "angle" && len(k.Of) == 2 && (math.Abs(deg) < 1e-9 || math.Abs(deg-180) < 1e-9):
			kind = "parallel"
		case k.Kind == "horizontal-distance" && v == 0:
			kind = "vertical"
		case k.Kind == "vertical-distance" && v == 0:
			kind = "horizontal"
		case k.Kind == "distance" && v == 0 && len(k.Of) == 2:
			_, p := r.sol.Points[k.Of[0]]
			_, q := r.sol.Points[k.Of[1]]
			switch {
			case p && q:
				kind = "coincident"
			case p || q:
				kind = "on-curve"
			}
		}
		if kind == "" {
			continue
		}
		id := k.ID
		say := r.called.Constraint(sketch.Constraint{Kind: kind, Of: k.Of})
		r.add(Finding{ID: Plain + " " + id, Kind: Plain, Constraints: []string{id}, Entities: k.Of,
			What: r.called.Constraint(k) +
				": a constraint says this without a size",
			Repair: "say it by a constraint: " + say, repair: func(d *edit.Draft) error {
				of := d.Constraint(id).Of
				d.Remove(id)
				d.Constrain(kind, "", of...)
				return nil
			}})
	}
}

// unnamed finds numbers that are the value of just one parameter.
//
// With two parameters of one value it is not told which was meant, and nothing
// is offered.
func (r *reviewer) unnamed() {
	if r.table == nil {
		return
	}
	for i := range r.d.Constraints {
		k := &r.d.Constraints[i]
		v, ok := r.number(k)
		if !ok {
			continue
		}
		var fits []string
		for _, name := range r.table.Order() {
			if q, _ := r.table.Lookup(name); q.Dim == sketch.Sizes[k.Kind] && math.Abs(q.Value-v) <=
				1e-9*math.Max(1, math.Abs(v)) {
				fits = append(fits, name)
			}
		}
		if len(fits) != 1 {
			continue
		}
		id, name := k.ID, fits[0]
		r.add(Finding{ID: Unnamed + " " + id, Kind: Unnamed, Constraints: []string{id}, Entities: k.Of,
			What:   fmt.Sprintf("%s: that is the value of %s, and the sketch does not follow it", r.called.Constraint(*k), name),
			Repair: "write " + name + " instead", repair: func(d *edit.Draft) error {
				d.Constraint(id).Value = name
				return nil
			}})
	}
}
