package solve

import "math"

// Settle solves a component from the present state and gives the largest residual that is left. Two
// steps on all of it carry everything along to about where it belongs, then it is solved block by
// block, and all at once where that fails.
func (s *System) Settle(c Component, iterations int) float64 {
	worst := math.Inf(1)
	for range 6 {
		p := s.planFor(c)
		start := append([]float64(nil), s.State...)
		worst = 0
		blocks := p.blocks()
		if len(blocks) > 1 {
			s.SettleWhole(c, 2)
		}
		for _, b := range blocks {
			worst = math.Max(worst, s.SolveBlock(b, iterations))
		}
		if !s.Small(worst) {
			kept := append([]float64(nil), s.State...)
			copy(s.State, start)
			if r := s.SettleWhole(c, iterations); r < worst {
				worst = r
			} else {
				copy(s.State, kept)
			}
		}
		if s.Refresh == nil || !s.Refresh() {
			break
		}
		s.plans = nil
		s.Changes++
	}
	return worst
}

// SettleWhole solves all blocks of a component together.
func (s *System) SettleWhole(c Component, iterations int) float64 {
	return s.SolveBlock(s.wholeOf(c), iterations)
}

// ResidualOf is the largest residual of a component at the present state.
func (s *System) ResidualOf(c Component) float64 { return s.Residual(s.wholeOf(c)) }

// wholeOf is a component as one block, for when its parts cannot be solved one
// after the other. It is made once.
func (s *System) wholeOf(c Component) *Block {
	p := s.planFor(c)
	if p.whole == nil {
		p.whole = s.NewBlock(s.Rows(c.Groups), c.Vars)
	}
	return p.whole
}
