// Package planesvg writes plane curves as SVG of their true size.
package planesvg

import (
	"bytes"
	"fmt"
	"html"
	"math"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

func n(v float64) string { return quantity.FormatDecimal(v, 5) }

// Write writes curves, in millimetres, with a margin around them. Guide lines are
// chain lines. Splines and ellipses are cubic pieces and arcs, not chords.
func Write(title string, curves []sketch.Curve) []byte {
	const margin = 2
	lo, hi, ok := sketch.Bounds(curves, nil)
	if !ok {
		lo, hi = sketch.Vec{}, sketch.Vec{X: 10, Y: 10}
	}
	var b bytes.Buffer
	w, h := hi.X-lo.X+2*margin, hi.Y-lo.Y+2*margin
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%smm" height="%smm" viewBox="%s %s %s %s">
		<title>%s</title>`+"\n",
		n(w), n(h), n(lo.X-margin), n(-hi.Y-margin), n(w), n(h), html.EscapeString(title))
	b.WriteString(`<g fill="none" stroke="#1d2a35" stroke-width="0.35" stroke-linecap="round" stroke-linejoin="round">` +
		"\n")
	for i := range curves {
		c := &curves[i]
		style := ""
		if c.Guide {
			style = ` stroke-width="0.18" stroke-dasharray="6 1.5 0.5 1.5"`
		}
		fmt.Fprintf(&b, `<path id="%s"%s d="%s"/>`+"\n", html.EscapeString(c.ID), style, path(c))
	}
	b.WriteString("</g></svg>\n")
	return b.Bytes()
}

func xy(p sketch.Vec) string { return n(p.X) + " " + n(-p.Y) }

func path(c *sketch.Curve) string {
	lo, hi := c.Range()
	var b strings.Builder
	b.WriteString("M" + xy(c.Point(lo)))
	switch c.Kind {
	case sketch.KindLine:
		b.WriteString("L" + xy(c.B))
	case sketch.KindSpline:
		// Between two knots a cubic spline is one cubic Bézier piece: its inner
		// control points are a third of the end tangents away.
		for i := 3; i < len(c.Poles); i++ {
			t, u := c.Knots[i], c.Knots[i+1]
			if u <= t {
				continue
			}
			p, q := c.Point(t), c.Point(u)
			d := (u - t) / 3
			// Just before the knot, the tangent is that of this piece.
			v, w := c.Tangent(t), c.Tangent(u-1e-9*(u-t))
			fmt.Fprintf(&b, "C%s %s %s", xy(p.Add(v.Scale(d))), xy(q.Sub(w.Scale(d))), xy(q))
		}
	default:
		rx, ry, turn := c.Radius, c.Radius, 0.0
		if c.Kind == sketch.KindEllipse || c.Kind == sketch.KindEllArc {
			rx, ry = c.U.Norm(), c.V.Norm()
			turn = -sketch.Vec{}.AngleTo(c.U) * 180 / math.Pi
		}
		arc := func(to float64, large int) {
			fmt.Fprintf(&b, "A%s %s %s %d 0 %s", n(rx), n(ry), n(turn), large, xy(c.Point(to)))
		}
		if c.Closed() {
			arc(lo+math.Pi, 0)
			arc(lo+2*math.Pi, 0)
			b.WriteString("Z")
		} else if hi-lo > math.Pi {
			arc(hi, 1)
		} else {
			arc(hi, 0)
		}
	}
	return b.String()
}
