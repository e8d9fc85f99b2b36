// Package lettering measures and outlines texts in the lettering of technical
// drawings: osifont, after ISO 3098. The font is shipped under its own licence,
// see osifont.copyright.
package lettering

import (
	_ "embed"
	"fmt"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
)

// TTF is the font file.
//
//go:embed osifont.ttf
var TTF []byte

// Font is the parsed font. It may be used concurrently.
type Font struct {
	mu   sync.Mutex
	font *sfnt.Font
	buf  sfnt.Buffer
	ppem fixed.Int26_6
	caps float64 // height of the capitals in font units
}

// Load parses the shipped font.
func Load() (*Font, error) {
	f, err := sfnt.Parse(TTF)
	if err != nil {
		return nil, fmt.Errorf("lettering: %w", err)
	}
	l := &Font{font: f, ppem: fixed.I(int(f.UnitsPerEm()))}
	g, err := f.GlyphIndex(&l.buf, 'H')
	if err != nil {
		return nil, err
	}
	b, _, err := f.GlyphBounds(&l.buf, g, l.ppem, font.HintingNone)
	if err != nil {
		return nil, err
	}
	l.caps = -float64(b.Min.Y) / 64
	return l, nil
}

// Width is the width in mm of a text whose capitals are height mm high.
func (l *Font) Width(text string, height float64) float64 {
	l.mu.Lock()
	defer l.mu.Unlock()
	w := 0.0
	for _, r := range text {
		w += l.advance(r)
	}
	return w * height / l.caps
}

// CapRatio is the height of the capitals as a share of the font size.
func (l *Font) CapRatio() float64 { return l.caps / float64(l.font.UnitsPerEm()) }

func (l *Font) advance(r rune) float64 {
	g, err := l.font.GlyphIndex(&l.buf, r)
	if err != nil {
		return 0
	}
	a, err := l.font.GlyphAdvance(&l.buf, g, l.ppem, font.HintingNone)
	if err != nil {
		return 0
	}
	return float64(a) / 64
}

// Segment is a piece of an outline: Op M, L, Q or C with the points it takes, in
// mm from the start of the base line, y up.
type Segment struct {
	Op     byte
	Points [3][2]float64
	Count  int
}

// Outline gives the shapes of a text.
func (l *Font) Outline(text string, height float64) []Segment {
	l.mu.Lock()
	defer l.mu.Unlock()
	k := height / l.caps
	x := 0.0
	var out []Segment
	for _, r := range text {
		g, err := l.font.GlyphIndex(&l.buf, r)
		if err != nil {
			continue
		}
		segs, err := l.font.LoadGlyph(&l.buf, g, l.ppem, nil)
		if err == nil {
			for _, s := range segs {
				o := Segment{Op: "MLQC"[s.Op], Count: []int{1, 1, 2, 3}[s.Op]}
				for i := range o.Count {
					o.Points[i] = [2]float64{x + float64(s.Args[i].X)/64*k, -float64(s.Args[i].Y) / 64 * k}
				}
				out = append(out, o)
			}
		}
		x += l.advance(r) * k
	}
	return out
}
