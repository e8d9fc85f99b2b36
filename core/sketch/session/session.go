// Package session is a sketch being edited: its geometry, its parameters, what
// was done and can be undone, and the picture of it. It knows no screen: places
// are in millimetres with y upwards, and whoever shows it says how large a pixel
// is.
package session

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
	"hammerset/core/sketch/edit"
	"hammerset/core/sketch/interval"
	"hammerset/core/sketch/review"
)

// Document is what a session edits: one sketch and the parameters of its model.
type Document struct {
	Unit        string               `json:"unit"`
	Parameters  []quantity.Parameter `json:"parameters"`
	Entities    []sketch.Entity      `json:"entities"`
	Constraints []sketch.Constraint  `json:"constraints"`
	Elsewhere   []string             `json:"elsewhere,omitempty"` // formulas of the model's other steps
}

// Session is a sketch being edited. It is not safe for concurrent use.
type Session struct {
	unit     quantity.Unit
	params   []quantity.Parameter
	table    *quantity.Table
	draft    *edit.Draft
	sol      *sketch.Solution
	called   *called.Names    // what the geometry is called
	calledIn *sketch.Solution // in which solution
	findings []review.Finding
	analysed bool
	revision int
	undo     []snapshot
	redo     []snapshot
	pulling  *pulling
	trying   *trying
	cursor   sketch.Vec // where the hand last was while drawing
	arcSide  float64    // the side on which the hand last saw an arc
	shown    *Frame     // the picture that was given last
	others   []string   // formulas of the model's other steps
}

// snapshot is a state to go back to, and what was done after it.
type snapshot struct {
	sketch *sketch.Sketch
	params []quantity.Parameter
	label  string
}

// pulling is a drag under way.
type pulling struct {
	drag *sketch.Drag
	id   string
	from sketch.Vec
	was  *sketch.Sketch
}

// trying is a parameter held at another value for a look.
type trying struct {
	name   string
	sketch *sketch.Sketch // the geometry before
	table  *quantity.Table
}

// maxUndo bounds how many steps can be undone.
const maxUndo = 300

// Open starts a session. The error names what cannot be read.
func Open(d Document) (*Session, error) {
	unit, err := quantity.LengthUnit(d.Unit)
	if err != nil {
		return nil, err
	}
	s := &Session{unit: unit, params: slices.Clone(d.Parameters), others: d.Elsewhere}
	if s.table, err = quantity.Evaluate(s.params, unit, nil); err != nil {
		return nil, err
	}
	s.draft = &edit.Draft{Sketch: (&sketch.Sketch{Entities: d.Entities, Constraints: d.Constraints}).Clone(),
		Unit: unit, Values: s.table}
	return s, s.solve()
}

// Document is the sketch as it stands.
func (s *Session) Document() Document {
	c := s.draft.Sketch.Clone()
	d := Document{Unit: s.unit.Symbol, Parameters: slices.Clone(s.params), Entities: c.Entities,
		Constraints: c.Constraints}
	if d.Parameters == nil {
		d.Parameters = []quantity.Parameter{}
	}
	if d.Entities == nil {
		d.Entities = []sketch.Entity{}
	}
	if d.Constraints == nil {
		d.Constraints = []sketch.Constraint{}
	}
	return d
}

// Solution is the sketch as it is solved now.
func (s *Session) Solution() *sketch.Solution { return s.sol }

// Curves are the solved curves, for exporting.
func (s *Session) Curves() []sketch.Curve { return s.sol.Curves }

// solve places the draft's geometry where its constraints and sizes want it. A
// sketch that contradicts itself stays where it was drawn.
func (s *Session) solve() error {
	err := s.look()
	if err == nil && s.sol.Solved {
		s.sol.System().Store(s.draft.Sketch)
	}
	return err
}

// look solves without writing the geometry into the draft.
func (s *Session) look() error {
	sol, err := sketch.Place(s.draft.Sketch, s.unit.Factor, s.draft.Values)
	if err != nil {
		return err
	}
	if !sol.Solved {
		// Shown as it was drawn, so that nothing jumps; what contradicts is found
		// by Analyse.
		if kept, err := s.drawn(); err == nil {
			sol.Curves, sol.Points = kept.Curves, kept.Points
		}
	}
	s.sol, s.analysed, s.findings = sol, false, nil
	s.revision++
	return nil
}

// drawn is the geometry without any solving.
func (s *Session) drawn() (*sketch.Solution, error) {
	sys, err := sketch.Compile(&sketch.Sketch{Entities: s.draft.Entities}, s.unit.Factor, s.draft.Values)
	if err != nil {
		return nil, err
	}
	return sys.Solution(), nil
}

// Analyse finds what is loose, spare or contradicting, and looks the sketch
// over. It may take a moment on large sketches.
func (s *Session) Analyse() {
	if s.analysed {
		return
	}
	s.sol.Analyse()
	s.findings = review.Review(s.draft, s.sol, s.table)
	s.analysed = true
}

