package audit

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
)

// Most is how many surfaces a part may have to be audited: more take longer than anyone waits.
const Most = 300

// Result is what an audit has found. Faces are numbers of the reference.
type Result struct {
	// Sizes counts what the drawing must state, Stated what it does state of it.
	Sizes         int
	Stated        int
	Missing       []Missing
	Twice         []Twice
	Contradicting []Contradiction
	Rounded       []Rounded
	// Through are the characteristics that state the depth of what goes right through: it is not to be seen.
	Through []string
	// BySymmetry counts the sizes that nothing but a centre line holds, and Symmetric lists what it holds.
	BySymmetry int
	Symmetric  []Evidence
	// Read is what else is read from the drawing, but for what is plain at a glance: parallel, square, tangent.
	Read []Evidence
	// TooMany is how many surfaces a part has of which nothing was worked out, since it has more than Most.
	TooMany int
	// Unjudged are faces of free form, of which nothing can be said.
	Unjudged []int
}

// Clean tells whether the sheet determines the part. What cannot be judged is not clean.
func (r *Result) Clean() bool {
	return len(r.Missing) == 0 && len(r.Twice) == 0 && len(r.Contradicting) == 0 && len(r.Rounded) == 0 &&
		len(r.Through) == 0 && len(r.Unjudged) == 0 && r.TooMany == 0
}

// Missing is a change of the part that leaves everything that the sheet states as it is.
type Missing struct {
	Face    int    // that which changes
	How     string // in words, after the name of the face
	Faces   []int  // all that change with it
	Motion  Motion
	Propose *Sized // the characteristic that would settle it
}

// Motion is a small change of a face: a shift in mm and a turn in radians about a place, and of its radius.
type Motion struct {
	At     solid.Vec `json:"at"`
	Shift  solid.Vec `json:"shift"`
	Turn   solid.Vec `json:"turn"`
	Radius float64   `json:"radius"`
}

// Sized is a characteristic that could be added: its kind, and its places with the faces that each is measured on.
type Sized struct {
	Kind   string
	Places []characteristic.Place
}

// Twice is a smallest set of characteristics of which each follows from the others; Drop is the last of them.
type Twice struct {
	Of   []string
	Drop string
}

// Contradiction is a characteristic that does not state what the part has.
type Contradiction struct {
	Characteristic string
	What           string
}

// Evidence is what a drawing says of two faces without a number.
type Evidence struct {
	What string
	A, B int
}

// said is a characteristic with its rows.
type said struct {
	id   string
	rows [][]float64
}

// Of audits the sheet of an exercise against the geometry of its reference. The error is of a characteristic that has
// no place or measure there.
func Of(g *solid.Geometry, ex *exercise.Exercise) (*Result, error) {
	w, err := begin(g, ex)
	if err != nil {
		return nil, err
	}
	if w.nothing() {
		return w.out, nil
	}
	u, out := w.u, w.out
	out.Sizes = u.size(w.own(), w.given)
	stated := w.given.clone()
	var elsewhere *nearby // looked at where something seems to be stated twice
	out.Twice = twice(w.given, w.list, stated, func(others []said, s said) bool {
		if elsewhere == nil {
			elsewhere = u.nearby(ex, w.given)
		}
		return elsewhere.follows(others, s)
	})
	out.Stated = len(stated.rows) - len(w.given.rows)
	var fixed [][]float64
	out.Symmetric, fixed = u.fill(stated, w.mirrors, u.refusals(ex))
	if out.Rounded, err = u.rounded(ex, w.list, w.given.rows, fixed); err != nil {
		return nil, err
	}
	out.Missing = u.missing(u.local(stated, w.own()))
	out.BySymmetry = out.Sizes - out.Stated - len(out.Missing)
	return out, nil
}

// Open is what Of finds missing, and nothing else, in a part of its time.
func Open(g *solid.Geometry, ex *exercise.Exercise) ([]Missing, error) {
	w, err := begin(g, ex)
	if err != nil || w.nothing() {
		return nil, err
	}
	stated := w.given.clone().with(w.list)
	w.u.fill(stated, w.mirrors, w.u.refusals(ex))
	return w.u.missing(w.u.local(stated, w.own())), nil
}

// work is an audit that has been begun: the unknowns, what is read from the drawing, and what is stated.
type work struct {
	u       *unknowns
	mirrors []mirror
	given   *basis
	list    []said
	out     *Result
}

// nothing tells whether there is nothing to be worked out: the part has too many surfaces, or all are of free form.
func (w *work) nothing() bool { return w.out.TooMany > 0 || w.u.n == 0 }

