// Package shapes makes of the files of parts what an assembly needs of them: their features, their figures and a mesh,
// and the solid itself for those who ask a kernel about it.
package shapes

import (
	"context"
	"fmt"
	"slices"
	"strconv"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/core/words"
)

// Version counts the changes of what is made of a part: what was kept under another one is made anew.
const Version = "shape/2"

// Made is a part: as an assembly knows it, and as a solid.
type Made struct {
	Shape *assembly.Shape
	Solid solid.Shape
	Parts map[string]*Made // of an assembly, which has no solid of its own
}

// Maker makes parts.
type Maker struct{ Rebuilder *part.Rebuilder }

// Error is a part that cannot be made.
type Error struct{ What, Remedy string }

func (e *Error) Error() string { return e.What + "; " + e.Remedy }

// Values works out the sizes that a part is given, by the names that its own table has, in the parameters of the
// assembly.
func Values(p *assembly.Part, own, table *quantity.Table) (map[string]quantity.Quantity, error) {
	out := map[string]quantity.Quantity{}
	for name, formula := range p.Values {
		have, ok := own.Lookup(name)
		if !ok {
			return nil, &Error{fmt.Sprintf("the part %s has no size %q", p.Name, name),
				"name one of its parameters, or leave it out"}
		}
		v, err := table.Eval(formula, have.Dim)
		if err != nil {
			return nil, &Error{fmt.Sprintf("the size %s of the part %s: %v", name, p.Name, err), "put this formula right"}
		}
		out[name] = quantity.Quantity{Value: v, Dim: have.Dim}
	}
	return out, nil
}

// Model makes a part of a model document with some of its sizes set; pick is the solid of several, and is empty where
// there is one.
func (m *Maker) Model(ctx context.Context, doc *part.Document, set map[string]quantity.Quantity,
	pick string) (*Made, error) {
	b, err := m.rebuilt(ctx, doc, set)
	if err != nil {
		return nil, err
	}
	if pick == "" && len(b.Bodies) > 1 {
		return nil, &Error{fmt.Sprintf("%s makes %d solids", doc.Name, len(b.Bodies)),
			"pick one of them for each part, or unite them"}
	}
	for _, body := range b.Bodies {
		if pick == "" || body.ID == pick {
			return m.body(doc, b, body)
		}
	}
	return nil, &Error{fmt.Sprintf("%s has no solid %q", doc.Name, pick), "pick one of its solids"}
}

// rebuilt rebuilds a document that makes at least one solid.
func (m *Maker) rebuilt(ctx context.Context, doc *part.Document,
	set map[string]quantity.Quantity) (*part.Build, error) {
	b, err := m.Rebuilder.Rebuild(ctx, doc, set)
	if err != nil {
		return nil, err
	}
	if failed := b.Failed(); len(failed) > 0 {
		return nil, &Error{fmt.Sprintf("%s cannot be rebuilt: %v", doc.Name, failed[0].Err),
			"put this step right in the modeller"}
	}
	if len(b.Bodies) == 0 {
		return nil, &Error{fmt.Sprintf("%s makes no solid", doc.Name), "add a step that makes one"}
	}
	return b, nil
}

// body makes a part of one solid of a rebuilt document.
func (m *Maker) body(doc *part.Document, b *part.Build, body *part.Body) (*Made, error) {
	made, err := m.describe(body.Shape, body.Names)
	if err != nil {
		return nil, err
	}
	refs := b.References()
	from := slices.Index(refs.Solids, body.ID)
	faces := slices.Clone(refs.Faces[from : from+len(body.Names)])
	for k := range faces { // the solid is picked already
		faces[k] = unqualified(faces[k], body.ID)
	}
	called := words.NewNamer(doc.Titles(), doc.Unit).Faces(faces, made.geometry.Faces)
	made.Shape.Features = assembly.Named(made.geometry, faces, called, body.Shape.Vertices())
	made.Shape.Unit = doc.Unit
	for _, n := range b.Notes {
		if f, ok := made.Shape.Feature(n.Face); ok && n.Kind == "thread" {
			f.Thread = n.Text
		}
	}
	for _, p := range doc.Parameters {
		if slices.Contains(b.Table.Driving(), p.Name) {
			made.Shape.Sizes = append(made.Shape.Sizes, p)
		}
	}
	if made.Shape.Density, made.Shape.Material, err = doc.Density(body.ID, b.Table); err != nil {
		return nil, &Error{fmt.Sprintf("the density of %s: %v", doc.Name, err), "give a number, in kg/m³"}
	}
	return &made.Made, nil
}

