package solve

import (
	mathbits "math/bits"
	"sort"
)

// The matrices are JᵀJ + λI of blocks of one up to some hundred unknowns, with a
// few entries in each row, factored again and again with the same pattern. So
// everything that depends on the pattern alone (the order, the elimination tree,
// the places of L) is worked out once, and factoring allocates nothing. No
// pivots are looked for: a positive definite matrix needs none, and the damping
// makes it so.

// ldl factors sparse symmetric positive definite matrices of one fixed pattern
// as L D Lᵀ, with L unit lower triangular. The unknowns are ordered once by
// smallest degree; the factorisation is up-looking, row by row along the
// elimination tree (T. A. Davis, Direct Methods for Sparse Linear Systems, 2006,
// chapters 4 and 7).
type ldl struct {
	n      int
	perm   []int // perm[k] is the unknown eliminated as the k-th
	place  []int // its inverse
	colPtr []int // upper triangle of the permuted matrix, by columns
	rowIdx []int // rows within each column, at most the column itself
	value  []float64
	parent []int
	lPtr   []int
	lRow   []int
	lVal   []float64
	d      []float64
	// work space
	y             []float64
	pattern, flag []int
	lCount        []int
}

// newLDL orders and analyses the pattern given as sets of unknowns that occur
// together, each set a clique.
//
// Entry (i, j) of L is not zero where i can be reached from j along the tree;
// each row k of the upper triangle walks up the tree to k, and what it passes
// are the entries of row k. That gives the counts without working out a number.
func newLDL(n int, cliques [][]int) *ldl {
	f := &ldl{n: n, place: make([]int, n)}
	neighbours := make([]bits, n)
	words := (n + 63) / 64
	all := make(bits, n*words)
	for i := range neighbours {
		neighbours[i] = all[i*words : (i+1)*words]
	}
	for _, q := range cliques {
		for _, a := range q {
			for _, b := range q {
				if a != b {
					neighbours[a].set(b)
				}
			}
		}
	}
	cols := make([][]int, n) // the upper pattern is filled in after ordering
	pairs := make([][2]int, 0, 4*n)
	for a := range neighbours {
		neighbours[a].each(func(b int) {
			if a < b {
				pairs = append(pairs, [2]int{a, b})
			}
		})
	}
	f.perm = smallestDegree(neighbours)
	for k, v := range f.perm {
		f.place[v] = k
	}
	for _, p := range pairs {
		i, j := f.place[p[0]], f.place[p[1]]
		if i > j {
			i, j = j, i
		}
		cols[j] = append(cols[j], i)
	}
	f.colPtr = make([]int, n+1)
	for j := range cols {
		cols[j] = append(cols[j], j)
		sort.Ints(cols[j])
		f.rowIdx = append(f.rowIdx, cols[j]...)
		f.colPtr[j+1] = len(f.rowIdx)
	}
	f.value = make([]float64, len(f.rowIdx))
	f.y, f.d = make([]float64, n), make([]float64, n)
	f.pattern, f.flag, f.lCount = make([]int, n), make([]int, n), make([]int, n)
	// Elimination tree and the number of entries in each column of L.
	f.parent = make([]int, n)
	for k := range n {
		f.parent[k], f.flag[k] = -1, k
		for p := f.colPtr[k]; p < f.colPtr[k+1]; p++ {
			for i := f.rowIdx[p]; f.flag[i] != k; i = f.parent[i] {
				if f.parent[i] < 0 {
					f.parent[i] = k
				}
				f.lCount[i]++
				f.flag[i] = k
			}
		}
	}
	f.lPtr = make([]int, n+1)
	for k := range n {
		f.lPtr[k+1] = f.lPtr[k] + f.lCount[k]
	}
	f.lRow, f.lVal = make([]int, f.lPtr[n]), make([]float64, f.lPtr[n])
	return f
}

// bits is a set of small numbers.
type bits []uint64

func (b bits) set(i int)   { b[i/64] |= 1 << (i % 64) }
func (b bits) clear(i int) { b[i/64] &^= 1 << (i % 64) }

func (b bits) count() int {
	n := 0
	for _, w := range b {
		n += mathbits.OnesCount64(w)
	}
	return n
}

