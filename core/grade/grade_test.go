package grade

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"hammerset/core/address"
	"hammerset/core/diagnose"
	"hammerset/core/exercise"
	"hammerset/core/report"
)

func sample() *report.Report {
	m, d := 20.0, 2.0
	return &report.Report{Unit: "mm", Attempt: report.Attempt{Kind: "model"}, Pose: &report.Pose{AsModeled: true},
		Characteristics: []report.Characteristic{
			{ID: "a", Balloon: 1, Kind: "distance", Label: "A", Nominal: 10, NominalText: "10", Verdict: report.In, Weight: 1},
			{ID: "b", Balloon: 2, Kind: "distance", Label: "B", Nominal: 18, NominalText: "18", Measured: &m, MeasuredText: "20",
				Deviation: &d, Verdict: report.Out, Weight: 2,
				Places: []report.Place{{Verdict: report.Out, ReferenceFaces: address.Faces([]int{4}),
					AttemptFaces: address.Faces([]int{5})}}},
			{ID: "c", Balloon: 3, Kind: "diameter", Label: "C", Nominal: 5, NominalText: "5", Verdict: report.Ask, Weight: 1},
		},
		Whole: []report.Figure{{ID: "solids", Verdict: report.In}, {ID: "volume", Reference: &m, Deviation: "+3 %",
			Verdict: report.Out}},
		Sweep: []report.Sweep{{Parameter: "p", Percent: 10, Outcome: report.Follows},
			{Parameter: "p", Percent: 25, Outcome: report.BothEnd}, {Parameter: "q", Percent: 10, Outcome: report.Breaks,
				Detail: "step f1 fails"}, {Parameter: "q", Percent: 25, Outcome: report.Follows}},
		Sketches: []report.Sketch{{Step: "s1", Held: true}, {Step: "s2", Freedom: 2, Loose: []string{"p1"}}},
	}
}

var rubric = exercise.Rubric{Characteristics: 40, WholePart: 20, Robustness: 20, Sketches: 20}

// What a fault costs follows from the rubric: 60 points over weights of 3, 15 over 6 figures, 15 over 10 sizes with 3
// changes each, 10 over 4 sketches, 5 over 3 rules.
func TestWorths(t *testing.T) {
	ex := &exercise.Exercise{Rubric: exercise.Rubric{Characteristics: 60, WholePart: 15, Robustness: 15, Sketches: 10,
		Practice: 5}, Characteristics: []exercise.Characteristic{{ID: "a", Weight: 2}, {ID: "b"}}}
	want := map[string]float64{"one characteristic of weight 1 is out": 20, "one of the 6 figures": 2.5,
		"one of 3 changes of one size": 0.5, "one of the 10 driving sizes": 1.5, "everything is typed": 15,
		"one of 4 sketches": 2.5, "no sketch is held": 10, "one of 3 rules": 1.67, "all else is not": 30}
	list := Worths(ex, Sample{Figures: 6, Sizes: 10, Changes: 3, Sketches: 4, Rules: 3})
	for _, w := range list {
		for fault, costs := range want {
			if strings.Contains(w.Fault, fault) {
				if math.Abs(w.Costs-costs) > 1e-9 || math.Abs(w.Leaves+w.Costs-105) > 0.006 || w.OutOf != 105 {
					t.Errorf("%+v, want %g", w, costs)
				}
				delete(want, fault)
			}
		}
	}
	if len(want) > 0 {
		t.Errorf("nothing is said of %v in %+v", want, list)
	}
	// Of a reference that is a file of geometry, only what it shows.
	if list := Worths(ex, Sample{Figures: 6}); len(list) != 2 || list[0].Costs != 28 || list[0].OutOf != 105 {
		t.Errorf("%+v", list)
	}
}

