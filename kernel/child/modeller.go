package child

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/robust"
	"hammerset/core/sketch"
	"hammerset/core/solid"
	"hammerset/core/standards"
	"hammerset/formats/documents"
	"hammerset/formats/table"
	"hammerset/kernel/task"
)

// opened reads the document of a request, up to the step that it asks for.
func (w *Worker) opened(req *task.Request) (*part.Document, error) {
	doc, err := w.read(req.File)
	if err != nil {
		return nil, err
	}
	if req.Until != "" {
		i := slices.IndexFunc(doc.Steps, func(s part.Step) bool { return s.ID == req.Until })
		if i < 0 {
			return nil, &task.Error{Kind: task.Faulty, What: fmt.Sprintf("there is no step %q to build up to", req.Until)}
		}
		doc.Steps = doc.Steps[:i+1]
	}
	return doc, nil
}

// model rebuilds a model with all that can be picked in it.
func (w *Worker) model(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	doc, err := w.opened(req)
	if err != nil {
		return nil, err
	}
	set, err := values(doc, req.Set)
	if err != nil {
		return nil, err
	}
	b, err := w.checker.Rebuilder.RebuildWith(ctx, doc, set, func(done, all int) {
		progress(doc.Steps[min(done, len(doc.Steps)-1)].Title(), float64(done)/float64(all))
	})
	if err != nil {
		return nil, err
	}
	unit := b.Table.Unit()
	out := &task.Modelled{Unit: doc.Unit, Parameters: []task.ParameterRow{}, Steps: []task.ModelStep{}, Solids: []task.SolidRow{}, Faces: []task.FaceRow{}, Edges: []task.EdgeRow{},
		Corners: []task.CornerRow{}, Sketches: []task.SketchPicture{}, Planes: []task.PlanePicture{}, Notes: []task.NoteRow{}}
	ex := &exercise.Exercise{Unit: doc.Unit}
	driving := b.Table.Driving()
	for _, p := range doc.Parameters {
		q, _ := b.Table.Lookup(p.Name)
		row := task.ParameterRow{Name: p.Name, Text: ex.State(q.Dim, q.Value).Text, Driving: slices.Contains(driving, p.Name), Users: append([]string{}, doc.Users(p.Name)...)}
		if q.Dim == quantity.Number { // a ratio, and no number of places
			row.Text = quantity.FormatDecimal(q.Value, 4)
		}
		row.Dim, row.Number = plain(q, unit)
		out.Parameters = append(out.Parameters, row)
	}
	needs := doc.Depends()
	for i, s := range b.Steps {
		row := task.ModelStep{ID: s.ID, Kind: s.Kind, Name: s.Name, Off: s.Off, Message: s.Warning, Needs: append([]string{}, needs[doc.Steps[i].ID]...), Regions: s.Regions}
		if kind := doc.Steps[i].Declared(); kind != nil {
			row.Gives, row.Repeats = kind.Gives, kind.Repeats
		}
		if s.Err != nil {
			row.Failed, row.Message, row.Remedy = true, s.Err.Why, s.Err.Remedy
		} else if row.Message == "" && s.Hint != nil {
			row.Message, row.Remedy = s.Hint.What, s.Hint.Remedy
		} else if row.Message == "" {
			row.Message = s.Note
		}
		if s.Sketch != nil {
			row.Freedom = w.freedom(s.Sketch)
		}
		out.Steps = append(out.Steps, row)
		if row.Gives == part.GivesSketch && !s.Off {
			if pic, ok := sketchPicture(b, s.ID); ok {
				out.Sketches = append(out.Sketches, pic)
			}
		}
		if f, ok := b.Plane(s.ID); ok {
			out.Planes = append(out.Planes, task.PlanePicture{Step: s.ID, Frame: f})
		}
	}
	for _, n := range b.Notes {
		out.Notes = append(out.Notes, task.NoteRow{Step: n.Step, Text: n.Text, At: n.At})
	}
	if b.Solid == nil {
		return out, nil
	}
	return out, w.shapes(doc, b, req, out)
}

// freedom counts the freedoms of a solved sketch. A rebuild solves without looking
// for them; the count is kept as long as the rebuilt state is.
func (w *Worker) freedom(sol *sketch.Solution) int {
	if n, ok := w.freedoms[sol]; ok {
		return n
	}
	if w.freedoms == nil || len(w.freedoms) > 1000 {
		w.freedoms = map[*sketch.Solution]int{}
	}
	sol.Analyse()
	w.freedoms[sol] = sol.Freedom
	return sol.Freedom
}

