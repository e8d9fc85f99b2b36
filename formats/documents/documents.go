// Package documents reads what people hand in: it recognises files by their
// content, checks JSON documents against their published schemas, and reads and
// writes exercises as folders and zip files.
package documents

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	schemas "hammerset/docs/formats"
	"hammerset/formats/pack"
	"hammerset/formats/stl"
	"hammerset/formats/threemf"
)

// MaxFile is the largest file that is checked, in bytes; larger ones up to
// MaxUpload are kept, and what to do about them is said.
const (
	MaxFile   = 64 << 20
	MaxUpload = 160 << 20
)

// Fault is a document that does not fit its schema, at a JSON pointer.
type Fault struct{ Pointer, Message string }

func (e *Fault) Error() string {
	if e.Pointer == "" {
		return e.Message
	}
	return e.Pointer + ": " + e.Message
}

// Validate checks JSON data against one of the published schemas: model,
// exercise, atlas or report. The error is a *Fault for the deepest place at fault.
func Validate(kind string, data []byte) error {
	value, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		return &Fault{"", jsonTrouble(data, err)}
	}
	s, err := schemaOf(kind)
	if err != nil {
		return err
	}
	var ve *jsonschema.ValidationError
	if err := s.Validate(value); errors.As(err, &ve) {
		for len(ve.Causes) > 0 {
			ve = ve.Causes[0]
		}
		p := message.NewPrinter(language.English)
		return &Fault{"/" + strings.Join(ve.InstanceLocation, "/"), ve.ErrorKind.LocalizedString(p)}
	} else if err != nil {
		return err
	}
	return nil
}

// compiled are the published schemas that were used so far: compiling one takes longer than reading most documents.
var compiled sync.Map // of *jsonschema.Schema, by kind

