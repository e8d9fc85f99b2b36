// Package dxf writes and reads plane curves as ASCII DXF, the published drawing
// exchange format: lines, circles, arcs, ellipses and cubic splines as entities of
// release 2000 (group codes of its reference), and polylines when reading.
package dxf

import (
	"bytes"
	"fmt"
	"math"
	"strconv"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

// Layers of what is written: the outline, and guide lines.
const (
	outline = "PROFILE"
	guides  = "GUIDE"
)

// insertUnits are the codes of $INSUNITS.
var insertUnits = map[string]int{"in": 1, "mm": 4, "cm": 5, "m": 6}

// writer writes pairs of a group code and a value, one to a line.
type writer struct {
	bytes.Buffer
	handle int
}

func (w *writer) text(code int, v string) { fmt.Fprintf(w, "%3d\n%s\n", code, v) }
func (w *writer) whole(code, v int)       { w.text(code, strconv.Itoa(v)) }
func (w *writer) number(code int, v float64) {
	s := strconv.FormatFloat(v, 'f', -1, 64)
	if math.Abs(v) < 1e-12 {
		s = "0"
	}
	if !bytes.ContainsRune([]byte(s), '.') {
		s += ".0"
	}
	w.text(code, s)
}

func (w *writer) point(code int, p sketch.Vec) {
	w.number(code, p.X)
	w.number(code+10, p.Y)
	w.number(code+20, 0)
}

// begin starts an entity on a layer.
func (w *writer) begin(kind, class string, guide bool) {
	w.text(0, kind)
	w.handle++
	w.text(5, fmt.Sprintf("%X", w.handle))
	w.text(100, "AcDbEntity")
	layer := outline
	if guide {
		layer = guides
	}
	w.text(8, layer)
	w.text(100, class)
}

// Write writes curves in a unit of length. Angles are in degrees, and coordinates
// in the unit.
func Write(curves []sketch.Curve, unit quantity.Unit) []byte {
	w := &writer{handle: 0x100}
	section := func(name string) { w.text(0, "SECTION"); w.text(2, name) }
	section("HEADER")
	w.text(9, "$ACADVER")
	w.text(1, "AC1015")
	w.text(9, "$INSUNITS")
	w.whole(70, insertUnits[unit.Symbol])
	w.text(9, "$MEASUREMENT")
	w.whole(70, map[bool]int{true: 0, false: 1}[unit.Symbol == "in"])
	w.text(9, "$HANDSEED")
	w.text(5, "FFFF")
	w.text(0, "ENDSEC")
	section("TABLES")
	w.text(0, "TABLE")
	w.text(2, "LAYER")
	w.text(5, "2")
	w.text(100, "AcDbSymbolTable")
	w.whole(70, 2)
	for i, name := range []string{outline, guides} {
		w.text(0, "LAYER")
		w.text(5, fmt.Sprintf("%X", 0x10+i))
		w.text(100, "AcDbSymbolTableRecord")
		w.text(100, "AcDbLayerTableRecord")
		w.text(2, name)
		w.whole(70, 0)
		w.whole(62, 7)
		w.text(6, "CONTINUOUS")
	}
	w.text(0, "ENDTAB")
	w.text(0, "ENDSEC")
	section("ENTITIES")
	f := 1 / unit.Factor
	deg := func(t float64) float64 {
		d := math.Mod(t*180/math.Pi, 360)
		if d < 0 {
			d += 360
		}
		return d
	}
	for i := range curves {
		c := &curves[i]
		switch c.Kind {
		case sketch.KindLine:
			w.begin("LINE", "AcDbLine", c.Guide)
			w.point(10, c.A.Scale(f))
			w.point(11, c.B.Scale(f))
		case sketch.KindCircle, sketch.KindArc:
			kind := map[bool]string{true: "CIRCLE", false: "ARC"}[c.Kind == sketch.KindCircle]
			w.begin(kind, "AcDbCircle", c.Guide)
			w.point(10, c.Center.Scale(f))
			w.number(40, c.Radius*f)
			if c.Kind == sketch.KindArc {
				lo, hi := c.Range()
				w.text(100, "AcDbArc")
				w.number(50, deg(lo))
				w.number(51, deg(hi))
			}
		case sketch.KindEllipse, sketch.KindEllArc:
			w.ellipse(c, f)
		case sketch.KindSpline:
			w.begin("SPLINE", "AcDbSpline", c.Guide)
			w.whole(70, 8) // planar
			w.whole(71, 3)
			w.whole(72, len(c.Knots))
			w.whole(73, len(c.Poles))
			w.whole(74, 0)
			for _, k := range c.Knots {
				w.number(40, k)
			}
			for _, p := range c.Poles {
				w.point(10, p.Scale(f))
			}
		}
	}
	w.text(0, "ENDSEC")
	w.text(0, "EOF")
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
	w.point(10, c.Center.Scale(f))
	w.point(11, u.Scale(f))
	w.number(40, v.Norm()/u.Norm())
	if c.Kind == sketch.KindEllipse {
		lo, hi = 0, 2*math.Pi
	}
	for lo < 0 {
		lo, hi = lo+2*math.Pi, hi+2*math.Pi
	}
	w.number(41, lo)
	w.number(42, hi)
}
