package clash

import (
	"cmp"
	"math"
	"slices"

	"hammerset/core/solid"
)

// triangles is a mesh in space as a tree of boxes: each node has the triangles of its two halves.
type triangles struct {
	at    []triangle
	nodes []node
}

// triangle is one with the face that it lies on.
type triangle struct {
	p    [3]solid.Vec
	face int32
	box  solid.Box
}

// node is a box around the triangles from to to; the nodes of its halves are first and first+1, and a leaf has none.
type node struct {
	box      solid.Box
	from, to int
	first    int
}

// leaf is how many triangles are not divided any more.
const leaf = 4

// placed lays a mesh into space.
func placed(m *solid.Mesh, place func(solid.Vec) solid.Vec) *triangles {
	t := &triangles{at: make([]triangle, len(m.Triangles)/3)}
	for i := range t.at {
		for k := range 3 {
			t.at[i].p[k] = place(m.At(m.Triangles[3*i+k]))
		}
		t.at[i].box = boxOf(t.at[i].p)
		if i < len(m.Faces) {
			t.at[i].face = m.Faces[i]
		}
	}
	t.nodes = []node{{from: 0, to: len(t.at)}}
	for n := 0; n < len(t.nodes); n++ {
		t.divide(n)
	}
	return t
}

func (t *triangles) divide(n int) {
	from, to := t.nodes[n].from, t.nodes[n].to
	box := solid.Box{Min: solid.Vec{math.Inf(1), math.Inf(1), math.Inf(1)}, Max: solid.Vec{math.Inf(-1), math.Inf(-1),
		math.Inf(-1)}}
	for _, tri := range t.at[from:to] {
		for _, p := range tri.p {
			for k := range 3 {
				box.Min[k], box.Max[k] = math.Min(box.Min[k], p[k]), math.Max(box.Max[k], p[k])
			}
		}
	}
	t.nodes[n].box = box
	if to-from <= leaf {
		return
	}
	size, k := box.Size(), 0
	for i := range 3 {
		if size[i] > size[k] {
			k = i
		}
	}
	middle := func(t triangle) float64 { return t.p[0][k] + t.p[1][k] + t.p[2][k] }
	slices.SortFunc(t.at[from:to], func(a, b triangle) int { return cmp.Compare(middle(a), middle(b)) })
	half := (from + to) / 2
	t.nodes[n].first = len(t.nodes)
	t.nodes = append(t.nodes, node{from: from, to: half}, node{from: half, to: to})
}

// Near tells whether two meshes may come as close as a distance. It says no only where a direction parts every
// pair of triangles by more than that.
func (t *triangles) near(u *triangles, distance float64) bool {
	stack := [][2]int{{0, 0}}
	for len(stack) > 0 {
		pair := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		a, b := &t.nodes[pair[0]], &u.nodes[pair[1]]
		if !meet(a.box, b.box, distance) {
			continue
		}
		switch {
		case a.first == 0 && b.first == 0:
			for _, x := range t.at[a.from:a.to] {
				for _, y := range u.at[b.from:b.to] {
					if apartBy(x.p, y.p, distance) <= distance {
						return true
					}
				}
			}
		case b.first == 0 || a.first != 0 && a.box.Diagonal() > b.box.Diagonal():
			stack = append(stack, [2]int{a.first, pair[1]}, [2]int{a.first + 1, pair[1]})
		default:
			stack = append(stack, [2]int{pair[0], b.first}, [2]int{pair[0], b.first + 1})
		}
	}
	return false
}

// meet tells whether two boxes come as close as a distance.
func meet(a, b solid.Box, distance float64) bool {
	for k := range 3 {
		if a.Min[k] > b.Max[k]+distance || b.Min[k] > a.Max[k]+distance {
			return false
		}
	}
	return true
}

// apartBy is the most by which one of the directions that can part two triangles does so: their normals, and the
// products of their edges. As soon as it is more than enough, that is given. It is less than nothing where they reach
// through one another.
func apartBy(a, b [3]solid.Vec, enough float64) float64 {
	ea := [3]solid.Vec{a[1].Sub(a[0]), a[2].Sub(a[1]), a[0].Sub(a[2])}
	eb := [3]solid.Vec{b[1].Sub(b[0]), b[2].Sub(b[1]), b[0].Sub(b[2])}
	na, nb := ea[0].Cross(ea[1]), eb[0].Cross(eb[1])
	most := math.Inf(-1)
	along := func(d solid.Vec) bool {
		l := d.Norm()
		if l < 1e-12 {
			return false
		}
		loA, hiA, loB, hiB := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
		for k := range 3 {
			x, y := d.Dot(a[k]), d.Dot(b[k])
			loA, hiA, loB, hiB = math.Min(loA, x), math.Max(hiA, x), math.Min(loB, y), math.Max(hiB, y)
		}
		most = math.Max(most, math.Max(loA-hiB, loB-hiA)/l)
		return most > enough
	}
	if along(na) || along(nb) {
		return most
	}
	for _, x := range ea {
		// In one plane, and for triangles side by side, it is across their edges that they are parted.
		if along(na.Cross(x)) {
			return most
		}
		for _, y := range eb {
			if along(x.Cross(y)) {
				return most
			}
		}
	}
	for _, y := range eb {
		if along(nb.Cross(y)) {
			return most
		}
	}
	return most
}

// holds tells whether a place is inside a closed mesh: the solid angle of all its triangles there is a whole turn
// (A. Van Oosterom and J. Strackee, The solid angle of a plane triangle, 1983).
func (t *triangles) holds(p solid.Vec) bool {
	sum := 0.0
	for _, tri := range t.at {
		a, b, c := tri.p[0].Sub(p), tri.p[1].Sub(p), tri.p[2].Sub(p)
		la, lb, lc := a.Norm(), b.Norm(), c.Norm()
		sum += 2 * math.Atan2(a.Dot(b.Cross(c)), la*lb*lc+a.Dot(b)*lc+b.Dot(c)*la+c.Dot(a)*lb)
	}
	return math.Abs(sum) > 2*math.Pi
}
