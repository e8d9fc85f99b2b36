package assembly

import (
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Reading is something measured between two features, or of one.
type Reading struct {
	Words string
	Value quantity.Quantity // mm or radians
}

// Measure tells how two features in space lie to one another, and how large each is: a and b are placed already.
func Measure(a, b *Feature) []Reading {
	var out []Reading
	length := func(words string, v float64) {
		out = append(out, Reading{words, quantity.Quantity{Value: v, Dim: quantity.Length}})
	}
	angle := func(v float64) {
		out = append(out, Reading{"angle between them", quantity.Quantity{Value: v, Dim: quantity.Angle}})
	}
	fa, fb := a.Frame(), b.Frame()
	d := a.At.Sub(b.At)
	switch {
	case flat.is(a) && flat.is(b):
		if v := between90(fa.Z, fb.Z); v > parallelEnough {
			angle(v)
		} else {
			length("distance between them", math.Abs(d.Dot(fb.Z)))
		}
	case flat.is(a) || flat.is(b):
		x, plane := a, fb
		if flat.is(a) {
			x, plane, d = b, fa, d.Scale(-1)
		}
		v := math.Pi / 2
		if axis.is(x) && x.Form != Circle {
			v = between90(x.Frame().Z, plane.Z)
		}
		if math.Pi/2-v > parallelEnough {
			angle(math.Pi/2 - v)
		} else {
			length("height over the flat face", math.Abs(d.Dot(plane.Z)))
		}
	case line(a) && line(b):
		if v := between90(fa.Z, fb.Z); v > parallelEnough {
			angle(v)
			length("shortest distance between the axes", math.Abs(d.Dot(fa.Z.Cross(fb.Z).Unit())))
		} else {
			length("distance between the axes", solid.FromAxis(a.At, b.At, fb.Z).Norm())
		}
	case line(a) || line(b):
		on, off := a, b
		if line(b) {
			on, off = b, a
		}
		length("distance from the axis", solid.FromAxis(off.At, on.At, on.Frame().Z).Norm())
	default:
		length("distance between them", d.Norm())
		for k, name := range []string{"along x", "along y", "along z"} {
			length(name, math.Abs(d[k]))
		}
	}
	return out
}

// parallelEnough are directions that count as parallel, in radians.
const parallelEnough = 1e-7

// line tells whether a feature is measured from its axis. A round edge is measured from its centre.
func line(f *Feature) bool { return axis.is(f) && f.Form != Circle && f.Form != Torus }

// between90 is the angle between two directions without their sense, from 0 to a right angle.
func between90(a, b solid.Vec) float64 {
	return math.Atan2(a.Cross(b).Norm(), math.Abs(a.Dot(b)))
}

// Placed is the feature where a component stands.
func (f *Feature) Placed(at func(solid.Vec) solid.Vec, turn func(solid.Vec) solid.Vec) *Feature {
	out := *f
	out.At, out.Axis = at(f.At), turn(f.Axis)
	return &out
}
