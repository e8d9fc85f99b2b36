package shapes

import (
	"context"
	"maps"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/inspect"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Products are an assembly as a STEP file has it: the whole, which is made of its components, and each part once. made
// are its parts by their ids.
func Products(d *assembly.Document, made map[string]*Made) []solid.Product {
	return used([]solid.Product{{Name: d.Name}}, 0, d, made, nil)
}

// used adds what a product is made of: each part of its document once, and its components, those of a moving nested one
// where they stand in it.
func used(out []solid.Product, whole int, d *assembly.Document, made map[string]*Made,
	inner map[string]rigid.Pose) []solid.Product {
	at := map[string]int{}
	for i := range d.Components {
		c := &d.Components[i]
		m, p := made[c.Part], c.Part
		if m == nil {
			continue
		}
		pose, in := c.Pose, within(c, inner)
		if moved, ok := inner[c.ID]; ok {
			pose = moved
		}
		if in != nil {
			p = c.ID // which stands in itself as no other one
		}
		k, ok := at[p]
		if !ok {
			k = len(out)
			at[p] = k
			part, _ := d.Part(c.Part)
			out = append(out, solid.Product{Name: part.Name, Shape: m.Solid, Colour: part.RGB(),
				Volume: m.Shape.Props.Volume, Area: m.Shape.Props.Area})
			if m.Shape.Nest != nil {
				out[k].Volume, out[k].Area = 0, 0
				out = used(out, k, m.Shape.Nest.Document, m.Parts, in)
			}
		}
		out[whole].Uses = append(out[whole].Uses, solid.Use{Product: k, Name: c.Title(), Place: pose.Transform()})
	}
	return out
}

// within are the poses in a component that moves in itself: its own, or those that what it is nested in has for them,
// which are in the coordinates of that. It is nil where all is as in its document.
func within(c *assembly.Component, inner map[string]rigid.Pose) map[string]rigid.Pose {
	var out map[string]rigid.Pose
	if c.Moving {
		out = c.Inner
	}
	for path, pose := range inner {
		if rest, ok := strings.CutPrefix(path, c.ID+"/"); ok {
			if out == nil {
				out = map[string]rigid.Pose{}
			} else {
				out = maps.Clone(out)
			}
			out[rest] = pose.Then(c.Pose.Inverse())
		}
	}
	return out
}

// Fine is the mesh of a part for other programs: four times as fine as the one on the screen, since it is printed from
// and cannot be made finer afterwards.
func Fine(ctx context.Context, k solid.Kernel, m *Made) (*solid.Mesh, error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	return k.Mesh(m.Solid, inspect.Deflection(m.Shape.Box)/4, inspect.MeshAngle/2)
}

// Whole is one mesh of all components where they stand, of the meshes of their parts.
func Whole(d *assembly.Document, of map[string]*solid.Mesh) *solid.Mesh {
	out := &solid.Mesh{Lines: [][]float64{}}
	for _, c := range d.Components {
		m := of[c.Part]
		if m == nil {
			continue
		}
		first := int32(len(out.Vertices) / 3)
		for i := range int32(len(m.Vertices) / 3) {
			p := c.Pose.Apply(m.At(i))
			out.Vertices = append(out.Vertices, p[0], p[1], p[2])
		}
		for _, t := range m.Triangles {
			out.Triangles = append(out.Triangles, first+t)
		}
	}
	return out
}
