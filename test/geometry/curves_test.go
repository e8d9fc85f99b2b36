package geometry

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/kernel/occ"
)

// An elliptical disc has the volume π a b h, half of it the half. Under a cubic
// Bézier arch with poles (0,0), (0,h), (w,h), (w,0) the area is
// ∫ y dx = ∫ 3h t(1-t) · 6w t(1-t) dt = 18 w h B(3,3) = 0.6 w h.
func TestCurvedProfiles(t *testing.T) {
	turned := func(x, y float64) []float64 { // by 37 degrees
		c, s := math.Cos(37*math.Pi/180), math.Sin(37*math.Pi/180)
		return []float64{c*x - s*y, s*x + c*y}
	}
	point := func(id string, x, y float64) string {
		v := turned(x, y)
		return fmt.Sprintf(`{"id":%q,"kind":"point","at":[%.15g,%.15g]}`, id, v[0], v[1])
	}
	for _, c := range []struct {
		name, entities string
		area           float64
	}{
		{"ellipse", point("c", 3, 4) + "," + point("u", 23, 4) + "," + point("v", 3, 13) + `,{"id":"e","kind":"ellipse",
	"center":"c","major":"u","minor":"v"}`, math.Pi * 20 * 9},
		{"upright ellipse", point("c", 3, 4) + "," + point("u", 8, 4) + "," + point("v", 3, 24) +
			`,{"id":"e","kind":"ellipse","center":"c","major":"u","minor":"v"}`, math.Pi * 5 * 20},
		{"half ellipse", point("c", 0, 0) + "," + point("u", 20, 0) + "," + point("v", 0, 9) + "," + point("w", -20, 0) +
			`,{"id":"e","kind":"elliptical-arc","center":"c","major":"u","minor":"v","start":"u","end":"w"},{"id":"l",
	"kind":"line","from":"w","to":"u"}`, math.Pi * 20 * 9 / 2},
		{"arch of a spline", point("a", 0, 0) + "," + point("b", 0, 12) + "," + point("c", 30, 12) + "," + point("d", 30, 0) +
			`,{"id":"s","kind":"spline","poles":["a","b","c","d"]},{"id":"l","kind":"line","from":"d","to":"a"}`, 0.6 * 30 * 12},
	} {
		sk := `{"id":"s1","kind":"sketch","plane":` + xy + `,"entities":[` + c.entities + `]}`
		b := build(t, model(t, "mm", "", sk, extrude("e1", "s1", oneSide("7"), "")), nil)
		p := props(t, b.Solid.Shape)
		if !near(p.Volume, 7*c.area, 1e-6) {
			t.Errorf("%s: volume %g, want %g", c.name, p.Volume, 7*c.area)
		}
	}
}

// A rim traced from a plate follows the plate when its width changes, and says
// so when the edge is gone.
func TestTracedEdges(t *testing.T) {
	plate := outline("s1", xy, 0, 0, 40, 0, 40, 25, 0, 25)
	trace := `{"id":"s2","kind":"sketch","plane":{"face":"e1/end"},"entities":[{"id":"t0","kind":"point","at":[0,0]},
	{"id":"t1","kind":"point","at":[1,0]},
		{"id":"rim","kind":"line","from":"t0","to":"t1","guide":true,"traced":["e1/end","e1/side:l1"]},
		{"id":"m","kind":"point","at":[3,3]},{"id":"c","kind":"circle","center":"m","radius":2}],
		"constraints":[{"id":"k1","kind":"distance","of":["m","rim"],"value":"6"},{"id":"k2","kind":"radius","of":["c"],
	"value":"2"},{"id":"k3","kind":"midpoint","of":["n","rim"]},{"id":"k4","kind":"perpendicular","of":["across","rim"]}]}`
	trace = strings.Replace(trace, `{"id":"m",`, `{"id":"n","kind":"point","at":[1,1]},{"id":"across","kind":"line",
	"from":"n","to":"m","guide":true},{"id":"m",`, 1)
	for _, w := range []float64{40, 55} {
		p := strings.ReplaceAll(plate, "40", fmt.Sprint(w))
		b := build(t, model(t, "mm", "", p, extrude("e1", "s1", oneSide("10"), ""), trace,
			extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut"`)), nil)
		found := false
		for _, f := range b.Solid.Shape.Faces() {
			if f.Kind == "cylinder" {
				found = true
				if math.Abs(f.Origin[0]-(w-6)) > 1e-9 || math.Abs(f.Origin[1]-12.5) > 1e-9 {
					t.Errorf("width %g: the hole is at %v", w, f.Origin)
				}
			}
		}
		if !found {
			t.Errorf("width %g: no hole", w)
		}
	}
	gone := strings.Replace(trace, `"e1/side:l1"]`, `"e1/side:l9"]`, 1)
	b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx,
		model(t, "mm", "", plate, extrude("e1", "s1", oneSide("10"), ""), gone), nil)
	if err != nil {
		t.Fatal(err)
	}
	if f := b.Failed(); len(f) != 1 ||
		!strings.Contains(f[0].Err.Error(), "the side of extrude 1 is not there any more") {
		t.Errorf("a gone edge: %v", f)
	}
}
