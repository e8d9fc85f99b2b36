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

// base is a block 40 x 30 x 20 with its lower left corner at the origin.
func base() []string {
	return []string{outline("s1", xy, 0, 0, 40, 0, 40, 30, 0, 30), extrude("e1", "s1", oneSide("20"), "")}
}

func TestSteps(t *testing.T) {
	block := 40.0 * 30 * 20
	hole := func(more string) string {
		return `{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],"diameter":"6"` + more + `}`
	}
	top := circles("s2", `{"face":"e1/end"}`, 15, 10, 3)
	ringCut := `{"id":"s1","kind":"sketch","plane":{"datum":"XY"},"entities":[{"id":"m","kind":"point","at":[0,0]},
	{"id":"c0","kind":"circle","center":"m","radius":10},{"id":"c1","kind":"circle","center":"m","radius":6},{"id":"a",
	"kind":"point","at":[-12,0]},{"id":"b","kind":"point","at":[12,0]},{"id":"l","kind":"line","from":"a","to":"b"}]}`
	midLine := `{"id":"s2","kind":"sketch","plane":{"datum":"XY","offset":"10"},"entities":[{"id":"a","kind":"point",
	"at":[10,15]},{"id":"b","kind":"point","at":[30,15]},{"id":"m","kind":"line","from":"a","to":"b"}]}`
	cases := []struct {
		name   string
		steps  []string
		volume float64
	}{
		{"symmetric takes the total", []string{outline("s1", xy, 0, 0, 10, 0, 10, 10, 0, 10),
			extrude("e1", "s1", `{"kind":"symmetric","total":"50"}`, "")}, 5000},
		{"two sides", []string{outline("s1", xy, 0, 0, 10, 0, 10, 10, 0, 10),
			extrude("e1", "s1", `{"kind":"two-sides","forward":"7","backward":"2"}`, "")}, 900},
		{"cut goes into the material", append(base(), top, extrude("e2", "s2", oneSide("5"), `,"result":"cut"`)),
			block - math.Pi*9*5},
		{"cut through", append(base(), top, extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut"`)),
			block - math.Pi*9*20},
		{"cut through both ways from the middle", append(base(), circles("s2", `{"datum":"XY","offset":"10"}`, 15, 10, 3),
			extrude("e2", "s2", `{"kind":"through","both":true}`, `,"result":"cut"`)), block - math.Pi*9*20},
		{"intersect", append(base(), top, extrude("e2", "s2", oneSide("50"), `,"result":"intersect","reverse":true`)),
			math.Pi * 9 * 20},
		{"up to a flat face", append(base(), outline("s2", `{"datum":"XY","offset":"50"}`, 5, 5, 15, 5, 15, 15, 5, 15),
			extrude("e2", "s2", `{"kind":"to-face","face":"e1/end"}`, `,"reverse":true`)), block + 100*30},
		{"up to a slanting face", []string{outline("s1", xz, 0, 0, 40, 0, 40, 10, 0, 30),
			extrude("e1", "s1", oneSide("20"), ""), outline("s2", `{"datum":"XY","offset":"50"}`, 10, -15, 20, -15,
				20, -5, 10, -5),
			extrude("e2", "s2", `{"kind":"to-face","face":"e1/side:l2"}`, `,"reverse":true`)}, 40*20*20 + 100*(50-(30-15*0.5))},
		// The part between the plane x = 0 and a shaft of radius 10 at x = 30: a strip
		// 8 wide: 20·8·6 plus what the round leaves, ∫(10 − √(100 − y²)) dy over ±4.
		{"up to a round face", []string{circles("s1", xy, 30, 0, 10), extrude("e1", "s1", `{"kind":"symmetric","total":"40"}`,
			""), outline("s2", yz, -4, -3, 4, -3, 4, 3, -4, 3),
			extrude("e2", "s2", `{"kind":"to-face","face":"e1/side:c0"}`, "")},
			math.Pi*100*40 + 6*(8*30-(4*math.Sqrt(84)+100*math.Asin(0.4)))},
		{"plain hole, through", append(base(), top, hole("")), block - math.Pi*9*20},
		{"plain hole, blind with a drill point", append(base(), top, hole(`,"extent":{"kind":"one-side","length":"8"},
	"tipAngle":"118 deg"`)), block - math.Pi*9*8 - math.Pi*9*(3/math.Tan(59*math.Pi/180))/3},
		{"counterbored hole", append(base(), top, hole(`,"form":"counterbore","headDiameter":"11","headDepth":"4"`)),
			block - math.Pi*9*16 - math.Pi*5.5*5.5*4},
		{"countersunk hole", append(base(), top, hole(`,"form":"countersink","headDiameter":"12","headAngle":"90 deg"`)),
			block - math.Pi*9*17 - math.Pi*3*(36+18+9)/3},
		{"round on one edge", append(base(), `{"id":"f1","kind":"fillet","radius":"5","edges":[{"between":["e1/side:l0",
	"e1/side:l1"]}]}`), block - 20*25*(1-math.Pi/4)},
		{"bevel on one edge", append(base(), `{"id":"f1","kind":"chamfer","distance":"5","edges":[{"between":["e1/side:l0",
	"e1/side:l1"]}]}`), block - 20*12.5},
		{"bevel around a face", append(base(), `{"id":"f1","kind":"chamfer","distance":"2","edges":[{"around":"e1/end"}]}`),
			block - (2*(40+30)*2 - 4.0/3*4*2)},
		{"mirror of the whole", append(base(), `{"id":"m1","kind":"mirror","plane":{"datum":"YZ"}}`), 2 * block},
		{"mirror of a step", append(base(), top, hole(""), `{"id":"m1","kind":"mirror","of":["h1"],"plane":{"datum":"YZ",
	"offset":"20"}}`), block - 2*math.Pi*9*20},
		{"row of holes", append(base(), circles("s2", `{"face":"e1/end"}`, 5, 10, 2), `{"id":"h1","kind":"hole","sketch":"s2",
	"at":["m0"],"diameter":"4"}`, `{"id":"r1","kind":"linear-pattern","of":["h1"],"axis":{"datum":"X"},"count":"4",
	"spacing":"10"}`), block - 4*math.Pi*4*20},
		{"holes on a circle", []string{circles("s1", xy, 0, 0, 30), extrude("e1", "s1", oneSide("5"), ""),
			circles("s2", `{"face":"e1/end"}`, 20, 0, 3), `{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],"diameter":"6"}`,
			`{"id":"r1","kind":"circular-pattern","of":["h1"],"axis":{"face":"e1/side:c0"},"count":"5"}`},
			math.Pi*900*5 - 5*math.Pi*9*5},
		{"a pattern of a mirror", append(base(), circles("s2", `{"face":"e1/end"}`, 5, 5, 2), `{"id":"h1","kind":"hole",
	"sketch":"s2","at":["m0"],"diameter":"4"}`, `{"id":"m1","kind":"mirror","of":["h1"],"plane":{"datum":"XZ",
	"offset":"-15"}}`,
			`{"id":"r1","kind":"linear-pattern","of":["h1","m1"],"axis":{"datum":"X"},"count":"3","spacing":"10"}`),
			block - 6*math.Pi*4*20},
		{"revolved by a symmetric angle", []string{outline("s1", xz, 10, 0, 20, 0, 20, 5, 10, 5),
			revolve("r1", "s1", "y-axis", `,"extent":{"kind":"symmetric","total":"90 deg"}`)}, math.Pi * 300 * 5 / 4},
		{"a slot through both ways from the middle", append(base(), midLine, `{"id":"t1","kind":"slot","sketch":"s2",
	"at":["m"],"width":"6","extent":{"kind":"through","both":true}}`), block - (6*20+math.Pi*9)*20},
		{"a slot through one way from the middle", append(base(), midLine, `{"id":"t1","kind":"slot","sketch":"s2","at":["m"],
	"width":"6"}`), block - (6*20+math.Pi*9)*10},
		{"a slot with a total", append(base(), midLine, `{"id":"t1","kind":"slot","sketch":"s2","at":["m"],"width":"6",
	"extent":{"kind":"symmetric","total":"8"}}`), block - (6*20+math.Pi*9)*8},
		{"a hole through the first wall alone",
			[]string{outline("s1", xz, 0, 0, 40, 0, 40, 4, 4, 4, 4, 16, 40, 16, 40, 20, 0, 20),
				extrude("e1", "s1", `{"kind":"symmetric","total":"30"}`, ""), circles("s2", `{"datum":"XY","offset":"20"}`, 20, 0,
					3), hole(`,"extent":{"kind":"to-next"}`)}, 368*30 - math.Pi*9*4},
		{"a row the other way by a spacing below zero", append(base(), circles("s2", `{"face":"e1/end"}`, 35, 25, 2),
			`{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],"diameter":"4"}`, `{"id":"r1","kind":"linear-pattern",
	"of":["h1"],"axis":{"datum":"X"},"count":"4","spacing":"-10"}`), block - 4*math.Pi*4*20},
		{"rows with a sense each", append(base(), circles("s2", `{"face":"e1/end"}`, 5, 25, 2), `{"id":"h1","kind":"hole",
	"sketch":"s2","at":["m0"],"diameter":"4"}`, `{"id":"r1","kind":"linear-pattern","of":["h1"],"axis":{"datum":"X"},
	"count":"4","spacing":"10","axis2":{"datum":"Y"},"count2":"3","spacing2":"10","reverse2":true}`),
			block - 12*math.Pi*4*20},
		{"both halves of a ring, and one of them", []string{ringCut, `{"id":"e1","kind":"extrude","sketch":"s1",
	"regions":[["c0.left","c1.right","l.left"],["c0.left","c1.right","l.right"]],"extent":{"kind":"one-side",
	"length":"2"}}`,
			`{"id":"e2","kind":"extrude","sketch":"s1","regions":[["c0","c1","l.left"]],"extent":{"kind":"one-side",
	"length":"5"},"result":"new"}`}, math.Pi * (100 - 36) * (2 + 2.5)},
		{"chosen regions", []string{circles("s1", xy, 0, 0, 10, 0, 0, 6, 0, 0, 3), `{"id":"e1","kind":"extrude","sketch":"s1",
	"regions":[["c1"]],"extent":{"kind":"one-side","length":"2"}}`}, math.Pi * (36 - 9) * 2},
	}
	for _, c := range cases {
		b := build(t, model(t, "mm", "", c.steps...), nil)
		if v := props(t, b.Solid.Shape).Volume; !near(v, c.volume, 1e-9) {
			t.Errorf("%s: volume %.10g, want %.10g", c.name, v, c.volume)
		}
	}
}

func TestInchesAndMillimetresAgree(t *testing.T) {
	params := func(u string, f float64) string {
		return strings.NewReplacer("U", u).Replace(`{"name":"w","value":"` + quantity.FormatDecimal(2*f, 4) +
			` U"},{"name":"h","value":"w/4"}`)
	}
	steps := func(f float64) []string {
		return []string{constrained(outline("s", xy, 0, 0, f, 0, f, f, 0, f), `{"id":"k","kind":"coincident","of":["p0",
	"origin"]},{"id":"a","kind":"horizontal","of":["l0"]},{"id":"b","kind":"vertical","of":["l1"]},{"id":"c",
	"kind":"horizontal","of":["l2"]},{"id":"d","kind":"vertical","of":["l3"]},{"id":"e","kind":"length","of":["l0"],
	"value":"w"},{"id":"f","kind":"length","of":["l1"],"value":"h"}`), extrude("e", "s", oneSide("h"), "")}
	}
	in := props(t, build(t, model(t, "in", params("in", 1), steps(1)...), nil).Solid.Shape)
	mm := props(t, build(t, model(t, "mm", params("mm", 25.4), steps(25.4)...), nil).Solid.Shape)
	if !near(in.Volume, mm.Volume, 1e-12) || !near(in.Volume, 2*0.5*0.5*25.4*25.4*25.4, 1e-10) {
		t.Errorf("inch %g, millimetre %g", in.Volume, mm.Volume)
	}
}

// A failed step says which, why and what to do; what stands before and beside it
// still stands.
func TestFailedStepsExplainThemselves(t *testing.T) {
	top := circles("s2", `{"face":"e1/end"}`, 15, 10, 3)
	cases := []struct {
		name   string
		steps  []string
		failed string
		say    []string
	}{
		{"a round too large", append(base(), `{"id":"f1","kind":"fillet","name":"edge","radius":"35",
	"edges":[{"between":["e1/side:l0","e1/side:l1"]}]}`), "f1", []string{"(edge)", "35 mm does not fit",
			"on the edge between the front of extrude 1 and the right side of extrude 1",
			"largest that fits there is about 29.9"}},
		{"a face that is gone", append(base(), top, extrude("e2", "s2", oneSide("3"), ""),
			circles("s3", `{"face":"e9/end"}`, 0, 0, 2)), "s3", []string{"the end of e9 is not there any more",
			"pick another face"}},
		{"an open profile", []string{`{"id":"s1","kind":"sketch","plane":{"datum":"XY"},"entities":[{"id":"a","kind":"point",
	"at":[0,0]},{"id":"b","kind":"point","at":[9,0]},{"id":"l","kind":"line","from":"a","to":"b"}]}`, extrude("e1", "s1",
			oneSide("3"), "")}, "e1", []string{"encloses no region", "open ends"}},
		{"across the axis", []string{outline("s1", xz, -5, 0, 5, 0, 5, 5, -5, 5), revolve("r1", "s1", "y-axis", "")}, "r1",
			[]string{"both sides of the axis", "half of the section"}},
		{"nothing to cut", []string{circles("s1", xy, 0, 0, 3), extrude("e1", "s1", oneSide("3"), `,"result":"cut"`)}, "e1",
			[]string{"no solid yet"}},
		{"everything cut", append(base(), outline("s2", xy, -9, -9, 90, -9, 90, 90, -9, 90),
			extrude("e2", "s2", `{"kind":"through","both":true}`, `,"result":"cut"`)), "e2", []string{"nothing would be left"}},
		{"a negative size", append(base(), top, extrude("e2", "s2", oneSide("3 - 5"), "")), "e2",
			[]string{"length must be greater than zero"}},
		{"a unit clash", append(base(), top, extrude("e2", "s2", oneSide("3 deg"), "")), "e2", []string{"this is an angle"}},
		{"a head smaller than its hole", append(base(), top, `{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],
	"form":"counterbore","diameter":"6","headDiameter":"5","headDepth":"2"}`), "h1", []string{"not larger"}},
		{"a broken count", append(base(), top, `{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],"diameter":"6"}`,
			`{"id":"r1","kind":"linear-pattern","of":["h1"],"axis":{"datum":"X"},"count":"2.5","spacing":"8"}`), "r1",
			[]string{"whole number"}},
		{"conflicting sizes", []string{constrained(outline("s1", xy, 0, 0, 9, 0, 9, 9, 0, 9), `{"id":"a","kind":"length",
	"of":["l0"],"value":"9"},{"id":"b","kind":"distance","of":["p0","p1"],"value":"8"}`), extrude("e1", "s1", oneSide("3"),
			"")}, "s1", []string{"contradict", "the length of the lower line is 9"}},
	}
	for _, c := range cases {
		b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, model(t, "mm", "", c.steps...), nil)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		f := b.Failed()
		if len(f) == 0 || f[0].ID != c.failed {
			t.Errorf("%s: failed steps %v", c.name, f)
			continue
		}
		for _, s := range c.say {
			if !strings.Contains(f[0].Err.Error(), s) {
				t.Errorf("%s: %q does not say %q", c.name, f[0].Err, s)
			}
		}
		if strings.HasPrefix(c.steps[0], base()[0]) && b.Solid == nil {
			t.Errorf("%s: the block is gone as well", c.name)
		}
	}
	b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx,
		model(t, "mm", "", append(base(), circles("s2", `{"face":"e1/end"}`, 15, 10, 3),
			extrude("e2", "s2", oneSide("3"), `,"result":"cut","reverse":true`))...), nil)
	if err != nil || len(b.Failed()) > 0 || !strings.Contains(b.Steps[3].Warning, "removes nothing") {
		t.Errorf("a cut away from the material gives no warning: %v %+v", err, b.Steps)
	}
}

