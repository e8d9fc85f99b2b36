package sketch

import (
	"math"

	"hammerset/core/quantity"
)

// Sizes lists the kinds of constraints that carry a value.
var Sizes = map[string]quantity.Dim{
	"length": quantity.Length, "distance": quantity.Length, "horizontal-distance": quantity.Length,
	"vertical-distance": quantity.Length, "radius": quantity.Length, "diameter": quantity.Length, "angle": quantity.Angle,
}

// operands are the geometry that a constraint names, sorted by kind but
// otherwise in their order.
type operands struct {
	points []pointSlots
	lines  []curveSlots
	rounds []curveSlots // circles and arcs
}

func (o operands) are(points, lines, rounds int) bool {
	return len(o.points) == points && len(o.lines) == lines && len(o.rounds) == rounds
}

// constraint adds the equations of constraint i.
func (c *compiler) constraint(i int) error {
	k := c.sketch.Constraints[i]
	var o operands
	for _, id := range k.Of {
		if p, ok := c.points[id]; ok {
			o.points = append(o.points, p)
		} else if u, ok := c.curves[id]; ok && u.kind == KindLine {
			o.lines = append(o.lines, u)
		} else if ok {
			o.rounds = append(o.rounds, u)
		} else {
			return failf(k.ID, "there is no %q in this sketch", id)
		}
	}
	target := 0.0
	if dim, isSize := Sizes[k.Kind]; isSize {
		if k.Value == "" {
			return failf(k.ID, "a %s needs a value", k.Kind)
		}
		v, err := c.values.Eval(k.Value, dim)
		if err != nil {
			return failf(k.ID, "%v", err)
		}
		if v < 0 || (v == 0 && (k.Kind == "length" || k.Kind == "radius" || k.Kind == "diameter")) {
			return failf(k.ID, "a %s must be greater than zero, and %q is %s", k.Kind, k.Value, quantity.FormatDecimal(v, 4))
		}
		target = v
	} else if k.Value != "" {
		return failf(k.ID, "%s takes no value", k.Kind)
	}
	b := c.equation(i)
	switch k.Kind {
	case "coincident":
		if o.are(2, 0, 0) {
			return nil // joined by sharing unknowns
		}
		if len(o.points) == 1 && len(k.Of) == 2 {
			return failf(k.ID, "use \"on-curve\" to put a point on a curve")
		}
	case "on-curve":
		if o.are(1, 1, 0) {
			return b.residual(b.offLine(o.points[0], o.lines[0]))
		}
		if o.are(1, 0, 1) {
			p, ctr, r := b.point(o.points[0]), b.point(o.rounds[0].c), b.radius(o.rounds[0])
			return b.residual(func(x []jet) jet { return p(x).sub(ctr(x)).norm().sub(r(x)) })
		}
	case "horizontal", "vertical":
		var p, q func([]jet) jvec
		switch {
		case o.are(0, 1, 0):
			p, q = b.point(o.lines[0].a), b.point(o.lines[0].b)
		case o.are(2, 0, 0):
			p, q = b.point(o.points[0]), b.point(o.points[1])
		default:
			return c.misuse(k)
		}
		if k.Kind == "horizontal" {
			return b.residual(func(x []jet) jet { return q(x).y.sub(p(x).y) })
		}
		return b.residual(func(x []jet) jet { return q(x).x.sub(p(x).x) })
	case "parallel", "perpendicular":
		if o.are(0, 2, 0) {
			angle := b.angle(o.lines[0], o.lines[1])
			// Keep the nearest of the directions that satisfy the condition.
			step, shift := math.Pi, 0.0
			if k.Kind == "perpendicular" {
				shift = math.Pi / 2
			}
			aim := math.Round((b.now(angle)-shift)/step)*step + shift
			return b.residual(b.turn(o.lines[0], o.lines[1], func() float64 { return aim }))
		}
	case "tangent":
		if o.are(0, 1, 1) {
			return b.tangentLine(o.lines[0], o.rounds[0])
		}
		if o.are(0, 0, 2) {
			return b.tangentRounds(o.rounds[0], o.rounds[1])
		}
	case "concentric":
		if o.are(0, 0, 2) {
			return b.same(o.rounds[0].c, o.rounds[1].c)
		}
		if o.are(1, 0, 1) {
			return b.same(o.points[0], o.rounds[0].c)
		}
	case "collinear":
		if o.are(0, 2, 0) {
			d0, d1 := b.offLine(o.lines[1].a, o.lines[0]), b.offLine(o.lines[1].b, o.lines[0])
			return b.residuals(2, func(x []jet) [2]jet { return [2]jet{d0(x), d1(x)} })
		}
		if o.are(3, 0, 0) {
			return b.residual(b.offLine(o.points[2], curveSlots{kind: KindLine, a: o.points[0], b: o.points[1]}))
		}
	case "equal":
		if o.are(0, 2, 0) {
			_, d0 := b.line(o.lines[0])
			_, d1 := b.line(o.lines[1])
			return b.residual(func(x []jet) jet { return d0(x).norm().sub(d1(x).norm()) })
		}
		if o.are(0, 0, 2) {
			r0, r1 := b.radius(o.rounds[0]), b.radius(o.rounds[1])
			return b.residual(func(x []jet) jet { return r0(x).sub(r1(x)) })
		}
	case "symmetric":
		if o.are(2, 1, 0) {
			p, q := b.point(o.points[0]), b.point(o.points[1])
			start, along := b.line(o.lines[0])
			return b.residuals(2, func(x []jet) [2]jet {
				u := along(x)
				n := u.norm()
				return [2]jet{q(x).sub(p(x)).dot(u).div(n), u.cross(p(x).mid(q(x)).sub(start(x))).div(n)}
			})
		}
		if o.are(3, 0, 0) {
			p, q, m := b.point(o.points[0]), b.point(o.points[1]), b.point(o.points[2])
			return b.residuals(2, func(x []jet) [2]jet { d := p(x).mid(q(x)).sub(m(x)); return [2]jet{d.x, d.y} })
		}
	case "midpoint":
		if o.are(1, 1, 0) {
			p, q, m := b.point(o.lines[0].a), b.point(o.lines[0].b), b.point(o.points[0])
			return b.residuals(2, func(x []jet) [2]jet { d := p(x).mid(q(x)).sub(m(x)); return [2]jet{d.x, d.y} })
		}
	case "fixed":
		if o.are(1, 0, 0) {
			p, at := b.point(o.points[0]), c.at(o.points[0])
			return b.residuals(2, func(x []jet) [2]jet { v := p(x); return [2]jet{v.x.shift(-at.X), v.y.shift(-at.Y)} })
		}
	case "length":
		if o.are(0, 1, 0) {
			_, d := b.line(o.lines[0])
			return b.sizeEquation(func(x []jet) jet { return d(x).norm() }, target, false)
		}
	case "distance":
		if o.are(2, 0, 0) {
			p, q := b.point(o.points[0]), b.point(o.points[1])
			return b.sizeEquation(func(x []jet) jet { return q(x).sub(p(x)).norm() }, target, false)
		}
		if o.are(1, 1, 0) {
			return b.sizeEquation(b.offLine(o.points[0], o.lines[0]), target, true)
		}
		if o.are(0, 2, 0) { // between parallel lines: from the middle of the second to the first
			p, q := b.point(o.lines[1].a), b.point(o.lines[1].b)
			start, along := b.line(o.lines[0])
			return b.sizeEquation(func(x []jet) jet {
				u := along(x)
				return u.cross(p(x).mid(q(x)).sub(start(x))).div(u.norm())
			}, target, true)
		}
	case "horizontal-distance", "vertical-distance":
		var p, q func([]jet) jvec
		switch {
		case o.are(2, 0, 0):
			p, q = b.point(o.points[0]), b.point(o.points[1])
		case o.are(0, 1, 0):
			p, q = b.point(o.lines[0].a), b.point(o.lines[0].b)
		default:
			return c.misuse(k)
		}
		if k.Kind == "horizontal-distance" {
			return b.sizeEquation(func(x []jet) jet { return q(x).x.sub(p(x).x) }, target, true)
		}
		return b.sizeEquation(func(x []jet) jet { return q(x).y.sub(p(x).y) }, target, true)
	case "radius", "diameter":
		if o.are(0, 0, 1) {
			if k.Kind == "diameter" {
				target /= 2
			}
			return b.sizeEquation(b.radius(o.rounds[0]), target, false)
		}
	case "angle":
		if o.are(0, 2, 0) {
			b.measured = b.now(b.angle(o.lines[0], o.lines[1]))
			if b.measured < 0 {
				target = -target
			}
			b.size, b.target = true, target
			set := new(float64)
			*set = target
			b.set = set
			return b.residual(b.turn(o.lines[0], o.lines[1], func() float64 { return *set }))
		}
	default:
		return failf(k.ID, "%q is not a constraint or size", k.Kind)
	}
	return c.misuse(k)
}

