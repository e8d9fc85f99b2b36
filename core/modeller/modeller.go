// Package modeller is what the modeller asks of a model: to rebuild it with all that can be picked,
// to measure, to change it by rules, to look it over, to find how far a parameter goes, to export it.
package modeller

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"

	"cmp"
	"hammerset/core/check"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/robust"
	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
	"hammerset/core/words"
	"strings"
)

// Modeller answers on one rebuilder. It is not safe for concurrent use.
//
// It keeps the last rebuilt state, so that moving a slider rebuilds what follows
// from it and not the whole model.
type Modeller struct {
	Rebuilder *part.Rebuilder
	freedoms  map[*sketch.Solution]int // of sketches that were shown
}

// Refused is a request that cannot be met: why, and what to do.
//
// Both parts are sentences for the person who asked; what went wrong inside is
// another kind of error, and is logged.
type Refused struct{ What, Remedy string }

func (e *Refused) Error() string {
	if e.Remedy == "" {
		return e.What
	}
	return e.What + "; " + e.Remedy
}

// Model rebuilds a model, with other values of parameters where they are given, with all that can be
// picked in it, and with the handle of the step that is being edited.
//
// A step that failed, one that warns and one that hints have their message in
// one place each, in this order of weight. The picture is of the steps that did
// not fail: a model that is half broken can be seen and put right.
func (m *Modeller) Model(ctx context.Context, doc *part.Document, texts map[string]string, edited string,
	progress func(stage string, done float64)) (*Modelled, error) {
	set, err := values(doc, texts)
	if err != nil {
		return nil, err
	}
	b, err := m.Rebuilder.RebuildWith(ctx, doc, set, func(done, all int) {
		progress(doc.Steps[min(done, len(doc.Steps)-1)].Title(), float64(done)/float64(all))
	})
	if err != nil {
		return nil, err
	}
	unit := b.Table.Unit()
	out := &Modelled{Unit: doc.Unit, Parameters: []ParameterRow{}, Steps: []ModelStep{}, Solids: []SolidRow{},
		Faces: []FaceRow{}, Edges: []EdgeRow{},
		Corners: []CornerRow{}, Sketches: []SketchPicture{}, Planes: []PlanePicture{}, Notes: []NoteRow{}}
	as := quantity.BoardFormat(unit)
	driving := b.Table.Driving()
	for _, p := range doc.Parameters {
		q, _ := b.Table.Lookup(p.Name)
		row := ParameterRow{Name: p.Name, Text: as.Text(q), Driving: slices.Contains(driving, p.Name),
			Users: append([]string{}, doc.Users(p.Name)...)}
		row.Dim, row.Number = plain(q, unit)
		out.Parameters = append(out.Parameters, row)
	}
	needs, titles := doc.Depends(), doc.Titles()
	for i, s := range b.Steps {
		row := ModelStep{ID: s.ID, Kind: s.Kind, Name: s.Name, Title: titles[s.ID], Off: s.Off, Message: s.Warning,
			Needs: append([]string{}, needs[doc.Steps[i].ID]...), Regions: s.Regions}
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
			row.Freedom = m.freedom(s.Sketch)
		}
		out.Steps = append(out.Steps, row)
		if row.Gives == part.GivesSketch && !s.Off {
			if pic, ok := sketchPicture(b, &doc.Steps[i]); ok {
				out.Sketches = append(out.Sketches, pic)
			}
		}
		if f, ok := b.Plane(s.ID); ok {
			out.Planes = append(out.Planes, PlanePicture{Step: s.ID, Frame: f})
		}
	}
	for _, n := range b.Notes {
		out.Notes = append(out.Notes, NoteRow{Step: n.Step, Text: n.Text, At: n.At})
	}
	if b.Solid == nil {
		return out, nil
	}
	return out, m.shapes(doc, b, edited, out)
}

// freedom counts the freedoms of a solved sketch. A rebuild solves without looking
// for them; the count is kept as long as the rebuilt state is.
//
// Counting freedoms takes a rank of the solver's matrix, which for a large
// sketch is as slow as solving it; a picture is drawn many times for one
// solution.
func (m *Modeller) freedom(sol *sketch.Solution) int {
	if n, ok := m.freedoms[sol]; ok {
		return n
	}
	if m.freedoms == nil || len(m.freedoms) > 1000 {
		m.freedoms = map[*sketch.Solution]int{}
	}
	sol.Analyse()
	m.freedoms[sol] = sol.Freedom
	return sol.Freedom
}

