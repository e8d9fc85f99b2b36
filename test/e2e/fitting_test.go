package e2e

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"hammerset/core/assembly"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/formats/stl"
	"hammerset/formats/threemf"
	"hammerset/test/samples"
)

// fitter is a person at the fitting screen.
type fitter struct{ *person }

func (p *person) openFitting(path string) *fitter {
	p.t.Helper()
	if path != "" {
		p.open(path)
	}
	p.MustElement("[data-fitting-view] canvas")
	f := &fitter{p}
	f.rest()
	return f
}

// startAssembly starts an empty assembly and opens it.
func (p *person) startAssembly(name string) *fitter {
	p.t.Helper()
	p.open("/models")
	p.find("section[aria-label='A new assembly'] label", "Name of the assembly").MustElement("input").MustInput(name)
	p.press("Start an assembly")
	return p.openFitting("")
}

// rest waits until the picture stands and everything is saved.
func (f *fitter) rest() {
	f.t.Helper()
	time.Sleep(600 * time.Millisecond)
	f.find("[role=status]", "Saved")
}

// seek moves the mouse over the view, in rings around a place of it (shares of its width and height), until the line
// below says what it is over, and gives the place.
func (f *fitter) seek(words string, x, y float64) proto.Point {
	f.t.Helper()
	box := f.MustElement("[data-fitting-view] canvas").MustShape().Box()
	for ring := range 40 {
		around := max(1, 6*ring)
		for k := range around {
			sin, cos := math.Sincos(2 * math.Pi * float64(k) / float64(around))
			at := proto.Point{X: box.X + x*box.Width + 11*float64(ring)*cos, Y: box.Y + y*box.Height + 11*float64(ring)*sin}
			if at.X < box.X || at.X > box.X+box.Width || at.Y < box.Y || at.Y > box.Y+box.Height {
				continue
			}
			f.Mouse.MustMoveTo(at.X, at.Y)
			if strings.Contains(f.MustElement("[data-hint]").MustText(), words) {
				return at
			}
		}
	}
	f.t.Fatalf("nothing in the view is %q", words)
	return proto.Point{}
}

func (f *fitter) pick(words string, x, y float64) {
	f.t.Helper()
	f.seek(words, x, y)
	f.Mouse.MustClick(proto.InputMouseButtonLeft)
}

// putIn puts in one of the models that are listed.
func (f *fitter) putIn(model string) {
	f.t.Helper()
	f.press("Put in a part")
	f.find("dialog button", model).MustClick()
	f.find("section[aria-label=Components] li", model)
	f.rest()
}

// kept is the assembly as the server has it.
func (f *fitter) kept(c *client) *assembly.Document {
	f.t.Helper()
	id := regexp.MustCompile(`/assemblies/(\d+)`).FindStringSubmatch(f.MustInfo().URL)[1]
	code, body := c.do("GET", "/api/assemblies/"+id, "", "")
	var out struct{ Document *assembly.Document }
	if err := json.Unmarshal([]byte(body), &out); code != 200 || err != nil {
		f.t.Fatalf("the assembly: %d %v %s", code, err, body)
	}
	return out.Document
}

