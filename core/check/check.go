// Package check runs the whole inspection of one attempt: intake, unit, pose,
// matching, measuring, robustness, diagnosis and marks.
package check

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"hammerset/core/alike"
	"hammerset/core/diagnose"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/grade"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/robust"
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

// Subject is one part to be checked: what the exercise asks of it, its reference, and what was
// handed in.
type Subject struct {
	Exercise  *exercise.Exercise
	Reference Reference
	Attempt   Attempt
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
	// Trace is which stage set every verdict, and why.
	Trace []report.Judgement `json:"trace,omitempty"`
	// Traits are what other files may have in common with this one.
	Traits []alike.Trait `json:"traits,omitempty"`
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
	if c.known.shape == key.Shape && len(c.known.names) == len(key.Names) &&
		(len(key.Names) == 0 || &c.known.names[0] == &key.Names[0]) {
		return c.known.geo, nil
	}
	geo, err := Described(c.Rebuilder.Kernel(), key)
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
// STEP reference's faces are named face:1, face:2 and so on, in the file's order, before faces that lie on one surface
// are joined.
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
	shape, history, _, err := k.Simplify(content.Shape)
	if err != nil {
		return nil, nil, err
	}
	// A face that was joined of several has the numbers of all of them.
	n := &part.Named{Shape: shape, Names: make([][]string, len(history)), File: true,
		Uncertainty: content.Uncertainty}
	for i, sources := range history {
		for _, s := range sources {
			n.Names[i] = append(n.Names[i], fmt.Sprintf("face:%d", s.Index+1))
		}
	}
	if err := shape.Err(); err != nil {
		return nil, nil, err
	}
	return n, nil, nil
}

// Described is the geometry of a reference. In a file, what is written as splines is taken for what it is, and what
// lies on one surface is put onto it (see inspect.Recognise and Unite); a model says it itself.
func Described(k solid.Kernel, ref *part.Named) (*solid.Geometry, error) {
	geo, err := solid.Describe(k, ref.Shape, ref.Names)
	if err != nil || !ref.File {
		return geo, err
	}
	var free []int
	for i, f := range geo.Faces {
		if f.Kind == solid.OtherFace {
			free = append(free, i)
		}
	}
	tolerance := inspect.Exact(ref.Uncertainty)
	if err := inspect.Recognise(geo, k, ref.Shape, tolerance); err != nil {
		return nil, err
	}
	recognised := slices.DeleteFunc(free, func(i int) bool { return geo.Faces[i].Kind == solid.OtherFace })
	inspect.Unite(geo, recognised, tolerance)
	geo.Join()
	return geo, nil
}

// Part checks one part. The error is *Unusable where the attempt cannot be checked at all; progress
// is told the stage and how far it is, from 0 to 1.
//
// The check is a row of stages. Each takes what those before it gave and gives something of its
// own; none changes what another gave. What a stage judges anew it gives as other rows, which keep
// the judgements before (see row).
func (c *Checker) Part(ctx context.Context, s Subject, progress func(stage string, done float64)) (*Outcome, error) {
	ex, ref, att := s.Exercise.Measuring(), s.Reference, s.Attempt
	progress(Reading, 0)
	key, _, err := c.Load(ctx, ref)
	if err != nil {
		return nil, err
	}
	known, err := c.describe(key)
	if err != nil {
		return nil, err
	}
	f := &frame{Checker: c, k: c.Rebuilder.Kernel(), ex: ex, ref: known.Geometry, scale: 1}
	if att.Mesh != nil {
		return f.ofMesh(att)
	}
	var varied map[string][]byte
	if len(att.Files) > 0 {
		if att.STEP, varied, err = sortFiles(ex, att.Files); err != nil {
			return nil, err
		}
	}
	in, err := f.intake(ctx, att, progress)
	if err != nil {
		return nil, err
	}
	progress(Measuring, 0)
	in.attempt.Reference = isReference(ref, att)
	f.pieces = in.pieces
	f = f.placed(in.geo)
	rows, err := f.characteristics(ctx, progress)
	if err != nil {
		return nil, err
	}
	rows, left := stated(f.rescaled(rows))
	figures := f.figures(in.shape, rows)
	progress(Explaining, 0)
	mine, err := inspect.MeshOf(f.k, in.shape, f.att)
	if err != nil {
		return nil, err
	}
	why, err := f.explain(ctx, ref, known, mine, rows, figures)
	if err != nil {
		return nil, err
	}
	rows, figures = why.rows, why.figures
	may, err := f.room(ref.Atlas)
	if err != nil {
		return nil, err
	}
	if rows, figures, err = f.within(ctx, ref, may, known, mine, rows, figures); err != nil {
		return nil, err
	}
	progress(Comparing, 0)
	if !why.open {
		figures = append(figures, f.elsewhere(known, mine, rows, figures, may.place())...)
	}
	laid := f.lay(mine.Mesh)
	compared, beside := f.compare(known, key.Shape, in.shape, laid, rows, figures)
	figures = append(figures, beside...)
	if !why.complete && f.scale == 1 {
		figures = unsettled(ex, left, figures)
	}
	out := &report.Report{Hammerset: report.Version, Checker: report.Checker, Exercise: ex.Title, Unit: ex.Unit,
		Attempt: in.attempt, Scale: f.unit, Pose: why.pose,
		Characteristics: reported(rows), Whole: figures, Steps: in.steps, Sketches: in.sketches, Sweep: []report.Sweep{},
		Causes: why.causes, Sought: why.sought, Explained: why.complete}
	if why.sought && !why.complete {
		if out.Difference, err = f.differs(ctx, ref, why.found, known, laid); err != nil {
			return nil, err
		}
	}
	if err := f.follows(ctx, s, why, varied, out, progress); err != nil {
		return nil, err
	}
	progress(Marking, 0)
	out.Practice = practice(att.Document, out.Sketches)
	finished(out, s.Exercise)
	return &Outcome{Report: out, AttemptMesh: laid.mesh, Compared: compared, Trace: traced(rows)}, nil
}