func unqualified(name, body string) string {
	if n := len(name) - len(body) - 1; n > 0 && name[n:] == "@"+body {
		return name[:n]
	}
	return name
}

// STEP makes a part of a STEP file; pick is the number of one of several solids, and is empty where there is one.
func (m *Maker) STEP(ctx context.Context, data []byte, pick string) (*Made, error) {
	list, uncertainty, err := m.solids(ctx, data)
	if err != nil {
		return nil, err
	}
	if pick == "" && len(list) > 1 {
		return nil, &Error{fmt.Sprintf("the STEP file holds %d solids", len(list)), "pick one of them for each part"}
	}
	for i, s := range list {
		if pick == "" || pick == strconv.Itoa(i) {
			return m.solid(s, uncertainty)
		}
	}
	return nil, &Error{fmt.Sprintf("the STEP file has no solid %q", pick),
		fmt.Sprintf("they are numbered from 0 to %d", len(list)-1)}
}

// solids reads the solids of a STEP file, of which there is at least one, and its uncertainty.
func (m *Maker) solids(ctx context.Context, data []byte) ([]solid.Shape, float64, error) {
	k := m.Rebuilder.Kernel()
	c, err := k.ReadSTEP(ctx, data)
	if err != nil {
		return nil, 0, err
	}
	list, err := k.Split(c.Shape)
	if err == nil && len(list) == 0 {
		err = &Error{"the STEP file holds no solid", "export the solid, and not its surfaces"}
	}
	return list, c.Uncertainty, err
}

// Solid makes a part of a solid that was made, and read from no file.
func (m *Maker) Solid(s solid.Shape) (*Made, error) { return m.solid(s, 0) }

// solid makes a part of a solid without names, from a file with an uncertainty. Splines in place of plain surfaces are
// these surfaces: programs write them so.
func (m *Maker) solid(s solid.Shape, uncertainty float64) (*Made, error) {
	made, err := m.describe(s, nil)
	if err != nil {
		return nil, err
	}
	if err := inspect.Recognise(made.geometry, m.Rebuilder.Kernel(), s, inspect.Exact(uncertainty)); err != nil {
		return nil, err
	}
	made.geometry.Join()
	if made.Shape.Symmetry, err = symmetryOf(made.geometry); err != nil {
		return nil, err
	}
	faces := make([]string, len(made.geometry.Faces))
	for n := range faces {
		faces[n] = address.Numbered(address.Face, n).Name
	}
	called := words.NewNamer(nil, "mm").Faces(faces, made.geometry.Faces)
	made.Shape.Features = assembly.Named(made.geometry, faces, called, s.Vertices())
	made.Shape.Unit = "mm"
	return &made.Made, nil
}

// described is a part without its features.
type described struct {
	Made
	geometry *solid.Geometry
}

func (m *Maker) describe(s solid.Shape, names [][]string) (*described, error) {
	k := m.Rebuilder.Kernel()
	g, err := solid.Describe(k, s, names)
	if err != nil {
		return nil, err
	}
	for i := range g.Edges { // those that stay neither straight nor round are features too
		if e := &g.Edges[i]; e.Kind == solid.OtherEdge && !e.Seam && !e.Smooth && !e.Degenerate {
			places, err := k.Along(s, i)
			if err != nil {
				return nil, err
			}
			for n := 0; n < len(places); n += 2 { // every second: the curve through them is to be light, too
				e.Run = append(e.Run, places[n])
			}
		}
	}
	mesh, err := k.Mesh(s, inspect.Deflection(g.Box), inspect.MeshAngle)
	if err != nil {
		return nil, err
	}
	symmetry, err := symmetryOf(g)
	if err != nil {
		return nil, err
	}
	return &described{Made{Solid: s, Shape: &assembly.Shape{Box: g.Box, Props: g.Props, Mesh: mesh, Solids: g.Solids,
		Symmetry:   symmetry,
		Deflection: inspect.Deflection(g.Box)}}, g}, nil
}

// symmetryOf is the symmetry of a solid as an assembly has it; nil of one that has none.
func symmetryOf(g *solid.Geometry) (*assembly.Symmetry, error) {
	found := inspect.SymmetryOf(g.Closed())
	if len(found.Turns) == 0 && !found.Round {
		return nil, nil
	}
	out := &assembly.Symmetry{}
	for _, t := range found.Turns {
		p, err := rigid.Of(t)
		if err != nil {
			return nil, err
		}
		out.Turns = append(out.Turns, p)
	}
	if found.Round {
		out.At, out.Axis = &found.At, &found.Axis
	}
	return out, nil
}