// A person puts a pin into a fork and an eye on it with the mouse: the joints are offered for two picks, loose
// components are pulled, everything is kept at once and can be undone, a second window overwrites nothing.
func TestFittingByHand(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	p := signIn(t, b, a, "ottoline")
	api := a.client("ottoline")
	f := p.startAssembly("hoist link")
	f.see("Put in a part to begin with")
	for _, m := range []string{"fork", "pin", "eye"} {
		f.putIn(m)
	}
	f.see("12 freedoms")

	// Seen from below, the seat of the pin's head shows.
	f.pick("fork: the edge between top of block and bore", 0.34, 0.33)
	f.see("Picked: the edge between top of block")
	f.MustElement("[data-fitting-view]").MustFocus()
	for range 5 {
		f.Keyboard.MustType(input.ArrowDown)
	}
	f.pick("pin: the edge between underside of head", 0.46, 0.47)
	f.find("[role=group] button", "revolute").MustHover()
	f.find("[role=group] [role=status]", "7 freedoms in all")
	f.Keyboard.MustType(input.Enter)
	f.find("section[aria-label=Joints] button", "revolute")
	f.rest()
	f.find("button", "7 freedoms")

	// The eye goes on the pin's shank, which shows between the cheeks.
	f.pick("eye: the edge between underside of head and bore", 0.57, 0.46)
	f.pick("pin: round side of shank", 0.36, 0.5)
	f.find("[role=group] button", "cylindrical").MustClick()
	f.rest()
	f.find("button", "3 freedoms")
	doc := f.kept(api)
	if len(doc.Joints) != 2 || doc.Joints[0].Sense != assembly.Opposed {
		t.Fatalf("joints %+v", doc.Joints)
	}
	if at := doc.Components[1].Pose.Shift; at.Distance(solid.Vec{0, 0, 16}) > 1e-6 {
		t.Errorf("the pin sits at %v", at)
	}

	// Pulled at its shank the eye turns about the pin, and nothing else happens.
	from := f.seek("eye: right side of shank", 0.6, 0.4)
	f.Mouse.MustDown(proto.InputMouseButtonLeft)
	for k := range 12 {
		f.Mouse.MustMoveTo(from.X-4*float64(k), from.Y-9*float64(k))
	}
	f.Mouse.MustUp(proto.InputMouseButtonLeft)
	f.rest()
	turned := f.kept(api)
	if at := turned.Components[2].Pose; math.Hypot(at.Shift[0], at.Shift[1]) > 1e-6 || at.Angle() < 0.2 {
		t.Errorf("after the pull the eye is at %+v", at)
	}
	if turned.Components[1].Pose.Shift.Distance(doc.Components[1].Pose.Shift) > 1e-6 {
		t.Error("the pin has moved with it")
	}
	f.Keyboard.MustType(input.Escape)
	f.press("Undo")
	f.rest()
	if at := f.kept(api).Components[2].Pose; math.Abs(at.Angle()-doc.Components[2].Pose.Angle()) > 1e-9 {
		t.Errorf("undone, the eye is at %+v", at)
	}

	// Driven by a slider, from the keyboard, it turns as well.
	f.find("section[aria-label=Joints] button", "cylindrical").MustClick()
	f.MustElement("input[aria-label^=Drive]").MustFocus()
	for range 3 {
		f.Keyboard.MustType(input.ArrowRight)
		f.rest()
	}
	driven := f.kept(api)
	between := func(d *assembly.Document) rigid.Pose {
		return d.Components[1].Pose.Then(d.Components[2].Pose.Inverse())
	}
	if by := between(doc).Inverse().Then(between(driven)).Angle(); by < 0.05 || by > 0.5 {
		t.Errorf("driven by three keys the eye turns on the pin by %g: %+v", by, driven.Components)
	}

	f.press("Look for collisions")
	f.find("section[aria-label=Collisions] li", "Fork and pin touch")
	f.see("Nothing collides where it stands")

	// What is pressed last before leaving is kept.
	f.find("section[aria-label=Components] li button", "pin").MustClick()
	f.press("Copy")
	f.find("header a", "My models").MustClick()
	f.find("a", "hoist link").MustClick()
	f = p.openFitting("")
	f.find("section[aria-label=Components] li", "pin 2")
	f.find("button", "9 freedoms")

	// A second window changes it first: the first one is told, and overwrites nothing.
	other := signIn(t, b, a, "ottoline").openFitting(strings.TrimPrefix(f.MustInfo().URL, a.url))
	other.find("section[aria-label=Components] li button", "pin 2").MustClick()
	other.find("section[aria-label=Components] button", "Remove").MustClick()
	other.rest()
	f.find("section[aria-label=Components] li button", "fork").MustClick()
	f.press("Unpin")
	f.see("was changed in another window; nothing was overwritten")
	if got := f.kept(api); len(got.Components) != 3 || !got.Components[0].Pinned {
		t.Errorf("the stale window has overwritten it: %+v", got.Components)
	}
}

