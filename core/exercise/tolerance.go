package exercise

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"hammerset/core/characteristic"
	"hammerset/core/quantity"
	"hammerset/core/standards"
)

// How a tolerance is printed, where not in the usual way: the class of a fit alone, and deviations behind the size.
const (
	WithDeviations = "deviations" // the class of a fit with its deviations in parentheses
	AsLimits       = "limits"     // the largest and the smallest size, in place of the size
)

// Toleranced gives what a sheet prints of a characteristic: the size, with its own tolerance behind it as suffix. What
// the general tolerance allows is not printed with each size. Both deviations stand on one line, the upper one first
// (ISO 129-1; the stroke between them is from memory).
func (e *Exercise) Toleranced(c *Characteristic, s characteristic.Stated) (size characteristic.Stated, suffix string) {
	t := c.Tolerance
	if t == nil || t.Kind != "iso286" && t.Kind != "limits" || c.Declared().Zero() || c.Declared().Worded() {
		return s, ""
	}
	lower, upper, err := e.deviations(c, s)
	if err != nil {
		return s, ""
	}
	if t.Printed == AsLimits {
		s.Text = e.plain(c, s.Value+upper) + "/" + e.plain(c, s.Value+lower)
		return s, ""
	}
	both := e.signed(c, upper) + "/" + e.signed(c, lower)
	switch {
	case t.Kind == "iso286" && t.Printed == WithDeviations:
		return s, " " + t.Class + " (" + both + ")"
	case t.Kind == "iso286":
		return s, " " + t.Class
	case math.Abs(upper+lower) < 1e-9:
		return s, " ±" + e.plain(c, upper)
	}
	return s, " " + both
}

// deviations are those of the tolerance of a characteristic, in mm or radians; unlike its limits in a check, those of a
// fit may both be on one side.
func (e *Exercise) deviations(c *Characteristic, s characteristic.Stated) (lower, upper float64, err error) {
	if c.Tolerance.Kind == "iso286" {
		return standards.Fit(c.Tolerance.Class, s.Value)
	}
	minus, plus, err := e.Limits(c, s)
	return -minus, plus, err
}

// plain writes a value in the unit of the sheet, to a hundred-thousandth.
func (e *Exercise) plain(c *Characteristic, v float64) string {
	factor := 1.0
	switch c.Declared().Dim {
	case quantity.Length:
		factor = e.LengthUnit().Factor
	case quantity.Angle:
		factor = quantity.Degree.Factor
	}
	return strconv.FormatFloat(math.Round(1e5*v/factor)/1e5, 'f', -1, 64)
}

// signed writes a deviation with its sign; none is written without one.
func (e *Exercise) signed(c *Characteristic, v float64) string {
	text := e.plain(c, v)
	switch {
	case text == "0" || text == "-0":
		return "0"
	case v > 0:
		return "+" + text
	}
	return "−" + strings.TrimPrefix(text, "-")
}

// zone is by how much a characteristic may be off within its zone, in mm or radians: half of it, or as far as its face
// leans through the whole of it.
func (e *Exercise) zone(c *Characteristic, s characteristic.Stated) (float64, error) {
	v, err := strconv.ParseFloat(strings.TrimSpace(c.Zone), 64)
	switch symbol := c.Declared().Symbol; {
	case err != nil || !(v > 0) || math.IsInf(v, 0):
		return 0, fmt.Errorf("%q is no width of a zone: write a number such as 0.05", c.Zone)
	case symbol == characteristic.NoSymbol:
		return 0, fmt.Errorf("a %s has no zone: give it a tolerance", c.Declared().Title)
	case symbol.Leans() && s.Leg <= 0:
		return 0, fmt.Errorf("the face has no length over which the zone could be as wide")
	case symbol.Leans():
		return math.Atan(v * e.LengthUnit().Factor / s.Leg), nil
	}
	return v * e.LengthUnit().Factor / 2, nil
}

// ZoneText is the width of the zone as a frame has it: that which is given, or for what lies half on each side, twice
// what is allowed.
func (e *Exercise) ZoneText(c *Characteristic, s characteristic.Stated) (string, error) {
	if c.Zone != "" || c.Declared().Symbol.Leans() {
		if c.Zone == "" {
			return "", fmt.Errorf("“%s” has no zone: give it a width", c.Label)
		}
		return strings.TrimSpace(c.Zone), nil
	}
	_, plus, err := e.Limits(c, s)
	return strconv.FormatFloat(math.Round(2e5*plus/e.LengthUnit().Factor)/1e5, 'f', -1, 64), err
}
