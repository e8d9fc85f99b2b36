package assembly

import (
	"math"

	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/core/solve"
)

// motion is what the coordinate of a joint tells of.
type motion int

const (
	turning motion = iota
	sliding
)

func (m motion) verb() string { return []string{"turn", "slide"}[m] }

func (m motion) dim() quantity.Dim { return []quantity.Dim{quantity.Angle, quantity.Length}[m] }

// coordinate is how far a joint is turned (radians, about the direction of its second feature, with whole turns) or
// slid (mm, along it), as a function of where the mechanism stands.
//
// A pose shows a turn in (-π, π] alone. Which of its whole turns is meant follows from where the joint was when the
// mechanism was solved last: it is the nearest to that.
type coordinate struct {
	m      *Mechanism
	joint  *placedJoint
	motion motion
}

// of works a coordinate out from the two features in space. It adds f times its slopes by them to da and db.
func (c *coordinate) of(f float64, a, b, da, db *solid.Frame) float64 {
	if c.motion == turning {
		now, last := turned(f, a, b, da, db), c.m.turns[c.joint.ID]
		return last + wrap(now-last)
	}
	var sa, sb solid.Frame
	v := between(a, b, b.Z, &sa, &sb, &sb.Z)
	da.O, db.O, db.Z = da.O.Add(sa.O.Scale(f)), db.O.Add(sb.O.Scale(f)), db.Z.Add(sb.Z.Scale(f))
	return v
}

// now is its value in a state.
func (c *coordinate) now(state []float64) float64 {
	var da, db solid.Frame
	a, b := c.m.at(state, c.joint)
	return c.of(0, &a, &b, &da, &db)
}

// bodies are those of its two features.
func (c *coordinate) bodies() [2]int {
	return [2]int{c.m.bodyOf[c.joint.A.Component], c.m.bodyOf[c.joint.B.Component]}
}

// term is a coordinate times a factor.
type term struct {
	coordinate
	factor float64
}

// sum is the group with one residual: the sum of the terms, less what it should be.
func (m *Mechanism) sum(terms []term, should func() float64) solve.Group {
	place := map[int]int{} // of a body's unknowns in the row
	var vars []int
	for i := range terms {
		for _, b := range terms[i].bodies() {
			if _, have := place[b]; have || b < 0 {
				continue
			}
			place[b] = len(vars)
			for k := range rigid.Unknowns {
				vars = append(vars, rigid.Unknowns*b+k)
			}
		}
	}
	eval := func(state, r, jac []float64) {
		r[0] = -should()
		clear(jac)
		for i := range terms {
			t := &terms[i]
			a, b := m.at(state, t.joint)
			var da, db solid.Frame
			r[0] += t.factor * t.of(t.factor, &a, &b, &da, &db)
			if jac == nil {
				continue
			}
			for side, by := range []*solid.Frame{&da, &db} {
				component, feature := t.joint.A.Component, t.joint.a
				if side == 1 {
					component, feature = t.joint.B.Component, t.joint.b
				}
				if body, local := m.frame(component, feature); body >= 0 {
					pose := m.pose(state, body).Transform()
					slope(jac[place[body]:place[body]+rigid.Unknowns], &pose, &local, by, m.moves.Reach)
				}
			}
		}
	}
	return solve.Group{Vars: vars, Rows: 1, Eval: eval}
}

// at are the two features of a joint in space, in a state.
func (m *Mechanism) at(state []float64, p *placedJoint) (a, b solid.Frame) {
	ba, fa := m.frame(p.A.Component, p.a)
	bb, fb := m.frame(p.B.Component, p.b)
	return m.pose(state, ba).Place(fa), m.pose(state, bb).Place(fb)
}

// length makes a turn a length, as residuals are; a slide is one.
func (c *coordinate) length() float64 {
	if c.motion == turning {
		return c.joint.reach
	}
	return 1
}

// follow keeps the whole turns of joints: it is called where the mechanism has been solved.
func (m *Mechanism) follow() {
	for _, p := range m.joints {
		if p == nil || len(p.kind.motions) == 0 || p.kind.motions[0] != turning {
			continue
		}
		c := coordinate{m, p, turning}
		m.turns[p.ID] = c.now(m.system.State)
	}
}

// begin takes the whole turns of joints from the document.
func (m *Mechanism) begin() {
	m.turns = map[string]float64{}
	m.follow()
	for _, p := range m.joints {
		if p != nil {
			m.turns[p.ID] += 2 * math.Pi * float64(p.State)
		}
	}
}

// wholeTurns is how many a joint has made beyond what its pose shows.
func (m *Mechanism) wholeTurns(p *placedJoint) int {
	return int(math.Round((m.turns[p.ID] - wrap(m.turns[p.ID])) / (2 * math.Pi)))
}

// Coordinate is how far a joint is turned (radians, about the direction of its second feature, with whole turns) and
// slid (mm, along it) where the mechanism stands.
func (m *Mechanism) Coordinate(joint string) (turn, slide float64, ok bool) {
	p, ok := m.joint(joint)
	if !ok {
		return 0, 0, false
	}
	a, b := coordinate{m, p, turning}, coordinate{m, p, sliding}
	return a.now(m.system.State), b.now(m.system.State), true
}

func (m *Mechanism) joint(id string) (*placedJoint, bool) {
	for _, p := range m.joints {
		if p != nil && p.ID == id {
			return p, true
		}
	}
	return nil, false
}
