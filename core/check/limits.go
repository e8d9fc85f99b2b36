package check

import (
	"context"
	"math"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/inspect"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// A part is right when every characteristic is within its limits. Its volume is then not that of the
// reference, and need not be: it may be what any part within the limits has.

// beyond is what limits by slopes may be exceeded by, as the slopes are those at the nominal sizes.
const beyond = 1.05

// within judges the figures of a part all of whose characteristics are in by what the limits of the sheet allow:
// a figure that such a part can have is in.
//
// Each size may change until the first characteristic that it changes leaves its limits; what all may
// change a figure by is the sum over the sizes, by its slopes. The volume, from which most others follow,
// is confirmed by rebuilding the two corners in which it is largest and smallest: slopes that do not
// reach so far count as far as they do. A size that no characteristic shows has no limits, and is exact.
// A mass goes with the volume. Where a part stands on its datum planes says nothing of its shape. Every face
// must lie where a face of the reference may.
func (r *frame) within(ctx context.Context, ref Reference, may *room, known, mine *inspect.Meshed, rows []row,
	figures []report.Figure) ([]row, []report.Figure, error) {
	for _, w := range rows {
		kind := characteristic.Of(w.Kind)
		if w.Verdict != report.In && w.Verdict != report.Ask && !kind.Datum && !kind.Density {
			return rows, figures, nil
		}
	}
	if agrees(nil, figures) || ref.Atlas == nil || r.scale != 1 {
		return rows, figures, nil
	}
	if most := may.place(); len(mine.Strays(known, r.pose.Transform, most)) > 0 ||
		len(known.Strays(mine, r.pose.Transform.Inverse(), most)) > 0 {
		return rows, figures, nil
	}
	share, err := r.corners(ctx, ref, may)
	if err != nil {
		return nil, nil, err
	}
	figure := r.allowed(ref.Atlas, may, share)
	out := slices.Clone(figures)
	for i, f := range out {
		if figure.have(f) {
			out[i].Verdict = report.In
		}
	}
	if !figure.near(0, volumeTolerance) {
		return rows, out, nil
	}
	rows = slices.Clone(rows)
	for i, w := range rows {
		if w.Verdict == report.Out && characteristic.Of(w.Kind).Density {
			rows[i] = w.judged(byLimits, "a part whose sizes are in can have it", func(c *report.Characteristic) {
				c.Verdict = report.In
				for k := range c.Places {
					c.Places[k].Verdict = report.In
				}
			})
		}
	}
	return rows, out, nil
}

// allowed is by how much the figures of a part within its limits may differ from those of the reference, beside
// those two.
type allowed struct {
	was, is       [5]float64 // volume, area and moments
	inner         [5]float64
	first, extent [3]float64 // of the middle, and of the overall sizes
}

// allowed sums up what the sizes may change the figures by; share is how much of it comes true.
func (r *frame) allowed(a *atlas.Atlas, may *room, share float64) *allowed {
	out := &allowed{was: atlas.FiguresOf(r.ref.Props, 1, r.pose.Transform).Inner,
		is: atlas.FiguresOf(r.att.Props, 1, r.pose.Transform).Inner}
	for i, s := range may.sizes {
		by := beyond * share * may.slack[i]
		for k, v := range s.Figures.Inner {
			out.inner[k] += by * math.Abs(v)
		}
		for k := range 3 {
			// The middle is the first moment over the volume.
			middle := a.Figures.Sums[2+k] / a.Figures.Sums[0]
			out.first[k] += by * math.Abs(s.Figures.Sums[2+k]-middle*s.Figures.Sums[0]) / a.Figures.Sums[0]
			out.extent[k] += by * math.Abs(s.Extent[k])
		}
	}
	return out
}

// near tells whether a figure is what such a part may have.
func (a *allowed) near(k int, tolerance float64) bool {
	return math.Abs(a.is[k]-a.was[k]) <= a.inner[k]+tolerance*a.was[k]
}

// have tells whether such a part can have a figure of the report.
func (a *allowed) have(f report.Figure) bool {
	switch f.ID {
	case "volume":
		return a.near(0, volumeTolerance)
	case "area":
		return a.near(1, volumeTolerance)
	case "moments":
		return a.near(2, momentTolerance) && a.near(3, momentTolerance) && a.near(4, momentTolerance)
	case "centre":
		return f.Measured <= solid.Vec(a.first).Norm()+placeTolerance
	case "size":
		return f.Measured <= slices.Max(a.extent[:])+placeTolerance
	}
	return false
}

// room is what the limits of the sheet leave to a part: the sizes that can change by themselves, and by how
// much each may.
type room struct {
	sizes []*atlas.Size
	slack []float64
}

// room finds by how much each size may change until a characteristic leaves its limits; without an
// atlas there are no sizes.
func (r *frame) room(a *atlas.Atlas) (*room, error) {
	out := &room{}
	if a == nil {
		return out, nil
	}
	limits := map[string]float64{}
	for i := range r.ex.Characteristics {
		c := &r.ex.Characteristics[i]
		if c.Declared().Unplaced() {
			continue
		}
		asked, err := r.asks(c)
		if err != nil {
			return nil, err
		}
		limits[c.ID] = math.Max(asked.minus, asked.plus)
	}
	for i := range a.Sizes {
		s := &a.Sizes[i]
		if len(s.Holds) == 0 && !s.Derived && freed(a, s.Parameter) {
			continue // it is there by itself as well
		}
		most := math.Inf(1)
		for id, list := range s.Slopes {
			for _, v := range list {
				if math.Abs(v) > 1e-6 {
					most = math.Min(most, limits[id]/math.Abs(v))
				}
			}
		}
		if !math.IsInf(most, 1) {
			out.sizes, out.slack = append(out.sizes, s), append(out.slack, most)
		}
	}
	return out, nil
}

// place is how far from where it should be a face of a right part may lie, in millimetres: by two sizes at
// their ends, as a face is seldom placed by more (a size of a feature, and its place).
func (m *room) place() float64 {
	first, second := 0.0, 0.0
	for i, s := range m.sizes {
		switch v := m.slack[i]; {
		case s.Dim != quantity.Length:
		case v > first:
			first, second = v, first
		case v > second:
			second = v
		}
	}
	return placeTolerance + first + second
}

// freed tells whether a size is varied with what hangs on it held, too.
func freed(a *atlas.Atlas, parameter string) bool {
	for _, s := range a.Sizes {
		if s.Parameter == parameter && len(s.Holds) > 0 {
			return true
		}
	}
	return false
}

// corners rebuilds the reference with all sizes at the ends of their limits at which the volume is largest and
// smallest, and gives the share of what the slopes say that the volume then changes by; all of it where
// there is no such part, or no change to speak of.
func (r *frame) corners(ctx context.Context, ref Reference, may *room) (float64, error) {
	want := 0.0
	for i, s := range may.sizes {
		want += math.Abs(s.Volume) * may.slack[i]
	}
	if want < volumeTolerance*r.ref.Props.Volume {
		return 1, nil
	}
	share := 0.0
	for _, sign := range []float64{1, -1} {
		var causes []atlas.Cause
		for i, s := range may.sizes {
			causes = append(causes, atlas.Cause{Size: s, Value: s.Nominal + sign*math.Copysign(may.slack[i], s.Volume)})
		}
		v, err := atlas.With(ctx, r.Rebuilder, r.ex, ref.Document, causes)
		if err != nil {
			return 0, err
		}
		if v == nil {
			return 1, nil
		}
		share = math.Max(share, math.Abs(v.Props.Volume-r.ref.Props.Volume)/want)
	}
	return math.Min(1, share), nil
}

// inLimits tells whether every characteristic that shows a size is in: then it is no mistake.
func inLimits(c atlas.Cause, rows []row) bool {
	if c.Size == nil || len(c.Size.Slopes) == 0 {
		return false
	}
	for _, w := range rows {
		if len(c.Size.Slopes[w.ID]) > 0 && w.Verdict != report.In {
			return false
		}
	}
	return true
}
