package documents

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hammerset/core/check"
)

const demoFolder = "../../demo/exercises/"

func TestRecognise(t *testing.T) {
	model, err := os.ReadFile(demoFolder + "gland-flange/reference.json")
	if err != nil {
		t.Fatal(err)
	}
	stl := make([]byte, 84+50*3)
	binary.LittleEndian.PutUint32(stl[80:], 3)
	step := "ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('%'));\nENDSEC;"
	for _, c := range []struct{ name, file, say string }{
		{"model", string(model), ""},
		{"model behind a byte order mark", "\xef\xbb\xbf" + string(model), ""},
		{"AP203", strings.Replace(step, "%", "CONFIG_CONTROL_DESIGN", 1), ""},
		{"AP214", strings.Replace(step, "%", "AUTOMOTIVE_DESIGN { 1 0 10303 214 3 1 1 }", 1), ""},
		{"AP242", strings.Replace(step, "%", "AP242_MANAGED_MODEL_BASED_3D_ENGINEERING_MIM_LF", 1), ""},
		{"STEP for buildings", strings.Replace(step, "%", "IFC4", 1), "another kind than AP203"},
		{"picture", "\x89PNG\r\n\x1a\n....", "a picture"},
		{"damaged zip", "PK\x03\x04....", "packed"},
		{"text STL", "solid x\nfacet normal 0 0 1\n", ""},
		{"binary STL", string(stl), ""},
		{"DXF", "0\nSECTION\n2\nHEADER\n", "DXF"},
		{"IGES", strings.Repeat(" ", 0) + "x" + strings.Repeat(" ", 71) + "S      1\nmore", "IGES"},
		{"white space", " \n\t ", "empty"},
		{"nonsense", "hello", "not known here"},
		{"other JSON", `{"type":"FeatureCollection"}`, "not a model document"},
		{"broken JSON", "{\n \"hammerset\": \"model/1\",\n oops", "line 3"},
	} {
		att, err := Recognise(c.name, []byte(c.file))
		var u *check.Unusable
		switch {
		case c.say == "":
			if err != nil || (att.Document != nil) == (att.STEP != nil || att.MeshFile != nil) {
				t.Errorf("%s: %v", c.name, err)
			}
		case !errors.As(err, &u) || !strings.Contains(u.What, c.say) || u.Remedy == "":
			t.Errorf("%s: %v, want %q", c.name, err, c.say)
		}
	}
	if _, err := Recognise("big", make([]byte, MaxFile+1)); err == nil {
		t.Error("a file over the limit is taken")
	}
}

// A document that does not fit its schema is refused at the place of the fault.
func TestFaultsPointAtThePlace(t *testing.T) {
	model, err := os.ReadFile(demoFolder + "bearing-bracket/reference.json")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ from, to, pointer string }{
		{`"unit": "mm"`, `"unit": "furlong"`, "/unit"},
		{`{"name": "web", "value": "10 mm"}`, `{"name": "web", "value": 10}`, "/parameters/8/value"},
		{`"kind": "one-side", "length": "thick"`, `"kind": "halfway", "length": "thick"`, "/steps/1/extent/kind"},
		{`"at": [-60, 0]`, `"at": [-60]`, "/steps/0/entities/0/at"},
		{`"id": "e4", "kind": "extrude"`, `"id": "e4", "kind": "extrude", "colour": "red"`, "/steps/7"},
		{`"id": "d2", "kind": "length"`, `"id": "d2", "kind": "roughly"`, "/steps/0/constraints/5/kind"},
	} {
		changed := strings.Replace(string(model), c.from, c.to, 1)
		if changed == string(model) {
			t.Fatalf("the model has no %s", c.from)
		}
		_, err := ReadModel([]byte(changed))
		var f *Fault
		if !errors.As(err, &f) || f.Pointer != c.pointer || f.Message == "" {
			t.Errorf("%s: %v, want it at %s", c.to, err, c.pointer)
		}
	}
}

// The examples beside the schemas are valid, and the schemas are valid JSON.
func TestPublishedExamples(t *testing.T) {
	for kind, pattern := range map[string]string{"model": "../../docs/formats/examples/model*.json",
		"exercise": "../../docs/formats/examples/exercise*.json", "report": "../../docs/formats/examples/report*.json",
		"atlas": demoFolder + "*/atlas.json"} {
		files, err := filepath.Glob(pattern)
		if err != nil || len(files) == 0 {
			t.Errorf("no example of a %s document", kind)
		}
		for _, f := range files {
			data, err := os.ReadFile(f)
			if err != nil {
				t.Fatal(err)
			}
			if err := Validate(kind, data); err != nil {
				t.Errorf("%s: %v", f, err)
			}
		}
	}
}

func TestExercisesAsFolderAndZip(t *testing.T) {
	for _, name := range []string{"bearing-bracket", "gland-flange"} {
		folder, err := ReadFolder(demoFolder + name)
		if err != nil {
			t.Fatal(err)
		}
		data, err := folder.Zip()
		if err != nil {
			t.Fatal(err)
		}
		back, err := ReadZip(data)
		if err != nil || !bytes.Equal(back.Exercise, folder.Exercise) || !bytes.Equal(back.Reference, folder.Reference) ||
			len(folder.Atlas) == 0 || !bytes.Equal(back.Atlas, folder.Atlas) {
			t.Errorf("%s does not come back as it was: %v", name, err)
		}
	}
	b, err := ReadFolder(demoFolder + "gland-flange")
	if err != nil {
		t.Fatal(err)
	}
	pack := func(files map[string]string) []byte {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		for n, body := range files {
			w, err := z.Create(n)
			if err != nil {
				t.Fatal(err)
			}
			if _, err := w.Write([]byte(body)); err != nil {
				t.Fatal(err)
			}
		}
		if err := z.Close(); err != nil {
			t.Fatal(err)
		}
		return out.Bytes()
	}
	ex, ref := string(b.Exercise), string(b.Reference)
	for _, c := range []struct {
		name string
		data []byte
		say  string
	}{
		{"in a folder", pack(map[string]string{"gland/exercise.json": ex, "gland/reference.json": ref}), ""},
		{"no zip", []byte("hello"), "not a readable zip"},
		{"no exercise", pack(map[string]string{"reference.json": ref}), "holds no exercise.json"},
		{"no reference", pack(map[string]string{"exercise.json": ex}), "reference.json is missing"},
		{"a path out of the folder",
			pack(map[string]string{"exercise.json": strings.Replace(ex, `"reference.json"`, `"../reference.json"`, 1),
				"reference.json": ref}), "/reference"},
		{"a picture as reference", pack(map[string]string{"exercise.json": ex, "reference.json": "\x89PNG"}), "a picture"},
		{"a broken exercise", pack(map[string]string{"exercise.json": ex[:200], "reference.json": ref}),
			"not readable as JSON"},
	} {
		if _, err := ReadZip(c.data); (c.say == "") != (err == nil) || (err != nil && !strings.Contains(err.Error(), c.say)) {
			t.Errorf("%s: %v, want %q", c.name, err, c.say)
		}
	}
}

// Whatever is read, nothing panics, and what is accepted can be written and read
// again.
func FuzzReadModel(f *testing.F) {
	seed, err := os.ReadFile(demoFolder + "gland-flange/reference.json")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(seed)
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := ReadModel(data)
		if err != nil {
			_ = err.Error()
			return
		}
		again, err := json.Marshal(d)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := ReadModel(again); err != nil {
			t.Fatalf("what was read is not readable when written: %v", err)
		}
	})
}
