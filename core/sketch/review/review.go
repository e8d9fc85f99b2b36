// Package review looks a sketch over: what is loose, spare, contradicting or
// open, and what will make it weak when it is changed. Every finding names its
// place, and most come with a repair that can be applied in one step.
package review

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"hammerset/core/partition"
	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
	"hammerset/core/sketch/edit"
)

// Kinds of findings, the most urgent first.
const (
	Conflict = "conflict"   // constraints contradict each other
	Folded   = "folded"     // a corner turned over on the way to the sizes
	OpenEnd  = "open-end"   // a curve of the profile ends in the open
	Itself   = "itself"     // the profile crosses itself
	Crossing = "crossing"   // a curve runs on past another
	LeftOver = "left-over"  // a curve leads from the profile to nowhere
	Doubled  = "doubled"    // curves lie on one another
	Untied   = "untied"     // nothing is tied to the origin
	Loose    = "loose"      // something can still move
	Yielding = "yielding"   // something gives at first and then holds
	Spare    = "spare"      // a constraint adds nothing
	Apart    = "apart"      // points that are near one another and not joined
	OffCurve = "off-curve"  // a point that is near a curve and not on it
	Slanted  = "slanted"    // a line that is nearly horizontal or vertical
	Unsaid   = "unsaid"     // a relation that is there and not said
	Repeated = "repeated"   // one size given several times
	TwoSided = "two-sided"  // symmetry by two equal sizes
	Plain    = "plain-size" // a size that a constraint says better
	Unnamed  = "unnamed"    // a number where a parameter has that value
)

var order = []string{Conflict, Folded, OpenEnd, Crossing, LeftOver, Doubled, Apart, OffCurve, Untied, Loose, Yielding,
	Spare, Slanted, Unsaid, Repeated, TwoSided, Plain, Unnamed}

// Quality tells whether a finding is about how well a sketch is made, not about
// whether it stands.
func Quality(kind string) bool {
	switch kind {
	case Conflict, Folded, OpenEnd, Crossing, LeftOver, Doubled, Loose, Yielding, Spare:
		return false
	}
	return true
}

// Finding is one thing to say about a sketch. Repair says what applying it does;
// it is empty when only a person can decide.
type Finding struct {
	ID          string      `json:"id"`
	Kind        string      `json:"kind"`
	What        string      `json:"what"`
	Remedy      string      `json:"remedy"`
	Repair      string      `json:"repair,omitempty"`
	Entities    []string    `json:"entities,omitempty"`
	Constraints []string    `json:"constraints,omitempty"`
	At          *sketch.Vec `json:"at,omitempty"`
	Near        *sketch.Vec `json:"near,omitempty"`
	repair      func(d *edit.Draft) error
}

type reviewer struct {
	d     *edit.Draft
	sol   *sketch.Solution
	table *quantity.Table
	probe *sketch.Probe
	out   []Finding
	ends  partition.Names // points that are joined
	curve map[string]*sketch.Curve
	scale float64

	called *called.Names
}

// Review lists what there is to say about a solved and analysed sketch, the most
// urgent first. table may be nil.
//
// A sketch that does not solve is reviewed for contradictions alone: everything
// else is measured on a solution.
func Review(d *edit.Draft, sol *sketch.Solution, table *quantity.Table) []Finding {
	r := &reviewer{d: d, sol: sol, table: table, probe: sol.Probe(), curve: map[string]*sketch.Curve{},
		scale: sol.System().Scale(), called: called.Geometry(d.Sketch, sol)}
	for i := range sol.Curves {
		r.curve[sol.Curves[i].ID] = &sol.Curves[i]
	}
	r.join()
	if !sol.Solved {
		r.conflicts()
		return r.sorted()
	}
	if sol.Folded {
		r.add(Finding{ID: Folded, Kind: Folded, What: "a corner turned over on the way to the sizes",
			Remedy: "undo, and give the sizes in smaller steps, the smallest first"})
	}
	r.profile()
	r.freedom()
	r.spare()
	if r.probe != nil {
		r.apart()
		r.slanted()
		r.unsaid()
	}
	r.repeated()
	r.twoSided()
	r.plain()
	r.unnamed()
	return r.sorted()
}

// call calls one entity for people.
func (r *reviewer) call(id string) string { return r.called.Of(id) }

