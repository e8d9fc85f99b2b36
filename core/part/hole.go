package part

import (
	"fmt"
	"math"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// A hole is a turned body that is taken away, and not a circle pushed through:
// so heads, tips and bores are faces of one step with names of their own, and
// the checker can ask each for its size.

// spot is a place for a hole: a frame whose Y axis points into the material.
type spot struct {
	id   string
	at   solid.Vec
	x    solid.Vec
	into solid.Vec
}

// Hole drills against the normal of the sketch or face, unless reversed: at points of a sketch, or
// at a place on a flat face.
type Hole struct {
	Form         string   `json:"form,omitempty"`
	Sketch       string   `json:"sketch,omitempty"`
	At           []string `json:"at,omitempty"`
	Place        *Place   `json:"place,omitempty"`
	Thread       string   `json:"thread,omitempty"`
	Fit          string   `json:"fit,omitempty"`
	Diameter     string   `json:"diameter,omitempty"`
	HeadDiameter string   `json:"headDiameter,omitempty"`
	HeadDepth    string   `json:"headDepth,omitempty"`
	HeadAngle    string   `json:"headAngle,omitempty"`
	TipAngle     string   `json:"tipAngle,omitempty"`
	Extent       *Extent  `json:"extent,omitempty"`
	Reverse      bool     `json:"reverse,omitempty"`
	Solids       []string `json:"solids,omitempty"`
}

// Only the fields that the chosen form uses are asked; the others keep what was
// typed, so that going back to a form loses nothing.
func holeKind() *Kind {
	return &Kind{
		Name: "hole", Title: "Hole", What: "drilled, counterbored, countersunk or tapped", Group: "material", Letter: "h",
		Main: "diameter",
		New:  func() Operation { return &Hole{} }, Feature: true, Repeats: true,
		Fields: []Field{
			{Path: "form", Label: "Form", Kind: asChoice, Options: []string{"plain", "counterbore", "countersink", "spotface",
				"tapped"}, Default: "plain"},
			optional(Field{Path: "sketch", Label: "Sketch", Kind: asSketch, Hint: "or a place on a face, below"}),
			optional(Field{Path: "at", Label: "At points", Kind: asSpots, When: "sketch"}),
			optional(Field{Path: "place.face", Label: "On the face", Kind: asFace, When: "sketch="}),
			optional(Field{Path: "place.from.0.edge", Label: "From the edge", Kind: asEdge, When: "place.face"}),
			optional(Field{Path: "place.from.0.distance", Label: "by", Kind: asLength, When: "place.from.0.edge"}),
			optional(Field{Path: "place.from.1.edge", Label: "and from the edge", Kind: asEdge, When: "place.from.0.edge"}),
			optional(Field{Path: "place.from.1.distance", Label: "by", Kind: asLength, When: "place.from.0.edge"}),
			optional(Field{Path: "place.circle.about", Label: "On a circle about the edge", Kind: asEdge, When: "place.face"}),
			optional(Field{Path: "place.circle.diameter", Label: "Bolt circle", Kind: asLength, When: "place.circle.about"}),
			optional(Field{Path: "place.circle.count", Label: "Count", Kind: asNumber, When: "place.circle.about"}),
			optional(Field{Path: "place.circle.start", Label: "First at", Kind: asAngle, When: "place.circle.about"}),
			optional(Field{Path: "place.centered", Label: "Concentric to", Kind: asEdges, When: "place.face"}),
			optional(Field{Path: "thread", Label: "For the thread", Kind: asChoice, Options: threadOptions(),
				Hint: "sizes of ISO 273, ISO 4762, ISO 10642"}),
			{Path: "fit", Label: "Fit", Kind: asChoice, Options: []string{"fine", "medium", "coarse"}, When: "thread",
				Default: "medium"},
			optional(Field{Path: "diameter", Label: "Diameter", Kind: asLength, Hint: "by the thread when empty"}),
			optional(Field{Path: "headDiameter", Label: "Head diameter", Kind: asLength,
				When: "form=counterbore|countersink|spotface"}),
			optional(Field{Path: "headDepth", Label: "Head depth", Kind: asLength, When: "form=counterbore|spotface"}),
			optional(Field{Path: "headAngle", Label: "Head angle", Kind: asAngle, When: "form=countersink"}),
			{Path: "extent.kind", Label: "Depth", Kind: asChoice, Options: []string{"through", "to-next", "one-side"},
				Default: "through"}, {Path: "extent.length", Label: "Deep", Kind: asLength, When: "extent.kind=one-side"},
			optional(Field{Path: "tipAngle", Label: "Drill point", Kind: asAngle, When: "extent.kind=one-side",
				Hint: "118 deg; flat when empty"}),
			{Path: "reverse", Label: "Other direction", Kind: asFlag, When: "sketch"}, solidsField(),
		},
	}
}

// Sizes that are empty because a thread gives them are skipped by the visitor.
func (do *Hole) visit(v *visitor) {
	v.length("diameter", "diameter", &do.Diameter)
	v.length("headDiameter", "head diameter", &do.HeadDiameter)
	v.length("headDepth", "head depth", &do.HeadDepth)
	v.angle("headAngle", "head angle", &do.HeadAngle)
	v.angle("tipAngle", "tip angle", &do.TipAngle)
	v.steps(do.Sketch)
	v.extent(do.Extent)
	if do.Place != nil {
		do.Place.visit(v)
	}
	v.solids(do.Solids...)
}

// Each edge and face is told by its name, so that the step is found to hang on
// the steps that made them.
func (p *Place) visit(v *visitor) {
	v.faces(p.Face)
	if p.From != nil {
		for i := range p.From {
			v.length(fmt.Sprintf("place.from.%d.distance", i), "distance", &p.From[i].Distance)
			v.edges(p.From[i].Edge)
		}
	}
	if c := p.Circle; c != nil {
		v.length("place.circle.diameter", "diameter of the circle", &c.Diameter)
		v.number("place.circle.count", "count", &c.Count)
		v.angle("place.circle.start", "angle", &c.Start)
		v.edges(c.About)
	}
	v.edges(p.Centered...)
}

// run drills each place. A hole through all is as deep as the box around the
// part reaches from that place, with a little more, so that a long drill is a
// short computation; its depth is not a size of the part.
//
// A tapped hole is modelled as its drill, as drawings and the trade do (common
// practice, no source): the thread itself is a note that the sheet draws and the
// checker compares by its designation.
func (do *Hole) run(w *worker) error {
	if len(w.state.bodies) == 0 {
		return because("put the step after the one that makes the solid", "there is no solid yet to drill")
	}
	spots, err := do.spots(w)
	if err != nil {
		return err
	}
	d, err := do.drill(w)
	if err != nil {
		return err
	}
	deep, err := do.deep(w)
	if err != nil {
		return err
	}
	box, err := w.bounds()
	if err != nil {
		return err
	}
	var deeds []deed
	for _, s := range spots {
		depth := deep
		if deep == 0 {
			depth = reach(box, s.at, s.into)
		}
		body, err := do.drilled(w, s, d, depth, deep == 0)
		if err != nil {
			return err
		}
		deeds = append(deeds, deed{op: solid.Difference, body: body, on: do.Solids})
	}
	switch s := spots[0]; {
	case strings.TrimSpace(do.Diameter) != "":
		w.pulled("diameter", s.at.Add(s.x.Scale(d/2)), s.x, 2)
	case deep > 0:
		w.pulled("extent.length", s.at.Add(s.into.Scale(deep)), s.into, 1)
	}
	if err := w.apply(deeds); err != nil {
		return err
	}
	if deep > 0 && isNumber(do.Extent.Length) && w.report.Warning == "" {
		w.hintThrough("/bottom", "/tip")
	}
	if do.Form != "tapped" {
		return nil
	}
	t, err := standards.MetricThread(do.Thread)
	if err != nil {
		return err
	}
	for _, s := range spots {
		face := w.step.ID + "." + s.id + "/bore"
		w.state.notes = append(w.state.notes, Note{Step: w.step.ID, Kind: "thread", Face: face, Text: t.Name, At: s.at,
			Normal: s.into.Scale(-1), Radius: d / 2, Size: t.Major, Length: deep})
	}
	return nil
}

// deep is the typed depth of the hole; 0 where it goes through.
//
// To the next face is a way through too: how far it goes is known when the drill
// is cut off at the wall.
func (do *Hole) deep(w *worker) (float64, error) {
	e := do.Extent
	switch {
	case e == nil || e.Kind == "through" || e.Kind == "to-next":
		return 0, nil
	case e.Kind != "one-side":
		return 0, because("use one-side with a length, through or to-next", "a hole cannot have the extent %q", e.Kind)
	}
	return w.positive("length", e.Length, quantity.Length)
}

// drilled is what one hole takes away: of diameter d at a place, and so deep, which is as far as the
// part goes where it goes through.
//
// The frame's X is the radius and its Y the depth, so that the half section
// turned about Y is the hole. Faces of a full turn may come without a history;
// they are named by where they lie (see nameTurned).
func (do *Hole) drilled(w *worker, s spot, d, depth float64, through bool) (*Named, error) {
	loop, names, err := do.profile(w, d/2, depth, through)
	if err != nil {
		return nil, err
	}
	f := solid.Frame{O: s.at, X: s.x, Y: s.into, Z: s.x.Cross(s.into)}
	name := func(edge int) string {
		if edge < len(names) && names[edge] != "" {
			return w.step.ID + "." + s.id + "/" + names[edge]
		}
		return ""
	}
	made := func(src solid.Source) string {
		if src.Kind == solid.FromEdge {
			return name(src.Index)
		}
		return ""
	}
	section := solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}
	body, err := w.turned(section, s.at, s.into, 2*math.Pi, made, name)
	if err != nil {
		return nil, because("", "the hole makes no solid: %v", err)
	}
	if do.Extent != nil && do.Extent.Kind == "to-next" { // through the first wall, and no further
		return w.toNext(body, s.at, s.into, depth, true)
	}
	return body, nil
}

