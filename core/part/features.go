package part

import (
	"fmt"
	"math"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/solid"
)

// profileNamer names the faces that a swept profile makes.
func (w *worker) profileNamer(entities []string) namer {
	return func(src solid.Source) string {
		switch src.Kind {
		case solid.FromEdge:
			if src.Index < len(entities) {
				return w.step.ID + "/side:" + entities[src.Index]
			}
		case solid.CapStart:
			return w.step.ID + "/start"
		case solid.CapEnd:
			return w.step.ID + "/end"
		}
		return ""
	}
}

// bounds is the box of the solid so far; empty when there is none.
func (w *worker) bounds() (solid.Box, error) {
	if w.state.solid == nil {
		return solid.Box{}, nil
	}
	return w.kernel.Bounds(w.state.solid.Shape)
}

// reach is how far the solid extends from a plane along a direction, and a bit.
func reach(b solid.Box, from, along solid.Vec) float64 {
	far := 0.0
	for _, c := range b.Corners() {
		far = math.Max(far, c.Sub(from).Dot(along))
	}
	return far + 1 + 0.01*b.Diagonal()
}

// extrude sweeps regions along the normal of the sketch. Material is added
// along the normal and cut against it, unless reversed.
func (w *worker) extrude() error {
	op, err := w.operation()
	if err != nil {
		return err
	}
	p, profiles, entities, err := w.profiles()
	if err != nil {
		return err
	}
	along := p.frame.Z
	if (op == solid.Difference) != w.step.Reverse {
		along = along.Scale(-1)
	}
	e := w.step.Extent
	if e == nil {
		return because("say how far: one-side, symmetric, two-sides, through or to-face", "it has no extent")
	}
	var from, to float64 // along the direction
	var limit func(*Named) (*Named, error)
	switch e.Kind {
	case "one-side", "symmetric", "two-sides":
		from, to, err = w.span(e, quantity.Length)
	case "through":
		if op == solid.Union {
			return because("give a length, or make it a cut", "only a cut can go through")
		}
		box, berr := w.bounds()
		if berr != nil {
			return berr
		}
		to = reach(box, p.frame.O, along)
		if e.Both {
			from = -reach(box, p.frame.O, along.Scale(-1))
		}
	case "to-face":
		to, limit, err = w.toFace(e.Face, p.frame, along)
	default:
		return because("use one-side, symmetric, two-sides, through or to-face", "%q is not an extent", e.Kind)
	}
	if err != nil {
		return err
	}
	var tools []tool
	for i, prof := range profiles {
		prof.Frame.O = prof.Frame.O.Add(along.Scale(from))
		shape, h, err := w.kernel.Prism(prof, along.Scale(to-from))
		if err != nil {
			return because("look for crossing or touching lines in the sketch", "the profile makes no solid: %v", err)
		}
		body := carry(shape, h, nil, w.profileNamer(entities[i]))
		if limit != nil {
			if body, err = limit(body); err != nil {
				return err
			}
		}
		tools = append(tools, tool{op, body})
	}
	return w.apply(tools)
}

// span gives where an extent with values begins and ends: lengths for an
// extrusion, angles for a revolution.
func (w *worker) span(e *Extent, dim quantity.Dim) (from, to float64, err error) {
	switch e.Kind {
	case "one-side":
		to, err = w.positive("length", e.Length, dim)
	case "symmetric":
		to, err = w.positive("total", e.Total, dim)
		from, to = -to/2, to/2
	case "two-sides":
		if to, err = w.positive("forward", e.Forward, dim); err == nil {
			from, err = w.positive("backward", e.Backward, dim)
			from = -from
		}
	default:
		err = because("use one-side, symmetric or two-sides", "%q is not an extent", e.Kind)
	}
	return from, to, err
}

