package sketch

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand"
	"strings"
	"testing"

	"hammerset/core/quantity"
)

func table(t testing.TB, params ...quantity.Parameter) *quantity.Table {
	t.Helper()
	tab, err := quantity.Evaluate(params, quantity.Millimetre, nil)
	if err != nil {
		t.Fatal(err)
	}
	return tab
}

func read(t testing.TB, doc string) *Sketch {
	t.Helper()
	s := &Sketch{}
	if err := json.Unmarshal([]byte(doc), s); err != nil {
		t.Fatal(err)
	}
	return s
}

// pts writes points p0, p1, ... at the given coordinates.
func pts(xy ...float64) string {
	var b strings.Builder
	for i := 0; i+1 < len(xy); i += 2 {
		fmt.Fprintf(&b, `{"id":"p%d","kind":"point","at":[%g,%g]},`, i/2, xy[i], xy[i+1])
	}
	return b.String()
}

func sketchDoc(entities, constraints string) string {
	return `{"entities":[` + strings.TrimSuffix(entities, ",") + `],"constraints":[` +
		strings.TrimSuffix(constraints, ",") + `]}`
}

func line(id, a, b string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"line","from":%q,"to":%q},`, id, a, b)
}

func con(id, kind, value string, of ...string) string {
	o, _ := json.Marshal(of)
	return fmt.Sprintf(`{"id":%q,"kind":%q,"of":%s,"value":%q},`, id, kind, o, value)
}

// roughRectangle is drawn badly; constraints make it 40 x 25 about the origin.
func roughRectangle(extra string) string {
	return sketchDoc(pts(-10, -11, 12, -9, 11, 10, -12, 8)+line("b", "p0", "p1")+line("r", "p1", "p2")+
		line("t", "p2", "p3")+line("l", "p3", "p0"),
		con("h1", "horizontal", "", "b")+con("h2", "horizontal", "", "t")+con("v1", "vertical", "", "l")+
			con("v2", "vertical", "", "r")+
			con("sym", "symmetric", "", "p0", "p2", "origin")+con("w", "length", "40", "b")+con("h", "length", "25", "r")+extra)
}

func TestRectangleIsHeld(t *testing.T) {
	sol, err := Solve(read(t, roughRectangle("")), 1, table(t))
	if err != nil {
		t.Fatal(err)
	}
	if !sol.Held() || len(sol.Spare) != 0 {
		t.Fatalf("solved %v, freedom %d, spare %v, loose %v", sol.Solved, sol.Freedom, sol.Spare, sol.Loose)
	}
	if p := sol.Points["p2"]; !p.near(Vec{20, 12.5}, 1e-9) {
		t.Errorf("corner at %v", p)
	}
	regions, problems := Regions(sol.Curves)
	if len(regions) != 1 || len(problems) != 0 || math.Abs(regions[0].Area()-1000) > 1e-8 {
		t.Errorf("regions %v problems %v", regions, problems)
	}
}

// dropped lists what the spare sets suggest to leave out.
func dropped(sol *Solution) string {
	var out []string
	for _, r := range sol.Spare {
		out = append(out, r.Drop)
	}
	return strings.Join(out, " ")
}

func TestFreedomSpareAndConflict(t *testing.T) {
	cases := []struct {
		name, doc string
		freedom   int
		loose     string
		spare     string
		conflict  string
	}{
		{"one size missing", strings.Replace(roughRectangle(""), con("w", "length", "40", "b"), "", 1), 1,
			"p0 p1 p2 p3", "", ""},
		{"the same width twice", roughRectangle(con("w2", "horizontal-distance", "40", "p3", "p2")), 0, "", "w2", ""},
		{"two different widths", roughRectangle(con("w2", "horizontal-distance", "41", "p3", "p2")), 0, "", "", "w w2"},
		{"a free circle", sketchDoc(pts(5, 5)+`{"id":"c","kind":"circle","center":"p0","radius":3},`, ""), 3, "p0 c", "", ""},
		{"joined twice", sketchDoc(pts(5, 5, 1, 1), con("k1", "coincident", "", "p0", "p1")+con("k2", "coincident", "", "p1",
			"p0")+con("k3", "coincident", "", "p0", "origin")), 0, "", "k2", ""},
		{"three parallels", sketchDoc(pts(0, 0, 9, 1, 0, 5, 9, 5, 0, 9, 9, 10)+line("a", "p0", "p1")+line("b", "p2", "p3")+
			line("c", "p4", "p5"),
			con("k1", "parallel", "", "a", "b")+con("k2", "parallel", "", "b", "c")+con("k3", "parallel", "", "a", "c")), 10,
			"p0 p1 p2 p3 p4 p5", "k3", ""},
	}
	for _, c := range cases {
		sol, err := Solve(read(t, c.doc), 1, table(t))
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		var loose []string
		for _, l := range sol.Loose {
			loose = append(loose, l.Entity)
		}
		conflict := ""
		for _, set := range sol.Conflicts {
			for _, id := range set.Set {
				if !strings.Contains("h1 h2 v1 v2 sym", id) {
					conflict += " " + id
				}
			}
		}
		if sol.Freedom != c.freedom || strings.Join(loose, " ") != c.loose || dropped(sol) != c.spare ||
			strings.TrimSpace(conflict) != c.conflict {
			t.Errorf("%s: freedom %d, loose %v, spare %v, conflicts %v", c.name, sol.Freedom, loose, sol.Spare, sol.Conflicts)
		}
	}
}

// Laman (1970): a generic framework of n points with 2n-3 well-spread bars is
// rigid, so that three freedoms of the plane are left; each further bar in it is
// spare. Frameworks are grown by Henneberg's steps, which keep Laman's count.
func TestLamanFrameworks(t *testing.T) {
	rng := rand.New(rand.NewSource(7))
	for trial := 0; trial < 40; trial++ {
		n := 3 + rng.Intn(9)
		xy := make([]float64, 2*n)
		for i := range xy {
			xy[i] = math.Round(rng.Float64()*1e4) / 100
		}
		type bar struct{ a, b int }
		bars := []bar{{0, 1}}
		for k := 2; k < n; k++ {
			a := rng.Intn(k)
			b := (a + 1 + rng.Intn(k-1)) % k
			bars = append(bars, bar{a, k}, bar{b, k})
			if i := rng.Intn(len(bars) - 2); trial%2 == 0 && bars[i].a != a && bars[i].a != b && bars[i].b != a &&
				bars[i].b != b {
				bars[i].b = k // second Henneberg step: remove a bar and tie both ends to the new point
				bars = append(bars, bar{a, b})
				bars = bars[:len(bars)-1]
			}
		}
		var cons strings.Builder
		seen := map[bar]bool{}
		for i, b := range bars {
			if b.a > b.b {
				b.a, b.b = b.b, b.a
			}
			if seen[b] {
				continue
			}
			seen[b] = true
			d := math.Hypot(xy[2*b.a]-xy[2*b.b], xy[2*b.a+1]-xy[2*b.b+1])
			cons.WriteString(con(fmt.Sprintf("d%d", i), "distance", fmt.Sprintf("%.12g", d), fmt.Sprintf("p%d", b.a),
				fmt.Sprintf("p%d", b.b)))
		}
		sol, err := Solve(read(t, sketchDoc(pts(xy...), cons.String())), 1, table(t))
		if err != nil || !sol.Solved {
			t.Fatalf("trial %d: %v", trial, err)
		}
		if trial%2 == 1 && (sol.Freedom != 3 || len(sol.Spare) != 0) {
			t.Errorf("trial %d: %d points, %d bars: freedom %d, spare %v", trial, n, len(seen), sol.Freedom, sol.Spare)
		}
		if sol.Freedom != 2*n-len(seen)+len(sol.Spare) {
			t.Errorf("trial %d: freedom %d with %d bars, %d spare", trial, sol.Freedom, len(seen), len(sol.Spare))
		}
	}
}

// everyConstraint has each constraint and size on each combination it accepts.
func everyConstraint() string {
	e := pts(1, 2, 9, 3, 2, 8, 10, 12, 5, 6, 15, 1, 18, 5, 14, 9, 22, 3, 25, 8, 21, 12, 3, 15) +
		line("l0", "p0", "p1") + line("l1", "p2", "p3") +
		`{"id":"c0","kind":"circle","center":"p4","radius":2.5},{"id":"c1","kind":"circle","center":"p11","radius":1.5},
		{"id":"a0","kind":"arc","center":"p5","start":"p6","end":"p7"},{"id":"a1","kind":"arc","center":"p8","start":"p9",
	"end":"p10"},
		{"id":"l2","kind":"line","from":"p7","to":"p3"},{"id":"a2","kind":"arc","center":"p11","start":"p7","end":"p2"},
		{"id":"q0","kind":"point","at":[30,5]},{"id":"q1","kind":"point","at":[36,6]},{"id":"q2","kind":"point","at":[29.5,
	8]},{"id":"q3","kind":"point","at":[40,15]},{"id":"q4","kind":"point","at":[44,17]},{"id":"q5","kind":"point","at":[39,
	17.5]},
		{"id":"e0","kind":"ellipse","center":"q0","major":"q1","minor":"q2"},{"id":"e1","kind":"ellipse","center":"q3",
	"major":"q4","minor":"q5"},
		{"id":"ea","kind":"elliptical-arc","center":"q3","major":"q4","minor":"q5","start":"q6","end":"q7"},{"id":"q6",
	"kind":"point","at":[44,17.2]},{"id":"q7","kind":"point","at":[36,14]},
		{"id":"q8","kind":"point","at":[20,20]},{"id":"q9","kind":"point","at":[25,24]},{"id":"sp","kind":"spline",
	"poles":["p3","q8","q9","q7","q1"]},{"id":"st","kind":"spline","through":["p7","q8","q2","q6"]},`
	list := [][]string{{"on-curve", "", "p4", "l0"}, {"on-curve", "", "p4", "c1"}, {"on-curve", "", "p4", "a0"},
		{"horizontal", "", "l0"}, {"horizontal", "", "p0", "p3"}, {"vertical", "", "l1"}, {"parallel", "", "l0", "l1"},
		{"perpendicular", "", "l0", "l1"},
		{"tangent", "", "l0", "c0"}, {"tangent", "", "l1", "a1"}, {"tangent", "", "l2", "a0"}, {"tangent", "", "c0", "c1"},
		{"tangent", "", "c0", "a0"}, {"tangent", "", "a0", "a1"}, {"tangent", "", "a0", "a2"},
		{"concentric", "", "c0", "a0"}, {"collinear", "", "l0", "l1"}, {"collinear", "", "p0", "p2", "p4"},
		{"equal", "", "l0", "l1"}, {"equal", "", "c0", "a1"}, {"equal", "", "a0", "a1"},
		{"symmetric", "", "p0", "p2", "l2"}, {"symmetric", "", "p0", "p2", "p4"}, {"symmetric", "", "p0", "p1", "y-axis"},
		{"midpoint", "", "p4", "l0"}, {"fixed", "", "p4"},
		{"on-curve", "", "p4", "e0"}, {"on-curve", "", "q0", "ea"}, {"on-curve", "", "p4", "sp"},
		{"on-curve", "", "p5", "st"}, {"tangent", "", "l0", "e0"}, {"tangent", "", "c0", "e0"}, {"tangent", "", "e0", "e1"},
		{"tangent", "", "l2", "sp"}, {"tangent", "", "a0", "st"}, {"tangent", "", "sp", "l1"},
		{"perpendicular", "", "l0", "c0"}, {"concentric", "", "c0", "e0", "a1"}, {"equal", "", "e0", "e1"},
		{"equal", "", "l0", "l1", "l2"}, {"equal", "", "c0", "c1", "a0"}, {"parallel", "", "l0", "l1", "l2"},
		{"collinear", "", "p0", "p2", "p4", "p6"}, {"collinear", "", "p0", "p2", "l1"},
		{"symmetric", "", "l0", "l1", "l2"}, {"symmetric", "", "l0", "l1", "p4"}, {"symmetric", "", "c0", "c1", "l2"},
		{"symmetric", "", "a0", "a1", "l1"}, {"symmetric", "", "a0", "a1", "p4"}, {"symmetric", "", "e0", "e1", "l2"},
		{"symmetric", "", "e0", "e1", "p4"}, {"midpoint", "", "p4", "a0"}, {"midpoint", "", "p4", "p0", "p1"},
		{"fixed", "", "l0"}, {"fixed", "", "c0"}, {"fixed", "", "a0"}, {"fixed", "", "e0"}, {"fixed", "", "ea"},
		{"fixed", "", "st"}, {"length", "7", "a0"}, {"angle", "40", "a0"}, {"distance", "2", "p4", "c1"},
		{"distance", "2", "l0", "c1"}, {"distance", "2", "c0", "c1"},
		{"length", "7", "l0"}, {"distance", "7", "p0", "p2"}, {"distance", "7", "p4", "l1"}, {"distance", "7", "l0", "l1"},
		{"distance", "3", "p4", "x-axis"},
		{"horizontal-distance", "7", "p0", "p2"}, {"vertical-distance", "7", "l1"}, {"radius", "2", "c0"},
		{"radius", "2", "a0"}, {"diameter", "4", "a1"}, {"angle", "40", "l0", "l1"}}
	cons := ""
	for i, k := range list {
		cons += con(fmt.Sprintf("k%d", i), k[0], k[1], k[2:]...)
	}
	return sketchDoc(e, cons)
}

func TestDerivatives(t *testing.T) {
	s := read(t, everyConstraint())
	sys, err := Compile(s, 1, table(t))
	if err != nil {
		t.Fatal(err)
	}
	kinds := map[string]bool{}
	rng := rand.New(rand.NewSource(3))
	for e, eq := range sys.equations {
		name := "the arc's own condition"
		if eq.constraint >= 0 {
			k := s.Constraints[eq.constraint]
			kinds[k.Kind] = true
			name = fmt.Sprint(k.Kind, k.Of)
		}
		x := append([]float64(nil), sys.x...)
		for i := range x {
			x[i] += 0.2 * (rng.Float64() - 0.5)
		}
		at := func(k int, x []float64) float64 {
			local := make([]jet, len(eq.vars))
			for i, v := range eq.vars {
				local[i].v = x[v]
			}
			return eq.eval(local)[k].v
		}
		local := make([]jet, len(eq.vars))
		for i, v := range eq.vars {
			local[i] = jet{v: x[v]}
			local[i].d[i] = 1
		}
		got := eq.eval(local)
		for k := 0; k < eq.count; k++ {
			for i, v := range eq.vars {
				h := 1e-5
				keep := x[v]
				x[v] = keep + h
				up := at(k, x)
				x[v] = keep - h
				down := at(k, x)
				x[v] = keep
				if num := (up - down) / (2 * h); math.Abs(num-got[k].d[i]) > 1e-6*math.Max(1, math.Abs(num)) {
					t.Errorf("equation %d %s: derivative %d by %d is %g, numerically %g", e, name, k, i, got[k].d[i], num)
				}
			}
		}
	}
	for k := range accepts {
		if !kinds[k] && k != "coincident" {
			t.Errorf("%s is not tried", k)
		}
	}
}

func TestClosedForms(t *testing.T) {
	// A circle inscribed in a 3-4-5 triangle has radius (3+4-5)/2 = 1 (Euclid IV.4).
	doc := sketchDoc(pts(0, 0, 4, 0, 0, 3, 1.3, 0.8)+line("a", "p0", "p1")+line("b", "p1", "p2")+line("c", "p2", "p0")+
		`{"id":"k","kind":"circle","center":"p3","radius":0.7},`,
		con("f0", "fixed", "", "p0")+con("f1", "fixed", "", "p1")+con("f2", "fixed", "", "p2")+con("t0", "tangent", "", "k",
			"a")+con("t1", "tangent", "", "k", "b")+con("t2", "tangent", "", "k", "c"))
	sol, err := Solve(read(t, doc), 1, table(t))
	if err != nil || !sol.Held() {
		t.Fatalf("inscribed circle: %v %+v", err, sol)
	}
	if c := sol.Curves[3]; math.Abs(c.Radius-1) > 1e-9 || !c.Center.near(Vec{1, 1}, 1e-9) {
		t.Errorf("inscribed circle %+v", c)
	}
	// A regular hexagon in a circle of radius 10 has sides of 10 (Euclid IV.15);
	// a size grown fivefold keeps it convex.
	e, cons := "", ""
	var xy []float64
	for i := 0; i < 6; i++ {
		a := float64(i) * 1.02
		xy = append(xy, 9*math.Cos(a), 11*math.Sin(a))
		e += line(fmt.Sprintf("s%d", i), fmt.Sprintf("p%d", i), fmt.Sprintf("p%d", (i+1)%6))
		cons += con(fmt.Sprintf("on%d", i), "on-curve", "", fmt.Sprintf("p%d", i), "rim")
		if i > 0 {
			cons += con(fmt.Sprintf("eq%d", i), "equal", "", "s0", fmt.Sprintf("s%d", i))
		}
	}
	doc = sketchDoc(pts(xy...)+`{"id":"rim","kind":"circle","center":"origin","radius":10,"guide":true},`+e,
		cons+con("lay", "horizontal", "", "p0", "origin")+con("R", "radius", "R", "rim"))
	for _, r := range []float64{10, 50, 2} {
		tab := table(t, quantity.Parameter{Name: "R", Formula: fmt.Sprintf("%g mm", r)})
		sol, err := Solve(read(t, doc), 1, tab)
		if err != nil || !sol.Held() {
			t.Fatalf("hexagon %g: %v, freedom %d, conflicts %v", r, err, sol.Freedom, sol.Conflicts)
		}
		regions, _ := Regions(sol.Curves)
		if want := 3 * math.Sqrt(3) / 2 * r * r; len(regions) != 1 || math.Abs(regions[0].Area()-want) > 1e-8*want {
			t.Errorf("hexagon %g: %d regions, want area %g", r, len(regions), want)
		}
	}
}

func TestRegions(t *testing.T) {
	square := pts(0, 0, 20, 0, 20, 20, 0, 20) + line("b", "p0", "p1") + line("r", "p1", "p2") + line("t", "p2", "p3") +
		line("l", "p3", "p0")
	circle := func(id string, x, y, r float64) string {
		return fmt.Sprintf(`{"id":"m%s","kind":"point","at":[%g,%g]},{"id":%q,"kind":"circle","center":"m%s","radius":%g},`,
			id, x, y, id, id, r)
	}
	lens := 2*25*math.Acos(0.6) - 6*math.Sqrt(100-36)/2*1 // two circles of radius 5, centres 6 apart
	cases := []struct {
		name, entities string
		areas          []float64 // of the regions at even depth, sorted as found
		problems       string
	}{
		{"plate with two holes", square + circle("c1", 5, 5, 2) + circle("c2", 14, 14, 3), []float64{400 - 13*math.Pi}, ""},
		{"boss in a ring", circle("c1", 0, 0, 9) + circle("c2", 0, 0, 6) + circle("c3", 1, 0, 2),
			[]float64{math.Pi * (81 - 36), math.Pi * 4}, ""},
		{"two circles that cross", circle("c1", 0, 0, 5) + circle("c2", 6, 0, 5),
			[]float64{25*math.Pi - lens, lens, 25*math.Pi - lens}, ""},
		{"square cut by a line", square + `{"id":"q0","kind":"point","at":[5,0]},{"id":"q1","kind":"point","at":[5,20]},` +
			line("cut", "q0", "q1"), []float64{100, 300}, ""},
		{"open by a small gap", pts(0, 0, 20, 0, 20, 20, 0, 0.3) + line("b", "p0", "p1") + line("r", "p1", "p2") +
			line("d", "p2", "p3"), nil, "open-end open-end"},
		{"a doubled side", square + `{"id":"q0","kind":"point","at":[0,0]},{"id":"q1","kind":"point","at":[20,0]},` +
			line("again", "q0", "q1"), []float64{400}, "doubled"},
		{"a left-over tail", square + `{"id":"q1","kind":"point","at":[30,25]},` + line("tail", "p2", "q1"),
			[]float64{400}, "left-over"},
		{"a side that runs on", strings.Replace(square, `[20,20]`, `[20,23]`, 1) + `{"id":"q0","kind":"point","at":[0,20]},
	{"id":"q1","kind":"point","at":[26,20]},` + line("cut", "q0", "q1"), []float64{400, 30}, "crossing"},
		{"two triangles that touch in a corner", pts(0, 0, 10, 0, 5, 5, 0, 10, 10, 10) + line("a", "p0", "p1") +
			line("b", "p1", "p2") + line("c", "p2", "p0") + line("d", "p2", "p4") + line("e", "p4", "p3") +
			line("f", "p3", "p2"), []float64{25, 25}, ""},
		{"a bow drawn in one go", pts(0, 0, 10, 10, 10, 0, 0, 10) + line("a", "p0", "p1") + line("b", "p1", "p2") +
			line("c", "p2", "p3") + line("d", "p3", "p0"), []float64{25, 25}, ""},
		{"a ring in a frame in a plate", pts(-30, -30, 30, -30, 30, 30, -30, 30, -20, -20, 20, -20, 20, 20, -20, 20) +
			line("a", "p0", "p1") + line("b", "p1", "p2") + line("c", "p2", "p3") + line("d", "p3", "p0") +
			line("e", "p4", "p5") + line("f", "p5", "p6") + line("g", "p6", "p7") + line("h", "p7", "p4") +
			circle("c1", 0, 0, 9) + circle("c2", 0, 0, 4), []float64{2000, 65 * math.Pi}, ""},
		{"cells that share their sides", pts(0, 0, 10, 0, 20, 0, 20, 10, 10, 10, 0, 10) + line("a", "p0", "p1") +
			line("b", "p1", "p2") + line("c", "p2", "p3") + line("d", "p3", "p4") + line("e", "p4", "p5") +
			line("f", "p5", "p0") + line("g", "p1", "p4"), []float64{100, 100}, ""},
		{"a side laid twice in part", square + `{"id":"q0","kind":"point","at":[5,0]},{"id":"q1","kind":"point","at":[12,0]},
	` + line("again", "q0", "q1"), []float64{400}, "doubled"},
		{"a circle that touches a side from within", square + circle("c1", 5, 10, 5),
			[]float64{400 - 25*math.Pi, 25 * math.Pi}, ""},
		{"half disc", pts(0, 0, 5, 0, -5, 0) + `{"id":"a","kind":"arc","center":"p0","start":"p1","end":"p2"},` +
			line("d", "p2", "p1"), []float64{12.5 * math.Pi}, ""},
	}
	for _, c := range cases {
		sol, err := Geometry(read(t, sketchDoc(c.entities, "")), 1, table(t))
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		regions, problems := Regions(sol.Curves)
		var areas []float64
		for _, r := range regions {
			if r.Depth%2 == 0 {
				areas = append(areas, r.Area())
			}
		}
		kinds := ""
		for _, p := range problems {
			kinds += " " + p.Kind
		}
		if strings.TrimSpace(kinds) != c.problems {
			t.Errorf("%s: problems %v", c.name, problems)
		}
		total, want := 0.0, 0.0
		for _, a := range areas {
			total += a
		}
		for _, a := range c.areas {
			want += a
		}
		if len(areas) != len(c.areas) || math.Abs(total-want) > 1e-9*math.Max(1, want) {
			t.Errorf("%s: areas %v, want %v", c.name, areas, c.areas)
		}
	}
}

func TestErrorsNameTheEntity(t *testing.T) {
	for _, c := range []struct{ doc, say string }{
		{sketchDoc(pts(0, 0)+line("l", "p0", "p9"), ""), `l: "to" must name a point`},
		{sketchDoc(pts(0, 0, 1, 1)+line("l", "p0", "p1"), con("k", "radius", "3", "l")),
			"k: radius is put on a circle or arc"},
		{sketchDoc(pts(0, 0, 1, 1)+line("l", "p0", "p1"), con("k", "length", "3 deg", "l")), "k: this is an angle"},
		{sketchDoc(pts(0, 0, 1, 1)+line("l", "p0", "p1"), con("k", "length", "0", "l")), "greater than zero"},
		{sketchDoc(pts(0, 0, 1, 1)+line("l", "p0", "p1"), con("k", "near", "", "l")), "not a constraint"},
		{sketchDoc(pts(0, 0)+pts(1, 1), ""), "used twice"},
	} {
		if _, err := Solve(read(t, c.doc), 1, table(t)); err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("got %v, want %q", err, c.say)
		}
	}
}
