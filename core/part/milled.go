package part

import (
	"slices"

	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// What an end mill leaves: slots along lines with round ends, and keyways for
// parallel keys (DIN 6885-1).

// Slot mills along straight lines and arcs of a sketch, with round ends.
type Slot struct {
	Sketch  string   `json:"sketch,omitempty"`
	At      []string `json:"at,omitempty"`
	Width   string   `json:"width,omitempty"`
	Extent  *Extent  `json:"extent,omitempty"`
	Reverse bool     `json:"reverse,omitempty"`
	Solids  []string `json:"solids,omitempty"`
}

// The middle lines are asked and not an outline, because the width is the size
// that a drawing gives: it is one number and cannot be drawn in two unequal
// halves.
func slotKind() *Kind {
	return &Kind{
		Name: "slot", Title: "Slot", What: "milled along lines of a sketch, round at the ends", Group: "material",
		Letter: "t", Main: "width",
		New: func() Operation { return &Slot{} }, Feature: true, Repeats: true,
		Fields: slices.Concat([]Field{sketchField(), {Path: "at", Label: "Middle lines", Kind: asLines},
			{Path: "width", Label: "Width", Kind: asLength},
			{Path: "extent.kind", Label: "Depth", Kind: asChoice, Options: []string{"through", "one-side", "symmetric",
				"two-sides"}, Default: "through"}}, spanFields(asLength),
			[]Field{{Path: "extent.both", Label: "Through on both sides", Kind: asFlag, When: "extent.kind=through"},
				reverseField(), solidsField()}),
	}
}

// The width has no table: there is none for slots.
func (do *Slot) visit(v *visitor) {
	v.length("width", "width", &do.Width)
	v.steps(do.Sketch)
	v.extent(do.Extent)
	v.solids(do.Solids...)
}

// run mills along lines and arcs of a sketch: the outline is the line with half
// circles at its ends, as a cutter leaves it, thrown into the material.
//
// Each line gives a slot with faces named by the line. Slots that cross make one
// opening, and each keeps the names of what is left of its walls.
func (do *Slot) run(w *worker) error {
	p, err := w.placedSketch(do.Sketch)
	if err != nil {
		return err
	}
	if len(w.state.bodies) == 0 {
		return because("put the step after the one that makes the solid", "there is no solid yet to mill")
	}
	width, err := w.positive("width", do.Width, quantity.Length)
	if err != nil {
		return err
	}
	if len(do.At) == 0 {
		return because("name the middle line of the slot", "it has no place")
	}
	into := p.frame.Z.Scale(-1)
	if do.Reverse {
		into = p.frame.Z
	}
	from, depth, err := do.span(w, p.frame.O, into)
	if err != nil {
		return err
	}
	frame := p.frame
	frame.O = frame.O.Add(into.Scale(from))
	var deeds []deed
	for _, id := range do.At {
		loop, err := do.outline(w, p, id, width, len(deeds) == 0)
		if err != nil {
			return err
		}
		body := solid.Profile{Frame: frame, Loops: [][]solid.Segment{loop}}
		shape, h, err := w.kernel.Prism(body, into.Scale(depth-from))
		if err != nil {
			return because("", "the slot makes no solid: %v", err)
		}
		names := []string{"left", "last", "right", "first"}
		prefix := w.step.ID + "." + id + "/"
		deeds = append(deeds, deed{op: solid.Difference, on: do.Solids,
			body: carry(shape, h, nil, func(src solid.Source) string {
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

// span is where the slot begins and how deep it goes, along into from its sketch.
//
// Through counts from the sketch on, as the one who looks at the sketch sees it.
// If there is material behind the sketch too, which stays, a hint says so: it is
// often a sketch in the middle of the part that was meant to be cut to both
// sides.
func (do *Slot) span(w *worker, origin, into solid.Vec) (from, depth float64, err error) {
	e := do.Extent
	if e != nil && e.Kind != "through" {
		if e.Kind != "one-side" && e.Kind != "symmetric" && e.Kind != "two-sides" {
			return 0, 0, because("use one-side, symmetric, two-sides or through", "a slot cannot have the extent %q", e.Kind)
		}
		return w.span(e, quantity.Length)
	}
	box, err := w.bounds()
	if err != nil {
		return 0, 0, err
	}
	depth = reach(box, origin, into)
	behind := into.Scale(-1)
	switch {
	case e != nil && e.Both:
		from = -reach(box, origin, behind)
	case beyond(box, origin, behind) > 1e-6 && beyond(box, origin, into) > 1e-6:
		w.report.Hint = &Hint{FindOneSide,
			"it goes through from the sketch on one side only, and the part reaches beyond the sketch on the other",
			"choose through on both sides where it should go through all"}
	}
	return from, depth, nil
}

// outline runs around a slot along a line of a sketch, round at the ends. first gives the step its
// handle there.
//
// The sides are the line moved to both sides by half the width. The ends are
// half circles about its ends, tangent to both sides because the sides are at
// right angles to the end of the line there.
func (do *Slot) outline(w *worker, p *placed, id string, width float64, first bool) ([]solid.Segment, error) {
	r := &run{}
	for _, c := range p.solution.Curves {
		if c.ID == id {
			r.curves, r.forward = append(r.curves, c), []bool{true}
		}
	}
	if len(r.curves) == 0 {
		return nil, because("choose the lines again", "a line or arc is not in %s any more", calledStep(do.Sketch))
	}
	left, err := r.offset(width/2, p.call)
	if err != nil {
		return nil, err
	}
	right, err := r.offset(-width/2, p.call)
	if err != nil {
		return nil, err
	}
	if first {
		c := &left.curves[0]
		lo, hi := c.Range()
		m := c.Point((lo + hi) / 2)
		out := r.curves[0].Tangent((lo + hi) / 2).Unit().Left()
		w.pulled("width", p.frame.Point(m.X, m.Y, 0), p.frame.X.Scale(out.X).Add(p.frame.Y.Scale(out.Y)), 2)
	}
	right.reverse()
	ls, _ := left.segments()
	rs, _ := right.segments()
	end := func(at, dir [2]float64, a, b [2]float64) solid.Segment {
		mid := [2]float64{at[0] + dir[0]*width/2, at[1] + dir[1]*width/2}
		return solid.Segment{Kind: "arc", A: a, B: b, Mid: mid, Center: at, Radius: width / 2}
	}
	t0, t1 := r.tangent(0, false).Unit(), r.tangent(0, true).Unit()
	a, b := r.at(0, false), r.at(0, true)
	return []solid.Segment{ls[0], end(pair(b), pair(t1), ls[0].B, rs[0].A),
		rs[0], end(pair(a), pair(t0.Scale(-1)), rs[0].B, ls[0].A)}, nil
}

// Keyway mills a keyway into a shaft or a hub: the face says which. Width and depth
// are typed or those of DIN 6885-1 for the diameter.
type Keyway struct {
	Faces  []string `json:"faces,omitempty"` // the round one, then the flat one
	Form   string   `json:"form,omitempty"`
	Width  string   `json:"width,omitempty"`
	Depth  string   `json:"depth,omitempty"`
	Length string   `json:"length,omitempty"`
	Offset string   `json:"offset,omitempty"`
	Angle  string   `json:"angle,omitempty"`
	Solids []string `json:"solids,omitempty"`
}

// The flat face gives the frame: how far along the shaft, and where around it
// the angle counts from.
func keywayKind() *Kind {
	return &Kind{
		Name: "keyway", Title: "Keyway", What: "in a shaft or a hub, DIN 6885-1 or typed", Group: "material", Letter: "k",
		Main: "length",
		New:  func() Operation { return &Keyway{} }, Feature: true, Repeats: true,
		Fields: []Field{{Path: "faces", Label: "Round face, then flat face", Kind: asFaces},
			{Path: "form", Label: "Ends", Kind: asChoice, Options: []string{"square", "rounded"}, Default: "square"},
			optional(Field{Path: "offset", Label: "Away from the flat face", Kind: asLength, Hint: "open at the end " +
				"when empty"}), optional(Field{Path: "length", Label: "Length", Kind: asLength, Hint: "all the way when empty"}),
			optional(Field{Path: "width", Label: "Width", Kind: asLength, Hint: "by the diameter when empty"}),
			optional(Field{Path: "depth", Label: "Depth", Kind: asLength, Hint: "by the diameter when empty"}),
			optional(Field{Path: "angle", Label: "Turned by", Kind: asAngle}), solidsField()},
	}
}

// Width and depth may be empty and come from the table then.
func (do *Keyway) visit(v *visitor) {
	v.angle("angle", "angle", &do.Angle)
	v.length("width", "width", &do.Width)
	v.length("depth", "depth", &do.Depth)
	v.length("length", "length", &do.Length)
	v.length("offset", "offset", &do.Offset)
	v.faces(do.Faces...)
	v.solids(do.Solids...)
}

// run cuts a keyway into a shaft or a hub. The depth of a shaft's is measured
// from the crown down, that of a hub's from the bore's crown outwards, as the
// tables have t1 and t2 (DIN 6885-1).
//
// It is pushed as a block from the floor outwards, past the surface by 1 mm, so
// that no face of the block coincides with the round one, where a boolean
// operation would have to decide what is on which side.
func (do *Keyway) run(w *worker) error {
	round, end, err := do.seat(w)
	if err != nil {
		return err
	}
	width, depth, err := do.section(w, round)
	if err != nil {
		return err
	}
	// The frame stands on the axis at the flat face: X along the axis into the part,
	// Z towards the keyway.
	x := end.Normal.Scale(-1)
	start := round.Origin.Add(x.Scale(end.Centroid.Sub(round.Origin).Dot(x)))
	z := solid.Plane(start, x).Y
	if do.Angle != "" {
		a, err := w.value("angle", do.Angle, quantity.Angle)
		if err != nil {
			return err
		}
		z = solid.Rotation(start, sense(round.Axis), a).Turn(z)
	}
	lo, hi, err := do.span(w, start, x)
	if err != nil {
		return err
	}
	if do.Length != "" {
		w.pulled("length", start.Add(x.Scale(hi)).Add(z.Scale(round.Radius)), x, 1)
	}
	loop, err := do.outline(lo, hi, width)
	if err != nil {
		return err
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
	names := []string{"left", "far", "right", "near"}
	body := carry(shape, hist, nil, func(src solid.Source) string {
		switch src.Kind {
		case solid.FromEdge:
			return w.step.ID + "/" + names[src.Index]
		case floor:
			return w.step.ID + "/floor"
		}
		return ""
	})
	return w.apply([]deed{{op: solid.Difference, body: body, on: do.Solids}})
}

// seat gives the round face that the keyway is in, and the flat one that it is measured from.
//
// Whether it is a shaft or a hub is told by the side of the cylinder on which
// the material lies, and needs no question.
func (do *Keyway) seat(w *worker) (round, end solid.Face, err error) {
	if len(do.Faces) != 2 {
		err = because("name the round face and the flat face that it is measured from",
			"a keyway needs two faces, and it has %d", len(do.Faces))
		return round, end, err
	}
	if round, err = w.face(do.Faces[0]); err != nil {
		return round, end, err
	}
	if round.Kind != solid.CylinderFace {
		return round, end, because("choose a cylinder", "the %s is a %s", calledFace(do.Faces[0]), round.Kind)
	}
	if end, err = w.flat(do.Faces[1]); err == nil && !end.Normal.Parallel(round.Axis, 1e-6) {
		err = because("choose a flat face square to the axis", "the %s is not square to the axis", calledFace(do.Faces[1]))
	}
	return round, end, err
}

// section is the width and depth: as typed, else by the table for the diameter.
//
// The table has ranges of diameters (over 22 up to 30 mm: 8 x 7). A diameter on
// the border belongs to the smaller key, as the standard has it.
func (do *Keyway) section(w *worker, round solid.Face) (width, depth float64, err error) {
	if do.Width == "" || do.Depth == "" {
		k, err := standards.ParallelKey(2 * round.Radius)
		if err != nil {
			return 0, 0, because("type the width and depth", "%v", err)
		}
		width, depth = k.Width, k.Shaft
		if round.Hollow {
			depth = k.Hub
		}
	}
	if do.Width != "" {
		if width, err = w.positive("width", do.Width, quantity.Length); err != nil {
			return 0, 0, err
		}
	}
	if do.Depth != "" {
		if depth, err = w.positive("depth", do.Depth, quantity.Length); err != nil {
			return 0, 0, err
		}
	}
	if width >= 2*round.Radius || !round.Hollow && depth >= round.Radius {
		err = because("make it narrower or shallower", "the keyway is wider or deeper than the shaft")
	}
	return width, depth, err
}

// span is where the keyway begins and ends along x, from the flat face: open at the face without an
// offset, and all the way without a length.
//
// Open at the face means that the block begins 1 mm before it.
func (do *Keyway) span(w *worker, start, x solid.Vec) (lo, hi float64, err error) {
	box, err := w.bounds()
	if err != nil {
		return 0, 0, err
	}
	length := reach(box, start, x)
	if do.Offset != "" {
		if lo, err = w.length("offset", do.Offset); err != nil {
			return 0, 0, err
		}
	}
	if do.Length != "" {
		if length, err = w.positive("length", do.Length, quantity.Length); err != nil {
			return 0, 0, err
		}
	}
	hi = lo + length
	if do.Offset == "" {
		lo = -1
	}
	return lo, hi, nil
}

// outline runs around the keyway, seen from above.
//
// A rounded keyway is milled with an end mill of its width, and is as long as
// its key.
func (do *Keyway) outline(lo, hi, width float64) ([]solid.Segment, error) {
	h := width / 2
	switch do.Form {
	case "", "square":
		return polygon(solid.Frame{}, [][2]float64{{lo, -h}, {hi, -h}, {hi, h}, {lo, h}}).Loops[0], nil
	case "rounded":
	default:
		return nil, because("use rounded or square", "%q is not a form of keyway", do.Form)
	}
	if hi-lo <= width {
		return nil, because("make it longer than wide", "a keyway with round ends is longer than wide")
	}
	arc := func(x, sign float64, a, b [2]float64) solid.Segment {
		return solid.Segment{Kind: "arc", A: a, B: b, Mid: [2]float64{x + sign*h, 0}, Center: [2]float64{x, 0}, Radius: h}
	}
	l, r := lo+h, hi-h
	return []solid.Segment{{Kind: "line", A: [2]float64{l, -h}, B: [2]float64{r, -h}},
		arc(r, 1, [2]float64{r, -h}, [2]float64{r, h}),
		{Kind: "line", A: [2]float64{r, h}, B: [2]float64{l, h}}, arc(l, -1, [2]float64{l, h}, [2]float64{l, -h})}, nil
}
