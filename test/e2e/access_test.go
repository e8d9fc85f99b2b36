package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// seen is a screen, or what is opened on one: what is waited for, and what is pressed then, one after the other. All
// menus of a screen are opened as well.
type seen struct {
	path, shows string
	press       []string
}

// TestAccessibility has axe-core look over every screen in both themes, with its menus open and with dialogs and errors
// on it, for what WCAG 2.2 asks at the levels A and AA and for good practice. Nothing may be found.
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
	issue, attempt := fmt.Sprintf("/issues/%d", home[0].Issue.ID), fmt.Sprintf("/attempts/%d", home[0].Attempts[0].ID)
	part, sketch := "/models/"+model, "/models/"+model+"/sketches/s1"
	screens := map[string][]seen{
		"": {{"/", "Sign in", nil}, {"/", "Sign in", []string{"Sign in"}}, {"/forgotten", "password", nil},
			{"/choose-password?of=nobody", "password", nil}},
		"ada": {{"/", "My exercises", nil}, {issue, "Hand in", nil}, {attempt, "Attempt", nil}, {"/models", "My models", nil},
			{part, "plate", nil}, {part, "plate", []string{"Keys and help"}}, {part + "?tab=parameters", "New parameter", nil},
			{part + "?tab=solids", "Volume", nil}, {part + "?tab=versions", "Own", nil}, {sketch, "Findings", nil},
			{sketch, "Findings", []string{"Keys"}}, {sketch + "?tab=constraints", "horizontal", nil},
			{sketch + "?tab=parameters", "Parameters", nil}, {"/password", "My password", nil}, {"/tasks", "My exercises", nil},
			{"/messages", "Messages", nil},
			{"/telling", "Mail and calendar", nil}, {"/issues/9999", "not there", nil}},
		"ottoline": {{"/", "Waits for a look", nil}, {"/exercises/1", "Characteristics", nil},
			{"/exercises/1", "Issue to a class", []string{"Issue …"}}, {"/exercises/1?tab=reference", "Characteristics", nil},
			{"/exercises/1?tab=mistakes", "Mistake atlas", nil},
			{"/exercises/1?tab=characteristics", "Add a characteristic", nil}, {"/exercises/1?tab=layout", "As saved", nil},
			{issue, "Terms", nil}, {issue, "Terms", []string{"Withdraw the issue"}},
			{issue + "/class", "Found in several", nil}, {issue + "/rubric", "What it gives", nil},
			{issue + "/recheck", "Versions of the exercise", nil}, {attempt, "Findings", nil},
			{attempt, "Findings", []string{"Keys"}}, {attempt + "?tab=table", "Characteristics", nil},
			{"/classes/1", "Roster", nil}, {"/classes/1", "Roster", []string{"Change the group Early shift"}},
			{"/classes", "A new class", nil}, {"/classes/1/list", "students", nil}, {"/classes/1/gradebook", "By exercise", nil},
			{"/exercises", "All exercises", nil}, {"/messages", "Messages", nil}, {"/telling", "Mail and calendar", nil},
			{"/assemblies/1", "Parts list", nil}, {"/assemblies/1", "Parts list", []string{"Put in a part"}},
			{"/nothing", "No such page", nil}},
		"registrar": {{"/accounts", "All accounts", nil}},
	}
	if code, answer := a.client("ottoline").do("PUT", "/api/classes/1/groups", "application/json", fmt.Sprintf(
		`{"name":"Early shift","students":[%d]}`, idOf(t, ada))); code != http.StatusNoContent {
		t.Fatalf("a group: %d %s", code, answer)
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
		for i, s := range list {
			p.open(s.path)
			p.see(s.shows)
			p.MustWait(`() => !document.querySelector("main .loading, main + .loading")`)
			what := login + " " + s.path
			if len(s.press) == 0 {
				p.reached(what)
				p.audited(string(axe), what, "html")
				// The menus of the band at the top are the same everywhere.
				within := "main"
				if i == 0 {
					within = "html"
				}
				if p.MustEval(`(within) => { const all = [...document.querySelectorAll(within + " details:not([open]) > summary")]
					.filter((e) => e.checkVisibility()); for (const e of all) e.click(); return all.length > 0 }`, within).Bool() {
					p.audited(string(axe), what+" with its menus open", "details[open]")
				}
				continue
			}
			for _, button := range s.press {
				p.pressNamed(button)
			}
			on := "html"
			if p.MustHas("dialog[open]") {
				on = "dialog[open]"
			}
			p.audited(string(axe), what+", "+strings.Join(s.press, ", "), on)
		}
		if login == "ottoline" { // what goes wrong is told on the page
			p.open("/classes/1")
			p.find("label", "Login of somebody").MustElement("input").MustInput("nobody")
			p.Keyboard.MustType(input.Enter)
			p.see("has the login")
			p.audited(string(axe), "an error", "[role=alert]")
		}
		p.MustClose()
	}
}

// pressNamed presses what is called that, by its text or its label.
func (p *person) pressNamed(name string) {
	p.t.Helper()
	is := fmt.Sprintf(`[...document.querySelectorAll("button, a, summary")].find((e) => e.checkVisibility() &&
		(e.textContent.includes(%[1]q) || e.getAttribute("aria-label") === %[1]q))`, name)
	p.until("!!" + is)
	p.MustElementByJS("() => " + is).MustClick()
	time.Sleep(300 * time.Millisecond)
}

// reached says what cannot be come to at 200 percent, where a window of 1280 by 800 has half as many places.
func (p *person) reached(what string) {
	p.t.Helper()
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
		p.t.Errorf("%s at 200 percent cuts off: %s", what, cut)
	}
	p.MustSetViewport(1280, 800, 1, false)
}

// audited has axe-core look over what is seen now of some elements, in both themes.
func (p *person) audited(axe, what, on string) {
	p.t.Helper()
	for _, theme := range []string{"paper", "lamp"} {
		// What inherits a colour may begin to change when the colour that it inherits has changed.
		p.MustEval(`async (theme) => { document.documentElement.dataset.theme = theme;
			for (let round = 0; round < 5; round++) {
				await new Promise((painted) => requestAnimationFrame(() => requestAnimationFrame(painted)));
				await Promise.allSettled(document.getAnimations().filter((a) => a instanceof CSSTransition)
					.map((a) => a.finished));
			} }`, theme)
		p.MustEval(`(source) => { if (!window.axe) (0, eval)(source) }`, axe)
		found := p.MustEval(`async (on) => { const r = await axe.run(on === "html" ? document : { include: on },
			{ resultTypes: ["violations"] });
			return JSON.stringify(r.violations.map((v) => ({ id: v.id, help: v.help, nodes: v.nodes.map((n) =>
			n.html.slice(0, 160) + " @ " + n.target.join(" ") + " " + (n.any[0]?.message ?? "")) }))) }`, on).Str()
		var list []struct {
			ID, Help string
			Nodes    []string
		}
		if err := json.Unmarshal([]byte(found), &list); err != nil {
			p.t.Fatal(err)
		}
		for _, v := range list {
			p.t.Errorf("%s in %s: %s (%s)\n\t%s", what, theme, v.ID, v.Help,
				strings.Join(v.Nodes[:min(4, len(v.Nodes))], "\n\t"))
		}
	}
}

// idOf is the id of who is signed in.
func idOf(t *testing.T, c *client) int64 {
	t.Helper()
	var me struct{ ID int64 }
	if _, body := c.do("GET", "/api/session", "", ""); json.Unmarshal([]byte(body), &me) != nil || me.ID == 0 {
		t.Fatal(body)
	}
	return me.ID
}
