package sheet

import (
	"math"

	"hammerset/core/exercise"
)

// Refill puts an arranged sheet onto the paper and into the scale that it fills best, now that it is known how much
// room what stands at its views takes. The marks stay where they are at their views. It is done on a copy; ok is false
// where nothing is to be gained.
func Refill(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, d *Drawing, m Metrics) (out exercise.Sheet,
	ok bool) {
	margins, err := d.margins(s, p, m)
	if err != nil {
		return out, false
	}
	again := arrange(p.Geometry, ex, s.Stands, margins)
	if again.Paper == s.Paper && again.Scale == s.Scale {
		return out, false
	}
	out = *s
	out.Paper, out.Scale, out.Views = again.Paper, again.Scale, nil
	for _, v := range s.Views {
		to := again.View(v.ID)
		switch {
		case to != nil:
			v.At, v.Scale, v.Breaks = to.At, to.Scale, to.Breaks
		case fromCorner(v): // there is no room for it any more
			continue
		default:
			return out, false // it was not arranged
		}
		out.Views = append(out.Views, v)
	}
	for _, v := range again.Views {
		if s.View(v.ID) == nil && fromCorner(v) {
			out.Views = append(out.Views, v)
		}
	}
	return out, true
}

// Better tells whether a layout of a sheet is better than another one: less is touched on it, or as much, and the paper
// is filled better by a share that is worth it.
func (d *Drawing) Better(than *Drawing, m Metrics) bool {
	const least, most, worth = 0.42, 0.75, 0.05
	off := func(d *Drawing) float64 {
		used := d.Used(m)
		return math.Max(0, least-used) + math.Max(0, used-most)
	}
	if now, before := len(d.Touching(m)), len(than.Touching(m)); now != before {
		return now < before
	}
	return off(d) < off(than)-worth
}

// margins are how far what stands at each view reaches beyond it: at its left, right, over it and under it.
func (d *Drawing) margins(s *exercise.Sheet, p *Projected, m Metrics) (map[string][4]float64, error) {
	around := map[string]Extent{}
	for _, it := range d.Items {
		e, ok := it.extent(m)
		if !ok || it.View == "" {
			continue
		}
		if a, known := around[it.View]; known {
			for k := range 2 {
				e.Min[k], e.Max[k] = math.Min(a.Min[k], e.Min[k]), math.Max(a.Max[k], e.Max[k])
			}
		}
		around[it.View] = e
	}
	out := map[string][4]float64{}
	for _, v := range s.Views {
		placed, _, err := p.placedView(s, v.ID)
		if err != nil {
			return nil, err
		}
		a, box := around[v.ID], placed.box
		if !fromCorner(v) {
			out[v.ID] = [4]float64{math.Max(0, box.Min[0]-a.Min[0]), math.Max(0, a.Max[0]-box.Max[0]),
				math.Max(0, a.Max[1]-box.Max[1]), math.Max(0, box.Min[1]-a.Min[1])}
		}
	}
	return out, nil
}
