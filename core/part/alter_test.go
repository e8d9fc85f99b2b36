package part

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
)

const plate = `{"hammerset":"model/1","name":"plate","unit":"mm","parameters":[],"steps":[
	{"id":"e1","kind":"extrude","sketch":"s1","regions":"all","extent":{"kind":"symmetric","total":"half"}},
	{"id":"h1","kind":"hole","sketch":"s1","at":["p","q","r"],"diameter":"1/4 in","extent":{"kind":"one-side",
	"length":"w/4"}},
	{"id":"f1","kind":"fillet","radius":"2 mm","edges":[{"around":"e1/end"},{"around":"e1/start"}]}]}`

// Alterations change a copy: the document stays as it is, and several that leave out members of
// one list count by its own numbers.
func TestAlterations(t *testing.T) {
	d, err := Read([]byte(plate))
	if err != nil {
		t.Fatal(err)
	}
	before := encoded(d)
	for _, c := range []struct {
		list []Alteration
		want string // in the step
	}{
		{[]Alteration{{"f1", AlterSet, "off", "true"}}, `"kind":"fillet","off":true`},
		{[]Alteration{{"e1", AlterSet, "reverse", "true"}, {"e1", AlterSet, "result", `"new"`}},
			`"result":"new","extent":{"kind":"symmetric","total":"half"},"reverse":true`},
		{[]Alteration{{"h1", AlterSet, "extent", `{"kind":"through"}`}}, `"extent":{"kind":"through"}`},
		{[]Alteration{{"h1", AlterLeave, "at.0", ""}, {"h1", AlterLeave, "at.2", ""}}, `"at":["q"]`},
		{[]Alteration{{"f1", AlterLeave, "edges.1", ""}}, `"edges":[{"around":"e1/end"}]`},
		{[]Alteration{{"f1", AlterAppend, "edges", `{"around":"e1/side:l1"}`}},
			`{"around":"e1/start"},{"around":"e1/side:l1"}]`},
		{[]Alteration{{"h1", AlterSize, "extent.length", "w"}}, `"length":"w"`},
		{[]Alteration{{"f1", AlterKind, "chamfer", `{"distance":"2 mm","edges":[{"around":"e1/end"}]}`}},
			`"id":"f1","kind":"chamfer","edges":[{"around":"e1/end"}],"distance":"2 mm"`},
		{[]Alteration{{"h1_q", AlterSet, "at", `["q"]`}}, `"at":["q"]`},
	} {
		twin := Alteration{"h1", AlterCopy, "h1_q", ""} // a copy is altered by itself
		got, err := d.Altered(append([]Alteration{twin}, c.list...))
		if err != nil {
			t.Errorf("%v: %v", c.list, err)
			continue
		}
		i, _ := got.index(c.list[0].Step)
		if text := encoded(got.Steps[i]); !strings.Contains(text, c.want) {
			t.Errorf("%v: %s has no %s", c.list, text, c.want)
		}
	}
	if encoded(d) != before {
		t.Error("the document itself was changed")
	}
	for _, a := range []Alteration{
		{"zz", AlterSet, "off", "true"}, {"e1", "melt", "off", ""}, {"e1", AlterSize, "extent.length", "3"},
		{"f1", AlterSet, "extent", `{"kind":"through"}`},
		{"h1", AlterLeave, "at.3", ""}, {"h1", AlterAppend, "diameter", `"2"`}, {"h1", AlterSet, "extent", "{"},
		{"e1", AlterSet, "extent.total", "7"}, {"e1", AlterKind, "melt", "{}"}, {"e1", AlterKind, "hole", "["},
	} {
		if _, err := d.Altered([]Alteration{a}); err == nil {
			t.Errorf("%+v is carried out", a)
		}
	}
}

// A step of every kind has one JSON shape: what every step has, then the fields of its kind, and it
// comes back as it was.
func TestStepsAreReadAsTheyAreWritten(t *testing.T) {
	text := `{"id":"h1","kind":"hole","name":"bolt","note":"n","off":true,"sketch":"s1","at":["p"],"diameter":"4"}`
	var s Step
	if err := json.Unmarshal([]byte(text), &s); err != nil || encoded(s) != text {
		t.Errorf("it comes back as %s, %v", encoded(s), err)
	}
	if h, ok := s.Do.(*Hole); !ok || h.Diameter != "4" || !slices.Equal(h.At, []string{"p"}) || s.Title() != "bolt" {
		t.Errorf("it is read as %+v", s.Do)
	}
	if err := json.Unmarshal([]byte(`{"id":"x","kind":"weld"}`), &s); err != nil || s.Do != nil ||
		encoded(s) != `{"id":"x","kind":"weld"}` {
		t.Errorf("a kind that there is not: %+v, %v", s, err)
	}
	if json.Unmarshal([]byte(`{"id":"h1","kind":"hole","at":7}`), &s) == nil {
		t.Error("a field of another type is read")
	}
}

// A face of one place of a step has a name of its own where a copy of the step makes that place.
func TestInTwin(t *testing.T) {
	for name, want := range map[string]string{"h1.p3/bore": "h1_p3.p3/bore", "h1/bore": "", "c1.3:h1.p/bore": "",
		"f1/round(h1.p/bore|e1/end)": "", "": ""} {
		if got := InTwin(name); got != want {
			t.Errorf("%q in its twin is %q, want %q", name, got, want)
		}
	}
}

// A face tells by its name which step made it, and whether it is on a copy of that.
func TestOrigin(t *testing.T) {
	for name, want := range map[string]string{"e1/side:l1": "e1", "h1.p3/bore": "h1", "c1.3:h1.p/bore": "h1 copied",
		"m1:c1.2:e2/end": "e2 copied", "f1/round(c1.2:h1.p/bore|e1/end)": "f1", "h1_q.q/bore": "h1_q"} {
		step, copied := Origin(name)
		if copied {
			step += " copied"
		}
		if step != want {
			t.Errorf("%s is of %s, want %s", name, step, want)
		}
	}
}