func TestMarks(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(*report.Report)
		want   map[string]float64
		outOf  float64
	}{
		{"a mixed model", func(*report.Report) {}, map[string]float64{"characteristics": 10, "whole": 10, "robustness": 15,
			"sketches": 10}, 100},
		{"STEP is out of all points", func(r *report.Report) {
			r.Attempt.Kind = "step"
			r.Sweep, r.Sketches = nil, nil
		}, map[string]float64{"characteristics": 10, "whole": 10, "sketches": 6.67}, 100},
		{"what is carried forward costs nothing", func(r *report.Report) {
			r.Characteristics[1].Carried = true
			r.Whole[1].Carried = true
		}, map[string]float64{"characteristics": 30, "whole": 20}, 100},
		{"where the reference itself ends nothing is judged", func(r *report.Report) {
			for i := range r.Sweep {
				if r.Sweep[i].Outcome != report.Follows && r.Sweep[i].Outcome != report.BothEnd {
					r.Sweep[i].Outcome = report.NoAnswer
				}
			}
		}, map[string]float64{"robustness": 20}, 100},
		{"a mirror image", func(r *report.Report) { r.Pose.Mirrored = true }, map[string]float64{"whole": 0}, 100},
		{"a wrong unit", func(r *report.Report) { r.Scale = &report.Scale{Factor: 25.4} }, map[string]float64{"whole": 0},
			100},
		{"a spare constraint", func(r *report.Report) {
			r.Sketches[0].Spare = []string{"k"}
		}, map[string]float64{"sketches": 0}, 100},
	} {
		r := sample()
		c.change(r)
		before := fmt.Sprintf("%+v", *r)
		m := Mark(r, &exercise.Exercise{Rubric: rubric}, Circumstances{Number: 1})
		if after := fmt.Sprintf("%+v", *r); after != before {
			t.Errorf("%s: marking changes the report: %s, was %s", c.name, after, before)
		}
		m.Onto(r)
		got := map[string]float64{}
		sum := 0.0
		for _, m := range r.Marks {
			got[m.ID] = m.Points
			sum += m.Points
			went := 0.0
			for _, l := range m.Lost {
				went += l.Points
			}
			if math.Abs(m.OutOf-m.Points-went) > 0.02 {
				t.Errorf("%s: of %s %g points are lost, and %g are accounted for", c.name, m.ID, m.OutOf-m.Points, went)
			}
			if m.Reason == "" || m.Points > m.OutOf || m.ID == "characteristics" && !m.Ask {
				t.Errorf("%s: %+v", c.name, m)
			}
		}
		for id, p := range c.want {
			if got[id] != p {
				t.Errorf("%s: %s gives %g, want %g", c.name, id, got[id], p)
			}
		}
		if r.OutOf != c.outOf || r.Points != sum {
			t.Errorf("%s: %g of %g", c.name, r.Points, r.OutOf)
		}
	}
}

// Findings come with the most urgent first, each with what to do, and a
// student's report holds nothing of the reference.
func TestFindingsAndStudentReport(t *testing.T) {
	r := sample()
	r.Steps = []report.Step{{ID: "e3", Name: "boss", Failed: true, Message: "step e3 (boss): it does not fit"}}
	r.Findings = diagnose.Findings(r)
	var kinds []string
	for i, f := range r.Findings {
		kinds = append(kinds, f.Kind)
		if f.Remedy == "" || f.What == "" || f.Where == "" || f.ID == "" {
			t.Errorf("finding %d is incomplete: %+v", i, f)
		}
	}
	if got := strings.Join(kinds, " "); got != "step size loose breaks ask" {
		t.Errorf("order: %s", got)
	}
	s := r.Student()
	if s.Whole[1].Reference != nil || s.Whole[1].Deviation != "" || s.Characteristics[1].Places[0].ReferenceFaces != nil {
		t.Errorf("the student sees %+v", s)
	}
	if r.Whole[1].Reference == nil || r.Characteristics[1].Places[0].ReferenceFaces == nil ||
		s.Characteristics[1].Places[0].AttemptFaces == nil {
		t.Error("the instructor's report was changed, or too much was taken")
	}
}

