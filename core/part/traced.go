package part

import (
	"context"
	"fmt"
	"math"
	"slices"

	"hammerset/core/sketch"
	"hammerset/core/solid"
	"strings"
)

// traced gives a sketch with its traced entities laid where the edges
// that they follow are now: straight edges as lines, circular edges as circles
// and arcs or, seen aslant, as ellipses and pieces of them, all others as splines. An edge that is gone is an error; no
// other edge is taken in its place.
//
// A traced curve follows, and is never solved for: the solver takes its points
// as given. What was traced keeps its kind, or the constraints on it would lose
// their sense. Lengths are stored in the unit of the document, as everywhere in
// it.
func (w *worker) traced(do *Sketch, f solid.Frame) (*sketch.Sketch, error) {
	sk := do.Geometry()
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
			return nil, because("trace the edge anew", "a traced %s names %d faces, and an edge lies between two",
				plainKind(e.Kind), len(e.Traced))
		}
		if len(w.state.bodies) == 0 {
			return nil, because("put the sketch after the step that makes the edge",
				"a %s of it traces an edge, and there is no solid yet", plainKind(e.Kind))
		}
		curve, err := w.follow(sk, e, f, unit)
		if err != nil {
			return nil, err
		}
		if curve.Kind != e.Kind {
			return nil, because("trace the edge anew", "the edge that a traced %s follows is a %s now",
				plainKind(e.Kind), plainKind(curve.Kind))
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
		case sketch.KindEllipse, sketch.KindEllArc:
			put(e.Center, curve.Center)
			put(e.Major, curve.Center.Add(curve.U))
			put(e.Minor, curve.Center.Add(curve.V))
			put(e.Start, curve.A)
			put(e.End, curve.B)
		case sketch.KindSpline:
			if open := e.Poles[0] != e.Poles[len(e.Poles)-1]; len(e.Poles) != len(curve.Poles) || open == (curve.A == curve.B) {
				return nil, because("trace the edge anew", "the curve that a traced spline follows %s now",
					map[bool]string{true: "runs round and closes", false: "has two ends"}[open])
			}
			// An open one keeps its order, as a line does.
			poles := curve.Poles
			if from := sk.Entity(e.Poles[0]); from != nil && from.At != nil {
				at := sketch.Vec{X: from.At[0] * unit, Y: from.At[1] * unit}
				if curve.B.Distance(at) < curve.A.Distance(at) {
					poles = slices.Clone(poles)
					slices.Reverse(poles)
				}
			}
			for j, p := range poles {
				put(e.Poles[j], p)
			}
		}
	}
	return sk, nil
}

// follow lays one traced entity: an edge between two faces, the curve in which the
// plane of the sketch cuts a face ("section", face), or an outline of a cylinder seen
// along the sketch's normal ("left" or "right" of its axis, face).
//
// The first of two names tells which of the three ways it is; no face can be
// called section, left or right, because names of faces contain a stroke.
func (w *worker) follow(sk *sketch.Sketch, e *sketch.Entity, f solid.Frame, unit float64) (sketch.Curve, error) {
	switch e.Traced[0] {
	case "section":
		return w.sectionOf(sk, e, f, unit)
	case "left", "right":
		return w.outlineOf(e, f)
	}
	list, err := w.pick([]EdgeRef{{Between: &[2]string{e.Traced[0], e.Traced[1]}}})
	if err != nil {
		return sketch.Curve{}, err
	}
	var all []solid.Edge
	for _, p := range list {
		for _, i := range p.edges {
			one, err := w.edgeWithRun(w.state.bodies[p.body].Shape, i)
			if err != nil {
				return sketch.Curve{}, err
			}
			all = append(all, one)
		}
	}
	curve, err := TraceEdge(nearestEdge(all, sk, e, f, unit), f)
	if err != nil {
		err = because("trace another edge", "a traced %s cannot follow the %s: %v", plainKind(e.Kind),
			calledEdge{e.Traced[0], e.Traced[1]}, err)
	}
	return curve, err
}

