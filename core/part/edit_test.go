package part

import (
	"slices"
	"strings"
	"testing"

	"hammerset/core/quantity"
)

func route() *Document {
	between := func(a, b string) []EdgeRef { return []EdgeRef{{Between: &[2]string{a, b}}} }
	return &Document{Hammerset: Version, Name: "n", Unit: "mm",
		Parameters: []quantity.Parameter{{Name: "w", Formula: "40 mm"}, {Name: "half", Formula: "w/2", Note: "half of w"}},
		Steps: []Step{
			{ID: "s1", Kind: "sketch", Name: "outline", Do: &Sketch{}},
			{ID: "e1", Kind: "extrude", Name: "block", Do: &Extrude{Drawn: Drawn{Sketch: "s1"},
				Extent: &Extent{Kind: "one-side", Length: "half + 3 mm"}}},
			{ID: "s2", Kind: "sketch", Do: &Sketch{Plane: &PlaneRef{Face: "e1/end"}}},
			{ID: "h1", Kind: "hole", Name: "bolt", Do: &Hole{Sketch: "s2", At: []string{"m"}, Diameter: "w/10"}},
			{ID: "f1", Kind: "fillet", Do: &Fillet{Broken: Broken{Edges: between("e1/side:l1", "e1/side:l2")}, Radius: "2"}},
			{ID: "n1", Kind: "linear-pattern", Do: &LinearPattern{Pattern: Pattern{Repeated: Repeated{Of: []string{"h1"}}},
				Count: "3", Spacing: "half"}},
			{ID: "f2", Kind: "fillet", Do: &Fillet{Broken: Broken{Edges: between("n1.2:h1.m/bore",
				"f1/round(e1/side:l1|e1/side:l2)")}, Radius: "1"}}}}
}

func order(d *Document) string {
	var ids []string
	for _, s := range d.Steps {
		ids = append(ids, s.ID)
	}
	return strings.Join(ids, " ")
}

// What a step builds on is read from all that it names: sketches, faces, edges of
// copies and of rounds.
func TestOrderFollowsWhatStepsNeed(t *testing.T) {
	d := route()
	for id, want := range map[string]string{"s1": "", "e1": "s1", "s2": "e1", "h1": "s2", "f1": "e1", "n1": "h1",
		"f2": "n1 h1 f1 e1"} {
		if got := strings.Join(d.Depends()[id], " "); got != want {
			t.Errorf("%s builds on %q, want %q", id, got, want)
		}
	}
	if got := strings.Join(d.Dependents("h1"), " "); got != "n1 f2" {
		t.Errorf("on the hole stand %q", got)
	}
	for _, c := range []struct {
		id   string
		to   int
		want string // the order, or what is said
	}{
		{"f1", 2, "s1 e1 f1 s2 h1 n1 f2"}, {"f1", 1, "cannot come before block"},
		{"h1", 5, "cannot come after linear pattern 1"},
		{"h1", 4, "s1 e1 s2 f1 h1 n1 f2"}, {"s1", 0, "s1 e1 s2 h1 f1 n1 f2"}, {"f2", 99, "s1 e1 s2 h1 f1 n1 f2"},
		{"zz", 1, "no step"},
	} {
		d := route()
		err := d.Move(c.id, c.to)
		if got := order(d); got != c.want && (err == nil || !strings.Contains(err.Error(), c.want)) {
			t.Errorf("%s to %d: %q, %v; want %q", c.id, c.to, got, err, c.want)
		}
		if err != nil && order(d) != order(route()) {
			t.Errorf("%s to %d: refused, and moved all the same", c.id, c.to)
		}
	}
	d = route()
	if _, err := d.Remove("h1", false); err == nil || !strings.Contains(err.Error(), "linear pattern 1, fillet 2") {
		t.Errorf("removing what others build on: %v", err)
	}
	if gone, err := d.Remove("h1", true); err != nil || len(gone) != 3 || order(d) != "s1 e1 s2 f1" {
		t.Errorf("removed %v, %v; left %s", gone, err, order(d))
	}
	if got := route().Fresh("fillet"); got != "f3" {
		t.Errorf("the next fillet is %s", got)
	}
}

// A parameter is renamed wherever it is used, and nowhere else.
func TestParametersAreRenamedEverywhere(t *testing.T) {
	d := route()
	if err := d.RenameParameter("half", "reach"); err != nil {
		t.Fatal(err)
	}
	formulas := func(i int) string { return strings.Join(d.Steps[i].Formulas(), "; ") }
	if d.Parameters[1].Name != "reach" || formulas(1) != "reach + 3 mm" || formulas(5) != "3; reach" ||
		formulas(3) != "w/10" {
		t.Errorf("renamed to %+v %s", d.Parameters, formulas(1))
	}
	if got := d.Users("w"); !slices.Equal(got, []string{"reach", "bolt"}) {
		t.Errorf("w is used by %v", got)
	}
	for _, to := range []string{"w", "mm", "2x", "sin"} {
		if err := d.RenameParameter("reach", to); err == nil {
			t.Errorf("renamed to %s", to)
		}
	}
	if err := d.RenameParameter("gone", "here"); err == nil {
		t.Error("a parameter that is not there is renamed")
	}
}

// What changed between two states is told step by step.
func TestChangesAreToldInWords(t *testing.T) {
	d := route()
	d.Parameters[0].Formula = "44 mm"
	d.Steps[1].Do.(*Extrude).Extent = &Extent{Kind: "symmetric", Total: "9 mm"}
	d.Steps[4].Off = true
	d.Steps = append(d.Steps[:5:5], Step{ID: "c1", Kind: "chamfer", Name: "edge", Do: &Chamfer{}})
	var got []string
	for _, c := range Changes(route(), d) {
		got = append(got, c.What)
	}
	text := strings.Join(got, "\n")
	for _, want := range []string{"parameter w changed from 40 mm to 44 mm", "block: extent kind symmetric, total 9 " +
		"mm, was kind one-side, length half + 3 mm", "fillet 1: turned off", "chamfer edge added", "linear pattern 1 removed",
		"fillet 2 removed"} {
		if !strings.Contains(text, want) {
			t.Errorf("it does not say %q:\n%s", want, text)
		}
	}
	if len(got) != 6 {
		t.Errorf("it says more:\n%s", text)
	}
	if same := Changes(route(), route()); len(same) != 0 {
		t.Errorf("nothing changed, and it says %v", same)
	}
}
