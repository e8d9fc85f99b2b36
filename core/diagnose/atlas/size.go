package atlas

import (
	"maps"
	"math"
	"slices"

	"hammerset/core/quantity"
)

// Size is one size of the reference that may have another value in an attempt: a parameter, or what is typed
// in a step. Slopes is how the characteristics change with it, per millimetre or radian.
//
// A reference ties sizes by formulas (spacing = width - 24), and a student need not: each is varied with what
// hangs on it, and by itself with what hangs on it held where the sheet has it, and so is each that hangs
// on others.
type Size struct {
	Parameter string       `json:"parameter"`
	Where     string       `json:"where"`
	Dim       quantity.Dim `json:"dim"`
	Nominal   float64      `json:"nominal"`
	Slopes    Values       `json:"slopes"`
	Volume    float64      `json:"volume"` // how the volume changes with it
	// Figures and Extent are how the figures of the whole and the overall sizes change with it.
	Figures FigureSlopes `json:"figures"`
	Extent  [3]float64   `json:"extent"`
	// Derived: the reference works it out from others.
	Derived bool `json:"derived,omitempty"`
	// Holds are the sizes that hang on it in the reference and are held at their nominal values.
	Holds []Held `json:"holds,omitempty"`
}

// Held is a size that stays at its value while another one changes.
type Held struct {
	Parameter string       `json:"parameter"`
	Dim       quantity.Dim `json:"dim"`
	Value     float64      `json:"value"`
}

// FigureSlopes are how figures change with a size, per millimetre or radian.
type FigureSlopes struct {
	Inner [5]float64  `json:"inner"`
	Sums  [11]float64 `json:"sums"`
}

// slopesOf are those between two figures that a change of d is between.
func slopesOf(before, after Figures, d float64) (out FigureSlopes) {
	for k := range out.Inner {
		out.Inner[k] = (after.Inner[k] - before.Inner[k]) / d
	}
	for k := range out.Sums {
		out.Sums[k] = (after.Sums[k] - before.Sums[k]) / d
	}
	return out
}

// settings are the values that a reference is rebuilt with where sizes have other values: theirs, and of what
// they hold.
func settings(sizes []*Size, value map[string]quantity.Quantity) map[string]quantity.Quantity {
	out := maps.Clone(value)
	for _, s := range sizes {
		for _, h := range s.Holds {
			if _, set := out[h.Parameter]; !set {
				out[h.Parameter] = quantity.Quantity{Value: h.Value, Dim: h.Dim}
			}
		}
	}
	return out
}

// varies tells whether one of some sizes varies a parameter.
func varies(sizes []*Size, parameter string) bool {
	return slices.ContainsFunc(sizes, func(s *Size) bool { return s.Parameter == parameter })
}

// alike tells whether two sizes change the part in the same way, by the same measure or another: what is
// measured cannot tell them apart.
func (s *Size) alike(other *Size) bool {
	if len(s.Slopes) != len(other.Slopes) {
		return false
	}
	mine, theirs := []float64{}, []float64{}
	for id, list := range s.Slopes {
		o := other.Slopes[id]
		if len(o) != len(list) {
			return false
		}
		mine, theirs = append(mine, list...), append(theirs, o...)
	}
	// The volume is weighed down to a length, by the size of what it is a change of.
	scale := math.Max(math.Abs(s.Volume), math.Abs(other.Volume))
	if scale > 0 {
		mine, theirs = append(mine, s.Volume/scale), append(theirs, other.Volume/scale)
	}
	a, b := norm(mine), norm(theirs)
	if a == 0 || b == 0 {
		return a == b
	}
	for k := range mine {
		if math.Abs(mine[k]/a-theirs[k]/b) > 1e-4 && math.Abs(mine[k]/a+theirs[k]/b) > 1e-4 {
			return false
		}
	}
	return true
}

// Stands tells that a size is what it should be: every characteristic that changes with it was found at all its
// places and measures what it does on the reference. A size that nothing shows may be anything.
func (s *Size) Stands(reference, measured Values) bool {
	for id := range s.Slopes {
		want, have := slices.Sorted(slices.Values(reference[id])), slices.Sorted(slices.Values(measured[id]))
		same := func(x, y float64) bool { return math.Abs(x-y) < near }
		if len(have) == 0 || !slices.EqualFunc(want, have, same) {
			return false
		}
	}
	return len(s.Slopes) > 0
}
