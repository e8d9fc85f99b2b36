package sheet

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Frames of geometrical tolerances after ISO 1101 and their datums after ISO 5459. A frame is twice as high as the
// lettering and its lines as wide as that of the lettering; the triangle of a datum is filled (from memory).
const (
	frameHeight = 2 * standards.Lettering
	frameLine   = 0.35
	triangle    = 3.5
)

// datumLetters are those of datums, without I, O and Q, which are taken for figures (ISO 5459, from memory).
const datumLetters = "ABCDEFGHJKLMNPRSTUVWXYZ"

// tolerated draws the frame of a characteristic at a leader, with its symbol, the zone and the letters of its datums,
// and the triangle of the datum where its face is.
func (b *builder) tolerated(v *view, m *exercise.Mark, c size) error {
	symbol := c.Declared().Symbol
	if symbol == characteristic.NoSymbol {
		return fmt.Errorf("mark %s: a %s stands in no frame", m.ID, c.Declared().Title)
	}
	_, stated, err := b.nominal(c.Characteristic)
	if err != nil {
		return err
	}
	zone, err := b.ex.ZoneText(c.Characteristic, stated)
	if err != nil {
		return fmt.Errorf("mark %s: %w", m.ID, err)
	}
	if symbol.Round() {
		zone = "⌀" + zone
	}
	out := Point(m.Offset).unit()
	tip := b.tip(v, c.Declared(), c.places[0], out)
	knee := tip.add(Point(m.Offset))
	b.arrow(c.ID, tip, out)
	b.line(c.ID, tip, knee)
	cells := []float64{frameHeight, b.metrics.Width(zone, standards.Lettering) + 3}
	letters := c.Datums
	if len(letters) == 0 {
		letters = []string{"A"}
	}
	for range letters {
		cells = append(cells, frameHeight)
	}
	total := 0.0
	for _, w := range cells {
		total += w
	}
	at := knee.sub(Point{0, frameHeight / 2})
	if out[0] < 0 {
		at[0] -= total
	}
	run := func(points ...Point) {
		b.add(Item{Class: Dimension, Kind: "run", Points: points, Width: frameLine, Characteristic: c.ID})
	}
	run(at, at.add(Point{total, 0}), at.add(Point{total, frameHeight}), at.add(Point{0, frameHeight}), at)
	x := at[0]
	for i, w := range cells {
		middle := Point{x + w/2, at[1] + frameHeight/2}
		if i > 0 {
			run(Point{x, at[1]}, Point{x, at[1] + frameHeight})
		}
		base := middle.sub(Point{0, standards.Lettering / 2})
		switch i {
		case 0:
			b.symbol(symbol, middle, c.ID)
		case 1:
			b.text(Dimension, zone, base, standards.Lettering, "middle", 0, c.ID)
		default:
			b.text(Dimension, letters[i-2], base, standards.Lettering, "middle", 0, c.ID)
		}
		x += w
	}
	b.balloon(c.Characteristic, Point{x + 1 + balloonR, at[1] + frameHeight/2})
	place := c.places[0]
	if c.Declared().From == nil { // further letters are of datums that others have
		return b.datum(v, c, place[len(place)-1], letters[0], out)
	}
	for i, letter := range letters[:min(len(letters), len(place)-1)] {
		if err := b.datum(v, c, place[i+1], letter, out); err != nil {
			return err
		}
	}
	return nil
}

// symbol draws that of a frame, in lines and circles.
func (b *builder) symbol(s characteristic.Symbol, at Point, id string) {
	run := func(points ...Point) {
		for i := range points {
			points[i] = points[i].add(at)
		}
		b.add(Item{Class: Dimension, Kind: "run", Points: points, Width: frameLine, Characteristic: id})
	}
	circle := func(r float64) {
		b.add(Item{Class: Dimension, Kind: "arc", Centre: at, Radius: r, Sweep: 2 * math.Pi, Width: frameLine,
			Characteristic: id})
	}
	switch s {
	case characteristic.Coaxiality:
		circle(1)
		circle(2)
	case characteristic.Position:
		circle(1.4)
		run(Point{-2.2, 0}, Point{2.2, 0})
		run(Point{0, -2.2}, Point{0, 2.2})
	case characteristic.Symmetry:
		run(Point{-1.4, 1.2}, Point{1.4, 1.2})
		run(Point{-2.4, 0}, Point{2.4, 0})
		run(Point{-1.4, -1.2}, Point{1.4, -1.2})
	case characteristic.Parallelism:
		run(Point{-1.9, -2}, Point{0.3, 2})
		run(Point{-0.3, -2}, Point{1.9, 2})
	case characteristic.Perpendicularity:
		run(Point{-2.2, -1.9}, Point{2.2, -1.9})
		run(Point{0, -1.9}, Point{0, 2.2})
	}
}

