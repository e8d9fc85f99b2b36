package characteristic

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// depth is how far a round face reaches down from a flat one, to the end of the round face
// itself: a drill's point below does not count.
func depth() *Kind {
	return between(Kind{
		Name: "depth", Title: "depth", On: "the face it starts from, and the round face", Dim: quantity.Length, Span: true,
		Print:    func(s Stated, _ How) string { return "↧" + s.Text },
		Arranged: AtFeature, Blind: true,
	}, func(g *solid.Geometry, from, _ solid.Locus, _, f solid.Face, _ How) (float64, error) {
		if from.Kind != solid.PlaneLocus || f.Kind == solid.PlaneFace || !from.Dir.Parallel(f.Axis, square) {
			return 0, fmt.Errorf("the round face does not stand square on the flat one")
		}
		far := 0.0
		for _, i := range f.Edges {
			if e := g.Edges[i]; !e.Seam {
				for _, q := range []solid.Vec{e.A, e.B, e.Mid} {
					far = math.Max(far, math.Abs(q.Sub(from.At).Dot(from.Dir)))
				}
			}
		}
		return far, nil
	})
}

// keyDepth is how deep the flat floor of a keyway lies under a round face.
func keyDepth() *Kind {
	return between(Kind{
		Name: "key-depth", Title: "keyway, depth", On: "the floor, and the shaft or bore", Dim: quantity.Length,
		Print: func(s Stated, _ How) string { return "↧" + s.Text },
	}, func(_ *solid.Geometry, a, b solid.Locus, floor, shaft solid.Face, _ How) (float64, error) {
		d, err := apart(a, b)
		if err != nil || floor.Kind != solid.PlaneFace || !round(shaft) {
			return 0, fmt.Errorf("the floor of the keyway is not a flat face along the axis")
		}
		return math.Abs(shaft.Radius - d), nil
	})
}
