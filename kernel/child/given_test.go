package child

import (
	"bytes"
	"math"
	"strings"
	"testing"

	"hammerset/core/check"
	"hammerset/core/modeller"
	"hammerset/formats/documents"
	"hammerset/formats/pack"
	"hammerset/kernel/task"
)

// Of an exercise whose bolts are given the students get the bolts, with the sizes that they have in the reference, and
// nothing of what they are to make themselves.
func TestGivenParts(t *testing.T) {
	h := newHanding(t, block)
	w, b, ref := h.w, h.b, h.ref
	out, err := do[modeller.Exported](t, w, task.Request{Kind: task.Given, Exercise: b.Exercise, Reference: b.Reference})
	if err != nil {
		t.Fatal(err)
	}
	z, err := pack.Open(out.Data)
	if err != nil {
		t.Fatal(err)
	}
	var want []string
	for _, item := range b.Parsed.Assembly.Items {
		if item.Given {
			p, _ := ref.Document.Part(item.Part)
			want = append(want, folderOf(p.Name)+".json", folderOf(p.Name)+".step")
		}
	}
	if got := strings.Join(z.Names(), " "); len(want) == 0 || got != strings.Join(want, " ") {
		t.Fatalf("given are %s, and not %v", got, want)
	}
	for i := 0; i < len(want); i += 2 { // the model and the STEP file are one and the same solid
		var volumes [2]float64
		for k, name := range want[i : i+2] {
			data, err := z.Read(name)
			if err != nil {
				t.Fatal(err)
			}
			volumes[k] = volumeOf(t, w, data)
		}
		if volumes[0] <= 0 || math.Abs(volumes[1]/volumes[0]-1) > 1e-6 {
			t.Errorf("%s: %g mm³ and %g mm³", want[i], volumes[0], volumes[1])
		}
	}

	none := bytes.ReplaceAll(b.Exercise, []byte(`"given": true`), []byte(`"given": false`))
	if _, err := do[modeller.Exported](t, w, task.Request{Kind: task.Given, Exercise: none,
		Reference: b.Reference}); err == nil || !strings.Contains(err.Error(), "no part of this exercise is given") {
		t.Errorf("nothing is given, and it says %v", err)
	}
}

// volumeOf is the volume of a model document or a STEP file, mm³.
func volumeOf(t *testing.T, w *Worker, data []byte) float64 {
	t.Helper()
	ref := check.Reference{STEP: data}
	if !documents.IsSTEP(data) {
		doc, err := documents.ReadModel(data)
		if err != nil {
			t.Fatal(err)
		}
		ref = check.Reference{Document: doc}
	}
	named, _, err := w.checker.Load(t.Context(), ref)
	if err != nil {
		t.Fatal(err)
	}
	props, err := w.checker.Rebuilder.Kernel().Props(named.Shape)
	if err != nil {
		t.Fatal(err)
	}
	return props.Volume
}
