package bench

import (
	"context"
	"path/filepath"
	"testing"
	"time"

	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
	"hammerset/kernel/pool"
	"hammerset/kernel/task"
)

// timed is the kernel with the time spent in its C++ calls added up.
type timed struct {
	occ.Kernel
	spent *time.Duration
}

func (k timed) since(s time.Time) { *k.spent += time.Since(s) }

func (k timed) Prism(p solid.Profile, v solid.Vec) (solid.Shape, solid.History, error) {
	defer k.since(time.Now())
	return k.Kernel.Prism(p, v)
}

func (k timed) Revolve(p solid.Profile, o, v solid.Vec, a float64) (solid.Shape, solid.History, error) {
	defer k.since(time.Now())
	return k.Kernel.Revolve(p, o, v, a)
}

func (k timed) Boolean(op solid.Operation, a solid.Shape, t []solid.Shape) (solid.Shape, solid.History, error) {
	defer k.since(time.Now())
	return k.Kernel.Boolean(op, a, t)
}

func (k timed) Simplify(s solid.Shape) (solid.Shape, solid.History, error) {
	defer k.since(time.Now())
	return k.Kernel.Simplify(s)
}

func (k timed) Fillet(s solid.Shape, e []int, r []float64) (solid.Shape, solid.History, error) {
	defer k.since(time.Now())
	return k.Kernel.Fillet(s, e, r)
}

func (k timed) Transform(s solid.Shape, t solid.Transform) (solid.Shape, solid.History, error) {
	defer k.since(time.Now())
	return k.Kernel.Transform(s, t)
}

func (k timed) Check(s solid.Shape) error {
	defer k.since(time.Now())
	return k.Kernel.Check(s)
}

func (k timed) Props(s solid.Shape) (solid.Props, error) {
	defer k.since(time.Now())
	return k.Kernel.Props(s)
}

func (k timed) Bounds(s solid.Shape) (solid.Box, error) {
	defer k.since(time.Now())
	return k.Kernel.Bounds(s)
}

func bracket(b *testing.B) (*part.Document, []byte) {
	b.Helper()
	x, err := demo.Bundle("bearing-bracket")
	if err != nil {
		b.Fatal(err)
	}
	d, err := documents.ReadModel(x.Reference)
	if err != nil {
		b.Fatal(err)
	}
	return d, x.Reference
}

// BenchmarkRebuildThroughChild rebuilds the demo's bracket of 14 steps at a new width each time,
// through core and a kernel child, and compares with the time that the same kernel
// calls take by themselves, the measures that a child gives with it among them. Wanted: a
// ratio under 1.15.
func BenchmarkRebuildThroughChild(b *testing.B) {
	doc, data := bracket(b)
	var spent time.Duration
	r := part.NewRebuilder(timed{spent: &spent})
	ctx := context.Background()
	if _, err := r.Rebuild(ctx, doc, nil); err != nil {
		b.Fatal(err)
	}
	program, err := filepath.Abs("../bin/hammerset")
	if err != nil {
		b.Fatal(err)
	}
	p := pool.New(pool.Config{Command: []string{program, "kernel"}, Size: 1})
	defer p.Close()
	if _, err := p.Do(ctx, &task.Request{Kind: task.Rebuild, File: data}, nil); err != nil {
		b.Fatal(err)
	}
	spent = 0
	var through time.Duration
	n := 0
	for b.Loop() {
		n++
		width := 120 + float64(n)*0.01
		built, err := r.Rebuild(ctx, doc, map[string]quantity.Quantity{"width": {Value: width, Dim: quantity.Length}})
		if err == nil {
			_, err = inspect.Describe(timed{spent: &spent}, built.Solid.Shape, nil)
		}
		if err != nil {
			b.Fatal(err)
		}
		s := time.Now()
		if _, err := p.Do(ctx, &task.Request{Kind: task.Rebuild, File: data, Set: map[string]string{"width": quantity.FormatDecimal(width, 4)}}, nil); err != nil {
			b.Fatal(err)
		}
		through += time.Since(s)
	}
	b.ReportMetric(float64(through)/float64(spent), "×kernel")
	b.ReportMetric(float64(through.Milliseconds())/float64(n), "ms/rebuild")
}

// BenchmarkVariants rebuilds 50 variants of the bracket, each driving size in turn,
// with what is common kept, against 50 rebuilds from nothing. Wanted: under 0.6. A
// history is a chain: a size of an early step leaves little in common, and the last
// steps (rounds) are made anew for every one.
func BenchmarkVariants(b *testing.B) {
	doc, _ := bracket(b)
	ctx := context.Background()
	variants := func() []map[string]quantity.Quantity {
		t, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, doc, nil)
		if err != nil {
			b.Fatal(err)
		}
		var out []map[string]quantity.Quantity
		for i := 0; len(out) < 50; i++ {
			for _, name := range t.Table.Driving() {
				if q, _ := t.Table.Lookup(name); len(out) < 50 {
					q.Value *= 1 + 0.01*float64(i+1)
					out = append(out, map[string]quantity.Quantity{name: q})
				}
			}
		}
		return out
	}()
	run := func(fresh bool) time.Duration {
		r := part.NewRebuilder(occ.Kernel{})
		s := time.Now()
		for _, set := range variants {
			if fresh {
				r = part.NewRebuilder(occ.Kernel{})
			}
			if _, err := r.Rebuild(ctx, doc, set); err != nil {
				b.Fatal(err)
			}
		}
		return time.Since(s)
	}
	var kept, from time.Duration
	for b.Loop() {
		kept += run(false)
		from += run(true)
	}
	b.ReportMetric(float64(kept)/float64(from), "×fresh")
}
