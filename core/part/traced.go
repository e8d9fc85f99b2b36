package part

import (
	"context"
	"fmt"
	"math"
	"slices"

	"hammerset/core/sketch"
	"hammerset/core/solid"
)

// traced gives the step's sketch with its traced entities laid where the edges
// that they follow are now: straight edges as lines, circular edges in a plane
// parallel to the sketch as circles and arcs. An edge that is gone is an error; no
// other edge is taken in its place.
func (w *worker) traced(f solid.Frame) (*sketch.Sketch, error) {
	sk := &sketch.Sketch{Entities: w.step.Entities, Constraints: w.step.Constraints}
	if !slices.ContainsFunc(sk.Entities, func(e sketch.Entity) bool { return len(e.Traced) > 0 }) {
		return sk, nil
	}
	sk = sk.Clone()
	unit := w.table.Unit().Factor
	put := func(point string, at sketch.Vec) {
		if e := sk.Entity(point); e != nil {
			e.At = &[2]float64{at.X / unit, at.Y / unit}
		}
	}
	for i := range sk.Entities {
		e := &sk.Entities[i]
		if len(e.Traced) == 0 {
			continue
		}
		if len(e.Traced) != 2 {
			return nil, because("trace the edge anew", "the traced %s names %d faces, and an edge lies between two", e.ID, len(e.Traced))
		}
		if len(w.state.bodies) == 0 {
			return nil, because("put the sketch after the step that makes the edge", "%s traces an edge, and there is no solid yet", e.ID)
		}
		curve, err := w.follow(sk, e, f, unit)
		if err != nil {
			return nil, err
		}
		if curve.Kind != e.Kind {
			return nil, because("trace the edge anew", "the edge that %s follows was a %s and is a %s now", e.ID, e.Kind, curve.Kind)
		}
		switch e.Kind {
		case sketch.KindLine:
			// The ends keep their order: the one that was nearer stays From.
			if from := sk.Entity(e.From); from != nil && from.At != nil {
				at := sketch.Vec{X: from.At[0] * unit, Y: from.At[1] * unit}
				if curve.B.Distance(at) < curve.A.Distance(at) {
					curve.A, curve.B = curve.B, curve.A
				}
			}
			put(e.From, curve.A)
			put(e.To, curve.B)
		case sketch.KindCircle:
			put(e.Center, curve.Center)
			e.Radius = curve.Radius / unit
		case sketch.KindArc:
			put(e.Center, curve.Center)
			put(e.Start, curve.A)
			put(e.End, curve.B)
		}
	}
	return sk, nil
}

// follow lays one traced entity: an edge between two faces, the curve in which the
// plane of the sketch cuts a face ("section", face), or an outline of a cylinder seen
// along the sketch's normal ("left" or "right" of its axis, face).
func (w *worker) follow(sk *sketch.Sketch, e *sketch.Entity, f solid.Frame, unit float64) (sketch.Curve, error) {
	switch e.Traced[0] {
	case "section":
		return w.sectionOf(sk, e, f, unit)
	case "left", "right":
		face, err := w.face(e.Traced[1])
		if err != nil {
			return sketch.Curve{}, err
		}
		c, ok := silhouette(face, f, e.Traced[0] == "left")
		if !ok {
			return c, because("trace something else", "%s cannot follow the outline of %s: it is no cylinder that lies across the view", e.ID, e.Traced[1])
		}
		return c, nil
	}
	list, err := w.pick([]EdgeRef{{Between: &[2]string{e.Traced[0], e.Traced[1]}}})
	if err != nil {
		return sketch.Curve{}, err
	}
	var all []solid.Edge
	for _, p := range list {
		for _, i := range p.edges {
			all = append(all, w.state.bodies[p.body].Shape.Edges()[i])
		}
	}
	curve, err := TraceEdge(nearestEdge(all, sk, e, f, unit), f)
	if err != nil {
		err = because("trace another edge", "%s cannot follow the edge between %s and %s: %v", e.ID, e.Traced[0], e.Traced[1], err)
	}
	return curve, err
}

