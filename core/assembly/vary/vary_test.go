package vary

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// straps are parts that are nothing but two bores with parallel axes, as far apart as the size l of the part says.
type straps struct{ length map[string]string }

func (s straps) Shapes(_ context.Context, d *assembly.Document) (map[string]*assembly.Shape, error) {
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	out := map[string]*assembly.Shape{}
	for _, p := range d.Parts {
		text := s.length[p.ID]
		if set := p.Values["l"]; set != "" {
			text = set
		}
		l, err := table.Eval(text, quantity.Length)
		if err != nil {
			return nil, err
		}
		shape := &assembly.Shape{Unit: "mm", Sizes: []quantity.Parameter{{Name: "l", Formula: s.length[p.ID]}},
			Box: solid.Box{Min: solid.Vec{-5, -5, -5}, Max: solid.Vec{l + 5, 5, 5}}}
		if l > 130 {
			shape = &assembly.Shape{Broken: &assembly.Broken{What: "the strap is longer than its bar",
				Remedy: "make it shorter"}}
		}
		for i, x := range []float64{0, l} {
			shape.Features = append(shape.Features, assembly.Feature{Name: fmt.Sprintf("h%d", i), Form: assembly.Cylinder,
				Words: "bore", At: solid.Vec{x, 0, 0}, Axis: solid.Vec{0, 0, 1}, Radius: 3, Hollow: true, Length: 10})
		}
		out[p.ID] = shape
	}
	return out, nil
}

func (straps) Collisions(context.Context, *assembly.Document) ([]clash.Pair, error) { return nil, nil }

// loop is a ring of straps with a joint at each corner; the first strap is pinned.
func loop(lengths ...string) (*assembly.Document, straps) {
	d, made := &assembly.Document{Hammerset: assembly.Version, Name: "loop", Unit: "mm"}, straps{map[string]string{}}
	for i, l := range lengths {
		id := fmt.Sprintf("c%d", i+1)
		made.length[id] = l
		d.Parts = append(d.Parts, assembly.Part{ID: id, Name: id, File: id})
		pose := rigid.Still()
		if i == 2 { // roughly beside the others, as a hand would have put it
			pose.Shift = solid.Vec{20, 60, 0}
		}
		d.Components = append(d.Components, assembly.Component{ID: id, Part: id, Pinned: i == 0, Pose: pose})
	}
	n := len(lengths)
	for i := range n {
		d.Joints = append(d.Joints, assembly.Joint{ID: fmt.Sprintf("j%d", i+1), Kind: "revolute", Sense: assembly.Same,
			A: address.Ref{Component: d.Components[(i+1)%n].ID, Name: "h0"},
			B: address.Ref{Component: d.Components[i].ID, Name: "h1"}})
	}
	return d, made
}

// The parallel axes of a plane four-bar are held more than once at every size, and none of it is a finding. Two straps
// that two pins hold together contradict one another as soon as one of them has another length, unless a
// formula ties both. What is further off than it may be is told where it begins.
func TestVaried(t *testing.T) {
	bars, made := loop("80 mm", "30 mm", "70 mm", "50 mm")
	pair := func(values map[string]string, sizes ...quantity.Parameter) (*assembly.Document, straps) {
		d, made := loop("40 mm", "40 mm")
		d.Joints[0].A.Name, d.Joints[0].B.Name, d.Joints[1].A.Name, d.Joints[1].B.Name = "h0", "h0", "h1", "h1"
		d.Parameters = sizes
		for i := range d.Parts {
			d.Parts[i].Values = values
		}
		return d, made
	}
	two, own := pair(nil)
	tied, both := pair(map[string]string{"l": "spacing"}, quantity.Parameter{Name: "spacing", Formula: "40 mm"})
	long, far := loop("120 mm", "119 mm", "121 mm")
	for _, c := range []struct {
		name    string
		doc     *assembly.Document
		maker   Maker
		sizes   int
		touchy  bool
		repeats bool
		says    []string
	}{
		{"a four-bar", bars, made, 4, false, true, nil},
		{"two straps, two pins", two, own, 2, true, true, []string{"contradiction j1 j2 from 39",
			"contradiction j1 j2 from 40.1"}},
		{"two straps tied by a formula", tied, both, 1, false, true, nil},
		{"straps that cannot be longer", long, far, 3, false, true, []string{"broken  from 130"}},
	} {
		got, err := (&Varier{Maker: c.maker}).Run(t.Context(), c.doc, func(float64) {})
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		if len(got.Sizes) != c.sizes {
			t.Errorf("%s: varied %q", c.name, got.Sizes)
		}
		if len(got.Repeats) > 0 != c.repeats {
			t.Errorf("%s: repeats %+v", c.name, got.Repeats)
		}
		for _, r := range got.Repeats {
			if r.Touchy != c.touchy {
				t.Errorf("%s: %+v", c.name, r)
			}
		}
		var said []string
		for _, f := range got.Found {
			said = append(said, fmt.Sprintf("%s %s from %s", f.Kind, strings.Join(f.Joints, " "), f.From))
		}
		for _, want := range c.says {
			if !strings.Contains(strings.Join(said, "\n"), want) {
				t.Errorf("%s: %q, want %q", c.name, said, want)
			}
		}
		if c.says == nil && said != nil {
			t.Errorf("%s: %q", c.name, said)
		}
	}
}
