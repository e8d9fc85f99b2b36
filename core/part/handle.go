package part

import (
	"math"

	"hammerset/core/solid"
)

// Handle is a place at which the main size of a step can be pulled along a direction.
// Path is where that size stands in the step; Scale is how much it grows with a
// millimetre of pull: in millimetres, or in degrees where Angle is set.
type Handle struct {
	Path      string
	At, Along solid.Vec
	Scale     float64
	Angle     bool
}

// Handle gives the handle of a step that stands and has one.
func (b *Build) Handle(id string) (Handle, bool) {
	for _, s := range b.Steps {
		if s.ID == id && s.Err == nil && s.Handle != nil {
			return *s.Handle, true
		}
	}
	return Handle{}, false
}

// pulled gives the step a handle for a length.
func (w *worker) pulled(path string, at, along solid.Vec, scale float64) {
	w.report.Handle = &Handle{Path: path, At: at, Along: along, Scale: scale}
}

// swung gives the step a handle for an angle about an axis: scale is how many times the
// handle's own turn the angle is.
func (w *worker) swung(path string, at, origin, axis solid.Vec, scale float64) {
	arm := solid.FromAxis(at, origin, axis)
	if r := arm.Norm(); r > 1e-9 {
		w.report.Handle = &Handle{Path: path, At: at, Along: axis.Cross(arm).Unit(), Scale: scale * 180 / math.Pi / r,
			Angle: true}
	}
}

// profileMiddle is the middle of the ends and centres of a profile's boundary.
func profileMiddle(p solid.Profile) solid.Vec {
	var sum solid.Vec
	for _, s := range p.Loops[0] {
		q := s.A
		if s.Kind == "circle" {
			q = s.Center
		}
		sum = sum.Add(p.Frame.Point(q[0], q[1], 0))
	}
	return sum.Scale(1 / float64(len(p.Loops[0])))
}

// along is the direction in which a flat face runs away from one of its edges, in the
// edge's middle.
func along(e solid.Edge, f solid.Face) (solid.Vec, bool) {
	if f.Kind != solid.PlaneFace {
		return solid.Vec{}, false
	}
	switch e.Kind {
	case solid.LineEdge:
		d := f.Normal.Cross(e.B.Sub(e.A)).Unit()
		if f.Centroid.Sub(e.Mid).Dot(d) < 0 {
			d = d.Scale(-1)
		}
		return d, true
	case solid.CircleEdge:
		// Inwards, unless the face reaches beyond the circle.
		d := e.Center.Sub(e.Mid).Unit()
		if f.Bounds.Diagonal()/2 > 1.01*math.Sqrt2*e.Radius { // half the diagonal of the circle's box
			d = d.Scale(-1)
		}
		return d, true
	}
	return solid.Vec{}, false
}

// normalAt is the outward normal of a flat or cylindrical face at a place on it.
func normalAt(f solid.Face, p solid.Vec) (solid.Vec, bool) {
	switch f.Kind {
	case solid.PlaneFace:
		return f.Normal, true
	case solid.CylinderFace:
		n := solid.FromAxis(p, f.Origin, f.Axis).Unit()
		if f.Hollow {
			n = n.Scale(-1)
		}
		return n, true
	}
	return solid.Vec{}, false
}

// breakHandle puts the handle of a fillet or chamfer where it leaves a flat face beside
// its first edge that has one. A round that touches both faces begins at radius times
// tan(turn/2) from the edge, where the faces turn by that angle there.
func (w *worker) breakHandle(list []picked, size float64) {
	for _, p := range list {
		shape := w.state.bodies[p.body].Shape
		edges := shape.Edges()
		for _, i := range p.edges {
			e := edges[i]
			if len(e.Faces) != 2 {
				continue
			}
			for k := range 2 {
				f, g := shape.Surface(e.Faces[k]), shape.Surface(e.Faces[1-k])
				d, ok := along(e, f)
				if !ok {
					continue
				}
				reach, path := 1.0, "distance"
				if w.step.Kind == "fillet" {
					path = "radius"
					if n, ok := normalAt(g, e.Mid); ok {
						reach = math.Tan(math.Acos(max(-1, min(1, n.Dot(f.Normal)))) / 2)
					}
				}
				if reach > 1e-3 && reach < 1e3 {
					w.pulled(path, e.Mid.Add(d.Scale(size*reach)), d, 1/reach)
					return
				}
			}
		}
	}
}