// add tells of something; a repair that needs no words of its own is its own
// remedy.
//
// Findings are kept in the order in which they are found; sorted puts them in
// that of urgency.
func (r *reviewer) add(f Finding) {
	if f.Remedy == "" {
		f.Remedy = f.Repair
	}
	r.out = append(r.out, f)
}

// sorted puts findings in the order in which they are put right: what
// contradicts first, what is only weak last. An id that comes twice is numbered,
// so that a repair finds the one it is for.
func (r *reviewer) sorted() []Finding {
	sort.SliceStable(r.out, func(i, j int) bool {
		return slices.Index(order, r.out[i].Kind) < slices.Index(order, r.out[j].Kind)
	})
	seen := map[string]int{}
	for i := range r.out {
		f := &r.out[i]
		if seen[f.ID]++; seen[f.ID] > 1 {
			f.ID = fmt.Sprintf("%s/%d", f.ID, seen[f.ID])
		}
	}
	return r.out
}

// Failed is a repair that would do harm; the draft is as it was.
type Failed struct{ Why string }

func (e *Failed) Error() string { return e.Why }

// Apply carries out the repair of a finding on the draft. It is tried on a copy
// first: what would no longer solve, or would open what was held, is refused.
//
// Sizes and constraints may go, freedom may not come: for those kinds of
// findings the repair says the same in another way, so that a sketch with more
// freedom afterwards has lost something.
func Apply(d *edit.Draft, f Finding) error {
	if f.repair == nil {
		return &Failed{"this finding has no repair: " + f.Remedy}
	}
	before, err := sketch.Solve(d.Sketch, d.Unit.Factor, d.Values)
	if err != nil {
		return err
	}
	trial := &edit.Draft{Sketch: d.Sketch.Clone(), Unit: d.Unit, Values: d.Values}
	if err := f.repair(trial); err != nil {
		return err
	}
	after, err := sketch.Solve(trial.Sketch, d.Unit.Factor, d.Values)
	switch {
	case err != nil:
		return err
	case before.Solved && !after.Solved:
		return &Failed{"that would contradict other constraints, so nothing was changed"}
	case before.Solved && (f.Kind == Spare || f.Kind == Repeated || f.Kind == TwoSided || f.Kind == Plain ||
		f.Kind == Unnamed) && after.Freedom > before.Freedom:
		return &Failed{"that would set something loose, so nothing was changed"}
	}
	after.System().Store(trial.Sketch)
	*d.Sketch = *trial.Sketch
	return nil
}

// ApplyAll carries out the repairs of all findings of a kind, one after the
// other, and reports how many were done. Those that would do harm are left out.
//
// Repairs that hold one by one may contradict together, and the other way round;
// so all are tried at once first, which is the usual case and takes two
// solutions only.
func ApplyAll(d *edit.Draft, list []Finding, kind string) (done int, err error) {
	trial := &edit.Draft{Sketch: d.Sketch.Clone(), Unit: d.Unit, Values: d.Values}
	n := 0
	for _, f := range list {
		if f.Kind == kind && f.repair != nil && f.stands(trial) && f.repair(trial) == nil {
			n++
		}
	}
	// All at once, if that holds; else one by one.
	before, err := sketch.Solve(d.Sketch, d.Unit.Factor, d.Values)
	if err != nil {
		return 0, err
	}
	if after, err := sketch.Solve(trial.Sketch, d.Unit.Factor, d.Values); err == nil && after.Solved &&
		after.Freedom <= before.Freedom && len(after.Spare) <= len(before.Spare) {
		after.System().Store(trial.Sketch)
		*d.Sketch = *trial.Sketch
		return n, nil
	}
	var last error
	for _, f := range list {
		if f.Kind != kind || f.repair == nil || !f.stands(d) {
			continue
		}
		if e := Apply(d, f); e != nil {
			last = e
			continue
		}
		done++
	}
	if done == 0 {
		return 0, last
	}
	return done, nil
}

// stands tells whether what a finding is about is still there.
//
// An earlier repair may have taken away what a later one was about.
func (f *Finding) stands(d *edit.Draft) bool {
	for _, id := range f.Entities {
		if d.Entity(id) == nil && id != sketch.Origin && id != sketch.XAxis && id != sketch.YAxis {
			return false
		}
	}
	for _, id := range f.Constraints {
		if d.Constraint(id) == nil {
			return false
		}
	}
	return true
}

