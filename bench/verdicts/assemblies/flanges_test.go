package assemblies

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
)

func flanges(r *rand.Rand) *works { return &works{rng: r} }

// flanges makes two flanges on one another, with six holes on a bolt circle and a dowel hole beside them.
func (w *works) flanges() {
	flange := func(z float64) {
		s := w.less(w.rod(0, 0, z, w.size("1 outer", 80), 5), w.rod(0, 0, z-5, w.size("1 bore", 20), 20),
			w.rod(33*math.Cos(0.4), 33*math.Sin(0.4), z-5, 4, 20))
		for k := range 6 {
			at := float64(k) * math.Pi / 3
			s = w.less(s, w.rod(25*math.Cos(at), 25*math.Sin(at), z-5, 8, 20))
		}
		w.put(work{id: fmt.Sprintf("flange%d", len(w.list)+1), shape: s, axis: up})
	}
	flange(0)
	flange(5)
}

// turnedByAPitch is an attempt at the flanges of which one is turned so that the bolt circles meet and the dowel holes
// do not.
func turnedByAPitch(d *draft) *attempt {
	return &attempt{first: []string{"turned"}, item: d.number("flange2"), wrong: []string{"placed j1"},
		may: prefixed("whole aligned", "mobility", "whole mobility")}
}

// byAPitch turns one of the flanges by pitches of its bolt circle.
func byAPitch(ctx context.Context, d *draft) (*attempt, error) {
	if d.t.name != "flanges" {
		return nil, errNot
	}
	j, _ := d.doc.Joint("j1")
	j.Angle = fmt.Sprintf("%d deg", 180+60*(1+d.c.rng.IntN(5)))
	_, err := d.solve(ctx)
	return turnedByAPitch(d), err
}
