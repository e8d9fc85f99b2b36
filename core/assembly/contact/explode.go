package contact

import (
	"cmp"
	"math"
	"slices"

	"hammerset/core/solid"
)

// Apart is how a component is drawn out of an assembly to show it: so far in a direction. Order is its place in the
// order in which components come off.
type Apart struct {
	Component string    `json:"component"`
	By        solid.Vec `json:"by"` // mm
	Order     int       `json:"order"`
	// Forced: nothing can be drawn out as it stands, and this one goes through others.
	Forced bool `json:"forced,omitempty"`
}

// gap is what is left between components drawn apart, as a share of the size of the whole.
const gap = 0.06

// Explode draws an assembly apart: again and again the smallest component that can be drawn straight out comes off, and
// last stands what is pinned, or the largest. Put together again in the opposite order, each stops short of those that
// are there before it comes to its place.
func (s *Set) Explode() []Apart {
	if len(s.bodies) == 0 {
		return nil
	}
	boxes := map[string]*body{}
	size := nothing()
	for _, b := range s.bodies {
		boxes[b.ID] = b
		size.take(b.box.low)
		size.take(b.box.high)
	}
	order := s.comingOff(&size)
	room := gap * size.high.Sub(size.low).Norm()
	out := make([]Apart, 0, len(order))
	var there []extent
	last := order[len(order)-1]
	there = append(there, extent{boxes[last.Component], solid.Vec{}})
	out = append(out, Apart{Component: last.Component, Order: len(order) - 1})
	for k := len(order) - 2; k >= 0; k-- {
		x := order[k]
		b := boxes[x.Component]
		x.By = x.By.Scale(clear(b, x.By, there, room))
		there = append(there, extent{b, x.By})
		out = append(out, x)
	}
	slices.Reverse(out)
	return out
}

// extent is a component where it was drawn to.
type extent struct {
	*body
	by solid.Vec
}

// clear is how far a component goes in a direction to be beyond all of those that are in its way.
func clear(b *body, way solid.Vec, there []extent, room float64) float64 {
	frame := solid.Plane(solid.Vec{}, way)
	low, high := b.span(frame)
	far := 0.0
	for _, o := range there {
		l, h := o.span(frame)
		shift := solid.Vec{o.by.Dot(frame.X), o.by.Dot(frame.Y), o.by.Dot(frame.Z)}
		l, h = l.Add(shift), h.Add(shift)
		if low[0] > h[0] || l[0] > high[0] || low[1] > h[1] || l[1] > high[1] {
			continue // beside it
		}
		far = math.Max(far, h[2]-low[2]+room)
	}
	if far == 0 {
		far = room
	}
	return far
}

// span is how far a component goes along the vectors of a frame.
func (b *body) span(f solid.Frame) (low, high solid.Vec) {
	box := nothing()
	for i := range b.faces {
		for _, t := range b.faces[i].triangles {
			for _, p := range t {
				box.take(solid.Vec{p.Dot(f.X), p.Dot(f.Y), p.Dot(f.Z)})
			}
		}
	}
	return box.low, box.high
}

// comingOff is the order in which components come off, each with its direction.
func (s *Set) comingOff(whole *box) []Apart {
	left := slices.Clone(s.bodies)
	slices.SortStableFunc(left, func(a, b *body) int {
		if a.Pinned != b.Pinned { // what is pinned stays longest
			if b.Pinned {
				return -1
			}
			return 1
		}
		return cmp.Compare(a.Shape.Props.Volume, b.Shape.Props.Volume)
	})
	middle := whole.low.Add(whole.high).Scale(0.5)
	var out []Apart
	for len(left) > 1 {
		stands := func(other string) bool { return slices.ContainsFunc(left, func(b *body) bool { return b.ID == other }) }
		at, found := 0, Apart{}
		for i := range left[:len(left)-1] {
			h := s.Around(left[i].ID, stands)
			way, ok := h.Way()
			if ok && way == (solid.Vec{}) { // nothing is around it: away from the middle
				way = outward(left[i], middle)
			}
			if ok {
				at, found = i, Apart{Component: left[i].ID, By: way}
				break
			}
		}
		if found.Component == "" {
			found = Apart{Component: left[0].ID, By: outward(left[0], middle), Forced: true}
		}
		found.Order = len(out)
		out = append(out, found)
		left = slices.Delete(left, at, at+1)
	}
	return append(out, Apart{Component: left[0].ID, Order: len(out)})
}

// outward is the direction from the middle of the whole to a component, along the axis of space that it goes most.
func outward(b *body, middle solid.Vec) solid.Vec {
	d := b.Pose.Apply(b.Shape.Box.Min.Add(b.Shape.Box.Max).Scale(0.5)).Sub(middle)
	k := 2
	for i := range 3 {
		if math.Abs(d[i]) > math.Abs(d[k])*(1+1e-9) {
			k = i
		}
	}
	out := solid.Vec{}
	out[k] = math.Copysign(1, d[k])
	return out
}
