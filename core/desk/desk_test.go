package desk

import (
	"fmt"
	"strings"
	"testing"

	"hammerset/core/alike"
	"hammerset/core/report"
)

func withPlaces(at ...string) *Digest {
	d := &Digest{}
	for _, p := range at {
		d.Traits = append(d.Traits, alike.Trait{Kind: alike.Coordinate, Of: p})
	}
	return d
}

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
		{"nothing odd", []Attempt{{ID: 1, Student: "A", File: "x", State: "checked", Digest: DigestOf(rep(false))},
			{ID: 2, Student: "B", File: "y", State: "checked", Digest: DigestOf(rep(true))}}, nil},
		{"the same file", []Attempt{{ID: 1, Student: "A", File: "x", State: "queued"},
			{ID: 2, Student: "B", File: "x", State: "queued"}}, []string{"A and B handed in the same file"}},
		{"one's own file twice", []Attempt{{ID: 1, Student: "A", Number: 1, File: "x", State: "queued"},
			{ID: 2, Student: "A", Number: 2, File: "x", State: "queued"}}, nil},
		{"only the latest counts", []Attempt{{ID: 1, Student: "A", Number: 1, File: "x", State: "unusable"},
			{ID: 2, Student: "A", Number: 2, File: "y", State: "checked", Digest: DigestOf(rep(false))}}, nil},
		{"not checkable", []Attempt{{ID: 1, Student: "A", File: "x", State: "unusable", What: "a picture"},
			{ID: 2, Student: "B", File: "y", State: "parked"}}, []string{"A handed in what cannot be checked",
			"B: the check could not be finished"}},
		{"mirror and unit", []Attempt{{ID: 1, Student: "A", File: "x", State: "checked", Digest: DigestOf(mirrored)},
			{ID: 2, Student: "B", File: "y", State: "checked", Digest: DigestOf(inches)}},
			[]string{"A modelled the mirror image", "B modelled in another unit"}},
		{"alike", []Attempt{{ID: 1, Student: "A", File: "1", Digest: withPlaces("1.2345, 6", "2.3456, 7", "3.4567, 8")},
			{ID: 2, Student: "B", File: "2", Digest: withPlaces("9.8765, 4")},
			{ID: 3, Student: "C", File: "3", Digest: withPlaces("1.2345, 6", "2.3456, 7", "3.4567, 8")},
			{ID: 4, Student: "D", File: "4", Digest: withPlaces("8.7654, 3")}},
			[]string{"A and C handed in models that are alike"}},
		{"sizes of another", []Attempt{{ID: 1, Student: "A", File: "1", Digest: &Digest{SizesOf: "B"}},
			{ID: 2, Student: "B", File: "2", Digest: &Digest{}}},
			[]string{"A handed in a model with the personal sizes of B"}},
		{"most have it wrong", []Attempt{{ID: 1, Student: "A", File: "1", Digest: DigestOf(rep(true))},
			{ID: 2, Student: "B", File: "2", Digest: DigestOf(rep(true))}, {ID: 3, Student: "C", File: "3",
				Digest: DigestOf(rep(false))}},
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
