package sketch

import (
	"fmt"
	"math"
	"math/rand"
	"slices"
	"sort"

	"gonum.org/v1/gonum/mat"
)

// rankTolerance is how far a residual's gradient must stand out of the span of
// the others, relative to its length, to count as independent.
const rankTolerance = 1e-7

// Loose is an entity that can still move, with the directions in which its
// point can go (unit vectors), or Radius set when it is its radius that is free.
type Loose struct {
	Entity     string
	Directions []Vec
	Radius     bool
}

// Redundancy is a smallest set of constraints of which one adds nothing: Drop is
// the one that is best left out, With the others, from which it follows.
type Redundancy struct {
	Drop string
	With []string
}

// Conflict is a smallest set of constraints that contradict one another. Drop
// is the one that is best left out.
type Conflict struct {
	Set  []string
	Drop string
}

// motions are the rows of a component with an orthonormal basis of their span:
// what stands square to it can move.
type motions struct {
	vars      []int
	local     map[int]int
	basis     [][]float64 // orthonormal, over vars
	rows      []row       // the independent rows, in order of the basis
	dependent []dependency
}

// dependency is a row in the span of earlier ones.
type dependency struct {
	row  row
	with []row // the independent rows that it is made of
}

// motions of a component at x. Square blocks of the decomposition that have full
// rank hold their unknowns and need no further look; analysed together with the
// rest they would only cost time, so they are left out unless all is asked for.
func (s *System) motions(rows []row, vars []int, x []float64) *motions {
	m := &motions{vars: vars, local: make(map[int]int, len(vars))}
	for i, v := range vars {
		m.local[v] = i
	}
	var local [jetSize]jet
	lengths := [][]float64{} // for tracing dependencies: coefficients by basis vector
	for at := 0; at < len(rows); {
		eq := &s.equations[rows[at].equation]
		for i, v := range eq.vars {
			local[i] = jet{v: x[v]}
			local[i].d[i] = 1
		}
		r := eq.eval(local[:len(eq.vars)])
		for e := rows[at].equation; at < len(rows) && rows[at].equation == e; at++ {
			v := make([]float64, len(vars))
			for i, u := range eq.vars {
				if j, ok := m.local[u]; ok {
					v[j] += r[rows[at].k].d[i]
				}
			}
			before := math.Sqrt(sumSquares(v))
			if !(before > 1e-12) {
				m.dependent = append(m.dependent, dependency{row: rows[at]})
				continue
			}
			coef := make([]float64, len(m.basis)+1)
			for range 2 { // twice is enough (Kahan, Parlett)
				for b, q := range m.basis {
					d := 0.0
					for i := range v {
						d += v[i] * q[i]
					}
					if d == 0 {
						continue
					}
					coef[b] += d
					for i := range v {
						v[i] -= d * q[i]
					}
				}
			}
			left := math.Sqrt(sumSquares(v))
			if left <= rankTolerance*before {
				m.dependent = append(m.dependent, m.trace(rows[at], coef, before, lengths))
				continue
			}
			for i := range v {
				v[i] /= left
			}
			coef[len(m.basis)] = left
			m.basis, m.rows, lengths = append(m.basis, v), append(m.rows, rows[at]), append(lengths, coef)
		}
	}
	return m
}

// trace finds the rows that a dependent row is made of: with the rows A = R Q and
// the dependent one c Q, the weights w solve w R = c.
func (m *motions) trace(r row, coef []float64, size float64, lengths [][]float64) dependency {
	d := dependency{row: r}
	w := append([]float64(nil), coef[:len(m.basis)]...)
	for j := len(w) - 1; j >= 0; j-- {
		w[j] /= lengths[j][j]
		for i := range j {
			w[i] -= w[j] * lengths[j][i]
		}
		if math.Abs(w[j]) > 1e-6*size {
			d.with = append(d.with, m.rows[j])
		}
	}
	slices.Reverse(d.with)
	return d
}

func (m *motions) freedom() int { return len(m.vars) - len(m.basis) }

