package assembly

import (
	"fmt"
	"maps"
	"math"

	"hammerset/core/solve"
)

// Drive moves one joint and the mechanism with it, step by step, in the branch in which it stands.
type Drive struct {
	// Turns tells that the joint turns (its values are radians), else it slides (mm).
	Turns bool

	m     *Mechanism
	joint *placedJoint
	value float64 // where it stands, whole turns among it
	goal  float64
	// lately is how far the body that went furthest in the last step went, for each millimetre of the drive.
	lately float64
	part   solve.Component
	block  *solve.Block
}

// Drive takes hold of a joint. Of one that turns and slides the turn is driven.
func (m *Mechanism) Drive(joint string) (*Drive, error) {
	p, ok := m.joint(joint)
	if !ok {
		return nil, fmt.Errorf("there is no joint %q that could be driven", joint)
	}
	if len(p.kind.motions) == 0 {
		return nil, fmt.Errorf("the joint %s is of the kind %s, which has no one coordinate: drive a revolute, cylindrical, "+
			"prismatic or helical joint", m.Document.TitleOf(p.Joint), p.kind.Name)
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
	c := d.coordinate()
	return d.m.sum([]term{{c, c.length()}}, func() float64 { return d.goal * c.length() })
}

func (d *Drive) coordinate() coordinate {
	if d.Turns {
		return coordinate{d.m, d.joint, turning}
	}
	return coordinate{d.m, d.joint, sliding}
}

// Steps of a drive: the largest, as a share of a turn or of the size of the mechanism, and how often one is halved
// before the mechanism counts as stopped.
const (
	largestTurn  = math.Pi / 36
	largestSlide = 0.05
	halvings     = 20
	// largestOther is the largest turn of a joint that is driven through a coupling: of more than half a turn, the whole
	// turns are lost.
	largestOther = math.Pi / 3
	first        = 64 // the part of the largest step that comes first where there are couplings
)

// To drives the joint to a value and calls each at every solved state on the way, the last among them. It ends
// early where the mechanism cannot follow or a joint comes to its limit: the value that was reached is Value, and
// stopped tells of it.
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
	asked := value
	value = d.allowed(value)
	step, least := largest, largest/(1<<halvings)
	if len(d.m.Document.Couplings) > 0 {
		step /= first
	}
	for d.value != value {
		step = math.Min(step, largest)
		next := value
		if math.Abs(value-d.value) > step*(1+1e-9) {
			next = d.value + math.Copysign(step, value-d.value)
		}
		before := maps.Clone(d.m.turns)
		if d.step(next) {
			step = math.Min(2*step, largestOther/d.rate(before, next))
			d.value = next
			if each != nil {
				each(next)
			}
			continue
		}
		if step = math.Min(step, math.Abs(value-d.value)) / 2; step < least {
			return true
		}
	}
	return value != asked
}

// Limits are those of the joint, in radians or mm; a side that is open is infinite.
func (d *Drive) Limits() (least, most float64) {
	least, most = math.Inf(-1), math.Inf(1)
	c := d.coordinate()
	for _, b := range d.m.bounds {
		switch {
		case b.joint != c.joint || b.motion != c.motion:
		case b.way < 0:
			least = b.at
		default:
			most = b.at
		}
	}
	return least, most
}

// allowed is the value nearest to the one asked for that the limits of the joint itself allow.
func (d *Drive) allowed(value float64) float64 {
	least, most := d.Limits()
	return math.Max(least, math.Min(most, value))
}

// step solves for the next value. A state in which something has jumped further than a step can lead counts as
// none: it is of another branch.
func (d *Drive) step(next float64) bool {
	s := d.m.system
	before := append([]float64(nil), s.State...)
	d.goal = next
	if !s.Small(s.SolveBlock(d.block, iterations)) || d.jumped(before, next) || len(d.m.overstepped()) > 0 {
		copy(s.State, before)
		return false
	}
	d.m.follow()
	return true
}

// rate is how much the joint that turned furthest in the step to a value turned for each unit of the drive.
func (d *Drive) rate(before map[string]float64, next float64) float64 {
	most := 1e-9
	for id, turn := range d.m.turns {
		most = math.Max(most, math.Abs((turn-before[id])/(next-d.value)))
	}
	return most
}

// jumped tells whether a body went further than it can in the step: ten times as far as the drive or three times as
// far as in the step before, and more than a fifth of the size of the mechanism or of a turn.
func (d *Drive) jumped(before []float64, next float64) bool {
	s := d.m.system
	change := make([]float64, len(d.part.Vars))
	d.m.moves.Difference(change, before, s.State, d.part.Vars)
	far := math.Abs(next - d.value)
	if d.Turns {
		far *= d.m.moves.Reach
	}
	went := solve.Largest(change)
	if went > math.Max(math.Max(10, 3*d.lately)*far, 1e-6*s.Scale) && went > 0.1*s.Scale {
		return true
	}
	d.lately = went / far
	return false
}
