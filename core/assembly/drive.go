package assembly

import (
	"fmt"
	"math"

	"hammerset/core/solid"
	"hammerset/core/solve"
)

// Coordinate is how far a joint is turned (radians, about the direction of its second feature) and slid (mm, along
// it) where the mechanism stands. A turn is told in (-π, π].
func (m *Mechanism) Coordinate(joint string) (turn, slide float64, ok bool) {
	p, ok := m.joint(joint)
	if !ok {
		return 0, 0, false
	}
	a, b := m.frames(p)
	var da, db solid.Frame
	return turned(1, &a, &b, &da, &db), a.O.Sub(b.O).Dot(b.Z), true
}

func (m *Mechanism) joint(id string) (*placedJoint, bool) {
	for _, p := range m.joints {
		if p != nil && p.ID == id {
			return p, true
		}
	}
	return nil, false
}

// Drive moves one joint and the mechanism with it, step by step, in the branch in which it stands.
type Drive struct {
	// Turns tells that the joint turns (its values are radians), else it slides (mm).
	Turns bool

	m     *Mechanism
	joint *placedJoint
	value float64 // where it stands, whole turns among it
	goal  float64
	part  solve.Component
	block *solve.Block
}

// Drive takes hold of a joint. Of one that turns and slides the turn is driven.
func (m *Mechanism) Drive(joint string) (*Drive, error) {
	p, ok := m.joint(joint)
	if !ok {
		return nil, fmt.Errorf("there is no joint %q that could be driven", joint)
	}
	if len(p.kind.motions) == 0 {
		return nil, fmt.Errorf("the joint %s is of the kind %s, which has no one coordinate: drive a revolute, cylindrical, "+
			"prismatic or helical joint", p.Title(), p.kind.Name)
	}
	d := &Drive{m: m, joint: p, Turns: p.kind.motions[0] == turning}
	turn, slide, _ := m.Coordinate(joint)
	if d.value = slide; d.Turns {
		d.value = turn
	}
	return d, nil
}

// Joint is the joint that is driven.
func (d *Drive) Joint() string { return d.joint.ID }

// Value is where the joint stands, in radians with whole turns, or in mm.
func (d *Drive) Value() float64 { return d.value }

// group asks that the joint be at the goal.
func (d *Drive) group() solve.Group {
	g := d.m.group(&placedJoint{Joint: d.joint.Joint, a: d.joint.a, b: d.joint.b, reach: d.joint.reach,
		kind: &Kind{conditions: func(*placedJoint) []condition {
			return []condition{func(a, b, da, db *solid.Frame) float64 {
				if d.Turns {
					return d.joint.reach * wrap(turned(d.joint.reach, a, b, da, db)-d.goal)
				}
				return between(a, b, b.Z, da, db, &db.Z) - d.goal
			}}
		}}})
	return g
}

// Steps of a drive: the largest, as a share of a turn or of the size of the mechanism, and how often one is halved
// before the mechanism counts as stopped.
const (
	largestTurn  = math.Pi / 36
	largestSlide = 0.05
	halvings     = 20
)

// To drives the joint to a value and calls each at every solved state on the way, the last among them. It ends
// early where the mechanism cannot follow: the value that was reached is Value, and stopped tells of it.
func (d *Drive) To(value float64, each func(value float64)) (stopped bool) {
	s := d.m.system
	n := len(s.Groups)
	s.Groups = append(s.Groups, d.group())
	defer func() { s.Groups = s.Groups[:n] }()
	for _, c := range s.Components(s.All()) {
		for _, g := range c.Groups {
			if g == n {
				d.part = c
			}
		}
	}
	d.block = s.NewBlock(s.Rows(d.part.Groups), d.part.Vars)
	largest := largestTurn
	if !d.Turns {
		largest = largestSlide * s.Scale
	}
	step, least := largest, largest/(1<<halvings)
	for d.value != value {
		step = math.Min(step, largest)
		next := value
		if math.Abs(value-d.value) > step*(1+1e-9) {
			next = d.value + math.Copysign(step, value-d.value)
		}
		if d.step(next) {
			d.value = next
			if each != nil {
				each(next)
			}
			step *= 2
			continue
		}
		if step = math.Min(step, math.Abs(value-d.value)) / 2; step < least {
			return true
		}
	}
	return false
}

// step solves for the next value. A state in which something has jumped further than a step can lead counts as
// none: it is of another branch.
func (d *Drive) step(next float64) bool {
	s := d.m.system
	before := append([]float64(nil), s.State...)
	d.goal = next
	if !s.Small(s.SolveBlock(d.block, iterations)) || d.jumped(before, next) {
		copy(s.State, before)
		return false
	}
	return true
}

// jumped tells whether a body went further than it can in the step: ten times as far as the drive, and more than a
// fifth of the size of the mechanism or of a turn.
func (d *Drive) jumped(before []float64, next float64) bool {
	s := d.m.system
	change := make([]float64, len(d.part.Vars))
	d.m.moves.Difference(change, before, s.State, d.part.Vars)
	far := math.Abs(next - d.value)
	if d.Turns {
		far *= d.m.moves.Reach
	}
	return solve.Largest(change) > math.Max(10*far, 1e-6*s.Scale) && solve.Largest(change) > 0.1*s.Scale
}
