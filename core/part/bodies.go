package part

import (
	"math"
	"slices"
	"strings"

	"hammerset/core/solid"
)

// The solids of a part. Each step gets them as the steps before it left them and
// puts changed ones in their place in a copy of the list: what an earlier step
// had is kept for editing, and is never written over.

// Body is one of the solids of a part, known by the step that made it.
type Body struct {
	ID string
	*Named
}

// unqualified cuts the solid off a name: "e1/end@e2" is the face e1/end of the
// solid e2.
//
// It is qualified only where two solids have faces of one name, as copies have,
// so that references stay short where nothing can be mistaken.
func unqualified(name string) string {
	n, _, _ := strings.Cut(name, "@")
	return n
}

// bodiesWith lists the solids that have a face of that name.
//
// Without a solid in the name all are searched, since a face keeps its name when
// solids are joined.
func (w *worker) bodiesWith(name string) []*Body {
	face, on, qualified := strings.Cut(name, "@")
	var out []*Body
	for _, b := range w.state.bodies {
		if (!qualified || b.ID == on) && len(b.Faces(face)) > 0 {
			out = append(out, b)
		}
	}
	return out
}

// face resolves a reference to a face; the largest piece, where it was split. All
// pieces must lie on one surface: where the name has come to stand for several
// places, none is picked.
//
// A cut can part a face; its pieces lie on one surface and any of them gives its
// axis, plane or radius. The largest is taken because its outline is the one
// that was drawn.
func (w *worker) face(name string) (solid.Face, error) {
	if len(w.state.bodies) == 0 {
		return solid.Face{}, because("put the step after the one that makes the face", "there is no solid yet with the %s",
			calledFace(name))
	}
	var best *solid.Face
	for _, b := range w.bodiesWith(name) {
		for _, i := range b.Faces(unqualified(name)) {
			f := b.Shape.Surface(i)
			if best != nil && !sameSurface(*best, f) {
				return solid.Face{}, because("choose the face anew, with the solid that it is on",
					"the %s has come to be in several places", calledFace(name))
			}
			if best == nil || f.Area > best.Area {
				best = &f
			}
		}
	}
	if best == nil {
		return solid.Face{}, goneError(name)
	}
	return *best, nil
}

// sameSurface tells whether two faces lie on one surface; of free surfaces this is
// taken for granted, since one curve of a profile makes one.
//
// A cone is told by its axis and angle, although two cones may share these and
// be shifted along the axis: one profile edge makes one cone, and a name stands
// for one edge. Tolerances are 1e-6 mm and 1e-7 rad, a thousandth of what any
// drawing asks.
func sameSurface(a, b solid.Face) bool {
	if a.Kind != b.Kind {
		return false
	}
	const tol = 1e-6
	coaxial := a.Axis.Parallel(b.Axis, 1e-7) && solid.FromAxis(b.Origin, a.Origin, a.Axis).Norm() < tol
	switch a.Kind {
	case solid.PlaneFace:
		return a.Normal.Parallel(b.Normal, 1e-7) && math.Abs(b.Centroid.Sub(a.Centroid).Dot(a.Normal)) < tol
	case solid.CylinderFace:
		return coaxial && math.Abs(a.Radius-b.Radius) < tol
	case solid.ConeFace:
		return coaxial && math.Abs(a.HalfAngle-b.HalfAngle) < 1e-7
	case solid.SphereFace:
		return a.Origin.Distance(b.Origin) < tol && math.Abs(a.Radius-b.Radius) < tol
	case solid.TorusFace:
		return a.Origin.Distance(b.Origin) < tol && math.Abs(a.Radius-b.Radius) < tol &&
			math.Abs(a.MinorRadius-b.MinorRadius) < tol
	}
	return true
}

// picked are edges of one solid, each with the reference that chose it.
type picked struct {
	body  int // position among the solids
	edges []int
	refs  []int
}

