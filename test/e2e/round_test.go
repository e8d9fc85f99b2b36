package e2e

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/kernel/occ"
)

// files writes the attempts of the round: the bracket as a student would have
// it, with a wrong bore, and as a STEP file turned by 37 degrees and shifted.
func files(t *testing.T) (good, wrong, turned string) {
	t.Helper()
	dir := t.TempDir()
	b, err := demo.Bundle("bearing-bracket")
	if err != nil {
		t.Fatal(err)
	}
	write := func(name string, data []byte) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, data, 0o644); err != nil {
			t.Fatal(err)
		}
		return path
	}
	good = write("bracket.json", b.Reference)
	bad, err := demo.Edited(b.Reference, `"bore", "value": "24 mm"`, `"bore", "value": "12 mm"`,
		`"headDiameter": "bore + 10 mm"`, `"headDiameter": "34 mm"`, `"value": "bore + 20 mm"`, `"value": "44 mm"`)
	if err != nil {
		t.Fatal(err)
	}
	wrong = write("bracket-radius.json", bad)
	out := filepath.Join(dir, "straight.step")
	cmd := exec.Command(filepath.Join(root(t), "bin/hammerset"), "rebuild", good, "--step", out)
	if msg, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, msg)
	}
	data, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	k := occ.Kernel{}
	content, err := k.ReadSTEP(t.Context(), data)
	if err != nil {
		t.Fatal(err)
	}
	move := solid.Rotation(solid.Vec{5, 5, 0}, solid.Vec{1, -2, 0.5}, 37*math.Pi/180).
		Then(solid.Translation(solid.Vec{-81.3, 240.7, 19.9}))
	moved, _, err := k.Transform(content.Shape, move)
	if err != nil {
		t.Fatal(err)
	}
	if data, err = k.WriteSTEP([]solid.Titled{{Shape: moved, Name: "turned"}}, "turned", solid.AP214); err != nil {
		t.Fatal(err)
	}
	return good, wrong, write("turned.step", data)
}

// handIn chooses a file on the student's page and waits until it is checked.
func (p *person) handIn(file string) {
	p.t.Helper()
	p.MustElement("input[type=file]").MustSetFiles(file)
	p.see("varying sizes") // the stages are shown while it runs
	p.find("a", "Open attempt")
}

