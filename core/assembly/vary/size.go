package vary

import (
	"cmp"
	"maps"
	"math"
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/quantity"
)

// Owner is what a size belongs to.
type Owner int

// Owners of sizes.
const (
	OfAssembly Owner = iota // a parameter of it
	OfPart                  // a parameter of a model document that the assembly does not set
	OfJoint                 // a size that is written into a joint
)

// Size is a size that drives an assembly: no formula ties it to another one. Lengths are in millimetres and angles in
// radians.
type Size struct {
	Owner Owner
	Of    string // the id of the part or joint
	Name  string
	Title string
	Now   quantity.Quantity
	Ends  [2]float64 // the interval in which it is varied: the least and the most

	as quantity.Format
}

// The interval of a size that states none, in shares of it, as the sizes of parts are varied.
const (
	leastShare = -0.10
	mostShare  = 0.25
)

// interval is that of a size: as a parameter states it, on its side of the value, else by shares. A count goes by one.
func (s *Size) interval(t *quantity.Table, p quantity.Parameter) {
	v := s.Now.Value
	for k, share := range []float64{leastShare, mostShare} {
		s.Ends[k] = v + share*math.Abs(v)
		if s.counts() {
			s.Ends[k] = v + math.Copysign(1, share)
		}
		text := []string{p.Least, p.Most}[k]
		if end, err := t.Eval(text, s.Now.Dim); text != "" && err == nil && (end-v)*share > 0 {
			s.Ends[k] = end
		}
	}
}

// counts tells whether the size is a number of things.
func (s *Size) counts() bool {
	return s.Now.Dim == quantity.Number && s.Now.Value == math.Round(s.Now.Value)
}

// Between is the value a share of the way from one to another one, whole where it counts.
func (s *Size) Between(a, b, share float64) float64 {
	v := a + share*(b-a)
	if s.counts() {
		v = math.Round(v)
	}
	return v
}

// text writes a value exactly, as a formula.
func (s *Size) text(v float64) string { return quantity.Quantity{Value: v, Dim: s.Now.Dim}.Formula() }

// Shown writes a value for people, with its unit.
func (s *Size) Shown(v float64) string {
	text := s.as.Text(quantity.Quantity{Value: v, Dim: s.Now.Dim})
	if s.Now.Dim == quantity.Length {
		text += " " + s.as.Unit.Symbol
	}
	return text
}

// In is a document with the size at a value. The document itself stays as it is.
func (s *Size) In(d *assembly.Document, v float64) *assembly.Document {
	if s.Owner == OfAssembly {
		return d.Set(map[string]quantity.Quantity{s.Name: {Value: v, Dim: s.Now.Dim}})
	}
	out := *d
	switch s.Owner {
	case OfPart:
		out.Parts = slices.Clone(d.Parts)
		if p, ok := out.Part(s.Of); ok {
			if p.Values = maps.Clone(p.Values); p.Values == nil {
				p.Values = map[string]string{}
			}
			p.Values[s.Name] = s.text(v)
		}
	case OfJoint:
		out.Joints = slices.Clone(d.Joints)
		if j, ok := out.Joint(s.Of); ok {
			j.SetSize(s.Name, s.text(v))
		}
	}
	return &out
}

// driving lists the sizes that drive an assembly: its own parameters, those of its parts, and those of its joints.
func driving(d *assembly.Document, shapes map[string]*assembly.Shape) ([]Size, error) {
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	own := quantity.BoardFormat(table.Unit())
	var out []Size
	for _, name := range table.Driving() {
		q, _ := table.Lookup(name)
		i := slices.IndexFunc(d.Parameters, func(p quantity.Parameter) bool { return p.Name == name })
		s := Size{Owner: OfAssembly, Name: name, Title: name, Now: q, as: own}
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
			s := Size{Owner: OfJoint, Of: j.ID, Name: x.Name, Title: x.Name + " of " + d.TitleOf(j),
				Now: quantity.Quantity{Value: v, Dim: x.Dim}, as: own}
			s.interval(table, quantity.Parameter{})
			out = append(out, s)
		}
	}
	return slices.DeleteFunc(out, func(s Size) bool { return s.Now.Value == 0 }), nil
}

// ofThePart lists the sizes of a part. What the assembly ties to its parameters is varied with these, and what it sets
// to a number is varied about that.
func ofThePart(p *assembly.Part, shape *assembly.Shape, own *quantity.Table) []Size {
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
	var out []Size
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
		s := Size{Owner: OfPart, Of: p.ID, Name: x.Name, Title: x.Name + " of " + cmp.Or(p.Name, p.ID), Now: q,
			as: quantity.BoardFormat(unit)}
		s.interval(table, x)
		out = append(out, s)
	}
	return out
}
