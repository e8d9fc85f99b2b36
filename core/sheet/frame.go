package sheet

import (
	"fmt"
	"math"
	"strings"

	"hammerset/core/exercise"
)

// The frame of a sheet after ISO 5457:1999 (from memory): the drawing space is 20 mm from the left edge, for filing,
// and 10 mm from the others, within a line of 0.7 mm. Around it runs a border of 5 mm with the grid reference: fields
// of 50 mm, counted from the axes of the trimmed sheet, whose ends the centring marks show.
const (
	binding     = 20.0
	margin      = 10.0
	frameWidth  = 0.7
	gridBorder  = 5.0
	gridField   = 50.0
	gridWidth   = 0.35
	gridText    = 3.5
	markInside  = 5.0 // of a centring mark inside the frame
	blockWidth  = 180.0
	blockHeight = 40.0
	nameHeight  = 1.8 // of what a field of the title block is called
)

// box adds a rectangle of the frame or the title block.
func (b *builder) box(x0, y0, x1, y1, width float64) {
	b.add(Item{Class: Frame, Kind: "run", Points: []Point{{x0, y0}, {x1, y0}, {x1, y1}, {x0, y1}, {x0, y0}}, Width: width})
}

// rule adds a straight line of the frame or the title block.
func (b *builder) rule(p, q Point, width float64) {
	b.add(Item{Class: Frame, Kind: "run", Points: []Point{p, q}, Width: width})
}

// frame draws the border, the grid reference, the centring marks and the title block.
func (b *builder) frame() {
	w, h := b.out.Width, b.out.Height
	b.box(binding-gridBorder, margin-gridBorder, w-margin+gridBorder, h-margin+gridBorder, gridWidth)
	b.box(binding, margin, w-margin, h-margin, frameWidth)
	b.grid(0, w, binding, w-margin)
	b.grid(1, h, margin, h-margin)
	for _, s := range [][2]Point{{{w / 2, margin - gridBorder}, {w / 2, margin + markInside}},
		{{w / 2, h - margin + gridBorder}, {w / 2, h - margin - markInside}},
		{{w - margin + gridBorder, h / 2}, {w - margin - markInside, h / 2}},
		{{binding - gridBorder, h / 2}, {binding + markInside, h / 2}}} {
		b.rule(s[0], s[1], frameWidth)
	}
	b.titleBlock()
}

// grid divides the border along one axis of the sheet, which is so long, between two sides of the frame: numbers from
// left to right, letters from the top, without I and O. What is left of the length goes to the fields at the corners. A
// sheet of A4 has it only at the top and on the right.
func (b *builder) grid(axis int, length, from, to float64) {
	half := int(math.Round(length / 2 / gridField))
	low, high := margin-gridBorder, margin
	other := b.out.Height
	if axis == 1 {
		low, high, other = binding-gridBorder, binding, b.out.Width
	}
	sides := [][2]float64{{low, high}, {other - margin, other - margin + gridBorder}}
	if b.out.Paper == "A4" {
		sides = sides[1:]
	}
	at := func(along, across float64) Point {
		if axis == 1 {
			return Point{across, along}
		}
		return Point{along, across}
	}
	edge := func(k int) float64 { // the beginning of field k
		switch k {
		case 0:
			return from
		case 2 * half:
			return to
		}
		return length/2 + float64(k-half)*gridField
	}
	for k := range 2 * half {
		name := fmt.Sprint(k + 1)
		if axis == 1 {
			name = string("ABCDEFGHJKLMNPQRSTUVWXYZ"[2*half-1-k])
		}
		for _, s := range sides {
			if k > 0 && k != half { // there is a centring mark
				b.rule(at(edge(k), s[0]), at(edge(k), s[1]), gridWidth)
			}
			mid := at((edge(k)+edge(k+1))/2, (s[0]+s[1])/2)
			b.text(Frame, name, mid.sub(Point{0, gridText / 2}), gridText, "middle", 0, "")
		}
	}
}

// field is a field of the title block: where it begins from its left edge, what it is called and says, and how high.
type field struct {
	from        float64
	name, value string
}

// titleBlock draws the fields that ISO 7200:2004 asks for (from memory): legal owner, identification number, date of
// issue, sheet number, title, approval person, creator and document type; and beside them what a part cannot be made
// without: material, unit, scale, general tolerance and projection.
func (b *builder) titleBlock() {
	x, y := b.out.Width-margin-blockWidth, margin
	b.box(x, y, x+blockWidth, y+blockHeight, 0.5)
	t := b.ex.TitleBlock
	kind := t.DocumentType
	if kind == "" {
		if kind = "Part drawing"; b.ex.Kind == exercise.Assembly {
			kind = "Arrangement drawing"
		}
	}
	b.fields(x, y+31, 9, []field{{0, "Owner", b.ex.IssuedBy}, {125, "Projection", ""}})
	b.projection(Point{x + 158, y + 35.5})
	b.fields(x, y+22, 9, []field{{0, "Material", b.ex.Material}, {58, "General tolerance", b.ex.GeneralNote()},
		{103, "Unit", unitWord(b.ex.Unit)}, {135, "Scale", b.sheet.Scale}, {155, "Paper", b.out.Paper}})
	b.fields(x, y+13, 9, []field{{0, "Created by", t.Creator}, {45, "Approved by", t.Approver},
		{90, "Date of issue", t.Date}, {125, "Document type", kind}})
	b.fields(x, y, 13, []field{{0, "Title", b.ex.Title}, {98, "Drawing number", b.ex.Number},
		{142, "Revision", t.Revision}, {160, "Sheet", b.numbered()}})
}

// numbered is the number of the sheet in its set.
func (b *builder) numbered() string {
	return fmt.Sprintf("%d / %d", b.numbering.First+max(0, b.number)+1, max(1, len(b.ex.Sheets), b.numbering.Of))
}

// fields draws a row of the title block from its lower left corner.
func (b *builder) fields(x, y, height float64, row []field) {
	b.rule(Point{x, y + height}, Point{x + blockWidth, y + height}, 0.25)
	for i, f := range row {
		to := blockWidth
		if i+1 < len(row) {
			to = row[i+1].from
			b.rule(Point{x + to, y}, Point{x + to, y + height}, 0.25)
		}
		b.text(Frame, f.name, Point{x + f.from + 1.5, y + height - nameHeight - 0.8}, nameHeight, "start", 0, "")
		sizes, last := []float64{3, 2.5}, 1.8
		if height > 9 {
			sizes, last = []float64{4.5, 3.5, 3}, 2.5
		}
		lines, size := b.fitted(f.value, to-f.from-3, sizes, last)
		for k, line := range lines {
			b.text(Frame, line, Point{x + f.from + 1.5, y + 1.7 + float64(len(lines)-1-k)*1.5*size}, size, "start", 0, "")
		}
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
	for r := []rune(first); !fits(first) && len(r) > 1; r = []rune(first) {
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
