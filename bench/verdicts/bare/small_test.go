package bare

import (
	"context"
	"errors"
	"strings"
	"testing"

	"hammerset/core/report"
)

// A guard over all eight exercises: every third mistake of each is named before anything else, no wrong size is
// in, what is within its limits has full marks and nothing to be told, and no finding says what cannot be.
func TestMistakesAreNamed(t *testing.T) {
	c, err := newCorpus(29)
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	check := func(a *attempt) *report.Report {
		t.Helper()
		r, err := c.check(ctx, a)
		if errors.Is(err, errNone) {
			t.Fatalf("%v: there is no such part", a)
		}
		if err != nil {
			t.Fatalf("%v: %v", a, err)
		}
		return r
	}
	for k, task := range c.tasks {
		for i := k % 3; i < len(task.changes); i += 3 {
			x := &task.changes[i]
			check(task.with(x.kind, []*fault{{kind: x.kind, change: x}}))
		}
		in := task.with("within the limits", []*fault{c.near(task, 0.8), c.near(task, 0.7)})
		if r := check(in); r.Count(report.Ask) == 0 && len(r.WhatIfs) == 0 && points(r) < r.OutOf-1e-9 &&
			task.exercise != "pawl-plate" {
			t.Errorf("%v has %g of %g points", in, points(r), r.OutOf)
		}
	}
	for kind, x := range c.results {
		if x.wrongIn+x.wrongOut > 0 || x.named < x.of || x.falsely > 0 {
			t.Errorf("%s: %d wrong in, %d wrong out, %d of %d named first, %d told falsely; make bench-verdicts WRONG=1 "+
				"prints them", kind, x.wrongIn, x.wrongOut, x.named, x.of, x.falsely)
		}
	}
	for _, law := range c.broken {
		t.Error(law)
	}
}

// Mistakes that are made one after the other never raise the mark.
func TestMarksFallWithMistakes(t *testing.T) {
	c, err := newCorpus(5)
	if err != nil {
		t.Fatal(err)
	}
	for _, task := range c.tasks[:4] {
		faults := c.several(task, 3)
		before := task.ex.Rubric.Characteristics + 1e3
		for n := range len(faults) + 1 {
			a := task.with("two", faults[:n])
			r, err := c.check(context.Background(), a)
			if errors.Is(err, errNone) {
				break
			}
			if err != nil {
				t.Fatal(err)
			}
			if is := points(r); is > before+1e-9 {
				t.Errorf("%v: %g points, and %g without the last", a, is, before)
			} else {
				before = is
			}
		}
	}
}

// Where the sheet gives a depth, another one is a wrong size, and not blind in place of through, whatever else is
// wrong beside it.
func TestADepthIsASize(t *testing.T) {
	c, err := newCorpus(1)
	if err != nil {
		t.Fatal(err)
	}
	var plate *task
	for _, k := range c.tasks {
		if k.exercise == "pawl-plate" {
			plate = k
		}
	}
	faults := []*fault{}
	for i := range plate.sizes {
		if z := &plate.sizes[i]; z.name == "deep" {
			faults = append(faults, &fault{kind: "size", size: z, value: 0.8 * z.value})
		}
	}
	for i := range plate.changes {
		if x := &plate.changes[i]; x.name == "extra hole" || x.name == "holes blind" {
			faults = append(faults, &fault{kind: x.kind, change: x})
		}
	}
	a := plate.with("three", faults)
	r, err := c.check(context.Background(), a)
	if err != nil {
		t.Fatal(err)
	}
	depth := false
	for _, f := range a.told(r) {
		depth = depth || f.Characteristic == "pocket_d"
		if strings.Contains(f.What, "pocket: blind") {
			t.Errorf("%s", f.What)
		}
	}
	if !depth {
		t.Errorf("the depth is not told: %+v", a.told(r))
	}
}
