package geometry

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/kernel/occ"
)

// slab is a plate 60 by 40 by h with a bore, as a model.
func slab(t testing.TB, h string) *part.Document {
	return model(t, "mm", "", outline("s1", xy, 0, 0, 60, 0, 60, 40, 0, 40), extrude("e1", "s1", oneSide(h), ""),
		circles("s2", `{"face":"e1/end"}`, 20, 15, 6), extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut"`))
}

func slabExercise() *exercise.Exercise {
	return &exercise.Exercise{Hammerset: exercise.Version, Title: "Slab", Unit: "mm", Reference: "r.json", Solids: 1,
		Rubric: exercise.Rubric{Characteristics: 10, WholePart: 10},
		Characteristics: []exercise.Characteristic{
			{ID: "long", Balloon: 1, Kind: "distance", Label: "Length",
				Of: [][]address.Ref{address.List("e1/side:l1", "e1/side:l3")}}, {ID: "thick", Balloon: 2, Kind: "distance",
				Label: "Thickness", Of: [][]address.Ref{address.List("e1/start", "e1/end")}},
			{ID: "bore", Balloon: 3, Kind: "diameter", Label: "Bore", Of: [][]address.Ref{address.List("e2/side:c0")}},
			{ID: "one", Balloon: 4, Kind: "solids", Label: "One solid"}}}
}

// write writes solids side by side into one STEP file.
func write(t testing.TB, list ...solid.Shape) []byte {
	t.Helper()
	var titled []solid.Titled
	for i, s := range list {
		titled = append(titled, solid.Titled{Shape: s, Name: fmt.Sprintf("body %d", i+1)})
	}
	data, err := occ.Kernel{}.WriteSTEP(titled, "attempt", solid.AP214)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

// at builds a document and moves its solid.
func at(t testing.TB, d *part.Document, move solid.Vec) solid.Shape {
	t.Helper()
	s, _, err := occ.Kernel{}.Transform(build(t, d, nil).Solid.Shape, solid.Translation(move))
	if err != nil {
		t.Fatal(err)
	}
	return s
}

var shell = regexp.MustCompile(`CLOSED_SHELL\('',\(([^)]*)\)\)`)

// opened turns two solids of a file into one set of surfaces: all faces of the first but
// one, and that one of the second.
func opened(t testing.TB, data []byte) []byte {
	t.Helper()
	text := regexp.MustCompile(`\r?\n\s+`).ReplaceAllString(string(data), "")
	n := 0
	text = shell.ReplaceAllStringFunc(text, func(s string) string {
		faces := strings.Split(shell.FindStringSubmatch(s)[1], ",")
		n++
		if n == 1 {
			return "OPEN_SHELL('',(" + strings.Join(faces[1:], ",") + "))"
		}
		return "OPEN_SHELL('',(" + faces[0] + "))"
	})
	if n != 2 {
		t.Fatalf("%d shells in the file\n%s", n, regexp.MustCompile(`(?m)^.*SHELL.*$`).FindAllString(text, -1))
	}
	text = regexp.MustCompile(`MANIFOLD_SOLID_BREP\('([^']*)',(#\d+)\)`).ReplaceAllString(text,
		"SHELL_BASED_SURFACE_MODEL('$1',($2))")
	return []byte(strings.ReplaceAll(text, "ADVANCED_BREP_SHAPE_REPRESENTATION", "MANIFOLD_SURFACE_SHAPE_REPRESENTATION"))
}

// TestIntakeOfFlawedFiles hands in files that exporters really make: surfaces that close,
// that nearly close and that do not; a copy in the same place; a crumb; bodies that only
// touch, that run into one another, and that do not meet. What can be measured is measured
// on the part that was meant, and the finding says what is wrong with the file.
func TestIntakeOfFlawedFiles(t *testing.T) {
	ex, ref := slabExercise(), check.Reference{Document: slab(t, "12")}
	whole := at(t, slab(t, "12"), solid.Vec{})
	again := at(t, slab(t, "12"), solid.Vec{})
	// Split at x = 60 - 22: two pieces that together are the slab.
	piece := func(x0, x1 float64, bore bool) solid.Shape {
		steps := []string{outline("s1", xy, x0, 0, x1, 0, x1, 40, x0, 40), extrude("e1", "s1", oneSide("12"), "")}
		if bore {
			steps = append(steps, circles("s2", `{"face":"e1/end"}`, 20, 15, 6), extrude("e2", "s2", `{"kind":"through"}`,
				`,"result":"cut"`))
		}
		return at(t, model(t, "mm", "", steps...), solid.Vec{})
	}
	crumb := at(t, model(t, "mm", "", circles("s1", xy, 70, 0, 0.4), extrude("e1", "s1", oneSide("0.5"), "")), solid.Vec{})
	nearly := opened(t, write(t, whole, at(t, slab(t, "12"), solid.Vec{0, 0, 0.004})))
	stated := bytes.Replace(nearly, []byte("LENGTH_MEASURE(1.E-07)"), []byte("LENGTH_MEASURE(5.E-03)"), -1)
	if bytes.Equal(stated, nearly) {
		t.Fatal("the file states its uncertainty otherwise than expected")
	}
	for _, c := range []struct {
		name, wrong, says string
		data              []byte
	}{
		{"surfaces that close", "", "surfaces that close", opened(t, write(t, whole, again))},
		{"surfaces that close within the file's uncertainty", "", "up to 0.0075 mm; they were closed", stated},
		{"surfaces that miss by less than a micrometre", "", "up to 0.001 mm; they were closed",
			opened(t, write(t, whole, at(t, slab(t, "12"), solid.Vec{0, 0, 0.0004})))},
		{"a copy in one place", "one out", "a copy", write(t, whole, again)},
		{"a crumb", "one out", "left over", write(t, whole, crumb)},
		{"two bodies that touch", "one out", "only touch", write(t, piece(0, 38, true), piece(38, 60, false))},
		{"two bodies that run into one another", "one out", "run into one another",
			write(t, piece(0, 45, true), piece(38, 60, false))},
		{"two bodies apart", "one out", "do not touch", write(t, piece(0, 38, true), piece(38.5, 60, false))},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := run(t, ex, ref, check.Attempt{Name: "a.step", STEP: c.data})
			if w := wrong(r); w != c.wrong && c.name != "two bodies apart" {
				t.Errorf("%q, want %q", w, c.wrong)
			}
			said := ""
			for _, f := range r.Findings {
				said += f.What + ". "
			}
			if !strings.Contains(said, c.says) {
				t.Errorf("the findings say %q", said)
			}
			for _, f := range r.Whole {
				if f.Verdict != report.In && c.wrong == "" {
					t.Errorf("%s is %s: %s", f.Label, f.Verdict, f.Text)
				}
			}
		})
	}
	_, err := checker().Part(ctx, check.Subject{Exercise: ex, Reference: ref, Attempt: check.Attempt{STEP: nearly}},
		func(string, float64) {})
	if err == nil || !strings.Contains(err.Error(), "stay open") {
		t.Errorf("surfaces with gaps wider than the file's uncertainty: %v", err)
	}
}

