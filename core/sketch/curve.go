package sketch

import (
	"math"
	"slices"
	"sort"
)

// All kinds of curves are evaluated here by one parameter. Round curves are
// parametrised by the angle, so that half of the range is half of an arc;
// splines by their knots (de Boor, A Practical Guide to Splines, 1978).

// Curve is a solved line, circle, arc, ellipse, elliptical arc or spline in the
// plane, in millimetres.
type Curve struct {
	ID     string
	Kind   string
	Guide  bool
	Traced bool
	A, B   Vec // ends of all but circles and ellipses; arcs run counter-clockwise from A to B
	Center Vec
	Radius float64
	U, V   Vec       // half axes of an ellipse: the point at t is Center + U cos t + V sin t
	Poles  []Vec     // of a spline
	Knots  []float64 // of a spline, clamped: len(Poles)+4 of them
}

// Closed tells whether the curve has no ends.
func (c *Curve) Closed() bool { return c.Kind == KindCircle || c.Kind == KindEllipse }

// Range is the interval of the parameter: 0 to 1 along a line, angles of round
// curves, knots of a spline.
//
// That of an arc begins at the angle of its start and has its end beyond it, so
// that the interval never jumps from 2π to 0.
func (c *Curve) Range() (lo, hi float64) {
	switch c.Kind {
	case KindLine:
		return 0, 1
	case KindCircle, KindEllipse:
		return 0, 2 * math.Pi
	case KindArc:
		lo = c.Center.AngleTo(c.A)
		return lo, lo + turnFrom(lo, c.Center.AngleTo(c.B))
	case KindEllArc:
		lo = c.eccentric(c.A)
		return lo, lo + turnFrom(lo, c.eccentric(c.B))
	}
	return c.Knots[3], c.Knots[len(c.Poles)]
}

// turnFrom is the angle from lo to hi, in (0, 2π].
//
// No turn at all is a full one: a curve of no length is refused elsewhere.
func turnFrom(lo, hi float64) float64 {
	t := wrap(hi - lo)
	if t <= 1e-12 {
		t = 2 * math.Pi
	}
	return t
}

// eccentric is the parameter of the point of an ellipse that is nearest in angle
// to p, for p on the ellipse exactly its own.
//
// With d = p - centre, d = U cos t + V sin t has cos t = d·U / |U|² and sin t =
// d·V / |V|², because the half axes are square to one another.
func (c *Curve) eccentric(p Vec) float64 {
	d := p.Sub(c.Center)
	return math.Atan2(d.Dot(c.V)/c.V.Dot(c.V), d.Dot(c.U)/c.U.Dot(c.U))
}

// Point is the point at parameter t.
func (c *Curve) Point(t float64) Vec {
	switch c.Kind {
	case KindLine:
		return c.A.Add(c.B.Sub(c.A).Scale(t))
	case KindCircle, KindArc:
		return c.Center.Polar(c.Radius, t)
	case KindEllipse, KindEllArc:
		return c.Center.Add(c.U.Scale(math.Cos(t))).Add(c.V.Scale(math.Sin(t)))
	}
	p, _, _ := c.splineAt(t)
	return p
}

// Tangent is the derivative by the parameter at t.
func (c *Curve) Tangent(t float64) Vec {
	switch c.Kind {
	case KindLine:
		return c.B.Sub(c.A)
	case KindCircle, KindArc:
		return Vec{-math.Sin(t), math.Cos(t)}.Scale(c.Radius)
	case KindEllipse, KindEllArc:
		return c.V.Scale(math.Cos(t)).Sub(c.U.Scale(math.Sin(t)))
	}
	_, d, _ := c.splineAt(t)
	return d
}

// curvature is the signed curvature at t, positive to the left.
//
// It is C′ × C″ / |C′|³; on an ellipse C″ points back to the centre, being
// centre - C.
func (c *Curve) curvature(t float64) float64 {
	d := c.Tangent(t)
	var dd Vec
	switch c.Kind {
	case KindLine:
		return 0
	case KindCircle, KindArc:
		return 1 / c.Radius
	case KindEllipse, KindEllArc:
		dd = c.Center.Sub(c.Point(t))
	default:
		_, _, dd = c.splineAt(t)
	}
	n := d.Norm()
	if n == 0 {
		return 0
	}
	return d.Cross(dd) / (n * n * n)
}

// span finds the knot interval that holds t.
//
// The last interval holds its end as well, so that the end of the curve can be
// evaluated.
func span(knots []float64, poles int, t float64) int {
	k := sort.Search(len(knots), func(i int) bool { return knots[i] > t }) - 1
	return max(3, min(k, poles-1))
}

