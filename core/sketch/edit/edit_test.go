package edit

import (
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

func values(t testing.TB, params ...quantity.Parameter) *quantity.Table {
	t.Helper()
	tab, err := quantity.Evaluate(params, quantity.Millimetre, nil)
	if err != nil {
		t.Fatal(err)
	}
	return tab
}

func draft(t testing.TB) *Draft {
	return &Draft{Sketch: &sketch.Sketch{}, Unit: quantity.Millimetre, Values: values(t)}
}

func at(x, y float64) sketch.Vec { return sketch.Vec{X: x, Y: y} }

// solve solves the draft, keeps the geometry and wants so many freedoms and
// nothing spare.
func solve(t *testing.T, d *Draft, freedom int) *sketch.Solution {
	t.Helper()
	sol, err := sketch.Solve(d.Sketch, d.Unit.Factor, d.Values)
	if err != nil {
		t.Fatal(err)
	}
	if !sol.Solved || sol.Freedom != freedom || len(sol.Spare) > 0 || sol.Folded {
		t.Fatalf("solved %v, freedom %d (want %d), spare %v, conflicts %v, loose %v", sol.Solved, sol.Freedom, freedom,
			sol.Spare, sol.Conflicts, sol.Loose)
	}
	sol.System().Store(d.Sketch)
	return sol
}

// areas lists the areas of the regions, the largest first.
func areas(sol *sketch.Solution) []float64 {
	regions, _ := sketch.Regions(sol.Curves)
	var out []float64
	for _, r := range regions {
		out = append(out, r.Area())
	}
	slices.SortFunc(out, func(a, b float64) int { return int(math.Copysign(1, b-a)) })
	return out
}

func wantAreas(t *testing.T, sol *sketch.Solution, want ...float64) {
	t.Helper()
	got := areas(sol)
	if len(got) != len(want) {
		t.Fatalf("areas %v, want %v", got, want)
	}
	for i := range got {
		if math.Abs(got[i]-want[i]) > 1e-6*want[i] {
			t.Errorf("areas %v, want %v", got, want)
		}
	}
}

func must[T any](t *testing.T) func(v T, err error) T {
	return func(v T, err error) T {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
}

// set changes the value of a size.
func set(t *testing.T, d *Draft, id, value string) {
	t.Helper()
	k := d.Constraint(id)
	if k == nil {
		t.Fatalf("no size %s", id)
	}
	k.Value = value
}

// Shapes come with the constraints that make them what they are: as many
// freedoms as place and sizes need, nothing spare, one closed region.
func TestShapes(t *testing.T) {
	n := func(k int, r float64) float64 { return float64(k) / 2 * r * r * math.Sin(2*math.Pi/float64(k)) }
	for _, c := range []struct {
		name    string
		draw    func(t *testing.T, d *Draft) error
		freedom int
		area    float64
	}{
		{"rectangle", func(_ *testing.T, d *Draft) error { _, err := d.Rectangle(at(1, 2), at(31, 22)); return err }, 4, 600},
		{"rectangle drawn backwards", func(_ *testing.T, d *Draft) error {
			_, err := d.Rectangle(at(31, 2), at(1, 22))
			return err
		}, 4, 600},
		{"rectangle from the centre", func(_ *testing.T, d *Draft) error {
			_, err := d.CentredRectangle(d.Point(at(3, 3)), at(18, 13))
			return err
		}, 4, 600},
		{"rectangle about the origin", func(_ *testing.T, d *Draft) error {
			_, err := d.CentredRectangle(sketch.Origin, at(15, 10))
			return err
		}, 2, 600},
		{"hexagon by corners", func(_ *testing.T, d *Draft) error {
			_, err := d.Polygon(d.Point(at(3, 3)), at(13, 3), 6, false)
			return err
		}, 4, n(6, 10)},
		{"hexagon by flats", func(_ *testing.T, d *Draft) error {
			_, err := d.Polygon(d.Point(at(3, 3)), at(13, 3), 6, true)
			return err
		}, 4, 6 * 100 * math.Tan(math.Pi/6)},
		{"triangle about the origin", func(_ *testing.T, d *Draft) error {
			_, err := d.Polygon(sketch.Origin, at(0, 8), 3, false)
			return err
		}, 2, n(3, 8)},
		{"polygon of 17", func(_ *testing.T, d *Draft) error {
			_, err := d.Polygon(sketch.Origin, at(0, 8), 17, false)
			return err
		}, 2, n(17, 8)},
		{"slot", func(_ *testing.T, d *Draft) error {
			_, err := d.Slot(d.Point(at(0, 0)), d.Point(at(20, 9)), 4)
			return err
		}, 5, math.Pi*16 + 8*math.Hypot(20, 9)},
		{"curved slot", func(_ *testing.T, d *Draft) error {
			_, err := d.CurvedSlot(d.Point(at(0, 0)), d.Point(at(20, 0)), d.Point(at(0, 20)), 4)
			return err
		}, 6, math.Pi*16 + math.Pi/4*(24*24-16*16)},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := draft(t)
			if err := c.draw(t, d); err != nil {
				t.Fatal(err)
			}
			wantAreas(t, solve(t, d, c.freedom), c.area)
		})
	}
	for name, err := range map[string]error{
		"flat rectangle": func() error { _, err := draft(t).Rectangle(at(1, 2), at(9, 2)); return err }(),
		"two-gon":        func() error { _, err := draft(t).Polygon(sketch.Origin, at(9, 2), 2, false); return err }(),
		"slot of no length": func() error {
			d := draft(t)
			_, err := d.Slot(d.Point(at(1, 1)), d.Point(at(1, 1)), 3)
			return err
		}(),
	} {
		if err == nil {
			t.Errorf("%s is drawn", name)
		}
	}
}

