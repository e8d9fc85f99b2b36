package geometry

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/core/solid"
	"hammerset/formats/lettering"
	"hammerset/formats/svg"
)

// onSheet carries out commands on the sheet of an exercise, one after the other.
func onSheet(t *testing.T, b bundle, ex *exercise.Exercise, list ...sheet.Command) (*prepare.Edited, error) {
	t.Helper()
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	e := prepare.Editor{Checker: checker(), Metrics: f}
	out, err := e.Edit(ctx, ex, b.ref, "the reference", "", &sheet.Command{}, prepare.Quietly)
	for i := 0; i < len(list) && err == nil; i++ {
		// A page that has only what was written for it draws the same beforehand, or says that it cannot.
		var laying prepare.Laying
		var page exercise.Exercise
		again(t, out.Laying, &laying)
		again(t, ex, &page)
		laying.Metrics = f
		command := list[i]
		ahead, refusal := laying.Preview(ctx, &page, []sheet.Command{command}, 0)
		out, err = e.Edit(ctx, ex, b.ref, "the reference", "", &list[i], prepare.Quietly)
		switch {
		case errors.Is(refusal, prepare.ErrElsewhere):
		case (refusal == nil) != (err == nil):
			t.Errorf("%+v: ahead %v, on the server %v", command, refusal, err)
		case err == nil && (ahead.On != out.On || !bytes.Equal(svg.Render(ahead.Drawing, f, svg.Options{Handles: true}),
			svg.Render(out.Drawing, f, svg.Options{Handles: true}))):
			t.Errorf("%+v is drawn otherwise ahead than on the server", command)
		}
	}
	return out, err
}

// again reads what another has written.
func again(t *testing.T, of, into any) {
	t.Helper()
	text, err := json.Marshal(of)
	if err == nil {
		err = json.Unmarshal(text, into)
	}
	if err != nil {
		t.Fatal(err)
	}
}

// A view at which nothing stands is looked at from another side; one with dimensions, a section, and one from which
// others are taken is not.
func TestAViewFromAnotherSide(t *testing.T) {
	b, ex := platePlan(t)
	if out, err := onSheet(t, b, ex, sheet.Command{Do: sheet.SeenFrom, Item: "view:front", Text: "left"}); err != nil ||
		out.Sheets.View("front").Kind != "left" {
		t.Errorf("%v", err)
	}
	b, ex = sheetOf(t, "bearing-bracket")
	for _, c := range []struct{ text, say string }{{"left", "something stands at this view"}, {"nowhere", "no side"}} {
		if _, err := onSheet(t, b, ex, sheet.Command{Do: sheet.SeenFrom, Item: "view:front", Text: c.text}); err == nil ||
			!strings.Contains(err.Error(), c.say) {
			t.Errorf("from %s: %v, expected %q", c.text, err, c.say)
		}
	}
}

// A page lays out by itself what needs no view that is not projected yet, and nothing that takes long; the whole set is
// drawn as those have it who read it.
func TestLayingOutAhead(t *testing.T) {
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	b, ex := sheetOf(t, "bearing-bracket")
	at, err := onSheet(t, b, ex)
	if err != nil {
		t.Fatal(err)
	}
	at.Laying.Metrics = f
	for _, c := range []struct {
		command sheet.Command
		ahead   bool
	}{
		{sheet.Command{Do: sheet.Move, Item: "view:front", By: [2]float64{3, 0}}, true},
		{sheet.Command{Do: sheet.Flip, Item: "mark:m1"}, true},
		{sheet.Command{Do: sheet.Remove, Item: "view:right"}, true},
		{sheet.Command{Do: sheet.NewSheet}, true},
		{sheet.Command{Do: sheet.Show, Text: "back"}, false},
		{sheet.Command{Do: sheet.Propose}, false},
		{sheet.Command{Do: sheet.Clear}, false},
	} {
		var page exercise.Exercise
		again(t, ex, &page)
		_, err := at.Laying.Preview(ctx, &page, []sheet.Command{c.command}, 0)
		if (err == nil) != c.ahead || err != nil && !errors.Is(err, prepare.ErrElsewhere) {
			t.Errorf("%+v ahead: %v", c.command, err)
		}
	}
	if e, err := onSheet(t, b, ex, sheet.Command{Do: sheet.NewSheet}); err != nil || e.Key != at.Key {
		t.Errorf("another sheet changes what is laid out from: %v", err)
	}
	whole, err := at.Laying.Set(ex)
	if err != nil || len(whole.Pages) != 2 {
		t.Errorf("the whole set: %v", err)
	}
	if e, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Show, Text: "back"}); err != nil || e.Key == at.Key {
		t.Errorf("another view changes nothing that is laid out from: %v", err)
	}
	if _, err := at.Laying.Set(ex); !errors.Is(err, prepare.ErrElsewhere) {
		t.Errorf("a set with a view that is not projected: %v", err)
	}
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