// basis gives the four cubic B-spline basis functions of knot interval k at t
// (Cox 1972, de Boor 1972: the recurrence over the degree).
//
// They are not negative and sum to one, so that a point lies in the hull of four
// poles.
func basis(knots []float64, k int, t float64) [4]float64 {
	var n [4]float64
	var left, right [4]float64
	n[0] = 1
	for j := 1; j <= 3; j++ {
		left[j], right[j] = t-knots[k+1-j], knots[k+j]-t
		saved := 0.0
		for r := range j {
			den := right[r+1] + left[j-r]
			v := 0.0
			if den != 0 {
				v = n[r] / den
			}
			n[r] = saved + right[r+1]*v
			saved = left[j-r] * v
		}
		n[j] = saved
	}
	return n
}

// splineAt is the point with its first and second derivative.
//
// A derivative of a spline of degree n is one of degree n - 1 whose poles are
// the differences n (P[i+1] - P[i]) / (t[i+n+1] - t[i+1]).
func (c *Curve) splineAt(t float64) (p, d, dd Vec) {
	k := span(c.Knots, len(c.Poles), t)
	n := basis(c.Knots, k, t)
	for i := range 4 {
		p = p.Add(c.Poles[k-3+i].Scale(n[i]))
	}
	// The derivative is the spline of degree 2 on the differences of the poles.
	var q [3]Vec
	for i := range 3 {
		a, b := c.Knots[k-2+i], c.Knots[k+1+i]
		if b > a {
			q[i] = c.Poles[k-2+i].Sub(c.Poles[k-3+i]).Scale(3 / (b - a))
		}
	}
	var r [2]Vec
	for i := range 2 {
		a, b := c.Knots[k-1+i], c.Knots[k+1+i]
		if b > a {
			r[i] = q[i+1].Sub(q[i]).Scale(2 / (b - a))
		}
	}
	a, b := c.Knots[k], c.Knots[k+1]
	f := 0.0
	if b > a {
		f = (t - a) / (b - a)
	}
	dd = r[0].Scale(1 - f).Add(r[1].Scale(f))
	// de Boor for the first derivative.
	q0, q1 := lerp(c.Knots, k-1, k+1, t, q[0], q[1]), lerp(c.Knots, k, k+2, t, q[1], q[2])
	d = q0.Scale(1 - f).Add(q1.Scale(f))
	return p, d, dd
}

// lerp is a step of de Boor's algorithm: the place between a and b where the
// knots put t. A span without length, at a multiple knot, takes the later point
// (de Boor, A Practical Guide to Splines, 1978, chapter X).
func lerp(knots []float64, i, j int, t float64, a, b Vec) Vec {
	if knots[j] <= knots[i] {
		return b
	}
	f := (t - knots[i]) / (knots[j] - knots[i])
	return a.Scale(1 - f).Add(b.Scale(f))
}

// uniformKnots are clamped, equally spaced knots for n poles of a cubic.
//
// The first and last knot count four times: the curve begins in its first pole,
// along the first leg of its polygon.
func uniformKnots(n int) []float64 {
	out := make([]float64, n+4)
	for i := range out {
		out[i] = float64(max(0, min(i-3, n-3)))
	}
	return out
}

// Part gives the poles and clamped knots of the piece of a spline between two
// parameters: knots are inserted at both until the spline goes through a pole
// there (Boehm 1980), which leaves its shape as it is.
//
// Putting in a knot moves three poles to places on the polygon between the old
// ones.
func (c *Curve) Part(lo, hi float64) (poles []Vec, knots []float64) {
	poles, knots = slices.Clone(c.Poles), slices.Clone(c.Knots)
	insert := func(t float64) {
		k := span(knots, len(poles), t)
		next := make([]Vec, 0, len(poles)+1)
		for i := range len(poles) + 1 {
			switch {
			case i <= k-3:
				next = append(next, poles[i])
			case i > k:
				next = append(next, poles[i-1])
			default:
				f := (t - knots[i]) / (knots[i+3] - knots[i])
				next = append(next, poles[i-1].Scale(1-f).Add(poles[i].Scale(f)))
			}
		}
		poles, knots = next, slices.Insert(knots, k+1, t)
	}
	multiplicity := func(t float64) int {
		n := 0
		for _, k := range knots {
			if k == t {
				n++
			}
		}
		return n
	}
	for _, t := range []float64{lo, hi} {
		for multiplicity(t) < 3 {
			insert(t)
		}
	}
	// A knot that counts three times has its pole before the first of them.
	if multiplicity(lo) == 3 {
		i := slices.Index(knots, lo)
		poles, knots = poles[i-1:], slices.Insert(slices.Clone(knots[i:]), 0, lo)
	}
	if multiplicity(hi) == 3 {
		i := slices.Index(knots, hi)
		knots = append(slices.Clone(knots[:i+3]), hi)
		poles = poles[:len(knots)-4]
	}
	return poles, knots
}

