package exercise

import (
	"fmt"
	"io/fs"
	"math"
	"path"
	"slices"

	"hammerset/core/assembly/requirement"
	"hammerset/core/quantity"
)

// ReferenceOfAssembly is the file that an exercise of that kind names as its reference: the document in its bundle.
const ReferenceOfAssembly = "assembly.json"

// OfAssembly is what an exercise asks of an assembly beside its joints, which the reference has.
type OfAssembly struct {
	Items           []Item        `json:"items"`
	Characteristics []Requirement `json:"characteristics"`
	// Branch is "any" where either branch of the mechanism will do.
	Branch string `json:"branch,omitempty"`
	// Unsaid is what becomes of what a file without joints cannot say: "ask", or it is left out.
	Unsaid string `json:"unsaid,omitempty"`
}

// Words of OfAssembly.
const (
	AnyBranch = "any"
	AskUnsaid = "ask"
)

// Item is a line of the parts list: a part of the reference, what its making counts among the others, and the exercise
// of the part by itself. What is given need not be made.
type Item struct {
	Part     string  `json:"part"`
	Given    bool    `json:"given,omitempty"`
	Weight   float64 `json:"weight,omitempty"`   // among the others, 1 when 0
	Exercise string  `json:"exercise,omitempty"` // the file of the part's exercise in the bundle
}

// Weighs is the weight of an item among the others; what is given weighs nothing.
func (i *Item) Weighs() float64 {
	switch {
	case i.Given:
		return 0
	case i.Weight == 0:
		return 1
	}
	return i.Weight
}

// Gives tells whether a part is given.
func (a *OfAssembly) Gives() bool {
	return slices.ContainsFunc(a.Items, func(i Item) bool { return i.Given })
}

// Requirement is a characteristic of the whole.
type Requirement struct {
	ID      string `json:"id"`
	Balloon int    `json:"balloon"`
	Kind    string `json:"kind"`
	Label   string `json:"label"`
	requirement.About
	Tolerance *Tolerance `json:"tolerance,omitempty"`
	Weight    float64    `json:"weight,omitempty"` // among the others, 1 when 0
	Free      bool       `json:"free,omitempty"`   // it counts for no points
}

// Declared is the declaration of its kind.
func (r *Requirement) Declared() *requirement.Kind { return requirement.Of(r.Kind) }

// Weighs is the weight of the characteristic among the others: 1 unless it is given.
func (r *Requirement) Weighs() float64 {
	if r.Weight == 0 && !r.Free {
		return 1
	}
	return r.Weight
}

// Asked is what is asked of a characteristic of the whole: its nominal and its limits in mm, radians or a plain number,
// as they are printed.
type Asked struct {
	Value, Lower, Upper float64
	Text, Limits        string

	dim  quantity.Dim
	unit quantity.Unit
}

// unbounded is an upper limit of what may be as large as it likes.
const unbounded = 1e9

// Asked states a characteristic of the whole that has a value on the reference.
func (e *Exercise) Asked(r *Requirement, v float64) (Asked, error) {
	kind := r.Declared()
	s := e.State(kind.Dim, v)
	out := Asked{Value: s.Value, Text: s.Text, dim: kind.Dim, unit: e.LengthUnit()}
	switch {
	case kind.Zero:
		out.Value, out.Text, s.Half = 0, "", 0
	case kind.Counts, kind.Dim == quantity.Number:
		out.Value, out.Text = v, quantity.FormatDecimal(v, 3)
	case kind.Share > 0:
		out.Value = v
	}
	minus, plus := 0.0, 0.0
	switch {
	case kind.Counts:
	case r.Tolerance != nil || kind.Dim != quantity.Number && kind.Share == 0:
		t := e.General
		if r.Tolerance != nil {
			t = *r.Tolerance
		} else if kind.Zero {
			t = Tolerance{Kind: "sheet"} // tables are of sizes
		}
		var err error
		if minus, plus, err = e.allowed(t, kind.Dim, s, nil); err != nil {
			return out, fmt.Errorf("balloon %d, %s: %w", r.Balloon, r.Label, err)
		}
	default:
		minus = kind.Share * math.Abs(v)
		plus = minus
	}
	out.Lower, out.Upper = out.Value-minus, out.Value+plus
	switch {
	case kind.Counts:
	case kind.Least:
		out.Upper, out.Limits = unbounded, "at least "+out.Write(out.Lower)
	case math.Abs(minus-plus) < 1e-12:
		out.Limits = "±" + out.Write(plus)
	default:
		out.Limits = "+" + out.Write(plus) + " / −" + out.Write(minus)
	}
	return out, nil
}

// Write writes a value as a measured one.
func (a *Asked) Write(v float64) string {
	f := quantity.MeasuredFormat(a.unit)
	switch a.dim {
	case quantity.Length:
		return f.Length(v)
	case quantity.Angle:
		return f.Angle(v)
	}
	return quantity.FormatDecimal(v, 3)
}

