// Package solve finds states of systems of conditions that hold, and says of such systems what can
// still move, what is there twice and what contradicts. It knows nothing of what the conditions are
// about: sketches and assemblies give it residuals with their derivatives.
//
// A system has a state s and n unknowns, small displacements d of the state. Conditions are groups
// of residuals r(s), all of them lengths, which are zero where the condition holds. What a
// displacement does to a state is a retraction: for points of a plane s + d, for the pose of a rigid
// body a turn and a shift of it. Derivatives are by the displacements, at d = 0.
package solve

import "math"

// MaxRows is the largest number of residuals in one group.
const MaxRows = 6

// Tolerance is the largest residual of a condition that holds, relative to the scale of its system.
const Tolerance = 1e-10

// Group is one condition: 1 to MaxRows residuals over the unknowns that they depend on.
type Group struct {
	Vars []int // unknowns, each once
	Rows int
	// Eval writes the residuals at a state into r and, unless jac is nil, their derivatives: that
	// of residual k by unknown Vars[i] to jac[k*len(Vars)+i].
	Eval func(state, r, jac []float64)
}

// Row is one residual of a system: the K-th of a group.
type Row struct{ Group, K int }

// System is a state with its unknowns and conditions.
type System struct {
	State  []float64
	Groups []Group
	Scale  float64 // a typical length of it
	// Refresh, where given, is asked after each round whether groups depend on other unknowns in
	// the state as it is, and then has changed them: a point on a spline may have gone on to
	// another piece of it.
	Refresh func() bool
	// Changes counts how often groups were changed so: blocks made before do not fit any more.
	Changes int

	unknowns int
	moves    Retraction
	base     []float64 // the state that a step is taken from
	plans    map[string]*plan
	place    []int // work space of locals
}

// New makes a system of n unknowns. The state is used as it is, and changed.
func New(state []float64, n int, groups []Group, scale float64, moves Retraction) *System {
	return &System{State: state, Groups: groups, Scale: scale, unknowns: n, moves: moves,
		base: make([]float64, len(state))}
}

// Unknowns is the number of unknowns.
func (s *System) Unknowns() int { return s.unknowns }

// Small tells whether a residual counts as zero.
func (s *System) Small(residual float64) bool { return residual <= Tolerance*s.Scale }

// All lists all groups.
func (s *System) All() []int {
	out := make([]int, len(s.Groups))
	for i := range out {
		out[i] = i
	}
	return out
}

// Rows lists the residuals of groups.
func (s *System) Rows(groups []int) []Row {
	var rows []Row
	for _, g := range groups {
		for k := range s.Groups[g].Rows {
			rows = append(rows, Row{g, k})
		}
	}
	return rows
}

// Evaluate gives all residuals at a state and, unless jac is nil, their derivatives by columns:
// that of residual i by unknown j to jac[i+j*len(res)].
func (s *System) Evaluate(state, res, jac []float64) {
	clear(jac)
	at, m := 0, len(res)
	var row []float64
	for _, g := range s.Groups {
		n := len(g.Vars)
		if jac == nil {
			g.Eval(state, res[at:at+g.Rows], nil)
		} else {
			row = append(row[:0], make([]float64, g.Rows*n)...)
			g.Eval(state, res[at:at+g.Rows], row)
			for k := range g.Rows {
				for i, v := range g.Vars {
					jac[at+k+v*m] += row[k*n+i]
				}
			}
		}
		at += g.Rows
	}
}

// Largest is the largest absolute value, infinite where one is not a number.
func Largest(v []float64) float64 {
	m := 0.0
	for _, x := range v {
		if math.IsNaN(x) {
			return math.Inf(1)
		}
		m = math.Max(m, math.Abs(x))
	}
	return m
}

// sumSquares is the square of the length, infinite where a value is not a number.
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
