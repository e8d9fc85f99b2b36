package geometry

import (
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/sheet"
)

// ramp is a block of 120 x 40 x 20 whose right end is cut off aslant from (120, 0) to (80, 20), with a bore of 10 at
// (20, 10), one of 12 at (60, 30), and one of 8 square to the slope.
func ramp(t *testing.T) (*exercise.Exercise, bundle) {
	d := model(t, "mm", "", outline("s1", xz, 0, 0, 120, 0, 80, 20, 0, 20),
		extrude("e1", "s1", oneSide("40"), `,"reverse":true`),
		circles("s2", xy, 20, 10, 5, 60, 30, 6), extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut","reverse":true`),
		circles("s3", `{"face":"e1/side:l1"}`, 20, -85, 4), extrude("e3", "s3", `{"kind":"through"}`, `,"result":"cut"`))
	c := func(id, kind string, of ...string) exercise.Characteristic {
		return exercise.Characteristic{ID: id, Balloon: 1 + int(id[0]-'a'), Kind: kind, Label: id,
			Of: [][]address.Ref{address.List(of...)}}
	}
	ex := &exercise.Exercise{Hammerset: exercise.Version, Kind: exercise.Part, Title: "Ramp", Unit: "mm",
		Reference: "r.json", Solids: 1, Rubric: exercise.Rubric{Characteristics: 10},
		Characteristics: []exercise.Characteristic{c("a", "distance", "e1/side:l3", "e2/side:c0"),
			c("b", "distance", "e1/side:l3", "e2/side:c1"), c("c", "diameter", "e2/side:c0"),
			c("d", "distance", "e1/side:l0", "e1/side:l2")}}
	return ex, bundle{ref: check.Reference{Document: d}}
}

// drawn is the sheet of the ramp with views and marks.
func drawn(t *testing.T, views []exercise.View, marks ...exercise.Mark) *sheet.Drawing {
	t.Helper()
	ex, b := ramp(t)
	ex.Sheets = []exercise.Sheet{{Paper: "A2", Scale: "1:1", Projection: "first", Views: views, Marks: marks}}
	if err := ex.Check(); err != nil {
		t.Fatal(err)
	}
	d, _ := draw(t, ex, b)
	return d
}

// of lists the items of a view and some classes.
func of(d *sheet.Drawing, view string, classes ...sheet.Class) []sheet.Item {
	var out []sheet.Item
	for _, it := range d.Items {
		if it.View == view && slices.Contains(classes, it.Class) {
			out = append(out, it)
		}
	}
	return out
}

// hatched is the area that the hatching of a view covers, at 2.5 mm from line to line.
func hatched(d *sheet.Drawing, view string) float64 {
	sum := 0.0
	for _, it := range of(d, view, sheet.Hatch) {
		sum += 2.5 * math.Hypot(it.Points[1][0]-it.Points[0][0], it.Points[1][1]-it.Points[0][1])
	}
	return sum
}

var bores = []address.Ref{address.Of("e2/side:c0"), address.Of("e2/side:c1")}

