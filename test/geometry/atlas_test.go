package geometry

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
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
	out := atlas.Seen{Figures: atlas.FiguresOf(g.Props, g.Solids, solid.Identity), Values: atlas.Values{}}
	for id, list := range truth(t, b.Parsed, nil, built) {
		out.Values[id] = list
	}
	return out, true
}

func said(e *atlas.Explanation) string {
	var out []string
	for _, c := range e.Causes {
		if c.Entry != nil {
			out = append(out, c.Entry.What)
		} else {
			out = append(out, fmt.Sprintf("%s = %.6g", c.Size.Parameter, c.Value))
		}
	}
	return strings.Join(out, "; ")
}

func TestAtlas(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	for _, name := range []string{"bearing-bracket", "gland-flange"} {
		b := demoExercise(t, name)
		start := time.Now()
		rb := part.NewRebuilder(occ.Kernel{})
		a, err := atlas.Build(ctx, rb, b.Parsed, b.ref.Document, func(float64) {})
		if err != nil {
			t.Fatal(err)
		}
		t.Logf("%s: %d sizes, %d entries in %v", name, len(a.Sizes), len(a.Entries), time.Since(start))
		for _, e := range a.Entries {
			t.Log(e.Kind, e.What, e.Edits)
		}
		// Sizes.
		doc, _, err := atlas.Expose(b.ref.Document)
		if err != nil {
			t.Fatal(err)
		}
		for n := 1; n <= 3; n++ {
			right, all := 0, 0
			for range 8 {
				set := map[string]quantity.Quantity{}
				var want []string
				for range n {
					s := a.Sizes[r.IntN(len(a.Sizes))]
					v := s.Nominal * []float64{0.9, 0.95, 1.03, 1.08, 1.15}[r.IntN(5)]
					set[s.Parameter] = quantity.Quantity{Value: v, Dim: s.Dim}
					want = append(want, fmt.Sprintf("%s = %.6g", s.Parameter, v))
				}
				sn, ok := seen(t, b, doc, set)
				if !ok {
					continue
				}
				all++
				st := time.Now()
				e, err := a.Explain(ctx, rb, b.Parsed, b.ref.Document, sn)
				if err != nil {
					t.Fatal(err)
				}
				got := said(e)
				hit := e.Complete && len(e.Causes) == len(set)
				for _, w := range want {
					hit = hit && strings.Contains(got, w)
				}
				if hit {
					right++
				} else {
					t.Logf("want %v, got %s, complete %v, %v", want, got, e.Complete, time.Since(st))
				}
			}
			t.Logf("%d sizes: %d of %d", n, right, all)
		}
		// Pairs.
		right, all := 0, 0
		for range 12 {
			x, y := a.Entries[r.IntN(len(a.Entries))], a.Entries[r.IntN(len(a.Entries))]
			d, err := atlas.Apply(doc, append(append([]atlas.Edit{}, x.Edits...), y.Edits...))
			if err != nil {
				continue
			}
			sn, ok := seen(t, b, d, nil)
			if !ok {
				continue
			}
			all++
			st := time.Now()
			e, err := a.Explain(ctx, rb, b.Parsed, b.ref.Document, sn)
			if err != nil {
				t.Fatal(err)
			}
			if got := said(e); e.Complete && strings.Contains(got, x.What) && strings.Contains(got, y.What) {
				right++
			} else {
				t.Logf("want %s; %s, got %s, complete %v %v", x.What, y.What, got, e.Complete, time.Since(st))
			}
		}
		t.Logf("pairs: %d of %d", right, all)
	}
}
