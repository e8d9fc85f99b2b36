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
		block := plainPlate + `,{"id":"e1","kind":"extrude","name":"plate","sketch":"s1","regions":"all",
	"extent":{"kind":"one-side","length":"8 mm"},"result":"add"},
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
		id := startModel(t, api, `{"name":"Cross","unit":"mm"}`, `{"id":"s1","kind":"sketch","name":"cross",
	"plane":{"datum":"XY"},"entities":[{"id":"p1","kind":"point","at":[-40,0]},{"id":"p2","kind":"point","at":[40,0]},
	{"id":"p3","kind":"point","at":[10,-30]},{"id":"p4","kind":"point","at":[10,30]},{"id":"l1","kind":"line","from":"p1",
	"to":"p2"},{"id":"l2","kind":"line","from":"p3","to":"p4"}],
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
		id := startModel(t, api, `{"name":"Strip","unit":"mm"}`, `{"id":"s1","kind":"sketch","name":"strip",
	"plane":{"datum":"XY"},"entities":[{"id":"p1","kind":"point","at":[-40,20]},{"id":"p2","kind":"point","at":[40,20]},
	{"id":"l1","kind":"line","from":"p1","to":"p2"},{"id":"p3","kind":"point","at":[-40,-20]},{"id":"p4","kind":"point",
	"at":[40,-25]},{"id":"l2","kind":"line","from":"p3","to":"p4"}],"constraints":[]}`)
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
		field := func() string {
			return d.MustEval(`() => document.querySelector("[role=dialog] input")?.value ?? ""`).Str()
		}
		eventually(t, "the number is in the field", func() bool { return field() == "200" })
		d.keys(input.Enter)
		size("l2", "200")
		// A formula that begins with a letter: nothing of it is a command.
		d.keys(input.Escape)
		before := len(stored(t, api, id, "s1").Constraints)
		d.click(0, 20*99.0/80)
		d.keys('a', 'b', 's', '(', '-', '5', ')')
		eventually(t, "the formula is in the field", func() bool { return strings.HasPrefix(field(), "abs(-5)") })
		d.keys(input.Escape)
		d.saved()
		if after := len(stored(t, api, id, "s1").Constraints); after != before {
			t.Errorf("typing a formula put %d constraints", after-before)
		}
	})

	t.Run("a face far from the origin", func(t *testing.T) {
		far := `{"id":"s1","kind":"sketch","name":"far","plane":{"datum":"XY"},"entities":[{"id":"p1","kind":"point",
	"at":[900,-700]},{"id":"p2","kind":"point","at":[930,-700]},{"id":"p3","kind":"point","at":[930,-680]},{"id":"p4",
	"kind":"point","at":[900,-680]},
			{"id":"l1","kind":"line","from":"p1","to":"p2"},{"id":"l2","kind":"line","from":"p2","to":"p3"},{"id":"l3",
	"kind":"line","from":"p3","to":"p4"},{"id":"l4","kind":"line","from":"p4","to":"p1"}],"constraints":[]},
			{"id":"e1","kind":"extrude","sketch":"s1","regions":"all","extent":{"kind":"one-side","length":"8 mm"},
	"result":"add"},{"id":"s2","kind":"sketch","name":"on top","plane":{"face":"e1/end"},"entities":[],"constraints":[]}`
		d := ada.openBoard("/models/" + startModel(t, api, `{"name":"Far","unit":"mm"}`, far) + "/sketches/s2")
		// seen tells whether the face is in view, and how much of the board's width it takes.
		seen := func() (bool, float64) {
			v := d.MustEval(`() => { const b = document.querySelector("svg[role=application]").getBoundingClientRect(),
				r = [...document.querySelectorAll(".k-edge")].map((e) => e.getBoundingClientRect());
				const l = Math.min(...r.map((x) => x.left)), w = Math.max(...r.map((x) => x.right)) - l,
					top = Math.min(...r.map((x) => x.top)), foot = Math.max(...r.map((x) => x.bottom));
				return [l >= b.left && l + w <= b.right && top >= b.top && foot <= b.bottom, w / b.width] }`).Arr()
			return v[0].Bool(), v[1].Num()
		}
		eventually(t, "the face is whole in view and large", func() bool {
			whole, share := seen()
			return whole && share > 0.3
		})
		d.to(915, -690)
		d.Mouse.MustScroll(0, -900)
		time.Sleep(400 * time.Millisecond)
		if whole, _ := seen(); whole {
			t.Error("the wheel did not bring it nearer")
		}
		d.MustElement("svg[role=application]").MustFocus()
		d.keys(input.Home)
		eventually(t, "Home finds the face", func() bool { whole, share := seen(); return whole && share > 0.3 })
	})

	t.Run("the scale of tried values", func(t *testing.T) {
		id := startModel(t, api, `{"name":"Tried","unit":"mm"}`, plainPlate+`,{"id":"e1","kind":"extrude","name":"plate",
	"sketch":"s1","regions":"all","extent":{"kind":"one-side","length":"8 mm"},"result":"add"},{"id":"f1","kind":"fillet",
	"radius":"2 mm","edges":[{"between":["e1/side:l1","e1/side:l2"]}]}`)
		// pull takes the thumb to a share of the scale, holds it there, and says where it has come
		// to and where it should be on the scale as it was when it was taken.
		pull := func(p *person, share float64) (got, want float64) {
			slider := p.MustElement("input[type=range][aria-label='Try w']")
			number := func(name string) float64 { return slider.MustEval(`(n) => Number(this[n])`, name).Num() }
			lo, hi, box := number("min"), number("max"), slider.MustShape().Box()
			const thumb = 16.0
			x := func(v float64) float64 { return box.X + thumb/2 + (v-lo)/(hi-lo)*(box.Width-thumb) }
			y := box.Y + box.Height/2
			p.Mouse.MustMoveTo(x(number("value")), y)
			p.Mouse.MustDown(proto.InputMouseButtonLeft)
			from, to := x(number("value")), x(lo+share*(hi-lo))
			for i := 1; i <= 10; i++ {
				p.Mouse.MustMoveTo(from+(to-from)*float64(i)/10, y)
				time.Sleep(120 * time.Millisecond) // the part follows between
			}
			p.Mouse.MustUp(proto.InputMouseButtonLeft)
			p.see("is tried")
			if number("min") != lo || number("max") != hi {
				t.Errorf("the scale went from %v..%v to %v..%v under the hand", lo, hi, number("min"), number("max"))
			}
			return number("value"), lo + share*(hi-lo)
		}
		d := ada.openBoard("/models/" + id + "/sketches/s1")
		d.find("[role=tab]", "Parameters").MustClick()
		d.find("[data-parameter=w] button", "Try values").MustClick()
		for _, share := range []float64{0.8, 0.3} {
			if got, want := pull(ada, share); got < want*0.96 || got > want*1.04 {
				t.Errorf("on the drawing board the hand was at %v and the value is %v", want, got)
			}
		}
		d.find("button", "Put back").MustClick()
		m := ada.openModeller(id)
		m.find("[role=tab]", "Sizes").MustClick()
		m.MustElement("[aria-label='More for w']").MustClick()
		for _, share := range []float64{0.8, 0.3} {
			if got, want := pull(ada, share); got < want*0.96 || got > want*1.04 {
				t.Errorf("in the modeller the hand was at %v and the value is %v", want, got)
			}
			m.settled()
		}
		m.find("button", "Put back").MustClick()
		m.settled()

		// Figures of the part as it was say so until the new one is there.
		m.find("[role=tab]", "Solids").MustClick()
		before := m.MustElementR("tr", "Volume").MustText()
		m.MustEval(`() => { window.signs = 0; new MutationObserver(() =>
			{ if (document.querySelector("[aria-busy=true]")?.textContent.includes("figures from before")) window.signs++ })
			.observe(document.body, { subtree: true, childList: true, attributes: true }) }`)
		m.do("Turn off fillet 1")
		m.settled()
		eventually(t, "the figures are the new ones", func() bool {
			return m.MustElementR("tr", "Volume").MustText() != before
		})
		if n := m.MustEval(`() => window.signs`).Int(); n == 0 {
			t.Error("figures of the part as it was stood without a sign")
		}
		if m.MustHas("[aria-busy=true]") {
			t.Error("the new figures still bear the sign")
		}
	})

	// What is chosen goes into the first field of a new step that it fits, and into no other.
	t.Run("a face, then a hole", func(t *testing.T) {
		turned := `{"id":"s1","kind":"sketch","name":"outline","plane":{"datum":"XY"},"entities":[{"id":"p1","kind":"point",
	"at":[0,0]},{"id":"p2","kind":"point","at":[64,48]},{"id":"p3","kind":"point","at":[40,80]},{"id":"p4","kind":"point",
	"at":[-24,32]},
			{"id":"l1","kind":"line","from":"p1","to":"p2"},{"id":"l2","kind":"line","from":"p2","to":"p3"},{"id":"l3",
	"kind":"line","from":"p3","to":"p4"},{"id":"l4","kind":"line","from":"p4","to":"p1"}],"constraints":[]},
			{"id":"e1","kind":"extrude","name":"plate","sketch":"s1","regions":"all","extent":{"kind":"one-side",
	"length":"8 mm"},"result":"add"}`
		m := ada.openModeller(startModel(t, api, `{"name":"Turned","unit":"mm"}`, turned))
		box := m.MustElement("[data-view] canvas").MustShape().Box()
		m.Mouse.MustMoveTo(box.X+box.Width/2, box.Y+box.Height/2)
		m.MustElement("[data-hover^='face:']")
		m.Mouse.MustClick(proto.InputMouseButtonLeft)
		m.do("New hole")
		m.settled()
		if chips := m.MustElements("form .badge"); len(chips) != 1 || !strings.Contains(chips[0].MustText(), "top of plate") {
			t.Errorf("%d fields have the face, and one should: %s", len(chips), m.MustElement("form").MustText())
		}
		m.press("Cancel")
		// The sides of a part that is turned are told apart.
		m.do("New fillet")
		m.settled()
		m.MustElementR("form option", "between the front right side of plate and the")
		m.MustElementR("form option", "between the back left side of plate and the")
		m.press("Cancel")
	})

	// The picture of a part makes geometries at every move of the mouse; what it made before it
	// gives back, or a long sitting fills the graphics card.
	t.Run("moving over a part for long", func(t *testing.T) {
		if _, err := ada.Page.EvalOnNewDocument(`(() => {
			const card = WebGL2RenderingContext.prototype, make = card.createBuffer, free = card.deleteBuffer;
			window.buffers = 0;
			card.createBuffer = function () { window.buffers++; return make.call(this) };
			card.deleteBuffer = function (b) { if (b) window.buffers--; return free.call(this, b) };
		})()`); err != nil {
			t.Fatal(err)
		}
		m := ada.openModeller("1")
		view := m.MustElement("[data-model] canvas").MustShape().Box()
		held := func() int { return m.MustEval(`() => window.buffers`).Int() }
		sweep := func(clicks bool) {
			for i := range 40 {
				m.Mouse.MustMoveTo(view.X+view.Width*(0.3+0.4*float64(i%8)/7), view.Y+view.Height*(0.3+0.4*float64(i/8)/4))
				time.Sleep(30 * time.Millisecond)
				if clicks && i%5 == 0 {
					m.Mouse.MustClick(proto.InputMouseButtonLeft)
				}
			}
			m.Mouse.MustMoveTo(view.X+view.Width/2, view.Y+view.Height/2)
			time.Sleep(300 * time.Millisecond)
		}
		sweep(true)
		before := held()
		for range 4 {
			sweep(true)
		}
		if after := held(); before < 10 || after > before+20 {
			t.Errorf("the picture holds %d buffers, and %d after four times the same", before, after)
		}
	})
}
