// Package check runs the whole inspection of one attempt: intake, unit, pose,
// matching, measuring, robustness, diagnosis and marks.
package check

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/characteristic"
	"hammerset/core/diagnose"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/grade"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/core/sketch"
	"hammerset/core/sketch/edit"
	"hammerset/core/sketch/review"
	"hammerset/core/solid"
)

// Reference is the key of an exercise: a model document, or the data of a STEP
// file. Atlas is the mistake atlas of the exercise, where it has been made.
type Reference struct {
	Document *part.Document
	STEP     []byte
	Atlas    *atlas.Atlas
}

// Attempt is what a student handed in, recognised by content.
type Attempt struct {
	Name     string
	Document *part.Document
	STEP     []byte
	// MeshFile is a mesh as it was handed in, of kind stl or 3mf; Mesh is what was read from
	// it. An STL has no unit and is taken to be in the sheet's.
	Files    []File // several STEP files: the part, and what-ifs by their names
	MeshFile []byte
	MeshKind string
	Mesh     *solid.Mesh
}

// Unusable is an attempt that cannot be checked: what it is and what to do.
type Unusable struct{ What, Remedy string }

func (e *Unusable) Error() string { return e.What + "; " + e.Remedy }

// Stages of a check, as told to the progress function.
const (
	Reading    = "reading"
	Rebuilding = "rebuilding"
	Measuring  = "measuring"
	Explaining = "looking for causes"
	Comparing  = "laying it over the reference"
	Varying    = "varying sizes"
	Marking    = "marking"
)

// Outcome is the report with the mesh for showing it, which lies where the
// reference does.
type Outcome struct {
	Report      *report.Report `json:"report"`
	AttemptMesh *solid.Mesh    `json:"attemptMesh"`
	// Compared is for the instructor alone: the reference can be read from it.
	Compared *Compared `json:"compared,omitempty"`
}

// Checker runs checks on one kernel. It is not safe for concurrent use.
type Checker struct {
	Rebuilder *part.Rebuilder
	Sweeps    *robust.Cache // optional
	// known is the reference that was described last: many attempts in turn are checked
	// against one.
	known struct {
		shape solid.Shape
		names [][]string
		geo   *inspect.Meshed
	}
}

// describe describes the reference, or gives it as it was described before.
func (c *Checker) describe(key *part.Named) (*inspect.Meshed, error) {
	if c.known.shape == key.Shape && len(c.known.names) == len(key.Names) && (len(key.Names) == 0 || &c.known.names[0] == &key.Names[0]) {
		return c.known.geo, nil
	}
	geo, err := solid.Describe(c.Rebuilder.Kernel(), key.Shape, key.Names)
	if err != nil {
		return nil, err
	}
	meshed, err := inspect.MeshOf(c.Rebuilder.Kernel(), key.Shape, geo)
	if err == nil {
		c.known.shape, c.known.names, c.known.geo = key.Shape, key.Names, meshed
	}
	return meshed, err
}

// Load brings the reference of an exercise into being: its solid with names. A
// STEP reference's faces are named face:1, face:2 and so on, in the file's order.
func (c *Checker) Load(ctx context.Context, ref Reference) (*part.Named, *part.Build, error) {
	k := c.Rebuilder.Kernel()
	if ref.Document != nil {
		b, err := c.Rebuilder.Rebuild(ctx, ref.Document, nil)
		if err != nil {
			return nil, nil, fmt.Errorf("the reference: %w", err)
		}
		if f := b.Failed(); len(f) > 0 {
			return nil, nil, fmt.Errorf("the reference: %w", f[0].Err)
		}
		if b.Solid == nil {
			return nil, nil, errors.New("the reference makes no solid")
		}
		return b.Solid, b, nil
	}
	content, err := k.ReadSTEP(ctx, ref.STEP)
	if err != nil {
		return nil, nil, fmt.Errorf("the reference: %w", err)
	}
	if content.Solids == 0 {
		return nil, nil, errors.New("the reference holds no solid")
	}
	shape, _, _, err := k.Simplify(content.Shape)
	if err != nil {
		return nil, nil, err
	}
	n := &part.Named{Shape: shape}
	for i := range shape.Faces() {
		n.Names = append(n.Names, []string{fmt.Sprintf("face:%d", i+1)})
	}
	if err := shape.Err(); err != nil {
		return nil, nil, err
	}
	return n, nil, nil
}

