package review

import (
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/edit"
)

func at(x, y float64) sketch.Vec { return sketch.Vec{X: x, Y: y} }

func start(t testing.TB, params ...string) (*edit.Draft, *quantity.Table) {
	t.Helper()
	var list []quantity.Parameter
	for i := 0; i < len(params); i += 2 {
		list = append(list, quantity.Parameter{Name: params[i], Formula: params[i+1]})
	}
	tab, err := quantity.Evaluate(list, quantity.Millimetre, nil)
	if err != nil {
		t.Fatal(err)
	}
	return &edit.Draft{Sketch: &sketch.Sketch{}, Unit: quantity.Millimetre, Values: tab}, tab
}

func look(t testing.TB, d *edit.Draft, tab *quantity.Table) (*sketch.Solution, []Finding) {
	t.Helper()
	sol, err := sketch.Solve(d.Sketch, d.Unit.Factor, d.Values)
	if err != nil {
		t.Fatal(err)
	}
	if sol.Solved {
		sol.System().Store(d.Sketch)
	}
	return sol, Review(d, sol, tab)
}

func kinds(list []Finding) string {
	var out []string
	for _, f := range list {
		out = append(out, f.Kind)
	}
	return strings.Join(out, " ")
}

// held is a plate of 40 by 25 in the corner of the origin, fully held.
func held(t testing.TB, d *edit.Draft) []string {
	t.Helper()
	lines, err := d.Rectangle(at(0, 0), at(40, 25))
	if err != nil {
		t.Fatal(err)
	}
	d.Join(d.Entity(lines[0]).From, sketch.Origin)
	d.Constrain("length", "40", lines[0])
	d.Constrain("length", "26", lines[1])
	return lines
}

