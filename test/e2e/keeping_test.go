package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
)

// TestNothingTypedIsLost does something and leaves at once: by a link, by another address, by
// reloading, and while the server is away.
func TestNothingTypedIsLost(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	ada := signIn(t, b, a, "ada")
	api := a.client("ada")
	id := startModel(t, api, `{"name":"Strap","unit":"mm"}`, `{"id":"s1","kind":"sketch","name":"outline",
	"plane":{"datum":"XY"},"entities":[],"constraints":[]}`)
	lines := func() int {
		n := 0
		for _, e := range stored(t, api, id, "s1").Entities {
			if e.Kind == "line" {
				n++
			}
		}
		return n
	}
	// quickLine draws a line and does not wait for anything after its second end.
	quickLine := func(d *board, y float64) {
		d.keys('1')
		d.click(-40, y)
		p := d.at(40, y)
		d.Mouse.MustMoveTo(p.X, p.Y)
		d.Mouse.MustDown(proto.InputMouseButtonLeft)
		d.Mouse.MustUp(proto.InputMouseButtonLeft)
	}
	sketch := "/models/" + id + "/sketches/s1"

	t.Run("by a link", func(t *testing.T) {
		d := ada.openBoard(sketch)
		quickLine(d, 10)
		ada.find("h1 a", "Own").MustClick()
		ada.find("[aria-label='Route card']", "outline")
		eventually(t, "the line is saved", func() bool { return lines() == 1 })
	})
	t.Run("by reloading", func(t *testing.T) {
		d := ada.openBoard(sketch)
		const drawn = "svg[role=application] [data-id]"
		before := d.count(drawn)
		quickLine(d, 20)
		eventually(t, "the line is drawn", func() bool { return d.count(drawn) > before }) // and not sent yet
		ada.open(sketch)
		ada.MustElement("svg[role=application]")
		eventually(t, "the second line is saved", func() bool { return lines() == 2 })
	})
	t.Run("an outage", func(t *testing.T) {
		d := ada.openBoard(sketch)
		stop := a.away(t)
		quickLine(d, 30)
		ada.find("[role=alert]", "saving goes on by itself")
		stop()
		eventually(t, "the third line is saved", func() bool { return lines() == 3 })
		d.saved()
	})
	t.Run("a comment", func(t *testing.T) {
		otto := signIn(t, b, a, "ottoline")
		waitChecked(t, a, "ottoline", 3)
		otto.open("/issues/1/class")
		otto.MustElement("tbody a").MustClick()
		otto.see("Findings (")
		first, name := otto.MustInfo().URL, otto.MustElement("h1").MustText()
		otto.MustElement("textarea[placeholder^='In your own']").MustInput("Mind the pocket.")
		otto.MustElement("[aria-label='Next open attempt']").MustClick()
		eventually(t, "the next attempt is open", func() bool {
			return otto.MustHas("textarea[placeholder^='In your own']") && otto.MustElement("h1").MustText() != name
		})
		if got := otto.MustElement("textarea[placeholder^='In your own']").MustProperty("value").Str(); got != "" {
			t.Errorf("the next attempt has the comment %q", got)
		}
		otto.open(strings.TrimPrefix(first, a.url))
		if got := otto.MustElement("textarea[placeholder^='In your own']").MustProperty("value").Str(); got !=
			"Mind the pocket." {
			t.Errorf("the comment is %q after coming back", got)
		}
	})
	t.Run("an expired session", func(t *testing.T) {
		d := ada.openBoard(sketch)
		ada.MustSetCookies() // all are gone
		quickLine(d, 40)
		ada.find("dialog", "Your session has ended")
		ada.MustElement("dialog input[name=password]").MustInput("marrowgate")
		ada.MustElement("dialog button[type=submit]").MustClick()
		eventually(t, "the fourth line is saved", func() bool { return lines() == 4 })
	})
}

// away stops the application; what it gives starts it again with the same data at the same address.
func (a *app) away(t *testing.T) func() {
	t.Helper()
	a.stop()
	return func() {
		t.Helper()
		a.cmd = startAppIn(a.t, a.data, "--address", strings.TrimPrefix(a.url, "http://")).cmd
	}
}

// eventually waits for something to become true.
func eventually(t *testing.T, what string, is func() bool) {
	t.Helper()
	for range 200 {
		if is() {
			return
		}
		time.Sleep(100 * time.Millisecond)
	}
	t.Errorf("not so: %s", what)
}
