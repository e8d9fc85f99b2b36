package school

import (
	"slices"
	"testing"

	"hammerset/core/exercise"
)

// What is filled in and not finished goes with what is done to the characteristics on the sheet, and nothing of it is
// lost.
func TestFilledInFollows(t *testing.T) {
	named := func(list ...string) (out []exercise.Characteristic) {
		for _, x := range list { // an id, and what it is called
			out = append(out, exercise.Characteristic{ID: x[:1], Label: x})
		}
		return out
	}
	for _, c := range []struct {
		what                  string
		filled, was, is, want []string
	}{
		{"nothing was done", []string{"a", "n new"}, []string{"a"}, []string{"a"}, []string{"a", "n new"}},
		{"one was added", []string{"a", "n new"}, []string{"a"}, []string{"a", "b"}, []string{"a", "n new", "b"}},
		{"one was removed", []string{"a", "b", "n new"}, []string{"a", "b"}, []string{"b"}, []string{"b", "n new"}},
		{"one was changed", []string{"a", "n new"}, []string{"a"}, []string{"a renamed"}, []string{"a renamed", "n new"}},
		{"one was changed here too", []string{"a here"}, []string{"a"}, []string{"a there"}, []string{"a here"}},
		{"one was removed here", []string{"b"}, []string{"a", "b"}, []string{"a", "b"}, []string{"b"}},
	} {
		d := &DraftChange{Characteristics: named(c.filled...)}
		d.follow(named(c.was...), named(c.is...))
		var got []string
		for _, x := range d.Characteristics {
			got = append(got, x.Label)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
		}
	}
}
