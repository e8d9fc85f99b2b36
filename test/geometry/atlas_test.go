package geometry

import (
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

// seen is what a perfect matching sees of a rebuilt part: measured by names.
func seen(t *testing.T, b bundle, d *part.Document, set map[string]quantity.Quantity) (atlas.Seen, bool) {
	t.Helper()
	built, err := checker().Rebuilder.Rebuild(ctx, d, set)
	if err != nil {
		t.Fatal(err)
	}
	if built.Solid == nil || len(built.Failed()) > 0 {
		return atlas.Seen{}, false
	}
	g, err := solid.Describe(occ.Kernel{}, built.Solid.Shape, built.Solid.Names)
	if err != nil {
		t.Fatal(err)
	}
	return atlas.Seen{Figures: atlas.FiguresOf(g.Props, g.Solids, solid.Identity), Values: truth(t, b.Parsed, nil, built)},
		true
}

// said lists the causes of an explanation.
func said(e *atlas.Explanation) []string {
	var out []string
	for _, c := range e.Causes {
		if c.Entry != nil {
			out = append(out, c.Entry.What)
		} else {
			out = append(out, fmt.Sprintf("%s = %.4f", c.Size.Parameter, c.Value))
		}
	}
	slices.Sort(out)
	return out
}

// What is behind a part is found again: one wrong size or several, one mistake of the
// atlas or two that are in different steps, and a mistake beside a wrong size.
func TestAtlasFindsWhatIsBehind(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	for _, name := range []string{"bearing-bracket", "gland-flange"} {
		b := demoExercise(t, name)
		rb := part.NewRebuilder(occ.Kernel{})
		a, err := documents.ReadAtlas(b.Atlas, b.Parsed, b.ref.Document)
		if err != nil {
			t.Fatal(err)
		}
		doc, _, err := atlas.Expose(b.ref.Document)
		if err != nil {
			t.Fatal(err)
		}
		reference, err := solid.Describe(occ.Kernel{}, build(t, b.ref.Document, nil).Solid.Shape, nil)
		if err != nil {
			t.Fatal(err)
		}
		slips := slices.DeleteFunc(slices.Clone(a.Entries), func(e atlas.Entry) bool { return e.Parameter != "" })
		find := func(what string, need float64, trials int,
			make func() ([]part.Alteration, map[string]quantity.Quantity, []string)) {
			t.Helper()
			right, all := 0, 0
			for range trials {
				edits, set, want := make()
				d, err := doc.Altered(edits)
				if err != nil {
					t.Fatal(err, want)
				}
				s, ok := seen(t, b, d, set)
				if !ok {
					continue // there is no such part
				}
				e, err := a.Explain(ctx, rb, b.Parsed, b.ref.Document, s, atlas.NewBudget(reference))
				if err != nil {
					t.Fatal(err)
				}
				all++
				// What makes the same solid with as few causes is as good: half of a boss whose
				// other half lies in the wall, a size of a rib that is missing.
				if got := said(e); e.Complete && len(got) <= len(want) {
					right++
				} else {
					t.Logf("%s, %s: %s; found %s, complete %v", name, what, strings.Join(want, ", "),
						strings.Join(got, ", "), e.Complete)
				}
			}
			if all < trials/2 || float64(right) < need*float64(all) {
				t.Errorf("%s: %s named %d of %d times", name, what, right, all)
			}
		}
		wrong := func(set map[string]quantity.Quantity) string {
			for {
				s := a.Sizes[r.IntN(len(a.Sizes))]
				if _, dup := set[s.Parameter]; dup || s.Derived || len(s.Holds) > 0 {
					continue
				}
				v := s.Nominal * []float64{0.9, 0.95, 1.03, 1.08, 1.15}[r.IntN(5)]
				set[s.Parameter] = quantity.Quantity{Value: v, Dim: s.Dim}
				return fmt.Sprintf("%s = %.4f", s.Parameter, v)
			}
		}
		for n := 1; n <= 3; n++ {
			find(fmt.Sprint(n, " wrong sizes"), []float64{1, 0.85, 0.8}[n-1], 8,
				func() ([]part.Alteration, map[string]quantity.Quantity, []string) {
					set := map[string]quantity.Quantity{}
					var want []string
					for range n {
						want = append(want, wrong(set))
					}
					return nil, set, want
				})
		}
		// Two in steps of which neither stands on the other.
		find("two mistakes", 0.7, 8, func() ([]part.Alteration, map[string]quantity.Quantity, []string) {
			for {
				x, y := slips[r.IntN(len(slips))], slips[r.IntN(len(slips))]
				touches := func(x, y atlas.Entry) bool {
					return x.Step == y.Step || slices.ContainsFunc(x.Alterations, func(e part.Alteration) bool {
						return e.Step == y.Step
					})
				}
				if !touches(x, y) && !touches(y, x) {
					return slices.Concat(x.Alterations, y.Alterations), nil, []string{x.What, y.What}
				}
			}
		})
		find("a mistake beside a wrong size", 0.6, 8, func() ([]part.Alteration, map[string]quantity.Quantity, []string) {
			set := map[string]quantity.Quantity{}
			x := slips[r.IntN(len(slips))]
			return x.Alterations, set, []string{wrong(set), x.What}
		})
		// Every mistake by itself, from its own figures, whatever the pose.
		for _, e := range a.Entries {
			list := a.Lookup(e.Figures)
			if !slices.ContainsFunc(list, func(x *atlas.Entry) bool { return x.What == e.What }) {
				t.Errorf("%s: %q is not found by its own figures", name, e.What)
			}
		}
		if len(a.Lookup(a.Figures)) > 0 {
			t.Errorf("%s: the part as it should be is a mistake", name)
		}
	}
}

// The atlas that comes with an exercise is what is made from it now.
func TestAtlasIsCurrent(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	kept, err := documents.ReadAtlas(b.Atlas, b.Parsed, b.ref.Document)
	if err != nil {
		t.Fatal(err)
	}
	last := 0.0
	made, err := atlas.Build(ctx, part.NewRebuilder(occ.Kernel{}), b.Parsed, b.ref.Document, func(d float64) {
		if d < last {
			t.Errorf("progress goes back from %g to %g", last, d)
		}
		last = d
	})
	if err != nil {
		t.Fatal(err)
	}
	if len(made.Entries) != len(kept.Entries) || len(made.Sizes) != len(kept.Sizes) || made.Key != kept.Key || last != 1 {
		t.Fatalf("%d and %d entries, %d and %d sizes", len(made.Entries), len(kept.Entries), len(made.Sizes), len(kept.Sizes))
	}
	for i, e := range made.Entries {
		k := kept.Entries[i]
		if e.What != k.What || e.Figures.Solids != k.Figures.Solids || !near(e.Figures.Inner[0], k.Figures.Inner[0], 1e-9) {
			t.Errorf("%s: volume %g, kept %s, %g", e.What, e.Figures.Inner[0], k.What, k.Figures.Inner[0])
		}
	}
	other := *b.Parsed
	other.Characteristics = other.Characteristics[1:]
	if _, err := documents.ReadAtlas(b.Atlas, &other, b.ref.Document); err == nil {
		t.Error("the atlas is taken for another exercise")
	}
	c, stop := cancelled()
	defer stop()
	if _, err := atlas.Build(c, part.NewRebuilder(occ.Kernel{}), b.Parsed, b.ref.Document, func(float64) {}); err == nil {
		t.Error("a cancelled build ends without an error")
	}
}

// The figures of a solid do not depend on its pose, and its sums follow the pose that is
// laid back: the block's second moments are those of the handbook, V a²/12 about its
// middle and by the theorem of Steiner elsewhere.
func TestFigures(t *testing.T) {
	k := occ.Kernel{}
	shape := build(t, model(t, "mm", "", outline("s1", xy, 10, 20, 40, 20, 40, 60, 10, 60),
		extrude("e1", "s1", oneSide("24"), "")), nil).Solid.Shape
	p := props(t, shape)
	f := atlas.FiguresOf(p, 1, solid.Identity)
	v := 30.0 * 40 * 24
	for i, want := range []float64{v, 2 * (30*40 + 30*24 + 40*24), v * 25, v * 40, v * 12, v * (900.0/12 + 625),
		v * 25 * 40, v * 25 * 12, v * (1600.0/12 + 1600), v * 40 * 12, v * (576.0/12 + 144)} {
		if !near(f.Sums[i], want, 1e-9) {
			t.Errorf("sum %d is %g, not %g", i, f.Sums[i], want)
		}
	}
	pose := oddPose()
	moved, _, err := k.Transform(shape, pose)
	if err != nil {
		t.Fatal(err)
	}
	q := props(t, moved)
	back := solid.Transform{}
	for r := range 3 {
		for c := range 3 {
			back.M[r][c] = pose.M[c][r]
		}
	}
	back.T = back.Turn(pose.T).Scale(-1)
	g := atlas.FiguresOf(q, 1, back)
	for i := range f.Inner {
		if !near(g.Inner[i], f.Inner[i], 1e-9) {
			t.Errorf("figure %d is %g in another pose, not %g", i, g.Inner[i], f.Inner[i])
		}
	}
	for i := range f.Sums {
		if math.Abs(g.Sums[i]-f.Sums[i]) > 1e-7*v*1600 {
			t.Errorf("sum %d is %g after laying back, not %g", i, g.Sums[i], f.Sums[i])
		}
	}
}

// A pattern begun half a pitch off is the part with its features typed at those places:
// holes around with the chamfer of their rims, and pockets in a row. What the step makes
// is moved with all that the pattern repeats, and nothing else is.
func TestPatternsBegunHalfAPitchOff(t *testing.T) {
	plate := []string{outline("s1", xy, -40, -25, 40, -25, 40, 25, -40, 25), extrude("e1", "s1", oneSide("10"), "")}
	at := func(r, deg float64) (x, y float64) {
		s, c := math.Sincos(deg * math.Pi / 180)
		return r * c, r * s
	}
	top := `{"face":"e1/end"}`
	drilled := func(degrees ...float64) []string {
		var xyr []float64
		points, rims := []string{}, []string{}
		for i, d := range degrees {
			x, y := at(18, d)
			xyr = append(xyr, x, y, 1)
			points = append(points, fmt.Sprintf(`"m%d"`, i))
			rims = append(rims, between("e1/end", fmt.Sprintf("h1.m%d/bore", i)))
		}
		return append(slices.Clone(plate), circles("s2", top, xyr...), holeAt("h1", "s2", strings.Join(points, ","),
			`,"diameter":"6"`), `{"id":"c1","kind":"chamfer","edges":[`+strings.Join(rims, ",")+`],"distance":"1"}`)
	}
	pockets := func(xs ...float64) []string {
		out := slices.Clone(plate)
		for i, x := range xs {
			s := fmt.Sprintf("t%d", i)
			out = append(out, outline(s, top, x, -4, x+5, -4, x+5, 8, x, 8), cut("u"+s, s, oneSide("3"), ""))
		}
		return out
	}
	for _, c := range []struct {
		name        string
		right, want []string
	}{
		{"holes around, with their chamfers", append(drilled(0), `{"id":"p1","kind":"circular-pattern","name":"ring",
	"of":["h1","c1"],"axis":{"datum":"Z"},"count":"4"}`), drilled(45, 135, 225, 315)},
		{"over an angle", append(drilled(0), `{"id":"p1","kind":"circular-pattern","name":"ring","of":["h1","c1"],
	"axis":{"datum":"Z"},"count":"3","angle":"90 deg"}`), drilled(22.5, 67.5, 112.5)},
		{"pockets in a row", append(pockets(-30), `{"id":"p1","kind":"linear-pattern","name":"row","of":["ut0"],
	"axis":{"datum":"X"},"count":"4","spacing":"14"}`), pockets(-23, -9, 5, 19)},
	} {
		ref := model(t, "mm", "", c.right...)
		ex := &exercise.Exercise{Title: "Plate", Unit: "mm", Solids: 1}
		a, err := atlas.Build(ctx, part.NewRebuilder(occ.Kernel{}), ex, ref, func(float64) {})
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		meshed := func(d *part.Document, causes ...atlas.Cause) *inspect.Meshed {
			v, err := atlas.With(ctx, part.NewRebuilder(occ.Kernel{}), ex, d, causes)
			if err != nil || v == nil {
				t.Fatalf("%s: %v, %v", c.name, v, err)
			}
			m, err := inspect.MeshOf(occ.Kernel{}, v.Shape, v.Geometry)
			if err != nil {
				t.Fatal(err)
			}
			return m
		}
		want := meshed(model(t, "mm", "", c.want...))
		found := ""
		for _, e := range a.Lookup(atlas.FiguresOf(want.Props, 1, solid.Identity)) {
			found += e.What + ";"
		}
		for i := range a.Elsewhere {
			s := meshed(ref, atlas.Cause{Entry: &a.Elsewhere[i]})
			if len(s.Strays(want, solid.Identity, atlas.InPlace)) == 0 && len(want.Strays(s, solid.Identity, atlas.InPlace)) ==
				0 {
				found += a.Elsewhere[i].What + ";"
			}
		}
		if !strings.Contains(found, "begins half a pitch off") {
			t.Errorf("%s: found %q", c.name, found)
		}
	}
	// The motion belongs to the atlas: a document that is handed in cannot have one.
	text := `{"hammerset":"model/1","name":"x","unit":"mm","parameters":[],"steps":[` + strings.Join(plate[:1], "") +
		`,{"id":"e1","kind":"extrude","sketch":"s1","extent":{"kind":"one-side","length":"4"},"moved":{"M":[[1,0,0],[0,1,0],
	[0,0,1]],"T":[1,0,0]}}]}`
	if _, err := documents.ReadModel([]byte(text)); err == nil || !strings.Contains(err.Error(), "moved") {
		t.Errorf("a document with a motion: %v", err)
	}
}

// Four holes around in a plate: begun half a pitch off they change neither a figure of the
// whole nor a dimension of the sheet. The check says so all the same, and what is behind it
// where the atlas has it.
func TestAllInAndYetAnotherShape(t *testing.T) {
	made := func(turn float64, thick string, corner ...float64) *part.Document {
		s, c := math.Sincos(turn * math.Pi / 180)
		round := append([]float64{-40, -25, 40, -25, 40, 25, -40, 25}, corner...)
		return model(t, "mm", "", outline("s1", xy, round...), extrude("e1", "s1", oneSide(thick), ""),
			circles("s2", `{"face":"e1/end"}`, 18*c, 18*s, 1), holeAt("h1", "s2", `"m0"`, `,"diameter":"6"`),
			`{"id":"p1","kind":"circular-pattern","name":"ring","of":["h1"],"axis":{"datum":"Z"},"count":"4"}`,
			outline("s3", xz, 34, 0, 40, 0, 40, 16, 34, 16), extrude("e3", "s3", `{"kind":"symmetric","total":"50"}`, ""))
	}
	ref := check.Reference{Document: made(0, "10")}
	k := func(id, kind string, balloon int, of ...string) exercise.Characteristic {
		return exercise.Characteristic{ID: id, Kind: kind, Label: id, Balloon: balloon,
			Of: [][]address.Ref{address.List(of...)}}
	}
	ex := &exercise.Exercise{Hammerset: exercise.Version, Title: "Ring", Unit: "mm", Solids: 1,
		Rubric: exercise.Rubric{Characteristics: 10, WholePart: 5},
		Characteristics: []exercise.Characteristic{k("long", "distance", 1, "e1/side:l1", "e1/side:l3"),
			k("wide", "distance", 2, "e1/side:l0", "e1/side:l2"), k("thick", "distance", 5, "e1/start", "e1/end"),
			k("hole", "diameter", 3, "*h1.m0/bore"), k("count", "count", 4, "*h1.m0/bore")}}
	var err error
	if ref.Atlas, err = atlas.Build(ctx, part.NewRebuilder(occ.Kernel{}), ex, ref.Document, func(float64) {}); err != nil {
		t.Fatal(err)
	}
	turned := solid.Rotation(solid.Vec{}, solid.Vec{1, 2, 3}, 0.6).Then(solid.Translation(solid.Vec{31, -7, 12}))
	for _, c := range []struct {
		name, out, finding, figure string
		att                        *part.Document
	}{
		{"right", "", "", "", made(0, "10")},
		{"the ring begun elsewhere by a whole pitch", "", "", "", made(90, "10")},
		{"half a pitch", "", "ring begins half a pitch off", "4 of", made(45, "10")},
		{"a third", "", "every dimension agrees", "4 of", made(30, "10")},
		{"too thick", "thick out", "states 10, the model measures 12", "", made(0, "12")},
		{"half a pitch, and too thick", "thick out", "ring begins half a pitch off", "", made(45, "12")},
		{"a third, and too thick", "thick out", "does not explain all", "", made(30, "12")},
		{"another outline", "", "yet the part is another one: in the place of", "", made(0, "10", -40, 0, -34, -5)},
	} {
		r := run(t, ex, ref, stepAttempt(t, c.att, turned, 1))
		figure := ""
		for _, f := range r.Whole {
			if f.ID == "places" {
				figure = f.Text
			}
		}
		said := ""
		for _, f := range r.Findings {
			said += f.What + "; "
		}
		if wrong(r) != c.out || (figure == "") != (c.figure == "") || !strings.HasPrefix(figure, c.figure) ||
			!strings.Contains(said, c.finding) {
			t.Errorf("%s: %s; %q, said %q", c.name, wrong(r), figure, said)
		}
	}
}

// Sizes that were read wrongly off the sheet are in the atlas by what they measure then, and are told with
// what was read: the neighbour's value, a length from the wrong face, from the other end or the
// wrong side of a wall, a rounded fraction, twice a size.
func TestSizesReadWronglyOffTheSheet(t *testing.T) {
	right := map[string]string{"h": "5/8 in", "b": "3/16 in", "pw": "3/4 in", "pd": "1/4 in", "hd": "1/2 in",
		"hole": "5/16 in"}
	made := func(name, value string) *part.Document {
		var params []string
		for _, n := range slices.Sorted(maps.Keys(right)) {
			v := right[n]
			if n == name {
				v = value
			}
			params = append(params, fmt.Sprintf(`{"name":%q,"value":%q}`, n, v))
		}
		top := `{"face":"e1/end"}`
		pocket := constrained(outline("s3", top, 0, 0, 0.75, 0, 0.75, 1, 0, 1), `{"id":"a","kind":"coincident","of":["p0",
	"origin"]},{"id":"b","kind":"horizontal","of":["l0"]},{"id":"c","kind":"vertical","of":["l1"]},{"id":"d",
	"kind":"horizontal","of":["l2"]},{"id":"e","kind":"vertical","of":["l3"]},{"id":"f","kind":"length","of":["l0"],
	"value":"pw"},{"id":"g","kind":"length","of":["l1"],"value":"1 in"}`)
		return model(t, "in", strings.Join(params, ","), outline("s1", xy, -0.125, -0.25, 3, -0.25, 3, 2, -0.125, 2),
			extrude("e1", "s1", oneSide("h"), ""),
			circles("s2", top, 2, 1, 0.5), extrude("e2", "s2", oneSide("b"), ""), pocket, cut("u3", "s3", oneSide("pd"), ""),
			circles("s4", `{"face":"e2/end"}`, 2, 1, 0.1),
			holeAt("h1", "s4", `"m0"`, `,"diameter":"hole","extent":{"kind":"one-side","length":"hd"}`))
	}
	c := func(balloon int, id, kind, parameter string, of ...string) exercise.Characteristic {
		return exercise.Characteristic{ID: id, Kind: kind, Label: id, Balloon: balloon, Parameter: parameter,
			Of: [][]address.Ref{address.List(of...)}}
	}
	ex := &exercise.Exercise{Hammerset: exercise.Version, Title: "Seat", Unit: "in", Solids: 1,
		Rubric: exercise.Rubric{Characteristics: 10, WholePart: 5}, Characteristics: []exercise.Characteristic{
			c(1, "thick", "distance", "h", "e1/start", "e1/end"), c(2, "boss", "distance", "b", "e1/end", "e2/end"),
			c(3, "pocket", "distance", "pw", "u3/side:l1", "u3/side:l3"),
			c(4, "wall", "wall", "", "e1/side:l3", "u3/side:l3"), c(5, "deep", "distance", "pd", "e1/end", "u3/end"),
			c(6, "hole", "diameter", "hole", "h1.m0/bore"), c(7, "bore", "depth", "hd", "e2/end", "h1.m0/bore")}}
	ref := check.Reference{Document: made("", "")}
	var err error
	if ref.Atlas, err = atlas.Build(ctx, part.NewRebuilder(occ.Kernel{}), ex, ref.Document, func(float64) {}); err != nil {
		t.Fatal(err)
	}
	for _, x := range []struct{ parameter, value, kind, at, said string }{
		{"b", "3/4 in", "neighbour", "boss", "neighbouring dimension (balloon 3, 3/4)"},
		{"hd", "1/2 in + 3/16 in", "wrong-face", "bore", "off by exactly the size at balloon 2 (3/16)"},
		{"pd", "3/8 in", "wrong-face", "deep",
			"from the other end: with the sheet's 1/4 it makes up the size at balloon 1 (5/8)"},
		{"pw", "7/8 in", "wall", "pocket", "wrong side of the wall: it is off by exactly the size at balloon 4 (1/8)"},
		{"hole", "0.31 in", "rounded", "hole", "a rounded decimal"},
		{"h", "1 1/4 in", "double", "thick", "total was given on each side"},
	} {
		r := run(t, ex, ref, stepAttempt(t, made(x.parameter, x.value), solid.Rotation(solid.Vec{}, solid.Vec{1, 2, 3},
			37*math.Pi/180), 1))
		if len(r.Causes) != 1 || r.Causes[0].Kind != x.kind || r.Causes[0].Characteristic != x.at || !r.Explained {
			t.Errorf("%s = %s: causes %+v", x.parameter, x.value, r.Causes)
		}
		if !slices.ContainsFunc(r.Findings, func(f report.Finding) bool {
			return f.Characteristic == x.at && strings.Contains(f.Cause, x.said)
		}) {
			t.Errorf("%s = %s: said %+v", x.parameter, x.value, r.Findings)
		}
	}
}

// Sizes at twice what they should be move faces so far that they are taken for others: the bracket with
// two of them and a third that is a little off is matched again by references that fit
// better, and then every other size is in.
func TestSizesFarOffAreMatchedAgain(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	var err error
	if b.ref.Atlas, err = documents.ReadAtlas(b.Atlas, b.Parsed, b.ref.Document); err != nil {
		t.Fatal(err)
	}
	att := edited(t, b, `"height", "value": "64 mm"`, `"height", "value": "128 mm"`, `"depth", "value": "70 mm"`,
		`"depth", "value": "140 mm"`, `"web", "value": "10 mm"`, `"web", "value": "11 mm"`)
	r := run(t, b.Parsed, b.ref, stepAttempt(t, att.Document, solid.Rotation(solid.Vec{}, solid.Vec{1, 2, 3},
		37*math.Pi/180), 1))
	var named []string
	for _, c := range r.Causes {
		named = append(named, c.Parameter)
	}
	slices.Sort(named)
	if !r.Explained || !slices.Equal(named, []string{"depth", "height", "web"}) ||
		wrong(r) != "depth out, height out, web out" {
		t.Errorf("explained %v by %v; %s", r.Explained, named, wrong(r))
	}
}