// edgeWithRun is an edge, with points along it where it is neither straight nor round.
//
// Points along it are asked of the kernel only for free curves: each costs a
// call.
func (w *worker) edgeWithRun(s solid.Shape, i int) (solid.Edge, error) {
	e := s.Edges()[i]
	if e.Kind != solid.OtherEdge {
		return e, nil
	}
	var err error
	e.Run, err = w.kernel.Along(s, i)
	return e, err
}

// section cuts a solid with a plane. Pieces of one free curve that only the seam of its
// face parts are joined again.
//
// A face that closes on itself has a seam, where the kernel cuts the curve in
// two; the one who traces it sees one curve.
func (w *worker) section(s solid.Shape, f solid.Frame) ([]solid.Edge, error) {
	cut, err := w.kernel.Section(s, f)
	for i := 0; i < len(cut); i++ {
		for k := i + 1; k < len(cut) && len(cut[i].Run) > 0; k++ {
			a, b := &cut[i], cut[k]
			if len(b.Run) == 0 || !slices.Equal(a.Faces, b.Faces) || len(a.Faces) != 1 {
				continue
			}
			if a.B.Distance(b.B) < 1e-6 || a.A.Distance(b.A) < 1e-6 {
				b.A, b.B, b.Run = b.B, b.A, slices.Clone(b.Run)
				slices.Reverse(b.Run)
			}
			switch {
			case a.B.Distance(b.A) < 1e-6:
				a.B, a.Run = b.B, append(slices.Clone(a.Run), b.Run[1:]...)
			case a.A.Distance(b.B) < 1e-6:
				a.A, a.Run = b.A, append(slices.Clone(b.Run), a.Run[1:]...)
			default:
				continue
			}
			a.Length, a.Mid = a.Length+b.Length, a.Run[len(a.Run)/2]
			cut = slices.Delete(cut, k, k+1)
			k = i // what did not meet before may do now
		}
	}
	return cut, err
}

// sectionOf is the curve in which the plane of the sketch cuts a face.
//
// Only edges with one face count: those with two lie on an edge of the solid,
// and tracing that edge is another thing.
func (w *worker) sectionOf(sk *sketch.Sketch, e *sketch.Entity, f solid.Frame, unit float64) (sketch.Curve, error) {
	var all []solid.Edge
	var on solid.Face
	for _, b := range w.bodiesWith(e.Traced[1]) {
		cut, err := w.section(b.Shape, f)
		if err != nil {
			return sketch.Curve{}, err
		}
		names := b.Faces(unqualified(e.Traced[1]))
		for _, c := range cut {
			if len(c.Faces) == 1 && slices.Contains(names, c.Faces[0]) {
				all, on = append(all, c), b.Shape.Surface(c.Faces[0])
			}
		}
	}
	if len(w.bodiesWith(e.Traced[1])) == 0 {
		return sketch.Curve{}, goneError(e.Traced[1])
	}
	if len(all) == 0 {
		return sketch.Curve{}, because("trace another face", "the plane of the sketch does not cut the %s any more",
			calledFace(e.Traced[1]))
	}
	curve, err := traceSection(nearestEdge(all, sk, e, f, unit), on, f)
	if err != nil {
		err = because("trace another face", "a traced %s cannot follow the section of the %s: %v",
			plainKind(e.Kind), calledFace(e.Traced[1]), err)
	}
	return curve, err
}

// outlineOf is the outline of a cylinder to the left or right of its axis.
//
// Outlines are no edges of the solid: they are where the surface turns away from
// the view, and move along it when the view does.
func (w *worker) outlineOf(e *sketch.Entity, f solid.Frame) (sketch.Curve, error) {
	face, err := w.face(e.Traced[1])
	if err != nil {
		return sketch.Curve{}, err
	}
	for _, b := range w.bodiesWith(e.Traced[1]) {
		for _, i := range b.Faces(unqualified(e.Traced[1])) {
			if !sameSurface(face, b.Shape.Surface(i)) {
				continue
			}
			found, err := w.silhouettes(b, i, f, nil)
			if err != nil {
				return sketch.Curve{}, err
			}
			if c, ok := found[e.Traced[0]]; ok {
				return c, nil
			}
		}
	}
	return sketch.Curve{}, because("trace something else", "a traced line cannot follow the outline of the %s: it "+
		"is no cylinder that lies across the view and shows one on that side", calledFace(e.Traced[1]))
}

