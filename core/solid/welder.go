package solid

import (
	"math"

	"hammerset/core/partition"
)

// Welder builds a mesh from loose triangles: corners in one place (within float32
// rounding of their size) become one vertex, and triangles without area are left out.
type Welder struct {
	mesh  Mesh
	index map[[3]float32]int32
}

// NewWelder makes an empty one.
func NewWelder() *Welder { return &Welder{index: map[[3]float32]int32{}} }

// Triangle adds a triangle.
func (w *Welder) Triangle(a, b, c Vec) {
	var at [3]int32
	for i, p := range []Vec{a, b, c} {
		key := [3]float32{float32(p[0]) + 0, float32(p[1]) + 0, float32(p[2]) + 0} // no minus zero
		n, ok := w.index[key]
		if !ok {
			n = int32(len(w.index))
			w.index[key] = n
			w.mesh.Vertices = append(w.mesh.Vertices, p[0], p[1], p[2])
		}
		at[i] = n
	}
	if at[0] != at[1] && at[1] != at[2] && at[2] != at[0] {
		w.mesh.Triangles = append(w.mesh.Triangles, at[:]...)
		w.mesh.Faces = append(w.mesh.Faces, 0)
	}
}

// Mesh is what was built.
func (w *Welder) Mesh() *Mesh { m := w.mesh; m.Lines = [][]float64{}; return &m }

// Moved is the mesh after a motion.
func (m *Mesh) Moved(t Transform) *Mesh {
	out := *m
	moved := func(list []float64) []float64 {
		to := make([]float64, len(list))
		for i := 0; i+2 < len(list); i += 3 {
			p := t.Apply(Vec{list[i], list[i+1], list[i+2]})
			to[i], to[i+1], to[i+2] = p[0], p[1], p[2]
		}
		return to
	}
	out.Vertices, out.Lines = moved(m.Vertices), make([][]float64, len(m.Lines))
	for i, line := range m.Lines {
		out.Lines[i] = moved(line)
	}
	return &out
}

// At is a vertex of the mesh.
func (m *Mesh) At(i int32) Vec { return Vec{m.Vertices[3*i], m.Vertices[3*i+1], m.Vertices[3*i+2]} }

// Props integrates the figures of the solid that a closed mesh bounds, by the divergence
// theorem: the sum over the tetrahedra from the origin to each triangle, whose second
// moments are V/20 (Σ pᵢpᵢᵀ + s sᵀ), s the sum of the corners (Tonon 2004, Explicit exact
// formulas for the 3-D tetrahedron inertia tensor).
func (m *Mesh) Props() Props {
	var p Props
	var first Vec
	var second [3][3]float64
	for t := 0; t+2 < len(m.Triangles); t += 3 {
		a, b, c := m.At(m.Triangles[t]), m.At(m.Triangles[t+1]), m.At(m.Triangles[t+2])
		p.Area += b.Sub(a).Cross(c.Sub(a)).Norm() / 2
		v := a.Dot(b.Cross(c)) / 6
		s := a.Add(b).Add(c)
		p.Volume += v
		first = first.Add(s.Scale(v / 4))
		for i := range 3 {
			for j := range 3 {
				second[i][j] += v / 20 * (a[i]*a[j] + b[i]*b[j] + c[i]*c[j] + s[i]*s[j])
			}
		}
	}
	if p.Volume == 0 {
		return p
	}
	p.Centroid = first.Scale(1 / p.Volume)
	trace := 0.0
	for i := range 3 {
		for j := range 3 {
			second[i][j] -= p.Volume * p.Centroid[i] * p.Centroid[j]
		}
		trace += second[i][i]
	}
	for i := range 3 {
		for j := range 3 {
			p.Inertia[i][j] = -second[i][j]
			if i == j {
				p.Inertia[i][j] += trace
			}
		}
	}
	return p
}

// Open counts the edges of the mesh that do not lie between exactly two triangles that run
// along it in opposite senses: none in a closed one.
func (m *Mesh) Open() int {
	sides := map[[2]int32]int{}
	for t := 0; t+2 < len(m.Triangles); t += 3 {
		for k := range 3 {
			a, b := m.Triangles[t+k], m.Triangles[t+(k+1)%3]
			if a < b {
				sides[[2]int32{a, b}]++
			} else {
				sides[[2]int32{b, a}]--
			}
		}
	}
	n := 0
	for _, s := range sides {
		if s != 0 {
			n++
		}
	}
	return n
}

// Pieces counts the parts of the mesh that hang together.
func (m *Mesh) Pieces() int {
	parts := partition.Of(len(m.Vertices) / 3)
	for t := 0; t+2 < len(m.Triangles); t += 3 {
		parts.Join(int(m.Triangles[t]), int(m.Triangles[t+1]))
		parts.Join(int(m.Triangles[t]), int(m.Triangles[t+2]))
	}
	n := map[int]bool{}
	for _, i := range m.Triangles {
		n[parts.Root(int(i))] = true
	}
	return len(n)
}

// Box is the mesh's extent.
func (m *Mesh) Box() Box {
	b := Box{Min: Vec{math.Inf(1), math.Inf(1), math.Inf(1)}, Max: Vec{math.Inf(-1), math.Inf(-1), math.Inf(-1)}}
	for i := 0; i+2 < len(m.Vertices); i += 3 {
		for k := range 3 {
			b.Min[k], b.Max[k] = math.Min(b.Min[k], m.Vertices[i+k]), math.Max(b.Max[k], m.Vertices[i+k])
		}
	}
	return b
}
