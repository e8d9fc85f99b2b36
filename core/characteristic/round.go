package characteristic

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// diameter is that of a round face, a ball, or the section of a ring.
func diameter() *Kind {
	return &Kind{
		Name: "diameter", Title: "diameter", On: "round faces", Dim: quantity.Length, Scope: EachFace,
		Measure: func(g *solid.Geometry, p Place, _ How) (float64, error) {
			r, err := radiusOf(g.Faces[p[0][0]])
			return 2 * r, err
		},
		Surplus: true,
		Print:   func(s Stated, _ How) string { return "⌀" + s.Text },
		InNote:  func(text string) string { return "⌴" + text },
		Line:    Across, Arranged: AtLeader,
		Proposed: alone(func(f solid.Face) bool { return round(f) && f.Around > most }),
		Slips:    roundSlips(),
	}
}

// radius is that of a round face, a ball, or the section of a ring.
func radius() *Kind {
	return &Kind{
		Name: "radius", Title: "radius", On: "round faces, balls or fillets", Dim: quantity.Length, Scope: EachFace,
		Measure: func(g *solid.Geometry, p Place, _ How) (float64, error) { return radiusOf(g.Faces[p[0][0]]) },
		Print:   func(s Stated, _ How) string { return "R" + s.Text },
		Inside:  true, Arranged: AtLeader,
		General: standards.BrokenEdge, Outside: func(g *solid.Geometry, p Place) bool { return !g.Faces[p[0][0]].Hollow },
		Proposed: alone(func(f solid.Face) bool {
			return round(f) && f.Around <= most || f.Kind == solid.SphereFace || f.Kind == solid.TorusFace
		}),
		Slips: roundSlips(),
	}
}

// radiusOf is the radius that a round face is dimensioned by. Of a torus it is
// that of its tube, since a torus is what a fillet leaves along a round edge.
func radiusOf(f solid.Face) (float64, error) {
	switch f.Kind {
	case solid.CylinderFace, solid.SphereFace:
		return f.Radius, nil
	case solid.TorusFace:
		return f.MinorRadius, nil
	}
	return 0, fmt.Errorf("the face is %s, not round", f.Kind)
}

// bend is the radius on which the section of a bent round face runs.
func bend() *Kind {
	return &Kind{
		Name: "bend", Title: "bend radius", On: "round faces that are bent", Dim: quantity.Length, Scope: EachFace,
		Measure: func(g *solid.Geometry, p Place, _ How) (float64, error) {
			if f := g.Faces[p[0][0]]; f.Kind == solid.TorusFace {
				return f.Radius, nil
			}
			return 0, fmt.Errorf("the face is not bent round")
		},
		Print: func(s Stated, _ How) string { return "R" + s.Text },
		EndOn: true, Arranged: AtLeader,
		Proposed: alone(func(f solid.Face) bool { return f.Kind == solid.TorusFace }),
	}
}

// most is the angle from which on a round is given by its diameter and not by its radius (ISO 129-1 has the diameter
// for circles, the radius for arcs up to a half circle; a little more leaves ends that run past it).
const most = 1.2 * math.Pi

// alone tells of a place of one face whether that is one of a kind.
func alone(of func(f solid.Face) bool) func(g *solid.Geometry, p Place) bool {
	return func(g *solid.Geometry, p Place) bool { return len(p) == 1 && of(g.Faces[p[0][0]]) }
}
