package geometry

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

// seen is what a perfect matching sees of a rebuilt part: measured by names.
func seen(t *testing.T, b bundle, d *part.Document, set map[string]quantity.Quantity) (atlas.Seen, bool) {
	t.Helper()
	built, err := checker().Rebuilder.Rebuild(ctx, d, set)
	if err != nil {
		t.Fatal(err)
	}
	if built.Solid == nil || len(built.Failed()) > 0 {
		return atlas.Seen{}, false
	}
	g, err := inspect.Describe(occ.Kernel{}, built.Solid.Shape, built.Solid.Names)
	if err != nil {
		t.Fatal(err)
	}
	return atlas.Seen{Figures: atlas.FiguresOf(g.Props, g.Solids, solid.Identity), Values: truth(t, b.Parsed, nil, built)}, true
}

// said lists the causes of an explanation.
func said(e *atlas.Explanation) []string {
	var out []string
	for _, c := range e.Causes {
		if c.Entry != nil {
			out = append(out, c.Entry.What)
		} else {
			out = append(out, fmt.Sprintf("%s = %.4f", c.Size.Parameter, c.Value))
		}
	}
	slices.Sort(out)
	return out
}

// What is behind a part is found again: one wrong size or several, one mistake of the
// atlas or two that are in different steps, and a mistake beside a wrong size.
func TestAtlasFindsWhatIsBehind(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	for _, name := range []string{"bearing-bracket", "gland-flange"} {
		b := demoExercise(t, name)
		rb := part.NewRebuilder(occ.Kernel{})
		a, err := documents.ReadAtlas(b.Atlas, b.Parsed, b.ref.Document)
		if err != nil {
			t.Fatal(err)
		}
		doc, _, err := atlas.Expose(b.ref.Document)
		if err != nil {
			t.Fatal(err)
		}
		find := func(what string, need float64, trials int, make func() ([]atlas.Edit, map[string]quantity.Quantity, []string)) {
			t.Helper()
			right, all := 0, 0
			for range trials {
				edits, set, want := make()
				d, err := atlas.Apply(doc, edits)
				if err != nil {
					t.Fatal(err)
				}
				s, ok := seen(t, b, d, set)
				if !ok {
					continue // there is no such part
				}
				e, err := a.Explain(ctx, rb, b.Parsed, b.ref.Document, s)
				if err != nil {
					t.Fatal(err)
				}
				all++
				// What makes the same solid with as few causes is as good: half of a boss whose
				// other half lies in the wall, a size of a rib that is missing.
				if got := said(e); e.Complete && len(got) <= len(want) {
					right++
				} else {
					t.Logf("%s, %s: %s; found %s, complete %v", name, what, strings.Join(want, ", "), strings.Join(got, ", "), e.Complete)
				}
			}
			if all < trials/2 || float64(right) < need*float64(all) {
				t.Errorf("%s: %s named %d of %d times", name, what, right, all)
			}
		}
		wrong := func(set map[string]quantity.Quantity) string {
			for {
				s := a.Sizes[r.IntN(len(a.Sizes))]
				if _, dup := set[s.Parameter]; dup {
					continue
				}
				v := s.Nominal * []float64{0.9, 0.95, 1.03, 1.08, 1.15}[r.IntN(5)]
				set[s.Parameter] = quantity.Quantity{Value: v, Dim: s.Dim}
				return fmt.Sprintf("%s = %.4f", s.Parameter, v)
			}
		}
		for n := 1; n <= 3; n++ {
			find(fmt.Sprint(n, " wrong sizes"), []float64{1, 0.85, 0.8}[n-1], 8, func() ([]atlas.Edit, map[string]quantity.Quantity, []string) {
				set := map[string]quantity.Quantity{}
				var want []string
				for range n {
					want = append(want, wrong(set))
				}
				return nil, set, want
			})
		}
		// Two in steps of which neither stands on the other.
		find("two mistakes", 0.7, 8, func() ([]atlas.Edit, map[string]quantity.Quantity, []string) {
			for {
				x, y := a.Entries[r.IntN(len(a.Entries))], a.Entries[r.IntN(len(a.Entries))]
				touches := func(x, y atlas.Entry) bool {
					return x.Step == y.Step || slices.ContainsFunc(x.Edits, func(e atlas.Edit) bool { return e.Step == y.Step })
				}
				if !touches(x, y) && !touches(y, x) {
					return slices.Concat(x.Edits, y.Edits), nil, []string{x.What, y.What}
				}
			}
		})
		find("a mistake beside a wrong size", 0.6, 8, func() ([]atlas.Edit, map[string]quantity.Quantity, []string) {
			set := map[string]quantity.Quantity{}
			x := a.Entries[r.IntN(len(a.Entries))]
			return x.Edits, set, []string{wrong(set), x.What}
		})
		// Every mistake by itself, from its own figures, whatever the pose.
		for _, e := range a.Entries {
			list := a.Lookup(e.Figures)
			if !slices.ContainsFunc(list, func(x *atlas.Entry) bool { return x.What == e.What }) {
				t.Errorf("%s: %q is not found by its own figures", name, e.What)
			}
		}
		if len(a.Lookup(a.Figures)) > 0 {
			t.Errorf("%s: the part as it should be is a mistake", name)
		}
	}
}

