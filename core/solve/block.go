package solve

import "math"

// Block is a set of residuals and the unknowns that they are solved for, the others standing still.
// Its step is the one of least change: of all displacements d that make the linearised residuals
// least, |r + J d|, the shortest, in the limit of small damping of (JᵀJ + λI) d = -Jᵀr.
type Block struct {
	// Soft says that the block has residuals that need not vanish: a balance is looked for.
	Soft bool

	rows   []Row
	vars   []int
	groups []blockGroup
	factor *ldl
	grad   []float64 // derivatives, group after group, row after row
	res    []float64
	out    [MaxRows]float64 // residuals of the group that is evaluated
	rhs    []float64
	kept   []float64
}

// blockGroup is a group's part in a block.
type blockGroup struct {
	Group
	rows  []int  // place of each row in the block, -1 when it is in another
	cols  []int  // place of each unknown in the block, -1 when it stands still
	pairs []pair // products to sum up
	start int    // of its derivatives in grad
}

// pair adds the product of the derivatives by unknowns a and b of the group to one entry of the
// matrix.
type pair struct{ a, b, at int }

// locals gives the place of each unknown among vars, -1 for the others, until forget is called.
func (s *System) locals(vars []int) []int {
	for len(s.place) < s.unknowns {
		s.place = append(s.place, -1)
	}
	for i, v := range vars {
		s.place[v] = i
	}
	return s.place
}

// forget takes unknowns out of the block that is being worked on.
func (s *System) forget(vars []int) {
	for _, v := range vars {
		s.place[v] = -1
	}
}

// NewBlock makes a block of some rows for some unknowns. It holds the groups as they are now.
//
// Which products of derivatives go to which entry of the matrix is worked out
// here once: assembling is then a walk through a list.
func (s *System) NewBlock(rows []Row, vars []int) *Block {
	b := &Block{rows: rows, vars: vars}
	local := s.locals(vars)
	defer s.forget(vars)
	place := map[int]int{}
	for i, r := range rows {
		at, ok := place[r.Group]
		if !ok {
			at = len(b.groups)
			place[r.Group] = at
			g := s.Groups[r.Group]
			one := blockGroup{Group: g, rows: make([]int, g.Rows), cols: make([]int, len(g.Vars))}
			for k := range one.rows {
				one.rows[k] = -1
			}
			for k, v := range g.Vars {
				one.cols[k] = local[v]
			}
			b.groups = append(b.groups, one)
		}
		b.groups[at].rows[r.K] = i
	}
	b.factor = newLDL(len(vars), b.cliques())
	size := 0
	for i := range b.groups {
		g := &b.groups[i]
		g.start = size
		size += g.Rows * len(g.cols)
		for a, ja := range g.cols {
			for c := a; c < len(g.cols); c++ {
				if jc := g.cols[c]; ja >= 0 && jc >= 0 {
					g.pairs = append(g.pairs, pair{a, c, b.factor.at(ja, jc)})
				}
			}
		}
	}
	b.grad, b.res = make([]float64, size), make([]float64, len(rows))
	b.rhs, b.kept = make([]float64, len(vars)), make([]float64, len(vars))
	return b
}

// cliques lists for every group the unknowns of the block that it ties together: the pattern of
// JᵀJ.
//
// JᵀJ has an entry for two unknowns wherever one residual depends on both, so
// that every residual's unknowns are a clique of its graph.
func (b *Block) cliques() [][]int {
	var out [][]int
	for i := range b.groups {
		var q []int
		for _, j := range b.groups[i].cols {
			if j >= 0 {
				q = append(q, j)
			}
		}
		out = append(out, q)
	}
	return out
}

// evaluate fills the residuals of a block at a state and, when asked, its derivatives.
func (b *Block) evaluate(state []float64, derivatives bool) {
	for i := range b.groups {
		g := &b.groups[i]
		var jac []float64
		if derivatives {
			jac = b.grad[g.start : g.start+g.Rows*len(g.cols)]
		}
		g.Eval(state, b.out[:g.Rows], jac)
		for k, at := range g.rows {
			if at >= 0 {
				b.res[at] = b.out[k]
			}
		}
	}
}