// Findings are those of the last Analyse.
func (s *Session) Findings() []review.Finding { return s.findings }

// remember keeps a whole state for undo. Sketches are small (a few hundred
// entities), so that keeping a copy is cheaper and surer than keeping what would
// undo a change.
func (s *Session) remember(label string) snapshot {
	return snapshot{s.draft.Sketch.Clone(), slices.Clone(s.params), label}
}

// restore goes to a state that was kept, and solves and analyses it anew.
func (s *Session) restore(k snapshot) error {
	s.params = k.params
	t, err := quantity.Evaluate(s.params, s.unit, nil)
	if err != nil {
		return err
	}
	s.table, s.draft.Values = t, t
	s.draft.Sketch = k.sketch
	return s.look()
}

// change runs an edit as one step that can be undone. When it fails, nothing has
// changed.
func (s *Session) change(label string, f func() error) error {
	s.pulling = nil
	if s.trying != nil {
		if err := s.EndTry(false); err != nil {
			return err
		}
	}
	before := s.remember(label)
	err := f()
	if err == nil {
		err = s.solve()
	}
	if err != nil {
		return errors.Join(err, s.restore(before))
	}
	s.undo = append(s.undo, before)
	if len(s.undo) > maxUndo {
		s.undo = s.undo[1:]
	}
	s.redo = nil
	return nil
}

// Undo takes the last step back; Redo does it again. They report what it was.
func (s *Session) Undo() (string, error) { return s.back(&s.undo, &s.redo) }

// Redo does again what was undone last.
func (s *Session) Redo() (string, error) { return s.back(&s.redo, &s.undo) }

// back takes the last state of one list and puts the present one on the other:
// undo and redo are the same movement.
func (s *Session) back(from, to *[]snapshot) (string, error) {
	if len(*from) == 0 {
		return "", nil
	}
	k := (*from)[len(*from)-1]
	*from = (*from)[:len(*from)-1]
	*to = append(*to, s.remember(k.label))
	return k.label, s.restore(k)
}

// Take begins to pull an entity that was taken at a place. It reports false when
// nothing of it can move.
func (s *Session) Take(id string, at sketch.Vec) bool {
	if !s.sol.Solved {
		return false
	}
	d := s.sol.System().NewDrag(id)
	if d == nil {
		return false
	}
	if p, ok := s.sol.Points[id]; ok {
		at = p
	}
	s.pulling = &pulling{drag: d, id: id, from: at, was: s.draft.Sketch.Clone()}
	return true
}

// Pull pulls what was taken to a place. Every frame is a solved state.
func (s *Session) Pull(to sketch.Vec) bool {
	p := s.pulling
	if p == nil {
		return false
	}
	ok := p.drag.To(p.from, to)
	now := p.drag.Solution()
	s.sol.Curves, s.sol.Points, s.sol.Measures = now.Curves, now.Points, now.Measures
	s.revision++
	return ok
}

// Release ends a pull; it is one step to undo. With keep false everything goes
// back.
func (s *Session) Release(keep bool) error {
	p := s.pulling
	s.pulling = nil
	if p == nil {
		return nil
	}
	if !keep {
		s.draft.Sketch = p.was
		return s.look()
	}
	before := snapshot{p.was, slices.Clone(s.params), "pull " + p.id}
	p.drag.Store(s.draft.Sketch)
	if err := s.solve(); err != nil {
		return err
	}
	s.undo, s.redo = append(s.undo, before), nil
	return nil
}

// Wiggle gives frames of the motion of something loose, there and back; each is a
// solved state. amplitude is in millimetres.
func (s *Session) Wiggle(id string, frames int, amplitude float64) [][]sketch.Curve {
	s.Analyse()
	return s.sol.Motion(id, frames, amplitude)
}

// Try holds a parameter at another value to see what happens; nothing is changed
// until EndTry keeps it.
func (s *Session) Try(name string, value float64) error {
	q, ok := s.table.Lookup(name)
	if !ok {
		return fmt.Errorf("there is no parameter named %q", name)
	}
	if s.trying == nil || s.trying.name != name {
		if err := s.EndTry(false); err != nil {
			return err
		}
		s.trying = &trying{name: name, sketch: s.draft.Sketch.Clone(), table: s.table}
	}
	t, err := quantity.Evaluate(s.params, s.unit, map[string]quantity.Quantity{name: {Value: value, Dim: q.Dim}})
	if err != nil {
		return err
	}
	s.draft.Values = t
	return s.solve()
}

// EndTry puts the parameter back, or keeps the value tried as its formula.
func (s *Session) EndTry(keep bool) error {
	t := s.trying
	if t == nil {
		return nil
	}
	s.trying = nil
	tried, _ := s.draft.Values.(*quantity.Table)
	s.draft.Sketch, s.draft.Values, s.table = t.sketch, t.table, t.table
	if keep && tried != nil {
		q, _ := tried.Lookup(t.name)
		return s.SetParameter(t.name, t.name, s.write(q), "")
	}
	return s.look()
}

