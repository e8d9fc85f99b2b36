package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/formats/dxf"
)

// board is a person at the drawing board; places are in millimetres with y
// upwards.
type board struct{ *person }

// picture keeps a picture in the folder that HAMMERSET_LOOK names, for looking at
// a screen by hand.
func (p *person) picture(name string) {
	if dir := os.Getenv("HAMMERSET_LOOK"); dir != "" {
		time.Sleep(600 * time.Millisecond)
		if err := os.WriteFile(filepath.Join(dir, name+".png"), p.MustScreenshot(), 0o644); err != nil {
			p.t.Fatal(err)
		}
	}
}

// openBoard opens a sketch and waits until it is looked over.
func (p *person) openBoard(path string) *board {
	p.t.Helper()
	p.open(path)
	p.MustElement("svg[role=application]")
	b := &board{p}
	b.settled()
	return b
}

// settled waits until the sketch has been looked over after the last change.
func (b *board) settled() {
	b.t.Helper()
	time.Sleep(150 * time.Millisecond)
	if err := b.Page.Timeout(90 * time.Second).
		Wait(rod.Eval(`() => !/Looking|Opening/.test(
			document.querySelector("button[title^=Freedoms]")?.textContent ?? "Opening")`)); err != nil {
		b.t.Fatalf("the sketch is not looked over: %v", err)
	}
}

// at gives the place on the page of a place in the sketch.
func (b *board) at(x, y float64) proto.Point {
	b.t.Helper()
	v := b.MustElement("svg[role=application]").
		MustEval(`(x, y) => { const r = this.getBoundingClientRect(), [a, b, w,
			h] = this.getAttribute("viewBox").split(" ").map(Number); return [r.left + (x - a) / w * r.width,
			r.top + (-y - b) / h * r.height] }`, x, y).Arr()
	return proto.NewPoint(v[0].Num(), v[1].Num())
}

func (b *board) to(x, y float64) {
	p := b.at(x, y)
	b.Mouse.MustMoveTo(p.X, p.Y)
	time.Sleep(90 * time.Millisecond)
}

func (b *board) click(x, y float64) {
	b.to(x, y)
	b.Mouse.MustDown(proto.InputMouseButtonLeft)
	b.Mouse.MustUp(proto.InputMouseButtonLeft)
	time.Sleep(160 * time.Millisecond)
}

func (b *board) pull(x0, y0, x1, y1 float64) {
	b.to(x0, y0)
	b.Mouse.MustDown(proto.InputMouseButtonLeft)
	for i := 1; i <= 8; i++ {
		f := float64(i) / 8
		b.to(x0+f*(x1-x0), y0+f*(y1-y0))
	}
	b.Mouse.MustUp(proto.InputMouseButtonLeft)
	b.settled()
}

func (b *board) keys(k ...input.Key) { b.Keyboard.MustType(k...) }

// value types into the field that a first key opens, and sets it.
func (b *board) value(first input.Key, rest string) {
	b.t.Helper()
	b.keys(first)
	b.MustElement("[role=dialog] input")
	if rest != "" {
		b.MustInsertText(rest)
	}
	b.keys(input.Enter)
	b.settled()
}

// do types an action's name into the quick-entry field.
func (b *board) do(name string) {
	b.t.Helper()
	b.MustElement("svg[role=application]").MustFocus()
	b.keys('q')
	b.MustElement(`[aria-label="What do you want to do?"]`)
	b.MustInsertText(name)
	time.Sleep(60 * time.Millisecond)
	b.keys(input.Enter)
	time.Sleep(150 * time.Millisecond)
}

// want waits for the sketch to have so many freedoms, in the words of the button.
func (b *board) want(freedom string) {
	b.t.Helper()
	got := ""
	for range 60 {
		b.settled()
		if got = b.MustElement("button[title^=Freedoms]").MustText(); got == freedom {
			return
		}
		time.Sleep(100 * time.Millisecond)
	}
	b.t.Errorf("the sketch is %q, want %q\n%s", got, freedom, b.MustElement("aside").MustText())
}

func (b *board) count(selector string) int { return len(b.MustElements(selector)) }

func (b *board) saved() {
	b.t.Helper()
	if _, err := b.Page.Timeout(90 * time.Second).Element("[data-save=saved]"); err != nil {
		b.t.Fatalf("the sketch is not saved: %s", b.MustElement("[data-save]").MustText())
	}
}

