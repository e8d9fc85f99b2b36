// Package exercise describes one task: the reference, what is checked on it, how
// the sheet shows it and how it is marked.
package exercise

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/quantity"
	"hammerset/core/standards"
)

// Version is the document version that this package writes. It reads those before as well (see
// Upgrade).
const Version = "exercise/3"

// Kinds of exercises, by what their reference is: one part, or an assembly, whose bundle the exercise lies in.
const (
	Part     = "part"
	Assembly = "assembly"
)

// Exercise is the exercise document.
type Exercise struct {
	Hammerset       string           `json:"hammerset"`
	Kind            string           `json:"kind"` // what the reference is: a part or an assembly
	Title           string           `json:"title"`
	Number          string           `json:"number"` // drawing number
	Task            string           `json:"task"`
	Material        string           `json:"material,omitempty"`
	Density         string           `json:"density,omitempty"` // g/cm³, for the mass
	IssuedBy        string           `json:"issuedBy,omitempty"`
	TitleBlock      TitleBlock       `json:"titleBlock,omitzero"`
	Unit            string           `json:"unit"`
	Reference       string           `json:"reference"` // file name: model JSON or STEP
	Solids          int              `json:"solids,omitempty"`
	General         Tolerance        `json:"general"`
	Characteristics []Characteristic `json:"characteristics"`
	WhatIfs         []WhatIf         `json:"whatIfs,omitempty"`
	// WhatIfFiles: an attempt in STEP comes with a file for each what-if.
	WhatIfFiles bool `json:"whatIfFiles,omitempty"`
	// Personal are the ranges from which driving sizes are drawn for every student.
	Personal []Range `json:"personal,omitempty"`
	// Refused is what would be read from the drawing without being stated, and is not to be: the audit asks for a size
	// in its place.
	Refused []Evidence `json:"refused,omitempty"`
	// Loose is what the sheet does not state of the part, as its audit found when the exercise was prepared: nobody is
	// marked on it.
	Loose []Loose `json:"loose,omitempty"`
	// Prints tell the faces of a STEP reference that the exercise names: by the numbers of a file alone they would be
	// others as soon as it is written anew.
	Prints map[string]Print `json:"prints,omitempty"`
	// Assembly is what an exercise of that kind asks for beside its parts; nil of one part.
	Assembly *OfAssembly `json:"assembly,omitempty"`
	Rubric   Rubric      `json:"rubric"`
	Sheets   Sheets      `json:"sheets"`
}

// TitleBlock is what the title block says beside title, number, owner, material and unit (ISO 7200).
type TitleBlock struct {
	Creator      string `json:"creator,omitempty"`
	Approver     string `json:"approver,omitempty"`
	Date         string `json:"date,omitempty"`         // of issue, as it is printed
	DocumentType string `json:"documentType,omitempty"` // a part drawing when empty
	Revision     string `json:"revision,omitempty"`
}

// Characteristic is one checkable requirement of the sheet. Of lists its places; each place
// lists the addresses of the faces of the reference that it is measured on. The name in an
// address may hold a * for any run of characters; "a & b" is the line in which two flat faces
// meet.
type Characteristic struct {
	ID         string          `json:"id"`
	Balloon    int             `json:"balloon"`
	Kind       string          `json:"kind"`
	Label      string          `json:"label"`
	Of         [][]address.Ref `json:"of,omitempty"`
	Supplement bool            `json:"supplement,omitempty"` // of an angle
	Datum      string          `json:"datum,omitempty"`      // XY, YZ or XZ, of a place on a datum plane
	Text       string          `json:"text,omitempty"`       // a thread or material as the sheet states it
	Stated     string          `json:"stated,omitempty"`     // the number as it is printed, if not as it rounds
	Parameter  string          `json:"parameter,omitempty"`  // the driving size behind it
	Tolerance  *Tolerance      `json:"tolerance,omitempty"`
	Zone       string          `json:"zone,omitempty"`   // of a frame of ISO 1101: how wide, as a number
	Datums     []string        `json:"datums,omitempty"` // the letters that the frame has
	// Exact are the distances in mm that the exact place of a position is given by, from each operand after the first.
	Exact  []float64 `json:"exact,omitempty"`
	Weight float64   `json:"weight,omitempty"` // among the others, 1 when 0
	Free   bool      `json:"free,omitempty"`   // it counts for no points
}

// Declared is the declaration of its kind.
func (c *Characteristic) Declared() *characteristic.Kind { return characteristic.Of(c.Kind) }