// Run checks an attempt. The error is *Unusable where the attempt cannot be
// checked at all; progress is told the stage and how far it is, from 0 to 1.
func (c *Checker) Run(ctx context.Context, ex *exercise.Exercise, ref Reference, att Attempt, progress func(stage string, done float64)) (*Outcome, error) {
	r := &run{Checker: c, k: c.Rebuilder.Kernel(), ex: ex, miscounted: map[string]bool{}, progress: progress,
		report: &report.Report{Hammerset: report.Version, Checker: report.Checker, Exercise: ex.Title, Unit: ex.Unit,
			Steps: []report.Step{}, Sketches: []report.Sketch{}, Sweep: []report.Sweep{}, Findings: []report.Finding{}, Characteristics: []report.Characteristic{}, Whole: []report.Figure{}, Marks: []report.Mark{}, Causes: []report.Cause{}}}
	progress(Reading, 0)
	key, _, err := c.Load(ctx, ref)
	if err != nil {
		return nil, err
	}
	known, err := c.describe(key)
	if err != nil {
		return nil, err
	}
	r.ref = known.Geometry
	if att.Mesh != nil {
		return r.ofMesh(att)
	}
	var varied map[string][]byte
	if len(att.Files) > 0 {
		if varied, err = r.sort(&att); err != nil {
			return nil, err
		}
	}
	shape, err := r.intake(ctx, att)
	if err != nil {
		return nil, err
	}
	if shape, err = r.tidy(shape); err != nil {
		return nil, err
	}
	r.notes(att.Document)
	r.report.Attempt.Solids, r.report.Attempt.Faces = r.att.Solids, len(r.att.Faces)
	progress(Measuring, 0)
	r.unit()
	r.place()
	if err := r.characteristics(ctx); err != nil {
		return nil, err
	}
	r.rescale()
	r.whole(shape)
	progress(Explaining, 0)
	mine, err := inspect.MeshOf(r.k, shape, r.att)
	if err != nil {
		return nil, err
	}
	if err := r.explain(ctx, ref, known, mine); err != nil {
		return nil, err
	}
	progress(Comparing, 0)
	r.elsewhere(known, mine)
	laid := r.lay(mine.Mesh)
	compared := r.compare(known, key.Shape, shape, laid)
	// What is wrong already counts once: how far the attempt follows is judged beside it.
	carried := ref.Document
	if len(r.causes) > 0 {
		if carried, err = atlas.Carried(ref.Document, r.causes); err != nil {
			return nil, err
		}
	}
	if att.Document != nil {
		s := &robust.Sweeper{Exercise: ex, Reference: carried, Attempt: att.Document, Cache: c.Sweeps, Scale: r.scale}
		if err := s.Intervals(ctx, r.report.Sketches); err != nil {
			return nil, err
		}
	}
	if att.Document != nil && ref.Document != nil {
		progress(Varying, 0)
		s := &robust.Sweeper{Rebuilder: c.Rebuilder, Exercise: ex, Reference: carried, Attempt: att.Document, Cache: c.Sweeps, Scale: r.scale}
		rows, err := s.Run(ctx, func(d float64) { progress(Varying, d) })
		if err != nil {
			return nil, err
		}
		r.report.Sweep = rows
	}
	if att.Document == nil {
		if err := r.whatIfs(ctx, ref.Document, carried, varied); err != nil {
			return nil, err
		}
	}
	progress(Marking, 0)
	r.practice(att.Document)
	diagnose.Diagnose(r.report)
	grade.Mark(r.report, ex, grade.Circumstances{Number: 1}).Onto(r.report)
	return &Outcome{Report: r.report, AttemptMesh: laid.mesh, Compared: compared}, nil
}

// Had lists the characteristics of an exercise that a model has already: those that
// would be in. A model that makes no solid yet has none.
func (c *Checker) Had(ctx context.Context, ex *exercise.Exercise, ref Reference, doc *part.Document) ([]string, error) {
	had := []string{}
	b, err := c.Rebuilder.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	if b.Solid == nil {
		return had, nil
	}
	r := &run{Checker: c, k: c.Rebuilder.Kernel(), ex: ex, miscounted: map[string]bool{}, progress: func(string, float64) {},
		report: &report.Report{Unit: ex.Unit, Characteristics: []report.Characteristic{}, Whole: []report.Figure{}}}
	key, _, err := c.Load(ctx, ref)
	if err != nil {
		return nil, err
	}
	if r.ref, err = solid.Describe(r.k, key.Shape, key.Names); err != nil {
		return nil, err
	}
	if r.att, err = solid.Describe(r.k, b.Solid.Shape, nil); err != nil {
		return nil, err
	}
	r.build = b
	r.notes(doc)
	r.unit()
	r.place()
	if err := r.characteristics(ctx); err != nil {
		return nil, err
	}
	for _, x := range r.report.Characteristics {
		if x.Verdict == report.In {
			had = append(had, x.ID)
		}
	}
	return had, nil
}