// datum draws the triangle and the letter of a datum on a face, on the side that is away from the frame; one that has
// been drawn is not drawn again.
func (b *builder) datum(v *view, c size, operand []int, letter string, out Point) error {
	if slices.Contains(b.datums, letter) {
		return nil
	}
	b.datums = append(b.datums, letter)
	last := characteristic.Place{operand}
	face := b.geo.Faces[operand[0]]
	const half, height = frameHeight / 2, triangle * 0.866
	var foot, way, middle Point
	stem, found := 0.0, false
	for _, length := range []float64{5, 10, 16, 24} {
		for _, at := range b.datumSpots(v, face, out) {
			tip := b.tip(v, c.Declared(), last, at.way).add(at.along)
			box := tip.add(at.way.scale(height + length + half + 1))
			free := b.isClear(Extent{box.sub(Point{half, half}), box.add(Point{half, half})})
			if stem == 0 || free && !found {
				foot, way, middle, stem, found = tip, at.way, box, length, free
			}
		}
	}
	top := foot.add(way.scale(height))
	side := Point{-way[1], way[0]}
	b.add(Item{Class: Dimension, Kind: "fill", Points: []Point{foot.add(side.scale(triangle / 2)),
		foot.sub(side.scale(triangle / 2)), top}, Characteristic: c.ID})
	b.line(c.ID, top, top.add(way.scale(stem)))
	b.add(Item{Class: Dimension, Kind: "run", Width: frameLine, Characteristic: c.ID, Points: []Point{
		middle.add(Point{-half, -half}), middle.add(Point{half, -half}), middle.add(Point{half, half}),
		middle.add(Point{-half, half}), middle.add(Point{-half, -half})}})
	b.text(Dimension, letter, middle.sub(Point{0, standards.Lettering / 2}), standards.Lettering, "middle", 0, c.ID)
	return nil
}

// datumSpot is a place of the triangle of a datum: along the face from its middle, and the way that it looks.
type datumSpot struct{ along, way Point }

// datumSpots are the places at which the triangle of a datum can stand, the best first: on a flat face along it, in its
// middle rather than near its ends; on a round one all around, away from its frame.
func (b *builder) datumSpots(v *view, face solid.Face, out Point) []datumSpot {
	way := out.scale(-1)
	if face.Kind != solid.PlaneFace {
		var list []datumSpot
		for _, turn := range []float64{0, 0.5, -0.5, 1, -1, 1.5, -1.5} {
			list = append(list, datumSpot{way: polar(1, math.Atan2(way[1], way[0])+turn*math.Pi/2)})
		}
		return list
	}
	n := v.direction(face.Normal)
	if n.norm() < 0.5 {
		return []datumSpot{{way: way}}
	}
	way = n.unit()
	along := Point{-way[1], way[0]}
	middle := v.project(face.Centroid).dot(along)
	low, high := 0.0, 0.0
	for _, e := range face.Edges {
		for _, p := range []solid.Vec{b.geo.Edges[e].A, b.geo.Edges[e].B} {
			t := v.project(p).dot(along) - middle
			low, high = math.Min(low, t), math.Max(high, t)
		}
	}
	list := []datumSpot{{way: way}}
	for _, part := range []float64{0.3, 0.6, 0.8} {
		list = append(list, datumSpot{along.scale(part * high), way}, datumSpot{along.scale(part * low), way})
	}
	return list
}

// enframe stands a characteristic that is among the notes in a frame, at a view that shows its face, with the first
// letter that no other datum has; those with one datum face share a letter.
func (c Command) enframe(ex *exercise.Exercise, s *exercise.Sheet, p *Projected) error {
	i := slices.IndexFunc(ex.Characteristics, func(x exercise.Characteristic) bool { return x.ID == c.Text })
	if i < 0 || ex.Characteristics[i].Declared().Symbol == characteristic.NoSymbol {
		return &Impossible{"only coaxial, symmetric, parallel, perpendicular and a position stand in a frame",
			"leave it among the notes"}
	}
	ex.Characteristics = slices.Clone(ex.Characteristics)
	x := &ex.Characteristics[i]
	if x.Declared().Symbol.Leans() && x.Zone == "" {
		x.Zone = zoneText(ex, 0.1)
	}
	if len(x.Datums) == 0 {
		x.Datums = lettersFor(ex, x)
	}
	return p.frameOf(ex, s, x)
}