// Bundles go out and come in again as they were; files that were never put in cannot be had through an assembly.
func TestAssembliesAreTheirOwners(t *testing.T) {
	a := startApp(t)
	teacher, student := a.client("ottoline"), a.client("ada")
	code, bundle := teacher.do("GET", "/api/assemblies/1/bundle", "", "")
	if code != 200 || !strings.HasPrefix(bundle, "PK") {
		t.Fatalf("the bundle: %d", code)
	}
	if code, _ := student.do("GET", "/api/assemblies/1/bundle", "", ""); code != 404 {
		t.Errorf("somebody else's bundle: %d", code)
	}
	body, err := json.Marshal(map[string][]byte{"bundle": []byte(bundle)})
	if err != nil {
		t.Fatal(err)
	}
	code, made := student.do("POST", "/api/assemblies", "application/json", string(body))
	var own struct {
		Row      struct{ ID int64 }
		Document json.RawMessage
	}
	if err := json.Unmarshal([]byte(made), &own); code != 201 || err != nil {
		t.Fatalf("a bundle taken in: %d %s", code, made)
	}
	at := fmt.Sprintf("/api/assemblies/%d", own.Row.ID)
	if code, body := student.do("POST", at+"/parts", "application/json", `{"exerciseId":1}`); code != 404 {
		t.Errorf("a student puts in a reference: %d %s", code, cut(body))
	}
	if _, again := student.do("GET", at+"/bundle", "", ""); again != bundle {
		t.Error("taken in and given out again it is another file")
	}
	// In other formats it is the same: meshes of one volume, and STEP that comes in again as the same parts.
	volume := map[string]float64{}
	for _, format := range []string{"stl", "3mf"} {
		code, data := student.do("GET", at+"/export?format="+format, "", "")
		read := map[string]func([]byte) (*solid.Mesh, error){"stl": stl.Read, "3mf": threemf.Read}[format]
		mesh, err := read([]byte(data))
		if code != 200 || err != nil {
			t.Fatalf("as %s: %d, %v", format, code, err)
		}
		volume[format] = mesh.Props().Volume
	}
	// fork 44270.44 mm³, eye 24014.60 with 15 mm, pin and collar; facets lose a little of round faces.
	want := 44270.44263 + 24014.59893 + math.Pi*(81*5+36*42) + 1206.371579
	for format, v := range volume {
		if math.Abs(v-want) > 2e-3*want {
			t.Errorf("as %s it has %g mm³, not %g", format, v, want)
		}
	}
	code, exported := student.do("GET", at+"/export?format=ap214", "", "")
	if body, err = json.Marshal(map[string]any{"name": "joint.step", "bundle": []byte(exported)}); err != nil ||
		code != 200 {
		t.Fatal(code, err)
	}
	if code, made := student.do("POST", "/api/assemblies", "application/json", string(body)); code != 201 ||
		strings.Count(made, `"sha256"`) != 4 || !strings.Contains(made, `"eye"`) {
		t.Errorf("exported as STEP and taken in: %d %s", code, cut(made))
	}
	for query, refused := range map[string]int{"format=ap214": 404, "format=dwg": 404} {
		if code, _ := teacher.do("GET", at+"/export?"+query, "", ""); code != refused {
			t.Errorf("somebody else's assembly with %s: %d", query, code)
		}
	}
	if code, body := student.do("GET", at+"/export?format=dwg", "", ""); code < 400 || code >= 500 ||
		!strings.Contains(body, "no format of an assembly") {
		t.Errorf("in a format that there is not: %d %s", code, body)
	}
	// The reference of an exercise by its hash: it was never put into this assembly.
	stolen := strings.Replace(string(own.Document), regexp.MustCompile(`[0-9a-f]{64}`).FindString(string(own.Document)),
		strings.Repeat("ab", 32), 1)
	if code, body := student.do("PUT", at, "application/json", fmt.Sprintf(`{"version":1,"document":%s}`, stolen)); code !=
		422 && code != 400 || !strings.Contains(body, "never put into it") {
		t.Errorf("a file that was never put in: %d %s", code, body)
	}
	// An assembly in STEP comes in as well: a part for each solid, each with a file.
	step := samples.Unzip(t, samples.AS1)
	if body, err = json.Marshal(map[string]any{"name": "as1.stp", "bundle": step}); err != nil {
		t.Fatal(err)
	}
	if code, made := student.do("POST", "/api/assemblies", "application/json", string(body)); code != 201 ||
		strings.Count(made, `"sha256"`) != 3 || !strings.Contains(made, `"as1"`) {
		t.Errorf("a STEP file: %d %s", code, cut(made))
	}
	if code, body := student.do("POST", "/api/assemblies", "application/json", `{"bundle":"UEsDBA=="}`); code < 400 ||
		code >= 500 || !strings.Contains(body, "zip") {
		t.Errorf("a damaged bundle: %d %s", code, body)
	}
}

// slide drags a slider to a share of its width.
func (f *fitter) slide(selector string, share float64) {
	f.t.Helper()
	box := f.MustElement(selector).MustShape().Box()
	f.Mouse.MustMoveTo(box.X+2, box.Y+box.Height/2)
	f.Mouse.MustDown(proto.InputMouseButtonLeft)
	for k := range 9 {
		f.Mouse.MustMoveTo(box.X+box.Width*share*float64(k)/8, box.Y+box.Height/2)
		time.Sleep(30 * time.Millisecond)
	}
	f.Mouse.MustUp(proto.InputMouseButtonLeft)
}