// Every kind of weakness is found where it is, its repair puts it right without
// moving anything or loosening what was held, and it is not found again.
func TestFindingsAndTheirRepairs(t *testing.T) {
	for _, c := range []struct {
		name   string
		params []string
		draw   func(d *edit.Draft, lines []string)
		want   string // kinds found, beside those of the plain plate
		after  string // kinds left after the first repair
	}{
		{"the plain plate", nil, func(*edit.Draft, []string) {}, "", ""},
		{"two constraints contradict", nil, func(d *edit.Draft, l []string) { d.Constrain("length", "50", l[2]) }, Conflict,
			""},
		{"a size given twice", nil, func(d *edit.Draft, l []string) { d.Constrain("length", "40", l[2]) },
			Spare + " " + Repeated, ""},
		{"a constraint given twice", nil, func(d *edit.Draft, l []string) { d.Constrain("parallel", "", l[0], l[2]) }, Spare,
			""},
		{"a gap in a second profile", nil, func(d *edit.Draft, _ []string) {
			a, b, c, e := d.Point(at(50, 0)), d.Point(at(60, 0)), d.Point(at(55, 8)), d.Point(at(50.05, 0.02))
			for _, l := range []string{d.Line(a, b), d.Line(b, c), d.Line(c, e)} {
				d.Constrain("fixed", "", d.Entity(l).To)
			}
			d.Remove(d.Constraints[len(d.Constraints)-1].ID)
		}, OpenEnd + " " + Apart + " " + Loose + " " + Slanted, Loose + " " + Slanted},
		{"a line that runs on", nil, func(d *edit.Draft, l []string) {
			x := d.Line(d.Point(at(10, 0)), d.Point(at(10, 33)))
			d.Constrain("fixed", "", x)
			d.Remove(d.Constraints[len(d.Constraints)-1].ID)
			d.Constrain("on-curve", "", d.Entity(x).From, l[0])
			d.Constrain("vertical", "", x)
			d.Constrain("length", "33", x)
			d.Constrain("horizontal-distance", "10", sketch.Origin, d.Entity(x).From)
		}, Crossing, ""},
		{"a doubled side", nil, func(d *edit.Draft, l []string) {
			x := d.Line(d.Point(at(5, 0)), d.Point(at(20, 0)))
			d.Constrain("fixed", "", x)
		}, Doubled, ""},
		{"nothing tied to the origin", nil, func(d *edit.Draft, l []string) { d.Remove(d.Constraints[4].ID) },
			Untied + " " + Loose, ""},
		{"a centre near the middle line", nil, func(d *edit.Draft, l []string) {
			m := d.Line(d.Point(at(0, 13)), d.Point(at(40, 13)))
			d.Entity(m).Guide = true
			d.Constrain("fixed", "", m)
			h := d.Circle(d.Point(at(12, 13.1)), 4)
			d.Constrain("radius", "4", h)
		}, OffCurve + " " + Loose, Loose},
		{"a line nearly upright", nil, func(d *edit.Draft, l []string) {
			x := d.Line(d.Point(at(10, 0)), d.Point(at(10.3, 26)))
			d.Constrain("on-curve", "", d.Entity(x).From, l[0])
			d.Constrain("on-curve", "", d.Entity(x).To, l[2])
			d.Constrain("horizontal-distance", "10", sketch.Origin, d.Entity(x).From)
		}, Loose + " " + Slanted, ""},
		{"one radius typed four times", nil, func(d *edit.Draft, l []string) {
			for _, p := range []sketch.Vec{at(8, 8), at(32, 8), at(32, 18), at(8, 18)} {
				h := d.Circle(d.Point(p), 3)
				d.Constrain("fixed", "", d.Entity(h).Center)
				d.Constrain("radius", "3", h)
			}
		}, Repeated, ""},
		{"a right angle as a size", nil, func(d *edit.Draft, l []string) {
			d.Remove(d.Constraints[1].ID)
			d.Constrain("angle", "90 deg", l[0], l[1])
		}, Plain, ""},
		{"a number where a parameter has its value", []string{"wide", "40 mm", "other", "31 mm"},
			func(*edit.Draft, []string) {}, Unnamed, ""},
		{"a number that two parameters have", []string{"wide", "40 mm", "long", "40 mm"}, func(*edit.Draft, []string) {}, "",
			""},
	} {
		t.Run(c.name, func(t *testing.T) {
			d, tab := start(t, c.params...)
			c.draw(d, held(t, d))
			before, list := look(t, d, tab)
			if got := kinds(list); got != c.want {
				t.Fatalf("found %q, want %q: %+v", got, c.want, list)
			}
			if c.want == "" {
				return
			}
			f := list[slices.IndexFunc(list, func(f Finding) bool { return f.Repair != "" })]
			if f.Repair == "" || f.What == "" || f.Remedy == "" {
				t.Fatalf("%+v", f)
			}
			if err := Apply(d, f); err != nil {
				t.Fatalf("%s: %v", f.Repair, err)
			}
			after, left := look(t, d, tab)
			if got := kinds(left); got != c.after {
				t.Errorf("after %q: %q, want %q: %+v", f.Repair, got, c.after, left)
			}
			for id, p := range after.Points {
				if q, ok := before.Points[id]; ok && before.Solved && q.Distance(p) > 0.5 {
					t.Errorf("the repair moves %s from %v to %v", id, q, p)
				}
			}
		})
	}
}

// Symmetry by two sizes becomes a constraint: then one size moves both sides.
func TestTwoSizesBecomeSymmetry(t *testing.T) {
	d, tab := start(t)
	lines, err := d.Rectangle(at(-20, 0), at(20, 12))
	if err != nil {
		t.Fatal(err)
	}
	d.Constrain("distance", "20", lines[1], sketch.YAxis)
	d.Constrain("distance", "20", lines[3], sketch.YAxis)
	d.Constrain("on-curve", "", d.Entity(lines[0]).From, sketch.XAxis)
	d.Constrain("length", "12", lines[1])
	sol, list := look(t, d, tab)
	if kinds(list) != TwoSided || !sol.Held() {
		t.Fatalf("%q, freedom %d", kinds(list), sol.Freedom)
	}
	if err := Apply(d, list[0]); err != nil {
		t.Fatal(err)
	}
	for i := range d.Constraints {
		if d.Constraints[i].Value == "20" {
			d.Constraints[i].Value = "33"
		}
	}
	sol, list = look(t, d, tab)
	lo, hi, _ := sketch.Bounds(sol.Curves, nil)
	if len(list) > 0 || !sol.Held() || math.Abs(lo.X+33) > 1e-9 || math.Abs(hi.X-33) > 1e-9 {
		t.Errorf("%q, freedom %d, from %g to %g", kinds(list), sol.Freedom, lo.X, hi.X)
	}
}

