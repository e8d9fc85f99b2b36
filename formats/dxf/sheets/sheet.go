// Package sheets writes sheets as DXF.
package sheets

import (
	"fmt"
	"math"

	"hammerset/core/sheet"
	"hammerset/formats/dxf/pairs"
	"hammerset/formats/lettering"
)

// layer is a layer of a sheet: its name, the type of its lines, and their weight in hundredths of a millimetre.
type layer struct {
	name, line string
	weight     int
}

// layers are those of a sheet, one for each class of what is drawn (ISO 128-2 for the types and widths of lines).
func layers() map[sheet.Class]layer {
	return map[sheet.Class]layer{
		sheet.Visible: {"VISIBLE", "CONTINUOUS", 50}, sheet.Hidden: {"HIDDEN", "DASHED", 25},
		sheet.Centre: {"CENTRE", "LONG_DASH_DOT", 18}, sheet.Hatch: {"HATCHING", "CONTINUOUS", 18},
		sheet.Frame: {"FRAME", "CONTINUOUS", 70}, sheet.Thin: {"NARROW", "CONTINUOUS", 25},
		sheet.Dimension: {"DIMENSIONS", "CONTINUOUS", 25}, sheet.Balloon: {"BALLOONS", "CONTINUOUS", 25},
		sheet.Label: {"LABELS", "CONTINUOUS", 25},
	}
}

// order is the order in which layers are listed.
func order() []sheet.Class {
	return []sheet.Class{sheet.Visible, sheet.Hidden, sheet.Centre, sheet.Hatch, sheet.Frame, sheet.Thin, sheet.Dimension,
		sheet.Balloon, sheet.Label}
}

// sheetWriter writes a sheet, in millimetres of paper.
type sheetWriter struct {
	pairs.Writer
	font   *lettering.Font
	layers map[sheet.Class]layer
}

// Write writes a drawing with a layer for each class of lines. A dimension is a DIMENSION entity with the block in
// which it is drawn here, so that it looks the same everywhere; letters are filled outlines of the sheet's own
// lettering.
func Write(d *sheet.Drawing, font *lettering.Font) []byte {
	w := &sheetWriter{Writer: pairs.Writer{Handle: 0x100}, font: font, layers: layers()}
	w.Header("mm")
	blocks := append([]string{"*Model_Space", "*Paper_Space"}, make([]string, len(d.Spans))...)
	for i := range d.Spans {
		blocks[i+2] = fmt.Sprintf("*D%d", i+1)
	}
	w.tables(blocks)
	w.Section("BLOCKS")
	inBlock := make([]bool, len(d.Items))
	for i, name := range blocks {
		w.On("0", "BLOCK", "AcDbBlockBegin")
		w.Text(2, name)
		w.Whole(70, map[bool]int{true: 0, false: 1}[i < 2]) // 1 for a block of a dimension
		w.Point(10, 0, 0)
		w.Text(3, name)
		w.Text(1, "")
		if i >= 2 {
			s := d.Spans[i-2]
			for k, it := range d.Items {
				// The balloon is no part of the dimension, and stays by itself.
				if it.Mark == s.Mark && it.Characteristic == s.Characteristic && it.Class == sheet.Dimension && !inBlock[k] {
					inBlock[k] = true
					w.item(it)
				}
			}
		}
		w.On("0", "ENDBLK", "AcDbBlockEnd")
	}
	w.Text(0, "ENDSEC")
	w.Section("ENTITIES")
	for k, it := range d.Items {
		if !inBlock[k] {
			w.item(it)
		}
	}
	for i, s := range d.Spans {
		w.dimension(blocks[i+2], s)
	}
	w.Text(0, "ENDSEC")
	w.Section("OBJECTS")
	w.Text(0, "DICTIONARY")
	w.Text(5, "C")
	w.Text(100, "AcDbDictionary")
	w.Text(0, "ENDSEC")
	w.Text(0, "EOF")
	return w.Bytes()
}

