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

// locate is what an operand is measured from: that of its face, or of two flat faces the line in which they meet, and
// of two round ones the plane of the circle in which they do.
func locate(g *solid.Geometry, operand []int) solid.Locus {
	at := g.Faces[operand[0]].Locus()
	if len(operand) == 2 && at.Kind != solid.PlaneLocus {
		if rim, ok := g.Faces[operand[0]].Rim(g.Faces[operand[1]]); ok {
			return solid.Locus{Kind: solid.PlaneLocus, At: rim.Center, Dir: rim.Axis}
		}
	}
	if len(operand) == 2 && at.Kind == solid.PlaneLocus {
		if other := g.Faces[operand[1]].Locus(); other.Kind == solid.PlaneLocus {
			if line, ok := at.Meet(other); ok {
				return line
			}
		}
	}
	return at
}

// square is how far from parallel or perpendicular two places may be for a
// distance to make sense, in radians: modelled geometry is exact.
const square = 1e-4

// apart is the distance of two places, in mm; an error where it is not the same everywhere.
func apart(a, b solid.Locus) (float64, error) {
	if b.Kind == solid.PlaneLocus {
		a, b = b, a
	}
	switch {
	case a.Kind == solid.PlaneLocus && b.Kind == solid.PlaneLocus && a.Slope(b) > square:
		return 0, fmt.Errorf("the two faces are not parallel: they are %s apart", degrees(a.Slope(b)))
	case a.Kind == solid.PlaneLocus && b.Kind == solid.LineLocus && math.Abs(a.Dir.Dot(b.Dir)) > square:
		return 0, fmt.Errorf("the axis is not parallel to the face")
	case a.Kind == solid.LineLocus && b.Kind == solid.LineLocus && a.Slope(b) > square:
		return 0, fmt.Errorf("the two axes are not parallel")
	}
	return a.Apart(b), nil
}

// degrees writes an angle for people.
func degrees(rad float64) string { return quantity.SheetFormat(quantity.Degree).Angle(rad) }

// round tells whether a face is a cylinder: a bore or a shaft.
func round(f solid.Face) bool { return f.Kind == solid.CylinderFace }

// located gives the loci of all operands of a place.
func located(g *solid.Geometry, p Place) []solid.Locus {
	out := make([]solid.Locus, len(p))
	for i := range p {
		out[i] = locate(g, p[i])
	}
	return out
}

// between makes a measure of two operands.
func between(k Kind, measure func(g *solid.Geometry, a, b solid.Locus, first, last solid.Face,
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
