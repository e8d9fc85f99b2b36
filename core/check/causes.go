package check

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/diagnose"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// From verdicts to causes. One wrong size can put ten characteristics out;
// marking all of them would punish it ten times. So what is behind them is
// looked for in the mistake atlas, confirmed by laying the attempt over the
// reference with the mistake in it, and what hangs on it costs nothing further.

// same measure of what is expected and what is there, in millimetres or radians.
const carryTolerance = 5e-5

// sizeKinds are the causes that are a wrong size and no wrong feature.
var sizeKinds = []string{"size", "double", "half", "complement", "supplement", "thread", "neighbour", "wrong-face",
	"wall", "rounded", "one-size"}

// countKinds are the causes that leave instances of a feature out, or add some.
var countKinds = []string{"count", "one-place", "missing"}

// featureKinds are the causes that are of a feature and of no size: no one characteristic shows them.
var featureKinds = []string{"missing", "one-place", "elsewhere", "short", "form", "one-size", "other-edge"}

// explained is what was found behind an attempt, and the rows and figures in its light.
type explained struct {
	sought   bool // causes were looked for
	complete bool // they explain the attempt to the last figure
	open     bool // nothing is behind it but what the sheet does not state
	behind   []atlas.Cause
	found    []atlas.Cause // behind, or as much of it as was found
	causes   []report.Cause
	pose     *report.Pose
	rows     []row
	figures  []report.Figure
}

// explain looks up what is behind the attempt in the mistake atlas, and carries forward:
// a characteristic that is out only because it hangs on a size that is wrong already is
// judged against the reference rebuilt with that wrong size.
//
// Without the reference's document nothing can be rebuilt with a mistake in it;
// and at another scale every figure differs by the same factor, which is told as
// that.
func (r *frame) explain(ctx context.Context, ref Reference, known, mine *inspect.Meshed, rows []row,
	figures []report.Figure) (*explained, error) {
	out := &explained{causes: []report.Cause{}, pose: r.told(r.pose), rows: rows, figures: figures}
	if ref.Document == nil || ref.Atlas == nil || r.scale != 1 {
		return out, nil
	}
	budget := atlas.NewBudget(r.ref)
	if r.foreign(rows) {
		budget.Few()
	}
	found, measured, err := r.sought(ctx, ref, budget)
	if err != nil {
		return nil, err
	}
	if !found.Complete && !r.foreign(rows) {
		if found, err = r.rematch(ctx, ref, found, budget); err != nil {
			return nil, err
		}
	}
	found, by, err := r.confirm(ctx, ref, known, mine, found)
	if err != nil {
		return nil, err
	}
	out.sought, out.complete, out.found = true, found.Complete, found.Causes
	if found.Complete {
		out.behind = found.Causes
	}
	if by != nil {
		// Where a wrong size moves faces, the part with it in says how the attempt was placed.
		out.pose = r.told(by.pose)
		if out.rows, measured, err = r.remeasured(by, rows, found.Expected, measured); err != nil {
			return nil, err
		}
	}
	// What is within its limits is no mistake, though the part is not the reference's to the last figure.
	told := *found
	told.Causes = slices.DeleteFunc(slices.Clone(found.Causes), func(c atlas.Cause) bool {
		return r.leftOpen(c, ref.Atlas)
	})
	out.open = found.Complete && len(told.Causes) == 0 && len(found.Causes) > 0
	told.Causes = slices.DeleteFunc(told.Causes, func(c atlas.Cause) bool { return inLimits(c, out.rows) })
	if out.open {
		out.figures = slices.Clone(figures)
		for i := range out.figures {
			out.figures[i].Verdict = report.In
		}
	}
	found = &told
	onlySizes := found.Complete && len(found.Causes) > 0
	roots := map[string]bool{}
	for i := range found.Causes {
		c := r.cause(&found.Causes[i], ref.Atlas, found.Complete, out.rows)
		onlySizes = onlySizes && slices.Contains(sizeKinds, c.Kind)
		if c.Characteristic != "" {
			roots[c.Characteristic] = true
		}
		out.causes = append(out.causes, *c)
	}
	if len(out.causes) == 0 {
		return out, nil
	}
	out.carry(ref.Atlas, found, roots, measured)
	if onlySizes {
		out.figures = slices.Clone(figures)
		for i := range out.figures {
			out.figures[i].Carried = out.figures[i].Verdict != report.In
		}
	}
	return out, nil
}