// ordered tells whether characteristics have balloons in their order.
func ordered(e *prepare.Edited, ids ...string) bool {
	last := 0
	for _, id := range ids {
		i := slices.IndexFunc(e.Characteristics, func(x exercise.Characteristic) bool { return x.ID == id })
		if i < 0 || e.Characteristics[i].Balloon <= last {
			return false
		}
		last = e.Characteristics[i].Balloon
	}
	return true
}

// arrowsOutside tells whether the arrowheads of a dimension point to one another.
func arrowsOutside(d *sheet.Drawing, mark string) bool {
	var tips, bases []sheet.Point
	for _, it := range d.Items {
		if it.Mark == mark && it.Kind == "fill" {
			tips = append(tips, it.Points[0])
			bases = append(bases, it.Points[1])
		}
	}
	return len(tips) == 2 && math.Abs(bases[0][0]-bases[1][0]) > math.Abs(tips[0][0]-tips[1][0])
}

// sheetAt is where a view of the bracket stands.
func sheetAt(t *testing.T, view string) [2]float64 {
	_, ex := sheetOf(t, "bearing-bracket")
	return ex.Sheets.View(view).At
}

// What can be done to a sheet, and what cannot, which says what to do instead.
func TestCommandsOnASheet(t *testing.T) {
	baseLine := sheetAt(t, "front") // the middle of the underside of the bracket
	has := func(e *prepare.Edited, text string) bool {
		return slices.ContainsFunc(e.Drawing.Items, func(it sheet.Item) bool { return it.Text == text })
	}
	for _, c := range []struct {
		list []sheet.Command
		want func(e *prepare.Edited) bool
		say  string
	}{
		{list: []sheet.Command{{Do: sheet.Flip, Item: "mark:m1"}},
			want: func(e *prepare.Edited) bool { return e.Sheets[0].Marks[0].Side == "above" }},
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
		{list: []sheet.Command{{Do: sheet.Arrows, Item: "mark:m1", Text: "outside"}},
			want: func(e *prepare.Edited) bool { return arrowsOutside(e.Drawing, "m1") }},
		{list: []sheet.Command{{Do: sheet.Arrows, Item: "mark:m1", Text: "sideways"}}, say: "cannot be done"},
		{list: []sheet.Command{{Do: sheet.Symbol, Item: "view:front", Picks: [][2]float64{baseLine}, Reach: 2,
			Text: "Ra 1.6"}}, want: func(e *prepare.Edited) bool {
			marks := e.Sheets[0].Marks
			return has(e, "Ra 1.6") && marks[len(marks)-1].Symbol == exercise.TextureRemoved && len(e.Touching) == 0
		}},
		{list: []sheet.Command{{Do: sheet.Symbol, Item: "view:front", Picks: [][2]float64{{1, 1}}, Reach: 2}},
			say: "no edge of the view is here"},
		{list: []sheet.Command{{Do: sheet.Freely, Item: "view:top", On: true},
			{Do: sheet.Move, Item: "view:front", By: [2]float64{10, 0}}},
			want: func(e *prepare.Edited) bool { return e.Sheets[0].View("top").At[0] == sheetAt(t, "top")[0] }},
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
		{list: []sheet.Command{{Do: sheet.Merge, Item: "mark:m6", Text: "m5"}}, say: "only sizes at leaders"},
		{list: []sheet.Command{{Do: sheet.Merge, Item: "mark:m6", Text: "m7"}}, say: "a note is of one hole"},
		{list: []sheet.Command{{Do: sheet.Remove, Item: "mark:m7"}, {Do: sheet.Put, Text: "bore"},
			{Do: sheet.Put, Text: "head"}, {Do: sheet.Merge, Item: "mark:m22", Text: "m21"}},
			want: func(e *prepare.Edited) bool {
				return slices.Equal(e.Sheets[0].Marks[len(e.Sheets[0].Marks)-1].Of, []string{"bore", "head"}) && has(e, "⌴⌀34")
			}},
		{list: []sheet.Command{{Do: sheet.Renumber}},
			want: func(e *prepare.Edited) bool {
				seen := map[int]bool{}
				for _, x := range e.Characteristics {
					seen[x.Balloon] = true
				}
				return len(seen) == len(e.Characteristics) && !seen[0] && seen[len(seen)] &&
					ordered(e, "cheek", "boss", "height", "width", "depth", "bolt", "one")
			}},
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
	ex.Sheets = first.Sheets
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
		out, err := prepare.Propose(ctx, checker(), &ex, b.ref, f, prepare.Quietly)
		if err != nil || len(out.Left) > 0 || len(out.Added) == 0 {
			t.Fatalf("%s: %+v, %v", name, out, err)
		}
		if err := ex.Check(); err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		d, _ := draw(t, &ex, b)
		standClear(t, name, d, f)
		audited, err := prepare.AuditOf(ctx, checker(), &ex, b.ref, f)
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

// platePlan is a bare plate of 80 by 50 by 12 with four holes of 8 at 60 by 30, and one of 20 in the middle, seen from
// above and from the front in full size: the middle of the plate stands at 150, 180 in the view from above.
func platePlan(t *testing.T) (bundle, *exercise.Exercise) {
	t.Helper()
	doc := model(t, "mm", "", outline("s1", xy, -40, -25, 40, -25, 40, 25, -40, 25),
		extrude("e1", "s1", oneSide("12 mm"), ""),
		circles("s2", xy, 30, 15, 4, -30, 15, 4, -30, -15, 4, 30, -15, 4, 0, 0, 10),
		extrude("e2", "s2", oneSide("12 mm"), `,"result":"cut","reverse":true`))
	ex := sheet.Plain("Plate", "mm", "model.json", 1)
	ex.Sheets[0].Paper = "A3"
	ex.Sheets[0].Views = []exercise.View{{ID: "front", Kind: "front", At: [2]float64{150, 240}},
		{ID: "top", Kind: "top", At: [2]float64{150, 180}}}
	return bundle{ref: check.Reference{Document: doc}}, ex
}

// Edges are picked in a view, and the sizes that fit them are offered; the one that is taken becomes a characteristic
// with its dimension where it was put, in one action with all places of the same size.
func TestDimensionsByPicking(t *testing.T) {
	type at = [][2]float64
	top := func(do, text string, picks ...[2]float64) sheet.Command {
		return sheet.Command{Do: do, Item: "view:top", Text: text, Picks: picks, Reach: 1.5, By: [2]float64{90, 230}}
	}
	var (
		upper, lower, left = [2]float64{140, 205.5}, [2]float64{140, 155}, [2]float64{110, 180}
		hole, other, bore  = [2]float64{184, 195}, [2]float64{116, 195}, [2]float64{140.3, 180}
	)
	for _, c := range []struct {
		name  string
		picks at
		texts []string
		like  int
		say   string
	}{
		{name: "an edge alone is as long as its ends are apart", picks: at{upper}, texts: []string{"80"}},
		{name: "two edges", picks: at{upper, lower}, texts: []string{"50"}},
		{name: "a hole, and three like it", picks: at{hole}, texts: []string{"⌀8"}, like: 3},
		{name: "a bore, alone of its kind", picks: at{bore}, texts: []string{"⌀20"}},
		{name: "from edge to hole", picks: at{left, hole}, texts: []string{"70"}},
		{name: "from hole to hole", picks: at{other, hole}, texts: []string{"60"}},
		{name: "nothing there", picks: at{{165, 185}}, say: "point at a line"},
		{name: "square edges", picks: at{upper, left}, say: "no dimension goes between"},
		{name: "holes on a slant", picks: at{hole, bore}, texts: []string{"33.54"}},
	} {
		b, ex := platePlan(t)
		out, err := onSheet(t, b, ex, top(sheet.AskFor, "", c.picks...))
		if c.say != "" {
			if err == nil || !strings.Contains(err.Error(), c.say) {
				t.Errorf("%s: %v, want %q", c.name, err, c.say)
			}
			continue
		}
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		var texts []string
		for _, o := range out.Offers {
			texts = append(texts, o.Text)
		}
		if !slices.Equal(texts, c.texts) || out.Offers[0].Like != c.like {
			t.Errorf("%s: %+v, want %v like %d", c.name, out.Offers, c.texts, c.like)
			continue
		}
		// Taken, it is drawn with its value and balloon, keeps its place, and is not offered again.
		take := top(sheet.DimensionOf, out.Offers[0].ID, c.picks...)
		take.On = true
		if out, err = onSheet(t, b, ex, take); err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		text := c.texts[0]
		if c.like > 0 {
			text = fmt.Sprintf("%d× %s", c.like+1, text)
		}
		if !slices.ContainsFunc(out.Drawing.Items, func(it sheet.Item) bool {
			return it.Text == text && it.Class == sheet.Dimension
		}) || len(out.Characteristics) != 2 || out.Characteristics[1].Balloon != 2 || !out.Sheets[0].Marks[0].ByHand {
			t.Errorf("%s: no %q on the sheet, or %+v", c.name, text, out.Characteristics)
		}
		if _, err := onSheet(t, b, ex, top(sheet.AskFor, "", c.picks...)); err == nil ||
			!strings.Contains(err.Error(), "balloon 2 states it already") {
			t.Errorf("%s: it is offered again: %v", c.name, err)
		}
		if out, err = onSheet(t, b, ex, sheet.Command{Do: sheet.Drop, Text: out.Characteristics[1].ID}); err != nil ||
			len(out.Characteristics) != 1 || len(out.Sheets[0].Marks) != 0 {
			t.Errorf("%s: it is not removed: %v", c.name, err)
		}
	}
}

// What the audit finds missing is stated one by one, at a dimension where a view shows it, until nothing is; what is
// stated already is not stated again.
func TestStatingWhatIsMissing(t *testing.T) {
	b, ex := platePlan(t)
	out, err := onSheet(t, b, ex)
	for n := 0; err == nil; n++ {
		add := ""
		for _, f := range out.Audit.Findings {
			if f.Add != nil {
				add = f.Add.Label
			}
		}
		if add == "" || n > 20 {
			break
		}
		if out, err = onSheet(t, b, ex, sheet.Command{Do: sheet.State, Text: add}); err == nil && n == 0 {
			if _, err := onSheet(t, b, ex, sheet.Command{Do: sheet.State, Text: add}); err == nil ||
				!strings.Contains(err.Error(), "not missing any more") {
				t.Errorf("%q is stated again: %v", add, err)
			}
		}
	}
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range out.Audit.Findings {
		if f.Kind != "absent" {
			t.Errorf("%s: %s", f.Kind, f.What)
		}
	}
	if len(out.Loose) > 2 || len(out.Characteristics) < 6 {
		t.Errorf("%d characteristics, of which %v are among the notes", len(out.Characteristics), out.Loose)
	}
}

// A line across a view makes a section through what is near it, a circle a detail; they stand where there is room, and
// go with the view that they are taken from.
func TestViewsByHand(t *testing.T) {
	b, ex := platePlan(t)
	across := sheet.Command{Do: sheet.CutAcross, Item: "view:top", Picks: [][2]float64{{100, 194}, {200, 196}}}
	out, err := onSheet(t, b, ex, across,
		sheet.Command{Do: sheet.Enlarge, Item: "view:top", Picks: [][2]float64{{180, 195}, {188, 195}}},
		sheet.Command{Do: sheet.Show, Text: "left"}, sheet.Command{Do: sheet.Show, Text: "pictorial"})
	if err != nil {
		t.Fatal(err)
	}
	views := out.Sheets[0].Views
	if len(views) != 6 || views[2].Kind != "front" || views[2].Letter != "A" || views[3].Letter != "B" ||
		views[3].Scale != "2:1" || views[4].At[1] != 240 || views[4].At[0] < 150+40+25 {
		t.Fatalf("the views are %+v", views)
	}
	hatched := func(out *prepare.Edited) (n int) {
		for _, it := range out.Drawing.Items {
			if it.Class == sheet.Hatch {
				n++
			}
		}
		return n
	}
	if hatched(out) == 0 || len(out.Touching) > 0 {
		t.Errorf("%d lines of hatching, and %v", hatched(out), out.Touching)
	}
	whole := hatched(out)
	for _, c := range []struct {
		do, text string
		want     func(out *prepare.Edited) bool
	}{
		{sheet.Flip, "", func(out *prepare.Edited) bool {
			return out.Sheets[0].Views[2].Kind == "back" && hatched(out) == whole
		}},
		{sheet.CutAs, "left", func(out *prepare.Edited) bool { return hatched(out) < whole && hatched(out) > 0 }},
		{sheet.CutAs, "removed", func(out *prepare.Edited) bool { return hatched(out) == whole }},
		{sheet.Remove, "", func(out *prepare.Edited) bool { return len(out.Sheets[0].Views) == 5 && hatched(out) == 0 }},
	} {
		out, err := onSheet(t, b, ex, sheet.Command{Do: c.do, Item: "view:" + views[2].ID, Text: c.text})
		if err != nil || !c.want(out) {
			t.Errorf("%s %s: %v", c.do, c.text, err)
		}
	}
	// The cut steps to the bore in the middle, which shows there is more to see; then it is straight again.
	step := func(at [2]float64) sheet.Command {
		return sheet.Command{Do: sheet.StepTo, Item: "view:section", Picks: [][2]float64{at}, Reach: 1.5}
	}
	_, plain := platePlan(t)
	out, err = onSheet(t, b, plain, across, step([2]float64{140.3, 180}))
	if err != nil || out.Sheets[0].Views[2].Cut.Kind != exercise.SteppedCut || len(out.Sheets[0].Views[2].Cut.Path) != 2 ||
		hatched(out) == 0 {
		t.Fatalf("a stepped section: %v", err)
	}
	_, err = onSheet(t, b, plain, step([2]float64{150, 190}))
	if err == nil || !strings.Contains(err.Error(), "in line with this one") {
		t.Errorf("a second step to the bore: %v", err)
	}
	out, err = onSheet(t, b, plain, sheet.Command{Do: sheet.CutAs, Item: "view:section", Text: "full"})
	if err != nil || len(out.Sheets[0].Views[2].Cut.Path) != 1 || hatched(out) != whole {
		t.Errorf("straight again: %v", err)
	}
	if out, err = onSheet(t, b, ex, sheet.Command{Do: sheet.Remove, Item: "view:top"}); err != nil ||
		len(out.Sheets[0].Views) != 3 {
		t.Errorf("with the view from above its detail goes: %v", err)
	}
	_, ex = platePlan(t)
	for _, c := range []struct {
		command sheet.Command
		say     string
	}{
		{sheet.Command{Do: sheet.CutAcross, Item: "view:top", Picks: [][2]float64{{100, 203}, {200, 203}}}, "no feature"},
		{sheet.Command{Do: sheet.CutAcross, Item: "view:top", Picks: [][2]float64{{100, 195}, {101, 195}}},
			"no cutting line"},
		{sheet.Command{Do: sheet.Enlarge, Item: "view:top", Picks: [][2]float64{{150, 180}, {200, 180}}}, "too large"},
		{sheet.Command{Do: sheet.Show, Text: "askew"}, "choose one of the list"},
		{sheet.Command{Do: sheet.CutAs, Item: "view:top", Text: "full"}, "draw a cutting line"},
		{sheet.Command{Do: sheet.Flip, Item: "view:top"}, "add a view from that side"},
		{sheet.Command{Do: sheet.Drop, Text: "solids"}, "one thing at least"},
	} {
		if _, err := onSheet(t, b, ex, c.command); err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%+v: %v, want %q", c.command, err, c.say)
		}
	}
}

// A part that lies askew in its file stands upright on its sheet: as many of its sizes are dimensioned as when its file
// has it straight, and nothing runs through anything.
func TestSheetOfAPartThatLiesAskew(t *testing.T) {
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"bearing-bracket", "gland-flange"} {
		b := demoExercise(t, name)
		var loose [2]int
		for i, pose := range []solid.Transform{solid.Translation(solid.Vec{}), oddPose()} {
			ex := sheet.Plain(name, b.Parsed.Unit, "part.step", 1)
			b.ref = check.Reference{STEP: stepAttempt(t, demoExercise(t, name).ref.Document, pose, 1).STEP}
			out, err := prepare.Propose(ctx, checker(), ex, b.ref, f, prepare.Quietly)
			if err != nil || len(out.Left) > 0 {
				t.Fatalf("%s: %+v, %v", name, out, err)
			}
			if (ex.Sheet().Stands != nil) != (i == 1) {
				t.Errorf("%s: it stands by %+v", name, ex.Sheet().Stands)
			}
			d, _ := draw(t, ex, b)
			standClear(t, name, d, f)
			loose[i] = len(ex.Characteristics)
			for _, m := range ex.Sheet().Marks {
				loose[i] -= len(m.Of)
			}
			t.Logf("%s: %d of %d characteristics among the notes", name, loose[i], len(ex.Characteristics))
		}
		if loose[1] > loose[0] {
			t.Errorf("%s: %d characteristics among the notes straight, and %d askew", name, loose[0], loose[1])
		}
	}
}

