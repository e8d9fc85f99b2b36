package part

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

func line(id string, a, b sketch.Vec) sketch.Curve {
	return sketch.Curve{ID: id, Kind: sketch.KindLine, A: a, B: b}
}

func polyline(p []sketch.Vec, closed bool) []sketch.Curve {
	var out []sketch.Curve
	for i := range p {
		if i+1 < len(p) || closed {
			out = append(out, line(fmt.Sprint("l", i), p[i], p[(i+1)%len(p)]))
		}
	}
	return out
}

// shuffled mixes curves and turns some of them round, as students draw them.
func shuffled(r *rand.Rand, list []sketch.Curve) []sketch.Curve {
	list = slices.Clone(list)
	r.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	for i := range list {
		if list[i].Kind == sketch.KindLine && r.IntN(2) == 0 {
			list[i].A, list[i].B = list[i].B, list[i].A
		}
	}
	return list
}

// convex is a convex polygon with its corners on a circle, counter-clockwise.
func convex(r *rand.Rand, n int, radius float64) []sketch.Vec {
	var turn []float64
	sum := 0.0
	for range n {
		t := 1 + r.Float64()
		sum += t
		turn = append(turn, t)
	}
	var out []sketch.Vec
	at := r.Float64()
	for _, t := range turn {
		at += t / sum * 2 * math.Pi
		out = append(out, sketch.Vec{X: 3, Y: -2}.Add(sketch.Vec{X: math.Cos(at), Y: math.Sin(at)}.Scale(radius)))
	}
	return out
}

// A row of curves is found whatever the order and sense in which they were drawn, each
// curve once, end to end; a path begins at one of its open ends.
func TestRunsFollowEndToEnd(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 1))
	for trial := range 60 {
		n := 3 + r.IntN(9)
		closed := trial%2 == 0
		curves := shuffled(r, polyline(convex(r, n, 20), closed))
		list, err := runs(curves, quantity.Millimetre)
		if err != nil || len(list) != 1 {
			t.Fatalf("%d runs, %v", len(list), err)
		}
		got := list[0]
		if len(got.curves) != len(curves) || got.closed != closed {
			t.Fatalf("%d of %d curves, closed %v", len(got.curves), len(curves), got.closed)
		}
		seen := map[string]bool{}
		for i := range got.curves {
			seen[got.curves[i].ID] = true
			if i > 0 && got.at(i-1, true).Distance(got.at(i, false)) > 1e-9 {
				t.Fatalf("a gap between %d and %d", i-1, i)
			}
		}
		if len(seen) != len(curves) {
			t.Fatalf("only %d different curves", len(seen))
		}
		before := got.area()
		got.reverse()
		if math.Abs(before+got.area()) > 1e-9*(1+math.Abs(before)) {
			t.Fatalf("turned round, the area %g becomes %g", before, got.area())
		}
	}
	square := []sketch.Vec{{X: 0, Y: 0}, {X: 10, Y: 0}, {X: 10, Y: 10}, {X: 0, Y: 10}}
	extra := append(polyline(square, true), line("spur", square[1], sketch.Vec{X: 20, Y: -5}))
	_, err := runs(extra, quantity.Millimetre)
	if err == nil || !strings.Contains(err.Error(), "3 curves meet at 10, 0 mm") {
		t.Errorf("a spur: %v", err)
	}
	guide := extra
	guide[4].Guide = true
	if list, err := runs(guide, quantity.Millimetre); err != nil || len(list) != 1 || !list[0].closed {
		t.Errorf("a spur that is a guide line: %d, %v", len(list), err)
	}
	apart := append(polyline(square[:2], false), line("z", sketch.Vec{X: 50, Y: 0}, sketch.Vec{X: 60, Y: 0}))
	apart = append(apart, sketch.Curve{ID: "c", Kind: sketch.KindCircle, Radius: 4})
	if list, err := runs(apart, quantity.Millimetre); err != nil || len(list) != 3 {
		t.Errorf("%d runs of three that are apart, %v", len(list), err)
	}
}

// The area of a convex polygon that is moved inwards by d is that of Steiner's formula
// with the sign turned: A - P d + d² Σ tan(turn/2), as long as no side vanishes; to the
// outside, with corners kept, A + P d + d² Σ tan(turn/2).
func TestOffsetOfPolygonsAgainstSteiner(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 2))
	for range 80 {
		p := convex(r, 3+r.IntN(6), 30)
		list, err := runs(shuffled(r, polyline(p, true)), quantity.Millimetre)
		if err != nil {
			t.Fatal(err)
		}
		g := list[0]
		if g.area() < 0 {
			g.reverse()
		}
		perimeter, corners := 0.0, 0.0
		for i := range p {
			a, b, c := p[i], p[(i+1)%len(p)], p[(i+2)%len(p)]
			perimeter += a.Distance(b)
			u, v := b.Sub(a).Unit(), c.Sub(b).Unit()
			corners += math.Tan(math.Atan2(u.Cross(v), u.Dot(v)) / 2)
		}
		d := (r.Float64() - 0.5) * 3
		moved, err := g.offset(d, byID) // to the left, which is inside
		if err != nil {
			continue // a short side vanishes
		}
		want := g.area() - perimeter*d + corners*d*d
		if math.Abs(moved.area()-want) > 1e-9*want {
			t.Fatalf("moved by %g the area is %g, not %g", d, moved.area(), want)
		}
	}
}