// plain gives a quantity in the document's unit, in degrees or as it is.
func plain(q quantity.Quantity, unit quantity.Unit) (string, float64) {
	switch q.Dim {
	case quantity.Length:
		return "length", q.Value / unit.Factor
	case quantity.Angle:
		return "angle", q.Value * 180 / math.Pi
	}
	return "number", q.Value
}

// shapes fills in what belongs to the solids.
func (w *Worker) shapes(doc *part.Document, b *part.Build, req *task.Request, out *task.Modelled) error {
	k := w.checker.Rebuilder.Kernel()
	box, err := k.Bounds(b.Solid.Shape)
	if err != nil {
		return err
	}
	out.Box = &box
	for _, body := range b.Bodies {
		row := task.SolidRow{Of: body.ID, Name: body.ID, Lumps: body.Shape.Solids()}
		p, err := k.Props(body.Shape)
		if err != nil {
			return err
		}
		row.Volume, row.Area, row.Centroid = p.Volume, p.Area, p.Centroid
		if row.Box, err = k.Bounds(body.Shape); err != nil {
			return err
		}
		for _, n := range doc.Solids {
			if n.Of != body.ID {
				continue
			}
			if n.Name != "" {
				row.Name = n.Name
			}
			row.Material = n.Material
			for _, m := range standards.Materials {
				if m.Name == n.Material {
					row.Density = m.Density
				}
			}
			if n.Density != "" {
				if row.Density, err = b.Table.Eval(n.Density, quantity.Number); err != nil {
					return &task.Error{Kind: task.Faulty, What: fmt.Sprintf("the density of %s: %v", row.Name, err), Remedy: "give a number, in kg/m³"}
				}
			}
			row.Mass = row.Density * p.Volume * 1e-9
		}
		out.Solids = append(out.Solids, row)
	}
	refs := b.References()
	faces, edges := b.Solid.Shape.Faces(), b.Solid.Shape.Edges()
	if err := b.Solid.Shape.Err(); err != nil {
		return err
	}
	if len(refs.Faces) != len(faces) || len(refs.Edges) != len(edges) {
		return errors.New("the faces of the solids are not those of the whole") // they are laid side by side
	}
	for i, f := range faces {
		out.Faces = append(out.Faces, task.FaceRow{Name: refs.Faces[i], Kind: string(f.Kind), Solid: refs.Solids[i], Words: faceWords(f, doc.Unit)})
	}
	for i, v := range b.Solid.Shape.Vertices() {
		row := task.CornerRow{At: v, Index: i}
		if i < len(refs.Corners) {
			row.Ref = refs.Corners[i]
		}
		out.Corners = append(out.Corners, row)
	}
	if out.Mesh, err = k.Mesh(b.Solid.Shape, inspect.Deflection(box), inspect.MeshAngle); err != nil {
		return err
	}
	// A hundredth of a micrometre is more than a screen shows; shorter numbers travel
	// faster.
	shorten(out.Mesh.Vertices)
	for _, l := range out.Mesh.Lines {
		shorten(l)
	}
	// The lines of the mesh are the edges but seams and apexes, in order.
	line := 0
	for i, e := range edges {
		if e.Seam || e.Degenerate || line >= len(out.Mesh.Lines) {
			continue
		}
		row := task.EdgeRow{Ref: refs.Edges[i], Kind: string(e.Kind), Run: out.Mesh.Lines[line], Words: edgeWords(e, doc.Unit), Index: i}
		line++
		if e.Smooth {
			row.Kind = "smooth"
		}
		out.Edges = append(out.Edges, row)
	}
	out.Mesh.Lines = [][]float64{}
	if h, ok := b.Handle(req.Until); ok {
		out.Handle = &task.Handle{Path: h.Path, At: h.At, Along: h.Along, Scale: h.Scale, Angle: h.Angle}
	}
	return nil
}

func shorten(list []float64) {
	for i, v := range list {
		list[i] = math.Round(v*1e5) / 1e5
	}
}

func length(mm float64, unit string) string {
	u, err := quantity.LengthUnit(unit)
	if err != nil {
		return quantity.FormatDecimal(mm, 4) + " mm"
	}
	return quantity.FormatDecimal(mm/u.Factor, 4) + " " + unit
}