// plate is a rectangle of 40 by 25 with its lower left corner in the origin,
// held by two lengths.
func plate(t *testing.T) (d *Draft, lines []string) {
	d = draft(t)
	lines = must[[]string](t)(d.Rectangle(at(0, 0), at(40, 25)))
	d.Join(d.Entity(lines[0]).From, sketch.Origin)
	d.Constrain("length", "40", lines[0])
	d.Constrain("length", "25", lines[1])
	return d, lines
}

// Rounding and bevelling keep the sizes to the theoretical sharp corner: the
// plate still measures 40 by 25, and follows when these change.
func TestRoundAndBevelKeepTheSharpCorner(t *testing.T) {
	d, lines := plate(t)
	corner := d.Entity(lines[1]).From
	must[string](t)(d.Round(corner, "6", 6))
	wantAreas(t, solve(t, d, 0), 1000-(36-9*math.Pi))
	must[string](t)(d.Bevel(d.Entity(lines[2]).From, "5", 5))
	wantAreas(t, solve(t, d, 0), 1000-(36-9*math.Pi)-12.5)
	for _, size := range []string{"55", "200", "30"} {
		set(t, d, "d1", size)
		v, _ := d.Values.Eval(size, quantity.Length)
		wantAreas(t, solve(t, d, 0), 25*v-(36-9*math.Pi)-12.5)
	}
	if _, err := d.Round(d.Entity(lines[0]).From, "90", 90); err == nil ||
		!strings.Contains(err.Error(), "long from the corner") {
		t.Errorf("a round of 90 in a corner of 25: %v", err)
	}
}