// Item finds the item of a part of the reference; nil where the exercise says nothing of it.
func (o *OfAssembly) Item(part string) *Item {
	for i := range o.Items {
		if o.Items[i].Part == part {
			return &o.Items[i]
		}
	}
	return nil
}

// Requirement finds a characteristic of the whole by its id; nil where there is none, or no assembly.
func (o *OfAssembly) Requirement(id string) *Requirement {
	if o == nil {
		return nil
	}
	for i := range o.Characteristics {
		if o.Characteristics[i].ID == id {
			return &o.Characteristics[i]
		}
	}
	return nil
}

// measured is what a check depends on: not what counts for how much.
func (o *OfAssembly) measured() *OfAssembly {
	if o == nil {
		return nil
	}
	out := *o
	out.Items, out.Characteristics = slices.Clone(o.Items), slices.Clone(o.Characteristics)
	for i := range out.Items {
		out.Items[i].Weight = 0
	}
	for i := range out.Characteristics {
		out.Characteristics[i].Weight, out.Characteristics[i].Free = 0, false
	}
	return &out
}

// checkAssembly finds what is wrong with what is asked of an assembly. Ids and balloons are those that are taken, and
// it adds its own.
func (e *Exercise) checkAssembly(ids map[string]bool, balloons map[int]bool) error {
	switch {
	case e.Kind == Part && e.Assembly != nil:
		return &Error{"/assembly", "an exercise of the kind part has none: leave it out, or write the kind assembly"}
	case e.Kind == Part:
		return nil
	case e.Assembly == nil:
		return &Error{"/assembly", "an exercise of the kind assembly says here what it asks of its items and of the whole"}
	case len(e.Characteristics) > 0:
		return &Error{"/characteristics", "those of the whole stand in /assembly/characteristics, and those of a part in " +
			"the exercise of its item"}
	case e.Reference != ReferenceOfAssembly:
		return &Error{"/reference", fmt.Sprintf("of an assembly it is %q", ReferenceOfAssembly)}
	}
	if b := e.Assembly.Branch; b != "" && b != AnyBranch {
		return &Error{"/assembly/branch", fmt.Sprintf("%q is no branch: write any, or leave it out", b)}
	}
	if u := e.Assembly.Unsaid; u != "" && u != AskUnsaid {
		return &Error{"/assembly/unsaid", fmt.Sprintf("%q is not known here: write ask, or leave it out", u)}
	}
	parts, err := e.Assembly.checkItems()
	if err != nil {
		return err
	}
	for i := range e.Assembly.Characteristics {
		at := fmt.Sprintf("/assembly/characteristics/%d", i)
		if err := e.Assembly.Characteristics[i].check(at, ids, balloons, parts); err != nil {
			return err
		}
	}
	return nil
}

// checkItems finds what is wrong with the items, and gives the parts that they are.
func (o *OfAssembly) checkItems() (map[string]bool, error) {
	parts := map[string]bool{}
	for i := range o.Items {
		x := &o.Items[i]
		at := fmt.Sprintf("/assembly/items/%d", i)
		if x.Part == "" || parts[x.Part] {
			return nil, &Error{at + "/part", fmt.Sprintf("the part %q is not named or named twice", x.Part)}
		}
		parts[x.Part] = true
		if x.Exercise != "" && (path.Base(x.Exercise) != "exercise.json" || !fs.ValidPath(x.Exercise) ||
			path.Dir(x.Exercise) == ".") {
			return nil, &Error{at + "/exercise", fmt.Sprintf("%q must be the exercise.json of a folder beside this one, as "+
				"fork/exercise.json", x.Exercise)}
		}
	}
	return parts, nil
}

// check finds what is wrong with a characteristic of the whole that stands at a place.
func (r *Requirement) check(at string, ids map[string]bool, balloons map[int]bool, parts map[string]bool) error {
	if r.ID == "" || ids[r.ID] {
		return &Error{at + "/id", fmt.Sprintf("the id %q is empty or used twice", r.ID)}
	}
	if r.Balloon < 1 || balloons[r.Balloon] {
		return &Error{at + "/balloon", fmt.Sprintf("the balloon %d is not positive or used twice", r.Balloon)}
	}
	ids[r.ID], balloons[r.Balloon] = true, true
	kind := r.Declared()
	if kind == nil {
		return &Error{at + "/kind", fmt.Sprintf("%q is not a kind of characteristic of an assembly", r.Kind)}
	}
	if err := kind.Check(&r.About); err != nil {
		return &Error{at, err.Error()}
	}
	if r.Item != "" && !parts[r.Item] {
		return &Error{at + "/item", fmt.Sprintf("%q is no part of the items", r.Item)}
	}
	return nil
}
