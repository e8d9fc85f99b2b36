package sketch

import (
	"math"
	"math/rand"
	"sort"

	"gonum.org/v1/gonum/mat"
)

// rankTolerance is the singular value, relative to the largest, below which a
// direction counts as free.
const rankTolerance = 1e-7

// Loose is an entity that can still move, with the directions in which its
// point can go (unit vectors), or Radius set when it is its radius that is free.
type Loose struct {
	Entity     string
	Directions []Vec
	Radius     bool
}

// null gives the rank of a component's Jacobian at x and the orthonormal null
// vectors, each over the component's unknowns.
func (s *System) null(c component, x []float64) (rank int, basis [][]float64) {
	m, n := s.rows(c), len(c.vars)
	if n == 0 {
		return 0, nil
	}
	if m == 0 {
		for i := 0; i < n; i++ {
			v := make([]float64, n)
			v[i] = 1
			basis = append(basis, v)
		}
		return 0, basis
	}
	res := make([]float64, m)
	// Rows beyond the square are zero, so that the thin V is complete.
	jac := mat.NewDense(max(m, n), n, nil)
	s.evaluate(c, x, res, jac)
	var svd mat.SVD
	if !svd.Factorize(jac, mat.SVDThinV) {
		return 0, nil
	}
	values := svd.Values(nil)
	var v mat.Dense
	svd.VTo(&v)
	for k, sv := range values {
		if sv > rankTolerance*math.Max(values[0], 1e-9) {
			rank++
			continue
		}
		col := make([]float64, n)
		mat.Col(col, k, &v)
		basis = append(basis, col)
	}
	return rank, basis
}

// freedom counts the degrees of freedom left and finds what is loose. The rank
// is taken at the solution and at a nearby generic solution with slightly
// different sizes; the larger counts, so that a symmetric pose does not hide a
// rank.
func (s *System) freedom() (count int, loose []Loose) {
	weights := map[int][]Vec{} // by entity: directions of a point
	radii := map[int]bool{}
	witness := s.witness()
	for _, c := range s.components(s.all()) {
		rank, basis := s.null(c, s.x)
		if witness != nil {
			if r, b := s.null(c, witness); r > rank {
				rank, basis = r, b
			}
		}
		count += len(c.vars) - rank
		for _, vec := range basis {
			move := map[int]*Vec{}
			for i, v := range c.vars {
				if math.Abs(vec[i]) < 1e-6 {
					continue
				}
				owner := s.owner[v]
				if s.sketch.Entities[owner].Kind == KindCircle {
					radii[owner] = true
					continue
				}
				if move[owner] == nil {
					move[owner] = &Vec{}
				}
				if s.points[s.sketch.Entities[owner].ID].x.index == v {
					move[owner].X = vec[i]
				} else {
					move[owner].Y = vec[i]
				}
			}
			for owner, d := range move {
				weights[owner] = append(weights[owner], d.Scale(1/d.Norm()))
			}
		}
	}
	for i, e := range s.sketch.Entities {
		if d, ok := weights[i]; ok {
			loose = append(loose, Loose{Entity: e.ID, Directions: spanning(d)})
		} else if radii[i] {
			loose = append(loose, Loose{Entity: e.ID, Radius: true})
		}
	}
	return count, loose
}

// spanning reduces directions to one, or to the two axes when they differ.
func spanning(d []Vec) []Vec {
	for _, v := range d[1:] {
		if math.Abs(v.Cross(d[0])) > 1e-3 {
			return []Vec{{1, 0}, {0, 1}}
		}
	}
	return d[:1]
}

// witness solves the sketch with every size changed by up to a thousandth, by
// fixed pseudo-random amounts, and gives that geometry; nil if there is none.
func (s *System) witness() []float64 {
	rng := rand.New(rand.NewSource(1))
	keep := append([]float64(nil), s.x...)
	defer func() {
		copy(s.x, keep)
		for i := range s.equations {
			if s.equations[i].size {
				*s.equations[i].set = s.equations[i].target
			}
		}
	}()
	for i := range s.equations {
		if eq := &s.equations[i]; eq.size {
			*eq.set = eq.target * (1 + 1e-3*(rng.Float64()-0.5))
		}
	}
	for i := range s.x {
		s.x[i] += 1e-4 * s.scale * (rng.Float64() - 0.5)
	}
	for _, c := range s.components(s.all()) {
		if s.solveComponent(c, 60) > 1e-7*s.scale {
			return nil
		}
	}
	return append([]float64(nil), s.x...)
}

// spare finds constraints that add nothing: all their rows depend on the rows
// of the constraints before them. Rows are taken at the solution and, where it
// exists, the generic one.
func (s *System) spare() []string {
	var out []string
	for _, i := range s.joined {
		out = append(out, s.sketch.Constraints[i].ID)
	}
	for _, c := range s.components(s.all()) {
		m, n := s.rows(c), len(c.vars)
		if m == 0 {
			continue
		}
		jac := mat.NewDense(m, max(n, 1), nil)
		s.evaluate(c, s.x, make([]float64, m), jac)
		var basis [][]float64
		row := 0
		for _, e := range c.equations {
			eq := s.equations[e]
			added := 0
			for k := 0; k < eq.count; k++ {
				v := mat.Row(nil, row, jac)
				row++
				before := math.Sqrt(sumSquares(v))
				for pass := 0; pass < 2; pass++ { // twice is enough (Kahan, Parlett)
					for _, q := range basis {
						d := 0.0
						for i := range v {
							d += v[i] * q[i]
						}
						for i := range v {
							v[i] -= d * q[i]
						}
					}
				}
				left := math.Sqrt(sumSquares(v))
				if left > 1e-7*math.Max(before, 1e-9) && before > 1e-12 {
					for i := range v {
						v[i] /= left
					}
					basis = append(basis, v)
					added++
				}
			}
			if added == 0 && eq.constraint >= 0 {
				out = append(out, s.sketch.Constraints[eq.constraint].ID)
			}
		}
	}
	sort.Strings(out)
	return out
}

// conflict reduces the equations of an unsolvable component to a smallest set
// that still contradicts itself: what can be left out without making it
// solvable is left out, one after the other.
func (s *System) conflict(c component, start []float64) []string {
	set := append([]int(nil), c.equations...)
	keep := append([]float64(nil), s.x...)
	defer copy(s.x, keep)
	solvable := func(eqs []int) bool {
		copy(s.x, start)
		failed, _ := s.solve(eqs)
		return len(failed) == 0
	}
	for i := 0; i < len(set); {
		if s.equations[set[i]].constraint < 0 {
			i++
			continue
		}
		without := append(append([]int(nil), set[:i]...), set[i+1:]...)
		if solvable(without) {
			i++
		} else {
			set = without
		}
	}
	var ids []string
	for _, e := range set {
		if k := s.equations[e].constraint; k >= 0 {
			ids = append(ids, s.sketch.Constraints[k].ID)
		}
	}
	return ids
}
