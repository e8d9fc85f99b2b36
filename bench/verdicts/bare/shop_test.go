package bare

import (
	"math"

	"hammerset/core/solid"
)

// shop makes solids by plain kernel calls. The first call that fails is kept in err, and those after it do
// nothing: a part that cannot be made is no attempt.
type shop struct {
	k   solid.Kernel
	err error
}

func (s *shop) try(call func() (solid.Shape, solid.History, error)) solid.Shape {
	if s.err != nil {
		return nil
	}
	out, _, err := call()
	s.err = err
	return out
}

// outline is a closed run of lines and arcs, from a first point.
type outline struct {
	pieces []solid.Segment
	at     [2]float64
}

func from(x, y float64) *outline { return &outline{at: [2]float64{x, y}} }

func (o *outline) to(x, y float64) *outline {
	p := [2]float64{x, y}
	if math.Hypot(x-o.at[0], y-o.at[1]) > 1e-9 {
		o.pieces = append(o.pieces, solid.Segment{Kind: "line", A: o.at, B: p})
		o.at = p
	}
	return o
}

// arc goes to x, y about a centre, by the shorter way.
func (o *outline) arc(cx, cy, x, y float64) *outline {
	ux, uy := (o.at[0]+x)/2-cx, (o.at[1]+y)/2-cy
	r, d := math.Hypot(x-cx, y-cy), math.Hypot(ux, uy)
	p := [2]float64{x, y}
	o.pieces = append(o.pieces, solid.Segment{Kind: "arc", A: o.at, B: p, Mid: [2]float64{cx + ux*r/d, cy + uy*r/d}})
	o.at = p
	return o
}

// round goes over the corner at x, y towards nx, ny, rounded by r where that is not nothing.
func (o *outline) round(x, y, nx, ny, r float64) *outline {
	if r <= 0 {
		return o.to(x, y)
	}
	ax, ay := o.at[0]-x, o.at[1]-y
	bx, by := nx-x, ny-y
	a, b := math.Hypot(ax, ay), math.Hypot(bx, by)
	ax, ay, bx, by = ax/a, ay/a, bx/b, by/b
	o.to(x+ax*r, y+ay*r)
	return o.arc(x+(ax+bx)*r, y+(ay+by)*r, x+bx*r, y+by*r)
}

func (o *outline) close() []solid.Segment {
	first := o.pieces[0].A
	return o.to(first[0], first[1]).pieces
}

// rectangle is w by h about a middle, its corners rounded by r, or cut off at that where bevelled; corners
// that are not in which stay sharp.
func rectangle(x, y, w, h, r float64, bevelled bool, sharp ...int) []solid.Segment {
	c := [][2]float64{{x - w/2, y - h/2}, {x + w/2, y - h/2}, {x + w/2, y + h/2}, {x - w/2, y + h/2}}
	o := from(x, y-h/2)
	for i := range 4 {
		p, n := c[(i+1)%4], c[(i+2)%4]
		cut := r
		for _, k := range sharp {
			if k == i {
				cut = 0
			}
		}
		if bevelled && cut > 0 {
			dx, dy := math.Copysign(cut, p[0]-x), math.Copysign(cut, p[1]-y)
			if i%2 == 0 { // along x, then along y
				o.to(p[0]-dx, p[1]).to(p[0], p[1]-dy)
			} else {
				o.to(p[0], p[1]-dy).to(p[0]-dx, p[1])
			}
			continue
		}
		o.round(p[0], p[1], n[0], n[1], cut)
	}
	return o.close()
}

var (
	flat  = solid.Frame{X: solid.Vec{1, 0, 0}, Y: solid.Vec{0, 1, 0}, Z: solid.Vec{0, 0, 1}}
	front = solid.Frame{X: solid.Vec{1, 0, 0}, Y: solid.Vec{0, 0, 1}, Z: solid.Vec{0, -1, 0}}
	side  = solid.Frame{X: solid.Vec{0, 1, 0}, Y: solid.Vec{0, 0, 1}, Z: solid.Vec{1, 0, 0}}
)

// raised is a plane at so much along its normal.
func raised(f solid.Frame, by float64) solid.Frame {
	f.O = f.O.Add(f.Z.Scale(by))
	return f
}

// prism is what an outline on a plane sweeps along its normal.
func (s *shop) prism(f solid.Frame, loop []solid.Segment, by float64) solid.Shape {
	return s.try(func() (solid.Shape, solid.History, error) {
		return s.k.Prism(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, f.Z.Scale(by))
	})
}

func (s *shop) box(x0, x1, y0, y1, z0, z1 float64) solid.Shape {
	return s.prism(raised(flat, z0), rectangle((x0+x1)/2, (y0+y1)/2, x1-x0, y1-y0, 0, false), z1-z0)
}