// accepts says in words what each constraint can be put on.
var accepts = map[string]string{
	"coincident": "two points", "on-curve": "a point and a line, circle or arc", "horizontal": "a line or two points",
	"vertical": "a line or two points", "parallel": "two lines", "perpendicular": "two lines",
	"tangent": "a line and a circle or arc, or two circles or arcs", "concentric": "two circles or arcs, or a point and one",
	"collinear": "two lines or three points", "equal": "two lines, or two circles or arcs",
	"symmetric": "two points and a line, or two points and the middle point", "midpoint": "a point and a line", "fixed": "a point",
	"length": "a line", "distance": "two points, a point and a line, or two lines", "horizontal-distance": "two points or a line",
	"vertical-distance": "two points or a line", "radius": "a circle or arc", "diameter": "a circle or arc", "angle": "two lines",
}

func (c *compiler) misuse(k Constraint) error {
	return failf(k.ID, "%s is put on %s, not on %v", k.Kind, accepts[k.Kind], k.Of)
}

// offLine is the signed distance of a point from a line: positive to the left.
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
func (b *builder) angle(l, m curveSlots) func(x []jet) jet {
	_, u := b.line(l)
	_, v := b.line(m)
	return func(x []jet) jet { return atan2(u(x).cross(v(x)), u(x).dot(v(x))) }
}

