package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/demo"
)

// atSizes is the demo's reference of an exercise at other sizes, as a file.
func atSizes(t *testing.T, exercise, sizes string) string {
	t.Helper()
	b, err := demo.Bundle(exercise)
	if err != nil {
		t.Fatal(err)
	}
	var doc part.Document
	if err := json.Unmarshal(b.Reference, &doc); err != nil {
		t.Fatal(err)
	}
	for _, m := range regexp.MustCompile(`(\w+) ([\d.]+ \w+)`).FindAllStringSubmatch(sizes, -1) {
		i := slices.IndexFunc(doc.Parameters, func(p quantity.Parameter) bool { return p.Name == m[1] })
		doc.Parameters[i].Formula = m[2]
	}
	data, err := json.Marshal(doc)
	if err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "model.json")
	if err := os.WriteFile(path, data, 0o644); err != nil {
		t.Fatal(err)
	}
	return path
}

// Ranges are stated, every student gets a sheet with sizes of the own and the own name, and is checked by it; who
// hands in another's model is simply wrong, and whose sizes these are is told to the instructor alone. Ranges that are
// too narrow are refused with the number that is possible.
func TestPersonalSizes(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	teacher := signIn(t, b, a, "ottoline")
	teacher.open("/exercises/1?tab=characteristics")
	add := func(number int, name, least, most, step string) {
		t.Helper()
		teacher.find("button", "Add a range").MustClick()
		teacher.MustElement(fmt.Sprintf("[aria-label='Size of range %d']", number)).MustSelect(name + " (")
		for label, text := range map[string]string{"from": least, "to": most, "in steps of": step} {
			teacher.MustElement(fmt.Sprintf("[aria-label='%s %s']", name, label)).MustSelectAllText().MustInput(text)
		}
	}
	add(1, "thick", "10 mm", "12 mm", "1 mm")
	teacher.see("fewer have a range")
	add(2, "wall", "11 mm", "12 mm", "1 mm")
	teacher.see("2 different sheets are possible")
	teacher.picture("ranges")
	save := func(version int) {
		t.Helper()
		teacher.press("Save as a new version")
		teacher.see(fmt.Sprintf("version %d", version))
		teacher.open("/exercises/1")
	}
	save(2)
	issue := func() {
		t.Helper()
		teacher.find("label", "Personal sizes")
		teacher.MustElement("section[aria-label='Issue to a class'] select").MustSelect("Lock fitters, first year")
		teacher.press("Issue …")
		teacher.press("Issue it")
	}
	issue()
	teacher.see("Only 2 sheets are possible that all differ in two sizes")
	teacher.press("Not now")
	teacher.open("/exercises/1?tab=characteristics")
	teacher.MustElement("[aria-label='wall to']").MustSelectAllText().MustInput("20 mm")
	teacher.MustElement("[aria-label='thick to']").MustSelectAllText().MustInput("22 mm")
	teacher.see("different sheets are possible")
	save(3)
	issue()
	teacher.press("Issue it once more on purpose")
	teacher.see("Issued to Lock fitters, first year")
	teacher.picture("personal-issued")

	_, list := a.client("ottoline").do("GET", "/api/exercises/1", "", "")
	var ex struct {
		Issues []struct {
			ID       int64
			Personal bool
		}
	}
	if err := json.Unmarshal([]byte(list), &ex); err != nil {
		t.Fatal(err)
	}
	at := slices.IndexFunc(ex.Issues, func(i struct {
		ID       int64
		Personal bool
	}) bool {
		return i.Personal
	})
	if at < 0 {
		t.Fatal("no issue has personal sizes")
	}
	id := ex.Issues[at].ID
	teacher.open(fmt.Sprintf("/issues/%d", id))
	own := map[string]string{}
	for _, li := range teacher.MustElement("[aria-label=Sheets]").MustElements("li") {
		name, sizes, _ := strings.Cut(li.MustText(), ", sizes ")
		for other, s := range own {
			if s[strings.Index(s, ":"):] == sizes[strings.Index(sizes, ":"):] {
				t.Errorf("%s and %s have the same sizes", name, other)
			}
		}
		own[name] = sizes
	}
	teacher.picture("personal-issue")

	sheet := func(login, query string) (int, string) {
		return a.client(login).do("GET", fmt.Sprintf("/api/issues/%d/sheet?format=svg%s", id, query), "", "")
	}
	_, brams := sheet("bram", "")
	_, cleos := sheet("cleo", "")
	if brams == cleos {
		t.Error("two students have the same sheet")
	}
	if code, _ := sheet("bram", "&student=1"); code != http.StatusNotFound {
		t.Errorf("a student gets the sheet of somebody else: %d", code)
	}
	hand := func(p *person, sizes string, n int) {
		t.Helper()
		p.open(fmt.Sprintf("/issues/%d", id))
		p.see("Drop your")
		p.MustElement("input[type=file]").MustSetFiles(atSizes(t, "bearing-bracket", sizes))
		p.find("a", "Open attempt").MustClick()
		p.see("You will see the result with the return")
	}
	bram := signIn(t, b, a, "bram")
	hand(bram, own["Bram Oakhanger"], 1)
	teacher.open(fmt.Sprintf("/issues/%d", id))
	teacher.find("tr", "Bram Oakhanger").MustElement("a").MustClick()
	teacher.see("Findings (0)")
	for name, sizes := range own {
		if name != "Bram Oakhanger" {
			hand(bram, sizes, 2)
			teacher.MustReload()
			teacher.find("a", "Attempt 2").MustClick()
			teacher.see("This model has the sizes of another student’s sheet throughout: that of " + name)
			teacher.picture("copied")
			break
		}
	}
	if strings.Contains(bram.MustElement("body").MustText(), "another student") {
		t.Error("the student is told whose sizes they are")
	}
	goesOn(t, a, id, map[string]string{"bram": brams, "cleo": cleos}, sheet)
}

