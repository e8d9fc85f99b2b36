package geometry

import (
	"fmt"
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

// drilledAt is a plate of 80 by 50 by 12 with a hole of 8 at a place of it.
func drilledAt(t *testing.T, x, y float64) *part.Document {
	return model(t, "mm", "", outline("s1", xy, 0, 0, 80, 0, 80, 50, 0, 50), extrude("e1", "s1", oneSide("12"), ""),
		circles("s2", xy, x, y, 4), extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut","reverse":true`))
}

// The two distances of a hole become exact and stand in boxes, and its position in a frame with a round zone and both
// datums (ISO 1101, ISO 5459). The part is determined as before; an axis within the zone is in, though neither distance
// is what it was.
func TestPositions(t *testing.T) {
	b := bundle{ref: check.Reference{Document: drilledAt(t, 20, 30)}}
	ex := sheet.Plain("Plate", "mm", "model.json", 1)
	ex.Material = "Steel"
	add := func(id, kind string, of ...string) {
		ex.Characteristics = append(ex.Characteristics, exercise.Characteristic{ID: id, Kind: kind, Label: id,
			Balloon: len(ex.Characteristics) + 1, Of: [][]address.Ref{address.List(of...)}})
	}
	add("long", "distance", "e1/side:l3", "e1/side:l1")
	add("wide", "distance", "e1/side:l0", "e1/side:l2")
	add("thick", "distance", "e1/start", "e1/end")
	add("hole", "diameter", "e2/side:c0")
	add("x", "distance", "e1/side:l3", "e2/side:c0")
	add("y", "distance", "e2/side:c0", "e1/side:l0")
	linear := func(id, of, side string) exercise.Mark {
		return exercise.Mark{ID: id, Kind: exercise.Dimension, Form: exercise.Linear, Of: []string{of}, View: "top",
			Side: side, Offset: [2]float64{0, 12}}
	}
	ex.Sheets[0].Paper = "A3"
	ex.Sheets[0].Views = []exercise.View{{ID: "top", Kind: "top", At: [2]float64{120, 150}}}
	ex.Sheets[0].Marks = []exercise.Mark{linear("m1", "x", "below"), linear("m2", "y", "left"),
		linear("m3", "long", "above")}
	for _, id := range []string{"m3", "m2"} {
		_, err := onSheet(t, b, ex, sheet.Command{Do: sheet.Placed, Item: "mark:" + id})
		if (err == nil) != (id == "m2") {
			t.Fatalf("%s: %v", id, err)
		}
	}
	out, err := onSheet(t, b, ex)
	if err != nil {
		t.Fatal(err)
	}
	var position exercise.Characteristic
	for _, c := range out.Characteristics {
		if len(c.Exact) > 0 {
			position = c
		}
	}
	if fmt.Sprint(position.Exact) != "[30 20]" || fmt.Sprint(position.Datums) != "[A B]" || len(out.Characteristics) != 6 {
		t.Fatalf("the position is %+v of %d characteristics", position, len(out.Characteristics))
	}
	texts, boxed := map[string]int{}, 0
	for _, it := range out.Drawing.Items {
		if it.Kind == "text" && it.Class == sheet.Dimension {
			texts[it.Text]++
		}
		if it.Kind == "run" && len(it.Points) == 5 && it.Characteristic == "" && strings.HasPrefix(it.Mark, "m") {
			boxed++
		}
	}
	if texts["⌀0.2"] != 1 || texts["A"] != 2 || texts["B"] != 2 || texts["20"] != 1 || texts["30"] != 1 || boxed != 2 {
		t.Errorf("%d boxes, and %v", boxed, texts)
	}
	if len(out.Touching) > 0 {
		t.Errorf("%v", out.Touching)
	}
	for _, f := range out.Audit.Findings {
		if f.Kind == "missing" || f.Kind == "twice" {
			t.Errorf("%s: %s", f.Kind, f.What)
		}
	}
	if err := ex.Check(); err != nil {
		t.Fatal(err)
	}

	// Where it is added beside the characteristics, its exact place is that of the reference.
	bare := *ex
	bare.Characteristics = slices.Clone(ex.Characteristics)
	bare.Characteristic(position.ID).Exact = nil
	draft, err := prepare.Draft(ctx, checker(), bare, b.ref, letteringOf(t), false, prepare.Quietly)
	if err != nil || draft.Faulty() != nil || fmt.Sprint(draft.Values[5].Exact) != "[30 20]" {
		t.Errorf("drafted it is %+v: %v", draft.Values[5], err)
	}

	frame := ex.Sheets[0].Marks[len(ex.Sheets[0].Marks)-1].ID
	for text, ok := range map[string]bool{"A, B, C": true, "A, B": true, "A": false, "A, A": false, "A, I": false} {
		_, err := onSheet(t, b, ex, sheet.Command{Do: sheet.DatumsOf, Item: "mark:" + frame, Text: text})
		if (err == nil) != ok {
			t.Errorf("the datums %q: %v", text, err)
		}
	}

	ref := check.Reference{Document: drilledAt(t, 20, 30)}
	for _, c := range []struct {
		x, y float64
		off  string
	}{{20, 30, ""}, {20.06, 30.07, ""}, {20.08, 30.08, position.ID + " out"}, {19.8, 30, position.ID + " out"}} {
		doc := drilledAt(t, c.x, c.y)
		for kind, r := range map[string]string{"model": wrong(run(t, ex, ref, check.Attempt{Name: "a.json", Document: doc})),
			"STEP": wrong(run(t, ex, ref, stepAttempt(t, doc, oddPose(), 1)))} {
			if r != c.off {
				t.Errorf("a %s with the hole at %g, %g: %q, expected %q", kind, c.x, c.y, r, c.off)
			}
		}
	}

	// It goes with its frame and its boxes, and then the place of the hole is missing.
	out, err = onSheet(t, b, ex, sheet.Command{Do: sheet.Drop, Text: position.ID})
	if err != nil || len(out.Sheets[0].Marks) != 1 || !slices.ContainsFunc(out.Audit.Findings,
		func(f prepare.Finding) bool { return f.Kind == "missing" }) {
		t.Errorf("without the position: %+v, %v", out.Sheets[0].Marks, err)
	}
}

// The radius of a sphere says that it is one, and that of a cylinder does not.
func TestSphericalRadii(t *testing.T) {
	doc := model(t, "mm", "", curves("s1", xz, pt("a", 0, 0), pt("b", 20, 0), pt("c", 20, 10), pt("d", 0, 30),
		pt("m", 0, 10), ln("l0", "a", "b"), ln("l1", "b", "c"), arc("l2", "m", "c", "d"), ln("l3", "d", "a")),
		revolve("e1", "s1", "l3", ""))
	_, b, ex := laidOut(t, doc, exercise.View{ID: "front", Kind: "front", At: [2]float64{150, 150}})
	ex.Characteristics = append(ex.Characteristics, stating("dome", "radius", "e1/side:l2"),
		stating("foot", "diameter", "e1/side:l1"))
	leads := func(id, of string, up float64) exercise.Mark {
		return exercise.Mark{ID: id, Kind: exercise.Dimension, Form: exercise.Leader, Of: []string{of}, View: "front",
			Offset: [2]float64{15, up}}
	}
	ex.Sheets[0].Marks = []exercise.Mark{leads("m1", "dome", 15), leads("m2", "foot", -15)}
	d, _ := draw(t, ex, b)
	var texts []string
	for _, it := range d.Items {
		if it.Kind == "text" && it.Class == sheet.Dimension && strings.HasPrefix(it.Mark, "m") {
			texts = append(texts, it.Text)
		}
	}
	if fmt.Sprint(texts) != "[SR20 ⌀40]" {
		t.Errorf("they read %v", texts)
	}
}
