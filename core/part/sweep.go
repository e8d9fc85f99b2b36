package part

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/solid"
)

// Sweep moves regions along a path: a sketch of one run of curves, or a helix.
type Sweep struct {
	Drawn
	Made
	Path string `json:"path,omitempty"` // a sketch or helix
	Keep bool   `json:"keep,omitempty"` // the directions of the profile
}

// A sweep may be the first step that makes material, and can be repeated like
// all steps that do.
func sweepKind() *Kind {
	return &Kind{
		Name: "sweep", Title: "Sweep", What: "a profile moved along a path", Group: "material", Letter: "w",
		New: func() Operation { return &Sweep{} }, First: true, Feature: true, Repeats: true,
		Fields: slices.Concat(drawnFields(), []Field{{Path: "path", Label: "Path", Kind: asPath}, resultField(),
			{Path: "keep", Label: "Keep its directions", Kind: asFlag}}, wallFields(), []Field{solidsField()}),
	}
}

// The path is named as a step, so that a sketch or helix which a sweep needs
// cannot be deleted or moved behind it unnoticed.
func (do *Sweep) visit(v *visitor) {
	do.Drawn.visit(v)
	v.steps(do.Path)
	do.Made.visit(v)
}

// run moves each profile along a path.
//
// A side is named after the entity of the profile that draws it. Where the path
// has several pieces one entity draws a face along each, and the name says along
// which:
//
//	s1/side:l2~p3
//
// so that a bend added to the path leaves the names of the other faces as they
// were.
func (do *Sweep) run(w *worker) error {
	_, profiles, err := do.profiles(w)
	if err != nil {
		return err
	}
	path, names, err := do.path(w, profiles[0])
	if err != nil {
		return err
	}
	var deeds []deed
	for _, prof := range profiles {
		shape, h, err := w.kernel.Sweep(prof.Profile, *path, do.Keep)
		if err == nil {
			err = w.sound(shape)
		}
		if err != nil {
			return because("check that the profile stands across the start of the path and fits through its bends",
				"the profile cannot be swept: %v", err)
		}
		body := carry(shape, h, nil, func(src solid.Source) string {
			switch src.Kind {
			case solid.FromEdge:
				name := w.step.ID + "/side:" + prof.owners[src.Index]
				if len(names) > 1 {
					name += "~" + names[src.Operand]
				}
				return name
			case solid.CapStart:
				return w.step.ID + "/start"
			case solid.CapEnd:
				return w.step.ID + "/end"
			}
			return ""
		})
		d, err := do.deed(body)
		if err != nil {
			return err
		}
		deeds = append(deeds, d)
	}
	return w.apply(deeds)
}

// sound is the check of a result that a kernel may give although it is broken.
//
// Sweeping round a bend that is tighter than the profile is wide gives a solid
// that passes through itself. The kernel builds it without a complaint, and
// every mass and section taken of it would be wrong.
func (w *worker) sound(s solid.Shape) error {
	if s.Solids() == 0 {
		return fmt.Errorf("no solid comes of it")
	}
	return w.kernel.Check(s)
}

// path resolves the path; it begins at the end that is nearer to the
// profile. The names are those of its pieces.
//
// The nearer end is where the one who drew it expects the sweep to begin,
// whichever way the curves of the path were drawn. A corner is an error when the
// profile turns with the path, since both sides of the corner would need a mitre
// of which the drawing says nothing; with the profile's directions kept there is
// none to turn.
func (do *Sweep) path(w *worker, prof outline) (*solid.Path, []string, error) {
	if h, ok := w.state.helixes[do.Path]; ok {
		return h, []string{do.Path}, nil
	}
	p, ok := w.state.sketches[do.Path]
	if !ok {
		return nil, nil, because("name a sketch or helix that comes before this step", "there is no path %q", do.Path)
	}
	list, err := runs(p.solution.Curves, w.table.Unit())
	if err != nil {
		return nil, nil, err
	}
	if len(list) != 1 {
		return nil, nil, because("leave one row of curves, or make the others guide lines",
			"%s has %d rows of curves, and a path is one", calledStep(do.Path), len(list))
	}
	r := list[0]
	var middle solid.Vec
	for _, s := range prof.Loops[0] {
		q := s.A
		if s.Kind == "circle" {
			q = s.Center
		}
		middle = middle.Add(prof.Frame.Point(q[0], q[1], 0).Scale(1 / float64(len(prof.Loops[0]))))
	}
	at := func(v sketch.Vec) float64 { return p.frame.Point(v.X, v.Y, 0).Distance(middle) }
	if !r.closed && at(r.at(len(r.curves)-1, true)) < at(r.at(0, false)) {
		r.reverse()
	}
	if !do.Keep {
		for i := range r.curves {
			k := (i + 1) % len(r.curves)
			if k == 0 && (!r.closed || len(r.curves) == 1) {
				break
			}
			if a := r.tangent(i, true).Unit(); a.Sub(r.tangent(k, false).Unit()).Norm() > 1e-5 {
				q := r.at(i, true)
				return nil, nil, because("round the corner with a tangent arc", "the path has a corner at %s",
					calledPlace(w.table.Unit(), q.X, q.Y))
			}
		}
	}
	segs, names := r.segments()
	return &solid.Path{Frame: p.frame, Pieces: segs, Closed: r.closed}, names, nil
}

