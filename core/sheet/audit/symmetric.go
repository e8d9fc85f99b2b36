package audit

import (
	"math"
	"slices"

	"hammerset/core/solid"
)

// mostly is the share of a part's surface that must have its like beyond a plane for a centre line to be drawn there.
const mostly = 0.7

// directions is of how many directions of a part, those of its largest faces, planes of symmetry are looked for.
const directions = 12

// mirror is a plane of symmetry: the number of its own carrier, and the faces that are alike across it.
type mirror struct {
	plane int
	pairs [][2]int // of faces; of one with itself where it stands across the plane
}

// mirrors finds the planes about which most of the part is symmetric, where a drawing has its centre lines, and puts
// them in as carriers of their own, with three unknowns each.
func (u *unknowns) mirrors() []mirror {
	var out []mirror
	own := len(u.carriers)
	for _, n := range u.normals() {
		for _, at := range u.middles(n, own) {
			// The centroid of what is mostly symmetric is near the plane.
			if math.Abs(u.g.Props.Centroid.Dot(n)-at) > (1-mostly)*u.lever/4 {
				continue
			}
			pairs, share := u.alike(n, at)
			if share < mostly {
				continue
			}
			c, _ := carrierOf(solid.Face{Kind: solid.PlaneFace, Normal: n, Centroid: n.Scale(at)}, u.lever)
			c.at = u.g.Props.Centroid.Add(n.Scale(at - u.g.Props.Centroid.Dot(n)))
			out = append(out, mirror{u.add(c), pairs})
		}
	}
	return out
}

// normals are the directions that a plane of symmetry can have: those of faces and axes, and what is square to two.
func (u *unknowns) normals() []solid.Vec {
	var out []solid.Vec
	see := func(n solid.Vec) {
		if n.Norm() > onto && !slices.ContainsFunc(out, func(o solid.Vec) bool { return o.Parallel(n, onto) }) {
			out = append(out, n.Unit())
		}
	}
	for _, c := range u.bySize() {
		if len(out) == directions {
			break
		}
		see(u.carriers[c].dir)
	}
	for i, a := range slices.Clone(out) {
		for _, b := range out[:i] {
			see(a.Cross(b))
		}
	}
	return out
}

// middles are the places along a normal half way between parallel planes, and at axes across it.
func (u *unknowns) middles(n solid.Vec, own int) []float64 {
	var out []float64
	see := func(at float64) {
		if !slices.ContainsFunc(out, func(o float64) bool { return math.Abs(o-at) < onto }) {
			out = append(out, at)
		}
	}
	for i, a := range u.carriers[:own] {
		switch {
		case a.kind == solid.PlaneFace && a.dir.Parallel(n, onto):
			for _, b := range u.carriers[:i] {
				if b.kind == solid.PlaneFace && b.dir.Parallel(n, onto) {
					see((a.at.Dot(n) + b.at.Dot(n)) / 2)
				}
			}
		case a.round() && math.Abs(a.dir.Dot(n)) < onto:
			see(a.at.Dot(n))
		}
	}
	return out
}

// alike pairs the faces that are alike across a plane, and tells which share of the surface they are. Their surfaces
// are alike exactly, and what bounds them nearly: a hole on one side alone leaves the face that it is in what it is.
func (u *unknowns) alike(n solid.Vec, at float64) (pairs [][2]int, share float64) {
	const nearly = 0.1
	turn := func(d solid.Vec) solid.Vec { return d.Sub(n.Scale(2 * d.Dot(n))) }
	cross := func(p solid.Vec) solid.Vec { return turn(p).Add(n.Scale(2 * at)) }
	whole, found := 0.0, 0.0
	for i, f := range u.g.Faces {
		whole += f.Area
		f.Origin, f.Centroid, f.Axis, f.Normal = cross(f.Origin), cross(f.Centroid), turn(f.Axis), turn(f.Normal)
		image, ok := carrierOf(f, u.lever)
		if !ok {
			continue
		}
		k := -1
		for j, o := range u.g.Faces {
			if o.Kind == f.Kind && math.Abs(o.Area-f.Area) < nearly*f.Area &&
				o.Centroid.Distance(f.Centroid) < nearly*math.Sqrt(f.Area) && u.carriers[u.of[j]].has(&image) {
				k = j
				break
			}
		}
		if k < 0 {
			continue
		}
		found += f.Area
		if k >= i {
			pairs = append(pairs, [2]int{i, k})
		}
	}
	return pairs, found / whole
}

