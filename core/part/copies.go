package part

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/solid"
)

func numbered(id string, k int) string { return fmt.Sprintf("%s.%d", id, k) }

// instance is one place to which a mirror or pattern repeats.
type instance struct {
	move   solid.Transform
	prefix string // of the names of the copies
}

// repeat copies what steps did, or whole solids, to all instances. Each deed is
// repeated everywhere before the next, so that material comes before the edges
// that are broken on it.
func (w *worker) repeat(list []instance) error {
	var deeds []deed
	for _, id := range w.step.Of {
		d, ok := w.state.deeds[id]
		if !ok {
			return because("name steps that make or break material and come before", "step %q does nothing that could be repeated", id)
		}
		deeds = append(deeds, d...)
	}
	bodies, err := w.named(w.step.Solids)
	if err != nil {
		return err
	}
	if len(w.step.Of) == 0 {
		if len(w.state.bodies) == 0 {
			return because("put the step after the one that makes the solid", "there is nothing to repeat")
		}
		if len(bodies) == 0 {
			for i := range w.state.bodies {
				bodies = append(bodies, i)
			}
		}
		for _, i := range bodies {
			b := w.state.bodies[i]
			d := deed{op: solid.Union, body: b.Named, on: []string{b.ID}}
			switch w.step.Result {
			case "", "add":
			case "new":
				d.fresh = true
			default:
				return because("use add or new", "the copies of a solid cannot %s", w.step.Result)
			}
			deeds = append(deeds, d)
		}
	}
	var all []deed
	for _, d := range deeds {
		if d.edges == nil {
			for _, at := range list {
				copied := d
				if err := w.move(&copied, at.move); err != nil {
					return err
				}
				copied.body = copied.body.renamed(at.prefix)
				all = append(all, copied)
			}
			continue
		}
		for _, at := range list {
			copied := d
			if err := w.move(&copied, at.move); err != nil {
				return err
			}
			copied.edges.owner, copied.edges.of = at.prefix+d.edges.owner, d.edges.owner
			all = append(all, copied)
		}
	}
	if len(all) == 0 {
		w.state.deeds[w.step.ID] = nil
		return nil
	}
	return w.apply(all)
}

// move puts a deed somewhere else; what it shares with others stays as it is.
func (w *worker) move(d *deed, t solid.Transform) error {
	if d.edges != nil {
		work := edgeWork{kind: d.edges.kind, owner: d.edges.owner}
		for _, e := range d.edges.edges {
			e.edge = moved(e.edge, t)
			work.edges = append(work.edges, e)
		}
		d.edges = &work
		return nil
	}
	shape, h, err := w.kernel.Transform(d.body.Shape, t)
	if err != nil {
		return err
	}
	d.body = carry(shape, h, []*Named{d.body}, nil)
	return nil
}

// moved is an edge somewhere else.
func moved(e solid.Edge, t solid.Transform) solid.Edge {
	e.A, e.B, e.Mid, e.Center, e.Axis = t.Apply(e.A), t.Apply(e.B), t.Apply(e.Mid), t.Apply(e.Center), t.Turn(e.Axis)
	return e
}

func (w *worker) mirror() error {
	f, err := w.frame(w.step.Plane)
	if err != nil {
		return err
	}
	return w.repeat([]instance{{solid.Reflection(f.O, f.Z), w.step.ID + ":"}})
}

// maxInstances bounds a pattern, against hostile documents.
const maxInstances = 500

// count evaluates a whole number of instances.
func (w *worker) count(role, formula string) (int, error) {
	n, err := w.value(role, formula, quantity.Number)
	if err != nil {
		return 0, err
	}
	if n != math.Trunc(n) || n < 1 || n > maxInstances {
		return 0, because(fmt.Sprintf("give a whole number from 1 to %d", maxInstances), "the %s is %g", role, n)
	}
	return int(n), nil
}

