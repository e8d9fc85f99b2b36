package check

import (
	"context"
	"fmt"
	"math"
	"path"
	"strings"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// File is one of several files that were handed in together.
type File struct {
	Name string
	STEP []byte
}

// sameName is a file or what-if name without its path, ending, case and separators.
func sameName(s string) string {
	s = strings.ToLower(path.Base(strings.ReplaceAll(s, "\\", "/")))
	for _, end := range []string{".step", ".stp", ".p21"} {
		s = strings.TrimSuffix(s, end)
	}
	return strings.NewReplacer(" ", "", "-", "", "_", "").Replace(s)
}

// sort finds among several files the part as the sheet has it, and the one for each
// what-if, by their names.
func (r *run) sort(att *Attempt) (map[string][]byte, error) {
	found := map[string][]byte{}
	var rest []File
	for _, f := range att.Files {
		hit := ""
		for _, w := range r.ex.WhatIfs {
			if sameName(f.Name) == sameName(w.Name) {
				hit = w.Name
			}
		}
		if hit == "" {
			rest = append(rest, f)
		} else {
			found[hit] = f.STEP
		}
	}
	if len(rest) != 1 {
		var names []string
		for _, w := range r.ex.WhatIfs {
			names = append(names, `"`+w.Name+`.step"`)
		}
		return nil, &Unusable{fmt.Sprintf("%d of the %d files could be the part itself", len(rest), len(att.Files)), "hand in one file of the part as the sheet has it, and beside it " + strings.Join(names, ", ")}
	}
	att.STEP = rest[0].STEP
	return found, nil
}

// whatIfs checks the files that were handed in for the what-ifs, each against the reference
// rebuilt with its sizes. What is out already at the sheet's sizes counts once, there: only
// what did not follow is told. The sizes are worked out from the sheet's (of ref), and carried is the
// reference with the causes of the attempt in it.
func (r *run) whatIfs(ctx context.Context, ref, carried *part.Document, files map[string][]byte) error {
	if ref == nil || !r.ex.WhatIfFiles {
		return nil
	}
	was := map[string]report.Characteristic{}
	for _, c := range r.report.Characteristics {
		was[c.ID] = c
	}
	right := true
	for _, f := range r.report.Whole {
		// Where causes explain the attempt they are in the reference.
		right = right && (f.Verdict == report.In || f.Extra || len(r.causes) > 0)
	}
	for _, w := range r.ex.WhatIfs {
		row := report.WhatIf{Name: w.Name, Balloons: []int{}}
		data, ok := files[w.Name]
		if !ok {
			row.Outcome, row.Detail = report.Missing, "no file was handed in for it"
			r.report.WhatIfs = append(r.report.WhatIfs, row)
			continue
		}
		unit, err := quantity.LengthUnit(ref.Unit)
		if err != nil {
			return err
		}
		table, err := quantity.Evaluate(ref.Parameters, unit, nil)
		if err != nil {
			return err
		}
		set := map[string]quantity.Quantity{}
		for name, formula := range w.Set {
			q, ok := table.Lookup(name)
			v, err := table.Eval(formula, q.Dim)
			if !ok || err != nil {
				return fmt.Errorf("what-if %s: %s = %s cannot be worked out", w.Name, name, formula)
			}
			set[name] = quantity.Quantity{Value: v, Dim: q.Dim}
		}
		b, err := r.Rebuilder.Rebuild(ctx, carried, set)
		if err != nil {
			return err
		}
		if b.Solid == nil || len(b.Failed()) > 0 {
			row.Outcome, row.Detail = report.NoAnswer, "the reference cannot be rebuilt with these sizes"
			r.report.WhatIfs = append(r.report.WhatIfs, row)
			continue
		}
		at := &run{Checker: r.Checker, k: r.k, ex: r.ex, miscounted: map[string]bool{}, progress: func(string, float64) {}, report: &report.Report{Unit: r.ex.Unit}}
		if at.ref, err = solid.Describe(r.k, b.Solid.Shape, b.Solid.Names); err != nil {
			return err
		}
		if err := at.varied(ctx, data, &row, was, right); err != nil {
			return err
		}
		r.report.WhatIfs = append(r.report.WhatIfs, row)
	}
	return nil
}

// varied checks one file against the reference that r holds.
func (r *run) varied(ctx context.Context, data []byte, row *report.WhatIf, was map[string]report.Characteristic, right bool) error {
	shape, err := r.intakeSTEP(ctx, data)
	if err != nil {
		if ctx.Err() != nil {
			return err
		}
		row.Outcome, row.Detail = report.Breaks, err.Error()
		return nil
	}
	if _, err := r.tidy(shape); err != nil {
		return err
	}
	r.unit()
	r.place()
	if err := r.characteristics(ctx); err != nil {
		return err
	}
	var left []string
	for _, c := range r.report.Characteristics {
		if old := was[c.ID]; c.Verdict != report.In && old.Verdict == report.In {
			row.Balloons = append(row.Balloons, c.Balloon)
			left = append(left, strings.ToLower(c.Label))
		}
	}
	volume := math.Abs(r.att.Props.Volume/r.ref.Props.Volume - 1)
	switch {
	case len(left) > 0:
		row.Outcome, row.Detail = report.Differs, "did not follow: "+strings.Join(left, ", ")
	case right && volume > volumeTolerance:
		row.Outcome, row.Detail = report.Differs, "something that no dimension shows did not follow"
	default:
		row.Outcome = report.Follows
	}
	return nil
}
