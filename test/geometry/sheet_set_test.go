package geometry

import (
	"bytes"
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/formats/pdf"
)

// A section goes onto a second sheet of the set: the cutting line in its parent says where it is and it says where it
// is from; a size that stands on either sheet is no loose note; and what is removed goes from both.
func TestASetOfSheets(t *testing.T) {
	b, ex := platePlan(t)
	has := func(d *sheet.Drawing, text string) bool {
		return slices.ContainsFunc(d.Items, func(it sheet.Item) bool { return it.Text == text })
	}
	hatched := func(d *sheet.Drawing) bool {
		return slices.ContainsFunc(d.Items, func(it sheet.Item) bool { return it.Class == sheet.Hatch })
	}
	out, err := onSheet(t, b, ex,
		sheet.Command{Do: sheet.CutAcross, Item: "view:top", Picks: [][2]float64{{100, 194}, {200, 196}}},
		sheet.Command{Do: sheet.NewSheet}, sheet.Command{Do: sheet.Onto, Item: "view:section", Text: "2"})
	if err != nil {
		t.Fatal(err)
	}
	if len(out.Sheets) != 2 || out.On != 1 || out.Sheets.On("section") != 1 || len(out.Touching) > 0 {
		t.Fatalf("sheet %d of %d is shown, the section is on %d; %v", out.On, len(out.Sheets), out.Sheets.On("section"),
			out.Touching)
	}
	if !has(out.Drawing, "A–A from sheet 1") || !has(out.Drawing, "2 / 2") || !hatched(out.Drawing) {
		t.Error("the section does not say what it is")
	}
	first, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Write, By: [2]float64{40, 60}, Text: "Deburr"})
	if err != nil || !has(first.Drawing, "sheet 2") || !has(first.Drawing, "1 / 2") || hatched(first.Drawing) {
		t.Errorf("the first sheet does not say where the section is: %v", err)
	}

	// Drawn together they are read like one drawing; each is a page of the PDF.
	prepared, err := prepare.Exercise(ctx, checker(), ex, b.ref, letteringOf(t))
	if err != nil {
		t.Fatal(err)
	}
	all := prepared.Drawing
	single := all.Sheets()
	if len(single) != 2 || all.Height < single[0].Height+single[1].Height || !has(single[0], "Deburr") ||
		has(single[1], "Deburr") || !hatched(single[1]) || len(single[0].Marks)+len(single[1].Marks) != len(all.Marks) {
		t.Errorf("%d sheets in the drawing of the set", len(single))
	}
	if n := len(all.Marks); n != len(ex.Characteristics) {
		t.Errorf("%d balloons for %d characteristics", n, len(ex.Characteristics))
	}
	for i, d := range single {
		if touching := d.Touching(letteringOf(t)); len(touching) > 0 {
			t.Errorf("sheet %d: %v", i+1, touching)
		}
	}
	file, err := pdf.Sheet(all, letteringOf(t))
	if n := bytes.Count(file, []byte("/Type /Page\n")); err != nil || n != 2 {
		t.Errorf("%d pages: %v", n, err)
	}

	for _, c := range []struct {
		list []sheet.Command
		say  string // what is said against it
		want func(out *prepare.Edited) bool
	}{
		{[]sheet.Command{{Do: sheet.Onto, Item: "view:top", Text: "2"}}, "", func(out *prepare.Edited) bool {
			return out.Sheets.On("top") == 1 && out.Sheets.On("section") == 1 && ex.Check() == nil
		}},
		{[]sheet.Command{{Do: sheet.Onto, Item: "view:top", Text: "1", Sheet: 1}}, "", func(out *prepare.Edited) bool {
			return out.Sheets.On("top") == 0 && ex.Check() == nil
		}},
		{[]sheet.Command{{Do: sheet.Onto, Item: "view:top", Text: "3"}}, "no other sheet of this set", nil},
		{[]sheet.Command{{Do: sheet.EndSheet, Sheet: 0}}, "all views are on this sheet", nil},
		{[]sheet.Command{{Do: sheet.EndSheet, Sheet: 1}}, "", func(out *prepare.Edited) bool {
			return len(out.Sheets) == 1 && out.On == 0 && !has(out.Drawing, "sheet 2")
		}},
		{[]sheet.Command{{Do: sheet.EndSheet, Sheet: 7}}, "one sheet at least", nil},
	} {
		out, err := onSheet(t, b, ex, c.list...)
		switch {
		case c.say != "" && (err == nil || !strings.Contains(err.Error(), c.say)):
			t.Errorf("%+v: %v, expected %q", c.list, err, c.say)
		case c.say == "" && (err != nil || !c.want(out)):
			t.Errorf("%+v: %v", c.list, err)
		}
	}
}

