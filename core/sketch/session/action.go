package session

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

// Action is something that can be done, as the quick-entry field, the menus and
// the shortcuts list it.
type Action struct {
	Do     string `json:"do"`
	Name   string `json:"name"`
	Needs  string `json:"needs"`            // what is to be chosen first, in words
	Asks   string `json:"asks,omitempty"`   // the value it asks for
	Places bool   `json:"places,omitempty"` // it asks for a place

	onOne bool // it works on the one entity or constraint that the command names by ID
	run   func(s *Session, c Command) error
}

// edits lists all edits; those without a name have a place of their own in the interface.
func edits() []Action {
	return []Action{
		{Do: "remove", Name: "Remove", Needs: "anything", run: (*Session).remove},
		{Do: "guide", Name: "Make a guide line, or a line of the profile again", Needs: "curves", run: (*Session).guide},
		{Do: "trim", Name: "Trim a piece", Needs: "a curve", Places: true, onOne: true,
			run: func(s *Session, c Command) error { return s.draft.Trim(c.ID, c.at()) }},
		{Do: "extend", Name: "Extend to the next curve", Needs: "a line or an arc", Places: true, onOne: true,
			run: func(s *Session, c Command) error { return s.draft.Extend(c.ID, c.at()) }},
		{Do: "split", Name: "Split", Needs: "a curve", Places: true, onOne: true,
			run: func(s *Session, c Command) error { _, err := s.draft.Split(c.ID, c.at()); return err }},
		{Do: "round", Name: "Round a corner", Needs: "the corner's point", Asks: "radius", onOne: true,
			run: func(s *Session, c Command) error { return s.corner(c, s.draft.Round) }},
		{Do: "bevel", Name: "Bevel a corner", Needs: "the corner's point", Asks: "distance along both lines", onOne: true,
			run: func(s *Session, c Command) error { return s.corner(c, s.draft.Bevel) }},
		{Do: "offset", Name: "Offset", Needs: "a chain of lines and arcs, or a circle",
			Asks: "distance, less than zero for the other side", run: (*Session).offset},
		{Do: "mirror", Name: "Mirror about the line chosen last", Needs: "what is mirrored, and the line last",
			run: (*Session).mirror},
		{Do: "row", Name: "Copy in a row", Needs: "what is copied", Asks: "number; spacing; angle", run: (*Session).copies},
		{Do: "ring", Name: "Copy in a ring", Needs: "what is copied, and the centre point last",
			Asks: "number; angle covered", run: (*Session).copies},
		{Do: "move", Name: "Move", Needs: "what is moved", Asks: "across; up", run: (*Session).move},
		{Do: "turn", Name: "Turn about the point chosen last", Needs: "what is turned, and the point last", Asks: "angle",
			run: (*Session).turn},
		{Do: "scale", Name: "Scale about the point chosen last", Needs: "what is scaled, and the point last", Asks: "factor",
			run: (*Session).scale},
		{Do: "join", Name: "Join two points", Needs: "two points", run: (*Session).join},
		{Do: "unjoin", Name: "Part what is joined here", Needs: "a point", onOne: true,
			run: func(s *Session, c Command) error { return s.unjoin(c.ID) }},

		{Do: "constrain", run: (*Session).constrain},
		{Do: "size", run: (*Session).size},
		{Do: "set", onOne: true, run: (*Session).set},
		{Do: "drive", onOne: true, run: (*Session).drive},
		{Do: "quiet", onOne: true, run: (*Session).quiet},
		{Do: "place", onOne: true, run: (*Session).letter},
		{Do: "tidy", run: (*Session).tidy},
		{Do: "trace", run: func(s *Session, c Command) error { return s.trace(c.Edge) }},
	}
}

// Actions lists all edits beside drawing, constraints and sizes.
func Actions() []Action {
	return slices.DeleteFunc(edits(), func(a Action) bool { return a.Name == "" })
}

// edit looks an action up in the list of all and runs it. The list is the one
// home of actions: what is not in it cannot be done, and what is in it is
// offered by the quick entry without more.
func (s *Session) edit(c Command) error {
	all := edits()
	i := slices.IndexFunc(all, func(a Action) bool { return a.Do == c.Do })
	switch {
	case i < 0:
		return fmt.Errorf("there is no action %q", c.Do)
	case all[i].onOne && c.ID == "":
		return &NeedsError{"what to work on"}
	}
	return all[i].run(s, c)
}

// at is the place of a command, y upwards.
func (c Command) at() sketch.Vec {
	if c.At == nil {
		return sketch.Vec{}
	}
	return flip(*c.At)
}

// remove takes geometry, sizes and constraints away; what stands on removed
// geometry goes with it.
func (s *Session) remove(c Command) error {
	if len(c.IDs) == 0 {
		return &NeedsError{"what to remove"}
	}
	s.draft.Remove(c.IDs...)
	return nil
}

// guide turns curves into guide lines, and guide lines into curves of the profile.
func (s *Session) guide(c Command) error {
	n := 0
	for _, id := range c.IDs {
		if e := s.draft.Entity(id); e != nil && e.Kind != sketch.KindPoint {
			e.Guide = !e.Guide
			n++
		}
	}
	if n == 0 {
		return &NeedsError{"a curve"}
	}
	return nil
}

// corner rounds or bevels a corner by a size.
func (s *Session) corner(c Command, cut func(id, formula string, size float64) (string, error)) error {
	v, err := s.positive(c.Value, quantity.Length)
	if err == nil {
		_, err = cut(c.ID, c.Value, v)
	}
	return err
}