// own counts the unknowns of the part: centre planes come last, and are no part of it.
func (w *work) own() int { return w.u.n - 3*len(w.mirrors) }

// begin puts the rows together. The error is of a characteristic that has no place or measure there.
func begin(g *solid.Geometry, ex *exercise.Exercise) (*work, error) {
	u := newUnknowns(g)
	w := &work{u: u, given: &basis{}}
	w.out = &Result{Missing: []Missing{}, Twice: []Twice{}, Contradicting: []Contradiction{}, Symmetric: []Evidence{},
		Read:     []Evidence{},
		Unjudged: append([]int{}, u.shapeless...)}
	out := w.out
	if len(u.carriers) > Most {
		out.TooMany = len(u.carriers)
	}
	if w.nothing() {
		return w, nil
	}
	w.mirrors = u.mirrors()
	for _, d := range u.read(ex) {
		if w.given.add(d.row) && !plain[d.why.what] {
			out.Read = u.noted(out.Read, d.why)
		}
	}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		places, err := u.placesOf(c)
		if err != nil {
			return nil, err
		}
		rows, err := u.statedRows(c, places)
		if err != nil {
			return nil, fmt.Errorf("characteristic %s: %w", c.ID, err)
		}
		if out.Contradicting, err = differs(g, ex, c, places, out.Contradicting); err != nil {
			return nil, err
		}
		if c.Declared().Blind && slices.ContainsFunc(places, func(p characteristic.Place) bool { return through(g, p) }) {
			out.Through = append(out.Through, c.ID)
		}
		if len(rows) > 0 {
			w.list = append(w.list, said{c.ID, rows})
		}
	}
	return w, nil
}

// size counts what must be stated: the unknowns of the part less what is read from the drawing and less motions of the
// whole.
func (u *unknowns) size(own int, given *basis) int {
	all := given.clone()
	for _, r := range u.rigid() {
		clear(r[own:])
		all.add(r)
	}
	return own - len(all.rows)
}

// twice puts the stated rows in, in the order of the sheet, and finds the characteristics that say nothing new, each
// with a smallest set that it follows from. What does not follow nearby from all the others is not stated twice.
func twice(given *basis, list []said, stated *basis, nearby func(others []said, s said) bool) []Twice {
	out := []Twice{}
	var before, spare []said
	for _, s := range list {
		fresh := false
		for _, r := range s.rows {
			fresh = stated.add(r) || fresh
		}
		if fresh {
			before = append(before, s)
		} else {
			spare = append(spare, s)
		}
	}
	for i := 0; i < len(spare); {
		if nearby(before, spare[i]) {
			i++
			continue
		}
		before, spare = append(before, spare[i]), slices.Delete(spare, i, i+1)
		i = 0 // with it others may follow
	}
	for _, s := range spare {
		needed := slices.Clone(before) // of which those that stand later go first
		for i := len(needed) - 1; i >= 0; i-- {
			fewer := slices.Delete(slices.Clone(needed), i, i+1)
			if given.clone().with(fewer).holds(s.rows) {
				needed = fewer
			}
		}
		t := Twice{Drop: s.id}
		for _, o := range needed {
			t.Of = append(t.Of, o.id)
		}
		t.Of = append(t.Of, s.id)
		out = append(out, t)
	}
	return out
}

// fill puts in what centre lines hold, and middles that lie in a face, as far as nothing else does, and gives the rows
// that it has put in.
func (u *unknowns) fill(stated *basis, mirrors []mirror, refused []evidence) (out []Evidence, rows [][]float64) {
	out = []Evidence{}
	for _, d := range u.allowed(append(u.symmetric(mirrors), u.halved()...), refused) {
		if !stated.add(d.row) {
			continue
		}
		rows = append(rows, d.row)
		if d.why.what != centre {
			out = u.noted(out, d.why)
		}
	}
	return out, rows
}

// noted adds evidence to a list that has each once.
func (u *unknowns) noted(list []Evidence, why evidence) []Evidence {
	e := Evidence{why.what, u.carriers[why.a].faces[0], u.carriers[why.b].faces[0]}
	if slices.Contains(list, e) {
		return list
	}
	return append(list, e)
}

