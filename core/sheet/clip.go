package sheet

import (
	"math"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// bound is one side of what a view shows: a straight line along x or y beyond which nothing is shown, or a circle
// around what is. Lengths are those of the view, in millimetres of the model.
type bound struct {
	axis   int     // 0 or 1: the coordinate that a straight one limits
	at     float64 // its value there
	below  bool    // what is shown lies below it
	centre [2]float64
	radius float64 // of a circle; 0 of a straight one
}

// holds tells whether a place is shown.
func (b bound) holds(p [2]float64) bool {
	switch {
	case b.radius > 0:
		return math.Hypot(p[0]-b.centre[0], p[1]-b.centre[1]) <= b.radius
	case b.below:
		return p[b.axis] <= b.at
	}
	return p[b.axis] >= b.at
}

// crossings are where a straight piece from p to q meets the bound, as parts of its length.
func (b bound) crossings(p, q [2]float64) []float64 {
	d := [2]float64{q[0] - p[0], q[1] - p[1]}
	if b.radius == 0 {
		if d[b.axis] == 0 {
			return nil
		}
		return []float64{(b.at - p[b.axis]) / d[b.axis]}
	}
	o := [2]float64{p[0] - b.centre[0], p[1] - b.centre[1]}
	a, h, c := d[0]*d[0]+d[1]*d[1], o[0]*d[0]+o[1]*d[1], o[0]*o[0]+o[1]*o[1]-b.radius*b.radius
	if w := h*h - a*c; a > 0 && w > 0 {
		return []float64{(-h - math.Sqrt(w)) / a, (-h + math.Sqrt(w)) / a}
	}
	return nil
}

// angles are where a circle meets the bound, as angles of the circle.
func (b bound) angles(centre [2]float64, radius float64) []float64 {
	if b.radius == 0 {
		t := (b.at - centre[b.axis]) / radius
		if math.Abs(t) >= 1 {
			return nil
		}
		if b.axis == 0 {
			return []float64{math.Acos(t), -math.Acos(t)}
		}
		return []float64{math.Asin(t), math.Pi - math.Asin(t)}
	}
	d := [2]float64{b.centre[0] - centre[0], b.centre[1] - centre[1]}
	apart := math.Hypot(d[0], d[1])
	t := (radius*radius + apart*apart - b.radius*b.radius) / (2 * radius * apart)
	if apart == 0 || math.Abs(t) >= 1 {
		return nil
	}
	towards := math.Atan2(d[1], d[0])
	return []float64{towards - math.Acos(t), towards + math.Acos(t)}
}

// clipped is what of a curve lies within a bound.
func (b bound) clipped(c solid.ViewCurve) []solid.ViewCurve {
	if c.Kind == "arc" {
		return arcPieces(c, func(start, sweep float64) []stretch {
			var at []float64
			for _, a := range b.angles(c.Center, c.Radius) {
				at = append(at, ahead(start, a))
			}
			return between(at, sweep, func(t float64) bool {
				return b.holds([2]float64{c.Center[0] + c.Radius*math.Cos(start+t), c.Center[1] + c.Radius*math.Sin(start+t)})
			})
		})
	}
	return runPieces(c, func(p, q [2]float64) []stretch {
		return between(b.crossings(p, q), 1, func(t float64) bool {
			return b.holds([2]float64{p[0] + t*(q[0]-p[0]), p[1] + t*(q[1]-p[1])})
		})
	})
}

// between are the stretches from 0 to length, divided at some places, of which the middle is shown. Neighbours are one.
func between(at []float64, length float64, shown func(t float64) bool) []stretch {
	at = append(slices.DeleteFunc(slices.Clone(at), func(t float64) bool { return t <= 0 || t >= length }), 0, length)
	slices.Sort(at)
	var out []stretch
	for i := 1; i < len(at); i++ {
		from, to := at[i-1], at[i]
		if to <= from || !shown((from+to)/2) {
			continue
		}
		if n := len(out); n > 0 && out[n-1].to == from {
			out[n-1].to = to
		} else {
			out = append(out, stretch{from, to})
		}
	}
	return out
}

// window is what a view shows of its plane: the pieces of it, each within its bounds, that are drawn.
type window struct {
	pieces [][]bound
	breaks []exercise.Break // from left to right, and from the foot to the top
	gap    float64          // between what a break leaves, in mm of the model
	origin [2]float64       // of the view, in its plane
}

// windowOf is the window of a view.
func windowOf(v *exercise.View, origin [2]float64, scale float64) window {
	w := window{gap: breakGap / scale, origin: origin}
	var whole []bound
	if c := v.Clip; c != nil {
		at := [2]float64{origin[0] + c.At[0], origin[1] + c.At[1]}
		if c.Size == nil {
			whole = []bound{{centre: at, radius: c.Radius}}
		} else {
			for k := range 2 {
				whole = append(whole, bound{axis: k, at: at[k] + c.Size[k]/2, below: true},
					bound{axis: k, at: at[k] - c.Size[k]/2})
			}
		}
	}
	w.pieces = [][]bound{whole}
	w.breaks = slices.Clone(v.Breaks)
	slices.SortFunc(w.breaks, func(a, b exercise.Break) int {
		if a.From < b.From {
			return -1
		}
		return 1
	})
	for _, b := range w.breaks {
		k := axisOf(b)
		var out [][]bound
		for _, p := range w.pieces {
			out = append(out, append(slices.Clone(p), bound{axis: k, at: origin[k] + b.From, below: true}),
				append(slices.Clone(p), bound{axis: k, at: origin[k] + b.To}))
		}
		w.pieces = out
	}
	return w
}

// breakGap is the distance on the paper between the two ends at a break.
const breakGap = 3.0

func axisOf(b exercise.Break) int {
	if b.Along == "y" {
		return 1
	}
	return 0
}

// fold is where a place is drawn, once the stretches that were taken out are gone: each piece moves towards the origin
// of the view.
func (w *window) fold(p [2]float64) [2]float64 {
	out := p
	for _, b := range w.breaks {
		k := axisOf(b)
		gone := math.Max(0, b.To-b.From-w.gap)
		from, to := w.origin[k]+b.From, w.origin[k]+b.To
		// What lies in the break is on the way between its ends.
		part := math.Max(0, math.Min(1, (p[k]-from)/(to-from)))
		if b.From >= 0 {
			out[k] -= gone * part
		} else {
			out[k] += gone * (1 - part)
		}
	}
	return out
}

// kept is a place, or where it lies in a stretch that is taken out, one on the near side of that, so far from it.
func (w *window) kept(p [2]float64, clear float64) [2]float64 {
	for _, b := range w.breaks {
		k := axisOf(b)
		if p[k] > w.origin[k]+b.From-clear && p[k] < w.origin[k]+b.To+clear {
			p[k] = w.origin[k] + b.From - clear
		}
	}
	return p
}

// whole tells whether nothing is taken out between two places.
func (w *window) whole(low, high Point) bool {
	for _, b := range w.breaks {
		k := axisOf(b)
		if low[k] < w.origin[k]+b.To && high[k] > w.origin[k]+b.From {
			return false
		}
	}
	return true
}

// through is what of a curve shows in the window, where it is drawn.
func (w *window) through(c solid.ViewCurve) []solid.ViewCurve {
	if len(w.pieces) == 1 && len(w.pieces[0]) == 0 {
		return []solid.ViewCurve{c}
	}
	var out []solid.ViewCurve
	for _, piece := range w.pieces {
		left := []solid.ViewCurve{c}
		for _, b := range piece {
			var next []solid.ViewCurve
			for _, x := range left {
				next = append(next, b.clipped(x)...)
			}
			left = next
		}
		for _, x := range left {
			out = append(out, w.moved(x))
		}
	}
	return out
}

// moved is a curve that lies in one piece of the window, where it is drawn.
func (w *window) moved(c solid.ViewCurve) solid.ViewCurve {
	if len(w.breaks) == 0 {
		return c
	}
	if c.Kind == "arc" {
		// The whole piece moves alike: by what its middle moves.
		a := c.Start + c.Sweep/2
		p := [2]float64{c.Center[0] + c.Radius*math.Cos(a), c.Center[1] + c.Radius*math.Sin(a)}
		q := w.fold(p)
		c.Center[0], c.Center[1] = c.Center[0]+q[0]-p[0], c.Center[1]+q[1]-p[1]
		return c
	}
	points := make([][2]float64, len(c.Points))
	for i, p := range c.Points {
		points[i] = w.fold(p)
	}
	c.Points = points
	return c
}
