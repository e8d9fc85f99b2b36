package atlas

import (
	"cmp"
	"context"
	"maps"
	"slices"

	"hammerset/core/diagnose/reading"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/solid"
)

// Bounds of what is read off an attempt: mistakes that are tried singly and in pairs, and the rebuilds that it
// may take.
const (
	mostRead     = 8
	mostReadings = 40
)

// read looks for mistakes that the faces of the attempt show: those of the atlas whose faces it lacks, and
// what has become of features that are there (package reading). Where sizes explain a part of it, the attempt is
// read beside the reference with those sizes too, as it lies better on that one.
//
// All that is read is tried together first, as each shows by itself; then one of them, then two. Sizes may be
// wrong beside.
func (f *finder) read(ctx context.Context, reference *part.Document, sizes *Explanation) (*Explanation, error) {
	if f.seen.Attempt == nil {
		return nil, nil
	}
	f.left = max(f.left, 0) + mostReadings
	bases := [][]Cause{nil}
	if sizes != nil && len(sizes.Causes) > 0 {
		bases = append(bases, sizes.Causes)
	}
	var tried [][]string
	for _, causes := range bases {
		sets, err := f.readings(ctx, reference, causes)
		if err != nil {
			return nil, err
		}
		for _, set := range sets {
			var key []string
			for _, e := range set {
				key = append(key, e.What)
			}
			if slices.ContainsFunc(tried, func(o []string) bool { return slices.Equal(o, key) }) {
				continue
			}
			tried = append(tried, key)
			found, err := f.beside(ctx, set)
			if err != nil || found != nil {
				return found, err
			}
		}
	}
	return nil, nil
}

// beside tells whether some mistakes, with a few sizes, are the attempt.
func (f *finder) beside(ctx context.Context, set []*Entry) (*Explanation, error) {
	var edits []part.Alteration
	for _, e := range set {
		edits = append(edits, e.Alterations...)
	}
	// Figures that agree say more than measures, which may have been taken on the wrong faces.
	fig, v, ok, err := f.variant(ctx, edits, nil)
	if err != nil || !ok {
		return nil, err
	}
	found := &Explanation{Complete: true, Expected: v}
	if !fig.same(f.seen.Figures) {
		if found, err = f.sizes(ctx, edits, mostBeside); err != nil || found == nil {
			return nil, err
		}
	}
	var causes []Cause
	for _, e := range set {
		causes = append(causes, Cause{Entry: e})
	}
	found.Causes = append(causes, found.Causes...)
	if found.Complete {
		return f.needed(ctx, found)
	}
	if f.fits(found) && (f.partly == nil || found.far < 0.7*f.partly.far) {
		f.partly = found
	}
	return nil, nil
}

// needed leaves out the mistakes of an explanation without which the part is the same.
func (f *finder) needed(ctx context.Context, e *Explanation) (*Explanation, error) {
	for k := 0; k < len(e.Causes) && len(e.Causes) > 1; {
		if e.Causes[k].Entry == nil {
			break // sizes come after them
		}
		rest := slices.Delete(slices.Clone(e.Causes), k, k+1)
		edits, set := made(rest)
		fig, v, ok, err := f.variant(ctx, edits, set)
		if err != nil {
			return nil, err
		}
		if ok && fig.same(f.seen.Figures) {
			e.Causes, e.Expected = rest, v
			continue
		}
		k++
	}
	return e, nil
}

// readings lists the sets of mistakes that the attempt shows beside the reference with causes in it, in the order
// in which they are tried.
func (f *finder) readings(ctx context.Context, reference *part.Document, causes []Cause) ([][]*Entry, error) {
	edits, set := made(causes)
	base, _, err := f.solid(ctx, edits, set)
	if err != nil || base == nil {
		return nil, err
	}
	pose, match := inspect.FindPose(base, f.seen.Attempt)
	laid := f.seen.Attempt.Moved(pose.Transform)
	laid = laid.Moved(solid.Translation(inspect.Settle(base, laid, match)))
	r := &reading.Reader{Document: reference, Part: base, Attempt: laid, Match: match}
	var list []*Entry
	for _, m := range r.Mistakes() {
		e := &Entry{Kind: m.Kind, Step: m.Step, What: m.What, Cause: m.Cause, Remedy: m.Remedy, Alterations: m.Alterations}
		if len(list) == mostRead {
			break
		}
		ok, err := f.enter(ctx, e)
		if err != nil {
			return nil, err
		}
		if ok && !e.Figures.same(f.a.Figures) {
			list = append(list, e)
		}
	}
	lacking := f.lacking(base, match)
	// One of those that say something of the same step, with what is lacking at other steps.
	together := slices.Clone(lacking)
	for _, e := range list {
		if !slices.ContainsFunc(together, func(o *Entry) bool { return o.Step == e.Step }) {
			together = append(together, e)
		}
	}
	sets := [][]*Entry{together}
	list = append(list, lacking...)
	for _, e := range list {
		sets = append(sets, []*Entry{e})
	}
	for k, e := range list {
		for _, o := range list[:k] {
			if o.Step != e.Step {
				sets = append(sets, []*Entry{o, e})
			}
		}
	}
	return slices.DeleteFunc(sets, func(s []*Entry) bool { return len(s) == 0 }), nil
}

// lacking lists mistakes of the atlas that take away the faces that the attempt has nothing for: those that
// take away most, and of the rest again.
func (f *finder) lacking(base *solid.Geometry, match inspect.Matching) []*Entry {
	gone := map[string]bool{}
	for i, j := range match.Of {
		if j < 0 && i < len(base.Names) {
			for _, name := range base.Names[i] {
				gone[name] = true
			}
		}
	}
	var list []*Entry
	for i := range f.a.Entries {
		e := &f.a.Entries[i]
		if len(e.Gone) > 0 && !slices.ContainsFunc(e.Gone, func(n string) bool { return !gone[n] }) {
			list = append(list, e)
		}
	}
	slices.SortStableFunc(list, func(a, b *Entry) int { return cmp.Compare(len(b.Gone), len(a.Gone)) })
	var out []*Entry
	for _, e := range list {
		left := maps.Clone(gone)
		for _, o := range out {
			for _, n := range o.Gone {
				delete(left, n)
			}
		}
		if !slices.ContainsFunc(e.Gone, func(n string) bool { return !left[n] }) && len(out) < mostBeside+1 {
			out = append(out, e)
		}
	}
	return out
}