// What hangs on a cause is told with it and not again; the cause's own words go to the
// characteristic that shows it. The student is not told the reference's parameter.
func TestCausesAreToldOnce(t *testing.T) {
	r := sample()
	r.Characteristics[0].Verdict, r.Characteristics[0].Behind, r.Characteristics[0].Carried = report.Out, true, true
	r.Causes = []report.Cause{{Kind: "double", Characteristic: "b", Balloon: 2, Parameter: "secret", What: "B is off",
		Cause: "the total was given on each side", Remedy: "halve it", Sure: "likely", Also: []int{1, 7}},
		{Kind: "missing", What: "the rib is missing", Cause: "the feature was forgotten", Remedy: "add it", Sure: "likely",
			Also: []int{}}}
	r.Findings = diagnose.Findings(r)
	told := map[string]int{}
	for _, f := range r.Findings {
		told[f.Characteristic]++
		switch {
		case f.Characteristic == "b" && (f.Cause != "the total was given on each side" ||
			!strings.Contains(f.What, "balloons 1 and 7 depend on it") || f.Sure != "likely"):
			t.Errorf("%+v", f)
		case f.Kind == "mistake" && (f.What != "the rib is missing" || f.Remedy != "add it"):
			t.Errorf("%+v", f)
		}
	}
	if told["a"] != 0 || told["b"] != 1 || !strings.Contains(fmt.Sprint(r.Findings), "the rib is missing") ||
		!strings.Contains(fmt.Sprint(r.Findings), "does not explain all") {
		t.Errorf("%+v", r.Findings)
	}
	r.Explained = true
	r.Findings = diagnose.Findings(r)
	if strings.Contains(fmt.Sprint(r.Findings), "does not explain all") {
		t.Error("a rest is told where there is none")
	}
	if s := r.Student(); s.Causes[0].Parameter != "" || r.Causes[0].Parameter != "secret" {
		t.Errorf("the student reads %q", s.Causes[0].Parameter)
	}
}

func TestCompare(t *testing.T) {
	before, after := sample(), sample()
	after.Characteristics[0].Verdict = report.NotFound
	after.Characteristics[1].Verdict = report.In
	var got []string
	for _, c := range report.Compare(before, after) {
		got = append(got, c.Label+" "+c.Kind)
	}
	if strings.Join(got, ", ") != "A newly wrong, C still wrong, B fixed" {
		t.Errorf("%v", got)
	}
}

// Caps, lateness and further attempts take off by what the rubric says, each as a line of
// its own, and never more than there is; weights are those of the exercise, and the points
// are always the sum of the lines.
func TestWhatIsTakenOff(t *testing.T) {
	day := 24 * time.Hour
	full := exercise.Rubric{Characteristics: 40, WholePart: 20, Robustness: 20, Sketches: 20}
	for _, c := range []struct {
		name   string
		rubric func(*exercise.Rubric)
		change func(*report.Report)
		by     Circumstances
		want   string
		points float64
	}{
		{"as before", func(*exercise.Rubric) {}, func(*report.Report) {}, Circumstances{Number: 3, Late: day}, "", 45},
		{"a day and an hour late", func(r *exercise.Rubric) { r.Late = &exercise.Deduction{Each: 10, Most: 50} },
			func(*report.Report) {}, Circumstances{Number: 1, Late: day + time.Hour}, "late -20", 25},
		{"a month late", func(r *exercise.Rubric) { r.Late = &exercise.Deduction{Each: 10, Most: 30} },
			func(*report.Report) {}, Circumstances{Number: 1, Late: 30 * day}, "late -30", 15},
		{"later than there are points", func(r *exercise.Rubric) { r.Late = &exercise.Deduction{Each: 100, Most: 100} },
			func(*report.Report) {}, Circumstances{Number: 1, Late: day}, "late -45", 0},
		{"the third attempt", func(r *exercise.Rubric) { r.Repeats = &exercise.Deduction{Each: 5, Most: 50} },
			func(*report.Report) {}, Circumstances{Number: 3}, "repeats -10", 35},
		{"a cap that does not bite", func(r *exercise.Rubric) { r.Caps = []exercise.Cap{{When: "mirror", Percent: 20}} },
			func(*report.Report) {}, Circumstances{Number: 1}, "", 45},
		{"the lowest cap, and then late", func(r *exercise.Rubric) {
			r.Caps = []exercise.Cap{{When: "mirror", Percent: 20}, {When: "unit", Percent: 10}}
			r.Late = &exercise.Deduction{Each: 5, Most: 50}
		}, func(r *report.Report) { r.Pose.Mirrored = true; r.Scale = &report.Scale{Factor: 25.4} },
			Circumstances{Number: 1, Late: day}, "cap -25, late -5", 5},
		{"good practice", func(r *exercise.Rubric) { r.Practice = 10 }, func(r *report.Report) {
			r.Practice = []report.Practice{{ID: "names", Share: 0.5, Detail: "half have none"}, {ID: "origin", Share: 1}}
		}, Circumstances{Number: 1}, "practice 7.5", 52.5},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, rubric := sample(), full
			c.rubric(&rubric)
			c.change(r)
			if err := rubric.Check(exercise.Part); err != nil {
				t.Fatal(err)
			}
			Mark(r, &exercise.Exercise{Rubric: rubric}, c.by).Onto(r)
			var got []string
			sum := 0.0
			for _, m := range r.Marks {
				sum += m.Points
				if m.OutOf == 0 || m.ID == "practice" {
					got = append(got, fmt.Sprintf("%s %g", m.ID, m.Points))
				}
			}
			if s := strings.Join(got, ", "); s != c.want || r.Points != c.points || r.Points != sum {
				t.Errorf("%q and %g points (sum %g), want %q and %g", s, r.Points, sum, c.want, c.points)
			}
		})
	}
	r := sample()
	Mark(r, &exercise.Exercise{Rubric: full, Characteristics: []exercise.Characteristic{{ID: "a", Weight: 3},
		{ID: "b", Free: true}, {ID: "c"}}}, Circumstances{Number: 1}).Onto(r)
	if m := r.Marks[0]; m.Points != 30 { // three of four
		t.Errorf("weights of the exercise: %+v", m)
	}
	for place, bad := range map[string]exercise.Rubric{"/rubric": {}, "/rubric/sketches": {Characteristics: 1,
		Sketches: -1}, "/rubric/late": {Characteristics: 1, Late: &exercise.Deduction{Each: 20, Most: 10}},
		"/rubric/caps/0/when":    {Characteristics: 1, Caps: []exercise.Cap{{When: "rain"}}},
		"/rubric/caps/0/percent": {Characteristics: 1, Caps: []exercise.Cap{{When: "unit", Percent: 101}}}} {
		if err := bad.Check(exercise.Part); err == nil || !strings.HasPrefix(err.Error(), place+":") {
			t.Errorf("%s: %v", place, err)
		}
	}
}