// silhouettes are the outlines of a cylindrical face in the plane of a sketch, to
// the left or right of its axis (taken in its fixed sense): where the plane through
// the axis that lies across the view cuts the face. A face that reaches round on
// neither side has none. The sections are kept by their depth below the sketch, where
// there is somewhere to keep them: rows of holes share one.
//
// A cylinder across the view shows its outline at a radius to both sides of its
// axis, in the plane through the axis that is parallel to the sketch. Left and
// right are told by the fixed sense of the axis, so that a part that is turned
// keeps them.
func (w *worker) silhouettes(b *Body, i int, f solid.Frame, keep map[float64][]solid.Edge) (map[string]sketch.Curve,
	error) {
	face := b.Shape.Surface(i)
	axis := sense(face.Axis)
	if face.Kind != solid.CylinderFace || math.Abs(axis.Dot(f.Z)) > 1e-9 {
		return nil, nil
	}
	depth := math.Round(1e7*face.Origin.Sub(f.O).Dot(f.Z)) / 1e7
	cut, ok := keep[depth]
	if !ok {
		var err error
		if cut, err = w.kernel.Section(b.Shape, solid.Frame{O: face.Origin, X: axis, Y: f.Z.Cross(axis), Z: f.Z}); err !=
			nil {
			return nil, err
		}
		if keep != nil {
			keep[depth] = cut
		}
	}
	out := map[string]sketch.Curve{}
	o := intoPlane(f, face.Origin)
	along := sketch.Vec{X: axis.Dot(f.X), Y: axis.Dot(f.Y)}
	var lines []solid.Edge
	for _, e := range cut {
		if len(e.Faces) == 1 && e.Faces[0] == i {
			lines = append(lines, e)
		}
	}
	// Where the plane runs along an edge of the face, or along its seam, that is it.
	for _, k := range b.Shape.Faces()[i].Edges {
		e := b.Shape.Edges()[k]
		if math.Abs(e.A.Sub(face.Origin).Dot(f.Z)) < 1e-7 && math.Abs(e.B.Sub(face.Origin).Dot(f.Z)) < 1e-7 {
			lines = append(lines, e)
		}
	}
	for _, e := range lines {
		if e.Kind != solid.LineEdge {
			continue
		}
		c := sketch.Curve{Kind: sketch.KindLine, A: intoPlane(f, e.A), B: intoPlane(f, e.B)}
		if c.B.Sub(c.A).Dot(along) < 0 {
			c.A, c.B = c.B, c.A
		}
		side := "right"
		if along.Cross(c.A.Sub(o)) > 0 {
			side = "left"
		}
		if was, ok := out[side]; ok { // in pieces: from the first to the last
			if was.A.Sub(c.A).Dot(along) < 0 {
				c.A = was.A
			}
			if was.B.Sub(c.B).Dot(along) > 0 {
				c.B = was.B
			}
		}
		out[side] = c
	}
	return out, nil
}

// nearestEdge chooses among several edges of one name the one whose middle is
// nearest to where the traced entity was.
//
// It is compared with the middle of the points that the traced curve was made
// of, as they were stored last: between two edits an edge moves less than
// another is away.
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

// It is the projection along the normal, in the coordinates of the plane.
func intoPlane(f solid.Frame, p solid.Vec) sketch.Vec {
	d := p.Sub(f.O)
	return sketch.Vec{X: d.Dot(f.X), Y: d.Dot(f.Y)}
}