// A section cuts where its path says, which its parent shows. The areas are those of the block without its bores.
func TestSectionsCutWhereTheyAreDrawn(t *testing.T) {
	block := 80*20 + 40*20/2.0
	top := exercise.View{ID: "top", Kind: "top", At: [2]float64{100, 100}}
	for name, c := range map[string]struct {
		cut    exercise.Cut
		area   float64
		arrows int
	}{
		"through the first bore":  {exercise.Cut{Kind: exercise.FullCut, Path: bores[:1]}, block - 10*20, 2},
		"through the second bore": {exercise.Cut{Kind: exercise.FullCut, Path: bores[1:]}, block - 12*20, 2},
		"from one to the other":   {exercise.Cut{Kind: exercise.SteppedCut, Path: bores}, block - 22*20, 2},
		"the right of the second": {exercise.Cut{Kind: exercise.HalfCut, Path: bores[1:], Side: "right"},
			block - 60*20 - 6*20, 1},
		"the left of the first":    {exercise.Cut{Kind: exercise.HalfCut, Path: bores[:1], Side: "left"}, 15 * 20, 1},
		"the cut of the first":     {exercise.Cut{Kind: exercise.RemovedCut, Path: bores[:1]}, block - 10*20, 2},
		"beside it, at the origin": {exercise.Cut{Kind: exercise.FullCut}, block, 2},
	} {
		d := drawn(t, []exercise.View{top, {ID: "cut", Kind: "front", Parent: "top", At: [2]float64{100, 250},
			Letter: "A", Cut: &c.cut}})
		if name == "beside it, at the origin" { // the origin lies on the outside: nothing is cut
			c.area = 0
		}
		if got := hatched(d, "cut"); math.Abs(got-c.area) > 0.03*block {
			t.Errorf("%s: %g mm² are hatched, want %g", name, got, c.area)
		}
		arrows, letters := 0, 0
		for _, it := range of(d, "top", sheet.Dimension, sheet.Label) {
			if it.Kind == "fill" {
				arrows++
			}
			if it.Text == "A" {
				letters++
			}
		}
		if arrows != c.arrows || letters != c.arrows {
			t.Errorf("%s: %d arrows and %d letters in the view that is cut, want %d", name, arrows, letters, c.arrows)
		}
		labelled := false
		for _, it := range of(d, "cut", sheet.Label) {
			labelled = labelled || it.Text == "A–A"
		}
		if !labelled {
			t.Errorf("%s: the section does not say that it is A–A", name)
		}
		// Where the cut steps or ends there is no edge.
		for _, it := range of(d, "cut", sheet.Visible) {
			for _, x := range []float64{140, 160, 120} {
				if it.Kind == "run" && len(it.Points) == 2 && math.Abs(it.Points[0][0]-x) < 1e-6 &&
					math.Abs(it.Points[1][0]-x) < 1e-6 {
					t.Errorf("%s: an edge at %g, where the plane changes", name, x)
				}
			}
		}
	}
	// A removed section leaves out what stands behind the cut: here the foot of the slope.
	for kind, want := range map[string]bool{exercise.FullCut: true, exercise.RemovedCut: false} {
		d := drawn(t, []exercise.View{{ID: "cut", Kind: "top", At: [2]float64{100, 250},
			Cut: &exercise.Cut{Kind: kind, Path: address.List("e3/side:c0")}}})
		far := 0.0
		for _, it := range of(d, "cut", sheet.Visible) {
			for _, p := range it.Points {
				far = math.Max(far, p[0])
			}
		}
		if (math.Abs(far-220) < 1e-6) != want {
			t.Errorf("a %s section reaches to %g", kind, far)
		}
	}
}

// An auxiliary view shows a face in its true shape, in line with the view that it is laid out from.
func TestAuxiliaryViews(t *testing.T) {
	d := drawn(t, []exercise.View{{ID: "front", Kind: "front", At: [2]float64{100, 100}},
		{ID: "aux", Kind: "auxiliary", Parent: "front", Square: address.Of("e1/side:l1"), At: [2]float64{200, 300}}})
	round := false
	for _, it := range of(d, "aux", sheet.Visible) {
		round = round || it.Kind == "arc" && math.Abs(it.Radius-4) < 1e-6 && math.Abs(it.Sweep-2*math.Pi) < 1e-6
	}
	if !round {
		t.Error("the bore in the slope is no circle")
	}
	// The slope is as long as it is, √(40² + 20²), and lies aslant on the paper as in the front view, square to its
	// line of sight.
	slope := [2]float64{-40 / math.Hypot(40, 20), 20 / math.Hypot(40, 20)}
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, it := range of(d, "aux", sheet.Visible) {
		for _, p := range it.Points {
			u := (p[0]-200)*slope[0] + (p[1]-300)*slope[1]
			lo, hi = math.Min(lo, u), math.Max(hi, u)
		}
	}
	along := func(x, z float64) float64 { return x*slope[0] + z*slope[1] }
	if math.Abs(lo-along(120, 0)) > 1e-6 || math.Abs(hi-along(0, 20)) > 1e-6 {
		t.Errorf("along the slope it reaches from %g to %g, want %g to %g", lo, hi, along(120, 0), along(0, 20))
	}
}

