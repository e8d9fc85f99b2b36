package solid

import (
	"math"
	"math/rand"
	"testing"
)

// A cone that goes through a circle of another round face meets it there, however both lie in space and whichever way
// their axes look: the circle is put first, and the faces made through it.
func TestRimsOfRoundFaces(t *testing.T) {
	rng := rand.New(rand.NewSource(3))
	for range 300 {
		axis := Vec{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Unit()
		center := Vec{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Scale(20)
		radius := 2 + 10*rng.Float64()
		on := func(t float64) Vec { return center.Add(axis.Scale(t)) }
		cone := func() Face {
			half, t := 0.1+1.2*rng.Float64(), 8*rng.Float64()-4
			f := Face{Kind: ConeFace, Origin: on(t), Axis: axis, HalfAngle: half, Radius: radius + t*math.Tan(half)}
			if rng.Intn(2) == 0 {
				f.Axis, f.HalfAngle = axis.Scale(-1), -half
			}
			f.Centroid = center
			return f
		}
		far := 5 * rng.Float64()
		first := cone()
		second := []Face{cone(), {Kind: CylinderFace, Origin: on(7), Axis: axis.Scale(-1), Radius: radius},
			{Kind: SphereFace, Origin: on(far), Radius: math.Hypot(far, radius)}}[rng.Intn(3)]
		second.Centroid = center
		if second.Kind == ConeFace && math.Abs(math.Abs(first.HalfAngle)-math.Abs(second.HalfAngle)) < 0.05 ||
			first.Radius < 0.5 || second.Radius < 0.5 { // of one slope, or beyond the apex
			continue
		}
		for _, pair := range [][2]Face{{first, second}, {second, first}} {
			r, ok := pair[0].Rim(pair[1])
			if !ok || r.Center.Distance(center) > 1e-6 || math.Abs(r.Radius-radius) > 1e-6 {
				t.Fatalf("a %s and a %s meet at %v with %g (%v), not at %v with %g", pair[0].Kind, pair[1].Kind, r.Center,
					r.Radius, ok, center, radius)
			}
		}
	}
	beside := Face{Kind: CylinderFace, Origin: Vec{3, 0, 0}, Axis: Vec{0, 0, 1}, Radius: 5}
	if _, ok := (Face{Kind: ConeFace, Axis: Vec{0, 0, 1}, Radius: 5, HalfAngle: 0.3}).Rim(beside); ok {
		t.Error("faces about different axes meet in a circle")
	}
}
