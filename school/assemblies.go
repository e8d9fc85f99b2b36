package school

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"hammerset/core/assembly"
	"hammerset/core/assembly/shapes"
	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/core/stock"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// Assemblies lists the asker's assemblies without their documents.
func (s *School) Assemblies(ctx context.Context, by Person) ([]store.Assembly, error) {
	return s.store.Assemblies(ctx, by.ID)
}

// AssemblyStart is what an assembly starts from.
type AssemblyStart struct {
	Name, Unit string
	Bundle     []byte // or a STEP file; empty starts an empty one
	// What it is made for: an issue, or an exercise whose reference it starts as and becomes.
	Issue, Exercise *int64
}

// StartAssembly starts an assembly: an empty one, or from a bundle.
func (s *School) StartAssembly(ctx context.Context, by Person, start AssemblyStart) (store.Assembly, error) {
	if start.Issue != nil {
		if _, err := s.issue(ctx, by, ReadIssue, *start.Issue); err != nil {
			return store.Assembly{}, err
		}
	}
	if start.Exercise != nil {
		return s.copiedAssembly(ctx, by, *start.Exercise)
	}
	if len(start.Bundle) > 0 {
		return s.unpackAssembly(ctx, by, start)
	}
	name := strings.TrimSpace(start.Name)
	if name == "" || utf8.RuneCountInString(name) > longestModelName {
		return store.Assembly{}, refuse(Faulty, fmt.Sprintf("an assembly needs a name of at most %d characters",
			longestModelName), "name it as the sheet names the whole")
	}
	document, err := json.Marshal(assembly.Document{Hammerset: assembly.Version, Name: name, Unit: start.Unit,
		Parts: []assembly.Part{}, Components: []assembly.Component{}, Joints: []assembly.Joint{}})
	if err != nil {
		return store.Assembly{}, err
	}
	if _, err := s.readAssembly(ctx, document); err != nil {
		return store.Assembly{}, err
	}
	return s.store.AddAssembly(ctx, store.Assembly{OwnerID: by.ID, Name: name, Document: document,
		IssueID: start.Issue}, nil)
}

// copiedAssembly starts an assembly as the reference of an exercise, to be worked on.
func (s *School) copiedAssembly(ctx context.Context, by Person, id int64) (store.Assembly, error) {
	_, ex, data, err := s.newest(ctx, by, ChangeExercise, id)
	if err != nil {
		return store.Assembly{}, err
	}
	if ex.Kind != exercise.Assembly {
		return store.Assembly{}, refuse(Faulty, "this exercise is of one part", "work on its reference as a model")
	}
	ref, err := documents.ReadAssemblyReference(ex, data)
	if err != nil {
		return store.Assembly{}, err
	}
	document, err := json.Marshal(ref.Document)
	if err != nil {
		return store.Assembly{}, err
	}
	return s.store.AddAssembly(ctx, store.Assembly{OwnerID: by.ID, Name: ref.Document.Name, Document: document,
		ExerciseID: &id}, slices.Collect(maps.Values(ref.Files)))
}

// unpackAssembly keeps an assembly that comes as a bundle, or as a STEP file of that name.
func (s *School) unpackAssembly(ctx context.Context, by Person, start AssemblyStart) (store.Assembly, error) {
	b, err := ask[documents.Assembled](ctx, s, &task.Request{Kind: task.UnpackAssembly, Name: start.Name,
		File: start.Bundle})
	if err != nil {
		return store.Assembly{}, err
	}
	document, err := json.Marshal(b.Document)
	if err != nil {
		return store.Assembly{}, err
	}
	var files [][]byte
	for _, data := range b.Files {
		files = append(files, data)
	}
	return s.store.AddAssembly(ctx, store.Assembly{OwnerID: by.ID, Name: b.Document.Name, Document: document,
		IssueID: start.Issue}, files)
}