// project is the part of a displacement that the rows allow.
func (m *motions) project(v []float64) []float64 {
	out := append([]float64(nil), v...)
	for range 2 {
		for _, q := range m.basis {
			d := 0.0
			for i := range out {
				d += out[i] * q[i]
			}
			for i := range out {
				out[i] -= d * q[i]
			}
		}
	}
	return out
}

// null is an orthonormal basis of the motions.
func (m *motions) null() [][]float64 {
	var out [][]float64
	n := len(m.vars)
	for i := 0; i < n && len(out) < m.freedom(); i++ {
		v := make([]float64, n)
		v[i] = 1
		v = m.project(v)
		for range 2 {
			for _, q := range out {
				d := 0.0
				for j := range v {
					d += v[j] * q[j]
				}
				for j := range v {
					v[j] -= d * q[j]
				}
			}
		}
		if l := math.Sqrt(sumSquares(v)); l > 1e-6 {
			for j := range v {
				v[j] /= l
			}
			out = append(out, v)
		}
	}
	return out
}

// reduced leaves out of a component what surely stands: the square blocks, as
// long as each has full rank at x. ok is false when one has not, and then all is
// returned.
func (s *System) reduced(c component, x []float64) (rows []row, vars []int) {
	p := s.planFor(c)
	for _, b := range append(append([]*block(nil), p.over...), p.square...) {
		if len(b.vars) == 0 {
			continue
		}
		if m := s.motions(b.rows, b.vars, x); m.freedom() > 0 {
			return s.rowsOf(c), c.vars
		}
	}
	for _, b := range p.under {
		rows, vars = append(rows, b.rows...), append(vars, b.vars...)
	}
	sort.Slice(rows, func(i, j int) bool {
		if rows[i].equation != rows[j].equation {
			return rows[i].equation < rows[j].equation
		}
		return rows[i].k < rows[j].k
	})
	sort.Ints(vars)
	return rows, vars
}

// Freedom is what can still move.
type Freedom struct {
	Count         int // finite degrees of freedom
	Infinitesimal int // directions that start to give and then hold, in this pose only
	Loose         []Loose
	parts         []*motions // of the components that can move
	system        *System
}

// freedom counts the degrees of freedom and finds what is loose. A direction
// that the constraints allow to first order is a freedom only when it can be
// followed: where the rank is the same at nearby generic places it can (the
// constant-rank theorem); elsewhere every direction is tried by a small step
// and by solving back.
func (s *System) freedom() *Freedom {
	f := &Freedom{system: s}
	witness := s.witness()
	for _, c := range s.components(s.all()) {
		if len(c.vars) == 0 {
			continue
		}
		rows, vars := s.reduced(c, s.x)
		m := s.motions(rows, vars, s.x)
		if m.freedom() == 0 {
			continue
		}
		if rw, vw := s.reduced(c, witness); s.motions(rw, vw, witness).freedom() < m.freedom() {
			full := s.motions(s.rowsOf(c), c.vars, s.x)
			finite := s.finite(c, full)
			f.Infinitesimal += m.freedom() - len(finite)
			if len(finite) == 0 {
				continue
			}
			m = spanned(full, finite)
		}
		f.Count += m.freedom()
		f.parts = append(f.parts, m)
		f.Loose = append(f.Loose, s.loose(m)...)
	}
	f.merge()
	return f
}

// merge joins what different components say of one entity: a point may be free
// along x in one and along y in another.
func (f *Freedom) merge() {
	at := map[string]int{}
	var out []Loose
	for _, l := range f.Loose {
		i, ok := at[l.Entity]
		if !ok {
			at[l.Entity] = len(out)
			out = append(out, l)
			continue
		}
		out[i].Directions = []Vec{{1, 0}, {0, 1}}
	}
	sort.SliceStable(out, func(i, j int) bool { return f.system.entityIndex(out[i].Entity) < f.system.entityIndex(out[j].Entity) })
	f.Loose = out
}

func (s *System) entityIndex(id string) int {
	return slices.IndexFunc(s.sketch.Entities, func(e Entity) bool { return e.ID == id })
}

