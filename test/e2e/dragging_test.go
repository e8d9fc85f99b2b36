package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"
)

// How long it takes from a move of the mouse until the dimension or the view that is dragged is painted there, on a
// sheet with 60 dimensions. It is a part of make bench.
func TestDraggingOnASheet(t *testing.T) {
	if os.Getenv("HAMMERSET_BENCH") == "" {
		t.Skip("a part of make bench")
	}
	a := startAloneApp(t)
	b := startBrowser(t)
	var holes strings.Builder
	for i := range 19 { // each has a diameter and two distances
		x, y := 12+15*(i%7)+i/7, 12+16*(i/7)+i%7
		fmt.Fprintf(&holes, `{"id":"m%d","kind":"point","at":[%d,%d]},`, i, x, y)
		fmt.Fprintf(&holes, `{"id":"h%d","kind":"circle","center":"m%d","radius":%g},`, i, i, 2+0.1*float64(i))
	}
	doc := strings.NewReplacer("[80,0]", "[120,0]", "[80,50]", "[120,60]", "[0,50]", "[0,60]",
		`{"id":"m",`, holes.String()+`{"id":"m",`, "[20,30]", "[112,52]", "[60,30]", "[5,55]",
		`"radius":4`, `"radius":1`).Replace(barePlate)
	p, _ := layOutModel(t, a, b, doc)
	p.press("State all that is missing")
	p.until(`!document.body.innerText.includes("Missing")`)
	p.still("A draft, not saved yet")
	n := p.MustEval(`() => new Set([...document.querySelectorAll(".sheet [data-mark]")].map((e) => e.dataset.mark)).size`).
		Int()
	p.MustEval(`() => {
		window.lags = []
		const painted = new MessageChannel()
		const waiting = []
		painted.port1.onmessage = () => { for (const t of waiting.splice(0)) lags.push(performance.now() - t) }
		document.addEventListener("pointermove", (e) => requestAnimationFrame(() => {
			waiting.push(e.timeStamp)
			painted.port2.postMessage(0)
		}), true)
	}`)
	for what, selector := range map[string]string{"a dimension": `.sheet [data-mark][stroke="none"]:has(title)`,
		"a view": `.sheet circle.s-visible[data-view="top"]`} {
		x, y, w, h := p.box(selector)
		p.Page.Mouse.MustMoveTo(x+w/2, y+h/2)
		p.Page.Mouse.MustDown(proto.InputMouseButtonLeft)
		p.MustEval(`() => { lags.length = 0 }`)
		for k := range 120 {
			p.Page.Mouse.MustMoveTo(x+w/2+float64(k%40), y+h/2+float64(k%30))
		}
		lag := p.MustEval(`() => { const l = [...lags].sort((a, b) => a - b); return [l.length, l[l.length >> 1],
			l[Math.floor(0.95 * l.length)]] }`).Arr()
		p.Page.Mouse.MustUp(proto.InputMouseButtonLeft)
		t.Logf("%s of a sheet with %d marks: painted after %.1f ms in the middle of %d moves, and after %.1f ms at the 95th "+
			"of a hundred", what, n, lag[1].Num(), lag[0].Int(), lag[2].Num())
		p.still("A draft, not saved yet")
	}
}
