package exercise

import (
	"errors"
	"math"
	"reflect"
	"strings"
	"testing"

	"hammerset/core/characteristic"
	"hammerset/core/quantity"
)

// The sheet's way of writing values: to two decimals in millimetres, fractions
// in inches, degrees to two decimals; the tolerance is the rounding where that
// is larger than 0.01.
// A fit allows its own limits and the nominal size, which is what is modelled.
func TestFitsOfCharacteristics(t *testing.T) {
	for class, want := range map[string][2]float64{"H7": {0, 0.021}, "k6": {0, 0.015}, "g6": {0.020, 0},
		"js6": {0.0065, 0.0065}, "P7": {0.035, 0}} {
		e := &Exercise{Unit: "mm", General: Tolerance{Kind: "iso286", Class: class}}
		minus, plus, err := e.Limits(&Characteristic{Kind: "diameter"}, e.StateOf(characteristic.Of("diameter"), 26))
		if err != nil || math.Abs(minus-want[0]) > 1e-12 || math.Abs(plus-want[1]) > 1e-12 {
			t.Errorf("26 %s: -%g +%g, %v; want %v", class, minus, plus, err, want)
		}
	}
}

func TestStatedValuesAndLimits(t *testing.T) {
	deg := quantity.Degree.Factor
	for _, c := range []struct {
		unit, kind string
		value      float64
		text       string
		minus      float64
	}{
		{"mm", "distance", 12.345678, "12.35", 0.01},
		{"mm", "diameter", 9, "9", 0.01},
		{"in", "distance", 25.4 * 1.5, "1 1/2", 0.01},
		{"in", "distance", 25.4 * 0.313, "0.313", 0.0127},
		{"in", "radius", 25.4 / 64, "1/64", 0.01},
		{"cm", "distance", 123.4, "12.34", 0.05},
		{"mm", "angle", 38.0049 * deg, "38°", 0.01 * deg},
		{"mm", "spacing", math.Pi / 3, "60°", 0.01 * deg},
		{"mm", "solids", 2, "2", 0},
		{"mm", "mass", 0.98765, "0.9877 g", 0.00005},
		{"mm", "mass", 123.456, "123.5 g", 0.05},
		{"in", "mass", 7854.321, "7.854 kg", 0.5},
	} {
		e := &Exercise{Unit: c.unit, General: Tolerance{Kind: "sheet"}}
		s := e.StateOf(characteristic.Of(c.kind), c.value)
		minus, plus, err := e.Limits(&Characteristic{Kind: c.kind}, s)
		if err != nil || s.Text != c.text || math.Abs(minus-c.minus) > 1e-12 || minus != plus {
			t.Errorf("%s %g in %s: %q ± %g, %v; want %q ± %g", c.kind, c.value, c.unit, s.Text, minus, err, c.text, c.minus)
		}
		if math.Abs(s.Value-c.value) > math.Max(s.Half, 1e-12)*1.0000001 {
			t.Errorf("%s %g in %s: the text means %g", c.kind, c.value, c.unit, s.Value)
		}
	}
	for _, c := range []struct {
		unit, kind, printed, text string
		value, half               float64 // negative where it is refused
	}{
		{"in", "diameter", ".313", ".313", 25.4 * 0.313, 25.4 * 0.0005}, {"in", "diameter", "5/16", "5/16", 25.4 * 5 / 16, 0},
		{"in", "distance", "1 3/4", "1 3/4", 25.4 * 1.75, 0}, {"mm", "distance", "50", "50", 50, 0.5},
		{"mm", "angle", "37.5", "37.5°", 37.5 * deg, 0.05 * deg}, {"mm", "angle", "60°", "60°", 60 * deg, 0.5 * deg},
		{"mm", "distance", "fifty", "", -1, 0}, {"mm", "distance", "0", "", -1, 0}, {"mm", "distance", "1/0", "", -1, 0},
		{"mm", "solids", "2", "", -1, 0}, {"mm", "parallel", "1", "", -1, 0},
	} {
		e, x := &Exercise{Unit: c.unit}, &Characteristic{Kind: c.kind, Stated: c.printed}
		s, err := e.Printed(x)
		if (err != nil) != (c.value < 0) {
			t.Errorf("a %s printed as %q: %v", c.kind, c.printed, err)
		}
		if got := e.StatedOf(x, 1); err == nil && (s.Text != c.text || math.Abs(s.Value-c.value) > 1e-12 ||
			math.Abs(s.Half-c.half) > 1e-12 || got != s) {
			t.Errorf("a %s printed as %q states %+v", c.kind, c.printed, s)
		}
	}
	e := &Exercise{Unit: "mm"}
	if _, _, err := e.Limits(&Characteristic{Kind: "distance", Tolerance: &Tolerance{Kind: "loose"}},
		characteristic.Stated{}); err == nil {
		t.Error("an unknown kind of tolerance is taken")
	}
	if _, _, err := e.Limits(&Characteristic{Kind: "distance", Tolerance: &Tolerance{Kind: "limits", Plus: "0.1 deg",
		Minus: "0"}}, characteristic.Stated{}); err == nil {
		t.Error("an angle is taken as the limit of a length")
	}
}

