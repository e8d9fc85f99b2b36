package e2e

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"

	"hammerset/demo"
	"hammerset/formats/documents"
)

// TestReviewOfAClass goes through a class as an instructor does: side by side, from one open
// attempt to the next by a key, one remark for all who have a finding, another rubric with
// what it gives before it counts, and a corrected exercise with what it would change. The
// student reads the remark with the return and not before.
func TestReviewOfAClass(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	teacher := signIn(t, b, a, "ottoline")
	api := a.client("ottoline")

	// Dov makes the same mistake as Ada.
	bundle, err := demo.Bundle("bearing-bracket")
	if err != nil {
		t.Fatal(err)
	}
	same, err := demo.Edited(bundle.Reference, `"diameter": "bolt"`, `"diameter": "9 mm"`)
	if err != nil {
		t.Fatal(err)
	}
	dov := a.client("dov")
	kind, body := upload(t, "dov.json", same)
	if code, answer := dov.do("POST", "/api/issues/1/attempts", kind, body); code != 201 {
		t.Fatalf("hand in: %d %s", code, answer)
	}
	waitChecked(t, a, "ottoline", 4)

	teacher.open("/issues/1/class")
	teacher.find("tr", "Dov Lanterner")
	if shapes := len(teacher.MustElements("tbody svg[aria-label=out]")); shapes == 0 {
		t.Error("nothing is out in the class")
	}
	group := teacher.find("li button", "2 students, parameter bolt")
	group.MustClick()
	if rows := len(teacher.MustElements("section[aria-label='Attempts beside one another'] tbody tr")); rows != 2 {
		t.Errorf("%d students have it, not 2", rows)
	}
	teacher.find("a", "Write one remark for all").MustClick()
	teacher.see("Findings (")
	item := teacher.find("li[data-finding]", "Parameter bolt")
	item.MustElementR("summary", "One other student has this")
	item.MustElement("textarea").MustInput("Use the parameter bolt for the holes.")
	if !item.MustElementR("label", "the same for all 2").MustElement("input").MustProperty("checked").Bool() {
		t.Error("come to write one remark for all, it is for one")
	}
	item.MustElementR("button", "Keep").MustClick()
	teacher.find("li[data-finding] blockquote", "Use the parameter bolt")

	// The next open attempt by a key, and on to the other one that has the remark.
	for _, name := range []string{"Bram Oakhanger", "Dov Lanterner"} {
		teacher.MustElement("body").MustType(input.Period)
		teacher.find("h1", name)
		teacher.see("Findings (")
	}
	teacher.find("li[data-finding] blockquote", "Use the parameter bolt")
	mine := teacher.MustInfo().URL
	dovs := mine[strings.LastIndex(mine, "/")+1:]

	// A rubric: what it would give is shown, nothing counts before it is said so.
	teacher.open("/issues/1/rubric")
	teacher.find("td", "Characteristics ")
	points := teacher.MustElement("input[aria-label=Characteristics]")
	points.MustSelectAllText().MustInput("40")
	teacher.find("span", "of 3 change")
	// What one fault costs goes with it: 22 characteristics of weight 1, 12 driving sizes.
	cost := func(fault, points string) {
		t.Helper()
		teacher.find("section tr", fault).MustElementR("td", "^"+points+"$")
	}
	cost("one characteristic of weight 1 is out", "1.82")
	cost("driving sizes is typed as a number", "1.25")
	cost("everything is typed as numbers", "65 of 80")
	code, answer := api.do("GET", "/api/attempts/"+dovs, "", "")
	if code != 200 || !strings.Contains(answer, `"outOf":100`) {
		t.Errorf("a preview changed the marks: %d", code)
	}
	teacher.press("Mark by this")
	teacher.MustWait(`() => ![...document.querySelectorAll("button")].some((b) => b.textContent === "Mark by this")`)
	if _, answer = api.do("GET", "/api/attempts/"+dovs, "", ""); !strings.Contains(answer, `"outOf":80`) {
		t.Error("the rubric does not count after it was applied")
	}

	// A corrected exercise: bolt holes of 10 mm. What would change is shown first.
	wrong := strings.Replace(string(bundle.Exercise), `"general": {"kind": "sheet"}`, `"general": {"kind": "iso2768",
	"class": "v"}`, 1)
	next := &documents.Bundle{Exercise: []byte(wrong), Reference: bundle.Reference}
	if next.Parsed, err = documents.ReadExercise(next.Exercise); err != nil {
		t.Fatal(err)
	}
	zip, err := next.Zip()
	if err != nil {
		t.Fatal(err)
	}
	kind, body = upload(t, "x.zip", zip)
	if code, answer := api.do("POST", "/api/exercises?exercise=1", kind, body); code != 201 && code != 200 {
		t.Fatalf("a new version: %d %s", code, answer)
	}
	teacher.open("/issues/1/recheck")
	teacher.see("Version 3")
	teacher.find("li button", "What would change?").MustClick()
	teacher.see("Against version 3")
	teacher.Timeout(5*time.Minute).MustElementR("section span", "of 4 would change")
	if code, answer := api.do("GET", "/api/attempts/"+dovs, "", ""); code != 200 ||
		!strings.Contains(answer, `"version":2`) {
		t.Errorf("looking changed the issue: %d", code)
	}
	teacher.press("Let it count")
	teacher.see("Versions of the exercise")
	if _, answer := api.do("GET", "/api/attempts/"+dovs, "", ""); !strings.Contains(answer, `"version":4`) {
		t.Error("the new version does not count after it was applied")
	}

	// The student sees remark and marks with the return.
	if code, answer := dov.do("GET", "/api/attempts/"+dovs, "", ""); code != 200 ||
		strings.Contains(answer, "Use the parameter") {
		t.Errorf("a student reads the remark before the return: %d", code)
	}
	if code, answer := api.do("POST", "/api/attempts/"+dovs+"/return", "application/json",
		`{"comment":"Well made."}`); code != 204 {
		t.Fatalf("return: %d %s", code, answer)
	}
	student := signIn(t, b, a, "dov")
	student.open("/attempts/" + dovs)
	student.find("blockquote", "Use the parameter bolt for the holes.")
	student.see("Well made.")
	if code, pdf := dov.do("GET", "/api/attempts/"+dovs+"/return.pdf", "", ""); code != 200 ||
		!strings.HasPrefix(pdf, "%PDF") {
		t.Errorf("the return as PDF: %d", code)
	}
	if code, _ := dov.do("GET", "/api/issues/1/class", "", ""); code != 403 {
		t.Errorf("a student sees the class: %d", code)
	}
}

