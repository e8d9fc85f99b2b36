package part

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
	"hammerset/core/solid"
	"hammerset/core/words"
)

// StepReport is the outcome of one step.
type StepReport struct {
	ID, Kind, Name string
	Err            *StepError       // nil when the step stands
	Sketch         *sketch.Solution // of a sketch step that solved or conflicts
	Problems       []sketch.Problem // what keeps a sketch's profile open
	Regions        int
	Warning        string
	Hint           *Hint  // what makes it weak although it stands
	Note           string // worth knowing, and no weakness
	Off            bool   // the step is turned off
	Handle         *Handle
	Half           *solid.Transform // half a pitch of a linear or circular pattern
}

// Build is a rebuilt model. Solid is all of it, nil when no step made one; Bodies
// are its solids, in the order in which they were made.
type Build struct {
	Table  *quantity.Table
	Solid  *Named
	Bodies []*Body
	Notes  []Note
	Steps  []StepReport
	state  *state
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
	// Brief leaves out what a failed fillet or chamfer finds out for its message, for
	// rebuilds at many values.
	Brief  bool
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
	bodies   []*Body
	sketches map[string]*placed
	planes   map[string]solid.Frame
	axes     map[string]ray
	points   map[string]solid.Vec
	helixes  map[string]*solid.Path
	deeds    map[string][]deed
	notes    []Note
	failed   map[string]string // by step, what became of it: failed or turned off
}

// placed is a solved sketch with its plane.
type placed struct {
	frame    solid.Frame
	geometry *sketch.Sketch
	solution *sketch.Solution
	regions  []sketch.Region
}

// call says what a curve or point of the sketch is called for people. What is gone has no place in the
// picture, and is said to be gone.
func (p *placed) call(id string) string {
	if id != sketch.Origin && p.geometry.Entity(id) == nil {
		return "a curve that is gone"
	}
	return called.Geometry(p.geometry, p.solution).Of(id)
}

// ray is an axis: a point and a unit direction.
type ray struct{ o, d solid.Vec }

// deed is one thing that a step did, so that a mirror or pattern can repeat it:
// material combined with solids, or edges broken.
type deed struct {
	op    solid.Operation
	body  *Named
	fresh bool     // makes a solid of its own
	on    []string // the solids that it works on; the usual ones when empty
	edges *edgeWork
}

// clone copies what steps have made so far. Everything in it is replaced and
// never changed, so that copying the maps is enough, and a kept state can be
// gone on from many times.
func (s *state) clone() *state {
	n := &state{bodies: slices.Clone(s.bodies), notes: slices.Clone(s.notes), sketches: map[string]*placed{},
		planes: map[string]solid.Frame{}, axes: map[string]ray{},
		points: map[string]solid.Vec{}, helixes: map[string]*solid.Path{}, deeds: map[string][]deed{},
		failed: map[string]string{}}
	maps.Copy(n.sketches, s.sketches)
	maps.Copy(n.planes, s.planes)
	maps.Copy(n.axes, s.axes)
	maps.Copy(n.points, s.points)
	maps.Copy(n.helixes, s.helixes)
	maps.Copy(n.deeds, s.deeds)
	maps.Copy(n.failed, s.failed)
	return n
}

// Rebuild carries out all steps with the given parameter values in place of the
// document's. A step that fails is reported and left out; the others go on. The
// error is for a document or parameter table that cannot be used at all, or a
// cancelled context.
func (r *Rebuilder) Rebuild(ctx context.Context, d *Document, set map[string]quantity.Quantity) (*Build, error) {
	return r.RebuildWith(ctx, d, set, func(int, int) {})
}

