package robust

import (
	"context"
	"fmt"
	"math"
	"strings"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
)

// The intervals in which an attempt follows the reference. Trying ten fixed
// values tells whether a model breaks somewhere; this tells from where on, and
// whether the part itself ends there as well.

// Followed says in which interval of one driving parameter an attempt follows the
// reference. Shares are relative to the nominal value: -0.5 is half of it less, 1
// twice as much.
type Followed struct {
	Parameter string       `json:"parameter"`
	Attempt   string       `json:"attempt"`
	Match     string       `json:"match"`
	Nominal   string       `json:"nominal"`
	Low       FollowedEnd  `json:"low"`
	High      FollowedEnd  `json:"high"`
	Reference [2]Reference `json:"reference"` // its own ends, below and above
}

// FollowedEnd is one end of the interval of the attempt.
type FollowedEnd struct {
	Share float64 `json:"share"`
	Value string  `json:"value"`
	Ends  bool    `json:"ends"` // it stops following here; else the search ends
	Both  bool    `json:"both"` // the reference ends there too
	Why   string  `json:"why"`
}

// Reference is one end of the interval in which the reference itself holds.
type Reference struct {
	Share float64 `json:"share"`
	Ends  bool    `json:"ends"`
}

// Together is one what-if of the exercise, with all its changes at once.
type Together struct {
	Name    string `json:"name"`
	Outcome string `json:"outcome"`
	Detail  string `json:"detail"`
}

// Interval in which parameters are varied where the reference gives none: from half to
// twice their value.
const (
	leastShare = -0.5
	mostShare  = 1.0
)

// Follow finds, for every driving parameter of the reference, how far the attempt
// follows it, by bisection to 1e-3 of the value, and judges the what-ifs of the
// exercise: all of them, or those of a share. What the reference does is kept in the
// sweeper's cache.
//
// The attempt is held against the reference at the same value, so that what the
// reference does is part of the question: where it ends, nobody is asked to go
// on.
func (s *Sweeper) Follow(ctx context.Context, share Share, progress func(float64)) ([]Followed, []Together, error) {
	defer s.briefly()()
	if err := s.begin(); err != nil {
		return nil, nil, err
	}
	ref, err := s.Rebuilder.Rebuild(ctx, s.Reference, nil)
	if err != nil {
		return nil, nil, err
	}
	att, err := s.Rebuilder.Rebuild(ctx, s.Attempt, nil)
	if err != nil {
		return nil, nil, err
	}
	ref0, err := s.measure(ref)
	if err != nil {
		return nil, nil, fmt.Errorf("the reference: %w", err)
	}
	att0, attErr := s.measureOwn(att)
	broken := map[string]bool{}
	for _, f := range att.Failed() {
		broken[f.ID] = true
	}
	partners, err := s.partners(ctx, ref, att)
	if err != nil {
		return nil, nil, err
	}
	out := []Followed{}
	for i, p := range partners {
		if !share.has(i) {
			continue
		}
		f := &follower{Sweeper: s, pair: p, ref0: ref0, attErr: attErr, broken: broken, ref: ref, att: att}
		f.nominal, _ = ref.Table.Lookup(p.Reference)
		if f.att0, err = s.from(ctx, p, f.nominal, att, att0, attErr); err != nil {
			return nil, nil, err
		}
		row := Followed{Parameter: p.Reference, Attempt: p.Attempt, Match: p.Match, Nominal: f.text(0)}
		for k, end := range s.ends(ref.Table, p.Reference, f.nominal) {
			progress((float64(i) + float64(k)/2) / float64(len(partners)))
			if row.Reference[k], err = f.reference(ctx, end); err != nil {
				return nil, nil, err
			}
			e, err := f.end(ctx, row.Reference[k])
			if err != nil {
				return nil, nil, err
			}
			*[]*FollowedEnd{&row.Low, &row.High}[k] = e
		}
		out = append(out, row)
	}
	together, err := s.together(ctx, share, ref, partners, ref0, att0, attErr)
	progress(1)
	return out, together, err
}

// follower finds how far an attempt follows in one driving parameter.
type follower struct {
	*Sweeper
	pair       Partner
	nominal    quantity.Quantity
	ref0, att0 figures
	ref, att   *part.Build
	attErr     error
	broken     map[string]bool
}

