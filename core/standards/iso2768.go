// Package standards holds tables of published standards. Each table names its
// source; where the figures were written down from memory it says so.
package standards

import "fmt"

// Class is a tolerance class of ISO 2768-1:1989: f fine, m medium, c coarse,
// v very coarse.
type Class string

func (c Class) column() (int, error) {
	switch c {
	case "f":
		return 0, nil
	case "m":
		return 1, nil
	case "c":
		return 2, nil
	case "v":
		return 3, nil
	}
	return 0, fmt.Errorf("%q is not a class of ISO 2768-1: use f, m, c or v", string(c))
}

type row struct {
	upTo   float64 // nominal up to and including, mm
	values [4]float64
}

// none marks a combination that the standard leaves out.
const none = -1

// ISO 2768-1:1989, table 1: permissible deviations of linear sizes, mm (values
// from memory). Nominal sizes below 0.5 mm carry their own tolerance.
var linear = []row{
	{3, [4]float64{0.05, 0.1, 0.2, none}},
	{6, [4]float64{0.05, 0.1, 0.3, 0.5}},
	{30, [4]float64{0.1, 0.2, 0.5, 1}},
	{120, [4]float64{0.15, 0.3, 0.8, 1.5}},
	{400, [4]float64{0.2, 0.5, 1.2, 2.5}},
	{1000, [4]float64{0.3, 0.8, 2, 4}},
	{2000, [4]float64{0.5, 1.2, 3, 6}},
	{4000, [4]float64{none, 2, 4, 8}},
}

// ISO 2768-1:1989, table 2: external radii and chamfer heights, mm (values from
// memory).
var broken = []row{
	{3, [4]float64{0.2, 0.2, 0.4, 0.4}},
	{6, [4]float64{0.5, 0.5, 1, 1}},
	{1e9, [4]float64{1, 1, 2, 2}},
}

// ISO 2768-1:1989, table 3: angles, in minutes of arc, by the length of the
// shorter side (values from memory).
var angular = []row{
	{10, [4]float64{60, 60, 90, 180}},
	{50, [4]float64{30, 30, 60, 120}},
	{120, [4]float64{20, 20, 30, 60}},
	{400, [4]float64{10, 10, 15, 30}},
	{1e9, [4]float64{5, 5, 10, 20}},
}

func lookup(table []row, what string, c Class, nominal float64) (float64, error) {
	k, err := c.column()
	if err != nil {
		return 0, err
	}
	for _, r := range table {
		if nominal <= r.upTo {
			if r.values[k] == none {
				break
			}
			return r.values[k], nil
		}
	}
	return 0, fmt.Errorf("ISO 2768-1 class %s gives no deviation for %s of %g mm", c, what, nominal)
}

// Linear gives the permissible deviation (plus and minus, mm) of a linear size.
func Linear(c Class, nominal float64) (float64, error) {
	if nominal < 0.5 {
		return 0, fmt.Errorf("ISO 2768-1 gives no deviation below 0.5 mm; state one")
	}
	return lookup(linear, "a size", c, nominal)
}

// BrokenEdge gives the permissible deviation (mm) of an external radius or a
// chamfer height.
func BrokenEdge(c Class, nominal float64) (float64, error) {
	if nominal < 0.5 {
		return 0, fmt.Errorf("ISO 2768-1 gives no deviation below 0.5 mm; state one")
	}
	return lookup(broken, "an edge", c, nominal)
}

// Angular gives the permissible deviation in degrees of an angle whose shorter
// side has the given length in mm.
func Angular(c Class, side float64) (float64, error) {
	v, err := lookup(angular, "a side", c, side)
	return v / 60, err
}
