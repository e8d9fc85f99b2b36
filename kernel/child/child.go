// Package child is the kernel's side of the process boundary: it takes tasks
// from a stream and carries them out with the limits of the process set.
package child

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"

	"hammerset/core/alike"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/shapes"
	"hammerset/core/check"
	"hammerset/core/check/assemblies"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/robust"
	"hammerset/formats/documents"
	"hammerset/formats/lettering"
	"hammerset/formats/oneroster"
	"hammerset/formats/pack"
	"hammerset/formats/table"
	"hammerset/kernel/occ"
	"hammerset/kernel/task"
)

// Worker carries out tasks on one kernel.
type Worker struct {
	checker  *check.Checker
	font     *lettering.Font
	modeller *modeller.Modeller
	sheets   *prepare.Editor
	parts    map[string]*shapes.Made // of assemblies, by what they are made of
	// assemblies checks attempts at assemblies, and assembly is the reference of such an exercise.
	assemblies *assemblies.Checker
	assembly   *keyOfAssembly
	// lain is what components of assemblies were to one another while sizes were varied.
	lain clash.Memo
	// last is the document that was read last: one state of a model is asked for at many values.
	last struct {
		sum [32]byte
		doc *part.Document
	}
}

// read reads a model document that the task does not change but for leaving out steps.
func (w *Worker) read(data []byte) (*part.Document, error) {
	sum := sha256.Sum256(data)
	if w.last.doc == nil || w.last.sum != sum {
		doc, err := documents.ReadModel(data)
		if err != nil {
			return nil, err
		}
		w.last.sum, w.last.doc = sum, doc
	}
	doc := *w.last.doc
	return &doc, nil
}

// NewWorker makes a worker.
func NewWorker() (*Worker, error) {
	f, err := lettering.Load()
	if err != nil {
		return nil, err
	}
	rb := part.NewRebuilder(occ.Kernel{})
	checker := &check.Checker{Rebuilder: rb, Sweeps: &robust.Cache{}}
	return &Worker{checker: checker, modeller: &modeller.Modeller{Rebuilder: rb}, font: f,
		sheets: &prepare.Editor{Checker: checker, Metrics: f}}, nil
}

// Serve takes tasks from r until it ends.
func Serve(ctx context.Context, r io.Reader, w io.Writer) error {
	worker, err := NewWorker()
	if err != nil {
		return err
	}
	endWhenOutOfTime()
	for {
		var req task.Request
		if err := task.Read(r, &req); errors.Is(err, io.EOF) {
			return nil
		} else if err != nil {
			return err
		}
		if err := allowCPU(req.CPU); err != nil {
			return err
		}
		occ.Careful(req.Careful)
		result, err := worker.Do(ctx, &req, func(stage string, done float64) {
			// a lost parent ends the loop below
			_ = task.Write(w, task.Reply{Progress: &task.Progress{Stage: stage, Done: done}})
		})
		var reply any = struct {
			Result any `json:"result"`
		}{result}
		var first *task.FirstError
		switch {
		case errors.As(err, &first):
			reply = task.Reply{First: first.Tasks}
		case err != nil:
			reply = task.Reply{Error: task.AsError(err)}
		}
		if err := task.Write(w, reply); err != nil {
			return err
		}
	}
}

// Do carries out one task.
func (w *Worker) Do(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	switch req.Kind {
	case task.BeginAssembly:
		return w.beginAssembly(ctx, req, progress)
	case task.Given:
		return w.givenParts(ctx, req)
	case task.Whole:
		return w.whole(ctx, req)
	case task.Gather:
		return w.gather(ctx, req)
	case task.Check:
		return w.check(ctx, req, progress)
	case task.Atlas:
		return w.atlas(ctx, req, progress)
	case task.Draft:
		return w.draft(ctx, req, progress)
	case task.Prepare, task.Propose, task.EditSheet, task.Audit, task.Rebind, task.Bind,
		task.Personal:
		return w.ofExercise(ctx, req, progress)
	case task.Unpack, task.ReadRoster:
		return unpacked(req)
	case task.Edit:
		return edit(req)
	case task.Changes:
		return changes(req)
	case task.Rebuild, task.Sketch, task.Verify, task.Model, task.Measure, task.Look, task.Reach, task.Export:
		return w.ofModel(ctx, req, progress)
	case task.ReadAssembly:
		return documents.ReadAssembly(req.Assembly)
	case task.UnpackAssembly:
		return w.unpackAssembly(ctx, req)
	case task.PutPart:
		return w.putPart(ctx, req)
	case task.Feature:
		return w.feature(ctx, req)
	case task.ExportAssembly:
		return w.exportAssembly(ctx, req)
	case task.Sweep:
		return w.sweep(ctx, req, progress)
	case task.Vary:
		return w.vary(ctx, req, progress)
	case task.Clash:
		return w.clash(ctx, req, progress)
	case task.Follow:
		return w.follow(ctx, req, progress)
	case task.Had:
		return w.had(ctx, req)
	}
	return nil, fmt.Errorf("there is no task %q", req.Kind)
}

