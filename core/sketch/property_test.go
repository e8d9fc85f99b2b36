package sketch

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand"
	"sort"
	"strings"
	"testing"

	"hammerset/core/quantity"
)

// randomSketch makes points, lines, circles and arcs and any constraints on them.
func randomSketch(rng *rand.Rand) *Sketch {
	s := &Sketch{}
	n := 3 + rng.Intn(8)
	for i := range n {
		s.Entities = append(s.Entities, Entity{ID: fmt.Sprintf("p%d", i), Kind: KindPoint,
			At: &[2]float64{math.Round(rng.Float64()*400) / 10, math.Round(rng.Float64()*400) / 10}})
	}
	point := func() string { return fmt.Sprintf("p%d", rng.Intn(n)) }
	var lines, rounds []string
	for i := range 1 + rng.Intn(5) {
		a, b, c := point(), point(), point()
		switch {
		case i%3 == 0 && a != b:
			lines = append(lines, fmt.Sprintf("e%d", i))
			s.Entities = append(s.Entities, Entity{ID: lines[len(lines)-1], Kind: KindLine, From: a, To: b})
		case i%3 == 1:
			rounds = append(rounds, fmt.Sprintf("e%d", i))
			s.Entities = append(s.Entities, Entity{ID: rounds[len(rounds)-1], Kind: KindCircle, Center: a,
				Radius: 1 + rng.Float64()*9})
		case a != b && b != c && a != c:
			rounds = append(rounds, fmt.Sprintf("e%d", i))
			s.Entities = append(s.Entities, Entity{ID: rounds[len(rounds)-1], Kind: KindArc, Center: a, Start: b, End: c})
		}
	}
	lines = append(lines, XAxis, YAxis)
	pick := func(list []string) string {
		if len(list) == 0 {
			return Origin
		}
		return list[rng.Intn(len(list))]
	}
	kinds := make([]string, 0, len(accepts))
	for k := range accepts {
		kinds = append(kinds, k)
	}
	sort.Strings(kinds)
	for i := range rng.Intn(12) {
		k := Constraint{ID: fmt.Sprintf("k%d", i), Kind: kinds[rng.Intn(len(kinds))]}
		for range 1 + rng.Intn(3) {
			switch rng.Intn(3) {
			case 0:
				k.Of = append(k.Of, point())
			case 1:
				k.Of = append(k.Of, pick(lines))
			default:
				k.Of = append(k.Of, pick(rounds))
			}
		}
		if dim, ok := Sizes[k.Kind]; ok {
			k.Value = fmt.Sprintf("%.3g", 1+rng.Float64()*30)
			if dim == quantity.Angle {
				k.Value += " deg"
			}
		}
		s.Constraints = append(s.Constraints, k)
	}
	return s
}

// sound checks what every outcome must satisfy.
func sound(t *testing.T, s *Sketch, sol *Solution) {
	t.Helper()
	for id, p := range sol.Points {
		if !finite(p.X) || !finite(p.Y) {
			t.Fatalf("point %s is at %v", id, p)
		}
	}
	if sol.Solved != (len(sol.Conflicts) == 0) {
		t.Fatalf("solved %v with conflicts %v", sol.Solved, sol.Conflicts)
	}
	if sol.Freedom < 0 || (sol.Solved && (sol.Freedom == 0) != (len(sol.Loose) == 0)) {
		t.Fatalf("freedom %d, loose %v", sol.Freedom, sol.Loose)
	}
	regions, _ := Regions(sol.Curves)
	for _, r := range regions {
		if a := r.Area(); !(a >= 0) || math.IsInf(a, 0) {
			t.Fatalf("a region has the area %g", a)
		}
	}
}

// Random sets of constraints end in a stated condition: an error that names the
// constraint, a solution that satisfies all, or conflicts. A set that conflicts
// no longer does without any one of its members.
func TestRandomSketchesEndInAStatedCondition(t *testing.T) {
	rng := rand.New(rand.NewSource(99))
	tab := table(t)
	solved, conflicts, refused := 0, 0, 0
	for range 400 {
		s := randomSketch(rng)
		// Misused constraints are dropped one by one, so that most sketches get solved.
		var sol *Solution
		for {
			var err error
			if sol, err = Solve(s, 1, tab); err == nil {
				break
			}
			e, ok := err.(*Error)
			if !ok {
				t.Fatalf("an error without a place: %v", err)
			}
			refused++
			before := len(s.Constraints)
			for i, k := range s.Constraints {
				if k.ID == e.ID {
					s.Constraints = append(s.Constraints[:i], s.Constraints[i+1:]...)
					break
				}
			}
			if len(s.Constraints) == before {
				sol = nil
				break
			}
		}
		if sol == nil {
			continue
		}
		sound(t, s, sol)
		if sol.Solved {
			solved++
			if sol.Residual > 1e-6 {
				t.Errorf("solved with a residual of %g", sol.Residual)
			}
			continue
		}
		conflicts++
		for _, id := range sol.Conflicts[0].Set {
			less := &Sketch{Entities: s.Entities}
			for _, k := range s.Constraints {
				inSet := k.Kind == "coincident"
				for _, c := range sol.Conflicts[0].Set {
					inSet = inSet || c == k.ID
				}
				if inSet && k.ID != id {
					less.Constraints = append(less.Constraints, k)
				}
			}
			if again, err := Geometry(less, 1, tab); err != nil || !again.Solved {
				t.Errorf("the set %v still conflicts without %s", sol.Conflicts[0].Set, id)
			}
		}
	}
	if solved < 100 || conflicts < 20 || refused < 100 {
		t.Errorf("%d solved, %d in conflict, %d refused: the sketches are too uniform", solved, conflicts, refused)
	}
}