// follows adds to a report how far a model follows other sizes, or which of the what-ifs that a file of
// geometry came with are right.
//
// What is wrong already counts once: how far the attempt follows is judged beside it.
func (f *frame) follows(ctx context.Context, s Subject, why *explained, varied map[string][]byte, out *report.Report,
	progress func(stage string, done float64)) error {
	ref, err := s.Reference.Document, error(nil)
	carried := ref
	if len(why.behind) > 0 {
		if carried, err = atlas.Carried(ref, why.behind); err != nil {
			return err
		}
	}
	if s.Attempt.Document == nil {
		out.WhatIfs, err = f.whatIfs(ctx, why, ref, carried, varied)
		return err
	}
	sweeper := &robust.Sweeper{Rebuilder: f.Rebuilder, Exercise: f.ex, Reference: carried, Attempt: s.Attempt.Document,
		Cache: f.Sweeps, Scale: f.scale}
	if sweeper.Cache == nil {
		sweeper.Cache = &robust.Cache{}
	}
	if known := s.Reference.Atlas; known != nil && carried != nil {
		if err := sweeper.Cache.Know(ref, known.Varied); err != nil {
			return err
		}
	}
	if out.Sketches, err = sweeper.Intervals(ctx, out.Sketches); err != nil {
		return err
	}
	if ref == nil {
		return nil
	}
	progress(Varying, 0)
	out.Sweep, err = sweeper.Run(ctx, func(d float64) { progress(Varying, d) })
	if err != nil || f.scale != 1 {
		return err // in another unit the sizes of both are not set alike
	}
	return f.strays(ctx, carried, s.Attempt.Document, out.Sweep, out.Characteristics)
}

// finished adds to a report what follows from the rest of it: findings and marks.
func finished(r *report.Report, ex *exercise.Exercise) {
	r.Findings = diagnose.Findings(r)
	grade.Mark(r, ex, grade.Circumstances{Number: 1}).Onto(r)
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
	key, _, err := c.Load(ctx, ref)
	if err != nil {
		return nil, err
	}
	f := &frame{Checker: c, k: c.Rebuilder.Kernel(), ex: ex, scale: 1}
	if f.ref, err = Described(f.k, key); err != nil {
		return nil, err
	}
	mine, err := solid.Describe(f.k, b.Solid.Shape, nil)
	if err != nil {
		return nil, err
	}
	rows, err := f.placed(noted(mine, doc, b)).characteristics(ctx, func(string, float64) {})
	if err != nil {
		return nil, err
	}
	for _, x := range rows {
		if x.Verdict == report.In {
			had = append(had, x.ID)
		}
	}
	return had, nil
}
