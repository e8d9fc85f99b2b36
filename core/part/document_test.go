package part

import (
	"encoding/json"
	"strings"
	"testing"
)

func TestDocumentFaultsNameTheirPlace(t *testing.T) {
	good := `{"hammerset":"model/1","name":"n","unit":"mm","parameters":[],"steps":[{"id":"a","kind":"sketch"},{"id":"b",
	"kind":"extrude","sketch":"a","regions":"all"}]}`
	if _, err := Read([]byte(good)); err != nil {
		t.Fatal(err)
	}
	many := strings.Repeat(`{"id":"x","kind":"sketch"},`, maxSteps+1)
	for _, c := range []struct{ from, to, pointer string }{
		{`model/1`, `model/2`, "/hammerset"}, {`"mm"`, `"yard"`, "/unit"}, {`"id":"b"`, `"id":"a"`, "/steps/1/id"},
		{`"id":"a"`, `"id":""`, "/steps/0/id"},
		{`"extrude"`, `"explode"`, "/steps/1/kind"}, {`"regions":"all"`, `"regions":"some"`, ""},
		{`{"id":"a","kind":"sketch"}`, strings.TrimSuffix(many, ","), "/steps"},
	} {
		_, err := Read([]byte(strings.Replace(good, c.from, c.to, 1)))
		if e, ok := err.(*DocumentError); !ok || e.Pointer != c.pointer || e.Message == "" {
			t.Errorf("%.40s: %v, want it at %q", c.to, err, c.pointer)
		}
	}
}

// Regions are written as they are read.
func TestRegionsRoundTrip(t *testing.T) {
	for _, text := range []string{`"all"`, `[["c1"]]`, `[["l1","l2"],["c1"]]`} {
		var r Regions
		if err := json.Unmarshal([]byte(text), &r); err != nil {
			t.Fatal(err)
		}
		if out, err := json.Marshal(r); err != nil || string(out) != text {
			t.Errorf("%s comes back as %s, %v", text, out, err)
		}
	}
	for _, c := range []struct {
		bounds, want []string
		same         bool
	}{{[]string{"a", "b"}, []string{"b", "a"}, true}, {[]string{"a", "b"}, []string{"a", "b", "b"}, true},
		{[]string{"a", "b"}, []string{"a"}, false}, {[]string{"a"}, []string{"c"}, false}} {
		if sameSet(c.bounds, c.want) != c.same {
			t.Errorf("%v and %v", c.bounds, c.want)
		}
	}
}
