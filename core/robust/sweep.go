// Package robust varies the driving sizes of a model and says whether it follows
// the reference.
package robust

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"math"
	"strings"

	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// Percents are the changes that a sweep tries on every driving parameter.
var Percents = []float64{-10, 10, 25}

// figures are what a rebuilt model is compared by; they do not depend on pose.
type figures struct {
	volume, area, inertia float64
	solids                int
	middle                solid.Vec // the centroid, for how far it moves
}

// values are what two rebuilt parts are compared by: volume, area, and the trace
// of the inertia. The trace is the same in every pose, so that a part that was
// modelled elsewhere is compared without being laid over the other.
func (f figures) values() [3]float64 { return [3]float64{f.volume, f.area, f.inertia} }

// Share is the part of a search that one of several processes carries out: what is
// searched is dealt out one by one, and this takes every Of-th, from Index on. The zero
// value takes all.
type Share struct{ Index, Of int }

// has tells whether a case belongs to this share of the work; they are dealt out
// in turns, since neighbouring cases take about equally long.
func (s Share) has(i int) bool { return s.Of < 2 || i%s.Of == s.Index }

// Sweeper rebuilds reference and attempt at the same values.
type Sweeper struct {
	Rebuilder *part.Rebuilder
	Exercise  *exercise.Exercise
	Reference *part.Document
	Attempt   *part.Document
	Cache     *Cache // optional: what the reference measured before
	// Scale brings lengths of the attempt to the reference's where its unit is wrong; 1 when 0.
	Scale float64
	key   [32]byte
}

// own is the value in the attempt that answers to one of the reference.
func (s *Sweeper) own(q quantity.Quantity) quantity.Quantity {
	if s.Scale != 0 {
		q.Value /= math.Pow(s.Scale, float64(q.Dim.Length))
	}
	return q
}

// Cache keeps the figures of references at swept values, so that many attempts
// at one exercise rebuild the reference once. It is not safe for concurrent use.
type Cache struct {
	entries map[string]cacheEntry
	spans   map[[32]byte][]Span
}

type cacheEntry struct {
	figures figures
	fails   bool
}

// maxCache bounds the entries; a cache that is full starts anew.
const maxCache = 20000

// reference gives the figures of the reference with one parameter changed, and
// whether it fails there.
func (s *Sweeper) reference(ctx context.Context, name string, v quantity.Quantity) (figures, bool, error) {
	key := entryKey(s.key, name, v.Value)
	if s.Cache != nil {
		if e, ok := s.Cache.entries[key]; ok {
			return e.figures, e.fails, nil
		}
	}
	b, err := s.Rebuilder.Rebuild(ctx, s.Reference, map[string]quantity.Quantity{name: v})
	if err != nil {
		return figures{}, false, err
	}
	f, err := s.measure(b)
	e := cacheEntry{f, err != nil || len(b.Failed()) > 0}
	if s.Cache != nil {
		s.Cache.keep(key, e)
	}
	return e.figures, e.fails, nil
}

func entryKey(document [32]byte, name string, value float64) string {
	return fmt.Sprintf("%x/%s/%x", document, name, value)
}

func (c *Cache) keep(key string, e cacheEntry) {
	if c.entries == nil || len(c.entries) > maxCache {
		c.entries = map[string]cacheEntry{}
	}
	c.entries[key] = e
}

// Partner is the parameter of the attempt that answers to one of the reference.
type Partner struct {
	Reference, Attempt string
	Match              string // name, value, value and effect, or none
	fits               []string
}

