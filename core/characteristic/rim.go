package characteristic

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// rim is the diameter of the circle in which a cone meets a flat face square to its axis: how far a hexagon is
// bevelled, how wide a countersink is where it begins, how thick a tapered end is.
func rim() *Kind {
	return &Kind{
		Name: "rim", Title: "diameter where a cone ends", On: "a cone and the flat face that it ends at",
		Dim: quantity.Length, Arranged: AtLeader,
		Measure: func(g *solid.Geometry, p Place, _ How) (float64, error) {
			if len(p) != 2 {
				return 0, fmt.Errorf("it is measured on a cone and a flat face")
			}
			cone, flat := g.Faces[p[0][0]], g.Faces[p[1][0]]
			if cone.Kind != solid.ConeFace || flat.Kind != solid.PlaneFace || !cone.Axis.Parallel(flat.Normal, square) {
				return 0, fmt.Errorf("the faces are a %s and a %s, and not a cone and a flat face square to its axis", cone.Kind,
					flat.Kind)
			}
			along := flat.Centroid.Sub(cone.Origin).Dot(flat.Normal) / cone.Axis.Dot(flat.Normal)
			r := cone.Radius + along*math.Tan(cone.HalfAngle)
			if r <= 0 {
				return 0, fmt.Errorf("the cone has come to its point before the flat face")
			}
			return 2 * r, nil
		},
		Print: func(s Stated, _ How) string { return "⌀" + s.Text },
		Proposed: func(g *solid.Geometry, p Place) bool {
			if len(p) != 2 || len(p[0]) != 1 || len(p[1]) != 1 {
				return false
			}
			cone, flat := g.Faces[p[0][0]], g.Faces[p[1][0]]
			return cone.Kind == solid.ConeFace && flat.Kind == solid.PlaneFace && cone.Axis.Parallel(flat.Normal, square) &&
				meet(g, p[0][0], p[1][0])
		},
	}
}

// meet tells whether two faces have an edge in common.
func meet(g *solid.Geometry, a, b int) bool {
	for _, e := range g.Faces[a].Edges {
		for _, f := range g.Edges[e].Faces {
			if f == b {
				return true
			}
		}
	}
	return false
}
