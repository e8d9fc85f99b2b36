package sketch

import "math"

// Drag pulls a point or a curve of a sketch about, keeping all constraints and
// sizes.
type Drag struct {
	*System
	pulls  []pull
	own    component
	pulled *block
	pullEq []equation
	moves  int
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
	for _, c := range s.components(s.all()) {
		for _, v := range c.vars {
			if pulled[v] {
				d.own.vars = append(d.own.vars, c.vars...)
				d.own.equations = append(d.own.equations, c.equations...)
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
	if d.pulled == nil || d.moves != s.moves {
		d.pullEq = nil
		for _, p := range d.pulls {
			goal := p.goal
			d.pullEq = append(d.pullEq, equation{constraint: -1, vars: []int{p.v}, count: 1, eval: func(x []jet) [2]jet {
				return [2]jet{x[0].shift(-*goal).scale(pullWeight)}
			}})
		}
		n := len(s.equations)
		s.equations = append(s.equations, d.pullEq...)
		c := component{vars: d.own.vars, equations: append([]int(nil), d.own.equations...)}
		for i := range d.pullEq {
			c.equations = append(c.equations, n+i)
		}
		d.pulled = s.newBlock(s.rowsOf(c), c.vars)
		d.pulled.soft, d.moves = true, s.moves
		s.equations = s.equations[:n]
	}
	keep := append([]float64(nil), s.x...)
	before := s.corners()
	// The pulling equations stand behind the others only while the block is solved.
	n := len(s.equations)
	s.equations = append(s.equations, d.pullEq...)
	s.solveBlock(d.pulled, 8)
	s.equations = s.equations[:n]
	if s.settle(d.own, 30) > tolerance*s.scale || s.folded(before) && s.stretched(keep) {
		copy(s.x, keep)
		return false
	}
	return true
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
