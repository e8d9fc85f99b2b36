package check

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// What comes in is taken for what it was meant to be, as far as that is certain,
// and everything that was done to it is noted: a check that silently repairs
// would mark a part that nobody can use.

// taken is what the intake gives: the attempt's solid, described, and what there is to say of the
// file and of the steps that make it.
type taken struct {
	k        solid.Kernel
	ex       *exercise.Exercise
	attempt  report.Attempt
	shape    solid.Shape
	geo      *solid.Geometry
	steps    []report.Step
	sketches []report.Sketch
	pieces   *pieces // where there are others in the file than are measured
	// uncertainty is how closely what meets in the file does so, in millimetres.
	uncertainty float64
}

// intake turns the attempt into a solid, or says why it is none.
//
// Files and models meet here: from now on both are a described solid.
func (f *frame) intake(ctx context.Context, att Attempt, progress func(string, float64)) (*taken, error) {
	t := &taken{k: f.k, ex: f.ex, steps: []report.Step{}, sketches: []report.Sketch{}}
	t.attempt.Name = att.Name
	var b *part.Build
	var err error
	if att.Document == nil {
		err = t.file(ctx, att.STEP)
	} else {
		progress(Rebuilding, 0)
		b, err = t.model(ctx, f.Rebuilder, att.Document)
	}
	if err != nil {
		return nil, err
	}
	if err := t.tidy(); err != nil {
		return nil, err
	}
	if b != nil {
		t.geo = noted(t.geo, att.Document, b)
	}
	t.attempt.Solids, t.attempt.Faces = t.geo.Solids, len(t.geo.Faces)
	if t.pieces != nil {
		t.attempt.Solids = t.pieces.count
	}
	return t, nil
}

// isReference tells that an attempt is the reference itself: the same file of geometry, or a document with the same
// parameters and steps to the last place of what is drawn, whatever it is called.
func isReference(ref Reference, att Attempt) bool {
	if ref.Document == nil || att.Document == nil {
		return len(ref.STEP) > 0 && bytes.Equal(ref.STEP, att.STEP)
	}
	bare := func(d *part.Document) []byte {
		out := *d
		out.Name, out.Note, out.Solids = "", "", nil
		data, err := json.Marshal(&out)
		if err != nil {
			return nil
		}
		return data
	}
	one := bare(ref.Document)
	return one != nil && bytes.Equal(one, bare(att.Document))
}

// model rebuilds a model document.
//
// A model whose first step fails makes no solid: that step is named, not the
// last one.
func (r *taken) model(ctx context.Context, rb *part.Rebuilder, doc *part.Document) (*part.Build, error) {
	r.attempt.Kind = "model"
	b, err := rb.Rebuild(ctx, doc, nil)
	if err != nil {
		if ctx.Err() != nil {
			return nil, err
		}
		return nil, &Unusable{"the model cannot be rebuilt: " + err.Error(),
			"put this right in the document and hand it in again"}
	}
	if r.steps, r.sketches, err = Health(doc, b); err != nil {
		return nil, err
	}
	if b.Solid == nil {
		why := "it has no step that makes one"
		if f := b.Failed(); len(f) > 0 {
			why = f[0].Err.Error()
		}
		return nil, &Unusable{"the model makes no solid: " + why, "put that step right and hand it in again"}
	}
	if err := r.k.Check(b.Solid.Shape); err != nil {
		r.steps = append(r.steps, report.Step{ID: "part", Name: "the part", Kind: "step", Unsound: true,
			Message: "the solid is not sound: " + err.Error()})
	}
	r.shape = b.Solid.Shape
	return b, nil
}

// noted adds to a described solid what a model document says beside its shape: threads and materials.
//
// The thread of a face is put with its axis and place, as faces are matched by
// these.
func noted(g *solid.Geometry, doc *part.Document, b *part.Build) *solid.Geometry {
	out := *g
	out.Noted = true
	faces := b.Solid.Shape.Faces()
	for _, n := range b.Notes {
		if n.Kind != "thread" {
			continue
		}
		for i, names := range b.Solid.Names {
			if slices.ContainsFunc(names, func(x string) bool { return x == n.Face || strings.HasSuffix(x, ":"+n.Face) }) {
				out.Threads = append(out.Threads, solid.Thread{At: faces[i].Origin, Axis: faces[i].Axis,
					Radius: faces[i].Radius, Text: n.Text})
			}
		}
	}
	for _, b := range b.Bodies {
		for _, s := range doc.Solids {
			if s.Of == b.ID && s.Material != "" {
				out.Materials = append(out.Materials, s.Material)
			}
		}
	}
	return &out
}

