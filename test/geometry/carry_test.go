package geometry

import (
	"strings"
	"testing"

	"hammerset/core/check"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/formats/documents"
)

// One wrong size costs once: what hangs on it is measured out, told with it, and judged
// against the reference with that size in it.
func TestOneErrorCostsOnce(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	doc := edited(t, b, `"wall", "value": "16 mm"`, `"wall", "value": "18 mm"`)
	for _, att := range []check.Attempt{doc, stepAttempt(t, doc.Document, oddPose(), 1)} {
		r := run(t, b.Parsed, b.ref, att)
		carried := ""
		for _, c := range r.Characteristics {
			if c.Carried {
				carried += c.ID + " "
			}
		}
		if w := wrong(r); w != "wall out, proud out" || strings.TrimSpace(carried) != "proud" || !r.Explained {
			t.Errorf("%s: %s; carried %s, explained %v", att.Name, w, carried, r.Explained)
		}
		if len(r.Causes) != 1 || r.Causes[0].Characteristic != "wall" || r.Causes[0].Sure != "likely" {
			t.Errorf("%s: %+v", att.Name, r.Causes)
		}
		told := 0
		for _, f := range r.Findings {
			if f.Kind == "size" {
				told++
				if f.Characteristic != "wall" || !strings.Contains(f.What, "depends on it") {
					t.Errorf("%s: %+v", att.Name, f)
				}
			}
		}
		for _, m := range r.Marks {
			if m.ID == "whole" && m.Points != m.OutOf {
				t.Errorf("%s: the whole part is marked %g of %g (%s)", att.Name, m.Points, m.OutOf, m.Reason)
			}
		}
		if told != 1 {
			t.Errorf("%s: %d findings of sizes", att.Name, told)
		}
	}
}

// A turned part from which the only features off its axis are missing has no pose about
// that axis; the rest of it is measured all the same.
func TestTurnedPartWithoutItsHoles(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	bare, err := b.ref.Document.Altered([]part.Alteration{{Step: "h1", Do: part.AlterSet, Path: "off", Text: "true"},
		{Step: "c1", Do: part.AlterSet, Path: "off", Text: "true"}})
	if err != nil {
		t.Fatal(err)
	}
	for _, move := range []solid.Transform{solid.Identity, oddPose()} {
		r := run(t, b.Parsed, b.ref, stepAttempt(t, bare, move, 1))
		if w := wrong(r); w != "bolt not found, circle not found, spacing not found" {
			t.Errorf("%s", w)
		}
		if len(r.Causes) != 1 || r.Causes[0].Kind != "missing" || !strings.Contains(r.Causes[0].What, "bolt hole") {
			t.Errorf("%+v", r.Causes)
		}
	}
}

// Sizes that are so far off that their faces lie elsewhere altogether are still found and
// measured, and the others are right.
func TestFacesFarFromTheirPlace(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	doc := edited(t, b, `"long", "value": "2 1/2 in"`, `"long", "value": "5 in"`)
	r := run(t, b.Parsed, b.ref, stepAttempt(t, doc.Document, oddPose(), 1))
	if w := wrong(r); w != "long out" {
		t.Errorf("%s", w)
	}
	for _, c := range r.Characteristics {
		if c.ID == "long" && (c.MeasuredText != "5" || c.Verdict != report.Out) {
			t.Errorf("%+v", c)
		}
	}
}