// tangent is the direction in which piece i is run at its beginning or end.
//
// It points along the way that the run goes, not along the curve.
func (r *run) tangent(i int, end bool) sketch.Vec {
	c := &r.curves[i]
	lo, hi := c.Range()
	if r.forward[i] == end {
		lo = hi
	}
	d := c.Tangent(lo)
	if !r.forward[i] {
		d = d.Scale(-1)
	}
	return d
}

// Helix is a path about an axis.
//
// A Helix winds about its axis at half the diameter, rising by the pitch in each
// turn:
//
//	P(t) = O + r (cos t X ± sin t Y) + pitch t / 2π Z,   0 ≤ t ≤ 2π turns
//
// with + for a right-handed one, which is the usual hand of a screw thread (ISO
// 965-1 assumes it unless LH is written).
type Helix struct {
	Axis     *AxisRef `json:"axis,omitempty"`
	Diameter string   `json:"diameter,omitempty"`
	Pitch    string   `json:"pitch,omitempty"`
	Turns    string   `json:"turns,omitempty"`
	Offset   string   `json:"offset,omitempty"`
	Angle    string   `json:"angle,omitempty"`
	Left     bool     `json:"left,omitempty"`
	Reverse  bool     `json:"reverse,omitempty"`
}

// Five turns are offered first: enough to see that it is a spring, few enough to
// be drawn at once.
func helixKind() *Kind {
	return &Kind{
		Name: "helix", Title: "Helix", What: "a path for springs and thread forms", Group: "draw", Letter: "x", Main: "pitch",
		New: func() Operation { return &Helix{} }, Gives: GivesPath,
		Fields: []Field{axisField(), {Path: "diameter", Label: "Diameter", Kind: asLength},
			{Path: "pitch", Label: "Pitch", Kind: asLength}, {Path: "turns", Label: "Turns", Kind: asNumber, First: "5"},
			optional(Field{Path: "offset", Label: "Begins at", Kind: asLength}),
			optional(Field{Path: "angle", Label: "Turned by", Kind: asAngle}),
			{Path: "left", Label: "Left-handed", Kind: asFlag}, reverseField()},
	}
}

// The formulas are told to the visitor one by one, with what each measures, so
// that a length in inches and an angle in degrees are read as such.
func (do *Helix) visit(v *visitor) {
	v.length("diameter", "diameter", &do.Diameter)
	v.angle("angle", "angle", &do.Angle)
	v.length("pitch", "pitch", &do.Pitch)
	v.number("turns", "turns", &do.Turns)
	v.length("offset", "offset", &do.Offset)
	v.axis(do.Axis)
}

