package session

import (
	"errors"
	"fmt"
	"math"
	"slices"

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

// Finding is something to look at in the assembly, with its place and, where there is one, a command that puts it
// right.
type Finding struct {
	What       string   `json:"what"`
	Remedy     string   `json:"remedy"`
	Components []string `json:"components"`
	Repair     *Command `json:"repair,omitempty"`
	Do         string   `json:"do,omitempty"` // what the repair is called
}

// most findings of one kind.
const mostFindings = 20

// LookOver looks for what is usually not meant: components that nothing holds or touches, freedoms that let a component
// fall out, joints whose features do not touch, unequal holes and shafts, other units.
func (s *Session) LookOver() []Finding {
	out := []Finding{}
	set := s.contacts()
	touched := map[string]bool{}
	for _, c := range set.Contacts {
		if a, b := assembly.Root(c.A), assembly.Root(c.B); a != b {
			touched[a], touched[b] = true, true
		}
	}
	joined := map[string]bool{}
	for _, j := range s.doc.Joints {
		if !j.Off {
			joined[assembly.Root(j.A.Component)], joined[assembly.Root(j.B.Component)] = true, true
		}
	}
	none := len(joined) == 0 && len(s.doc.Components) > 2
	if none {
		out = append(out, Finding{What: "nothing is joined: the components only lie where they are, as a STEP file " +
			"brings them",
			Remedy: "join those that move to what they touch, and pin the rest; drawn apart, the assembly shows how it " +
				"comes apart",
			Components: []string{}, Repair: &Command{Do: "pin-all"}, Do: "Pin all where they are"})
	}
	told := map[string]bool{} // parts whose unit was told of
	for _, c := range s.doc.Components {
		switch {
		case c.Pinned || len(s.doc.Components) == 1 || none && touched[c.ID]:
		case !joined[c.ID] && !touched[c.ID]:
			out = append(out, Finding{What: c.Title() + " hangs in the air: nothing holds it, and it touches nothing",
				Remedy: "join it to another component, or remove it", Components: []string{c.ID}})
		case !joined[c.ID]:
			f := Finding{What: c.Title() + " is held by no joint", Remedy: "join it to what it touches, or pin it",
				Components: []string{c.ID}, Repair: &Command{Do: "pin", ID: c.ID, On: true}, Do: "Pin it"}
			if way, free := set.Around(c.ID, nil).Way(); free && touched[c.ID] && s.shapes[c.Part].Nest == nil {
				f.What += fmt.Sprintf("; it comes out %s", direction(way))
			}
			out = append(out, f)
		}
		if unit := s.shapes[c.Part].Unit; unit != "" && unit != s.doc.Unit && !told[c.Part] {
			told[c.Part] = true
			p, _ := s.doc.Part(c.Part)
			out = append(out, Finding{What: fmt.Sprintf("%s is made in %s, and the assembly in %s", p.Name, unit, s.doc.Unit),
				Remedy:     "that is right where it was meant so; sizes are shown in the unit of the assembly",
				Components: []string{c.ID}})
		}
	}
	out = append(out, s.fits(set)...)
	return append(out, s.gaps(set)...)
}

// unequal is the difference in mm from which a shaft and its bore are of two nominal sizes: the running fits of ISO 286
// that are usual (H8/f7) leave less up to diameters of 180 mm.
const unequal = 0.2

// fits tells of shafts that are larger than their bores, and of play that is more than a running fit has.
func (s *Session) fits(set *contact.Set) []Finding {
	unit, err := quantity.LengthUnit(s.doc.Unit)
	if err != nil {
		return nil
	}
	as := quantity.BoardFormat(unit)
	var out []Finding
	for _, c := range set.Contacts {
		if c.Kind != contact.ShaftInBore || len(out) == mostFindings {
			continue
		}
		var what string
		switch {
		case c.Clearance < -unequal:
			what = "larger than the bore that it is in, by " + as.Length(-c.Clearance)
		case c.Clearance > unequal:
			what = "smaller than the bore that it is in, by " + as.Length(c.Clearance)
		default:
			continue
		}
		a, b := address.Ref{Component: c.A, Name: c.FaceA}, address.Ref{Component: c.B, Name: c.FaceB}
		if f := s.feature(a); f != nil && f.Hollow {
			a, b = b, a
		}
		out = append(out, Finding{What: fmt.Sprintf("%s: the shaft is %s (%s)", s.called(a), what, s.called(b)),
			Remedy: "make both of one nominal size, unless it is a thread or a hole for a bolt", Components: []string{c.A, c.B}})
	}
	return out
}

// gaps tells of joints between components that touch neither one another nor one and the same third: an eye on a pin is
// joined to the fork that holds the pin.
func (s *Session) gaps(set *contact.Set) []Finding {
	near := map[string][]string{}
	for _, c := range set.Contacts {
		near[c.A], near[c.B] = append(near[c.A], c.B), append(near[c.B], c.A)
	}
	var out []Finding
	for _, j := range s.doc.Joints {
		kind, ok := assembly.KindOf(j.Kind)
		a, b := j.A.Component, j.B.Component
		if !ok || j.Off || !kind.Pair() || slices.Contains(near[a], b) ||
			slices.ContainsFunc(near[a], func(other string) bool { return slices.Contains(near[b], other) }) {
			continue
		}
		out = append(out, Finding{What: fmt.Sprintf("the joint %s holds components that do not touch", s.doc.TitleOf(&j)),
			Remedy:     "give it the offset that brings them together, or look whether a part between them is missing",
			Components: []string{a, b}})
	}
	return out
}

// direction is a direction in words, where it goes along an axis of the assembly.
func direction(d solid.Vec) string {
	for k, words := range [][2]string{{"to the left", "to the right"}, {"to the front", "to the back"},
		{"downwards", "upwards"}} {
		if d[k] > 0.999 {
			return words[1]
		}
		if d[k] < -0.999 {
			return words[0]
		}
	}
	return fmt.Sprintf("along (%.2f, %.2f, %.2f)", d[0], d[1], d[2])
}
