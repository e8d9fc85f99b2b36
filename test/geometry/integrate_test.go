package geometry

import (
	"math"
	"testing"

	"gonum.org/v1/gonum/integrate/quad"

	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// A hole of radius r through a shaft of radius R, its axis e beside the shaft's, takes
// 4 ∫ sqrt(R² - (e+x)²) sqrt(r² - x²) dx over -r to r away, and of the second moment along the hole
// 4/3 ∫ (R² - (e+x)²)^(3/2) sqrt(r² - x²) dx (elementary calculus; for r = R it is the solid of
// Steinmetz, 16 r³/3). The edges of the hole are splines, which must not cost digits; in any pose.
func TestHolesThroughShafts(t *testing.T) {
	var k occ.Kernel
	try := func(s solid.Shape, _ solid.History, err error) solid.Shape {
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	rod := func(at, along solid.Vec, r float64) solid.Shape {
		f := solid.Plane(at, along.Unit())
		f.O = at
		circle := []solid.Segment{{Kind: "circle", Radius: r, Forward: true, Hi: 2 * math.Pi}}
		return try(k.Prism(solid.Profile{Frame: f, Loops: [][]solid.Segment{circle}}, along))
	}
	const R, length = 12.0, 70.0
	for _, c := range []struct{ r, e float64 }{{5, 0}, {9, 0}, {3, 6}, {2, 9.5}} {
		away := func(power, factor float64) float64 {
			return quad.Fixed(func(turn float64) float64 { // x = r sin(turn) takes the roots from the ends
				x := c.e + c.r*math.Sin(turn)
				return factor * math.Pow(R*R-x*x, power) * c.r * c.r * math.Cos(turn) * math.Cos(turn)
			}, -math.Pi/2, math.Pi/2, 200, nil, 0)
		}
		shaft := rod(solid.Vec{0, 0, -length / 2}, solid.Vec{0, 0, length}, R)
		hole := rod(solid.Vec{c.e, -20, 0}, solid.Vec{0, 40, 0}, c.r)
		bored := try(k.Boolean(solid.Difference, shaft, []solid.Shape{hole}))
		for _, s := range []solid.Shape{bored, try(k.Transform(bored, oddPose()))} {
			p, err := k.Props(s)
			if err != nil {
				t.Fatal(err)
			}
			volume := math.Pi*R*R*length - away(0.5, 4)
			if !near(p.Volume, volume, 1e-9) {
				t.Errorf("hole of %g at %g: volume %.10g, want %.10g", c.r, c.e, p.Volume, volume)
			}
			along := math.Pi*R*R*length*R*R/4 - away(1.5, 4.0/3)
			if s == bored {
				got := (p.Inertia[0][0] + p.Inertia[2][2] - p.Inertia[1][1]) / 2
				if !near(got, along, 1e-9) {
					t.Errorf("hole of %g at %g: second moment %.10g, want %.10g", c.r, c.e, got, along)
				}
			} else if q, err := k.Props(bored); err != nil || !near(trace(p.Inertia), trace(q.Inertia), 1e-9) {
				t.Errorf("hole of %g at %g: the trace %.12g turned, %.12g as it was (%v)", c.r, c.e, trace(p.Inertia),
					trace(q.Inertia), err)
			}
		}
	}
}
