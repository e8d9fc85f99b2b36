package atlas

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// sample is a plate with a boss, four holes of which one pattern repeats a fifth, a
// revolved groove and rounds: enough steps for every kind of mistake.
const sample = `{"hammerset":"model/1","name":"sample","unit":"in","parameters":[{"name":"w","value":"2 in"},{"name":"half","value":"w/2"}],"steps":[
	{"id":"s1","kind":"sketch","name":"outline","plane":{"datum":"XY","offset":"1/4 in"},"entities":[],"constraints":[{"id":"a","kind":"length","of":["l"],"value":"w"},{"id":"b","kind":"radius","of":["c"],"value":"3/8"},{"id":"d","kind":"length","of":["m"],"value":"1 in","driven":true},{"id":"e","kind":"angle","of":["l","m"],"value":"30"},{"id":"k","kind":"horizontal","of":["l"]}]},
	{"id":"e1","kind":"extrude","name":"plate","sketch":"s1","extent":{"kind":"symmetric","total":"half"}},
	{"id":"e2","kind":"extrude","name":"boss","sketch":"s1","extent":{"kind":"one-side","length":"5 mm"}},
	{"id":"e3","kind":"extrude","name":"pocket","sketch":"s1","result":"cut","extent":{"kind":"one-side","length":"1/8 in"}},
	{"id":"h1","kind":"hole","name":"holes","sketch":"s1","at":["p","q","r"],"diameter":"1/4 in","tipAngle":"118 deg","extent":{"kind":"one-side","length":"w/4"}},
	{"id":"c1","kind":"circular-pattern","name":"ring","of":["h1"],"axis":{"datum":"Z"},"count":"6"},
	{"id":"f1","kind":"fillet","name":"rounds","radius":"2 mm","edges":[{"around":"e1/end"},{"around":"e1/start"}]}]}`

