package solid

import "math"

// Extent is how far the edges reach along the model's axes, in millimetres. Faces that bulge
// (balls, rings) may reach farther; a moved box would be too large.
func (g *Geometry) Extent() Vec {
	lo := Vec{math.Inf(1), math.Inf(1), math.Inf(1)}
	hi := lo.Scale(-1)
	see := func(p Vec) {
		for k := range 3 {
			lo[k], hi[k] = math.Min(lo[k], p[k]), math.Max(hi[k], p[k])
		}
	}
	for _, e := range g.Edges {
		see(e.A)
		see(e.B)
		see(e.Mid)
		if e.Kind != CircleEdge {
			continue
		}
		for k := range 3 {
			var d Vec
			d[k] = 1
			d = d.Sub(e.Axis.Scale(e.Axis[k])) // where the circle reaches farthest
			if d.Norm() < 1e-9 {
				continue
			}
			for _, s := range []float64{e.Radius, -e.Radius} {
				if p := e.Center.Add(d.Unit().Scale(s)); onArc(e, p) {
					see(p)
				}
			}
		}
	}
	return hi.Sub(lo)
}

// onArc tells whether a place of the circle of an edge lies on the edge.
func onArc(e Edge, p Vec) bool {
	if e.A.Distance(e.B) < 1e-6 && e.Length > e.Radius {
		return true // it closes
	}
	x := e.A.Sub(e.Center).Unit()
	y := e.Axis.Cross(x)
	from := func(q Vec) float64 {
		d := q.Sub(e.Center)
		a := math.Atan2(d.Dot(y), d.Dot(x))
		if a < 0 {
			a += 2 * math.Pi
		}
		return a
	}
	mid, end, at := from(e.Mid), from(e.B), from(p)
	if mid <= end {
		return at <= end
	}
	return at >= end // it runs the other way
}
