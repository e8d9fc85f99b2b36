// Package interval finds how far each size of a sketch can be changed before the
// sketch ends: its constraints can no longer be met, or its regions are no longer
// the same, and says what meets there.
package interval

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
)

// End is one end of an interval: Value is the last at which the sketch holds, in millimetres, radians or as a plain
// number.
type End struct {
	Value    float64  `json:"value"`
	Open     bool     `json:"open"`          // the sketch still holds at the end of the range that was looked at
	Why      string   `json:"why,omitempty"` // what happens just beyond
	Entities []string `json:"entities,omitempty"`
}

// Interval is the range of a size within which a sketch holds.
type Interval struct {
	Nominal float64 `json:"nominal"`
	Low     End     `json:"low"`
	High    End     `json:"high"`
}

// Set gives the values of formulas with the varied size at v.
type Set func(v float64) (sketch.Values, error)

// relative is how closely the ends are found.
const relative = 1e-3

// Parameter varies a named parameter of a table.
func Parameter(params []quantity.Parameter, unit quantity.Unit, name string) (nominal quantity.Quantity,
	set Set, err error) {
	table, err := quantity.Evaluate(params, unit, nil)
	if err != nil {
		return nominal, nil, err
	}
	nominal, ok := table.Lookup(name)
	if !ok {
		return nominal, nil, fmt.Errorf("there is no parameter named %q", name)
	}
	return nominal, func(v float64) (sketch.Values, error) {
		return quantity.Evaluate(params, unit, map[string]quantity.Quantity{name: {Value: v, Dim: nominal.Dim}})
	}, nil
}

// Uses tells whether a sketch has a size that a parameter drives, directly or
// through other parameters.
func Uses(s *sketch.Sketch, params []quantity.Parameter, name string) bool {
	driven := map[string]bool{name: true}
	for grown := true; grown; {
		grown = false
		for _, p := range params {
			if !driven[p.Name] && names(p.Formula, driven) {
				driven[p.Name], grown = true, true
			}
		}
	}
	return slices.ContainsFunc(s.Constraints, func(k sketch.Constraint) bool {
		return !k.Driven && names(k.Value, driven)
	})
}

// names tells whether a formula uses one of some parameters.
func names(formula string, any map[string]bool) bool {
	f, err := quantity.Parse(formula)
	return err == nil && slices.ContainsFunc(f.Names(), func(n string) bool { return any[n] })
}

// Size varies the value of one size of a sketch: it gives the sketch with that
// size named, and how to set it.
func Size(s *sketch.Sketch, id string, values sketch.Values) (*sketch.Sketch, float64, Set, error) {
	out := s.Clone()
	k := out.Constraint(id)
	if k == nil {
		return nil, 0, nil, fmt.Errorf("there is no size %q", id)
	}
	dim := sketch.Sizes[k.Kind]
	nominal, err := values.Eval(k.Value, dim)
	if err != nil {
		return nil, 0, nil, err
	}
	const varied = "the varied size"
	k.Value = varied
	return out, nominal, func(v float64) (sketch.Values, error) { return override{values, varied, v}, nil }, nil
}

type override struct {
	sketch.Values
	formula string
	value   float64
}

// Eval gives the value that is tried in the place of one formula, and everything
// else as it is.
func (o override) Eval(formula string, want quantity.Dim) (float64, error) {
	if formula == o.formula {
		return o.value, nil
	}
	return o.Values.Eval(formula, want)
}

// state is a solved sketch at one value.
type state struct {
	v        float64
	sketch   *sketch.Sketch
	solution *sketch.Solution
	topology string
}

type finder struct {
	unit    float64
	set     Set
	nominal float64
	first   *state
}

// Find finds the interval of a size around its nominal value, looking as far as a
// hundredth and ten times of it. The sketch must hold at the nominal value.
func Find(ctx context.Context, s *sketch.Sketch, unit, nominal float64, set Set) (Interval, error) {
	f := &finder{unit: unit, set: set, nominal: nominal}
	out := Interval{Nominal: nominal}
	start, why := f.at(s, nominal)
	if start == nil {
		return out, fmt.Errorf("the sketch does not hold as it is: %s", why.Why)
	}
	f.first = start
	var err error
	if out.Low, err = f.march(ctx, -1, nominal*0.01); err != nil {
		return out, err
	}
	out.High, err = f.march(ctx, 1, nominal*10)
	return out, err
}