// Nearest is the point of the curve nearest to p, with its parameter. A line is
// taken between its ends.
//
// Samples find the valley and a golden section search its bottom. It needs no
// derivative, so that a cusp is no trouble; 60 steps leave 1e-12 of the
// interval.
func (c *Curve) Nearest(p Vec) (t float64, q Vec) {
	switch c.Kind {
	case KindLine:
		d := c.B.Sub(c.A)
		if l := d.Dot(d); l > 0 {
			t = math.Max(0, math.Min(1, p.Sub(c.A).Dot(d)/l))
		}
		return t, c.Point(t)
	case KindCircle:
		t = c.Center.AngleTo(p)
		return t, c.Point(t)
	}
	lo, hi := c.Range()
	n := 24
	if c.Kind == KindSpline {
		n = 8 * (len(c.Poles) - 3)
	}
	best := math.Inf(1)
	for i := range n + 1 {
		u := lo + (hi-lo)*float64(i)/float64(n)
		if d := c.Point(u).Distance(p); d < best {
			best, t = d, u
		}
	}
	step := (hi - lo) / float64(n)
	a, b := math.Max(lo, t-step), math.Min(hi, t+step)
	for range 60 { // golden section: the distance has one minimum here
		const g = 0.3819660112501051
		u, v := a+g*(b-a), b-g*(b-a)
		if c.Point(u).Distance(p) < c.Point(v).Distance(p) {
			b = v
		} else {
			a = u
		}
	}
	t = (a + b) / 2
	return t, c.Point(t)
}

// Length is the arc length between two parameters.
//
// An ellipse has no closed form for it, and a spline none that is useful.
func (c *Curve) Length(lo, hi float64) float64 {
	switch c.Kind {
	case KindLine:
		return (hi - lo) * c.B.Sub(c.A).Norm()
	case KindCircle, KindArc:
		return (hi - lo) * c.Radius
	}
	return c.integrate(lo, hi, func(_, d Vec) float64 { return d.Norm() })
}

// gauss are the nodes and weights of the Gauss-Legendre rule of order five on
// (-1, 1): Abramowitz and Stegun, table 25.4 (values from memory).
var gauss = [5][2]float64{{0, 0.5688888888888889}, {0.5384693101056831, 0.47862867049936647},
	{-0.5384693101056831, 0.47862867049936647},
	{0.906179845938664, 0.23692688505618908}, {-0.906179845938664, 0.23692688505618908}}

// integrate sums f(point, derivative) over the parameter, panel by panel; it is
// exact for polynomials of degree nine between the knots.
//
// Ellipses are cut in 32 panels, which leaves less than 1e-12 of a quarter of
// one.
func (c *Curve) integrate(lo, hi float64, f func(p, d Vec) float64) float64 {
	cuts := []float64{lo}
	if c.Kind == KindSpline {
		for _, k := range c.Knots {
			if k > cuts[len(cuts)-1] && k < hi {
				cuts = append(cuts, k)
			}
		}
	} else {
		const n = 32
		for i := 1; i < n; i++ {
			cuts = append(cuts, lo+(hi-lo)*float64(i)/n)
		}
	}
	cuts = append(cuts, hi)
	total := 0.0
	for i := 1; i < len(cuts); i++ {
		m, h := (cuts[i]+cuts[i-1])/2, (cuts[i]-cuts[i-1])/2
		for _, g := range gauss {
			t := m + h*g[0]
			total += h * g[1] * f(c.Point(t), c.Tangent(t))
		}
	}
	return total
}

// Samples are points along the curve between two parameters, close enough that
// the chords stay within tol of it.
//
// A chord over an angle a on a radius r is off by r (1 - cos a/2), so that a
// tolerance allows a step of 2 arccos(1 - tol/r).
func (c *Curve) Samples(lo, hi, tol float64) []Vec {
	if c.Kind == KindLine {
		return []Vec{c.Point(lo), c.Point(hi)}
	}
	n := 8
	switch c.Kind {
	case KindSpline:
		n = 8 * (len(c.Poles) - 3)
	default:
		r := c.Radius
		if c.Kind == KindEllipse || c.Kind == KindEllArc {
			r = math.Max(c.U.Norm(), c.V.Norm())
		}
		if tol < r {
			n = int(math.Ceil((hi - lo) / (2 * math.Acos(1-tol/r))))
		}
	}
	n = max(4, min(n, 400))
	out := make([]Vec, n+1)
	for i := range out {
		out[i] = c.Point(lo + (hi-lo)*float64(i)/float64(n))
	}
	return out
}
