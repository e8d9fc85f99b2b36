package assemblies

import (
	"math"

	"hammerset/core/assembly/clash"
	"hammerset/core/identify"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// samePlace is how far a place of a component may be from where the reference has it to another one, in mm, so that the
// two lie to one another as there.
const samePlace = 1e-3

// alikeLying tells whether two components that are the very parts of the reference lie to one another as there: then
// they are to one another what they are there, and no kernel need be asked. Symmetries and the spin of round parts do
// not matter.
func (f *found) alikeLying(a, b int) bool {
	if !f.there(a) || !f.there(b) || !f.same(a) || !f.same(b) {
		return false
	}
	size := f.size()
	for _, sa := range f.turns(a) {
		for _, sb := range f.turns(b) {
			ways := [2]identify.Way{{Pose: sa.Then(f.way[a].Pose)}, {Pose: sb.Then(f.way[b].Pose)}}
			is := f.lying(a, b, ways[0].Pose, ways[1].Pose, size)
			was := f.lying(a, b, f.pose(a), f.pose(b), size)
			same := true
			for k := range is {
				same = same && math.Abs(is[k]-was[k]) <= samePlace
			}
			if same {
				return true
			}
		}
	}
	return false
}

// turns are the motions that bring the part of a component onto itself.
func (f *found) turns(c int) []rigid.Pose {
	out := []rigid.Pose{rigid.Still()}
	if s := f.parts[c].Shape.Symmetry; s != nil {
		out = append(out, s.Turns...)
	}
	return out
}

// lying are the distances between marks of two components, which tell how the two lie to one another: two marks on the
// axis of a round part, and four of any other.
func (f *found) lying(a, b int, at, bt rigid.Pose, size float64) []float64 {
	var out []float64
	for _, p := range f.marks(a, size) {
		for _, q := range f.marks(b, size) {
			out = append(out, at.Apply(p).Distance(bt.Apply(q)))
		}
	}
	return out
}

func (f *found) marks(c int, size float64) []solid.Vec {
	if at, along, ok := f.spins(c); ok {
		return []solid.Vec{at, at.Add(along.Scale(size))}
	}
	return []solid.Vec{{}, {size, 0, 0}, {0, 1.3 * size, 0}, {0, 0, 1.7 * size}}
}

// asInReference puts the attempt where the reference is: its base stands where that of the reference does, so that
// faces lie along the axes where those of the reference do, as kernels have it easiest.
func (f *found) asInReference() rigid.Pose {
	if base := f.base(); f.there(base) {
		return f.way[base].Pose.Inverse().Then(f.pose(base))
	}
	return rigid.Still()
}

// look looks at the components of the attempt, but for those that lie to one another as in the reference.
func (p *placement) look(l *clash.Looker, number map[string]int) {
	l.Known = func(a, b *clash.Placed) bool {
		x, okA := number[a.ID]
		y, okB := number[b.ID]
		return okA && okB && p.alikeLying(x, y)
	}
}