func TestTrimExtendSplit(t *testing.T) {
	// A circle on the edge of a plate: its inner part goes, then the piece of the
	// edge inside it.
	d, lines := plate(t)
	c := d.Circle(d.Point(at(20, 0)), 8)
	d.Constrain("radius", "8", c)
	d.Constrain("midpoint", "", d.Entity(c).Center, lines[0])
	solve(t, d, 0)
	if err := d.Trim(c, at(20, -8)); err != nil {
		t.Fatal(err)
	}
	solve(t, d, 0)
	if err := d.Trim(lines[0], at(20, 0)); err != nil {
		t.Fatal(err)
	}
	sol := solve(t, d, 0)
	wantAreas(t, sol, 1000-32*math.Pi)
	if _, problems := sketch.Regions(sol.Curves); len(problems) > 0 {
		t.Errorf("left over: %v", problems)
	}
	set(t, d, "d1", "60") // the length of what was one line, and its middle
	if sol = solve(t, d, 0); math.Abs(sol.Points[d.Entity(c).Center].X-30) > 1e-9 {
		t.Errorf("the middle of the trimmed edge is at %v", sol.Points[d.Entity(c).Center])
	}
	wantAreas(t, sol, 1500-32*math.Pi)

	// A line short of the plate's side is extended to it.
	d, lines = plate(t)
	l := d.Line(d.Point(at(0, 10)), d.Point(at(31, 12)))
	d.Constrain("on-curve", "", d.Entity(l).From, lines[3])
	if err := d.Extend(l, at(31, 12)); err != nil {
		t.Fatal(err)
	}
	sol = solve(t, d, 2)
	if got := areas(sol); len(got) != 2 || math.Abs(got[0]+got[1]-1000) > 1e-6 {
		t.Errorf("areas %v", got)
	}
	if err := d.Extend(lines[0], at(40, 0)); err == nil {
		t.Error("a line with nothing in its way is extended")
	}

	// Splitting keeps length and direction; each half moves with the whole.
	d, lines = plate(t)
	other := must[string](t)(d.Split(lines[0], at(15, 0)))
	d.Constrain("length", "15", lines[0])
	sol = solve(t, d, 0)
	wantAreas(t, sol, 1000)
	set(t, d, "d1", "50")
	if sol = solve(t, d, 0); math.Abs(sol.Points[d.Entity(other).To].X-50) > 1e-9 {
		t.Errorf("the second half ends at %v", sol.Points[d.Entity(other).To])
	}

	// Nothing crosses: the whole curve goes, and what stood on it.
	d = draft(t)
	c = d.Circle(d.Point(at(5, 5)), 3)
	d.Constrain("radius", "3", c)
	if err := d.Trim(c, at(8, 5)); err != nil || len(d.Entities)+len(d.Constraints) > 0 {
		t.Errorf("%v, left %v %v", err, d.Entities, d.Constraints)
	}
}

// Round curves are trimmed and split like straight ones.
func TestTrimAndSplitRoundCurves(t *testing.T) {
	d := draft(t)
	m, u, v := d.Point(at(0, 0)), d.Point(at(20, 0)), d.Point(at(0, 10))
	e := d.Add(sketch.Entity{Kind: sketch.KindEllipse, Center: m, Major: u, Minor: v})
	l := d.Line(d.Point(at(-30, 0)), d.Point(at(30, 0)))
	if err := d.Trim(e, at(0, -10)); err != nil {
		t.Fatal(err)
	}
	if err := d.Trim(l, at(-25, 0)); err != nil {
		t.Fatal(err)
	}
	if err := d.Trim(l, at(25, 0)); err != nil {
		t.Fatal(err)
	}
	sol, err := sketch.Solve(d.Sketch, 1, d.Values)
	if err != nil || !sol.Solved {
		t.Fatal(err)
	}
	wantAreas(t, sol, 100*math.Pi)
	other := must[string](t)(d.Split(e, at(0, 10)))
	if sol, err = sketch.Solve(d.Sketch, 1, d.Values); err != nil || !sol.Solved {
		t.Fatal(err)
	}
	wantAreas(t, sol, 100*math.Pi)
	if d.Entity(other).Kind != sketch.KindEllArc {
		t.Errorf("half an ellipse is a %s", d.Entity(other).Kind)
	}

	// A full circle is split into two arcs about one centre.
	d = draft(t)
	c := d.Circle(d.Point(at(1, 1)), 5)
	d.Constrain("diameter", "10", c)
	other = must[string](t)(d.Split(c, at(6, 1)))
	sol = solve(t, d, 3) // the centre and where the joint stands; the other joint is opposite
	wantAreas(t, sol, 25*math.Pi)
	if d.Entity(other).Center != d.Entity(c).Center {
		t.Error("the halves have two centres")
	}

	// A spline is cut by a line without changing its shape.
	d = draft(t)
	var through []string
	for _, p := range []sketch.Vec{at(0, 0), at(10, 8), at(20, -4), at(30, 6), at(40, 0)} {
		through = append(through, d.Point(p))
	}
	s := d.Add(sketch.Entity{Kind: sketch.KindSpline, Through: through})
	cut := d.Line(d.Point(at(25, -20)), d.Point(at(25, 20)))
	before := must[[]sketch.Curve](t)(d.curves())
	if err := d.Trim(s, at(33, 4)); err != nil {
		t.Fatal(err)
	}
	after := must[[]sketch.Curve](t)(d.curves())
	if p := after[0].B; math.Abs(p.X-25) > 1e-6 {
		t.Errorf("the cut spline ends at %v", p)
	}
	for i := range 50 {
		lo, hi := after[0].Range()
		p := after[0].Point(lo + (hi-lo)*float64(i)/49)
		if _, q := before[0].Nearest(p); q.Distance(p) > 1e-6 {
			t.Errorf("the cut changes the spline by %g at %v", q.Distance(p), p)
		}
	}
	if d.Entity(cut) == nil {
		t.Error("the cutting line is gone")
	}
	if sol, err := sketch.Solve(d.Sketch, 1, d.Values); err != nil || !sol.Solved {
		t.Errorf("the cut spline: %v", err)
	}
}

