// Package part rebuilds parts: an ordered list of steps, driven by parameters,
// becomes a solid whose faces carry names that survive edits.
package part

import (
	"encoding/json"
	"fmt"

	"hammerset/core/quantity"
	"hammerset/core/standards"
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
	Solids     []SolidNote          `json:"solids,omitempty"`
}

// SolidNote names a solid by the step that made it and says what it is made of.
// Density is a formula in kg/m³; without it that of the material counts.
type SolidNote struct {
	Of       string `json:"of"`
	Name     string `json:"name,omitempty"`
	Material string `json:"material,omitempty"`
	Density  string `json:"density,omitempty"`
}

// PlaneRef is a datum plane (XY, XZ or YZ), a planar face or the plane of a plane
// step, moved along its normal by Offset.
type PlaneRef struct {
	Datum  string `json:"datum,omitempty"`
	Face   string `json:"face,omitempty"`
	Step   string `json:"step,omitempty"`
	Offset string `json:"offset,omitempty"`
}

// AxisRef is a datum axis (X, Y or Z), the axis of a round face, a line of the
// step's sketch, a line of another sketch ("s1.l1"), a straight edge or the axis of
// a round one, or the axis of an axis step.
type AxisRef struct {
	Datum string   `json:"datum,omitempty"`
	Face  string   `json:"face,omitempty"`
	Line  string   `json:"line,omitempty"`
	Step  string   `json:"step,omitempty"`
	Edge  *EdgeRef `json:"edge,omitempty"`
}

// PointRef is a place given by coordinates (formulas), a point of a sketch
// ("s1.p1"), the corner where three faces meet, the centre of a round edge, a
// place along an edge (0 to 1), or the point of a point step.
type PointRef struct {
	At     *[3]string `json:"at,omitempty"`
	Sketch string     `json:"sketch,omitempty"`
	Corner *[3]string `json:"corner,omitempty"`
	Center *EdgeRef   `json:"center,omitempty"`
	Edge   *EdgeRef   `json:"edge,omitempty"`
	Along  string     `json:"along,omitempty"`
	Step   string     `json:"step,omitempty"`
}

// Extent says how far an extrusion or revolution goes. One-side has Length,
// symmetric has Total, two-sides has Forward and Backward, to-face has Face,
// through and to-next have none. An extrusion begins Start away from the sketch. A
// revolution takes angles in the same places.
type Extent struct {
	Kind     string `json:"kind"`
	Length   string `json:"length,omitempty"`
	Total    string `json:"total,omitempty"`
	Forward  string `json:"forward,omitempty"`
	Backward string `json:"backward,omitempty"`
	Face     string `json:"face,omitempty"`
	Both     bool   `json:"both,omitempty"`
	Start    string `json:"start,omitempty"`
	Draft    string `json:"draft,omitempty"` // angle by which the sides taper away from the sketch
}

// Wall makes a thin profile of the curves of a sketch: Thickness to the left or
// right of their run, or half on either side. The inside of a closed run is to its
// left.
type Wall struct {
	Thickness string `json:"thickness"`
	Side      string `json:"side"` // left, right or middle
}

// Place puts holes on a flat face without a sketch: at distances from two edges,
// on a bolt circle about the centre of a round edge, or concentric to round edges.
type Place struct {
	Face     string      `json:"face"`
	From     *[2]Away    `json:"from,omitempty"`
	Circle   *BoltCircle `json:"circle,omitempty"`
	Centered []EdgeRef   `json:"centered,omitempty"`
}

// Away is a distance from a straight edge into the face.
type Away struct {
	Edge     EdgeRef `json:"edge"`
	Distance string  `json:"distance"`
}

// BoltCircle spreads Count holes evenly on a circle about the centre of an edge;
// the first stands at the angle Start from the face's first direction.
type BoltCircle struct {
	About    EdgeRef `json:"about"`
	Diameter string  `json:"diameter"`
	Count    string  `json:"count"`
	Start    string  `json:"start,omitempty"`
}

