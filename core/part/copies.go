package part

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/solid"
)

// numbered is the name of the k-th copy of something. Copies are counted from
// the original, which is 1, so that leaving one out renumbers nothing.
//
// The atlas and the reports count the same way.
func numbered(id string, k int) string { return fmt.Sprintf("%s.%d", id, k) }

// instance is one place to which a mirror or pattern repeats.
type instance struct {
	move   solid.Transform
	prefix string // of the names of the copies
}

// Repeated is what a mirror or pattern repeats: what steps did, or else solids; Result says what
// becomes of copies of solids, add or new.
//
// Steps are repeated as what they did (their deeds), and not run again: a hole
// that was drilled through the first wall goes as deep in every copy.
type Repeated struct {
	Of     []string `json:"of,omitempty"`
	Solids []string `json:"solids,omitempty"`
	Result string   `json:"result,omitempty"`
}

// The steps are references like others: none of them can be deleted unnoticed.
func (do *Repeated) visit(v *visitor) {
	v.steps(do.Of...)
	v.solids(do.Solids...)
}

// Repeated lists the steps that a mirror or pattern repeats; none for another step.
//
// It is asked by those who look for what hangs on a step.
func (s *Step) Repeated() []string {
	if r, ok := s.Do.(interface{ repeated() []string }); ok {
		return r.repeated()
	}
	return nil
}

// repeated are the steps that are done again.
//
// By this method any step with the embedded struct is known to repeat.
func (do *Repeated) repeated() []string { return do.Of }

// repeatedFields are common to mirrors and patterns: which steps are repeated,
// or, where none are named, which solids are copied as they are.
func repeatedFields() []Field {
	return []Field{optional(Field{Path: "of", Label: "Steps to repeat", Kind: asSteps,
		Hint: "rounds and bevels can go along"}),
		optional(Field{Path: "solids", Label: "Solids to repeat", Kind: asSolids, When: "of="}),
		{Path: "result", Label: "Copies of solids", Kind: asChoice, Options: []string{"add", "new"}, When: "of=",
			Default: "add"}}
}

