package child

import (
	"math"
	"strings"
	"testing"

	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/kernel/task"
)

// The arrangement sheet of the curve drawer shows the ellipse that its pen draws: of a bar whose two pins run in
// crossed grooves, a point of the line through both traces an ellipse whose half axes are its distances from the pins
// (the trammel of Archimedes; any handbook of plane kinematics). Where the sliders turn back is drawn as well, in the
// same long-dashed double-dotted lines (ISO 128-2, type 05). A fit is written by its classes (ISO 286-1).
func TestArrangementSheet(t *testing.T) {
	drawn := func(folder string) []sheet.Item {
		t.Helper()
		h := newHanding(t, folder)
		p, err := do[prepare.Prepared](t, h.w, task.Request{Kind: task.Prepare, Exercise: h.b.Exercise,
			Reference: h.b.Reference})
		if err != nil {
			t.Fatal(err)
		}
		return p.Drawing.Items
	}
	var curve []sheet.Point
	others := 0
	for _, it := range drawn(drawer) {
		if it.Class == sheet.Thin && len(it.Dash) == 6 {
			if len(it.Points) > len(curve) {
				curve = it.Points
			}
			others++
		}
	}
	lo, hi := sheet.Point{math.Inf(1), math.Inf(1)}, sheet.Point{math.Inf(-1), math.Inf(-1)}
	for _, p := range curve {
		for k := range 2 {
			lo[k], hi[k] = math.Min(lo[k], p[k]), math.Max(hi[k], p[k])
		}
	}
	half := sheet.Point{25.4 * 1.5 / 2, 25.4 * 3 / 2} // at 1:2
	for k := range 2 {
		if math.Abs((hi[k]-lo[k])/2-half[k]) > 0.02 {
			t.Errorf("a half axis of the curve is %g mm on the paper, and not %g", (hi[k]-lo[k])/2, half[k])
		}
	}
	for _, p := range curve {
		x, y := (p[0]-(lo[0]+hi[0])/2)/half[0], (p[1]-(lo[1]+hi[1])/2)/half[1]
		if math.Abs(math.Hypot(x, y)-1) > 2e-3 {
			t.Fatalf("%v lies off the ellipse", p)
		}
	}
	if others < 8 {
		t.Errorf("where the sliders turn back has %d lines", others-1)
	}

	var texts []string
	for _, it := range drawn(tackle) {
		texts = append(texts, it.Text)
	}
	all := strings.Join(texts, "|")
	if !strings.Contains(all, "⌀12 H7/g6") || !strings.Contains(all, "(47)") {
		t.Error("the fit of the pin, or its length over all, is not written")
	}
	if strings.Contains(all, "(112.74)") {
		t.Error("a size over all is written that depends on where the eye stands")
	}
}
