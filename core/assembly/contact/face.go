package contact

import (
	"cmp"
	"math"
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/solid"
)

// body is a component with its faces in space.
type body struct {
	*Body
	box   box
	faces []face
}

// face is a face of a component in space, with its triangles.
type face struct {
	*assembly.Feature
	at, axis  solid.Vec
	triangles [][3]solid.Vec
	box       box
	off       float64 // how far triangles lie off the face at most
}

// box is a box along the axes of space.
type box struct{ low, high solid.Vec }

func (b *box) take(p solid.Vec) {
	for k := range 3 {
		b.low[k], b.high[k] = math.Min(b.low[k], p[k]), math.Max(b.high[k], p[k])
	}
}

func (b *box) diagonal() float64 { return b.high.Sub(b.low).Norm() }

func nothing() box {
	inf := math.Inf(1)
	return box{solid.Vec{inf, inf, inf}, solid.Vec{-inf, -inf, -inf}}
}

func boxOf(t [3]solid.Vec) box {
	b := nothing()
	for _, p := range t {
		b.take(p)
	}
	return b
}

func (b *box) near(o *box, by float64) bool {
	for k := range 3 {
		if b.low[k] > o.high[k]+by || o.low[k] > b.high[k]+by {
			return false
		}
	}
	return true
}

// place puts the faces of a component into space.
func place(b *Body) *body {
	out := &body{Body: b, box: nothing()}
	m := b.Shape.Mesh
	of := map[int]int{} // the face that a face of the mesh belongs to
	for i := range b.Shape.Features {
		f := &b.Shape.Features[i]
		if len(f.Faces) == 0 {
			continue
		}
		for _, k := range f.Faces {
			of[k] = len(out.faces)
		}
		x := face{Feature: f, at: b.Pose.Apply(f.At), box: nothing(), off: b.Shape.Deflection}
		if f.Axis != (solid.Vec{}) {
			x.axis = b.Pose.Rotate(f.Axis).Unit()
		}
		out.faces = append(out.faces, x)
	}
	if m == nil {
		return out
	}
	for t := range len(m.Triangles) / 3 {
		k, ok := of[int(m.Faces[t])]
		if !ok {
			continue
		}
		var tri [3]solid.Vec
		for c := range tri {
			tri[c] = b.Pose.Apply(m.At(m.Triangles[3*t+c]))
			out.faces[k].box.take(tri[c])
			out.box.take(tri[c])
		}
		out.faces[k].triangles = append(out.faces[k].triangles, tri)
	}
	return out
}

// mostAxes bounds the directions of a component that are tried.
const mostAxes = 24

// axes are the directions of the flat and round faces of a component, each once for both senses, those of large faces
// first.
func (b *body) axes() []solid.Vec {
	list := slices.Clone(b.faces)
	slices.SortStableFunc(list, func(x, y face) int { return cmp.Compare(y.box.diagonal(), x.box.diagonal()) })
	var out []solid.Vec
	for i := range list {
		a := list[i].axis
		if a == (solid.Vec{}) || slices.ContainsFunc(out, func(d solid.Vec) bool { return d.Parallel(a, oneAngle) }) {
			continue
		}
		if out = append(out, a); len(out) == mostAxes {
			break
		}
	}
	return out
}

// reach is from where to where the face goes along a direction, from a place.
func (f *face) reach(along, from solid.Vec) (low, high float64) {
	low, high = math.Inf(1), math.Inf(-1)
	for _, t := range f.triangles {
		for _, p := range t {
			v := p.Sub(from).Dot(along)
			low, high = math.Min(low, v), math.Max(high, v)
		}
	}
	return low, high
}

// has tells whether the face has material at a place that lies on its surface.
func (f *face) has(p solid.Vec) bool {
	for _, t := range f.triangles {
		if near(t, p) <= f.off+apart {
			return true
		}
	}
	return false
}

// near is the distance of a place from a triangle.
func near(t [3]solid.Vec, p solid.Vec) float64 {
	n := t[1].Sub(t[0]).Cross(t[2].Sub(t[0]))
	if n.Norm() > 0 {
		n = n.Unit()
		inside := true
		for k := range 3 {
			e := t[(k+1)%3].Sub(t[k])
			inside = inside && e.Cross(p.Sub(t[k])).Dot(n) >= 0
		}
		if inside {
			return math.Abs(p.Sub(t[0]).Dot(n))
		}
	}
	least := math.Inf(1)
	for k := range 3 {
		a, e := t[k], t[(k+1)%3].Sub(t[k])
		s := 0.0
		if l := e.Dot(e); l > 0 {
			s = math.Max(0, math.Min(1, p.Sub(a).Dot(e)/l))
		}
		least = math.Min(least, p.Distance(a.Add(e.Scale(s))))
	}
	return least
}

