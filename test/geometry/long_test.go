package geometry

import (
	"fmt"
	"slices"
	"testing"

	"hammerset/core/check"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
)

// stepped is a shaft of 600 with a long stretch of 28 in its middle, along one of the axes, and there as many grooves.
func stepped(t *testing.T, plane string, grooves ...float64) *part.Document {
	steps := []string{circles("s1", plane, 0, 0, 10), extrude("e1", "s1", oneSide("40"), ""),
		circles("s2", `{"face":"e1/end"}`, 0, 0, 14), extrude("e2", "s2", oneSide("500"), ""),
		circles("s3", `{"face":"e2/end"}`, 0, 0, 8), extrude("e3", "s3", oneSide("60"), "")}
	for i, at := range grooves {
		s, e := fmt.Sprintf("g%d", 2*i+1), fmt.Sprintf("g%d", 2*i+2)
		steps = append(steps, circles(s, xy, at, 0, 4), cut(e, s, `{"kind":"symmetric","total":"60"}`, ""))
	}
	return model(t, "mm", "", steps...)
}

// A long part is drawn interrupted where it is a bar, which leaves out nothing that is dimensioned: the sizes are
// printed in full, from both ends, and nothing is touched (ISO 128-3). Where it has features along its length, and
// where it is short, it is drawn whole.
func TestLongPartsAreInterrupted(t *testing.T) {
	for _, c := range []struct {
		name   string
		ref    check.Reference
		breaks string
		scale  string
	}{
		{"along x", check.Reference{Document: stepped(t, yz)}, "x 100 480", "1:1"},
		{"along z", check.Reference{Document: stepped(t, xy)}, "x 100 480", "1:1"},
		{"as STEP, turned", check.Reference{STEP: stepAttempt(t, stepped(t, yz), oddPose(), 1).STEP}, "any", "1:1"},
		{"a hole near one end", check.Reference{Document: stepped(t, yz, 150)}, "x 200.3 493.7", "1:1"},
		{"holes all along", check.Reference{Document: stepped(t, yz, 220, 380)}, "", ""},
		{"short", check.Reference{Document: drilledAt(t, 20, 30)}, "", ""},
	} {
		ex := sheet.Plain("Shaft", "mm", "model.json", 1)
		ex.Material = "Steel"
		out, err := prepare.Propose(ctx, checker(), ex, c.ref, letteringOf(t), prepare.Quietly)
		if err != nil {
			t.Fatal(err)
		}
		p, err := prepare.Exercise(ctx, checker(), out.Exercise, c.ref, letteringOf(t))
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		got := ""
		for _, v := range out.Exercise.Sheets.Views() {
			for _, b := range v.Breaks {
				if v.Kind == "front" {
					got = fmt.Sprintf("%s %g %g", b.Along, b.From, b.To)
				}
			}
		}
		if got != c.breaks && (c.breaks != "any" || got == "") {
			t.Errorf("%s: the front view is broken %q, expected %q", c.name, got, c.breaks)
		}
		if touching := p.Drawing.Touching(letteringOf(t)); len(touching) > 0 {
			t.Errorf("%s: %v", c.name, touching)
		}
		if got == "" {
			continue
		}
		if !slices.ContainsFunc(p.Drawing.Items, func(it sheet.Item) bool { return it.Text == "600" }) {
			t.Errorf("%s: its length is not printed", c.name)
		}
		if s := out.Exercise.Sheets[0].Scale; s != c.scale {
			t.Errorf("%s: it is drawn %s", c.name, s)
		}
		withinFrame(t, c.name, p.Drawing)
	}
}

// withinFrame wants everything that is drawn of a shortened view within the frame of its paper.
func withinFrame(t *testing.T, name string, d *sheet.Drawing) {
	t.Helper()
	for _, it := range d.Items {
		for _, p := range it.Points {
			if p[0] < 20 || p[0] > d.Width-10 {
				if it.Class != sheet.Frame {
					t.Fatalf("%s: something of the view %q is drawn at %v", name, it.View, p)
				}
			}
		}
	}
}
