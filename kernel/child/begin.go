package child

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/assembly/session"
	"hammerset/core/assembly/shapes"
	"hammerset/core/check"
	"hammerset/core/check/assemblies"
	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/core/prepare"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
)

// beginAssembly makes an exercise of an assembly: the document of the request with its files, or else its file. Joints
// are read from the contacts where there are none and that is asked for (Arrange).
func (w *Worker) beginAssembly(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	b := &documents.Assembled{Files: req.Files}
	var err error
	if req.Assembly != nil {
		b.Document, err = documents.ReadAssembly(req.Assembly)
	} else {
		b, err = w.unpackAssembly(ctx, req)
	}
	if err != nil {
		return nil, err
	}
	if b, err = w.laidFlat(ctx, b); err != nil {
		return nil, err
	}
	table, err := b.Document.Table(nil)
	if err != nil {
		return nil, err
	}
	made, err := w.all(ctx, b.Files, b.Document, table, 0)
	if err != nil {
		return nil, err
	}
	if len(b.Document.Joints) == 0 && req.Arrange {
		if err := readJoints(b.Document, made); err != nil {
			return nil, err
		}
	}
	if b.Document, err = solved(b.Document, made); err != nil {
		return nil, err
	}
	doc, files, items, err := w.itemsOf(b, made, table)
	if err != nil {
		return nil, err
	}
	begun, err := prepare.BeginAssembly(ctx, w.checker, doc, items, w.font, progress)
	if err != nil {
		return nil, err
	}
	key := assemblies.Reference{Document: doc, Exercises: map[string]assemblies.PartExercise{}}
	if key.Made, err = w.all(ctx, files, doc, table, 0); err != nil {
		return nil, err
	}
	sheet, err := prepare.Arrangement(ctx, w.checker.Rebuilder.Kernel(), w.assemblyChecker(), begun.Exercise, key)
	if err != nil {
		return nil, err
	}
	begun.Exercise.Sheets = exercise.Sheets{sheet}
	ref := &documents.AssemblyReference{Assembled: &documents.Assembled{Document: doc, Files: files},
		Exercises: map[string]*documents.Bundle{}}
	for id, ex := range begun.Items {
		data, err := json.MarshalIndent(ex, "", " ")
		if err != nil {
			return nil, err
		}
		ref.Exercises[id] = &documents.Bundle{Exercise: append(data, '\n'), Parsed: ex}
	}
	out := task.Begun{Left: begun.Left}
	if out.Reference, err = ref.Zip(); err != nil {
		return nil, err
	}
	out.Exercise, err = json.MarshalIndent(begun.Exercise, "", " ")
	return out, err
}

// solved is an assembly with its components where the joints hold.
func solved(d *assembly.Document, made map[string]*shapes.Made) (*assembly.Document, error) {
	of := map[string]*assembly.Shape{}
	for id, m := range made {
		of[id] = m.Shape
	}
	m, err := assembly.New(d, of, nil)
	if err != nil {
		return nil, err
	}
	if lost := m.Lost(); len(lost) > 0 {
		return nil, &modeller.Refused{What: lost[0].What, Remedy: lost[0].Remedy}
	}
	if !m.Solve().Holds {
		return nil, &modeller.Refused{What: "the joints of the assembly contradict one another",
			Remedy: "put that right in the fitting screen first"}
	}
	return m.Placed(), nil
}

// laidFlat puts what is nested in its place, since parts are checked on one level, and keeps its levels as groups,
// which the parts list shows.
func (w *Worker) laidFlat(ctx context.Context, b *documents.Assembled) (*documents.Assembled, error) {
	for range assembly.MaxComponents {
		at := slices.IndexFunc(b.Document.Components, func(c assembly.Component) bool {
			p, _ := b.Document.Part(c.Part)
			return documents.IsPacked(b.Files[p.File])
		})
		if at < 0 {
			break
		}
		c := b.Document.Components[at]
		p, _ := b.Document.Part(c.Part)
		table, err := b.Document.Table(nil)
		if err != nil {
			return nil, err
		}
		made, err := w.made(ctx, p, b.Files[p.File], table, 0)
		if err != nil {
			return nil, err
		}
		inner, err := documents.ReadAssembledZip(b.Files[p.File])
		if err != nil {
			return nil, err
		}
		parts, err := b.Document.LayFlat(c.ID, made.Shape.Nest)
		if err != nil {
			return nil, err
		}
		for was, is := range parts {
			from, _ := inner.Document.Part(was)
			to, _ := b.Document.Part(is)
			to.File = from.SHA256[:12] + "-" + from.File
			b.Files[to.File] = inner.Files[from.File]
		}
	}
	// Only now: what is nested twice is one part as long as it is there.
	b.Document.Parts = slices.DeleteFunc(b.Document.Parts, func(p assembly.Part) bool {
		return !slices.ContainsFunc(b.Document.Components, func(c assembly.Component) bool { return c.Part == p.ID })
	})
	return b, nil
}

