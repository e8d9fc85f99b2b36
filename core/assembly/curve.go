package assembly

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/interp"

	"hammerset/core/solid"
)

// curve is an edge that is neither straight nor round, as an ellipse or a spline: a cubic spline through places of it,
// in pieces c(s) = k₀ + k₁s + k₂s² + k₃s³. Beyond its ends it goes on straight.
type curve struct {
	pieces []piece
	normal solid.Vec // of the plane that it lies in, or is nearest to
}

// piece is a cubic for 0 ≤ s ≤ length.
type piece struct {
	k      [4]solid.Vec
	length float64
}

// curveThrough is the curve through places, of which there are at least four. Slopes are those of the cubic spline with
// continuous curvature, by the lengths of the chords.
func curveThrough(places []solid.Vec) *curve {
	if len(places) < 4 {
		return nil
	}
	at := make([]float64, len(places))
	for i := 1; i < len(places); i++ {
		at[i] = at[i-1] + math.Max(places[i].Distance(places[i-1]), 1e-12)
	}
	slopes := make([]solid.Vec, len(places))
	for k := range 3 {
		values := make([]float64, len(places))
		for i, p := range places {
			values[i] = p[k]
		}
		var s interp.NotAKnotCubic
		if s.Fit(at, values) != nil {
			return nil
		}
		for i := range places {
			slopes[i][k] = s.PredictDerivative(at[i])
		}
	}
	c := &curve{}
	for i := 1; i < len(places); i++ {
		h := at[i] - at[i-1]
		chord := places[i].Sub(places[i-1]).Scale(1 / h)
		a, b := slopes[i-1], slopes[i]
		c.pieces = append(c.pieces, piece{[4]solid.Vec{places[i-1], a,
			chord.Scale(3).Sub(a.Scale(2)).Sub(b).Scale(1 / h), a.Add(b).Sub(chord.Scale(2)).Scale(1 / (h * h))}, h})
	}
	middle := places[len(places)/2]
	for i := 1; i < len(places); i++ {
		c.normal = c.normal.Add(places[i-1].Sub(middle).Cross(places[i].Sub(middle)))
	}
	if c.normal.Norm() < 1e-12 { // a straight line
		c.normal = solid.Plane(solid.Vec{}, slopes[0].Unit()).X
	}
	c.normal = c.normal.Unit()
	return c
}

// at is the place with its first and second slope.
func (p *piece) at(s float64) (c, d, dd solid.Vec) {
	k := &p.k
	c = k[0].Add(k[1].Add(k[2].Add(k[3].Scale(s)).Scale(s)).Scale(s))
	d = k[1].Add(k[2].Scale(2 * s)).Add(k[3].Scale(3 * s * s))
	return c, d, k[2].Scale(2).Add(k[3].Scale(6 * s))
}

// foot is the place of the curve that is nearest to a point, with the slopes there.
func (c *curve) foot(p solid.Vec) (at, d, dd solid.Vec) {
	i, least := 0, math.Inf(1)
	for n := range c.pieces {
		if d := c.pieces[n].k[0].Distance(p); d < least {
			i, least = n, d
		}
	}
	last := len(c.pieces) - 1
	if end, _, _ := c.pieces[last].at(c.pieces[last].length); end.Distance(p) < least {
		i = last
	}
	s := 0.0
	for range 40 { // Gauss and Newton: (c - p)·c' vanishes at the foot
		at, d, dd = c.pieces[i].at(s)
		slope := d.Dot(d) + at.Sub(p).Dot(dd)
		if slope < 0.1*d.Dot(d) {
			slope = d.Dot(d)
		}
		step := p.Sub(at).Dot(d) / slope
		next := s + step
		switch length := c.pieces[i].length; {
		case next < 0 && i > 0:
			i--
			s = c.pieces[i].length
		case next > length && i < last:
			i++
			s = 0
		case next < 0 || next > length: // beyond an end: straight on
			s = math.Min(math.Max(next, 0), length)
			at, d, _ = c.pieces[i].at(s)
			t := d.Unit()
			return at.Add(t.Scale(p.Sub(at).Dot(t))), d, solid.Vec{}
		default:
			if s = next; math.Abs(step) < 1e-12*(1+length) {
				return c.pieces[i].at(s)
			}
		}
	}
	return c.pieces[i].at(s)
}

// off is how far a point is from the curve, in two directions square to it, and by how much each changes with the
// point.
//
// With the foot c(s), T its direction and N the normal of the plane of the curve, the directions are n₁ = N × T, made a
// unit, and n₂ = T × n₁. The foot moves with the point by ds = c'·dp / (c'·c' - (p - c)·c”), and the directions turn
// about T by ω ds with ω = n₁'·n₂, which is nothing for a plane curve.
func (c *curve) off(p solid.Vec) (r [2]float64, by [2]solid.Vec) {
	at, d, dd := c.foot(p)
	t := d.Unit()
	w := c.normal.Cross(t)
	if w.Norm() < 1e-6 {
		w = solid.Plane(solid.Vec{}, t).X
	}
	n1 := w.Unit()
	n2 := t.Cross(n1)
	x := p.Sub(at)
	dt := dd.Sub(t.Scale(t.Dot(dd))).Scale(1 / d.Norm())
	turn := c.normal.Cross(dt).Dot(n2) / w.Norm()
	foot := d.Scale(1 / (d.Dot(d) - x.Dot(dd)))
	r = [2]float64{x.Dot(n1), x.Dot(n2)}
	by = [2]solid.Vec{n1.Add(foot.Scale(r[1] * turn)), n2.Sub(foot.Scale(r[0] * turn))}
	return r, by
}

// PathApart is how far one path lies from another at most: from each place of either to the curve through the places of
// the other. Fewer than four places are no curve, and compared place by place.
func PathApart(a, b []solid.Vec) float64 {
	most := 0.0
	for _, pair := range [][2][]solid.Vec{{a, b}, {b, a}} {
		c := curveThrough(pair[1])
		for _, p := range pair[0] {
			least := math.Inf(1)
			for _, q := range pair[1] {
				least = math.Min(least, p.Distance(q))
			}
			if c != nil {
				foot, _, _ := c.foot(p)
				least = math.Min(least, p.Distance(foot))
			}
			most = math.Max(most, least)
		}
	}
	return most
}

// onBent: the place of a is on a curve of b.
func onBent(j *placedJoint) []condition {
	c := curveThrough(j.b.Points)
	if c == nil {
		return nil
	}
	for i := range c.pieces { // in the frame of the feature, which has its axes along those of the part
		c.pieces[i].k[0] = c.pieces[i].k[0].Sub(j.b.At)
	}
	var out []condition
	for k := range 2 {
		out = append(out, condition{Running, func(a, b, da, db *solid.Frame) float64 {
			d := a.O.Sub(b.O)
			r, by := c.off(solid.Vec{d.Dot(b.X), d.Dot(b.Y), d.Dot(b.Z)})
			g := by[k]
			along := b.X.Scale(g[0]).Add(b.Y.Scale(g[1])).Add(b.Z.Scale(g[2]))
			da.O, db.O = along, along.Scale(-1)
			db.X, db.Y, db.Z = d.Scale(g[0]), d.Scale(g[1]), d.Scale(g[2])
			return r[k]
		}})
	}
	return out
}

// bentFeature is an edge through places that are at about equal lengths along it, as a feature without its name.
func bentFeature(places []solid.Vec) (Feature, bool) {
	if len(places) < 4 {
		return Feature{}, false
	}
	return Feature{Form: Bent, At: places[len(places)/2], Points: slices.Clone(places)}, true
}
