package child

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/assembly/shapes"
	"hammerset/core/check"
	"hammerset/core/check/assemblies"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
)

// keyOfAssembly is the reference of an exercise of the kind assembly that was read last: many attempts in turn are
// checked against one.
type keyOfAssembly struct {
	sum [32]byte
	ex  *exercise.Exercise
	ref assemblies.Reference
}

// assemblyReference reads the reference of an exercise of the kind assembly and makes its parts.
func (w *Worker) assemblyReference(ctx context.Context, ex *exercise.Exercise, req *task.Request) (*keyOfAssembly,
	error) {
	sum := sha256.Sum256(slices.Concat(req.Exercise, req.Reference, req.Atlas))
	if w.assembly != nil && w.assembly.sum == sum {
		return w.assembly, nil
	}
	r, err := documents.ReadAssemblyReference(ex, req.Reference)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error()}
	}
	table, err := r.Document.Table(nil)
	if err != nil {
		return nil, err
	}
	out := &keyOfAssembly{sum: sum, ex: ex, ref: assemblies.Reference{Document: r.Document,
		Exercises: map[string]assemblies.PartExercise{}}}
	if out.ref.Made, err = w.all(ctx, r.Files, r.Document, table, 0); err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: "the reference: " + err.Error()}
	}
	for id, b := range r.Exercises {
		ref, err := documents.ReadReference(b.Reference)
		if err != nil {
			return nil, err
		}
		if b.Atlas != nil {
			if ref.Atlas, err = documents.ReadAtlas(b.Atlas, b.Parsed, ref.Document); err != nil {
				return nil, err
			}
		}
		out.ref.Exercises[id] = assemblies.PartExercise{Exercise: b.Parsed, Reference: ref}
	}
	if err := out.know(req.Atlas); err != nil {
		return nil, err
	}
	w.assembly = out
	return out, nil
}

// atlasesOfParts are the mistake atlases of the parts of an assembly, by the ids of the parts.
type atlasesOfParts struct {
	Parts map[string]*atlas.Atlas `json:"parts"`
}

// know gives the parts that have none the mistake atlases that came with a task.
func (k *keyOfAssembly) know(data []byte) error {
	if len(data) == 0 {
		return nil
	}
	var known atlasesOfParts
	if err := json.Unmarshal(data, &known); err != nil {
		return fmt.Errorf("the mistake atlases of the parts: %w", err)
	}
	for id, own := range k.ref.Exercises {
		if a := known.Parts[id]; a != nil && own.Reference.Atlas == nil && a.Fits(own.Exercise, own.Reference.Document) {
			own.Reference.Atlas = a
			k.ref.Exercises[id] = own
		}
	}
	return nil
}

// atlases makes the mistake atlases of the parts of an assembly that come without one.
func (w *Worker) atlases(ctx context.Context, ex *exercise.Exercise, req *task.Request,
	progress func(string, float64)) (any, error) {
	key, err := w.assemblyReference(ctx, ex, req)
	if err != nil {
		return nil, err
	}
	out, n := atlasesOfParts{map[string]*atlas.Atlas{}}, 0.0
	for id, own := range key.ref.Exercises {
		if own.Reference.Document != nil && own.Reference.Atlas == nil {
			made, err := atlas.Build(ctx, w.checker.Rebuilder, own.Exercise, own.Reference.Document, func(done float64) {
				progress("making the mistake atlas", (n+done)/float64(len(key.ref.Exercises)))
			})
			if err != nil {
				return nil, err
			}
			out.Parts[id] = made
		}
		n++
	}
	return out, nil
}

// checkAssembly inspects an attempt at an assembly.
func (w *Worker) checkAssembly(ctx context.Context, ex *exercise.Exercise, req *task.Request,
	progress func(string, float64)) (any, error) {
	key, err := w.assemblyReference(ctx, ex, req)
	if err != nil {
		return nil, err
	}
	progress(check.Reading, 0)
	att, err := w.assemblyAttempt(ctx, req)
	if err != nil {
		return nil, err
	}
	return w.assemblyChecker().Check(ctx, key.ex, key.ref, *att, progress)
}

func (w *Worker) assemblyChecker() *assemblies.Checker {
	if w.assemblies == nil {
		w.assemblies = &assemblies.Checker{Kernel: w.checker.Rebuilder.Kernel(), Part: w.eachPart}
	}
	return w.assemblies
}

// ofAssembly carries out what is asked of an exercise of the kind assembly: so far it can be made ready to be shown.
func (w *Worker) ofAssembly(ctx context.Context, ex *exercise.Exercise, req *task.Request) (any, error) {
	if req.Kind != task.Prepare {
		return nil, &task.Error{Kind: task.Faulty, What: "this is an exercise of an assembly, and only those of one " +
			"part are worked on here", Remedy: "change it in its files, and read it in again"}
	}
	key, err := w.assemblyReference(ctx, ex, req)
	if err != nil {
		return nil, err
	}
	return prepare.Assembly(ctx, w.checker, w.assemblyChecker(), key.ex, key.ref, w.font)
}