// pattern repeats in one or two directions, around an axis, or at the points of a
// sketch. The original is instance 1; instances are numbered row by row.
func (w *worker) pattern() error {
	if len(w.step.Of) == 0 && len(w.step.Solids) == 0 {
		return because("name the steps or solids to repeat", "it repeats nothing")
	}
	var moves []solid.Transform // of the instances after the first
	var err error
	switch w.step.Kind {
	case "linear-pattern":
		moves, err = w.rows()
	case "circular-pattern":
		moves, err = w.around()
	default:
		moves, err = w.atPoints()
	}
	if err != nil {
		return err
	}
	for _, k := range w.step.Skip {
		if k == 1 {
			return because("leave out another one", "instance 1 is the original and cannot be left out")
		}
		if k < 1 || k > len(moves)+1 {
			return because(fmt.Sprintf("leave out one of 2 to %d", len(moves)+1), "there is no instance %d to leave out", k)
		}
	}
	var list []instance
	for i, m := range moves {
		if !slices.Contains(w.step.Skip, i+2) {
			list = append(list, instance{m, numbered(w.step.ID, i+2) + ":"})
		}
	}
	return w.repeat(list)
}

func (w *worker) rows() ([]solid.Transform, error) {
	row := func(a *AxisRef, count, spacing string, reverse bool) (n int, step solid.Vec, err error) {
		if n, err = w.count("count", count); err != nil {
			return n, step, err
		}
		_, d, err := w.axis(a, nil)
		if err != nil {
			return n, step, err
		}
		by, err := w.value("spacing", spacing, quantity.Length)
		if err != nil {
			return n, step, err
		}
		if by == 0 {
			return n, step, because("give a spacing; less than zero goes the other way", "the spacing is zero, so that all instances lie in one place")
		}
		if reverse {
			by = -by
		}
		return n, d.Scale(by), nil
	}
	n, step, err := row(w.step.Axis, w.step.Count, w.step.Spacing, w.step.Reverse)
	if err != nil {
		return nil, err
	}
	if at, ok := w.original(); ok && n > 1 {
		w.pulled("spacing", at.Add(step), step.Unit(), 1)
	}
	m, across := 1, solid.Vec{}
	if w.step.Axis2 != nil {
		if m, across, err = row(w.step.Axis2, w.step.Count2, w.step.Spacing2, w.step.Reverse != w.step.Reverse2); err != nil {
			return nil, err
		}
	}
	half := solid.Translation(step.Scale(0.5))
	w.report.Half = &half
	if n*m > maxInstances {
		return nil, because("repeat less often", "%d instances are more than the %d that are made", n*m, maxInstances)
	}
	var out []solid.Transform
	for j := range m {
		for i := range n {
			if i+j > 0 {
				out = append(out, solid.Translation(step.Scale(float64(i)).Add(across.Scale(float64(j)))))
			}
		}
	}
	return out, nil
}

// original is the middle of what a pattern repeats.
func (w *worker) original() (solid.Vec, bool) {
	shape := solid.Shape(nil)
	for _, id := range w.step.Of {
		for _, d := range w.state.deeds[id] {
			if d.body != nil && shape == nil {
				shape = d.body.Shape
			}
		}
	}
	if list, err := w.named(w.step.Solids); err == nil && len(list) > 0 {
		shape = w.state.bodies[list[0]].Shape
	}
	if shape == nil {
		return solid.Vec{}, false
	}
	box, err := w.kernel.Bounds(shape)
	return box.Min.Add(box.Max).Scale(0.5), err == nil
}

func (w *worker) around() ([]solid.Transform, error) {
	n, err := w.count("count", w.step.Count)
	if err != nil {
		return nil, err
	}
	origin, axis, err := w.axis(w.step.Axis, nil)
	if err != nil {
		return nil, err
	}
	if w.step.Reverse {
		axis = axis.Scale(-1)
	}
	total := 2 * math.Pi
	if w.step.Angle != "" {
		if total, err = w.positive("angle", w.step.Angle, quantity.Angle); err != nil {
			return nil, err
		}
	}
	if at, ok := w.original(); ok && w.step.Angle != "" && n > 1 {
		w.swung("angle", solid.Rotation(origin, axis, total).Apply(at), origin, axis, 1)
	}
	step := total / float64(n)
	if total < 2*math.Pi-1e-9 && n > 1 {
		step = total / float64(n-1)
	}
	half := solid.Rotation(origin, axis, step/2)
	w.report.Half = &half
	var out []solid.Transform
	for k := 1; k < n; k++ {
		out = append(out, solid.Rotation(origin, axis, float64(k)*step))
	}
	return out, nil
}