// stored reads a sketch step back from the server.
func stored(t *testing.T, c *client, id, step string) *sketch.Sketch {
	t.Helper()
	_, body := c.do("GET", "/api/models/"+id+"/sketches/"+step, "", "")
	s := &sketch.Sketch{}
	if err := json.Unmarshal([]byte(body), s); err != nil {
		t.Fatalf("%v: %s", err, cut(body))
	}
	return s
}

// TestSketching goes through everything about sketches in one running
// application.
func TestSketching(t *testing.T) {
	a := startApp(t)
	br := startBrowser(t)
	for _, c := range []struct {
		name string
		run  func(t *testing.T, a *app, br *rod.Browser)
	}{
		{"the drawing board", drawingBoard}, {"by keyboard", drawingBoardByKeyboard}, {"a quick hand", quickHand},
		{"two windows", twoWindowsOnOneSketch}, {"an imported drawing", importedDrawing},
		{"a model handed in", modelIsHandedIn},
	} {
		t.Run(c.name, func(t *testing.T) { c.run(t, a, br) })
	}
}

// drawingBoard draws a bracket's profile as people do: roughly, then sizes;
// looks at what is loose, makes a mistake and repairs it, tries a parameter,
// writes and reads files, and finds everything again after a reload.
func drawingBoard(t *testing.T, a *app, br *rod.Browser) {
	ada := signIn(t, br, a, "ada")

	// From the exercise to an empty sketch, with the sheet beside it.
	ada.open("/issues/1")
	ada.see("Model it here")
	ada.see("Bracket, begun") // the list is there, so that nothing moves under the hand
	ada.press("Start a model")
	ada.see("No step yet")
	model := regexp.MustCompile(`/models/(\d+)`).FindStringSubmatch(ada.MustInfo().URL)[1]
	m := &bench{ada}
	m.settled()
	m.press("Sketch")
	m.choose("Plane, from a list", "XY plane")
	m.size("Name of the step", "profile")
	m.press("Add the step")
	ada.MustElement("svg[role=application]")
	b := &board{ada}
	b.want("Empty")
	b.MustElement(`section[aria-label=Sheet] [data-characteristic="bore"]`)

	// Rough lines from the origin: level, plumb and closing are guessed and shown
	// before they are taken.
	b.keys('1')
	b.click(0.4, -0.3)
	b.to(60, 1.2)
	b.see("on the x axis")
	b.click(60, 1.2)
	b.to(60.6, 20)
	b.see("vertical")
	b.click(60.6, 20)
	b.click(21, 20.6)
	b.click(20.4, 52)
	b.click(0.5, 51.5)
	b.click(-0.4, 0.4)
	b.settled()
	b.picture("rough")
	b.keys(input.Escape)
	b.want("4 loose")
	if n := b.count(".k-region"); n != 1 {
		t.Errorf("%d regions are shaded", n)
	}
	if b.count(".k-curve .k-halo") == 0 || b.count(".k-arrows") == 0 || b.count(".k-mark.is-guessed") < 5 {
		t.Error("what is loose has no halo and arrows, or guesses are not marked")
	}

	// The first size scales it all: the shape keeps its proportions.
	b.click(30, 0)
	b.value('1', "20")
	b.want("3 loose")
	b.keys(input.Home)
	time.Sleep(300 * time.Millisecond)
	if s := b.MustElement(`.k-size text`).MustEval(`() => this.textContent`).Str(); s != "120" {
		t.Errorf("the size reads %q", s)
	}

	// Parameters, and sizes as formulas where they stand.
	b.find("[role=tab]", "Parameters").MustClick()
	b.MustElement(`[aria-label="Name of a new parameter"]`).MustInput("reach")
	b.MustElement(`[aria-label="Formula of a new parameter"]`).MustInput("120 mm -").MustType(input.Enter)
	b.find("[role=alert]", "character")
	b.MustElement(`[aria-label="Formula of a new parameter"]`).MustSelectAllText().MustInput("(120 - 15) mm").
		MustType(input.Enter)
	b.see("105 mm")
	b.settled()
	b.click(0, 50)
	b.value('=', "reach")
	b.want("2 loose")
	b.click(120, 20)
	b.value('4', "*10 mm")
	b.want("1 loose")

	// n leads to what is loose and lets it wiggle; pulling it keeps the rest.
	b.MustElement("svg[role=application]").MustFocus()
	b.keys('n')
	before := b.MustElement(".k-curve.is-loose .k-ink").MustAttribute("d")
	moved := false
	for range 20 {
		time.Sleep(60 * time.Millisecond)
		moved = moved || *b.MustElement(".k-curve.is-loose .k-ink").MustAttribute("d") != *before
	}
	if !moved {
		t.Error("what is loose does not wiggle")
	}
	time.Sleep(2500 * time.Millisecond)
	b.keys(input.Escape)
	b.pull(42, 70, 60, 70)
	b.want("1 loose")
	b.picture("pulled")
	b.click(21, 105) // the short side on top
	b.value('3', "/8 in + 25.475 mm")
	b.want("Held")
	b.find("[role=tab]", "Findings").MustClick()
	b.see("Nothing to put right")
	b.saved()

	// A contradiction changes nothing, is shown by a zigzag, and is repaired in one
	// step; undo takes all back one by one.
	b.click(60, 0)
	b.keys(input.Escape)
	b.click(80, 40)
	b.value('9', "9")
	b.want("Contradiction")
	b.MustElement(".k-zigzag") // it comes when the sketch has been looked over
	if b.count(".k-zigzag") != 1 || b.count(".k-size.is-bad") < 2 {
		t.Error("the contradiction is not shown")
	}
	b.see("These cannot hold together")
	b.picture("contradiction")
	b.find("li[data-finding=conflict] button", "be measured instead").MustClick()
	b.want("Held")
	b.press("Undo")
	b.want("Contradiction")
	b.press("Undo")
	b.want("Held")

	// The interval of a parameter is drawn on its slider; a value is tried, and put
	// back.
	b.find("[role=tab]", "Parameters").MustClick()
	b.press("Try values")
	b.see("Holds from 40")
	b.MustElement("[data-reach]")
	b.picture("reach")
	slider := b.MustElement(`[aria-label="Try reach"]`)
	slider.MustFocus()
	b.keys(input.ArrowRight, input.ArrowRight, input.ArrowRight)
	b.see("is tried")
	b.press("Put back")
	b.want("Held")

	// Files: DXF and SVG are written; what is written is the sketch.
	b.saved()
	b.do("Export as DXF")
	b.see("profile.dxf is written")

	// After a reload everything is as it was, and the server agrees on every point.
	id := model
	c := a.client("ada")
	kept := stored(t, c, id, "s1")
	b.MustReload()
	b.MustElement("svg[role=application]")
	b.want("Held")
	again := stored(t, c, id, "s1")
	one, _ := json.Marshal(kept)
	two, _ := json.Marshal(again)
	if string(one) != string(two) {
		t.Errorf("before the reload\n%s\nafter\n%s", one, two)
	}
	tab, err := quantity.Evaluate([]quantity.Parameter{{Name: "reach", Formula: "(120 - 15) mm"}},
		quantity.Millimetre, nil)
	if err != nil {
		t.Fatal(err)
	}
	sol, err := sketch.Solve(kept, 1, tab)
	if err != nil || !sol.Held() {
		t.Fatalf("the stored sketch: %v", err)
	}
	for _, e := range kept.Entities {
		if e.At != nil && sol.Points[e.ID].Distance(sketch.Vec{X: e.At[0], Y: e.At[1]}) > 1e-8 {
			t.Errorf("%s is stored at %v and solved at %v", e.ID, *e.At, sol.Points[e.ID])
		}
	}
	regions, _ := sketch.Regions(sol.Curves)
	if want := 120*40 + 65*35.0; len(regions) != 1 || regions[0].Area() < want-1e-6 || regions[0].Area() > want+1e-6 {
		t.Errorf("%d regions, the first of %g, want %g", len(regions), regions[0].Area(), want)
	}
}