// ofModel carries out a task on a model document.
func (w *Worker) ofModel(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	doc, err := w.opened(req)
	if err != nil {
		return nil, err
	}
	switch req.Kind {
	case task.Rebuild:
		return w.modeller.Rebuild(ctx, doc, req.Set, req.WantSTEP, req.WantMesh)
	case task.Sketch:
		return w.modeller.Sketch(ctx, doc, req.Step)
	case task.Verify:
		return modeller.Verify(doc)
	case task.Model:
		return w.modeller.Model(ctx, doc, req.Set, req.Until, progress)
	case task.Measure:
		return w.modeller.Measure(ctx, doc, req.Picks)
	case task.Look:
		return w.modeller.Look(ctx, doc)
	case task.Reach:
		return w.modeller.Reach(ctx, doc, req.Name, req.Share, progress)
	}
	return w.modeller.Export(ctx, doc, req.Name)
}

func (w *Worker) exercise(req *task.Request) (*exercise.Exercise, check.Reference, error) {
	ex, err := documents.ReadExercise(req.Exercise)
	if err != nil {
		return nil, check.Reference{}, err
	}
	ref, err := documents.ReadReference(req.Reference)
	if err == nil && len(req.Atlas) > 0 {
		ref.Atlas, err = documents.ReadAtlas(req.Atlas, ex, ref.Document)
	}
	return ex, ref, err
}

// atlas makes the mistake atlas of an exercise.
func (w *Worker) atlas(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	if ex, err := documents.ReadExercise(req.Exercise); err == nil && ex.Kind == exercise.Assembly {
		return w.atlases(ctx, ex, req, progress)
	}
	ex, ref, err := w.exercise(req)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error()}
	}
	if ref.Document == nil {
		return nil, &task.Error{Kind: task.Faulty,
			What: "the reference is a STEP file: it has no sizes in which a mistake could be made"}
	}
	return atlas.Build(ctx, w.checker.Rebuilder, ex, ref.Document, func(done float64) {
		progress("making the mistake atlas", done)
	})
}

func (w *Worker) check(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	if ex, err := documents.ReadExercise(req.Exercise); err == nil && ex.Kind == exercise.Assembly {
		return w.checkAssembly(ctx, ex, req, progress)
	}
	ex, ref, err := w.exercise(req)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error()}
	}
	att, err := documents.Recognise(req.Name, req.File)
	if err != nil {
		return nil, err
	}
	if att.MeshFile != nil {
		if err := documents.ReadMesh(&att); err != nil {
			return nil, err
		}
	}
	out, err := w.checker.Part(ctx, check.Subject{Exercise: ex, Reference: ref, Attempt: att}, progress)
	if err != nil {
		return nil, err
	}
	out.Traits = traits(ex, req.File)
	return out, nil
}

// traits are what the files of others may have in common with an attempt. Where parts are given, all may have these:
// only what says how they are put together tells something then.
func traits(ex *exercise.Exercise, data []byte) []alike.Trait {
	if !documents.IsPacked(data) {
		return alike.Of(data)
	}
	packed, err := pack.Open(data)
	if err != nil {
		return nil // it was checked as what it was taken for
	}
	given := ex.Assembly != nil && ex.Assembly.Gives()
	var files [][]byte
	for _, name := range packed.Names() {
		if file, err := packed.Read(name); err == nil && (!given || path.Base(name) == documents.AssemblyFile) {
			files = append(files, file)
		}
	}
	return alike.OfAll(files)
}

// ofExercise carries out what is asked of an exercise and its reference.
func (w *Worker) ofExercise(ctx context.Context, req *task.Request, progress prepare.Progress) (any, error) {
	if ex, err := documents.ReadExercise(req.Exercise); err == nil && ex.Kind == exercise.Assembly {
		return w.ofAssembly(ctx, ex, req)
	}
	ex, ref, err := w.exercise(req)
	if err != nil {
		return nil, err
	}
	switch req.Kind {
	case task.Propose:
		return prepare.Propose(ctx, w.checker, ex, ref, w.font, progress)
	case task.EditSheet:
		sum := sha256.Sum256(req.Reference)
		command := req.OnSheet
		if command == nil {
			return nil, &task.Error{Kind: task.Faulty, What: "it is not said which sheet is edited"}
		}
		return w.sheets.Edit(ctx, ex, ref, string(sum[:]), req.Has, command, progress)
	case task.Rebind:
		is, err := documents.ReadReference(req.File)
		if err != nil {
			return nil, &task.Error{Kind: task.Faulty, What: err.Error(),
				Remedy: "give a model document or a STEP file of the part"}
		}
		return prepare.Rebind(ctx, w.checker, *ex, ref, is, req.Accepted)
	case task.Bind:
		return prepare.Bind(ctx, w.checker, *ex, ref)
	case task.Personal:
		if ref.Document == nil {
			return nil, &task.Error{Kind: task.Faulty, What: "a STEP file has no sizes that could be drawn for each student",
				Remedy: "take a model as the reference"}
		}
		return prepare.AtSizes(ctx, w.checker, ex, ref, req.Set, w.font)
	case task.Audit:
		return prepare.AuditOf(ctx, w.checker, ex, ref, w.font)
	}
	return prepare.Exercise(ctx, w.checker, ex, ref, w.font)
}

