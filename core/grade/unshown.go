package grade

import (
	"fmt"
	"strings"

	"hammerset/core/exercise"
	"hammerset/core/report"
)

// complete gives the marks for all parts of a rubric that have points, in their order: those that are shown as they
// are, and for the others what becomes of their points. Scaled, they are reached as far as the shown ones together.
// Where parts of an assembly come one by one, what is not handed in yet is no part of the marks.
func complete(r *report.Report, ex *exercise.Exercise, shown map[string]report.Mark) []report.Mark {
	single := r.Assembly != nil && r.Assembly.Single
	got, of := 0.0, 0.0
	for _, m := range shown {
		got, of = got+m.Points, of+m.OutOf
	}
	var out []report.Mark
	for _, part := range ex.Rubric.Parts(ex.Kind) {
		if part.Points <= 0 {
			continue
		}
		m, ok := shown[part.ID]
		switch {
		case ok:
			out = append(out, m)
		case !single:
			out = append(out, rounded(unshown(ex, part.ID, got, of)))
		}
	}
	return out
}

// unshown is the mark for a part of the rubric that an attempt cannot show, beside what it got of what it shows.
func unshown(ex *exercise.Exercise, id string, got, of float64) report.Mark {
	m := blankOf(ex.Kind, ex.Rubric, id)
	switch way := ex.Rubric.Unshown; {
	case way == exercise.Nothing:
		m.Unshown, m.Reason = way, "the attempt cannot show it"
		m.Lost = []report.Loss{{What: "what the attempt cannot show", Points: m.OutOf}}
	case way == exercise.ByPerson || of <= 0:
		m.Unshown, m.Reason, m.Ask = exercise.ByPerson, "the attempt cannot show it: for a person to look at", true
	default:
		m.Unshown, m.Points = exercise.Scaled, m.OutOf*got/of
		m.Reason = fmt.Sprintf("the attempt cannot show it: %.4g %% of it, as of the rest", 100*got/of)
		if got < of {
			m.Lost = []report.Loss{{What: "as much of it as of the rest", Points: m.OutOf - m.Points}}
		}
	}
	return m
}

// Beforehand says what an attempt as STEP cannot show of what the rubric gives points for, and what becomes of these
// points; nothing where there are none.
func Beforehand(ex *exercise.Exercise) string {
	if ex.Kind == exercise.Assembly {
		return ""
	}
	var list []string
	points := 0.0
	for _, part := range ex.Rubric.Parts(ex.Kind) {
		asked := part.ID == "sketches" || part.ID == "practice" || part.ID == "robustness" && !ex.WhatIfFiles
		if asked && part.Points > 0 {
			list, points = append(list, strings.ToLower(part.Label)), points+part.Points
		}
	}
	if len(list) == 0 {
		return ""
	}
	becomes := "you get as much of them as of the rest"
	switch ex.Rubric.Unshown {
	case exercise.Nothing:
		becomes = "they are lost"
	case exercise.ByPerson:
		becomes = "your instructor gives them"
	}
	return fmt.Sprintf("A STEP file cannot show %s (%.4g of %.4g points): %s.", joined(list), points,
		ex.Rubric.Total(ex.Kind), becomes)
}

// joined is a list as it is said: a, b and c.
func joined(list []string) string {
	if len(list) < 2 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:len(list)-1], ", ") + " and " + list[len(list)-1]
}