// join finds which points are one by their coincident constraints.
func (r *reviewer) join() {
	r.ends = partition.Names{}
	for _, k := range r.d.Constraints {
		if k.Kind == "coincident" && len(k.Of) == 2 {
			r.ends.Join(k.Of[1], k.Of[0])
		}
	}
}

// vec is a place that can be left out.
func vec(v sketch.Vec) *sketch.Vec { return &v }

// conflicts tells of each smallest set of constraints that cannot hold together,
// and offers to drop the one whose loss costs least. A size is not removed but
// becomes a measured one, in parentheses, so that what it said can still be
// read. A sketch without such a set that has no solution was led as far towards
// the new sizes as it would go, and says how far.
func (r *reviewer) conflicts() {
	remove := func(id string) (string, func(*edit.Draft) error) {
		k := r.d.Constraint(id)
		if k == nil {
			return "", nil
		}
		if dim, size := sketch.Sizes[k.Kind]; size && dim != quantity.Number {
			return fmt.Sprintf("let it be measured instead: %s", r.called.Constraint(*k)), func(d *edit.Draft) error {
				d.Constraint(id).Driven = true
				return nil
			}
		}
		return "remove: " + r.called.Constraint(*k), func(d *edit.Draft) error { d.Remove(id); return nil }
	}
	for _, c := range r.sol.Conflicts {
		say, do := remove(c.Drop)
		f := Finding{ID: Conflict + " " + quantity.List(c.Set, 99), Kind: Conflict, Constraints: c.Set,
			Repair: say, repair: do,
			What:   "these cannot hold together: " + r.say(c.Set),
			Remedy: "change or remove one of them; the one that costs least: " + r.say([]string{c.Drop})}
		if len(c.Set) == 1 {
			f.What = "this cannot be met: " + r.say(c.Set)
		}
		for _, id := range c.Set {
			f.Entities = append(f.Entities, r.d.Constraint(id).Of...)
		}
		r.add(f)
	}
	if len(r.sol.Conflicts) == 0 {
		r.add(Finding{ID: Conflict, Kind: Conflict, What: fmt.Sprintf("no solution was found; the sizes got %.0f %% of "+
			"the way from the old values to the new", 100*r.sol.Reached), Remedy: "undo, and change the size in smaller steps"})
	}
}

// crossesItself finds the places where a chain of curves that closes runs through itself: it
// encloses regions, and hardly ever those that were meant.
//
// Only closed chains are looked at: an open one is told as such already. An end
// that touches is no crossing.
func (r *reviewer) crossesItself() {
	chain := map[string]int{}
	closed := map[int]bool{}
	for i := range r.sol.Curves {
		c := &r.sol.Curves[i]
		if _, seen := chain[c.ID]; seen || c.Guide || c.Closed() {
			continue
		}
		ids := r.d.Chain(c.ID)
		ends := map[[2]float64]int{}
		for _, id := range ids {
			chain[id] = i
			e := r.d.Entity(id)
			for _, p := range []string{e.From, e.To, e.Start, e.End} {
				if p != "" {
					q := r.sol.Points[p]
					ends[[2]float64{math.Round(q.X * 1e4), math.Round(q.Y * 1e4)}]++
				}
			}
		}
		closed[i] = true
		for _, n := range ends {
			closed[i] = closed[i] && n == 2
		}
	}
	for i := range r.sol.Curves {
		c := &r.sol.Curves[i]
		n, ok := chain[c.ID]
		if !ok || !closed[n] {
			continue
		}
		lo, hi := c.Range()
		slack := 1e-6 * (hi - lo)
		for _, x := range sketch.Crossings(r.sol.Curves, i, false) {
			o := r.curve[x.With]
			if m, same := chain[x.With]; !same || m != n || x.With <= c.ID || x.T < lo+slack || x.T > hi-slack ||
				o.A.Distance(x.At) < 1e-6*r.scale || o.B.Distance(x.At) < 1e-6*r.scale {
				continue
			}
			r.add(Finding{ID: Itself + " " + c.ID + " " + x.With, Kind: Itself, What: "the profile crosses itself: " +
				r.call(c.ID) + " and " + r.call(x.With) + " run through one another",
				Remedy: "pull a corner to the other side, or trim what is too much", Entities: []string{c.ID, x.With},
				At: vec(x.At)})
		}
	}
}

