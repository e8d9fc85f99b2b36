package assembly

import (
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Item is a line of the parts list (ISO 7573): a part, and how many of it there are. Mass is that of one in kg, 0
// where nothing says what it is made of.
type Item struct {
	Number   string  `json:"number"`
	Quantity int     `json:"quantity"`
	Name     string  `json:"name"`
	Material string  `json:"material,omitempty"`
	Mass     float64 `json:"mass"`
	Part     string  `json:"part"`
}

// Whole are the figures of an assembly: mass in kg and the middle of the mass in mm. Unknown are the parts of which
// nothing says what they are made of; they are left out of both.
type Whole struct {
	Mass     float64   `json:"mass"`
	Centroid solid.Vec `json:"centroid"`
	Unknown  []string  `json:"unknown,omitempty"`
}

// PartsList lists the parts that there are components of, in the order of the document.
func (m *Mechanism) PartsList(table *quantity.Table) ([]Item, Whole, error) {
	var items []Item
	var whole Whole
	for i := range m.Document.Parts {
		p := &m.Document.Parts[i]
		shape, count := m.Shapes[p.ID], 0
		density, material := 0.0, p.Material
		if shape != nil {
			density = shape.Density
			if material == "" {
				material = shape.Material
			}
		}
		if p.Density != "" {
			var err error
			if density, err = table.Eval(p.Density, quantity.Number); err != nil {
				return nil, whole, &Fault{Pointer: "/parts", What: "the density of " + p.Name + ": " + err.Error(),
					Remedy: "give a number, in kg/m³"}
			}
		}
		mass := 0.0
		for _, c := range m.Document.Components {
			if c.Part != p.ID {
				continue
			}
			count++
			mass = density * shape.Props.Volume * 1e-9
			whole.Mass += mass
			whole.Centroid = whole.Centroid.Add(m.Pose(c.ID).Apply(shape.Props.Centroid).Scale(mass))
		}
		if count == 0 {
			continue
		}
		if density == 0 {
			whole.Unknown = append(whole.Unknown, p.Name)
		}
		items = append(items, Item{Number: p.Number, Quantity: count, Name: p.Name, Material: material, Mass: mass,
			Part: p.ID})
	}
	if whole.Mass > 0 {
		whole.Centroid = whole.Centroid.Scale(1 / whole.Mass)
	}
	return items, whole, nil
}
