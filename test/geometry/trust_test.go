package geometry

import (
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/check"
	"hammerset/core/grade"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/test/samples"
)

// shapeFindings are the findings on the shape of a part: those but for the pose and the place on datum
// planes, which every part in an odd pose has.
func shapeFindings(r *report.Report) []report.Finding {
	var out []report.Finding
	for _, f := range r.Findings {
		if f.Kind != "pose" && f.Characteristic != "middle" {
			out = append(out, f)
		}
	}
	return out
}

// A mistake of a feature is named first and alone, costs once, and is measured on what is there.
func TestMistakesOfFeaturesAreNamedAndCostOnce(t *testing.T) {
	for _, c := range []struct {
		name, exercise string
		edits          []string
		kind, says     string
		lost           string // characteristics that cost
	}{
		{"no counterbores", "hand-hole-cover", []string{`"form": "counterbore"`, `"form": "plain"`}, "mistake",
			"the counterbore of bolt hole is missing", "head head_deep"},
		{"two holes too many", "hand-hole-cover", []string{`"name": "n", "value": "6"`, `"name": "n", "value": "8"`},
			"size", "the pattern has two too many", "count"},
		{"half of the holes", "hand-hole-cover", []string{`"name": "n", "value": "6"`, `"name": "n", "value": "3"`}, "size",
			"the pattern has three too few", "*"},
		{"one hole of the ring forgotten", "hand-hole-cover", []string{`"count": "n"`, `"count": "n", "skip": [3]`},
			"mistake", "one instance of bolt circle is missing", "*"},
		{"a hole too many in inches", "gland-flange", []string{`"bolts", "value": "6"`, `"bolts", "value": "8"`}, "size",
			"the pattern has two too many", "*"},
		{"the pocket 3 mm off", "pawl-plate", nil, "mistake", "pocket stands 3 mm nearer to the ", ""},
	} {
		b := demoExercise(t, c.exercise)
		doc := edited(t, b, c.edits...).Document
		if c.edits == nil {
			var err error
			if doc, err = doc.Altered([]part.Alteration{part.Moved("e2", solid.Translation(solid.Vec{3, 0, 0}))}); err != nil {
				t.Fatal(err)
			}
		}
		r := run(t, b.Parsed, b.ref, stepAttempt(t, doc, oddPose(), 1))
		list := shapeFindings(r)
		if len(list) != 1 || list[0].Kind != c.kind || !strings.Contains(list[0].What+list[0].Cause, c.says) {
			t.Errorf("%s: %+v", c.name, list)
		}
		lost := 0
		for _, x := range r.Characteristics {
			if (x.Verdict == report.Out || x.Verdict == report.NotFound) && !x.Carried && x.ID != "middle" {
				lost++
				if c.lost != "*" && !strings.Contains(c.lost, x.ID) {
					t.Errorf("%s: %s costs as well", c.name, x.ID)
				}
			}
			if x.Verdict != report.In && x.NominalText == x.MeasuredText {
				t.Errorf("%s: %s states %s, measures %[3]s and is %[4]s", c.name, x.ID, x.NominalText, x.Verdict)
			}
			for _, p := range x.Places {
				if p.Measured != nil && len(p.AttemptFaces) == 0 && x.Kind != "solids" && x.Kind != "mass" && x.Kind != "count" {
					t.Errorf("%s: %s is measured on no face of the attempt", c.name, x.ID)
				}
			}
		}
		if c.lost == "*" && lost != 1 {
			t.Errorf("%s costs %d times", c.name, lost)
		}
		for _, f := range r.Findings {
			sheet, model, is := strings.Cut(strings.TrimPrefix(f.What, "the sheet states "), ", the model measures ")
			if is && strings.HasPrefix(model, sheet) {
				t.Errorf("%s: %s", c.name, f.What)
			}
		}
	}
}

// A size that the reference ties to another one by a formula may be wrong alone: what is right then is in, and
// one more wrong size never raises the mark.
func TestMarksNeverRunBackwards(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	wide := []string{`"width", "value": "120 mm"`, `"width", "value": "121 mm"`}
	points := func(edits ...string) float64 {
		r := run(t, b.Parsed, b.ref, stepAttempt(t, edited(t, b, edits...).Document, oddPose(), 1))
		if !r.Explained {
			t.Errorf("%s is not explained: %+v", strings.Join(edits, " "), r.Causes)
		}
		return r.Points
	}
	right := points()
	alone := points(append(wide, `"value": "width - 24 mm"`, `"value": "96 mm"`)...)
	tied := points(wide...)
	two := points(append(wide, `"value": "width - 24 mm"`, `"value": "98 mm"`)...)
	three := points(append(wide, `"value": "width - 24 mm"`, `"value": "98 mm"`, `"wall", "value": "16 mm"`,
		`"wall", "value": "18 mm"`)...)
	if !(right > alone && alone >= tied-1e-9 && tied > two && two > three) {
		t.Errorf("right %g, width alone %g, with what hangs on it %g, two %g, three %g", right, alone, tied, two, three)
	}
}

