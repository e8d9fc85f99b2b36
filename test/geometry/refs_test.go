package geometry

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// What the modeller writes down for a pick leads back to what was picked: for every
// straight and round edge of every shape, a plane across the middle of the edge that
// its reference names stands in the middle of that very edge; every name of a flat
// face leads to its plane; every corner to its place.
func TestReferencesLeadBack(t *testing.T) {
	edges, faces, corners := 0, 0, 0
	for _, s := range wholeParts() {
		d := model(t, s.unit, s.params, s.steps...)
		r := part.NewRebuilder(occ.Kernel{})
		b, err := r.Rebuild(ctx, d, nil)
		if err != nil || b.Solid == nil {
			t.Fatalf("%s: %v", s.name, err)
		}
		refs := b.References()
		shape := b.Solid.Shape
		probe := *d
		probe.Steps = append([]part.Step{}, d.Steps...)
		want := map[string]func(f solid.Frame) bool{}
		add := func(plane part.Plane, check func(f solid.Frame) bool) {
			step := part.Step{ID: fmt.Sprintf("probe%d", len(want)), Kind: "plane", Do: &plane}
			probe.Steps = append(probe.Steps, step)
			want[step.ID] = check
		}
		for i, e := range shape.Edges() {
			if refs.Edges[i] == nil || e.Kind == solid.OtherEdge || e.Seam || e.Degenerate || len(want) > 150 {
				continue
			}
			edges++
			add(part.Plane{Form: "normal", Edges: []part.EdgeRef{*refs.Edges[i]}}, func(f solid.Frame) bool {
				return f.O.Distance(e.Mid) < 1e-5 || e.Kind == solid.CircleEdge && e.A.Distance(e.B) < 1e-7 &&
					math.Abs(f.O.Distance(e.Center)-e.Radius) < 1e-5
			})
		}
		for i, f := range shape.Faces() {
			if f.Kind != solid.PlaneFace || refs.Faces[i] == "" || len(want) > 260 {
				continue
			}
			faces++
			add(part.Plane{Plane: &part.PlaneRef{Face: refs.Faces[i]}}, func(p solid.Frame) bool {
				return p.Z.Angle(f.Normal) < 1e-6 && math.Abs(p.O.Sub(f.Centroid).Dot(f.Normal)) < 1e-6
			})
		}
		again, err := r.Rebuild(ctx, &probe, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range again.Failed() {
			text, _ := json.Marshal(probe.Steps[f.Err.Index])
			// A corner where a name has several places is refused, not guessed.
			if !strings.Contains(f.Err.Why, "several places") {
				t.Errorf("%s: %v\n%s", s.name, f.Err, text)
			}
		}
		for id, check := range want {
			if f, ok := again.Plane(id); ok && !check(f) {
				t.Errorf("%s: a reference leads to %v", s.name, f.O)
			}
		}
		for i, v := range shape.Vertices() {
			ref := refs.Corners[i]
			if ref == nil || corners > 200 {
				continue
			}
			corners++
			p := *d
			p.Steps = append(append([]part.Step{}, d.Steps...),
				part.Step{ID: "q", Kind: "plane",
					Do: &part.Plane{Form: "three-points", Points: []part.PointRef{*ref, {At: &[3]string{"1 mm", "2 mm", "300 mm"}},
						{At: &[3]string{"-200 mm", "7 mm", "9 mm"}}}}})
			x, err := r.Rebuild(ctx, &p, nil)
			if err != nil {
				t.Fatal(err)
			}
			f, ok := x.Plane("q")
			if fails := x.Failed(); !ok && len(fails) > 0 && (strings.Contains(fails[0].Err.Why, "corners") ||
				strings.Contains(fails[0].Err.Why, "one line")) {
				continue // three faces that meet twice are told apart, not guessed
			}
			if !ok || math.Abs(v.Sub(f.O).Dot(f.Z)) > 1e-5 {
				t.Errorf("%s: the corner at %v leads elsewhere: %v", s.name, v, x.Failed())
			}
		}
	}
	if edges < 400 || faces < 150 || corners < 100 {
		t.Errorf("only %d edges, %d faces and %d corners were looked at", edges, faces, corners)
	}
}

// Datum planes, axes and points stand where elementary geometry puts them.
func TestDatumsStandWhereTheyShould(t *testing.T) {
	// A block from the origin to 40, 30, 20 and a cylinder of radius 5 upright on it.
	steps := append(base(), circles("s2", `{"face":"e1/end"}`, 10, 8, 5), extrude("e2", "s2", oneSide("12"), ""))
	top, right := between("e1/end", "e1/side:l1"), between("e1/side:l1", "e1/side:l2")
	for _, c := range []struct {
		name  string
		steps []string
		on    []solid.Vec // places that must lie on the plane p
		n     solid.Vec   // its normal, either way
	}{
		{"offset from a face", []string{`{"id":"p","kind":"plane","plane":{"face":"e1/end","offset":"7"}}`},
			[]solid.Vec{{3, 4, 27}}, solid.Vec{0, 0, 1}},
		{"offset from another plane", []string{`{"id":"o","kind":"plane","plane":{"datum":"YZ","offset":"5"}}`,
			`{"id":"p","kind":"plane","plane":{"step":"o","offset":"-2"}}`}, []solid.Vec{{3, 9, 9}}, solid.Vec{1, 0, 0}},
		{"turned over", []string{`{"id":"p","kind":"plane","plane":{"datum":"XY","offset":"4"},"reverse":true}`},
			[]solid.Vec{{0, 0, 4}}, solid.Vec{0, 0, 1}},
		{"37 degrees about an edge", []string{`{"id":"p","kind":"plane","form":"angled","plane":{"face":"e1/end"},
	"axis":{"edge":` + top + `},"angle":"37 deg"}`}, []solid.Vec{{40, 0, 20}, {40, 30, 20}},
			solid.Vec{math.Sin(37 * math.Pi / 180), 0, math.Cos(37 * math.Pi / 180)}},
		{"through three corners", []string{`{"id":"p","kind":"plane","form":"three-points","points":[{"corner":["e1/end",
	"e1/side:l0","e1/side:l1"]},{"corner":["e1/end","e1/side:l2","e1/side:l3"]},{"corner":["e1/side:l0","e1/side:l3",
	"e1/start"]}]}`}, []solid.Vec{{40, 0, 20}, {0, 30, 20}, {0, 0, 0}}, solid.Vec{-600, -800, 1200}},
		{"through a centre and points of sketches", []string{`{"id":"p","kind":"plane","form":"three-points",
	"points":[{"center":` + between("e2/end", "e2/side:c0") + `},{"sketch":"s2.m0"},{"sketch":"s1.p2"}]}`},
			[]solid.Vec{{10, 8, 32}, {10, 8, 20}, {40, 30, 0}}, solid.Vec{22, -30, 0}},
		{"midway between parallel faces", []string{`{"id":"p","kind":"plane","form":"midway","planes":[{"face":"e1/side:l1"},
	{"face":"e1/side:l3"}]}`}, []solid.Vec{{20, 1, 1}}, solid.Vec{1, 0, 0}},
		{"halving an angle", []string{`{"id":"p","kind":"plane","form":"midway","planes":[{"face":"e1/side:l1"},
	{"face":"e1/end"}]}`}, []solid.Vec{{40, 7, 20}, {41, 7, 19}}, solid.Vec{1, 0, 1}},
		{"across an edge", []string{`{"id":"p","kind":"plane","form":"normal","edges":[` + right + `],"offset":"0.25"}`},
			[]solid.Vec{{1, 2, 5}}, solid.Vec{0, 0, 1}},
		{"across an axis of two points", []string{`{"id":"a","kind":"axis","points":[{"at":["0","0","0"]},{"at":["3","4",
	"0"]}]}`, `{"id":"p","kind":"plane","form":"angled","plane":{"datum":"XY"},"axis":{"step":"a"},"angle":"90 deg"}`},
			[]solid.Vec{{3, 4, 0}, {6, 8, 55}}, solid.Vec{4, -3, 0}},
		{"about where two planes cross", []string{`{"id":"a","kind":"axis","planes":[{"face":"e1/side:l1"},
	{"face":"e1/side:l2"}]}`, `{"id":"p","kind":"plane","form":"angled","plane":{"face":"e1/side:l1"},"axis":{"step":"a"},
	"angle":"90 deg"}`}, []solid.Vec{{40, 30, 3}, {11, 30, 8}}, solid.Vec{0, 1, 0}},
		{"about the axis of a cylinder", []string{`{"id":"a","kind":"axis","axis":{"face":"e2/side:c0"}}`,
			`{"id":"p","kind":"plane","form":"angled","plane":{"datum":"YZ"},"axis":{"step":"a"},"angle":"0 deg"}`},
			[]solid.Vec{{10, 8, 3}, {10, 25, 8}}, solid.Vec{1, 0, 0}},
		{"about a line of a sketch", []string{`{"id":"p","kind":"plane","form":"angled","plane":{"datum":"XY"},
	"axis":{"line":"s1.l1"},"angle":"90 deg"}`}, []solid.Vec{{40, 3, 3}, {40, 25, 8}}, solid.Vec{1, 0, 0}},
		{"at a point along an edge", []string{`{"id":"q","kind":"point","points":[{"edge":` + top + `,"along":"0.5"}]}`,
			`{"id":"a","kind":"axis","points":[{"step":"q"},{"at":["40","15","0"]}]}`,
			`{"id":"p","kind":"plane","form":"angled","plane":{"datum":"XZ"},"axis":{"step":"a"},"angle":"0"}`},
			[]solid.Vec{{40, 15, 9}, {1, 15, 8}}, solid.Vec{0, 1, 0}},
	} {
		b := build(t, model(t, "mm", "", append(append([]string{}, steps...), c.steps...)...), nil)
		f, ok := b.Plane("p")
		if !ok {
			t.Errorf("%s: there is no plane", c.name)
			continue
		}
		if !f.Z.Parallel(c.n.Unit(), 1e-9) {
			t.Errorf("%s: normal %v, want %v", c.name, f.Z, c.n.Unit())
		}
		for _, p := range c.on {
			if d := p.Sub(f.O).Dot(f.Z); math.Abs(d) > 1e-9 {
				t.Errorf("%s: %v is %g off the plane", c.name, p, d)
			}
		}
		if math.Abs(f.X.Dot(f.Z))+math.Abs(f.X.Dot(f.Y)) > 1e-12 || f.X.Cross(f.Y).Distance(f.Z) > 1e-9 {
			t.Errorf("%s: its frame is not right-handed: %+v", c.name, f)
		}
	}
}

// Each kind of step says in words what is wrong with it; the block before it stands.
func TestEveryKindExplainsItsFailures(t *testing.T) {
	sk := func(more ...string) []string { return append(base(), more...) }
	line := curves("s2", xz, pt("a", 5, 25), pt("b", 35, 25), ln("l", "a", "b"))
	bent := curves("s3", xz, pt("a", 0, 0), pt("b", 0, 20), pt("c", 20, 20), ln("l1", "a", "b"), ln("l2", "b", "c"))
	for _, c := range []struct {
		name, say string
		steps     []string
	}{
		{"a path with a corner", "corner at 0, 20 mm; round the corner",
			sk(circles("s2", xy, 0, 0, 2), bent, `{"id":"w","kind":"sweep","sketch":"s2","path":"s3"}`)},
		{"a path that is not there", `no path "x9"`, sk(circles("s2", xy, 0, 0, 2), `{"id":"w","kind":"sweep","sketch":"s2",
	"path":"x9"}`)},
		{"a path that forks", "3 curves meet at 0, 20",
			sk(circles("s2", xy, 0, 0, 2), curves("s3", xz, pt("a", 0, 0), pt("b", 0, 20), pt("c", 20, 20), pt("d", -20, 20),
				ln("l1", "a", "b"), ln("l2", "b", "c"), ln("l3", "b", "d")),
				`{"id":"w","kind":"sweep","sketch":"s2","path":"s3"}`)},
		{"two paths", "2 rows of curves",
			sk(circles("s2", xy, 0, 0, 2), curves("s3", xz, pt("a", 0, 0), pt("b", 0, 20), pt("c", 20, 20), pt("d", 40, 20),
				ln("l1", "a", "b"), ln("l2", "c", "d")), `{"id":"w","kind":"sweep","sketch":"s2","path":"s3"}`)},
		{"a loft of one", "two sketches or more", sk(circles("s2", xy, 0, 0, 2), `{"id":"o","kind":"loft",
	"sections":["s2"]}`)},
		{"a loft of two outlines in one", "more than one outline",
			sk(circles("s2", xy, 0, 0, 2, 9, 9, 2), circles("s3", `{"datum":"XY","offset":"5"}`, 0, 0, 2),
				`{"id":"o","kind":"loft","sections":["s2","s3"]}`)},
		{"a helix of nothing", "pitch must be greater than zero", sk(`{"id":"x","kind":"helix","axis":{"datum":"Z"},
	"diameter":"9","pitch":"0","turns":"3"}`)},
		{"a helix without an axis", "no axis", sk(`{"id":"x","kind":"helix","diameter":"9","pitch":"1","turns":"3"}`)},
		{"a rib in the open", "run out of the part", sk(line, `{"id":"b","kind":"rib","sketch":"s2","thickness":"3"}`)},
		{"a rib of a closed line", "one open line", sk(circles("s2", xz, 9, 30, 4), `{"id":"b","kind":"rib","sketch":"s2",
	"thickness":"3"}`)},
		{"a rib inside the material", "inside the material",
			sk(curves("s2", `{"datum":"XZ","offset":"-10"}`, pt("a", 5, 10), pt("b", 35, 10), ln("l", "a", "b")),
				`{"id":"b","kind":"rib","sketch":"s2","thickness":"3"}`)},
		{"a hole without a place", "has no place", sk(`{"id":"h","kind":"hole","diameter":"5"}`)},
		{"a hole for an unknown thread", "not a coarse thread",
			sk(circles("s2", xy, 9, 9, 1), holeAt("h", "s2", `"m0"`, `,"thread":"M7"`))},
		{"from edges that are parallel", "do not give a place", sk(`{"id":"h","kind":"hole","diameter":"5",
	"place":{"face":"e1/end","from":[{"edge":` + between("e1/end", "e1/side:l0") + `,"distance":"3"},
	{"edge":` + between("e1/end", "e1/side:l2") + `,"distance":"3"}]}}`)},
		{"about a straight edge", "no centre", sk(`{"id":"h","kind":"hole","diameter":"5","place":{"face":"e1/end",
	"centered":[` + between("e1/end", "e1/side:l0") + `]}}`)},
		{"a slot along nothing", "not in sketch 2", sk(circles("s2", `{"face":"e1/end"}`, 9, 9, 1), `{"id":"t","kind":"slot",
	"sketch":"s2","at":["l7"],"width":"4"}`)},
		{"a keyway on a flat face", "choose a cylinder", sk(`{"id":"k","kind":"keyway","faces":["e1/end","e1/side:l0"]}`)},
		{"a keyway for too thin a shaft", "type the width and depth", sk(circles("s2", `{"face":"e1/end"}`, 20, 15, 2),
			extrude("e2", "s2", oneSide("9"), ""), `{"id":"k","kind":"keyway","faces":["e2/side:c0","e2/end"]}`)},
		{"walls thicker than the part", "do not fit", sk(`{"id":"l","kind":"shell","faces":["e1/end"],"thickness":"16"}`)},
		{"an open face that is gone", "not there any more", sk(`{"id":"l","kind":"shell","faces":["e9/end"],
	"thickness":"2"}`)},
		{"a draft of nothing", "no faces", sk(`{"id":"d","kind":"draft","plane":{"datum":"XY"},"angle":"5 deg"}`)},
		{"a draft across its plane", "tilted", sk(`{"id":"d","kind":"draft","faces":["e1/end"],"plane":{"datum":"XY"},
	"angle":"5 deg"}`)},
		{"chamfer distances that are not told apart", "which of the two faces", sk(`{"id":"c","kind":"chamfer","distance":"1",
	"second":"2","all":true}`)},
		{"a chamfer of a right angle and more", "too large", sk(`{"id":"c","kind":"chamfer","distance":"1","angle":"95 deg",
	"edges":[` + between("e1/end", "e1/side:l0") + `]}`)},
		{"rounds of which one does not fit", "on the edge between the front of extrude 1 and the top of extrude 1 (",
			sk(`{"id":"f","kind":"fillet","radius":"2","edges":[{"between":["e1/end","e1/side:l0"],"radius":"50"},` +
				between("e1/side:l1", "e1/side:l2") + `]}`)},
		{"a pattern at its own place", "where the original stands", sk(circles("s2", `{"face":"e1/end"}`, 9, 9, 1),
			holeAt("h", "s2", `"m0"`, `,"diameter":"2"`), `{"id":"n","kind":"point-pattern","of":["h"],"sketch":"s2","from":"m0",
	"at":["m0"]}`)},
		{"the original left out", "the original", sk(circles("s2", `{"face":"e1/end"}`, 9, 9, 1),
			holeAt("h", "s2", `"m0"`, `,"diameter":"2"`), `{"id":"n","kind":"linear-pattern","of":["h"],"axis":{"datum":"X"},
	"count":"3","spacing":"5","skip":[1]}`)},
		{"far too many instances", "from 1 to 500", sk(circles("s2", `{"face":"e1/end"}`, 9, 9, 1),
			holeAt("h", "s2", `"m0"`, `,"diameter":"2"`), `{"id":"n","kind":"linear-pattern","of":["h"],"axis":{"datum":"X"},
	"count":"900","spacing":"5"}`)},
		{"a union with itself", "with itself", sk(`{"id":"u","kind":"union","solids":["e1"],"with":["e1"]}`)},
		{"a union with nobody", `no solid of e7`, sk(`{"id":"u","kind":"union","solids":["e1"],"with":["e7"]}`)},
		{"an import of nothing", "choose a STEP file", sk(`{"id":"i","kind":"import"}`)},
		{"an import of rubbish", "cannot be read", sk(`{"id":"i","kind":"import","data":"ISO-10303-21; HEADER; rubbish"}`)},
		{"a thread on a flat face", "runs on a cylinder", sk(`{"id":"j","kind":"thread","faces":["e1/end"],"thread":"M6"}`)},
		{"a text that says nothing", "type the text", sk(`{"id":"j","kind":"text","faces":["e1/end"]}`)},
		{"three points on a line", "on one line", sk(`{"id":"p","kind":"plane","form":"three-points","points":[{"at":["0","0",
	"0"]},{"at":["1","1","1"]},{"at":["2","2","2"]}]}`)},
		{"an angle about an axis across", "not parallel to the plane", sk(`{"id":"p","kind":"plane","form":"angled",
	"plane":{"datum":"XY"},"axis":{"datum":"Z"},"angle":"5 deg"}`)},
		{"an axis of one place", "in one place", sk(`{"id":"a","kind":"axis","points":[{"at":["0","0","0"]},{"at":["0","0",
	"0"]}]}`)},
		{"an axis of parallel planes", "parallel", sk(`{"id":"a","kind":"axis","planes":[{"datum":"XY"},
	{"face":"e1/end"}]}`)},
		{"beyond the end of an edge", "from 0 to 1",
			sk(`{"id":"q","kind":"point","points":[{"edge":` + between("e1/end", "e1/side:l0") + `,"along":"1.5"}]}`)},
		{"a wall thicker than its bend", "thicker than the radius",
			sk(circles("s2", xy, 0, 0, 3), `{"id":"e2","kind":"extrude","sketch":"s2","wall":{"thickness":"4","side":"left"},
	"extent":{"kind":"one-side","length":"5"}}`)},
		{"a wall along a spline", "cannot follow",
			sk(curves("s2", xy, pt("a", 0, 0), pt("b", 5, 9), pt("c", 9, 0), `{"id":"q","kind":"spline","through":["a","b",
	"c"]}`), `{"id":"e2","kind":"extrude","sketch":"s2","wall":{"thickness":"1","side":"left"},"extent":{"kind":"one-side",
	"length":"5"}}`)},
		{"a taper past its top", "cannot taper", sk(circles("s2", `{"face":"e1/end"}`, 20, 15, 3),
			`{"id":"e2","kind":"extrude","sketch":"s2","extent":{"kind":"one-side","length":"30","draft":"30 deg"}}`)},
		{"nothing ahead", "nothing lies ahead", sk(circles("s2", `{"face":"e1/end"}`, 20, 15, 3),
			extrude("e2", "s2", `{"kind":"to-next"}`, ""))},
	} {
		b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, model(t, "mm", "", c.steps...), nil)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		f := b.Failed()
		if len(f) == 0 || !strings.Contains(f[len(f)-1].Err.Error(), c.say) {
			t.Errorf("%s: it says %v, and should say %q", c.name, f, c.say)
		}
		if b.Solid == nil || len(b.Solid.Faces("e1/start")) == 0 {
			t.Errorf("%s: the block is gone", c.name)
		}
	}
}

