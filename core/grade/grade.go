// Package grade turns a check report into marks.
package grade

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/report"
)

// Marks are made of a report alone, so that a rubric can be changed after the
// check and every attempt marked anew without being checked again.

// Circumstances are what counts beside the attempt itself: how long after the due date it
// was handed in, and how many attempts it took.
type Circumstances struct {
	Late   time.Duration
	Number int // 1 for the first
}

// Marking is what a report comes to by a rubric.
type Marking struct {
	Marks         []report.Mark
	Points, OutOf float64
	Weights       []float64 // of the characteristics of the report, as they counted
}

// Onto puts a marking into the report that it is of.
func (m Marking) Onto(r *report.Report) {
	for i, w := range m.Weights {
		r.Characteristics[i].Weight = w
	}
	r.Marks, r.Points, r.OutOf = m.Marks, m.Points, m.OutOf
}

// criterion marks one part of a rubric; ok is false where the attempt gives nothing to judge by.
type criterion func(r *report.Report, rubric exercise.Rubric, weights []float64) (m report.Mark, ok bool)

// blank is the mark for a part of a rubric before it is judged.
//
// Labels and points have their home in the rubric.
func blank(rubric exercise.Rubric, id string) report.Mark { return blankOf(exercise.Part, rubric, id) }

// blankOf is a blank mark of a kind of exercise.
func blankOf(kind string, rubric exercise.Rubric, id string) report.Mark {
	m := report.Mark{ID: id}
	for _, part := range rubric.Parts(kind) {
		if part.ID == id {
			m.Label, m.OutOf = part.Label, part.Points
		}
	}
	return m
}

// criteria are the parts of a rubric in the order in which they are told.
func criteria(ex *exercise.Exercise) []criterion {
	if ex.Assembly != nil {
		return ofAssembly(ex)
	}
	return []criterion{characteristics, wholePart, robustness, sketches, practice}
}

// Mark marks a report by the rubric of the exercise, whose weights count and not those of the
// time of the check. It is always out of all points of the rubric: what becomes of the parts that the
// attempt gives nothing to judge by (the sketches of a STEP file), the rubric says. What is taken off
// stands as a line of its own, with negative points out of none, and takes no more than there is.
// The report stays as it is.
func Mark(r *report.Report, ex *exercise.Exercise, by Circumstances) Marking {
	out := Marking{}
	for i := range r.Characteristics {
		row := &r.Characteristics[i]
		w := row.Weight
		if c := ex.Characteristic(row.ID); c != nil {
			w = c.Weighs()
		} else if c := ex.Assembly.Requirement(row.ID); c != nil {
			w = c.Weighs()
		}
		out.Weights = append(out.Weights, w)
	}
	shown := map[string]report.Mark{}
	for _, judge := range criteria(ex) {
		if m, ok := judge(r, ex.Rubric, out.Weights); ok {
			shown[m.ID] = rounded(m)
		}
	}
	for _, m := range complete(r, ex, shown) {
		out.Marks = append(out.Marks, m)
		out.Points += m.Points
		out.OutOf += m.OutOf
	}
	for _, m := range deductions(r, ex.Rubric, by, out.Points, out.OutOf) {
		if m.Points = math.Max(m.Points, -out.Points); m.Points < 0 {
			out.Points += m.Points
			out.Marks = append(out.Marks, rounded(m))
		}
	}
	out.Points = cents(out.Points)
	return out
}

// cents rounds points to two decimals.
//
// Marks are shown, added and exported in hundredths; rounding each before adding
// makes the column add up for one who checks it by hand.
func cents(points float64) float64 { return math.Round(points*100) / 100 }

// rounded writes points in hundredths, in what was lost as well, so that what
// stands in a list adds up.
func rounded(m report.Mark) report.Mark {
	m.Points, m.OutOf = cents(m.Points), cents(m.OutOf)
	m.Lost = slices.Clone(m.Lost)
	for i := range m.Lost {
		m.Lost[i].Points = cents(m.Lost[i].Points)
	}
	return m
}

// tally counts verdicts.
type tally struct{ in, ask, carried, all int }

