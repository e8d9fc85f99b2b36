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
	in        where           // what is being laid out
}

// where is what an item belongs to.
type where struct{ view, mark string }

// Draw projects the reference of an exercise and lays out its sheet, with the cosmetic notes on it.
func Draw(ctx context.Context, k solid.Kernel, ex *exercise.Exercise, ref *part.Named, m Metrics,
	notes ...part.Note) (*Drawing, error) {
	p, err := Project(ctx, k, ex.Sheet(), ref)
	if err != nil {
		return nil, err
	}
	return LayOut(ex, ex.Sheet(), p, m, notes...)
}

// LayOut makes a sheet of an exercise from what was projected for it.
//
// It knows nothing of solids, so that a sheet is laid out anew without the
// kernel when only the wording of a note or the place of a dimension has
// changed.
func LayOut(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, m Metrics, notes ...part.Note) (*Drawing, error) {
	b := &builder{ex: ex, sheet: s, geo: p.Geometry, projected: p, metrics: m, views: map[string]*view{},
		seen: map[string]bool{}}
	i := slices.IndexFunc(standards.Papers, func(x standards.Paper) bool { return x.Name == s.Paper })
	if i < 0 {
		return nil, fmt.Errorf("%q is not a size of paper: use A4, A3 or A2", s.Paper)
	}
	paper := standards.Papers[i]
	b.out = &Drawing{Title: ex.Title, Paper: paper.Name, Width: paper.Width, Height: paper.Height}
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
	b.notes(notes)
	b.in = where{}
	if err := b.loose(); err != nil {
		return nil, err
	}
	return b.out, nil
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

// loose writes characteristics that no dimension shows (a number of solids, say)
// as notes in the lower left corner, so that every balloon is on the sheet.
//
// Each characteristic has a balloon somewhere: one that nobody can find on the
// sheet cannot be asked for.
func (b *builder) loose() error {
	y := margin + 28.0
	for i := range b.ex.Characteristics {
		c := &b.ex.Characteristics[i]
		if b.seen[c.ID] {
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
		x := binding + 6.0
		b.text(Dimension, t, Point{x + 2*balloonR + 2, y}, standards.Lettering, "start", 0, c.ID)
		b.balloon(c, Point{x + balloonR, y + standards.Lettering/2})
		// Below the balloon the next note stands; the measured value goes behind this one.
		b.out.Marks[len(b.out.Marks)-1].Text = Point{x + 2*balloonR + 5 + b.metrics.Width(t, standards.Lettering), y}
		y += 8
	}
	return nil
}

// Borders after ISO 5457: 20 mm at the binding edge and 10 mm elsewhere; the
// title block is 180 mm wide (ISO 7200).
const (
	binding     = 20.0
	margin      = 10.0
	blockWidth  = 180.0
	blockHeight = 32.0
)

// box adds a rectangle of the frame or the title block.
func (b *builder) box(x0, y0, x1, y1, width float64) {
	b.add(Item{Class: Frame, Kind: "run", Points: []Point{{x0, y0}, {x1, y0}, {x1, y1}, {x0, y1}, {x0, y0}}, Width: width})
}

// frame draws the border, the centring marks and the title block.
//
// The fields are those that ISO 7200 calls mandatory or recommended: issued by,
// title, drawing number, and beside them unit, scale, general tolerance and
// projection, without which no dimension can be read.
func (b *builder) frame() {
	w, h := b.out.Width, b.out.Height
	b.box(binding, margin, w-margin, h-margin, 0.7)
	for _, s := range [][2]Point{{{w/2 + 5, 0}, {w/2 + 5, margin}}, {{w/2 + 5, h}, {w/2 + 5, h - margin}},
		{{w, h / 2}, {w - margin, h / 2}}, {{0, h / 2}, {binding, h / 2}}} {
		b.add(Item{Class: Frame, Kind: "run", Points: s[:], Width: 0.35})
	}
	x0, y0 := w-margin-blockWidth, margin
	b.box(x0, y0, w-margin, y0+blockHeight, 0.5)
	rule := func(p, q Point) { b.add(Item{Class: Frame, Kind: "run", Points: []Point{p, q}, Width: 0.25}) }
	rule(Point{x0, y0 + 12}, Point{w - margin, y0 + 12})
	rule(Point{x0, y0 + 22}, Point{w - margin, y0 + 22})
	cell := func(x, y float64, name, value string, size float64) {
		b.text(Frame, name, Point{x0 + x + 1.5, y0 + y + 6.9}, 1.8, "start", 0, "")
		b.text(Frame, value, Point{x0 + x + 1.5, y0 + y + 1.8}, size, "start", 0, "")
	}
	cell(0, 22, "Issued by", b.ex.IssuedBy, 3)
	cell(110, 22, "Material", b.ex.Material, 3)
	rule(Point{x0 + 110, y0 + 22}, Point{x0 + 110, y0 + 32})
	cell(0, 12, "Unit", unitWord(b.ex.Unit), 3)
	rule(Point{x0 + 36, y0 + 12}, Point{x0 + 36, y0 + 22})
	cell(36, 12, "Scale", b.sheet.Scale, 3)
	rule(Point{x0 + 60, y0 + 12}, Point{x0 + 60, y0 + 22})
	cell(60, 12, "General tolerance", b.ex.GeneralNote(), 3)
	rule(Point{x0 + 110, y0 + 12}, Point{x0 + 110, y0 + 22})
	cell(110, 12, "Projection", "", 3)
	rule(Point{x0 + 150, y0 + 12}, Point{x0 + 150, y0 + 22})
	cell(150, 12, "Paper", b.out.Paper, 3)
	b.projection(Point{x0 + 137, y0 + 17})
	b.text(Frame, "Title", Point{x0 + 1.5, y0 + 1.5 + 6.9 + 1.4}, 1.8, "start", 0, "")
	lines, size := b.fitted(b.ex.Title, 127, []float64{4.5, 3.5, 3}, 2.5)
	for i, line := range lines {
		b.text(Frame, line, Point{x0 + 1.5, y0 + 2 + float64(len(lines)-1-i)*1.6*size}, size, "start", 0, "")
	}
	rule(Point{x0 + 130, y0}, Point{x0 + 130, y0 + 12})
	number, size := b.fitted(b.ex.Number, 47, []float64{3.5, 3, 2.5}, 1.8)
	b.text(Frame, "Drawing number", Point{x0 + 131.5, y0 + 9.8}, 1.8, "start", 0, "")
	for i, line := range number {
		b.text(Frame, line, Point{x0 + 131.5, y0 + 2 + float64(len(number)-1-i)*1.6*size}, size, "start", 0, "")
	}
}

// fitted sets a text into a width: on one line in the first of the sizes that fits, else on two
// of the last size; what is longer still ends with an ellipsis.
//
// The smallest lettering is still legible at a metre (common practice, no
// source); what does not fit on two lines is cut with an ellipsis, and the whole
// title is in the list.
func (b *builder) fitted(text string, width float64, sizes []float64, last float64) (lines []string, size float64) {
	for _, size := range sizes {
		if b.metrics.Width(text, size) <= width {
			return []string{text}, size
		}
	}
	fits := func(s string) bool { return b.metrics.Width(s, last) <= width }
	first, rest := text, ""
	for !fits(first) {
		r := []rune(first)
		first, rest = string(r[:len(r)-1]), string(r[len(r)-1])+rest
	}
	if i := strings.LastIndexByte(first, ' '); i > 0 && rest != "" { // between two words, where there is one
		first, rest = first[:i], first[i+1:]+rest
	}
	if rest == "" {
		return []string{first}, last
	}
	if !fits(rest) {
		r := []rune(rest)
		for len(r) > 0 && !fits(string(r)+"…") {
			r = r[:len(r)-1]
		}
		rest = string(r) + "…"
	}
	return []string{first, rest}, last
}

// unitWord is the unit in the words of the title block.
func unitWord(u string) string {
	switch u {
	case "mm":
		return "millimetres"
	case "in":
		return "inches"
	}
	return u
}

// projection draws the symbol of ISO 5456-2: a truncated cone from the side and
// from the end; for first angle the end view stands on the right.
//
// The cone is twice as long as its large end's radius, and its small end is half
// as large.
func (b *builder) projection(at Point) {
	const r, l = 3.5, 7.0 // radius of the large end, length
	cone, rings := at.sub(Point{6, 0}), at.add(Point{6, 0})
	if b.sheet.Projection == "third" {
		cone, rings = rings, cone
	}
	// The small end is on the left; seen from the left it stands on the right in
	// first angle and on the left in third.
	small, large := cone.sub(Point{l / 2, 0}), cone.add(Point{l / 2, 0})
	b.add(Item{Class: Frame, Kind: "run", Width: 0.35, Points: []Point{large.add(Point{0, r}), small.add(Point{0, r / 2}),
		small.sub(Point{0, r / 2}), large.sub(Point{0, r}), large.add(Point{0, r})}})
	for _, k := range []float64{r, r / 2} {
		b.add(Item{Class: Frame, Kind: "arc", Centre: rings, Radius: k, Sweep: 2 * math.Pi, Width: 0.35})
	}
	for _, s := range [][2]Point{{cone.sub(Point{l/2 + 1, 0}), cone.add(Point{l/2 + 1, 0})},
		{rings.sub(Point{r + 1, 0}), rings.add(Point{r + 1, 0})}, {rings.sub(Point{0, r + 1}), rings.add(Point{0, r + 1})}} {
		b.add(Item{Class: Frame, Kind: "run", Points: s[:], Width: 0.13})
	}
}
