package child

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"path"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/shapes"
	"hammerset/core/assembly/vary"
	"hammerset/core/modeller"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/formats/stl"
	"hammerset/formats/threemf"
	"hammerset/kernel/task"
)

// mostParts is how many parts of assemblies a child keeps.
const mostParts = 2 * assembly.MaxParts

// assembled reads the assembly of a request, with its parameters as they are set.
func assembled(req *task.Request) (*assembly.Document, *quantity.Table, error) {
	d, err := documents.ReadAssembly(req.Assembly)
	if err != nil {
		return nil, nil, err
	}
	table, err := d.With(req.Set)
	return d, table, err
}

// unpackAssembly reads an assembly from its bundle, or from a STEP file.
func (w *Worker) unpackAssembly(ctx context.Context, req *task.Request) (*documents.Assembled, error) {
	file, others := req.File, map[string][]byte{}
	if documents.IsPacked(file) {
		var err error
		if file, others, err = documents.ReadSTEPZip(req.File); err != nil {
			return nil, err
		}
	}
	if !documents.IsSTEP(file) {
		return documents.ReadAssembledZip(req.File)
	}
	maker := &shapes.Maker{Rebuilder: w.modeller.Rebuilder}
	name := strings.TrimSuffix(req.Name, path.Ext(req.Name))
	doc, files, err := maker.Assembly(ctx, file, cmp.Or(name, "assembly"), others, documents.PackAssembly)
	if err != nil {
		return nil, err
	}
	return &documents.Assembled{Document: doc, Files: files}, nil
}

// putPart makes parts of a file that is put into an assembly.
func (w *Worker) putPart(ctx context.Context, req *task.Request) ([]shapes.PutIn, error) {
	d, table, err := assembled(req)
	if err != nil {
		return nil, err
	}
	maker := &shapes.Maker{Rebuilder: w.modeller.Rebuilder}
	if documents.IsPacked(req.File) {
		if main, _, err := documents.ReadSTEPZip(req.File); err == nil && main != nil {
			return nil, &shapes.Error{What: "this zip holds an assembly as STEP files",
				Remedy: "open it as an assembly of its own first (under “My models”), and put that in"}
		}
		p := shapes.Kept(req.File, ".zip", req.Name, len(d.Parts)+1)
		made, err := w.nested(ctx, &p, req.File, table, 0)
		if err != nil {
			return nil, err
		}
		return []shapes.PutIn{{Part: p, Shape: made.Shape}}, nil
	}
	if !req.Modelled() {
		return maker.PutSTEP(ctx, req.File, req.Name, len(d.Parts)+1)
	}
	doc, err := w.read(req.File)
	if err != nil {
		return nil, err
	}
	return maker.PutModel(ctx, doc, req.File, req.Name, len(d.Parts)+1)
}

// feature makes a part of an assembly.
func (w *Worker) feature(ctx context.Context, req *task.Request) (any, error) {
	d, table, err := assembled(req)
	if err != nil {
		return nil, err
	}
	p, ok := d.Part(req.Part)
	if !ok {
		return nil, fmt.Errorf("the assembly has no part %q", req.Part)
	}
	made, err := w.made(ctx, p, req.File, table, 0)
	if err != nil {
		return nil, err
	}
	return made.Shape, nil
}

// asItIs are the sizes of a part that is given none.
const asItIs = "{}"

// made makes a part of its file, or finds the one that was made before. depth is in how many assemblies it is nested.
func (w *Worker) made(ctx context.Context, p *assembly.Part, file []byte, table *quantity.Table,
	depth int) (*shapes.Made, error) {
	key := p.SHA256 + " " + p.Solid
	maker := &shapes.Maker{Rebuilder: w.modeller.Rebuilder}
	if documents.IsPacked(file) {
		return w.nested(ctx, p, file, table, depth)
	}
	if !(&task.Request{File: file}).Modelled() {
		return w.kept(key, func() (*shapes.Made, error) { return maker.STEP(ctx, file, p.Solid) })
	}
	if m, ok := w.parts[key+" "+asItIs]; ok && len(p.Values) == 0 {
		return m, nil
	}
	doc, err := w.read(file)
	if err != nil {
		return nil, err
	}
	own, err := doc.Table(nil)
	if err != nil {
		return nil, err
	}
	set, err := shapes.Values(p, own, table)
	if err != nil {
		return nil, err
	}
	values, err := json.Marshal(set) // in the order of the names
	if err != nil {
		return nil, err
	}
	return w.kept(key+" "+string(values), func() (*shapes.Made, error) { return maker.Model(ctx, doc, set, p.Solid) })
}