func TestNamesSurviveEdits(t *testing.T) {
	doc := func(more ...string) []string {
		return append([]string{
			constrained(outline("s1", xy, -20, -15, 20, -15, 20, 15, -20, 15), `{"id":"k1","kind":"symmetric","of":["p0","p2",
	"origin"]},{"id":"k2","kind":"horizontal","of":["l0"]},{"id":"k3","kind":"vertical","of":["l1"]},{"id":"k4",
	"kind":"horizontal","of":["l2"]},{"id":"k5","kind":"vertical","of":["l3"]},{"id":"d1","kind":"length","of":["l0"],
	"value":"w"},{"id":"d2","kind":"length","of":["l1"],"value":"30"}`),
			extrude("e1", "s1", oneSide("h"), "")}, more...)
	}
	// a groove that splits the top
	step := []string{outline("s2", `{"face":"e1/end"}`, -5, -15, 5, -15, 5, 15, -5, 15),
		extrude("e2", "s2", oneSide("6"), `,"result":"cut"`)}
	params := `{"name":"w","value":"40"},{"name":"h","value":"20 mm"}`
	params = strings.Replace(params, `"40"`, `"40 mm"`, 1)
	place := func(n *part.Named, name string) []solid.Vec {
		var out []solid.Vec
		for _, i := range n.Faces(name) {
			out = append(out, n.Shape.Faces()[i].Centroid)
		}
		return out
	}
	d := model(t, "mm", params, doc(step...)...)
	for _, w := range []float64{40, 24, 90} {
		b := build(t, d, map[string]quantity.Quantity{"w": {Value: w, Dim: quantity.Length}})
		if p := place(b.Solid, "e1/side:l1"); len(p) != 1 || math.Abs(p[0][0]-w/2) > 1e-9 {
			t.Errorf("w = %g: the right side is at %v", w, p)
		}
		if p := place(b.Solid, "e1/end"); len(p) != 2 || math.Abs(p[0][2]-20) > 1e-9 || math.Abs(p[1][2]-20) > 1e-9 {
			t.Errorf("w = %g: the split top is at %v", w, p)
		}
		if p := place(b.Solid, "e2/end"); len(p) != 1 || math.Abs(p[0][2]-14) > 1e-9 {
			t.Errorf("w = %g: the groove's floor is at %v", w, p)
		}
	}
	// The groove leaves two edges of one name; a choice by place keeps to its side
	// when the size changes.
	pick := `{"id":"f1","kind":"fillet","radius":"1","edges":[{"between":["e1/end","e1/side:l0"],"near":[0.9,0,1]}]}`
	for _, w := range []float64{40, 90} {
		b := build(t, model(t, "mm", params, append(doc(step...), pick)...),
			map[string]quantity.Quantity{"w": {Value: w, Dim: quantity.Length}})
		rounds := place(b.Solid, "f1/round(e1/end|e1/side:l0)")
		if len(rounds) != 1 || rounds[0][0] < 5 {
			t.Errorf("w = %g: the round is at %v", w, rounds)
		}
	}
	// Instances are numbered, and keep their numbers when the count changes.
	row := append(doc(), circles("s2", `{"face":"e1/end"}`, -15, 0, 1.5), `{"id":"h1","kind":"hole","sketch":"s2",
	"at":["m0"],"diameter":"3"}`, `{"id":"r1","kind":"linear-pattern","of":["h1"],"axis":{"datum":"X"},"count":"n",
	"spacing":"6"}`)
	d = model(t, "mm", params+`,{"name":"n","value":"3"}`, row...)
	for _, n := range []float64{3, 6} {
		b := build(t, d, map[string]quantity.Quantity{"n": {Value: n}})
		if p := place(b.Solid, "r1.3:h1.m0/bore"); len(p) != 1 || math.Abs(p[0][0]+3) > 1e-9 {
			t.Errorf("n = %g: the third hole is at %v", n, p)
		}
	}
	// A step put in before does not move a reference; a face that is gone is an error.
	late := append(doc(`{"id":"f0","kind":"fillet","radius":"2","edges":[{"between":["e1/side:l0","e1/side:l1"]}]}`),
		`{"id":"f1","kind":"chamfer","distance":"1","edges":[{"between":["e1/side:l2","e1/side:l3"]}]}`)
	b := build(t, model(t, "mm", params, late...), nil)
	if p := place(b.Solid, "f1/bevel(e1/side:l2|e1/side:l3)"); len(p) != 1 || p[0][0] > -19 || p[0][1] < 14 {
		t.Errorf("the bevel is at %v", p)
	}
	swallowed := append(doc(outline("s2", `{"face":"e1/end"}`, -30, -20, 30, -20, 30, 20, -30, 20),
		extrude("e2", "s2", oneSide("5"), `,"result":"cut"`)), circles("s3", `{"face":"e1/end"}`, 0, 0, 2))
	bad, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, model(t, "mm", params, swallowed...), nil)
	if err != nil || len(bad.Failed()) != 1 || !strings.Contains(bad.Failed()[0].Err.Error(),
		"the end of extrude 1 is not there any more") {
		t.Errorf("a swallowed face: %v %v", err, bad.Failed())
	}
}

