package geometry

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hammerset/core/check"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/core/solid"
	"hammerset/core/stock"
	"hammerset/formats/documents"
	"hammerset/formats/lettering"
	"hammerset/formats/svg"
	"hammerset/kernel/occ"
	"hammerset/test/samples"
)

// otherParts are parts that are not the demo's: standard parts of core/stock, and shapes that make a sheet awkward.
func otherParts(t *testing.T) map[string]*part.Document {
	out := map[string]*part.Document{}
	for _, k := range stock.Kinds() {
		for _, n := range []int{0, len(k.Sizes) - 1} {
			title, doc, err := stock.Document(k.Name, k.Sizes[n], 45)
			if err != nil {
				t.Fatal(err)
			}
			ref, err := documents.ReadReference(doc)
			if err != nil {
				t.Fatal(err)
			}
			out[title] = ref.Document
		}
	}
	shaft := []float64{0, 0, 0, 6, 20, 6, 20, 10, 55, 10, 55, 8, 68, 8, 70, 6, 70, 0}
	out["shaft with a bevel"] = model(t, "mm", "", outline("s1", xz, shaft...), revolve("r1", "s1", "l8", ""))
	out["wedge"] = model(t, "mm", "", outline("s1", xz, 0, 0, 60, 0, 60, 12, 18, 36, 0, 36),
		extrude("e1", "s1", `{"kind":"symmetric","total":"30"}`, ""))
	out["slanting bore"] = model(t, "mm", "", outline("s1", xz, 0, 0, 60, 0, 60, 10, 20, 40, 0, 40),
		extrude("e1", "s1", `{"kind":"symmetric","total":"40"}`, ""),
		circles("s2", xy, 30, 0, 5), cut("u2", "s2", `{"kind":"through"}`, `,"reverse":true`))
	out["long bar"] = model(t, "mm", "", outline("s1", xy, 0, 0, 900, 0, 900, 60, 0, 60),
		extrude("e1", "s1", oneSide("20 mm"), ""), circles("s2", xy, 50, 30, 8, 450, 30, 8, 850, 30, 8),
		cut("u2", "s2", `{"kind":"through"}`, `,"reverse":true`))
	out["small plate"] = model(t, "mm", "", outline("s1", xy, 0, 0, 6, 0, 6, 4, 0, 4),
		extrude("e1", "s1", oneSide("1.5 mm"), ""), circles("s2", xy, 2, 2, 0.6), cut("u2", "s2", `{"kind":"through"}`,
			`,"reverse":true`))
	out["stepped block"] = model(t, "mm", "", outline("s1", xy, 0, 0, 70, 0, 70, 50, 0, 50),
		extrude("e1", "s1", oneSide("20 mm"), ""), outline("s2", `{"face":"e1/end"}`, 10, 8, 40, 8, 40, 42, 10, 42),
		extrude("e2", "s2", oneSide("15 mm"), ""), outline("s3", `{"face":"e2/end"}`, 16, 14, 30, 14, 30, 30, 16, 30),
		cut("u3", "s3", oneSide("9 mm"), ""), circles("s4", `{"face":"e1/end"}`, 55, 12, 4, 55, 38, 6),
		cut("u4", "s4", oneSide("11 mm"), ""))
	out["ring of six"] = model(t, "mm", "", circles("s1", xy, 0, 0, 45), extrude("e1", "s1", oneSide("14 mm"), ""),
		circles("s2", xy, 0, 0, 15), cut("u2", "s2", `{"kind":"through"}`, `,"reverse":true`),
		circles("s3", `{"face":"e1/end"}`, 30, 0, 1), holeAt("h1", "s3", `"m0"`, `,"diameter":"7"`),
		`{"id":"p1","kind":"circular-pattern","name":"ring","of":["h1"],"axis":{"datum":"Z"},"count":"6"}`)
	out["plate of twelve holes"] = model(t, "mm", "", outline("s1", xy, 0, 0, 120, 0, 120, 80, 0, 80),
		extrude("e1", "s1", oneSide("8 mm"), ""), circles("s2", xy, 11, 9, 2.5, 33, 14, 3, 57, 8, 2, 84, 17, 4, 107, 11, 3.5,
			14, 38, 4.5, 41, 44, 5, 66, 36, 2.25, 93, 42, 3.25, 19, 69, 2.75, 52, 66, 3.75, 101, 71, 4.25),
		cut("u2", "s2", `{"kind":"through"}`, `,"reverse":true`))
	return out
}

