package check

import (
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
	"hammerset/core/sketch/edit"
	"hammerset/core/sketch/review"
)

// Health lists the steps that failed or warn, and what there is to say of every
// sketch as it is placed now.
func Health(doc *part.Document, b *part.Build) (steps []report.Step, sketches []report.Sketch, err error) {
	unit, err := quantity.LengthUnit(doc.Unit)
	if err != nil {
		return nil, nil, err
	}
	steps, sketches = []report.Step{}, []report.Sketch{}
	for i, s := range b.Steps {
		if s.Err != nil {
			steps = append(steps, report.Step{ID: s.ID, Name: s.Name, Kind: s.Kind, Failed: true, Message: s.Err.Error()})
		} else if s.Warning != "" {
			steps = append(steps, report.Step{ID: s.ID, Name: s.Name, Kind: s.Kind, Message: s.Warning})
		} else if s.Hint != nil {
			steps = append(steps, report.Step{ID: s.ID, Name: s.Name, Kind: s.Kind, Message: s.Hint.String()})
		}
		drawn := doc.Steps[i].Sketched()
		if drawn == nil || s.Sketch == nil {
			continue
		}
		// As it is placed now, with its traced edges where the solid has them.
		draft := &edit.Draft{Sketch: drawn.Geometry().Clone(), Unit: unit, Values: b.Table}
		if s.Sketch.Solved {
			s.Sketch.System().Store(draft.Sketch)
		}
		sol, err := sketch.Solve(draft.Sketch, unit.Factor, b.Table)
		if err != nil {
			continue // reported as the step's failure
		}
		row := report.Sketch{Step: s.ID, Name: s.Name, Freedom: sol.Freedom, Held: sol.Held(), Loose: []string{},
			Spare: []string{}, Conflicts: [][]string{}, Problems: []string{}, Notes: []report.Note{},
			Intervals: []report.Interval{}}
		lines, names := doc.DrawnForLines(s.ID), called.Geometry(draft.Sketch, sol)
		for _, f := range review.Review(draft, sol, b.Table) {
			// That a number is the value of a parameter is worth a look while one draws. A check advises no tie that
			// the sheet does not ask for: what should follow and does not, is found by varying the sizes.
			if lines && f.Kind == review.OpenEnd || f.Kind == review.Unnamed {
				continue
			}
			row.Notes = append(row.Notes, report.Note{Kind: f.Kind, What: f.What, Remedy: f.Remedy,
				Quality: review.Quality(f.Kind)})
		}
		for _, l := range sol.Loose {
			row.Loose = append(row.Loose, names.Of(l.Entity))
		}
		for _, r := range sol.Spare {
			row.Spare = append(row.Spare, r.Drop)
		}
		for _, k := range sol.Conflicts {
			row.Conflicts = append(row.Conflicts, k.Set)
		}
		for _, p := range s.Problems {
			if lines && p.Kind == review.OpenEnd {
				continue
			}
			row.Problems = append(row.Problems, p.Message(draft.Words, names.Of))
		}
		sketches = append(sketches, row)
	}
	return steps, sketches, nil
}