// assemble sums JᵀJ into the factor's values and Jᵀr into rhs, and gives the
// largest entry on the diagonal.
//
// The matrix of normal equations has the square of the condition number of J,
// which costs half of the digits. It does no harm here: a step need not be
// exact, since the next one begins from residuals that are evaluated anew, and
// the last digits come from these.
func (b *Block) assemble() float64 {
	f := b.factor
	clear(f.value)
	clear(b.rhs)
	for i := range b.groups {
		g := &b.groups[i]
		for k, at := range g.rows {
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

// Residual is the largest residual of a block at the present state.
func (s *System) Residual(b *Block) float64 {
	b.evaluate(s.State, false)
	return Largest(b.res)
}

// Damping goes down to a floor that keeps still what is free. Where that floor itself holds the
// steps back, as in nearly singular poses, it is lowered.
const (
	firstDamping = 1e-7
	firstFloor   = 1e-11
	lastFloor    = 1e-16
	mostTries    = 14 // of one step, each with ten times the damping
	longest      = 0.5
)

// damping is how strongly steps are held back, relative to the largest entry on the diagonal of
// JᵀJ.
type damping struct{ now, floor float64 }

// eased is the damping after a step that made the residuals smaller, from before to after (sums of
// squares).
//
// When a step at the floor does not even halve the residuals (a quarter of their
// squares), the floor is what holds it back: near a singular pose the step that
// is needed lies along a direction of tiny derivatives, which the damping takes
// for free.
func (d damping) eased(before, after float64) damping {
	if d.now <= d.floor && after > 0.25*before {
		d.floor = math.Max(0.1*d.floor, lastFloor)
	}
	d.now = math.Max(d.now*0.1, d.floor)
	return d
}

// raised is the damping after a step that did not.
func (d damping) raised() damping {
	d.now = math.Max(d.now*10, d.floor)
	return d
}

// SolveBlock takes damped Gauss-Newton steps on a block from the present state (K. Levenberg 1944,
// D. Marquardt 1963). It gives the largest residual reached and leaves the best state.
//
// A step minimises |r + J d|² + λ |d|². For λ to 0 it is the Gauss-Newton step
// of least length, which converges quadratically where J has full rank; for
// large λ a short step downhill. λ is relative to the largest entry on the
// diagonal, so that it means the same in every unit. The goal is a hundredth of
// the tolerance, since solving on costs one more step and leaves room for what
// rounding does to it later.
func (s *System) SolveBlock(b *Block, iterations int) float64 {
	b.evaluate(s.State, true)
	goal := Tolerance * s.Scale * 1e-2
	if len(b.vars) == 0 || Largest(b.res) <= goal {
		return Largest(b.res)
	}
	damp := damping{firstDamping, firstFloor}
	for range iterations {
		worst := Largest(b.res)
		if worst <= goal {
			return worst
		}
		top := b.assemble()
		if top == 0 || math.IsInf(top, 0) || math.IsNaN(top) {
			return worst
		}
		s.moves.Save(s.base, s.State, b.vars)
		next, accepted, balanced := s.step(b, top, damp)
		if balanced {
			return Largest(b.res)
		}
		if !accepted {
			s.moves.Save(s.State, s.base, b.vars)
			b.evaluate(s.State, false)
			return Largest(b.res)
		}
		damp = next
		b.evaluate(s.State, true)
	}
	return Largest(b.res)
}

// step tries the step of an assembled block with more and more damping until one makes the
// residuals smaller. top is the largest entry on the diagonal. balanced: of a soft block, the step
// is so small that a balance is reached.
//
// Damping is added to the diagonal and what was added before is taken off, so
// that the matrix is assembled once for all tries. A step is taken when the sum
// of squares gets less at all: asking for more would refuse good steps along
// curved valleys.
func (s *System) step(b *Block, top float64, damp damping) (next damping, accepted, balanced bool) {
	f, now := b.factor, sumSquares(b.res)
	copy(b.kept, b.rhs)
	added := 0.0
	for range mostTries {
		for j := range f.n {
			f.value[f.colPtr[j+1]-1] += damp.now*top - added
		}
		added = damp.now * top
		if f.factor(1e-3 * damp.floor * top) {
			copy(b.rhs, b.kept)
			f.solve(b.rhs)
			// No step is longer than the system: far from a solution the linear picture means
			// nothing.
			short, length := -1.0, Largest(b.rhs)
			if length > longest*s.Scale {
				short = -longest * s.Scale / length
			}
			for i := range b.rhs {
				b.rhs[i] *= short
			}
			s.moves.Move(s.State, s.base, b.vars, b.rhs)
			b.evaluate(s.State, false)
			after := sumSquares(b.res)
			if b.Soft && after <= now && length < 1e-5*s.Scale {
				return damp, true, true
			}
			if after < now {
				return damp.eased(now, after), true, false
			}
		}
		damp = damp.raised()
	}
	return damp, false, false
}
