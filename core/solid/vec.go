// Package solid is the port to a solid-geometry kernel: the value types that
// describe solids and the operations that a kernel must offer. Lengths are in
// millimetres, angles in radians.
package solid

import "math"

// Vec is a point or vector in space.
type Vec [3]float64

// Add, Sub, Scale, Dot, Cross, Norm and Unit are the usual operations; Unit of
// the zero vector is zero.
func (a Vec) Add(b Vec) Vec          { return Vec{a[0] + b[0], a[1] + b[1], a[2] + b[2]} }
func (a Vec) Sub(b Vec) Vec          { return Vec{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }
func (a Vec) Scale(f float64) Vec    { return Vec{a[0] * f, a[1] * f, a[2] * f} }
func (a Vec) Dot(b Vec) float64      { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
func (a Vec) Norm() float64          { return math.Sqrt(a.Dot(a)) }
func (a Vec) Distance(b Vec) float64 { return a.Sub(b).Norm() }
func (a Vec) Cross(b Vec) Vec {
	return Vec{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}
func (a Vec) Unit() Vec {
	if n := a.Norm(); n > 0 {
		return a.Scale(1 / n)
	}
	return Vec{}
}

// Angle is the angle between two directions, in [0, π], exact for small ones.
func (a Vec) Angle(b Vec) float64 { return math.Atan2(a.Cross(b).Norm(), a.Dot(b)) }

// Parallel tells whether two directions are parallel or opposite within tol
// radians.
func (a Vec) Parallel(b Vec, tol float64) bool {
	t := a.Angle(b)
	return t <= tol || math.Pi-t <= tol
}

// FromAxis is the component of p-origin perpendicular to the unit axis.
func FromAxis(p, origin, axis Vec) Vec {
	d := p.Sub(origin)
	return d.Sub(axis.Scale(d.Dot(axis)))
}

// Frame is a right-handed system of coordinates; X, Y and Z are unit vectors.
type Frame struct{ O, X, Y, Z Vec }

// World is the frame of the model.
var World = Frame{X: Vec{1, 0, 0}, Y: Vec{0, 1, 0}, Z: Vec{0, 0, 1}}

// Point gives the model coordinates of a point of the frame.
func (f Frame) Point(x, y, z float64) Vec {
	return f.O.Add(f.X.Scale(x)).Add(f.Y.Scale(y)).Add(f.Z.Scale(z))
}

// Local gives the coordinates of a model point in the frame.
func (f Frame) Local(p Vec) Vec {
	d := p.Sub(f.O)
	return Vec{d.Dot(f.X), d.Dot(f.Y), d.Dot(f.Z)}
}

// Plane makes the frame of a plane through p with the unit normal n. Its Y axis
// is the model's Z direction laid into the plane, or the model's Y where n is
// along Z, so that sketches on upright faces stand upright; its origin is the
// model's origin dropped onto the plane. So it depends on the plane alone, not
// on how a kernel happens to describe it.
func Plane(p, n Vec) Frame {
	up := Vec{0, 0, 1}
	if math.Abs(n[2]) > 0.999999 {
		up = Vec{0, 1, 0}
	}
	x := up.Cross(n).Unit()
	return Frame{O: n.Scale(p.Dot(n)), X: x, Y: n.Cross(x), Z: n}
}

// Transform is p ↦ M p + T, with M orthogonal; a mirror has determinant -1.
type Transform struct {
	M [3]Vec // rows
	T Vec
}

// Identity leaves everything where it is.
var Identity = Transform{M: [3]Vec{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}}

// Apply maps a point; Turn maps a direction.
func (t Transform) Apply(p Vec) Vec { return t.Turn(p).Add(t.T) }
func (t Transform) Turn(d Vec) Vec  { return Vec{t.M[0].Dot(d), t.M[1].Dot(d), t.M[2].Dot(d)} }

// Back turns a direction back: Rᵀ d, of a motion.
func (t *Transform) Back(d Vec) Vec {
	return Vec{t.M[0][0]*d[0] + t.M[1][0]*d[1] + t.M[2][0]*d[2], t.M[0][1]*d[0] + t.M[1][1]*d[1] + t.M[2][1]*d[2],
		t.M[0][2]*d[0] + t.M[1][2]*d[1] + t.M[2][2]*d[2]}
}

// Place moves a frame along.
func (t *Transform) Place(f *Frame) Frame {
	return Frame{t.Apply(f.O), t.Turn(f.X), t.Turn(f.Y), t.Turn(f.Z)}
}

// Then is the transform that applies t first and u after it.
func (t Transform) Then(u Transform) Transform {
	var r Transform
	for i := range 3 {
		for j := range 3 {
			for k := range 3 {
				r.M[i][j] += u.M[i][k] * t.M[k][j]
			}
		}
	}
	r.T = u.Apply(t.T)
	return r
}

// Inverse undoes t.
func (t Transform) Inverse() Transform {
	r := Transform{M: [3]Vec{{t.M[0][0], t.M[1][0], t.M[2][0]}, {t.M[0][1], t.M[1][1], t.M[2][1]},
		{t.M[0][2], t.M[1][2], t.M[2][2]}}}
	r.T = r.Turn(t.T).Scale(-1)
	return r
}

// Det is +1 for a motion and -1 for a mirror.
func (t Transform) Det() float64 { return t.M[0].Dot(t.M[1].Cross(t.M[2])) }

// Translation shifts by d.
func Translation(d Vec) Transform { t := Identity; t.T = d; return t }

// Rotation turns by angle about the axis through p, by Rodrigues' formula.
func Rotation(p, axis Vec, angle float64) Transform {
	u := axis.Unit()
	s, c := math.Sincos(angle)
	var t Transform
	for j := range 3 {
		var e Vec
		e[j] = 1
		r := e.Scale(c).Add(u.Cross(e).Scale(s)).Add(u.Scale(u.Dot(e) * (1 - c)))
		for i := range 3 {
			t.M[i][j] = r[i]
		}
	}
	t.T = p.Sub(t.Turn(p))
	return t
}

// Reflection mirrors in the plane through p with unit normal n.
func Reflection(p, n Vec) Transform {
	t := Identity
	for i := range 3 {
		t.M[i] = t.M[i].Sub(n.Scale(2 * n[i]))
	}
	t.T = n.Scale(2 * p.Dot(n))
	return t
}

// Box is an axis-aligned box.
type Box struct{ Min, Max Vec }

// Size is the extent along each axis; Diagonal the length of the diagonal.
func (b Box) Size() Vec         { return b.Max.Sub(b.Min) }
func (b Box) Diagonal() float64 { return b.Size().Norm() }

// Relative gives where p stands in the box: 0 at Min, 1 at Max of each axis.
func (b Box) Relative(p Vec) Vec {
	var r Vec
	for i, s := range b.Size() {
		if s > 0 {
			r[i] = (p[i] - b.Min[i]) / s
		}
	}
	return r
}

// Corners lists the eight corners.
func (b Box) Corners() []Vec {
	var out []Vec
	for i := range 8 {
		p := b.Min
		for k := range 3 {
			if i>>k&1 == 1 {
				p[k] = b.Max[k]
			}
		}
		out = append(out, p)
	}
	return out
}

// Perpendicular is a unit vector square to a: of the x axis, or of y where a lies along x.
func (a Vec) Perpendicular() Vec {
	e := Vec{1, 0, 0}
	if math.Abs(a[0]) > 0.9 {
		e = Vec{0, 1, 0}
	}
	return e.Sub(a.Scale(e.Dot(a))).Unit()
}