// A document of several sheets is checked as one set: an id is of one view or mark only, and what is taken from a view
// stands behind it.
func TestSetsAreChecked(t *testing.T) {
	_, ex := platePlan(t)
	second := exercise.Sheet{Paper: "A4", Scale: "1:1", Projection: "first"}
	view := func(id, parent string) exercise.Sheet {
		s := second
		s.Views = []exercise.View{{ID: id, Kind: "detail", Parent: parent, Clip: &exercise.Clip{Radius: 5}}}
		return s
	}
	for _, c := range []struct {
		sheets exercise.Sheets
		at     string
	}{
		{append(slices.Clone(ex.Sheets), view("detail", "top")), ""},
		{append(slices.Clone(ex.Sheets), view("top", "front")), "/sheets/1/views/0/id"},
		{append(exercise.Sheets{view("detail", "top")}, ex.Sheets...), "/sheets/0/views/0/parent"},
		{slices.Repeat(exercise.Sheets{second}, exercise.MostSheets+1), "/sheets"},
	} {
		doc := *ex
		doc.Sheets = c.sheets
		err := doc.Check()
		if (c.at == "") != (err == nil) || err != nil && !strings.Contains(err.Error(), c.at) {
			t.Errorf("%d sheets: %v, expected a fault at %q", len(c.sheets), err, c.at)
		}
	}
}

// A part that lies far from the origin of its file, and askew, has its new views on the paper as any other.
func TestViewsOfAPartFarAway(t *testing.T) {
	doc := drilledAt(t, 20, 30)
	ref := check.Reference{STEP: stepAttempt(t, doc, oddPose(), 1).STEP}
	ex := sheet.Plain("Plate", "mm", "reference.step", 1)
	out, err := prepare.Propose(ctx, checker(), ex, ref, letteringOf(t), prepare.Quietly)
	if err != nil {
		t.Fatal(err)
	}
	b, ex := bundle{ref: ref}, out.Exercise
	edited, err := onSheet(t, b, ex)
	if err != nil {
		t.Fatal(err)
	}
	low, high := sheet.Point{math.Inf(1), math.Inf(1)}, sheet.Point{math.Inf(-1), math.Inf(-1)}
	for _, it := range of(edited.Drawing, "top", sheet.Visible) {
		for _, p := range it.Points {
			for k := range 2 {
				low[k], high[k] = math.Min(low[k], p[k]), math.Max(high[k], p[k])
			}
		}
	}
	level := (low[1] + high[1]) / 2
	edited, err = onSheet(t, b, ex, sheet.Command{Do: sheet.CutAcross, Item: "view:top",
		Picks: [][2]float64{{low[0] - 5, level}, {high[0] + 5, level + 1}}}, sheet.Command{Do: sheet.Show, Text: "right"},
		sheet.Command{Do: sheet.NewSheet}, sheet.Command{Do: sheet.Onto, Item: "view:section", Text: "2"})
	if err != nil {
		t.Fatal(err)
	}
	for n, d := range []*sheet.Drawing{edited.Drawing, mustEdit(t, b, ex).Drawing} {
		for _, it := range d.Items {
			for _, p := range it.Points {
				if p[0] < 0 || p[1] < 0 || p[0] > d.Width || p[1] > d.Height {
					t.Fatalf("drawing %d: something of the view %q is drawn at %v", n, it.View, p)
				}
			}
		}
		if len(of(d, []string{"section", "right"}[n], sheet.Visible)) == 0 {
			t.Errorf("drawing %d has not its new view", n)
		}
	}
}

// mustEdit is the first sheet as it is.
func mustEdit(t *testing.T, b bundle, ex *exercise.Exercise) *prepare.Edited {
	t.Helper()
	out, err := onSheet(t, b, ex)
	if err != nil {
		t.Fatal(err)
	}
	return out
}
