package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
)

// TestAccessibility has axe-core look over every screen in both themes, for what WCAG 2.2 asks at
// the levels A and AA and for good practice. Nothing may be found.
func TestAccessibility(t *testing.T) {
	a := startApp(t)
	waitChecked(t, a, "ottoline", 3)
	b := startBrowser(t)
	axe, err := os.ReadFile("../../web/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatalf("%v: make build installs it", err)
	}
	ada := a.client("ada")
	model := startModel(t, ada, `{"name":"Own","unit":"mm"}`, plainPlate+`,{"id":"e1","kind":"extrude","name":"plate",
	"sketch":"s1","regions":"all","extent":{"kind":"one-side","length":"8 mm"},"result":"add"}`)
	_, body := ada.do("GET", "/api/home", "", "")
	var home []struct {
		Issue    struct{ ID int64 }
		Attempts []struct{ ID int64 }
	}
	if err := json.Unmarshal([]byte(body), &home); err != nil || len(home) == 0 || len(home[0].Attempts) == 0 {
		t.Fatalf("ada's exercises: %v %s", err, body)
	}
	issue, attempt := home[0].Issue.ID, home[0].Attempts[0].ID
	screens := map[string][][2]string{ // what is opened, and what is waited for
		"": {{"/", "Sign in"}},
		"ada": {{"/", "My exercises"}, {fmt.Sprintf("/issues/%d", issue), "Hand in"},
			{fmt.Sprintf("/attempts/%d", attempt), "Attempt"}, {"/models", "My models"}, {"/models/" + model, "plate"},
			{"/models/" + model + "?tab=parameters", "New parameter"},
			{"/models/" + model + "?tab=solids", "Volume"}, {"/models/" + model + "?tab=versions", "Own"},
			{"/models/" + model + "/sketches/s1", "Findings"}, {"/models/" + model + "/sketches/s1?tab=constraints",
				"horizontal"}, {"/models/" + model + "/sketches/s1?tab=parameters", "Parameters"}, {"/password", "My password"}},
		"ottoline": {{"/", "Waits for a look"}, {"/exercises/1", "Characteristics"},
			{"/exercises/1?tab=reference", "Characteristics"}, {"/exercises/1?tab=mistakes", "Mistake atlas"},
			{"/exercises/1?tab=characteristics", "Add a characteristic"}, {"/exercises/1?tab=layout", "As saved"},
			{fmt.Sprintf("/issues/%d", issue), "Terms"},
			{fmt.Sprintf("/issues/%d/class", issue), "Found in several"}, {fmt.Sprintf("/issues/%d/rubric", issue),
				"What it gives"}, {fmt.Sprintf("/issues/%d/recheck", issue), "Versions of the exercise"},
			{fmt.Sprintf("/attempts/%d", attempt), "Findings"}, {fmt.Sprintf("/attempts/%d?tab=table", attempt),
				"Characteristics"}, {"/classes/1", "Roster"}, {"/nothing", "No such page"}},
		"registrar": {{"/accounts", "All accounts"}},
	}
	for login, list := range screens {
		var p *person
		if login == "" {
			p = &person{b.MustIncognito().MustPage("about:blank").Timeout(4 * time.Minute), t, a.url}
			p.MustSetViewport(1280, 800, 1, false)
		} else {
			p = signIn(t, b, a, login)
		}
		// Colours then change at once, and not within the time of a transition.
		if err := (proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion",
			Value: "reduce"}}}).Call(p); err != nil {
			t.Fatal(err)
		}
		for _, s := range list {
			p.open(s[0])
			p.see(s[1])
			p.MustWait(`() => !document.querySelector("main .loading, main + .loading")`)
			// At 200 percent a window of 1280 by 800 has half as many places: everything that can be
			// pressed can still be come to.
			p.MustSetViewport(640, 400, 2, false)
			time.Sleep(200 * time.Millisecond)
			cut := p.MustEval(`() => [...document.querySelectorAll("button, a, input, select, textarea")].filter((e) => {
				if (e.closest(".sr-only, [inert], canvas, details:not([open])") || e.tabIndex < 0 ||
					e.matches(".sr-only, .hidden") || getComputedStyle(e).visibility === "hidden" ||
					e.offsetParent === null) return false;
				for (let box = e.getBoundingClientRect(), h = e.parentElement; h; h = h.parentElement) {
					const s = getComputedStyle(h), b = h.getBoundingClientRect();
					if (s.overflowX === "auto" || s.overflowX === "scroll") return false;
					if ((s.overflowX === "hidden" || h === document.documentElement) && (box.right > b.left + h.clientWidth + 1 ||
						box.left < b.left - 1)) return true;
				}
				return false;
			}).map((e) => (e.getAttribute("aria-label") || e.textContent || e.tagName).slice(0, 40)).join(", ")`).Str()
			if cut != "" {
				t.Errorf("%s %s at 200 percent cuts off: %s", login, s[0], cut)
			}
			p.MustSetViewport(1280, 800, 1, false)
			for _, theme := range []string{"paper", "lamp"} {
				// What inherits a colour may begin to change when the colour that it inherits has changed.
				p.MustEval(`async (theme) => { document.documentElement.dataset.theme = theme;
					for (let round = 0; round < 5; round++) {
						await new Promise((painted) => requestAnimationFrame(() => requestAnimationFrame(painted)));
						await Promise.allSettled(document.getAnimations().filter((a) => a instanceof CSSTransition)
							.map((a) => a.finished));
					} }`, theme)
				p.MustEval(`(source) => { if (!window.axe) (0, eval)(source) }`, string(axe))
				found := p.MustEval(`async () => { const r = await axe.run(document, { resultTypes: ["violations"] });
					return JSON.stringify(r.violations.map((v) => ({ id: v.id, help: v.help, nodes: v.nodes.map((n) =>
					n.html.slice(0, 160) + " @ " + n.target.join(" ") + " " + (n.any[0]?.message ?? "")) }))) }`).Str()
				var list []struct {
					ID, Help string
					Nodes    []string
				}
				if err := json.Unmarshal([]byte(found), &list); err != nil {
					t.Fatal(err)
				}
				for _, v := range list {
					t.Errorf("%s %s in %s: %s (%s)\n\t%s", login, s[0], theme, v.ID, v.Help,
						strings.Join(v.Nodes[:min(4, len(v.Nodes))], "\n\t"))
				}
			}
		}
	}
}
