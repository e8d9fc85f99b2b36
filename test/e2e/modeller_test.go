package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"hammerset/demo"
)

// bench is a person at the modeller.
type bench struct{ *person }

func (p *person) openModeller(id string) *bench {
	p.t.Helper()
	p.open("/models/" + id)
	m := &bench{p}
	m.MustElement("[data-model]")
	m.settled()
	return m
}

// settled waits until the part shown is the one that was asked for.
func (m *bench) settled() {
	m.t.Helper()
	time.Sleep(350 * time.Millisecond) // sizes go in a moment after the last key
	if err := m.Page.Timeout(90 * time.Second).
		Wait(rod.Eval(`() => document.querySelector("[data-model]")?.dataset.fresh === "true"`)); err != nil {
		m.t.Fatalf("the part is not rebuilt: %v", err)
	}
}

// do types a command into the quick entry.
func (m *bench) do(name string) {
	m.t.Helper()
	m.Keyboard.MustType('q')
	m.MustElement("[aria-label='What do you want to do?']").MustInput(name).MustType(input.Enter)
	time.Sleep(250 * time.Millisecond)
}

// menu chooses what is done with the whole model.
func (m *bench) menu(name string) {
	m.t.Helper()
	m.MustElement("[data-model]")
	m.find("summary", "Model").MustClick()
	m.find("details[open] button", name).MustClick()
}

// choose sets a field of the form that is a list.
func (m *bench) choose(field, option string) {
	m.t.Helper()
	m.MustElement(fmt.Sprintf("form [aria-label=%q]", field)).MustSelect(option)
	time.Sleep(100 * time.Millisecond)
}

// size types a size into the form.
func (m *bench) size(field, formula string) {
	m.t.Helper()
	m.MustElement(fmt.Sprintf("form input[aria-label=%q]", field)).MustSelectAllText().MustInput(formula)
}

// keep ends the form and waits until the model is saved.
func (m *bench) keep(button string) {
	m.t.Helper()
	m.settled()
	m.find("form button[type=submit]", button).MustClick()
	m.saved()
}

func (m *bench) saved() {
	m.t.Helper()
	time.Sleep(500 * time.Millisecond)
	if _, err := m.Page.Timeout(60 * time.Second).Element("[data-save=saved]"); err != nil {
		m.t.Fatalf("the model is not saved: %v", err)
	}
	m.settled()
}

// state of a step on the route card.
func (m *bench) state(step string) string {
	m.t.Helper()
	s := m.MustElement(fmt.Sprintf("[data-step=%q]", step)).MustAttribute("data-state")
	return *s
}

// figures of the solid under the tab Solids.
func (m *bench) volume() string {
	m.t.Helper()
	m.find("[role=tab]", "Solids").MustClick()
	text := m.MustElementR("tr", "Volume").MustText()
	m.find("[role=tab]", "Steps").MustClick()
	return text
}

func modelOf(t *testing.T, c *client, id string) (doc struct {
	Steps []map[string]any
}, version int) {
	t.Helper()
	code, body := c.do("GET", "/api/models/"+id, "", "")
	var m struct {
		Row      struct{ Version int }
		Document json.RawMessage
	}
	if err := json.Unmarshal([]byte(body), &m); err != nil || code != http.StatusOK {
		t.Fatalf("the model: %d %s", code, cut(body))
	}
	if err := json.Unmarshal(m.Document, &doc); err != nil {
		t.Fatal(err)
	}
	return doc, m.Row.Version
}

