package grade

import (
	"fmt"

	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/report"
)

// Sample counts what a model of an exercise is judged by, where it is made as the reference is: its figures of the
// whole part, the driving sizes with the changes that are tried on each, its sketches, and the rules of good practice.
type Sample struct{ Figures, Sizes, Changes, Sketches, Rules int }

// Worth is what a fault costs where it is the only one.
type Worth struct {
	Fault  string
	Costs  float64
	Leaves float64
	OutOf  float64
}

// Worths says what faults cost by the rubric of an exercise: a model with nothing wrong is given one after the other,
// and marked as any other is.
func Worths(ex *exercise.Exercise, of Sample) []Worth {
	right := of.right(ex)
	full := Mark(right, ex, Circumstances{Number: 1})
	var out []Worth
	for _, f := range of.faults(ex) {
		r := of.right(ex)
		f.commit(r)
		got := Mark(r, ex, Circumstances{Number: 1})
		out = append(out, Worth{Fault: f.words, Costs: cents(full.Points - got.Points), Leaves: got.Points, OutOf: got.OutOf})
	}
	return out
}

// right is the report of a model with nothing wrong.
func (of Sample) right(ex *exercise.Exercise) *report.Report {
	r := &report.Report{Unit: ex.Unit, Attempt: report.Attempt{Kind: "model"}}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		r.Characteristics = append(r.Characteristics, report.Characteristic{ID: c.ID, Balloon: c.Balloon, Verdict: report.In,
			Weight: c.Weighs()})
	}
	for range of.Figures {
		r.Whole = append(r.Whole, report.Figure{Verdict: report.In})
	}
	for range of.Sizes * of.Changes {
		r.Sweep = append(r.Sweep, report.Sweep{Outcome: report.Follows})
	}
	for range of.Sketches {
		r.Sketches = append(r.Sketches, report.Sketch{Held: true})
	}
	for range of.Rules {
		r.Practice = append(r.Practice, report.Practice{Share: 1})
	}
	return r
}

// fault is something that can be wrong in a model.
type fault struct {
	words  string
	commit func(*report.Report)
}

// faults lists those that an exercise can show, the smallest of each part first.
func (of Sample) faults(ex *exercise.Exercise) []fault {
	var out []fault
	add := func(there bool, commit func(*report.Report), words string, args ...any) {
		if there {
			out = append(out, fault{fmt.Sprintf(words, args...), commit})
		}
	}
	follow := func(n int) func(*report.Report) {
		return func(r *report.Report) {
			for i := range n {
				r.Sweep[i].Outcome = report.Still
			}
		}
	}
	loose := func(n int) func(*report.Report) {
		return func(r *report.Report) {
			for i := range n {
				r.Sketches[i].Held = false
			}
		}
	}
	least := 0
	for i := range ex.Characteristics {
		if w := ex.Characteristics[i].Weighs(); w > 0 && w < ex.Characteristics[least].Weighs() ||
			ex.Characteristics[least].Weighs() == 0 {
			least = i
		}
	}
	if len(ex.Characteristics) > 0 {
		add(true, func(r *report.Report) { r.Characteristics[least].Verdict = report.Out },
			"one characteristic of weight %g is out", ex.Characteristics[least].Weighs())
	}
	add(of.Figures > 0, func(r *report.Report) { r.Whole[0].Verdict = report.Out },
		"one of the %d figures of the whole part is out", of.Figures)
	add(of.Sizes > 0, follow(1), "one of %d changes of one size is not followed", of.Changes)
	add(of.Sizes > 0, follow(of.Changes), "one of the %s is typed as a number", quantity.Count(of.Sizes, "driving size",
		"driving sizes"))
	add(of.Sizes > 0, follow(of.Sizes*of.Changes), "everything is typed as numbers, and the shape is right")
	add(of.Sketches > 0, loose(1), "one of %s is not held, or has something spare", quantity.Count(of.Sketches, "sketch",
		"sketches"))
	add(of.Sketches > 0, loose(of.Sketches), "no sketch is held")
	add(of.Rules > 0, func(r *report.Report) { r.Practice[0].Share = 0 }, "one of %s of good practice is not kept at all",
		quantity.Count(of.Rules, "rule", "rules"))
	add(of.Sizes > 0, func(r *report.Report) {
		follow(of.Sizes * of.Changes)(r)
		loose(of.Sketches)(r)
		for i := range r.Practice {
			r.Practice[i].Share = 0
		}
	}, "the shape is right, and all else is not")
	return out
}
