package sketch

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
)

// Interpolate lays a cubic spline through points that follow one another at equal steps
// of a smooth parameter: one step of its own parameter from each to the next. Its
// directions at the ends are those of the polynomial of degree four through five points
// there, so that its error falls with the fourth power of the step everywhere. Where the
// first and the last point are one, the curve is closed and has one direction there.
//
// The unknown poles solve a system with four entries in a row: places at the
// knots, and directions at the ends, where C′(0) = 3 (P₁ - P₀). The weights -25,
// 48, -36, 16, -3 over 12 are the one-sided difference of order four on five
// points (Abramowitz and Stegun, table 25.2; values from memory).
func Interpolate(points []Vec) (Curve, error) {
	n := len(points)
	if n < 6 {
		return Curve{}, fmt.Errorf("a curve is laid through six points or more, not %d", n)
	}
	c := Curve{Kind: KindSpline, A: points[0], B: points[n-1], Poles: make([]Vec, n+2), Knots: uniformKnots(n + 2)}
	if c.A.Distance(c.B) < 1e-7 {
		c.B = c.A
	}
	var first, last Vec
	if c.A == c.B {
		for k, w := range []float64{1, -8} { // central differences across the joint
			first = first.Add(points[n-3+k].Scale(w / 12)).Sub(points[2-k].Scale(w / 12))
		}
		last = first
	} else {
		for k, w := range []float64{-25, 48, -36, 16, -3} {
			first = first.Add(points[k].Scale(w / 12))
			last = last.Sub(points[n-1-k].Scale(w / 12))
		}
	}
	a, b := mat.NewDense(n+2, n+2, nil), mat.NewDense(n+2, 2, nil)
	row := func(r int, at Vec, from int, weights ...float64) {
		for q, w := range weights {
			a.Set(r, from+q, w)
		}
		b.SetRow(r, []float64{at.X, at.Y})
	}
	row(0, c.A, 0, 1)
	row(1, first, 0, -3, 3)
	row(n, last, n, -3, 3)
	row(n+1, c.B, n+1, 1)
	for j := 1; j < n-1; j++ {
		k := span(c.Knots, n+2, float64(j))
		w := basis(c.Knots, k, float64(j))
		row(j+1, points[j], k-3, w[:]...)
	}
	var out mat.Dense
	if err := out.Solve(a, b); err != nil {
		return Curve{}, fmt.Errorf("no curve runs through these points: %w", err)
	}
	for j := range c.Poles {
		c.Poles[j] = Vec{X: out.At(j, 0), Y: out.At(j, 1)}
	}
	c.Poles[0], c.Poles[n+1] = c.A, c.B
	return c, nil
}

// Spread chooses n points on a curve that is given by many: so that their steps are those
// of a smooth parameter that runs slower where the curve bends more, with the ends kept.
// Between the given points it takes the cubic through the four next to it.
//
// The weight of a piece is its length times the mean bend and a share for length
// alone, so that straight pieces have points too. The smoothing is a moving mean
// over a sixteenth of the curve, three times, which is nearly a Gaussian.
func Spread(points []Vec, n int) []Vec {
	m := len(points)
	chord := make([]float64, m) // length up to each point
	for i := 1; i < m; i++ {
		chord[i] = chord[i-1] + points[i].Distance(points[i-1])
	}
	length := chord[m-1]
	closed := points[0].Distance(points[m-1]) < 1e-7
	at := func(i int) Vec {
		if closed {
			return points[((i%(m-1))+m-1)%(m-1)]
		}
		return points[max(0, min(i, m-1))]
	}
	// A cubic strays from a curve by the fourth power of its step, so the density grows
	// with how much the curve bends; it is smoothed, so that the parameter is.
	bend := make([]float64, m)
	for i := range m {
		k := i
		if !closed {
			k = max(1, min(i, m-2))
		}
		a, b, c := at(k-1), at(k), at(k+1)
		if d := b.Distance(a) * c.Distance(b) * c.Distance(a); d > 0 {
			bend[i] = 2 * math.Abs(b.Sub(a).Cross(c.Sub(b))) / d
		}
	}
	for range 3 {
		was := slices.Clone(bend)
		for i := range m {
			sum, count := 0.0, 0.0
			for k := i - m/32; k <= i+m/32; k++ {
				switch {
				case closed:
					sum, count = sum+was[((k%(m-1))+m-1)%(m-1)], count+1
				case k >= 0 && k < m:
					sum, count = sum+was[k], count+1
				}
			}
			bend[i] = sum / count
		}
	}
	weight := make([]float64, m) // of the run up to each point
	for i := 1; i < m; i++ {
		weight[i] = weight[i-1] + (chord[i]-chord[i-1])*(4/length+(bend[i]+bend[i-1])/2)
	}
	out := make([]Vec, n)
	out[0], out[n-1] = points[0], points[m-1]
	for j, i := 1, 1; j < n-1; j++ {
		want := weight[m-1] * float64(j) / float64(n-1)
		for weight[i] < want {
			i++
		}
		s := chord[i-1] + (chord[i]-chord[i-1])*(want-weight[i-1])/(weight[i]-weight[i-1])
		lo := max(0, min(i-2, m-4))
		for a := lo; a < lo+4; a++ {
			w := 1.0
			for b := lo; b < lo+4; b++ {
				if b != a {
					w *= (s - chord[b]) / (chord[a] - chord[b])
				}
			}
			out[j] = out[j].Add(points[a].Scale(w))
		}
	}
	return out
}
