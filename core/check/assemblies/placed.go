package assemblies

import (
	"math"
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/identify"
	"hammerset/core/partition"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// judged is a joint of the reference as it is found in the attempt.
type judged struct {
	*joint
	off   []assembly.Off
	there bool // both components are, with the features that it is on
	out   bool
	// skewed: a feature that it is on lies elsewhere in its part than it should, which is charged there.
	skewed bool
	// again: it is out since a component is displaced, for which another joint is charged.
	again bool
}

// placement is how the components of an attempt are placed: the joints, and which components the joints that hold keep
// together. Base is the group that all others are displaced against.
type placement struct {
	*found
	joints []judged
	groups [][]int // of components of the reference; the first is the base
	group  []int   // of each component
	// displaced are the components that are out of place.
	displaced map[int]bool
}

// place judges the joints.
//
// Where a part has a joint's feature in a wrong place, the joint cannot hold, and the part is charged. Components that
// other joints hold together stand and fall together: what is displaced is a group of them, and it is charged once.
func (f *found) place() *placement {
	p := &placement{found: f, group: make([]int, len(f.of)), displaced: map[int]bool{}}
	skewed := map[int]map[string]bool{}
	for c := range f.of {
		if f.there(c) && !f.same(c) {
			skewed[c] = f.skewed(c)
		}
	}
	for i := range f.key.joints {
		j := judged{joint: &f.key.joints[i]}
		if f.there(j.a) && f.there(j.b) {
			j.off, j.there = j.joint.off(&f.way[j.a], &f.way[j.b])
		}
		for _, o := range j.off {
			j.out = j.out || math.Abs(o.By) > j.limit(o)
		}
		j.skewed = j.out && (skewed[j.a][j.A.Name] || skewed[j.b][j.B.Name] || f.spoilt(j.a) || f.spoilt(j.b))
		p.joints = append(p.joints, j)
	}
	p.gather()
	for c := range p.of {
		p.displaced[c] = p.there(c) && p.group[c] != 0
	}
	charged := map[int]bool{}
	for i := range p.joints {
		j := &p.joints[i]
		if !j.out || j.skewed {
			continue
		}
		for _, g := range []int{p.group[j.a], p.group[j.b]} {
			if g == 0 {
				continue
			}
			j.again = j.again || charged[g]
			charged[g] = true
		}
		if p.group[j.a] == p.group[j.b] {
			if moved, _, ok := p.blame(j); ok {
				p.displaced[moved] = true
			}
		}
	}
	return p
}

// spoilt tells whether a component is in another unit, or a mirror image: then its joints cannot hold.
func (f *found) spoilt(c int) bool {
	l := f.likes[f.of[c]]
	return l.Scale != 1 || l.Sameness == identify.Mirror
}

// blame finds out for a joint that is out, between components that others hold together, which of the two is out of
// place: the one of which all joints hold once it is put where this joint has it. ok is false where it is neither.
func (p *placement) blame(j *judged) (moved, still int, ok bool) {
	for _, side := range []bool{true, false} {
		moved, still = j.a, j.b
		if !side {
			moved, still = j.b, j.a
		}
		if p.component(moved).Pinned {
			continue
		}
		way := p.way[moved]
		way.Pose = way.Pose.Then(p.correction(j, side))
		holds := true
		for i := range p.joints {
			o := &p.joints[i]
			switch {
			case !o.there || o.skewed:
			case o.a == moved:
				holds = holds && o.broken(&way, &p.way[o.b]) == 0
			case o.b == moved:
				holds = holds && o.broken(&p.way[o.a], &way) == 0
			}
		}
		if holds {
			return moved, still, true
		}
	}
	return 0, 0, false
}

// correction is the motion of the first component of a joint, or of the second, that puts it where the joint has it.
func (p *placement) correction(j *judged, first bool) rigid.Pose {
	of, _ := p.way[j.a].Shape.Feature(j.A.Name)
	on, _ := p.way[j.b].Shape.Feature(j.B.Name)
	a, b := p.way[j.a].Pose.Place(of.Frame()), p.way[j.b].Pose.Place(on.Frame())
	var shift solid.Vec
	turn := solid.Identity
	for _, o := range j.off {
		if math.Abs(o.By) <= j.limit(o) {
			continue
		}
		switch o.What {
		case assembly.Seated:
			shift = shift.Sub(b.Z.Scale(o.By))
		case assembly.Coaxial:
			shift = shift.Sub(solid.FromAxis(a.O, b.O, b.Z))
		case assembly.Held:
			turn = solid.Rotation(a.O, b.Z, -o.By)
		case assembly.Facing:
			turn = solid.Rotation(a.O, b.Z.Perpendicular(), math.Pi)
		}
	}
	turn.T = turn.T.Add(shift)
	if !first {
		turn = turn.Inverse()
	}
	pose, err := rigid.Of(turn)
	if err != nil {
		return rigid.Still()
	}
	return pose
}

// gather makes the groups.
func (p *placement) gather() {
	var sets partition.Names
	id := func(c int) string { return p.component(c).ID }
	for _, j := range p.joints {
		if j.there && (!j.out || j.skewed) {
			sets.Join(id(j.a), id(j.b))
		}
	}
	by := map[string][]int{}
	var roots []string
	for c := range p.of {
		if !p.there(c) {
			continue
		}
		root := sets.Root(id(c))
		if by[root] == nil {
			roots = append(roots, root)
		}
		by[root] = append(by[root], c)
	}
	pinned := func(list []int) bool {
		return slices.ContainsFunc(list, func(c int) bool { return p.component(c).Pinned })
	}
	slices.SortStableFunc(roots, func(a, b string) int {
		if n := len(by[b]) - len(by[a]); n != 0 {
			return n
		}
		switch {
		case pinned(by[a]) && !pinned(by[b]):
			return -1
		case pinned(by[b]) && !pinned(by[a]):
			return 1
		}
		return 0
	})
	for g, root := range roots {
		p.groups = append(p.groups, by[root])
		for _, c := range by[root] {
			p.group[c] = g
		}
	}
}

// skewed are the features of a component, among those that joints are on, that lie otherwise to the others than in the
// reference: the fewest without which the rest agree.
func (f *found) skewed(c int) map[string]bool {
	var names []string
	for _, j := range f.key.joints {
		for side, n := range []int{j.a, j.b} {
			name := []string{j.A.Name, j.B.Name}[side]
			if n == c && !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
	}
	ref := f.parts[c].Shape
	differ := map[string]map[string]bool{}
	for i, a := range names {
		for _, b := range names[:i] {
			if !alikePlaced(ref, f.way[c].Shape, a, b) {
				for _, pair := range [][2]string{{a, b}, {b, a}} {
					if differ[pair[0]] == nil {
						differ[pair[0]] = map[string]bool{}
					}
					differ[pair[0]][pair[1]] = true
				}
			}
		}
	}
	out := map[string]bool{}
	for {
		most := 0
		var worst []string
		for _, n := range names {
			switch k := len(differ[n]); {
			case k > most:
				most, worst = k, []string{n}
			case k == most && k > 0:
				worst = append(worst, n)
			}
		}
		if most == 0 {
			return out
		}
		for _, n := range worst {
			out[n] = true
			for other := range differ[n] {
				delete(differ[other], n)
			}
			delete(differ, n)
		}
	}
}

// alikePlaced tells whether two features lie to one another in two shapes alike.
func alikePlaced(ref, att *assembly.Shape, a, b string) bool {
	ra, okRA := ref.Feature(a)
	rb, okRB := ref.Feature(b)
	aa, okAA := att.Feature(a)
	ab, okAB := att.Feature(b)
	if !okRA || !okRB || !okAA || !okAB {
		return true // nothing is said of what is not there
	}
	was, is := assembly.Measure(ra, rb), assembly.Measure(aa, ab)
	if len(was) != len(is) {
		return false
	}
	for i := range was {
		limit := lengthLimit
		if was[i].Value.Dim != is[i].Value.Dim || was[i].Words != is[i].Words {
			return false
		}
		if was[i].Words == "angle between them" {
			limit = angleLimit
		}
		if math.Abs(was[i].Value.Value-is[i].Value.Value) > limit {
			return false
		}
	}
	return math.Signbit(ra.Frame().Z.Dot(rb.Frame().Z)-0.5) == math.Signbit(aa.Frame().Z.Dot(ab.Frame().Z)-0.5) ||
		ra.Form != assembly.Plane || rb.Form != assembly.Plane
}
