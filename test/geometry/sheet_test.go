package geometry

import (
	"bytes"
	"compress/zlib"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/core/sheet/audit"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/formats/lettering"
	"hammerset/formats/pdf"
	"hammerset/formats/svg"
	"hammerset/kernel/occ"
)

func draw(t *testing.T, ex *exercise.Exercise, b bundle) (*sheet.Drawing, *lettering.Font) {
	t.Helper()
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	key, built, err := checker().Load(ctx, b.ref)
	if err != nil {
		t.Fatal(err)
	}
	var notes []part.Note
	if built != nil {
		notes = built.Notes
	}
	d, err := sheet.LayOut(ex, ex.Sheet(), projected(t, ex, key), f, notes...)
	if err != nil {
		t.Fatal(err)
	}
	belong(t, ex, d)
	return d, f
}

// projected has the kernel make the views of an exercise's sheet.
func projected(t testing.TB, ex *exercise.Exercise, ref *part.Named) *sheet.Projected {
	t.Helper()
	p, err := sheet.Project(ctx, occ.Kernel{}, ex.Sheets, ref, nil)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// belong wants every item to know what it is of: geometry its view, and what a dimension draws its
// dimension, which is of that view and states the item's characteristic.
func belong(t *testing.T, ex *exercise.Exercise, d *sheet.Drawing) {
	t.Helper()
	drawn, marks := map[string]bool{}, map[string]exercise.Mark{}
	for _, m := range ex.Sheet().Marks {
		marks[m.ID] = m
	}
	for _, it := range d.Items {
		switch it.Class {
		case sheet.Visible, sheet.Hidden, sheet.Centre, sheet.Hatch, sheet.Thin:
			if it.View == "" {
				t.Errorf("an item of class %s belongs to no view: %+v", it.Class, it)
			}
		case sheet.Frame:
			if it.View != "" || it.Mark != "" {
				t.Errorf("an item of the frame belongs to %q, mark %s", it.View, it.Mark)
			}
		}
		if it.Mark == "" {
			continue
		}
		drawn[it.Mark] = true
		of := marks[it.Mark]
		if it.View != of.View || it.Characteristic != "" && !slices.Contains(of.Of, it.Characteristic) {
			t.Errorf("an item of mark %s (of %s in %s) belongs to %q in %q", it.Mark, of.Of, of.View, it.Characteristic, it.View)
		}
	}
	if len(drawn) != len(marks) {
		t.Errorf("%d of %d marks have items", len(drawn), len(marks))
	}
}

// standClear wants every text and balloon on the paper, and nothing that runs through it.
func standClear(t *testing.T, name string, d *sheet.Drawing, f *lettering.Font) {
	t.Helper()
	for _, x := range d.Touching(f) {
		t.Errorf("%s: %s", name, x)
	}
}

// On the demo's sheets every characteristic has its balloon, every text stands
// clear of every other, and all of it is on the paper.
func TestSheetLayout(t *testing.T) {
	hidden := map[string]bool{"bearing-bracket": true, "rack-stop": true, "guide-block": true}
	cut := map[string]bool{"gland-flange": true, "drain-bend": true, "hand-hole-cover": true, "pawl-plate": true}
	for _, name := range demo.Exercises() {
		b := demoExercise(t, name)
		d, f := draw(t, b.Parsed, b)
		seen := map[string]bool{}
		for _, m := range d.Marks {
			seen[m.Characteristic] = true
		}
		for _, c := range b.Parsed.Characteristics {
			if !seen[c.ID] {
				t.Errorf("%s: %s has no balloon", name, c.ID)
			}
		}
		standClear(t, name, d, f)
		classes, threads := map[sheet.Class]int{}, 0
		for _, it := range d.Items {
			classes[it.Class]++
			if it.Text == "M6" {
				threads++
			}
		}
		if want := map[string]int{"rack-stop": 1}[name]; threads != want { // its dimension, and no label beside
			t.Errorf("%s: M6 is said %d times", name, threads)
		}
		for _, c := range []sheet.Class{sheet.Visible, sheet.Centre, sheet.Dimension, sheet.Balloon, sheet.Frame} {
			if classes[c] == 0 {
				t.Errorf("%s: nothing of class %s", name, c)
			}
		}
		if (classes[sheet.Hatch] > 0) != cut[name] || (classes[sheet.Hidden] > 0) != hidden[name] {
			t.Errorf("%s: classes %v", name, classes)
		}
	}
}

// A sheet that is laid out by itself says everything, most of it at the views; its texts
// stand clear of one another and on the paper, and no leader crosses another.
func TestSheetsLaidOutByThemselves(t *testing.T) {
	for _, name := range demo.Exercises() {
		b := demoExercise(t, name)
		key, _, err := checker().Load(ctx, b.ref)
		if err != nil {
			t.Fatal(err)
		}
		f, err := lettering.Load()
		if err != nil {
			t.Fatal(err)
		}
		ex := *b.Parsed
		arranged, err := prepare.Arranged(ctx, occ.Kernel{}, ex, key, f, prepare.Quietly)
		if err != nil {
			t.Fatal(err)
		}
		ex.Sheets = []exercise.Sheet{*arranged}
		if seen, err := projected(t, &ex, key).Seen(ex.Sheets); err != nil {
			t.Fatal(err)
		} else if hidden, err := audit.Unseen(solidOf(t, key), &ex, seen); err != nil || len(hidden) > 0 {
			t.Errorf("%s: not to be seen: %+v, %v", name, hidden, err)
		}
		d, _ := draw(t, &ex, b)
		if dir := os.Getenv("HAMMERSET_LOOK"); dir != "" { // for looking at by hand
			if err := os.WriteFile(filepath.Join(dir, name+".svg"), svg.Render(d, f, svg.Options{}), 0o644); err != nil {
				t.Fatal(err)
			}
		}
		said, placed := map[string]int{}, 0
		for _, m := range d.Marks {
			said[m.Characteristic]++
		}
		for _, x := range ex.Sheet().Marks {
			placed += len(x.Of)
		}
		for _, c := range ex.Characteristics {
			if said[c.ID] != 1 {
				t.Errorf("%s: %s has %d balloons", name, c.ID, said[c.ID])
			}
		}
		if float64(placed) < 0.7*float64(len(ex.Characteristics)) {
			t.Errorf("%s: only %d of %d characteristics are at the views", name, placed, len(ex.Characteristics))
		}
		standClear(t, name, d, f)
		if used := d.Used(f); used < 0.25 || used > 0.8 {
			t.Errorf("%s: %.0f %% of the free area are used", name, 100*used)
		} else {
			t.Logf("%s: %s at %s, %.0f %% of the free area are used", name, arranged.Paper, arranged.Scale, 100*used)
		}
		var leaders [][2]sheet.Point
		for _, it := range d.Items {
			if it.Class == sheet.Dimension && it.Kind == "run" && len(it.Points) == 3 {
				leaders = append(leaders, [2]sheet.Point{it.Points[0], it.Points[1]}, [2]sheet.Point{it.Points[1], it.Points[2]})
			}
		}
		for i, p := range leaders {
			for _, q := range leaders[:i-i%2] {
				if cross(p, q) {
					t.Errorf("%s: leaders cross at %v and %v", name, p, q)
				}
			}
		}
	}
}

// solidOf describes the solid of a reference.
func solidOf(t *testing.T, ref *part.Named) *solid.Geometry {
	t.Helper()
	geo, err := solid.Describe(occ.Kernel{}, ref.Shape, ref.Names)
	if err != nil {
		t.Fatal(err)
	}
	return geo
}

// cross tells whether two straight lines meet between their ends.
func cross(p, q [2]sheet.Point) bool {
	side := func(a, b, c sheet.Point) float64 { return (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0]) }
	return side(p[0], p[1], q[0])*side(p[0], p[1], q[1]) < -1e-9 && side(q[0], q[1], p[0])*side(q[0], q[1], p[1]) < -1e-9
}

