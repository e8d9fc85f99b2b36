package gradebook

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"
)

func given(points, outOf float64) (a, b *float64) { return &points, &outOf }

// What counts of a student's attempts at an exercise, and what a mean is made of.
func TestCells(t *testing.T) {
	attempt := func(number int, state string, points float64) Attempt {
		a := Attempt{ID: int64(100 + number), Issue: 1, Student: 1, Number: number, State: state, Late: number > 2}
		if state == "returned" {
			a.Points, a.OutOf = given(points, 80)
		}
		return a
	}
	noon := time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	came := func(after time.Duration) map[int64]time.Time { return map[int64]time.Time{1: noon.Add(after)} }
	for name, c := range map[string]struct {
		issue    Issue
		attempts []Attempt
		last     string // state, attempt, percent of the last that counts
		best     string
	}{
		"nothing yet":         {Issue{}, nil, "open 0 0", "open 0 0"},
		"nothing, and closed": {Issue{Closed: true}, nil, "missing 0 0", "missing 0 0"},
		"waits":               {Issue{Closed: true}, []Attempt{attempt(1, "checked", 0)}, "waiting 101 0", "waiting 101 0"},
		"useless":             {Issue{}, []Attempt{attempt(1, "unusable", 0)}, "unusable 101 0", "unusable 101 0"},
		"useless, and closed": {Issue{Closed: true}, []Attempt{attempt(1, "unusable", 0)}, "missing 101 0", "missing 101 0"},
		"returned":            {Issue{}, []Attempt{attempt(1, "returned", 60)}, "returned 101 75", "returned 101 75"},
		"the second was worse": {Issue{}, []Attempt{attempt(2, "returned", 40), attempt(1, "returned", 60)},
			"returned 102 50", "returned 101 75"},
		"a revision waits": {Issue{}, []Attempt{attempt(1, "returned", 60), attempt(2, "checking", 0)},
			"returned 101 75", "returned 101 75"},
		"as good twice": {Issue{}, []Attempt{attempt(1, "returned", 60), attempt(3, "returned", 60)},
			"returned 103 75 late", "returned 101 75"},
		"excused":       {Issue{Closed: true, Excused: map[int64]bool{1: true}}, nil, "excused 0 0", "excused 0 0"},
		"for others":    {Issue{Closed: true, For: map[int64]bool{2: true}}, nil, "not for 0 0", "not for 0 0"},
		"came too late": {Issue{Closed: true, Due: noon, Came: came(1)}, nil, "before 0 0", "before 0 0"},
		"came in time":  {Issue{Closed: true, Due: noon, Came: came(-1)}, nil, "missing 0 0", "missing 0 0"},
		"came late, has more time": {Issue{Closed: true, Due: noon, Came: came(1), Dues: came(2)}, nil, "missing 0 0",
			"missing 0 0"},
		"came late, handed in": {Issue{Closed: true, Due: noon, Came: came(1)}, []Attempt{attempt(1, "returned", 60)},
			"returned 101 75", "returned 101 75"},
	} {
		for count, want := range map[Count]string{Last: c.last, Best: c.best} {
			c.issue.ID, c.issue.Weight = 1, 1
			b := Make([]int64{1}, []Issue{c.issue}, c.attempts, count)
			x := b.Cells[0][0]
			got := fmt.Sprintf("%s %d %g", x.State, x.Attempt, x.Percent)
			if x.Late && x.State == Returned {
				got += " late"
			}
			if got != want || x.Attempts != len(c.attempts) {
				t.Errorf("%s, the %s: %s, and not %s", name, count, got, want)
			}
			if math.IsNaN(b.Percents[0]) == x.Counts() {
				t.Errorf("%s: counts %v, and the mean is %g", name, x.Counts(), b.Percents[0])
			}
		}
	}
}

// The mean is that of the percents by the weights of the exercises; what does not count has no weight in it. Worked by
// hand: (2·50 + 1·100) / 3 = 66.67, and (2·50 + 1·0) / 3 = 33.33 once the third is closed.
func TestMeans(t *testing.T) {
	a, b := given(40, 80)
	c, d := given(10, 10)
	issues := []Issue{{ID: 1, Weight: 2}, {ID: 2, Weight: 1}, {ID: 3, Weight: 0},
		{ID: 4, Weight: 1, Excused: map[int64]bool{7: true}}}
	attempts := []Attempt{{Issue: 1, Student: 7, Points: a, OutOf: b}, {Issue: 2, Student: 7, Points: c, OutOf: d},
		{Issue: 3, Student: 7, Points: a, OutOf: b}, {Issue: 4, Student: 7, Points: a, OutOf: b}}
	book := Make([]int64{7, 8}, issues, attempts, Last)
	if got := Hundredths(book.Percents[0]); got != 66.67 || !math.IsNaN(book.Percents[1]) {
		t.Errorf("means %g and %g", got, book.Percents[1])
	}
	issues[1].Closed = true
	book = Make([]int64{7, 8}, issues, attempts[:1], Last)
	if got := Hundredths(book.Percents[0]); got != 33.33 || book.Percents[1] != 0 {
		t.Errorf("with one missing: %g and %g", got, book.Percents[1])
	}
	s := book.Summaries[1]
	if s.Count != 2 || s.Mean != 0 || s.Spread[0] != 2 {
		t.Errorf("two missing: %+v", s)
	}
	full := Make([]int64{7}, issues[1:2], attempts[1:2], Last).Summaries[0]
	if full.Spread[9] != 1 || full.Median != 100 || strings.Contains(fmt.Sprint(full.Spread[:9]), "1") {
		t.Errorf("full marks: %+v", full)
	}
}