// The demo's tackle joint is looked at with the mouse: looked over, drawn apart, where nothing is pulled, cut, where
// what is cut away is not picked, and measured; a traced point draws its circle while a joint is played, which stops at
// limits that are typed; and only what was meant to change it has changed it.
func TestLookingAtAnAssembly(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	p := signIn(t, b, a, "ottoline")
	api := a.client("ottoline")
	f := p.openFitting("/assemblies/1")
	before := f.kept(api)
	f.press("Look over")
	f.find("section[aria-label='Looked over']", "There is nothing to say")
	f.seek("pin: ", 0.42, 0.33)

	const apart = "[aria-label='How it is looked at'] input[type=range]"
	f.slide(apart, 0.95)
	at := f.seek("pin: ", 0.42, 0.1)
	f.Mouse.MustDown(proto.InputMouseButtonLeft)
	f.Mouse.MustMoveTo(at.X+30, at.Y+20)
	f.Mouse.MustMoveTo(at.X+60, at.Y+40)
	f.Mouse.MustUp(proto.InputMouseButtonLeft)
	f.rest()
	f.picture("apart")
	now := f.kept(api)
	if len(now.Apart) != 1 || now.Apart[0].Component != now.Components[2].ID || now.Apart[0].By.Norm() < 10 {
		t.Errorf("dragged while it is drawn apart, it goes to %v", now.Apart)
	}
	f.seek("pin: ", 0.47, 0.15)
	f.press("Draw apart by itself")
	f.rest()
	if again := f.kept(api); len(again.Apart) != 0 {
		t.Errorf("drawn apart by itself again, %v is still set", again.Apart)
	}
	f.press("Undo")
	f.press("Undo")
	f.rest()
	undone := f.kept(api)
	if by := now.Components[2].Pose.Then(undone.Components[2].Pose.Inverse()); len(undone.Apart) != 0 ||
		by.Angle() > 1e-6 || by.Shift.Norm() > 1e-6 {
		t.Errorf("drawn apart, the pin was pulled by %v", by)
	}
	f.slide(apart, 0)

	// Cut from the front, what lay before the plane is gone and the bore shows.
	section := f.find("label", "Section").MustElement("input")
	section.MustClick()
	time.Sleep(400 * time.Millisecond)
	f.seek("fork: right side of opening", 0.394, 0.42)
	section.MustClick()

	f.pick("fork: the edge between top of block and", 0.35, 0.27)
	f.pick("eye: the edge between right side of shank and top of head", 0.75, 0.44)
	f.find("[data-measured]", " mm")
	f.Keyboard.MustType(input.Escape)

	f.pick("eye: the edge between right side of shank and top of head", 0.75, 0.44)
	f.press("Trace it")
	f.rest()
	f.find("section[aria-label=Joints] button", "eye on the pin").MustClick()
	f.press("Draw the paths")
	f.find("section[aria-label='Traced points'] li", "path of 140 × 140 × 0 mm")
	f.find("button", "Table (CSV)")
	f.press("Where it collides")
	f.find("[aria-label='Collisions over eye on the pin'] p", "Fork and eye collide from 115")

	for label, text := range map[string]string{"Least turn": "-20 deg", "Most turn": "45 deg"} {
		f.MustElement("input[aria-label='" + label + "']").MustInput(text).MustType(input.Enter)
		f.rest()
	}
	f.press("Draw the paths")
	f.find("section[aria-label='Traced points'] li", "path of 20.5 × 73.44 × 0 mm")
	f.MustElement("figure select").MustSelect("pin in the fork, °")
	f.MustElement("figure svg[aria-label^='pin in the fork, ° over eye on the pin, °: from']")
	f.picture("curve")
	still := f.kept(api)
	f.press("Play")
	time.Sleep(1200 * time.Millisecond)
	f.press("Stop")
	f.rest()
	after := f.kept(api)
	turned := still.Components[1].Pose.Inverse().Then(after.Components[1].Pose).Angle()
	limits := after.Joints[1].Limits
	if limits == nil || *limits.Turn != (assembly.Limit{Least: "-20 deg", Most: "45 deg"}) || len(after.Traces) != 1 ||
		turned > 65*math.Pi/180 {
		t.Errorf("played it has turned by %g; %+v, %+v", turned, limits, after.Traces)
	}
	f.MustElement("button[title='Undo: move']")
	f.press("Undo")
	f.rest()
	if now := f.kept(api); still.Components[1].Pose.Inverse().Then(now.Components[1].Pose).Angle() > 1e-6 {
		t.Errorf("a play is not one step: undone it is at %+v", now.Components[1].Pose)
	}

	// A range of its own to drive it over, within the limits; its other end is where the slider ended.
	f.MustElement("input[aria-label='Driven from']").MustInput("-10 deg").MustType(input.Enter)
	f.rest()
	if now := f.kept(api); len(now.Drives) != 1 || now.Drives[0].From != "-10 deg" || now.Drives[0].To != "45 deg" {
		t.Errorf("driven over %+v", now.Drives)
	}
	if least := f.MustElement("input[aria-label='Drive eye on the pin']").MustAttribute("min"); *least != "-10" {
		t.Errorf("the slider begins at %s", *least)
	}

	// One component is shown alone, seen through, and replaced by another part, whose edge of the same name keeps the
	// joint.
	f.find("section[aria-label=Components] li button", "collar").MustClick()
	f.press("Show it alone")
	f.press("Show all")
	f.press("See through it")
	f.find("button[aria-pressed=true]", "Show it solid")
	f.find("section[aria-label=Components] button", "Replace").MustClick()
	f.find("dialog button", "pin").MustClick()
	f.find("section[aria-label='Parts list'] td", "pin")
	time.Sleep(2 * time.Second)
	f.rest()
	if now := f.kept(api); now.Components[3].Part == before.Components[3].Part || now.Components[3].Name != "collar" ||
		len(now.Joints) != 3 {
		t.Errorf("replaced: %+v", now.Components[3])
	}
	f.press("Undo")
	f.rest()
	if now := f.kept(api); now.Components[3].Part != before.Components[3].Part || len(now.Parts) != len(before.Parts) {
		t.Errorf("undone: %+v", now.Components[3])
	}
}

