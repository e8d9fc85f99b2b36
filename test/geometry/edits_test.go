package geometry

import (
	"math"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// bracketNames are faces of the demo bracket with where each lies, as functions
// of the sizes: what an edit must leave in its geometric place.
type spot struct {
	name string
	axis int // coordinate that is checked: 0 x, 1 y, 2 z
	at   func(v func(string) float64) float64
	of   string // centroid or axis
}

var spots = []spot{
	{"e1/side:right", 0, func(v func(string) float64) float64 { return v("width") / 2 }, "centroid"},
	{"e1/side:left", 0, func(v func(string) float64) float64 { return -v("width") / 2 }, "centroid"},
	{"e1/side:front", 1, func(v func(string) float64) float64 { return -v("depth") }, "centroid"},
	{"e1/end", 2, func(v func(string) float64) float64 { return v("thick") }, "centroid"},
	{"e2/end", 1, func(v func(string) float64) float64 { return -v("wall") }, "centroid"},
	{"e2/side:crown", 2, func(v func(string) float64) float64 { return v("height") }, "axis"},
	{"e3/end", 1, func(v func(string) float64) float64 { return -1.5 * v("wall") }, "centroid"},
	{"h1.c/floor", 1, func(v func(string) float64) float64 { return -1.5*v("wall") + 5 }, "centroid"},
	{"h1.c/bore", 2, func(v func(string) float64) float64 { return v("height") }, "axis"},
	{"e4/end", 0, func(v func(string) float64) float64 { return v("web") / 2 }, "abs"},
	{"h2.p1/bore", 0, func(v func(string) float64) float64 { return -v("pitch_x") / 2 }, "axis"},
	{"h2.p3/bore", 1, func(v func(string) float64) float64 { return -v("margin") - v("pitch_y") }, "axis"},
}

// Edits of the bracket: other sizes, steps put in between, taken out or moved.
// After each, every reference lies where the drawing says, or is gone and says
// so; none moves silently to another face.
func TestEditsKeepReferences(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	mm := func(v float64) quantity.Quantity { return quantity.Quantity{Value: v, Dim: quantity.Length} }
	hole := `{"id": "s9", "kind": "sketch", "plane": {"face": "e1/end"}, "entities": [{"id": "m", "kind": "point",
	"at": [-40, -60]}]}, {"id": "h9", "kind": "hole", "sketch": "s9", "at": ["m"], "diameter": "4 mm"},
    `
	slot := `{"id": "s8", "kind": "sketch", "plane": {"datum": "XY"}, "entities": [{"id": "a", "kind": "point", "at": [20,
	-80]}, {"id": "b", "kind": "point", "at": [26, -80]}, {"id": "c", "kind": "point", "at": [26, -50]}, {"id": "d",
	"kind": "point", "at": [20, -50]}, {"id": "ab", "kind": "line", "from": "a", "to": "b"}, {"id": "bc", "kind": "line",
	"from": "b", "to": "c"}, {"id": "cd", "kind": "line", "from": "c", "to": "d"}, {"id": "da", "kind": "line",
	"from": "d", "to": "a"}]},
    {"id": "e8", "kind": "extrude", "sketch": "s8", "regions": "all", "extent": {"kind": "through", "both": true},
	"result": "cut"},
    `
	before := func(step, text string) []string {
		return []string{`{"id": "` + step + `"`, text + `{"id": "` + step + `"`}
	}
	for _, c := range []struct {
		name  string
		edits []string
		set   map[string]quantity.Quantity
		gone  string // names that are no longer there
	}{
		{"as drawn", nil, nil, ""},
		{"wider", nil, map[string]quantity.Quantity{"width": mm(180)}, ""},
		{"hardly wider than the upright", nil, map[string]quantity.Quantity{"width": mm(96)}, ""},
		{"thick as a block", nil, map[string]quantity.Quantity{"thick": mm(30), "height": mm(90)}, ""},
		{"a rib as wide as the boss", nil, map[string]quantity.Quantity{"web": mm(40)}, ""},
		{"a long foot", nil, map[string]quantity.Quantity{"foot": mm(50), "depth": mm(100)}, ""},
		{"a small bore high up", nil, map[string]quantity.Quantity{"bore": mm(8), "height": mm(120)}, ""},
		{"bolts close together", nil, map[string]quantity.Quantity{"pitch_y": mm(12), "margin": mm(32)}, ""},
		{"a hole drilled before the upright", before("s2", hole), nil, ""},
		{"a slot through the front edge, in between", before("s3", slot), nil, ""},
		{"the slot at the very end", []string{`"edges": [{"between": ["e1/end", "e2/end"]}]}`,
			`"edges": [{"between": ["e1/end", "e2/end"]}]},
    ` + strings.TrimSuffix(strings.TrimSpace(slot), ",")}, nil, ""},
		{"no rounds", []string{`"edges": [{"between": ["e1/side:back", "e1/side:left"]}, ` +
			`{"between": ["e1/side:back", "e1/side:right"]}, {"between": ["e1/side:front", "e1/side:left"]}, ` +
			`{"between": ["e1/side:front", "e1/side:right"]}]`,
			`"edges": [{"between": ["e1/side:front", "e1/side:right"]}]`}, nil, ""},
		{"a hole less", []string{`"at": ["p1", "p2", "p3", "p4"]`, `"at": ["p2", "p3", "p4"]`}, nil, "h2.p1/bore"},
		{"a plain bore", []string{`"form": "counterbore", "diameter": "bore", "headDiameter": "bore + 10 mm", ` +
			`"headDepth": "5 mm"`, `"form": "plain", "diameter": "bore"`}, nil, "h1.c/floor"},
		{"corners rounded before the holes", nil, map[string]quantity.Quantity{"bolt": mm(5)}, ""},
	} {
		doc := edited(t, b, c.edits...).Document
		built, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, doc, c.set)
		if err != nil || len(built.Failed()) > 0 {
			t.Errorf("%s: %v %v", c.name, err, built.Failed())
			continue
		}
		v := func(name string) float64 { q, _ := built.Table.Lookup(name); return q.Value }
		faces := built.Solid.Shape.Faces()
		for _, s := range spots {
			list := built.Solid.Faces(s.name)
			if len(list) == 0 {
				if !strings.Contains(c.gone, s.name) {
					t.Errorf("%s: %s is gone", c.name, s.name)
				}
				continue
			}
			if c.gone != "" && strings.Contains(c.gone, s.name) {
				t.Errorf("%s: %s is still there", c.name, s.name)
			}
			for _, i := range list {
				p := faces[i].Centroid
				if s.of == "axis" {
					p = faces[i].Origin
				}
				got, want := p[s.axis], s.at(v)
				if s.of == "abs" { // either flank of the rib
					got = math.Abs(got)
				}
				if math.Abs(got-want) > 1e-6 {
					t.Errorf("%s: %s lies at %c = %g, want %g", c.name, s.name, "xyz"[s.axis], got, want)
				}
			}
		}
		if p := props(t, built.Solid.Shape); p.Volume <= 0 || built.Solid.Shape.Solids() != 1 {
			t.Errorf("%s: %d solids of %g mm³", c.name, built.Solid.Shape.Solids(), p.Volume)
		}
	}
}

