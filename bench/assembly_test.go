package bench

import (
	"fmt"
	"math"
	"slices"
	"testing"
	"time"

	"hammerset/bench/tongs"
	"hammerset/core/assembly"
	"hammerset/core/solid"
)

func mechanism(b *testing.B, pairs int) *assembly.Mechanism {
	b.Helper()
	doc, shapes := tongs.Tongs(pairs)
	m, err := assembly.New(doc, shapes, nil)
	if err != nil {
		b.Fatal(err)
	}
	if s := m.Solve(); !s.Holds || len(m.Lost()) > 0 {
		b.Fatalf("%+v %+v", s, m.Lost())
	}
	return m
}

// BenchmarkPullAssembly pulls the end of lazy tongs to and fro and prints how long 95 of 100 frames take at most.
func BenchmarkPullAssembly(b *testing.B) {
	for _, n := range []int{10, 30} {
		b.Run(fmt.Sprint(2*n, " components"), func(b *testing.B) {
			m := mechanism(b, n)
			last := m.Document.Components[2*n-1].ID
			at := m.Pose(last).Apply(solid.Vec{40, 0, 0})
			var frames []float64
			for b.Loop() {
				pull := m.Pull(last, at)
				for k := range 200 {
					goal := at
					goal[0] -= 120 * math.Sin(float64(k)*math.Pi/100)
					start := time.Now()
					if !pull.To(goal) {
						b.Fatalf("frame %d cannot be followed", k)
					}
					frames = append(frames, float64(time.Since(start).Microseconds())/1000)
				}
			}
			slices.Sort(frames)
			b.ReportMetric(frames[len(frames)*95/100], "ms/95%")
			b.ReportMetric(frames[len(frames)/2], "ms/median")
		})
	}
}

// BenchmarkMobility analyses lazy tongs of 20 and 60 components, which have one freedom.
func BenchmarkMobility(b *testing.B) {
	for _, n := range []int{10, 30} {
		b.Run(fmt.Sprint(2*n, " components"), func(b *testing.B) {
			m := mechanism(b, n)
			for b.Loop() {
				if x := m.Mobility(); x.Freedom != 1 {
					b.Fatalf("%d freedoms", x.Freedom)
				}
			}
		})
	}
}
