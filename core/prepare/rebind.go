package prepare

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Rebound is an exercise around another reference.
type Rebound struct {
	Exercise *exercise.Exercise `json:"exercise"`
	// Kept counts what is bound as it was; Bindings lists what is doubtful or lost, Changes what is stated otherwise.
	Kept     int        `json:"kept"`
	Bindings []Binding  `json:"bindings"`
	Changes  []Restated `json:"changes"`
	// Turned: the part lies otherwise in the new file.
	Turned bool `json:"turned"`
}

// Binding is a part of an exercise that names faces which are doubtful or lost on the new reference.
type Binding struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	Lost  bool   `json:"lost"`
	What  string `json:"what"`
	// Faces are those that it would have, by number.
	Faces []address.Ref `json:"faces"`
}

// Restated is a characteristic that states something else on the new reference.
type Restated struct {
	Balloon int    `json:"balloon"`
	Label   string `json:"label"`
	Was     string `json:"was"`
	Is      string `json:"is"`
}

// rebinder puts an exercise onto another reference.
type rebinder struct {
	was, is  *solid.Geometry
	byName   bool // both are models, whose names persist
	faces    inspect.Rebinding
	called   []string // the faces of the reference that was
	accepted []string
	printed  bool // what was is known by its prints alone, so that nothing can be measured on it
	out      *Rebound
}

// Rebind puts an exercise onto another reference, whose faces have other numbers or names: each face that it names is
// looked for by what it is. What is doubtful is taken over where its id is accepted, and is left out else, as what is
// lost; both are listed, and nothing is guessed. The exercise itself stays as it is.
func Rebind(ctx context.Context, c *check.Checker, ex exercise.Exercise, was, is check.Reference,
	accepted []string) (*Rebound, error) {
	b := &rebinder{accepted: accepted, byName: was.Document != nil && is.Document != nil,
		out: &Rebound{Bindings: []Binding{}, Changes: []Restated{}}}
	old, geo, _, err := described(ctx, c, was)
	if err != nil {
		return nil, err
	}
	b.was, b.called = geo, Called(old.Names, geo, was.Document.Titles(), ex.Unit)
	_, geo, build, err := described(ctx, c, is)
	if err != nil {
		return nil, err
	}
	b.is = geo
	b.faces = inspect.Rebind(b.was, b.is)
	b.out.Turned = b.faces.Turned
	var driving []string
	if build != nil {
		driving = build.Table.Driving()
	}
	ex.Reference = "reference.step"
	if is.Document != nil {
		ex.Reference = "reference.json"
	}
	b.out.Exercise = b.rebound(ex, driving)
	return b.out, nil
}

// rebound is an exercise bound to the new reference, which has some driving sizes.
func (b *rebinder) rebound(ex exercise.Exercise, driving []string) *exercise.Exercise {
	ex.Loose, ex.Prints = nil, nil
	b.characteristics(&ex, driving)
	b.whatIfs(&ex, driving)
	b.personal(&ex, driving)
	b.refused(&ex)
	ex.Sheets = slices.Clone(ex.Sheets)
	gone := map[string]bool{}
	for i := range ex.Sheets {
		b.sheet(&ex.Sheets[i], gone)
	}
	ex.Sheets.Drop(func(id string) bool { return ex.Characteristic(id) == nil })
	return &ex
}

// described loads a reference with its geometry; the build is that of a model.
func described(ctx context.Context, c *check.Checker, ref check.Reference) (*part.Named, *solid.Geometry, *part.Build,
	error) {
	named, build, err := c.Load(ctx, ref)
	if err != nil {
		return nil, nil, nil, err
	}
	geo, err := check.Described(c.Rebuilder.Kernel(), named)
	return named, geo, build, err
}

// characteristics binds the characteristics to the new reference.
func (b *rebinder) characteristics(ex *exercise.Exercise, driving []string) {
	before := *ex
	ex.Characteristics = nil
	for _, c := range before.Characteristics {
		if !slices.Contains(driving, c.Parameter) {
			c.Parameter = ""
		}
		whole := c.Declared().Whole()
		if whole {
			b.out.Kept++
		}
		if whole || b.characteristic(&c) && b.exact(ex, &c) {
			ex.Characteristics = append(ex.Characteristics, c)
			b.restated(&before, ex, &c)
		}
	}
}

// exact gives a characteristic its exact place on the new reference, and tells whether it stays.
func (b *rebinder) exact(ex *exercise.Exercise, c *exercise.Characteristic) bool {
	exact, err := inspect.ExactPlace(b.is, c)
	if err != nil {
		return b.told(c.ID, c.Label, true, err.Error(), nil)
	}
	for i, v := range exact {
		from := c.Declared().From
		was, is := ex.StateOf(from, c.Exact[i]).Text, ex.StateOf(from, v).Text
		if !b.printed && was != is {
			b.out.Changes = append(b.out.Changes, Restated{c.Balloon, c.Label, was, is})
		}
	}
	c.Exact = exact
	return true
}

