package e2e

import (
	"math"
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
// and refused when somebody else has saved meanwhile.
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
	teacher.still("Kept in this browser")
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

	// Somebody else saves meanwhile: nothing is overwritten, and nothing is lost.
	other := signIn(t, b, a, "ottoline")
	other.open("/exercises/1?tab=layout")
	other.still("As saved")
	other.press("New note")
	other.still("Kept in this browser")
	teacher.press("New note")
	teacher.still("Kept in this browser")
	teacher.press("Save as a new version")
	teacher.find("h1", "version 3")
	other.press("New note")
	other.see("Version 3 of this exercise has been saved meanwhile")
	other.open("/exercises/1?tab=layout") // what was kept is of another version
	other.see("Version 3 of this exercise has been saved meanwhile")
	other.press("Begin from what is saved")
	other.until(`document.querySelectorAll('.sheet [data-mark] > title').length > 0 && ` +
		`[...document.querySelectorAll('.sheet title')].some((t) => t.textContent === "Note")`)
	if _, answer := a.client("ottoline").do("GET", "/api/exercises/1/bundle", "", ""); !strings.HasPrefix(answer, "PK") {
		t.Error("the exercise cannot be exported any more")
	}
}

func number(v float64) string { return strconv.FormatFloat(v, 'f', 2, 64) }