// TestHandInOfWhatIfs hands in a part with a file for a what-if in the browser.
func TestHandInOfWhatIfs(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	bundle, err := demo.Bundle("drain-bend")
	if err != nil {
		t.Fatal(err)
	}
	api := a.client("ottoline")
	zip, err := bundle.Zip()
	if err != nil {
		t.Fatal(err)
	}
	kind, body := upload(t, "x.zip", zip)
	code, answer := api.do("POST", "/api/exercises", kind, body)
	if code != 201 && code != 200 {
		t.Fatalf("the exercise: %d %s", code, answer)
	}
	if code, answer := api.do("POST", "/api/exercises/3/issues", "application/json",
		fmt.Sprintf(`{"classId":1,"due":%q,"attempts":2,"results":"at once"}`, time.Now().Add(time.Hour).UTC().
			Format(time.RFC3339))); code != 201 {
		t.Fatalf("issue: %d %s", code, answer)
	}
	dir := t.TempDir()
	step := func(name string, set ...string) string {
		t.Helper()
		path := filepath.Join(dir, name)
		model := filepath.Join(dir, "model.json")
		if err := os.WriteFile(model, bundle.Reference, 0o644); err != nil {
			t.Fatal(err)
		}
		args := []string{"rebuild", model, "--step", path}
		for _, s := range set {
			args = append(args, "--set", s)
		}
		if out, err := exec.Command(filepath.Join(root(t), "bin/hammerset"), args...).CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		return path
	}
	student := signIn(t, b, a, "bram")
	student.open("/issues/3")
	student.see("First, the same part at other sizes")
	student.see("wider pipe")
	student.MustElement(`input[aria-label="File for wider pipe"]`).MustSetFiles(step("wide.step", "od=38 mm", "id=30 mm"))
	student.find("[role=status]", "wide.step")
	student.MustElement(`input[aria-label="Model file"]`).MustSetFiles(step("bend.step"))
	student.find("a", "Open attempt").MustClick()
	student.find("table[aria-label='What-ifs'] tr", "wider pipe").MustElementR("td", "follows")
	student.find("table[aria-label='What-ifs'] tr", "larger flange").MustElementR("td", "missing")
	id := student.MustInfo().URL
	if _, answer := api.do("GET", "/api/attempts/"+id[strings.LastIndex(id, "/")+1:], "", ""); !strings.Contains(answer,
		"1 of 2 what-ifs followed") {
		t.Error("the marks do not count the what-ifs")
	}
}

