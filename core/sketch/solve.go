package sketch

import (
	"math"

	"gonum.org/v1/gonum/mat"
)

// tolerance is the largest residual of a solved sketch relative to its size.
const tolerance = 1e-10

// component is a part of the system that shares no unknown with the rest.
type component struct {
	vars      []int
	equations []int
}

// components splits the system by connectivity.
func (s *System) components(equations []int) []component {
	parent := make([]int, len(s.x))
	for i := range parent {
		parent[i] = i
	}
	root := func(i int) int {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	for _, e := range equations {
		for _, v := range s.equations[e].vars[min(1, len(s.equations[e].vars)):] {
			parent[root(v)] = root(s.equations[e].vars[0])
		}
	}
	at := map[int]int{}
	var out []component
	for v := range s.x {
		r := root(v)
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
		k := at[root(s.equations[e].vars[0])]
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

// rows counts the residuals of a component.
func (s *System) rows(c component) int {
	n := 0
	for _, e := range c.equations {
		n += s.equations[e].count
	}
	return n
}

// evaluate fills the residuals and, unless jac is nil, the Jacobian of a
// component at x.
func (s *System) evaluate(c component, x []float64, res []float64, jac *mat.Dense) {
	col := make(map[int]int, len(c.vars))
	for i, v := range c.vars {
		col[v] = i
	}
	if jac != nil {
		jac.Zero()
	}
	row := 0
	var local [jetSize]jet
	for _, e := range c.equations {
		eq := &s.equations[e]
		for i, v := range eq.vars {
			local[i] = jet{v: x[v]}
			local[i].d[i] = 1
		}
		r := eq.eval(local[:len(eq.vars)])
		for k := 0; k < eq.count; k++ {
			res[row] = r[k].v
			if jac != nil {
				for i, v := range eq.vars {
					jac.Set(row, col[v], jac.At(row, col[v])+r[k].d[i])
				}
			}
			row++
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

// solveComponent runs Levenberg-Marquardt from the present geometry. The step
// is taken in the smaller of the primal and dual forms, so that with few
// equations it is the least change that satisfies them. It returns the largest
// residual reached, and leaves the best geometry in s.x.
func (s *System) solveComponent(c component, iterations int) float64 {
	m, n := s.rows(c), len(c.vars)
	if m == 0 {
		return 0
	}
	res := make([]float64, m)
	s.evaluate(c, s.x, res, nil)
	goal := tolerance * s.scale * 1e-2
	if n == 0 || largest(res) <= goal {
		return largest(res)
	}
	jac := mat.NewDense(m, n, nil)
	trial := make([]float64, len(s.x))
	trialRes := make([]float64, m)
	lambda := 1e-6
	for it := 0; it < iterations && largest(res) > goal; it++ {
		s.evaluate(c, s.x, res, jac)
		accepted := false
		for try := 0; try < 12 && !accepted; try++ {
			step, ok := dampedStep(jac, res, lambda)
			if ok {
				copy(trial, s.x)
				for i, v := range c.vars {
					trial[v] += step.AtVec(i)
				}
				s.evaluate(c, trial, trialRes, nil)
				if sumSquares(trialRes) < sumSquares(res) {
					copy(s.x, trial)
					copy(res, trialRes)
					accepted = true
					lambda = math.Max(lambda*0.1, 1e-14)
					break
				}
			}
			lambda = math.Max(lambda*10, 1e-12)
		}
		if !accepted {
			break
		}
	}
	return largest(res)
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

// dampedStep solves (JᵀJ + λ·d·I) δ = -Jᵀr, or its dual δ = -Jᵀ(JJᵀ + λ·d·I)⁻¹ r
// when there are fewer equations than unknowns; d is the largest diagonal entry.
func dampedStep(jac *mat.Dense, res []float64, lambda float64) (*mat.VecDense, bool) {
	m, n := jac.Dims()
	r := mat.NewVecDense(m, res)
	k := min(m, n)
	gram := mat.NewSymDense(k, nil)
	if m < n {
		gram.SymOuterK(1, jac)
	} else {
		gram.SymOuterK(1, jac.T())
	}
	d := 0.0
	for i := 0; i < k; i++ {
		d = math.Max(d, gram.At(i, i))
	}
	if d == 0 || math.IsNaN(d) || math.IsInf(d, 0) {
		return nil, false
	}
	for i := 0; i < k; i++ {
		gram.SetSym(i, i, gram.At(i, i)+lambda*d)
	}
	var chol mat.Cholesky
	if !chol.Factorize(gram) {
		return nil, false
	}
	step := mat.NewVecDense(n, nil)
	if m < n {
		var y mat.VecDense
		if chol.SolveVecTo(&y, r) != nil {
			return nil, false
		}
		step.MulVec(jac.T(), &y)
	} else {
		var g mat.VecDense
		g.MulVec(jac.T(), r)
		if chol.SolveVecTo(step, &g) != nil {
			return nil, false
		}
	}
	step.ScaleVec(-1, step)
	return step, true
}

// solve brings the whole system to its targets. Sizes that differ much from the
// starting geometry are led from the old value to the new one in small steps, so
// that the shape keeps its sides on the way. It returns the equations of the
// components that could not be solved.
func (s *System) solve(equations []int) (failed []component, worst float64) {
	for _, c := range s.components(equations) {
		start := append([]float64(nil), s.x...)
		worstStep := 0.0
		for _, e := range c.equations {
			if eq := &s.equations[e]; eq.size {
				change := math.Abs(eq.target-eq.measured) / math.Max(math.Abs(eq.measured), 1e-3*s.scale)
				worstStep = math.Max(worstStep, change)
			}
		}
		steps := int(math.Ceil(math.Log1p(worstStep) / 0.25))
		steps = max(1, min(steps, 24))
		r := s.lead(c, steps)
		if r > tolerance*s.scale && steps < 24 {
			copy(s.x, start)
			r = s.lead(c, 24)
		}
		worst = math.Max(worst, r)
		if r > tolerance*s.scale {
			failed = append(failed, c)
		}
	}
	return failed, worst
}

func (s *System) lead(c component, steps int) float64 {
	for k := 1; k < steps; k++ {
		t := float64(k) / float64(steps)
		for _, e := range c.equations {
			if eq := &s.equations[e]; eq.size {
				*eq.set = eq.measured + t*(eq.target-eq.measured)
			}
		}
		s.solveComponent(c, 12)
	}
	for _, e := range c.equations {
		if eq := &s.equations[e]; eq.size {
			*eq.set = eq.target
		}
	}
	return s.solveComponent(c, 200)
}
