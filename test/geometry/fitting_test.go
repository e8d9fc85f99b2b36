package geometry

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/session"
	"hammerset/core/assembly/shapes"
	"hammerset/core/part"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
)

// tackle is the demo's tackle joint, open for fitting.
func tackle(t *testing.T) *session.Session {
	t.Helper()
	a, err := demo.Assembly("tackle-joint")
	if err != nil {
		t.Fatal(err)
	}
	of := map[string]*assembly.Shape{}
	for id, made := range tackleSolids(t) {
		of[id] = made.Shape
	}
	s, err := session.Open(a.Document, of)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// tackleSolids are the parts of the tackle joint.
func tackleSolids(t *testing.T) map[string]*shapes.Made {
	t.Helper()
	a, err := demo.Assembly("tackle-joint")
	if err != nil {
		t.Fatal(err)
	}
	table, err := a.Document.Table(nil)
	if err != nil {
		t.Fatal(err)
	}
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(occ.Kernel{})}
	of := map[string]*shapes.Made{}
	for i := range a.Document.Parts {
		p := &a.Document.Parts[i]
		doc, err := documents.ReadModel(a.Files[p.File])
		if err != nil {
			t.Fatal(err)
		}
		own, err := doc.Table(nil)
		if err != nil {
			t.Fatal(err)
		}
		set, err := shapes.Values(p, own, table)
		if err != nil {
			t.Fatal(err)
		}
		if of[p.ID], err = maker.Model(ctx, doc, set, p.Solid); err != nil {
			t.Fatal(err)
		}
	}
	return of
}

// What is looked at of the tackle joint is as it is made: its section along the middle of the pin has the areas of the
// drawings, components that touch hatched otherwise; drawn apart, the collar comes off first and the pin leaves along
// its axis; between its faces is measured what the sizes say; and there is nothing to find in it until it is spoilt.
func TestLookingAtTheTackleJoint(t *testing.T) {
	s := tackle(t)
	cuts := s.Section(session.Plane{At: solid.Vec{0, 0, 0}, Normal: solid.Vec{0, 1, 0}}, 0)
	area, style := map[string]float64{}, map[string][2]float64{} // slope and spacing of the hatching
	for _, c := range cuts {
		at := func(list []float64, i int) solid.Vec { return solid.Vec(list[3*i : 3*i+3]) }
		for i := 0; 3*i < len(c.Fill); i += 3 {
			area[c.Component] += at(c.Fill, i+1).Sub(at(c.Fill, i)).Cross(at(c.Fill, i+2).Sub(at(c.Fill, i))).Norm() / 2
		}
		d := at(c.Hatch, 1).Sub(at(c.Hatch, 0))
		apart := math.Inf(1)
		for i := 2; 3*i < len(c.Hatch); i += 2 {
			if v := at(c.Hatch, i).Sub(at(c.Hatch, 0)).Cross(d.Unit()).Norm(); v > 1e-3 {
				apart = math.Min(apart, v)
			}
		}
		style[c.Component] = [2]float64{math.Atan(d[2] / d[0]), apart}
	}
	// The pin: a head of 18 by 5 and a shank of 12 by 42.
	if len(cuts) != 4 || math.Abs(area["c3"]-(18*5+12*42)) > 0.01*594 {
		t.Errorf("%d components are cut, with %v", len(cuts), area)
	}
	for _, pair := range [][2]string{{"c1", "c3"}, {"c2", "c3"}, {"c3", "c4"}, {"c1", "c2"}, {"c1", "c4"}} {
		x, y := style[pair[0]], style[pair[1]]
		if math.Abs(x[0]-y[0]) < 0.1 && math.Abs(x[1]-y[1]) < 0.2*x[1] {
			t.Errorf("%s and %s are hatched alike: %v", pair[0], pair[1], style)
		}
	}
	apart := s.Apart()
	order, by := map[string]int{}, map[string]solid.Vec{}
	for _, x := range apart.Apart {
		order[x.Component], by[x.Component] = x.Order, x.By
	}
	if len(apart.Forced) > 0 || order["c4"] != 0 || order["c3"] > order["c2"] || by["c1"] != (solid.Vec{}) ||
		math.Hypot(by["c3"][0], by["c3"][1]) > 1e-6 || by["c4"][2]*by["c3"][2] >= 0 {
		t.Errorf("drawn apart: %+v", apart)
	}
	read := func(a, b string) string {
		x, err1 := address.Parse(a)
		y, err2 := address.Parse(b)
		got, err := s.Measure(x, y)
		if err1 != nil || err2 != nil || err != nil {
			t.Fatal(err1, err2, err)
		}
		var list []string
		for _, m := range got {
			list = append(list, m.Words+" "+m.Value)
		}
		return strings.Join(list, ", ")
	}
	for _, c := range [][3]string{
		{"c1#e1/start", "c1#e1/end", "distance between them 32 mm"},
		{"c1#e3/side:c0", "c3#e2/side:c0", "distance between the axes 0 mm"},
		{"c1#e1/end", "c1#e3/side:c0", "angle between them 90°"},
	} {
		if got := read(c[0], c[1]); got != c[2] {
			t.Errorf("between %s and %s: %q, want %q", c[0], c[1], got, c[2])
		}
	}
	if found := s.LookOver(); len(found) > 0 {
		t.Errorf("found in it: %+v", found)
	}
	do := func(c session.Command) {
		t.Helper()
		if err := s.Do(c); err != nil {
			t.Fatal(err)
		}
	}
	do(session.Command{Do: "remove-joint", ID: "j3"})
	do(session.Command{Do: "copy", ID: "c4"})
	said := fmt.Sprintf("%+v", s.LookOver())
	for _, words := range []string{"collar is held by no joint; it comes out", "collar 2 hangs in the air"} {
		if !strings.Contains(strings.ToLower(said), words) {
			t.Errorf("not found: %s\n%s", words, said)
		}
	}
}
