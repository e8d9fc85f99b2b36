package sketch

// Solution is a sketch after solving.
type Solution struct {
	Solved    bool
	Residual  float64         // largest residual left, mm
	Freedom   int             // degrees of freedom left
	Loose     []Loose         // what can still move
	Spare     []string        // constraints that add nothing
	Conflicts [][]string      // smallest sets that contradict themselves
	Points    map[string]Vec  // by id, with the origin
	Curves    []Curve         // in document order
	Sizes     map[string]bool // ids of the constraints that carry a value
}

// Held reports whether nothing can move.
func (s *Solution) Held() bool { return s.Solved && s.Freedom == 0 }

// Solve moves the geometry to satisfy all constraints and sizes. Contradicting
// constraints do not make an error: the solution then has Solved false and
// names the smallest conflicting sets.
func Solve(s *Sketch, unit float64, values Values) (*Solution, error) {
	sys, err := Compile(s, unit, values)
	if err != nil {
		return nil, err
	}
	start := append([]float64(nil), sys.x...)
	failed, worst := sys.solve(sys.all())
	out := sys.solution()
	out.Residual, out.Solved = worst, len(failed) == 0
	if out.Solved {
		out.Freedom, out.Loose = sys.freedom()
		out.Spare = sys.spare()
	} else {
		for _, c := range failed {
			out.Conflicts = append(out.Conflicts, sys.conflict(c, start))
		}
	}
	return out, nil
}

// Geometry solves without analysing freedom and conflicts: for rebuilding.
func Geometry(s *Sketch, unit float64, values Values) (*Solution, error) {
	sys, err := Compile(s, unit, values)
	if err != nil {
		return nil, err
	}
	start := append([]float64(nil), sys.x...)
	failed, worst := sys.solve(sys.all())
	out := sys.solution()
	out.Residual, out.Solved = worst, len(failed) == 0
	for _, c := range failed {
		out.Conflicts = append(out.Conflicts, sys.conflict(c, start))
	}
	return out, nil
}

func (s *System) solution() *Solution {
	out := &Solution{Points: map[string]Vec{Origin: {}}, Sizes: map[string]bool{}}
	for _, e := range s.sketch.Entities {
		if e.Kind == KindPoint {
			out.Points[e.ID] = s.at(s.points[e.ID])
		}
	}
	for _, id := range s.order {
		k := s.curves[id]
		e := s.sketch.Entities[k.entity]
		c := Curve{ID: id, Kind: k.kind, Guide: e.Guide}
		switch k.kind {
		case KindLine:
			c.A, c.B = s.at(k.a), s.at(k.b)
		case KindCircle:
			c.Center, c.Radius = s.at(k.c), s.val(k.r)
		case KindArc:
			c.A, c.B, c.Center = s.at(k.a), s.at(k.b), s.at(k.c)
			c.Radius = c.A.distance(c.Center)
		}
		out.Curves = append(out.Curves, c)
	}
	for _, k := range s.sketch.Constraints {
		if _, ok := Sizes[k.Kind]; ok {
			out.Sizes[k.ID] = true
		}
	}
	return out
}