// The atlas that comes with an exercise is what is made from it now.
func TestAtlasIsCurrent(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	kept, err := documents.ReadAtlas(b.Atlas, b.Parsed, b.ref.Document)
	if err != nil {
		t.Fatal(err)
	}
	last := 0.0
	made, err := atlas.Build(ctx, part.NewRebuilder(occ.Kernel{}), b.Parsed, b.ref.Document, func(d float64) {
		if d < last {
			t.Errorf("progress goes back from %g to %g", last, d)
		}
		last = d
	})
	if err != nil {
		t.Fatal(err)
	}
	if len(made.Entries) != len(kept.Entries) || len(made.Sizes) != len(kept.Sizes) || made.Key != kept.Key || last != 1 {
		t.Fatalf("%d and %d entries, %d and %d sizes", len(made.Entries), len(kept.Entries), len(made.Sizes), len(kept.Sizes))
	}
	for i, e := range made.Entries {
		k := kept.Entries[i]
		if e.What != k.What || e.Figures.Solids != k.Figures.Solids || !near(e.Figures.Inner[0], k.Figures.Inner[0], 1e-9) {
			t.Errorf("%s: volume %g, kept %s, %g", e.What, e.Figures.Inner[0], k.What, k.Figures.Inner[0])
		}
	}
	other := *b.Parsed
	other.Characteristics = other.Characteristics[1:]
	if _, err := documents.ReadAtlas(b.Atlas, &other, b.ref.Document); err == nil {
		t.Error("the atlas is taken for another exercise")
	}
	c, stop := cancelled()
	defer stop()
	if _, err := atlas.Build(c, part.NewRebuilder(occ.Kernel{}), b.Parsed, b.ref.Document, func(float64) {}); err == nil {
		t.Error("a cancelled build ends without an error")
	}
}

// The figures of a solid do not depend on its pose, and its sums follow the pose that is
// laid back: the block's second moments are those of the handbook, V a²/12 about its
// middle and by the theorem of Steiner elsewhere.
func TestFigures(t *testing.T) {
	k := occ.Kernel{}
	shape := build(t, model(t, "mm", "", outline("s1", xy, 10, 20, 40, 20, 40, 60, 10, 60), extrude("e1", "s1", oneSide("24"), "")), nil).Solid.Shape
	p := props(t, shape)
	f := atlas.FiguresOf(p, 1, solid.Identity)
	v := 30.0 * 40 * 24
	for i, want := range []float64{v, 2 * (30*40 + 30*24 + 40*24), v * 25, v * 40, v * 12, v * (900.0/12 + 625), v * 25 * 40, v * 25 * 12, v * (1600.0/12 + 1600), v * 40 * 12, v * (576.0/12 + 144)} {
		if !near(f.Sums[i], want, 1e-9) {
			t.Errorf("sum %d is %g, not %g", i, f.Sums[i], want)
		}
	}
	pose := oddPose()
	moved, _, err := k.Transform(shape, pose)
	if err != nil {
		t.Fatal(err)
	}
	q := props(t, moved)
	back := solid.Transform{}
	for r := range 3 {
		for c := range 3 {
			back.M[r][c] = pose.M[c][r]
		}
	}
	back.T = back.Turn(pose.T).Scale(-1)
	g := atlas.FiguresOf(q, 1, back)
	for i := range f.Inner {
		if !near(g.Inner[i], f.Inner[i], 1e-9) {
			t.Errorf("figure %d is %g in another pose, not %g", i, g.Inner[i], f.Inner[i])
		}
	}
	for i := range f.Sums {
		if math.Abs(g.Sums[i]-f.Sums[i]) > 1e-7*v*1600 {
			t.Errorf("sum %d is %g after laying back, not %g", i, g.Sums[i], f.Sums[i])
		}
	}
}
