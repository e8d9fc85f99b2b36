package clash

import (
	"gonum.org/v1/gonum/mat"

	"hammerset/core/solid"
)

// principal are the principal axes of an inertia.
func principal(m [3]solid.Vec) [3]solid.Vec {
	a := mat.NewSymDense(3, nil)
	for i := range 3 {
		for j := i; j < 3; j++ {
			a.SetSym(i, j, (m[i][j]+m[j][i])/2)
		}
	}
	var e mat.EigenSym
	if !e.Factorize(a, true) {
		return [3]solid.Vec{solid.World.X, solid.World.Y, solid.World.Z}
	}
	var v mat.Dense
	e.VectorsTo(&v)
	var out [3]solid.Vec
	for k := range 3 {
		out[k] = solid.Vec{v.At(0, k), v.At(1, k), v.At(2, k)}
	}
	return out
}
