package assembly

import (
	"math"

	"gonum.org/v1/gonum/floats"

	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// AsItStands is a joint, which need not be one of the mechanism, with the sense, the offset and the angle with which it
// holds its two components where they are now. ok is false where it cannot be made.
func (m *Mechanism) AsItStands(j Joint) (out Joint, ok bool) {
	table, err := m.Document.Table(nil)
	if err != nil {
		return j, false
	}
	p, lost := m.placed(&j, table, m.moves.Reach)
	if p == nil || lost != nil {
		return j, false
	}
	a, b := m.frames(p)
	if p.aligns() {
		if j.Sense = Same; a.Z.Dot(b.Z) < 0 {
			j.Sense = Opposed
		}
	}
	var da, db solid.Frame
	along, turn := between(&a, &b, b.Z, &da, &db, &db.Z), turned(1, &a, &b, &da, &db)
	if p.lead != 0 {
		along -= p.lead / (2 * math.Pi) * turn // what it has gone by turning is no offset
	}
	sizes := map[string]quantity.Quantity{"offset": {Value: along, Dim: quantity.Length},
		"angle": {Value: turn, Dim: quantity.Angle}}
	for name, q := range sizes {
		if p.kind.has(name) && math.Abs(q.Value) > almostNothing {
			j.SetSize(name, q.Formula())
		}
	}
	return j, true
}

// almostNothing is a size, in mm or radians, that need not be written.
const almostNothing = 1e-9

// Taken counts how many freedoms each of some joints, which need not be in the mechanism, takes away where it stands,
// beyond the joints of the mechanism and those before it: 0 of one that repeats what they hold.
//
// A condition is a row: the slope of its residual by the small motions of all bodies. A joint takes as many freedoms as
// it has rows that are not combinations of those before them.
func (m *Mechanism) Taken(joints []Joint) []int {
	h := &held{m: m}
	for i, p := range m.joints {
		if p != nil && !m.merged[i] {
			h.take(p)
		}
	}
	out := make([]int, len(joints))
	table, err := m.Document.Table(nil)
	if err != nil {
		return out
	}
	for i := range joints {
		if p, lost := m.placed(&joints[i], table, m.moves.Reach); p != nil && lost == nil {
			out[i] = h.take(p)
		}
	}
	return out
}

// held is an orthonormal base of the rows of all conditions so far.
type held struct {
	m    *Mechanism
	base [][]float64
}

// newRow is how much of a row must be left, as a share of it, for it not to follow from those before it.
const newRow = 1e-6

// take takes the conditions of a joint in, and counts those that are new.
func (h *held) take(p *placedJoint) int {
	n := 0
	for _, row := range h.m.rows(p) {
		whole := floats.Norm(row, 2)
		for range 2 { // once more for what rounding leaves
			for _, b := range h.base {
				floats.AddScaled(row, -floats.Dot(b, row), b)
			}
		}
		if left := floats.Norm(row, 2); left > newRow*whole {
			floats.Scale(1/left, row)
			h.base, n = append(h.base, row), n+1
		}
	}
	return n
}

// rows are the slopes of the conditions of a joint by the small motions of all bodies, where they stand.
func (m *Mechanism) rows(p *placedJoint) [][]float64 {
	ba, fa := m.frame(p.A.Component, p.a)
	bb, fb := m.frame(p.B.Component, p.b)
	pa, pb := m.pose(m.system.State, ba).Transform(), m.pose(m.system.State, bb).Transform()
	a, b := pa.Place(&fa), pb.Place(&fb)
	var out [][]float64
	for _, c := range p.kind.conditions(p) {
		var da, db solid.Frame
		c.of(&a, &b, &da, &db)
		row := make([]float64, rigid.Unknowns*len(m.bodies))
		if ba >= 0 {
			slope(row[rigid.Unknowns*ba:], &pa, &fa, &da, m.moves.Reach)
		}
		if bb >= 0 {
			slope(row[rigid.Unknowns*bb:], &pb, &fb, &db, m.moves.Reach)
		}
		out = append(out, row)
	}
	return out
}
