// Package session is an assembly being put together: commands with undo, offers for picks, pulling, and the picture
// that a screen shows of it.
package session

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/contact"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Session is an open assembly. A command that fails leaves it as it was.
type Session struct {
	doc      *assembly.Document
	shapes   map[string]*assembly.Shape // of the present state, by part
	made     map[string]*assembly.Shape // all that were made so far, by part and sizes
	given    map[string]*assembly.Shape // with a change, by part
	m        *assembly.Mechanism
	solved   assembly.Solved
	mobility *assembly.Mobility // of the present state, once it was asked for
	pull     *assembly.Pull
	drive    *assembly.Drive
	before   *assembly.Document // the state that a pull began in
	undo     []step
	redo     []step
	revision int
	touching *contact.Set // of the revision that touched tells
	touched  int
	drawn    *Drawn // of the revision that drawnAt tells
	drawnAt  int
}

// step is a state that can be gone back to, and what led away from it.
type step struct {
	doc  *assembly.Document
	done string
}

// mostSteps is how far one can go back.
const mostSteps = 200

// Open opens an assembly. Shapes are those of its parts; a component whose part has none is an error.
func Open(doc *assembly.Document, shapes map[string]*assembly.Shape) (*Session, error) {
	s := &Session{made: map[string]*assembly.Shape{}, given: shapes}
	for id, shape := range shapes {
		if _, have := doc.Part(id); !have { // of a part that may be put in, as it is
			s.made[id] = shape
		}
	}
	return s, s.set(doc)
}

// Give gives shapes of parts for the next change: of those that it puts in, and of those that it makes at other sizes.
func (s *Session) Give(shapes map[string]*assembly.Shape) { s.given = shapes }

// set makes a document the present state, solved.
func (s *Session) set(doc *assembly.Document) error {
	if err := doc.Check(); err != nil {
		var fault *assembly.Fault
		if errors.As(err, &fault) { // a person sees where it is, and needs no pointer into a document
			return fmt.Errorf("%s; %s", fault.What, fault.Remedy)
		}
		return err
	}
	shapes, err := s.shapesOf(doc)
	if err != nil {
		return err
	}
	m, err := assembly.New(doc, shapes, nil)
	if err != nil {
		return err
	}
	s.shapes, s.given = shapes, nil
	s.solved = m.Solve()
	s.m, s.doc, s.mobility = m, m.Bound(m.Placed()), nil
	s.revision++
	return nil
}

// Mechanism is a mechanism of its own of the assembly as it stands, solved.
func (s *Session) Mechanism() (*assembly.Mechanism, error) {
	m, err := assembly.New(s.doc, s.shapes, nil)
	if err != nil {
		return nil, err
	}
	m.Solve()
	return m, nil
}

// Document is the assembly as it stands.
func (s *Session) Document() *assembly.Document { return s.doc }

// clone is a copy of the present state that can be changed.
func (s *Session) clone() (*assembly.Document, error) {
	data, err := json.Marshal(s.doc)
	if err != nil {
		return nil, err
	}
	var out assembly.Document
	return &out, json.Unmarshal(data, &out)
}

// Command is a change. Which fields count depends on what is done.
type Command struct {
	Do   string          `json:"do"`
	ID   string          `json:"id,omitempty"`
	Name string          `json:"name,omitempty"`
	On   bool            `json:"on,omitempty"`
	Part *assembly.Part  `json:"part,omitempty"`
	Join *assembly.Joint `json:"join,omitempty"`
	// Couple is a coupling, and Trace a point that is traced.
	Couple *assembly.Coupling `json:"couple,omitempty"`
	Trace  *assembly.Trace    `json:"trace,omitempty"`
	// Joins are several joints at once, as they stand, and Drag draws a component apart.
	Joins []assembly.Joint `json:"joins,omitempty"`
	Drag  *Drag            `json:"drag,omitempty"`
	// Range is over which range a joint is driven.
	Range *assembly.Driving `json:"range,omitempty"`
	// Size is a parameter of the assembly, and Name what it was called.
	Size *quantity.Parameter `json:"size,omitempty"`
}