// pick resolves edge references on all solids.
//
// Edges are looked for on each solid by itself, since an edge lies between two
// faces of one solid. Only when no solid has any does the reason of one become
// the error.
func (w *worker) pick(refs []EdgeRef) ([]picked, error) {
	if len(w.state.bodies) == 0 {
		return nil, because("put the step after the one that makes the solid", "there is no solid yet")
	}
	out := make([]picked, len(w.state.bodies))
	for r, ref := range refs {
		names := []string{ref.Around}
		if ref.Between != nil {
			names = ref.Between[:]
		}
		for _, n := range names {
			if n != "" && len(w.bodiesWith(n)) == 0 {
				return nil, goneError(n)
			}
		}
		found := 0
		var trouble error
		for i, b := range w.state.bodies {
			if slices.ContainsFunc(names, func(n string) bool { return n != "" && !slices.Contains(w.bodiesWith(n), b) }) {
				continue
			}
			var box solid.Box // needed for a choice by place only
			if ref.Near != nil {
				var err error
				if box, err = w.kernel.Bounds(b.Shape); err != nil {
					return nil, err
				}
			}
			list, err := b.edges([]EdgeRef{ref.bare()}, box)
			if err != nil {
				trouble = err
				continue
			}
			for _, e := range list {
				if !slices.Contains(out[i].edges, e) {
					out[i].edges, out[i].refs = append(out[i].edges, e), append(out[i].refs, r)
					found++
				}
			}
		}
		if found == 0 && trouble != nil {
			return nil, trouble
		}
		if found == 0 && ref.Between != nil {
			return nil, because("choose the edge anew", "the %s and the %s are on different solids",
				calledFace(names[0]), calledFace(names[1]))
		}
	}
	var used []picked
	for i := range out {
		if out[i].body = i; len(out[i].edges) > 0 {
			used = append(used, out[i])
		}
	}
	return used, nil
}

// bare is the reference without the solids that its names are qualified with.
func (r EdgeRef) bare() EdgeRef {
	if r.Between != nil {
		r.Between = &[2]string{unqualified(r.Between[0]), unqualified(r.Between[1])}
	}
	r.Around = unqualified(r.Around)
	return r
}

// oneEdge resolves a reference to one edge.
//
// Two faces often meet in two edges (a slot and a flat side): then a place near
// the wanted one is needed, and none is guessed.
func (w *worker) oneEdge(ref EdgeRef) (solid.Edge, error) {
	list, err := w.pick([]EdgeRef{ref})
	if err != nil {
		return solid.Edge{}, err
	}
	if len(list) != 1 || len(list[0].edges) != 1 {
		n := 0
		for _, p := range list {
			n += len(p.edges)
		}
		return solid.Edge{}, because("say which of them by its place", "the faces meet in %d edges, and one is wanted", n)
	}
	return w.state.bodies[list[0].body].Shape.Edges()[list[0].edges[0]], nil
}

// bounds is the box of all solids so far; empty when there is none.
//
// It may be a little larger than the part, as the kernel adds tolerances; it is
// used for how far to reach, never as a size.
func (w *worker) bounds() (solid.Box, error) {
	var all solid.Box
	for i, b := range w.state.bodies {
		box, err := w.kernel.Around(b.Shape)
		if err != nil {
			return all, err
		}
		if i == 0 {
			all = box
			continue
		}
		for k := range 3 {
			all.Min[k], all.Max[k] = math.Min(all.Min[k], box.Min[k]), math.Max(all.Max[k], box.Max[k])
		}
	}
	return all, nil
}

// put replaces a solid; the list itself is never changed in place.
//
// Reports of earlier steps and of a second rebuild share the list.
func (w *worker) put(i int, n *Named) {
	w.state.bodies = slices.Clone(w.state.bodies)
	w.state.bodies[i] = &Body{w.state.bodies[i].ID, n}
}

// named finds solids by the steps that made them.
func (w *worker) named(ids []string) ([]int, error) {
	var out []int
	for _, id := range ids {
		i := slices.IndexFunc(w.state.bodies, func(b *Body) bool { return b.ID == id })
		if i < 0 {
			return nil, because("name a solid by the step that made it", "there is no solid of %s at this step", calledStep(id))
		}
		if !slices.Contains(out, i) {
			out = append(out, i)
		}
	}
	return out, nil
}