// The modeller: a part is made from a sketch by extruding, rounding, drilling and
// repeating, with undo, order, versions, measuring, trying and export, as a student
// does it.
func TestModeller(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	ada := a.client("ada")
	id := startModel(t, ada, `{"name":"Own","unit":"mm"}`, plainPlate)
	m := signIn(t, b, a, "ada").openModeller(id)
	m.find("button", "Got it").MustClick()

	// Extrude: the form says at once what comes of it, in words where nothing does.
	m.do("New extrude")
	m.settled()
	m.size("Length", "thick")
	m.settled()
	if got := m.MustElement("[data-outcome]").MustText(); !strings.Contains(got, "thick") {
		t.Errorf("a name that is not there: %q", got)
	}
	m.size("Length", "w / 2")
	m.size("Name of the step", "plate")
	m.settled()
	m.picture("modeller-extrude")
	m.keep("Add the step")
	if got := m.state("e1"); got != "rebuilt" {
		t.Errorf("the extrusion %s", got)
	}
	whole := m.volume()

	// Fillet: edges are picked from the list, then in the view.
	m.do("New fillet")
	m.settled()
	list := m.MustElement("form select[aria-label='Edges, from a list']")
	list.MustSelect(list.MustElementR("option", "side.*side").MustText())
	m.size("Radius", "3")
	m.picture("modeller-picking")
	m.find("form button", "Done picking").MustClick()
	m.keep("Add the step")
	if m.state("f1") != "rebuilt" || m.volume() == whole {
		t.Errorf("the fillet %s, volume %s", m.state("f1"), m.volume())
	}
	// A radius that does not fit names the largest that does, and nothing is lost.
	m.do("Change fillet 1")
	m.settled()
	m.size("Radius", "300")
	m.settled()
	if got := m.MustElement("[data-outcome=failed]").MustText(); !strings.Contains(got, "argest that fits") {
		t.Errorf("too large a radius: %q", got)
	}
	m.find("form button", "Cancel").MustClick()
	m.settled()

	// Undo and redo, and the state of the server follows.
	m.find("button", "Undo").MustClick()
	m.saved()
	if doc, _ := modelOf(t, ada, id); len(doc.Steps) != 2 {
		t.Errorf("after undo the model has %d steps", len(doc.Steps))
	}
	m.find("button", "Redo").MustClick()
	m.saved()
	if doc, _ := modelOf(t, ada, id); len(doc.Steps) != 3 {
		t.Errorf("after redo the model has %d steps", len(doc.Steps))
	}

	// Order: a step does not go before what it builds on.
	m.do("Move fillet 1 earlier")
	m.see("cannot come before")
	// Turned off, and removed with what builds on it.
	m.do("Turn off fillet 1")
	m.saved()
	if m.state("f1") != "off" {
		t.Errorf("the fillet is %s", m.state("f1"))
	}
	m.do("Turn on fillet 1")
	m.saved()

	// In the view: a click on the part chooses a face; measuring says what it is.
	m.find("[role=tab]", "Measure").MustClick()
	box := m.MustElement("[data-view] canvas").MustShape().Box()
	m.Mouse.MustMoveTo(box.X+box.Width/2, box.Y+box.Height/2)
	if _, err := m.Page.Timeout(20 * time.Second).Element("[data-hover^='face:'], [data-hover^='edge:']"); err != nil {
		t.Errorf("nothing lights up under the pointer")
	}
	m.Mouse.MustClick(proto.InputMouseButtonLeft)
	m.find("[aria-label=Measured]", "mm")
	m.picture("modeller-measure")

	// Parameters: a value is tried, the interval is found, the value is kept.
	m.find("[role=tab]", "Sizes").MustClick()
	m.MustElement("[aria-label='More for w']").MustClick()
	m.find("button", "How far does it hold?").MustClick()
	m.see("Down to")
	m.MustElement("input[aria-label='Try w']").
		MustEval(`() => { const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set;
			set.call(this, "52"); this.dispatchEvent(new Event("input", {bubbles: true})) }`)
	m.see("is tried")
	m.settled()
	m.picture("modeller-sizes")
	m.find("button", "Put back").MustClick()
	m.settled()

	// A section with the cut face filled, hidden lines, the glass box.
	m.do("Section across X")
	m.do("Hidden lines")
	m.picture("modeller-section")
	m.do("No section")
	m.find("button", "Unfold").MustClick()
	m.find("button", "Top").MustClick()
	m.do("Shaded")
	m.picture("modeller-top")

	// Findings and versions.
	m.find("[role=tab]", "Look over").MustClick()
	m.find("[aria-label=Findings]", "without a name")
	m.find("[role=tab]", "Versions").MustClick()
	m.find("[aria-label=Versions]", "started")
	boxes := m.MustElements("[aria-label=Versions] input[type=checkbox]")
	boxes[0].MustClick()
	boxes[len(boxes)-1].MustClick()
	m.find("[aria-label=Changes]", "added")
	m.picture("modeller-versions")

	// Files: each format begins as it must.
	for format, head := range map[string]string{"ap214": "ISO-10303-21", "ap242": "ISO-10303-21", "3mf": "PK",
		"json": `{"`, "csv": "name,formula"} {
		code, body := ada.do("GET", "/api/models/"+id+"/export?format="+format, "", "")
		if code != http.StatusOK || !strings.HasPrefix(body, head) {
			t.Errorf("%s: %d %s", format, code, cut(body))
		}
	}
	if code, body := ada.do("GET", "/api/models/"+id+"/export?format=step", "", ""); code != http.StatusBadRequest ||
		!strings.Contains(body, "ap242") {
		t.Errorf("a format that there is not: %d %s", code, body)
	}
	if code, body := ada.do("GET", "/api/models/"+id+"/export?format=stl", "", ""); code != http.StatusOK ||
		(len(body)-84)%50 != 0 {
		t.Errorf("stl: %d, %d bytes", code, len(body))
	}
	if code, _ := a.client("bram").do("GET", "/api/models/"+id+"/export?format=json", "", ""); code !=
		http.StatusNotFound {
		t.Errorf("somebody else's model is exported: %d", code)
	}

	// Two windows: what the other one saved is not overwritten.
	_, version := modelOf(t, ada, id)
	if code, body := ada.do("PUT", "/api/models/"+id, "application/json", fmt.Sprintf(`{"version":%d,"document":%s}`,
		version, plateDocument("Elsewhere", plainPlate))); code != 200 {
		t.Fatalf("save elsewhere: %d %s", code, body)
	}
	m.find("[role=tab]", "Steps").MustClick()
	m.do("Turn off fillet 1")
	m.see("changed in another window")
	m.find("button", "See that change").MustClick()
	m.see("Elsewhere")
}

