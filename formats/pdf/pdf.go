// Package pdf renders sheets and returned sheets as PDF: vector drawings in true
// scale.
package pdf

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"codeberg.org/go-pdf/fpdf"

	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/formats/lettering"
	"hammerset/formats/svg"
)

// Return is what goes back to a student beside the marked sheet.
type Return struct {
	Student string
	Attempt int
	Date    time.Time
	Comment string
	Report  *report.Report
	Marks   []report.Mark // as a person decided
	Points  float64
	OutOf   float64
	Changes []report.Change
}

type page struct {
	*fpdf.Fpdf
	font   *lettering.Font
	height float64
}

// lettering name in the file
const face = "osifont"

func document(title string) *fpdf.Fpdf {
	p := fpdf.New("L", "mm", "A4", "")
	p.SetTitle(title, true)
	p.SetCreator("Hammerset", true)
	p.SetAutoPageBreak(false, 0)
	p.SetMargins(0, 0, 0)
	p.AddUTF8FontFromBytes(face, "", lettering.TTF)
	return p
}

// Sheet writes each sheet of a drawing on a page of its own size.
func Sheet(d *sheet.Drawing, f *lettering.Font) ([]byte, error) {
	p := &page{Fpdf: document(d.Title), font: f}
	for _, s := range d.Sheets() {
		p.sheet(s)
	}
	return finish(p)
}

// Returned writes the marked sheets and, on pages of A4, findings and marks.
func Returned(d *sheet.Drawing, f *lettering.Font, r Return) ([]byte, error) {
	p := &page{Fpdf: document(d.Title + " – " + r.Student), font: f}
	for _, s := range d.Sheets() {
		p.sheet(s)
		p.marks(s, r.Report)
	}
	p.words(d, r)
	return finish(p)
}

func finish(p *page) ([]byte, error) {
	var b bytes.Buffer
	if err := p.Output(&b); err != nil {
		return nil, fmt.Errorf("pdf: %w", err)
	}
	return b.Bytes(), nil
}

func (p *page) ink() {
	p.SetDrawColor(29, 42, 53)
	p.SetFillColor(29, 42, 53)
	p.SetTextColor(29, 42, 53)
}
func (p *page) copper() {
	p.SetDrawColor(156, 74, 26)
	p.SetFillColor(156, 74, 26)
	p.SetTextColor(156, 74, 26)
}

func (p *page) sheet(d *sheet.Drawing) {
	p.height = d.Height
	p.AddPageFormat("P", fpdf.SizeType{Wd: d.Width, Ht: d.Height})
	p.SetLineCapStyle("round")
	p.SetLineJoinStyle("round")
	p.ink()
	for _, it := range d.Items {
		p.item(it)
	}
}

func (p *page) y(v float64) float64 { return p.height - v }

func (p *page) polygon(pts []sheet.Point, style string) {
	var out []fpdf.PointType
	for _, q := range pts {
		out = append(out, fpdf.PointType{X: q[0], Y: p.y(q[1])})
	}
	p.Polygon(out, style)
}

func (p *page) item(it sheet.Item) {
	p.SetLineWidth(it.Width)
	p.SetDashPattern(it.Dash, 0)
	switch it.Kind {
	case "run":
		p.MoveTo(it.Points[0][0], p.y(it.Points[0][1]))
		for _, q := range it.Points[1:] {
			p.LineTo(q[0], p.y(q[1]))
		}
		p.DrawPath("D")
	case "fill":
		p.polygon(it.Points, "F")
	case "arc":
		p.arc(it)
	case "text":
		p.lettering(it)
	}
}