// plain gives a quantity in the document's unit, in degrees or as it is.
//
// Angles are typed and shown in degrees.
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
//
// Everything that can be picked has the number of the face, edge or corner in
// the kernel's order, which is that of the mesh: the interface compares numbers
// only.
func (m *Modeller) shapes(doc *part.Document, b *part.Build, edited string, out *Modelled) error {
	k := m.Rebuilder.Kernel()
	box, err := k.Bounds(b.Solid.Shape)
	if err != nil {
		return err
	}
	out.Box = &box
	for _, body := range b.Bodies {
		row, err := m.solid(doc, b, body)
		if err != nil {
			return err
		}
		out.Solids = append(out.Solids, row)
	}
	if err := picked(doc, b, out); err != nil {
		return err
	}
	if out.Mesh, err = k.Mesh(b.Solid.Shape, inspect.Deflection(box), inspect.MeshAngle); err != nil {
		return err
	}
	runs(b, doc, out)
	if h, ok := b.Handle(edited); ok {
		out.Handle = &Handle{Path: h.Path, At: h.At, Along: h.Along, Scale: h.Scale, Angle: h.Angle}
	}
	return nil
}

// solid gives one solid with its figures and what the document says of it.
//
// The mass in kilograms is the density in kg/m³ times the volume in mm³ times
// 1e-9.
func (m *Modeller) solid(doc *part.Document, b *part.Build, body *part.Body) (SolidRow, error) {
	k := m.Rebuilder.Kernel()
	row := SolidRow{Of: body.ID, Name: cmp.Or(doc.Titles()[body.ID], body.ID), Lumps: body.Shape.Solids()}
	p, err := k.Props(body.Shape)
	if err != nil {
		return row, err
	}
	row.Volume, row.Area, row.Centroid = p.Volume, p.Area, p.Centroid
	if row.Box, err = k.Bounds(body.Shape); err != nil {
		return row, err
	}
	for _, n := range doc.Solids {
		if n.Of == body.ID && n.Name != "" {
			row.Name = n.Name
		}
	}
	if row.Density, row.Material, err = doc.Density(body.ID, b.Table); err != nil {
		return row, &Refused{What: fmt.Sprintf("the density of %s: %v", row.Name, err), Remedy: "give a number, in kg/m³"}
	}
	row.Mass = row.Density * p.Volume * 1e-9
	return row, nil
}

// picked lists the faces and corners that can be picked.
//
// Faces of solids laid side by side are those of the whole in the same order,
// which is checked: names on the wrong faces would let a student pick one and
// get another.
func picked(doc *part.Document, b *part.Build, out *Modelled) error {
	refs := b.References()
	faces, edges := b.Solid.Shape.Faces(), b.Solid.Shape.Edges()
	if err := b.Solid.Shape.Err(); err != nil {
		return err
	}
	if len(refs.Faces) != len(faces) || len(refs.Edges) != len(edges) {
		return errors.New("the faces of the solids are not those of the whole") // they are laid side by side
	}
	called := words.NewNamer(doc.Titles(), doc.Unit).Faces(refs.Faces, faces)
	for i, f := range faces {
		out.Faces = append(out.Faces, FaceRow{Name: refs.Faces[i], Kind: string(f.Kind), Solid: refs.Solids[i],
			Words: called[i]})
	}
	for i, v := range b.Solid.Shape.Vertices() {
		row := CornerRow{At: v, Index: i}
		if i < len(refs.Corners) {
			row.Ref = refs.Corners[i]
		}
		out.Corners = append(out.Corners, row)
	}
	return nil
}

// runs gives the edges that can be picked the lines of the mesh, which are the edges but seams and
// apexes, in order. A hundredth of a micrometre is more than a screen shows; shorter numbers travel
// faster.
func runs(b *part.Build, doc *part.Document, out *Modelled) {
	shorten(out.Mesh.Vertices)
	refs, faces, namer := b.References(), b.Solid.Shape.Faces(), words.NewNamer(doc.Titles(), doc.Unit)
	line := 0
	for i, e := range b.Solid.Shape.Edges() {
		if e.Seam || e.Degenerate || line >= len(out.Mesh.Lines) {
			continue
		}
		shorten(out.Mesh.Lines[line])
		var sides []string
		for _, f := range e.Faces {
			sides = append(sides, namer.Face(refs.Faces[f], faces[f]))
		}
		row := EdgeRow{Ref: refs.Edges[i], Kind: string(e.Kind), Run: out.Mesh.Lines[line], Words: namer.Edge(e, sides...),
			Index: i}
		line++
		if e.Smooth {
			row.Kind = "smooth"
		}
		out.Edges = append(out.Edges, row)
	}
	out.Mesh.Lines = [][]float64{}
}

