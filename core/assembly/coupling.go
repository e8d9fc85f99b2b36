package assembly

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/quantity"
)

// Coupling ties the motion of one joint to that of another: B goes Ratio times as far as A, counted from the directions
// of their second features, and stands at Offset where A stands at nothing.
//
// Of a gear pair and a belt Ratio is turns of B for one turn of A: for gears with z and Z teeth z/Z, less than nothing
// where they turn against one another. Of a rack and pinion it is how far the rack B slides in one turn of the pinion
// A.
type Coupling struct {
	ID     string `json:"id"`
	Name   string `json:"name,omitempty"`
	Kind   string `json:"kind"`
	A      string `json:"a"` // joints
	B      string `json:"b"`
	Ratio  string `json:"ratio"`
	Offset string `json:"offset,omitempty"`
}

// Trace is a point of a component whose path is drawn as the assembly moves.
type Trace struct {
	ID   string      `json:"id"`
	Name string      `json:"name,omitempty"`
	Of   address.Ref `json:"of"`
}

// Title is what it is called: by its name, or else by its point.
func (t *Trace) Title() string {
	if t.Name != "" {
		return t.Name
	}
	return "the point " + t.Of.String()
}

// couplingKind is a kind of coupling, declared once: what its second joint does, and the dimension of its ratio.
type couplingKind struct {
	name   string
	second motion
	ratio  quantity.Dim
}

func couplingKinds() []couplingKind {
	return []couplingKind{{"gear pair", turning, quantity.Number}, {"rack and pinion", sliding, quantity.Length},
		{"belt", turning, quantity.Number}}
}

// CouplingNames lists the kinds of couplings.
func CouplingNames() []string {
	var out []string
	for _, k := range couplingKinds() {
		out = append(out, k.name)
	}
	return out
}

func couplingOf(name string) (couplingKind, bool) {
	i := slices.IndexFunc(couplingKinds(), func(k couplingKind) bool { return k.name == name })
	if i < 0 {
		return couplingKind{}, false
	}
	return couplingKinds()[i], true
}

// Title is what a coupling is called.
func (c *Coupling) Title() string {
	if c.Name != "" {
		return c.Name
	}
	return c.Kind + " " + c.ID
}

// check sees that a coupling is of a kind that there is and ties joints that have such motions.
func (c *Coupling) check(at string, d *Document) error {
	kind, ok := couplingOf(c.Kind)
	if !ok {
		return &Fault{at + "/kind", fmt.Sprintf("there is no kind of coupling %q", c.Kind), "the kinds are " +
			strings.Join(CouplingNames(), ", ")}
	}
	if c.A == c.B {
		return &Fault{at, fmt.Sprintf("it couples the joint %s to itself", c.A), "couple two joints"}
	}
	for _, side := range []struct {
		name, joint string
		motion      motion
	}{{"a", c.A, turning}, {"b", c.B, kind.second}} {
		j, ok := d.Joint(side.joint)
		if !ok {
			return &Fault{at + "/" + side.name, fmt.Sprintf("there is no joint %q", side.joint), "name a joint of this assembly"}
		}
		if k, _ := KindOf(j.Kind); !slices.Contains(k.motions, side.motion) {
			return &Fault{at + "/" + side.name, fmt.Sprintf("the joint %s is of the kind %s and cannot %s", d.TitleOf(j), j.Kind,
				side.motion.verb()), "name one that can"}
		}
	}
	if strings.TrimSpace(c.Ratio) == "" {
		return &Fault{at + "/ratio", "there is no ratio", "write how far the second joint goes for one turn of the first"}
	}
	return nil
}

// tie makes the terms of a coupling, and what they come to.
//
// With x and y the coordinates of A and B, y - r x = offset. All is in lengths: a turn is multiplied by the reach.
func (m *Mechanism) tie(c *Coupling, table *quantity.Table) ([]term, float64, *Lost) {
	lost := func(what, remedy string) ([]term, float64, *Lost) { return nil, 0, &Lost{c.ID, what, remedy} }
	kind, _ := couplingOf(c.Kind)
	a, haveA := m.joint(c.A)
	b, haveB := m.joint(c.B)
	if !haveA || !haveB {
		return lost(fmt.Sprintf("the coupling %s has lost one of its joints", c.Title()), "put the joint right first")
	}
	ratio, err := table.Eval(c.Ratio, kind.ratio)
	if err != nil {
		return lost(fmt.Sprintf("the ratio of the coupling %s: %v", c.Title(), err), "put this formula right")
	}
	if ratio == 0 {
		return lost(fmt.Sprintf("the ratio of the coupling %s is nothing", c.Title()),
			"write how far the second joint goes for "+
				"one turn of the first")
	}
	offset := 0.0
	if c.Offset != "" {
		if offset, err = table.Eval(c.Offset, kind.second.dim()); err != nil {
			return lost(fmt.Sprintf("the offset of the coupling %s: %v", c.Title(), err), "put this formula right")
		}
	}
	x, y := coordinate{m, a, turning}, coordinate{m, b, kind.second}
	if kind.second == sliding {
		ratio /= 2 * math.Pi
	}
	return []term{{y, y.length()}, {x, -ratio * y.length()}}, offset * y.length(), nil
}

// Standing is the offset with which a coupling holds where the mechanism stands now: in radians, or mm where its second
// joint slides.
func (m *Mechanism) Standing(c Coupling) (offset float64, turns bool, err error) {
	table, err := m.Document.Table(nil)
	if err != nil {
		return 0, false, err
	}
	c.Offset = ""
	terms, _, lost := m.tie(&c, table)
	if lost != nil {
		return 0, false, fmt.Errorf("%s; %s", lost.What, lost.Remedy)
	}
	for i := range terms {
		offset += terms[i].factor * terms[i].now(m.system.State)
	}
	return offset / terms[0].length(), terms[0].motion == turning, nil
}

// Against tells whether the directions about which two joints turn point against one another: two gears that mesh
// outside then turn in one sense about them.
func (m *Mechanism) Against(a, b string) bool {
	p, haveA := m.joint(a)
	q, haveB := m.joint(b)
	if !haveA || !haveB {
		return false
	}
	_, fa := m.frames(p)
	_, fb := m.frames(q)
	return fa.Z.Dot(fb.Z) < 0
}