// chain is a polyline with horizontal and vertical legs of named sizes.
func chain(n int) string {
	var e, c strings.Builder
	x, y := 0.0, 0.0
	var xy []float64
	for i := range n + 1 {
		xy = append(xy, x+0.3*float64(i%3), y-0.2*float64(i%2))
		if i%2 == 0 {
			x += 10
		} else {
			y += 7
		}
	}
	for i := range n {
		a, b := fmt.Sprintf("p%d", i), fmt.Sprintf("p%d", i+1)
		e.WriteString(line(fmt.Sprintf("l%d", i), a, b))
		if i%2 == 0 {
			c.WriteString(con(fmt.Sprintf("h%d", i), "horizontal", "", fmt.Sprintf("l%d", i)) + con(fmt.Sprintf("d%d", i),
				"length", "w", fmt.Sprintf("l%d", i)))
		} else {
			c.WriteString(con(fmt.Sprintf("v%d", i), "vertical", "", fmt.Sprintf("l%d", i)) + con(fmt.Sprintf("d%d", i),
				"length", "h", fmt.Sprintf("l%d", i)))
		}
	}
	return sketchDoc(pts(xy...)+e.String(), con("o", "coincident", "", "p0", "origin")+c.String())
}

// A sketch with 150 entities is solved and held, and its steps keep going the
// same way when the sizes grow and shrink fivefold.
func TestLongChainKeepsItsSides(t *testing.T) {
	s := read(t, chain(75))
	for _, k := range []struct{ w, h float64 }{{10, 7}, {50, 7}, {2, 35}, {10, 1.4}} {
		tab := table(t, quantity.Parameter{Name: "w", Formula: fmt.Sprintf("%g mm", k.w)},
			quantity.Parameter{Name: "h", Formula: fmt.Sprintf("%g mm", k.h)})
		sol, err := Solve(s, 1, tab)
		if err != nil || !sol.Held() {
			t.Fatalf("%v: %v, freedom %d, conflicts %v", k, err, sol.Freedom, sol.Conflicts)
		}
		end := sol.Points["p75"]
		if want := (Vec{38 * k.w, 37 * k.h}); !end.near(want, 1e-6*want.Norm()) {
			t.Errorf("%v: the end is at %v, want %v", k, end, want)
		}
	}
}

// Descartes (1643): four circles that touch one another have bends with
// (a+b+c+d)² = 2(a²+b²+c²+d²). Three circles are given, the fourth is found
// between them.
func TestDescartesCircleTheorem(t *testing.T) {
	for _, r := range [][3]float64{{1, 1, 1}, {2, 3, 4}, {10, 1.5, 6}} {
		// Centres of three circles that touch: a triangle with sides r0+r1, r0+r2, r1+r2.
		a, b, c := r[0]+r[1], r[0]+r[2], r[1]+r[2]
		x := (a*a + b*b - c*c) / (2 * a)
		y := math.Sqrt(b*b - x*x)
		// The middle of the three points of contact lies in the gap between them.
		gx, gy := (r[0]+x*r[0]/b+a+(x-a)*r[1]/c)/3, (y*r[0]/b+y*r[1]/c)/3
		doc := sketchDoc(pts(0, 0, a, 0, x, y, gx, gy)+
			fmt.Sprintf(`{"id":"c0","kind":"circle","center":"p0","radius":%g},{"id":"c1","kind":"circle","center":"p1",
	"radius":%g},{"id":"c2","kind":"circle","center":"p2","radius":%g},{"id":"in","kind":"circle","center":"p3",
	"radius":0.05},`, r[0], r[1], r[2]),
			con("f0", "fixed", "", "p0")+con("f1", "fixed", "", "p1")+con("f2", "fixed", "", "p2")+
				con("r0", "radius", fmt.Sprint(r[0]), "c0")+con("r1", "radius", fmt.Sprint(r[1]), "c1")+
				con("r2", "radius", fmt.Sprint(r[2]), "c2")+
				con("t0", "tangent", "", "in", "c0")+con("t1", "tangent", "", "in", "c1")+con("t2", "tangent", "", "in", "c2"))
		sol, err := Solve(read(t, doc), 1, table(t))
		if err != nil || !sol.Solved {
			t.Fatalf("%v: %v %v", r, err, sol.Conflicts)
		}
		k := []float64{1 / r[0], 1 / r[1], 1 / r[2], 1 / sol.Curves[3].Radius}
		sum, squares := 0.0, 0.0
		for _, v := range k {
			sum += v
			squares += v * v
		}
		if math.Abs(sum*sum-2*squares) > 1e-7*squares {
			t.Errorf("%v: bends %v", r, k)
		}
	}
}

func FuzzSolve(f *testing.F) {
	f.Add([]byte(roughRectangle("")))
	f.Add([]byte(everyConstraint()))
	f.Fuzz(func(t *testing.T, data []byte) {
		s := &Sketch{}
		if json.Unmarshal(data, s) != nil || len(s.Entities) > 40 || len(s.Constraints) > 40 {
			return
		}
		tab, err := quantity.Evaluate(nil, quantity.Millimetre, nil)
		if err != nil {
			t.Fatal(err)
		}
		if sol, err := Solve(s, 1, tab); err == nil {
			sound(t, s, sol)
		}
	})
}
