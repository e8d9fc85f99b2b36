// Package audit tells whether a sheet determines its part: which sizes are missing, stated twice, or contradict the
// geometry.
//
// The unknowns are small changes of the surfaces that carry the faces of the part. What the sheet states, what is
// always read from a drawing, and what is taken from a centre line of symmetry are linear rows on these changes, in
// this order. What no row holds, beside a motion of the whole, is missing; a size whose rows depend on the others is
// stated twice. (Such first-order counting is that of rigidity theory: Laman, On graphs and rigidity of plane
// skeletal structures, 1970, for distances in the plane.)
package audit

import (
	"math"

	"hammerset/core/solid"
)

// way is one of the small changes that a carrier can undergo: a motion about its middle, in mm and in radians for each
// mm of the change, and a change of its sizes.
type way struct {
	kind                wayKind
	shift, turn         solid.Vec
	radius, minor, half float64
}

type wayKind int

// Kinds of ways.
const (
	along    wayKind = iota // of a flat face, along its normal
	sideways                // of an axis or a centre
	tilt                    // of a normal or an axis
	grow                    // of a radius; of the tube of a ring
	growRing                // of the ring itself
	open                    // of a cone
	endways                 // of a cone or ring, along its axis
)

// carrier is the surface that one or more faces lie on: a plane (3 ways), cylinder (5), sphere (4), cone (6) or torus
// (7). A centre plane of symmetry is a plane that no face lies on.
type carrier struct {
	kind  solid.SurfaceKind
	faces []int
	at    solid.Vec // its middle, on the axis of a round one
	dir   solid.Vec // normal or axis; none of a sphere
	// radius is that of a cone at its middle, and of the ring of a torus.
	radius, minor, half float64
	ways                []way
	first               int // the number of its first way among all
	area                float64
}

// onto tells how near two directions or places must be to be one, in radians and mm.
const onto = 1e-5

// carrierOf is the carrier of a face alone; ok is false of a face of free form. A way that turns moves what is a lever
// away by as much as one that shifts.
func carrierOf(f solid.Face, lever float64) (c carrier, ok bool) {
	c = carrier{kind: f.Kind, at: f.Origin, dir: f.Axis, radius: f.Radius, minor: f.MinorRadius, half: f.HalfAngle,
		area: f.Area}
	switch f.Kind {
	case solid.PlaneFace:
		c.at, c.dir, c.radius = f.Centroid, f.Normal, 0
	case solid.CylinderFace, solid.ConeFace:
		z := f.Centroid.Sub(f.Origin).Dot(f.Axis)
		c.at = f.Origin.Add(f.Axis.Scale(z))
		c.radius += z * math.Tan(f.HalfAngle)
	case solid.SphereFace:
		c.dir = solid.Vec{}
	case solid.TorusFace:
	default:
		return c, false
	}
	c.ways = c.allWays(lever)
	return c, true
}

// allWays lists the ways in which a carrier of its kind can change.
func (c *carrier) allWays(lever float64) []way {
	if c.kind == solid.SphereFace {
		return []way{{kind: sideways, shift: solid.Vec{1, 0, 0}}, {kind: sideways, shift: solid.Vec{0, 1, 0}},
			{kind: sideways, shift: solid.Vec{0, 0, 1}}, {kind: grow, radius: 1}}
	}
	u := c.dir.Perpendicular()
	v := c.dir.Cross(u)
	turns := []way{{kind: tilt, turn: u.Scale(1 / lever)}, {kind: tilt, turn: v.Scale(1 / lever)}}
	if c.kind == solid.PlaneFace {
		return append([]way{{kind: along, shift: c.dir}}, turns...)
	}
	out := append([]way{{kind: sideways, shift: u}, {kind: sideways, shift: v}}, turns...)
	switch c.kind {
	case solid.CylinderFace:
		return append(out, way{kind: grow, radius: 1})
	case solid.ConeFace:
		return append(out, way{kind: endways, shift: c.dir}, way{kind: open, half: 1 / lever})
	}
	return append(out, way{kind: endways, shift: c.dir}, way{kind: grow, minor: 1}, way{kind: growRing, radius: 1})
}

