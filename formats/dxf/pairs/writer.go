// Package pairs writes what a DXF file is made of: group codes and values, by the published reference of release 2000.
package pairs

import (
	"bytes"
	"fmt"
	"math"
	"strconv"
)

// insertUnits are the codes of $INSUNITS.
var insertUnits = map[string]int{"in": 1, "mm": 4, "cm": 5, "m": 6}

// Writer writes pairs of a group code and a value, one to a line.
type Writer struct {
	bytes.Buffer
	Handle int // the last one that was given
}

// Text writes a text.
func (w *Writer) Text(code int, v string) { fmt.Fprintf(w, "%3d\n%s\n", code, v) }

// Whole writes a whole number.
func (w *Writer) Whole(code, v int) { w.Text(code, strconv.Itoa(v)) }

// Number writes a number with a decimal point.
func (w *Writer) Number(code int, v float64) {
	s := strconv.FormatFloat(v, 'f', -1, 64)
	if math.Abs(v) < 1e-12 {
		s = "0"
	}
	if !bytes.ContainsRune([]byte(s), '.') {
		s += ".0"
	}
	w.Text(code, s)
}

// Point writes a place of the plane, under a code and those of its other coordinates.
func (w *Writer) Point(code int, x, y float64) {
	w.Number(code, x)
	w.Number(code+10, y)
	w.Number(code+20, 0)
}

// On starts an entity on a layer.
func (w *Writer) On(layer, kind, class string) { w.Weighted(layer, kind, class, 0) }

// Weighted starts an entity on a layer, with lines of a weight in hundredths of a millimetre; 0 is that of the layer.
func (w *Writer) Weighted(layer, kind, class string, weight int) {
	w.Text(0, kind)
	w.Handle++
	w.Text(5, fmt.Sprintf("%X", w.Handle))
	w.Text(100, "AcDbEntity")
	w.Text(8, layer)
	if weight > 0 {
		w.Whole(370, weight)
	}
	w.Text(100, class)
}

// Header writes the section that says the release and the unit.
func (w *Writer) Header(unit string) {
	w.Section("HEADER")
	w.Text(9, "$ACADVER")
	w.Text(1, "AC1015")
	w.Text(9, "$INSUNITS")
	w.Whole(70, insertUnits[unit])
	w.Text(9, "$MEASUREMENT")
	w.Whole(70, map[bool]int{true: 0, false: 1}[unit == "in"])
	w.Text(9, "$HANDSEED")
	w.Text(5, "FFFFFF")
	w.Text(0, "ENDSEC")
}

// Section begins a section.
func (w *Writer) Section(name string) {
	w.Text(0, "SECTION")
	w.Text(2, name)
}

// Degrees is an angle in radians as the format has it, from 0 to 360.
func Degrees(t float64) float64 {
	d := math.Mod(t*180/math.Pi, 360)
	if d < 0 {
		d += 360
	}
	return d
}
