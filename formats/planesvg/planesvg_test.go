package planesvg

import (
	"encoding/xml"
	"math"
	"strings"
	"testing"

	"hammerset/core/sketch"
)

// The drawing has its true size, is well-formed, and its spline pieces are the
// spline: a cubic Bézier piece at a third of its parameter is
// (8 P0 + 12 P1 + 6 P2 + P3)/27.
func TestWrite(t *testing.T) {
	at := func(x, y float64) sketch.Vec { return sketch.Vec{X: x, Y: y} }
	spline := sketch.Curve{ID: "s", Kind: sketch.KindSpline, Poles: []sketch.Vec{at(0, 0), at(3, 9), at(12, 9), at(15, 0)},
		Knots: []float64{0, 0, 0, 0, 1, 1, 1, 1}}
	arc := sketch.Curve{ID: "a", Kind: sketch.KindArc, Center: at(30, 5), Radius: 5, A: at(35, 5), B: at(30, 0)}
	out := string(Write("pawl <plate>",
		[]sketch.Curve{{ID: "l", Kind: sketch.KindLine, A: at(0, 0), B: at(40, 25), Guide: true}, spline, arc,
			{ID: "c", Kind: sketch.KindCircle, Center: at(20, 15), Radius: 4}}))
	var doc struct {
		Width   string `xml:"width,attr"`
		ViewBox string `xml:"viewBox,attr"`
		Title   string `xml:"title"`
		G       struct {
			Paths []struct {
				ID   string `xml:"id,attr"`
				D    string `xml:"d,attr"`
				Dash string `xml:"stroke-dasharray,attr"`
			} `xml:"path"`
		} `xml:"g"`
	}
	if err := xml.Unmarshal([]byte(out), &doc); err != nil {
		t.Fatal(err)
	}
	if doc.Width != "44mm" || doc.ViewBox != "-2 -27 44 29" || doc.Title != "pawl <plate>" || len(doc.G.Paths) != 4 {
		t.Errorf("%+v", doc)
	}
	if doc.G.Paths[0].Dash == "" || doc.G.Paths[1].Dash != "" {
		t.Error("the guide line, and it alone, is a chain line")
	}
	if want := "M0 0C3 -9 12 -9 15 0"; doc.G.Paths[1].D != want {
		t.Errorf("spline %q, want %q", doc.G.Paths[1].D, want)
	}
	if p := spline.Point(1.0 / 3); p.Distance(at((12*3+6*12+15)/27.0, (12*9+6*9)/27.0)) > 1e-12 {
		t.Errorf("the spline at a third is %v", p)
	}
	if !strings.Contains(doc.G.Paths[2].D, "A5 5 0 1 0 30 0") { // three quarters, counter-clockwise on paper
		t.Errorf("arc %q", doc.G.Paths[2].D)
	}
	if !strings.HasSuffix(doc.G.Paths[3].D, "Z") || math.IsNaN(arc.Radius) {
		t.Errorf("circle %q", doc.G.Paths[3].D)
	}
}
