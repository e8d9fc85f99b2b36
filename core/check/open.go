package check

import (
	"slices"
	"strings"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/report"
)

// What a sheet leaves open is nobody's mistake. The sizes that it does not state are measured with the others, so that
// they are known as causes; they cost nothing, and neither do figures that only they change.

// stated parts the rows of what the sheet states from those of what it does not.
func stated(rows []row) (stated, left []row) {
	for _, w := range rows {
		if w.Balloon == 0 {
			left = append(left, w)
		} else {
			stated = append(stated, w)
		}
	}
	return stated, left
}

// leftOpen tells whether a cause is another value of a size that the sheet does not state: it changes one of those, and
// nothing that the sheet states. A feature that is missing or elsewhere is seen on the sheet, and never open.
func (r *frame) leftOpen(c atlas.Cause, a *atlas.Atlas) bool {
	if c.Size == nil && (c.Entry == nil || !slices.Contains(sizeKinds, c.Entry.Kind)) {
		return false
	}
	open := false
	for i := range r.ex.Characteristics {
		x := &r.ex.Characteristics[i]
		if x.Declared().Unplaced() || !moved(c, a, x.ID) {
			continue
		}
		if !x.Unstated() {
			return false
		}
		open = true
	}
	return open
}

// unsettled asks about figures that are out where the attempt differs in what the sheet does not state, and the
// reference cannot be rebuilt with the student's values there: left are the rows of those sizes.
func unsettled(ex *exercise.Exercise, left []row, figures []report.Figure) []report.Figure {
	var open []string
	for i, l := range ex.Loose {
		w := slices.IndexFunc(left, func(w row) bool { return w.ID == exercise.LooseID(i) })
		if w < 0 || left[w].Verdict != report.In {
			open = append(open, l.What)
		}
	}
	if len(open) == 0 {
		return figures
	}
	out := slices.Clone(figures)
	for i, f := range out {
		if f.Verdict == report.Out && f.ID != "solids" {
			out[i].Verdict = report.Ask
			out[i].Text += " (the sheet leaves open: " + strings.Join(open, "; ") + ")"
		}
	}
	return out
}