// tables writes the tables of line types, layers, styles and blocks.
func (w *sheetWriter) tables(blocks []string) {
	w.Section("TABLES")
	lines := []struct {
		name, words string
		dashes      []float64 // gaps are negative
	}{{"CONTINUOUS", "unbroken", nil}, {"DASHED", "02", []float64{3, -1}},
		{"LONG_DASH_DOT", "08", []float64{8, -1, 0.5, -1}}}
	w.table("LTYPE", len(lines))
	for _, l := range lines {
		w.record("LTYPE", "AcDbLinetypeTableRecord", l.name)
		w.Text(3, l.words)
		w.Whole(72, 65)
		w.Whole(73, len(l.dashes))
		sum := 0.0
		for _, v := range l.dashes {
			sum += math.Abs(v)
		}
		w.Number(40, sum)
		for _, v := range l.dashes {
			w.Number(49, v)
			w.Whole(74, 0)
		}
	}
	w.Text(0, "ENDTAB")
	w.table("LAYER", len(w.layers)+1)
	w.layer(layer{"0", "CONTINUOUS", 25})
	for _, c := range order() {
		w.layer(w.layers[c])
	}
	w.Text(0, "ENDTAB")
	w.table("DIMSTYLE", 1)
	w.Text(0, "DIMSTYLE")
	w.Handle++
	w.Text(105, fmt.Sprintf("%X", w.Handle))
	w.Text(100, "AcDbSymbolTableRecord")
	w.Text(100, "AcDbDimStyleTableRecord")
	w.Text(2, "STANDARD")
	w.Whole(70, 0)
	w.Text(0, "ENDTAB")
	w.table("BLOCK_RECORD", len(blocks))
	for _, name := range blocks {
		w.record("BLOCK_RECORD", "AcDbBlockTableRecord", name)
	}
	w.Text(0, "ENDTAB")
	w.Text(0, "ENDSEC")
}

func (w *sheetWriter) table(name string, n int) {
	w.Text(0, "TABLE")
	w.Text(2, name)
	w.Handle++
	w.Text(5, fmt.Sprintf("%X", w.Handle))
	w.Text(100, "AcDbSymbolTable")
	w.Whole(70, n)
}

func (w *sheetWriter) record(kind, class, name string) {
	w.Text(0, kind)
	w.Handle++
	w.Text(5, fmt.Sprintf("%X", w.Handle))
	w.Text(100, "AcDbSymbolTableRecord")
	w.Text(100, class)
	w.Text(2, name)
	if kind != "BLOCK_RECORD" {
		w.Whole(70, 0)
	}
}

func (w *sheetWriter) layer(l layer) {
	w.record("LAYER", "AcDbLayerTableRecord", l.name)
	w.Whole(62, 7)
	w.Text(6, l.line)
	w.Whole(370, l.weight)
}

// at writes a place to a thousandth of a millimetre of paper, as in the other formats. A sheet tells what is printed on
// it and not what its reference is to the last digit.
func (w *sheetWriter) at(code int, p sheet.Point) { w.Point(code, neat(p[0]), neat(p[1])) }

func neat(v float64) float64 { return math.Round(1e3*v) / 1e3 }

// item writes what is drawn as the entities that it is.
func (w *sheetWriter) item(it sheet.Item) {
	on := w.layers[it.Class].name
	switch {
	case it.Kind == "text":
		w.letters(it, on)
	case it.Kind == "fill":
		w.filled(on, [][]sheet.Point{it.Points})
	case it.Kind == "arc" && math.Abs(it.Sweep) > 2*math.Pi-1e-9:
		w.begin(on, "CIRCLE", "AcDbCircle", it)
		w.at(10, it.Centre)
		w.Number(40, neat(it.Radius))
	case it.Kind == "arc":
		from, to := it.Start, it.Start+it.Sweep
		if it.Sweep < 0 {
			from, to = to, from
		}
		w.begin(on, "ARC", "AcDbCircle", it)
		w.at(10, it.Centre)
		w.Number(40, neat(it.Radius))
		w.Text(100, "AcDbArc")
		w.Number(50, pairs.Degrees(from))
		w.Number(51, pairs.Degrees(to))
	case len(it.Points) == 2:
		w.begin(on, "LINE", "AcDbLine", it)
		w.at(10, it.Points[0])
		w.at(11, it.Points[1])
	default:
		w.begin(on, "LWPOLYLINE", "AcDbPolyline", it)
		w.Whole(90, len(it.Points))
		w.Whole(70, 0)
		for _, p := range it.Points {
			w.Number(10, neat(p[0]))
			w.Number(20, neat(p[1]))
		}
	}
}

