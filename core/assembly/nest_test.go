package assembly

import (
	"fmt"
	"math"
	"slices"
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

// A nested assembly that is laid flat stands and moves as it did when it was let move: its parts, joints and what joins
// it to others are the document's own, sizes worked out; a second one of the same files shares its parts.
func TestLayingFlat(t *testing.T) {
	sub := hinge(t)
	for _, p := range []*Part{&sub.Nest.Document.Parts[0], &sub.Nest.Document.Parts[1]} {
		p.SHA256, p.File = strings.Repeat(p.Number, 64), "part-"+p.Number+".step"
	}
	sub.Nest.Document.Traces = []Trace{{ID: "t1", Of: address.Ref{Component: "c2", Name: "foot"}}}
	d := &Document{Hammerset: Version, Name: "door", Unit: "mm",
		Parts: []Part{{ID: "post", Name: "post", Number: "1"}, {ID: "hinge", Name: "hinge", Number: "2"}},
		Components: []Component{{ID: "c1", Part: "post", Pinned: true, Pose: rigid.Still()},
			{ID: "c2", Name: "upper", Part: "hinge", Pose: rigid.Still(), Moving: true},
			{ID: "c3", Name: "lower", Part: "hinge", Pose: rigid.Still()}},
		Joints: []Joint{{ID: "j1", Kind: "rigid", Sense: Same, A: address.Ref{Component: "c2/c1", Name: "foot"},
			B: address.Ref{Component: "c1", Name: "foot"}}},
		Apart: []Apart{{Component: "c2/c2", By: solid.Vec{0, 0, 9}}}}
	shapes := map[string]*Shape{"post": sub.Nest.Shapes["p1"], "hinge": sub}
	m, err := New(d, shapes, nil)
	if err != nil || !m.Solve().Holds {
		t.Fatal(err)
	}
	if drive, err := m.Drive("c2/j1"); err != nil || drive.To(1.1+2*math.Pi, nil) {
		t.Fatal(err)
	}
	freedom := m.Mobility().Freedom
	d = m.Placed()
	if again, err := New(d, shapes, nil); err != nil || again.Placed().Components[1].Turns["j1"] != 1 {
		t.Errorf("a whole turn in a moving assembly is not kept: %v, %+v", err, d.Components[1])
	}
	before := map[string]rigid.Pose{}
	for _, c := range m.Document.Components {
		before[strings.ReplaceAll(c.ID, "/", "-")] = m.Pose(c.ID)
	}
	for _, id := range []string{"c2", "c3"} {
		parts, err := d.LayFlat(id, sub.Nest)
		if err != nil {
			t.Fatal(err)
		}
		for inner, now := range map[string]string{"p1": parts["p1"], "p2": parts["p2"]} {
			shapes[now] = sub.Nest.Shapes[inner]
		}
	}
	if err := d.Check(); err != nil {
		t.Fatal(err)
	}
	if len(d.Parts) != 4 || len(d.Components) != 5 || len(d.Joints) != 3 || d.Joints[1].Offset != "3 mm" ||
		len(d.Traces) != 2 || d.Traces[0].Of.Component != "c2-c2" || d.Apart[0].Component != "c2-c2" ||
		d.Joints[0].A.Component != "c2-c1" || d.Joints[1].State != 1 {
		t.Fatalf("laid flat it is %+v", d)
	}
	if m, err = New(d, shapes, nil); err != nil || !m.Solve().Holds {
		t.Fatal(err)
	}
	for id, was := range before {
		by := m.Pose(id).Then(was.Inverse())
		if by.Angle() > 1e-9 || by.Shift.Norm() > 1e-9 {
			t.Errorf("%s has moved by %v", id, by)
		}
	}
	if now := m.Mobility().Freedom; now != freedom+1 { // the lower one is let move too
		t.Errorf("%d freedoms, and %d before", now, freedom)
	}

	// It is in groups now: its parts list is what it was, and a part that stands outside too has one number.
	d.Parts = slices.DeleteFunc(d.Parts, func(p Part) bool { return p.ID == "hinge" })
	d.Components = append(d.Components, Component{ID: "c4", Part: "c2-p1", Pose: rigid.Still()})
	list := func(mass float64, want string) {
		t.Helper()
		d.TidyGroups()
		if err := d.Check(); err != nil {
			t.Fatal(err)
		}
		if m, err = New(d, shapes, nil); err != nil {
			t.Fatal(err)
		}
		items, whole, err := m.PartsList(mustTable(t, d))
		said := ""
		for _, i := range items {
			said += fmt.Sprintf("%s %d %s %d %.3g; ", i.Number, i.Quantity, i.Name, i.Level, i.Mass)
		}
		if said != want || err != nil || math.Abs(whole.Mass-mass) > 1e-9 {
			t.Errorf("parts %q, %v, %g kg", said, err, whole.Mass)
		}
	}
	list(4.8, "1 1 post 0 0.8; 2 2 hinge 0 1.6; 2.1 1 leaf 1 0.8; 2.2 1 flap 1 0.8; 2.1 1 leaf 0 0.8; ")
	// One of the two is no longer like the other: it is a line of its own, and its name is.
	i := slices.IndexFunc(d.Components, func(c Component) bool { return c.ID == "c3-c2" })
	d.Components, d.Joints, d.Traces = slices.Delete(d.Components, i, i+1), nil, nil
	d.Prints, d.Apart = nil, nil
	list(4, "1 1 post 0 0.8; 2 1 hinge 0 1.6; 2.1 1 leaf 1 0.8; 2.2 1 flap 1 0.8; 2.1 1 leaf 0 0.8; "+
		"3 1 hinge 0 0.8; 2.1 1 leaf 1 0.8; ")
	if err := d.NameGroup("c3", "half a hinge"); err != nil {
		t.Error(err)
	}
	if err := d.EndGroup("c2"); err != nil {
		t.Error(err)
	}
	list(4, "1 1 post 0 0.8; 2.1 2 leaf 0 0.8; 2.2 1 flap 0 0.8; 3 1 half a hinge 0 0.8; 2.1 1 leaf 1 0.8; ")
	if d.EndGroup("c2") == nil || d.NameGroup("c2", "gone") == nil {
		t.Error("a group that is gone was ended or named")
	}
}
