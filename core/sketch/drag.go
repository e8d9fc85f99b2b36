package sketch

// Drag pulls one point of a sketch about, keeping all constraints and sizes.
type Drag struct {
	*System
	point  pointSlots
	own    component
	pulled *block
	pull   []int // the pulling equations
	goal   *Vec
	moves  int
}

// NewDrag prepares to pull a point of a solved system. A nil Drag means that
// the point cannot move at all: it is the origin or traced.
func (s *System) NewDrag(point string) *Drag {
	p, ok := s.points[point]
	if !ok || p.x.index < 0 {
		return nil
	}
	d := &Drag{System: s, point: p, goal: &Vec{}}
	*d.goal = s.at(p)
	for _, c := range s.components(s.all()) {
		for _, v := range c.vars {
			if v == p.x.index || v == p.y.index {
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

// To pulls the point towards a place, in millimetres, and reports whether the
// sketch is solved there. The geometry is always a solved state: where the pull
// cannot be followed, the last one stays.
func (d *Drag) To(at Vec) bool {
	s := d.System
	*d.goal = at
	if d.pulled == nil || d.moves != s.moves {
		n := len(s.equations)
		for axis, v := range []int{d.point.x.index, d.point.y.index} {
			goal := d.goal
			s.equations = append(s.equations, equation{constraint: -1, vars: []int{v}, count: 1, eval: func(x []jet) [2]jet {
				w := goal.X
				if axis == 1 {
					w = goal.Y
				}
				return [2]jet{x[0].shift(-w).scale(pullWeight)}
			}})
		}
		d.pull = []int{n, n + 1}
		c := component{vars: d.own.vars, equations: append(append([]int(nil), d.own.equations...), d.pull...)}
		d.pulled = s.newBlock(s.rowsOf(c), c.vars)
		d.pulled.soft, d.moves = true, s.moves
		s.equations = s.equations[:n]
	}
	keep := append([]float64(nil), s.x...)
	// The pulling equations stand behind the others only while the block is solved.
	n := len(s.equations)
	s.equations = s.equations[:n+len(d.pull)]
	s.solveBlock(d.pulled, 8)
	s.equations = s.equations[:n]
	if s.settle(d.own, 30) > tolerance*s.scale {
		copy(s.x, keep)
		return false
	}
	return true
}
