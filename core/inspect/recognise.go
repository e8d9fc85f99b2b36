package inspect

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/mat"

	"hammerset/core/solid"
)

// Programs write planes and cylinders as splines. Measured as free surfaces they
// have no diameter and no axis; here they are recognised by samples, to a
// tolerance that the file itself gives, and measured like any other.

// samples is how many samples of a free face are taken in either direction.
const samples = 9

// Exact is how closely a surface of a file must be what it is taken for, in mm: within the uncertainty that the file
// states, and a tenth of a micrometre to ten of them in any case.
//
// A surface written as a spline is exact to the file's uncertainty, which is what may be asked of it.
func Exact(uncertainty float64) float64 { return math.Min(0.01, math.Max(1e-4, uncertainty)) }

// Recognise finds planes, cylinders, cones, spheres and rings among the free faces of a geometry:
// files come with splines in their place. A surface is one of these where samples of it lie
// within a tolerance (mm) and its normals agree; what is none stays as it is.
//
// Nine by nine samples of each free face are enough to tell a cylinder from a
// surface that is none: both the places and the normals have to agree.
func Recognise(g *solid.Geometry, k solid.Kernel, s solid.Shape, tolerance float64) error {
	for i := range g.Faces {
		if g.Faces[i].Kind != solid.OtherFace {
			continue
		}
		points, normals, err := k.Sample(s, i, samples)
		if err != nil {
			return err
		}
		if f := &g.Faces[i]; !recognise(f, points, normals, tolerance) {
			asRing(f, points, normals, tolerance)
		}
	}
	for i := range g.Edges {
		e := &g.Edges[i]
		if e.Kind != solid.OtherEdge || e.Degenerate {
			continue
		}
		run, err := k.Along(s, i)
		if err != nil {
			return err
		}
		if !straight(e, run, tolerance) {
			circular(e, run, tolerance)
		}
	}
	return nil
}

// straight makes a free edge a line where its points lie on one.
//
// Below ten tolerances of length, everything is straight.
func straight(e *solid.Edge, run []solid.Vec, tolerance float64) bool {
	d := e.B.Sub(e.A)
	if d.Norm() < 10*tolerance {
		return false
	}
	for _, p := range run {
		if solid.FromAxis(p, e.A, d.Unit()).Norm() > tolerance {
			return false
		}
	}
	e.Kind, e.Axis = solid.LineEdge, d.Unit()
	return true
}

// circular makes a free edge a circle, or an arc, where its points lie on one: the circle
// through three of them that are far apart.
//
// The circle through a, b and c has its centre, with u = b - a, v = c - a and w
// = u × v, at
//
//	a + (|v|² (w × u) + |u|² (v × w)) / 2|w|²
//
// Points a third of the edge apart make w large, and so the centre exact. An arc that bows by little more
// than the tolerance could be of any circle, and is left what it is.
func circular(e *solid.Edge, run []solid.Vec, tolerance float64) bool {
	center, axis, r, ok := circleThrough(run, tolerance)
	if ok {
		e.Kind, e.Center, e.Axis, e.Radius = solid.CircleEdge, center, axis, r
	}
	return ok
}

// circleThrough is the circle that points in a row lie on, if there is one.
func circleThrough(run []solid.Vec, tolerance float64) (center, axis solid.Vec, r float64, ok bool) {
	n := len(run)
	a, b, c := run[0], run[n/3], run[2*n/3]
	u, v := b.Sub(a), c.Sub(a)
	w := u.Cross(v)
	if w.Norm() < 1e-12 || w.Norm() < leastBow*tolerance*v.Norm() {
		return center, axis, 0, false
	}
	// The centre is equally far from all three.
	center = a.Add(w.Cross(u).Scale(v.Dot(v)).Add(v.Cross(w).Scale(u.Dot(u))).Scale(1 / (2 * w.Dot(w))))
	axis, r = w.Unit(), a.Distance(center)
	for _, p := range run {
		d := p.Sub(center)
		if math.Abs(d.Norm()-r) > tolerance || math.Abs(d.Dot(axis)) > tolerance {
			return center, axis, 0, false
		}
	}
	return center, axis, r, true
}

// leastBow is how many tolerances an edge must bow, at least, to be taken for an arc.
const leastBow = 20

// slack is how far normals may turn from those of the surface, in radians.
const slack = 2e-3

// recognise makes a free face the simple one that its samples lie on, if there is one.
//
// A sphere is tried before a cone, of which it would be a bad one; at a pole the
// normal is not defined, and such samples are left out.
func recognise(f *solid.Face, points, normals []solid.Vec, tolerance float64) bool {
	var p, n []solid.Vec
	for i := range points {
		if normals[i].Norm() > 0.5 { // not at a pole
			p, n = append(p, points[i]), append(n, normals[i].Unit())
		}
	}
	if len(p) < 12 {
		return false
	}
	return asPlane(f, p, n, tolerance) || asSphere(f, p, n, tolerance) || asTurned(f, p, n, tolerance)
}

// It is summed in shares, so that nothing overflows.
func mean(list []solid.Vec) solid.Vec {
	var m solid.Vec
	for _, v := range list {
		m = m.Add(v.Scale(1 / float64(len(list))))
	}
	return m
}

// A face whose normals cancel out (a closed one) is none.
func asPlane(f *solid.Face, p, n []solid.Vec, tolerance float64) bool {
	normal, middle := mean(n), mean(p)
	if normal.Norm() < 0.5 {
		return false
	}
	normal = normal.Unit()
	for i := range p {
		if math.Abs(p[i].Sub(middle).Dot(normal)) > tolerance || n[i].Angle(normal) > slack {
			return false
		}
	}
	f.Kind, f.Origin, f.Axis, f.Normal = solid.PlaneFace, middle, normal, normal
	return true
}