// each calls f with the members, the smallest first.
func (b bits) each(f func(int)) {
	for k, w := range b {
		for ; w != 0; w &= w - 1 {
			f(64*k + mathbits.TrailingZeros64(w))
		}
	}
}

// smallestDegree eliminates the unknown with the fewest neighbours first. It
// uses up its argument.
//
// Eliminating an unknown joins all of its neighbours to one another, which fills
// in the factor; the one with the fewest neighbours fills in least. It is a
// heuristic (the least fill is NP-complete to find), and for graphs of drawings,
// which are nearly planar, a very good one. Sets are bits, since some hundred
// unknowns are a few words each.
func smallestDegree(neighbours []bits) []int {
	n := len(neighbours)
	degree := make([]int, n)
	for v := range degree {
		degree[v] = neighbours[v].count()
	}
	perm := make([]int, 0, n)
	for len(perm) < n {
		v, low := -1, n+1
		for u, d := range degree {
			if d < low {
				v, low = u, d
			}
		}
		degree[v] = n + 2 // done
		perm = append(perm, v)
		neighbours[v].each(func(u int) {
			for k, w := range neighbours[v] {
				neighbours[u][k] |= w
			}
			neighbours[u].clear(u)
			neighbours[u].clear(v)
			degree[u] = neighbours[u].count()
		})
	}
	return perm
}

// at is the place of entry (a, b) among the values.
func (f *ldl) at(a, b int) int {
	i, j := f.place[a], f.place[b]
	if i > j {
		i, j = j, i
	}
	rows := f.rowIdx[f.colPtr[j]:f.colPtr[j+1]]
	return f.colPtr[j] + sort.SearchInts(rows, i)
}

// factor computes L and D; false when a pivot is not above floor.
//
// Row k of L solves a triangular system with the k-1 rows above it, along the
// pattern that its column reaches in the tree. A pivot at or below the floor
// means that an unknown is determined by nothing but the damping; the step that
// tries it then takes more.
func (f *ldl) factor(floor float64) bool {
	for k := range f.n {
		f.y[k], f.flag[k], f.lCount[k] = 0, k, 0
		top := f.n
		for p := f.colPtr[k]; p < f.colPtr[k+1]; p++ {
			i := f.rowIdx[p]
			f.y[i] += f.value[p]
			n := 0
			for ; f.flag[i] != k; i = f.parent[i] {
				f.pattern[n] = i
				n++
				f.flag[i] = k
			}
			for n > 0 {
				top--
				n--
				f.pattern[top] = f.pattern[n]
			}
		}
		f.d[k] = f.y[k]
		f.y[k] = 0
		for ; top < f.n; top++ {
			i := f.pattern[top]
			yi := f.y[i]
			f.y[i] = 0
			end := f.lPtr[i] + f.lCount[i]
			for p := f.lPtr[i]; p < end; p++ {
				f.y[f.lRow[p]] -= f.lVal[p] * yi
			}
			l := yi / f.d[i]
			f.d[k] -= l * yi
			f.lRow[end], f.lVal[end] = k, l
			f.lCount[i]++
		}
		if !(f.d[k] > floor) {
			for i := range f.y {
				f.y[i] = 0
			}
			return false
		}
	}
	return true
}

// solve replaces b by the solution.
//
// L y = P b forwards, D z = y, Lᵀ x = z backwards, and the order undone.
func (f *ldl) solve(b []float64) {
	y := f.y
	for k, v := range f.perm {
		y[k] = b[v]
	}
	for k := range f.n {
		for p := f.lPtr[k]; p < f.lPtr[k]+f.lCount[k]; p++ {
			y[f.lRow[p]] -= f.lVal[p] * y[k]
		}
	}
	for k := f.n - 1; k >= 0; k-- {
		y[k] /= f.d[k]
		for p := f.lPtr[k]; p < f.lPtr[k]+f.lCount[k]; p++ {
			y[k] -= f.lVal[p] * y[f.lRow[p]]
		}
	}
	for k, v := range f.perm {
		b[v] = y[k]
		y[k] = 0
	}
}
