package documents

import (
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"

	"hammerset/core/exercise"
	"hammerset/formats/pack"
)

// AssemblyReference is the reference of an exercise of the kind assembly: the bundle of the assembly, and the exercises
// of its parts, which lie in it in folders of their own.
type AssemblyReference struct {
	*Assembled
	Exercises map[string]*Bundle // by the ids of the parts
}

// readAssemblyReference reads the files that an exercise of the kind assembly names. The exercise of a part has for its
// reference the very file that the assembly has for the part, so that there is one of it, and can be used by itself.
func readAssemblyReference(ex *exercise.Exercise, read func(file string) ([]byte, error)) (*AssemblyReference, error) {
	a, err := readAssembled(read)
	if err != nil {
		return nil, err
	}
	out := &AssemblyReference{Assembled: a, Exercises: map[string]*Bundle{}}
	for i := range ex.Assembly.Items {
		x := &ex.Assembly.Items[i]
		at := fmt.Sprintf("/assembly/items/%d", i)
		p, ok := a.Document.Part(x.Part)
		if !ok {
			return nil, &Fault{at + "/part", fmt.Sprintf("the assembly has no part %q: name one of its parts, or take the item "+
				"out", x.Part)}
		}
		if x.Exercise == "" {
			continue
		}
		folder := path.Dir(x.Exercise) + "/"
		b := &Bundle{}
		if err := b.load(func(name string) ([]byte, error) { return read(folder + name) }); err != nil {
			return nil, fmt.Errorf("the exercise of item %d, %s: %w", i+1, p.Name, err)
		}
		if b.Parsed.Kind != exercise.Part {
			return nil, &Fault{at + "/exercise", "the exercise of an item is one of a part"}
		}
		if want := folder + b.Parsed.Reference; p.File != want {
			return nil, &Fault{at + "/exercise", fmt.Sprintf("its reference is %s, and the assembly has %s for this part: let "+
				"both be the same file", want, p.File)}
		}
		out.Exercises[p.ID] = b
	}
	return out, nil
}

// ReadAssemblyReference reads the reference of an exercise of the kind assembly, which is one packed file.
func ReadAssemblyReference(ex *exercise.Exercise, data []byte) (*AssemblyReference, error) {
	z, err := pack.Open(data)
	if err != nil {
		return nil, fmt.Errorf("the reference: %w", err)
	}
	return readAssemblyReference(ex, func(file string) ([]byte, error) {
		if !slices.Contains(z.Names(), file) {
			return nil, fmt.Errorf("the reference holds no %s: %w", file, fs.ErrNotExist)
		}
		return z.Read(file)
	})
}

// Zip writes the reference as one packed file; the same content gives the same bytes.
func (r *AssemblyReference) Zip() ([]byte, error) {
	all := &Assembled{Document: r.Document, Files: maps.Clone(r.Files)}
	for part, b := range r.Exercises {
		p, _ := r.Document.Part(part)
		folder := path.Dir(p.File) + "/"
		all.Files[folder+ExerciseFile] = b.Exercise
		if b.Atlas != nil {
			all.Files[folder+AtlasFile] = b.Atlas
		}
	}
	return all.Zip()
}

// loadAssembly loads the reference of an exercise of the kind assembly.
func (b *Bundle) loadAssembly(read func(name string) ([]byte, error)) error {
	r, err := readAssemblyReference(b.Parsed, read)
	if err != nil {
		return err
	}
	b.Reference, err = r.Zip()
	return err
}

// unpacked are the files of a reference that is one packed file.
func unpacked(data []byte) ([]pack.File, error) {
	z, err := pack.Open(data)
	if err != nil {
		return nil, err
	}
	var out []pack.File
	for _, name := range z.Names() {
		body, err := z.Read(name)
		if err != nil {
			return nil, err
		}
		out = append(out, pack.File{Name: name, Body: body})
	}
	return out, nil
}