// A part whose sizes are all within their limits has full marks and nothing to be told, though no figure of the
// whole is the reference's; beyond a limit it has not.
func TestWithinTheLimitsIsRight(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	for _, c := range []struct {
		edits []string
		right bool
	}{
		{[]string{`"bore", "value": "24 mm"`, `"bore", "value": "24.009 mm"`}, true},
		{[]string{`"bore", "value": "24 mm"`, `"bore", "value": "24.009 mm"`, `"thick", "value": "14 mm"`,
			`"thick", "value": "13.992 mm"`, `"wall", "value": "16 mm"`, `"wall", "value": "16.006 mm"`}, true},
		{[]string{`"bore", "value": "24 mm"`, `"bore", "value": "24.012 mm"`}, false},
	} {
		r := run(t, b.Parsed, b.ref, stepAttempt(t, edited(t, b, c.edits...).Document, oddPose(), 1))
		if right := r.Points == r.OutOf && len(shapeFindings(r)) == 0; right != c.right {
			t.Errorf("%v: %g of %g points, %s, %+v", c.edits, r.Points, r.OutOf, wrong(r), shapeFindings(r))
		}
	}
}

// Two halves that only touch are measured as the part that they are together: their number alone is told.
func TestHalvesAreMeasuredTogether(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	data := samples.Unzip(t, "testdata/gland-flange-halves.step.gz")
	r := run(t, b.Parsed, b.ref, check.Attempt{Name: "halves.step", STEP: data})
	list := shapeFindings(r)
	row := r.Characteristics[len(r.Characteristics)-1]
	rubric := b.Parsed.Rubric // of a STEP file what it cannot show is reached as far as the rest
	lost := rubric.Characteristics / float64(len(r.Characteristics)) / (rubric.Characteristics + rubric.WholePart)
	if want := r.OutOf * (1 - lost); row.Kind != "solids" || math.Abs(r.Points-want) > 0.01 {
		t.Errorf("%g of %g points, want %g: it costs once", r.Points, r.OutOf, want)
	}
	if len(list) != 1 || list[0].Kind != "solids" || strings.Count(wrong(r), ",") > 0 {
		t.Errorf("%s; %+v", wrong(r), list)
	}
	for _, f := range r.Whole {
		if f.ID != "solids" && f.Verdict == report.Out && !f.Extra {
			t.Errorf("%s is out: %s; the faces in which they touch are no surface", f.Label, f.Text)
		}
	}
}

// The reference handed in against itself, as a document or as a file, has no finding; at another exercise it is told
// that it may be the file of another one.
func TestTheRightPartAndAnotherOne(t *testing.T) {
	names := demo.Exercises()
	for k, name := range names {
		b := demoExercise(t, name)
		for _, att := range []check.Attempt{{Name: "model.json", Document: b.ref.Document},
			stepAttempt(t, b.ref.Document, solid.Identity, 1)} {
			r := run(t, b.Parsed, b.ref, att)
			if r.Attempt.Reference != (att.Document != nil) || r.Student().Attempt.Reference {
				t.Errorf("%s, %s: it is the reference itself: %v, and a student reads %v", name, att.Name, r.Attempt.Reference,
					r.Student().Attempt.Reference)
			}
			if att.Document != nil { // what faults cost is worked out for a model with as much to judge as this one
				counts := grade.Sample{Changes: len(robust.Percents), Sketches: len(r.Sketches), Rules: len(r.Practice),
					Sizes: len(r.Sweep) / len(robust.Percents)}
				for _, f := range r.Whole {
					if !f.Extra {
						counts.Figures++
					}
				}
				if want := check.Sample(b.ref.Document); counts != want {
					t.Errorf("%s: there is %+v to judge, and %+v is counted", name, counts, want)
				}
			}
			for _, f := range r.Findings {
				if f.Kind != "ask" && f.Kind != "what-if" { // what a file of geometry cannot say
					t.Errorf("%s, %s: %s: %s", name, att.Name, f.Where, f.What)
				}
			}
		}
		if k%2 > 0 {
			continue
		}
		other := demoExercise(t, names[(k+1)%len(names)])
		r := run(t, b.Parsed, b.ref, stepAttempt(t, other.ref.Document, oddPose(), 1))
		if len(r.Findings) == 0 || r.Findings[0].Kind != "another-part" {
			t.Errorf("%s at %s is not told to be another part: %+v", names[(k+1)%len(names)], name, shapeFindings(r)[:1])
		}
	}
}

