// Package verdicts measures how far the verdicts of a check can be trusted: it makes a
// corpus of attempts whose truth is known, checks them all, and prints what it found, a
// line for each kind of attempt.
package verdicts

import (
	"context"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"text/tabwriter"
	"time"

	"hammerset/core/check"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// tally counts the verdicts on one kind of attempt.
type tally struct {
	attempts, verdicts, right, wrongIn, wrongOut, ask int
	rightGeometry                                     int // verdicts on geometry that is in
	flagged, named, of                                int
	figures                                           int // right attempts with a figure of the whole that is out
	explained                                         int
	spent                                             time.Duration
}

// Flags of make bench-verdicts.
var (
	seed     = flag.Uint64("seed", 1, "of the corpus")
	attempts = flag.Int("attempts", 0, "how many are made")
	loud     = flag.Bool("wrong", false, "print every wrong verdict and every cause that was not named")
	sweep    = flag.Bool("sweep", false, "vary the sizes of model documents as well (slow)")
)

// BenchmarkVerdicts checks a corpus and prints the table.
func BenchmarkVerdicts(b *testing.B) {
	if *attempts == 0 {
		b.Skip("the corpus is made by make bench-verdicts")
	}
	for b.Loop() {
		if err := run(b.Context(), *seed, *attempts, *loud, *sweep); err != nil {
			b.Fatal(err)
		}
	}
}

func run(ctx context.Context, seed uint64, count int, loud, sweep bool) error {
	list, err := tasks()
	if err != nil {
		return err
	}
	k := occ.Kernel{}
	checker := &check.Checker{Rebuilder: part.NewRebuilder(k), Sweeps: &robust.Cache{}}
	m := &maker{k, part.NewRebuilder(k), rand.New(rand.NewPCG(seed, 0))}
	refs := make([]*solid.Geometry, len(list))
	for i := range list {
		t := &list[i]
		start := time.Now()
		if t.ref.Atlas, err = atlas.Build(ctx, part.NewRebuilder(k), t.ex, t.ref.Document, func(float64) {}); err != nil {
			return fmt.Errorf("%s: %w", t.name, err)
		}
		key, _, err := checker.Load(ctx, t.ref)
		if err != nil {
			return fmt.Errorf("%s: %w", t.name, err)
		}
		if refs[i], err = solid.Describe(k, key.Shape, key.Names); err != nil {
			return err
		}
		fmt.Printf("%-18s %2d characteristics, atlas of %3d mistakes and %2d sizes in %.1f s\n", t.name,
			len(t.ex.Characteristics), len(t.ref.Atlas.Entries), len(t.ref.Atlas.Sizes), time.Since(start).Seconds())
	}
	shares := 0
	for _, x := range kinds {
		shares += x.share
	}
	results := map[string]*tally{}
	for n := 0; n < count; n++ {
		i := n % len(list)
		pick := m.rng.IntN(shares)
		kind := ""
		for _, x := range kinds {
			if pick < x.share {
				kind = x.name
				break
			}
			pick -= x.share
		}
		a, ok := m.make(ctx, &list[i], refs[i], kind)
		if !ok {
			n--
			continue
		}
		ref := a.task.ref
		if !sweep && a.att.Document != nil {
			// The sizes of a document are varied by checks of their own; here its solid counts.
			b, err := checker.Rebuilder.Rebuild(ctx, a.att.Document, nil)
			if err != nil {
				return err
			}
			if a.att, err = m.step(b.Solid.Shape, m.pose()); err != nil {
				return err
			}
		}
		start := time.Now()
		out, err := checker.Part(ctx, check.Subject{Exercise: a.task.ex, Reference: ref, Attempt: a.att},
			func(string, float64) {})
		if err != nil {
			return fmt.Errorf("%v: %w", a, err)
		}
		t := results[kind]
		if t == nil {
			t = &tally{}
			results[kind] = t
		}
		t.spent += time.Since(start)
		t.judge(a, out.Report, loud)
	}
	return show(results)
}

func (t *tally) judge(a *attempt, r *report.Report, loud bool) {
	t.attempts++
	for _, c := range r.Characteristics {
		in, known := a.in[c.ID]
		if !known {
			continue
		}
		t.verdicts++
		if in {
			t.rightGeometry++
		}
		switch {
		case c.Verdict == report.Ask:
			t.ask++
		case in == (c.Verdict == report.In):
			t.right++
			continue
		case in:
			t.wrongOut++
		default:
			t.wrongIn++
		}
		if loud {
			fmt.Printf("  %v: %s is %s %s (%s), in truth %v\n", a, c.ID, c.Verdict, c.MeasuredText, c.Reason, in)
		}
	}
	mirrored := r.Pose != nil && r.Pose.Mirrored
	if a.mirror && (mirrored || r.Count(report.In) == len(r.Characteristics)) || a.unit && r.Scale != nil {
		t.flagged++
	}
	if !a.mirror && !a.unit && (mirrored || r.Scale != nil) {
		t.flagged++ // taken for what it is not
		if loud {
			fmt.Printf("  %v: mirrored %v, scale %v\n", a, mirrored, r.Scale)
		}
	}
	if len(a.mistake) == 0 {
		if out := slices.IndexFunc(r.Whole, func(f report.Figure) bool { return f.Verdict == report.Out }); out >= 0 &&
			!a.mirror && !a.unit {
			t.figures++
			if loud {
				fmt.Printf("  %v: %s is out (%s)\n", a, r.Whole[out].Label, r.Whole[out].Text)
			}
		}
		return
	}
	t.of++
	if r.Explained {
		t.explained++
	}
	named := 0
	for _, f := range a.mistake {
		if slices.ContainsFunc(r.Causes[:min(len(r.Causes), len(a.mistake))], func(c report.Cause) bool {
			return names(c, f, a.task)
		}) {
			named++
		}
	}
	if named == len(a.mistake) {
		t.named++
	} else if loud {
		var got []string
		for _, c := range r.Causes {
			got = append(got, c.What)
		}
		fmt.Printf("  %v: named %q, explained %v\n", a, strings.Join(got, "; "), r.Explained)
	}
}

// names tells whether a cause of the report is what was done wrong: the parameter behind
// the characteristic that it is told at, or the step.
func names(c report.Cause, f fault, t *task) bool {
	if f.step != "" && strings.Contains(c.What, f.step) {
		return true
	}
	if f.parameter == "" {
		return false
	}
	if x := t.ex.Characteristic(c.Characteristic); x != nil && x.Parameter == f.parameter {
		return true
	}
	return c.Parameter == f.parameter
}

func show(results map[string]*tally) error {
	w := tabwriter.NewWriter(os.Stdout, 0, 4, 2, ' ', tabwriter.AlignRight)
	fmt.Fprintln(w, "\nkind\tattempts\tverdicts\tright %\twrong in\twrong out\task\tflagged\tall causes "+
		"named\texplained\ts each\t")
	var all tally
	for _, x := range kinds {
		t := results[x.name]
		if t == nil {
			continue
		}
		row(w, x.name, t)
		all.attempts += t.attempts
		all.verdicts += t.verdicts
		all.right += t.right
		all.wrongIn += t.wrongIn
		all.wrongOut += t.wrongOut
		all.rightGeometry += t.rightGeometry
		all.ask += t.ask
		all.named += t.named
		all.of += t.of
		all.explained += t.explained
		all.flagged += t.flagged
		all.figures += t.figures
		all.spent += t.spent
	}
	row(w, "all", &all)
	if err := w.Flush(); err != nil {
		return err
	}
	fmt.Printf("\nwrong out on right geometry: %.2f %%; right attempts with a figure of the whole out: %d\n",
		100*float64(all.wrongOut)/float64(max(1, all.rightGeometry)), all.figures)
	return nil
}

func row(w *tabwriter.Writer, name string, t *tally) {
	share := func(n, of int) string {
		if of == 0 {
			return "-"
		}
		return fmt.Sprintf("%d of %d", n, of)
	}
	fmt.Fprintf(w, "%s\t%d\t%d\t%.2f\t%d\t%d\t%d\t%d\t%s\t%s\t%.2f\t\n", name, t.attempts, t.verdicts,
		100*float64(t.right)/float64(max(1, t.verdicts)), t.wrongIn, t.wrongOut, t.ask, t.flagged, share(t.named, t.of),
		share(t.explained, t.of), t.spent.Seconds()/float64(max(1, t.attempts)))
}