// toFace prepares an extrusion up to a face: the length that surely reaches it
// and the trimming to it. The trimmed end is named as the extrusion's end.
func (w *worker) toFace(name string, f solid.Frame, along solid.Vec) (length float64, trim func(*Named) (*Named, error), err error) {
	if w.state.solid == nil {
		return 0, nil, because("put the step after the one that makes the face", "there is no solid yet with a face %q", name)
	}
	face, err := w.state.solid.face(name)
	if err != nil {
		return 0, nil, err
	}
	box, err := w.bounds()
	if err != nil {
		return 0, nil, err
	}
	size := 4*box.Diagonal() + f.O.Norm()
	length = reach(box, f.O, along)
	var beyond *Named // what is cut off, or kept
	op := solid.Difference
	switch face.Kind {
	case solid.PlaneFace:
		n := face.Normal
		slope := n.Dot(along)
		if math.Abs(slope) < 1e-6 {
			return 0, nil, because("choose a face across the direction", "the extrusion runs along the face %q and never meets it", name)
		}
		if face.Kind == solid.PlaneFace && math.Abs(math.Abs(slope)-1) < 1e-12 {
			d := face.Centroid.Sub(f.O).Dot(along)
			if d <= 1e-9 {
				return 0, nil, because("reverse the direction or choose another face", "the face %q lies behind the sketch", name)
			}
			return d, nil, nil
		}
		if slope < 0 {
			n = n.Scale(-1)
		}
		fr := solid.Plane(face.Centroid, n)
		fr.O = face.Centroid
		beyond, err = w.slab(fr, size)
	case solid.CylinderFace:
		fr := solid.Plane(face.Origin, face.Axis)
		fr.O = face.Origin.Sub(face.Axis.Scale(size))
		circle := solid.Profile{Frame: fr, Loops: [][]solid.Segment{{{Kind: "circle", Radius: face.Radius, Forward: true}}}}
		shape, h, perr := w.kernel.Prism(circle, face.Axis.Scale(2*size))
		err = perr
		if err == nil {
			beyond = carry(shape, h, nil, func(solid.Source) string { return w.step.ID + "/end" })
		}
		if solid.FromAxis(f.O, face.Origin, face.Axis).Norm() < face.Radius {
			op = solid.Intersection
		} else {
			length = math.Max(face.Origin.Sub(f.O).Dot(along), 1e-3)
		}
	default:
		return 0, nil, because("choose a flat or cylindrical face", "the face %q is %s", name, face.Kind)
	}
	if err != nil {
		return 0, nil, err
	}
	return length, func(body *Named) (*Named, error) {
		shape, h, err := w.kernel.Boolean(op, body.Shape, []solid.Shape{beyond.Shape})
		if err != nil {
			return nil, err
		}
		if shape.Solids() == 0 {
			return nil, because("reverse the direction or choose another face", "the face %q lies behind the sketch", name)
		}
		return carry(shape, h, []*Named{{body.Shape, withoutEnd(body.Names, w.step.ID+"/end")}, beyond}, nil), nil
	}, nil
}

func withoutEnd(names [][]string, end string) [][]string {
	out := make([][]string, len(names))
	for i, n := range names {
		if len(n) == 1 && n[0] == end {
			continue
		}
		out[i] = n
	}
	return out
}

// slab is a big block whose bottom lies in the XY plane of the frame.
func (w *worker) slab(f solid.Frame, size float64) (*Named, error) {
	c := [][2]float64{{-size, -size}, {size, -size}, {size, size}, {-size, size}}
	var loop []solid.Segment
	for i := range c {
		loop = append(loop, solid.Segment{Kind: "line", A: c[i], B: c[(i+1)%4]})
	}
	shape, h, err := w.kernel.Prism(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, f.Z.Scale(size))
	if err != nil {
		return nil, err
	}
	return carry(shape, h, nil, func(src solid.Source) string { return w.step.ID + "/end" }), nil
}

