package e2e

import (
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// box is where the first shape that a selector finds is on the screen.
func (p *person) box(selector string) (x, y, width, height float64) {
	p.t.Helper()
	q := p.MustElement(selector).MustShape().Box()
	return q.X, q.Y, q.Width, q.Height
}

// drag takes hold of a place and lets go somewhere else, as a hand does.
func (p *person) drag(x, y, dx, dy float64) {
	p.t.Helper()
	m := p.Page.Mouse
	m.MustMoveTo(x, y)
	m.MustDown(proto.InputMouseButtonLeft)
	for i := 1; i <= 8; i++ {
		m.MustMoveTo(x+dx*float64(i)/8, y+dy*float64(i)/8)
	}
	m.MustUp(proto.InputMouseButtonLeft)
}

// still waits until what was done is drawn.
func (p *person) still(state string) {
	p.t.Helper()
	p.find("[role=toolbar] [role=status]", state)
}

// until waits for what a script says.
func (p *person) until(script string) {
	p.t.Helper()
	if err := p.Page.Timeout(20 * time.Second).Wait(rod.Eval("() => " + script)); err != nil {
		p.t.Fatalf("not before long: %s\n%s", script, p.MustElement("body").MustText())
	}
}

// A sheet is laid out by hand: a dimension is dragged and put on the other side, a view is dragged and the one in line
// with it follows, all of it can be undone and is there again after leaving; it is nudged by keys, saved as a version,
// and its draft is one draft in every window and in every hand.
func TestSheetLaidOutByHand(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	teacher := signIn(t, b, a, "ottoline")
	teacher.open("/exercises/1")
	teacher.find("[role=tab]", "Lay out").MustClick()
	teacher.still("As saved")
	// The text of the overall width, below the front view.
	const width = `.sheet [data-mark="m1"][data-characteristic="width"][stroke="none"]:has(title)`
	x, y, w, h := teacher.box(width)
	teacher.drag(x+w/2, y+h/2, 0, 40)
	teacher.still("A draft, not saved yet")
	if _, now, _, _ := teacher.box(width); math.Abs(now-(y+40)) > 4 {
		t.Errorf("the width was dragged from %g by 40 and stands at %g", y, now)
	}
	teacher.press("Undo")
	teacher.until(`Math.abs(document.querySelector('` + width + `').getBoundingClientRect().top - ` +
		number(y) + `) < 1`)
	teacher.press("Redo")
	teacher.press("To the other side")
	teacher.until(`document.querySelector('` + width + `').getBoundingClientRect().top < ` + number(y-100))
	teacher.press("Undo")
	teacher.still("A draft, not saved yet")

	// Where the server cannot be reached it is laid out all the same, and carried out when it is there again.
	ex, ey, _, _ := teacher.box(width)
	teacher.line(true, 0)
	teacher.drag(ex+w/2, ey+h/2, 0, 20)
	teacher.until(`[...document.querySelectorAll('` + width + `')].some((e) => e.style.visibility === "" && ` +
		`Math.abs(e.getBoundingClientRect().top - ` + number(ey+20) + `) < 4)`)
	teacher.find("[role=alert]", "server")
	teacher.line(false, 0)
	teacher.until(`!document.querySelector("[role=alert]")`)
	teacher.still("A draft, not saved yet")
	teacher.press("Undo")
	teacher.until(`Math.abs(document.querySelector('` + width + `').getBoundingClientRect().top - ` +
		number(ey) + `) < 1`)

	// The front view goes to the right, and the view from above with it.
	outline := func(view string) (float64, float64) {
		x, y, _, _ := teacher.box(`.sheet .s-visible[data-view="` + view + `"]`)
		return x, y
	}
	fx, fy := outline("front")
	tx, ty := outline("top")
	vx, vy, vw, vh := teacher.box(`.sheet circle.s-visible[data-view="front"]`)
	teacher.drag(vx+vw/2, vy+vh/2, 30, 0)
	teacher.until(`Math.abs(document.querySelector('.sheet .s-visible[data-view="top"]')` +
		`.getBoundingClientRect().left - ` + number(tx+30) + `) < 3`)
	if x, y := outline("front"); math.Abs(x-fx-30) > 3 || math.Abs(y-fy) > 3 {
		t.Errorf("the front view was dragged by 30 from %g, %g and stands at %g, %g", fx, fy, x, y)
	}
	if x, y := outline("top"); math.Abs(x-tx-30) > 3 || math.Abs(y-ty) > 3 {
		t.Errorf("the view from above went from %g, %g to %g, %g", tx, ty, x, y)
	}
	teacher.picture("lay-out")

	// Left at once after the last press of a key, and found again.
	teacher.MustElement("[role=application]").MustFocus()
	const onPaper = `document.querySelector('.sheet .s-visible[data-view="front"]').getBBox().x`
	before := teacher.MustEval("() => " + onPaper).Num()
	teacher.Keyboard.MustType(input.ArrowRight)
	teacher.open("/")
	teacher.open("/exercises/1?tab=layout")
	teacher.find("body", "is here again; it is not saved yet")
	teacher.until(`Math.abs(` + onPaper + ` - ` + number(before+1) + `) < 0.01`)
	teacher.press("Save as a new version")
	teacher.find("h1", "version 2")
	teacher.still("As saved")

	// The draft is one, wherever it is opened: another window of the same person goes on with it.
	second := signIn(t, b, a, "ottoline")
	second.open("/exercises/1?tab=layout")
	second.still("As saved")
	teacher.press("New note")
	teacher.still("A draft, not saved yet")
	second.press("New note") // which it saw nothing of yet
	second.still("A draft, not saved yet")
	second.until(notes(2))
	second.press("Undo")
	second.until(notes(1))
	teacher.until(notes(1))

	// Somebody else sees it, and takes it over on purpose; the first one can then only look.
	other := signIn(t, b, a, "registrar")
	other.open("/exercises/1?tab=layout")
	other.find("[role=note]", "Ottoline Brack works on this exercise")
	other.until(notes(1))
	other.find("[role=tab]", "Sheet").MustClick()
	other.find("[role=note]", "Ottoline Brack works on a draft of this exercise")
	other.find("[role=tab]", "Edit").MustClick()
	other.see("Add a characteristic")
	other.find("[role=note]", "Ottoline Brack works on this exercise")
	// On a slow line the hand is ahead of the server: what was typed is in what is saved on the next page.
	other.line(false, 400)
	other.press("Take it over")
	other.until(`!document.querySelector("[inert]")`)
	other.find("label", "Task").MustElement("textarea").MustInput(" Mind the width.")
	other.find("[role=tab]", "Lay out").MustClick() // at once
	teacher.find("[role=note]", "works on this exercise")
	other.still("A draft, not saved yet")
	other.press("Save as a new version")
	other.find("h1", "version 3")
	other.line(false, 0)
	// The characteristics and the layout are one draft.
	_, answer := a.client("ottoline").do("GET", "/api/exercises/1/draft", "", "")
	if !strings.Contains(answer, "Mind the width.") {
		t.Error("the task that was changed beside the layout is not in the version")
	}
	teacher.find("h1", "version 3")
	teacher.still("As saved")
	teacher.until(notes(1))
	if _, answer := a.client("ottoline").do("GET", "/api/exercises/1/bundle", "", ""); !strings.HasPrefix(answer, "PK") {
		t.Error("the exercise cannot be exported any more")
	}

	// The class that works from the first version gets the new sheet on purpose alone, and is told.
	teacher.open("/issues/1/recheck")
	teacher.see("only the sheet or the marks differ")
	teacher.find("li", "Version 3").MustElementR("button", "Give the class").MustClick()
	teacher.find("label", "What the students are told").MustElement("textarea").MustInput("The width stands above now.")
	teacher.press("Change the sheet and tell the class")
	teacher.see("Version 4") // with the revision index in its title block
	student := signIn(t, b, a, "ada")
	student.find("[role=note]", "revision B")
	student.see("The width stands above now.")
	student.open("/issues/1")
	student.find("section", "The sheet was changed").MustElementR("p", "Revision B")
	student.until(`[...document.querySelectorAll(".sheet path, .sheet text, .sheet title")].length > 100`)
	if _, sheet := a.client("ada").do("GET", "/api/issues/1/sheet", "", ""); !strings.Contains(sheet, "Note") {
		t.Error("the issue has not the new sheet")
	}
}

// notes says that so many notes stand on the sheet.
func notes(n int) string {
	return `[...document.querySelectorAll('.sheet title')].filter((t) => t.textContent === "Note").length === ` +
		strconv.Itoa(n)
}

// barePlate is a plate of 80 by 50 by 12 with two holes of 8, as a model document.
const barePlate = `{"hammerset":"model/1","name":"Sole plate","unit":"mm","parameters":[],"steps":[
	{"id":"s1","kind":"sketch","plane":{"datum":"XY"},"constraints":[],"entities":[
		{"id":"a","kind":"point","at":[0,0]},{"id":"b","kind":"point","at":[80,0]},{"id":"c","kind":"point","at":[80,50]},
		{"id":"d","kind":"point","at":[0,50]},{"id":"ab","kind":"line","from":"a","to":"b"},
		{"id":"bc","kind":"line","from":"b","to":"c"},{"id":"cd","kind":"line","from":"c","to":"d"},
		{"id":"da","kind":"line","from":"d","to":"a"},{"id":"m","kind":"point","at":[20,30]},
		{"id":"n","kind":"point","at":[60,30]},{"id":"h","kind":"circle","center":"m","radius":4},
		{"id":"k","kind":"circle","center":"n","radius":4}]},
	{"id":"e1","kind":"extrude","name":"plate","sketch":"s1","regions":"all",
		"extent":{"kind":"one-side","length":"12 mm"}}]}`

// A bare plate with holes becomes an exercise that is issued: by mouse alone, and by keys alone.
func TestBarePlate(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	t.Run("by mouse", func(t *testing.T) { dimensionedByMouse(t, a, b) })
	t.Run("by keys", func(t *testing.T) { dimensionedByKeys(t, a, b) })
	t.Run("on the reference", func(t *testing.T) { dimensionedOnTheReference(t, a, b) })
}

// layOutPlate makes an exercise of the bare plate and opens its sheet.
func layOutPlate(t *testing.T, a *app, b *rod.Browser) (p *person, id string) {
	t.Helper()
	return layOutModel(t, a, b, barePlate)
}

// layOutModel makes an exercise of a model document and opens its sheet.
func layOutModel(t *testing.T, a *app, b *rod.Browser, doc string) (p *person, id string) {
	t.Helper()
	kind, body := upload(t, "sole plate.json", []byte(doc))
	code, answer := a.client("ottoline").do("POST", "/api/exercises", kind, body)
	found := regexp.MustCompile(`"id":(\d+),"issues":\[\]`).FindStringSubmatch(answer)
	if code != 201 || found == nil {
		t.Fatalf("the exercise: %d %s", code, cut(answer))
	}
	p = signIn(t, b, a, "ottoline")
	p.open("/exercises/" + found[1] + "?tab=layout")
	p.still("As saved")
	return p, found[1]
}

// determined saves the sheet, wants nothing missing on it, and nothing twice or hidden, and issues the exercise.
func (p *person) determined(a *app, id string) {
	p.t.Helper()
	p.press("Save as a new version")
	p.find("h1", "version 2")
	_, answer := a.client("ottoline").do("GET", "/api/exercises/"+id+"/audit", "", "")
	for _, kind := range []string{"missing", "twice", "unseen", "contradicting"} {
		if strings.Contains(answer, `"kind":"`+kind+`"`) {
			p.t.Errorf("the plate is not determined: %s", answer)
		}
	}
	p.find("[role=tab]", "Sheet").MustClick()
	p.find("section[aria-label='Issue to a class'] button", "Issue …").MustClick()
	p.press("Issue it")
	p.find("p[role=status]", "Issued to ")
}

// Its sizes are dimensioned by picking edges, a section is pulled across a view and a detail drawn around a hole.
func dimensionedByMouse(t *testing.T, a *app, b *rod.Browser) {
	p, id := layOutPlate(t, a, b)

	// where is the rectangle around the outline of a view.
	where := func(view string) (left, top, right, bottom float64) {
		r := p.MustEval(`(view) => {
			const b = [...document.querySelectorAll(".sheet .s-visible[data-view='" + view + "']")]
				.map((e) => e.getBoundingClientRect())
			return [Math.min(...b.map((r) => r.left)), Math.min(...b.map((r) => r.top)),
				Math.max(...b.map((r) => r.right)), Math.max(...b.map((r) => r.bottom))] }`, view).Arr()
		return r[0].Num(), r[1].Num(), r[2].Num(), r[3].Num()
	}
	type at struct{ x, y float64 }
	click := func(to at) {
		p.Page.Mouse.MustMoveTo(to.x, to.y)
		p.Page.Mouse.MustDown(proto.InputMouseButtonLeft)
		p.Page.Mouse.MustUp(proto.InputMouseButtonLeft)
	}
	put := func(text string, down at, picks ...at) {
		t.Helper()
		for _, q := range picks {
			click(q)
			p.until(`!document.body.innerText.includes("Looking …")`)
		}
		p.find("fieldset label", strings.TrimPrefix(text, "2× "))
		click(down)
		p.until(`[...document.querySelectorAll(".sheet title")].some((e) => e.textContent === "` + text + `")`)
	}
	p.find("button[role=radio]", "Dimension").MustClick()
	l, u, r, d := where("top")
	across, up := (l+r)/2, (u+d)/2
	k := (r - l) / 80 // pixels for a millimetre of the part
	hole := func(x float64) at { return at{l + (x+4)*k, d - 30*k} }
	put("80", at{across, d + 30}, at{l, up}, at{r, up})
	put("50", at{l - 30, up}, at{across, u}, at{across, d})
	put("2× ⌀8", at{r + 30, u - 20}, hole(60))
	put("20", at{l + 10*k, d + 14}, at{l, up}, hole(20))
	put("40", at{across, u - 20}, hole(20), hole(60))
	put("30", at{l - 14, up}, at{across, d}, hole(20))
	p.picture("dimensioned")
	// What is left is said beside the sheet, and stated by one press.
	p.find("section li", "Missing.")
	p.find("button", "State it").MustClick()
	p.until(`[...document.querySelectorAll(".sheet title")].some((e) => e.textContent === "12")`)
	p.until(`!document.body.innerText.includes("Missing.")`)
	p.severalMoved()
	p.find("button[role=radio]", "Section").MustClick()
	p.drag(l-14, d-30*k, r-l+28, 3)
	p.find("button", "Section A–A, from the front").MustClick()
	p.find("label", "Cut").MustElement("select").MustSelect("turned into its view")
	p.find("button", "Section turned into its view, from the front")
	p.press("Undo")
	p.find("button", "Section A–A, from the front")
	// A piece is broken out of the view from the front, around a hole, and closed again.
	fl, _, _, fd := where("front")
	p.find("button[role=radio]", "Local section").MustClick()
	p.drag(fl+20*k, fd-6*k, 9*k, 0)
	p.find("button", "From the front, with a local section").MustClick()
	p.until(`document.querySelectorAll(".sheet .s-hatch[data-view=front]").length > 3`)
	p.picture("local")
	p.press("Close the local section")
	p.until(`document.querySelectorAll(".sheet .s-hatch[data-view=front]").length === 0`)
	p.find("button[role=radio]", "Detail").MustClick()
	p.drag(l+20*k, d-30*k, 5*k, 0)
	p.find("button", "Detail B")
	p.press("Undo")
	p.until(`!document.body.innerText.includes("Detail B")`)
	p.picture("cut")
	p.ontoASecondSheet()
	p.determined(a, id)
	p.until(`document.querySelectorAll(".sheet-set .s-paper").length === 2`)
	p.picture("set")
	p.longer()
}

// Beside the sheet two faces of the reference are picked, and their distance is put down in the view that shows it;
// what is missing is shown by how it moves.
func dimensionedOnTheReference(t *testing.T, a *app, b *rod.Browser) {
	p, _ := layOutPlate(t, a, b)
	p.press("Reference beside it")
	p.find("label", "Reference")
	p.press("Show how it moves")
	p.until(`[...document.querySelectorAll(".sheet [data-faces]")].some((e) =>
		e.getAnimations().some((a) => a.playState === "running"))`)
	for _, from := range []string{"Top", "Below"} {
		p.find("label", "View").MustElement("select").MustSelect(from)
		x, y, w, h := p.box("[data-part-view] canvas")
		p.Page.Mouse.MustMoveTo(x+w/2, y+h/2)
		p.Page.Mouse.MustDown(proto.InputMouseButtonLeft)
		p.Page.Mouse.MustUp(proto.InputMouseButtonLeft)
		if from == "Top" {
			p.find("section", "New dimension").MustElementR("p", "Pick a second face")
		}
	}
	p.find("fieldset label", "12")
	p.picture("faces-picked")
	x, y, _, h := p.box(`.sheet .s-visible[data-view="front"]`)
	p.Page.Mouse.MustMoveTo(x-40, y+h/2)
	p.Page.Mouse.MustDown(proto.InputMouseButtonLeft)
	p.Page.Mouse.MustUp(proto.InputMouseButtonLeft)
	p.until(`[...document.querySelectorAll(".sheet title")].some((e) => e.textContent === "12")`)
	p.find("button[aria-pressed]", "Distance, ")
}

// ontoASecondSheet puts the section onto a sheet of its own, and looks at both.
func (p *person) ontoASecondSheet() {
	p.t.Helper()
	text := func(s string) string {
		return `[...document.querySelectorAll(".sheet title")].some((e) => e.textContent === "` + s + `")`
	}
	p.press("Add a sheet")
	p.find("[role=radio][aria-checked=true]", "Sheet 2")
	p.find("button[role=radio]", "Sheet 1").MustClick()
	p.until(text("1 / 2"))
	p.find("button", "Section A–A, from the front").MustClick()
	p.find("label", "On sheet").MustElement("select").MustSelect("2")
	p.until(text("A–A from sheet 1"))
	p.until(text("2 / 2"))
	p.picture("second-sheet")
	p.press("As students see it")
	p.until(`document.querySelectorAll(".sheet-set .s-paper").length === 2`)
	p.press("As students see it")
	p.find("button[role=radio]", "Sheet 1").MustClick()
	p.until(text("sheet 2"))
}

// severalMoved gives the length a tolerance, chooses another size with Shift, moves both in one drag, undoes that, and
// looks at the sheet as students see it.
func (p *person) severalMoved() {
	p.t.Helper()
	middle := func(text string) (x, y float64) {
		q := p.MustEval(`(text) => {
			const e = [...document.querySelectorAll(".sheet [data-mark]")].find((e) => e.textContent.trim() === text)
			const b = e.getBoundingClientRect()
			return [b.left + b.width / 2, b.top + b.height / 2] }`, text).Arr()
		return q[0].Num(), q[1].Num()
	}
	click := func(x, y float64) {
		p.Page.Mouse.MustMoveTo(x, y)
		p.Page.Mouse.MustDown(proto.InputMouseButtonLeft)
		p.Page.Mouse.MustUp(proto.InputMouseButtonLeft)
	}
	p.find("button[role=radio]", "Move").MustClick()
	click(middle("80"))
	p.MustElement("select[aria-label=Tolerance]").MustSelect("deviations")
	p.find("button", "Set").MustClick()
	p.until(`[...document.querySelectorAll(".sheet title")].some((e) => e.textContent === "80 ±0.1")`)
	x, y := middle("80 ±0.1")
	click(x, y)
	other, up := middle("50")
	if err := p.Page.Keyboard.Press(input.ShiftLeft); err != nil {
		p.t.Fatal(err)
	}
	click(other, up)
	if err := p.Page.Keyboard.Release(input.ShiftLeft); err != nil {
		p.t.Fatal(err)
	}
	p.drag(other, up, 0, 24)
	moved := func(text string, from float64) string {
		return `[...document.querySelectorAll(".sheet [data-mark]")].some((e) => e.textContent.trim() === "` + text +
			`" && Math.abs(e.getBoundingClientRect().top + e.getBoundingClientRect().height / 2 - ` + number(from+24) + `) < 6)`
	}
	p.until(moved("80 ±0.1", y))
	p.until(moved("50", up))
	p.press("Undo")
	p.until("!" + moved("50", up))
	p.press("As students see it")
	p.until(`!document.querySelector("[role=application][data-tool]") && !!document.querySelector(".sheet-ground svg")`)
	p.press("As students see it")
}

// longer takes a STEP file of a longer plate as the reference: what is stated otherwise is shown before it counts.
func (p *person) longer() {
	p.t.Helper()
	dir := p.t.TempDir()
	model, file := filepath.Join(dir, "plate.json"), filepath.Join(dir, "longer plate.step")
	longer := strings.NewReplacer("[80,0]", "[84,0]", "[80,50]", "[84,50]").Replace(barePlate)
	if err := os.WriteFile(model, []byte(longer), 0o644); err != nil {
		p.t.Fatal(err)
	}
	hammerset := filepath.Join(root(p.t), "bin/hammerset")
	if out, err := exec.Command(hammerset, "rebuild", model, "--step", file).CombinedOutput(); err != nil {
		p.t.Fatalf("%v: %s", err, out)
	}
	p.find("[role=tab]", "Lay out").MustClick()
	p.still("As saved")
	p.MustElement("input[aria-label='Other reference']").MustSetFiles(file)
	p.find("dialog", "80 becomes 84")
	p.picture("other-reference")
	p.press("Take it as version 3")
	p.find("h1", "version 3")
	p.until(`[...document.querySelectorAll(".sheet title")].some((e) => e.textContent.startsWith("84"))`)
}

// By keys the lines are gone through one by one; the second plate is as good as the first.
func dimensionedByKeys(t *testing.T, a *app, b *rod.Browser) {
	p, id := layOutPlate(t, a, b)
	hold := func(tool string) {
		t.Helper()
		p.find("button[role=radio]", tool).MustFocus()
		p.Keyboard.MustType(input.Enter)
		p.MustElement("[role=application]").MustFocus()
	}
	// to goes on to the line at a place of a view: between 0 and 1 across it from the left, and up it.
	to := func(view string, x, y float64) {
		t.Helper()
		for range 80 {
			p.Keyboard.MustType('.')
			if p.MustEval(`(view, x, y) => {
				const b = [...document.querySelectorAll(".sheet .s-visible[data-view='" + view + "']")]
					.map((e) => e.getBoundingClientRect())
				const [l, u] = [Math.min(...b.map((r) => r.left)), Math.min(...b.map((r) => r.top))]
				const [r, d] = [Math.max(...b.map((r) => r.right)), Math.max(...b.map((r) => r.bottom))]
				const hot = document.querySelector(".sheet .hot[data-view='" + view + "']")?.getBoundingClientRect()
				return !!hot && Math.abs((hot.left + hot.right) / 2 - l - x * (r - l)) < 3 &&
					Math.abs((hot.top + hot.bottom) / 2 - d + y * (d - u)) < 3 }`, view, x, y).Bool() {
				return
			}
		}
		t.Fatalf("no line at %g, %g of the view %s is come to", x, y, view)
	}
	type at struct{ x, y float64 }
	put := func(view, text string, picks ...at) {
		t.Helper()
		for _, q := range picks {
			to(view, q.x, q.y)
			p.Keyboard.MustType(input.Space)
			p.until(`!document.body.innerText.includes("Looking …")`)
		}
		p.find("fieldset label", strings.TrimPrefix(text, "2× "))
		p.Keyboard.MustType(input.Enter)
		p.until(`[...document.querySelectorAll(".sheet title")].some((e) => e.textContent === "` + text + `")`)
	}
	hold("Dimension")
	left, right, lower, upper := at{0, 0.5}, at{1, 0.5}, at{0.5, 0}, at{0.5, 1}
	first, second := at{0.25, 0.6}, at{0.75, 0.6}
	put("top", "80", left, right)
	put("top", "50", lower, upper)
	put("top", "2× ⌀8", first)
	put("top", "20", left, first)
	put("top", "40", first, second)
	put("top", "30", lower, first)
	put("front", "12", lower, upper)
	hold("Section")
	to("top", first.x, first.y)
	p.Keyboard.MustType(input.Enter)
	p.find("button", "Section A–A, from the front")
	p.picture("by-keys")
	p.determined(a, id)
}

func number(v float64) string { return strconv.FormatFloat(v, 'f', 2, 64) }

// disc is a disc of 80 by 10 with a bore of 20 and two holes of 8 a third of a turn apart, as a model document.
const disc = `{"hammerset":"model/1","name":"Clamp disc","unit":"mm","parameters":[],"steps":[
	{"id":"s1","kind":"sketch","plane":{"datum":"XY"},"constraints":[],"entities":[
		{"id":"o","kind":"circle","center":"origin","radius":40},{"id":"i","kind":"circle","center":"origin","radius":10},
		{"id":"m","kind":"point","at":[28,0]},{"id":"n","kind":"point","at":[-14,24.2487]},
		{"id":"h","kind":"circle","center":"m","radius":4},{"id":"k","kind":"circle","center":"n","radius":4}]},
	{"id":"e1","kind":"extrude","name":"disc","sketch":"s1","regions":"all",
		"extent":{"kind":"one-side","length":"10 mm"}}]}`

// What is chosen on a sheet is changed beside it, by mouse: a section goes through two features in two planes that are
// turned into one, a view is moved by itself, arrows stand outside, a frame has other letters of datums.
func TestChosenOnTheSheet(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	p, _ := layOutModel(t, a, b, disc)
	p.press("State all that is missing")
	p.until(`!document.body.innerText.includes("Missing.")`)
	p.still("A draft, not saved yet")
	middle := func(selector string) (x, y, w, h float64) {
		x, y, w, h = p.box(selector)
		return x + w/2, y + h/2, w, h
	}
	click := func(x, y float64) {
		p.Page.Mouse.MustMoveTo(x, y)
		p.Page.Mouse.MustDown(proto.InputMouseButtonLeft)
		p.Page.Mouse.MustUp(proto.InputMouseButtonLeft)
	}
	const outline = `.sheet circle.s-visible[data-view="top"]`
	x, y, w, _ := middle(outline)
	k := w / 80
	p.find("button[role=radio]", "Section").MustClick()
	p.drag(x-50*k, y, 100*k, 0)
	p.find("button", "Section A–A, from the front").MustClick()
	p.press("Step it to another feature")
	click(x-14*k+4*k, y-24.2487*k)
	p.find("label", "turned into one plane").MustElement("select").MustSelect("turned into one plane")
	p.still("A draft, not saved yet")
	p.picture("turned")
	p.find("button", "Section A–A, from the front")
	hatched := `document.querySelectorAll('.sheet .s-hatch').length > 5`
	p.until(hatched)

	// The view from above by itself: the section stays where it is.
	sx, sy, _, _ := p.box(`.sheet .s-hatch`)
	p.find("button", "From above").MustClick()
	p.find("label", "moved by itself").MustElement("input").MustClick()
	p.still("A draft, not saved yet")
	p.drag(x+0.7*40*k, y-0.7*40*k, 24, 0)
	p.until(`Math.abs(document.querySelector('` + outline + `').getBoundingClientRect().left - ` +
		number(x-w/2+24) + `) < 4`)
	p.still("A draft, not saved yet")
	if nx, ny, _, _ := p.box(`.sheet .s-hatch`); math.Abs(nx-sx) > 3 || math.Abs(ny-sy) > 3 {
		t.Errorf("the section went from %g, %g to %g, %g with a view that is moved by itself", sx, sy, nx, ny)
	}
	p.find("button", "Distance, underside of disc").MustClick()
	p.find("label", "Arrows").MustElement("select").MustSelect("outside")
	p.until(`document.querySelector("[aria-label=Arrows]")?.value === "outside" ||
		[...document.querySelectorAll("select")].some((s) => s.value === "outside")`)
	p.still("A draft, not saved yet")
	p.picture("chosen")
}
