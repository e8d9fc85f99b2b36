package diagnose

import (
	"strings"
	"testing"

	"hammerset/core/report"
)

func number(v float64) *float64 { return &v }

// size is a characteristic that is out.
func size(id string, balloon int, kind string, nominal, measured float64) report.Characteristic {
	dev := measured - nominal
	return report.Characteristic{ID: id, Balloon: balloon, Kind: kind, Label: "Size " + id, Nominal: nominal,
		NominalText: "N" + id, Measured: number(measured), MeasuredText: "M" + id, Deviation: &dev, Verdict: report.Out,
		Places: []report.Place{{Verdict: report.Out}}}
}

func in(c report.Characteristic) report.Characteristic {
	c.Verdict = report.In
	c.Measured = number(c.Nominal)
	return c
}

// The usual mistakes are told by the ratio of a wrong size to the sheet's, or to
// another size of the sheet.
func TestCausesOfWrongSizes(t *testing.T) {
	other := in(size("other", 9, "distance", 14, 14))
	for _, c := range []struct {
		name string
		out  report.Characteristic
		unit string
		say  string
		sure string
	}{
		{"diameter for radius", size("a", 1, "radius", 6, 12), "mm", "diameter was typed where the radius", "likely"},
		{"radius for diameter", size("a", 1, "diameter", 24, 12), "mm", "radius was typed where the diameter", "likely"},
		{"total on each side", size("a", 1, "distance", 25, 50), "mm", "the total was given on each side", "possible"},
		{"complement", size("a", 1, "angle", 38, 52), "mm", "complement", "likely"},
		{"supplement", size("a", 1, "angle", 38, 142), "mm", "supplement", "likely"},
		{"inches for millimetres", size("a", 1, "distance", 3, 76.2), "mm", "wrong unit", "likely"},
		{"a neighbour's value", size("a", 1, "distance", 31, 14), "mm", "neighbouring dimension (balloon 9", "likely"},
		{"from the wrong face", size("a", 1, "distance", 31, 45), "mm", "off by exactly the size at balloon 9", "likely"},
		{"a rounded fraction", size("a", 1, "distance", 7.9375, 7.9502), "in", "rounded decimal", "likely"},
		{"nothing known", size("a", 1, "distance", 31, 33.7), "mm", "", "possible"},
	} {
		r := &report.Report{Unit: c.unit, Characteristics: []report.Characteristic{c.out, other}}
		r.Findings = Findings(r)
		if len(r.Findings) != 1 {
			t.Errorf("%s: %d findings", c.name, len(r.Findings))
			continue
		}
		f := r.Findings[0]
		if f.Balloon != 1 || f.Sure != c.sure || !strings.Contains(f.Cause, c.say) || c.say == "" && f.Cause != "" ||
			f.Remedy == "" || !strings.Contains(f.What, "Ma") {
			t.Errorf("%s: %+v", c.name, f)
		}
	}
}

// A part that nothing explains and that has the figures of another exercise's part is told as that, before all else;
// one that is explained, or has the volume of this exercise's part, is not.
func TestThePartOfAnotherExercise(t *testing.T) {
	others := []Other{{"Pawl plate, MCW-112", report.Bulk{Solids: 1, Volume: 59900, Area: 15925, Inertia: 6.4e7}},
		{"Guide block, MCW-9", report.Bulk{Solids: 1, Volume: 1e5, Area: 2e4, Inertia: 1e8}}}
	for name, c := range map[string]struct {
		volume, area float64
		verdict      report.Verdict
		explained    bool
		want         string
	}{
		"the other part":         {59901, 15925.5, report.Out, false, "Pawl plate, MCW-112"},
		"another area":           {59901, 16100, report.Out, false, ""},
		"the same volume":        {59900, 15925, report.In, false, ""},
		"explained by a mistake": {59900, 15925, report.Out, true, ""},
	} {
		r := &report.Report{Unit: "mm", Explained: c.explained, Whole: []report.Figure{
			{ID: "volume", Measured: c.volume, Verdict: c.verdict}, {ID: "area", Measured: c.area, Verdict: c.verdict},
			{ID: "moments", Measured: 6.4e7, Verdict: c.verdict}}}
		Recognise(r, others)
		if r.Another != c.want || (c.want != "") != (len(r.Findings) > 0 && r.Findings[0].Kind == "another-part" &&
			strings.Contains(r.Findings[0].Cause, `"Pawl plate, MCW-112"`)) {
			t.Errorf("%s: %q, %+v", name, r.Another, r.Findings)
		}
	}
}