// spanned are motions whose freedoms are just the given directions.
func spanned(m *motions, null [][]float64) *motions {
	square := &motions{vars: m.vars, basis: null}
	return &motions{vars: m.vars, local: m.local, basis: square.null()}
}

// finite finds the directions among the motions that can really be followed: it
// takes a small step along each and solves back. What a step keeps of itself
// spans them.
func (s *System) finite(c component, m *motions) [][]float64 {
	keep := append([]float64(nil), s.x...)
	defer copy(s.x, keep)
	null := m.null()
	step := 3e-3 * s.scale
	d := mat.NewDense(len(m.vars), len(null), nil)
	for k, v := range null {
		copy(s.x, keep)
		for i, u := range m.vars {
			s.x[u] += step * v[i]
		}
		p := s.planFor(c)
		if s.settleWhole(c, p, 200) > tolerance*s.scale {
			continue // cannot be followed
		}
		for i, u := range m.vars {
			d.Set(i, k, (s.x[u]-keep[u])/step)
		}
	}
	var svd mat.SVD
	if !svd.Factorize(d, mat.SVDThinU) {
		return null
	}
	var u mat.Dense
	svd.UTo(&u)
	var out [][]float64
	for k, sv := range svd.Values(nil) {
		if sv > 0.3 {
			out = append(out, mat.Col(nil, k, &u))
		}
	}
	return out
}

// loose finds the entities that take part in the motions. The share of a point
// in them is the projection of its two unit moves onto the motions: a matrix
// whose eigenvectors are the directions in which it can go.
func (s *System) loose(m *motions) []Loose {
	var out []Loose
	share := func(a, b int) float64 { // entry (a, b) of the projection
		v := 0.0
		if a == b {
			v = 1
		}
		for _, q := range m.basis {
			v -= q[a] * q[b]
		}
		return v
	}
	const clear = 1e-7
	for i, v := range m.vars {
		owner := s.owner[v]
		if owner < 0 {
			continue
		}
		switch s.roles[v] {
		case roleRadius:
			if share(i, i) > clear {
				out = append(out, Loose{Entity: s.sketch.Entities[owner].ID, Radius: true})
			}
		case roleX:
			j, ok := m.local[v+1] // y follows x
			if !ok {
				if share(i, i) > clear {
					out = append(out, Loose{Entity: s.sketch.Entities[owner].ID, Directions: []Vec{{1, 0}}})
				}
				continue
			}
			xx, yy, xy := share(i, i), share(j, j), share(i, j)
			if xx+yy <= clear {
				continue
			}
			mean, radius := (xx+yy)/2, math.Hypot((xx-yy)/2, xy)
			t := math.Atan2(2*xy, xx-yy) / 2
			dirs := []Vec{{math.Cos(t), math.Sin(t)}}
			if mean-radius > clear && mean-radius > 1e-6*(mean+radius) {
				dirs = []Vec{{1, 0}, {0, 1}}
			}
			out = append(out, Loose{Entity: s.sketch.Entities[owner].ID, Directions: dirs})
		case roleY:
			if _, ok := m.local[v-1]; !ok && share(i, i) > clear {
				out = append(out, Loose{Entity: s.sketch.Entities[owner].ID, Directions: []Vec{{0, 1}}})
			}
		}
	}
	return out
}

// witness is a generic place near the solution: the points are moved by a
// hundredth of the sketch at random, and solved for all constraints without a
// value. Sizes take whatever value they have there.
func (s *System) witness() []float64 {
	rng := rand.New(rand.NewSource(1))
	keep := append([]float64(nil), s.x...)
	defer copy(s.x, keep)
	for i := range s.x {
		s.x[i] += 0.01 * s.scale * (rng.Float64() - 0.5)
	}
	var plain []int
	for e := range s.equations {
		if !s.equations[e].size {
			plain = append(plain, e)
		}
	}
	for _, c := range s.components(plain) {
		if len(c.equations) > 0 && s.settle(c, 60) > 1e-7*s.scale {
			for _, v := range c.vars { // no generic place: the solution itself must do
				s.x[v] = keep[v]
			}
		}
	}
	return append([]float64(nil), s.x...)
}

