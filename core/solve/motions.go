package solve

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/floats"
	"gonum.org/v1/gonum/mat"
)

// rankTolerance is how far a residual's gradient must stand out of the span of
// the others, relative to its length, to count as independent.
const rankTolerance = 1e-7

// Motions are displacements that residuals allow to first order: the null space of their
// derivatives J. It is kept as its complement, an orthonormal basis of the rows of J, found by the
// Gram-Schmidt process with each row done twice (twice is enough: W. Kahan, B. Parlett).
type Motions struct {
	Vars      []int
	Dependent []Dependency

	local map[int]int
	basis [][]float64 // orthonormal, over Vars
	rows  []Row       // the independent rows, in order of the basis
	coef  [][]float64 // of each independent row by the basis: the triangle R of J = R Q
}

// Dependency is a row in the span of the rows With.
type Dependency struct {
	Row  Row
	With []Row
}

// Motions analyses rows over some unknowns at a state.
//
// The rank decides what a person is told (held, loose, spare), so that it must
// not hang on scaling: a row counts as dependent when, with all earlier rows
// taken out, less than rankTolerance of its own length is left. Rows are lengths
// over lengths, all about one, and what rounding leaves is about 1e-15; so seven
// digits are far from both.
func (s *System) Motions(rows []Row, vars []int, state []float64) *Motions {
	m := &Motions{Vars: vars, local: make(map[int]int, len(vars))}
	for i, v := range vars {
		m.local[v] = i
	}
	var r [MaxRows]float64
	var jac []float64
	var places []int
	for at := 0; at < len(rows); {
		g := &s.Groups[rows[at].Group]
		n := len(g.Vars)
		jac = append(jac[:0], make([]float64, g.Rows*n)...)
		g.Eval(state, r[:g.Rows], jac)
		for e := rows[at].Group; at < len(rows) && rows[at].Group == e; at++ {
			v := make([]float64, len(vars))
			places = places[:0]
			for i, u := range g.Vars {
				if j, ok := m.local[u]; ok {
					if v[j] += jac[rows[at].K*n+i]; !slices.Contains(places, j) {
						places = append(places, j)
					}
				}
			}
			m.add(rows[at], v, places)
		}
	}
	return m
}

// shortened is what must be left of a row after a pass for it to be square to the basis but for rounding: less, and it
// is passed once more.
const shortened = 0.1

// add takes a row with its derivatives v, which it uses up, and which are nothing but at some places.
//
// The second pass takes out what rounding left in the first. After it the basis
// is orthonormal to working precision, whatever the angles between the rows
// (Giraud, Langou and Rozložník, The loss of orthogonality in the Gram-Schmidt
// orthogonalization process, 2005). Where the first pass leaves a good part of the row, rounding
// left little in it, and one is enough (the criterion of Daniel, Gragg, Kaufman and Stewart, 1976). In
// the first the products are those of the row as it is, which has few places: that makes large systems fast.
func (m *Motions) add(r Row, v []float64, places []int) {
	before := math.Sqrt(sumSquares(v))
	if !(before > 1e-12) {
		m.Dependent = append(m.Dependent, Dependency{Row: r})
		return
	}
	coef := make([]float64, len(m.basis)+1)
	for b, q := range m.basis {
		for _, i := range places {
			coef[b] += v[i] * q[i]
		}
	}
	for b, q := range m.basis {
		if d := coef[b]; d != 0 {
			floats.AddScaled(v, -d, q)
		}
	}
	if math.Sqrt(sumSquares(v)) < shortened*before {
		for b, q := range m.basis {
			coef[b] += takeOut(v, q)
		}
	}
	left := math.Sqrt(sumSquares(v))
	if left <= rankTolerance*before {
		m.Dependent = append(m.Dependent, m.trace(r, coef, before))
		return
	}
	for i := range v {
		v[i] /= left
	}
	coef[len(m.basis)] = left
	m.basis, m.rows, m.coef = append(m.basis, v), append(m.rows, r), append(m.coef, coef)
}

