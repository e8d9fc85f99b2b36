// Package robustness measures whether a check finds what makes a model of the right shape weak, and charges it by the
// stated rule.
package robustness

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/report"
	"hammerset/demo"
	"hammerset/formats/documents"
)

// task is an exercise of the demo with its reference as it lies in its file.
type task struct {
	name string
	ex   *exercise.Exercise
	ref  check.Reference
	data []byte
}

func tasks() ([]*task, error) {
	var out []*task
	for _, name := range []string{"pawl-plate", "rack-stop", "hand-hole-cover", "guide-block", "bearing-bracket",
		"drain-bend", "gland-flange", "winch-spindle"} {
		b, err := demo.Bundle(name)
		if err != nil {
			return nil, err
		}
		t := &task{name: name, ex: b.Parsed, data: b.Reference}
		if t.ref, err = documents.ReadReference(b.Reference); err != nil {
			return nil, err
		}
		if t.ref.Atlas, err = documents.ReadAtlas(b.Atlas, b.Parsed, t.ref.Document); err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, nil
}

// fresh is the reference, to be changed.
func (t *task) fresh() document {
	var d map[string]any
	if err := json.Unmarshal(t.data, &d); err != nil {
		panic(err) // the demo's own
	}
	return d
}

// driving are the parameters that are varied.
func (t *task) driving() (names []string) {
	for _, p := range list(t.fresh()["parameters"]) {
		if !computed(p) {
			names = append(names, p.text("name"))
		}
	}
	return names
}

func (t *task) edit(d document, kind, words string, args ...any) *edit {
	return &edit{exercise: t.name, kind: kind, words: fmt.Sprintf(words, args...), model: d}
}

// edits are all of an exercise.
func (t *task) edits() (out []*edit) {
	for _, make := range []func(*task) []*edit{typedEverywhere, typedInOnePlace, typedThrough, twin, otherNames,
		unnamed, loose, spare, special} {
		out = append(out, make(t)...)
	}
	return out
}

// judge checks an edit and says what is not as the rule has it.
func (t *task) judge(ctx context.Context, c *check.Checker, e *edit) (wrong []string, r *report.Report, err error) {
	data, err := json.Marshal(e.model)
	if err != nil {
		return nil, nil, err
	}
	att, err := documents.ReadModel(data)
	if err != nil {
		return nil, nil, fmt.Errorf("%v: %w", e, err)
	}
	out, err := c.Part(ctx, check.Subject{Exercise: t.ex, Reference: t.ref,
		Attempt: check.Attempt{Name: e.words, Document: att}}, func(string, float64) {})
	if err != nil {
		return nil, nil, fmt.Errorf("%v: %w", e, err)
	}
	r = out.Report
	say := func(format string, args ...any) { wrong = append(wrong, fmt.Sprintf(format, args...)) }
	for _, id := range []string{"characteristics", "whole"} {
		if m := mark(r, id); m.Points < m.OutOf-1e-9 {
			say("%s: %g of %g, though the shape is right", id, m.Points, m.OutOf)
		}
	}
	t.judgeSizes(e, r, say)
	lost := map[string]bool{}
	for _, l := range mark(r, "sketches").Lost {
		lost[l.What] = true
	}
	for _, name := range e.sketches {
		if !lost["sketch "+name+" is not held"] && !lost["sketch "+name+" has spare constraints"] {
			say("sketch %s loses nothing", name)
		}
	}
	if len(lost) != len(e.sketches) {
		say("sketches that lose their share: %v", lost)
	}
	for _, p := range r.Practice {
		if slices.Contains(e.practice, p.ID) != (p.Share < 1) && len(e.practice) > 0 {
			say("practice %s is kept by %g", p.ID, p.Share)
		}
	}
	e.judgeFindings(r, say)
	return wrong, r, nil
}

// judgeSizes holds the cases that are lost against the sizes that should not be followed.
func (t *task) judgeSizes(e *edit, r *report.Report, say func(string, ...any)) {
	m := mark(r, "robustness")
	cases, bad := 0, 0
	lost := map[string]int{}
	for _, s := range r.Sweep {
		switch s.Outcome {
		case report.NoAnswer:
		case report.Follows, report.BothEnd:
			cases++
		default:
			cases, bad = cases+1, bad+1
			lost[s.Parameter]++
		}
	}
	if want := m.OutOf * float64(cases-bad) / float64(max(1, cases)); m.Points < want-0.006 || m.Points > want+0.006 {
		say("robustness: %g of %g for %d of %d cases", m.Points, m.OutOf, cases-bad, cases)
	}
	for _, name := range e.sizes {
		if lost[name] == 0 {
			say("size %s is followed", name)
		}
	}
	for name, n := range lost {
		if !slices.Contains(e.sizes, name) && len(e.sketches) == 0 {
			say("size %s is not followed in %d cases", name, n)
		}
	}
}

// judgeFindings looks for one that names what was done.
func (e *edit) judgeFindings(r *report.Report, say func(string, ...any)) {
	var told []string
	for _, f := range r.Findings {
		words := strings.Join([]string{f.Where, f.What, f.Cause, f.Remedy}, "; ")
		told = append(told, f.Kind+" ("+words+")")
		if slices.Contains(e.finding, f.Kind) && !slices.ContainsFunc(e.says, func(s string) bool {
			return !strings.Contains(words, s)
		}) {
			return
		}
	}
	if len(e.finding) > 0 {
		say("no finding of %v says %q: %s", e.finding, e.says, strings.Join(told, " | "))
	} else if len(e.practice) == 0 && len(told) > 0 {
		say("there is nothing to be told: %s", strings.Join(told, " | "))
	}
}

func mark(r *report.Report, id string) report.Mark {
	for _, m := range r.Marks {
		if m.ID == id {
			return m
		}
	}
	return report.Mark{}
}