// axis resolves an axis reference to a point and a unit direction.
func (w *worker) axis(a *AxisRef, p *placed) (solid.Vec, solid.Vec, error) {
	var zero solid.Vec
	if a == nil {
		return zero, zero, because("name a datum axis, a round face or a line of the sketch", "it has no axis")
	}
	if a.Line != "" && p != nil {
		if a.Line == sketch.XAxis {
			return p.frame.O, p.frame.X, nil
		}
		if a.Line == sketch.YAxis {
			return p.frame.O, p.frame.Y, nil
		}
		for _, c := range p.solution.Curves {
			if c.ID == a.Line && c.Kind == sketch.KindLine {
				from, to := p.frame.Point(c.A.X, c.A.Y, 0), p.frame.Point(c.B.X, c.B.Y, 0)
				return from, to.Sub(from).Unit(), nil
			}
		}
		return zero, zero, because("name a line of the sketch", "the sketch has no line %q", a.Line)
	}
	switch a.Datum {
	case "X":
		return zero, solid.Vec{1, 0, 0}, nil
	case "Y":
		return zero, solid.Vec{0, 1, 0}, nil
	case "Z":
		return zero, solid.Vec{0, 0, 1}, nil
	}
	if a.Face != "" && w.state.solid != nil {
		face, err := w.state.solid.face(a.Face)
		if err != nil {
			return zero, zero, err
		}
		switch face.Kind {
		case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
			return face.Origin, face.Axis, nil
		}
		return zero, zero, because("choose a round face", "the face %q has no axis (%s)", a.Face, face.Kind)
	}
	return zero, zero, because("use the datum axis X, Y or Z, a round face or a line of the sketch", "its axis is not named")
}

// revolve turns regions about an axis: a full turn without an extent.
func (w *worker) revolve() error {
	op, err := w.operation()
	if err != nil {
		return err
	}
	p, profiles, entities, err := w.profiles()
	if err != nil {
		return err
	}
	origin, axis, err := w.axis(w.step.Axis, p)
	if err != nil {
		return err
	}
	if w.step.Reverse {
		axis = axis.Scale(-1)
	}
	from, to := 0.0, 2*math.Pi
	if e := w.step.Extent; e != nil {
		if e.Kind == "through" || e.Kind == "to-face" {
			return because("use one-side, symmetric or two-sides, with angles, or no extent for a full turn", "%q is not an extent of a revolution", e.Kind)
		}
		if from, to, err = w.span(e, quantity.Angle); err != nil {
			return err
		}
	}
	if to-from > 2*math.Pi+1e-9 {
		return because("a full turn is 360 deg", "the angle is more than a full turn")
	}
	turn := solid.Rotation(origin, axis, from)
	var tools []tool
	for i, prof := range profiles {
		if err := w.clearOfAxis(prof, origin, axis); err != nil {
			return err
		}
		f := prof.Frame
		prof.Frame = solid.Frame{O: turn.Apply(f.O), X: turn.Turn(f.X), Y: turn.Turn(f.Y), Z: turn.Turn(f.Z)}
		shape, h, err := w.kernel.Revolve(prof, origin, axis, to-from)
		if err != nil {
			return because("look for lines that cross the axis", "the profile makes no solid: %v", err)
		}
		body := carry(shape, h, nil, w.profileNamer(entities[i]))
		nameTurned(body, prof, origin, axis, func(e int) string { return w.step.ID + "/side:" + entities[i][e] })
		tools = append(tools, tool{op, body})
	}
	return w.apply(tools)
}

// clearOfAxis refuses a profile that lies on both sides of the axis.
func (w *worker) clearOfAxis(p solid.Profile, origin, axis solid.Vec) error {
	if math.Abs(axis.Dot(p.Frame.Z)) > 1e-9 {
		return because("choose an axis in the sketch plane", "the axis does not lie in the plane of the sketch")
	}
	side := axis.Cross(p.Frame.Z)
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, g := range p.Loops[0] {
		for _, q := range [][2]float64{g.A, g.B, g.Mid} {
			if g.Kind == "circle" {
				c := p.Frame.Point(g.Center[0], g.Center[1], 0).Sub(origin).Dot(side)
				lo, hi = math.Min(lo, c-g.Radius), math.Max(hi, c+g.Radius)
				continue
			}
			d := p.Frame.Point(q[0], q[1], 0).Sub(origin).Dot(side)
			if g.Kind == "line" && q == g.Mid {
				continue
			}
			lo, hi = math.Min(lo, d), math.Max(hi, d)
		}
	}
	if lo < -1e-6 && hi > 1e-6 {
		return because("draw half of the section, on one side of the axis", "the profile lies on both sides of the axis")
	}
	return nil
}

