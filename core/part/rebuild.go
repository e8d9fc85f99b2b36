package part

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/solid"
)

// StepReport is the outcome of one step.
type StepReport struct {
	ID, Kind, Name string
	Err            *StepError       // nil when the step stands
	Sketch         *sketch.Solution // of a sketch step that solved or conflicts
	Problems       []sketch.Problem // what keeps a sketch's profile open
	Regions        int
	Warning        string
}

// Build is a rebuilt model. Solid is nil when no step made one.
type Build struct {
	Table *quantity.Table
	Solid *Named
	Steps []StepReport
	state *state
}

// Failed lists the steps that failed.
func (b *Build) Failed() []StepReport {
	var out []StepReport
	for _, s := range b.Steps {
		if s.Err != nil {
			out = append(out, s)
		}
	}
	return out
}

// SketchFrame gives the frame of a placed sketch.
func (b *Build) SketchFrame(id string) (solid.Frame, bool) {
	p, ok := b.state.sketches[id]
	if !ok {
		return solid.Frame{}, false
	}
	return p.frame, true
}

// Rebuilder rebuilds documents and keeps the states it went through, by the hash
// of the steps and values that led there, so that what is common to many
// rebuilds is made once. It is not safe for concurrent use.
type Rebuilder struct {
	kernel solid.Kernel
	cache  map[[32]byte]*cached
	order  [][32]byte
}

// maxCached bounds the number of states kept.
const maxCached = 400

type cached struct {
	state  *state
	report StepReport
}

// NewRebuilder makes a rebuilder on a kernel.
func NewRebuilder(k solid.Kernel) *Rebuilder {
	return &Rebuilder{kernel: k, cache: map[[32]byte]*cached{}}
}

// Kernel gives the kernel that the rebuilder uses.
func (r *Rebuilder) Kernel() solid.Kernel { return r.kernel }

// state is what stands after a step. It is never changed, only replaced.
type state struct {
	solid    *Named
	sketches map[string]*placed
	tools    map[string][]tool
	failed   map[string]bool
}

// placed is a solved sketch with its plane.
type placed struct {
	frame    solid.Frame
	solution *sketch.Solution
	regions  []sketch.Region
}

// tool is material that a step added, removed or kept, so that a pattern can
// repeat it.
type tool struct {
	op   solid.Operation
	body *Named
}

func (s *state) clone() *state {
	n := &state{solid: s.solid, sketches: map[string]*placed{}, tools: map[string][]tool{}, failed: map[string]bool{}}
	for k, v := range s.sketches {
		n.sketches[k] = v
	}
	for k, v := range s.tools {
		n.tools[k] = v
	}
	for k := range s.failed {
		n.failed[k] = true
	}
	return n
}

// Rebuild carries out all steps with the given parameter values in place of the
// document's. A step that fails is reported and left out; the others go on. The
// error is for a document or parameter table that cannot be used at all, or a
// cancelled context.
func (r *Rebuilder) Rebuild(ctx context.Context, d *Document, set map[string]quantity.Quantity) (*Build, error) {
	if err := d.Check(); err != nil {
		return nil, err
	}
	unit, err := quantity.LengthUnit(d.Unit)
	if err != nil {
		return nil, err
	}
	table, err := quantity.Evaluate(d.Parameters, unit, set)
	if err != nil {
		var pe *quantity.ParameterError
		if errors.As(err, &pe) {
			return nil, &DocumentError{fmt.Sprintf("/parameters/%d/value", pe.Index), pe.Error()}
		}
		return nil, err
	}
	b := &Build{Table: table}
	st := &state{}
	hash := sha256.Sum256([]byte(d.Unit))
	for i := range d.Steps {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		step := &d.Steps[i]
		hash = r.hash(hash, step, table)
		c, ok := r.cache[hash]
		if !ok {
			c = r.run(st, step, table, i)
			r.keep(hash, c)
		}
		st = c.state
		b.Steps = append(b.Steps, c.report)
	}
	b.Solid = st.solid
	b.state = st.clone()
	return b, nil
}

func (r *Rebuilder) keep(hash [32]byte, c *cached) {
	if len(r.order) >= maxCached {
		delete(r.cache, r.order[0])
		r.order = r.order[1:]
	}
	r.cache[hash] = c
	r.order = append(r.order, hash)
}

// hash continues the hash of the steps before with this step and the values of
// the parameters it uses.
func (r *Rebuilder) hash(before [32]byte, step *Step, table *quantity.Table) [32]byte {
	h := sha256.New()
	h.Write(before[:])
	body, err := json.Marshal(step)
	if err != nil {
		panic("a step cannot be encoded: " + err.Error()) // plain data: cannot happen
	}
	h.Write(body)
	for _, text := range step.Formulas() {
		if f, err := quantity.Parse(text); err == nil {
			for _, name := range f.Names() {
				q, _ := table.Lookup(name)
				fmt.Fprintf(h, "%s=%x/%d/%d;", name, q.Value, q.Dim.Length, q.Dim.Angle)
			}
		}
	}
	return [32]byte(h.Sum(nil))
}