// Two hundred turns are more than any spring or thread of an exercise has; the
// surfaces of a sweep along them grow with the number, and a slip of the
// keyboard (50 for 5.0) should not keep a worker busy for minutes. The frame's X
// points to the start, so that turning it turns where the helix begins.
func (do *Helix) run(w *worker) error {
	o, d, err := w.axis(do.Axis, nil)
	if err != nil {
		return err
	}
	if do.Reverse {
		d = d.Scale(-1)
	}
	dia, err := w.positive("diameter", do.Diameter, quantity.Length)
	if err != nil {
		return err
	}
	pitch, err := w.positive("pitch", do.Pitch, quantity.Length)
	if err != nil {
		return err
	}
	turns, err := w.positive("turns", do.Turns, quantity.Number)
	if err != nil {
		return err
	}
	if turns > 200 {
		return because("give at most 200", "the helix has %g turns", turns)
	}
	f := solid.Plane(o, d)
	f.O = o
	if do.Offset != "" {
		off, err := w.length("offset", do.Offset)
		if err != nil {
			return err
		}
		f.O = o.Add(d.Scale(off))
	}
	if do.Angle != "" {
		a, err := w.value("angle", do.Angle, quantity.Angle)
		if err != nil {
			return err
		}
		t := solid.Rotation(f.O, d, a)
		f.X, f.Y = t.Turn(f.X), t.Turn(f.Y)
	}
	w.pulled("diameter", f.O.Add(f.X.Scale(dia/2)), f.X, 2)
	w.state.helixes[w.step.ID] = &solid.Path{Frame: f, Helix: &solid.Helix{Radius: dia / 2, Pitch: pitch, Turns: turns,
		Left: do.Left}}
	return nil
}

// Loft runs a solid through the outer boundaries of two or more sketches.
type Loft struct {
	Made
	Sections []string `json:"sections,omitempty"`
	Ruled    bool     `json:"ruled,omitempty"`
}

// Its sections are picked in order, because the order is the shape.
func loftKind() *Kind {
	return &Kind{
		Name: "loft", Title: "Loft", What: "a body through two sections or more", Group: "material", Letter: "o",
		New: func() Operation { return &Loft{} }, First: true, Feature: true, Repeats: true,
		Fields: []Field{{Path: "sections", Label: "Sections, in order", Kind: asSketches},
			{Path: "ruled", Label: "Straight between sections", Kind: asFlag}, resultField(), solidsField()},
	}
}

// All sections are named: none may be deleted or moved behind the loft.
func (do *Loft) visit(v *visitor) {
	v.steps(do.Sections...)
	do.Made.visit(v)
}

// Sections with holes are refused: which hole runs into which is not told by
// their order, and a guess would be a body that nobody drew. A second loft that
// is cut away makes the hole as the drawing states it.
func (do *Loft) run(w *worker) error {
	if len(do.Sections) < 2 {
		return because("name two sketches or more, in order", "it runs through %d sections", len(do.Sections))
	}
	var list []solid.Profile
	var first, last outline
	for i, id := range do.Sections {
		p, err := w.placedSketch(id)
		if err != nil {
			return err
		}
		chosen, err := w.choose(p, id, nil)
		if err != nil {
			return err
		}
		if len(chosen) != 1 || len(chosen[0].Holes) > 0 {
			return because("leave one closed outline in each section", "%s has more than one outline", calledStep(id))
		}
		o := outlined(p.frame, chosen[0])
		list = append(list, o.Profile)
		if i == 0 {
			first = o
		}
		last = o
	}
	shape, h, err := w.kernel.Loft(list, do.Ruled)
	if err == nil {
		err = w.sound(shape)
	}
	if err != nil {
		return because("check that the sections follow one another and have their corners in the same order",
			"no solid runs through the sections: %v", err)
	}
	body := carry(shape, h, nil, w.profileNamer(nil))
	w.nameLofted(body, first, last)
	d, err := do.deed(body)
	if err != nil {
		return err
	}
	return w.apply([]deed{d})
}

// nameLofted names the sides of a loft by the entity of the first section that
// each begins at, and, where it begins at a point of it, by that of the last.
//
// The kernel's history says which face a section's edge made only for ruled
// lofts; for smooth ones it is found by where the edges of the result lie.
func (w *worker) nameLofted(n *Named, first, last outline) {
	edges := n.Shape.Edges()
	for i, f := range n.Shape.Faces() {
		if len(n.Names[i]) > 0 {
			continue
		}
		for k, o := range []outline{first, last} {
			for _, e := range f.Edges {
				if owner := o.on(edges[e].Mid); owner != "" && !edges[e].Degenerate {
					name := w.step.ID + "/side:" + owner
					if k == 1 {
						name = w.step.ID + "/side~" + owner
					}
					n.Names[i] = append(n.Names[i], name)
				}
			}
			if len(n.Names[i]) > 0 {
				break
			}
		}
	}
}

