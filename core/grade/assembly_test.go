package grade

import (
	"testing"

	"hammerset/core/exercise"
	"hammerset/core/report"
)

// rightAssembly is the report of an attempt at an assembly of two items in which all is right.
func rightAssembly() *report.Report {
	part := func() *report.Report { return &report.Report{Points: 10, OutOf: 10} }
	item := func(number string, wanted int) report.Item {
		return report.Item{Number: number, Name: "item " + number, Part: "p" + number, Wanted: wanted, Found: wanted,
			Weight:   1,
			Verdict:  report.In,
			Variants: []report.Variant{{Components: make([]string, wanted), Report: part()}}}
	}
	joint := func(id string) report.Joint {
		return report.Joint{ID: id, Name: id, Placed: report.In, Verdict: report.In}
	}
	return &report.Report{Characteristics: []report.Characteristic{{ID: "mobility", Balloon: 1, Verdict: report.In},
		{ID: "interference", Balloon: 2, Verdict: report.In}, {ID: "1/d1", Item: "1", Balloon: 1, Verdict: report.In}},
		Assembly: &report.OfAssembly{Items: []report.Item{item("1", 1), item("2", 3)},
			Joints:   []report.Joint{joint("j1"), joint("j2"), joint("j3"), joint("j4")},
			Mobility: &report.Mobility{Wanted: 1, Found: 1, Verdict: report.In},
			Motion:   []report.Motion{{Joint: "j1", Name: "crank", Verdict: report.In}}}}
}

// ofTwo is the exercise of that report.
func ofTwo() *exercise.Exercise {
	return &exercise.Exercise{Kind: exercise.Assembly, Assembly: &exercise.OfAssembly{Items: []exercise.Item{{Part: "p1"},
		{Part: "p2", Weight: 3}}, Characteristics: []exercise.Requirement{{ID: "mobility", Balloon: 1},
		{ID: "interference", Balloon: 2}}},
		Rubric: exercise.Rubric{PartsMade: 40, Placement: 20, Joints: 20, Motion: 10, Whole: 10}}
}

