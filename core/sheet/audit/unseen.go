package audit

import (
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
)

// Hidden is a characteristic that is measured on faces which no view shows as a visible edge.
type Hidden struct {
	Characteristic string
	Faces          []int
}

// Unseen lists the characteristics of which a face cannot be seen on a sheet: seen are those that can. The error is of
// a characteristic that has no place.
func Unseen(g *solid.Geometry, ex *exercise.Exercise, seen map[int]bool) ([]Hidden, error) {
	var out []Hidden
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		if c.Declared().Whole() {
			continue
		}
		places, err := inspect.Places(g, c)
		if err != nil {
			return nil, err
		}
		h := Hidden{Characteristic: c.ID}
		for _, p := range places {
			for _, f := range p.Faces() {
				if !seen[f] && !slices.Contains(h.Faces, f) {
					h.Faces = append(h.Faces, f)
				}
			}
		}
		if len(h.Faces) > 0 {
			out = append(out, h)
		}
	}
	return out, nil
}

// through tells whether a round face that goes down from a flat one comes out of the part again: where it ends is a
// flat face that looks the way it goes. A floor looks back.
func through(g *solid.Geometry, p characteristic.Place) bool {
	if len(p) != 2 || g.Faces[p[0][0]].Kind != solid.PlaneFace {
		return false
	}
	from := g.Faces[p[0][0]]
	for _, f := range p[1] {
		for _, e := range g.Faces[f].Edges {
			for _, o := range g.Edges[e].Faces {
				end := g.Faces[o]
				if o != f && o != p[0][0] && end.Kind == solid.PlaneFace && end.Normal.Dot(from.Normal) < -1+onto {
					return true
				}
			}
		}
	}
	return false
}