// redundant finds constraints that add nothing at generic places: a row that
// depends on others, with the smallest set that it follows from. Only a
// constraint all of whose rows are dependent is spare.
func (s *System) redundant() []Redundancy {
	var out []Redundancy
	for _, cycle := range s.joined {
		out = append(out, s.suggest(cycle[len(cycle)-1], cycle[:len(cycle)-1]))
	}
	x := s.witness()
	for _, c := range s.components(s.all()) {
		if len(c.equations) == 0 {
			continue
		}
		if p := s.planFor(c); len(p.over) == 0 {
			full := true
			for _, b := range append(append([]*block(nil), p.square...), p.under...) {
				full = full && len(s.motions(b.rows, b.vars, x).dependent) == 0
			}
			if full {
				continue
			}
		}
		m := s.motions(s.rowsOf(c), c.vars, x)
		dependent, total := map[int]int{}, map[int]int{}
		with := map[int]map[string]bool{}
		for e := range c.equations {
			if k := s.equations[c.equations[e]].constraint; k >= 0 {
				total[k] += s.equations[c.equations[e]].count
			}
		}
		for _, d := range m.dependent {
			k := s.equations[d.row.equation].constraint
			if k < 0 {
				continue
			}
			dependent[k]++
			if with[k] == nil {
				with[k] = map[string]bool{}
			}
			for _, r := range d.with {
				if j := s.equations[r.equation].constraint; j >= 0 && j != k {
					with[k][s.sketch.Constraints[j].ID] = true
				}
			}
		}
		for k, n := range dependent {
			if n == total[k] {
				out = append(out, s.suggest(s.sketch.Constraints[k].ID, sortedKeys(with[k])))
			}
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Drop < out[j].Drop })
	return out
}

func sortedKeys(m map[string]bool) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// suggest names the constraint of a dependent set that is best left out. A set
// found from a dependent row is a circuit: any of its members with a single row
// could go. A plain number goes before a formula, a size before a constraint
// that carries intent, a later one before an earlier.
func (s *System) suggest(last string, others []string) Redundancy {
	set := append(append([]string(nil), others...), last)
	drop := s.cheapest(set, last)
	if drop != last && s.rowsOfConstraint(drop) != 1 {
		drop = last
	}
	r := Redundancy{Drop: drop}
	for _, id := range set {
		if id != drop {
			r.With = append(r.With, id)
		}
	}
	return r
}

func (s *System) rowsOfConstraint(id string) int {
	n := 0
	for _, e := range s.equations {
		if e.constraint >= 0 && s.sketch.Constraints[e.constraint].ID == id {
			n += e.count
		}
	}
	return n
}

// cheapest is the member of a set whose loss costs least; last wins among equals.
func (s *System) cheapest(set []string, last string) string {
	cost := func(id string) int {
		k := s.sketch.Constraint(id)
		switch _, size := Sizes[k.Kind]; {
		case size && plainNumber(k.Value):
			return 0
		case k.Kind == "coincident" || k.Kind == "fixed":
			return 3
		case size:
			return 1
		}
		return 2
	}
	best := last
	for _, id := range set {
		a, b := cost(id), cost(best)
		if a < b || (a == b && best != last && s.constraintIndex(id) > s.constraintIndex(best)) {
			best = id
		}
	}
	return best
}

func (s *System) constraintIndex(id string) int {
	return slices.IndexFunc(s.sketch.Constraints, func(k Constraint) bool { return k.ID == id })
}

// plainNumber tells whether a formula names no parameter.
func plainNumber(formula string) bool {
	names, err := formulaNames(formula)
	return err == nil && len(names) == 0
}

