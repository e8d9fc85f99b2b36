package audit

import (
	"cmp"
	"slices"

	"hammerset/core/solid"
)

// unknowns are all small changes of the surfaces of a part, numbered through. A row has a coefficient for each.
type unknowns struct {
	g        *solid.Geometry
	carriers []carrier
	of       []int // the carrier of each face, or -1
	n        int
	lever    float64 // mm
	// shapeless are faces of free form of which nothing can be said.
	shapeless []int
	trial     solid.Geometry // that is changed a little to see how measures follow
}

func newUnknowns(g *solid.Geometry) *unknowns {
	u := &unknowns{g: g, lever: max(1, g.Box.Diagonal()), trial: *g}
	u.trial.Faces, u.trial.Edges = slices.Clone(g.Faces), slices.Clone(g.Edges)
	for i, f := range g.Faces {
		c, ok := carrierOf(f, u.lever)
		if !ok {
			u.of = append(u.of, -1)
			if !u.blended(f) {
				u.shapeless = append(u.shapeless, i)
			}
			continue
		}
		k := slices.IndexFunc(u.carriers, func(have carrier) bool { return have.has(&c) })
		if k < 0 {
			k = u.add(c)
		} else {
			u.carriers[k].area += f.Area
		}
		u.carriers[k].faces = append(u.carriers[k].faces, i)
		u.of = append(u.of, k)
	}
	return u
}

// add puts a carrier in, and gives its number.
func (u *unknowns) add(c carrier) int {
	c.first = u.n
	u.n += len(c.ways)
	u.carriers = append(u.carriers, c)
	return len(u.carriers) - 1
}

// bySize lists the carriers, those of the largest faces first.
func (u *unknowns) bySize() []int {
	out := make([]int, len(u.carriers))
	for i := range out {
		out[i] = i
	}
	slices.SortStableFunc(out, func(a, b int) int { return cmp.Compare(u.carriers[b].area, u.carriers[a].area) })
	return out
}

// blended tells whether a face of free form runs smoothly into three others or more, and into everything around it: the
// corner of a blend, which has no size of its own. A dome at the end of a cylinder has one.
func (u *unknowns) blended(f solid.Face) bool {
	beside := map[int]bool{}
	for _, e := range f.Edges {
		x := u.g.Edges[e]
		if !x.Smooth && !x.Seam && !x.Degenerate {
			return false
		}
		for _, o := range x.Faces {
			if u.g.Faces[o].Kind != solid.OtherFace {
				beside[o] = true
			}
		}
	}
	return len(beside) > 2
}

// row is a row without coefficients.
func (u *unknowns) row() []float64 { return make([]float64, u.n) }

// put adds what a carrier contributes to a row: a number for each of its ways. A face of free form has none.
func (u *unknowns) put(row []float64, c int, scale float64, of func(w way) float64) {
	if c < 0 {
		return
	}
	for k, w := range u.carriers[c].ways {
		row[u.carriers[c].first+k] += scale * of(w)
	}
}

// which is the carrier and its way that an unknown belongs to.
func (u *unknowns) which(i int) (c int, w way) {
	c = slices.IndexFunc(u.carriers, func(x carrier) bool { return i < x.first+len(x.ways) })
	return c, u.carriers[c].ways[i-u.carriers[c].first]
}

// rigid are the motions of the whole as changes of the unknowns: three shifts and three turns.
func (u *unknowns) rigid() [][]float64 {
	var out [][]float64
	for k := range 6 {
		var motion [2]solid.Vec
		motion[k/3][k%3] = 1
		if k >= 3 {
			motion[1] = motion[1].Scale(1 / u.lever)
		}
		v := make([]float64, 0, u.n)
		for i := range u.carriers {
			v = append(v, u.carriers[i].follow(motion[0], motion[1])...)
		}
		out = append(out, v)
	}
	return out
}