// readAssembly reads a document in a child.
func (s *School) readAssembly(ctx context.Context, document []byte) (*assembly.Document, error) {
	return ask[*assembly.Document](ctx, s, &task.Request{Kind: task.ReadAssembly, Assembly: document})
}

// Assembly gives an assembly of the asker.
func (s *School) Assembly(ctx context.Context, by Person, id int64) (store.Assembly, error) {
	a, err := s.store.Assembly(ctx, id, by.ID) // the owner's alone are looked for
	if err != nil {
		return a, err
	}
	return a, s.may(ctx, by, KeepAssemblies, row{owner: a.OwnerID})
}

// AssemblyChange is a changed document of an assembly: of which version, and what was done. Models are those whose
// documents go with it, under their own versions: each to the state that a file of the assembly has.
type AssemblyChange struct {
	Version  int
	Document []byte
	What     string
	Models   []ModelState
}

// ModelState is a file of an assembly that was the document of a model, and is to be so again. Version is the one that
// the model has.
type ModelState struct {
	Model   int64
	Version int
	SHA256  string
}

// SaveAssembly keeps a changed document. Models that are changed with it are kept together with it, or nothing is.
func (s *School) SaveAssembly(ctx context.Context, by Person, id int64, c AssemblyChange) (store.Assembly,
	[]store.Model, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return store.Assembly{}, nil, err
	}
	d, _, err := s.withFiles(ctx, id, c.Document)
	if err != nil {
		return store.Assembly{}, nil, err
	}
	save := store.AssemblySave{ID: id, Version: c.Version, Name: d.Name, Document: c.Document, What: listed(c.What)}
	for _, m := range c.Models {
		change, err := s.state(ctx, by, id, m)
		if err != nil {
			return store.Assembly{}, nil, err
		}
		save.Models = append(save.Models, change)
	}
	return s.saveTogether(ctx, by, save)
}

// state is the change that brings a model to the state that a file of an assembly has.
func (s *School) state(ctx context.Context, by Person, assembly int64, m ModelState) (store.ModelSave, error) {
	sources, err := s.store.PartSources(ctx, assembly, by.ID)
	if err != nil {
		return store.ModelSave{}, err
	}
	if !slices.ContainsFunc(sources, func(f store.PartSource) bool {
		return f.SHA256 == m.SHA256 && f.Model != nil && *f.Model == m.Model
	}) {
		return store.ModelSave{}, refuse(Faulty, "this file was never a state of the model", "put the part in anew")
	}
	files, err := s.store.AssemblyFiles(ctx, assembly, []string{m.SHA256})
	if err != nil {
		return store.ModelSave{}, err
	}
	v, err := s.verified(ctx, files[m.SHA256])
	return store.ModelSave{ID: m.Model, Version: m.Version, Name: v.Name, Document: files[m.SHA256],
		What: "together with an assembly"}, err
}

// saveTogether keeps an assembly with models.
func (s *School) saveTogether(ctx context.Context, by Person, c store.AssemblySave) (store.Assembly, []store.Model,
	error) {
	a, models, err := s.store.SaveAssembly(ctx, by.ID, c)
	switch {
	case errors.Is(err, store.ErrStale):
		err = refuse(Conflict, "this assembly was changed in another window",
			"nothing of it was overwritten: reload to see that change, or save yours as an assembly of its own")
	case errors.Is(err, store.ErrStaleModel):
		err = refuse(Conflict, "the model of a part was changed in another window",
			"nothing was overwritten, neither the model nor the assembly: reload to see that change")
	}
	return a, models, err
}

// EditedPart is a model that is edited in the place that a component has in an assembly. Versions are those that were
// changed, of the assembly and of the model.
type EditedPart struct {
	Component       string
	AssemblyVersion int
	Model           int64
	Version         int
	Document        []byte
	What            string
}

