package e2e

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"

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

// handIn is where a student hands in.
const handIn = "section[aria-label='Hand in'] input[type=file]"

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
	teacher.press("Issue …")
	teacher.press("Issue it")
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
	lift, other := paddleLift(t, a)
	a.issue(other, 2)
	strange := filepath.Join(t.TempDir(), "lift.zip")
	if err := os.WriteFile(strange, lift.Reference, 0o600); err != nil {
		t.Fatal(err)
	}
	student.MustElement(handIn).MustSetFiles(strange)
	student.find("a", "Open attempt").MustClick()
	student.see("This is of another exercise: Paddle lift")
	student.MustNavigateBack().MustWaitLoad()
	sheet := strings.TrimPrefix(student.MustInfo().URL, a.url)
	student.MustElement(handIn).MustSetFiles(tackleJoint(t, "loose.zip", func(d *assembly.Document) {
		j, _ := d.Joint("j3")
		j.Offset = "4 mm"
		d.Components[1].Name = "my eye"
	}))
	student.find("a", "Open attempt 2").MustClick()
	student.see("You will see the result with the return")

	teacher.open("/")
	teacher.MustElement("[aria-label='Begin with tackle joint, Evening machinists' i]").MustClick()
	teacher.find("h1", "Finn Towpath")
	teacher.see("the offset has the wrong sign")
	teacher.see("Collar (item 4)")
	teacher.find("[aria-label='Joints'] tr, section tr", "collar on the pin")
	// An item leads into the characteristics of its part.
	teacher.find("[aria-label='Items'] button, tr button", "eye").MustClick()
	teacher.find("section[aria-label='Item 2, eye'] tr", "2/1")
	teacher.find("section[aria-label='Item 2, eye'] button", "Diameter").MustClick()
	teacher.MustElement(`[aria-label^="Sheet 3 of"][aria-pressed=true]`) // the sheet of that part came up
	// In space a click on what is seen leads to its item, and a slider draws the whole apart.
	canvas := teacher.MustElement("[aria-label=Solids] canvas")
	canvas.MustScrollIntoView()
	teacher.find("[aria-label='Items'] tr", "eye").MustClick() // closes what is open
	box := canvas.MustShape().Box()
	opened := func() bool { return len(teacher.MustElements("[aria-label=Items] [aria-expanded=true]")) > 0 }
	eventually(t, "a click on a component opens its item", func() bool {
		for _, at := range [][2]float64{{0.5, 0.5}, {0.4, 0.55}, {0.3, 0.5}, {0.5, 0.6}, {0.35, 0.6}} {
			canvas.MustScrollIntoView()
			box = canvas.MustShape().Box()
			teacher.Mouse.MustMoveTo(box.X+at[0]*box.Width, box.Y+at[1]*box.Height)
			teacher.Mouse.MustClick(proto.InputMouseButtonLeft)
			time.Sleep(200 * time.Millisecond)
			if opened() {
				return true
			}
		}
		return false
	})
	before := teacher.MustElement("[aria-label=Solids]").MustScreenshot()
	slider := teacher.MustElementR("[aria-label=Solids] label", "Drawn apart").MustElement("input")
	bar := slider.MustShape().Box()
	teacher.Mouse.MustMoveTo(bar.X+2, bar.Y+bar.Height/2)
	teacher.Mouse.MustDown(proto.InputMouseButtonLeft)
	teacher.Mouse.MustMoveTo(bar.X+bar.Width-2, bar.Y+bar.Height/2)
	teacher.Mouse.MustUp(proto.InputMouseButtonLeft)
	if v := slider.MustProperty("value").Str(); v == "0" {
		t.Error("the slider stayed where it was")
	}
	if bytes.Equal(before, teacher.MustElement("[aria-label=Solids]").MustScreenshot()) {
		t.Error("nothing is drawn apart")
	}
	teacher.press("Return to the student")
	teacher.see("Returned")

	student.MustReload()
	student.see("the offset has the wrong sign")
	for _, of := range []string{"Reference opacity", "my own"} { // the reference is not the student's to see
		if strings.Contains(student.MustElement("body").MustText(), of) {
			t.Errorf("the student sees %q", of)
		}
	}
	// It is put right where it is worked on here, and handed in from there.
	student.open(sheet)
	student.find("section[aria-label='Model it here'] label", "Name of the assembly")
	student.MustElement("section[aria-label='Model it here'] input[type=file]").
		MustSetFiles(tackleJoint(t, "right.zip", func(*assembly.Document) {}))
	f := student.openFitting("")
	f.find("section[aria-label=Components] li", "eye")
	f.picture("beside")
	f.MustElement("section[aria-label=Sheet] [data-characteristic]").MustClick() // the sheet is beside, to tick off
	f.MustElement("[data-ticks='1'] .is-ticked")
	f.MustElement("select[aria-label=Sheet]").MustSelect("no sheet")
	f.MustWait(`() => !document.querySelector("section[aria-label=Sheet]")`)
	f.find("summary", "File").MustClick()
	f.press("Hand in …")
	f.press("Look it over first")
	f.find("section[aria-label='Looked over']", "othing")
	f.find("summary", "File").MustClick()
	f.press("Hand in …")
	f.press("Hand in this assembly")
	student.see("You will see the result with the return")
	student.open(sheet)
	student.find("section[aria-label='Model it here'] li a", "tackle joint")
	teacher.open("/")
	teacher.MustElement("[aria-label='Begin with tackle joint, Evening machinists' i]").MustClick()
	teacher.see("Findings (0)")
	teacher.see("Since attempt 2")
}

