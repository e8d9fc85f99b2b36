package assembly

import (
	"slices"
	"strings"

	"hammerset/core/rigid"
)

// Kind is a kind of joint, declared once: which pairs of features it takes, which sizes it has, and which
// conditions it is made of: each takes one freedom. The kinematic pairs are those of ISO 3952-1; the others are
// single conditions.
type Kind struct {
	Name   string
	Words  string // what it leaves or asks for
	Takes  [][2]role
	Sizes  []string // of offset, angle, lead, distance
	Merges bool     // holds everything: its components are one body

	conditions func(j *placedJoint) []condition
	// parallel tells whether the directions of the two features are held parallel: then they have two ways round.
	parallel func(roles [2]role) bool
	motions  []motion // of a, along and about the frame of b: what a drive can move
}

// role is what a joint needs of a feature.
type role int

// Roles of features. An axis has a place along it; a flat face is a place and a normal.
const (
	point role = iota
	axis
	flat
	straight // a line
	ring     // a circle
	rod      // a cylinder
	ball
	bent // a curve
)

// is tells whether a feature can have a role.
func (r role) is(f *Feature) bool {
	switch r {
	case point:
		return f.Form == Sphere || f.Form == Corner || f.Form == Circle || f.Form == Torus
	case axis:
		return slices.Contains([]Form{Cylinder, Cone, Torus, Circle, Line}, f.Form)
	case flat:
		return f.Form == Plane
	case straight:
		return f.Form == Line
	case ring:
		return f.Form == Circle
	case rod:
		return f.Form == Cylinder
	case bent:
		return f.Form == Bent
	}
	return f.Form == Sphere
}

// words says what features have a role.
func (r role) words() string {
	return []string{"a ball, a corner or a round edge", "a round face, a round edge or a straight edge", "a flat face",
		"a straight edge", "a round edge", "a cylinder", "a ball", "a bent edge"}[r]
}

// kinds lists all kinds of joints, the likely ones first.
func kinds() []Kind {
	axes := [][2]role{{axis, axis}}
	always := func([2]role) bool { return true }
	alike := func(r [2]role) bool { return r[0] == r[1] && r[0] != point } // flat with flat, axis with axis
	return []Kind{
		{Name: "revolute", Words: "turns about one axis", Takes: axes, Sizes: []string{"offset"},
			parallel: always, conditions: conditions(parallelAxes, onAxis, alongAxis), motions: []motion{turning}},
		{Name: "cylindrical", Words: "turns about one axis and slides along it", Takes: axes,
			parallel: always, conditions: conditions(parallelAxes, onAxis), motions: []motion{turning, sliding}},
		{Name: "prismatic", Words: "slides along one direction", Takes: axes, Sizes: []string{"angle"},

			parallel: always, conditions: conditions(parallelAxes, onAxis, heldTurn), motions: []motion{sliding}},
		{Name: "rigid", Words: "holds everything", Takes: [][2]role{{axis, axis}, {flat, flat}},
			Sizes: []string{"offset", "angle"}, Merges: true,
			parallel: always, conditions: conditions(parallelAxes, onAxis, alongAxis, heldTurn)},
		{Name: "planar", Words: "slides and turns on a plane", Takes: [][2]role{{flat, flat}}, Sizes: []string{"offset"},
			parallel: always, conditions: conditions(parallelAxes, alongAxis)},
		{Name: "spherical", Words: "turns about one point", Takes: [][2]role{{point, point}},
			conditions: conditions(meeting)},
		{Name: "helical", Words: "slides as it turns", Takes: axes, Sizes: []string{"offset", "lead"},
			parallel: always, conditions: conditions(parallelAxes, onAxis, screwed), motions: []motion{turning, sliding}},
		{Name: "universal", Words: "turns about two axes that cross", Takes: axes,
			conditions: conditions(meeting, squareAxes)},
		{Name: "pin in slot", Words: "a pin between two flat walls", Takes: [][2]role{{axis, flat}},
			Sizes: []string{"offset"}, conditions: conditions(squareAxes, alongAxis)},
		{Name: "point on curve", Words: "a point runs along an edge or an axis",
			Takes: [][2]role{{point, straight}, {point, ring}, {point, axis}, {point, bent}}, conditions: onCurve},
		{Name: "flush", Words: "two flat faces in one plane", Takes: [][2]role{{flat, flat}},
			parallel: always, conditions: conditions(parallelAxes, alongAxis)},
		{Name: "distance", Words: "so far from one another", Takes: [][2]role{{flat, flat}, {point, flat}, {axis, flat},
			{point, point}, {point, axis}, {axis, axis}}, Sizes: []string{"distance"}, parallel: alike,
			conditions: distant},
		{Name: "angle", Words: "directions at an angle", Takes: [][2]role{{axis, axis}, {flat, flat}, {axis, flat}},
			Sizes: []string{"angle"}, conditions: angled},
		{Name: "parallel", Words: "directions that are parallel", Takes: [][2]role{{axis, axis}, {flat, flat}, {axis,
			flat}}, parallel: alike, conditions: alongside},
		{Name: "tangent", Words: "two surfaces that touch", Takes: [][2]role{{rod, flat}, {ball, flat}, {rod, rod},
			{ball, rod}, {ball, ball}}, conditions: touching},
	}
}

