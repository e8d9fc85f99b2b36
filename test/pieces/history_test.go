package pieces

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
)

// Undo and redo against the plainest model of them: a list of states and a place in it, which forgets what is
// more than 200 changes ago.
func TestHistoryIsAListWithAPlace(t *testing.T) {
	random := rand.New(rand.NewPCG(13, 5))
	var doings []string
	for n := range 900 {
		switch k := random.IntN(10); {
		case n > 300 && k < 3:
			doings = append(doings, "back")
		case n > 300 && k < 5:
			doings = append(doings, "forth")
		default:
			doings = append(doings, fmt.Sprintf("change %d", n))
		}
	}
	var got []struct {
		Now          string
		Past, Future int
	}
	run(t, `
		import { back, forth, open, push } from "$/modeller/history.ts";
		let h = open(1, { name: "first" });
		answer(given.map((doing: string) => {
			h = doing === "back" ? back(h) : doing === "forth" ? forth(h) : push(h, { name: doing }, doing);
			return { now: h.now.doc.name, past: h.past.length, future: h.future.length };
		}));`, doings, &got)
	states, at := []string{"first"}, 0
	for i, doing := range doings {
		switch doing {
		case "back":
			at = max(0, at-1)
		case "forth":
			at = min(len(states)-1, at+1)
		default:
			states = append(states[:at+1], doing)
			if at++; at > 200 {
				states, at = states[1:], at-1
			}
		}
		if g := got[i]; g.Now != states[at] || g.Past != at || g.Future != len(states)-1-at {
			t.Fatalf("%d, %s: %+v, and it should be %s, %d of %d", i, doing, g, states[at], at, len(states))
		}
	}
}

// A model that is opened again has its history; what was changed elsewhere meanwhile is one more change.
func TestHistoryOutlivesThePage(t *testing.T) {
	var got []string
	run(t, `
		import { back, keep, open, push } from "$/modeller/history.ts";
		const told = (h) => [...h.past, h.now].map((s) => s.doc.name + " by " + s.what).join(", ");
		keep(7, push(open(7, { name: "a" }), { name: "b" }, "renaming"));
		answer([open(7, { name: "b" }), open(7, { name: "c" }), back(open(7, { name: "c" })), open(8,
			{ name: "c" })].map(told));`, nil, &got)
	want := []string{
		"a by opened, b by renaming",
		"a by opened, b by renaming, c by sketch or change elsewhere",
		"a by opened, b by renaming",
		"c by opened",
	}
	if !slices.Equal(got, want) {
		t.Errorf("got %q, want %q", got, want)
	}
}