// Where a slot has left two faces of one name, each has an address of its own, which is the same piece when sizes
// change; what is picked on the smaller one is measured there.
func TestFacesOfOneName(t *testing.T) {
	slotted := func(to string) (*part.Named, *solid.Geometry) {
		doc := model(t, "mm", "", outline("s1", xy, 0, 0, 100, 0, 100, 40, 0, 40), extrude("e1", "s1", oneSide("10 mm"), ""),
			outline("s2", xy, 20, 0, 30, 0, 30, 40, 20, 40),
			extrude("e2", "s2", oneSide(to), `,"result":"cut","reverse":true`))
		key, _, err := checker().Load(ctx, check.Reference{Document: doc})
		if err != nil {
			t.Fatal(err)
		}
		return key, solidOf(t, key)
	}
	_, g := slotted("6 mm")
	pieces := g.Named("e1/start")
	if len(pieces) != 2 {
		t.Fatalf("the slot leaves %d pieces", len(pieces))
	}
	for f := range g.Faces {
		if got := g.Named(g.Address(f)); len(got) != 1 || got[0] != f {
			t.Errorf("face %d is called %s, which is %v", f, g.Address(f), got)
		}
	}
	small := pieces[0]
	if g.Faces[pieces[1]].Area < g.Faces[small].Area {
		small = pieces[1]
	}
	if _, other := slotted("7.5 mm"); math.Abs(other.Faces[other.Named(g.Address(small))[0]].Centroid[0]-10) > 1e-6 {
		t.Errorf("with a deeper slot %s is another piece", g.Address(small))
	}
	for _, c := range []struct {
		name string
		want int
	}{{g.Address(small), small}, {"e1/start", pieces[0] + pieces[1] - small},
		{"e1/start@0.9,0.5,0", pieces[0] + pieces[1] - small}} {
		if got, err := inspect.Operand(g, address.Of(c.name)); err != nil || got[0] != c.want {
			t.Errorf("%s is face %v, want %d: %v", c.name, got, c.want, err)
		}
	}
	if _, err := inspect.Operand(g, address.Of("e1/start@a,b")); err == nil {
		t.Error("a place that is none is read")
	}
}
