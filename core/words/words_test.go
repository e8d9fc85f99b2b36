package words

import (
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/solid"
)

func flat(x, y, z float64) solid.Face {
	return solid.Face{Kind: solid.PlaneFace, Normal: solid.Vec{x, y, z}.Unit()}
}

var titles = map[string]string{"e1": "base", "e2": "extrude e2", "h1": "bolt holes", "f1": "soft corners",
	"m1": "other half", "r1": "ring"}

// Faces are called by what they are and by the step that makes them; a name is never shown.
func TestFacesAreCalledByWhatTheyAre(t *testing.T) {
	bore := solid.Face{Kind: solid.CylinderFace, Radius: 4, Hollow: true}
	boss := solid.Face{Kind: solid.CylinderFace, Radius: 4}
	n := NewNamer(titles, "mm")
	for _, c := range []struct {
		name string
		face solid.Face
		want string
	}{
		{"e1/end", flat(0, 0, 1), "top of base"},
		{"e1/start", flat(0, 0, -1), "underside of base"},
		{"e1/end", flat(1, 0, 1), "end of base"},
		{"e1/side:l1", flat(0, -1, 0), "front of base"},
		{"e1/side:l2", flat(1, 0, 0), "right side of base"},
		{"e1/side:l3", flat(1, 1, 0), "back right side of base"},
		{"e1/side:l3", flat(0.602, -0.798, 0), "front right side of base"}, // turned by 37 degrees
		{"e1/side:l3", flat(-1, 0, 1), "slanting left side of base"},
		{"e1/side:l3", flat(0.1, 0, -1), "slanting side of base"},
		{"e2/side:c0", boss, "round side of extrude e2"},
		{"e2/side:c0", bore, "bore of extrude e2"},
		{"h1.p3/bore", bore, "bore of bolt holes"},
		{"h1.2/sink", solid.Face{Kind: solid.ConeFace}, "countersink of bolt holes"},
		{"f1/round(e1/side:l1|e1/side:l2)", boss, "round of soft corners"},
		{"m1:h1.p3/bore", bore, "bore of bolt holes, copied by other half"},
		{"r1.3:h1.p3/bore", bore, "bore of bolt holes, place 3 of ring"},
		{"e1/end@e2", flat(0, 0, 1), "top of base"},
		{"i9/face:7", flat(0, 0, 1), "face 7 of i9"},
		{"face:7", bore, "bore"},
		{"", flat(0, 1, 0), "flat face facing back"},
		{"e1/side:l1", solid.Face{}, "side of base"}, // gone
		{"h1.*/bore", bore, "every bore of bolt holes"},
		{"e1/side:*", flat(1, 1, 0), "every side of base"},
	} {
		if got := n.Face(c.name, c.face); got != c.want {
			t.Errorf("%s is called %q, not %q", c.name, got, c.want)
		}
	}
	got := n.Faces([]string{"h1.p1/bore", "e1/end", "h1.p2/bore"}, []solid.Face{bore, flat(0, 0, 1), bore})
	want := []string{"bore of bolt holes, diameter 8 mm (1)", "top of base", "bore of bolt holes, diameter 8 mm (2)"}
	if !slices.Equal(got, want) {
		t.Errorf("they are called %q, not %q", got, want)
	}
	edge := solid.Edge{Kind: solid.LineEdge, Length: 25.4}
	if got := NewNamer(nil, "in").Edge(edge, "top of base", "front of base"); got !=
		"straight edge, 1 in, between the top of base and the front of base" {
		t.Errorf("an edge is called %q", got)
	}
}

// Faces that share edges are called together, with their size and place where those may be told.
func TestFeaturesAreCalledByTheirFaces(t *testing.T) {
	z := solid.Vec{0, 0, 1}
	round := func(x, y, r float64, hollow bool) solid.Face {
		return solid.Face{Kind: solid.CylinderFace, Origin: solid.Vec{x, y, 0}, Axis: z, Radius: r, Hollow: hollow,
			Span: 2 * math.Pi}
	}
	end := func(x, y, r float64) solid.Face {
		f := round(x, y, r, true)
		f.Span = math.Pi
		return f
	}
	floor := flat(0, 0, 1)
	floor.Centroid = solid.Vec{20, 30, 5}
	wall := func(x, y, nx, ny float64) solid.Face {
		f := flat(nx, ny, 0)
		f.Centroid = solid.Vec{x, y, 5}
		return f
	}
	meet := func(x, y float64, a, b int) solid.Edge {
		return solid.Edge{Faces: []int{a, b}, Mid: solid.Vec{x, y, 5}}
	}
	for _, c := range []struct {
		name  string
		faces []solid.Face
		edges []solid.Edge
		told  []int
		want  []string
	}{
		{"a hole through", []solid.Face{round(20, 30, 3, true)}, nil, []int{0},
			[]string{"a hole, diameter 6 mm, 20 mm from the left and 30 mm from the front"}},
		{"a blind hole", []solid.Face{round(20, 30, 3, true), floor}, []solid.Edge{{Faces: []int{0, 1}}}, []int{0, 1},
			[]string{"a hole with a floor, diameter 6 mm, 20 mm from the left and 30 mm from the front"}},
		{"a floor in a bore", []solid.Face{round(20, 30, 3, true), floor}, []solid.Edge{{Faces: []int{0, 1}}}, []int{1},
			[]string{"a flat face that closes a bore, diameter 6 mm"}},
		{"a boss", []solid.Face{round(90, 70, 4, false)}, nil, []int{0},
			[]string{"a cylinder, diameter 8 mm, 10 mm from the right and 10 mm from the back"}},
		{"a slot", []solid.Face{end(20, 30, 3), end(28, 30, 3), flat(0, 1, 0), flat(0, -1, 0)},
			[]solid.Edge{{Faces: []int{0, 2}}, {Faces: []int{2, 1}}, {Faces: []int{1, 3}}, {Faces: []int{3, 0}}},
			[]int{0, 1, 2, 3},
			[]string{"a slot, 6 mm wide, 14 mm long, 12 mm from the left and 15 mm from the front"}},
		{"a pocket", []solid.Face{wall(10, 20, 1, 0), wall(15, 15, 0, 1)}, []solid.Edge{meet(10, 15, 0, 1)}, []int{0, 1},
			[]string{"a pocket or groove, 12.5 mm from the left, 17.5 mm from the front and 5 mm from the bottom"}},
		{"a block", []solid.Face{wall(20, 20, 1, 0), wall(15, 25, 0, 1)}, []solid.Edge{meet(20, 25, 0, 1)}, []int{0, 1},
			[]string{"a block, 17.5 mm from the left, 22.5 mm from the front and 5 mm from the bottom"}},
		{"two apart", []solid.Face{round(20, 30, 3, true), round(60, 30, 3, true)}, nil, []int{0, 1},
			[]string{"a hole, diameter 6 mm, 20 mm from the left and 30 mm from the front",
				"a hole, diameter 6 mm, 40 mm from the right and 30 mm from the front"}},
	} {
		g := &solid.Geometry{Faces: c.faces, Edges: c.edges, Box: solid.Box{Max: solid.Vec{100, 80, 10}}}
		if got := Features(g, c.told, "mm", true); !slices.Equal(got, c.want) {
			t.Errorf("%s: %q", c.name, got)
		}
		for _, w := range Features(g, c.told, "mm", false) {
			if strings.ContainsAny(w, "0123456789") {
				t.Errorf("%s tells a size: %s", c.name, w)
			}
		}
	}
}
