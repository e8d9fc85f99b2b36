package inspect

import (
	"math"

	"hammerset/core/solid"
)

// Rebinding says where the faces of a solid are on another state of it, which numbers or names them otherwise. Of[i] is
// the other one's face for face i, or -1 where there is none. Doubtful are those of which another pair would do nearly
// as well, or that are far from what they were. Turned: the other one lies otherwise, or is a mirror image.
type Rebinding struct {
	Of       []int
	Doubtful []bool
	Turned   bool
}

// Costs of a pair of faces by which a binding is trusted (see pairCost).
const (
	asItWas = 1e-3 // the same face, but for rounding
	farOff  = 0.8  // hardly the same any more
	rivals  = 0.1  // how much better it must be than the next
)

// Rebind finds the faces of a solid on another state of it.
func Rebind(was, is *solid.Geometry) Rebinding {
	pose, m := FindPose(was, is)
	out := Rebinding{Of: m.Of, Doubtful: make([]bool, len(m.Of)), Turned: !pose.AsModeled}
	laid := is.Moved(pose.Transform)
	size := math.Max(was.Box.Diagonal(), 1e-9)
	for i, j := range m.Of {
		if j < 0 {
			continue
		}
		cost := pairCost(&was.Faces[i], &laid.Faces[j], size)
		if cost <= asItWas && !pose.Mirrored {
			continue
		}
		next := math.Inf(1)
		for k := range laid.Faces {
			if k != j {
				next = math.Min(next, pairCost(&was.Faces[i], &laid.Faces[k], size))
			}
		}
		for k := range was.Faces {
			if k != i {
				next = math.Min(next, pairCost(&was.Faces[k], &laid.Faces[j], size))
			}
		}
		out.Doubtful[i] = pose.Mirrored || cost > farOff || next < cost+rivals
	}
	return out
}
