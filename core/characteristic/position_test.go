package characteristic

import (
	"math"
	"math/rand"
	"testing"

	"hammerset/core/solid"
)

// An axis that is shifted from its exact place by some vector is off by the length of that, whichever way the faces
// look that its place is given from.
func TestDisplaced(t *testing.T) {
	rng := rand.New(rand.NewSource(5))
	for range 200 {
		a, b := rng.Float64()*2*math.Pi, rng.Float64()*2*math.Pi
		if math.Abs(math.Sin(a-b)) < 0.1 {
			continue
		}
		normal := func(t float64) solid.Vec { return solid.Vec{math.Cos(t), math.Sin(t), 0} }
		g := &solid.Geometry{Faces: []solid.Face{{Kind: solid.CylinderFace, Axis: solid.Vec{0, 0, 1}},
			{Kind: solid.PlaneFace, Normal: normal(a)}, {Kind: solid.PlaneFace, Normal: normal(b)}}}
		place := Place{{0}, {1}, {2}}
		at := solid.Vec{30 * rng.Float64(), 30 * rng.Float64(), 7}
		exact := []float64{math.Abs(at.Dot(normal(a))), math.Abs(at.Dot(normal(b)))}
		if exact[0] < 2 || exact[1] < 2 {
			continue
		}
		shift := solid.Vec{rng.Float64() - 0.5, rng.Float64() - 0.5, rng.Float64()}
		off, err := displaced(g, place, at.Add(shift), exact)
		if want := math.Hypot(shift[0], shift[1]); err != nil || math.Abs(off-want) > 1e-9 {
			t.Fatalf("shifted by %g it is off by %g: %v", want, off, err)
		}
	}
}