// Do carries out a command, as one step of undo. The error is a *Needed where parts have to be made for it first.
func (s *Session) Do(c Command) error {
	defer s.Give(nil)
	doc, err := s.clone()
	if err != nil {
		return err
	}
	said, err := s.change(doc, c)
	if err != nil {
		return err
	}
	doc.TidyGroups()
	return s.keep(doc, said)
}

// keep makes a changed document the present state.
func (s *Session) keep(doc *assembly.Document, said string) error {
	was := s.doc
	if err := s.set(doc); err != nil {
		return err
	}
	s.undo = append(s.undo, step{was, said})
	if len(s.undo) > mostSteps {
		s.undo = s.undo[1:]
	}
	s.redo = nil
	return nil
}

// change changes a document and says what was done.
func (s *Session) change(doc *assembly.Document, c Command) (string, error) {
	switch c.Do {
	case "name":
		doc.Name = c.Name
		return "name the assembly", nil
	case "note":
		doc.Note = c.Name
		return "write the note", nil
	case "add":
		return s.add(doc, c)
	case "join":
		return s.join(doc, c)
	case "join-all":
		return joinAll(doc, c)
	case "drive-over":
		return driveOver(doc, c)
	case "draw-apart", "draw-anew":
		return s.drawApart(doc, c)
	case "change-joint", "flip", "remove-joint", "switch-joint":
		return s.joint(doc, c)
	case "lay-all-flat":
		return s.layAllFlat(doc)
	case "name-group":
		return "name a group " + c.Name, doc.NameGroup(c.ID, c.Name)
	case "end-group":
		return "end a group", doc.EndGroup(c.ID)
	case "pin-all":
		for i := range doc.Components {
			doc.Components[i].Pinned = true
		}
		return "pin all components", nil
	case "couple", "change-coupling", "remove-coupling":
		return s.couple(doc, c)
	case "trace", "remove-trace":
		return s.trace(doc, c)
	case "size", "remove-size":
		return resize(doc, c)
	case "part":
		return changePart(doc, c)
	case "renew":
		return renew(doc, c)
	}
	return s.component(doc, c)
}

// component changes a component.
func (s *Session) component(doc *assembly.Document, c Command) (string, error) {
	id := assembly.Root(c.ID) // what is nested goes with the whole
	x, ok := doc.Component(id)
	if !ok {
		return "", fmt.Errorf("there is no component %q", c.ID)
	}
	title := x.Title()
	switch c.Do {
	case "rename":
		x.Name = c.Name
		return "rename " + title, nil
	case "pin":
		x.Pinned = c.On
		if c.On {
			return "pin " + title, nil
		}
		return "unpin " + title, nil
	case "moving":
		x.Moving, x.Inner, x.Turns = c.On, nil, nil
		if c.On {
			return "let " + title + " move in itself", nil
		}
		return "hold " + title + " rigid", nil
	case "lay-flat":
		return "lay " + title + " flat", s.layFlat(doc, x)
	case "copy":
		another := *x
		another.ID, another.Name, another.Pinned = fresh(doc), numbered(doc, x.Title()), false
		another.Pose.Shift = another.Pose.Shift.Add(s.beside(another.Part))
		doc.Components = append(doc.Components, another)
		return "copy " + title, nil
	case "replace":
		if err := s.put(doc, c.Part); err != nil {
			return "", err
		}
		x.Part = c.Part.ID
		unused(doc)
		return "replace " + title, nil
	case "remove":
		remove(doc, id)
		return "remove " + title, nil
	}
	return "", fmt.Errorf("there is no command %q", c.Do)
}