func TestOffset(t *testing.T) {
	d, lines := plate(t)
	must[string](t)(d.Round(d.Entity(lines[1]).From, "6", 6))
	outline := d.Chain(lines[0])
	made := must[[]string](t)(d.Offset(outline, "2", 2))
	if len(made) != 5 {
		t.Fatalf("%d curves offset", len(made))
	}
	sol := solve(t, d, 0)
	outer := 1000 - (36 - 9*math.Pi)
	inner := 36*21 - (16 - 4*math.Pi)
	wantAreas(t, sol, inner, outer-inner)
	set(t, d, "d1", "70")
	outer, inner = outer+750, inner+630
	wantAreas(t, solve(t, d, 0), inner, outer-inner)

	d = draft(t)
	c := d.Circle(sketch.Origin, 10)
	d.Constrain("radius", "10", c)
	must[[]string](t)(d.Offset([]string{c}, "3", -3))
	wantAreas(t, solve(t, d, 0), 100*math.Pi, 69*math.Pi)
	if _, err := d.Offset([]string{c}, "11", 11); err == nil {
		t.Error("a circle of 10 is offset inwards by 11")
	}
}

// A mirrored half follows the other half.
func TestMirror(t *testing.T) {
	d := draft(t)
	a, b, c := d.Point(at(0, 0)), d.Point(at(20, 0)), d.Point(at(20, 12))
	e := d.Point(at(0, 18))
	l0, l1, l2 := d.Line(a, b), d.Line(b, c), d.Line(c, e)
	hole := d.Circle(d.Point(at(12, 6)), 3)
	arc := d.Arc(d.Point(at(6, 6)), d.Point(at(8, 6)), d.Point(at(6, 8)))
	d.Join(a, sketch.Origin)
	d.Constrain("horizontal", "", l0)
	d.Constrain("vertical", "", l1)
	d.Constrain("on-curve", "", e, sketch.YAxis)
	free := must[*sketch.Solution](t)(sketch.Solve(d.Sketch, 1, d.Values)).Freedom
	must[[]string](t)(d.Mirror([]string{l0, l1, l2, hole, arc}, sketch.YAxis))
	sol := solve(t, d, free)
	wantAreas(t, sol, 2*(20*15-9*math.Pi), 9*math.Pi, 9*math.Pi)
	d.Constrain("length", "50", l0)
	d.Constrain("radius", "2", hole)
	if sol = solve(t, d, free-2); math.Abs(areas(sol)[1]-4*math.Pi) > 1e-6 {
		t.Errorf("areas %v", areas(sol))
	}
	lo, hi, _ := sketch.Bounds(sol.Curves, nil)
	if math.Abs(lo.X+50) > 1e-9 || math.Abs(hi.X-50) > 1e-9 {
		t.Errorf("the mirrored half reaches from %g to %g", lo.X, hi.X)
	}
	if _, err := d.Mirror([]string{l0}, hole); err == nil {
		t.Error("mirrored about a circle")
	}
}

// Half an ellipse and its image make a whole one on either side of the line.
func TestMirrorOfAnEllipticalArc(t *testing.T) {
	d := draft(t)
	m, u, v := d.Point(at(20, 0)), d.Point(at(32, 0)), d.Point(at(20, 7))
	from, to := d.Point(at(20, 7)), d.Point(at(20, -7)) // the left half, by way of (8, 0)
	arc := d.Add(sketch.Entity{Kind: sketch.KindEllArc, Center: m, Major: u, Minor: v, Start: from, End: to})
	l := d.Line(to, from)
	must[[]string](t)(d.Mirror([]string{arc, l}, sketch.YAxis))
	sol, err := sketch.Solve(d.Sketch, 1, d.Values)
	if err != nil || !sol.Solved || len(sol.Spare) > 0 {
		t.Fatalf("%v, spare %v", err, sol.Spare)
	}
	wantAreas(t, sol, 42*math.Pi, 42*math.Pi)
	lo, hi, _ := sketch.Bounds(sol.Curves, nil)
	if math.Abs(lo.X+20) > 1e-6 || math.Abs(hi.X-20) > 1e-6 {
		t.Errorf("the halves reach from %g to %g, not to their straight sides", lo.X, hi.X)
	}
}

