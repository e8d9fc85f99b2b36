package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// TestByHand does with a real mouse and real keys what is easily tested by calls alone.
func TestByHand(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	ada := signIn(t, b, a, "ada")
	api := a.client("ada")

	t.Run("tracing an edge", func(t *testing.T) {
		block := plainPlate + `,{"id":"e1","kind":"extrude","name":"plate","sketch":"s1","regions":"all","extent":{"kind":"one-side","length":"8 mm"},"result":"add"},
		{"id":"s2","kind":"sketch","name":"on top","plane":{"face":"e1/end"},"entities":[],"constraints":[]}`
		id := startModel(t, api, `{"name":"Block","unit":"mm"}`, block)
		d := ada.openBoard("/models/" + id + "/sketches/s2")
		d.MustElement("[aria-label='Trace an edge of the solid']").MustClick()
		d.click(20, 0) // the middle of the lower edge
		eventually(t, "the edge is traced", func() bool { return d.count(".k-curve.is-traced") == 1 })
		d.MustElement("svg[role=application]").MustFocus()
		d.keys('.', '.', '.', input.Enter) // by the keyboard, another one
		eventually(t, "an edge is traced by keys", func() bool { return d.count(".k-curve.is-traced") == 2 })
		d.saved()
		traced := 0
		for _, e := range stored(t, api, id, "s2").Entities {
			if len(e.Traced) > 0 {
				traced++
			}
		}
		if traced != 2 {
			t.Errorf("%d edges are traced in the stored sketch, not 2", traced)
		}
	})

	t.Run("what is under the pointer", func(t *testing.T) {
		id := startModel(t, api, `{"name":"Cross","unit":"mm"}`, `{"id":"s1","kind":"sketch","name":"cross","plane":{"datum":"XY"},"entities":[{"id":"p1","kind":"point","at":[-40,0]},{"id":"p2","kind":"point","at":[40,0]},{"id":"p3","kind":"point","at":[10,-30]},{"id":"p4","kind":"point","at":[10,30]},{"id":"l1","kind":"line","from":"p1","to":"p2"},{"id":"l2","kind":"line","from":"p3","to":"p4"}],
			"constraints":[{"id":"k1","kind":"horizontal","of":["l1"]},{"id":"k2","kind":"vertical","of":["l2"]}]}`)
		d := ada.openBoard("/models/" + id + "/sketches/s1")
		// Trim where the mark of the horizontal line stands beside it: the piece that goes is shown first.
		d.MustElement("[aria-label='Trim a piece']").MustClick()
		mark := d.MustElement("g[data-what=mark][data-id=k1]").MustShape().Box()
		d.Mouse.MustMoveTo(mark.X+mark.Width/2, mark.Y+mark.Height-1)
		d.MustElement(".k-piece")
		d.Mouse.MustClick(proto.InputMouseButtonLeft)
		d.settled()
		d.saved()
		eventually(t, "the piece at the left is gone", func() bool {
			s := stored(t, api, id, "s1")
			e := s.Entity("l1")
			return e != nil && e.From != "p1"
		})
	})

	t.Run("typing at once after a choice", func(t *testing.T) {
		id := startModel(t, api, `{"name":"Strip","unit":"mm"}`, `{"id":"s1","kind":"sketch","name":"strip","plane":{"datum":"XY"},"entities":[{"id":"p1","kind":"point","at":[-40,20]},{"id":"p2","kind":"point","at":[40,20]},{"id":"l1","kind":"line","from":"p1","to":"p2"},{"id":"p3","kind":"point","at":[-40,-20]},{"id":"p4","kind":"point","at":[40,-25]},{"id":"l2","kind":"line","from":"p3","to":"p4"}],"constraints":[]}`)
		d := ada.openBoard("/models/" + id + "/sketches/s1")
		size := func(of, want string) {
			t.Helper()
			eventually(t, of+" has the size "+want, func() bool {
				for _, k := range stored(t, api, id, "s1").Constraints {
					if k.Kind == "length" && k.Of[0] == of && k.Value == want {
						return true
					}
				}
				return false
			})
		}
		p := d.at(5, 20)
		d.Mouse.MustMoveTo(p.X, p.Y)
		d.Mouse.MustClick(proto.InputMouseButtonLeft)
		d.keys('w', '*', '9', '/', '2', input.Enter)
		d.settled()
		size("l1", "w*9/2")
		// With nothing chosen the number waits for a choice; no tool is left in the hand.
		d.keys(input.Escape)
		d.keys('2', '0', '0')
		ada.see("“200” waits")
		if mode := *d.MustElement("svg[role=application]").MustAttribute("data-mode"); mode != "choose" {
			t.Errorf("the number took a tool: %s", mode)
		}
		p = d.at(0, -22.5*99/80) // the first size scaled the sketch
		d.Mouse.MustMoveTo(p.X, p.Y)
		d.Mouse.MustClick(proto.InputMouseButtonLeft)
		eventually(t, "the number is in the field", func() bool {
			f, err := d.Page.Timeout(200 * time.Millisecond).Element("[role=dialog] input")
			return err == nil && f.MustProperty("value").Str() == "200"
		})
		d.keys(input.Enter)
		size("l2", "200")
		// A formula that begins with a letter: nothing of it is a command.
		d.keys(input.Escape)
		before := len(stored(t, api, id, "s1").Constraints)
		d.click(0, 20*99.0/80)
		d.keys('a', 'b', 's', '(', '-', '5', ')')
		eventually(t, "the formula is in the field", func() bool {
			f, err := d.Page.Timeout(200 * time.Millisecond).Element("[role=dialog] input")
			return err == nil && strings.HasPrefix(f.MustProperty("value").Str(), "abs(-5)")
		})
		d.keys(input.Escape)
		d.saved()
		if after := len(stored(t, api, id, "s1").Constraints); after != before {
			t.Errorf("typing a formula put %d constraints", after-before)
		}
	})
}