// Sheets that are proposed for parts nobody arranged them for: nothing is missing, nothing runs through a text or a
// balloon, and nearly all sizes stand at a view; in third angle as in first, on the paper that the part needs.
func TestSheetsOfOtherParts(t *testing.T) {
	ctx := context.Background()
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	marks, all := 0, 0
	var shares []float64
	parts := otherParts(t)
	if len(parts) < 20 {
		t.Errorf("%d parts are few", len(parts))
	}
	for name, doc := range parts {
		for _, projection := range []string{"first", "third"} {
			ex := sheet.Plain(name, "mm", "reference.json", 1)
			ex.Sheet().Projection = projection
			b := bundle{ref: check.Reference{Document: doc}}
			out, err := prepare.Propose(ctx, checker(), ex, b.ref, f, prepare.Quietly)
			if err != nil || len(out.Left) > 0 {
				t.Errorf("%s, %s angle: %+v, %v", name, projection, out, err)
				continue
			}
			if err := ex.Check(); err != nil {
				t.Errorf("%s, %s angle: %v", name, projection, err)
			}
			d, _ := draw(t, ex, b)
			for _, x := range d.Touching(f) {
				t.Errorf("%s, %s angle: %s", name, projection, x)
			}
			at := 0
			for _, m := range ex.Sheet().Marks {
				at += len(m.Of)
			}
			marks, all = marks+at, all+len(out.Added)
			used := d.Used(f)
			shares = append(shares, used)
			if dir := os.Getenv("HAMMERSET_LOOK"); dir != "" { // for looking at by hand
				if err := os.WriteFile(filepath.Join(dir, strings.ReplaceAll(name, "/", " ")+" "+projection+".svg"),
					svg.Render(d, f, svg.Options{}), 0o644); err != nil {
					t.Fatal(err)
				}
			}
			t.Logf("%s, %s angle: %d of %d at marks, %s at %s, %.0f %%", name, projection, at, len(out.Added), ex.Sheet().Paper,
				ex.Sheet().Scale, 100*used)
			placedAs(t, name, ex.Sheet().Projection, projection, d)
		}
	}
	if marks < all*95/100 {
		t.Errorf("%d of %d sizes stand at marks", marks, all)
	}
	slices.Sort(shares)
	// What is long and thin leaves most of any paper free.
	if most, middle := shares[len(shares)-1], shares[len(shares)/2]; most > 0.8 || middle < 0.3 {
		t.Errorf("of the free area up to %.0f %% are used, and in the middle %.0f %%", 100*most, 100*middle)
	}
	t.Logf("%d of %d sizes stand at marks; of the free area %.0f to %.0f %% are used, %.0f %% in the middle", marks, all,
		100*shares[0], 100*shares[len(shares)-1], 100*shares[len(shares)/2])
}

// placedAs wants the view from above under the front view in first angle, and over it in third; and the view from the
// left at its right, or left (ISO 5456-2).
func placedAs(t *testing.T, name, is, want string, d *sheet.Drawing) {
	t.Helper()
	middle := func(view string) (p sheet.Point, shown bool) {
		n := 0.0
		for _, it := range d.Items {
			at := it.Centre
			if len(it.Points) > 0 {
				at = it.Points[0]
			}
			if it.View == view && it.Class == sheet.Visible {
				p, n = sheet.Point{p[0] + at[0], p[1] + at[1]}, n+1
			}
		}
		return sheet.Point{p[0] / n, p[1] / n}, n > 0
	}
	sign := map[string]float64{"first": -1, "third": 1}[want]
	front, ok := middle("front")
	top, above := middle("top")
	left, beside := middle("left")
	if is != want || !ok || above && (top[1]-front[1])*sign < 0 || beside && (front[0]-left[0])*sign < 0 {
		t.Errorf("%s: in %s angle front, top and left view stand at %v, %v and %v", name, is, front, top, left)
	}
}

// A side of free form has no sizes that could be judged: that is said, and what else the part has is stated.
func TestASheetOfFreeForm(t *testing.T) {
	f := letteringOf(t)
	d := model(t, "mm", "", curves("s1", xy, pt("a", 0, 0), pt("b", 12, 14), pt("c", 25, -6), pt("d", 40, 0),
		pt("e", 40, 30), pt("g", 0, 30), `{"id":"s","kind":"spline","through":["a","b","c","d"]}`,
		`{"id":"l1","kind":"line","from":"d","to":"e"}`, `{"id":"l2","kind":"line","from":"e","to":"g"}`,
		`{"id":"l3","kind":"line","from":"g","to":"a"}`), extrude("e1", "s1", oneSide("8 mm"), ""))
	ex := sheet.Plain("Cam", "mm", "reference.step", 1)
	ref := check.Reference{STEP: stepAttempt(t, d, solid.Identity, 1).STEP}
	out, err := prepare.Propose(context.Background(), checker(), ex, ref, f, prepare.Quietly)
	if err != nil {
		t.Fatal(err)
	}
	said := ""
	for _, left := range out.Left {
		said += left.Kind + " "
	}
	if !strings.Contains(said, "unjudged") || len(out.Added) < 2 {
		t.Errorf("left is %s, and added %q", said, out.Added)
	}
}