// The sheets of the demo as they were written for exercise/2 are drawn alike when they are read now, and when their
// views have been placed by their origins.
func TestEarlierSheetsAreDrawnAlike(t *testing.T) {
	data, err := os.ReadFile("testdata/exercises-2.json")
	if err != nil {
		t.Fatal(err)
	}
	var earlier map[string]json.RawMessage
	if err := json.Unmarshal(data, &earlier); err != nil {
		t.Fatal(err)
	}
	for _, name := range demo.Exercises() {
		b := demoExercise(t, name)
		ex, err := documents.ReadExercise(earlier[name])
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		before, _ := draw(t, ex, b)
		key, _, err := checker().Load(ctx, b.ref)
		if err != nil {
			t.Fatal(err)
		}
		if err := sheet.Settle(ex.Sheets, projected(t, ex, key)); err != nil {
			t.Fatal(err)
		}
		after, _ := draw(t, ex, b)
		if len(before.Items) != len(after.Items) {
			t.Fatalf("%s: %d items, and %d when its views are placed by their origins", name, len(before.Items),
				len(after.Items))
		}
		for i, it := range before.Items {
			for k, p := range it.Points {
				if q := after.Items[i].Points[k]; math.Hypot(p[0]-q[0], p[1]-q[1]) > 1e-3 {
					t.Fatalf("%s: %+v is drawn as %+v", name, it, after.Items[i])
				}
			}
		}
	}
}

