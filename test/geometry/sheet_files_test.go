package geometry

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"hammerset/core/sheet"
	"hammerset/formats/dxf/sheets"
	"hammerset/formats/lettering"
	"hammerset/formats/pdf"
	pngsheet "hammerset/formats/png"
)

// A sheet is written as DXF so that another reader, dxf-parser of the npm registry, finds its lines on their layers in
// their places, and every dimension as one, between points as far apart on the paper as it says.
func TestSheetAsDXF(t *testing.T) {
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	b := demoExercise(t, "bearing-bracket")
	d, _ := draw(t, b.Parsed, b)
	file := filepath.Join(t.TempDir(), "sheet.dxf")
	if err := os.WriteFile(file, sheets.Write(d, f), 0o644); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "--input-type=module", "-e", fmt.Sprintf(`
import fs from "node:fs"; import Parser from "dxf-parser";
const d = new Parser().parseSync(fs.readFileSync(%q, "utf8"));
console.log(JSON.stringify({ units: d.header.$INSUNITS, layers: Object.keys(d.tables.layer.layers),
	blocks: Object.fromEntries(Object.entries(d.blocks).map(([n, b]) => [n, (b.entities ?? []).length])),
	entities: d.entities }));`, file))
	cmd.Dir = "../../web"
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("dxf-parser: %v", err)
	}
	type point struct{ X, Y float64 }
	var got struct {
		Units    int
		Layers   []string
		Blocks   map[string]int
		Entities []struct {
			Type, Layer, Block, Text string
			DimensionType            int
			Vertices                 []point
			Center                   point
			Radius, Angle            float64
			AnchorPoint              point
			LinearOrAngularPoint1    point
			LinearOrAngularPoint2    point
			DiameterOrRadiusPoint    point
		}
	}
	if err := json.Unmarshal(out, &got); err != nil {
		t.Fatal(err)
	}
	if got.Units != 4 || len(got.Layers) != 10 {
		t.Errorf("units %d, layers %v", got.Units, got.Layers)
	}
	circles, dimensions := 0, 0
	for _, e := range got.Entities {
		switch e.Type {
		case "CIRCLE":
			for _, it := range d.Items {
				if it.Kind == "arc" && math.Hypot(it.Centre[0]-e.Center.X, it.Centre[1]-e.Center.Y) < 1e-3 &&
					math.Abs(it.Radius-e.Radius) < 1e-3 && strings.EqualFold(e.Layer, layerOf(it.Class)) {
					circles++
					break
				}
			}
		case "DIMENSION":
			dimensions++
			if got.Blocks[e.Block] < 1 { // its lines; filled arrows and letters this reader leaves out
				t.Errorf("%s is drawn of %d pieces", e.Text, got.Blocks[e.Block])
			}
			value, err := strconv.ParseFloat(strings.TrimLeft(strings.Fields(e.Text)[0], "⌀(R"), 64)
			if err != nil || strings.Contains(e.Text, "×") || strings.Contains(e.Text, "°") {
				continue
			}
			from, to := e.LinearOrAngularPoint1, e.LinearOrAngularPoint2
			if e.DimensionType&7 == 3 {
				from, to = e.AnchorPoint, e.DiameterOrRadiusPoint
			}
			dx, dy := to.X-from.X, to.Y-from.Y
			length := math.Hypot(dx, dy)
			if e.DimensionType&7 == 0 {
				s, c := math.Sincos(e.Angle * math.Pi / 180)
				length = math.Abs(dx*c + dy*s)
			}
			if math.Abs(length-value) > 0.05+0.01*value { // the sheet is in full size; its sizes are rounded
				t.Errorf("%s spans %.3f mm of paper", e.Text, length)
			}
		}
	}
	if circles < 10 || dimensions != len(d.Spans) || dimensions < 10 {
		t.Errorf("%d circles and %d dimensions of %d", circles, dimensions, len(d.Spans))
	}
}

// layerOf is the name of a layer in the field's words, apart from what is written.
func layerOf(c sheet.Class) string {
	if name, ok := map[sheet.Class]string{sheet.Hatch: "hatching", sheet.Thin: "narrow", sheet.Dimension: "dimensions",
		sheet.Balloon: "balloons", sheet.Label: "labels"}[c]; ok {
		return name
	}
	return string(c)
}