// arc draws Bézier pieces of at most 45 degrees; the error is below 1e-5 of the
// radius (Riškus 2006).
func (p *page) arc(it sheet.Item) {
	n := int(math.Ceil(math.Abs(it.Sweep) / (math.Pi / 4)))
	step := it.Sweep / float64(max(n, 1))
	k := 4.0 / 3 * math.Tan(step/4) * it.Radius
	at := func(t float64) (x, y, dx, dy float64) {
		s, c := math.Sincos(t)
		return it.Centre[0] + it.Radius*c, it.Centre[1] + it.Radius*s, -s, c
	}
	x, y, dx, dy := at(it.Start)
	p.MoveTo(x, p.y(y))
	for i := 1; i <= n; i++ {
		x1, y1, dx1, dy1 := at(it.Start + step*float64(i))
		p.CurveBezierCubicTo(x+k*dx, p.y(y+k*dy), x1-k*dx1, p.y(y1-k*dy1), x1, p.y(y1))
		x, y, dx, dy = x1, y1, dx1, dy1
	}
	p.DrawPath("D")
}

// put writes a text with its base line at the given place (y down).
func (p *page) put(text string, x, y, height, turn float64) {
	p.SetFont(face, "", height/p.font.CapRatio()*72/25.4)
	if turn != 0 {
		p.TransformBegin()
		p.TransformRotate(turn*180/math.Pi, x, y)
		defer p.TransformEnd()
	}
	piece := ""
	set := func() {
		if piece != "" {
			p.Text(x, y, piece)
			x += p.font.Width(piece, height)
			piece = ""
		}
	}
	for _, r := range p.font.Written(text) {
		runs, w, ok := lettering.Sign(r)
		if !ok {
			piece += string(r)
			continue
		}
		set()
		for _, run := range runs {
			var shape []fpdf.PointType
			for _, q := range run {
				shape = append(shape, fpdf.PointType{X: x + q[0]*height, Y: y - q[1]*height})
			}
			p.Polygon(shape, "F")
		}
		x += w * height
	}
	set()
}

func (p *page) lettering(it sheet.Item) {
	w := p.font.Width(it.Text, it.Height)
	back := map[string]float64{"middle": w / 2, "end": w}[it.Anchor]
	s, c := math.Sincos(it.Turn)
	at := sheet.Point{it.Points[0][0] - back*c, it.Points[0][1] - back*s}
	if it.Class == sheet.Dimension {
		const pad = 0.4
		corner := func(x, y float64) sheet.Point { return sheet.Point{at[0] + x*c - y*s, at[1] + x*s + y*c} }
		p.SetFillColor(255, 255, 255)
		p.polygon([]sheet.Point{corner(-pad, -pad), corner(w+pad, -pad), corner(w+pad, it.Height+pad),
			corner(-pad, it.Height+pad)}, "F")
		p.ink()
	}
	p.put(it.Text, at[0], p.y(at[1]), it.Height, it.Turn)
}

// marks draws the verdict shapes and measured values over the sheet.
func (p *page) marks(d *sheet.Drawing, r *report.Report) {
	p.SetDashPattern(nil, 0)
	p.copper()
	p.SetLineWidth(0.6)
	byID := map[string]report.Characteristic{}
	for _, c := range r.Characteristics {
		byID[c.ID] = c
	}
	for _, m := range d.Marks {
		c, ok := byID[m.Characteristic]
		if !ok {
			continue
		}
		if pts := svg.VerdictPath(c.Verdict, m.At, m.Radius); pts != nil {
			p.polygon(pts, "D")
		} else {
			p.Circle(m.At[0], p.y(m.At[1]), m.Radius+0.7, "D")
		}
		if c.Verdict != report.In {
			at := m.ValueAt()
			text := ValueText(c)
			w := p.font.Width(text, 3)
			p.SetFillColor(255, 255, 255)
			p.polygon([]sheet.Point{{at[0] - 0.4, at[1] - 0.5}, {at[0] + w + 0.4, at[1] - 0.5}, {at[0] + w + 0.4, at[1] + 3.5},
				{at[0] - 0.4, at[1] + 3.5}}, "F")
			p.copper()
			p.put(text, at[0], p.y(at[1]), 3, 0)
		}
	}
	p.ink()
}

// ValueText is what is written beside a marked balloon: what was measured, if only at some of the places.
func ValueText(c report.Characteristic) string {
	if c.MeasuredText == "" {
		return string(c.Verdict)
	}
	return c.MeasuredText
}