// paddleLift is the demo's paddle lift as an exercise of its own, with its id.
func paddleLift(t *testing.T, a *app) (*documents.Bundle, string) {
	t.Helper()
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
	return bundle, found[1]
}

// issue issues an exercise to a class, for two attempts with results at once.
func (a *app) issue(exercise string, class int) {
	a.t.Helper()
	code, answer := a.client("ottoline").do("POST", "/api/exercises/"+exercise+"/issues", "application/json",
		fmt.Sprintf(`{"classId":%d,"due":%q,"attempts":2,"results":"at once","knowing":true}`, class,
			time.Now().Add(time.Hour).UTC().Format(time.RFC3339)))
	if code != 201 {
		a.t.Fatalf("the issue: %d %s", code, cut(answer))
	}
}

// What is given with an exercise is to be had by its students: as a model and as STEP, and nothing of the other parts.
func TestGivenParts(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	bundle, exercise := paddleLift(t, a)
	a.issue(exercise, 1)
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

	// Its parts are handed in one by one: what was handed in before is kept, and a part more uses no attempt up.
	ref, err := documents.ReadAssemblyReference(bundle.Parsed, bundle.Reference)
	if err != nil {
		t.Fatal(err)
	}
	stray, err := demo.Bundle("bearing-bracket")
	if err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "bracket.json")
	if err := os.WriteFile(path, stray.Reference, 0o600); err != nil {
		t.Fatal(err)
	}
	student.MustElement(handIn).MustSetFiles(path)
	student.find("a", "Open attempt").MustClick()
	student.see("is like no part of this assembly")
	student.MustNavigateBack().MustWaitLoad()
	student.see("2 of 2 left")
	for n, part := range []string{"frame", "lever", "crank"} {
		path := filepath.Join(t.TempDir(), part+".json")
		if err := os.WriteFile(path, ref.Files[part+"/reference.json"], 0o644); err != nil {
			t.Fatal(err)
		}
		student.MustElement(handIn).MustSetFiles(path)
		student.find("a", fmt.Sprintf("Open attempt%s", []string{" 2", " 3", " 4"}[n])).MustClick()
		student.see("Parts were handed in by themselves")
		in := 0
		for _, row := range student.MustElements("[aria-label=Items] tbody tr") {
			if !strings.Contains(row.MustText(), "not yet handed in") {
				in++
			}
		}
		if in != n+1 {
			t.Errorf("after the %s, %d items are in:\n%s", part, in, student.MustElement("[aria-label=Items]").MustText())
		}
		student.MustNavigateBack().MustWaitLoad()
		student.see("Download the given parts")
	}
}