func TestFaultsNameTheirPlace(t *testing.T) {
	good := `{"hammerset":"exercise/3","kind":"part","title":"T","unit":"mm","reference":"r.json",
	"characteristics":[{"id":"a","balloon":1,"kind":"distance","label":"A","of":[["x","y"]]}],
	"rubric":{"characteristics":10},"sheets":[{"paper":"A4","scale":"1:1","projection":"first","views":[
	{"id":"v","kind":"front","at":[9,9],"cut":{"kind":"full"}},{"id":"w","kind":"detail","parent":"v","at":[5,5],"clip":
	{"at":[0,0],"radius":3}}],"marks":[{"id":"m","kind":"dimension","form":"linear","of":["a"],"view":"v","offset":[0,9]},
	{"id":"n","kind":"dimension","form":"linear","measures":"distance","anchors":["x","y"],"offset":[0,9]}]}]}`
	if _, err := Read([]byte(good)); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ from, to, pointer string }{
		{`"exercise/3"`, `"exercise/9"`, "/hammerset"}, {`"kind":"part"`, `"kind":"heap"`, "/kind"},
		{`"sheets":[`, `"sheets":[{"views":[{"id":"v","kind":"top"}]},`, "/sheets/1/views/0/id"},
		{`"sheets":`, `"heaps":`, "/sheets"}, {`[["x","y"]]`, `[["x","c1#y"]]`, "/characteristics/0/of/0/1"},
		{`"title":"T"`, `"title":""`, "/title"}, {`"unit":"mm"`, `"unit":"ell"`, "/unit"}, {`"r.json"`, `""`, "/reference"},
		{`"id":"a"`, `"id":""`, "/characteristics/0/id"}, {`"balloon":1`, `"balloon":0`, "/characteristics/0/balloon"},
		{`"kind":"distance"`, `"kind":"size"`, "/characteristics/0/kind"},
		{`,"of":[["x","y"]]`, ``, "/characteristics/0/of"}, {`{"characteristics":10}`, `{}`, "/rubric"},
		{`"id":"w"`, `"id":"v"`, "/sheets/0/views/1/id"}, {`"parent":"v"`, `"parent":"w"`, "/sheets/0/views/1/parent"},
		{`"detail"`, `"auxiliary"`, "/sheets/0/views/1/square"}, {`"radius":3`, `"radius":0`, "/sheets/0/views/1/clip"},
		{`"at":[9,9]`, `"at":[9,9],"breaks":[{"along":"x","from":2,"to":1}]`, "/sheets/0/views/0/breaks/0"},
		{`"full"`, `"all"`, "/sheets/0/views/0/cut/kind"}, {`"full"`, `"half"`, "/sheets/0/views/0/cut/side"},
		{`"full"`, `"stepped"`, "/sheets/0/views/0/cut/path"}, {`"of":["a"]`, `"of":["b"]`, "/sheets/0/marks/0/of/0"},
		{`"id":"n"`, `"id":"m"`, "/sheets/0/marks/1/id"}, {`"of":["a"]`, `"of":[]`, "/sheets/0/marks/0/of"},
		{`"linear","of"`, `"chain","of"`, "/sheets/0/marks/0/form"}, {`"measures":"distance"`, `"measures":"mass"`,
			"/sheets/0/marks/1/measures"}, {`,"anchors":["x","y"]`, ``, "/sheets/0/marks/1/anchors"},
	} {
		_, err := Read([]byte(strings.Replace(good, c.from, c.to, 1)))
		if e, ok := err.(*Error); !ok || e.Pointer != c.pointer {
			t.Errorf("%s: %v, want %s", c.to, err, c.pointer)
		}
	}
}

