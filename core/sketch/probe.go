package sketch

import (
	"math"

	"hammerset/core/solve"
)

// The motions that a solved sketch still has are the null space of its matrix. A
// further constraint takes a freedom exactly if its gradient, projected into
// that space, is not zero; what several take together is found by the
// Gram-Schmidt process. Asking costs a projection, where solving again for each
// would take a second for a long list.

// Probe asks of further constraints whether they would hold already and whether
// they would take freedoms away, without solving again. Constraints that are
// taken count for those asked later, so that a list of constraints taken one
// after the other is independent.
type Probe struct {
	c     *compiler
	parts []*solve.Motions
	part  []int       // of each unknown the place in parts, -1 where it is held
	extra [][]float64 // orthonormal motions that were taken away, over all unknowns
}

// Probe prepares for probing a solved sketch; nil when it is not solved or not
// analysed.
func (s *Solution) Probe() *Probe {
	if !s.Solved || s.free == nil {
		return nil
	}
	sys := s.system
	p := &Probe{c: &compiler{System: *sys}, parts: s.free.parts, part: make([]int, len(sys.x))}
	p.c.sketch = &Sketch{Entities: sys.sketch.Entities, Constraints: append([]Constraint(nil), sys.sketch.Constraints...)}
	for i := range p.part {
		p.part[i] = -1
	}
	for i, m := range p.parts {
		for _, v := range m.Vars {
			p.part[v] = i
		}
	}
	return p
}

// Gain is what a constraint would do: Off is how far its residuals are from zero
// (mm), Rows how many it has, and Takes how many freedoms it would take away.
//
// A constraint that takes fewer freedoms than it has rows follows from others in
// part.
type Gain struct {
	Off         float64
	Rows, Takes int
	new         [][]float64
}

// Ask looks at a constraint without a value. ok is false when it cannot be put on
// its operands or when it needs unknowns of its own.
//
// The constraint is compiled on the solved sketch and its derivatives are
// evaluated there; afterwards the system is cut back to what it was.
func (p *Probe) Ask(k Constraint) (g Gain, ok bool) {
	c := p.c
	n, before, hidden := len(c.sketch.Constraints), len(c.equations), len(c.x)
	c.sketch.Constraints = append(c.sketch.Constraints, k)
	defer func() {
		c.sketch.Constraints, c.equations, c.x, c.owner, c.roles = c.sketch.Constraints[:n], c.equations[:before],
			c.x[:hidden], c.owner[:hidden], c.roles[:hidden]
	}()
	if k.Kind == "coincident" { // compiled, it would share unknowns
		if len(k.Of) != 2 {
			return g, false
		}
		a, okA := c.points[k.Of[0]]
		b, okB := c.points[k.Of[1]]
		if !okA || !okB || a == b {
			return g, false
		}
		if c.equation(n).same(a, b) != nil {
			return g, false
		}
	} else if c.condition(n) != nil {
		return g, false
	}
	if len(c.x) > hidden {
		return g, false
	}
	var local [jetSize]jet
	for _, eq := range c.equations[before:] {
		for i, v := range eq.vars {
			local[i] = jet{v: c.x[v]}
			local[i].d[i] = 1
		}
		r := eq.eval(local[:len(eq.vars)])
		for j := range eq.count {
			g.Rows++
			g.Off = math.Max(g.Off, math.Abs(r[j].v))
			grad := make([]float64, hidden)
			size := 0.0
			for i, v := range eq.vars {
				grad[v] += r[j].d[i]
				size = math.Hypot(size, r[j].d[i])
			}
			left := p.project(grad, g.new)
			if l := length(left); l > 1e-6*size && size > 0 {
				for i := range left {
					left[i] /= l
				}
				g.new = append(g.new, left)
				g.Takes++
			}
		}
	}
	return g, g.Rows > 0
}

// Take counts a constraint that was asked about as given.
func (p *Probe) Take(g Gain) { p.extra = append(p.extra, g.new...) }

// project is the part of a gradient along motions that are left.
//
// The orthogonalisation is done twice: once leaves errors as large as the parts
// that cancel (twice is enough; Giraud and others, 2005).
func (p *Probe) project(grad []float64, also [][]float64) []float64 {
	out := make([]float64, len(grad))
	done := map[int]bool{}
	for v, d := range grad {
		k := p.part[v]
		if d == 0 || k < 0 || done[k] {
			continue
		}
		done[k] = true
		m := p.parts[k]
		in := make([]float64, len(m.Vars))
		for i, u := range m.Vars {
			in[i] = grad[u]
		}
		for i, w := range m.Project(in) {
			out[m.Vars[i]] = w
		}
	}
	for range 2 {
		for _, list := range [][][]float64{p.extra, also} {
			for _, q := range list {
				d := 0.0
				for i := range out {
					d += out[i] * q[i]
				}
				if d == 0 {
					continue
				}
				for i := range out {
					out[i] -= d * q[i]
				}
			}
		}
	}
	return out
}

// length of a displacement.
func length(v []float64) float64 {
	t := 0.0
	for _, x := range v {
		t += x * x
	}
	return math.Sqrt(t)
}
