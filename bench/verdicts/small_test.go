package verdicts

import (
	"context"
	"math/rand/v2"
	"slices"
	"testing"

	"hammerset/core/check"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/part"
	"hammerset/core/robust"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// A small corpus over three of the exercises, as a guard: no wrong size is in, hardly a
// right one out, mirror images and wrong units are all recognised, and most causes named.
func TestSmallCorpus(t *testing.T) {
	list, err := tasks()
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	k := occ.Kernel{}
	checker := &check.Checker{Rebuilder: part.NewRebuilder(k), Sweeps: &robust.Cache{}}
	m := &maker{k, part.NewRebuilder(k), rand.New(rand.NewPCG(31, 0))}
	all := &tally{}
	flags, flagged := 0, 0
	for i := range list {
		tk := &list[i]
		if !slices.Contains([]string{"pawl plate", "winch spindle", "guide block"}, tk.name) {
			continue
		}
		if tk.ref.Atlas, err = atlas.Build(ctx, part.NewRebuilder(k), tk.ex, tk.ref.Document, func(float64) {}); err != nil {
			t.Fatal(err)
		}
		key, _, err := checker.Load(ctx, tk.ref)
		if err != nil {
			t.Fatal(err)
		}
		ref, err := solid.Describe(k, key.Shape, key.Names)
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range kinds {
			tries := 0
			for made := 0; made < 2; tries++ {
				a, ok := m.make(ctx, tk, ref, x.name)
				if !ok {
					if tries > 60 {
						break // this part is not made like that
					}
					continue
				}
				made++
				if a.att.Document != nil { // their sizes are varied elsewhere
					b, err := checker.Rebuilder.Rebuild(ctx, a.att.Document, nil)
					if err != nil {
						t.Fatal(err)
					}
					if a.att, err = m.step(b.Solid.Shape, m.pose()); err != nil {
						t.Fatal(err)
					}
				}
				out, err := checker.Part(ctx, check.Subject{Exercise: tk.ex, Reference: tk.ref, Attempt: a.att},
					func(string, float64) {})
				if err != nil {
					t.Fatalf("%v: %v", a, err)
				}
				before := *all
				all.judge(a, out.Report, false)
				if all.wrongIn > before.wrongIn || all.wrongOut > before.wrongOut {
					t.Logf("%v: %d wrong in, %d wrong out", a, all.wrongIn-before.wrongIn, all.wrongOut-before.wrongOut)
				}
				if a.mirror || a.unit {
					flags++
					flagged += all.flagged - before.flagged
				} else if all.flagged > before.flagged {
					t.Errorf("%v is taken for a mirror image or a wrong unit", a)
				}
			}
		}
	}
	if all.verdicts < 500 || all.wrongIn > 0 || float64(all.wrongOut) > 0.01*float64(all.rightGeometry) {
		t.Errorf("of %d verdicts %d are wrongly in and %d wrongly out", all.verdicts, all.wrongIn, all.wrongOut)
	}
	if all.figures > 0 {
		t.Errorf("%d right attempts have figures of the whole that are out", all.figures)
	}
	if flagged != flags {
		t.Errorf("%d of %d mirror images and wrong units are recognised", flagged, flags)
	}
	if float64(all.named) < 0.8*float64(all.of) {
		t.Errorf("all causes are named of %d attempts in %d", all.named, all.of)
	}
}
