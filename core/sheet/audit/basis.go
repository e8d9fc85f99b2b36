package audit

import "math"

// independent is how long what is left of a row of length one must be for the row to say something new.
const independent = 1e-5

// nothing is how long a row is that is zero but for rounding: a way that counts moves something by about what it is.
const nothing = 1e-8

// basis is an orthonormal basis of the rows that were put in, by Gram and Schmidt with a second pass, which loses
// nothing (Giraud, Langou and Rozložník, 2005).
type basis struct{ rows [][]float64 }

// left is what is left of a row beside the basis, and how long that is of the row.
func (b *basis) left(row []float64) (rest []float64, share float64) {
	size := norm(row)
	if size < nothing {
		return row, 0
	}
	rest = append([]float64(nil), row...)
	for range 2 {
		for _, q := range b.rows {
			subtract(rest, q, dot(rest, q))
		}
	}
	return rest, norm(rest) / size
}

// add puts a row in, and tells whether it says something new.
func (b *basis) add(row []float64) bool {
	rest, share := b.left(row)
	if share <= independent {
		return false
	}
	scale := 1 / norm(rest)
	for i := range rest {
		rest[i] *= scale
	}
	b.rows = append(b.rows, rest)
	return true
}

// holds tells whether every one of the rows follows from the basis.
func (b *basis) holds(rows [][]float64) bool {
	for _, r := range rows {
		if _, share := b.left(r); share > independent {
			return false
		}
	}
	return true
}

// clone is a basis that can be added to without the first one changing.
func (b *basis) clone() *basis { return &basis{append([][]float64(nil), b.rows...)} }

// loose gives the changes of n unknowns that no row sees, each of length one and square to the others.
func (b *basis) loose(n int) [][]float64 {
	all := b.clone()
	for i := range n {
		if len(all.rows) == n {
			break
		}
		unit := make([]float64, n)
		unit[i] = 1
		// The square of what is left of all of them is n minus the rank, so that some are large.
		if _, share := all.left(unit); share > 1e-4 {
			all.add(unit)
		}
	}
	return all.rows[len(b.rows):]
}

func dot(a, b []float64) float64 {
	s := 0.0
	for i, x := range a {
		s += x * b[i]
	}
	return s
}

func norm(a []float64) float64 { return math.Sqrt(dot(a, a)) }

func subtract(a, b []float64, scale float64) {
	for i := range a {
		a[i] -= scale * b[i]
	}
}
