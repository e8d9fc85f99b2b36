package geometry

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/modeller"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/core/solid"
	"hammerset/formats/lettering"
)

// An exercise goes onto another file of its part: faces are found by what they are, whatever their numbers, and where
// that is not clear it is asked and not guessed.
func TestAnotherReference(t *testing.T) {
	ctx := context.Background()
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	// A plate with holes of 8, as a STEP file: first is the corner with which its outline begins, so that the faces of
	// files of one part have other numbers.
	file := func(long float64, first int, holes ...float64) check.Reference {
		corners := []float64{0, 0, long, 0, long, 50, 0, 50}
		round := append(append([]float64{}, corners[2*first:]...), corners[:2*first]...)
		d := model(t, "mm", "", outline("s1", xy, round...), extrude("e1", "s1", oneSide("12 mm"), ""),
			circles("s2", xy, holes...), extrude("u2", "s2", `{"kind":"through"}`, `,"result":"cut","reverse":true`))
		return check.Reference{STEP: stepAttempt(t, d, solid.Identity, 1).STEP}
	}
	was := file(80, 0, 20, 30, 4, 55, 30, 4)
	ex := sheet.Plain("Plate", "mm", "reference.step", 1)
	if out, err := prepare.Propose(ctx, checker(), ex, was, f, prepare.Quietly); err != nil || len(out.Left) > 0 {
		t.Fatalf("%+v, %v", out, err)
	}
	before := fmt.Sprint(ex)
	bindings := func(list []prepare.Binding) string {
		var out []string
		for _, b := range list {
			state := "doubtful "
			if b.Lost {
				state = "lost "
			}
			out = append(out, state+b.ID)
		}
		return strings.Join(out, ", ")
	}
	all := len(ex.Characteristics)
	for _, c := range []struct {
		name    string
		is      check.Reference
		changes string // what is stated otherwise
		clear   bool   // nothing is doubtful or lost
	}{
		{"written again with other numbers", file(80, 2, 55, 30, 4, 20, 30, 4), "", true},
		{"a longer plate", file(84, 1, 20, 30, 4, 55, 30, 4), "80 becomes 84", true},
		{"holes of 9", file(80, 3, 55, 30, 4.5, 20, 30, 4.5), "8 becomes 9", true},
		{"a hole less, and the other between the two", file(80, 1, 40, 30, 4), "", false},
		{"no hole", file(80, 1, 400, 30, 4), "", false},
	} {
		out, err := prepare.Rebind(ctx, checker(), *ex, was, c.is, nil)
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		if (len(out.Bindings) == 0) != c.clear {
			t.Errorf("%s: %s", c.name, bindings(out.Bindings))
		}
		said := ""
		for _, x := range out.Changes {
			said += fmt.Sprintf("%s becomes %s; ", strings.TrimPrefix(x.Was, "⌀"), strings.TrimPrefix(x.Is, "⌀"))
		}
		if c.clear && (!strings.Contains(said, c.changes) || c.changes == "" && said != "") {
			t.Errorf("%s: %s", c.name, said)
		}
		if got := len(out.Exercise.Characteristics) + len(out.Bindings); got < all {
			t.Errorf("%s: %d of %d characteristics are accounted for", c.name, got, all)
		}
		audited, err := prepare.AuditOf(ctx, checker(), out.Exercise, c.is, f)
		if err != nil {
			t.Fatalf("%s: what is left cannot be audited: %v", c.name, err)
		}
		for _, a := range audited.Findings {
			if c.clear && (a.Kind == "missing" || a.Kind == "twice" || a.Kind == "contradicting") {
				t.Errorf("%s: %s", c.name, a.What)
			}
		}
		if err := out.Exercise.Check(); err != nil {
			t.Errorf("%s: %v", c.name, err)
		}
		// What is doubtful stays where it is accepted.
		var accepted []string
		for _, b := range out.Bindings {
			if !b.Lost {
				accepted = append(accepted, b.ID)
			}
		}
		again, err := prepare.Rebind(ctx, checker(), *ex, was, c.is, accepted)
		if err != nil || len(again.Exercise.Characteristics) < len(out.Exercise.Characteristics) {
			t.Errorf("%s: accepted: %v", c.name, err)
		}
	}
	// An exercise whose file was exchanged beside it knows its faces by their prints.
	printed, err := prepare.Bind(ctx, checker(), *ex, was)
	if err != nil || len(printed.Prints) == 0 {
		t.Fatalf("no prints: %v", err)
	}
	for _, c := range []struct {
		name  string
		is    check.Reference
		clear bool
	}{
		{"as it was", was, true},
		{"written again with other numbers", file(80, 2, 55, 30, 4, 20, 30, 4), true},
		{"a longer plate", file(84, 1, 20, 30, 4, 55, 30, 4), true},
		{"a hole less, and the other between the two", file(80, 1, 40, 30, 4), false},
		{"a hole less, and the other where it was", file(80, 1, 20, 30, 4), false},
	} {
		out, err := prepare.Bind(ctx, checker(), *printed, c.is)
		var refused *modeller.Refused
		if !c.clear {
			if !errors.As(err, &refused) || !strings.Contains(refused.What, "not surely found") {
				t.Errorf("%s: %v", c.name, err)
			}
			continue
		}
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		audited, err := prepare.AuditOf(ctx, checker(), out, c.is, f)
		if err != nil || audited.Stated != audited.Sizes {
			t.Errorf("%s: %+v, %v", c.name, audited, err)
		}
		wanted := prints(t, out, c.is)
		for name, p := range out.Prints {
			if p != wanted[name] {
				t.Errorf("%s: %s has the print %+v and not %+v", c.name, name, p, wanted[name])
			}
		}
	}
	// Where a pattern of a model takes in one hole less, that is asked as well, though the name still fits.
	ring := func(holes ...float64) check.Reference {
		return check.Reference{Document: model(t, "mm", "", outline("s1", xy, 0, 0, 80, 0, 80, 50, 0, 50),
			extrude("e1", "s1", oneSide("12 mm"), ""), circles("s2", xy, holes...),
			extrude("u2", "s2", `{"kind":"through"}`, `,"result":"cut","reverse":true`))}
	}
	bores := sheet.Plain("Plate", "mm", "reference.json", 1)
	bores.Characteristics = append(bores.Characteristics, stating("bores", "diameter", "u2/side:*"))
	bores.Characteristics[1].Balloon, bores.Characteristics[1].Label = 2, "bores"
	bores.Refused = []exercise.Evidence{{What: "parallel", Of: address.List("e1/side:l0", "e1/side:l2")},
		{What: "square", Of: address.List("u2/side:c1", "e1/end")}}
	for _, c := range []struct {
		is   check.Reference
		want string
	}{
		{ring(20, 30, 4, 55, 30, 4), ""},
		{ring(20, 30, 4), "doubtful bores, lost refused:1"},
	} {
		out, err := prepare.Rebind(ctx, checker(), *bores, ring(20, 30, 4, 55, 30, 4), c.is, nil)
		if err != nil || bindings(out.Bindings) != c.want {
			t.Errorf("a model: %q, not %q: %v", bindings(out.Bindings), c.want, err)
		}
	}
	if fmt.Sprint(ex) != before {
		t.Error("the exercise itself was changed")
	}
}

