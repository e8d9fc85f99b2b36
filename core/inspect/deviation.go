package inspect

import (
	"math"

	"hammerset/core/solid"
)

// The picture of deviations needs some hundred thousand distances from a
// surface. A mesh in a tree of boxes gives the nearest triangle in logarithmic
// time, and the exact surface behind that triangle the distance itself: a mesh
// alone would show its own coarseness on every bore as a deviation.

// Skin is the surface of a solid as a mesh in a tree of boxes, with the exact surfaces
// behind its triangles, for distances of many points from it.
type Skin struct {
	mesh   *solid.Mesh
	faces  []solid.Face // of the triangles' numbers
	near   float64      // how far triangles may lie from the surface
	order  []int32      // triangles, in the order of the leaves
	boxes  []solid.Box
	starts []int32 // of a node: first triangle
	counts []int32 // of a leaf: how many; 0 for an inner node
	right  []int32 // of an inner node: its second child; the first follows it
}

// NewSkin builds the tree. deflection is how far the mesh's triangles may lie from the
// surfaces of the faces, which are numbered as in the mesh.
//
// The middle of a triangle is kept three times as large, which saves a division
// and sorts the same.
func NewSkin(m *solid.Mesh, faces []solid.Face, deflection float64) *Skin {
	s := &Skin{mesh: m, faces: faces, near: deflection}
	n := len(m.Triangles) / 3
	mids, boxes := make([]solid.Vec, n), make([]solid.Box, n)
	for t := range n {
		a, b, c := s.corners(int32(t))
		mids[t] = a.Add(b).Add(c)
		boxes[t] = solid.Box{Min: a, Max: a}
		for _, p := range []solid.Vec{b, c} {
			for k := range 3 {
				boxes[t].Min[k], boxes[t].Max[k] = math.Min(boxes[t].Min[k], p[k]), math.Max(boxes[t].Max[k], p[k])
			}
		}
		s.order = append(s.order, int32(t))
	}
	if n > 0 {
		s.build(0, n, mids, boxes)
	}
	return s
}

// corners are the three corners of a triangle.
func (s *Skin) corners(t int32) (a, b, c solid.Vec) {
	return s.mesh.At(s.mesh.Triangles[3*t]), s.mesh.At(s.mesh.Triangles[3*t+1]), s.mesh.At(s.mesh.Triangles[3*t+2])
}

// build makes the node of a run of triangles, given the middles (three times) and boxes of
// all; the run is halved along the longest side of its box.
//
// The children of a node lie behind it in one array, the first right after it,
// so that the tree is four plain arrays without pointers. A leaf has at most
// four triangles, where looking through them costs less than two boxes.
func (s *Skin) build(lo, hi int, mids []solid.Vec, boxes []solid.Box) int32 {
	node := int32(len(s.boxes))
	box := boxes[s.order[lo]]
	for _, t := range s.order[lo+1 : hi] {
		for k := range 3 {
			box.Min[k], box.Max[k] = math.Min(box.Min[k], boxes[t].Min[k]), math.Max(box.Max[k], boxes[t].Max[k])
		}
	}
	s.boxes, s.starts, s.counts, s.right = append(s.boxes, box), append(s.starts, int32(lo)), append(s.counts, 0),
		append(s.right, 0)
	if hi-lo <= 4 {
		s.counts[node] = int32(hi - lo)
		return node
	}
	size := box.Size()
	axis := 0
	for k := 1; k < 3; k++ {
		if size[k] > size[axis] {
			axis = k
		}
	}
	half := (lo + hi) / 2
	divide(s.order[lo:hi], half-lo, func(t int32) float64 { return mids[t][axis] })
	s.build(lo, half, mids, boxes)
	s.right[node] = s.build(half, hi, mids, boxes)
	return node
}