// RebuildWith is Rebuild that tells before each step that is not kept how many of
// all are done.
func (r *Rebuilder) RebuildWith(ctx context.Context, d *Document, set map[string]quantity.Quantity,
	progress func(done, all int)) (*Build, error) {
	if err := d.Check(); err != nil {
		return nil, err
	}
	table, err := d.Table(set)
	if err != nil {
		var pe *quantity.ParameterError
		if errors.As(err, &pe) {
			return nil, &DocumentError{fmt.Sprintf("/parameters/%d/value", pe.Index), pe.Error()}
		}
		return nil, err
	}
	b, called := &Build{Table: table}, words.NewNamer(d.Titles(), d.Unit)
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
			progress(i, len(d.Steps))
			c = r.run(ctx, st, step, table, i, called)
			if c.report.Err == nil || !r.Brief {
				r.keep(hash, c)
			}
		}
		st = c.state
		b.Steps = append(b.Steps, c.report)
	}
	b.state = st.clone()
	b.Bodies, b.Notes = st.bodies, st.notes
	switch len(st.bodies) {
	case 0:
	case 1:
		b.Solid = st.bodies[0].Named
	default:
		var shapes []solid.Shape
		var operands []*Named
		for _, x := range st.bodies {
			shapes, operands = append(shapes, x.Shape), append(operands, x.Named)
		}
		all, h, err := r.kernel.Compound(shapes)
		if err != nil {
			return nil, err
		}
		b.Solid = carry(all, h, operands, nil)
	}
	return b, nil
}

// keep holds a state for the next rebuild, under the hash of all that it depends
// on. The oldest goes when there are too many: shapes take megabytes.
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
func (r *Rebuilder) run(ctx context.Context, before *state, step *Step, table *quantity.Table, index int,
	called *words.Namer) *cached {
	w := &worker{ctx: ctx, brief: r.Brief, kernel: r.kernel, step: step, table: table, state: before.clone()}
	w.report = StepReport{ID: step.ID, Kind: step.Kind, Name: step.Name, Off: step.Off}
	if step.Off {
		w.state.failed[step.ID] = "is turned off"
		return &cached{state: w.state, report: w.report}
	}
	err := w.do()
	for _, b := range slices.Concat(before.bodies, w.state.bodies) {
		if err == nil {
			err = b.Shape.Err() // what the step did rests on descriptions
		}
	}
	if err != nil {
		var se *StepError
		if !errors.As(err, &se) {
			se = &StepError{Why: err.Error()}
		}
		se.Why = w.worded(se, called)
		se.Step, se.Name, se.Index = step.ID, step.Name, index
		w.report.Err = se
		after := before.clone()
		after.failed[step.ID] = "failed"
		if p, ok := w.state.sketches[step.ID]; ok {
			after.sketches[step.ID] = p
		}
		return &cached{state: after, report: w.report}
	}
	return &cached{state: w.state, report: w.report}
}

// worker carries out one step.
type worker struct {
	ctx    context.Context
	brief  bool
	kernel solid.Kernel
	step   *Step
	table  *quantity.Table
	state  *state
	report StepReport
}

// because is why a step failed, with what to do. The text is kept as a format
// and its arguments, since faces are called by what they are only after the
// whole part is known.
func because(remedy, format string, args ...any) error {
	return &StepError{Why: fmt.Sprintf(format, args...), Remedy: remedy, format: format, args: args}
}

// do runs one step. A step that builds on one that failed or is turned off fails
// for that reason and for no other, so that the first error is the one to put
// right.
func (w *worker) do() error {
	for _, id := range w.step.Needs() {
		switch w.state.failed[id] {
		case "":
		case "failed":
			return because("put that step right first", "it builds on %s, which failed", calledStep(id))
		default:
			return because("turn that step on, or this one off as well", "it builds on %s, which %s", calledStep(id),
				w.state.failed[id])
		}
	}
	if w.step.Do == nil {
		return because("", "%q is not a kind of step", w.step.Kind)
	}
	return w.step.Do.run(w)
}

// length evaluates a size that is a length, in millimetres.
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

// positive evaluates a size that has to be greater than zero. What is no number
// is not greater either.
func (w *worker) positive(role, formula string, dim quantity.Dim) (float64, error) {
	v, err := w.value(role, formula, dim)
	if err == nil && !(v > 0) {
		return v, because("check the formula "+formula, "%s must be greater than zero and is %s", role,
			quantity.FormulaFormat(w.table.Unit()).Text(quantity.Quantity{Value: v, Dim: dim}))
	}
	return v, err
}
