package sketch

import "math"

// jetSize is the largest number of unknowns that one equation touches: two
// ellipses of three points each and the point where they touch.
const jetSize = 14

// jet is a value with its exact partial derivatives by the unknowns that the
// constraint touches. Arithmetic on jets is the product and chain rule, so a
// residual written with them has analytic derivatives.
type jet struct {
	v float64
	d [jetSize]float64
}

// constant has no derivative.
func constant(v float64) jet { return jet{v: v} }

// add is the sum rule, (a+b)' = a' + b'.
func (a jet) add(b jet) jet {
	a.v += b.v
	for i := range a.d {
		a.d[i] += b.d[i]
	}
	return a
}

// sub is the difference, (a-b)' = a' - b'.
func (a jet) sub(b jet) jet {
	a.v -= b.v
	for i := range a.d {
		a.d[i] -= b.d[i]
	}
	return a
}

// mul is the product rule, (ab)' = a'b + ab'.
func (a jet) mul(b jet) jet {
	r := jet{v: a.v * b.v}
	for i := range a.d {
		r.d[i] = a.d[i]*b.v + a.v*b.d[i]
	}
	return r
}

// div is the quotient rule, written with the quotient r itself: r' = (a' - r b')
// / b, which needs one division for each derivative and is exact to rounding.
func (a jet) div(b jet) jet {
	r := jet{v: a.v / b.v}
	for i := range a.d {
		r.d[i] = (a.d[i] - r.v*b.d[i]) / b.v
	}
	return r
}

// scale multiplies by a number.
func (a jet) scale(f float64) jet {
	a.v *= f
	for i := range a.d {
		a.d[i] *= f
	}
	return a
}

// shift adds a number, which changes no derivative.
func (a jet) shift(c float64) jet { a.v += c; return a }

// jvec is a vector of jets.
type jvec struct{ x, y jet }

// The operations of vectors act on each coordinate; dot and cross are sums of
// products, and their derivatives follow from those of jets.
func (a jvec) sub(b jvec) jvec  { return jvec{a.x.sub(b.x), a.y.sub(b.y)} }
func (a jvec) add(b jvec) jvec  { return jvec{a.x.add(b.x), a.y.add(b.y)} }
func (a jvec) dot(b jvec) jet   { return a.x.mul(b.x).add(a.y.mul(b.y)) }
func (a jvec) cross(b jvec) jet { return a.x.mul(b.y).sub(a.y.mul(b.x)) }

// mid is the middle of two places.
func (a jvec) mid(b jvec) jvec {
	s := a.add(b)
	return jvec{s.x.scale(0.5), s.y.scale(0.5)}
}

func (a jvec) scale(f jet) jvec { return jvec{a.x.mul(f), a.y.mul(f)} }

// sqrt of a value that is not negative; tiny keeps the derivative finite at 0.
func (a jet) sqrt() jet {
	const tiny = 1e-24
	r := jet{v: math.Sqrt(math.Max(a.v, 0) + tiny)}
	for i := range r.d {
		r.d[i] = a.d[i] / (2 * r.v)
	}
	return r
}

// norm is the length; tiny keeps the derivative finite where two points meet.
func (a jvec) norm() jet {
	const tiny = 1e-12
	n := math.Sqrt(a.x.v*a.x.v + a.y.v*a.y.v + tiny*tiny)
	r := jet{v: n}
	for i := range r.d {
		r.d[i] = (a.x.v*a.x.d[i] + a.y.v*a.y.d[i]) / n
	}
	return r
}

// atan2 is the angle of (y, x) with derivative (x dy - y dx) / (x² + y²).
func atan2(y, x jet) jet {
	r := jet{v: math.Atan2(y.v, x.v)}
	q := x.v*x.v + y.v*y.v
	if q == 0 {
		return r
	}
	for i := range r.d {
		r.d[i] = (x.v*y.d[i] - y.v*x.d[i]) / q
	}
	return r
}
