package child

import (
	"bytes"
	"encoding/json"
	"math"
	"os"
	"slices"
	"strings"
	"testing"

	"hammerset/core/check"
	"hammerset/core/check/assemblies"
	"hammerset/core/modeller"
	"hammerset/core/prepare"
	"hammerset/core/report"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/formats/pack"
	"hammerset/kernel/task"
)

// Exercises of assemblies.
const (
	tackle = "../../demo/exercises/tackle-joint"
	block  = "../../bench/verdicts/assemblies/exercises/lifting-block"
	drawer = "../../bench/verdicts/assemblies/exercises/curve-drawer"
)

// handing hands files in at the exercise of an assembly.
type handing struct {
	t   *testing.T
	w   *Worker
	b   *documents.Bundle
	ref *documents.AssemblyReference
	// once says that sizes need not be varied, which is tested elsewhere and takes long.
	once []byte
}

func newHanding(t *testing.T, folder string) *handing {
	t.Helper()
	root, err := os.OpenRoot(folder)
	if err != nil {
		t.Fatal(err)
	}
	b, err := documents.ReadWith(root.ReadFile)
	if err != nil {
		t.Fatal(err)
	}
	ref, err := documents.ReadAssemblyReference(b.Parsed, b.Reference)
	if err != nil {
		t.Fatal(err)
	}
	data, err := json.Marshal(ref.Document)
	if err != nil {
		t.Fatal(err)
	}
	once, err := json.Marshal(madeOnce{Bears: assemblies.Bears{"": {}}, Of: documents.Sum(data)})
	if err != nil {
		t.Fatal(err)
	}
	return &handing{t, worker(t), b, ref, once}
}

// model is the file of a part of the reference.
func (h *handing) model(part string) []byte { return h.ref.Files[part+"/reference.json"] }

// step is a part of the reference as a STEP file.
func (h *handing) step(part string) []byte {
	h.t.Helper()
	out, err := do[modeller.Exported](h.t, h.w, task.Request{Kind: task.Export, File: h.model(part), Name: "ap242"})
	if err != nil {
		h.t.Fatal(err)
	}
	return out.Data
}

// whole is the assembly as one STEP file.
func (h *handing) whole() []byte {
	h.t.Helper()
	data, err := json.Marshal(h.ref.Document)
	if err != nil {
		h.t.Fatal(err)
	}
	out, err := do[modeller.Exported](h.t, h.w, task.Request{Kind: task.ExportAssembly, Assembly: data,
		Files: h.ref.Files, Name: "ap242"})
	if err != nil {
		h.t.Fatal(err)
	}
	return out.Data
}

func (h *handing) zip(list ...pack.File) []byte {
	h.t.Helper()
	data, err := pack.Write(list)
	if err != nil {
		h.t.Fatal(err)
	}
	return data
}

// check checks a file.
func (h *handing) check(name string, data []byte) *report.Report {
	h.t.Helper()
	out, err := do[assemblies.Outcome](h.t, h.w, task.Request{Kind: task.Check, Exercise: h.b.Exercise,
		Reference: h.b.Reference, Atlas: h.once, Name: name, File: data})
	if err != nil {
		h.t.Fatalf("%s: %v", name, err)
	}
	return out.Report
}

// verdicts are those of the items in their order.
func verdicts(r *report.Report) string {
	var out []string
	for _, x := range r.Assembly.Items {
		out = append(out, string(x.Verdict))
	}
	return strings.Join(out, " ")
}

func noted(r *report.Report, kind string) bool {
	return slices.ContainsFunc(r.Attempt.Notes, func(n report.IntakeNote) bool { return n.Kind == kind })
}

