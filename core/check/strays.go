package check

import (
	"context"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/core/solid"
)

// strays adds to the cases in which an attempt differs from the reference at another size the characteristics on which
// that shows: those that are in as the attempt is, and out there. One case is looked at for each size.
func (f *frame) strays(ctx context.Context, ref, att *part.Document, cases []report.Sweep,
	rows []report.Characteristic) error {
	table, err := ref.Table(nil)
	if err != nil {
		return err
	}
	was := map[string]report.Characteristic{}
	for _, c := range rows {
		was[c.ID] = c
	}
	done := map[string]bool{}
	for i := range cases {
		s := &cases[i]
		if s.Outcome != report.Differs || done[s.Parameter] {
			continue
		}
		done[s.Parameter] = true
		now, _ := table.Lookup(s.Parameter)
		if now.Dim == quantity.Number {
			continue // with another count all places are others
		}
		if s.Strays, err = f.strayed(ctx, ref, att, s, robust.Changed(now, s.Percent), was); err != nil {
			return err
		}
	}
	return nil
}

// there is the exercise with those characteristics alone that a reference has places for: where a feature is missing
// by a cause that was found, the reference with that cause in it has none.
func (f *frame) there(ref *solid.Geometry) *exercise.Exercise {
	out := *f.ex
	out.Characteristics = slices.DeleteFunc(slices.Clone(out.Characteristics), func(c exercise.Characteristic) bool {
		if c.Declared().Unplaced() {
			return false
		}
		_, err := inspect.Places(ref, &c)
		return err != nil
	})
	return &out
}

// strayed rebuilds both at a value and measures the one against the other.
func (f *frame) strayed(ctx context.Context, ref, att *part.Document, s *report.Sweep, v quantity.Quantity,
	was map[string]report.Characteristic) ([]report.Stray, error) {
	at := &frame{Checker: f.Checker, k: f.k, ex: f.ex, scale: 1}
	there := func(d *part.Document, name string, v quantity.Quantity) (*solid.Geometry, error) {
		b, err := f.Rebuilder.Rebuild(ctx, d, map[string]quantity.Quantity{name: v})
		if err != nil || b.Solid == nil {
			return nil, err
		}
		return solid.Describe(f.k, b.Solid.Shape, b.Solid.Names)
	}
	var err error
	if at.ref, err = there(ref, s.Parameter, v); err != nil || at.ref == nil {
		return nil, err
	}
	at.ex = f.there(at.ref)
	mine, err := there(att, s.Attempt, v)
	if err != nil || mine == nil {
		return nil, err
	}
	rows, err := at.placed(mine).characteristics(ctx, func(string, float64) {})
	if err != nil {
		return nil, err
	}
	var out []report.Stray
	for _, c := range rows {
		old := was[c.ID]
		if old.Verdict != report.In || c.Verdict != report.Out || c.Measured == nil || old.Measured == nil {
			continue
		}
		out = append(out, report.Stray{Characteristic: c.ID, Balloon: c.Balloon, Label: c.Label,
			Follow: !characteristic.Same(c.Nominal, old.Nominal)})
	}
	return out, nil
}
