package sketch

import (
	"math"

	"hammerset/core/solve"
)

// Newton's method finds a solution near its start, and a large change of a size
// has the wrong one near: a rectangle whose width is doubled may come back
// inside out. So large changes are led: the sizes are moved from their old
// values to the new ones in steps, each solved from the last (numerical
// continuation; Allgower and Georg, Introduction to Numerical Continuation
// Methods), and a step that folds a corner over is made smaller.

// corner is where two lines meet, with the turn from one to the other.
type corner struct {
	c, d curveSlots
	turn float64
}

// corners lists the turns between lines that share a point, and of arcs: what
// must keep its sign lest the shape folds over.
//
// The turn is signed: the shape as drawn says which way each corner goes.
func (s *System) corners() []corner {
	at := map[pointSlots][]curveSlots{}
	for _, id := range s.order {
		if k := s.curves[id]; k.kind == KindLine {
			at[k.a] = append(at[k.a], k)
			at[k.b] = append(at[k.b], k)
		}
	}
	var out []corner
	for _, id := range s.order {
		k := s.curves[id]
		if k.kind != KindLine {
			continue
		}
		for _, p := range []pointSlots{k.a, k.b} {
			for _, m := range at[p] {
				if m.entity > k.entity {
					out = append(out, corner{k, m, 0})
				}
			}
		}
	}
	for i := range out {
		out[i].turn = s.turnAt(out[i])
	}
	return out
}

// turnAt is the sine of the angle between two lines.
//
// The sine is zero for lines that run on in one another, which can fold without
// harm.
func (s *System) turnAt(k corner) float64 {
	u, v := s.at(k.c.b).Sub(s.at(k.c.a)), s.at(k.d.b).Sub(s.at(k.d.a))
	n := u.Norm() * v.Norm()
	if n == 0 {
		return 0
	}
	return u.Cross(v) / n
}

// folded tells whether a corner has turned over.
//
// Corners within 0.03 (less than 2 degrees) of straight are not judged: they
// turn over by what the solver leaves.
func (s *System) folded(before []corner) bool {
	for _, k := range before {
		const clear = 0.03
		if now := s.turnAt(k); now*k.turn < 0 && math.Abs(k.turn) > clear && math.Abs(now) > clear {
			return true
		}
	}
	return false
}

// outcome is how solving a component went.
type outcome struct {
	solve.Component
	residual float64
	reached  float64 // how far the sizes got from their old values to the new: 1 is all the way
	folded   bool
}

// bring brings the system to its targets. Sizes that differ from the starting
// geometry are first set at once; when that fails or folds the shape over, they
// are led from the old value to the new one in steps that shrink where it gets
// hard.
//
// The change of a size is measured by the logarithm of its ratio, as a size that
// doubles is as far as one that halves. Components do not know of one another,
// and are led each for itself.
func (s *System) bring(equations []int) []outcome {
	var out []outcome
	for _, c := range s.solver.Components(equations) {
		if len(c.Groups) == 0 {
			continue // nothing says where it is to go
		}
		start := append([]float64(nil), s.x...)
		before := s.corners()
		change := 0.0
		for _, e := range c.Groups {
			if eq := &s.equations[e]; eq.size {
				change = math.Max(change, math.Abs(math.Log(math.Abs(eq.target)/math.Max(math.Abs(eq.measured), 1e-3*s.scale)+
					1e-6)))
			}
		}
		o := outcome{Component: c, reached: 1}
		s.targets(c, 1)
		if change < 0.7 { // less than a factor of two: try it at once
			o.residual = s.solver.Settle(c, 60)
			if s.solver.Small(o.residual) && !s.folded(before) {
				out = append(out, o)
				continue
			}
			copy(s.x, start)
		}
		o.residual, o.reached = s.lead(c)
		if !s.solver.Small(o.residual) {
			// A start far from any solution may still be reached directly.
			led := append([]float64(nil), s.x...)
			copy(s.x, start)
			s.targets(c, 1)
			if r := s.solver.Settle(c, 200); s.solver.Small(r) {
				o.residual, o.reached = r, 1
			} else {
				copy(s.x, led)
			}
		}
		o.folded = s.folded(before)
		out = append(out, o)
	}
	return out
}

// targets sets every size of a component the fraction t of the way from its
// starting value to its target.
//
// The target itself is set at the end, and not a sum that comes within rounding
// of it.
func (s *System) targets(c solve.Component, t float64) {
	for _, e := range c.Groups {
		if eq := &s.equations[e]; eq.size {
			*eq.set = eq.measured + t*(eq.target-eq.measured)
			if t == 1 {
				*eq.set = eq.target
			}
		}
	}
}

// lead continues a component from its starting sizes to the targets. It stops
// where no smaller step helps, with the geometry of the last solved place.
//
// A step that succeeds doubles the next and one that fails takes a quarter of
// it, from an eighth of the way at first. Below a ten-thousandth the path has
// come to an end: beyond it there is no solution near, and the fraction reached
// is what the person is told.
func (s *System) lead(c solve.Component) (residual, reached float64) {
	s.targets(c, 0)
	if r := s.solver.Settle(c, 200); !s.solver.Small(r) {
		s.targets(c, 1)
		return s.solver.Settle(c, 200), 0
	}
	step := 0.125
	before := s.corners()
	for t := 0.0; t < 1; {
		keep := append([]float64(nil), s.x...)
		next := math.Min(1, t+step)
		if 1-next < 1e-9 {
			next = 1
		}
		s.targets(c, next)
		r := s.solver.Settle(c, 40)
		if s.solver.Small(r) && (!s.folded(before) || step < 1e-3) {
			t = next
			step = math.Min(2*step, 0.25)
			before = s.corners()
			continue
		}
		copy(s.x, keep)
		if step /= 4; step < 1e-4 {
			s.targets(c, 1)
			return s.solver.ResidualOf(c), t
		}
	}
	return 0, 1
}
