package assemblies

import (
	"context"
	"math"
	"math/rand/v2"

	"gonum.org/v1/gonum/num/quat"

	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// links are the lengths of a four-bar linkage between its joints: the links of such lengths close in two ways, and the
// shortest one turns round since it and the longest are together shorter than the other two (Grashof's rule, as in any
// textbook of mechanisms; from memory).
type links struct{ base, crank, coupler, rocker float64 }

func fourBar() links { return links{100, 30, 90, 60} }

// bar is a link where it stands: the joint that it begins at, and the angle to the next.
type bar struct{ x, y, angle float64 }

// closed is the linkage with its crank at an angle, put together on one side (1) or the other (-1).
func (l links) closed(angle, side float64) (crank, coupler, rocker bar) {
	x, y := l.crank*math.Cos(angle), l.crank*math.Sin(angle)
	far := math.Hypot(l.base-x, y)
	along := (l.coupler*l.coupler - l.rocker*l.rocker + far*far) / (2 * far)
	off := side * math.Sqrt(l.coupler*l.coupler-along*along)
	ux, uy := (l.base-x)/far, -y/far
	px, py := x+along*ux-off*uy, y+along*uy+off*ux
	return bar{0, 0, angle}, bar{x, y, math.Atan2(py-y, px-x)}, bar{l.base, 0, math.Atan2(py, px-l.base)}
}

// pose is the bar at a height.
func (b bar) pose(z float64) rigid.Pose {
	return rigid.Pose{Turn: quat.Number{Real: math.Cos(b.angle / 2), Kmag: math.Sin(b.angle / 2)},
		Shift: solid.Vec{b.x, b.y, z}}
}

func linkage(r *rand.Rand) *works { return &works{rng: r} }

// linkage makes the four-bar linkage of flat links with a hole at each end, its crank anywhere.
func (w *works) linkage(side float64) {
	l := fourBar()
	crank, coupler, rocker := l.closed(w.rng.Float64()*2*math.Pi, side)
	put := func(id, wide string, long, z float64, b bar) {
		s := w.less(w.box(long/2, 0, 0, long+16, w.size(wide, 16), 5), w.rod(0, 0, -5, 6, 20), w.rod(long, 0, -5, 6, 20))
		w.put(work{id: id, shape: w.moved(s, b.pose(z).Transform()), axis: up, same: true, at: solid.Vec{b.x, b.y, z}})
	}
	put("base", "1 wide", l.base, 0, bar{})
	put("crank", "2 wide", l.crank, 5, crank)
	put("rocker", "3 wide", l.rocker, 5, rocker)
	put("coupler", "4 wide", l.coupler, 10, coupler)
}

// otherWay is an attempt at the linkage that is put together in the other way.
func otherWay() *attempt {
	return &attempt{first: []string{"motion"}, wrong: []string{"motion j1"},
		may: prefixed("whole path", "whole range", "whole interference", "collision")}
}

// inTheOtherWay puts the linkage together in the other way.
func inTheOtherWay(_ context.Context, d *draft) (*attempt, error) {
	if d.t.name != "linkage" {
		return nil, errNot
	}
	crank, coupler, rocker := fourBar().closed(d.c.rng.Float64()*2*math.Pi, -1)
	for id, pose := range map[string]rigid.Pose{"base": bar{}.pose(0), "crank": crank.pose(5), "rocker": rocker.pose(5),
		"coupler": coupler.pose(10)} {
		c, _ := d.doc.Component(id)
		c.Pose = pose
	}
	return otherWay(), nil
}