// drill is the diameter of the hole: as typed, the clearance of ISO 273 for a
// thread, or the drill before tapping it.
//
// What was typed wins over the table: a drawing may ask for another size, and
// what the drawing says is right.
func (do *Hole) drill(w *worker) (float64, error) {
	if strings.TrimSpace(do.Diameter) != "" || do.Thread == "" {
		return w.positive("diameter", do.Diameter, quantity.Length)
	}
	t, err := standards.MetricThread(do.Thread)
	if err != nil {
		return 0, because("choose a thread of the table or type the diameter", "%v", err)
	}
	if do.Form == "tapped" {
		return t.TapDrill(), nil
	}
	d, err := t.Clearance(do.Fit)
	if err != nil {
		return 0, because("", "%v", err)
	}
	return d, nil
}

// head gives a size of the hole's head: as typed, else from the table of its
// thread.
//
// Heads are those of ISO 4762 (socket head, counterbore) and ISO 10642
// (countersunk), the usual screws of machine drawings. A thread that is not in a
// table is said to be missing there and not interpolated: screws have no sizes
// between.
func (do *Hole) head(w *worker, role, formula string, table func(standards.Thread) float64) (float64, error) {
	if strings.TrimSpace(formula) == "" && do.Thread != "" {
		t, err := standards.MetricThread(do.Thread)
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

// profile is the half section of a hole: x is the radius, y the depth. The
// names are those of the faces that its edges make.
//
// The section runs from the mouth on the axis outwards, down the walls and back
// to the axis. A countersink to angle a is (R - r) / tan(a/2) deep, and a
// drill's tip r / tan(a/2) long. The depth of a hole is that of its full
// diameter, without the tip, as ISO 129-1 has it be dimensioned.
func (do *Hole) profile(w *worker, r, depth float64, through bool) (loop []solid.Segment, names []string, err error) {
	at := [][2]float64{{0, 0}}
	add := func(x, y float64, name string) {
		at = append(at, [2]float64{x, y})
		names = append(names, name)
	}
	switch do.Form {
	case "", "plain", "tapped":
		add(r, 0, "")
	case "counterbore", "spotface":
		hd, err := do.head(w, "headDiameter", do.HeadDiameter, func(t standards.Thread) float64 { return t.Counterbore })
		if err != nil {
			return nil, nil, err
		}
		if err := w.wider(hd/2, r); err != nil {
			return nil, nil, err
		}
		deep, err := do.head(w, "headDepth", do.HeadDepth, func(t standards.Thread) float64 {
			if do.Form == "spotface" {
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
		hd, err := do.head(w, "headDiameter", do.HeadDiameter, func(t standards.Thread) float64 { return t.FlatHead })
		if err != nil {
			return nil, nil, err
		}
		if err := w.wider(hd/2, r); err != nil {
			return nil, nil, err
		}
		angle := math.Pi / 2 // ISO 10642
		if do.HeadAngle != "" || do.Thread == "" {
			if angle, err = w.positive("headAngle", do.HeadAngle, quantity.Angle); err != nil {
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
		return nil, nil, because("use plain, counterbore, countersink, spotface or tapped", "%q is not a form of hole",
			do.Form)
	}
	add(r, depth, "bore")
	if !through && do.TipAngle != "" {
		angle, err := w.positive("tipAngle", do.TipAngle, quantity.Angle)
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

// wider refuses a head that is no larger than the hole, which would leave a step
// that is no step.
func (w *worker) wider(head, r float64) error {
	if head <= r {
		return because("make the head larger than the hole", "the head's diameter %s is not larger than the hole's %s",
			w.shown(2*head), w.shown(2*r))
	}
	return nil
}

// spots are the places of the holes.
//
// A point is called by its name in the sketch, and so is the hole at it: points
// that are added or left out leave the names of the other holes alone.
func (do *Hole) spots(w *worker) ([]spot, error) {
	if do.Place != nil {
		return w.onFace(do.Place)
	}
	if do.Sketch == "" {
		return nil, because("choose a sketch with points, or a flat face", "it has no place")
	}
	p, err := w.placedSketch(do.Sketch)
	if err != nil {
		return nil, err
	}
	into := p.frame.Z.Scale(-1)
	if do.Reverse {
		into = p.frame.Z
	}
	if len(do.At) == 0 {
		return nil, because("name at least one point of the sketch", "it has no place")
	}
	var out []spot
	for _, id := range do.At {
		c, ok := p.solution.Points[id]
		if !ok {
			return nil, because("choose the points again", "a point is not in %s any more", calledStep(do.Sketch))
		}
		out = append(out, spot{id, p.frame.Point(c.X, c.Y, 0), p.frame.X, into})
	}
	return out, nil
}

// onFace places holes on a flat face.
//
// Places on a face have no names of their own and are numbered, in the order of
// the form. The frame of the face is the one that its sketch would have.
func (w *worker) onFace(p *Place) ([]spot, error) {
	face, err := w.flat(p.Face)
	if err != nil {
		return nil, err
	}
	f := solid.Plane(face.Centroid, face.Normal)
	var at []solid.Vec
	switch {
	case p.From != nil:
		at, err = w.fromEdges(p.From, face, f)
	case p.Circle != nil:
		at, err = w.onCircle(p.Circle, f)
	case len(p.Centered) == 0:
		err = because("give distances from two edges, a bolt circle, or round edges", "it has no place")
	}
	for _, ref := range p.Centered {
		if err != nil || p.From != nil || p.Circle != nil {
			break
		}
		var c solid.Vec
		c, err = w.centreOn(f, ref)
		at = append(at, c)
	}
	if err != nil {
		return nil, err
	}
	var out []spot
	for i, v := range at {
		out = append(out, spot{fmt.Sprint(i + 1), v, f.X, f.Z.Scale(-1)})
	}
	return out, nil
}

// dropped is a place brought down onto a plane.
//
// An edge that a hole is centred on may lie higher than the face that is
// drilled.
func dropped(f solid.Frame, v solid.Vec) solid.Vec { return v.Sub(f.Z.Scale(v.Sub(f.O).Dot(f.Z))) }

// centreOn is the centre of a round edge, on a plane.
//
// The centre of an arc counts as well as that of a circle: a rounded corner has
// a hole in its middle more often than not.
func (w *worker) centreOn(f solid.Frame, ref EdgeRef) (solid.Vec, error) {
	e, err := w.oneEdge(ref)
	if err != nil {
		return solid.Vec{}, err
	}
	if e.Kind != solid.CircleEdge {
		return solid.Vec{}, because("choose a round edge", "the edge has no centre")
	}
	return dropped(f, e.Center), nil
}

// fromEdges is the place at distances from two straight edges, into the face.
//
// Each edge moved into the face by its distance is a line on which the hole is,
// and two lines cross in one place. Which side is into the face is told by the
// middle of the face: a face with a notch, whose middle lies beyond the edge, is
// the exception, and there a sketch has to say it.
func (w *worker) fromEdges(from *[2]Away, face solid.Face, f solid.Frame) ([]solid.Vec, error) {
	var o, d [2]solid.Vec // a point on each of two lines, and its direction
	for i, a := range from {
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
		o[i] = dropped(f, e.A.Add(n.Scale(by)))
	}
	x := d[0].Cross(d[1]).Dot(f.Z)
	if math.Abs(x) < 1e-9 {
		return nil, because("choose two edges that are not parallel", "the two edges do not give a place")
	}
	return []solid.Vec{o[0].Add(d[0].Scale(o[1].Sub(o[0]).Cross(d[1]).Dot(f.Z) / x))}, nil
}

// onCircle are the places of a bolt circle.
//
// Angles count from the x axis of the face's frame, which lies along the part
// and not along the edge: a round edge has no start to count from.
func (w *worker) onCircle(p *BoltCircle, f solid.Frame) ([]solid.Vec, error) {
	c, err := w.centreOn(f, p.About)
	if err != nil {
		return nil, err
	}
	dia, err := w.positive("diameter of the bolt circle", p.Diameter, quantity.Length)
	if err != nil {
		return nil, err
	}
	n, err := w.count("count", p.Count)
	if err != nil {
		return nil, err
	}
	start := 0.0
	if p.Start != "" {
		if start, err = w.value("start", p.Start, quantity.Angle); err != nil {
			return nil, err
		}
	}
	var out []solid.Vec
	for k := range n {
		s, co := math.Sincos(start + 2*math.Pi*float64(k)/float64(n))
		out = append(out, c.Add(f.X.Scale(dia/2*co)).Add(f.Y.Scale(dia/2*s)))
	}
	return out, nil
}
