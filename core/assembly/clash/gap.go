package clash

import (
	"math"

	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// between finds how far two meshes are apart, one of them laid into the coordinates of the other, as far as that is
// less than enough. Pairs of faces that are left out do not count; those beside them, which meet at their edges, count
// where they reach through one another by more than the slack.
//
// What is given is never more than the distance: the most by which any direction parts two triangles, the least over
// all. It is less than nothing where triangles reach through one another, by about how far.
type between struct {
	a, b    *triangles
	lay     rigid.Pose // of a, in the coordinates of b
	leftOut map[[2]int32]bool
	beside  map[[2]int32]bool
	slack   float64
}

// gap is the distance, or enough where it is more.
func (x *between) gap(enough float64) float64 {
	turned := newTurned(x.lay)
	laid := make([]triangle, len(x.a.at))
	for i, t := range x.a.at {
		for k := range t.p {
			laid[i].p[k] = turned.move.Apply(t.p[k])
		}
		laid[i].face, laid[i].box = t.face, boxOf(laid[i].p)
	}
	type pair struct {
		a, b int
		far  float64
	}
	of := func(a, b int) pair { return pair{a, b, boxGap(turned.box(x.a.nodes[a].box), x.b.nodes[b].box)} }
	stack := []pair{of(0, 0)}
	for len(stack) > 0 {
		next := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if next.far >= enough {
			continue
		}
		a, b := &x.a.nodes[next.a], &x.b.nodes[next.b]
		var one, other pair
		switch {
		case a.first == 0 && b.first == 0:
			enough = x.leaves(laid[a.from:a.to], b, enough)
			continue
		case b.first == 0 || a.first != 0 && a.box.Diagonal() > b.box.Diagonal():
			one, other = of(a.first, next.b), of(a.first+1, next.b)
		default:
			one, other = of(next.a, b.first), of(next.a, b.first+1)
		}
		if one.far < other.far { // the nearer one comes first, and shuts others out
			one, other = other, one
		}
		stack = append(stack, one, other)
	}
	return enough
}

// leaves is the least gap between the triangles of two leaves, the one laid to the other.
func (x *between) leaves(laid []triangle, b *node, least float64) float64 {
	for i := range laid {
		t := &laid[i]
		for j := b.from; j < b.to; j++ {
			u := &x.b.at[j]
			faces := [2]int32{t.face, u.face}
			if boxGap(t.box, u.box) >= least || x.leftOut[faces] {
				continue
			}
			most := least
			if x.beside[faces] {
				most = math.Min(least, -x.slack)
			}
			if g := apartBy(t.p, u.p, most); g < most {
				least = g
			}
		}
	}
	return least
}

func boxOf(p [3]solid.Vec) solid.Box {
	b := solid.Box{Min: p[0], Max: p[0]}
	for _, q := range p[1:] {
		for k := range 3 {
			b.Min[k], b.Max[k] = math.Min(b.Min[k], q[k]), math.Max(b.Max[k], q[k])
		}
	}
	return b
}

// boxGap is how far two boxes are apart, at least.
func boxGap(a, b solid.Box) float64 {
	sum := 0.0
	for k := range 3 {
		d := math.Max(0, math.Max(a.Min[k]-b.Max[k], b.Min[k]-a.Max[k]))
		sum += d * d
	}
	return math.Sqrt(sum)
}

// turned lays boxes into other coordinates.
type turned struct {
	move solid.Transform
	size [3]solid.Vec // of the entries of the turn
}

func newTurned(p rigid.Pose) turned {
	t := turned{move: p.Transform()}
	for r := range 3 {
		for k := range 3 {
			t.size[r][k] = math.Abs(t.move.M[r][k])
		}
	}
	return t
}

// box is around a box that was laid there.
func (t *turned) box(b solid.Box) solid.Box {
	middle, half := b.Min.Add(b.Max).Scale(0.5), b.Max.Sub(b.Min).Scale(0.5)
	c := t.move.Apply(middle)
	var out solid.Box
	for r := range 3 {
		h := t.size[r].Dot(half)
		out.Min[r], out.Max[r] = c[r]-h, c[r]+h
	}
	return out
}
