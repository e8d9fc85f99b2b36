package grade

import (
	"fmt"

	"hammerset/core/exercise"
	"hammerset/core/report"
)

// followed counts the cases in which a model followed other sizes. Where the reference itself
// cannot be rebuilt there is nothing to judge by, and the case does not count.
type followed struct {
	ok, of, open int
	not          []string
}

// count takes one case in. Where the reference cannot be built either, nobody
// could follow, and the case does not count.
func (f *followed) count(what, outcome string) {
	switch outcome {
	case report.NoAnswer:
		f.open++
		return
	case report.Follows, report.BothEnd:
		f.ok++
	default:
		f.not = append(f.not, what+": "+outcome)
	}
	f.of++
}

// mark shares the points out evenly over the cases.
func (f *followed) mark(rubric exercise.Rubric, cases string) report.Mark {
	m := blank(rubric, "robustness")
	m.Points = m.OutOf * float64(f.ok) / float64(f.of)
	m.Reason = fmt.Sprintf("%d of %d %s followed", f.ok, f.of, cases)
	if f.open > 0 {
		m.Reason += fmt.Sprintf("; %d where the reference itself ends do not count", f.open)
	}
	for _, what := range f.not {
		m.Lost = append(m.Lost, report.Loss{What: what, Points: m.OutOf / float64(f.of)})
	}
	return m
}
