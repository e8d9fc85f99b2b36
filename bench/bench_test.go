// Package bench measures what people wait for. Nothing here passes or fails by
// the clock.
package bench

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

// plate is a plate with 94 holes, 100 faces in all, and its exercise.
func plate(b *testing.B) (*exercise.Exercise, *part.Document, []byte) {
	b.Helper()
	var ents, at []string
	for i := range 94 {
		ents = append(ents, fmt.Sprintf(`{"id":"p%d","kind":"point","at":[%d,%d]}`, i, 10+i%12*15, 10+i/12*15))
		at = append(at, fmt.Sprintf(`"p%d"`, i))
	}
	doc, err := documents.ReadModel([]byte(`{"hammerset":"model/1","name":"plate","unit":"mm","parameters":[],"steps":[
	{"id":"s1","kind":"sketch","plane":{"datum":"XY"},"entities":[{"id":"a","kind":"point","at":[0,0]},{"id":"b",
	"kind":"point","at":[190,0]},{"id":"c","kind":"point","at":[190,130]},{"id":"d","kind":"point","at":[0,130]},
	{"id":"ab","kind":"line","from":"a","to":"b"},{"id":"bc","kind":"line","from":"b","to":"c"},{"id":"cd","kind":"line",
	"from":"c","to":"d"},{"id":"da","kind":"line","from":"d","to":"a"}]},
	{"id":"e1","kind":"extrude","sketch":"s1","extent":{"kind":"one-side","length":"12"}},
	{"id":"s2","kind":"sketch","plane":{"face":"e1/end"},"entities":[` + strings.Join(ents, ",") + `]},
	{"id":"h","kind":"hole","sketch":"s2","at":[` + strings.Join(at, ",") + `],"diameter":"6"}]}`))
	if err != nil {
		b.Fatal(err)
	}
	built, err := part.NewRebuilder(occ.Kernel{}).Rebuild(context.Background(), doc, nil)
	if err != nil || len(built.Failed()) > 0 || len(built.Solid.Names) != 100 {
		b.Fatalf("the plate: %v %v", err, built.Failed())
	}
	data, err := occ.Kernel{}.WriteSTEP([]solid.Titled{{Shape: built.Solid.Shape, Name: "plate"}}, "plate", solid.AP214)
	if err != nil {
		b.Fatal(err)
	}
	ex := &exercise.Exercise{Title: "Plate", Unit: "mm", Solids: 1, Rubric: exercise.Rubric{Characteristics: 1},
		Characteristics: []exercise.Characteristic{
			{ID: "w", Balloon: 1, Kind: "distance", Of: [][]address.Ref{address.List("e1/side:bc", "e1/side:da")}},
			{ID: "d", Balloon: 2, Kind: "diameter", Of: [][]address.Ref{address.List("h.*/bore")}}}}
	return ex, doc, data
}

// BenchmarkCheck100Faces prints the time of a full check of a STEP part with 100
// faces beside the bare kernel's time to read it and compute its volume, and
// their ratio. A child keeps the reference from attempt to attempt: the first check, which
// rebuilds it, is counted by itself.
func BenchmarkCheck100Faces(b *testing.B) {
	ex, doc, data := plate(b)
	ctx := context.Background()
	k := occ.Kernel{}
	c := &check.Checker{Rebuilder: part.NewRebuilder(k), Sweeps: &robust.Cache{}}
	once := func() time.Duration {
		start := time.Now()
		out, err := c.Part(ctx, check.Subject{Exercise: ex, Reference: check.Reference{Document: doc},
			Attempt: check.Attempt{STEP: data}}, func(string, float64) {})
		if err != nil || out.Report.Count(report.In) != 2 {
			b.Fatalf("the check: %v", err)
		}
		return time.Since(start)
	}
	var full, bare time.Duration
	first := once()
	n := 0
	for b.Loop() {
		full += once()
		start := time.Now()
		content, err := k.ReadSTEP(ctx, data)
		if err != nil {
			b.Fatal(err)
		}
		if _, err := k.Props(content.Shape); err != nil {
			b.Fatal(err)
		}
		bare += time.Since(start)
		n++
	}
	b.ReportMetric(float64(full.Milliseconds())/float64(n), "ms/check")
	b.ReportMetric(float64(bare.Milliseconds())/float64(n), "ms/bare")
	b.ReportMetric(float64(full)/float64(bare), "check/bare")
	b.ReportMetric(float64(first.Milliseconds()), "ms/first")
}

// BenchmarkRebuild prints the time of a rebuild of the bracket from nothing and
// after one parameter has changed.
func BenchmarkRebuild(b *testing.B) {
	bundle, err := demo.Bundle("bearing-bracket")
	if err != nil {
		b.Fatal(err)
	}
	var doc part.Document
	if err := json.Unmarshal(bundle.Reference, &doc); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if _, err := part.NewRebuilder(occ.Kernel{}).Rebuild(context.Background(), &doc, nil); err != nil {
			b.Fatal(err)
		}
	}
}