// count takes one verdict in. What was carried forward is wrong by another error
// alone, and costs nothing a second time.
func (t *tally) count(v report.Verdict, carried bool) {
	t.all++
	switch {
	case v == report.In:
		t.in++
	case carried:
		t.carried++
	}
	if v == report.Ask {
		t.ask++
	}
}

// characteristics gives the weighted share of the characteristics that are in, or carried.
func characteristics(r *report.Report, rubric exercise.Rubric, weights []float64) (report.Mark, bool) {
	if rubric.Characteristics <= 0 || len(r.Characteristics) == 0 {
		return report.Mark{}, false
	}
	total, got := 0.0, 0.0
	for _, w := range weights {
		total += w
	}
	share := rubric.Characteristics / math.Max(total, 1e-9) // of a weight of 1
	m := blank(rubric, "characteristics")
	t := tally{}
	for i, c := range r.Characteristics {
		t.count(c.Verdict, c.Carried)
		if c.Verdict == report.In || c.Carried {
			got += weights[i]
		} else if weights[i] > 0 {
			what := fmt.Sprintf("balloon %d, %s: %s", c.Balloon, c.Label, c.Verdict)
			m.Lost = append(m.Lost, report.Loss{What: what, Points: share * weights[i], Characteristic: c.ID,
				Balloon: c.Balloon})
		}
	}
	m.Points, m.Ask = share*got, t.ask > 0
	m.Reason = fmt.Sprintf("%d of %d in", t.in, t.all)
	if t.carried > 0 {
		m.Reason += fmt.Sprintf(", %d carried forward", t.carried)
	}
	if t.ask > 0 {
		m.Reason += fmt.Sprintf(", %d for a person to look at", t.ask)
	}
	return m, true
}

// wholePart gives the share of the figures of the whole part that agree, or are carried; none
// for a mirror image or a wrong unit.
func wholePart(r *report.Report, rubric exercise.Rubric, _ []float64) (report.Mark, bool) {
	if rubric.WholePart <= 0 {
		return report.Mark{}, false
	}
	m := blank(rubric, "whole")
	t := tally{}
	var off []string
	for _, f := range r.Whole {
		if f.Extra {
			continue
		}
		t.count(f.Verdict, f.Carried)
		if f.Verdict != report.In && !f.Carried {
			off = append(off, f.Label+": "+string(f.Verdict))
		}
	}
	m.Reason, m.Ask = fmt.Sprintf("%d of %d figures agree", t.in, t.all), t.ask > 0
	if t.all > 0 {
		m.Points = rubric.WholePart * float64(t.in+t.carried) / float64(t.all)
	}
	if t.ask > 0 {
		m.Reason += fmt.Sprintf(", %d for a person to look at", t.ask)
	}
	if t.carried > 0 {
		m.Reason += fmt.Sprintf(", %d carried forward", t.carried)
	}
	for _, what := range off {
		m.Lost = append(m.Lost, report.Loss{What: what, Points: rubric.WholePart / float64(t.all)})
	}
	nothing := ""
	switch {
	case r.Scale != nil:
		nothing = "the unit is wrong"
	case r.Pose != nil && r.Pose.Mirrored:
		nothing = "the mirror image was modelled"
	}
	if nothing != "" {
		m.Points, m.Reason, m.Lost = 0, nothing, []report.Loss{{What: nothing, Points: rubric.WholePart}}
	}
	return m, true
}

// robustness gives the share of the changes of size that the model follows, or of the what-ifs
// that a part of another program came with.
func robustness(r *report.Report, rubric exercise.Rubric, _ []float64) (report.Mark, bool) {
	f, of := &followed{}, "what-ifs"
	if modelled(r) {
		of = "changes of size"
		for _, s := range r.Sweep {
			f.count(fmt.Sprintf("parameter %s at %+g %%", s.Parameter, s.Percent), s.Outcome)
		}
	} else {
		for _, w := range r.WhatIfs {
			f.count("what-if "+w.Name, w.Outcome)
		}
	}
	if f.of == 0 || rubric.Robustness <= 0 {
		return report.Mark{}, false
	}
	return f.mark(rubric, of), true
}

// modelled tells whether there are steps and sketches to judge; a file of
// geometry has none.
func modelled(r *report.Report) bool { return r.Attempt.Kind == "model" }

