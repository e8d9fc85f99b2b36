package school

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"hammerset/core/assembly"
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

// StartAssembly starts an assembly: an empty one, or from a bundle.
func (s *School) StartAssembly(ctx context.Context, by Person, name, unit string,
	bundle []byte) (store.Assembly, error) {
	if err := Allowed(by, KeepAssemblies); err != nil {
		return store.Assembly{}, err
	}
	if len(bundle) > 0 {
		return s.unpackAssembly(ctx, by, name, bundle)
	}
	name = strings.TrimSpace(name)
	if name == "" || utf8.RuneCountInString(name) > longestModelName {
		return store.Assembly{}, refuse(Faulty, fmt.Sprintf("an assembly needs a name of at most %d characters",
			longestModelName), "name it as the sheet names the whole")
	}
	document, err := json.Marshal(assembly.Document{Hammerset: assembly.Version, Name: name, Unit: unit,
		Parts: []assembly.Part{}, Components: []assembly.Component{}, Joints: []assembly.Joint{}})
	if err != nil {
		return store.Assembly{}, err
	}
	if _, err := s.readAssembly(ctx, document); err != nil {
		return store.Assembly{}, err
	}
	return s.store.AddAssembly(ctx, store.Assembly{OwnerID: by.ID, Name: name, Document: document}, nil)
}

// unpackAssembly keeps an assembly that comes as a bundle, or as a STEP file of that name.
func (s *School) unpackAssembly(ctx context.Context, by Person, name string, bundle []byte) (store.Assembly, error) {
	b, err := ask[documents.Assembled](ctx, s, &task.Request{Kind: task.UnpackAssembly, Name: name,
		File: bundle})
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
	return s.store.AddAssembly(ctx, store.Assembly{OwnerID: by.ID, Name: b.Document.Name, Document: document}, files)
}

// readAssembly reads a document in a child.
func (s *School) readAssembly(ctx context.Context, document []byte) (*assembly.Document, error) {
	return ask[*assembly.Document](ctx, s, &task.Request{Kind: task.ReadAssembly, Assembly: document})
}

// Assembly gives an assembly of the asker.
func (s *School) Assembly(ctx context.Context, by Person, id int64) (store.Assembly, error) {
	if err := Allowed(by, KeepAssemblies); err != nil {
		return store.Assembly{}, err
	}
	a, err := s.store.Assembly(ctx, id, by.ID) // the owner's alone are looked for
	if err != nil {
		return a, err
	}
	return a, s.may(ctx, by, KeepAssemblies, row{owner: a.OwnerID})
}

// SaveAssembly keeps a changed document. Version is the one that was changed.
func (s *School) SaveAssembly(ctx context.Context, by Person, id int64, version int,
	document []byte) (store.Assembly, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return store.Assembly{}, err
	}
	d, _, err := s.withFiles(ctx, id, document)
	if err != nil {
		return store.Assembly{}, err
	}
	a, err := s.store.SaveAssembly(ctx, id, by.ID, version, d.Name, document)
	if errors.Is(err, store.ErrStale) {
		err = refuse(Conflict, "this assembly was changed in another window",
			"nothing of it was overwritten: reload to see that change, or save yours as an assembly of its own")
	}
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
				if strings.HasPrefix(string(file[:min(len(file), 4)]), "PK\x03\x04") {
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

// NewPart is a part to put into an assembly: a model or another assembly of the asker, a standard part, or a file.
type NewPart struct {
	Model    *int64
	Assembly *int64
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

// NewerParts lists the files of an assembly of which the model or assembly that they came from has a newer version.
func (s *School) NewerParts(ctx context.Context, by Person, id int64) ([]store.Newer, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return nil, err
	}
	return s.store.NewerFiles(ctx, id, by.ID)
}

// Shapes makes parts of a state of an assembly, which need not be saved, at their sizes: some of them, or all, by part,
// as JSON. A part that cannot be made has a shape without anything that says why: the rest stands.
func (s *School) Shapes(ctx context.Context, by Person, id int64, document []byte,
	parts []string) (map[string]json.RawMessage, error) {
	if _, err := s.Assembly(ctx, by, id); err != nil {
		return nil, err
	}
	d, files, err := s.withFiles(ctx, id, document)
	if err != nil {
		return nil, err
	}
	asked := slices.DeleteFunc(slices.Clone(d.Parts), func(p assembly.Part) bool {
		return len(parts) > 0 && !slices.Contains(parts, p.ID)
	})
	var reqs []*task.Request
	for _, p := range asked {
		reqs = append(reqs, &task.Request{Kind: task.Feature, Assembly: document, Part: p.ID, File: files[p.File],
			Keep: p.SHA256})
	}
	progress, done := s.running.begin(assemblyKey(id))
	defer done()
	raw, errs := s.kernel.Try(ctx, reqs, progress)
	out := map[string]json.RawMessage{}
	for i, p := range asked {
		if raw[i], err = task.Shape(&p, raw[i], errs[i]); err != nil {
			return nil, err
		}
		out[p.ID] = raw[i]
	}
	return out, nil
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