// turned is a half section in (radius, height) turned about the z axis.
func (s *shop) turned(o *outline) solid.Shape {
	return s.about(front, o.close(), solid.Vec{}, up, 2*math.Pi)
}

// about turns an outline on a plane about an axis.
func (s *shop) about(f solid.Frame, loop []solid.Segment, at, axis solid.Vec, angle float64) solid.Shape {
	return s.try(func() (solid.Shape, solid.History, error) {
		return s.k.Revolve(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, at, axis, angle)
	})
}

// rod is a cylinder of a diameter from a place, as long as along.
func (s *shop) rod(at, along solid.Vec, d float64) solid.Shape {
	f := solid.Plane(at, along.Unit())
	f.O = at
	return s.prism(f, circle(d), along.Norm())
}

// circle is one of a diameter about the origin of its plane.
func circle(d float64) []solid.Segment {
	return []solid.Segment{{Kind: "circle", Radius: d / 2, Forward: true, Hi: 2 * math.Pi}}
}

// cone narrows from a diameter to another along its axis.
func (s *shop) cone(at, along solid.Vec, d, end float64) solid.Shape {
	f := solid.Plane(at, along.Unit().Perpendicular())
	f = solid.Frame{O: at, X: f.Z, Y: along.Unit(), Z: f.Z.Cross(along.Unit())}
	o := from(0, 0).to(d/2, 0).to(end/2, along.Norm()).to(0, along.Norm())
	return s.about(f, o.close(), at, along.Unit(), 2*math.Pi)
}

func (s *shop) union(a solid.Shape, more ...solid.Shape) solid.Shape {
	if len(more) == 0 {
		return a
	}
	return s.try(func() (solid.Shape, solid.History, error) { return s.k.Boolean(solid.Union, a, more) })
}

func (s *shop) cut(a solid.Shape, tools ...solid.Shape) solid.Shape {
	if len(tools) == 0 {
		return a
	}
	return s.try(func() (solid.Shape, solid.History, error) { return s.k.Boolean(solid.Difference, a, tools) })
}

func (s *shop) moved(a solid.Shape, t solid.Transform) solid.Shape {
	return s.try(func() (solid.Shape, solid.History, error) { return s.k.Transform(a, t) })
}

// tidy joins what lies on one surface, as most programs do.
func (s *shop) tidy(a solid.Shape) solid.Shape {
	return s.try(func() (solid.Shape, solid.History, error) {
		out, h, _, err := s.k.Simplify(a)
		return out, h, err
	})
}

// grid are the corners of a rectangle about the origin.
func grid(x, y, z float64) []solid.Vec {
	return []solid.Vec{{-x / 2, -y / 2, z}, {x / 2, -y / 2, z}, {x / 2, y / 2, z}, {-x / 2, y / 2, z}}
}

// ring are n places about the z axis, but for those that are left out.
func ring(n int, d, z float64, without ...int) []solid.Vec {
	var out []solid.Vec
	for i := range n {
		if len(without) == 0 || without[0] != i {
			a := 2 * math.Pi * float64(i) / float64(n)
			out = append(out, solid.Vec{d / 2 * math.Cos(a), d / 2 * math.Sin(a), z})
		}
	}
	return out
}

// hole is what a feature that is drilled in several places takes away.
type hole struct {
	d       float64
	deep    float64 // with how much it reaches over the face it begins at
	head    float64 // diameter of a head at the face, 0 for none
	sunk    float64 // depth of the head
	conical bool
	long    float64 // length of a slot in place of a round hole, 0 for none
}

// drill gives the tools for holes at places, into a direction.
func (s *shop) drill(at []solid.Vec, into solid.Vec, h hole) []solid.Shape {
	const over = 1.0
	var out []solid.Shape
	for _, p := range at {
		before := p.Sub(into.Scale(over))
		if h.long > 0 {
			f := solid.Plane(before, into)
			f.O = before
			l, r := h.long/2, h.d/2
			o := from(-l, -r).to(l, -r)
			o.arc(l, 0, l+r, 0).arc(l, 0, l, r).to(-l, r).arc(-l, 0, -l-r, 0).arc(-l, 0, -l, -r)
			out = append(out, s.prism(f, o.pieces, h.deep+over))
			continue
		}
		out = append(out, s.rod(before, into.Scale(h.deep+over), h.d))
		switch {
		case h.head > 0 && h.conical:
			out = append(out, s.cone(p, into.Scale((h.head-h.d)/2), h.head, h.d))
		case h.head > 0:
			out = append(out, s.rod(before, into.Scale(h.sunk+over), h.head))
		}
	}
	return out
}
