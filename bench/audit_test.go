package bench

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/sheet/audit"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

// BenchmarkAudit tells how long it takes to find whether a sheet determines a plate of 60 and of 200 faces, of which
// every hole is placed and sized, and one is not.
func BenchmarkAudit(b *testing.B) {
	for _, faces := range []int{60, 200} {
		b.Run(fmt.Sprint(faces, " faces"), func(b *testing.B) {
			g, ex := drilled(b, faces-6)
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
func drilled(b *testing.B, holes int) (*solid.Geometry, *exercise.Exercise) {
	b.Helper()
	ex := &exercise.Exercise{Unit: "mm"}
	state := func(kind string, faces ...string) {
		var place []address.Ref
		for _, f := range faces {
			place = append(place, address.Ref{Name: f})
		}
		ex.Characteristics = append(ex.Characteristics, exercise.Characteristic{ID: fmt.Sprint("n", len(ex.Characteristics)),
			Kind: kind, Of: [][]address.Ref{place}})
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
	return g, ex
}
