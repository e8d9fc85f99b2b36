package part

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// edgeWork is a fillet or chamfer, kept so that it can be repeated elsewhere: the
// edges as they were, with their sizes.
type edgeWork struct {
	kind  string
	owner string // names the faces that it makes
	of    string // of a copy, the owner of what it is a copy of: copies are broken in one go
	edges []brokenEdge
}

// brokenEdge is one edge of an edgeWork. First is the face on which the first of
// two distances of a chamfer lies, by its name.
//
// The edge is kept as geometry and not by number: numbers change with every
// step, and a copy of it, moved by a pattern, has no name to be found by.
type brokenEdge struct {
	owner         string // names the faces that come of it
	edge          solid.Edge
	radius        float64
	first, second float64
	on            string
}

// Broken says which edges a fillet or chamfer breaks: those that are named, or every edge of the
// part.
//
// Every edge means those with a corner; smooth seams have none to break.
type Broken struct {
	Edges []EdgeRef `json:"edges,omitempty"`
	All   bool      `json:"all,omitempty"`
}

// brokenFields are common to fillets and chamfers. An edge may have a size of
// its own in the field that own names.
func brokenFields(own string) []Field {
	return []Field{{Path: "edges", Label: "Edges", Kind: asEdges, When: "all=", Hint: "tangent edges follow by themselves",
		Own: own}, {Path: "all", Label: "Every edge of the part", Kind: asFlag}}
}

// Fillet rounds edges. An edge may have a radius of its own.
type Fillet struct {
	Broken
	Radius string `json:"radius,omitempty"`
}

// It makes no first solid, and patterns repeat it together with what it rounds.
func filletKind() *Kind {
	return &Kind{
		Name: "fillet", Title: "Fillet", What: "edges rounded", Group: "edges", Letter: "f", Main: "radius",
		New: func() Operation { return &Fillet{} }, Feature: true, Repeats: true,
		Fields: slices.Concat(brokenFields("radius"), []Field{{Path: "radius", Label: "Radius", Kind: asLength}}),
	}
}

// The radius of an edge is told with the number of the edge in its path, as the
// form has it.
func (do *Fillet) visit(v *visitor) {
	v.length("radius", "radius", &do.Radius)
	for i := range do.Edges {
		v.length(fmt.Sprintf("edges.%d.radius", i), "radius", &do.Edges[i].Radius)
	}
	v.edges(do.Edges...)
}

// run rounds edges. The radius of the whole is asked for only where some edge
// has none of its own.
func (do *Fillet) run(w *worker) error {
	if err := do.something(w); err != nil {
		return err
	}
	var base brokenEdge
	var err error
	every := !do.All && !slices.ContainsFunc(do.Edges, func(r EdgeRef) bool { return r.Radius == "" })
	if !every || do.Radius != "" {
		if base.radius, err = w.positive("radius", do.Radius, quantity.Length); err != nil {
			return err
		}
	}
	return do.breaks(w, base)
}

// Chamfer bevels edges: by one distance, by two, or by a distance and an angle.
type Chamfer struct {
	Broken
	Distance string `json:"distance,omitempty"`
	Second   string `json:"second,omitempty"`
	Angle    string `json:"angle,omitempty"`
}

// The second distance and the angle exclude one another, so that the angle is
// asked only without a second distance.
func chamferKind() *Kind {
	return &Kind{
		Name: "chamfer", Title: "Chamfer", What: "edges bevelled", Group: "edges", Letter: "c", Main: "distance",
		New: func() Operation { return &Chamfer{} }, Feature: true, Repeats: true,
		Fields: slices.Concat(brokenFields(""), []Field{{Path: "distance", Label: "Distance", Kind: asLength},
			optional(Field{Path: "second", Label: "Second distance", Kind: asLength}),
			optional(Field{Path: "angle", Label: "or angle", Kind: asAngle, When: "second="})}),
	}
}

