package session

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Frame is the picture of an assembly. Lengths are in millimetres.
type Frame struct {
	Revision   int            `json:"revision"`
	Name       string         `json:"name"`
	Unit       string         `json:"unit"`
	Note       string         `json:"note,omitempty"`
	Components []ComponentRow `json:"components"`
	// Groups are what was nested before it was laid flat.
	Groups []GroupRow `json:"groups"`
	// Unjoined is how many components no joint names and nothing pins; nested ones, being nested alone holds.
	Unjoined  int           `json:"unjoined"`
	Joints    []JointRow    `json:"joints"`
	Couplings []CouplingRow `json:"couplings"`
	Traces    []TraceRow    `json:"traces"`
	Sizes     []SizeRow     `json:"sizes"` // parameters of the assembly
	Parts     []PartRow     `json:"parts"`
	Items     []ItemRow     `json:"items"`
	Mass      string        `json:"mass"`
	// Low and High are the corners of the box around all components.
	Low  solid.Vec `json:"low"`
	High solid.Vec `json:"high"`
	// Freedom is the number of freedoms, and Reason why counting gives another number.
	Freedom int    `json:"freedom"`
	Counted int    `json:"counted"`
	Reason  string `json:"reason,omitempty"`
	// Ways are those in which it can go on at a change point.
	Ways []string `json:"ways,omitempty"`
	// Says is what there is to say: what is lost, what contradicts.
	Says []Saying `json:"says"`
	Undo string   `json:"undo,omitempty"`
	Redo string   `json:"redo,omitempty"`
	// Needs are parts that have to be made before a change can be done: this is the picture without it.
	Needs *Needs `json:"needs,omitempty"`
}

// Needs are parts that have to be made at the sizes of a document.
type Needs struct {
	Parts    []string        `json:"parts"`
	Document json.RawMessage `json:"document"`
}

// Pose is where a component is: a matrix of four by four, column by column.
type Pose struct {
	Component string      `json:"component"`
	Matrix    [16]float64 `json:"matrix"`
}

// ComponentRow is a component with its freedoms and the beginnings of its motions.
type ComponentRow struct {
	ID      string           `json:"id"`
	Name    string           `json:"name"`
	Part    string           `json:"part"`
	Shape   string           `json:"shape"` // the part at its sizes
	Colour  string           `json:"colour,omitempty"`
	Path    []string         `json:"path"` // the part, and where it is nested the parts that it is nested in before it
	Of      string           `json:"of"`   // the component that it is nested in, or itself
	In      string           `json:"in"`   // the group that it stands in
	Nested  bool             `json:"nested"`
	Moving  bool             `json:"moving"` // what it is nested in moves in itself
	Pinned  bool             `json:"pinned"`
	Freedom int              `json:"freedom"`
	Twists  []assembly.Twist `json:"twists"`
	Pose    Pose             `json:"pose"`
}

// GroupRow is a group of components, and the group that it stands in itself.
type GroupRow struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Number string `json:"number"`
	In     string `json:"in"`
}

// JointRow is a joint. State is held, lost, contradicting, flipped or off.
type JointRow struct {
	Joint assembly.Joint `json:"joint"`
	Title string         `json:"title"`
	Words string         `json:"words"` // what it holds to what
	State string         `json:"state"`
	Sizes []string       `json:"sizes"` // the sizes that its kind has
	Turns bool           `json:"turns"` // it has two ways round
	Bound []string       `json:"bound"` // what can have limits: turn, slide
	Round bool           `json:"round"` // a shaft in a bore, which has a fit
	Drive *Driven        `json:"drive,omitempty"`
}

// Driven says how a joint can be driven: its unit, where it stands, and a range to drive it over. Scale leads from the
// unit to radians or mm.
type Driven struct {
	Unit  string  `json:"unit"`
	Scale float64 `json:"scale"`
	At    float64 `json:"at"`
	Least float64 `json:"least"`
	Most  float64 `json:"most"`
	// Set tells that somebody has set the range, from and to which is written.
	Set  bool   `json:"set"`
	From string `json:"from,omitempty"`
	To   string `json:"to,omitempty"`
}

// ItemRow is a line of the parts list.
type ItemRow struct {
	Number   string `json:"number"`
	Quantity int    `json:"quantity"`
	Name     string `json:"name"`
	Material string `json:"material"`
	Mass     string `json:"mass"`
	Level    int    `json:"level"`
}

// Saying is something to be said, with what to do; Joint is what it is about.
type Saying struct {
	Joint  string `json:"joint,omitempty"`
	What   string `json:"what"`
	Remedy string `json:"remedy"`
}

