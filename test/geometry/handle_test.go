package geometry

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/kernel/occ"
)

// TestHandles pulls the main size of every kind of step that has a handle: when the size
// grows by what the handle's scale says for a pull of h, the handle itself has moved by h
// along its direction. Angles are pulled by little, since their handle moves on an arc.
func TestHandles(t *testing.T) {
	block := []string{outline("s1", xy, -20, -15, 20, -15, 20, 15, -20, 15), extrude("e1", "s1", oneSide("30"), "")}
	with := func(more ...string) []string { return append(append([]string{}, block...), more...) }
	top := `{"face":"e1/end"}`
	cases := []struct {
		name, id, path string
		size           float64
		steps          []string // the size is written as SIZE
	}{
		{"a length", "e1", "extent.length", 30, []string{block[0], extrude("e1", "s1", oneSide("SIZE"), "")}},
		{"a length that begins away", "e2", "extent.length", 6,
			with(circles("s2", top, 0, 0, 5), extrude("e2", "s2", `{"kind":"one-side","length":"SIZE","start":"2"}`, ""))},
		{"a cut", "e2", "extent.length", 6,
			with(circles("s2", top, 0, 0, 5), extrude("e2", "s2", oneSide("SIZE"), `,"result":"cut"`))},
		{"a total", "e1", "extent.total", 30,
			[]string{block[0], extrude("e1", "s1", `{"kind":"symmetric","total":"SIZE"}`, "")}},
		{"one of two sides", "e1", "extent.forward", 30,
			[]string{block[0], extrude("e1", "s1", `{"kind":"two-sides","forward":"SIZE","backward":"4"}`, "")}},
		{"an angle", "r1", "extent.length", 90, []string{outline("s1", xz, 10, 0, 20, 0, 20, 5, 10, 5),
			revolve("r1", "s1", "y-axis", `,"extent":{"kind":"one-side","length":"SIZE deg"}`)}},
		{"a total angle, the other way", "r1", "extent.total", 90, []string{outline("s1", xz, 10, 0, 20, 0, 20, 5, 10, 5),
			revolve("r1", "s1", "y-axis", `,"reverse":true,"extent":{"kind":"symmetric","total":"SIZE deg"}`)}},
		{"a plane", "d1", "plane.offset", 7, with(`{"id":"d1","kind":"plane","plane":{"face":"e1/side:l1",
	"offset":"SIZE"}}`)},
		{"a hole", "h1", "diameter", 6, with(circles("s2", top, 3, 2, 1), `{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],
	"diameter":"SIZE"}`)},
		{"the depth of a tapped hole", "h1", "extent.length", 12,
			with(circles("s2", top, 3, 2, 1), `{"id":"h1","kind":"hole","form":"tapped","thread":"M6","sketch":"s2","at":["m0"],
	"extent":{"kind":"one-side","length":"SIZE"}}`)},
		{"a slot", "h1", "width", 6, with(curves("s2", top, pt("a", -8, 1), pt("b", 8, 3), ln("l", "a", "b")),
			`{"id":"h1","kind":"slot","sketch":"s2","at":["l"],"width":"SIZE"}`)},
		{"a rib", "b1", "thickness", 4, []string{outline("s1", xz, 0, 0, 60, 0, 60, 10, 10, 10, 10, 50, 0, 50),
			extrude("e1", "s1", `{"kind":"symmetric","total":"30"}`, ""),
			curves("s2", xz, pt("a", 10, 40), pt("b", 50, 10), ln("l", "a", "b")), `{"id":"b1","kind":"rib","sketch":"s2",
	"thickness":"SIZE","reverse":true}`}},
		{"a helix", "x1", "diameter", 20, with(`{"id":"x1","kind":"helix","axis":{"datum":"Z"},"diameter":"SIZE","pitch":"4",
	"turns":"3"}`)},
		{"a fillet", "f1", "radius", 3, with(`{"id":"f1","kind":"fillet","edges":[{"between":["e1/side:l1","e1/side:l2"]}],
	"radius":"SIZE"}`)},
		{"a fillet of a blunt edge", "f1", "radius", 3, []string{outline("s1", xy, 0, 0, 40, 0, 50, 25, 0, 25),
			extrude("e1", "s1", oneSide("10"), ""), `{"id":"f1","kind":"fillet","edges":[{"between":["e1/side:l0",
	"e1/side:l1"]}],"radius":"SIZE"}`}},
		{"a fillet in the foot of a boss", "f1", "radius", 3,
			with(circles("s2", top, 0, 0, 7), extrude("e2", "s2", oneSide("9"), ""), `{"id":"f1","kind":"fillet",
	"edges":[{"between":["e1/end","e2/side:c0"]}],"radius":"SIZE"}`)},
		{"a chamfer of a rim", "f1", "distance", 2, with(circles("s2", top, 0, 0, 7), extrude("e2", "s2", oneSide("9"), ""),
			`{"id":"f1","kind":"chamfer","edges":[{"between":["e2/end","e2/side:c0"]}],"distance":"SIZE"}`)},
		{"walls", "l1", "thickness", 3, with(`{"id":"l1","kind":"shell","faces":["e1/end"],"thickness":"SIZE"}`)},
		{"a pitch", "p1", "spacing", 9, with(circles("s2", top, -12, 2, 2), extrude("e2", "s2", oneSide("4"), ""),
			`{"id":"p1","kind":"linear-pattern","of":["e2"],"axis":{"datum":"X"},"count":"3","spacing":"SIZE"}`)},
		{"a part of a circle", "p1", "angle", 100, with(circles("s2", top, 9, 0, 2), extrude("e2", "s2", oneSide("4"), ""),
			`{"id":"p1","kind":"circular-pattern","of":["e2"],"axis":{"datum":"Z"},"count":"3","angle":"SIZE deg"}`)},
	}
	at := func(steps []string, size float64, id string) part.Handle {
		list := make([]string, len(steps))
		for i, s := range steps {
			list[i] = strings.ReplaceAll(s, "SIZE", fmt.Sprintf("%.12g", size))
		}
		h, ok := build(t, model(t, "mm", "", list...), nil).Handle(id)
		if !ok {
			t.Fatal("there is no handle")
		}
		return h
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			h := at(c.steps, c.size, c.id)
			pull, slack := 0.5, 1e-9
			if h.Angle {
				pull, slack = 0.01, 1e-4
			}
			if h.Path != c.path || math.Abs(h.Along.Norm()-1) > 1e-9 || h.Scale <= 0 {
				t.Fatalf("handle %+v, of %s", h, c.path)
			}
			after := at(c.steps, c.size+pull*h.Scale, c.id)
			if want := h.At.Add(h.Along.Scale(pull)); after.At.Distance(want) > slack {
				t.Errorf("pulled by %g along %v from %v it is at %v, not %v", pull, h.Along, h.At, after.At, want)
			}
		})
	}
	if _, ok := build(t, model(t, "mm", "", block...), nil).Handle("s1"); ok {
		t.Error("a sketch has a handle")
	}
}