// asSphere fits |p|² = 2 c·p + (r² - |c|²), which is linear in c and the constant.
//
// A radius above 100 m is a plane that the fit could not tell.
func asSphere(f *solid.Face, p, n []solid.Vec, tolerance float64) bool {
	a, b := mat.NewDense(len(p), 4, nil), mat.NewVecDense(len(p), nil)
	m := mean(p) // about the middle, so that nothing large cancels
	for i, q := range p {
		q = q.Sub(m)
		a.SetRow(i, []float64{2 * q[0], 2 * q[1], 2 * q[2], 1})
		b.SetVec(i, q.Dot(q))
	}
	var x mat.VecDense
	if x.SolveVec(a, b) != nil {
		return false
	}
	c := solid.Vec{x.AtVec(0), x.AtVec(1), x.AtVec(2)}
	r := math.Sqrt(math.Max(0, x.AtVec(3)+c.Dot(c)))
	c = c.Add(m)
	if !(r > tolerance) || r > 1e5 {
		return false
	}
	hollow := n[0].Dot(p[0].Sub(c)) < 0
	for i := range p {
		out := p[i].Sub(c)
		side := out.Unit()
		if hollow {
			side = side.Scale(-1)
		}
		if math.Abs(out.Norm()-r) > tolerance || n[i].Angle(side) > slack {
			return false
		}
	}
	f.Kind, f.Origin, f.Radius, f.Hollow = solid.SphereFace, c, r, hollow
	return true
}

// asTurned finds a cylinder or cone: all normals make one angle with its axis, so that their
// tips lie in a plane square to it; and the lines along the normals meet the axis.
//
// The axis is the direction in which the normals vary least, the eigenvector of
// the least eigenvalue of their covariance. The radius is then the mean distance
// from it, after taking off what a cone adds with the height. A half angle near
// 90 degrees is a plane, and one below the slack a cylinder.
func asTurned(f *solid.Face, p, n []solid.Vec, tolerance float64) bool {
	m := mean(n)
	cov := mat.NewSymDense(3, nil)
	for _, v := range n {
		d := v.Sub(m)
		for r := range 3 {
			for c := r; c < 3; c++ {
				cov.SetSym(r, c, cov.At(r, c)+d[r]*d[c])
			}
		}
	}
	var eig mat.EigenSym
	if !eig.Factorize(cov, true) {
		return false
	}
	var vecs mat.Dense
	eig.VectorsTo(&vecs)
	axis := solid.Vec{vecs.At(0, 0), vecs.At(1, 0), vecs.At(2, 0)}.Unit()
	along := m.Dot(axis) // the sine of the half angle, but for its sign
	if along < 0 {
		axis, along = axis.Scale(-1), -along
	}
	x := axis.Perpendicular()
	y := axis.Cross(x)
	// The axis: of all lines along it the one that the normals' lines pass, by least squares.
	a, b := mat.NewDense(len(p), 2, nil), mat.NewVecDense(len(p), nil)
	for i := range p {
		w := axis.Cross(n[i]) // square to both: the offset along it is none
		a.SetRow(i, []float64{w.Dot(x), w.Dot(y)})
		b.SetVec(i, w.Dot(p[i]))
	}
	var o mat.VecDense
	if o.SolveVec(a, b) != nil {
		return false
	}
	origin := x.Scale(o.AtVec(0)).Add(y.Scale(o.AtVec(1)))
	origin = origin.Add(axis.Scale(mean(p).Dot(axis)))
	hollow := n[0].Dot(solid.FromAxis(p[0], origin, axis)) < 0
	// Radius over height: none for a cylinder.
	half := math.Asin(math.Min(1, along))
	if half > math.Pi/2-0.02 {
		return false
	}
	grow := -math.Tan(half) // an outer cone whose normals lean along the axis gets thinner that way
	if hollow {
		grow = -grow
	}
	if half < slack {
		grow, half = 0, 0
	}
	r := 0.0
	for i := range p {
		r += (solid.FromAxis(p[i], origin, axis).Norm() - grow*p[i].Sub(origin).Dot(axis)) / float64(len(p))
	}
	var angles []float64
	for i := range p {
		out := solid.FromAxis(p[i], origin, axis)
		want := r + grow*p[i].Sub(origin).Dot(axis)
		side := out.Unit().Scale(math.Cos(half))
		if hollow {
			side = side.Scale(-1)
		}
		if math.Abs(out.Norm()-want) > tolerance || n[i].Angle(side.Add(axis.Scale(math.Sin(half)))) > slack {
			return false
		}
		angles = append(angles, math.Atan2(out.Dot(y), out.Dot(x)))
	}
	if !(r > tolerance) || r > 1e5 {
		return false
	}
	f.Origin, f.Axis, f.Radius, f.Hollow, f.Span = origin, axis, r, hollow, span(angles)
	f.Kind = solid.CylinderFace
	if half > 0 {
		f.Kind, f.HalfAngle = solid.ConeFace, half
		if grow < 0 { // along the axis the radius grows
			f.Axis = axis.Scale(-1)
		}
	}
	return true
}

// span is the angle that directions cover: all but their largest gap. Samples of a closed
// face leave no gap larger than their step.
//
// A step of an eighth of a turn is what nine samples leave between them.
func span(angles []float64) float64 {
	sort.Float64s(angles)
	gap := angles[0] + 2*math.Pi - angles[len(angles)-1]
	for i := 1; i < len(angles); i++ {
		gap = math.Max(gap, angles[i]-angles[i-1])
	}
	if gap < 2*math.Pi/8+1e-6 {
		return 2 * math.Pi
	}
	return 2*math.Pi - gap
}
