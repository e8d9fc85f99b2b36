package address

import (
	"encoding/json"
	"testing"
)

func TestAddressesAreReadAsTheyAreWritten(t *testing.T) {
	for text, want := range map[string]Ref{
		"h1.p3/bore":                {"", "h1.p3/bore"},
		"c2/c1#h1.p3/bore":          {"c2/c1", "h1.p3/bore"},
		"c2#f1/round(e1/a|e1/b)@e2": {"c2", "f1/round(e1/a|e1/b)@e2"},
		"e1/side:l1 & e1/side:l2":   {"", "e1/side:l1 & e1/side:l2"},
		"c10#face:7":                {"c10", "face:7"},
		"r1.3:e2/side:c*":           {"", "r1.3:e2/side:c*"},
	} {
		r, err := Parse(text)
		if err != nil || r != want || r.String() != text {
			t.Errorf("%q is read as %+v (%v), written %q", text, r, err, r.String())
		}
		data, err := json.Marshal([]Ref{r})
		var back []Ref
		if err != nil || json.Unmarshal(data, &back) != nil || back[0] != want {
			t.Errorf("%s comes back as %+v, %v", data, back, err)
		}
		if in := r.Inside("a9"); in.Name != r.Name || in.Component != "a9" && in.Component != "a9/"+r.Component {
			t.Errorf("%q inside a9 is %q", text, in)
		}
	}
	for _, bad := range []string{"", "#", "c1#", "#e1/end", "c1//c2#e1/end", "/c1#e1/end", "c1#c2#e1/end"} {
		if r, err := Parse(bad); err == nil {
			t.Errorf("%q is read as %+v", bad, r)
		}
	}
}

func TestNumberedNames(t *testing.T) {
	for name, want := range map[string]struct {
		what string
		i    int
	}{"face:0": {Face, 0}, "edge:12": {Edge, 12}, "corner:3": {Corner, 3}} {
		if what, i, ok := Of(name).Number(); !ok || what != want.what || i != want.i || Numbered(what, i).Name != name {
			t.Errorf("%s is %s %d, %v", name, what, i, ok)
		}
	}
	for _, name := range []string{"i1/face:7", "face:", "face:-1", "face:07", "face:7x", "bore:1", "face:99999999999"} {
		if _, _, ok := Of(name).Number(); ok {
			t.Errorf("%s is taken as a number", name)
		}
	}
	// As earlier reports have them.
	var r []Ref
	if err := json.Unmarshal([]byte(`[4, "face:5"]`), &r); err != nil || r[0] != Numbered(Face, 4) ||
		r[1] != Numbered(Face, 5) {
		t.Errorf("old and new: %v, %v", r, err)
	}
	if json.Unmarshal([]byte(`[-1]`), &r) == nil || json.Unmarshal([]byte(`[true]`), &r) == nil {
		t.Error("no address is taken as one")
	}
}
