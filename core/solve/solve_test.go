package solve

import (
	"math"
	"math/rand"
	"slices"
	"testing"

	"gonum.org/v1/gonum/mat"
)

// linear is a group whose residuals are a x - b over some unknowns.
func linear(vars []int, a *mat.Dense, b []float64) Group {
	rows, n := a.Dims()
	return Group{Vars: vars, Rows: rows, Eval: func(x, r, jac []float64) {
		for k := range rows {
			r[k] = -b[k]
			for i, v := range vars {
				r[k] += a.At(k, i) * x[v]
			}
			if jac != nil {
				copy(jac[k*n:(k+1)*n], a.RawRowView(k))
			}
		}
	}}
}

// distance asks that two points of the plane be apart by d; a point is x and y of the state.
func distance(p, q int, d float64) Group {
	return Group{Vars: []int{2 * p, 2*p + 1, 2 * q, 2*q + 1}, Rows: 1, Eval: func(x, r, jac []float64) {
		dx, dy := x[2*q]-x[2*p], x[2*q+1]-x[2*p+1]
		l := math.Hypot(dx, dy)
		r[0] = l - d
		if jac != nil {
			copy(jac, []float64{-dx / l, -dy / l, dx / l, dy / l})
		}
	}}
}

// fixed asks that a point be at a place.
func fixed(p int, x, y float64) Group {
	return linear([]int{2 * p, 2*p + 1}, mat.NewDense(2, 2, []float64{1, 0, 0, 1}), []float64{x, y})
}

// Factor and solution of sparse matrices agree with those of a general library.
func TestSparseFactorsAgreeWithDense(t *testing.T) {
	rng := rand.New(rand.NewSource(2))
	for range 100 {
		n := 1 + rng.Intn(25)
		var cliques [][]int
		for range n {
			q := rng.Perm(n)[:1+rng.Intn(min(n, 4))]
			cliques = append(cliques, q)
		}
		f := newLDL(n, cliques)
		a := mat.NewSymDense(n, nil)
		put := func(i, j int, v float64) {
			a.SetSym(i, j, a.At(i, j)+v)
			f.value[f.at(i, j)] += v
		}
		for _, q := range cliques {
			g := make([]float64, len(q))
			for i := range g {
				g[i] = rng.NormFloat64()
			}
			for i := range q {
				for j := i; j < len(q); j++ {
					put(q[i], q[j], g[i]*g[j])
				}
			}
		}
		for i := range n {
			put(i, i, 0.1)
		}
		b := make([]float64, n)
		for i := range b {
			b[i] = rng.NormFloat64()
		}
		var want mat.VecDense
		if err := want.SolveVec(a, mat.NewVecDense(n, slices.Clone(b))); err != nil || !f.factor(1e-12) {
			t.Fatalf("%d unknowns: not factored: %v", n, err)
		}
		f.solve(b)
		for i := range b {
			if math.Abs(b[i]-want.AtVec(i)) > 1e-8*(1+math.Abs(want.AtVec(i))) {
				t.Fatalf("%d unknowns: %g, not %g", n, b[i], want.AtVec(i))
			}
		}
	}
}