// A size has its tolerance and words beside it where it stands, and the views change over to the other projection.
func TestSizesAndViewsAreChangedOnTheSheet(t *testing.T) {
	texts := func(d *sheet.Drawing, id string) string {
		var out []string
		for _, it := range d.Items {
			if it.Characteristic == id && it.Kind == "text" && it.Class == sheet.Dimension {
				out = append(out, it.Text)
			}
		}
		return strings.Join(out, "; ")
	}
	for _, c := range []struct {
		command sheet.Command
		want    string // the text of the width of the bracket, or what is said
	}{
		{sheet.Command{Do: sheet.Tolerate, Tolerance: &exercise.Tolerance{Kind: "iso286", Class: "h9"}}, "120 h9"},
		{sheet.Command{Do: sheet.Tolerate, Tolerance: &exercise.Tolerance{Kind: "limits", Plus: "0.2 mm", Minus: "0.2 mm"}},
			"120 ±0.2"},
		{sheet.Command{Do: sheet.Tolerate, Tolerance: &exercise.Tolerance{Kind: "iso286", Class: "w"}}, "write it as H7"},
		{sheet.Command{Do: sheet.Affix, Text: "over all", On: true}, "120 over all"},
		{sheet.Command{Do: sheet.Affix, Text: "min."}, "min. 120"},
		{sheet.Command{Do: sheet.Affix, Text: "SR"}, "SR120"},
	} {
		b, ex := sheetOf(t, "bearing-bracket")
		c.command.Item = "mark:m1"
		out, err := onSheet(t, b, ex, c.command)
		if err != nil {
			if !strings.Contains(err.Error(), c.want) {
				t.Errorf("%+v: %v", c.command, err)
			}
			continue
		}
		if got := texts(out.Drawing, "width"); got != c.want {
			t.Errorf("%+v: %q, not %q", c.command, got, c.want)
		}
	}
	b, ex := platePlan(t)
	ex.Sheet().Projection = "first"
	out, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Projects, Text: "third"})
	if err != nil {
		t.Fatal(err)
	}
	v := out.Sheets[0].Views
	if out.Sheets[0].Projection != "third" || v[1].At[1] <= v[0].At[1] || v[1].At[0] != v[0].At[0] {
		t.Errorf("in third angle the views stand at %v and %v", v[0].At, v[1].At)
	}
	if out, err = onSheet(t, b, ex, sheet.Command{Do: sheet.Projects, Text: "first"}); err != nil ||
		math.Abs(out.Sheets[0].Views[1].At[1]-180) > 1e-9 {
		t.Errorf("and back: %v, %v", out.Sheets[0].Views[1].At, err)
	}
}

