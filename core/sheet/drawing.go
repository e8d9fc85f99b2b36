// Package sheet draws the dimensioned sheet of an exercise from its reference:
// views with hidden lines, sections, dimensions, balloons and the title block, as
// neutral two-dimensional items. SVG and PDF are renderings of them.
//
// Paper coordinates are in millimetres from the lower left corner, y up.
package sheet

import "math"

// Point is a place on the paper.
type Point [2]float64

func (a Point) add(b Point) Point        { return Point{a[0] + b[0], a[1] + b[1]} }
func (a Point) sub(b Point) Point        { return Point{a[0] - b[0], a[1] - b[1]} }
func (a Point) scale(f float64) Point    { return Point{a[0] * f, a[1] * f} }
func (a Point) norm() float64            { return math.Hypot(a[0], a[1]) }
func (a Point) dot(b Point) float64      { return a[0]*b[0] + a[1]*b[1] }
func (a Point) distance(b Point) float64 { return a.sub(b).norm() }

// unit is the direction of a vector; a vector without length points to the
// right, so that a dimension of nothing is still drawn somewhere.
func (a Point) unit() Point {
	if n := a.norm(); n > 0 {
		return a.scale(1 / n)
	}
	return Point{1, 0}
}

// polar is the point at radius r and angle t in radians, counted from the right,
// counterclockwise.
func polar(r, t float64) Point { return Point{r * math.Cos(t), r * math.Sin(t)} }

// Class is what an item is, so that renderings can style it.
type Class string

// Classes of items.
const (
	Visible   Class = "visible"
	Hidden    Class = "hidden"
	Centre    Class = "centre"
	Hatch     Class = "hatch"
	Frame     Class = "frame"
	Thin      Class = "thin"
	Dimension Class = "dimension"
	Balloon   Class = "balloon"
	Label     Class = "label"
)

// Item is one piece of the drawing: a run of points, an arc, or a text.
type Item struct {
	Class  Class     `json:"class"`
	Kind   string    `json:"kind"` // run, arc, fill or text
	Points []Point   `json:"points,omitempty"`
	Centre Point     `json:"centre"`
	Radius float64   `json:"radius,omitempty"`
	Start  float64   `json:"start,omitempty"` // radians, counter-clockwise by Sweep
	Sweep  float64   `json:"sweep,omitempty"`
	Width  float64   `json:"width,omitempty"` // of the stroke, mm
	Dash   []float64 `json:"dash,omitempty"`
	Text   string    `json:"text,omitempty"`
	Height float64   `json:"height,omitempty"` // of the lettering, mm
	Turn   float64   `json:"turn,omitempty"`   // of the text, radians
	Anchor string    `json:"anchor,omitempty"` // start, middle or end
	// What it belongs to: a view, a mark of the sheet, a characteristic.
	View           string `json:"view,omitempty"`
	Mark           string `json:"mark,omitempty"`
	Characteristic string `json:"characteristic,omitempty"`
	Faces          []int  `json:"faces,omitempty"` // of the reference, of a curve of a view
}

// Mark is the place of a balloon, for marking it with a verdict.
type Mark struct {
	Characteristic string  `json:"characteristic"`
	Balloon        int     `json:"balloon"`
	At             Point   `json:"at"`
	Radius         float64 `json:"radius"`
	Text           Point   `json:"text"` // where the measured value is written; beside the balloon where it is zero
}

// ValueAt is where the measured value of a marked balloon is written: where the mark says, else
// below and to the right of its shape.
func (m Mark) ValueAt() Point {
	if m.Text != (Point{}) {
		return m.Text
	}
	return Point{m.At[0] + m.Radius + 1.2, m.At[1] - m.Radius - 3.2}
}

// Drawing is a finished sheet.
type Drawing struct {
	Title  string  `json:"title"`
	Paper  string  `json:"paper"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	Items  []Item  `json:"items"`
	// Handles says of the marks that have a line how they can be moved. They are of no use once the sheet is drawn.
	Handles map[string]Handle `json:"-"`
	Marks   []Mark            `json:"marks"`
	Spans   []Span            `json:"spans,omitempty"`
	// Pages are the sheets of a set that are drawn together, the first on top; nothing of a single one.
	Pages []Page `json:"pages,omitempty"`
}

// acrossCircle is the form of a diameter at a leader.
const acrossCircle = "diameter"

// Span is what a dimension is drawn between, for files in which a dimension is more than its lines. Form is linear,
// diameter or angle: from From to To along the line through At; across a circle between them; or at the corner Corner
// between them, on the arc through At. Text is where its text begins.
type Span struct {
	Form           string `json:"form"`
	Mark           string `json:"mark"`
	Characteristic string `json:"characteristic"` // empty of a size in parentheses
	From           Point  `json:"from"`
	To             Point  `json:"to"`
	At             Point  `json:"at"`
	Corner         Point  `json:"corner"`
	Text           Point  `json:"text"`
	Printed        string `json:"printed"`
}

// Handle is how a dimension is moved by hand: Along its line, on which its text is shifted by Shift, and Out, away from
// what it measures; both are of unit length, or nothing.
type Handle struct {
	Along, Out Point
	Shift      float64
}

// Metrics measures lettering: the width of a text of a given height in mm.
type Metrics interface {
	Width(text string, height float64) float64
}

// Extent is a rectangle on the paper.
type Extent struct{ Min, Max Point }

// Overlaps tells whether two rectangles share more than a hair.
func (e Extent) Overlaps(o Extent) bool {
	const hair = 0.05
	return e.Min[0] < o.Max[0]-hair && o.Min[0] < e.Max[0]-hair && e.Min[1] < o.Max[1]-hair && o.Min[1] < e.Max[1]-hair
}

// textExtent is the rectangle around a text: from its base line to the height of
// its capitals.
func textExtent(it Item, m Metrics) Extent {
	w := m.Width(it.Text, it.Height)
	x0 := 0.0
	switch it.Anchor {
	case "middle":
		x0 = -w / 2
	case "end":
		x0 = -w
	}
	s, c := math.Sincos(it.Turn)
	e := Extent{Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}}
	for _, p := range []Point{{x0, 0}, {x0 + w, 0}, {x0, it.Height}, {x0 + w, it.Height}} {
		q := it.Points[0].add(Point{p[0]*c - p[1]*s, p[0]*s + p[1]*c})
		for k := range 2 {
			e.Min[k], e.Max[k] = math.Min(e.Min[k], q[k]), math.Max(e.Max[k], q[k])
		}
	}
	return e
}