// A view is what the part looks like: a plate 60 x 40 with a hole, at 1:2.
func TestViewGeometry(t *testing.T) {
	ex, ref, _ := chiral(t)
	ex.Sheets = []exercise.Sheet{{Paper: "A4", Scale: "1:2", Projection: "first",
		Views: []exercise.View{{ID: "top", Kind: "top", At: [2]float64{100, 100}, Middle: true},
			{ID: "front", Kind: "front", At: [2]float64{100, 160}, Middle: true, Hidden: true}},
		Marks: []exercise.Mark{{ID: "m1", Kind: exercise.Dimension, Form: exercise.Linear, Of: []string{"w"}, View: "top",
			Side: "below", Offset: [2]float64{0, 10}}}}}
	d, _ := draw(t, ex, bundle{ref: ref})
	var circle, dashed *sheet.Item
	texts := ""
	lo, hi := sheet.Point{1e9, 1e9}, sheet.Point{-1e9, -1e9}
	for i, it := range d.Items {
		switch {
		case it.Class == sheet.Visible && it.Kind == "arc" && it.Centre[1] < 130:
			circle = &d.Items[i]
		case it.Class == sheet.Hidden && it.Kind == "run":
			dashed = &d.Items[i]
		case it.Class == sheet.Visible && it.Points[0][1] < 130:
			for _, p := range it.Points {
				for k := range 2 {
					lo[k], hi[k] = math.Min(lo[k], p[k]), math.Max(hi[k], p[k])
				}
			}
		}
		texts += it.Text + "|"
	}
	if math.Abs(hi[0]-lo[0]-30) > 1e-6 || math.Abs(hi[1]-lo[1]-20) > 1e-6 || math.Abs(lo[0]-85) > 1e-6 {
		t.Errorf("the top view spans %v to %v", lo, hi)
	}
	if circle == nil || math.Abs(circle.Radius-2) > 1e-6 || math.Abs(circle.Centre[0]-(85+24)) > 1e-6 ||
		math.Abs(circle.Centre[1]-(90+4.5)) > 1e-6 {
		t.Errorf("the hole is drawn as %+v", circle)
	}
	if dashed == nil || len(dashed.Dash) == 0 {
		t.Error("the hidden hole is not dashed in the front view")
	}
	if !strings.Contains(texts, "|60|") || !strings.Contains(texts, "|Hole: 12|") || !strings.Contains(texts, "|1:2|") {
		t.Errorf("texts: %s", texts)
	}
}

