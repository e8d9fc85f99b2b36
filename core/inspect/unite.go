package inspect

import (
	"cmp"
	"math"
	"slices"

	"hammerset/core/solid"
)

// nearlyParallel is how far two directions of recognised faces may differ to be taken for one, in radians.
const nearlyParallel = 1e-4

// Unite puts recognised faces onto one axis, one size, one plane where they lie on one within a tolerance (mm). The two
// halves of a bore that a file has as splines are each as exact as the file, and so each a bore of its own; together
// they are one, with the means of both by area.
func Unite(g *solid.Geometry, recognised []int, tolerance float64) {
	faces := slices.Clone(recognised)
	slices.SortStableFunc(faces, func(a, b int) int { return cmp.Compare(g.Faces[b].Area, g.Faces[a].Area) })
	u := uniting{g, tolerance}
	for _, group := range u.grouped(faces, u.coaxial) {
		u.ontoAxis(group)
		for _, same := range u.grouped(group, u.alike) {
			u.ofOneSize(same)
		}
	}
	for _, group := range u.grouped(faces, u.flush) {
		u.ontoPlane(group)
	}
}

// uniting has the faces of a geometry that are put onto one another.
type uniting struct {
	g         *solid.Geometry
	tolerance float64
}

// grouped puts faces together, each with the first, which is the largest, that it goes with. One that goes with none,
// not even with itself, is in no group.
func (u *uniting) grouped(faces []int, together func(a, b *solid.Face) bool) [][]int {
	var out [][]int
	for _, f := range faces {
		own := &u.g.Faces[f]
		k := slices.IndexFunc(out, func(have []int) bool { return together(&u.g.Faces[have[0]], own) })
		switch {
		case k >= 0:
			out[k] = append(out[k], f)
		case together(own, own):
			out = append(out, []int{f})
		}
	}
	return out
}

// turned tells whether a face turns about an axis.
func turned(f *solid.Face) bool {
	return f.Kind == solid.CylinderFace || f.Kind == solid.ConeFace || f.Kind == solid.TorusFace
}

// coaxial tells whether two faces turn about one axis.
func (u *uniting) coaxial(a, b *solid.Face) bool {
	return turned(a) && turned(b) && a.Axis.Parallel(b.Axis, nearlyParallel) &&
		solid.FromAxis(b.Origin, a.Origin, a.Axis).Norm() < u.tolerance
}

// alike tells whether two faces about one axis are one surface.
func (u *uniting) alike(a, b *solid.Face) bool {
	if a.Kind != b.Kind || a.Hollow != b.Hollow || math.Abs(a.HalfAngle-b.HalfAngle) > nearlyParallel {
		return false
	}
	along := b.Origin.Sub(a.Origin).Dot(a.Axis)
	switch {
	case a.Kind == solid.ConeFace && a.Axis.Dot(b.Axis) < 0,
		a.Kind == solid.TorusFace && math.Max(math.Abs(along), math.Abs(a.MinorRadius-b.MinorRadius)) > u.tolerance:
		return false
	}
	return math.Abs(a.Radius+along*math.Tan(a.HalfAngle)-b.Radius) < u.tolerance
}

// flush tells whether two flat faces lie in one plane.
func (u *uniting) flush(a, b *solid.Face) bool {
	return a.Kind == solid.PlaneFace && b.Kind == solid.PlaneFace && a.Normal.Parallel(b.Normal, nearlyParallel) &&
		math.Abs(b.Centroid.Sub(a.Centroid).Dot(a.Normal)) < u.tolerance
}

// means gives the mean of a value over faces, by area.
func (u *uniting) means(group []int, of func(f *solid.Face) solid.Vec) solid.Vec {
	var sum solid.Vec
	area := 0.0
	for _, i := range group {
		f := &u.g.Faces[i]
		sum, area = sum.Add(of(f).Scale(f.Area)), area+f.Area
	}
	return sum.Scale(1 / area)
}

// ontoAxis puts faces onto the mean of their axes. Each stays where it is along it.
func (u *uniting) ontoAxis(group []int) {
	if len(group) < 2 {
		return
	}
	first := u.g.Faces[group[0]]
	axis := u.means(group, func(f *solid.Face) solid.Vec {
		return f.Axis.Scale(math.Copysign(1, f.Axis.Dot(first.Axis)))
	}).Unit()
	at := u.means(group, func(f *solid.Face) solid.Vec {
		return first.Origin.Add(solid.FromAxis(f.Origin, first.Origin, first.Axis))
	})
	for _, i := range group {
		f := &u.g.Faces[i]
		f.Origin = at.Add(axis.Scale(f.Origin.Sub(at).Dot(axis)))
		f.Axis = axis.Scale(math.Copysign(1, f.Axis.Dot(axis)))
	}
}

// ofOneSize gives faces of one surface about one axis the means of their sizes.
func (u *uniting) ofOneSize(group []int) {
	first := u.g.Faces[group[0]]
	size := u.means(group, func(f *solid.Face) solid.Vec {
		along := f.Origin.Sub(first.Origin).Dot(first.Axis)
		return solid.Vec{f.Radius - along*math.Tan(f.HalfAngle), f.MinorRadius, f.HalfAngle}
	})
	for _, i := range group {
		f := &u.g.Faces[i]
		along := f.Origin.Sub(first.Origin).Dot(first.Axis)
		f.Radius, f.MinorRadius, f.HalfAngle = size[0]+along*math.Tan(size[2]), size[1], size[2]
	}
}

// ontoPlane puts faces into one plane, that of the mean of their middles and normals.
func (u *uniting) ontoPlane(group []int) {
	if len(group) < 2 {
		return
	}
	first := u.g.Faces[group[0]]
	normal := u.means(group, func(f *solid.Face) solid.Vec {
		return f.Normal.Scale(math.Copysign(1, f.Normal.Dot(first.Normal)))
	}).Unit()
	at := u.means(group, func(f *solid.Face) solid.Vec {
		return first.Centroid.Add(first.Normal.Scale(f.Centroid.Sub(first.Centroid).Dot(first.Normal)))
	})
	for _, i := range group {
		f := &u.g.Faces[i]
		side := math.Copysign(1, f.Normal.Dot(normal))
		f.Centroid = f.Centroid.Sub(normal.Scale(f.Centroid.Sub(at).Dot(normal)))
		f.Origin = f.Origin.Sub(normal.Scale(f.Origin.Sub(at).Dot(normal)))
		f.Axis, f.Normal = normal.Scale(math.Copysign(1, f.Axis.Dot(normal))), normal.Scale(side)
	}
}