// prints are those of the faces that an exercise names, as the reference has them.
func prints(t *testing.T, ex *exercise.Exercise, ref check.Reference) map[string]exercise.Print {
	t.Helper()
	named, _, err := checker().Load(context.Background(), ref)
	if err != nil {
		t.Fatal(err)
	}
	g, err := solid.Describe(checker().Rebuilder.Kernel(), named.Shape, named.Names)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]exercise.Print{}
	for _, name := range ex.Names() {
		out[name] = inspect.PrintOf(g, g.Named(name)[0])
	}
	return out
}

// The model of an exercise and the STEP file of it are the same part: everything that the exercise names is found,
// and its sheet determines the part as before.
func TestAModelIsExchangedForItsFile(t *testing.T) {
	ctx := context.Background()
	for _, name := range []string{"bearing-bracket", "winch-spindle", "drain-bend"} {
		b := demoExercise(t, name)
		is := check.Reference{STEP: stepAttempt(t, b.ref.Document, solid.Identity, 1).STEP}
		out, err := prepare.Rebind(ctx, checker(), *b.Parsed, b.ref, is, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range out.Bindings {
			if !strings.HasPrefix(x.ID, "what-if:") { // a file has no sizes that could be set
				t.Errorf("%s: %s: %s", name, x.Label, x.What)
			}
		}
		for _, x := range out.Changes {
			t.Errorf("%s: %s was %s and is %s", name, x.Label, x.Was, x.Is)
		}
		was, err := prepare.AuditOf(ctx, checker(), b.Parsed, b.ref, letteringOf(t))
		if err != nil {
			t.Fatal(err)
		}
		now, err := prepare.AuditOf(ctx, checker(), out.Exercise, is, letteringOf(t))
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		if was.Sizes != now.Sizes || was.Stated != now.Stated {
			t.Errorf("%s: %d of %d sizes were stated, and %d of %d are", name, was.Stated, was.Sizes, now.Stated, now.Sizes)
		}
		d, _ := draw(t, out.Exercise, bundle{b.Bundle, is})
		if d == nil {
			t.Errorf("%s cannot be drawn", name)
		}
	}
}
