package sheet

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// builder lays a sheet out, from what was projected for it.
type builder struct {
	ex        *exercise.Exercise
	sheet     *exercise.Sheet
	geo       *solid.Geometry
	projected *Projected
	metrics   Metrics
	views     map[string]*view
	out       *Drawing
	seen      map[string]bool // characteristics that have a balloon
	datums    []string        // letters that are drawn
	last      []func()        // what finds its place once all dimensions are drawn
	number    int             // of the sheet in its set, from 0; -1 of one that is of none
	numbering Numbering
	in        where // what is being laid out
}

// where is what an item belongs to.
type where struct{ view, mark string }

// Draw projects the reference of an exercise and lays out its sheets, with the cosmetic notes on them.
func Draw(ctx context.Context, k solid.Kernel, ex *exercise.Exercise, ref *part.Named, m Metrics,
	notes ...part.Note) (*Drawing, error) {
	p, err := Project(ctx, k, ex.Sheets, ref, nil)
	if err != nil {
		return nil, err
	}
	set, err := LayOutSet(ex, p, m, notes...)
	if err != nil {
		return nil, err
	}
	return Stacked(set), nil
}

// Numbering tells of the sheets of an exercise that they are of a larger set: how many come before them, and how many
// there are in all. Nothing is a set of their own.
type Numbering struct{ First, Of int }

// LayOutSet makes all sheets of an exercise from what was projected for them.
func LayOutSet(ex *exercise.Exercise, p *Projected, m Metrics, notes ...part.Note) ([]*Drawing, error) {
	return LayOutNumbered(ex, p, m, Numbering{}, notes...)
}