// The modeller with the demo's begun model, for looking at.
func TestModellerLooks(t *testing.T) {
	if os.Getenv("HAMMERSET_LOOK") == "" {
		t.Skip("for looking at the modeller by hand: HAMMERSET_LOOK names a folder for pictures")
	}
	a := startApp(t)
	b := startBrowser(t)
	m := signIn(t, b, a, "ada").openModeller("1")
	m.picture("modeller-first")
	m.find("button", "Got it").MustClick()
	m.picture("modeller")
	m.find("button", "New step").MustClick()
	m.picture("modeller-new")
	m.Keyboard.MustType(input.Escape)
	m.do("New hole")
	m.settled()
	m.choose("Form", "counterbore")
	m.choose("For the thread", "M8")
	m.find("[data-field='place.face'] button", "Pick").MustClick()
	m.choose("On the face, from a list", "top of base")
	m.find("[data-field='place.from.0.edge'] button", "Pick").MustClick()
	m.settled()
	m.picture("modeller-hole")
	m.press("Cancel")
	m.do("New sketch")
	m.settled()
	m.picture("modeller-plane")
	m.press("Cancel")
	m.do("Change base")
	m.settled()
	m.picture("modeller-change")
	m.press("Cancel")
	m.find("[role=tab]", "Solids").MustClick()
	m.MustElement("select[aria-label^='Material of']").MustSelect("cast iron")
	m.saved()
	m.picture("modeller-solids")
	m.find("[role=tab]", "Look over").MustClick()
	m.MustElement("[aria-label=Findings] li")
	m.picture("modeller-look")
	m.MustEval(`() => { document.documentElement.dataset.theme = "lamp" }`)
	m.do("Perspective view")
	m.do("Transparent")
	m.picture("modeller-lamp")
}