// An edge reference after its face has been swallowed is an error of its step
// that names the face, and the steps around it stand.
func TestSwallowedFacesAreErrors(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	for _, c := range []struct{ name, from, to, step, face string }{
		{"a bevel on a face that another bevel has taken", `"edges": [{"between": ["r1/side:nose", "r1/side:tip"]}]`,
			`"edges": [{"between": ["r1/side:groove", "r1/side:tip"]}]`, "b1", "the side of turned body is not there any more"},
		{"faces that no longer meet", `"edges": [{"between": ["r1/side:nose", "r1/side:tip"]}]`,
			`"edges": [{"between": ["r1/side:nose", "r1/side:floor"]}]`, "b1", "do not meet"},
		{"a sketch on a face that was renamed", `"plane": {"face": "r1/side:face"}`, `"plane": {"face": "r2/side:face"}`,
			"s2", "the side of r2 is not there any more"},
		{"a sketch on a round face", `"plane": {"face": "r1/side:face"}`, `"plane": {"face": "r1/side:rim"}`,
			"s2", "not flat"},
	} {
		built, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, edited(t, b, c.from, c.to).Document, nil)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		f := built.Failed()
		if len(f) == 0 || f[0].ID != c.step || !strings.Contains(f[0].Err.Error(), c.face) {
			t.Errorf("%s: %v", c.name, f)
			continue
		}
		if built.Solid == nil || len(built.Solid.Faces("r1/side:bore")) != 1 {
			t.Errorf("%s: the turned body does not stand", c.name)
		}
		// What builds on the failed step says so and does not guess.
		for _, g := range f[1:] {
			if !strings.Contains(g.Err.Error(), "which failed") {
				t.Errorf("%s: %v", c.name, g.Err)
			}
		}
	}
}

// Steps work on planes that are turned and offset: a part built on each datum
// plane is the same part, turned.
func TestDatumPlanes(t *testing.T) {
	var volumes []float64
	var sizes []solid.Vec
	for _, datum := range []string{"XY", "XZ", "YZ"} {
		d := model(t, "mm", "", outline("s1", `{"datum":"`+datum+`","offset":"3 mm"}`, 0, 0, 40, 0, 40, 25, 0, 25),
			extrude("e1", "s1", oneSide("9"), ""),
			circles("s2", `{"face":"e1/end","offset":"2 mm"}`, 0, 0, 0.5),
			constrained(circles("s3", `{"face":"e1/end"}`, 10, 8, 3), `{"id":"r","kind":"radius","of":["c0"],"value":"3 mm"}`))
		built := build(t, d, nil)
		volumes = append(volumes, props(t, built.Solid.Shape).Volume)
		box, err := occ.Kernel{}.Bounds(built.Solid.Shape)
		if err != nil {
			t.Fatal(err)
		}
		sizes = append(sizes, box.Size())
		on, ok := built.SketchFrame("s3")
		above, ok2 := built.SketchFrame("s2")
		first, ok3 := built.SketchFrame("s1")
		if !ok || !ok2 || !ok3 {
			t.Fatalf("%s: a sketch has no frame", datum)
		}
		if d := above.O.Sub(on.O).Dot(on.Z); math.Abs(d-2) > 1e-9 {
			t.Errorf("%s: the offset plane is %g above its face", datum, d)
		}
		if d := on.O.Sub(first.O).Dot(first.Z); math.Abs(d-9) > 1e-9 || on.Z.Angle(first.Z) > 1e-9 {
			t.Errorf("%s: the end is %g from the start", datum, d)
		}
	}
	for i, v := range volumes {
		if !near(v, 9000, 1e-12) || math.Abs(sizes[i][0]*sizes[i][1]*sizes[i][2]-9000) > 1e-6 {
			t.Errorf("plane %d: volume %g, box %v", i, v, sizes[i])
		}
	}
}
