package edit

import (
	"math"

	"hammerset/core/sketch"
)

// Rectangle draws an upright rectangle between two opposite corners.
func (d *Draft) Rectangle(a, c sketch.Vec) (lines []string, err error) {
	if math.Abs(a.X-c.X) < 1e-9 || math.Abs(a.Y-c.Y) < 1e-9 {
		return nil, refuse("a rectangle needs two corners that differ across and along")
	}
	return d.box(a, c), nil
}

// box draws four lines from corner to corner, level and plumb in turn. Four such
// constraints take four freedoms of the eight that four corners have: place,
// width and height are left.
func (d *Draft) box(a, c sketch.Vec) []string {
	p := []string{d.Point(a), d.Point(sketch.Vec{X: c.X, Y: a.Y}), d.Point(c), d.Point(sketch.Vec{X: a.X, Y: c.Y})}
	var lines []string
	for i := range p {
		lines = append(lines, d.Line(p[i], p[(i+1)%4]))
	}
	for i, l := range lines {
		kind := "horizontal"
		if i%2 == 1 {
			kind = "vertical"
		}
		d.Constrain(kind, "", l)
	}
	return lines
}

// CentredRectangle draws an upright rectangle about a centre, which is a point
// of the sketch (or the origin).
func (d *Draft) CentredRectangle(center string, corner sketch.Vec) (lines []string, err error) {
	m := d.At(center)
	if math.Abs(m.X-corner.X) < 1e-9 || math.Abs(m.Y-corner.Y) < 1e-9 {
		return nil, refuse("a rectangle needs a corner away from its centre, across and along")
	}
	lines = d.box(m.Scale(2).Sub(corner), corner)
	first, third := d.Entity(lines[0]).From, d.Entity(lines[2]).From
	d.Constrain("symmetric", "", first, third, center)
	return lines, nil
}

// Polygon draws a regular polygon about a centre. By corners, the guide circle
// goes through the corners and corner is one of them; by flats, it touches the
// sides and corner is the middle of one.
func (d *Draft) Polygon(center string, corner sketch.Vec, n int, byFlats bool) (lines []string, err error) {
	if n < 3 || n > 64 {
		return nil, refuse("a polygon has 3 to 64 sides, not %d", n)
	}
	m := d.At(center)
	r, at := m.Distance(corner), m.AngleTo(corner)
	if r < 1e-9 {
		return nil, refuse("the polygon's corner is its centre")
	}
	radius := r
	if byFlats {
		radius = r / math.Cos(math.Pi/float64(n))
		at += math.Pi / float64(n)
	}
	circle := d.Circle(center, r)
	d.Entity(circle).Guide = true
	var p []string
	for i := range n {
		p = append(p, d.Point(m.Polar(radius, at+2*math.Pi*float64(i)/float64(n))))
	}
	for i := range n {
		lines = append(lines, d.Line(p[i], p[(i+1)%n]))
	}
	if byFlats {
		// Corners on one circle and sides touching another about the same centre
		// leave no polygon but the regular one.
		outer := d.Circle(center, radius)
		d.Entity(outer).Guide = true
		for i, l := range lines {
			d.Constrain("tangent", "", circle, l)
			d.Constrain("on-curve", "", p[i], outer)
		}
		return lines, nil
	}
	for _, q := range p {
		d.Constrain("on-curve", "", q, circle)
	}
	for i := 1; i < n; i++ {
		d.Constrain("equal", "", lines[i-1], lines[i])
	}
	return lines, nil
}

// Slot draws a straight slot between the centres of its round ends.
func (d *Draft) Slot(a, b string, radius float64) (curves []string, err error) {
	pa, pb := d.At(a), d.At(b)
	if pa.Distance(pb) < 1e-9 || !(radius > 0) {
		return nil, refuse("a slot needs two different centres and a width")
	}
	n := pb.Sub(pa).Unit().Left().Scale(radius)
	q := []string{d.Point(pa.Sub(n)), d.Point(pb.Sub(n)), d.Point(pb.Add(n)), d.Point(pa.Add(n))}
	l0, l1 := d.Line(q[0], q[1]), d.Line(q[2], q[3])
	a1, a0 := d.Arc(b, q[1], q[2]), d.Arc(a, q[3], q[0])
	for _, t := range [][2]string{{l0, a0}, {l0, a1}, {l1, a0}, {l1, a1}} {
		d.Constrain("tangent", "", t[0], t[1])
	}
	d.Constrain("equal", "", a0, a1)
	return []string{l0, a1, l1, a0}, nil
}

// CurvedSlot draws a slot along an arc about a centre, counter-clockwise from
// the first of its end centres to the second.
func (d *Draft) CurvedSlot(center, a, b string, radius float64) (curves []string, err error) {
	m, pa, pb := d.At(center), d.At(a), d.At(b)
	r := m.Distance(pa)
	if !(radius > 0) || r <= radius || pa.Distance(pb) < 1e-9 {
		return nil, refuse("a curved slot needs two different end centres, farther from its middle than half its width")
	}
	ta, tb := m.AngleTo(pa), m.AngleTo(pb)
	pb = m.Polar(r, tb)
	d.Put(b, pb)
	q := []string{d.Point(m.Polar(r-radius, ta)), d.Point(m.Polar(r+radius, ta)), d.Point(m.Polar(r+radius, tb)),
		d.Point(m.Polar(r-radius, tb))}
	outer, inner := d.Arc(center, q[1], q[2]), d.Arc(center, q[0], q[3])
	e0, e1 := d.Arc(a, q[0], q[1]), d.Arc(b, q[2], q[3])
	for _, t := range [][2]string{{outer, e0}, {outer, e1}, {inner, e0}, {inner, e1}} {
		d.Constrain("tangent", "", t[0], t[1])
	}
	return []string{outer, e1, inner, e0}, nil
}
