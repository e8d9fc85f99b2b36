package geometry

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// A step of every kind, on a block of 40 x 30 x 30 about the Z axis. What its declaration says of
// it is true: a feature shapes the part, what repeats can be repeated, what gives something to later
// steps gives it, and the size that is typed first is one that it has.
func TestEveryKindOfStepStands(t *testing.T) {
	block := []string{outline("s1", xy, -20, -15, 20, -15, 20, 15, -20, 15), extrude("e1", "s1", oneSide("30"), "")}
	on := func(more ...string) []string { return append(append([]string{}, block...), more...) }
	top, edge := `{"face":"e1/end"}`, `[{"between":["e1/side:l1","e1/side:l2"]}]`
	boss := []string{circles("s2", top, 12, 9, 3), extrude("e2", "s2", oneSide("6"), "")}
	apart := []string{outline("s2", xy, 15, -15, 45, -15, 45, 15, 15, 15),
		extrude("e2", "s2", oneSide("10"), `,"result":"new"`)}
	file, err := occ.Kernel{}.WriteSTEP([]solid.Titled{{Shape: build(t, model(t, "mm", "", block...), nil).Solid.Shape,
		Name: "block"}}, "block", solid.AP214)
	if err != nil {
		t.Fatal(err)
	}
	data, err := json.Marshal(string(file))
	if err != nil {
		t.Fatal(err)
	}
	cases := map[string][]string{
		"sketch":  on(circles("x", top, 0, 0, 5)),
		"plane":   on(`{"id":"x","kind":"plane","plane":{"face":"e1/side:l1","offset":"7"}}`),
		"axis":    on(`{"id":"x","kind":"axis","axis":{"edge":{"between":["e1/side:l1","e1/side:l2"]}}}`),
		"point":   on(`{"id":"x","kind":"point","points":[{"corner":["e1/end","e1/side:l1","e1/side:l2"]}]}`),
		"helix":   on(`{"id":"x","kind":"helix","axis":{"datum":"Z"},"diameter":"20","pitch":"4","turns":"3"}`),
		"extrude": on(circles("s2", top, 12, 9, 3), extrude("x", "s2", oneSide("6"), "")),
		"revolve": on(outline("s2", xz, 10, 30, 14, 30, 14, 36, 10, 36),
			revolve("x", "s2", "y-axis", `,"extent":{"kind":"one-side","length":"40 deg"}`)),
		"sweep": on(circles("s2", top, 8, 0, 3), curves("s3", xz, pt("a", 8, 30), pt("b", 8, 45),
			ln("l", "a", "b")), `{"id":"x","kind":"sweep","sketch":"s2","regions":"all","path":"s3"}`),
		"loft": on(circles("s2", top, 8, 2, 5), circles("s3", `{"datum":"XY","offset":"40"}`, 8, 2, 3),
			`{"id":"x","kind":"loft","sections":["s2","s3"]}`),
		"rib": on(outline("s2", top, -20, -15, -10, -15, -10, 15, -20, 15),
			extrude("e2", "s2", oneSide("20"), ""), curves("s3", `{"datum":"XZ","offset":"-6"}`, pt("a", -10, 45),
				pt("b", 10, 30), ln("l", "a", "b")), `{"id":"x","kind":"rib","sketch":"s3","thickness":"4","reverse":true}`),
		"hole": on(circles("s2", top, 8, 2, 1), `{"id":"x","kind":"hole","sketch":"s2","at":["m0"],
	"diameter":"6"}`),
		"slot": on(curves("s2", top, pt("a", 2, 6), pt("b", 12, 6), ln("l", "a", "b")),
			`{"id":"x","kind":"slot","sketch":"s2","at":["l"],"width":"6","extent":{"kind":"one-side","length":"5"}}`),
		"keyway": on(circles("s2", top, 0, 0, 8), extrude("e2", "s2", oneSide("25"), ""),
			`{"id":"x","kind":"keyway","faces":["e2/side:c0","e2/end"],"length":"12","angle":"20 deg"}`),
		"fillet":  on(`{"id":"x","kind":"fillet","edges":` + edge + `,"radius":"3"}`),
		"chamfer": on(`{"id":"x","kind":"chamfer","edges":` + edge + `,"distance":"3"}`),
		"shell":   on(`{"id":"x","kind":"shell","faces":["e1/end"],"thickness":"3"}`),
		"draft":   on(`{"id":"x","kind":"draft","faces":["e1/side:l1"],"plane":{"datum":"XY"},"angle":"5"}`),
		"mirror": on(append(append([]string{}, boss...), `{"id":"x","kind":"mirror","of":["e2"],
	"plane":{"datum":"XZ"}}`)...),
		"linear-pattern": on(append(append([]string{}, boss...), `{"id":"x","kind":"linear-pattern","of":["e2"],
	"axis":{"datum":"X"},"count":"2","spacing":"-9"}`)...),
		"circular-pattern": on(append(append([]string{}, boss...), `{"id":"x","kind":"circular-pattern","of":["e2"],
	"axis":{"datum":"Z"},"count":"2","angle":"30 deg"}`)...),
		"point-pattern": on(circles("s2", top, 12, 9, 3, 4, 9, 3), `{"id":"e2","kind":"hole","sketch":"s2","at":["m0"],
	"diameter":"4"}`, `{"id":"x","kind":"point-pattern","of":["e2"],"sketch":"s2","from":"m0","at":["m1"]}`),
		"union": on(append(append([]string{}, apart...), `{"id":"x","kind":"union","solids":["e1"],
	"with":["e2"]}`)...),
		"difference": on(append(append([]string{}, apart...), `{"id":"x","kind":"difference","solids":["e1"],
	"with":["e2"]}`)...),
		"intersection": on(append(append([]string{}, apart...), `{"id":"x","kind":"intersection","solids":["e1"],
	"with":["e2"]}`)...),
		"import": {`{"id":"x","kind":"import","data":` + string(data) + `}`},
		"thread": on(circles("s2", top, 0, 0, 3), extrude("e2", "s2", oneSide("12"), ""),
			`{"id":"x","kind":"thread","faces":["e2/side:c0"],"thread":"M6"}`),
		"text": on(`{"id":"x","kind":"text","faces":["e1/end"],"text":"CANAL WORKS"}`),
	}
	for _, k := range part.All() {
		kind, steps := k.Name, cases[k.Name]
		if steps == nil {
			t.Errorf("no step of kind %s is built here", kind)
			continue
		}
		d := model(t, "mm", "", steps...)
		b := build(t, d, nil) // every step stands
		last := len(steps) - 1
		without, err := d.Altered([]part.Alteration{{Step: "x", Do: part.AlterSet, Path: "off", Text: "true"}})
		if err != nil {
			t.Fatal(err)
		}
		if k.Feature {
			before, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, without, nil)
			if err != nil || total(t, b)-total(t, before) == 0 && len(b.Bodies) == len(before.Bodies) {
				t.Errorf("%s: a feature that shapes nothing: %v", kind, err)
			}
		}
		mirrored := append(append([]string{}, steps...), `{"id":"y","kind":"mirror","of":["x"],"plane":{"datum":"XZ"}}`)
		again, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, model(t, "mm", "", mirrored...), nil)
		if err != nil || (len(again.Failed()) == 0) != k.Repeats {
			t.Errorf("%s: it repeats (%v): %v", kind, k.Repeats, again.Failed())
		}
		_, _, _, drawn := b.PlacedSketch("x")
		_, plane := b.Plane("x")
		gives := map[string]bool{part.GivesSketch: drawn, part.GivesPlane: plane}
		for what, is := range gives {
			if is != (k.Gives == what) {
				t.Errorf("%s: it gives a %s: %v", kind, what, is)
			}
		}
		if k.Main != "" && !strings.Contains(steps[last], `"`+k.Main[strings.LastIndexByte(k.Main, '.')+1:]+`"`) {
			t.Errorf("%s: the size that is typed first, %s, is not in the step", kind, k.Main)
		}
	}
}

// total is the volume of all solids.
func total(t *testing.T, b *part.Build) float64 {
	t.Helper()
	v := 0.0
	for _, x := range b.Bodies {
		v += props(t, x.Shape).Volume
	}
	return math.Round(v*1e6) / 1e6
}