func TestSheetErrorsNameTheDimension(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	for _, c := range []struct {
		change func(*exercise.Sheet)
		say    string
	}{
		{func(s *exercise.Sheet) { s.Marks[0].View = "inside" }, `mark m1: there is no view "inside"`},
		{func(s *exercise.Sheet) { s.Marks[0].Side = "around" }, `mark m1: "around" is not a side`},
		{func(s *exercise.Sheet) { s.Scale = "1:3" }, "not a scale of ISO 5455"},
		{func(s *exercise.Sheet) { s.Paper = "B4" }, "not a size of paper"},
		{func(s *exercise.Sheet) { s.Views[0].Kind = "askew" }, `view front: "askew" is not a kind of view`},
	} {
		ex := *b.Parsed
		ex.Sheets = slices.Clone(ex.Sheets)
		ex.Sheet().Views = append([]exercise.View(nil), ex.Sheet().Views...)
		ex.Sheet().Marks = slices.Clone(ex.Sheet().Marks)
		c.change(ex.Sheet())
		f, err := lettering.Load()
		if err != nil {
			t.Fatal(err)
		}
		key, _, err := checker().Load(ctx, b.ref)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := sheet.Draw(ctx, occ.Kernel{}, &ex, key, f); err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%v, want %q", err, c.say)
		}
	}
}

// The frame after ISO 5457 and the title block after ISO 7200, whose numbers are from memory: fields of 50 mm, 8 by 6
// on an A3 and 6 by 4 on an A4, which has them on two sides; marks of 0.7 mm on the axes of the trimmed sheet; a block
// of 180 mm with the required fields.
func TestFrame(t *testing.T) {
	for _, c := range []struct {
		paper         string
		width, height float64
		fields        string
		each          int // how often a field is named
	}{{"A3", 420, 297, "1 2 3 4 5 6 7 8 A B C D E F", 2}, {"A4", 210, 297, "1 2 3 4 A B C D E F", 1},
		{"A2", 594, 420, "1 2 3 4 5 6 7 8 9 10 11 12 A B C D E F G H", 2}} {
		b := demoExercise(t, "rack-stop")
		ex := *b.Parsed
		ex.Sheets = []exercise.Sheet{{Paper: c.paper, Scale: "1:5", Projection: "first", Marks: []exercise.Mark{},
			Views: []exercise.View{{ID: "front", Kind: "front", At: [2]float64{100, 150}}}}}
		d, _ := draw(t, &ex, b)
		names, block, marks := map[string]int{}, map[string]bool{}, map[sheet.Point]bool{}
		for _, it := range d.Items {
			switch {
			case it.Class != sheet.Frame:
			case it.Kind == "text" && it.Height == 3.5 && it.Anchor == "middle":
				names[it.Text]++
			case it.Kind == "text":
				block[it.Text] = true
			case len(it.Points) == 2 && it.Width == 0.7:
				for k, middle := range []float64{c.width / 2, c.height / 2} {
					if it.Points[0][k] == middle && it.Points[1][k] == middle {
						marks[it.Points[0]] = true
					}
				}
			}
		}
		for _, f := range strings.Fields(c.fields) {
			if names[f] != c.each {
				t.Errorf("%s: field %s is named %d times", c.paper, f, names[f])
			}
		}
		if len(names) != len(strings.Fields(c.fields)) || len(marks) != 4 || d.Width != c.width {
			t.Errorf("%s: fields %v, %d centring marks, %g wide", c.paper, names, len(marks), d.Width)
		}
		for _, f := range []string{"Owner", "Drawing number", "Date of issue", "Sheet", "Title", "Approved by", "Created by",
			"Document type", "MCW-121", "2026-09-01", "1 / 1", "Rack stop", "O. Brack", "F. Sallow", "Part drawing"} {
			if !block[f] {
				t.Errorf("%s: the title block does not say %q", c.paper, f)
			}
		}
	}
}

