package session

import (
	"errors"
	"math"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/contact"
	"hammerset/core/assembly/section"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Measured is a line of what was measured between two picks.
type Measured struct {
	Words string `json:"words"`
	Value string `json:"value"`
}

// nothing is what counts as nothing of what is measured, in mm or radians.
const nothing = 1e-9

// Measure measures between two features where they stand.
func (s *Session) Measure(a, b address.Ref) ([]Measured, error) {
	var placed [2]*assembly.Feature
	for i, r := range []address.Ref{a, b} {
		f := s.feature(r)
		if f == nil {
			return nil, errors.New("this is nothing that can be measured: pick a flat or round face, an edge or a corner")
		}
		pose := s.m.Pose(r.Component)
		placed[i] = f.Placed(pose.Apply, pose.Rotate)
	}
	unit, err := quantity.LengthUnit(s.doc.Unit)
	if err != nil {
		return nil, err
	}
	as := quantity.BoardFormat(unit)
	out := []Measured{}
	for _, x := range assembly.Measure(placed[0], placed[1]) {
		if math.Abs(x.Value.Value) < nothing {
			x.Value.Value = 0
		}
		text := as.Text(x.Value)
		if x.Value.Dim == quantity.Length {
			text += " " + unit.Symbol
		}
		out = append(out, Measured{x.Words, text})
	}
	return out, nil
}

// bodies are the components where they stand now.
func (s *Session) bodies() []contact.Body {
	var out []contact.Body
	for _, c := range s.m.Document.Components {
		out = append(out, contact.Body{ID: c.ID, Title: c.Title(), Pose: s.m.Pose(c.ID), Shape: s.m.Shapes[c.Part],
			Pinned: c.Pinned})
	}
	return out
}

// contacts are those of the assembly as it stands, found once for each state.
func (s *Session) contacts() *contact.Set {
	if s.touching == nil || s.touched != s.revision {
		s.touching, s.touched = contact.Find(s.bodies()), s.revision
	}
	return s.touching
}

// Plane is where the assembly is cut: what lies in the direction of the normal is taken away.
type Plane struct {
	At     solid.Vec `json:"at"`
	Normal solid.Vec `json:"normal"`
}

// CutRow is what a plane cuts of a component, three numbers a place: lines two places each, and triangles.
type CutRow struct {
	Component string    `json:"component"`
	Outline   []float64 `json:"outline"`
	Hatch     []float64 `json:"hatch"`
	Fill      []float64 `json:"fill"`
}

// hatching is the usual distance of hatching lines, as a share of the size of the assembly.
const hatching = 0.022

// Section cuts the assembly where it stands, or drawn apart by a share of the whole way. Components that lie side by
// side are hatched otherwise.
func (s *Session) Section(p Plane, share float64) []CutRow {
	var by map[string]solid.Vec
	if share > 0 {
		by = s.Apart().by()
	}
	box, _ := s.box()
	hatches := section.Hatches(len(s.m.Document.Components), contact.Beside(s.bodies()), hatching*box.Diagonal())
	frame := solid.Plane(p.At, p.Normal.Unit())
	frame.O = p.At
	out := []CutRow{}
	for i, c := range s.m.Document.Components {
		mesh := s.m.Shapes[c.Part].Mesh
		if mesh == nil {
			continue
		}
		pose := s.m.Pose(c.ID)
		pose.Shift = pose.Shift.Add(by[c.ID].Scale(share))
		cut := section.Of(mesh, pose.Apply, frame, hatches[i])
		if len(cut.Outline) > 0 {
			out = append(out, CutRow{c.ID, flat(cut.Outline), flat(cut.Hatch), flat(cut.Fill)})
		}
	}
	return out
}

func flat(list []solid.Vec) []float64 {
	out := make([]float64, 0, 3*len(list))
	for _, p := range list {
		out = append(out, p[0], p[1], p[2])
	}
	return out
}
