package sketch

import (
	"fmt"
	"math"
	"math/rand"
	"slices"
	"sort"

	"hammerset/core/solve"
)

// Loose is an entity that can still move, with the directions in which its
// point can go (unit vectors), or Radius set when it is its radius that is free.
type Loose struct {
	Entity     string
	Directions []Vec
	Radius     bool
}

// Redundancy is a smallest set of constraints of which one adds nothing: Drop is
// the one that is best left out, With the others, from which it follows.
type Redundancy struct {
	Drop string
	With []string
}

// Conflict is a smallest set of constraints that contradict one another. Drop
// is the one that is best left out.
type Conflict struct {
	Set  []string
	Drop string
}

// Freedom is what can still move.
type Freedom struct {
	Count         int // finite degrees of freedom
	Infinitesimal int // directions that start to give and then hold, in this pose only
	Loose         []Loose
	parts         []*solve.Motions // of the components that can move
	system        *System
}

// freedom counts the degrees of freedom and finds what is loose. A direction
// that the constraints allow to first order is a freedom only when it can be
// followed: where the rank is the same at nearby generic places it can (the
// constant-rank theorem); elsewhere every direction is tried by a small step
// and by solving back.
func (s *System) freedom() *Freedom {
	f := &Freedom{system: s}
	witness := s.witness()
	for _, c := range s.solver.Components(s.solver.All()) {
		if len(c.Vars) == 0 {
			continue
		}
		m := s.solver.Remaining(c, s.x)
		if m.Freedom() == 0 {
			continue
		}
		if s.solver.Remaining(c, witness).Freedom() < m.Freedom() {
			full := s.solver.MotionsOf(c, s.x)
			finite := s.solver.Finite(c, full)
			f.Infinitesimal += m.Freedom() - len(finite)
			if len(finite) == 0 {
				continue
			}
			m = full.Only(finite)
		}
		f.Count += m.Freedom()
		f.parts = append(f.parts, m)
		f.Loose = append(f.Loose, s.loose(m)...)
	}
	f.merge()
	return f
}

// merge joins what different components say of one entity: a point may be free
// along x in one and along y in another.
func (f *Freedom) merge() {
	at := map[string]int{}
	var out []Loose
	for _, l := range f.Loose {
		i, ok := at[l.Entity]
		if !ok {
			at[l.Entity] = len(out)
			out = append(out, l)
			continue
		}
		out[i].Directions = []Vec{{1, 0}, {0, 1}}
	}
	sort.SliceStable(out, func(i, j int) bool {
		return f.system.entityIndex(out[i].Entity) < f.system.entityIndex(out[j].Entity)
	})
	f.Loose = out
}

// entityIndex is the place of an entity in the sketch; -1 where it is not there.
func (s *System) entityIndex(id string) int {
	return slices.IndexFunc(s.sketch.Entities, func(e Entity) bool { return e.ID == id })
}

// loose finds the entities that take part in the motions. The share of a point
// in them is the projection of its two unit moves onto the motions: a matrix
// whose eigenvectors are the directions in which it can go.
func (s *System) loose(m *solve.Motions) []Loose {
	var out []Loose
	share := m.Share
	const clear = 1e-7
	for i, v := range m.Vars {
		owner := s.owner[v]
		if owner < 0 {
			continue
		}
		switch s.roles[v] {
		case roleRadius:
			if share(i, i) > clear {
				out = append(out, Loose{Entity: s.sketch.Entities[owner].ID, Radius: true})
			}
		case roleX:
			j, ok := m.Place(v + 1) // y follows x
			if !ok {
				if share(i, i) > clear {
					out = append(out, Loose{Entity: s.sketch.Entities[owner].ID, Directions: []Vec{{1, 0}}})
				}
				continue
			}
			xx, yy, xy := share(i, i), share(j, j), share(i, j)
			if xx+yy <= clear {
				continue
			}
			mean, radius := (xx+yy)/2, math.Hypot((xx-yy)/2, xy)
			t := math.Atan2(2*xy, xx-yy) / 2
			dirs := []Vec{{math.Cos(t), math.Sin(t)}}
			if mean-radius > clear && mean-radius > 1e-6*(mean+radius) {
				dirs = []Vec{{1, 0}, {0, 1}}
			}
			out = append(out, Loose{Entity: s.sketch.Entities[owner].ID, Directions: dirs})
		case roleY:
			if _, ok := m.Place(v - 1); !ok && share(i, i) > clear {
				out = append(out, Loose{Entity: s.sketch.Entities[owner].ID, Directions: []Vec{{0, 1}}})
			}
		}
	}
	return out
}