// has tells whether a face that stands alone on a carrier of its own lies on this one.
func (c *carrier) has(o *carrier) bool {
	if c.kind != o.kind || math.Abs(c.radius-o.radius) > onto && c.kind != solid.ConeFace ||
		math.Abs(c.minor-o.minor) > onto {
		return false
	}
	d := o.at.Sub(c.at)
	switch c.kind {
	case solid.SphereFace:
		return d.Norm() < onto
	case solid.PlaneFace:
		return c.dir.Parallel(o.dir, onto) && math.Abs(d.Dot(c.dir)) < onto
	case solid.TorusFace:
		return c.dir.Parallel(o.dir, onto) && d.Norm() < onto
	}
	if !c.dir.Parallel(o.dir, onto) || solid.FromAxis(o.at, c.at, c.dir).Norm() > onto {
		return false
	}
	half := o.half * math.Copysign(1, c.dir.Dot(o.dir))
	return c.kind == solid.CylinderFace || math.Abs(c.half-half) < onto &&
		math.Abs(c.radius+d.Dot(c.dir)*math.Tan(c.half)-o.radius) < onto
}

// normal is that of the surface at a place on it, away from the axis or centre of a round one.
func (c *carrier) normal(p solid.Vec) solid.Vec {
	switch c.kind {
	case solid.PlaneFace:
		return c.dir
	case solid.SphereFace:
		return p.Sub(c.at).Unit()
	}
	out := solid.FromAxis(p, c.at, c.dir).Unit()
	switch c.kind {
	case solid.ConeFace:
		return out.Scale(math.Cos(c.half)).Sub(c.dir.Scale(math.Sin(c.half)))
	case solid.TorusFace:
		return p.Sub(c.at.Add(out.Scale(c.radius))).Unit()
	}
	return out
}

// moved is how far the surface moves at a place on it along a direction that is its normal there or the opposite.
func (c *carrier) moved(w way, p, normal solid.Vec) float64 {
	d := normal.Dot(w.shift.Add(w.turn.Cross(p.Sub(c.at))))
	if w.radius == 0 && w.minor == 0 && w.half == 0 {
		return d
	}
	sign := math.Copysign(1, normal.Dot(c.normal(p)))
	switch {
	case w.half != 0: // the radius at z is r + z tan half
		return d + sign*w.half*p.Sub(c.at).Dot(c.dir)/math.Cos(c.half)
	case c.kind == solid.TorusFace && w.radius != 0:
		return d + w.radius*normal.Dot(solid.FromAxis(p, c.at, c.dir).Unit())
	}
	return d + sign*(w.radius+w.minor)
}

// change is a face of the carrier after a small change.
func (c *carrier) change(f solid.Face, w way, h float64) solid.Face {
	move := func(p solid.Vec) solid.Vec { return p.Add(w.shift.Add(w.turn.Cross(p.Sub(c.at))).Scale(h)) }
	turn := func(d solid.Vec) solid.Vec { return d.Add(w.turn.Cross(d).Scale(h)) }
	z := f.Origin.Sub(c.at).Dot(c.dir)
	f.Origin, f.Centroid = move(f.Origin), move(f.Centroid)
	if f.Kind != solid.SphereFace {
		f.Axis, f.Normal = turn(f.Axis), turn(f.Normal)
	}
	f.Radius += h * (w.radius + w.half*z/(math.Cos(c.half)*math.Cos(c.half)))
	f.MinorRadius += h * w.minor
	f.HalfAngle += h * w.half * math.Copysign(1, c.dir.Dot(f.Axis))
	return f
}

// follow is the change that a motion of the whole is for the carrier: a shift, and a turn about the origin in radians.
// The shifts and turns of a carrier are square to one another.
func (c *carrier) follow(shift, turn solid.Vec) []float64 {
	d := shift.Add(turn.Cross(c.at))
	out := make([]float64, len(c.ways))
	for k, w := range c.ways {
		if q := w.turn.Dot(w.turn); q > 0 {
			out[k] = turn.Dot(w.turn) / q
		} else {
			out[k] = d.Dot(w.shift)
		}
	}
	return out
}
