package sheet

import (
	"fmt"
	"math"
	"slices"
	"strings"

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
	if symbol == characteristic.Coaxiality {
		zone = "⌀" + zone
	}
	out := Point(m.Offset).unit()
	tip := b.tip(v, c.Characteristic, c.places[0], out)
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
	return b.datum(v, c, letters[0], out)
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

// datum draws the triangle and the letter of a datum on the last face of a characteristic, on the side that is away
// from the frame; one that has been drawn is not drawn again.
func (b *builder) datum(v *view, c size, letter string, out Point) error {
	if slices.Contains(b.datums, letter) {
		return nil
	}
	b.datums = append(b.datums, letter)
	place := c.places[0]
	last := characteristic.Place{place[len(place)-1]}
	face := b.geo.Faces[last[0][0]]
	away := out.scale(-1)
	if face.Kind == solid.PlaneFace {
		if n := v.direction(face.Normal); n.norm() > 0.5 {
			away = n.unit()
		}
	}
	turns := []float64{0}
	if face.Kind != solid.PlaneFace { // a round face has its datum on any side
		turns = []float64{0, 0.5, -0.5, 1, -1, 1.5, -1.5}
	}
	const half, height = frameHeight / 2, triangle * 0.866
	var foot, top, box, middle Point
	found := false
	for _, stem := range []float64{5, 10, 16, 24} {
		for _, turn := range turns {
			way := polar(1, math.Atan2(away[1], away[0])+turn*math.Pi/2)
			at := b.tip(v, &exercise.Characteristic{Kind: c.Kind}, last, way)
			to := at.add(way.scale(height + stem))
			letterAt := to.add(way.scale(half + 1))
			here := Item{Class: Dimension, Kind: "text", Text: letter, Height: standards.Lettering, Anchor: "middle",
				Points: []Point{letterAt.sub(Point{0, standards.Lettering / 2})}}
			if found || (stem > 5 || turn != 0) && !b.isFree(here) {
				continue
			}
			foot, top, box, middle, found = at, at.add(way.scale(height)), to, letterAt, b.isFree(here)
		}
	}
	side := top.sub(foot).unit()
	side = Point{-side[1], side[0]}
	b.add(Item{Class: Dimension, Kind: "fill", Points: []Point{foot.add(side.scale(triangle / 2)),
		foot.sub(side.scale(triangle / 2)), top}, Characteristic: c.ID})
	b.line(c.ID, top, box)
	b.add(Item{Class: Dimension, Kind: "run", Width: frameLine, Characteristic: c.ID, Points: []Point{
		middle.add(Point{-half, -half}), middle.add(Point{half, -half}), middle.add(Point{half, half}),
		middle.add(Point{-half, half}), middle.add(Point{-half, -half})}})
	b.text(Dimension, letter, middle.sub(Point{0, standards.Lettering / 2}), standards.Lettering, "middle", 0, c.ID)
	return nil
}

// enframe stands a characteristic that is among the notes in a frame, at a view that shows its face, with the first
// letter that no other datum has; those with one datum face share a letter.
func (c Command) enframe(ex *exercise.Exercise, s *exercise.Sheet, p *Projected) error {
	i := slices.IndexFunc(ex.Characteristics, func(x exercise.Characteristic) bool { return x.ID == c.Text })
	if i < 0 || ex.Characteristics[i].Declared().Symbol == characteristic.NoSymbol {
		return &Impossible{"only coaxial, symmetric, parallel and perpendicular stand in a frame", "leave it among the notes"}
	}
	ex.Characteristics = slices.Clone(ex.Characteristics)
	x := &ex.Characteristics[i]
	if x.Declared().Symbol.Leans() && x.Zone == "" {
		x.Zone = "0.1"
	}
	last := func(o *exercise.Characteristic) string {
		place := o.Of[0]
		return place[len(place)-1].Name
	}
	if len(x.Datums) == 0 {
		taken := map[string]string{} // letters, by the face
		for k := range ex.Characteristics {
			if o := &ex.Characteristics[k]; len(o.Datums) > 0 && len(o.Of) > 0 {
				taken[o.Datums[0]] = last(o)
			}
		}
		for _, l := range datumLetters {
			if face, has := taken[string(l)]; !has || face == last(x) {
				x.Datums = []string{string(l)}
				break
			}
		}
	}
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
		s.Marks = append(s.Marks, exercise.Mark{ID: fresh(ex.Sheets), Kind: exercise.Frame, Form: exercise.Leader,
			Of: []string{x.ID}, View: v.ID, Offset: [2]float64{14, 14}})
		return nil
	}
	return &Impossible{"no view of this sheet shows the face squarely", "add a view that does"}
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
