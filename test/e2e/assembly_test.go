package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"hammerset/core/assembly"
	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/formats/pack"
)

// tackleJoint is the demo's tackle joint as a student hands it in, with something done otherwise.
func tackleJoint(t *testing.T, name string, change func(d *assembly.Document)) string {
	t.Helper()
	b, err := demo.AssemblyBundle("tackle-joint")
	if err != nil {
		t.Fatal(err)
	}
	ref, err := documents.ReadAssemblyReference(b.Parsed, b.Reference)
	if err != nil {
		t.Fatal(err)
	}
	change(ref.Document)
	data, err := documents.PackAssembly(ref.Document, ref.Files)
	if err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, data, 0o644); err != nil {
		t.Fatal(err)
	}
	return path
}

// An exercise is made of an assembly from the fitting screen, issued, handed in with a mistake, looked at by items and
// sheets, returned, and handed in again right.
func TestAnAssemblyAllTheWayRound(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	teacher := signIn(t, b, a, "ottoline")
	teacher.open("/models")
	teacher.find("a", "tackle joint").MustClick()
	teacher.openFitting("")
	teacher.find("summary", "File").MustClick()
	teacher.find("li button", "Make an exercise of it").MustClick()
	teacher.see("Issue to a class")
	teacher.see("version 1")
	// The sheets are one set: the arrangement first, and one for each part.
	teacher.MustElement(`[aria-label="Sheet 5 of 5"]`).MustClick()
	teacher.MustElement(`[data-characteristic^="4/"]`)
	teacher.find("tr", "4/1")
	teacher.MustElement(`[aria-label="Sheet 1 of 5"]`).MustClick()
	teacher.MustElement("select").MustSelect("Evening machinists")
	teacher.press("Issue")
	teacher.see("Issued to Evening machinists")

	student := signIn(t, b, a, "finn")
	student.see("tackle joint")
	for _, s := range student.MustElements("section") {
		if strings.Contains(s.MustText(), "tackle joint") {
			s.MustElementR("a", "Open the sheet").MustClick()
			break
		}
	}
	student.see("Drop your assembly here")
	student.MustElement("input[type=file]").MustSetFiles(tackleJoint(t, "loose.zip", func(d *assembly.Document) {
		j, _ := d.Joint("j3")
		j.Offset = "4 mm"
		d.Components[1].Name = "my eye"
	}))
	student.find("a", "Open attempt").MustClick()
	student.see("You will see the result with the return")

	teacher.open("/")
	teacher.find("a", "Finn Towpath").MustClick()
	teacher.see("the offset has the wrong sign")
	teacher.see("Collar (item 4)")
	teacher.find("[aria-label='Joints'] tr, section tr", "collar on the pin")
	// An item leads into the characteristics of its part.
	teacher.find("[aria-label='Items'] button, tr button", "eye").MustClick()
	teacher.find("section[aria-label='Item 2, eye'] tr", "2/1")
	teacher.find("section[aria-label='Item 2, eye'] button", "Diameter").MustClick()
	teacher.MustElement(`[aria-label^="Sheet 3 of"][aria-pressed=true]`) // the sheet of that part came up
	teacher.press("Return to the student")
	teacher.see("Returned")

	student.MustReload()
	student.see("the offset has the wrong sign")
	for _, of := range []string{"Reference opacity", "my own"} { // the reference is not the student's to see
		if strings.Contains(student.MustElement("body").MustText(), of) {
			t.Errorf("the student sees %q", of)
		}
	}
	student.MustElement("input[type=file]").MustSetFiles(tackleJoint(t, "right.zip", func(*assembly.Document) {}))
	student.find("a", "Open attempt 2").MustClick()
	student.see("You will see the result with the return")
	teacher.open("/")
	teacher.find("a", "Finn Towpath").MustClick()
	teacher.see("Findings (0)")
	teacher.see("Since attempt 1")
}

// What is given with an exercise is to be had by its students: as a model and as STEP, and nothing of the other parts.
func TestGivenParts(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	bundle, err := demo.AssemblyBundle("paddle-lift")
	if err != nil {
		t.Fatal(err)
	}
	data, err := bundle.Zip()
	if err != nil {
		t.Fatal(err)
	}
	kind, form := upload(t, "paddle lift.zip", data)
	code, answer := a.client("ottoline").do("POST", "/api/exercises", kind, form)
	found := regexp.MustCompile(`"id":(\d+),"issues":\[\]`).FindStringSubmatch(answer)
	if code != 201 || found == nil {
		t.Fatalf("the exercise: %d %s", code, cut(answer))
	}
	code, answer = a.client("ottoline").do("POST", "/api/exercises/"+found[1]+"/issues", "application/json",
		fmt.Sprintf(`{"classId":1,"due":%q,"attempts":2,"results":"at once","knowing":true}`,
			time.Now().Add(time.Hour).UTC().Format(time.RFC3339)))
	if code != 201 {
		t.Fatalf("the issue: %d %s", code, cut(answer))
	}
	student := signIn(t, b, a, "ada")
	for _, s := range student.MustElements("section") {
		if strings.Contains(s.MustText(), "Paddle lift") {
			s.MustElementR("a", "Open the sheet").MustClick()
			break
		}
	}
	student.see("Some of the parts are given")
	link := student.find("a", "Download the given parts")
	code, body := a.client("ada").do("GET", *link.MustAttribute("href"), "", "")
	if code != 200 {
		t.Fatal(code, cut(body))
	}
	z, err := pack.Open([]byte(body))
	if err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(z.Names(), " "); got != "crank-pin.json crank-pin.step" {
		t.Fatal("given are ", got)
	}
	for _, name := range z.Names() {
		data, err := z.Read(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := documents.Recognise(name, data); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
	// The parts list says it, and a sheet for it there is not.
	if n := len(student.MustElements(`[aria-label="Sheets of the set"] button`)); n != 4+1 {
		t.Errorf("%d sheets of an arrangement and three parts", n)
	}
}
