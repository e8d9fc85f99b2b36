package e2e

import (
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"
)

// Somebody who forgot the password chooses another one by mail; what one is told is at the bell and in the mailbox; a
// calendar has an address of its own, which ends when it is revoked.
func TestTellingPeople(t *testing.T) {
	a := startAloneApp(t)
	b := startBrowser(t)
	p := &person{b.MustIncognito().MustPage("about:blank").Timeout(4 * time.Minute), t, a.url}
	p.MustSetViewport(1280, 800, 1, false)
	p.open("/")
	p.find("a", "Forgotten your password?").MustClick()
	p.find("button", "Send me a link")
	p.MustElement("input[name=login]").MustInput("finn")
	p.press("Send me a link")
	p.see("a link is on its way")
	p.picture("forgotten")
	eventually(t, "the mail comes", func() bool {
		_, text := look(t, a.url+"/mail")
		return strings.Contains(text, "Choose a new password")
	})
	p.open("/mail")
	p.picture("mailbox")
	p.find("a", "choose-password").MustClick()
	p.find("button", "Choose it")
	p.MustElement("input[name=new]").MustInput("quayside lamp")
	p.MustElement("input[name=again]").MustInput("quayside lamp")
	p.press("Choose it")
	p.see("It is chosen")
	p.find("a", "To the sign-in").MustClick()
	p.find("button", "Sign in")
	p.MustElement("input[name=login]").MustInput("finn")
	p.MustElement("input[name=password]").MustInput("quayside lamp")
	p.press("Sign in")
	p.see("My exercises")

	// What was issued to him before he came is at the bell; reading it takes the number away.
	p.MustElement("a[aria-label$='not read']").MustClick()
	p.see("was issued to you")
	p.picture("messages")
	p.MustElement("a[aria-label=Messages]")
	p.find("summary", "Finn Towpath").MustClick()
	p.find("li button", "Mail and calendar").MustClick()
	p.find("label", "an exercise is issued to me").MustClick() // off
	p.press("Keep")
	p.see("Kept.")
	p.press("Make an address")
	address := p.MustElement("input[readonly]").MustProperty("value").Str()
	p.picture("telling")
	get := func() (int, string) { t.Helper(); return look(t, address) } // as a calendar program does
	code, text := get()
	if code != http.StatusOK || !strings.Contains(text, "BEGIN:VEVENT") || strings.Contains(text, "CANCELLED") {
		t.Fatalf("the calendar: %d %s", code, cut(text))
	}
	teacher := a.client("ottoline")
	id := strings.TrimPrefix(text[strings.Index(text, "UID:issue-"):], "UID:issue-")
	id = id[:strings.Index(id, "@")]
	if code, answer := teacher.do("DELETE", fmt.Sprintf("/api/issues/%s?anyway=true", id), "", ""); code != 204 {
		t.Fatalf("withdraw: %d %s", code, answer)
	}
	if _, later := get(); !strings.Contains(later, "CANCELLED") || strings.Contains(later, "SEQUENCE:0") {
		t.Errorf("what was withdrawn is not cancelled: %s", cut(later))
	}
	p.press("Revoke the address")
	p.MustElementR("button", "Make an address")
	if code, _ := get(); code != http.StatusNotFound {
		t.Errorf("a revoked address answers with %d", code)
	}
}

// look asks for a page without a session.
func look(t *testing.T, address string) (int, string) {
	t.Helper()
	resp, err := http.Get(address)
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	out, err := io.ReadAll(resp.Body)
	if err != nil {
		t.Fatal(err)
	}
	return resp.StatusCode, string(out)
}

// A class takes its students from the learning platform, and gives it their results.
func TestTheLearningPlatform(t *testing.T) {
	a := startAloneApp(t)
	b := startBrowser(t)
	teacher := signIn(t, b, a, "ottoline")
	teacher.open("/classes")
	teacher.find("label", "Name of the class").MustElement("input").MustInput("Boatyard")
	teacher.press("Make the class")
	teacher.see("Nobody is on the roster yet")
	teacher.press("Take it from the platform")
	teacher.find("tr[data-row=new]", "Éamon Reedbank")
	teacher.picture("platform")
	teacher.Page.Timeout(30*time.Second).MustElementR("button:not([disabled])", "Add 5").MustClick()
	teacher.see("I have them")
	teacher.press("I have them")
	teacher.press("Take it from the platform") // again, it changes nothing
	teacher.see("0 new, 0 with an account")

	// A class of which something was returned: its results go there.
	api := a.client("ottoline")
	eventually(t, "an attempt can be returned", func() bool {
		code, _ := api.do("POST", "/api/attempts/1/return", "application/json", `{"comment":"Well done."}`)
		return code == http.StatusNoContent
	})
	teacher.open("/classes/1/gradebook")
	teacher.press("Send to the platform")
	teacher.see("The platform has taken them")
	if _, text := look(t, a.url+"/platform"); strings.Contains(text, "None yet") {
		t.Errorf("no results are there: %s", text)
	}
}

// A question is asked at a balloon, is at the bell of who answers it, and the answer is read by the whole class.
func TestAQuestionAtABalloon(t *testing.T) {
	a := startAloneApp(t)
	b := startBrowser(t)
	bram := signIn(t, b, a, "bram")
	bram.find("a", "Open the sheet").MustClick()
	balloon := bram.MustElement("[data-characteristic]")
	balloon.MustScrollIntoView()
	bram.Keyboard.MustType('n') // the first balloon
	bram.see("Ask about balloon 1")
	bram.MustElementR("label", "Ask about balloon 1").MustElement("textarea").MustInput("Is this over the ribs?")
	bram.press("Ask")
	bram.see("No answer yet")
	bram.picture("question")
	path := bram.MustInfo().URL[len(a.url):]

	teacher := signIn(t, b, a, "ottoline")
	teacher.MustElement("a[aria-label$='not read']").MustClick()
	teacher.find("a", "waits for an answer").MustClick()
	teacher.find("li", "Bram Oakhanger").MustElement("button").MustClick()
	teacher.MustElement("textarea[aria-label=Answer]").MustInput("No, without them.")
	teacher.press("Answer to all")
	teacher.see("No, without them.")
	teacher.picture("answer")

	ada := signIn(t, b, a, "ada")
	ada.open(path)
	ada.see("No, without them.")
	if strings.Contains(ada.MustElement("body").MustText(), "Bram") {
		t.Error("the name of who asked is there for all")
	}
}
