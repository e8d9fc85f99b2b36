package check

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
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
	"wall", "rounded"}

// countKinds are the causes that leave instances of a feature out, or add some.
var countKinds = []string{"count", "one-place", "missing"}

// explained is what was found behind an attempt, and the rows and figures in its light.
type explained struct {
	sought   bool // causes were looked for
	complete bool // they explain the attempt to the last figure
	behind   []atlas.Cause
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
	seen, measured := r.see()
	budget := atlas.NewBudget(len(r.ref.Faces))
	found, err := ref.Atlas.Explain(ctx, r.Rebuilder, r.ex, ref.Document, *seen, budget)
	if err != nil {
		return nil, err
	}
	if !found.Complete {
		if found, err = r.rematch(ctx, ref, found, budget); err != nil {
			return nil, err
		}
	}
	found, pose, err := r.confirm(ctx, ref, known, mine, found)
	if err != nil {
		return nil, err
	}
	if pose != nil {
		out.pose = r.told(*pose)
	}
	out.sought, out.complete = true, found.Complete
	if found.Complete {
		out.behind = found.Causes
		out.rows, measured = r.filled(rows, found.Expected, measured)
	}
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

// carry says of every row that is out, and shows no cause by itself, on which of the causes it
// hangs; and where it measures just what the reference with them measures, that it costs nothing.
//
// It measures what the reference with the cause measures: then the student has
// made the rest right, and consistently so. The row stays out, since the part
// is, and costs nothing.
func (e *explained) carry(a *atlas.Atlas, found *atlas.Explanation, roots map[string]bool,
	measured map[string][]*float64) {
	e.rows = slices.Clone(e.rows)
	for i, w := range e.rows {
		if w.Verdict == report.In || roots[w.ID] {
			continue
		}
		behind := false
		for k, c := range found.Causes {
			if !moved(c, a, w.ID) && !(w.miscounted && c.Entry != nil && slices.Contains(countKinds, c.Entry.Kind)) {
				continue
			}
			behind = true
			if at := &e.causes[min(k, len(e.causes)-1)]; !slices.Contains(at.Also, w.Balloon) {
				at.Also = append(at.Also, w.Balloon)
			}
		}
		if !behind {
			continue
		}
		carried := w.Verdict == report.Out && expected(measured[w.ID], found.Expected[w.ID])
		why := "it hangs on what is wrong already"
		if carried {
			why = "it measures what the reference with the causes in it measures"
		}
		e.rows[i] = w.judged(byCarrying, why, func(c *report.Characteristic) { c.Behind, c.Carried = true, carried })
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
	seen = &atlas.Seen{Figures: atlas.FiguresOf(r.att.Props, r.att.Solids, t), Values: atlas.Values{}}
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
	by, causes := r, []atlas.Cause{}
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
	for range mostGuesses {
		var best *frame
		var guess atlas.Cause
		for _, c := range guesses(ref.Atlas) {
			if slices.ContainsFunc(causes, func(x atlas.Cause) bool { return x.Size == c.Size && x.Entry == c.Entry }) {
				continue
			}
			other, err := fit(append(slices.Clone(causes), c))
			if err != nil {
				return nil, err
			}
			if other != nil && (best == nil || other.pose.Misfit < best.pose.Misfit) {
				best, guess = other, c
			}
		}
		if best == nil {
			return found, nil
		}
		by, causes = best, append(slices.Clone(causes), guess)
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
// and material that lies on another side.
//
// Twice and half are diameters read as radii, and totals as halves: the
// commonest sizes that are far off (common practice, no source).
func guesses(a *atlas.Atlas) []atlas.Cause {
	var out []atlas.Cause
	for i := range a.Sizes {
		s := &a.Sizes[i]
		out = append(out, atlas.Cause{Size: s, Value: 2 * s.Nominal}, atlas.Cause{Size: s, Value: s.Nominal / 2})
	}
	for i := range a.Entries {
		switch e := &a.Entries[i]; e.Kind {
		case "direction", "about-plane", "one-side":
			out = append(out, atlas.Cause{Entry: e})
		}
	}
	return out
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
	found *atlas.Explanation) (*atlas.Explanation, *inspect.Pose, error) {
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
		if pose, ok := r.lies(mine, wrong); ok {
			sure := *found
			sure.Causes, sure.Expected = causes, v.Values
			// Where a wrong size moves faces, the part with it in says how the attempt was placed.
			return &sure, &pose, nil
		}
	}
	open := *found
	open.Complete = false
	return &open, nil, nil
}

// lies gives the pose in which every face of the attempt lies on another solid: its own on that
// one, or the one that it has on the reference.
//
// Both poses are tried, because either can be the one in which the wrong size
// moved less.
func (r *frame) lies(mine, other *inspect.Meshed) (inspect.Pose, bool) {
	own, _ := inspect.FindPose(other.Geometry, r.att)
	for _, pose := range []inspect.Pose{own, r.pose} {
		if pose.Mirrored == r.pose.Mirrored && len(mine.Strays(other, pose.Transform, atlas.InPlace)) == 0 {
			return pose, true
		}
	}
	return own, false
}

// filled puts in what the matching did not find, or found on another face, where the
// attempt is known to be the reference with certain causes in it: that one measures it by
// its own names. A measure that is near to that one was taken on the right face, and
// stands: figures of the whole part do not show a deviation that small. It gives the rows, and
// what is measured then.
//
// What was found on a wrong face has a measure far from what the explained
// reference measures: more than half a percent of the part's diagonal, or a
// degree. That one is replaced; the causes explain every figure of the part, so
// that this measure is known.
func (r *frame) filled(rows []row, values atlas.Values, measured map[string][]*float64) ([]row, map[string][]*float64) {
	rows, measured = slices.Clone(rows), maps.Clone(measured)
	for i, w := range rows {
		c := r.ex.Characteristic(w.ID)
		list := values[w.ID]
		// Of holes around an axis the value says nothing of how many there are.
		if !r.astray(c, measured[w.ID], list) || len(list) != len(w.Places) || len(list) == 0 || c.Declared().Around ||
			c.Declared().Counts {
			continue
		}
		have := make([]*float64, len(list))
		for k := range list {
			have[k] = &list[k]
		}
		measured[w.ID] = have
		rows[i] = w.judged(byExplaining, "the reference with the causes in it measures it", func(x *report.Characteristic) {
			worst := -1.0
			for k := range x.Places {
				v := shown(c, list[k])
				p := &x.Places[k]
				p.Measured, p.Verdict = &v, report.Out
				if slack := shown(c, 1e-6); v >= x.Lower-slack && v <= x.Upper+slack {
					p.Verdict = report.In
				}
				if d := v - x.Nominal; math.Abs(d) > worst {
					worst = math.Abs(d)
					x.Measured, x.Deviation = &v, &d
					x.MeasuredText, x.DeviationText = r.number(c.Kind, list[k]), r.signed(c.Kind, list[k]-unshown(c, x.Nominal))
				}
			}
			x.Verdict, x.Reason = overall(x.Places), ""
		})
	}
	return rows, measured
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
// A place that was not found cannot be as expected.
func expected(have []*float64, want []float64) bool {
	if len(have) != len(want) || len(have) == 0 {
		return false
	}
	var got []float64
	for _, v := range have {
		if v == nil {
			return false
		}
		got = append(got, *v)
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
		if root != nil && e.Kind != "missing" && e.Kind != "one-place" {
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
