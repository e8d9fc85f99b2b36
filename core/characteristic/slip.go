package characteristic

import "math"

// Slip is a usual mistake with a kind: how the measured value shows it, what was done, and what
// to do. The remedy has a %s for the stated value. Values are in mm or degrees.
type Slip struct {
	Shows         func(measured, nominal float64) bool
	Cause, Remedy string
	Sure          string // likely or possible
}

// Same tells whether two values of a report are the same but for rounding.
func Same(a, b float64) bool {
	return math.Abs(a-b) <= 1e-6*math.Max(1, math.Max(math.Abs(a), math.Abs(b)))
}

// twice tells that a value is double what the sheet states.
func twice(m, n float64) bool { return Same(m, 2*n) }

// half tells that a value is half of what the sheet states.
func half(m, n float64) bool { return Same(m, n/2) }

// roundSlips are those of what is given by a radius or a diameter (see the practice notes).
func roundSlips() []Slip {
	return []Slip{
		{twice, "the diameter was typed where the radius was asked for", "enter %s; a radius is half the diameter", "likely"},
		{half, "the radius was typed where the diameter was asked for", "enter %s as the diameter", "likely"},
	}
}
