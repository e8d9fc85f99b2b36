package exercise

import (
	"slices"
	"strings"

	"hammerset/core/address"
)

// Print tells a face of a STEP reference by what it is, since a file that is written anew numbers its faces otherwise:
// the surface that carries it, and where and how large it is on that. Lengths are in mm, areas in mm², angles in
// radians.
type Print struct {
	Kind   string  `json:"kind"` // of the surface
	Hollow bool    `json:"hollow,omitempty"`
	Radius float64 `json:"radius,omitempty"`
	Ring   float64 `json:"ring,omitempty"` // the smaller radius of a torus
	Angle  float64 `json:"angle,omitempty"`
	Span   float64 `json:"span,omitempty"` // around the axis
	Area   float64 `json:"area"`
	// Direction is the outward normal of a plane, else the axis; Origin is on it, Middle is that of the face.
	Direction [3]float64 `json:"direction"`
	Origin    [3]float64 `json:"origin"`
	Middle    [3]float64 `json:"middle"`
	Beside    int        `json:"beside"` // how many faces it has an edge with
}

// Names lists the names of faces of the reference that an exercise has anywhere, each once and in order: those of both
// faces where it names the line between two.
func (e *Exercise) Names() []string {
	var out []string
	add := func(list ...address.Ref) {
		for _, r := range list {
			for name := range strings.SplitSeq(r.Name, "&") {
				if name = strings.TrimSpace(name); name != "" {
					out = append(out, name)
				}
			}
		}
	}
	places := func(of [][]address.Ref) {
		for _, p := range of {
			add(p...)
		}
	}
	for i := range e.Characteristics {
		places(e.Characteristics[i].Of)
	}
	for i := range e.Loose {
		places(e.Loose[i].Of)
	}
	for i := range e.Refused {
		add(e.Refused[i].Of...)
	}
	for i := range e.Sheets {
		s := &e.Sheets[i]
		if s.Stands != nil {
			add(s.Stands.Up, s.Stands.Front)
		}
		for k := range s.Views {
			v := &s.Views[k]
			add(v.Square, v.Origin)
			if v.Cut != nil {
				add(v.Cut.Path...)
				add(v.Cut.Whole...)
			}
		}
		for k := range s.Marks {
			add(s.Marks[k].Anchors...)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