// Sizes of an assembly drive its parts: with a bore that is typed in, fork, eye, pin and collar are made anew and stand
// joined as before; what a part is given beside that is typed in too, undo puts everything back, and varying the
// sizes says where parts come to be in one another.
func TestSizesOfAnAssembly(t *testing.T) {
	a := startApp(t)
	p := signIn(t, startBrowser(t), a, "ottoline")
	api := a.client("ottoline")
	f := p.openFitting("/assemblies/1")
	before := f.kept(api)
	mass := func() string { return f.find("section[aria-label='Parts list'] tr", "pin").MustText() }
	was := mass()
	set := func(label, text string) {
		t.Helper()
		f.MustElement("input[aria-label='" + label + "']").MustSelectAllText().MustInput(text).MustType(input.Enter)
		f.rest()
	}
	set("Formula of bore", "14 mm")
	if now := mass(); now == was {
		t.Errorf("with another bore the pin is as heavy: %s", now)
	}
	f.picture("sizes")
	f.pick("fork: a corner", 0.527, 0.389)
	f.see("Picked: a corner")
	f.Keyboard.MustType(input.Escape)
	if f.find("button[data-freedom]", "freedom").MustText() != "2 freedoms" {
		t.Error("with another bore the joints do not hold as before")
	}
	// A size of its own for the part of the pin, and a soft collar.
	f.find("section[aria-label=Components] li button", "pin").MustClick()
	f.press("Its part")
	set("head of pin", "bore + 8 mm")
	set("Name of bore", "hole")
	f.picture("part")
	doc := f.kept(api)
	if v := doc.Parts[2].Values; v["head"] != "hole + 8 mm" || v["d"] != "hole" {
		t.Errorf("renamed, the pin has %v", v)
	}
	set("Formula of hole", "14")
	f.see("units clash")
	f.find("button", "Undo").MustClick()
	for range 2 {
		f.find("button", "Undo").MustClick()
	}
	f.rest()
	if now := f.kept(api); now.Parameters[0] != before.Parameters[0] || now.Parts[2].Values["head"] != "" ||
		mass() != was {
		t.Errorf("undone, it is %+v, and the pin %s", now.Parameters, mass())
	}
	f.press("Vary the sizes")
	f.find("section[aria-label='Other sizes']", "thick of collar")
	f.find("section[aria-label='Other sizes']", "in one another")
	f.picture("vary")

	// Everything has a name that can be typed; two picks that are typed can be joined.
	f.MustElement("[data-fitting-view]").MustFocus()
	quickly := func(text string) {
		t.Helper()
		f.Keyboard.MustType('q')
		f.MustElement("input[aria-label='What do you want to do?']").MustInput(text).MustType(input.Enter)
		time.Sleep(300 * time.Millisecond)
	}
	quickly("pin eye")
	f.find("section[aria-label=Components] li", "pinned")
	f.rest()
	if !f.kept(api).Components[1].Pinned {
		t.Error("the eye is not pinned by its name")
	}
	quickly("undo")
	quickly("pick eye: round side of head")
	quickly("pick pin: round side of shank")
	f.picture("quick")
	f.find("[role=group][aria-label=Join]", "to round side of shank")
	f.Keyboard.MustType(input.Escape)

	// A standard part by its size.
	f.press("Put in a part")
	f.MustElement("dialog select[aria-label='Kind of standard part']").MustSelect("Hexagon nut, ISO 4032")
	f.MustElement("dialog select[aria-label=Size]").MustSelect("M12")
	f.picture("stock")
	f.find("dialog button", "Put in this one").MustClick()
	f.find("section[aria-label=Components] li", "Hexagon nut ISO 4032-M12")
	f.find("section[aria-label='Parts list'] tr", "Hexagon nut ISO 4032-M12")
	f.rest()

	// And the reference of an exercise, from the list of those that one may see.
	f.press("Put in a part")
	exercise := f.MustElement("dialog select[aria-label=Exercise]").MustEval(`() => this.options[this.selectedIndex].text`)
	f.picture("reference")
	f.find("dialog button", "Put in its reference").MustClick()
	f.find("section[aria-label=Components] li", strings.Split(exercise.Str(), ",")[0])
	f.rest()
}