// TraceEdge projects an edge into the plane of a sketch, in millimetres.
//
// A circle seen aslant is an ellipse: the diameter along u = n_sketch × n_circle
// lies in both planes and keeps its length, and the one across it shrinks by the
// cosine of the angle between the planes. Seen from its edge it is a line, and
// of parallel planes a circle. The limits are set so that an ellipse is thicker
// than 1e-6 of its length.
func TraceEdge(e solid.Edge, f solid.Frame) (sketch.Curve, error) {
	out := sketch.Curve{A: intoPlane(f, e.A), B: intoPlane(f, e.B)}
	switch e.Kind {
	case solid.LineEdge:
		out.Kind = sketch.KindLine
		if out.A.Distance(out.B) < 1e-6 {
			return out, because("", "it stands square to the sketch and projects to a point")
		}
		return out, nil
	case solid.CircleEdge:
		out.Center = intoPlane(f, e.Center)
		tilt := math.Abs(e.Axis.Dot(f.Z))
		if math.Abs(tilt-1) < 1e-9 {
			out.Radius = e.Radius
			return between(out, e, f), nil
		}
		if tilt < 1e-6 {
			return edgeOn(e, f), nil
		}
		// The diameter along the line that both planes share keeps its length.
		u := f.Z.Cross(e.Axis).Unit()
		out.U = sketch.Vec{X: u.Dot(f.X), Y: u.Dot(f.Y)}.Scale(e.Radius)
		out.V = out.U.Left().Scale(tilt)
		return between(out, e, f), nil
	}
	return traceRun(e.Run, f)
}

// edgeOn is a circle or a piece of one that the plane of a sketch sees from its edge: the
// line as far as it reaches.
//
// With u along the line that is seen, a piece reaches as far as its ends do, or
// to the rim (one radius) where it runs past it.
func edgeOn(e solid.Edge, f solid.Frame) sketch.Curve {
	u := f.Z.Cross(e.Axis).Unit()
	out := sketch.Curve{Kind: sketch.KindLine}
	far := func(p solid.Vec) float64 { return p.Sub(e.Center).Dot(u) }
	lo, hi := -e.Radius, e.Radius
	if e.A.Distance(e.B) >= 1e-7 {
		// A piece reaches its end or, where it runs past it, the rim of the circle.
		v := e.Axis.Cross(u)
		turn := func(p solid.Vec) float64 {
			d, a := p.Sub(e.Center), e.A.Sub(e.Center)
			t := math.Mod(math.Atan2(d.Dot(v), d.Dot(u))-math.Atan2(a.Dot(v), a.Dot(u)), 2*math.Pi)
			if t < 0 {
				t += 2 * math.Pi
			}
			return t
		}
		forward := turn(e.Mid) < turn(e.B)
		on := func(p solid.Vec) bool { return (turn(p) < turn(e.B)) == forward }
		lo, hi = math.Min(far(e.A), far(e.B)), math.Max(far(e.A), far(e.B))
		if on(e.Center.Add(u.Scale(e.Radius))) {
			hi = e.Radius
		}
		if on(e.Center.Sub(u.Scale(e.Radius))) {
			lo = -e.Radius
		}
	}
	out.A, out.B = intoPlane(f, e.Center.Add(u.Scale(lo))), intoPlane(f, e.Center.Add(u.Scale(hi)))
	return out
}

// tracedSpans is the number of spans of a traced spline: always the same, so that its
// poles are the same points of the sketch at every size.
const tracedSpans = 48

// traceRun lays the points along a free curve into the plane of a sketch and a cubic
// spline through some of them, closer where it bends more. A curve that the plane sees
// folded onto itself is none.
//
// A turn of more than a right angle between neighbours is a fold: the spline
// through it would be wrong there, and looks right.
func traceRun(run []solid.Vec, f solid.Frame) (sketch.Curve, error) {
	at := make([]sketch.Vec, len(run))
	length := 0.0
	for i, p := range run {
		at[i] = intoPlane(f, p)
		if i > 0 {
			length += at[i].Distance(at[i-1])
		}
	}
	for i := 2; i < len(at); i++ {
		a, b := at[i-1].Sub(at[i-2]), at[i].Sub(at[i-1])
		if a.Norm() < 1e-3*length/float64(len(at)) || a.Dot(b) <= 0 {
			return sketch.Curve{}, because("", "it is seen from its edge, or bends too sharply")
		}
	}
	return sketch.Interpolate(sketch.Spread(at, tracedSpans+1))
}

