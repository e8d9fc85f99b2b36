// Package geometry tests the rules of core on the real kernel: rebuilding,
// names, inspection and sheets.
package geometry

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"sync"
	"testing"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

var ctx = context.Background()

// model reads a model document from its steps, through the schema.
func model(t testing.TB, unit, params string, steps ...string) *part.Document {
	t.Helper()
	text := fmt.Sprintf(`{"hammerset":"model/1","name":"test part","unit":%q,"parameters":[%s],"steps":[%s]}`, unit,
		params, strings.Join(steps, ","))
	d, err := documents.ReadModel([]byte(text))
	if err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	return d
}

// outline is a sketch of straight lines l0, l1, ... through the given points.
func outline(id, plane string, xy ...float64) string {
	var e []string
	n := len(xy) / 2
	for i := range n {
		e = append(e, fmt.Sprintf(`{"id":"p%d","kind":"point","at":[%v,%v]}`, i, xy[2*i], xy[2*i+1]))
	}
	for i := range n {
		e = append(e, fmt.Sprintf(`{"id":"l%d","kind":"line","from":"p%d","to":"p%d"}`, i, i, (i+1)%n))
	}
	return fmt.Sprintf(`{"id":%q,"kind":"sketch","plane":%s,"entities":[%s]}`, id, plane, strings.Join(e, ","))
}

// constrained adds constraints to a sketch.
func constrained(sketch, constraints string) string {
	return strings.TrimSuffix(sketch, "}") + `,"constraints":[` + constraints + `]}`
}

// circles is a sketch of circles c0, c1, ... given as x, y, radius.
func circles(id, plane string, xyr ...float64) string {
	var e []string
	for i := 0; i+2 < len(xyr); i += 3 {
		e = append(e, fmt.Sprintf(`{"id":"m%d","kind":"point","at":[%v,%v]},{"id":"c%d","kind":"circle",`+
			`"center":"m%d","radius":%v}`, i/3, xyr[i], xyr[i+1], i/3, i/3, xyr[i+2]))
	}
	return fmt.Sprintf(`{"id":%q,"kind":"sketch","plane":%s,"entities":[%s]}`, id, plane, strings.Join(e, ","))
}

const (
	xy = `{"datum":"XY"}`
	xz = `{"datum":"XZ"}`
	yz = `{"datum":"YZ"}`
)

func extrude(id, sketch, extent, more string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"extrude","sketch":%q,"regions":"all","extent":%s%s}`, id, sketch, extent, more)
}

func oneSide(length string) string {
	return fmt.Sprintf(`{"kind":"one-side","length":%q}`, length)
}

func revolve(id, sketch, axis, more string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"revolve","sketch":%q,"axis":{"line":%q}%s}`, id, sketch, axis, more)
}

// build rebuilds a document whose steps must all stand.
func build(t testing.TB, d *part.Document, set map[string]quantity.Quantity) *part.Build {
	t.Helper()
	b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, d, set)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range b.Failed() {
		t.Fatal(f.Err)
	}
	if b.Solid == nil {
		t.Fatal("there is no solid")
	}
	if err := (occ.Kernel{}).Check(b.Solid.Shape); err != nil {
		t.Fatal(err)
	}
	return b
}

func props(t testing.TB, s solid.Shape) solid.Props {
	t.Helper()
	p, err := occ.Kernel{}.Props(s)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func near(a, b, rel float64) bool { return math.Abs(a-b) <= rel*math.Max(1e-12, math.Abs(b)) }

// bundle is one of the demo's exercises, parsed.
type bundle struct {
	*documents.Bundle
	ref check.Reference
}

func demoExercise(t testing.TB, name string) bundle {
	t.Helper()
	b, err := demo.Bundle(name)
	if err != nil {
		t.Fatal(err)
	}
	ref, err := documents.ReadReference(b.Reference)
	if err != nil {
		t.Fatal(err)
	}
	if ref.Atlas, err = documents.ReadAtlas(b.Atlas, b.Parsed, ref.Document); err != nil {
		t.Fatal(err)
	}
	return bundle{b, ref}
}

// checker is one for all tests, as a kernel child keeps one for many attempts.
var checker = sync.OnceValue(func() *check.Checker {
	return &check.Checker{Rebuilder: part.NewRebuilder(occ.Kernel{}), Sweeps: &robust.Cache{}}
})

// stepAttempt is the solid of a model, moved and mirrored or enlarged, as a STEP
// file.
func stepAttempt(t testing.TB, d *part.Document, move solid.Transform, scale float64) check.Attempt {
	t.Helper()
	k := occ.Kernel{}
	b := build(t, d, nil)
	for i := range 3 {
		move.M[i] = move.M[i].Scale(scale)
	}
	s, _, err := k.Transform(b.Solid.Shape, move)
	if err != nil {
		t.Fatal(err)
	}
	data, err := k.WriteSTEP([]solid.Titled{{Shape: s, Name: "attempt"}}, "attempt", solid.AP214)
	if err != nil {
		t.Fatal(err)
	}
	return check.Attempt{Name: "attempt.step", STEP: data}
}

// run checks an attempt and proves that its report fits the published schema.
func run(t testing.TB, ex *exercise.Exercise, ref check.Reference, att check.Attempt) *report.Report {
	t.Helper()
	out, err := checker().Part(ctx, check.Subject{Exercise: ex, Reference: ref, Attempt: att}, func(string, float64) {})
	if err != nil {
		t.Fatal(err)
	}
	// The trace says of every verdict which stage set it: the last judgement is the one that stands.
	last := map[string]report.Judgement{}
	for _, j := range out.Trace {
		last[j.Characteristic] = j
	}
	for _, c := range out.Report.Characteristics {
		if j := last[c.ID]; j.Verdict != c.Verdict || j.Carried != c.Carried || j.Why == "" {
			t.Errorf("%s is %s (carried: %v), and the trace ends with %+v", c.ID, c.Verdict, c.Carried, j)
		}
	}
	traced := *out.Report
	traced.Trace = out.Trace
	data, err := json.Marshal(&traced)
	if err != nil {
		t.Fatal(err)
	}
	if err := documents.Validate("report", data); err != nil {
		t.Errorf("the report does not fit its schema: %v", err)
	}
	return out.Report
}

// wrong lists the characteristics that are not in, with their verdicts.
func wrong(r *report.Report) string {
	var out []string
	for _, c := range r.Characteristics {
		if c.Verdict != report.In {
			out = append(out, fmt.Sprintf("%s %s", c.ID, c.Verdict))
		}
	}
	return strings.Join(out, ", ")
}

// edited is the reference of an exercise with texts replaced.
func edited(t testing.TB, b bundle, pairs ...string) check.Attempt {
	t.Helper()
	data, err := demo.Edited(b.Reference, pairs...)
	if err != nil {
		t.Fatal(err)
	}
	d, err := documents.ReadModel(data)
	if err != nil {
		t.Fatal(err)
	}
	return check.Attempt{Name: "attempt.json", Document: d}
}

// cancelled is a context that is done already.
func cancelled() (context.Context, context.CancelFunc) {
	c, stop := context.WithCancel(ctx)
	stop()
	return c, stop
}
