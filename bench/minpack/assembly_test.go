package minpack

import (
	"fmt"
	"math/rand"
	"testing"
	"time"

	"hammerset/bench/tongs"
	"hammerset/core/assembly"
)

// BenchmarkAssemblyAgainstLmder prints time and its ratio for lazy tongs of 10 to 60 bodies, from starts at which every
// body is displaced by up to a hundredth of the size.
func BenchmarkAssemblyAgainstLmder(b *testing.B) {
	for _, pairs := range []int{5, 10, 20, 30} {
		b.Run(fmt.Sprint(2*pairs, " bodies"), func(b *testing.B) {
			doc, shapes := tongs.Tongs(pairs)
			m, err := assembly.New(doc, shapes, nil)
			if err != nil || !m.Solve().Holds {
				b.Fatal("the tongs do not hold", err)
			}
			p := m.Problem()
			x := make([]float64, p.Unknowns())
			p.SolveFrom(x) // both solvers have the system made ready
			rng := rand.New(rand.NewSource(7))
			goal := 1e-8 * p.Scale()
			var ours, theirs time.Duration
			for b.Loop() {
				for i := range x {
					x[i] = 0.01 * p.Scale() * (rng.Float64() - 0.5)
				}
				t0 := time.Now()
				ok := p.SolveFrom(x)
				t1 := time.Now()
				r := lmder(p, x, 400)
				theirs += time.Since(t1)
				ours += t1.Sub(t0)
				if !ok || r > goal {
					b.Logf("ours %v, lmder leaves %.3g", ok, r)
				}
			}
			b.ReportMetric(float64(ours.Microseconds())/float64(b.N)/1000, "ms/solve")
			b.ReportMetric(float64(theirs.Microseconds())/float64(b.N)/1000, "lmder-ms/solve")
			b.ReportMetric(float64(theirs)/float64(ours), "times-faster")
			b.ReportMetric(0, "ns/op")
		})
	}
}
