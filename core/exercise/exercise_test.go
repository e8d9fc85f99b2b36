package exercise

import (
	"errors"
	"math"
	"strings"
	"testing"

	"hammerset/core/address"
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
	good := `{"hammerset":"exercise/2","kind":"part","title":"T","unit":"mm","reference":"r.json",
	"characteristics":[{"id":"a","balloon":1,"kind":"distance","label":"A","of":[["x","y"]]}],
	"rubric":{"characteristics":10},"sheets":[{"paper":"A4","scale":"1:1","projection":"first","views":[],
	"dimensions":[{"characteristic":"a","view":"v","kind":"linear"}]}]}`
	if _, err := Read([]byte(good)); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ from, to, pointer string }{
		{`"exercise/2"`, `"exercise/9"`, "/hammerset"}, {`"kind":"part"`, `"kind":"heap"`, "/kind"},
		{`"sheets":[`, `"sheets":[{},`, "/sheets"}, {`[["x","y"]]`, `[["x","c1#y"]]`, "/characteristics/0/of/0/1"},
		{`"title":"T"`, `"title":""`, "/title"}, {`"unit":"mm"`, `"unit":"ell"`, "/unit"}, {`"r.json"`, `""`, "/reference"},
		{`"id":"a"`, `"id":""`, "/characteristics/0/id"}, {`"balloon":1`, `"balloon":0`, "/characteristics/0/balloon"},
		{`"kind":"distance"`, `"kind":"size"`, "/characteristics/0/kind"},
		{`,"of":[["x","y"]]`, ``, "/characteristics/0/of"}, {`"characteristic":"a"`, `"characteristic":"b"`,
			"/sheets/0/dimensions/0/characteristic"}, {`{"characteristics":10}`, `{}`, "/rubric"},
	} {
		_, err := Read([]byte(strings.Replace(good, c.from, c.to, 1)))
		if e, ok := err.(*Error); !ok || e.Pointer != c.pointer {
			t.Errorf("%s: %v, want %s", c.to, err, c.pointer)
		}
	}
	// A document from before: no kind, and one sheet by itself. Its faults are told where they stand.
	before := strings.NewReplacer("exercise/2", "exercise/1", `"kind":"part",`, "", `"sheets":[`, `"sheet":`, `}]}]}`,
		`}]}}`).Replace(good)
	e, err := Read([]byte(before))
	if err != nil || e.Kind != Part || len(e.Sheets) != 1 || e.Sheet().Paper != "A4" || e.Characteristics[0].Of[0][1] !=
		address.Of("y") {
		t.Errorf("a document of exercise/1 is read as %+v, %v", e, err)
	}
	var fault *Error
	if _, err := Read([]byte(strings.Replace(before, `"characteristic":"a"`, `"characteristic":"b"`, 1))); !errors.As(err,
		&fault) || fault.Pointer != "/sheet/dimensions/0/characteristic" {
		t.Errorf("its fault is told at %v", err)
	}
}
