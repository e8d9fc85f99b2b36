package dxf

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

// every is one curve of every kind, in millimetres.
func every() []sketch.Curve {
	at := func(x, y float64) sketch.Vec { return sketch.Vec{X: x, Y: y} }
	u := at(20, 10)
	arc := sketch.Curve{ID: "a", Kind: sketch.KindArc, Center: at(5, 6), Radius: 7}
	arc.A, arc.B = arc.Center.Polar(7, 4), arc.Center.Polar(7, 7.5)
	ell := sketch.Curve{ID: "ea", Kind: sketch.KindEllArc, Center: at(-30, 4), U: u.Scale(0.3), V: u.Left().Scale(0.7)}
	ell.A, ell.B = ell.Point(1), ell.Point(4)
	spline := sketch.Curve{ID: "s", Kind: sketch.KindSpline, Poles: []sketch.Vec{at(0, 50), at(10, 70), at(25, 30),
		at(40, 66), at(52, 48)}, Knots: []float64{0, 0, 0, 0, 0.4, 1, 1, 1, 1}}
	spline.A, spline.B = spline.Poles[0], spline.Poles[4]
	return []sketch.Curve{
		{ID: "l", Kind: sketch.KindLine, A: at(1.25, -3), B: at(40, 1.0/3)},
		{ID: "g", Kind: sketch.KindLine, A: at(0, -20), B: at(60, -20), Guide: true},
		{ID: "c", Kind: sketch.KindCircle, Center: at(-7, 12), Radius: 4.5}, arc,
		{ID: "e", Kind: sketch.KindEllipse, Center: at(70, 20), U: u, V: u.Left().Scale(0.4)}, ell, spline,
	}
}

// same tells whether two curves are one set of points.
func same(t *testing.T, a, b *sketch.Curve, tol float64) {
	t.Helper()
	for _, p := range [][2]*sketch.Curve{{a, b}, {b, a}} {
		lo, hi := p[0].Range()
		for i := range 21 {
			at := p[0].Point(lo + (hi-lo)*float64(i)/20)
			if _, q := p[1].Nearest(at); q.Distance(at) > tol {
				t.Errorf("%s: %v is %g off", a.ID, at, q.Distance(at))
				return
			}
		}
	}
}

func curvesOf(t *testing.T, s *sketch.Sketch, unit quantity.Unit) []sketch.Curve {
	t.Helper()
	tab, err := quantity.Evaluate(nil, unit, nil)
	if err != nil {
		t.Fatal(err)
	}
	sys, err := sketch.Compile(s, unit.Factor, tab)
	if err != nil {
		t.Fatal(err)
	}
	return sys.Solution().Curves
}

// What is written is read back as the same curves, also into a document in
// another unit.
func TestRoundTrip(t *testing.T) {
	for _, written := range []quantity.Unit{quantity.Millimetre, quantity.Inch, quantity.Centimetre} {
		for _, read := range []quantity.Unit{quantity.Millimetre, quantity.Inch} {
			d, err := Read(Write(every(), written), read)
			if err != nil {
				t.Fatal(err)
			}
			got := curvesOf(t, d.Sketch, read)
			if len(got) != len(every()) || len(d.Notes) != 0 {
				t.Fatalf("%d curves, notes %v", len(got), d.Notes)
			}
			for i, want := range every() {
				if got[i].Kind != want.Kind || got[i].Guide != want.Guide {
					t.Errorf("%s is a %s", want.ID, got[i].Kind)
				}
				same(t, &want, &got[i], 2e-6) // Nearest is a search
			}
		}
	}
}

// Another reader, dxf-parser of the npm registry under Node, finds the same
// numbers in what is written.
func TestAgainstAnotherReader(t *testing.T) {
	file := filepath.Join(t.TempDir(), "every.dxf")
	if err := os.WriteFile(file, Write(every(), quantity.Millimetre), 0o644); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "--input-type=module", "-e", fmt.Sprintf(`
import fs from "node:fs"; import Parser from "dxf-parser";
const d = new Parser().parseSync(fs.readFileSync(%q, "utf8"));
console.log(JSON.stringify({ units: d.header.$INSUNITS, entities: d.entities }));`, file))
	cmd.Dir = "../../web"
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("dxf-parser: %v", err)
	}
	var got struct {
		Units    int
		Entities []struct {
			Type, Layer            string
			Vertices               []sketch.Vec
			Center                 sketch.Vec
			Radius                 float64
			StartAngle, EndAngle   float64
			MajorAxisEndPoint      sketch.Vec
			AxisRatio              float64
			ControlPoints          []sketch.Vec
			KnotValues             []float64
			DegreeOfSplineCurve    int
			NumberOfKnots          int
			NumberOfControlPoints_ int
		}
	}
	if err := json.Unmarshal(out, &got); err != nil {
		t.Fatal(err)
	}
	want := every()
	if got.Units != 4 || len(got.Entities) != len(want) {
		t.Fatalf("units %d, %d entities", got.Units, len(got.Entities))
	}
	near := func(what string, a, b sketch.Vec) {
		if a.Distance(b) > 1e-9 {
			t.Errorf("%s: %v, want %v", what, a, b)
		}
	}
	e := got.Entities
	near("line", e[0].Vertices[1], want[0].B)
	if e[1].Layer != guides || e[0].Layer == guides {
		t.Errorf("layers %q %q", e[0].Layer, e[1].Layer)
	}
	near("circle", e[2].Center, want[2].Center)
	near("arc", e[3].Center.Polar(e[3].Radius, e[3].EndAngle), want[3].B)
	near("ellipse", e[4].MajorAxisEndPoint, want[4].U)
	if math.Abs(e[4].AxisRatio-0.4) > 1e-12 {
		t.Errorf("axis ratio %g", e[4].AxisRatio)
	}
	near("longer half axis", e[5].MajorAxisEndPoint, want[5].V)
	near("pole", e[6].ControlPoints[3], want[6].Poles[3])
	if e[6].DegreeOfSplineCurve != 3 || len(e[6].KnotValues) != 9 {
		t.Errorf("spline: %+v", e[6])
	}
}

