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
	var out []Entry
	add := func(kind string, s *part.Step, what, cause, remedy string, edits ...Edit) {
		for i := range edits {
			if edits[i].Step == "" {
				edits[i].Step = s.ID
			}
		}
		out = append(out, Entry{Kind: kind, Step: s.ID, What: what, Cause: cause, Remedy: remedy, Edits: edits})
	}
	made := false // a step before has made material
	for i := range d.Steps {
		s := &d.Steps[i]
		name := s.Title()
		switch s.Kind {
		case "extrude", "revolve", "sweep", "loft", "rib", "hole", "slot", "keyway", "fillet", "chamfer", "shell", "draft", "mirror", "linear-pattern", "circular-pattern", "point-pattern", "union", "difference", "intersection":
			if made {
				edits := []Edit{{Do: "off"}}
				for _, id := range d.Dependents(s.ID) {
					edits = append(edits, Edit{Step: id, Do: "off"})
				}
				add("missing", s, name+" is missing", "the feature was forgotten", "add it as the sheet shows it", edits...)
			}
		}
		for k := range s.Edges {
			if len(s.Edges) > 1 && (s.Kind == "fillet" || s.Kind == "chamfer") {
				add("one-place", s, "one place of "+name+" is missing", "a place of the note was forgotten", "the note covers all the places; add this one", Edit{Do: "edge", Index: k})
			}
		}
		if s.Kind == "fillet" || s.Kind == "chamfer" {
			for _, face := range touched(s) {
				add("too-many", s, name+" is on too many edges", "all edges of a face were taken", "look which edges the sheet shows broken, and take no others", Edit{Do: "around", Text: face})
			}
		}
		if s.Place != nil && s.Place.Circle != nil {
			start := s.Place.Circle.Start
			if start == "" {
				start = "0 deg"
			}
			add("half-pitch", s, name+" begins half a pitch off", "the first one was put beside where the sheet has it", "look where the sheet has the first one", Edit{Do: "start", Text: "(" + start + ") + 180 deg/(" + s.Place.Circle.Count + ")"})
		}
		if half, ok := halves[s.ID]; ok && len(s.Of) > 0 {
			text, err := json.Marshal(half)
			if err != nil {
				panic("a motion cannot be encoded: " + err.Error()) // plain numbers: cannot happen
			}
			var edits []Edit
			for _, id := range originals(d, s) {
				edits = append(edits, Edit{Step: id, Do: "move", Text: string(text)})
			}
			add("half-pitch", s, name+" begins half a pitch off", "the first one was put beside where the sheet has it", "look where the sheet has the first one", edits...)
		}
		for k := range s.At {
			if len(s.At) > 1 && s.Kind != "point-pattern" {
				add("one-place", s, "one place of "+name+" is missing", "a place of the note was forgotten", "the note covers all the places; add this one", Edit{Do: "at", Index: k})
			}
		}
		adds := s.Result == "" || s.Result == "add"
		switch s.Kind {
		case "extrude", "revolve":
			if made && s.Kind == "extrude" && (s.Extent == nil || s.Extent.Kind != "symmetric") {
				add("direction", s, name+" runs the other way", "the material was grown, or cut, in the wrong direction", "turn its direction round", Edit{Do: "reverse"})
			}
			if made && adds && s.Kind == "extrude" {
				add("not-united", s, name+" is a solid of its own", "bodies that only touch were never united", "unite them, so that the part is one solid", Edit{Do: "new"})
			}
			if s.Kind == "extrude" && s.Extent != nil {
				switch s.Extent.Kind {
				case "one-side":
					add("about-plane", s, name+" lies on both sides of its plane", "the length was given about the plane in place of to one side", "grow it to one side", Edit{Do: "extent", Text: "symmetric"})
					if s.Result == "cut" {
						add("through", s, name+" goes through", "the cut is too deep and goes through the wall behind", "give the depth that the sheet states", Edit{Do: "extent", Text: "through"})
					}
				case "symmetric":
					add("one-side", s, name+" lies on one side of its plane", "the total was grown to one side in place of about the plane", "grow it about the plane", Edit{Do: "extent", Text: "one-side"})
				}
			}
		case "hole":
			for _, other := range neighbours(s.Thread) {
				add("thread", s, name+" is for "+other, "another thread was chosen", "give the thread that the sheet states", Edit{Do: "thread", Text: other})
			}
			if s.Extent != nil && s.Extent.Kind == "one-side" {
				add("through", s, name+" goes through", "the hole is too deep and goes through the wall behind", "give the depth that the sheet states", Edit{Do: "extent", Text: "through"})
			}
		}
		switch s.Kind {
		case "extrude", "revolve", "sweep", "loft":
			made = true
		}
		for k, z := range sizes(s) {
			if z.text == "" || z.driven {
				continue
			}
			change := func(kind, text, cause, remedy string) {
				role := map[string]string{"total": "size", "length along": "size"}[z.role]
				if role == "" {
					role = z.role
				}
				add(kind, s, fmt.Sprintf("the %s of %s is %s", role, name, map[string]string{"double": "twice as large", "half": "half as large", "complement": "the complement", "supplement": "the supplement", "count": "off by one"}[kind]), cause, remedy, Edit{Do: "formula", Index: k, Text: text})
			}
			f := "(" + z.text + ")"
			switch z.role {
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
				if v, err := table.Eval(z.text, quantity.Number); err == nil {
					change("count", f+"+1", "the pattern has one too many", "count the instances on the sheet")
					if v > 2 {
						change("count", f+"-1", "the pattern has one too few", "count the instances on the sheet")
					}
				}
			}
			if slices.Contains(angles, z.role) {
				change("complement", "90 deg - "+f, "the angle was given from the other leg (its complement)", "look from which line the sheet gives the angle")
				change("supplement", "180 deg - "+f, "the angle was given on the other side of the line (its supplement)", "look on which side the sheet gives the angle")
			}
		}
	}
	return out
}
