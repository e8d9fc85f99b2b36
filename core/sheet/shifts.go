package sheet

import (
	"math"

	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// Shifts says of the views of a sheet which way on the paper something goes that moves along a vector in space: as far
// as most, in mm, in the view that shows the most of it. What a view looks at along the vector does not move there.
func (p *Projected) Shifts(s *exercise.Sheet, along solid.Vec, most float64) map[string][2]float64 {
	out := map[string][2]float64{}
	longest := 0.0
	for _, v := range s.Views {
		q := p.Views[v.ID]
		if q == nil || fromCorner(v) {
			continue
		}
		d := Point{along.Dot(q.Frame.X), along.Dot(q.Frame.Y)}
		out[v.ID], longest = d, math.Max(longest, d.norm())
	}
	for id, d := range out {
		if longest < 1e-9 {
			delete(out, id)
			continue
		}
		out[id] = Point(d).scale(most / longest)
	}
	return out
}