// differs finds places at which the part does not have what the sheet states.
func differs(g *solid.Geometry, ex *exercise.Exercise, c *exercise.Characteristic, places []characteristic.Place,
	out []Contradiction) ([]Contradiction, error) {
	kind := c.Declared()
	if kind.Measure == nil || kind.Worded() || kind.Zero() || kind.Counts {
		return out, nil
	}
	_, stated, err := check.Nominal(g, ex, c)
	if err != nil {
		return nil, err
	}
	for _, p := range places {
		v, err := inspect.Measure(g, c, p)
		if err != nil {
			return nil, fmt.Errorf("characteristic %s: %w", c.ID, err)
		}
		if math.Abs(v-stated.Value) > stated.Half+1e-6 {
			what := fmt.Sprintf("the sheet states %s, and the part has %s", stated.Text, ex.StateOf(kind, v).Text)
			if len(places) > 1 {
				what += " at one place"
			}
			out = append(out, Contradiction{c.ID, what})
			break
		}
	}
	return out, nil
}

// missing says of changes that nothing holds what they are and what would settle them. What is proposed for one is
// proposed for others that it settles as well.
func (u *unknowns) missing(loose [][]float64) []Missing {
	out := []Missing{}
	if len(loose) == 0 {
		return out
	}
	all := u.candidates(loose)
	ordered := slices.Clone(all)
	slices.SortStableFunc(ordered, func(a, b *candidate) int { return a.rank - b.rank })
	for i, v := range loose {
		of := u.changeOf(v)
		first := u.best(all, ordered, of)
		if first == nil {
			out = append(out, u.described(v, nil))
			continue
		}
		if first.rank > proposedBefore {
			var after []change
			for _, w := range loose[i:] {
				after = append(after, u.changeOf(w))
			}
			u.repeat(first, all, after)
			first.rank = proposedBefore
		}
		m := u.described(v, first.Places[0].Faces())
		m.Propose = &first.Sized
		row := &first.rows[u.seeing(first, of)]
		for _, w := range loose[i+1:] {
			subtract(w, v, row.dot(w)/row.dot(v))
		}
		out = append(out, m)
	}
	return out
}

// local gives a basis of the changes that nothing holds, with the largest faces kept where they are, as sparse as
// elimination makes it. Of the unknowns the first are those of the part; what moves centre planes alone is nothing.
func (u *unknowns) local(stated *basis, own int) [][]float64 {
	rigid := reduced(u.rigid(), u.pinned())
	list := stated.loose(u.n)
	for _, v := range list {
		for _, r := range rigid {
			subtract(v, r.v, v[r.pivot])
		}
		clear(v[own:])
	}
	var out [][]float64
	for _, p := range reduced(list, nil) {
		out = append(out, p.v)
	}
	return out
}

// pinned is the order of the unknowns in which those of the whole are kept still: of the largest flat faces first.
func (u *unknowns) pinned() []int {
	var out []int
	for _, c := range u.bySize() {
		for k := range u.carriers[c].ways {
			out = append(out, u.carriers[c].first+k)
		}
	}
	return out
}

// described says of a change which face it is of and how that moves: of those that would be measured one that moves,
// else the one that moves most.
func (u *unknowns) described(v []float64, measured []int) Missing {
	best, most := furthest(v)
	for _, f := range measured {
		if c := u.of[f]; c >= 0 {
			own := u.carriers[c].first
			if i, far := furthest(v[own : own+len(u.carriers[c].ways)]); far > 0.3*most {
				best, most = own+i, far
				break
			}
		}
	}
	c, w := u.which(best)
	own := &u.carriers[c]
	m := Missing{Motion: Motion{At: own.at}, Faces: []int{}, How: hows[w.kind], Face: own.faces[0]}
	for k, w := range own.ways {
		x := v[own.first+k] / most
		m.Motion.Shift = m.Motion.Shift.Add(w.shift.Scale(x))
		m.Motion.Turn = m.Motion.Turn.Add(w.turn.Scale(x))
		m.Motion.Radius += x * (w.radius + w.minor)
	}
	for i := range u.carriers {
		o := &u.carriers[i]
		if slices.ContainsFunc(v[o.first:o.first+len(o.ways)], func(x float64) bool { return math.Abs(x) > 1e-3*most }) {
			m.Faces = append(m.Faces, o.faces...)
		}
	}
	return m
}

// furthest is the largest of some changes, and how large it is.
func furthest(v []float64) (best int, most float64) {
	for i, x := range v {
		if math.Abs(x) > most+1e-9 {
			best, most = i, math.Abs(x)
		}
	}
	return best, most
}

// hows says how a face can change, after its name.
var hows = map[wayKind]string{along: "can move along its normal", sideways: "can move sideways", tilt: "can tilt",
	grow: "has no stated size", growRing: "has no stated radius of its ring", open: "has no stated angle",
	endways: "can move along its axis"}
