package solve

import (
	"math"
	"math/rand"
	"testing"

	"gonum.org/v1/gonum/num/quat"
	"gonum.org/v1/gonum/spatial/r3"

	"hammerset/core/rigid"
)

// bodies are rigid bodies, with conditions for tests.
type bodies struct{ rigid.Bodies }

func of(n int) bodies { return bodies{rigid.Bodies{Count: n, Reach: 10}} }

func turned(state []float64, b int) quat.Number {
	return quat.Number{Real: state[7*b], Imag: state[7*b+1], Jmag: state[7*b+2], Kmag: state[7*b+3]}
}

func set(state []float64, b int, q quat.Number) {
	q = quat.Scale(1/quat.Abs(q), q)
	state[7*b], state[7*b+1], state[7*b+2], state[7*b+3] = q.Real, q.Imag, q.Jmag, q.Kmag
}

func rotate(q quat.Number, p r3.Vec) r3.Vec { return r3.Rotation(q).Rotate(p) }

// where is the place of a body's point p.
func where(state []float64, b int, p r3.Vec) r3.Vec {
	return r3.Add(rotate(turned(state, b), p), r3.Vec{X: state[7*b+4], Y: state[7*b+5], Z: state[7*b+6]})
}

// six are the unknowns of a body.
func six(b int) []int { return []int{6 * b, 6*b + 1, 6*b + 2, 6*b + 3, 6*b + 4, 6*b + 5} }

// pin asks that point p of body b be at a place: three rows. A turn w moves R p by R (w × p).
func (m bodies) pin(b int, p, at r3.Vec) Group {
	return Group{Vars: six(b), Rows: 3, Eval: func(state, r, jac []float64) {
		d := r3.Sub(where(state, b, p), at)
		copy(r, []float64{d.X, d.Y, d.Z})
		if jac == nil {
			return
		}
		for k, e := range []r3.Vec{{X: 1}, {Y: 1}, {Z: 1}} {
			c := r3.Scale(1/m.Reach, rotate(turned(state, b), r3.Cross(e, p)))
			jac[k], jac[6+k], jac[12+k] = c.X, c.Y, c.Z
			jac[3+k], jac[9+k], jac[15+k] = e.X, e.Y, e.Z
		}
	}}
}

// weld asks that a body be where its pose is given: six rows, three of its origin and one for each
// of three points that hold its turn.
func (m bodies) weld(b int, pose []float64) Group {
	origin := m.pin(b, r3.Vec{}, where(pose, 0, r3.Vec{}))
	axes := []r3.Vec{{X: m.Reach}, {Y: m.Reach}, {Z: m.Reach}}
	return Group{Vars: six(b), Rows: 6, Eval: func(state, r, jac []float64) {
		var inner []float64
		if jac != nil {
			inner = jac[:18]
		}
		origin.Eval(state, r[:3], inner)
		q, want := turned(state, b), turned(pose, 0)
		for k := range 3 { // the k-th axis has no part along the wanted one that follows it
			along := rotate(want, axes[(k+1)%3])
			r[3+k] = r3.Dot(rotate(q, axes[k]), along) / m.Reach
			if jac == nil {
				continue
			}
			for i, e := range []r3.Vec{{X: 1}, {Y: 1}, {Z: 1}} {
				jac[6*(3+k)+i] = r3.Dot(rotate(q, r3.Cross(e, axes[k])), along) / (m.Reach * m.Reach)
				jac[6*(3+k)+3+i] = 0
			}
		}
	}}
}

func system(n int, groups ...Group) (*System, bodies) {
	state := make([]float64, 7*n)
	for b := range n {
		state[7*b] = 1
	}
	m := of(n)
	return New(state, 6*n, groups, 20, m), m
}

