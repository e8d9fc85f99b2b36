package sheet

import (
	"math"
	"slices"
)

// Page is where one sheet of a set lies in their common drawing: its lower left corner and its size. It has as many of
// the items, marks and spans of the drawing, which follow one another sheet by sheet.
type Page struct {
	Paper  string  `json:"paper"`
	At     Point   `json:"at"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	Items  int     `json:"items"`
	Marks  int     `json:"marks"`
	Spans  int     `json:"spans"`
}

// pageGap is the distance between sheets that are drawn together, in mm.
const pageGap = 12.0

// Stacked draws the sheets of a set together, one under the other from the first on: they are read like one, with the
// same balloons.
func Stacked(set []*Drawing) *Drawing {
	if len(set) == 1 {
		return set[0]
	}
	out := &Drawing{Title: set[0].Title, Paper: set[0].Paper, Handles: map[string]Handle{}}
	for _, d := range set {
		out.Width = math.Max(out.Width, d.Width)
		out.Height += d.Height + pageGap
	}
	out.Height -= pageGap
	foot := out.Height
	for _, d := range set {
		foot -= d.Height
		p := Page{Paper: d.Paper, At: Point{0, foot}, Width: d.Width, Height: d.Height, Items: len(d.Items),
			Marks: len(d.Marks), Spans: len(d.Spans)}
		moved := d.moved(p.At)
		out.Pages = append(out.Pages, p)
		out.Items, out.Marks = append(out.Items, moved.Items...), append(out.Marks, moved.Marks...)
		out.Spans = append(out.Spans, moved.Spans...)
		foot -= pageGap
	}
	return out
}

// Of is the drawing as one of an item of an assembly: its characteristics are called by the number of the item before
// their own ids.
func (d *Drawing) Of(item string) *Drawing {
	out := d.moved(Point{})
	under := func(id string) string {
		if id == "" {
			return ""
		}
		return item + "/" + id
	}
	for i := range out.Items {
		out.Items[i].Characteristic = under(out.Items[i].Characteristic)
	}
	for i := range out.Marks {
		out.Marks[i].Characteristic = under(out.Marks[i].Characteristic)
	}
	for i := range out.Spans {
		out.Spans[i].Characteristic = under(out.Spans[i].Characteristic)
	}
	return out
}

// Sheets are the sheets of a drawing, each by itself.
func (d *Drawing) Sheets() []*Drawing {
	if len(d.Pages) == 0 {
		return []*Drawing{d}
	}
	var out []*Drawing
	items, marks, spans := d.Items, d.Marks, d.Spans
	for _, p := range d.Pages {
		one := &Drawing{Title: d.Title, Paper: p.Paper, Width: p.Width, Height: p.Height, Items: items[:p.Items],
			Marks: marks[:p.Marks], Spans: spans[:p.Spans]}
		items, marks, spans = items[p.Items:], marks[p.Marks:], spans[p.Spans:]
		out = append(out, one.moved(p.At.scale(-1)))
	}
	return out
}

// moved is a drawing of the same items in another place.
func (d *Drawing) moved(by Point) *Drawing {
	out := *d
	out.Items, out.Marks, out.Spans = slices.Clone(d.Items), slices.Clone(d.Marks), slices.Clone(d.Spans)
	for i := range out.Items {
		it := &out.Items[i]
		points := it.Points
		it.Points, it.Centre = nil, it.Centre.add(by)
		for _, p := range points {
			it.Points = append(it.Points, p.add(by))
		}
	}
	for i := range out.Marks {
		m := &out.Marks[i]
		if m.At = m.At.add(by); m.Text != (Point{}) {
			m.Text = m.Text.add(by)
		}
	}
	for i := range out.Spans {
		s := &out.Spans[i]
		for _, p := range []*Point{&s.From, &s.To, &s.At, &s.Corner, &s.Text} {
			*p = p.add(by)
		}
	}
	return &out
}

// Of what is written in the filing margin, which is free on every sheet (ISO 5457: 20 mm wide), in mm.
const (
	signedText = 3.5
	signedAt   = 9.0  // of its foot from the left edge
	signedFoot = 20.0 // of its beginning from the lower edge
)

// Signed is the drawing with a text in the filing margin of every sheet, which is read from the right: whose it is.
func (d *Drawing) Signed(text string) *Drawing {
	out := *d
	write := func(at Point) Item {
		return Item{Class: Label, Kind: "text", Text: text, Points: []Point{at.add(Point{signedAt, signedFoot})},
			Height: signedText, Anchor: "start", Turn: math.Pi / 2}
	}
	if len(d.Pages) == 0 {
		out.Items = append(slices.Clone(d.Items), write(Point{}))
		return &out
	}
	out.Items, out.Pages = nil, slices.Clone(d.Pages)
	rest := d.Items
	for i := range out.Pages {
		p := &out.Pages[i]
		out.Items = append(append(out.Items, rest[:p.Items]...), write(p.At))
		rest = rest[p.Items:]
		p.Items++
	}
	return &out
}
