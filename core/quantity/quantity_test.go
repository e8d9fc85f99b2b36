package quantity

import (
	"errors"
	"math"
	"strings"
	"testing"
)

func TestFormulas(t *testing.T) {
	vars := map[string]Quantity{"D": {40, Length}, "reach": {48, Length}, "n": {6, Number}, "tilt": {math.Pi / 6, Angle}}
	lookup := func(s string) (Quantity, bool) { q, ok := vars[s]; return q, ok }
	cases := []struct {
		in   string
		want float64
		dim  Dim
	}{
		{"120 - 15", 105, Number},
		{"5/16", 0.3125, Number},
		{"(64+10)/2", 37, Number},
		{"D/2", 20, Length},
		{"reach/2 - 3 mm", 21, Length},
		{"3/16 in", 25.4 * 3 / 16, Length},
		{"1 1/2 in", 38.1, Length},
		{"1 1/2 in + 1/2 in", 50.8, Length},
		{"2 * 3/16 in", 25.4 * 6 / 16, Length},
		{"12/4 mm", 3, Length},
		{"(1 + 1/2) in", 38.1, Length},
		{"1.5 cm + 2 m", 2015, Length},
		{"-2^2", -4, Number}, // the sign binds weaker than the power, as in mathematics
		{"2^-1", 0.5, Number},
		{"2^3^2", 512, Number},
		{"D^2", 1600, Dim{Length: 2}},
		{"sqrt(D^2 + (30 mm)^2)", 50, Length},
		{"hypot(D, 30 mm)", 50, Length},
		{"360 deg / n", math.Pi / 3, Angle},
		{"60°", math.Pi / 3, Angle},
		{"D * cos(60 deg)", 20, Length},
		{"sin(tilt)", 0.5, Number},
		{"atan2(D, D)", math.Pi / 4, Angle},
		{"pi * D", 40 * math.Pi, Length},
		{"max(D, reach) - min(D, reach)", 8, Length},
		{"1e1 mm", 10, Length},
		{"8-3-2", 3, Number},
		{"8/4/2", 1, Number},
	}
	for _, c := range cases {
		f, err := Parse(c.in)
		if err != nil {
			t.Errorf("%s: %v", c.in, err)
			continue
		}
		q, err := f.Eval(lookup)
		if err != nil {
			t.Errorf("%s: %v", c.in, err)
			continue
		}
		if math.Abs(q.Value-c.want) > 1e-12*math.Max(1, math.Abs(c.want)) || q.Dim != c.dim {
			t.Errorf("%s = %v (%v), want %v (%v)", c.in, q.Value, q.Dim, c.want, c.dim)
		}
	}
}

// The numbers of a formula are known with their units and places, and can be written otherwise.
func TestLiterals(t *testing.T) {
	for formula, want := range map[string]string{"w/2 - 11 mm": "w/[2] - [11 mm]",
		"(1 1/2 in) - gd/2": "([1 1/2 in]) - gd/[2]",
		"180 deg - slope":   "[180 deg] - slope", "3/16 in": "[3/16 in]", "3/16": "[3]/[16]", "d + depth": "d + depth",
		"sin(30 deg) * 4": "sin([30 deg]) * [4]", "-0.5 mm ": "-[0.5 mm] "} {
		f, err := Parse(formula)
		if err != nil {
			t.Fatal(err)
		}
		got, list := formula, f.Literals()
		for i := len(list) - 1; i >= 0; i-- {
			got = got[:list[i].At] + "[" + formula[list[i].At:list[i].End] + "]" + got[list[i].End:]
		}
		if got != want {
			t.Errorf("%q has the numbers %q, want %q", formula, got, want)
		}
		for _, l := range list {
			g, err := Parse(f.With(l, "(7 mm)"))
			if err != nil || len(g.Literals()) != len(list) {
				t.Errorf("%q with another number: %v", formula, err)
			}
			alone, err := Parse(formula[l.At:l.End])
			if err != nil {
				t.Fatal(err)
			}
			if q, err := alone.Eval(nil); err != nil || q != l.Value {
				t.Errorf("%q: the number %q is %v, and by itself %v, %v", formula, formula[l.At:l.End], l.Value, q, err)
			}
		}
	}
}

