package child

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/formats/threemf"
	"hammerset/kernel/task"
)

// plate is a block 40 x 30 x w/2 with a bore of 12 and a sketch that has a freedom.
const plate = `{"hammerset":"model/1","name":"plate","unit":"mm","parameters":[{"name":"w","value":"40 mm",
	"least":"20 mm","most":"90 mm"},{"name":"spare","value":"7 mm"}],"solids":[{"of":"e1","name":"cover",
	"material":"cast iron"}],"steps":[
{"id":"s1","kind":"sketch","name":"outline","plane":{"datum":"XY"},"entities":[{"id":"a","kind":"point","at":[0,0]},
	{"id":"b","kind":"point","at":[40,0]},{"id":"c","kind":"point","at":[40,30]},{"id":"d","kind":"point","at":[0,30]},
	{"id":"ab","kind":"line","from":"a","to":"b"},{"id":"bc","kind":"line","from":"b","to":"c"},{"id":"cd","kind":"line",
	"from":"c","to":"d"},{"id":"da","kind":"line","from":"d","to":"a"}],
"constraints":[{"id":"k1","kind":"coincident","of":["a","origin"]},{"id":"k2","kind":"horizontal","of":["ab"]},
	{"id":"k3","kind":"vertical","of":["bc"]},{"id":"k4","kind":"horizontal","of":["cd"]},{"id":"k5","kind":"vertical",
	"of":["da"]},{"id":"d1","kind":"length","of":["ab"],"value":"w"},{"id":"d2","kind":"length","of":["bc"],
	"value":"30 mm"}]},
{"id":"e1","kind":"extrude","name":"block","sketch":"s1","regions":"all","extent":{"kind":"one-side","length":"w/2"}},
{"id":"s2","kind":"sketch","plane":{"face":"e1/end"},"entities":[{"id":"m","kind":"point","at":[20,15]}]},
{"id":"h1","kind":"hole","sketch":"s2","at":["m"],"diameter":"12","extent":{"kind":"one-side","length":"25"}},
{"id":"c1","kind":"chamfer","name":"edge","distance":"30","edges":[{"between":["e1/end","e1/side:ab"]}]}]}`

func do[T any](t *testing.T, w *Worker, req task.Request) (T, error) {
	t.Helper()
	if req.File == nil {
		req.File = []byte(plate)
	}
	var out T
	got, err := w.Do(context.Background(), &req, func(string, float64) {})
	if err != nil {
		return out, err
	}
	data, err := json.Marshal(got)
	if err == nil {
		err = json.Unmarshal(data, &out)
	}
	if err != nil {
		t.Fatal(err)
	}
	return out, nil
}

func worker(t *testing.T) *Worker {
	t.Helper()
	w, err := NewWorker()
	if err != nil {
		t.Fatal(err)
	}
	return w
}

// The modeller gets every step with its state, the solids with their figures, and
// all that can be picked.
func TestModelForTheModeller(t *testing.T) {
	w := worker(t)
	m, err := do[modeller.Modelled](t, w, task.Request{Kind: task.Model})
	if err != nil {
		t.Fatal(err)
	}
	states := ""
	for _, s := range m.Steps {
		states += fmt.Sprintf("%s %v %d; ", s.ID, s.Failed, s.Freedom)
	}
	if states != "s1 false 0; e1 false 0; s2 false 2; h1 false 0; c1 true 0; " {
		t.Errorf("steps: %s", states)
	}
	if got := m.Steps[4]; !strings.Contains(got.Remedy, "largest that fits") || strings.Join(got.Needs, " ") != "e1" {
		t.Errorf("the chamfer: %+v", got)
	}
	if !strings.Contains(m.Steps[3].Message, "typed depth") {
		t.Errorf("the hole that comes out below says %q", m.Steps[3].Message)
	}
	volume := 40*30*20 - math.Pi*36*20
	if len(m.Solids) != 1 || math.Abs(m.Solids[0].Volume-volume) > 1e-6 || m.Solids[0].Name != "cover" ||
		math.Abs(m.Solids[0].Mass-volume*7200e-9) > 1e-9 {
		t.Errorf("solids %+v", m.Solids)
	}
	if len(m.Faces) != 7 || len(m.Edges) != 14 || len(m.Sketches) != 2 || len(m.Sketches[0].Regions) != 1 ||
		len(m.Mesh.Triangles) == 0 {
		t.Errorf("%d faces, %d edges, %d sketches", len(m.Faces), len(m.Edges), len(m.Sketches))
	}
	for _, e := range m.Edges {
		if e.Ref == nil || len(e.Run) < 6 {
			t.Errorf("edge %+v", e)
		}
	}
	if m.Parameters[0].Number != 40 || !m.Parameters[0].Driving || strings.Join(m.Parameters[0].Users, " ") !=
		"outline block" || len(m.Parameters[1].Users) != 0 {
		t.Errorf("parameters %+v", m.Parameters)
	}
	// Up to a step, with its handle, at a value that is tried.
	m, err = do[modeller.Modelled](t, w, task.Request{Kind: task.Model, Until: "e1", Set: map[string]string{"w": "60 mm"}})
	if err != nil || len(m.Steps) != 2 || m.Handle == nil || math.Abs(m.Handle.At[2]-30) > 1e-9 ||
		m.Handle.Along[2] != 1 || math.Abs(m.Box.Max[0]-60) > 1e-9 {
		t.Errorf("up to the block: %+v, %v", m.Handle, err)
	}
	if _, err := do[modeller.Modelled](t, w, task.Request{Kind: task.Model, Until: "zz"}); err == nil ||
		!strings.Contains(err.Error(), "no step") {
		t.Errorf("up to nothing: %v", err)
	}
}