// TestTheWholeRound goes all the way round in the browser: issue, open the sheet,
// hand in a wrong model, check, look, change a mark, return, revise, compare; and
// once more with a STEP file in an odd pose.
func TestTheWholeRound(t *testing.T) {
	good, wrong, turned := files(t)
	a := startApp(t)
	b := startBrowser(t)
	teacher := signIn(t, b, a, "ottoline")

	// Issue the bracket to the evening class.
	teacher.see("Waits for a look")
	teacher.find("nav a", "Exercises").MustClick()
	teacher.find("h1", "Exercises")
	teacher.find("td a", "Paddle-shaft bearing bracket").MustClick()
	teacher.see("Issue to a class")
	teacher.MustElement("select").MustSelect("Evening machinists")
	teacher.press("Issue …")
	teacher.press("Issue it")
	teacher.see("Issued to Evening machinists")

	// The student finds it, opens the sheet and hands in the wrong model.
	student := signIn(t, b, a, "finn")
	student.see("Paddle-shaft bearing bracket")
	tasks := student.MustElements("section")
	for _, s := range tasks {
		if strings.Contains(s.MustText(), "Paddle-shaft") {
			s.MustElementR("a", "Open the sheet").MustClick()
			break
		}
	}
	student.MustElement(`[data-characteristic="bore"]`)
	student.see("3 of 3 left")
	student.handIn(wrong)
	student.see("2 of 3 left")
	student.find("a", "Open attempt").MustClick()
	student.see("You will see the result with the return")

	// The instructor sees it waiting and opens it.
	teacher.open("/")
	teacher.MustElement("[aria-label='Begin with Paddle-shaft bearing bracket, Evening machinists']").MustClick()
	teacher.see("Findings (")
	verdict := func(p *person, id string) string {
		p.t.Helper()
		return p.MustElement(`.s-verdict[data-characteristic="` + id + `"] title`).MustEval(`() => this.textContent`).Str()
	}
	for id, want := range map[string]string{"bore": "out", "head": "in", "width": "in"} {
		if got := verdict(teacher, id); got != want {
			t.Errorf("balloon %s on the marked sheet is %s, want %s", id, got, want)
		}
	}
	teacher.see("The sheet states 24, the model measures 12")
	teacher.see("the radius was typed where the diameter was asked for")
	teacher.MustElement("[data-part-view] canvas") // reference and attempt overlaid
	teacher.see("Reference opacity")

	// Picking on the sheet, in the table and by key is one selection.
	teacher.MustElement(`.s-dimension[data-characteristic="bore"]`)
	teacher.find("button", "Balloon 15").MustClick()
	teacher.find("[data-part-view] p", "15: Bore")
	teacher.find("button", "Characteristics (").MustClick()
	teacher.MustElement(`tr[data-row="head_deep"]`).MustClick()
	teacher.find("[data-part-view] p", "17: Counterbore, depth")
	if n := len(teacher.MustElements(`.chosen[data-characteristic="head_deep"]`)); n == 0 {
		t.Error("the dimension picked in the table is not brought out on the sheet")
	}
	teacher.MustElement("body").MustType('b')
	teacher.find("[data-part-view] p", "16: Counterbore")

	// Picking a face in the view finds its balloon.
	canvas := teacher.MustElement("[data-part-view] canvas").MustScrollIntoView()
	teacher.MustElement("body").MustType(input.Escape)
	box := canvas.MustShape().Box()
	teacher.Mouse.MustMoveTo(box.X+box.Width*0.25, box.Y+box.Height*0.62).MustClick(proto.InputMouseButtonLeft)
	teacher.find("[data-part-view] p", ": ")

	// Change a mark with a reason, comment and return.
	teacher.MustElement(`[data-mark="whole"] button`).MustClick()
	teacher.MustElement(`[data-mark="whole"] input[aria-label=Points]`).MustSelectAllText().MustInput("12")
	teacher.MustElement(`[data-mark="whole"] input[aria-label=Reason]`).MustInput("only the bore is off")
	teacher.press("Keep")
	teacher.see("by Ottoline Brack: only the bore is off")
	teacher.MustElement("textarea").MustInput("Nearly there, Finn. Read the diameter sign.")
	teacher.press("Return to the student")
	teacher.see("Returned by Ottoline Brack")

	// The student reads the return and downloads it.
	student.MustReload()
	student.see("Nearly there, Finn")
	student.see("only the bore is off")
	if got := verdict(student, "bore"); got != "out" {
		t.Errorf("the student's balloon is %s", got)
	}
	if strings.Contains(student.MustElement("body").MustText(), "Reference") {
		t.Error("the student is shown the reference")
	}
	finn := a.client("finn")
	id := regexp.MustCompile(`attempts/(\d+)`).FindStringSubmatch(student.MustInfo().URL)[1]
	if code, body := finn.do("GET", "/api/attempts/"+id+"/return.pdf", "", ""); code != 200 ||
		!strings.HasPrefix(body, "%PDF") {
		t.Errorf("the return as PDF: %d", code)
	}

	// The revision is the right part as STEP in an odd pose: all in, and both see
	// what changed.
	student.MustElement("input[type=file]").MustSetFiles(turned)
	student.find("a", "Open attempt").MustClick()
	student.see("You will see the result with the return")
	teacher.open("/")
	teacher.MustElement("[aria-label='Begin with Paddle-shaft bearing bracket, Evening machinists']").MustClick()
	teacher.see("22 of 22 in")
	teacher.see("Since attempt 1")
	teacher.find(`[aria-label="Changes"]`, "fixed")
	teacher.see("Turned by 37")
	teacher.press("Return to the student")
	teacher.see("Returned by Ottoline Brack")
	student.MustReload()
	student.find(`[aria-label="Changes"]`, "12 (out)")

	// A third attempt, the right model document; then none is left.
	student.find("a", "Paddle-shaft bearing bracket").MustClick()
	student.see("1 of 3 left")
	student.handIn(good)
	student.see("All attempts are used")
}

