package solid

import "math"

// LocusKind is the kind of a Locus.
type LocusKind int

const (
	// PlaneLocus is a plane: a point of it, and its unit normal.
	PlaneLocus LocusKind = iota
	// LineLocus is a line without end: a point of it, and its unit direction.
	LineLocus
	// PointLocus is a point; it has no direction.
	PointLocus
)

// Locus is what a face or an edge is measured from, as a drawing has it: a flat face is measured from its
// plane, a round one from its axis, a sphere from its centre. Lengths are in millimetres, angles in radians.
type Locus struct {
	Kind    LocusKind
	At, Dir Vec
}

// Locus is what the face is measured from; a face of free form is measured from its centroid.
func (f Face) Locus() Locus {
	switch f.Kind {
	case PlaneFace:
		return Locus{PlaneLocus, f.Centroid, f.Normal}
	case SphereFace:
		return Locus{PointLocus, f.Origin, Vec{}}
	case CylinderFace, ConeFace, TorusFace:
		return Locus{LineLocus, f.Origin, f.Axis}
	}
	return Locus{PointLocus, f.Centroid, Vec{}}
}

// Locus is the line about which the edge runs; ok is false of one that is no circle.
func (e Edge) Locus() (l Locus, ok bool) {
	return Locus{LineLocus, e.Center, e.Axis}, e.Kind == CircleEdge
}

// Meet is the line in which two planes meet, at its point nearest to the origin; ok is false where they are
// parallel. With normals n and m and distances from the origin c and d it is
//
//	p = (c (m × u) + d (u × n)) / (u · u),  u = n × m
//
// (Goldman, Intersection of three planes, Graphics Gems, 1990, the third plane being through the origin across
// the line).
func (l Locus) Meet(other Locus) (line Locus, ok bool) {
	u := l.Dir.Cross(other.Dir)
	q := u.Dot(u)
	if q <= 1e-12 {
		return Locus{}, false
	}
	p := other.Dir.Cross(u).Scale(l.At.Dot(l.Dir)).Add(u.Cross(l.Dir).Scale(other.At.Dot(other.Dir)))
	return Locus{LineLocus, p.Scale(1 / q), u.Unit()}, true
}

// Slope is the angle between two directions from 0 to π/2: which way they point does not count.
func (l Locus) Slope(other Locus) float64 {
	t := l.Dir.Angle(other.Dir)
	return math.Min(t, math.Pi-t)
}

// Apart is how far two loci are from one another. Planes and lines are taken to be parallel to what they are
// measured to: across a plane if there is one, else across a line, since along these the distance is the same
// everywhere.
func (l Locus) Apart(other Locus) float64 {
	d := other.At.Sub(l.At)
	for _, kind := range []LocusKind{PlaneLocus, LineLocus} {
		for _, x := range []Locus{l, other} {
			switch {
			case x.Kind != kind:
			case kind == PlaneLocus:
				return math.Abs(d.Dot(x.Dir))
			default:
				return FromAxis(other.At, l.At, x.Dir).Norm()
			}
		}
	}
	return d.Norm()
}

// Places are points on an edge, enough to hold a circle or a line.
func (e Edge) Places() []Vec {
	if e.Kind != CircleEdge || e.A.Distance(e.B) > 1e-7 {
		return []Vec{e.A, e.Mid, e.B}
	}
	x := e.A.Sub(e.Center)
	y := e.Axis.Cross(x)
	return []Vec{e.A, e.Center.Add(y), e.Center.Sub(x), e.Center.Sub(y)}
}