// TestExerciseFromSTEP begins an exercise with a STEP file alone: characteristics are picked
// on its faces and read off, what cannot be is said, and a student's STEP in another pose is
// checked by them.
func TestExerciseFromSTEP(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	bundle, err := demo.Bundle("pawl-plate")
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	model, step := filepath.Join(dir, "m.json"), filepath.Join(dir, "gate-latch.step")
	if err := os.WriteFile(model, bundle.Reference, 0o644); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command(filepath.Join(root(t), "bin/hammerset"), "rebuild", model, "--step", step).
		CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	teacher := signIn(t, b, a, "ottoline")
	teacher.find("nav a", "Exercises").MustClick()
	teacher.MustElement(`input[aria-label="Exercise as a zip, or a reference alone"]`).MustSetFiles(step)
	teacher.find("h1", "Gate latch")
	teacher.find("[role=tab]", "Edit").MustClick()
	teacher.press("Add a characteristic")
	teacher.see("Pick two faces, axes or edges")
	list := func() string {
		var first, second string
		for _, o := range teacher.MustElement(`select[aria-label="Add a face from the list"]`).MustElements("option") {
			text := o.MustText()
			if strings.Contains(text, "bore") {
				if first == "" {
					first = text
				} else if second == "" {
					second = text
				}
			}
		}
		return first + "|" + second
	}
	faces := strings.Split(list(), "|")
	teacher.MustElement(`select[aria-label="Add a face from the list"]`).MustSelect(faces[0])
	teacher.find("p[role=status]", "It cannot be measured on the reference: distance is measured on two faces")
	// What is not finished is in the draft as well: another window has it, can undo it and has it again, and no version
	// is saved without it.
	second := signIn(t, b, a, "ottoline")
	second.open("/exercises/3?tab=characteristics")
	second.find("button[aria-expanded]", "not yet").MustClick()
	picked := func(n int) {
		t.Helper()
		second.until(fmt.Sprintf(`document.querySelectorAll("li ul span[title]").length === %d`, n))
	}
	picked(1)
	second.press("Undo")
	picked(0)
	second.press("Redo")
	picked(1)
	second.find("[role=tab]", "Lay out").MustClick()
	second.still("A draft, not saved yet")
	second.press("Save as a new version")
	second.find("[role=alert]", "filled in under Edit cannot be measured yet")
	second.MustClose()
	teacher.MustReload() // else it has still to hear of it
	teacher.find("button[aria-expanded]", "not yet").MustClick()
	teacher.MustElement(`select[aria-label="Add a face from the list"]`).MustSelect(faces[1])
	teacher.find("p[role=status]", "Reads ")
	teacher.MustReload() // what is not saved yet is there again
	teacher.see("is here again; it is not saved yet")
	rows := teacher.MustElements("button[aria-expanded]")
	rows[len(rows)-1].MustClick()
	teacher.find("p[role=status]", "Reads ")
	teacher.press("Done")
	teacher.press("Add a characteristic")
	form := teacher.MustElementR("label", "Kind").MustElement("select")
	form.MustSelect("diameter")
	for _, f := range faces {
		teacher.MustElement(`select[aria-label="Add a face from the list"]`).MustSelect(f)
	}
	teacher.find("p[role=status]", "Reads 2 × 7")
	teacher.press("Save as a new version")
	teacher.find("h1", "version 2")
	teacher.find("[role=tab]", "Sheet").MustClick()
	teacher.MustElement(`[data-characteristic="distance_2"]`)

	// Not issued unknowingly: what the sheet leaves open is in view, and is decided on.
	order := fmt.Sprintf(`{"classId":1,"due":%q,"attempts":2,"results":"at once"}`,
		time.Now().Add(time.Hour).UTC().Format(time.RFC3339))
	if code, answer := a.client("ottoline").do("POST", "/api/exercises/3/issues", "application/json",
		order); code == 201 ||
		!strings.Contains(answer, "does not determine the part") {
		t.Fatalf("issue: %d %s", code, answer)
	}
	teacher.find("section[aria-label='Issue to a class'] label", "Class").MustElement("select").
		MustSelect("Lock fitters, first year")
	teacher.find("label", "at once").MustClick()
	teacher.find("section[aria-label='Issue to a class'] button", "Issue …").MustClick()
	teacher.find("dialog li", "Missing.")
	teacher.find("label", "issue it all the same").MustClick()
	teacher.press("Issue it")
	teacher.find("p[role=status]", "Issued to ")
	// All that is missing is added at once, but for what is shown first: then it determines the part.
	teacher.find("[role=tab]", "Edit").MustClick()
	teacher.press("Show how it can move")
	teacher.press("Add it")
	teacher.press("Add all that is missing")
	teacher.find("[data-sheet-audit] summary", "Absent: 1.")
	teacher.find("label", "Material").MustElement("input").MustInput("Mild steel")
	teacher.find("[data-sheet-audit] summary", "It determines the part.")
	// What is taken from symmetry can be refused, and is missing then.
	teacher.find("[data-sheet-audit] > summary", "It determines the part.").MustClick()
	teacher.find("[data-sheet-audit] details summary", "What is taken from symmetry").MustClick()
	teacher.find("[data-sheet-audit] details li", "Flat face facing left").MustElement("button").MustClick()
	teacher.find("[data-sheet-audit] li", "Missing.")
	teacher.press("Read them again")
	teacher.find("[data-sheet-audit] > summary", "It determines the part.")
	teacher.find("label", "lay the sheet out anew").MustClick() // with a section through the pocket
	teacher.press("Save as a new version")
	teacher.find("h1", "version 3")
	teacher.find("[role=tab]", "Sheet").MustClick()
	teacher.find("section[aria-label='Does the sheet determine the part?'] p", "It determines the part.")
	wrong := strings.Replace(string(bundle.Reference), `"d", "value": "7 mm"`, `"d", "value": "8 mm"`, 1)
	if wrong == string(bundle.Reference) {
		t.Fatal("the reference has no such parameter")
	}
	if err := os.WriteFile(model, []byte(wrong), 0o644); err != nil {
		t.Fatal(err)
	}
	student := signIn(t, b, a, "bram")
	student.open("/issues/3")
	student.MustElement(`input[aria-label="Model file"]`).MustSetFiles(model)
	student.find("a", "Open attempt").MustClick()
	student.see("The sheet states 7, the model measures 8")
}
