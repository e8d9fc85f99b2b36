package sketch

import (
	"fmt"
	"math"
	"math/rand"

	"hammerset/core/partition"
)

// row is one residual: row k of an equation.
type row struct{ equation, k int }

// block is a set of residuals and the unknowns that they are solved for, the
// others standing still.
type block struct {
	rows   []row
	vars   []int
	groups []group // rows by equation
	factor *ldl
	grad   []float64 // derivatives, group after group, row after row
	res    []float64
	rhs    []float64
	grad0  []float64
	trial  []float64
	soft   bool // has residuals that need not vanish
}

// group is an equation's part in a block.
type group struct {
	equation int
	rows     [2]int // place of each row in the block, -1 when it is in another
	cols     []int  // place of each unknown in the block, -1 when it stands still
	pairs    []pair // products to sum up
	start    int    // of its derivatives in grad
}

// pair adds the product of the derivatives by unknowns a and b of the equation
// to one entry of the matrix.
type pair struct{ a, b, at int }

// component is a part of the system that shares no unknown with the rest.
type component struct {
	vars      []int
	equations []int
}

// plan is the order in which a component is solved: the Dulmage-Mendelsohn
// decomposition of its residuals and unknowns (1958). First what has more
// residuals than unknowns, then square blocks each of which needs only those
// before it, last what has unknowns to spare.
type plan struct {
	component
	over, square, under []*block
	whole               *block
}

// components splits the system by connectivity.
func (s *System) components(equations []int) []component {
	parts := partition.Of(len(s.x))
	for _, e := range equations {
		vars := s.equations[e].vars
		for _, v := range vars[min(1, len(vars)):] {
			parts.Join(vars[0], v)
		}
	}
	at := map[int]int{}
	var out []component
	for v := range s.x {
		r := parts.Root(v)
		k, ok := at[r]
		if !ok {
			k = len(out)
			at[r] = k
			out = append(out, component{})
		}
		out[k].vars = append(out[k].vars, v)
	}
	for _, e := range equations {
		if len(s.equations[e].vars) == 0 {
			out = append(out, component{equations: []int{e}})
			continue
		}
		k := at[parts.Root(s.equations[e].vars[0])]
		out[k].equations = append(out[k].equations, e)
	}
	return out
}

func (s *System) all() []int {
	out := make([]int, len(s.equations))
	for i := range out {
		out[i] = i
	}
	return out
}

// planFor makes the plan of a component, or finds the one made before.
func (s *System) planFor(c component) *plan {
	key := fmt.Sprint(c.equations, len(c.vars))
	if len(c.vars) > 0 {
		key += fmt.Sprint("/", c.vars[0])
	}
	if p, ok := s.plans[key]; ok {
		return p
	}
	p := s.makePlan(c)
	if s.plans == nil {
		s.plans = map[string]*plan{}
	}
	s.plans[key] = p
	return p
}

// pattern finds which unknowns each residual depends on, by its derivatives at a
// place near the geometry where no term vanishes by chance.
func (s *System) pattern(c component) (rows []row, dep [][]int) {
	rng := rand.New(rand.NewSource(11))
	x := append([]float64(nil), s.x...)
	for _, v := range c.vars {
		x[v] += 0.07 * s.scale * (rng.Float64() - 0.5)
	}
	var local [jetSize]jet
	for _, e := range c.equations {
		eq := &s.equations[e]
		for i, v := range eq.vars {
			local[i] = jet{v: x[v]}
			local[i].d[i] = 1
		}
		r := eq.eval(local[:len(eq.vars)])
		for k := range eq.count {
			var list []int
			for i, v := range eq.vars {
				if math.Abs(r[k].d[i]) > 1e-12 {
					list = append(list, v)
				}
			}
			rows, dep = append(rows, row{e, k}), append(dep, list)
		}
	}
	return rows, dep
}

