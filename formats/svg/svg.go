// Package svg renders sheets as SVG. All texts are outlines, so that a file
// looks the same everywhere; each carries its text as a title for readers.
package svg

import (
	"bytes"
	"fmt"
	"html"
	"math"
	"strings"

	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/formats/lettering"
)

// Options says how a sheet is rendered. Verdicts marks the balloons; Values are
// written beside them. Live gives classes and ids for the interface instead of
// fixed colours.
type Options struct {
	Live     bool
	Handles  bool // every item names its mark and view, so that it can be taken hold of
	Verdicts map[string]report.Verdict
	Values   map[string]string
}

// Colours of a printed sheet and of the marks on it.
const (
	ink    = "#1d2a35"
	copper = "#9c4a1a"
	paper  = "#ffffff"
)

// Render writes a sheet as an SVG document of its true size.
func Render(d *sheet.Drawing, f *lettering.Font, o Options) []byte {
	var b bytes.Buffer
	w := writer{&b, f, o, d.Height}
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %s %s"`, n(d.Width), n(d.Height))
	if o.Live {
		fmt.Fprintf(&b, ` class="%s" role="img" aria-label="Sheet: %s"`, class(d), html.EscapeString(d.Title))
	} else {
		fmt.Fprintf(&b, ` width="%smm" height="%smm"`, n(d.Width), n(d.Height))
	}
	b.WriteString(">")
	if !o.Live {
		fmt.Fprintf(&b, `<title>%s</title>`, html.EscapeString(d.Title))
	}
	w.pages(d)
	if len(d.Pages) > 0 {
		w.set(d)
	} else {
		for _, it := range d.Items {
			w.item(it)
		}
		for _, m := range d.Marks {
			w.mark(m)
		}
	}
	b.WriteString("</svg>\n")
	return b.Bytes()
}

// set writes the items and marks of a set, a group for each sheet, which says where it lies: left, top, width and
// height.
func (w *writer) set(d *sheet.Drawing) {
	items, marks := d.Items, d.Marks
	for _, p := range d.Pages {
		fmt.Fprintf(w.b, `<g data-box="%s %s %s %s">`, n(p.At[0]), n(d.Height-p.At[1]-p.Height), n(p.Width),
			n(p.Height))
		for _, it := range items[:p.Items] {
			w.item(it)
		}
		for _, m := range marks[:p.Marks] {
			w.mark(m)
		}
		items, marks = items[p.Items:], marks[p.Marks:]
		w.b.WriteString("</g>")
	}
}

// class is that of a sheet on the screen, or of a set.
func class(d *sheet.Drawing) string {
	if len(d.Pages) > 0 {
		return "sheet sheet-set"
	}
	return "sheet"
}

// pages draws the paper of each sheet. On the screen a single one is the whole picture, whose ground is paper.
func (w *writer) pages(d *sheet.Drawing) {
	pages := d.Pages
	if len(pages) == 0 && !w.o.Live {
		pages = []sheet.Page{{Width: d.Width, Height: d.Height}}
	}
	for _, p := range pages {
		style := fmt.Sprintf(`fill="%s"`, paper)
		if w.o.Live {
			style = `class="s-paper"`
		}
		fmt.Fprintf(w.b, `<rect x="%s" y="%s" width="%s" height="%s" %s/>`, n(p.At[0]), n(d.Height-p.At[1]-p.Height),
			n(p.Width), n(p.Height), style)
	}
}

type writer struct {
	b      *bytes.Buffer
	font   *lettering.Font
	o      Options
	height float64
}

func n(v float64) string {
	s := fmt.Sprintf("%.3f", v)
	s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	if s == "-0" {
		return "0"
	}
	return s
}

func (w *writer) xy(p sheet.Point) string { return n(p[0]) + " " + n(w.height-p[1]) }