func faceWords(f solid.Face, unit string) string {
	switch f.Kind {
	case solid.PlaneFace:
		return "flat face"
	case solid.CylinderFace:
		what := "cylinder"
		if f.Hollow {
			what = "bore"
		}
		return what + ", diameter " + length(2*f.Radius, unit)
	case solid.ConeFace:
		return "cone, " + quantity.FormatDecimal(2*f.HalfAngle*180/math.Pi, 2) + " deg"
	case solid.SphereFace:
		return "sphere, radius " + length(f.Radius, unit)
	case solid.TorusFace:
		return "torus, radius " + length(f.MinorRadius, unit)
	}
	return "free face"
}

func edgeWords(e solid.Edge, unit string) string {
	switch e.Kind {
	case solid.LineEdge:
		return "straight edge, " + length(e.Length, unit)
	case solid.CircleEdge:
		return "round edge, radius " + length(e.Radius, unit)
	}
	return "curved edge, " + length(e.Length, unit)
}

func sketchPicture(b *part.Build, id string) (task.SketchPicture, bool) {
	f, sol, regions, ok := b.PlacedSketch(id)
	if !ok {
		return task.SketchPicture{}, false
	}
	pic := task.SketchPicture{Step: id, Frame: f, Curves: []task.CurvePicture{}, Points: []task.PointPicture{}, Regions: []task.RegionPicture{}}
	for i := range sol.Curves {
		c := &sol.Curves[i]
		lo, hi := c.Range()
		run := []float64{}
		for _, p := range c.Samples(lo, hi, math.Max(c.Radius, 1)/150) {
			v := f.Point(p.X, p.Y, 0)
			run = append(run, v[:]...)
		}
		pic.Curves = append(pic.Curves, task.CurvePicture{ID: c.ID, Guide: c.Guide, Kind: c.Kind, Run: run})
	}
	var ids []string
	for p := range sol.Points {
		ids = append(ids, p)
	}
	slices.Sort(ids)
	for _, p := range ids {
		at := sol.Points[p]
		pic.Points = append(pic.Points, task.PointPicture{ID: p, At: f.Point(at.X, at.Y, 0)})
	}
	for i := range regions {
		r := &regions[i]
		row := task.RegionPicture{Bounds: r.BoundsAmong(regions)}
		for _, loop := range append([]sketch.Loop{r.Outer}, r.Holes...) {
			run := []float64{}
			for _, g := range loop {
				for _, p := range g.Samples(math.Max(g.Radius, 1) / 150) {
					run = append(run, p.X, p.Y)
				}
			}
			row.Loops = append(row.Loops, run)
		}
		pic.Regions = append(pic.Regions, row)
	}
	return pic, true
}