// TestTracedEllipses compares sections and projections of cylinders with their closed
// forms: a plane at an angle a to the section of a cylinder of radius r cuts it in an
// ellipse of area pi r² / cos a, and the circle projects onto that plane with the area
// pi r² cos a.
func TestTracedEllipses(t *testing.T) {
	const r = 12.0
	a := 37 * math.Pi / 180
	post := []string{circles("s1", xy, 3, 4, r), extrude("e1", "s1", `{"kind":"symmetric","total":"120"}`, ""),
		`{"id":"d1","kind":"plane","form":"angled","plane":{"datum":"XY"},"axis":{"datum":"X"},"angle":"37 deg"}`}
	ellipse := func(traced string) string {
		return curves("s2", `{"step":"d1"}`, pt("m", 3, 5), pt("u", 20, 5), pt("v", 3, 15), `{"id":"q","kind":"ellipse",
	"center":"m","major":"u","minor":"v","traced":`+traced+`}`)
	}
	plate := `{"id":"e2","kind":"extrude","sketch":"s2","regions":"all","extent":{"kind":"one-side","length":"5"},
	"result":"new"}`
	cut := func(d string) []string {
		return append(append([]string{}, post...), circles("s3", `{"datum":"XZ","offset":"`+d+`"}`, 0, 0, 300),
			extrude("e3", "s3", `{"kind":"through"}`, `,"result":"cut"`))
	}
	for _, c := range []struct {
		name  string
		steps []string
		want  float64
	}{
		{"a section aslant", append(append([]string{}, post...), ellipse(`["section","e1/side:c0"]`), plate),
			math.Pi * r * r / math.Cos(a) * 5},
		{"a rim seen aslant", append(append([]string{}, post...), ellipse(`["e1/end","e1/side:c0"]`), plate),
			math.Pi * r * r * math.Cos(a) * 5},
		// Cut along its axis, half of the cylinder is left: half of the ellipse, closed by a line.
		{"half a section", append(cut("-4"), curves("s2", `{"step":"d1"}`, pt("m", 3, 4), pt("u", 3, 20), pt("v", -9, 4),
			pt("a", 15, 4), pt("b", -9, 4), pt("c", 15, 4), pt("e", -9, 4),
			`{"id":"q","kind":"elliptical-arc","center":"m","major":"u","minor":"v","start":"a","end":"b","traced":["section",
	"e1/side:c0"]}`, `{"id":"z","kind":"line","from":"c","to":"e","traced":["section","e3/start"]}`), plate),
			math.Pi * r * r / math.Cos(a) * 2.5},
	} {
		t.Run(c.name, func(t *testing.T) {
			b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, model(t, "mm", "", c.steps...), nil)
			if err != nil {
				t.Fatal(err)
			}
			for _, f := range b.Failed() {
				t.Fatal(f.Err)
			}
			last := b.Bodies[len(b.Bodies)-1]
			if v := props(t, last.Shape).Volume; last.ID != "e2" || !near(v, c.want, 1e-7) {
				t.Errorf("volume %g of %s, not %g", v, last.ID, c.want)
			}
		})
	}
}

