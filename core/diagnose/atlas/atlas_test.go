package atlas

import (
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
const sample = `{"hammerset":"model/1","name":"sample","unit":"in","parameters":[{"name":"w","value":"2 in"},
	{"name":"half","value":"w/2"}],"steps":[
	{"id":"s1","kind":"sketch","name":"outline","plane":{"datum":"XY","offset":"1/4 in"},"entities":[],
	"constraints":[{"id":"a","kind":"length","of":["l"],"value":"w"},{"id":"b","kind":"radius","of":["c"],"value":"3/8"},
	{"id":"d","kind":"length","of":["m"],"value":"1 in","driven":true},{"id":"e","kind":"angle","of":["l","m"],
	"value":"30"},{"id":"k","kind":"horizontal","of":["l"]}]},
	{"id":"e1","kind":"extrude","name":"plate","sketch":"s1","extent":{"kind":"symmetric","total":"half"}},
	{"id":"e2","kind":"extrude","name":"boss","sketch":"s1","extent":{"kind":"one-side","length":"5 mm"}},
	{"id":"e3","kind":"extrude","name":"pocket","sketch":"s1","result":"cut","extent":{"kind":"one-side",
	"length":"1/8 in"}},
	{"id":"h1","kind":"hole","name":"holes","sketch":"s1","at":["p","q","r"],"diameter":"1/4 in","tipAngle":"118 deg",
	"extent":{"kind":"one-side","length":"w/4"}},
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
	want := map[string]float64{"offset of outline": 0.25 * inch, "radius of outline": 0.375 * inch,
		"angle of outline": 30 * quantity.Degree.Factor, "length along of boss": 5, "length along of pocket": 0.125 * inch,
		"diameter of holes": 0.25 * inch, "tip angle of holes": 118 * quantity.Degree.Factor, "radius of rounds": 2,
		"parameter w": 2 * inch}
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
	if out.Steps[0].Sketched().Constraints[2].Value != "1 in" || out.Steps[0].Sketched().Constraints[0].Value != "w" ||
		out.Steps[5].Formulas()[0] != "6" {
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
	for _, e := range mistakes(d, table,
		map[string]solid.Transform{"c1": solid.Rotation(solid.Vec{}, solid.Vec{0, 0, 1}, math.Pi/6)}) {
		count[e.Kind]++
		if e.What == "" || e.Cause == "" || e.Remedy == "" || len(e.Alterations) == 0 || e.Figures.Solids != 0 {
			t.Errorf("%+v says too little", e)
		}
		if e.Kind == "missing" && e.Step == "e1" {
			t.Error("the first material is left out")
		}
		if e.Kind == "missing" && e.Step == "h1" && !slices.ContainsFunc(e.Alterations, func(x part.Alteration) bool {
			return x.Step == "c1" && x.Path == "off"
		}) {
			t.Error("the pattern of missing holes stays")
		}
		if strings.Contains(e.What, "length along") || strings.Contains(e.What, "total") {
			t.Errorf("%q is not how the trade says it", e.What)
		}
		if _, err := d.Altered(e.Alterations); err != nil {
			t.Errorf("%s: %v", e.What, err)
		}
	}
	for kind, n := range map[string]int{"missing": 5, "one-place": 11, "direction": 2, "not-united": 1, "about-plane": 2,
		"one-side": 1, "through": 2, "count": 6, "complement": 2, "supplement": 2, "double": 7, "half": 7, "half-pitch": 1} {
		if count[kind] != n {
			t.Errorf("%d of kind %s, not %d", count[kind], kind, n)
		}
	}
}