// spokes is how many directions around an axis are looked at.
const spokes = 16

// around are the directions around the axis of a bore in which both faces have material, of sixteen.
func around(x, bore *face) []solid.Vec {
	frame := solid.Plane(bore.at, bore.axis)
	var out []solid.Vec
	for k := range spokes {
		sin, cos := math.Sincos(2 * math.Pi * (float64(k) + 0.5) / spokes)
		d := frame.X.Scale(cos).Add(frame.Y.Scale(sin))
		if x.covers(d, bore.axis, bore.at) && bore.covers(d, bore.axis, bore.at) {
			out = append(out, d)
		}
	}
	return out
}

// covers tells whether a round face has material in a direction around an axis, anywhere along it: one of its triangles
// lies across the half plane of the direction.
func (f *face) covers(d, axis, at solid.Vec) bool {
	side := axis.Cross(d)
	for _, t := range f.triangles {
		low, high, out := math.Inf(1), math.Inf(-1), true
		for _, p := range t {
			v := p.Sub(at).Dot(side)
			low, high = math.Min(low, v), math.Max(high, v)
			out = out && p.Sub(at).Dot(d) > 0
		}
		if out && low <= 0 && high >= 0 {
			return true
		}
	}
	return false
}

// normal is that of a triangle of the face, out of the material.
func normal(t [3]solid.Vec) solid.Vec { return t[1].Sub(t[0]).Cross(t[2].Sub(t[0])).Unit() }

// directions are those of the corners, edges and sides of a cube.
func directions() []solid.Vec {
	var out []solid.Vec
	for x := -1.0; x <= 1; x++ {
		for y := -1.0; y <= 1; y++ {
			for z := -1.0; z <= 1; z++ {
				if d := (solid.Vec{x, y, z}); d != (solid.Vec{}) {
					out = append(out, d.Unit())
				}
			}
		}
	}
	return out
}

// shared are the corners of what two flat faces in one plane share: of each two triangles the polygon that is in both
// (I. Sutherland and G. Hodgman, Reentrant polygon clipping, 1974), as far as they lie outermost in eight directions.
func shared(x, y *face) []solid.Vec {
	frame := solid.Plane(y.at, y.axis)
	var out [8]solid.Vec
	var most [8]float64
	found := 0.0
	around := make([]box, len(y.triangles))
	for i, b := range y.triangles {
		around[i] = boxOf(b)
	}
	for _, a := range x.triangles {
		near := boxOf(a)
		if !near.near(&y.box, apart) {
			continue
		}
		for i, b := range y.triangles {
			if !near.near(&around[i], apart) {
				continue
			}
			list := clipped(a[:], b, y.axis)
			found += area(list, y.axis)
			for _, p := range list {
				for k := range out {
					sin, cos := math.Sincos(2 * math.Pi * float64(k) / 8)
					v := p.Sub(y.at).Dot(frame.X.Scale(cos).Add(frame.Y.Scale(sin)))
					if out[k] == (solid.Vec{}) || v > most[k] {
						out[k], most[k] = p, v
					}
				}
			}
		}
	}
	if found < apart*apart {
		return nil // an edge along an edge
	}
	var list []solid.Vec
	for _, p := range out {
		if len(list) == 0 || list[len(list)-1] != p {
			list = append(list, p)
		}
	}
	return list
}

// clipped is a polygon as far as it lies in a triangle, both seen along a normal that goes around the triangle.
func clipped(polygon []solid.Vec, t [3]solid.Vec, n solid.Vec) []solid.Vec {
	out := append([]solid.Vec(nil), polygon...)
	for k := range 3 {
		inward := n.Cross(t[(k+1)%3].Sub(t[k]))
		if normal(t).Dot(n) < 0 {
			inward = inward.Scale(-1)
		}
		from := out
		out = nil
		for i, p := range from {
			q := from[(i+1)%len(from)]
			a, b := p.Sub(t[k]).Dot(inward), q.Sub(t[k]).Dot(inward)
			if a >= 0 {
				out = append(out, p)
			}
			if a > 0 && b < 0 || a < 0 && b > 0 {
				out = append(out, p.Add(q.Sub(p).Scale(a/(a-b))))
			}
		}
		if len(out) == 0 {
			return nil
		}
	}
	return out
}

func area(list []solid.Vec, n solid.Vec) float64 {
	sum := solid.Vec{}
	for i := 2; i < len(list); i++ {
		sum = sum.Add(list[i-1].Sub(list[0]).Cross(list[i].Sub(list[0])))
	}
	return math.Abs(sum.Dot(n)) / 2
}