// at solves from the geometry of a neighbouring value. The end says why there is
// no solution.
func (f *finder) at(s *sketch.Sketch, v float64) (*state, End) {
	values, err := f.set(v)
	if err != nil {
		return nil, End{Why: err.Error()}
	}
	sol, err := sketch.Nearby(s, f.unit, values)
	if err != nil {
		var at *sketch.Error
		e := End{Why: err.Error()}
		if errors.As(err, &at) {
			e.Entities = []string{at.ID}
		}
		return nil, e
	}
	if !sol.Solved {
		return nil, End{Why: "its sizes cannot be met any more"}
	}
	out := &state{v: v, sketch: s.Clone(), solution: sol, topology: topology(sol)}
	sol.System().Store(out.sketch)
	return out, End{}
}

// topology tells regions apart: their boundaries in order, their holes and how
// deep they lie, and whether arcs have gone round.
func topology(sol *sketch.Solution) string {
	regions, problems := sketch.Regions(sol.Curves)
	var out []string
	ring := func(l sketch.Loop) string {
		var ids []string
		for _, g := range l {
			ids = append(ids, g.Entity)
		}
		// From the smallest on, so that where the walk began does not matter.
		at := 0
		for i := range ids {
			if ids[i] < ids[at] {
				at = i
			}
		}
		return strings.Join(append(ids[at:len(ids):len(ids)], ids[:at]...), ",")
	}
	for _, r := range regions {
		s := ring(r.Outer)
		var holes []string
		for _, h := range r.Holes {
			holes = append(holes, ring(h))
		}
		sort.Strings(holes)
		out = append(out, fmt.Sprint(s, holes, r.Depth))
	}
	for _, p := range problems {
		out = append(out, p.Kind)
	}
	sort.Strings(out)
	return strings.Join(out, ";")
}

// jumped tells whether the geometry changed by more than the step can account
// for: an arc that was small is almost a full turn, say.
func jumped(a, b *state) (string, bool) {
	for i := range a.solution.Curves {
		c, d := &a.solution.Curves[i], &b.solution.Curves[i]
		if c.Kind != sketch.KindArc {
			continue
		}
		l0, h0 := c.Range()
		l1, h1 := d.Range()
		if math.Abs((h1-l1)-(h0-l0)) > math.Pi {
			return c.ID, true
		}
	}
	return "", false
}

// march goes from the nominal value towards a limit in growing steps until the
// sketch ends, and then halves the step that went too far.
func (f *finder) march(ctx context.Context, sign, limit float64) (End, error) {
	good := f.first
	step := math.Abs(f.nominal) / 16
	if step == 0 {
		return End{Value: f.nominal, Open: true}, nil
	}
	for {
		if err := ctx.Err(); err != nil {
			return End{}, err
		}
		v := good.v + sign*step
		last := false
		if sign*(limit-v) <= 0 {
			v, last = limit, true
		}
		next, why := f.step(good, v)
		if next == nil {
			return f.bisect(ctx, good, v, why)
		}
		good = next
		if last {
			return End{Value: v, Open: true}, nil
		}
		if sign > 0 {
			step *= 1.25
		} else {
			step = math.Min(step, math.Abs(good.v)/8)
		}
	}
}

// step goes from a good value to another; nil with the reason when the sketch
// does not hold there.
func (f *finder) step(from *state, v float64) (*state, End) {
	next, why := f.at(from.sketch, v)
	if next == nil {
		return nil, why
	}
	if next.topology != f.first.topology {
		return nil, End{Why: "its regions are no longer the same"}
	}
	if id, yes := jumped(from, next); yes {
		return nil, End{Why: called.Geometry(from.sketch, from.solution).Of(id) + " turns inside out", Entities: []string{id}}
	}
	return next, End{}
}

