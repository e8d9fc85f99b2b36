// Package part rebuilds parts: an ordered list of steps, driven by parameters,
// becomes a solid whose faces carry names that survive edits.
package part

import (
	"encoding/json"
	"fmt"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

// Version is the document version that this package reads and writes, and
// MediaType its media type.
const (
	Version   = "model/1"
	MediaType = "application/vnd.hammerset.model+json"
)

// Document is a model as it is stored and exchanged.
type Document struct {
	Hammerset  string               `json:"hammerset"`
	Name       string               `json:"name"`
	Unit       string               `json:"unit"`
	Note       string               `json:"note,omitempty"`
	Parameters []quantity.Parameter `json:"parameters"`
	Steps      []Step               `json:"steps"`
}

// Step is one operation. Which fields count depends on Kind; every string that
// holds a size is a formula.
type Step struct {
	ID   string `json:"id"`
	Kind string `json:"kind"`
	Name string `json:"name,omitempty"`

	// sketch, mirror
	Plane       *PlaneRef           `json:"plane,omitempty"`
	Entities    []sketch.Entity     `json:"entities,omitempty"`
	Constraints []sketch.Constraint `json:"constraints,omitempty"`

	// extrude, revolve, hole
	Sketch  string   `json:"sketch,omitempty"`
	Regions *Regions `json:"regions,omitempty"`
	Extent  *Extent  `json:"extent,omitempty"`
	Result  string   `json:"result,omitempty"`
	Reverse bool     `json:"reverse,omitempty"`
	Axis    *AxisRef `json:"axis,omitempty"`

	// hole
	Form         string   `json:"form,omitempty"`
	At           []string `json:"at,omitempty"`
	Diameter     string   `json:"diameter,omitempty"`
	HeadDiameter string   `json:"headDiameter,omitempty"`
	HeadDepth    string   `json:"headDepth,omitempty"`
	HeadAngle    string   `json:"headAngle,omitempty"`
	TipAngle     string   `json:"tipAngle,omitempty"`

	// fillet, chamfer
	Edges    []EdgeRef `json:"edges,omitempty"`
	Radius   string    `json:"radius,omitempty"`
	Distance string    `json:"distance,omitempty"`

	// mirror, linear-pattern, circular-pattern
	Of      []string `json:"of,omitempty"`
	Count   string   `json:"count,omitempty"`
	Spacing string   `json:"spacing,omitempty"`
	Angle   string   `json:"angle,omitempty"`
}

// PlaneRef is a datum plane (XY, XZ or YZ) or a planar face, moved along its
// normal by Offset.
type PlaneRef struct {
	Datum  string `json:"datum,omitempty"`
	Face   string `json:"face,omitempty"`
	Offset string `json:"offset,omitempty"`
}

// AxisRef is a datum axis (X, Y or Z), the axis of a round face, or a line of
// the step's sketch.
type AxisRef struct {
	Datum string `json:"datum,omitempty"`
	Face  string `json:"face,omitempty"`
	Line  string `json:"line,omitempty"`
}

// Extent says how far an extrusion or revolution goes. One-side has Length,
// symmetric has Total, two-sides has Forward and Backward, to-face has Face,
// through has none. A revolution takes angles in the same places.
type Extent struct {
	Kind     string `json:"kind"`
	Length   string `json:"length,omitempty"`
	Total    string `json:"total,omitempty"`
	Forward  string `json:"forward,omitempty"`
	Backward string `json:"backward,omitempty"`
	Face     string `json:"face,omitempty"`
	Both     bool   `json:"both,omitempty"`
}

// EdgeRef names edges by the faces they lie between, or all edges around a
// face. Where several edges lie between the two faces all are meant, unless Near
// gives the place of one, relative to the part's box (0 to 1 along each axis), so
// that the choice survives changes of size.
type EdgeRef struct {
	Between *[2]string  `json:"between,omitempty"`
	Around  string      `json:"around,omitempty"`
	Near    *[3]float64 `json:"near,omitempty"`
}

// Regions chooses regions of a sketch: all material by the even-odd rule, or
// those whose outer boundary is made of the listed entities.
type Regions struct {
	All     bool
	Bounded [][]string
}

// UnmarshalJSON reads "all" or [["l1","l2"], ...].
func (r *Regions) UnmarshalJSON(data []byte) error {
	var word string
	if json.Unmarshal(data, &word) == nil {
		if word != "all" {
			return fmt.Errorf("regions is \"all\" or a list of boundaries, not %q", word)
		}
		*r = Regions{All: true}
		return nil
	}
	*r = Regions{}
	return json.Unmarshal(data, &r.Bounded)
}

// MarshalJSON writes what UnmarshalJSON reads.
func (r Regions) MarshalJSON() ([]byte, error) {
	if r.All {
		return []byte(`"all"`), nil
	}
	return json.Marshal(r.Bounded)
}

// StepError is a failed step: which, why, and what can be done.
type StepError struct {
	Step   string
	Name   string
	Index  int
	Why    string
	Remedy string
}

func (e *StepError) Error() string {
	s := fmt.Sprintf("step %s", e.Step)
	if e.Name != "" {
		s += fmt.Sprintf(" (%s)", e.Name)
	}
	s += ": " + e.Why
	if e.Remedy != "" {
		s += "; " + e.Remedy
	}
	return s
}

// DocumentError is a document that cannot be read as a model. Pointer is a JSON
// pointer to the place.
type DocumentError struct{ Pointer, Message string }

func (e *DocumentError) Error() string {
	if e.Pointer == "" {
		return e.Message
	}
	return e.Pointer + ": " + e.Message
}

// Limits on the size of a document, against hostile ones.
const (
	maxSteps      = 500
	maxEntities   = 5000
	maxParameters = 500
)

// Check finds what is wrong with a document before anything is rebuilt.
func (d *Document) Check() error {
	if d.Hammerset != Version {
		return &DocumentError{"/hammerset", fmt.Sprintf("expected %q, found %q", Version, d.Hammerset)}
	}
	if _, err := quantity.LengthUnit(d.Unit); err != nil {
		return &DocumentError{"/unit", err.Error()}
	}
	if len(d.Steps) > maxSteps {
		return &DocumentError{"/steps", fmt.Sprintf("%d steps are more than the %d that are read", len(d.Steps), maxSteps)}
	}
	if len(d.Parameters) > maxParameters {
		return &DocumentError{"/parameters", fmt.Sprintf("%d parameters are more than the %d that are read", len(d.Parameters), maxParameters)}
	}
	seen := map[string]int{}
	for i, s := range d.Steps {
		at := fmt.Sprintf("/steps/%d", i)
		if s.ID == "" {
			return &DocumentError{at + "/id", "a step needs an id"}
		}
		if first, dup := seen[s.ID]; dup {
			return &DocumentError{at + "/id", fmt.Sprintf("the id %q is already used by step number %d", s.ID, first+1)}
		}
		seen[s.ID] = i
		if len(s.Entities) > maxEntities {
			return &DocumentError{at + "/entities", fmt.Sprintf("%d entities are more than the %d that are read", len(s.Entities), maxEntities)}
		}
		if !stepKinds[s.Kind] {
			return &DocumentError{at + "/kind", fmt.Sprintf("%q is not a kind of step", s.Kind)}
		}
	}
	return nil
}

var stepKinds = map[string]bool{"sketch": true, "extrude": true, "revolve": true, "hole": true, "fillet": true,
	"chamfer": true, "mirror": true, "linear-pattern": true, "circular-pattern": true}

// Read decodes a document and checks it. The errors name the place.
func Read(data []byte) (*Document, error) {
	var d Document
	if err := json.Unmarshal(data, &d); err != nil {
		return nil, &DocumentError{"", "not a readable model document: " + err.Error()}
	}
	if err := d.Check(); err != nil {
		return nil, err
	}
	return &d, nil
}

// Formulas lists every formula of a step, for finding the parameters it uses.
func (s *Step) Formulas() []string {
	out := []string{s.Diameter, s.HeadDiameter, s.HeadDepth, s.HeadAngle, s.TipAngle, s.Radius, s.Distance, s.Count, s.Spacing, s.Angle}
	if s.Plane != nil {
		out = append(out, s.Plane.Offset)
	}
	if e := s.Extent; e != nil {
		out = append(out, e.Length, e.Total, e.Forward, e.Backward)
	}
	for _, k := range s.Constraints {
		out = append(out, k.Value)
	}
	return out
}