// A wrong size costs nothing in robustness: the model is varied beside the reference with that size in it, by its
// sketches too, and the place of the part is that on this reference. What does not follow for another reason is told
// all the same.
func TestAWrongSizeIsNoLackOfRobustness(t *testing.T) {
	for _, c := range []struct {
		name, exercise string
		edits          []string
		still          string // the parameter that does not follow
	}{
		{"the neighbour's value", "guide-block", []string{`"h", "value": "1 1/2 in"`, `"h", "value": "2 1/4 in"`}, ""},
		{"two sizes", "guide-block", []string{`"gd", "value": "5/8 in"`, `"gd", "value": "7/8 in"`,
			`"px", "value": "2 3/4 in"`, `"px", "value": "2 1/2 in"`}, ""},
		{"and one that is typed", "guide-block", []string{`"h", "value": "1 1/2 in"`, `"h", "value": "1 3/4 in"`,
			`"value": "gw"`, `"value": "1 1/8 in"`}, "gw"},
		{"a place left out", "pawl-plate", []string{`"at": ["p0", "p1", `, `"at": ["p1", `}, ""},
	} {
		b := demoExercise(t, c.exercise)
		var err error
		if b.ref.Atlas, err = documents.ReadAtlas(b.Atlas, b.Parsed, b.ref.Document); err != nil {
			t.Fatal(err)
		}
		r := run(t, b.Parsed, b.ref, edited(t, b, c.edits...))
		for _, s := range r.Sweep {
			follows := s.Outcome == report.Follows || s.Outcome == report.BothEnd || s.Outcome == report.NoAnswer
			if follows != (s.Parameter != c.still) {
				t.Errorf("%s: %s at %+g %%: %s, %s", c.name, s.Parameter, s.Percent, s.Outcome, s.Detail)
			}
		}
		for _, f := range r.Findings {
			if f.Kind == "interval" || f.Kind == "pose" {
				t.Errorf("%s: %+v", c.name, f)
			}
		}
		if !r.Explained || wrong(r) == "" {
			t.Errorf("%s: explained %v; %s", c.name, r.Explained, wrong(r))
		}
	}
}

// A hole too few is an error of its own beside a wrong unit.
func TestAWrongUnitHidesNoCount(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	r := run(t, b.Parsed, b.ref, stepAttempt(t, edited(t, b, `"bolts", "value": "6"`, `"bolts", "value": "5"`).Document,
		oddPose(), 25.4))
	for _, c := range r.Characteristics {
		if c.ID == "circle" && (c.Carried || c.Behind || !strings.Contains(c.Reason, "there are 5")) ||
			c.ID == "D" && !c.Carried {
			t.Errorf("%s: %s, carried %v, %s", c.ID, c.Verdict, c.Carried, c.Reason)
		}
	}
	if r.Scale == nil {
		t.Error("the unit is not recognised")
	}
}

// A wrong unit is one error: the sizes are out, and cost nothing beside it; how they follow is judged with the
// unit put right; and a size that is wrong in the right unit too is told.
func TestAWrongUnitCostsOnce(t *testing.T) {
	b := demoExercise(t, "winch-spindle")
	inches := func(pairs ...string) check.Attempt {
		data, err := demo.Edited(b.Reference, pairs...)
		if err != nil {
			t.Fatal(err)
		}
		d, err := documents.ReadModel([]byte(strings.ReplaceAll(strings.ReplaceAll(string(data), ` mm"`, ` in"`),
			`"unit": "mm"`, `"unit": "in"`)))
		if err != nil {
			t.Fatal(err)
		}
		return check.Attempt{Name: "attempt.json", Document: d}
	}
	for _, c := range []struct {
		name    string
		att     check.Attempt
		said    string
		charged int
	}{
		{"inches", inches(), "", 0},
		{"inches, and a collar too thick", inches(`"d2", "value": "44 mm"`, `"d2", "value": "46 mm"`),
			"with the unit put right it would be 46", 2},
	} {
		r := run(t, b.Parsed, b.ref, c.att)
		charged, said := 0, ""
		for _, x := range r.Characteristics {
			if x.Verdict != report.In && !x.Carried {
				charged++
			}
			if x.Verdict == report.In && x.Measured != nil && x.Kind == "diameter" {
				t.Errorf("%s: %s is in in the wrong unit", c.name, x.ID)
			}
		}
		for _, f := range r.Findings {
			if f.Kind == "size" {
				said += f.What + "; "
			}
			if f.Kind == "interval" {
				t.Errorf("%s: %+v", c.name, f)
			}
		}
		for _, s := range r.Sweep {
			if s.Outcome != report.Follows && s.Outcome != report.BothEnd && s.Outcome != report.NoAnswer {
				t.Errorf("%s: %s at %+g %%: %s, %s", c.name, s.Parameter, s.Percent, s.Outcome, s.Detail)
			}
		}
		if r.Scale == nil || charged != c.charged || (c.said == "") != (said == "") || !strings.Contains(said, c.said) {
			t.Errorf("%s: scale %v, %d charged, said %q", c.name, r.Scale, charged, said)
		}
	}
}
