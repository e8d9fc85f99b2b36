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
	for _, c := range curves {
		if !c.Hidden && !c.Smooth {
			seen = append(seen, c)
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
			out = append(out, restOfRun(c, seen)...)
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

// restOfRun is what is left of a run of straight pieces. What stays of neighbouring pieces stays one run.
func restOfRun(c solid.ViewCurve, seen []solid.ViewCurve) []solid.ViewCurve {
	var out []solid.ViewCurve
	open := false // the last run goes on
	for i := 1; i < len(c.Points); i++ {
		a, b := c.Points[i-1], c.Points[i]
		length := math.Hypot(b[0]-a[0], b[1]-a[1])
		if length < together {
			continue
		}
		d := [2]float64{(b[0] - a[0]) / length, (b[1] - a[1]) / length}
		at := func(s float64) [2]float64 { return [2]float64{a[0] + s*d[0], a[1] + s*d[1]} }
		goesOn := open
		open = false
		for _, s := range rest(stretch{0, length}, coveredBy(a, d, length, seen), 2*together) {
			if goesOn && s.from == 0 {
				last := &out[len(out)-1]
				last.Points = append(last.Points, at(s.to))
			} else {
				piece := c
				piece.Points = [][2]float64{at(s.from), at(s.to)}
				out = append(out, piece)
			}
			open = s.to == length
		}
	}
	return out
}

// coveredBy are the stretches of a straight piece, from a in direction d, on which straight pieces of visible curves
// lie.
func coveredBy(a, d [2]float64, length float64, seen []solid.ViewCurve) []stretch {
	var out []stretch
	for i := range seen {
		if seen[i].Kind == "arc" {
			continue
		}
		for k := 1; k < len(seen[i].Points); k++ {
			var along [2]float64
			on := true
			for e, p := range [][2]float64{seen[i].Points[k-1], seen[i].Points[k]} {
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
	start, sweep := c.Start, c.Sweep
	if sweep < 0 {
		start, sweep = start+sweep, -sweep
	}
	var covered []stretch
	for _, o := range seen {
		if o.Kind != "arc" || math.Abs(o.Radius-c.Radius) > together ||
			math.Hypot(o.Center[0]-c.Center[0], o.Center[1]-c.Center[1]) > together {
			continue
		}
		from, over := o.Start, o.Sweep
		if over < 0 {
			from, over = from+over, -over
		}
		// Where it begins after the beginning of the arc, within a turn, and once more a turn before.
		ahead := math.Mod(from-start, 2*math.Pi)
		if ahead < 0 {
			ahead += 2 * math.Pi
		}
		covered = append(covered, stretch{ahead, ahead + over}, stretch{ahead - 2*math.Pi, ahead - 2*math.Pi + over})
	}
	var out []solid.ViewCurve
	for _, s := range rest(stretch{0, sweep}, covered, 2*together/math.Max(c.Radius, together)) {
		piece := c
		piece.Start, piece.Sweep = start+s.from, s.to-s.from
		out = append(out, piece)
	}
	return out
}