// Two windows on one sketch: the later one is told, and loses nothing.
func twoWindowsOnOneSketch(t *testing.T, a *app, br *rod.Browser) {
	c := a.client("ada")
	id := startModel(t, c, `{"name":"Own","unit":"mm"}`, plainPlate)
	first := signIn(t, br, a, "ada").openBoard("/models/" + id + "/sketches/s1")
	second := signIn(t, br, a, "ada").openBoard("/models/" + id + "/sketches/s1")
	first.want("Held")
	first.click(10, 0)
	first.value('4', "4")
	first.do("Let the size") // nothing of a size is chosen: the name finds nothing
	first.keys(input.Escape)
	first.saved()
	second.keys('3')
	second.click(20, 11)
	second.click(25, 11)
	second.find("[role=alert]", "changed in another window")
	if _, body := c.do("GET", "/api/models/"+id, "", ""); strings.Contains(body, `"circle"`) {
		t.Error("the second window has written over the first")
	}
	second.press("Keep mine as a model of its own")
	second.see("Own (other window)")
	_, body := c.do("GET", "/api/models", "", "")
	if !strings.Contains(body, "Own (other window)") {
		t.Errorf("the second window's work is not kept: %s", body)
	}
}

// A DXF file becomes a sketch whose missing constraints are offered; taking all of
// a kind is one step. A damaged file says where, and changes nothing.
func importedDrawing(t *testing.T, a *app, br *rod.Browser) {
	c := a.client("ada")
	id := startModel(t, c, `{"name":"Read","unit":"mm"}`, `{"id":"s1","kind":"sketch","name":"read","plane":{"datum":"XY"},
	"entities":[],"constraints":[]}`)
	at := func(x, y float64) sketch.Vec { return sketch.Vec{X: x, Y: y} }
	file := filepath.Join(t.TempDir(), "strap.dxf")
	line := func(p, q sketch.Vec) sketch.Curve { return sketch.Curve{ID: "l", Kind: sketch.KindLine, A: p, B: q} }
	data := dxf.Write([]sketch.Curve{line(at(0, 0), at(50.8, 0)), line(at(50.8, 0), at(50.8, 25.4)),
		line(at(50.8, 25.4), at(0, 25.4)), line(at(0, 25.4), at(0, 0)),
		{ID: "c", Kind: sketch.KindCircle, Center: at(12.7, 12.7), Radius: 3},
		{ID: "d", Kind: sketch.KindCircle, Center: at(38.1, 12.7), Radius: 3}}, quantity.Inch)
	if err := os.WriteFile(file, data, 0o644); err != nil {
		t.Fatal(err)
	}
	b := signIn(t, br, a, "ada").openBoard("/models/" + id + "/sketches/s1")
	b.MustElement("input[type=file]").MustSetFiles(file)
	b.see("what belongs together is offered as findings")
	b.settled()
	b.picture("imported")
	if n := b.count("li[data-finding=apart]"); n < 5 {
		t.Errorf("%d ends are offered to be joined", n)
	}
	for _, kind := range []string{"apart", "slanted", "unsaid", "off-curve"} {
		for b.count("li[data-finding="+kind+"]") > 0 {
			item := b.MustElement("li[data-finding=" + kind + "]")
			buttons := item.MustElements(".btn")
			buttons[len(buttons)-1].MustClick() // all of this kind, where there are many
			b.settled()
		}
	}
	b.want("7 loose") // two sides of the plate, one radius, two places of the holes
	b.saved()
	if w := stored(t, c, id, "s1"); len(w.Entities) == 0 {
		t.Error("nothing is stored")
	}
	damaged := filepath.Join(t.TempDir(), "damaged.dxf")
	if err := os.WriteFile(damaged, data[:len(data)/2], 0o644); err != nil {
		t.Fatal(err)
	}
	curves := b.count(".k-curve")
	b.MustElement("input[type=file]").MustSetFiles(damaged)
	b.find("[role=alert]", "damaged.dxf: ")
	if n := b.count(".k-curve"); n != curves {
		t.Errorf("%d curves of %d after a damaged file", n, curves)
	}
}

