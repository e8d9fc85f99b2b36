package assembly

import (
	"math"
	"math/rand/v2"
	"testing"

	"hammerset/core/solid"
)

// The derivatives of a problem are those of its residuals, away from where it begins too, and its solution is that of
// the mechanism.
func TestProblem(t *testing.T) {
	l := newLinkage(t)
	a, b, c := l.body(), l.body(), l.body()
	z := solid.Vec{0, 0, 1}
	l.joint("revolute", b, a, Feature{Form: Circle, Axis: z, Radius: 3})
	l.joint("spherical", c, b, Feature{Form: Sphere, At: solid.Vec{30, 0, 0}, Radius: 3})
	l.joint("cylindrical", c, a, Feature{Form: Cylinder, At: solid.Vec{60, 5, 0}, Axis: solid.Vec{1, 0, 0.2}, Radius: 3})
	p := l.mechanism().Problem()
	n, rows := p.Unknowns(), p.Residuals()
	rng := rand.New(rand.NewPCG(3, 4))
	x := make([]float64, n)
	for i := range x {
		x[i] = 6 * (rng.Float64() - 0.5)
	}
	res, jac := make([]float64, rows), make([]float64, rows*n)
	p.Evaluate(x, res, jac)
	up, down := make([]float64, rows), make([]float64, rows)
	const h = 1e-5
	for j := range n {
		y := append([]float64(nil), x...)
		y[j] += h
		p.Evaluate(y, up, nil)
		y[j] -= 2 * h
		p.Evaluate(y, down, nil)
		for i := range rows {
			if want := (up[i] - down[i]) / (2 * h); math.Abs(jac[i+j*rows]-want) > 1e-6 {
				t.Errorf("residual %d by %d: %g, want %g", i, j, jac[i+j*rows], want)
			}
		}
	}
	if !p.SolveFrom(x) {
		t.Error("it cannot be solved")
	}
}