// Pairs pairs the driving parameters of the reference with those of the
// attempt: by name, else by a value that only one unpaired driving parameter
// has.
func (s *Sweeper) Pairs(ref, att *quantity.Table) []Partner {
	taken := map[string]bool{}
	var out []Partner
	for _, name := range ref.Driving() {
		p := Partner{Reference: name, Match: "none"}
		for _, other := range att.Order() {
			if strings.EqualFold(other, name) {
				p.Attempt, p.Match = other, "name"
				taken[other] = true
			}
		}
		out = append(out, p)
	}
	for i := range out {
		if out[i].Match != "none" {
			continue
		}
		want, _ := ref.Lookup(out[i].Reference)
		want = s.own(want)
		var fits []string
		for _, other := range att.Driving() {
			q, _ := att.Lookup(other)
			if !taken[other] && q.Dim == want.Dim && math.Abs(q.Value-want.Value) <= 1e-9*math.Abs(want.Value) {
				fits = append(fits, other)
			}
		}
		out[i].fits = fits
		if len(fits) == 1 {
			out[i].Attempt, out[i].Match = fits[0], "value"
			taken[fits[0]] = true
		}
	}
	return out
}

// briefly makes failed steps say only that they fail, until the returned function is
// called.
func (s *Sweeper) briefly() func() {
	was := s.Rebuilder.Brief
	s.Rebuilder.Brief = true
	return func() { s.Rebuilder.Brief = was }
}

// begin finds the key under which the reference's figures are kept.
func (s *Sweeper) begin() (err error) {
	s.key, err = keyOf(s.Reference)
	return err
}

// keyOf is the same for the same document.
func keyOf(d *part.Document) ([32]byte, error) {
	body, err := json.Marshal(d)
	return sha256.Sum256(body), err
}

// Changed is a size changed by a percentage of it. A count goes up or down by whole ones.
func Changed(q quantity.Quantity, percent float64) quantity.Quantity {
	v := quantity.Quantity{Value: q.Value * (1 + percent/100), Dim: q.Dim}
	if q.Dim == quantity.Number && q.Value == math.Round(q.Value) {
		v.Value = q.Value + math.Copysign(math.Max(1, math.Round(math.Abs(q.Value*percent/100))), percent)
	}
	return v
}

// Run sweeps every driving parameter of the reference. progress is told how much
// is done, from 0 to 1.
func (s *Sweeper) Run(ctx context.Context, progress func(float64)) ([]report.Sweep, error) {
	defer s.briefly()()
	if err := s.begin(); err != nil {
		return nil, err
	}
	ref, err := s.Rebuilder.Rebuild(ctx, s.Reference, nil)
	if err != nil {
		return nil, err
	}
	att, err := s.Rebuilder.Rebuild(ctx, s.Attempt, nil)
	if err != nil {
		return nil, err
	}
	ref0, err := s.measure(ref)
	if err != nil {
		return nil, fmt.Errorf("the reference: %w", err)
	}
	att0, attErr := s.measureOwn(att)
	broken := map[string]bool{}
	for _, f := range att.Failed() {
		broken[f.ID] = true
	}
	out := make([]report.Sweep, 0, len(Percents)*len(ref.Table.Driving()))
	partners, err := s.partners(ctx, ref, att)
	if err != nil {
		return nil, err
	}
	for i, p := range partners {
		q, _ := ref.Table.Lookup(p.Reference)
		att0, err := s.from(ctx, p, q, att, att0, attErr)
		if err != nil {
			return nil, err
		}
		var worst *report.Sweep // the case that is looked into
		var at quantity.Quantity
		for k, pct := range Percents {
			progress(float64(i*len(Percents)+k) / float64(len(partners)*len(Percents)))
			v := Changed(q, pct)
			row := report.Sweep{Parameter: p.Reference, Match: p.Match, Attempt: p.Attempt, Percent: pct,
				Value: s.Exercise.State(v.Dim, v.Value).Text}
			if err := s.one(ctx, &row, p, v, ref0, att0, attErr, broken); err != nil {
				return nil, err
			}
			out = append(out, row)
			if unfollowed(row.Outcome) && (worst == nil || pct == likeliest) {
				worst, at = &out[len(out)-1], v
			}
		}
		if worst != nil {
			if err := s.explain(ctx, worst, p, at, ref, att, ref0, att0, broken); err != nil {
				return nil, err
			}
		}
	}
	progress(1)
	return out, nil
}

