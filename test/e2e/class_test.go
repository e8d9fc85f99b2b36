package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod"

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

	teacher := firstTime(t, b, a, "perpetua", first)
	teacher.find("section[aria-label='First steps'] a", "Make a class").MustClick()
	teacher.picture("classes-new")
	teacher.find("label", "Name of the class").MustElement("input").MustInput("Evening fitters")
	teacher.press("Make the class")
	teacher.see("Nobody is on the roster yet")
	list := teacher.MustElement("textarea")
	list.MustInput("Wren Hollowell, wren\nTobias Quay; tobias\nAda Thistlewood, ada\nSomebody Else, bram\nno login here")
	teacher.find("tr[data-row=faulty]", "another name")
	teacher.find("tr[data-row=faulty]", "no login")
	teacher.find("tr[data-row=moved]", "ada")
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
	if code, body := a.client("ottoline").do("PUT", "/api/exercises/2/shares", "application/json",
		`{"login":"perpetua","may":"use"}`); code != http.StatusNoContent {
		t.Fatalf("share: %d %s", code, body)
	}
	teacher.open("/exercises/2")
	form := teacher.MustElement("section[aria-label='Issue to a class'] form")
	form.MustElement("select").MustSelect("Evening fitters")
	form.MustElement("button[type=submit]").MustClick()
	teacher.find("dialog", "Evening fitters")
	teacher.picture("issue-look")
	teacher.press("Issue it")
	teacher.see("Issued to Evening fitters")
	form.MustElement("button[type=submit]").MustClick()
	teacher.press("Issue it")
	teacher.see("This class has the exercise already")
	teacher.find("button", "once more on purpose")
	teacher.press("Not now")
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
	student := firstTime(t, b, a, "wren", wren)
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
	// The part of another exercise is told from the file, and uses no attempt up.
	bracket, err := demo.Bundle("bearing-bracket")
	if err != nil {
		t.Fatal(err)
	}
	draft := func(want int) {
		t.Helper()
		if code, body := api.do("POST", "/api/exercises/1/draft", "application/json", `{"title":"x","number":"1","task":"",
	"step":{"revision":0,"name":"a"},"characteristics":[],"arrange":false,"save":true}`); code != want {
			t.Errorf("a draft of somebody else's exercise: %d %s", code, cut(body))
		}
	}
	draft(http.StatusNotFound)
	ada := a.client("ada")
	path := fmt.Sprintf("/api/issues/%d", issue)
	if code, body := a.client("ottoline").do("PUT", "/api/exercises/1/shares", "application/json",
		`{"login":"perpetua","may":"use"}`); code != http.StatusNoContent {
		t.Fatalf("share: %d %s", code, body)
	}
	if code, body := api.do("POST", "/api/exercises/1/issues", "application/json", fmt.Sprintf(
		`{"classId":%s,"due":%q,"attempts":1,"results":"at once","practice":true}`, strings.Split(classPath(t, api), "/")[0],
		time.Now().Add(time.Hour).UTC().Format(time.RFC3339))); code != http.StatusCreated {
		t.Fatalf("issue another: %d %s", code, body)
	}
	kind, file := upload(t, "flange.json", bracket.Reference)
	if code, answer := ada.do("POST", path+"/attempts", kind, file); code != http.StatusCreated {
		t.Fatalf("hand in another part: %d %s", code, answer)
	}
	eventually(t, "the part of another exercise is recognised", func() bool {
		_, body := ada.do("GET", path, "", "")
		return strings.Contains(body, "this is of another exercise: Paddle-shaft bearing bracket") &&
			strings.Contains(body, `"left":2`)
	})

	// Wren gets more time and an attempt more; the others do not, and nobody hands in once it is closed.
	teacher.find("section[aria-label=Terms] label", "For one student").MustElement("select").MustSelect("Wren Hollowell")
	teacher.find("label", "Attempts more").MustElement("input").MustSelectAllText().MustInput("1")
	teacher.press("Give it")
	teacher.find("ul[aria-label=Extensions] li", "Wren Hollowell: 1 attempt more")
	teacher.press("Close: nobody hands in any more")
	teacher.find("section[aria-label=Terms]", "Closed ")
	lateKind, late := upload(t, "flange.json", append(bundle.Reference, '\n'))
	for login, want := range map[string]int{"wren": http.StatusConflict, "ada": http.StatusConflict} {
		if code, body := a.client(login).do("POST", fmt.Sprintf("/api/issues/%d/attempts", issue), lateKind,
			late); code != want {
			t.Errorf("%s hands in at what is closed: %d %s", login, code, body)
		}
	}
	teacher.press("Reopen")
	teacher.find("button", "Close: nobody")
	teacher.picture("terms")
	code, table := api.do("GET", "/api/classes/"+strings.TrimPrefix(classPath(t, api), "/"), "", "")
	if code != 200 || !strings.Contains(table, "Wren Hollowell,wren,") {
		t.Errorf("the points: %d %s", code, table)
	}

	// A group gets an exercise of its own, and so does who comes into it; the list is for paper.
	class := strings.Split(classPath(t, api), "/")[0]
	teacher.open("/classes/" + class)
	teacher.find("summary", "New group").MustClick()
	teacher.find("label", "Name of the group").MustElement("input").MustInput("Late shift")
	teacher.find("[aria-label='Who is in it'] label", "Tobias Quay").MustClick()
	teacher.press("Make the group")
	teacher.find("tr", "Late shift")
	teacher.picture("groups")
	teacher.open("/exercises/1")
	form = teacher.MustElement("section[aria-label='Issue to a class'] form")
	teacher.find("label", "For some groups or students only").MustClick()
	teacher.find("label", "Group Late shift (1)").MustClick()
	form.MustElement("button[type=submit]").MustClick()
	teacher.find("dialog dd", "group Late shift")
	teacher.press("Issue it")
	teacher.press("once more on purpose")
	teacher.see("Issued to Evening fitters")
	if n := homeOf(t, a.client("wren")); n != 2 {
		t.Errorf("Wren has %d exercises, although the third is for a group", n)
	}
	teacher.open("/classes/" + class)
	teacher.MustElement("[aria-label='Change the group Late shift']").MustClick()
	teacher.find("[aria-label='Who is in it'] label", "Wren Hollowell").MustClick()
	teacher.press("Keep")
	teacher.find("li", "Tobias Quay, Wren Hollowell")
	if n := homeOf(t, a.client("wren")); n != 3 {
		t.Errorf("Wren, who came into the group, has %d exercises", n)
	}
	teacher.find("a", "List to print").MustClick()
	teacher.find("label", "Group").MustElement("select").MustSelect("Late shift")
	teacher.find("p", "2 students")
	teacher.picture("list")
	for _, page := range []string{"list", "gradebook"} {
		teacher.open("/classes/" + class + "/" + page)
		teacher.find("th", "Wren Hollowell")
		if wrong := teacher.printed(); wrong != "" {
			t.Errorf("the %s on paper: %s", page, wrong)
		}
	}
	// Who leaves stays in the gradebook with what was handed in.
	teacher.open("/classes/" + class)
	teacher.MustElement("[aria-label='Take out Wren Hollowell']").MustClick()
	teacher.find("td .btn-primary", "Take out").MustClick()
	teacher.find("section[aria-label='Have left'] li", "Wren Hollowell")
	teacher.open("/classes/" + class + "/gradebook")
	teacher.find("tr", "left").MustElementR("th", "Wren Hollowell")

	// Somebody else's students and exercises are out of reach.
	other := a.client("ottoline")
	for _, path := range []string{fmt.Sprintf("/api/issues/%d", issue), strings.Replace("/api/classes/"+classPath(t, api),
		"/gradebook/file?format=csv", "", 1)} {
		if code, body := other.do("GET", path, "", ""); code != http.StatusNotFound {
			t.Errorf("another class' %s: %d %s", path, code, cut(body))
		}
	}
	draft(http.StatusForbidden) // shared to use
	if code, body := a.client("fenwick").do("POST", "/api/models", "application/json", `{"name":"Key","unit":"mm",
	"exerciseId":1}`); code != http.StatusNotFound {
		t.Errorf("an assistant starts a model from the reference: %d %s", code, cut(body))
	}
}