// foreign tells that the attempt may be the part of another sheet: then causes are looked for with few rebuilds.
func (r *frame) foreign(rows []row) bool {
	asked, right, _ := diagnose.Placed(reported(rows))
	return r.pose.Misfit > foreign && diagnose.Foreign(asked, right)
}

// sought looks for the causes of what was measured. Of bodies that were never united two things can be wrong: one was
// left by itself, which the atlas has as one mistake; or something is wrong with the part that they are together.
func (r *frame) sought(ctx context.Context, ref Reference, budget *atlas.Budget) (*atlas.Explanation,
	map[string][]*float64, error) {
	look := func(f *frame) (*atlas.Explanation, map[string][]*float64, error) {
		seen, measured := f.see()
		found, err := ref.Atlas.Explain(ctx, r.Rebuilder, r.ex, ref.Document, *seen, budget)
		return found, measured, err
	}
	if seen, _ := r.see(); r.pieces == nil || len(ref.Atlas.Lookup(seen.Figures)) > 0 {
		return look(r)
	}
	united := *r
	united.pieces = nil
	found, measured, err := look(&united)
	if err != nil || found.Complete {
		return found, measured, err
	}
	if apart, measured, err := look(r); err != nil || apart.Complete {
		return apart, measured, err
	}
	return found, measured, nil
}

// carry says of every row that is out, and shows no cause by itself, on which of the causes it
// hangs; and where it measures just what the reference with them measures, that it costs nothing.
//
// It measures what the reference with the cause measures: then the student has
// made the rest right, and consistently so. The row stays out, since the part
// is, and costs nothing. Where instances of a feature are missing, one row that says so
// costs, and the others are carried if what is there measures right.
func (e *explained) carry(a *atlas.Atlas, found *atlas.Explanation, roots map[string]bool,
	measured map[string][]*float64) {
	e.rows = slices.Clone(e.rows)
	// A cause costs where it shows; one that shows nowhere by itself costs at the first row that hangs on it.
	paid := make([]bool, len(found.Causes))
	for k := range paid {
		paid[k] = e.causes[min(k, len(e.causes)-1)].Characteristic != ""
	}
	for i, w := range e.rows {
		if w.Verdict == report.In || roots[w.ID] {
			continue
		}
		var behind []int
		for k, c := range found.Causes {
			if !moved(c, a, w.ID) && !(w.Surplus != 0 && c.Entry != nil && slices.Contains(countKinds, c.Entry.Kind)) {
				continue
			}
			behind = append(behind, k)
			if at := &e.causes[min(k, len(e.causes)-1)]; !slices.Contains(at.Also, w.Balloon) {
				at.Also = append(at.Also, w.Balloon)
			}
		}
		if len(behind) == 0 {
			continue
		}
		carried := (w.Verdict == report.Out || w.Verdict == report.NotFound) &&
			expected(measured[w.ID], found.Expected[w.ID])
		for _, k := range behind {
			carried = carried && paid[k]
			paid[k] = true
		}
		why := "it hangs on what is wrong already"
		if carried {
			why = "it measures what the reference with the causes in it measures"
		}
		e.rows[i] = w.judged(byCarrying, why, func(c *report.Characteristic) { c.Behind, c.Carried = true, carried })
	}
	for i, w := range e.rows {
		if found.Complete && w.Verdict == report.Out && characteristic.Of(w.Kind).Density {
			e.rows[i] = w.judged(byCarrying, "the causes make the volume what it is",
				func(c *report.Characteristic) { c.Behind, c.Carried = true, true })
		}
	}
}

