package characteristic

import (
	"fmt"
	"sort"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// pitch is the distance between neighbours of a row; the one farthest from the mean counts.
func pitch() *Kind {
	return &Kind{
		Name: "pitch", Title: "pitch of a row", On: "the holes of the row", Dim: quantity.Length, Scope: Together,
		Measure:  func(g *solid.Geometry, p Place, _ How) (float64, error) { return pitchOf(g, p.Faces()) },
		Repeated: Place.Faces, Surplus: true,
		Print:    func(s Stated, _ How) string { return "pitch " + s.Text },
		Arranged: AtFeature,
	}
}

// pitchOf is the distance from place to place of a row. The row runs along the
// line through the two that are farthest apart; the places are put in order
// along it, and of the gaps the one farthest from their mean is what is
// measured, so that one that is off shows by as much as it is off.
func pitchOf(g *solid.Geometry, list []int) (float64, error) {
	if len(list) < 2 {
		return 0, fmt.Errorf("a row has two or more places")
	}
	axis := g.Faces[list[0]]
	var at []solid.Vec
	for _, i := range list {
		f := g.Faces[i]
		if f.Kind != axis.Kind || !f.Axis.Parallel(axis.Axis, square) {
			return 0, fmt.Errorf("the places of the row are not alike")
		}
		q := f.Origin
		if f.Kind == solid.PlaneFace {
			q = f.Centroid
		} else if f.Kind != solid.SphereFace {
			q = solid.FromAxis(f.Origin, axis.Origin, axis.Axis)
		}
		at = append(at, q)
	}
	// Along the line through the two that are farthest apart.
	var along solid.Vec
	for i := range at {
		for k := range i {
			if d := at[i].Sub(at[k]); d.Norm() > along.Norm() {
				along = d
			}
		}
	}
	sort.Slice(at, func(i, k int) bool { return at[i].Dot(along) < at[k].Dot(along) })
	var gaps []float64
	for i := 1; i < len(at); i++ {
		gaps = append(gaps, at[i].Distance(at[i-1]))
	}
	return farthest(gaps), nil
}

// count is how many faces of a kind there are.
func count() *Kind {
	return &Kind{
		Name: "count", Title: "count", On: "all faces of a kind", Dim: quantity.Number, Scope: Together,
		Measure:  func(_ *solid.Geometry, p Place, _ How) (float64, error) { return float64(len(p.Faces())), nil },
		Repeated: Place.Faces, Counts: true, Surplus: true,
		Print:    func(s Stated, _ How) string { return s.Text + "×" },
		Arranged: AtFeature,
	}
}
