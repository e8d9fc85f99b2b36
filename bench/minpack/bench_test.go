package minpack

import (
	"fmt"
	"math"
	"math/rand"
	"testing"
	"time"

	"hammerset/bench/plates"
	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

func compile(t testing.TB, s *sketch.Sketch) *sketch.System {
	t.Helper()
	tab, err := quantity.Evaluate(nil, quantity.Millimetre, nil)
	if err != nil {
		t.Fatal(err)
	}
	sys, err := sketch.Compile(s, 1, tab)
	if err != nil {
		t.Fatal(err)
	}
	return sys
}

// BenchmarkAgainstLmder prints time, its ratio, and the success from perturbed
// starts, for sketches of 20, 60, 150 and 500 entities.
func BenchmarkAgainstLmder(b *testing.B) {
	for _, n := range []int{20, 60, 150, 500} {
		b.Run(fmt.Sprint(n, " entities"), func(b *testing.B) {
			s := plates.Plate(n)
			tab, _ := quantity.Evaluate(nil, quantity.Millimetre, nil)
			sol, err := sketch.Solve(s, 1, tab)
			if err != nil || !sol.Held() {
				b.Fatalf("the plate: %v, solved %v, freedom %d, conflicts %v", err, sol.Solved, sol.Freedom, sol.Conflicts)
			}
			sol.System().Store(s)
			sys := compile(b, s)
			start := make([]float64, sys.Unknowns())
			sys.Place(start)
			goal := 1e-8 * sys.Scale()
			rng := rand.New(rand.NewSource(5))
			x := make([]float64, len(start))
			perturb := func(share float64) {
				for i := range x {
					x[i] = start[i] + share*sys.Scale()*(rng.Float64()-0.5)
				}
			}
			var ours, theirs time.Duration
			runs := 0
			for b.Loop() {
				perturb(0.01)
				keep := append([]float64(nil), x...)
				t0 := time.Now()
				ok := sys.SolveFrom(x)
				t1 := time.Now()
				r := lmder(sys, keep, 400)
				theirs += time.Since(t1)
				ours += t1.Sub(t0)
				if !ok || r > goal {
					b.Logf("from a near start: ours %v, lmder leaves %.3g", ok, r)
				}
				runs++
			}
			trials := map[int]int{20: 200, 60: 60, 150: 12, 500: 1}[n]
			sys.SolveFrom(start) // both solvers have the system made ready
			won, wonTheirs, side, sideTheirs := 0, 0, 0, 0
			reached := make([]float64, len(x))
			for range trials {
				perturb(0.3)
				keep := append([]float64(nil), x...)
				if sys.SolveFrom(x) {
					won++
					sys.Place(reached)
					side += sameSide(reached, start, sys.Scale())
				}
				if lmder(sys, keep, 200) <= goal {
					wonTheirs++
					sideTheirs += sameSide(keep, start, sys.Scale())
				}
			}
			b.ReportMetric(float64(ours.Microseconds())/float64(runs)/1000, "ms/solve")
			b.ReportMetric(float64(theirs.Microseconds())/float64(runs)/1000, "lmder-ms/solve")
			b.ReportMetric(float64(theirs)/float64(ours), "times-faster")
			b.ReportMetric(100*float64(won)/float64(trials), "%solved-from-30%")
			b.ReportMetric(100*float64(wonTheirs)/float64(trials), "%lmder-from-30%")
			b.ReportMetric(100*float64(side)/float64(trials), "%side-kept")
			b.ReportMetric(100*float64(sideTheirs)/float64(trials), "%lmder-side-kept")
			b.ReportMetric(0, "ns/op")
		})
	}
}

// sameSide tells whether the solution is the one that the start was taken from.
func sameSide(x, y []float64, scale float64) int {
	for i := range x {
		if math.Abs(x[i]-y[i]) > 1e-6*scale {
			return 0
		}
	}
	return 1
}