// A sheet as a picture has its true size at 200 dots per inch, white paper, and ink where a line of the part runs.
func TestSheetAsPNG(t *testing.T) {
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	b := demoExercise(t, "gland-flange")
	d, _ := draw(t, b.Parsed, b)
	data, err := pngsheet.Sheet(d, f)
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	if w, h := img.Bounds().Dx(), img.Bounds().Dy(); w != int(math.Ceil(d.Width/25.4*200)) ||
		h != int(math.Ceil(d.Height/25.4*200)) {
		t.Fatalf("%d by %d pixels of a paper of %g by %g mm", w, h, d.Width, d.Height)
	}
	dark := func(p sheet.Point) bool {
		r, _, _, _ := img.At(int(p[0]/25.4*200), int((d.Height-p[1])/25.4*200)).RGBA()
		return r < 0x8000
	}
	lines := 0
	for _, it := range d.Items {
		if it.Class != sheet.Visible || it.Kind != "run" || len(it.Points) != 2 {
			continue
		}
		a, b := it.Points[0], it.Points[1]
		lines++
		if !dark(sheet.Point{0.45*a[0] + 0.55*b[0], 0.45*a[1] + 0.55*b[1]}) {
			t.Errorf("the line from %v to %v is not painted", a, b)
		}
	}
	if lines == 0 || dark(sheet.Point{3, 3}) || dark(sheet.Point{d.Width - 3, 3}) {
		t.Errorf("%d lines, and the edge of the paper is dark", lines)
	}
}

// Another reader, pdfjs-dist of the npm registry, finds in a PDF every straight line of the part and of its dimensions
// at its place in millimetres of paper: it is printed in true scale.
func TestSheetAsPDF(t *testing.T) {
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	b := demoExercise(t, "bearing-bracket")
	d, _ := draw(t, b.Parsed, b)
	data, err := pdf.Sheet(d, f)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "sheet.pdf")
	if err := os.WriteFile(file, data, 0o644); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "--input-type=module", "-e", fmt.Sprintf(`
import fs from "node:fs"; import { getDocument, OPS, Util } from "pdfjs-dist/legacy/build/pdf.mjs";
const doc = await getDocument({ data: new Uint8Array(fs.readFileSync(%q)), verbosity: 0 }).promise;
const page = await doc.getPage(1), list = await page.getOperatorList();
let at = [1, 0, 0, 1, 0, 0]; const kept = [], lines = [];
list.fnArray.forEach((fn, i) => {
	const args = list.argsArray[i];
	if (fn === OPS.save) kept.push(at);
	if (fn === OPS.restore) at = kept.pop();
	if (fn === OPS.transform) at = Util.transform(at, args);
	if (fn !== OPS.constructPath) return;
	const [ops, xy] = args; let k = 0, from = null;
	const next = () => Util.applyTransform([xy[k++], xy[k++]], at).map((v) => (v / 72) * 25.4);
	for (const op of ops) {
		if (op === OPS.moveTo) from = next();
		else if (op === OPS.lineTo) { const to = next(); lines.push([from, to]); from = to; }
		else if (op === OPS.curveTo) { next(); next(); from = next(); }
		else if (op === OPS.rectangle) { k += 4; }
	}
});
console.log(JSON.stringify({ pages: doc.numPages, size: page.view.map((v) => (v / 72) * 25.4), lines }));`, file))
	cmd.Dir = "../../web"
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("pdfjs-dist: %v", err)
	}
	var got struct {
		Pages int
		Size  [4]float64
		Lines [][2]sheet.Point
	}
	if err := json.Unmarshal(out, &got); err != nil {
		t.Fatalf("%v: %.200s", err, out)
	}
	if got.Pages != 1 || math.Abs(got.Size[2]-d.Width) > 0.01 || math.Abs(got.Size[3]-d.Height) > 0.01 {
		t.Errorf("%d pages of %v mm, want %g by %g", got.Pages, got.Size, d.Width, d.Height)
	}
	same := func(a, b sheet.Point) bool { return math.Hypot(a[0]-b[0], a[1]-b[1]) < 0.02 }
	lines := 0
	for _, it := range d.Items {
		if it.Kind != "run" || it.Class != sheet.Visible && it.Class != sheet.Dimension {
			continue
		}
		for i := 1; i < len(it.Points); i++ {
			lines++
			a, b := it.Points[i-1], it.Points[i]
			if !slices.ContainsFunc(got.Lines, func(l [2]sheet.Point) bool {
				return same(l[0], a) && same(l[1], b) || same(l[0], b) && same(l[1], a)
			}) {
				t.Errorf("the line from %v to %v is not printed there", a, b)
			}
		}
	}
	if lines < 50 {
		t.Errorf("%d lines were looked for", lines)
	}
}
