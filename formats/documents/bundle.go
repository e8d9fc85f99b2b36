package documents

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/formats/pack"
)

// Names of files in the folder or zip of an exercise.
const (
	ExerciseFile = "exercise.json"
	AtlasFile    = "atlas.json" // the mistake atlas, where it comes along
)

// Bundle is an exercise as a folder of open files.
type Bundle struct {
	Exercise  []byte // the exercise document
	Reference []byte // the file that it names
	Atlas     []byte // its mistake atlas, nil when it does not come along
	Parsed    *exercise.Exercise
}

func (b *Bundle) load(read func(name string) ([]byte, error)) error {
	var err error
	if b.Exercise, err = read(ExerciseFile); err != nil {
		return fmt.Errorf("there is no %s: %w", ExerciseFile, err)
	}
	if b.Parsed, err = ReadExercise(b.Exercise); err != nil {
		return fmt.Errorf("%s: %w", ExerciseFile, err)
	}
	if b.Parsed.Kind == exercise.Assembly {
		return b.loadAssembly(read)
	}
	name := b.Parsed.Reference
	if name != filepath.Base(name) || strings.HasPrefix(name, ".") {
		return fmt.Errorf("%s: /reference: %q must be the name of a file beside it", ExerciseFile, name)
	}
	if b.Reference, err = read(name); err != nil {
		return fmt.Errorf("the reference %s is missing: %w", name, err)
	}
	ref, err := ReadReference(b.Reference)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	data, err := read(AtlasFile)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("%s: %w", AtlasFile, err)
	}
	if _, err := ReadAtlas(data, b.Parsed, ref.Document); err != nil {
		return fmt.Errorf("%s: %w", AtlasFile, err)
	}
	b.Atlas = data
	return nil
}

// ReadAtlas reads the mistake atlas of an exercise; it must have been made from this
// state of it.
func ReadAtlas(data []byte, ex *exercise.Exercise, reference *part.Document) (*atlas.Atlas, error) {
	if err := Validate("atlas", data); err != nil {
		return nil, fmt.Errorf("this is no mistake atlas: %w", err)
	}
	var a atlas.Atlas
	if err := json.Unmarshal(data, &a); err != nil {
		return nil, fmt.Errorf("this is no mistake atlas: %w", err)
	}
	if !a.Fits(ex, reference) {
		return nil, errors.New("the mistake atlas was made from another state of the exercise; leave it out, and it is " +
			"made anew")
	}
	return &a, nil
}

// ReadWith reads an exercise whose files are read by their names.
func ReadWith(read func(name string) ([]byte, error)) (*Bundle, error) {
	b := &Bundle{}
	return b, b.load(read)
}

// ReadFolder reads an exercise from a folder.
func ReadFolder(dir string) (*Bundle, error) {
	b := &Bundle{}
	return b, b.load(func(name string) ([]byte, error) { return os.ReadFile(filepath.Join(dir, name)) })
}

// ReadZip reads an exercise from a zip file, in which the files may stand in one
// folder.
func ReadZip(data []byte) (*Bundle, error) {
	z, err := pack.Open(data)
	if err != nil {
		return nil, err
	}
	folder, found := "", false
	for _, name := range z.Names() {
		if name == ExerciseFile || strings.HasSuffix(name, "/"+ExerciseFile) {
			folder, found = strings.TrimSuffix(name, ExerciseFile), true
			break
		}
	}
	if !found {
		return nil, fmt.Errorf("the packed file holds no %s", ExerciseFile)
	}
	b := &Bundle{}
	return b, b.load(func(name string) ([]byte, error) {
		if !slices.Contains(z.Names(), folder+name) {
			return nil, fmt.Errorf("the packed file holds no %s: %w", name, fs.ErrNotExist)
		}
		return z.Read(folder + name)
	})
}

// WriteFolder writes an exercise as a folder of its files.
func (b *Bundle) WriteFolder(dir string) error {
	data, err := b.Zip()
	if err != nil {
		return err
	}
	list, err := unpacked(data)
	if err != nil {
		return err
	}
	for _, f := range list {
		path := filepath.Join(dir, filepath.FromSlash(f.Name))
		if err := errors.Join(os.MkdirAll(filepath.Dir(path), 0o755), os.WriteFile(path, f.Body, 0o644)); err != nil {
			return err
		}
	}
	return nil
}

// Zip writes an exercise as a zip file.
func (b *Bundle) Zip() ([]byte, error) {
	if b.Parsed.Kind == exercise.Assembly {
		list, err := unpacked(b.Reference)
		if err != nil {
			return nil, err
		}
		return pack.Write(append([]pack.File{{Name: ExerciseFile, Body: b.Exercise}}, list...))
	}
	list := []pack.File{{Name: ExerciseFile, Body: b.Exercise}, {Name: b.Parsed.Reference, Body: b.Reference}}
	if b.Atlas != nil {
		list = append(list, pack.File{Name: AtlasFile, Body: b.Atlas})
	}
	return pack.Write(list)
}