// file reads a STEP file.
//
// Surfaces alone may be a solid that fell apart on the way; curves beside a
// solid are a slip that does no harm. An assembly where a part is due is
// refused, because which of its components is meant would be a guess.
func (r *taken) file(ctx context.Context, data []byte) error {
	r.attempt.Kind = "step"
	content, err := r.k.ReadSTEP(ctx, data)
	if err != nil {
		if ctx.Err() != nil {
			return err
		}
		return &Unusable{"the STEP file cannot be read: " + err.Error(), "export it again and compare the sizes of the files"}
	}
	a := &r.attempt
	a.Schema, a.FileUnit, a.Shells, a.Components = content.Schema, content.Unit, content.Shells, content.Components
	r.uncertainty = content.Uncertainty
	a.Names, a.Colours = content.Names, content.Colours
	if content.Solids == 0 {
		switch {
		case content.Loose != nil:
			if content.Shape, err = r.sewn(content); err != nil {
				return err
			}
			a.Shells = 0
		case content.Wires > 0:
			return &Unusable{"the STEP file holds curves only, no solid", "export the solid and not the sketch"}
		default:
			return &Unusable{"the STEP file holds no geometry", "export the part and not an empty document"}
		}
	} else if content.Wires > 0 {
		r.note("curves", fmt.Sprintf("it holds %s beside the solid", quantity.Count(content.Wires, "curve", "curves")),
			"export the solid alone, without sketches")
	}
	if content.Components > 1 && r.ex.Solids <= 1 && content.Solids > 1 {
		return &Unusable{fmt.Sprintf("the STEP file holds an assembly of %d components, and a single part is due",
			content.Components), "export the part by itself"}
	}
	if err := r.k.Check(content.Shape); err != nil {
		r.steps = append(r.steps, report.Step{ID: "file", Name: "the file", Kind: "step", Unsound: true,
			Message: "the solid is not sound: " + err.Error()})
	}
	if err := r.stated(content); err != nil {
		return err
	}
	r.shape, _, _, err = r.k.Simplify(content.Shape)
	return err
}

// asStated is how far a part may be from what its file says that it measures: what programs agree
// on when they integrate the same faces (common practice, no source).
const asStated = 1e-3

// stated compares parts with what the file says that they measure: where they differ, the file was
// damaged on the way, or is read otherwise than it was meant.
//
// Files may carry the volume that the sending program computed (a validation
// property of ISO 10303-42 and the recommended practices for it): a difference
// shows damage that nothing else would.
func (r *taken) stated(content *solid.Content) error {
	for _, p := range content.Parts {
		if p.Volume == 0 {
			continue
		}
		m, err := r.k.Props(p.Shape)
		if err != nil {
			return err
		}
		if math.Abs(m.Volume-p.Volume) > asStated*p.Volume {
			what := fmt.Sprintf("the file says that %q has a volume of %.6g mm³, and the solid in it has %.6g mm³", p.Name,
				p.Volume, m.Volume)
			r.note("stated", what, "export the part again, and compare the volume there with that of your model")
		}
	}
	return nil
}

// closable is the widest gap between surfaces in mm that is closed whatever the file says of its own uncertainty: a
// micrometre, which no size of a sheet asks for.
const closable = 1e-3

// sewn makes a solid of surfaces that fail to close by no more than the file's own
// uncertainty, or a micrometre.
//
// Two ends that are each uncertain by u may miss one another by 2u at most; 1.5u
// is what is closed. The gap that is told is the smallest power of ten at which they close.
func (r *taken) sewn(content *solid.Content) (solid.Shape, error) {
	fine := quantity.GaugeFormat(quantity.Millimetre)
	widest := math.Max(1.5*content.Uncertainty, closable)
	open := 0
	for gap := 1e-7; ; gap = math.Min(10*gap, widest) {
		shape, left, err := r.k.Sew(content.Loose, gap)
		if err != nil {
			return nil, err
		}
		switch {
		case shape != nil && gap == 1e-7:
			r.note("surfaces", "it holds surfaces that close, and no solid", "export the solid and not its faces")
			return shape, nil
		case shape != nil:
			r.note("gap", fmt.Sprintf("its surfaces miss one another by up to %s; they were closed for the check",
				fine.Length(gap)), "export the solid with a finer accuracy")
			return shape, nil
		}
		if open = left; gap >= widest {
			break
		}
	}
	return nil, &Unusable{fmt.Sprintf("the STEP file holds %s and no solid; %s open, with gaps wider than %s",
		quantity.Count(content.Shells, "open surface", "open surfaces"),
		quantity.Count(open, "edge stays", "edges stay"), fine.Length(widest)),
		"close the surfaces into a solid, or export the solid and not its faces"}
}

// note keeps what the intake has to say of the file.
func (r *taken) note(kind, what, remedy string) {
	r.attempt.Notes = append(r.attempt.Notes, report.IntakeNote{Kind: kind, What: what, Remedy: remedy})
}

// leftOver is the share of the largest solid's volume below which a solid that the sheet
// does not ask for is one that was forgotten in the file.
const leftOver = 1e-4

