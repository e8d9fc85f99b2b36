package solve

import (
	"fmt"
	"math"
	"math/rand"

	"hammerset/core/partition"
)

// Why in blocks: a sketch of 150 entities has some 300 residuals, and solved as
// one system a wrong step in one corner shortens the steps of all. Nearly every
// drawing falls apart into blocks of one to six unknowns, each of which needs
// only those before it; a pull then solves what hangs on the hand and nothing
// else. The cost goes from the cube of the whole to the sum of the cubes of its
// blocks.

// plan is the order in which a component is solved: the decomposition of its residuals and unknowns
// by A. L. Dulmage and N. S. Mendelsohn (Coverings of bipartite graphs, 1958). First what has more
// residuals than unknowns, then square blocks each of which needs only those before it, last what
// has unknowns to spare.
type plan struct {
	Component
	over, square, under []*Block
	whole               *Block
}

// blocks lists the blocks in the order in which they are solved.
func (p *plan) blocks() []*Block {
	out := make([]*Block, 0, len(p.over)+len(p.square)+len(p.under))
	return append(append(append(out, p.over...), p.square...), p.under...)
}

// planFor makes the plan of a component, or finds the one made before.
//
// A plan depends on which residuals touch which unknowns and not on their
// values, so that one serves for all steps and all frames of a pull. It is found
// by the groups and the first unknown of the component.
func (s *System) planFor(c Component) *plan {
	key := fmt.Sprint(c.Groups, len(c.Vars))
	if len(c.Vars) > 0 {
		key += fmt.Sprint("/", c.Vars[0])
	}
	if p, ok := s.plans[key]; ok {
		return p
	}
	g := s.graphOf(c)
	g.match()
	g.coarse()
	p := &plan{Component: c, over: g.split(partOver), under: g.split(partUnder), square: g.fine()}
	if s.plans == nil {
		s.plans = map[string]*plan{}
	}
	s.plans[key] = p
	return p
}

// Overdetermined lists the groups of a component with residuals in the part that has more of them
// than unknowns.
//
// A conflict needs more residuals than unknowns somewhere, unless it is one of
// values alone.
func (s *System) Overdetermined(c Component) map[int]bool {
	out := map[int]bool{}
	for _, b := range s.planFor(c).over {
		for _, r := range b.rows {
			out[r.Group] = true
		}
	}
	return out
}

// Parts of the coarse decomposition.
const (
	partSquare = iota
	partOver
	partUnder
)

// graph is the bipartite graph of a component: an edge wherever a residual depends on an unknown,
// with a matching of largest size and the part that each belongs to.
type graph struct {
	s       *System
	c       Component
	rows    []Row
	dep     [][]int // unknowns of each residual
	local   []int   // place of each unknown in the component
	cols    [][]int // residuals of each unknown, by place
	rowOf   []int   // the residual that an unknown is matched with, -1 for none
	colOf   []int   // the unknown that a residual is matched with, by place, -1 for none
	rowPart []int
	colPart []int
}

// graphOf finds which unknowns each residual depends on, by its derivatives at a place near the
// state where no term vanishes by chance.
//
// The pattern is read off the derivatives and not off what a residual names: the
// residual of a level line names four coordinates and depends on two. A term
// that vanishes in the drawn pose (lines that are parallel already) is an edge
// all the same, so that it is taken at a random place nearby. The place is the
// same every time, for the same plan every time.
func (s *System) graphOf(c Component) *graph {
	rng := rand.New(rand.NewSource(11))
	state := append([]float64(nil), s.State...)
	d := make([]float64, len(c.Vars))
	for i := range d {
		d[i] = 0.07 * s.Scale * (rng.Float64() - 0.5)
	}
	s.moves.Move(state, s.State, c.Vars, d)
	g := &graph{s: s, c: c, local: make([]int, s.unknowns)}
	var r [MaxRows]float64
	var jac []float64
	for _, i := range c.Groups {
		group := &s.Groups[i]
		n := len(group.Vars)
		jac = append(jac[:0], make([]float64, group.Rows*n)...)
		group.Eval(state, r[:group.Rows], jac)
		for k := range group.Rows {
			var list []int
			for j, v := range group.Vars {
				if math.Abs(jac[k*n+j]) > 1e-12 {
					list = append(list, v)
				}
			}
			g.rows, g.dep = append(g.rows, Row{i, k}), append(g.dep, list)
		}
	}
	for i, v := range c.Vars {
		g.local[v] = i
	}
	g.cols = make([][]int, len(c.Vars))
	for r := range g.dep {
		for _, v := range g.dep[r] {
			g.cols[g.local[v]] = append(g.cols[g.local[v]], r)
		}
	}
	return g
}

// match finds a largest matching by augmenting paths.
//
// A matching gives each residual an unknown that it can be solved for. The
// largest one has as many edges as the structural rank of J, an upper bound of
// its rank (König). Free unknowns are taken before anything is moved to another,
// which finds nearly all of it without a search.
func (g *graph) match() {
	g.rowOf, g.colOf = make([]int, len(g.cols)), make([]int, len(g.rows))
	for i := range g.rowOf {
		g.rowOf[i] = -1
	}
	for i := range g.colOf {
		g.colOf[i] = -1
	}
	seen := make([]int, len(g.cols))
	stamp := 0
	var augment func(r int) bool
	augment = func(r int) bool {
		for _, v := range g.dep[r] {
			if j := g.local[v]; g.rowOf[j] < 0 && seen[j] != stamp {
				seen[j] = stamp
				g.rowOf[j], g.colOf[r] = r, j
				return true
			}
		}
		for _, v := range g.dep[r] {
			j := g.local[v]
			if seen[j] == stamp {
				continue
			}
			seen[j] = stamp
			if augment(g.rowOf[j]) {
				g.rowOf[j], g.colOf[r] = r, j
				return true
			}
		}
		return false
	}
	for r := range g.dep {
		stamp++
		augment(r)
	}
}