// plateWith is a model document of a plate with three rows of three holes, 20 mm apart.
func plateWith(name, thick string) string {
	var points, fixed []string
	for k := range 9 {
		x, y := 10+20*(k%3), 10+20*(k/3)
		points = append(points, fmt.Sprintf(`{"id":"q%d","kind":"point","at":[%d,%d]}`, k, x, y))
		fixed = append(fixed, fmt.Sprintf(`{"id":"x%d","kind":"horizontal-distance","of":["origin","q%[1]d"],
			"value":"%[2]d"},{"id":"y%[1]d","kind":"vertical-distance","of":["origin","q%[1]d"],"value":"%[3]d"}`, k, x, y))
	}
	outline := strings.NewReplacer(`"value":"40"`, `"value":"60"`, `"value":"w"`, `"value":"60"`).Replace(plainPlate)
	return fmt.Sprintf(`{"hammerset":"model/1","name":%q,"unit":"mm","parameters":[],"steps":[%s,
		{"id":"e1","kind":"extrude","name":"plate","sketch":"s1","regions":"all","extent":{"kind":"one-side","length":%q}},
		{"id":"s2","kind":"sketch","name":"places","plane":{"face":"e1/end"},"entities":[%s],"constraints":[%s]},
		{"id":"h1","kind":"hole","name":"holes","sketch":"s2","at":["q0","q1","q2","q3","q4","q5","q6","q7","q8"],
		"diameter":"6 mm","extent":{"kind":"through"}}]}`, name, outline, thick, strings.Join(points, ","),
		strings.Join(fixed, ","))
}

// Twenty parts are put together by hand with a few picks: a cover on a base, a pin through each of nine holes of both,
// and a ring on each pin; what is equal is joined at once. No joint takes more than three presses of the mouse.
//
// It is a part of make bench: it asks how much work building is, and the tests beside it see that it works.
func TestTwentyParts(t *testing.T) {
	if os.Getenv("HAMMERSET_BENCH") == "" {
		t.Skip("a part of make bench")
	}
	a := startAloneApp(t)
	p := signIn(t, startBrowser(t), a, "ottoline")
	api := a.client("ottoline")
	small := func(name string, sizes ...string) string {
		data, err := os.ReadFile(filepath.Join(root(t), "demo/assemblies/tackle-joint", name+".json"))
		if err != nil {
			t.Fatal(err)
		}
		return strings.NewReplacer(sizes...).Replace(string(data))
	}
	for _, doc := range []string{plateWith("base", "12 mm"), plateWith("cover", "5 mm"),
		small("pin", `"name": "pin"`, `"name": "peg"`, "12 mm", "6 mm", "18 mm", "10 mm", "40 mm", "24 mm"),
		small("collar", `"name": "collar"`, `"name": "ring"`, "12 mm", "6 mm", "20 mm", "10 mm", `"6 mm"`, `"4 mm"`)} {
		var named struct{ Name string }
		if err := json.Unmarshal([]byte(doc), &named); err != nil {
			t.Fatal(err)
		}
		code, made := api.do("POST", "/api/models", "application/json", fmt.Sprintf(`{"name":%q,"unit":"mm"}`, named.Name))
		id := regexp.MustCompile(`"id":(\d+)`).FindStringSubmatch(made)
		if code != 201 {
			t.Fatal(code, made)
		}
		if code, answer := api.do("PUT", "/api/models/"+id[1], "application/json",
			fmt.Sprintf(`{"version":1,"document":%s}`, doc)); code != 200 {
			t.Fatalf("%s: %d %s", named.Name, code, answer)
		}
	}
	f := p.startAssembly("strongbox lid")
	presses := 0
	join := func(kind string, all bool) {
		t.Helper()
		if all {
			f.find("[role=group] label", "equal places").MustElement("input").MustClick()
			presses++
		}
		f.find("[role=group] button", kind).MustClick()
		presses++
		f.rest()
	}
	pick := func(words string, x, y float64) {
		t.Helper()
		f.pick(words, x, y)
		presses++
	}
	for _, m := range []string{"base", "cover", "peg", "ring"} {
		f.putIn(m)
	}
	turn := func(key input.Key) {
		f.MustElement("[data-fitting-view]").MustFocus()
		for range 5 {
			f.Keyboard.MustType(key)
		}
	}
	pick("base: the edge between top of plate and bore", 0.335, 0.335)
	turn(input.ArrowDown)
	pick("cover: the edge between ", 0.53, 0.47)
	join("revolute", false)
	pick("peg: the edge between underside of head", 0.605, 0.35)
	turn(input.ArrowUp)
	pick("cover: the edge between top of plate and bore", 0.245, 0.32)
	join("revolute", true)
	f.picture("twenty2")
	pick("ring: the edge between", 0.68, 0.627)
	turn(input.ArrowDown)
	pick("base: the edge between", 0.335, 0.567)
	join("revolute", true)
	f.picture("twenty3")
	doc := f.kept(api)
	if len(doc.Components) != 20 || len(doc.Joints) != 19 || presses > 3*len(doc.Joints) {
		t.Errorf("%d components and %d joints with %d presses", len(doc.Components), len(doc.Joints), presses)
	}
	// Each peg and ring turns, and the cover about the hole that it was put on by.
	if got := f.find("button[data-freedom]", "freedom").MustText(); got != "19 freedoms" {
		t.Errorf("put together it has %s", got)
	}
	f.press("Look for collisions")
	f.see("Nothing collides where it stands")
}