// tidy describes the attempt's solid. Where there are more solids than the sheet asks for,
// copies in one place and forgotten crumbs are left out of what is measured, and bodies
// that touch are measured as the one that they should be; their number stays what it is in
// the file.
//
// A copy in the same place counts double in the volume of the file, and a crumb
// shows in the number of solids only. Both are left out of measuring and told.
func (r *taken) tidy() error {
	shape := r.shape
	var err error
	if r.geo, err = solid.Describe(r.k, shape, nil); err != nil {
		return err
	}
	count := r.geo.Solids
	if count <= max(1, r.ex.Solids) {
		return inspect.Recognise(r.geo, r.k, shape, inspect.Exact(r.uncertainty))
	}
	list, err := r.k.Split(shape)
	if err != nil {
		return err
	}
	props := make([]solid.Props, len(list))
	largest := 0.0
	for i, s := range list {
		if props[i], err = r.k.Props(s); err != nil {
			return err
		}
		largest = math.Max(largest, props[i].Volume)
	}
	var keep []solid.Shape
	var kept []solid.Props
	copies, crumbs, crumb := 0, 0, 0.0
	for i, s := range list {
		twice := false
		for _, p := range kept {
			twice = twice || sameSolid(p, props[i])
		}
		switch {
		case twice:
			copies++
		case props[i].Volume < leftOver*largest:
			crumbs++
			crumb += props[i].Volume
		default:
			keep, kept = append(keep, s), append(kept, props[i])
		}
	}
	if copies > 0 {
		r.note("copy", quantity.Count(copies, "solid is a copy", "solids are copies")+" in the same place as another one",
			"remove the copies")
	}
	if crumbs > 0 {
		r.note("left-over", fmt.Sprintf("left over: %s of %.3g mm³ in all",
			quantity.Count(crumbs, "tiny solid", "tiny solids"), crumb),
			"remove them: they are what a cut or an unfinished step left")
	}
	if len(keep) < len(list) {
		if shape = keep[0]; len(keep) > 1 {
			if shape, _, err = r.k.Compound(keep); err != nil {
				return err
			}
		}
	}
	r.pieces = &pieces{count: count}
	if r.pieces.props, err = r.k.Props(shape); err != nil {
		return err
	}
	if len(keep) > max(1, r.ex.Solids) {
		if shape, err = r.joined(shape, keep); err != nil {
			return err
		}
	}
	if r.geo, err = solid.Describe(r.k, shape, nil); err != nil {
		return err
	}
	r.shape = shape
	return inspect.Recognise(r.geo, r.k, shape, inspect.Exact(r.uncertainty))
}

// sameSolid tells whether two solids are one and the same.
//
// Volume, area, centroid and inertia agree to within a millionth: nothing that
// differs in shape does.
func sameSolid(a, b solid.Props) bool {
	size := math.Cbrt(b.Volume)
	if math.Abs(a.Volume-b.Volume) > 1e-6*b.Volume || math.Abs(a.Area-b.Area) > 1e-6*b.Area ||
		a.Centroid.Distance(b.Centroid) > 1e-5*size {
		return false
	}
	for i := range 3 {
		if a.Inertia[i].Distance(b.Inertia[i]) > 1e-5*b.Inertia[i].Norm() {
			return false
		}
	}
	return true
}

// joined unites solids that touch or run into one another; where none do, they stay as they are.
//
// What is measured is the part that they are together: faces in which they only touch are no surface
// of it. That they were never united is told, and shows in the number of solids.
func (r *taken) joined(shape solid.Shape, list []solid.Shape) (solid.Shape, error) {
	touch := false
	sum := 0.0
	for i := range list {
		p, err := r.k.Props(list[i])
		if err != nil {
			return nil, err
		}
		sum += p.Volume
		for k := range i {
			d, _, _, err := r.k.Distance(solid.Pick{Shape: list[i], Kind: solid.PickWhole},
				solid.Pick{Shape: list[k], Kind: solid.PickWhole})
			touch = touch || err == nil && d < 1e-6
		}
	}
	if !touch {
		r.note("apart", "its solids do not touch", "one is in the wrong place, or what joins them is missing")
		return shape, nil
	}
	all, _, err := r.k.Boolean(solid.Union, list[0], list[1:])
	if err == nil {
		all, _, _, err = r.k.Simplify(all)
	}
	if err != nil || all.Solids() >= len(list) {
		r.note("touch", "its solids touch along an edge or a corner only", "let them meet in faces, and unite them")
		return shape, nil // they are measured as they are
	}
	p, err := r.k.Props(all)
	if err != nil {
		return nil, err
	}
	// Bodies that run into one another have less volume together than their sum.
	kind, what := "touch", "its solids only touch and were never united"
	if p.Volume < sum*(1-1e-9) {
		kind, what = "overlap", "its solids run into one another and were never united"
	}
	r.note(kind, what, "unite them, so that the part is one solid")
	return all, nil
}