// run carries out one step on the state before it.
func (r *Rebuilder) run(before *state, step *Step, table *quantity.Table, index int) *cached {
	w := &worker{kernel: r.kernel, step: step, table: table, state: before.clone()}
	w.report = StepReport{ID: step.ID, Kind: step.Kind, Name: step.Name}
	err := w.do()
	if err != nil {
		var se *StepError
		if !errors.As(err, &se) {
			se = &StepError{Why: err.Error()}
		}
		se.Step, se.Name, se.Index = step.ID, step.Name, index
		w.report.Err = se
		after := before.clone()
		after.failed[step.ID] = true
		if p, ok := w.state.sketches[step.ID]; ok {
			after.sketches[step.ID] = p
		}
		return &cached{state: after, report: w.report}
	}
	return &cached{state: w.state, report: w.report}
}

// worker carries out one step.
type worker struct {
	kernel solid.Kernel
	step   *Step
	table  *quantity.Table
	state  *state
	report StepReport
}

func because(remedy, format string, args ...any) error {
	return &StepError{Why: fmt.Sprintf(format, args...), Remedy: remedy}
}

func (w *worker) do() error {
	for _, id := range append([]string{w.step.Sketch}, w.step.Of...) {
		if w.state.failed[id] {
			return because("put that step right first", "it builds on step %s, which failed", id)
		}
	}
	switch w.step.Kind {
	case "sketch":
		return w.sketch()
	case "extrude":
		return w.extrude()
	case "revolve":
		return w.revolve()
	case "hole":
		return w.hole()
	case "fillet", "chamfer":
		return w.edgeBreak()
	case "mirror":
		return w.mirror()
	case "linear-pattern", "circular-pattern":
		return w.pattern()
	}
	return because("", "%q is not a kind of step", w.step.Kind)
}

func (w *worker) length(role, formula string) (float64, error) {
	return w.value(role, formula, quantity.Length)
}

// value evaluates a formula that must be given.
func (w *worker) value(role, formula string, dim quantity.Dim) (float64, error) {
	if strings.TrimSpace(formula) == "" {
		return 0, because("", "it needs a value for %q", role)
	}
	v, err := w.table.Eval(formula, dim)
	if err != nil {
		return 0, because("", "%s: %v", role, err)
	}
	return v, nil
}

func (w *worker) positive(role, formula string, dim quantity.Dim) (float64, error) {
	v, err := w.value(role, formula, dim)
	if err == nil && !(v > 0) {
		return v, because("check the formula "+formula, "%s must be greater than zero and is %s", role, quantity.FormatDecimal(v, 4))
	}
	return v, err
}

// frame resolves the plane of a sketch or mirror.
func (w *worker) frame(p *PlaneRef) (solid.Frame, error) {
	if p == nil {
		return solid.Frame{}, because("name a datum plane or a planar face", "it has no plane")
	}
	var f solid.Frame
	switch {
	case p.Datum == "XY":
		f = solid.World
	case p.Datum == "XZ":
		f = solid.Frame{X: solid.Vec{1, 0, 0}, Y: solid.Vec{0, 0, 1}, Z: solid.Vec{0, -1, 0}}
	case p.Datum == "YZ":
		f = solid.Frame{X: solid.Vec{0, 1, 0}, Y: solid.Vec{0, 0, 1}, Z: solid.Vec{1, 0, 0}}
	case p.Datum != "":
		return f, because("use XY, XZ or YZ", "%q is not a datum plane", p.Datum)
	default:
		if w.state.solid == nil {
			return f, because("put the step after the one that makes the face", "there is no solid yet with a face %q", p.Face)
		}
		face, err := w.state.solid.face(p.Face)
		if err != nil {
			return f, err
		}
		if face.Kind != solid.PlaneFace {
			return f, because("choose a flat face", "the face %q is not flat (%s)", p.Face, face.Kind)
		}
		f = solid.Plane(face.Centroid, face.Normal)
	}
	if p.Offset != "" {
		d, err := w.length("offset", p.Offset)
		if err != nil {
			return f, err
		}
		f.O = f.O.Add(f.Z.Scale(d))
	}
	return f, nil
}

func (w *worker) sketch() error {
	f, err := w.frame(w.step.Plane)
	if err != nil {
		return err
	}
	sk, err := w.traced(f)
	if err != nil {
		return err
	}
	sol, err := sketch.Geometry(sk, w.table.Unit().Factor, w.table)
	if err != nil {
		return because("", "%v", err)
	}
	p := &placed{frame: f, solution: sol}
	p.regions, w.report.Problems = sketch.Regions(sol.Curves)
	w.report.Sketch, w.report.Regions = sol, len(p.regions)
	if !sol.Solved {
		var sets []string
		for _, set := range sol.Conflicts {
			sets = append(sets, strings.Join(set.Set, ", "))
		}
		return because("remove or change one of them", "its constraints contradict each other: %s", strings.Join(sets, "; "))
	}
	w.state.sketches[w.step.ID] = p
	return nil
}

