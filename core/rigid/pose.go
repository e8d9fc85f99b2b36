// Package rigid has rigid bodies in space: their poses, and what small turns and shifts do to
// many of them at once.
package rigid

import (
	"encoding/json"
	"errors"
	"math"

	"gonum.org/v1/gonum/num/quat"

	"hammerset/core/solid"
)

// Pose is the proper motion x ↦ R x + Shift, with R the rotation of the unit quaternion Turn:
// R x = q x q*. Lengths are in millimetres.
type Pose struct {
	Turn  quat.Number
	Shift solid.Vec
}

// Still is the pose that leaves everything where it is.
func Still() Pose { return Pose{Turn: quat.Number{Real: 1}} }

// Rotate turns a direction.
//
// With q = (w, u) it is x + 2 u × (u × x + w x), which takes less than two products of quaternions.
func (p Pose) Rotate(x solid.Vec) solid.Vec {
	u := solid.Vec{p.Turn.Imag, p.Turn.Jmag, p.Turn.Kmag}
	return x.Add(u.Cross(u.Cross(x).Add(x.Scale(p.Turn.Real))).Scale(2))
}

// Apply moves a point.
func (p Pose) Apply(x solid.Vec) solid.Vec { return p.Rotate(x).Add(p.Shift) }

// Place moves a frame.
func (p Pose) Place(f solid.Frame) solid.Frame {
	return solid.Frame{O: p.Apply(f.O), X: p.Rotate(f.X), Y: p.Rotate(f.Y), Z: p.Rotate(f.Z)}
}

// Then is the pose that applies p first and next after it.
func (p Pose) Then(next Pose) Pose {
	return Pose{Turn: unit(quat.Mul(next.Turn, p.Turn)), Shift: next.Apply(p.Shift)}
}

// Inverse undoes p.
func (p Pose) Inverse() Pose {
	back := Pose{Turn: quat.Conj(p.Turn)}
	back.Shift = back.Rotate(p.Shift).Scale(-1)
	return back
}

// Transform is the pose as a matrix: of a unit quaternion (w, u) it is I + 2 w [u] + 2 [u]², with [u] x = u × x.
func (p Pose) Transform() solid.Transform {
	w, x, y, z := p.Turn.Real, p.Turn.Imag, p.Turn.Jmag, p.Turn.Kmag
	return solid.Transform{T: p.Shift, M: [3]solid.Vec{
		{1 - 2*(y*y+z*z), 2 * (x*y - w*z), 2 * (x*z + w*y)},
		{2 * (x*y + w*z), 1 - 2*(x*x+z*z), 2 * (y*z - w*x)},
		{2 * (x*z - w*y), 2 * (y*z + w*x), 1 - 2*(x*x+y*y)},
	}}
}

// Of is the pose of a motion that is given as a matrix. A mirror has none.
//
// The largest of the four numbers is found from the diagonal and the others from it, so that
// nothing is divided by what is nearly zero (S. W. Shepperd, Quaternion from rotation matrix,
// Journal of Guidance and Control 1, 1978).
func Of(t solid.Transform) (Pose, error) {
	if t.Det() < 0 {
		return Pose{}, errors.New("a mirror image is no pose of a rigid body")
	}
	m := t.M
	trace := m[0][0] + m[1][1] + m[2][2]
	var q quat.Number
	switch {
	case trace >= max(m[0][0], m[1][1], m[2][2]):
		q = quat.Number{Real: 1 + trace, Imag: m[2][1] - m[1][2], Jmag: m[0][2] - m[2][0], Kmag: m[1][0] - m[0][1]}
	case m[0][0] >= max(m[1][1], m[2][2]):
		q = quat.Number{Real: m[2][1] - m[1][2], Imag: 1 + 2*m[0][0] - trace, Jmag: m[0][1] + m[1][0], Kmag: m[0][2] +
			m[2][0]}
	case m[1][1] >= m[2][2]:
		q = quat.Number{Real: m[0][2] - m[2][0], Imag: m[0][1] + m[1][0], Jmag: 1 + 2*m[1][1] - trace, Kmag: m[1][2] +
			m[2][1]}
	default:
		q = quat.Number{Real: m[1][0] - m[0][1], Imag: m[0][2] + m[2][0], Jmag: m[1][2] + m[2][1], Kmag: 1 +
			2*m[2][2] - trace}
	}
	return Pose{Turn: unit(q), Shift: t.T}, nil
}

// Between is the pose that brings frame a onto frame b.
func Between(a, b solid.Frame) Pose {
	rows := func(f solid.Frame) solid.Transform { // leads into the coordinates of the frame
		t := solid.Transform{M: [3]solid.Vec{f.X, f.Y, f.Z}}
		t.T = t.Turn(f.O).Scale(-1)
		return t
	}
	p, _ := Of(rows(a).Then(rows(b).Inverse())) // frames are right-handed
	return p
}

// Matrix is the pose as a matrix of four by four, column by column.
func (p Pose) Matrix() [16]float64 {
	var out [16]float64
	for k, v := range []solid.Vec{p.Rotate(solid.Vec{1, 0, 0}), p.Rotate(solid.Vec{0, 1, 0}), p.Rotate(solid.Vec{0, 0, 1}),
		p.Shift} {
		out[4*k], out[4*k+1], out[4*k+2] = v[0], v[1], v[2]
	}
	out[15] = 1
	return out
}

// Angle is by how much the pose turns, from 0 to π.
func (p Pose) Angle() float64 {
	return 2 * math.Atan2(math.Sqrt(p.Turn.Imag*p.Turn.Imag+p.Turn.Jmag*p.Turn.Jmag+p.Turn.Kmag*p.Turn.Kmag),
		math.Abs(p.Turn.Real))
}

func unit(q quat.Number) quat.Number { return quat.Scale(1/quat.Abs(q), q) }

// written is the form of a pose in documents: the four numbers of the turn (the real one first) and
// the shift in millimetres.
type written struct {
	Turn  [4]float64 `json:"turn"`
	Shift solid.Vec  `json:"shift"`
}

// MarshalJSON writes the pose.
func (p Pose) MarshalJSON() ([]byte, error) {
	return json.Marshal(written{[4]float64{p.Turn.Real, p.Turn.Imag, p.Turn.Jmag, p.Turn.Kmag}, p.Shift})
}

// UnmarshalJSON reads a pose. A turn of another length than 1 is brought to it; one without length
// is an error.
func (p *Pose) UnmarshalJSON(data []byte) error {
	w := written{Turn: [4]float64{1, 0, 0, 0}}
	if err := json.Unmarshal(data, &w); err != nil {
		return err
	}
	q := quat.Number{Real: w.Turn[0], Imag: w.Turn[1], Jmag: w.Turn[2], Kmag: w.Turn[3]}
	if n := quat.Abs(q); !(n > 1e-6) || math.IsInf(n, 0) {
		return errors.New("the turn of a pose is four numbers that are not all zero: write 1, 0, 0, 0 for none")
	}
	*p = Pose{Turn: unit(q), Shift: w.Shift}
	return nil
}