// see gathers what the causes are looked for by: the figures of the attempt, laid on the
// reference, and what its characteristics measure; those too at every place, nil where it was
// not found.
//
// A characteristic whose face is gone in this reference (a mistake may take
// faces away) is left out. One instance too many shows as one value too many.
func (r *frame) see() (seen *atlas.Seen, measured map[string][]*float64) {
	t := r.pose.Transform
	if len(r.match.Of) == 0 {
		t = solid.Identity
	}
	props := r.att.Props
	if r.pieces != nil {
		props = r.pieces.props
	}
	seen = &atlas.Seen{Figures: atlas.FiguresOf(props, r.solids(), t), Values: atlas.Values{}, Attempt: r.att,
		Doubtful: r.pose.Misfit >= illMatched}
	measured = map[string][]*float64{}
	for i := range r.ex.Characteristics {
		c := &r.ex.Characteristics[i]
		if characteristic.Of(c.Kind).Unplaced() {
			continue
		}
		places, err := inspect.Places(r.ref, c)
		if err != nil {
			continue // a face is gone, where the reference is one with a mistake in it
		}
		for _, p := range places {
			v, err := r.measure(c, p)
			if err != nil {
				measured[c.ID] = append(measured[c.ID], nil)
				continue
			}
			measured[c.ID] = append(measured[c.ID], &v)
			seen.Values[c.ID] = append(seen.Values[c.ID], v)
		}
		if n := len(r.surplus(c, places)); n > 0 && c.Declared().Each() && len(seen.Values[c.ID]) > 0 {
			for range n {
				seen.Values[c.ID] = append(seen.Values[c.ID], seen.Values[c.ID][0]) // one too many
			}
		}
	}
	return seen, measured
}

// illMatched is the mean cost of a face from which the matching is not trusted.
const illMatched = 0.1

// fitsBetter is how much smaller the misfit of the faces must be for another reference to be
// taken to match them by.
const fitsBetter = 0.85

// rematch looks for causes again where those that were found do not explain the attempt: a size
// that is far off moves faces so far that they are taken for others, or not found. The attempt is matched
// and measured by the reference with what was found in it, where that fits better, and then with one more
// guess: that one whose faces fit best.
//
// A size at twice its value moves faces by more than they are apart, so that the
// matching takes one for another, and every measure after that is of the wrong
// face. The misfit has to fall by 15 percent: less happens by chance.
func (r *frame) rematch(ctx context.Context, ref Reference, found *atlas.Explanation,
	budget *atlas.Budget) (*atlas.Explanation, error) {
	if r.pose.Misfit < illMatched {
		return found, nil
	}
	budget.More()
	by, causes := r, []atlas.Cause{}
	seen, _ := r.see()
	doubtful, standing := guesses(ref.Atlas, seen.Values)
	// What was measured as it should be may have been measured on the wrong face too; that is rare, and large parts take
	// long: as many of these are tried as half of what may be tried anew.
	standing = standing[:min(len(standing), budget.Half())]
	// fit tries causes; it gives nothing where they do not fit better than the ones before.
	fit := func(causes []atlas.Cause) (*frame, error) {
		if !budget.Take() {
			return nil, nil
		}
		v, err := atlas.With(ctx, r.Rebuilder, r.ex, ref.Document, causes)
		if err != nil || v == nil {
			return nil, err
		}
		other := *r
		other.ref = v.Geometry
		if other.pose, other.match = inspect.FindPose(v.Geometry, r.att); other.pose.Misfit > fitsBetter*by.pose.Misfit {
			return nil, nil
		}
		return &other, nil
	}
	if len(found.Causes) > 0 {
		better, err := fit(found.Causes)
		if err != nil {
			return nil, err
		}
		if better != nil {
			by, causes = better, found.Causes
		}
	}
	// best is the best of some guesses, beside the causes that there are.
	best := func(list []atlas.Cause) (best *frame, guess atlas.Cause, err error) {
		for _, c := range list {
			if slices.ContainsFunc(causes, func(x atlas.Cause) bool { return x.Size == c.Size && x.Entry == c.Entry }) {
				continue
			}
			other, err := fit(append(slices.Clone(causes), c))
			if err != nil {
				return nil, guess, err
			}
			if other != nil && (best == nil || other.pose.Misfit < best.pose.Misfit) {
				best, guess = other, c
			}
		}
		return best, guess, nil
	}
	for range mostGuesses {
		better, guess, err := best(doubtful)
		if err == nil && better == nil {
			better, guess, err = best(standing)
		}
		if err != nil {
			return nil, err
		}
		if better == nil {
			return found, nil
		}
		by, causes = better, append(slices.Clone(causes), guess)
		seen, _ := by.see()
		again, err := ref.Atlas.Explain(ctx, r.Rebuilder, r.ex, ref.Document, *seen, budget)
		if err != nil {
			return nil, err
		}
		if again.Complete {
			return again, nil
		}
	}
	return found, nil
}