// Measures come from the solid itself, against elementary geometry.
func TestMeasuresAreExact(t *testing.T) {
	w := worker(t)
	m, err := do[modeller.Modelled](t, w, task.Request{Kind: task.Model})
	if err != nil {
		t.Fatal(err)
	}
	face := func(name string) address.Ref {
		for i, f := range m.Faces {
			if f.Name == name {
				return address.Numbered(address.Face, i)
			}
		}
		t.Fatalf("no face %s", name)
		return address.Ref{}
	}
	edge := func(words string, k int) address.Ref {
		for _, e := range m.Edges {
			if strings.HasPrefix(e.Words, words) {
				if k == 0 {
					return address.Numbered(address.Edge, e.Index)
				}
				k--
			}
		}
		t.Fatalf("no edge %s", words)
		return address.Ref{}
	}
	for _, c := range []struct {
		name  string
		picks []address.Ref
		want  []string
	}{
		{"a bore", []address.Ref{face("h1.m/bore")}, []string{"diameter 12 mm 0.472441 in", "radius 6 mm"}},
		{"a flat face", []address.Ref{face("e1/start")}, []string{"area 1086.902664 mm²"}},
		{"two parallel faces", []address.Ref{face("e1/start"), face("e1/end")},
			[]string{"distance 20 mm 0.787402 in", "angle 0 deg"}},
		{"a face and the one across", []address.Ref{face("e1/side:ab"), face("e1/end")},
			[]string{"distance 0 mm", "angle 90 deg"}},
		{"a bore and a side", []address.Ref{face("h1.m/bore"), face("e1/side:bc")}, []string{"distance 14 mm"}},
		{"a straight edge", []address.Ref{edge("straight edge, 40", 0)}, []string{"length 40 mm"}},
		{"the rims of the bore", []address.Ref{edge("round edge", 0), edge("round edge", 1)},
			[]string{"distance 20 mm", "between the axes 0 mm"}},
	} {
		got, err := do[modeller.Measured](t, w, task.Request{Kind: task.Measure, Picks: c.picks})
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		text := ""
		for _, r := range got.Rows {
			text += r.Label + " " + r.First + " " + r.Other + "; "
		}
		for _, want := range c.want {
			if !strings.Contains(text, want) {
				t.Errorf("%s: %s; it lacks %q", c.name, text, want)
			}
		}
	}
	for _, picks := range [][]address.Ref{nil, {address.Numbered(address.Face, 99)}, {address.Of("smell:1")},
		{face("e1/end"), face("e1/start"), face("e1/end")}} {
		if _, err := do[modeller.Measured](t, w, task.Request{Kind: task.Measure, Picks: picks}); err == nil {
			t.Errorf("%v is measured", picks)
		}
	}
}

// Commands change a document by rules; what cannot be done says why.
func TestCommandsOfTheModeller(t *testing.T) {
	w := worker(t)
	for _, c := range []struct {
		command modeller.Command
		say     string // what is said, or part of the error
		check   func(e modeller.Edited) bool
	}{
		{modeller.Command{Do: "fresh", Kind: "fillet"}, "", func(e modeller.Edited) bool { return e.ID == "f1" }},
		{modeller.Command{Do: "move", ID: "c1", To: 2}, "moved", func(e modeller.Edited) bool {
			return e.Document.Steps[2].ID == "c1"
		}},
		{modeller.Command{Do: "move", ID: "e1", To: 0}, "cannot come before outline", nil},
		{modeller.Command{Do: "remove", ID: "c1"}, "removed", func(e modeller.Edited) bool {
			return len(e.Document.Steps) == 4
		}},
		{modeller.Command{Do: "remove", ID: "e1"}, "build on it", nil},
		{modeller.Command{Do: "remove", ID: "e1", Along: true}, "4 steps removed", func(e modeller.Edited) bool {
			return len(e.Document.Steps) == 1
		}},
		{modeller.Command{Do: "rename", ID: "w", Name: "width"}, "renamed", func(e modeller.Edited) bool {
			return e.Document.Steps[1].Do.(*part.Extrude).Extent.Length == "width/2"
		}},
		{modeller.Command{Do: "rename", ID: "w", Name: "2w"}, "starts with a letter", nil},
		{modeller.Command{Do: "import-parameters", Text: "name,formula,note,least,most\nw,44 mm,the width,,\nreach,w/4,,1 " +
			"mm,9 mm\n"}, "1 parameters added, 1 changed", func(e modeller.Edited) bool {
			return e.Document.Parameters[2].Most == "9 mm" && e.Document.Parameters[0].Note == "the width"
		}},
		{modeller.Command{Do: "import-parameters", Text: "name,formula\nw,4+\n"}, "row 2 (w)", nil},
		{modeller.Command{Do: "import-parameters", Text: "name,formula\n9,4\n"}, "row 2", nil},
		{modeller.Command{Do: "dance"}, "not a command", nil},
	} {
		got, err := do[modeller.Edited](t, w, task.Request{Kind: task.Edit, Command: &c.command})
		if c.check == nil {
			if err == nil || !strings.Contains(err.Error(), c.say) {
				t.Errorf("%+v: %v, want %q", c.command, err, c.say)
			}
			continue
		}
		if err != nil || !strings.Contains(got.Said, c.say) || !c.check(got) {
			t.Errorf("%+v: %q, %v", c.command, got.Said, err)
		}
	}
}

