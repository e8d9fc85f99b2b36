package diagnose

import (
	"strings"
	"testing"

	"hammerset/core/report"
)

// A size that is not followed is told once, with what was shown to be behind it and where it shows on the sheet; why a
// sketch ends early with it is not told beside what was shown.
func TestWhatIsBehindASizeThatIsNotFollowed(t *testing.T) {
	stray := []report.Stray{{Characteristic: "px", Balloon: 5, Label: "Spacing"}}
	follow := []report.Stray{{Characteristic: "boss", Balloon: 7, Label: "Boss", Follow: true}}
	for name, c := range map[string]struct {
		row                                        report.Sweep
		kind, what, cause, remedy, sure, character string
	}{
		"a number": {report.Sweep{Outcome: report.Still, Behind: &report.Behind{Kind: report.Number,
			Where: []string{"96 mm in outline"}}}, "parameter-still", "nothing changes",
			"typed where it should follow: 96 mm in outline",
			"let it follow w there", "certain", ""},
		"a twin": {report.Sweep{Outcome: report.Differs, Detail: "its volume is +2 % off there", Behind: &report.Behind{
			Kind: report.Twin, Where: []string{"w_too"}}}, "differs", "+2 % off", "another parameter of the same value",
			"use w there as well", "certain", ""},
		"it hangs on it": {report.Sweep{Outcome: report.Differs, Strays: stray, Behind: &report.Behind{Kind: report.Tied,
			Where: []string{"px = w - 20 mm"}}}, "differs", "balloon 5 (Spacing) changes with it and should stay",
			"px = w - 20 mm", "a value of its own", "certain", "px"},
		"a typed depth": {report.Sweep{Outcome: report.Breaks, Detail: "no solid", Behind: &report.Behind{Kind: report.Depth,
			Where: []string{"12 mm in holes"}}}, "breaks", "no solid", "12 mm in holes", "choose the extent through", "certain",
			""},
		"it should follow": {report.Sweep{Outcome: report.Differs, Strays: follow}, "differs",
			"balloon 7 (Boss) should follow it and does not", "something follows it", "compare", "likely", "boss"},
		"several": {report.Sweep{Outcome: report.Differs, Strays: append(append(stray, follow...), follow...)}, "differs",
			"balloons 7 (Boss) and 7 (Boss) should follow it and do not; balloon 5 (Spacing) changes", "something follows it",
			"compare", "likely", "px"},
		"only a guess": {report.Sweep{Outcome: report.Differs, Detail: "off", Typed: []string{"96 mm in outline"}}, "differs",
			"off", "typed as a number (96 mm in outline)", "by a tenth", "likely", ""},
		"one half": {report.Sweep{Outcome: report.Differs, Half: "one half does not follow the other"}, "half",
			"one half does not follow", "two halves", "symmetric", "likely", ""},
	} {
		c.row.Parameter, c.row.Attempt, c.row.Match, c.row.Percent = "w", "w", "name", 10
		r := &report.Report{Unit: "mm", Sweep: []report.Sweep{c.row, {Parameter: "w", Attempt: "w", Percent: 25,
			Outcome: report.Follows}}, Sketches: []report.Sketch{{Step: "s1", Held: true, Intervals: []report.Interval{
			{Parameter: "w", Low: report.IntervalEnd{Early: true, Why: "they meet"}}}}}}
		list := Findings(r)
		if told := len(list) == 2 && list[0].Kind == "interval"; told != (c.row.Behind == nil) {
			t.Errorf("%s: %+v", name, list)
			continue
		}
		f := list[len(list)-1]
		if f.Kind != c.kind || !strings.Contains(f.What, c.what) || !strings.Contains(f.Cause, c.cause) ||
			!strings.Contains(f.Remedy, c.remedy) || f.Sure != c.sure || f.Characteristic != c.character {
			t.Errorf("%s: %+v", name, f)
		}
		r.Sweep[0].Outcome = report.Follows
		if list := Findings(r); len(list) != 1 || list[0].Kind != "interval" {
			t.Errorf("%s: where all is followed: %+v", name, list)
		}
	}
}
