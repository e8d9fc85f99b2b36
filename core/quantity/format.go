package quantity

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Format is how values are written for people: lengths (and areas and volumes) in a unit, angles in
// degrees, plain numbers with four decimals; all with no zeros behind.
//
// An inch is written as a fraction down to 1/64 where it is one, as shop drawings in inches have it
// (common practice, no source), and else with one decimal more than other units: 0.001 in is 0.03 mm,
// about as coarse as the 0.01 mm beside it.
type Format struct {
	Unit     Unit // of lengths
	Lengths  int  // decimals of lengths, inches have one more
	Angles   int  // decimals of degrees
	Decimal  bool // fractions of an inch are written as decimals too
	Keep     bool // what is too small for the decimals keeps three figures instead of becoming nothing
	Symbolic bool // the symbol of the unit stands behind, as a formula has it; else nothing or °
}

// SheetFormat is how a sheet states values: two decimals.
func SheetFormat(u Unit) Format { return Format{Unit: u, Lengths: 2, Angles: 2} }

// MeasuredFormat is how measured values stand beside those of a sheet: with one decimal more, so that
// one reads by how little something is out.
func MeasuredFormat(u Unit) Format { return Format{Unit: u, Lengths: 3, Angles: 3} }

// BoardFormat is how sizes stand on the board, where there is room for little.
func BoardFormat(u Unit) Format {
	return Format{Unit: u, Lengths: 3, Angles: 2, Keep: true}
}

// FormulaFormat is how a value is written as a formula that gives it again, to so many decimals.
func FormulaFormat(u Unit) Format {
	return Format{Unit: u, Lengths: 3, Angles: 3, Keep: true, Symbolic: true}
}

// GaugeFormat is how exact measures of a solid are written, to a millionth.
func GaugeFormat(u Unit) Format {
	return Format{Unit: u, Lengths: 6, Angles: 6, Decimal: true, Symbolic: true}
}

// Text writes a value.
func (f Format) Text(q Quantity) string {
	text, _ := f.text(q)
	switch {
	case q.Dim == Number:
		return text
	case q.Dim == Angle && f.Symbolic:
		return text + " " + Degree.Symbol
	case q.Dim == Angle:
		return text + "°"
	case f.Symbolic:
		return text + " " + f.Unit.Symbol + power(q.Dim.Length)
	}
	return text
}

// Length writes a length in millimetres.
func (f Format) Length(mm float64) string { return f.Text(Quantity{mm, Length}) }

// Angle writes an angle in radians.
func (f Format) Angle(rad float64) string { return f.Text(Quantity{rad, Angle}) }

// Round writes a value, and gives what is then written (in millimetres or radians) and half of its last
// decimal. A fraction of an inch and a plain number are meant as they stand: half of nothing.
func (f Format) Round(q Quantity) (text string, value, half float64) {
	text = f.Text(q)
	if _, exact := f.text(q); exact {
		return text, q.Value, 0
	}
	unit, decimals := f.scale(q.Dim), f.decimals(q.Dim)
	value = rounded(q.Value/unit, decimals) * unit
	if q.Dim != Number {
		half = 0.5 * math.Pow10(-decimals) * unit
	}
	return text, value, half
}

// text writes the figures alone; exact says that they are a fraction.
func (f Format) text(q Quantity) (figures string, exact bool) {
	v, decimals := q.Value/f.scale(q.Dim), f.decimals(q.Dim)
	if q.Dim == Length && f.Unit == Inch && !f.Decimal {
		if text, ok := FormatFraction(v, inchFractions); ok {
			return text, true
		}
	}
	if f.Keep && q.Dim == Length && v != 0 && math.Abs(v) < 0.5*math.Pow10(-decimals) {
		return strconv.FormatFloat(v, 'g', 3, 64), false
	}
	return FormatDecimal(rounded(v, decimals), decimals), false
}

// rounded rounds the decimal that people see: 58.7375 goes up, though the nearest binary number lies
// below it.
func rounded(v float64, decimals int) float64 {
	last := math.Pow10(decimals)
	return math.Round(v*last) / last
}

// scale is one of what a value of a dimension is written in, in millimetres (to its power) or radians.
func (f Format) scale(d Dim) float64 {
	switch d {
	case Number:
		return 1
	case Angle:
		return Degree.Factor
	}
	return math.Pow(f.Unit.Factor, float64(d.Length))
}

// decimals is how many a value of a dimension has at most.
func (f Format) decimals(d Dim) int {
	switch {
	case d == Number:
		return numberDecimals
	case d == Angle:
		return f.Angles
	case f.Unit == Inch && !f.Decimal:
		return f.Lengths + 1
	}
	return f.Lengths
}

// power is the raised figure behind the unit of an area or a volume.
func power(n int) string {
	switch n {
	case 2:
		return "²"
	case 3:
		return "³"
	}
	return ""
}

// FormatDecimal writes v with at most the given number of decimals, without
// trailing zeros.
func FormatDecimal(v float64, decimals int) string {
	s := strconv.FormatFloat(v, 'f', decimals, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	if s == "-0" {
		s = "0"
	}
	return s
}

// FormatPoints writes points of a mark as people see them: with two decimals at most.
func FormatPoints(points float64) string { return FormatDecimal(points, 2) }

// numberDecimals is what a ratio is written with; a count has none of them.
const numberDecimals = 4

// inchFractions is the largest denominator of fractions of an inch that are written as such.
const inchFractions = 64

// FormatFraction writes v (already in the wanted unit) as a whole number and a
// fraction with a power-of-two denominator up to maxDenominator, as inch
// drawings do: "1 1/2", "3/16". ok is false when v is not such a fraction to
// within 1e-6.
func FormatFraction(v float64, maxDenominator int) (text string, ok bool) {
	sign := ""
	if v < 0 {
		sign, v = "-", -v
	}
	n := math.Round(v * float64(maxDenominator))
	if math.Abs(n/float64(maxDenominator)-v) > 1e-6 {
		return "", false
	}
	if n == 0 {
		sign = "" // what is left of rounding has none
	}
	num, den := int64(n), int64(maxDenominator)
	for den > 1 && num%2 == 0 {
		num, den = num/2, den/2
	}
	whole, rest := num/den, num%den
	switch {
	case rest == 0:
		return fmt.Sprintf("%s%d", sign, whole), true
	case whole == 0:
		return fmt.Sprintf("%s%d/%d", sign, rest, den), true
	}
	return fmt.Sprintf("%s%d %d/%d", sign, whole, rest, den), true
}