// Copies in a row and in a ring are tied to the first: its size drives all, and
// one spacing or angle places them.
func TestRowsAndRings(t *testing.T) {
	d := draft(t)
	hole := d.Circle(d.Point(at(5, 5)), 2)
	made := must[[]string](t)(d.Row([]string{hole}, 4, at(15, 0), "15"))
	if len(made) != 3 {
		t.Fatalf("%d copies", len(made))
	}
	sol := solve(t, d, 3)
	wantAreas(t, sol, 4*math.Pi, 4*math.Pi, 4*math.Pi, 4*math.Pi)
	d.Constrain("diameter", "6", hole)
	set(t, d, "d1", "20")
	sol = solve(t, d, 2)
	if p, q := sol.Points[d.Entity(hole).Center], sol.Points[d.Entity(made[2]).Center]; q.Sub(p).
		Distance(at(60, 0)) > 1e-8 {
		t.Errorf("the last hole is %v from the first", q.Sub(p))
	}
	wantAreas(t, sol, 9*math.Pi, 9*math.Pi, 9*math.Pi, 9*math.Pi)

	// A row of rectangles: every copy has the shape of the first.
	d = draft(t)
	lines := must[[]string](t)(d.Rectangle(at(0, 0), at(8, 5)))
	must[[]string](t)(d.Row(lines, 3, at(10, 4), "12"))
	solve(t, d, 4)
	d.Constrain("length", "6", lines[0])
	wantAreas(t, solve(t, d, 3), 30, 30, 30)

	d = draft(t)
	hole = d.Circle(d.Point(at(20, 0)), 3)
	must[[]string](t)(d.Ring([]string{hole}, 6, sketch.Origin, 2*math.Pi))
	sol = solve(t, d, 3)
	if n := len(areas(sol)); n != 6 {
		t.Errorf("%d holes around", n)
	}
	d.Constrain("diameter", "4", hole)
	d.Constrain("distance", "30", sketch.Origin, d.Entity(hole).Center)
	sol = solve(t, d, 1)
	for _, c := range sol.Curves {
		if c.Kind == sketch.KindCircle && (math.Abs(c.Center.Norm()-30) > 1e-8 || math.Abs(c.Radius-2) > 1e-8) {
			t.Errorf("a hole of %g at %g", c.Radius, c.Center.Norm())
		}
	}
	if _, err := d.Ring([]string{hole}, 1, sketch.Origin, 2*math.Pi); err == nil {
		t.Error("a ring of one")
	}

	// A slot on a ring of three over a third of a turn.
	d = draft(t)
	slot := must[[]string](t)(d.Slot(d.Point(at(20, -4)), d.Point(at(20, 4)), 2))
	must[[]string](t)(d.Ring(slot, 3, sketch.Origin, 2*math.Pi/3))
	one := math.Pi*4 + 8*4
	wantAreas(t, solve(t, d, 5), one, one, one)
}

func TestMoveTurnScale(t *testing.T) {
	d, lines := plate(t)
	d.Constraints = slices.DeleteFunc(d.Constraints, func(k sketch.Constraint) bool { return k.Kind == "coincident" })
	d.Move(lines, at(7, -3))
	if sol := solve(t, d, 2); sol.Points[d.Entity(lines[0]).From].Distance(at(7, -3)) > 1e-9 {
		t.Errorf("moved to %v", sol.Points[d.Entity(lines[0]).From])
	}
	if removed := d.Turn(lines, at(7, -3), 37*math.Pi/180); len(removed) > 0 {
		t.Errorf("turning took off %v", removed)
	}
	sol := solve(t, d, 2)
	wantAreas(t, sol, 1000)
	if p := sol.Points[d.Entity(lines[0]).To]; p.Distance(at(7, -3).Polar(40, 37*math.Pi/180)) > 1e-4 {
		t.Errorf("turned to %v", p)
	}
	if err := d.Scale(lines, at(7, -3), 2); err != nil {
		t.Fatal(err)
	}
	wantAreas(t, solve(t, d, 2), 4000)
	if err := d.Scale(lines, at(0, 0), -1); err == nil {
		t.Error("scaled by -1")
	}
}

