package sheet

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// notes carries the cosmetic threads and texts of the model into the views that see
// them from the front. Threads are drawn after ISO 6410-1: seen along the axis, three
// quarters of a thin circle, the major diameter of an internal thread outside its
// bore, the minor one of an external thread inside its cylinder. Each step gets one
// label, with the number of its places.
func (b *builder) notes(list []part.Note) {
	places := map[string]int{}
	for _, n := range list {
		places[n.Step]++
	}
	said := map[string]bool{}
	for _, n := range list {
		said[n.Step] = said[n.Step] || n.Kind == "thread" && b.threadStated(n.At)
	}
	for _, spec := range b.sheet.Views {
		v := b.views[spec.ID]
		if v == nil || fromCorner(spec) {
			continue
		}
		b.in = where{view: spec.ID}
		for _, n := range list {
			facing := n.Normal.Dot(v.frame.Z)
			if n.Kind == "text" && facing < 0.99 || n.Kind == "thread" && math.Abs(facing) < 0.99 {
				continue
			}
			at := v.project(n.At)
			if n.Kind == "text" {
				if !said[n.Step] {
					b.text(Label, n.Text, at, n.Size*v.scale, "middle", 0, "")
				}
				said[n.Step] = true
				continue
			}
			r := n.Size / 2
			if 2*n.Radius > n.Size-0.05 { // an external thread
				if t, err := standards.MetricThread(n.Text); err == nil {
					r = (n.Size - 1.2269*t.Pitch) / 2 // the minor diameter d3 of ISO 724
				}
			}
			b.add(Item{Class: Thin, Kind: "arc", Centre: at, Radius: r * v.scale, Start: math.Pi / 12, Sweep: 1.5 * math.Pi,
				Width: standards.LineNarrow})
			if said[n.Step] {
				continue
			}
			said[n.Step] = true
			text := n.Text
			if n.Length > 0 {
				text += fmt.Sprintf(" × %s", b.ex.State(quantity.Length, n.Length).Text)
			}
			if k := places[n.Step]; k > 1 {
				text = fmt.Sprintf("%d × %s", k, text)
			}
			b.noteLeader(v, n.At, r, text)
		}
	}
}

// threadStated tells whether a dimension of the sheet states the thread of the hole or shaft at
// a place: a label would say it twice.
func (b *builder) threadStated(at solid.Vec) bool {
	for _, m := range b.sheet.Marks {
		for _, id := range m.Of {
			c := b.ex.Characteristic(id)
			if c == nil || !c.Declared().Worded() || c.Declared().Whole() {
				continue
			}
			places, _, err := b.nominal(c)
			if err != nil {
				continue // told where the dimension is drawn
			}
			for _, p := range places {
				for _, i := range p.Faces() {
					if f := b.geo.Faces[i]; f.Kind == solid.CylinderFace && solid.FromAxis(at, f.Origin, f.Axis).Norm() < 1e-4 {
						return true
					}
				}
			}
		}
	}
	return false
}

// noteLeader writes a label beside a round place with a leader to its rim: outside the view where that is nearer, at
// the first place at which nothing runs through it.
func (b *builder) noteLeader(v *view, at solid.Vec, r float64, text string) {
	c := v.project(at)
	side := 1.0
	if c[0] < (v.box.Min[0]+v.box.Max[0])/2 {
		side = -1
	}
	first := noteAt(c, Point{side, 1}, r*v.scale, 9, text)
	best, found := first, false
	for _, length := range []float64{9, 15, 22, 30} {
		for _, dir := range []Point{{side, 1}, {side, -1}, {-side, 1}, {-side, -1}} {
			if n := noteAt(c, dir, r*v.scale, length, text); !found && b.isFree(n.text) {
				best, found = n, true
			}
		}
	}
	b.arrow("", best.tip, best.knee.sub(best.tip).unit())
	b.line("", best.tip, best.knee)
	b.line("", best.knee, best.end)
	b.text(Label, text, best.text.Points[0], standards.Lettering, best.text.Anchor, 0, "")
}

// pointedNote is a label at a leader.
type pointedNote struct {
	tip, knee, end Point
	text           Item
}

// noteAt is a label that stands in a direction from a round place, at the end of a leader so long.
func noteAt(middle, dir Point, radius, length float64, text string) pointedNote {
	n := pointedNote{tip: middle.add(dir.unit().scale(radius))}
	n.knee = n.tip.add(dir.unit().scale(length))
	n.end = n.knee.add(Point{dir[0] * 4, 0})
	n.text = Item{Class: Label, Kind: "text", Text: text, Height: standards.Lettering, Anchor: "start",
		Points: []Point{n.end.add(Point{dir[0], -standards.Lettering / 2})}}
	if dir[0] < 0 {
		n.text.Anchor = "end"
	}
	return n
}

// isFree tells whether nothing that is drawn so far runs through a text or lies on it, and it stands on the sheet.
func (b *builder) isFree(text Item) bool { return b.isClear(textExtent(text, b.metrics)) }

// isClear tells whether nothing that is drawn so far runs through a rectangle or lies on it, and it stands on the
// sheet.
func (b *builder) isClear(e Extent) bool {
	l := label{Extent: e}
	_, crossed := l.crossed(b.out.obstacles())
	return !crossed && l.Min[0] > binding && l.Max[0] < b.out.Width-margin && l.Min[1] > margin &&
		l.Max[1] < b.out.Height-margin &&
		!slices.ContainsFunc(b.out.labels(b.metrics), func(o label) bool { return o.Overlaps(l.Extent) })
}