func (s *System) makePlan(c component) *plan {
	p := &plan{component: c}
	rows, dep := s.pattern(c)
	local := make([]int, len(s.x)) // place of each unknown in the component
	for i, v := range c.vars {
		local[v] = i
	}
	n, m := len(c.vars), len(rows)
	cols := make([][]int, n) // residuals by unknown
	for r := range dep {
		for _, v := range dep[r] {
			cols[local[v]] = append(cols[local[v]], r)
		}
	}
	rowOf, colOf := make([]int, n), make([]int, m) // the matching
	for i := range rowOf {
		rowOf[i] = -1
	}
	for i := range colOf {
		colOf[i] = -1
	}
	seen := make([]int, n)
	stamp := 0
	var augment func(r int) bool
	augment = func(r int) bool {
		for _, v := range dep[r] {
			if j := local[v]; rowOf[j] < 0 && seen[j] != stamp {
				seen[j] = stamp
				rowOf[j], colOf[r] = r, j
				return true
			}
		}
		for _, v := range dep[r] {
			j := local[v]
			if seen[j] == stamp {
				continue
			}
			seen[j] = stamp
			if augment(rowOf[j]) {
				rowOf[j], colOf[r] = r, j
				return true
			}
		}
		return false
	}
	for r := range dep {
		stamp++
		augment(r)
	}
	// What an unmatched residual reaches has too many residuals; what an
	// unmatched unknown reaches has too many unknowns.
	const none, over, under = 0, 1, 2
	rowPart, colPart := make([]int, m), make([]int, n)
	var queue []int
	for r := range dep {
		if colOf[r] < 0 {
			rowPart[r] = over
			queue = append(queue, r)
		}
	}
	for ; len(queue) > 0; queue = queue[1:] {
		for _, v := range dep[queue[0]] {
			if j := local[v]; colPart[j] == none {
				colPart[j] = over
				if r := rowOf[j]; r >= 0 && rowPart[r] == none {
					rowPart[r] = over
					queue = append(queue, r)
				}
			}
		}
	}
	queue = nil
	for j := range cols {
		if rowOf[j] < 0 && colPart[j] == none {
			colPart[j] = under
			queue = append(queue, j)
		}
	}
	for ; len(queue) > 0; queue = queue[1:] {
		for _, r := range cols[queue[0]] {
			if rowPart[r] == none {
				rowPart[r] = under
				if j := colOf[r]; j >= 0 && colPart[j] == none {
					colPart[j] = under
					queue = append(queue, j)
				}
			}
		}
	}
	p.over = s.split(c, rows, dep, rowPart, colPart, local, over)
	p.under = s.split(c, rows, dep, rowPart, colPart, local, under)
	// The rest is square: strongly connected parts, what others need first
	// (Tarjan 1972).
	index, low, onStack := make([]int, m), make([]int, m), make([]bool, m)
	var stack []int
	next := 1
	var visit func(r int)
	visit = func(r int) {
		index[r], low[r] = next, next
		next++
		stack = append(stack, r)
		onStack[r] = true
		for _, v := range dep[r] {
			j := local[v]
			if colPart[j] != none || j == colOf[r] {
				continue
			}
			q := rowOf[j]
			if index[q] == 0 {
				visit(q)
				low[r] = min(low[r], low[q])
			} else if onStack[q] {
				low[r] = min(low[r], index[q])
			}
		}
		if low[r] == index[r] {
			var list []row
			var vars []int
			for {
				q := stack[len(stack)-1]
				stack = stack[:len(stack)-1]
				onStack[q] = false
				list, vars = append(list, rows[q]), append(vars, c.vars[colOf[q]])
				if q == r {
					break
				}
			}
			p.square = append(p.square, s.newBlock(list, vars))
		}
	}
	for r := range dep {
		if rowPart[r] == none && index[r] == 0 {
			visit(r)
		}
	}
	return p
}

// split makes the blocks of one part of a decomposition, by connectivity.
func (s *System) split(c component, rows []row, dep [][]int, rowPart, colPart, local []int, part int) []*block {
	parts := partition.Of(len(c.vars))
	first := make([]int, len(rows))
	for r := range rows {
		first[r] = -1
		if rowPart[r] != part {
			continue
		}
		for _, v := range dep[r] {
			j := local[v]
			if colPart[j] != part {
				continue
			}
			if first[r] < 0 {
				first[r] = j
			} else {
				parts.Join(first[r], j)
			}
		}
	}
	at := map[int]int{}
	var lists [][]row
	var vars [][]int
	for j := range c.vars {
		if colPart[j] != part {
			continue
		}
		k, ok := at[parts.Root(j)]
		if !ok {
			k = len(lists)
			at[parts.Root(j)] = k
			lists, vars = append(lists, nil), append(vars, nil)
		}
		vars[k] = append(vars[k], c.vars[j])
	}
	var out []*block
	for r := range rows {
		if rowPart[r] != part {
			continue
		}
		if first[r] < 0 { // no unknown of its own is left
			out = append(out, s.newBlock([]row{rows[r]}, nil))
			continue
		}
		k := at[parts.Root(first[r])]
		lists[k] = append(lists[k], rows[r])
	}
	for k := range lists {
		out = append(out, s.newBlock(lists[k], vars[k]))
	}
	return out
}

// locals gives the place of each unknown among vars, -1 for the others, until
// forget is called.
func (s *System) locals(vars []int) []int {
	for len(s.place) < len(s.x) {
		s.place = append(s.place, -1)
	}
	for i, v := range vars {
		s.place[v] = i
	}
	return s.place
}

func (s *System) forget(vars []int) {
	for _, v := range vars {
		s.place[v] = -1
	}
}

func (s *System) newBlock(rows []row, vars []int) *block {
	b := &block{rows: rows, vars: vars}
	local := s.locals(vars)
	defer s.forget(vars)
	byEq := map[int]int{}
	for i, r := range rows {
		g, ok := byEq[r.equation]
		if !ok {
			g = len(b.groups)
			byEq[r.equation] = g
			eq := &s.equations[r.equation]
			cols := make([]int, len(eq.vars))
			for k, v := range eq.vars {
				cols[k] = local[v]
			}
			b.groups = append(b.groups, group{equation: r.equation, rows: [2]int{-1, -1}, cols: cols})
		}
		b.groups[g].rows[r.k] = i
	}
	var cliques [][]int
	for i := range b.groups {
		var q []int
		for _, j := range b.groups[i].cols {
			if j >= 0 {
				q = append(q, j)
			}
		}
		cliques = append(cliques, q)
	}
	b.factor = newLDL(len(vars), cliques)
	size := 0
	for i := range b.groups {
		g := &b.groups[i]
		g.start = size
		size += 2 * len(g.cols)
		for a, ja := range g.cols {
			for c := a; c < len(g.cols); c++ {
				if jc := g.cols[c]; ja >= 0 && jc >= 0 {
					g.pairs = append(g.pairs, pair{a, c, b.factor.at(ja, jc)})
				}
			}
		}
	}
	b.grad, b.res = make([]float64, size), make([]float64, len(rows))
	b.rhs, b.trial = make([]float64, len(vars)), make([]float64, len(vars))
	return b
}