// KindOf finds a kind of joint by its name.
func KindOf(name string) (*Kind, bool) {
	for _, k := range kinds() {
		if k.Name == name {
			return &k, true
		}
	}
	return nil, false
}

// KindNames lists the names of all kinds.
func KindNames() []string {
	var out []string
	for _, k := range kinds() {
		out = append(out, k.Name)
	}
	return out
}

// Pair tells whether the kind is a pair of surfaces that touch, and not a single condition.
func (k *Kind) Pair() bool {
	return len(k.motions) > 0 || k.Merges || k.Name == "planar" || k.Name == "spherical"
}

// Bounded lists the motions of the kind that can have limits.
func (k *Kind) Bounded() []string {
	out := []string{}
	for _, m := range k.motions {
		out = append(out, m.verb())
	}
	return out
}

// Turns tells whether a drive turns a joint of the kind, and does not slide it.
func (k *Kind) Turns() bool { return len(k.motions) > 0 && k.motions[0] == turning }

func (k *Kind) has(size string) bool { return slices.Contains(k.Sizes, size) }

// takes tells whether a joint of this kind can hold a to b, and the roles that it gives them.
func (k *Kind) takes(a, b *Feature) ([2]role, bool) {
	for _, pair := range k.Takes {
		if pair[0].is(a) && pair[1].is(b) {
			return pair, true
		}
	}
	return [2]role{}, false
}

// Offer is a kind of joint that two features can have, with the freedoms that it leaves between them.
type Offer struct {
	Kind  string   `json:"kind"`
	Words string   `json:"words"`
	Frees int      `json:"frees"`
	Sizes []string `json:"sizes"` // that a joint of this kind has
	// Turned: the pick that was made second comes first in the joint.
	Turned bool `json:"turned,omitempty"`
}

// Offers lists the joints that two features can have, the likely one first: of round edges, which give axis and
// seat in one go, the revolute; of a bore and a shaft the cylindrical.
func Offers(a, b *Feature) []Offer {
	var out []Offer
	for _, k := range kinds() {
		if _, ok := k.takes(a, b); ok {
			out = append(out, k.offer(a, b, false))
		} else if _, ok := k.takes(b, a); ok {
			out = append(out, k.offer(b, a, true))
		}
	}
	likely := "cylindrical"
	switch {
	case a.Form == Circle && b.Form == Circle:
		likely = "revolute"
	case a.Form == Line && b.Form == Line:
		likely = "prismatic"
	}
	slices.SortStableFunc(out, func(x, y Offer) int {
		rank := func(o Offer) int {
			if o.Kind == likely {
				return 0
			}
			return 1
		}
		return rank(x) - rank(y)
	})
	return out
}

// offer is the offer of this kind for two features in the order of the joint.
func (k *Kind) offer(a, b *Feature, turned bool) Offer {
	j := &placedJoint{kind: k, a: a, b: b}
	j.roles, _ = k.takes(a, b)
	return Offer{Kind: k.Name, Words: k.Words, Frees: rigid.Unknowns - len(k.conditions(j)),
		Sizes: append([]string{}, k.Sizes...), Turned: turned}
}

// wanted says which pairs of features a kind takes.
func (k *Kind) wanted() string {
	var list []string
	for _, p := range k.Takes {
		list = append(list, p[0].words()+" with "+p[1].words())
	}
	return strings.Join(list, "; or ")
}
