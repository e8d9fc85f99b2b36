package assembly

import (
	"fmt"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// MaxDepth is how deep assemblies can stand in one another.
const MaxDepth = 16

// Nest is what a part is made of that is an assembly itself: its document and the shapes of its parts.
type Nest struct {
	Document *Document         `json:"document"`
	Shapes   map[string]*Shape `json:"shapes"`
}

// Shape is the nest seen as one part: its box and its figures. What can be picked are the features of its components.
func (n *Nest) Shape() *Shape {
	out := &Shape{Nest: n, Unit: n.Document.Unit}
	first := true
	for _, c := range n.Document.Components {
		s := n.Shapes[c.Part]
		if s == nil {
			continue
		}
		out.Solids += s.Solids
		out.Deflection = max(out.Deflection, s.Deflection)
		out.Props.Volume += s.Props.Volume
		out.Props.Area += s.Props.Area
		out.Props.Centroid = out.Props.Centroid.Add(c.Pose.Apply(s.Props.Centroid).Scale(s.Props.Volume))
		for _, p := range s.Box.Corners() {
			p = c.Pose.Apply(p)
			if first {
				out.Box, first = solid.Box{Min: p, Max: p}, false
			}
			for k := range 3 {
				out.Box.Min[k], out.Box.Max[k] = min(out.Box.Min[k], p[k]), max(out.Box.Max[k], p[k])
			}
		}
	}
	if v := out.Props.Volume; v > 0 {
		out.Props.Centroid = out.Props.Centroid.Scale(1 / v)
	}
	return out
}

// Root is the component of an assembly that a path leads through first: c2 of c2/c1.
func Root(path string) string {
	root, _, _ := strings.Cut(path, "/")
	return root
}

// unfolding is an assembly with the components of all nested assemblies in it, their paths as ids ("c2/c1").
type unfolding struct {
	doc    *Document
	shapes map[string]*Shape
}

// Flat lays an assembly flat: what is nested takes part with its own components. Those of a rigid one are held together
// where they stand; a moving one brings its joints. Without anything nested it is the document itself.
//
// Formulas of a nested assembly are of its own parameters, so that they are worked out. The error names what cannot be.
func Flat(d *Document, shapes map[string]*Shape) (*Document, map[string]*Shape, error) {
	nested := false
	for _, p := range d.Parts {
		nested = nested || shapes[p.ID] != nil && shapes[p.ID].Nest != nil
	}
	if !nested {
		return d, shapes, nil
	}
	f := unfolding{&Document{}, map[string]*Shape{}}
	*f.doc = *d
	f.doc.Parts, f.doc.Components = nil, nil
	f.doc.Joints = append([]Joint(nil), d.Joints...)
	f.doc.Couplings = append([]Coupling(nil), d.Couplings...)
	f.doc.Traces = append([]Trace(nil), d.Traces...)
	for i := range d.Parts {
		if s := shapes[d.Parts[i].ID]; s == nil || s.Nest == nil {
			f.doc.Parts, f.shapes[d.Parts[i].ID] = append(f.doc.Parts, d.Parts[i]), s
		}
	}
	for i := range d.Components {
		c := &d.Components[i]
		s := shapes[c.Part]
		if s == nil || s.Nest == nil {
			f.doc.Components = append(f.doc.Components, *c)
			continue
		}
		part, _ := d.Part(c.Part)
		if err := f.unfold(c, s.Nest, part.Soft); err != nil {
			return nil, nil, fmt.Errorf("the assembly %s: %w", c.Title(), err)
		}
	}
	if n := len(f.doc.Components); n > MaxComponents {
		return nil, nil, fmt.Errorf("with what is nested there are %d components, and at most %d are taken", n, MaxComponents)
	}
	return f.doc, f.shapes, nil
}

// unfold puts in what a nested assembly is made of. All of a soft one is soft.
func (f *unfolding) unfold(c *Component, n *Nest, soft bool) error {
	inner, shapes, err := Flat(n.Document, n.Shapes) // what is nested in it again
	if err != nil {
		return err
	}
	table, err := inner.Table(nil)
	if err != nil {
		return err
	}
	at := c.ID + "/"
	for i := range inner.Parts {
		p := inner.Parts[i]
		p.Values, p.Soft = nil, p.Soft || soft // it is made
		f.shapes[at+p.ID] = shapes[p.ID]
		p.ID = at + p.ID
		if err := workOut(table, dimensioned{&p.Density, quantity.Number}); err != nil {
			return fmt.Errorf("the density of %s: %w", p.Name, err)
		}
		f.doc.Parts = append(f.doc.Parts, p)
	}
	base := baseOf(inner)
	for i := range inner.Components {
		x := inner.Components[i]
		own := x.Pose
		if moved, ok := c.Inner[x.ID]; ok && c.Moving {
			own = moved
		}
		holds := x.Pinned && c.Moving || !c.Moving
		x.Pose, x.Pinned = own.Then(c.Pose), c.Pinned && holds
		if holds && i != base {
			x.with = at + inner.Components[base].ID
		} else if x.with != "" {
			x.with = at + x.with
		}
		x.Name, x.Part, x.ID = c.Title()+": "+x.Title(), at+x.Part, at+x.ID
		f.doc.Components = append(f.doc.Components, x)
	}
	if !c.Moving {
		return nil
	}
	f.doc.printsWith(inner, func(id string) string { return at + id })
	return f.ties(at, c, inner, table)
}

// ties puts in the joints and couplings of a moving assembly.
func (f *unfolding) ties(at string, c *Component, inner *Document, table *quantity.Table) error {
	joints, couplings, err := tiesOf(inner, table, func(id string) string { return at + id })
	if err != nil {
		return err
	}
	for i := range joints {
		joints[i].Name = c.Title() + ": " + inner.TitleOf(&inner.Joints[i])
		if c.Turns != nil {
			joints[i].State = c.Turns[inner.Joints[i].ID]
		}
	}
	for i := range couplings {
		couplings[i].Name = c.Title() + ": " + inner.Couplings[i].Title()
	}
	f.doc.Joints, f.doc.Couplings = append(f.doc.Joints, joints...), append(f.doc.Couplings, couplings...)
	return nil
}

// tiesOf are the joints and couplings of a nested assembly with their formulas worked out, and with other ids of theirs
// and of components.
func tiesOf(inner *Document, table *quantity.Table, id func(string) string) ([]Joint, []Coupling, error) {
	var joints []Joint
	for _, j := range inner.Joints {
		j = j.clone()
		if err := workOut(table, j.formulas()...); err != nil {
			return nil, nil, fmt.Errorf("the joint %s: %w", inner.TitleOf(&j), err)
		}
		j.ID, j.A.Component, j.B.Component = id(j.ID), id(j.A.Component), id(j.B.Component)
		joints = append(joints, j)
	}
	var couplings []Coupling
	for _, k := range inner.Couplings {
		if err := workOut(table, k.formulas()...); err != nil {
			return nil, nil, fmt.Errorf("the coupling %s: %w", k.Title(), err)
		}
		k.ID, k.A, k.B = id(k.ID), id(k.A), id(k.B)
		couplings = append(couplings, k)
	}
	return joints, couplings, nil
}

// baseOf is the component that a nested assembly is placed by: its first pinned one, or else its first.
func baseOf(d *Document) int {
	for i := range d.Components {
		if d.Components[i].Pinned {
			return i
		}
	}
	return 0
}

// fold gives the components of a document the poses that those of its flat form have: a nested assembly goes with its
// base, and of a moving one the poses inside are kept.
func fold(d *Document, shapes map[string]*Shape, pose func(component string) rigid.Pose) []Component {
	out := append([]Component{}, d.Components...)
	for i := range out {
		c := &out[i]
		s := shapes[c.Part]
		if s == nil || s.Nest == nil {
			c.Pose = pose(c.ID)
			continue
		}
		inner, _, err := Flat(s.Nest.Document, s.Nest.Shapes)
		if err != nil || len(inner.Components) == 0 {
			continue // it would not have been made
		}
		base := &inner.Components[baseOf(inner)]
		own := base.Pose
		if moved, ok := c.Inner[base.ID]; ok && c.Moving {
			own = moved
		}
		c.Pose = own.Inverse().Then(pose(c.ID + "/" + base.ID))
		if c.Inner = nil; c.Moving {
			c.Inner = map[string]rigid.Pose{}
			for _, x := range inner.Components {
				c.Inner[x.ID] = pose(c.ID + "/" + x.ID).Then(c.Pose.Inverse())
			}
		}
	}
	return out
}