// guesses are the causes that move faces far: sizes at twice and half of what they should be,
// and material that lies on another side. Apart from these are the sizes that all that shows them was measured to have.
//
// Twice and half are diameters read as radii, and totals as halves: the
// commonest sizes that are far off (common practice, no source).
func guesses(a *atlas.Atlas, measured atlas.Values) (doubtful, standing []atlas.Cause) {
	for i := range a.Sizes {
		s := &a.Sizes[i]
		if s.Derived || len(s.Holds) > 0 {
			continue
		}
		both := []atlas.Cause{{Size: s, Value: 2 * s.Nominal}, {Size: s, Value: s.Nominal / 2}}
		if s.Stands(a.Values, measured) {
			standing = append(standing, both...)
		} else {
			doubtful = append(doubtful, both...)
		}
	}
	for i := range a.Entries {
		switch e := &a.Entries[i]; e.Kind {
		case "direction", "about-plane", "one-side":
			doubtful = append(doubtful, atlas.Cause{Entry: e})
		}
	}
	return doubtful, standing
}

// mostGuesses bounds the sizes that are guessed one after the other.
const mostGuesses = 2

// mostAlike bounds the mistakes of the same figures that are laid over the attempt.
const mostAlike = 4

// confirm lays the attempt over the reference with the causes in it: figures that agree do not
// say where a feature stands. Of mistakes with the same figures that one is taken in which
// every face lies where the attempt has it; else a mistake that changes no figure (a ring begun half a pitch off) is
// looked for beside them; and where there is none, what was found does not explain all.
//
// Volume, area and moments are the same for a ring of holes begun half a pitch
// off on a round plate, and for a boss on the other of two equal sides. Only
// laying the faces over one another tells them apart.
func (r *frame) confirm(ctx context.Context, ref Reference, known, mine *inspect.Meshed,
	found *atlas.Explanation) (*atlas.Explanation, *frame, error) {
	if !found.Complete {
		return found, nil, nil
	}
	ways := [][]atlas.Cause{found.Causes}
	for _, e := range found.Alike[:min(len(found.Alike), mostAlike)] {
		ways = append(ways, []atlas.Cause{{Entry: e}})
	}
	if len(found.Causes) == 0 {
		if r.pose.Mirrored || len(mine.Strays(known, r.pose.Transform, atlas.InPlace)) == 0 {
			return found, nil, nil
		}
		ways = nil
	}
	for i := range ref.Atlas.Elsewhere {
		ways = append(ways, append(slices.Clone(found.Causes), atlas.Cause{Entry: &ref.Atlas.Elsewhere[i]}))
	}
	for _, causes := range ways {
		v, err := atlas.With(ctx, r.Rebuilder, r.ex, ref.Document, causes)
		if err != nil {
			return nil, nil, err
		}
		if v == nil {
			continue
		}
		wrong, err := inspect.MeshOf(r.k, v.Shape, v.Geometry)
		if err != nil {
			return nil, nil, err
		}
		if by := r.lies(mine, wrong); by != nil {
			sure := *found
			sure.Causes, sure.Expected = causes, v.Values
			return &sure, by, nil
		}
	}
	open := *found
	open.Complete = false
	return &open, nil, nil
}

