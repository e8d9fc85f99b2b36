package sheet

import (
	"math"
	"slices"

	"hammerset/core/solid"
)

// together is how far lines may lie apart that are drawn as one, in mm of the model; on paper it is less than any line
// is wide.
const together = 1e-3

// uncovered leaves out of hidden curves what visible ones cover: where lines of several types coincide, visible
// outlines come first (ISO 128-2, from memory). Straight pieces are covered by straight ones, arcs by arcs about the
// same centre.
func uncovered(curves []solid.ViewCurve) []solid.ViewCurve {
	var seen []solid.ViewCurve
	var runs []bounded
	for _, c := range curves {
		if c.Hidden || c.Smooth {
			continue
		}
		if seen = append(seen, c); c.Kind != "arc" {
			runs = append(runs, bounded{c.Points, around(c.Points)})
		}
	}
	out := make([]solid.ViewCurve, 0, len(curves))
	for _, c := range curves {
		switch {
		case !c.Hidden || c.Smooth:
			out = append(out, c)
		case c.Kind == "arc":
			out = append(out, restOfArc(c, seen)...)
		default:
			out = append(out, restOfRun(c, runs)...)
		}
	}
	return out
}

// stretch is a part of a piece, by its parameter.
type stretch struct{ from, to float64 }

// rest is what is left of a stretch without others, but for what is shorter than least.
func rest(whole stretch, covered []stretch, least float64) []stretch {
	slices.SortFunc(covered, func(a, b stretch) int {
		if a.from < b.from {
			return -1
		}
		return 1
	})
	var out []stretch
	at := whole.from
	for _, c := range append(covered, stretch{whole.to, whole.to}) {
		if to := math.Min(c.from, whole.to); to-at > least {
			out = append(out, stretch{at, to})
		}
		at = math.Max(at, c.to)
	}
	return out
}

// bounded is a run of straight pieces with the rectangle around it: most runs lie nowhere near another.
type bounded struct {
	points [][2]float64
	box    Extent
}

// around is the rectangle around places, as much wider as lines may lie apart that are drawn as one.
func around(points [][2]float64) Extent {
	e := Extent{Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}}
	for _, p := range points {
		for k := range 2 {
			e.Min[k], e.Max[k] = math.Min(e.Min[k], p[k]-together), math.Max(e.Max[k], p[k]+together)
		}
	}
	return e
}

// restOfRun is what is left of a run of straight pieces.
func restOfRun(c solid.ViewCurve, all []bounded) []solid.ViewCurve {
	var seen []bounded
	for box, i := around(c.Points), 0; i < len(all); i++ {
		if all[i].box.Overlaps(box) {
			seen = append(seen, all[i])
		}
	}
	return runPieces(c, func(a, b [2]float64) []stretch {
		length := math.Hypot(b[0]-a[0], b[1]-a[1])
		if length < together {
			return nil
		}
		d := [2]float64{(b[0] - a[0]) / length, (b[1] - a[1]) / length}
		left := rest(stretch{0, length}, coveredBy(a, d, length, seen), 2*together)
		for i, s := range left {
			left[i] = stretch{s.from / length, s.to / length}
		}
		return left
	})
}

// runPieces is what is kept of a run of straight pieces: of each the stretches, as parts of its length. What is kept of
// neighbouring pieces stays one run.
func runPieces(c solid.ViewCurve, kept func(a, b [2]float64) []stretch) []solid.ViewCurve {
	var out []solid.ViewCurve
	open := false // the last run goes on
	for i := 1; i < len(c.Points); i++ {
		a, b := c.Points[i-1], c.Points[i]
		at := func(t float64) [2]float64 { return [2]float64{a[0] + t*(b[0]-a[0]), a[1] + t*(b[1]-a[1])} }
		goesOn := open
		open = false
		for _, s := range kept(a, b) {
			if goesOn && s.from == 0 {
				last := &out[len(out)-1]
				last.Points = append(last.Points, at(s.to))
			} else {
				piece := c
				piece.Points = [][2]float64{at(s.from), at(s.to)}
				out = append(out, piece)
			}
			open = s.to == 1
		}
	}
	return out
}

// arcPieces is what is kept of an arc: stretches of its angle, counted from where it starts counter-clockwise.
func arcPieces(c solid.ViewCurve, kept func(start, sweep float64) []stretch) []solid.ViewCurve {
	start, sweep := forwards(c)
	var out []solid.ViewCurve
	for _, s := range kept(start, sweep) {
		piece := c
		piece.Start, piece.Sweep = start+s.from, s.to-s.from
		out = append(out, piece)
	}
	return out
}

// forwards is an arc counter-clockwise: where it starts, and by how much it goes on.
func forwards(c solid.ViewCurve) (start, sweep float64) {
	if c.Sweep < 0 {
		return c.Start + c.Sweep, -c.Sweep
	}
	return c.Start, c.Sweep
}

// ahead is how far an angle lies after another, within a turn.
func ahead(of, angle float64) float64 {
	t := math.Mod(angle-of, 2*math.Pi)
	if t < 0 {
		t += 2 * math.Pi
	}
	return t
}

// coveredBy are the stretches of a straight piece, from a in direction d, on which straight pieces of visible curves
// lie.
func coveredBy(a, d [2]float64, length float64, seen []bounded) []stretch {
	var out []stretch
	box := around([][2]float64{a, {a[0] + length*d[0], a[1] + length*d[1]}})
	for i := range seen {
		if !seen[i].box.Overlaps(box) {
			continue
		}
		for k := 1; k < len(seen[i].points); k++ {
			var along [2]float64
			on := true
			for e, p := range [2][2]float64{seen[i].points[k-1], seen[i].points[k]} {
				x, y := p[0]-a[0], p[1]-a[1]
				along[e] = x*d[0] + y*d[1]
				on = on && math.Abs(x*d[1]-y*d[0]) < together
			}
			if low, high := min(along[0], along[1]), max(along[0], along[1]); on && high > 0 && low < length {
				out = append(out, stretch{low, high})
			}
		}
	}
	return out
}

// restOfArc is what is left of an arc.
func restOfArc(c solid.ViewCurve, seen []solid.ViewCurve) []solid.ViewCurve {
	return arcPieces(c, func(start, sweep float64) []stretch {
		var covered []stretch
		for _, o := range seen {
			if o.Kind != "arc" || math.Abs(o.Radius-c.Radius) > together ||
				math.Hypot(o.Center[0]-c.Center[0], o.Center[1]-c.Center[1]) > together {
				continue
			}
			// Where it begins after the beginning of the arc, within a turn, and once more a turn before.
			from, over := forwards(o)
			at := ahead(start, from)
			covered = append(covered, stretch{at, at + over}, stretch{at - 2*math.Pi, at - 2*math.Pi + over})
		}
		return rest(stretch{0, sweep}, covered, 2*together/math.Max(c.Radius, together))
	})
}
