package solve

// Retraction is what displacements of the unknowns do to a state (P.-A. Absil, R. Mahony,
// R. Sepulchre, Optimization Algorithms on Matrix Manifolds, 2008, section 4.1): a map R with
// R(s, 0) = s whose derivative by the displacement at 0 is the identity, so that a Newton step
// worked out by derivatives at 0 can be taken with it.
type Retraction interface {
	// Save copies that part of a state which displacements of the unknowns vars change.
	Save(to, from []float64, vars []int)
	// Move writes R(base, d) to that part of the state: d[i] displaces vars[i].
	Move(state, base []float64, vars []int, d []float64)
	// Difference writes to d by how much the unknowns vars lead from one state to another one
	// nearby, to first order.
	Difference(d, from, to []float64, vars []int)
}

// Plain is the retraction s + d, of unknowns that are the state itself.
type Plain struct{}

// Save copies the unknowns.
func (Plain) Save(to, from []float64, vars []int) {
	for _, v := range vars {
		to[v] = from[v]
	}
}

// Move adds the displacements.
func (Plain) Move(state, base []float64, vars []int, d []float64) {
	for i, v := range vars {
		state[v] = base[v] + d[i]
	}
}

// Difference subtracts.
func (Plain) Difference(d, from, to []float64, vars []int) {
	for i, v := range vars {
		d[i] = to[v] - from[v]
	}
}