// characteristic binds one to the faces that its own have become, and tells whether it stays.
func (b *rebinder) characteristic(c *exercise.Characteristic) bool {
	places, err := inspect.Places(b.was, c)
	if err != nil {
		return b.told(c.ID, c.Label, true, "it was bound to no face before", nil)
	}
	lines := slices.ContainsFunc(c.Of, func(p []address.Ref) bool {
		return slices.ContainsFunc(p, func(r address.Ref) bool { return strings.Contains(r.Name, "&") })
	})
	var of [][]address.Ref
	var now []characteristic.Place
	var gone []string
	doubtful := ""
	for _, p := range places {
		place, lost, unsure := b.place(p)
		if lost >= 0 {
			gone = append(gone, b.called[lost])
			continue
		}
		if unsure >= 0 {
			doubtful = b.called[unsure] + " is not surely the same face"
		}
		now = append(now, place)
		of = append(of, b.written(place, lines))
	}
	var faces []int
	for _, p := range now {
		faces = append(faces, p.Faces()...)
	}
	switch {
	case len(now) == 0:
		return b.told(c.ID, c.Label, true, strings.Join(distinct(gone), ", ")+": no such face any more", nil)
	case len(gone) > 0:
		doubtful = fmt.Sprintf("%d of %d places are gone: %s", len(gone), len(places), strings.Join(distinct(gone), ", "))
	}
	// Names that still say what they said stay: a pattern takes in what comes later. Those of a model say so for certain;
	// that a file has the same numbers says nothing.
	named, err := inspect.Places(b.is, c)
	same := err == nil && sameFaces(named, now)
	if !same {
		c.Of = of
	}
	if doubtful != "" && !(same && b.byName && len(gone) == 0) {
		return b.told(c.ID, c.Label, false, doubtful, faces)
	}
	b.out.Kept++
	return true
}

// place is a place on the new reference; lost is a face that is not there, and unsure one that is doubtful, or -1.
func (b *rebinder) place(p characteristic.Place) (out characteristic.Place, lost, unsure int) {
	lost, unsure = -1, -1
	for _, operand := range p {
		var list []int
		for _, f := range operand {
			j := b.faces.Of[f]
			if j < 0 || len(b.is.Names[j]) == 0 {
				return nil, f, unsure
			}
			if b.faces.Doubtful[f] {
				unsure = f
			}
			list = append(list, j)
		}
		out = append(out, list)
	}
	return out, -1, unsure
}

// written is a place as a document has it; with lines an operand of two faces is the line in which they meet.
func (b *rebinder) written(p characteristic.Place, lines bool) []address.Ref {
	var out []address.Ref
	for _, operand := range p {
		if lines && len(operand) == 2 {
			out = append(out, b.named(operand))
			continue
		}
		for _, f := range operand {
			out = append(out, b.named([]int{f}))
		}
	}
	return out
}

// named is the address of faces of the new reference.
func (b *rebinder) named(faces []int) address.Ref {
	var names []string
	for _, f := range faces {
		names = append(names, b.is.Address(f))
	}
	return address.Ref{Name: strings.Join(names, " & ")}
}

// sameFaces tells whether places have the same faces, in whatever order.
func sameFaces(a, b []characteristic.Place) bool {
	all := func(list []characteristic.Place) []int {
		var out []int
		for _, p := range list {
			out = append(out, p.Faces()...)
		}
		slices.Sort(out)
		return slices.Compact(out)
	}
	return slices.Equal(all(a), all(b))
}

// refused binds what is not to be read from the drawing.
func (b *rebinder) refused(ex *exercise.Exercise) {
	before := ex.Refused
	ex.Refused = nil
	for i, e := range before {
		e.Of = slices.Clone(e.Of)
		if b.refs(fmt.Sprintf("refused:%d", i), "“"+e.What+"”, which is not to be read from the drawing", e.Of) {
			ex.Refused = append(ex.Refused, e)
		}
	}
}

// told lists a binding, each thing once, and tells whether what it is of stays.
func (b *rebinder) told(id, label string, lost bool, what string, faces []int) bool {
	if i := slices.IndexFunc(b.out.Bindings, func(x Binding) bool { return x.ID == id }); i >= 0 {
		had := &b.out.Bindings[i]
		had.Lost, had.What = had.Lost || lost, had.What+"; "+what
		had.Faces = append(had.Faces, address.Faces(faces)...)
		return !had.Lost && slices.Contains(b.accepted, id)
	}
	b.out.Bindings = append(b.out.Bindings, Binding{ID: id, Label: label, Lost: lost, What: what,
		Faces: address.Faces(faces)})
	return !lost && slices.Contains(b.accepted, id)
}

// restated notes a characteristic that states something else than before.
func (b *rebinder) restated(was, is *exercise.Exercise, c *exercise.Characteristic) {
	if b.printed {
		return
	}
	_, before, err := check.Nominal(b.was, was, was.Characteristic(c.ID))
	if err != nil {
		return
	}
	text := "cannot be measured"
	if _, after, err := check.Nominal(b.is, is, c); err == nil {
		text = after.Text
	}
	if text != before.Text {
		b.out.Changes = append(b.out.Changes, Restated{c.Balloon, c.Label, before.Text, text})
	}
}