// measure measures one or two picks, from the kernel's own geometry.
func (w *Worker) measure(ctx context.Context, req *task.Request) (any, error) {
	doc, err := w.opened(req)
	if err != nil {
		return nil, err
	}
	b, err := w.checker.Rebuilder.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	if b.Solid == nil {
		return nil, &task.Error{Kind: task.Faulty, What: "there is no solid to measure", Remedy: "make one first"}
	}
	s := b.Solid.Shape
	faces, edges, corners := s.Faces(), s.Edges(), s.Vertices()
	if err := s.Err(); err != nil {
		return nil, err
	}
	out := &task.Measured{Rows: []task.MeasuredRow{}}
	size := func(label string, mm float64) {
		out.Rows = append(out.Rows, task.MeasuredRow{Label: label, First: quantity.FormatDecimal(mm, 6) + " mm", Other: quantity.FormatDecimal(mm/25.4, 6) + " in"})
	}
	angle := func(label string, rad float64) {
		out.Rows = append(out.Rows, task.MeasuredRow{Label: label, First: quantity.FormatDecimal(rad*180/math.Pi, 6) + " deg"})
	}
	place := func(label string, v solid.Vec) {
		in := v.Scale(1 / 25.4)
		f := func(v solid.Vec, u string) string {
			return fmt.Sprintf("%s, %s, %s %s", quantity.FormatDecimal(v[0], 4), quantity.FormatDecimal(v[1], 4), quantity.FormatDecimal(v[2], 4), u)
		}
		out.Rows = append(out.Rows, task.MeasuredRow{Label: label, First: f(v, "mm"), Other: f(in, "in")})
	}
	var picks []solid.Pick
	var dirs []solid.Vec
	for _, ref := range req.Picks {
		what, i, ok := ref.Number()
		if !ok || ref.Component != "" {
			return nil, &task.Error{Kind: task.Faulty, What: fmt.Sprintf("%q cannot be measured", ref), Remedy: "pick a face, an edge or a corner"}
		}
		kind, n := solid.PickFace, len(faces)
		switch what {
		case address.Edge:
			kind, n = solid.PickEdge, len(edges)
		case address.Corner:
			kind, n = solid.PickVertex, len(corners)
		}
		if i >= n {
			return nil, &task.Error{Kind: task.Faulty, What: "what was picked is not there any more", Remedy: "pick it again"}
		}
		picks = append(picks, solid.Pick{Shape: s, Kind: kind, Index: i})
		var d solid.Vec
		switch {
		case kind == solid.PickFace:
			d = faces[i].Axis
		case kind == solid.PickEdge && edges[i].Kind != solid.OtherEdge:
			d = edges[i].Axis
		}
		dirs = append(dirs, d)
	}
	switch len(picks) {
	case 1:
		p := picks[0]
		switch p.Kind {
		case solid.PickFace:
			f := faces[p.Index]
			switch f.Kind {
			case solid.CylinderFace, solid.SphereFace:
				size("diameter", 2*f.Radius)
				size("radius", f.Radius)
			case solid.TorusFace:
				size("radius", f.MinorRadius)
				size("radius of the ring", f.Radius)
			case solid.ConeFace:
				angle("full angle", 2*f.HalfAngle)
			}
			out.Rows = append(out.Rows, task.MeasuredRow{Label: "area", First: quantity.FormatDecimal(f.Area, 4) + " mm²", Other: quantity.FormatDecimal(f.Area/645.16, 6) + " in²"})
		case solid.PickEdge:
			e := edges[p.Index]
			size("length", e.Length)
			if e.Kind == solid.CircleEdge {
				size("radius", e.Radius)
				size("diameter", 2*e.Radius)
				place("centre", e.Center)
			}
		default:
			place("place", corners[p.Index])
		}
	case 2:
		d, from, to, err := w.checker.Rebuilder.Kernel().Distance(picks[0], picks[1])
		if err != nil {
			return nil, err
		}
		size("distance", d)
		delta := to.Sub(from)
		for i, name := range []string{"along X", "along Y", "along Z"} {
			size(name, math.Abs(delta[i]))
		}
		if dirs[0].Norm() > 0 && dirs[1].Norm() > 0 {
			a := dirs[0].Angle(dirs[1])
			angle("angle", math.Min(a, math.Pi-a))
		}
		if a, ok := axisOf(picks[0], faces, edges); ok {
			if c, ok := axisOf(picks[1], faces, edges); ok && a[1].Parallel(c[1], 1e-9) {
				size("between the axes", solid.FromAxis(c[0], a[0], a[1]).Norm())
			}
		}
		out.From, out.To = &from, &to
	default:
		return nil, &task.Error{Kind: task.Faulty, What: "one or two picks are measured", Remedy: "pick a face, an edge or a corner, or two of them"}
	}
	return out, nil
}

func axisOf(p solid.Pick, faces []solid.Face, edges []solid.Edge) ([2]solid.Vec, bool) {
	if p.Kind == solid.PickFace && (faces[p.Index].Kind == solid.CylinderFace || faces[p.Index].Kind == solid.ConeFace || faces[p.Index].Kind == solid.TorusFace) {
		return [2]solid.Vec{faces[p.Index].Origin, faces[p.Index].Axis}, true
	}
	if p.Kind == solid.PickEdge && edges[p.Index].Kind == solid.CircleEdge {
		return [2]solid.Vec{edges[p.Index].Center, edges[p.Index].Axis}, true
	}
	return [2]solid.Vec{}, false
}

