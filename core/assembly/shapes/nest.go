package shapes

import (
	"slices"

	"hammerset/core/assembly"
)

// Nested makes a part of an assembly whose parts are made: its joints are solved at its sizes.
func Nested(d *assembly.Document, made map[string]*Made) (*Made, error) {
	of := shapesOf(made)
	m, err := assembly.New(d, of, nil)
	if err != nil {
		return nil, err
	}
	if lost := m.Lost(); len(lost) > 0 {
		return nil, &Error{lost[0].What, lost[0].Remedy}
	}
	if !m.Solve().Holds {
		return nil, &Error{"its joints cannot hold together", "put it right by itself first"}
	}
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	out := &Made{Shape: (&assembly.Nest{Document: m.Placed(), Shapes: of}).Shape(), Parts: made}
	for _, p := range d.Parameters {
		if slices.Contains(table.Driving(), p.Name) {
			out.Shape.Sizes = append(out.Shape.Sizes, p)
		}
	}
	return out, nil
}

func shapesOf(made map[string]*Made) map[string]*assembly.Shape {
	out := map[string]*assembly.Shape{}
	for id, m := range made {
		out[id] = m.Shape
	}
	return out
}

// Flat lays an assembly flat, with the parts of what is nested in it among its own.
func Flat(d *assembly.Document, made map[string]*Made) (*assembly.Document, map[string]*Made, error) {
	of := map[*assembly.Shape]*Made{}
	var collect func(made map[string]*Made)
	collect = func(made map[string]*Made) {
		for _, m := range made {
			of[m.Shape] = m
			collect(m.Parts)
		}
	}
	collect(made)
	doc, shapes, err := assembly.Flat(d, shapesOf(made))
	out := map[string]*Made{}
	for id, s := range shapes {
		if m := of[s]; m != nil {
			out[id] = m
		}
	}
	return doc, out, err
}