// apply carries out deeds and remembers them as the step's.
//
// Deeds with the same operation and the same solids go to the kernel in one
// call, which for a row of 50 holes is many times as fast as 50 calls. An
// intersection cannot be put together so: A ∩ (B ∪ C) is not A ∩ B ∩ C. Edges of
// copies go together too. A step that was moved (the atlas tries a step
// elsewhere) has its material moved before it is used.
func (w *worker) apply(deeds []deed) error {
	if t := w.step.Moved; t != nil {
		for i := range deeds {
			if deeds[i].edges != nil {
				continue // edges are found by name, where the material of their step is
			}
			if err := w.move(&deeds[i], *t); err != nil {
				return err
			}
		}
	}
	if c := w.step.Clipped; c != nil {
		if err := w.clip(deeds, *c); err != nil {
			return err
		}
	}
	w.state.deeds[w.step.ID] = append(slices.Clone(w.state.deeds[w.step.ID]), deeds...)
	for len(deeds) > 0 {
		d := deeds[0]
		if d.edges != nil {
			works := []*edgeWork{d.edges}
			for k := 1; k < len(deeds) && deeds[k].edges != nil && d.edges.of != "" && deeds[k].edges.of == d.edges.of &&
				deeds[k].edges.kind == d.edges.kind; k++ {
				works = append(works, deeds[k].edges)
			}
			if err := w.breakAll(works); err != nil {
				return err
			}
			deeds = deeds[len(works):]
			continue
		}
		// Material with the same operation is combined in one go.
		n := 1
		for n < len(deeds) && deeds[n].edges == nil && deeds[n].op == d.op && !d.fresh && !deeds[n].fresh &&
			d.op != solid.Intersection && slices.Equal(d.on, deeds[n].on) {
			n++
		}
		var tools []*Named
		for _, x := range deeds[:n] {
			tools = append(tools, x.body)
		}
		if d.fresh {
			w.found(tools[0])
		} else if err := w.combine(d.op, tools, d.on); err != nil {
			return err
		}
		deeds = deeds[n:]
	}
	return nil
}

// clip cuts the material of deeds off at a plane.
func (w *worker) clip(deeds []deed, c Clip) error {
	for i := range deeds {
		d := &deeds[i]
		if d.edges != nil {
			continue
		}
		box, err := w.kernel.Around(d.body.Shape)
		if err != nil {
			return err
		}
		// Half of space, as far as the material can reach from the place.
		l := 2 * (box.Diagonal() + box.Min.Distance(c.At))
		frame := solid.Plane(c.At, c.Normal.Unit())
		frame.O = c.At
		corners := [][2]float64{{-l, -l}, {l, -l}, {l, l}, {-l, l}}
		var loop []solid.Segment
		for k := range corners {
			loop = append(loop, solid.Segment{Kind: "line", A: corners[k], B: corners[(k+1)%4]})
		}
		half, h, err := w.kernel.Prism(solid.Profile{Frame: frame, Loops: [][]solid.Segment{loop}}, frame.Z.Scale(l))
		if err != nil {
			return err
		}
		d.body, _, err = w.boolean(solid.Difference, d.body, []*Named{{Shape: half, Names: make([][]string, len(h))}})
		if err != nil {
			return err
		}
	}
	return nil
}

// found adds a solid of its own, known by the step; further ones of the same step
// are numbered.
//
// The first solid of a step has the name of the step, so that it does not change
// when a further one comes.
func (w *worker) found(n *Named) {
	id := w.step.ID
	for k := 2; slices.ContainsFunc(w.state.bodies, func(b *Body) bool { return b.ID == id }); k++ {
		id = numbered(w.step.ID, k)
	}
	w.state.bodies = append(slices.Clone(w.state.bodies), &Body{id, n})
}

// combine unites tools with solids, or takes them away. Without a choice a union is
// with the solids that the tools touch (the last one made, where they touch none),
// and a cut goes through all.
//
// A cut that meets nothing gives a warning and not an error: a part that grows
// narrower should not fail where a slot no longer reaches it. A solid that is
// cut away whole is gone; that nothing at all is left is an error.
func (w *worker) combine(op solid.Operation, tools []*Named, on []string) error {
	if len(w.state.bodies) == 0 {
		if op != solid.Union {
			return because("put the step after the one that makes the solid", "there is no solid yet to cut")
		}
		w.found(tools[0])
		if len(tools) == 1 {
			return w.simplify(0)
		}
		tools = tools[1:]
	}
	targets, err := w.named(on)
	if err != nil {
		return err
	}
	if op == solid.Union {
		return w.unite(tools, targets)
	}
	if len(targets) == 0 {
		for i := range w.state.bodies {
			targets = append(targets, i)
		}
	}
	hit := false
	var gone []int
	for _, i := range targets {
		base := w.state.bodies[i].Named
		result, h, err := w.boolean(op, base, tools)
		if err != nil {
			return err
		}
		if op == solid.Difference && !touched(h) && result.Shape.Solids() > 0 {
			continue
		}
		hit = true
		if result.Shape.Solids() == 0 {
			gone = append(gone, i)
			continue
		}
		w.put(i, result)
		if err := w.simplify(i); err != nil {
			return err
		}
	}
	if len(gone) == len(w.state.bodies) {
		return because("check the direction and the extent", "nothing would be left of the solid")
	}
	if !hit {
		w.report.Warning = "the cut removes nothing: check its direction and extent"
	}
	for k := len(gone) - 1; k >= 0; k-- {
		w.state.bodies = slices.Delete(slices.Clone(w.state.bodies), gone[k], gone[k]+1)
	}
	return nil
}

