// Package contact finds where components touch, from the plain geometry of their faces at one pose, and what freedoms
// that leaves them. So an assembly is understood that brings no joints, and it is known which way a component comes
// out.
package contact

import (
	"math"

	"hammerset/core/assembly"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Body is a component where it stands.
type Body struct {
	ID, Title string
	Pose      rigid.Pose
	Shape     *assembly.Shape
	Pinned    bool
}

// Kinds of contacts.
const (
	FaceOnFace   = "face on face"
	ShaftInBore  = "shaft in bore"
	ConeInCone   = "cone in cone"
	BallInSocket = "ball in socket"
	BallOnFace   = "ball on face"
	ShaftOnFace  = "shaft on face"
)

// Contact is where a face of one component lies on a face of another. Clearance is the difference of their diameters in
// mm, of round faces about one axis; less than nothing where the shaft is the larger.
type Contact struct {
	Kind      string  `json:"kind"`
	A         string  `json:"a"` // components
	B         string  `json:"b"`
	FaceA     string  `json:"faceA"`
	FaceB     string  `json:"faceB"`
	Clearance float64 `json:"clearance,omitempty"`
	// Touches hold what the contact does to a small motion: no place of A goes against its normal.
	Touches []Touch `json:"-"`
}

// Touch is a place where A lies on B; the normal points out of B.
type Touch struct{ At, Normal solid.Vec }

// Bounds of what counts as touching.
const (
	apart    = 0.01 // mm between faces that are one on another
	oneAngle = 1e-5 // radians between directions that are one
	loose    = 0.15 // of the radius, by which a bore may be wider than what it guides, or narrower (a thread)
)

// Set is an assembly with its contacts.
type Set struct {
	Contacts []Contact

	bodies []*body
}

// Find finds the contacts between all pairs of components.
func Find(list []Body) *Set {
	s := &Set{}
	for i := range list {
		s.bodies = append(s.bodies, place(&list[i]))
	}
	for i, a := range s.bodies {
		for _, b := range s.bodies[i+1:] {
			if a.box.near(&b.box, apart) {
				s.Contacts = append(s.Contacts, between(a, b)...)
			}
		}
	}
	return s
}

// Beside lists the pairs of components whose boxes meet, by their places in the list.
func Beside(list []Body) [][2]int {
	bodies := make([]*body, len(list))
	for i := range list {
		bodies[i] = place(&list[i])
	}
	var out [][2]int
	for i, a := range bodies {
		for j := i + 1; j < len(bodies); j++ {
			if a.box.near(&bodies[j].box, apart) {
				out = append(out, [2]int{i, j})
			}
		}
	}
	return out
}

// between finds the contacts of two components.
func between(a, b *body) []Contact {
	var out []Contact
	for i := range a.faces {
		for k := range b.faces {
			x, y := &a.faces[i], &b.faces[k]
			if !x.box.near(&y.box, apart) {
				continue
			}
			kind, clearance, touches := meet(x, y)
			if len(touches) > 0 {
				out = append(out, Contact{Kind: kind, A: a.ID, B: b.ID, FaceA: x.Name, FaceB: y.Name, Clearance: clearance,
					Touches: touches})
			}
		}
	}
	return out
}

// meet tells how two faces touch. What is known of one way round is turned over for the other.
func meet(x, y *face) (kind string, clearance float64, touches []Touch) {
	switch {
	case x.Form == assembly.Plane && y.Form == assembly.Plane:
		return FaceOnFace, 0, flats(x, y)
	case x.Form == y.Form && x.Hollow != y.Hollow:
		if x.Hollow {
			kind, clearance, touches = within(y, x)
			return kind, clearance, turned(touches)
		}
		return within(x, y)
	case x.Form == assembly.Plane && !y.Hollow:
		kind, _, touches = meetFlat(y, x)
		return kind, 0, turned(touches)
	case y.Form == assembly.Plane && !x.Hollow:
		return meetFlat(x, y)
	}
	return "", 0, nil
}

// within tells how a face lies in a hollow one of the same form.
func within(x, hollow *face) (kind string, clearance float64, touches []Touch) {
	switch x.Form {
	case assembly.Cylinder:
		touches, clearance = shaft(x, hollow)
		return ShaftInBore, clearance, touches
	case assembly.Cone:
		return ConeInCone, 0, cone(x, hollow)
	case assembly.Sphere:
		touches, clearance = ball(x, hollow)
		return BallInSocket, clearance, touches
	}
	return "", 0, nil
}

// meetFlat tells how a ball or a shaft lies on a flat face.
func meetFlat(x, flat *face) (string, float64, []Touch) {
	switch x.Form {
	case assembly.Sphere:
		return BallOnFace, 0, resting(x, flat, []solid.Vec{x.at})
	case assembly.Cylinder:
		if math.Abs(x.axis.Dot(flat.axis)) > oneAngle {
			return "", 0, nil
		}
		half := x.axis.Scale(x.Length / 2)
		return ShaftOnFace, 0, resting(x, flat, []solid.Vec{x.at.Add(half), x.at.Sub(half)})
	}
	return "", 0, nil
}

func turned(list []Touch) []Touch {
	for i := range list {
		list[i].Normal = list[i].Normal.Scale(-1)
	}
	return list
}

// flats are the places at which two flat faces lie on one another: the corners of what they share.
func flats(x, y *face) []Touch {
	if x.axis.Dot(y.axis) > -1+oneAngle*oneAngle || math.Abs(x.at.Sub(y.at).Dot(y.axis)) > apart {
		return nil
	}
	var out []Touch
	for _, p := range shared(x, y) {
		out = append(out, Touch{p, y.axis})
	}
	return out
}

// resting are those of some places over a flat face that lie on it, where the face has material under them: a ball's
// or a shaft's own radius above.
func resting(x, flat *face, from []solid.Vec) []Touch {
	var out []Touch
	for _, p := range from {
		if math.Abs(p.Sub(flat.at).Dot(flat.axis)-x.Radius) > apart {
			continue
		}
		foot := p.Sub(flat.axis.Scale(x.Radius))
		if flat.has(foot) && x.has(foot) {
			out = append(out, Touch{foot, flat.axis})
		}
	}
	return out
}

// shaft are the places at which a bore holds a shaft: around at both ends of what is engaged, where both have material.
// The clearance does not count: the shaft is guided.
func shaft(x, bore *face) (touches []Touch, clearance float64) {
	if !x.axis.Parallel(bore.axis, oneAngle) || solid.FromAxis(x.at, bore.at, bore.axis).Norm() > apart ||
		math.Abs(x.Radius-bore.Radius) > loose*bore.Radius+apart {
		return nil, 0
	}
	low, high := bore.reach(bore.axis, bore.at)
	l, h := x.reach(bore.axis, bore.at)
	if low, high = math.Max(low, l), math.Min(high, h); high-low < apart {
		return nil, 0
	}
	for _, out := range around(x, bore) {
		for _, along := range []float64{low, high} {
			touches = append(touches, Touch{bore.at.Add(bore.axis.Scale(along)).Add(out.Scale(bore.Radius)), out.Scale(-1)})
		}
	}
	return touches, 2 * (bore.Radius - x.Radius)
}

// cone are the places at which a hollow cone holds one of the same angle about the same axis: corners of the triangles
// of one that lie on the other.
func cone(x, hollow *face) []Touch {
	if !x.axis.Parallel(hollow.axis, oneAngle) || math.Abs(x.HalfAngle-hollow.HalfAngle) > oneAngle ||
		solid.FromAxis(x.at, hollow.at, hollow.axis).Norm() > apart {
		return nil
	}
	// The normal of the hollow cone at a place of it, its slant as that of a triangle there.
	inward := func(p solid.Vec, slant float64) Touch {
		sin, cos := math.Sincos(hollow.HalfAngle)
		out := solid.FromAxis(p, hollow.at, hollow.axis).Unit()
		return Touch{p, hollow.axis.Scale(math.Copysign(sin, slant)).Sub(out.Scale(cos))}
	}
	var out []Touch
	for _, t := range hollow.triangles {
		if x.has(t[0]) {
			out = append(out, inward(t[0], normal(t).Dot(hollow.axis)))
		}
	}
	for _, t := range x.triangles {
		if hollow.has(t[0]) {
			out = append(out, inward(t[0], -normal(t).Dot(hollow.axis)))
		}
	}
	return out
}

// ball are the places at which a socket holds a ball: in all directions in which both have material.
func ball(x, socket *face) (touches []Touch, clearance float64) {
	if x.at.Distance(socket.at) > apart || math.Abs(x.Radius-socket.Radius) > loose*socket.Radius+apart {
		return nil, 0
	}
	for _, d := range directions() {
		at := socket.at.Add(d.Scale(socket.Radius))
		if socket.has(at) && x.has(x.at.Add(d.Scale(x.Radius))) {
			touches = append(touches, Touch{at, d.Scale(-1)})
		}
	}
	return touches, 2 * (socket.Radius - x.Radius)
}