// Dimensions are ticked off by hand and stay so; in an exercise whose results are
// given at once what the model has is ticked by itself, in one that is marked first
// never. An instructor finds how far an attempt follows the reference.
func TestTicksAndReach(t *testing.T) {
	a := startApp(t)
	own := func(login, exercise string, issue int) []string {
		t.Helper()
		b, err := demo.Bundle(exercise)
		if err != nil {
			t.Fatal(err)
		}
		c := a.client(login)
		code, body := c.do("POST", "/api/models", "application/json",
			fmt.Sprintf(`{"name":"Try","unit":"mm","issueId":%d}`, issue))
		var m struct{ Row struct{ ID json.Number } }
		if err := json.Unmarshal([]byte(body), &m); err != nil || code != http.StatusCreated {
			t.Fatalf("start: %d %s", code, cut(body))
		}
		if code, body := c.do("PUT", "/api/models/"+m.Row.ID.String(), "application/json", `{"version":1,"document":`+
			string(b.Reference)+`}`); code != 200 {
			t.Fatalf("save: %d %s", code, cut(body))
		}
		var look struct {
			Had  []string
			Left int
			May  bool
		}
		had := "/api/models/" + m.Row.ID.String() + "/had"
		code, body = c.do("POST", had, "", "")
		if err := json.Unmarshal([]byte(body), &look); err != nil || code != 200 {
			t.Fatalf("had: %d %s", code, cut(body))
		}
		first := look.Had
		// The same model again costs nothing; other ones use up the looks of a day.
		version := 2
		for n := range 5 {
			code, body = c.do("POST", had, "", "")
			if want := map[bool]int{true: http.StatusOK, false: http.StatusTooManyRequests}[!look.May || n < 4]; code != want {
				t.Errorf("look %d of %s: %d %s, want %d", n+1, login, code, cut(body), want)
			}
			changed := strings.Replace(string(b.Reference), `"name": "`, fmt.Sprintf(`"name": "%d`, n), 1)
			if code, body := c.do("PUT", "/api/models/"+m.Row.ID.String(), "application/json",
				fmt.Sprintf(`{"version":%d,"document":%s}`, version, changed)); code != 200 {
				t.Fatalf("save: %d %s", code, cut(body))
			}
			version++
		}
		return first
	}
	if had := own("esme", "gland-flange", 2); len(had) < 8 {
		t.Errorf("of a finished flange only %v is ticked", had)
	}
	if had := own("ada", "bearing-bracket", 1); len(had) != 0 {
		t.Errorf("in an exercise that is marked first, %v is ticked", had)
	}

	br := startBrowser(t)
	m := signIn(t, br, a, "ada").openModeller("1")
	tick := `section[aria-label=Sheet] [data-characteristic="bore"]`
	m.MustElement(tick)
	at := m.MustElement(tick).MustEval(
		`() => { const r = this.getBoundingClientRect(); return [r.left + r.width / 2, r.top + r.height / 2] }`).Arr()
	m.Mouse.MustMoveTo(at[0].Num(), at[1].Num())
	m.Mouse.MustClick(proto.InputMouseButtonLeft)
	m.MustElement("[data-ticks='1']")
	m.openModeller("1")
	m.MustElement("[data-ticks='1'] .is-ticked")

	code, body := a.client("ottoline").do("POST", "/api/attempts/4/reach", "application/json", "")
	var reach struct {
		Parameters []struct {
			Parameter, Match string
			Low, High        struct {
				Share float64
				Ends  bool
				Both  bool
				Why   string
			}
		}
		WhatIfs []struct{ Name, Outcome string }
	}
	if err := json.Unmarshal([]byte(body), &reach); err != nil || code != 200 {
		t.Fatalf("reach: %d %s", code, cut(body))
	}
	both := 0
	for _, p := range reach.Parameters {
		if p.Match == "name" && (p.Low.Share < -0.5 || p.Low.Share > 0 || p.High.Share < 0 || p.High.Share > 1 ||
			p.Low.Ends && p.Low.Why == "") {
			t.Errorf("%+v", p)
		}
		if p.Low.Both || p.High.Both {
			both++
		}
	}
	if len(reach.Parameters) < 8 || both == 0 {
		t.Errorf("%d parameters, the part itself ends for %d of them", len(reach.Parameters), both)
	}
	teacher := signIn(t, br, a, "ottoline")
	teacher.open("/attempts/4")
	teacher.find("button", "Find how far it follows").MustScrollIntoView().MustClick()
	teacher.find("table[aria-label='How far each size follows'] td", "bolts")
	teacher.MustElement("table[aria-label='How far each size follows']").MustScrollIntoView()
	teacher.picture("reach")
}