// divide orders a list so that the first n have values no larger than the rest (Hoare 1961,
// Algorithm 65: Find), with the middle of three as the pivot.
func divide(list []int32, n int, value func(int32) float64) {
	lo, hi := 0, len(list)-1
	for lo < hi {
		a, b, c := value(list[lo]), value(list[(lo+hi)/2]), value(list[hi])
		pivot := math.Max(math.Min(a, b), math.Min(math.Max(a, b), c))
		i, j := lo, hi
		for i <= j {
			for value(list[i]) < pivot {
				i++
			}
			for value(list[j]) > pivot {
				j--
			}
			if i <= j {
				list[i], list[j] = list[j], list[i]
				i, j = i+1, j-1
			}
		}
		switch {
		case n <= j:
			hi = j
		case n >= i:
			lo = i
		default:
			return
		}
	}
}

// flat is the sine of the angle in a triangle of a mesh that has no area to speak of.
const flat = 1e-12

// Distance is how far a point lies outside the solid, negative inside it. It is exact
// where the nearest face is flat, round or conical, and the mesh's elsewhere.
//
// The nearer child is looked at first, and a box that is farther than the best
// so far is left out (branch and bound). A point beside an edge is as near to
// two triangles; the one that faces it most tells whether it lies inside
// (Bærentzen and Aanæs, Signed distance computation using the angle weighted
// pseudonormal, 2005, treat the same ambiguity). The exact surface has no
// boundary, so that it is only believed where it says about what the mesh says.
func (s *Skin) Distance(p solid.Vec) float64 {
	d, _ := s.distance(p, -1, nil)
	return d
}

// distance is Distance with the nearest triangle. Near is a triangle that may be near, as that of the place
// before: no box that is farther is looked at; -1 for none. The stack is used again.
func (s *Skin) distance(p solid.Vec, near int32, stack []int32) (float64, int32) {
	best, signed, face, nearest := math.Inf(1), 0.0, int32(-1), int32(-1)
	if len(s.boxes) == 0 {
		return math.Inf(1), -1
	}
	if near >= 0 {
		a, b, c := s.corners(near)
		best = p.Distance(onTriangle(p, a, b, c)) + 2e-9 // it is found again below
	}
	stack = append(stack[:0], 0)
	for len(stack) > 0 {
		n := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if boxDistance(s.boxes[n], p) > best+1e-9 {
			continue
		}
		if s.counts[n] == 0 {
			l, r := n+1, s.right[n]
			if boxDistance(s.boxes[l], p) < boxDistance(s.boxes[r], p) {
				l, r = r, l
			}
			stack = append(stack, l, r) // the nearer one is looked at first
			continue
		}
		for _, t := range s.order[s.starts[n] : s.starts[n]+s.counts[n]] {
			a, b, c := s.corners(t)
			out := b.Sub(a).Cross(c.Sub(a))
			if !(out.Norm() > flat*b.Sub(a).Norm()*c.Sub(a).Norm()) {
				continue // two corners in one place: it has no side, and its neighbours have its edges
			}
			q := onTriangle(p, a, b, c)
			d := p.Distance(q)
			if d > best+1e-9 {
				continue
			}
			// Of triangles that meet in the nearest place, the one that faces the point tells
			// on which side it lies.
			side := p.Sub(q).Dot(out.Unit())
			if d < best-1e-9 || math.Abs(side) > math.Abs(signed) {
				signed, face, nearest = side, s.mesh.Faces[t], t
			}
			best = math.Min(best, d)
		}
	}
	out := math.Copysign(best, signed)
	if int(face) < len(s.faces) && face >= 0 {
		if exact, ok := offSurface(s.faces[face], p); ok && math.Abs(exact-out) < 3*s.near {
			return exact, nearest
		}
	}
	return out, nearest
}