// A stadium of two lines and two arcs keeps its form: its offset is the stadium with
// radii that differ by the distance, and one that is thicker than the radius is refused
// with the curve's name.
func TestOffsetOfRoundRuns(t *testing.T) {
	stadium := []sketch.Curve{
		line("low", sketch.Vec{X: -20, Y: -6}, sketch.Vec{X: 20, Y: -6}),
		{ID: "east", Kind: sketch.KindArc, Center: sketch.Vec{X: 20}, Radius: 6, A: sketch.Vec{X: 20, Y: -6},
			B: sketch.Vec{X: 20, Y: 6}},
		line("high", sketch.Vec{X: 20, Y: 6}, sketch.Vec{X: -20, Y: 6}),
		{ID: "west", Kind: sketch.KindArc, Center: sketch.Vec{X: -20}, Radius: 6, A: sketch.Vec{X: -20, Y: 6},
			B: sketch.Vec{X: -20, Y: -6}},
	}
	list, err := runs(stadium, quantity.Millimetre)
	if err != nil {
		t.Fatal(err)
	}
	g := list[0]
	if g.area() < 0 {
		g.reverse()
	}
	for _, d := range []float64{-4, -0.5, 2, 5.5} {
		m, err := g.offset(d, byID)
		if err != nil {
			t.Fatal(err)
		}
		for i, c := range m.curves {
			if c.Kind == sketch.KindArc && math.Abs(c.Radius-(6-d)) > 1e-12 {
				t.Errorf("radius %g after %g", c.Radius, d)
			}
			k := (i + 1) % len(m.curves)
			if gap := m.at(i, true).Distance(m.at(k, false)); gap > 1e-9 {
				t.Errorf("a gap of %g after %s", gap, c.ID)
			}
			// Tangent before, tangent after.
			if turn := m.tangent(i, true).Unit().Sub(m.tangent(k, false).Unit()).Norm(); turn > 1e-9 {
				t.Errorf("a corner of %g after %s", turn, c.ID)
			}
		}
	}
	if _, err := g.offset(6, byID); err == nil || !strings.Contains(err.Error(), "thicker than the radius of") {
		t.Errorf("an offset as large as the radius: %v", err)
	}
	if _, err := g.offset(7, byID); err == nil {
		t.Error("an offset beyond the radius is made")
	}
	spline := &run{curves: []sketch.Curve{{ID: "q", Kind: sketch.KindSpline}}, forward: []bool{true}}
	if _, err := spline.offset(1, byID); err == nil || !strings.Contains(err.Error(), "cannot follow q") {
		t.Errorf("a spline: %v", err)
	}
}

// Where the whole curves cross twice, the place nearest to the corner is taken; where
// they do not cross there is none.
func TestCrossing(t *testing.T) {
	flat := line("f", sketch.Vec{X: -1}, sketch.Vec{X: 1})
	ring := func(x, y, r float64) sketch.Curve {
		return sketch.Curve{Kind: sketch.KindArc, Center: sketch.Vec{X: x, Y: y}, Radius: r}
	}
	for _, c := range []struct {
		name string
		a, b sketch.Curve
		near sketch.Vec
		want sketch.Vec
		ok   bool
	}{
		{"two lines", flat, line("g", sketch.Vec{X: 5, Y: 1}, sketch.Vec{X: 5, Y: 2}), sketch.Vec{}, sketch.Vec{X: 5}, true},
		{"parallel lines", flat, line("g", sketch.Vec{Y: 1}, sketch.Vec{X: 1, Y: 1}), sketch.Vec{}, sketch.Vec{}, false},
		{"a line and a circle, the right one", flat, ring(0, 3, 5), sketch.Vec{X: 3}, sketch.Vec{X: 4}, true},
		{"a line and a circle, the left one", ring(0, 3, 5), flat, sketch.Vec{X: -3}, sketch.Vec{X: -4}, true},
		{"a line beside a circle", flat, ring(0, 6, 5), sketch.Vec{}, sketch.Vec{}, false},
		{"two circles", ring(0, 0, 5), ring(6, 0, 5), sketch.Vec{Y: -1}, sketch.Vec{X: 3, Y: -4}, true},
		{"two circles apart", ring(0, 0, 2), ring(6, 0, 2), sketch.Vec{}, sketch.Vec{}, false},
		{"concentric circles", ring(1, 1, 2), ring(1, 1, 2), sketch.Vec{}, sketch.Vec{}, false},
	} {
		got, ok := crossing(&c.a, &c.b, c.near)
		if ok != c.ok || ok && got.Distance(c.want) > 1e-9 {
			t.Errorf("%s: %v %v", c.name, got, ok)
		}
	}
}

// sameSet compares the bounds of a region whatever their order.
func TestSameSet(t *testing.T) {
	for _, c := range []struct {
		sorted, want []string
		same         bool
	}{
		{[]string{"a", "b"}, []string{"b", "a"}, true},
		{[]string{"a", "b"}, []string{"b", "a", "a"}, true},
		{[]string{"a", "b"}, []string{"a"}, false},
		{[]string{"a", "b"}, []string{"a", "c"}, false},
		{nil, nil, true},
	} {
		if sameSet(c.sorted, c.want) != c.same {
			t.Errorf("%v and %v: %v", c.sorted, c.want, !c.same)
		}
	}
}

// byID calls curves by their ids.
func byID(id string) string { return id }
