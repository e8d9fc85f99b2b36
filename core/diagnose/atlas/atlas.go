// Package atlas holds, for one exercise, what its part would measure under each likely
// mistake, and finds which of them are behind an attempt.
package atlas

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"maps"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/robust"
	"hammerset/core/solid"
)

// Version counts changes of what an atlas holds and says.
const Version = "atlas/11"

// Figures are whole-part figures by which two solids are told apart. Inner do not
// depend on the pose: volume, area and the principal moments of inertia, largest first.
// Sums are about the axes of the reference: volume, area, three first and six second
// moments of volume; what two mistakes far from each other change adds up in them.
type Figures struct {
	Inner  [5]float64  `json:"inner"`
	Sums   [11]float64 `json:"sums"`
	Solids int         `json:"solids"`
}

// Values are what the characteristics measure, by id, at each of their places, in
// millimetres and radians. A place one of whose faces is not there is left out.
type Values map[string][]float64

// Atlas is the catalogue of one exercise.
type Atlas struct {
	Version string  `json:"version"`
	Key     string  `json:"key"`     // of what it was made from
	Figures Figures `json:"figures"` // of the part as it should be
	Values  Values  `json:"values"`
	Sizes   []Size  `json:"sizes"`
	Entries []Entry `json:"entries"`
	// Elsewhere are mistakes that leave the figures of the whole as they are: something lies
	// elsewhere.
	Elsewhere []Entry `json:"elsewhere"`
	// Varied is what the part measures with its sizes changed.
	Varied robust.Known `json:"varied"`
}

// Entry is one mistake: how the reference is changed by it, what is to be said of it,
// and what the part would measure.
type Entry struct {
	Kind        string            `json:"kind"`
	Step        string            `json:"step,omitempty"`
	What        string            `json:"what"`
	Cause       string            `json:"cause"`
	Remedy      string            `json:"remedy"`
	Alterations []part.Alteration `json:"alterations,omitempty"`
	// Characteristic is the one that states the size which the mistake is about.
	Characteristic string `json:"characteristic,omitempty"`
	// Uses is the one parameter in the formula that the mistake is made in.
	Uses string `json:"uses,omitempty"`
	// Parameter, where given, has another value: Value, in millimetres or radians.
	Parameter string       `json:"parameter,omitempty"`
	Value     float64      `json:"value,omitempty"`
	Dim       quantity.Dim `json:"dim,omitzero"`
	Figures   Figures      `json:"figures"`
	Values    Values       `json:"values"`
	// Gone are the faces of the reference, by a name of each, that a part with the mistake does not have.
	Gone []string `json:"gone,omitempty"`
}

// set is the values of sizes under the mistake.
func (e *Entry) set() map[string]quantity.Quantity {
	if e.Parameter == "" {
		return nil
	}
	return map[string]quantity.Quantity{e.Parameter: {Value: e.Value, Dim: e.Dim}}
}

// key is the same for the same characteristics of the same reference.
func key(ex *exercise.Exercise, reference *part.Document) (string, error) {
	measured := exercise.Checked(ex.Measuring().Characteristics)
	body, err := json.Marshal([]any{Version, ex.Unit, measured, reference})
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256(body)
	return hex.EncodeToString(sum[:]), nil
}

// Fits tells whether the atlas was made from this state of the exercise.
func (a *Atlas) Fits(ex *exercise.Exercise, reference *part.Document) bool {
	k, err := key(ex, reference)
	return err == nil && a.Version == Version && a.Key == k
}

// FiguresOf works out the figures of a solid whose pose is laid on the reference's by t.
func FiguresOf(p solid.Props, solids int, t solid.Transform) Figures {
	f := Figures{Solids: solids}
	var j [3][3]float64
	trace := 0.0
	for r := range 3 {
		for c := range 3 {
			j[r][c] = (p.Inertia[r][c] + p.Inertia[c][r]) / 2
		}
		trace += p.Inertia[r][r]
	}
	sym := mat.NewSymDense(3, nil)
	for r := range 3 {
		for c := r; c < 3; c++ {
			sym.SetSym(r, c, j[r][c])
		}
	}
	var eig mat.EigenSym
	f.Inner[0], f.Inner[1] = p.Volume, p.Area
	if eig.Factorize(sym, false) {
		v := eig.Values(nil)
		f.Inner[2], f.Inner[3], f.Inner[4] = v[2], v[1], v[0]
	}
	// The second moments about the middle are those of the inertia tensor turned out:
	// S = trace(J)/2 · 1 - J. They turn with the pose and move with the middle.
	c := t.Apply(p.Centroid)
	f.Sums[0], f.Sums[1] = p.Volume, p.Area
	k := 5
	for r := range 3 {
		f.Sums[2+r] = p.Volume * c[r]
		for q := r; q < 3; q++ {
			s := 0.0
			for a := range 3 {
				for b := range 3 {
					m := -j[a][b]
					if a == b {
						m += trace / 2
					}
					s += t.M[r][a] * m * t.M[q][b]
				}
			}
			f.Sums[k] = s + p.Volume*c[r]*c[q]
			k++
		}
	}
	return f
}

