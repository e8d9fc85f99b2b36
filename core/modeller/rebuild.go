package modeller

import (
	"context"

	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// Rebuild rebuilds a model for its figures, and as STEP and a mesh where they are wanted.
//
// Steps that failed are rows with a reason, and the solid is that of the steps
// that did not fail: a model is never all or nothing.
func (m *Modeller) Rebuild(ctx context.Context, doc *part.Document, texts map[string]string,
	wantSTEP, wantMesh bool) (*Rebuilt, error) {
	set, err := values(doc, texts)
	if err != nil {
		return nil, err
	}
	b, err := m.Rebuilder.Rebuild(ctx, doc, set)
	if err != nil {
		return nil, err
	}
	out := &Rebuilt{Unit: doc.Unit, Steps: []report.Step{}, Parameters: []Value{}}
	as := quantity.BoardFormat(b.Table.Unit())
	for _, p := range doc.Parameters {
		q, _ := b.Table.Lookup(p.Name)
		out.Parameters = append(out.Parameters, Value{Name: p.Name, Text: as.Text(q)})
	}
	for _, s := range b.Steps {
		row := report.Step{ID: s.ID, Name: s.Name, Kind: s.Kind, Message: s.Warning}
		if s.Err != nil {
			row.Failed, row.Message = true, s.Err.Error()
		}
		out.Steps = append(out.Steps, row)
	}
	if b.Solid == nil {
		return out, nil
	}
	k := m.Rebuilder.Kernel()
	geo, err := solid.Describe(k, b.Solid.Shape, nil)
	if err != nil {
		return nil, err
	}
	out.Volume, out.Area, out.Centroid, out.Box = geo.Props.Volume, geo.Props.Area, geo.Props.Centroid, geo.Box
	out.Solids, out.Faces = geo.Solids, len(geo.Faces)
	if wantSTEP {
		if out.STEP, err = k.WriteSTEP([]solid.Titled{{Shape: b.Solid.Shape, Name: doc.Name}}, doc.Name, solid.AP214); err !=
			nil {
			return nil, err
		}
	}
	if wantMesh {
		if out.Mesh, err = k.Mesh(b.Solid.Shape, inspect.Deflection(geo.Box), inspect.MeshAngle); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// values reads parameter settings.
func values(doc *part.Document, set map[string]string) (map[string]quantity.Quantity, error) {
	table, err := doc.Table(nil)
	if err != nil {
		return nil, err
	}
	return table.Settings(set)
}

// Export gives a file of the model: STEP (format ap214 or ap242), or else a mesh that the caller
// writes.
//
// A mesh for other programs is four times as fine as the one on the screen: it
// is printed from, and cannot be made finer afterwards.
func (m *Modeller) Export(ctx context.Context, doc *part.Document, format string) (*Exported, error) {
	b, err := m.Rebuilder.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	if b.Solid == nil {
		remedy := "add a step that makes one"
		if len(b.Failed()) > 0 {
			remedy = "put its failed steps right first"
		}
		return nil, &Refused{What: "the model makes no solid to export", Remedy: remedy}
	}
	k := m.Rebuilder.Kernel()
	out := &Exported{Name: doc.Name}
	if schema, ok := solid.SchemaOf(format); ok {
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