// unite joins tools and solids into the first of the solids.
//
// Touching is a distance below 1e-6 mm. Several solids that one tool touches
// become one, as a bridge between two does.
func (w *worker) unite(tools []*Named, targets []int) error {
	if len(targets) == 0 {
		last := len(w.state.bodies) - 1
		for i, b := range w.state.bodies {
			if last == 0 {
				break
			}
			for _, t := range tools {
				d, _, _, err := w.kernel.Distance(solid.Pick{Shape: b.Shape, Kind: solid.PickWhole},
					solid.Pick{Shape: t.Shape, Kind: solid.PickWhole})
				if err != nil {
					return err
				}
				if d < 1e-6 {
					targets = append(targets, i)
					break
				}
			}
		}
		if len(targets) == 0 {
			targets = []int{last}
		}
	}
	into := targets[0]
	for k := len(targets) - 1; k > 0; k-- {
		tools = append(tools, w.state.bodies[targets[k]].Named)
		w.state.bodies = slices.Delete(slices.Clone(w.state.bodies), targets[k], targets[k]+1)
		if targets[k] < into {
			into--
		}
	}
	result, _, err := w.boolean(solid.Union, w.state.bodies[into].Named, tools)
	if err != nil {
		return err
	}
	w.put(into, result)
	return w.simplify(into)
}

// boolean combines a solid with others and carries the names of all their faces
// over to the result. What a boolean has no answer to is nearly always contact
// without volume: an edge or a point in common.
//
// With the history a face of the result is traced to the operand that it comes
// from, and takes its names: this is how a reference survives the steps behind
// it.
func (w *worker) boolean(op solid.Operation, base *Named, tools []*Named) (*Named, solid.History, error) {
	operands := []*Named{base}
	var shapes []solid.Shape
	for _, t := range tools {
		operands, shapes = append(operands, t), append(shapes, t.Shape)
	}
	shape, h, err := w.kernel.Boolean(op, base.Shape, shapes)
	if err != nil {
		return nil, nil, because("check that its sizes leave more than an edge or a point in common",
			"the solids could not be combined: %v", err)
	}
	return carry(shape, h, operands, nil), h, nil
}

// simplify joins the faces of a solid that lie on one surface. Where the kernel cannot join
// all of them, the step says so where it begins, and not every step that comes after it.
//
// Two blocks set side by side make one top, as a drawing shows it and as a
// person picks it; the joined face has the names of both.
func (w *worker) simplify(i int) error {
	n := w.state.bodies[i].Named
	joined := &Named{Shape: n.Shape, Names: n.Names}
	shape, h, whole, err := w.kernel.Simplify(n.Shape)
	if err == nil {
		joined = carry(shape, h, []*Named{n}, nil)
	}
	joined.Pieces = err != nil || !whole
	if joined.Pieces && !n.Pieces {
		w.report.Note = "some faces stay in pieces that lie on one surface; it does no harm unless they are picked later"
	}
	w.put(i, joined)
	return nil
}

// touched tells whether a face of the result comes from a tool alone: a cut
// without one has removed nothing. A face that both have is where they touch.
//
// The kernel gives back the solid as it was when a tool misses it, and no error.
func touched(h solid.History) bool {
	for _, sources := range h {
		tool, own := false, false
		for _, src := range sources {
			if src.Kind == solid.FromFace {
				tool = tool || src.Operand > 0
				own = own || src.Operand == 0
			}
		}
		if tool && !own {
			return true
		}
	}
	return false
}