// How tells what its measure must know beside its places.
func (c *Characteristic) How() characteristic.How {
	return characteristic.How{Supplement: c.Supplement, Datum: c.Datum, Exact: c.Exact}
}

// Weighs is the weight of the characteristic among the others: 1 unless it is given.
func (c *Characteristic) Weighs() float64 {
	if c.Weight == 0 && !c.Free {
		return 1
	}
	return c.Weight
}

// Tolerance says what deviation is allowed. Kind "sheet" is the rounding of the
// sheet, or 0.01 mm and 0.01 degree where that is larger; "iso2768" has Class;
// "iso286" has Class, such as H7; "limits" has Plus and Minus as formulas.
type Tolerance struct {
	Kind  string `json:"kind"`
	Class string `json:"class,omitempty"`
	Plus  string `json:"plus,omitempty"`
	Minus string `json:"minus,omitempty"`
	// Printed is how the sheet prints it, where not in the usual way: deviations or limits.
	Printed string `json:"printed,omitempty"`
}

// WhatIf is a named set of changed driving sizes.
type WhatIf struct {
	Name string            `json:"name"`
	Set  map[string]string `json:"set"`
}

// Evidence is what a drawing says of faces without a number, as that they lie alike about a centre line: What is one of
// the words of the audit, and Of are two faces by their names.
type Evidence struct {
	What string        `json:"what"`
	Of   []address.Ref `json:"of"`
}

// Error is a fault of an exercise document, at a JSON pointer.
type Error struct{ Pointer, Message string }

func (e *Error) Error() string { return e.Pointer + ": " + e.Message }

// Read decodes and checks an exercise document.
func Read(data []byte) (*Exercise, error) {
	current, err := Upgrade(data)
	if err != nil {
		return nil, err
	}
	var e Exercise
	if err := json.Unmarshal(current, &e); err != nil {
		return nil, &Error{"", "not a readable exercise document: " + err.Error()}
	}
	err = e.Check()
	var fault *Error
	if errors.As(err, &fault) {
		fault.Pointer = PointerIn(data, fault.Pointer)
	}
	return &e, err
}

// Sheet is the first sheet of the set. A document that passed Check has it.
func (e *Exercise) Sheet() *Sheet { return &e.Sheets[0] }

// Check finds what is wrong in the document itself.
func (e *Exercise) Check() error {
	if e.Hammerset != Version {
		return &Error{"/hammerset", fmt.Sprintf("expected %q, found %q", Version, e.Hammerset)}
	}
	if e.Kind != Part && e.Kind != Assembly {
		return &Error{"/kind", fmt.Sprintf("%q is not a kind of exercise that can be read: expected %q or %q", e.Kind, Part,
			Assembly)}
	}
	if n := len(e.Sheets); n < 1 || n > MostSheets {
		return &Error{"/sheets", fmt.Sprintf("a set has 1 to %d sheets, and not %d", MostSheets, n)}
	}
	if e.Title == "" {
		return &Error{"/title", "an exercise needs a title"}
	}
	if _, err := quantity.LengthUnit(e.Unit); err != nil {
		return &Error{"/unit", err.Error()}
	}
	if e.Reference == "" {
		return &Error{"/reference", "name the file of the reference"}
	}
	ids, balloons := map[string]bool{}, map[int]bool{}
	for i := range e.Characteristics {
		c := &e.Characteristics[i]
		at := fmt.Sprintf("/characteristics/%d", i)
		if c.ID == "" || ids[c.ID] {
			return &Error{at + "/id", fmt.Sprintf("the id %q is empty or used twice", c.ID)}
		}
		if c.Balloon < 1 || balloons[c.Balloon] {
			return &Error{at + "/balloon", fmt.Sprintf("the balloon %d is not positive or used twice", c.Balloon)}
		}
		ids[c.ID], balloons[c.Balloon] = true, true
		if err := e.checkCharacteristic(c, at); err != nil {
			return err
		}
	}
	if err := e.checkAssembly(ids, balloons); err != nil {
		return err
	}
	if err := e.checkPersonal(); err != nil {
		return err
	}
	if err := e.Sheets.check(ids); err != nil {
		return err
	}
	return e.Rubric.Check(e.Kind)
}

