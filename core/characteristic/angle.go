package characteristic

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// angle is that of two flat faces, measured within the material's side or as its supplement,
// or of two axes.
func angle() *Kind {
	return between(Kind{
		Name: "angle", Title: "angle", On: "two faces or axes", Dim: quantity.Angle,
		Arranged: AtCorner, Leg: shorterLeg,
		Proposed: func(g *solid.Geometry, p Place) bool {
			if len(p) != 2 {
				return false
			}
			a, b := locate(g, p[0]), locate(g, p[1])
			t := a.Slope(b)
			return a.Kind == solid.PlaneLocus && b.Kind == solid.PlaneLocus && t > square && t < math.Pi/2-square
		},
		Slips: []Slip{
			{func(m, n float64) bool { return Same(m, 90-n) }, "the angle was given from the other leg (its complement)",
				"check from which line the sheet measures %s", "likely"},
			{func(m, n float64) bool { return Same(m, 180-n) }, "the angle was given on the other side of the line (its " +
				"supplement)", "check on which side of the line the sheet measures %s", "likely"},
		},
	}, func(_ *solid.Geometry, _, _ solid.Locus, a, b solid.Face, how How) (float64, error) {
		if a.Kind == solid.PlaneFace && b.Kind == solid.PlaneFace {
			t := a.Normal.Angle(b.Normal)
			if how.Supplement {
				t = math.Pi - t
			}
			return t, nil
		}
		t := a.Axis.Angle(b.Axis)
		return math.Min(t, math.Pi-t), nil
	})
}

// shorterLeg is how long the shorter of two flat faces is that stand at an angle, square to the line in which they
// meet; of axes, and of what has no length, 0.
func shorterLeg(g *solid.Geometry, p Place) float64 {
	if len(p) != 2 {
		return 0
	}
	a, b := g.Faces[p[0][0]], g.Faces[p[1][0]]
	axis := a.Normal.Cross(b.Normal)
	if a.Kind != solid.PlaneFace || b.Kind != solid.PlaneFace || axis.Norm() < square {
		return 0
	}
	axis = axis.Unit()
	return math.Min(span(g, p[0][0], axis.Cross(a.Normal)), span(g, p[1][0], axis.Cross(b.Normal)))
}

// span is how far a face reaches along a direction.
func span(g *solid.Geometry, face int, along solid.Vec) float64 {
	low, high := g.Reach(face, along)
	return math.Max(0, high-low)
}

// coneAngle is the whole angle at the tip of a cone.
func coneAngle() *Kind {
	return &Kind{
		Name: "cone-angle", Title: "angle of a cone", On: "cones", Dim: quantity.Angle, Scope: EachFace,
		Measure: func(g *solid.Geometry, p Place, _ How) (float64, error) {
			f := g.Faces[p[0][0]]
			if f.Kind != solid.ConeFace {
				return 0, fmt.Errorf("the face is %s, not a cone", f.Kind)
			}
			return 2 * math.Abs(f.HalfAngle), nil
		},
		Leg: func(g *solid.Geometry, p Place) float64 {
			f := g.Faces[p[0][0]]
			return span(g, p[0][0], f.Axis) / math.Max(math.Cos(f.HalfAngle), 1e-6)
		},
		Arranged: AtFeature,
		Proposed: alone(func(f solid.Face) bool { return f.Kind == solid.ConeFace }),
	}
}
