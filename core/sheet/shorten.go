package sheet

import (
	"math"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// shortening takes a stretch out of the views of a long part that shows it from its side: along an axis of its stand,
// from one place to another, counted from the middle of the part.
type shortening struct {
	axis     int
	from, to float64
}

// Of the shortening of long parts: how many times longer than wide they are, which share of the length has nothing on
// it, and which part of that stays at either end.
const (
	longPart   = 4.0
	plainShare = 0.35
	plainStays = 0.12
)

// plainStretch is the longest stretch along a long part in which it is a bar: all its faces run along it, so that
// nothing is lost where it is left out (ISO 128-3: interrupted views). None, where there is no such stretch.
func (l *layout) plainStretch() *shortening {
	k := 0
	for i := range 3 {
		if l.size[i] > l.size[k] {
			k = i
		}
	}
	if l.size[k] < longPart*math.Max(l.size[(k+1)%3], l.size[(k+2)%3]) {
		return nil
	}
	axis := l.along(k)
	middle := l.middle.Dot(axis)
	var busy []stretch
	for i, f := range l.ref.Faces {
		bar := f.Kind == solid.PlaneFace && math.Abs(f.Normal.Dot(axis)) < 1e-9 ||
			f.Kind == solid.CylinderFace && f.Axis.Parallel(axis, 1e-9)
		if !bar {
			low, high := l.ref.Reach(i, axis)
			busy = append(busy, stretch{low - middle, high - middle})
		}
	}
	slices.SortFunc(busy, func(a, b stretch) int {
		if a.from < b.from {
			return -1
		}
		return 1
	})
	var best stretch
	end := -l.size[k] / 2
	for _, b := range busy {
		if b.from-end > best.to-best.from {
			best = stretch{end, b.from}
		}
		end = math.Max(end, b.to)
	}
	length := best.to - best.from
	if length < plainShare*l.size[k] {
		return nil
	}
	return &shortening{k, best.from + plainStays*length, best.to - plainStays*length}
}

// along is an axis of the stand of the part.
func (l *layout) along(k int) solid.Vec {
	return []solid.Vec{l.stand.X, l.stand.Y, l.stand.Z}[k]
}

// on is the axis of a view, 0 or 1, along which it is shortened; -1 of one that it is not.
func (s *shortening) on(l *layout, view string) int {
	if s == nil {
		return -1
	}
	f, a := l.views[view], l.along(s.axis)
	switch {
	case f.X.Parallel(a, 1e-9):
		return 0
	case f.Y.Parallel(a, 1e-9):
		return 1
	}
	return -1
}

// ends are where the stretch begins and ends along a view, counted from the middle of the part.
func (s *shortening) ends(l *layout, view string, axis int) (from, to float64) {
	d := []solid.Vec{l.views[view].X, l.views[view].Y}[axis].Dot(l.along(s.axis))
	return math.Min(s.from*d, s.to*d), math.Max(s.from*d, s.to*d)
}

// folded is where a place of a view comes to lie once the stretch is gone, both counted from the middle of what is
// shown.
func (s *shortening) folded(l *layout, view string, at Point) Point {
	axis := s.on(l, view)
	if axis < 0 {
		return at
	}
	from, to := s.ends(l, view, axis)
	part := math.Max(0, math.Min(1, (at[axis]-from)/(to-from)))
	at[axis] += (to - from) * (0.5 - part)
	return at
}

// breaks gives a view its break, counted from its origin, and how far that shifts the middle of what it shows.
func (s *shortening) breaks(l *layout, view string, factor float64) (list []exercise.Break, shift Point) {
	axis := s.on(l, view)
	if axis < 0 {
		return nil, shift
	}
	middle := l.middle.Dot([]solid.Vec{l.views[view].X, l.views[view].Y}[axis])
	from, to := s.ends(l, view, axis)
	b := exercise.Break{Along: []string{"x", "y"}[axis], From: neatly(middle + from), To: neatly(middle + to)}
	shift[axis] = (b.To - b.From - breakGap/factor) / 2
	if b.From >= 0 { // what lies beyond comes nearer to the origin
		shift[axis] = -shift[axis]
	}
	return []exercise.Break{b}, shift
}
