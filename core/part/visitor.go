package part

import (
	"fmt"
	"slices"
	"strings"

	"hammerset/core/quantity"
)

// Size is one formula of a step: where it stands in the step ("extent.length", as in the Path of
// a Field), what it is in words, and its dimension. A driven one is measured and holds nothing.
type Size struct {
	Path   string
	Role   string
	Dim    quantity.Dim
	Text   string
	Driven bool
}

// visitor is told of every formula of a step and of every step that it names. It is how each kind
// says once what its fields mean.
type visitor struct {
	size  func(s Size, text *string)
	needs func(id string)
}

func (v *visitor) length(path, role string, f *string) {
	v.size(Size{Path: path, Role: role, Dim: quantity.Length, Text: *f}, f)
}

func (v *visitor) angle(path, role string, f *string) {
	v.size(Size{Path: path, Role: role, Dim: quantity.Angle, Text: *f}, f)
}

func (v *visitor) number(path, role string, f *string) {
	v.size(Size{Path: path, Role: role, Dim: quantity.Number, Text: *f}, f)
}

// steps names other steps.
func (v *visitor) steps(ids ...string) {
	for _, id := range ids {
		if id != "" {
			v.needs(id)
		}
	}
}

// solids names solids, each by the step that made it, with a number where it made several.
func (v *visitor) solids(ids ...string) {
	for _, id := range ids {
		base, _, _ := strings.Cut(id, ".")
		v.steps(id, base)
	}
}

// faces names faces, each by the steps that made it.
func (v *visitor) faces(names ...string) {
	for _, n := range names {
		v.steps(makers(n)...)
	}
}

func (v *visitor) edges(list ...EdgeRef) {
	for _, e := range list {
		v.faces(e.Around, e.First)
		if e.Between != nil {
			v.faces(e.Between[:]...)
		}
	}
}

func (v *visitor) plane(path string, p *PlaneRef) {
	if p == nil {
		return
	}
	v.length(path+".offset", "offset", &p.Offset)
	v.steps(p.Step)
	v.faces(p.Face)
}

func (v *visitor) planes(path string, list []PlaneRef) {
	for i := range list {
		v.plane(fmt.Sprintf("%s.%d", path, i), &list[i])
	}
}

func (v *visitor) axis(a *AxisRef) {
	if a == nil {
		return
	}
	v.steps(a.Step)
	v.faces(a.Face)
	if a.Edge != nil {
		v.edges(*a.Edge)
	}
	if id, _, ok := strings.Cut(a.Line, "."); ok {
		v.steps(id)
	}
}

func (v *visitor) points(path string, list []PointRef) {
	for i := range list {
		p := &list[i]
		v.number(fmt.Sprintf("%s.%d.along", path, i), "place", &p.Along)
		if p.At != nil {
			for k := range p.At {
				v.length(fmt.Sprintf("%s.%d.at.%d", path, i, k), "coordinate", &p.At[k])
			}
		}
		v.steps(p.Step)
		if id, _, ok := strings.Cut(p.Sketch, "."); ok {
			v.steps(id)
		}
		if p.Corner != nil {
			v.faces(p.Corner[:]...)
		}
		for _, e := range []*EdgeRef{p.Center, p.Edge} {
			if e != nil {
				v.edges(*e)
			}
		}
	}
}

// extent tells of an extent in lengths.
func (v *visitor) extent(e *Extent) {
	if e == nil {
		return
	}
	v.length("extent.length", "length along", &e.Length)
	v.length("extent.total", "total", &e.Total)
	v.length("extent.forward", "length along", &e.Forward)
	v.length("extent.backward", "length along", &e.Backward)
	v.length("extent.start", "start", &e.Start)
	v.angle("extent.draft", "draft", &e.Draft)
	v.faces(e.Face)
}

// turn tells of an extent in angles.
func (v *visitor) turn(e *Extent) {
	if e == nil {
		return
	}
	v.angle("extent.length", "angle", &e.Length)
	v.angle("extent.total", "angle", &e.Total)
	v.angle("extent.forward", "angle", &e.Forward)
	v.angle("extent.backward", "angle", &e.Backward)
}

// Sizes lists the formulas of a step that are given, in the order in which its kind tells of them.
func (s *Step) Sizes() []Size {
	var out []Size
	s.visit(&visitor{needs: func(string) {}, size: func(x Size, _ *string) {
		if x.Text != "" {
			out = append(out, x)
		}
	}})
	return out
}

// Formulas lists the texts of the formulas of a step, for finding the parameters that it uses.
func (s *Step) Formulas() []string {
	var out []string
	for _, x := range s.Sizes() {
		out = append(out, x.Text)
	}
	return out
}

// SetSize replaces the formula at a path; false where none is given there.
func (s *Step) SetSize(path, text string) bool {
	done := false
	s.visit(&visitor{needs: func(string) {}, size: func(x Size, f *string) {
		if x.Path == path && x.Text != "" {
			*f, done = text, true
		}
	}})
	return done
}

// Needs lists the steps that a step names, in order and once each: what must come before it and
// stand.
func (s *Step) Needs() []string {
	var out []string
	s.visit(&visitor{size: func(Size, *string) {}, needs: func(id string) {
		if !slices.Contains(out, id) {
			out = append(out, id)
		}
	}})
	return out
}

func (s *Step) visit(v *visitor) {
	if s.Do != nil {
		s.Do.visit(v)
	}
}

// makers lists the steps that a name of a face speaks of: the one that made it, and
// those that copied it or broke the edges that it came from.
func makers(name string) []string {
	var out []string
	for _, part := range strings.FieldsFunc(name, func(r rune) bool { return strings.ContainsRune("(|)+@", r) }) {
		head, _, ok := strings.Cut(part, "/")
		if !ok {
			head = part
		}
		for _, id := range strings.Split(head, ":") {
			base, _, _ := strings.Cut(id, ".") // an instance or a hole of the step
			for _, x := range []string{id, base} {
				if x != "" && !slices.Contains(out, x) {
					out = append(out, x)
				}
			}
		}
	}
	return out
}
