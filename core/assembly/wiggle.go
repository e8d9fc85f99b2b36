package assembly

import (
	"math"

	"hammerset/core/rigid"
	"hammerset/core/solve"
)

// Wiggle moves a component to and fro in a way that is left to it, by up to so many millimetres, and calls each at
// every one of the frames; the mechanism stands as it stood afterwards. It tells whether there is a way at all.
func (m *Mechanism) Wiggle(component string, far float64, frames int, each func()) bool {
	b, ok := m.bodyOf[component]
	if !ok || b < 0 {
		return false
	}
	s := m.system
	for _, c := range s.Components(s.All()) {
		way := m.way(b, c)
		if way == nil {
			continue
		}
		keep := append([]float64(nil), s.State...)
		motions, d := s.MotionsOf(c, s.State), make([]float64, len(way))
		for k := range frames {
			copy(s.State, keep)
			by := far * math.Sin(2*math.Pi*float64(k)/float64(frames))
			for i := range d {
				d[i] = by * way[i]
			}
			s.Push(motions, d)
			if len(c.Groups) == 0 || s.Small(s.SettleWhole(c, iterations)) {
				each()
			}
		}
		copy(s.State, keep)
		return true
	}
	return false
}

// way is the motion of a component of the system that moves a body most, scaled so that the body moves by one; nil
// where it stands still in it.
func (m *Mechanism) way(body int, c solve.Component) []float64 {
	all := m.system.MotionsOf(c, m.system.State)
	var best []float64
	most := 1e-6
	for k := range rigid.Unknowns {
		i, ok := all.Place(rigid.Unknowns*body + k)
		if !ok {
			continue
		}
		e := make([]float64, len(all.Vars))
		e[i] = 1
		if v := all.Project(e); v[i] > most {
			best, most = v, v[i]
		}
	}
	for i := range best {
		best[i] /= most
	}
	return best
}