// EditPart keeps the changed document of a model, and the assembly with it in the place of the part that it was: both
// under their versions, or neither. All parts of the same file are renewed.
func (s *School) EditPart(ctx context.Context, by Person, id int64, e EditedPart) (store.Assembly, store.Model,
	*modeller.Verified, error) {
	fail := func(err error) (store.Assembly, store.Model, *modeller.Verified, error) {
		return store.Assembly{}, store.Model{}, nil, err
	}
	a, err := s.Assembly(ctx, by, id)
	if err != nil {
		return fail(err)
	}
	if _, err := s.model(ctx, by, KeepModels, e.Model); err != nil {
		return fail(err)
	}
	v, err := s.verified(ctx, e.Document)
	if err != nil {
		return fail(err)
	}
	d, err := s.readAssembly(ctx, a.Document)
	if err != nil {
		return fail(err)
	}
	c, ok := d.Component(e.Component)
	if !ok {
		return fail(refuse(Faulty, "the component is not in the assembly any more", "go back to the assembly"))
	}
	if err := s.ofModel(ctx, by, d, id, c.Part, e.Model); err != nil {
		return fail(err)
	}
	renewAll(d, c.Part, e.Document)
	document, err := json.Marshal(d)
	if err != nil {
		return fail(err)
	}
	what := listed(e.What)
	a, models, err := s.saveTogether(ctx, by, store.AssemblySave{ID: id, Version: e.AssemblyVersion, Name: d.Name,
		Document: document, What: listed(c.Title() + ": " + e.What),
		Models: []store.ModelSave{{ID: e.Model, Version: e.Version, Name: v.Name, Document: e.Document, What: what}}})
	if err != nil {
		return fail(err)
	}
	return a, models[0], v, nil
}

// ModelOfPart gives the model of a part that is a model document and came without one, so that it can be edited: a
// model of the asker that has this document, or one that is made of it.
func (s *School) ModelOfPart(ctx context.Context, by Person, id int64, sha string) (store.Model, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return store.Model{}, err
	}
	files, err := s.store.AssemblyFiles(ctx, id, []string{sha})
	if err != nil {
		return store.Model{}, err
	}
	document := files[sha]
	if !(&task.Request{File: document}).Modelled() {
		return store.Model{}, refuse(Faulty, "this part is no model document, so that there is nothing to edit",
			"edit it in the program that it comes from, and put it in anew")
	}
	v, err := s.verified(ctx, document)
	if err != nil {
		return store.Model{}, err
	}
	m, err := s.store.ModelWith(ctx, by.ID, document)
	if errors.Is(err, ErrNotFound) {
		m, err = s.store.AddModel(ctx, store.Model{OwnerID: by.ID, Name: v.Name, Document: document})
	}
	if err != nil {
		return m, err
	}
	return m, s.store.AddAssemblyFile(ctx, id, document, store.Source{Model: &m.ID, Version: m.Version})
}

// ofModel sees that the file of a part is a state of a model.
func (s *School) ofModel(ctx context.Context, by Person, d *assembly.Document, id int64, part string,
	model int64) error {
	sources, err := s.store.PartSources(ctx, id, by.ID)
	if err != nil {
		return err
	}
	p, _ := d.Part(part)
	for _, f := range sources {
		if f.SHA256 == p.SHA256 && f.Model != nil && *f.Model == model {
			return nil
		}
	}
	return refuse(Faulty, fmt.Sprintf("the part %s is of another model", p.Name), "edit the model that it is of")
}

// renewAll puts the document of a model in the place of the file of a part, in all parts of that file.
func renewAll(d *assembly.Document, part string, document []byte) {
	p, _ := d.Part(part)
	sha := p.SHA256
	for _, was := range slices.Clone(d.Parts) {
		if was.SHA256 != sha {
			continue
		}
		now := shapes.Kept(document, ".json", was.Name, 0)
		if was.Solid != "" {
			now = shapes.OneOf(now, was.Solid)
		}
		d.Renew(was.ID, &now)
	}
}