func shorten(list []float64) {
	for i, v := range list {
		list[i] = math.Round(v*1e5) / 1e5
	}
}

func sketchPicture(b *part.Build, step *part.Step) (SketchPicture, bool) {
	f, sol, regions, ok := b.PlacedSketch(step.ID)
	if !ok {
		return SketchPicture{}, false
	}
	names := called.Geometry(step.Sketched().Geometry(), sol)
	pic := SketchPicture{Step: step.ID, Frame: f, Curves: []CurvePicture{}, Points: []PointPicture{},
		Regions: []RegionPicture{}}
	for i := range sol.Curves {
		c := &sol.Curves[i]
		lo, hi := c.Range()
		run := []float64{}
		for _, p := range c.Samples(lo, hi, math.Max(c.Radius, 1)/150) {
			v := f.Point(p.X, p.Y, 0)
			run = append(run, v[:]...)
		}
		pic.Curves = append(pic.Curves, CurvePicture{ID: c.ID, Words: bare(names.Of(c.ID)), Guide: c.Guide,
			Kind: c.Kind, Run: run})
	}
	var ids []string
	for p := range sol.Points {
		ids = append(ids, p)
	}
	slices.Sort(ids)
	for _, p := range ids {
		at := sol.Points[p]
		pic.Points = append(pic.Points, PointPicture{ID: p, Words: bare(names.Of(p)), At: f.Point(at.X, at.Y, 0)})
	}
	for i := range regions {
		r := &regions[i]
		row := RegionPicture{Bounds: r.BoundsAmong(regions),
			Words: "inside " + quantity.List(names.All(r.Bounds()), 3)}
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

// bare is what something is called, for a list of such things.
func bare(words string) string { return strings.TrimPrefix(words, "the ") }

// Look gathers the findings of sketches and steps.
//
// What a check would find in the sketches is told while there is time to mend
// it.
func (m *Modeller) Look(ctx context.Context, doc *part.Document) (*Looked, error) {
	b, err := m.Rebuilder.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	out := &Looked{Findings: []LookFinding{}}
	for _, f := range part.Advice(doc, b) {
		out.Findings = append(out.Findings, LookFinding{Step: f.Step, What: f.What, Remedy: f.Remedy})
	}
	_, sketches, err := check.Health(doc, b)
	if err != nil {
		return nil, err
	}
	for _, s := range sketches {
		for _, n := range s.Notes {
			out.Findings = append(out.Findings, LookFinding{Step: s.Step, What: n.What, Remedy: n.Remedy})
		}
	}
	return out, nil
}

// Reach finds the interval of a parameter in which the model holds, or one end of it as share says.
//
// A parameter may state its own range; without one it is tried from a quarter to
// four times its value.
func (m *Modeller) Reach(ctx context.Context, doc *part.Document, name string, share robust.Share,
	progress func(stage string, done float64)) (*Reached, error) {
	b, err := m.Rebuilder.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(doc.Parameters, func(p quantity.Parameter) bool { return p.Name == name })
	if i < 0 {
		return nil, &Refused{What: fmt.Sprintf("there is no parameter %q", name)}
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
			return nil, &Refused{What: fmt.Sprintf("the range of %s: %v", p.Name, err)}
		}
	}
	least, most, err := robust.Hold(ctx, m.Rebuilder, doc, p.Name, math.Min(lo, now.Value), math.Max(hi, now.Value), share,
		func(done float64) { progress("trying "+p.Name, done) })
	if err != nil {
		if ctx.Err() != nil {
			return nil, err
		}
		return nil, &Refused{What: err.Error()}
	}
	show := func(e robust.End) End {
		_, v := plain(quantity.Quantity{Value: e.At, Dim: now.Dim}, b.Table.Unit())
		return End{At: v, Found: e.Found, Why: e.Why}
	}
	_, at := plain(now, b.Table.Unit())
	return &Reached{Name: p.Name, At: at, Least: show(least), Most: show(most)}, nil
}
