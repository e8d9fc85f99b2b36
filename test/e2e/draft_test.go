package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

// The draft of an exercise is one and in one hand. A change that is told twice is done once; one that was made of
// another state, or by somebody who has not the draft, is refused and changes nothing; what was saved meanwhile is
// overwritten on purpose alone.
func TestDraftOfAnExercise(t *testing.T) {
	a := startApp(t)
	type working struct {
		Revision              int64
		Version, Newest, Undo int
		By                    string
		Mine                  bool
	}
	registrar, ottoline := a.client("registrar"), a.client("ottoline")
	how := func(c *client) (w working) {
		t.Helper()
		if code, answer := c.do("GET", "/api/exercises/1/working", "", ""); code != 200 {
			t.Fatalf("%d %s", code, answer)
		} else if err := json.Unmarshal([]byte(answer), &w); err != nil {
			t.Fatal(err)
		}
		return w
	}
	post := func(c *client, path, body string, want int) {
		t.Helper()
		if code, answer := c.do("POST", "/api/exercises/1/"+path, "application/json", body); code != want {
			t.Fatalf("%s: %d and not %d: %s", body, code, want, cut(answer))
		}
	}
	note := func(c *client, revision int64, name string, want int) {
		t.Helper()
		post(c, "sheet/draft", fmt.Sprintf(`{"step":{"revision":%d,"name":%q},"save":false,"command":{"do":"write",`+
			`"by":[30,60],"text":%q}}`, revision, name, name), want)
	}
	save := func(c *client, revision int64, over bool, want int) {
		t.Helper()
		post(c, "sheet/draft", fmt.Sprintf(`{"step":{"revision":%d,"name":"s"},"save":true,"over":%t}`, revision, over), want)
	}
	move := func(c *client, revision int64, do string, want int) {
		t.Helper()
		post(c, "working", fmt.Sprintf(`{"step":{"revision":%d,"name":"%s %d"},"do":%q}`, revision, do, revision, do), want)
	}

	if w := how(ottoline); w.Revision != 0 || !w.Mine || w.Version != w.Newest {
		t.Fatalf("before anything is done: %+v", w)
	}
	note(ottoline, 0, "first", 200)
	first := how(ottoline)
	note(ottoline, 0, "first", 200) // once more, since the answer did not arrive
	if w := how(ottoline); w != first || w.Undo != 1 {
		t.Errorf("told twice it was done twice: %+v, and %+v before", w, first)
	}
	note(ottoline, 0, "second", 409) // of the state before
	note(ottoline, first.Revision, "", 400)
	note(ottoline, first.Revision, strings.Repeat("n", 41), 400)
	note(ottoline, first.Revision, "second", 200)
	second := how(ottoline)

	if w := how(registrar); w.Mine || w.By != "Ottoline Brack" {
		t.Errorf("somebody else has it: %+v", w)
	}
	note(registrar, second.Revision, "third", 409)
	move(registrar, second.Revision, "undo", 409)
	save(registrar, second.Revision, false, 409)
	move(registrar, first.Revision, "take", 409) // of a state that is past
	move(registrar, second.Revision, "take", 200)
	taken := how(registrar)
	note(ottoline, taken.Revision, "third", 409)
	if taken.Undo != 2 {
		t.Errorf("%d steps can be undone after it was taken over, and not 2", taken.Undo)
	}
	move(registrar, taken.Revision, "undo", 200)
	move(registrar, taken.Revision, "undo", 200) // told twice
	undone := how(registrar)
	if undone.Undo != 1 {
		t.Errorf("%d steps can be undone, and not 1", undone.Undo)
	}

	// Another version comes in meanwhile: both are kept.
	kind, body := "", ""
	_, bundle := ottoline.do("GET", "/api/exercises/1/bundle", "", "")
	kind, body = upload(t, "bracket.zip", []byte(bundle))
	if code, answer := ottoline.do("POST", "/api/exercises?exercise=1", kind, body); code != 201 {
		t.Fatalf("%d %s", code, cut(answer))
	}
	if w := how(registrar); w.Version != 1 || w.Newest != 2 || w.Revision != undone.Revision {
		t.Errorf("after another version was saved: %+v", w)
	}
	save(registrar, undone.Revision, false, 409)
	save(registrar, undone.Revision, true, 200)
	if w := how(ottoline); w.Revision != 0 || w.Newest != 3 {
		t.Errorf("after it was saved: %+v", w)
	}
	note(registrar, undone.Revision, "late", 409) // the draft is gone
	move(registrar, 0, "undo", 409)
	move(registrar, 0, "drop", 200)
}

// How an exercise is marked, and what it is rebuilt with, is worked on before it is issued: points, caps, the weight
// and the driving size of a characteristic, what-ifs. What cannot be made is told and in no version.
func TestMarkingIsWorkedOnBeforeIssuing(t *testing.T) {
	a := startApp(t)
	p := signIn(t, startBrowser(t), a, "ottoline")
	p.open("/exercises/1?tab=characteristics")
	p.press("Add a what-if")
	p.find("fieldset [role=status]", "Give it a name.")
	p.press("Save as a new version")
	p.find("[role=alert]", "give it a name")
	names := p.MustElements(`input[aria-label^="Name of what-if"]`)
	n := len(names)
	names[n-1].MustInput("A thicker base")
	p.find("fieldset [role=status]", "Say which driving size is changed.")
	sizes := p.MustElements(fmt.Sprintf(`input[aria-label$="in what-if %d"]`, n))
	sizes[0].MustInput("-3 mm")
	p.find("fieldset [role=status]", "cannot be rebuilt")
	sizes[0].MustSelectAllText().MustInput(sizes[0].MustProperty("placeholder").Str() + " + 1 mm")
	p.until(`document.querySelectorAll("fieldset [role=status], [role=alert]").length === 0`)
	p.picture("what-ifs")
	p.MustElement(`select[aria-label="General tolerance"]`).MustSelect("ISO 2768-1 class")
	p.MustElement(`input[aria-label="Whole part"]`).MustSelectAllText().MustInput("17")
	p.MustElement("button[aria-expanded]").MustClick()
	p.find("label", "Driving size")
	p.MustElement(`input[aria-label="Weight among the characteristics"]`).MustSelectAllText().MustInput("3")
	p.picture("marking")
	p.press("Save as a new version")
	p.find("h1", "version 2")
	var d struct {
		Rubric          struct{ WholePart float64 }
		WhatIfs         []struct{ Name string }
		Characteristics []struct{ Weight float64 }
		General         struct{ Kind, Class string }
	}
	_, answer := a.client("ottoline").do("GET", "/api/exercises/1/draft", "", "")
	if err := json.Unmarshal([]byte(answer), &d); err != nil {
		t.Fatal(err)
	}
	if d.Rubric.WholePart != 17 || len(d.WhatIfs) != n || d.WhatIfs[n-1].Name != "A thicker base" ||
		d.Characteristics[0].Weight != 3 || d.General.Kind != "iso2768" || d.General.Class != "m" {
		t.Errorf("the new version has %+v", d)
	}
}