// The projection symbol of ISO 5456-2: in first angle the rings stand to the
// right of the cone, in third angle to the left.
func TestProjectionSymbol(t *testing.T) {
	for name, right := range map[string]bool{"bearing-bracket": true, "gland-flange": false} {
		b := demoExercise(t, name)
		d, _ := draw(t, b.Parsed, b)
		var rings, cone float64
		for _, it := range d.Items {
			if it.Class == sheet.Frame && it.Kind == "arc" {
				rings = it.Centre[0]
			}
			if it.Class == sheet.Frame && len(it.Points) == 5 && it.Width == 0.35 {
				cone = (it.Points[0][0] + it.Points[1][0]) / 2
			}
		}
		if (rings > cone) != right {
			t.Errorf("%s (%s angle): rings at %g, cone at %g", name, b.Parsed.Sheet().Projection, rings, cone)
		}
	}
}

// The PDF has the paper's true size (ISO 216: A3 is 420 x 297 mm) and holds the
// font; a line of the drawing has its true length in it.
func TestPDF(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	d, f := draw(t, b.Parsed, b)
	data, err := pdf.Sheet(d, f)
	if err != nil {
		t.Fatal(err)
	}
	m := regexp.MustCompile(`/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]`).FindAllSubmatch(data, -1)
	want := fmt.Sprintf("%.2f %.2f", 420/25.4*72, 297/25.4*72)
	if got := string(m[0][1]) + " " + string(m[0][2]); got != want { // the page's own; the last is the default
		t.Errorf("paper %s points, want %s", got, want)
	}
	if !bytes.Contains(data, []byte("/FontFile2")) {
		t.Error("the font is not in the file")
	}
	page := inflate(data)
	found := false // the base of the front view: 120 mm wide at 1:1
	for _, m := range regexp.MustCompile(`([\d.]+) ([\d.]+) m ([\d.]+) ([\d.]+) l S`).
		FindAllStringSubmatch(strings.ReplaceAll(page, "\n", " "), -1) {
		var x0, y0, x1, y1 float64
		if _, err := fmt.Sscan(m[1], &x0); err != nil {
			t.Fatal(err)
		}
		_, _ = fmt.Sscan(m[2]+" "+m[3]+" "+m[4], &y0, &x1, &y1)
		found = found || math.Abs(math.Hypot(x1-x0, y1-y0)-120/25.4*72) < 0.02
	}
	if !found {
		t.Error("no line of 120 mm in the PDF")
	}
	r := run(t, b.Parsed, b.ref, edited(t, b, `"radius": "10 mm"`, `"radius": "12 mm"`))
	back, err := pdf.Returned(d, f, pdf.Return{Student: "Ada Thistlewood", Attempt: 2,
		Comment: strings.Repeat("Look again at the corners. ", 300), Report: r, Marks: r.Marks, Points: r.Points,
		OutOf: r.OutOf, Changes: report.Compare(r, r)})
	if err != nil {
		t.Fatal(err)
	}
	if pages := bytes.Count(back, []byte("/Type /Page\n")); pages < 3 {
		t.Errorf("a long comment and the sheet on %d pages", pages)
	}
}

// inflate gives all compressed streams of a PDF as text.
func inflate(data []byte) string {
	var out strings.Builder
	for _, s := range bytes.Split(data, []byte("stream\n"))[1:] {
		z, err := zlib.NewReader(bytes.NewReader(s))
		if err != nil {
			continue
		}
		_, _ = io.Copy(&out, z) // what is no text does not matter
	}
	return out.String()
}

