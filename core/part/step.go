package part

import (
	"bytes"
	"encoding/json"
	"fmt"

	"cmp"
	"hammerset/core/solid"
	"strings"
)

// Step is one operation of a model: what every step has, and in Do the fields of its kind. In a
// document they stand side by side in one JSON object.
type Step struct {
	ID   string `json:"id"`
	Kind string `json:"kind"`
	Name string `json:"name,omitempty"`
	Note string `json:"note,omitempty"`
	Off  bool   `json:"off,omitempty"` // left out of the rebuild

	// Moved puts the material that the step makes elsewhere. Only an Edit sets it: no model
	// document has it.
	Moved *solid.Transform `json:"moved,omitempty"`

	// Clipped leaves out what of that material lies on the side of a plane to which its normal points. Only an
	// Edit sets it.
	Clipped *Clip `json:"clipped,omitempty"`

	// Do is of the type that the declaration of the kind makes; nil where there is no such kind.
	Do Operation `json:"-"`
}

// Clip is a plane through a place, at which material ends.
type Clip struct {
	At     solid.Vec `json:"at"`
	Normal solid.Vec `json:"normal"`
}

// Operation is what a step of one kind does: a struct with the fields of the kind, as its JSON
// tags name them in a document.
type Operation interface {
	// run carries the step out on the state of the worker.
	run(w *worker) error
	// visit tells of every formula and of everything that is named.
	visit(v *visitor)
}

// head is a step without the fields of its kind.
type head Step

// MarshalJSON writes what every step has, and then the fields of the kind.
func (s Step) MarshalJSON() ([]byte, error) {
	out, err := json.Marshal(head(s))
	if err != nil || s.Do == nil {
		return out, err
	}
	fields, err := json.Marshal(s.Do)
	if err != nil {
		return nil, fmt.Errorf("step %s: %w", s.ID, err)
	}
	if len(fields) > len("{}") {
		out = append(append(out[:len(out)-1], ','), fields[1:]...)
	}
	return out, nil
}

// UnmarshalJSON reads a step. Of a kind that there is not it reads what every step has.
func (s *Step) UnmarshalJSON(data []byte) error {
	*s = Step{}
	if err := json.Unmarshal(data, (*head)(s)); err != nil {
		return err
	}
	kind := Of(s.Kind)
	if kind == nil {
		return nil
	}
	s.Do = kind.New()
	return json.Unmarshal(data, s.Do)
}

// strictly reads a step and refuses fields that its kind does not have.
func (s *Step) strictly(data []byte) error {
	if err := s.UnmarshalJSON(data); err != nil {
		return err
	}
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(data, &fields); err != nil {
		return err
	}
	for name := range fields {
		switch name {
		case "id", "kind", "name", "note", "off", "moved", "clipped":
			delete(fields, name)
		}
	}
	rest, err := json.Marshal(fields)
	if err != nil {
		return err
	}
	d := json.NewDecoder(bytes.NewReader(rest))
	d.DisallowUnknownFields()
	return d.Decode(Of(s.Kind).New())
}

// Title is what the step is called: by its name, or by its kind and number where it has none.
func (s *Step) Title() string {
	kind := s.Declared()
	if s.Name != "" || kind == nil {
		return cmp.Or(s.Name, s.ID)
	}
	return strings.ToLower(kind.Title) + " " + number(s.ID, kind.Letter)
}

// Sketched gives the fields of a sketch; nil of every other step.
func (s *Step) Sketched() *Sketch {
	sk, _ := s.Do.(*Sketch)
	return sk
}