// coarse finds the three parts. What an unmatched residual reaches along alternating paths has too
// many residuals; what an unmatched unknown reaches has too many unknowns.
//
// The three parts are the same whichever largest matching they are found from
// (Dulmage and Mendelsohn), so that the order does not hang on the order in
// which things were drawn.
func (g *graph) coarse() {
	g.rowPart, g.colPart = make([]int, len(g.rows)), make([]int, len(g.cols))
	var queue []int
	for r := range g.dep {
		if g.colOf[r] < 0 {
			g.rowPart[r] = partOver
			queue = append(queue, r)
		}
	}
	for ; len(queue) > 0; queue = queue[1:] {
		for _, v := range g.dep[queue[0]] {
			j := g.local[v]
			if g.colPart[j] != partSquare {
				continue
			}
			g.colPart[j] = partOver
			if r := g.rowOf[j]; r >= 0 && g.rowPart[r] == partSquare {
				g.rowPart[r] = partOver
				queue = append(queue, r)
			}
		}
	}
	queue = nil
	for j := range g.cols {
		if g.rowOf[j] < 0 && g.colPart[j] == partSquare {
			g.colPart[j] = partUnder
			queue = append(queue, j)
		}
	}
	for ; len(queue) > 0; queue = queue[1:] {
		for _, r := range g.cols[queue[0]] {
			if g.rowPart[r] != partSquare {
				continue
			}
			g.rowPart[r] = partUnder
			if j := g.colOf[r]; j >= 0 && g.colPart[j] == partSquare {
				g.colPart[j] = partUnder
				queue = append(queue, j)
			}
		}
	}
}

// fine splits the square part: strongly connected parts of the graph in which a residual leads to
// those that its other unknowns are matched with, what others need first (R. Tarjan, Depth-first
// search and linear graph algorithms, 1972).
//
// Each strongly connected part is a block that cannot be split. Tarjan's
// algorithm gives them in reverse topological order, which, since a residual
// leads to what it needs, is the order to solve them in.
func (g *graph) fine() []*Block {
	m := len(g.rows)
	index, low, onStack := make([]int, m), make([]int, m), make([]bool, m)
	var out []*Block
	var stack []int
	next := 1
	var visit func(r int)
	visit = func(r int) {
		index[r], low[r] = next, next
		next++
		stack = append(stack, r)
		onStack[r] = true
		for _, v := range g.dep[r] {
			j := g.local[v]
			if g.colPart[j] != partSquare || j == g.colOf[r] {
				continue
			}
			q := g.rowOf[j]
			if index[q] == 0 {
				visit(q)
				low[r] = min(low[r], low[q])
			} else if onStack[q] {
				low[r] = min(low[r], index[q])
			}
		}
		if low[r] != index[r] {
			return
		}
		var rows []Row
		var vars []int
		for {
			q := stack[len(stack)-1]
			stack = stack[:len(stack)-1]
			onStack[q] = false
			rows, vars = append(rows, g.rows[q]), append(vars, g.c.Vars[g.colOf[q]])
			if q == r {
				break
			}
		}
		out = append(out, g.s.NewBlock(rows, vars))
	}
	for r := range g.dep {
		if g.rowPart[r] == partSquare && index[r] == 0 {
			visit(r)
		}
	}
	return out
}

// split makes the blocks of one part of the decomposition, by connectivity.
//
// Where there are too many residuals, or too few, nothing tells which are to be
// solved for which, so that only what hangs together by nothing is taken apart.
func (g *graph) split(part int) []*Block {
	parts := partition.Of(len(g.cols))
	first := make([]int, len(g.rows)) // an unknown of the part that each residual depends on
	for r := range g.rows {
		first[r] = -1
		if g.rowPart[r] != part {
			continue
		}
		for _, v := range g.dep[r] {
			j := g.local[v]
			switch {
			case g.colPart[j] != part:
			case first[r] < 0:
				first[r] = j
			default:
				parts.Join(first[r], j)
			}
		}
	}
	at := map[int]int{}
	var rows [][]Row
	var vars [][]int
	for j := range g.cols {
		if g.colPart[j] != part {
			continue
		}
		k, ok := at[parts.Root(j)]
		if !ok {
			k = len(rows)
			at[parts.Root(j)] = k
			rows, vars = append(rows, nil), append(vars, nil)
		}
		vars[k] = append(vars[k], g.c.Vars[j])
	}
	var out []*Block
	for r := range g.rows {
		if g.rowPart[r] != part {
			continue
		}
		if first[r] < 0 { // no unknown of its own is left
			out = append(out, g.s.NewBlock([]Row{g.rows[r]}, nil))
			continue
		}
		k := at[parts.Root(first[r])]
		rows[k] = append(rows[k], g.rows[r])
	}
	for k := range rows {
		out = append(out, g.s.NewBlock(rows[k], vars[k]))
	}
	return out
}