// The SVG is well-formed, has the true size, and carries every verdict's shape.
func TestSVG(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	d, f := draw(t, b.Parsed, b)
	verdicts := map[string]report.Verdict{"width": report.In, "depth": report.Out, "thick": report.NotFound,
		"corner": report.Ask}
	for _, live := range []bool{false, true} {
		data := svg.Render(d, f, svg.Options{Live: live, Verdicts: verdicts, Values: map[string]string{"depth": "71.5",
			"width": "120"}})
		dec := xml.NewDecoder(bytes.NewReader(data))
		for {
			if _, err := dec.Token(); err == io.EOF {
				break
			} else if err != nil {
				t.Fatal(err)
			}
		}
		text := string(data)
		for _, want := range []string{"<title>in</title>", "<title>out</title>", "<title>not found</title>",
			"<title>ask</title>", "<title>measured 71.5</title>", "<title>4× R10</title>"} {
			if !strings.Contains(text, want) {
				t.Errorf("live %v: no %s", live, want)
			}
		}
		if strings.Contains(text, "measured 120") {
			t.Error("a value in its limits is written out")
		}
		if live == strings.Contains(text, `width="420mm" height="297mm"`) ||
			live != strings.Contains(text, `data-characteristic="depth"`) {
			t.Errorf("live %v: wrong frame or marks", live)
		}
		if strings.Contains(text, "href") || strings.Contains(text, "<text") {
			t.Error("the file is not complete in itself")
		}
	}
}

// Hidden-line removal on a case that can be reasoned out: a cube seen from the
// front shows four edges; the pictorial view nine, and three are hidden.
func TestHiddenLines(t *testing.T) {
	b := build(t, model(t, "mm", "", outline("s", xy, 0, 0, 10, 0, 10, 10, 0, 10), extrude("e", "s", oneSide("10"), "")),
		nil)
	for name, c := range map[string]struct {
		z               solid.Vec
		visible, hidden int
	}{"front": {solid.Vec{0, -1, 0}, 4, 0}, "pictorial": {solid.Vec{1, -1, 1}, 9, 3}} {
		z := c.z.Unit()
		x := solid.Vec{0, 0, 1}.Cross(z).Unit()
		curves, err := occ.Kernel{}.View(b.Solid.Shape, solid.Frame{X: x, Y: z.Cross(x), Z: z})
		if err != nil {
			t.Fatal(err)
		}
		visible, hidden, length := 0, 0, 0.0
		for _, k := range curves {
			if k.Hidden {
				hidden++
				continue
			}
			visible++
			length += math.Hypot(k.Points[1][0]-k.Points[0][0], k.Points[1][1]-k.Points[0][1])
		}
		if visible != c.visible || (name == "pictorial" && hidden != c.hidden) {
			t.Errorf("%s: %d visible, %d hidden", name, visible, hidden)
		}
		// In the isometric view edges are shortened by √(2/3) (ISO 5456-3).
		if want := 9 * 10 * math.Sqrt(2.0/3); name == "pictorial" && !near(length, want, 1e-9) {
			t.Errorf("pictorial: %g of edges, want %g", length, want)
		}
	}
}

// Cosmetic threads and texts of the model are on the sheet: an internal thread as
// three quarters of a thin circle of its major diameter about the bore (ISO 6410-1),
// an external one at its minor diameter (ISO 724: d - 1.2269 P), each step with one
// label, a text where its face is seen from the front.
func TestThreadsAndTextsAreOnTheSheet(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	built := build(t, model(t, "mm", "", append(base(), circles("s2", `{"face":"e1/end"}`, 10, 10, 3, 30, 10, 3),
		holeAt("h1", "s2", `"m0","m1"`, `,"form":"tapped","thread":"M8"`),
		circles("s3", `{"face":"e1/end"}`, 20, 22, 3), extrude("e3", "s3", oneSide("12"), ""),
		`{"id":"j1","kind":"thread","faces":["e3/side:c0"],"thread":"M6","length":"10"}`,
		`{"id":"j2","kind":"text","faces":["e1/end"],"text":"CANAL WORKS","height":"4"}`)...), nil)
	if len(built.Notes) != 4 {
		t.Fatalf("%d notes: %+v", len(built.Notes), built.Notes)
	}
	ex := *b.Parsed
	ex.Sheets = slices.Clone(ex.Sheets)
	ex.Characteristics, ex.Sheet().Marks = nil, nil
	ex.Sheet().Scale = "1:1"
	ex.Sheet().Views = []exercise.View{{ID: "top", Kind: "top", At: [2]float64{100, 100}}}
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	d, err := sheet.Draw(ctx, occ.Kernel{}, &ex, built.Solid, f, built.Notes...)
	if err != nil {
		t.Fatal(err)
	}
	var radii []float64
	texts := map[string]int{}
	for _, it := range d.Items {
		if it.Kind == "arc" && it.Class == sheet.Thin && math.Abs(it.Sweep-1.5*math.Pi) < 1e-9 {
			radii = append(radii, it.Radius)
		}
		texts[it.Text]++
	}
	if len(radii) != 3 || radii[0] != 4 || radii[1] != 4 || math.Abs(radii[2]-(6-1.2269)/2) > 1e-9 {
		t.Errorf("threads of radius %v", radii)
	}
	for _, want := range []string{"2 × M8", "M6 × 10", "CANAL WORKS"} {
		if texts[want] != 1 {
			t.Errorf("%q is on the sheet %d times", want, texts[want])
		}
	}
}

