package geometry

import (
	"slices"
	"testing"

	"hammerset/core/identify"
	"hammerset/core/part"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
	"hammerset/test/samples"
)

// bracketAssembly is the public AS1 assembly: its parts with their quantities, and all its solids in place.
func bracketAssembly(t *testing.T) (items []identify.Item, names []string, solids []solid.Shape) {
	t.Helper()
	k := occ.Kernel{}
	c, err := k.ReadSTEP(ctx, samples.Unzip(t, samples.AS1))
	if err != nil {
		t.Fatal(err)
	}
	for i, p := range c.Parts {
		items = append(items, identify.Item{Part: describedShape(t, p.Shape)})
		names = append(names, p.Name)
		items[i].Quantity = times(c, i)
	}
	if solids, err = k.Split(c.Shape); err != nil {
		t.Fatal(err)
	}
	return items, names, solids
}

// times counts how often a part of a file is there: its places, times those of what they are in.
func times(c *solid.Content, part int) int {
	n := 0
	for i := range c.Tree {
		if c.Tree[i].Part == part {
			n++
		}
	}
	return n
}

func describedShape(t *testing.T, s solid.Shape) *solid.Geometry {
	t.Helper()
	g, err := solid.Describe(occ.Kernel{}, s, nil)
	if err != nil {
		t.Fatal(err)
	}
	return g
}

// The solids of the AS1 assembly are told by what they are, wherever the whole lies: each is the item that it is, one
// that is gone is missing, one too many is told as that, and a rod that was cut short is still what it should be.
func TestWhichSolidIsWhichItem(t *testing.T) {
	items, names, shapes := bracketAssembly(t)
	k := occ.Kernel{}
	item := func(name string) int { return slices.Index(names, name) }
	place := func(of string) int { // the first solid that is an item
		g := make([]*solid.Geometry, len(shapes))
		for i, s := range shapes {
			g[i] = describedShape(t, s)
		}
		return slices.Index(identify.Find(items, g).Of, item(of))
	}
	rod := place("rod")
	short := func(s solid.Shape) solid.Shape { // a seventh of it is cut off
		box := describedShape(t, s).Box
		long := 0
		for axis := range 3 {
			if box.Size()[axis] > box.Size()[long] {
				long = axis
			}
			box.Min[axis]--
			box.Max[axis]++
		}
		box.Max[long] = box.Min[long] + box.Size()[long]/7
		out, _, err := k.Boolean(solid.Difference, s, []solid.Shape{boxed(t, box)})
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	for _, c := range []struct {
		what    string
		change  func(list []solid.Shape) []solid.Shape
		missing string
		tooMany int
		other   int // solids that are not what they should be
	}{
		{"as it is", func(l []solid.Shape) []solid.Shape { return l }, "", 0, 0},
		{"without a rod", func(l []solid.Shape) []solid.Shape { return slices.Delete(l, rod, rod+1) }, "rod", 0, 0},
		{"with a rod too many", func(l []solid.Shape) []solid.Shape { return append(l, l[rod]) }, "", 1, 0},
		{"with a rod cut short", func(l []solid.Shape) []solid.Shape { l[rod] = short(l[rod]); return l }, "", 0, 1},
		{"in another order", func(l []solid.Shape) []solid.Shape { slices.Reverse(l); return l }, "", 0, 0},
	} {
		var list []*solid.Geometry
		for _, s := range c.change(slices.Clone(shapes)) {
			moved, _, err := k.Transform(s, oddPose())
			if err != nil {
				t.Fatal(err)
			}
			list = append(list, describedShape(t, moved))
		}
		f := identify.Find(items, list)
		other := 0
		for s, of := range f.Of {
			if of < 0 || f.Likeness[s].Sameness != identify.Same {
				other++
			}
		}
		for i, n := range f.Missing {
			if want := names[i] == c.missing; (n == 1) != want || n > 1 {
				t.Errorf("%s: %d of %s missing", c.what, n, names[i])
			}
		}
		if len(f.TooMany) != c.tooMany || other != c.other || len(f.Doubtful) > 0 {
			t.Errorf("%s: too many %v, %d other than they should be, doubtful %v", c.what, f.TooMany, other, f.Doubtful)
		}
		if c.what == "as it is" && len(f.Kin) != len(items) {
			t.Errorf("%d groups of solids that are one part, and %d parts", len(f.Kin), len(items))
		}
	}
}

// boxed is a solid that fills a box.
func boxed(t *testing.T, b solid.Box) solid.Shape {
	t.Helper()
	size := b.Size()
	corners := [][2]float64{{0, 0}, {size[0], 0}, {size[0], size[1]}, {0, size[1]}}
	var loop []solid.Segment
	for i, a := range corners {
		loop = append(loop, solid.Segment{Kind: "line", A: a, B: corners[(i+1)%4], Forward: true})
	}
	frame := solid.World
	frame.O = b.Min
	outline := solid.Profile{Frame: frame, Loops: [][]solid.Segment{loop}}
	out, _, err := occ.Kernel{}.Prism(outline, solid.Vec{0, 0, size[2]})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// A mirror image is no kin and still the part, made with the wrong hand; what is like nothing is unknown.
func TestMirrorImagesAndStrangers(t *testing.T) {
	hand := func(x float64) *part.Document { // an angle with a hole in one leg, which makes it left or right
		return model(t, "mm", "", outline("s1", xy, 0, 0, 60, 0, 60, 8, 8, 8, 8, 40, 0, 40),
			extrude("e1", "s1", oneSide("30 mm"), ""), circles("s2", `{"datum":"XZ"}`, x, 10, 4),
			extrude("e2", "s2", `{"kind":"symmetric","total":"40 mm"}`, `,"result":"cut"`))
	}
	left := describe(t, hand(45))
	k := occ.Kernel{}
	mirror := solid.Transform{M: [3]solid.Vec{{-1, 0, 0}, {0, 1, 0}, {0, 0, 1}}}
	image, _, err := k.Transform(build(t, hand(45), nil).Solid.Shape, mirror)
	if err != nil {
		t.Fatal(err)
	}
	ball := describe(t, model(t, "mm", "", circles("s1", xy, 0, 0, 3), extrude("e1", "s1", oneSide("400 mm"), "")))
	solids := []*solid.Geometry{left, describedShape(t, image), left, ball}
	f := identify.Find([]identify.Item{{Part: left, Quantity: 3}}, solids)
	if len(f.Kin) != 3 || len(f.Kin[0].Members) != 2 {
		t.Errorf("the groups are %+v", f.Kin)
	}
	if !slices.Equal(f.Of, []int{0, 0, 0, -1}) || f.Likeness[1].Sameness != identify.Mirror || f.Missing[0] != 0 {
		t.Errorf("%+v", f)
	}
}
