package assemblies

import (
	"context"
	"fmt"

	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/report"
)

// values are the sizes of a what-if in the parameters of the reference.
func (r *key) values(w *exercise.WhatIf) (map[string]quantity.Quantity, error) {
	set, err := r.Document.Settings(w.Set)
	if err != nil {
		return nil, fmt.Errorf("the what-if %q: %w", w.Name, err)
	}
	return set, nil
}

// at is the reference at the sizes of a what-if, laid out once.
func (r *key) at(ctx context.Context, w *exercise.WhatIf) (*key, error) {
	if k := r.others[w.Name]; k != nil {
		return k, nil
	}
	set, err := r.values(w)
	if err != nil {
		return nil, err
	}
	ref := Reference{Document: r.Document.Set(set), Exercises: r.Exercises}
	if ref.Made, err = r.Maker.Made(ctx, ref.Document); err != nil {
		return nil, fmt.Errorf("the reference in the what-if %q: %w", w.Name, err)
	}
	k, err := newKey(r.k, r.ex, ref)
	if err != nil {
		return nil, fmt.Errorf("the what-if %q: %w", w.Name, err)
	}
	if r.others == nil {
		r.others = map[string]*key{}
	}
	r.others[w.Name] = k
	return k, nil
}

// CheckWhatIfs sees that the reference of an exercise can be made at the sizes of all what-ifs.
func (c *Checker) CheckWhatIfs(ctx context.Context, ex *exercise.Exercise, ref Reference) error {
	if len(ex.WhatIfs) == 0 {
		return nil
	}
	r, err := c.keyOf(ex, ref)
	if err != nil {
		return err
	}
	for i := range ex.WhatIfs {
		if _, err := r.at(ctx, &ex.WhatIfs[i]); err != nil {
			return err
		}
	}
	return nil
}

// whatIfs sees whether the attempt is the assembly that the reference is, at the sizes of each what-if: its own
// document with these sizes, or the file that was handed in for them. What is wrong at the sizes of the sheet is told
// there.
func (p *placement) whatIfs(ctx context.Context) ([]report.WhatIf, error) {
	var out []report.WhatIf
	for i := range p.ex.WhatIfs {
		w := &p.ex.WhatIfs[i]
		x := report.WhatIf{Name: w.Name, Outcome: report.Follows, Balloons: []int{}}
		att, detail, err := p.attemptAt(ctx, w)
		switch {
		case err != nil:
			return nil, err
		case att == nil && detail == "":
			continue // nothing that could follow
		case att == nil:
			x.Outcome, x.Detail = report.Missing, detail
		default:
			if x.Detail, err = p.differs(ctx, w, att); err != nil {
				return nil, err
			}
			if x.Detail != "" {
				x.Outcome = report.Differs
			}
		}
		out = append(out, x)
	}
	return out, nil
}

// attemptAt is the attempt at the sizes of a what-if; nil with a reason, or with none where it cannot have it.
func (p *placement) attemptAt(ctx context.Context, w *exercise.WhatIf) (*Attempt, string, error) {
	if p.att.Maker == nil {
		if file, have := p.att.WhatIfs[w.Name]; have {
			return &file, "", nil
		}
		if p.ex.WhatIfFiles && p.att.Kind == FromSolids {
			return nil, "no file was handed in for it", nil
		}
		return nil, "", nil
	}
	set, err := p.values(w)
	if err != nil {
		return nil, "", err
	}
	table, err := p.att.Document.Table(nil)
	if err != nil {
		return nil, "", err
	}
	for name := range set {
		if _, ok := table.Lookup(name); !ok {
			return nil, fmt.Sprintf("the assembly has no parameter %s", name), nil
		}
	}
	att := Attempt{Name: p.att.Name, Kind: p.att.Kind, Document: p.att.Document.Set(set)}
	if att.Made, err = p.att.Maker.Made(ctx, att.Document); err != nil {
		if ctx.Err() != nil {
			return nil, "", err
		}
		return nil, err.Error(), nil
	}
	return &att, "", nil
}

// differs says what of an attempt at the sizes of a what-if is not as in the reference at these sizes, though it is at
// those of the sheet; nothing where all of it is.
func (p *placement) differs(ctx context.Context, w *exercise.WhatIf, in *Attempt) (string, error) {
	k, err := p.at(ctx, w)
	if err != nil {
		return "", err
	}
	att, err := lay(p.key.k, *in)
	if err != nil {
		return err.Error(), nil
	}
	q := k.find(att).place()
	for c := range q.of {
		if !p.there(c) || !p.same(c) || p.displaced[c] {
			continue
		}
		switch {
		case !q.there(c):
			return p.title(c) + " is not there", nil
		case !q.same(c):
			return p.title(c) + " is not as it should be at these sizes", nil
		case q.displaced[c]:
			return p.title(c) + " is not where it should be at these sizes", nil
		}
	}
	if len(att.mech.Document.Joints) > 0 && p.att.holds && !att.holds {
		return "the joints contradict one another at these sizes", nil
	}
	return "", nil
}