// An assembly comes in many forms, and each is taken for what it is.
func TestWhatIsHandedInOfAnAssembly(t *testing.T) {
	h := newHanding(t, tackle)
	whole, larger := h.whole(), bytes.ReplaceAll(h.model("eye"), []byte(`"15 mm"`), []byte(`"14 mm"`))
	if bytes.Equal(larger, h.model("eye")) {
		t.Fatal("the eye has no size of 15 mm to be changed")
	}
	all := "in in in in"

	t.Run("models beside a STEP file", func(t *testing.T) {
		r := h.check("joint.zip", h.zip(pack.File{Name: "joint.step", Body: whole},
			pack.File{Name: "parts/fork.json", Body: h.model("fork")}, pack.File{Name: "parts/eye.json", Body: larger}))
		if verdicts(r) != all || !noted(r, "other model") {
			t.Errorf("items: %s; notes: %v", verdicts(r), r.Attempt.Notes)
		}
		for i, want := range []string{"model", "step", "step", "step"} {
			if got := r.Assembly.Items[i].Variants[0].Report.Attempt.Kind; got != want {
				t.Errorf("item %d was checked as %s, and not as %s", i+1, got, want)
			}
		}
	})
	t.Run("parts by themselves", func(t *testing.T) {
		r := h.check("parts.zip", h.zip(pack.File{Name: "eye.json", Body: larger},
			pack.File{Name: "fork.step", Body: h.step("fork")}, pack.File{Name: "eye again.json", Body: h.model("eye")}))
		if got := verdicts(r); got != "in in ask ask" || !r.Assembly.Single || !noted(r, "earlier") {
			t.Errorf("items: %s; %v", got, r.Attempt.Notes)
		}
		if r.OutOf != 25 || r.Points != 25 { // two of four items, of 50 points for all
			t.Errorf("%g of %g points", r.Points, r.OutOf)
		}
	})
	t.Run("a part of two bodies", func(t *testing.T) {
		r := h.check("joint.step", h.split("fork", false))
		if verdicts(r) != all || !noted(r, "united") || len(r.Findings) > 0 {
			t.Errorf("items: %s; notes: %v; findings: %v", verdicts(r), r.Attempt.Notes, r.Findings)
		}
	})
	t.Run("a product of two bodies with a wrong size", func(t *testing.T) {
		h := newHanding(t, tackle)
		p, _ := h.ref.Document.Part("eye")
		longer := bytes.ReplaceAll(h.model("eye"), []byte(`"70 mm"`), []byte(`"75 mm"`))
		h.ref.Files[p.File], p.SHA256 = longer, documents.Sum(longer)
		r := h.check("joint.step", h.split("eye", true))
		if got := verdicts(r); got != "in out in in" || !noted(r, "united") || r.Findings[0].Item != "2" {
			t.Errorf("items: %s; notes: %v; findings: %v", got, r.Attempt.Notes, r.Findings)
		}
	})
	t.Run("one after the other", func(t *testing.T) {
		gathered := func(name string, data []byte, before map[string][]byte) []byte {
			t.Helper()
			out, err := do[task.Gathered](t, h.w, task.Request{Kind: task.Gather, Name: name, File: data, Files: before})
			if err != nil {
				t.Fatal(err)
			}
			return out.File
		}
		before := map[string][]byte{"1/eye.json": h.model("eye"), "2/pin.step": h.step("pin")}
		r := h.check("parts.zip", gathered("fork.json", h.model("fork"), before))
		if got := verdicts(r); got != "in in in ask" {
			t.Errorf("three parts in turn: %s", got)
		}
		before["3/joint.step"] = whole
		if gathered("fork.json", h.model("fork"), before) != nil || gathered("joint.step", whole, before) != nil {
			t.Error("what came before a whole assembly, or with one, was gathered")
		}
	})
}

// halfSpace is a solid above a plane, as large as half of space for a small part.
const halfSpace = `{"hammerset":"model/1","name":"half","unit":"mm","parameters":[],"steps":[{"id":"s","kind":"sketch",
	"plane":{"datum":"XY"},"entities":[{"id":"m","kind":"point","at":[0,0]},{"id":"c","kind":"circle","center":"m",
	"radius":500}],"constraints":[]},{"id":"e","kind":"extrude","sketch":"s","regions":"all",
	"extent":{"kind":"one-side","length":"500 mm"},"result":"add"}]}`