// traceSection lays the curve in which the plane of a sketch cuts a face into that
// plane. A cylinder that is cut aslant gives an ellipse: its half axes are the radius,
// across, and the radius over the cosine of the slant, along the axis' projection.
//
// The centre is where the axis meets the sketch's plane, at a parameter of -(o -
// p) · n / (a · n) along it.
func traceSection(e solid.Edge, on solid.Face, f solid.Frame) (sketch.Curve, error) {
	slope := on.Axis.Dot(f.Z)
	if e.Kind != solid.OtherEdge || on.Kind != solid.CylinderFace || math.Abs(slope) < 1e-9 {
		return TraceEdge(e, f)
	}
	out := sketch.Curve{A: intoPlane(f, e.A), B: intoPlane(f, e.B)}
	out.Center = intoPlane(f, on.Origin.Sub(on.Axis.Scale(on.Origin.Sub(f.O).Dot(f.Z)/slope)))
	out.U = sketch.Vec{X: on.Axis.Dot(f.X), Y: on.Axis.Dot(f.Y)}.Unit().Scale(on.Radius / math.Abs(slope))
	out.V = out.U.Left().Scale(math.Abs(slope))
	return between(out, e, f), nil
}

// between makes a circle or ellipse that has its centre and size what the edge is of
// it: the whole, or the piece that runs counter-clockwise through the edge's middle.
//
// A piece of a circle seen from behind runs the other way; the middle of the
// edge tells on which of the two arcs between its ends it is. Angles of an
// ellipse are its eccentric ones.
func between(c sketch.Curve, e solid.Edge, f solid.Frame) sketch.Curve {
	whole, piece := sketch.KindCircle, sketch.KindArc
	angle := c.Center.AngleTo
	if c.Radius == 0 {
		whole, piece = sketch.KindEllipse, sketch.KindEllArc
		angle = func(p sketch.Vec) float64 {
			d := p.Sub(c.Center)
			return math.Atan2(d.Dot(c.V)/c.V.Dot(c.V), d.Dot(c.U)/c.U.Dot(c.U))
		}
	}
	c.Kind = whole
	if e.A.Distance(e.B) < 1e-7 {
		return c
	}
	c.Kind = piece
	lo := angle(c.A)
	turn := func(p sketch.Vec) float64 {
		t := math.Mod(angle(p)-lo, 2*math.Pi)
		if t < 0 {
			t += 2 * math.Pi
		}
		return t
	}
	if turn(intoPlane(f, e.Mid)) > turn(c.B) {
		c.A, c.B = c.B, c.A
	}
	return c
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
	U     sketch.Vec   `json:"u"` // half axes of an ellipse
	V     sketch.Vec   `json:"v"`
	Poles []sketch.Vec `json:"poles,omitempty"` // of a spline
	Run   []sketch.Vec `json:"run"`             // points along it, for drawing
}

// SketchAt places a sketch step for editing: the steps before it are rebuilt, and
// its traced entities are laid where the edges are that they follow. What cannot
// be placed (a plane or an edge that is gone) is the warning; the sketch is then
// given as it is stored.
func (r *Rebuilder) SketchAt(ctx context.Context, d *Document, id string) (*sketch.Sketch, []Traceable, error, error) {
	at := slices.IndexFunc(d.Steps, func(s Step) bool { return s.ID == id })
	if at < 0 || d.Steps[at].Sketched() == nil {
		return nil, nil, nil, &DocumentError{"/steps", fmt.Sprintf("there is no sketch %q", id)}
	}
	step := &d.Steps[at]
	do := step.Sketched()
	stored := do.Geometry()
	before := *d
	before.Steps = d.Steps[:at]
	b, err := r.Rebuild(ctx, &before, nil)
	if err != nil {
		return nil, nil, nil, err
	}
	w := &worker{ctx: ctx, kernel: r.kernel, step: step, table: b.Table, state: b.state.clone()}
	f, err := w.frame(do.Plane)
	if err != nil {
		return stored, nil, err, nil
	}
	sk, warning := w.traced(do, f)
	if warning != nil {
		sk = stored
	}
	return sk, w.traceable(f), warning, nil
}