// What an attempt cannot show is reached as far as the rest, lost, or for a person, and is always out of all points;
// the student reads beforehand which.
func TestWhatCannotBeShown(t *testing.T) {
	for way, c := range map[string]struct {
		robustness float64
		asks       bool
		says       string
	}{
		"":                {20.0 * 20 / 60, false, "as much of them as of the rest"},
		exercise.Scaled:   {20.0 * 20 / 60, false, "as much of them as of the rest"},
		exercise.Nothing:  {0, false, "they are lost"},
		exercise.ByPerson: {0, true, "your instructor gives them"},
	} {
		ex := &exercise.Exercise{Kind: exercise.Part, Rubric: rubric}
		ex.Rubric.Unshown = way
		r := sample()
		r.Attempt.Kind, r.Sweep, r.Sketches = "step", nil, nil
		m := Mark(r, ex, Circumstances{Number: 1})
		if m.OutOf != 100 || len(m.Marks) != 4 {
			t.Errorf("%q: out of %g, %d marks", way, m.OutOf, len(m.Marks))
		}
		for _, x := range m.Marks[2:] {
			if math.Abs(x.Points-c.robustness) > 0.006 || x.Ask != c.asks || x.Unshown == "" || x.Reason == "" {
				t.Errorf("%q: %+v, want %g", way, x, c.robustness)
			}
		}
		if got := Beforehand(ex); !strings.Contains(got, "constraint robustness and sketch health (40 of 100 points)") ||
			!strings.Contains(got, c.says) {
			t.Errorf("%q: beforehand %q", way, got)
		}
	}
	// A model shows everything, and nothing that is asked for is said of an exercise that has nothing else.
	m := Mark(sample(), &exercise.Exercise{Kind: exercise.Part, Rubric: rubric}, Circumstances{Number: 1})
	for _, x := range m.Marks {
		if x.Unshown != "" {
			t.Errorf("%+v", x)
		}
	}
	if got := Beforehand(&exercise.Exercise{Rubric: exercise.Rubric{Characteristics: 1}}); got != "" {
		t.Errorf("said without need: %q", got)
	}
}