// attributes gives class and characteristic for the interface, or plain colours.
func (w *writer) attributes(it sheet.Item, fill bool) string {
	var s strings.Builder
	if w.o.Live {
		fmt.Fprintf(&s, ` class="s-%s"`, it.Class)
		if it.Characteristic != "" {
			fmt.Fprintf(&s, ` data-characteristic="%s"`, html.EscapeString(it.Characteristic))
		}
		s.WriteString(w.handles(it))
	}
	switch {
	case fill && w.o.Live:
		s.WriteString(` stroke="none"`)
	case fill:
		fmt.Fprintf(&s, ` fill="%s"`, ink)
	case w.o.Live:
		s.WriteString(` fill="none"`)
	default:
		fmt.Fprintf(&s, ` fill="none" stroke="%s"`, ink)
	}
	if !fill {
		fmt.Fprintf(&s, ` stroke-width="%s" stroke-linecap="round" stroke-linejoin="round"`, n(it.Width))
		if len(it.Dash) > 0 {
			var d []string
			for _, v := range it.Dash {
				d = append(d, n(v))
			}
			fmt.Fprintf(&s, ` stroke-dasharray="%s"`, strings.Join(d, " "))
		}
	}
	return s.String()
}

// handles names the mark and the view of an item.
func (w *writer) handles(it sheet.Item) string {
	var s strings.Builder
	if w.o.Handles && it.Mark != "" {
		fmt.Fprintf(&s, ` data-mark="%s"`, html.EscapeString(it.Mark))
	}
	if w.o.Handles && it.View != "" {
		fmt.Fprintf(&s, ` data-view="%s"`, html.EscapeString(it.View))
	}
	if w.o.Handles && len(it.Faces) > 0 {
		fmt.Fprintf(&s, ` data-faces="%s"`, strings.Trim(fmt.Sprint(it.Faces), "[]"))
	}
	return s.String()
}

func (w *writer) item(it sheet.Item) {
	switch it.Kind {
	case "run":
		fmt.Fprintf(w.b, `<path d="M%s"%s/>`, w.points(it.Points), w.attributes(it, false))
	case "fill":
		fmt.Fprintf(w.b, `<path d="M%sZ"%s/>`, w.points(it.Points), w.attributes(it, true))
	case "arc":
		w.arc(it)
	case "text":
		w.text(it)
	}
}

func (w *writer) points(p []sheet.Point) string {
	var s []string
	for _, q := range p {
		s = append(s, w.xy(q))
	}
	return strings.Join(s, "L")
}

func (w *writer) arc(it sheet.Item) {
	if math.Abs(it.Sweep) > 2*math.Pi-1e-6 {
		fmt.Fprintf(w.b, `<circle cx="%s" cy="%s" r="%s"%s/>`, n(it.Centre[0]), n(w.height-it.Centre[1]), n(it.Radius),
			w.attributes(it, false))
		return
	}
	at := func(t float64) sheet.Point {
		return sheet.Point{it.Centre[0] + it.Radius*math.Cos(t), it.Centre[1] + it.Radius*math.Sin(t)}
	}
	large, dir := 0, 0
	if math.Abs(it.Sweep) > math.Pi {
		large = 1
	}
	if it.Sweep < 0 {
		dir = 1
	}
	fmt.Fprintf(w.b, `<path d="M%sA%s %s 0 %d %d %s"%s/>`, w.xy(at(it.Start)), n(it.Radius), n(it.Radius), large, dir,
		w.xy(at(it.Start+it.Sweep)), w.attributes(it, false))
}

// outline writes the glyphs of a text as one path.
func (w *writer) outline(text string, at sheet.Point, height, turn float64) string {
	s, c := math.Sincos(turn)
	var b strings.Builder
	open := false
	for _, g := range w.font.Outline(text, height) {
		if g.Op == 'M' {
			if open {
				b.WriteByte('Z')
			}
			open = true
		}
		b.WriteByte(g.Op)
		for i := range g.Count {
			p := g.Points[i]
			if i > 0 {
				b.WriteByte(' ')
			}
			b.WriteString(w.xy(sheet.Point{at[0] + p[0]*c - p[1]*s, at[1] + p[0]*s + p[1]*c}))
		}
	}
	if open {
		b.WriteByte('Z')
	}
	return b.String()
}