// offSurface is the distance of a point from the unbounded surface of a face, positive on
// the outer side; ok is false for free surfaces.
//
// With h the height along the axis and ρ the distance from it: ρ - r for a
// cylinder; for a cone the difference of ρ and its radius at that height, times
// the cosine of the half angle; for a torus the distance from its ring less the
// radius of its tube.
func offSurface(f solid.Face, p solid.Vec) (d float64, ok bool) {
	v := p.Sub(f.Origin)
	along := v.Dot(f.Axis)
	rho := v.Sub(f.Axis.Scale(along)).Norm()
	switch f.Kind {
	case solid.PlaneFace:
		return p.Sub(f.Centroid).Dot(f.Normal), true
	case solid.CylinderFace:
		d = rho - f.Radius
	case solid.SphereFace:
		d = v.Norm() - f.Radius
	case solid.ConeFace:
		d = (rho - f.Radius - along*math.Tan(f.HalfAngle)) * math.Cos(f.HalfAngle)
	case solid.TorusFace:
		d = math.Hypot(rho-f.Radius, along) - f.MinorRadius
	default:
		return 0, false
	}
	if f.Hollow {
		d = -d
	}
	return d, true
}

// boxDistance is how far a point lies from a box, 0 inside of it: in each
// direction what it is beyond the nearer side.
func boxDistance(b solid.Box, p solid.Vec) float64 {
	sum := 0.0
	for k := range 3 {
		d := math.Max(0, math.Max(b.Min[k]-p[k], p[k]-b.Max[k]))
		sum += d * d
	}
	return math.Sqrt(sum)
}

// onTriangle is the point of a triangle nearest to p, by the regions of its corners and
// sides (Ericson 2005, Real-Time Collision Detection, 5.1.5).
func onTriangle(p, a, b, c solid.Vec) solid.Vec {
	ab, ac, ap := b.Sub(a), c.Sub(a), p.Sub(a)
	d1, d2 := ab.Dot(ap), ac.Dot(ap)
	if d1 <= 0 && d2 <= 0 {
		return a
	}
	bp := p.Sub(b)
	d3, d4 := ab.Dot(bp), ac.Dot(bp)
	if d3 >= 0 && d4 <= d3 {
		return b
	}
	vc := d1*d4 - d3*d2
	if vc <= 0 && d1 >= 0 && d3 <= 0 {
		return a.Add(ab.Scale(d1 / (d1 - d3)))
	}
	cp := p.Sub(c)
	d5, d6 := ab.Dot(cp), ac.Dot(cp)
	if d6 >= 0 && d5 <= d6 {
		return c
	}
	vb := d5*d2 - d1*d6
	if vb <= 0 && d2 >= 0 && d6 <= 0 {
		return a.Add(ac.Scale(d2 / (d2 - d6)))
	}
	va := d3*d6 - d5*d4
	if va <= 0 && d4-d3 >= 0 && d5-d6 >= 0 {
		return b.Add(c.Sub(b).Scale((d4 - d3) / ((d4 - d3) + (d5 - d6))))
	}
	den := 1 / (va + vb + vc)
	return a.Add(ab.Scale(vb * den)).Add(ac.Scale(vc * den))
}

// onSurface is the point of the unbounded surface of a face nearest to p; free surfaces
// leave it where it is.
//
// It goes back along the normal by the distance, which on these surfaces is
// exact in one step.
func onSurface(f solid.Face, p solid.Vec) (q solid.Vec, exact bool) {
	v := p.Sub(f.Origin)
	along := f.Axis.Scale(v.Dot(f.Axis))
	radial := v.Sub(along)
	if rho := radial.Norm(); rho > 1e-12 {
		radial = radial.Scale(1 / rho)
	}
	d, exact := offSurface(f, p)
	if f.Hollow {
		d = -d
	}
	switch f.Kind {
	case solid.PlaneFace:
		return p.Sub(f.Normal.Scale(d)), true
	case solid.CylinderFace:
		return p.Sub(radial.Scale(d)), true
	case solid.SphereFace:
		return p.Sub(v.Unit().Scale(d)), true
	case solid.ConeFace:
		return p.Sub(radial.Scale(math.Cos(f.HalfAngle)).Sub(f.Axis.Scale(math.Sin(f.HalfAngle))).Scale(d)), true
	case solid.TorusFace:
		ring := f.Origin.Add(radial.Scale(f.Radius))
		return p.Sub(p.Sub(ring).Unit().Scale(d)), true
	}
	return p, exact
}