// begin starts an entity that is drawn as wide as its item, where that is not the width of its layer.
func (w *sheetWriter) begin(on, kind, class string, it sheet.Item) {
	weight := int(math.Round(100 * it.Width))
	if weight == w.layers[it.Class].weight {
		weight = 0
	}
	w.Weighted(on, kind, class, weight)
}

// letters writes a text as the filled outlines of its letters.
func (w *sheetWriter) letters(it sheet.Item, on string) {
	if runs := w.font.Runs(it.Text, it.Height, it.Anchor, it.Turn, it.Points[0]); len(runs) > 0 {
		closed := make([][]sheet.Point, len(runs))
		for i, r := range runs {
			for _, p := range r {
				closed[i] = append(closed[i], p)
			}
		}
		w.filled(on, closed)
	}
}

// filled writes areas that are filled, but for what lies within an even number of outlines.
func (w *sheetWriter) filled(on string, outlines [][]sheet.Point) {
	w.On(on, "HATCH", "AcDbHatch")
	w.Point(10, 0, 0)
	w.Number(210, 0)
	w.Number(220, 0)
	w.Number(230, 1)
	w.Text(2, "SOLID")
	w.Whole(70, 1)
	w.Whole(71, 0)
	w.Whole(91, len(outlines))
	for _, o := range outlines {
		w.Whole(92, 3) // an outer one, made of a polyline
		w.Whole(72, 0)
		w.Whole(73, 1)
		w.Whole(93, len(o))
		for _, p := range o {
			w.Number(10, neat(p[0]))
			w.Number(20, neat(p[1]))
		}
		w.Whole(97, 0)
	}
	w.Whole(75, 0)
	w.Whole(76, 1)
	w.Whole(98, 0)
}

// along is the angle of a dimension line, in degrees from 0 up to 180: it is square to its extension lines, and where
// there is none it runs from end to end.
func along(s sheet.Span) float64 {
	d := sheet.Point{s.To[0] - s.From[0], s.To[1] - s.From[1]}
	if e := (sheet.Point{s.At[0] - s.To[0], s.At[1] - s.To[1]}); math.Hypot(e[0], e[1]) > 1e-6 {
		d = sheet.Point{-e[1], e[0]}
	}
	angle := math.Mod(neat(math.Atan2(d[1], d[0])*180/math.Pi)+360, 180)
	return neat(angle)
}

// dimension writes a dimension, which is drawn in its block.
func (w *sheetWriter) dimension(block string, s sheet.Span) {
	kinds := map[string]int{"linear": 0, "diameter": 3, "angle": 5}
	w.On(w.layers[sheet.Dimension].name, "DIMENSION", "AcDbDimension")
	w.Text(2, block)
	at := s.At
	if s.Form == "diameter" {
		at = s.From
	}
	w.at(10, at)
	w.at(11, s.Text)
	w.Whole(70, kinds[s.Form]+32+128) // its block is its own, and its text stands where it was put
	w.Text(1, s.Printed)
	w.Text(3, "STANDARD")
	switch s.Form {
	case "linear":
		w.Text(100, "AcDbAlignedDimension")
		w.at(13, s.From)
		w.at(14, s.To)
		w.Number(50, along(s))
		w.Text(100, "AcDbRotatedDimension")
	case "diameter":
		w.Text(100, "AcDbDiametricDimension")
		w.at(15, s.To)
		w.Number(40, neat(math.Hypot(s.At[0]-s.To[0], s.At[1]-s.To[1])))
	case "angle":
		w.Text(100, "AcDb3PointAngularDimension")
		w.at(13, s.From)
		w.at(14, s.To)
		w.at(15, s.Corner)
	}
}