// sketches gives the share of the sketches that are held and have nothing spare.
func sketches(r *report.Report, rubric exercise.Rubric, _ []float64) (report.Mark, bool) {
	if !modelled(r) || rubric.Sketches <= 0 || len(r.Sketches) == 0 {
		return report.Mark{}, false
	}
	each := rubric.Sketches / float64(len(r.Sketches))
	m := blank(rubric, "sketches")
	held := 0
	for _, s := range r.Sketches {
		what := "is not held"
		switch {
		case s.Held && len(s.Spare) == 0:
			held++
			continue
		case s.Held:
			what = "has spare constraints"
		}
		name := s.Name
		if name == "" {
			name = s.Step
		}
		m.Lost = append(m.Lost, report.Loss{What: "sketch " + name + " " + what, Points: each})
	}
	m.Points, m.Reason = each*float64(held), fmt.Sprintf("%d of %d sketches held, nothing spare", held, len(r.Sketches))
	return m, true
}

// practice gives the mean of how far the rules of good practice are kept.
func practice(r *report.Report, rubric exercise.Rubric, _ []float64) (report.Mark, bool) {
	if rubric.Practice <= 0 || len(r.Practice) == 0 {
		return report.Mark{}, false
	}
	each := rubric.Practice / float64(len(r.Practice))
	m := blank(rubric, "practice")
	m.Reason = "as it should be"
	var lacks []string
	for _, p := range r.Practice {
		m.Points += each * p.Share
		if p.Share < 1 {
			lacks = append(lacks, p.Detail)
			m.Lost = append(m.Lost, report.Loss{What: p.Detail, Points: each * (1 - p.Share)})
		}
	}
	if len(lacks) > 0 {
		m.Reason = strings.Join(lacks, "; ")
	}
	return m, true
}

// deductions lists what is taken off of all points that can be reached, as marks with negative
// points: down to the lowest cap, then for lateness and further attempts.
func deductions(r *report.Report, rubric exercise.Rubric, by Circumstances, got, full float64) []report.Mark {
	var out []report.Mark
	off := func(id, label, reason string, points float64) {
		out = append(out, report.Mark{ID: id, Label: label, Points: -points, Reason: reason})
	}
	if most, why := capOf(r, rubric); why != "" {
		off("cap", "Cap", fmt.Sprintf("at most %g %% of all points, since %s", most, why), got-full*most/100)
	}
	if d := rubric.Late; d != nil && by.Late > 0 {
		days := math.Ceil(by.Late.Hours() / 24)
		share := math.Min(d.Most, days*d.Each)
		off("late", "Handed in late", fmt.Sprintf("%g %% off for %s begun after the due date", share,
			quantity.Count(int(days), "day", "days")), full*share/100)
	}
	if d := rubric.Repeats; d != nil && by.Number > 1 {
		share := math.Min(d.Most, float64(by.Number-1)*d.Each)
		off("repeats", "Further attempts", fmt.Sprintf("%g %% off for attempt %d", share, by.Number), full*share/100)
	}
	return out
}

// capOf is the lowest cap whose fault is there, and the fault in words.
func capOf(r *report.Report, rubric exercise.Rubric) (percent float64, why string) {
	there := map[string]bool{exercise.CapUnit: r.Scale != nil, exercise.CapMirror: r.Pose != nil && r.Pose.Mirrored,
		exercise.CapNotFound: r.Count(report.NotFound) > 0}
	for _, f := range r.Whole {
		there[exercise.CapSolids] = there[exercise.CapSolids] || f.ID == "solids" && f.Verdict != report.In
	}
	kind := exercise.Part
	if r.Assembly != nil {
		kind, there = exercise.Assembly, faultsOfAssembly(r)
	}
	for _, s := range r.Steps {
		there[exercise.CapFailed] = there[exercise.CapFailed] || s.Failed || s.Unsound
	}
	percent = math.Inf(1)
	for _, c := range rubric.Caps {
		if there[c.When] && c.Percent < percent {
			for _, f := range exercise.CapFaults(kind) {
				if f.When == c.When {
					percent, why = c.Percent, f.Words
				}
			}
		}
	}
	return percent, why
}