func read(t *testing.T) *part.Document {
	t.Helper()
	d, err := part.Read([]byte(sample))
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// Edits change a copy: the reference stays as it is, and several that leave out members
// of one list count by the reference's own numbers.
func TestApply(t *testing.T) {
	d := read(t)
	before := fmt.Sprint(d.Steps)
	step := func(d *part.Document, id string) part.Step {
		return d.Steps[slices.IndexFunc(d.Steps, func(s part.Step) bool { return s.ID == id })]
	}
	for _, c := range []struct {
		name  string
		edits []Edit
		ok    func(d *part.Document) bool
	}{
		{"off", []Edit{{Step: "f1", Do: "off"}}, func(d *part.Document) bool { return step(d, "f1").Off && !step(d, "c1").Off }},
		{"reverse", []Edit{{Step: "e2", Do: "reverse"}}, func(d *part.Document) bool { return step(d, "e2").Reverse }},
		{"a solid of its own", []Edit{{Step: "e2", Do: "new"}}, func(d *part.Document) bool { return step(d, "e2").Result == "new" }},
		{"about the plane", []Edit{{Step: "e2", Do: "extent", Text: "symmetric"}}, func(d *part.Document) bool {
			x := step(d, "e2").Extent
			return x.Kind == "symmetric" && x.Total == "5 mm" && x.Length == ""
		}},
		{"to one side", []Edit{{Step: "e1", Do: "extent", Text: "one-side"}}, func(d *part.Document) bool {
			x := step(d, "e1").Extent
			return x.Kind == "one-side" && x.Length == "half"
		}},
		{"through", []Edit{{Step: "h1", Do: "extent", Text: "through"}}, func(d *part.Document) bool {
			return step(d, "h1").Extent.Kind == "through" && step(d, "h1").Extent.Length == ""
		}},
		{"two places of one list", []Edit{{Step: "h1", Do: "at", Index: 0}, {Step: "h1", Do: "at", Index: 2}}, func(d *part.Document) bool { return slices.Equal(step(d, "h1").At, []string{"q"}) }},
		{"an edge", []Edit{{Step: "f1", Do: "edge", Index: 1}}, func(d *part.Document) bool {
			return len(step(d, "f1").Edges) == 1 && step(d, "f1").Edges[0].Around == "e1/end"
		}},
		{"a formula", []Edit{{Step: "h1", Do: "formula", Index: 0, Text: "w"}}, func(d *part.Document) bool { return step(d, "h1").Diameter == "w" }},
	} {
		got, err := Apply(d, c.edits)
		if err != nil || !c.ok(got) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
	if fmt.Sprint(d.Steps) != before {
		t.Error("the reference itself was changed")
	}
	for _, e := range []Edit{{Step: "zz", Do: "off"}, {Step: "e1", Do: "melt"}, {Step: "e1", Do: "formula", Index: 99}, {Step: "f1", Do: "extent", Text: "through"}} {
		if _, err := Apply(d, []Edit{e}); err == nil {
			t.Errorf("%+v is carried out", e)
		}
	}
}

// Every size that is typed as a number becomes a parameter of the same value and
// dimension; formulas, driven sizes, counts and what is empty stay as they are.
func TestExpose(t *testing.T) {
	d := read(t)
	out, where, err := Expose(d)
	if err != nil {
		t.Fatal(err)
	}
	unit, _ := quantity.LengthUnit(d.Unit)
	table, err := quantity.Evaluate(out.Parameters, unit, nil)
	if err != nil {
		t.Fatal(err)
	}
	inch := quantity.Inch.Factor
	want := map[string]float64{"offset of outline": 0.25 * inch, "radius of outline": 0.375 * inch, "angle of outline": 30 * quantity.Degree.Factor, "length along of boss": 5, "length along of pocket": 0.125 * inch,
		"diameter of holes": 0.25 * inch, "tip angle of holes": 118 * quantity.Degree.Factor, "radius of rounds": 2, "parameter w": 2 * inch}
	for _, name := range table.Driving() {
		q, _ := table.Lookup(name)
		v, ok := want[where[name]]
		if !ok || q.Value < v*(1-1e-9) || q.Value > v*(1+1e-9) {
			t.Errorf("%s (%s) is %g, not %g", name, where[name], q.Value, v)
		}
		delete(want, where[name])
	}
	if len(want) > 0 {
		t.Errorf("not exposed: %v", want)
	}
	if out.Steps[0].Constraints[2].Value != "1 in" || out.Steps[0].Constraints[0].Value != "w" || out.Steps[5].Count != "6" {
		t.Error("a driven size, a formula or a count was exposed")
	}
	if len(d.Parameters) != 2 {
		t.Error("the reference itself was changed")
	}
}

// The mistakes that the steps of the sample allow, and no others: nothing is left out
// before there is material, and what stands on a missing step goes with it.
func TestMistakes(t *testing.T) {
	d := read(t)
	unit, _ := quantity.LengthUnit(d.Unit)
	table, err := quantity.Evaluate(d.Parameters, unit, nil)
	if err != nil {
		t.Fatal(err)
	}
	count := map[string]int{}
	for _, e := range Mistakes(d, table, map[string]solid.Transform{"c1": solid.Rotation(solid.Vec{}, solid.Vec{0, 0, 1}, math.Pi/6)}) {
		count[e.Kind]++
		if e.What == "" || e.Cause == "" || e.Remedy == "" || len(e.Edits) == 0 || e.Figures.Solids != 0 {
			t.Errorf("%+v says too little", e)
		}
		if e.Kind == "missing" && e.Step == "e1" {
			t.Error("the first material is left out")
		}
		if e.Kind == "missing" && e.Step == "h1" && !slices.ContainsFunc(e.Edits, func(x Edit) bool { return x.Step == "c1" && x.Do == "off" }) {
			t.Error("the pattern of missing holes stays")
		}
		if strings.Contains(e.What, "length along") || strings.Contains(e.What, "total") {
			t.Errorf("%q is not how the trade says it", e.What)
		}
		if _, err := Apply(d, e.Edits); err != nil {
			t.Errorf("%s: %v", e.What, err)
		}
	}
	for kind, n := range map[string]int{"missing": 5, "one-place": 5, "direction": 2, "not-united": 1, "about-plane": 2, "one-side": 1, "through": 2, "count": 2, "complement": 2, "supplement": 2, "double": 7, "half": 7, "half-pitch": 1} {
		if count[kind] != n {
			t.Errorf("%d of kind %s, not %d", count[kind], kind, n)
		}
	}
}
