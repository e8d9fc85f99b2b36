package assembly

import (
	"maps"
	"math"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/solid"
)

// Print tells a feature of a part from a STEP file by what it is, since the numbers of faces there are given anew
// whenever the file is written. Radius is in mm; Axis is its direction in the part; Place is where it lies in the box
// of the part, from 0 to 1 along each axis.
type Print struct {
	Form   Form      `json:"form"`
	Hollow bool      `json:"hollow,omitempty"`
	Radius float64   `json:"radius,omitempty"`
	Axis   solid.Vec `json:"axis"`
	Place  solid.Vec `json:"place"`
}

// Bounds of what two prints have in common.
const (
	onePrint   = 1e-6 // by which those of one feature differ
	farPrint   = 0.3  // by which those of two features differ that may not be taken for one another
	clearPrint = 2    // how many times nearer the right one is than the next
)

// print is that of a feature.
func (s *Shape) print(f *Feature) Print {
	out := Print{Form: f.Form, Hollow: f.Hollow, Radius: f.Radius, Axis: f.Axis}
	for k := range 3 {
		if size := s.Box.Max[k] - s.Box.Min[k]; size > 0 {
			out.Place[k] = (f.At[k] - s.Box.Min[k]) / size
		}
	}
	return out
}

// differs is by how much two prints differ: by the share of the radius, the angle between the directions, and the
// distance of the places in the box. Features of two forms have nothing in common.
func (p Print) differs(q Print) float64 {
	if p.Form != q.Form || p.Hollow != q.Hollow {
		return math.Inf(1)
	}
	d := p.Place.Sub(q.Place).Norm()
	if p.Radius > 0 && q.Radius > 0 {
		d += math.Abs(math.Log(p.Radius / q.Radius))
	}
	if p.Axis.Norm() > 0 && q.Axis.Norm() > 0 {
		a, b := p.Axis.Unit(), q.Axis.Unit()
		d += math.Atan2(a.Cross(b).Norm(), a.Dot(b))
	}
	return d
}

// numberedName tells whether a name counts faces, as names of features of STEP files do.
func numberedName(name string) bool { return strings.HasPrefix(name, address.Face+":") }

// find finds a feature by its name, and where that is a number by its print: in a file that was written anew it is that
// feature which is clearly the nearest to the print. ok is false where there is none, or where two are alike.
func (s *Shape) find(name string, p *Print) (f *Feature, ok bool) {
	f, ok = s.Feature(name)
	if p == nil || ok && p.differs(s.print(f)) < onePrint {
		return f, ok
	}
	best, next := math.Inf(1), math.Inf(1)
	f = nil
	for i := range s.Features {
		x := &s.Features[i]
		switch d := p.differs(s.print(x)); {
		case d < best:
			best, next, f = d, best, x
		case d < next:
			next = d
		}
	}
	return f, f != nil && best < farPrint && next > clearPrint*best+onePrint
}

// Feature finds what an address means in the mechanism.
func (m *Mechanism) Feature(r address.Ref) (*Feature, bool) {
	c, ok := m.Document.Component(r.Component)
	if !ok || m.Shapes[c.Part] == nil {
		return nil, false
	}
	var p *Print
	if found, have := m.Document.Prints[r.String()]; have {
		p = &found
	}
	return m.Shapes[c.Part].find(r.Name, p)
}

// Bound is a document whose addresses are written with the names that features have now, and with the prints of those
// whose names are numbers. What an address has lost stays as it is written.
func (m *Mechanism) Bound(d *Document) *Document {
	out := *d
	out.Joints, out.Traces, out.Prints = slices.Clone(d.Joints), slices.Clone(d.Traces), map[string]Print{}
	bind := func(r *address.Ref) {
		was := r.String()
		f, ok := m.Feature(*r)
		if !ok {
			if p, have := d.Prints[was]; have {
				out.Prints[was] = p
			}
			return
		}
		if !numberedName(f.Name) {
			return
		}
		r.Name = f.Name
		c, _ := m.Document.Component(r.Component)
		out.Prints[r.String()] = m.Shapes[c.Part].print(f)
	}
	for i := range out.Joints {
		bind(&out.Joints[i].A)
		bind(&out.Joints[i].B)
	}
	for i := range out.Traces {
		bind(&out.Traces[i].Of)
	}
	if len(out.Prints) == 0 {
		out.Prints = nil
	}
	return &out
}

// printsWith adds the prints of a nested assembly to those of a document, with other names of its components.
func (d *Document) printsWith(inner *Document, id func(string) string) {
	if len(inner.Prints) == 0 {
		return
	}
	d.Prints = maps.Clone(d.Prints)
	if d.Prints == nil {
		d.Prints = map[string]Print{}
	}
	for text, p := range inner.Prints {
		if r, err := address.Parse(text); err == nil {
			r.Component = id(r.Component)
			d.Prints[r.String()] = p
		}
	}
}
