package inspect

import (
	"math"

	"hammerset/core/solid"
)

// asRing makes a free face a ring (a torus) where its samples lie on one: rows of them around the tube, in
// either direction of the face.
//
// Around a tube of radius r a point is p = c + r n with the middle c of its section and the normal n, so that
// between samples of one section dp = r dn: r is the least-squares solution of that over all sections, and is
// negative where the tube is hollow. The middles lie on the circle of the ring, and every section lies in a
// plane through its axis.
func asRing(f *solid.Face, points, normals []solid.Vec, tolerance float64) bool {
	for _, n := range normals {
		if n.Norm() < 0.5 {
			return false // a pole, which no ring has
		}
	}
	across := make([]solid.Vec, len(points))
	turned := make([]solid.Vec, len(points))
	for i := range samples {
		for j := range samples {
			across[j*samples+i], turned[j*samples+i] = points[i*samples+j], normals[i*samples+j].Unit()
		}
	}
	along := make([]solid.Vec, len(normals))
	for i, n := range normals {
		along[i] = n.Unit()
	}
	return ringOf(f, points, along, tolerance) || ringOf(f, across, turned, tolerance)
}

// ringOf is asRing where each row of samples is a section of the tube.
func ringOf(f *solid.Face, p, n []solid.Vec, tolerance float64) bool {
	up, down := 0.0, 0.0
	for k := range p {
		if k%samples > 0 {
			dp, dn := p[k].Sub(p[k-1]), n[k].Sub(n[k-1])
			up, down = up+dp.Dot(dn), down+dn.Dot(dn)
		}
	}
	if down < slack*slack {
		return false
	}
	r := up / down
	middles := make([]solid.Vec, samples)
	for i := range samples {
		row := make([]solid.Vec, samples)
		for j := range row {
			row[j] = p[i*samples+j].Sub(n[i*samples+j].Scale(r))
		}
		middles[i] = mean(row)
		for _, c := range row {
			if c.Distance(middles[i]) > tolerance {
				return false
			}
		}
	}
	center, axis, ring, ok := circleThrough(middles, tolerance)
	if !ok || math.Abs(r) < tolerance || math.Abs(r) > 1e5 {
		return false
	}
	x := axis.Perpendicular()
	y := axis.Cross(x)
	var angles []float64
	for i, c := range middles {
		out := c.Sub(center).Unit()
		for j := range samples {
			if math.Abs(p[i*samples+j].Sub(c).Dot(axis.Cross(out))) > tolerance {
				return false
			}
		}
		angles = append(angles, math.Atan2(out.Dot(y), out.Dot(x)))
	}
	f.Kind, f.Origin, f.Axis, f.Radius, f.MinorRadius = solid.TorusFace, center, axis, ring, math.Abs(r)
	f.Hollow, f.Span = r < 0, span(angles)
	return true
}
