package atlas

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Edit is one change of the reference: Do is off (the step is left out), reverse, new (a
// solid of its own), extent (Text is a kind), formula (that of number Index of the step
// becomes Text), edge or at (number Index of the list is left out), around (all edges of the
// face Text are taken as well), thread (the thread is Text), start (the bolt circle begins at the angle Text), move (what
// the step makes stands elsewhere; Text is the motion, as JSON).
type Edit struct {
	Step  string `json:"step"`
	Do    string `json:"do"`
	Index int    `json:"index,omitempty"`
	Text  string `json:"text,omitempty"`
}

// Apply gives a copy of the document with edits.
func Apply(d *part.Document, edits []Edit) (*part.Document, error) {
	data, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	var out part.Document
	if err := json.Unmarshal(data, &out); err != nil {
		return nil, err
	}
	gone := map[Edit]bool{}
	for _, e := range edits {
		i := slices.IndexFunc(out.Steps, func(s part.Step) bool { return s.ID == e.Step })
		if i < 0 {
			return nil, fmt.Errorf("there is no step %q", e.Step)
		}
		s := &out.Steps[i]
		switch e.Do {
		case "off":
			s.Off = true
		case "reverse":
			s.Reverse = !s.Reverse
		case "new":
			s.Result = "new"
		case "extent":
			x := s.Extent
			if x == nil {
				return nil, fmt.Errorf("step %s has no extent", e.Step)
			}
			size := x.Length + x.Total
			s.Extent = &part.Extent{Kind: e.Text, Start: x.Start, Draft: x.Draft}
			switch e.Text {
			case "one-side":
				s.Extent.Length = size
			case "symmetric":
				s.Extent.Total = size
			}
		case "formula":
			if !s.SetFormula(e.Index, e.Text) {
				return nil, fmt.Errorf("step %s has no formula %d", e.Step, e.Index)
			}
		case "around":
			s.Edges = append(s.Edges, part.EdgeRef{Around: e.Text})
		case "thread":
			s.Thread = e.Text
		case "start":
			if s.Place == nil || s.Place.Circle == nil {
				return nil, fmt.Errorf("step %s has no bolt circle", e.Step)
			}
			s.Place.Circle.Start = e.Text
		case "move":
			if err := json.Unmarshal([]byte(e.Text), &s.Moved); err != nil {
				return nil, fmt.Errorf("step %s: the motion: %w", e.Step, err)
			}
		case "edge", "at":
			// Left out below: the numbers of several edits are those of the reference.
			gone[e] = true
		default:
			return nil, fmt.Errorf("%q is no edit", e.Do)
		}
	}
	for i := range out.Steps {
		s := &out.Steps[i]
		s.Edges = without(s.Edges, func(k int) bool { return gone[Edit{Step: s.ID, Do: "edge", Index: k}] })
		s.At = without(s.At, func(k int) bool { return gone[Edit{Step: s.ID, Do: "at", Index: k}] })
	}
	return &out, nil
}

// touched lists the faces beside the edges that a step breaks, each once, six at most.
func touched(s *part.Step) []string {
	var out []string
	for _, e := range s.Edges {
		if e.Between == nil {
			continue
		}
		for _, f := range e.Between {
			if !slices.Contains(out, f) && len(out) < 6 {
				out = append(out, f)
			}
		}
	}
	return out
}

func without[T any](list []T, gone func(int) bool) []T {
	var out []T
	for i, x := range list {
		if !gone(i) {
			out = append(out, x)
		}
	}
	return out
}

// Expose gives a copy of a reference in which every size that is typed as a number is a
// driving parameter of its own, with where each stands.
func Expose(d *part.Document) (*part.Document, map[string]string, error) {
	out, err := Apply(d, nil)
	if err != nil {
		return nil, nil, err
	}
	unit, err := quantity.LengthUnit(d.Unit)
	if err != nil {
		return nil, nil, err
	}
	plain, err := quantity.Evaluate(nil, unit, nil)
	if err != nil {
		return nil, nil, err
	}
	where := map[string]string{}
	for _, p := range d.Parameters {
		where[p.Name] = "parameter " + p.Name
	}
	for i := range out.Steps {
		s := &out.Steps[i]
		for k, size := range sizes(s) {
			f, err := quantity.Parse(size.text)
			if size.text == "" || size.driven || size.dim() == quantity.Number || err != nil || len(f.Names()) > 0 {
				continue
			}
			if v, err := plain.Eval(size.text, size.dim()); err != nil || v == 0 {
				continue
			}
			name := fmt.Sprintf("typed_%d_%d", i+1, k+1)
			text := size.text
			if size.dim() == quantity.Angle && !strings.ContainsAny(text, "drg") {
				text += " deg"
			}
			if size.dim() == quantity.Length {
				// A bare number is of the document's unit; as a parameter it says so.
				text = fmt.Sprintf("(%s) * 1 %s", text, d.Unit)
				if _, err := plain.Eval(size.text, quantity.Number); err != nil {
					text = size.text
				}
			}
			out.Parameters = append(out.Parameters, quantity.Parameter{Name: name, Formula: text})
			s.SetFormula(k, name)
			where[name] = size.role + " of " + s.Title()
		}
	}
	return out, where, nil
}

// size is one formula of a step.
type size struct {
	text   string
	role   string
	driven bool
}

var angles = []string{"angle", "head angle", "tip angle", "draft"}

func (s size) dim() quantity.Dim {
	switch {
	case slices.Contains(angles, s.role):
		return quantity.Angle
	case s.role == "count" || s.role == "turns" || s.role == "place":
		return quantity.Number
	}
	return quantity.Length
}

// sizes lists the formulas of a step with what each is, in the order of its Formulas.
func sizes(s *part.Step) []size {
	var out []size
	roles := s.Roles()
	for i, f := range s.Formulas() {
		out = append(out, size{text: f, role: roles[i]})
	}
	// Those of a sketch are its constraints', and come last.
	n := len(out) - len(s.Constraints)
	for i, c := range s.Constraints {
		if n+i < 0 || s.Kind != "sketch" {
			break
		}
		role := "length"
		switch c.Kind {
		case "radius", "diameter", "angle":
			role = c.Kind
		}
		out[n+i].role, out[n+i].driven = role, c.Driven
	}
	return out
}

// originals lists the steps that a pattern repeats, those of patterns that it repeats
// among them.
func originals(d *part.Document, pattern *part.Step) []string {
	var out []string
	for _, id := range pattern.Of {
		i := slices.IndexFunc(d.Steps, func(s part.Step) bool { return s.ID == id })
		if i >= 0 && !slices.Contains(out, id) {
			out = append(out, id)
			out = append(out, originals(d, &d.Steps[i])...)
		}
	}
	return out
}

// neighbours are the next smaller and the next larger thread of the table.
func neighbours(thread string) []string {
	all := standards.ThreadNames()
	i := slices.Index(all, thread)
	var out []string
	for _, k := range []int{i - 1, i + 1} {
		if i >= 0 && k >= 0 && k < len(all) {
			out = append(out, all[k])
		}
	}
	return out
}

// Mistakes lists the mistakes that can be made on the steps of a reference, without
// their figures. halves are the motions by half a pitch of its patterns, by step.
func Mistakes(d *part.Document, table *quantity.Table, halves map[string]solid.Transform) []Entry {
	l := &mistakes{document: d, table: table, halves: halves}
	for i := range d.Steps {
		s := &d.Steps[i]
		l.forgotten(s)
		l.edges(s)
		l.halfPitch(s)
		l.places(s)
		switch s.Kind {
		case "extrude":
			l.direction(s)
			l.extent(s)
		case "hole":
			l.hole(s)
		}
		l.made = l.made || slices.Contains(makers, s.Kind)
		for k, z := range sizes(s) {
			if z.text != "" && !z.driven {
				l.size(s, k, z.role, z.text)
			}
		}
	}
	return l.out
}

// makers are the kinds of steps that can make the first material, features those that can be
// forgotten once there is some.
var (
	makers   = []string{"extrude", "revolve", "sweep", "loft"}
	features = append([]string{"rib", "hole", "slot", "keyway", "fillet", "chamfer", "shell", "draft", "mirror", "linear-pattern",
		"circular-pattern", "point-pattern", "union", "difference", "intersection"}, makers...)
)

// mistakes collects what can be done wrong in the steps of a document.
type mistakes struct {
	document *part.Document
	table    *quantity.Table
	halves   map[string]solid.Transform
	made     bool // a step before has made material
	out      []Entry
}

func (l *mistakes) add(kind string, s *part.Step, what, cause, remedy string, edits ...Edit) {
	for i := range edits {
		if edits[i].Step == "" {
			edits[i].Step = s.ID
		}
	}
	l.out = append(l.out, Entry{Kind: kind, Step: s.ID, What: what, Cause: cause, Remedy: remedy, Edits: edits})
}

// forgotten: a feature is missing, with what stands on it.
func (l *mistakes) forgotten(s *part.Step) {
	if !l.made || !slices.Contains(features, s.Kind) {
		return
	}
	edits := []Edit{{Do: "off"}}
	for _, id := range l.document.Dependents(s.ID) {
		edits = append(edits, Edit{Step: id, Do: "off"})
	}
	l.add("missing", s, s.Title()+" is missing", "the feature was forgotten", "add it as the sheet shows it", edits...)
}

// edges: one of several edges was forgotten, or all of a face were taken.
func (l *mistakes) edges(s *part.Step) {
	if s.Kind != "fillet" && s.Kind != "chamfer" {
		return
	}
	for k := range s.Edges {
		if len(s.Edges) > 1 {
			l.onePlace(s, Edit{Do: "edge", Index: k})
		}
	}
	for _, face := range touched(s) {
		l.add("too-many", s, s.Title()+" is on too many edges", "all edges of a face were taken", "look which edges the sheet shows broken, and take no others", Edit{Do: "around", Text: face})
	}
}

// places: one of several places was forgotten.
func (l *mistakes) places(s *part.Step) {
	for k := range s.At {
		if len(s.At) > 1 && s.Kind != "point-pattern" {
			l.onePlace(s, Edit{Do: "at", Index: k})
		}
	}
}

func (l *mistakes) onePlace(s *part.Step, without Edit) {
	l.add("one-place", s, "one place of "+s.Title()+" is missing", "a place of the note was forgotten", "the note covers all the places; add this one", without)
}

// halfPitch: a ring or row begins beside where the sheet has it.
func (l *mistakes) halfPitch(s *part.Step) {
	off := func(edits ...Edit) {
		l.add("half-pitch", s, s.Title()+" begins half a pitch off", "the first one was put beside where the sheet has it", "look where the sheet has the first one", edits...)
	}
	if s.Place != nil && s.Place.Circle != nil {
		start := s.Place.Circle.Start
		if start == "" {
			start = "0 deg"
		}
		off(Edit{Do: "start", Text: "(" + start + ") + 180 deg/(" + s.Place.Circle.Count + ")"})
	}
	half, ok := l.halves[s.ID]
	if !ok || len(s.Of) == 0 {
		return
	}
	text, err := json.Marshal(half)
	if err != nil {
		panic("a motion cannot be encoded: " + err.Error()) // plain numbers: cannot happen
	}
	var edits []Edit
	for _, id := range originals(l.document, s) {
		edits = append(edits, Edit{Step: id, Do: "move", Text: string(text)})
	}
	off(edits...)
}

// direction: an extrusion runs the other way, or is a solid of its own.
func (l *mistakes) direction(s *part.Step) {
	if !l.made {
		return
	}
	if s.Extent == nil || s.Extent.Kind != "symmetric" {
		l.add("direction", s, s.Title()+" runs the other way", "the material was grown, or cut, in the wrong direction", "turn its direction round", Edit{Do: "reverse"})
	}
	if s.Result == "" || s.Result == "add" {
		l.add("not-united", s, s.Title()+" is a solid of its own", "bodies that only touch were never united", "unite them, so that the part is one solid", Edit{Do: "new"})
	}
}

// extent: a length is given about the plane in place of to one side, or the other way about, and a
// cut goes through.
func (l *mistakes) extent(s *part.Step) {
	switch {
	case s.Extent == nil:
	case s.Extent.Kind == "one-side":
		l.add("about-plane", s, s.Title()+" lies on both sides of its plane", "the length was given about the plane in place of to one side", "grow it to one side", Edit{Do: "extent", Text: "symmetric"})
		if s.Result == "cut" {
			l.through(s, "the cut is too deep and goes through the wall behind")
		}
	case s.Extent.Kind == "symmetric":
		l.add("one-side", s, s.Title()+" lies on one side of its plane", "the total was grown to one side in place of about the plane", "grow it about the plane", Edit{Do: "extent", Text: "one-side"})
	}
}

// hole: another thread was chosen, or it goes through.
func (l *mistakes) hole(s *part.Step) {
	for _, other := range neighbours(s.Thread) {
		l.add("thread", s, s.Title()+" is for "+other, "another thread was chosen", "give the thread that the sheet states", Edit{Do: "thread", Text: other})
	}
	if s.Extent != nil && s.Extent.Kind == "one-side" {
		l.through(s, "the hole is too deep and goes through the wall behind")
	}
}

func (l *mistakes) through(s *part.Step, cause string) {
	l.add("through", s, s.Title()+" goes through", cause, "give the depth that the sheet states", Edit{Do: "extent", Text: "through"})
}

// size: a size was doubled or halved, an angle given from another side, a number is off by one.
func (l *mistakes) size(s *part.Step, index int, role, text string) {
	change := func(kind, text, cause, remedy string) {
		shown := role
		if role == "total" || role == "length along" {
			shown = "size"
		}
		is := map[string]string{"double": "twice as large", "half": "half as large", "complement": "the complement", "supplement": "the supplement", "count": "off by one"}[kind]
		l.add(kind, s, fmt.Sprintf("the %s of %s is %s", shown, s.Title(), is), cause, remedy, Edit{Do: "formula", Index: index, Text: text})
	}
	f := "(" + text + ")"
	switch role {
	case "diameter", "head diameter":
		change("double", "2*"+f, "the diameter was doubled: it was taken for a radius", "give the diameter that the sheet states")
		change("half", f+"/2", "the radius was typed where the diameter was asked for", "give the diameter that the sheet states")
	case "radius":
		change("double", "2*"+f, "the diameter was typed where the radius was asked for", "a radius is half of the diameter")
		change("half", f+"/2", "the radius was halved once too often", "give the radius that the sheet states")
	case "total", "length along", "thickness":
		change("double", "2*"+f, "the total was given on each side", "the total is what the sheet states")
		change("half", f+"/2", "one side was given as the total", "the total is what the sheet states")
	case "count":
		v, err := l.table.Eval(text, quantity.Number)
		if err == nil {
			change("count", f+"+1", "the pattern has one too many", "count the instances on the sheet")
		}
		if err == nil && v > 2 {
			change("count", f+"-1", "the pattern has one too few", "count the instances on the sheet")
		}
	}
	if slices.Contains(angles, role) {
		change("complement", "90 deg - "+f, "the angle was given from the other leg (its complement)", "look from which line the sheet gives the angle")
		change("supplement", "180 deg - "+f, "the angle was given on the other side of the line (its supplement)", "look on which side the sheet gives the angle")
	}
}