// A size that is wrong in one place of a note is told as that, and costs what the same size wrong in all of them
// costs.
func TestOneWrongPlaceCostsNoMoreThanAll(t *testing.T) {
	b := demoExercise(t, "pawl-plate")
	all := edited(t, b, `"name": "d", "value": "7 mm"`, `"name": "d", "value": "8.5 mm"`).Document
	one, err := b.ref.Document.Altered([]part.Alteration{{Step: "h1", Do: part.AlterCopy, Path: "h9"},
		{Step: "h1", Do: part.AlterLeave, Path: "at.2"}, {Step: "h9", Do: part.AlterSet, Path: "at", Text: `["p2"]`},
		{Step: "h9", Do: part.AlterSize, Path: "diameter", Text: "8.5 mm"}})
	if err != nil {
		t.Fatal(err)
	}
	whole := run(t, b.Parsed, b.ref, stepAttempt(t, all, oddPose(), 1))
	single := run(t, b.Parsed, b.ref, stepAttempt(t, one, oddPose(), 1))
	list := shapeFindings(single)
	if len(list) != 1 || !strings.Contains(list[0].What, "one place of corner holes has another diameter, 8.5 mm") {
		t.Errorf("%+v", list)
	}
	for _, x := range single.Characteristics {
		if x.Kind == "diameter" && x.Verdict != report.In && (x.Verdict != report.Out || x.MeasuredText != "8.5") {
			t.Errorf("balloon %d is %s and measures %s", x.Balloon, x.Verdict, x.MeasuredText)
		}
	}
	if single.Points < whole.Points-1e-9 {
		t.Errorf("one wrong place leaves %g points, all four %g", single.Points, whole.Points)
	}
}

// A wrong unit is told as that, with what is wrong beside it, where the figures say little of the unit: a bend ten
// times too large whose pipe is half as thick and has a hole less.
func TestAWrongUnitBesideAnotherMistake(t *testing.T) {
	b := demoExercise(t, "drain-bend")
	thin := edited(t, b, `"name": "od", "value": "34 mm"`, `"name": "od", "value": "17 mm"`,
		`"name": "id", "value": "26 mm"`, `"name": "id", "value": "13 mm"`, `"count": "4"`, `"count": "3"`).Document
	r := run(t, b.Parsed, b.ref, stepAttempt(t, thin, oddPose(), 10))
	if r.Scale == nil || math.Abs(r.Scale.Factor-0.1) > 1e-9 || r.Findings[0].Kind != "unit" {
		t.Fatalf("scale %+v, %+v", r.Scale, r.Findings[:1])
	}
	said := ""
	for _, f := range r.Findings {
		said += f.Where + ": " + f.What + "\n"
	}
	for _, want := range []string{
		"Pipe, outside: the sheet states 34, the model measures 170; with the unit put right it would be 17",
		"Bolt holes: 1 of 4 places are missing\n", "Bolt circle: there are 3, and the sheet asks for 4\n"} {
		if !strings.Contains(said, want) {
			t.Errorf("%q is not said in\n%s", want, said)
		}
	}
	if strings.Contains(said, "Flange:") || strings.Contains(said, "of another exercise") {
		t.Errorf("what is right but for the unit is told:\n%s", said)
	}
}

// A feature that is missing leaves its characteristics without a place in the reference that the attempt is varied
// beside: the check goes on without them, and tells what is weak as well.
func TestAMissingFeatureInAWeakModel(t *testing.T) {
	b := demoExercise(t, "hand-hole-cover")
	tied := edited(t, b, `"name": "bore", "value": "20 mm"`, `"name": "bore", "value": "hub - 30 mm"`).Document
	doc, err := tied.Altered(nil)
	if err != nil {
		t.Fatal(err)
	}
	doc.Steps = slices.DeleteFunc(doc.Steps, func(s part.Step) bool { return s.ID == "f1" })
	said := ""
	for _, f := range run(t, b.Parsed, b.ref, check.Attempt{Name: "weak.json", Document: doc}).Findings {
		said += f.Where + ": " + f.What + "; " + f.Cause + "\n"
	}
	for _, want := range []string{"hub foot is missing", "changes with it and should stay", "bore = hub - 30 mm"} {
		if !strings.Contains(said, want) {
			t.Errorf("%q is not said in\n%s", want, said)
		}
	}
}
