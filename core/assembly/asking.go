package assembly

import (
	"math"

	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Asking is a joint with its sizes worked out, ready to be held against features wherever they are: those of its own
// components, or what stands for them in another assembly.
type Asking struct {
	*Joint
	placed placedJoint
}

// Asking works the sizes of a joint of the mechanism out; ok is false of one that is off or cannot be made.
func (m *Mechanism) Asking(joint string) (a Asking, ok bool) {
	p, ok := m.joint(joint)
	if !ok {
		return a, false
	}
	return Asking{p.Joint, *p}, true
}

// Features are those of its own components that the joint is on.
func (a *Asking) Features() (of, on *Feature) { return a.placed.a, a.placed.b }

// Off is by how much one thing that a joint asks for is not as it should be: mm, or of directions and turns radians.
// What has a sense has a sign, along or about the direction of the second feature.
type Off struct {
	What  What
	By    float64
	Angle bool
}

// Off tells for each thing that the joint asks for by how much two features, in the poses of their components, are off.
// ok is false where they are no features that a joint of its kind takes.
func (a *Asking) Off(of, on *Feature, ofAt, onAt rigid.Pose) (list []Off, ok bool) {
	p := a.placed
	p.a, p.b = of, on
	if p.roles, ok = p.kind.takes(of, on); !ok {
		return nil, false
	}
	fa, fb := ofAt.Place(of.Frame()), onAt.Place(on.Frame())
	if p.kind.parallel != nil && p.kind.parallel(p.roles) && p.Sense != "" {
		by := 0.0
		if p.sense*fa.Z.Dot(fb.Z) < 0 {
			by = math.Pi
		}
		list = append(list, Off{Facing, by, true})
	}
	for _, c := range p.kind.conditions(&p) {
		var da, db solid.Frame
		r := c.of(&fa, &fb, &da, &db)
		if n := len(list) - 1; n >= 0 && list[n].What == c.what { // several rows of one thing
			list[n].By = math.Hypot(list[n].By, r)
			continue
		}
		list = append(list, Off{What: c.what, By: r})
	}
	for i := range list {
		p.inAngle(&list[i], &fa, &fb)
	}
	return list, true
}

// inAngle makes radians of what was worked out as a length that stands for them.
func (p *placedJoint) inAngle(o *Off, a, b *solid.Frame) {
	var da, db solid.Frame
	switch o.What {
	case Parallel:
		o.By, o.Angle = math.Asin(math.Min(1, math.Abs(o.By)/p.reach)), true
	case Held:
		o.By, o.Angle = wrap(turned(0, a, b, &da, &db)-p.angle), true
	case Angled:
		between := a.Z.Angle(b.Z)
		if p.roles[0] != p.roles[1] {
			between = math.Pi/2 - between
		}
		o.By, o.Angle = math.Abs(between)-math.Abs(p.angle), true
	}
}

// Coordinates are the values of a joint that its kind leaves free: how far two features, in the poses of their
// components, are turned (radians, in (-π, π]) and slid (mm) to one another.
func (a *Asking) Coordinates(of, on *Feature, ofAt, onAt rigid.Pose) (turn, slide float64) {
	fa, fb := ofAt.Place(of.Frame()), onAt.Place(on.Frame())
	var da, db solid.Frame
	return turned(0, &fa, &fb, &da, &db), between(&fa, &fb, fb.Z, &da, &db, &db.Z)
}

// Moves tells whether joints of its kind can be turned and slid by a drive.
func (a *Asking) Moves() (turns, slides bool) {
	for _, m := range a.placed.kind.motions {
		turns, slides = turns || m == turning, slides || m == sliding
	}
	return turns, slides
}

// Sized is a size of the joint, worked out: mm or radians.
func (a *Asking) Sized(name string) float64 {
	p := &a.placed
	return map[string]float64{"offset": p.offset, "angle": p.angle, "lead": p.lead, "distance": p.distance}[name]
}

// Velocity is how a rigid body begins to move: a place x moves by Turn × x + Shift.
type Velocity struct{ Turn, Shift solid.Vec }

// At is how a place moves.
func (v Velocity) At(x solid.Vec) solid.Vec { return v.Turn.Cross(x).Add(v.Shift) }

// Motions is a base of the motions that the mechanism can begin where it stands and go on with: of each component its
// velocity, in space. What stands still is left out.
func (m *Mechanism) Motions() []map[string]Velocity {
	var out []map[string]Velocity
	for _, c := range m.system.Components(m.system.All()) {
		all := m.system.MotionsOf(c, m.system.State)
		finite := m.system.Finite(c, all)
		if len(finite) == all.Freedom() {
			finite = all.Null()
		}
		for _, v := range finite {
			motion := map[string]Velocity{}
			for b := range m.bodies {
				six, own := make([]float64, rigid.Unknowns), false
				for k := range six {
					if i, ok := all.Place(rigid.Unknowns*b + k); ok {
						six[k], own = v[i], true
					}
				}
				if !own {
					continue
				}
				pose := m.moves.Pose(m.system.State, b)
				turn := pose.Rotate(solid.Vec{six[0], six[1], six[2]}.Scale(1 / m.moves.Reach))
				v := Velocity{turn, solid.Vec{six[3], six[4], six[5]}.Sub(turn.Cross(pose.Shift))}
				for _, id := range m.bodies[b].components {
					motion[id] = v
				}
			}
			out = append(out, motion)
		}
	}
	return out
}
