package check

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// unitFactors are the usual mistakes of unit, as the factor that puts them
// right.
var unitFactors = []float64{25.4, 1 / 25.4, 10, 0.1, 1000, 0.001, 25.4 / 10, 10 / 25.4, 304.8, 1 / 304.8}

// A wrong unit by its figures: volume, area and size agree on the factor within ten percent, as wrong sizes may add to
// it; or each is within the factor of two that a large mistake makes of it, and the faces fit then.
const (
	nearUnit  = 0.1 // logarithms
	aboutUnit = 0.7
)

// unitMistakes lists the ratios of two units by which all sizes of the attempt may be off, those within so much of
// volume, area and size.
func unitMistakes(ref, att *solid.Geometry, within float64) []*report.Scale {
	size := func(g *solid.Geometry) float64 {
		return math.Sqrt((g.Props.Inertia[0][0] + g.Props.Inertia[1][1] + g.Props.Inertia[2][2]) / g.Props.Volume)
	}
	ratios := []float64{math.Cbrt(ref.Props.Volume / att.Props.Volume), math.Sqrt(ref.Props.Area / att.Props.Area),
		size(ref) / size(att)}
	var out []*report.Scale
	for _, f := range unitFactors {
		if slices.ContainsFunc(ratios, func(q float64) bool { return !(math.Abs(math.Log(q/f)) < within) }) {
			continue
		}
		words := map[bool]string{true: "too small", false: "too large"}[f > 1]
		times := math.Max(f, 1/f)
		out = append(out, &report.Scale{Factor: f, Words: fmt.Sprintf("the whole part is %s times %s",
			quantity.FormatDecimal(times, 2), words)})
	}
	return out
}

// frame is an attempt beside its reference: what the stages of a check read, and none changes.
type frame struct {
	*Checker
	k        solid.Kernel
	ex       *exercise.Exercise
	ref, att *solid.Geometry
	unit     *report.Scale // the mistake of unit, if there is one
	scale    float64       // what puts the unit of the attempt right, else 1
	pose     inspect.Pose
	match    inspect.Matching
	pieces   *pieces // where the attempt is measured as other solids than it has
}

// pieces are the solids of an attempt as they are in it, with their figures together.
type pieces struct {
	count int
	props solid.Props
}

// solids is how many solids the attempt has.
func (f *frame) solids() int {
	if f.pieces != nil {
		return f.pieces.count
	}
	return f.att.Solids
}

// foreign is the mean cost of a face from which an attempt is another part altogether, whose size says
// nothing of a unit: most of the faces have no partner then, which costs 1.
const foreign = 0.5

// fitsInUnit is the mean cost of a face up to which an attempt fits in another unit, where it is another part in its
// own. With a mistake beside the unit it is 0.3, and of parts that are others 0.58 and more.
const fitsInUnit = 0.45

// placed finds where an attempt lies, which of its faces are which of the reference's, and whether its unit is
// wrong: that is put right for this alone. With another mistake beside it, the figures say little of the unit, and the
// faces are asked.
func (f *frame) placed(att *solid.Geometry) *frame {
	if list := unitMistakes(f.ref, att, nearUnit); len(list) > 0 {
		if out := f.at(att, list[0]); out.pose.Misfit <= foreign {
			return out
		}
	}
	best := f.at(att, nil)
	if best.pose.Misfit <= foreign {
		return best
	}
	for _, unit := range unitMistakes(f.ref, att, aboutUnit) {
		if out := f.at(att, unit); out.pose.Misfit < math.Min(best.pose.Misfit, fitsInUnit) {
			best = out
		}
	}
	return best
}

// at is the attempt beside the reference with a mistake of unit, which may be nil.
func (f *frame) at(att *solid.Geometry, unit *report.Scale) *frame {
	out := *f
	out.att, out.unit, out.scale = att, unit, 1
	scaled := att
	if unit != nil {
		out.scale = unit.Factor
		scaled = att.Scaled(unit.Factor)
	}
	out.pose, out.match = inspect.FindPose(f.ref, scaled)
	return &out
}

// told puts a pose into words.
func (r *frame) told(pose inspect.Pose) *report.Pose {
	p := &report.Pose{AsModeled: pose.AsModeled, Mirrored: pose.Mirrored, Angle: pose.Angle / quantity.Degree.Factor,
		Shift: pose.Shift}
	switch {
	case p.Mirrored:
		p.Words = "the mirror image of the part"
	case p.AsModeled:
		p.Words = "placed as the reference is"
	case p.Angle < 1e-3:
		p.Words = "shifted by " + quantity.FormulaFormat(r.ex.LengthUnit()).Length(p.Shift)
	default:
		p.Words = fmt.Sprintf("turned by %s° and shifted", quantity.FormatDecimal(p.Angle, 1))
	}
	return p
}