// Preview is where everything would be with a further joint.
type Preview struct {
	Poses   []Pose `json:"poses"`
	Holds   bool   `json:"holds"`
	Freedom int    `json:"freedom"`
	Sense   string `json:"sense,omitempty"` // how the directions of the two stand, where there are two ways round
}

// Moving is the picture while something is pulled or driven. Value is what a driven joint has come to; Stopped tells
// that the mechanism cannot follow further.
type Moving struct {
	Poses   []Pose  `json:"poses"`
	Value   float64 `json:"value"`
	Stopped bool    `json:"stopped"`
	// Solve is how long solving took, in milliseconds.
	Solve float64 `json:"solve"`
}

// Moving gives the poses alone.
func (s *Session) Moving() *Moving { return &Moving{Poses: poses(s.m)} }

func poses(m *assembly.Mechanism) []Pose {
	out := make([]Pose, len(m.Document.Components))
	for i, c := range m.Document.Components {
		out[i] = pose(m, c.ID)
	}
	return out
}

func pose(m *assembly.Mechanism, component string) Pose { return matrix(component, m.Pose(component)) }

func matrix(component string, at rigid.Pose) Pose {
	return Pose{Component: component, Matrix: at.Matrix()}
}

// mobile is what can move in the present state, worked out once.
func (s *Session) mobile() *assembly.Mobility {
	if s.mobility == nil {
		m := s.m.Mobility()
		s.mobility = &m
	}
	return s.mobility
}

// Frame gives the picture.
func (s *Session) Frame() (*Frame, error) {
	s.mobile()
	out := &Frame{Revision: s.revision, Name: s.doc.Name, Unit: s.doc.Unit, Note: s.doc.Note, Freedom: s.mobility.Freedom,
		Counted: s.mobility.Counted, Reason: s.mobility.Reason,
		Ways: s.mobility.Ways(s.m.Document), Components: []ComponentRow{}, Joints: []JointRow{},
		Unjoined: s.unjoined(), Groups: []GroupRow{}, Items: []ItemRow{}, Sizes: []SizeRow{}, Parts: []PartRow{},
		Says: s.says()}
	for _, g := range s.doc.Groups {
		out.Groups = append(out.Groups, GroupRow{g.ID, g.Name, g.Number, g.In})
	}
	if box, some := s.box(); some {
		out.Low, out.High = box.Min, box.Max
	}
	loose := map[string]*assembly.Loose{}
	for i := range s.mobility.Loose {
		loose[s.mobility.Loose[i].Component] = &s.mobility.Loose[i]
	}
	table, err := s.doc.Table(nil)
	if err != nil {
		return nil, err
	}
	for _, c := range s.m.Document.Components {
		row := ComponentRow{ID: c.ID, Name: c.Title(), Part: c.Part, Of: assembly.Root(c.ID), Pinned: c.Pinned,
			Pose: pose(s.m, c.ID), Twists: []assembly.Twist{}}
		if err := s.partOf(&row, table); err != nil {
			return nil, err
		}
		if l := loose[c.ID]; l != nil {
			row.Freedom, row.Twists = l.Freedom, l.Twists
		}
		out.Components = append(out.Components, row)
	}
	for _, j := range s.doc.Joints {
		out.Joints = append(out.Joints, s.row(j))
	}
	s.ties(out)
	if err := s.sizes(out); err != nil {
		return nil, err
	}
	if n := len(s.undo); n > 0 {
		out.Undo = s.undo[n-1].done
	}
	if n := len(s.redo); n > 0 {
		out.Redo = s.redo[n-1].done
	}
	return out, s.list(out)
}

// partOf says of a row which part it is of, and at which sizes.
func (s *Session) partOf(row *ComponentRow, table *quantity.Table) error {
	root, _ := s.doc.Component(row.Of)
	part, _ := s.doc.Part(root.Part)
	row.Path, row.In = []string{part.ID}, root.In
	row.Nested, row.Moving = row.Of != row.ID, root.Moving
	shapes := s.shapes
	for _, id := range strings.Split(row.ID, "/")[1:] {
		nest := shapes[part.ID].Nest
		c, _ := nest.Document.Component(id)
		part, _ = nest.Document.Part(c.Part)
		shapes, row.Path = nest.Shapes, append(row.Path, part.ID)
		var err error
		if table, err = nest.Document.Table(nil); err != nil {
			return err
		}
	}
	var err error
	row.Colour = part.Colour
	row.Shape, err = part.Shape(table)
	return err
}

