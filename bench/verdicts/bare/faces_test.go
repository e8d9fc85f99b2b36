package bare

import (
	"context"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// astray are the faces of an attempt that lie on no surface of the part as it should be, by their numbers: none of the
// same kind and size is in the same place. The part is made anew, and moved as the attempt was.
func (c *corpus) astray(ctx context.Context, a *attempt) (map[int]bool, error) {
	s := &shop{k: c.k}
	right := s.moved(s.tidy(a.task.build(s, a.task.right())), a.moved)
	if s.err != nil {
		return nil, s.err
	}
	content, err := c.k.ReadSTEP(ctx, a.att.STEP)
	if err != nil {
		return nil, err
	}
	mine, _, _, err := c.k.Simplify(content.Shape)
	if err != nil {
		return nil, err
	}
	out := map[int]bool{}
	for i, f := range mine.Faces() {
		if !slices.ContainsFunc(right.Faces(), func(g solid.Face) bool { return oneSurface(f, g) }) {
			out[i] = true
		}
	}
	return out, nil
}

// oneSurface tells that two faces lie on one surface.
func oneSurface(f, g solid.Face) bool {
	near := func(a, b float64) bool { return math.Abs(a-b) < 1e-4 }
	between := g.Origin.Sub(f.Origin)
	if f.Kind != g.Kind || !near(f.Radius, g.Radius) && f.Kind != solid.ConeFace || !near(f.MinorRadius, g.MinorRadius) ||
		!near(f.HalfAngle, g.HalfAngle) || f.Hollow != g.Hollow || !f.Axis.Parallel(g.Axis, 1e-6) {
		return false
	}
	along := between.Dot(f.Axis)
	switch f.Kind {
	case solid.PlaneFace:
		return f.Axis.Dot(g.Axis) > 0 && near(along, 0)
	case solid.ConeFace: // the radius grows along the axis
		return near(between.Sub(f.Axis.Scale(along)).Norm(), 0) && f.Axis.Dot(g.Axis) > 0 &&
			near(f.Radius+along*math.Tan(f.HalfAngle), g.Radius)
	case solid.CylinderFace:
		return near(between.Sub(f.Axis.Scale(along)).Norm(), 0)
	}
	return near(between.Norm(), 0)
}

// pointed counts the faces that a report points at in an attempt that it does not explain, beside those that lie
// elsewhere: how many are both, and how many are either.
func (c *corpus) pointed(ctx context.Context, t *tally, a *attempt, r *report.Report) error {
	if len(a.faults) != 1 || r.Explained || r.Scale != nil || r.Pose == nil || r.Pose.Mirrored {
		return nil
	}
	named := map[int]bool{}
	point := func(list []address.Ref) {
		for _, ref := range list {
			if _, i, ok := ref.Number(); ok {
				named[i] = true
			}
		}
	}
	for _, f := range r.Findings {
		point(f.Faces)
	}
	for _, x := range r.Characteristics {
		if characteristic.Of(x.Kind).Datum {
			continue // how it was placed
		}
		for _, p := range x.Places {
			if p.Verdict == report.Out {
				point(p.AttemptFaces)
			}
		}
	}
	truth, err := c.astray(ctx, a)
	if err != nil {
		return err
	}
	both := 0
	for i := range named {
		if truth[i] {
			both++
		}
	}
	t.both, t.either = t.both+both, t.either+len(named)+len(truth)-both
	if 10*both < 9*(len(named)+len(truth)-both) {
		c.say("%v: points at %d faces, %d lie elsewhere, %d are both", a, len(named), len(truth), both)
	}
	return nil
}