// Several marks and views are moved at once, a line that comes near another is put in line with it, balloons are
// numbered by hand, and a size goes into parentheses: it is drawn there, and no longer checked.
func TestSeveralAtOnceAndByHand(t *testing.T) {
	b, ex := sheetOf(t, "bearing-bracket")
	was := *ex.Sheet()
	views, marks := slices.Clone(was.Views), slices.Clone(was.Marks)
	of := func(id string) int {
		return slices.IndexFunc(marks, func(m exercise.Mark) bool { return slices.Contains(m.Of, id) })
	}
	width, boss := of("width"), of("boss")
	out, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Move, By: [2]float64{4, -4}, On: true,
		Item: "view:front view:top mark:" + marks[width].ID + " mark:" + marks[boss].ID})
	if err != nil {
		t.Fatal(err)
	}
	for i, v := range out.Sheets[0].Views {
		want := map[string][2]float64{"front": {4, -4}, "top": {4, -4}}[v.ID]
		if got := [2]float64{v.At[0] - views[i].At[0], v.At[1] - views[i].At[1]}; got != want {
			t.Errorf("of several %s moves by %v, not %v", v.ID, got, want)
		}
	}
	if m := out.Sheets[0].Marks[width]; m.View == "front" && m.Offset != marks[width].Offset {
		t.Errorf("a mark of a view that moves is moved twice: %v", m.Offset)
	}
	before := ex.Sheet().Marks[boss].Offset
	both := "mark:" + marks[boss].ID + " mark:none"
	if _, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Flip, Item: both}); err == nil ||
		ex.Sheet().Marks[boss].Offset != before {
		t.Errorf("one of several that is not there: %v", err)
	}

	b, ex = platePlan(t)
	size := func(id string, n int, of ...string) {
		ex.Characteristics = append(ex.Characteristics, exercise.Characteristic{ID: id, Kind: "distance", Label: id,
			Balloon: n, Of: [][]address.Ref{address.List(of...)}})
	}
	size("long", 2, "e1/side:l3", "e1/side:l1")
	size("wide", 3, "e1/side:l0", "e1/side:l2")
	size("from left", 4, "e1/side:l3", "e2/side:c0")
	below := func(id, of string, off float64) exercise.Mark {
		return exercise.Mark{ID: id, Kind: exercise.Dimension, Form: exercise.Linear, Of: []string{of}, View: "top",
			Side: "below", Offset: [2]float64{0, off}}
	}
	ex.Sheet().Marks = []exercise.Mark{below("m1", "long", 20), below("m2", "from left", 9)}
	for _, c := range []struct {
		by     float64
		freely bool
		want   float64
	}{{-10, false, 20}, {-10, true, 19}, {-5, false, 14}} {
		plan, doc := b, *ex
		doc.Sheets = []exercise.Sheet{*ex.Sheet()}
		doc.Sheets[0].Marks = slices.Clone(ex.Sheet().Marks)
		out, err := onSheet(t, plan, &doc, sheet.Command{Do: sheet.Move, Item: "mark:m2", By: [2]float64{0, c.by},
			On: c.freely})
		if err != nil {
			t.Fatal(err)
		}
		if got := out.Sheets[0].Marks[1].Offset[1]; got != c.want {
			t.Errorf("moved by %g, freely %v, it stands at %g, not %g", c.by, c.freely, got, c.want)
		}
	}
	if out, err = onSheet(t, b, ex, sheet.Command{Do: sheet.Number, Item: "mark:m2", Text: "2"}); err != nil {
		t.Fatal(err)
	}
	if ex.Characteristic("from left").Balloon != 2 || ex.Characteristic("long").Balloon != 4 {
		t.Errorf("numbered by hand: %+v", out.Characteristics)
	}
	if _, err = onSheet(t, b, ex, sheet.Command{Do: sheet.Number, Item: "mark:m2", Text: "two"}); err == nil {
		t.Error("a balloon is numbered two")
	}
	if out, err = onSheet(t, b, ex, sheet.Command{Do: sheet.Aside, Item: "mark:m1"}); err != nil {
		t.Fatal(err)
	}
	if ex.Characteristic("long") != nil || !slices.ContainsFunc(out.Drawing.Items, func(it sheet.Item) bool {
		return it.Text == "(80)"
	}) {
		t.Error("the length does not stand in parentheses")
	}
}