// draft reads an exercise that may be unfinished, with its reference.
func (w *Worker) draft(ctx context.Context, req *task.Request, progress prepare.Progress) (any, error) {
	var ex exercise.Exercise
	if err := json.Unmarshal(req.Exercise, &ex); err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: "the exercise is not readable: " + err.Error()}
	}
	ref, err := documents.ReadReference(req.Reference)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error(),
			Remedy: "give a model document or a STEP file of the part"}
	}
	return prepare.Draft(ctx, w.checker, ex, ref, w.font, req.Arrange, progress)
}

// opened reads the document of a request, up to the step that it asks for.
func (w *Worker) opened(req *task.Request) (*part.Document, error) {
	doc, err := w.read(req.File)
	if err != nil {
		return nil, err
	}
	if req.Until != "" {
		i := slices.IndexFunc(doc.Steps, func(s part.Step) bool { return s.ID == req.Until })
		if i < 0 {
			return nil, &task.Error{Kind: task.Faulty, What: fmt.Sprintf("there is no step %q to build up to", req.Until)}
		}
		doc.Steps = doc.Steps[:i+1]
	}
	return doc, nil
}

// edit changes a document by a command.
func edit(req *task.Request) (any, error) {
	doc, err := documents.ReadModel(req.File)
	if err != nil {
		return nil, err
	}
	var rows [][]string
	if req.Command != nil && req.Command.Text != "" {
		if rows, err = table.Read(req.Command.Text); err != nil {
			return nil, &task.Error{Kind: task.Faulty, What: "the table is not readable: " + err.Error(),
				Remedy: "save it as CSV with commas"}
		}
	}
	return modeller.Edit(doc, req.Command, rows)
}

// changes compares two states of a model.
func changes(req *task.Request) (any, error) {
	after, err := documents.ReadModel(req.File)
	if err != nil {
		return nil, err
	}
	before, err := documents.ReadModel(req.Other)
	if err != nil {
		return nil, err
	}
	return part.Changes(before, after), nil
}

// follow finds how far an attempt follows the reference.
func (w *Worker) follow(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	ex, ref, err := w.exercise(req)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error()}
	}
	att, err := documents.Recognise(req.Name, req.File)
	if err != nil {
		return nil, err
	}
	if att.Document == nil || ref.Document == nil {
		return nil, &task.Error{Kind: task.Faulty, What: "sizes are varied in model documents only",
			Remedy: "a STEP file has no sizes to vary"}
	}
	s := &robust.Sweeper{Rebuilder: w.checker.Rebuilder, Exercise: ex, Reference: ref.Document, Attempt: att.Document,
		Cache: w.checker.Sweeps}
	rows, together, err := s.Follow(ctx, req.Share, func(d float64) { progress("varying the sizes", d) })
	if err != nil {
		return nil, err
	}
	return &robust.FollowedAll{Parameters: rows, WhatIfs: together}, nil
}

// had lists the characteristics that a model under work has already: those that
// would be in if it were handed in now. Nothing else of the check leaves here.
func (w *Worker) had(ctx context.Context, req *task.Request) (any, error) {
	ex, ref, err := w.exercise(req)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error()}
	}
	doc, err := documents.ReadModel(req.File)
	if err != nil {
		return nil, err
	}
	list, err := w.checker.Had(ctx, ex, ref, doc)
	if err != nil {
		return nil, err
	}
	return list, nil
}

// unpacked is what a packed file holds: an exercise, or a roster.
func unpacked(req *task.Request) (any, error) {
	if req.Kind == task.ReadRoster {
		r, err := oneroster.Read(req.File)
		if err != nil {
			return nil, &task.Error{Kind: task.Faulty, What: err.Error(),
				Remedy: "give the zip of tables that the school's system exports as OneRoster 1.2 CSV, or a list"}
		}
		return r, nil
	}
	b, err := documents.ReadZip(req.File)
	if err != nil {
		return nil, err
	}
	return task.Unpacked{Exercise: b.Exercise, Reference: b.Reference, Atlas: b.Atlas}, nil
}
