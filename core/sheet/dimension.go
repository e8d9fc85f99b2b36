package sheet

import (
	"fmt"
	"math"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Dimensions as ISO 129-1 draws them: extension lines begin a little away from
// the outline and run past the dimension line, arrows point outwards from
// between, and from outside where there is no room. Sizes of the drawing itself
// are in millimetres of paper, whatever the scale.

const (
	arrowLength = 3.0
	gap         = 1.0 // between outline and extension line
	overrun     = 2.0 // of the extension line beyond the dimension line
	balloonR    = 3.2
	balloonText = 2.5
	textGap     = 1.8 // between a text and its balloon, so that a verdict's shape has room
)

// valueText is the text of a characteristic: prefix, stated value and suffix.
//
// A note of several places begins with their number, as in 4× ⌀9 (ISO 129-1).
// The class of an ISO fit follows the size, as in 25 H7 (ISO 286-1).
func (b *builder) valueText(c *exercise.Characteristic, places int, stated characteristic.Stated) string {
	t := stated.Text
	if printed := c.Declared().Print; printed != nil {
		t = printed(stated, c.How())
	}
	if tol := c.Tolerance; tol != nil && tol.Kind == "iso286" {
		t += " " + tol.Class
	}
	if places > 1 {
		t = fmt.Sprintf("%d× %s", places, t)
	}
	return t
}

// dimension draws one dimension of the sheet.
//
// A dimension without a place on the part is an error here and not on the sheet:
// a number beside nothing cannot be checked.
func (b *builder) dimension(d exercise.Dim) error {
	v, ok := b.views[d.View]
	if !ok {
		return fmt.Errorf("dimension of %s: there is no view %q", d.Characteristic, d.View)
	}
	c := b.ex.Characteristic(d.Characteristic)
	places, stated, err := b.nominal(c)
	if err != nil {
		return err
	}
	if len(places) == 0 {
		return fmt.Errorf("dimension of %s: it has no place on the part", d.Characteristic)
	}
	text := d.Prefix + b.valueText(c, len(places), stated) + d.Suffix
	place := places[0]
	switch d.Kind {
	case "leader":
		return b.leader(v, d, c, places, text)
	case "linear":
		return b.linear(v, d, c, place, text)
	case "angle":
		return b.angular(v, d, c, place, text)
	}
	return fmt.Errorf("dimension of %s: %q is not a kind of dimension: use linear, leader or angle",
		d.Characteristic, d.Kind)
}

// anchor is where an extension line starts: the coordinate along the measured
// direction is exact, the other is the end of the geometry nearest to the
// dimension line.
//
// A round face seen from the side has no vertex where it is widest; its rim's
// extreme in the view is centre ± radius times the direction across the rim's
// axis. That the coordinate along the measured direction is exact keeps the
// drawn distance equal to the stated one.
func (b *builder) anchor(v *view, operand []int, along, away Point) Point {
	f := b.geo.Faces[operand[0]]
	far := math.Inf(-1)
	var at Point
	see := func(p Point) {
		if t := p.dot(away); t > far {
			far, at = t, p
		}
	}
	if len(operand) == 2 {
		p, _ := meet(b.geo, operand)
		return v.project(p)
	}
	switch f.Kind {
	case solid.PlaneFace:
		for _, e := range f.Edges {
			d := b.geo.Edges[e]
			see(v.project(d.A))
			see(v.project(d.B))
			if d.Kind == solid.CircleEdge {
				// The rim's own extreme, for round faces seen from the side.
				for _, s := range []float64{1, -1} {
					c := v.project(d.Center)
					side := solid.FromAxis(v.frame.X.Scale(away[0]).Add(v.frame.Y.Scale(away[1])), solid.Vec{}, d.Axis).Unit()
					if d.A.Distance(d.B) < 1e-9 {
						see(c.add(v.direction(side).scale(s * d.Radius * v.scale)))
					}
				}
			}
		}
		// Exact along the measured direction.
		c := v.project(f.Centroid)
		if math.Abs(v.direction(f.Normal).unit().dot(along)) > 0.999 {
			at = at.add(along.scale(c.dot(along) - at.dot(along)))
		}
		return at
	default:
		return v.project(f.Origin)
	}
}

// meet gives the point nearest the middle of the first face on the line in which two flat faces meet, and the
// direction of the line.
func meet(g *solid.Geometry, operand []int) (solid.Vec, solid.Vec) {
	f, h := g.Faces[operand[0]], g.Faces[operand[1]]
	line, _ := f.Locus().Meet(h.Locus())
	return line.At.Add(line.Dir.Scale(f.Centroid.Sub(line.At).Dot(line.Dir))), line.Dir
}

// linear draws a dimension between extension lines, beside the view.
//
// The text stands on the line, to be read from below or from the right (ISO
// 129-1). A text shifted beyond the arrows has the line led under it.
func (b *builder) linear(v *view, d exercise.Dim, c *exercise.Characteristic, place characteristic.Place,
	text string) error {
	var away Point
	var line float64 // coordinate of the dimension line along away
	switch d.Side {
	case "above":
		away, line = Point{0, 1}, v.box.Max[1]+d.Away
	case "below":
		away, line = Point{0, -1}, -(v.box.Min[1] - d.Away)
	case "right":
		away, line = Point{1, 0}, v.box.Max[0]+d.Away
	case "left":
		away, line = Point{-1, 0}, -(v.box.Min[0] - d.Away)
	default:
		return fmt.Errorf("dimension of %s: %q is not a side: use above, below, left or right", c.ID, d.Side)
	}
	along := Point{math.Abs(away[1]), math.Abs(away[0])}
	var p, q Point
	switch line := c.Declared().Line; line {
	case characteristic.Between:
		p, q = b.anchor(v, place[0], along, away), b.anchor(v, place[1], along, away)
	case characteristic.Across, characteristic.AcrossRing:
		ring := line == characteristic.AcrossRing
		f := b.geo.Faces[place[0][0]]
		dir := v.direction(f.Axis)
		if !ring && math.Abs(dir.dot(along)) > 1e-6 {
			return fmt.Errorf("dimension of %s: the axis runs along the dimension in this view", c.ID)
		}
		r := f.Radius
		if ring {
			r = b.boltRadius(place)
		}
		centre := v.project(f.Origin)
		// Start at the end of the face that is nearer to the dimension line.
		far := math.Inf(-1)
		for _, e := range f.Edges {
			far = math.Max(far, v.project(b.geo.Edges[e].A).dot(away))
		}
		if ring || dir.norm() < 1e-6 {
			far = centre.dot(away)
		}
		base := away.scale(far).add(along.scale(centre.dot(along)))
		p, q = base.sub(along.scale(r*v.scale)), base.add(along.scale(r*v.scale))
	default:
		return fmt.Errorf("dimension of %s: a %s cannot be a linear dimension", c.ID, c.Declared().Title)
	}
	if q.dot(along) < p.dot(along) {
		p, q = q, p
	}
	foot := func(a Point) Point { return along.scale(a.dot(along)).add(away.scale(line)) }
	fp, fq := foot(p), foot(q)
	for _, s := range [][2]Point{{p, fp}, {q, fq}} {
		if s[1].sub(s[0]).dot(away) > gap+0.1 {
			b.line(c.ID, s[0].add(away.scale(gap)), s[1].add(away.scale(overrun)))
		}
	}
	width := b.metrics.Width(text, standards.Lettering)
	span := fq.sub(fp).norm()
	mid := fp.add(fq).scale(0.5).add(along.scale(d.Shift))
	outside := span < 2*arrowLength+1 // arrows from outside on a short span
	textOutside := d.Shift != 0 && math.Abs(d.Shift) > span/2
	if outside {
		b.arrow(c.ID, fp, along.scale(-1))
		b.arrow(c.ID, fq, along)
		lo, hi := fp.sub(along.scale(arrowLength+2)), fq.add(along.scale(arrowLength+2))
		b.line(c.ID, lo, hi)
	} else {
		b.arrow(c.ID, fp, along)
		b.arrow(c.ID, fq, along.scale(-1))
		b.line(c.ID, fp, fq)
	}
	turn := 0.0
	up := Point{0, 1}
	if along[1] != 0 {
		turn, up = math.Pi/2, Point{-1, 0}
	}
	total := width + textGap + 2*balloonR
	start := mid.sub(along.scale(total / 2)).add(up.scale(1))
	if textOutside {
		// The line is led under the text.
		from, to := fq, mid.add(along.scale(total/2))
		if d.Shift < 0 {
			from, to = fp, mid.sub(along.scale(total/2))
		}
		b.line(c.ID, from, to)
	}
	b.text(Dimension, text, start, standards.Lettering, "start", turn, c.ID)
	b.balloon(c, start.add(along.scale(width+textGap+balloonR)).add(up.scale(standards.Lettering/2)))
	return nil
}

// boltRadius is the distance of the first hole from the axis of its circle.
// FromAxis takes the component across the axis, since the two origins lie
// anywhere along their axes.
func (b *builder) boltRadius(place characteristic.Place) float64 {
	axis := b.geo.Faces[place[0][0]]
	return solid.FromAxis(b.geo.Faces[place[1][0]].Origin, axis.Origin, axis.Axis).Norm()
}

// leader draws an arrow to a round face, or to any face for a note, with the
// text on a shelf.
//
// Of several places the one farthest along the leader is pointed at, so that the
// leader crosses none of the others. More characteristics share the note: a
// thread and its depth, or a bore and its counterbore.
func (b *builder) leader(v *view, d exercise.Dim, c *exercise.Characteristic, places []characteristic.Place,
	text string) error {
	out := polar(1, d.Angle*quantity.Degree.Factor)
	if d.Place > 0 {
		if d.Place > len(places) {
			return fmt.Errorf("dimension of %s: it has no place %d", c.ID, d.Place)
		}
		places = places[d.Place-1 : d.Place]
	}
	var tip Point
	for i, p := range places {
		if t := b.tip(v, c, p, out); i == 0 || t.dot(out) > tip.dot(out)+1e-6 {
			tip = t
		}
	}
	if c.Declared().Ring {
		axis := b.geo.Faces[places[0][0][0]]
		b.add(Item{Class: Centre, Kind: "arc", Centre: v.project(axis.Origin), Radius: b.boltRadius(places[0]) * v.scale,
			Sweep: 2 * math.Pi, Width: 0.18, Dash: []float64{8, 1, 0.5, 1}})
	}

	knee := tip.add(out.scale(d.Away))
	width := b.metrics.Width(text, standards.Lettering)
	var texts []string
	var widths []float64
	total := width + textGap + 2*balloonR
	for _, id := range d.More {
		m := b.ex.Characteristic(id)
		places, stated, err := b.nominal(m)
		if err != nil {
			return err
		}
		s := b.valueText(m, len(places), stated)
		if in := m.Declared().InNote; in != nil {
			s = in(s)
		}
		texts = append(texts, s)
		widths = append(widths, b.metrics.Width(s, standards.Lettering))
		total += 2 + widths[len(widths)-1] + textGap + 2*balloonR
	}
	dirX := 1.0
	if out[0] < 0 {
		dirX = -1
	}
	shelf := knee.add(Point{dirX * (total + 1), 0})
	b.arrow(c.ID, tip, out)
	b.add(Item{Class: Dimension, Kind: "run", Points: []Point{tip, knee, shelf}, Width: standards.LineNarrow,
		Characteristic: c.ID})
	at := knee.add(Point{1, 1})
	if dirX < 0 {
		at = shelf.add(Point{0, 1})
	}
	put := func(c *exercise.Characteristic, s string, w float64) {
		b.text(Dimension, s, at, standards.Lettering, "start", 0, c.ID)
		b.balloon(c, at.add(Point{w + textGap + balloonR, standards.Lettering / 2}))
		at = at.add(Point{w + textGap + 2*balloonR + 2, 0})
	}
	put(c, text, width)
	for i, id := range d.More {
		put(b.ex.Characteristic(id), texts[i], widths[i])
	}
	return nil
}

// tip is where a leader that comes along out touches a place.
//
// A hole seen as a circle is pointed at from inside its rim, so that the arrow
// ends at the line and points to the centre.
func (b *builder) tip(v *view, c *exercise.Characteristic, place characteristic.Place, out Point) Point {
	face := b.geo.Faces[place[0][0]]
	switch {
	case c.Declared().Ring:
		return v.project(face.Origin).add(out.scale(b.boltRadius(place) * v.scale))
	case face.Kind == solid.CylinderFace && face.Axis.Parallel(v.frame.Z, 1e-6):
		r := face.Radius * v.scale
		if c.Declared().Inside && face.Hollow {
			r = -r // a hollow round is pointed at from its inside
		}
		return v.project(face.Origin).add(out.scale(r))
	case face.Kind == solid.TorusFace && face.Axis.Parallel(v.frame.Z, 1e-6):
		if solid.FromAxis(face.Centroid, face.Origin, face.Axis).Norm() > 1e-6*face.Radius {
			return v.project(bent(face))
		}
		return v.project(face.Origin).add(out.scale(face.Radius * v.scale)) // a whole ring
	case face.Kind == solid.PlaneFace || face.Kind == solid.SphereFace || face.Kind == solid.OtherFace:
		return v.project(face.Centroid)
	}
	// The silhouette of a round face seen from the side, where the leader is.
	along := v.direction(face.Axis).unit()
	side := Point{-along[1], along[0]}
	if side.dot(out) < 0 {
		side = side.scale(-1)
	}
	n, mean := 0.0, Point{}
	for _, e := range face.Edges {
		if k := b.geo.Edges[e]; k.Kind == solid.CircleEdge {
			mean = mean.add(v.project(k.Center).add(side.scale(k.Radius * v.scale)))
			n++
		}
	}
	if n == 0 {
		return v.project(face.Centroid)
	}
	return mean.scale(1 / n)
}

// bent is the middle of a bend: the place half way along the circle that its section runs on.
func bent(ring solid.Face) solid.Vec {
	return ring.Origin.Add(solid.FromAxis(ring.Centroid, ring.Origin, ring.Axis).Unit().Scale(ring.Radius))
}

// angular draws the angle between two flat faces that are seen edge on.
//
// A face seen edge on is a ray from the line in which the two meet. Of the two
// rays along the second face the one that encloses the measured angle is taken,
// because faces have an angle of a or π - a by how their normals point.
func (b *builder) angular(v *view, d exercise.Dim, c *exercise.Characteristic, place characteristic.Place,
	text string) error {
	if len(place) != 2 {
		return fmt.Errorf("dimension of %s: an angle needs two faces", c.ID)
	}
	operand := []int{place[0][0], place[1][0]}
	f, h := b.geo.Faces[operand[0]], b.geo.Faces[operand[1]]
	if f.Kind != solid.PlaneFace || h.Kind != solid.PlaneFace {
		return fmt.Errorf("dimension of %s: an angle is drawn between flat faces", c.ID)
	}
	p, axis := meet(b.geo, operand)
	if !axis.Parallel(v.frame.Z, 1e-6) {
		return fmt.Errorf("dimension of %s: the faces are not seen edge on in this view", c.ID)
	}
	value, err := inspect.Measure(b.geo, c, place)
	if err != nil {
		return err
	}
	vertex := v.project(p)
	ray := func(face solid.Face) Point {
		n := v.direction(face.Normal).unit()
		r := Point{-n[1], n[0]}
		if v.project(face.Centroid).sub(vertex).dot(r) < 0 {
			r = r.scale(-1)
		}
		return r
	}
	r0, r1 := ray(f), ray(h)
	for _, flip := range []float64{1, -1} {
		q := r1.scale(flip)
		if math.Abs(math.Acos(math.Max(-1, math.Min(1, r0.dot(q))))-value) < 1e-6 {
			r1 = q
			break
		}
	}
	t0 := math.Atan2(r0[1], r0[0])
	sweep := math.Remainder(math.Atan2(r1[1], r1[0])-t0, 2*math.Pi)
	b.add(Item{Class: Dimension, Kind: "arc", Centre: vertex, Radius: d.Away, Start: t0, Sweep: sweep,
		Width: standards.LineNarrow, Characteristic: c.ID})
	// The second face is led out as far as the arc.
	b.line(c.ID, vertex.add(r1.scale(gap)), vertex.add(r1.scale(d.Away+overrun)))
	s := math.Copysign(1, sweep)
	for _, e := range []struct{ t, dir float64 }{{t0, s}, {t0 + sweep, -s}} {
		// The arrow is a chord of the arc, so it points along it.
		lean := arrowLength / d.Away / 2 * e.dir
		b.arrow(c.ID, vertex.add(polar(d.Away, e.t)), polar(1, e.t+e.dir*math.Pi/2+lean))
	}
	mid := vertex.add(polar(d.Away+2, t0+sweep/2))
	width := b.metrics.Width(text, standards.Lettering)
	if mid[0] < vertex[0] {
		mid[0] -= width + textGap + 2*balloonR
	}
	mid[1] += d.Shift
	b.text(Dimension, text, mid, standards.Lettering, "start", 0, c.ID)
	b.balloon(c, mid.add(Point{width + 1 + balloonR, standards.Lettering / 2}))
	return nil
}

// arrow draws a filled arrowhead at tip whose shaft leaves along dir.
//
// It is 3 mm long and 1 mm wide, filled, as ISO 129-1 allows.
func (b *builder) arrow(id string, tip, dir Point) {
	n := Point{-dir[1], dir[0]}
	base := tip.add(dir.scale(arrowLength))
	b.add(Item{Class: Dimension, Kind: "fill", Points: []Point{tip, base.add(n.scale(0.5)), base.sub(n.scale(0.5))},
		Characteristic: id})
}

// line adds a narrow line of a dimension.
func (b *builder) line(id string, p, q Point) {
	b.add(Item{Class: Dimension, Kind: "run", Points: []Point{p, q}, Width: standards.LineNarrow, Characteristic: id})
}

// balloon draws a characteristic's number in a circle and notes where it is, so
// that the interface and the marked sheet find it.
//
// Verdicts are drawn beside it, by its number, so that its place is noted.
func (b *builder) balloon(c *exercise.Characteristic, at Point) {
	b.add(Item{Class: Balloon, Kind: "arc", Centre: at, Radius: balloonR, Sweep: 2 * math.Pi, Width: standards.LineNarrow,
		Characteristic: c.ID})
	b.text(Balloon, fmt.Sprint(c.Balloon), at.sub(Point{0, balloonText / 2}), balloonText, "middle", 0, c.ID)
	b.out.Marks = append(b.out.Marks, Mark{Characteristic: c.ID, Balloon: c.Balloon, At: at, Radius: balloonR})
	b.seen[c.ID] = true
}
