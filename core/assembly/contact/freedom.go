package contact

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/optimize/convex/lp"

	"hammerset/core/solid"
)

// Held is what contacts do to one component while those around it stand still.
type Held struct {
	Component string
	touches   []Touch // the normals point out of those around it
	axes      []solid.Vec
}

// Around gathers the contacts of a component with others that stand; nil stands for all others.
func (s *Set) Around(component string, standing func(other string) bool) *Held {
	h := &Held{Component: component}
	near := map[string]bool{component: true}
	for i := range s.Contacts {
		c := &s.Contacts[i]
		switch {
		case c.A == component && (standing == nil || standing(c.B)):
			h.touches = append(h.touches, c.Touches...)
			near[c.B] = true
		case c.B == component && (standing == nil || standing(c.A)):
			h.touches = append(h.touches, turned(slices.Clone(c.Touches))...)
			near[c.A] = true
		}
	}
	for _, b := range s.bodies {
		if near[b.ID] {
			h.axes = append(h.axes, b.axes()...)
		}
	}
	return h
}

// Touched tells whether anything is around the component.
func (h *Held) Touched() bool { return len(h.touches) > 0 }

// Freedom is the number of motions in which every contact stays: six less the rank of the wrenches of the normals.
//
// A small motion is a turn w and a shift d; a place p goes by w × p + d, and stays on what it touches where
// n·d + (p × n)·w is nothing.
func (h *Held) Freedom() int {
	if len(h.touches) == 0 {
		return 6
	}
	var middle solid.Vec
	for _, t := range h.touches {
		middle = middle.Add(t.At.Scale(1 / float64(len(h.touches))))
	}
	reach := 0.0
	for _, t := range h.touches {
		reach = math.Max(reach, t.At.Distance(middle))
	}
	a := mat.NewDense(len(h.touches), 6, nil)
	for i, t := range h.touches {
		moment := t.At.Sub(middle).Cross(t.Normal).Scale(1 / math.Max(reach, 1e-9))
		a.SetRow(i, []float64{t.Normal[0], t.Normal[1], t.Normal[2], moment[0], moment[1], moment[2]})
	}
	return 6 - rank(a)
}

// small is what counts as nothing of a wrench: the accuracy of the places, against their distances.
const small = 1e-4

func rank(a *mat.Dense) int {
	var svd mat.SVD
	if !svd.Factorize(a, mat.SVDNone) {
		return 0
	}
	n := 0
	values := svd.Values(nil)
	for _, v := range values {
		if v > small*values[0] {
			n++
		}
	}
	return n
}

// Way is a direction in which the component can be drawn straight out without going against any contact, that one which
// goes away from them most; ok is false where it is held on all sides. Where nothing is around it, there is no
// direction.
//
// A shift d is free where n·d is not less than nothing for every normal. Of directions that are seen on the parts,
// those of normals, faces and axes, the best is taken. Where none of them is free, one that is is found by a linear
// programme: the most of Σ n·d, with all n·d ≥ 0 and no part of d beyond one.
func (h *Held) Way() (way solid.Vec, ok bool) {
	if len(h.touches) == 0 {
		return solid.Vec{}, true
	}
	best := math.Inf(-1)
	for _, d := range h.seen() {
		if v := h.goes(d); v > best+small && h.Free(d) {
			way, ok, best = d, true, v
		}
	}
	if !ok {
		if d, found := h.away(); found && h.Free(d) {
			return d, true
		}
	}
	return way, ok
}

// goes is how much a direction goes away from the contacts, on the mean.
func (h *Held) goes(d solid.Vec) float64 {
	sum := 0.0
	for _, t := range h.touches {
		sum += t.Normal.Dot(d) / float64(len(h.touches))
	}
	return sum
}

// seen are the directions that are seen on the parts.
func (h *Held) seen() []solid.Vec {
	var out []solid.Vec
	for _, a := range h.axes {
		out = append(out, a, a.Scale(-1))
	}
	for _, t := range h.touches {
		if !slices.ContainsFunc(out, func(d solid.Vec) bool { return d.Distance(t.Normal) < small }) {
			out = append(out, t.Normal)
		}
	}
	return out
}

// Free tells whether a direction goes against no contact.
func (h *Held) Free(d solid.Vec) bool {
	for _, t := range h.touches {
		if t.Normal.Dot(d) < -small {
			return false
		}
	}
	return true
}

// away is the direction that goes away from all contacts most.
func (h *Held) away() (solid.Vec, bool) {
	n := len(h.touches)
	c, g, limits := make([]float64, 3), mat.NewDense(n+6, 3, nil), make([]float64, n+6)
	for i, t := range h.touches {
		for k := range 3 {
			c[k] -= t.Normal[k] / float64(n)
			g.Set(i, k, -t.Normal[k])
		}
	}
	for k := range 3 {
		g.Set(n+2*k, k, 1)
		g.Set(n+2*k+1, k, -1)
		limits[n+2*k], limits[n+2*k+1] = 1, 1
	}
	cost, a, b := lp.Convert(c, g, limits, nil, nil)
	_, x, err := lp.Simplex(cost, a, b, 1e-10, nil)
	if err != nil {
		return solid.Vec{}, false
	}
	d := solid.Vec{x[0] - x[3], x[1] - x[4], x[2] - x[5]} // each free number is the difference of two
	if d.Norm() < small {
		return solid.Vec{}, false
	}
	return d.Unit(), true
}
