package characteristic

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// position is how far an axis misses its exact place, at the end at which it misses it most (ISO 1101: the whole axis
// lies within a zone). The place is given by the exact distances from one or two faces or axes, in the order of the
// operands.
func position() *Kind {
	k := &Kind{
		Name: "position", Title: "position",
		On:  "a hole or a pin, and the one or two faces or axes that its place is given from",
		Dim: quantity.Length, State: None, Print: title("position"), Holds: Places, Symbol: Position, From: distance(),
	}
	k.Measure = func(g *solid.Geometry, p Place, how How) (float64, error) {
		if len(p) < 2 || len(p) > 3 || len(how.Exact) != len(p)-1 {
			return 0, fmt.Errorf("%s is measured on %s, with an exact distance from each", k.Title, k.On)
		}
		f := g.Faces[p[0][0]]
		if f.Kind != solid.CylinderFace && f.Kind != solid.ConeFace {
			return 0, fmt.Errorf("the face is %s and has no axis", f.Kind)
		}
		worst := 0.0
		for _, end := range axisEnds(g, p[0][0]) {
			off, err := displaced(g, p, end, how.Exact)
			if err != nil {
				return 0, err
			}
			worst = math.Max(worst, off)
		}
		return worst, nil
	}
	return k
}

// axisEnds are the ends of the axis of a round face.
func axisEnds(g *solid.Geometry, face int) [2]solid.Vec {
	f := g.Faces[face]
	low, high := g.Reach(face, f.Axis)
	at := f.Origin.Dot(f.Axis)
	return [2]solid.Vec{f.Origin.Add(f.Axis.Scale(low - at)), f.Origin.Add(f.Axis.Scale(high - at))}
}

// displaced is how far a point misses the exact distances from the datums of a place: by the smallest shift, square to
// the axis, after which it has them.
func displaced(g *solid.Geometry, p Place, at solid.Vec, exact []float64) (float64, error) {
	axis := g.Faces[p[0][0]].Axis
	var ways []solid.Vec
	var miss []float64
	for i, operand := range p[1:] {
		from := locate(g, operand)
		way := from.Dir
		if from.Kind == solid.PlaneLocus {
			if math.Abs(way.Dot(axis)) > 0.5 {
				return 0, &Amiss{"it does not lie along the face that its place is given from"}
			}
		} else {
			if way = at.Sub(from.At); from.Kind == solid.LineLocus {
				way = solid.FromAxis(at, from.At, from.Dir)
			}
			way = way.Sub(axis.Scale(way.Dot(axis)))
		}
		d := math.Abs(at.Sub(from.At).Dot(way.Unit()))
		if way = way.Unit(); at.Sub(from.At).Dot(way) < 0 {
			way = way.Scale(-1)
		}
		ways, miss = append(ways, way), append(miss, d-exact[i])
	}
	if len(ways) == 1 {
		return math.Abs(miss[0]), nil
	}
	cos := ways[0].Dot(ways[1])
	if 1-cos*cos < square {
		return 0, fmt.Errorf("both distances go the same way: give the place from two faces that are at an angle")
	}
	// The shift s with s·a = x and s·b = y is shortest in the plane of a and b.
	x, y := miss[0], miss[1]
	return math.Sqrt(math.Max(0, (x*x-2*cos*x*y+y*y)/(1-cos*cos))), nil
}
