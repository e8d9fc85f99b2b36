package inspect

import (
	"math"
	"math/rand"
	"testing"

	"hammerset/core/solid"
)

// ball is a mesh of a sphere of radius r about the origin, from a cube whose sides are
// divided n times.
func ball(r float64, n int) *solid.Mesh {
	w := solid.NewWelder()
	at := func(axis, side, i, j int) solid.Vec {
		var p solid.Vec
		p[axis], p[(axis+1)%3], p[(axis+2)%3] = float64(side*n), float64((2*i-n)*side), float64(2*j-n)
		return p.Scale(r / math.Sqrt(p.Dot(p)))
	}
	for axis := range 3 {
		for _, side := range []int{-1, 1} {
			for i := range n {
				for j := range n {
					a, b, c, e := at(axis, side, i, j), at(axis, side, i+1, j), at(axis, side, i+1, j+1), at(axis, side, i, j+1)
					w.Triangle(a, b, c)
					w.Triangle(a, c, e)
				}
			}
		}
	}
	return w.Mesh()
}

// The figures of a mesh are those of the solid that it bounds: for a ball they tend to
// 4/3 π r³, 4 π r² and 2/5 m r² (any handbook), wherever it lies; distances from its skin
// are exact, since the sphere behind it is known, and agree with a search of all triangles
// where it is not.
func TestMeshFiguresAndDistances(t *testing.T) {
	const r = 10.0
	m := ball(r, 40)
	if m.Open() != 0 || m.Pieces() != 1 {
		t.Fatalf("%d open edges, %d pieces", m.Open(), m.Pieces())
	}
	moved := *m
	moved.Vertices = nil
	for i := 0; i < len(m.Vertices); i += 3 {
		moved.Vertices = append(moved.Vertices, m.Vertices[i]+30, m.Vertices[i+1]-12, m.Vertices[i+2]+7)
	}
	for _, x := range []*solid.Mesh{m, &moved} {
		p := x.Props()
		v := 4 * math.Pi * r * r * r / 3
		for k := range 3 {
			if math.Abs(p.Inertia[k][k]/(0.4*v*r*r)-1) > 5e-3 {
				t.Errorf("moment %d is %g, not %g", k, p.Inertia[k][k], 0.4*v*r*r)
			}
		}
		if math.Abs(p.Volume/v-1) > 3e-3 || math.Abs(p.Area/(4*math.Pi*r*r)-1) > 3e-3 {
			t.Errorf("volume %g and area %g", p.Volume, p.Area)
		}
	}
	half := *m
	half.Triangles = half.Triangles[:len(half.Triangles)/2]
	if half.Open() == 0 {
		t.Error("half a ball is closed")
	}
	face := []solid.Face{{Kind: solid.SphereFace, Radius: r}}
	exact, plain := NewSkin(m, face, 0.02), NewSkin(m, nil, 0.02)
	rng := rand.New(rand.NewSource(3))
	for range 300 {
		p := solid.Vec{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Unit().Scale(20 * rng.Float64())
		if p.Norm() < 1 {
			continue // as far from everywhere
		}
		if d := exact.Distance(p); math.Abs(d-(p.Norm()-r)) > 1e-9 {
			t.Errorf("%v lies %g outside, not %g", p, d, p.Norm()-r)
		}
		best := math.Inf(1)
		for i := 0; i < len(m.Triangles); i += 3 {
			best = math.Min(best, p.Distance(onTriangle(p, m.At(m.Triangles[i]), m.At(m.Triangles[i+1]),
				m.At(m.Triangles[i+2]))))
		}
		if d := plain.Distance(p); math.Abs(math.Abs(d)-best) > 1e-9 || (d > 0) != (p.Norm() > r) && best > 0.05 {
			t.Errorf("%v lies %g from the mesh, not %g", p, d, best)
		}
	}
	larger := []solid.Face{{Kind: solid.SphereFace, Radius: r + 0.5}}
	fine := Refine(ball(r+0.5, 12), larger, 1)
	v, out, in := Compare(fine, larger, exact)
	for _, d := range v { // the corners of the division, too
		if math.Abs(d-0.5) > 1e-9 {
			t.Errorf("a corner lies %g out", d)
		}
	}
	if fine.Open() > 0 || math.Abs(out-0.5) > 1e-9 || in > 0 {
		t.Errorf("a ball half a millimetre larger is %g out and %g in", out, in)
	}
}