// Documents of earlier versions say the same in other words; their faults are told where they stand.
func TestEarlierDocuments(t *testing.T) {
	second := `{"hammerset":"exercise/2","kind":"part","title":"T","unit":"mm","reference":"r.json",
	"characteristics":[{"id":"a","balloon":1,"kind":"distance","label":"A","of":[["x","y"]]},
	{"id":"b","balloon":2,"kind":"depth","label":"B","of":[["x"]]}],
	"rubric":{"characteristics":10},"sheets":[{"paper":"A4","scale":"1:1","projection":"first","views":[{"id":"v",
	"direction":"front","at":[90,80],"section":true}],"notes":[{"at":[3,4],"text":"N"}],"dimensions":[
	{"characteristic":"a","view":"v","kind":"linear","side":"left","away":12,"shift":5},
	{"characteristic":"a","more":["b"],"view":"v","kind":"leader","angle":90,"away":20,"place":2}]}]}`
	first := strings.NewReplacer("exercise/2", "exercise/1", `"kind":"part",`, "", `"sheets":[`, `"sheet":`, `}]}]}`,
		`}]}}`).Replace(second)
	want := Sheet{Paper: "A4", Scale: "1:1", Projection: "first",
		Views: []View{{ID: "v", Kind: "front", At: [2]float64{90, 80}, Middle: true, Cut: &Cut{Kind: FullCut}}},
		Marks: []Mark{{ID: "m1", Kind: Dimension, Form: Linear, Of: []string{"a"}, View: "v", Side: "left",
			Offset: [2]float64{5, 12}}, {ID: "m2", Kind: Dimension, Form: Leader, Of: []string{"a", "b"}, View: "v",
			Offset: [2]float64{0, 20}, Place: 2}, {ID: "m3", Kind: NoteText, Offset: [2]float64{3, 4}, Text: "N"}}}
	for at, text := range map[string]string{"/sheets/0": second, "/sheet": first} {
		e, err := Read([]byte(text))
		if err != nil || e.Kind != Part || len(e.Sheets) != 1 || !reflect.DeepEqual(*e.Sheet(), want) {
			t.Errorf("%s is read as %+v, %v", at, e, err)
		}
		for _, c := range []struct{ from, to, pointer string }{
			{`"more":["b"]`, `"more":["c"]`, at + "/dimensions/1/more"},
			{`"characteristic":"a","view"`, `"characteristic":"c","view"`, at + "/dimensions/0/characteristic"},
			{`"kind":"linear"`, `"kind":"bent"`, at + "/dimensions/0/kind"}, {`"place":2`, `"places":2`, at},
		} {
			_, err := Read([]byte(strings.Replace(text, c.from, c.to, 1)))
			var fault *Error
			if !errors.As(err, &fault) || fault.Pointer != c.pointer {
				t.Errorf("%s: %v, want %s", c.to, err, c.pointer)
			}
		}
	}
}

// A sheet prints the tolerance that a size has of its own: deviations of ISO 286-1:2010, table 2 (25 H7: +21/0 µm;
// 25 f7: -20/-41 µm), and others as they are given.
func TestTolerancesArePrinted(t *testing.T) {
	for _, c := range []struct {
		unit string
		tol  Tolerance
		kind string
		v    float64
		want string
	}{
		{"mm", Tolerance{Kind: "iso286", Class: "H7"}, "diameter", 25, "25 H7"},
		{"mm", Tolerance{Kind: "iso286", Class: "H7", Printed: WithDeviations}, "diameter", 25, "25 H7 (+0.021/0)"},
		{"mm", Tolerance{Kind: "iso286", Class: "f7", Printed: WithDeviations}, "diameter", 25, "25 f7 (−0.02/−0.041)"},
		{"mm", Tolerance{Kind: "iso286", Class: "f7", Printed: AsLimits}, "diameter", 25, "24.98/24.959"},
		{"mm", Tolerance{Kind: "limits", Plus: "0.1 mm", Minus: "0.1 mm"}, "distance", 12, "12 ±0.1"},
		{"mm", Tolerance{Kind: "limits", Plus: "0.2 mm", Minus: "0 mm"}, "distance", 12, "12 +0.2/0"},
		{"in", Tolerance{Kind: "limits", Plus: "0.002 in", Minus: "0.005 in"}, "distance", 25.4, "1 +0.002/−0.005"},
		{"mm", Tolerance{Kind: "limits", Plus: "0.5 deg", Minus: "0.5 deg"}, "angle", math.Pi / 6, "30° ±0.5"},
		{"mm", Tolerance{Kind: "iso2768", Class: "m"}, "distance", 12, "12"},
		{"mm", Tolerance{Kind: "limits", Plus: "0.05 mm", Minus: "0.05 mm"}, "concentric", 0, "0"},
	} {
		e := &Exercise{Unit: c.unit}
		x := &Characteristic{Kind: c.kind, Tolerance: &c.tol}
		s, suffix := e.Toleranced(x, e.StatedOf(x, c.v))
		if got := s.Text + suffix; got != c.want {
			t.Errorf("%+v of %g: %q, not %q", c.tol, c.v, got, c.want)
		}
	}
}

// The index of a revision goes up, without the letters that are taken for figures.
func TestNextRevision(t *testing.T) {
	for was, want := range map[string]string{"": "A", "A": "B", "H": "J", "N": "P", "Z": "AA", "AZ": "BA", "3": "4",
		"b": "b-A"} {
		if got := NextRevision(was); got != want {
			t.Errorf("after %q comes %q, not %q", was, got, want)
		}
	}
}
