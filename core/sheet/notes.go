package sheet

import (
	"fmt"
	"math"

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

// noteLeader writes a label beside a round place, outside the view where that is
// nearer, with a leader to its rim.
func (b *builder) noteLeader(v *view, at solid.Vec, r float64, text string) {
	c := v.project(at)
	side := 1.0
	if c[0] < (v.box.Min[0]+v.box.Max[0])/2 {
		side = -1
	}
	dir := Point{side, 1}.unit()
	tip := c.add(dir.scale(r * v.scale))
	knee := tip.add(dir.scale(9))
	end := knee.add(Point{side * 4, 0})
	b.arrow("", tip, dir)
	b.line("", tip, knee)
	b.line("", knee, end)
	anchor := "start"
	if side < 0 {
		anchor = "end"
	}
	b.text(Label, text, end.add(Point{side, -standards.Lettering / 2}), standards.Lettering, anchor, 0, "")
}