// readJoints gives an assembly the joints that its contacts speak for, as far as each holds something that those before
// it do not.
func readJoints(d *assembly.Document, made map[string]*shapes.Made) error {
	of := map[string]*assembly.Shape{}
	for id, m := range made {
		of[id] = m.Shape
	}
	s, err := session.Open(d, of)
	if err != nil {
		return err
	}
	for _, p := range s.Propose() {
		if p.Takes > 0 {
			j := p.Join
			j.ID = fmt.Sprintf("j%d", len(d.Joints)+1)
			d.Joints = append(d.Joints, j)
		}
	}
	return nil
}

// itemsOf gives every part of an assembly a folder of its own, with its file at the sizes that it has in the assembly
// as the reference of its exercise.
func (w *Worker) itemsOf(b *documents.Assembled, made map[string]*shapes.Made,
	table *quantity.Table) (*assembly.Document, map[string][]byte, []prepare.ItemOf, error) {
	doc := *b.Document
	doc.Parts = slices.Clone(doc.Parts)
	doc.NumberParts()
	files := map[string][]byte{}
	var items []prepare.ItemOf
	taken := map[string]bool{}
	for i := range doc.Parts {
		p := &doc.Parts[i]
		folder := unused(folderOf(p.Name), taken)
		x := prepare.ItemOf{Part: p, Folder: folder, File: "reference.json", Unit: doc.Unit}
		data, ref, err := w.referenceOf(p, b.Files[p.File], made[p.ID], table)
		if err != nil {
			return nil, nil, nil, fmt.Errorf("the part %s: %w", p.Name, err)
		}
		if ref.Document == nil {
			x.File, p.Solid = "reference.step", ""
		} else {
			x.Unit = ref.Document.Unit
		}
		x.Reference = ref
		p.File = folder + "/" + x.File
		p.SHA256 = documents.Sum(data)
		files[p.File] = data
		items = append(items, x)
	}
	return &doc, files, items, nil
}

// referenceOf is a part by itself at the sizes that it has in the assembly: a model document, or a STEP file of what is
// one of several solids or was a file.
func (w *Worker) referenceOf(p *assembly.Part, file []byte, made *shapes.Made, table *quantity.Table) ([]byte,
	check.Reference, error) {
	if (&task.Request{File: file}).Modelled() && p.Solid == "" {
		doc, err := w.read(file)
		if err != nil {
			return nil, check.Reference{}, err
		}
		if doc, err = atValues(doc, p, table); err != nil {
			return nil, check.Reference{}, err
		}
		data, err := json.MarshalIndent(doc, "", " ")
		return append(data, '\n'), check.Reference{Document: doc}, err
	}
	data := file
	if !documents.IsSTEP(file) || p.Solid != "" {
		var err error
		if data, err = w.stepOf(p, made); err != nil {
			return nil, check.Reference{}, err
		}
	}
	return data, check.Reference{STEP: data}, nil
}

// stepOf writes a part by itself as a STEP file.
func (w *Worker) stepOf(p *assembly.Part, made *shapes.Made) ([]byte, error) {
	return w.checker.Rebuilder.Kernel().WriteSTEP([]solid.Titled{{Shape: made.Solid, Name: p.Name}}, p.Name, solid.AP242)
}

// unused is a name that is not taken yet, and takes it.
func unused(name string, taken map[string]bool) string {
	out := name
	for n := 2; taken[out]; n++ {
		out = fmt.Sprintf("%s-%d", name, n)
	}
	taken[out] = true
	return out
}

var strange = regexp.MustCompile(`[^a-z0-9]+`)

// folderOf is a name as a folder.
func folderOf(name string) string {
	out := strings.Trim(strange.ReplaceAllString(strings.ToLower(name), "-"), "-")
	if out == "" {
		return "part"
	}
	return out
}
