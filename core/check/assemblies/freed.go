package assemblies

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"hammerset/core/assembly"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// What joints leave free is compared by the motions of the whole mechanism and not by their kinds: a pin may be held to
// one plate or to the other, by one joint or by two.

// freedoms are the motions of components of the reference, as a mechanism that stands for it can begin them.
type freedoms struct {
	motions []map[string]assembly.Velocity
	id      func(c int) (string, bool)                 // of a component in that mechanism
	at      func(c int) rigid.Pose                     // where the reference's part lies
	spins   func(c int) (at, along solid.Vec, ok bool) // the axis about which a round part only spins
}

// space is a linear space of motions: its base as columns, orthonormal. Turns count by the lengths that they move.
type space struct{ base *mat.Dense }

// rankLimit is which share of the largest a motion must be to count as one.
const rankLimit = 1e-5

// spaceOf is what some motions span, each a list of numbers.
func spaceOf(rows [][]float64) space {
	if len(rows) == 0 {
		return space{}
	}
	m := mat.NewDense(len(rows[0]), len(rows), nil)
	for j, r := range rows {
		m.SetCol(j, r)
	}
	var svd mat.SVD
	if !svd.Factorize(m, mat.SVDThinU) {
		return space{}
	}
	values := svd.Values(nil)
	n := 0
	for n < len(values) && values[n] > rankLimit*math.Max(values[0], 1e-12) && values[n] > 1e-9 {
		n++
	}
	if n == 0 {
		return space{}
	}
	var u mat.Dense
	svd.UTo(&u)
	return space{mat.DenseCopyOf(u.Slice(0, len(rows[0]), 0, n))}
}

func (s space) dim() int {
	if s.base == nil {
		return 0
	}
	_, n := s.base.Dims()
	return n
}

// rows are the motions of the base.
func (s space) rows() [][]float64 {
	var out [][]float64
	for j := range s.dim() {
		out = append(out, mat.Col(nil, j, s.base))
	}
	return out
}

// without is the space less what lies in another one: what is left of each motion when that is taken off.
func (s space) without(other space) space {
	var out [][]float64
	for _, v := range s.rows() {
		for range 2 {
			for _, b := range other.rows() {
				d := dot(v, b)
				for k := range v {
					v[k] -= d * b[k]
				}
			}
		}
		if norm(v) > 1e-3 {
			out = append(out, v)
		}
	}
	return spaceOf(out)
}

// in tells whether all motions of the space are in another one.
func (s space) in(other space) bool { return s.without(other).dim() == 0 }

func dot(a, b []float64) float64 {
	sum := 0.0
	for k := range a {
		sum += a[k] * b[k]
	}
	return sum
}

func norm(a []float64) float64 { return math.Sqrt(dot(a, a)) }

// relative is how component b moves against component a, seen from a's part; idle are the motions of that kind that are
// only a round part's spin about its own axis.
func (f *freedoms) relative(a, b int, reach float64) (moves, idle space) {
	ia, okA := f.id(a)
	ib, okB := f.id(b)
	if !okA || !okB {
		return space{}, space{}
	}
	at := f.at(a)
	var rows [][]float64
	for _, m := range f.motions {
		va, vb := m[ia], m[ib]
		rows = append(rows, local(assembly.Velocity{Turn: vb.Turn.Sub(va.Turn), Shift: vb.Shift.Sub(va.Shift)}, at, reach))
	}
	var spins [][]float64
	for _, c := range []int{a, b} {
		if v, ok := f.spin(c); ok {
			spins = append(spins, local(v, at, reach))
		}
	}
	return spaceOf(rows), spaceOf(spins)
}

// spin is the motion of a round part about its own axis, in space.
func (f *freedoms) spin(c int) (assembly.Velocity, bool) {
	at, along, ok := f.spins(c)
	if !ok {
		return assembly.Velocity{}, false
	}
	pose := f.at(c)
	at, along = pose.Apply(at), pose.Rotate(along)
	return assembly.Velocity{Turn: along, Shift: at.Cross(along)}, true
}

// local is a motion in the coordinates of a part, its turn times a reach.
func local(v assembly.Velocity, at rigid.Pose, reach float64) []float64 {
	back := at.Inverse()
	w, d := back.Rotate(v.Turn).Scale(reach), back.Rotate(v.At(at.Shift))
	return []float64{w[0], w[1], w[2], d[0], d[1], d[2]}
}

// all are the motions of components against a base, without idle spins.
func (f *freedoms) all(base int, list []int, reach float64) space {
	ib, _ := f.id(base)
	var rows, spins [][]float64
	for _, m := range f.motions {
		var row []float64
		for _, c := range list {
			id, _ := f.id(c)
			v, b := m[id], m[ib]
			row = append(row, local(assembly.Velocity{Turn: v.Turn.Sub(b.Turn), Shift: v.Shift.Sub(b.Shift)}, f.at(base),
				reach)...)
		}
		rows = append(rows, row)
	}
	for i, c := range list {
		v, ok := f.spin(c)
		if !ok {
			continue
		}
		row := make([]float64, 6*len(list))
		copy(row[6*i:], local(v, f.at(base), reach))
		spins = append(spins, row)
	}
	return spaceOf(rows).without(spaceOf(spins))
}

// freedomWords tells what a space of motions of one component against another is.
func freedomWords(s space) string {
	turns := 0
	if s.dim() > 0 {
		turns = spaceOf(cut(s.rows(), 0, 3)).dim()
	}
	switch slides := s.dim() - turns; {
	case s.dim() == 0:
		return "held"
	case turns == 0:
		return quantity.Count(slides, "slide", "slides")
	case slides == 0:
		return quantity.Count(turns, "turn", "turns")
	default:
		return quantity.Count(turns, "turn", "turns") + " and " + quantity.Count(slides, "slide", "slides")
	}
}

// cut is a piece of each of some lists of numbers.
func cut(rows [][]float64, from, to int) [][]float64 {
	var out [][]float64
	for _, r := range rows {
		out = append(out, append([]float64{}, r[from:to]...))
	}
	return out
}

// ofMechanism are the motions of a mechanism whose components go by the ids of the reference.
func (f *found) ofMechanism(m *assembly.Mechanism) *freedoms {
	return &freedoms{motions: m.Motions(), id: func(c int) (string, bool) { return f.component(c).ID, f.there(c) },
		at:    func(c int) rigid.Pose { return m.Pose(f.component(c).ID) },
		spins: f.spins}
}

// ofAttempt are the motions that the attempt's own joints leave.
func (f *found) ofAttempt() *freedoms {
	at := func(c int) rigid.Pose {
		n := f.of[c]
		own := f.way[c].Pose.Then(f.att.poses[n].Inverse()) // where the reference's part lies in the attempt's
		return own.Then(f.att.mech.Pose(f.att.doc.Components[n].ID))
	}
	return &freedoms{motions: f.att.mech.Motions(),
		id: func(c int) (string, bool) {
			if !f.there(c) {
				return "", false
			}
			return f.att.doc.Components[f.of[c]].ID, true
		},
		at: at, spins: f.spins}
}

// spins is the axis of a component that is round, in the coordinates of its part.
func (f *found) spins(c int) (at, along solid.Vec, ok bool) {
	if s := f.parts[c].Shape.Symmetry; s != nil && s.Axis != nil {
		return *s.At, *s.Axis, true
	}
	return at, along, false
}
