package robustness

import (
	"context"
	"testing"

	"hammerset/core/check"
	"hammerset/core/part"
	"hammerset/core/robust"
	"hammerset/kernel/occ"
)

// A guard over all eight exercises: of every other kind the first edit is found, and charged by the rule. All of them
// are checked by make bench-verdicts.
func TestWhatMakesAModelWeakIsFound(t *testing.T) {
	list, err := tasks()
	if err != nil {
		t.Fatal(err)
	}
	checker := &check.Checker{Rebuilder: part.NewRebuilder(occ.Kernel{}), Sweeps: &robust.Cache{}}
	all := 0
	for k, task := range list {
		seen := map[string]bool{}
		for _, e := range task.edits() {
			all++
			if seen[e.kind] {
				continue
			}
			seen[e.kind] = true
			if (len(seen)+k)%2 == 0 {
				continue
			}
			wrong, r, err := task.judge(context.Background(), checker, e)
			if err != nil {
				t.Fatal(err)
			}
			for _, w := range wrong {
				t.Errorf("%v: %s", e, w)
			}
			// Typed through, a model of the right shape keeps all but the points for robustness.
			if e.kind == "everything typed" {
				if m := mark(r, "robustness"); m.Points != 0 || r.Points < 0.84*r.OutOf {
					t.Errorf("%v: %g of %g for robustness, %g of %g in all", e, m.Points, m.OutOf, r.Points, r.OutOf)
				}
			}
		}
	}
	if all < 60 {
		t.Errorf("there are %d edits", all)
	}
}
