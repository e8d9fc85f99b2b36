package sketch

import "math"

// tolerance is the largest residual of a solved sketch relative to its size.
const tolerance = 1e-10

// evaluate fills the residuals of a block at x and, when asked, its derivatives.
func (s *System) evaluate(b *block, x []float64, derivatives bool) {
	var local [jetSize]jet
	for gi := range b.groups {
		g := &b.groups[gi]
		eq := &s.equations[g.equation]
		for i, v := range eq.vars {
			local[i] = jet{v: x[v]}
			local[i].d[i] = 1
		}
		r := eq.eval(local[:len(eq.vars)])
		for k := range eq.count {
			at := g.rows[k]
			if at < 0 {
				continue
			}
			b.res[at] = r[k].v
			if derivatives {
				copy(b.grad[g.start+k*len(g.cols):g.start+(k+1)*len(g.cols)], r[k].d[:len(g.cols)])
			}
		}
	}
}

func largest(v []float64) float64 {
	m := 0.0
	for _, x := range v {
		if math.IsNaN(x) {
			return math.Inf(1)
		}
		m = math.Max(m, math.Abs(x))
	}
	return m
}

func sumSquares(v []float64) float64 {
	t := 0.0
	for _, x := range v {
		t += x * x
	}
	if math.IsNaN(t) {
		return math.Inf(1)
	}
	return t
}

// assemble sums JᵀJ into the factor's values and Jᵀr into rhs, and gives the
// largest entry on the diagonal.
func (b *block) assemble() float64 {
	f := b.factor
	for i := range f.value {
		f.value[i] = 0
	}
	for i := range b.rhs {
		b.rhs[i] = 0
	}
	for gi := range b.groups {
		g := &b.groups[gi]
		for k := range 2 {
			at := g.rows[k]
			if at < 0 {
				continue
			}
			d := b.grad[g.start+k*len(g.cols) : g.start+(k+1)*len(g.cols)]
			for _, p := range g.pairs {
				f.value[p.at] += d[p.a] * d[p.b]
			}
			r := b.res[at]
			for i, j := range g.cols {
				if j >= 0 {
					b.rhs[j] += d[i] * r
				}
			}
		}
	}
	top := 0.0
	for j := range f.n {
		top = math.Max(top, f.value[f.colPtr[j+1]-1])
	}
	return top
}

// solveBlock runs Levenberg-Marquardt on a block from the present geometry:
// (JᵀJ + λI) δ = -Jᵀr. With a small λ the step is the least change that
// satisfies the linearised residuals. It returns the largest residual reached
// and leaves the best geometry in s.x.
func (s *System) solveBlock(b *block, iterations int) float64 {
	s.evaluate(b, s.x, true)
	goal := tolerance * s.scale * 1e-2
	if len(b.vars) == 0 || largest(b.res) <= goal {
		return largest(b.res)
	}
	// Damping goes down to a floor that keeps what is free still. Where that floor
	// itself holds the steps back, as in nearly singular poses, it is lowered.
	floor := 1e-11
	lambda := 1e-7
	f := b.factor
	for it := 0; it < iterations; it++ {
		now, worst := sumSquares(b.res), largest(b.res)
		if worst <= goal {
			return worst
		}
		d := b.assemble()
		if d == 0 || math.IsInf(d, 0) || math.IsNaN(d) {
			return worst
		}
		grad := append(b.grad0[:0], b.rhs...)
		b.grad0 = grad
		for i, v := range b.vars {
			b.trial[i] = s.x[v]
		}
		accepted := false
		damp := 0.0
		for try := 0; try < 14 && !accepted; try++ {
			for j := range f.n {
				f.value[f.colPtr[j+1]-1] += lambda*d - damp
			}
			damp = lambda * d
			if f.factor(1e-3 * floor * d) {
				copy(b.rhs, grad)
				f.solve(b.rhs)
				// No step is longer than the sketch: far from a solution the
				// linear picture means nothing.
				short := 1.0
				if l := largest(b.rhs); l > 0.5*s.scale {
					short = 0.5 * s.scale / l
				}
				for i, v := range b.vars {
					s.x[v] = b.trial[i] - short*b.rhs[i]
				}
				s.evaluate(b, s.x, false)
				after := sumSquares(b.res)
				if b.soft && after <= now && largest(b.rhs) < 1e-5*s.scale {
					return largest(b.res) // a balance, not a zero, is all there is to find
				}
				if after < now {
					accepted = true
					if lambda <= floor && after > 0.25*now {
						floor = math.Max(0.1*floor, 1e-16)
					}
					lambda = math.Max(lambda*0.1, floor)
					continue
				}
			}
			lambda = math.Max(lambda*10, floor)
		}
		if !accepted {
			for i, v := range b.vars {
				s.x[v] = b.trial[i]
			}
			s.evaluate(b, s.x, false)
			return largest(b.res)
		}
		s.evaluate(b, s.x, true)
	}
	return largest(b.res)
}

