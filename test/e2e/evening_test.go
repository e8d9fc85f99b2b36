package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"

	"hammerset/demo"
)

// school30 makes a class of thirty students who have handed in: twenty-four what is right, six what has two sizes
// wrong.
func school30(t *testing.T, a *app) (issue int) {
	t.Helper()
	teacher := a.client("ottoline")
	ask := func(c *client, method, path, body string, want int) string {
		t.Helper()
		code, answer := c.do(method, path, "application/json", body)
		if code != want {
			t.Fatalf("%s %s: %d %s", method, path, code, cut(answer))
		}
		return answer
	}
	var class struct{ ID int }
	if err := json.Unmarshal([]byte(ask(teacher, "POST", "/api/classes", `{"name":"Thirty","year":"2026/27","zone":"UTC"}`,
		http.StatusCreated)), &class); err != nil {
		t.Fatal(err)
	}
	var list []string
	for n := range 30 {
		list = append(list, fmt.Sprintf("Student %02d, student%02d", n, n))
	}
	text, err := json.Marshal(map[string]any{"list": strings.Join(list, "\n"), "save": true})
	if err != nil {
		t.Fatal(err)
	}
	var made struct {
		Slips []struct{ Login, Password string }
	}
	if err := json.Unmarshal([]byte(ask(teacher, "POST", fmt.Sprintf("/api/classes/%d/students", class.ID), string(text),
		http.StatusOK)), &made); err != nil || len(made.Slips) != 30 {
		t.Fatal(len(made.Slips), err)
	}
	var given struct{ ID int }
	if err := json.Unmarshal([]byte(ask(teacher, "POST", "/api/exercises/2/issues", fmt.Sprintf(
		`{"classId":%d,"due":%q,"attempts":3,"results":"with the return"}`, class.ID,
		time.Now().Add(time.Hour).UTC().Format(time.RFC3339)), http.StatusCreated)), &given); err != nil {
		t.Fatal(err)
	}
	bundle, err := demo.Bundle("gland-flange")
	if err != nil {
		t.Fatal(err)
	}
	wrong, err := demo.Edited(bundle.Reference, `{"name": "circle", "value": "3 1/8 in"`,
		`{"name": "circle", "value": "3 in"`, `"value": "3/16 in"`, `"value": "1/4 in"`)
	if err != nil {
		t.Fatal(err)
	}
	for n, s := range made.Slips {
		c := a.client("")
		ask(c, "POST", "/api/session", fmt.Sprintf(`{"login":%q,"password":%q}`, s.Login, s.Password), http.StatusOK)
		ask(c, "PUT", "/api/session/password", fmt.Sprintf(`{"old":%q,"new":"marrowgate"}`, s.Password),
			http.StatusNoContent)
		file := bundle.Reference
		if n%5 == 2 {
			file = wrong
		}
		kind, body := upload(t, "flange.json", file)
		if code, answer := c.do("POST", fmt.Sprintf("/api/issues/%d/attempts", given.ID), kind, body); code !=
			http.StatusCreated {
			t.Fatalf("hand in: %d %s", code, answer)
		}
	}
	waitChecked(t, a, "ottoline", 33)
	return given.ID
}

// A marking evening by keyboard alone: of thirty attempts twenty-four are plainly right, and six have two sizes wrong
// and get a remark on one of them. At most 150 keys in all, 3 for one that is plainly right and 12 for one with a
// remark, which is typed once and taken again afterwards.
func TestAMarkingEvening(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	issue := school30(t, a)
	api := a.client("ottoline")
	var d struct{ Attempts []struct{ ID int } }
	_, body := api.do("GET", fmt.Sprintf("/api/issues/%d", issue), "", "")
	if err := json.Unmarshal([]byte(body), &d); err != nil || len(d.Attempts) != 30 {
		t.Fatal(len(d.Attempts), err)
	}
	teacher := signIn(t, b, a, "ottoline")
	teacher.open(fmt.Sprintf("/attempts/%d", d.Attempts[0].ID))
	keys, most := 0, map[bool]int{}
	press := func(list ...input.Key) {
		teacher.Keyboard.MustType(list...)
		keys += len(list)
	}
	for n := range d.Attempts {
		before, wrong := keys, n%5 == 2
		teacher.find("h1", fmt.Sprintf("Student %02d", n))
		teacher.find("button", "Return to the student")
		if wrong {
			teacher.MustElement("[data-add-remark]")
			press('m')
			field := teacher.MustElement("textarea[aria-label=Remark]")
			if n == 2 {
				teacher.MustInsertText("Count the holes again, and measure the circle through their middles.")
				keys++ // typing it is as much as it is
			} else {
				teacher.MustElement("[aria-label='What you said before'] [data-own]")
				press(input.ArrowDown)
			}
			field.MustWait(`() => this.value.startsWith("Count the holes")`)
			teacher.KeyActions().Press(input.ControlLeft).Type(input.Enter).MustDo()
			keys += 2
			teacher.find("blockquote", "Count the holes")
		}
		press('r')
		teacher.find("p", "Returned by Ottoline Brack")
		if n == 0 { // by mistake, and again
			teacher.see("The student has not opened it.")
			teacher.Keyboard.MustType('u')
			teacher.find("button", "Return to the student")
			teacher.Keyboard.MustType('r')
			teacher.find("p", "Returned by Ottoline Brack")
		}
		if n < len(d.Attempts)-1 {
			press('.')
		}
		most[wrong] = max(most[wrong], keys-before)
	}
	t.Logf("%d keys for 30 attempts: at most %d for one that is right, %d for one with a remark", keys, most[false],
		most[true])
	if keys > 150 || most[false] > 3 || most[true] > 12 {
		t.Errorf("%d keys in all, %d and %d", keys, most[false], most[true])
	}
	teacher.see("nothing left to return")
	// What was said goes with the return, and the trail knows of the one that was undone.
	_, body = api.do("GET", fmt.Sprintf("/api/attempts/%d", d.Attempts[2].ID), "", "")
	if !strings.Contains(body, "Count the holes again") || !strings.Contains(body, `"state":"returned"`) {
		t.Errorf("what was returned: %s", cut(body))
	}
	_, body = api.do("GET", fmt.Sprintf("/api/attempts/%d", d.Attempts[0].ID), "", "")
	if !strings.Contains(body, "undone before the student had opened it") {
		t.Errorf("the trail: %s", cut(body))
	}
}
