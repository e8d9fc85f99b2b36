// Package grade turns a check report into marks.
package grade

import (
	"fmt"
	"math"
	"strings"
	"time"

	"hammerset/core/exercise"
	"hammerset/core/report"
)

// Circumstances are what counts beside the attempt itself: how long after the due date it
// was handed in, and how many attempts it took.
type Circumstances struct {
	Late   time.Duration
	Number int // 1 for the first
}

// Mark fills the marks of a report by the rubric of the exercise, whose weights count and
// not those of the time of the check. Parts of the rubric that the attempt gives nothing to
// judge by (the sketches of a STEP file) are left out, of what can be reached as well. What
// is taken off stands as a line of its own, with negative points out of none.
func Mark(r *report.Report, ex *exercise.Exercise, by Circumstances) {
	rubric := ex.Rubric
	for i := range r.Characteristics {
		if c := ex.Characteristic(r.Characteristics[i].ID); c != nil {
			r.Characteristics[i].Weight = c.Weighs()
		}
	}
	r.Marks = nil
	add := func(m report.Mark) {
		m.Points = math.Round(m.Points*100) / 100
		m.OutOf = math.Round(m.OutOf*100) / 100
		for i := range m.Lost {
			m.Lost[i].Points = math.Round(m.Lost[i].Points*100) / 100
		}
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
			if c.Carried && c.Verdict != report.In {
				got += c.Weight
				carried++
			}
			if c.Verdict == report.Ask {
				ask++
			}
		}
		var lost []report.Loss
		for _, c := range r.Characteristics {
			if c.Verdict != report.In && !c.Carried && c.Weight > 0 {
				lost = append(lost, report.Loss{What: fmt.Sprintf("balloon %d, %s: %s", c.Balloon, c.Label, c.Verdict), Points: rubric.Characteristics * c.Weight / math.Max(total, 1e-9), Characteristic: c.ID, Balloon: c.Balloon})
			}
		}
		m := report.Mark{ID: "characteristics", Lost: lost, Label: "Characteristics", OutOf: rubric.Characteristics, Points: rubric.Characteristics * got / math.Max(total, 1e-9),
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
		for _, f := range r.Whole {
			if !f.Extra && f.Verdict != report.In && !f.Carried {
				m.Lost = append(m.Lost, report.Loss{What: f.Label + ": " + string(f.Verdict), Points: rubric.WholePart / float64(all)})
			}
		}
		if r.Pose != nil && r.Pose.Mirrored {
			m.Points, m.Reason = 0, "the mirror image was modelled"
			m.Lost = []report.Loss{{What: m.Reason, Points: rubric.WholePart}}
		}
		if r.Scale != nil {
			m.Points, m.Reason = 0, "the unit is wrong"
			m.Lost = []report.Loss{{What: m.Reason, Points: rubric.WholePart}}
		}
		add(m)
	}
	if r.Attempt.Kind == "model" {
		f := &followed{}
		for _, s := range r.Sweep {
			f.count(fmt.Sprintf("parameter %s at %+g %%", s.Parameter, s.Percent), s.Outcome)
		}
		if f.of > 0 && rubric.Robustness > 0 {
			add(f.mark(rubric.Robustness, "changes of size"))
		}
		if rubric.Sketches > 0 && len(r.Sketches) > 0 {
			held := 0
			var lost []report.Loss
			for _, s := range r.Sketches {
				if s.Held && len(s.Spare) == 0 {
					held++
					continue
				}
				what := "is not held"
				if s.Held {
					what = "has spare constraints"
				}
				name := s.Name
				if name == "" {
					name = s.Step
				}
				lost = append(lost, report.Loss{What: "sketch " + name + " " + what, Points: rubric.Sketches / float64(len(r.Sketches))})
			}
			add(report.Mark{ID: "sketches", Label: "Sketch health", OutOf: rubric.Sketches, Lost: lost,
				Points: rubric.Sketches * float64(held) / float64(len(r.Sketches)), Reason: fmt.Sprintf("%d of %d sketches held, nothing spare", held, len(r.Sketches))})
		}
	}
	if r.Attempt.Kind != "model" {
		f := &followed{}
		for _, w := range r.WhatIfs {
			f.count("what-if "+w.Name, w.Outcome)
		}
		if f.of > 0 && rubric.Robustness > 0 {
			add(f.mark(rubric.Robustness, "what-ifs"))
		}
	}
	if rubric.Practice > 0 && len(r.Practice) > 0 {
		sum := 0.0
		var lacks []string
		var lost []report.Loss
		for _, p := range r.Practice {
			sum += p.Share
			if p.Share < 1 {
				lacks = append(lacks, p.Detail)
				lost = append(lost, report.Loss{What: p.Detail, Points: rubric.Practice * (1 - p.Share) / float64(len(r.Practice))})
			}
		}
		m := report.Mark{ID: "practice", Lost: lost, Label: "Good practice", OutOf: rubric.Practice, Points: rubric.Practice * sum / float64(len(r.Practice)), Reason: "names, origin and sizes as they should be"}
		if len(lacks) > 0 {
			m.Reason = strings.Join(lacks, "; ")
		}
		add(m)
	}
	r.Points, r.OutOf = 0, 0
	for _, m := range r.Marks {
		r.Points += m.Points
		r.OutOf += m.OutOf
	}
	full := r.OutOf
	off := func(id, label, reason string, points float64) {
		points = math.Min(points, r.Points)
		if points > 0 {
			add(report.Mark{ID: id, Label: label, Points: -points, Reason: reason})
			r.Points -= points
		}
	}
	most, why := capOf(r, rubric)
	if why != "" {
		off("cap", "Cap", fmt.Sprintf("at most %g %% of all points, since %s", most, why), r.Points-full*most/100)
	}
	if d := rubric.Late; d != nil && by.Late > 0 {
		days := math.Ceil(by.Late.Hours() / 24)
		share := math.Min(d.Most, days*d.Each)
		off("late", "Handed in late", fmt.Sprintf("%g %% off for %g day(s) begun after the due date", share, days), full*share/100)
	}
	if d := rubric.Repeats; d != nil && by.Number > 1 {
		share := math.Min(d.Most, float64(by.Number-1)*d.Each)
		off("repeats", "Further attempts", fmt.Sprintf("%g %% off for attempt %d", share, by.Number), full*share/100)
	}
	r.Points = math.Round(r.Points*100) / 100
}

// capOf is the lowest cap whose fault is there, and the fault in words.
func capOf(r *report.Report, rubric exercise.Rubric) (percent float64, why string) {
	there := map[string]bool{exercise.CapUnit: r.Scale != nil, exercise.CapMirror: r.Pose != nil && r.Pose.Mirrored, exercise.CapNotFound: r.Count(report.NotFound) > 0}
	for _, f := range r.Whole {
		there[exercise.CapSolids] = there[exercise.CapSolids] || f.ID == "solids" && f.Verdict != report.In
	}
	for _, s := range r.Steps {
		there[exercise.CapFailed] = there[exercise.CapFailed] || s.Failed || s.Unsound
	}
	percent = math.Inf(1)
	for _, c := range rubric.Caps {
		if there[c.When] && c.Percent < percent {
			for _, f := range exercise.CapFaults() {
				if f.When == c.When {
					percent, why = c.Percent, f.Words
				}
			}
		}
	}
	return percent, why
}