// hole drills at points of a sketch, against its normal unless reversed.
func (w *worker) hole() error {
	p, ok := w.state.sketches[w.step.Sketch]
	if !ok {
		return because("name a sketch that comes before this step", "there is no sketch %q", w.step.Sketch)
	}
	if w.state.solid == nil {
		return because("put the step after the one that makes the solid", "there is no solid yet to drill")
	}
	into := p.frame.Z.Scale(-1)
	if w.step.Reverse {
		into = p.frame.Z
	}
	d, err := w.positive("diameter", w.step.Diameter, quantity.Length)
	if err != nil {
		return err
	}
	box, err := w.bounds()
	if err != nil {
		return err
	}
	through := w.step.Extent == nil || w.step.Extent.Kind == "through"
	depth := reach(box, p.frame.O, into)
	if !through {
		if w.step.Extent.Kind != "one-side" {
			return because("use one-side with a length, or through", "a hole cannot have the extent %q", w.step.Extent.Kind)
		}
		if depth, err = w.positive("length", w.step.Extent.Length, quantity.Length); err != nil {
			return err
		}
	}
	loop, names, err := w.holeProfile(d/2, depth, through)
	if err != nil {
		return err
	}
	if len(w.step.At) == 0 {
		return because("name at least one point of the sketch", "it has no place")
	}
	var tools []tool
	for _, id := range w.step.At {
		c, ok := p.solution.Points[id]
		if !ok {
			return because("name a point of the sketch", "the sketch %s has no point %q", w.step.Sketch, id)
		}
		at := p.frame.Point(c.X, c.Y, 0)
		f := solid.Frame{O: at, X: p.frame.X, Y: into, Z: p.frame.X.Cross(into)}
		prof := solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}
		shape, h, err := w.kernel.Revolve(prof, at, into, 2*math.Pi)
		if err != nil {
			return because("", "the hole makes no solid: %v", err)
		}
		prefix := w.step.ID + "." + id + "/"
		name := func(edge int) string {
			if edge < len(names) && names[edge] != "" {
				return prefix + names[edge]
			}
			return ""
		}
		body := carry(shape, h, nil, func(src solid.Source) string {
			if src.Kind == solid.FromEdge {
				return name(src.Index)
			}
			return ""
		})
		nameTurned(body, prof, at, into, name)
		tools = append(tools, tool{solid.Difference, body})
	}
	return w.apply(tools)
}

