package sketch

import (
	"math"
	"strconv"

	"hammerset/core/quantity"
	"hammerset/core/solve"
)

// Solution is a sketch after solving.
type Solution struct {
	Solved        bool
	Residual      float64 // largest residual left, mm
	Reached       float64 // how far the sizes got from their old values to the new; 1 is all the way
	Folded        bool    // a corner has turned over on the way
	Freedom       int     // degrees of freedom left
	Infinitesimal int     // directions that only start to give, in this pose
	Loose         []Loose // what can still move
	Spare         []Redundancy
	Conflicts     []Conflict
	Points        map[string]Vec     // by id, with the origin
	Curves        []Curve            // in document order
	Measures      map[string]float64 // by the id of every size, driven ones too: millimetres or radians
	system        *System
	free          *Freedom
	failed        []solve.Component // what could not be solved, from start
	start         []float64
}

// Held reports whether nothing can move.
func (s *Solution) Held() bool { return s.Solved && s.Freedom == 0 }

// System is the solved system, for dragging on.
func (s *Solution) System() *System { return s.system }

// Motion is Freedom.Motion of a solved sketch.
func (s *Solution) Motion(entity string, steps int, amplitude float64) [][]Curve {
	if s.free == nil {
		return nil
	}
	return s.free.Motion(entity, steps, amplitude)
}

// Solve moves the geometry to satisfy all constraints and sizes. Contradicting
// constraints do not make an error: the solution then has Solved false and
// names the smallest conflicting sets.
//
// Solving moves as little as it can: from where things were drawn, by steps of
// least change. A person who has drawn something roughly finds it where it was.
func Solve(s *Sketch, unit float64, values Values) (*Solution, error) {
	out, err := Place(s, unit, values)
	if err == nil {
		out.Analyse()
	}
	return out, err
}

// Geometry solves without analysing freedom: for rebuilding.
func Geometry(s *Sketch, unit float64, values Values) (*Solution, error) {
	out, err := Place(s, unit, values)
	if err == nil && !out.Solved {
		out.explain()
	}
	return out, err
}

// Place solves and does not say what contradicts where it cannot: for a first
// picture, while Analyse finds out the rest.
//
// Components are independent, so that one that cannot be solved does not keep
// the others from it.
func Place(s *Sketch, unit float64, values Values) (*Solution, error) {
	sys, err := Compile(s, unit, values)
	if err != nil {
		return nil, err
	}
	start := append([]float64(nil), sys.x...)
	outcomes := sys.bring(sys.solver.All())
	reached, folded, worst := 1.0, false, 0.0
	var failed []solve.Component
	for _, o := range outcomes {
		worst = math.Max(worst, o.residual)
		folded = folded || o.folded
		if !sys.solver.Small(o.residual) {
			failed = append(failed, o.Component)
			reached = math.Min(reached, o.reached)
		}
	}
	out := sys.Solution()
	out.Residual, out.Solved, out.Reached, out.Folded = worst, len(failed) == 0, reached, folded
	out.failed, out.start = failed, start
	return out, nil
}

// explain finds the smallest sets that contradict each other.
func (s *Solution) explain() {
	for _, c := range s.failed {
		if k := s.system.conflict(c, s.start); len(k.Set) > 0 {
			s.Conflicts = append(s.Conflicts, k)
		}
	}
	s.failed = nil
}

// Analyse fills in what contradicts, or what can move and what is spare.
//
// A contradiction has no freedom to count: the rank is that of a place where
// nothing holds.
func (s *Solution) Analyse() {
	if !s.Solved {
		s.explain()
		return
	}
	s.free = s.system.freedom()
	s.Freedom, s.Infinitesimal, s.Loose = s.free.Count, s.free.Infinitesimal, s.free.Loose
	s.Spare = s.system.redundant()
}

