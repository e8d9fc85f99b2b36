package characteristic

import (
	"fmt"
	"math"
	"sort"

	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// chamfer is the leg of a 45 degree bevel: the axial length of a cone, or the width of a flat
// bevel divided by the root of two.
func chamfer() *Kind {
	return &Kind{
		Name: "chamfer", Title: "chamfer", On: "bevels", Dim: quantity.Length, Scope: EachFace,
		Measure: func(g *solid.Geometry, p Place, _ How) (float64, error) { return leg(g, g.Faces[p[0][0]]) },
		General: standards.BrokenEdge, Bevel: true,
		Print:    func(s Stated, _ How) string { return s.Text + " × 45°" },
		Arranged: AtLeader,
		Proposed: func(g *solid.Geometry, p Place) bool {
			if len(p) != 1 {
				return false
			}
			f := g.Faces[p[0][0]]
			return f.Kind == solid.ConeFace && math.Abs(math.Abs(f.HalfAngle)-math.Pi/4) < square ||
				breaksCorner(g, p[0][0])
		},
	}
}

// BevelOf is the largest flat face that a flat face is a bevel of, at 45 degrees beside it, or -1.
func BevelOf(g *solid.Geometry, bevel int) int {
	best := -1
	if g.Faces[bevel].Kind != solid.PlaneFace {
		return best
	}
	for _, e := range g.Faces[bevel].Edges {
		for _, f := range g.Edges[e].Faces {
			x := g.Faces[f]
			if f != bevel && x.Kind == solid.PlaneFace &&
				math.Abs(x.Locus().Slope(g.Faces[bevel].Locus())-math.Pi/4) < square && (best < 0 || x.Area > g.Faces[best].Area) {
				best = f
			}
		}
	}
	return best
}

// breaksCorner tells whether a flat face breaks a corner: it lies between two larger flat ones, along its longest
// edges, at 45 degrees to both.
func breaksCorner(g *solid.Geometry, bevel int) bool {
	f := g.Faces[bevel]
	a, b, ok := longEdges(g, f)
	if f.Kind != solid.PlaneFace || !ok {
		return false
	}
	for _, e := range []solid.Edge{a, b} {
		for _, o := range e.Faces {
			x := g.Faces[o]
			if o != bevel && (x.Kind != solid.PlaneFace || x.Area < f.Area ||
				math.Abs(x.Locus().Slope(f.Locus())-math.Pi/4) > square) {
				return false
			}
		}
	}
	return true
}

// longEdges are the longest straight edge of a face and the longest other one that is parallel to it.
func longEdges(g *solid.Geometry, f solid.Face) (a, b solid.Edge, ok bool) {
	var lines []solid.Edge
	for _, e := range f.Edges {
		if g.Edges[e].Kind == solid.LineEdge {
			lines = append(lines, g.Edges[e])
		}
	}
	sort.Slice(lines, func(i, j int) bool { return lines[i].Length > lines[j].Length })
	for i := 1; i < len(lines); i++ {
		if lines[0].B.Sub(lines[0].A).Parallel(lines[i].B.Sub(lines[i].A), square) {
			return lines[0], lines[i], true
		}
	}
	return a, b, false
}

// onAxis is how far the middle of a circle may be from an axis that it is around, in radii.
const onAxis = 1e-3

// leg is the leg of a bevel of 45 degrees. Of a round one (a cone) it is the
// height between its two circles, since there leg and height are equal; of a
// straight one the width between its long edges over √2.
func leg(g *solid.Geometry, f solid.Face) (float64, error) {
	switch f.Kind {
	case solid.ConeFace:
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, e := range f.Edges {
			// A file may cut the cone otherwise as well: by planes that are not square to its axis.
			c := &g.Edges[e]
			if c.Kind == solid.CircleEdge && c.Axis.Parallel(f.Axis, square) &&
				solid.FromAxis(c.Center, f.Origin, f.Axis).Norm() < onAxis*c.Radius {
				z := c.Center.Sub(f.Origin).Dot(f.Axis)
				lo, hi = math.Min(lo, z), math.Max(hi, z)
			}
		}
		if hi > lo {
			return hi - lo, nil
		}
	case solid.PlaneFace:
		if a, b, ok := longEdges(g, f); ok {
			return solid.FromAxis(b.A, a.A, a.B.Sub(a.A).Unit()).Norm() / math.Sqrt2, nil
		}
	}
	return 0, fmt.Errorf("the face is not a bevel")
}