// lies gives the attempt beside another solid on which every face of it lies, in its own pose on that one or
// the one that it has on the reference; nil where some do not.
//
// Both poses are tried, because either can be the one in which the wrong size
// moved less.
func (r *frame) lies(mine, other *inspect.Meshed) *frame {
	by := *r
	by.ref = other.Geometry
	by.pose, by.match = inspect.FindPose(other.Geometry, r.att)
	on := func() bool {
		return by.pose.Mirrored == r.pose.Mirrored && len(mine.Strays(other, by.pose.Transform, atlas.InPlace)) == 0
	}
	if on() {
		return &by
	}
	by.pose, by.match = r.pose, inspect.Match(other.Geometry, r.att.Moved(r.pose.Transform))
	if on() {
		return &by
	}
	return nil
}

// remeasured measures anew what the matching did not find, found on another face, or counted wrongly, where
// the attempt is known to be the reference with certain causes in it. That one has the faces of the
// attempt, and by lays it beside them: what is measured is measured on the attempt, and what that
// reference has not, the attempt has not. It gives the rows, and what is measured then.
//
// What was found on a wrong face has a measure far from what the explained reference measures: more than
// half a percent of the part's diagonal, or a degree. A measure that is near to it was taken on the
// right face, and stands.
func (r *frame) remeasured(by *frame, rows []row, values atlas.Values,
	measured map[string][]*float64) ([]row, map[string][]*float64, error) {
	rows, measured = slices.Clone(rows), maps.Clone(measured)
	for i, w := range rows {
		c := r.ex.Characteristic(w.ID)
		if c.Declared().Unplaced() || c.Declared().Counts ||
			w.Verdict == report.In && !r.astray(c, measured[w.ID], values[w.ID]) {
			continue
		}
		a, err := r.asks(c)
		if err != nil {
			return nil, nil, err
		}
		places, more, surplus := r.over(by.ref, a)
		again := by.judge(a, places, surplus)
		var have []*float64
		for _, p := range slices.Concat(places, more) {
			v, err := by.measure(c, p)
			if err != nil {
				have = append(have, nil)
				continue
			}
			have = append(have, &v)
		}
		measured[w.ID] = have
		why := "measured by the reference with the causes in it"
		if again.Reason != "" {
			why += ": " + again.Reason
		}
		rows[i] = w.judged(byExplaining, why, func(x *report.Characteristic) { *x = again.Characteristic })
	}
	return rows, measured, nil
}

// over finds the places of a characteristic on another state of the reference, by the names of their faces:
// nil where one is not there. more are those that only that one has, and surplus is how many instances
// it has more.
//
// Of instances around an axis those that are there are measured together.
func (r *frame) over(other *solid.Geometry, a *asked) (places, more []characteristic.Place, surplus int) {
	all, err := inspect.Places(other, a.Characteristic)
	if repeats(a.kind) && err == nil && len(all) == len(a.places) {
		return all, nil, instances(a.Characteristic, all) - instances(a.Characteristic, a.places)
	}
	for _, p := range a.places {
		var q characteristic.Place
		for _, operand := range p {
			var list []int
			for _, f := range operand {
				for _, name := range r.ref.Names[f] {
					at := other.Named(name)
					if len(at) == 0 { // made by itself there, with a size of its own
						at = other.Named(part.InTwin(name))
					}
					if len(at) > 0 {
						list = append(list, at[0])
						break
					}
				}
			}
			if len(list) < len(operand) {
				q = nil
				break
			}
			q = append(q, list)
		}
		places = append(places, q)
	}
	if a.kind.Surplus && err == nil && len(a.places) > 1 {
		for _, p := range all {
			if !slices.ContainsFunc(places, func(q characteristic.Place) bool { return slices.Equal(q.Faces(), p.Faces()) }) {
				more = append(more, p)
			}
		}
	}
	return places, more, len(more)
}

// astray tells whether a place was not found, or measures far from what it must.
//
// Values are compared in order, since places have no fixed order.
func (r *frame) astray(c *exercise.Characteristic, have []*float64, want []float64) bool {
	if len(have) != len(want) {
		return false
	}
	far := 0.005 * r.ref.Box.Diagonal()
	if characteristic.Of(c.Kind).Dim == quantity.Angle {
		far = quantity.Degree.Factor
	}
	var got []float64
	for _, v := range have {
		if v == nil {
			return true
		}
		got = append(got, *v)
	}
	slices.Sort(got)
	for k, v := range slices.Sorted(slices.Values(want)) {
		if math.Abs(got[k]-v) > far {
			return true
		}
	}
	return false
}

