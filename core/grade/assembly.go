package grade

import (
	"fmt"
	"math"

	"hammerset/core/exercise"
	"hammerset/core/report"
)

// Of an assembly each part of the rubric judges one thing: the parts by themselves, how they are placed, what their
// joints leave free, how it moves, and what is stated of the whole. What follows from something else is charged where
// that is, as long as points are given there (ChargedIn).

// ofAssembly are the parts of a rubric for an assembly, in the order in which they are told.
func ofAssembly(ex *exercise.Exercise) []criterion {
	return []criterion{parts(ex), placement, joints, moving, whole, bears, practice}
}

// charged tells whether something costs nothing here, since what is behind it is charged in another part of the rubric.
func charged(rubric exercise.Rubric, in, here string) bool {
	if in == here && in != "" {
		return true // another line of the same part
	}
	for _, p := range rubric.Parts(exercise.Assembly) {
		if p.ID == in && p.Points > 0 {
			return true
		}
	}
	return false
}

// share shares the points of a part of the rubric out over some lines.
type share struct {
	got, of float64
	ask     bool
	lost    []report.Loss
	lines   int
	right   int
}

// line takes one line in: what it weighs, and which share of that was reached.
func (s *share) line(weight, reached float64, ask bool, loss report.Loss) {
	s.lines++
	if reached >= 1 {
		s.right++
	}
	s.of, s.got, s.ask = s.of+weight, s.got+weight*reached, s.ask || ask
	if reached < 1 && weight > 0 {
		loss.Points = weight * (1 - reached)
		s.lost = append(s.lost, loss)
	}
}

// mark is the mark for all lines; ok is false where there are none.
func (s *share) mark(rubric exercise.Rubric, id, of string) (report.Mark, bool) {
	m := blankOf(exercise.Assembly, rubric, id)
	if s.of <= 0 || m.OutOf <= 0 {
		return m, false
	}
	for _, l := range s.lost {
		l.Points *= m.OutOf / s.of
		m.Lost = append(m.Lost, l)
	}
	m.Points, m.Ask = m.OutOf*s.got/s.of, s.ask
	m.Reason = fmt.Sprintf("%d of %d %s", s.right, s.lines, of)
	return m, true
}

// verdict takes a line with a verdict in.
func (s *share) verdict(rubric exercise.Rubric, weight float64, v report.Verdict, in, here string, loss report.Loss) {
	reached := 0.0
	if v == report.In || in != "" && charged(rubric, in, here) {
		reached = 1
	}
	s.line(weight, reached, v == report.Ask, loss)
}

// parts judges the items by their weights: each by the marks of the check of its parts, and by its quantity. Of what is
// not yet handed in, where parts come one by one, nothing is reached and nothing asked for.
func parts(ex *exercise.Exercise) criterion {
	return func(r *report.Report, rubric exercise.Rubric, _ []float64) (report.Mark, bool) {
		s := &share{}
		out := blankOf(exercise.Assembly, rubric, "parts")
		all, asked := 0.0, 0.0
		for i := range r.Assembly.Items {
			x := &r.Assembly.Items[i]
			weight := x.Weight
			if item := ex.Assembly.Item(x.Part); item != nil {
				weight = item.Weighs()
			}
			if x.Given && x.Verdict != report.In {
				weight = 1 // it was to be left as it is
			}
			all += weight
			if r.Assembly.Single && x.Found == 0 {
				continue
			}
			asked += weight
			what := fmt.Sprintf("item %s, %s: %s", x.Number, x.Name, x.Reason)
			s.line(weight, reached(x, r.Assembly.Single), x.Verdict == report.Ask, report.Loss{What: what})
		}
		m, ok := s.mark(rubric, "parts", "items are right")
		if ok && asked < all {
			m.OutOf = out.OutOf * asked / all
			m.Points *= asked / all
			for i := range m.Lost {
				m.Lost[i].Points *= asked / all
			}
			m.Reason += "; the others are not yet handed in"
		}
		return m, ok
	}
}

// reached is which share of an item is there and right.
func reached(x *report.Item, single bool) float64 {
	sum, n := 0.0, 0
	for _, v := range x.Variants {
		got := 0.0
		switch {
		case v.Report != nil && v.Report.OutOf > 0:
			got = v.Report.Points / v.Report.OutOf
		case v.Report == nil && v.Same:
			got = 1
		}
		sum += got * float64(len(v.Components))
		n += len(v.Components)
	}
	if n == 0 {
		return 0
	}
	mean := sum / float64(n)
	wanted := float64(x.Wanted)
	if single {
		return mean
	}
	share := mean * math.Min(1, float64(x.Found)/wanted)
	if x.Verdict != report.In && x.Reason == report.TooMany {
		share *= wanted / (wanted + 1)
	}
	return share
}