// Looking over names weak places; the interval of a size ends where the geometry
// does: the width at which the bore's place leaves the block.
func TestLookingOverAndReach(t *testing.T) {
	w := worker(t)
	looked, err := do[modeller.Looked](t, w, task.Request{Kind: task.Look})
	if err != nil {
		t.Fatal(err)
	}
	text := fmt.Sprint(looked.Findings)
	for _, want := range []string{"edge fails", "typed depth", "nothing uses the parameter spare",
		"without a name: s2, h1", "freedoms are left"} {
		if !strings.Contains(text, want) {
			t.Errorf("it does not say %q:\n%s", want, text)
		}
	}
	// The bore stands at x = 20 with radius 6; the block of width w ends at x = w. Where
	// they meet at w = 26 the block is cut open and stays one solid down to w = 20.
	r, err := do[modeller.Reached](t, w, task.Request{Kind: task.Reach, Name: "w"})
	if err != nil || r.At != 40 || r.Least.At != 20 || r.Most.At != 90 || r.Least.Found || r.Most.Found {
		t.Errorf("w holds in %+v, %v", r, err)
	}
	drilled := strings.NewReplacer(`"diameter":"12"`, `"diameter":"w/2"`, `{"kind":"one-side","length":"25"}`,
		`{"kind":"through"}`).Replace(plate)
	r, err = do[modeller.Reached](t, w, task.Request{Kind: task.Reach, Name: "w", File: []byte(drilled)})
	// At w = 60 the bore of 30 reaches both sides and parts the block in two.
	if err != nil || !r.Most.Found || math.Abs(r.Most.At-60) > 0.1 || !strings.Contains(r.Most.Why, "solids") {
		t.Errorf("w holds up to %+v, %v", r.Most, err)
	}
	if _, err := do[modeller.Reached](t, w, task.Request{Kind: task.Reach, Name: "zz"}); err == nil {
		t.Error("a parameter that is not there has an interval")
	}
	if _, err := do[[]struct{ What string }](t, w, task.Request{Kind: task.Changes, Other: []byte(drilled)}); err != nil {
		t.Error(err)
	}
}

// Files: STEP in both protocols with the names of the solids, and a closed mesh.
func TestExports(t *testing.T) {
	w := worker(t)
	two := strings.Replace(plate, `{"id":"s2"`, `{"id":"e2","kind":"extrude","sketch":"s1","regions":"all",
	"extent":{"kind":"one-side","length":"5","start":"60"},"result":"new"},{"id":"s2"`, 1)
	for name, schema := range map[string]string{"ap214": "AUTOMOTIVE_DESIGN", "ap242": "AP242"} {
		out, err := do[modeller.Exported](t, w, task.Request{Kind: task.Export, Name: name, File: []byte(two)})
		if err != nil || !strings.Contains(string(out.Data), schema) ||
			!strings.Contains(string(out.Data), "PRODUCT('cover'") || !strings.Contains(string(out.Data), "PRODUCT('e2'") {
			t.Errorf("%s: %v, %v", name, err, regexp.MustCompile(`FILE_SCHEMA[^;]*|PRODUCT\(.*`).
				FindAllString(string(out.Data), -1))
		}
	}
	out, err := do[modeller.Exported](t, w, task.Request{Kind: task.Export, Name: "3mf"})
	if err != nil || out.Mesh == nil {
		t.Fatal(err)
	}
	data, err := threemf.Write(out.Mesh, "a <plate> & more")
	if err != nil || !strings.HasPrefix(string(data), "PK") {
		t.Errorf("3MF: %v", err)
	}
	empty := strings.Replace(plate, `"kind":"extrude"`, `"kind":"extrude","off":true`, 1)
	if _, err := do[modeller.Exported](t, w, task.Request{Kind: task.Export, Name: "stl", File: []byte(empty)}); err ==
		nil || !strings.Contains(err.Error(), "no solid") {
		t.Errorf("nothing is exported: %v", err)
	}
}