// takeOut takes out of v its part along the unit vector q, and gives how much that was.
func takeOut(v, q []float64) float64 {
	d := floats.Dot(v, q)
	if d != 0 {
		floats.AddScaled(v, -d, q)
	}
	return d
}

// trace finds the rows that a dependent row is made of: with the independent rows A = R Q and the
// dependent one c Q, the weights w solve w R = c.
//
// It is back substitution on the triangle R, from the last row to the first.
// Weights that are only rounding are left out, so that the set named is the
// support of the combination.
func (m *Motions) trace(r Row, c []float64, size float64) Dependency {
	d := Dependency{Row: r}
	w := append([]float64(nil), c[:len(m.basis)]...)
	for j := len(w) - 1; j >= 0; j-- {
		w[j] /= m.coef[j][j]
		for i := range j {
			w[i] -= w[j] * m.coef[j][i]
		}
		if math.Abs(w[j]) > 1e-6*size {
			d.With = append(d.With, m.rows[j])
		}
	}
	slices.Reverse(d.With)
	return d
}

// Freedom is the number of independent motions.
func (m *Motions) Freedom() int { return len(m.Vars) - len(m.basis) }

// Place is that of an unknown among Vars.
func (m *Motions) Place(v int) (int, bool) {
	i, ok := m.local[v]
	return i, ok
}

// Project is the part of a displacement that the rows allow.
//
// P = I - QᵀQ with the rows of Q orthonormal; the rows' own directions are taken
// out.
func (m *Motions) Project(v []float64) []float64 {
	out := append([]float64(nil), v...)
	for range 2 {
		for _, q := range m.basis {
			takeOut(out, q)
		}
	}
	return out
}

// Share is entry (a, b) of the projection onto the motions, by places among Vars: how much of unit
// displacement b shows in a.
//
// The diagonal entries are the squared lengths of unit displacements projected
// onto the motions, from 0 (held) to 1 (as free as alone); their sum is the
// number of freedoms.
func (m *Motions) Share(a, b int) float64 {
	v := 0.0
	if a == b {
		v = 1
	}
	for _, q := range m.basis {
		v -= q[a] * q[b]
	}
	return v
}