// A stretch is taken out of a view and given back; a view square to a slanting face is added where its line is picked.
func TestShortenedAndSquareViews(t *testing.T) {
	doc := model(t, "mm", "", outline("s1", xz, 0, 0, 200, 0, 200, 20, 30, 20, 0, 40),
		extrude("e1", "s1", `{"kind":"symmetric","total":"30"}`, ""))
	b := bundle{ref: check.Reference{Document: doc}}
	ex := sheet.Plain("Wedge", "mm", "model.json", 1)
	ex.Sheet().Views = []exercise.View{{ID: "front", Kind: "front", At: [2]float64{60, 180}}}
	across := func(out *prepare.Edited) float64 {
		low, high := math.Inf(1), math.Inf(-1)
		for _, it := range out.Drawing.Items {
			for _, p := range it.Points {
				if it.View == "front" && it.Class == sheet.Visible {
					low, high = math.Min(low, p[0]), math.Max(high, p[0])
				}
			}
		}
		return high - low
	}
	do := func(c sheet.Command) *prepare.Edited {
		t.Helper()
		out, err := onSheet(t, b, ex, c)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	front := func(do string, picks ...[2]float64) sheet.Command {
		return sheet.Command{Do: do, Item: "view:front", Picks: picks, Reach: 1.5}
	}
	short := across(do(front(sheet.Shorten, [2]float64{120, 190}, [2]float64{220, 192})))
	if short > 120 || short < 100 {
		t.Errorf("without 100 of its 200 the view is %g wide", short)
	}
	if _, err := onSheet(t, b, ex, front(sheet.Shorten, [2]float64{100, 190}, [2]float64{110, 190})); err == nil {
		t.Error("a view that is shortened is shortened again")
	}
	if whole := across(do(front(sheet.Shorten))); math.Abs(whole-200) > 1e-6 {
		t.Errorf("shown whole it is %g wide", whole)
	}
	if _, err := onSheet(t, b, ex, front(sheet.Shorten, [2]float64{40, 190}, [2]float64{110, 190})); err == nil {
		t.Error("an end of the part is taken away")
	}
	out := do(front(sheet.SquareTo, [2]float64{75, 210}))
	v := out.Sheets[0].Views[len(out.Sheets[0].Views)-1]
	if v.Kind != "auxiliary" || v.Parent != "front" || v.Square.Name != "e1/side:l3" {
		t.Errorf("the view square to the slope is %+v", v)
	}
	if _, err := onSheet(t, b, ex, front(sheet.SquareTo, [2]float64{150, 180})); err == nil {
		t.Error("a view is square to a level face")
	}
}

// What is symmetric, coaxial, parallel or square stands in a frame of ISO 1101. Its zone is checked: half of it to each
// side of a middle, and all of it over the length of a face that leans.
func TestFramesOfGeometricalTolerances(t *testing.T) {
	b, ex := platePlan(t)
	add := func(id, kind string, of ...string) {
		ex.Characteristics = append(ex.Characteristics, exercise.Characteristic{ID: id, Kind: kind, Label: id,
			Balloon: len(ex.Characteristics) + 1, Of: [][]address.Ref{address.List(of...)}})
	}
	add("middle", "symmetric", "e2/side:c0", "e2/side:c1", "e1/side:l3", "e1/side:l1")
	add("square", "perpendicular", "e1/side:l0", "e1/side:l1")
	out, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Enframe, Text: "middle"},
		sheet.Command{Do: sheet.Enframe, Text: "square"})
	if err != nil {
		t.Fatal(err)
	}
	texts := map[string][]string{}
	for _, it := range out.Drawing.Items {
		if it.Kind == "text" && it.Class == sheet.Dimension {
			texts[it.Characteristic] = append(texts[it.Characteristic], it.Text)
		}
	}
	// Both have one datum face, and share its letter, which is drawn once.
	if got := strings.Join(texts["middle"], " "); got != "0.02 A A" {
		t.Errorf("the frame of the middle reads %q", got)
	}
	if got := strings.Join(texts["square"], " "); got != "0.1 A" {
		t.Errorf("the frame of the square reads %q", got)
	}
	if len(out.Loose) != 1 {
		t.Errorf("among the notes are %v", out.Loose)
	}
	item := "mark:" + ex.Sheet().Marks[0].ID
	if _, err := onSheet(t, b, ex, sheet.Command{Do: sheet.ZoneOf, Item: item, Text: "wide"}); err == nil {
		t.Error("a zone is as wide as a word")
	}
	if _, err := onSheet(t, b, ex, sheet.Command{Do: sheet.ZoneOf, Item: item, Text: "0.05"}); err != nil {
		t.Fatal(err)
	}
	if err := ex.Check(); err != nil {
		t.Error(err)
	}
	key, _, err := checker().Load(ctx, b.ref)
	if err != nil {
		t.Fatal(err)
	}
	for id, want := range map[string]float64{"middle": 0.025, "square": math.Atan(0.1 / math.Hypot(80, 12))} {
		c := ex.Characteristic(id)
		_, stated, err := check.Nominal(solidOf(t, key), ex, c)
		if err != nil {
			t.Fatal(err)
		}
		if minus, plus, err := ex.Limits(c, stated); err != nil || math.Abs(plus-want) > 1e-9 || minus != plus {
			t.Errorf("%s may be off by %g and %g, not %g: %v", id, minus, plus, want, err)
		}
	}
	if _, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Enframe, Text: "solids"}); err == nil {
		t.Error("a number of solids stands in a frame")
	}
}

