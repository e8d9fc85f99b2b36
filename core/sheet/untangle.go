package sheet

import (
	"context"
	"math"
	"slices"

	"hammerset/core/exercise"
)

// How many places are tried altogether while a sheet is untangled: a crowded sheet is left as well as it can be made in
// some seconds.
const (
	mostTried   = 4000
	mostForFits = 120
)

// leastArc is the least radius of the arc of an angle, in mm of paper.
const leastArc = 8

// Untangle moves the marks of a sheet until no text or balloon is touched by anything, as far as it can: one mark after
// the other goes where the fewest are touched, by the smallest of the moves that do as much, until none helps. What a
// person has placed stays. Progress is told which share is done, from 0 to 1.
func Untangle(ctx context.Context, ex *exercise.Exercise, s *exercise.Sheet, p *Projected, m Metrics,
	progress func(float64)) error {
	return untangle(ctx, ex, s, p, m, mostTried, func(*exercise.Mark) bool { return true }, progress)
}

// Fit moves one mark, which has just been put, to where it touches nothing and nothing touches it, if there is such a
// place.
func Fit(ctx context.Context, ex *exercise.Exercise, s *exercise.Sheet, p *Projected, m Metrics, id string) error {
	return untangle(ctx, ex, s, p, m, mostForFits, func(x *exercise.Mark) bool { return x.ID == id }, func(float64) {})
}

func untangle(ctx context.Context, ex *exercise.Exercise, s *exercise.Sheet, p *Projected, m Metrics, most int,
	movable func(*exercise.Mark) bool, progress func(float64)) error {
	tried := 0
	count := func() ([]Touch, error) {
		tried++
		d, err := LayOut(ex, s, p, m)
		if err != nil {
			return nil, err
		}
		return d.Touching(m), ctx.Err()
	}
	touches, err := count()
	if err != nil {
		return err
	}
	first := len(touches)
	for moved := true; moved; {
		moved = false
		for _, i := range inTheWay(s, touches, movable) {
			best, to := touches, s.Marks[i]
			for _, other := range elsewhere(s.Marks[i]) {
				if len(best) == 0 || tried > most {
					break
				}
				s.Marks[i] = other
				now, err := count()
				if err != nil {
					return err
				}
				if len(now) < len(best) {
					best, to = now, other
				}
			}
			moved = moved || len(best) < len(touches)
			s.Marks[i], touches = to, best
			progress(max(1-float64(len(touches))/float64(max(1, first)), float64(tried)/float64(most)))
		}
	}
	return nil
}

// inTheWay lists the marks by which texts are touched, or that are touched.
func inTheWay(s *exercise.Sheet, touches []Touch, movable func(*exercise.Mark) bool) []int {
	var out []int
	for i := range s.Marks {
		id := s.Marks[i].ID
		if !s.Marks[i].ByHand && movable(&s.Marks[i]) && slices.ContainsFunc(touches, func(t Touch) bool {
			return t.Mark == id || t.Other == id
		}) {
			out = append(out, i)
		}
	}
	return out
}

// elsewhere lists other places of a mark, the nearest first.
func elsewhere(m exercise.Mark) []exercise.Mark {
	var out []exercise.Mark
	put := func(change func(*exercise.Mark)) {
		n := m
		change(&n)
		out = append(out, n)
	}
	away := []float64{4, 8, 12, 20, 28}
	switch m.Form {
	case exercise.Leader:
		length, angle := Point(m.Offset).norm(), math.Atan2(m.Offset[1], m.Offset[0])
		for _, longer := range []float64{1, 1.3, 1.7, 0.7} {
			for _, turn := range []float64{0, 12, -12, 25, -25, 45, -45, 70, -70, 180} {
				if longer == 1 && turn == 0 {
					continue
				}
				q := polar(longer*length, angle+turn*math.Pi/180)
				put(func(n *exercise.Mark) { n.Offset = [2]float64{math.Round(1e3*q[0]) / 1e3, math.Round(1e3*q[1]) / 1e3} })
			}
		}
	case exercise.Angle:
		for _, more := range append([]float64{0, -4, -8}, away...) {
			if m.Offset[1]+more < leastArc {
				continue
			}
			for _, up := range []float64{0, -4, 4, -8, 8, -14, 14, -20, 20} {
				if more != 0 || up != 0 {
					put(func(n *exercise.Mark) { n.Offset = [2]float64{m.Offset[0] + up, m.Offset[1] + more} })
				}
			}
		}
	default:
		opposite := map[string]string{"above": "below", "below": "above", "left": "right", "right": "left",
			exercise.Aligned: exercise.AlignedBelow, exercise.AlignedBelow: exercise.Aligned}[m.Side]
		for _, more := range away {
			put(func(n *exercise.Mark) { n.Offset[1] += more })
		}
		for _, shift := range away {
			put(func(n *exercise.Mark) { n.Offset[0] += shift })
			put(func(n *exercise.Mark) { n.Offset[0] -= shift })
		}
		for _, at := range []float64{10, 18, 26} {
			put(func(n *exercise.Mark) { n.Side, n.Offset[1] = opposite, at })
		}
	}
	return out
}