// AssemblyVersions lists the kept states of an assembly.
func (s *School) AssemblyVersions(ctx context.Context, by Person, id int64) ([]store.SavedState, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return nil, err
	}
	return s.store.AssemblyVersions(ctx, id, by.ID)
}

// AssemblyVersion gives a kept state of an assembly.
func (s *School) AssemblyVersion(ctx context.Context, by Person, id int64, number int) (store.Assembly, error) {
	a, err := s.Assembly(ctx, by, id)
	if err != nil {
		return a, err
	}
	v, err := s.store.AssemblyVersion(ctx, id, by.ID, number)
	a.Version, a.Saved, a.Document = v.Version, v.Saved, v.Document
	return a, err
}

// withFiles reads a document with the files of its parts, by their names. Files that were not put into this assembly
// cannot be had through it.
func (s *School) withFiles(ctx context.Context, id int64,
	document []byte) (*assembly.Document, map[string][]byte, error) {
	d, err := s.readAssembly(ctx, document)
	if err != nil {
		return nil, nil, err
	}
	var shas []string
	for _, p := range d.Parts {
		shas = append(shas, p.SHA256)
	}
	bySum, err := s.store.AssemblyFiles(ctx, id, shas)
	if errors.Is(err, ErrNotFound) { // the parts of a nested assembly that was laid flat
		if err = s.unpackNested(ctx, id); err == nil {
			bySum, err = s.store.AssemblyFiles(ctx, id, shas)
		}
	}
	if errors.Is(err, ErrNotFound) {
		return nil, nil, refuse(Faulty, "a part of this assembly has a file that was never put into it",
			"put the part in anew")
	}
	if err != nil {
		return nil, nil, err
	}
	out := map[string][]byte{}
	for _, p := range d.Parts {
		out[p.File] = bySum[p.SHA256]
	}
	return d, out, nil
}

// unpackNested lets an assembly have the parts of those that were put into it.
func (s *School) unpackNested(ctx context.Context, id int64) error {
	bundles, err := s.store.AssemblyBundles(ctx, id)
	if err != nil {
		return err
	}
	for depth := 0; len(bundles) > 0 && depth < assembly.MaxDepth; depth++ {
		var inner [][]byte
		for _, data := range bundles {
			b, err := ask[documents.Assembled](ctx, s, &task.Request{Kind: task.UnpackAssembly, File: data})
			if err != nil {
				return err
			}
			for _, file := range b.Files {
				if err := s.store.AddAssemblyFile(ctx, id, file, store.Source{}); err != nil {
					return err
				}
				if documents.IsPacked(file) {
					inner = append(inner, file)
				}
			}
		}
		bundles = inner
	}
	return nil
}

// RemoveAssembly takes an assembly away.
func (s *School) RemoveAssembly(ctx context.Context, by Person, id int64) error {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return err
	}
	return s.store.RemoveAssembly(ctx, id, by.ID)
}

// NewPart is a part to put into an assembly: a model or another assembly of the asker, the reference of an exercise, a
// standard part, or a file.
type NewPart struct {
	Model    *int64
	Assembly *int64
	Exercise *int64
	Stock    *Stock
	File     File
}

// Stock is a standard part: which kind and size, and how long in mm.
type Stock struct {
	Kind, Size string
	Length     float64
}