// from gives what the attempt measures where a parameter has the value that it has in the
// reference, from which it is varied; as it is, where it cannot be rebuilt there.
func (s *Sweeper) from(ctx context.Context, p Partner, q quantity.Quantity, att *part.Build, as figures,
	attErr error) (figures, error) {
	q = s.own(q)
	own, ok := att.Table.Lookup(p.Attempt)
	if p.Match == "none" || attErr != nil || !ok || math.Abs(own.Value-q.Value) <= 1e-9*math.Abs(q.Value) {
		return as, nil
	}
	b, err := s.Rebuilder.Rebuild(ctx, s.Attempt, map[string]quantity.Quantity{p.Attempt: q})
	if ctx.Err() != nil {
		return as, ctx.Err()
	}
	if err != nil || len(b.Failed()) > 0 {
		return as, nil
	}
	if f, err := s.measureOwn(b); err == nil {
		return f, nil
	}
	return as, nil
}

// likeliest is the change in percent by which what does not follow is looked into where it can be: a small one that
// makes the part larger, at which the least of it ends.
const likeliest = 10

// unfollowed tells that an attempt does not follow where the reference goes on.
func unfollowed(outcome string) bool {
	switch outcome {
	case report.Missing, report.Still, report.Differs, report.Breaks:
		return true
	}
	return false
}

// explain adds to a case that is not followed what is behind it.
func (s *Sweeper) explain(ctx context.Context, row *report.Sweep, p Partner, v quantity.Quantity, ref, att *part.Build,
	ref0, att0 figures, broken map[string]bool) error {
	if !unfollowed(row.Outcome) {
		return nil
	}
	var err error
	if row.Behind, row.Typed, err = s.behind(ctx, p, v, ref, att, ref0, att0, broken); err != nil {
		return err
	}
	if row.Outcome != report.Differs {
		return nil
	}
	if row.Half, err = s.half(ctx, p, v); err != nil && ctx.Err() == nil {
		err = nil // what cannot be rebuilt has no halves; the outcome itself stands
	}
	return err
}

// one compares attempt and reference at one other value of one size. The
// question is always whether the attempt does what the reference does: where the
// reference ends, the attempt may end too; where it stands, the attempt has to
// stand and to measure the same. Steps that failed before anything was varied
// are not held against it here.
func (s *Sweeper) one(ctx context.Context, row *report.Sweep, p Partner, v quantity.Quantity, ref0, att0 figures,
	attErr error, broken map[string]bool) error {
	refFig, refFails, err := s.reference(ctx, p.Reference, v)
	if err != nil {
		return err
	}
	switch {
	case p.Match == "none":
		row.Outcome, row.Detail = report.Missing, fmt.Sprintf("the model has no parameter %q, and none with its value",
			p.Reference)
		return nil
	case attErr != nil:
		row.Outcome, row.Detail = report.Breaks, "the model makes no solid"
		return nil
	}
	att, err := s.Rebuilder.Rebuild(ctx, s.Attempt, map[string]quantity.Quantity{p.Attempt: s.own(v)})
	if err != nil {
		if ctx.Err() != nil {
			return err
		}
		row.Outcome, row.Detail = report.Breaks, err.Error()
		return nil
	}
	attFig, attErr := s.measureOwn(att)
	for _, f := range att.Failed() {
		if !broken[f.ID] {
			row.Detail = f.Err.Error()
		}
	}
	attFails := attErr != nil || row.Detail != ""
	switch {
	case attFails && refFails:
		row.Outcome, row.Detail = report.BothEnd, "the reference ends there too"
	case attFails:
		row.Outcome = report.Breaks
		if row.Detail == "" {
			row.Detail = attErr.Error()
		}
	case refFails:
		row.Outcome, row.Detail = report.NoAnswer, "the reference cannot be rebuilt at this value"
	default:
		row.Outcome, row.Detail = judge(ref0, refFig, att0, attFig)
		if row.Outcome == report.Follows && row.Detail == "" {
			row.Detail = s.slides(ref0, refFig, att0, attFig)
			row.Slides = row.Detail != ""
		}
	}
	return nil
}

