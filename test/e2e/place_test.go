package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// The pin of the demo's tackle joint is edited in its place: it becomes a model of one's own, is shown with the others
// around it, and is saved together with the assembly. Back there its new head is seen; undo takes both back, and redo
// puts both forward. Where the assembly was changed elsewhere meanwhile, neither is overwritten.
func TestEditingAPartInItsPlace(t *testing.T) {
	a := startApp(t)
	p := signIn(t, startBrowser(t), a, "ottoline")
	api := a.client("ottoline")
	f := p.openFitting("/assemblies/1")
	before := f.kept(api)
	f.find("section[aria-label=Components] li button", "pin").MustClick()
	f.press("Edit it in its place")
	p.find("[role=status]", "You edit pin in its place in tackle joint")
	p.MustElement(`[data-model][data-fresh="true"]`)
	p.find("[role=tab]", "Sizes").MustClick()
	p.picture("in its place")
	head := p.MustElement(`input[aria-label="Formula of head"]`)
	head.MustSelectAllText().MustInput("24 mm")
	p.Keyboard.MustType(input.Enter)
	p.press("Back to the assembly") // at once: what was typed last is saved
	f = p.openFitting("")
	model := func() (version int, document string) {
		_, body := api.do("GET", "/api/models", "", "")
		id := regexp.MustCompile(`"id":(\d+),[^{}]*"name":"pin"`).FindStringSubmatch(body)
		if id == nil {
			t.Fatalf("the pin is no model: %s", body)
		}
		_, body = api.do("GET", "/api/models/"+id[1], "", "")
		var out struct {
			Row      struct{ Version int }
			Document json.RawMessage
		}
		if err := json.Unmarshal([]byte(body), &out); err != nil {
			t.Fatal(err)
		}
		return out.Row.Version, string(out.Document)
	}
	edited := f.kept(api)
	if edited.Parts[2].SHA256 == before.Parts[2].SHA256 || len(edited.Parts) != len(before.Parts) {
		t.Errorf("edited, the assembly has the parts %+v", edited.Parts)
	}
	if v, doc := model(); v != 2 || !strings.Contains(doc, `"24 mm"`) {
		t.Errorf("the model is in version %d: %s", v, cut(doc))
	}
	f.picture("edited")

	f.press("Undo")
	f.rest()
	if now := f.kept(api); now.Parts[2].SHA256 != before.Parts[2].SHA256 {
		t.Errorf("undone, the pin is %+v", now.Parts[2])
	}
	if v, doc := model(); v != 3 || strings.Contains(doc, `"24 mm"`) {
		t.Errorf("undone, the model is in version %d: %s", v, cut(doc))
	}
	f.press("Redo")
	f.rest()
	if v, doc := model(); v != 4 || !strings.Contains(doc, `"24 mm"`) {
		t.Errorf("done again, the model is in version %d: %s", v, cut(doc))
	}

	f.press("Show them")
	f.find("ul[aria-label='Kept versions'] li", "pin: parameter head")

	// In place again, by what is typed, and meanwhile the assembly is changed elsewhere.
	f.Keyboard.MustType('q')
	f.MustElement("input[aria-label='What do you want to do?']").MustInput("edit pin in").MustType(input.Enter)
	p.find("[role=status]", "You edit pin in its place in tackle joint")
	p.MustElement(`[data-model][data-fresh="true"]`)
	_, body := api.do("GET", "/api/assemblies/1", "", "")
	version := regexp.MustCompile(`"version":(\d+)`).FindStringSubmatch(body)[1]
	document := regexp.MustCompile(`"document":(.*)}\s*$`).FindStringSubmatch(body)[1]
	if code, answer := api.do("PUT", "/api/assemblies/1", "application/json", fmt.Sprintf(`{"version":%s,"document":%s}`,
		version, document)); code != http.StatusOK {
		t.Fatal(code, answer)
	}
	p.find("[role=tab]", "Sizes").MustClick()
	p.MustElement(`input[aria-label="Formula of head"]`).MustSelectAllText().MustInput("30 mm")
	p.Keyboard.MustType(input.Enter)
	p.see("This assembly was changed in another window; nothing was overwritten")
	if v, doc := model(); v != 4 || strings.Contains(doc, `"30 mm"`) {
		t.Errorf("with the assembly changed elsewhere, the model is in version %d: %s", v, cut(doc))
	}
}
