package documents

import (
	"errors"
	"maps"
	"slices"
	"strings"
	"testing"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/formats/pack"
)

const (
	aSTEP  = "ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\n"
	aModel = `{"hammerset":"model/1","name":"pin","unit":"mm","parameters":[],"steps":[]}`
)

// naming is a STEP file that names others.
func naming(files ...string) string { return aSTEP + strings.Join(files, "\n") }

// What a zip holds is told by what is in it, whatever it is called: an assembly with the files of its parts, parts by
// themselves, files for what-ifs; what cannot be read is left out and told.
func TestWhatAZipOfAnAssemblyHolds(t *testing.T) {
	asked := []exercise.WhatIf{{Name: "longer pin"}}
	for _, c := range []struct {
		name    string
		files   []pack.File
		whole   string // the file that places the others
		others  string
		parts   int
		whatIfs string
		noted   int
		err     string
	}{
		{name: "one STEP file", files: []pack.File{{Name: "a.step", Body: []byte(aSTEP)}}, whole: aSTEP, parts: 1},
		{name: "an assembly that names its parts", files: []pack.File{{Name: "x/pin.step", Body: []byte(aSTEP)},
			{Name: "all.stp", Body: []byte(naming("pin.step"))}}, whole: naming("pin.step"), others: "x/pin.step", parts: 2},
		{name: "models beside a STEP file", files: []pack.File{{Name: "all.step", Body: []byte(aSTEP)},
			{Name: "pin.json", Body: []byte(aModel)}}, whole: aSTEP, parts: 2},
		{name: "parts by themselves", files: []pack.File{{Name: "eye.step", Body: []byte(aSTEP + "1")},
			{Name: "pin.step", Body: []byte(aSTEP + "2")}, {Name: "fork.json", Body: []byte(aModel)}}, parts: 3},
		{name: "a file for a what-if", files: []pack.File{{Name: "joint.step", Body: []byte(aSTEP)},
			{Name: "Longer_Pin.STP", Body: []byte(aSTEP)}}, whole: aSTEP, parts: 1, whatIfs: "longer pin"},
		{name: "with a mesh and a text", files: []pack.File{{Name: "joint.step", Body: []byte(aSTEP)},
			{Name: "joint.stl", Body: []byte("solid a\nfacet normal 0 0 1\n")}, {Name: "read me.txt", Body: []byte("hello")}},
			whole: aSTEP, parts: 1, noted: 2},
		{name: "nothing of use", files: []pack.File{{Name: "read me.txt", Body: []byte("hello")}}, noted: 1,
			err: "holds no STEP file, no model document"},
		{name: "two that name one another", files: []pack.File{{Name: "a.step", Body: []byte(naming("b.step"))},
			{Name: "b.step", Body: []byte(naming("a.step"))}}, parts: 2},
	} {
		data, err := pack.Write(c.files)
		if err != nil {
			t.Fatal(err)
		}
		got, err := RecogniseAssembly("attempt.zip", data, asked)
		if err != nil {
			var u *check.Unusable
			if c.err == "" || !errors.As(err, &u) || !strings.Contains(u.What, c.err) {
				t.Errorf("%s: %v", c.name, err)
			}
			continue
		}
		if c.err != "" {
			t.Errorf("%s: it is taken", c.name)
		}
		delete(got.Others, "")
		if string(got.STEP) != c.whole || strings.Join(slices.Sorted(maps.Keys(got.Others)), " ") != c.others ||
			len(got.Parts) != c.parts || len(got.Notes) != c.noted ||
			strings.Join(slices.Sorted(maps.Keys(got.WhatIfs)), " ") != c.whatIfs {
			t.Errorf("%s: a whole of %d bytes, others %v, %d parts, what-ifs %v, %d notes", c.name, len(got.STEP), got.Others,
				len(got.Parts), got.WhatIfs, len(got.Notes))
		}
	}
}

// Parts that come one after the other are packed in their order; of one name the last counts, and a packed file brings
// all that it holds. The same parts give the same file.
func TestGather(t *testing.T) {
	one, err := Gather([]byte(aSTEP), "eye.step", "pin.json", []byte(aModel))
	if err != nil {
		t.Fatal(err)
	}
	two, err := Gather(one, "all so far.zip", "eye.step", []byte(aSTEP+"again"))
	if err != nil {
		t.Fatal(err)
	}
	more, err := pack.Write([]pack.File{{Name: "fork.step", Body: []byte(aSTEP)},
		{Name: "pin.json", Body: []byte(aModel)}})
	if err != nil {
		t.Fatal(err)
	}
	three, err := Gather(two, "all so far.zip", "more.zip", more)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		data []byte
		want string
	}{{one, "eye.step pin.json"}, {two, "pin.json eye.step"}, {three, "eye.step fork.step pin.json"}} {
		z, err := pack.Open(c.data)
		if err != nil {
			t.Fatal(err)
		}
		if got := strings.Join(z.Names(), " "); got != c.want {
			t.Errorf("it holds %s, and not %s", got, c.want)
		}
	}
	if again, err := Gather(two, "all so far.zip", "more.zip", more); err != nil || string(again) != string(three) {
		t.Error("the same parts give another file")
	}
	if _, err := Gather([]byte("PK\x03\x04 broken"), "a.zip", "pin.json", []byte(aModel)); err == nil {
		t.Error("a broken file is packed")
	}
}
