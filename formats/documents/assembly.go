package documents

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/formats/pack"
)

// AssemblyFile is the document in the folder or zip of an assembly.
const AssemblyFile = "assembly.json"

// Assembled is an assembly with the files of all its parts: its bundle, as reference, attempt, demo and test data
// alike.
type Assembled struct {
	Document *assembly.Document `json:"document"`
	Files    map[string][]byte  `json:"files"` // by the names that the parts give
}

// ReadAssembly reads an assembly document.
func ReadAssembly(data []byte) (*assembly.Document, error) {
	if err := Validate("assembly", data); err != nil {
		return nil, err
	}
	return assembly.Read(data)
}

// ReadAssembled reads the bundle of an assembly from a zip file or, where name is that of one, from a folder.
func ReadAssembled(name string) (*Assembled, error) {
	info, err := os.Stat(name)
	if err != nil {
		return nil, err
	}
	if info.IsDir() {
		return readAssembled(func(file string) ([]byte, error) {
			return os.ReadFile(filepath.Join(name,
				filepath.FromSlash(file)))
		})
	}
	if info.Size() > MaxUpload {
		return nil, fmt.Errorf("%s has %d MB, and at most %d MB are taken", name, info.Size()>>20, MaxUpload>>20)
	}
	data, err := os.ReadFile(name)
	if err != nil {
		return nil, err
	}
	return ReadAssembledZip(data)
}

// ReadAssembledZip reads the bundle of an assembly from a zip file, in which the files may stand in one folder.
func ReadAssembledZip(data []byte) (*Assembled, error) {
	z, err := pack.Open(data)
	if err != nil {
		return nil, err
	}
	folder, found := "", false
	lower := map[string]string{}
	for _, name := range z.Names() {
		if other, twice := lower[strings.ToLower(name)]; twice {
			return nil, fmt.Errorf("the packed file holds %q and %q, which some systems cannot tell apart: give one of "+
				"them another "+
				"name", other, name)
		}
		lower[strings.ToLower(name)] = name
		if path.Base(name) == AssemblyFile && (!found || len(name) < len(folder)+len(AssemblyFile)) {
			folder, found = strings.TrimSuffix(name, AssemblyFile), true
		}
	}
	if !found {
		return nil, fmt.Errorf("the packed file holds no %s", AssemblyFile)
	}
	return readAssembled(func(file string) ([]byte, error) {
		if !slices.Contains(z.Names(), folder+file) {
			return nil, fmt.Errorf("the packed file holds no %s: %w", file, fs.ErrNotExist)
		}
		return z.Read(folder + file)
	})
}

func readAssembled(read func(file string) ([]byte, error)) (*Assembled, error) {
	data, err := read(AssemblyFile)
	if err != nil {
		return nil, fmt.Errorf("there is no %s: %w", AssemblyFile, err)
	}
	a := &Assembled{Files: map[string][]byte{}}
	if a.Document, err = ReadAssembly(data); err != nil {
		return nil, fmt.Errorf("%s: %w", AssemblyFile, err)
	}
	for i, p := range a.Document.Parts {
		at := fmt.Sprintf("/parts/%d", i)
		if !plainName(p.File) {
			return nil, &Fault{at + "/file", fmt.Sprintf("%q must be the name of a file beside the document, without .. or \\",
				p.File)}
		}
		if _, have := a.Files[p.File]; !have {
			body, err := read(p.File)
			if errors.Is(err, fs.ErrNotExist) {
				return nil, &Fault{at + "/file", fmt.Sprintf("the file %s of the part %s is missing: put it beside the "+
					"document, or take "+
					"the part out", p.File, p.Name)}
			}
			if err != nil {
				return nil, fmt.Errorf("%s: %w", p.File, err)
			}
			a.Files[p.File] = body
		}
		if sum := Sum(a.Files[p.File]); sum != p.SHA256 {
			return nil, &Fault{at + "/sha256", fmt.Sprintf("the file %s has another content than when the part %s was put "+
				"in (its "+
				"SHA-256 is %s): put back the file, or take the new one and look the joints over", p.File, p.Name, sum)}
		}
	}
	return a, nil
}

// plainName tells whether a name is one of a file below the folder that it is read from.
func plainName(name string) bool {
	return fs.ValidPath(name) && name != "." && !strings.ContainsAny(name, `\:`) &&
		!strings.HasPrefix(path.Base(name), ".")
}

// Sum is the SHA-256 of a file, in hexadecimal.
func Sum(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// Zip writes the bundle: the document first, then the files by their names. The same content gives the same bytes.
func (a *Assembled) Zip() ([]byte, error) {
	doc, err := json.MarshalIndent(a.Document, "", " ")
	if err != nil {
		return nil, err
	}
	list := []pack.File{{Name: AssemblyFile, Body: append(doc, '\n')}}
	for _, name := range slices.Sorted(maps.Keys(a.Files)) {
		list = append(list, pack.File{Name: name, Body: a.Files[name]})
	}
	return pack.Write(list)
}

// PackAssembly is the bundle of an assembly with the files of its parts.
func PackAssembly(d *assembly.Document, files map[string][]byte) ([]byte, error) {
	return (&Assembled{Document: d, Files: files}).Zip()
}

// IsPacked tells by content whether a file is a zip file, as the bundle of a part that is an assembly itself.
func IsPacked(data []byte) bool { return bytes.HasPrefix(data, []byte("PK\x03\x04")) }

// HasAssembly tells whether a zip file is the bundle of an assembly alone, and not of an exercise.
func HasAssembly(data []byte) bool {
	z, err := pack.Open(data)
	if err != nil {
		return false
	}
	has := false
	for _, name := range z.Names() {
		if path.Base(name) == ExerciseFile {
			return false
		}
		has = has || path.Base(name) == AssemblyFile
	}
	return has
}

// ReadSTEPZip reads a zip file of STEP files: the one that the others belong to, which is that which no other one
// names, and the others by their names. Main is nil where the zip file has an assembly document, and is a bundle.
func ReadSTEPZip(data []byte) (main []byte, others map[string][]byte, err error) {
	z, err := pack.Open(data)
	if err != nil {
		return nil, nil, err
	}
	others = map[string][]byte{}
	for _, name := range z.Names() {
		if path.Base(name) == AssemblyFile {
			return nil, nil, nil
		}
		body, err := z.Read(name)
		if err != nil {
			return nil, nil, err
		}
		if IsSTEP(body) {
			others[name] = body
		}
	}
	roots := rootsOf(others)
	switch len(roots) {
	case 0:
		return nil, nil, fmt.Errorf("the packed file holds neither an %s nor a STEP file that no other one names",
			AssemblyFile)
	case 1:
		main = others[roots[0]]
		delete(others, roots[0])
		return main, others, nil
	}
	return nil, nil, fmt.Errorf("the packed file holds %d STEP files that no other one names (%s): pack one assembly "+
		"with its "+
		"files, or put the parts in one by one", len(roots), strings.Join(roots[:min(len(roots), 5)], ", "))
}

// rootsOf are the STEP files of several that no other one names.
func rootsOf(files map[string][]byte) []string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(files)) {
		named := false
		for other, body := range files {
			named = named || other != name && bytes.Contains(body, []byte(path.Base(name)))
		}
		if !named {
			out = append(out, name)
		}
	}
	return out
}