// PutPart makes parts of a model, an assembly or a file, one for each of its solids, keeps the file for the assembly,
// and gives the parts with their shapes, as JSON. The document is not changed by it.
func (s *School) PutPart(ctx context.Context, by Person, id int64, in NewPart) (json.RawMessage, error) {
	a, err := s.Assembly(ctx, by, id)
	if err != nil {
		return nil, err
	}
	name, data := strings.TrimSuffix(in.File.Name, path.Ext(in.File.Name)), in.File.Data
	from := store.Source{Model: in.Model, Assembly: in.Assembly}
	if in.Model != nil {
		m, err := s.model(ctx, by, KeepModels, *in.Model)
		if err != nil {
			return nil, err
		}
		name, data, from.Version = m.Name, m.Document, m.Version
	}
	if in.Exercise != nil {
		if data, name, err = s.referenceFile(ctx, by, ReadReference, *in.Exercise); err != nil {
			return nil, err
		}
	}
	if in.Stock != nil {
		if name, data, err = stock.Document(in.Stock.Kind, in.Stock.Size, in.Stock.Length); err != nil {
			return nil, refuse(Faulty, err.Error(), "choose another size")
		}
	}
	if in.Assembly != nil {
		other, err := s.Assembly(ctx, by, *in.Assembly)
		if err != nil {
			return nil, err
		}
		if data, err = s.bundled(ctx, other); err != nil {
			return nil, err
		}
		name, from.Version = other.Name, other.Version
	}
	parts, err := s.kernel.Do(ctx, &task.Request{Kind: task.PutPart, Assembly: a.Document, Name: name, File: data}, nil)
	if err != nil {
		return nil, err
	}
	return parts, s.store.AddAssemblyFile(ctx, id, data, from)
}

// PartSources lists the files of an assembly that came from a model or another assembly of the asker.
func (s *School) PartSources(ctx context.Context, by Person, id int64) ([]store.PartSource, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return nil, err
	}
	return s.store.PartSources(ctx, id, by.ID)
}

// Shapes makes parts of a state of an assembly, which need not be saved, at their sizes: some of them, or all, by part,
// as JSON. What was made once is kept. A part that cannot be made has a shape without anything that says why: the rest
// stands.
func (s *School) Shapes(ctx context.Context, by Person, id int64, document []byte,
	parts []string) (map[string]json.RawMessage, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return nil, err
	}
	d, files, err := s.withFiles(ctx, id, document)
	if err != nil {
		return nil, err
	}
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	madeOf := map[string]string{} // by part
	var keys []string
	for _, p := range d.Parts {
		if len(parts) > 0 && !slices.Contains(parts, p.ID) {
			continue
		}
		of, err := p.Shape(table)
		if err != nil {
			of = "" // the kernel says what is wrong with it, and the others stand
		}
		madeOf[p.ID] = documents.Sum([]byte(shapes.Version + " " + of))
		keys = append(keys, madeOf[p.ID])
	}
	kept, err := s.store.Shapes(ctx, keys)
	if err != nil {
		return nil, err
	}
	out := map[string]json.RawMessage{}
	var asked []assembly.Part
	for _, p := range d.Parts {
		if shape := kept[madeOf[p.ID]]; shape != nil {
			out[p.ID] = shape
		} else if madeOf[p.ID] != "" {
			asked = append(asked, p)
		}
	}
	return out, s.makeShapes(ctx, id, d, asked, files, madeOf, out)
}

// makeShapes makes parts in children, keeps what it makes, and adds it to the shapes that are there.
func (s *School) makeShapes(ctx context.Context, id int64, d *assembly.Document, asked []assembly.Part,
	files map[string][]byte, madeOf map[string]string, out map[string]json.RawMessage) error {
	if len(asked) == 0 {
		return nil
	}
	var reqs []*task.Request
	for _, p := range asked {
		small, err := alone(d, p)
		if err != nil {
			return err
		}
		reqs = append(reqs, &task.Request{Kind: task.Feature, Assembly: small, Part: p.ID, File: files[p.File],
			Keep: p.SHA256})
	}
	progress, done := s.running.begin(assemblyKey(id))
	defer done()
	raw, errs := s.kernel.Try(ctx, reqs, progress)
	for i, p := range asked {
		shape, err := task.Shape(&p, raw[i], errs[i])
		if err != nil {
			return err
		}
		if out[p.ID] = shape; errs[i] != nil {
			continue
		}
		if err := s.store.KeepShape(ctx, madeOf[p.ID], shape); err != nil {
			return err
		}
	}
	return nil
}

