package inspect

import (
	"errors"
	"math"
	"math/rand"
	"testing"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// The assignment is the best of all permutations.
func TestAssignAgainstBruteForce(t *testing.T) {
	rng := rand.New(rand.NewSource(11))
	for trial := range 300 {
		n := 1 + trial%7
		cost := make([][]float64, n)
		for i := range cost {
			cost[i] = make([]float64, n)
			for j := range cost[i] {
				cost[i][j] = math.Round(rng.Float64()*20) / 4 // with ties
				if rng.Intn(6) == 0 {
					cost[i][j] = impossible
				}
			}
		}
		best := math.Inf(1)
		perm := make([]int, n)
		var permute func(k, used int, sum float64)
		permute = func(k, used int, sum float64) {
			if k == n {
				best = math.Min(best, sum)
				return
			}
			for j := range n {
				if used>>j&1 == 0 {
					perm[k] = j
					permute(k+1, used|1<<j, sum+cost[k][j])
				}
			}
		}
		permute(0, 0, 0)
		got, seen := 0.0, map[int]bool{}
		for i, j := range Assign(cost) {
			got += cost[i][j]
			seen[j] = true
		}
		if math.Abs(got-best) > 1e-9 || len(seen) != n {
			t.Fatalf("trial %d: cost %g, best %g", trial, got, best)
		}
	}
}

// Kabsch (1976): the rotation that takes directions to their images is found
// exactly, also for a mirror, and from two directions that span a plane.
func TestKabsch(t *testing.T) {
	rng := rand.New(rand.NewSource(5))
	for trial := range 200 {
		axis := solid.Vec{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Unit()
		want := solid.Rotation(solid.Vec{}, axis, rng.Float64()*2*math.Pi)
		if trial%2 == 1 {
			want = want.Then(solid.Reflection(solid.Vec{}, solid.Vec{0, 1, 0}))
		}
		var cov [3][3]float64
		for range 2 + trial%3 {
			from := solid.Vec{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Unit()
			to := want.Turn(from)
			for x := range 3 {
				for y := range 3 {
					cov[x][y] += to[x] * from[y]
				}
			}
		}
		got, ok := kabsch(cov, want)
		if !ok {
			t.Fatalf("trial %d: not determined", trial)
		}
		for i := range 3 {
			if got[i].Distance(want.M[i]) > 1e-6 {
				t.Fatalf("trial %d: %v, want %v", trial, got, want.M)
			}
		}
	}
	one := [3][3]float64{{1, 0, 0}}
	if _, ok := kabsch(one, solid.Identity); ok {
		t.Error("one direction is taken to determine a rotation")
	}
}

func TestTransforms(t *testing.T) {
	a := solid.Rotation(solid.Vec{1, 2, 3}, solid.Vec{0, 1, 1}, 0.7).Then(solid.Translation(solid.Vec{5, -4, 2}))
	b := solid.Reflection(solid.Vec{0, 0, 4}, solid.Vec{0, 0, 1})
	p := solid.Vec{0.3, -8, 11}
	for _, c := range []struct {
		name      string
		got, want solid.Vec
	}{
		{"there and back", a.Then(a.Inverse()).Apply(p), p},
		{"mirror twice", b.Then(b).Apply(p), p},
		{"mirror in z = 4", b.Apply(p), solid.Vec{0.3, -8, -3}},
		{"one after the other", a.Then(b).Apply(p), b.Apply(a.Apply(p))},
		{"quarter turn about z", solid.Rotation(solid.Vec{}, solid.Vec{0, 0, 1}, math.Pi/2).Apply(solid.Vec{1, 0, 0}),
			solid.Vec{0, 1, 0}},
		{"a point of the axis stays", solid.Rotation(solid.Vec{1, 2, 3}, solid.Vec{0, 1, 1}, 0.7).Apply(solid.Vec{1, 4, 5}),
			solid.Vec{1, 4, 5}},
	} {
		if c.got.Distance(c.want) > 1e-12 {
			t.Errorf("%s: %v, want %v", c.name, c.got, c.want)
		}
	}
	if math.Abs(a.Det()-1) > 1e-12 || math.Abs(b.Det()+1) > 1e-12 {
		t.Errorf("determinants %g and %g", a.Det(), b.Det())
	}
	for _, n := range []solid.Vec{{0, 0, 1}, {0, 0, -1}, {1, 0, 0}, {0, -1, 0}, solid.Vec{1, 1, 1}.Unit()} {
		f := solid.Plane(n.Scale(7), n)
		if f.X.Cross(f.Y).Distance(n) > 1e-12 || math.Abs(f.O.Dot(n)-7) > 1e-12 || math.Abs(f.X.Dot(n)) > 1e-12 {
			t.Errorf("the plane across %v has the frame %+v", n, f)
		}
	}
}

// faces for measuring: a block 30 wide with a slope, two bores and a bevel.
func sample() *solid.Geometry {
	plane := func(at, n solid.Vec) solid.Face {
		return solid.Face{Kind: solid.PlaneFace, Origin: at, Centroid: at, Axis: n.Unit(), Normal: n.Unit(), Area: 1}
	}
	bore := func(at, axis solid.Vec, r float64) solid.Face {
		return solid.Face{Kind: solid.CylinderFace, Origin: at, Centroid: at, Axis: axis, Radius: r, Hollow: true, Area: 1}
	}
	g := &solid.Geometry{Solids: 2, Faces: []solid.Face{
		plane(solid.Vec{0, 3, 3}, solid.Vec{-1, 0, 0}), plane(solid.Vec{30, 1, 2}, solid.Vec{1, 0, 0}),
		bore(solid.Vec{8, 0, 0}, solid.Vec{0, 0, 1}, 2.5), bore(solid.Vec{8, 15, 40}, solid.Vec{0, 0, -1}, 4),
		plane(solid.Vec{15, 0, 20}, solid.Vec{1, 0, math.Sqrt(3)}), plane(solid.Vec{15, 0, 12}, solid.Vec{0, 0, 1}),
		bore(solid.Vec{}, solid.Vec{1, 0, 0}, 1),
	}}
	for _, n := range []string{"left", "right", "h.1/bore", "h.2/bore", "slope", "top", "cross"} {
		g.Names = append(g.Names, []string{n, n + "+"})
	}
	return g
}

func TestMeasure(t *testing.T) {
	g := sample()
	for _, c := range []struct {
		kind string
		of   []string
		want float64
		fail bool
	}{
		{"distance", []string{"left", "right"}, 30, false},
		{"distance", []string{"left", "h.1/bore"}, 8, false},
		{"distance", []string{"h.1/bore", "right"}, 22, false},
		{"distance", []string{"h.1/bore", "h.2/bore"}, 15, false},
		{"distance", []string{"left", "slope"}, 0, true},     // not parallel
		{"distance", []string{"left", "cross"}, 0, true},     // the axis goes through
		{"distance", []string{"h.1/bore", "cross"}, 0, true}, // axes across one another
		// the slope z = 20 − (x − 15)/√3 meets the top z = 12 at x = 15 + 8√3
		{"distance", []string{"left", "slope & top"}, 15 + 8*math.Sqrt(3), false},
		{"diameter", []string{"h.2/bore"}, 8, false},
		{"radius", []string{"h.2/bore"}, 4, false},
		{"diameter", []string{"left"}, 0, true},
		{"angle", []string{"slope", "top"}, math.Pi / 6, false},
		{"angle", []string{"h.1/bore", "h.2/bore"}, 0, false},
		{"bolt-circle", []string{"h.1/bore", "h.2/bore"}, 30, false},
		{"chamfer", []string{"left"}, 0, true},
		{"count", []string{"h.*/bore"}, 2, false},
		{"pitch", []string{"h.*/bore"}, 15, false},
		{"pitch", []string{"h.1/bore"}, 0, true},
		{"wall", []string{"left", "right"}, 30, false},
		{"wall", []string{"h.1/bore", "left"}, 5.5, false},
		{"wall", []string{"h.1/bore", "h.2/bore"}, 8.5, false},
		{"wall", []string{"left", "slope"}, 0, true},
		{"slot-length", []string{"h.1/bore", "h.2/bore"}, 21.5, false},
		{"slot-length", []string{"left", "right"}, 0, true},
		{"key-depth", []string{"left", "h.1/bore"}, 5.5, false},
		{"key-depth", []string{"top", "h.1/bore"}, 0, true},
		{"symmetric", []string{"left", "right", "h.1/bore"}, 7, false},
		{"symmetric", []string{"left", "right", "h.1/bore", "h.2/bore"}, 7, false},
		{"symmetric", []string{"h.1/bore", "h.2/bore", "left"}, 0, true},
		{"concentric", []string{"h.1/bore", "h.2/bore"}, 15, false},
		{"concentric", []string{"h.1/bore", "left"}, 0, true},
		{"parallel", []string{"left", "right"}, 0, false},
		{"parallel", []string{"left", "slope"}, math.Pi / 3, false},
		{"parallel", []string{"left", "h.1/bore"}, 0, false},
		{"perpendicular", []string{"top", "h.1/bore"}, 0, false},
		{"perpendicular", []string{"slope", "top"}, math.Pi / 3, false},
		{"start-angle", []string{"h.1/bore", "left", "h.2/bore"}, 0, false},
		{"cone-angle", []string{"left"}, 0, true},
	} {
		k := &exercise.Characteristic{ID: "c", Kind: c.kind, Of: [][]address.Ref{address.List(c.of...)}}
		var p characteristic.Place
		if c.of != nil {
			places, err := Places(g, k)
			if err != nil {
				t.Fatal(err)
			}
			p = places[0]
		}
		v, err := Measure(g, k, p)
		if (err != nil) != c.fail || (!c.fail && math.Abs(v-c.want) > 1e-9) {
			t.Errorf("%s of %v: %g, %v; want %g", c.kind, c.of, v, err, c.want)
		}
		// A motion and a mirror change nothing, an enlargement everything alike.
		move := solid.Rotation(solid.Vec{1, 1, 0}, solid.Vec{1, -2, 5}, 2).
			Then(solid.Reflection(solid.Vec{}, solid.Vec{1, 0, 0}))
		if w, err := Measure(g.Moved(move), k, p); (err != nil) != c.fail || math.Abs(w-v) > 1e-9 {
			t.Errorf("%s of %v after a motion: %g, was %g", c.kind, c.of, w, v)
		}
		if characteristic.Of(c.kind).Dim.Length == 1 && !c.fail {
			if w, _ := Measure(g.Scaled(25.4), k, p); math.Abs(w-25.4*v) > 1e-9 {
				t.Errorf("%s of %v enlarged: %g", c.kind, c.of, w)
			}
		}
	}
}

func TestPlacesByPatterns(t *testing.T) {
	g := sample()
	if p, err := Places(g, &exercise.Characteristic{Kind: "diameter",
		Of: [][]address.Ref{address.List("h.*/bore")}}); err != nil || len(p) != 2 {
		t.Errorf("two bores give %v, %v", p, err)
	}
	if _, err := Places(g, &exercise.Characteristic{ID: "x", Kind: "diameter",
		Of: [][]address.Ref{address.List("nothing*")}}); err == nil {
		t.Error("a name that is not there is found")
	}
}

// The place on a datum plane is measured in the model's own axes: a shift shows as a
// distance, and a tilt as something amiss and not as a number.
func TestPlaceOnDatum(t *testing.T) {
	g := sample()
	shift := solid.Transform{M: solid.Identity.M, T: solid.Vec{3, 0, 0}}
	tilt := solid.Rotation(solid.Vec{}, solid.Vec{0, 0, 1}, 0.2)
	for _, c := range []struct {
		of    []string
		datum string
		want  [2]float64 // as it is, and shifted
	}{
		{[]string{"left"}, "YZ", [2]float64{0, 3}}, {[]string{"left", "right"}, "YZ", [2]float64{15, 18}},
		{[]string{"top"}, "XY", [2]float64{12, 12}}, {[]string{"h.2/bore"}, "XZ", [2]float64{15, 15}},
	} {
		k := &exercise.Characteristic{ID: "c", Kind: "datum", Datum: c.datum, Of: [][]address.Ref{address.List(c.of...)}}
		places, err := Places(g, k)
		if err != nil {
			t.Fatal(err)
		}
		for i, at := range []*solid.Geometry{g, g.Moved(shift)} {
			if v, err := Measure(at, k, places[0]); err != nil || math.Abs(v-c.want[i]) > 1e-12 {
				t.Errorf("%v from %s: %g, %v; want %g", c.of, c.datum, v, err, c.want[i])
			}
		}
		var amiss *characteristic.Amiss
		if _, err := Measure(g.Moved(tilt), k, places[0]); c.datum == "YZ" && !errors.As(err, &amiss) {
			t.Errorf("%v tilted from %s: %v", c.of, c.datum, err)
		}
	}
}