func (do *Chamfer) visit(v *visitor) {
	v.length("distance", "distance", &do.Distance)
	v.length("second", "second distance", &do.Second)
	v.angle("angle", "angle", &do.Angle)
	v.edges(do.Edges...)
}

// run bevels edges: by one distance, by two, or by a distance d and an angle a,
// where the second distance is d tan a. At 90 degrees and more the bevel would
// never come to the other face.
func (do *Chamfer) run(w *worker) error {
	err := do.something(w)
	if err != nil {
		return err
	}
	var base brokenEdge
	if base.first, err = w.positive("distance", do.Distance, quantity.Length); err != nil {
		return err
	}
	base.second = base.first
	switch {
	case do.Second != "":
		base.second, err = w.positive("second", do.Second, quantity.Length)
	case do.Angle != "":
		var a float64
		if a, err = w.positive("angle", do.Angle, quantity.Angle); err == nil && a >= math.Pi/2 {
			err = because("give an angle below 90 deg", "the angle of the chamfer is too large")
		}
		base.second = base.first * math.Tan(a)
	}
	if err != nil {
		return err
	}
	return do.breaks(w, base)
}

// something refuses to break nothing.
func (do *Broken) something(w *worker) error {
	if len(w.state.bodies) == 0 {
		return because("put the step after the one that makes the solid", "there is no solid yet")
	}
	if len(do.Edges) == 0 && !do.All {
		return because("name at least one edge", "it has no edges")
	}
	return nil
}

// breaks breaks the edges, each with the sizes of base but for a radius of its own.
//
// The face of the first distance is the one that was picked first, unless the
// reference says otherwise. The handle goes on the first edge, where the mouse
// finds it.
func (do *Broken) breaks(w *worker, base brokenEdge) error {
	refs := do.Edges
	work := edgeWork{kind: w.step.Kind, owner: w.step.ID}
	list, err := w.pick(refs)
	if err != nil {
		return err
	}
	if do.All {
		list = w.everyEdge()
	}
	for _, p := range list {
		body := w.state.bodies[p.body]
		edges := body.Shape.Edges()
		for k, i := range p.edges {
			e := base
			e.edge = edges[i]
			if !do.All {
				ref := refs[p.refs[k]]
				if ref.Radius != "" && base.first == 0 {
					if e.radius, err = w.positive("radius", ref.Radius, quantity.Length); err != nil {
						return err
					}
				}
				e.on = ref.First
				if e.on == "" && ref.Between != nil {
					e.on = ref.Between[0]
				} else if e.on == "" {
					e.on = ref.Around
				}
			}
			work.edges = append(work.edges, e)
		}
	}
	if size := max(base.radius, base.first); size > 0 {
		w.breakHandle(list, size)
	}
	return w.apply([]deed{{edges: &work}})
}

// everyEdge picks all edges with a corner.
//
// A smooth edge lies between faces that are tangent there; it has nothing to
// round.
func (w *worker) everyEdge() []picked {
	var out []picked
	for i, b := range w.state.bodies {
		p := picked{body: i}
		for k, e := range b.Shape.Edges() {
			if len(e.Faces) == 2 && !e.Smooth && !e.Seam && !e.Degenerate {
				p.edges, p.refs = append(p.edges, k), append(p.refs, 0)
			}
		}
		out = append(out, p)
	}
	return out
}

// sameEdge tells whether an edge lies where another one lies.
//
// The middle is compared as well as the ends: two halves of a circle share
// theirs.
func sameEdge(a, b solid.Edge) bool {
	if a.Kind != b.Kind || math.Abs(a.Length-b.Length) > 1e-5*(1+a.Length) {
		return false
	}
	const tol = 1e-5
	if a.Kind == solid.CircleEdge && a.A.Distance(a.B) < tol {
		return b.A.Distance(b.B) < tol && a.Center.Distance(b.Center) < tol && math.Abs(a.Radius-b.Radius) < tol &&
			a.Axis.Parallel(b.Axis, 1e-7)
	}
	ends := a.A.Distance(b.A) < tol && a.B.Distance(b.B) < tol || a.A.Distance(b.B) < tol && a.B.Distance(b.A) < tol
	slack := tol
	if a.Kind == solid.OtherEdge {
		slack = 0.05 * a.Length // the parameter of a free curve is the kernel's own
	}
	return ends && a.Mid.Distance(b.Mid) < slack
}