// The public AS1 assembly is opened from its STEP file: it is nested as it is there. Before an exercise is made of it,
// its joints are asked after: laid flat, its levels stay groups, and what is read from the contacts and confirmed holds
// every part where it stood.
func TestAnAssemblyFromAFile(t *testing.T) {
	a := startApp(t)
	p := signIn(t, startBrowser(t), a, "ottoline")
	api := a.client("ottoline")
	file := filepath.Join(t.TempDir(), "as1.stp")
	if err := os.WriteFile(file, samples.Unzip(t, samples.AS1), 0o600); err != nil {
		t.Fatal(err)
	}
	p.open("/models")
	p.MustElement("section[aria-label='A new assembly'] input[type=file]").MustSetFiles(file)
	p.find("section[aria-label=Components] li", "plate")
	f := p.openFitting("")
	before := f.kept(api)
	if len(before.Components) != 4 || len(before.Parts) != 3 {
		t.Fatalf("it has %d components of %d parts", len(before.Components), len(before.Parts))
	}
	f.picture("as1")
	f.find("button[data-freedom]", "18 freedoms")
	f.find("summary", "File").MustClick()
	f.press("Make an exercise of it")
	f.find("dialog", "17 parts are joined to nothing")
	f.press("Read the joints first")
	opened := strings.TrimPrefix(f.MustInfo().URL, a.url)
	read := "section[aria-label='Joints read from the contacts'] button"
	f.find(read, "Make these 3 joints")
	f.find(read, "Lay all flat, and read again").MustClick()
	f.find(read, "Make these 28 joints").MustClick()
	f.open("/exercises") // before they are worked out
	f.find("h1", "Exercises")
	f = p.openFitting(opened)
	f.find("[role=status]", "What was under way when you left has been done")
	f.find("button[data-freedom]", "16 freedoms") // bolts, nuts and the rod turn, and that slides
	f.find("section[aria-label='Parts list'] tr", "2.1.1")
	list := ""
	for _, row := range f.MustElements("section[aria-label='Parts list'] tbody tr") {
		list += strings.Join(strings.Fields(row.MustText())[:3], " ") + "; "
	}
	if want := "1 1 rod-assembly; 1.1 2 nut; 1.2 1 rod; 2 2 l-bracket-assembly; 2.1 3 nut-bolt-assembly; 1.1 1 nut; " +
		"2.1.1 1 bolt; 2.2 1 l-bracket; 3 1 plate; "; list != want {
		t.Errorf("the parts list is %s", list)
	}
	name := f.MustElement("li[aria-label='Group nut-bolt-assembly'] input")
	name.MustSelectAllText().MustInput("screw set")
	f.Keyboard.MustType(input.Enter)
	f.find("section[aria-label='Parts list'] tr", "screw set")
	f.rest()
	f.picture("as1 joined")
	now := f.kept(api)
	if len(now.Components) != 18 || len(now.Joints) != 28 || len(now.Groups) != 9 {
		t.Errorf("it has %d components, %d joints and %d groups", len(now.Components), len(now.Joints), len(now.Groups))
	}
	for _, c := range now.Components { // the plate is what it was
		was, there := before.Component(c.ID)
		if !there {
			continue
		}
		if by := c.Pose.Then(was.Pose.Inverse()); by.Shift.Norm() > 1e-6 || by.Angle() > 1e-6 {
			t.Errorf("%s has moved by %v", c.Title(), by)
		}
	}
	// It is found again by its name.
	p.open("/models")
	search := p.MustElement("[aria-label='Find a model or an assembly']")
	search.MustInput("nothing of that name")
	p.see("No assembly is called that")
	search.MustSelectAllText().MustInput("AS1")
	p.find("section[aria-label=Assemblies] td a", "as1").MustClick()
	f = p.openFitting("")
	f.find("section[aria-label=Joints] li", "l-bracket")
	f.find("summary", "File").MustClick()
	f.press("Make an exercise of it")
	f.find("h1", "version 1")
	f.find("tr", "Mobility")
	if strings.Contains(f.MustElement("main").MustText(), "no joint holds") {
		t.Error("a part is joined to nothing in the exercise")
	}
	f.find("section[aria-label='Exercises of the parts'] li", "2.1.1 bolt")
}