// refresh moves equations on splines to the knot interval where their point is
// now, and forgets the plans that held them.
func (s *System) refresh() bool {
	moved := false
	for i := range s.equations {
		if f := s.equations[i].refresh; f != nil && f(s.x) {
			moved = true
		}
	}
	if moved {
		s.plans = nil
		s.moves++
	}
	return moved
}

// settle solves a component for the targets as they are set. Two steps on all of
// it carry everything along to about where it belongs, then it is solved block by
// block, and all at once where that fails.
func (s *System) settle(c component, iterations int) float64 {
	worst := math.Inf(1)
	for range 6 {
		p := s.planFor(c)
		start := append([]float64(nil), s.x...)
		worst = 0
		if len(p.over)+len(p.square)+len(p.under) > 1 {
			s.settleWhole(c, p, 2)
		}
		for _, list := range [][]*block{p.over, p.square, p.under} {
			for _, b := range list {
				worst = math.Max(worst, s.solveBlock(b, iterations))
			}
		}
		if worst > tolerance*s.scale {
			kept := append([]float64(nil), s.x...)
			copy(s.x, start)
			if r := s.settleWhole(c, p, iterations); r < worst {
				worst = r
			} else {
				copy(s.x, kept)
			}
		}
		if !s.refresh() {
			break
		}
	}
	return worst
}

// settleWhole solves all blocks of a component together.
func (s *System) settleWhole(c component, p *plan, iterations int) float64 {
	if p.whole == nil {
		p.whole = s.newBlock(s.rowsOf(c), c.vars)
	}
	return s.solveBlock(p.whole, iterations)
}

func (s *System) rowsOf(c component) []row {
	var rows []row
	for _, e := range c.equations {
		for k := range s.equations[e].count {
			rows = append(rows, row{e, k})
		}
	}
	return rows
}

// corner is where two lines meet, with the turn from one to the other.
type corner struct {
	c, d curveSlots
	turn float64
}

// corners lists the turns between lines that share a point, and of arcs: what
// must keep its sign lest the shape folds over.
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
func (s *System) turnAt(k corner) float64 {
	u, v := s.at(k.c.b).Sub(s.at(k.c.a)), s.at(k.d.b).Sub(s.at(k.d.a))
	n := u.Norm() * v.Norm()
	if n == 0 {
		return 0
	}
	return u.Cross(v) / n
}

// folded tells whether a corner has turned over.
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
	component
	residual float64
	reached  float64 // how far the sizes got from their old values to the new: 1 is all the way
	folded   bool
}

// solve brings the system to its targets. Sizes that differ from the starting
// geometry are first set at once; when that fails or folds the shape over, they
// are led from the old value to the new one in steps that shrink where it gets
// hard.
func (s *System) solve(equations []int) []outcome {
	var out []outcome
	for _, c := range s.components(equations) {
		if len(c.equations) == 0 {
			continue // nothing says where it is to go
		}
		start := append([]float64(nil), s.x...)
		before := s.corners()
		change := 0.0
		for _, e := range c.equations {
			if eq := &s.equations[e]; eq.size {
				change = math.Max(change, math.Abs(math.Log(math.Abs(eq.target)/math.Max(math.Abs(eq.measured), 1e-3*s.scale)+1e-6)))
			}
		}
		o := outcome{component: c, reached: 1}
		s.targets(c, 1)
		if change < 0.7 { // less than a factor of two: try it at once
			o.residual = s.settle(c, 60)
			if o.residual <= tolerance*s.scale && !s.folded(before) {
				out = append(out, o)
				continue
			}
			copy(s.x, start)
		}
		o.residual, o.reached = s.lead(c)
		if o.residual > tolerance*s.scale {
			// A start far from any solution may still be reached directly.
			led := append([]float64(nil), s.x...)
			copy(s.x, start)
			s.targets(c, 1)
			if r := s.settle(c, 200); r <= tolerance*s.scale {
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
func (s *System) targets(c component, t float64) {
	for _, e := range c.equations {
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
func (s *System) lead(c component) (residual, reached float64) {
	s.targets(c, 0)
	if r := s.settle(c, 200); r > tolerance*s.scale {
		s.targets(c, 1)
		return s.settle(c, 200), 0
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
		r := s.settle(c, 40)
		if r <= tolerance*s.scale && (!s.folded(before) || step < 1e-3) {
			t = next
			step = math.Min(2*step, 0.25)
			before = s.corners()
			continue
		}
		copy(s.x, keep)
		if step /= 4; step < 1e-4 {
			s.targets(c, 1)
			p := s.planFor(c)
			if p.whole == nil {
				p.whole = s.newBlock(s.rowsOf(c), c.vars)
			}
			s.evaluate(p.whole, s.x, false)
			return largest(p.whole.res), t
		}
	}
	return 0, 1
}
