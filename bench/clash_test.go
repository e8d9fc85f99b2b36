package bench

import (
	"fmt"
	"math"
	"testing"

	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/shapes"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/core/stock"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

// BenchmarkCollisions looks for all collisions of a base and a cover with 19 holes, a screw, a washer and a nut in
// each: 59 components. It prints how many pairs have boxes that meet, and how often the kernel was asked for a boolean.
func BenchmarkCollisions(b *testing.B) {
	k := occ.Kernel{}
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(k)}
	made := func(kind string, length float64) *shapes.Made {
		_, data, err := stock.Document(kind, "M8", length)
		if err != nil {
			b.Fatal(err)
		}
		doc, err := documents.ReadModel(data)
		if err != nil {
			b.Fatal(err)
		}
		m, err := maker.Model(b.Context(), doc, nil, "")
		if err != nil {
			b.Fatal(err)
		}
		return m
	}
	var places []solid.Vec
	for n := range 19 {
		places = append(places, solid.Vec{25 * float64(n%5), 25 * float64(n/5), 0})
	}
	plate := func(thick float64) *shapes.Made {
		f := solid.World
		var rim []solid.Segment
		corners := [][2]float64{{-20, -20}, {120, -20}, {120, 95}, {-20, 95}}
		for i, c := range corners {
			rim = append(rim, solid.Segment{Kind: "line", A: c, B: corners[(i+1)%4], Forward: true})
		}
		loops := [][]solid.Segment{rim}
		for _, p := range places {
			loops = append(loops, []solid.Segment{{Kind: "circle", Center: [2]float64{p[0], p[1]}, Radius: 4.5,
				Hi: 2 * math.Pi}})
		}
		s, _, err := k.Prism(solid.Profile{Frame: f, Loops: loops}, solid.Vec{0, 0, thick})
		if err != nil {
			b.Fatal(err)
		}
		g, err := solid.Describe(k, s, nil)
		if err != nil {
			b.Fatal(err)
		}
		mesh, err := k.Mesh(s, inspect.Deflection(g.Box), inspect.MeshAngle)
		if err != nil {
			b.Fatal(err)
		}
		names := make([]string, len(g.Faces))
		for i := range names {
			names[i] = fmt.Sprint("face:", i)
		}
		return &shapes.Made{Solid: s, Shape: &assembly.Shape{Box: g.Box, Props: g.Props, Mesh: mesh,
			Deflection: inspect.Deflection(g.Box), Features: assembly.Named(g, names, names, nil)}}
	}
	var list []clash.Placed
	add := func(m *shapes.Made, at solid.Vec) {
		p := rigid.Still()
		p.Shift = at
		id := fmt.Sprint("c", len(list)+1)
		list = append(list, clash.Placed{ID: id, Title: id, Pose: p, Shape: m.Shape, Solid: m.Solid})
	}
	add(plate(12), solid.Vec{})
	add(plate(6), solid.Vec{0, 0, 12})
	screw, washer, nut := made("Hexagon head screw", 35), made("Plain washer", 0), made("Hexagon nut", 0)
	for _, p := range places {
		add(screw, p.Add(solid.Vec{0, 0, 19.6}))
		add(washer, p.Add(solid.Vec{0, 0, 18}))
		add(nut, p.Add(solid.Vec{0, 0, -6.8}))
	}
	meet := 0
	for i := range list {
		for j := range i {
			a, c := list[i].Shape.Box, list[j].Shape.Box
			apart := false
			for n := range 3 {
				apart = apart || a.Min[n]+list[i].Pose.Shift[n] > c.Max[n]+list[j].Pose.Shift[n]+1e-4 ||
					c.Min[n]+list[j].Pose.Shift[n] > a.Max[n]+list[i].Pose.Shift[n]+1e-4
			}
			if !apart {
				meet++
			}
		}
	}
	asked := 0
	for b.Loop() {
		l := clash.Looker{Kernel: k}
		pairs, err := l.All(b.Context(), list, func(float64) {})
		if err != nil {
			b.Fatal(err)
		}
		kinds := map[string]int{}
		for _, p := range pairs {
			kinds[p.Kind]++
		}
		if asked = l.Booleans; kinds[clash.Thread] != 19 || kinds[clash.Contact] != 1+3*19 || len(pairs) != 4*19+1 {
			b.Fatalf("%v", kinds)
		}
	}
	b.ReportMetric(float64(meet), "pairs-of-boxes")
	b.ReportMetric(float64(asked), "booleans")
}