// alone is a document with one of its parts and the sizes that this is made at: a child reads it much sooner than the
// whole.
func alone(d *assembly.Document, p assembly.Part) ([]byte, error) {
	return json.Marshal(assembly.Document{Hammerset: d.Hammerset, Name: d.Name, Unit: d.Unit, Parameters: d.Parameters,
		Parts: []assembly.Part{p}, Components: []assembly.Component{}, Joints: []assembly.Joint{}})
}

// assemblyKey keeps the progress of assemblies apart from that of models and attempts.
func assemblyKey(id int64) int64 { return id + 1<<48 }

// AssemblyProgress says how far the task on an assembly is.
func (s *School) AssemblyProgress(ctx context.Context, by Person, id int64) (Running, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return Running{}, err
	}
	return s.running.get(assemblyKey(id)), nil
}

// Collisions tells how the components of a state of an assembly lie to one another, as JSON.
func (s *School) Collisions(ctx context.Context, by Person, id int64, document []byte) (json.RawMessage, error) {
	return s.ofState(ctx, by, id, &task.Request{Kind: task.Clash, Assembly: document})
}

// Sweep looks for collisions in a state of an assembly while a joint is driven, in radians or mm, as JSON.
func (s *School) Sweep(ctx context.Context, by Person, id int64, document []byte, joint string,
	way [2]float64) (json.RawMessage, error) {
	return s.ofState(ctx, by, id, &task.Request{Kind: task.Sweep, Assembly: document, Joint: joint, Way: way})
}

// VaryAssembly varies every driving size of a state of an assembly, and tells what happens, as JSON.
func (s *School) VaryAssembly(ctx context.Context, by Person, id int64, document []byte) (json.RawMessage, error) {
	return s.ofState(ctx, by, id, &task.Request{Kind: task.Vary, Assembly: document, Patience: 4})
}

// ofState carries out a task on a state of an assembly, which need not be saved, with the files of its parts.
func (s *School) ofState(ctx context.Context, by Person, id int64, req *task.Request) (json.RawMessage, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return nil, err
	}
	var err error
	if _, req.Files, err = s.withFiles(ctx, id, req.Assembly); err != nil {
		return nil, err
	}
	req.Keep = fmt.Sprint("assembly ", id)
	progress, done := s.running.begin(assemblyKey(id))
	defer done()
	return s.kernel.Do(ctx, req, progress)
}

// AssemblyBundle gives an assembly as it was saved with the files of its parts, packed.
func (s *School) AssemblyBundle(ctx context.Context, by Person, id int64) (name string, data []byte, err error) {
	a, err := s.Assembly(ctx, by, id)
	if err != nil {
		return "", nil, err
	}
	data, err = s.bundled(ctx, a)
	return a.Name, data, err
}

// bundled packs an assembly as it was saved with the files of its parts.
func (s *School) bundled(ctx context.Context, a store.Assembly) ([]byte, error) {
	d, files, err := s.withFiles(ctx, a.ID, a.Document)
	if err != nil {
		return nil, err
	}
	return (&documents.Assembled{Document: d, Files: files}).Zip()
}

// ExportAssembly writes an assembly as it was saved in another format: ap214 or ap242, stl or 3mf.
func (s *School) ExportAssembly(ctx context.Context, by Person, id int64, format string) (name string, data []byte,
	err error) {
	a, err := s.Assembly(ctx, by, id)
	if err != nil {
		return "", nil, err
	}
	_, files, err := s.withFiles(ctx, id, a.Document)
	if err != nil {
		return "", nil, err
	}
	out, err := ask[modeller.Exported](ctx, s, &task.Request{Kind: task.ExportAssembly, Assembly: a.Document, Files: files,
		Name: format, Keep: fmt.Sprint("assembly ", id)})
	return a.Name, out.Data, err
}

