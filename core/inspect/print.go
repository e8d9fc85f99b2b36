package inspect

import (
	"maps"
	"math"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// besideMore is what a neighbour more or less weighs in the cost of a print.
const besideMore = 0.02

// PrintOf is the print of a face.
func PrintOf(g *solid.Geometry, face int) exercise.Print {
	f := &g.Faces[face]
	direction := f.Axis
	if f.Kind == solid.PlaneFace {
		direction = f.Normal
	}
	rounded := func(v solid.Vec) [3]float64 { return [3]float64{round(v[0]), round(v[1]), round(v[2])} }
	return exercise.Print{Kind: string(f.Kind), Hollow: f.Hollow, Radius: round(f.Radius), Ring: round(f.MinorRadius),
		Angle: round(f.HalfAngle), Span: round(f.Span), Area: round(f.Area), Direction: rounded(direction),
		Origin: rounded(f.Origin), Middle: rounded(f.Centroid), Beside: beside(g, face)}
}

// round leaves what is far below any tolerance out of a document.
func round(x float64) float64 { return math.Round(x*1e7) / 1e7 }

// beside counts the faces that a face has an edge with.
func beside(g *solid.Geometry, face int) int {
	seen := map[int]bool{}
	for _, e := range g.Faces[face].Edges {
		for _, o := range g.Edges[e].Faces {
			seen[o] = seen[o] || o != face
		}
	}
	n := 0
	for _, other := range seen {
		if other {
			n++
		}
	}
	return n
}

// printed is the face that a print is of, as far as the print tells it.
func printed(p *exercise.Print) solid.Face {
	f := solid.Face{Kind: solid.SurfaceKind(p.Kind), Hollow: p.Hollow, Radius: p.Radius, MinorRadius: p.Ring,
		HalfAngle: p.Angle, Span: p.Span, Area: p.Area, Origin: p.Origin, Centroid: p.Middle}
	if f.Kind == solid.PlaneFace {
		f.Normal = p.Direction
	} else {
		f.Axis = p.Direction
	}
	return f
}

// FindPrints finds the faces that prints are of, by names: on a solid that still has them under these names, or under
// others since its file was written anew. Was has a face for each name, in their order, as far as its print tells it;
// same: all are where their names say.
func FindPrints(prints map[string]exercise.Print, g *solid.Geometry) (was *solid.Geometry, found Rebinding, same bool) {
	was = &solid.Geometry{Box: g.Box}
	size := math.Max(g.Box.Diagonal(), 1e-9)
	same = true
	for _, name := range slices.Sorted(maps.Keys(prints)) {
		p := prints[name]
		face := printed(&p)
		was.Faces, was.Names = append(was.Faces, face), append(was.Names, []string{name})
		cost := func(j int) float64 {
			return pairCost(&face, &g.Faces[j], size) + besideMore*math.Abs(float64(beside(g, j)-p.Beside))
		}
		of, doubtful := nearest(len(g.Faces), cost)
		for _, j := range g.Named(name) {
			if cost(j) <= asItWas {
				of, doubtful = j, false
			}
		}
		same = same && of >= 0 && slices.Contains(g.Names[of], name)
		found.Of, found.Doubtful = append(found.Of, of), append(found.Doubtful, doubtful)
	}
	found.contested(was, g, size)
	return was, found, same
}

// contested has a face that two unlike faces were taken for be that of the one which is more like it; that the other
// one is that face as well is doubtful.
func (r *Rebinding) contested(was, is *solid.Geometry, size float64) {
	for i, of := range r.Of {
		for k, other := range r.Of {
			if i == k || of < 0 || of != other || pairCost(&was.Faces[i], &was.Faces[k], size) <= asItWas {
				continue
			}
			if pairCost(&was.Faces[i], &is.Faces[of], size) >= pairCost(&was.Faces[k], &is.Faces[of], size) {
				r.Doubtful[i] = true
			}
		}
	}
}

// nearest is the cheapest of n, or -1 where none fits; doubtful: another one would do nearly as well, or it is far off.
func nearest(n int, cost func(int) float64) (best int, doubtful bool) {
	best = -1
	first, second := unmatched, math.Inf(1)
	for j := range n {
		switch c := cost(j); {
		case c < first:
			best, first, second = j, c, first
		case c < second:
			second = c
		}
	}
	if best < 0 {
		return -1, false
	}
	return best, first > asItWas && (first > farOff || second < first+rivals)
}
