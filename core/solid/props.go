package solid

import "gonum.org/v1/gonum/mat"

// Props are the whole-part figures of a solid of density one. Inertia is about
// the centroid.
type Props struct {
	Volume   float64
	Area     float64
	Centroid Vec
	Inertia  [3]Vec
}

// Principal gives the principal axes and moments of inertia, largest first; the axes of the model where they cannot be
// worked out.
//
// The inertia tensor is symmetric: its eigenvectors are the axes. They are an
// invariant of the solid, whatever its faces are cut into.
func (p Props) Principal() (axes [3]Vec, moments [3]float64) {
	sym := mat.NewSymDense(3, nil)
	for i := range 3 {
		for j := i; j < 3; j++ {
			sym.SetSym(i, j, p.Inertia[i][j])
		}
	}
	var eig mat.EigenSym
	if !eig.Factorize(sym, true) {
		return [3]Vec{World.X, World.Y, World.Z}, moments
	}
	values := eig.Values(nil)
	var v mat.Dense
	eig.VectorsTo(&v)
	for k := range 3 {
		moments[k] = values[2-k]
		for i := range 3 {
			axes[k][i] = v.At(i, 2-k)
		}
	}
	return axes, moments
}
