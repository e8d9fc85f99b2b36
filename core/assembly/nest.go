package assembly

import (
	"fmt"
	"strings"

	"hammerset/core/address"
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
		if p.Density != "" {
			v, err := table.Eval(p.Density, quantity.Number)
			if err != nil {
				return fmt.Errorf("the density of %s: %w", p.Name, err)
			}
			p.Density = quantity.Quantity{Value: v}.Formula()
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
	return f.ties(at, c, inner, table)
}

// ties puts in the joints and couplings of a moving assembly, with their formulas worked out.
func (f *unfolding) ties(at string, c *Component, inner *Document, table *quantity.Table) error {
	for i := range inner.Joints {
		j := inner.Joints[i]
		j.Name = c.Title() + ": " + inner.TitleOf(&j)
		j.ID, j.A, j.B = at+j.ID, below(at, j.A), below(at, j.B)
		for _, s := range j.Sizes() {
			if s.Text == "" {
				continue
			}
			v, err := table.Eval(s.Text, s.Dim)
			if err != nil {
				return fmt.Errorf("the joint %s: %w", j.Name, err)
			}
			j.SetSize(s.Name, quantity.Quantity{Value: v, Dim: s.Dim}.Formula())
		}
		if j.Limits != nil {
			l := Limits{}
			for _, x := range []struct {
				from *Limit
				to   **Limit
				dim  quantity.Dim
			}{{j.Limits.Turn, &l.Turn, turning.dim()}, {j.Limits.Slide, &l.Slide, sliding.dim()}} {
				if x.from == nil {
					continue
				}
				*x.to = &Limit{}
				for _, end := range []struct{ from, to *string }{{&x.from.Least, &(*x.to).Least}, {&x.from.Most, &(*x.to).Most}} {
					v, err := table.Eval(*end.from, x.dim)
					if *end.from == "" {
						continue
					}
					if err != nil {
						return fmt.Errorf("a limit of the joint %s: %w", j.Name, err)
					}
					*end.to = quantity.Quantity{Value: v, Dim: x.dim}.Formula()
				}
			}
			j.Limits = &l
		}
		f.doc.Joints = append(f.doc.Joints, j)
	}
	for i := range inner.Couplings {
		k := inner.Couplings[i]
		kind, _ := couplingOf(k.Kind)
		for _, x := range []struct {
			formula *string
			dim     quantity.Dim
		}{{&k.Ratio, kind.ratio}, {&k.Offset, kind.second.dim()}} {
			if *x.formula == "" {
				continue
			}
			v, err := table.Eval(*x.formula, x.dim)
			if err != nil {
				return fmt.Errorf("the coupling %s: %w", k.Title(), err)
			}
			*x.formula = quantity.Quantity{Value: v, Dim: x.dim}.Formula()
		}
		k.Name = c.Title() + ": " + k.Title()
		k.ID, k.A, k.B = at+k.ID, at+k.A, at+k.B
		f.doc.Couplings = append(f.doc.Couplings, k)
	}
	return nil
}

func below(at string, r address.Ref) address.Ref {
	return address.Ref{Component: at + r.Component, Name: r.Name}
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
