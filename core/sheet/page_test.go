package sheet

import (
	"math"
	"testing"

	"hammerset/core/solid"
	"hammerset/core/standards"
)

// turnedPart is the geometry of a shaft along x with a shoulder, as far as views of it are chosen by that.
func turnedPart() *solid.Geometry {
	x := solid.Vec{1, 0, 0}
	circle := func(at, r float64) solid.Edge {
		a := solid.Vec{at, r, 0}
		return solid.Edge{Kind: solid.CircleEdge, A: a, B: a, Mid: solid.Vec{at, -r, 0}, Center: solid.Vec{at, 0, 0}, Axis: x,
			Radius: r}
	}
	return &solid.Geometry{
		Faces: []solid.Face{{Kind: solid.CylinderFace, Axis: x, Radius: 10}, {Kind: solid.CylinderFace, Axis: x, Radius: 6},
			{Kind: solid.PlaneFace, Normal: x}, {Kind: solid.PlaneFace, Normal: x.Scale(-1)}},
		Edges: []solid.Edge{circle(-20, 10), circle(0, 10), circle(0, 6), circle(20, 6)},
	}
}

// block is the geometry of a block with a level edge across its front at a height, or without one.
func block(across bool) *solid.Geometry {
	g := &solid.Geometry{}
	corner := func(i int) solid.Vec {
		return solid.Vec{float64(i&1)*40 - 20, float64(i>>1&1)*30 - 15, float64(i>>2&1)*20 - 10}
	}
	line := func(a, b solid.Vec) {
		g.Edges = append(g.Edges, solid.Edge{Kind: solid.LineEdge, A: a, B: b, Mid: a.Add(b).Scale(0.5)})
	}
	for i := range 8 {
		for _, bit := range []int{1, 2, 4} {
			if i&bit == 0 {
				line(corner(i), corner(i|bit))
			}
		}
	}
	if across {
		line(solid.Vec{-20, -15, 3}, solid.Vec{20, -15, 3})
	}
	return g
}

// laid is the layout of a part of a size that stands as it lies in its file.
func laid(g *solid.Geometry, size solid.Vec) *layout {
	l := &layout{ref: g, stand: solid.World, size: size, views: map[string]solid.Frame{}, sides: map[string][]beside{}}
	for _, v := range []string{"front", "top", "left"} {
		l.views[v], _ = viewOf(v, solid.World)
	}
	return l
}

// A sheet has the views that are needed and no more: those at which something stands, and those that show something of
// their own.
func TestEnoughViews(t *testing.T) {
	for _, c := range []struct {
		name   string
		layout *layout
		marked []string
		want   string
	}{
		{"a plain block, dimensioned in two views", laid(block(false), solid.Vec{40, 30, 20}), []string{"front", "top"},
			"front top"},
		{"a plain block, dimensioned in one", laid(block(false), solid.Vec{40, 30, 20}), []string{"front"}, "front"},
		{"an edge across the front shows in the front alone", laid(block(true), solid.Vec{40, 30, 20}),
			[]string{"top", "left"}, "front top left"},
		{"a shaft seen from its side and its end", laid(turnedPart(), solid.Vec{40, 20, 20}), []string{"front", "left"},
			"front left"},
		{"a shaft whose ends nothing is stated at", laid(turnedPart(), solid.Vec{40, 20, 20}), []string{"front"},
			"front left"},
		{"what is dimensioned by hand", laid(block(false), solid.Vec{40, 30, 20}), nil, "front top left"},
	} {
		marked := map[string]bool{}
		for _, v := range c.marked {
			marked[v] = true
		}
		got := ""
		shown := c.layout.enough(marked)
		for _, v := range []string{"front", "top", "left"} {
			if shown[v] {
				got += " " + v
			}
		}
		if got[1:] != c.want {
			t.Errorf("%s: %s, want %s", c.name, got[1:], c.want)
		}
	}
}

// The paper and the scale are those that the views fill well, whatever the size of the part; its views stay within the
// frame and beside one another, and the pictorial view beside all of them.
func TestPaperAndScaleFit(t *testing.T) {
	for _, third := range []bool{false, true} {
		for _, size := range []float64{0.5, 3, 12, 40, 150, 600, 2500} {
			l := laid(block(false), solid.Vec{size, 0.7 * size, 0.5 * size})
			l.ref = &solid.Geometry{} // its edges are of another size
			p := &page{layout: l, third: third, stack: map[string]float64{"front left": 24, "front below": 36},
				shown: map[string]bool{"front": true, "top": true, "left": true}}
			p.choose("A3")
			if used := p.used(); used > 0.45 {
				t.Errorf("a part of %g mm on %s at %g: %.2f from being filled well", size, p.paper.Name, p.factor, used)
			}
			columns, rows := p.spread()
			var taken []Extent
			for _, c := range columns {
				for _, r := range rows {
					taken = append(taken, Extent{Point{c.at - c.before, r.at - r.size - r.after},
						Point{c.at + c.size + c.after, r.at + r.before}})
				}
			}
			frame := Extent{Point{binding, margin}, Point{p.paper.Width - margin, p.paper.Height - margin}}
			for i, e := range taken {
				if e.Min[0] < frame.Min[0] || e.Min[1] < frame.Min[1] || e.Max[0] > frame.Max[0] || e.Max[1] > frame.Max[1] {
					t.Errorf("a part of %g mm on %s at %g: a view reaches over the frame: %v", size, p.paper.Name, p.factor, e)
				}
				for _, o := range taken[:i] {
					if e.Overlaps(o) {
						t.Errorf("a part of %g mm: views lie on one another: %v, %v", size, e, o)
					}
				}
			}
			if scale, room, ok := p.pictorial(); ok {
				w, h := p.pictured()
				if scale.Factor > p.factor || scale.Factor*w > room.Max[0]-room.Min[0]+1e-9 ||
					scale.Factor*h > room.Max[1]-room.Min[1]+1e-9 {
					t.Errorf("a part of %g mm: the pictorial view at %s in %v", size, scale.Name, room)
				}
			}
		}
	}
	if w, h := (&page{layout: laid(block(false), solid.Vec{1, 1, 1})}).pictured(); math.Abs(w-math.Sqrt2) > 1e-9 ||
		math.Abs(h-4/math.Sqrt(6)) > 1e-9 { // the outline of a cube is a regular hexagon with sides of √(2/3)
		t.Errorf("a cube is seen %g wide and %g high", w, h)
	}
}

// Where no paper has room for all sizes beside the views, the views are drawn as large as leaves half of the largest
// paper, and not as small as scales go.
func TestMoreSizesThanAnyPaperHasRoomFor(t *testing.T) {
	for _, c := range []struct {
		rows float64 // of dimensions under the front view, in mm of paper
		want string
	}{{12, "A3 at 5:1"}, {5000, "A0 at 10:1"}} {
		p := &page{layout: laid(block(true), solid.Vec{40, 30, 20}), shown: map[string]bool{"front": true},
			stack: map[string]float64{"front below": c.rows}}
		p.choose("A3")
		if got := p.paper.Name + " at " + standards.ScaleOf(p.factor).Name; got != c.want {
			t.Errorf("with %g mm of dimensions: %s, expected %s", c.rows, got, c.want)
		}
	}
}
