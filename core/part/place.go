package part

import (
	"math"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/solid"
)

// Planes, axes and places that a step names are resolved here, against what the
// steps before it have made. Whatever the kernel may describe in two ways (the
// sense of an axis, the order of an edge's ends) is brought into one, since a
// step must give the same part with the next version of the kernel.

// datumFrames are the three principal planes.
//
// The frame of XZ has its normal along -Y and not along Y: with X to the right
// and Z up it has to, to be right-handed.
func datumFrame(name string) (solid.Frame, bool) {
	switch name {
	case "XY":
		return solid.World, true
	case "XZ":
		return solid.Frame{X: solid.Vec{1, 0, 0}, Y: solid.Vec{0, 0, 1}, Z: solid.Vec{0, -1, 0}}, true
	case "YZ":
		return solid.Frame{X: solid.Vec{0, 1, 0}, Y: solid.Vec{0, 0, 1}, Z: solid.Vec{1, 0, 0}}, true
	}
	return solid.Frame{}, false
}

// frame resolves a plane.
//
// A face's frame stands at its centroid with the X axis that solid.Plane chooses
// by the normal alone, so that it does not turn when the outline of the face
// changes. An offset counts along the normal: out of the material for a face.
func (w *worker) frame(p *PlaneRef) (solid.Frame, error) {
	if p == nil {
		return solid.Frame{}, because("name a datum plane, a plane step or a flat face", "it has no plane")
	}
	var f solid.Frame
	switch {
	case p.Datum != "":
		d, ok := datumFrame(p.Datum)
		if !ok {
			return f, because("use XY, XZ or YZ", "%q is not a datum plane", p.Datum)
		}
		f = d
	case p.Step != "":
		d, ok := w.state.planes[p.Step]
		if !ok {
			return f, because("name a plane step that comes before this one", "there is no plane %q", p.Step)
		}
		f = d
	default:
		face, err := w.flat(p.Face)
		if err != nil {
			return f, err
		}
		f = solid.Plane(face.Centroid, face.Normal)
	}
	if p.Offset != "" {
		d, err := w.length("offset", p.Offset)
		if err != nil {
			return f, err
		}
		f.O = f.O.Add(f.Z.Scale(d))
	}
	return f, nil
}

// flat resolves a flat face.
//
// The kind of the face is named in the error, since a slight draft or a large
// radius looks flat.
func (w *worker) flat(name string) (solid.Face, error) {
	face, err := w.face(name)
	if err == nil && face.Kind != solid.PlaneFace {
		err = because("choose a flat face", "the %s is not flat (%s)", calledFace(name), face.Kind)
	}
	return face, err
}

// axis resolves an axis reference to a point and a unit direction.
//
// A line of a sketch runs from its first point to its second, which the one who
// drew it decided, and keeps that sense. Axes of edges and faces get one from
// sense.
func (w *worker) axis(a *AxisRef, p *placed) (origin, direction solid.Vec, err error) {
	var zero solid.Vec
	if a == nil {
		return zero, zero, because("name a datum axis, a round face, an edge or a line of the sketch", "it has no axis")
	}
	switch {
	case a.Line != "":
		id := a.Line
		if at := strings.IndexByte(id, '.'); at > 0 && w.state.sketches[id[:at]] != nil {
			p, id = w.state.sketches[id[:at]], id[at+1:]
		}
		if p == nil {
			break
		}
		switch id {
		case sketch.XAxis:
			return p.frame.O, p.frame.X, nil
		case sketch.YAxis:
			return p.frame.O, p.frame.Y, nil
		}
		for _, c := range p.solution.Curves {
			if c.ID == id && c.Kind == sketch.KindLine {
				from, to := p.frame.Point(c.A.X, c.A.Y, 0), p.frame.Point(c.B.X, c.B.Y, 0)
				return from, to.Sub(from).Unit(), nil
			}
		}
		return zero, zero, because("choose the line again", "the line is not in the sketch any more")
	case a.Datum != "":
		i := strings.Index("XYZ", a.Datum)
		if len(a.Datum) != 1 || i < 0 {
			break
		}
		direction[i] = 1
		return zero, direction, nil
	case a.Step != "":
		r, ok := w.state.axes[a.Step]
		if !ok {
			return zero, zero, because("name an axis step that comes before this one", "there is no axis %q", a.Step)
		}
		return r.o, r.d, nil
	case a.Edge != nil:
		e, err := w.oneEdge(*a.Edge)
		if err != nil {
			return zero, zero, err
		}
		switch e.Kind {
		case solid.LineEdge:
			return e.A, sense(e.B.Sub(e.A).Unit()), nil
		case solid.CircleEdge:
			return e.Center, sense(e.Axis), nil
		}
		return zero, zero, because("choose a straight or round edge", "the edge has no axis")
	case a.Face != "":
		face, err := w.face(a.Face)
		if err != nil {
			return zero, zero, err
		}
		switch face.Kind {
		case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
			return face.Origin, sense(face.Axis), nil
		}
		return zero, zero, because("choose a round face", "the %s has no axis (%s)", calledFace(a.Face), face.Kind)
	}
	return zero, zero, because("use the datum axis X, Y or Z, a round face, an edge or a line of the sketch",
		"its axis is not named")
}

