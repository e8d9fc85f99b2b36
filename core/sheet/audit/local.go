package audit

import "math"

// pivoted is a vector that is one at its pivot, where all others of its list are zero.
type pivoted struct {
	v     []float64
	pivot int
}

// reduced brings vectors into the form of Gauss and Jordan. Pivots are looked for in an order of the unknowns, or where
// none is given at the largest number that is left, and what depends on the others is left out.
func reduced(list [][]float64, order []int) []pivoted {
	var out []pivoted
	rest := make([][]float64, len(list))
	for i, v := range list {
		rest[i] = append([]float64(nil), v...)
	}
	take := func(i, pivot int) {
		v := rest[i]
		rest = append(rest[:i], rest[i+1:]...)
		scale := 1 / v[pivot]
		for k := range v {
			v[k] *= scale
		}
		for _, o := range rest {
			subtract(o, v, o[pivot])
		}
		for _, o := range out {
			subtract(o.v, v, o.v[pivot])
		}
		out = append(out, pivoted{v, pivot})
	}
	for _, p := range order {
		if i, size := largest(rest, func(v []float64) float64 { return v[p] }); size > 1e-3 {
			take(i, p)
		}
	}
	for order == nil && len(rest) > 0 {
		at := func(v []float64) int {
			best := 0
			for k, x := range v {
				if math.Abs(x) > math.Abs(v[best])+1e-9 {
					best = k
				}
			}
			return best
		}
		i, size := largest(rest, func(v []float64) float64 { return v[at(v)] })
		if size < 1e-6 {
			break
		}
		take(i, at(rest[i]))
	}
	return out
}

// largest is the vector of which something is largest, and how large.
func largest(list [][]float64, of func(v []float64) float64) (best int, size float64) {
	for i, v := range list {
		if x := math.Abs(of(v)); x > size {
			best, size = i, x
		}
	}
	return best, size
}