// nested makes a part that is an assembly itself.
func (w *Worker) nested(ctx context.Context, p *assembly.Part, file []byte, table *quantity.Table,
	depth int) (*shapes.Made, error) {
	if depth >= assembly.MaxDepth {
		return nil, &shapes.Error{What: fmt.Sprintf("%s is nested in more than %d assemblies", p.Name, assembly.MaxDepth),
			Remedy: "lay some of them flat"}
	}
	b, err := documents.ReadAssembledZip(file)
	if err != nil {
		return nil, err
	}
	own, err := b.Document.Table(nil)
	if err != nil {
		return nil, err
	}
	set, err := shapes.Values(p, own, table)
	if err != nil {
		return nil, err
	}
	d := b.Document.Set(set)
	if own, err = d.Table(nil); err != nil {
		return nil, err
	}
	made, err := w.all(ctx, b.Files, d, own, depth+1)
	if err != nil {
		return nil, err
	}
	return shapes.Nested(d, made)
}

func (w *Worker) kept(key string, make func() (*shapes.Made, error)) (*shapes.Made, error) {
	if m, ok := w.parts[key]; ok {
		return m, nil
	}
	m, err := make()
	if err != nil {
		return nil, err
	}
	if w.parts == nil || len(w.parts) >= mostParts {
		w.parts = map[string]*shapes.Made{}
	}
	w.parts[key] = m
	return m, nil
}

// all makes all parts of an assembly, by their ids.
func (w *Worker) all(ctx context.Context, files map[string][]byte, d *assembly.Document,
	table *quantity.Table, depth int) (map[string]*shapes.Made, error) {
	out := map[string]*shapes.Made{}
	for i := range d.Parts {
		p := &d.Parts[i]
		made, err := w.made(ctx, p, files[p.File], table, depth)
		if err != nil {
			return nil, fmt.Errorf("the part %s: %w", p.Name, err)
		}
		out[p.ID] = made
	}
	return out, nil
}

// exportAssembly writes an assembly where its components stand: STEP with its structure, 3MF with an object for each
// part, or STL of all together.
func (w *Worker) exportAssembly(ctx context.Context, req *task.Request) (*modeller.Exported, error) {
	d, table, err := assembled(req)
	if err != nil {
		return nil, err
	}
	if len(d.Components) == 0 {
		return nil, &modeller.Refused{What: "the assembly has no components to export", Remedy: "put in a part first"}
	}
	made, err := w.all(ctx, req.Files, d, table, 0)
	if err != nil {
		return nil, err
	}
	k, out := w.modeller.Rebuilder.Kernel(), &modeller.Exported{Name: d.Name}
	if schema, ok := solid.SchemaOf(req.Name); ok {
		out.Data, err = k.WriteAssembly(shapes.Products(d, made), d.Name, schema)
		return out, err
	}
	if d, made, err = shapes.Flat(d, made); err != nil {
		return nil, err
	}
	meshes := map[string]*solid.Mesh{}
	for id, m := range made {
		if meshes[id], err = shapes.Fine(ctx, k, m); err != nil {
			return nil, err
		}
	}
	switch req.Name {
	case "stl":
		out.Data = stl.Write(shapes.Whole(d, meshes))
		return out, nil
	case "3mf":
		out.Data, err = threeMF(d, meshes)
		return out, err
	}
	return nil, &modeller.Refused{What: req.Name + " is no format of an assembly",
		Remedy: "ask for ap214, ap242, stl or 3mf"}
}

// threeMF is an assembly as 3MF: an object for each part, and its components as items.
func threeMF(d *assembly.Document, meshes map[string]*solid.Mesh) ([]byte, error) {
	var objects []threemf.Object
	at := map[string]int{}
	for _, p := range d.Parts {
		at[p.ID] = len(objects)
		objects = append(objects, threemf.Object{Name: p.Name, Mesh: meshes[p.ID]})
	}
	var items []threemf.Item
	for _, c := range d.Components {
		items = append(items, threemf.Item{Object: at[c.Part], Name: c.Title(), Place: c.Pose.Transform()})
	}
	return threemf.WriteAll(objects, items, d.Name)
}

// clash tells how the components of an assembly lie to one another where they stand.
func (w *Worker) clash(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	d, table, err := assembled(req)
	if err != nil {
		return nil, err
	}
	pairs, booleans, err := w.pairs(ctx, d, req.Files, table, nil, func(done float64) {
		progress("looking for collisions", done)
	})
	if err != nil {
		return nil, err
	}
	return struct {
		Pairs    []clash.Pair `json:"pairs"`
		Booleans int          `json:"booleans"`
	}{pairs, booleans}, nil
}

