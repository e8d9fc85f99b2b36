package inspect

import (
	"math"

	"hammerset/core/solid"
)

// Settle gives the shift after which most of the surface of two solids lies in one place.
// A best fit by least squares shares every difference out: of a plate that is too thick both
// sides lie off by half. Along each of up to three directions at right angles the shift is
// the one on which the largest area of matched faces agrees (a mode, not a mean); of equal
// ones that which leaves the lower face where it is, as a part stands on its base. laid is
// the attempt in the pose of the reference.
//
// Votes within a ten-thousandth of a millimetre count as one. The area decides
// and not the number of faces, because one hole pattern has many small faces. It
// is the maximum of a sum of boxes, found by trying each vote as the middle, n²
// for some hundred faces.
func Settle(ref, laid *solid.Geometry, m Matching) solid.Vec {
	type pair struct{ r, a *solid.Face }
	var pairs []pair
	for i, j := range m.Of {
		if j >= 0 {
			pairs = append(pairs, pair{&ref.Faces[i], &laid.Faces[j]})
		}
	}
	var shift solid.Vec
	for _, u := range rightAngles(ref) {
		type vote struct{ by, area, at float64 }
		var votes []vote
		for _, p := range pairs {
			off, says := 0.0, false
			switch p.r.Kind {
			case solid.PlaneFace:
				says = along(p.r.Normal, u) && p.r.Normal.Dot(p.a.Normal) > 1-1e-8
				off = p.r.Centroid.Sub(p.a.Centroid).Dot(u)
			case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
				says = across(p.r.Axis, u) && along(p.r.Axis, p.a.Axis)
				off = p.r.Origin.Sub(p.a.Origin).Dot(u)
			case solid.SphereFace:
				says, off = true, p.r.Origin.Sub(p.a.Origin).Dot(u)
			}
			if says {
				votes = append(votes, vote{off, p.r.Area, p.r.Centroid.Dot(u)})
			}
		}
		// What agrees as it lies agrees already, and stays unless more would with a shift.
		const close = 1e-4 // mm
		best, most, lowest := 0.0, 0.0, math.Inf(1)
		for _, v := range append([]vote{{}}, votes...) {
			area, low := 0.0, math.Inf(1)
			for _, w := range votes {
				if math.Abs(w.by-v.by) <= close {
					area += w.area
					low = math.Min(low, w.at)
				}
			}
			if area > most*(1+1e-6) || area > most*(1-1e-6) && low < lowest-1e-6 && math.Abs(best) > close {
				best, most, lowest = v.by, area, low
			}
		}
		shift = shift.Add(u.Scale(best))
	}
	return shift
}

// along tells that two unit vectors are parallel or opposite; the dot product
// differs from 1 by half the square of the angle, so that 1e-8 is an angle of
// about 1e-4.
func along(a, b solid.Vec) bool { return math.Abs(a.Dot(b)) > 1-1e-8 }

// across tells that two unit vectors are square to one another, to about 1e-4
// radians.
func across(a, b solid.Vec) bool { return math.Abs(a.Dot(b)) < 1e-4 }

// rightAngles gives up to three directions at right angles to one another: those to which the largest flat
// area is square, then those across the axes of round faces. Each points to the positive side
// of the axis of coordinates that it is nearest to.
func rightAngles(g *solid.Geometry) []solid.Vec {
	type group struct {
		dir  solid.Vec
		area float64
	}
	var groups []group
	add := func(d solid.Vec, area float64) {
		for i := range groups {
			if along(groups[i].dir, d) {
				groups[i].area += area
				return
			}
		}
		groups = append(groups, group{d, area})
	}
	for _, f := range g.Faces {
		switch f.Kind {
		case solid.PlaneFace:
			add(f.Normal, f.Area)
		case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
			x := solid.Plane(solid.Vec{}, f.Axis)
			add(x.X, 1e-6*f.Area)
			add(x.Y, 1e-6*f.Area)
		}
	}
	var out []solid.Vec
	for len(out) < 3 {
		best := -1
		for i, x := range groups {
			fits := x.area > 0
			for _, o := range out {
				fits = fits && across(o, x.dir)
			}
			if fits && (best < 0 || x.area > groups[best].area) {
				best = i
			}
		}
		if best < 0 {
			return out
		}
		d := groups[best].dir
		groups[best].area = 0
		if main := mainAxis(d); d[main] < 0 {
			d = d.Scale(-1)
		}
		out = append(out, d)
	}
	return out
}

// mainAxis is the axis of the model to which a vector is nearest. A tie goes to
// the first, so that it does not hang on rounding.
func mainAxis(v solid.Vec) int {
	k := 0
	for i := 1; i < 3; i++ {
		if math.Abs(v[i]) > math.Abs(v[k])+1e-9 {
			k = i
		}
	}
	return k
}
