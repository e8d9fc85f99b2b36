package atlas

import (
	"cmp"
	"context"
	"maps"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// From figures back to mistakes. The atlas has, for each mistake in each step,
// the figures of the part with the mistake in it; an attempt that has them has
// made the mistake. Sizes are continuous and cannot be listed: they are found by
// the slopes of what is measured. Nothing counts as found until the reference
// with it in it has been rebuilt and has all the attempt's figures.

// Cause is one thing that is behind an attempt: a size that has another value, or a
// mistake of the atlas.
type Cause struct {
	Size  *Size
	Value float64 // of the size
	Entry *Entry
}

// Explanation says what is behind an attempt. Complete: the reference with these causes
// in it is the attempt, to the last figure. Expected is what the characteristics measure
// then. Alike are further single mistakes with the same figures, the next likely first.
type Explanation struct {
	Causes   []Cause
	Complete bool
	Expected Values
	Alike    []*Entry

	far float64 // how far the figures are from the attempt's then
}

// Seen is what was measured on an attempt: its figures, laid on the reference's pose,
// and its characteristics as far as they were found. Attempt is what it is, in its own pose; of a mesh
// there is none.
type Seen struct {
	Figures Figures
	Values  Values
	Attempt *solid.Geometry
	// Doubtful: the faces match so badly that some may have been taken for others.
	Doubtful bool
}

// Budget bounds the rebuilds that looking for the causes of one attempt may take, so that a large
// part is not checked for minutes. It counts rebuilds and not time: a check gives the same wherever it runs.
type Budget struct{ left, anew int }

// NewBudget is the budget for a reference: rebuilds of those with more faces take longer, and an edge that has to be
// followed point by point (a hole through a shaft) takes as long as many faces.
//
// It is 1300 faces' worth, between 16 and 40 rebuilds: a few seconds for any part. Of 220 parts with mistakes that were
// explained (bench/verdicts), half took 2 rebuilds, 98 of 100 up to 28, and the longest 51.
func NewBudget(reference *solid.Geometry) *Budget {
	weight := max(1, len(reference.Faces))
	for _, e := range reference.Edges {
		if e.Kind == solid.OtherEdge && !e.Seam && !e.Degenerate {
			weight += facesOfAnEdge
		}
	}
	return &Budget{left: min(mostAltogether, max(fewestAltogether, facesAltogether/weight)),
		anew: min(mostAnew, max(fewestAltogether, facesAnew/weight))}
}

// More is for an attempt that is looked at once more, from the beginning.
func (b *Budget) More() { b.left = max(b.left, 0) + b.anew }

// Half is half of what More gives.
func (b *Budget) Half() int { return b.anew / 2 }

// Few is for an attempt that hardly anything is right of.
func (b *Budget) Few() { b.left = min(b.left, fewestAltogether) }

// Take asks for one rebuild more.
//
// Counted and not timed: a check that found less on a busy machine would mark
// two students differently.
func (b *Budget) Take() bool {
	b.left--
	return b.left >= 0
}

const (
	mostAltogether   = 40
	fewestAltogether = 16
	facesAltogether  = 1300 // faces rebuilt
	mostAnew         = 40
	facesAnew        = 950
	facesOfAnEdge    = 24
)

// Bounds of one search: sizes that are wrong together, tries of one kind, and rebuilds,
// after which what was found so far is said.
const (
	mostSizes    = 4
	mostBeside   = 2 // sizes beside a mistake
	mostTries    = 6
	mostMixed    = 8 // mistakes that are tried beside sizes
	mostRebuilds = 48
)

// Explain finds the causes behind an attempt: first a single entry of the atlas, then
// other values of sizes, then two entries, then an entry beside other values. Each is
// confirmed by rebuilding the reference with it. Where nothing explains all, the sizes
// that explain what was measured are given, and Complete is false.
//
// It goes from the simple to the complex, because the simplest explanation that
// fits all figures is the likeliest. Volume, area and the moments together are
// some ten numbers of six figures: two mistakes that agree in them by chance are
// not known to us.
func (a *Atlas) Explain(ctx context.Context, r *part.Rebuilder, ex *exercise.Exercise, reference *part.Document,
	seen Seen, budget *Budget) (*Explanation, error) {
	if seen.Figures.same(a.Figures) {
		return &Explanation{Complete: true, Expected: a.Values}, nil
	}
	defer brief(r)()
	doc, _, err := Expose(reference)
	if err != nil {
		return nil, err
	}
	f := &finder{maker{r: r, ex: ex, doc: doc}, a, seen, mostRebuilds, budget, nil}
	if list := a.Lookup(seen.Figures); len(list) > 0 {
		// Of several, what changes the place of the material as the attempt does.
		if all := f.rest(); all > 0 {
			left := func(e *Entry) float64 { return math.Round(1e3 * f.rest(e) / all) }
			slices.SortStableFunc(list, func(x, y *Entry) int { return cmp.Compare(left(x), left(y)) })
		}
		return &Explanation{Causes: []Cause{{Entry: list[0]}}, Complete: true, Expected: list[0].Values, Alike: list[1:]}, nil
	}
	sizes, err := f.sizes(ctx, nil, mostSizes)
	if err != nil || sizes != nil && sizes.Complete {
		return sizes, err
	}
	for _, look := range []func() (*Explanation, error){
		func() (*Explanation, error) { return f.silent(ctx, sizes) },
		func() (*Explanation, error) { return f.shifted(ctx) },
		func() (*Explanation, error) { return f.read(ctx, reference, sizes) },
		func() (*Explanation, error) { return f.pairs(ctx) },
		func() (*Explanation, error) { return f.mixed(ctx, sizes) },
		func() (*Explanation, error) { return f.alone(ctx) },
	} {
		found, err := look()
		if err != nil || found != nil {
			return found, err
		}
		if f.partly != nil && !seen.Doubtful && f.partly.far < 0.5*f.far(a.Figures) {
			return f.partly, nil // what is left is nothing that the atlas knows
		}
	}
	if sizes == nil {
		sizes = &Explanation{far: f.far(f.a.Figures)}
	}
	// What was read, and explains what was measured, leaves less open: something that nobody asked for is there
	// as well.
	if f.partly != nil && (f.partly.far < 0.7*sizes.far || !f.fits(sizes)) {
		return f.partly, nil
	}
	return sizes, nil
}

// silent looks for one more size that no dimension shows, where what was measured is explained.
func (f *finder) silent(ctx context.Context, sizes *Explanation) (*Explanation, error) {
	if !f.fits(sizes) && (sizes != nil || !f.fits(&Explanation{Expected: f.a.Values})) {
		return nil, nil
	}
	return f.byVolume(ctx, nil, sizes, silentSize)
}

// alone looks for one size by the figures alone: what was measured may have been measured on the wrong
// faces.
func (f *finder) alone(ctx context.Context) (*Explanation, error) {
	f.left += mostRebuilds
	return f.byVolume(ctx, nil, nil, func(s *Size) bool { return len(s.Slopes) > 0 })
}

// far is how far figures are from the attempt's, in shares of the part's.
func (f *finder) far(fig Figures) float64 {
	s := 0.0
	for k, scale := range f.a.scale() {
		d := (fig.Sums[k] - f.seen.Figures.Sums[k]) / scale
		s += d * d
	}
	return math.Sqrt(s)
}

// fits tells whether an explanation gives everything that was measured.
func (f *finder) fits(e *Explanation) bool {
	if e == nil || e.Expected == nil {
		return false
	}
	for id, list := range f.seen.Values {
		if len(e.Expected[id]) != len(list) {
			return false
		}
	}
	_, gap := f.gap(e.Expected)
	return norm(gap) < near
}

// Lookup lists the single mistakes that have an attempt's figures, the most usual
// first.
//
// They are in the order of the atlas, which is that of how usual they are.
func (a *Atlas) Lookup(f Figures) []*Entry {
	var out []*Entry
	for i := range a.Entries {
		if a.Entries[i].Figures.same(f) {
			out = append(out, &a.Entries[i])
		}
	}
	return out
}

type finder struct {
	maker
	a    *Atlas
	seen Seen
	left int // rebuilds
	all  *Budget
	// partly is the best of what was read and explains what was measured, and not the whole part.
	partly *Explanation
}

// variant is the maker's, as long as rebuilds are left; then there is no such part.
func (f *finder) variant(ctx context.Context, edits []part.Alteration, set map[string]quantity.Quantity) (Figures,
	Values, bool, error) {
	if f.left--; f.left < 0 || !f.all.Take() {
		return Figures{}, nil, false, nil
	}
	return f.maker.variant(ctx, edits, set)
}

// gap is how far what was measured is from what is expected, over the characteristics
// that both have.
//
// Values of one note are compared in order of size, for the same reason.
func (f *finder) gap(expected Values) (ids []string, out []float64) {
	for _, id := range slices.Sorted(maps.Keys(f.seen.Values)) {
		if len(expected[id]) != len(f.seen.Values[id]) {
			continue
		}
		// Places of one note are alike: which is which, the pose decides, and may decide
		// otherwise on a symmetric part.
		have, want := slices.Sorted(slices.Values(f.seen.Values[id])), slices.Sorted(slices.Values(expected[id]))
		for k := range have {
			ids = append(ids, id)
			out = append(out, have[k]-want[k])
		}
	}
	return ids, out
}

// norm is the Euclidean length.
//
// Lengths and angles are in it together, in millimetres and radians, because
// what is asked is only whether it is nothing.
func norm(v []float64) float64 {
	s := 0.0
	for _, x := range v {
		s += x * x
	}
	return math.Sqrt(s)
}

// near is close enough for two measures of one thing, in millimetres or radians.
const near = 2e-5

// sizes looks for the fewest other values of sizes that give what was measured: it takes
// the size that explains most of the gap, solves for all that are taken by least squares
// with the slopes of the atlas, rebuilds, and goes on with what is left.
//
// It is matching pursuit: each time the size that best explains what is left. A
// wrong first choice is mended by solving for all again.
func (f *finder) sizes(ctx context.Context, edits []part.Alteration, most int) (*Explanation, error) {
	fig, expected, ok, err := f.variant(ctx, edits, nil)
	if err != nil || !ok {
		return nil, err
	}
	ids, gap := f.gap(expected)
	if norm(gap) < near {
		return &Explanation{Complete: fig.same(f.seen.Figures), Expected: expected, far: f.far(fig)}, nil
	}
	at := state{map[string]quantity.Quantity{}, gap, fig, expected}
	var taken []*Size
	best := &Explanation{}
	left := norm(gap)
	for len(taken) < most {
		next := f.next(taken, at.gap, ids)
		if next == nil {
			break
		}
		taken = append(taken, next)
		if at, err = f.solve(ctx, edits, taken, ids, at); err != nil {
			return nil, err
		}
		if norm(at.gap) < 0.5*left {
			best = f.explained(at, taken)
		}
		if left = norm(at.gap); left < near {
			break
		}
	}
	if len(best.Causes) == 0 {
		return nil, nil
	}
	if left < near {
		if best.Complete = at.fig.same(f.seen.Figures); !best.Complete {
			// Other sizes may explain what was measured as well, and the figures too.
			other, err := f.instead(ctx, edits, taken, ids, state{map[string]quantity.Quantity{}, gap, fig, expected})
			if err != nil || other != nil {
				return other, err
			}
		}
	}
	return best, nil
}

// state is how far a search has come: the values that sizes have, what is left of the gap,
// and what the part measures with them.
type state struct {
	value    map[string]quantity.Quantity
	gap      []float64
	fig      Figures
	expected Values
}

// settings are the values that the reference is rebuilt with in a state of the search. There, a size that is
// worked out from others has its nominal value and so much more or less: where those others change as well, it
// follows them first.
func (f *finder) settings(sizes []*Size, value map[string]quantity.Quantity) map[string]quantity.Quantity {
	out := settings(sizes, value)
	derived := false
	for _, s := range sizes {
		if s.Derived && len(sizes) > 1 {
			derived = true
			delete(out, s.Parameter)
		}
	}
	if !derived {
		return out
	}
	unit, err := quantity.LengthUnit(f.doc.Unit)
	if err != nil {
		return settings(sizes, value)
	}
	table, err := quantity.Evaluate(f.doc.Parameters, unit, out)
	if err != nil {
		return settings(sizes, value)
	}
	for _, s := range sizes {
		if q, ok := table.Lookup(s.Parameter); ok && s.Derived {
			q.Value += value[s.Parameter].Value - s.Nominal
			out[s.Parameter] = q
		}
	}
	return out
}

// explained is the explanation that a state of the search stands for: the sizes
// that were changed, with the values that they then have.
func (f *finder) explained(at state, sizes []*Size) *Explanation {
	out := &Explanation{Expected: at.expected, far: f.far(at.fig)}
	has := f.settings(sizes, at.value)
	for _, z := range sizes {
		out.Causes = append(out.Causes, Cause{Size: z, Value: has[z.Parameter].Value})
	}
	return out
}

// column gives how the measures of the gap change with a size.
//
// The k-th entry for a characteristic is that of its k-th place.
func column(s *Size, ids []string) []float64 {
	out := make([]float64, len(ids))
	at := map[string]int{}
	for i, id := range ids {
		if list := s.Slopes[id]; at[id] < len(list) {
			out[i] = list[at[id]]
		}
		at[id]++
	}
	return out
}

// solve closes the gap by the values of sizes: by least squares, and again from where the part
// is then, as long as that helps.
//
// Slopes are those at the nominal sizes; repeating it makes up for what is not
// linear. It stops where the gap no longer shrinks by a tenth.
func (f *finder) solve(ctx context.Context, edits []part.Alteration, taken []*Size, ids []string,
	at state) (state, error) {
	at.value = maps.Clone(at.value)
	for _, s := range taken {
		if _, set := at.value[s.Parameter]; !set {
			at.value[s.Parameter] = quantity.Quantity{Value: s.Nominal, Dim: s.Dim}
		}
	}
	for range mostTries {
		step := least(taken, at.gap, ids)
		trial := maps.Clone(at.value)
		for i, s := range taken {
			q := trial[s.Parameter]
			q.Value += step[i]
			trial[s.Parameter] = q
		}
		got, v, ok, err := f.variant(ctx, edits, f.settings(taken, trial))
		if err != nil {
			return at, err
		}
		if !ok {
			break
		}
		_, after := f.gap(v)
		if len(after) != len(at.gap) || norm(after) >= 0.9*norm(at.gap) {
			break
		}
		at = state{trial, after, got, v}
		if norm(after) < near {
			break
		}
	}
	return at, nil
}

// instead looks for as many other sizes that close the gap: those first whose slopes leave least of it,
// and of equal ones those that change least.
//
// Of n sizes there are n over k choices, which is why it is only tried with up
// to 3 of 24. The least change is the likeliest: nobody mistakes all sizes by
// much.
func (f *finder) instead(ctx context.Context, edits []part.Alteration, taken []*Size, ids []string,
	at state) (*Explanation, error) {
	var list []*Size
	for i := range f.a.Sizes {
		if s := &f.a.Sizes[i]; norm(column(s, ids)) > 1e-9 {
			list = append(list, s)
		}
	}
	if len(taken) > 3 {
		return nil, nil
	}
	// Of many those that explain something of the gap, the most first.
	fit := func(s *Size) float64 {
		c, dot := column(s, ids), 0.0
		for k := range c {
			dot += c[k] * at.gap[k]
		}
		return math.Abs(dot) / norm(c)
	}
	if len(list) > mostOthers {
		slices.SortStableFunc(list, func(a, b *Size) int { return cmp.Compare(fit(b), fit(a)) })
		list = list[:mostOthers]
	}
	type choice struct {
		sizes        []*Size
		left, change float64
	}
	var choices []choice
	var choose func(from int, sizes []*Size)
	choose = func(from int, sizes []*Size) {
		if len(sizes) < len(taken) {
			for i := from; i < len(list); i++ {
				if varies(sizes, list[i].Parameter) {
					continue
				}
				choose(i+1, append(sizes[:len(sizes):len(sizes)], list[i]))
			}
			return
		}
		step := least(sizes, at.gap, ids)
		rest := slices.Clone(at.gap)
		change := 0.0
		for i, s := range sizes {
			change += math.Abs(step[i] / s.Nominal)
			for k, c := range column(s, ids) {
				rest[k] -= c * step[i]
			}
		}
		same := !slices.ContainsFunc(sizes, func(s *Size) bool { return !slices.Contains(taken, s) })
		if left := norm(rest); left < 0.1*norm(at.gap) && !same {
			choices = append(choices, choice{sizes, math.Round(1e3 * left / norm(at.gap)), change})
		}
	}
	choose(0, nil)
	slices.SortStableFunc(choices, func(a, b choice) int {
		return cmp.Or(cmp.Compare(a.left, b.left), cmp.Compare(a.change, b.change))
	})
	for _, c := range choices[:min(len(choices), mostTries)] {
		end, err := f.solve(ctx, edits, c.sizes, ids, at)
		if err != nil {
			return nil, err
		}
		if norm(end.gap) < near && end.fig.same(f.seen.Figures) {
			out := f.explained(end, c.sizes)
			out.Complete = true
			return out, nil
		}
	}
	return nil, nil
}

// mostOthers bounds the sizes among which others are chosen.
const mostOthers = 24

// next is the size whose slopes point most nearly along the gap. Of two that do equally
// the named parameter is taken, and the one that moves less.
//
// The cosine between the slopes and the gap has to be a fifth at least; below
// that the size explains nothing of it.
func (f *finder) next(taken []*Size, gap []float64, ids []string) *Size {
	var best *Size
	most := 0.2
	for i := range f.a.Sizes {
		s := &f.a.Sizes[i]
		if varies(taken, s.Parameter) {
			continue
		}
		c := column(s, ids)
		n := norm(c)
		if n < 1e-9 {
			continue
		}
		dot := 0.0
		for k := range c {
			dot += c[k] * gap[k]
		}
		if fit := math.Abs(dot) / n / norm(gap); fit > most+1e-6 {
			best, most = s, fit
		}
	}
	return best
}

// least solves for the changes of the taken sizes by least squares.
//
// An ill-conditioned system still gives a step, which the rebuild then judges.
func least(taken []*Size, gap []float64, ids []string) []float64 {
	m := mat.NewDense(len(gap), len(taken), nil)
	for j, s := range taken {
		m.SetCol(j, column(s, ids))
	}
	var x mat.VecDense
	out := make([]float64, len(taken))
	if err := x.SolveVec(m, mat.NewVecDense(len(gap), gap)); err != nil {
		if _, ill := err.(mat.Condition); !ill {
			return out
		}
	}
	for j := range out {
		out[j] = x.AtVec(j)
	}
	return out
}

// silentSize tells whether no characteristic shows a size.
func silentSize(s *Size) bool { return len(s.Slopes) == 0 }

// byVolume looks for one more size, beside a mistake and other sizes that are known, among those
// that are asked for.
//
// A size that no characteristic shows can only be seen in the figures.
func (f *finder) byVolume(ctx context.Context, edits []part.Alteration, known *Explanation,
	asked func(*Size) bool) (*Explanation, error) {
	set := map[string]quantity.Quantity{}
	var causes []Cause
	if known != nil {
		if _, gap := f.gap(known.Expected); norm(gap) > near {
			return nil, nil // what is measured is not explained yet
		}
		causes = known.Causes
		var sizes []*Size
		for _, c := range causes {
			set[c.Size.Parameter] = quantity.Quantity{Value: c.Value, Dim: c.Size.Dim}
			sizes = append(sizes, c.Size)
		}
		set = settings(sizes, set)
	}
	for i := range f.a.Sizes {
		s := &f.a.Sizes[i]
		if !asked(s) || len(set)+len(edits) == 0 && !f.likely(s) ||
			math.Abs(s.Volume) < 1e-6*f.a.Figures.Inner[0]/math.Max(s.Nominal, 1e-3) {
			continue
		}
		c, err := f.byVolumeOf(ctx, s, edits, set)
		if err != nil {
			return nil, err
		}
		if c != nil {
			c.Causes = append(slices.Clone(causes), c.Causes...)
			return c, nil
		}
	}
	return nil, nil
}

// likely tells whether a size, changed until the volume is right, would bring the other figures that no pose
// changes nearer: by their slopes, and so for large changes only about.
func (f *finder) likely(s *Size) bool {
	if s.Volume == 0 {
		return false
	}
	was, want := f.a.Figures.Inner, f.seen.Figures.Inner
	by := (want[0] - was[0]) / s.Volume
	before, after := 0.0, 0.0
	for k := range was {
		then := was[k] + by*s.Figures.Inner[k]
		before += math.Abs(want[k]-was[k]) / was[k]
		after += math.Abs(want[k]-then) / was[k]
	}
	return after < 0.6*before
}

// byVolumeOf looks for the value of one size at which the part has the volume of the attempt, and gives it
// where all other figures are the attempt's as well. The secant through the last two volumes is taken, or the middle
// of the bracket where it leads out of that.
//
// The part must grow or shrink steadily with the size for the bracket to hold;
// where it does not the figures will not agree, and nothing is claimed.
func (f *finder) byVolumeOf(ctx context.Context, s *Size, edits []part.Alteration,
	set map[string]quantity.Quantity) (*Explanation, error) {
	want := f.seen.Figures.Inner[0]
	slope, before, was := s.Volume, s.Nominal, f.a.Figures.Inner[0]
	v := before
	if len(set)+len(edits) == 0 { // the reference itself is known
		v += (want - was) / slope
	}
	// Where the volume is too small and too large.
	less, more := math.NaN(), math.NaN()
	for n := 0; n < mostTries || n < 2*mostTries && !math.IsNaN(less+more); n++ {
		if s.Dim == quantity.Length && v <= 0 || math.Abs(v) > 20*math.Abs(s.Nominal) {
			return nil, nil
		}
		trial := maps.Clone(set)
		trial[s.Parameter] = quantity.Quantity{Value: v, Dim: s.Dim}
		trial = settings([]*Size{s}, trial)
		fig, expected, ok, err := f.variant(ctx, edits, trial)
		if err != nil {
			return nil, err
		}
		if !ok { // the part ends before
			v = (v + before) / 2
			continue
		}
		if fig.same(f.seen.Figures) {
			return &Explanation{Causes: []Cause{{Size: s, Value: v}}, Complete: true, Expected: expected}, nil
		}
		off := want - fig.Inner[0]
		if math.Abs(off) < agree*want/30 {
			return nil, nil // the volume, and yet another part
		}
		if v != before && fig.Inner[0] != was {
			slope = (fig.Inner[0] - was) / (v - before)
		}
		before, was = v, fig.Inner[0]
		if off > 0 {
			less = v
		} else {
			more = v
		}
		v += off / slope
		if (v-less)*(v-more) > 0 {
			v = (less + more) / 2
		}
	}
	return nil, nil
}

// pairs looks for two entries whose changes of the sums add up to those of the attempt,
// and confirms the best of them.
//
// Sums add up only where two mistakes do not touch the same material, so that it
// is a way to find likely pairs and no proof.
func (f *finder) pairs(ctx context.Context) (*Explanation, error) {
	all := f.rest()
	type pair struct {
		a, b *Entry
		left float64
	}
	var list []pair
	for i := range f.a.Entries {
		for k := range i {
			x, y := &f.a.Entries[k], &f.a.Entries[i]
			if x.Parameter != "" || y.Parameter != "" {
				continue // sizes are found by their slopes
			}
			if left := f.rest(x, y); left < 0.2*all {
				list = append(list, pair{x, y, left})
			}
		}
	}
	slices.SortFunc(list, func(a, b pair) int { return cmp.Compare(a.left, b.left) })
	for _, p := range list[:min(len(list), 2*mostTries)] {
		got, v, ok, err := f.variant(ctx, slices.Concat(p.a.Alterations, p.b.Alterations), nil)
		if err != nil {
			return nil, err
		}
		if ok && got.same(f.seen.Figures) {
			return &Explanation{Causes: []Cause{{Entry: p.a}, {Entry: p.b}}, Complete: true, Expected: v}, nil
		}
	}
	return nil, nil
}

// rest is how much of the change of the sums some entries leave.
func (f *finder) rest(e ...*Entry) float64 {
	with := f.a.Figures
	for _, x := range e {
		for k := range with.Sums {
			with.Sums[k] += x.Figures.Sums[k] - f.a.Figures.Sums[k]
		}
	}
	return f.far(with)
}

// scale makes the sums comparable: volume, area, and volume times the size of the part
// once and twice.
func (a *Atlas) scale() [11]float64 {
	v := a.Figures.Sums[0]
	l := math.Cbrt(v)
	s := [11]float64{v, a.Figures.Sums[1]}
	for k := 2; k < 5; k++ {
		s[k] = v * l
	}
	for k := 5; k < 11; k++ {
		s[k] = v * l * l
	}
	return s
}

// mixed looks for an entry beside sizes of other values: those entries first that bring
// the attempt nearest to what the sizes leave open.
func (f *finder) mixed(ctx context.Context, sizes *Explanation) (*Explanation, error) {
	type ranked struct {
		e    *Entry
		left float64
	}
	// Where a mistake takes faces away, the characteristics on them are not found; that
	// tells most.
	var list []ranked
	all := f.rest()
	for i := range f.a.Entries {
		e := &f.a.Entries[i]
		if e.Parameter != "" {
			continue
		}
		wrong := 0.0
		for id := range f.a.Values {
			if len(e.Values[id]) != len(f.seen.Values[id]) {
				wrong++
			}
		}
		ids, gap := f.gap(e.Values)
		off := map[string]bool{}
		for k, g := range gap {
			if math.Abs(g) > near {
				off[ids[k]] = true
			}
		}
		if e.Figures.Solids != f.seen.Figures.Solids {
			wrong += 5
		}
		list = append(list, ranked{e, wrong + 0.5*float64(len(off)) + f.rest(e)/math.Max(all, 1e-12)})
	}
	slices.SortStableFunc(list, func(a, b ranked) int { return cmp.Compare(a.left, b.left) })
	// One place of a ring forgotten is the same part, whichever it is.
	var tried []*Entry
	for _, x := range list {
		if slices.ContainsFunc(tried, func(e *Entry) bool { return e.Figures.same(x.e.Figures) }) {
			continue
		}
		if len(tried) == mostMixed {
			break
		}
		tried = append(tried, x.e)
		ex, err := f.sizes(ctx, x.e.Alterations, mostBeside)
		if err != nil {
			return nil, err
		}
		if ex != nil && !ex.Complete {
			if more, err := f.byVolume(ctx, x.e.Alterations, ex, silentSize); err != nil {
				return nil, err
			} else if more != nil {
				ex = more
			}
		}
		if ex != nil && ex.Complete {
			ex.Causes = append([]Cause{{Entry: x.e}}, ex.Causes...)
			return ex, nil
		}
	}
	return nil, nil
}
