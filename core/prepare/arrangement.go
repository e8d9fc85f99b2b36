package prepare

import (
	"cmp"
	"context"
	"fmt"
	"math"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/check"
	"hammerset/core/check/assemblies"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/quantity"
	"hammerset/core/sheet"
	"hammerset/core/solid"
)

// Assembly draws the sheets of an exercise of an assembly, which are one numbered set: the arrangement first, and then
// the sheets of the parts that students make, in the order of the items. What belongs to the part of an item is called
// by the number of the item before its own id, as 2/d1.
func Assembly(ctx context.Context, c *check.Checker, of *assemblies.Checker, ex *exercise.Exercise,
	ref assemblies.Reference, m sheet.Metrics) (*Prepared, error) {
	k := c.Rebuilder.Kernel()
	shown, err := of.Shown(ctx, ex, ref)
	if err != nil {
		return nil, err
	}
	composed, list, whole, err := composedOf(k, ex, shown)
	if err != nil {
		return nil, err
	}
	shownEx := *ex
	if len(ex.Sheet().Views) == 0 {
		shownEx.Sheets = exercise.Sheets{sheet.ArrangeAssembly(ex, whole)}
	}
	projected, err := sheet.ProjectAssembly(ctx, k, shownEx.Sheets, list, composed, nil)
	if err != nil {
		return nil, err
	}
	out := &Prepared{Faces: map[string][]address.Ref{}, Driving: []string{}, Items: itemsOf(ref), Bulk: shown.Bulk,
		Audit: &Audited{Findings: []Finding{}, Symmetric: []Evidence{}, Read: []Evidence{}}}
	for _, s := range shown.Stated {
		out.Faces[s.ID] = []address.Ref{}
		out.Stated = append(out.Stated, Stated{ID: s.ID, Balloon: s.Balloon, Label: s.Label, Kind: s.Kind, Text: s.Asked.Text,
			Places: 1})
	}
	if err := of.CheckWhatIfs(ctx, ex, ref); err != nil {
		return nil, err
	}
	open, err := of.Unstated(ctx, ex, ref)
	if err != nil {
		return nil, err
	}
	for _, u := range open {
		f := Finding{Kind: "missing", What: u.What, Remedy: u.Remedy, Faces: []address.Ref{}, Characteristics: []string{}}
		if u.Contradicts {
			f.Kind = "contradicting"
		}
		out.Audit.Findings = append(out.Audit.Findings, f)
	}
	items := itemsMade(ex, ref)
	total := len(shownEx.Sheets)
	for _, x := range items {
		total += len(x.ex.Sheets)
	}
	drawn, err := sheet.LayOutNumbered(&shownEx, projected, m, sheet.Numbering{Of: total})
	if err != nil {
		return nil, err
	}
	number := len(drawn)
	for _, x := range items {
		p, set, err := item(ctx, c, x, m, sheet.Numbering{First: number, Of: total})
		if err != nil {
			return nil, fmt.Errorf("item %s: %w", x.number, err)
		}
		number += len(set)
		for _, d := range set {
			drawn = append(drawn, d.Of(x.number))
		}
		for _, s := range p.Stated {
			s.ID, s.Item = x.number+"/"+s.ID, x.number
			out.Faces[s.ID] = []address.Ref{}
			out.Stated = append(out.Stated, s)
		}
		for _, f := range p.Audit.Findings {
			f.What = "item " + x.number + ": " + f.What
			f.Remedy += ": take the exercise of this part out of this one, change it there, and put it back"
			f.Faces = []address.Ref{}
			for i := range f.Characteristics {
				f.Characteristics[i] = x.number + "/" + f.Characteristics[i]
			}
			out.Audit.Findings = append(out.Audit.Findings, f)
		}
		out.Audit.Sizes, out.Audit.Stated = out.Audit.Sizes+p.Audit.Sizes, out.Audit.Stated+p.Audit.Stated
		out.Audit.BySymmetry += p.Audit.BySymmetry
	}
	out.Drawing = sheet.Stacked(drawn)
	out.Mesh, err = meshOf(k, list)
	return out, err
}

// Arrangement lays the arrangement sheet of an exercise out by itself.
func Arrangement(ctx context.Context, k solid.Kernel, of *assemblies.Checker, ex *exercise.Exercise,
	ref assemblies.Reference) (exercise.Sheet, error) {
	shown, err := of.Shown(ctx, ex, ref)
	if err != nil {
		return exercise.Sheet{}, err
	}
	_, _, whole, err := composedOf(k, ex, shown)
	if err != nil {
		return exercise.Sheet{}, err
	}
	return sheet.ArrangeAssembly(ex, whole), nil
}

// itemMade is an item of which students make the part.
type itemMade struct {
	number string
	ex     *exercise.Exercise
	ref    check.Reference
}

// itemsMade are the items with an exercise of their own that are not given, in the order of the parts.
func itemsMade(ex *exercise.Exercise, ref assemblies.Reference) []itemMade {
	var out []itemMade
	for i, p := range ref.Document.Parts {
		own, have := ref.Exercises[p.ID]
		if item := ex.Assembly.Item(p.ID); !have || item == nil || item.Given {
			continue
		}
		out = append(out, itemMade{numberOf(p, i), own.Exercise, own.Reference})
	}
	return out
}

