package part

import (
	"math"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// profileNamer names the faces that a swept profile makes.
func (w *worker) profileNamer(owners []string) namer {
	return func(src solid.Source) string {
		switch src.Kind {
		case solid.FromEdge:
			if src.Index < len(owners) {
				return w.step.ID + "/side:" + owners[src.Index]
			}
		case solid.CapStart:
			return w.step.ID + "/start"
		case solid.CapEnd:
			return w.step.ID + "/end"
		}
		return ""
	}
}

// reach is how far the solid extends from a plane along a direction, and a bit.
func reach(b solid.Box, from, along solid.Vec) float64 {
	return beyond(b, from, along) + 1 + 0.01*b.Diagonal()
}

// beyond is how far a box lies ahead of a place, in a direction; zero where it lies behind.
func beyond(b solid.Box, from, along solid.Vec) float64 {
	far := 0.0
	for _, c := range b.Corners() {
		far = math.Max(far, c.Sub(from).Dot(along))
	}
	return far
}

const extents = "use one-side, symmetric, two-sides, through, to-face or to-next"

// Extrude sweeps regions along the normal of the sketch. Material is added
// along the normal and cut against it, unless reversed.
type Extrude struct {
	Drawn
	Made
	Extent  *Extent `json:"extent,omitempty"`
	Reverse bool    `json:"reverse,omitempty"`
}

func extrudeKind() *Kind {
	return &Kind{
		Name: "extrude", Title: "Extrude", What: "material along the normal of a sketch", Group: "material", Letter: "e",
		Main: "extent.length",
		New:  func() Operation { return &Extrude{} }, First: true, Feature: true, Repeats: true, Quick: true,
		Fields: slices.Concat(drawnFields(), []Field{resultField(),
			{Path: "extent.kind", Label: "Extent", Kind: asChoice, Options: []string{"one-side", "symmetric", "two-sides",
				"through", "to-face", "to-next"}, Default: "one-side"}}, spanFields(asLength),
			[]Field{{Path: "extent.face", Label: "Up to", Kind: asFace, When: "extent.kind=to-face"},
				{Path: "extent.both", Label: "Through on both sides", Kind: asFlag, When: "extent.kind=through"}, reverseField(),
				optional(Field{Path: "extent.start", Label: "Begins away by", Kind: asLength}),
				optional(Field{Path: "extent.draft", Label: "Sides taper by", Kind: asAngle})}, wallFields(),
			[]Field{solidsField()}),
	}
}

func (do *Extrude) visit(v *visitor) {
	do.Drawn.visit(v)
	v.extent(do.Extent)
	do.Made.visit(v)
}

// run throws each profile along the normal of its sketch and adds, cuts or keeps
// what comes of it. Where the extent can be pulled by hand a handle is left at
// the middle of the profile's far end; of a symmetric extent one millimetre of
// the hand is two of the total.
func (do *Extrude) run(w *worker) error {
	p, profiles, err := do.profiles(w)
	if err != nil {
		return err
	}
	if do.Extent == nil {
		return because(extents, "it has no extent")
	}
	t, err := do.throw(w, p.frame)
	if err != nil {
		return err
	}
	var deeds []deed
	for _, prof := range profiles {
		prof.Frame.O = prof.Frame.O.Add(t.along.Scale(t.begin))
		body, err := w.prism(prof, t.along, t.from, t.to, t.taper)
		if err == nil && t.limit != nil {
			body, err = t.limit(body)
		}
		if err != nil {
			return err
		}
		d, err := do.deed(body)
		if err != nil {
			return err
		}
		deeds = append(deeds, d)
	}
	middle := profileMiddle(profiles[0].Profile).Add(t.along.Scale(t.begin + t.to))
	switch do.Extent.Kind {
	case "one-side":
		w.pulled("extent.length", middle, t.along, 1)
	case "symmetric":
		w.pulled("extent.total", middle, t.along, 2)
	case "two-sides":
		w.pulled("extent.forward", middle, t.along, 1)
	}
	if err := w.apply(deeds); err != nil {
		return err
	}
	typed := do.Extent.Kind == "one-side" && isNumber(do.Extent.Length) ||
		do.Extent.Kind == "symmetric" && isNumber(do.Extent.Total)
	if do.Result == "cut" && typed && w.report.Warning == "" {
		w.hintThrough("/end")
	}
	return nil
}

// throw is how far an extrusion goes: from and to along a direction, from where it begins, which is
// begin away from the sketch. The sides taper by an angle, and limit trims what comes of it.
type throw struct {
	along           solid.Vec
	begin, from, to float64
	taper           float64
	limit           func(*Named) (*Named, error)
}

// cuts tells whether what is there already is only made less.
func (do *Extrude) cuts() bool { return do.Result == "cut" || do.Result == "intersect" }

// throw works the extent out: along which direction, from where to where, with
// what taper, and up to what face. A cut runs against the normal unless it is
// reversed, because a sketch lies on the face that it is cut into.
func (do *Extrude) throw(w *worker, f solid.Frame) (t throw, err error) {
	e := do.Extent
	t.along = f.Z
	if (do.Result == "cut") != do.Reverse {
		t.along = t.along.Scale(-1)
	}
	if e.Start != "" {
		if t.begin, err = w.length("start", e.Start); err != nil {
			return t, err
		}
	}
	origin := f.O.Add(t.along.Scale(t.begin))
	switch e.Kind {
	case "one-side", "symmetric", "two-sides":
		t.from, t.to, err = w.span(e, quantity.Length)
	case "to-face":
		t.to, t.limit, err = w.toFace(e.Face, origin, t.along)
	case "through", "to-next":
		err = do.through(w, &t, origin)
	default:
		err = because(extents, "%q is not an extent", e.Kind)
	}
	if err != nil || e.Draft == "" {
		return t, err
	}
	if t.taper, err = w.value("draft", e.Draft, quantity.Angle); err == nil && math.Abs(t.taper) >= math.Pi/2 {
		err = because("give an angle below 90 deg", "the sides taper by %s", degrees(t.taper))
	}
	return t, err
}

// through lets an extrusion go as far as the part does, or to where it first comes out.
func (do *Extrude) through(w *worker, t *throw, origin solid.Vec) error {
	next := do.Extent.Kind == "to-next"
	if !next && !do.cuts() {
		return because("give a length, or make it a cut", "only a cut can go through")
	}
	box, err := w.bounds()
	if err != nil {
		return err
	}
	t.to = reach(box, origin, t.along)
	switch {
	case next:
		t.limit = func(body *Named) (*Named, error) { return w.toNext(body, origin, t.along, t.to, do.cuts()) }
	case do.Extent.Both:
		t.from = -reach(box, origin, t.along.Scale(-1))
	}
	return nil
}

// hintThrough says so when a cut with a typed depth comes out on the other side:
// none of the faces that would end it is there.
//
// The hint is only given where the depth was typed, and the commonest one that
// it was typed for is the thickness of the plate: it should be through.
func (w *worker) hintThrough(ends ...string) {
	for _, b := range w.state.bodies {
		for _, names := range b.Names {
			for _, n := range names {
				for _, end := range ends {
					if strings.HasPrefix(n, w.step.ID) && strings.HasSuffix(n, end) {
						return
					}
				}
			}
		}
	}
	w.report.Hint = &Hint{FindThrough, "the cut goes through, but by a typed depth: it stops short when the part grows",
		"choose the extent through"}
}

// isNumber tells whether a size is typed as a number: a formula of parameters follows them.
func isNumber(text string) bool {
	f, err := quantity.Parse(text)
	return err == nil && len(f.Names()) == 0
}

// prism makes the material of one profile between two places along a direction.
// With a taper it is made of two halves that both taper away from the sketch; the
// sides of the half behind it are named "back".
//
// A taper is a draft of the sides about the sketch's plane: there they keep the
// size that was drawn. To both sides of the sketch the sides taper away from it,
// as a die with its parting line in the sketch needs it.
func (w *worker) prism(o outline, along solid.Vec, from, to, taper float64) (*Named, error) {
	if taper == 0 {
		p := o.Profile
		p.Frame.O = p.Frame.O.Add(along.Scale(from))
		shape, h, err := w.kernel.Prism(p, along.Scale(to-from))
		if err != nil {
			return nil, because("look for crossing or touching lines in the sketch", "the profile makes no solid: %v", err)
		}
		return carry(shape, h, nil, w.profileNamer(o.owners)), nil
	}
	half := func(length float64, along solid.Vec, side, end string) (*Named, error) {
		shape, h, err := w.kernel.Prism(o.Profile, along.Scale(length))
		if err != nil {
			return nil, because("look for crossing or touching lines in the sketch", "the profile makes no solid: %v", err)
		}
		n := carry(shape, h, nil, func(src solid.Source) string {
			switch src.Kind {
			case solid.FromEdge:
				return w.step.ID + side + o.owners[src.Index]
			case solid.CapEnd:
				return w.step.ID + end
			}
			return w.step.ID + "/start"
		})
		var sides []int
		for i, f := range shape.Faces() {
			if f.Kind != solid.PlaneFace || math.Abs(f.Normal.Dot(along)) < 1e-6 {
				sides = append(sides, i)
			}
		}
		// A round side that tapers past its own axis would come out turned inside out.
		for _, i := range sides {
			f := shape.Faces()[i]
			if shrink := length * math.Tan(taper); f.Kind == solid.CylinderFace && f.Hollow == (taper < 0) &&
				f.Radius <= math.Abs(shrink) {
				return nil, because("make the angle or the length smaller", "the sides cannot taper by %s over %s: a radius of "+
					"%s comes to its point before", degrees(taper), w.shown(length), w.shown(f.Radius))
			}
		}
		neutral := solid.Plane(o.Frame.O, along)
		shape, h, err = w.kernel.Draft(n.Shape, sides, neutral, taper)
		if err == nil {
			err = w.kernel.Check(shape)
		}
		if err != nil {
			return nil, because("make the angle or the length smaller", "the sides cannot taper by %s over %s: %v",
				degrees(taper), w.shown(length), err)
		}
		return carry(shape, h, []*Named{n}, nil), nil
	}
	front, err := half(to, along, "/side:", "/end")
	if err != nil || from == 0 {
		return front, err
	}
	back, err := half(-from, along.Scale(-1), "/back:", "/start")
	if err != nil {
		return nil, err
	}
	// Where the halves meet there is no face: their caps vanish in the union.
	both, _, err := w.boolean(solid.Union, front, []*Named{back})
	return both, err
}

// span gives where an extent with values begins and ends: lengths for an
// extrusion, angles for a revolution.
//
// Backward is typed as a length greater than zero and counts against the
// direction. Total is what a drawing gives for a symmetric extrusion, and not
// its half.
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

// toNext keeps of a body the part that begins at the sketch: for a cut up to where
// it first comes out of the material, for added material up to where it meets it.
//
// What is ahead of the sketch is found by cutting the whole length with the
// material: for a cut, what is common to both in its first piece; for an
// addition, the first piece outside. The piece that begins nearest to the sketch
// is the one that is meant. Multiple solids are joined first, or each would end
// the piece once.
func (w *worker) toNext(body *Named, origin, along solid.Vec, far float64, cuts bool) (*Named, error) {
	op, what := solid.Difference, "added"
	if cuts {
		op, what = solid.Intersection, "cut"
	}
	var all []*Named
	for _, b := range w.state.bodies {
		all = append(all, b.Named)
	}
	if len(all) == 0 {
		return nil, because("put the step after the one that makes the solid", "there is no solid yet to stop at")
	}
	rest := &Named{Shape: body.Shape, Names: withoutEnd(body.Names, w.step.ID+"/end")}
	if op == solid.Intersection {
		target := all[0]
		if len(all) > 1 {
			joint, _, err := w.boolean(solid.Union, all[0], all[1:])
			if err != nil {
				return nil, err
			}
			target = joint
		}
		all = []*Named{target}
	}
	cut, _, err := w.boolean(op, rest, all)
	if err != nil {
		return nil, err
	}
	// Faces from the material end the piece.
	for i, names := range cut.Names {
		own := false
		for _, n := range names {
			own = own || strings.HasPrefix(n, w.step.ID+"/") || strings.HasPrefix(n, w.step.ID+".")
		}
		if !own {
			cut.Names[i] = []string{w.step.ID + "/end"}
		}
	}
	pieces, err := w.kernel.Split(cut.Shape)
	if err != nil {
		return nil, err
	}
	var keep *Named
	best := math.Inf(1)
	for _, p := range pieces {
		near, most := math.Inf(1), math.Inf(-1)
		for _, f := range p.Faces() {
			d := f.Centroid.Sub(origin).Dot(along)
			near, most = math.Min(near, d), math.Max(most, d)
		}
		if near < best-1e-9 {
			if op == solid.Difference && (near > 1e-6 || most > far-0.5) {
				continue
			}
			best = near
			keep = inherit(p, cut)
		}
	}
	if keep == nil {
		return nil, because("reverse the direction or give a length", "nothing lies ahead at which the %s material could end",
			what)
	}
	return keep, nil
}

// inherit names the faces of a piece of a solid by those of the solid that lie in
// the same place.
//
// Faces of a piece are the same faces as those of the whole, so that kind, area
// and centroid identify them; two faces that agree in all three do not exist in
// one solid.
func inherit(piece solid.Shape, whole *Named) *Named {
	out := &Named{Shape: piece, Names: make([][]string, len(piece.Faces()))}
	faces := whole.Shape.Faces()
	for i, f := range piece.Faces() {
		for k, g := range faces {
			if f.Kind == g.Kind && math.Abs(f.Area-g.Area) <= 1e-9*(1+g.Area) && f.Centroid.Distance(g.Centroid) < 1e-7 {
				out.Names[i] = whole.Names[k]
				break
			}
		}
	}
	return out
}

// toFace prepares an extrusion up to a face: the length that surely reaches it
// and the trimming to it. The trimmed end is named as the extrusion's end.
//
// A flat face square to the direction is a length and nothing else. A slanted
// one is a half space that cuts the end off, and a cylinder is cut with, or kept
// inside of. The face is taken endless: an extrusion may end beside the material
// that has it.
func (w *worker) toFace(name string, origin, along solid.Vec) (length float64, trim func(*Named) (*Named, error),
	err error) {
	face, err := w.face(name)
	if err != nil {
		return 0, nil, err
	}
	box, err := w.bounds()
	if err != nil {
		return 0, nil, err
	}
	size := 4*box.Diagonal() + origin.Norm()
	length = reach(box, origin, along)
	var beyond *Named // what is cut off, or kept
	op := solid.Difference
	switch face.Kind {
	case solid.PlaneFace:
		n := face.Normal
		slope := n.Dot(along)
		if math.Abs(slope) < 1e-6 {
			return 0, nil, because("choose a face across the direction", "the extrusion runs along the %s and never meets it",
				calledFace(name))
		}
		if math.Abs(math.Abs(slope)-1) < 1e-12 {
			d := face.Centroid.Sub(origin).Dot(along)
			if d <= 1e-9 {
				return 0, nil, because("reverse the direction or choose another face", "the %s lies behind the sketch",
					calledFace(name))
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
		beyond, err = w.endTool(solid.Profile{Frame: fr,
			Loops: [][]solid.Segment{{{Kind: "circle", Radius: face.Radius, Forward: true}}}}, face.Axis.Scale(2*size))
		if solid.FromAxis(origin, face.Origin, face.Axis).Norm() < face.Radius {
			op = solid.Intersection
		} else {
			length = math.Max(face.Origin.Sub(origin).Dot(along), 1e-3)
		}
	default:
		return 0, nil, because("choose a flat or cylindrical face", "the %s is a %s", calledFace(name), face.Kind)
	}
	if err != nil {
		return 0, nil, err
	}
	return length, func(body *Named) (*Named, error) {
		out, _, err := w.boolean(op, &Named{Shape: body.Shape, Names: withoutEnd(body.Names, w.step.ID+"/end")},
			[]*Named{beyond})
		if err != nil {
			return nil, err
		}
		if out.Shape.Solids() == 0 {
			return nil, because("reverse the direction or choose another face", "the %s lies behind the sketch",
				calledFace(name))
		}
		return out, nil
	}, nil
}

// withoutEnd takes the name of an end away from faces that have no other: where
// a body was cut off at a face the end is not there any more, and a reference to
// it must not find what took its place.
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

// endTool makes a solid all of whose faces are named as the end of the step.
//
// All its faces get the name of the end, as whichever of them cuts is the end.
func (w *worker) endTool(p solid.Profile, along solid.Vec) (*Named, error) {
	shape, h, err := w.kernel.Prism(p, along)
	if err != nil {
		return nil, err
	}
	return carry(shape, h, nil, func(solid.Source) string { return w.step.ID + "/end" }), nil
}

// slab is a big block whose bottom lies in the XY plane of the frame.
//
// It stands for a half space: the kernel's booleans want bounded solids.
func (w *worker) slab(f solid.Frame, size float64) (*Named, error) {
	return w.endTool(polygon(f, [][2]float64{{-size, -size}, {size, -size}, {size, size}, {-size, size}}), f.Z.Scale(size))
}

// polygon is a profile with straight sides.
func polygon(f solid.Frame, corners [][2]float64) solid.Profile {
	var loop []solid.Segment
	for i := range corners {
		loop = append(loop, solid.Segment{Kind: "line", A: corners[i], B: corners[(i+1)%len(corners)]})
	}
	return solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}
}