// personal leaves out ranges of sizes that the new reference has not.
func (b *rebinder) personal(ex *exercise.Exercise, driving []string) {
	ex.Personal = slices.DeleteFunc(slices.Clone(ex.Personal), func(r exercise.Range) bool {
		return !slices.Contains(driving, r.Parameter) && !b.told("personal:"+r.Parameter, "Personal sizes of "+r.Parameter,
			true, "the new reference has no such size", nil)
	})
	if len(ex.Personal) == 0 {
		ex.Personal = nil
	}
}

// whatIfs leaves out what changes sizes that the new reference has not.
func (b *rebinder) whatIfs(ex *exercise.Exercise, driving []string) {
	ex.WhatIfs = slices.DeleteFunc(slices.Clone(ex.WhatIfs), func(w exercise.WhatIf) bool {
		var gone []string
		for name := range w.Set {
			if !slices.Contains(driving, name) {
				gone = append(gone, name)
			}
		}
		slices.Sort(gone)
		return len(gone) > 0 && !b.told("what-if:"+w.Name, "What-if “"+w.Name+"”", true,
			"the new reference has no "+quantity.Count(len(gone), "size", "sizes")+" "+strings.Join(gone, ", "), nil)
	})
	if len(ex.WhatIfs) == 0 {
		ex.WhatIfs, ex.WhatIfFiles = nil, false
	}
}

// refs binds addresses in place, and tells whether all of them stay.
func (b *rebinder) refs(id, label string, list []address.Ref) bool {
	for i, r := range list {
		if r.Name == "" {
			continue
		}
		faces, err := inspect.Operand(b.was, r)
		if err != nil {
			return b.told(id, label, true, "it was bound to no face before", nil)
		}
		place, lost, unsure := b.place(characteristic.Place{faces})
		if lost >= 0 {
			return b.told(id, label, true, b.called[lost]+": no such face any more", nil)
		}
		if unsure >= 0 && !b.told(id, label, false, b.called[unsure]+" is not surely the same face", place.Faces()) {
			return false
		}
		list[i] = b.named(place[0])
	}
	return true
}

// sheet binds what the views and marks of a sheet stand by; views that cannot be bound are gone, with those that are
// laid out from them.
func (b *rebinder) sheet(s *exercise.Sheet, gone map[string]bool) {
	if s.Stands != nil {
		both := []address.Ref{s.Stands.Up, s.Stands.Front}
		lying := s.Stands.Lying
		if s.Stands = nil; b.refs("stands", "How the part stands", both) {
			s.Stands = &exercise.Standing{Up: both[0], Front: both[1], Lying: lying}
		}
	}
	views := s.Views
	s.Views = nil
	for _, v := range views {
		if gone[v.Parent] || !b.view(&v) {
			gone[v.ID] = true
			continue
		}
		s.Views = append(s.Views, v)
	}
	s.Marks = slices.DeleteFunc(slices.Clone(s.Marks), func(m exercise.Mark) bool {
		return gone[m.View]
	})
	for i := range s.Marks {
		s.Marks[i].Anchors = slices.Clone(s.Marks[i].Anchors)
	}
	s.Marks = slices.DeleteFunc(s.Marks, func(m exercise.Mark) bool {
		what := map[string]string{exercise.SymbolMark: "The symbol “" + m.Text + "”"}[m.Kind]
		return !b.refs("mark:"+m.ID, cmp.Or(what, "The size in parentheses "+m.ID), m.Anchors)
	})
}

// view binds a view, and tells whether it stays: one without its cut or its face is another view.
func (b *rebinder) view(v *exercise.View) bool {
	label := "The view " + v.ID
	if v.Letter != "" {
		label = "The section " + v.Letter
	}
	square, origin := []address.Ref{v.Square}, []address.Ref{v.Origin}
	if !b.refs("view:"+v.ID, label, square) {
		return false
	}
	v.Square = square[0]
	if b.refs("origin:"+v.ID, "The place of the view "+v.ID, origin) {
		v.Origin = origin[0]
	} else {
		v.Origin, v.Middle = address.Ref{}, true
	}
	if v.Cut == nil {
		return true
	}
	cut := *v.Cut
	cut.Path, cut.Whole = slices.Clone(cut.Path), slices.Clone(cut.Whole)
	v.Cut = &cut
	if !b.refs("whole:"+v.ID, "A rib of "+strings.ToLower(label[:1])+label[1:], cut.Whole) {
		cut.Whole = nil
	}
	return b.refs("view:"+v.ID, label, cut.Path)
}

// distinct leaves out what stands in a list before.
func distinct(list []string) []string {
	var out []string
	for _, x := range list {
		if !slices.Contains(out, x) {
			out = append(out, x)
		}
	}
	return out
}