// pairs are those of components that are not free of one another, and how many booleans it took to know.
func (w *Worker) pairs(ctx context.Context, d *assembly.Document, files map[string][]byte, table *quantity.Table,
	memo *clash.Memo, each func(float64)) ([]clash.Pair, int, error) {
	var list []clash.Placed
	pairs := []clash.Pair{}
	all, failed := map[string]*shapes.Made{}, map[string]error{}
	for i := range d.Parts {
		p := &d.Parts[i]
		made, err := w.made(ctx, p, files[p.File], table, 0)
		if err != nil && ctx.Err() != nil {
			return nil, 0, err
		}
		if failed[p.ID] = err; err == nil {
			all[p.ID] = made
		}
	}
	d, all, err := shapes.Flat(d, all)
	if err != nil {
		return nil, 0, err
	}
	for _, c := range d.Components {
		p, _ := d.Part(c.Part)
		made := all[c.Part]
		if made == nil { // the others can be looked at all the same
			pairs = append(pairs, clash.Pair{A: c.ID, B: c.ID, Kind: clash.Ask,
				What: fmt.Sprintf("%s was left out: its part %s "+
					"cannot be made: %v", c.Title(), p.Name, failed[c.Part]), Remedy: "put the part right, and look again"})
			continue
		}
		list = append(list, clash.Placed{ID: c.ID, Title: c.Title(), Pose: c.Pose, Shape: made.Shape, Solid: made.Solid,
			Soft: p.Soft})
	}
	l := clash.Looker{Kernel: w.modeller.Rebuilder.Kernel(), Stated: map[[2]string]string{}, Memo: memo}
	for _, j := range d.Joints {
		if j.Fit != "" && !j.Off {
			l.Stated[[2]string{j.A.Component, j.B.Component}] = j.Fit
		}
	}
	found, err := l.All(ctx, list, each)
	return append(pairs, found...), l.Booleans, err
}

// vary finds out how an assembly bears other sizes.
func (w *Worker) vary(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	d, _, err := assembled(req)
	if err != nil {
		return nil, err
	}
	return (&vary.Varier{Maker: varying{w, req.Files}, Collisions: true}).Run(ctx, d, func(done float64) {
		progress("varying sizes", done)
	})
}

// varying makes assemblies of other sizes from the same files.
type varying struct {
	w     *Worker
	files map[string][]byte
}

// Shapes makes all parts; one that cannot be made says why.
func (v varying) Shapes(ctx context.Context, d *assembly.Document) (map[string]*assembly.Shape, error) {
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	out := map[string]*assembly.Shape{}
	for i := range d.Parts {
		p := &d.Parts[i]
		made, err := v.w.made(ctx, p, v.files[p.File], table, 0)
		switch {
		case err == nil:
			out[p.ID] = made.Shape
		case ctx.Err() != nil:
			return nil, err
		default:
			out[p.ID] = task.Unmade(p, task.AsError(err))
		}
	}
	return out, nil
}

// Made makes all parts with their solids.
func (v varying) Made(ctx context.Context, d *assembly.Document) (map[string]*shapes.Made, error) {
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	return v.w.all(ctx, v.files, d, table, 0)
}

// Collisions tells which components lie in one another.
func (v varying) Collisions(ctx context.Context, d *assembly.Document) ([]clash.Pair, error) {
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	pairs, _, err := v.w.pairs(ctx, d, v.files, table, &v.w.lain, func(float64) {})
	return pairs, err
}

// sweep looks for collisions while a joint is driven.
func (w *Worker) sweep(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	d, table, err := assembled(req)
	if err != nil {
		return nil, err
	}
	made, err := w.all(ctx, req.Files, d, table, 0)
	if err != nil {
		return nil, err
	}
	of := map[string]*assembly.Shape{}
	for id, m := range made {
		of[id] = m.Shape
	}
	m, err := assembly.New(d, of, nil)
	if err != nil {
		return nil, err
	}
	m.Solve()
	list, ended, err := clash.Sweep(ctx, m, req.Joint, req.Way[0], req.Way[1], func(done float64) {
		progress("looking for collisions", done)
	})
	if err != nil {
		return nil, err
	}
	return struct {
		Swept []clash.Swept `json:"swept"`
		Ended float64       `json:"ended"`
	}{list, ended}, nil
}