// A killed worker loses its lease and nothing else: another takes the check up.
func TestKilledWorker(t *testing.T) {
	a := startNewApp(t, "--workers", "0")
	state := func() (string, float64) {
		_, body := a.client("ottoline").do("GET", "/api/attempts/2", "", "")
		var x struct {
			Row struct{ State string }
		}
		if err := json.Unmarshal([]byte(body), &x); err != nil {
			t.Fatal(err)
		}
		return x.Row.State, 0
	}
	if s, _ := state(); s != "queued" {
		t.Fatalf("without workers the attempt is %s", s)
	}
	worker := func() *exec.Cmd {
		cmd := exec.Command(filepath.Join(root(t), "bin/hammerset"), "work", "--data", a.data, "--workers", "2")
		cmd.Stderr = os.Stderr
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		return cmd
	}
	first := worker()
	for i := 0; ; i++ {
		if s, _ := state(); s == "checking" {
			break
		} else if i > 200 {
			t.Fatalf("the worker does not begin: %s", s)
		}
		time.Sleep(50 * time.Millisecond)
	}
	time.Sleep(500 * time.Millisecond)
	if err := first.Process.Kill(); err != nil {
		t.Fatal(err)
	}
	_ = first.Wait() // killed
	if s, _ := state(); s != "checking" {
		t.Fatalf("right after the kill the attempt is %s", s)
	}
	second := worker()
	defer func() {
		_ = second.Process.Signal(os.Interrupt)
		if err := second.Wait(); err != nil {
			t.Errorf("the worker ended with %v", err)
		}
	}()
	waitChecked(t, a, "ottoline", 3)
	if s, _ := state(); s != "checked" {
		t.Errorf("in the end the attempt is %s", s)
	}
	if code, body := a.client("bram").do("GET", "/api/attempts/2/file", "", ""); code != 200 ||
		!strings.Contains(body, "hammerset") {
		t.Errorf("the file: %d", code)
	}
}

// Stopped by Ctrl-C and started again, the application has everything it had:
// sessions, attempts and returns; the demo is not loaded twice.
func TestRestartKeepsEverything(t *testing.T) {
	a := startApp(t)
	waitChecked(t, a, "ottoline", 3)
	teacher := a.client("ottoline")
	if code, body := teacher.do("POST", "/api/attempts/1/return", "application/json",
		`{"comment":"Kept over a restart."}`); code != 204 {
		t.Fatalf("return: %d %s", code, body)
	}
	_, before := teacher.do("GET", "/api/attempts/1", "", "")
	a.stop()
	again := startAppIn(t, a.data)
	teacher.url, teacher.contract = again.url, promises(t, again.url)
	teacher.do("POST", "/api/session", "application/json", `{"login":"ottoline","password":"marrowgate"}`)
	if code, after := teacher.do("GET", "/api/attempts/1", "", ""); code != 200 || after != before {
		t.Errorf("after a restart: %d\n%s\nwas\n%s", code, after, before)
	}
	if _, all := teacher.do("GET", "/api/exercises", "", ""); strings.Count(all, `"number":"MCW-101"`) != 1 {
		t.Errorf("after a restart the exercises are %s", all)
	}
}