// Each fault costs in one part of the rubric alone, as much as its weight says, and once.
func TestMarksOfAnAssembly(t *testing.T) {
	for _, c := range []struct {
		what   string
		change func(r *report.Report, ex *exercise.Exercise)
		points float64
		outOf  float64
	}{
		{"all right", func(*report.Report, *exercise.Exercise) {}, 100, 100},
		{"half of the points for a light part", func(r *report.Report, _ *exercise.Exercise) {
			r.Assembly.Items[0].Variants[0].Report.Points, r.Assembly.Items[0].Verdict = 5, report.Out
		}, 95, 100},
		{"half of the points for a heavy part", func(r *report.Report, _ *exercise.Exercise) {
			r.Assembly.Items[1].Variants[0].Report.Points, r.Assembly.Items[1].Verdict = 5, report.Out
		}, 85, 100},
		{"one of three is missing", func(r *report.Report, _ *exercise.Exercise) {
			x := &r.Assembly.Items[1]
			x.Found, x.Verdict, x.Variants[0].Components = 2, report.Out, make([]string, 2)
		}, 90, 100},
		{"a given part altered", func(r *report.Report, ex *exercise.Exercise) {
			ex.Assembly.Items[0].Given = true
			r.Assembly.Items[0].Given, r.Assembly.Items[0].Verdict = true, report.Out
			r.Assembly.Items[0].Variants[0].Report, r.Assembly.Items[0].Variants[0].Same = nil, false
		}, 90, 100},
		{"a joint out", func(r *report.Report, _ *exercise.Exercise) { r.Assembly.Joints[0].Placed = report.Out }, 95, 100},
		{"two joints out for one component", func(r *report.Report, _ *exercise.Exercise) {
			r.Assembly.Joints[0].Placed = report.Out
			r.Assembly.Joints[1].Placed, r.Assembly.Joints[1].ChargedIn = report.Out, "placement"
		}, 95, 100},
		{"a joint out by a part's wrong hole", func(r *report.Report, _ *exercise.Exercise) {
			r.Assembly.Joints[0].Placed, r.Assembly.Joints[0].ChargedIn = report.Out, "parts"
		}, 100, 100},
		{"the same where parts give no points", func(r *report.Report, ex *exercise.Exercise) {
			ex.Rubric.PartsMade = 0
			r.Assembly.Joints[0].Placed, r.Assembly.Joints[0].ChargedIn = report.Out, "parts"
		}, 55, 60},
		{"rigid, and all that follows", func(r *report.Report, _ *exercise.Exercise) {
			r.Assembly.Joints[0].Verdict = report.Out
			r.Assembly.Joints[1].Verdict, r.Assembly.Joints[1].Behind = report.Out, true
			r.Assembly.Mobility.Verdict = report.Out
		}, 96, 100},
		{"a file without joints", func(r *report.Report, _ *exercise.Exercise) {
			for i := range r.Assembly.Joints {
				r.Assembly.Joints[i].Verdict = ""
			}
		}, 100, 100},
		{"a collision", func(r *report.Report, _ *exercise.Exercise) {
			r.Assembly.Collisions = []report.Collision{{Verdict: report.Out}, {Verdict: report.Out}}
		}, 95, 100},
		{"a collision by a wrong part", func(r *report.Report, _ *exercise.Exercise) {
			r.Assembly.Collisions = []report.Collision{{Verdict: report.Out, ChargedIn: "parts"}}
		}, 100, 100},
		{"what is stated of the whole", func(r *report.Report, _ *exercise.Exercise) {
			r.Characteristics[1].Verdict = report.Out
		}, 95, 100},
		{"a mobility that a joint is behind", func(r *report.Report, _ *exercise.Exercise) {
			r.Assembly.Joints[0].Verdict = report.Out
			r.Characteristics[0].Verdict, r.Characteristics[0].ChargedIn = report.Out, "joints"
		}, 96, 100},
		{"two of four sizes cannot be changed", func(r *report.Report, ex *exercise.Exercise) {
			ex.Rubric.Robustness = 20
			r.Assembly.Varied = []report.Varied{{Size: "w", Verdict: report.In}, {Size: "h", Verdict: report.Out},
				{Size: "d", Verdict: report.Out}, {Size: "bore", Verdict: report.In}, {Size: "not there"}}
		}, 110, 120},
		{"one that a part's wrong size is behind, and a what-if", func(r *report.Report, ex *exercise.Exercise) {
			ex.Rubric.Robustness = 20
			r.Assembly.Varied = []report.Varied{{Size: "w", Verdict: report.Out, ChargedIn: "parts"}}
			r.WhatIfs = []report.WhatIf{{Name: "wider", Outcome: report.Differs}}
		}, 110, 120},
		{"sizes that no attempt of this kind has", func(r *report.Report, ex *exercise.Exercise) {
			ex.Rubric.Robustness = 20
		}, 120, 120},
		{"one of a part counts with its part", func(r *report.Report, _ *exercise.Exercise) {
			r.Characteristics[2].Verdict = report.Out
		}, 100, 100},
		{"one part by itself", func(r *report.Report, _ *exercise.Exercise) {
			a := r.Assembly
			a.Single, a.Joints, a.Mobility, a.Motion, r.Characteristics = true, nil, nil, nil, nil
			a.Items[1].Found, a.Items[1].Variants = 0, nil
		}, 10, 10},
		{"capped for a missing item", func(r *report.Report, ex *exercise.Exercise) {
			ex.Rubric.Caps = []exercise.Cap{{When: exercise.CapMissing, Percent: 60}}
			r.Assembly.Items[1].Found, r.Assembly.Items[1].Verdict = 2, report.Out
		}, 60, 100},
		{"capped since it is rigid", func(r *report.Report, ex *exercise.Exercise) {
			ex.Rubric.Caps = []exercise.Cap{{When: exercise.CapRigid, Percent: 50}}
			r.Assembly.Mobility.Found, r.Assembly.Mobility.Verdict = 0, report.Out
		}, 50, 100},
		{"capped for a collision", func(r *report.Report, ex *exercise.Exercise) {
			ex.Rubric.Caps = []exercise.Cap{{When: exercise.CapCollision, Percent: 70}}
			r.Assembly.Collisions = []report.Collision{{Verdict: report.Out}}
		}, 70, 100},
	} {
		r, ex := rightAssembly(), ofTwo()
		c.change(r, ex)
		m := Mark(r, ex, Circumstances{Number: 1})
		if m.Points != c.points || m.OutOf != c.outOf {
			t.Errorf("%s: %g of %g, and not %g of %g: %+v", c.what, m.Points, m.OutOf, c.points, c.outOf, m.Marks)
		}
		lost := 0.0
		for _, x := range m.Marks {
			for _, l := range x.Lost {
				lost += l.Points
			}
			if x.OutOf == 0 { // what a cap takes off
				lost -= x.Points
			}
		}
		if diff := m.OutOf - m.Points - lost; diff > 0.02 || diff < -0.02 {
			t.Errorf("%s: %g points are gone, and %g are told", c.what, m.OutOf-m.Points, lost)
		}
	}
}