// An assembly is put into another one twice: it is one rigid body, until it is let move; then its own joints are
// driven, and where it stands in itself is kept. What is joined to one of its components is joined to that one.
func TestAnAssemblyInAnother(t *testing.T) {
	a := startApp(t)
	p := signIn(t, startBrowser(t), a, "ottoline")
	api := a.client("ottoline")
	f := p.startAssembly("rigging")
	f.press("Put in a part")
	f.find("dialog label", "How many").MustElement("input").MustSelectAllText().MustInput("2")
	f.find("dialog button", "tackle joint").MustClick()
	f.find("section[aria-label=Components] li", "tackle joint 2: collar")
	f.rest()
	f.picture("nested")
	f.find("button[data-freedom]", "6 freedoms")
	f.find("section[aria-label='Parts list'] tr", "1.4")

	f.find("section[aria-label=Components] li button", "tackle joint: eye").MustClick()
	f.press("Let its assembly move")
	f.find("button[data-freedom]", "8 freedoms")
	from := f.seek("tackle joint: eye: ", 0.33, 0.36)
	f.Mouse.MustDown(proto.InputMouseButtonLeft)
	for k := range 12 {
		f.Mouse.MustMoveTo(from.X-3*float64(k), from.Y-6*float64(k))
	}
	f.Mouse.MustUp(proto.InputMouseButtonLeft)
	f.rest()
	f.picture("nested2")
	doc := f.kept(api)
	if c := doc.Components[0]; !c.Moving || len(c.Inner) != 4 || c.Inner["c2"].Angle() < 0.1 || !c.Pinned ||
		doc.Components[1].Inner != nil {
		t.Errorf("pulled, it is %+v", c)
	}
	f.MustReload()
	f = p.openFitting("")
	if again := f.kept(api); again.Components[0].Inner["c2"] != doc.Components[0].Inner["c2"] {
		t.Error("opened again it stands elsewhere in itself")
	}
	f.press("Look for collisions")
	f.see("Nothing collides where it stands")
	f.press("Look over")
	f.find("section[aria-label='Looked over']", "joint 2 hangs in the air")

	// As STEP it has its structure, and comes in again where it stood.
	id := regexp.MustCompile(`/assemblies/(\d+)`).FindStringSubmatch(f.MustInfo().URL)[1]
	code, step := api.do("GET", "/api/assemblies/"+id+"/export?format=ap242", "", "")
	packed, err := json.Marshal(map[string]any{"name": "rigging.step", "bundle": []byte(step)})
	if code != 200 || err != nil || strings.Count(step, "NEXT_ASSEMBLY_USAGE_OCCURRENCE(") != 2+2*4 {
		t.Fatalf("as STEP: %d, %v, %d usages", code, err, strings.Count(step, "NEXT_ASSEMBLY_USAGE_OCCURRENCE("))
	}
	_, made := api.do("POST", "/api/assemblies", "application/json", string(packed))
	var read struct {
		Row      struct{ ID int64 }
		Document *assembly.Document
	}
	if err := json.Unmarshal([]byte(made), &read); err != nil || len(read.Document.Components) != 2 {
		t.Fatalf("taken in again: %v %s", err, cut(made))
	}
	eye := doc.Components[0].Inner["c2"].Then(doc.Components[0].Pose)
	near := false
	_, bundle := api.do("GET", fmt.Sprintf("/api/assemblies/%d/bundle", read.Row.ID), "", "")
	packedAgain, err := documents.ReadAssembledZip([]byte(bundle))
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range read.Document.Components {
		p, _ := read.Document.Part(c.Part)
		inner, err := documents.ReadAssembledZip(packedAgain.Files[p.File])
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range inner.Document.Components {
			by := x.Pose.Then(c.Pose).Then(eye.Inverse())
			near = near || by.Angle() < 1e-6 && by.Shift.Norm() < 1e-6
		}
	}
	if !near {
		t.Errorf("no part stands where the eye was turned to: %+v", read.Document.Components)
	}

	// The assembly that was put in is changed since: its newer version is there, and is taken for both.
	_, body := api.do("GET", "/api/assemblies/1", "", "")
	changed := strings.Replace(regexp.MustCompile(`"document":(.*)}\s*$`).FindStringSubmatch(body)[1],
		`"name":"bore","value":"12 mm"`, `"name":"bore","value":"10 mm"`, 1)
	if code, answer := api.do("PUT", "/api/assemblies/1", "application/json",
		fmt.Sprintf(`{"version":1,"document":%s}`, changed)); code != 200 {
		t.Fatal(code, answer)
	}
	f.MustReload()
	f = p.openFitting("")
	f.find("section[aria-label='Newer versions']", "tackle joint was changed since")
	f.press("Take it")
	f.MustWait(`() => !document.querySelector("section[aria-label='Newer versions']")`)
	f.rest()
	if now := f.kept(api); now.Parts[0].SHA256 == doc.Parts[0].SHA256 || len(now.Parts) != 1 ||
		now.Components[1].Part != now.Parts[0].ID {
		t.Errorf("with the newer version it has the parts %+v", now.Parts)
	}
}