// A hand that is quicker than the page loses no place: six are put and the tool is left
// while the page draws at an eighth of its pace.
func quickHand(t *testing.T, a *app, br *rod.Browser) {
	c := a.client("ada")
	id := startModel(t, c, `{"name":"Quick","unit":"mm"}`, `{"id":"s1","kind":"sketch","name":"quick",
	"plane":{"datum":"XY"},"entities":[],"constraints":[]}`)
	b := signIn(t, br, a, "ada").openBoard("/models/" + id + "/sketches/s1")
	b.do("Draw: Line")
	var places []proto.Point
	for i, y := range []float64{3, 31, -17, 23, -9, 13} {
		places = append(places, b.at(float64(13*i-30), y))
	}
	if err := (proto.EmulationSetCPUThrottlingRate{Rate: 8}).Call(b.Page); err != nil {
		t.Fatal(err)
	}
	if err := b.Keyboard.Press(input.AltLeft); err != nil { // no guesses
		t.Fatal(err)
	}
	for _, p := range places {
		b.Mouse.MustMoveTo(p.X, p.Y)
		b.Mouse.MustDown(proto.InputMouseButtonLeft)
		b.Mouse.MustUp(proto.InputMouseButtonLeft)
	}
	if err := b.Keyboard.Release(input.AltLeft); err != nil {
		t.Fatal(err)
	}
	b.keys(input.Escape, input.Escape)
	if err := (proto.EmulationSetCPUThrottlingRate{Rate: 1}).Call(b.Page); err != nil {
		t.Fatal(err)
	}
	b.MustElement("svg[data-mode=choose]")
	b.want("12 loose")
	if n := b.count(".k-curve"); n != 5 {
		t.Errorf("%d lines of 5", n)
	}

	// A value typed before the core has looked at the click belongs to what the click chooses, and is no key of a tool.
	pause := b.coreDebugger()
	for i := range 2 {
		line := b.MustElements(".k-curve .k-ink")[i].MustEval(`() => {
			const p = this.getPointAtLength(this.getTotalLength() / 3).matrixTransform(this.getScreenCTM());
			return [p.x, p.y] }`).Arr()
		b.Mouse.MustMoveTo(line[0].Num(), line[1].Num())
		pause("Debugger.pause")
		b.Mouse.MustDown(proto.InputMouseButtonLeft)
		b.Mouse.MustUp(proto.InputMouseButtonLeft)
		b.keys('9', input.Enter)
		pause("Debugger.resume")
		b.want(fmt.Sprint(11-i, " loose"))
		b.keys(input.Escape)
	}
}