// witness is a generic place near the solution: the points are moved by a
// hundredth of the sketch at random, and solved for all constraints without a
// value. Sizes take whatever value they have there.
//
// A rank that is counted in a special pose can be too low: three lines through
// one point, or a four-bar stretched out, have dependent rows there and nowhere
// else. By the genericity of rigid frameworks (Asimow and Roth, The rigidity of
// graphs, 1978) almost every pose has the largest rank, so that a random place
// nearby serves. It has to be a pose that the constraints allow, so it is solved
// for them; sizes take the values that they have there, which is what sizes are
// for. The random numbers are the same every time, because a sketch must not be
// loose today and held tomorrow.
func (s *System) witness() []float64 {
	rng := rand.New(rand.NewSource(1))
	keep := append([]float64(nil), s.x...)
	defer copy(s.x, keep)
	for i := range s.x {
		s.x[i] += 0.01 * s.scale * (rng.Float64() - 0.5)
	}
	var plain []int
	for e := range s.equations {
		if !s.equations[e].size {
			plain = append(plain, e)
		}
	}
	for _, c := range s.solver.Components(plain) {
		if len(c.Groups) > 0 && s.solver.Settle(c, 60) > 1e-7*s.scale {
			for _, v := range c.Vars { // no generic place: the solution itself must do
				s.x[v] = keep[v]
			}
		}
	}
	return append([]float64(nil), s.x...)
}

// redundant finds constraints that add nothing at generic places: a row that
// depends on others, with the smallest set that it follows from. Only a
// constraint all of whose rows are dependent is spare.
//
// A spare row is a combination of other rows; the set is the support of that
// combination. It is judged at the witness: in the pose itself a constraint can
// look spare by accident.
func (s *System) redundant() []Redundancy {
	var out []Redundancy
	for _, cycle := range s.joined {
		out = append(out, s.suggest(cycle[len(cycle)-1], cycle[:len(cycle)-1]))
	}
	x := s.witness()
	for _, c := range s.solver.Components(s.solver.All()) {
		if len(c.Groups) == 0 || s.solver.Independent(c, x) {
			continue
		}
		m := s.solver.MotionsOf(c, x)
		dependent, total := map[int]int{}, map[int]int{}
		with := map[int]map[string]bool{}
		for e := range c.Groups {
			if k := s.equations[c.Groups[e]].constraint; k >= 0 {
				total[k] += s.equations[c.Groups[e]].count
			}
		}
		for _, d := range m.Dependent {
			k := s.equations[d.Row.Group].constraint
			if k < 0 {
				continue
			}
			dependent[k]++
			if with[k] == nil {
				with[k] = map[string]bool{}
			}
			for _, r := range d.With {
				if j := s.equations[r.Group].constraint; j >= 0 && j != k {
					with[k][s.sketch.Constraints[j].ID] = true
				}
			}
		}
		for k, n := range dependent {
			if n == total[k] {
				out = append(out, s.suggest(s.sketch.Constraints[k].ID, sortedKeys(with[k])))
			}
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Drop < out[j].Drop })
	return out
}

// sortedKeys lists a set in a settled order, so that the same sketch always
// gives the same words.
func sortedKeys(m map[string]bool) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// suggest names the constraint of a dependent set that is best left out. A set
// found from a dependent row is a circuit: any of its members with a single row
// could go. A plain number goes before a formula, a size before a constraint
// that carries intent, a later one before an earlier.
//
// What a person loses least by is offered: a number can be typed again, a
// formula was meant, and a constraint says what the part is about.
func (s *System) suggest(last string, others []string) Redundancy {
	set := append(append([]string(nil), others...), last)
	drop := s.cheapest(set, last)
	if drop != last && s.rowsOfConstraint(drop) != 1 {
		drop = last
	}
	r := Redundancy{Drop: drop}
	for _, id := range set {
		if id != drop {
			r.With = append(r.With, id)
		}
	}
	return r
}

// rowsOfConstraint is how many residuals a constraint has: the number of
// freedoms it takes where it is independent of the others.
func (s *System) rowsOfConstraint(id string) int {
	n := 0
	for _, e := range s.equations {
		if e.constraint >= 0 && s.sketch.Constraints[e.constraint].ID == id {
			n += e.count
		}
	}
	return n
}

// cheapest is the member of a set whose loss costs least; last wins among equals.
func (s *System) cheapest(set []string, last string) string {
	cost := func(id string) int {
		k := s.sketch.Constraint(id)
		switch _, size := Sizes[k.Kind]; {
		case size && plainNumber(k.Value):
			return 0
		case k.Kind == "coincident" || k.Kind == "fixed":
			return 3
		case size:
			return 1
		}
		return 2
	}
	best := last
	for _, id := range set {
		a, b := cost(id), cost(best)
		if a < b || (a == b && best != last && s.constraintIndex(id) > s.constraintIndex(best)) {
			best = id
		}
	}
	return best
}