// words writes findings, marks and changes on pages of A4 upright.
func (p *page) words(d *sheet.Drawing, r Return) {
	const left, right, bottom = 20.0, 190.0, 280.0
	y := 0.0
	fresh := func() {
		p.AddPageFormat("P", fpdf.SizeType{Wd: 210, Ht: 297})
		y = 25
	}
	line := func(text string, size, indent float64) {
		for _, part := range wrap(p.font, text, size, right-left-indent) {
			if y > bottom {
				fresh()
			}
			p.put(part, left+indent, y, size, 0)
			y += size * 1.75
		}
	}
	heading := func(s string) {
		y += 3
		if y > bottom-15 {
			fresh()
		}
		p.copper()
		line(s, 3.5, 0)
		p.ink()
	}
	fresh()
	line(d.Title, 5, 0)
	line(fmt.Sprintf("%s, attempt %d, returned %s", r.Student, r.Attempt, r.Date.Format("2 January 2006")), 3, 0)
	y += 3
	line(fmt.Sprintf("%s of %s points", quantity.FormatPoints(r.Points), quantity.FormatPoints(r.OutOf)), 4, 0)
	if r.Comment != "" {
		heading("From your instructor")
		line(r.Comment, 2.8, 0)
	}
	heading("Marks")
	for _, m := range r.Marks {
		line(fmt.Sprintf("%s: %s of %s – %s", m.Label, quantity.FormatPoints(m.Points), quantity.FormatPoints(m.OutOf),
			m.Reason), 2.8, 0)
	}
	heading("What to put right")
	if len(r.Report.Findings) == 0 {
		said := "Nothing: the model agrees with the sheet."
		if slices.ContainsFunc(r.Report.Whole, func(f report.Figure) bool { return f.Verdict == report.Out }) {
			said = "Nothing that the sheet states, but figures of the whole part are out: something that has no balloon differs."
		}
		line(said, 2.8, 0)
	}
	for _, f := range r.Report.Findings {
		where := f.Where
		if r, n := utf8.DecodeRuneInString(where); n > 0 {
			where = string(unicode.ToUpper(r)) + where[n:]
		}
		if f.Balloon > 0 {
			where = fmt.Sprintf("Balloon %d, %s", f.Balloon, f.Where)
		}
		line(where+": "+f.What+".", 2.8, 0)
		if f.Cause != "" {
			line(f.Label()+": "+f.Cause+".", 2.5, 5)
		}
		line("To do: "+f.Remedy+".", 2.5, 5)
		y += 1
	}
	if len(r.Changes) > 0 {
		heading("Since the last attempt")
		for _, c := range r.Changes {
			line(fmt.Sprintf("Balloon %d, %s: %s – was %s, now %s", c.Balloon, c.Label, c.Kind, c.Before, c.After), 2.8, 0)
		}
	}
}

// wrap breaks a text into lines of at most the given width, and at line breaks.
func wrap(f *lettering.Font, text string, size, width float64) []string {
	var out []string
	for _, paragraph := range strings.Split(f.Written(text), "\n") {
		cur := ""
		for _, word := range strings.Fields(paragraph) {
			// longer than a line
			for cut := longest(f, word, size, width); cut < len(word); cut = longest(f, word, size, width) {
				if cur != "" {
					out = append(out, cur)
					cur = ""
				}
				out = append(out, word[:cut])
				word = word[cut:]
			}
			next := word
			if cur != "" {
				next = cur + " " + next
			}
			if cur != "" && f.Width(next, size) > width {
				out = append(out, cur)
				next = word
			}
			cur = next
		}
		out = append(out, cur)
	}
	return out
}

// longest is how many bytes of a word go on one line.
func longest(f *lettering.Font, word string, size, width float64) int {
	if f.Width(word, size) <= width {
		return len(word)
	}
	for i := range word {
		_, n := utf8.DecodeRuneInString(word[i:])
		if f.Width(word[:i+n], size) > width && i > 0 {
			return i
		}
	}
	return len(word)
}
