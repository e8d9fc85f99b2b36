package geometry

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/formats/lettering"
)

// onSheet carries out commands on the sheet of an exercise, one after the other.
func onSheet(t *testing.T, b bundle, ex *exercise.Exercise, list ...sheet.Command) (*prepare.Edited, error) {
	t.Helper()
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	e := prepare.Editor{Checker: checker(), Metrics: f}
	out, err := e.Edit(ctx, ex, b.ref, "the reference", nil)
	for i := 0; i < len(list) && err == nil; i++ {
		out, err = e.Edit(ctx, ex, b.ref, "the reference", &list[i])
	}
	return out, err
}

// sheetOf is an exercise of the demo with a sheet of its own to change.
func sheetOf(t *testing.T, name string) (bundle, *exercise.Exercise) {
	b := demoExercise(t, name)
	ex := *b.Parsed
	s := *ex.Sheet()
	s.Views, s.Marks = slices.Clone(s.Views), slices.Clone(s.Marks)
	ex.Sheets = []exercise.Sheet{s}
	return b, &ex
}

// textAt is where the value of a characteristic stands.
func textAt(t *testing.T, d *sheet.Drawing, id string) sheet.Point {
	t.Helper()
	for _, it := range d.Items {
		if it.Kind == "text" && it.Class == sheet.Dimension && it.Characteristic == id {
			return it.Points[0]
		}
	}
	t.Fatalf("%s stands nowhere", id)
	return sheet.Point{}
}

// What is moved on a sheet goes where it is moved to, to half a millimetre, and stays there when the way is cleared;
// views in line with a view follow it, and nothing else does.
func TestMovingOnASheet(t *testing.T) {
	for _, c := range []struct {
		name, mark, of string
		by, want       [2]float64
	}{
		{"a dimension away", "m1", "width", [2]float64{0, -7}, [2]float64{0, -7}},
		{"a dimension along its line", "m1", "width", [2]float64{12, 0}, [2]float64{12, 0}},
		{"a short one, from beside its arrows", "m4", "thick", [2]float64{4, 10}, [2]float64{4, 10}},
		{"a leader", "m6", "boss", [2]float64{-6.2, 3.1}, [2]float64{-6, 3}},
	} {
		b, ex := sheetOf(t, "bearing-bracket")
		before, err := onSheet(t, b, ex)
		if err != nil {
			t.Fatal(err)
		}
		from := textAt(t, before.Drawing, c.of)
		after, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Move, Item: "mark:" + c.mark, By: c.by},
			sheet.Command{Do: sheet.Clear})
		if err != nil {
			t.Fatal(err)
		}
		to := textAt(t, after.Drawing, c.of)
		if math.Abs(to[0]-from[0]-c.want[0]) > 0.51 || math.Abs(to[1]-from[1]-c.want[1]) > 0.51 {
			t.Errorf("%s: from %.2f to %.2f, want by %v", c.name, from, to, c.want)
		}
	}
	b, ex := sheetOf(t, "bearing-bracket")
	was := slices.Clone(ex.Sheet().Views)
	if _, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Move, Item: "view:front", By: [2]float64{5, -3}}); err != nil {
		t.Fatal(err)
	}
	for i, v := range ex.Sheet().Views {
		want := map[string][2]float64{"front": {5, -3}, "top": {5, 0}, "right": {0, -3}}[v.ID]
		if got := [2]float64{v.At[0] - was[i].At[0], v.At[1] - was[i].At[1]}; got != want {
			t.Errorf("with the front view %s moves by %v, want %v", v.ID, got, want)
		}
	}
}