// holeProfile is the half section of a hole: x is the radius, y the depth. The
// names are those of the faces that its edges make.
func (w *worker) holeProfile(r, depth float64, through bool) (loop []solid.Segment, names []string, err error) {
	at := [][2]float64{{0, 0}}
	add := func(x, y float64, name string) {
		at = append(at, [2]float64{x, y})
		names = append(names, name)
	}
	switch w.step.Form {
	case "", "plain":
		add(r, 0, "")
	case "counterbore", "countersink":
		hd, err := w.positive("headDiameter", w.step.HeadDiameter, quantity.Length)
		if err != nil {
			return nil, nil, err
		}
		if hd/2 <= r {
			return nil, nil, because("make the head larger than the hole", "the head's diameter %s is not larger than the hole's %s", quantity.FormatDecimal(hd, 3), quantity.FormatDecimal(2*r, 3))
		}
		add(hd/2, 0, "")
		if w.step.Form == "counterbore" {
			deep, err := w.positive("headDepth", w.step.HeadDepth, quantity.Length)
			if err != nil {
				return nil, nil, err
			}
			if deep >= depth {
				return nil, nil, because("make the head shallower", "the head is as deep as the hole")
			}
			add(hd/2, deep, "head")
			add(r, deep, "floor")
		} else {
			angle, err := w.positive("headAngle", w.step.HeadAngle, quantity.Angle)
			if err != nil {
				return nil, nil, err
			}
			deep := (hd/2 - r) / math.Tan(angle/2)
			if angle >= math.Pi || deep >= depth {
				return nil, nil, because("check the angle and the diameters", "the countersink is deeper than the hole")
			}
			add(r, deep, "sink")
		}
	default:
		return nil, nil, because("use plain, counterbore or countersink", "%q is not a form of hole", w.step.Form)
	}
	add(r, depth, "bore")
	if !through && w.step.TipAngle != "" {
		angle, err := w.positive("tipAngle", w.step.TipAngle, quantity.Angle)
		if err != nil {
			return nil, nil, err
		}
		add(0, depth+r/math.Tan(angle/2), "tip")
	} else {
		add(0, depth, "bottom")
	}
	names = append(names, "")
	for i := range at {
		loop = append(loop, solid.Segment{Kind: "line", A: at[i], B: at[(i+1)%len(at)]})
	}
	return loop, names, nil
}

// edgeBreak rounds or bevels edges.
func (w *worker) edgeBreak() error {
	base := w.state.solid
	if base == nil {
		return because("put the step after the one that makes the solid", "there is no solid yet")
	}
	box, err := w.bounds()
	if err != nil {
		return err
	}
	edges, err := base.edges(w.step.Edges, box)
	if err != nil {
		return err
	}
	if len(edges) == 0 {
		return because("name at least one edge", "it has no edges")
	}
	var shape solid.Shape
	var h solid.History
	word, size := "round", 0.0
	if w.step.Kind == "fillet" {
		if size, err = w.positive("radius", w.step.Radius, quantity.Length); err != nil {
			return err
		}
		shape, h, err = w.kernel.Fillet(base.Shape, edges, size)
	} else {
		word = "bevel"
		if size, err = w.positive("distance", w.step.Distance, quantity.Length); err != nil {
			return err
		}
		shape, h, err = w.kernel.Chamfer(base.Shape, edges, size)
	}
	if err != nil {
		var list []string
		for _, e := range edges {
			list = append(list, base.edgeName(e))
		}
		return because("try a smaller size, or fewer edges", "a %s of %s does not fit on %s (%v)", w.step.Kind, quantity.FormatDecimal(size/w.table.Unit().Factor, 4)+" "+w.table.Unit().Symbol, strings.Join(list, ", "), err)
	}
	w.state.solid = carry(shape, h, []*Named{base}, func(src solid.Source) string {
		switch src.Kind {
		case solid.FromEdge:
			return fmt.Sprintf("%s/%s(%s)", w.step.ID, word, base.edgeName(src.Index))
		case solid.FromVertex:
			return w.step.ID + "/corner"
		}
		return ""
	})
	return nil
}

// source lists the tools of the steps that a mirror or pattern repeats.
func (w *worker) source() ([]tool, error) {
	var out []tool
	for _, id := range w.step.Of {
		tools, ok := w.state.tools[id]
		if !ok {
			return nil, because("name extrude, revolve, hole, mirror or pattern steps that come before", "step %q makes no material that could be repeated", id)
		}
		out = append(out, tools...)
	}
	return out, nil
}

// copies moves tools and names the copies.
func (w *worker) copies(tools []tool, t solid.Transform, prefix string) ([]tool, error) {
	var out []tool
	for _, s := range tools {
		shape, h, err := w.kernel.Transform(s.body.Shape, t)
		if err != nil {
			return nil, err
		}
		out = append(out, tool{s.op, carry(shape, h, []*Named{s.body}, nil).renamed(prefix)})
	}
	return out, nil
}

