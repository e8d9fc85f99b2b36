package robust

import (
	"context"
	"slices"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/sketch"
	"hammerset/core/sketch/interval"
)

// Span is how far a driving parameter can be varied before one of a model's
// sketches ends. The ends are in millimetres, radians or as plain numbers.
type Span struct {
	Step      string `json:"step"`
	Parameter string `json:"parameter"`
	interval.Interval
}

// Spans finds the intervals of the driving parameters in every sketch that they
// drive. Sketches that do not hold as they are have none.
func Spans(ctx context.Context, doc *part.Document) ([]Span, error) {
	table, err := doc.Table(nil)
	if err != nil {
		return nil, err
	}
	unit := table.Unit()
	var out []Span
	for i := range doc.Steps {
		step := &doc.Steps[i]
		drawn := step.Sketched()
		if drawn == nil {
			continue
		}
		sk := drawn.Geometry().Clone()
		sol, err := sketch.Geometry(sk, unit.Factor, table)
		if err != nil || !sol.Solved {
			continue
		}
		sol.System().Store(sk)
		for _, name := range table.Driving() {
			if !interval.Uses(sk, doc.Parameters, name) {
				continue
			}
			q, set, err := interval.Parameter(doc.Parameters, unit, name)
			if err != nil {
				return nil, err
			}
			if q.Dim == quantity.Number || q.Value <= 0 {
				continue // counts change by whole steps, which the sweep tries
			}
			found, err := interval.Find(ctx, sk, unit.Factor, q.Value, set)
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			if err != nil {
				continue
			}
			out = append(out, Span{step.ID, name, found})
		}
	}
	return out, nil
}

// spans gives the spans of a reference, from the cache where they are known.
func (s *Sweeper) spans(ctx context.Context) ([]Span, error) {
	if s.Cache != nil {
		if known, ok := s.Cache.spans[s.key]; ok {
			return known, nil
		}
	}
	out, err := Spans(ctx, s.Reference)
	if err == nil && s.Cache != nil {
		s.Cache.keepSpans(s.key, out)
	}
	return out, err
}

func (c *Cache) keepSpans(document [32]byte, list []Span) {
	if c.spans == nil || len(c.spans) > 200 {
		c.spans = map[[32]byte][]Span{}
	}
	c.spans[document] = list
}

// wider is by how much the reference must hold further than a sketch of the
// attempt, relative to the end, before that is said.
const wider = 0.02

// Intervals finds within which limits the sketches of the attempt hold, beside
// those of the reference's sketches where the parameters correspond. It gives the sketches of a
// report with their intervals.
func (s *Sweeper) Intervals(ctx context.Context, sketches []report.Sketch) ([]report.Sketch, error) {
	if err := s.begin(); err != nil {
		return nil, err
	}
	mine, err := Spans(ctx, s.Attempt)
	if err != nil {
		return nil, err
	}
	theirs, err := s.limits(ctx)
	if err != nil {
		return nil, err
	}
	_, table, err := s.tables()
	if err != nil {
		return nil, err
	}
	state := func(name string, v float64) string {
		q, _ := table.Lookup(name)
		return s.Exercise.State(q.Dim, v).Text
	}
	out := slices.Clone(sketches)
	for i := range out {
		for _, p := range mine {
			if p.Step != out[i].Step {
				continue
			}
			side := func(e interval.End) report.IntervalEnd {
				return report.IntervalEnd{Value: state(p.Parameter, e.Value), Open: e.Open, Why: e.Why}
			}
			row := report.Interval{Parameter: p.Parameter, Nominal: state(p.Parameter, p.Nominal), Low: side(p.Low),
				High: side(p.High)}
			if l, ok := theirs[p.Parameter]; ok {
				row.Reference = &report.ReferenceInterval{Low: state(p.Parameter, l.low.Value),
					High: state(p.Parameter, l.high.Value), LowOpen: l.low.Open, HighOpen: l.high.Open}
				row.Low.Early = !p.Low.Open && (l.low.Open || l.low.Value < p.Low.Value*(1-wider))
				row.High.Early = !p.High.Open && (l.high.Open || l.high.Value > p.High.Value*(1+wider))
			}
			out[i].Intervals = append(slices.Clip(out[i].Intervals), row)
		}
	}
	return out, nil
}

// limits are the ends of an interval.
type limits struct{ low, high interval.End }

// within narrows limits to those of one more sketch.
func (l limits) within(p Span) limits {
	if l.low.Open && !p.Low.Open || !p.Low.Open && p.Low.Value > l.low.Value {
		l.low = p.Low
	}
	if l.high.Open && !p.High.Open || !p.High.Open && p.High.Value < l.high.Value {
		l.high = p.High
	}
	return l
}

// limits gives, by the parameters of the attempt, within which all sketches of the reference hold.
// There are none in another unit, in which limits are not compared.
func (s *Sweeper) limits(ctx context.Context) (map[string]limits, error) {
	out := map[string]limits{}
	if s.Reference == nil || s.Scale != 0 && s.Scale != 1 {
		return out, nil
	}
	list, err := s.spans(ctx)
	if err != nil {
		return nil, err
	}
	narrowest := map[string]limits{}
	for _, p := range list {
		l, ok := narrowest[p.Parameter]
		if !ok {
			l = limits{p.Low, p.High}
		}
		narrowest[p.Parameter] = l.within(p)
	}
	ref, att, err := s.tables()
	if err != nil {
		return nil, err
	}
	for _, p := range s.Pairs(ref, att) {
		if l, ok := narrowest[p.Reference]; ok && p.Match != "none" {
			out[p.Attempt] = l
		}
	}
	return out, nil
}

// tables evaluates the parameters of reference and attempt.
func (s *Sweeper) tables() (ref, att *quantity.Table, err error) {
	for _, d := range []struct {
		doc *part.Document
		to  **quantity.Table
	}{{s.Reference, &ref}, {s.Attempt, &att}} {
		if d.doc == nil {
			continue
		}
		if *d.to, err = d.doc.Table(nil); err != nil {
			return nil, nil, err
		}
	}
	return ref, att, nil
}