// The first length given to a rough sketch scales it whole: the shape is the
// same, and a chain drawn at a hundredth of its size does not fold.
func TestFirstSizeScales(t *testing.T) {
	d := draft(t)
	var points []string
	for _, p := range []sketch.Vec{at(0, 0), at(0.4, 0), at(0.4, 0.1), at(0.15, 0.1), at(0.15, 0.3), at(0, 0.3)} {
		points = append(points, d.Point(p))
	}
	var lines []string
	for i := range points {
		lines = append(lines, d.Line(points[i], points[(i+1)%6]))
		d.Constrain(map[bool]string{true: "horizontal", false: "vertical"}[i%2 == 0], "", lines[i])
	}
	if !d.FirstSize(0.4, 90) {
		t.Fatal("the first size does not scale")
	}
	d.Constrain("length", "90", lines[0])
	sol := solve(t, d, 5)
	wantAreas(t, sol, 0.07*(90/0.4)*(90/0.4))
	if d.FirstSize(90, 10) {
		t.Error("the second size scales as well")
	}
}

// Removing takes along what cannot stand without it and nothing else.
func TestRemove(t *testing.T) {
	d, lines := plate(t)
	d.Remove(d.Entity(lines[1]).From)
	for _, k := range d.Constraints {
		for _, id := range k.Of {
			if id != sketch.Origin && d.Entity(id) == nil {
				t.Errorf("%s names %s, which is gone", k.ID, id)
			}
		}
	}
	if d.Entity(lines[0]) != nil || d.Entity(lines[1]) != nil || d.Entity(lines[2]) == nil || d.Entity(lines[3]) == nil {
		t.Error("a corner goes with its two lines, and with these alone")
	}
	if _, err := sketch.Solve(d.Sketch, 1, d.Values); err != nil {
		t.Error(err)
	}
}

// A rounded end made of a full circle and two lines that touch it: trimming the circle between the
// lines, and then each line where it runs on past the place of touching, leaves one closed profile
// whose ends are joined, with no point and no constraint to spare.
func TestTrimmingAtTangents(t *testing.T) {
	d := draft(t)
	m := d.Point(at(0, 0))
	c := d.Circle(m, 10)
	top := d.Line(d.Point(at(-15, 10)), d.Point(at(40, 10)))
	low := d.Line(d.Point(at(-15, -10)), d.Point(at(40, -10)))
	end := d.Line(d.Entity(top).To, d.Entity(low).To)
	d.Constrain("coincident", "", m, sketch.Origin)
	d.Constrain("horizontal", "", top)
	d.Constrain("horizontal", "", low)
	d.Constrain("vertical", "", end)
	d.Constrain("tangent", "", top, c)
	d.Constrain("tangent", "", low, c)
	d.Constrain("diameter", "20", c)
	if sol, err := sketch.Solve(d.Sketch, 1, d.Values); err != nil || !sol.Solved {
		t.Fatal(err)
	}
	for _, cut := range []struct {
		id   string
		x, y float64
	}{{c, 10, 0}, {top, -12, 10}, {low, -12, -10}} {
		if err := d.Trim(cut.id, at(cut.x, cut.y)); err != nil {
			t.Fatal(err)
		}
	}
	sol, err := sketch.Solve(d.Sketch, 1, d.Values)
	if err != nil || !sol.Solved || len(sol.Spare) > 0 {
		t.Fatalf("solved %v, spare %v, %v", sol.Solved, sol.Spare, err)
	}
	regions, problems := sketch.Regions(sol.Curves)
	if want := 20*40 + math.Pi*100/2; len(regions) != 1 || len(problems) != 0 || math.Abs(regions[0].Area()-want) > 1e-6 {
		t.Errorf("%d regions, %d problems", len(regions), len(problems))
	}
	points := 0
	for _, e := range d.Entities {
		if e.Kind == sketch.KindPoint {
			points++
		}
	}
	if points != 5 { // the centre, two places of touching, two corners
		t.Errorf("%d points are left, want 5", points)
	}
}
