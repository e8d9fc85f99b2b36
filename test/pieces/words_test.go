package pieces

import (
	"testing"
	"time"
)

// Figures, dates and sentences as they are written on the pages.
func TestFormatting(t *testing.T) {
	now := time.Now()
	ahead := func(d time.Duration) string { return now.Add(d).UTC().Format(time.RFC3339Nano) }
	cases := []struct {
		Piece string
		Given any
		want  string
	}{
		{"points", 3, "3"},
		{"points", 0.125, "0.13"},
		{"points", -1.5, "−1.5"},
		{"sentence", "the plate is 2 mm too thin", "The plate is 2 mm too thin."},
		{"sentence", "Is it loose?", "Is it loose?"},
		{"sentence", "l4 has no size", "l4 has no size."},
		{"sentence", "plate.step is a mesh", "plate.step is a mesh."},
		{"when", "2026-07-03T08:05:00Z", "Fri 3 Jul, 09:05"}, // summer time
		{"when", "2026-11-27T15:04:00Z", "Fri 27 Nov, 15:04"},
		{"localTime", "2026-07-03T08:05:00Z", "2026-07-03T09:05"},
		{"distance", ahead(42 * time.Minute), "in 42 minutes"},
		{"distance", ahead(-3 * time.Hour), "3 hours ago"},
		{"distance", ahead(35 * time.Hour), "in 35 hours"},
		{"distance", ahead(48 * time.Hour), "in 2 days"},
		{"distance", ahead(-24 * 30 * time.Hour), "30 days ago"},
	}
	var got []string
	run(t, `
		import { distance, localTime, points, when } from "$/app/format.ts";
		import { sentence } from "$/controls/notices.tsx";
		const pieces = { distance, localTime, points, sentence, when };
		answer(given.map((c) => pieces[c.Piece](c.Given)));`, cases, &got)
	for i, c := range cases {
		if got[i] != c.want {
			t.Errorf("%s of %v is %q, not %q", c.Piece, c.Given, got[i], c.want)
		}
	}
}

// A value that is put into a step by its path is found there again and nowhere else; an empty one leaves no
// trace, and the step that it was put into stays as it was.
func TestValuesInSteps(t *testing.T) {
	step := map[string]any{"id": "h1", "kind": "hole", "place": map[string]any{"face": "e1/end",
		"from": []any{map[string]any{"distance": "8 mm"}}}, "extent": map[string]any{"kind": "through"}}
	type one struct {
		Path  string
		Value any
	}
	cases := []one{
		{"diameter", "6 mm"}, {"extent.length", "12 mm"}, {"extent.kind", "one-side"},
		{"place.from.0.distance", "9 mm"}, {"place.from.1.edge", map[string]any{"around": "e1/end"}},
		{"edges", []any{"a", "b"}}, {"both", true}, {"name", "seat"},
	}
	var got []struct{ Found, There, Cleared, Same bool }
	run(t, `
		import { valueAt, withValue } from "$/modeller/types.ts";
		const text = (v) => JSON.stringify(v);
		answer(given.cases.map(({ Path, Value }) => {
			const before = text(given.step);
			const put = withValue(given.step, Path, Value);
			const there = valueAt(given.step, Path) !== undefined;
			const cleared = withValue(put, Path, "");
			return {
				found: text(valueAt(put, Path)) === text(Value),
				there,
				cleared: valueAt(cleared, Path) === undefined && (there || text(cleared) === before),
				same: text(given.step) === before,
			};
		}));`, map[string]any{"step": step, "cases": cases}, &got)
	for i, g := range got {
		if !g.Found || !g.Cleared || !g.Same {
			t.Errorf("%s: %+v", cases[i].Path, g)
		}
	}
}