// What can be done to a sheet, and what cannot, which says what to do instead.
func TestCommandsOnASheet(t *testing.T) {
	has := func(e *prepare.Edited, text string) bool {
		return slices.ContainsFunc(e.Drawing.Items, func(it sheet.Item) bool { return it.Text == text })
	}
	for _, c := range []struct {
		list []sheet.Command
		want func(e *prepare.Edited) bool
		say  string
	}{
		{list: []sheet.Command{{Do: sheet.Flip, Item: "mark:m1"}},
			want: func(e *prepare.Edited) bool { return e.Sheet.Marks[0].Side == "above" }},
		{list: []sheet.Command{{Do: sheet.Remove, Item: "mark:m1"}},
			want: func(e *prepare.Edited) bool {
				return slices.Contains(e.Loose, "width") && has(e, "Base, width over all: 120")
			}},
		{list: []sheet.Command{{Do: sheet.Remove, Item: "mark:m1"}, {Do: sheet.Put, Text: "width"}},
			want: func(e *prepare.Edited) bool { return !slices.Contains(e.Loose, "width") && has(e, "120") }},
		{list: []sheet.Command{{Do: sheet.Write, By: [2]float64{40, 70}, Text: "Deburr"}},
			want: func(e *prepare.Edited) bool { return has(e, "Deburr") }},
		{list: []sheet.Command{{Do: sheet.Write, Item: "mark:m20", Text: "Break all edges"}},
			want: func(e *prepare.Edited) bool { return has(e, "Break all edges") }},
		{list: []sheet.Command{{Do: sheet.HideEdge, Item: "view:front"}},
			want: func(e *prepare.Edited) bool {
				return !slices.ContainsFunc(e.Drawing.Items, func(it sheet.Item) bool {
					return it.View == "front" && it.Class == sheet.Hidden
				})
			}},
		{list: []sheet.Command{{Do: sheet.PaperOf, Text: "A2"}},
			want: func(e *prepare.Edited) bool { return e.Drawing.Width == 594 }},
		{list: []sheet.Command{{Do: sheet.Remove, Item: "mark:m1"}, {Do: sheet.PaperOf, Text: "A4"}},
			want: func(e *prepare.Edited) bool { return e.Drawing.Width == 210 && has(e, "Base, width over all: 120") }},
		{list: []sheet.Command{{Do: sheet.ScaleTo, Text: "1:2"}},
			want: func(e *prepare.Edited) bool { return has(e, "1:2") }},
		{list: []sheet.Command{{Do: sheet.PaperOf, Text: "B4"}}, say: "not a size of paper"},
		{list: []sheet.Command{{Do: sheet.ScaleTo, Item: "view:front", Text: "1:3"}}, say: "choose one of"},
		{list: []sheet.Command{{Do: sheet.Move, Item: "mark:m99"}}, say: "there is no mark:m99"},
		{list: []sheet.Command{{Do: sheet.Put, Text: "one"}}, say: "leave it there"},
		{list: []sheet.Command{{Do: sheet.Flip, Item: "mark:m12"}}, say: "no other side"},
		{list: []sheet.Command{{Do: "burn", Item: "mark:m1"}}, say: "cannot be done"},
	} {
		b, ex := sheetOf(t, "bearing-bracket")
		out, err := onSheet(t, b, ex, c.list...)
		var refused *modeller.Refused
		switch {
		case c.say != "" && (!errors.As(err, &refused) || !strings.Contains(err.Error(), c.say)):
			t.Errorf("%+v: %v, want %q", c.list, err, c.say)
		case c.say == "" && (err != nil || !c.want(out)):
			t.Errorf("%+v: %v", c.list, err)
		}
	}
	// What a sheet is made of again is the same as what was drawn.
	b, ex := sheetOf(t, "gland-flange")
	first, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Move, Item: "mark:m1", By: [2]float64{0, 4}})
	if err != nil {
		t.Fatal(err)
	}
	ex.Sheets = []exercise.Sheet{first.Sheet}
	again, err := onSheet(t, b, ex)
	if err != nil || len(again.Drawing.Items) != len(first.Drawing.Items) {
		t.Errorf("drawn again it has %d items, had %d; %v", len(again.Drawing.Items), len(first.Drawing.Items), err)
	}
}

// From a bare reference characteristics are proposed until the sheet determines the part; each has a balloon on it, all
// faces that they are measured on can be seen, and nothing runs through a text.
func TestProposedSheets(t *testing.T) {
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"bearing-bracket", "gland-flange", "drain-bend", "guide-block"} {
		b := demoExercise(t, name)
		ex := *b.Parsed
		ex.Characteristics = nil
		out, err := prepare.Propose(ctx, checker(), &ex, b.ref, f)
		if err != nil || len(out.Left) > 0 || len(out.Added) == 0 {
			t.Fatalf("%s: %+v, %v", name, out, err)
		}
		if err := ex.Check(); err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		d, _ := draw(t, &ex, b)
		standClear(t, name, d, f)
		audited, err := prepare.AuditOf(ctx, checker(), &ex, b.ref)
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range audited.Findings {
			if x.Kind != "absent" {
				t.Errorf("%s: %s", name, x.What)
			}
		}
		at := 0
		for _, m := range ex.Sheet().Marks {
			at += len(m.Of)
		}
		t.Logf("%s: %d of %d characteristics stand at a mark", name, at, len(ex.Characteristics))
	}
}
