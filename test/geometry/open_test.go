package geometry

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/core/solid"
	"hammerset/formats/lettering"
	"hammerset/kernel/occ"
)

// Nobody is marked on what the sheet does not say. On a sheet without the thickness of a plate and without the depth of
// its pocket, attempts of another thickness are right in every figure, with a model as the reference; with a STEP file,
// which cannot be made anew with the student's thickness, the figures are asked about. What is stated and wrong still
// costs, and a pocket that is not there is seen on any sheet.
func TestNobodyIsMarkedOnWhatTheSheetLeavesOpen(t *testing.T) {
	ctx := context.Background()
	made := func(long, thick, deep string, pocket bool) *part.Document {
		params := fmt.Sprintf(`{"name":"long","value":%q},{"name":"thick","value":%q},{"name":"deep","value":%q}`, long,
			thick, deep)
		plate := constrained(outline("s1", xy, 0, 0, 80, 0, 80, 50, 0, 50), `{"id":"a","kind":"coincident","of":["p0",
	"origin"]},{"id":"b","kind":"horizontal","of":["l0"]},{"id":"c","kind":"vertical","of":["l1"]},{"id":"d",
	"kind":"horizontal","of":["l2"]},{"id":"e","kind":"vertical","of":["l3"]},{"id":"f","kind":"length","of":["l0"],
	"value":"long"},{"id":"g","kind":"length","of":["l1"],"value":"50 mm"}`)
		steps := []string{plate, extrude("e1", "s1", oneSide("thick"), "")}
		if pocket {
			steps = append(steps, outline("s2", `{"face":"e1/end"}`, 10, 10, 30, 10, 30, 40, 10, 40),
				cut("u2", "s2", oneSide("deep"), ""))
		}
		return model(t, "mm", params, steps...)
	}
	reference := made("80 mm", "12 mm", "5 mm", true)
	size := func(id string, balloon int, of ...string) exercise.Characteristic {
		return exercise.Characteristic{ID: id, Kind: "distance", Label: id, Balloon: balloon,
			Of: [][]address.Ref{address.List(of...)}}
	}
	ex := sheet.Plain("Plate", "mm", "reference.json", 1)
	ex.Characteristics = append(ex.Characteristics, size("long", 2, "e1/side:l1", "e1/side:l3"),
		size("wide", 3, "e1/side:l0", "e1/side:l2"), size("pocket", 4, "u2/side:l1", "u2/side:l3"),
		size("high", 5, "u2/side:l0", "u2/side:l2"), size("from left", 6, "e1/side:l3", "u2/side:l3"),
		size("from below", 7, "e1/side:l0", "u2/side:l0"))
	ref := check.Reference{Document: reference}
	font, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	prepared, err := prepare.Exercise(ctx, checker(), ex, ref, font)
	if err != nil {
		t.Fatal(err)
	}
	if ex.Loose = prepared.Loose; len(ex.Loose) != 2 || len(ex.Loose[0].Of) == 0 || len(ex.Loose[1].Of) == 0 {
		t.Fatalf("thickness and depth are missing, and the audit finds %+v", ex.Loose)
	}
	if ref.Atlas, err = atlas.Build(ctx, part.NewRebuilder(occ.Kernel{}), ex, reference, func(float64) {}); err != nil {
		t.Fatal(err)
	}
	file := check.Reference{STEP: stepAttempt(t, reference, solid.Identity, 1).STEP}
	named := *ex
	named.Characteristics = append([]exercise.Characteristic{}, ex.Characteristics[:1]...) // a file has other names
	named.Reference = "reference.step"
	byFile, err := prepare.Exercise(ctx, checker(), &named, file, font)
	if err != nil {
		t.Fatal(err)
	}
	named.Loose = byFile.Loose
	posed := solid.Rotation(solid.Vec{}, solid.Vec{1, 2, 3}, 0.6).Then(solid.Translation(solid.Vec{31, -7, 12}))
	verdicts := func(r *report.Report) string {
		var out []string
		for _, c := range r.Characteristics {
			if c.Verdict != report.In {
				out = append(out, c.ID+" "+string(c.Verdict))
			}
		}
		for _, f := range r.Whole {
			if f.Verdict != report.In && !f.Extra {
				out = append(out, f.ID+" "+string(f.Verdict))
			}
		}
		return strings.Join(out, ", ")
	}
	for _, c := range []struct {
		name, want, byFile string
		att                *part.Document
	}{
		{"as the reference", "", "", made("80 mm", "12 mm", "5 mm", true)},
		{"thicker", "", "ask", made("80 mm", "15 mm", "5 mm", true)},
		{"thinner, and not so deep", "", "ask", made("80 mm", "9 mm", "3.5 mm", true)},
		{"longer and thicker", "long out", "", made("84 mm", "15 mm", "5 mm", true)},
		{"without the pocket", "pocket not found", "", made("80 mm", "12 mm", "5 mm", false)},
	} {
		r := run(t, ex, ref, stepAttempt(t, c.att, posed, 1))
		got := verdicts(r)
		if c.want == "" && (got != "" || r.Points < r.OutOf-1e-9) || !strings.HasPrefix(got, c.want) {
			t.Errorf("%s: %q, %g of %g; wanted %q", c.name, got, r.Points, r.OutOf, c.want)
		}
		if slices.ContainsFunc(r.Causes, func(x report.Cause) bool { return strings.Contains(x.What, "thick") }) {
			t.Errorf("%s: the thickness is told as a mistake: %+v", c.name, r.Causes)
		}
		if c.name == "longer and thicker" && (len(r.Causes) != 1 || r.Causes[0].Characteristic != "long") {
			t.Errorf("%s: behind it is %+v", c.name, r.Causes)
		}
		if c.want != "" {
			continue
		}
		r = run(t, &named, file, stepAttempt(t, c.att, posed, 1))
		if got := verdicts(r); strings.Contains(got, "out") || strings.Contains(got, "ask") != (c.byFile == "ask") {
			t.Errorf("%s, by a file: %q", c.name, got)
		}
	}
}
