package geometry

import (
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
)

// laidOut is the drawing of a model in some views, with the exercise that it is of.
func laidOut(t *testing.T, doc *part.Document, views ...exercise.View) (*sheet.Drawing, bundle, *exercise.Exercise) {
	t.Helper()
	ex := sheet.Plain("Part", "mm", "model.json", 1)
	ex.Sheets[0].Paper, ex.Sheets[0].Views = "A3", views
	if err := ex.Check(); err != nil {
		t.Fatal(err)
	}
	b := bundle{ref: check.Reference{Document: doc}}
	d, _ := draw(t, ex, b)
	return d, b, ex
}

// upright tells whether a view has an upright line of a class at x, in mm of paper.
func upright(d *sheet.Drawing, view string, class sheet.Class, x float64) bool {
	return slices.ContainsFunc(of(d, view, class), func(it sheet.Item) bool {
		return it.Kind == "run" && math.Abs(it.Points[0][0]-x) < 1e-6 && math.Abs(it.Points[1][0]-x) < 1e-6
	})
}

// A disc of 80 by 10 with a bore of 20, a hole of 8 on the left of it and one at 60 degrees, 28 away: the aligned
// section shows all three in one plane, with the hole at its true distance from the bore (ISO 128-3).
func TestAlignedSections(t *testing.T) {
	doc := model(t, "mm", "", circles("s1", xy, 0, 0, 40), extrude("e1", "s1", oneSide("10"), ""),
		circles("s2", xy, 0, 0, 10, -28, 0, 4, 14, -28*math.Sqrt(3)/2, 4),
		extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut","reverse":true`))
	cut := func(second string) exercise.View {
		return exercise.View{ID: "cut", Kind: "front", Parent: "top", At: [2]float64{150, 230}, Letter: "A",
			Cut: &exercise.Cut{Kind: exercise.AlignedCut, Path: address.List("e2/side:c0", second)}}
	}
	top := exercise.View{ID: "top", Kind: "top", At: [2]float64{150, 150}}
	d, _, _ := laidOut(t, doc, top, cut("e2/side:c2"))
	if got := hatched(d, "cut"); math.Abs(got-440) > 20 {
		t.Errorf("%g mm² are hatched, expected 80 x 10 less 20, 8 and 8 by 10", got)
	}
	for x, want := range map[float64]bool{28 - 4: true, 28 + 4: true, -28 - 4: true, -28 + 4: true, 40: true,
		0: false, 18: false} {
		if upright(d, "cut", sheet.Visible, 150+x) != want {
			t.Errorf("an edge at %g: %v", x, !want)
		}
	}
	if !upright(d, "cut", sheet.Centre, 150+28) || upright(d, "cut", sheet.Centre, 150+14) {
		t.Error("the axis of the hole is not where the section shows it")
	}
	// The cutting line goes through all of them, with an arrow square to each half.
	var line []sheet.Point
	for _, it := range of(d, "top", sheet.Centre) {
		if len(it.Points) > 2 {
			line = it.Points
		}
	}
	if len(line) != 3 || math.Abs(line[0][1]-150) > 1e-6 || math.Abs(line[1][0]-150) > 1e-6 ||
		math.Abs((line[2][1]-150)/(line[2][0]-150)+math.Sqrt(3)) > 1e-6 {
		t.Errorf("the cutting line is %v", line)
	}
	// A dimension in the section is as long as it says.
	_, b, ex := laidOut(t, doc, top, cut("e2/side:c2"))
	ex.Characteristics = append(ex.Characteristics, stating("r", "distance", "e2/side:c0", "e2/side:c2"))
	ex.Sheets[0].Marks = []exercise.Mark{{ID: "m1", Kind: exercise.Dimension, Form: exercise.Linear, Of: []string{"r"},
		View: "cut", Side: "above", Offset: [2]float64{0, 15}}}
	d, _ = draw(t, ex, b)
	if s := d.Spans; len(s) != 1 || math.Abs(s[0].To[0]-s[0].From[0]-28) > 1e-6 || s[0].Printed != "28" {
		t.Errorf("the distance is drawn %+v", s)
	}
	ex.Sheets[0].Views[1] = cut("e2/side:c1")
	ex.Sheets[0].Marks = nil
	if _, err := onSheet(t, b, ex); err == nil || !strings.Contains(err.Error(), "cut right through") {
		t.Errorf("two features in one plane: %v", err)
	}
}

// A revolved section stands in its view where it is cut, in narrow lines and without a letter, and goes with the view.
func TestRevolvedSections(t *testing.T) {
	front := exercise.View{ID: "front", Kind: "front", At: [2]float64{100, 100}}
	cut := exercise.View{ID: "cut", Kind: "left", Parent: "front", Cut: &exercise.Cut{Kind: exercise.RevolvedCut,
		Path: bores[:1]}}
	for _, at := range [][2]float64{{100, 100}, {130, 160}} {
		front.At = at
		d := drawn(t, []exercise.View{front, cut})
		if got := hatched(d, "cut"); math.Abs(got-(40-10)*20) > 25 {
			t.Errorf("%g mm² are hatched, expected 30 by 20", got)
		}
		low, high := math.Inf(1), math.Inf(-1)
		for _, it := range of(d, "cut", sheet.Thin) {
			for _, p := range it.Points {
				low, high = math.Min(low, p[0]), math.Max(high, p[0])
			}
		}
		// The bore is 10 from one side of the block and 30 from the other.
		if math.Abs(high-low-40) > 1e-6 || math.Min(at[0]+20-low, high-at[0]-20) < 10-1e-6 {
			t.Errorf("it stands from %g to %g, and is cut at %g", low, high, at[0]+20)
		}
		if len(of(d, "cut", sheet.Visible, sheet.Label)) > 0 || len(of(d, "front", sheet.Label)) > 0 {
			t.Error("it has wide lines or letters")
		}
	}
}

// A local section shows what is within a freehand line in the view, and nothing else of it changes.
func TestLocalSections(t *testing.T) {
	front := exercise.View{ID: "front", Kind: "front", At: [2]float64{100, 100}}
	whole := drawn(t, []exercise.View{front})
	front.Cut = &exercise.Cut{Kind: exercise.LocalCut, Path: bores[:1],
		Within: &exercise.Clip{At: [2]float64{20, 10}, Radius: 12}}
	d := drawn(t, []exercise.View{front})
	// The disc of 12 within 20 of height, less the bore of 10.
	cap := 144*math.Acos(10/12.0) - 10*math.Sqrt(44)
	if want := math.Pi*144 - 2*cap - 200; math.Abs(hatched(d, "front")-want) > 0.15*want {
		t.Errorf("%g mm² are hatched, expected about %g", hatched(d, "front"), want)
	}
	broken := of(d, "front", sheet.Thin)
	for _, it := range broken {
		for _, p := range it.Points {
			if r := math.Hypot(p[0]-120, p[1]-110); r > 12+1e-6 {
				t.Errorf("the part is broken off at %v, %g from the middle", p, r)
			}
		}
	}
	if len(broken) < 10 || !upright(d, "front", sheet.Visible, 115) || upright(whole, "front", sheet.Visible, 115) {
		t.Errorf("%d pieces of a freehand line; the side of the bore shows: %v", len(broken),
			upright(d, "front", sheet.Visible, 115))
	}
	has := func(d *sheet.Drawing) (n int) {
		for _, it := range of(d, "front", sheet.Visible) {
			if it.Points[0][0] > 140 && it.Points[1][0] > 140 {
				n++
			}
		}
		return n
	}
	if has(d) != has(whole) {
		t.Errorf("%d lines beyond the piece, and %d before it was cut", has(d), has(whole))
	}
}

// A bracket with a rib that is cut lengthwise: the rib is found, and left whole; it is cut again, and whole again, by a
// click. The areas are those of its profile: foot 60 by 10, wall 10 by 50, rib half of 40 by 40.
func TestRibsStayWhole(t *testing.T) {
	doc := model(t, "mm", "", outline("s1", xz, 0, 0, 60, 0, 60, 10, 10, 10, 10, 60, 0, 60),
		extrude("e1", "s1", `{"kind":"symmetric","total":"40"}`, ""),
		outline("s2", xz, 10, 10, 50, 10, 10, 50),
		extrude("e2", "s2", `{"kind":"symmetric","total":"6"}`, `,"result":"add"`))
	_, b, ex := laidOut(t, doc, exercise.View{ID: "top", Kind: "top", At: [2]float64{100, 100}})
	out, err := onSheet(t, b, ex, sheet.Command{Do: sheet.CutAcross, Item: "view:top", Picks: [][2]float64{{90, 100},
		{170, 101}}})
	if err != nil {
		t.Fatal(err)
	}
	at := out.Sheets.View("section").At
	pick := sheet.Command{Do: sheet.LeaveWhole, Item: "view:section", Picks: [][2]float64{{at[0] + 20, at[1] + 20}}}
	for _, c := range []struct {
		list []sheet.Command
		area float64
	}{{nil, 1100}, {[]sheet.Command{pick}, 1900}, {[]sheet.Command{pick}, 1100}} {
		if out, err = onSheet(t, b, ex, c.list...); err != nil {
			t.Fatal(err)
		}
		if got := hatched(out.Drawing, "section"); math.Abs(got-c.area) > 60 {
			t.Errorf("%g mm² are hatched, expected %g", got, c.area)
		}
		meets := slices.ContainsFunc(of(out.Drawing, "section", sheet.Visible), func(it sheet.Item) bool {
			return it.Kind == "run" && math.Abs(it.Points[0][0]-at[0]-10) < 1e-6 &&
				math.Abs(it.Points[1][0]-at[0]-10) < 1e-6 && math.Min(it.Points[0][1], it.Points[1][1]) < at[1]+40
		})
		if whole := c.area == 1100; meets != whole {
			t.Errorf("where the rib meets the wall there is a line: %v", meets)
		}
	}
	for _, at := range [][2]float64{{at[0] + 30, at[1] + 5}, {at[0] + 55, at[1] + 55}} { // the foot, and beside the part
		pick.Picks = [][2]float64{at}
		if _, err := onSheet(t, b, ex, pick); err == nil || !strings.Contains(err.Error(), "does not go along a rib") {
			t.Errorf("a click at %v: %v", at, err)
		}
	}
}

// cutting is what came of commands on a section.
type cutting struct {
	*prepare.Edited
	err error
}

// is wants the section cut so, with a letter.
func (c cutting) is(t *testing.T, kind, letter string) {
	t.Helper()
	if c.err != nil {
		t.Fatal(c.err)
	}
	if v := c.Sheets.View("section"); v.Cut.Kind != kind || v.Letter != letter {
		t.Errorf("the section %q is cut %+v, expected %s and %q", v.Letter, v.Cut, kind, letter)
	}
}

// says wants the commands refused in these words, or done where there are none.
func (c cutting) says(t *testing.T, what string) {
	t.Helper()
	if what == "" && c.err != nil || what != "" && (c.err == nil || !strings.Contains(c.err.Error(), what)) {
		t.Errorf("%v, expected %q", c.err, what)
	}
}

// How a section is cut is changed by hand: in steps and aligned, turned into its view and out of it; a piece is broken
// out of a view and closed again.
func TestCutsByHand(t *testing.T) {
	b, ex := platePlan(t)
	do := func(list ...sheet.Command) cutting {
		out, err := onSheet(t, b, ex, list...)
		return cutting{out, err}
	}
	cut := func(text string) sheet.Command {
		return sheet.Command{Do: sheet.CutAs, Item: "view:section", Text: text}
	}
	do(sheet.Command{Do: sheet.CutAcross, Item: "view:top", Picks: [][2]float64{{100, 180}, {200, 181}}},
		sheet.Command{Do: sheet.StepTo, Item: "view:section", Picks: [][2]float64{{184, 195}}, Reach: 1.5}).
		is(t, exercise.SteppedCut, "A")
	do(cut("aligned")).is(t, exercise.AlignedCut, "A")
	do(cut("revolved")).says(t, "cut it straight first")
	do(cut("stepped")).is(t, exercise.SteppedCut, "A")
	do(cut("full")).is(t, exercise.FullCut, "A")
	do(cut("aligned")).says(t, "step the section to the other feature first")
	do(cut("revolved")).is(t, exercise.RevolvedCut, "")
	do(sheet.Command{Do: sheet.Move, Item: "view:section", By: [2]float64{9, 9}}).says(t, "stands where it is cut")
	do(cut("removed")).is(t, exercise.RemovedCut, "A")

	local := func(x, y float64) sheet.Command {
		return sheet.Command{Do: sheet.BreakOut, Item: "view:front", Picks: [][2]float64{{x, y}, {x + 14, y}}}
	}
	do(local(190, 246)).says(t, "") // around a hole
	if c := ex.Sheets.View("front").Cut; c == nil || c.Kind != exercise.LocalCut || !strings.HasPrefix(c.Path[0].Name,
		"e2/side") {
		t.Errorf("the local section is %+v", c)
	}
	do(local(150, 246)).says(t, "cut already")
	do(sheet.Command{Do: sheet.CutAs, Item: "view:front"}).says(t, "")
	if ex.Sheets.View("front").Cut != nil {
		t.Error("the local section was not closed")
	}
	do(local(150, 120)).says(t, "no feature has its axis")
}

// The line of a radius whose centre is far has a jog where it leads towards it; from the other side, and where the
// centre is near, it is straight (ISO 129-1).
func TestRadiiWithFarCentres(t *testing.T) {
	for _, c := range []struct {
		radius float64
		up     float64
		points int
	}{{200, 30, 6}, {200, 8, 3}, {200, -30, 3}, {40, 30, 3}} {
		doc := model(t, "mm", "", outline("s1", xy, 0, 0, 100, 0, 100, 40, 0, 40), extrude("e1", "s1", oneSide("12"), ""),
			circles("s2", xy, 50, 30+c.radius, c.radius),
			extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut","reverse":true`))
		_, b, ex := laidOut(t, doc, exercise.View{ID: "top", Kind: "top", At: [2]float64{100, 150}})
		ex.Characteristics = append(ex.Characteristics, stating("r", "radius", "e2/side:c0"))
		ex.Sheets[0].Marks = []exercise.Mark{{ID: "m1", Kind: exercise.Dimension, Form: exercise.Leader, Of: []string{"r"},
			View: "top", Offset: [2]float64{4, c.up}}}
		d, _ := draw(t, ex, b)
		most := 0
		for _, it := range d.Items {
			if it.Mark == "m1" && it.Kind == "run" {
				most = max(most, len(it.Points))
			}
		}
		if most != c.points {
			t.Errorf("R%g, led %g upwards: a line of %d points, expected %d", c.radius, c.up, most, c.points)
		}
	}
}