// split is the whole as one STEP file in which a part is cut in two bodies, which are one product or two.
func (h *handing) split(part string, oneProduct bool) []byte {
	h.t.Helper()
	k := h.w.checker.Rebuilder.Kernel()
	table, err := h.ref.Document.Table(nil)
	if err != nil {
		h.t.Fatal(err)
	}
	made, err := h.w.all(h.t.Context(), h.ref.Files, h.ref.Document, table, 0)
	if err != nil {
		h.t.Fatal(err)
	}
	doc, err := documents.ReadModel([]byte(halfSpace))
	if err != nil {
		h.t.Fatal(err)
	}
	half, _, err := h.w.checker.Load(h.t.Context(), check.Reference{Document: doc})
	if err != nil {
		h.t.Fatal(err)
	}
	var list []solid.Titled
	for _, c := range h.ref.Document.Components {
		bodies := []solid.Shape{made[c.Part].Solid}
		if c.Part == part {
			at := rigid.Still()
			at.Shift = made[c.Part].Shape.Props.Centroid
			tool, _, err := k.Transform(half.Shape, at.Transform())
			if err != nil {
				h.t.Fatal(err)
			}
			bodies = nil
			for _, op := range []solid.Operation{solid.Difference, solid.Intersection} {
				s, _, err := k.Boolean(op, made[c.Part].Solid, []solid.Shape{tool})
				if err != nil {
					h.t.Fatal(err)
				}
				bodies = append(bodies, s)
			}
		}
		if oneProduct && len(bodies) > 1 {
			both, _, err := k.Compound(bodies)
			if err != nil {
				h.t.Fatal(err)
			}
			bodies = []solid.Shape{both}
		}
		for i, s := range bodies {
			s, _, err := k.Transform(s, c.Pose.Transform())
			if err != nil {
				h.t.Fatal(err)
			}
			list = append(list, solid.Titled{Shape: s, Name: string(rune('k'+i)) + c.ID})
		}
	}
	data, err := k.WriteSTEP(list, "flat", solid.AP242)
	if err != nil {
		h.t.Fatal(err)
	}
	return data
}

// The audit of an assembly says whose place the sheets leave open, and what the reference itself has wrong.
func TestAuditOfAnAssembly(t *testing.T) {
	for _, c := range []struct {
		name, offset string
		states       string // a characteristic more
		want         string // of what is open; nothing where all is determined
	}{
		{"as it is", "-4 mm", "", ""},
		{"clear of the fork", "-2 mm", "", "no sheet says the offset of collar on the pin"},
		{"clear of the fork, and stated", "-2 mm", `{"id":"clear","balloon":7,"kind":"placement","label":"Collar",
			"of":["c4#e1/start","c3#e2/end"]},`, ""},
		{"in the fork", "-6 mm", "", "are in one another"},
	} {
		h := newHanding(t, tackle)
		j, _ := h.ref.Document.Joint("j3")
		j.Offset = c.offset
		reference, err := h.ref.Zip()
		if err != nil {
			t.Fatal(err)
		}
		ex := h.stating(c.states)
		p, err := do[prepare.Prepared](t, h.w, task.Request{Kind: task.Prepare, Exercise: ex, Reference: reference})
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		var open []string
		for _, f := range p.Audit.Findings {
			if f.Open() {
				open = append(open, f.What)
			}
		}
		if got := strings.Join(open, "; "); got == "" != (c.want == "") || !strings.Contains(got, c.want) {
			t.Errorf("%s: it says %q, and not %q", c.name, got, c.want)
		}
	}
}

// stating is the exercise with some characteristics of the whole before the others.
func (h *handing) stating(more string) []byte {
	at := bytes.Index(h.b.Exercise, []byte(`"id": "quantity_`))
	at = bytes.LastIndex(h.b.Exercise[:at], []byte("{"))
	return slices.Concat(h.b.Exercise[:at], []byte(more), h.b.Exercise[at:])
}

