package solid

import (
	"math"
	"slices"
)

// Closed is the geometry with the pieces of each round surface that together go all round put together: many programs
// write a cylinder as two halves, wherever these begin. The numbers of faces and edges are others then.
func (g *Geometry) Closed() *Geometry {
	out := *g
	into := make([]int, len(g.Faces)) // the new number of each face
	out.Faces, out.Names = nil, nil
	for i := range g.Faces {
		f := g.Faces[i]
		into[i] = -1
		if f.Span > 0 && f.Span < allRound && f.Around >= allRound {
			for k := range i {
				if into[k] >= 0 && g.Faces[k].Around >= allRound && g.Faces[k].Span < allRound && oneRound(&g.Faces[k], &f) &&
					out.Faces[into[k]].Span+f.Span < 2*math.Pi+roundSlack {
					into[i] = into[k]
					out.Faces[into[k]].take(&f)
					break
				}
			}
		}
		if into[i] < 0 {
			into[i] = len(out.Faces)
			out.Faces = append(out.Faces, f)
		}
	}
	if len(out.Faces) == len(g.Faces) {
		return g
	}
	out.Edges = closedEdges(g.Edges, into)
	out.Join()
	return &out
}

// allRound is an angle that counts as all the way round, and roundSlack by how much it may be more.
const (
	roundSlack = 1e-3
	allRound   = 2*math.Pi - roundSlack
)

// take takes another piece of the same surface into a face.
func (f *Face) take(piece *Face) {
	all := f.Area + piece.Area
	f.Centroid = f.Centroid.Scale(f.Area / all).Add(piece.Centroid.Scale(piece.Area / all))
	f.Area, f.Span = all, f.Span+piece.Span
	for k := range 3 {
		f.Bounds.Min[k] = math.Min(f.Bounds.Min[k], piece.Bounds.Min[k])
		f.Bounds.Max[k] = math.Max(f.Bounds.Max[k], piece.Bounds.Max[k])
	}
	f.Edges = nil
}

// closedEdges are edges between faces that have other numbers: without those within one face, and with arcs that make a
// whole circle put together.
func closedEdges(list []Edge, into []int) []Edge {
	var out []Edge
	var arcs [][]int // of one circle each: numbers in out
	for _, e := range list {
		faces := make([]int, len(e.Faces))
		for k, f := range e.Faces {
			faces[k] = into[f]
		}
		if len(faces) == 2 && faces[0] == faces[1] && e.Faces[0] != e.Faces[1] {
			continue
		}
		e.Faces = faces
		if e.Kind == CircleEdge && e.A.Distance(e.B) > roundSlack*e.Radius && len(faces) == 2 {
			at := slices.IndexFunc(arcs, func(some []int) bool { return oneCircle(&out[some[0]], &e) })
			if at < 0 {
				at, arcs = len(arcs), append(arcs, nil)
			}
			arcs[at] = append(arcs[at], len(out))
		}
		out = append(out, e)
	}
	gone := map[int]bool{}
	for _, some := range arcs {
		length := 0.0
		for _, n := range some {
			length += out[n].Length
		}
		if first := &out[some[0]]; math.Abs(length-2*math.Pi*first.Radius) < roundSlack*first.Radius {
			first.B, first.Length = first.A, length
			for _, n := range some[1:] {
				gone[n] = true
			}
		}
	}
	kept := make([]Edge, 0, len(out))
	for n, e := range out {
		if !gone[n] {
			kept = append(kept, e)
		}
	}
	return kept
}

// oneCircle tells whether two arcs between the same two faces are of one circle.
func oneCircle(a, b *Edge) bool {
	same := a.Faces[0] == b.Faces[0] && a.Faces[1] == b.Faces[1]
	crossed := a.Faces[0] == b.Faces[1] && a.Faces[1] == b.Faces[0]
	return (same || crossed) &&
		math.Abs(a.Radius-b.Radius) < roundSlack && a.Center.Distance(b.Center) < roundSlack
}