// eachPart checks parts one after the other.
func (w *Worker) eachPart(ctx context.Context, list []check.Subject, progress func(float64)) ([]*check.Outcome,
	[]error) {
	out, errs := make([]*check.Outcome, len(list)), make([]error, len(list))
	for i, s := range list {
		out[i], errs[i] = w.checker.Part(ctx, s, func(_ string, done float64) {
			progress((float64(i) + done) / float64(len(list)))
		})
		if ctx.Err() != nil {
			errs[i] = ctx.Err()
		}
	}
	return out, errs
}

// assemblyAttempt reads an attempt at an assembly and makes its parts.
func (w *Worker) assemblyAttempt(ctx context.Context, req *task.Request) (*assemblies.Attempt, error) {
	in, err := documents.RecogniseAssembly(req.Name, req.File)
	if err != nil {
		return nil, err
	}
	out := &assemblies.Attempt{Name: in.Name, Kind: "assembly", Parts: map[string]check.Attempt{}}
	bundle := in.Bundle
	switch {
	case in.Single != nil:
		return w.single(ctx, in)
	case in.STEP != nil:
		out.Kind = "step"
		maker := &shapes.Maker{Rebuilder: w.modeller.Rebuilder}
		name := cmp.Or(strings.TrimSuffix(in.Name, path.Ext(in.Name)), "assembly")
		doc, files, err := maker.Assembly(ctx, in.STEP, name, in.Others, documents.PackAssembly)
		if err != nil {
			return nil, unusable(ctx, err)
		}
		bundle = &documents.Assembled{Document: doc, Files: files}
	}
	out.Document = bundle.Document
	table, err := bundle.Document.Table(nil)
	if err != nil {
		return nil, unusable(ctx, err)
	}
	if out.Made, err = w.all(ctx, bundle.Files, bundle.Document, table, 0); err != nil {
		return nil, unusable(ctx, err)
	}
	for i := range bundle.Document.Parts {
		p := &bundle.Document.Parts[i]
		file := bundle.Files[p.File]
		if !(&task.Request{File: file}).Modelled() || p.Solid != "" {
			continue
		}
		doc, err := w.read(file)
		if err != nil {
			return nil, unusable(ctx, err)
		}
		if doc, err = atValues(doc, p, table); err != nil {
			return nil, unusable(ctx, err)
		}
		out.Parts[p.ID] = check.Attempt{Name: p.Name, Document: doc}
	}
	return out, nil
}

// single is one part that was handed in by itself, as an assembly of nothing else.
func (w *Worker) single(ctx context.Context, in *documents.AssemblyAttempt) (*assemblies.Attempt, error) {
	maker := &shapes.Maker{Rebuilder: w.modeller.Rebuilder}
	made, err := maker.Model(ctx, in.Single.Document, nil, "")
	if err != nil {
		return nil, unusable(ctx, err)
	}
	name := cmp.Or(in.Single.Document.Name, "part")
	doc := &assembly.Document{Hammerset: assembly.Version, Name: name, Unit: "mm",
		Parts:      []assembly.Part{{ID: "p1", Name: name}},
		Components: []assembly.Component{{ID: "c1", Name: name, Part: "p1", Pinned: true, Pose: rigid.Still()}}}
	return &assemblies.Attempt{Name: in.Name, Kind: "model", Document: doc, Made: map[string]*shapes.Made{"p1": made},
		Parts: map[string]check.Attempt{"p1": *in.Single}}, nil
}

// unusable is what keeps an attempt from being checked, said to who handed it in.
func unusable(ctx context.Context, err error) error {
	var made *shapes.Error
	switch {
	case ctx.Err() != nil:
		return err
	case errors.As(err, &made):
		return &check.Unusable{What: err.Error()[:len(err.Error())-len(made.Error())] + made.What, Remedy: made.Remedy}
	}
	return &check.Unusable{What: err.Error(), Remedy: "put this right and hand it in again"}
}

// atValues is a model document with the sizes that an assembly gives its part.
func atValues(doc *part.Document, p *assembly.Part, table *quantity.Table) (*part.Document, error) {
	own, err := doc.Table(nil)
	if err != nil {
		return nil, err
	}
	set, err := shapes.Values(p, own, table)
	if err != nil {
		return nil, err
	}
	out := *doc
	out.Parameters = slices.Clone(doc.Parameters)
	for _, name := range slices.Sorted(maps.Keys(set)) {
		for i := range out.Parameters {
			if out.Parameters[i].Name == name {
				out.Parameters[i].Formula = set[name].Formula()
			}
		}
	}
	return &out, nil
}