// checkCharacteristic finds what is wrong with a characteristic that stands at a place.
func (e *Exercise) checkCharacteristic(c *Characteristic, at string) error {
	kind := c.Declared()
	if kind == nil {
		return &Error{at + "/kind", fmt.Sprintf("%q is not a kind of characteristic", c.Kind)}
	}
	if len(c.Of) == 0 && !kind.Whole() {
		return &Error{at + "/of", "name the faces it is measured on: " + kind.On}
	}
	for k, place := range c.Of {
		for j, ref := range place {
			if ref.Component != "" {
				return &Error{fmt.Sprintf("%s/of/%d/%d", at, k, j),
					fmt.Sprintf("%q names the component %q, and a part has no components: write %s", ref, ref.Component, ref.Name)}
			}
		}
	}
	if kind.Worded() && c.Text == "" {
		return &Error{at + "/text", "say what the sheet states as the " + kind.Title}
	}
	if _, err := e.Printed(c); c.Stated != "" && err != nil {
		return &Error{at + "/stated", err.Error()}
	}
	if c.Zone != "" {
		if _, err := e.zone(c, characteristic.Stated{Leg: 1}); err != nil {
			return &Error{at + "/zone", err.Error()}
		}
	}
	if _, ok := characteristic.DatumPlane(c.Datum); kind.Datum && !ok {
		return &Error{at + "/datum", fmt.Sprintf("%q is not a datum plane: use XY, YZ or XZ", c.Datum)}
	}
	if kind.From != nil && (len(c.Of) != 1 || len(c.Exact) != len(c.Of[0])-1) {
		return &Error{at + "/exact", "give the one exact place: a distance from each operand after the first"}
	}
	if kind.Density {
		if _, err := e.GramsPerMM3(); err != nil {
			return &Error{"/density", err.Error()}
		}
	}
	return nil
}

// Characteristic finds a characteristic by its id.
func (e *Exercise) Characteristic(id string) *Characteristic {
	for i := range e.Characteristics {
		if e.Characteristics[i].ID == id {
			return &e.Characteristics[i]
		}
	}
	return nil
}

// Add gives a characteristic an id and a balloon that no other has, and adds it. It returns the id.
func (e *Exercise) Add(c Characteristic) string {
	c.Balloon = 1
	for _, x := range e.Characteristics {
		c.Balloon = max(c.Balloon, x.Balloon+1)
	}
	for n := 1; c.ID == "" || e.Characteristic(c.ID) != nil; n++ {
		c.ID = fmt.Sprintf("%s_%d", strings.ReplaceAll(c.Kind, "-", "_"), n)
	}
	e.Characteristics = append(e.Characteristics, c)
	return c.ID
}

// LengthUnit is the unit of the sheet's lengths. Documents without a known unit are refused when
// they are read, so that millimetres are only those of an exercise that nobody wrote.
func (e *Exercise) LengthUnit() quantity.Unit {
	u, err := quantity.LengthUnit(e.Unit)
	if err != nil {
		return quantity.Millimetre
	}
	return u
}

// State rounds a value of a characteristic as the sheet prints it.
func (e *Exercise) State(dim quantity.Dim, v float64) characteristic.Stated {
	text, value, half := quantity.SheetFormat(e.LengthUnit()).Round(quantity.Quantity{Value: v, Dim: dim})
	return characteristic.Stated{Text: text, Value: value, Half: half}
}

// StateOf rounds a value of a kind of characteristic as the sheet prints it: as its declaration
// says, else as State does.
func (e *Exercise) StateOf(kind *characteristic.Kind, v float64) characteristic.Stated {
	if kind.Stated != nil {
		return kind.Stated(v)
	}
	return e.State(kind.Dim, v)
}

// StatedOf is what the sheet states of a characteristic that has a value on the reference: the text that is printed
// where one is given, which is then the nominal, else the value as it rounds.
func (e *Exercise) StatedOf(c *Characteristic, v float64) characteristic.Stated {
	if c.Stated != "" {
		if s, err := e.Printed(c); err == nil { // a document that passed Check has no other
			return s
		}
	}
	return e.StateOf(c.Declared(), v)
}

var fraction = regexp.MustCompile(`^(?:(\d+)[ -])?(\d+)/(\d+)$`)

