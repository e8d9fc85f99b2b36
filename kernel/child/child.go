// Package child is the kernel's side of the process boundary: it takes tasks
// from a stream and carries them out with the limits of the process set.
package child

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"sort"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/core/sheet"
	"hammerset/core/sketch"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/formats/lettering"
	"hammerset/kernel/occ"
	"hammerset/kernel/task"
)

// Worker carries out tasks on one kernel.
type Worker struct {
	checker  *check.Checker
	font     *lettering.Font
	freedoms map[*sketch.Solution]int // of sketches shown in the modeller
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
	return &Worker{checker: &check.Checker{Rebuilder: part.NewRebuilder(occ.Kernel{}), Sweeps: &robust.Cache{}}, font: f}, nil
}

// Serve takes tasks from r until it ends.
func Serve(ctx context.Context, r io.Reader, w io.Writer) error {
	worker, err := NewWorker()
	if err != nil {
		return err
	}
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
			_ = task.Write(w, task.Reply{Progress: &task.Progress{Stage: stage, Done: done}}) // a lost parent ends the loop below
		})
		var reply any = struct {
			Result any `json:"result"`
		}{result}
		if err != nil {
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
	case task.Check:
		return w.check(ctx, req, progress)
	case task.Atlas:
		return w.atlas(ctx, req, progress)
	case task.Draft:
		return w.draft(ctx, req)
	case task.Prepare:
		return w.prepare(ctx, req)
	case task.Unpack:
		b, err := documents.ReadZip(req.File)
		if err != nil {
			return nil, err
		}
		return task.Unpacked{Exercise: b.Exercise, Reference: b.Reference, Atlas: b.Atlas}, nil
	case task.Rebuild:
		return w.rebuild(ctx, req)
	case task.Sketch:
		return w.sketch(ctx, req)
	case task.Verify:
		return verify(req)
	case task.Model:
		return w.model(ctx, req, progress)
	case task.Measure:
		return w.measure(ctx, req)
	case task.Edit:
		return edit(req)
	case task.Changes:
		return changes(req)
	case task.Look:
		return w.look(ctx, req)
	case task.Reach:
		return w.reachOf(ctx, req, progress)
	case task.Export:
		return w.export(ctx, req)
	case task.Follow:
		return w.follow(ctx, req, progress)
	case task.Had:
		return w.had(ctx, req)
	}
	return nil, fmt.Errorf("there is no task %q", req.Kind)
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
	ex, ref, err := w.exercise(req)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error()}
	}
	if ref.Document == nil {
		return nil, &task.Error{Kind: task.Faulty, What: "the reference is a STEP file: it has no sizes in which a mistake could be made"}
	}
	return atlas.Build(ctx, w.checker.Rebuilder, ex, ref.Document, func(done float64) { progress("making the mistake atlas", done) })
}

func (w *Worker) check(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
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
	return w.checker.Part(ctx, check.Subject{Exercise: ex, Reference: ref, Attempt: att}, progress)
}

func (w *Worker) prepare(ctx context.Context, req *task.Request) (any, error) {
	ex, ref, err := w.exercise(req)
	if err != nil {
		return nil, err
	}
	named, build, err := w.checker.Load(ctx, ref)
	if err != nil {
		return nil, err
	}
	k := w.checker.Rebuilder.Kernel()
	out := &task.Prepared{Faces: map[string][]address.Ref{}, Driving: []string{}}
	var notes []part.Note
	if build != nil {
		notes = build.Notes
	}
	if out.Drawing, err = sheet.Draw(ctx, k, ex, named, w.font, notes...); err != nil {
		return nil, err
	}
	geo, err := solid.Describe(k, named.Shape, named.Names)
	if err != nil {
		return nil, err
	}
	if out.Mesh, err = k.Mesh(named.Shape, inspect.Deflection(geo.Box), inspect.MeshAngle); err != nil {
		return nil, err
	}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		places, stated, err := check.Nominal(geo, ex, c)
		if err != nil {
			return nil, err
		}
		if _, _, err := ex.Limits(c, stated); err != nil {
			return nil, fmt.Errorf("characteristic %s: %w", c.ID, err)
		}
		out.Faces[c.ID] = []address.Ref{}
		for _, p := range places {
			out.Faces[c.ID] = append(out.Faces[c.ID], address.Faces(p.Faces())...)
		}
		out.Stated = append(out.Stated, task.Stated{ID: c.ID, Balloon: c.Balloon, Label: c.Label, Kind: c.Kind, Text: stated.Text, Places: max(1, len(places))})
	}
	sort.Slice(out.Stated, func(i, j int) bool { return out.Stated[i].Balloon < out.Stated[j].Balloon })
	if build != nil {
		out.Driving = build.Table.Driving()
	}
	return out, nil
}

func (w *Worker) rebuild(ctx context.Context, req *task.Request) (any, error) {
	doc, err := w.read(req.File)
	if err != nil {
		return nil, err
	}
	set, err := values(doc, req.Set)
	if err != nil {
		return nil, err
	}
	b, err := w.checker.Rebuilder.Rebuild(ctx, doc, set)
	if err != nil {
		return nil, err
	}
	out := &task.Rebuilt{Unit: doc.Unit, Steps: []report.Step{}, Parameters: []task.Value{}}
	ex := &exercise.Exercise{Unit: doc.Unit}
	for _, p := range doc.Parameters {
		q, _ := b.Table.Lookup(p.Name)
		out.Parameters = append(out.Parameters, task.Value{Name: p.Name, Text: ex.State(q.Dim, q.Value).Text})
	}
	for _, s := range b.Steps {
		row := report.Step{ID: s.ID, Name: s.Name, Kind: s.Kind, Message: s.Warning}
		if s.Err != nil {
			row.Failed, row.Message = true, s.Err.Error()
		}
		out.Steps = append(out.Steps, row)
	}
	if b.Solid == nil {
		return out, nil
	}
	k := w.checker.Rebuilder.Kernel()
	geo, err := solid.Describe(k, b.Solid.Shape, nil)
	if err != nil {
		return nil, err
	}
	out.Volume, out.Area, out.Centroid, out.Box = geo.Props.Volume, geo.Props.Area, geo.Props.Centroid, geo.Box
	out.Solids, out.Faces = geo.Solids, len(geo.Faces)
	if req.WantSTEP {
		if out.STEP, err = k.WriteSTEP([]solid.Titled{{Shape: b.Solid.Shape, Name: doc.Name}}, doc.Name, solid.AP214); err != nil {
			return nil, err
		}
	}
	if req.WantMesh {
		if out.Mesh, err = k.Mesh(b.Solid.Shape, inspect.Deflection(geo.Box), inspect.MeshAngle); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// values reads parameter settings; a plain number takes the dimension that the
// parameter has in the document.
func values(doc *part.Document, set map[string]string) (map[string]quantity.Quantity, error) {
	unit, err := quantity.LengthUnit(doc.Unit)
	if err != nil {
		return nil, err
	}
	table, err := quantity.Evaluate(doc.Parameters, unit, nil)
	if err != nil {
		return nil, err
	}
	out := map[string]quantity.Quantity{}
	for name, text := range set {
		have, ok := table.Lookup(name)
		if !ok {
			return nil, fmt.Errorf("there is no parameter named %q to set", name)
		}
		v, err := table.Eval(text, have.Dim)
		if err != nil {
			return nil, fmt.Errorf("parameter %s: %w", name, err)
		}
		out[name] = quantity.Quantity{Value: v, Dim: have.Dim}
	}
	return out, nil
}