// atPoints moves from one point of a sketch to each of the others.
func (w *worker) atPoints() ([]solid.Transform, error) {
	p, err := w.placedSketch(w.step.Sketch)
	if err != nil {
		return nil, err
	}
	place := func(id string) (solid.Vec, error) {
		if id == sketch.Origin {
			return p.frame.O, nil
		}
		c, ok := p.solution.Points[id]
		if !ok {
			return solid.Vec{}, because("name a point of the sketch", "the sketch %s has no point %q", w.step.Sketch, id)
		}
		return p.frame.Point(c.X, c.Y, 0), nil
	}
	from, err := place(w.step.From)
	if err != nil {
		return nil, err
	}
	if len(w.step.At) == 0 || len(w.step.At) > maxInstances {
		return nil, because(fmt.Sprintf("name 1 to %d points of the sketch", maxInstances), "it has %d places", len(w.step.At))
	}
	var out []solid.Transform
	for _, id := range w.step.At {
		to, err := place(id)
		if err != nil {
			return nil, err
		}
		if to.Distance(from) < 1e-9 {
			return nil, because("leave it out", "the point %s is where the original stands", id)
		}
		out = append(out, solid.Translation(to.Sub(from)))
	}
	return out, nil
}

// Needs lists the steps that a step names, in order and once each: what must come
// before it and stand.
func (s *Step) Needs() []string {
	var out []string
	add := func(ids ...string) {
		for _, id := range ids {
			if id != "" && !slices.Contains(out, id) {
				out = append(out, id)
			}
		}
	}
	face := func(names ...string) {
		for _, n := range names {
			add(makers(n)...)
		}
	}
	edge := func(e *EdgeRef) {
		if e == nil {
			return
		}
		face(e.Around, e.First)
		if e.Between != nil {
			face(e.Between[:]...)
		}
	}
	plane := func(p *PlaneRef) {
		if p != nil {
			add(p.Step)
			face(p.Face)
		}
	}
	axis := func(a *AxisRef) {
		if a == nil {
			return
		}
		add(a.Step)
		face(a.Face)
		edge(a.Edge)
		if id, _, ok := strings.Cut(a.Line, "."); ok {
			add(id)
		}
	}
	add(s.Sketch, s.Path)
	add(s.Sections...)
	add(s.Of...)
	plane(s.Plane)
	for i := range s.Planes {
		plane(&s.Planes[i])
	}
	for i := range s.Points {
		p := &s.Points[i]
		add(p.Step)
		if id, _, ok := strings.Cut(p.Sketch, "."); ok {
			add(id)
		}
		if p.Corner != nil {
			face(p.Corner[:]...)
		}
		edge(p.Center)
		edge(p.Edge)
	}
	axis(s.Axis)
	axis(s.Axis2)
	if s.Extent != nil {
		face(s.Extent.Face)
	}
	if p := s.Place; p != nil {
		face(p.Face)
		if p.From != nil {
			edge(&p.From[0].Edge)
			edge(&p.From[1].Edge)
		}
		if p.Circle != nil {
			edge(&p.Circle.About)
		}
		for i := range p.Centered {
			edge(&p.Centered[i])
		}
	}
	for i := range s.Edges {
		edge(&s.Edges[i])
	}
	face(s.Faces...)
	for _, e := range s.Entities {
		for _, t := range e.Traced {
			if strings.Contains(t, "/") {
				face(t)
			}
		}
	}
	for _, id := range append(slices.Clone(s.Solids), s.With...) {
		// A solid is known by the step that made it, with a number where it made several.
		base, _, _ := strings.Cut(id, ".")
		add(id, base)
	}
	return out
}

// makers lists the steps that a name of a face speaks of: the one that made it, and
// those that copied it or broke the edges that it came from.
func makers(name string) []string {
	var out []string
	for _, part := range strings.FieldsFunc(name, func(r rune) bool { return strings.ContainsRune("(|)+@", r) }) {
		head, _, ok := strings.Cut(part, "/")
		if !ok {
			head = part
		}
		for _, id := range strings.Split(head, ":") {
			base, _, _ := strings.Cut(id, ".") // an instance or a hole of the step
			for _, x := range []string{id, base} {
				if x != "" && !slices.Contains(out, x) {
					out = append(out, x)
				}
			}
		}
	}
	return out
}