// Geometry without a word, as it comes from a file, gets all its relations
// offered; taking them all leaves no more freedoms than sizes are needed, and
// nothing spare.
func TestUnsaidRelationsOfBareGeometry(t *testing.T) {
	d, tab := start(t)
	// A plate with a round corner and two holes; every curve with points of its own.
	line := func(a, b sketch.Vec) { d.Line(d.Point(a), d.Point(b)) }
	line(at(0, 0), at(60, 0))
	line(at(60, 0), at(60, 30))
	line(at(60, 30), at(10, 30))
	d.Arc(d.Point(at(10, 20)), d.Point(at(10, 30)), d.Point(at(0, 20)))
	line(at(0, 20), at(0, 0))
	d.Circle(d.Point(at(15, 12)), 4)
	d.Circle(d.Point(at(45, 12)), 4)
	shape, list := look(t, d, tab)
	for _, kind := range []string{Apart, OffCurve, Slanted, Unsaid} {
		if _, err := ApplyAll(d, list, kind); err != nil {
			t.Fatalf("%s: %v", kind, err)
		}
		_, list = look(t, d, tab)
	}
	sol, list := look(t, d, tab)
	// Two sides and a radius of the plate, a radius and two places of the holes.
	if want := 3 + 1 + 4; sol.Freedom != want || len(sol.Spare) != 0 {
		t.Errorf("%d freedoms left, want %d; spare %v; %q", sol.Freedom, want, sol.Spare, kinds(list))
	}
	regions, problems := sketch.Regions(sol.Curves)
	if len(regions) != 3 || len(problems) != 0 {
		t.Errorf("%d regions, problems %v", len(regions), problems)
	}
	for i := range sol.Curves {
		if sol.Curves[i].A.Distance(shape.Curves[i].A) > 1e-6 {
			t.Errorf("%s moved", sol.Curves[i].ID)
		}
	}
}

// A repair that would do harm is refused and changes nothing.
func TestHarmfulRepairIsRefused(t *testing.T) {
	d, tab := start(t)
	held(t, d)
	_, _ = look(t, d, tab)
	n := len(d.Constraints)
	bad := Finding{Kind: Repeated, Entities: []string{}, repair: func(d *edit.Draft) error {
		d.Remove(d.Constraints[5].ID)
		return nil
	}}
	if err := Apply(d, bad); err == nil || !strings.Contains(err.Error(), "loose") || len(d.Constraints) != n {
		t.Errorf("%v, %d constraints of %d", err, len(d.Constraints), n)
	}
}

// A bow tie encloses two regions that nobody meant: it is told where it crosses itself. A square
// and two squares that overlap are no such profile.
func TestProfileCrossesItself(t *testing.T) {
	loop := func(d *edit.Draft, corners ...sketch.Vec) {
		var ids []string
		for _, c := range corners {
			ids = append(ids, d.Point(c))
		}
		for i := range ids {
			d.Line(ids[i], ids[(i+1)%len(ids)])
		}
	}
	v := func(x, y float64) sketch.Vec { return sketch.Vec{X: x, Y: y} }
	tab, err := quantity.Evaluate(nil, quantity.Millimetre, nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name  string
		loops [][]sketch.Vec
		want  int
	}{
		{"a square", [][]sketch.Vec{{v(0, 0), v(20, 0), v(20, 20), v(0, 20)}}, 0},
		{"a bow tie", [][]sketch.Vec{{v(0, 0), v(20, 20), v(20, 0), v(0, 20)}}, 1},
		{"two squares that overlap", [][]sketch.Vec{{v(0, 0), v(20, 0), v(20, 20), v(0, 20)},
			{v(10, 10), v(30, 10), v(30, 30), v(10, 30)}}, 0},
	} {
		d := &edit.Draft{Sketch: &sketch.Sketch{}, Unit: quantity.Millimetre, Values: tab}
		for _, l := range c.loops {
			loop(d, l...)
		}
		sol, err := sketch.Solve(d.Sketch, 1, tab)
		if err != nil {
			t.Fatal(err)
		}
		n := 0
		for _, f := range Review(d, sol, tab) {
			if f.Kind == Itself {
				n++
				if f.At == nil || f.At.Distance(v(10, 10)) > 1e-6 {
					t.Errorf("%s: it crosses itself at %v", c.name, f.At)
				}
			}
		}
		if n != c.want {
			t.Errorf("%s: %d crossings are told, want %d", c.name, n, c.want)
		}
	}
}
