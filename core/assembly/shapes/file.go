package shapes

import (
	"cmp"
	"context"
	"fmt"

	"hammerset/core/assembly"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Assembly reads a STEP file as an assembly: a part for each solid of each product, with a file of its own, and a
// component for each place that it has. What is nested is laid flat. Such a file brings no joints; the first component
// is pinned. A product that is placed mirrored is a part of its own, since no motion leads there.
func (m *Maker) Assembly(ctx context.Context, data []byte, name string) (*assembly.Document, map[string][]byte, error) {
	k := m.Rebuilder.Kernel()
	c, err := k.ReadSTEP(ctx, data)
	if err != nil {
		return nil, nil, err
	}
	r := &reading{k: k, files: map[string][]byte{}, of: map[int][]string{}, named: map[string]int{},
		doc: &assembly.Document{Hammerset: assembly.Version, Name: name, Unit: "mm", Parts: []assembly.Part{},
			Components: []assembly.Component{}, Joints: []assembly.Joint{}}}
	all := make([]solid.Transform, len(c.Tree))
	for i, x := range c.Tree {
		all[i] = x.Place
		if x.Parent >= 0 {
			all[i] = x.Place.Then(all[x.Parent])
		}
		if x.Part < 0 {
			continue
		}
		if err := r.place(c.Parts[x.Part], x, all[i]); err != nil {
			return nil, nil, err
		}
	}
	if len(r.doc.Components) == 0 {
		return nil, nil, &Error{"the STEP file holds no solid", "export the solids, and not their surfaces"}
	}
	if n := len(r.doc.Components); n > assembly.MaxComponents {
		return nil, nil, &Error{fmt.Sprintf("the STEP file holds %d placed solids, and at most %d are taken", n,
			assembly.MaxComponents), "export a part of the assembly"}
	}
	r.doc.Components[0].Pinned = true
	return r.doc, r.files, r.doc.Check()
}

// reading is a STEP file while it becomes an assembly.
type reading struct {
	k     solid.Kernel
	doc   *assembly.Document
	files map[string][]byte
	of    map[int][]string // the parts that the solids of a part of the file have become
	named map[string]int
}

// place puts in the solids of a part of the file where it is placed.
func (r *reading) place(part solid.FilePart, x solid.Component, at solid.Transform) error {
	mirrored := at.Det() < 0
	ids, known := r.of[x.Part]
	if !known || mirrored {
		shape := part.Shape
		if mirrored {
			var err error
			if shape, _, err = r.k.Transform(shape, at); err != nil {
				return err
			}
			at = solid.Identity
		}
		var err error
		if ids, err = r.parts(cmp.Or(part.Name, x.Name, "part"), shape); err != nil {
			return err
		}
		if !mirrored {
			r.of[x.Part] = ids
		}
	}
	pose, err := rigid.Of(at)
	if err != nil {
		return err
	}
	for _, id := range ids {
		p, _ := r.doc.Part(id)
		name := p.Name
		if r.named[name]++; r.named[name] > 1 {
			name = fmt.Sprintf("%s %d", name, r.named[name])
		}
		r.doc.Components = append(r.doc.Components, assembly.Component{ID: fmt.Sprintf("c%d", len(r.doc.Components)+1),
			Name: name, Part: id, Pose: pose})
	}
	return nil
}

// parts makes a part of every solid of a shape, with a file of its own.
func (r *reading) parts(name string, shape solid.Shape) ([]string, error) {
	list, err := r.k.Split(shape)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, s := range list {
		data, err := r.k.WriteSTEP([]solid.Titled{{Shape: s, Name: name}}, name, solid.AP242)
		if err != nil {
			return nil, err
		}
		n := len(r.doc.Parts) + 1
		p := Kept(data, ".step", name, n)
		p.ID, p.File = fmt.Sprintf("p%d", n), fmt.Sprintf("part-%d.step", n)
		r.doc.Parts, r.files[p.File], ids = append(r.doc.Parts, p), data, append(ids, p.ID)
	}
	return ids, nil
}
