package characteristic

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Place is one place of a characteristic: the operands, each a face or the two flat faces that
// meet in a line, by number.
type Place [][]int

// Faces lists all faces of a place.
func (p Place) Faces() []int {
	var out []int
	for _, o := range p {
		out = append(out, o...)
	}
	return out
}

// Amiss is the error of geometry that was found and is not as it must be for the measure
// to have a value: a face that should lie along a datum plane and is tilted.
type Amiss struct{ What string }

func (e *Amiss) Error() string { return e.What }

// locus is a plane, a line or a point to measure from.
type locus struct {
	kind string // plane, line or point
	at   solid.Vec
	dir  solid.Vec
}

// locate is what an operand is measured from: a flat face is its plane, a round
// one its axis, a sphere its centre, two flat faces the line in which they meet.
func locate(g *solid.Geometry, operand []int) locus {
	f := g.Faces[operand[0]]
	if len(operand) == 2 && f.Kind == solid.PlaneFace && g.Faces[operand[1]].Kind == solid.PlaneFace {
		if at, dir, ok := Meet(f, g.Faces[operand[1]]); ok {
			return locus{"line", at, dir}
		}
	}
	switch f.Kind {
	case solid.PlaneFace:
		return locus{"plane", f.Centroid, f.Normal}
	case solid.SphereFace:
		return locus{"point", f.Origin, solid.Vec{}}
	case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
		return locus{"line", f.Origin, f.Axis}
	}
	return locus{"point", f.Centroid, solid.Vec{}}
}

// Meet gives the line in which two flat faces meet: its point nearest to the origin, and its
// direction; not ok where they are parallel.
func Meet(f, h solid.Face) (at, dir solid.Vec, ok bool) {
	d := f.Normal.Cross(h.Normal)
	q := d.Dot(d)
	if q <= 1e-12 {
		return at, dir, false
	}
	p := h.Normal.Cross(d).Scale(f.Centroid.Dot(f.Normal)).Add(d.Cross(f.Normal).Scale(h.Centroid.Dot(h.Normal)))
	return p.Scale(1 / q), d.Unit(), true
}

// square is how far from parallel or perpendicular two places may be for a
// distance to make sense, in radians: modelled geometry is exact.
const square = 1e-4

// apart is the distance of two places, in mm.
func apart(a, b locus) (float64, error) {
	if b.kind == "plane" && a.kind != "plane" {
		a, b = b, a
	}
	d := b.at.Sub(a.at)
	if a.kind == "plane" {
		switch {
		case b.kind == "plane" && !a.dir.Parallel(b.dir, square):
			t := a.dir.Angle(b.dir)
			return 0, fmt.Errorf("the two faces are not parallel: they are %s° apart", degrees(math.Min(t, math.Pi-t)))
		case b.kind == "line" && math.Abs(a.dir.Dot(b.dir)) > square:
			return 0, fmt.Errorf("the axis is not parallel to the face")
		}
		return math.Abs(d.Dot(a.dir)), nil
	}
	if a.kind == "line" && b.kind == "line" && !a.dir.Parallel(b.dir, square) {
		return 0, fmt.Errorf("the two axes are not parallel")
	}
	for _, p := range []locus{a, b} {
		if p.kind == "line" {
			return d.Sub(p.dir.Scale(d.Dot(p.dir))).Norm(), nil
		}
	}
	return d.Norm(), nil
}

func degrees(rad float64) string { return quantity.FormatDecimal(rad/quantity.Degree.Factor, 2) }

func round(f solid.Face) bool { return f.Kind == solid.CylinderFace }

// located gives the loci of all operands of a place.
func located(g *solid.Geometry, p Place) []locus {
	out := make([]locus, len(p))
	for i := range p {
		out[i] = locate(g, p[i])
	}
	return out
}

// between makes a measure of two operands.
func between(k Kind, measure func(g *solid.Geometry, a, b locus, first, last solid.Face,
	how How) (float64, error)) *Kind {
	k.Measure = func(g *solid.Geometry, p Place, how How) (float64, error) {
		if len(p) != 2 {
			return 0, fmt.Errorf("%s is measured on %s", k.Title, k.On)
		}
		return measure(g, locate(g, p[0]), locate(g, p[1]), g.Faces[p[0][0]], g.Faces[p[1][0]], how)
	}
	return &k
}

// farthest gives the value farthest from the mean.
func farthest(v []float64) float64 {
	mean := 0.0
	for _, x := range v {
		mean += x / float64(len(v))
	}
	out := mean
	for _, x := range v {
		if math.Abs(x-mean) > math.Abs(out-mean) {
			out = x
		}
	}
	return out
}