// traceable lists what a sketch in a plane can trace: edges that two faces name
// alone, faces that the plane cuts, and outlines of cylinders.
func (w *worker) traceable(f solid.Frame) []Traceable {
	var out []Traceable
	for _, n := range w.state.bodies {
		out = append(out, w.traceableEdges(n, f)...)
		out = append(out, w.traceableFaces(n, f)...)
	}
	return out
}

// traceAs is a curve that can be traced, between two names.
func traceAs(names [2]string, c sketch.Curve) Traceable {
	lo, hi := c.Range()
	run := c.Samples(lo, hi, max(c.Radius, c.U.Norm(), c.Length(lo, hi)/6, 1)/200)
	return Traceable{Faces: names, Kind: c.Kind, A: c.A, B: c.B, C: c.Center, R: c.Radius, U: c.U, V: c.V,
		Poles: c.Poles, Run: run}
}

// traceableEdges lists the edges that their two faces name alone: only those are followed surely.
func (w *worker) traceableEdges(n *Body, f solid.Frame) []Traceable {
	var out []Traceable
	for i, e := range n.Shape.Edges() {
		if len(e.Faces) != 2 || e.Seam || e.Degenerate || len(n.Names[e.Faces[0]]) == 0 || len(n.Names[e.Faces[1]]) == 0 {
			continue
		}
		e, err := w.edgeWithRun(n.Shape, i)
		if err != nil {
			continue
		}
		c, err := TraceEdge(e, f)
		if err != nil {
			continue
		}
		names := [2]string{n.Names[e.Faces[0]][0], n.Names[e.Faces[1]][0]}
		if same, err := n.edges([]EdgeRef{{Between: &names}}, solid.Box{}); err == nil && len(same) == 1 && same[0] == i {
			out = append(out, traceAs(names, c))
		}
	}
	return out
}

// traceableFaces lists the outlines of faces that have their name for themselves, and the curves in
// which the plane cuts faces. A face that lies in the plane, or that is cut twice, is not followed
// surely.
func (w *worker) traceableFaces(n *Body, f solid.Frame) []Traceable {
	var out []Traceable
	faces := n.Shape.Faces()
	cuts := map[float64][]solid.Edge{}
	for i := range faces {
		if len(n.Names[i]) == 0 || len(n.Faces(n.Names[i][0])) != 1 {
			continue
		}
		found, err := w.silhouettes(n, i, f, cuts)
		if err != nil {
			continue // the plane touches the solid without cutting it
		}
		for _, side := range []string{"left", "right"} {
			if c, ok := found[side]; ok {
				out = append(out, traceAs([2]string{side, n.Names[i][0]}, c))
			}
		}
	}
	cut, err := w.section(n.Shape, f)
	if err != nil {
		return out // the plane touches the solid without cutting it
	}
	seen := map[int]int{}
	for _, e := range cut {
		if len(e.Faces) == 1 {
			seen[e.Faces[0]]++
		}
	}
	for _, e := range cut {
		if len(e.Faces) != 1 || seen[e.Faces[0]] != 1 || len(n.Names[e.Faces[0]]) == 0 {
			continue
		}
		face := faces[e.Faces[0]]
		if face.Kind == solid.PlaneFace && face.Normal.Parallel(f.Z, 1e-9) {
			continue
		}
		if c, err := traceSection(e, face, f); err == nil {
			out = append(out, traceAs([2]string{"section", n.Names[e.Faces[0]][0]}, c))
		}
	}
	return out
}

// plainKind is a kind of curve as a word.
func plainKind(kind string) string { return strings.ReplaceAll(kind, "-", " ") }