// repeat copies what steps did, or whole solids, to all instances. Each deed is
// repeated everywhere before the next, so that material comes before the edges
// that are broken on it.
//
// Names of what comes of instance k begin with its prefix
//
//	lp1.3:h1.p1/bore
//
// so that each bore of a pattern can be told from the others, and the first,
// which is the original, keeps the name that it had.
func (do *Repeated) repeat(w *worker, list []instance) error {
	var deeds []deed
	for _, id := range do.Of {
		d, ok := w.state.deeds[id]
		if !ok {
			return because("name steps that make or break material and come before", "%s does nothing that could be repeated",
				calledStep(id))
		}
		deeds = append(deeds, d...)
	}
	bodies, err := w.named(do.Solids)
	if err != nil {
		return err
	}
	if len(do.Of) == 0 {
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
			switch do.Result {
			case "", "add":
			case "new":
				d.fresh = true
			default:
				return because("use add or new", "the copies of a solid cannot %s", do.Result)
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
//
// Shapes are shared between deeds and never changed, so that the original stays.
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
//
// Directions are turned and not shifted.
func moved(e solid.Edge, t solid.Transform) solid.Edge {
	e.A, e.B, e.Mid, e.Center, e.Axis = t.Apply(e.A), t.Apply(e.B), t.Apply(e.Mid), t.Apply(e.Center), t.Turn(e.Axis)
	return e
}

// Mirror repeats on the other side of a plane.
type Mirror struct {
	Repeated
	Plane *PlaneRef `json:"plane,omitempty"`
}

// It has one instance, so there are none to leave out.
func mirrorKind() *Kind {
	return &Kind{
		Name: "mirror", Title: "Mirror", What: "steps or solids on the other side of a plane", Group: "repeat", Letter: "m",
		New: func() Operation { return &Mirror{} }, Feature: true, Repeats: true,
		Fields: slices.Concat([]Field{{Path: "plane", Label: "Plane", Kind: asPlane}}, repeatedFields()),
	}
}

// The plane may be a face of a solid.
func (do *Mirror) visit(v *visitor) {
	v.steps(do.Of...)
	v.plane("plane", do.Plane)
	v.solids(do.Solids...)
}

// run repeats what the steps did on the other side of a plane, which is one
// instance under the reflection p - 2 ((p - o) · n) n.
func (do *Mirror) run(w *worker) error {
	f, err := w.frame(do.Plane)
	if err != nil {
		return err
	}
	return do.repeat(w, []instance{{solid.Reflection(f.O, f.Z), w.step.ID + ":"}})
}

// maxInstances bounds a pattern, against hostile documents.
const maxInstances = 500

// count evaluates a whole number of instances.
//
// Whole numbers only: 3.5 instances would have to be rounded, and which way is a
// guess.
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

// Pattern is what every pattern has. The original is instance 1; instances are numbered row by
// row, and Skip are those that are left out.
type Pattern struct {
	Repeated
	Skip []int `json:"skip,omitempty"`
}

// skipField leaves instances out by their numbers, which stay those of the whole
// pattern.
func skipField() Field {
	return optional(Field{Path: "skip", Label: "Left out", Kind: asSkip, Hint: "numbers of instances; the original is 1"})
}

// along repeats by motions, those of the instances after the first.
//
// Numbers that are left out must exist. A pattern that has shrunk since then
// says so, because an instance that was to be left out and is not there may be a
// slip.
func (do *Pattern) along(w *worker, moves []solid.Transform) error {
	for _, k := range do.Skip {
		if k == 1 {
			return because("leave out another one", "instance 1 is the original and cannot be left out")
		}
		if k < 1 || k > len(moves)+1 {
			return because(fmt.Sprintf("leave out one of 2 to %d", len(moves)+1), "there is no instance %d to leave out", k)
		}
	}
	var list []instance
	for i, m := range moves {
		if !slices.Contains(do.Skip, i+2) {
			list = append(list, instance{m, numbered(w.step.ID, i+2) + ":"})
		}
	}
	return do.repeat(w, list)
}

// something refuses a pattern that names nothing to repeat.
//
// Without this an empty list would mean the whole solid, as it does for a
// mirror.
func (do *Pattern) something() error {
	if len(do.Of) == 0 && len(do.Solids) == 0 {
		return because("name the steps or solids to repeat", "it repeats nothing")
	}
	return nil
}

// LinearPattern repeats in one or two directions.
type LinearPattern struct {
	Pattern
	Axis     *AxisRef `json:"axis,omitempty"`
	Count    string   `json:"count,omitempty"`
	Spacing  string   `json:"spacing,omitempty"`
	Axis2    *AxisRef `json:"axis2,omitempty"`
	Count2   string   `json:"count2,omitempty"`
	Spacing2 string   `json:"spacing2,omitempty"`
	Reverse  bool     `json:"reverse,omitempty"`
	Reverse2 bool     `json:"reverse2,omitempty"` // the second direction the other way
}

// The second direction is asked only once it is wanted.
func linearPatternKind() *Kind {
	return &Kind{
		Name: "linear-pattern", Title: "Linear pattern", What: "in one or two directions", Group: "repeat", Letter: "n",
		Main: "spacing",
		New:  func() Operation { return &LinearPattern{} }, Feature: true, Repeats: true,
		Fields: slices.Concat(repeatedFields(), []Field{{Path: "axis", Label: "Direction", Kind: asAxis},
			{Path: "count", Label: "Count", Kind: asNumber}, {Path: "spacing", Label: "Spacing", Kind: asLength},
			optional(Field{Path: "axis2", Label: "Second direction", Kind: asAxis}),
			optional(Field{Path: "count2", Label: "Count", Kind: asNumber, When: "axis2"}),
			optional(Field{Path: "spacing2", Label: "Spacing", Kind: asLength, When: "axis2"}),
			reverseField(), {Path: "reverse2", Label: "Other sense of the second direction", Kind: asFlag, When: "axis2"},
			skipField()}),
	}
}

// Both counts are numbers and both spacings lengths; a formula may follow
// either.
func (do *LinearPattern) visit(v *visitor) {
	v.number("count", "count", &do.Count)
	v.length("spacing", "spacing", &do.Spacing)
	v.number("count2", "count", &do.Count2)
	v.length("spacing2", "spacing", &do.Spacing2)
	v.steps(do.Of...)
	v.axis(do.Axis)
	v.axis(do.Axis2)
	v.solids(do.Solids...)
}

// run repeats along one direction, or along two for a grid.
func (do *LinearPattern) run(w *worker) error {
	if err := do.something(); err != nil {
		return err
	}
	moves, err := do.rows(w)
	if err != nil {
		return err
	}
	return do.along(w, moves)
}

// CircularPattern repeats around an axis: over a full turn, or over an angle.
type CircularPattern struct {
	Pattern
	Axis    *AxisRef `json:"axis,omitempty"`
	Count   string   `json:"count,omitempty"`
	Angle   string   `json:"angle,omitempty"`
	Reverse bool     `json:"reverse,omitempty"`
}

// Empty, the angle is a full turn, which is what nearly all are.
func circularPatternKind() *Kind {
	return &Kind{
		Name: "circular-pattern", Title: "Circular pattern", What: "around an axis", Group: "repeat",
		Letter: "n", Main: "angle",
		New: func() Operation { return &CircularPattern{} }, Feature: true, Repeats: true,
		Fields: slices.Concat(repeatedFields(), []Field{axisField(), {Path: "count", Label: "Count", Kind: asNumber},
			optional(Field{Path: "angle", Label: "Over the angle", Kind: asAngle, Hint: "a full turn when empty"}),
			reverseField(), skipField()}),
	}
}

// The angle may be empty and is then no formula.
func (do *CircularPattern) visit(v *visitor) {
	v.number("count", "count", &do.Count)
	v.angle("angle", "angle", &do.Angle)
	v.steps(do.Of...)
	v.axis(do.Axis)
	v.solids(do.Solids...)
}

// run repeats around an axis.
func (do *CircularPattern) run(w *worker) error {
	if err := do.something(); err != nil {
		return err
	}
	moves, err := do.around(w)
	if err != nil {
		return err
	}
	return do.along(w, moves)
}

// PointPattern repeats at the points of a sketch.
type PointPattern struct {
	Pattern
	Sketch string   `json:"sketch,omitempty"`
	From   string   `json:"from,omitempty"` // the point of the sketch where the original is
	At     []string `json:"at,omitempty"`
}

// The original is at one of the points, which moves the others along with it.
func pointPatternKind() *Kind {
	return &Kind{
		Name: "point-pattern", Title: "Pattern at points", What: "at the points of a sketch", Group: "repeat", Letter: "n",
		New: func() Operation { return &PointPattern{} }, Feature: true, Repeats: true,
		Fields: slices.Concat(repeatedFields(),
			[]Field{sketchField(), {Path: "from", Label: "The original is at", Kind: asSpot},
				{Path: "at", Label: "Repeated at", Kind: asSpots}, skipField()}),
	}
}

// Points belong to the sketch, so that the sketch is what is told.
func (do *PointPattern) visit(v *visitor) {
	v.steps(do.Sketch)
	do.Repeated.visit(v)
}

// run repeats from one point of a sketch to others.
func (do *PointPattern) run(w *worker) error {
	if err := do.something(); err != nil {
		return err
	}
	moves, err := do.moves(w)
	if err != nil {
		return err
	}
	return do.along(w, moves)
}

// rows are the moves of all instances but the original: k times the step along
// the row, and m times along the rows beside it. A spacing of zero would put all
// of them in one place, where a boolean has no answer.
//
// Instance (i, j) is moved by i times the step and j times the step across, and
// is number j n + i + 1. Half a step is kept for the atlas, which tries patterns
// that begin half a pitch off.
func (do *LinearPattern) rows(w *worker) ([]solid.Transform, error) {
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
			return n, step, because("give a spacing; less than zero goes the other way",
				"the spacing is zero, so that all instances lie in one place")
		}
		if reverse {
			by = -by
		}
		return n, d.Scale(by), nil
	}
	n, step, err := row(do.Axis, do.Count, do.Spacing, do.Reverse)
	if err != nil {
		return nil, err
	}
	if at, ok := do.original(w); ok && n > 1 {
		w.pulled("spacing", at.Add(step), step.Unit(), 1)
	}
	m, across := 1, solid.Vec{}
	if do.Axis2 != nil {
		if m, across, err = row(do.Axis2, do.Count2, do.Spacing2, do.Reverse != do.Reverse2); err != nil {
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

// original is the middle of what is repeated.
//
// The handle of the spacing is drawn beside it.
func (do *Repeated) original(w *worker) (solid.Vec, bool) {
	shape := solid.Shape(nil)
	for _, id := range do.Of {
		for _, d := range w.state.deeds[id] {
			if d.body != nil && shape == nil {
				shape = d.body.Shape
			}
		}
	}
	if list, err := w.named(do.Solids); err == nil && len(list) > 0 {
		shape = w.state.bodies[list[0]].Shape
	}
	if shape == nil {
		return solid.Vec{}, false
	}
	box, err := w.kernel.Bounds(shape)
	return box.Min.Add(box.Max).Scale(0.5), err == nil
}

// around are the turns of all instances but the original. Over a full turn n
// instances are 360/n apart, because the last would fall on the first; over less
// the first and the last stand at the two ends, which is n-1 steps. Half a step
// is kept as well: a ring begun half a pitch off is the commonest mistake, and
// the atlas tries it.
func (do *CircularPattern) around(w *worker) ([]solid.Transform, error) {
	n, err := w.count("count", do.Count)
	if err != nil {
		return nil, err
	}
	origin, axis, err := w.axis(do.Axis, nil)
	if err != nil {
		return nil, err
	}
	if do.Reverse {
		axis = axis.Scale(-1)
	}
	total := 2 * math.Pi
	if do.Angle != "" {
		if total, err = w.positive("angle", do.Angle, quantity.Angle); err != nil {
			return nil, err
		}
	}
	if at, ok := do.original(w); ok && do.Angle != "" && n > 1 {
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

// moves lead from one point of a sketch to each of the others.
//
// A point that the original stands on is refused, since its copy would lie in
// it.
func (do *PointPattern) moves(w *worker) ([]solid.Transform, error) {
	p, err := w.placedSketch(do.Sketch)
	if err != nil {
		return nil, err
	}
	place := func(id string) (solid.Vec, error) {
		if id == sketch.Origin {
			return p.frame.O, nil
		}
		c, ok := p.solution.Points[id]
		if !ok {
			return solid.Vec{}, because("choose the points again", "a point is not in %s any more", calledStep(do.Sketch))
		}
		return p.frame.Point(c.X, c.Y, 0), nil
	}
	from, err := place(do.From)
	if err != nil {
		return nil, err
	}
	if len(do.At) == 0 || len(do.At) > maxInstances {
		return nil, because(fmt.Sprintf("name 1 to %d points of the sketch", maxInstances), "it has %d places", len(do.At))
	}
	var out []solid.Transform
	for _, id := range do.At {
		to, err := place(id)
		if err != nil {
			return nil, err
		}
		if to.Distance(from) < 1e-9 {
			return nil, because("leave it out", "%s is where the original stands", p.call(id))
		}
		out = append(out, solid.Translation(to.Sub(from)))
	}
	return out, nil
}