// same tells whether two solids have the same figures whatever their poses.
func (f Figures) same(g Figures) bool {
	if f.Solids != g.Solids {
		return false
	}
	for i := range f.Inner {
		if math.Abs(f.Inner[i]-g.Inner[i]) > agree*math.Abs(g.Inner[i]) {
			return false
		}
	}
	return true
}

// agree is how closely figures agree that are those of one solid: what writing and
// reading a file leaves.
const agree = 3e-6

// brief makes a rebuilder leave out what only messages need, until what it gives is called.
func brief(r *part.Rebuilder) (restore func()) {
	was := r.Brief
	r.Brief = true
	return func() { r.Brief = was }
}

// maker rebuilds variants of the reference and measures them.
type maker struct {
	r   *part.Rebuilder
	ex  *exercise.Exercise
	doc *part.Document // with all sizes exposed as parameters
	// names are those of the faces of the reference, where they are asked for.
	names [][]string
}

// variant rebuilds the reference with changes and values; ok is false where that gives no
// sound part.
func (m *maker) variant(ctx context.Context, edits []part.Alteration, set map[string]quantity.Quantity) (Figures,
	Values, bool, error) {
	g, _, err := m.solid(ctx, edits, set)
	if err != nil || g == nil {
		return Figures{}, nil, false, err
	}
	return FiguresOf(g.Props, g.Solids, solid.Identity), m.measure(g), true, nil
}

// solid rebuilds the reference with changes and values; nothing is given where that makes no
// sound part.
func (m *maker) solid(ctx context.Context, edits []part.Alteration, set map[string]quantity.Quantity) (*solid.Geometry,
	solid.Shape, error) {
	doc := m.doc
	if len(edits) > 0 {
		var err error
		if doc, err = m.doc.Altered(edits); err != nil {
			return nil, nil, nil // of two mistakes the one takes away what the other changes
		}
	}
	b, err := m.r.Rebuild(ctx, doc, set)
	if ctx.Err() != nil {
		return nil, nil, ctx.Err()
	}
	if err != nil || b.Solid == nil || len(b.Failed()) > 0 {
		return nil, nil, nil
	}
	g, err := solid.DescribeLoosely(m.r.Kernel(), b.Solid.Shape, b.Solid.Names)
	if err != nil {
		return nil, nil, err
	}
	if !(g.Props.Volume > 0) {
		return nil, nil, nil
	}
	return g, b.Solid.Shape, nil
}

// measure gives what the characteristics measure on a variant of the reference, at those of
// their places whose faces are there.
func (m *maker) measure(g *solid.Geometry) Values {
	v := Values{}
	for i := range m.ex.Characteristics {
		c := &m.ex.Characteristics[i]
		if characteristic.Of(c.Kind).Unplaced() {
			continue
		}
		for _, of := range apart(c) {
			one := *c
			one.Of = [][]address.Ref{of}
			places, err := inspect.Places(g, &one)
			if err != nil {
				continue // a face is gone
			}
			for _, p := range places {
				if x, err := inspect.Measure(g, c, p); err == nil {
					v[c.ID] = append(v[c.ID], x)
				}
			}
		}
	}
	return v
}

// apart lists what a characteristic is measured on, each place by itself.
func apart(c *exercise.Characteristic) [][]address.Ref {
	if !characteristic.Of(c.Kind).Each() {
		return c.Of
	}
	var out [][]address.Ref
	for _, of := range c.Of {
		for _, ref := range of {
			out = append(out, []address.Ref{ref})
		}
	}
	return out
}

// Variant is the reference with causes in it.
type Variant struct {
	*solid.Geometry
	Shape  solid.Shape
	Values Values // of the characteristics on it
}

// With rebuilds the reference with causes in it; nothing is given where that makes no sound
// part.
func With(ctx context.Context, r *part.Rebuilder, ex *exercise.Exercise, reference *part.Document,
	causes []Cause) (*Variant, error) {
	defer brief(r)()
	doc, _, err := Expose(reference)
	if err != nil {
		return nil, err
	}
	m := &maker{r: r, ex: ex, doc: doc}
	edits, set := made(causes)
	g, s, err := m.solid(ctx, edits, set)
	if err != nil || g == nil {
		return nil, err
	}
	// How well faces fit is weighed by the size of the part, which must be the same for all of them.
	if g.Box, err = r.Kernel().Bounds(s); err != nil {
		return nil, err
	}
	return &Variant{g, s, m.measure(g)}, nil
}