// Made is what becomes of material that a step makes: Result is add, cut, intersect or new, and
// Solids are those that it works on, by the steps that made them.
//
// With new, the material is a solid of its own even where it touches others: a
// part with two bodies, or a tool to cut with later.
type Made struct {
	Result string   `json:"result,omitempty"`
	Solids []string `json:"solids,omitempty"`
}

func (do *Made) visit(v *visitor) { v.solids(do.Solids...) }

// resultField says what becomes of new material: added to what is there, cut
// from it, what both share, or a solid of its own.
//
// Adding is the first choice because it is the commonest.
func resultField() Field {
	return Field{Path: "result", Label: "Result", Kind: asChoice, Options: []string{"add", "cut", "intersect", "new"},
		Default: "add"}
}

// solidsField says which solids a step works on. Left empty, it is what a person
// would mean: what it touches, and for a cut everything in its way.
func solidsField() Field {
	return optional(Field{Path: "solids", Label: "Solids it works on", Kind: asSolids,
		Hint: "those it touches, or all for a cut"})
}

// deed is what is done with the material, by its result.
func (do *Made) deed(body *Named) (deed, error) {
	d := deed{body: body, on: do.Solids}
	switch do.Result {
	case "", "add":
		d.op = solid.Union
	case "cut":
		d.op = solid.Difference
	case "intersect":
		d.op = solid.Intersection
	case "new":
		d.fresh = true
	default:
		return d, because("use add, cut, intersect or new", "%q is not a result", do.Result)
	}
	return d, nil
}

// Combine is a union, difference or intersection of solids, as its kind says.
type Combine struct {
	Solids []string `json:"solids,omitempty"` // the one that is worked on
	With   []string `json:"with,omitempty"`
	Keep   bool     `json:"keep,omitempty"` // the others stay

	op solid.Operation
}

func unionKind() *Kind { return combineKind("union", "Union", "solids made one", solid.Union) }

func differenceKind() *Kind {
	return combineKind("difference", "Difference", "one solid taken from another", solid.Difference)
}

func intersectionKind() *Kind {
	return combineKind("intersection", "Intersection", "what solids have in common", solid.Intersection)
}

// One operation with three names in the list: people look for what it does.
func combineKind(name, title, what string, op solid.Operation) *Kind {
	return &Kind{
		Name: name, Title: title, What: what, Group: "solids", Letter: "u", New: func() Operation { return &Combine{op: op} },
		Feature: true,
		Fields: []Field{{Path: "solids", Label: "Solid", Kind: asSolid}, {Path: "with", Label: "With", Kind: asSolids},
			{Path: "keep", Label: "Keep the other solids", Kind: asFlag}},
	}
}

// Solids on both sides are told: none may be deleted unnoticed.
func (do *Combine) visit(v *visitor) {
	v.solids(do.Solids...)
	v.solids(do.With...)
}

// run combines the named solid with others. A solid that is kept beside its
// union gets names of its own: no two solids may have faces of one name, or a
// reference could mean either.
func (do *Combine) run(w *worker) error {
	if len(do.Solids) != 1 || len(do.With) == 0 {
		return because("name the solid to work on and those to combine it with", "it needs one solid and at least one other")
	}
	base, err := w.named(do.Solids)
	if err != nil {
		return err
	}
	with, err := w.named(do.With)
	if err != nil {
		return err
	}
	if slices.Contains(with, base[0]) {
		return because("name another solid", "a solid cannot be combined with itself")
	}
	var tools []*Named
	for _, i := range with {
		n := w.state.bodies[i].Named
		if do.Keep {
			n = n.renamed(w.step.ID + ":") // so that no two solids have faces of one name
		}
		tools = append(tools, n)
	}
	id := w.state.bodies[base[0]].ID
	if do.op == solid.Intersection {
		for _, t := range tools {
			if err := w.combine(do.op, []*Named{t}, []string{id}); err != nil {
				return err
			}
		}
	} else if err := w.combine(do.op, tools, []string{id}); err != nil {
		return err
	}
	if !do.Keep {
		w.state.bodies = slices.DeleteFunc(slices.Clone(w.state.bodies), func(b *Body) bool {
			return slices.Contains(do.With, b.ID)
		})
	}
	return nil
}
