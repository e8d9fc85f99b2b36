// Package identify finds which solids of an attempt at an assembly are which items of its reference, by what they are
// and never by their names. Solids that are one and the same part are kin; kin are compared with the parts of the
// reference without regard to where anything lies, and given to items so that they have as many as they want.
package identify

import (
	"math"

	"hammerset/core/inspect"
	"hammerset/core/solid"
)

// Kin are solids that are one part: each can be moved onto the first. A mirror image is no kin, since no motion makes
// it one.
type Kin struct {
	Members []int
	Motions []solid.Transform // each brings its member onto the first
}

// Group puts solids together that are one part, in their order.
func Group(solids []*solid.Geometry) []Kin {
	var out []Kin
next:
	for i, g := range solids {
		for k := range out {
			if t, same := onto(solids[out[k].Members[0]], g); same == Same {
				out[k].Members, out[k].Motions = append(out[k].Members, i), append(out[k].Motions, t)
				continue next
			}
		}
		out = append(out, Kin{Members: []int{i}, Motions: []solid.Transform{solid.Identity}})
	}
	return out
}

// Sameness is how one solid is another.
type Sameness int

// What a solid can be of another.
const (
	Other  Sameness = iota
	Same            // moved
	Mirror          // its mirror image, and no motion of it
)

// onto finds the motion that brings a solid onto another one, if they are one part or mirror images.
func onto(first, other *solid.Geometry) (solid.Transform, Sameness) {
	if first == other {
		return solid.Identity, Same
	}
	if !alikeWhole(first, other) {
		return solid.Identity, Other
	}
	pose, _ := inspect.FindPose(first, other)
	switch {
	case !inspect.Congruent(first, other, pose.Transform):
		return solid.Identity, Other
	case pose.Transform.Det() < 0:
		return pose.Transform, Mirror
	}
	return pose.Transform, Same
}

// sameFigure is how far figures of the whole may differ, in shares, so that two solids may still be one part.
const sameFigure = 1e-5

// alikeWhole tells whether what is the same of a solid wherever it lies is the same of both: how many faces and edges
// it has, its volume, its surface and its principal moments of inertia.
func alikeWhole(a, b *solid.Geometry) bool {
	near := func(x, y float64) bool { return math.Abs(x-y) <= sameFigure*math.Max(math.Abs(x), math.Abs(y)) }
	if len(a.Faces) != len(b.Faces) || len(a.Edges) != len(b.Edges) || !near(a.Props.Volume, b.Props.Volume) ||
		!near(a.Props.Area, b.Props.Area) {
		return false
	}
	_, p := a.Props.Principal()
	_, q := b.Props.Principal()
	for k := range p {
		if !near(p[k], q[k]) {
			return false
		}
	}
	return true
}