// Null is an orthonormal basis of the motions.
//
// Unit vectors are projected one after the other, and what is new is kept, until
// there are as many as freedoms. Which basis comes out does not matter to
// anything that is shown.
func (m *Motions) Null() [][]float64 {
	var out [][]float64
	n := len(m.Vars)
	for i := 0; i < n && len(out) < m.Freedom(); i++ {
		v := make([]float64, n)
		v[i] = 1
		v = m.Project(v)
		for range 2 {
			for _, q := range out {
				takeOut(v, q)
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

// Only are motions whose freedoms are just the given orthonormal directions.
func (m *Motions) Only(directions [][]float64) *Motions {
	complement := &Motions{Vars: m.Vars, basis: directions}
	return &Motions{Vars: m.Vars, local: m.local, basis: complement.Null()}
}

// Remaining analyses a component without what surely stands: the blocks of its plan that have as
// many residuals as unknowns or more, as long as each has full rank at the state. Analysed together
// with the rest they would only cost time.
//
// A square block of full rank stands, and takes its unknowns with it: what hangs
// on it alone cannot move either. What is left to be analysed is nearly always
// much smaller.
func (s *System) Remaining(c Component, state []float64) *Motions {
	p := s.planFor(c)
	for _, b := range append(append([]*Block(nil), p.over...), p.square...) {
		if len(b.vars) > 0 && s.Motions(b.rows, b.vars, state).Freedom() > 0 {
			return s.MotionsOf(c, state)
		}
	}
	var rows []Row
	var vars []int
	for _, b := range p.under {
		rows, vars = append(rows, b.rows...), append(vars, b.vars...)
	}
	sort.Slice(rows, func(i, j int) bool {
		if rows[i].Group != rows[j].Group {
			return rows[i].Group < rows[j].Group
		}
		return rows[i].K < rows[j].K
	})
	sort.Ints(vars)
	return s.Motions(rows, vars, state)
}

// MotionsOf analyses all of a component.
func (s *System) MotionsOf(c Component, state []float64) *Motions {
	return s.Motions(s.Rows(c.Groups), c.Vars, state)
}

// Independent tells whether no residual of a component depends on others at a state, as far as its
// plan shows at once: where it has no part with too many residuals, and each block has full rank.
//
// The test is enough and not needed: where it fails, the whole is analysed.
func (s *System) Independent(c Component, state []float64) bool {
	p := s.planFor(c)
	return len(p.over) == 0 && !slices.ContainsFunc(p.blocks(), func(b *Block) bool {
		return len(s.Motions(b.rows, b.vars, state).Dependent) > 0
	})
}

// Finite finds the directions among motions of a component that can really be followed, as an
// orthonormal basis: where the rank of J changes nearby, a displacement may be allowed to first
// order and lead nowhere. It takes a small step along each motion and solves back; what the steps
// keep of themselves spans them.
//
// The first-order motions are the tangent space of the solutions where the rank
// is constant, and more than that where it drops: a bar between two fixed pins
// in one line can start to move square to itself and cannot go on. Solving back
// after a step keeps a true motion and takes a false one back to where it began,
// so that the singular values of what was kept part into those near one and
// those near zero; 0.3 lies between with room on both sides.
func (s *System) Finite(c Component, m *Motions) [][]float64 {
	keep := append([]float64(nil), s.State...)
	defer copy(s.State, keep)
	null := m.Null()
	if len(null) == 0 {
		return nil
	}
	step := 3e-3 * s.Scale
	kept := mat.NewDense(len(m.Vars), len(null), nil)
	d := make([]float64, len(m.Vars))
	for k, v := range null {
		copy(s.State, keep)
		for i := range d {
			d[i] = step * v[i]
		}
		s.moves.Move(s.State, keep, m.Vars, d)
		if !s.Small(s.SettleWhole(c, 200)) {
			continue // cannot be followed
		}
		s.moves.Difference(d, keep, s.State, m.Vars)
		for i := range d {
			kept.Set(i, k, d[i]/step)
		}
	}
	var svd mat.SVD
	if !svd.Factorize(kept, mat.SVDThinU) {
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

// oneWay is the cosine from which two directions of branches are one, and tried how many directions between the motions
// are tried.
const (
	oneWay = 0.99
	tried  = 48
)

// Branches finds the ways in which a component can go on where it has more motions to first order than it can follow,
// and can follow one: unit directions, each for both senses. From a step along a direction between its motions solving
// leads onto one of the branches, and back to where it began where there is none; from there the direction is that of
// the branch, to the length of the step.
func (s *System) Branches(c Component, m *Motions) [][]float64 {
	keep := append([]float64(nil), s.State...)
	defer copy(s.State, keep)
	null := m.Null()
	step := 3e-3 * s.Scale
	var out [][]float64
	for k := range tried {
		d := make([]float64, len(m.Vars))
		for i, v := range null { // directions all around, each pair of motions in its turn
			sin, cos := math.Sincos(math.Pi * float64(k) / tried)
			weight := sin
			if i == k%len(null) {
				weight = cos
			}
			for n := range d {
				d[n] += step * weight * v[n]
			}
		}
		copy(s.State, keep)
		s.moves.Move(s.State, keep, m.Vars, d)
		if !s.Small(s.SettleWhole(c, 200)) {
			continue
		}
		s.moves.Difference(d, keep, s.State, m.Vars)
		length := floats.Norm(d, 2)
		if length < 0.3*step {
			continue
		}
		floats.Scale(1/length, d)
		if !slices.ContainsFunc(out, func(o []float64) bool { return math.Abs(floats.Dot(o, d)) > oneWay }) {
			out = append(out, d)
		}
	}
	return out
}

// Push moves the present state along a displacement of the unknowns of motions.
//
// Push goes along a motion in one step, which is true to first order; solving
// afterwards makes it exact.
func (s *System) Push(m *Motions, d []float64) {
	s.moves.Save(s.base, s.State, m.Vars)
	s.moves.Move(s.State, s.base, m.Vars, d)
}
