package inspect

import (
	"testing"

	"hammerset/core/solid"
)

// drilled is a block 100 x 60 x 20 with bores along z at the given places (x, y,
// radius): its faces alone, as a matching sees them. The block's far x face can lie
// elsewhere.
func drilled(far float64, bores ...[3]float64) *solid.Geometry {
	g := &solid.Geometry{Box: solid.Box{Max: solid.Vec{100, 60, 20}}}
	plane := func(n solid.Vec, c solid.Vec, area float64) {
		g.Faces = append(g.Faces, solid.Face{Kind: solid.PlaneFace, Normal: n, Axis: n, Centroid: c, Origin: c, Area: area})
	}
	m := far / 2
	plane(solid.Vec{-1, 0, 0}, solid.Vec{0, 30, 10}, 1200)
	plane(solid.Vec{1, 0, 0}, solid.Vec{far, 30, 10}, 1200)
	plane(solid.Vec{0, -1, 0}, solid.Vec{m, 0, 10}, 20*far)
	plane(solid.Vec{0, 1, 0}, solid.Vec{m, 60, 10}, 20*far)
	plane(solid.Vec{0, 0, -1}, solid.Vec{m, 30, 0}, 60*far)
	plane(solid.Vec{0, 0, 1}, solid.Vec{m, 30, 20}, 60*far)
	join := func(a, b int) { g.Edges = append(g.Edges, solid.Edge{Kind: solid.LineEdge, Faces: []int{a, b}}) }
	for _, side := range []int{0, 1} {
		for _, other := range []int{2, 3, 4, 5} {
			join(side, other)
		}
	}
	for _, side := range []int{2, 3} {
		for _, other := range []int{4, 5} {
			join(side, other)
		}
	}
	for _, b := range bores {
		c := solid.Vec{b[0], b[1], 10}
		g.Faces = append(g.Faces, solid.Face{Kind: solid.CylinderFace, Axis: solid.Vec{0, 0, 1},
			Origin: solid.Vec{b[0], b[1], 0}, Centroid: c, Radius: b[2], Area: 40 * 3 * b[2], Hollow: true, Span: 6.28})
		join(len(g.Faces)-1, 4)
		join(len(g.Faces)-1, 5)
	}
	return g
}

// A face that has moved by more than the part's size is matched all the same, since its
// neighbours are; a face that has no counterpart stays alone.
func TestMatchReachesOut(t *testing.T) {
	ref := drilled(100, [3]float64{20, 20, 4})
	for _, far := range []float64{100, 140, 260, 400} {
		m := Match(ref, drilled(far, [3]float64{20, 20, 4}))
		for i, j := range m.Of {
			if i != j {
				t.Errorf("far face at %g: face %d is matched with %d", far, i, j)
			}
		}
	}
	m := Match(ref, drilled(100))
	if m.Of[6] != -1 || len(m.Extra) != 0 {
		t.Errorf("a bore that is missing is matched with %d", m.Of[6])
	}
	// Only one of two that are alike is there: it goes to the nearer one.
	two := drilled(100, [3]float64{20, 20, 4}, [3]float64{80, 40, 4})
	if m := Match(two, drilled(100, [3]float64{79, 40, 4})); m.Of[7] != 6 || m.Of[6] != -1 {
		t.Errorf("%v", m.Of)
	}
}

// Surplus counts bores that are alike and elsewhere: not those of another size, and not
// further pieces of a bore that is matched.
func TestSurplus(t *testing.T) {
	ref := drilled(100, [3]float64{20, 20, 4}, [3]float64{80, 20, 4})
	for _, c := range []struct {
		name  string
		bores [][3]float64
		want  int
	}{
		{"as many as there should be", [][3]float64{{20, 20, 4}, {80, 20, 4}}, 0},
		{"one too many", [][3]float64{{20, 20, 4}, {80, 20, 4}, {50, 50, 4}}, 1},
		{"two too many", [][3]float64{{20, 20, 4}, {80, 20, 4}, {50, 50, 4}, {50, 10, 4}}, 2},
		{"one of another size", [][3]float64{{20, 20, 4}, {80, 20, 4}, {50, 50, 6}}, 0},
		{"a bore in two pieces", [][3]float64{{20, 20, 4}, {80, 20, 4}, {80, 20, 4}}, 0},
		{"a further one in two pieces", [][3]float64{{20, 20, 4}, {80, 20, 4}, {50, 50, 4}, {50, 50, 4}}, 1},
	} {
		att := drilled(100, c.bores...)
		m := Match(ref, att)
		if m.Of[6] < 0 || m.Of[7] < 0 {
			t.Errorf("%s: the bores are not matched: %v", c.name, m.Of)
			continue
		}
		if n := len(m.Surplus(att, []int{m.Of[6], m.Of[7]})); n != c.want {
			t.Errorf("%s: %d", c.name, n)
		}
	}
}