type run struct {
	*Checker
	build *part.Build // of an attempt that is a model
	// uncertainty is how closely what meets in the attempt's file does so, in millimetres.
	uncertainty float64
	k           solid.Kernel
	ex          *exercise.Exercise
	ref, att    *solid.Geometry
	scale       float64
	pose        inspect.Pose
	match       inspect.Matching
	report      *report.Report
	miscounted  map[string]bool // characteristics whose feature is there too often or too seldom
	causes      []atlas.Cause   // that explain the attempt
	progress    func(string, float64)
}

// notes takes over what a model document says beside its shape: threads and materials.
func (r *run) notes(doc *part.Document) {
	if doc == nil || r.build == nil {
		return
	}
	r.att.Noted = true
	faces := r.build.Solid.Shape.Faces()
	for _, n := range r.build.Notes {
		if n.Kind != "thread" {
			continue
		}
		for i, names := range r.build.Solid.Names {
			if slices.ContainsFunc(names, func(x string) bool { return x == n.Face || strings.HasSuffix(x, ":"+n.Face) }) {
				r.att.Threads = append(r.att.Threads, solid.Thread{At: faces[i].Origin, Axis: faces[i].Axis, Radius: faces[i].Radius, Text: n.Text})
			}
		}
	}
	for _, b := range r.build.Bodies {
		for _, s := range doc.Solids {
			if s.Of == b.ID && s.Material != "" {
				r.att.Materials = append(r.att.Materials, s.Material)
			}
		}
	}
}

// health reports failed steps and the freedoms of every sketch.
func (r *run) health(doc *part.Document, b *part.Build) error {
	var err error
	r.report.Steps, r.report.Sketches, err = Health(doc, b)
	return err
}

// Health lists the steps that failed or warn, and what there is to say of every
// sketch as it is placed now.
func Health(doc *part.Document, b *part.Build) (steps []report.Step, sketches []report.Sketch, err error) {
	unit, err := quantity.LengthUnit(doc.Unit)
	if err != nil {
		return nil, nil, err
	}
	steps, sketches = []report.Step{}, []report.Sketch{}
	for i, s := range b.Steps {
		if s.Err != nil {
			steps = append(steps, report.Step{ID: s.ID, Name: s.Name, Kind: s.Kind, Failed: true, Message: s.Err.Error()})
		} else if s.Warning != "" {
			steps = append(steps, report.Step{ID: s.ID, Name: s.Name, Kind: s.Kind, Message: s.Warning})
		} else if s.Hint != nil {
			steps = append(steps, report.Step{ID: s.ID, Name: s.Name, Kind: s.Kind, Message: s.Hint.String()})
		}
		drawn := doc.Steps[i].Sketched()
		if drawn == nil || s.Sketch == nil {
			continue
		}
		// As it is placed now, with its traced edges where the solid has them.
		draft := &edit.Draft{Sketch: drawn.Geometry().Clone(), Unit: unit.Factor, Values: b.Table}
		if s.Sketch.Solved {
			s.Sketch.System().Store(draft.Sketch)
		}
		sol, err := sketch.Solve(draft.Sketch, unit.Factor, b.Table)
		if err != nil {
			continue // reported as the step's failure
		}
		row := report.Sketch{Step: s.ID, Name: s.Name, Freedom: sol.Freedom, Held: sol.Held(), Loose: []string{}, Spare: []string{}, Conflicts: [][]string{}, Problems: []string{}, Notes: []report.Note{}, Intervals: []report.Interval{}}
		lines := doc.DrawnForLines(s.ID)
		for _, f := range review.Review(draft, sol, b.Table) {
			if lines && f.Kind == review.OpenEnd {
				continue
			}
			row.Notes = append(row.Notes, report.Note{Kind: f.Kind, What: f.What, Remedy: f.Remedy, Quality: review.Quality(f.Kind)})
		}
		for _, l := range sol.Loose {
			row.Loose = append(row.Loose, l.Entity)
		}
		for _, r := range sol.Spare {
			row.Spare = append(row.Spare, r.Drop)
		}
		for _, k := range sol.Conflicts {
			row.Conflicts = append(row.Conflicts, k.Set)
		}
		for _, p := range s.Problems {
			if lines && p.Kind == review.OpenEnd {
				continue
			}
			row.Problems = append(row.Problems, p.Message(draft.Words))
		}
		sketches = append(sketches, row)
	}
	return steps, sketches, nil
}

