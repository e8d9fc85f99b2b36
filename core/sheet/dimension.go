package sheet

import (
	"fmt"
	"math"
	"strings"

	"hammerset/core/address"
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
	rowPitch    = 8.0 // between lines of a row that stand one over the other
	besideArrow = 1.0 // between an arrow and a text that stands beside it
	lineGap     = 0.7 // between a balloon and the line under its text
	textGap     = 1.8 // between a text and its balloon, so that a verdict's shape has room
)

// valueText is the text of a characteristic: prefix, stated value and suffix.
//
// A note of several places begins with their number, as in 4× ⌀9 (ISO 129-1).
// Its own tolerance follows the size, as in 25 H7 (ISO 286-1) or 12 ±0.1.
func (b *builder) valueText(c *exercise.Characteristic, places int, stated characteristic.Stated) string {
	stated, tolerance := b.ex.Toleranced(c, stated)
	t := stated.Text
	if printed := c.Declared().Print; printed != nil {
		t = printed(stated, c.How())
	}
	t += tolerance
	if places > 1 {
		t = fmt.Sprintf("%d× %s", places, t)
	}
	return t
}

// printed is the text of a characteristic at its places: the radius or the diameter of a sphere says that it is one, as
// in SR20 (ISO 129-1).
func (b *builder) printed(c *exercise.Characteristic, places []characteristic.Place,
	stated characteristic.Stated) string {
	text := b.valueText(c, len(places), stated)
	k := c.Declared()
	if len(places) == 0 || !k.Each() || k.Dim != quantity.Length || b.geo.Faces[places[0][0][0]].Kind != solid.SphereFace {
		return text
	}
	if count, size, several := strings.Cut(text, "× "); several {
		return count + "× S" + size
	}
	return "S" + text
}

// size is what a dimension states: a characteristic with its places on the reference and its text.
type size struct {
	*exercise.Characteristic
	places []characteristic.Place
	text   string
	boxed  bool // it is exact
}

// size is a characteristic as a mark states it.
//
// A dimension without a place on the part is an error here and not on the sheet:
// a number beside nothing cannot be checked.
func (b *builder) size(m *exercise.Mark, c *exercise.Characteristic) (size, error) {
	places, stated, err := b.nominal(c)
	if err != nil {
		return size{}, fmt.Errorf("mark %s: %w", m.ID, err)
	}
	if len(places) == 0 {
		return size{}, fmt.Errorf("dimension of %s: it has no place on the part", c.ID)
	}
	return size{Characteristic: c, places: places, text: m.Prefix + b.printed(c, places, stated) + m.Suffix}, nil
}