// zoneText is the width of a zone in the unit of the sheet, to its third decimal.
func zoneText(ex *exercise.Exercise, mm float64) string {
	return strconv.FormatFloat(math.Round(1e3*mm/ex.LengthUnit().Factor)/1e3, 'f', -1, 64)
}

// datumFaces are the operands of a characteristic that its datums are on, in the order of its letters.
func datumFaces(x *exercise.Characteristic) []address.Ref {
	place := x.Of[0]
	if x.Declared().From != nil {
		return place[1:]
	}
	return place[len(place)-1:]
}

// lettersFor are letters for the datums of a characteristic: that of its face where it has one, or the next that is
// free.
func lettersFor(ex *exercise.Exercise, x *exercise.Characteristic) []string {
	taken := map[string]string{} // faces, by the letter
	for k := range ex.Characteristics {
		o := &ex.Characteristics[k]
		if len(o.Of) == 0 {
			continue
		}
		faces := datumFaces(o)
		for i, l := range o.Datums {
			if i < len(faces) {
				taken[l] = faces[i].Name
			} else if taken[l] == "" {
				taken[l] = "another"
			}
		}
	}
	var out []string
	for _, face := range datumFaces(x) {
		letter := ""
		for _, l := range datumLetters {
			if had, has := taken[string(l)]; has && had == face.Name || !has && letter == "" {
				if letter = string(l); has {
					break
				}
			}
		}
		taken[letter] = face.Name
		out = append(out, letter)
	}
	return out
}

// frameOf puts the frame of a characteristic at a view that shows its face squarely.
func (p *Projected) frameOf(ex *exercise.Exercise, s *exercise.Sheet, x *exercise.Characteristic) error {
	places, err := inspect.Places(p.Geometry, x)
	if err != nil || len(places) == 0 {
		return &Impossible{fmt.Sprintf("“%s” is bound to no face", x.Label), "bind it to its faces first"}
	}
	f := p.Geometry.Faces[places[0][0][0]]
	for _, v := range s.Views {
		projection := p.Views[v.ID]
		if projection == nil || fromCorner(v) || v.Kind == "detail" {
			continue
		}
		along := math.Abs(f.Normal.Dot(projection.Frame.Z)) // 0: a flat face is seen edge on
		if f.Kind != solid.PlaneFace {
			along = math.Abs(f.Axis.Dot(projection.Frame.Z))
		}
		if along > 1e-6 && (f.Kind == solid.PlaneFace || along < 1-1e-6) {
			continue
		}
		if x.Declared().Symbol == characteristic.Position && along < 0.5 {
			continue // its datums are seen where the axis is a point
		}
		s.Marks = append(s.Marks, exercise.Mark{ID: fresh(ex.Sheets), Kind: exercise.Frame, Form: exercise.Leader,
			Of: []string{x.ID}, View: v.ID, Offset: [2]float64{14, 14}})
		return nil
	}
	return &Impossible{"no view of this sheet shows the face squarely", "add a view that does"}
}

// datums gives the frame of a mark other letters, the first of which are those of its own datums.
func (c Command) datums(ex *exercise.Exercise, m *exercise.Mark) error {
	letters := strings.FieldsFunc(strings.ToUpper(c.Text), func(r rune) bool { return r == ',' || r == ' ' || r == '|' })
	i := slices.IndexFunc(ex.Characteristics, func(x exercise.Characteristic) bool {
		return m.Kind == exercise.Frame && x.ID == m.Of[0]
	})
	if i < 0 {
		return &Impossible{"only a frame has datums", "choose a frame"}
	}
	own := len(datumFaces(&ex.Characteristics[i]))
	if len(letters) < own || len(letters) > 3 {
		return &Impossible{fmt.Sprintf("a frame like this has %d to 3 datums", own), "write their letters, such as A, B"}
	}
	for k, l := range letters {
		if len(l) != 1 || !strings.Contains(datumLetters, l) || slices.Contains(letters[:k], l) {
			return &Impossible{fmt.Sprintf("“%s” is no letter of a datum, or stands there twice", l),
				"write letters such as A, B, without I, O and Q"}
		}
	}
	ex.Characteristics = slices.Clone(ex.Characteristics)
	ex.Characteristics[i].Datums = letters
	return nil
}