// conflict reduces the equations of an unsolvable component to a smallest set
// that still contradicts itself: halves are left out while the rest still does,
// then smaller parts (the QuickXplain order, Junker 2004).
func (s *System) conflict(c component, start []float64) Conflict {
	keep := append([]float64(nil), s.x...)
	defer copy(s.x, keep)
	var fixed []int // the conditions of entities themselves always hold
	byConstraint := map[int][]int{}
	var order []int
	for _, e := range c.equations {
		k := s.equations[e].constraint
		if k < 0 {
			fixed = append(fixed, e)
			continue
		}
		if byConstraint[k] == nil {
			order = append(order, k)
		}
		byConstraint[k] = append(byConstraint[k], e)
	}
	solvable := func(ks []int) bool {
		copy(s.x, start)
		var eqs []int
		touched := map[int]bool{}
		for _, k := range ks {
			eqs = append(eqs, byConstraint[k]...)
			for _, e := range byConstraint[k] {
				for _, v := range s.equations[e].vars {
					touched[v] = true
				}
			}
		}
		// Of the entities' own conditions, those that these have to do with.
		for _, e := range fixed {
			if slices.ContainsFunc(s.equations[e].vars, func(v int) bool { return touched[v] }) {
				eqs = append(eqs, e)
			}
		}
		sort.Ints(eqs)
		for _, o := range s.solve(eqs) {
			if o.residual > tolerance*s.scale {
				return false
			}
		}
		return true
	}
	var explain func(background, candidates []int, added bool) []int
	explain = func(background, candidates []int, added bool) []int {
		if added && !solvable(background) {
			return nil
		}
		if len(candidates) == 1 {
			return candidates
		}
		half := len(candidates) / 2
		a, b := candidates[:half], candidates[half:]
		second := explain(slices.Concat(background, a), b, len(a) > 0)
		first := explain(slices.Concat(background, second), a, len(second) > 0)
		return slices.Concat(first, second)
	}
	var out Conflict
	if len(order) == 0 {
		return out
	}
	// Most conflicts lie in what has more residuals than unknowns; if that alone
	// contradicts itself, nothing else needs to be looked at.
	inOver := map[int]bool{}
	for _, b := range s.planFor(c).over {
		for _, r := range b.rows {
			if k := s.equations[r.equation].constraint; k >= 0 {
				inOver[k] = true
			}
		}
	}
	if few := slices.DeleteFunc(slices.Clone(order), func(k int) bool { return !inOver[k] }); len(few) > 0 && len(few) < len(order) && !solvable(few) {
		order = few
	}
	set := explain(nil, order, false)
	sort.Ints(set)
	for _, k := range set {
		out.Set = append(out.Set, s.sketch.Constraints[k].ID)
	}
	if len(out.Set) > 0 {
		out.Drop = s.cheapest(out.Set, out.Set[len(out.Set)-1])
	}
	return out
}

// Motion is how everything moves when one loose entity does: a smallest motion
// that the constraints allow. It gives the geometry at steps along it, there and
// back, each a solved state; nil when the entity does not move.
func (f *Freedom) Motion(entity string, steps int, amplitude float64) [][]Curve {
	s := f.system
	for _, m := range f.parts {
		push := make([]float64, len(m.vars))
		found := false
		for i, v := range m.vars {
			if o := s.owner[v]; o >= 0 && s.sketch.Entities[o].ID == entity && s.roles[v] != roleHidden {
				push[i], found = 1+0.3*float64(i%2), true
			}
		}
		if !found {
			continue
		}
		v := m.project(push)
		top := largest(v)
		if top < 1e-7 {
			continue
		}
		keep := append([]float64(nil), s.x...)
		var frames [][]Curve
		for k := range steps {
			phase := math.Sin(2 * math.Pi * float64(k) / float64(steps))
			copy(s.x, keep)
			for i, u := range m.vars {
				s.x[u] += amplitude * phase * v[i] / top
			}
			for _, c := range s.components(s.all()) {
				s.settleWhole(c, s.planFor(c), 30)
			}
			frames = append(frames, s.curvesNow())
		}
		copy(s.x, keep)
		return frames
	}
	return nil
}

// String is a short account for messages.
func (f *Freedom) String() string {
	return fmt.Sprintf("%d freedoms, %d infinitesimal", f.Count, f.Infinitesimal)
}
