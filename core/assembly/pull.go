package assembly

import (
	"slices"

	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/core/solve"
)

// pullWeight is how much a pull counts beside the joints: enough to lead, too little to bend them.
const pullWeight = 0.02

// Pull is a component held at a place of it. Every state that it leads to is a solved one.
type Pull struct {
	m     *Mechanism
	body  int
	local solid.Vec // in the body
	goal  solid.Vec
	part  solve.Component
	block *solve.Block
}

// Pull takes hold of a component at a place in space. It is nil for a component that stands still.
func (m *Mechanism) Pull(component string, at solid.Vec) *Pull {
	b, ok := m.bodyOf[component]
	if !ok || b < 0 {
		return nil
	}
	p := &Pull{m: m, body: b, goal: at, local: m.moves.Pose(m.system.State, b).Inverse().Apply(at), part: m.partOf(b)}
	s := m.system
	n := len(s.Groups)
	s.Groups = append(s.Groups, p.group())
	p.block = s.NewBlock(s.Rows(append(append([]int(nil), p.part.Groups...), n)), p.part.Vars)
	p.block.Soft = true
	s.Groups = s.Groups[:n]
	return p
}

// group asks that the place be at the goal.
func (p *Pull) group() solve.Group {
	var vars []int
	for k := range rigid.Unknowns {
		vars = append(vars, rigid.Unknowns*p.body+k)
	}
	local := solid.Frame{O: p.local}
	eval := func(state, r, jac []float64) {
		pose := p.m.moves.Pose(state, p.body).Transform()
		d := pose.Apply(p.local).Sub(p.goal)
		for k := range 3 {
			r[k] = pullWeight * d[k]
			if jac == nil {
				continue
			}
			row := jac[k*rigid.Unknowns : (k+1)*rigid.Unknowns]
			clear(row)
			var by solid.Frame
			by.O[k] = pullWeight
			slope(row, &pose, &local, &by, p.m.moves.Reach)
		}
	}
	return solve.Group{Vars: vars, Rows: 3, Eval: eval}
}

// To pulls towards a place and tells whether it could be followed: where it cannot, everything stays where it was.
// A place that is far away is gone to in a few short steps, as many as fit into a frame: a long pull would bend the
// joints more than solving can put right. Joints that come to a limit stop there, and the others go on.
func (p *Pull) To(goal solid.Vec) bool {
	s := p.m.system
	for range 4 {
		before := append([]float64(nil), s.State...)
		at := p.m.moves.Pose(s.State, p.body).Apply(p.local)
		way := goal.Sub(at)
		p.goal = goal
		far := way.Norm() > 0.25*s.Scale
		if far {
			p.goal = at.Add(way.Unit().Scale(0.25 * s.Scale))
		}
		if !p.m.holding(func(held []solve.Group) bool {
			if len(held) == 0 {
				s.SolveBlock(p.block, 4)
				return len(p.part.Groups) == 0 || s.Small(s.SettleWhole(p.part, 30))
			}
			copy(s.State, before)
			return p.held(held)
		}) {
			copy(s.State, before)
			return false
		}
		p.m.follow()
		// A place beside the way that it can go stays far, though nothing moves any more.
		if moved := p.m.moves.Pose(s.State, p.body).Apply(p.local).Sub(at); !far || moved.Norm() < 0.01*s.Scale {
			break
		}
	}
	return true
}

// held pulls while joints are held at their limits.
func (p *Pull) held(held []solve.Group) bool {
	s, n := p.m.system, len(p.m.system.Groups)
	s.Groups = append(s.Groups, held...)
	part := p.m.partOf(p.body)
	s.Groups = append(s.Groups, p.group())
	holds := s.Rows(part.Groups)
	block := s.NewBlock(append(holds[:len(holds):len(holds)], s.Rows([]int{len(s.Groups) - 1})...), part.Vars)
	block.Soft = true
	settled := s.NewBlock(holds, part.Vars)
	s.Groups = s.Groups[:n]
	s.SolveBlock(block, 8)
	return s.Small(s.SolveBlock(settled, 30))
}

// partOf is the component of the system that a body is in.
func (m *Mechanism) partOf(body int) solve.Component {
	for _, c := range m.system.Components(m.system.All()) {
		if slices.Contains(c.Vars, rigid.Unknowns*body) {
			return c
		}
	}
	return solve.Component{}
}