// Derivatives by a turn are those of the retraction at zero: the only thing that a retraction has
// to keep.
func TestDerivativesAreThoseOfTheRetraction(t *testing.T) {
	rng := rand.New(rand.NewSource(4))
	m := of(1)
	pose := []float64{0.5, -0.5, 0.5, 0.5, 3, 4, 5}
	for _, g := range []Group{m.pin(0, r3.Vec{X: 7, Y: -2, Z: 4}, r3.Vec{X: 1}), m.weld(0, pose)} {
		s, _ := system(1, g)
		for i := range s.State {
			s.State[i] = rng.NormFloat64()
		}
		set(s.State, 0, turned(s.State, 0))
		base := append([]float64(nil), s.State...)
		jac, plus, minus := make([]float64, g.Rows*6), make([]float64, g.Rows), make([]float64, g.Rows)
		g.Eval(base, plus, jac)
		const h = 1e-5
		for v := range 6 {
			s.moves.Move(s.State, base, []int{v}, []float64{h})
			g.Eval(s.State, plus, nil)
			back := []float64{0}
			if s.moves.Difference(back, base, s.State, []int{v}); math.Abs(back[0]-h) > 1e-12 {
				t.Errorf("a step of %g is told as %g", h, back[0])
			}
			s.moves.Move(s.State, base, []int{v}, []float64{-h})
			g.Eval(s.State, minus, nil)
			for k := range g.Rows {
				if d := (plus[k] - minus[k]) / (2 * h); math.Abs(d-jac[6*k+v]) > 1e-8 {
					t.Errorf("row %d by unknown %d: %g, and the residuals move by %g", k, v, jac[6*k+v], d)
				}
			}
		}
	}
}

// Bodies are brought to where their conditions hold from anywhere, turned by up to half a turn; a
// quaternion stays one of a rotation, which adding displacements to its numbers would not do.
func TestRotationsAreFound(t *testing.T) {
	rng := rand.New(rand.NewSource(5))
	corners := []r3.Vec{{X: 8}, {Y: 6}, {Z: 9}, {X: -3, Y: 2, Z: 1}}
	for trial := range 200 {
		truth := make([]float64, 7)
		for i := range truth {
			truth[i] = 4 * rng.NormFloat64()
		}
		set(truth, 0, turned(truth, 0))
		m := of(1)
		var groups []Group
		for _, c := range corners[:3+trial%2] { // with a fourth point there is more than is needed
			groups = append(groups, m.pin(0, c, where(truth, 0, c)))
		}
		s, _ := system(1, groups...)
		if left := s.Settle(s.Components(s.All())[0], 100); !s.Small(left) {
			t.Fatalf("trial %d: %g is left", trial, left)
		}
		p := r3.Vec{X: 5, Y: 5, Z: 5}
		if d := r3.Norm(r3.Sub(where(s.State, 0, p), where(truth, 0, p))); d > 1e-7 {
			t.Errorf("trial %d: a point is %g off", trial, d)
		}
		if n := quat.Abs(turned(s.State, 0)); math.Abs(n-1) > 1e-12 {
			t.Errorf("trial %d: the quaternion has length %g", trial, n)
		}
	}
}

// The freedoms of joints are those of every book of mechanics (Reuleaux's lower pairs): a spherical
// joint leaves three, two of them on one body a hinge with one, a weld none; a second weld adds
// nothing, and each of its rows is told by what it follows from.
func TestFreedomsOfJoints(t *testing.T) {
	m := of(1)
	a, b, c := r3.Vec{X: 3}, r3.Vec{X: 3, Y: 5}, r3.Vec{Y: 4, Z: 4}
	still := []float64{1, 0, 0, 0, 0, 0, 0}
	for _, x := range []struct {
		name            string
		groups          []Group
		free, dependent int
	}{
		{"free", nil, 6, 0},
		{"spherical", []Group{m.pin(0, a, a)}, 3, 0},
		{"hinge of two points", []Group{m.pin(0, a, a), m.pin(0, b, b)}, 1, 1},
		{"three points", []Group{m.pin(0, a, a), m.pin(0, b, b), m.pin(0, c, c)}, 0, 3},
		{"weld", []Group{m.weld(0, still)}, 0, 0},
		{"weld twice", []Group{m.weld(0, still), m.weld(0, still)}, 0, 6},
	} {
		s, _ := system(1, x.groups...)
		comp := Component{Vars: six(0), Groups: s.All()}
		got := s.MotionsOf(comp, s.State)
		if got.Freedom() != x.free || len(got.Dependent) != x.dependent {
			t.Errorf("%s: %d freedoms and %d spare rows, not %d and %d", x.name, got.Freedom(), len(got.Dependent),
				x.free, x.dependent)
		}
		if n := len(s.Finite(comp, got)); n != x.free {
			t.Errorf("%s: %d motions can be followed, not %d", x.name, n, x.free)
		}
		for _, d := range got.Dependent {
			if len(d.With) == 0 {
				t.Errorf("%s: row %v depends on nothing", x.name, d.Row)
			}
		}
	}
}
