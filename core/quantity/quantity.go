// Package quantity holds lengths, angles and plain numbers, the formulas that
// are written with them, and tables of named parameters.
//
// Every length is kept in millimetres and every angle in radians; a Unit says
// how a value is written and read.
package quantity

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Dim is the physical dimension of a quantity: the exponents of length and of
// angle. The zero value is a plain number.
type Dim struct{ Length, Angle int }

// The dimensions that a parameter or a size can have on a drawing.
var (
	Number = Dim{}
	Length = Dim{Length: 1}
	Angle  = Dim{Angle: 1}
)

// String names the dimension in words.
func (d Dim) String() string {
	switch d {
	case Number:
		return "a plain number"
	case Length:
		return "a length"
	case Angle:
		return "an angle"
	case Dim{Length: 2}:
		return "an area"
	case Dim{Length: 3}:
		return "a volume"
	}
	return fmt.Sprintf("length^%d angle^%d", d.Length, d.Angle)
}

// Quantity is a value in millimetres (to the power Dim.Length) and radians (to
// the power Dim.Angle).
type Quantity struct {
	Value float64
	Dim   Dim
}

// Formula writes a length, an angle or a plain number to the last digit, as a formula that has just this value.
func (q Quantity) Formula() string {
	digits := strconv.FormatFloat(q.Value, 'g', -1, 64)
	switch q.Dim {
	case Length:
		return digits + " " + Millimetre.Symbol
	case Angle:
		return digits + " " + Radian.Symbol
	}
	return digits
}

// Unit is a unit of length or angle.
type Unit struct {
	Symbol string
	Factor float64 // one of this unit in millimetres or radians
	Dim    Dim
}

// Units of length and angle that a formula may use. The inch is exactly
// 25.4 mm (ISO 80000-3).
var (
	Millimetre = Unit{"mm", 1, Length}
	Centimetre = Unit{"cm", 10, Length}
	Metre      = Unit{"m", 1000, Length}
	Inch       = Unit{"in", 25.4, Length}
	Degree     = Unit{"deg", math.Pi / 180, Angle}
	Radian     = Unit{"rad", 1, Angle}
)

// LookupUnit finds a unit by its symbol.
func LookupUnit(symbol string) (Unit, bool) {
	for _, u := range []Unit{Millimetre, Centimetre, Metre, Inch, Degree, Radian} {
		if u.Symbol == symbol {
			return u, true
		}
	}
	if symbol == "°" {
		return Degree, true
	}
	return Unit{}, false
}

// LengthUnit finds a unit of length by its symbol; the error lists the units
// that are known.
func LengthUnit(symbol string) (Unit, error) {
	if u, ok := LookupUnit(symbol); ok && u.Dim == Length {
		return u, nil
	}
	return Unit{}, fmt.Errorf("%q is not a unit of length: use mm, cm, m or in", symbol)
}

// List writes names as people do, "a, b and c"; of more than most the first, and how many more there are.
func List(names []string, most int) string {
	last := len(names) - 1
	switch {
	case last < 0:
		return "nothing"
	case last == 0:
		return names[0]
	case len(names) > most:
		return fmt.Sprintf("%s and %d more", strings.Join(names[:most], ", "), len(names)-most)
	}
	return strings.Join(names[:last], ", ") + " and " + names[last]
}

// Count writes how many there are, with the word for one or for several.
func Count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}
