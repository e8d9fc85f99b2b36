package shapes

import (
	"math"
	"testing"

	"hammerset/core/assembly"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// An assembly that moves in one that moves in a third comes out with its parts where they stand: the places of the
// products, one after the other, are those of the components laid flat.
func TestProductsStandWhereTheComponentsDo(t *testing.T) {
	turned := func(angle float64, shift solid.Vec) rigid.Pose {
		p, err := rigid.Of(solid.Rotation(solid.Vec{3, 1, 2}, solid.Vec{1, 2, 0.5}, angle).Then(solid.Translation(shift)))
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	bar := &Made{Shape: &assembly.Shape{Box: solid.Box{Max: solid.Vec{10, 4, 2}}}}
	pair := func(part string) *assembly.Document {
		return &assembly.Document{Hammerset: assembly.Version, Unit: "mm", Parts: []assembly.Part{{ID: part, Name: part}},
			Components: []assembly.Component{{ID: "c1", Part: part, Pinned: true, Pose: rigid.Still()},
				{ID: "c2", Part: part, Pose: turned(0.4, solid.Vec{1, 2, 3})}}}
	}
	made, part := map[string]*Made{"bar": bar}, "bar"
	for _, next := range []string{"hinge", "gate"} {
		d := pair(part)
		for i := range d.Components {
			d.Components[i].Moving = part != "bar"
		}
		m, err := Nested(d, made)
		if err != nil {
			t.Fatal(err)
		}
		made, part = map[string]*Made{next: m}, next
	}
	d := pair(part)
	d.Components[0].Moving = true
	d.Components[0].Inner = map[string]rigid.Pose{"c2/c2": turned(1.2, solid.Vec{7, 0, 1}), "c1/c2": turned(-0.3,
		solid.Vec{})}
	flat, _, err := Flat(d, made)
	if err != nil {
		t.Fatal(err)
	}
	products := Products(d, made)
	var stands []solid.Transform
	var walk func(product int, at solid.Transform)
	walk = func(product int, at solid.Transform) {
		if len(products[product].Uses) == 0 {
			stands = append(stands, at)
		}
		for _, u := range products[product].Uses {
			walk(u.Product, u.Place.Then(at))
		}
	}
	walk(0, solid.Identity)
	if len(stands) != len(flat.Components) || len(stands) != 8 {
		t.Fatalf("%d of %d parts", len(stands), len(flat.Components))
	}
	for i, c := range flat.Components {
		want := c.Pose.Transform()
		for k := range 3 {
			if d := stands[i].Apply(solid.Vec{5, 0, 0}).Sub(want.Apply(solid.Vec{5, 0, 0})); math.Abs(d[k]) > 1e-9 {
				t.Errorf("%s stands %v off", c.ID, d)
				break
			}
		}
	}
}