// placement judges what the joints ask for.
func placement(r *report.Report, rubric exercise.Rubric, _ []float64) (report.Mark, bool) {
	s := &share{}
	for _, j := range r.Assembly.Joints {
		s.verdict(rubric, 1, j.Placed, j.ChargedIn, "placement", report.Loss{What: j.Name + ": " + string(j.Placed)})
	}
	return s.mark(rubric, "placement", "joints hold")
}

// joints judges what the joints leave free, and the mobility.
func joints(r *report.Report, rubric exercise.Rubric, _ []float64) (report.Mark, bool) {
	s := &share{}
	out := false
	for _, j := range r.Assembly.Joints {
		if j.Verdict == "" {
			continue
		}
		in := ""
		if j.Verdict == report.Out && j.Behind {
			in = "joints"
		}
		out = out || j.Verdict == report.Out
		s.verdict(rubric, 1, j.Verdict, in, "joints", report.Loss{What: j.Name + ": " + j.Reason})
	}
	if m := r.Assembly.Mobility; m != nil && s.lines > 0 {
		in := ""
		if out {
			in = "joints"
		}
		s.verdict(rubric, 1, m.Verdict, in, "joints", report.Loss{What: "mobility: " + m.Reason})
	}
	return s.mark(rubric, "joints", "joints leave what they should")
}

// moving judges the drives, and that nothing is in anything.
func moving(r *report.Report, rubric exercise.Rubric, _ []float64) (report.Mark, bool) {
	s := &share{}
	if r.Assembly.Single {
		return report.Mark{}, false
	}
	for _, m := range r.Assembly.Motion {
		s.verdict(rubric, 1, m.Verdict, m.ChargedIn, "motion", report.Loss{What: m.Name + ": " + m.Reason})
	}
	worst := report.In
	what := ""
	for _, c := range r.Assembly.Collisions {
		if c.ChargedIn != "" && charged(rubric, c.ChargedIn, "motion") {
			continue
		}
		if worst == report.In || c.Verdict == report.Out {
			worst, what = c.Verdict, c.What
		}
	}
	s.verdict(rubric, 1, worst, "", "motion", report.Loss{What: what})
	return s.mark(rubric, "motion", "drives and collisions are as they should be")
}

// whole judges the characteristics of the whole by their weights.
func whole(r *report.Report, rubric exercise.Rubric, weights []float64) (report.Mark, bool) {
	s := &share{}
	for i, c := range r.Characteristics {
		if c.Item != "" {
			continue // it counts with its part
		}
		s.verdict(rubric, weights[i], c.Verdict, c.ChargedIn, "whole", report.Loss{Characteristic: c.ID, Balloon: c.Balloon,
			What: fmt.Sprintf("balloon %d, %s: %s", c.Balloon, c.Label, c.Verdict)})
	}
	return s.mark(rubric, "whole", "characteristics of the whole in")
}

// bears judges which of its sizes can be changed as those of the reference can.
func bears(r *report.Report, rubric exercise.Rubric, _ []float64) (report.Mark, bool) {
	s := &share{}
	for _, x := range r.Assembly.Varied {
		if x.Verdict != "" {
			s.verdict(rubric, 1, x.Verdict, x.ChargedIn, "robustness", report.Loss{What: fmt.Sprintf("%s = %s: %s", x.Attempt,
				x.At, x.Reason)})
		}
	}
	for _, w := range r.WhatIfs {
		v := report.Out
		if w.Outcome == report.Follows {
			v = report.In
		}
		s.verdict(rubric, 1, v, "", "robustness", report.Loss{What: "what-if " + w.Name + ": " + w.Detail})
	}
	return s.mark(rubric, "robustness", "sizes can be changed")
}

// faultsOfAssembly are the faults for which a cap can be.
func faultsOfAssembly(r *report.Report) map[string]bool {
	a := r.Assembly
	out := map[string]bool{exercise.CapUnit: r.Scale != nil}
	for _, x := range a.Items {
		out[exercise.CapMissing] = out[exercise.CapMissing] || x.Found < x.Wanted && !a.Single
	}
	for _, c := range a.Collisions {
		out[exercise.CapCollision] = out[exercise.CapCollision] || c.Verdict == report.Out
	}
	if m := a.Mobility; m != nil {
		out[exercise.CapRigid] = m.Found < m.Wanted
	}
	return out
}