// judge compares the change of the attempt with the change of the reference.
// Where both agree at the nominal values they must agree to a millionth; where
// the attempt has wrong sizes already, a change cannot agree exactly: it must go
// the same way and be of the same size within a factor of four, in two of the
// three figures at least.
func judge(ref0, ref, att0, att figures) (outcome, detail string) {
	if ref.solids != att.solids {
		return report.Differs, fmt.Sprintf("it has %d solids there and should have %d", att.solids, ref.solids)
	}
	r0, r, a0, a := ref0.values(), ref.values(), att0.values(), att.values()
	exact, still, follows, moves := true, true, true, false
	for i := range r {
		exact = exact && math.Abs(r0[i]-a0[i]) <= 1e-6*math.Abs(r0[i])
		still = still && math.Abs(a[i]-a0[i]) <= 1e-9*math.Abs(a0[i])
		moves = moves || math.Abs(r[i]-r0[i]) > 1e-9*math.Abs(r0[i])
	}
	alike := 0
	for i := range r {
		want, got := r[i]-r0[i], a[i]-a0[i]
		follows = follows && math.Abs(r[i]-a[i]) <= 2e-6*math.Abs(r[i])
		if similar(want, got) || math.Max(math.Abs(want), math.Abs(got)) <= 2e-3*math.Abs(r0[i]) {
			alike++
		}
	}
	same := follows
	if !exact {
		follows = same || alike >= 2
	}
	switch {
	case still && moves:
		return report.Still, "nothing changes with it"
	case same:
		return report.Follows, ""
	case follows:
		return report.Follows, "apart from the sizes that are wrong already"
	}
	off := 100 * (a[0] - r[0]) / r[0]
	if math.Abs(off) < leastPercent {
		return report.Differs, "its volume is right there, and its shape is not"
	}
	return report.Differs, fmt.Sprintf("its volume is %+.2g %% off there", off)
}

// leastPercent is the difference of a volume that is worth a figure.
const leastPercent = 0.005

// slides tells of a part that follows and yet moves otherwise than the reference: its
// middle goes another way than the reference's does, whatever their poses.
func (s *Sweeper) slides(ref0, ref, att0, att figures) string {
	want, got := ref.middle.Distance(ref0.middle), att.middle.Distance(att0.middle)
	size := math.Cbrt(ref.volume)
	if math.Abs(want-got) <= 1e-4*size {
		return ""
	}
	far := func(v float64) string { return s.Exercise.State(quantity.Length, v).Text + " " + s.Exercise.Unit }
	return fmt.Sprintf("the part slides: its middle moves by %s, that of the reference by %s", far(got), far(want))
}

// similar tells whether two changes go the same way and are of one size.
func similar(a, b float64) bool { return a*b > 0 && math.Abs(math.Log(a/b)) < math.Log(4) }

// measure takes the figures of a rebuilt part. A volume that is not positive is
// a solid turned inside out, which the kernel can make of sizes that cross; it
// counts as failed.
func (s *Sweeper) measure(b *part.Build) (figures, error) {
	if b.Solid == nil {
		return figures{}, fmt.Errorf("there is no solid")
	}
	k := s.Rebuilder.Kernel()
	p, err := k.Props(b.Solid.Shape)
	if err != nil {
		return figures{}, err
	}
	if !(p.Volume > 0) {
		return figures{}, fmt.Errorf("the solid turns inside out")
	}
	return figures{p.Volume, p.Area, trace(p), b.Solid.Shape.Solids(), p.Centroid}, b.Solid.Shape.Err()
}

// measureOwn measures the attempt, its unit put right.
func (s *Sweeper) measureOwn(b *part.Build) (figures, error) {
	f, err := s.measure(b)
	if s.Scale != 0 {
		f.volume *= math.Pow(s.Scale, 3)
		f.area *= s.Scale * s.Scale
		f.inertia *= math.Pow(s.Scale, 5)
		f.middle = f.middle.Scale(s.Scale)
	}
	return f, err
}

// trace of the inertia, which no motion changes.
func trace(p solid.Props) float64 { return p.Inertia[0][0] + p.Inertia[1][1] + p.Inertia[2][2] }