// row is a joint for the list.
func (s *Session) row(j assembly.Joint) JointRow {
	row := JointRow{Joint: j, Title: s.doc.TitleOf(&j), State: "held", Sizes: []string{},
		Words: s.called(j.A) + " – " + s.called(j.B)}
	if kind, ok := assembly.KindOf(j.Kind); ok {
		row.Sizes, row.Bound = append(row.Sizes, kind.Sizes...), kind.Bounded()
	}
	_, row.Turns = s.m.Facing(j.ID)
	row.Drive = s.driven(j.ID)
	a, b := s.feature(j.A), s.feature(j.B)
	row.Round = a != nil && b != nil && a.Form == assembly.Cylinder && b.Form == assembly.Cylinder && a.Hollow != b.Hollow
	for _, l := range s.m.Lost() {
		if l.Joint == j.ID {
			row.State = "lost"
		}
	}
	for _, id := range s.solved.Contradiction {
		if id == j.ID {
			row.State = "contradicting"
		}
	}
	for _, id := range s.solved.Flipped {
		if id == j.ID {
			row.State = "flipped"
		}
	}
	if j.Off {
		row.State = "off"
	}
	return row
}

// driven says how a joint can be driven, nil where it cannot: between its limits, and where there are none a turn half
// a round to either side, a shift as far as the assembly is large.
func (s *Session) driven(joint string) *Driven {
	d, err := s.m.Drive(joint)
	if err != nil || !s.solved.Holds {
		return nil
	}
	scale, err := s.scale(d.Turns)
	if err != nil {
		return nil
	}
	out := &Driven{Unit: "°", Scale: scale, At: d.Value() / scale}
	out.Least, out.Most = out.At-180, out.At+180
	if !d.Turns {
		box, _ := s.box()
		out.Unit, out.Least, out.Most = s.doc.Unit, out.At-box.Diagonal()/scale, out.At+box.Diagonal()/scale
	}
	if table, err := s.doc.Table(nil); err == nil {
		if from, to, set, err := s.doc.Range(joint, table); set && err == nil {
			i := slices.IndexFunc(s.doc.Drives, func(x assembly.Driving) bool { return x.Joint == joint })
			out.Set, out.From, out.To = true, s.doc.Drives[i].From, s.doc.Drives[i].To
			out.Least, out.Most = min(from, to)/scale, max(from, to)/scale
		}
	}
	least, most := d.Limits()
	if low := least / scale; !math.IsInf(least, -1) && (!out.Set || out.Least < low) {
		out.Least = low
		out.Most = max(out.Most, out.Least)
	}
	if high := most / scale; !math.IsInf(most, 1) && (!out.Set || out.Most > high) {
		out.Most = high
		out.Least = min(out.Least, out.Most)
	}
	return out
}

// called is what a feature of a component is called.
func (s *Session) called(r address.Ref) string {
	c, ok := s.m.Document.Component(r.Component)
	if !ok {
		return r.String()
	}
	if f := s.feature(r); f != nil {
		return c.Title() + ", " + f.Words
	}
	return c.Title() + ", a feature that is gone"
}

// says lists what there is to say.
func (s *Session) says() []Saying {
	out := []Saying{}
	for _, l := range s.m.Lost() {
		out = append(out, Saying{l.Joint, l.What, l.Remedy})
	}
	_, lost := s.m.Traced()
	for _, l := range lost {
		out = append(out, Saying{What: l.What, Remedy: l.Remedy})
	}
	var list []string
	for _, j := range s.doc.Joints {
		for _, id := range s.solved.Contradiction {
			if j.ID == id {
				list = append(list, s.doc.TitleOf(&j))
			}
		}
	}
	for _, c := range s.doc.Couplings {
		if slices.Contains(s.solved.Contradiction, c.ID) {
			list = append(list, c.Title())
		}
	}
	if len(list) > 0 {
		out = append(out, Saying{s.solved.Contradiction[0], "these joints cannot hold together: " + quantity.List(list,
			len(list)),
			"remove or change one of them; without it the others hold"})
	}
	for _, id := range s.solved.Flipped {
		out = append(out, Saying{id, "this joint holds only the other way round", "turn it, or change the joints around it"})
	}
	return out
}

// list adds the parts list.
func (s *Session) list(out *Frame) error {
	table, err := s.doc.Table(nil)
	if err != nil {
		return err
	}
	items, whole, err := s.m.PartsList(table)
	if err != nil {
		return err
	}
	mass := func(kg float64) string {
		if kg == 0 {
			return "–"
		}
		return fmt.Sprintf("%.4g kg", kg)
	}
	for _, i := range items {
		out.Items = append(out.Items, ItemRow{i.Number, i.Quantity, i.Name, i.Material, mass(i.Mass), i.Level})
	}
	if out.Mass = mass(whole.Mass); len(whole.Unknown) > 0 && whole.Mass > 0 {
		out.Mass += ", without " + quantity.List(whole.Unknown, 3)
	}
	return nil
}
