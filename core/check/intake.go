package check

import (
	"context"
	"fmt"
	"math"

	"hammerset/core/inspect"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// intake turns the attempt into a solid, or says why it is none.
func (r *run) intake(ctx context.Context, att Attempt) (solid.Shape, error) {
	r.report.Attempt.Name = att.Name
	if att.Document == nil {
		return r.intakeSTEP(ctx, att.STEP)
	}
	r.report.Attempt.Kind = "model"
	r.progress(Rebuilding, 0)
	b, err := r.Rebuilder.Rebuild(ctx, att.Document, nil)
	if err != nil {
		if ctx.Err() != nil {
			return nil, err
		}
		return nil, &Unusable{"the model cannot be rebuilt: " + err.Error(), "put this right in the document and hand it in again"}
	}
	if err := r.health(att.Document, b); err != nil {
		return nil, err
	}
	if b.Solid != nil {
		if err := r.k.Check(b.Solid.Shape); err != nil {
			r.report.Steps = append(r.report.Steps, report.Step{ID: "part", Name: "the part", Kind: "step", Unsound: true, Message: "the solid is not sound: " + err.Error()})
		}
	}
	r.build = b
	if b.Solid == nil {
		why := "it has no step that makes one"
		if f := b.Failed(); len(f) > 0 {
			why = f[0].Err.Error()
		}
		return nil, &Unusable{"the model makes no solid: " + why, "put that step right and hand it in again"}
	}
	return b.Solid.Shape, nil
}

func (r *run) intakeSTEP(ctx context.Context, data []byte) (solid.Shape, error) {
	r.report.Attempt.Kind = "step"
	content, err := r.k.ReadSTEP(ctx, data)
	if err != nil {
		if ctx.Err() != nil {
			return nil, err
		}
		return nil, &Unusable{"the STEP file cannot be read: " + err.Error(), "export it again and compare the sizes of the files"}
	}
	a := &r.report.Attempt
	a.Schema, a.FileUnit, a.Shells, a.Components = content.Schema, content.Unit, content.Shells, content.Components
	r.uncertainty = content.Uncertainty
	a.Names, a.Colours = content.Names, content.Colours
	if content.Solids == 0 {
		switch {
		case content.Loose != nil:
			if content.Shape, err = r.sewn(content); err != nil {
				return nil, err
			}
			a.Shells = 0
		case content.Wires > 0:
			return nil, &Unusable{"the STEP file holds curves only, no solid", "export the solid and not the sketch"}
		default:
			return nil, &Unusable{"the STEP file holds no geometry", "export the part and not an empty document"}
		}
	} else if content.Wires > 0 {
		r.note("curves", fmt.Sprintf("it holds %d curve(s) beside the solid", content.Wires), "export the solid alone, without sketches")
	}
	if content.Components > 1 && r.ex.Solids <= 1 && content.Solids > 1 {
		return nil, &Unusable{fmt.Sprintf("the STEP file holds an assembly of %d components, and a single part is due", content.Components), "export the part by itself"}
	}
	if err := r.k.Check(content.Shape); err != nil {
		r.report.Steps = append(r.report.Steps, report.Step{ID: "file", Name: "the file", Kind: "step", Unsound: true, Message: "the solid is not sound: " + err.Error()})
	}
	shape, _, _, err := r.k.Simplify(content.Shape)
	if err != nil {
		return nil, err
	}
	return shape, nil
}

// sewn makes a solid of surfaces that fail to close by no more than the file's own
// uncertainty.
func (r *run) sewn(content *solid.Content) (solid.Shape, error) {
	tolerance := 1.5 * math.Max(content.Uncertainty, 1e-6) // of two ends, both uncertain
	shape, open, err := r.k.Sew(content.Loose, tolerance)
	if err != nil {
		return nil, err
	}
	if shape == nil {
		return nil, &Unusable{fmt.Sprintf("the STEP file holds %d open surface(s) and no solid; %d edge(s) stay open, with gaps wider than the file's own uncertainty of %s mm", content.Shells, open, quantity.FormatDecimal(content.Uncertainty, 6)),
			"close the surfaces into a solid, or export the solid and not its faces"}
	}
	if exact, _, err := r.k.Sew(content.Loose, 1e-7); err == nil && exact != nil {
		r.note("surfaces", "it holds surfaces that close, and no solid", "export the solid and not its faces")
	} else {
		r.note("gap", fmt.Sprintf("its surfaces miss one another by up to %s mm, which is the file's own uncertainty; they were closed for the check", quantity.FormatDecimal(tolerance, 6)), "export the solid with a finer accuracy")
	}
	return shape, nil
}

// note keeps what the intake has to say of the file.
func (r *run) note(kind, what, remedy string) {
	r.report.Attempt.Notes = append(r.report.Attempt.Notes, report.IntakeNote{Kind: kind, What: what, Remedy: remedy})
}

// leftOver is the share of the largest solid's volume below which a solid that the sheet
// does not ask for is one that was forgotten in the file.
const leftOver = 1e-4

// tidy describes the attempt's solid. Where there are more solids than the sheet asks for,
// copies in one place and forgotten crumbs are left out of what is measured, and bodies
// that touch are measured as the one that they should be; their number stays what it is in
// the file.
func (r *run) tidy(shape solid.Shape) (solid.Shape, error) {
	var err error
	if r.att, err = solid.Describe(r.k, shape, nil); err != nil {
		return nil, err
	}
	count := r.att.Solids
	if count <= max(1, r.ex.Solids) {
		return shape, inspect.Recognise(r.att, r.k, shape, r.exact())
	}
	list, err := r.k.Split(shape)
	if err != nil {
		return nil, err
	}
	props := make([]solid.Props, len(list))
	largest := 0.0
	for i, s := range list {
		if props[i], err = r.k.Props(s); err != nil {
			return nil, err
		}
		largest = math.Max(largest, props[i].Volume)
	}
	var keep []solid.Shape
	var kept []solid.Props
	copies, crumbs, crumb := 0, 0, 0.0
	for i, s := range list {
		twice := false
		for _, p := range kept {
			twice = twice || alike(p, props[i])
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
		r.note("copy", quantity.Count(copies, "solid is a copy", "solids are copies")+" in the same place as another one", "remove the copies")
	}
	if crumbs > 0 {
		r.note("left-over", fmt.Sprintf("left over: %s of %.3g mm³ in all", quantity.Count(crumbs, "tiny solid", "tiny solids"), crumb), "remove them: they are what a cut or an unfinished step left")
	}
	if len(keep) < len(list) {
		if shape = keep[0]; len(keep) > 1 {
			if shape, _, err = r.k.Compound(keep); err != nil {
				return nil, err
			}
		}
	}
	var raw solid.Props
	if len(keep) > max(1, r.ex.Solids) {
		if raw, err = r.k.Props(shape); err != nil {
			return nil, err
		}
		if shape, err = r.joined(shape, keep, &raw); err != nil {
			return nil, err
		}
	}
	if r.att, err = solid.Describe(r.k, shape, nil); err != nil {
		return nil, err
	}
	if raw.Volume > 0 {
		r.att.Props = raw
	}
	r.att.Solids = count
	return shape, inspect.Recognise(r.att, r.k, shape, r.exact())
}

// exact is how closely a surface of the attempt must be what it is taken for: within the
// file's own uncertainty, and a tenth of a micrometre to ten of them in any case.
func (r *run) exact() float64 { return math.Min(0.01, math.Max(1e-4, r.uncertainty)) }

// alike tells whether two solids are one and the same.
func alike(a, b solid.Props) bool {
	size := math.Cbrt(b.Volume)
	if math.Abs(a.Volume-b.Volume) > 1e-6*b.Volume || math.Abs(a.Area-b.Area) > 1e-6*b.Area || a.Centroid.Distance(b.Centroid) > 1e-5*size {
		return false
	}
	for i := range 3 {
		if a.Inertia[i].Distance(b.Inertia[i]) > 1e-5*b.Inertia[i].Norm() {
			return false
		}
	}
	return true
}

// joined unites solids that touch or run into one another; where none do, they stay as
// they are. raw has the figures of the solids as they are; where they overlap it becomes
// those of what they are together.
func (r *run) joined(shape solid.Shape, list []solid.Shape, raw *solid.Props) (solid.Shape, error) {
	touch := false
	for i := range list {
		for k := range i {
			d, _, _, err := r.k.Distance(solid.Pick{Shape: list[i], Kind: solid.PickWhole}, solid.Pick{Shape: list[k], Kind: solid.PickWhole})
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
	if p.Volume < raw.Volume*(1-1e-9) {
		r.note("overlap", "its solids run into one another and were never united", "unite them, so that the part is one solid")
		*raw = p
		return all, nil
	}
	r.note("touch", "its solids only touch and were never united", "unite them, so that the part is one solid")
	return all, nil
}
