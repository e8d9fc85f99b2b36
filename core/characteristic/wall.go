package characteristic

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// wall is the least thickness between two faces of a kind that a wall has: flat and
// parallel, or round about axes that are parallel, or one of each.
func wall() *Kind {
	return between(Kind{
		Name: "wall", Title: "wall thickness", On: "the two sides of the wall", Dim: quantity.Length, Span: true,
		Print: func(s Stated, _ How) string { return "wall " + s.Text },
		Line:  Outlines, Arranged: AtSide,
	}, func(_ *solid.Geometry, a, b solid.Locus, f, h solid.Face, _ How) (float64, error) {
		d, err := apart(a, b)
		switch {
		case err != nil:
			return 0, err
		case a.Kind == solid.PlaneLocus && b.Kind == solid.PlaneLocus:
			return d, nil
		case round(f) && round(h) && d < math.Max(f.Radius, h.Radius):
			return math.Abs(f.Radius-h.Radius) - d, nil // one within the other
		case round(f) && round(h):
			return d - f.Radius - h.Radius, nil
		case round(f) && b.Kind == solid.PlaneLocus:
			return d - f.Radius, nil
		case round(h) && a.Kind == solid.PlaneLocus:
			return d - h.Radius, nil
		}
		return 0, fmt.Errorf("a wall is measured between flat faces and cylinders")
	})
}