// sectionOf is the curve in which the plane of the sketch cuts a face.
func (w *worker) sectionOf(sk *sketch.Sketch, e *sketch.Entity, f solid.Frame, unit float64) (sketch.Curve, error) {
	var all []solid.Edge
	for _, b := range w.bodiesWith(e.Traced[1]) {
		cut, err := w.kernel.Section(b.Shape, f)
		if err != nil {
			return sketch.Curve{}, err
		}
		names := b.Faces(unqualified(e.Traced[1]))
		for _, c := range cut {
			if len(c.Faces) == 1 && slices.Contains(names, c.Faces[0]) {
				all = append(all, c)
			}
		}
	}
	if len(w.bodiesWith(e.Traced[1])) == 0 {
		return sketch.Curve{}, goneError("the face", e.Traced[1])
	}
	if len(all) == 0 {
		return sketch.Curve{}, because("trace another face", "the plane of the sketch does not cut the face %s any more", e.Traced[1])
	}
	curve, err := TraceEdge(nearestEdge(all, sk, e, f, unit), f)
	if err != nil {
		err = because("trace another face", "%s cannot follow the section of %s: %v", e.ID, e.Traced[1], err)
	}
	return curve, err
}

// silhouette is an outline of a cylindrical face in the plane of a sketch, to the
// left or right of its axis (taken in its fixed sense).
func silhouette(face solid.Face, f solid.Frame, left bool) (sketch.Curve, bool) {
	axis := sense(face.Axis)
	if face.Kind != solid.CylinderFace || math.Abs(axis.Dot(f.Z)) > 1e-9 {
		return sketch.Curve{}, false
	}
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, c := range face.Bounds.Corners() {
		// The box overshoots across the axis; along a slanting one it is cut back by
		// the radius.
		d := c.Sub(face.Origin).Dot(axis)
		lo, hi = math.Min(lo, d), math.Max(hi, d)
	}
	slack := 0.0
	for i := range 3 {
		slack += math.Abs(axis[i]) * face.Radius * math.Sqrt(math.Max(0, 1-axis[i]*axis[i]))
	}
	lo, hi = lo+slack, hi-slack
	a, b := intoPlane(f, face.Origin.Add(axis.Scale(lo))), intoPlane(f, face.Origin.Add(axis.Scale(hi)))
	n := b.Sub(a).Unit().Left().Scale(face.Radius)
	if !left {
		n = n.Scale(-1)
	}
	return sketch.Curve{Kind: sketch.KindLine, A: a.Add(n), B: b.Add(n)}, true
}

// nearestEdge chooses among several edges of one name the one whose middle is
// nearest to where the traced entity was.
func nearestEdge(list []solid.Edge, sk *sketch.Sketch, e *sketch.Entity, f solid.Frame, unit float64) solid.Edge {
	var was sketch.Vec
	count := 0.0
	for _, id := range e.Refs() {
		if p := sk.Entity(id); p != nil && p.At != nil {
			was, count = was.Add(sketch.Vec{X: p.At[0] * unit, Y: p.At[1] * unit}), count+1
		}
	}
	if count > 0 {
		was = was.Scale(1 / count)
	}
	best, at := math.Inf(1), list[0]
	for _, x := range list {
		if d := intoPlane(f, x.Mid).Distance(was); d < best {
			best, at = d, x
		}
	}
	return at
}

func intoPlane(f solid.Frame, p solid.Vec) sketch.Vec {
	d := p.Sub(f.O)
	return sketch.Vec{X: d.Dot(f.X), Y: d.Dot(f.Y)}
}

// TraceEdge projects an edge into the plane of a sketch, in millimetres.
func TraceEdge(e solid.Edge, f solid.Frame) (sketch.Curve, error) {
	out := sketch.Curve{A: intoPlane(f, e.A), B: intoPlane(f, e.B)}
	switch {
	case e.Kind == solid.LineEdge:
		out.Kind = sketch.KindLine
		if out.A.Distance(out.B) < 1e-6 {
			return out, because("", "it stands square to the sketch and projects to a point")
		}
		return out, nil
	case e.Kind == solid.CircleEdge && math.Abs(math.Abs(e.Axis.Dot(f.Z))-1) < 1e-9:
		out.Center, out.Radius = intoPlane(f, e.Center), e.Radius
		if e.A.Sub(e.B).Norm() < 1e-7 {
			out.Kind = sketch.KindCircle
			return out, nil
		}
		out.Kind = sketch.KindArc
		// Counter-clockwise from A to B by way of the middle.
		lo := out.Center.AngleTo(out.A)
		turn := func(p sketch.Vec) float64 {
			t := math.Mod(out.Center.AngleTo(p)-lo, 2*math.Pi)
			if t < 0 {
				t += 2 * math.Pi
			}
			return t
		}
		if turn(intoPlane(f, e.Mid)) > turn(out.B) {
			out.A, out.B = out.B, out.A
		}
		return out, nil
	}
	return out, because("", "only straight edges and circles parallel to the sketch are traced")
}