// breakAll breaks the edges of copies of one work in one go, which takes the kernel a fraction of
// the time of one after the other. Where that does not go, they are broken singly, so that the one
// that does not fit is named.
//
// Broken together, the edges that meet get their common corner from the kernel;
// one by one that would need an order. Failing whole and trying singly costs
// twice, and only where it fails.
func (w *worker) breakAll(works []*edgeWork) error {
	all := edgeWork{kind: works[0].kind}
	for _, work := range works {
		for _, e := range work.edges {
			e.owner = work.owner
			all.edges = append(all.edges, e)
		}
	}
	before := w.state.bodies
	if len(works) > 1 {
		brief := w.brief
		w.brief = true
		err := w.breakEdges(all)
		w.brief = brief
		if err == nil {
			return nil
		}
		w.state.bodies = before
	}
	for _, work := range works {
		one := edgeWork{kind: work.kind}
		for _, e := range work.edges {
			e.owner = work.owner
			one.edges = append(one.edges, e)
		}
		if err := w.breakEdges(one); err != nil {
			return err
		}
	}
	return nil
}

// breakEdges rounds or bevels edges that are found by where they lie.
//
// A face that comes of an edge is called by the faces that the edge lay between,
//
//	f1/round(e1/end|e1/side:l1)
//
// so that it is found again after sizes change. An edge of a copy that is not
// there (the pattern put it beyond the part) is an error with the place of it.
func (w *worker) breakEdges(work edgeWork) error {
	jobs := make([]edgeJob, len(w.state.bodies))
	for _, want := range work.edges {
		found := false
		for i, b := range w.state.bodies {
			for k, e := range b.Shape.Edges() {
				if sameEdge(e, want.edge) && !slices.Contains(jobs[i].edges, k) {
					jobs[i].edges, jobs[i].broken = append(jobs[i].edges, k), append(jobs[i].broken, want)
					found = true
					break
				}
			}
			if found {
				break
			}
		}
		if !found {
			at := want.edge.Mid
			return because("leave that instance out, or make the "+work.kind+" a step after the pattern",
				"the edge at %s that its %s should break is not there", calledPlace(w.table.Unit(), at[:]...), work.kind)
		}
	}
	for i, j := range jobs {
		if len(j.edges) == 0 {
			continue
		}
		base := w.state.bodies[i].Named
		shape, h, err := w.broken(base, work.kind, j.edges, j.broken, 1)
		if err != nil {
			return w.misfit(base, work.kind, j.edges, j.broken, err)
		}
		word := map[string]string{"fillet": "round", "chamfer": "bevel"}[work.kind]
		corners := base.Shape.Vertices()
		n := carry(shape, h, []*Named{base}, func(src solid.Source) string {
			switch src.Kind {
			case solid.FromEdge:
				owner := j.broken[0].owner
				if k := slices.Index(j.edges, src.Index); k >= 0 {
					owner = j.broken[k].owner
				}
				return fmt.Sprintf("%s/%s(%s)", owner, word, base.edgeName(src.Index))
			case solid.FromVertex:
				return j.ownerAt(corners[src.Index]) + "/corner"
			}
			return ""
		})
		w.put(i, n)
	}
	return nil
}

// edgeJob is what is broken of one solid: its edges by number, and what is wanted of each.
type edgeJob struct {
	edges  []int
	broken []brokenEdge
}

// ownerAt is the work that a corner belongs to: that of the nearest edge that ends there.
//
// At a corner where copies of two works meet, the nearer one has it.
func (j *edgeJob) ownerAt(corner solid.Vec) string {
	best, owner := math.Inf(1), j.broken[0].owner
	for _, b := range j.broken {
		if d := math.Min(b.edge.A.Distance(corner), b.edge.B.Distance(corner)); d < best {
			best, owner = d, b.owner
		}
	}
	return owner
}

