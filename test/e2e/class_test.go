package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"hammerset/demo"
)

// TestAClassIsBegun goes from nothing to a returned class: an account for a new instructor, a class,
// its students from a pasted list with a preview, first passwords that are changed, an exercise
// issued once although it is clicked twice, its due date, a further attempt, what is fully right
// returned together, and the points as a table.
func TestAClassIsBegun(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	registrar := signIn(t, b, a, "registrar")
	registrar.open("/accounts")
	panel := registrar.MustElement("section[aria-label='A new account']")
	panel.MustElement("input").MustInput("Perpetua Lockhart")
	panel.MustElements("input")[1].MustInput("perpetua")
	registrar.press("Make the account")
	first := registrar.MustElement("[data-slip=perpetua] [data-password]").MustText()

	// firstTime signs in with a first password and chooses one of one's own.
	firstTime := func(login, password string) *person {
		t.Helper()
		p := &person{b.MustIncognito().MustPage("about:blank").Timeout(4 * time.Minute), t, a.url}
		p.MustSetViewport(1280, 800, 1, false)
		p.open("/")
		p.MustElement("input[name=login]").MustInput(login)
		p.MustElement("input[name=password]").MustInput(password)
		p.press("Sign in")
		p.see("Choose a password of your own")
		p.MustElement("input[name=old]").MustInput(password)
		p.MustElement("input[name=new]").MustInput("marrowgate")
		p.MustElement("input[name=again]").MustInput("marrowgate")
		p.press("Change the password")
		p.MustWait(`() => !document.querySelector("input[name=old]")`)
		return p
	}
	teacher := firstTime("perpetua", first)
	teacher.see("You belong to no class yet")
	teacher.picture("desk-new")
	teacher.MustElement("input[aria-label='Name of a new class']").MustInput("Evening fitters")
	teacher.press("Make it")
	teacher.see("Nobody is on the roster yet")
	list := teacher.MustElement("textarea")
	list.MustInput("Wren Hollowell, wren\nTobias Quay; tobias\nAda Thistlewood, ada\nSomebody Else, bram\nno login here")
	teacher.find("tr[data-row=faulty]", "another name")
	teacher.find("tr[data-row=faulty]", "no login")
	teacher.find("tr[data-row=known]", "ada")
	teacher.picture("enrol")
	if !teacher.find("button", "Add 3").MustProperty("disabled").Bool() {
		t.Error("a list with faults can be taken")
	}
	list.MustSelectAllText().MustInput("Wren Hollowell, wren\nTobias Quay; tobias\nAda Thistlewood, ada")
	teacher.Page.Timeout(30*time.Second).MustElementR("button:not([disabled])", "Add 3").MustClick()
	wren := teacher.MustElement("[data-slip=wren] [data-password]").MustText()
	teacher.picture("slips")
	teacher.press("I have them")
	teacher.find("td", "Tobias Quay")

	// Issued once, whatever the hand does.
	teacher.open("/exercises/2")
	form := teacher.MustElement("section[aria-label='Issue to a class'] form")
	form.MustElement("select").MustSelect("Evening fitters")
	form.MustElement("button[type=submit]").MustClick()
	teacher.see("Issued to Evening fitters")
	form.MustElement("button[type=submit]").MustClick()
	teacher.see("This class has the exercise already")
	api := a.client("perpetua")
	_, body := api.do("GET", "/api/exercises/2", "", "")
	var ex struct {
		Issues []struct{ ID int64 }
	}
	if err := json.Unmarshal([]byte(body), &ex); err != nil || len(ex.Issues) != 1 {
		t.Fatalf("%d issues: %v", len(ex.Issues), err)
	}
	issue := ex.Issues[0].ID

	// Nothing handed in yet: it could be withdrawn. The due date moves.
	teacher.open(fmt.Sprintf("/issues/%d", issue))
	teacher.find("button", "Withdraw the issue")
	due := time.Now().Add(100 * time.Hour).Format("2006-01-02T15:04")
	teacher.MustElement("section[aria-label=Terms] input").
		MustEval(`(v) => { Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(this, v);
			this.dispatchEvent(new Event("input", { bubbles: true })) }`, due)
	teacher.find("section[aria-label=Terms] button", "Change").MustClick()
	eventually(t, "the due date is moved", func() bool {
		_, body := api.do("GET", fmt.Sprintf("/api/issues/%d", issue), "", "")
		at, err := time.ParseInLocation("2006-01-02T15:04", due, time.Local)
		return err == nil && strings.Contains(body, `"due":"`+at.UTC().Format("2006-01-02T15:04"))
	})

	// Wren and Ada hand in what is right. The same file sent twice is one attempt.
	bundle, err := demo.Bundle("gland-flange")
	if err != nil {
		t.Fatal(err)
	}
	student := firstTime("wren", wren)
	student.see("My exercises")
	// Open pages show it by themselves; the events tell whom it concerns, and nobody else.
	told := map[string]*atomic.Int32{"perpetua": listen(t, api), "wren": listen(t, a.client("wren"))}
	for n, login := range []string{"wren", "ada"} {
		time.Sleep(1500 * time.Millisecond) // what was before is told
		for _, n := range told {
			n.Store(0)
		}
		c := a.client(login)
		kind, body := upload(t, "flange.json", bundle.Reference)
		for _, want := range []int{http.StatusCreated, http.StatusOK} {
			if code, answer := c.do("POST", fmt.Sprintf("/api/issues/%d/attempts", issue), kind, body); code != want {
				t.Errorf("%s hands in: %d %s, want %d", login, code, answer, want)
			}
		}
		waitChecked(t, a, "perpetua", n+1)
		eventually(t, "the instructor is told", func() bool { return told["perpetua"].Load() > 0 })
	}
	if n := told["wren"].Load(); n > 0 {
		t.Errorf("Wren was told %d times of what Ada handed in", n)
	}
	student.find("td", "Attempt 1")
	student.find("td", "checked")
	teacher.find("td", "Ada Thistlewood")
	if code, answer := api.do("DELETE", fmt.Sprintf("/api/issues/%d", issue), "", ""); code != http.StatusConflict {
		t.Errorf("withdrawing what was handed in to: %d %s", code, answer)
	}
	teacher.open(fmt.Sprintf("/issues/%d", issue))
	teacher.picture("issue-terms")
	teacher.find("button", "2 attempts are fully right").MustClick()
	teacher.find("li label", "Ada Thistlewood").MustClick() // not yet
	teacher.press("Return 1")
	teacher.find("button", "1 attempt is fully right")
	pick := teacher.MustElement("section[aria-label=Terms] select")
	pick.MustSelect("Wren Hollowell")
	teacher.press("Give it")
	teacher.see("Wren Hollowell has one attempt more")
	code, table := api.do("GET", "/api/classes/"+strings.TrimPrefix(classPath(t, api), "/"), "", "")
	if code != 200 || !strings.Contains(table, "Wren Hollowell,wren,") {
		t.Errorf("the points: %d %s", code, table)
	}

	// Somebody else's students and exercises are out of reach.
	other := a.client("ottoline")
	for _, path := range []string{fmt.Sprintf("/api/issues/%d", issue), strings.Replace("/api/classes/"+classPath(t, api),
		"/points.csv", "", 1)} {
		if code, body := other.do("GET", path, "", ""); code != http.StatusNotFound {
			t.Errorf("another class' %s: %d %s", path, code, cut(body))
		}
	}
	if code, body := api.do("POST", "/api/exercises/1/draft", "application/json", `{"title":"x","number":"1","task":"",
	"step":{"revision":0,"name":"a"},"characteristics":[],"arrange":false,"save":true}`); code != http.StatusForbidden {
		t.Errorf("a draft of somebody else's exercise: %d %s", code, cut(body))
	}
	if code, body := a.client("fenwick").do("POST", "/api/models", "application/json", `{"name":"Key","unit":"mm",
	"exerciseId":1}`); code != http.StatusNotFound {
		t.Errorf("an assistant starts a model from the reference: %d %s", code, cut(body))
	}
}

// classPath is where the points of a person's last class are.
func classPath(t *testing.T, c *client) string {
	t.Helper()
	_, body := c.do("GET", "/api/desk", "", "")
	var desk struct{ Classes []struct{ ID int64 } }
	if err := json.Unmarshal([]byte(body), &desk); err != nil || len(desk.Classes) == 0 {
		t.Fatal(err, body)
	}
	return fmt.Sprintf("%d/points.csv", desk.Classes[len(desk.Classes)-1].ID)
}