// edit changes a document by a command.
func edit(req *task.Request) (any, error) {
	doc, err := documents.ReadModel(req.File)
	if err != nil {
		return nil, err
	}
	c := req.Command
	if c == nil {
		return nil, &task.Error{Kind: task.Faulty, What: "no command was given"}
	}
	out := &task.Edited{Document: doc}
	switch c.Do {
	case "fresh":
		out.ID = doc.Fresh(c.Kind)
	case "move":
		err = doc.Move(c.ID, c.To)
		out.Said = "moved"
	case "remove":
		var gone []string
		gone, err = doc.Remove(c.ID, c.Along)
		out.Said = fmt.Sprintf("%d steps removed", len(gone))
		if len(gone) == 1 {
			out.Said = "the step is removed"
		}
	case "rename":
		err = doc.RenameParameter(c.ID, c.Name)
		out.Said = "renamed everywhere"
	case "import-parameters":
		out.Said, err = importParameters(doc, c.Text)
	default:
		return nil, &task.Error{Kind: task.Faulty, What: fmt.Sprintf("%q is not a command", c.Do)}
	}
	var needed *part.NeededError
	if errors.As(err, &needed) {
		return nil, &task.Error{Kind: task.Needed, What: needed.Error()}
	}
	var de *part.DocumentError
	if errors.As(err, &de) {
		return nil, &task.Error{Kind: task.Faulty, What: de.Message}
	}
	return out, err
}

// importParameters reads a table of name, formula, note, least and most, as the
// export writes it: values of names that are there change, others are added.
func importParameters(doc *part.Document, text string) (string, error) {
	r := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\ufeff")))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	if err != nil {
		return "", &task.Error{Kind: task.Faulty, What: "the table is not readable: " + err.Error(), Remedy: "save it as CSV with commas"}
	}
	added, changed := 0, 0
	for n, row := range rows {
		for i := range row {
			row[i] = strings.TrimSpace(table.Plain(row[i]))
		}
		if n == 0 && len(row) > 1 && row[0] == "name" || len(row) == 1 && row[0] == "" {
			continue
		}
		row = append(row, "", "", "", "")
		p := quantity.Parameter{Name: row[0], Formula: row[1], Note: row[2], Least: row[3], Most: row[4]}
		if err := quantity.CheckName(p.Name); err != nil {
			return "", &task.Error{Kind: task.Faulty, What: fmt.Sprintf("row %d: %q: %v", n+1, p.Name, err), Remedy: "columns are name, formula, note, least, most"}
		}
		if _, err := quantity.Parse(p.Formula); err != nil {
			return "", &task.Error{Kind: task.Faulty, What: fmt.Sprintf("row %d (%s): %v", n+1, p.Name, err), Remedy: "columns are name, formula, note, least, most"}
		}
		i := slices.IndexFunc(doc.Parameters, func(q quantity.Parameter) bool { return q.Name == p.Name })
		switch {
		case i < 0:
			doc.Parameters = append(doc.Parameters, p)
			added++
		case doc.Parameters[i] != p:
			doc.Parameters[i] = p
			changed++
		}
	}
	return fmt.Sprintf("%d parameters added, %d changed", added, changed), nil
}

// changes compares two states of a model.
func changes(req *task.Request) (any, error) {
	after, err := documents.ReadModel(req.File)
	if err != nil {
		return nil, err
	}
	before, err := documents.ReadModel(req.Other)
	if err != nil {
		return nil, err
	}
	return part.Changes(before, after), nil
}

// look gathers the findings of sketches and steps.
func (w *Worker) look(ctx context.Context, req *task.Request) (any, error) {
	doc, err := w.opened(req)
	if err != nil {
		return nil, err
	}
	b, err := w.checker.Rebuilder.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	out := &task.Looked{Findings: []task.LookFinding{}}
	for _, f := range part.Advice(doc, b) {
		out.Findings = append(out.Findings, task.LookFinding{Step: f.Step, What: f.What, Remedy: f.Remedy})
	}
	_, sketches, err := check.Health(doc, b)
	if err != nil {
		return nil, err
	}
	for _, s := range sketches {
		for _, n := range s.Notes {
			out.Findings = append(out.Findings, task.LookFinding{Step: s.Step, What: n.What, Remedy: n.Remedy})
		}
	}
	return out, nil
}