// Nearby solves for a small change of sizes, straight from the geometry as it is
// drawn. It neither leads sizes nor explains a failure: Solved tells whether it
// got there without folding the shape over.
//
// It is for following a path in small steps, where a failure is no news and
// finding out why would cost more than all steps together.
func Nearby(s *Sketch, unit float64, values Values) (*Solution, error) {
	sys, err := Compile(s, unit, values)
	if err != nil {
		return nil, err
	}
	before := sys.corners()
	worst := 0.0
	for _, c := range sys.solver.Components(sys.solver.All()) {
		sys.targets(c, 1)
		worst = math.Max(worst, sys.solver.Settle(c, 60))
		if !sys.solver.Small(worst) {
			break
		}
	}
	out := sys.Solution()
	out.Residual, out.Folded = worst, sys.folded(before)
	out.Solved = sys.solver.Small(worst) && !out.Folded
	return out, nil
}

// Solution is the geometry of the system as it stands.
func (s *System) Solution() *Solution {
	out := &Solution{Solved: true, Reached: 1, Points: map[string]Vec{Origin: {}}, Curves: s.curvesNow(),
		Measures: map[string]float64{}, system: s}
	for _, e := range s.sketch.Entities {
		if e.Kind == KindPoint {
			out.Points[e.ID] = s.at(s.points[e.ID])
		}
	}
	for _, g := range s.gauges {
		local := make([]jet, len(g.vars))
		for i, v := range g.vars {
			local[i].v = s.x[v]
		}
		v := math.Abs(g.measure(local).v)
		if g.double {
			v *= 2
		}
		out.Measures[s.sketch.Constraints[g.constraint].ID] = v
	}
	return out
}

// curvesNow are all curves as the unknowns stand.
func (s *System) curvesNow() []Curve {
	out := make([]Curve, 0, len(s.order))
	for _, id := range s.order {
		out = append(out, s.curveOf(id))
	}
	return out
}

// Store writes the geometry as it stands into a sketch with the same entities,
// in the document's unit.
func (s *System) Store(into *Sketch) {
	for i := range into.Entities {
		e := &into.Entities[i]
		switch e.Kind {
		case KindPoint:
			if p, ok := s.points[e.ID]; ok {
				v := s.at(p).Scale(1 / s.unit)
				e.At = &[2]float64{tidy(v.X), tidy(v.Y)}
			}
		case KindCircle:
			if k, ok := s.curves[e.ID]; ok {
				e.Radius = tidy(s.val(k.r) / s.unit)
			}
		}
	}
}

// tidy rounds away what solving leaves behind the twelfth significant place, so
// that a document solved again stays as it is.
//
// Twelve places are what is left of double precision after a few hundred
// operations; writing more would change every document at every save.
func tidy(v float64) float64 {
	if math.Abs(v) < 1e-10 {
		return 0
	}
	out, err := strconv.ParseFloat(strconv.FormatFloat(v, 'g', 12, 64), 64)
	if err != nil {
		return v // not finite: cannot be written at all
	}
	return out
}

// Unknowns is the number of unknowns, Residuals that of residuals.
func (s *System) Unknowns() int { return len(s.x) }

// Residuals counts the residuals of the whole system.
func (s *System) Residuals() int { return len(s.solver.Rows(s.solver.All())) }

// Place copies the unknowns as they stand into x.
func (s *System) Place(x []float64) { copy(x, s.x) }

// Scale is a typical length of the sketch, in millimetres.
func (s *System) Scale() float64 { return s.scale }

// Evaluate gives the residuals at x and, unless jac is nil, their derivatives by
// columns: jac[r+c*Residuals()]. It lets other solvers work on the same system.
func (s *System) Evaluate(x, res, jac []float64) { s.solver.Evaluate(x, res, jac) }

// SolveFrom solves from other starting values of the unknowns, for measuring
// robustness, and reports whether it got there.
//
// It makes no use of what was drawn, so that it measures the equations and not
// the start.
func (s *System) SolveFrom(x []float64) bool {
	copy(s.x, x)
	for _, c := range s.solver.Components(s.solver.All()) {
		s.targets(c, 1)
		if !s.solver.Small(s.solver.Settle(c, 200)) {
			return false
		}
	}
	return true
}

// formulaNames are the parameters that a formula uses.
func formulaNames(formula string) ([]string, error) {
	f, err := quantity.Parse(formula)
	if err != nil {
		return nil, err
	}
	return f.Names(), nil
}