// broken has the kernel break edges, with all sizes times a factor.
//
// The factor lets misfit look for the size that fits, with all sizes in
// proportion. A chamfer with unequal distances has to know its first face; with
// equal ones it need not, and does not fail for want of it.
func (w *worker) broken(base *Named, kind string, edges []int, list []brokenEdge,
	factor float64) (solid.Shape, solid.History, error) {
	var shape solid.Shape
	var h solid.History
	var err error
	if kind == "fillet" {
		radii := make([]float64, len(edges))
		for k, b := range list {
			radii[k] = b.radius * factor
		}
		shape, h, err = w.kernel.Fillet(base.Shape, edges, radii)
	} else {
		all := base.Shape.Edges()
		bevels := make([]solid.Bevel, len(edges))
		for k, b := range list {
			bevels[k] = solid.Bevel{Edge: edges[k], Face: -1, First: b.first * factor, Second: b.second * factor}
			if b.first == b.second {
				continue
			}
			for _, f := range all[edges[k]].Faces {
				if slices.ContainsFunc(base.Names[f], func(n string) bool {
					return n == unqualified(b.on) || strings.HasSuffix(n, ":"+unqualified(b.on))
				}) {
					bevels[k].Face = f
				}
			}
			if bevels[k].Face < 0 {
				return nil, nil, because("say on which of the two faces the first distance lies",
					"the two distances of the chamfer are not told apart at the %s", base.calledEdge(edges[k]))
			}
		}
		shape, h, err = w.kernel.Chamfer(base.Shape, bevels)
	}
	if err == nil {
		err = w.sound(shape)
	}
	return shape, h, err
}

// misfit explains why a fillet or chamfer does not fit: on which edges, and the
// largest size that does.
//
// Nine halvings of the size leave 1/512 of it, and the figure is rounded down to
// a hundredth, so that the size named does fit. A person gets one edge named
// instead of the list that was tried; with more than forty edges trying each
// would take too long.
func (w *worker) misfit(base *Named, kind string, edges []int, list []brokenEdge, cause error) error {
	if se, ok := cause.(*StepError); ok {
		return se
	}
	size := list[0].radius
	if kind == "chamfer" {
		size = list[0].first
	}
	if w.brief {
		return because("try a smaller size, or fewer edges", "a %s of %s does not fit on the %s (%v)", kind, w.shown(size),
			base.calledEdge(edges[0]), cause)
	}
	// Edges that do not fit even by themselves; all of them, where only together.
	var bad []int
	if len(edges) > 1 && len(edges) <= 40 {
		for k := range edges {
			if _, _, err := w.broken(base, kind, edges[k:k+1], list[k:k+1], 1); err != nil {
				bad = append(bad, k)
			}
		}
	}
	var where calledEdges
	for k, edge := range edges {
		if len(bad) == 0 || slices.Contains(bad, k) {
			where = append(where, base.calledEdge(edge))
		}
	}
	together := ""
	if len(bad) == 0 && len(edges) > 1 {
		together = " together"
	}
	if len(bad) > 0 {
		size = list[bad[0]].radius
		if kind == "chamfer" {
			size = list[bad[0]].first
		}
	}
	lo, hi := 0.0, 1.0
	for range 9 {
		mid := (lo + hi) / 2
		if _, _, err := w.broken(base, kind, edges, list, mid); err == nil {
			lo = mid
		} else {
			hi = mid
		}
	}
	remedy := "choose fewer edges"
	if lo > 0 {
		remedy = fmt.Sprintf("the largest that fits there is about %s", w.shown(math.Floor(lo*size*100)/100))
	}
	return because(remedy, "a %s of %s does not fit on %s%s (%v)", kind, w.shown(size), where, together, cause)
}