// write gives a quantity as a formula in the document's unit.
func (s *Session) write(q quantity.Quantity) string {
	return quantity.FormulaFormat(s.unit).Text(q)
}

// number writes a value in the document's unit, or in degrees.
func (s *Session) number(q quantity.Quantity) string {
	return quantity.BoardFormat(s.unit).Text(q)
}

// SetParameter changes a parameter, renames it in every formula, or adds it when
// old is empty. An empty note leaves the note.
func (s *Session) SetParameter(old, name, formula, note string) error {
	return s.change("parameter "+name, func() error {
		at := slices.IndexFunc(s.params, func(p quantity.Parameter) bool { return p.Name == old })
		if old != "" && at < 0 {
			return fmt.Errorf("there is no parameter named %q", old)
		}
		s.params = slices.Clone(s.params)
		if at < 0 {
			s.params = append(s.params, quantity.Parameter{})
			at = len(s.params) - 1
		}
		p := &s.params[at]
		p.Name, p.Formula = name, formula
		if note != "" {
			p.Note = note
		}
		if old != "" && old != name {
			if err := s.elsewhere(old); err != nil {
				return err
			}
			for i := range s.params {
				s.params[i].Formula = quantity.Rename(s.params[i].Formula, old, name)
			}
			for i := range s.draft.Constraints {
				s.draft.Constraints[i].Value = quantity.Rename(s.draft.Constraints[i].Value, old, name)
			}
		}
		return s.reevaluate()
	})
}

// RemoveParameter takes a parameter away that no formula uses.
func (s *Session) RemoveParameter(name string) error {
	return s.change("remove parameter "+name, func() error {
		for _, p := range s.params {
			if p.Name != name && uses(p.Formula, name) {
				return fmt.Errorf("%s is used by the parameter %s", name, p.Name)
			}
		}
		for _, k := range s.draft.Constraints {
			if uses(k.Value, name) {
				return fmt.Errorf("%s is used by a size: %s", name, s.names().Constraint(k))
			}
		}
		if err := s.elsewhere(name); err != nil {
			return err
		}
		s.params = slices.DeleteFunc(slices.Clone(s.params), func(p quantity.Parameter) bool { return p.Name == name })
		return s.reevaluate()
	})
}

// elsewhere refuses to touch the name of a parameter that other steps use.
func (s *Session) elsewhere(name string) error {
	for _, f := range s.others {
		if uses(f, name) {
			return fmt.Errorf("%s is used by another step of the model (%s)", name, f)
		}
	}
	return nil
}

// reevaluate works the parameters out after one has changed.
func (s *Session) reevaluate() error {
	t, err := quantity.Evaluate(s.params, s.unit, nil)
	if err != nil {
		return err
	}
	s.table, s.draft.Values = t, t
	return nil
}

// uses tells whether a formula names a parameter. A formula that cannot be read
// uses nothing.
func uses(formula, name string) bool {
	f, err := quantity.Parse(formula)
	return err == nil && slices.Contains(f.Names(), name)
}

// Reach finds the interval within which the sketch holds when a parameter is
// varied, or the size with that id.
func (s *Session) Reach(ctx context.Context, name string) (interval.Interval, error) {
	if _, ok := s.table.Lookup(name); ok {
		q, set, err := interval.Parameter(s.params, s.unit, name)
		if err != nil {
			return interval.Interval{}, err
		}
		return interval.Find(ctx, s.draft.Sketch, s.unit.Factor, q.Value, set)
	}
	sk, nominal, set, err := interval.Size(s.draft.Sketch, name, s.draft.Values)
	if err != nil {
		return interval.Interval{}, err
	}
	return interval.Find(ctx, sk, s.unit.Factor, nominal, set)
}

// emptyDraft is a draft without anything in it, for trying out shapes.
func (s *Session) emptyDraft() *edit.Draft {
	return &edit.Draft{Sketch: &sketch.Sketch{}, Unit: s.unit, Values: s.table}
}

// ToUnit gives a value of a parameter or size, in millimetres or radians, in the
// document's unit or in degrees; FromUnit is its inverse.
func (s *Session) ToUnit(name string, v float64) float64 {
	return s.plain(quantity.Quantity{Value: v, Dim: s.dim(name)})
}

// FromUnit gives a value in the document's unit or degrees as millimetres or
// radians.
func (s *Session) FromUnit(name string, v float64) float64 {
	return v / s.plain(quantity.Quantity{Value: 1, Dim: s.dim(name)})
}

// dim is the dimension of a parameter or size by its name; what is unknown
// counts as a plain number.
func (s *Session) dim(name string) quantity.Dim {
	if q, ok := s.table.Lookup(name); ok {
		return q.Dim
	}
	if k := s.draft.Constraint(name); k != nil {
		return sketch.Sizes[k.Kind]
	}
	return quantity.Number
}
