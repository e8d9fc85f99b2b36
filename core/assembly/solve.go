package assembly

import (
	"math"
	"slices"

	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/core/solve"
)

// Solved says how far the joints hold. Where they do not, Contradiction is a smallest set of joints that contradict
// one another: without any one of them the rest can hold. Flipped are joints that hold, but the other way round
// than their sense says.
type Solved struct {
	Holds         bool     `json:"holds"`
	Left          float64  `json:"left"` // mm: by how much the joint that is furthest off is off
	Contradiction []string `json:"contradiction,omitempty"`
	Flipped       []string `json:"flipped,omitempty"`
}

// iterations of one solve: poses may be far from where the joints hold.
const iterations = 200

// Solve brings the components to where the joints hold, each as little from where it is as can be. What cannot be
// solved stays where it was.
func (m *Mechanism) Solve() Solved {
	out := Solved{Holds: true}
	start := append([]float64(nil), m.system.State...)
	m.orient()
	for _, c := range m.system.Components(m.system.All()) {
		if len(c.Groups) == 0 {
			continue
		}
		before := append([]float64(nil), m.system.State...)
		left := m.system.Settle(c, iterations)
		out.Left = math.Max(out.Left, left)
		if m.system.Small(left) {
			continue
		}
		copy(m.system.State, before)
		out.Holds = false
		out.Contradiction = append(out.Contradiction, m.contradiction(c)...)
		m.moves.Save(m.system.State, start, c.Vars)
	}
	out.Holds = m.bodiesHold(&out) && out.Holds
	if out.Holds && len(m.bounds) > 0 {
		m.limit(&out)
	}
	m.follow()
	for i, p := range m.joints {
		if out.Holds && p != nil && p.Sense != "" && !m.merged[i] && p.aligns() && m.facing(p) < 0 {
			out.Flipped = append(out.Flipped, p.ID)
		}
	}
	return out
}

// limit brings joints that are beyond their limits to them. Where nothing can hold there, those joints contradict the
// others.
func (m *Mechanism) limit(out *Solved) {
	before := append([]float64(nil), m.system.State...)
	var beyond []string
	if m.holding(func(held []solve.Group) bool {
		for _, b := range m.overstepped() {
			if !slices.Contains(beyond, b.joint.ID) {
				beyond = append(beyond, b.joint.ID)
			}
		}
		return len(held) == 0 || m.settleWith(held)
	}) {
		return
	}
	copy(m.system.State, before)
	out.Holds, out.Contradiction = false, beyond
}

// settleWith solves everything, with further groups that hold.
func (m *Mechanism) settleWith(held []solve.Group) bool {
	s, n := m.system, len(m.system.Groups)
	s.Groups = append(s.Groups, held...)
	defer func() { s.Groups = s.Groups[:n] }()
	for _, c := range s.Components(s.All()) {
		if len(c.Groups) > 0 && !s.Small(s.SolveBlock(s.NewBlock(s.Rows(c.Groups), c.Vars), iterations)) {
			return false
		}
	}
	return true
}

// bodiesHold tells whether the conditions between components of one body hold, which no solving can change.
func (m *Mechanism) bodiesHold(out *Solved) bool {
	holds := true
	for k, tie := range m.groups {
		p := tie.joint
		if p == nil || m.bodyOf[p.A.Component] != m.bodyOf[p.B.Component] {
			continue
		}
		g := &m.system.Groups[k]
		r := make([]float64, g.Rows)
		g.Eval(m.system.State, r, nil)
		if left := solve.Largest(r); !m.system.Small(left) {
			holds, out.Left = false, math.Max(out.Left, left)
			if !slices.Contains(out.Contradiction, p.ID) {
				out.Contradiction = append(out.Contradiction, p.ID)
			}
		}
	}
	return holds
}

// aligns tells whether the joint holds the directions of its features parallel.
func (p *placedJoint) aligns() bool { return p.kind.parallel != nil && p.kind.parallel(p.roles) }

// facing is the cosine between the directions of a joint's features, times its sense.
func (m *Mechanism) facing(p *placedJoint) float64 {
	a, b := m.frames(p)
	return p.sense * a.Z.Dot(b.Z)
}

// frames are the two features of a joint in space.
func (m *Mechanism) frames(p *placedJoint) (a, b solid.Frame) {
	return m.Pose(p.A.Component).Place(p.a.Frame()), m.Pose(p.B.Component).Place(p.b.Frame())
}

// orient turns bodies that stand the other way round than a joint's sense says, about the feature, as little as
// can be: conditions of parallel directions hold for both senses, and solving goes to the one that is nearer.
func (m *Mechanism) orient() {
	for _, tie := range m.groups {
		p := tie.joint
		if p == nil || p.Sense == "" || !p.aligns() || m.facing(p) >= 0 {
			continue
		}
		a, b := m.frames(p)
		if body := m.bodyOf[p.A.Component]; body >= 0 && (m.bodyOf[p.B.Component] < 0 ||
			m.ties(body) <= m.ties(m.bodyOf[p.B.Component])) {
			m.turn(body, a.O, a.Z, b.Z.Scale(p.sense))
		} else {
			m.turn(m.bodyOf[p.B.Component], b.O, b.Z, a.Z.Scale(p.sense))
		}
	}
}

// ties counts the joints of a body.
func (m *Mechanism) ties(body int) int {
	n := 0
	for _, tie := range m.groups {
		p := tie.joint
		if p != nil && (m.bodyOf[p.A.Component] == body || m.bodyOf[p.B.Component] == body) {
			n++
		}
	}
	return n
}

// turn turns a body about a place so that a direction comes to another one.
func (m *Mechanism) turn(body int, about, from, to solid.Vec) {
	axis := from.Cross(to)
	if axis.Norm() < 1e-9 {
		axis = from.Perpendicular()
	}
	t, err := rigid.Of(solid.Rotation(about, axis, from.Angle(to)))
	if err == nil {
		m.moves.Set(m.system.State, body, m.moves.Pose(m.system.State, body).Then(t))
	}
}

// contradiction finds a smallest set of joints of a component that cannot hold together.
func (m *Mechanism) contradiction(c solve.Component) []string {
	before := append([]float64(nil), m.system.State...)
	defer copy(m.system.State, before)
	holds := func(some []int) bool {
		copy(m.system.State, before)
		for _, part := range m.system.Components(some) {
			if len(part.Groups) > 0 && !m.system.Small(m.system.Settle(part, iterations)) {
				return false
			}
		}
		return true
	}
	var out []string
	for _, g := range solve.Smallest(c.Groups, holds) {
		out = append(out, m.groups[g].id)
	}
	return out
}

// Facing tells how the directions of a joint's features stand to one another now; ok is false of a joint that does
// not hold them parallel.
func (m *Mechanism) Facing(joint string) (sense string, ok bool) {
	p, ok := m.joint(joint)
	if !ok || !p.aligns() {
		return "", false
	}
	a, b := m.frames(p)
	if a.Z.Dot(b.Z) < 0 {
		return Opposed, true
	}
	return Same, true
}