// positioned makes a position of the distances by which one hole is placed: that of a mark, and another one of the
// sheet from a face at an angle to the first. They stand in boxes from then on and are exact; what is checked is the
// position, in a frame.
func (p *Projected) positioned(ex *exercise.Exercise, s *exercise.Sheet, mark int, label func(*Offer) string) error {
	kind := characteristic.Framed(characteristic.Position)
	hole, from, ok := p.placing(ex, &s.Marks[mark], kind, -1)
	if !ok {
		return &Impossible{"a position is made of a distance of one hole from a face or an axis",
			"choose such a dimension, of one place alone"}
	}
	holeFace := p.operand(hole)
	of, marks := []address.Ref{hole, from}, []int{mark}
	for i := range s.Marks {
		_, other, ok := p.placing(ex, &s.Marks[i], kind, holeFace)
		if !ok || i == mark || len(of) > 2 {
			continue
		}
		x := exercise.Characteristic{Kind: kind.Name, Of: [][]address.Ref{{hole, from, other}}, Exact: []float64{0, 0}}
		if place, err := inspect.Places(p.Geometry, &x); err == nil && len(place) == 1 {
			if _, err := kind.Measure(p.Geometry, place[0], x.How()); err == nil {
				of, marks = append(of, other), append(marks, i)
			}
		}
	}
	x := exercise.Characteristic{Kind: kind.Name, Of: [][]address.Ref{of}, Zone: zoneText(ex, 0.2)}
	var err error
	if x.Exact, err = inspect.ExactPlace(p.Geometry, &x); err != nil {
		return err
	}
	var place characteristic.Place
	for _, ref := range of {
		place = append(place, []int{p.operand(ref)})
	}
	x.Label, x.Datums = label(&Offer{Kind: kind.Name, place: place}), lettersFor(ex, &x)
	var gone []string
	for k, i := range marks {
		m := &s.Marks[i]
		gone = append(gone, m.Of...)
		m.Of, m.Measures, m.Exact, m.Anchors = nil, kind.From.Name, true, []address.Ref{hole, of[k+1]}
	}
	ex.Characteristics = slices.DeleteFunc(slices.Clone(ex.Characteristics), func(o exercise.Characteristic) bool {
		return slices.Contains(gone, o.ID)
	})
	id := ex.Add(x)
	return p.frameOf(ex, s, ex.Characteristic(id))
}

// placing tells whether a mark is the distance of a hole, which may be given, from something else, at one place.
func (p *Projected) placing(ex *exercise.Exercise, m *exercise.Mark, kind *characteristic.Kind,
	given int) (hole, from address.Ref, ok bool) {
	if m.Kind != exercise.Dimension || m.Form != exercise.Linear || len(m.Of) != 1 {
		return hole, from, false
	}
	x := ex.Characteristic(m.Of[0])
	places, err := inspect.Places(p.Geometry, x)
	if err != nil || len(places) != 1 || x.Kind != kind.From.Name || len(x.Of[0]) != 2 {
		return hole, from, false
	}
	for k, operand := range places[0] {
		f := p.Geometry.Faces[operand[0]]
		if f.Kind == solid.CylinderFace && (given < 0 && f.Hollow || operand[0] == given) {
			return x.Of[0][k], x.Of[0][1-k], true
		}
	}
	return hole, from, false
}

// operand is the face of an address, the first where there are several; it is known to be there.
func (p *Projected) operand(ref address.Ref) int {
	faces, err := inspect.Operand(p.Geometry, ref)
	if err != nil {
		return 0
	}
	return faces[0]
}

// zone gives the frame of a mark another width.
func (c Command) zone(ex *exercise.Exercise, m *exercise.Mark) error {
	ex.Characteristics = slices.Clone(ex.Characteristics)
	i := slices.IndexFunc(ex.Characteristics, func(x exercise.Characteristic) bool {
		return m.Kind == exercise.Frame && x.ID == m.Of[0]
	})
	if i < 0 {
		return &Impossible{"only a frame has a zone", "choose a frame"}
	}
	x := &ex.Characteristics[i]
	x.Zone = strings.TrimSpace(c.Text)
	if x.Zone == "" && !x.Declared().Symbol.Leans() {
		return nil
	}
	if _, _, err := ex.Limits(x, characteristic.Stated{Leg: 1}); err != nil || x.Zone == "" {
		return &Impossible{fmt.Sprintf("%q is no width of a zone", c.Text), "write a number such as 0.05"}
	}
	return nil
}
