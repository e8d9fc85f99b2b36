package atlas

import (
	"fmt"
	"math"

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
	// Those that are worked out from others come after them.
	for _, last := range []bool{false, true} {
		for _, c := range causes {
			if derived := c.Size != nil && c.Size.Derived; derived != last {
				continue
			}
			if err := carryInto(out, c); err != nil {
				return nil, err
			}
		}
	}
	return out, nil
}

// carryInto gives the sizes of a cause their values in a document. A size that is worked out from others goes on
// to follow them, with so much more or less.
func carryInto(d *part.Document, c Cause) error {
	var err error
	put := func(name string, value, nominal float64, dim quantity.Dim, follows bool) {
		if follows {
			value -= nominal
		}
		var text string
		if err == nil {
			text, err = typed(value, dim, d.Unit)
		}
		if err == nil && !retype(d, name, func(formula string) string {
			if follows {
				return "(" + formula + ") + (" + text + ")"
			}
			return text
		}) {
			err = fmt.Errorf("the reference has no size %q", name)
		}
	}
	value := func(name string) float64 {
		if exposed, _, bad := Expose(d); bad != nil {
			err = bad
		} else if unit, bad := quantity.LengthUnit(d.Unit); bad != nil {
			err = bad
		} else if table, bad := quantity.Evaluate(exposed.Parameters, unit, nil); bad != nil {
			err = bad
		} else if q, ok := table.Lookup(name); ok {
			return q.Value
		}
		return 0
	}
	switch s := c.Size; {
	case s != nil:
		now := 0.0
		if s.Derived {
			now = value(s.Parameter)
		}
		put(s.Parameter, c.Value, now, s.Dim, s.Derived)
		for _, h := range s.Holds {
			put(h.Parameter, h.Value, value(h.Parameter), h.Dim, true)
		}
	case c.Entry.Parameter != "":
		put(c.Entry.Parameter, c.Entry.Value, 0, c.Entry.Dim, false)
	}
	return err
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