// goesOn sees what becomes of an issue with personal sizes: who joins late gets the next, another rubric and a check
// against another version leave everybody the sizes that were issued.
func goesOn(t *testing.T, a *app, id int64, was map[string]string, sheet func(login, query string) (int, string)) {
	t.Helper()
	api := a.client("ottoline")
	must := func(want int, method, path, body string) string {
		t.Helper()
		code, answer := api.do(method, path, "application/json", body)
		if code != want {
			t.Fatalf("%s %s: %d %s", method, path, code, cut(answer))
		}
		return answer
	}
	detail := must(http.StatusOK, "GET", fmt.Sprintf("/api/issues/%d", id), "")
	class := regexp.MustCompile(`"classId":(\d+)`).FindStringSubmatch(detail)[1]
	must(http.StatusNoContent, "POST", "/api/classes/"+class+"/members", `{"login":"esme","role":"student"}`)
	code, late := sheet("esme", "")
	if code != http.StatusOK || late == was["bram"] || late == was["cleo"] {
		t.Errorf("who joined late has the sheet of somebody else: %d", code)
	}
	was["esme"] = late
	same := func(when string) {
		t.Helper()
		for login, before := range was {
			if _, now := sheet(login, ""); now != before {
				t.Errorf("%s: %s has another sheet", when, login)
			}
		}
	}
	view := must(http.StatusOK, "GET", fmt.Sprintf("/api/issues/%d/rubric", id), "")
	rubric := regexp.MustCompile(`"rubric":(\{[^}]*\})`).FindStringSubmatch(view)[1]
	rubric = strings.Replace(rubric, `"characteristics":60`, `"characteristics":55`, 1)
	must(http.StatusOK, "POST", fmt.Sprintf("/api/issues/%d/rubric", id), `{"rubric":`+rubric+
		`,"weights":{},"apply":true}`)
	same("another rubric")

	recheck := fmt.Sprintf("/api/issues/%d/recheck", id)
	var state struct {
		Versions []struct {
			ID     int64
			Number int
		}
		Done, All int
		Rows      []struct {
			Changes []struct{}
			Reason  string
		}
	}
	read := func() {
		t.Helper()
		if err := json.Unmarshal([]byte(must(http.StatusOK, "GET", recheck, "")), &state); err != nil {
			t.Fatal(err)
		}
	}
	read()
	for _, v := range state.Versions {
		if v.Number == 1 {
			must(http.StatusNoContent, "POST", recheck, fmt.Sprintf(`{"version":%d}`, v.ID))
		}
	}
	for range 160 { // the mistake atlas at these sizes is made first
		if read(); state.All > 0 && state.Done == state.All {
			break
		}
		time.Sleep(500 * time.Millisecond)
	}
	if state.All == 0 || state.Done != state.All {
		t.Fatalf("%d of %d are checked against the first version", state.Done, state.All)
	}
	for _, r := range state.Rows {
		if len(r.Changes) > 0 || r.Reason != "" {
			t.Errorf("against a version that measures the same there is another check: %+v", r)
		}
	}
	same("checked anew")
}
