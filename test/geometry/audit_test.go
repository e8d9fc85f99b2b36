package geometry

import (
	"fmt"
	"math"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/core/sheet/audit"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/kernel/occ"
)

// stating is a characteristic on faces by their names.
func stating(id, kind string, faces ...string) exercise.Characteristic {
	c := exercise.Characteristic{ID: id, Kind: kind, Label: id}
	var place []address.Ref
	for _, f := range faces {
		place = append(place, address.Ref{Name: f})
	}
	c.Of = [][]address.Ref{place}
	return c
}

// describe builds a model and describes its solid.
func describe(t testing.TB, d *part.Document) *solid.Geometry {
	t.Helper()
	b := build(t, d, nil)
	g, err := solid.Describe(occ.Kernel{}, b.Solid.Shape, b.Solid.Names)
	if err != nil {
		t.Fatal(err)
	}
	return g
}

// audited audits characteristics against a geometry.
func audited(t testing.TB, g *solid.Geometry, list ...exercise.Characteristic) *audit.Result {
	t.Helper()
	r, err := audit.Of(g, &exercise.Exercise{Unit: "mm", Characteristics: list})
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// complete tells whether sizes determine a part, however they are rounded where they are printed.
func complete(r *audit.Result) bool {
	exact := *r
	exact.Rounded = nil
	return exact.Clean()
}

// plate is a plate from the origin with holes given as x, y, radius.
func plate(t testing.TB, length, width, thick float64, holes ...float64) *solid.Geometry {
	t.Helper()
	steps := []string{outline("s1", xy, 0, 0, length, 0, length, width, 0, width),
		extrude("e1", "s1", oneSide(fmt.Sprint(thick, " mm")), "")}
	if len(holes) > 0 {
		steps = append(steps, circles("s2", xy, holes...),
			extrude("e2", "s2", oneSide(fmt.Sprint(thick, " mm")), `,"result":"cut","reverse":true`))
	}
	return describe(t, model(t, "mm", "", steps...))
}

// What a drawing must state is counted by hand: a box has three sizes, a stepped shaft a diameter and a length for each
// step, a plate three and for each hole a place in two directions and a diameter.
func TestAuditCountsSizes(t *testing.T) {
	shaft := func(radii ...float64) *solid.Geometry {
		points := []float64{0, 0}
		for i, r := range radii {
			points = append(points, 20*float64(i), r, 20*float64(i+1), r)
		}
		points = append(points, 20*float64(len(radii)), 0)
		return describe(t, model(t, "mm", "", outline("s1", xz, points...),
			revolve("r1", "s1", fmt.Sprintf("l%d", len(points)/2-1), "")))
	}
	for name, x := range map[string]struct {
		g    *solid.Geometry
		want int
	}{
		"box":         {plate(t, 60, 40, 10), 3},
		"three holes": {plate(t, 60, 40, 10, 10, 10, 3, 31, 23, 4, 50, 12, 5), 3 + 3*3},
		"seven holes": {plate(t, 90, 40, 10, 9, 9, 3, 21, 13, 2, 33, 28, 4, 41, 7, 3, 55, 21, 5, 66, 9, 2, 79, 31, 3), 3 +
			3*7},
		"plain shaft": {shaft(8), 2},
		"four steps":  {shaft(8, 12, 9, 15), 8},
		"bored collar": {describe(t, model(t, "mm", "", circles("s1", xy, 0, 0, 20, 0, 0, 8), extrude("e1", "s1",
			oneSide("12 mm"), ""))), 3},
	} {
		r := audited(t, x.g)
		if r.Sizes != x.want || len(r.Missing) != x.want {
			t.Errorf("%s: %d sizes, %d missing where nothing is stated, not %d", name, r.Sizes, len(r.Missing), x.want)
		}
		if list := proposed(x.g, r); !complete(audited(t, x.g, list...)) {
			t.Errorf("%s: with all that is proposed it is not clean: %+v", name, audited(t, x.g, list...))
		}
	}
}

// proposed are the characteristics that an audit proposes first.
func proposed(g *solid.Geometry, r *audit.Result) []exercise.Characteristic {
	var out []exercise.Characteristic
	seen := map[*audit.Sized]bool{}
	for i, m := range r.Missing {
		if m.Propose == nil || seen[m.Propose] {
			continue
		}
		seen[m.Propose] = true
		c := exercise.Characteristic{ID: fmt.Sprint("new", i), Kind: m.Propose.Kind}
		for _, p := range m.Propose.Places {
			var place []address.Ref
			for _, operand := range p {
				var names []string
				for _, f := range operand {
					names = append(names, g.Names[f][0])
				}
				place = append(place, address.Ref{Name: strings.Join(names, " & ")})
			}
			c.Of = append(c.Of, place)
		}
		out = append(out, c)
	}
	return out
}

// Two holes that lie alike about the middle of a plate are placed by that alone. Where the instructor does not want it
// read, their place is missing, until it is stated without a number that they are symmetric.
func TestSymmetryCanBeRefused(t *testing.T) {
	g := plate(t, 60, 40, 10, 15, 12, 3, 45, 12, 3)
	both := stating("d", "diameter", "e2/side:c0")
	both.Of = append(both.Of, []address.Ref{{Name: "e2/side:c1"}})
	up := stating("y", "distance", "e2/side:c0", "e1/side:l0")
	up.Of = append(up.Of, []address.Ref{{Name: "e2/side:c1"}, {Name: "e1/side:l0"}})
	ex := &exercise.Exercise{Unit: "mm", Characteristics: []exercise.Characteristic{
		stating("l", "distance", "e1/side:l1", "e1/side:l3"), stating("w", "distance", "e1/side:l0", "e1/side:l2"),
		stating("t", "distance", "e1/start", "e1/end"), both, up, stating("x", "distance", "e2/side:c0", "e2/side:c1")}}
	r, err := audit.Of(g, ex)
	if err != nil || !r.Clean() || r.BySymmetry != 1 {
		t.Fatalf("%v %+v", err, r)
	}
	for _, e := range r.Symmetric {
		ex.Refused = append(ex.Refused, exercise.Evidence{What: e.What,
			Of: []address.Ref{{Name: g.Names[e.A][0]}, {Name: g.Names[e.B][0]}}})
	}
	if r, err = audit.Of(g, ex); err != nil || len(r.Missing) != 1 || r.BySymmetry != 0 {
		t.Errorf("refused: %v %+v", err, r)
	}
	ex.Characteristics = append(ex.Characteristics, stating("s", "symmetric", "e2/side:c0", "e2/side:c1", "e1/side:l1",
		"e1/side:l3"))
	if r, err = audit.Of(g, ex); err != nil || !r.Clean() {
		t.Errorf("stated: %v %+v", err, r)
	}
}

// Distances in the plane, drawn as a plate with a hole at each point: a framework made by Henneberg's two steps has
// 2n - 3 distances that are independent and hold all of them (Laman, On graphs and rigidity of plane skeletal
// structures, 1970). Without one of them something moves; with one more there is a set that is stated twice, in which
// every hole has three distances at least or is in none.
func TestAuditOfFrameworks(t *testing.T) {
	rng := rand.New(rand.NewSource(4))
	for trial := range 12 {
		n := 4 + trial%5
		var holes []float64
		for range n {
			holes = append(holes, 15+170*rng.Float64(), 15+170*rng.Float64(), 0.5)
		}
		g := plate(t, 200, 203, 7, holes...)
		edges := [][2]int{{0, 1}}
		for v := 2; v < n; v++ {
			a, b := rng.Intn(v), rng.Intn(v-1)
			if b >= a {
				b++
			}
			if k := rng.Intn(len(edges)); trial%2 == 0 && v > 2 { // the second step: an edge gives way to three
				e := edges[k]
				c := rng.Intn(v)
				for c == e[0] || c == e[1] {
					c = rng.Intn(v)
				}
				edges = append(slices.Delete(edges, k, k+1), [2]int{e[0], v}, [2]int{e[1], v}, [2]int{c, v})
				continue
			}
			edges = append(edges, [2]int{a, v}, [2]int{b, v})
		}
		hole := func(k int) string { return fmt.Sprintf("e2/side:c%d", k) }
		list := []exercise.Characteristic{stating("l", "distance", "e1/side:l1", "e1/side:l3"),
			stating("w", "distance", "e1/side:l0", "e1/side:l2"), stating("t", "distance", "e1/start", "e1/end"),
			stating("d", "diameter", "e2/side:*"), stating("x", "distance", hole(0), "e1/side:l3"),
			stating("y", "distance", hole(0), "e1/side:l0"), stating("z", "distance", hole(1), "e1/side:l3")}
		for i, e := range edges {
			list = append(list, stating(fmt.Sprint("e", i), "distance", hole(e[0]), hole(e[1])))
		}
		if r := audited(t, g, list...); !complete(r) {
			t.Fatalf("trial %d: %d holes, %v: %+v", trial, n, edges, r)
		}
		k := len(list) - 1 - rng.Intn(len(edges))
		if r := audited(t, g, slices.Delete(slices.Clone(list), k, k+1)...); len(r.Missing) != 1 || len(r.Twice) != 0 {
			t.Errorf("trial %d: without %s: %+v", trial, list[k].ID, r)
		}
		a, b := another(n, edges)
		more := append(slices.Clone(list), stating("more", "distance", hole(a), hole(b)))
		r := audited(t, g, more...)
		if len(r.Twice) != 1 || r.Twice[0].Drop != "more" || len(r.Missing) != 0 {
			t.Errorf("trial %d: with one more: %+v", trial, r)
			continue
		}
		met := map[int]int{a: 1, b: 1}
		for _, id := range r.Twice[0].Of {
			var i int
			if _, err := fmt.Sscanf(id, "e%d", &i); err == nil {
				met[edges[i][0]]++
				met[edges[i][1]]++
			}
		}
		for v, times := range met {
			if times < 3 {
				t.Errorf("trial %d: hole %d has %d of the distances %v", trial, v, times, r.Twice[0].Of)
			}
		}
	}
}

// Three holes in one slanting line stand specially: the distance of the outer two is the sum of the others, and still
// does not follow from them, since the hole between may stand beside the line. That is missing, and nothing is stated
// twice. Once the place of that hole is stated as well, one of them is; and so it is where the line lies along an edge,
// and is read from the drawing.
func TestAPartThatStandsSpecially(t *testing.T) {
	for _, turn := range []float64{0, 37 * math.Pi / 180} {
		at := func(along float64) []float64 {
			return []float64{60 + along*math.Cos(turn), 50 + along*math.Sin(turn), 3}
		}
		g := plate(t, 180, 140, 7, slices.Concat(at(0), at(30), at(50))...)
		hole := []string{"e2/side:c0", "e2/side:c1", "e2/side:c2"}
		list := []exercise.Characteristic{stating("l", "distance", "e1/side:l1", "e1/side:l3"),
			stating("w", "distance", "e1/side:l0", "e1/side:l2"), stating("t", "distance", "e1/start", "e1/end"),
			stating("d", "diameter", "e2/side:*"), stating("x", "distance", hole[0], "e1/side:l3"),
			stating("y", "distance", hole[0], "e1/side:l0"), stating("ab", "distance", hole[0], hole[1]),
			stating("bc", "distance", hole[1], hole[2]), stating("ac", "distance", hole[0], hole[2])}
		if turn == 0 {
			if r := audited(t, g, list...); len(r.Twice) != 1 || !slices.Equal(r.Twice[0].Of, []string{"ab", "bc", "ac"}) {
				t.Errorf("along an edge: %+v", r)
			}
			continue
		}
		list = append(list, stating("end", "distance", hole[2], "e1/side:l3"))
		if r := audited(t, g, list...); len(r.Twice) != 0 || len(r.Missing) != 1 ||
			r.Missing[0].Face != g.Named(hole[1])[0] {
			t.Errorf("on a slanting line: %+v", r)
		}
		list = append(list, stating("between", "distance", hole[1], "e1/side:l0"))
		if r := audited(t, g, list...); len(r.Twice) != 1 || len(r.Missing) != 0 {
			t.Errorf("with the hole between: %+v", r)
		}
	}
}

// The distance of two holes of a circle of evenly spaced ones follows from the circle, however the part is looked at.
func TestHolesAroundAreStatedTwice(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	key, _, err := checker().Load(ctx, b.ref)
	if err != nil {
		t.Fatal(err)
	}
	g := solidOf(t, key)
	ex := *b.Parsed
	holes := g.Named("*h1.p/bore")
	ex.Characteristics = append(slices.Clone(ex.Characteristics),
		stating("apart", "distance", g.Address(holes[0]), g.Address(holes[1])))
	if r, err := audit.Of(g, &ex); err != nil || len(r.Twice) != 1 || r.Twice[0].Drop != "apart" {
		t.Errorf("%v %+v", err, r)
	}
}

// another is a pair of holes that has no distance yet; of holes that all have one, the first again.
func another(n int, edges [][2]int) (a, b int) {
	for a := range n {
		for b := range a {
			if !slices.Contains(edges, [2]int{a, b}) && !slices.Contains(edges, [2]int{b, a}) {
				return b, a
			}
		}
	}
	return edges[0][0], edges[0][1]
}

// The demo's sheets determine their parts, and state nothing twice. Without one of its sizes, exactly what that held is
// missing, unless a centre line holds it, and what is proposed first makes the sheet complete again; with one twice,
// exactly the two are told.
func TestAuditOfTheDemo(t *testing.T) {
	for _, name := range demo.Exercises() {
		t.Run(name, func(t *testing.T) { auditInTurn(t, name) })
	}
}

func auditInTurn(t *testing.T, name string) {
	b := demoExercise(t, name)
	key, _, err := checker().Load(ctx, b.ref)
	if err != nil {
		t.Fatal(err)
	}
	g, err := solid.Describe(occ.Kernel{}, key.Shape, key.Names)
	if err != nil {
		t.Fatal(err)
	}
	whole, err := audit.Of(g, b.Parsed)
	if err != nil {
		t.Fatal(err)
	}
	if !whole.Clean() {
		t.Errorf("it does not determine its part: %+v", whole)
	}
	if seen, err := projected(t, b.Parsed, key).Seen(b.Parsed.Sheets); err != nil {
		t.Fatal(err)
	} else if hidden, err := audit.Unseen(g, b.Parsed, seen); err != nil || len(hidden) > 0 {
		t.Errorf("not to be seen: %+v, %v", hidden, err)
	}
	moved := g.Moved(solid.Rotation(solid.Vec{5, -7, 11}, solid.Vec{1, 2, 3}.Unit(), 37*math.Pi/180))
	anywhere := *b.Parsed // what is measured from the model's own axes is no size
	anywhere.Characteristics = slices.DeleteFunc(slices.Clone(b.Parsed.Characteristics),
		func(c exercise.Characteristic) bool {
			return c.Declared().Datum
		})
	if turned, err := audit.Of(moved, &anywhere); err != nil || turned.Sizes != whole.Sizes ||
		turned.Stated != whole.Stated || turned.BySymmetry != whole.BySymmetry || len(turned.Missing) > 0 {
		t.Errorf("turned, it is %+v, %v", turned, err)
	}
	bare := *b.Parsed
	bare.Characteristics = nil
	if r, err := audit.Of(g, &bare); err != nil {
		t.Fatal(err)
	} else if bare.Characteristics = proposed(g, r); true {
		if r, err = audit.Of(g, &bare); err != nil || len(r.Missing) > 0 {
			t.Errorf("with what is proposed for the bare part: %v %+v", err, r)
		}
	}
	for i, c := range b.Parsed.Characteristics {
		less := *b.Parsed
		less.Characteristics = slices.Delete(slices.Clone(b.Parsed.Characteristics), i, i+1)
		r, err := audit.Of(g, &less)
		if err != nil {
			t.Fatal(err)
		}
		held := whole.Stated - r.Stated - (whole.Sizes - r.Sizes) // less what is read as evenly spaced then
		if filled := r.BySymmetry - whole.BySymmetry; len(r.Missing)+filled != held || filled < 0 {
			t.Errorf("without %s, which held %d, %d are missing and %d held by symmetry", c.ID, held, len(r.Missing), filled)
		}
		less.Characteristics = append(less.Characteristics, proposed(g, r)...)
		if again, err := audit.Of(g, &less); err != nil || len(again.Missing) > 0 {
			t.Errorf("without %s, and with what is proposed: %v %+v", c.ID, err, again)
		}
		if held == 0 || c.Declared().Zero() { // what has no number is no size
			continue
		}
		if other := c; c.Text == "" {
			other.Stated = "123.45"
			changed := *b.Parsed
			changed.Characteristics = slices.Clone(b.Parsed.Characteristics)
			changed.Characteristics[i] = other
			if r, err := audit.Of(g, &changed); err != nil || len(r.Contradicting) != 1 ||
				r.Contradicting[0].Characteristic != c.ID {
				t.Errorf("with another size printed of %s: %v %+v", c.ID, err, r)
			}
		}
		more := *b.Parsed
		c.ID = "again"
		more.Characteristics = append(slices.Clone(b.Parsed.Characteristics), c)
		r, err = audit.Of(g, &more)
		if err != nil {
			t.Fatal(err)
		}
		want := fmt.Sprint([]string{b.Parsed.Characteristics[i].ID, "again"})
		if last := len(r.Twice) - 1; last < len(whole.Twice) || fmt.Sprint(r.Twice[last].Of) != want {
			t.Errorf("with %s twice: %+v", want, r.Twice)
		}
	}
}

// A size of a random part as the generator knows it: a function of its parameters.
type known struct {
	c  exercise.Characteristic
	of func(p []float64) float64
}

// randomPlate is a plate with holes and a pocket, or where it is symmetric with pairs of holes, and all sizes that one
// could state of it.
func randomPlate(t *testing.T, rng *rand.Rand, symmetric bool) (*solid.Geometry, int, []known) {
	p := []float64{100 + 20*rng.Float64(), 60 + 20*rng.Float64(), 8 + 4*rng.Float64()} // length, width, thickness
	all := []known{
		{stating("l", "distance", "e1/side:l1", "e1/side:l3"), func(p []float64) float64 { return p[0] }},
		{stating("w", "distance", "e1/side:l0", "e1/side:l2"), func(p []float64) float64 { return p[1] }},
		{stating("t", "distance", "e1/start", "e1/end"), func(p []float64) float64 { return p[2] }}}
	var holes []float64
	var x, y []func(p []float64) float64
	for k := range 2 + rng.Intn(3) {
		i := len(p)
		p = append(p, 3+2*rng.Float64(), 8+12*float64(k)+8*rng.Float64(), 10+25*rng.Float64())
		d := func(p []float64) float64 { return p[i] }
		xs := []func(p []float64) float64{func(p []float64) float64 { return p[i+1] }}
		if symmetric { // at either side of the middle
			xs = []func(p []float64) float64{func(p []float64) float64 { return p[0]/2 - p[i+1]/2 },
				func(p []float64) float64 { return p[0]/2 + p[i+1]/2 }}
		}
		for _, at := range xs {
			name := fmt.Sprintf("e2/side:c%d", len(holes)/3)
			holes = append(holes, at(p), p[i+2], p[i]/2)
			up := func(p []float64) float64 { return p[i+2] }
			all = append(all, known{stating("d"+name, "diameter", name), d},
				known{stating("x"+name, "distance", name, "e1/side:l3"), at},
				known{stating("r"+name, "distance", name, "e1/side:l1"), func(p []float64) float64 { return p[0] - at(p) }},
				known{stating("y"+name, "distance", name, "e1/side:l0"), up},
				known{stating("u"+name, "distance", name, "e1/side:l2"), func(p []float64) float64 { return p[1] - p[i+2] }})
			for j := range x {
				other := fmt.Sprintf("e2/side:c%d", j)
				ox, oy := x[j], y[j]
				all = append(all, known{stating("c"+name+other, "distance", name, other), func(p []float64) float64 {
					return math.Hypot(at(p)-ox(p), up(p)-oy(p))
				}})
			}
			x, y = append(x, at), append(y, up)
		}
	}
	return plate(t, p[0], p[1], p[2], holes...), len(p), about(p, all)
}

// about fixes the values of sizes at the generator's parameters, about which they are varied.
func about(p []float64, all []known) []known {
	for i := range all {
		of := all[i].of
		all[i].of = func(d []float64) float64 {
			q := slices.Clone(p)
			for k := range d {
				q[k] += d[k]
			}
			return of(q)
		}
	}
	return all
}

// randomShaft is a stepped shaft with a bore, and all sizes that one could state of it.
func randomShaft(t *testing.T, rng *rand.Rand) (*solid.Geometry, int, []known) {
	steps := 2 + rng.Intn(4)
	var p []float64
	end := 0.0
	bore := 2 + rng.Float64()
	points := []float64{0, bore}
	var all []known
	for k := range steps {
		r, l := 6+float64(k%2)*5+3*rng.Float64(), 8+10*rng.Float64()
		points = append(points, end, r, end+l, r)
		end += l
		i := len(p)
		p = append(p, 2*r, l)
		all = append(all, known{stating(fmt.Sprint("d", k), "diameter", fmt.Sprintf("r1/side:l%d", 2*k+1)),
			func(p []float64) float64 { return p[i] }})
		for j := range k + 1 { // from the shoulder before step j to that behind step k
			all = append(all, known{stating(fmt.Sprint("x", j, k), "distance", fmt.Sprintf("r1/side:l%d", 2*j),
				fmt.Sprintf("r1/side:l%d", 2*k+2)), func(p []float64) float64 {
				sum := 0.0
				for m := j; m <= k; m++ {
					sum += p[2*m+1]
				}
				return sum
			}})
		}
	}
	points = append(points, end, bore)
	i := len(p)
	p = append(p, 2*bore)
	last := len(points)/2 - 1
	all = append(all, known{stating("bore", "diameter", fmt.Sprintf("r1/side:l%d", last)),
		func(p []float64) float64 { return p[i] }})
	for k := range steps {
		all = append(all, known{stating(fmt.Sprint("wall", k), "wall", fmt.Sprintf("r1/side:l%d", 2*k+1),
			fmt.Sprintf("r1/side:l%d", last)), func(p []float64) float64 { return (p[2*k] - p[i]) / 2 }})
	}
	turned := `{"id":"r1","kind":"revolve","sketch":"s1","axis":{"datum":"X"}}`
	return describe(t, model(t, "mm", "", outline("s1", xz, points...), turned)), len(p), about(p, all)
}

// rankOf is the rank of sizes as functions of parameters, by elimination of their differences.
func rankOf(list []known, n int) int {
	var rows [][]float64
	for _, k := range list {
		row := make([]float64, n)
		for i := range row {
			d := make([]float64, n)
			d[i] = 1e-5
			up := k.of(d)
			d[i] = -1e-5
			row[i] = (up - k.of(d)) / 2e-5
		}
		rows = append(rows, row)
	}
	rank := 0
	for i := range n {
		best := -1
		for r := rank; r < len(rows); r++ {
			if math.Abs(rows[r][i]) > 1e-6 && (best < 0 || math.Abs(rows[r][i]) > math.Abs(rows[best][i])) {
				best = r
			}
		}
		if best < 0 {
			continue
		}
		rows[rank], rows[best] = rows[best], rows[rank]
		for r := rank + 1; r < len(rows); r++ {
			s := rows[r][i] / rows[rank][i]
			for c := range n {
				rows[r][c] -= s * rows[rank][c]
			}
		}
		rank++
	}
	return rank
}

// On random plates and shafts with some of their sizes stated, half of the plates symmetric, the audit finds as many
// missing as parameters of the generator are left open, by the rank of the sizes as functions of the parameters, and
// something stated twice where that rank is less than their number.
func TestAuditAgainstParameters(t *testing.T) {
	rng := rand.New(rand.NewSource(16))
	for trial := range 200 {
		var g *solid.Geometry
		var n int
		var all []known
		if trial%2 == 0 {
			g, n, all = randomPlate(t, rng, trial%4 == 0)
		} else {
			g, n, all = randomShaft(t, rng)
		}
		rng.Shuffle(len(all), func(i, k int) { all[i], all[k] = all[k], all[i] })
		some := all[:min(len(all), 1+rng.Intn(n+2))]
		var list []exercise.Characteristic
		for _, k := range some {
			list = append(list, k.c)
		}
		r := audited(t, g, list...)
		if rank := rankOf(some, n); len(r.Missing) != n-rank {
			t.Errorf("trial %d: %d of %d parameters are left open, and %d are missing: %s", trial, n-rank, n, len(r.Missing),
				ids(list))
		} else if trial%4 != 0 && (len(r.Twice) != len(some)-rank || r.Sizes != n) {
			t.Errorf("trial %d: %d sizes of rank %d, %d twice; %d of %d", trial, len(some), rank, len(r.Twice), r.Sizes, n)
		}
	}
}

func ids(list []exercise.Characteristic) string {
	var out []string
	for _, c := range list {
		out = append(out, c.ID)
	}
	return strings.Join(out, " ")
}

// The number that is printed is the nominal of the check: the reference itself is out where the sheet states another
// size, and in where it states the fraction that it was rounded from.
func TestPrintedSizesAreTheNominal(t *testing.T) {
	b := demoExercise(t, "rack-stop")
	for printed, want := range map[string]report.Verdict{"71.5": report.Out, "70.004": report.In} {
		ex := *b.Parsed
		ex.Characteristics = slices.Clone(ex.Characteristics)
		c := &ex.Characteristics[0]
		c.Stated = printed
		r := run(t, &ex, b.ref, check.Attempt{Name: "reference.json", Document: b.ref.Document})
		if got := r.Characteristics[0]; got.Verdict != want || got.NominalText != printed {
			t.Errorf("printed as %s, %s states %s and is %s with %s", printed, c.ID, got.NominalText, got.Verdict,
				got.MeasuredText)
		}
	}
}

// Printed sizes are rounded. Five gaps of 25/3 printed as 8.33 add up to more than the limits of the last hole; counted
// from one edge each is as near as its own rounding.
func TestRoundingAddsUp(t *testing.T) {
	var holes []float64
	for i := range 6 {
		holes = append(holes, 10+25*float64(i)/3, 12, 2)
	}
	g := plate(t, 70, 24, 6, holes...)
	sides := []exercise.Characteristic{stating("long", "distance", "e1/side:l3", "e1/side:l1"),
		stating("wide", "distance", "e1/side:l0", "e1/side:l2"), stating("thick", "distance", "e1/start", "e1/end")}
	hole := func(i int) string { return fmt.Sprintf("e2/side:c%d", i) }
	var chain, baseline []exercise.Characteristic
	for i := range 6 {
		both := []exercise.Characteristic{stating(fmt.Sprint("bore", i), "diameter", hole(i)),
			stating(fmt.Sprint("up", i), "distance", "e1/side:l0", hole(i))}
		from := "e1/side:l3"
		if i > 0 {
			from = hole(i - 1)
		}
		chain = append(append(chain, both...), stating(fmt.Sprint("x", i), "distance", from, hole(i)))
		baseline = append(append(baseline, both...), stating(fmt.Sprint("x", i), "distance", "e1/side:l3", hole(i)))
	}
	if r := audited(t, g, append(sides, baseline...)...); !r.Clean() {
		t.Errorf("from one edge: %+v", r)
	}
	r := audited(t, g, append(sides, chain...)...)
	if len(r.Missing)+len(r.Twice)+len(r.Contradicting) > 0 || len(r.Rounded) == 0 || len(r.Rounded[0].Of) != 5 {
		t.Fatalf("one from the other: %+v", r)
	}
	for _, x := range r.Rounded {
		if x.By < 0.0101 || x.By > 5.0/300+1e-9 {
			t.Errorf("five times 1/300 add up to %g at the face %v", x.By, g.Names[x.Face])
		}
	}
}

// The depth of a blind hole is seen, and that of one which breaks through is not.
func TestADepthThatBreaksThrough(t *testing.T) {
	for deep, want := range map[string]int{"9": 0, "12": 1, "15": 1} {
		g := describe(t, model(t, "mm", "", outline("s1", xy, 0, 0, 40, 0, 40, 30, 0, 30),
			extrude("e1", "s1", oneSide("12 mm"), ""), circles("s2", `{"face":"e1/end"}`, 20, 15, 4),
			cut("u2", "s2", oneSide(deep+" mm"), "")))
		if r := audited(t, g, stating("deep", "depth", "e1/end", "u2/side:c0")); len(r.Through) != want {
			t.Errorf("%s deep in a plate of 12: %v", deep, r.Through)
		}
	}
}

// Two blind holes on one axis, of one diameter and of two depths: from above alone nothing says which is which, since
// the lower one is drawn on the same circle. Its depth is not to be seen then; from below, or cut, both are.
func TestASideThatCannotBeTold(t *testing.T) {
	doc := model(t, "mm", "", outline("s1", xy, 0, 0, 60, 0, 60, 40, 0, 40), extrude("e1", "s1", oneSide("30"), ""),
		circles("s2", `{"face":"e1/end"}`, 30, 20, 4), cut("e2", "s2", oneSide("5"), ""),
		circles("s3", `{"face":"e1/start"}`, -30, 20, 4), cut("e3", "s3", oneSide("8"), ""))
	view := func(kind string) exercise.View {
		return exercise.View{ID: kind, Kind: kind, At: [2]float64{100, 100}, Hidden: true}
	}
	section := view("front")
	section.Cut = &exercise.Cut{Kind: exercise.FullCut, Path: address.List("e2/side:c0")}
	for _, c := range []struct {
		views []exercise.View
		want  string
	}{
		{[]exercise.View{view("top")}, "[low]"}, {[]exercise.View{view("bottom")}, "[high]"},
		{[]exercise.View{view("top"), view("bottom")}, "[]"}, {[]exercise.View{section}, "[]"},
	} {
		ex := sheet.Plain("Block", "mm", "model.json", 1)
		ex.Characteristics = append(ex.Characteristics, stating("high", "depth", "e1/end", "e2/side:c0"),
			stating("low", "depth", "e1/start", "e3/side:c0"))
		ex.Sheets[0].Views = c.views
		key, _, err := checker().Load(ctx, check.Reference{Document: doc})
		if err != nil {
			t.Fatal(err)
		}
		p := projected(t, ex, key)
		seen, err := p.Seen(ex.Sheets)
		if err != nil {
			t.Fatal(err)
		}
		hidden, err := audit.Unseen(p.Geometry, ex, seen)
		var got []string
		for _, h := range hidden {
			got = append(got, h.Characteristic)
		}
		if err != nil || fmt.Sprint(got) != c.want {
			t.Errorf("seen from %s: %v cannot be told, expected %s, %v", c.views[0].Kind, got, c.want, err)
		}
	}
}