// at is the value at a share of the nominal one; a count stays whole.
//
// A share is of the size's amount, so that a negative size grows the same way. A
// count of 2.5 is none, and is rounded.
func (f *follower) at(share float64) quantity.Quantity {
	q := f.nominal
	v := quantity.Quantity{Value: q.Value + share*math.Abs(q.Value), Dim: q.Dim}
	if q.Dim == quantity.Number && q.Value == math.Trunc(q.Value) {
		v.Value = math.Round(v.Value)
	}
	return v
}

// text is the size at a share of its nominal, as the sheet would state it.
//
// In the sheet's own manner, with the sheet's decimals and unit.
func (f *follower) text(share float64) string {
	v := f.at(share)
	return f.Exercise.State(v.Dim, v.Value).Text
}

// reference is how far the reference goes towards an end.
//
// It ends where a step fails, or where it falls into another number of solids.
func (f *follower) reference(ctx context.Context, end float64) (Reference, error) {
	last, _, err := search(end, func(share float64) (string, error) {
		m, fails, err := f.Sweeper.reference(ctx, f.pair.Reference, f.at(share))
		if fails || err == nil && m.solids != f.ref0.solids {
			return "the reference ends", err
		}
		return "", err
	})
	return Reference{Share: last, Ends: last != end}, err
}

// end is how far the attempt follows towards where the reference ends, and why no farther.
//
// The last case that did not follow lies nearest to the end; it is the one
// explained.
func (f *follower) end(ctx context.Context, ref Reference) (FollowedEnd, error) {
	var bad report.Sweep // the nearest case that does not follow
	var badAt quantity.Quantity
	share, why, err := search(ref.Share, func(share float64) (string, error) {
		var one report.Sweep
		if err := f.one(ctx, &one, f.pair, f.at(share), f.ref0, f.att0, f.attErr, f.broken); err != nil {
			return "", err
		}
		if one.Outcome == report.Follows {
			return "", nil
		}
		if one.Detail == "" {
			one.Detail = one.Outcome
		}
		bad, badAt = one, f.at(share)
		return one.Detail, nil
	})
	if err != nil {
		return FollowedEnd{}, err
	}
	e := FollowedEnd{Share: share, Value: f.text(share), Ends: share != ref.Share, Both: share == ref.Share &&
		ref.Ends, Why: why}
	switch {
	case e.Both:
		e.Why = "the part itself ends there"
	case why != "":
		if err := f.explain(ctx, &bad, f.pair, badAt, f.ref, f.att, f.ref0, f.att0, f.broken); err != nil {
			return e, err
		}
		if bad.Half != "" {
			e.Why += "; " + bad.Half
		}
		if bad.Behind != nil {
			e.Why += "; " + bad.Behind.Words()
		} else if len(bad.Typed) > 0 {
			e.Why += "; a number is typed: " + strings.Join(bad.Typed, ", ")
		}
	}
	return e, nil
}

// ends gives the interval in which a parameter of the reference is varied, in shares of
// its value: the one that the reference states for it, where it lies on that side.
//
// The maker of the exercise may state in which range a size makes sense; only on
// that side of the nominal value does the range count.
func (s *Sweeper) ends(t *quantity.Table, name string, q quantity.Quantity) []float64 {
	out := []float64{leastShare, mostShare}
	for _, p := range s.Reference.Parameters {
		if p.Name != name || q.Value == 0 {
			continue
		}
		for k, f := range []string{p.Least, p.Most} {
			if v, err := t.Eval(f, q.Dim); f != "" && err == nil {
				if share := (v - q.Value) / math.Abs(q.Value); share*out[k] > 0 {
					out[k] = share
				}
			}
		}
	}
	return out
}

// search finds how far towards an end nothing is wrong: the end itself is tried
// first, then the middle, and the first break between is closed in on by bisection.
// The share 0 is taken to be right.
//
// Bisection supposes that beyond a break all is broken. A part that follows,
// breaks and follows again has its first break found if that lies in the half
// that was tried, and the halfway point is tried because most breaks are wide.
func search(end float64, wrong func(share float64) (string, error)) (share float64, why string, err error) {
	good, bad := 0.0, end
	for _, try := range []float64{end / 2, end} {
		if end == 0 {
			break
		}
		w, err := wrong(try)
		if err != nil {
			return 0, "", err
		}
		if w != "" {
			bad, why = try, w
			break
		}
		good = try
	}
	if why == "" {
		return end, "", nil
	}
	for math.Abs(bad-good) > resolution {
		mid := (good + bad) / 2
		w, err := wrong(mid)
		if err != nil {
			return 0, "", err
		}
		if w == "" {
			good = mid
		} else {
			bad, why = mid, w
		}
	}
	return good, why, nil
}