// remove takes a component away with all that is of it.
func remove(doc *assembly.Document, id string) {
	is := func(component string) bool { return assembly.Root(component) == id }
	doc.Components = slices.DeleteFunc(doc.Components, func(o assembly.Component) bool { return o.ID == id })
	doc.Joints = slices.DeleteFunc(doc.Joints, func(j assembly.Joint) bool {
		return is(j.A.Component) || is(j.B.Component)
	})
	doc.Traces = slices.DeleteFunc(doc.Traces, func(t assembly.Trace) bool { return is(t.Of.Component) })
	doc.Apart = slices.DeleteFunc(doc.Apart, func(a assembly.Apart) bool { return is(a.Component) })
	untie(doc)
	unused(doc)
}

// add puts a component of a part in, where there is room; the first one is pinned.
func (s *Session) add(doc *assembly.Document, c Command) (string, error) {
	if err := s.put(doc, c.Part); err != nil {
		return "", err
	}
	x := assembly.Component{ID: fresh(doc), Name: numbered(doc, c.Name), Part: c.Part.ID, Pinned: len(doc.Components) == 0}
	x.Pose.Turn.Real = 1
	if !x.Pinned {
		x.Pose.Shift = s.beside(c.Part.ID)
	}
	doc.Components = append(doc.Components, x)
	return "put in " + x.Name, nil
}

// unused takes away the parts of which nothing is left.
func unused(doc *assembly.Document) {
	doc.Parts = slices.DeleteFunc(doc.Parts, func(p assembly.Part) bool {
		return !slices.ContainsFunc(doc.Components, func(c assembly.Component) bool { return c.Part == p.ID })
	})
}

// put adds a part to the document, unless it is there.
func (s *Session) put(doc *assembly.Document, p *assembly.Part) error {
	if p == nil {
		return errors.New("there is no part to put in")
	}
	if s.shape(p.ID) == nil {
		return fmt.Errorf("the part %s has no shape", p.Name)
	}
	if _, have := doc.Part(p.ID); !have {
		doc.Parts = append(doc.Parts, *p)
	}
	return nil
}

// beside is where a further part stands free of all that there is: to the right of it, and on the same floor.
func (s *Session) beside(part string) solid.Vec {
	own := s.shape(part).Box
	box, some := s.box()
	if !some {
		return solid.Vec{}
	}
	gap := 0.1 * (box.Diagonal() + own.Diagonal())
	return solid.Vec{box.Max[0] - own.Min[0] + gap, 0, 0}
}

// box is around all components.
func (s *Session) box() (box solid.Box, some bool) {
	return s.boxOf(func(_ string, p solid.Vec) solid.Vec { return p })
}

// boxOf is around all components, each place of them moved.
func (s *Session) boxOf(moved func(component string, p solid.Vec) solid.Vec) (box solid.Box, some bool) {
	for _, c := range s.m.Document.Components {
		pose := s.m.Pose(c.ID)
		for _, p := range s.m.Shapes[c.Part].Box.Corners() {
			p = moved(c.ID, pose.Apply(p))
			for k := range 3 {
				if !some {
					box.Min[k], box.Max[k] = p[k], p[k]
				}
				box.Min[k], box.Max[k] = min(box.Min[k], p[k]), max(box.Max[k], p[k])
			}
			some = true
		}
	}
	return box, some
}

// join adds a joint, with On at all places that are alike. Flat faces and round edges are put against one another where
// nothing else is asked for.
func (s *Session) join(doc *assembly.Document, c Command) (string, error) {
	if c.Join == nil {
		return "", errors.New("there is no joint to make")
	}
	j := *c.Join
	j.ID = freshJoint(doc)
	if j.Sense == "" && s.against(&j) {
		j.Sense = assembly.Opposed
	}
	doc.Joints = append(doc.Joints, j)
	if c.On {
		s.joinAlike(doc, j)
	}
	return "join: " + j.Kind, nil
}

// against tells whether both features of a joint have an outside that is put against the other's.
func (s *Session) against(j *assembly.Joint) bool {
	a, b := s.feature(j.A), s.feature(j.B)
	if a == nil || b == nil || a.Form != b.Form {
		return false
	}
	return a.Form == assembly.Plane || a.Form == assembly.Circle
}