// sense gives a direction that a kernel describes either way the sense in which
// its largest component is positive, so that it does not depend on the kernel.
//
// Of components that are equally large the first decides, with a slack, so that
// a direction like (1, 1, 0)/√2 does not turn round by the last bit.
func sense(d solid.Vec) solid.Vec {
	k := 0
	for i := range d {
		if math.Abs(d[i]) > math.Abs(d[k])+1e-9 {
			k = i
		}
	}
	if d[k] < 0 {
		return d.Scale(-1)
	}
	return d
}

// point resolves a place.
//
// A place of a sketch, a corner and a centre move with the part; coordinates do
// not, and are for those that mean the origin.
func (w *worker) point(p *PointRef) (solid.Vec, error) {
	var at solid.Vec
	switch {
	case p.At != nil:
		for i, f := range p.At {
			v, err := w.length(string("xyz"[i]), f)
			if err != nil {
				return at, err
			}
			at[i] = v
		}
		return at, nil
	case p.Sketch != "":
		id, name, ok := strings.Cut(p.Sketch, ".")
		pl := w.state.sketches[id]
		if !ok || pl == nil {
			return at, because("name it as sketch.point, of a sketch that comes before", "there is no point %q", p.Sketch)
		}
		if name == sketch.Origin {
			return pl.frame.O, nil
		}
		c, ok := pl.solution.Points[name]
		if !ok {
			return at, because("choose the point again", "the point is not in %s any more", calledStep(id))
		}
		return pl.frame.Point(c.X, c.Y, 0), nil
	case p.Step != "":
		v, ok := w.state.points[p.Step]
		if !ok {
			return at, because("name a point step that comes before this one", "there is no point %q", p.Step)
		}
		return v, nil
	case p.Corner != nil:
		return w.corner(*p.Corner)
	case p.Center != nil:
		e, err := w.oneEdge(*p.Center)
		if err != nil {
			return at, err
		}
		if e.Kind != solid.CircleEdge {
			return at, because("choose a round edge", "the edge has no centre")
		}
		return e.Center, nil
	case p.Edge != nil:
		e, err := w.oneEdge(*p.Edge)
		if err != nil {
			return at, err
		}
		v, _, err := w.along(e, p.Along)
		return v, err
	}
	return at, because("give coordinates, a point of a sketch, a corner, or a place on an edge", "a point is not named")
}

// along gives the place and the direction at a share of the length of an edge. The
// edge runs from the end that comes first in x, then y, then z.
//
// Lines and arcs are measured exactly. For other curves the share of the length
// would be an integral, and the place one that no drawing can state. Of the two
// ways around an arc the edge is the one that passes its middle.
func (w *worker) along(e solid.Edge, formula string) (at, tangent solid.Vec, err error) {
	t := 0.5
	if formula != "" {
		if t, err = w.value("along", formula, quantity.Number); err != nil {
			return at, tangent, err
		}
	}
	if t < 0 || t > 1 {
		return at, tangent, because("give a share from 0 to 1", "the place along the edge is %g", t)
	}
	a, b := e.A, e.B
	if after(a, b) {
		a, b = b, a
	}
	switch e.Kind {
	case solid.LineEdge:
		return a.Add(b.Sub(a).Scale(t)), b.Sub(a).Unit(), nil
	case solid.CircleEdge:
		axis := sense(e.Axis)
		angle := 2 * math.Pi
		if a.Distance(b) > 1e-7 {
			angle = e.Length / e.Radius
			turn := solid.Rotation(e.Center, axis, angle/2)
			if turn.Apply(a).Distance(e.Mid) > solid.Rotation(e.Center, axis, -angle/2).Apply(a).Distance(e.Mid) {
				angle = -angle
			}
		}
		at = solid.Rotation(e.Center, axis, angle*t).Apply(a)
		return at, axis.Cross(at.Sub(e.Center)).Unit().Scale(math.Copysign(1, angle)), nil
	}
	return at, tangent, because("choose a straight or round edge", "a place along this edge cannot be given")
}

// after orders places by x, then y, then z, with a little slack.
//
// Without the slack two ends with the same x would be ordered by the noise in
// it.
func after(a, b solid.Vec) bool {
	for i := range a {
		if math.Abs(a[i]-b[i]) > 1e-7 {
			return a[i] > b[i]
		}
	}
	return false
}

// corner resolves the vertex where three faces meet.
//
// Corners are compared after rounding to 1e-6 mm, because each edge carries its
// own copy of the vertex. A corner where two of the named faces touch twice is
// refused rather than chosen.
func (w *worker) corner(names [3]string) (solid.Vec, error) {
	var found []solid.Vec
	for _, b := range w.state.bodies {
		edges := b.Shape.Edges()
		on := map[solid.Vec]int{}
		for k, name := range names {
			for _, f := range b.Faces(unqualified(name)) {
				for _, e := range b.Shape.Faces()[f].Edges {
					for _, v := range []solid.Vec{edges[e].A, edges[e].B} {
						for i := range v {
							v[i] = math.Round(v[i]*1e6) / 1e6
						}
						on[v] |= 1 << k
					}
				}
			}
		}
		for v, mask := range on {
			if mask == 7 {
				found = append(found, v)
			}
		}
	}
	switch len(found) {
	case 0:
		return solid.Vec{}, because("choose the corner anew", "the %s, the %s and the %s do not meet in a corner any more",
			calledFace(names[0]), calledFace(names[1]), calledFace(names[2]))
	case 1:
		return found[0], nil
	}
	return solid.Vec{}, because("choose another point", "the %s, the %s and the %s meet in %d corners",
		calledFace(names[0]), calledFace(names[1]), calledFace(names[2]), len(found))
}