// The blocks of a plan hold every residual and every unknown once; square ones are square, and the
// others have too many residuals or too many unknowns.
func TestPlansSplitEveryComponentWhole(t *testing.T) {
	rng := rand.New(rand.NewSource(3))
	for range 200 {
		n := 1 + rng.Intn(12)
		var groups []Group
		for range 1 + rng.Intn(12) {
			rows := 1 + rng.Intn(MaxRows)
			vars := rng.Perm(n)[:1+rng.Intn(n)]
			a := mat.NewDense(rows, len(vars), nil)
			for k := range rows {
				for i := range vars {
					if rng.Intn(3) > 0 {
						a.Set(k, i, rng.NormFloat64())
					}
				}
			}
			groups = append(groups, linear(vars, a, make([]float64, rows)))
		}
		s := New(make([]float64, n), n, groups, 1, Plain{})
		for _, c := range s.Components(s.All()) {
			p := s.planFor(c)
			seen, vars := map[Row]int{}, map[int]int{}
			for _, b := range p.blocks() {
				for _, r := range b.rows {
					seen[r]++
				}
				for _, v := range b.vars {
					vars[v]++
				}
			}
			if len(seen) != len(s.Rows(c.Groups)) || len(vars) != len(c.Vars) {
				t.Fatalf("%d of %d residuals and %d of %d unknowns are in blocks", len(seen), len(s.Rows(c.Groups)),
					len(vars), len(c.Vars))
			}
			for _, b := range p.square {
				if len(b.rows) != len(b.vars) {
					t.Errorf("a square block has %d residuals and %d unknowns", len(b.rows), len(b.vars))
				}
			}
			for _, b := range p.over {
				if len(b.rows) <= len(b.vars) {
					t.Errorf("a block with too many residuals has %d, and %d unknowns", len(b.rows), len(b.vars))
				}
			}
			for _, b := range p.under {
				if len(b.rows) >= len(b.vars) && len(b.vars) > 0 {
					t.Errorf("a block with too many unknowns has %d, and %d residuals", len(b.vars), len(b.rows))
				}
			}
		}
	}
}

// Rank and null space agree with the singular values, and every dependent row is really made of
// the rows that are named.
func TestMotionsAgreeWithSingularValues(t *testing.T) {
	rng := rand.New(rand.NewSource(6))
	for range 200 {
		n, m := 1+rng.Intn(9), 1+rng.Intn(9)
		a := mat.NewDense(m, n, nil)
		for i := range m {
			for j := range n {
				a.Set(i, j, rng.NormFloat64())
			}
			if i > 1 && rng.Intn(3) == 0 { // a sum of two before
				p, q := rng.Intn(i), rng.Intn(i)
				for j := range n {
					a.Set(i, j, a.At(p, j)+2*a.At(q, j))
				}
			}
		}
		var groups []Group
		var vars []int
		for j := range n {
			vars = append(vars, j)
		}
		for i := range m {
			groups = append(groups, linear(vars, mat.DenseCopyOf(a.Slice(i, i+1, 0, n)), []float64{0}))
		}
		s := New(make([]float64, n), n, groups, 1, Plain{})
		got := s.Motions(s.Rows(s.All()), vars, s.State)
		var svd mat.SVD
		svd.Factorize(a, mat.SVDNone)
		rank := 0
		for _, v := range svd.Values(nil) {
			if v > 1e-8 {
				rank++
			}
		}
		if got.Freedom() != n-rank || len(got.Dependent) != m-rank {
			t.Fatalf("%d freedoms and %d dependent rows of %d x %d with rank %d", got.Freedom(), len(got.Dependent), m, n, rank)
		}
		for _, v := range got.Null() {
			var r mat.VecDense
			r.MulVec(a, mat.NewVecDense(n, v))
			if mat.Norm(&r, 2) > 1e-9 || math.Abs(sumSquares(v)-1) > 1e-9 {
				t.Errorf("a motion is not allowed, or no unit: %g", mat.Norm(&r, 2))
			}
		}
		for _, d := range got.Dependent {
			with := mat.NewDense(n, max(1, len(d.With)), nil)
			for k, r := range d.With {
				with.SetCol(k, a.RawRowView(r.Group))
			}
			var w, left mat.Dense
			row := mat.NewDense(n, 1, slices.Clone(a.RawRowView(d.Row.Group)))
			if err := w.Solve(with, row); err != nil && len(d.With) > n {
				t.Errorf("row %v: %v", d.Row, err)
				continue
			}
			left.Mul(with, &w)
			left.Sub(&left, row)
			if mat.Norm(&left, 2) > 1e-7 {
				t.Errorf("row %v is not made of %v", d.Row, d.With)
			}
		}
	}
}