// sizes are what a mark states, the first first. A reference size is a characteristic of nobody, in parentheses
// (ISO 129-1) or, where it is exact, in a box (ISO 1101).
func (b *builder) sizes(m *exercise.Mark) ([]size, error) {
	if m.ReferenceSize() {
		s, err := b.size(m, &exercise.Characteristic{Kind: m.Measures, Of: [][]address.Ref{m.Anchors}})
		if s.boxed = m.Exact; !s.boxed {
			s.text = "(" + s.text + ")"
		}
		return []size{s}, err
	}
	var out []size
	for _, id := range m.Of {
		s, err := b.size(m, b.ex.Characteristic(id))
		if err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	return out, nil
}

// mark draws a mark of the sheet.
func (b *builder) mark(m *exercise.Mark) error {
	if m.Kind == exercise.NoteText {
		at := Point(m.Offset)
		if v, ok := b.views[m.View]; ok {
			at = at.add(v.flat(v.window.origin))
		}
		b.text(Label, m.Text, at, standards.Lettering, "start", 0, "")
		return nil
	}
	v, ok := b.views[m.View]
	if !ok {
		return fmt.Errorf("mark %s: there is no view %q", m.ID, m.View)
	}
	if m.Kind == exercise.SymbolMark {
		return b.texture(v, m)
	}
	list, err := b.sizes(m)
	if err != nil {
		return err
	}
	if m.Kind == exercise.Frame {
		return b.tolerated(v, m, list[0])
	}
	switch m.Form {
	case exercise.Leader:
		return b.leader(v, m, list)
	case exercise.Linear:
		return b.linear(v, m, list[0], m.Offset[1])
	case exercise.Angle:
		return b.angular(v, m, list[0])
	case exercise.Chain:
		for _, s := range list {
			if err := b.linear(v, m, s, m.Offset[1]); err != nil {
				return err
			}
		}
	case exercise.Baseline:
		for i, s := range list {
			if err := b.linear(v, m, s, m.Offset[1]+rowPitch*float64(i)); err != nil {
				return err
			}
		}
	case exercise.Running:
		return b.running(v, m, list)
	}
	return nil
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
	if r, ok := rimOf(b.geo, operand); ok {
		side := solid.FromAxis(v.frame.X.Scale(away[0]).Add(v.frame.Y.Scale(away[1])), solid.Vec{}, r.Axis).Unit()
		return v.project(r.Center.Add(side.Scale(r.Radius)))
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

// rimOf is the circle in which the two round faces of an operand meet; not ok of any other operand.
func rimOf(g *solid.Geometry, operand []int) (r solid.Rim, ok bool) {
	if len(operand) != 2 || g.Faces[operand[0]].Kind == solid.PlaneFace {
		return r, false
	}
	return g.Faces[operand[0]].Rim(g.Faces[operand[1]])
}

// meet gives the point nearest the middle of the first face on the line in which two flat faces meet, and the
// direction of the line.
func meet(g *solid.Geometry, operand []int) (solid.Vec, solid.Vec) {
	f, h := g.Faces[operand[0]], g.Faces[operand[1]]
	line, _ := f.Locus().Meet(h.Locus())
	return line.At.Add(line.Dir.Scale(f.Centroid.Sub(line.At).Dot(line.Dir))), line.Dir
}

// lineAt is a line of dimension at one side of a view: along and away are unit vectors of the paper, and at is the
// coordinate of the line along away.
type lineAt struct {
	along, away Point
	at          float64
}

// lineAt finds the line at a side of a view, at a distance from its outline.
func (v *view) lineAt(m *exercise.Mark, distance float64) (lineAt, error) {
	switch m.Side {
	case "above":
		return lineAt{Point{1, 0}, Point{0, 1}, v.box.Max[1] + distance}, nil
	case "below":
		return lineAt{Point{1, 0}, Point{0, -1}, -(v.box.Min[1] - distance)}, nil
	case "right":
		return lineAt{Point{0, 1}, Point{1, 0}, v.box.Max[0] + distance}, nil
	case "left":
		return lineAt{Point{0, 1}, Point{-1, 0}, -(v.box.Min[0] - distance)}, nil
	}
	return lineAt{}, fmt.Errorf("mark %s: %q is not a side: use above, below, left, right or aligned", m.ID, m.Side)
}

// sized finds the line of a linear dimension, and the ends of the size on the part. An aligned one runs along its size,
// as far from the ends as a distance says, above them or, aligned-below, under them (ISO 129-1: parallel to what is
// measured).
func (b *builder) sized(v *view, m *exercise.Mark, s size, distance float64) (l lineAt, p, q Point, err error) {
	if m.Side != exercise.Aligned && m.Side != exercise.AlignedBelow {
		if l, err = v.lineAt(m, distance); err == nil {
			p, q, err = b.between(v, s, l)
		}
		return l, p, q, err
	}
	dir, _, ok := spanned(b.geo, s.places[0])
	if l.along = v.direction(dir); !ok || l.along.norm() < 1-1e-6 {
		return l, p, q, fmt.Errorf("dimension of %s: what it measures does not lie in the plane of this view", s.ID)
	}
	if l.along[0] < -1e-9 || math.Abs(l.along[0]) <= 1e-9 && l.along[1] < 0 {
		l.along = l.along.scale(-1)
	}
	l.away = Point{-l.along[1], l.along[0]}
	if m.Side == exercise.AlignedBelow {
		l.away = l.away.scale(-1)
	}
	p, q, err = b.between(v, s, l)
	l.at = math.Max(p.dot(l.away), q.dot(l.away)) + distance
	return l, p, q, err
}

// foot is the place on the line of an end that stands on the part.
func (l lineAt) foot(p Point) Point { return l.along.scale(p.dot(l.along)).add(l.away.scale(l.at)) }

// between are the ends of a size on the part, the lower first along the line.
func (b *builder) between(v *view, s size, l lineAt) (p, q Point, err error) {
	place := s.places[0]
	switch line := s.Declared().Line; line {
	case characteristic.Between:
		p, q = b.anchor(v, place[0], l.along, l.away), b.anchor(v, place[1], l.along, l.away)
	case characteristic.Across, characteristic.AcrossRing:
		ring := line == characteristic.AcrossRing
		f := b.geo.Faces[place[0][0]]
		dir := v.direction(f.Axis)
		if !ring && math.Abs(dir.dot(l.along)) > 1e-6 {
			return p, q, fmt.Errorf("dimension of %s: the axis runs along the dimension in this view", s.ID)
		}
		r := f.Radius
		if ring {
			r = b.boltRadius(place)
		}
		centre := v.project(f.Origin)
		// Start at the end of the face that is nearer to the dimension line.
		far := math.Inf(-1)
		for _, e := range f.Edges {
			far = math.Max(far, v.project(b.geo.Edges[e].A).dot(l.away))
		}
		if ring || dir.norm() < 1e-6 {
			far = centre.dot(l.away)
		}
		base := l.away.scale(far).add(l.along.scale(centre.dot(l.along)))
		p, q = base.sub(l.along.scale(r*v.scale)), base.add(l.along.scale(r*v.scale))
	case characteristic.Outlines:
		value, err := inspect.Measure(b.geo, s.Characteristic, place)
		if err != nil {
			return p, q, err
		}
		best := math.Inf(1)
		for _, x := range b.outlines(v, place[0], l) {
			for _, y := range b.outlines(v, place[1], l) {
				if off := math.Abs(math.Abs(x.sub(y).dot(l.along)) - value*v.scale); off < best-1e-6 {
					p, q, best = x, y, off
				}
			}
		}
	default:
		return p, q, fmt.Errorf("dimension of %s: a %s cannot be a linear dimension", s.ID, s.Declared().Title)
	}
	if q.dot(l.along) < p.dot(l.along) {
		p, q = q, p
	}
	return p, q, nil
}

// outlines are the ends that an operand has on the part: those of its outline where it is round, the higher first.
func (b *builder) outlines(v *view, operand []int, l lineAt) []Point {
	f := b.geo.Faces[operand[0]]
	if len(operand) == 2 || f.Kind != solid.CylinderFace {
		return []Point{b.anchor(v, operand, l.along, l.away)}
	}
	far := math.Inf(-1)
	for _, e := range f.Edges {
		far = math.Max(far, v.project(b.geo.Edges[e].A).dot(l.away))
	}
	at := l.away.scale(far).add(l.along.scale(v.project(f.Origin).dot(l.along)))
	r := l.along.scale(f.Radius * v.scale)
	return []Point{at.add(r), at.sub(r)}
}

// extend draws an extension line from an end on the part over the dimension line.
func (b *builder) extend(id string, p, foot Point, l lineAt) {
	if foot.sub(p).dot(l.away) > gap+0.1 {
		b.line(id, p.add(l.away.scale(gap)), foot.add(l.away.scale(overrun)))
	}
}

// linear draws a dimension between extension lines, beside the view.
//
// The text stands on the line, to be read from below or from the right (ISO
// 129-1). A text shifted beyond the arrows has the line led under it.
func (b *builder) linear(v *view, m *exercise.Mark, c size, distance float64) error {
	l, p, q, err := b.sized(v, m, c, distance)
	if err != nil {
		return err
	}
	fp, fq, along, shift := l.foot(p), l.foot(q), l.along, m.Offset[0]
	b.extend(c.ID, p, fp, l)
	b.extend(c.ID, q, fq, l)
	span := fq.sub(fp).norm()
	outside := span < 2*arrowLength+1 && m.Arrows == "" || m.Arrows == exercise.ArrowsOutside // on a short span
	end := fq
	if outside {
		b.arrow(c.ID, fp, along.scale(-1))
		b.arrow(c.ID, fq, along)
		end = fq.add(along.scale(arrowLength + 2))
		b.line(c.ID, fp.sub(along.scale(arrowLength+2)), end)
	} else {
		b.arrow(c.ID, fp, along)
		b.arrow(c.ID, fq, along.scale(-1))
		b.line(c.ID, fp, fq)
	}
	total := b.noteWidth(c)
	mid := fp.add(fq).scale(0.5).add(along.scale(shift))
	if shift == 0 && total > span-1 { // beside the arrows, where there is no room between the extension lines
		mid = end.add(along.scale(total/2 + besideArrow))
	}
	b.out.Handles[m.ID] = Handle{along, l.away, mid.sub(fp.add(fq).scale(0.5)).dot(along)}
	turn, up := math.Atan2(along[1], along[0]), Point{-along[1], along[0]}
	// The line is led under a text beyond its arrows.
	if far := mid.sub(fq).dot(along) + total/2; far > 0 {
		b.line(c.ID, fq, fq.add(along.scale(far)))
	}
	if far := fp.sub(mid).dot(along) + total/2; far > 0 {
		b.line(c.ID, fp, fp.sub(along.scale(far)))
	}
	at := mid.sub(along.scale(total / 2)).add(up.scale(1))
	b.span(m, c, Span{Form: exercise.Linear, From: p, To: q, At: fq, Text: at})
	b.note(c, at, along, turn)
	return nil
}

// span says what a dimension is drawn between.
func (b *builder) span(m *exercise.Mark, c size, s Span) {
	s.Mark, s.Characteristic, s.Printed = m.ID, c.ID, c.text
	b.out.Spans = append(b.out.Spans, s)
}

// noteWidth is how long the text of a size is with its balloon.
func (b *builder) noteWidth(c size) float64 {
	width := b.metrics.Width(c.text, standards.Lettering)
	if c.Balloon == 0 {
		return width
	}
	return width + textGap + 2*balloonR
}

// note writes the text of a size over a line, 1 mm under it, and its balloon behind it, clear of the line; along is the
// direction in which it is read.
func (b *builder) note(c size, at, along Point, turn float64) {
	b.text(Dimension, c.text, at, standards.Lettering, "start", turn, c.ID)
	up := Point{-along[1], along[0]}
	width := b.metrics.Width(c.text, standards.Lettering)
	if c.boxed {
		const pad = 0.8
		corner := func(x, y float64) Point { return at.add(along.scale(x)).add(up.scale(y)) }
		b.add(Item{Class: Dimension, Kind: "run", Width: standards.LineNarrow, Points: []Point{corner(-pad, -pad),
			corner(width+pad, -pad), corner(width+pad, standards.Lettering+pad), corner(-pad, standards.Lettering+pad),
			corner(-pad, -pad)}})
	}
	b.balloon(c.Characteristic, at.add(along.scale(width+textGap+balloonR)).add(up.scale(balloonR+lineGap-1)))
}

// running draws sizes from one place on one line: it begins with a small circle, each has one arrow, and the text
// stands along its extension line (ISO 129-1).
func (b *builder) running(v *view, m *exercise.Mark, list []size) error {
	l, err := v.lineAt(m, m.Offset[1])
	if err != nil {
		return err
	}
	ends := make([][2]Point, len(list))
	for i, s := range list {
		if ends[i][0], ends[i][1], err = b.between(v, s, l); err != nil {
			return err
		}
	}
	same := func(p, q Point) bool { return math.Abs(p.sub(q).dot(l.along)) < 1e-6 }
	begin := ends[0][0]
	if !same(begin, ends[1][0]) && !same(begin, ends[1][1]) {
		begin = ends[0][1]
	}
	start := l.foot(begin)
	b.out.Handles[m.ID] = Handle{Out: l.away}
	b.extend(list[0].ID, begin, start, l)
	b.add(Item{Class: Dimension, Kind: "arc", Centre: start, Radius: 0.75, Sweep: 2 * math.Pi,
		Width: standards.LineNarrow})
	turn, up := math.Pi/2, Point{-1, 0}
	if l.along[1] != 0 {
		turn, up = 0, Point{0, 1}
	}
	for i, s := range list {
		end := ends[i][1]
		if same(end, begin) {
			end = ends[i][0]
		} else if !same(ends[i][0], begin) {
			return fmt.Errorf("mark %s: %s does not begin where the others do", m.ID, s.ID)
		}
		foot := l.foot(end)
		b.extend(s.ID, end, foot, l)
		b.line(s.ID, start, foot)
		b.arrow(s.ID, foot, start.sub(foot).unit())
		// The text reads upwards or to the right, whichever way the extension line goes.
		width := b.metrics.Width(s.text, standards.Lettering)
		reads := Point{math.Abs(l.away[0]), math.Abs(l.away[1])}
		at := foot.add(l.away.scale(overrun + 1)).sub(up.scale(standards.Lettering / 2))
		if reads.dot(l.away) < 0 {
			at = at.sub(reads.scale(width + textGap + 2*balloonR))
		}
		b.text(Dimension, s.text, at, standards.Lettering, "start", turn, s.ID)
		b.balloon(s.Characteristic, at.add(reads.scale(width+textGap+balloonR)).add(up.scale(standards.Lettering/2)))
	}
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
func (b *builder) leader(v *view, m *exercise.Mark, list []size) error {
	c := list[0]
	out := Point(m.Offset).unit()
	places := c.places
	if m.Place > 0 {
		if m.Place > len(places) {
			return fmt.Errorf("dimension of %s: it has no place %d", c.ID, m.Place)
		}
		places = places[m.Place-1 : m.Place]
	}
	var tip Point
	for i, p := range places {
		if t := b.tip(v, c.Declared(), p, out); i == 0 || t.dot(out) > tip.dot(out)+1e-6 {
			tip = t
		}
	}
	if c.Declared().Ring {
		axis := b.geo.Faces[places[0][0][0]]
		b.add(Item{Class: Centre, Kind: "arc", Centre: v.project(axis.Origin), Radius: b.boltRadius(places[0]) * v.scale,
			Sweep: 2 * math.Pi, Width: 0.18, Dash: []float64{8, 1, 0.5, 1}})
	}

	knee := tip.add(Point(m.Offset))
	total := -2.0
	for i := range list {
		if in := list[i].Declared().InNote; in != nil && i > 0 {
			list[i].text = in(list[i].text)
		}
		total += 2 + b.noteWidth(list[i])
	}
	dirX := 1.0
	if out[0] < 0 {
		dirX = -1
	}
	shelf := knee.add(Point{dirX * (total + 1), 0})
	b.arrow(c.ID, tip, out)
	b.add(Item{Class: Dimension, Kind: "run", Points: append(b.jogged(v, c, places[0], tip, knee), shelf),
		Width: standards.LineNarrow, Characteristic: c.ID})
	at := knee.add(Point{1, 1})
	if dirX < 0 {
		at = shelf.add(Point{0, 1})
	}
	if f := b.geo.Faces[places[0][0][0]]; f.Kind == solid.CylinderFace && c.Declared().Line == characteristic.Across &&
		f.Axis.Parallel(v.frame.Z, 1e-6) {
		for _, p := range places { // the place that is pointed at
			if middle := v.project(b.geo.Faces[p[0][0]].Origin); math.Abs(tip.distance(middle)-f.Radius*v.scale) < 1e-6 {
				b.span(m, c, Span{Form: acrossCircle, From: middle.scale(2).sub(tip), To: tip, At: knee, Text: at})
				break
			}
		}
	}
	for _, s := range list {
		b.note(s, at, Point{1, 0}, 0)
		at = at.add(Point{b.noteWidth(s) + 2, 0})
	}
	return nil
}

// Of the line of a radius whose centre is far: how far that is, and the jog in it, in mm of paper.
const (
	farCentre = 60.0
	jog       = 3.0
)

// jogged is the line of a leader from its tip to its knee. That of a radius towards its centre, where the centre is too
// far to be shown, has a jog: it does not end in the centre (ISO 129-1).
func (b *builder) jogged(v *view, c size, place characteristic.Place, tip, knee Point) []Point {
	f := b.geo.Faces[place[0][0]]
	straight := []Point{tip, knee}
	if f.Kind != solid.CylinderFace || c.Declared().Line == characteristic.Across || f.Around > math.Pi ||
		!f.Axis.Parallel(v.frame.Z, 1e-6) || f.Radius*v.scale < farCentre || c.Declared().Dim != quantity.Length {
		return straight
	}
	way := knee.sub(tip)
	if centre := v.project(f.Origin); way.norm() < 4*jog || way.dot(centre.sub(tip)) <= 0 {
		return straight // from outside it does not point to the centre from within
	}
	along := way.unit()
	across := Point{-along[1], along[0]}
	mid := tip.add(way.scale(0.5))
	return []Point{tip, mid.sub(along.scale(jog / 2)), mid.sub(along.scale(jog / 2)).add(across.scale(jog)),
		mid.add(along.scale(jog / 2)), knee}
}

// tip is where a leader that comes along out touches a place, of a size of a kind or of none.
//
// A hole seen as a circle is pointed at from inside its rim, so that the arrow
// ends at the line and points to the centre.
func (b *builder) tip(v *view, kind *characteristic.Kind, place characteristic.Place, out Point) Point {
	face := b.geo.Faces[place[0][0]]
	switch {
	case kind != nil && kind.Ring:
		return v.project(face.Origin).add(out.scale(b.boltRadius(place) * v.scale))
	case face.Kind == solid.CylinderFace && face.Axis.Parallel(v.frame.Z, 1e-6):
		r := face.Radius * v.scale
		if kind != nil && kind.Inside && face.Hollow {
			r = -r // a hollow round is pointed at from its inside
		}
		return v.project(face.Origin).add(b.onRound(v, face, out.scale(r)))
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
			mean = mean.add(v.flat(v.local(k.Center)).add(side.scale(k.Radius * v.scale)))
			n++
		}
	}
	if n == 0 {
		return v.project(face.Centroid)
	}
	return v.paper(v.window.kept(v.plane(mean.scale(1/n)), breakClear/v.scale))
}

// breakClear is how far a leader points beside a break, and not into it, in mm of paper.
const breakClear = 4.0

// onRound is an arm from the axis of a round face, seen end on, to where the face is: as given, or the other way, or to
// the middle of the face where it goes around neither.
func (b *builder) onRound(v *view, face solid.Face, arm Point) Point {
	const beyond = 0.02 // radians
	middle := v.project(face.Centroid).sub(v.project(face.Origin))
	if face.Around > 2*math.Pi-beyond || middle.norm() < 1e-6*arm.norm() {
		return arm
	}
	on := func(p Point) bool {
		return math.Acos(math.Max(-1, math.Min(1, p.unit().dot(middle.unit())))) <= face.Span/2+beyond
	}
	switch {
	case on(arm):
		return arm
	case on(arm.scale(-1)):
		return arm.scale(-1)
	}
	return middle.unit().scale(arm.norm())
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
func (b *builder) angular(v *view, m *exercise.Mark, c size) error {
	place, text, radius := c.places[0], c.text, m.Offset[1]
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
	value, err := inspect.Measure(b.geo, c.Characteristic, place)
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
	b.add(Item{Class: Dimension, Kind: "arc", Centre: vertex, Radius: radius, Start: t0, Sweep: sweep,
		Width: standards.LineNarrow, Characteristic: c.ID})
	// The second face is led out as far as the arc.
	b.line(c.ID, vertex.add(r1.scale(gap)), vertex.add(r1.scale(radius+overrun)))
	s := math.Copysign(1, sweep)
	for _, e := range []struct{ t, dir float64 }{{t0, s}, {t0 + sweep, -s}} {
		// The arrow is a chord of the arc, so it points along it.
		lean := arrowLength / radius / 2 * e.dir
		b.arrow(c.ID, vertex.add(polar(radius, e.t)), polar(1, e.t+e.dir*math.Pi/2+lean))
	}
	mid := vertex.add(polar(radius+2, t0+sweep/2))
	b.span(m, c, Span{Form: exercise.Angle, From: vertex.add(r0), To: vertex.add(r1), Corner: vertex,
		At: vertex.add(polar(radius, t0+sweep/2)), Text: mid})
	b.out.Handles[m.ID] = Handle{Out: polar(1, t0+sweep/2)}
	width := b.metrics.Width(text, standards.Lettering)
	if mid[0] < vertex[0] {
		mid[0] -= width + textGap + 2*balloonR
	}
	mid[1] += m.Offset[0]
	b.text(Dimension, text, mid, standards.Lettering, "start", 0, c.ID)
	b.balloon(c.Characteristic, mid.add(Point{width + 1 + balloonR, standards.Lettering / 2}))
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
	if c.Balloon == 0 {
		return // a reference size
	}
	b.add(Item{Class: Balloon, Kind: "arc", Centre: at, Radius: balloonR, Sweep: 2 * math.Pi, Width: standards.LineNarrow,
		Characteristic: c.ID})
	b.text(Balloon, fmt.Sprint(c.Balloon), at.sub(Point{0, balloonText / 2}), balloonText, "middle", 0, c.ID)
	b.out.Marks = append(b.out.Marks, Mark{Characteristic: c.ID, Balloon: c.Balloon, At: at, Radius: balloonR})
	b.seen[c.ID] = true
}