// Rebuilding gives the same names and figures every time, from a warm cache or a
// cold one.
func TestRebuildIsDeterministic(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	warm := part.NewRebuilder(occ.Kernel{})
	other := map[string]quantity.Quantity{"width": {Value: 140, Dim: quantity.Length}}
	describe := func(r *part.Rebuilder, set map[string]quantity.Quantity) string {
		x, err := r.Rebuild(ctx, b.ref.Document, set)
		if err != nil {
			t.Fatal(err)
		}
		var out strings.Builder
		for i, f := range x.Solid.Shape.Faces() {
			out.WriteString(strings.Join(x.Solid.Names[i], "+") + quantity.FormatDecimal(f.Area, 9) + "\n")
		}
		return out.String()
	}
	first := describe(warm, nil)
	changed := describe(warm, other)
	if describe(warm, nil) != first || describe(part.NewRebuilder(occ.Kernel{}), nil) != first {
		t.Error("the same document gives another part")
	}
	if changed == first || describe(part.NewRebuilder(occ.Kernel{}), other) != changed {
		t.Error("a changed size gives the same part, or another from a cold cache")
	}
	for i, names := range build(t, b.ref.Document, nil).Solid.Names {
		if len(names) == 0 {
			t.Errorf("face %d has no name", i)
		}
	}
}
