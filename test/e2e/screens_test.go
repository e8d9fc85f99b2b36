package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
)

// What people meet beside the main road: errors in words, empty states, results
// at once, the released reference, the keyboard, both themes.
func TestScreensBesideTheMainRoad(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	waitChecked(t, a, "ottoline", 3)

	// A wrong password is said in words and keeps the login that was typed.
	page := b.MustIncognito().MustPage(a.url).MustWaitLoad()
	p := &person{Page: page, t: t, url: a.url}
	p.MustElement("input[name=login]").MustInput("ada")
	p.MustElement("input[name=password]").MustInput("guess").MustType(input.Enter)
	p.find("[role=alert]", "Login or password is wrong")
	if v := p.MustElement("input[name=login]").MustProperty("value").Str(); v != "ada" {
		t.Errorf("the login is %q after an error", v)
	}
	p.MustElement("input[name=password]").MustSelectAllText().MustInput("marrowgate").MustType(input.Enter)
	p.see("My exercises")

	// A page that is not there, and one that is not for the role.
	p.open("/exercises/1")
	p.see("There is no such page, or it is not for your role")
	p.open("/attempts/99999")
	p.find("[role=alert]", "not there, or not yours to see")

	// Results at once: the student sees findings, but no marks before the return.
	esme := signIn(t, b, a, "esme")
	esme.find("a", "Attempt 1").MustClick()
	esme.see("Findings (")
	esme.see("rounded decimal was entered instead of the fraction")
	if text := esme.MustElement("body").MustText(); strings.Contains(text, "Marks") || strings.Contains(text, "points") {
		t.Error("marks are shown before the return")
	}

	// A file of another kind: the message says what it is; the file is kept and no
	// attempt is used.
	finn := signIn(t, b, a, "finn")
	finn.find("a", "Open the sheet").MustClick()
	finn.see("3 of 3 left")
	picture := filepath.Join(t.TempDir(), "photo of the part.png")
	if err := os.WriteFile(picture, []byte("\x89PNG\r\n\x1a\nnot really"), 0o644); err != nil {
		t.Fatal(err)
	}
	finn.MustElement("input[type=file]").MustSetFiles(picture)
	finn.find("a", "Open attempt 1").MustClick()
	finn.find("[role=alert]", "This is a picture.")
	finn.see("It does not count as an attempt")
	finn.find("a", "photo of the part.png")
	finn.find("a", "Valve gland flange").MustClick()
	finn.see("3 of 3 left")

	// The sheet by keyboard: n steps through the balloons, + zooms, 0 shows it whole.
	finn.MustElement(`[data-characteristic="D"]`)
	finn.MustElement("[role=application]").MustFocus()
	place := func() string {
		time.Sleep(300 * time.Millisecond) // a frame or two
		return finn.MustEval(`() => document.querySelector("[role=application] > div").style.transform`).Str()
	}
	whole := place()
	finn.Keyboard.MustType('-', input.ArrowLeft)
	if place() == whole {
		t.Error("the keys do not move the sheet")
	}
	finn.Keyboard.MustType('0')
	if now := place(); now != whole {
		t.Errorf("0 brings %s instead of %s", now, whole)
	}
	finn.Keyboard.MustType('n')
	finn.find("[role=status]", "1: Flange, 4")
	finn.Keyboard.MustType('n')
	finn.find("[role=status]", "2: Flange, thickness, 5/8")
	finn.Keyboard.MustType('b', 'b')
	finn.find("[role=status]", "16: One solid")

	// The reference is released by the instructor and then stands beside the attempt.
	teacher := signIn(t, b, a, "ottoline")
	teacher.find("a", "Valve gland flange").MustClick()
	teacher.MustWaitStable()
	teacher.open("/issues/" + strings.TrimPrefix(finn.MustInfo().URL, a.url+"/issues/"))
	teacher.see("Students do not see the reference")
	teacher.press("Release the reference")
	teacher.see("Students see the reference")
	esme.MustReload()
	esme.see("Reference opacity")

	// The mistake atlas: mistakes of steps and sizes read wrongly, found by words and balloons.
	teacher.open("/exercises/2")
	teacher.find("[role=tab]", "Mistake atlas").MustClick()
	teacher.find("th", "Mistake in a step")
	find := teacher.MustElement("input[aria-label='Find a mistake']")
	find.MustInput("wrong face 9")
	teacher.find("td", "off by exactly the size at balloon 9 (3/16)")
	if has, _, err := teacher.Has("table[aria-label='Mistake atlas']"); err != nil || has {
		t.Errorf("mistakes of steps are shown for words that none of them has: %v", err)
	}
	find.MustSelectAllText().MustInput("zebra")
	teacher.see("No mistake has these words")

	// Both themes, kept over a reload.
	before := esme.MustElement("html").MustAttribute("data-theme")
	esme.press(map[string]string{"paper": "Lamp light", "lamp": "Day light"}[*before])
	esme.MustReload()
	if after := esme.MustElement("html").MustAttribute("data-theme"); *after == *before {
		t.Error("the theme is not kept")
	}

	// The administrator's accounts; the roster of a class.
	admin := signIn(t, b, a, "registrar")
	admin.press("Accounts")
	admin.see("Dov Lanterner")
	admin.open("/classes/1")
	admin.see("nothing yet")
	admin.see("could not be used")
}

// Nothing on any page is clipped or laid over other text at 1280 x 800: no
// element that holds text only is wider than its box.
func TestNoClippedText(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	waitChecked(t, a, "ottoline", 3)
	look := func(p *person, path, wait string) {
		p.open(path)
		p.see(wait)
		clipped := p.MustEval(`() => [...document.querySelectorAll("h1,h2,p,td,th,a,button,label,li,span")]
			.filter((e) => e.children.length === 0 && e.textContent.trim() !== "" && e.offsetParent !== null &&
				!e.closest(".sr-only") && e.scrollWidth > e.clientWidth + 2 && getComputedStyle(e).display !== "inline")
			.map((e) => e.textContent)`).Arr()
		for _, c := range clipped {
			t.Errorf("%s: clipped: %s", path, c.Str())
		}
		if wide := p.MustEval(`() => document.documentElement.scrollWidth - window.innerWidth`).Int(); wide > 0 {
			t.Errorf("%s: %d pixels wider than the window", path, wide)
		}
	}
	teacher, student := signIn(t, b, a, "ottoline"), signIn(t, b, a, "ada")
	for path, wait := range map[string]string{"/": "Looks odd", "/exercises/1": "Issue to a class",
		"/issues/1": "Not handed in", "/attempts/2": "Findings (", "/classes/1": "students"} {
		look(teacher, path, wait)
	}
	for path, wait := range map[string]string{"/models/1": "loose", "/models": "Bracket, begun"} {
		look(student, path, wait)
	}
}