// What is stated of the whole is in on the reference, and out on an assembly that has just that wrong.
func TestCharacteristicsOfTheWhole(t *testing.T) {
	bundle := func(h *handing) []byte {
		for i := range h.ref.Document.Parts {
			p := &h.ref.Document.Parts[i]
			p.SHA256 = documents.Sum(h.ref.Files[p.File])
		}
		data, err := (&documents.Assembled{Document: h.ref.Document, Files: h.ref.Files}).Zip()
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	const ofBlock = `{"id":"holes","balloon":21,"kind":"aligned holes","label":"Holes","of":["c1#e1/start","c2#e1/start"]},
		{"id":"list","balloon":22,"kind":"parts list","label":"Parts list"},
		{"id":"centre","balloon":23,"kind":"assembled centre","label":"Centre of mass"},`
	// The sliders are 1 in long and 0.5 in wide, and their studs 1.5 in apart: nearest to one another at 45 degrees, with
	// 1.5 − 0.75 √2 in between their corners (plane trigonometry).
	const ofDrawer = `{"id":"gap","balloon":21,"kind":"moving clearance","label":"Clearance","joint":"j3",
		"of":["c2#e1/start","c3#e1/start"]},`
	elsewhere := func(part, from, to string) func(h *handing) {
		return func(h *handing) {
			p, _ := h.ref.Document.Part(part)
			was := h.ref.Files[p.File]
			h.ref.Files[p.File] = bytes.Replace(was, []byte(from), []byte(to), 1)
			if bytes.Equal(was, h.ref.Files[p.File]) {
				t.Fatalf("%s has no %s", part, from)
			}
		}
	}
	for _, c := range []struct {
		name, folder, states string
		change               func(h *handing)
		out                  string // the ids of those that are out
	}{
		{"the block as it is", block, ofBlock, func(*handing) {}, ""},
		{"a part of another name", block, ofBlock, func(h *handing) {
			p, _ := h.ref.Document.Part("nut")
			p.Name = "washer"
		}, "list"},
		{"a heavier head", block, ofBlock, elsewhere("bolt", `"20 mm"`, `"24 mm"`), "centre"},
		{"the drawer as it is", drawer, ofDrawer, func(*handing) {}, ""},
		{"longer sliders", drawer, ofDrawer, elsewhere("slider", `"1 in"`, `"1.1 in"`), "gap"},
	} {
		h := newHanding(t, c.folder)
		exercise := h.stating(c.states)
		reference := h.b.Reference
		c.change(h)
		h.b.Exercise, h.b.Reference = exercise, reference
		r := h.check("attempt.zip", bundle(h))
		var out []string
		for _, q := range r.Characteristics {
			if q.Balloon < 21 || q.Item != "" {
				continue
			}
			if q.Verdict != report.In {
				out = append(out, q.ID)
			}
			// As it is printed, in inches.
			if want := 25.4 * (1.5 - 0.75*math.Sqrt2); q.ID == "gap" && math.Abs(q.Nominal-want) > 0.02 {
				t.Errorf("the nominal clearance is %g, and not %g", q.Nominal, want)
			}
		}
		if got := strings.Join(out, " "); got != c.out {
			t.Errorf("%s: out are %q, and not %q", c.name, got, c.out)
		}
	}
}

// A what-if is followed by an assembly whose document takes its sizes, or whose file for it has them, and not by one
// with a number where a size is tied.
func TestWhatIfsOfAnAssembly(t *testing.T) {
	h := newHanding(t, tackle)
	asking := bytes.Replace(h.b.Exercise, []byte(`"assembly": {`), []byte(`"whatIfs": [{"name": "thicker pin", "set":
		{"bore": "14 mm"}}], "whatIfFiles": true, "assembly": {`), 1)
	h.b.Exercise = asking
	outcome := func(name string, data []byte) string {
		t.Helper()
		r := h.check(name, data)
		if len(r.WhatIfs) != 1 {
			t.Fatalf("%s: %d what-ifs", name, len(r.WhatIfs))
		}
		return r.WhatIfs[0].Outcome + " " + r.WhatIfs[0].Detail
	}
	packed := func() []byte {
		data, err := documents.PackAssembly(h.ref.Document, h.ref.Files)
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	if got := outcome("tied.zip", packed()); got != "follows " {
		t.Errorf("tied: %s", got)
	}
	whole := h.whole()
	for i := range h.ref.Document.Parameters {
		if p := &h.ref.Document.Parameters[i]; p.Name == "bore" {
			p.Formula = "14 mm"
		}
	}
	larger := h.whole()
	for name, c := range map[string]struct {
		file []byte
		want string
	}{"the right one": {larger, "follows "}, "the same as before": {whole, "differs"}, "none": {nil, "missing no file"}} {
		list := []pack.File{{Name: "joint.step", Body: whole}}
		if c.file != nil {
			list = append(list, pack.File{Name: "Thicker_pin.step", Body: c.file})
		}
		if got := outcome("files.zip", h.zip(list...)); !strings.HasPrefix(got, c.want) {
			t.Errorf("a file for it, %s: %s", name, got)
		}
	}
	h.ref.Document.Parameters = slices.Clone(h.ref.Document.Parameters)
	for i := range h.ref.Document.Parameters {
		if p := &h.ref.Document.Parameters[i]; p.Name == "bore" {
			p.Formula = "12 mm"
		}
	}
	eye, _ := h.ref.Document.Part("eye")
	eye.Values["bore"] = "12 mm"
	if got := outcome("untied.zip", packed()); !strings.HasPrefix(got, "differs eye") {
		t.Errorf("untied: %s", got)
	}
}
