package clash

import (
	"math"

	"hammerset/core/assembly"
	"hammerset/core/solid"
)

// parted tells whether two components lie on the two sides of a flat face of one of them and touch in it: then they
// share nothing, and no boolean is needed to know. It says no where that is not certain.
func parted(a, b *Placed, x, y *triangles) bool {
	for _, pair := range []struct {
		of         *Placed
		own, other *triangles
	}{{a, x, y}, {b, y, x}} {
		for i := range pair.of.Shape.Features {
			f := &pair.of.Shape.Features[i]
			if f.Form != assembly.Plane {
				continue
			}
			at, normal := pair.of.Pose.Apply(f.At), pair.of.Pose.Rotate(f.Axis.Unit())
			mine, ok := below(pair.own, at, normal, pair.of.Shape.Deflection)
			if !ok || len(mine) == 0 {
				continue
			}
			other := b
			if pair.of == b {
				other = a
			}
			theirs, ok := below(pair.other, at, normal.Scale(-1), other.Shape.Deflection)
			if ok && lieOn(mine, theirs, normal) {
				return true
			}
		}
	}
	return false
}

// below tells whether a mesh, and the solid that it is of, lies on the inner side of a plane, and gives the triangles
// that lie in it. What is closer to the plane than the mesh lies off the solid, and not in it, is not certain.
func below(t *triangles, at, normal solid.Vec, deflection float64) (in []*triangle, ok bool) {
	for i := range t.at {
		tri := &t.at[i]
		flat := 0
		for _, p := range tri.p {
			switch d := p.Sub(at).Dot(normal); {
			case math.Abs(d) <= fuzzy:
				flat++
			case d > -deflection:
				return nil, false
			}
		}
		if flat == 3 {
			in = append(in, tri)
		}
	}
	return in, true
}

// lieOn tells whether triangles in one plane have an area in common.
func lieOn(list, others []*triangle, normal solid.Vec) bool {
	for _, a := range list {
		for _, b := range others {
			if meet(a.box, b.box, 0) && overlap(a, b, normal) && overlap(b, a, normal) {
				return true
			}
		}
	}
	return false
}

// overlap tells whether no side of a parts it from b, in their plane.
func overlap(a, b *triangle, normal solid.Vec) bool {
	for k := range 3 {
		p, q, r := a.p[k], a.p[(k+1)%3], a.p[(k+2)%3]
		side := normal.Cross(q.Sub(p))
		if side.Norm() == 0 {
			return false
		}
		side = side.Unit()
		if r.Sub(p).Dot(side) < 0 {
			side = side.Scale(-1)
		}
		reach := math.Inf(-1)
		for _, v := range b.p {
			reach = math.Max(reach, v.Sub(p).Dot(side))
		}
		if reach <= fuzzy {
			return false
		}
	}
	return true
}
