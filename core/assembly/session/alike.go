package session

import (
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/assembly"
)

// Alike says at how many further places a joint can be made in the same way: at equal features of one of its two
// components. Fresh is how many copies of the other component have to be made for them.
type Alike struct {
	Places int `json:"places"`
	Fresh  int `json:"fresh"`
}

// Alike finds the further places of a joint.
func (s *Session) Alike(j assembly.Joint) Alike {
	x := s.further(s.doc, &j)
	return Alike{len(x.places), max(0, len(x.places)-len(x.free))}
}

// further are the places at which a joint can be made again. One of its sides stays in the same component (stays), with
// another feature each time; on the other side another component of the same part takes part each time.
type further struct {
	places []*assembly.Feature
	free   []string // components of the part of the other side that nothing is joined to yet
	b      bool     // the places are on side b
}

func (s *Session) further(doc *assembly.Document, j *assembly.Joint) further {
	var out further
	for _, b := range []bool{true, false} {
		one, other := j.A, j.B
		if b {
			one, other = j.B, j.A
		}
		if places := s.equal(doc, j, one, other); len(places) > len(out.places) {
			out = further{places, unjoined(doc, other.Component), b}
		}
	}
	return out
}

// equal lists the features of a component that are equal to one of them, lie level with it, and hold no component of
// the part of the other one yet.
func (s *Session) equal(doc *assembly.Document, j *assembly.Joint, of, other address.Ref) []*assembly.Feature {
	f := s.feature(of)
	if f == nil || f.Form != assembly.Cylinder && f.Form != assembly.Circle && f.Form != assembly.Cone {
		return nil // of flat faces and edges each is its own
	}
	c, _ := doc.Component(of.Component)
	moving, _ := doc.Component(other.Component)
	var taken []*assembly.Feature
	for _, o := range append(slices.Clone(doc.Joints), *j) {
		for _, r := range [][2]address.Ref{{o.A, o.B}, {o.B, o.A}} {
			if on, ok := doc.Component(r[1].Component); r[0].Component == of.Component && ok && on.Part == moving.Part {
				if x := s.feature(r[0]); x != nil {
					taken = append(taken, x)
				}
			}
		}
	}
	var out []*assembly.Feature
	list := s.shapes[c.Part].Features
	for i := range list {
		x := &list[i]
		if same(f, x) && !slices.ContainsFunc(taken, func(t *assembly.Feature) bool { return aligned(t, x) }) {
			out = append(out, x)
			taken = append(taken, x)
		}
	}
	return out
}

// little is what counts as nothing between features of one part, in mm and radians.
const little = 1e-6

// same tells whether two features of a part are of one form and size, in one direction and level with one another.
func same(f, x *assembly.Feature) bool {
	return f.Form == x.Form && f.Hollow == x.Hollow && math.Abs(f.Radius-x.Radius) < little &&
		math.Abs(f.HalfAngle-x.HalfAngle) < little && math.Abs(f.Length-x.Length) < little && f.Thread == x.Thread &&
		f.Axis.Unit().Sub(x.Axis.Unit()).Norm() < little && math.Abs(x.At.Sub(f.At).Dot(f.Axis.Unit())) < little
}

// aligned tells whether two features have one axis.
func aligned(f, x *assembly.Feature) bool {
	if f.Axis.Norm() == 0 || x.Axis.Norm() == 0 {
		return false
	}
	a := f.Axis.Unit()
	across := x.At.Sub(f.At)
	return a.Cross(x.Axis.Unit()).Norm() < little && across.Sub(a.Scale(across.Dot(a))).Norm() < little
}

// unjoined lists the components of the same part as one of them that no joint has and that are not pinned.
func unjoined(doc *assembly.Document, as string) []string {
	one, _ := doc.Component(as)
	var out []string
	for _, c := range doc.Components {
		if c.ID != as && c.Part == one.Part && !c.Pinned && !slices.ContainsFunc(doc.Joints, func(j assembly.Joint) bool {
			return j.A.Component == c.ID || j.B.Component == c.ID
		}) {
			out = append(out, c.ID)
		}
	}
	return out
}

// joinAlike makes a joint, which the document has already, at all its further places. Components that are loose take
// part first, and then copies; each begins beside its place as the first one stands beside its own.
func (s *Session) joinAlike(doc *assembly.Document, j assembly.Joint) {
	x := s.further(doc, &j)
	at, moving := j.A, j.B
	if x.b {
		at, moving = j.B, j.A
	}
	from := s.feature(at)
	base, _ := doc.Component(at.Component)
	pose := base.Pose
	for i, f := range x.places {
		id := ""
		if i < len(x.free) {
			id = x.free[i]
		} else {
			first, _ := doc.Component(moving.Component)
			another := *first
			another.ID, another.Name, another.Pinned = fresh(doc), numbered(doc, first.Title()), false
			doc.Components = append(doc.Components, another)
			id = another.ID
		}
		first, _ := doc.Component(moving.Component)
		c, _ := doc.Component(id)
		c.Pose = first.Pose
		c.Pose.Shift = c.Pose.Shift.Add(pose.Rotate(f.At.Sub(from.At)))
		again := j
		again.ID, again.Name, again.State = freshJoint(doc), "", 0
		here, there := address.Ref{Component: at.Component, Name: f.Name}, address.Ref{Component: id, Name: moving.Name}
		if again.A, again.B = here, there; x.b {
			again.A, again.B = there, here
		}
		doc.Joints = append(doc.Joints, again)
	}
}