// firstTime signs in with a first password and chooses one of one's own.
func firstTime(t *testing.T, b *rod.Browser, a *app, login, password string) *person {
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

// A new school goes from an empty database to a returned mark: the first account is made on the server, and all else
// with the mouse in the application.
func TestANewSchool(t *testing.T) {
	a := startProgram(t, t.TempDir(), "serve")
	b := startBrowser(t)
	administrator := func() string {
		t.Helper()
		out, err := exec.Command(filepath.Join(root(t), "bin/hammerset"), "administrator", "office", "--name",
			"School Office", "--data", a.data).Output()
		said := regexp.MustCompile(`School Office signs in as office with the first password (\S+)`).FindSubmatch(out)
		if err != nil || said == nil {
			t.Fatalf("the first account: %v %s", err, out)
		}
		return string(said[1])
	}
	lost := administrator()
	first := administrator() // a new one, since the first was lost
	if first == lost {
		t.Error("the same password twice")
	}
	office := firstTime(t, b, a, "office", first)
	office.find("nav a", "Accounts").MustClick()
	panel := office.MustElement("section[aria-label='A new account']")
	panel.MustElement("input").MustInput("Perpetua Lockhart")
	panel.MustElements("input")[1].MustInput("perpetua")
	office.press("Make the account")
	teacher := firstTime(t, b, a, "perpetua", office.MustElement("[data-slip=perpetua] [data-password]").MustText())
	teacher.find("section[aria-label='First steps'] a", "Make a class").MustClick()
	teacher.find("label", "Name of the class").MustElement("input").MustInput("First year")
	teacher.press("Make the class")
	teacher.see("Nobody is on the roster yet")
	teacher.MustElement("textarea").MustInput("Wren Hollowell, wren")
	teacher.Page.Timeout(30*time.Second).MustElementR("button:not([disabled])", "Add 1").MustClick()
	slip := teacher.MustElement("[data-slip=wren] [data-password]").MustText()
	teacher.press("I have them")

	bundle, err := demo.Bundle("gland-flange")
	if err != nil {
		t.Fatal(err)
	}
	folder := t.TempDir()
	file := func(name string, data []byte) string {
		path := filepath.Join(folder, name)
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	packed, err := bundle.Zip()
	if err != nil {
		t.Fatal(err)
	}
	teacher.find("nav a", "Exercises").MustClick()
	teacher.MustElement(`input[aria-label="Exercise as a zip, or a reference alone"]`).
		MustSetFiles(file("flange.zip", packed))
	teacher.find("h1", "Valve gland flange")
	teacher.find("section[aria-label='Issue to a class'] button", "Issue …").MustClick()
	teacher.press("Issue it")
	teacher.see("Issued to First year")

	student := firstTime(t, b, a, "wren", slip)
	student.find("a", "Open the sheet").MustClick()
	student.MustElement("input[type=file]").MustSetFiles(file("flange.json", bundle.Reference))
	student.find("a", "Open attempt").MustClick()
	student.see("You will see the result with the return")

	teacher.find("nav a", "Desk").MustClick()
	teacher.find("a, button", "Begin").MustClick()
	teacher.find("h1", "Wren Hollowell")
	teacher.find("button", "Return to the student").MustClick()
	student.find("nav a", "My exercises").MustClick()
	student.find("td, li, section", "100 of 100")
}

// homeOf counts what somebody has to do.
func homeOf(t *testing.T, c *client) int {
	t.Helper()
	code, body := c.do("GET", "/api/home", "", "")
	var home []struct{}
	if err := json.Unmarshal([]byte(body), &home); code != 200 || err != nil {
		t.Fatal(code, err, body)
	}
	return len(home)
}

// classPath is where the points of a person's last class are.
func classPath(t *testing.T, c *client) string {
	t.Helper()
	_, body := c.do("GET", "/api/desk", "", "")
	var desk struct{ Classes []struct{ ID int64 } }
	if err := json.Unmarshal([]byte(body), &desk); err != nil || len(desk.Classes) == 0 {
		t.Fatal(err, body)
	}
	return fmt.Sprintf("%d/gradebook/file?format=csv", desk.Classes[len(desk.Classes)-1].ID)
}
