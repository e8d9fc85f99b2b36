// Package lettering measures and outlines texts in the lettering of technical
// drawings: osifont, after ISO 3098. The font is shipped under its own licence,
// see osifont.copyright.
package lettering

import (
	_ "embed"
	"fmt"
	"math"
	"strings"
	"sync"
	"unicode"

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

// depth is the sign before the depth of a hole (ISO 129-1), drawn with a head as wide as its bar:
// the font's own is easily read as a capital I. Its outline is in heights of the capitals.
const depth = '↧'

var depthSign = [][]([2]float64){
	{{0.08, 0.9}, {0.82, 0.9}, {0.82, 1}, {0.08, 1}},
	{{0.4, 0.4}, {0.5, 0.4}, {0.5, 0.9}, {0.4, 0.9}},
	{{0.45, 0}, {0.82, 0.45}, {0.08, 0.45}},
}

const depthWidth = 0.95

// Sign gives the outline of a letter that is drawn by us and not by the font, as closed runs in
// heights of the capitals, and how far it leads on.
func Sign(r rune) (runs [][][2]float64, width float64, ok bool) {
	if r == depth {
		return depthSign, depthWidth, true
	}
	return nil, 0, false
}

// Written replaces letters that the font does not have by a box, and leaves out those that only
// change the look of others, so that any text can be set.
func (l *Font) Written(text string) string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == ' ':
			return r
		case unicode.Is(unicode.Mn, r) || unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Cc, r) ||
			unicode.Is(unicode.Sk, r) && r > 0xFFFF:
			return -1
		case unicode.IsSpace(r):
			return ' '
		}
		if g, err := l.font.GlyphIndex(&l.buf, r); err != nil || g == 0 || r > 0xFFFF {
			return '□'
		}
		return r
	}, text)
}

func (l *Font) advance(r rune) float64 {
	if _, w, ok := Sign(r); ok {
		return w * l.caps
	}
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
		if runs, w, ok := Sign(r); ok {
			for _, run := range runs {
				for i, p := range append(run, run[0]) {
					out = append(out, Segment{Op: "ML"[min(i, 1)], Count: 1, Points: [3][2]float64{{x + p[0]*height, p[1] * height}}})
				}
			}
			x += w * height
			continue
		}
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

// Runs gives the outlines of a text as closed runs of straight pieces, where it stands on the paper: at a place that is
// its start, middle or end, turned by an angle in radians. Each curve of a letter is cut into six pieces.
func (l *Font) Runs(text string, height float64, anchor string, turn float64, at [2]float64) [][][2]float64 {
	back := map[string]float64{"middle": 0.5, "end": 1}[anchor] * l.Width(text, height)
	sin, cos := math.Sincos(turn)
	var out [][][2]float64
	put := func(x, y float64) {
		last := len(out) - 1
		out[last] = append(out[last], [2]float64{at[0] + (x-back)*cos - y*sin, at[1] + (x-back)*sin + y*cos})
	}
	const pieces = 6
	var from [2]float64
	for _, g := range l.Outline(text, height) {
		p := g.Points
		switch g.Op {
		case 'M':
			out = append(out, nil)
			put(p[0][0], p[0][1])
		case 'L':
			put(p[0][0], p[0][1])
		case 'Q':
			for i := 1; i <= pieces; i++ {
				t := float64(i) / pieces
				a, b, c := (1-t)*(1-t), 2*t*(1-t), t*t
				put(a*from[0]+b*p[0][0]+c*p[1][0], a*from[1]+b*p[0][1]+c*p[1][1])
			}
		case 'C':
			for i := 1; i <= pieces; i++ {
				t := float64(i) / pieces
				a, b, c, d := (1-t)*(1-t)*(1-t), 3*t*(1-t)*(1-t), 3*t*t*(1-t), t*t*t
				put(a*from[0]+b*p[0][0]+c*p[1][0]+d*p[2][0], a*from[1]+b*p[0][1]+c*p[1][1]+d*p[2][1])
			}
		}
		from = p[g.Count-1]
	}
	return out
}