// TestSplinesInPlaceOfPlainSurfaces hands in the demo's parts with every surface written as a
// spline, in an odd pose: all that they measure is what it was, and a wrong size is out.
func TestSplinesInPlaceOfPlainSurfaces(t *testing.T) {
	k := occ.Kernel{}
	splines := func(d *part.Document) check.Attempt {
		t.Helper()
		s, err := k.Splines(build(t, d, nil).Solid.Shape)
		if err != nil {
			t.Fatal(err)
		}
		if s, _, err = k.Transform(s, oddPose()); err != nil {
			t.Fatal(err)
		}
		data := write(t, s)
		if bytes.Contains(data, []byte("CYLINDRICAL_SURFACE")) {
			t.Fatal("the file has plain cylinders")
		}
		return check.Attempt{Name: "splines.step", STEP: data}
	}
	for _, name := range demo.Exercises()[1:] { // the kernel's converter gives up at a round of the first
		b := demoExercise(t, name)
		want := map[string]string{"pawl-plate": "middle out", "rack-stop": "screw ask"}[name]
		r := run(t, b.Parsed, b.ref, splines(b.ref.Document))
		if w := wrong(r); w != want {
			t.Errorf("%s: %q, want %q", name, w, want)
		}
		for _, f := range r.Whole {
			if f.Verdict != report.In {
				t.Errorf("%s: %s is %s (%s)", name, f.Label, f.Verdict, f.Text)
			}
		}
	}
	b := demoExercise(t, "gland-flange")
	if w := wrong(run(t, b.Parsed, b.ref,
		splines(edited(t, b, `"value": "1 1/4 in"`, `"value": "1.26 in"`).Document))); !strings.Contains(w, "bore out") {
		t.Errorf("a wrong bore: %q", w)
	}
}
