package atlas

import (
	"cmp"
	"context"
	"math"
	"slices"

	"hammerset/core/diagnose/reading"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// leastShift is the shift below which a feature is taken to stand where it should, in millimetres.
const leastShift = 1e-3

// shifted looks for one feature that stands elsewhere as a whole, with what stands on it.
//
// A feature of volume v that is shifted by t changes no volume, and the first moments of volume by v t; so
// that t is known from them for each feature that might be it. The volume of a feature is what the part
// lacks where the feature is missing. The part with the shift in it must have the attempt's figures, as
// for every cause.
func (f *finder) shifted(ctx context.Context) (*Explanation, error) {
	was, is := f.a.Figures, f.seen.Figures
	if math.Abs(is.Inner[0]-was.Inner[0]) > agree*was.Inner[0] || is.Solids != was.Solids {
		return nil, nil
	}
	type candidate struct {
		e *Entry
		t solid.Vec
	}
	var list []candidate
	for i := range f.a.Entries {
		e := &f.a.Entries[i]
		v := was.Sums[0] - e.Figures.Sums[0]
		if e.Kind != "missing" || math.Abs(v) < 1e-6*was.Sums[0] {
			continue
		}
		t := solid.Vec{is.Sums[2] - was.Sums[2], is.Sums[3] - was.Sums[3], is.Sums[4] - was.Sums[4]}.Scale(1 / v)
		for k := range t { // what is left of rounding
			if math.Abs(t[k]) < leastShift {
				t[k] = 0
			}
		}
		if t.Norm() > leastShift && t.Norm() < 2*math.Cbrt(was.Sums[0]) {
			list = append(list, candidate{e, t})
		}
	}
	// Who puts something in the wrong place does so by little.
	slices.SortStableFunc(list, func(a, b candidate) int { return cmp.Compare(a.t.Norm(), b.t.Norm()) })
	for _, c := range list {
		e := f.shift(c.e, c.t)
		if e == nil {
			continue
		}
		fig, v, ok, err := f.variant(ctx, e.Alterations, nil)
		if err != nil {
			return nil, err
		}
		if ok && fig.same(is) {
			e.Figures, e.Values = fig, v
			return &Explanation{Causes: []Cause{{Entry: e}}, Complete: true, Expected: v}, nil
		}
	}
	return nil, nil
}

// shift is the mistake that the feature of an entry, which says that it is missing, stands elsewhere by t; nil
// where it is only a part of a step.
func (f *finder) shift(missing *Entry, t solid.Vec) *Entry {
	title := ""
	move := solid.Translation(t)
	var edits []part.Alteration
	for _, a := range missing.Alterations {
		if a.Path != "off" {
			return nil
		}
		for i := range f.doc.Steps {
			if s := &f.doc.Steps[i]; s.ID == a.Step {
				kind := s.Declared()
				if s.ID == missing.Step {
					title = s.Title()
				}
				if kind != nil && kind.Feature {
					edits = append(edits, part.Moved(s.ID, move))
				}
			}
		}
	}
	unit, err := quantity.LengthUnit(f.doc.Unit)
	if err != nil || len(edits) == 0 {
		return nil
	}
	m := reading.Shifted(title, t, unit)
	return &Entry{Kind: m.Kind, Step: missing.Step, Alterations: edits, What: m.What, Cause: m.Cause, Remedy: m.Remedy}
}
