package inspect

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"hammerset/core/solid"
)

// ringSamples are those of a face of a ring: around the axis from a0 to a1, and around the tube from b0 to b1. The
// normal of a hollow one points to the middle of the tube.
func ringSamples(f solid.Frame, radius, tube, a0, a1, b0, b1 float64, hollow bool) (p, n []solid.Vec) {
	for i := range samples {
		for j := range samples {
			a := a0 + (a1-a0)*float64(i)/(samples-1)
			b := b0 + (b1-b0)*float64(j)/(samples-1)
			out := f.X.Scale(math.Cos(a)).Add(f.Y.Scale(math.Sin(a)))
			normal := out.Scale(math.Cos(b)).Add(f.Z.Scale(math.Sin(b)))
			p = append(p, f.O.Add(out.Scale(radius)).Add(normal.Scale(tube)))
			if hollow {
				normal = normal.Scale(-1)
			}
			n = append(n, normal)
		}
	}
	return p, n
}

// A ring is found again from samples of any part of it, in either order of its directions, convex or hollow.
func TestRingsAreRecognised(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	for trial := range 60 {
		f := solid.Plane(solid.Vec{r.NormFloat64() * 50, r.NormFloat64() * 50, 7},
			solid.Vec{r.NormFloat64(), r.NormFloat64(), 1 + r.Float64()}.Unit())
		radius, tube := 10+40*r.Float64(), 1+8*r.Float64()
		hollow := trial%2 == 0
		around := []float64{math.Pi / 2, math.Pi, 2 * math.Pi}[trial%3]
		from := 2 * math.Pi * r.Float64()
		p, n := ringSamples(f, radius, tube, 0, around, from, from+math.Pi/2, hollow)
		if trial%4 > 1 { // the other direction first
			q, m := make([]solid.Vec, len(p)), make([]solid.Vec, len(n))
			for i := range samples {
				for j := range samples {
					q[j*samples+i], m[j*samples+i] = p[i*samples+j], n[i*samples+j]
				}
			}
			p, n = q, m
		}
		face := solid.Face{Kind: solid.OtherFace}
		what := fmt.Sprintf("ring of %.3f and %.3f, %.2f around, hollow %v", radius, tube, around, hollow)
		if recognise(&face, p, n, 1e-4) {
			t.Errorf("%s is taken for a %s", what, face.Kind)
			continue
		}
		if !asRing(&face, p, n, 1e-4) {
			t.Errorf("%s is not recognised", what)
			continue
		}
		if math.Abs(face.Radius-radius) > 1e-4 || math.Abs(face.MinorRadius-tube) > 1e-4 || face.Hollow != hollow ||
			face.Origin.Distance(f.O) > 1e-4 || !face.Axis.Parallel(f.Z, 1e-5) {
			t.Errorf("%s comes out as %+v", what, face)
		}
	}
}

// What is nearly a ring is none: one whose tube gets thicker on the way, and one with a flattened tube.
func TestWhatIsNoRingIsNotTakenForOne(t *testing.T) {
	f := solid.World
	for name, dent := range map[string]func(i, j int) float64{
		"a tube that gets thicker": func(i, _ int) float64 { return 0.02 * float64(i) },
		"a flattened tube":         func(_, j int) float64 { return 0.03 * float64((j-4)*(j-4)) / 16 },
	} {
		p, n := ringSamples(f, 30, 5, 0, math.Pi, 0, math.Pi/2, false)
		for i := range samples {
			for j := range samples {
				k := i*samples + j
				p[k] = p[k].Add(n[k].Scale(dent(i, j)))
			}
		}
		face := solid.Face{Kind: solid.OtherFace}
		if asRing(&face, p, n, 1e-3) {
			t.Errorf("%s is taken for a ring of %g and %g", name, face.Radius, face.MinorRadius)
		}
	}
}

// An edge that hardly bows is no arc: the circle through it could be any.
func TestAnAlmostStraightEdgeIsNoArc(t *testing.T) {
	for _, c := range []struct {
		radius, length float64
		arc            bool
	}{{10, 15, true}, {100, 15, true}, {2000, 4, false}, {1e5, 4, false}} {
		var run []solid.Vec
		for k := range 13 {
			a := c.length / c.radius * float64(k) / 12
			run = append(run, solid.Vec{c.radius * math.Sin(a), c.radius * (1 - math.Cos(a)), 3})
		}
		_, _, r, ok := circleThrough(run, 1e-4)
		if ok != c.arc || ok && math.Abs(r-c.radius) > 1e-6*c.radius {
			t.Errorf("an arc of %g mm on a radius of %g is recognised: %v, with %g", c.length, c.radius, ok, r)
		}
	}
}
