package sketch

import (
	"math"

	"hammerset/core/solve"
)

// Drag pulls a point or a curve of a sketch about, keeping all constraints and
// sizes.
type Drag struct {
	*System
	pulls  []pull
	own    solve.Component
	pulled *solve.Block
	made   int // changes of the solver's groups when pulled was made
}

// pull draws one unknown to a goal.
type pull struct {
	v     int
	start float64
	axis  int // 0 along x, 1 along y, 2 the radius about centre
	goal  *float64
}

// NewDrag prepares to pull an entity of a solved system: a point, a line or
// spline with all its points, a circle by its radius, an arc or ellipse as it
// is. It is nil when nothing of it can move: it is the origin, or traced.
func (s *System) NewDrag(id string) *Drag {
	d := &Drag{System: s}
	point := func(p pointSlots) {
		for axis, k := range []slot{p.x, p.y} {
			if k.index >= 0 {
				d.pulls = append(d.pulls, pull{v: k.index, start: s.x[k.index], axis: axis, goal: new(float64)})
			}
		}
	}
	if p, ok := s.points[id]; ok {
		point(p)
	} else if k, ok := s.curves[id]; ok && k.entity >= 0 {
		if k.kind == KindCircle && k.r.index >= 0 {
			d.pulls = append(d.pulls, pull{v: k.r.index, start: s.x[k.r.index], axis: 2, goal: new(float64)})
		} else {
			seen := map[pointSlots]bool{}
			e := s.sketch.Entities[k.entity]
			for _, r := range e.Refs() {
				if p := s.points[r]; !seen[p] {
					seen[p] = true
					point(p)
				}
			}
		}
	}
	if len(d.pulls) == 0 {
		return nil
	}
	pulled := map[int]bool{}
	for _, p := range d.pulls {
		pulled[p.v] = true
	}
	for _, c := range s.solver.Components(s.solver.All()) {
		for _, v := range c.Vars {
			if pulled[v] {
				d.own.Vars = append(d.own.Vars, c.Vars...)
				d.own.Groups = append(d.own.Groups, c.Groups...)
				break
			}
		}
	}
	return d
}

// pullWeight is how much a pull counts beside the constraints: enough to lead,
// too little to bend them.
const pullWeight = 0.02

// To pulls what is held, which was taken at from, towards a place (millimetres),
// and reports whether the sketch is solved there. A point goes to the place
// itself. The geometry is always a solved state: where the pull cannot be
// followed, the last one stays.
func (d *Drag) To(from, at Vec) bool {
	s := d.System
	for _, p := range d.pulls {
		switch p.axis {
		case 0:
			*p.goal = p.start + at.X - from.X
		case 1:
			*p.goal = p.start + at.Y - from.Y
		default:
			c := s.at(s.curves[s.sketch.Entities[s.owner[p.v]].ID].c)
			*p.goal = math.Max(at.Distance(c), 1e-3*s.scale)
		}
	}
	if d.pulled == nil || d.made != s.solver.Changes {
		d.pulled, d.made = d.block(), s.solver.Changes
	}
	keep := append([]float64(nil), s.x...)
	before := s.corners()
	s.solver.SolveBlock(d.pulled, 8)
	if !s.solver.Small(s.solver.Settle(d.own, 30)) || s.folded(before) && s.stretched(keep) {
		copy(s.x, keep)
		return false
	}
	return true
}

// block is what is pulled with all that holds it. The pulls stand among the solver's groups only
// while it is made.
func (d *Drag) block() *solve.Block {
	s := d.solver
	n := len(s.Groups)
	all := append([]int(nil), d.own.Groups...)
	for i, p := range d.pulls {
		goal := p.goal
		pull := equation{vars: []int{p.v}, count: 1, eval: func(x []jet) [2]jet {
			return [2]jet{x[0].shift(-*goal).scale(pullWeight)}
		}}
		s.Groups = append(s.Groups, d.group(&pull))
		all = append(all, n+i)
	}
	b := s.NewBlock(s.Rows(all), d.own.Vars)
	b.Soft = true
	s.Groups = s.Groups[:n]
	return b
}

// stretched tells whether the geometry jumped by more than a drag of one frame
// can: half the size of the sketch.
func (s *System) stretched(before []float64) bool {
	for i, v := range s.x {
		if math.Abs(v-before[i]) > 0.5*s.scale {
			return true
		}
	}
	return false
}