// reachOf finds the interval of a parameter.
func (w *Worker) reachOf(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	doc, err := w.opened(req)
	if err != nil {
		return nil, err
	}
	b, err := w.checker.Rebuilder.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(doc.Parameters, func(p quantity.Parameter) bool { return p.Name == req.Name })
	if i < 0 {
		return nil, &task.Error{Kind: task.Faulty, What: fmt.Sprintf("there is no parameter %q", req.Name)}
	}
	p := doc.Parameters[i]
	now, _ := b.Table.Lookup(p.Name)
	// From a quarter to four times, where the maker has said nothing else: a size that is drawn
	// at 23 may well hold up to 50.
	lo, hi := now.Value-0.75*math.Abs(now.Value), now.Value+3*math.Abs(now.Value)
	for f, to := range map[string]*float64{p.Least: &lo, p.Most: &hi} {
		if f == "" {
			continue
		}
		if *to, err = b.Table.Eval(f, now.Dim); err != nil {
			return nil, &task.Error{Kind: task.Faulty, What: fmt.Sprintf("the range of %s: %v", p.Name, err)}
		}
	}
	least, most, err := robust.Hold(ctx, w.checker.Rebuilder, doc, p.Name, math.Min(lo, now.Value), math.Max(hi, now.Value), req.Share, func(done float64) { progress("trying "+p.Name, done) })
	if err != nil {
		if ctx.Err() != nil {
			return nil, err
		}
		return nil, &task.Error{Kind: task.Faulty, What: err.Error()}
	}
	show := func(e robust.End) task.End {
		_, v := plain(quantity.Quantity{Value: e.At, Dim: now.Dim}, b.Table.Unit())
		return task.End{At: v, Found: e.Found, Why: e.Why}
	}
	_, at := plain(now, b.Table.Unit())
	return &task.Reached{Name: p.Name, At: at, Least: show(least), Most: show(most)}, nil
}

// export gives a file of the model: STEP, or a mesh that the caller writes.
func (w *Worker) export(ctx context.Context, req *task.Request) (any, error) {
	doc, err := w.opened(req)
	if err != nil {
		return nil, err
	}
	b, err := w.checker.Rebuilder.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	if b.Solid == nil {
		return nil, &task.Error{Kind: task.Faulty, What: "the model makes no solid to export", Remedy: "put its failed steps right first"}
	}
	k := w.checker.Rebuilder.Kernel()
	out := &task.Exported{Name: doc.Name}
	if schema, ok := map[string]solid.Schema{"ap214": solid.AP214, "ap242": solid.AP242}[req.Name]; ok {
		var list []solid.Titled
		for _, body := range b.Bodies {
			t := solid.Titled{Shape: body.Shape, Name: body.ID}
			if len(b.Bodies) == 1 {
				t.Name = doc.Name
			}
			for _, n := range doc.Solids {
				if n.Of == body.ID && n.Name != "" {
					t.Name = n.Name
				}
			}
			list = append(list, t)
		}
		out.Data, err = k.WriteSTEP(list, doc.Name, schema)
		return out, err
	}
	box, err := k.Bounds(b.Solid.Shape)
	if err != nil {
		return nil, err
	}
	out.Mesh, err = k.Mesh(b.Solid.Shape, inspect.Deflection(box)/4, inspect.MeshAngle/2)
	return out, err
}

// follow finds how far an attempt follows the reference.
func (w *Worker) follow(ctx context.Context, req *task.Request, progress func(string, float64)) (any, error) {
	ex, ref, err := w.exercise(req)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error()}
	}
	att, err := documents.Recognise(req.Name, req.File)
	if err != nil {
		return nil, err
	}
	if att.Document == nil || ref.Document == nil {
		return nil, &task.Error{Kind: task.Faulty, What: "sizes are varied in model documents only", Remedy: "a STEP file has no sizes to vary"}
	}
	s := &robust.Sweeper{Rebuilder: w.checker.Rebuilder, Exercise: ex, Reference: ref.Document, Attempt: att.Document, Cache: w.checker.Sweeps}
	rows, together, err := s.Follow(ctx, req.Share, func(d float64) { progress("varying the sizes", d) })
	if err != nil {
		return nil, err
	}
	return &task.FollowedAll{Parameters: rows, WhatIfs: together}, nil
}

// had lists the characteristics that a model under work has already: those that
// would be in if it were handed in now. Nothing else of the check leaves here.
func (w *Worker) had(ctx context.Context, req *task.Request) (any, error) {
	ex, ref, err := w.exercise(req)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error()}
	}
	doc, err := documents.ReadModel(req.File)
	if err != nil {
		return nil, err
	}
	list, err := w.checker.Had(ctx, ex, ref, doc)
	if err != nil {
		return nil, err
	}
	return list, nil
}
