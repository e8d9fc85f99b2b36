package sketch

import "math"

// Tangency as equations. Said as "the distance from centre to line is the
// radius" and "the end lies on both" it is singular at an end that is shared:
// both gradients are the same there. So each situation has the equation that is
// well conditioned in it.

// end is where a curve ends: the point and the direction of the curve there.
type end struct {
	p   pointSlots
	dir func(b *builder) func(x []jet) jvec
}

// ends lists the ends of a curve with their tangents.
//
// The tangent of a round curve is its radius turned by a right angle, and that
// of a spline at its end the first or last leg of the polygon of its poles.
func (c *compiler) ends(k curveSlots) []end {
	radial := func(p pointSlots) end {
		return end{p, func(b *builder) func(x []jet) jvec {
			f, g := b.point(p), b.point(k.c)
			return func(x []jet) jvec {
				d := f(x).sub(g(x))
				return jvec{d.y.scale(-1), d.x}
			}
		}}
	}
	straight := func(p, q pointSlots) end {
		return end{p, func(b *builder) func(x []jet) jvec {
			f, g := b.point(p), b.point(q)
			return func(x []jet) jvec { return g(x).sub(f(x)) }
		}}
	}
	switch k.kind {
	case KindLine:
		return []end{straight(k.a, k.b), straight(k.b, k.a)}
	case KindArc:
		return []end{radial(k.a), radial(k.b)}
	case KindEllArc:
		normal := func(p pointSlots) end {
			return end{p, func(b *builder) func(x []jet) jvec {
				n := b.ellipseNormal(p, k)
				return func(x []jet) jvec { v := n(x); return jvec{v.y.scale(-1), v.x} }
			}}
		}
		return []end{normal(k.a), normal(k.b)}
	case KindSpline:
		n := len(k.poles)
		return []end{straight(k.a, k.poles[1]), straight(k.b, k.poles[n-2])}
	}
	return nil
}

// tangent makes two curves touch. Where they share an end it is the common
// direction there, which is well conditioned although distance and incidence
// are not. Otherwise circles and lines keep the side on which they are; with
// ellipses, a hidden point of contact carries the condition.
//
// The cross product of unit directions is the sine of the angle between them: it
// is zero, with slope one, where they are tangent. Curves that touch elsewhere
// keep the side they are on, since the equation for the other side is another
// one.
func (c *compiler) tangent(i int, o operands) (bool, error) {
	var two []curveSlots
	for _, l := range [][]curveSlots{o.lines, o.rounds, o.ellipses, o.splines} {
		two = append(two, l...)
	}
	k, m := two[0], two[1]
	if k.kind == KindLine && m.kind == KindLine {
		return false, nil
	}
	for _, e := range c.ends(k) {
		for _, f := range c.ends(m) {
			if e.p == f.p {
				b := c.equation(i)
				u, v := e.dir(b), f.dir(b)
				return true, b.residual(func(x []jet) jet {
					p, q := u(x), v(x)
					return p.cross(q).div(p.norm().mul(q.norm()).sqrt())
				})
			}
		}
	}
	if k.kind == KindSpline || m.kind == KindSpline {
		id := c.sketch.Constraints[i].ID
		return false, failf(id, "a spline is made tangent at an end that it shares with the other curve: join the ends first")
	}
	switch {
	case o.are(0, 1, 1):
		return true, c.tangentLine(i, k, m)
	case o.are(0, 0, 2):
		return true, c.tangentRounds(i, k, m)
	case len(o.lines) == 1:
		return true, c.tangentLineEllipse(i, k, m)
	}
	return true, c.touch(i, k, m)
}

// tangentLine keeps the centre on the side of the line where it is.
//
// With the signed distance h of the centre the equation is s h - r = 0, where s
// is the sign of h as drawn: |h| - r has no derivative at zero.
func (c *compiler) tangentLine(i int, l, r curveSlots) error {
	b := c.equation(i)
	off, rad := b.offLine(r.c, l), b.radius(r)
	side := 1.0
	if b.now(off) < 0 {
		side = -1
	}
	return b.residual(func(x []jet) jet { return off(x).scale(side).sub(rad(x)) })
}

