package bench

import (
	"context"
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/sheet"
	"hammerset/core/sheet/audit"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/formats/lettering"
	"hammerset/kernel/occ"
)

// BenchmarkAudit tells how long it takes to find whether a sheet determines a plate of 60 and of 200 faces, of which
// every hole is placed and sized, and one is not.
func BenchmarkAudit(b *testing.B) {
	for _, faces := range []int{60, 200} {
		b.Run(fmt.Sprint(faces, " faces"), func(b *testing.B) {
			g, ex, _ := drilled(b, faces-6)
			for b.Loop() {
				r, err := audit.Of(g, ex)
				if err != nil || len(r.Missing) != 1 || len(r.Twice) != 0 {
					b.Fatalf("%v: %d missing, %d twice", err, len(r.Missing), len(r.Twice))
				}
			}
		})
	}
}

// drilled is a plate with holes, and a sheet that states all of it but how far one hole is from the left.
func drilled(b *testing.B, holes int) (*solid.Geometry, *exercise.Exercise, *part.Named) {
	b.Helper()
	ex := &exercise.Exercise{Unit: "mm"}
	state := func(kind string, faces ...string) {
		var place []address.Ref
		for _, f := range faces {
			place = append(place, address.Ref{Name: f})
		}
		ex.Characteristics = append(ex.Characteristics, exercise.Characteristic{ID: fmt.Sprint("n", len(ex.Characteristics)),
			Balloon: len(ex.Characteristics) + 1, Kind: kind, Of: [][]address.Ref{place}})
	}
	state("distance", "e1/side:l1", "e1/side:l3")
	state("distance", "e1/side:l0", "e1/side:l2")
	state("distance", "e1/start", "e1/end")
	var circles []string
	for i := range holes {
		x, y, r := 10+14*(i%15)+i/15, 10+14*(i/15)+i%15, 3+0.01*float64(i)
		circles = append(circles, fmt.Sprintf(`{"id":"m%d","kind":"point","at":[%d,%d]},{"id":"c%d","kind":"circle",`+
			`"center":"m%d","radius":%g}`, i, x, y, i, i, r))
		name := fmt.Sprintf("e2/side:c%d", i)
		state("diameter", name)
		state("distance", name, "e1/side:l0")
		if i > 0 {
			state("distance", name, "e1/side:l3")
		}
	}
	text := `{"hammerset":"model/1","name":"plate","unit":"mm","parameters":[],"steps":[` +
		`{"id":"s1","kind":"sketch","plane":{"datum":"XY"},"entities":[{"id":"p0","kind":"point","at":[0,0]},` +
		`{"id":"p1","kind":"point","at":[240,0]},{"id":"p2","kind":"point","at":[240,231]},` +
		`{"id":"p3","kind":"point","at":[0,231]},{"id":"l0","kind":"line","from":"p0","to":"p1"},` +
		`{"id":"l1","kind":"line","from":"p1","to":"p2"},{"id":"l2","kind":"line","from":"p2","to":"p3"},` +
		`{"id":"l3","kind":"line","from":"p3","to":"p0"}]},{"id":"e1","kind":"extrude","sketch":"s1","regions":"all",` +
		`"extent":{"kind":"one-side","length":"9 mm"}},{"id":"s2","kind":"sketch","plane":{"datum":"XY"},"entities":[` +
		strings.Join(circles, ",") + `]},{"id":"e2","kind":"extrude","sketch":"s2","regions":"all","result":"cut",` +
		`"reverse":true,"extent":{"kind":"one-side","length":"9 mm"}}]}`
	doc, err := documents.ReadModel([]byte(text))
	if err != nil {
		b.Fatal(err)
	}
	built, err := part.NewRebuilder(occ.Kernel{}).Rebuild(context.Background(), doc, nil)
	if err != nil || built.Solid == nil {
		b.Fatal(err, "no solid")
	}
	g, err := solid.Describe(occ.Kernel{}, built.Solid.Shape, built.Solid.Names)
	if err != nil {
		b.Fatal(err)
	}
	return g, ex, built.Solid
}

// BenchmarkSheet tells how long a whole sheet of a part of 100 faces takes, with three views and a
// pictorial one; beside it the same views by the kernel alone, and finding out what of 60 faces is to be seen.
func BenchmarkSheet(b *testing.B) {
	ctx, k := context.Background(), occ.Kernel{}
	font, err := lettering.Load()
	if err != nil {
		b.Fatal(err)
	}
	geo, ex, shape := drilled(b, 94)
	ex.Sheets = []exercise.Sheet{{}}
	s := sheet.Arrange(geo, ex)
	ex.Sheets = []exercise.Sheet{s}
	r := math.Sqrt(0.5)
	frames := map[string]solid.Frame{"front": {X: solid.Vec{1}, Y: solid.Vec{0, 0, 1}, Z: solid.Vec{0, -1}},
		"top":       {X: solid.Vec{1}, Y: solid.Vec{0, 1}, Z: solid.Vec{0, 0, 1}},
		"left":      {X: solid.Vec{0, -1}, Y: solid.Vec{0, 0, 1}, Z: solid.Vec{-1}},
		"pictorial": {X: solid.Vec{r, r}, Y: solid.Vec{-0.5, 0.5, r}, Z: solid.Vec{0.5, -0.5, r}}}
	b.Run("by the kernel alone", func(b *testing.B) {
		for b.Loop() {
			for _, v := range s.Views {
				if _, err := k.View(shape.Shape, frames[v.Kind]); err != nil {
					b.Fatal(err)
				}
			}
		}
	})
	b.Run("the whole sheet", func(b *testing.B) {
		for b.Loop() {
			if _, err := sheet.Draw(ctx, k, ex, shape, font); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("what is to be seen of 60 faces", func(b *testing.B) {
		geo, ex, shape := drilled(b, 54)
		ex.Sheets = []exercise.Sheet{{}}
		s := sheet.Arrange(geo, ex)
		for b.Loop() {
			p, err := sheet.Project(ctx, k, exercise.Sheets{s}, shape, nil)
			if err == nil {
				_, err = p.Seen(exercise.Sheets{s})
			}
			if err != nil {
				b.Fatal(err)
			}
		}
	})
}
