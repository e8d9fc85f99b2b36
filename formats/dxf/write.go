// Package dxf writes and reads plane curves as ASCII DXF, the published drawing
// exchange format: lines, circles, arcs, ellipses and cubic splines as entities of
// release 2000 (group codes of its reference), and polylines when reading.
package dxf

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/formats/dxf/pairs"
)

// Layers of what is written: the outline, and guide lines.
const (
	outline = "PROFILE"
	guides  = "GUIDE"
)

// writer writes the entities of sketches.
type writer struct{ pairs.Writer }

// begin starts an entity of a sketch on its layer.
func (w *writer) begin(kind, class string, guide bool) {
	layer := outline
	if guide {
		layer = guides
	}
	w.On(layer, kind, class)
}

// at writes a place.
func (w *writer) at(code int, p sketch.Vec) { w.Point(code, p.X, p.Y) }

// Write writes curves in a unit of length. Angles are in degrees, and coordinates
// in the unit.
func Write(curves []sketch.Curve, unit quantity.Unit) []byte {
	w := &writer{pairs.Writer{Handle: 0x100}}
	w.Header(unit.Symbol)
	w.Section("TABLES")
	w.Text(0, "TABLE")
	w.Text(2, "LAYER")
	w.Text(5, "2")
	w.Text(100, "AcDbSymbolTable")
	w.Whole(70, 2)
	for i, name := range []string{outline, guides} {
		w.Text(0, "LAYER")
		w.Text(5, fmt.Sprintf("%X", 0x10+i))
		w.Text(100, "AcDbSymbolTableRecord")
		w.Text(100, "AcDbLayerTableRecord")
		w.Text(2, name)
		w.Whole(70, 0)
		w.Whole(62, 7)
		w.Text(6, "CONTINUOUS")
	}
	w.Text(0, "ENDTAB")
	w.Text(0, "ENDSEC")
	w.Section("ENTITIES")
	f := 1 / unit.Factor
	for i := range curves {
		c := &curves[i]
		switch c.Kind {
		case sketch.KindLine:
			w.begin("LINE", "AcDbLine", c.Guide)
			w.at(10, c.A.Scale(f))
			w.at(11, c.B.Scale(f))
		case sketch.KindCircle, sketch.KindArc:
			kind := map[bool]string{true: "CIRCLE", false: "ARC"}[c.Kind == sketch.KindCircle]
			w.begin(kind, "AcDbCircle", c.Guide)
			w.at(10, c.Center.Scale(f))
			w.Number(40, c.Radius*f)
			if c.Kind == sketch.KindArc {
				lo, hi := c.Range()
				w.Text(100, "AcDbArc")
				w.Number(50, pairs.Degrees(lo))
				w.Number(51, pairs.Degrees(hi))
			}
		case sketch.KindEllipse, sketch.KindEllArc:
			w.ellipse(c, f)
		case sketch.KindSpline:
			w.begin("SPLINE", "AcDbSpline", c.Guide)
			w.Whole(70, 8) // planar
			w.Whole(71, 3)
			w.Whole(72, len(c.Knots))
			w.Whole(73, len(c.Poles))
			w.Whole(74, 0)
			for _, k := range c.Knots {
				w.Number(40, k)
			}
			for _, p := range c.Poles {
				w.at(10, p.Scale(f))
			}
		}
	}
	w.Text(0, "ENDSEC")
	w.Text(0, "EOF")
	return w.Bytes()
}

// ellipse writes an ellipse by its longer half axis, as the format wants it.
func (w *writer) ellipse(c *sketch.Curve, f float64) {
	lo, hi := c.Range()
	u, v := c.U, c.V
	if v.Norm() > u.Norm() { // a quarter turn on: the point at t is then at t - π/2
		u, v = v, u.Scale(-1)
		lo, hi = lo-math.Pi/2, hi-math.Pi/2
	}
	w.begin("ELLIPSE", "AcDbEllipse", c.Guide)
	w.at(10, c.Center.Scale(f))
	w.at(11, u.Scale(f))
	w.Number(40, v.Norm()/u.Norm())
	if c.Kind == sketch.KindEllipse {
		lo, hi = 0, 2*math.Pi
	}
	for lo < 0 {
		lo, hi = lo+2*math.Pi, hi+2*math.Pi
	}
	w.Number(41, lo)
	w.Number(42, hi)
}
