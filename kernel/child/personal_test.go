package child

import (
	"encoding/json"
	"maps"
	"slices"
	"testing"

	"hammerset/core/exercise"
	"hammerset/core/personal"
	"hammerset/core/prepare"
	"hammerset/core/report"
	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
)

// An exercise at the sizes of one student is a whole exercise of its own: its reference is right by its own sheet and
// wrong by the plain one and by that of another student, at the sizes that differ. What cannot be had at some sizes is
// refused with the reason.
func TestPersonalSizes(t *testing.T) {
	bundle, err := demo.Bundle("pawl-plate")
	if err != nil {
		t.Fatal(err)
	}
	w := worker(t)
	ex := *bundle.Parsed
	ex.Personal = []exercise.Range{{Parameter: "w", Least: "90 mm", Most: "116 mm", Step: "2 mm"},
		{Parameter: "px", Least: "70 mm", Most: "86 mm", Step: "2 mm"}}
	ex.WhatIfs = []exercise.WhatIf{{Name: "longer plate", Set: map[string]string{"w": "w + 20 mm", "px": "px + 20 mm"}}}
	doc, err := json.Marshal(&ex)
	if err != nil {
		t.Fatal(err)
	}
	ref, err := documents.ReadReference(bundle.Reference)
	if err != nil {
		t.Fatal(err)
	}
	space, err := personal.New(&ex, ref.Document.Parameters, ref.Document.Unit, 7)
	if err != nil {
		t.Fatal(err)
	}
	type own struct{ exercise, reference []byte }
	var made []own
	at := func(set map[string]string) *prepare.Personal {
		out, err := do[*prepare.Personal](t, w, task.Request{Kind: task.Personal, Exercise: doc,
			Reference: bundle.Reference, Set: set})
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	for i := range 2 {
		p := at(space.Draw(i))
		if p.Refused != "" {
			t.Fatalf("%v: %s", space.Draw(i), p.Refused)
		}
		x, _ := json.Marshal(p.Exercise)
		r, _ := json.Marshal(p.Reference)
		made = append(made, own{x, r})
	}
	differing := func(of own, attempt []byte) []string {
		out, err := do[struct{ Report report.Report }](t, w, task.Request{Kind: task.Check, Exercise: of.exercise,
			Reference: of.reference,
			Name:      "model.json", File: attempt})
		if err != nil {
			t.Fatal(err)
		}
		wrong := map[string]bool{}
		for _, c := range out.Report.Characteristics {
			if c.Verdict != report.In {
				wrong[c.ID] = true
			}
		}
		return slices.Sorted(maps.Keys(wrong))
	}
	if wrong := differing(made[0], made[0].reference); len(wrong) > 0 {
		t.Errorf("the own sizes are out at %v", wrong)
	}
	for what, of := range map[string]own{"another student": made[1], "the plain sheet": {doc, bundle.Reference}} {
		if wrong := differing(of, made[0].reference); len(wrong) < 2 {
			t.Errorf("by the sheet of %s it is out at %v alone", what, wrong)
		}
	}
	for _, c := range []struct {
		set  map[string]string
		want string
	}{
		{map[string]string{"w": "20 mm", "px": "86 mm"}, ""}, // whatever the kernel says
		{map[string]string{"w": "-5 mm", "px": "86 mm"}, ""},
	} {
		if p := at(c.set); p.Refused == "" {
			t.Errorf("%v is had", c.set)
		}
	}
	ex.WhatIfs[0].Set = map[string]string{"w": "100 mm"}
	doc, _ = json.Marshal(&ex)
	if p := at(map[string]string{"w": "100 mm", "px": "80 mm"}); p.Refused !=
		"the what-if “longer plate”: it changes nothing at these sizes" {
		t.Errorf("a what-if that changes nothing: %q", p.Refused)
	}
}
