package occ

import (
	"context"
	"os"
	"testing"
	"time"

	"hammerset/core/part"
	"hammerset/core/solid"
)

func TestTmp(t *testing.T) {
	for _, n := range []string{"bearing-bracket", "gland-flange"} {
		data, _ := os.ReadFile("../../demo/exercises/" + n + "/reference.json")
		d, err := part.Read(data)
		if err != nil {
			t.Fatal(err)
		}
		r := part.NewRebuilder(Kernel{})
		t0 := time.Now()
		b, err := r.Rebuild(context.Background(), d, nil)
		if err != nil {
			t.Fatal(err)
		}
		t.Log(time.Since(t0))
		for _, s := range b.Failed() {
			t.Error(s.Err)
		}
		p, _ := Kernel{}.Props(b.Solid.Shape)
		bx, _ := Kernel{}.Bounds(b.Solid.Shape)
		t.Log(p, bx, b.Solid.Shape.Solids(), Kernel{}.Check(b.Solid.Shape))
		for i, f := range b.Solid.Shape.Faces() {
			t.Log(i, b.Solid.Names[i], f.Kind, f.Radius, f.Hollow, f.Area)
		}
		s, err := Kernel{}.WriteSTEP(b.Solid.Shape, d.Name)
		t.Log(len(s), err)
		c, err := Kernel{}.ReadSTEP(context.Background(), s)
		t.Log(c, err)
		v, err := Kernel{}.View(b.Solid.Shape, solid.World)
		t.Log(len(v), err)
	}
}