func (w *worker) mirror() error {
	f, err := w.frame(w.step.Plane)
	if err != nil {
		return err
	}
	tools, err := w.source()
	if err != nil {
		return err
	}
	if len(w.step.Of) == 0 {
		if w.state.solid == nil {
			return because("put the step after the one that makes the solid", "there is nothing to mirror")
		}
		tools = []tool{{solid.Union, w.state.solid}}
	}
	list, err := w.copies(tools, solid.Reflection(f.O, f.Z), w.step.ID+":")
	if err != nil {
		return err
	}
	return w.apply(list)
}

// maxInstances bounds a pattern, against hostile documents.
const maxInstances = 500

func (w *worker) pattern() error {
	if len(w.step.Of) == 0 {
		return because("name the steps to repeat", "it repeats nothing")
	}
	tools, err := w.source()
	if err != nil {
		return err
	}
	count, err := w.value("count", w.step.Count, quantity.Number)
	if err != nil {
		return err
	}
	if count != math.Trunc(count) || count < 1 || count > maxInstances {
		return because(fmt.Sprintf("give a whole number from 1 to %d", maxInstances), "the count is %g", count)
	}
	origin, axis, err := w.axis(w.step.Axis, nil)
	if err != nil {
		return err
	}
	if w.step.Reverse {
		axis = axis.Scale(-1)
	}
	var move func(k int) solid.Transform
	if w.step.Kind == "linear-pattern" {
		spacing, err := w.positive("spacing", w.step.Spacing, quantity.Length)
		if err != nil {
			return err
		}
		move = func(k int) solid.Transform { return solid.Translation(axis.Scale(float64(k) * spacing)) }
	} else {
		total := 2 * math.Pi
		if w.step.Angle != "" {
			if total, err = w.positive("angle", w.step.Angle, quantity.Angle); err != nil {
				return err
			}
		}
		step := total / count
		if total < 2*math.Pi-1e-9 && count > 1 {
			step = total / (count - 1)
		}
		move = func(k int) solid.Transform { return solid.Rotation(origin, axis, float64(k)*step) }
	}
	var all []tool
	for k := 1; k < int(count); k++ {
		list, err := w.copies(tools, move(k), fmt.Sprintf("%s.%d:", w.step.ID, k+1))
		if err != nil {
			return err
		}
		all = append(all, list...)
	}
	w.state.tools[w.step.ID] = nil
	if len(all) == 0 {
		return nil
	}
	return w.apply(all)
}

// nameTurned names the flat faces of a full revolution, for which a kernel may
// keep no history: each is the one that the middle of a profile edge across the
// axis lies on.
func nameTurned(body *Named, prof solid.Profile, origin, axis solid.Vec, name func(edge int) string) {
	edges := body.Shape.Edges()
	index := 0
	for _, loop := range prof.Loops {
		for _, g := range loop {
			i := index
			index++
			if g.Kind != "line" {
				continue
			}
			mid := prof.Frame.Point((g.A[0]+g.B[0])/2, (g.A[1]+g.B[1])/2, 0)
			r, z := solid.FromAxis(mid, origin, axis).Norm(), mid.Sub(origin).Dot(axis)
			for k, f := range body.Shape.Faces() {
				if len(body.Names[k]) > 0 || f.Kind != solid.PlaneFace || math.Abs(f.Centroid.Sub(origin).Dot(axis)-z) > 1e-6 {
					continue
				}
				lo, hi := math.Inf(1), 0.0
				for _, e := range f.Edges {
					if edges[e].Kind == solid.CircleEdge {
						lo, hi = math.Min(lo, edges[e].Radius), math.Max(hi, edges[e].Radius)
					}
				}
				if lo == hi {
					lo = 0
				}
				if n := name(i); n != "" && r > lo && r < hi {
					body.Names[k] = []string{n}
				}
			}
		}
	}
}
