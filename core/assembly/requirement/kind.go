// Package requirement declares the kinds of characteristics of an assembly as a whole: what each is about and how it is
// measured. A kind is one declaration, listed in All.
package requirement

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/quantity"
)

// About is what a characteristic is about, in the words of the reference: features of two components, one or two
// joints, an item by its part, or a trace.
type About struct {
	Of    []address.Ref `json:"of,omitempty"`
	Joint string        `json:"joint,omitempty"`
	To    string        `json:"to,omitempty"` // a second joint
	Item  string        `json:"item,omitempty"`
	Trace string        `json:"trace,omitempty"`
}

// Needs are the fields of About that a kind goes by.
type Needs struct{ Features, Joint, To, Item, Trace bool }

// Standing is an assembly as it is measured: the reference, or an attempt whose components and features go by the names
// of the reference. Lengths are in mm, angles in radians, masses in g. An error says in words what cannot be measured.
type Standing interface {
	Count(part string) int
	Mobility() (int, error)
	// Between tells how two features lie to one another.
	Between(a, b address.Ref) (Relation, error)
	// Gap is the least distance between two components, or nothing where they are in one another.
	Gap(a, b string) (float64, error)
	Collisions() (int, error)
	// Range is over which a joint can be driven (radians or mm), within the range that the document gives.
	Range(joint string) (float64, error)
	// Ratio is how fast a joint goes for each unit of another one.
	Ratio(joint, to string) (float64, error)
	// Trace is how far the path of a point lies from that of the reference at most, wherever either stands.
	Trace(trace string) (float64, error)
	Mass() (grams float64, err error)
	// GapOver is the least distance between two components while a joint is driven over its range.
	GapOver(a, b, joint string) (float64, error)
	// Aligned is by how much the holes of two components that line up in the reference are out of line at most.
	Aligned(a, b string) (float64, error)
	// Centre is how far the centre of mass lies from that of the reference, with its joints where they stand there.
	Centre() (float64, error)
	// Unlisted is how many lines of the parts list have another name or material.
	Unlisted() (int, error)
}

// Relation is how two features lie to one another: the angle between their directions, which is from 0 to π and tells
// which way round they are; how far the first is from the axis of the second; and how far it is along that, from face
// to face. Radii are those of round ones.
type Relation struct {
	Angle, Beside, Along float64
	Radius               [2]float64
	Hollow               [2]bool
}

// Unsettled is what could not be worked out, so that a person must look.
type Unsettled struct{ What string }

func (u *Unsettled) Error() string { return u.What }

// Kind is one kind.
type Kind struct {
	Name  string
	Title string // as a noun
	On    string // what is picked for it, in words; empty of the whole
	Dim   quantity.Dim
	Needs Needs
	// Zero: none of it is asked for, and no number is printed.
	Zero bool
	// Counts: it is a number of things, which has no tolerance.
	Counts bool
	// Share is how much of a value it may be off where no tolerance is given; nothing where its dimension tells.
	Share float64
	// Least: it may be more than its nominal, and not less.
	Least   bool
	Measure func(s Standing, a *About) (float64, error)
	Remedy  string
}

