package geometry

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"testing"

	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/shapes"
	"hammerset/core/check"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
	"hammerset/test/samples"
)

// placed gives the whole motion of every leaf of a file, from its part to the file's coordinates.
func placed(c *solid.Content) (at []solid.Transform, part []int) {
	all := make([]solid.Transform, len(c.Tree))
	for i, x := range c.Tree {
		all[i] = x.Place
		if x.Parent >= 0 {
			all[i] = x.Place.Then(all[x.Parent])
		}
		if x.Part >= 0 {
			at, part = append(at, all[i]), append(part, x.Part)
		}
	}
	return at, part
}

// The bracket assembly that has gone round between programs since the first STEP trials
// (as1-tu-203, in Debian's gmsh-doc): a plate, two angles with three bolts and nuts each, and a rod
// with two nuts. Its parts are shared, and where they are placed they make the whole.
func TestFileOfAnAssemblyIsATree(t *testing.T) {
	data := samples.Unzip(t, samples.AS1)
	k := occ.Kernel{}
	c, err := k.ReadSTEP(ctx, data)
	if err != nil {
		t.Fatal(err)
	}
	if len(c.Parts) != 5 || c.Solids != 18 || c.Unit != 1 {
		t.Errorf("%d parts, %d solids, unit %g mm", len(c.Parts), c.Solids, c.Unit)
	}
	at, part := placed(c)
	if len(at) != 18 {
		t.Errorf("%d leaves", len(at))
	}
	volume, moment := 0.0, solid.Vec{}
	for i, p := range part {
		x := props(t, c.Parts[p].Shape)
		volume += x.Volume
		moment = moment.Add(at[i].Apply(x.Centroid).Scale(x.Volume))
	}
	whole := props(t, c.Shape)
	if !near(volume, whole.Volume, 1e-9) || moment.Scale(1/volume).Distance(whole.Centroid) > 1e-6 {
		t.Errorf("the parts where they are placed have volume %g about %v, the whole %g about %v", volume,
			moment.Scale(1/volume), whole.Volume, whole.Centroid)
	}
	for _, p := range c.Parts { // as the program that wrote it has measured, on faceted round faces
		if m := props(t, p.Shape); !near(m.Volume, p.Volume, 5e-4) || !near(m.Area, p.Area, 5e-4) {
			t.Errorf("%s: volume %g and area %g, and the file states %g and %g", p.Name, m.Volume, m.Area, p.Volume, p.Area)
		}
	}
	times := map[string]int{}
	for _, n := range c.Tree {
		if n.Part >= 0 {
			times[strings.ToLower(n.Name)]++
		}
	}
	for name, want := range map[string]int{"plate": 1, "l-bracket": 2, "bolt": 6, "nut": 8, "rod": 1} {
		if times[name] != want {
			t.Errorf("%d of %s, not %d: %v", times[name], name, want, times)
		}
	}
}

// products makes the products of a file out of its tree: those of one name are one, with what they are made of.
func products(c *solid.Content) []solid.Product {
	var out []solid.Product
	at := map[string]int{}
	var made func(node int) int
	children := func(node int) (list []int) {
		for i, n := range c.Tree {
			if n.Parent == node {
				list = append(list, i)
			}
		}
		return list
	}
	made = func(node int) int {
		n := c.Tree[node]
		if i, have := at[n.Name]; have {
			return i
		}
		i := len(out)
		at[n.Name] = i
		out = append(out, solid.Product{Name: n.Name})
		if n.Part >= 0 {
			p := c.Parts[n.Part]
			out[i].Shape, out[i].Colour, out[i].Volume, out[i].Area = p.Shape, p.Colour, p.Volume, p.Area
		}
		for _, k := range children(node) {
			j := made(k)
			out[i].Uses = append(out[i].Uses, solid.Use{Product: j, Name: c.Tree[k].Occurrence, Place: c.Tree[k].Place})
		}
		return i
	}
	for _, root := range children(-1) {
		made(root)
	}
	return out
}