// on gives the owner of the edge of the outline on which a place in space lies.
//
// A place off the plane of the sketch by more than 0.01 µm lies on none. The
// entity is found by distance to each curve in its plane, to 0.01 µm for exact
// curves and to 0.1 µm for ellipses and splines, whose nearest point is found by
// iteration.
func (o *outline) on(p solid.Vec) string {
	l := o.Frame.Local(p)
	if math.Abs(l[2]) > 1e-5 {
		return ""
	}
	q := sketch.Vec{X: l[0], Y: l[1]}
	i := 0
	for _, loop := range o.Loops {
		for _, s := range loop {
			a, b, c := sketch.Vec{X: s.A[0], Y: s.A[1]}, sketch.Vec{X: s.B[0], Y: s.B[1]},
				sketch.Vec{X: s.Center[0], Y: s.Center[1]}
			hit := false
			switch s.Kind {
			case "line":
				u := b.Sub(a)
				t := q.Sub(a).Dot(u) / u.Dot(u)
				hit = t > -1e-6 && t < 1+1e-6 && a.Add(u.Scale(t)).Distance(q) < 1e-5
			case "circle":
				hit = math.Abs(c.Distance(q)-s.Radius) < 1e-5
			case "arc":
				m := sketch.Vec{X: s.Mid[0], Y: s.Mid[1]}
				hit = math.Abs(c.Distance(q)-s.Radius) < 1e-5 && q.Distance(m) < math.Max(a.Distance(m), b.Distance(m))
			case "ellipse", "spline":
				curve := sketch.Curve{Kind: sketch.KindSpline, Knots: s.Knots}
				for _, pole := range s.Poles {
					curve.Poles = append(curve.Poles, sketch.Vec{X: pole[0], Y: pole[1]})
				}
				if s.Kind == "ellipse" {
					curve = sketch.Curve{Kind: sketch.KindEllipse, Center: c, U: sketch.Vec{X: s.U[0], Y: s.U[1]},
						V: sketch.Vec{X: s.V[0], Y: s.V[1]}}
				}
				_, near := curve.Nearest(q)
				hit = near.Distance(q) < 1e-4
			}
			if hit {
				return o.owners[i]
			}
			i++
		}
	}
	return ""
}

// Rib fills from an open run of curves to the material around it, half its
// thickness on either side of the sketch.
//
// It is drawn as one line and closed by the walls that it meets, as a drawing of
// a casting shows it. A rib is not sectioned lengthwise in a drawing (ISO
// 128-3), so that it has to be a step of its own to be found again.
type Rib struct {
	Sketch    string   `json:"sketch,omitempty"`
	Thickness string   `json:"thickness,omitempty"`
	Solids    []string `json:"solids,omitempty"`
	Reverse   bool     `json:"reverse,omitempty"`
}

// It needs material that is there already.
func ribKind() *Kind {
	return &Kind{
		Name: "rib", Title: "Rib", What: "a web from one line to the material around it", Group: "material", Letter: "b",
		Main: "thickness",
		New:  func() Operation { return &Rib{} }, Feature: true, Repeats: true,
		Fields: []Field{sketchField(), {Path: "thickness", Label: "Thickness", Kind: asLength},
			{Path: "reverse", Label: "Other side of the line", Kind: asFlag}, solidsField()},
	}
}

// Solids are named as such, so that the rib grows only on those that were
// picked.
func (do *Rib) visit(v *visitor) {
	v.length("thickness", "thickness", &do.Thickness)
	v.steps(do.Sketch)
	v.solids(do.Solids...)
}

