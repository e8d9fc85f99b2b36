package rigid

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/num/quat"

	"hammerset/core/solid"
)

func random(rng *rand.Rand) Pose {
	n := rng.NormFloat64
	return Pose{Turn: unit(quat.Number{Real: n(), Imag: n(), Jmag: n(), Kmag: n()}), Shift: solid.Vec{9 * n(), 9 * n(),
		9 * n()}}
}

// Poses are a group that acts as their matrices do, and are read as they are written.
func TestPosesAreMotions(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for range 300 {
		p, q, x := random(rng), random(rng), solid.Vec{3, -4, 5}
		far := func(what string, a, b solid.Vec) {
			if d := a.Distance(b); !(d < 1e-12*100) {
				t.Fatalf("%s: %v and %v", what, a, b)
			}
		}
		far("one after the other", p.Then(q).Apply(x), q.Apply(p.Apply(x)))
		far("there and back", p.Inverse().Apply(p.Apply(x)), x)
		far("the matrix", p.Transform().Apply(x), p.Apply(x))
		again, err := Of(p.Transform())
		if err != nil {
			t.Fatal(err)
		}
		far("of the matrix", again.Apply(x), p.Apply(x))
		a, b := p.Place(solid.World), q.Place(solid.World)
		far("between frames", Between(a, b).Apply(a.Point(1, 2, 3)), b.Point(1, 2, 3))
		data, err := json.Marshal(p)
		if err != nil {
			t.Fatal(err)
		}
		var back Pose
		if err := json.Unmarshal(data, &back); err != nil {
			t.Fatal(err)
		}
		far("written", back.Apply(x), p.Apply(x))
	}
	if _, err := Of(solid.Reflection(solid.Vec{}, solid.Vec{1, 0, 0})); err == nil {
		t.Error("a mirror image is a pose")
	}
	if err := json.Unmarshal([]byte(`{"turn":[0,0,0,0]}`), new(Pose)); err == nil {
		t.Error("a turn without length is a pose")
	}
	// Half turns about all axes are where the real number of the quaternion is nothing.
	for _, axis := range []solid.Vec{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {1, 1, 0}, {1, 2, 3}} {
		r := solid.Rotation(solid.Vec{1, 2, 3}, axis, math.Pi)
		if p, err := Of(r); err != nil || p.Apply(solid.Vec{4, 5, 6}).Distance(r.Apply(solid.Vec{4, 5, 6})) > 1e-12 {
			t.Errorf("half a turn about %v is %v, %v", axis, p, err)
		}
		if a := must(Of(r)).Angle(); math.Abs(a-math.Pi) > 1e-12 {
			t.Errorf("half a turn turns by %g", a)
		}
	}
}

func must(p Pose, err error) Pose {
	if err != nil {
		panic(err)
	}
	return p
}

// What Move does is told by Difference to first order, of any unknowns in any order.
func TestTheRetractionKeepsItsFirstOrder(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	m := Bodies{Count: 3, Reach: 20}
	state := make([]float64, Numbers*3+2)
	for b := range 3 {
		m.Set(state, b, random(rng))
	}
	base := append([]float64(nil), state...)
	vars := []int{m.Plain(1), 13, 2, 0, 9, 1, 6, 17}
	d, back := make([]float64, len(vars)), make([]float64, len(vars))
	for i := range d {
		d[i] = 1e-6 * rng.NormFloat64()
	}
	m.Move(state, base, vars, d)
	m.Difference(back, base, state, vars)
	for i := range d {
		if math.Abs(back[i]-d[i]) > 1e-11 {
			t.Errorf("unknown %d: moved by %g, told as %g", vars[i], d[i], back[i])
		}
	}
	if state[m.At(0)] != base[m.At(0)] || m.Pose(state, 1).Shift[2] != base[Numbers+6] {
		t.Error("what was not among the unknowns has moved")
	}
	for b := range 3 {
		if n := quat.Abs(m.Pose(state, b).Turn); math.Abs(n-1) > 1e-14 {
			t.Errorf("the turn of body %d has length %g", b, n)
		}
	}
}