// All that is missing is stated at once: on a bare sheet, which is laid out, and beside what a person has placed, which
// stays.
func TestAllThatIsMissingIsStatedAtOnce(t *testing.T) {
	b, ex := platePlan(t)
	for _, byHand := range []bool{false, true} {
		doc := *ex
		doc.Sheets = []exercise.Sheet{*ex.Sheet()}
		doc.Characteristics = slices.Clone(ex.Characteristics)
		hand := exercise.Mark{ID: "m1", Kind: exercise.Dimension, Form: exercise.Linear, Of: []string{"long"}, View: "top",
			Side: "above", Offset: [2]float64{0, 11}, ByHand: true}
		if byHand {
			doc.Characteristics = append(doc.Characteristics, exercise.Characteristic{ID: "long", Kind: "distance",
				Label: "long", Balloon: 2, Of: [][]address.Ref{address.List("e1/side:l3", "e1/side:l1")}})
			doc.Sheets[0].Marks = []exercise.Mark{hand}
		}
		out, err := onSheet(t, b, &doc, sheet.Command{Do: sheet.Propose})
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range out.Audit.Findings {
			if f.Kind != "absent" {
				t.Errorf("by hand before: %v; %s: %s", byHand, f.Kind, f.What)
			}
		}
		if len(out.Loose) > 1 || len(out.Touching) > 0 {
			t.Errorf("by hand before: %v; among the notes %v, in the way %v", byHand, out.Loose, out.Touching)
		}
		if m := out.Sheets[0].Marks[0]; byHand && (m.Side != hand.Side || m.Offset != hand.Offset) {
			t.Errorf("what was placed by hand stands %s by %v", m.Side, m.Offset)
		}
	}
}