func (w *writer) text(it sheet.Item) {
	at := it.Points[0]
	width := w.font.Width(it.Text, it.Height)
	back := map[string]float64{"middle": width / 2, "end": width}[it.Anchor]
	s, c := math.Sincos(it.Turn)
	at = sheet.Point{at[0] - back*c, at[1] - back*s}
	if it.Class == sheet.Dimension {
		// A blank behind the text keeps hatching and lines off it.
		const pad = 0.4
		corner := func(x, y float64) sheet.Point { return sheet.Point{at[0] + x*c - y*s, at[1] + x*s + y*c} }
		fill := ` fill="` + paper + `"`
		if w.o.Live {
			fill = ` class="s-blank"` + w.handles(it)
		}
		fmt.Fprintf(w.b, `<path d="M%sZ"%s/>`,
			w.points([]sheet.Point{corner(-pad, -pad), corner(width+pad, -pad), corner(width+pad, it.Height+pad),
				corner(-pad, it.Height+pad)}), fill)
	}
	fmt.Fprintf(w.b, `<path d="%s"%s><title>%s</title></path>`, w.outline(it.Text, at, it.Height, it.Turn),
		w.attributes(it, true), html.EscapeString(it.Text))
}

// VerdictPath is the outline of a verdict's shape around a balloon: in = ring,
// out = diamond, not found = open square, ask = triangle.
func VerdictPath(v report.Verdict, at sheet.Point, r float64) []sheet.Point {
	switch v {
	case report.Out:
		k := r * 1.45
		return []sheet.Point{{at[0], at[1] + k}, {at[0] + k, at[1]}, {at[0], at[1] - k}, {at[0] - k, at[1]}}
	case report.NotFound:
		k := r * 1.25
		return []sheet.Point{{at[0] - k, at[1] - k}, {at[0] + k, at[1] - k}, {at[0] + k, at[1] + k}, {at[0] - k, at[1] + k}}
	case report.Ask:
		k := r * 1.9
		return []sheet.Point{{at[0], at[1] + k}, {at[0] + k*0.9, at[1] - k*0.55}, {at[0] - k*0.9, at[1] - k*0.55}}
	}
	return nil
}

func (w *writer) mark(m sheet.Mark) {
	v, ok := w.o.Verdicts[m.Characteristic]
	if !ok {
		return
	}
	style := fmt.Sprintf(` fill="none" stroke="%s" stroke-width="0.6"`, copper)
	if w.o.Live {
		style = fmt.Sprintf(` class="s-verdict s-%s" fill="none" stroke-width="0.6" data-characteristic="%s"`,
			strings.ReplaceAll(string(v), " ", "-"), html.EscapeString(m.Characteristic))
	}
	if p := VerdictPath(v, m.At, m.Radius); p != nil {
		fmt.Fprintf(w.b, `<path d="M%sZ"%s><title>%s</title></path>`, w.points(p), style, v)
	} else {
		fmt.Fprintf(w.b, `<circle cx="%s" cy="%s" r="%s"%s><title>%s</title></circle>`, n(m.At[0]), n(w.height-m.At[1]),
			n(m.Radius+0.7), style, v)
	}
	if text := w.o.Values[m.Characteristic]; text != "" && v != report.In {
		at, h := m.ValueAt(), 3.0
		width := w.font.Width(text, h)
		colour := ` fill="` + copper + `"`
		blank := ` fill="` + paper + `"`
		if w.o.Live {
			colour = fmt.Sprintf(` class="s-value" data-characteristic="%s"`, html.EscapeString(m.Characteristic))
			blank = ` class="s-blank"`
		}
		fmt.Fprintf(w.b, `<path d="M%sZ"%s/>`,
			w.points([]sheet.Point{{at[0] - 0.4, at[1] - 0.5}, {at[0] + width + 0.4, at[1] - 0.5},
				{at[0] + width + 0.4, at[1] + h + 0.5}, {at[0] - 0.4, at[1] + h + 0.5}}), blank)
		fmt.Fprintf(w.b, `<path d="%s"%s><title>measured %s</title></path>`, w.outline(text, at, h, 0), colour,
			html.EscapeString(text))
	}
}
