package assembly

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solve"
)

// Limits bound the motions of a joint.
type Limits struct {
	Turn  *Limit `json:"turn,omitempty"`
	Slide *Limit `json:"slide,omitempty"`
}

// Limit is an interval by formulas; a side that is left out is open.
type Limit struct {
	Least string `json:"least,omitempty"`
	Most  string `json:"most,omitempty"`
}

// bound is one side of a limit: the coordinate times way may not be more than at times way.
type bound struct {
	coordinate
	way float64 // 1 for the most, -1 for the least
	at  float64
}

// bounds reads the limits of a joint.
func (m *Mechanism) boundsOf(p *placedJoint, table *quantity.Table) ([]bound, *Lost) {
	if p.Limits == nil {
		return nil, nil
	}
	var out []bound
	for _, x := range []struct {
		motion motion
		limit  *Limit
	}{{turning, p.Limits.Turn}, {sliding, p.Limits.Slide}} {
		if x.limit == nil {
			continue
		}
		ends := [2]float64{math.Inf(-1), math.Inf(1)}
		for side, text := range []string{x.limit.Least, x.limit.Most} {
			if text == "" {
				continue
			}
			v, err := table.Eval(text, x.motion.dim())
			if err != nil {
				return nil, &Lost{p.ID, fmt.Sprintf("a limit of the joint %s: %v", m.Document.TitleOf(p.Joint), err),
					"put this formula right"}
			}
			ends[side] = v
			out = append(out, bound{coordinate{m, p, x.motion}, float64(2*side - 1), v})
		}
		if ends[0] > ends[1] {
			return nil, &Lost{p.ID, fmt.Sprintf("the limits of the joint %s leave nothing: the least is more than the most",
				m.Document.TitleOf(p.Joint)), "put one of them right"}
		}
	}
	return out, nil
}

// over is by how much a bound is overstepped, as a length; less than nothing within it.
func (b *bound) over(state []float64) float64 { return b.way * (b.now(state) - b.at) * b.length() }

// group holds the joint at the bound.
func (b *bound) group() solve.Group {
	return b.m.sum([]term{{b.coordinate, b.length()}}, func() float64 { return b.at * b.length() })
}

// overstepped lists the bounds that the mechanism stands beyond.
func (m *Mechanism) overstepped() []*bound {
	var out []*bound
	for i := range m.bounds {
		if b := &m.bounds[i]; !m.system.Small(b.over(m.system.State)) {
			out = append(out, b)
		}
	}
	return out
}

// Stopped lists the joints that stand at a limit.
func (m *Mechanism) Stopped() []string {
	var out []string
	for i := range m.bounds {
		if b := &m.bounds[i]; math.Abs(b.over(m.system.State)) <= 1e3*solve.Tolerance*m.system.Scale {
			out = append(out, b.joint.ID)
		}
	}
	return out
}

// holding solves with the joints that are beyond their limits held at them, as long as there are any: solve is given
// the groups that hold. It tells whether all limits are kept then.
//
// It is the method of the active set: what pushes against its limit is held there. Few joints have limits, and those
// that were beyond are held to the end.
func (m *Mechanism) holding(settle func(held []solve.Group) bool) bool {
	var held []solve.Group
	if !settle(nil) {
		return false
	}
	for range len(m.bounds) {
		more := m.overstepped()
		if len(more) == 0 {
			return true
		}
		for _, b := range more {
			held = append(held, b.group())
		}
		if !settle(held) {
			return false
		}
	}
	return len(m.overstepped()) == 0
}