// ExerciseOfAssembly makes an exercise of an assembly as it was saved: of the whole, and of each part. One that was
// begun as the reference of an exercise becomes that again, in its next version.
func (s *School) ExerciseOfAssembly(ctx context.Context, by Person, id int64) (Exercise, error) {
	if err := s.may(ctx, by, MakeExercise, row{}); err != nil {
		return Exercise{}, err
	}
	a, err := s.Assembly(ctx, by, id)
	if err != nil {
		return Exercise{}, err
	}
	d, files, err := s.withFiles(ctx, id, a.Document)
	if err != nil {
		return Exercise{}, err
	}
	progress, done := s.running.begin(assemblyKey(id))
	defer done()
	if a.ExerciseID != nil {
		return s.ontoExercise(ctx, by, *a.ExerciseID, &documents.Assembled{Document: d, Files: files})
	}
	b, err := s.begun(ctx, &task.Request{Kind: task.BeginAssembly, Name: a.Name, Assembly: a.Document, Files: files,
		Patience: 4}, progress)
	if err != nil {
		return Exercise{}, err
	}
	v, err := s.AddBundle(ctx, by.ID, b, 0, "made of the assembly "+a.Name)
	if err != nil {
		return Exercise{}, err
	}
	return s.exercise(ctx, by, v)
}

// ontoExercise puts an exercise of an assembly onto another state of its reference, as its next version. The parts keep
// their exercises, so that there have to be the same.
func (s *School) ontoExercise(ctx context.Context, by Person, id int64, a *documents.Assembled) (Exercise, error) {
	v, ex, data, err := s.newest(ctx, by, ChangeExercise, id)
	if err != nil {
		return Exercise{}, err
	}
	ref, err := documents.ReadAssemblyReference(ex, data)
	if err != nil {
		return Exercise{}, err
	}
	if what := otherParts(ref.Document, a.Document); what != "" {
		return Exercise{}, refuse(Conflict, what, "undo this; with other parts it is another exercise: save it as a bundle, "+
			"open that, and make an exercise of it")
	}
	files := map[string][]byte{}
	for i := range a.Document.Parts {
		p := &a.Document.Parts[i]
		was, _ := ref.Document.Part(p.ID)
		files[was.File], p.File = a.Files[p.File], was.File
	}
	ref.Assembled = &documents.Assembled{Document: a.Document, Files: files}
	b := &documents.Bundle{Exercise: v.Document, Parsed: ex}
	if b.Reference, err = ref.Zip(); err != nil {
		return Exercise{}, err
	}
	next, err := s.AddBundle(ctx, by.ID, b, id, "the reference worked on")
	var te *task.Error
	if errors.As(err, &te) && te.Kind == task.Faulty {
		return Exercise{}, refuse(Faulty, "the exercise does not go onto this assembly: "+te.What,
			"keep what the exercise asks of, or change first what it asks")
	}
	if err != nil {
		return Exercise{}, err
	}
	return s.exercise(ctx, by, next)
}

// otherParts says which part is there in one of two states of an assembly alone; nothing where there is none.
func otherParts(was, is *assembly.Document) string {
	for _, x := range []struct {
		from, in *assembly.Document
		words    string
	}{{was, is, "the part %s is no longer in it, and has an exercise"},
		{is, was, "the part %s is new, and has no exercise"}} {
		for i := range x.from.Parts {
			p := &x.from.Parts[i]
			if q, there := x.in.Part(p.ID); !there || path.Ext(q.File) != path.Ext(p.File) {
				return fmt.Sprintf(x.words, p.Name)
			}
		}
	}
	return ""
}

// begun is an exercise that is begun from an assembly.
func (s *School) begun(ctx context.Context, req *task.Request,
	progress func(task.Progress)) (*documents.Bundle, error) {
	raw, err := s.kernel.Do(ctx, req, progress)
	if err != nil {
		return nil, err
	}
	var out task.Begun
	if err := json.Unmarshal(raw, &out); err != nil {
		return nil, err
	}
	b := &documents.Bundle{Exercise: out.Exercise, Reference: out.Reference}
	b.Parsed, err = documents.ReadExercise(b.Exercise)
	return b, err
}