// tangentRounds keeps two circles or arcs outside or inside one another as they
// are.
//
// Which of r₀ + r₁ and |r₀ - r₁| the distance is nearer to tells how they touch.
func (c *compiler) tangentRounds(i int, r, s curveSlots) error {
	b := c.equation(i)
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

// tangentLineEllipse uses the support function of the ellipse: along the unit
// normal n of the line it reaches sqrt((u·n)² + (v·n)²) from its centre.
//
// It needs no point of contact as an unknown, which would be two unknowns and
// two equations more.
func (c *compiler) tangentLineEllipse(i int, l, k curveSlots) error {
	b := c.equation(i)
	off := b.offLine(k.c, l)
	_, along := b.line(l)
	u, v := b.axes(k)
	side := 1.0
	if b.now(off) < 0 {
		side = -1
	}
	return b.residual(func(x []jet) jet {
		d := along(x)
		n := d.norm()
		p, q := d.cross(u(x)).div(n), d.cross(v(x)).div(n)
		return off(x).scale(side).sub(p.mul(p).add(q.mul(q)).sqrt())
	})
}

// touch lets two curves meet in a hidden point with parallel normals.
//
// The point is on both curves and has one normal to both: three equations with
// the two coordinates as unknowns take one freedom, as a tangency should. The
// sine is scaled to a length, so that residuals of the system are comparable.
func (c *compiler) touch(i int, k, m curveSlots) error {
	near := c.curveBySlots(k)
	other := c.curveBySlots(m)
	// Start from the place where the curves are nearest to one another.
	best, at := math.Inf(1), Vec{}
	for _, p := range near.Samples(0, 2*math.Pi, near.size()/50) {
		if _, q := other.Nearest(p); q.Distance(p) < best {
			best, at = q.Distance(p), p.Midpoint(q)
		}
	}
	p := c.hidden(at)
	for _, o := range []curveSlots{k, m} {
		list := operands{}
		if o.kind == KindCircle || o.kind == KindArc {
			list.rounds = []curveSlots{o}
		} else {
			list.ellipses = []curveSlots{o}
		}
		if err := c.onCurve(i, p, list); err != nil {
			return err
		}
	}
	b := c.equation(i)
	normal := func(o curveSlots) func(x []jet) jvec {
		if o.kind == KindCircle || o.kind == KindArc {
			f, g := b.point(p), b.point(o.c)
			return func(x []jet) jvec { return f(x).sub(g(x)) }
		}
		return b.ellipseNormal(p, o)
	}
	n0, n1 := normal(k), normal(m)
	arm := near.size()
	return b.residual(func(x []jet) jet {
		u, v := n0(x), n1(x)
		return u.cross(v).div(u.norm().mul(v.norm())).scale(arm)
	})
}

// curveBySlots is the full curve, without ends, that an operand stands for.
//
// Where an arc touches is on its circle, wherever its ends are.
func (c *compiler) curveBySlots(k curveSlots) Curve {
	out := c.curveOf(c.sketch.Entities[k.entity].ID)
	switch out.Kind {
	case KindArc:
		out.Kind = KindCircle
	case KindEllArc:
		out.Kind = KindEllipse
	}
	return out
}

// size is a typical length of a curve.
//
// It makes angles and parameters comparable to tolerances that are lengths.
func (c *Curve) size() float64 {
	switch c.Kind {
	case KindCircle, KindArc:
		return c.Radius
	case KindEllipse, KindEllArc:
		return math.Max(c.U.Norm(), c.V.Norm())
	case KindLine:
		return c.A.Distance(c.B)
	}
	d := 0.0
	for _, p := range c.Poles {
		d = math.Max(d, p.Distance(c.Poles[0]))
	}
	return d
}
