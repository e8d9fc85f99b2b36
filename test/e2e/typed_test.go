package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
)

// TestTypingWhileDrawing draws by typing: a wheel whose hub, rim and holes are typed is held as it
// is drawn, and goes on to the part by a key.
func TestTypingWhileDrawing(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	ada := signIn(t, b, a, "ada")
	api := a.client("ada")
	id := startModel(t, api, `{"name":"Wheel","unit":"mm"}`, `{"id":"s1","kind":"sketch","name":"wheel",
	"plane":{"datum":"XY"},"entities":[],"constraints":[]}`)
	d := ada.openBoard("/models/" + id + "/sketches/s1")
	typed := func(first input.Key, rest string) {
		t.Helper()
		time.Sleep(450 * time.Millisecond) // no longer a text that goes on from the last key
		d.keys(first)
		d.MustElement("[role=dialog] input")
		d.MustInsertText(rest)
		d.keys(input.Enter)
		d.MustWait(`() => !document.querySelector("[role=dialog] input")`)
		time.Sleep(150 * time.Millisecond)
	}
	circle := func(place, diameter string) {
		t.Helper()
		d.MustElement("[aria-label='Circle']").MustClick()
		d.MustElement("svg[role=application]").MustFocus()
		typed(input.Key(place[0]), place[1:])
		typed(input.Key(diameter[0]), diameter[1:])
		d.settled()
	}
	circle("0;0", "80")
	circle("0;0", "24 mm")
	circle("28;0", "10")
	circle("0;28", "10")
	d.keys(input.Escape)
	d.want("Held")
	d.saved()
	sizes := map[string]string{}
	for _, k := range stored(t, api, id, "s1").Constraints {
		if k.Kind == "diameter" {
			sizes[k.Value] = k.Of[0]
		}
	}
	for _, v := range []string{"80", "24 mm", "10"} {
		if sizes[v] == "" {
			t.Errorf("no diameter of %s: %v", v, sizes)
		}
	}
	// A line of a typed length, from a typed place, in the direction of the pointer.
	d.MustElement("[aria-label='Line']").MustClick()
	d.MustElement("svg[role=application]").MustFocus()
	typed('0', "; 60")
	d.to(30, 60)
	typed('4', "5")
	d.settled()
	d.keys(input.Escape, input.Escape)
	d.want("Held")

	// On to the part, to extrude it.
	ada.press("Extrude this")
	form := ada.MustElement("form[aria-label^=Extrude]")
	if got := form.MustText(); !strings.Contains(got, "New: Extrude") {
		t.Errorf("the form is %q", got)
	}
	// Esc leaves the form, and what was filled in can be opened again.
	ada.MustElement("input[aria-label='Name of the step']").MustInput("rim")
	ada.MustElement("input[aria-label='Name of the step']").MustType(input.Escape)
	ada.find("button", "Open it again").MustClick()
	if got := ada.MustElement("input[aria-label='Name of the step']").MustProperty("value").Str(); got != "rim" {
		t.Errorf("the form has the name %q after Esc", got)
	}
}