// made is what the reference is rebuilt with where causes are in it.
func made(causes []Cause) ([]part.Alteration, map[string]quantity.Quantity) {
	var edits []part.Alteration
	set := map[string]quantity.Quantity{}
	var sizes []*Size
	for _, c := range causes {
		if c.Size != nil {
			set[c.Size.Parameter] = quantity.Quantity{Value: c.Value, Dim: c.Size.Dim}
			sizes = append(sizes, c.Size)
			continue
		}
		edits = append(edits, c.Entry.Alterations...)
		maps.Copy(set, c.Entry.set())
	}
	return edits, settings(sizes, set)
}

// step is how far a size is changed to find its slopes: a thousandth of it.
const step = 1e-3

// Shares of the work that the changed sizes and the slopes of the sizes take, about.
const (
	variedTake = 0.1
	sizesTake  = 0.2
)

// Build makes the atlas of an exercise from its reference. progress is told how much is
// done, from 0 to 1.
func Build(ctx context.Context, r *part.Rebuilder, ex *exercise.Exercise, reference *part.Document,
	progress func(float64)) (*Atlas, error) {
	defer brief(r)()
	ex = ex.Measuring()
	doc, where, err := Expose(reference)
	if err != nil {
		return nil, err
	}
	m := &maker{r: r, ex: ex, doc: doc}
	a := &Atlas{Version: Version, Sizes: []Size{}, Entries: []Entry{}, Elsewhere: []Entry{}}
	if a.Key, err = key(ex, reference); err != nil {
		return nil, err
	}
	base, err := r.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	var ok bool
	if a.Figures, a.Values, ok, err = m.variant(ctx, nil, nil); err != nil {
		return nil, err
	}
	if !ok {
		return nil, errors.New("the reference makes no sound part")
	}
	m.names = base.Solid.Names
	right, err := solid.Describe(r.Kernel(), base.Solid.Shape, nil)
	if err != nil {
		return nil, err
	}
	laid, err := inspect.MeshOf(r.Kernel(), base.Solid.Shape, right)
	if err != nil {
		return nil, err
	}
	halves := map[string]solid.Transform{}
	for _, s := range base.Steps {
		if s.Half != nil {
			halves[s.ID] = *s.Half
		}
	}
	list := mistakes(reference, base.Table, halves)
	if a.Varied, err = robust.Learn(ctx, r, reference, func(d float64) { progress(variedTake * d) }); err != nil {
		return nil, err
	}
	if err := m.sizes(ctx, a, base.Table, right.Extent(), where,
		func(d float64) { progress(variedTake + sizesTake*d) }); err != nil {
		return nil, err
	}
	read := a.misread(ex)
	entered := func(n int) {
		progress(variedTake + sizesTake + (1-variedTake-sizesTake)*float64(n)/float64(len(list)+len(read)))
	}
	for i := range list {
		entered(i)
		e := &list[i]
		if ok, err = m.enter(ctx, e); err != nil {
			return nil, err
		}
		if !ok {
			continue // no such part
		}
		e.stated(ex)
		if !e.Figures.same(a.Figures) {
			a.Entries = append(a.Entries, *e)
			continue
		}
		other, err := m.another(ctx, reference, e, laid)
		if err != nil {
			return nil, err
		}
		if other {
			a.Elsewhere = append(a.Elsewhere, *e)
		}
	}
	for i := range read {
		entered(len(list) + i)
		e := &read[i].Entry
		if ok, err = m.enter(ctx, e); err != nil {
			return nil, err
		}
		// Where the size gives another measure than the one that was read, or the same part as a
		// mistake of a step, it is none of its own.
		if ok && read[i].shows(e.Values) && !e.Figures.same(a.Figures) && len(a.Lookup(e.Figures)) == 0 {
			a.Entries = append(a.Entries, *e)
		}
	}
	progress(1)
	return a, nil
}