// Three points in a row at fixed distances: the middle one starts to give sideways and goes
// nowhere, an infinitesimal freedom. In a bent chain of one bar more there is a real one.
func TestFiniteAndInfinitesimalMotions(t *testing.T) {
	flat := New([]float64{0, 0, 1, 0, 2, 0}, 6, []Group{fixed(0, 0, 0), fixed(2, 2, 0), distance(0, 1, 1),
		distance(1, 2, 1)}, 2, Plain{})
	c := flat.Components(flat.All())[0]
	m := flat.MotionsOf(c, flat.State)
	if m.Freedom() != 1 || len(flat.Finite(c, m)) != 0 {
		t.Errorf("the flat chain has %d motions, of which %d can be followed", m.Freedom(), len(flat.Finite(c, m)))
	}
	bent := New([]float64{0, 0, 0.2, 1, 1.3, 1.1, 2, 0}, 8, []Group{fixed(0, 0, 0), fixed(3, 2, 0), distance(0, 1, 1),
		distance(1, 2, 1), distance(2, 3, 1)}, 2, Plain{})
	c = bent.Components(bent.All())[0]
	if left := bent.Settle(c, 100); !bent.Small(left) {
		t.Fatalf("the four-bar chain is not closed: %g", left)
	}
	m = bent.MotionsOf(c, bent.State)
	if finite := bent.Finite(c, m); m.Freedom() != 1 || len(finite) != 1 || m.Only(finite).Freedom() != 1 {
		t.Errorf("the four-bar chain has %d motions, of which %d can be followed", m.Freedom(), len(finite))
	}
	if r := bent.Remaining(c, bent.State); r.Freedom() != 1 || len(r.Vars) >= len(m.Vars) {
		t.Errorf("without what stands: %d freedoms of %d unknowns", r.Freedom(), len(r.Vars))
	}
}

// One condition may depend on any number of unknowns, and its step is the least change.
func TestOneConditionOfManyUnknowns(t *testing.T) {
	const n = 60
	vars, state := make([]int, n), make([]float64, n)
	for i := range vars {
		vars[i], state[i] = i, float64(i%7)
	}
	start := slices.Clone(state)
	a := mat.NewDense(1, n, nil)
	for i := range n {
		a.Set(0, i, 1+float64(i%3))
	}
	s := New(state, n, []Group{linear(vars, a, []float64{500})}, 100, Plain{})
	if left := s.Settle(s.Components(s.All())[0], 50); !s.Small(left) {
		t.Fatalf("%g is left", left)
	}
	// The least change is along the row itself.
	by := (state[0] - start[0]) / a.At(0, 0)
	for i := range n {
		if math.Abs(state[i]-start[i]-by*a.At(0, i)) > 1e-6 {
			t.Errorf("unknown %d moved by %g, not %g", i, state[i]-start[i], by*a.At(0, i))
		}
	}
}

// A smallest contradicting set holds as soon as any member is left out. The sets that contradict
// are made at random, and with them every set that holds one.
func TestSmallestSets(t *testing.T) {
	rng := rand.New(rand.NewSource(8))
	for range 300 {
		n := 1 + rng.Intn(12)
		var bad [][]int
		for range 1 + rng.Intn(3) {
			bad = append(bad, rng.Perm(n)[:1+rng.Intn(n)])
		}
		holds := func(some []int) bool {
			return !slices.ContainsFunc(bad, func(set []int) bool {
				return !slices.ContainsFunc(set, func(x int) bool { return !slices.Contains(some, x) })
			})
		}
		var all []int
		for i := range n {
			all = append(all, i)
		}
		got := Smallest(all, holds)
		if holds(got) {
			t.Fatalf("%v of %v holds together", got, bad)
		}
		for i := range got {
			if !holds(slices.Delete(slices.Clone(got), i, i+1)) {
				t.Errorf("%v of %v is not smallest", got, bad)
			}
		}
	}
	if Smallest(nil, func([]int) bool { return true }) != nil {
		t.Error("nothing contradicts nothing")
	}
}