// TestOutlineOfPartOfACylinder traces the outline of a cylinder that lies aslant and of
// which only a part is there: the line runs from end to end of it, and the side on which
// nothing is left says so.
func TestOutlineOfPartOfACylinder(t *testing.T) {
	steps := []string{`{"id":"d1","kind":"plane","form":"angled","plane":{"datum":"YZ"},"axis":{"datum":"Z"},
	"angle":"20 deg"}`,
		curves("s1", `{"step":"d1"}`, pt("m", 0, 0), pt("a", 6, -8), pt("b", 6, 8), `{"id":"q","kind":"arc","center":"m",
	"start":"a","end":"b"}`, ln("l", "b", "a")),
		extrude("e1", "s1", oneSide("50"), "")}
	found := 0
	for _, side := range []string{"left", "right"} {
		d := model(t, "mm", "", append(append([]string{}, steps...), curves("s2", xy, pt("c", 0, 9), pt("e", 50, 9),
			`{"id":"w","kind":"line","from":"c","to":"e","traced":["`+side+`","e1/side:q"]}`))...)
		b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, d, nil)
		if err != nil {
			t.Fatal(err)
		}
		if f := b.Failed(); len(f) > 0 {
			if !strings.Contains(f[0].Err.Error(), "shows one on that side") {
				t.Error(side, f[0].Err)
			}
			continue
		}
		found++
		c := b.Steps[len(b.Steps)-1].Sketch.Curves[0]
		if run := c.A.Distance(c.B); !near(run, 50, 1e-9) {
			t.Errorf("the outline is %g long, not 50", run)
		}
	}
	if found != 1 {
		t.Errorf("%d outlines, not one", found)
	}
}
