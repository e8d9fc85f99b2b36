package session

import (
	"fmt"
	"slices"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/contact"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

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
// fall out, joints whose features do not touch, unequal holes and shafts, holes that are out of line, names that a
// program gave, other units.
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
			Remedy: "read joints from the contacts, below the list of joints, or join what moves to what it touches; pin what " +
				"stands still",
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
	for _, more := range [][]Finding{s.slides(set), s.fits(set), s.outOfLine(set), s.gaps(set), s.unnamed()} {
		out = append(out, more...)
	}
	return out
}

// slides tells of components that are joined and can still slide out: neither a contact nor a limit stops them.
func (s *Session) slides(set *contact.Set) []Finding {
	var out []Finding
	told := map[int]bool{} // bodies
	for _, l := range s.mobile().Loose {
		held := set.Around(l.Component, nil)
		body := s.m.Body(l.Component)
		if l.Freedom > 2 || !held.Touched() || told[body] || s.limited(l.Component) {
			continue
		}
		for _, t := range l.Twists {
			for _, way := range []solid.Vec{t.Shift, t.Shift.Scale(-1)} {
				if way.Norm() < 0.5 || !held.Free(way.Unit()) || told[body] {
					continue
				}
				told[body] = true
				c, _ := s.m.Document.Component(l.Component)
				out = append(out, Finding{What: fmt.Sprintf("%s can slide out %s: nothing stops it", c.Title(),
					direction(way.Unit())), Remedy: "if it is not meant to slide, take a joint that holds it along its axis; if it " +
					"is, give the joint limits", Components: []string{assembly.Root(l.Component)}})
			}
		}
	}
	return out[:min(len(out), mostFindings)]
}

// limited tells whether a joint of a component has limits along which it slides.
func (s *Session) limited(component string) bool {
	return slices.ContainsFunc(s.m.Document.Joints, func(j assembly.Joint) bool {
		return !j.Off && j.Limits != nil && j.Limits.Slide != nil && (j.A.Component == component ||
			j.B.Component == component)
	})
}

// outOfLine tells of holes of two components that lie on one another which nearly line up.
func (s *Session) outOfLine(set *contact.Set) []Finding {
	var out []Finding
	for _, h := range set.OutOfLine() {
		if len(out) == mostFindings {
			break
		}
		a, b := address.Ref{Component: h.A, Name: h.FaceA}, address.Ref{Component: h.B, Name: h.FaceB}
		out = append(out, Finding{What: fmt.Sprintf("two holes are out of line by %s: %s, and %s",
			s.length(h.By), s.called(a), s.called(b)),
			Remedy:     "put one of them right, unless they are not meant for one screw or pin",
			Components: []string{h.A, h.B}})
	}
	return out
}

// unnamed tells of parts whose names say nothing.
func (s *Session) unnamed() []Finding {
	var names, components []string
	for _, p := range s.doc.Parts {
		if p.Called() {
			continue
		}
		names = append(names, p.Name)
		for _, c := range s.doc.Components {
			if c.Part == p.ID {
				components = append(components, c.ID)
			}
		}
	}
	if len(names) == 0 {
		return nil
	}
	return []Finding{{What: "some names say nothing of the part: " + quantity.List(names, 5),
		Remedy: "name each part as the parts list is to name it, under “Its part”", Components: components}}
}

// unequal is the difference in mm from which a shaft and its bore are of two nominal sizes: the running fits of ISO 286
// that are usual (H8/f7) leave less up to diameters of 180 mm.
const unequal = 0.2

// fits tells of shafts that are larger than their bores, and of play that is more than a running fit has.
func (s *Session) fits(set *contact.Set) []Finding {
	var out []Finding
	for _, c := range set.Contacts {
		if c.Kind != contact.ShaftInBore || len(out) == mostFindings {
			continue
		}
		var what string
		switch {
		case c.Clearance < -unequal:
			what = "larger than the bore that it is in, by " + s.length(-c.Clearance)
		case c.Clearance > unequal:
			what = "smaller than the bore that it is in, by " + s.length(c.Clearance)
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

// length is a length in mm as the assembly's unit writes it.
func (s *Session) length(mm float64) string {
	unit, err := quantity.LengthUnit(s.doc.Unit)
	if err != nil {
		return fmt.Sprint(mm, " mm")
	}
	return quantity.BoardFormat(unit).Length(mm) + " " + unit.Symbol
}