// constraintIndex is the place of a constraint in the sketch; -1 where it is not
// there.
func (s *System) constraintIndex(id string) int {
	return slices.IndexFunc(s.sketch.Constraints, func(k Constraint) bool { return k.ID == id })
}

// plainNumber tells whether a formula names no parameter.
func plainNumber(formula string) bool {
	names, err := formulaNames(formula)
	return err == nil && len(names) == 0
}

// conflict reduces the equations of an unsolvable component to a smallest set
// that still contradicts itself.
//
// Deleting one constraint after the other and keeping those without which the
// rest can be solved leaves a set that is smallest in the sense that none of its
// members can be missed (there may be another with fewer). It costs a solution
// for each constraint of the component, so the part with more residuals than
// unknowns is tried first, by the Dulmage-Mendelsohn order: most contradictions
// are there. Conditions that entities have of themselves are never given up: an
// arc that is no arc is not what anybody wants.
func (s *System) conflict(c solve.Component, start []float64) Conflict {
	keep := append([]float64(nil), s.x...)
	defer copy(s.x, keep)
	var fixed []int // the conditions of entities themselves always hold
	byConstraint := map[int][]int{}
	var order []int
	for _, e := range c.Groups {
		k := s.equations[e].constraint
		if k < 0 {
			fixed = append(fixed, e)
			continue
		}
		if byConstraint[k] == nil {
			order = append(order, k)
		}
		byConstraint[k] = append(byConstraint[k], e)
	}
	solvable := func(ks []int) bool {
		copy(s.x, start)
		var eqs []int
		touched := map[int]bool{}
		for _, k := range ks {
			eqs = append(eqs, byConstraint[k]...)
			for _, e := range byConstraint[k] {
				for _, v := range s.equations[e].vars {
					touched[v] = true
				}
			}
		}
		// Of the entities' own conditions, those that these have to do with.
		for _, e := range fixed {
			if slices.ContainsFunc(s.equations[e].vars, func(v int) bool { return touched[v] }) {
				eqs = append(eqs, e)
			}
		}
		sort.Ints(eqs)
		for _, o := range s.bring(eqs) {
			if !s.solver.Small(o.residual) {
				return false
			}
		}
		return true
	}
	var out Conflict
	if len(order) == 0 {
		return out
	}
	// Most conflicts lie in what has more residuals than unknowns; if that alone
	// contradicts itself, nothing else needs to be looked at.
	inOver := map[int]bool{}
	for e := range s.solver.Overdetermined(c) {
		if k := s.equations[e].constraint; k >= 0 {
			inOver[k] = true
		}
	}
	if few := slices.DeleteFunc(slices.Clone(order), func(k int) bool { return !inOver[k] }); len(few) > 0 &&
		len(few) < len(order) && !solvable(few) {
		order = few
	}
	set := solve.Smallest(order, solvable)
	sort.Ints(set)
	for _, k := range set {
		out.Set = append(out.Set, s.sketch.Constraints[k].ID)
	}
	if len(out.Set) > 0 {
		out.Drop = s.cheapest(out.Set, out.Set[len(out.Set)-1])
	}
	return out
}

// Motion is how everything moves when one loose entity does: a smallest motion
// that the constraints allow. It gives the geometry at steps along it, there and
// back, each a solved state; nil when the entity does not move.
//
// The motion is the projection of a push onto the null space, the nearest motion
// that the constraints allow to first order; each frame is then solved, so that
// it is one to all orders. It goes as a sine, there and back, and ends where it
// began.
func (f *Freedom) Motion(entity string, steps int, amplitude float64) [][]Curve {
	s := f.system
	for _, m := range f.parts {
		push := make([]float64, len(m.Vars))
		found := false
		for i, v := range m.Vars {
			if o := s.owner[v]; o >= 0 && s.sketch.Entities[o].ID == entity && s.roles[v] != roleHidden {
				push[i], found = 1+0.3*float64(i%2), true
			}
		}
		if !found {
			continue
		}
		v := m.Project(push)
		top := solve.Largest(v)
		if top < 1e-7 {
			continue
		}
		keep := append([]float64(nil), s.x...)
		var frames [][]Curve
		for k := range steps {
			phase := math.Sin(2 * math.Pi * float64(k) / float64(steps))
			copy(s.x, keep)
			for i, u := range m.Vars {
				s.x[u] += amplitude * phase * v[i] / top
			}
			for _, c := range s.solver.Components(s.solver.All()) {
				s.solver.SettleWhole(c, 30)
			}
			frames = append(frames, s.curvesNow())
		}
		copy(s.x, keep)
		return frames
	}
	return nil
}

// String is a short account for messages.
func (f *Freedom) String() string {
	return fmt.Sprintf("%d freedoms, %d infinitesimal", f.Count, f.Infinitesimal)
}
