package sketch

import (
	"math"
	"testing"
)

// A full circle that two tangent lines run on to, from a point outside: the disc is a region
// and so is the wedge between the lines, whether the lines end where they touch, a little before
// or a little beyond.
func TestTangentLinesOnACircle(t *testing.T) {
	const r, far = 10.0, 30.0
	a := math.Acos(r / far)
	for _, off := range []float64{0, 1e-9, -1e-9, 2e-6, -2e-6, 4e-5, -4e-5, 1e-4, -1e-4} {
		curves := []Curve{{ID: "c1", Kind: KindCircle, Radius: r}}
		for i, s := range []float64{1, -1} {
			touch := Vec{r * math.Cos(s*a), r * math.Sin(s*a)}
			apex := Vec{far, 0}
			end := touch.Add(touch.Sub(apex).Unit().Scale(off))
			curves = append(curves, Curve{ID: []string{"l1", "l2"}[i], Kind: KindLine, A: apex, B: end})
		}
		curves = append(curves[1:], curves[0]) // the lines were drawn first
		regions, problems := Regions(curves)
		area := 0.0
		for _, g := range regions {
			area += g.Area()
		}
		want := math.Pi*r*r + r*math.Sqrt(far*far-r*r) - a*r*r
		if len(regions) != 2 || len(problems) > 0 && off <= 0 || math.Abs(area-want) > 1e-2 {
			t.Errorf("ends %g beyond: %d regions of together %.6f, want 2 of %.6f; %d problems", off, len(regions), area,
				want, len(problems))
			for _, p := range problems {
				t.Log(p.Message(func(mm float64) string { return "L" }, func(id string) string { return id }))
			}
		}
	}
}

// Two parallel lines that run on to a full circle, closed by a third: turned to every side, so that
// the places of touching fall on the circle's start as well.
func TestParallelTangents(t *testing.T) {
	const r, long = 10.0, 40.0
	for turn := 0.0; turn < 360; turn += 22.5 {
		for _, noise := range []float64{0, 3e-7, -3e-7} {
			s, c := math.Sincos(turn * math.Pi / 180)
			at := func(x, y float64) Vec { return Vec{5 + x*c - y*s, 7 + x*s + y*c} }
			curves := []Curve{{ID: "c1", Kind: KindCircle, Center: at(0, 0), Radius: r},
				{ID: "l1", Kind: KindLine, A: at(noise, r+noise), B: at(long, r+noise)}, {ID: "l2", Kind: KindLine, A: at(long, -r),
					B: at(noise, -r)}, {ID: "l3", Kind: KindLine, A: at(long, r+noise), B: at(long, -r)}}
			regions, problems := Regions(curves)
			area := 0.0
			for _, g := range regions {
				area += g.Area()
			}
			if want := 2*r*long + math.Pi*r*r/2; len(regions) != 2 || len(problems) > 0 || math.Abs(area-want) > 1e-3 {
				t.Errorf("turned by %g with %g: %d regions of together %.6f, want 2 of %.6f; %d problems", turn, noise,
					len(regions), area, want, len(problems))
			}
		}
	}
}
