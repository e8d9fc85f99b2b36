package part

import (
	"fmt"
	"math"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// spot is a place for a hole: a frame whose Y axis points into the material.
type spot struct {
	id   string
	at   solid.Vec
	x    solid.Vec
	into solid.Vec
}

// hole drills against the normal of the sketch or face, unless reversed.
func (w *worker) hole() error {
	if len(w.state.bodies) == 0 {
		return because("put the step after the one that makes the solid", "there is no solid yet to drill")
	}
	spots, err := w.spots()
	if err != nil {
		return err
	}
	d, err := w.drill()
	if err != nil {
		return err
	}
	box, err := w.bounds()
	if err != nil {
		return err
	}
	next := w.step.Extent != nil && w.step.Extent.Kind == "to-next" // through the first wall, and no further
	through := w.step.Extent == nil || w.step.Extent.Kind == "through" || next
	var deeds []deed
	for _, s := range spots {
		depth := reach(box, s.at, s.into)
		if !through {
			if w.step.Extent.Kind != "one-side" {
				return because("use one-side with a length, through or to-next", "a hole cannot have the extent %q", w.step.Extent.Kind)
			}
			if depth, err = w.positive("length", w.step.Extent.Length, quantity.Length); err != nil {
				return err
			}
		}
		loop, names, err := w.holeProfile(d/2, depth, through)
		if err != nil {
			return err
		}
		f := solid.Frame{O: s.at, X: s.x, Y: s.into, Z: s.x.Cross(s.into)}
		prefix := w.step.ID + "." + s.id + "/"
		name := func(edge int) string {
			if edge < len(names) && names[edge] != "" {
				return prefix + names[edge]
			}
			return ""
		}
		body, err := w.turned(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, s.at, s.into, 2*math.Pi, func(src solid.Source) string {
			if src.Kind == solid.FromEdge {
				return name(src.Index)
			}
			return ""
		}, name)
		if err != nil {
			return because("", "the hole makes no solid: %v", err)
		}
		if next {
			if body, err = w.toNext(body, s.at, s.into, depth, true); err != nil {
				return err
			}
		}
		deeds = append(deeds, deed{op: solid.Difference, body: body, on: w.step.Solids})
	}
	switch s := spots[0]; {
	case strings.TrimSpace(w.step.Diameter) != "":
		w.pulled("diameter", s.at.Add(s.x.Scale(d/2)), s.x, 2)
	case !through:
		depth, err := w.positive("length", w.step.Extent.Length, quantity.Length)
		if err != nil {
			return err
		}
		w.pulled("extent.length", s.at.Add(s.into.Scale(depth)), s.into, 1)
	}
	if err := w.apply(deeds); err != nil {
		return err
	}
	if !through && w.report.Warning == "" {
		w.hintThrough("/bottom", "/tip")
	}
	if w.step.Form == "tapped" {
		t, err := standards.MetricThread(w.step.Thread)
		if err != nil {
			return err
		}
		for _, s := range spots {
			n := Note{Step: w.step.ID, Kind: "thread", Face: w.step.ID + "." + s.id + "/bore", Text: t.Name, At: s.at, Normal: s.into.Scale(-1), Radius: d / 2, Size: t.Major}
			if !through {
				if n.Length, err = w.positive("length", w.step.Extent.Length, quantity.Length); err != nil {
					return err
				}
			}
			w.state.notes = append(w.state.notes, n)
		}
	}
	return nil
}

// drill is the diameter of the hole: as typed, the clearance of ISO 273 for a
// thread, or the drill before tapping it.
func (w *worker) drill() (float64, error) {
	if strings.TrimSpace(w.step.Diameter) != "" || w.step.Thread == "" {
		return w.positive("diameter", w.step.Diameter, quantity.Length)
	}
	t, err := standards.MetricThread(w.step.Thread)
	if err != nil {
		return 0, because("choose a thread of the table or type the diameter", "%v", err)
	}
	if w.step.Form == "tapped" {
		return t.TapDrill(), nil
	}
	d, err := t.Clearance(w.step.Fit)
	if err != nil {
		return 0, because("", "%v", err)
	}
	return d, nil
}

// head gives a size of the hole's head: as typed, else from the table of its
// thread.
func (w *worker) head(role, formula string, table func(standards.Thread) float64) (float64, error) {
	if strings.TrimSpace(formula) == "" && w.step.Thread != "" {
		t, err := standards.MetricThread(w.step.Thread)
		if err != nil {
			return 0, because("choose a thread of the table or type the sizes", "%v", err)
		}
		if v := table(t); v > 0 {
			return v, nil
		}
		return 0, because("type it", "the table has no %s for %s", role, t.Name)
	}
	return w.positive(role, formula, quantity.Length)
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
	case "", "plain", "tapped":
		add(r, 0, "")
	case "counterbore", "spotface":
		hd, err := w.head("headDiameter", w.step.HeadDiameter, func(t standards.Thread) float64 { return t.Counterbore })
		if err != nil {
			return nil, nil, err
		}
		if err := wider(hd/2, r); err != nil {
			return nil, nil, err
		}
		deep, err := w.head("headDepth", w.step.HeadDepth, func(t standards.Thread) float64 {
			if w.step.Form == "spotface" {
				return 0 // only as deep as the face needs
			}
			return t.Major // the height of the head, ISO 4762
		})
		if err != nil {
			return nil, nil, err
		}
		if deep >= depth {
			return nil, nil, because("make the head shallower", "the head is as deep as the hole")
		}
		add(hd/2, 0, "")
		add(hd/2, deep, "head")
		add(r, deep, "floor")
	case "countersink":
		hd, err := w.head("headDiameter", w.step.HeadDiameter, func(t standards.Thread) float64 { return t.FlatHead })
		if err != nil {
			return nil, nil, err
		}
		if err := wider(hd/2, r); err != nil {
			return nil, nil, err
		}
		angle := math.Pi / 2 // ISO 10642
		if w.step.HeadAngle != "" || w.step.Thread == "" {
			if angle, err = w.positive("headAngle", w.step.HeadAngle, quantity.Angle); err != nil {
				return nil, nil, err
			}
		}
		deep := (hd/2 - r) / math.Tan(angle/2)
		if angle >= math.Pi || deep >= depth {
			return nil, nil, because("check the angle and the diameters", "the countersink is deeper than the hole")
		}
		add(hd/2, 0, "")
		add(r, deep, "sink")
	default:
		return nil, nil, because("use plain, counterbore, countersink, spotface or tapped", "%q is not a form of hole", w.step.Form)
	}
	add(r, depth, "bore")
	if !through && w.step.TipAngle != "" {
		angle, err := w.positive("tipAngle", w.step.TipAngle, quantity.Angle)
		if err != nil {
			return nil, nil, err
		}
		if angle >= math.Pi {
			return nil, nil, because("give an angle below 180 deg, or none for a flat bottom", "the tip has no point")
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

func wider(head, r float64) error {
	if head <= r {
		return because("make the head larger than the hole", "the head's diameter %s is not larger than the hole's %s", quantity.FormatDecimal(2*head, 3), quantity.FormatDecimal(2*r, 3))
	}
	return nil
}

// spots are the places of the step's holes.
func (w *worker) spots() ([]spot, error) {
	if w.step.Place != nil {
		return w.onFace(w.step.Place)
	}
	if w.step.Sketch == "" {
		return nil, because("choose a sketch with points, or a flat face", "it has no place")
	}
	p, err := w.placedSketch(w.step.Sketch)
	if err != nil {
		return nil, err
	}
	into := p.frame.Z.Scale(-1)
	if w.step.Reverse {
		into = p.frame.Z
	}
	if len(w.step.At) == 0 {
		return nil, because("name at least one point of the sketch", "it has no place")
	}
	var out []spot
	for _, id := range w.step.At {
		c, ok := p.solution.Points[id]
		if !ok {
			return nil, because("name a point of the sketch", "the sketch %s has no point %q", w.step.Sketch, id)
		}
		out = append(out, spot{id, p.frame.Point(c.X, c.Y, 0), p.frame.X, into})
	}
	return out, nil
}

// onFace places holes on a flat face.
func (w *worker) onFace(p *Place) ([]spot, error) {
	face, err := w.flat(p.Face)
	if err != nil {
		return nil, err
	}
	f := solid.Plane(face.Centroid, face.Normal)
	into := f.Z.Scale(-1)
	drop := func(v solid.Vec) solid.Vec { return v.Sub(f.Z.Scale(v.Sub(f.O).Dot(f.Z))) }
	center := func(ref EdgeRef) (solid.Vec, error) {
		e, err := w.oneEdge(ref)
		if err != nil {
			return solid.Vec{}, err
		}
		if e.Kind != solid.CircleEdge {
			return solid.Vec{}, because("choose a round edge", "the edge has no centre")
		}
		return drop(e.Center), nil
	}
	var out []spot
	add := func(at solid.Vec) { out = append(out, spot{fmt.Sprint(len(out) + 1), at, f.X, into}) }
	switch {
	case p.From != nil:
		var o, d [2]solid.Vec // a point on each of two lines, and its direction
		for i, a := range p.From {
			e, err := w.oneEdge(a.Edge)
			if err != nil {
				return nil, err
			}
			if e.Kind != solid.LineEdge {
				return nil, because("choose a straight edge", "a distance is given from a straight edge")
			}
			by, err := w.positive("distance", a.Distance, quantity.Length)
			if err != nil {
				return nil, err
			}
			d[i] = e.B.Sub(e.A).Unit()
			n := f.Z.Cross(d[i]).Unit()
			if face.Centroid.Sub(e.A).Dot(n) < 0 {
				n = n.Scale(-1) // into the face
			}
			o[i] = drop(e.A.Add(n.Scale(by)))
		}
		x := d[0].Cross(d[1]).Dot(f.Z)
		if math.Abs(x) < 1e-9 {
			return nil, because("choose two edges that are not parallel", "the two edges do not give a place")
		}
		add(o[0].Add(d[0].Scale(o[1].Sub(o[0]).Cross(d[1]).Dot(f.Z) / x)))
	case p.Circle != nil:
		c, err := center(p.Circle.About)
		if err != nil {
			return nil, err
		}
		dia, err := w.positive("diameter of the bolt circle", p.Circle.Diameter, quantity.Length)
		if err != nil {
			return nil, err
		}
		n, err := w.count("count", p.Circle.Count)
		if err != nil {
			return nil, err
		}
		start := 0.0
		if p.Circle.Start != "" {
			if start, err = w.value("start", p.Circle.Start, quantity.Angle); err != nil {
				return nil, err
			}
		}
		for k := range n {
			s, co := math.Sincos(start + 2*math.Pi*float64(k)/float64(n))
			add(c.Add(f.X.Scale(dia / 2 * co)).Add(f.Y.Scale(dia / 2 * s)))
		}
	default:
		if len(p.Centered) == 0 {
			return nil, because("give distances from two edges, a bolt circle, or round edges", "it has no place")
		}
		for _, ref := range p.Centered {
			c, err := center(ref)
			if err != nil {
				return nil, err
			}
			add(c)
		}
	}
	return out, nil
}

// slot mills along straight lines and arcs of a sketch, with round ends.
func (w *worker) slot() error {
	p, err := w.placedSketch(w.step.Sketch)
	if err != nil {
		return err
	}
	if len(w.state.bodies) == 0 {
		return because("put the step after the one that makes the solid", "there is no solid yet to mill")
	}
	width, err := w.positive("width", w.step.Width, quantity.Length)
	if err != nil {
		return err
	}
	if len(w.step.At) == 0 {
		return because("name the middle line of the slot", "it has no place")
	}
	into := p.frame.Z.Scale(-1)
	if w.step.Reverse {
		into = p.frame.Z
	}
	box, err := w.bounds()
	if err != nil {
		return err
	}
	from, depth := 0.0, reach(box, p.frame.O, into)
	behind := reach(box, p.frame.O, into.Scale(-1))
	switch e := w.step.Extent; {
	case e == nil || e.Kind == "through":
		if e != nil && e.Both {
			from = -behind
		} else if beyond(box, p.frame.O, into.Scale(-1)) > 1e-6 && beyond(box, p.frame.O, into) > 1e-6 {
			w.report.Hint = &Hint{FindOneSide, "it goes through from the sketch on one side only, and the part reaches beyond the sketch on the other", "choose through on both sides where it should go through all"}
		}
	case e.Kind == "one-side" || e.Kind == "symmetric" || e.Kind == "two-sides":
		if from, depth, err = w.span(e, quantity.Length); err != nil {
			return err
		}
	default:
		return because("use one-side, symmetric, two-sides or through", "a slot cannot have the extent %q", e.Kind)
	}
	frame := p.frame
	frame.O = frame.O.Add(into.Scale(from))
	var deeds []deed
	for _, id := range w.step.At {
		r := &run{}
		for _, c := range p.solution.Curves {
			if c.ID == id {
				r.curves, r.forward = append(r.curves, c), []bool{true}
			}
		}
		if len(r.curves) == 0 {
			return because("name a line or arc of the sketch", "the sketch %s has no line %q", w.step.Sketch, id)
		}
		left, err := r.offset(width / 2)
		if err != nil {
			return err
		}
		right, err := r.offset(-width / 2)
		if err != nil {
			return err
		}
		if len(deeds) == 0 {
			c := &left.curves[0]
			lo, hi := c.Range()
			m := c.Point((lo + hi) / 2)
			out := r.curves[0].Tangent((lo + hi) / 2).Unit().Left()
			w.pulled("width", p.frame.Point(m.X, m.Y, 0), p.frame.X.Scale(out.X).Add(p.frame.Y.Scale(out.Y)), 2)
		}
		right.reverse()
		ls, _ := left.segments()
		rs, _ := right.segments()
		cap := func(at, dir [2]float64, a, b [2]float64) solid.Segment {
			return solid.Segment{Kind: "arc", A: a, B: b, Mid: [2]float64{at[0] + dir[0]*width/2, at[1] + dir[1]*width/2}, Center: at, Radius: width / 2}
		}
		t0, t1 := r.tangent(0, false).Unit(), r.tangent(0, true).Unit()
		a, b := r.at(0, false), r.at(0, true)
		loop := []solid.Segment{ls[0], cap(pair(b), pair(t1), ls[0].B, rs[0].A), rs[0], cap(pair(a), pair(t0.Scale(-1)), rs[0].B, ls[0].A)}
		names := []string{"left", "last", "right", "first"}
		shape, h, err := w.kernel.Prism(solid.Profile{Frame: frame, Loops: [][]solid.Segment{loop}}, into.Scale(depth-from))
		if err != nil {
			return because("", "the slot makes no solid: %v", err)
		}
		prefix := w.step.ID + "." + id + "/"
		deeds = append(deeds, deed{op: solid.Difference, on: w.step.Solids, body: carry(shape, h, nil, func(src solid.Source) string {
			switch src.Kind {
			case solid.FromEdge:
				return prefix + names[src.Index]
			case solid.CapEnd:
				return prefix + "floor"
			}
			return ""
		})})
	}
	return w.apply(deeds)
}

// keyway mills a keyway into a shaft or a hub: the face says which. Width and depth
// are typed or those of DIN 6885-1 for the diameter.
func (w *worker) keyway() error {
	if len(w.step.Faces) != 2 {
		return because("name the round face and the flat face that it is measured from", "a keyway needs two faces, and it has %d", len(w.step.Faces))
	}
	round, err := w.face(w.step.Faces[0])
	if err != nil {
		return err
	}
	if round.Kind != solid.CylinderFace {
		return because("choose a cylinder", "the face %q is %s", w.step.Faces[0], round.Kind)
	}
	end, err := w.flat(w.step.Faces[1])
	if err != nil {
		return err
	}
	if !end.Normal.Parallel(round.Axis, 1e-6) {
		return because("choose a flat face square to the axis", "the face %q is not square to the axis", w.step.Faces[1])
	}
	var width, depth float64
	if w.step.Width == "" || w.step.Depth == "" {
		k, err := standards.ParallelKey(2 * round.Radius)
		if err != nil {
			return because("type the width and depth", "%v", err)
		}
		width, depth = k.Width, k.Shaft
		if round.Hollow {
			depth = k.Hub
		}
	}
	if w.step.Width != "" {
		if width, err = w.positive("width", w.step.Width, quantity.Length); err != nil {
			return err
		}
	}
	if w.step.Depth != "" {
		if depth, err = w.positive("depth", w.step.Depth, quantity.Length); err != nil {
			return err
		}
	}
	if width >= 2*round.Radius || !round.Hollow && depth >= round.Radius {
		return because("make it narrower or shallower", "the keyway is wider or deeper than the shaft")
	}
	box, err := w.bounds()
	if err != nil {
		return err
	}
	// The frame stands on the axis at the flat face: X along the axis into the part,
	// Z towards the keyway.
	x := end.Normal.Scale(-1)
	start := round.Origin.Add(x.Scale(end.Centroid.Sub(round.Origin).Dot(x)))
	z := solid.Plane(start, x).Y
	if w.step.Angle != "" {
		a, err := w.value("angle", w.step.Angle, quantity.Angle)
		if err != nil {
			return err
		}
		z = solid.Rotation(start, sense(round.Axis), a).Turn(z)
	}
	off, length := 0.0, reach(box, start, x)
	if w.step.Offset != "" {
		if off, err = w.length("offset", w.step.Offset); err != nil {
			return err
		}
	}
	if w.step.Length != "" {
		if length, err = w.positive("length", w.step.Length, quantity.Length); err != nil {
			return err
		}
	}
	lo, hi := off, off+length
	if w.step.Offset == "" {
		lo = -1 // open at the end
		if w.step.Length == "" {
			hi = length
		}
	}
	if w.step.Length != "" {
		w.pulled("length", start.Add(x.Scale(hi)).Add(z.Scale(round.Radius)), x, 1)
	}
	h := width / 2
	loop := polygon(solid.Frame{}, [][2]float64{{lo, -h}, {hi, -h}, {hi, h}, {lo, h}}).Loops[0]
	names := []string{"left", "far", "right", "near"}
	if w.step.Form == "rounded" {
		if hi-lo <= width {
			return because("make it longer than wide", "a keyway with round ends is longer than wide")
		}
		arc := func(x, sign float64, a, b [2]float64) solid.Segment {
			return solid.Segment{Kind: "arc", A: a, B: b, Mid: [2]float64{x + sign*h, 0}, Center: [2]float64{x, 0}, Radius: h}
		}
		l, r := lo+h, hi-h
		loop = []solid.Segment{{Kind: "line", A: [2]float64{l, -h}, B: [2]float64{r, -h}}, arc(r, 1, [2]float64{r, -h}, [2]float64{r, h}),
			{Kind: "line", A: [2]float64{r, h}, B: [2]float64{l, h}}, arc(l, -1, [2]float64{l, h}, [2]float64{l, -h})}
	} else if w.step.Form != "" && w.step.Form != "square" {
		return because("use rounded or square", "%q is not a form of keyway", w.step.Form)
	}
	// In a shaft the keyway goes down from the surface, its depth measured at the
	// crown; in a hub it goes up from the axis.
	bottom, top := round.Radius-depth, round.Radius+1
	floor := solid.CapStart
	if round.Hollow {
		bottom, top = 0, round.Radius+depth
		floor = solid.CapEnd
	}
	f := solid.Frame{O: start.Add(z.Scale(bottom)), X: x, Y: z.Cross(x), Z: z}
	shape, hist, err := w.kernel.Prism(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, z.Scale(top-bottom))
	if err != nil {
		return because("", "the keyway makes no solid: %v", err)
	}
	body := carry(shape, hist, nil, func(src solid.Source) string {
		switch src.Kind {
		case solid.FromEdge:
			return w.step.ID + "/" + names[src.Index]
		case floor:
			return w.step.ID + "/floor"
		}
		return ""
	})
	return w.apply([]deed{{op: solid.Difference, body: body, on: w.step.Solids}})
}

// thread fills in a cosmetic thread on a round face: its size must go with the
// diameter, the major one outside, the drill inside.
func (w *worker) thread(n *Note, face solid.Face) error {
	if face.Kind != solid.CylinderFace {
		return because("choose a cylinder", "a thread runs on a cylinder, and %q is %s", n.Face, face.Kind)
	}
	t, err := standards.MetricThread(w.step.Thread)
	if err != nil {
		return because("", "%v", err)
	}
	n.Text, n.Size = t.Name, t.Major
	want := t.Major
	if face.Hollow {
		want = t.TapDrill()
	}
	if math.Abs(2*face.Radius-want) > 0.3 {
		w.report.Warning = fmt.Sprintf("%s needs a diameter of %s mm here, and the face has %s mm", t.Name, quantity.FormatDecimal(want, 2), quantity.FormatDecimal(2*face.Radius, 2))
	}
	if w.step.Length != "" {
		if n.Length, err = w.positive("length", w.step.Length, quantity.Length); err != nil {
			return err
		}
	}
	n.Normal, n.At = face.Axis, face.Centroid
	return nil
}