// profile turns what keeps regions from closing into findings.
//
// The repair of a doubled piece takes the curve that is doubled whole, if one
// is; else what is doubled is trimmed.
func (r *reviewer) profile() {
	r.crossesItself()
	_, problems := sketch.Regions(r.sol.Curves)
	done := map[string]bool{}
	for _, p := range problems {
		f := Finding{ID: p.Kind + " " + quantity.List(p.Entities, 9), Kind: p.Kind, What: p.Message(r.d.Words, r.call),
			Entities: p.Entities, At: vec(p.At), Near: p.Near}
		id := p.Entities[0]
		at := p.At
		switch p.Kind {
		case Crossing:
			f.Repair, f.repair = "trim "+r.call(id), func(d *edit.Draft) error { return d.Trim(id, at) }
		case LeftOver:
			f.Repair, f.repair = "make "+r.call(id)+" a guide line", func(d *edit.Draft) error {
				d.Entity(id).Guide = true
				return nil
			}
		case Doubled:
			f.ID += fmt.Sprintf(" %.3f %.3f", at.X, at.Y)
			gone := p.Entities[1]
			whole := func(id string) bool {
				c := r.curve[id]
				lo, hi := c.Range()
				return math.Abs(c.Length(lo, hi)-p.Gap) < 1e-5*r.scale
			}
			if !whole(gone) && whole(id) {
				gone = id
			}
			if whole(gone) {
				f.Repair, f.repair = "remove "+r.call(gone), func(d *edit.Draft) error { d.Remove(gone); return nil }
			} else {
				f.Repair, f.repair = "trim "+r.call(gone), func(d *edit.Draft) error { return d.Trim(gone, at) }
			}
		case OpenEnd:
			f.ID += fmt.Sprintf(" %.3f %.3f", at.X, at.Y)
			r.openEnd(&f, p, done)
		}
		if !done[f.ID] {
			done[f.ID] = true
			r.add(f)
		}
	}
}

// openEnd offers to join an open end to the one that it nearly meets, or to
// extend it to the curve that it nearly reaches.
//
// An end that is a quarter of its curve away from the next is not meant to meet
// it.
func (r *reviewer) openEnd(f *Finding, p sketch.Problem, done map[string]bool) {
	id, at := p.Entities[0], p.At
	if p.Near == nil {
		f.Remedy = "draw on from here, or make " + r.call(id) + " a guide line"
		return
	}
	if len(p.Entities) == 2 {
		f.Repair, f.repair = fmt.Sprintf("bring the end of %s on to %s", r.call(id), r.call(p.Entities[1])),
			func(d *edit.Draft) error {
				end := r.endAt(d, id, at)
				if end == "" {
					return &Failed{"the end is not there any more"}
				}
				d.Constrain("on-curve", "", end, p.Entities[1])
				return nil
			}
		return
	}
	mine, theirs := r.endAt(r.d, id, at), ""
	for _, c := range r.sol.Curves {
		if e := r.endAt(r.d, c.ID, *p.Near); e != "" && !c.Guide && r.ends.Root(e) != r.ends.Root(mine) {
			theirs = e
		}
	}
	c := r.curve[id]
	lo, hi := c.Range()
	if mine == "" || theirs == "" || p.Gap > 0.25*c.Length(lo, hi) {
		f.Remedy = "draw on from here, or make " + r.call(id) + " a guide line"
		return
	}
	pair := []string{mine, theirs}
	sort.Strings(pair)
	f.ID = OpenEnd + " " + quantity.List(pair, 2) // seen from both sides, said once
	f.Entities = append(f.Entities, pair...)
	f.Repair, f.repair = fmt.Sprintf("join %s and %s", r.call(pair[0]), r.call(pair[1])), func(d *edit.Draft) error {
		d.Join(mine, theirs)
		return nil
	}
}

// endAt is the point in which a curve ends at a place.
//
// The draft may have changed since; the place is where the finding was.
func (r *reviewer) endAt(d *edit.Draft, id string, at sketch.Vec) string {
	e := d.Entity(id)
	if e == nil {
		return ""
	}
	ends := []string{e.From, e.To, e.Start, e.End}
	for _, l := range [][]string{e.Through, e.Poles} {
		if len(l) > 0 {
			ends = append(ends, l[0], l[len(l)-1])
		}
	}
	for _, p := range ends {
		if v, ok := r.sol.Points[p]; ok && p != "" && v.Distance(at) < 1e-5*r.scale {
			return p
		}
	}
	return ""
}