// What we write of it is the same assembly in both schemas: its levels and usages with their names, its five parts once
// each with colour and what they are stated to measure, and everything where it was.
func TestAssembliesAreWrittenWithTheirStructure(t *testing.T) {
	k := occ.Kernel{}
	before, err := k.ReadSTEP(ctx, samples.Unzip(t, samples.AS1))
	if err != nil {
		t.Fatal(err)
	}
	list := products(before)
	for i := range list { // what no file of the public set has
		if list[i].Shape != nil {
			list[i].Colour = &[3]float64{0.2, 0.1 * float64(i), 0.7}
		}
		for k := range list[i].Uses {
			list[i].Uses[k].Name = fmt.Sprintf("use %d of %s", k+1, list[i].Name)
		}
	}
	uses := 0
	for _, p := range list {
		uses += len(p.Uses)
	}
	if len(list) != 5+4 || uses != 13 { // as its documentation says: 5 parts, 4 assemblies, 13 usages
		t.Fatalf("%d products with %d usages", len(list), uses)
	}
	for _, schema := range []solid.Schema{solid.AP214, solid.AP242} {
		data, err := k.WriteAssembly(list, "as1", schema)
		if err != nil {
			t.Fatal(err)
		}
		after, err := k.ReadSTEP(ctx, data)
		if err != nil {
			t.Fatal(err)
		}
		if len(after.Parts) != 5 || after.Solids != 18 || after.Colours != 5 || len(after.Tree) != len(before.Tree) {
			t.Fatalf("%d parts, %d solids, %d colours, %d nodes", len(after.Parts), after.Solids, after.Colours, len(after.Tree))
		}
		for i, n := range after.Tree {
			if b := before.Tree[i]; n.Name != b.Name || n.Parent != b.Parent || n.Parent >= 0 &&
				!strings.HasSuffix(n.Occurrence, " of "+after.Tree[n.Parent].Name) {
				t.Errorf("node %d is %+v and was %+v", i, n, b)
			}
		}
		was, _ := placed(before)
		is, of := placed(after)
		for i := range is {
			for k := range 3 {
				if is[i].M[k].Distance(was[i].M[k]) > 1e-9 || math.Abs(is[i].T[k]-was[i].T[k]) > 1e-9*200 {
					t.Errorf("solid %d is at %v and was at %v", i, is[i], was[i])
				}
			}
			p := after.Parts[of[i]]
			if m := props(t, p.Shape); p.Colour == nil || !near(m.Volume, p.Volume, 5e-4) || !near(m.Area, p.Area, 5e-4) {
				t.Errorf("%s: volume %g and area %g, stated %g and %g, colour %v", p.Name, m.Volume, m.Area, p.Volume, p.Area,
					p.Colour)
			}
		}
		for i, p := range after.Parts {
			a, b := props(t, p.Shape), props(t, before.Parts[i].Shape)
			if !near(a.Volume, b.Volume, 1e-6) || !near(a.Area, b.Area, 1e-6) || a.Centroid.Distance(b.Centroid) > 1e-6*200 {
				t.Errorf("%s measures %g and measured %g", p.Name, a.Volume, b.Volume)
			}
		}
	}
	// Two copies in one place stay two.
	twice := []solid.Product{{Name: "both", Uses: []solid.Use{{Product: 1, Name: "one", Place: solid.Identity},
		{Product: 1, Name: "two", Place: solid.Identity}}}, {Name: "rod", Shape: before.Parts[0].Shape}}
	data, err := k.WriteAssembly(twice, "twice", solid.AP242)
	if err != nil {
		t.Fatal(err)
	}
	if c, err := k.ReadSTEP(ctx, data); err != nil || c.Components != 2 || c.Tree[1].Occurrence != "one" ||
		c.Tree[2].Occurrence != "two" {
		t.Errorf("two copies in one place: %v, %+v", err, c)
	}
}