// together judges the what-ifs of a share.
//
// What-ifs change several sizes at once. The attempt has to have all of them:
// one that is missing is named, and nothing is rebuilt.
func (s *Sweeper) together(ctx context.Context, share Share, ref *part.Build, partners []Partner, ref0, att0 figures,
	attErr error) ([]Together, error) {
	by := map[string]Partner{}
	for _, p := range partners {
		by[p.Reference] = p
	}
	out := []Together{}
	for i, w := range s.Exercise.WhatIfs {
		if !share.has(i) {
			continue
		}
		row := Together{Name: w.Name}
		key, att := map[string]quantity.Quantity{}, map[string]quantity.Quantity{}
		for name, formula := range w.Set {
			q, ok := ref.Table.Lookup(name)
			v, err := ref.Table.Eval(formula, q.Dim)
			if !ok || err != nil {
				return nil, fmt.Errorf("what-if %s: %s = %s cannot be worked out", w.Name, name, formula)
			}
			key[name] = quantity.Quantity{Value: v, Dim: q.Dim}
			if p := by[name]; p.Match != "none" && p.Match != "" {
				att[p.Attempt] = s.own(key[name])
			} else {
				row.Outcome, row.Detail = report.Missing, fmt.Sprintf("the model has no parameter %q, and none with its value",
					name)
			}
		}
		if row.Outcome == "" {
			r, err := s.Rebuilder.Rebuild(ctx, s.Reference, key)
			if err != nil {
				return nil, err
			}
			rf, rerr := s.measure(r)
			a, err := s.Rebuilder.Rebuild(ctx, s.Attempt, att)
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			switch {
			case rerr != nil || len(r.Failed()) > 0:
				row.Outcome, row.Detail = report.NoAnswer, "the reference cannot be rebuilt at these values"
			case err != nil:
				row.Outcome, row.Detail = report.Breaks, err.Error()
			case attErr != nil || len(a.Failed()) > 0:
				row.Outcome, row.Detail = report.Breaks, "the model makes no solid"
				if f := a.Failed(); len(f) > 0 {
					row.Detail = f[0].Err.Error()
				}
			default:
				af, err := s.measureOwn(a)
				if err != nil {
					row.Outcome, row.Detail = report.Breaks, err.Error()
				} else {
					row.Outcome, row.Detail = judge(ref0, rf, att0, af)
				}
			}
		}
		out = append(out, row)
	}
	return out, nil
}

// partners pairs parameters by name, by value, and, where several have the value, by
// effect: the one whose change by a tenth changes the attempt most as it changes the
// reference.
//
// A parameter renamed by a student still has its value. Where two have the same
// value, the one whose change by a tenth changes volume, area and the moments as
// the reference's does, to a millionth, is the partner.
func (s *Sweeper) partners(ctx context.Context, ref, att *part.Build) ([]Partner, error) {
	out := s.Pairs(ref.Table, att.Table)
	r0, err := s.measure(ref)
	if err != nil {
		return nil, err
	}
	a0, err := s.measureOwn(att)
	if err != nil {
		return out, nil
	}
	taken := map[string]bool{}
	for _, p := range out {
		taken[p.Attempt] = true
	}
	for i := range out {
		p := &out[i]
		if p.Match != "none" || len(p.fits) < 2 {
			continue
		}
		q, _ := ref.Table.Lookup(p.Reference)
		v := quantity.Quantity{Value: 1.1 * q.Value, Dim: q.Dim}
		r1, fails, err := s.reference(ctx, p.Reference, v)
		if err != nil {
			return nil, err
		}
		if fails {
			continue
		}
		best, off := "", 1e-6
		for _, name := range p.fits {
			if taken[name] {
				continue
			}
			b, err := s.Rebuilder.Rebuild(ctx, s.Attempt, map[string]quantity.Quantity{name: s.own(v)})
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if err != nil {
				continue
			}
			a1, err := s.measureOwn(b)
			if err != nil {
				continue
			}
			d := 0.0
			ra, rb, aa, ab := r0.values(), r1.values(), a0.values(), a1.values()
			for k := range ra {
				d = math.Max(d, math.Abs((rb[k]-ra[k])-(ab[k]-aa[k]))/ra[k])
			}
			if d < off {
				best, off = name, d
			}
		}
		if best != "" {
			p.Attempt, p.Match = best, "value and effect"
			taken[best] = true
		}
	}
	return out, nil
}