// freedom tells what can still move. Where nothing ties the whole to the origin
// that is told as one thing and put right by one step: one point is put on the
// origin, and all is moved along so that nothing jumps.
//
// Moving all by one vector changes no constraint that does not mention what is
// fixed, so that nothing jumps. Infinitesimal freedoms yield to the first order
// only (a rod that is stretched out straight): they shake, although nothing
// moves far.
func (r *reviewer) freedom() {
	sol := r.sol
	if sol.Freedom >= 2 && !r.tied() && len(sol.Curves) > 0 {
		anchor := r.anchor()
		if anchor != "" {
			r.add(Finding{ID: Untied, Kind: Untied, Entities: []string{anchor}, At: vec(sol.Points[anchor]),
				What:   "nothing ties the sketch to the origin: it can slide off when sizes change",
				Repair: "put " + r.call(anchor) + " on the origin", repair: func(d *edit.Draft) error {
					var all []string
					for _, e := range d.Entities {
						all = append(all, e.ID)
					}
					d.Move(all, sketch.Vec{}.Sub(d.At(anchor)))
					d.Join(anchor, sketch.Origin)
					return nil
				}})
		}
	}
	if sol.Freedom > 0 {
		var ids []string
		for _, l := range sol.Loose {
			ids = append(ids, l.Entity)
		}
		f := Finding{ID: Loose, Kind: Loose, Entities: ids, What: fmt.Sprintf("%s left: %s can still move",
			quantity.Count(sol.Freedom, "freedom is", "freedoms are"), quantity.List(r.called.All(ids), 6)),
			Remedy: "let it wiggle, and add what should hold it"}
		if len(ids) > 0 {
			if v, ok := sol.Points[ids[0]]; ok {
				f.At = &v
			}
		}
		r.add(f)
	}
	if sol.Infinitesimal > 0 {
		r.add(Finding{ID: Yielding, Kind: Yielding, What: fmt.Sprintf("%s at first and then holds: the sizes are "+
			"stretched to their limit in this pose", quantity.Count(sol.Infinitesimal, "direction gives", "directions give")),
			Remedy: "place the geometry by a constraint instead of by sizes that only just reach"})
	}
}

// tied tells whether anything refers to what does not move.
//
// A driven size only measures and ties nothing.
func (r *reviewer) tied() bool {
	for _, k := range r.d.Constraints {
		if k.Driven {
			continue
		}
		if k.Kind == "fixed" {
			return true
		}
		for _, id := range k.Of {
			if id == sketch.Origin || id == sketch.XAxis || id == sketch.YAxis {
				return true
			}
		}
	}
	return slices.ContainsFunc(r.d.Entities, func(e sketch.Entity) bool {
		return len(e.Traced) > 0 || slices.Contains(e.Refs(), sketch.Origin)
	})
}

// anchor is the point that would go to the origin: the nearest one, a centre
// before a corner that is about as near.
//
// A centre is preferred by 5 percent of the size of the sketch.
func (r *reviewer) anchor() string {
	best, at := "", math.Inf(1)
	for i := range r.d.Entities {
		e := &r.d.Entities[i]
		for _, p := range e.Refs() {
			d := r.sol.Points[p].Norm()
			if p == e.Center {
				d -= 0.05 * r.scale
			}
			if d < at {
				best, at = p, d
			}
		}
	}
	return best
}

// spare tells of constraints that follow from others. They do no harm until a
// size changes and they no longer follow; then they contradict.
//
// A size that is spare is shown in parentheses, as an auxiliary dimension of the
// drawing (ISO 129-1); a constraint of another kind has nothing to show and is
// removed.
func (r *reviewer) spare() {
	for _, s := range r.sol.Spare {
		id := s.Drop
		f := Finding{ID: Spare + " " + id, Kind: Spare, Constraints: append([]string{id}, s.With...), Repair: "remove it: " +
			r.say([]string{id}), repair: func(d *edit.Draft) error {
			d.Remove(id)
			return nil
		}}
		f.What = "adds nothing: " + r.say([]string{id})
		if len(s.With) > 0 {
			f.What += ". It follows from: " + r.say(s.With)
		}
		if k := r.d.Constraint(id); k != nil {
			f.Entities = k.Of
			if _, size := sketch.Sizes[k.Kind]; size {
				f.Repair, f.repair = "show it as measured, in parentheses", func(d *edit.Draft) error {
					d.Constraint(id).Driven = true
					return nil
				}
			}
		}
		r.add(f)
	}
}