// numberOf is the number of a part in the parts list, by its place where it has none.
func numberOf(p assembly.Part, i int) string {
	return cmp.Or(p.Number, fmt.Sprint(i+1))
}

// itemsOf names the parts that have exercises of their own.
func itemsOf(ref assemblies.Reference) []Item {
	var out []Item
	for i, p := range ref.Document.Parts {
		if _, have := ref.Exercises[p.ID]; have {
			out = append(out, Item{Part: p.ID, Number: numberOf(p, i), Name: p.Name})
		}
	}
	return out
}

// item prepares the exercise of an item, with its sheets as those of a larger set.
func item(ctx context.Context, c *check.Checker, x itemMade, m sheet.Metrics, n sheet.Numbering) (*Prepared,
	[]*sheet.Drawing, error) {
	p, err := Exercise(ctx, c, x.ex, x.ref, m)
	if err != nil {
		return nil, nil, err
	}
	named, build, err := c.Load(ctx, x.ref)
	if err != nil {
		return nil, nil, err
	}
	projected, err := sheet.Project(ctx, c.Rebuilder.Kernel(), x.ex.Sheets, named, nil)
	if err != nil {
		return nil, nil, err
	}
	if build != nil {
		set, err := sheet.LayOutNumbered(x.ex, projected, m, n, build.Notes...)
		return p, set, err
	}
	set, err := sheet.LayOutNumbered(x.ex, projected, m, n)
	return p, set, err
}

// composedOf is what an arrangement sheet shows, its solids where they stand, and what it is laid out by.
func composedOf(k solid.Kernel, ex *exercise.Exercise, shown *assemblies.Shown) (*sheet.Composed,
	[]sheet.PlacedPart, *sheet.Whole, error) {
	c := &sheet.Composed{Beside: shown.Beside}
	w := &sheet.Whole{Lengthwise: map[string]solid.Vec{}, Lines: len(shown.Lines), Stated: len(shown.Stated),
		Box: nowhere(), Apart: nowhere()}
	var list []sheet.PlacedPart
	for _, x := range shown.Components {
		c.Components = append(c.Components, sheet.Composite{ID: x.ID, Item: x.Item, Apart: x.Apart, Moves: x.Moves})
		s, _, err := k.Transform(x.Solid, x.Pose.Transform())
		if err != nil {
			return nil, nil, nil, err
		}
		list = append(list, sheet.PlacedPart{Shape: s, Names: x.Names})
		box, err := k.Bounds(s)
		if err != nil {
			return nil, nil, nil, err
		}
		c.Components[len(c.Components)-1].Box = box
		around(&w.Box, box, solid.Vec{})
		around(&w.Apart, box, x.Apart)
		w.Lengthwise[x.ID] = x.Lengthwise
	}
	for _, x := range shown.Ends {
		s, _, err := k.Transform(shown.Components[x.Component].Solid, x.Pose.Transform())
		if err != nil {
			return nil, nil, nil, err
		}
		c.Ends = append(c.Ends, s)
		box, err := k.Bounds(s)
		if err != nil {
			return nil, nil, nil, err
		}
		around(&w.Box, box, solid.Vec{})
	}
	c.Curves = shown.Curves
	for _, path := range shown.Curves {
		for _, p := range path {
			around(&w.Box, solid.Box{Min: p, Max: p}, solid.Vec{})
		}
	}
	for _, x := range shown.Fits {
		c.Fits = append(c.Fits, sheet.Fitted(x))
	}
	for _, a := range shown.Axes {
		w.Axes = append(w.Axes, sheet.WholeAxis(a))
	}
	for _, line := range shown.Lines {
		row := sheet.ListLine{Number: line.Number, Quantity: fmt.Sprint(line.Quantity), Name: line.Name,
			Material: line.Material, Level: line.Level}
		if item := ex.Assembly.Item(line.Part); item != nil && item.Given {
			row.Name += " (given)"
		}
		if line.Mass > 0 {
			row.Mass = quantity.FormatDecimal(line.Mass, 3) + " kg"
		}
		c.Lines = append(c.Lines, row)
	}
	for _, s := range shown.Stated {
		text := s.Label
		if s.Asked.Text != "" {
			text += ": " + s.Asked.Text
		}
		c.Stated = append(c.Stated, sheet.Stated{ID: s.ID, Balloon: s.Balloon, Text: text})
	}
	return c, list, w, nil
}

func nowhere() solid.Box {
	inf := math.Inf(1)
	return solid.Box{Min: solid.Vec{inf, inf, inf}, Max: solid.Vec{-inf, -inf, -inf}}
}

// around takes a box that was moved into another one.
func around(b *solid.Box, o solid.Box, by solid.Vec) {
	for k := range 3 {
		b.Min[k], b.Max[k] = math.Min(b.Min[k], o.Min[k]+by[k]), math.Max(b.Max[k], o.Max[k]+by[k])
	}
}

// meshOf is the mesh of all components where they stand.
func meshOf(k solid.Kernel, list []sheet.PlacedPart) (*solid.Mesh, error) {
	var shapes []solid.Shape
	for _, x := range list {
		shapes = append(shapes, x.Shape)
	}
	all, _, err := k.Compound(shapes)
	if err != nil {
		return nil, err
	}
	box, err := k.Bounds(all)
	if err != nil {
		return nil, err
	}
	return k.Mesh(all, inspect.Deflection(box), inspect.MeshAngle)
}