// Every curve of a view says what it is a picture of: its ends lie on the edge as the view shows it, or within the box
// of the face whose silhouette it is.
func TestCurvesOfAViewHaveTheirOrigin(t *testing.T) {
	for _, name := range demo.Exercises() {
		key, _, err := checker().Load(ctx, demoExercise(t, name).ref)
		if err != nil {
			t.Fatal(err)
		}
		faces, silhouettes := key.Shape.Faces(), 0
		for _, z := range []solid.Vec{{0, -1, 0}, {0, 0, 1}, {1, -1, 1}, {0.3, 0.2, 0.7}} {
			z = z.Unit()
			x := solid.Vec{0.6, 0.8, 0}
			x = x.Sub(z.Scale(x.Dot(z))).Unit()
			f := solid.Frame{X: x, Y: z.Cross(x), Z: z}
			curves, err := occ.Kernel{}.View(key.Shape, f)
			if err != nil {
				t.Fatal(err)
			}
			for _, c := range curves {
				var on []solid.Vec
				slack := 1e-3
				switch {
				case c.Edge >= 0:
					if on, err = (occ.Kernel{}).Along(key.Shape, c.Edge); err != nil {
						t.Fatal(err)
					}
					slack = 0.05 * key.Shape.Edges()[c.Edge].Length // a round is sampled
				case c.Face >= 0:
					on = faces[c.Face].Bounds.Corners()
					silhouettes++
				default:
					t.Fatalf("%s from %v: nothing is known of %+v", name, z, c)
				}
				for _, p := range endsOf(c) {
					if !aroundAll(f, on, slack, p) {
						t.Fatalf("%s from %v: %v of %+v is elsewhere", name, z, p, c)
					}
				}
			}
		}
		if silhouettes == 0 {
			t.Errorf("%s: no round has a silhouette", name)
		}
	}
}

func endsOf(c solid.ViewCurve) [][2]float64 {
	if c.Kind != "arc" {
		return c.Points
	}
	at := func(a float64) [2]float64 {
		return [2]float64{c.Center[0] + c.Radius*math.Cos(a), c.Center[1] + c.Radius*math.Sin(a)}
	}
	return [][2]float64{at(c.Start), at(c.Start + c.Sweep)}
}

// aroundAll tells whether a point of a view lies in the rectangle around points of space, with some slack.
func aroundAll(f solid.Frame, on []solid.Vec, slack float64, p [2]float64) bool {
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	for _, v := range on {
		q := f.Local(v)
		for k := range 2 {
			lo[k], hi[k] = math.Min(lo[k], q[k]-slack), math.Max(hi[k], q[k]+slack)
		}
	}
	return p[0] >= lo[0] && p[0] <= hi[0] && p[1] >= lo[1] && p[1] <= hi[1]
}