// An assembly of which no part is right is told as that of another exercise by what its parts come to together.
func TestTheAssemblyOfAnotherExercise(t *testing.T) {
	others := []Other{{"A part", report.Bulk{Solids: 4, Volume: 1000, Area: 700, Inertia: 9}},
		{"Paddle lift", report.Bulk{Solids: 4, Volume: 1000, Area: 700}}}
	bulk := func(solids int, area float64) *report.Bulk {
		return &report.Bulk{Solids: solids, Volume: 1000.1, Area: area}
	}
	for name, c := range map[string]struct {
		bulk    *report.Bulk
		verdict report.Verdict
		want    string
	}{
		"the other one":    {bulk(4, 700), report.Out, "Paddle lift"},
		"other areas":      {bulk(4, 710), report.Out, ""},
		"a part more":      {bulk(5, 700), report.Out, ""},
		"one is right":     {bulk(4, 700), report.In, ""},
		"parts one by one": {nil, report.Out, ""},
	} {
		r := &report.Report{Assembly: &report.OfAssembly{Bulk: c.bulk, Items: []report.Item{{Verdict: c.verdict}}}}
		if Recognise(r, others); r.Another != c.want {
			t.Errorf("%s: %q", name, r.Another)
		}
	}
}

// Findings stand in the order in which to put them right, and say of sketches what
// the check found there, in one finding for what makes a sketch weak.
func TestOrderAndSketches(t *testing.T) {
	early := report.Interval{Parameter: "width", Nominal: "120",
		Low:  report.IntervalEnd{Value: "83", Why: "l2 and c1 meet", Early: true},
		High: report.IntervalEnd{Value: "1200", Open: true}}
	late := report.Interval{Parameter: "depth", Nominal: "70", Low: report.IntervalEnd{Value: "20", Why: "c1 and c2 meet"},
		High: report.IntervalEnd{Open: true}}
	missing := size("b", 2, "diameter", 9, 0)
	missing.Verdict, missing.Measured = report.NotFound, nil
	missing.Places = []report.Place{{Verdict: report.In}, {Verdict: report.NotFound}}
	r := &report.Report{Unit: "mm",
		Characteristics: []report.Characteristic{size("a", 1, "distance", 31, 33.7), missing},
		Pose:            &report.Pose{Words: "turned by 37° and shifted"},
		Steps:           []report.Step{{ID: "f1", Name: "rounds", Kind: "fillet", Failed: true, Message: "no edge"}},
		Sketches: []report.Sketch{{Step: "s1", Name: "outline", Freedom: 2, Loose: []string{"p4", "c1"},
			Spare: []string{"k9"}, Intervals: []report.Interval{early, late}, Notes: []report.Note{
				{Kind: "loose", What: "2 freedoms are left"}, {Kind: "spare", What: "adds nothing: l1 is horizontal",
					Remedy: "remove it"}, {Kind: "open-end", What: "l5 ends in the open", Remedy: "join it"},
				{Kind: "repeated", What: "the radius 3 is typed 4 times", Remedy: "make them equal", Quality: true},
				{Kind: "untied", What: "nothing ties it", Remedy: "tie it", Quality: true},
				{Kind: "unnamed", What: "first", Quality: true}, {Kind: "unnamed", What: "second", Quality: true},
				{Kind: "unnamed", What: "third", Quality: true}}},
			{Step: "s2", Notes: []report.Note{{Kind: "conflict", What: "these cannot hold together: a; b",
				Remedy: "change one"}}}},
		Sweep: []report.Sweep{{Parameter: "width", Percent: -10, Outcome: report.Breaks, Detail: "no solid"},
			{Parameter: "width", Percent: 10, Outcome: report.Follows}, {Parameter: "web", Percent: 10, Outcome: report.Still},
			{Parameter: "gone", Outcome: report.Missing}, {Parameter: "ends", Percent: 25, Outcome: report.BothEnd}},
	}
	r.Findings = Findings(r)
	var kinds []string
	by := map[string]report.Finding{}
	for i, f := range r.Findings {
		if f.ID == "" || f.Where == "" || f.What == "" || f.Remedy == "" && f.Kind != "pose" {
			t.Errorf("finding %d: %+v", i, f)
		}
		kinds = append(kinds, f.Kind)
		by[f.Kind] = f
	}
	want := "step conflict not-found size loose spare profile interval breaks parameter-still parameter-missing " +
		"sketch-quality pose"
	if got := strings.Join(kinds, " "); got != want {
		t.Errorf("findings %s\nwant     %s", got, want)
	}
	for kind, say := range map[string]string{"interval": "below width = 83 the sketch ends: l2 and c1 meet; the part " +
		"itself holds further", "sketch-quality": "nothing ties it; first; and 2 more of this kind",
		"loose":     "p4 and c1 can still move",
		"not-found": "1 of 2 places are missing", "breaks": "-10 %", "profile": "l5 ends in the open",
		"conflict": "cannot hold together"} {
		if !strings.Contains(by[kind].What, say) {
			t.Errorf("%s: %q", kind, by[kind].What)
		}
	}
	if strings.Contains(by["interval"].What, "depth") {
		t.Error("an interval that ends where the part's own does is found fault with")
	}
	clean := &report.Report{Unit: "mm", Characteristics: []report.Characteristic{in(size("a", 1, "distance", 3, 3))}}
	if clean.Findings = Findings(clean); clean.Findings == nil || len(clean.Findings) != 0 {
		t.Errorf("a right attempt has findings %+v", clean.Findings)
	}
}