// moved tells whether a cause changes a characteristic.
//
// For a size the slopes say so: the change of each characteristic by it.
func moved(c atlas.Cause, a *atlas.Atlas, id string) bool {
	if c.Size != nil {
		return len(c.Size.Slopes[id]) > 0
	}
	was, is := a.Values[id], c.Entry.Values[id]
	if len(was) != len(is) {
		return true
	}
	for k := range was {
		if math.Abs(was[k]-is[k]) > carryTolerance {
			return true
		}
	}
	return false
}

// expected tells whether what was measured at the places of a note is what the rebuilt
// reference measures there, whichever place is which.
//
// A place that was not found is not expected either.
func expected(have []*float64, want []float64) bool {
	var got []float64
	for _, v := range have {
		if v != nil {
			got = append(got, *v)
		}
	}
	if len(got) != len(want) || len(got) == 0 {
		return false
	}
	slices.Sort(got)
	sorted := slices.Sorted(slices.Values(want))
	for k := range got {
		if math.Abs(got[k]-sorted[k]) > carryTolerance {
			return false
		}
	}
	return true
}

// cause puts one cause into words of the sheet. A size is told by the characteristic that
// shows it best: the one that is bound to the parameter, else the one that changes most
// with it.
//
// Angles are weighed down by a thousand against lengths, being in radians; a
// characteristic that is bound to the parameter goes before all others.
func (r *frame) cause(c *atlas.Cause, a *atlas.Atlas, complete bool, rows []row) *report.Cause {
	sure := "likely"
	if !complete {
		sure = "possible"
	}
	var root *row
	best := 0.0
	if e := c.Entry; e != nil {
		out := &report.Cause{Kind: e.Kind, What: e.What, Cause: e.Cause, Remedy: e.Remedy, Sure: sure, Also: []int{},
			Parameter: cmp.Or(e.Parameter, e.Uses)}
		// The characteristic that is farthest off shows it; what is not found shows itself.
		for i := range rows {
			row := &rows[i]
			if row.Verdict != report.Out || row.Deviation == nil || !moved(*c, a, row.ID) {
				continue
			}
			off := math.Abs(*row.Deviation) / math.Max(math.Abs(row.Nominal), 1e-9)
			if row.ID == e.Characteristic {
				off = math.Inf(1) // it states the size in which the mistake is
			}
			if off > best+1e-6 {
				root, best = row, off
			}
		}
		if root != nil && !slices.Contains(featureKinds, e.Kind) {
			out.Characteristic, out.Balloon = root.ID, root.Balloon
		}
		return out
	}
	for i := range rows {
		row := &rows[i]
		if row.Verdict != report.Out && !slices.ContainsFunc(row.Places, func(p report.Place) bool {
			return p.Verdict == report.Out
		}) {
			continue
		}
		list := c.Size.Slopes[row.ID]
		if len(list) == 0 {
			continue
		}
		weight := 0.0
		for _, s := range list {
			weight = math.Max(weight, math.Abs(s))
		}
		if characteristic.Of(row.Kind).Dim != c.Size.Dim {
			weight /= 1000
		}
		if x := r.ex.Characteristic(row.ID); x != nil && x.Parameter == c.Size.Parameter {
			weight += 1000
		}
		if weight > best+1e-6 {
			root, best = row, weight
		}
	}
	out := &report.Cause{Kind: "size", Sure: sure, Also: []int{}, Parameter: c.Size.Parameter,
		Value: r.ofDim(c.Size.Dim, c.Value)}
	if root == nil {
		// The sheet does not state it: nothing is said of what it should be.
		out.What = fmt.Sprintf("a size that no dimension states by itself is not the sheet's: it measures %s", out.Value)
		out.Remedy = "work it out from the dimensions around it"
		return out
	}
	out.Characteristic, out.Balloon = root.ID, root.Balloon
	out.What = fmt.Sprintf("%s: the sheet states %s, the model has %s", root.Label, root.NominalText, root.MeasuredText)
	return out
}