// A detail shows a piece of its parent in its own scale, and nothing beside it; a broken view is shorter than the part,
// and its sizes are not.
func TestPiecesOfViews(t *testing.T) {
	top := exercise.View{ID: "top", Kind: "top", At: [2]float64{100, 100}}
	at := [2]float64{20, 10}
	d := drawn(t, []exercise.View{top, {ID: "detail", Kind: "detail", Parent: "top", Letter: "B", Scale: "2:1",
		At: [2]float64{300, 300}, Clip: &exercise.Clip{At: at, Radius: 12}}})
	centre := sheet.Point{300 + 2*at[0], 300 + 2*at[1]}
	bore := false
	for _, it := range of(d, "detail", sheet.Visible, sheet.Hidden, sheet.Centre) {
		bore = bore || it.Kind == "arc" && math.Abs(it.Radius-10) < 1e-6 && near(it.Centre[0], centre[0], 1e-9)
		for _, p := range it.Points {
			if r := math.Hypot(p[0]-centre[0], p[1]-centre[1]); r > 24+1e-6 {
				t.Errorf("%+v is drawn %g from the middle of the detail", it, r)
			}
		}
	}
	texts := ""
	for _, it := range d.Items {
		texts += "|" + it.Text
	}
	if !bore || !strings.Contains(texts, "|B|") || !strings.Contains(texts, "|B (2:1)") {
		t.Errorf("the detail has no bore of its size (%v), or no letter: %s", bore, texts)
	}

	top.Breaks = []exercise.Break{{Along: "x", From: 30, To: 50}}
	d = drawn(t, []exercise.View{top}, exercise.Mark{ID: "m1", Kind: exercise.Dimension, Form: exercise.Linear,
		Of: []string{"b"}, View: "top", Side: "below", Offset: [2]float64{0, 10}})
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, it := range of(d, "top", sheet.Visible) {
		for _, p := range it.Points {
			lo, hi = math.Min(lo, p[0]), math.Max(hi, p[0])
		}
	}
	if math.Abs(hi-lo-(120-20+3)) > 1e-6 {
		t.Errorf("the broken view is %g long, want 103", hi-lo)
	}
	zigzags, span := 0, 0.0
	for _, it := range of(d, "top", sheet.Thin) {
		if len(it.Points) == 6 {
			zigzags++
		}
	}
	for _, it := range of(d, "top", sheet.Dimension) {
		if it.Kind == "run" && it.Points[0][1] == it.Points[1][1] {
			span = math.Abs(it.Points[1][0] - it.Points[0][0])
		}
		if it.Kind == "text" && it.Text != "60" {
			t.Errorf("across the break it says %q", it.Text)
		}
	}
	if zigzags != 2 || math.Abs(span-(60-17)) > 1e-6 {
		t.Errorf("%d ends of a break, and a line of dimension of %g", zigzags, span)
	}
}

// Rows stand on one line, or one over the other; a size in parentheses has no balloon.
func TestRowsAndSizesInParentheses(t *testing.T) {
	views := []exercise.View{{ID: "top", Kind: "top", At: [2]float64{100, 100}},
		{ID: "front", Kind: "front", At: [2]float64{100, 250}}}
	lines := func(form string) (heights []float64, arrows int) {
		d := drawn(t, views, exercise.Mark{ID: "m1", Kind: exercise.Row, Form: form, Of: []string{"a", "b"}, View: "top",
			Side: "below", Offset: [2]float64{0, 10}})
		for _, it := range d.Items {
			if it.Mark == "m1" && it.Kind == "fill" {
				heights = append(heights, math.Round(100*it.Points[0][1])/100)
				arrows++
			}
		}
		slices.Sort(heights)
		return slices.Compact(heights), arrows
	}
	bottom := 100.0 // of the block in the top view
	for form, want := range map[string]struct {
		heights []float64
		arrows  int
	}{exercise.Chain: {[]float64{bottom - 10}, 4}, exercise.Baseline: {[]float64{bottom - 18, bottom - 10}, 4},
		exercise.Running: {[]float64{bottom - 10}, 2}} {
		if heights, arrows := lines(form); !slices.Equal(heights, want.heights) || arrows != want.arrows {
			t.Errorf("a %s row has %d arrows at %v, want %+v", form, arrows, heights, want)
		}
	}
	d := drawn(t, views, exercise.Mark{ID: "m1", Kind: exercise.Dimension, Form: exercise.Linear, Measures: "distance",
		Anchors: address.List("e1/side:l3", "e2/side:c1"), View: "top", Side: "above", Offset: [2]float64{0, 10}})
	said, balloons := false, 0
	for _, it := range d.Items {
		said = said || it.Mark == "m1" && it.Text == "(60)"
		if it.Class == sheet.Balloon && it.Mark == "m1" {
			balloons++
		}
	}
	if !said || balloons > 0 {
		t.Errorf("the size in parentheses is said: %v, with %d balloons", said, balloons)
	}
}
