package geometry

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"hammerset/core/assembly"
	"hammerset/core/check/assemblies"
	"hammerset/core/exercise"
	"hammerset/core/report"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/child"
	"hammerset/kernel/occ"
	"hammerset/kernel/task"
	"hammerset/test/samples"
)

// inAChild carries a task out as a child does.
func inAChild[T any](t *testing.T, w *child.Worker, req *task.Request) T {
	t.Helper()
	raw, err := w.Do(ctx, req, func(string, float64) {})
	if err != nil {
		t.Fatal(err)
	}
	out, ok := raw.(T)
	if !ok {
		t.Fatalf("the task %s gives %T", req.Kind, raw)
	}
	return out
}

// levels are the numbers and names of the groups of an assembly, in their order, and of its parts.
func levels(d *assembly.Document) string {
	var out []string
	for _, g := range d.Groups {
		out = append(out, g.Number+" "+g.Name)
	}
	slices.Sort(out)
	for _, p := range d.Parts {
		out = append(out, p.Number+" "+p.Name)
	}
	return strings.Join(out, ", ")
}

// The public AS1 assembly (a STEP file that CAD systems wrote for one another to read, in Debian's gmsh-doc) as the
// reference of an exercise of its own: with joints that are read from its contacts it is right in every form, moved,
// flattened and renamed; a nut that is missing and a bolt that is upside down are named, and nothing else is.
func TestAS1IsAnExercise(t *testing.T) {
	w, err := child.NewWorker()
	if err != nil {
		t.Fatal(err)
	}
	file := samples.Unzip(t, samples.AS1)
	begun := inAChild[task.Begun](t, w, &task.Request{Kind: task.BeginAssembly, Name: "as1.step", File: file,
		Arrange: true})
	ex, err := documents.ReadExercise(begun.Exercise)
	if err != nil {
		t.Fatal(err)
	}
	// Its parts list has the levels of the file (ISO 7573): a nut is in two of them by one number.
	ref, err := documents.ReadAssemblyReference(ex, begun.Reference)
	if err != nil {
		t.Fatal(err)
	}
	if got, want := levels(ref.Document), "1 rod-assembly, 2 l-bracket-assembly, 2 l-bracket-assembly, "+
		"2.1 nut-bolt-assembly, 2.1 nut-bolt-assembly, 2.1 nut-bolt-assembly, 2.1 nut-bolt-assembly, "+
		"2.1 nut-bolt-assembly, 2.1 nut-bolt-assembly, 3 plate, 1.1 nut, 1.2 rod, 2.2 l-bracket, 2.1.1 bolt"; got != want {
		t.Errorf("the levels are\n%s, want\n%s", got, want)
	}
	for i := range ex.Assembly.Items { // the parts by themselves are checked elsewhere
		ex.Assembly.Items[i].Exercise = ""
	}
	doc, err := json.Marshal(ex)
	if err != nil {
		t.Fatal(err)
	}
	solids := bodiesOf(t, file)
	nut, bolt := bodyLike(t, solids, ex, begun, "nut"), bodyLike(t, solids, ex, begun, "bolt")
	for _, c := range []struct {
		what   string
		change func(list []solid.Shape) []solid.Shape
		kinds  []string
		item   string
	}{
		{"as it is", nil, nil, ""},
		{"moved, flattened and renamed", func(l []solid.Shape) []solid.Shape { return l }, nil, ""},
		{"without a nut", func(l []solid.Shape) []solid.Shape {
			return slices.Delete(l, nut, nut+1)
		}, []string{"missing item"}, "nut"},
		{"with a bolt upside down", func(l []solid.Shape) []solid.Shape {
			l[bolt] = upsideDown(t, l[bolt])
			return l
		}, []string{"wrong way round", "wrong side"}, "bolt"},
	} {
		data := file
		if c.change != nil {
			data = flatFile(t, c.change(slices.Clone(solids)))
		}
		r := inAChild[*assemblies.Outcome](t, w, &task.Request{Kind: task.Check, Exercise: doc, Reference: begun.Reference,
			Name: "attempt.step", File: data}).Report
		if c.kinds == nil {
			for _, x := range r.Assembly.Items {
				if x.Verdict != report.In {
					t.Errorf("%s: item %s is %s, %s", c.what, x.Name, x.Verdict, x.Reason)
				}
			}
			for _, j := range r.Assembly.Joints {
				if j.Placed != report.In {
					t.Errorf("%s: the joint %s is %s", c.what, j.Name, j.Placed)
				}
			}
			if len(r.Findings) > 0 {
				t.Errorf("%s: %+v", c.what, r.Findings[0])
			}
			continue
		}
		if len(r.Findings) == 0 || !slices.Contains(c.kinds, r.Findings[0].Kind) ||
			r.Findings[0].Item != numberOf(r, c.item) {
			t.Errorf("%s: %s", c.what, told(r.Findings))
		}
	}
}

func told(list []report.Finding) string {
	out := "nothing is told"
	for i, f := range list {
		if i == 0 {
			out = ""
		}
		out += fmt.Sprintf("%s (item %s, %s): %s; ", f.Kind, f.Item, f.Where, f.What)
	}
	return out
}

// numberOf is the number of the item with a name.
func numberOf(r *report.Report, name string) string {
	for _, x := range r.Assembly.Items {
		if x.Name == name {
			return x.Number
		}
	}
	return "?"
}

// bodiesOf are the solids of a STEP file where they stand.
func bodiesOf(t *testing.T, file []byte) []solid.Shape {
	t.Helper()
	c, err := occ.Kernel{}.ReadSTEP(ctx, file)
	if err != nil {
		t.Fatal(err)
	}
	list, err := occ.Kernel{}.Split(c.Shape)
	if err != nil {
		t.Fatal(err)
	}
	return list
}

// bodyLike is the first solid with the volume of a part of the reference, by its name.
func bodyLike(t *testing.T, list []solid.Shape, ex *exercise.Exercise, begun task.Begun, name string) int {
	t.Helper()
	ref, err := documents.ReadAssemblyReference(ex, begun.Reference)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range ref.Document.Parts {
		if p.Name != name {
			continue
		}
		want := describedShape(t, bodiesOf(t, ref.Files[p.File])[0]).Props.Volume
		for i, s := range list {
			if v := describedShape(t, s).Props.Volume; v > 0.999*want && v < 1.001*want {
				return i
			}
		}
	}
	t.Fatalf("there is no %s", name)
	return 0
}

// upsideDown is a solid turned over about its middle.
func upsideDown(t *testing.T, s solid.Shape) solid.Shape {
	t.Helper()
	g := describedShape(t, s)
	axes, _ := g.Props.Principal()
	out, _, err := occ.Kernel{}.Transform(s, solid.Rotation(g.Props.Centroid, axes[0], 3.141592653589793))
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// flatFile is a STEP file of nothing but solids, moved together, in the opposite order and with other names.
func flatFile(t *testing.T, list []solid.Shape) []byte {
	t.Helper()
	var out []solid.Titled
	for i, s := range slices.Backward(list) {
		moved, _, err := occ.Kernel{}.Transform(s, oddPose())
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, solid.Titled{Shape: moved, Name: fmt.Sprintf("body %d", i)})
	}
	data, err := occ.Kernel{}.WriteSTEP(out, "attempt", solid.AP214)
	if err != nil {
		t.Fatal(err)
	}
	return data
}
