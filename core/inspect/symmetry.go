package inspect

import (
	"math"
	"slices"

	"hammerset/core/solid"
)

// Symmetry is how a solid can be moved onto itself: by some turns, and where it is Round by any turn about an axis. The
// turns are listed once each, without the one that leaves everything where it is, and of a round solid without those
// about its axis: what is left are those that turn it over. Of a ball, which has every axis, nothing is listed.
type Symmetry struct {
	Turns    []solid.Transform
	Round    bool
	At, Axis solid.Vec // of a round one
}

// Bounds within which one solid lies on another: places in mm, areas as shares.
const (
	samePlace = 1e-4
	sameArea  = 1e-4
)

// SymmetryOf finds the symmetries of a solid. Turns are looked for among those that lay its main directions on one
// another, and each is tried on all faces and edges.
func SymmetryOf(g *solid.Geometry) Symmetry {
	var out Symmetry
	out.At, out.Axis, out.Round = roundAxis(g)
	candidates := turns(g, g)
	for _, d := range directions(g) {
		candidates = append(candidates, about(g, g, d, d)...)
	}
	for _, t := range candidates {
		t.T = g.Props.Centroid.Sub(t.Turn(g.Props.Centroid))
		if turnAngle(t) < 1e-6 || out.Round && t.Turn(out.Axis).Dot(out.Axis) > 1-1e-9 ||
			slices.ContainsFunc(out.Turns, func(o solid.Transform) bool { return alike(o, t, &out) }) {
			continue
		}
		if Congruent(g, g, t) {
			out.Turns = append(out.Turns, t)
		}
	}
	return out
}

// alike tells whether two turns are one, but for what is round.
func alike(a, b solid.Transform, s *Symmetry) bool {
	if s.Round {
		return a.Turn(s.Axis).Dot(b.Turn(s.Axis)) > 1-1e-6
	}
	for k := range 3 {
		if a.M[k].Distance(b.M[k]) > 1e-6 {
			return false
		}
	}
	return true
}

// roundAxis finds the axis about which all faces of a solid are turned whole.
func roundAxis(g *solid.Geometry) (at, axis solid.Vec, ok bool) {
	for _, f := range g.Faces {
		if f.Kind == solid.CylinderFace || f.Kind == solid.ConeFace || f.Kind == solid.TorusFace {
			at, axis = f.Origin, f.Axis
			break
		}
	}
	if axis == (solid.Vec{}) {
		return at, axis, false
	}
	for _, f := range g.Faces {
		off := solid.FromAxis(f.Origin, at, axis).Norm()
		switch f.Kind {
		case solid.PlaneFace:
			if !f.Normal.Parallel(axis, 1e-6) || solid.FromAxis(f.Centroid, at, axis).Norm() > samePlace {
				return at, axis, false
			}
		case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
			if !f.Axis.Parallel(axis, 1e-6) || off > samePlace || solid.FromAxis(f.Centroid, at, axis).Norm() > samePlace {
				return at, axis, false
			}
		case solid.SphereFace:
			if off > samePlace || solid.FromAxis(f.Centroid, at, axis).Norm() > samePlace {
				return at, axis, false
			}
		default:
			return at, axis, false
		}
	}
	for _, e := range g.Edges { // nothing ends on the way round
		if !e.Seam && !e.Degenerate && (e.Kind != solid.CircleEdge || e.A.Distance(e.B) > samePlace ||
			solid.FromAxis(e.Center, at, axis).Norm() > samePlace) {
			return at, axis, false
		}
	}
	return at, axis, true
}

// Congruent tells whether a motion brings every face of a solid and every edge to one of its kind in another one.
func Congruent(g, moved *solid.Geometry, t solid.Transform) bool {
	if len(g.Faces) != len(moved.Faces) {
		return false
	}
	for _, f := range moved.Faces {
		at := t.Apply(f.Centroid)
		if !slices.ContainsFunc(g.Faces, func(o solid.Face) bool {
			return o.Kind == f.Kind && math.Abs(o.Radius-f.Radius) <= samePlace && o.Hollow == f.Hollow &&
				math.Abs(o.Area-f.Area) <= sameArea*o.Area+samePlace*samePlace && at.Distance(o.Centroid) <= samePlace
		}) {
			return false
		}
	}
	from, to := places(moved), places(g)
	for _, p := range from {
		p = t.Apply(p)
		if !slices.ContainsFunc(to, func(q solid.Vec) bool { return q.Distance(p) <= samePlace }) {
			return false
		}
	}
	return len(from) == len(to)
}

// places are where the edges of a solid lie: the middles and ends of the open ones, and the centres of round ones.
func places(g *solid.Geometry) []solid.Vec {
	var out []solid.Vec
	for _, e := range g.Edges {
		switch {
		case e.Seam || e.Degenerate:
		case e.A.Distance(e.B) > samePlace:
			out = append(out, e.A, e.B, e.Mid)
		case e.Kind == solid.CircleEdge:
			out = append(out, e.Center)
		}
	}
	return out
}
