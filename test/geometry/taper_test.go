package geometry

import (
	"fmt"
	"math"
	"testing"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
)

// tapered is a shaft of 40 that is tapered to 20 between two lengths, 100 long, with the corner there rounded or not.
func tapered(t *testing.T, from, to float64, rounded bool) *part.Document {
	steps := []string{curves("s1", xz, pt("o", 0, 0), pt("a", 20, 0), pt("b", 20, from), pt("c", 10, to), pt("d", 10, 100),
		pt("e", 0, 100), ln("l0", "o", "a"), ln("l1", "a", "b"), ln("l2", "b", "c"), ln("l3", "c", "d"), ln("l4", "d", "e"),
		ln("l5", "e", "o")), revolve("e1", "s1", "l5", "")}
	if rounded {
		steps = append(steps, `{"id":"f1","kind":"fillet","radius":"2","edges":[{"between":["e1/side:l1","e1/side:l2"]}]}`)
	}
	return model(t, "mm", "", steps...)
}

// A taper in the middle of a shaft is given as drawings give it: by both diameters and the lengths to the circles in
// which it begins and ends (ISO 3040). That determines the part, without more; each length is drawn from the circle
// and checked there, also where the corner is rounded.
func TestTapersFromCircleToCircle(t *testing.T) {
	ex := sheet.Plain("Shaft", "mm", "model.json", 1)
	ex.Material = "Steel"
	add := func(c exercise.Characteristic) {
		c.Balloon = len(ex.Characteristics) + 1
		ex.Characteristics = append(ex.Characteristics, c)
	}
	add(stating("thick", "diameter", "e1/side:l1"))
	add(stating("thin", "diameter", "e1/side:l3"))
	add(stating("all", "distance", "e1/side:l0", "e1/side:l4"))
	add(stating("begins", "distance", "e1/side:l0", "e1/side:l1 & e1/side:l2"))
	add(stating("ends", "distance", "e1/side:l0", "e1/side:l2 & e1/side:l3"))
	b := bundle{ref: check.Reference{Document: tapered(t, 30, 70, false)}}
	linear := func(id, of string, away float64) exercise.Mark {
		return exercise.Mark{ID: id, Kind: exercise.Dimension, Form: exercise.Linear, Of: []string{of}, View: "front",
			Side: "right", Offset: [2]float64{0, away}}
	}
	ex.Sheets[0].Paper = "A3"
	ex.Sheets[0].Views = []exercise.View{{ID: "front", Kind: "front", At: [2]float64{150, 120}}}
	ex.Sheets[0].Marks = []exercise.Mark{linear("m1", "begins", 12), linear("m2", "ends", 24), linear("m3", "all", 36)}
	out, err := onSheet(t, b, ex)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range out.Audit.Findings {
		if f.Kind == "missing" || f.Kind == "twice" || f.Kind == "contradicting" {
			t.Errorf("%s: %s", f.Kind, f.What)
		}
	}
	for i, want := range []float64{30, 70, 100} {
		s := out.Drawing.Spans[i]
		if math.Abs(s.To[1]-s.From[1]-want) > 1e-6 || s.Printed != fmt.Sprint(want) {
			t.Errorf("%s is drawn %g long", s.Printed, s.To[1]-s.From[1])
		}
	}
	if s := out.Drawing.Spans[0]; math.Abs(s.To[0]-170) > 1e-6 && math.Abs(s.From[0]-170) > 1e-6 {
		t.Errorf("the beginning of the taper is taken from %v", s)
	}
	for _, c := range []struct {
		from, to float64
		rounded  bool
		wrong    string
	}{{30, 70, false, ""}, {30, 65, false, "ends out"}, {32, 70, false, "begins out"}, {30, 70, true, ""}} {
		doc := tapered(t, c.from, c.to, c.rounded)
		for kind, att := range map[string]check.Attempt{"model": {Name: "a.json", Document: doc},
			"STEP": stepAttempt(t, doc, oddPose(), 1)} {
			if w := wrong(run(t, ex, b.ref, att)); w != c.wrong {
				t.Errorf("a %s with the taper from %g to %g, rounded: %v: %q, expected %q", kind, c.from, c.to, c.rounded, w,
					c.wrong)
			}
		}
	}
	// By hand it is picked as the lines of both circles, seen from the side.
	picks := sheet.Command{Do: sheet.AskFor, Item: "view:front", Reach: 1.5, Picks: [][2]float64{{150, 150}, {150, 190}}}
	if out, err = onSheet(t, b, ex, picks); err != nil || len(out.Offers) == 0 || out.Offers[0].Text != "40" {
		t.Errorf("from circle to circle %+v are offered, %v", out, err)
	}
	// What is proposed for the bare shaft determines it.
	bare := sheet.Plain("Shaft", "mm", "model.json", 1)
	bare.Material = "Steel"
	proposed, err := prepare.Propose(ctx, checker(), bare, b.ref, letteringOf(t), prepare.Quietly)
	if err != nil || len(proposed.Left) > 0 || len(proposed.Added) != 5 {
		t.Errorf("proposed: %v, left: %+v, %v", proposed.Added, proposed.Left, err)
	}
}
