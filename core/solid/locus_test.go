package solid

import (
	"math"
	"math/rand/v2"
	"testing"
)

// The line of two planes lies in both, at its point nearest to the origin; parallel planes have none.
func TestPlanesMeet(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 5))
	some := func() Vec { return Vec{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()} }
	for range 200 {
		a := Locus{PlaneLocus, some().Scale(50), some().Unit()}
		b := Locus{PlaneLocus, some().Scale(50), some().Unit()}
		line, ok := a.Meet(b)
		if !ok {
			t.Fatalf("%v and %v do not meet", a, b)
		}
		for _, p := range []Vec{line.At, line.At.Add(line.Dir.Scale(30))} {
			for _, plane := range []Locus{a, b} {
				if d := plane.Apart(Locus{PointLocus, p, Vec{}}); d > 1e-9 {
					t.Errorf("%v is %g off %v", p, d, plane)
				}
			}
		}
		if off := line.At.Dot(line.Dir); math.Abs(off) > 1e-9 {
			t.Errorf("the point is %g along the line from the nearest", off)
		}
		if _, ok := a.Meet(Locus{PlaneLocus, some(), a.Dir.Scale(-1)}); ok {
			t.Errorf("%v meets a plane that is parallel", a)
		}
	}
}

// Distances of what is parallel, whichever is named first, wherever on it the points are.
func TestApart(t *testing.T) {
	x, z := Vec{1, 0, 0}, Vec{0, 0, 1}
	for _, c := range []struct {
		name string
		a, b Locus
		want float64
	}{
		{"two planes", Locus{PlaneLocus, Vec{7, 8, 2}, z}, Locus{PlaneLocus, Vec{-3, 0, 12}, z.Scale(-1)}, 10},
		{"a plane and an axis along it", Locus{PlaneLocus, Vec{7, 8, 2}, z}, Locus{LineLocus, Vec{0, 50, 9}, x}, 7},
		{"two axes", Locus{LineLocus, Vec{0, 0, 4}, z}, Locus{LineLocus, Vec{3, 4, -70}, z.Scale(-1)}, 5},
		{"an axis and a centre", Locus{LineLocus, Vec{0, 0, 4}, z}, Locus{PointLocus, Vec{3, 4, 90}, Vec{}}, 5},
		{"two centres", Locus{PointLocus, Vec{1, 2, 3}, Vec{}}, Locus{PointLocus, Vec{3, 5, 9}, Vec{}}, 7},
	} {
		for _, d := range []float64{c.a.Apart(c.b), c.b.Apart(c.a)} {
			if math.Abs(d-c.want) > 1e-12 {
				t.Errorf("%s: %g, not %g", c.name, d, c.want)
			}
		}
	}
}