// bisect narrows the end of an interval between a value at which the sketch
// stands and one at which it does not, halving the difference until it is a
// quarter of the accuracy that is stated. Each trial begins from the last
// geometry that stood and not from the first: solutions are followed along a
// path, and do not jump to another branch. What meets at the end is read off the
// geometry that stood last; where nothing came close, it is the set of
// conditions that contradict just beyond.
func (f *finder) bisect(ctx context.Context, good *state, bad float64, why End) (End, error) {
	for math.Abs(bad-good.v) > 0.25*relative*math.Abs(good.v) {
		if err := ctx.Err(); err != nil {
			return End{}, err
		}
		mid := (good.v + bad) / 2
		if next, w := f.step(good, mid); next != nil {
			good = next
		} else {
			bad, why = mid, w
		}
	}
	why.Value = good.v
	if what, of := closest(f.first, good); what != "" {
		why.Why, why.Entities = what, of
	} else if values, err := f.set(bad); err == nil && len(why.Entities) == 0 {
		// What fails just beyond, in words.
		if sol, err := sketch.Geometry(good.sketch, f.unit, values); err == nil && len(sol.Conflicts) > 0 {
			why.Entities = sol.Conflicts[0].Set
			why.Why = "these cannot be met together: " + said(good, why.Entities)
		}
	}
	return why, nil
}

// closest finds what has all but vanished at the end of an interval: of all
// lengths of the sketch the one that shrank most.
func closest(from, to *state) (string, []string) {
	best, what := 0.05, ""
	var of []string
	scale := to.solution.System().Scale()
	consider := func(was, is float64, say string, ids ...string) {
		if was < 1e-6*scale || is > 0.02*scale {
			return
		}
		if r := is / was; r < best {
			best, what, of = r, say, ids
		}
	}
	a, b := from.solution, to.solution
	for i := range a.Curves {
		c, d := &a.Curves[i], &b.Curves[i]
		if c.Guide {
			continue
		}
		l0, h0 := c.Range()
		l1, h1 := d.Range()
		switch c.Kind {
		case sketch.KindArc, sketch.KindEllArc:
			consider(c.Length(l0, h0), d.Length(l1, h1), "%s vanishes", c.ID)
		case sketch.KindCircle:
			consider(c.Radius, d.Radius, "%s vanishes", c.ID)
		case sketch.KindLine:
			consider(c.A.Distance(c.B), d.A.Distance(d.B), "the ends of %s meet", c.ID)
		}
		for j := range a.Curves[:i] {
			e, g := &a.Curves[j], &b.Curves[j]
			if e.Guide {
				continue
			}
			was, is := clearance(c, e), clearance(d, g)
			consider(was, is, "%s and %s meet", e.ID, c.ID)
		}
	}
	if what == "" {
		return "", nil
	}
	names := called.Geometry(from.sketch, from.solution)
	args := make([]any, len(of))
	for i, id := range of {
		args[i] = names.Of(id)
	}
	return fmt.Sprintf(what, args...), of
}

// clearance is about how far two curves are apart: from the ends and a few points
// of each to the other.
func clearance(c, d *sketch.Curve) float64 {
	best := math.Inf(1)
	for _, p := range [][2]*sketch.Curve{{c, d}, {d, c}} {
		lo, hi := p[0].Range()
		n := 1
		if p[0].Kind != sketch.KindLine {
			n = 16
		}
		for i := range n + 1 {
			q := p[0].Point(lo + (hi-lo)*float64(i)/float64(n))
			if _, r := p[1].Nearest(q); r.Distance(q) < best {
				best = r.Distance(q)
			}
		}
	}
	if c.Kind == sketch.KindCircle && d.Kind == sketch.KindCircle {
		l := c.Center.Distance(d.Center)
		best = math.Min(math.Abs(l-c.Radius-d.Radius), math.Abs(l-math.Abs(c.Radius-d.Radius)))
	}
	return best
}

// said puts constraints of a sketch into words.
func said(at *state, ids []string) string {
	names := called.Geometry(at.sketch, at.solution)
	var out []string
	for _, id := range ids {
		if k := at.sketch.Constraint(id); k != nil {
			out = append(out, names.Constraint(*k))
		}
	}
	return strings.Join(out, "; ")
}
