package geometry

import (
	"math"
	"testing"

	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/shapes"
	"hammerset/core/part"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/core/stock"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

// Every standard part of every size is made; those that are measured here have the volumes of their closed forms; and a
// screw in its nut is a thread and no collision.
func TestStandardParts(t *testing.T) {
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(occ.Kernel{})}
	made := func(kind, size string, length float64) *shapes.Made {
		t.Helper()
		title, data, err := stock.Document(kind, size, length)
		if err != nil {
			t.Fatal(err)
		}
		doc, err := documents.ReadModel(data)
		if err != nil {
			t.Fatalf("%s: %v", title, err)
		}
		m, err := maker.Model(ctx, doc, nil, "")
		if err != nil {
			t.Fatalf("%s: %v", title, err)
		}
		if m.Shape.Material != "steel" || m.Shape.Density == 0 {
			t.Errorf("%s is of %q", title, m.Shape.Material)
		}
		return m
	}
	for _, k := range stock.Kinds() {
		for _, size := range k.Sizes {
			made(k.Name, size, 30)
		}
	}
	hexagon := func(flats, high float64) float64 { return math.Sqrt(3) / 2 * flats * flats * high }
	for _, c := range []struct {
		kind, size string
		length     float64
		volume     float64
	}{
		{"Hexagon head screw", "M8", 30, hexagon(13, 5.3) + math.Pi*16*30},
		{"Socket head cap screw", "M6", 20, math.Pi*25*6 + math.Pi*9*20 - hexagon(5, 3)},
		{"Hexagon nut", "M8", 0, hexagon(13, 6.8) - math.Pi/4*math.Pow(8-1.0825*1.25, 2)*6.8},
		{"Plain washer", "M8", 0, math.Pi * (64 - 4.2*4.2) * 1.6},
		{"Parallel pin", "2.5", 12, math.Pi / 4 * 2.5 * 2.5 * 12},
		{"Parallel key, square ends", "8x7", 25, 8 * 7 * 25},
	} {
		if v := made(c.kind, c.size, c.length).Shape.Props.Volume; !near(v, c.volume, 1e-9) {
			t.Errorf("%s %s has %g mm³, not %g", c.kind, c.size, v, c.volume)
		}
	}
	screw, nut := made("Hexagon head screw", "M8", 30), made("Hexagon nut", "M8", 0)
	down := rigid.Still()
	down.Shift = solid.Vec{0, 0, -20}
	l := clash.Looker{Kernel: occ.Kernel{}}
	pairs, err := l.All(ctx, []clash.Placed{{ID: "screw", Pose: rigid.Still(), Shape: screw.Shape, Solid: screw.Solid},
		{ID: "nut", Pose: down, Shape: nut.Shape, Solid: nut.Solid}}, func(float64) {})
	if err != nil || len(pairs) != 1 || pairs[0].Kind != clash.Thread {
		t.Errorf("a screw in its nut: %+v, %v", pairs, err)
	}
	shape := nut.Shape
	for _, f := range shape.Features {
		if f.Form == assembly.Cylinder && f.Thread != "M8" {
			t.Errorf("the nut's thread is %q", f.Thread)
		}
	}
	for _, bad := range []struct {
		kind, size string
		length     float64
	}{{"Rivet", "M8", 10}, {"Hexagon nut", "M7", 0}, {"Parallel pin", "6", 0}, {"Parallel pin", "6", 1e4},
		{"Parallel pin", "6", math.NaN()}} {
		if _, _, err := stock.Document(bad.kind, bad.size, bad.length); err == nil {
			t.Errorf("%+v is made", bad)
		}
	}
}
