package geometry

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/session"
	"hammerset/kernel/occ"
)

// TestTracedFreeCurves makes plates from traced sections of a cone and of a ring, and
// from a traced edge where two cylinders meet, at a first size and at another one, and
// compares their volumes with the areas of the conics (a plane z = z0 + m x cuts the cone
// x² + y² = k²(h-z)² in an ellipse that projects to the half axes kc/(1-k²m²) and
// kc/√(1-k²m²), c = h - z0), of the spiric section of a torus, and of the bore. The
// sketch is drawn by the drawing board's own command.
func TestTracedFreeCurves(t *testing.T) {
	cone := curves("s1", xz, pt("a", 0, 0), pt("b", 20, 0), pt("c", 0, 40), ln("l1", "a", "b"), ln("l2", "b", "c"),
		ln("l3", "c", "a"))
	turned := `{"id":"e1","kind":"revolve","sketch":"s1","regions":"all","axis":{"datum":"Z"}}`
	tilted := `{"id":"d1","kind":"plane","form":"angled","plane":{"datum":"XY"},"axis":{"datum":"Y"},"angle":"20 deg"}`
	for _, c := range []struct {
		name  string
		steps []string
		plane string
		sizes [2]float64
		face  string // traced is the curve of this face, or the edge of these two
		line  string // and a straight one that closes it
		area  func(size float64) float64
	}{
		{"a cone aslant", []string{cone, turned, tilted}, `{"step":"d1","offset":"size"}`, [2]float64{12, 19},
			"section e1/side:l2", "", func(z float64) float64 {
				const k, a = 0.5, 20 * math.Pi / 180
				m, c := math.Tan(a), 40-z/math.Cos(a)
				return math.Pi * k * k * c * c / math.Pow(1-k*k*m*m, 1.5) / math.Cos(a)
			}},
		{"a cone beside its axis", []string{cone, turned}, `{"datum":"XZ","offset":"size"}`, [2]float64{5, 11},
			"section e1/side:l2", "section e1/side:l1", func(d float64) float64 {
				x := math.Sqrt(400 - d*d)
				return 2*40*x - 2*(x*20+d*d*math.Asinh(x/d)) // the integral of h - √(x²+d²)/k, twice from 0 to x
			}},
		{"a ring beside its hole", []string{curves("s1", xz, pt("m", 30, 0), `{"id":"q","kind":"circle","center":"m",
	"radius":8}`), turned}, `{"datum":"XZ","offset":"size"}`, [2]float64{26, 31}, "section e1/side:q", "",
			func(d float64) float64 {
				return integral(func(w float64) float64 {
					x := math.Sqrt(38*38-d*d) * math.Sin(w)
					r := math.Hypot(x, d) - 30
					return 2 * math.Sqrt(math.Max(0, 64-r*r)) * math.Sqrt(38*38-d*d) * math.Cos(w)
				}, -math.Pi/2, math.Pi/2)
			}},
		{"the mouth of a bore in a shaft",
			[]string{curves("s1", `{"datum":"YZ"}`, pt("m", 0, 0), `{"id":"q","kind":"circle","center":"m","radius":20}`),
				extrude("e1", "s1", `{"kind":"symmetric","total":"90"}`, ""),
				constrained(curves("s2", xy, pt("n", 4, 3), `{"id":"w","kind":"circle","center":"n","radius":7}`),
					`{"id":"k1","kind":"fixed","of":["n"]},{"id":"k2","kind":"radius","of":["w"],"value":"size"}`),
				extrude("e2", "s2", `{"kind":"one-side","length":"40"}`, `,"result":"cut"`)},
			`{"datum":"XY","offset":"30"}`, [2]float64{7, 11}, "e1/side:q e2/side:w", "",
			func(r float64) float64 { return math.Pi * r * r }},
	} {
		t.Run(c.name, func(t *testing.T) {
			params := fmt.Sprintf(`{"name":"size","value":"%g mm"}`, c.sizes[0])
			empty := fmt.Sprintf(`{"id":"t1","kind":"sketch","plane":%s,"entities":[]}`, c.plane)
			d := model(t, "mm", params, append(append([]string{}, c.steps...), empty)...)
			_, edges, warning, err := part.NewRebuilder(occ.Kernel{}).SketchAt(ctx, d, "t1")
			if err != nil || warning != nil {
				t.Fatal(err, warning)
			}
			s, err := session.Open(session.Document{Unit: "mm"})
			if err != nil {
				t.Fatal(err)
			}
			for _, e := range edges {
				if f := strings.Join(e.Faces[:], " "); f == c.face || f == c.line {
					if err := s.Do(session.Command{Do: "trace", Edge: &session.Edge{Faces: e.Faces, Kind: e.Kind, A: e.A, B: e.B,
						C: e.C, R: e.R, U: e.U, V: e.V, Poles: e.Poles}}); err != nil {
						t.Fatal(err)
					}
				}
			}
			if points := len(s.Frame(0.2).Points); points > 6 {
				t.Errorf("%d points are shown of a traced curve", points)
			}
			sk := s.Document()
			splines := 0
			for i := range sk.Entities {
				sk.Entities[i].Guide = false
				if sk.Entities[i].Kind == sketch.KindSpline {
					splines++
				}
			}
			if splines != 1 {
				t.Fatalf("%d splines were traced, not one", splines)
			}
			entities, err := json.Marshal(sk.Entities)
			if err != nil {
				t.Fatal(err)
			}
			plate := `{"id":"e9","kind":"extrude","sketch":"t1","regions":"all","extent":{"kind":"one-side","length":"10"},
	"result":"new"}`
			d = model(t, "mm", params, append(append([]string{}, c.steps...),
				strings.Replace(empty, `"entities":[]`, `"entities":`+string(entities), 1), plate)...)
			for _, size := range c.sizes {
				b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, d,
					map[string]quantity.Quantity{"size": {Value: size, Dim: quantity.Length}})
				if err != nil {
					t.Fatal(err)
				}
				for _, f := range b.Failed() {
					t.Fatal(f.Err)
				}
				if v, want := props(t, b.Bodies[len(b.Bodies)-1].Shape).Volume, 10*c.area(size); !near(v, want, 5e-6) {
					t.Errorf("at %g the plate has %.9g, not %.9g", size, v, want)
				}
			}
		})
	}
}

// integral is Simpson's rule with many steps.
func integral(f func(float64) float64, a, b float64) float64 {
	const n = 20000
	h := (b - a) / n
	sum := f(a) + f(b)
	for i := 1; i < n; i++ {
		sum += f(a+float64(i)*h) * float64(2+2*(i%2))
	}
	return sum * h / 3
}
