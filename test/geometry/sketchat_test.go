package geometry

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/kernel/occ"
)

// traced is a sketch on the top of a plate of w by 30 by 10 with a bore: it traces
// one edge of the plate and the rim of the bore, and puts a circle between them.
func traced(t *testing.T, plane string) *part.Document {
	return model(t, "mm", `{"name":"w","value":"40 mm"}`,
		constrained(outline("s1", xy, 0, 0, 40, 0, 40, 30, 0, 30), `{"id":"o","kind":"coincident","of":["p0","origin"]},
	{"id":"h0","kind":"horizontal","of":["l0"]},{"id":"h2","kind":"horizontal","of":["l2"]},{"id":"v1","kind":"vertical",
	"of":["l1"]},{"id":"v3","kind":"vertical","of":["l3"]},{"id":"d0","kind":"length","of":["l0"],"value":"w"},{"id":"d1",
	"kind":"length","of":["l1"],"value":"30"}`),
		extrude("e1", "s1", oneSide("10"), ""),
		circles("s2", `{"face":"e1/end"}`, 12, 15, 6), extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut"`),
		`{"id":"s3","kind":"sketch","plane":`+plane+`,"entities":[{"id":"a","kind":"point","at":[40,0]},{"id":"b",
	"kind":"point","at":[40,30]},{"id":"edge","kind":"line","from":"a","to":"b","guide":true,"traced":["e1/end",
	"e1/side:l1"]},
		{"id":"m","kind":"point","at":[33,15]},{"id":"c","kind":"circle","center":"m","radius":2}],"constraints":[{"id":"k",
	"kind":"distance","of":["m","edge"],"value":"7"}]}`)
}

// A sketch is placed for editing with its traced edges where the solid has them
// now, and with the edges that could be traced; each of these is named by two
// faces that meet in it alone, and lies on the solid.
func TestSketchIsPlacedForEditing(t *testing.T) {
	r := part.NewRebuilder(occ.Kernel{})
	for _, w := range []string{"40 mm", "64 mm", "2 in"} {
		d := traced(t, `{"face":"e1/end"}`)
		d.Parameters[0].Formula = w
		tab, err := quantity.Evaluate(d.Parameters, quantity.Millimetre, nil)
		if err != nil {
			t.Fatal(err)
		}
		q, _ := tab.Lookup("w")
		sk, edges, warning, err := r.SketchAt(ctx, d, "s3")
		if err != nil || warning != nil {
			t.Fatal(err, warning)
		}
		frame, _ := build(t, d, nil).SketchFrame("s3")
		right := q.Value - frame.O.Dot(frame.X) // of the plate's side in the plane of its top
		a, b := sk.Entity("a").At, sk.Entity("b").At
		if math.Abs(a[0]-right) > 1e-9 || math.Abs(b[0]-right) > 1e-9 || math.Abs(math.Abs(a[1]-b[1])-30) > 1e-9 {
			t.Errorf("w = %s: the traced edge runs from %v to %v, the plate's side is at %g", w, *a, *b, right)
		}
		sol, err := sketch.Solve(sk, 1, tab)
		if err != nil || !sol.Solved || math.Abs(math.Abs(sol.Points["m"].X-right)-7) > 1e-8 {
			t.Errorf("w = %s: %v, the centre at %v", w, err, sol.Points["m"])
		}
		// Four sides above and four below, and the bore's rim above and below.
		kinds := map[string]int{}
		for _, e := range edges {
			kinds[e.Kind]++
			if len(e.Run) < 2 || !strings.Contains(fmt.Sprint(e.Faces), "/") {
				t.Errorf("edge %+v", e)
			}
			if e.Kind == sketch.KindCircle &&
				(math.Abs(e.R-6) > 1e-9 || e.C.Distance(sketch.Vec{X: 12 - frame.O.Dot(frame.X), Y: 15 - frame.O.Dot(frame.Y)}) >
					60) {
				t.Errorf("the rim %+v", e)
			}
		}
		if kinds[sketch.KindLine] != 8 || kinds[sketch.KindCircle] != 2 {
			t.Errorf("edges that can be traced: %v", kinds)
		}
	}
}

// What a sketch stood on may be gone: then it is given as it is stored, with a
// warning that names what is gone. No other edge is taken in its place.
func TestSketchWhoseEdgeIsGone(t *testing.T) {
	r := part.NewRebuilder(occ.Kernel{})
	for _, c := range []struct {
		name  string
		edit  func(d *part.Document)
		plane string
		say   string
	}{
		{"the face of the plane", func(*part.Document) {}, `{"face":"e9/end"}`, "e9/end"},
		{"the edge", func(d *part.Document) {
			d.Steps[4].Sketched().Entities[2].Traced[1] = "e1/side:l7"
		}, `{"face":"e1/end"}`, "e1/side:l7"},
		{"an edge that is round now", func(d *part.Document) {
			d.Steps[4].Sketched().Entities[2].Traced = []string{"e1/end", "e2/side:c0"}
		}, `{"face":"e1/end"}`, ""},
		{"the step that makes the solid", func(d *part.Document) { d.Steps = append(d.Steps[:1], d.Steps[4]) },
			`{"datum":"XY"}`, "no solid yet"},
	} {
		d := traced(t, c.plane)
		c.edit(d)
		sk, _, warning, err := r.SketchAt(ctx, d, "s3")
		if err != nil || warning == nil || !strings.Contains(warning.Error(), c.say) {
			t.Errorf("%s: %v, warning %v", c.name, err, warning)
			continue
		}
		if at := sk.Entity("a").At; *at != [2]float64{40, 0} {
			t.Errorf("%s: the sketch is moved to %v", c.name, *at)
		}
	}
	if _, _, _, err := r.SketchAt(ctx, traced(t, `{"datum":"XY"}`), "e1"); err == nil ||
		!strings.Contains(err.Error(), "no sketch") {
		t.Errorf("an extrusion is opened as a sketch: %v", err)
	}
}
