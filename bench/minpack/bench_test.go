package minpack

import (
	"fmt"
	"math"
	"math/rand"
	"testing"
	"time"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

// plate makes a held sketch of about n entities as people draw them: an outline
// of steps with rounded corners, holes in rows placed from its edges and from one
// another, slots, some of it under an angle.
func plate(n int) *sketch.Sketch {
	s := &sketch.Sketch{}
	count := 0
	point := func(x, y float64) string {
		id := fmt.Sprintf("p%d", count)
		count++
		s.Entities = append(s.Entities, sketch.Entity{ID: id, Kind: sketch.KindPoint, At: &[2]float64{x, y}})
		return id
	}
	entity := func(e sketch.Entity) string {
		e.ID = fmt.Sprintf("e%d", count)
		count++
		s.Entities = append(s.Entities, e)
		return e.ID
	}
	con := func(kind, value string, of ...string) {
		s.Constraints = append(s.Constraints, sketch.Constraint{ID: fmt.Sprintf("k%d", len(s.Constraints)), Kind: kind, Of: of, Value: value})
	}
	line := func(a, b string) string { return entity(sketch.Entity{Kind: sketch.KindLine, From: a, To: b}) }
	// Cells of 40 by 30: a tilted rectangle with a hole in it and a slot beside it.
	prev := sketch.Origin
	for cell := 0; len(s.Entities) < n; cell++ {
		x, y := 60*float64(cell%5), 50*float64(cell/5)
		a, b, c, d := point(x, y), point(x+38, y+8), point(x+33, y+30), point(x-6, y+22)
		ab, bc, cd, da := line(a, b), line(b, c), line(c, d), line(d, a)
		con("perpendicular", "", ab, bc)
		con("parallel", "", ab, cd)
		con("parallel", "", bc, da)
		con("length", "40", ab)
		con("length", "25", bc)
		if prev == sketch.Origin {
			con("coincident", "", a, sketch.Origin)
		} else {
			con("horizontal-distance", fmt.Sprint(math.Max(1, math.Abs(x-lastX(cell)))), prev, a)
			con("vertical-distance", fmt.Sprint(math.Max(1, math.Abs(y-lastY(cell)))), prev, a)
		}
		con("angle", "12 deg", sketch.XAxis, ab)
		prev = a
		m := point(x+10, y+10)
		hole := entity(sketch.Entity{Kind: sketch.KindCircle, Center: m, Radius: 3})
		con("distance", "11", m, ab)
		con("distance", "9", m, da)
		con("diameter", "6.6", hole)
		// A slot: two arcs and two lines, tangent and equal.
		c0, c1 := point(x+20, y+14), point(x+30, y+16)
		q0, q1, q2, q3 := point(x+20, y+11), point(x+30, y+13), point(x+30, y+19), point(x+20, y+17)
		l0, l1 := line(q0, q1), line(q2, q3)
		a1 := entity(sketch.Entity{Kind: sketch.KindArc, Center: c1, Start: q1, End: q2})
		a0 := entity(sketch.Entity{Kind: sketch.KindArc, Center: c0, Start: q3, End: q0})
		con("tangent", "", l0, a0)
		con("tangent", "", l0, a1)
		con("tangent", "", l1, a1)
		con("tangent", "", l1, a0)
		con("equal", "", a0, a1)
		con("radius", "3", a0)
		con("distance", "10", c0, c1)
		con("parallel", "", l0, ab)
		con("distance", "12", c0, m)
		con("distance", "13", c0, ab)
	}
	return s
}

func lastX(cell int) float64 { return 60 * float64((cell-1)%5) }
func lastY(cell int) float64 { return 50 * float64((cell-1)/5) }

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
			s := plate(n)
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
