package check

import (
	"context"
	"fmt"
	"math"
	"path"
	"strings"

	"hammerset/core/exercise"
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

// SameName is a file or what-if name without its path, ending, case and separators.
//
// Files come back from other systems with underscores for spaces and their case
// changed.
func SameName(s string) string {
	s = strings.ToLower(path.Base(strings.ReplaceAll(s, "\\", "/")))
	for _, end := range []string{".step", ".stp", ".p21"} {
		s = strings.TrimSuffix(s, end)
	}
	return strings.NewReplacer(" ", "", "-", "", "_", "").Replace(s)
}

// sortFiles finds among several files the part as the sheet has it, and the one for each
// what-if, by their names.
//
// One file has to be left over, the part itself; with two, which is meant would
// be a guess.
func sortFiles(ex *exercise.Exercise, files []File) (part []byte, found map[string][]byte, err error) {
	found = map[string][]byte{}
	var rest []File
	for _, f := range files {
		hit := ""
		for _, w := range ex.WhatIfs {
			if SameName(f.Name) == SameName(w.Name) {
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
		for _, w := range ex.WhatIfs {
			names = append(names, `"`+w.Name+`.step"`)
		}
		return nil, nil, &Unusable{fmt.Sprintf("%d of the %d files could be the part itself", len(rest), len(files)),
			"hand in one file of the part as the sheet has it, and beside it " + strings.Join(names, ", ")}
	}
	return rest[0].STEP, found, nil
}

// whatIfs checks the files that were handed in for the what-ifs, each against the reference
// rebuilt with its sizes. What is out already at the sheet's sizes counts once, there: only
// what did not follow is told. The sizes are worked out from the sheet's (of ref), and carried is the
// reference with the causes of the attempt in it.
//
// The reference carries the causes of the attempt, so that a wrong size does not
// make every what-if differ; a what-if tells whether sizes follow, not whether
// they are right.
func (r *frame) whatIfs(ctx context.Context, why *explained, ref, carried *part.Document,
	files map[string][]byte) ([]report.WhatIf, error) {
	if ref == nil || !r.ex.WhatIfFiles {
		return nil, nil
	}
	var out []report.WhatIf
	was := map[string]report.Characteristic{}
	for _, c := range why.rows {
		was[c.ID] = c.Characteristic
	}
	right := true
	for _, f := range why.figures {
		// Where causes explain the attempt they are in the reference.
		right = right && (f.Verdict == report.In || f.Extra || len(why.behind) > 0)
	}
	for _, w := range r.ex.WhatIfs {
		row := report.WhatIf{Name: w.Name, Balloons: []int{}}
		data, ok := files[w.Name]
		if !ok {
			row.Outcome, row.Detail = report.Missing, "no file was handed in for it"
			out = append(out, row)
			continue
		}
		table, err := ref.Table(nil)
		if err != nil {
			return nil, err
		}
		set := map[string]quantity.Quantity{}
		for name, formula := range w.Set {
			q, ok := table.Lookup(name)
			v, err := table.Eval(formula, q.Dim)
			if !ok || err != nil {
				return nil, fmt.Errorf("what-if %s: %s = %s cannot be worked out", w.Name, name, formula)
			}
			set[name] = quantity.Quantity{Value: v, Dim: q.Dim}
		}
		b, err := r.Rebuilder.Rebuild(ctx, carried, set)
		if err != nil {
			return nil, err
		}
		if b.Solid == nil || len(b.Failed()) > 0 {
			row.Outcome, row.Detail = report.NoAnswer, "the reference cannot be rebuilt with these sizes"
			out = append(out, row)
			continue
		}
		at := &frame{Checker: r.Checker, k: r.k, ex: r.ex, scale: 1}
		if at.ref, err = solid.Describe(r.k, b.Solid.Shape, b.Solid.Names); err != nil {
			return nil, err
		}
		at.ex = r.there(at.ref)
		if err := at.varied(ctx, data, &row, was, right); err != nil {
			return nil, err
		}
		out = append(out, row)
	}
	return out, nil
}

// varied checks one file against the reference that r holds.
func (r *frame) varied(ctx context.Context, data []byte, row *report.WhatIf, was map[string]report.Characteristic,
	right bool) error {
	in := &taken{k: r.k, ex: r.ex}
	if err := in.file(ctx, data); err != nil {
		if ctx.Err() != nil {
			return err
		}
		row.Outcome, row.Detail = report.Breaks, err.Error()
		return nil
	}
	if err := in.tidy(); err != nil {
		return err
	}
	rows, err := r.placed(in.geo).characteristics(ctx, func(string, float64) {})
	if err != nil {
		return err
	}
	var left []string
	for _, c := range rows {
		if old := was[c.ID]; c.Verdict != report.In && old.Verdict == report.In {
			row.Balloons = append(row.Balloons, c.Balloon)
			left = append(left, strings.ToLower(c.Label))
		}
	}
	volume := math.Abs(in.geo.Props.Volume/r.ref.Props.Volume - 1)
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
