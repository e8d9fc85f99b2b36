package contact

import (
	"cmp"
	"math"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/solid"
)

// Proposal is a joint that the contacts of two components speak for, between two of their faces. Thread is what one is
// screwed into the other with, as M8.
type Proposal struct {
	Kind   string
	A, B   address.Ref
	Thread string
}

// Propose reads joints from the contacts. Components of one body never move against one another and need none; neither
// do pairs that are joined already.
//
// A shaft in a bore gives the axis of a joint, and the contacts of the pair tell whether it turns about it and slides
// along it: both (cylindrical), only turns (revolute), only slides (prismatic), or neither (rigid). A ball in a socket
// turns about its middle; flat faces give a planar joint, and one that is flush for each further direction; balls and
// shafts that only lie on a face touch it.
func (s *Set) Propose(body func(component string) int, joined func(a, b string) bool) []Proposal {
	var order [][2]int
	pairs := map[[2]int]*pair{}
	for i := range s.Contacts {
		c := &s.Contacts[i]
		a, b := body(c.A), body(c.B)
		if a == b || joined(c.A, c.B) {
			continue
		}
		key := [2]int{a, b}
		contact := placedContact{Contact: *c, a: s.face(c.A, c.FaceA), b: s.face(c.B, c.FaceB)}
		if b < a {
			key = [2]int{b, a}
			contact = contact.turned()
		}
		if pairs[key] == nil {
			pairs[key] = &pair{}
			order = append(order, key)
		}
		pairs[key].add(contact)
	}
	var out []Proposal
	for _, key := range order {
		out = append(out, pairs[key].joints()...)
	}
	return out
}

// face is a face of a component where it stands.
func (s *Set) face(component, name string) *face {
	b := s.body(component)
	for i := range b.faces {
		if b.faces[i].Name == name {
			return &b.faces[i]
		}
	}
	return nil
}

// placedContact is a contact with its faces where they stand.
type placedContact struct {
	Contact
	a, b *face
}

// turned is the contact seen from the other component.
func (c placedContact) turned() placedContact {
	out := c
	out.A, out.B, out.FaceA, out.FaceB, out.a, out.b = c.B, c.A, c.FaceB, c.FaceA, c.b, c.a
	out.Touches = turned(append([]Touch(nil), c.Touches...))
	return out
}

// pair are all contacts of two bodies.
type pair struct {
	contacts []placedContact
	touches  []Touch
}

func (p *pair) add(c placedContact) {
	p.contacts = append(p.contacts, c)
	p.touches = append(p.touches, c.Touches...)
}

// joints are those that the pair speaks for.
func (p *pair) joints() []Proposal {
	if out, ok := p.round(); ok {
		return []Proposal{out}
	}
	for _, c := range p.contacts {
		if c.Kind == BallInSocket {
			return []Proposal{c.joint("spherical")}
		}
	}
	if out := p.flat(); len(out) > 0 {
		return out
	}
	for _, c := range p.contacts {
		if c.Kind == ShaftOnFace || c.Kind == BallOnFace {
			return []Proposal{c.joint("tangent")}
		}
	}
	return nil
}

// kinds of joints about an axis, by whether it turns and whether it slides.
func aboutAxis(turns, slides bool) string {
	switch {
	case turns && slides:
		return "cylindrical"
	case turns:
		return "revolute"
	case slides:
		return "prismatic"
	}
	return "rigid"
}

// round is the joint about an axis that a shaft and its bore share, or two cones: of several axes that which lets the
// pair move most, and of those the one with the largest radius.
func (p *pair) round() (Proposal, bool) {
	var best *placedContact
	var kind string
	most := -1.0
	for i := range p.contacts {
		c := &p.contacts[i]
		if c.Kind != ShaftInBore && c.Kind != ConeInCone {
			continue
		}
		turns := p.stays(func(t Touch) solid.Vec { return c.b.axis.Cross(t.At.Sub(c.b.at)) })
		slides := p.stays(func(Touch) solid.Vec { return c.b.axis })
		worth := c.b.Radius
		for _, free := range []bool{turns, slides} {
			if free {
				worth += 1e6
			}
		}
		if worth > most {
			best, kind, most = c, aboutAxis(turns, slides), worth
		}
	}
	if best == nil {
		return Proposal{}, false
	}
	out := best.joint(kind)
	if best.Clearance < -apart && best.a.Thread+best.b.Thread != "" {
		out.Thread = cmp.Or(best.a.Thread, best.b.Thread)
	}
	return out, true
}

// stays tells whether a motion, which moves each place of contact by a vector, keeps all contacts.
func (p *pair) stays(by func(Touch) solid.Vec) bool {
	most := 0.0
	for _, t := range p.touches {
		most = math.Max(most, by(t).Norm())
	}
	for _, t := range p.touches {
		if math.Abs(by(t).Dot(t.Normal)) > small*most {
			return false
		}
	}
	return true
}

// flat are the joints of flat faces: planar for the first direction, and flush for each that is not in the plane of
// those before it.
func (p *pair) flat() []Proposal {
	var out []Proposal
	var normals []solid.Vec
	for i := range p.contacts {
		c := &p.contacts[i]
		if c.Kind != FaceOnFace {
			continue
		}
		rest := c.b.axis
		for _, n := range normals {
			rest = rest.Sub(n.Scale(rest.Dot(n)))
		}
		if rest.Norm() < small {
			continue
		}
		kind := "planar"
		if len(normals) > 0 {
			kind = "flush"
		}
		normals = append(normals, rest.Unit())
		out = append(out, c.joint(kind))
	}
	return out
}

// joint is a joint of the two faces of a contact.
func (c *placedContact) joint(kind string) Proposal {
	out := Proposal{Kind: kind, A: address.Ref{Component: c.A, Name: c.FaceA}, B: address.Ref{Component: c.B,
		Name: c.FaceB}}
	if kind == "tangent" && c.a.Form == assembly.Plane {
		out.A, out.B = out.B, out.A
	}
	return out
}