// halved are the rows of flat faces that cut a round one in two: the middle that is drawn lies in the face. As with
// symmetry a distance of nothing is not stated, and as there it makes nothing twice that is.
func (u *unknowns) halved() []drawn {
	var out []drawn
	for i := range u.g.Edges {
		faces := u.g.Edges[i].Faces
		if len(faces) != 2 {
			continue
		}
		for k, flat := range faces {
			a, b := u.of[flat], u.of[faces[1-k]]
			if a < 0 || b < 0 || u.carriers[a].kind != solid.PlaneFace || !u.carriers[b].round() {
				continue
			}
			at, n := u.carriers[b].at, u.carriers[a].dir
			if math.Abs(u.carriers[b].dir.Dot(n)) > onto || math.Abs(at.Sub(u.carriers[a].at).Dot(n)) > onto {
				continue
			}
			row := u.row()
			u.putShift(row, a, at, n)
			u.putShift(row, b, at, n.Scale(-1))
			out = append(out, drawn{row, evidence{midway, a, b}})
		}
	}
	return out
}

// symmetric are the rows of symmetry about planes: what is alike across a plane stays so, and the plane keeps its
// direction among the others.
func (u *unknowns) symmetric(mirrors []mirror) []drawn {
	var out []drawn
	for _, m := range mirrors {
		n, at := u.carriers[m.plane].dir, u.carriers[m.plane].at
		leader := slices.IndexFunc(u.carriers, func(c carrier) bool { return c.dir.Parallel(n, onto) })
		x := n.Perpendicular()
		for _, across := range []solid.Vec{x, n.Cross(x)} {
			row := u.row()
			u.putTurn(row, m.plane, across)
			u.putTurn(row, leader, across.Scale(-math.Copysign(1, n.Dot(u.carriers[leader].dir))))
			out = append(out, drawn{row, evidence{centre, m.plane, leader}})
		}
		for _, pair := range m.pairs {
			a, b := u.of[pair[0]], u.of[pair[1]]
			for _, p := range u.corners(pair[1]) {
				row := u.row()
				normal := u.carriers[b].normal(p)
				back := p.Sub(n.Scale(2 * p.Sub(at).Dot(n)))
				turned := normal.Sub(n.Scale(2 * normal.Dot(n)))
				u.put(row, b, 1, func(w way) float64 { return u.carriers[b].moved(w, p, normal) })
				u.put(row, a, -1, func(w way) float64 { return u.carriers[a].moved(w, back, turned) })
				u.put(row, m.plane, -2*n.Dot(normal), func(w way) float64 {
					return u.carriers[m.plane].moved(w, p.Sub(n.Scale(p.Sub(at).Dot(n))), n)
				})
				u.putTurn(row, m.plane, normal.Scale(2*back.Sub(at).Dot(n)))
				out = append(out, drawn{row, evidence{symmetric, a, b}})
			}
		}
	}
	return out
}

// corners are places on a face: those of its edges, twelve at most.
func (u *unknowns) corners(face int) []solid.Vec {
	var out []solid.Vec
	for _, e := range u.g.Faces[face].Edges {
		if x := u.g.Edges[e]; !x.Degenerate {
			out = append(out, x.Places()...)
		}
	}
	return out[:min(len(out), 12)]
}