// letteringOf is the lettering of sheets.
func letteringOf(t *testing.T) *lettering.Font {
	t.Helper()
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// foreignParts are STEP files of parts that nobody here wrote: those of the bracket assembly and other examples of
// Debian's gmsh-doc, one of its netgen-doc, and those that programs have written for one another to read.
func foreignParts(t *testing.T) map[string][]byte {
	t.Helper()
	out := map[string][]byte{}
	k := occ.Kernel{}
	c, err := k.ReadSTEP(ctx, samples.Unzip(t, samples.AS1))
	if err != nil {
		t.Fatal(err)
	}
	for i, p := range c.Parts {
		data, err := k.WriteSTEP([]solid.Titled{{Shape: p.Shape, Name: p.Name}}, p.Name, solid.AP214)
		if err != nil {
			t.Fatal(err)
		}
		out[fmt.Sprintf("%s %d", p.Name, i)] = data
	}
	for _, name := range []string{"tutorial/t20_data.step.gz", "demos/api/step_boundary_colors.stp.gz",
		"demos/boolean/component8.step.gz"} {
		out[filepath.Base(name)] = samples.Unzip(t, samples.Folder+name)
	}
	if out["screw.step"], err = os.ReadFile(samples.Screw); err != nil {
		t.Fatal(err)
	}
	for _, folder := range []string{"s1-c5-214/*.stp", "s1_pe_214/*.stp", "s1-tu-203/*.stp", "sg1-c5-214.stp",
		"io1-tu-203.stp"} {
		files, err := filepath.Glob(samples.Interchange + folder)
		if err != nil || len(files) == 0 {
			t.Fatalf("%s: %v", folder, err)
		}
		for _, name := range files {
			data, err := os.ReadFile(name)
			if err != nil {
				t.Fatal(err)
			}
			if bytes.Contains(data, []byte("MANIFOLD_SOLID_BREP")) { // else it puts others together
				out[strings.TrimPrefix(name, samples.Interchange)] = data
			}
		}
	}
	return out
}

// Sheets that are proposed for parts from elsewhere, some with splines in the place of cylinders: nothing is missing
// that a size could be proposed for, nothing runs through a text or a balloon, and nearly all sizes stand at a view.
func TestSheetsOfForeignParts(t *testing.T) {
	f := letteringOf(t)
	marks, all, open, freeForm := 0, 0, 0, 0
	for name, data := range foreignParts(t) {
		ex := sheet.Plain(name, "mm", "reference.step", 1)
		ref := check.Reference{STEP: data}
		out, err := prepare.Propose(context.Background(), checker(), ex, ref, f, prepare.Quietly)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		for _, left := range out.Left {
			if left.Kind == "unjudged" && strings.HasSuffix(left.What, "it cannot be judged whether the sheet determines them") {
				freeForm++
			} else if open++; left.Kind != "missing" || left.Add != nil {
				t.Errorf("%s: %s: %s", name, left.Kind, left.What)
			}
		}
		d, _ := draw(t, ex, bundle{ref: ref})
		for _, x := range d.Touching(f) {
			t.Errorf("%s: %s", name, x)
		}
		at := 0
		for _, m := range ex.Sheet().Marks {
			at += len(m.Of)
		}
		marks, all = marks+at, all+len(out.Added)
		t.Logf("%s: %d of %d at marks, %s at %s, %.0f %% of the free area, %d left", name, at, len(out.Added),
			ex.Sheet().Paper, ex.Sheet().Scale, 100*d.Used(f), len(out.Left))
	}
	// Some domes are splines that are no spheres.
	if marks < all*95/100 || open > 0 || freeForm > 6 {
		t.Errorf("%d of %d sizes stand at marks, %d faces are left open, and %d parts have free forms", marks, all, open,
			freeForm)
	}
}

// A part from elsewhere that lies askew is given by as many sizes as before.
func TestForeignPartsThatLieAskew(t *testing.T) {
	f, k := letteringOf(t), occ.Kernel{}
	parts := foreignParts(t)
	for _, name := range []string{"component8.step.gz", "s1_pe_214/foot_back_prt.stp", "s1_pe_214/tail_turbine_prt.stp"} {
		c, err := k.ReadSTEP(ctx, parts[name])
		if err != nil {
			t.Fatal(err)
		}
		moved, _, err := k.Transform(c.Shape, oddPose())
		if err != nil {
			t.Fatal(err)
		}
		askew, err := k.WriteSTEP([]solid.Titled{{Shape: moved, Name: "askew"}}, "askew", solid.AP214)
		if err != nil {
			t.Fatal(err)
		}
		var added, left [2]int
		for i, data := range [][]byte{parts[name], askew} {
			ex := sheet.Plain(name, "mm", "reference.step", 1)
			out, err := prepare.Propose(ctx, checker(), ex, check.Reference{STEP: data}, f, prepare.Quietly)
			if err != nil {
				t.Fatalf("%s: %v", name, err)
			}
			added[i], left[i] = len(out.Added), len(out.Left)
		}
		if added[0] != added[1] || left[0] != left[1] {
			t.Errorf("%s: %v sizes and %v left, as it lies and askew", name, added, left)
		}
	}
}
