// Package minpack measures the solver of sketches and assemblies against MINPACK's lmder (Moré,
// Garbow and Hillstrom 1980), a general-purpose Levenberg-Marquardt solver, on
// the same residuals and derivatives. It is a module of its own, so that nothing
// else needs the library.
package minpack

/*
#cgo CFLAGS: -I/usr/include/cminpack-1
#cgo LDFLAGS: -lcminpack -lm
#include <stdlib.h>
#include <cminpack.h>
extern int hsEvaluate(void *p, int m, int n, double *x, double *fvec, double *fjac, int ldfjac, int iflag);
static int call(void *p, int m, int n, const double *x, double *fvec, double *fjac, int ldfjac, int iflag) {
  return hsEvaluate(p, m, n, (double *)x, fvec, fjac, ldfjac, iflag);
}
static int solve(void *p, int m, int n, double *x, double *fvec, double *fjac, int *ipvt, double *wa, double tol,
	int maxfev) {
  int nfev, njev;
  double *diag = wa, *qtf = wa + n, *w1 = wa + 2 * n, *w2 = wa + 3 * n, *w3 = wa + 4 * n, *w4 = wa + 5 * n;
  return lmder(call, p, m, n, x, fvec, fjac, m, tol, tol, 0, maxfev, diag, 1, 100., 0, &nfev, &njev, ipvt, qtf, w1,
  	w2, w3, w4);
}
*/
import "C"

import (
	"math"
	"runtime/cgo"
	"unsafe"
)

//export hsEvaluate
func hsEvaluate(p unsafe.Pointer, m, n C.int, x, fvec, fjac *C.double, ld, flag C.int) C.int {
	s := (*(*cgo.Handle)(p)).Value().(*problem)
	xs := unsafe.Slice((*float64)(x), int(n))
	if flag == 1 {
		res := unsafe.Slice((*float64)(fvec), int(m))
		for i := s.rows; i < int(m); i++ {
			res[i] = 0
		}
		s.Evaluate(xs, res[:s.rows], nil)
		return 0
	}
	jac := unsafe.Slice((*float64)(fjac), int(m)*int(n))
	s.Evaluate(xs, s.res, s.jac)
	for c := range int(n) {
		copy(jac[c*int(m):c*int(m)+s.rows], s.jac[c*s.rows:(c+1)*s.rows])
		for r := s.rows; r < int(m); r++ {
			jac[c*int(m)+r] = 0
		}
	}
	return 0
}

// system is what both solvers are given: residuals and, by columns, their derivatives.
type system interface {
	Unknowns() int
	Residuals() int
	Evaluate(x, res, jac []float64)
}

type problem struct {
	system
	rows     int
	res, jac []float64
}

// lmder solves the system from x, in place, and gives the largest residual.
// MINPACK wants at least as many residuals as unknowns; rows of zeros make up
// for missing ones.
func lmder(sys system, x []float64, evaluations int) float64 {
	n, rows := sys.Unknowns(), sys.Residuals()
	m := max(n, rows)
	p := &problem{system: sys, rows: rows, res: make([]float64, rows), jac: make([]float64, rows*n)}
	h := cgo.NewHandle(p)
	defer h.Delete()
	fvec, fjac := make([]float64, m), make([]float64, m*n)
	ipvt, wa := make([]C.int, n), make([]float64, 5*n+m)
	d := func(v []float64) *C.double { return (*C.double)(&v[0]) }
	C.solve(unsafe.Pointer(&h), C.int(m), C.int(n), d(x), d(fvec), d(fjac), &ipvt[0], d(wa), 1e-14, C.int(evaluations))
	sys.Evaluate(x, p.res, nil)
	worst := 0.0
	for _, r := range p.res {
		if math.IsNaN(r) {
			return math.Inf(1)
		}
		worst = math.Max(worst, math.Abs(r))
	}
	return worst
}
