package sketch

import (
	"math"
	"testing"
)

// The error of cubic interpolation falls with the fourth power of the step (de Boor, A
// Practical Guide to Splines, chapter IV), at the ends as well as between them, and a
// closed curve has one direction where it closes.
func TestInterpolate(t *testing.T) {
	for name, f := range map[string]func(s float64) Vec{
		"open": func(s float64) Vec { return Vec{X: 30 * s, Y: 8*math.Sin(3*s) + 2*s*s} },
		"closed": func(s float64) Vec {
			return Vec{X: 30 * math.Cos(2*math.Pi*s), Y: 11*math.Sin(2*math.Pi*s) + math.Cos(4*math.Pi*s)}
		},
	} {
		t.Run(name, func(t *testing.T) {
			worst := func(n int) float64 {
				var at []Vec
				for i := range n {
					at = append(at, f(float64(i)/float64(n-1)))
				}
				c, err := Interpolate(at)
				if err != nil {
					t.Fatal(err)
				}
				lo, hi := c.Range()
				if name == "closed" {
					if a, b := c.Tangent(lo).Unit(), c.Tangent(hi).Unit(); c.A != c.B || a.Distance(b) > 1e-9 {
						t.Errorf("closes from %v to %v with directions %v and %v", c.A, c.B, a, b)
					}
				}
				far := 0.0
				for i := range 2001 {
					s := float64(i) / 2000
					far = math.Max(far, c.Point(lo+s*(hi-lo)).Distance(f(s)))
				}
				return far
			}
			coarse, fine := worst(33), worst(65)
			if order := math.Log2(coarse / fine); coarse > 1e-3 || order < 3.7 {
				t.Errorf("33 points are %.2g off and 65 are %.2g: order %.2f", coarse, fine, order)
			}
		})
	}
}
