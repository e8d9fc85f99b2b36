package atlas

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/part"
	"hammerset/core/quantity"
)

// Carried gives a copy of the reference with causes in it, by which everything else of the
// attempt can be judged: what follows from a mistake that is known already is no mistake of its own.
// Values are taken as they would have been typed, in the document's unit.
func Carried(reference *part.Document, causes []Cause) (*part.Document, error) {
	var edits []part.Alteration
	for _, c := range causes {
		if c.Entry != nil {
			edits = append(edits, c.Entry.Alterations...)
		}
	}
	out, err := reference.Altered(edits)
	if err != nil {
		return nil, err
	}
	for _, c := range causes {
		name, value, dim := "", 0.0, quantity.Dim{}
		switch {
		case c.Size != nil:
			name, value, dim = c.Size.Parameter, c.Value, c.Size.Dim
		case c.Entry.Parameter != "":
			name, value, dim = c.Entry.Parameter, c.Entry.Value, c.Entry.Dim
		default:
			continue
		}
		text, err := typed(value, dim, out.Unit)
		if err != nil {
			return nil, err
		}
		if i := slices.IndexFunc(out.Parameters, func(p quantity.Parameter) bool { return p.Name == name }); i >= 0 {
			out.Parameters[i].Formula = text
			continue
		}
		// A number of a step, under the name that Expose gave it.
		if !setTyped(out, name, text) {
			return nil, fmt.Errorf("the reference has no size %q", name)
		}
	}
	return out, nil
}

// typed writes a value that was solved for as it would have been typed: with four decimals of the unit, where it
// is that.
func typed(v float64, dim quantity.Dim, document string) (string, error) {
	unit, symbol := quantity.Unit{Factor: 1}, ""
	switch dim {
	case quantity.Length:
		var err error
		if unit, err = quantity.LengthUnit(document); err != nil {
			return "", err
		}
		symbol = " " + document
	case quantity.Angle:
		unit, symbol = quantity.Degree, " deg"
	}
	v /= unit.Factor
	const places = 1e4
	if near := math.Round(v*places) / places; math.Abs(near-v) < 2e-5 {
		v = near
	}
	return fmt.Sprintf("%.12f%s", v, symbol), nil
}
