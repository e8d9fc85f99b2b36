package sheet

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/standards"
)

// Of the graphical symbol of surface texture, for lettering of 3.5 mm: how high its short and its long leg are, both at
// 60 degrees (ISO 1302:2002, annex A, from memory).
const (
	shortLeg = 5.0
	longLeg  = 10.5
)

// texture draws the symbol of surface texture on the shelf of a leader to its face, with its text under the line at its
// long leg (ISO 1302). Where material must be removed the legs are joined; where it must not, a circle lies between
// them.
func (b *builder) texture(v *view, m *exercise.Mark) error {
	operand, err := inspect.Operand(b.geo, m.Anchors[0])
	if err != nil {
		return fmt.Errorf("mark %s: %w", m.ID, err)
	}
	run := func(points ...Point) {
		b.add(Item{Class: Dimension, Kind: "run", Points: points, Width: frameLine})
	}
	out := Point(m.Offset).unit()
	tip := b.tip(v, nil, characteristic.Place{operand}, out)
	knee := tip.add(Point(m.Offset))
	way := 1.0
	if out[0] < 0 {
		way = -1
	}
	cot := 1 / math.Tan(math.Pi/3)
	width := b.metrics.Width(m.Text, standards.Lettering)
	left, right := shortLeg*cot, longLeg*cot+width+3
	foot := knee.add(Point{left + 1, 0})
	if way < 0 {
		foot = knee.sub(Point{right + 1, 0})
	}
	b.arrow("", tip, out)
	b.add(Item{Class: Dimension, Kind: "run", Width: standards.LineNarrow,
		Points: []Point{tip, knee, knee.add(Point{way * (left + right + 2), 0})}})
	short, long := foot.add(Point{-left, shortLeg}), foot.add(Point{longLeg * cot, longLeg})
	run(short, foot, long, foot.add(Point{right, longLeg}))
	switch m.Symbol {
	case exercise.TextureRemoved:
		run(short, foot.add(Point{left, shortLeg}))
	case exercise.TextureKept:
		b.add(Item{Class: Dimension, Kind: "arc", Centre: foot.add(Point{0, shortLeg * 2 / 3}), Radius: shortLeg / 3,
			Sweep: 2 * math.Pi, Width: frameLine})
	}
	b.text(Dimension, m.Text, long.add(Point{1.5, -standards.Lettering - 1}), standards.Lettering, "start", 0, "")
	return nil
}

// symbolAt puts a symbol of surface texture onto the face whose line was picked in a view.
func (c Command) symbolAt(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, id string) error {
	v, projection, err := p.placedView(s, id)
	if err != nil {
		return err
	}
	q := c.picks()
	if len(q) != 1 {
		return &Impossible{"no line is picked", "click the line of a face"}
	}
	e, err := v.pick(p.Geometry, projection, q[0], c.Reach)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(e.faces, func(f int) bool { return len(p.Geometry.Names[f]) > 0 })
	if i < 0 {
		return &Impossible{"the face there has no name", "click the line of another face"}
	}
	offset := [2]float64{10, 10}
	if q[0][0] < (v.box.Min[0]+v.box.Max[0])/2 {
		offset[0] = -10
	}
	s.Marks = append(s.Marks, exercise.Mark{ID: fresh(ex.Sheets), Kind: exercise.SymbolMark, Form: exercise.Leader,
		Symbol: exercise.TextureRemoved, Text: c.Text, View: id, Offset: offset,
		Anchors: []address.Ref{{Name: p.Geometry.Address(e.faces[i])}}})
	return nil
}