// What an exercise asks of an assembly is changed in the application: what is typed is there again after the page was
// left, and what is saved is a new version, on whose sheet it stands.
func TestEditingWhatIsAskedOfAnAssembly(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	_, exercise := paddleLift(t, a)
	teacher := signIn(t, b, a, "ottoline")
	page := "/exercises/" + exercise + "?tab=whole"
	teacher.open(page)
	teacher.see("Characteristics of the whole")
	teacher.MustElement("[aria-label$='crank is given']").MustClick()
	teacher.find("[aria-label='Left whole'] label", "lever").MustClick()
	teacher.MustElement("[aria-label^='Weight of'][aria-label$='lever']").MustSelectAllText().MustInput("3")
	teacher.MustElement("[aria-label=Kind]").MustSelect("distance between two axes")
	for i, pick := range [][2]string{{"First component", "frame"}, {"Second component", "lever"}} {
		teacher.MustElement(fmt.Sprintf("[aria-label='%s']", pick[0])).MustSelect(pick[1])
		faces := teacher.MustElements("[aria-label=Face]")[i]
		for _, option := range faces.MustElements("option") {
			if strings.Contains(option.MustText(), "bore") || strings.Contains(option.MustText(), "hole") {
				faces.MustSelect(option.MustText())
				break
			}
		}
	}
	teacher.find("[aria-label='Add a characteristic'] button", "Add").MustClick()
	label := teacher.MustElement("[aria-label='Label of balloon 9']")
	label.MustSelectAllText().MustInput("From mount to link")

	teacher.open("/") // at once after the last key
	teacher.open(page)
	teacher.see("This was typed before")
	if got := teacher.MustElement("[aria-label='Label of balloon 9']").MustText(); got != "From mount to link" {
		t.Errorf("the label that was typed is %q", got)
	}
	if got := teacher.MustElement("[aria-label^='Weight of'][aria-label$='lever']").MustText(); got != "3" {
		t.Errorf("the weight that was typed is %q", got)
	}
	teacher.press("Save as a new version")
	teacher.see("version 2")
	teacher.find("[role=tab]", "Sheet").MustClick()
	teacher.see("From mount to link")                  // in the list of characteristics
	teacher.MustElement(`[aria-label="Sheet 3 of 3"]`) // an arrangement and two parts: the crank is given now
	// Two windows: what was made of an earlier version is refused, and stays.
	other := a.client("ottoline")
	code, said := other.do("PUT", "/api/exercises/"+exercise+"/whole", "application/json",
		`{"version":1,"title":"x","task":"","assembly":{"items":[],"characteristics":[]},"rubric":{"characteristics":0,
		"wholePart":0,"robustness":0,"sketches":0,"parts":1},"whatIfs":[],"whatIfFiles":false,"uncut":[]}`)
	if code != 409 || !strings.Contains(said, "version 2 was saved meanwhile") {
		t.Errorf("of an earlier version: %d %s", code, cut(said))
	}
	_, said = other.do("GET", "/api/exercises/"+exercise+"/whole", "", "")
	if !strings.Contains(said, `"uncut":["c3","c4"]`) {
		t.Errorf("left whole are others than the pin and the lever: %s", cut(said))
	}
	if code, _ := a.client("ada").do("GET", "/api/exercises/"+exercise+"/whole", "", ""); code != 403 && code != 404 {
		t.Errorf("a student reads what is asked of the whole: %d", code)
	}
	for _, of := range []string{`"exerciseId":` + exercise, `"issueId":1`} { // neither is theirs
		if code, _ := a.client("finn").do("POST", "/api/assemblies", "application/json",
			`{"name":"x","unit":"mm",`+of+`}`); code != 404 {
			t.Errorf("a student begins an assembly for %s: %d", of, code)
		}
	}

	// The exercise of a part is taken out, worked on by itself, and put back: the set of sheets has it.
	teacher.open("/exercises/" + exercise)
	teacher.MustElement("[aria-label='Take out the exercise of lever']").MustClick()
	teacher.find("h2", "Taken out of an assembly")
	teacher.find("[role=tab]", "Edit").MustClick()
	teacher.find("label", "Title").MustElement("input").MustSelectAllText().MustInput("Lever of the lift")
	teacher.press("Save as a new version")
	teacher.see("version 2")
	teacher.find("[role=tab]", "Sheet").MustClick()
	teacher.press("Put it back")
	teacher.see("version 3")
	teacher.find("h1", "Paddle lift")
	if _, sheet := other.do("GET", "/api/exercises/"+exercise+"/bundle", "", ""); !strings.HasPrefix(sheet, "PK") {
		t.Errorf("the exercise is exported as %q", cut(sheet))
	}
	_, list := other.do("GET", "/api/exercises", "", "")
	if !strings.Contains(list, `"title":"Lever of the lift"`) || !strings.Contains(list, `"archived":"`) {
		t.Errorf("what was put back is not archived: %s", list)
	}
	teacher.find("ul", "the exercise of lever, worked on by itself")

	// Its reference is worked on at the fitting screen, with the sheet beside, and goes on as the next version.
	teacher.press("Work on the reference")
	f := teacher.openFitting("")
	f.MustElement("section[aria-label=Sheet] [data-characteristic]")
	f.find("section[aria-label=Components] li button", "crank pin").MustClick()
	f.press("Copy")
	f.find("section[aria-label=Components] li", "crank pin 2")
	f.find("summary", "File").MustClick()
	f.press("Make it the reference")
	teacher.find("h1", "version 4")
	teacher.picture("onto")
	teacher.find("ul", "the reference worked on")
	teacher.see("Quantity of crank pin: 2")
}
