package audit

import "math"

const (
	// independent is how long what is left of a row of length one must be for the row to say something new.
	independent = 1e-5
	// nothing is how long a row is that is zero but for rounding: a way that counts moves something by about what it is.
	nothing = 1e-8
	// rounding is what is taken for zero in a row of length one, so that rows stay sparse.
	rounding = 1e-12
)

// basis is the rows that were put in, brought to steps by elimination with the largest number of each as its pivot: a
// row has zero where those before it have their pivots. Rows are sparse and stay so, since each is of few carriers.
type basis struct {
	rows   [][]float64
	pivots []int
}

// left is what is left of a row beside the basis, made one long before, and how long that is.
func (b *basis) left(row []float64) (rest []float64, share float64) {
	size := norm(row)
	if !(size >= nothing) || math.IsInf(size, 0) { // what cannot be worked out says nothing
		return row, 0
	}
	rest = make([]float64, len(row))
	for i, x := range row {
		rest[i] = x / size
	}
	for i, q := range b.rows {
		if c := rest[b.pivots[i]]; c != 0 {
			subtract(rest, q, c)
			rest[b.pivots[i]] = 0
		}
	}
	for i, x := range rest {
		if math.Abs(x) < rounding {
			rest[i] = 0
		}
	}
	return rest, norm(rest)
}

// add puts a row in, and tells whether it says something new.
func (b *basis) add(row []float64) bool {
	rest, share := b.left(row)
	if share <= independent {
		return false
	}
	pivot, _ := furthest(rest)
	scale := 1 / rest[pivot]
	for i := range rest {
		rest[i] *= scale
	}
	b.rows, b.pivots = append(b.rows, rest), append(b.pivots, pivot)
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

// with is the basis with the rows of characteristics put in.
func (b *basis) with(list []said) *basis {
	for _, s := range list {
		for _, r := range s.rows {
			b.add(r)
		}
	}
	return b
}

// clone is a basis that can be added to without the first one changing.
func (b *basis) clone() *basis {
	return &basis{append([][]float64(nil), b.rows...), append([]int(nil), b.pivots...)}
}

// loose gives changes of n unknowns that no row sees, each of length one, as many as there are independent ones: each
// unknown that is no pivot is one in one of them, and the pivots follow from the last row to the first.
func (b *basis) loose(n int) [][]float64 {
	pivot := make([]bool, n)
	for _, p := range b.pivots {
		pivot[p] = true
	}
	var out [][]float64
	for i := range n {
		if pivot[i] {
			continue
		}
		v := make([]float64, n)
		v[i] = 1
		for k := len(b.rows) - 1; k >= 0; k-- {
			v[b.pivots[k]] = 0
			v[b.pivots[k]] = -dot(b.rows[k], v)
		}
		scale := 1 / norm(v)
		for k := range v {
			v[k] *= scale
		}
		out = append(out, v)
	}
	return out
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
	for i, x := range b {
		if x != 0 {
			a[i] -= x * scale
		}
	}
}
