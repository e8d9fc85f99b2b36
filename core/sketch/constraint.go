package sketch

import (
	"math"
	"slices"
	"sort"
	"strings"

	"hammerset/core/quantity"
)

// Every constraint and size is written as residuals that are lengths in
// millimetres, zero where it holds. That they are all lengths is what lets one
// tolerance and one damping serve for all of them, and least squares weigh a
// turn of a long line against the shift of a point. An angle becomes a length by
// the arm that it moves; it is the shorter of the lines, so that a long axis
// does not make a small line stiff.
//
// A residual is signed wherever a condition has two solutions, such as the two
// sides of a line. Its square would have no derivative in the solution, and a
// solver that lost the sign could come out on the other side.
//
// The derivatives are exact: residuals are functions of jets (see jet.go) over
// the few unknowns that the condition touches. Differences would cost as many
// evaluations and lose half the digits.

// Sizes lists the kinds of constraints that carry a value.
var Sizes = map[string]quantity.Dim{
	"length": quantity.Length, "distance": quantity.Length, "horizontal-distance": quantity.Length,
	"vertical-distance": quantity.Length, "radius": quantity.Length, "diameter": quantity.Length, "angle": quantity.Angle,
}

// Kinds lists all kinds of constraints and sizes, sorted.
func Kinds() []string {
	var out []string
	for k := range accepts {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// operands are the geometry that a constraint names, sorted by kind but
// otherwise in their order.
type operands struct {
	points   []pointSlots
	lines    []curveSlots
	rounds   []curveSlots // circles and arcs
	ellipses []curveSlots
	splines  []curveSlots
}

// count is how many operands a constraint has, of all kinds together.
func (o operands) count() int {
	return len(o.points) + len(o.lines) + len(o.rounds) + len(o.ellipses) + len(o.splines)
}

// are tells whether the operands are so many points, lines and rounds, and
// nothing else.
func (o operands) are(points, lines, rounds int) bool {
	return len(o.points) == points && len(o.lines) == lines && len(o.rounds) == rounds && o.count() == points+lines+rounds
}

// condition adds the equations of constraint i.
func (c *compiler) condition(i int) error {
	k := c.sketch.Constraints[i]
	o, err := c.operands(k)
	if err != nil {
		return err
	}
	target, err := c.wanted(k)
	if err != nil {
		return err
	}
	made, err := c.relate(k, i, o)
	if err == nil && !made {
		if _, isSize := Sizes[k.Kind]; isSize {
			made, err = c.measure(k, i, o, target)
		} else if _, known := accepts[k.Kind]; !known {
			return failf(k.ID, "%q is not a constraint or size", k.Kind)
		}
	}
	if err == nil && !made {
		err = failf(k.ID, "%s is put on %s, not on %v", k.Kind, accepts[k.Kind], k.Of)
	}
	return err
}

// operands sorts what a constraint is put on by its kind.
func (c *compiler) operands(k Constraint) (o operands, err error) {
	for _, id := range k.Of {
		p, isPoint := c.points[id]
		u, isCurve := c.curves[id]
		switch {
		case isPoint:
			o.points = append(o.points, p)
		case !isCurve:
			return o, failf(k.ID, "there is no %q in this sketch", id)
		case u.kind == KindLine:
			o.lines = append(o.lines, u)
		case u.kind == KindCircle || u.kind == KindArc:
			o.rounds = append(o.rounds, u)
		case u.kind == KindSpline:
			o.splines = append(o.splines, u)
		default:
			o.ellipses = append(o.ellipses, u)
		}
	}
	return o, nil
}

// wanted is the value that a size is to have; 0 of what has none.
func (c *compiler) wanted(k Constraint) (float64, error) {
	dim, isSize := Sizes[k.Kind]
	words := strings.ReplaceAll(k.Kind, "-", " ")
	switch {
	case k.Driven && !isSize:
		return 0, failf(k.ID, "%s carries no value and cannot be driven", k.Kind)
	case !isSize && k.Value != "":
		return 0, failf(k.ID, "%s takes no value", k.Kind)
	case !isSize || k.Driven:
		return 0, nil
	case k.Value == "":
		return 0, failf(k.ID, "a %s needs a value", words)
	}
	v, err := c.values.Eval(k.Value, dim)
	if err != nil {
		return 0, failf(k.ID, "%v", err)
	}
	if v < 0 || (v == 0 && (k.Kind == "length" || k.Kind == "radius" || k.Kind == "diameter")) {
		return 0, failf(k.ID, "a %s must be greater than zero, but %s comes to %s", words, k.Value,
			quantity.FormulaFormat(quantity.Millimetre).Text(quantity.Quantity{Value: v, Dim: dim}))
	}
	return v, nil
}

// relate adds the equations of constraints without a value.
//
// A condition on n alike things is put on n-1 neighbouring pairs and not on each
// with the first: the systems split better, and a set that conflicts names
// things that lie beside one another.
func (c *compiler) relate(k Constraint, i int, o operands) (made bool, err error) {
	switch k.Kind {
	case "coincident":
		return c.coincident(k, i, o)
	case "on-curve":
		if len(o.points) == 1 && o.count() == 2 {
			return true, c.onCurve(i, o.points[0], o)
		}
	case "horizontal", "vertical":
		return c.level(i, o, k.Kind == "vertical")
	case "parallel":
		if n := len(o.lines); n >= 2 && o.are(0, n, 0) {
			return true, c.chain(n, func(j int) error { return c.direction(i, o.lines[j], o.lines[j+1], 0) })
		}
	case "perpendicular":
		switch {
		case o.are(0, 2, 0):
			return true, c.direction(i, o.lines[0], o.lines[1], math.Pi/2)
		case o.are(0, 1, 1): // a line square to a circle runs through its centre
			b := c.equation(i)
			return true, b.residual(b.offLine(o.rounds[0].c, o.lines[0]))
		}
	case "tangent":
		if o.count() == 2 && len(o.points) == 0 {
			return c.tangent(i, o)
		}
	case "concentric":
		return c.concentric(i, o)
	case "collinear":
		return c.collinear(i, o)
	case "equal":
		return c.equal(i, o)
	case "symmetric":
		return c.symmetric(i, k, o)
	case "midpoint":
		return c.midpoint(i, o)
	case "fixed":
		return c.fix(i, o)
	}
	return false, nil
}

// coincident joins two points. They share their unknowns; only two that cannot move need an
// equation.
//
// The equation between two that cannot move is one that nothing can change; it
// is kept so that it shows as a conflict when the two are apart, and as spare
// when they are not.
func (c *compiler) coincident(k Constraint, i int, o operands) (made bool, err error) {
	switch {
	case o.are(2, 0, 0):
		if o.points[0] != o.points[1] && o.points[0].x.index < 0 && o.points[1].x.index < 0 {
			return true, c.equation(i).same(o.points[0], o.points[1])
		}
		return true, nil
	case len(o.points) == 1 && len(k.Of) == 2:
		return false, failf(k.ID, "use \"on-curve\" to put a point on a curve")
	}
	return false, nil
}

// level puts the ends of a line, or two points, on one height, or one above the other.
//
// The difference of one coordinate is the residual. The angle to the axis would
// be singular for a line that is short, which is what lines are while they are
// drawn.
func (c *compiler) level(i int, o operands, upright bool) (made bool, err error) {
	var p, q pointSlots
	switch {
	case o.are(0, 1, 0):
		p, q = o.lines[0].a, o.lines[0].b
	case o.are(2, 0, 0):
		p, q = o.points[0], o.points[1]
	default:
		return false, nil
	}
	b := c.equation(i)
	f, g := b.point(p), b.point(q)
	if upright {
		return true, b.residual(func(x []jet) jet { return g(x).x.sub(f(x).x) })
	}
	return true, b.residual(func(x []jet) jet { return g(x).y.sub(f(x).y) })
}

// concentric puts centres, and at most one point, in one place.
func (c *compiler) concentric(i int, o operands) (made bool, err error) {
	centres := slices.Clone(o.points)
	for _, r := range slices.Concat(o.rounds, o.ellipses) {
		centres = append(centres, r.c)
	}
	n := len(centres)
	if n < 2 || n != o.count() || len(o.points) > 1 {
		return false, nil
	}
	return true, c.chain(n, func(j int) error { return c.equation(i).same(centres[j], centres[j+1]) })
}

// collinear puts lines, points, or points and one line, on one straight line.
//
// Two lines on one straight line are two residuals: both ends of the second off
// the first. Its direction and one point would be two as well, but of an angle
// and a length.
func (c *compiler) collinear(i int, o operands) (made bool, err error) {
	switch n, m := len(o.lines), len(o.points); {
	case n >= 2 && o.are(0, n, 0):
		return true, c.chain(n, func(j int) error {
			b := c.equation(i)
			d0, d1 := b.offLine(o.lines[j+1].a, o.lines[j]), b.offLine(o.lines[j+1].b, o.lines[j])
			return b.residuals(2, func(x []jet) [2]jet { return [2]jet{d0(x), d1(x)} })
		})
	case m >= 3 && o.are(m, 0, 0):
		return true, c.chain(m-1, func(j int) error {
			b := c.equation(i)
			return b.residual(b.offLine(o.points[j+2], curveSlots{kind: KindLine, a: o.points[0], b: o.points[1]}))
		})
	case m >= 1 && o.are(m, 1, 0):
		return true, c.chain(m+1, func(j int) error {
			b := c.equation(i)
			return b.residual(b.offLine(o.points[j], o.lines[0]))
		})
	}
	return false, nil
}

// midpoint puts a point half way between the ends of a line or an arc, or between two others.
//
// On an arc the middle is on the circumference and as far from one end as from
// the other; half the angle would have a jump where the arc passes π.
func (c *compiler) midpoint(i int, o operands) (made bool, err error) {
	b := c.equation(i)
	var p, q pointSlots
	switch {
	case o.are(1, 1, 0):
		p, q = o.lines[0].a, o.lines[0].b
	case o.are(3, 0, 0): // the first point between the two others
		p, q = o.points[1], o.points[2]
	case o.are(1, 0, 1) && o.rounds[0].kind == KindArc:
		arc := o.rounds[0]
		m, s, e := b.point(o.points[0]), b.point(arc.a), b.point(arc.b)
		ctr, rad := b.point(arc.c), b.radius(arc)
		return true, b.residuals(2, func(x []jet) [2]jet {
			return [2]jet{m(x).sub(ctr(x)).norm().sub(rad(x)), m(x).sub(s(x)).norm().sub(m(x).sub(e(x)).norm())}
		})
	default:
		return false, nil
	}
	f, g, m := b.point(p), b.point(q), b.point(o.points[0])
	return true, b.residuals(2, func(x []jet) [2]jet { d := f(x).mid(g(x)).sub(m(x)); return [2]jet{d.x, d.y} })
}

// measure adds the equation of a size, or its gauge alone when it is driven.
//
// A driven size has no equation, but its gauge is kept, which is what is shown
// in parentheses. The length of an arc is turn times radius. An angle keeps the
// sign that it has in the drawn geometry: the sheet states it without one, and a
// target of the other sign would turn the line through to the other side.
func (c *compiler) measure(k Constraint, i int, o operands, target float64) (made bool, err error) {
	b := c.equation(i)
	switch k.Kind {
	case "length":
		if o.are(0, 1, 0) {
			_, d := b.line(o.lines[0])
			return true, b.sizeEquation(func(x []jet) jet { return d(x).norm() }, target, false)
		}
		if o.are(0, 0, 1) && o.rounds[0].kind == KindArc {
			turn, rad := b.arcTurn(o.rounds[0]), b.radius(o.rounds[0])
			return true, b.sizeEquation(func(x []jet) jet { return turn(x).mul(rad(x)) }, target, false)
		}
	case "distance":
		return c.distance(b, o, target)
	case "horizontal-distance", "vertical-distance":
		var p, q func([]jet) jvec
		switch {
		case o.are(2, 0, 0):
			p, q = b.point(o.points[0]), b.point(o.points[1])
		case o.are(0, 1, 0):
			p, q = b.point(o.lines[0].a), b.point(o.lines[0].b)
		default:
			return false, nil
		}
		if k.Kind == "horizontal-distance" {
			return true, b.sizeEquation(func(x []jet) jet { return q(x).x.sub(p(x).x) }, target, true)
		}
		return true, b.sizeEquation(func(x []jet) jet { return q(x).y.sub(p(x).y) }, target, true)
	case "radius", "diameter":
		if o.are(0, 0, 1) {
			if k.Kind == "diameter" {
				target /= 2
			}
			return true, b.sizeEquation(b.radius(o.rounds[0]), target, false)
		}
	case "angle":
		if o.are(0, 0, 1) && o.rounds[0].kind == KindArc {
			turn, rad := b.arcTurn(o.rounds[0]), b.radius(o.rounds[0])
			b.gauge(turn)
			if b.driven() {
				return true, nil
			}
			set := b.aim(b.now(turn), target)
			arm := b.now(rad)
			return true, b.residual(func(x []jet) jet { return turn(x).shift(-*set).scale(arm) })
		}
		if o.are(0, 2, 0) {
			angle := b.angle(o.lines[0], o.lines[1])
			b.gauge(angle)
			if b.driven() {
				return true, nil
			}
			now := b.now(angle)
			if now < 0 {
				target = -target
			}
			set := b.aim(now, target)
			return true, b.residual(b.turn(o.lines[0], o.lines[1], 2*math.Pi, func() float64 { return *set }))
		}
	}
	return false, nil
}

// aim marks the equation as a size with the given target.
//
// The target is kept behind a pointer, because a size that changes a great deal
// is led there in steps.
func (b *builder) aim(measured, target float64) *float64 {
	set := new(float64)
	*set = target
	b.measured, b.size, b.target, b.set = measured, true, target, set
	return set
}

// chain runs f for each neighbouring pair of n things.
func (c *compiler) chain(n int, f func(j int) error) error {
	for j := range n - 1 {
		if err := f(j); err != nil {
			return err
		}
	}
	return nil
}

// accepts says in words what each constraint can be put on.
var accepts = map[string]string{
	"coincident": "two points", "on-curve": "a point and a curve", "horizontal": "a line or two points",
	"vertical": "a line or two points", "parallel": "two lines or more",
	"perpendicular": "two lines, or a line and a circle or arc",
	"tangent":       "two curves of which at most one is a line; a spline at its end",
	"concentric":    "circles, arcs and ellipses, and at most one point",
	"collinear":     "two lines or more, three points or more, or points and a line",
	"equal":         "lines, or circles and arcs, or ellipses",
	"symmetric":     "two points, lines, circles, arcs or ellipses of one kind, and a line or a point",
	"midpoint":      "a point and a line, an arc or two points", "fixed": "a point or a curve",
	"length": "a line or an arc", "distance": "two points, lines or circles, or one of each",
	"horizontal-distance": "two points or a line",
	"vertical-distance":   "two points or a line", "radius": "a circle or arc", "diameter": "a circle or arc",
	"angle": "two lines or an arc",
}

// Accepts says in words what a kind of constraint is put on.
func Accepts(kind string) string { return accepts[kind] }

// offLine is the signed distance of a point from a line: positive to the left.
//
// With u the direction and d the vector from the start to the point it is (u ×
// d) / |u|. The sign is kept by the solver, and so is the side.
func (b *builder) offLine(p pointSlots, l curveSlots) func(x []jet) jet {
	pt := b.point(p)
	start, along := b.line(l)
	return func(x []jet) jet {
		u := along(x)
		return u.cross(pt(x).sub(start(x))).div(u.norm())
	}
}

// angle is the signed angle from the direction of the first line to that of the
// second, in (-π, π].
//
// It is atan2(u × v, u · v), which is exact for small angles and for those near
// π, where the arc cosine of the dot product has lost half of its digits.
func (b *builder) angle(l, m curveSlots) func(x []jet) jet {
	_, u := b.line(l)
	_, v := b.line(m)
	return func(x []jet) jet { return atan2(u(x).cross(v(x)), u(x).dot(v(x))) }
}

// turn is (angle - aim) wrapped to half a period either way and scaled by the
// shorter line, so that it is a length like the other residuals.
//
// Wrapping leaves the derivative as it is, since it adds a constant. Near half a
// period it jumps, which is the farthest from where the condition holds.
func (b *builder) turn(l, m curveSlots, period float64, aim func() float64) func(x []jet) jet {
	angle := b.angle(l, m)
	arm := b.scale
	for _, k := range []curveSlots{l, m} {
		if k.entity >= 0 {
			arm = math.Min(arm, math.Max(b.at(k.b).Distance(b.at(k.a)), 1e-3*b.scale))
		}
	}
	return func(x []jet) jet {
		a := angle(x)
		a.v = math.Remainder(a.v-aim(), period)
		return a.scale(arm)
	}
}

// arcTurn is the angle of an arc from its start to its end, in (0, 2π].
//
// A full turn is 2π and not 0, so that an arc whose ends come together opens
// into a circle and does not vanish.
func (b *builder) arcTurn(k curveSlots) func(x []jet) jet {
	ctr, s, e := b.point(k.c), b.point(k.a), b.point(k.b)
	return func(x []jet) jet {
		u, v := s(x).sub(ctr(x)), e(x).sub(ctr(x))
		a := atan2(u.cross(v), u.dot(v))
		if a.v <= 0 {
			a.v += 2 * math.Pi
		}
		return a
	}
}

// direction makes two lines parallel (shift 0) or perpendicular (shift π/2): to
// the nearer of the two directions in which they are.
func (c *compiler) direction(i int, l, m curveSlots, shift float64) error {
	b := c.equation(i)
	return b.residual(b.turn(l, m, math.Pi, func() float64 { return shift }))
}

// same makes one place of two: two residuals, x and y, each a length. It is only
// used where the two do not share their unknowns already; coincident points of a
// sketch do, which leaves fewer unknowns instead of more conditions.
func (b *builder) same(p, q pointSlots) error {
	f, g := b.point(p), b.point(q)
	return b.residuals(2, func(x []jet) [2]jet { d := f(x).sub(g(x)); return [2]jet{d.x, d.y} })
}

// onCurve puts a point on the one curve of the operands.
func (c *compiler) onCurve(i int, p pointSlots, o operands) error {
	b := c.equation(i)
	switch {
	case len(o.lines) == 1:
		return b.residual(b.offLine(p, o.lines[0]))
	case len(o.rounds) == 1:
		pt, ctr, r := b.point(p), b.point(o.rounds[0].c), b.radius(o.rounds[0])
		return b.residual(func(x []jet) jet { return pt(x).sub(ctr(x)).norm().sub(r(x)) })
	case len(o.ellipses) == 1:
		return b.residual(b.offEllipse(p, o.ellipses[0]))
	}
	return c.onSpline(i, p, o.splines[0])
}

// onSpline puts a point on a spline, at a hidden parameter. The equation is of
// one knot interval; it moves to another when the parameter leaves it.
//
// A spline's point has no closed form, so that the parameter is an unknown like
// any other: two residuals (x and y) and one unknown more take the one freedom
// that lying on a curve should take. In a span of the knots the curve is a
// combination of four poles, whatever the others do; the equation is written
// anew for the next span when the parameter leaves it, and the matrix stays
// sparse.
func (c *compiler) onSpline(i int, p pointSlots, k curveSlots) error {
	cv := Curve{Kind: KindSpline, Knots: k.knots}
	for _, q := range k.poles {
		cv.Poles = append(cv.Poles, c.at(q))
	}
	start, _ := cv.Nearest(c.at(p))
	// The parameter is kept as a length, so that it is scaled like the rest.
	per := math.Max(cv.Length(k.knots[3], k.knots[len(k.poles)]), 1e-3*c.scale) / (k.knots[len(k.poles)] - k.knots[3])
	t := c.unknown(-1, roleHidden, start*per)
	for axis := range 2 {
		at := -1
		var eq *builder
		build := func(interval int) {
			eq, at = c.equation(i), interval
			pick := func(q pointSlots) func([]jet) jet {
				if axis == 0 {
					return eq.scalar(q.x)
				}
				return eq.scalar(q.y)
			}
			tt, pt := eq.scalar(t), pick(p)
			var poles [4]func([]jet) jet
			for j := range poles {
				poles[j] = pick(k.poles[interval-3+j])
			}
			eq.count, eq.eval = 1, func(x []jet) [2]jet {
				u := within(tt(x).scale(1/per), k.knots[3], k.knots[len(k.poles)])
				w := basisJet(k.knots, interval, u)
				var sum jet
				for j := range poles {
					sum = sum.add(w[j].mul(poles[j](x)))
				}
				return [2]jet{sum.sub(pt(x))}
			}
		}
		build(span(k.knots, len(k.poles), start))
		n := len(c.equations)
		c.equations = append(c.equations, eq.equation)
		if t.index >= 0 {
			eqs := &c.System
			c.equations[n].refresh = func(x []float64) bool {
				want := span(k.knots, len(k.poles), within(constant(x[t.index]/per), k.knots[3], k.knots[len(k.poles)]).v)
				if want == at {
					return false
				}
				refresh := eqs.equations[n].refresh
				build(want)
				eqs.equations[n] = eq.equation
				eqs.equations[n].refresh = refresh
				return true
			}
		}
	}
	return nil
}

// within keeps a spline's parameter between its ends: one that runs past an end
// runs back along the curve, so that a point on a spline never leaves it.
//
// It is a triangle wave of the parameter: continuous, with a derivative of one
// or minus one, so that a step that overshoots an end is answered by the curve
// just inside of it.
func within(t jet, lo, hi float64) jet {
	period := 2 * (hi - lo)
	t = t.shift(-lo)
	t.v = math.Mod(t.v, period)
	if t.v < 0 {
		t = t.scale(-1)
	}
	if t.v > hi-lo {
		t = t.scale(-1).shift(period)
	}
	return t.shift(lo)
}

// basisJet is basis with derivatives by the parameter.
//
// It is the recurrence of Cox and de Boor for the four cubic functions that are
// not zero in a span (de Boor, A Practical Guide to Splines, 1978, chapter X),
// carried out on jets.
func basisJet(knots []float64, k int, t jet) [4]jet {
	var n, left, right [4]jet
	n[0] = constant(1)
	for j := 1; j <= 3; j++ {
		left[j], right[j] = t.shift(-knots[k+1-j]), constant(knots[k+j]).sub(t)
		var saved jet
		for r := range j {
			den := right[r+1].v + left[j-r].v
			var v jet
			if den != 0 {
				v = n[r].scale(1 / den)
			}
			n[r] = saved.add(right[r+1].mul(v))
			saved = left[j-r].mul(v)
		}
		n[j] = saved
	}
	return n
}

// fix holds every coordinate of the operands where it is.
//
// A curve has fewer freedoms than its points have coordinates, because of
// conditions of its own (an end of an arc lies on it). Fixing every coordinate
// would put spare equations among the others; so the last point is only held in
// its direction, and its distance follows.
func (c *compiler) fix(i int, o operands) (bool, error) {
	if o.count() != 1 {
		return false, nil
	}
	still := func(p pointSlots) error {
		b := c.equation(i)
		f, at := b.point(p), c.at(p)
		return b.residuals(2, func(x []jet) [2]jet { v := f(x); return [2]jet{v.x.shift(-at.X), v.y.shift(-at.Y)} })
	}
	// The last point of a curve with a condition of its own keeps its direction
	// from the centre: the rest follows.
	ray := func(p, centre pointSlots) error {
		b := c.equation(i)
		f, g := b.point(p), b.point(centre)
		dir := c.at(p).Sub(c.at(centre)).Unit()
		return b.residual(func(x []jet) jet {
			d := f(x).sub(g(x))
			return d.y.scale(dir.X).sub(d.x.scale(dir.Y))
		})
	}
	along := func(p, centre pointSlots) error {
		b := c.equation(i)
		f, g := b.point(p), b.point(centre)
		now := c.at(p).Distance(c.at(centre))
		return b.residual(func(x []jet) jet { return f(x).sub(g(x)).norm().shift(-now) })
	}
	var steps []error
	do := func(e error) { steps = append(steps, e) }
	switch {
	case len(o.points) == 1:
		do(still(o.points[0]))
	case len(o.lines) == 1:
		do(still(o.lines[0].a))
		do(still(o.lines[0].b))
	case len(o.rounds) == 1 && o.rounds[0].kind == KindCircle:
		do(still(o.rounds[0].c))
		b := c.equation(i)
		r := b.scalar(o.rounds[0].r)
		now := c.val(o.rounds[0].r)
		do(b.residual(func(x []jet) jet { return r(x).shift(-now) }))
	case len(o.rounds) == 1:
		do(still(o.rounds[0].c))
		do(still(o.rounds[0].a))
		do(ray(o.rounds[0].b, o.rounds[0].c))
	case len(o.ellipses) == 1:
		k := o.ellipses[0]
		do(still(k.c))
		do(still(k.major))
		do(along(k.minor, k.c))
		if k.kind == KindEllArc {
			do(ray(k.a, k.c))
			do(ray(k.b, k.c))
		}
	case len(o.splines) == 1:
		for _, p := range c.visible(o.splines[0]) {
			do(still(p))
		}
	}
	for _, err := range steps {
		if err != nil {
			return true, err
		}
	}
	return true, nil
}

// visible lists the points that a spline stands on.
func (c *compiler) visible(k curveSlots) []pointSlots {
	e := c.sketch.Entities[k.entity]
	var out []pointSlots
	for _, id := range append(append([]string(nil), e.Through...), e.Poles...) {
		out = append(out, c.points[id])
	}
	return out
}

// equal makes neighbours in a chain equal.
//
// Lengths are compared and not their squares: the residual is a length like
// every other.
func (c *compiler) equal(i int, o operands) (bool, error) {
	n := o.count()
	switch {
	case n >= 2 && len(o.lines) == n:
		return true, c.chain(n, func(j int) error {
			b := c.equation(i)
			_, d0 := b.line(o.lines[j])
			_, d1 := b.line(o.lines[j+1])
			return b.residual(func(x []jet) jet { return d0(x).norm().sub(d1(x).norm()) })
		})
	case n >= 2 && len(o.rounds) == n:
		return true, c.chain(n, func(j int) error {
			b := c.equation(i)
			r0, r1 := b.radius(o.rounds[j]), b.radius(o.rounds[j+1])
			return b.residual(func(x []jet) jet { return r0(x).sub(r1(x)) })
		})
	case n >= 2 && len(o.ellipses) == n:
		return true, c.chain(n, func(j int) error {
			b := c.equation(i)
			u0, v0 := b.axes(o.ellipses[j])
			u1, v1 := b.axes(o.ellipses[j+1])
			return b.residuals(2, func(x []jet) [2]jet {
				return [2]jet{u0(x).norm().sub(u1(x).norm()), v0(x).norm().sub(v1(x).norm())}
			})
		})
	}
	return false, nil
}

// mirror is what symmetric is about: a line or a point.
type mirror struct {
	line  *curveSlots
	point *pointSlots
}

// pair makes two points symmetric.
//
// About a line with direction u: the line between the two is square to u, and
// its middle lies on the line. About a point: the middle of the two is the
// point.
func (m mirror) pair(c *compiler, i int, p, q pointSlots) error {
	b := c.equation(i)
	f, g := b.point(p), b.point(q)
	if m.point != nil {
		mid := b.point(*m.point)
		return b.residuals(2, func(x []jet) [2]jet { d := f(x).mid(g(x)).sub(mid(x)); return [2]jet{d.x, d.y} })
	}
	start, along := b.line(*m.line)
	return b.residuals(2, func(x []jet) [2]jet {
		u := along(x)
		n := u.norm()
		return [2]jet{g(x).sub(f(x)).dot(u).div(n), u.cross(f(x).mid(g(x)).sub(start(x))).div(n)}
	})
}

// image is the mirror image of a point's place.
func (m mirror) image(c *compiler, p pointSlots) Vec {
	at := c.at(p)
	if m.point != nil {
		return c.at(*m.point).Scale(2).Sub(at)
	}
	a := c.at(m.line.a)
	u := c.at(m.line.b).Sub(a).Unit()
	d := at.Sub(a)
	return a.Add(u.Scale(2 * d.Dot(u))).Sub(d)
}

// ray puts the image of p in the direction of q from the centre that belongs to
// q, which leaves the distance to the curve's own condition.
//
// It is used for the second end of an arc, whose distance from the centre is a
// condition of the arc itself already; symmetric in both coordinates it would be
// spare by one.
func (m mirror) ray(c *compiler, i int, p, centreP, q, centreQ pointSlots) error {
	b := c.equation(i)
	f, fc, g, gc := b.point(p), b.point(centreP), b.point(q), b.point(centreQ)
	if m.point != nil {
		return b.residual(func(x []jet) jet {
			u := f(x).sub(fc(x))
			return u.cross(g(x).sub(gc(x))).div(u.norm())
		})
	}
	_, along := b.line(*m.line)
	return b.residual(func(x []jet) jet {
		n := along(x)
		d := f(x).sub(fc(x))
		// The image of d is 2 (d·n) n / n² - d.
		w := n.scale(d.dot(n).div(n.dot(n)).scale(2)).sub(d)
		return w.cross(g(x).sub(gc(x))).div(w.norm())
	})
}

// symmetric is put on two of a kind and, as the last operand, a line or a point.
//
// Which end belongs to which is read off the drawn geometry: the image of an end
// goes with the end that it is nearer to. A reflection turns the sense round, so
// that the start of an arc goes with the end of its image.
func (c *compiler) symmetric(i int, k Constraint, o operands) (bool, error) {
	if len(k.Of) != 3 {
		return false, nil
	}
	var m mirror
	last := k.Of[2]
	if p, ok := c.points[last]; ok {
		m.point = &p
		o.points = o.points[:len(o.points)-1]
	} else if l, ok := c.curves[last]; ok && l.kind == KindLine {
		m.line = &l
		o.lines = o.lines[:len(o.lines)-1]
	} else if len(o.lines) == 1 && len(o.points) == 2 { // the line may stand anywhere
		m.line, o.lines = &o.lines[0], nil
	} else {
		return false, nil
	}
	both := func(errs ...error) (bool, error) {
		for _, e := range errs {
			if e != nil {
				return true, e
			}
		}
		return true, nil
	}
	switch {
	case o.are(2, 0, 0):
		return both(m.pair(c, i, o.points[0], o.points[1]))
	case o.are(0, 2, 0):
		l, n := o.lines[0], o.lines[1]
		a, b := n.a, n.b
		if to := m.image(c, l.a); to.Distance(c.at(b)) < to.Distance(c.at(a)) {
			a, b = b, a
		}
		return both(m.pair(c, i, l.a, a), m.pair(c, i, l.b, b))
	case o.are(0, 0, 2):
		r, s := o.rounds[0], o.rounds[1]
		if err := m.pair(c, i, r.c, s.c); err != nil {
			return true, err
		}
		if r.kind == KindArc && s.kind == KindArc {
			a, b := s.a, s.b
			if m.line != nil { // a reflection turns the sense round
				a, b = b, a
			}
			return both(m.pair(c, i, r.a, a), m.ray(c, i, r.b, r.c, b, s.c))
		}
		b := c.equation(i)
		r0, r1 := b.radius(r), b.radius(s)
		return both(b.residual(func(x []jet) jet { return r0(x).sub(r1(x)) }))
	case len(o.ellipses) == 2 && o.count() == 2:
		r, s := o.ellipses[0], o.ellipses[1]
		if err := m.pair(c, i, r.c, s.c); err != nil {
			return true, err
		}
		major := s.major
		if to := m.image(c, r.major); c.at(s.c).Scale(2).Sub(c.at(major)).Distance(to) < c.at(major).Distance(to) {
			// The image is nearer to the other end: the centre and the size make it.
			b := c.equation(i)
			u, _ := b.axes(r)
			w, _ := b.axes(s)
			if err := b.residual(func(x []jet) jet { return u(x).norm().sub(w(x).norm()) }); err != nil {
				return true, err
			}
			if err := m.ray(c, i, r.major, r.c, major, s.c); err != nil {
				return true, err
			}
		} else if err := m.pair(c, i, r.major, major); err != nil {
			return true, err
		}
		b := c.equation(i)
		_, u := b.axes(r)
		_, v := b.axes(s)
		return both(b.residual(func(x []jet) jet { return u(x).norm().sub(v(x).norm()) }))
	}
	return false, nil
}

// distance is put on two points, lines or circles or one of each. Between
// circles, and from a circle, it is the gap to the circumference.
func (c *compiler) distance(b *builder, o operands, target float64) (bool, error) {
	switch {
	case o.are(2, 0, 0):
		p, q := b.point(o.points[0]), b.point(o.points[1])
		return true, b.sizeEquation(func(x []jet) jet { return q(x).sub(p(x)).norm() }, target, false)
	case o.are(1, 1, 0):
		return true, b.sizeEquation(b.offLine(o.points[0], o.lines[0]), target, true)
	case o.are(0, 2, 0): // between parallel lines: from the middle of the second to the first
		l, m := o.lines[0], o.lines[1]
		if m.entity < 0 {
			l, m = m, l
		}
		p, q := b.point(m.a), b.point(m.b)
		start, along := b.line(l)
		return true, b.sizeEquation(func(x []jet) jet {
			u := along(x)
			return u.cross(p(x).mid(q(x)).sub(start(x))).div(u.norm())
		}, target, true)
	case o.are(1, 0, 1):
		p, ctr, r := b.point(o.points[0]), b.point(o.rounds[0].c), b.radius(o.rounds[0])
		return true, b.sizeEquation(func(x []jet) jet { return p(x).sub(ctr(x)).norm().sub(r(x)) }, target, true)
	case o.are(0, 1, 1):
		off, r := b.offLine(o.rounds[0].c, o.lines[0]), b.radius(o.rounds[0])
		side := 1.0
		if b.now(off) < 0 {
			side = -1
		}
		return true, b.sizeEquation(func(x []jet) jet { return off(x).scale(side).sub(r(x)) }, target, true)
	case o.are(0, 0, 2):
		c0, c1, r0, r1 := b.point(o.rounds[0].c), b.point(o.rounds[1].c), b.radius(o.rounds[0]), b.radius(o.rounds[1])
		gap := func(x []jet) jet { return c1(x).sub(c0(x)).norm() }
		d, ra, rb := b.now(gap), b.now(r0), b.now(r1)
		if d >= math.Max(ra, rb) {
			return true, b.sizeEquation(func(x []jet) jet { return gap(x).sub(r0(x)).sub(r1(x)) }, target, true)
		}
		sign := 1.0
		if ra < rb {
			sign = -1
		}
		return true, b.sizeEquation(func(x []jet) jet { return r0(x).sub(r1(x)).scale(sign).sub(gap(x)) }, target, true)
	}
	return false, nil
}
