package pool

import (
	"bytes"
	"context"
	"encoding/json"
	"testing"
	"time"

	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/formats/pack"
	"hammerset/kernel/task"
)

// The parts of an assembly are checked by several children, and what was checked before costs nothing: the report is
// the one that a single child makes.
func TestPartsAreCheckedOnce(t *testing.T) {
	b, err := demo.AssemblyBundle("tackle-joint")
	if err != nil {
		t.Fatal(err)
	}
	ref, err := documents.ReadAssemblyReference(b.Parsed, b.Reference)
	if err != nil {
		t.Fatal(err)
	}
	p, kept := start(t, 2, 2*time.Minute), newMemory()
	p.cfg.Reports = kept
	attempt := func(eye []byte) *task.Request {
		var list []pack.File
		for name, data := range ref.Files {
			if bytes.Equal(data, ref.Files["eye/reference.json"]) {
				data = eye
			}
			list = append(list, pack.File{Name: name, Body: data})
		}
		data, err := pack.Write(list)
		if err != nil {
			t.Fatal(err)
		}
		return &task.Request{Kind: task.Check, Exercise: b.Exercise, Reference: b.Reference, Name: "parts.zip", File: data}
	}
	report := func(r *task.Request, do func(context.Context, *task.Request, func(task.Progress)) (json.RawMessage,
		error)) string {
		t.Helper()
		raw, err := do(t.Context(), r, nil)
		if err != nil {
			t.Fatal(err)
		}
		var out struct {
			Report json.RawMessage `json:"report"`
		}
		if err := json.Unmarshal(raw, &out); err != nil {
			t.Fatal(err)
		}
		return string(out.Report)
	}
	eye := ref.Files["eye/reference.json"]
	wrong := attempt(bytes.ReplaceAll(eye, []byte(`"15 mm"`), []byte(`"14 mm"`)))
	for _, c := range []struct {
		name  string
		r     *task.Request
		known int
	}{{"as it should be", attempt(eye), 4}, {"with another eye", wrong, 5}, {"once more", wrong, 5}} {
		spread := report(c.r, p.Do)
		if n := kept.known.Len(); n != c.known {
			t.Errorf("%s: %d parts are known, and not %d", c.name, n, c.known)
		}
		if alone := report(c.r, p.twice); spread != alone {
			t.Errorf("%s: the report is another one where a single child makes it:\n%s\n%s", c.name, spread, alone)
		}
	}
}
