package desk

import (
	"fmt"
	"strings"
	"testing"

	"hammerset/core/report"
)

func TestOdd(t *testing.T) {
	rep := func(balloonWrong bool) *report.Report {
		v := report.In
		if balloonWrong {
			v = report.Out
		}
		return &report.Report{Pose: &report.Pose{},
			Characteristics: []report.Characteristic{{Balloon: 4, Label: "Corners", Verdict: v},
				{Balloon: 5, Label: "Bore", Verdict: report.In}}}
	}
	mirrored, inches := rep(false), rep(false)
	mirrored.Pose.Mirrored = true
	inches.Scale = &report.Scale{Words: "the whole part is 25.4 times too small"}
	for _, c := range []struct {
		name     string
		attempts []Attempt
		say      []string
	}{
		{"nothing odd", []Attempt{{ID: 1, Student: "A", File: "x", State: "checked", Report: rep(false)},
			{ID: 2, Student: "B", File: "y", State: "checked", Report: rep(true)}}, nil},
		{"the same file", []Attempt{{ID: 1, Student: "A", File: "x", State: "queued"},
			{ID: 2, Student: "B", File: "x", State: "queued"}}, []string{"A and B handed in the same file"}},
		{"one's own file twice", []Attempt{{ID: 1, Student: "A", Number: 1, File: "x", State: "queued"},
			{ID: 2, Student: "A", Number: 2, File: "x", State: "queued"}}, nil},
		{"only the latest counts", []Attempt{{ID: 1, Student: "A", Number: 1, File: "x", State: "unusable"},
			{ID: 2, Student: "A", Number: 2, File: "y", State: "checked", Report: rep(false)}}, nil},
		{"not checkable", []Attempt{{ID: 1, Student: "A", File: "x", State: "unusable", What: "a picture"},
			{ID: 2, Student: "B", File: "y", State: "parked"}}, []string{"A handed in what cannot be checked",
			"B: the check could not be finished"}},
		{"mirror and unit", []Attempt{{ID: 1, Student: "A", File: "x", State: "checked", Report: mirrored},
			{ID: 2, Student: "B", File: "y", State: "checked", Report: inches}},
			[]string{"A modelled the mirror image", "B modelled in another unit"}},
		{"most have it wrong", []Attempt{{ID: 1, Student: "A", File: "1", Report: rep(true)},
			{ID: 2, Student: "B", File: "2", Report: rep(true)}, {ID: 3, Student: "C", File: "3", Report: rep(false)}},
			[]string{"2 of 3 have balloon 4 wrong (Corners)"}},
	} {
		var got []string
		for _, o := range Odd(c.attempts) {
			got = append(got, o.What)
		}
		if fmt.Sprint(got) != fmt.Sprint(c.say) && strings.Join(got, "") != strings.Join(c.say, "") {
			t.Errorf("%s: %v, want %v", c.name, got, c.say)
		}
	}
}