func (s *Session) feature(r address.Ref) *assembly.Feature {
	f, ok := s.m.Feature(r)
	if !ok {
		return nil
	}
	return f
}

// joint changes a joint.
func (s *Session) joint(doc *assembly.Document, c Command) (string, error) {
	i := slices.IndexFunc(doc.Joints, func(j assembly.Joint) bool { return j.ID == c.ID })
	if i < 0 {
		return "", fmt.Errorf("there is no joint %q", c.ID)
	}
	j := &doc.Joints[i]
	title := doc.TitleOf(j)
	switch c.Do {
	case "remove-joint":
		doc.Joints = slices.Delete(doc.Joints, i, i+1)
		untie(doc)
		return "remove " + title, nil
	case "switch-joint":
		j.Off = !c.On
		return "loosen or hold " + title, nil
	case "flip":
		sense, ok := s.m.Facing(c.ID)
		if !ok {
			return "", fmt.Errorf("the joint %s has no two ways round", title)
		}
		j.Sense = map[string]string{assembly.Same: assembly.Opposed, assembly.Opposed: assembly.Same}[sense]
		return "turn " + title + " the other way round", nil
	}
	if c.Join == nil {
		return "", errors.New("there is nothing to change")
	}
	id, a, b := j.ID, j.A, j.B
	*j = *c.Join
	j.ID, j.A, j.B = id, a, b
	return "change " + title, nil
}

// Adopt takes a state of the same assembly that was made elsewhere, as one step: a part that was edited in its place,
// or a change in another window. The shapes are those of its parts; done says what was done, where that is known.
func (s *Session) Adopt(doc *assembly.Document, shapes map[string]*assembly.Shape, done string) error {
	s.Give(shapes)
	return s.keep(doc, cmp.Or(done, s.elsewhere(doc)))
}

// elsewhere says what was done elsewhere.
func (s *Session) elsewhere(doc *assembly.Document) string {
	for _, p := range doc.Parts {
		for _, was := range s.doc.Parts {
			if p.Name == was.Name && p.Solid == was.Solid && p.SHA256 != was.SHA256 {
				return "edit " + p.Name
			}
		}
	}
	return "change elsewhere"
}

// Around is where the other components stand in the coordinates of one of them, and what they are.
func (s *Session) Around(component string) ([]ComponentRow, error) {
	f, err := s.Frame()
	if err != nil {
		return nil, err
	}
	if _, ok := s.m.Document.Component(component); !ok {
		return nil, fmt.Errorf("there is no component %q in this assembly any more", component)
	}
	from := s.m.Pose(component).Inverse()
	out := []ComponentRow{}
	for _, c := range f.Components {
		if c.ID != component {
			c.Pose = matrix(c.ID, s.m.Pose(c.ID).Then(from))
			out = append(out, c)
		}
	}
	return out, nil
}

// Undo goes one step back, and Redo forward again. Without a step they do nothing.
func (s *Session) Undo() error { return s.back(&s.undo, &s.redo) }

// Redo goes forward again.
func (s *Session) Redo() error { return s.back(&s.redo, &s.undo) }

func (s *Session) back(from, to *[]step) error {
	if len(*from) == 0 {
		return nil
	}
	last := (*from)[len(*from)-1]
	*from, *to = (*from)[:len(*from)-1], append(*to, step{s.doc, last.done})
	return s.set(last.doc)
}

// Take takes hold of a component at a place in space, and tells whether it can move.
func (s *Session) Take(component string, at solid.Vec) bool {
	s.pull, s.before = s.m.Pull(component, at), s.doc
	return s.pull != nil
}

// Pull pulls what is held towards a place.
func (s *Session) Pull(to solid.Vec) {
	if s.pull != nil {
		s.pull.To(to)
	}
}

