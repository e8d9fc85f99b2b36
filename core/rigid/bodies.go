package rigid

import (
	"gonum.org/v1/gonum/num/quat"

	"hammerset/core/solid"
)

// Numbers of a state and unknowns of a body.
const (
	Numbers  = 7 // the four of its turn and the three of its shift
	Unknowns = 6 // a small turn about its own axes, as a length, and a small shift
)

// Bodies is the retraction of Count rigid bodies (see solve.Retraction), followed by unknowns that
// are the state itself. The unknowns of a body are a small turn w, times Reach so that it is a
// length, and a small shift d: they lead from the turn q and the shift t to about q exp(w/2) and to t + d.
type Bodies struct {
	Count int
	Reach float64 // mm
}

// Pose reads the pose of a body from a state.
func (m Bodies) Pose(state []float64, body int) Pose {
	s := state[Numbers*body:]
	return Pose{Turn: quat.Number{Real: s[0], Imag: s[1], Jmag: s[2], Kmag: s[3]}, Shift: solid.Vec{s[4], s[5], s[6]}}
}

// Set writes the pose of a body to a state.
func (m Bodies) Set(state []float64, body int, p Pose) {
	copy(state[Numbers*body:], []float64{p.Turn.Real, p.Turn.Imag, p.Turn.Jmag, p.Turn.Kmag, p.Shift[0], p.Shift[1],
		p.Shift[2]})
}

// Plain is the unknown of a number behind the bodies, and At the place of that number in the state.
func (m Bodies) Plain(i int) int { return Unknowns*m.Count + i }

// At is the place in the state of a number behind the bodies.
func (m Bodies) At(i int) int { return Numbers*m.Count + i }

// body tells which body an unknown belongs to and which of its six it is; of a plain one, where its number is.
func (m Bodies) body(v int) (body, k, plain int) {
	if v >= Unknowns*m.Count {
		return -1, 0, m.At(v - Unknowns*m.Count)
	}
	return v / Unknowns, v % Unknowns, 0
}

// Save copies what displacements of the unknowns vars change.
func (m Bodies) Save(to, from []float64, vars []int) {
	for _, v := range vars {
		if b, _, plain := m.body(v); b < 0 {
			to[plain] = from[plain]
		} else {
			copy(to[Numbers*b:Numbers*(b+1)], from[Numbers*b:Numbers*(b+1)])
		}
	}
}

// Move displaces the unknowns vars of base by d and writes them to state.
//
// The turns of a body are taken one after the other, about its own axes: to first order that is
// the turn by all of them, which is all that a retraction has to be.
func (m Bodies) Move(state, base []float64, vars []int, d []float64) {
	m.Save(state, base, vars)
	for i, v := range vars {
		b, k, plain := m.body(v)
		switch {
		case b < 0:
			state[plain] += d[i]
		case k >= 3:
			state[Numbers*b+4+k-3] += d[i]
		default:
			p := m.Pose(state, b)
			half := quat.Number{}
			*[]*float64{&half.Imag, &half.Jmag, &half.Kmag}[k] = d[i] / m.Reach / 2
			q := unit(quat.Mul(p.Turn, quat.Exp(half)))
			state[Numbers*b], state[Numbers*b+1], state[Numbers*b+2], state[Numbers*b+3] = q.Real, q.Imag, q.Jmag, q.Kmag
		}
	}
}

// Difference writes to d by how much the unknowns vars lead from one state to another one nearby.
func (m Bodies) Difference(d, from, to []float64, vars []int) {
	for i, v := range vars {
		b, k, plain := m.body(v)
		switch {
		case b < 0:
			d[i] = to[plain] - from[plain]
		case k >= 3:
			d[i] = to[Numbers*b+4+k-3] - from[Numbers*b+4+k-3]
		default:
			q := quat.Mul(quat.Conj(m.Pose(from, b).Turn), m.Pose(to, b).Turn)
			if q.Real < 0 { // the same turn, the short way
				q = quat.Scale(-1, q)
			}
			w := quat.Scale(2, quat.Log(q))
			d[i] = m.Reach * []float64{w.Imag, w.Jmag, w.Kmag}[k]
		}
	}
}
