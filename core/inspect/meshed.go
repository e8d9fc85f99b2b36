package inspect

import (
	"math"

	"hammerset/core/solid"
)

// MeshAngle is the largest angle between neighbouring facets of meshes for showing and for
// laying solids over one another, in radians.
const MeshAngle = 0.25

// Deflection is the largest distance of such a mesh from the solid: a thousandth of the
// part's size.
func Deflection(b solid.Box) float64 { return math.Max(1e-3*b.Diagonal(), 1e-4) }

// Meshed is a described solid with a mesh of its faces, so that others can be laid over it.
type Meshed struct {
	*solid.Geometry
	Mesh *solid.Mesh
	skin *Skin
}

// MeshOf triangulates a described solid.
func MeshOf(k solid.Kernel, s solid.Shape, g *solid.Geometry) (*Meshed, error) {
	m, err := k.Mesh(s, Deflection(g.Box), MeshAngle)
	if err != nil {
		return nil, err
	}
	return &Meshed{Geometry: g, Mesh: m}, nil
}

// Skin is the surface of the solid, for distances from it; it is worked out once.
func (m *Meshed) Skin() *Skin {
	if m.skin == nil {
		m.skin = NewSkin(m.Mesh, m.Faces, Deflection(m.Box))
	}
	return m.skin
}

// Strays lists the faces of the solid that, laid by t, lie elsewhere than another's: a place
// inside each, the middle of its largest triangle laid onto the surface, is farther than
// most from it.
func (m *Meshed) Strays(other *Meshed, t solid.Transform, most float64) []int {
	size := make([]float64, len(m.Faces))
	at := make([]solid.Vec, len(m.Faces))
	for k, f := range m.Mesh.Faces {
		if int(f) >= len(m.Faces) {
			continue
		}
		a, b, c := m.Mesh.At(m.Mesh.Triangles[3*k]), m.Mesh.At(m.Mesh.Triangles[3*k+1]), m.Mesh.At(m.Mesh.Triangles[3*k+2])
		if area := b.Sub(a).Cross(c.Sub(a)).Norm(); area > size[f] {
			size[f], at[f] = area, a.Add(b).Add(c).Scale(1.0/3)
		}
	}
	skin := other.Skin()
	var out []int
	for f := range m.Faces {
		if size[f] == 0 {
			continue
		}
		p, exact := onSurface(m.Faces[f], at[f])
		slack := most
		if !exact {
			slack += 3 * skin.near
		}
		if math.Abs(skin.Distance(t.Apply(p))) > slack {
			out = append(out, f)
		}
	}
	return out
}
