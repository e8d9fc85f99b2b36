package exercise

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/assembly/requirement"
)

// joined is an exercise of an assembly with one characteristic of every kind.
func joined() *Exercise {
	ex := &Exercise{Hammerset: Version, Kind: Assembly, Title: "Tackle joint", Unit: "mm", Reference: ReferenceOfAssembly,
		Rubric:   Rubric{PartsMade: 50, Placement: 30, Joints: 20},
		Sheets:   Sheets{{Paper: "A3", Scale: "1:1", Projection: "first"}},
		Assembly: &OfAssembly{Items: []Item{{Part: "pin", Exercise: "pin/exercise.json"}}}}
	two := []address.Ref{{Component: "c1", Name: "e1/end"}, {Component: "c2", Name: "e1/start"}}
	for i, k := range requirement.All() {
		about := requirement.About{}
		if k.Needs.Features {
			about.Of = two
		}
		if k.Needs.Joint {
			about.Joint = "j1"
		}
		if k.Needs.To {
			about.To = "j2"
		}
		if k.Needs.Item {
			about.Item = "pin"
		}
		if k.Needs.Trace {
			about.Trace = "t1"
		}
		ex.Assembly.Characteristics = append(ex.Assembly.Characteristics, Requirement{ID: k.Name, Balloon: i + 1,
			Kind: k.Name, Label: k.Title, About: about})
	}
	return ex
}

// Whatever is wrong with an exercise of an assembly is said at its place.
func TestExercisesOfAssembliesAreChecked(t *testing.T) {
	if err := joined().Check(); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		what   string
		change func(e *Exercise)
		at     string
	}{
		{"an assembly without its block", func(e *Exercise) { e.Assembly = nil }, "/assembly"},
		{"a part with that block", func(e *Exercise) { e.Kind = Part }, "/assembly"},
		{"characteristics of a part", func(e *Exercise) {
			e.Characteristics = []Characteristic{{ID: "x", Balloon: 99, Kind: "solids", Label: "x"}}
		}, "/characteristics"},
		{"another reference", func(e *Exercise) { e.Reference = "reference.step" }, "/reference"},
		{"a part twice", func(e *Exercise) {
			e.Assembly.Items = append(e.Assembly.Items, Item{Part: "pin"})
		}, "/assembly/items/1/part"},
		{"a way out of the folder", func(e *Exercise) {
			e.Assembly.Items[0].Exercise = "../pin/exercise.json"
		}, "/assembly/items/0/exercise"},
		{"an exercise without a folder", func(e *Exercise) {
			e.Assembly.Items[0].Exercise = "exercise.json"
		}, "/assembly/items/0/exercise"},
		{"a balloon twice", func(e *Exercise) {
			e.Assembly.Characteristics[1].Balloon = 1
		}, "/assembly/characteristics/1/balloon"},
		{"an unknown kind", func(e *Exercise) {
			e.Assembly.Characteristics[0].Kind = "colour"
		}, "/assembly/characteristics/0/kind"},
		{"another branch", func(e *Exercise) { e.Assembly.Branch = "left" }, "/assembly/branch"},
		{"an unknown word", func(e *Exercise) { e.Assembly.Unsaid = "guess" }, "/assembly/unsaid"},
		{"a rubric of a part", func(e *Exercise) { e.Rubric = Rubric{Characteristics: 100} }, "/rubric"},
		{"a cap of a part", func(e *Exercise) {
			e.Rubric.Caps = []Cap{{When: CapSolids, Percent: 50}}
		}, "/rubric/caps/0/when"},
	} {
		ex := joined()
		c.change(ex)
		var fault *Error
		if err := ex.Check(); !errors.As(err, &fault) || !strings.HasPrefix(fault.Pointer, c.at) {
			t.Errorf("%s: %v, and not at %s", c.what, err, c.at)
		}
	}
	for i, r := range joined().Assembly.Characteristics { // each kind asks for just what it goes by
		kind := r.Declared()
		about := r.About
		if about.Joint = "j1"; kind.Needs.Joint {
			about.Joint = ""
		}
		if kind.Check(&about) == nil {
			t.Errorf("characteristic %d, %s, is taken with what it has not", i, r.Kind)
		}
	}
}

// What counts for how much is no part of what is measured, and everything else is.
func TestMeasuredOfAnAssembly(t *testing.T) {
	key := func(change func(e *Exercise)) string {
		ex := joined()
		change(ex)
		k, err := ex.Measured([]byte("reference"))
		if err != nil {
			t.Fatal(err)
		}
		return k
	}
	as := key(func(*Exercise) {})
	if key(func(e *Exercise) { e.Assembly.Items[0].Weight = 3; e.Assembly.Characteristics[0].Weight = 2 }) != as {
		t.Error("weights are part of what is measured")
	}
	for what, change := range map[string]func(e *Exercise){
		"an item that is given":  func(e *Exercise) { e.Assembly.Items[0].Given = true },
		"another characteristic": func(e *Exercise) { e.Assembly.Characteristics[0].Item = "eye" },
		"either branch":          func(e *Exercise) { e.Assembly.Branch = AnyBranch },
	} {
		if key(change) == as {
			t.Errorf("%s makes no difference", what)
		}
	}
}

// Limits of characteristics of the whole: counts are exact, clearances may be more, and what is stated as none has the
// tolerance of a model.
func TestWhatIsAskedOfTheWhole(t *testing.T) {
	ex := joined()
	ex.General = Tolerance{Kind: "sheet"}
	for _, c := range []struct {
		kind         string
		value        float64
		lower, upper float64
		text         string
	}{
		{"quantity", 4, 4, 4, "4"},
		{"mobility", 1, 1, 1, "1"},
		{"clearance", 0.5, 0.49, unbounded, "0.5"},
		{"placement", 12.34, 12.33, 12.35, "12.34"},
		{"coaxial", 0, -0.01, 0.01, ""},
		{"path", 0, -0.01, 0.01, ""},
		{"travel", 80, 79.92, 80.08, "80"},
		{"ratio", -2.5, -2.5025, -2.4975, "-2.5"},
		{"assembled mass", 1000, 999, 1001, "1000"},
	} {
		var r *Requirement
		for i := range ex.Assembly.Characteristics {
			if ex.Assembly.Characteristics[i].Kind == c.kind {
				r = &ex.Assembly.Characteristics[i]
			}
		}
		a, err := ex.Asked(r, c.value)
		if err != nil {
			t.Fatal(err)
		}
		if near(a.Lower, c.lower) && near(a.Upper, c.upper) && a.Text == c.text {
			continue
		}
		t.Errorf("%s of %g: %g to %g, %q", c.kind, c.value, a.Lower, a.Upper, a.Text)
	}
	limited := ex.Assembly.Requirement("placement")
	limited.Tolerance = &Tolerance{Kind: "limits", Plus: "0.2 mm", Minus: "0.1 mm"}
	if a, err := ex.Asked(limited, 10); err != nil || !near(a.Lower, 9.9) || !near(a.Upper, 10.2) {
		t.Errorf("with limits: %+v, %v", a, err)
	}
}

func near(a, b float64) bool { return a-b < 1e-9 && b-a < 1e-9 }

// Documents are written as they are read.
func TestDocumentsOfAssembliesComeBack(t *testing.T) {
	data, err := json.Marshal(joined())
	if err != nil {
		t.Fatal(err)
	}
	back, err := Read(data)
	if err != nil {
		t.Fatal(err)
	}
	again, err := json.Marshal(back)
	if err != nil || string(again) != string(data) {
		t.Errorf("it comes back as %s (%v)", again, err)
	}
}
