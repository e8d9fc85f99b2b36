package documents

import (
	"maps"
	"slices"

	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"

	"hammerset/core/assembly"
	"hammerset/formats/pack"
)

const demoAssembly = "../../demo/assemblies/tackle-joint"

// A bundle is read from a folder and from a zip, is written byte for byte the same from the same content, and stays
// the same when it is read and written again.
func TestBundlesOfAssemblies(t *testing.T) {
	a, err := ReadAssembled(demoAssembly)
	if err != nil {
		t.Fatal(err)
	}
	first, err := a.Zip()
	if err != nil {
		t.Fatal(err)
	}
	back, err := ReadAssembledZip(first)
	if err != nil {
		t.Fatal(err)
	}
	second, err := back.Zip()
	if err != nil || !bytes.Equal(first, second) {
		t.Errorf("read and written again it is another file (%v)", err)
	}
	for name, data := range a.Files {
		if !bytes.Equal(back.Files[name], data) {
			t.Errorf("%s comes back changed", name)
		}
	}
	// The kinds that the schema takes are those that there are.
	raw, err := os.ReadFile("../../docs/formats/assembly.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	var schema struct {
		Defs struct {
			Joint struct {
				Properties struct{ Kind struct{ Enum []string } }
			}
		} `json:"$defs"`
	}
	if err := json.Unmarshal(raw, &schema); err != nil {
		t.Fatal(err)
	}
	if got, want := fmt.Sprint(schema.Defs.Joint.Properties.Kind.Enum), fmt.Sprint(assembly.KindNames()); got != want {
		t.Errorf("the schema has the kinds %s, and there are %s", got, want)
	}
}

// Whatever is wrong with a bundle is said with its place and what to do.
func TestBadBundles(t *testing.T) {
	good, err := ReadAssembled(demoAssembly)
	if err != nil {
		t.Fatal(err)
	}
	doc, err := json.Marshal(good.Document)
	if err != nil {
		t.Fatal(err)
	}
	edit := func(from, to string) string {
		if !strings.Contains(string(doc), from) {
			t.Fatalf("the document has no %s", from)
		}
		return strings.Replace(string(doc), from, to, 1)
	}
	for _, c := range []struct{ name, doc, say string }{
		{"a size with an unknown name", edit(`"value":"16 mm"`, `"value":"wide"`), "/parameters: "},
		{"a missing part", edit(`"file":"eye.json"`, `"file":"ear.json"`),
			"/parts/1/file: the file ear.json of the part eye is missing"},
		{"another content", edit(good.Document.Parts[0].SHA256, strings.Repeat("0", 64)),
			"/parts/0/sha256: the file fork.json has another"},
		{"a way out of the folder", edit(`"file":"eye.json"`, `"file":"../eye.json"`), "/parts/1/file"},
		{"a way with backslashes", edit(`"file":"eye.json"`, `"file":"..\\eye.json"`), "/parts/1/file"},
		{"an id used twice", edit(`"id":"c4"`, `"id":"c3"`), `/components/3/id: there are two components "c3"`},
		{"a joint used twice", edit(`"id":"j3"`, `"id":"j2"`), `/joints/2/id: there are two joints "j2"`},
		{"an unknown part", edit(`"part":"collar"`, `"part":"ring"`), `/components/3/part: there is no part "ring"`},
		{"a joint to nothing", edit(`"a":"c3#`, `"a":"c9#`), `/joints/0/a`},
		{"a joint to itself", edit(`"b":"c1#e1/end`, `"b":"c3#e1/end`), `it joins the component c3 to itself`},
		{"an unknown kind", edit(`"kind":"rigid"`, `"kind":"welded"`), "/joints/2/kind"},
		{"a size that the kind has not", edit(`"kind":"rigid"`, `"kind":"cylindrical"`),
			"/joints/2/offset: a joint of the kind cylindrical has no offset"},
		{"a kind without its size", edit(`"kind":"revolute"`, `"kind":"helical"`),
			"/joints/0/lead: a joint of the kind helical needs its lead"},
		{"a turn of nothing", edit(`"turn":[1,0,0,0]`, `"turn":[0,0,0,0]`), "not all zero"},
		{"an unknown field", edit(`"pinned":true`, `"nailed":true`), "/components/0"},
	} {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		put := func(name, body string) {
			w, err := z.Create(name)
			if err == nil {
				_, err = w.Write([]byte(body))
			}
			if err != nil {
				t.Fatal(err)
			}
		}
		put("joint/assembly.json", c.doc)
		for name, data := range good.Files {
			put("joint/"+name, string(data))
		}
		if err := z.Close(); err != nil {
			t.Fatal(err)
		}
		if _, err := ReadAssembledZip(out.Bytes()); err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v, want %q", c.name, err, c.say)
		}
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, name := range []string{"assembly.json", "Eye.json", "eye.json"} {
		if _, err := z.Create(name); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err := ReadAssembledZip(out.Bytes()); err == nil || !strings.Contains(err.Error(), "cannot tell apart") {
		t.Errorf("names equal but for case: %v", err)
	}
	var fault *assembly.Fault
	if err := (&assembly.Document{}).Check(); !errors.As(err, &fault) || fault.Pointer != "/hammerset" ||
		fault.Remedy == "" {
		t.Errorf("an empty document: %v", err)
	}
}

// A zip of STEP files is about the one that no other one names; which are there beside it does not matter.
func TestZipsOfSTEPFiles(t *testing.T) {
	step := func(names ...string) []byte {
		return []byte("ISO-10303-21;\n" + strings.Join(names, ";\n"))
	}
	packed := func(files map[string][]byte) []byte {
		var list []pack.File
		for _, name := range slices.Sorted(maps.Keys(files)) {
			list = append(list, pack.File{Name: name, Body: files[name]})
		}
		data, err := pack.Write(list)
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	for name, x := range map[string]struct {
		files map[string][]byte
		main  string
		said  string
	}{
		"one": {map[string][]byte{"a.stp": step(), "read me.txt": []byte("x")}, "a.stp", ""},
		"several": {map[string][]byte{"all/z.stp": step("a.stp"), "all/a.stp": step("b.stp"), "all/b.stp": step()},
			"all/z.stp", ""},
		"a bundle": {map[string][]byte{"assembly.json": []byte("{}"), "a.stp": step()}, "", ""},
		"two": {map[string][]byte{"a.stp": step(), "b.stp": step()}, "",
			"2 STEP files that no other one names (a.stp, b.stp)"},
		"circle": {map[string][]byte{"a.stp": step("b.stp"), "b.stp": step("a.stp")}, "", "neither an assembly.json nor"},
		"none":   {map[string][]byte{"a.txt": []byte("x")}, "", "neither an assembly.json nor"},
	} {
		main, others, err := ReadSTEPZip(packed(x.files))
		if (err != nil) != (x.said != "") || err != nil && !strings.Contains(err.Error(), x.said) {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if string(main) != string(x.files[x.main]) {
			t.Errorf("%s: the main file is %q", name, main)
		}
		if _, among := others[x.main]; x.main != "" && among {
			t.Errorf("%s: the main file is among the others", name)
		}
	}
}