// A slab that reaches from the line to beyond the part has the part cut out of
// it. What is left under the middle of the line, before the first wall, is the
// rib; other pieces lie behind walls. If a face of that piece has no name, it
// lies on the far side of the slab: the rib would run out of the part into the
// open.
func (do *Rib) run(w *worker) error {
	p, err := w.placedSketch(do.Sketch)
	if err != nil {
		return err
	}
	t, err := w.positive("thickness", do.Thickness, quantity.Length)
	if err != nil {
		return err
	}
	list, err := runs(p.solution.Curves, w.table.Unit())
	if err != nil {
		return err
	}
	if len(list) != 1 || list[0].closed {
		return because("draw one open row of curves",
			"a rib is made from one open line, and %s has %d rows of curves",
			calledStep(do.Sketch), len(list))
	}
	if len(w.state.bodies) == 0 {
		return because("put the step after the one that makes the solid",
			"there is no solid yet between whose walls the rib could stand")
	}
	slab, err := do.slab(w, p, list[0], t)
	if err != nil {
		return err
	}
	var all []*Named
	for _, body := range w.state.bodies {
		all = append(all, body.Named)
	}
	rest, _, err := w.boolean(solid.Difference, slab, all)
	if err != nil {
		return err
	}
	pieces, err := w.kernel.Split(rest.Shape)
	if err != nil {
		return err
	}
	middle := list[0].curves[(len(list[0].curves)-1)/2]
	lo, hi := middle.Range()
	m := middle.Point((lo + hi) / 2)
	w.pulled("thickness", p.frame.Point(m.X, m.Y, t/2), p.frame.Z, 2)
	for _, piece := range pieces {
		named := inherit(piece, rest)
		if !under(named, w.step.ID+"/side:"+middle.ID, p.frame, m, middle.Tangent((lo+hi)/2).Unit()) {
			continue
		}
		for _, names := range named.Names {
			if len(names) == 0 {
				return because("turn the rib to the other side, or let its line end nearer to the walls",
					"there is no material all around the rib: it would run out of the part")
			}
		}
		return w.apply([]deed{{op: solid.Union, body: named, on: do.Solids}})
	}
	return because("draw its line in the open, between the walls", "the line of the rib lies inside the material")
}

// slab is what the rib is cut out of: its line is drawn out beyond the part, and the area on one
// side of it closed outside the part. Faces that are outside have no names.
//
// It reaches twice the diagonal of the part's box beyond it, so that none of its
// own outer faces can be in contact with the part.
func (do *Rib) slab(w *worker, p *placed, r *run, thickness float64) (*Named, error) {
	box, err := w.bounds()
	if err != nil {
		return nil, err
	}
	n := len(r.curves) - 1
	far := 2*box.Diagonal() + p.frame.O.Norm()
	a, b := r.at(0, false), r.at(n, true)
	before, behind := a.Sub(r.tangent(0, false).Unit().Scale(far)), b.Add(r.tangent(n, true).Unit().Scale(far))
	side := b.Sub(a).Unit().Left()
	if do.Reverse {
		side = side.Scale(-1)
	}
	line := func(a, b sketch.Vec) solid.Segment { return solid.Segment{Kind: "line", A: pair(a), B: pair(b)} }
	segs, owners := r.segments()
	deep := side.Scale(2 * far)
	loop := append([]solid.Segment{line(before, a)}, segs...)
	loop = append(loop, line(b, behind), line(behind, behind.Add(deep)), line(behind.Add(deep), before.Add(deep)),
		line(before.Add(deep), before))
	names := append([]string{owners[0]}, owners...)
	names = append(names, owners[n], "", "", "")
	f := p.frame
	f.O = f.O.Sub(f.Z.Scale(thickness / 2))
	shape, h, err := w.kernel.Prism(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, f.Z.Scale(thickness))
	if err != nil {
		return nil, because("look at the line of the rib", "the rib makes no solid: %v", err)
	}
	return carry(shape, h, nil, func(src solid.Source) string {
		if src.Kind == solid.FromEdge && names[src.Index] == "" {
			return ""
		}
		return w.profileNamer(names)(src)
	}), nil
}

// under tells whether a piece has a face of a name that reaches to both sides of a place of a
// sketch, along a tangent there: it is the piece under the middle of the line.
//
// The face lies along the line on both sides of the place: a piece that only
// touches the middle of the line with a corner has it at one end.
func under(piece *Named, name string, f solid.Frame, at, tangent sketch.Vec) bool {
	edges := piece.Shape.Edges()
	for _, i := range piece.Faces(name) {
		lowest, highest := math.Inf(1), math.Inf(-1)
		for _, e := range piece.Shape.Faces()[i].Edges {
			for _, v := range []solid.Vec{edges[e].A, edges[e].B} {
				l := f.Local(v)
				d := sketch.Vec{X: l[0], Y: l[1]}.Sub(at).Dot(tangent)
				lowest, highest = math.Min(lowest, d), math.Max(highest, d)
			}
		}
		if lowest < 0 && highest > 0 {
			return true
		}
	}
	return false
}