// EdgeRef names edges by the faces they lie between, or all edges around a
// face. Where several edges lie between the two faces all are meant, unless Near
// gives the place of one, relative to the part's box (0 to 1 along each axis), so
// that the choice survives changes of size.
//
// In a fillet Radius replaces that of the step. In a chamfer with two distances, or
// a distance and an angle, the first lies on the face First.
type EdgeRef struct {
	Between *[2]string  `json:"between,omitempty"`
	Around  string      `json:"around,omitempty"`
	Near    *[3]float64 `json:"near,omitempty"`
	Radius  string      `json:"radius,omitempty"`
	First   string      `json:"first,omitempty"`
}

// Regions chooses regions of a sketch: all material by the even-odd rule, those
// whose outer boundary is made of the listed entities, or those that hold the
// listed points.
type Regions struct {
	All     bool
	Bounded [][]string
	Holding []string
}

type holding struct {
	Holding []string `json:"holding"`
}

// UnmarshalJSON reads "all", [["l1","l2"], ...] or {"holding": ["p1", ...]}.
func (r *Regions) UnmarshalJSON(data []byte) error {
	var word string
	if json.Unmarshal(data, &word) == nil {
		if word != "all" {
			return fmt.Errorf("regions is \"all\", a list of boundaries or what they hold, not %q", word)
		}
		*r = Regions{All: true}
		return nil
	}
	*r = Regions{}
	var h holding
	if json.Unmarshal(data, &h) == nil && h.Holding != nil {
		r.Holding = h.Holding
		return nil
	}
	return json.Unmarshal(data, &r.Bounded)
}

// MarshalJSON writes what UnmarshalJSON reads.
func (r Regions) MarshalJSON() ([]byte, error) {
	switch {
	case r.All:
		return []byte(`"all"`), nil
	case r.Holding != nil:
		return json.Marshal(holding{r.Holding})
	}
	return json.Marshal(r.Bounded)
}

// Table works out the parameters in the document's unit of length, some of them set to other values.
func (d *Document) Table(set map[string]quantity.Quantity) (*quantity.Table, error) {
	unit, err := quantity.LengthUnit(d.Unit)
	if err != nil {
		return nil, err
	}
	return quantity.Evaluate(d.Parameters, unit, set)
}

// StepError is a failed step: which, why, and what can be done.
type StepError struct {
	Step   string
	Name   string
	Index  int
	Why    string
	Remedy string

	format string // the text and what it speaks of, until that is put into words
	args   []any
}

// Error names the step, what is wrong and what to do.
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

// Error names the place in the document as a JSON pointer (RFC 6901).
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
		return &DocumentError{"/parameters", fmt.Sprintf("%d parameters are more than the %d that are read",
			len(d.Parameters), maxParameters)}
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
		if s.Do == nil || s.Declared() == nil {
			return &DocumentError{at + "/kind", fmt.Sprintf("%q is not a kind of step", s.Kind)}
		}
		if sk := s.Sketched(); sk != nil && len(sk.Entities) > maxEntities {
			return &DocumentError{at + "/entities", fmt.Sprintf("%d entities are more than the %d that are read",
				len(sk.Entities), maxEntities)}
		}
	}
	return nil
}

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

// Density is what the document says of a solid: its density in kg/m³, 0 where neither a material nor a number is
// given, and the material.
func (d *Document) Density(of string, table *quantity.Table) (density float64, material string, err error) {
	for _, n := range d.Solids {
		if n.Of != of {
			continue
		}
		material = n.Material
		for _, m := range standards.Materials {
			if m.Name == n.Material {
				density = m.Density
			}
		}
		if n.Density != "" {
			if density, err = table.Eval(n.Density, quantity.Number); err != nil {
				return 0, material, err
			}
		}
	}
	return density, material, nil
}
