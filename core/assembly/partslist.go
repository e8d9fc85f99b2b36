package assembly

import (
	"cmp"

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
	Level    int     `json:"level,omitempty"` // how deep it is nested
}

// Whole are the figures of an assembly: mass in kg and the middle of the mass in mm. Unknown are the parts of which
// nothing says what they are made of; they are left out of both.
type Whole struct {
	Mass     float64   `json:"mass"`
	Centroid solid.Vec `json:"centroid"`
	Unknown  []string  `json:"unknown,omitempty"`
}

// PartsList lists the parts that there are components of, in the order of the document; those of a nested assembly come
// after it, one level deeper, and are numbered after it ("2.1").
func (m *Mechanism) PartsList(table *quantity.Table) ([]Item, Whole, error) {
	var whole Whole
	items, err := listed(m.given, m.shaped, table, "", 0)
	if err != nil {
		return nil, whole, err
	}
	for i := range m.Document.Parts {
		p := &m.Document.Parts[i]
		shape := m.Shapes[p.ID]
		density, _, err := madeOf(p, shape, table)
		if err != nil {
			return nil, whole, err
		}
		there := false
		for _, c := range m.Document.Components {
			if c.Part == p.ID {
				there = true
				mass := density * shape.Props.Volume * 1e-9
				whole.Mass += mass
				whole.Centroid = whole.Centroid.Add(m.Pose(c.ID).Apply(shape.Props.Centroid).Scale(mass))
			}
		}
		if there && density == 0 {
			whole.Unknown = append(whole.Unknown, p.Name)
		}
	}
	if whole.Mass > 0 {
		whole.Centroid = whole.Centroid.Scale(1 / whole.Mass)
	}
	return items, whole, nil
}

// madeOf is the density of a part in kg/m³, 0 where nothing says it, and its material.
func madeOf(p *Part, shape *Shape, table *quantity.Table) (density float64, material string, err error) {
	material = p.Material
	if shape != nil {
		density, material = shape.Density, cmp.Or(material, shape.Material)
	}
	if p.Density == "" {
		return density, material, nil
	}
	if density, err = table.Eval(p.Density, quantity.Number); err != nil {
		return 0, "", &Fault{Pointer: "/parts", What: "the density of " + p.Name + ": " + err.Error(),
			Remedy: "give a number, in kg/m³"}
	}
	return density, material, nil
}

// listed lists the parts of a document, and after each nested assembly its own.
func listed(d *Document, shapes map[string]*Shape, table *quantity.Table, before string, level int) ([]Item, error) {
	l := listing{d, shapes, table, before}
	return l.in("", level)
}

// listing is a document while its parts are listed, their numbers after those of what it is nested in.
type listing struct {
	doc    *Document
	shapes map[string]*Shape
	table  *quantity.Table
	before string
}

// in lists what is in one group, or in none.
func (l *listing) in(group string, level int) ([]Item, error) {
	var out []Item
	for _, x := range l.doc.rows(group) {
		item := Item{Number: l.before + x.number(), Quantity: x.count, Level: level}
		var below []Item
		var err error
		if x.group != nil {
			item.Name = x.group.Name
			below, err = l.in(x.group.ID, level+1)
		} else {
			below, err = l.part(&item, x.part)
		}
		if err != nil {
			return nil, err
		}
		for _, b := range below {
			if b.Level == level+1 {
				item.Mass += float64(b.Quantity) * b.Mass
			}
		}
		if x.part != nil || len(below) > 0 {
			out = append(append(out, item), below...)
		}
	}
	return out, nil
}

// part fills the line of a part in, and lists what it is made of where it is an assembly itself.
func (l *listing) part(item *Item, p *Part) ([]Item, error) {
	shape := l.shapes[p.ID]
	density, material, err := madeOf(p, shape, l.table)
	if err != nil {
		return nil, err
	}
	item.Name, item.Material, item.Part = p.Name, material, p.ID
	if shape == nil {
		return nil, nil
	}
	if shape.Nest == nil {
		item.Mass = density * shape.Props.Volume * 1e-9
		return nil, nil
	}
	own, err := shape.Nest.Document.Table(nil)
	if err != nil {
		return nil, err
	}
	return listed(shape.Nest.Document, shape.Nest.Shapes, own, item.Number+".", item.Level+1)
}
