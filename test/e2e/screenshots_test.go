package e2e

import (
	"os"
	"path/filepath"
	"testing"
	"time"
)

// TestScreenshots takes the pictures of docs/screenshots, where
// HAMMERSET_SCREENSHOTS names the folder (make screenshots).
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("HAMMERSET_SCREENSHOTS")
	if dir == "" {
		t.Skip("pictures are taken by make screenshots")
	}
	a := startNewApp(t, "--whole")
	b := startBrowser(t)
	shot := func(p *person, name string) {
		time.Sleep(1500 * time.Millisecond) // fonts and the 3D view settle
		if err := os.WriteFile(filepath.Join(dir, name+".png"), p.MustScreenshot(), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	teacher := signIn(t, b, a, "ottoline")
	waitChecked(t, a, "ottoline", 60)
	teacher.open("/")
	teacher.see("Looks odd")
	shot(teacher, "desk")
	teacher.open("/exercises")
	teacher.find("td", "castings")
	shot(teacher, "exercises")
	teacher.open("/classes/1/gradebook")
	teacher.find("h2", "By exercise")
	shot(teacher, "gradebook")
	teacher.open("/exercises/1")
	teacher.see("Issue to a class")
	shot(teacher, "exercise")
	teacher.find("[role=tab]", "Mistake atlas").MustClick()
	teacher.MustElement("table[aria-label='Mistake atlas'] tbody tr")
	shot(teacher, "mistake-atlas")
	teacher.open("/attempts/2")
	teacher.see("Findings (")
	teacher.MustElement(`[data-characteristic="web"]`)
	shot(teacher, "review")
	teacher.find("button", "Balloon").MustClick()
	teacher.MustElement("main").MustEval(`() => { this.scrollTop = 560 }`)
	shot(teacher, "review-findings")
	teacher.MustElement("main").MustEval(`() => { this.scrollTop = 0 }`)
	teacher.open("/issues/3/class")
	teacher.see("Found in several")
	shot(teacher, "class")
	teacher.open("/issues/3/rubric")
	teacher.see("What it gives")
	shot(teacher, "rubric")
	teacher.open("/exercises/3")
	teacher.find("[role=tab]", "Edit").MustClick()
	teacher.find("li button", "Corner holes").MustClick()
	teacher.see("Reads 4")
	shot(teacher, "characteristics")
	teacher.open("/exercises/1?tab=layout")
	teacher.still("As saved")
	teacher.press("Reference beside it")
	teacher.find("[data-part-view]", "Click one face or two")
	teacher.find("button", "15 Bore").MustClick()
	shot(teacher, "layout")
	teacher.open("/assemblies/1")
	teacher.find("button", "2 freedoms")
	teacher.press("Look for collisions")
	teacher.find("section[aria-label=Collisions] li", "contact")
	teacher.find("section[aria-label=Components] li button", "eye").MustClick()
	shot(teacher, "fitting")
	student := signIn(t, b, a, "ada")
	student.see("My exercises")
	shot(student, "student-home")
	student.open("/issues/1")
	student.see("Hand in")
	shot(student, "student-sheet")
	student.open("/models/1")
	m := student.openModeller("1")
	m.press("Got it")
	shot(student, "modeller")
	m.do("New hole")
	m.settled()
	m.choose("Form", "counterbore")
	m.choose("For the thread", "M8")
	m.find("[data-field='place.face'] button", "Pick").MustClick()
	m.choose("On the face, from a list", "top of base")
	m.find("[data-field='place.centered'] button", "Pick").MustClick()
	m.settled()
	shot(student, "modeller-step")
	m.press("Cancel")
	at := student.openBoard("/models/1/sketches/s1")
	at.find("li[data-finding=repeated] button", "typed 4 times").MustClick()
	shot(student, "sketch")
	// An assembly under review: the attempt beside the reference.
	teacher.open("/attempts/108")
	teacher.see("Findings (")
	teacher.see("Drawn apart")
	shot(teacher, "assembly-review")
	give := a.client("ottoline")
	give.do("POST", "/api/attempts/2/return", "application/json",
		`{"comment":"Good shape. Look again at the depth of the counterbore and at what the rib's size means.",
	"looked":true}`)
	back := signIn(t, b, a, "bram")
	back.open("/attempts/2")
	back.see("Findings (")
	shot(back, "student-return")
}