// sizes finds how the part changes with each of its sizes: first those that drive others, with what hangs on
// them; then the same by themselves; then those that hang on others, by themselves. Of sizes
// that do the same the first is kept.
func (m *maker) sizes(ctx context.Context, a *Atlas, table *quantity.Table, extent solid.Vec, where map[string]string,
	progress func(float64)) error {
	driving := table.Driving()
	hangs := map[string][]Held{} // on each size, what is worked out from it directly
	for _, p := range m.doc.Parameters {
		q, _ := table.Lookup(p.Name)
		f, err := quantity.Parse(p.Formula)
		if err != nil || q.Dim == quantity.Number {
			continue
		}
		for _, name := range f.Names() {
			if p.Formula != name { // one that is merely called so has no value of its own
				hangs[name] = append(hangs[name], Held{p.Name, q.Dim, q.Value})
			}
		}
	}
	var list []Size
	for _, name := range driving {
		list = append(list, Size{Parameter: name})
	}
	for _, name := range driving {
		if held := hangs[name]; len(held) > 0 {
			list = append(list, Size{Parameter: name, Holds: held})
		}
	}
	for _, name := range table.Order() {
		if !slices.Contains(driving, name) {
			list = append(list, Size{Parameter: name, Derived: true})
			if held := hangs[name]; len(held) > 0 {
				list = append(list, Size{Parameter: name, Derived: true, Holds: held})
			}
		}
	}
	for i := range list {
		progress(float64(i) / float64(len(list)))
		s := &list[i]
		q, _ := table.Lookup(s.Parameter)
		s.Dim, s.Nominal, s.Where, s.Slopes = q.Dim, q.Value, where[s.Parameter], Values{}
		ok, err := m.slopes(ctx, a, extent, s)
		if err != nil {
			return err
		}
		tied := s.Derived || len(s.Holds) > 0
		if !ok || tied && slices.ContainsFunc(a.Sizes, func(o Size) bool { return s.alike(&o) }) {
			continue
		}
		a.Sizes = append(a.Sizes, *s)
	}
	return nil
}

// slopes finds how the part changes with a size; not ok for a count, and for a size that cannot be
// changed.
func (m *maker) slopes(ctx context.Context, a *Atlas, extent solid.Vec, s *Size) (ok bool, err error) {
	if s.Dim == quantity.Number || s.Nominal == 0 {
		return false, nil
	}
	d := step * math.Abs(s.Nominal)
	set := map[string]quantity.Quantity{s.Parameter: {Value: s.Nominal + d, Dim: s.Dim}}
	g, _, err := m.solid(ctx, nil, settings([]*Size{s}, set))
	if err != nil || g == nil {
		return false, err
	}
	v := m.measure(g)
	s.Figures = slopesOf(a.Figures, FiguresOf(g.Props, g.Solids, solid.Identity), d)
	s.Volume = s.Figures.Inner[0]
	for k, now := range g.Extent() {
		s.Extent[k] = (now - extent[k]) / d
	}
	for id, list := range a.Values {
		if len(v[id]) != len(list) {
			continue
		}
		slopes, moves := make([]float64, len(list)), false
		for k := range list {
			slopes[k] = (v[id][k] - list[k]) / d
			moves = moves || math.Abs(slopes[k]) > 1e-6
		}
		if moves {
			s.Slopes[id] = slopes
		}
	}
	return true, nil
}

// enter works out what the part measures under a mistake; false where there is no such part.
func (m *maker) enter(ctx context.Context, e *Entry) (ok bool, err error) {
	g, _, err := m.solid(ctx, e.Alterations, e.set())
	if err != nil || g == nil {
		return false, err
	}
	e.Figures, e.Values, e.Gone = FiguresOf(g.Props, g.Solids, solid.Identity), m.measure(g), m.gone(g)
	return true, nil
}

// gone lists the faces of the reference that a variant has not, each by its first name.
func (m *maker) gone(g *solid.Geometry) []string {
	have := map[string]bool{}
	for _, names := range g.Names {
		for _, n := range names {
			have[n] = true
		}
	}
	var out []string
	for _, names := range m.names {
		if len(names) > 0 && !slices.ContainsFunc(names, func(n string) bool { return have[n] }) {
			out = append(out, names[0])
		}
	}
	return out
}

// another tells whether the reference with a mistake in it is another shape, whatever its
// pose.
func (m *maker) another(ctx context.Context, reference *part.Document, e *Entry, right *inspect.Meshed) (bool, error) {
	v, err := With(ctx, m.r, m.ex, reference, []Cause{{Entry: e}})
	if err != nil || v == nil {
		return false, err
	}
	wrong, err := inspect.MeshOf(m.r.Kernel(), v.Shape, v.Geometry)
	if err != nil {
		return false, err
	}
	pose, _ := inspect.FindPose(right.Geometry, wrong.Geometry)
	return len(wrong.Strays(right, pose.Transform, InPlace)) > 0, nil
}

// InPlace is how closely a face lies in its place, in millimetres.
const InPlace = 0.01