// Faces that are picked on the reference itself are dimensioned in the first view that shows their size, and what none
// shows is refused with what to do.
func TestDimensionsOfPickedFaces(t *testing.T) {
	b, ex := platePlan(t)
	key, _, err := checker().Load(ctx, b.ref)
	if err != nil {
		t.Fatal(err)
	}
	g := solidOf(t, key)
	for _, c := range []struct {
		faces []string
		texts string
		view  string
		say   string
	}{
		{[]string{"e1/start", "e1/end"}, "12", "front", ""},
		{[]string{"e1/side:l1", "e1/side:l3"}, "80", "front", ""},
		{[]string{"e2/side:c0", "e2/side:c1"}, "60", "top", ""},
		{[]string{"e2/side:c4"}, "⌀20", "front", ""},
		{[]string{"e1/end"}, "", "", "no dimension goes on this face alone"},
		{[]string{"e1/start", "e1/side:l1"}, "", "", "no view of this sheet shows a dimension"},
	} {
		_, ex = platePlan(t)
		pick := sheet.Command{Do: sheet.AskFor}
		for _, name := range c.faces {
			pick.Faces = append(pick.Faces, address.Faces(g.Named(name))...)
		}
		out, err := onSheet(t, b, ex, pick)
		if c.say != "" {
			if err == nil || !strings.Contains(err.Error(), c.say) {
				t.Errorf("%v: %v, expected %q", c.faces, err, c.say)
			}
			continue
		}
		if err != nil || len(out.Offers) == 0 || out.Offers[0].Text != c.texts {
			t.Errorf("%v: %+v, %v", c.faces, out, err)
			continue
		}
		pick.Do, pick.Text = sheet.DimensionOf, out.Offers[0].ID
		out, err = onSheet(t, b, ex, pick)
		if err != nil || len(ex.Sheets[0].Marks) != 1 || ex.Sheets[0].Marks[0].View != c.view || len(out.Touching) > 0 {
			t.Errorf("%v: %+v, %v", c.faces, ex.Sheets[0].Marks, err)
		}
	}
	if _, err := onSheet(t, b, ex, sheet.Command{Do: sheet.AskFor, Faces: address.List("face:99")}); err == nil {
		t.Error("a face that is not there is dimensioned")
	}
}