// All lists the kinds by their titles.
func All() []*Kind {
	two := Needs{Features: true}
	list := []*Kind{
		{Name: "quantity", Title: "quantity of an item", On: "an item", Dim: quantity.Number, Needs: Needs{Item: true},
			Counts: true, Remedy: "put in as many as the parts list has",
			Measure: func(s Standing, a *About) (float64, error) { return float64(s.Count(a.Item)), nil }},
		{Name: "mobility", Title: "mobility", Dim: quantity.Number, Counts: true,
			Remedy: "look at each joint: what does it hold, and what should it leave free?",
			Measure: func(s Standing, _ *About) (float64, error) {
				n, err := s.Mobility()
				return float64(n), err
			}},
		{Name: "coaxial", Title: "coaxiality of two components", On: "a round face of each", Dim: quantity.Length, Needs: two,
			Zero: true, Remedy: "join the two along one axis", Measure: between(func(r Relation) float64 { return r.Beside })},
		{Name: "flush", Title: "flush faces", On: "a flat face of each", Dim: quantity.Length, Needs: two, Zero: true,
			Remedy:  "bring the two faces into one plane",
			Measure: between(func(r Relation) float64 { return math.Abs(r.Along) })},
		{Name: "placement", Title: "distance between two components", On: "a flat face of each", Dim: quantity.Length,
			Needs: two, Remedy: "set the distance to what is stated",
			Measure: between(func(r Relation) float64 { return math.Abs(r.Along) })},
		{Name: "centres", Title: "distance between two axes", On: "a round face of each", Dim: quantity.Length, Needs: two,
			Remedy: "set the distance to what is stated", Measure: between(func(r Relation) float64 { return r.Beside })},
		{Name: "direction", Title: "angle between two components", On: "a face of each", Dim: quantity.Angle, Needs: two,
			Remedy:  "turn one of them, and look which way round it is",
			Measure: between(func(r Relation) float64 { return r.Angle })},
		{Name: "fit", Title: "clearance of a fit", On: "a bore of one and a shaft of the other", Dim: quantity.Length,
			Needs: two, Remedy: "compare the diameters of hole and shaft", Measure: fit},
		{Name: "clearance", Title: "least clearance", On: "two components", Dim: quantity.Length, Needs: two, Least: true,
			Remedy: "move the two apart, or put the size right that brings them together",
			Measure: func(s Standing, a *About) (float64, error) {
				return s.Gap(a.Of[0].Component, a.Of[1].Component)
			}},
		{Name: "moving clearance", Title: "least clearance over a drive", On: "two components and a joint that is driven",
			Dim: quantity.Length, Needs: Needs{Features: true, Joint: true}, Least: true,
			Remedy: "drive it by hand, and see where the two come near one another",
			Measure: func(s Standing, a *About) (float64, error) {
				return s.GapOver(a.Of[0].Component, a.Of[1].Component, a.Joint)
			}},
		{Name: "aligned holes", Title: "holes that line up", On: "two components", Dim: quantity.Length, Needs: two,
			Zero: true, Remedy: "compare the places of the holes of both with their sheets",
			Measure: func(s Standing, a *About) (float64, error) {
				return s.Aligned(a.Of[0].Component, a.Of[1].Component)
			}},
		{Name: "parts list", Title: "names and materials in the parts list", Dim: quantity.Number, Counts: true, Zero: true,
			Remedy: "name the parts, and give them the materials, as the parts list does",
			Measure: func(s Standing, _ *About) (float64, error) {
				n, err := s.Unlisted()
				return float64(n), err
			}},
		{Name: "assembled centre", Title: "centre of mass of the assembly", Dim: quantity.Length, Zero: true,
			Remedy:  "compare the volumes and materials of the parts, and where they stand",
			Measure: func(s Standing, _ *About) (float64, error) { return s.Centre() }},
		{Name: "interference", Title: "no interference", Dim: quantity.Number, Counts: true, Zero: true,
			Remedy: "look along a section whether anything is in anything",
			Measure: func(s Standing, _ *About) (float64, error) {
				n, err := s.Collisions()
				return float64(n), err
			}},
		{Name: "turn", Title: "range of a turn", On: "a joint", Dim: quantity.Angle, Needs: Needs{Joint: true},
			Share: 1e-3, Remedy: "see where it stops, and what stands in its way",
			Measure: func(s Standing, a *About) (float64, error) { return s.Range(a.Joint) }},
		{Name: "travel", Title: "range of a slide", On: "a joint", Dim: quantity.Length, Needs: Needs{Joint: true},
			Share: 1e-3, Remedy: "see where it stops, and what stands in its way",
			Measure: func(s Standing, a *About) (float64, error) { return s.Range(a.Joint) }},
		{Name: "ratio", Title: "ratio of two joints", On: "two joints", Dim: quantity.Number,
			Needs: Needs{Joint: true, To: true}, Share: 1e-3, Remedy: "compare the sizes that make the ratio",
			Measure: func(s Standing, a *About) (float64, error) { return s.Ratio(a.Joint, a.To) }},
		{Name: "path", Title: "path of a point", On: "a trace", Dim: quantity.Length, Needs: Needs{Trace: true}, Zero: true,
			Remedy:  "compare the lengths that lead to the point",
			Measure: func(s Standing, a *About) (float64, error) { return s.Trace(a.Trace) }},
		{Name: "assembled mass", Title: "mass of the assembly", Dim: quantity.Number, Share: 1e-3,
			Remedy:  "compare volumes and materials of the parts",
			Measure: func(s Standing, _ *About) (float64, error) { return s.Mass() }},
	}
	slices.SortFunc(list, func(a, b *Kind) int { return strings.Compare(a.Title, b.Title) })
	return list
}

// Of finds a kind by its name; nil where there is none.
func Of(name string) *Kind {
	for _, k := range All() {
		if k.Name == name {
			return k
		}
	}
	return nil
}

// Check sees that what a kind goes by is given, and nothing else.
func (k *Kind) Check(a *About) error {
	n := Needs{Features: len(a.Of) == 2, Joint: a.Joint != "", To: a.To != "", Item: a.Item != "", Trace: a.Trace != ""}
	if n != k.Needs || len(a.Of) != 0 && len(a.Of) != 2 {
		if k.On == "" {
			return fmt.Errorf("a %s is of the whole, and names nothing", k.Title)
		}
		return fmt.Errorf("a %s is of %s: name just that", k.Title, k.On)
	}
	for _, r := range a.Of {
		if r.Component == "" {
			return fmt.Errorf("%q names no component: write it as c2#NAME", r)
		}
	}
	if len(a.Of) == 2 && a.Of[0].Component == a.Of[1].Component {
		return fmt.Errorf("a %s is of two components, and both names are of %s", k.Title, a.Of[0].Component)
	}
	return nil
}

// between measures something of how two features lie to one another.
func between(of func(Relation) float64) func(Standing, *About) (float64, error) {
	return func(s Standing, a *About) (float64, error) {
		r, err := s.Between(a.Of[0], a.Of[1])
		return of(r), err
	}
}

// fit is by how much the bore is wider than the shaft.
func fit(s Standing, a *About) (float64, error) {
	r, err := s.Between(a.Of[0], a.Of[1])
	switch {
	case err != nil:
		return 0, err
	case r.Hollow[0] == r.Hollow[1] || r.Radius[0] == 0 || r.Radius[1] == 0:
		return 0, fmt.Errorf("a fit is of a bore and a shaft")
	case r.Hollow[0]:
		return 2 * (r.Radius[0] - r.Radius[1]), nil
	}
	return 2 * (r.Radius[1] - r.Radius[0]), nil
}
