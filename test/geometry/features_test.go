package geometry

import (
	"strings"
	"testing"

	"hammerset/core/assembly"
	"hammerset/core/assembly/shapes"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

// What an assembly knows of a part are its faces, edges and corners by name: the two halves of a bore that a slot
// parts are one, round edges point out of the flat face, and all of it follows the sizes that the part is given. Of a
// STEP file faces have their numbers.
func TestFeaturesOfParts(t *testing.T) {
	a, err := demo.Assembly("tackle-joint")
	if err != nil {
		t.Fatal(err)
	}
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(occ.Kernel{})}
	doc, err := documents.ReadModel(a.Files["fork.json"])
	if err != nil {
		t.Fatal(err)
	}
	table, err := a.Document.With(map[string]string{"gap": "30"})
	if err != nil {
		t.Fatal(err)
	}
	fork, _ := a.Document.Part("fork")
	own, err := doc.Table(nil)
	if err != nil {
		t.Fatal(err)
	}
	wide, err := shapes.Values(fork, own, table)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		set  map[string]quantity.Quantity
		half float64 // of what is over the cheeks
	}{{nil, 16}, {wide, 23}} {
		made, err := maker.Model(ctx, doc, c.set, "")
		if err != nil {
			t.Fatal(err)
		}
		want := map[string]assembly.Feature{
			"e3/side:c0": {Form: assembly.Cylinder, Radius: 6, Hollow: true, Length: 2 * c.half},
			"e1/end & e3/side:c0": {Form: assembly.Circle, Radius: 6, Hollow: true, At: solid.Vec{0, 0, c.half},
				Axis: solid.Vec{0, 0, 1}},
			"e1/start & e3/side:c0": {Form: assembly.Circle, Radius: 6, Hollow: true, At: solid.Vec{0, 0, -c.half},
				Axis: solid.Vec{0, 0, -1}},
			"e1/end":                           {Form: assembly.Plane, Axis: solid.Vec{0, 0, 1}},
			"e1/end & e1/side:l0 & e1/side:l3": {Form: assembly.Corner, At: solid.Vec{-46, -16, c.half}},
		}
		for name, w := range want {
			f, ok := made.Shape.Feature(name)
			if !ok {
				t.Errorf("there is no %s", name)
				continue
			}
			if f.Form != w.Form || f.Hollow != w.Hollow || !near(f.Radius, w.Radius, 1e-9) || w.Form != assembly.Plane &&
				f.At.Distance(w.At) > 1e-9 || w.Axis.Norm() > 0 && f.Axis.Distance(w.Axis) > 1e-9 ||
				w.Length > 0 && !near(f.Length, w.Length, 1e-9) || strings.Contains(f.Words, "(") {
				t.Errorf("%s is %+v", name, f)
			}
		}
		if bore, _ := made.Shape.Feature("e3/side:c0"); len(bore.Faces) != 2 {
			t.Errorf("the bore is faces %v of the mesh", bore.Faces)
		}
		data, err := occ.Kernel{}.WriteSTEP([]solid.Titled{{Shape: made.Solid, Name: "fork"}}, "fork", solid.AP242)
		if err != nil {
			t.Fatal(err)
		}
		step, err := maker.STEP(ctx, data, "")
		if err != nil || !near(step.Shape.Props.Volume, made.Shape.Props.Volume, 1e-9) {
			t.Fatal(err)
		}
		round := 0
		for _, f := range step.Shape.Features {
			if f.Form == assembly.Cylinder && strings.HasPrefix(f.Name, "face:") {
				round++
			}
		}
		if round != 2 {
			t.Errorf("of the STEP file %d faces are cylinders", round)
		}
	}
	two := model(t, "mm", "", outline("s1", xy, 0, 0, 10, 0, 10, 10, 0, 10), extrude("e1", "s1", oneSide("7"), ""),
		outline("s2", xy, 20, 0, 30, 0, 30, 10, 20, 10), extrude("e2", "s2", oneSide("5"), `,"result":"new"`))
	if _, err := maker.Model(ctx, two, nil, ""); err == nil || !strings.Contains(err.Error(), "pick one of them") {
		t.Errorf("two solids as one part: %v", err)
	}
	if made, err := maker.Model(ctx, two, nil, "e2"); err != nil || !near(made.Shape.Props.Volume, 500, 1e-9) {
		t.Errorf("one of two solids: %v", err)
	}
	if _, err := shapes.Values(&assembly.Part{Name: "fork", Values: map[string]string{"reach": "3"}}, own,
		table); err == nil ||
		!strings.Contains(err.Error(), `no size "reach"`) {
		t.Errorf("a size that there is not: %v", err)
	}
}
