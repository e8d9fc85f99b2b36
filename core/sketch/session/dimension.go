package session

import (
	"fmt"
	"math"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

// Sizes on the board are laid out as on a drawing, for the zoom as it is:
// lettering keeps its size on the screen. None lies on another, as far as there
// is room; sizes that a person has placed stay where they were put.

// SizeView is a size to be drawn: its lines, and its lettering at X, Y.
type SizeView struct {
	ID      string  `json:"id"`
	Kind    string  `json:"kind"`
	Text    string  `json:"text"`
	Formula string  `json:"formula"`
	X       float64 `json:"x"`
	Y       float64 `json:"y"`
	Path    string  `json:"path"`
	Driven  bool    `json:"driven,omitempty"`
	Quiet   bool    `json:"quiet,omitempty"`
	Bad     bool    `json:"bad,omitempty"`
}

// MarkView is the symbol of a constraint beside one of the things it is on.
type MarkView struct {
	ID      string  `json:"id"`
	Kind    string  `json:"kind"`
	X       float64 `json:"x"`
	Y       float64 `json:"y"`
	Guessed bool    `json:"guessed,omitempty"`
	Bad     bool    `json:"bad,omitempty"`
}

// Sizes of what is drawn, in pixels.
const (
	sizeAway   = 26.0 // of a size's line from what it measures
	sizeStep   = 17.0 // further out, where another stands already
	letterWide = 7.0
	letterHigh = 15.0
	arrowLong  = 8.0
	markAway   = 13.0
	markStep   = 15.0
)

// layout places lettering so that none lies on another.
type layout struct {
	s      *Session
	pixel  float64
	taken  [][4]float64 // x, y, half width, half height
	middle sketch.Vec
}

// free tells whether lettering fits at a place without lying on lettering that
// was put before. Boxes overlap when they do in both directions.
func (l *layout) free(p sketch.Vec, text string) bool {
	w, h := l.half(text)
	for _, t := range l.taken {
		if math.Abs(p.X-t[0]) < w+t[2] && math.Abs(p.Y-t[1]) < h+t[3] {
			return false
		}
	}
	return true
}

// half is half the width and height of a text on the screen, in millimetres:
// letters have a size in pixels that does not follow the zoom.
func (l *layout) half(text string) (w, h float64) {
	return (letterWide*float64(len([]rune(text)))/2 + 3) * l.pixel, letterHigh / 2 * l.pixel
}

// take keeps the place of a text for itself.
func (l *layout) take(p sketch.Vec, text string) {
	w, h := l.half(text)
	l.taken = append(l.taken, [4]float64{p.X, p.Y, w, h})
}

// sizes draws all sizes, and gives where their lettering stands.
func (s *Session) sizes(f *Frame, pixel float64) *layout {
	l := &layout{s: s, pixel: pixel}
	if lo, hi, ok := sketch.Bounds(s.sol.Curves, nil); ok {
		l.middle = lo.Midpoint(hi)
	}
	curve := map[string]*sketch.Curve{}
	for i := range s.sol.Curves {
		curve[s.sol.Curves[i].ID] = &s.sol.Curves[i]
	}
	bad := s.conflicting()
	// Sizes that a person has placed come first: the others keep clear of them.
	for _, placed := range []bool{true, false} {
		for i := range s.draft.Constraints {
			k := &s.draft.Constraints[i]
			dim, size := sketch.Sizes[k.Kind]
			if !size || (k.At != nil) != placed {
				continue
			}
			v := SizeView{ID: k.ID, Kind: k.Kind, Formula: k.Value, Driven: k.Driven, Quiet: k.Quiet, Bad: bad[k.ID],
				Text: s.lettering(k, dim)}
			if l.size(&v, k, curve) {
				f.Sizes = append(f.Sizes, v)
			}
		}
	}
	return l
}

// lettering is what stands at a size: its value, the formula before it where it
// is one, parentheses where it is measured.
//
// A formula is shown with its value, so that what drives a size can be seen; a
// driven size is in parentheses, as an auxiliary dimension (ISO 129-1).
func (s *Session) lettering(k *sketch.Constraint, dim quantity.Dim) string {
	v, ok := s.sol.Measures[k.ID]
	text := "?"
	if ok {
		text = s.number(quantity.Quantity{Value: v, Dim: dim})
	}
	if !k.Driven {
		if q, err := s.draft.Values.Eval(k.Value, dim); err == nil {
			text = s.number(quantity.Quantity{Value: q, Dim: dim})
		}
		if f, err := quantity.Parse(k.Value); err == nil && len(f.Names()) > 0 {
			text = k.Value + " = " + text
		}
	}
	switch k.Kind {
	case "radius":
		text = "R " + text
	case "diameter":
		text = "⌀ " + text
	}
	if k.Driven {
		text = "(" + text + ")"
	}
	return text
}

// where gives the place of an operand: a point, or the middle of a curve.
//
// Axes are lines without ends, of length one for their direction.
func (l *layout) where(id string, curve map[string]*sketch.Curve) (sketch.Vec, *sketch.Curve, bool) {
	switch id {
	case sketch.XAxis:
		return sketch.Vec{}, &sketch.Curve{Kind: sketch.KindLine, B: sketch.Vec{X: 1}}, true
	case sketch.YAxis:
		return sketch.Vec{}, &sketch.Curve{Kind: sketch.KindLine, B: sketch.Vec{Y: 1}}, true
	}
	if p, ok := l.s.sol.Points[id]; ok {
		return p, nil, true
	}
	if c := curve[id]; c != nil {
		lo, hi := c.Range()
		return c.Point((lo + hi) / 2), c, true
	}
	return sketch.Vec{}, nil, false
}

// foot is the point of an endless line nearest to p.
func foot(c *sketch.Curve, p sketch.Vec) sketch.Vec {
	u := c.B.Sub(c.A).Unit()
	return c.A.Add(u.Scale(p.Sub(c.A).Dot(u)))
}

// size lays one size out by its kind: its lines, arrows and the place of its
// lettering. It is false of a size on geometry that is not there, which a
// contradicting sketch can have for a moment.
//
// A distance to a line is drawn square to the line, from the foot of the other.
func (l *layout) size(v *SizeView, k *sketch.Constraint, curve map[string]*sketch.Curve) bool {
	a, ok := l.operand(k.Of[0], curve)
	if !ok {
		return false
	}
	var b operand
	if len(k.Of) > 1 {
		if b, ok = l.operand(k.Of[1], curve); !ok {
			return false
		}
	}
	switch k.Kind {
	case "length":
		if !a.line() {
			l.around(v, k, a.curve)
			return true
		}
		l.linear(v, k, a.curve.A, a.curve.B, a.curve.B.Sub(a.curve.A).Unit())
	case "horizontal-distance", "vertical-distance":
		from, to := a.at, b.at
		if len(k.Of) == 1 && a.line() {
			from, to = a.curve.A, a.curve.B
		}
		dir := sketch.Vec{X: 1}
		if k.Kind == "vertical-distance" {
			dir = sketch.Vec{Y: 1}
		}
		l.linear(v, k, from, to, dir)
	case "distance":
		if a.line() && b.line() && strings.HasSuffix(k.Of[0], "-axis") || a.line() && !b.line() {
			a, b = b, a
		}
		from, to := between(a, b)
		l.linear(v, k, from, to, to.Sub(from).Unit())
	case "radius", "diameter":
		if !a.round() {
			return false
		}
		l.round(v, k, a.curve)
	case "angle":
		if len(k.Of) == 1 && a.round() {
			lo, hi := a.curve.Range()
			l.angle(v, k, a.curve.Center, lo, hi, a.curve.Radius)
			return true
		}
		if !a.line() || !b.line() {
			return false
		}
		l.corner(v, k, a.curve, b.curve)
	}
	return true
}

// operand is what a size is put on: a point, or a curve with a place of it.
type operand struct {
	at    sketch.Vec
	curve *sketch.Curve // nil of a point
}

// operand is what a size is measured on: a place, and the curve that it is on,
// if any.
//
// Where the curve is missing it is a point.
func (l *layout) operand(id string, curve map[string]*sketch.Curve) (operand, bool) {
	at, c, ok := l.where(id, curve)
	return operand{at, c}, ok
}

func (o operand) line() bool  { return o.curve != nil && o.curve.Kind == sketch.KindLine }
func (o operand) round() bool { return o.curve != nil && o.curve.Kind != sketch.KindLine }

// rim is the place of a round curve in the direction of a place.
func (o operand) rim(towards sketch.Vec) sketch.Vec {
	return o.curve.Center.Add(towards.Sub(o.curve.Center).Unit().Scale(o.curve.Radius))
}

// between gives the two places that a distance is shown between. Of a line and something else the
// line is the second.
//
// Of two circles the distance is between the rims, along the line of their
// centres.
func between(a, b operand) (from, to sketch.Vec) {
	switch {
	case a.round() && b.line():
		to = foot(b.curve, a.curve.Center)
		return a.rim(to), to
	case b.line():
		return a.at, foot(b.curve, a.at)
	case a.round() && b.round():
		return rims(a.curve, b.curve)
	case b.round():
		a, b = b, a
	}
	if a.round() {
		return a.rim(b.at), b.at
	}
	return a.at, b.at
}

// rims gives the nearest places of two round curves, on the line through their centres: facing one
// another, or on one side where one lies within the other.
func rims(c, d *sketch.Curve) (from, to sketch.Vec) {
	u := d.Center.Sub(c.Center)
	if u.Norm() >= math.Max(c.Radius, d.Radius) {
		u = u.Unit()
		return c.Center.Add(u.Scale(c.Radius)), d.Center.Sub(u.Scale(d.Radius))
	}
	if u.Norm() < 1e-9 {
		u = sketch.Vec{X: 1}
	}
	u = u.Unit()
	if c.Radius < d.Radius {
		c, d, u = d, c, u.Scale(-1)
	}
	return c.Center.Add(u.Scale(c.Radius)), d.Center.Add(u.Scale(d.Radius))
}

// linear draws a size between two points, measured along dir: two extension
// lines, and a line with arrows at a distance.
func (l *layout) linear(v *SizeView, k *sketch.Constraint, a, b, dir sketch.Vec) {
	n := dir.Left()
	mid := a.Midpoint(b)
	if n.Dot(mid.Sub(l.middle)) < 0 {
		n = n.Scale(-1)
	}
	text := mid
	if k.At != nil {
		text = mid.Add(sketch.Vec{X: k.At[0], Y: k.At[1]}.Scale(l.s.unit.Factor))
	} else {
		// Beyond both points, along the normal.
		top := math.Max(n.Dot(a.Sub(mid)), n.Dot(b.Sub(mid)))
		w, _ := l.half(v.Text) // lettering is level: beside an upright line it needs its width
		for step := 0.0; step < 9; step++ {
			text = mid.Add(n.Scale(top + math.Abs(n.X)*math.Max(0, w-10*l.pixel) + (sizeAway+step*sizeStep)*l.pixel))
			if l.free(text, v.Text) {
				break
			}
		}
	}
	l.take(text, v.Text)
	p, q := text.Add(dir.Scale(a.Sub(text).Dot(dir))), text.Add(dir.Scale(b.Sub(text).Dot(dir)))
	var w strings.Builder
	for _, e := range [][2]sketch.Vec{{a, p}, {b, q}} {
		if u := e[1].Sub(e[0]); u.Norm() > 3*l.pixel {
			fmt.Fprintf(&w, "M%sL%s", xy(e[0].Add(u.Unit().Scale(2*l.pixel))), xy(e[1].Add(u.Unit().Scale(4*l.pixel))))
		}
	}
	l.dimensionLine(&w, p, q, text, v.Text)
	v.Path = w.String()
	at := flip(text)
	v.X, v.Y = at.X, at.Y
}

// gap is how far a line that runs along u stays clear of the middle of lettering.
func (l *layout) gap(u sketch.Vec, text string) float64 {
	w, h := l.half(text)
	if math.Abs(u.X)*h > math.Abs(u.Y)*w {
		return w / math.Abs(u.X)
	}
	return h / math.Abs(u.Y)
}

// dimensionLine draws the line with its arrows, from outside where there is no
// room, broken where the lettering stands or on to it.
func (l *layout) dimensionLine(w *strings.Builder, p, q, text sketch.Vec, lettering string) {
	u := q.Sub(p)
	length := u.Norm()
	if length < 1e-9 {
		return
	}
	inside := length > 3*arrowLong*l.pixel
	u = u.Unit()
	at, clear := text.Sub(p).Dot(u), l.gap(u, lettering)
	piece := func(from, to float64) {
		if to > from {
			fmt.Fprintf(w, "M%sL%s", xy(p.Add(u.Scale(from))), xy(p.Add(u.Scale(to))))
		}
	}
	lo, hi := 0.0, length
	if !inside {
		lo, hi = -2*arrowLong*l.pixel, length+2*arrowLong*l.pixel
	}
	lo, hi = math.Min(lo, at+clear), math.Max(hi, at-clear)
	piece(lo, math.Min(hi, at-clear))
	piece(math.Max(lo, at+clear), hi)
	if !inside {
		u = u.Scale(-1)
	}
	l.arrow(w, p, u.Scale(-1))
	l.arrow(w, q, u)
}

// arrow draws an arrowhead whose tip is at p and points along u.
func (l *layout) arrow(w *strings.Builder, p, u sketch.Vec) {
	n := u.Left().Scale(2.6 * l.pixel)
	back := p.Sub(u.Scale(arrowLong * l.pixel))
	fmt.Fprintf(w, "M%sL%sL%s", xy(back.Add(n)), xy(p), xy(back.Sub(n)))
}

// round draws a radius from the rim outwards, or a diameter across.
func (l *layout) round(v *SizeView, k *sketch.Constraint, c *sketch.Curve) {
	lo, hi := c.Range()
	text := sketch.Vec{}
	if k.At != nil {
		text = c.Center.Add(sketch.Vec{X: k.At[0], Y: k.At[1]}.Scale(l.s.unit.Factor))
	} else {
		turns := []float64{0.25, 0.4, 0.1, 0.6, 0.8, 0.5}
		base, span := lo, hi-lo
		if c.Closed() {
			base, span = 0, math.Pi
		} else {
			turns = []float64{0.5, 0.35, 0.65, 0.2, 0.8}
		}
	search:
		for step := 0.0; step < 10; step++ {
			for _, t := range turns {
				w, _ := l.half(v.Text)
				text = c.Center.Polar(c.Radius+(16+step*14)*l.pixel+w*0.8, base+span*t)
				if l.free(text, v.Text) {
					break search
				}
			}
		}
	}
	l.take(text, v.Text)
	u := text.Sub(c.Center).Unit()
	lettering := text
	text = text.Sub(u.Scale(math.Min(l.gap(u, v.Text), 0.9*text.Distance(c.Center)))) // where the line ends
	var w strings.Builder
	rim := c.Center.Add(u.Scale(c.Radius))
	if k.Kind == "diameter" {
		far := c.Center.Sub(u.Scale(c.Radius))
		fmt.Fprintf(&w, "M%sL%s", xy(far), xy(rim))
		l.arrow(&w, far, u.Scale(-1))
		l.arrow(&w, rim, u)
		fmt.Fprintf(&w, "M%sL%s", xy(rim), xy(text))
	} else {
		from := rim
		if text.Distance(c.Center) < c.Radius {
			from = c.Center
		}
		fmt.Fprintf(&w, "M%sL%s", xy(from), xy(text))
		if from == rim {
			l.arrow(&w, rim, u.Scale(-1))
		} else {
			fmt.Fprintf(&w, "M%sL%s", xy(text), xy(rim))
			l.arrow(&w, rim, u)
		}
	}
	v.Path = w.String()
	at := flip(lettering)
	v.X, v.Y = at.X, at.Y
}

// corner draws the angle between two lines about the place where they meet.
func (l *layout) corner(v *SizeView, k *sketch.Constraint, c, d *sketch.Curve) {
	u, w := c.B.Sub(c.A), d.B.Sub(d.A)
	den := u.Cross(w)
	apex := c.A
	if math.Abs(den) > 1e-9*u.Norm()*w.Norm() {
		apex = c.A.Add(u.Scale(d.A.Sub(c.A).Cross(w) / den))
	}
	lo := sketch.Vec{}.AngleTo(u)
	turn := math.Atan2(u.Cross(w), u.Dot(w))
	hi := lo + turn
	if turn < 0 {
		lo, hi = hi, lo
	}
	l.angle(v, k, apex, lo, hi, 0)
}

// angle draws the size of an angle as an arc about the apex from lo to hi, in
// radians, outside of radius r. Its lettering moves outwards in steps until
// nothing is in its way; a place that a person has given is kept as it is.
func (l *layout) angle(v *SizeView, k *sketch.Constraint, apex sketch.Vec, lo, hi, r float64) {
	mid := (lo + hi) / 2
	text := sketch.Vec{}
	if k.At != nil {
		text = apex.Add(sketch.Vec{X: k.At[0], Y: k.At[1]}.Scale(l.s.unit.Factor))
	} else {
		for step := 0.0; step < 9; step++ {
			text = apex.Polar(r+(42+step*sizeStep)*l.pixel, mid)
			if l.free(text, v.Text) {
				break
			}
		}
	}
	l.take(text, v.Text)
	radius := text.Distance(apex)
	arc := sketch.Curve{Kind: sketch.KindArc, Center: apex, Radius: radius}
	var w strings.Builder
	path(&w, &arc, lo, hi, true, true, l.pixel)
	for _, e := range []struct{ t, sign float64 }{{lo, -1}, {hi, 1}} {
		p := apex.Polar(radius, e.t)
		l.arrow(&w, p, apex.Polar(1, e.t+e.sign*math.Pi/2).Sub(apex))
		fmt.Fprintf(&w, "M%sL%s", xy(apex.Polar(math.Min(radius, r+4*l.pixel), e.t)), xy(apex.Polar(radius+4*l.pixel, e.t)))
	}
	v.Path = w.String()
	at := flip(text)
	v.X, v.Y = at.X, at.Y
}

// around draws the length of an arc beside it.
func (l *layout) around(v *SizeView, k *sketch.Constraint, c *sketch.Curve) {
	lo, hi := c.Range()
	l.angle(v, k, c.Center, lo, hi, c.Radius-20*l.pixel)
}

// marks draws the symbols of constraints beside what they are on, clear of the
// lettering and of one another where there is room.
func (s *Session) marks(f *Frame, l *layout, pixel float64) {
	curve := map[string]*sketch.Curve{}
	for i := range s.sol.Curves {
		curve[s.sol.Curves[i].ID] = &s.sol.Curves[i]
	}
	bad := s.conflicting()
	for _, k := range s.draft.Constraints {
		if _, size := sketch.Sizes[k.Kind]; size {
			continue
		}
		for i, id := range k.Of {
			if k.Kind == "coincident" && i > 0 || strings.HasSuffix(id, "-axis") || id == sketch.Origin &&
				k.Kind != "coincident" {
				continue
			}
			var at, t, n sketch.Vec
			if p, ok := s.sol.Points[id]; ok {
				at, t, n = p, sketch.Vec{X: 1}, sketch.Vec{X: 0.7, Y: 0.7}
			} else if c := curve[id]; c != nil {
				lo, hi := c.Range()
				m := (lo + hi) / 2
				if c.Closed() {
					m = lo + math.Pi*0.8
				}
				at, t = c.Point(m), c.Tangent(m).Unit()
				n = t.Left()
			} else {
				continue
			}
			var p sketch.Vec
			for slot := 0.0; slot < 9; slot++ { // 0, 1, -1, 2, -2, ... along the curve
				step := math.Ceil(slot/2) * (1 - 2*math.Mod(slot+1, 2))
				p = at.Add(n.Scale(markAway * pixel)).Add(t.Scale(step * markStep * pixel))
				if l.free(p, "m") {
					break
				}
			}
			l.take(p, "m")
			p = flip(p)
			f.Marks = append(f.Marks, MarkView{ID: k.ID, Kind: k.Kind, X: p.X, Y: p.Y, Guessed: k.Guessed, Bad: bad[k.ID]})
		}
	}
}
