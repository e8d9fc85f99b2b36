package assembly

import (
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Problem is what the joints of a mechanism ask, as plain functions of how far its bodies are displaced from where they
// stood: six numbers for each, three turns about its own axes one after the other and three shifts, in millimetres.
// It is what a general-purpose solver is given.
type Problem struct {
	m    *Mechanism
	base []float64
	vars []int
}

// Problem begins where the mechanism stands.
func (m *Mechanism) Problem() *Problem {
	p := &Problem{m: m, base: append([]float64(nil), m.system.State...)}
	for v := range m.system.Unknowns() {
		p.vars = append(p.vars, v)
	}
	return p
}

// Unknowns is how many numbers displace the bodies.
func (p *Problem) Unknowns() int { return len(p.vars) }

// Residuals is how many conditions there are.
func (p *Problem) Residuals() int { return len(p.m.system.Rows(p.m.system.All())) }

// Scale is a typical size of the mechanism in mm.
func (p *Problem) Scale() float64 { return p.m.system.Scale }

// Evaluate gives all residuals and, unless jac is nil, their derivatives by columns: that of residual i by number j to
// jac[i+j*len(res)].
//
// With a body turned by R1 R2 R3 about its axes one after the other, the derivative by the first turn is that about
// (R2 R3)ᵀ e1 in the body as it stands then, by the second about R3ᵀ e2, and by the third about e3.
func (p *Problem) Evaluate(x, res, jac []float64) {
	state := make([]float64, len(p.base))
	copy(state, p.base)
	moves := p.m.moves
	moves.Move(state, p.base, p.vars, x)
	p.m.system.Evaluate(state, res, jac)
	if jac == nil {
		return
	}
	n := len(res)
	for b := range p.m.bodies {
		first := rigid.Unknowns * b
		turn := func(axis int) solid.Transform {
			var e solid.Vec
			e[axis] = 1
			return solid.Rotation(solid.Vec{}, e, x[first+axis]/moves.Reach)
		}
		second, third := turn(1), turn(2)
		y := third.Back(solid.Vec{0, 1, 0})
		z := solid.Vec{0, 0, 1}
		w := third.Back(second.Back(solid.Vec{1, 0, 0}))
		for i := range n {
			local := solid.Vec{jac[i+first*n], jac[i+(first+1)*n], jac[i+(first+2)*n]}
			for k, axis := range []solid.Vec{w, y, z} {
				jac[i+(first+k)*n] = local.Dot(axis)
			}
		}
	}
}

// SolveFrom solves the joints from a displacement, as Solve does, and tells whether they hold then.
func (p *Problem) SolveFrom(x []float64) bool {
	s := p.m.system
	copy(s.State, p.base)
	p.m.moves.Move(s.State, p.base, p.vars, x)
	holds := true
	for _, c := range s.Components(s.All()) {
		if len(c.Groups) > 0 {
			holds = s.Small(s.Settle(c, iterations)) && holds
		}
	}
	return holds
}
