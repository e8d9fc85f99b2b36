package check

import (
	"context"
	"math"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/report"
)

// Stages that judge, as a trace names them.
const (
	byMeasuring  = "measuring"
	byUnit       = "unit"
	byExplaining = "explaining"
	byCarrying   = "carrying forward"
	byLimits     = "limits"
)

// row is the judgement on one characteristic on its way through the stages of a check.
type row struct {
	report.Characteristic
	trace []report.Judgement
}

// judged is the row as a stage judges it anew; the row itself stays as it is.
func (w row) judged(stage, why string, change func(*report.Characteristic)) row {
	w.Places = slices.Clone(w.Places)
	change(&w.Characteristic)
	w.trace = append(slices.Clip(w.trace), report.Judgement{Characteristic: w.ID, Balloon: w.Balloon, Stage: stage,
		Verdict: w.Verdict, Carried: w.Carried, Why: why})
	return w
}

// reported are rows as the report has them.
func reported(rows []row) []report.Characteristic {
	out := []report.Characteristic{}
	for _, w := range rows {
		out = append(out, w.Characteristic)
	}
	return out
}

// traced are the judgements of rows, one row after the other.
func traced(rows []row) []report.Judgement {
	var out []report.Judgement
	for _, w := range rows {
		out = append(out, w.trace...)
	}
	return out
}

// characteristics measures and judges every characteristic. Sizes are measured
// on the attempt as it is, so a wrong unit makes them out as well: the scale is
// undone for matching alone.
func (f *frame) characteristics(ctx context.Context, progress func(string, float64)) ([]row, error) {
	var out []row
	for i := range f.ex.Characteristics {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		progress(Measuring, float64(i)/float64(len(f.ex.Characteristics)))
		c := &f.ex.Characteristics[i]
		w, err := f.characteristic(c)
		if err != nil {
			return nil, err
		}
		out = append(out, *w)
	}
	return out, nil
}

// rescaled judges, where the unit is wrong, what would be measured in the right one: what is in
// then is out for the unit alone, which is told and costs once; of the rest it is said.
func (f *frame) rescaled(rows []row) []row {
	if f.scale == 1 {
		return rows
	}
	out := slices.Clone(rows)
	for i, row := range rows {
		times := math.Pow(f.scale, float64(characteristic.Of(row.Kind).Grows()))
		// A wrong number of holes is no matter of the unit.
		if row.Verdict != report.Out || row.Measured == nil || times == 1 || row.Surplus != 0 {
			continue
		}
		right := true
		slack := 1e-6 * math.Max(1, math.Abs(row.Nominal))
		for _, p := range row.Places {
			right = right && p.Measured != nil && *p.Measured*times >= row.Lower-slack && *p.Measured*times <= row.Upper+slack
		}
		if right {
			out[i] = row.judged(byUnit, "it is in with the unit put right", func(c *report.Characteristic) {
				c.Behind, c.Carried = true, true
			})
			continue
		}
		why := "with the unit put right it would be " + f.number(row.Kind, *row.Measured*times)
		out[i] = row.judged(byUnit, why, func(c *report.Characteristic) { c.Reason = why })
	}
	return out
}

// Shown converts an internal value (mm, rad) to the report's (mm, degrees).
func Shown(c *exercise.Characteristic, v float64) float64 {
	if characteristic.Of(c.Kind).Dim == quantity.Angle {
		return v / quantity.Degree.Factor
	}
	return v
}
