package audit

import "math"

// sparse is a row of which only what is not zero is kept: a measure follows a few surfaces of many.
type sparse struct {
	at   []int
	x    []float64
	long float64
}

// thinned is a row without its zeros.
func thinned(row []float64) sparse {
	var out sparse
	for i, x := range row {
		if x != 0 {
			out.at, out.x = append(out.at, i), append(out.x, x)
			out.long += x * x
		}
	}
	out.long = math.Sqrt(out.long)
	return out
}

// dot is the product with a whole row.
func (s *sparse) dot(v []float64) float64 {
	sum := 0.0
	for k, i := range s.at {
		sum += s.x[k] * v[i]
	}
	return sum
}
