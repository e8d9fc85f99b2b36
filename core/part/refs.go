package part

import (
	"math"
	"slices"

	"hammerset/core/sketch"
	"hammerset/core/solid"
)

// References says how every face, edge and vertex of a rebuilt model is referred
// to, in the order of the whole solid's.
type References struct {
	Faces   []string
	Solids  []string // by face
	Edges   []*EdgeRef
	Corners []*PointRef
}

// References works out the references. An edge or vertex that its faces do not name
// has none.
func (b *Build) References() References {
	var out References
	if b.Solid == nil {
		return out
	}
	shared := map[string]int{} // on how many solids a name stands
	for _, body := range b.Bodies {
		seen := map[string]bool{}
		for _, names := range body.Names {
			for _, n := range names {
				if !seen[n] {
					seen[n] = true
					shared[n]++
				}
			}
		}
	}
	for _, body := range b.Bodies {
		names := body.callings(shared)
		out.Faces = append(out.Faces, names...)
		for range names {
			out.Solids = append(out.Solids, body.ID)
		}
		edges, at := edgeReferences(body.Shape.Edges(), names)
		out.Edges = append(out.Edges, edges...)
		for _, v := range body.Shape.Vertices() {
			list := at[rounded(v)]
			if len(list) < 3 {
				out.Corners = append(out.Corners, nil)
				continue
			}
			slices.Sort(list)
			out.Corners = append(out.Corners, &PointRef{Corner: &[3]string{list[0], list[1], list[2]}})
		}
	}
	return out
}

// callings gives every face of a solid the name to refer to it by: rather one that no other face
// has, and with the solid where several have it.
func (body *Body) callings(shared map[string]int) []string {
	out := make([]string, len(body.Names))
	count := map[string]int{}
	for _, list := range body.Names {
		for _, n := range list {
			count[n]++
		}
	}
	for i, list := range body.Names {
		for _, n := range list {
			if out[i] == "" || count[n] < count[unqualified(out[i])] {
				out[i] = n
			}
		}
		if shared[out[i]] > 1 {
			out[i] += "@" + body.ID
		}
	}
	return out
}

// edgeReferences refers to every edge of a solid by the names of its faces, with its place where
// several lie between the same two, and lists the names that meet at each vertex.
func edgeReferences(edges []solid.Edge, names []string) ([]*EdgeRef, map[solid.Vec][]string) {
	pair := func(e solid.Edge) [2]string {
		p := [2]string{names[e.Faces[0]], names[e.Faces[1]]}
		if p[1] < p[0] {
			p[0], p[1] = p[1], p[0]
		}
		return p
	}
	between := map[[2]string]int{}
	for _, e := range edges {
		if len(e.Faces) == 2 {
			between[pair(e)]++
		}
	}
	box := boxOf(edges)
	var out []*EdgeRef
	at := map[solid.Vec][]string{}
	for _, e := range edges {
		if len(e.Faces) != 2 || names[e.Faces[0]] == "" || names[e.Faces[1]] == "" {
			out = append(out, nil)
			continue
		}
		p := pair(e)
		ref := &EdgeRef{Between: &p}
		if between[p] > 1 {
			near := [3]float64(box.Relative(e.Mid))
			for i := range near {
				near[i] = math.Round(near[i]*1e4) / 1e4
			}
			ref.Near = &near
		}
		out = append(out, ref)
		for _, v := range []solid.Vec{e.A, e.B} {
			k := rounded(v)
			for _, n := range p {
				if !slices.Contains(at[k], n) {
					at[k] = append(at[k], n)
				}
			}
		}
	}
	return out, at
}

// rounded takes a place to a millionth of a millimetre. It goes into documents
// as the tie-break of a name, and must not change with rounding.
func rounded(v solid.Vec) solid.Vec {
	for i := range v {
		v[i] = math.Round(v[i]*1e6)/1e6 + 0 // no negative zero
	}
	return v
}

// boxOf bounds the ends and middles of edges. References by place are relative to
// the solid's own box, which this is for all but bulging faces; both are resolved to
// the nearest.
func boxOf(edges []solid.Edge) solid.Box {
	b := solid.Box{Min: solid.Vec{math.Inf(1), math.Inf(1), math.Inf(1)},
		Max: solid.Vec{math.Inf(-1), math.Inf(-1), math.Inf(-1)}}
	for _, e := range edges {
		for _, v := range []solid.Vec{e.A, e.B, e.Mid} {
			for i := range v {
				b.Min[i], b.Max[i] = math.Min(b.Min[i], v[i]), math.Max(b.Max[i], v[i])
			}
		}
	}
	return b
}

// PlacedSketch gives a sketch with its plane, its solution and its regions.
func (b *Build) PlacedSketch(id string) (solid.Frame, *sketch.Solution, []sketch.Region, bool) {
	p, ok := b.state.sketches[id]
	if !ok {
		return solid.Frame{}, nil, nil, false
	}
	return p.frame, p.solution, p.regions, true
}

// Plane gives the frame of a plane step.
func (b *Build) Plane(id string) (solid.Frame, bool) {
	f, ok := b.state.planes[id]
	return f, ok
}