// LayOutNumbered makes all sheets of an exercise as some of a larger set.
func LayOutNumbered(ex *exercise.Exercise, p *Projected, m Metrics, of Numbering, notes ...part.Note) ([]*Drawing,
	error) {
	out := make([]*Drawing, len(ex.Sheets))
	for n := range ex.Sheets {
		var err error
		if out[n], err = layOut(ex, &ex.Sheets[n], p, m, of, notes...); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// LayOut makes a sheet of an exercise from what was projected for it.
//
// It knows nothing of solids, so that a sheet is laid out anew without the
// kernel when only the wording of a note or the place of a dimension has
// changed.
func LayOut(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, m Metrics, notes ...part.Note) (*Drawing, error) {
	return layOut(ex, s, p, m, Numbering{}, notes...)
}

func layOut(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, m Metrics, of Numbering,
	notes ...part.Note) (*Drawing, error) {
	b := &builder{ex: ex, sheet: s, geo: p.Geometry, projected: p, metrics: m, views: map[string]*view{},
		seen: map[string]bool{}, number: -1, numbering: of}
	for n := range ex.Sheets {
		if &ex.Sheets[n] == s {
			b.number = n
		}
	}
	i := slices.IndexFunc(standards.Papers, func(x standards.Paper) bool { return x.Name == s.Paper })
	if i < 0 {
		return nil, fmt.Errorf("%q is not a size of paper: use A4 to A0, or Y14.1 A to E", s.Paper)
	}
	paper := standards.Papers[i]
	b.out = &Drawing{Title: ex.Title, Paper: paper.Name, Width: paper.Width, Height: paper.Height,
		Handles: map[string]Handle{}}
	b.frame()
	for _, spec := range s.Views {
		b.in = where{view: spec.ID}
		v, err := b.addView(spec, p.Views[spec.ID])
		if err != nil {
			return nil, err
		}
		b.views[spec.ID] = v
	}
	for i := range s.Marks {
		m := &s.Marks[i]
		b.in = where{view: m.View, mark: m.ID}
		if err := b.mark(m); err != nil {
			return nil, err
		}
	}
	for _, draw := range b.last {
		draw()
	}
	b.notes(notes)
	b.in = where{}
	if p.Composed != nil {
		return b.out, b.arrangement()
	}
	if b.number > 0 { // what is loose stands on the first sheet
		return b.out, nil
	}
	return b.out, b.loose()
}

// nominal is where a characteristic lies on the reference and what it states
// there.
func (b *builder) nominal(c *exercise.Characteristic) ([]characteristic.Place, characteristic.Stated, error) {
	return check.Nominal(b.geo, b.ex, c)
}

// add puts an item onto the sheet. It is noted which view and which dimension it
// belongs to, since renderers and picking know items alone.
func (b *builder) add(it Item) {
	it.View, it.Mark = b.in.view, b.in.mark
	b.out.Items = append(b.out.Items, it)
}

// text adds lettering of a height in millimetres of paper; turn is in radians.
func (b *builder) text(class Class, s string, at Point, height float64, anchor string, turn float64, id string) {
	b.add(Item{Class: class, Kind: "text", Text: s, Points: []Point{at}, Height: height, Anchor: anchor, Turn: turn,
		Characteristic: id})
}

// noteGap is how far notes keep from the frame and the title block, for a measured value as well.
const noteGap = 12.0

// noteRoom is the least width beside the title block in which notes stand.
const noteRoom = 80.0

// loose writes characteristics that no dimension shows on any sheet (a number of solids, say)
// as notes in the lower left corner, so that every balloon is on the set.
//
// Each characteristic has a balloon somewhere: one that nobody can find on the
// sheet cannot be asked for.
func (b *builder) loose() error {
	y := margin + 28.0
	if b.out.Width-binding-margin-blockWidth < noteRoom { // as on an A4, where the title block goes from side to side
		y = margin + blockHeight + noteGap
	}
	elsewhere := map[string]bool{}
	if b.number == 0 {
		elsewhere = b.ex.Sheets[1:].Marked()
	}
	for i := range b.ex.Characteristics {
		c := &b.ex.Characteristics[i]
		if b.seen[c.ID] || elsewhere[c.ID] {
			continue
		}
		places, stated, err := b.nominal(c)
		if err != nil {
			return err
		}
		t := c.Label + ": " + b.valueText(c, len(places), stated)
		if c.Declared().Whole() && stated.Text == "1" && strings.HasPrefix(strings.ToLower(c.Label), "one ") {
			t = c.Label // it says its number
		}
		x, y := b.noteSpot(y, t)
		at, room := x+2*balloonR+2, b.out.Width-margin-noteGap
		if y < margin+blockHeight+noteGap {
			room -= blockWidth // beside the title block
		}
		lines, size := b.fitted(t, room-at, []float64{standards.Lettering, 3, 2.5}, 2.5)
		for k, line := range lines {
			b.text(Dimension, line, Point{at, y + float64(len(lines)-1-k)*1.5*size}, size, "start", 0, c.ID)
		}
		b.balloon(c, Point{x + balloonR, y + standards.Lettering/2})
		// Below the balloon the next note stands; the measured value goes behind this one.
		b.out.Marks[len(b.out.Marks)-1].Text = Point{at + 3 + b.metrics.Width(lines[len(lines)-1], size), y}
	}
	return nil
}

// noteSpot is where the next note stands: the lowest place from y up, in the first column that has one, at which
// nothing runs through it. A sheet that is full has it in the first column all the same.
func (b *builder) noteSpot(y float64, text string) (left, foot float64) {
	const pitch, column = 8.0, 100.0
	width := math.Min(2*balloonR+2+b.metrics.Width(text, standards.Lettering), column-2*balloonR)
	labels, obstacles := b.out.labels(b.metrics), b.out.obstacles()
	first := binding + 6.0
	for left = first; left+width < b.out.Width-margin-noteGap; left += column {
		for foot = y; foot < b.out.Height-margin-noteGap; foot += pitch {
			here := label{Extent: Extent{Point{left, foot - 1}, Point{left + width, foot + standards.Lettering + 1}}}
			_, crossed := here.crossed(obstacles)
			block := Extent{Point{b.out.Width - margin - blockWidth, margin}, Point{b.out.Width - margin, margin + blockHeight}}
			if !crossed && !here.Overlaps(block) &&
				!slices.ContainsFunc(labels, func(l label) bool { return here.Overlaps(l.Extent) }) {
				return left, foot
			}
		}
	}
	for foot = y; slices.ContainsFunc(labels, func(l label) bool {
		return l.Min[0] < first+width && l.Min[1] < foot+standards.Lettering && l.Max[1] > foot
	}); foot += pitch {
	}
	return first, foot
}