// The command line: reports and exit codes, without server or database.
func TestCommandLine(t *testing.T) {
	good, wrong, turned := files(t)
	dir := t.TempDir()
	picture := filepath.Join(dir, "picture.png")
	if err := os.WriteFile(picture, []byte("\x89PNG\r\n\x1a\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	exercise := filepath.Join(root(t), "demo/exercises/bearing-bracket")
	for _, c := range []struct {
		args []string
		code int
		say  string
	}{
		{[]string{"check", "--exercise", exercise, "--attempt", good}, 0, "Marks: 100 of 100"},
		{[]string{"check", "--exercise", exercise, "--attempt", turned, "--json"}, 0, `"hammerset": "report/2"`},
		{[]string{"check", "--exercise", exercise, "--attempt", wrong}, 1, "the radius was typed"},
		{[]string{"check", "--exercise", exercise, "--attempt", wrong, "--json", "--trace"}, 1, `"stage": "measuring"`},
		{[]string{"check", "--exercise", exercise, "--attempt", wrong, "--trace"}, 2, "--trace goes with --json"},
		{[]string{"check", "--exercise", exercise, "--attempt", picture}, 2, "this is a picture"},
		{[]string{"check", "--exercise", dir, "--attempt", good}, 2, "no exercise.json"},
		{[]string{"check", "--exercise", exercise, "--attempt", filepath.Join(dir, "none")}, 2, "no such file"},
		{[]string{"rebuild", good, "--props", "--set", "width=5 in", "--set", "bore=20"}, 0, "overall 127 × 70 × 90 mm"},
		{[]string{"rebuild", good, "--set", "girth=5"}, 2, `no parameter named "girth"`},
		{[]string{"rebuild", good, "--set", "width"}, 2, "write name=value"},
		{[]string{"rebuild", good, "--set", "width=15 mm", "--props"}, 1, "step "},
		{[]string{"rebuild", picture}, 2, "not readable as JSON"},
		{[]string{"sheet", "--exercise", exercise, "--out", filepath.Join(dir, "sheet.pdf")}, 0, ""},
		{[]string{"sheet", "--exercise", exercise, "--out", filepath.Join(dir, "sheet.svg"), "--propose"}, 0, ""},
		{[]string{"sheet", "--exercise", exercise, "--out", filepath.Join(dir, "sheet.dxf")}, 0, ""},
		{[]string{"sheet", "--exercise", exercise, "--out", filepath.Join(dir, "sheet.txt")}, 2, ".svg, .dxf or .png"},
		{[]string{"sheet", "--exercise", dir, "--out", filepath.Join(dir, "none.pdf")}, 2, "no exercise.json"},
	} {
		out, err := exec.Command(filepath.Join(root(t), "bin/hammerset"), c.args...).CombinedOutput()
		code := 0
		if e, ok := err.(*exec.ExitError); ok {
			code = e.ExitCode()
		}
		if code != c.code || !strings.Contains(string(out), c.say) {
			t.Errorf("%s: exit %d, want %d and %q:\n%s", strings.Join(c.args, " "), code, c.code, c.say, cut(string(out)))
		}
	}
}

// The address in use, and a data folder that cannot be made, each give one clear
// line.
func TestClearStartErrors(t *testing.T) {
	a := startApp(t)
	address := strings.TrimPrefix(a.url, "http://")
	for _, c := range []struct {
		args []string
		say  string
	}{
		{[]string{"demo", "--address", address, "--data", t.TempDir()}, "cannot be used"},
		{[]string{"demo", "--address", "127.0.0.1:0", "--data", "/proc/nowhere"}, "cannot be made"},
		{[]string{"work", "--data", t.TempDir()}, "start the server first"},
	} {
		out, err := exec.Command(filepath.Join(root(t), "bin/hammerset"), c.args...).CombinedOutput()
		lines := strings.Split(strings.TrimSpace(string(out)), "\n")
		if err == nil || !strings.Contains(lines[len(lines)-1], c.say) || len(lines) > 2 {
			t.Errorf("%s: %v\n%s", fmt.Sprint(c.args), err, out)
		}
	}
}
