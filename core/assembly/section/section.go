// Package section cuts components along a plane, as a drawing shows it: each with its outline and its own hatching.
package section

import (
	"math"
	"slices"

	"hammerset/core/solid"
)

// Hatch is how a component is hatched: lines at an angle in radians in the plane, so far apart in mm. Components that
// lie side by side differ in it (ISO 128-3).
type Hatch struct{ Angle, Spacing float64 }

// Cut is what a plane cuts of a component: the outline and the hatching as lines, two ends each, and the filled face as
// triangles; all in space, in mm.
type Cut struct {
	Outline []solid.Vec
	Hatch   []solid.Vec
	Fill    []solid.Vec
}

// segment is a piece of the outline in the coordinates of the plane.
type segment struct{ a, b [2]float64 }

// Of cuts a closed mesh, laid into space, along the plane of a frame, whose vectors are of length one.
func Of(m *solid.Mesh, place func(solid.Vec) solid.Vec, plane solid.Frame, h Hatch) Cut {
	var outline []segment
	for t := 0; t+2 < len(m.Triangles); t += 3 {
		var p [3]solid.Vec
		for k := range p {
			p[k] = place(m.At(m.Triangles[t+k])).Sub(plane.O)
		}
		if s, ok := across(p, plane); ok {
			outline = append(outline, s)
		}
	}
	space := func(x, y float64) solid.Vec { return plane.O.Add(plane.X.Scale(x)).Add(plane.Y.Scale(y)) }
	var out Cut
	for _, s := range outline {
		out.Outline = append(out.Outline, space(s.a[0], s.a[1]), space(s.b[0], s.b[1]))
	}
	sin, cos := math.Sincos(h.Angle)
	turned := make([]segment, len(outline)) // so that hatching is level
	for i, s := range outline {
		turn := func(p [2]float64) [2]float64 { return [2]float64{p[0]*cos + p[1]*sin, p[1]*cos - p[0]*sin} }
		turned[i] = segment{turn(s.a), turn(s.b)}
	}
	for _, l := range levels(turned, h.Spacing) {
		for _, p := range l {
			out.Hatch = append(out.Hatch, space(p[0]*cos-p[1]*sin, p[0]*sin+p[1]*cos))
		}
	}
	for _, p := range strips(outline) {
		out.Fill = append(out.Fill, space(p[0], p[1]))
	}
	return out
}

// small is what counts as nothing, in mm.
const small = 1e-9

// across is where the plane goes through a triangle. A corner on the plane counts to the side of the normal, so that a
// mesh that is closed has an outline that is closed.
func across(p [3]solid.Vec, plane solid.Frame) (segment, bool) {
	var ends [][2]float64
	var above [3]float64
	for k := range 3 {
		if above[k] = p[k].Dot(plane.Z); math.Abs(above[k]) < small {
			above[k] = 0
		}
	}
	for k := range 3 {
		q, r := p[k], p[(k+1)%3]
		a, b := above[k], above[(k+1)%3]
		if (a >= 0) == (b >= 0) {
			continue
		}
		x := q.Add(r.Sub(q).Scale(a / (a - b)))
		ends = append(ends, [2]float64{x.Dot(plane.X), x.Dot(plane.Y)})
	}
	if len(ends) != 2 {
		return segment{}, false
	}
	return segment{ends[0], ends[1]}, true
}

// crossings are where an outline crosses a level, from left to right: between the first and the second there is
// material, between the third and the fourth, and so on.
func crossings(outline []segment, y float64) []float64 {
	var out []float64
	for _, s := range outline {
		if (s.a[1] > y) != (s.b[1] > y) {
			out = append(out, s.a[0]+(s.b[0]-s.a[0])*(y-s.a[1])/(s.b[1]-s.a[1]))
		}
	}
	slices.Sort(out)
	return out
}

// mostLines bounds the hatching of one component.
const mostLines = 400

// levels are the pieces of level lines, so far apart, that lie in an outline.
func levels(outline []segment, spacing float64) [][2][2]float64 {
	low, high := math.Inf(1), math.Inf(-1)
	for _, s := range outline {
		low, high = math.Min(low, math.Min(s.a[1], s.b[1])), math.Max(high, math.Max(s.a[1], s.b[1]))
	}
	if spacing <= 0 || high <= low {
		return nil
	}
	spacing = math.Max(spacing, (high-low)/mostLines)
	var out [][2][2]float64
	for k := math.Ceil(low / spacing); k*spacing < high; k++ {
		y := k * spacing
		x := crossings(outline, y)
		for i := 0; i+1 < len(x); i += 2 {
			out = append(out, [2][2]float64{{x[i], y}, {x[i+1], y}})
		}
	}
	return out
}

// strips fills an outline with triangles: between the heights of its corners it falls into trapezoids.
func strips(outline []segment) [][2]float64 {
	var heights []float64
	for _, s := range outline {
		heights = append(heights, s.a[1], s.b[1])
	}
	slices.Sort(heights)
	heights = slices.CompactFunc(heights, func(a, b float64) bool { return math.Abs(b-a) < small })
	var out [][2]float64
	for k := 0; k+1 < len(heights); k++ {
		low, high := heights[k], heights[k+1]
		for _, pair := range between(outline, low, high) {
			a, b := pair[0], pair[1]
			out = append(out, [2]float64{a.at(low), low}, [2]float64{b.at(low), low}, [2]float64{b.at(high), high},
				[2]float64{a.at(low), low}, [2]float64{b.at(high), high}, [2]float64{a.at(high), high})
		}
	}
	return out
}

// at is where the line of a segment is at a height.
func (s segment) at(y float64) float64 { return s.a[0] + (s.b[0]-s.a[0])*(y-s.a[1])/(s.b[1]-s.a[1]) }

// between are the pairs of segments with material between them, of those that go all the way from one height to
// another.
func between(outline []segment, low, high float64) [][2]segment {
	middle := (low + high) / 2
	var list []segment
	for _, s := range outline {
		if (s.a[1] > middle) != (s.b[1] > middle) {
			list = append(list, s)
		}
	}
	slices.SortFunc(list, func(s, t segment) int {
		switch x, y := s.at(middle), t.at(middle); {
		case x < y:
			return -1
		case x > y:
			return 1
		}
		return 0
	})
	var out [][2]segment
	for i := 0; i+1 < len(list); i += 2 {
		out = append(out, [2]segment{list[i], list[i+1]})
	}
	return out
}

// Hatches gives each of n components its own hatching, so that those that touch differ: by the sense first, then by the
// spacing. touch lists the pairs that touch; spacing is the usual one in mm.
func Hatches(n int, touch [][2]int, spacing float64) []Hatch {
	next := make([][]int, n)
	for _, t := range touch {
		next[t[0]] = append(next[t[0]], t[1])
		next[t[1]] = append(next[t[1]], t[0])
	}
	taken := make([]int, n)
	for i := range taken {
		taken[i] = -1
	}
	out := make([]Hatch, n)
	for i := range n {
		k := 0
		for slices.ContainsFunc(next[i], func(j int) bool { return taken[j] == k }) {
			k++
		}
		taken[i] = k
		out[i] = Hatch{Angle: math.Pi / 4, Spacing: spacing * math.Pow(0.65, float64(k/2))}
		if k%2 == 1 {
			out[i].Angle = -math.Pi / 4
		}
	}
	return out
}