// coreDebugger gives what stops the sketch core, as a machine under load does, and lets it go on.
func (b *board) coreDebugger() func(method string) {
	b.t.Helper()
	attached := &proto.TargetAttachedToTarget{}
	wait := b.WaitEvent(attached)
	if err := (proto.TargetSetAutoAttach{AutoAttach: true, Flatten: true}).Call(b.Page); err != nil {
		b.t.Fatal(err)
	}
	wait()
	send := func(method string) {
		b.t.Helper()
		if _, err := b.Browser().Call(b.GetContext(), string(attached.SessionID), method, nil); err != nil {
			b.t.Fatal(method, err)
		}
	}
	send("Debugger.enable")
	return send
}

// The keyboard does everything: a tool, places by typing and by the cursor, the
// next thing, a constraint under the hand, removing, undoing.
func drawingBoardByKeyboard(t *testing.T, a *app, br *rod.Browser) {
	c := a.client("ada")
	id := startModel(t, c, `{"name":"Keys","unit":"in"}`, `{"id":"s1","kind":"sketch","name":"keys","plane":{"datum":"XY"},
	"entities":[],"constraints":[]}`)
	b := signIn(t, br, a, "ada").openBoard("/models/" + id + "/sketches/s1")
	b.MustElement("svg[role=application]").MustFocus()
	place := func(first input.Key, rest string) {
		t.Helper()
		b.value(first, rest)
	}
	b.do("Draw: Line")
	place('0', "; 0")
	b.MustElement("svg[role=application]").MustFocus()
	for range 12 {
		b.keys(input.ArrowRight)
	}
	b.keys(input.ArrowUp, input.Enter)
	b.settled()
	b.keys(input.Escape, input.Escape)
	b.want("2 loose")
	b.keys('.')
	b.find("[role=toolbar]", "line")
	b.find("[role=toolbar] button", "horizontal")
	offered := b.MustElement(`[aria-label="What can be put on what is chosen"]`).MustText()
	key := regexp.MustCompile(`(?s)([a-l])\s*horizontal`).FindStringSubmatch(offered)
	if key == nil {
		t.Fatalf("horizontal is not offered: %s", offered)
	}
	b.keys(input.Key(key[1][0]))
	b.want("1 loose")
	b.value('5', "/4 in")
	b.want("Held")
	b.keys(input.Escape)
	b.keys('3')
	b.keys(input.ArrowUp, input.ArrowUp, input.ArrowRight, input.Enter)
	time.Sleep(250 * time.Millisecond)
	b.keys(input.ArrowUp, input.ArrowUp, input.Enter)
	b.settled()
	if n := b.count(".k-curve"); n != 2 {
		t.Errorf("%d curves", n)
	}
	b.keys(input.Escape, input.Escape)
	b.keys(',')
	time.Sleep(150 * time.Millisecond)
	b.keys('?')
	b.see("Keys of the drawing board")
	b.keys(input.Enter)
	b.MustElement("svg[role=application]").MustFocus()
	b.keys(input.ControlLeft)
	if err := b.KeyActions().Press(input.ControlLeft).Type(input.KeyZ).Do(); err != nil {
		t.Fatal(err)
	}
	b.settled()
	if n := b.count(".k-curve"); n != 1 {
		t.Errorf("%d curves after undoing", n)
	}
	b.saved()
}
