// Package grade turns a check report into marks.
package grade

import (
	"fmt"
	"math"

	"hammerset/core/exercise"
	"hammerset/core/report"
)

// Mark fills the marks of a report by the rubric. Parts of the rubric that the
// attempt gives nothing to judge by (the sketches of a STEP file) are left out,
// of what can be reached as well.
func Mark(r *report.Report, rubric exercise.Rubric) {
	r.Marks = nil
	add := func(m report.Mark) {
		m.Points = math.Round(m.Points*100) / 100
		m.OutOf = math.Round(m.OutOf*100) / 100
		r.Marks = append(r.Marks, m)
	}
	if rubric.Characteristics > 0 && len(r.Characteristics) > 0 {
		total := 0.0
		for _, c := range r.Characteristics {
			total += c.Weight
		}
		got, in, ask, carried := 0.0, 0, 0, 0
		for _, c := range r.Characteristics {
			if c.Verdict == report.In {
				got += c.Weight
				in++
			}
			if c.Carried {
				got += c.Weight
				carried++
			}
			if c.Verdict == report.Ask {
				ask++
			}
		}
		m := report.Mark{ID: "characteristics", Label: "Characteristics", OutOf: rubric.Characteristics, Points: rubric.Characteristics * got / total,
			Reason: fmt.Sprintf("%d of %d in", in, len(r.Characteristics)), Ask: ask > 0}
		if carried > 0 {
			m.Reason += fmt.Sprintf(", %d carried forward", carried)
		}
		if ask > 0 {
			m.Reason += fmt.Sprintf(", %d for a person to look at", ask)
		}
		add(m)
	}
	if rubric.WholePart > 0 {
		in, carried, all, ask := 0, 0, 0, 0
		for _, f := range r.Whole {
			if f.Extra {
				continue
			}
			all++
			if f.Verdict == report.Ask {
				ask++
			}
			if f.Verdict == report.In {
				in++
			} else if f.Carried {
				carried++
			}
		}
		m := report.Mark{ID: "whole", Label: "Whole part", OutOf: rubric.WholePart, Reason: fmt.Sprintf("%d of %d figures agree", in, all), Ask: ask > 0}
		if all > 0 {
			m.Points = rubric.WholePart * float64(in+carried) / float64(all)
		}
		if ask > 0 {
			m.Reason += fmt.Sprintf(", %d for a person to look at", ask)
		}
		if carried > 0 {
			m.Reason += fmt.Sprintf(", %d carried forward", carried)
		}
		if r.Pose != nil && r.Pose.Mirrored {
			m.Points, m.Reason = 0, "the mirror image was modelled"
		}
		if r.Scale != nil {
			m.Points, m.Reason = 0, "the unit is wrong"
		}
		add(m)
	}
	if r.Attempt.Kind == "model" {
		if rubric.Robustness > 0 && len(r.Sweep) > 0 {
			ok := 0
			for _, s := range r.Sweep {
				if s.Outcome == report.Follows || s.Outcome == report.BothEnd {
					ok++
				}
			}
			add(report.Mark{ID: "robustness", Label: "Constraint robustness", OutOf: rubric.Robustness,
				Points: rubric.Robustness * float64(ok) / float64(len(r.Sweep)), Reason: fmt.Sprintf("%d of %d changes of size followed", ok, len(r.Sweep))})
		}
		if rubric.Sketches > 0 && len(r.Sketches) > 0 {
			held := 0
			for _, s := range r.Sketches {
				if s.Held && len(s.Spare) == 0 {
					held++
				}
			}
			add(report.Mark{ID: "sketches", Label: "Sketch health", OutOf: rubric.Sketches,
				Points: rubric.Sketches * float64(held) / float64(len(r.Sketches)), Reason: fmt.Sprintf("%d of %d sketches held, nothing spare", held, len(r.Sketches))})
		}
	}
	if n := len(r.WhatIfs); rubric.Robustness > 0 && n > 0 && r.Attempt.Kind != "model" {
		ok := 0
		for _, w := range r.WhatIfs {
			if w.Outcome == report.Follows {
				ok++
			}
		}
		add(report.Mark{ID: "robustness", Label: "Constraint robustness", OutOf: rubric.Robustness, Points: rubric.Robustness * float64(ok) / float64(n), Reason: fmt.Sprintf("%d of %d what-ifs followed", ok, n)})
	}
	r.Points, r.OutOf = 0, 0
	for _, m := range r.Marks {
		r.Points += m.Points
		r.OutOf += m.OutOf
	}
}