func TestFormulaErrorsNameThePlace(t *testing.T) {
	lookup := func(s string) (Quantity, bool) { return Quantity{10, Length}, s == "D" }
	cases := []struct {
		in     string
		offset int
		say    string
	}{
		{"", 0, "empty"},
		{"D + 3", 2, "write a unit"},
		{"D + 30 deg", 2, "units clash"},
		{"D + E", 4, `no parameter named "E"`},
		{"3 inch", 2, "write in for inches"},
		{"2 * (3 + 4", 4, "not closed"},
		{"3 4", 2, "follows another number"},
		{"D D", 2, "not expected"},
		{"3 +", 3, "ends where a value"},
		{"mm", 0, "no number before"},
		{"1/0", 1, "finite"},
		{"sqrt(D)", 0, "cannot be taken"},
		{"foo(2)", 0, "no function"},
		{"sin(1, 2)", 0, "takes 1"},
		{"2 ^ D", 2, "exponent"},
		{strings.Repeat("(", 400), 100, "nested"},
		{strings.Repeat("-", 400) + "1", 100, "nested"},
	}
	for _, c := range cases {
		f, err := Parse(c.in)
		if err == nil {
			_, err = f.Eval(lookup)
		}
		var fe *Error
		if !errors.As(err, &fe) {
			t.Errorf("%q: got %v, want a formula error", c.in, err)
			continue
		}
		if !strings.Contains(fe.Error(), c.say) || fe.Offset != c.offset {
			t.Errorf("%q: offset %d, %q; want offset %d and %q", c.in, fe.Offset, fe.Error(), c.offset, c.say)
		}
	}
}

func TestTable(t *testing.T) {
	params := []Parameter{{Name: "bore", Formula: "D/2 - wall"}, {Name: "D", Formula: "2 in"},
		{Name: "wall", Formula: "3/16 in"}, {Name: "holes", Formula: "6"}}
	tab, err := Evaluate(params, Inch, nil)
	if err != nil {
		t.Fatal(err)
	}
	if q, _ := tab.Lookup("bore"); math.Abs(q.Value-25.4*(1-3.0/16)) > 1e-12 {
		t.Errorf("bore = %v", q.Value)
	}
	if got := strings.Join(tab.Driving(), " "); got != "D wall holes" {
		t.Errorf("driving = %q", got)
	}
	if v, err := tab.Eval("1/2", Length); err != nil || v != 12.7 {
		t.Errorf("a plain number in an inch document = %v, %v; want 12.7 mm", v, err)
	}
	if v, err := tab.Eval("90", Angle); err != nil || math.Abs(v-math.Pi/2) > 1e-15 {
		t.Errorf("a plain angle = %v, %v; want 90 degrees", v, err)
	}
	tab, err = Evaluate(params, Inch, map[string]Quantity{"D": {100, Length}})
	if err != nil {
		t.Fatal(err)
	}
	if q, _ := tab.Lookup("bore"); math.Abs(q.Value-(50-25.4*3/16)) > 1e-12 {
		t.Errorf("bore with D set = %v", q.Value)
	}
	for _, bad := range []struct {
		params []Parameter
		say    string
	}{
		{[]Parameter{{Name: "a", Formula: "b"}, {Name: "b", Formula: "c + 1"}, {Name: "c", Formula: "a"}}, "a → b → c → a"},
		{[]Parameter{{Name: "a", Formula: "1"}, {Name: "a", Formula: "2"}}, "already used"},
		{[]Parameter{{Name: "mm", Formula: "1"}}, "is a unit"},
		{[]Parameter{{Name: "2a", Formula: "1"}}, "starts with a letter"},
		{[]Parameter{{Name: "w", Formula: "1 mm + 1 deg"}}, `parameter "w"`},
	} {
		if _, err := Evaluate(bad.params, Millimetre, nil); err == nil || !strings.Contains(err.Error(), bad.say) {
			t.Errorf("%v: %v, want %q", bad.params, err, bad.say)
		}
	}
}

func FuzzParse(f *testing.F) {
	f.Add("1 1/2 in + D*sin(30 deg)^2")
	f.Fuzz(func(t *testing.T, s string) {
		p, err := Parse(s)
		if err != nil {
			_ = err.Error()
			return
		}
		q, err := p.Eval(func(string) (Quantity, bool) { return Quantity{1, Length}, true })
		if err == nil && (math.IsNaN(q.Value) || math.IsInf(q.Value, 0)) {
			t.Fatalf("%q gives %v", s, q)
		}
	})
}