// turn is (angle - aim) wrapped to (-π, π] and scaled by the sketch's size, so
// that it is a length like the other residuals.
func (b *builder) turn(l, m curveSlots, aim func() float64) func(x []jet) jet {
	angle, scale := b.angle(l, m), b.scale
	return func(x []jet) jet {
		a := angle(x)
		a.v = math.Remainder(a.v-aim(), 2*math.Pi)
		return a.scale(scale)
	}
}

func (b *builder) same(p, q pointSlots) error {
	f, g := b.point(p), b.point(q)
	return b.residuals(2, func(x []jet) [2]jet { d := f(x).sub(g(x)); return [2]jet{d.x, d.y} })
}

// tangentLine keeps the centre on the side of the line where it is. Where the
// line ends on the arc, tangency is perpendicularity of line and radius there,
// which is well conditioned although distance and incidence are not.
func (b *builder) tangentLine(l, r curveSlots) error {
	if r.kind == KindArc {
		for _, end := range []pointSlots{r.a, r.b} {
			if end == l.a || end == l.b {
				p, ctr := b.point(end), b.point(r.c)
				_, along := b.line(l)
				return b.residual(func(x []jet) jet {
					u := along(x)
					return p(x).sub(ctr(x)).dot(u).div(u.norm())
				})
			}
		}
	}
	off, rad := b.offLine(r.c, l), b.radius(r)
	side := 1.0
	if b.now(off) < 0 {
		side = -1
	}
	return b.residual(func(x []jet) jet { return off(x).scale(side).sub(rad(x)) })
}

// tangentRounds keeps two circles or arcs outside or inside one another as they
// are. Where two arcs share an end, tangency is that the end and both centres
// are in line.
func (b *builder) tangentRounds(r, s curveSlots) error {
	if r.kind == KindArc && s.kind == KindArc {
		for _, e := range []pointSlots{r.a, r.b} {
			if e == s.a || e == s.b {
				p, c0, c1 := b.point(e), b.point(r.c), b.point(s.c)
				return b.residual(func(x []jet) jet {
					u := p(x).sub(c0(x))
					return u.cross(p(x).sub(c1(x))).div(u.norm())
				})
			}
		}
	}
	c0, c1, r0, r1 := b.point(r.c), b.point(s.c), b.radius(r), b.radius(s)
	gap := func(x []jet) jet { return c1(x).sub(c0(x)).norm() }
	d, ra, rb := b.now(gap), b.now(r0), b.now(r1)
	if math.Abs(d-(ra+rb)) <= math.Abs(d-math.Abs(ra-rb)) {
		return b.residual(func(x []jet) jet { return gap(x).sub(r0(x)).sub(r1(x)) })
	}
	sign := 1.0
	if ra < rb {
		sign = -1
	}
	return b.residual(func(x []jet) jet { return gap(x).sub(r0(x).sub(r1(x)).scale(sign)) })
}
