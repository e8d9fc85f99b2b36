package solid

import "math"

// Thread is a cosmetic thread on a round face of a model.
type Thread struct {
	At, Axis Vec
	Radius   float64
	Text     string
}

// ThreadOn gives the thread on a face; ok is false where there is none.
func (g *Geometry) ThreadOn(face int) (text string, ok bool) {
	f := g.Faces[face]
	for _, t := range g.Threads {
		if f.Kind == CylinderFace && math.Abs(t.Radius-f.Radius) < 1e-6 && t.Axis.Parallel(f.Axis, 1e-4) &&
			FromAxis(t.At, f.Origin, f.Axis).Norm() < 1e-4+f.Radius {
			return t.Text, true
		}
	}
	return "", false
}