// file makes a DXF of an entities section alone, as simple programs write it.
func file(entities string) []byte {
	return []byte("0\nSECTION\n2\nENTITIES\n" + strings.ReplaceAll(strings.TrimSpace(entities), " ", "\n") +
		"\n0\nENDSEC\n0\nEOF\n")
}

// Polylines with bulges: a half disc of radius 10 has a bulge of 1 (the tangent
// of a quarter of 180 degrees); a stadium has two.
func TestPolylines(t *testing.T) {
	for _, c := range []struct {
		name, entities string
		area           float64
	}{
		{"half disc", "0 LWPOLYLINE 90 2 70 1 10 -10 20 0 42 0 10 10 20 0 42 1", 50 * math.Pi},
		{"half disc, the other way", "0 LWPOLYLINE 90 2 70 1 10 10 20 0 42 -1 10 -10 20 0 42 0", 50 * math.Pi},
		{"stadium with old vertices", "0 POLYLINE 66 1 70 1 0 VERTEX 10 0 20 0 0 VERTEX 10 30 20 0 42 1 0 VERTEX 10 30 20 " +
			"12 0 VERTEX 10 0 20 12 42 1 0 SEQEND", 360 + 36*math.Pi},
		{"seen from below", "0 LWPOLYLINE 90 3 70 1 230 -1 10 0 20 0 10 30 20 0 10 0 20 20", 300},
		{"a place given twice", "0 LWPOLYLINE 90 4 70 1 10 0 20 0 10 30 20 0 10 30 20 0 10 0 20 20", 300},
	} {
		d, err := Read(file(c.entities), quantity.Millimetre)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		regions, problems := sketch.Regions(curvesOf(t, d.Sketch, quantity.Millimetre))
		if len(regions) != 1 || len(problems) > 0 || math.Abs(regions[0].Area()-c.area) > 1e-6 {
			t.Errorf("%s: %d regions, problems %v", c.name, len(regions), problems)
		}
		if len(d.Notes) != 1 || !strings.Contains(d.Notes[0], "no unit") {
			t.Errorf("%s: notes %v", c.name, d.Notes)
		}
	}
}

// Bad files name the line and what is wrong; what is left out is said.
func TestFaults(t *testing.T) {
	for _, c := range []struct {
		name string
		data []byte
		say  string
	}{
		{"text", []byte("a letter to the lock keeper\n"), "no group code"},
		{"binary", []byte("0\nSECTION\x00"), "ASCII"},
		{"cut short", file("0 LINE 10 0 20 0 11 5 21 5")[:40], "cut short"},
		{"no ordinate", file("0 LINE 10 0 20 0 11 5"), "line 6: this LINE has no value for group 21"},
		{"a word for a number", file("0 CIRCLE 10 zero 20 0 40 5"), "line 8"},
		{"infinite", file("0 CIRCLE 10 1e400 20 0 40 5"), "not a number"},
		{"no radius", file("0 CIRCLE 10 0 20 0 40 0"), "radius greater than zero"},
		{"few knots", file("0 SPLINE 71 3 10 0 20 0 10 1 20 1 10 2 20 0 10 3 20 1 40 0 40 1"), "has 8 knots"},
		{"texts only", file("0 TEXT 10 0 20 0 1 hello"), "holds no lines"},
	} {
		_, err := Read(c.data, quantity.Millimetre)
		if err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
	d, err := Read(file("0 LINE 10 0 20 0 11 5 21 5 0 MTEXT 1 note 0 MTEXT 1 note 0 INSERT 2 bolt"), quantity.Millimetre)
	if err != nil || len(d.Notes) != 3 || !strings.Contains(strings.Join(d.Notes, "; "), "2 of kind MTEXT left out") {
		t.Errorf("%v %v", err, d.Notes)
	}
}

// Files damaged anywhere end in a fault or a sketch that can be compiled.
func TestDamagedFiles(t *testing.T) {
	rng := rand.New(rand.NewSource(4))
	whole := Write(every(), quantity.Millimetre)
	for range 400 {
		data := append([]byte(nil), whole...)
		for range 1 + rng.Intn(4) {
			data[rng.Intn(len(data))] = "0123456789.-E\n ALX"[rng.Intn(18)]
		}
		if d, err := Read(data, quantity.Millimetre); err == nil {
			tab, _ := quantity.Evaluate(nil, quantity.Millimetre, nil)
			if sys, err := sketch.Compile(d.Sketch, 1, tab); err == nil {
				sketch.Regions(sys.Solution().Curves)
			}
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(Write(every(), quantity.Inch))
	f.Add(file("0 LWPOLYLINE 90 2 70 1 10 -10 20 0 42 0 10 10 20 0 42 1"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if d, err := Read(data, quantity.Millimetre); err == nil && len(d.Sketch.Entities) == 0 {
			t.Error("read without a fault, and nothing in it")
		}
	})
}