// offset draws curves at a distance beside a chain of curves. A negative
// distance means the other side. The sign is taken out of the formula where that
// leaves the same value, so that the size that is put on the result stays a
// formula of the parameter; else the number is written.
func (s *Session) offset(c Command) error {
	d := s.draft
	v, err := d.Values.Eval(c.Value, quantity.Length)
	if err != nil {
		return err
	}
	formula := c.Value
	if v < 0 {
		formula = strings.TrimPrefix(strings.TrimSpace(formula), "-")
		if w, err := d.Values.Eval(formula, quantity.Length); err != nil || math.Abs(w+v) > 1e-9*math.Abs(v) {
			formula = d.Length(-v)
		}
	}
	ids := c.IDs
	if len(ids) == 1 {
		ids = d.Chain(ids[0])
	}
	_, err = d.Offset(ids, formula, v)
	return err
}

// mirror copies all but the last choice to the other side of the last one, with
// symmetric constraints, so that the copy follows.
func (s *Session) mirror(c Command) error {
	if len(c.IDs) < 2 {
		return &NeedsError{"what is to be mirrored, and the line last"}
	}
	_, err := s.draft.Mirror(c.IDs[:len(c.IDs)-1], c.IDs[len(c.IDs)-1])
	return err
}

// move shifts by the two lengths that were given, across and up. Constraints
// then pull what is held back.
func (s *Session) move(c Command) error {
	p, err := s.list(c.Value, quantity.Length, quantity.Length)
	if err == nil {
		s.draft.Move(c.IDs, sketch.Vec{X: p[0], Y: p[1]})
	}
	return err
}

// turn rotates about the point that was chosen last.
func (s *Session) turn(c Command) error {
	ids, centre, err := s.aboutLast(c.IDs)
	if err != nil {
		return err
	}
	p, err := s.list(c.Value, quantity.Angle)
	if err == nil {
		s.draft.Turn(ids, centre, p[0])
	}
	return err
}

// scale grows geometry about the point that was chosen last; sizes that are
// numbers grow with it, formulas are left alone.
func (s *Session) scale(c Command) error {
	ids, centre, err := s.aboutLast(c.IDs)
	if err != nil {
		return err
	}
	p, err := s.list(c.Value, quantity.Number)
	if err != nil {
		return err
	}
	return s.draft.Scale(ids, centre, p[0])
}

// join makes one point of two. It is kept as a coincident constraint, which
// takes two freedoms.
func (s *Session) join(c Command) error {
	if len(c.IDs) != 2 {
		return &NeedsError{"two points"}
	}
	s.draft.Join(c.IDs[0], c.IDs[1])
	return nil
}

// constrain puts a condition on what is chosen. On geometry that nothing can
// move any more it is refused at once, since it could only contradict or be
// spare.
func (s *Session) constrain(c Command) error {
	if len(c.IDs) == 0 {
		return &NeedsError{sketch.Accepts(c.Kind)}
	}
	if !s.movable(c.IDs) {
		return errStill
	}
	s.draft.Constrain(c.Kind, "", c.IDs...)
	return nil
}

// sizeOf finds the size that a command is about.
func (s *Session) sizeOf(c Command) (*sketch.Constraint, error) {
	if k := s.draft.Constraint(c.ID); k != nil {
		return k, nil
	}
	return nil, fmt.Errorf("there is no size %q", c.ID)
}

// set gives a size another value, by which it holds.
func (s *Session) set(c Command) error {
	k, err := s.sizeOf(c)
	if err != nil {
		return err
	}
	value, err := s.positive(c.Value, sketch.Sizes[k.Kind])
	if err != nil {
		return err
	}
	if was := s.sol.Measures[c.ID]; k.Driven || s.onlySize(c.ID) {
		k.Driven = true // so that it does not count as a size that holds already
		if sketch.Sizes[k.Kind] == quantity.Length {
			s.draft.FirstSize(was, value)
		}
	}
	k = s.draft.Constraint(c.ID)
	k.Value, k.Driven = c.Value, false
	return nil
}

// drive has a size measured, or holding again.
func (s *Session) drive(c Command) error {
	k, err := s.sizeOf(c)
	if err != nil {
		return err
	}
	if k.Driven = c.On; !c.On && k.Value == "" {
		k.Value = s.write(quantity.Quantity{Value: s.sol.Measures[c.ID], Dim: sketch.Sizes[k.Kind]})
	}
	return nil
}

// quiet draws a size small and pale; it holds as before.
func (s *Session) quiet(c Command) error {
	if k := s.draft.Constraint(c.ID); k != nil {
		k.Quiet = c.On
	}
	return nil
}

// letter puts the lettering of a size where the hand wants it.
func (s *Session) letter(c Command) error {
	k, err := s.sizeOf(c)
	if err == nil && c.At == nil {
		err = fmt.Errorf("the size %s is put nowhere", c.ID)
	}
	if err != nil {
		return err
	}
	home, ok := s.home(k)
	if !ok {
		return fmt.Errorf("the size %s has no place", c.ID)
	}
	v := c.at().Sub(home).Scale(1 / s.unit.Factor)
	k.At = &[2]float64{v.X, v.Y}
	return nil
}

// tidy has all lettering where it is placed by itself.
func (s *Session) tidy(Command) error {
	for i := range s.draft.Constraints {
		s.draft.Constraints[i].At = nil
	}
	return nil
}