// profiles gives the chosen regions of the step's sketch as kernel profiles,
// with the entity of every edge.
func (w *worker) profiles() (p *placed, list []solid.Profile, entities [][]string, err error) {
	p, ok := w.state.sketches[w.step.Sketch]
	if !ok {
		return nil, nil, nil, because("name a sketch that comes before this step", "there is no sketch %q", w.step.Sketch)
	}
	chosen, err := w.choose(p.regions)
	if err != nil {
		return nil, nil, nil, err
	}
	for _, r := range chosen {
		prof := solid.Profile{Frame: p.frame}
		var owners []string
		for _, loop := range append([]sketch.Loop{r.Outer}, r.Holes...) {
			var segs []solid.Segment
			for _, g := range loop {
				m := g.Mid()
				s := solid.Segment{Kind: g.Kind, A: [2]float64{g.A.X, g.A.Y}, B: [2]float64{g.B.X, g.B.Y}, Mid: [2]float64{m.X, m.Y},
					Center: [2]float64{g.Center.X, g.Center.Y}, Radius: g.Radius, Forward: g.Forward}
				s.Lo, s.Hi = g.Lo, g.Hi
				switch {
				case g.Kind == sketch.KindArc && g.Full:
					s.Kind = "circle"
				case g.Kind == sketch.KindEllipse:
					s.U, s.V = [2]float64{g.Curve.U.X, g.Curve.U.Y}, [2]float64{g.Curve.V.X, g.Curve.V.Y}
				case g.Kind == sketch.KindSpline:
					s.Knots = g.Curve.Knots
					for _, q := range g.Curve.Poles {
						s.Poles = append(s.Poles, [2]float64{q.X, q.Y})
					}
				}
				segs = append(segs, s)
				owners = append(owners, g.Entity)
			}
			prof.Loops = append(prof.Loops, segs)
		}
		list = append(list, prof)
		entities = append(entities, owners)
	}
	return p, list, entities, nil
}

func (w *worker) choose(regions []sketch.Region) ([]sketch.Region, error) {
	if len(regions) == 0 {
		return nil, because("close the profile: look at the open ends of the sketch", "the sketch %s encloses no region", w.step.Sketch)
	}
	if w.step.Regions == nil || w.step.Regions.All {
		var out []sketch.Region
		for _, r := range regions {
			if r.Depth%2 == 0 {
				out = append(out, r)
			}
		}
		return out, nil
	}
	var out []sketch.Region
	for _, want := range w.step.Regions.Bounded {
		n := len(out)
		for _, r := range regions {
			if sameSet(r.Bounds(), want) {
				out = append(out, r)
			}
		}
		if len(out) == n {
			return nil, because("choose the region anew", "the sketch has no region bounded by %s any more", strings.Join(want, ", "))
		}
	}
	return out, nil
}

func sameSet(sorted, want []string) bool {
	m := map[string]bool{}
	for _, s := range want {
		m[s] = true
	}
	if len(m) != len(sorted) {
		return false
	}
	for _, s := range sorted {
		if !m[s] {
			return false
		}
	}
	return true
}

// apply combines the step's tools with the solid and remembers them.
func (w *worker) apply(tools []tool) error {
	w.state.tools[w.step.ID] = append(w.state.tools[w.step.ID], tools...)
	for len(tools) > 0 {
		// Tools with the same operation are combined in one go.
		n := 1
		for n < len(tools) && tools[n].op == tools[0].op && tools[0].op != solid.Intersection {
			n++
		}
		if err := w.combine(tools[0].op, tools[:n]); err != nil {
			return err
		}
		tools = tools[n:]
	}
	return nil
}

func (w *worker) combine(op solid.Operation, tools []tool) error {
	base := w.state.solid
	if base == nil {
		if op != solid.Union {
			return because("put the step after the one that makes the solid", "there is no solid yet to cut")
		}
		base, tools = tools[0].body, tools[1:]
	}
	result := base
	if len(tools) > 0 {
		operands := []*Named{base}
		var shapes []solid.Shape
		for _, t := range tools {
			operands = append(operands, t.body)
			shapes = append(shapes, t.body.Shape)
		}
		shape, h, err := w.kernel.Boolean(op, base.Shape, shapes)
		if err != nil {
			return because("check that its sizes leave more than an edge or a point in common", "the solids could not be combined: %v", err)
		}
		if op == solid.Difference && !touched(h) {
			w.report.Warning = "the cut removes nothing: check its direction and extent"
		}
		result = carry(shape, h, operands, nil)
	}
	if result.Shape.Solids() == 0 {
		return because("check the direction and the extent", "nothing would be left of the solid")
	}
	shape, h, err := w.kernel.Simplify(result.Shape)
	if err != nil {
		return err
	}
	result = carry(shape, h, []*Named{result}, nil)
	w.state.solid = result
	return nil
}

// touched tells whether a face of the result comes from a tool alone: a cut
// without one has removed nothing. A face that both have is where they touch.
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

func (w *worker) operation() (solid.Operation, error) {
	switch w.step.Result {
	case "", "add":
		return solid.Union, nil
	case "cut":
		return solid.Difference, nil
	case "intersect":
		return solid.Intersection, nil
	}
	return 0, because("use add, cut or intersect", "%q is not a result", w.step.Result)
}
