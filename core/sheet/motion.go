package sheet

import (
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// doubleDotted is the long-dashed double-dotted line, type 05 of ISO 128-2, in which moving parts are drawn at the ends
// of their ways (ISO 128-3).
var doubleDotted = []float64{6, 0.8, 0.4, 0.8, 0.4, 0.8}

// motion draws in the views of the whole where moving parts stand at the ends of their ways, and the curves that points
// trace where they are seen from the front.
func (b *builder) motion() {
	c := b.projected.Composed
	for _, spec := range b.sheet.Views {
		v := b.views[spec.ID]
		if v == nil || fromCorner(spec) {
			continue
		}
		b.in = where{view: spec.ID}
		for _, curve := range b.projected.Views[spec.ID].Ends {
			for _, piece := range v.window.through(curve) {
				b.strokeOf(v, piece, Item{Class: Thin, Width: standards.LineNarrow, Dash: doubleDotted})
			}
		}
		for _, path := range c.Curves {
			b.tracing(v, path)
		}
		b.in = where{}
	}
}

// tracing draws a curve that a point traces, unless the view looks along its plane.
func (b *builder) tracing(v *view, path []solid.Vec) {
	const flat = 1.0 // mm on the paper
	var points []Point
	lo, hi := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for _, p := range path {
		q := v.project(p)
		for k := range 2 {
			lo[k], hi[k] = math.Min(lo[k], q[k]), math.Max(hi[k], q[k])
		}
		points = append(points, q)
	}
	if hi[0]-lo[0] < flat || hi[1]-lo[1] < flat {
		return
	}
	b.add(Item{Class: Thin, Kind: "run", Points: points, Width: standards.LineNarrow, Dash: doubleDotted})
}

// fits writes the fits of holes and shafts, each at the first view that shows its axis lengthwise, or else from its
// end.
func (b *builder) fits() {
	for _, f := range b.projected.Composed.Fits {
		text, _, _ := quantity.SheetFormat(b.ex.LengthUnit()).Round(quantity.Quantity{Value: f.Diameter,
			Dim: quantity.Length})
		text = "⌀" + text + " " + f.Classes
		for _, along := range []bool{true, false} {
			if b.fit(f, text, along) {
				break
			}
		}
	}
}

// fit writes a fit at the first view that shows it lengthwise, or from its end.
func (b *builder) fit(f Fitted, text string, along bool) bool {
	for _, first := range []bool{true, false} { // sections first
		for _, spec := range b.sheet.Views {
			v := b.views[spec.ID]
			if v == nil || fromCorner(spec) || (spec.Cut != nil) != first {
				continue
			}
			towards := b.projected.Views[spec.ID].Frame.Z.Dot(f.Axis)
			b.in = where{view: spec.ID}
			switch {
			case along && math.Abs(towards) < 1e-6:
				b.fitLeader(v, f, text)
			case !along && math.Abs(towards) > 1-1e-6:
				b.noteLeader(v, f.At, f.Diameter/2, text)
			default:
				continue
			}
			b.in = where{}
			return true
		}
	}
	return false
}

// fitLeader writes a fit at a leader to the outline of its hole, where nothing runs through it.
func (b *builder) fitLeader(v *view, f Fitted, text string) {
	c, tip := v.project(f.At), v.project(f.At.Add(f.Axis)).sub(v.project(f.At)).unit()
	across := Point{-tip[1], tip[0]}
	var best pointedNote
	found := false
	for _, length := range []float64{12, 18, 26, 36, 48} {
		for _, side := range []float64{1, -1} {
			rim := c.add(across.scale(side * f.Diameter / 2 * v.scale))
			for _, dir := range []Point{{1, 1}, {1, -1}, {-1, 1}, {-1, -1}, {1, 0.4}, {1, -0.4}, {-1, 0.4}, {-1, -0.4}} {
				dir := Point{math.Copysign(1, dir[0]), dir[1]}
				n := noteAt(rim, dir, 0, length, text)
				if best.text.Text == "" || !found && b.isFree(n.text) {
					best, found = n, found || b.isFree(n.text)
				}
			}
		}
	}
	b.arrow("", best.tip, best.knee.sub(best.tip).unit())
	b.line("", best.tip, best.knee)
	b.line("", best.knee, best.end)
	b.text(Label, text, best.text.Points[0], standards.Lettering, best.text.Anchor, 0, "")
}