// Release lets go of what is pulled or driven. With keep the assembly stays as it is, as one step; else it goes back.
func (s *Session) Release(keep bool) error {
	if s.pull == nil && s.drive == nil {
		return nil
	}
	s.pull, s.drive = nil, nil
	if !keep {
		return s.set(s.before)
	}
	return s.keep(s.m.Placed(), "move")
}

// Drive brings a joint to a value, in degrees or in the unit of the assembly, as far as the mechanism can follow. It is
// one step with what is driven after it, until Release.
func (s *Session) Drive(joint string, value float64) (*Moving, error) {
	if s.drive == nil || s.drive.Joint() != joint {
		d, err := s.m.Drive(joint)
		if err != nil {
			return nil, err
		}
		if s.drive == nil {
			s.before = s.doc
		}
		s.drive = d
	}
	scale, err := s.scale(s.drive.Turns)
	if err != nil {
		return nil, err
	}
	out := &Moving{Stopped: s.drive.To(value*scale, nil)}
	out.Value, out.Poses = s.drive.Value()/scale, poses(s.m)
	return out, nil
}

// Wiggle gives the poses of frames in which a component moves to and fro as it still can; none where it is held.
func (s *Session) Wiggle(component string, frames int) [][]Pose {
	out := [][]Pose{}
	box, _ := s.box()
	s.m.Wiggle(component, 0.06*box.Diagonal(), frames, func() { out = append(out, poses(s.m)) })
	return out
}

// scale leads from degrees, or from the unit of the assembly, to radians or millimetres.
func (s *Session) scale(turns bool) (float64, error) {
	if turns {
		return math.Pi / 180, nil
	}
	unit, err := quantity.LengthUnit(s.doc.Unit)
	return unit.Factor, err
}

// Preview is where everything would be with a further joint, and the freedoms that would be left.
func (s *Session) Preview(j assembly.Joint) (*Preview, error) {
	doc, err := s.clone()
	if err != nil {
		return nil, err
	}
	if _, err := s.join(doc, Command{Join: &j}); err != nil {
		return nil, err
	}
	if err := doc.Check(); err != nil {
		return nil, err
	}
	m, err := assembly.New(doc, s.shapes, nil)
	if err != nil {
		return nil, err
	}
	solved := m.Solve()
	sense, _ := m.Facing(doc.Joints[len(doc.Joints)-1].ID)
	return &Preview{Poses: poses(m), Sense: sense, Holds: solved.Holds && len(m.Lost()) == len(s.m.Lost()),
		Freedom: m.Mobility().Freedom}, nil
}

// Offers lists the joints that two features can have.
func (s *Session) Offers(a, b address.Ref) ([]assembly.Offer, error) {
	fa, fb := s.feature(a), s.feature(b)
	if fa == nil || fb == nil {
		return nil, errors.New("this is nothing that can be joined: pick a flat or round face, an edge or a corner")
	}
	if a.Component == b.Component {
		return nil, errors.New("both are of one component: pick the second on another one")
	}
	return assembly.Offers(fa, fb), nil
}

// fresh is an id that no component has had.
func fresh(doc *assembly.Document) string {
	return free("c", len(doc.Components), func(id string) bool { _, have := doc.Component(id); return have })
}

func freshJoint(doc *assembly.Document) string {
	return free("j", len(doc.Joints), func(id string) bool { _, have := doc.Joint(id); return have })
}

// free is an id of a kind that is not taken yet.
func free(letter string, from int, taken func(string) bool) string {
	for i := from + 1; ; i++ {
		if id := fmt.Sprintf("%s%d", letter, i); !taken(id) {
			return id
		}
	}
}

// numbered is a name that no component has yet.
func numbered(doc *assembly.Document, name string) string {
	taken := func(n string) bool {
		return slices.ContainsFunc(doc.Components, func(c assembly.Component) bool { return c.Title() == n })
	}
	if !taken(name) {
		return name
	}
	for i := 2; ; i++ {
		if n := fmt.Sprintf("%s %d", name, i); !taken(n) {
			return n
		}
	}
}
