package vary

import (
	"cmp"
	"maps"
	"math"
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/quantity"
)

// owner is what a size belongs to.
type owner int

const (
	ofAssembly owner = iota // a parameter of it
	ofPart                  // a parameter of a model document that the assembly does not set
	ofJoint                 // a size that is written into a joint
)

// size is a size that drives an assembly: no formula ties it to another one. Lengths are in millimetres and angles in
// radians.
type size struct {
	owner owner
	of    string // the id of the part or joint
	name  string
	title string
	now   quantity.Quantity
	ends  [2]float64 // the interval in which it is varied: the least and the most
	as    quantity.Format
}

// The interval of a size that states none, in shares of it, as the sizes of parts are varied.
const (
	leastShare = -0.10
	mostShare  = 0.25
)

// interval is that of a size: as a parameter states it, on its side of the value, else by shares. A count goes by one.
func (s *size) interval(t *quantity.Table, p quantity.Parameter) {
	v := s.now.Value
	for k, share := range []float64{leastShare, mostShare} {
		s.ends[k] = v + share*math.Abs(v)
		if s.counts() {
			s.ends[k] = v + math.Copysign(1, share)
		}
		text := []string{p.Least, p.Most}[k]
		if end, err := t.Eval(text, s.now.Dim); text != "" && err == nil && (end-v)*share > 0 {
			s.ends[k] = end
		}
	}
}

// counts tells whether the size is a number of things.
func (s *size) counts() bool {
	return s.now.Dim == quantity.Number && s.now.Value == math.Round(s.now.Value)
}

// between is the value a share of the way from one to another one, whole where it counts.
func (s *size) between(a, b, share float64) float64 {
	v := a + share*(b-a)
	if s.counts() {
		v = math.Round(v)
	}
	return v
}

// text writes a value exactly, as a formula.
func (s *size) text(v float64) string { return quantity.Quantity{Value: v, Dim: s.now.Dim}.Formula() }

// shown writes a value for people, with its unit.
func (s *size) shown(v float64) string {
	text := s.as.Text(quantity.Quantity{Value: v, Dim: s.now.Dim})
	if s.now.Dim == quantity.Length {
		text += " " + s.as.Unit.Symbol
	}
	return text
}

// in is a document with the size at a value. The document itself stays as it is.
func (s *size) in(d *assembly.Document, v float64) *assembly.Document {
	if s.owner == ofAssembly {
		return d.Set(map[string]quantity.Quantity{s.name: {Value: v, Dim: s.now.Dim}})
	}
	out := *d
	switch s.owner {
	case ofPart:
		out.Parts = slices.Clone(d.Parts)
		if p, ok := out.Part(s.of); ok {
			if p.Values = maps.Clone(p.Values); p.Values == nil {
				p.Values = map[string]string{}
			}
			p.Values[s.name] = s.text(v)
		}
	case ofJoint:
		out.Joints = slices.Clone(d.Joints)
		if j, ok := out.Joint(s.of); ok {
			j.SetSize(s.name, s.text(v))
		}
	}
	return &out
}

// driving lists the sizes that drive an assembly: its own parameters, those of its parts, and those of its joints.
func driving(d *assembly.Document, shapes map[string]*assembly.Shape) ([]size, error) {
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	own := quantity.BoardFormat(table.Unit())
	var out []size
	for _, name := range table.Driving() {
		q, _ := table.Lookup(name)
		i := slices.IndexFunc(d.Parameters, func(p quantity.Parameter) bool { return p.Name == name })
		s := size{owner: ofAssembly, name: name, title: name, now: q, as: own}
		s.interval(table, d.Parameters[i])
		out = append(out, s)
	}
	for i := range d.Parts {
		out = append(out, ofThePart(&d.Parts[i], shapes[d.Parts[i].ID], table)...)
	}
	for i := range d.Joints {
		j := &d.Joints[i]
		for _, x := range j.Sizes() {
			f, err := quantity.Parse(x.Text)
			if x.Text == "" || j.Off || err != nil || len(f.Names()) > 0 {
				continue
			}
			v, err := table.Eval(x.Text, x.Dim)
			if err != nil || v == 0 {
				continue // nothing has no share of it
			}
			s := size{owner: ofJoint, of: j.ID, name: x.Name, title: x.Name + " of " + d.TitleOf(j),
				now: quantity.Quantity{Value: v, Dim: x.Dim}, as: own}
			s.interval(table, quantity.Parameter{})
			out = append(out, s)
		}
	}
	return slices.DeleteFunc(out, func(s size) bool { return s.now.Value == 0 }), nil
}

// ofThePart lists the sizes of a part. What the assembly ties to its parameters is varied with these, and what it sets
// to a number is varied about that.
func ofThePart(p *assembly.Part, shape *assembly.Shape, own *quantity.Table) []size {
	if shape == nil || shape.Broken != nil {
		return nil
	}
	unit, err := quantity.LengthUnit(shape.Unit)
	if err != nil {
		return nil
	}
	table, err := quantity.Evaluate(shape.Sizes, unit, nil)
	if err != nil {
		return nil
	}
	var out []size
	for _, x := range shape.Sizes {
		q, ok := table.Lookup(x.Name)
		if !ok {
			continue
		}
		if set := p.Values[x.Name]; set != "" {
			f, err := quantity.Parse(set)
			if err != nil || len(f.Names()) > 0 {
				continue
			}
			if q.Value, err = own.Eval(set, q.Dim); err != nil {
				continue
			}
		}
		s := size{owner: ofPart, of: p.ID, name: x.Name, title: x.Name + " of " + cmp.Or(p.Name, p.ID), now: q,
			as: quantity.BoardFormat(unit)}
		s.interval(table, x)
		out = append(out, s)
	}
	return out
}
