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
	"hammerset/core/identify"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
)

// keyOfAssembly is the reference of an exercise of the kind assembly that was read last: many attempts in turn are
// checked against one.
type keyOfAssembly struct {
	sum [32]byte
	ex  *exercise.Exercise
	ref assemblies.Reference
	// parts are the tasks of checking the parts, without what is checked.
	parts map[string]*task.Request
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
	out := &keyOfAssembly{sum: sum, ex: ex, ref: assemblies.Reference{Document: r.Document, Maker: varying{w, r.Files},
		Exercises: map[string]assemblies.PartExercise{}}, parts: map[string]*task.Request{}}
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
		out.parts[id] = &task.Request{Kind: task.Check, Exercise: b.Exercise, Reference: b.Reference, Atlas: b.Atlas}
	}
	if err := out.know(req.Atlas); err != nil {
		return nil, err
	}
	w.assembly = out
	return out, nil
}

// madeOnce is what takes long to find out of the reference of an assembly, and is found out once: the mistake atlases
// of its parts, by their ids, and how far its sizes can be varied. Of says of which state of the reference the latter
// is.
type madeOnce struct {
	Parts map[string]*atlas.Atlas `json:"parts"`
	Bears assemblies.Bears        `json:"bears,omitempty"`
	Of    string                  `json:"of,omitempty"`
}

// state is by what a reference is known.
func (k *keyOfAssembly) state() (string, error) {
	data, err := json.Marshal(k.ref.Document) // which has the sums of its files
	return documents.Sum(data), err
}

