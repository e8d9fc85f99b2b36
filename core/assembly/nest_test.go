package assembly

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// hinge is a nested assembly: a leaf that is pinned, and a flap that turns about z on it, as high as its size says.
func hinge(t *testing.T) *Shape {
	t.Helper()
	z := solid.Vec{0, 0, 1}
	box := solid.Box{Min: solid.Vec{0, 0, 0}, Max: solid.Vec{10, 10, 2}}
	part := func(at solid.Vec) *Shape {
		return &Shape{Box: box, Props: solid.Props{Volume: 1e5, Centroid: solid.Vec{5, 5, 1}}, Density: 8000, Unit: "mm",
			Features: []Feature{{Name: "knuckle", Form: Circle, At: at, Axis: z, Radius: 2},
				{Name: "foot", Form: Circle, At: solid.Vec{10, 0, 0}, Axis: z, Radius: 1}}}
	}
	d := &Document{Hammerset: Version, Name: "hinge", Unit: "mm",
		Parameters: []quantity.Parameter{{Name: "high", Formula: "3 mm"}},
		Parts:      []Part{{ID: "p1", Name: "leaf", Number: "1"}, {ID: "p2", Name: "flap", Number: "2"}},
		Components: []Component{{ID: "c1", Name: "leaf", Part: "p1", Pinned: true, Pose: rigid.Still()},
			{ID: "c2", Name: "flap", Part: "p2", Pose: rigid.Still()}},
		Joints: []Joint{{ID: "j1", Kind: "revolute", Sense: Same, Offset: "high", A: address.Ref{Component: "c2",
			Name: "knuckle"},
			B: address.Ref{Component: "c1", Name: "knuckle"}}}}
	shapes := map[string]*Shape{"p1": part(solid.Vec{}), "p2": part(solid.Vec{})}
	m, err := New(d, shapes, nil)
	if err != nil || !m.Solve().Holds {
		t.Fatal(err)
	}
	return (&Nest{Document: m.Placed(), Shapes: shapes}).Shape()
}

// A nested assembly is one rigid body, or moves in itself as its own joints let it: then it brings its freedoms and can
// be driven, and where it stands in itself is kept. It is numbered in levels, twice if it is there twice, and can be
// nested again.
func TestNestedAssemblies(t *testing.T) {
	sub := hinge(t)
	turn := solid.Rotation(solid.Vec{1, 2, 3}, solid.Vec{1, -1, 2}, 37*math.Pi/180)
	pose, err := rigid.Of(turn)
	if err != nil {
		t.Fatal(err)
	}
	document := func(moving bool) *Document {
		return &Document{Hammerset: Version, Name: "door", Unit: "mm",
			Parts: []Part{{ID: "post", Name: "post", Number: "1"}, {ID: "hinge", Name: "hinge", Number: "2"}},
			Components: []Component{{ID: "c1", Part: "post", Pinned: true, Pose: pose},
				{ID: "c2", Name: "upper", Part: "hinge", Pose: rigid.Still(), Moving: moving},
				{ID: "c3", Name: "lower", Part: "hinge", Pose: pose, Pinned: true, Moving: moving}},
			Joints: []Joint{{ID: "j1", Kind: "rigid", Sense: Same, A: address.Ref{Component: "c2/c1", Name: "foot"},
				B: address.Ref{Component: "c1", Name: "foot"}}}}
	}
	shapes := map[string]*Shape{"post": sub.Nest.Shapes["p1"], "hinge": sub}
	for _, c := range []struct {
		moving  bool
		freedom int
	}{{false, 0}, {true, 2}} {
		d := document(c.moving)
		if err := d.Check(); err != nil {
			t.Fatal(err)
		}
		m, err := New(d, shapes, nil)
		if err != nil {
			t.Fatal(err)
		}
		if s := m.Solve(); !s.Holds || len(m.Lost()) > 0 {
			t.Fatalf("moving %v: %+v %+v", c.moving, s, m.Lost())
		}
		if got := m.Mobility().Freedom; got != c.freedom {
			t.Errorf("moving %v: %d freedoms, want %d", c.moving, got, c.freedom)
		}
		items, whole, err := m.PartsList(mustTable(t, d))
		said := ""
		for _, i := range items {
			said += fmt.Sprintf("%s %d %s %d %.3g; ", i.Number, i.Quantity, i.Name, i.Level, i.Mass)
		}
		if want := "1 1 post 0 0.8; 2 2 hinge 0 1.6; 2.1 1 leaf 1 0.8; 2.2 1 flap 1 0.8; "; said != want || err != nil ||
			math.Abs(whole.Mass-4) > 1e-9 {
			t.Errorf("parts %q, %v, %g kg", said, err, whole.Mass)
		}
		if !c.moving {
			continue
		}
		drive, err := m.Drive("c2/j1")
		if err != nil {
			t.Fatal(err)
		}
		drive.To(1.1, nil)
		flap, leaf := m.Pose("c2/c2"), m.Pose("c2/c1")
		if by := flap.Then(leaf.Inverse()); math.Abs(by.Angle()-1.1) > 1e-9 || math.Abs(by.Shift[2]-3) > 1e-9 {
			t.Errorf("driven, the flap stands %+v on its leaf", by)
		}
		again, err := New(m.Placed(), shapes, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, id := range []string{"c2/c1", "c2/c2", "c3/c1", "c3/c2"} {
			if d := again.Pose(id).Then(m.Pose(id).Inverse()); d.Angle() > 1e-9 || d.Shift.Norm() > 1e-9 {
				t.Errorf("kept and opened again, %s stands elsewhere: %+v", id, d)
			}
		}
		gone := *d
		gone.Joints = append([]Joint(nil), d.Joints...)
		gone.Joints[0].A.Component = "c2/c9"
		if m, err := New(&gone, shapes, nil); err != nil || len(m.Lost()) != 1 ||
			!strings.Contains(m.Lost()[0].What, "c2/c9 is not in c2 any more") {
			t.Errorf("a component that the nested assembly has no more: %v", err)
		}
		// The door as a part of a larger assembly.
		placed := m.Placed()
		door := (&Nest{Document: placed, Shapes: shapes}).Shape()
		house, of, err := Flat(&Document{Hammerset: Version, Unit: "mm", Parts: []Part{{ID: "door"}},
			Components: []Component{{ID: "c1", Part: "door", Pose: rigid.Still(), Moving: true}}},
			map[string]*Shape{"door": door})
		if err != nil || len(house.Components) != 5 || of["c1/c2/p2"] == nil || len(house.Joints) != 3 {
			t.Errorf("nested twice: %d components, %d joints, %v", len(house.Components), len(house.Joints), err)
		}
	}
}

func mustTable(t *testing.T, d *Document) *quantity.Table {
	t.Helper()
	table, err := d.Table(nil)
	if err != nil {
		t.Fatal(err)
	}
	return table
}