// schemaOf gives the published schema of a kind of document.
func schemaOf(kind string) (*jsonschema.Schema, error) {
	if s, ok := compiled.Load(kind); ok {
		return s.(*jsonschema.Schema), nil
	}
	name := kind + ".schema.json"
	raw, err := schemas.Files.ReadFile(name)
	if err != nil {
		return nil, err
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource(name, doc); err != nil {
		return nil, err
	}
	s, err := c.Compile(name)
	if err != nil {
		return nil, err
	}
	compiled.Store(kind, s)
	return s, nil
}

// jsonTrouble says where JSON data breaks off.
func jsonTrouble(data []byte, err error) string {
	var se *json.SyntaxError
	if errors.As(json.Unmarshal(data, new(any)), &se) {
		at := int(min(se.Offset, int64(len(data))))
		line := 1 + bytes.Count(data[:at], []byte("\n"))
		return fmt.Sprintf("not readable as JSON at line %d: %v", line, se)
	}
	return "not readable as JSON: " + err.Error()
}

// ReadModel reads a model document.
func ReadModel(data []byte) (*part.Document, error) {
	if err := Validate("model", data); err != nil {
		return nil, err
	}
	return part.Read(data)
}

// ReadExercise reads an exercise document.
func ReadExercise(data []byte) (*exercise.Exercise, error) {
	current, err := exercise.Upgrade(data)
	if err != nil {
		return nil, err
	}
	if err := Validate("exercise", current); err != nil {
		var fault *Fault
		if errors.As(err, &fault) {
			fault.Pointer = exercise.PointerIn(data, fault.Pointer)
		}
		return nil, err
	}
	return exercise.Read(current)
}

// Kinds of files by their first bytes, and what to do with those that cannot be
// checked.
var foreign = []struct {
	prefix       string
	what, remedy string
}{
	{"%PDF", "this is a PDF document", "hand in the model: a Hammerset model document or a STEP file"},
	{"\x89PNG", "this is a picture", "hand in the model: a Hammerset model document or a STEP file"},
	{"\xff\xd8\xff", "this is a picture", "hand in the model: a Hammerset model document or a STEP file"},
	{"GIF8", "this is a picture", "hand in the model: a Hammerset model document or a STEP file"},
	{"\x7fELF", "this is a program", "hand in the model: a Hammerset model document or a STEP file"},
	{"MZ", "this is a program", "hand in the model: a Hammerset model document or a STEP file"},
	{"\xd0\xcf\x11\xe0", "this is a document in a program's own format",
		"export the solid as STEP (AP203, AP214 or AP242)"},
	{"<?xml", "this is an XML document", "export the solid as STEP (AP203, AP214 or AP242)"},
	{"<svg", "this is a drawing (SVG)", "hand in the model and not the drawing"},
}

// IsSTEP tells by content whether a file is a STEP file.
func IsSTEP(data []byte) bool {
	return bytes.HasPrefix(bytes.TrimLeft(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")), " \t\r\n"),
		[]byte("ISO-10303-21"))
}

func isSTL(data, text []byte) bool {
	return stl.Binary(data) || bytes.HasPrefix(text, []byte("solid")) && bytes.Contains(text[:min(len(text), 1<<12)],
		[]byte("facet"))
}

// LooksLikeMesh tells by the beginning of a file, without unpacking it, whether it is a mesh: STL, or a zip that is
// named as 3MF.
func LooksLikeMesh(name string, data []byte) bool {
	text := bytes.TrimLeft(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")), " \t\r\n")
	return isSTL(data, text) || IsPacked(data) && strings.EqualFold(path.Ext(name), ".3mf")
}

// Recognise tells by content what an attempt is. Files that cannot be checked
// give a *check.Unusable that says what they are and what to do.
func Recognise(name string, data []byte) (check.Attempt, error) {
	att := check.Attempt{Name: name}
	text := bytes.TrimLeft(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")), " \t\r\n")
	switch {
	case len(text) == 0:
		return att, &check.Unusable{What: "the file is empty",
			Remedy: "export it again and look at its size before you hand it in"}
	case len(data) > MaxFile:
		return att, &check.Unusable{What: fmt.Sprintf("the file has %d MB and at most %d MB are checked", len(data)>>20,
			MaxFile>>20), Remedy: "export the one part alone, without imported bodies"}
	case IsSTEP(data):
		if bytes.Contains(text[:min(len(text), 1<<16)], []byte("FILE_SCHEMA")) && !partSchema(text[:min(len(text), 1<<16)]) {
			return att, &check.Unusable{What: "this is a STEP file of another kind than AP203, AP214 or AP242",
				Remedy: "export the solid with one of these"}
		}
		att.STEP = data
		return att, nil
	case text[0] == '{':
		doc, err := ReadModel(text)
		if err != nil {
			return att, &check.Unusable{What: "this is JSON, but not a model document: " + err.Error(),
				Remedy: "put this place right, or save the model document again"}
		}
		att.Document = doc
		return att, nil
	}
	switch {
	case isSTL(data, text):
		att.MeshFile, att.MeshKind = data, "stl"
		return att, nil
	case bytes.HasPrefix(text, []byte("PK\x03\x04")) && threemf.Is(data):
		att.MeshFile, att.MeshKind = data, "3mf"
		return att, nil
	case bytes.HasPrefix(text, []byte("PK\x03\x04")):
		files, err := unpack(data)
		if err != nil {
			return att, err
		}
		att.Files = files
		return att, nil
	}
	for _, f := range foreign {
		if bytes.HasPrefix(text, []byte(f.prefix)) {
			return att, &check.Unusable{What: f.what, Remedy: f.remedy}
		}
	}
	if len(text) > 80 && text[72] == 'S' {
		return att, &check.Unusable{What: "this is an IGES file", Remedy: "export the solid as STEP (AP203, AP214 or AP242)"}
	}
	if bytes.Contains(text[:min(len(text), 200)], []byte("SECTION")) {
		return att, &check.Unusable{What: "this is a drawing (DXF)", Remedy: "hand in the model and not the drawing"}
	}
	return att, &check.Unusable{What: "this file is of a kind that is not known here",
		Remedy: "hand in a Hammerset model document (JSON) or a STEP file (AP203, AP214 or AP242)"}
}

// partSchema tells whether a STEP header names a schema for parts: AP203
// (CONFIG_CONTROL_DESIGN and its second edition), AP214 (AUTOMOTIVE_DESIGN) or
// AP242 (AP242_MANAGED_MODEL_BASED_3D_ENGINEERING).
func partSchema(head []byte) bool {
	upper := strings.ToUpper(string(head))
	return slices.ContainsFunc([]string{"CONFIG_CONTROL_DESIGN", "AP203", "AUTOMOTIVE_DESIGN", "AP214", "AP242"},
		func(s string) bool { return strings.Contains(upper, s) })
}

// ReadReference reads the reference of an exercise.
func ReadReference(data []byte) (check.Reference, error) {
	att, err := Recognise("reference", data)
	if err != nil {
		return check.Reference{}, fmt.Errorf("the reference: %w", err)
	}
	if len(att.Files) > 0 {
		return check.Reference{}, errors.New("the reference: a packed file; give the one STEP file or model document")
	}
	if att.MeshFile != nil {
		return check.Reference{}, errors.New(
			"the reference: a mesh has no exact faces to measure; give a model document or a STEP file")
	}
	return check.Reference{Document: att.Document, STEP: att.STEP}, nil
}

// ReadMesh reads the triangles of an attempt that is a mesh.
func ReadMesh(att *check.Attempt) error {
	read := stl.Read
	if att.MeshKind == "3mf" {
		read = threemf.Read
	}
	var err error
	if att.Mesh, err = read(att.MeshFile); err != nil {
		return &check.Unusable{What: "the mesh cannot be read: " + err.Error(),
			Remedy: "export it again, or better the solid as STEP"}
	}
	return nil
}

// unpack reads the STEP files of a zip: the part, and those for what-ifs.
func unpack(data []byte) ([]check.File, error) {
	const remedy = "pack STEP files and nothing else, or hand in the one STEP file or model document"
	z, err := pack.Open(data)
	if err != nil {
		return nil, &check.Unusable{What: err.Error(), Remedy: remedy}
	}
	var out []check.File
	for _, name := range z.Names() {
		body, err := z.Read(name)
		if err != nil {
			return nil, &check.Unusable{What: err.Error(), Remedy: remedy}
		}
		if !IsSTEP(body) {
			return nil, &check.Unusable{What: name + " in the packed file is no STEP file", Remedy: remedy}
		}
		out = append(out, check.File{Name: name, STEP: body})
	}
	if len(out) == 0 {
		return nil, &check.Unusable{What: "the packed file is empty", Remedy: remedy}
	}
	return out, nil
}

// Pack puts several STEP files that are handed in together into one: the part first, and
// the others by the names of their what-ifs. The same files give the same bytes.
func Pack(part []byte, whatIfs map[string][]byte) ([]byte, error) {
	list := []pack.File{{Name: "part as on the sheet.step", Body: part}}
	for _, name := range slices.Sorted(maps.Keys(whatIfs)) {
		list = append(list, pack.File{Name: name + ".step", Body: whatIfs[name]})
	}
	return pack.Write(list)
}