// makeAll makes the parts of an assembly of their files, those of nested assemblies too.
func makeAll(t *testing.T, maker *shapes.Maker, doc *assembly.Document,
	files map[string][]byte) map[string]*shapes.Made {
	t.Helper()
	out := map[string]*shapes.Made{}
	for _, p := range doc.Parts {
		var err error
		if strings.HasSuffix(p.File, ".zip") {
			var b *documents.Assembled
			if b, err = documents.ReadAssembledZip(files[p.File]); err == nil {
				out[p.ID], err = shapes.Nested(b.Document, makeAll(t, maker, b.Document, b.Files))
			}
		} else {
			out[p.ID], err = maker.STEP(ctx, files[p.File], p.Solid)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	return out
}

// makeFlat is the assembly laid flat, with all its parts.
func makeFlat(t *testing.T, maker *shapes.Maker, doc *assembly.Document, files map[string][]byte) (*assembly.Document,
	map[string]*shapes.Made) {
	t.Helper()
	flat, made, err := shapes.Flat(doc, makeAll(t, maker, doc, files))
	if err != nil {
		t.Fatal(err)
	}
	return flat, made
}

// The same file becomes an assembly as it is nested there: an angle with its bolts and nuts is one part that is placed
// twice, and has a bolt with its nut three times. Its eighteen solids stand where they stood, of five files, free of
// one another but for what touches.
func TestAssemblyFromSTEP(t *testing.T) {
	data := samples.Unzip(t, samples.AS1)
	k := occ.Kernel{}
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(k)}
	doc, files, err := maker.Assembly(ctx, data, "as1", nil, documents.PackAssembly)
	if err != nil {
		t.Fatal(err)
	}
	if len(doc.Parts) != 3 || len(files) != 3 || len(doc.Components) != 4 || !doc.Components[0].Pinned {
		t.Fatalf("%d parts, %d files, %d components", len(doc.Parts), len(files), len(doc.Components))
	}
	flat, made := makeFlat(t, maker, doc, files)
	content := map[string]bool{}
	for _, p := range flat.Parts {
		content[p.SHA256] = true
		if p.Colour == "" {
			t.Errorf("%s has lost its colour", p.Name)
		}
	}
	if len(content) != 5 || len(flat.Components) != 18 {
		t.Fatalf("%d files of solids, %d solids", len(content), len(flat.Components))
	}
	file, err := k.ReadSTEP(ctx, data)
	if err != nil {
		t.Fatal(err)
	}
	whole, volume, moment := props(t, file.Shape), 0.0, solid.Vec{}
	var list []clash.Placed
	for _, c := range flat.Components {
		x := made[c.Part]
		volume += x.Shape.Props.Volume
		moment = moment.Add(c.Pose.Apply(x.Shape.Props.Centroid).Scale(x.Shape.Props.Volume))
		list = append(list, clash.Placed{ID: c.ID, Title: c.Title(), Pose: c.Pose, Shape: x.Shape, Solid: x.Solid})
	}
	if !near(volume, whole.Volume, 1e-9) || moment.Scale(1/volume).Distance(whole.Centroid) > 1e-6 {
		t.Errorf("put together it has volume %g about %v, the file %g about %v", volume, moment.Scale(1/volume),
			whole.Volume, whole.Centroid)
	}
	l := &clash.Looker{Kernel: k}
	pairs, err := l.All(ctx, list[5:11], func(float64) {}) // an angle with two of its bolts and nuts, and the plate
	if err != nil {
		t.Fatal(err)
	}
	kinds := map[string]int{}
	for _, p := range pairs {
		kinds[p.Kind]++
	}
	if kinds[clash.Ask] > 0 || kinds[clash.Contact] < 4 || l.Booleans > 6*5/2*3/4 {
		t.Errorf("%v after %d booleans", kinds, l.Booleans)
	}
}

// A flat file of several solids: equal ones are one part, wherever and however they lie; a mirror image is none of
// them, and neither is one that is called otherwise. What is placed mirrored is a part of its own, and so is what an
// assembly that is placed mirrored is made of.
func TestEqualSolidsAreOnePart(t *testing.T) {
	k := occ.Kernel{}
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(k)}
	corner := wedge(t, k)
	turned := solid.Rotation(solid.Vec{3, 1, 2}, solid.Vec{1, 2, 0.5}, 37*math.Pi/180).Then(solid.Translation(
		solid.Vec{80, -20, 5}))
	mirrored := solid.Transform{M: [3]solid.Vec{{-1, 0, 0}, {0, 1, 0}, {0, 0, 1}}, T: solid.Vec{-40, 0, 0}}
	placed := func(s solid.Shape, at solid.Transform) solid.Shape {
		out, _, err := k.Transform(s, at)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	flat, err := k.WriteSTEP([]solid.Titled{{Shape: corner, Name: "wedge"}, {Shape: placed(corner, turned),
		Name: "wedge 2"},
		{Shape: placed(corner, mirrored), Name: "Wedge_3"}, {Shape: placed(corner, solid.Translation(solid.Vec{0, 0, 200})),
			Name: "wedge (4)"}, {Shape: placed(corner, solid.Translation(solid.Vec{0, 0, 400})), Name: "spacer"}}, "flat",
		solid.AP242)
	if err != nil {
		t.Fatal(err)
	}
	doc, files, err := maker.Assembly(ctx, flat, "flat", nil, documents.PackAssembly)
	if err != nil || len(doc.Components) != 5 || len(doc.Parts) != 3 ||
		doc.Components[4].Name != "spacer" {
		t.Fatalf("%v: %d components of %d parts", err, len(doc.Components), len(doc.Parts))
	}
	laid, made := makeFlat(t, maker, doc, files)
	for i, at := range []solid.Transform{solid.Identity, turned, mirrored, solid.Translation(solid.Vec{0, 0, 200})} {
		c := laid.Components[i]
		want := props(t, placed(corner, at)).Centroid
		if got := c.Pose.Apply(made[c.Part].Shape.Props.Centroid); got.Distance(want) > 1e-6 {
			t.Errorf("%s is about %v, not %v", c.Title(), got, want)
		}
	}

	nested, err := k.WriteAssembly([]solid.Product{{Name: "whole", Uses: []solid.Use{{Product: 1, Name: "left",
		Place: solid.Identity}, {Product: 1, Name: "right", Place: turned}}},
		{Name: "pair", Uses: []solid.Use{{Product: 2, Name: "one", Place: solid.Identity}, {Product: 2, Name: "two",
			Place: solid.Translation(solid.Vec{0, 0, 60})}}}, {Name: "wedge", Shape: corner}}, "whole", solid.AP214)
	if err != nil {
		t.Fatal(err)
	}
	if doc, _, err = maker.Assembly(ctx, nested, "whole", nil, documents.PackAssembly); err != nil ||
		len(doc.Parts) != 1 ||
		len(doc.Components) != 2 || doc.Components[1].Pose.Angle() < 0.6 {
		t.Errorf("%v: %+v", err, doc)
	}
}

// A STEP file names other files for what its products are (external references, as the recommended practices for ISO
// 10303-214 write them): they are found in the zip that they came in and nowhere else, a part as well as an assembly;
// what did not come is named, and the rest stands. Files that name one another in a circle are refused.
func TestFilesThatNameOtherFiles(t *testing.T) {
	k := occ.Kernel{}
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(k)}
	written := func(list ...solid.Product) []byte {
		data, err := k.WriteAssembly(list, list[0].Name, solid.AP214)
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	// elsewhere says of a product of a file that it is in another one: its own shape only stands for it.
	elsewhere := func(data []byte, product, file string, first int) []byte {
		text := string(data)
		formation := regexp.MustCompile(`(#\d+)=PRODUCT_DEFINITION_FORMATION\('[^']*','[^']*',(#\d+)\)`)
		compact := regexp.MustCompile(`\s+`).ReplaceAllString(text, "")
		id := regexp.MustCompile(`(#\d+)=PRODUCT\('` + product + `'`).FindStringSubmatch(compact)
		if id == nil {
			t.Fatalf("no product %s in %s", product, compact)
		}
		for _, f := range formation.FindAllStringSubmatch(compact, -1) {
			if f[2] != id[1] {
				continue
			}
			of := regexp.MustCompile(`(#\d+)=PRODUCT_DEFINITION\('[^']*','[^']*',` + f[1] + `,`)
			definition := of.FindStringSubmatch(compact)
			if definition == nil {
				t.Fatal("no definition of the product")
			}
			more := fmt.Sprintf("#%d=DOCUMENT_TYPE('geometry');#%d=DOCUMENT_FILE('%s','','',#%d,'',$);"+
				"#%d=APPLIED_DOCUMENT_REFERENCE(#%d,'',(%s));", first, first+1, file, first, first+2, first+1, definition[1])
			at := strings.LastIndex(text, "ENDSEC;")
			return []byte(text[:at] + more + text[at:])
		}
		t.Fatal("no formation of the product")
		return nil
	}
	ball, corner := bench{t: t}.ball(6), wedge(t, k)
	far, turned := solid.Translation(solid.Vec{100, 0, 0}), solid.Rotation(solid.Vec{}, solid.Vec{1, 1, 0}, 0.9)
	screw := written(solid.Product{Name: "screw", Uses: []solid.Use{{Product: 1, Name: "a", Place: far}}},
		solid.Product{Name: "shank", Shape: corner})
	wedged, err := k.WriteSTEP([]solid.Titled{{Shape: corner, Name: "wedge"}}, "wedge", solid.AP214)
	if err != nil {
		t.Fatal(err)
	}
	stand := []solid.Product{{Name: "stand", Uses: []solid.Use{{Product: 1, Name: "one", Place: turned}, {Product: 2,
		Name: "two", Place: far}, {Product: 3, Name: "three", Place: solid.Identity}}}, {Name: "alpha", Shape: ball},
		{Name: "beta", Shape: bench{t: t}.ball(7)}, {Name: "gamma", Shape: bench{t: t}.ball(8)}}
	master := elsewhere(elsewhere(elsewhere(written(stand...), "alpha", "Parts/WEDGE.stp", 90000), "beta", "screw.stp",
		90010),
		"gamma", "lost.stp", 90020)
	doc, files, err := maker.Assembly(ctx, master, "stand", map[string][]byte{"x/wedge.stp": wedged, "x/screw.stp": screw},
		documents.PackAssembly)
	if err != nil {
		t.Fatal(err)
	}
	flat, made := makeFlat(t, maker, doc, files)
	if len(flat.Components) != 2 || !strings.Contains(doc.Note, "did not come along: lost.stp") {
		t.Fatalf("%d components; it says %q", len(flat.Components), doc.Note)
	}
	for i, at := range []solid.Transform{turned, far.Then(far)} {
		c := flat.Components[i]
		want := at.Apply(props(t, corner).Centroid)
		if got := c.Pose.Apply(made[c.Part].Shape.Props.Centroid); got.Distance(want) > 1e-9 {
			t.Errorf("%s is about %v, not %v", c.Title(), got, want)
		}
	}
	circle := elsewhere(screw, "shank", "screw.stp", 90000)
	if _, _, err := maker.Assembly(ctx, master, "stand", map[string][]byte{"wedge.stp": wedged, "screw.stp": circle},
		documents.PackAssembly); err == nil || !strings.Contains(err.Error(), "is in itself") {
		t.Errorf("a circle: %v", err)
	}
}

// wedge is a solid without any symmetry.
func wedge(t *testing.T, k occ.Kernel) solid.Shape {
	t.Helper()
	corners := [][2]float64{{0, 0}, {30, 0}, {22, 14}, {4, 19}}
	var rim []solid.Segment
	for i, c := range corners {
		rim = append(rim, solid.Segment{Kind: "line", A: c, B: corners[(i+1)%4], Forward: true})
	}
	s, _, err := k.Prism(solid.Profile{Frame: solid.World, Loops: [][]solid.Segment{rim}}, solid.Vec{3, 5, 11})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// Names, units, colours and what a file says that its part measures are read from its entities,
// however the text is laid out; a comment that looks like an entity is none.
func TestWhatAFileSaysBesideItsGeometry(t *testing.T) {
	k := occ.Kernel{}
	text := string(stepAttempt(t, slab(t, "12"), solid.Identity, 1).STEP)
	text = strings.Replace(text, "DATA;", "DATA;\n/* #9=PRODUCT('x','no product','',(#1)); COLOUR_RGB('',0.9,0.9,0.9) */",
		1)
	c, err := k.ReadSTEP(ctx, []byte(text))
	if err != nil {
		t.Fatal(err)
	}
	if !slices.Equal(c.Names, []string{"attempt"}) || c.Colours != 0 || c.Unit != 1 || c.Uncertainty <= 0 ||
		!strings.HasPrefix(c.Schema, "AUTOMOTIVE_DESIGN") || len(c.Tree) != 1 || len(c.Parts) != 1 {
		t.Errorf("it says %+v", c)
	}
	definition, context, brep := entity(t, text, "PRODUCT_DEFINITION_SHAPE("),
		entity(t, text, "( GEOMETRIC_REPRESENTATION_CONTEXT"), entity(t, text, "MANIFOLD_SOLID_BREP")
	whole := props(t, c.Shape)
	more := fmt.Sprintf(`#90001=PROPERTY_DEFINITION('geometric validation property','volume',%s);
#90002=REPRESENTATION('volume',(#90003),%s);
#90003=MEASURE_REPRESENTATION_ITEM('volume measure',VOLUME_MEASURE(VOLUME),#90005);
#90004=PROPERTY_DEFINITION_REPRESENTATION(#90001,#90002);
#90005=DERIVED_UNIT((#90006));
#90006=DERIVED_UNIT_ELEMENT(#90007,3.);
#90007=(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.));
#90010=STYLED_ITEM('',(#90011),%s);
#90011=PRESENTATION_STYLE_ASSIGNMENT((#90012));
#90012=SURFACE_STYLE_USAGE(.BOTH.,#90013);
#90013=SURFACE_SIDE_STYLE('',(#90014));
#90014=SURFACE_STYLE_FILL_AREA(#90015);
#90015=FILL_AREA_STYLE('',(#90016));
#90016=FILL_AREA_STYLE_COLOUR('',#90017);
#90017=COLOUR_RGB('copper',0.72,0.45,0.2);
#90018=MECHANICAL_DESIGN_GEOMETRIC_PRESENTATION_REPRESENTATION('',(#90010),%s);
ENDSEC;`, definition, context, brep, context)
	stating := func(volume float64) string {
		at := strings.LastIndex(text, "ENDSEC;")
		return text[:at] + strings.Replace(more, "VOLUME_MEASURE(VOLUME)", fmt.Sprintf("VOLUME_MEASURE(%.6f)", volume), 1) +
			text[at+len("ENDSEC;"):]
	}
	if c, err = k.ReadSTEP(ctx, []byte(stating(whole.Volume))); err != nil {
		t.Fatal(err)
	}
	p := c.Parts[0]
	if !near(p.Volume, whole.Volume, 1e-6) || c.Colours != 1 || p.Colour == nil || math.Abs(p.Colour[0]-0.72) > 1e-3 ||
		math.Abs(p.Colour[2]-0.2) > 1e-3 {
		t.Errorf("it says %+v, colour %v", p, p.Colour)
	}
	// A file that does not hold what it says is told.
	for volume, want := range map[float64]int{whole.Volume: 0, 1.1 * whole.Volume: 1} {
		att := stepAttempt(t, slab(t, "12"), solid.Identity, 1)
		att.STEP = []byte(stating(volume))
		r := run(t, slabExercise(), check.Reference{Document: slab(t, "12")}, att)
		got := 0
		for _, f := range r.Findings {
			if f.Kind == "stated" {
				got++
			}
		}
		if got != want || r.Count(report.In) != len(r.Characteristics) {
			t.Errorf("a file that states %g of %g mm³: %d findings; %s", volume, whole.Volume, got, wrong(r))
		}
	}
}

// entity finds the number of the first entity of a kind.
func entity(t *testing.T, text, kind string) string {
	t.Helper()
	i := strings.Index(text, kind)
	if i < 0 {
		t.Fatalf("the file has no %s", kind)
	}
	from := strings.LastIndexByte(text[:i], '#')
	return strings.TrimSpace(strings.TrimRight(text[from:i], " ="))
}
