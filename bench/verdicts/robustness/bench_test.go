package robustness

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"
	"text/tabwriter"
	"time"

	"hammerset/core/check"
	"hammerset/core/part"
	"hammerset/core/robust"
	"hammerset/kernel/occ"
)

var (
	all  = flag.Bool("all", false, "check all edits")
	loud = flag.Bool("wrong", false, "print every edit that is not charged by the rule")
	only = flag.String("only", "", "those whose exercise, kind and words have this in them")
)

// BenchmarkRobustness checks all edits and prints a line for each kind.
func BenchmarkRobustness(b *testing.B) {
	if !*all {
		b.Skip("the edits are checked by make bench-verdicts")
	}
	list, err := tasks()
	if err != nil {
		b.Fatal(err)
	}
	checker := &check.Checker{Rebuilder: part.NewRebuilder(occ.Kernel{}), Sweeps: &robust.Cache{}}
	type row struct {
		edits, right int
		least, most  float64
	}
	rows, order := map[string]*row{}, []string{}
	start := time.Now()
	for b.Loop() {
		for _, t := range list {
			for _, e := range t.edits() {
				if !strings.Contains(e.String(), *only) {
					continue
				}
				wrong, r, err := t.judge(b.Context(), checker, e)
				if err != nil {
					b.Fatal(err)
				}
				x := rows[e.kind]
				if x == nil {
					x = &row{least: 1e9}
					rows[e.kind], order = x, append(order, e.kind)
				}
				if x.edits++; len(wrong) == 0 {
					x.right++
				} else if *loud {
					fmt.Printf("%v:\n", e)
					for _, w := range wrong {
						fmt.Printf("    %s\n", w)
					}
				}
				x.least, x.most = min(x.least, 100*r.Points/r.OutOf), max(x.most, 100*r.Points/r.OutOf)
			}
		}
	}
	w := tabwriter.NewWriter(os.Stdout, 0, 4, 2, ' ', tabwriter.AlignRight)
	fmt.Fprintln(w, "kind\tedits\tfound and charged\tpercent of the marks\t")
	for _, kind := range order {
		x := rows[kind]
		fmt.Fprintf(w, "%s\t%d\t%d\t%.1f to %.1f\t\n", kind, x.edits, x.right, x.least, x.most)
	}
	if err := w.Flush(); err != nil {
		b.Fatal(err)
	}
	fmt.Printf("%.0f s\n", time.Since(start).Seconds())
}
