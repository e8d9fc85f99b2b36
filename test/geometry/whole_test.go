package geometry

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/check"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/formats/stl"
	"hammerset/formats/threemf"
	"hammerset/kernel/occ"
)

// compared checks an attempt at the slab and gives the report with what was compared.
func compared(t *testing.T, att check.Attempt) *check.Outcome {
	t.Helper()
	out, err := checker().Part(ctx,
		check.Subject{Exercise: slabExercise(), Reference: check.Reference{Document: slab(t, "12")}, Attempt: att},
		func(string, float64) {})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func figure(t *testing.T, r *report.Report, id string) report.Figure {
	t.Helper()
	for _, f := range r.Whole {
		if f.ID == id {
			return f
		}
	}
	t.Fatalf("there is no figure %s", id)
	return report.Figure{}
}

// TestMaterialBesideTheReference lays attempts whose difference has a closed form over the
// reference, in an odd pose: a plate 1.5 mm too thick (its top area times 1.5 too much, and
// all of 1.5 outward on top: it stands on its base), a bore 2 mm too wide in diameter (a ring missing and its
// wall 1 mm inward), and both. The volumes are those worked out by hand, the deviations of
// the vertices lie between the largest ones, and a student sees none of it.
func TestMaterialBesideTheReference(t *testing.T) {
	made := func(h, r string) *part.Document {
		return model(t, "mm", "", outline("s1", xy, 0, 0, 60, 0, 60, 40, 0, 40), extrude("e1", "s1", oneSide(h), ""),
			strings.Replace(circles("s2", `{"face":"e1/end"}`, 20, 15, 6), `"radius":6`, `"radius":`+r, 1),
			extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut"`))
	}
	ring, top := math.Pi*(49-36), 2400-math.Pi*36
	for _, c := range []struct {
		name               string
		h, r               string
		much, lacks        float64
		outwards, inwards_ float64
	}{
		{"thick", "13.5", "6", 1.5 * top, 0, 1.5, 0},
		{"wide", "12", "7", 0, 12 * ring, 0, 1},
		{"thick and wide", "13.5", "7", 1.5 * (top - ring), 12 * ring, 1.5, 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			out := compared(t, stepAttempt(t, made(c.h, c.r), oddPose(), 1))
			for _, m := range []struct {
				what string
				mesh *solid.Mesh
				want float64
			}{{"too much", out.Compared.TooMuch, c.much}, {"missing", out.Compared.Missing, c.lacks}} {
				got := 0.0
				if m.mesh != nil {
					got = m.mesh.Props().Volume
				}
				if !near(got, m.want, 5e-3) && math.Abs(got-m.want) > 1e-6 {
					t.Errorf("%s: %g, not %g", m.what, got, m.want)
				}
			}
			if f := figure(t, out.Report, "shared"); !near(f.Measured, 12*top-c.lacks, 1e-6) || f.Verdict != report.Out {
				t.Errorf("shared: %+v", f)
			}
			high, low := 0.0, 0.0
			for _, d := range out.Compared.Deviation {
				high, low = math.Max(high, d), math.Max(low, -d)
			}
			if !near(high+1, c.outwards+1, 1e-6) || !near(low+1, c.inwards_+1, 1e-6) {
				t.Errorf("vertices lie up to %g outward and %g inward, not %g and %g", high, low, c.outwards, c.inwards_)
			}
			for _, f := range out.Report.Student().Whole {
				if f.Extra || f.Reference != nil {
					t.Errorf("a student sees %s", f.ID)
				}
			}
		})
	}
	// In the wrong unit it is compared in the right one: what else is wrong is seen.
	if out := compared(t, stepAttempt(t, made("12", "7"), oddPose(), 25.4)); out.Compared == nil ||
		out.Compared.TooMuch != nil || out.Compared.Missing == nil || !near(out.Compared.Missing.Props().Volume, 12*ring,
		5e-3) || out.Report.Scale == nil {
		t.Errorf("in the wrong unit: %+v, %+v", out.Report.Scale, out.Report.Whole)
	}
	if out := compared(t, stepAttempt(t, slab(t, "12"), oddPose(), 1)); out.Compared != nil ||
		out.Report.Points != out.Report.OutOf {
		t.Errorf("a right part differs: %g of %g", out.Report.Points, out.Report.OutOf)
	}
}

// TestMeshesAreComparedAsAWhole hands in STL and 3MF: volume, area and moments are judged
// and every size is a question; a flat-faced mesh is as exact as a solid, one of another
// part is out, one that is open or inside out is refused with what to do.
func TestMeshesAreComparedAsAWhole(t *testing.T) {
	k := occ.Kernel{}
	mesh := func(h string, deflection float64) *solid.Mesh {
		m, err := k.Mesh(build(t, slab(t, h), nil).Solid.Shape, deflection, 0.1)
		if err != nil {
			t.Fatal(err)
		}
		return m
	}
	attempt := func(data []byte) (check.Attempt, error) {
		att, err := documents.Recognise("a", data)
		if err != nil {
			return att, err
		}
		return att, documents.ReadMesh(&att)
	}
	pack := func(m *solid.Mesh) []byte {
		data, err := threemf.Write(m, "slab")
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	for _, c := range []struct {
		name string
		data []byte
		want report.Verdict
		kind string
	}{
		{"a fine STL", stl.Write(mesh("12", 0.01)), report.Ask, "stl"}, {"a 3MF", pack(mesh("12", 0.05)), report.Ask, "3mf"},
		{"another part", stl.Write(mesh("13", 0.01)), report.Out, "stl"},
	} {
		t.Run(c.name, func(t *testing.T) {
			att, err := attempt(c.data)
			if err != nil {
				t.Fatal(err)
			}
			r := run(t, slabExercise(), check.Reference{Document: slab(t, "12")}, att)
			if f := figure(t, r, "volume"); f.Verdict != c.want || r.Attempt.Kind != c.kind {
				t.Errorf("volume %+v of a %s", f, r.Attempt.Kind)
			}
			if r.Count(report.Ask) != 3 || r.Count(report.In) != 1 { // the number of solids is known
				t.Errorf("%s", wrong(r))
			}
			if len(r.Findings) == 0 || r.Findings[0].Kind != "mesh" {
				t.Errorf("the first finding is not that it is a mesh: %+v", r.Findings)
			}
		})
	}
	whole := mesh("12", 0.05)
	open, turned := *whole, *whole
	open.Triangles = open.Triangles[3:]
	turned.Triangles = nil
	for i := 0; i < len(whole.Triangles); i += 3 {
		turned.Triangles = append(turned.Triangles, whole.Triangles[i], whole.Triangles[i+2], whole.Triangles[i+1])
	}
	for what, data := range map[string][]byte{"not closed": stl.Write(&open), "face inwards": stl.Write(&turned),
		"cut short":    []byte("solid x\n facet normal 0 0 1\n outer loop\n vertex 0 0 0\n"),
		"is no number": []byte("solid x\n facet normal 0 0 1\n vertex 0 zero 0\n")} {
		att, err := attempt(data)
		if err == nil {
			_, err = checker().Part(ctx,
				check.Subject{Exercise: slabExercise(), Reference: check.Reference{Document: slab(t, "12")}, Attempt: att},
				func(string, float64) {})
		}
		if u, ok := err.(*check.Unusable); !ok || !strings.Contains(u.What, what) || u.Remedy == "" {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// TestWhatIfFiles hands in the part in STEP with one file for each what-if: one that
// follows, one in which a size stayed behind, one that is missing, one in which a size that
// was wrong already is wrong again and counts once, and files whose names say nothing.
func TestWhatIfFiles(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	ex := *b.Parsed
	ex.WhatIfFiles = true
	ex.WhatIfs = slices.Clone(ex.WhatIfs)
	for i := range ex.WhatIfs {
		if ex.WhatIfs[i].Name == "longer gland" { // from the sheet's size, whatever the attempt's is
			ex.WhatIfs[i].Set = map[string]string{"long": "long + 1/2 in"}
		}
	}
	step := func(edits ...string) []byte {
		return stepAttempt(t, edited(t, b, edits...).Document, oddPose(), 1).STEP
	}
	longer, eight := []string{`"long", "value": "2 1/2 in"`, `"long", "value": "3 in"`},
		[]string{`"bolts", "value": "6"`, `"bolts", "value": "8"`}
	thick := []string{`"plate", "value": "5/8 in"`, `"plate", "value": "3/4 in"`}
	with := func(list ...[]string) []string {
		var out []string
		for _, l := range list {
			out = append(out, l...)
		}
		return out
	}
	for _, c := range []struct {
		name   string
		files  map[string][]byte
		part   []byte
		want   string
		points float64 // of the 15 for robustness
	}{
		{"both follow", map[string][]byte{"longer gland": step(longer...), "eight bolts": step(eight...)}, step(),
			"longer gland follows; eight bolts follows; ", 15},
		{"one stays behind", map[string][]byte{"longer gland": step(longer...), "eight bolts": step()}, step(),
			"longer gland follows; eight bolts differs 11 12 13; ", 7.5},
		{"one is missing", map[string][]byte{"eight bolts": step(eight...)}, step(),
			"longer gland missing; eight bolts follows; ", 7.5},
		{"wrong already", map[string][]byte{"longer gland": step(with(thick, longer)...),
			"eight bolts": step(with(thick, eight)...)}, step(thick...), "longer gland follows; eight bolts follows; ", 15},
		{"wrong in the size that is changed", map[string][]byte{"longer gland": step(longer...),
			"eight bolts": step(with([]string{`"long", "value": "2 1/2 in"`, `"long", "value": "2 3/4 in"`}, eight)...)},
			step(`"long", "value": "2 1/2 in"`, `"long", "value": "2 3/4 in"`), "longer gland follows; eight bolts follows; ",
			15},
	} {
		t.Run(c.name, func(t *testing.T) {
			data, err := documents.Pack(c.part, c.files)
			if err != nil {
				t.Fatal(err)
			}
			att, err := documents.Recognise("flange.zip", data)
			if err != nil {
				t.Fatal(err)
			}
			r := run(t, &ex, b.ref, att)
			got := ""
			for _, w := range r.WhatIfs {
				got += w.Name + " " + w.Outcome
				for _, n := range w.Balloons {
					got += fmt.Sprintf(" %d", n)
				}
				got += "; "
			}
			if got != c.want {
				t.Errorf("%q, want %q", got, c.want)
			}
			for _, m := range r.Marks {
				if m.ID == "robustness" && m.Points != c.points {
					t.Errorf("%g points for robustness, not %g", m.Points, c.points)
				}
			}
		})
	}
	data, err := documents.Pack(step(), map[string][]byte{"something else": step()})
	if err != nil {
		t.Fatal(err)
	}
	att, err := documents.Recognise("flange.zip", data)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := checker().Part(ctx, check.Subject{Exercise: &ex, Reference: b.ref, Attempt: att},
		func(string, float64) {}); err == nil || !strings.Contains(err.Error(), `"eight bolts.step"`) {
		t.Errorf("files whose names say nothing: %v", err)
	}
}