// mostTriangles bounds a refined mesh.
const mostTriangles = 120000

// Refine divides the triangles of a mesh whose sides are longer than most, and lays the new
// corners onto the surfaces of the faces, which are numbered as in the mesh.
//
// The longest side is halved until none is longer than asked for. Halving the
// longest side keeps angles from getting ever smaller (M.-C. Rivara, 1984). The
// middle of a side is one vertex for both of its triangles on a face, and not
// for those of two faces, since it is laid onto the surface of each.
func Refine(m *solid.Mesh, faces []solid.Face, most float64) *solid.Mesh {
	out := &solid.Mesh{Vertices: append([]float64(nil), m.Vertices...), Lines: m.Lines}
	type side struct{ a, b, face int32 }
	middle := map[side]int32{}
	half := func(a, b, face int32) int32 {
		k := side{min(a, b), max(a, b), face}
		n, ok := middle[k]
		if !ok {
			p := out.At(a).Add(out.At(b)).Scale(0.5)
			if int(face) < len(faces) {
				p, _ = onSurface(faces[face], p)
			}
			n = int32(len(out.Vertices) / 3)
			out.Vertices = append(out.Vertices, p[:]...)
			middle[k] = n
		}
		return n
	}
	type triangle struct{ a, b, c, face int32 }
	var work []triangle
	for t := range len(m.Triangles) / 3 {
		work = append(work, triangle{m.Triangles[3*t], m.Triangles[3*t+1], m.Triangles[3*t+2], m.Faces[t]})
	}
	for len(work) > 0 {
		t := work[len(work)-1]
		work = work[:len(work)-1]
		// Its longest side is the one from a to b.
		for range 2 {
			ab, bc, ca := out.At(t.a).Distance(out.At(t.b)), out.At(t.b).Distance(out.At(t.c)), out.At(t.c).Distance(out.At(t.a))
			if ab < bc || ab < ca {
				t.a, t.b, t.c = t.b, t.c, t.a
			}
		}
		if out.At(t.a).Distance(out.At(t.b)) <= most || len(out.Triangles)/3+len(work) > mostTriangles {
			out.Triangles, out.Faces = append(out.Triangles, t.a, t.b, t.c), append(out.Faces, t.face)
			continue
		}
		n := half(t.a, t.b, t.face)
		work = append(work, triangle{t.a, n, t.c, t.face}, triangle{n, t.b, t.c, t.face})
	}
	return out
}

// Compare gives how far each vertex of one solid's refined mesh lies outside the other
// solid, and the largest distances outward and inward. Both are in one place. Where one of
// two surfaces is free, less than the coarseness of the meshes is none.
//
// Distances are taken at the vertices alone, which is why the mesh is refined
// first: the largest deviation of a flat face lies anywhere on it.
func Compare(m *solid.Mesh, faces []solid.Face, other *Skin) (vertices []float64, outward, inward float64) {
	vertices = make([]float64, len(m.Vertices)/3)
	free := make([]bool, len(vertices))
	for t, f := range m.Faces {
		if int(f) >= len(faces) || faces[f].Kind == solid.OtherFace {
			for k := range 3 {
				free[m.Triangles[3*t+k]] = true
			}
		}
	}
	near, stack := int32(-1), make([]int32, 0, 64)
	for i := range vertices {
		var d float64
		d, near = other.distance(m.At(int32(i)), near, stack)
		if math.Abs(d) < 1e-7 || free[i] && math.Abs(d) < 3*other.near {
			d = 0
		}
		vertices[i] = d
		outward, inward = math.Max(outward, d), math.Max(inward, -d)
	}
	return vertices, outward, inward
}
