package session

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/assembly/contact"
	"hammerset/core/solid"
)

// Drawn is an assembly drawn apart: so far and in which direction each component goes, and in which order they come
// off.
type Drawn struct {
	Apart []contact.Apart `json:"apart"`
	// Forced are components that nothing lets out, by name.
	Forced []string `json:"forced"`
	Set    bool     `json:"set"` // somebody has set where some components go
	// Low and High are the corners of the box around all components when they are drawn apart wholly.
	Low  solid.Vec `json:"low"`
	High solid.Vec `json:"high"`
}

// Apart draws the assembly apart: each component goes where somebody has set that it goes, or else its own way out.
// Nothing of it is changed. It is worked out once for each state.
func (s *Session) Apart() *Drawn {
	if s.drawn == nil || s.drawnAt != s.revision {
		s.drawn, s.drawnAt = s.workOutApart(), s.revision
	}
	return s.drawn
}

func (s *Session) workOutApart() *Drawn {
	out := &Drawn{Apart: s.contacts().Explode(), Forced: []string{}, Set: len(s.doc.Apart) > 0}
	for i := range out.Apart {
		x := &out.Apart[i]
		for _, set := range s.doc.Apart {
			if set.Component == x.Component {
				x.By, x.Forced = set.By, false
			}
		}
		if x.Forced {
			c, _ := s.m.Document.Component(x.Component)
			out.Forced = append(out.Forced, c.Title())
		}
	}
	by := out.by()
	box, _ := s.boxOf(func(component string, p solid.Vec) solid.Vec { return p.Add(by[component]) })
	out.Low, out.High = box.Min, box.Max
	return out
}

// by is how far each component goes.
func (d *Drawn) by() map[string]solid.Vec {
	out := map[string]solid.Vec{}
	for _, x := range d.Apart {
		out[x.Component] = x.By
	}
	return out
}

// Drag is how a component is dragged while the assembly is drawn apart by a share of the whole way: from one place in
// space to another.
type Drag struct {
	Component string    `json:"component"`
	From      solid.Vec `json:"from"`
	To        solid.Vec `json:"to"`
	Share     float64   `json:"share"`
}

// straight is the angle in radians within which a dragged component goes straight along an axis of space, or on along
// its own way.
const straight = 8 * math.Pi / 180

// Dragged is how far a component goes from where it stands when the assembly is drawn apart wholly, after it was
// dragged.
func (s *Session) Dragged(d Drag) (solid.Vec, error) {
	if !(d.Share > 0) {
		return solid.Vec{}, errors.New("the assembly stands together: draw it apart, and drag a component then")
	}
	for _, x := range s.Apart().Apart {
		if x.Component != d.Component {
			continue
		}
		by := x.By.Add(d.To.Sub(d.From).Scale(1 / d.Share))
		for _, axis := range []solid.Vec{x.By, solid.World.X, solid.World.Y, solid.World.Z} {
			if axis.Norm() == 0 {
				continue
			}
			along := axis.Unit().Scale(by.Dot(axis.Unit()))
			if by.Sub(along).Norm() < math.Sin(straight)*by.Norm() {
				return along, nil
			}
		}
		return by, nil
	}
	return solid.Vec{}, fmt.Errorf("there is no component %q", d.Component)
}

// drawApart keeps where a component goes, or forgets all that was set.
func (s *Session) drawApart(doc *assembly.Document, c Command) (string, error) {
	if c.Do == "draw-anew" {
		doc.Apart = nil
		return "draw apart by itself", nil
	}
	if c.Drag == nil {
		return "", errors.New("there is nothing that was dragged")
	}
	by, err := s.Dragged(*c.Drag)
	if err != nil {
		return "", err
	}
	x, _ := s.m.Document.Component(c.Drag.Component)
	i := slices.IndexFunc(doc.Apart, func(a assembly.Apart) bool { return a.Component == c.Drag.Component })
	if i < 0 {
		i, doc.Apart = len(doc.Apart), append(doc.Apart, assembly.Apart{Component: c.Drag.Component})
	}
	doc.Apart[i].By = by
	return "draw " + x.Title() + " apart", nil
}