// Traceable is an edge of the solid that a sketch can trace: the faces that it
// lies between, and its curve in the plane of the sketch, in millimetres.
type Traceable struct {
	Faces [2]string    `json:"faces"`
	Kind  string       `json:"kind"`
	A     sketch.Vec   `json:"a"`
	B     sketch.Vec   `json:"b"`
	C     sketch.Vec   `json:"c"`
	R     float64      `json:"r,omitempty"`
	Run   []sketch.Vec `json:"run"` // points along it, for drawing
}

// SketchAt places a sketch step for editing: the steps before it are rebuilt, and
// its traced entities are laid where the edges are that they follow. What cannot
// be placed (a plane or an edge that is gone) is the warning; the sketch is then
// given as it is stored.
func (r *Rebuilder) SketchAt(ctx context.Context, d *Document, id string) (*sketch.Sketch, []Traceable, error, error) {
	at := slices.IndexFunc(d.Steps, func(s Step) bool { return s.ID == id })
	if at < 0 || d.Steps[at].Kind != "sketch" {
		return nil, nil, nil, &DocumentError{"/steps", fmt.Sprintf("there is no sketch %q", id)}
	}
	step := &d.Steps[at]
	stored := &sketch.Sketch{Entities: step.Entities, Constraints: step.Constraints}
	before := *d
	before.Steps = d.Steps[:at]
	b, err := r.Rebuild(ctx, &before, nil)
	if err != nil {
		return nil, nil, nil, err
	}
	w := &worker{ctx: ctx, kernel: r.kernel, step: step, table: b.Table, state: b.state.clone()}
	f, err := w.frame(step.Plane)
	if err != nil {
		return stored, nil, err, nil
	}
	sk, warning := w.traced(f)
	if warning != nil {
		sk = stored
	}
	return sk, w.traceable(f), warning, nil
}

// traceable lists what a sketch in a plane can trace: edges that two faces name
// alone, faces that the plane cuts, and outlines of cylinders.
func (w *worker) traceable(f solid.Frame) []Traceable {
	var out []Traceable
	add := func(kind string, names [2]string, c sketch.Curve) {
		lo, hi := c.Range()
		out = append(out, Traceable{Faces: names, Kind: kind, A: c.A, B: c.B, C: c.Center, R: c.Radius, Run: c.Samples(lo, hi, math.Max(c.Radius, 1)/200)})
	}
	for _, n := range w.state.bodies {
		for i, e := range n.Shape.Edges() {
			if len(e.Faces) != 2 || e.Seam || e.Degenerate || len(n.Names[e.Faces[0]]) == 0 || len(n.Names[e.Faces[1]]) == 0 {
				continue
			}
			c, err := TraceEdge(e, f)
			if err != nil {
				continue
			}
			names := [2]string{n.Names[e.Faces[0]][0], n.Names[e.Faces[1]][0]}
			// Only an edge that its two faces name alone is followed surely.
			if same, err := n.edges([]EdgeRef{{Between: &names}}, solid.Box{}); err != nil || len(same) != 1 || same[0] != i {
				continue
			}
			add(c.Kind, names, c)
		}
		faces := n.Shape.Faces()
		for i, face := range faces {
			if len(n.Names[i]) == 0 {
				continue
			}
			for _, side := range []string{"left", "right"} {
				if c, ok := silhouette(face, f, side == "left"); ok {
					add(c.Kind, [2]string{side, n.Names[i][0]}, c)
				}
			}
		}
		cut, err := w.kernel.Section(n.Shape, f)
		if err != nil {
			continue // the plane touches the solid without cutting it
		}
		seen := map[int]int{}
		for _, e := range cut {
			if len(e.Faces) == 1 {
				seen[e.Faces[0]]++
			}
		}
		for _, e := range cut {
			// A face that lies in the plane, or that is cut twice, is not followed surely.
			if len(e.Faces) != 1 || seen[e.Faces[0]] != 1 || len(n.Names[e.Faces[0]]) == 0 || faces[e.Faces[0]].Normal.Parallel(f.Z, 1e-9) && faces[e.Faces[0]].Kind == solid.PlaneFace {
				continue
			}
			if c, err := TraceEdge(e, f); err == nil {
				add(c.Kind, [2]string{"section", n.Names[e.Faces[0]][0]}, c)
			}
		}
	}
	return out
}
