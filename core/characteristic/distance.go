package characteristic

import (
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// distance is that of two faces, axes or edges along their common normal.
func distance() *Kind {
	return between(Kind{
		Name: "distance", Title: "distance", On: "two faces, axes or edges", Dim: quantity.Length,
		Span: true, Chained: true,
		InNote: func(text string) string { return "↧" + text }, // a depth given as a distance
		Line:   Between, Arranged: AtSide,
		Proposed: func(g *solid.Geometry, p Place) bool {
			if len(p) != 2 {
				return false
			}
			for _, o := range p {
				if g.Faces[o[0]].Kind == solid.OtherFace {
					return false
				}
			}
			_, err := apart(locate(g, p[0]), locate(g, p[1]))
			return err == nil
		},
		Slips: []Slip{
			{twice, "it is exactly twice the size: often the total was given on each side", "the total must be %s", "possible"},
			{half, "it is exactly half the size: often one side was given as the total", "the total must be %s", "possible"},
		},
	}, func(_ *solid.Geometry, a, b solid.Locus, _, _ solid.Face, _ How) (float64, error) { return apart(a, b) })
}