// know gives the parts that have none the mistake atlases that came with a task.
func (k *keyOfAssembly) know(data []byte) error {
	if len(data) == 0 {
		return nil
	}
	var known madeOnce
	if err := json.Unmarshal(data, &known); err != nil {
		return fmt.Errorf("the mistake atlases of the parts: %w", err)
	}
	state, err := k.state()
	if err != nil {
		return err
	}
	if known.Of == state {
		k.ref.Bears = known.Bears
	}
	for id, own := range k.ref.Exercises {
		if a := known.Parts[id]; a != nil && own.Reference.Atlas == nil && a.Fits(own.Exercise, own.Reference.Document) {
			own.Reference.Atlas = a
			k.ref.Exercises[id] = own
			data, err := json.Marshal(a)
			if err != nil {
				return err
			}
			k.parts[id].Atlas = data
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
	out, n, all := madeOnce{Parts: map[string]*atlas.Atlas{}}, 0.0, float64(len(key.ref.Exercises)+1)
	for id, own := range key.ref.Exercises {
		if own.Reference.Document != nil && own.Reference.Atlas == nil {
			made, err := atlas.Build(ctx, w.checker.Rebuilder, own.Exercise, own.Reference.Document, func(done float64) {
				progress("making the mistake atlas", (n+done)/all)
			})
			if err != nil {
				return nil, err
			}
			out.Parts[id] = made
		}
		n++
	}
	if out.Of, err = key.state(); err != nil {
		return nil, err
	}
	out.Bears, err = key.ref.Varied(ctx, func(done float64) {
		progress("varying the sizes of the reference", (n+done)/all)
	})
	return out, err
}

// checkAssembly inspects an attempt at an assembly.
func (w *Worker) checkAssembly(ctx context.Context, ex *exercise.Exercise, req *task.Request,
	progress func(string, float64)) (any, error) {
	key, err := w.assemblyReference(ctx, ex, req)
	if err != nil {
		return nil, err
	}
	progress(check.Reading, 0)
	att, err := w.assemblyAttempt(ctx, ex, req)
	if err != nil {
		return nil, err
	}
	c := w.assemblyChecker()
	c.Part = (&partsOfAttempt{w, key, req}).check
	out, err := c.Check(ctx, key.ex, key.ref, *att, progress)
	if err != nil {
		return nil, err
	}
	out.Traits = traits(ex, req.File)
	return out, nil
}

// assemblyChecker checks assemblies; it is one, since it knows the reference that was laid out last.
func (w *Worker) assemblyChecker() *assemblies.Checker {
	if w.assemblies == nil {
		w.assemblies = &assemblies.Checker{Kernel: w.checker.Rebuilder.Kernel()}
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

// assemblyAttempt reads an attempt at an assembly and makes its parts.
func (w *Worker) assemblyAttempt(ctx context.Context, ex *exercise.Exercise, req *task.Request) (*assemblies.Attempt,
	error) {
	in, err := documents.RecogniseAssembly(req.Name, req.File, ex.WhatIfs)
	if err != nil {
		return nil, err
	}
	out := &assemblies.Attempt{Name: in.Name, Kind: assemblies.FromDocument, Parts: map[string]check.Attempt{},
		Notes: in.Notes}
	bundle := in.Bundle
	switch {
	case in.STEP != nil:
		out.Kind = assemblies.FromSolids
		bundle, err = w.stepAssembly(ctx, in.Name, in.STEP, in.Others)
		if out.Apart = err == nil && isPart(bundle); out.Apart && len(in.Parts) > 1 {
			bundle, err = w.apart(ctx, in)
		}
	case bundle == nil:
		out.Kind, out.Apart = assemblies.FromParts, true
		bundle, err = w.apart(ctx, in)
	}
	if err != nil {
		return nil, unusable(ctx, err)
	}
	out.Document = bundle.Document
	if !out.Apart && out.Kind == assemblies.FromDocument {
		out.Maker = varying{w, bundle.Files}
	}
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
	if err := w.whatIfFiles(ctx, in, out); err != nil {
		return nil, err
	}
	if in.STEP != nil && !out.Apart {
		return out, w.models(ctx, in.Parts, out)
	}
	return out, nil
}

// whatIfFiles reads the files of an assembly at other sizes.
func (w *Worker) whatIfFiles(ctx context.Context, in *documents.AssemblyAttempt, out *assemblies.Attempt) error {
	for _, name := range slices.Sorted(maps.Keys(in.WhatIfs)) {
		b, err := w.stepAssembly(ctx, name, in.WhatIfs[name], nil)
		if err != nil {
			return unusable(ctx, fmt.Errorf("%s: %w", name, err))
		}
		table, err := b.Document.Table(nil)
		if err != nil {
			return err
		}
		x := assemblies.Attempt{Name: name, Kind: assemblies.FromSolids, Document: b.Document}
		if x.Made, err = w.all(ctx, b.Files, b.Document, table, 0); err != nil {
			return unusable(ctx, fmt.Errorf("%s: %w", name, err))
		}
		if out.WhatIfs == nil {
			out.WhatIfs = map[string]assemblies.Attempt{}
		}
		out.WhatIfs[name] = x
	}
	return nil
}

// whole tells what can be stated of the assembly of an exercise as a whole.
func (w *Worker) whole(ctx context.Context, req *task.Request) (*prepare.Whole, error) {
	ex, err := documents.ReadExercise(req.Exercise)
	if err != nil {
		return nil, err
	}
	if ex.Kind != exercise.Assembly {
		return nil, &task.Error{Kind: task.Faulty, What: "this is an exercise of one part, and has no whole beside it"}
	}
	key, err := w.assemblyReference(ctx, ex, req)
	if err != nil {
		return nil, err
	}
	return prepare.WholeOf(ctx, w.assemblyChecker(), key.ex, key.ref)
}

// stepAssembly reads a STEP file, with what it names, as an assembly.
func (w *Worker) stepAssembly(ctx context.Context, name string, data []byte, others map[string][]byte) (
	*documents.Assembled, error) {
	maker := &shapes.Maker{Rebuilder: w.modeller.Rebuilder}
	name = cmp.Or(strings.TrimSuffix(path.Base(name), path.Ext(name)), "assembly")
	doc, files, err := maker.Assembly(ctx, data, name, others, documents.PackAssembly)
	return &documents.Assembled{Document: doc, Files: files}, err
}

// apart puts parts that were handed in by themselves into an assembly in which nothing joins them, in their order.
func (w *Worker) apart(ctx context.Context, in *documents.AssemblyAttempt) (*documents.Assembled, error) {
	out := &documents.Assembled{Files: map[string][]byte{}, Document: &assembly.Document{Hammerset: assembly.Version,
		Name: cmp.Or(in.Name, "parts"), Unit: "mm", Joints: []assembly.Joint{}}}
	d := out.Document
	put := func(p assembly.Part, name string, data []byte) {
		id := len(d.Parts) + 1
		p.ID, p.File, p.Name = fmt.Sprintf("p%d", id), fmt.Sprintf("%d-%s", id, path.Base(p.File)), cmp.Or(name, p.Name)
		p.SHA256 = documents.Sum(data)
		out.Files[p.File] = data
		d.Parts = append(d.Parts, p)
		d.Components = append(d.Components, assembly.Component{ID: fmt.Sprintf("c%d", id), Name: p.Name, Part: p.ID,
			Pinned: true, Pose: rigid.Still()})
	}
	for _, x := range in.Parts {
		if x.Document != nil {
			data, err := json.Marshal(x.Document)
			if err != nil {
				return nil, err
			}
			put(assembly.Part{File: "part.json"}, cmp.Or(x.Document.Name, "part"), data)
			continue
		}
		of, err := w.stepAssembly(ctx, x.Name, x.STEP, nil)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", x.Name, err)
		}
		for _, c := range of.Document.Components {
			p, _ := of.Document.Part(c.Part)
			put(*p, c.Title(), of.Files[p.File])
		}
	}
	return out, nil
}

// models takes models that came beside a STEP file for what they are the models of, wherever it places that.
func (w *Worker) models(ctx context.Context, list []check.Attempt, out *assemblies.Attempt) error {
	maker := &shapes.Maker{Rebuilder: w.modeller.Rebuilder}
	k := w.modeller.Rebuilder.Kernel()
	for _, x := range list {
		if x.Document == nil {
			continue
		}
		made, err := maker.Model(ctx, x.Document, nil, "")
		if err != nil {
			return unusable(ctx, fmt.Errorf("%s: %w", x.Name, err))
		}
		g, err := solid.Describe(k, made.Solid, nil)
		if err != nil {
			return err
		}
		placed := false
		for _, p := range out.Document.Parts {
			of := out.Made[p.ID]
			if of.Solid == nil {
				continue
			}
			s, err := solid.Describe(k, of.Solid, nil)
			if err != nil {
				return err
			}
			if _, have := out.Parts[p.ID]; !have && identify.Like(s.Closed(), g.Closed()).Sameness == identify.Same {
				out.Parts[p.ID], placed = check.Attempt{Name: x.Name, Document: x.Document}, true
			}
		}
		if !placed {
			out.Notes = append(out.Notes, report.IntakeNote{Kind: "other model",
				What: fmt.Sprintf("%s is the model of none of the solids in %s: these were checked, and not the model", x.Name,
					out.Name),
				Remedy: "export the assembly again with the parts as they are now"})
		}
	}
	return nil
}

// gather packs the parts that a person handed in by themselves before together with those that come now. Where the
// files of now, or those of before, are a whole assembly, there is nothing to be gathered.
func (w *Worker) gather(ctx context.Context, req *task.Request) (*task.Gathered, error) {
	out := &task.Gathered{}
	if apart, err := w.partsOnly(ctx, req.Name, req.File); !apart || err != nil {
		return out, err
	}
	var packed []byte
	first := ""
	for _, key := range slices.Sorted(maps.Keys(req.Files)) {
		_, name, _ := strings.Cut(key, "/")
		switch apart, err := w.partsOnly(ctx, name, req.Files[key]); {
		case err != nil:
			return nil, err
		case !apart:
			packed = nil // a whole assembly: what was before is of no matter
		case packed == nil:
			packed, first = req.Files[key], name
		default:
			if packed, err = documents.Gather(packed, first, name, req.Files[key]); err != nil {
				return nil, err
			}
		}
	}
	var err error
	if packed != nil {
		out.File, err = documents.Gather(packed, first, req.Name, req.File)
	}
	return out, err
}

// partsOnly tells whether a file holds parts by themselves, and no assembly. What cannot be read holds nothing.
func (w *Worker) partsOnly(ctx context.Context, name string, data []byte) (bool, error) {
	in, err := documents.RecogniseAssembly(name, data, nil)
	switch {
	case err != nil:
		return false, nil
	case in.STEP == nil:
		return in.Bundle == nil, nil
	}
	of, err := w.stepAssembly(ctx, name, in.STEP, in.Others)
	if err != nil {
		return false, ctx.Err()
	}
	return isPart(of), nil
}

// isPart tells whether what was read as an assembly is nothing but one part.
func isPart(a *documents.Assembled) bool {
	return len(a.Document.Components) == 1 && !documents.IsPacked(a.Files[a.Document.Parts[0].File])
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
