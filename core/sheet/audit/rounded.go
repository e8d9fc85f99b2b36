package audit

import (
	"errors"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Rounded is a face that stands elsewhere by more than its limits in a part that has every size as it is printed: the
// rounding of several sizes adds up.
type Rounded struct {
	Face int
	By   float64  // mm
	Of   []string // the characteristics whose printed value is not that of the part
}

// leastOff is by how much a printed value must differ from that of the part to count as rounded, in mm or radians.
const leastOff = 1e-7

// leastLimit is the least limit of a face that no characteristic is measured on, in mm: that of a sheet without
// tolerances.
const leastLimit = 0.01

// rounded works out the least change of the part after which it has every size as it is printed: of all solutions of
// the rows the one of least squares, by singular values. Given are the rows of what is read, fixed those of symmetry;
// both stay as they are. Faces that then lie off by more than the widest limits of what is measured on them are told.
func (u *unknowns) rounded(ex *exercise.Exercise, list []said, given, fixed [][]float64) ([]Rounded,
	error) {
	var of []string
	var right []float64
	rows := slices.Concat(given, fixed)
	right = make([]float64, len(rows))
	limits := map[int]float64{}
	for _, s := range list {
		c := ex.Characteristic(s.id)
		off, by := u.off(ex, c, limits)
		if off {
			of = append(of, s.id)
		}
		for k, r := range s.rows {
			rows = append(rows, r)
			right = append(right, by[min(k, len(by)-1)])
		}
	}
	if len(of) == 0 {
		return nil, nil
	}
	var svd mat.SVD
	a := mat.NewDense(len(rows), u.n, nil)
	for i, r := range rows {
		a.SetRow(i, r)
	}
	if !svd.Factorize(a, mat.SVDThin) {
		return nil, errors.New("how far rounding adds up cannot be worked out: the singular values are not found")
	}
	rank, values := 0, svd.Values(nil)
	for rank < len(values) && values[rank] > independent*values[0] {
		rank++
	}
	var x mat.VecDense
	svd.SolveVecTo(&x, mat.NewVecDense(len(right), right), rank)
	var out []Rounded
	for i := range u.carriers {
		if u.carriers[i].faces == nil {
			continue
		}
		face := u.carriers[i].faces[0]
		allowed := leastLimit
		for _, f := range u.carriers[i].faces {
			allowed = math.Max(allowed, limits[f])
		}
		if by := u.moves(i, x.RawVector().Data); by > allowed+1e-6 {
			out = append(out, Rounded{Face: face, By: by, Of: of})
		}
	}
	return out, nil
}

// off tells whether the printed value of a characteristic differs from that of the part, by rounding alone, and by how
// much at each of its places. It notes the limits of the faces that a length is measured on.
func (u *unknowns) off(ex *exercise.Exercise, c *exercise.Characteristic, limits map[int]float64) (off bool,
	by []float64) {
	by = []float64{0}
	kind := c.Declared()
	if kind.Measure == nil || kind.Worded() || kind.Zero() || kind.Counts {
		return false, by
	}
	places, stated, err := check.Nominal(u.g, ex, c)
	if err != nil {
		return false, by
	}
	if minus, plus, err := ex.Limits(c, stated); err == nil && kind.Dim == quantity.Length {
		for _, p := range places {
			for _, f := range p.Faces() {
				limits[f] = math.Max(limits[f], math.Max(minus, plus))
			}
		}
	}
	by = nil
	for _, p := range places {
		v, err := inspect.Measure(u.g, c, p)
		d := stated.Value - v
		if err != nil || math.Abs(d) > stated.Half+1e-6 { // it contradicts, which is told
			d = 0
		}
		off = off || math.Abs(d) > leastOff
		for range u.single(kind, p) {
			by = append(by, d)
		}
		if kind.Bevel { // a chamfer, whose angle is not rounded
			by = append(by, 0)
		}
	}
	if len(by) == 0 || kind.Around && kind.Line == characteristic.NoLine && !u.startsAtFace(places[0]) {
		return false, []float64{0}
	}
	return off, by
}

// moves is how far a face of a carrier moves along its normal, at most, in a change of the unknowns.
func (u *unknowns) moves(c int, x []float64) float64 {
	own := &u.carriers[c]
	most := 0.0
	see := func(p solid.Vec) {
		n, by := own.normal(p), 0.0
		for k, w := range own.ways {
			by += x[own.first+k] * own.moved(w, p, n)
		}
		most = math.Max(most, math.Abs(by))
	}
	for _, f := range own.faces {
		for _, e := range u.g.Faces[f].Edges {
			for _, p := range u.g.Edges[e].Places() {
				see(p)
			}
		}
	}
	return most
}
