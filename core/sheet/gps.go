package sheet

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
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