// Printed reads the number that is printed of a characteristic: a decimal number, whose last place is how far it is
// rounded, or an exact fraction; a length in the unit of the sheet, an angle in degrees.
func (e *Exercise) Printed(c *Characteristic) (characteristic.Stated, error) {
	kind := c.Declared()
	text := strings.TrimSuffix(strings.TrimSpace(c.Stated), "°")
	if kind.Whole() || kind.Worded() || kind.Zero() || kind.Counts {
		return characteristic.Stated{}, fmt.Errorf("a %s has no number that could be printed otherwise", kind.Title)
	}
	unit := quantity.Unit{Factor: 1}
	switch kind.Dim {
	case quantity.Length:
		unit = e.LengthUnit()
	case quantity.Angle:
		unit = quantity.Degree
	}
	out := characteristic.Stated{Text: text}
	if m := fraction.FindStringSubmatch(text); m != nil {
		whole, _ := strconv.ParseFloat("0"+m[1], 64) // digits alone
		over, _ := strconv.ParseFloat(m[2], 64)
		under, _ := strconv.ParseFloat(m[3], 64)
		out.Value = (whole + over/under) * unit.Factor
	} else {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil {
			return out, fmt.Errorf("%q is not a number as a sheet prints it: write 7.94 or 5/16", c.Stated)
		}
		_, places, _ := strings.Cut(text, ".")
		out.Value, out.Half = v*unit.Factor, math.Pow10(-len(places))/2*unit.Factor
	}
	if !(out.Value > 0) || math.IsInf(out.Value, 0) {
		return out, fmt.Errorf("%q is not a size: it must be more than nothing", c.Stated)
	}
	if kind.Dim == quantity.Angle {
		out.Text += "°"
	}
	return out, nil
}

// GramsPerMM3 reads the density, which is stated in g/cm³.
func (e *Exercise) GramsPerMM3() (float64, error) {
	v, err := strconv.ParseFloat(e.Density, 64)
	if err != nil || !(v > 0) || v > 30 {
		return 0, fmt.Errorf("a mass needs the density of the material as a number in g/cm³ (steel 7.85), not %q", e.Density)
	}
	return v / 1000, nil
}

// Limits gives the allowed deviations, below and above the stated value, in mm
// or radians.
func (e *Exercise) Limits(c *Characteristic, s characteristic.Stated) (minus, plus float64, err error) {
	kind := characteristic.Of(c.Kind)
	dim := kind.Dim
	t := e.General
	if c.Tolerance != nil {
		t = *c.Tolerance
	}
	switch {
	case c.Zone != "":
		v, err := e.zone(c, s)
		return v, v, err
	case kind.Rounded:
		return s.Half, s.Half, nil
	case dim == quantity.Number:
		return 0, 0, nil
	case kind.Zero() && t.Kind == "iso2768":
		t = Tolerance{Kind: "sheet"} // its tables are of sizes
	}
	return e.allowed(t, dim, s, kind.General)
}

// allowed gives the deviations that a tolerance allows of a stated value. General is the general tolerance of a kind
// that has one of its own.
func (e *Exercise) allowed(t Tolerance, dim quantity.Dim, s characteristic.Stated,
	general func(standards.Class, float64) (float64, error)) (minus, plus float64, err error) {
	switch t.Kind {
	case "", "sheet":
		least := 0.01
		if dim == quantity.Angle {
			least = 0.01 * quantity.Degree.Factor
		}
		v := math.Max(least, s.Half)
		return v, v, nil
	case "iso2768":
		var v float64
		switch {
		case general != nil && !s.Inner:
			v, err = general(standards.Class(t.Class), s.Value)
		case dim == quantity.Angle:
			v, err = standards.Angular(standards.Class(t.Class), s.Leg)
			v *= quantity.Degree.Factor
		default:
			v, err = standards.Linear(standards.Class(t.Class), s.Value)
		}
		return v, v, err
	case "iso286":
		if dim != quantity.Length {
			return 0, 0, fmt.Errorf("a fit of ISO 286 belongs to a length")
		}
		// A model has the nominal size, or one within the fit (common practice, no source).
		lower, upper, err := standards.Fit(t.Class, s.Value)
		return math.Max(0, -lower), math.Max(0, upper), err
	case "limits":
		unit, _ := quantity.LengthUnit(e.Unit)
		table, err := quantity.Evaluate(nil, unit, nil)
		if err != nil {
			return 0, 0, err
		}
		if plus, err = table.Eval(t.Plus, dim); err != nil {
			return 0, 0, err
		}
		minus, err = table.Eval(t.Minus, dim)
		return math.Abs(minus), plus, err
	}
	return 0, 0, fmt.Errorf("%q is not a kind of tolerance: use sheet, iso2768, iso286 or limits", t.Kind)
}

// GeneralNote is the general tolerance in the words of the title block.
func (e *Exercise) GeneralNote() string {
	switch e.General.Kind {
	case "iso2768":
		return "ISO 2768-" + e.General.Class
	case "iso286":
		return "ISO 286 " + e.General.Class
	case "limits":
		return "+" + e.General.Plus + " / -" + e.General.Minus
	}
	return "as stated"
}