// unitFactors are the usual mistakes of unit, as the factor that puts them
// right.
var unitFactors = []float64{25.4, 1 / 25.4, 10, 0.1, 1000, 0.001, 25.4 / 10, 10 / 25.4, 304.8, 1 / 304.8}

// unit tests whether all sizes are off by the ratio of two units. Volume, area
// and size must agree on it within two percent, as wrong sizes may add to it.
func (r *run) unit() {
	r.scale = 1
	size := func(g *solid.Geometry) float64 {
		return math.Sqrt((g.Props.Inertia[0][0] + g.Props.Inertia[1][1] + g.Props.Inertia[2][2]) / g.Props.Volume)
	}
	ratios := []float64{math.Cbrt(r.ref.Props.Volume / r.att.Props.Volume), math.Sqrt(r.ref.Props.Area / r.att.Props.Area), size(r.ref) / size(r.att)}
	for _, f := range unitFactors {
		near := true
		for _, q := range ratios {
			near = near && math.Abs(math.Log(q/f)) < 0.1
		}
		if !near {
			continue
		}
		r.scale = f
		words := map[bool]string{true: "too small", false: "too large"}[f > 1]
		times := math.Max(f, 1/f)
		r.report.Scale = &report.Scale{Factor: f, Words: fmt.Sprintf("the whole part is %s times %s", quantity.FormatDecimal(times, 2), words)}
		return
	}
}

func (r *run) place() {
	scaled := r.att
	if r.scale != 1 {
		scaled = r.att.Scaled(r.scale)
	}
	r.pose, r.match = inspect.FindPose(r.ref, scaled)
	r.report.Pose = r.placed(r.pose)
}

// placed puts a pose into words.
func (r *run) placed(pose inspect.Pose) *report.Pose {
	p := &report.Pose{AsModeled: pose.AsModeled, Mirrored: pose.Mirrored, Angle: pose.Angle / quantity.Degree.Factor, Shift: pose.Shift}
	switch {
	case p.Mirrored:
		p.Words = "the mirror image of the part"
	case p.AsModeled:
		p.Words = "placed as the reference is"
	case p.Angle < 1e-3:
		p.Words = fmt.Sprintf("shifted by %s %s", r.ofDim(quantity.Length, p.Shift), r.ex.Unit)
	default:
		p.Words = fmt.Sprintf("turned by %s° and shifted", quantity.FormatDecimal(p.Angle, 1))
	}
	return p
}

// characteristics measures and judges every characteristic. Sizes are measured
// on the attempt as it is, so a wrong unit makes them out as well: the scale is
// undone for matching alone.
func (r *run) characteristics(ctx context.Context) error {
	for i := range r.ex.Characteristics {
		if err := ctx.Err(); err != nil {
			return err
		}
		r.progress(Measuring, float64(i)/float64(len(r.ex.Characteristics)))
		c := &r.ex.Characteristics[i]
		row, err := r.characteristic(c)
		if err != nil {
			return err
		}
		r.report.Characteristics = append(r.report.Characteristics, *row)
	}
	return nil
}

// rescale judges, where the unit is wrong, what would be measured in the right one: what is in
// then is out for the unit alone, which is told and costs once; of the rest it is said.
func (r *run) rescale() {
	if r.scale == 1 {
		return
	}
	for i := range r.report.Characteristics {
		row := &r.report.Characteristics[i]
		times := math.Pow(r.scale, float64(characteristic.Of(row.Kind).Grows()))
		// A wrong number of holes is no matter of the unit.
		if row.Verdict != report.Out || row.Measured == nil || times == 1 || r.miscounted[row.ID] {
			continue
		}
		right := true
		slack := 1e-6 * math.Max(1, math.Abs(row.Nominal))
		for _, p := range row.Places {
			right = right && p.Measured != nil && *p.Measured*times >= row.Lower-slack && *p.Measured*times <= row.Upper+slack
		}
		if right {
			row.Behind, row.Carried = true, true
			continue
		}
		row.Reason = "with the unit put right it would be " + r.number(row.Kind, *row.Measured*times)
	}
}

// shown converts an internal value (mm, rad) to the report's (mm, degrees).
func shown(c *exercise.Characteristic, v float64) float64 {
	if characteristic.Of(c.Kind).Dim == quantity.Angle {
		return v / quantity.Degree.Factor
	}
	return v
}

// unshown is the internal value of what shown gives.
func unshown(c *exercise.Characteristic, v float64) float64 {
	if characteristic.Of(c.Kind).Dim == quantity.Angle {
		return v * quantity.Degree.Factor
	}
	return v
}
