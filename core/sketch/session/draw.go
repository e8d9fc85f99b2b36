package session

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
	"hammerset/core/sketch/edit"
)

// Drawing by hand: each place goes to what it is near, and what that says
// becomes a constraint when it adds something. Reaches are in pixels, since a
// hand is as exact as the screen shows it; places are in millimetres.

// Tool is something that is drawn by giving places.
type Tool struct {
	ID     string   `json:"id"`
	Name   string   `json:"name"`
	Places []string `json:"places"` // what each place is
	Open   bool     `json:"open"`   // takes as many places as wanted, ended by Enter
	Chain  bool     `json:"chain"`  // goes on from its last place
}

// Tools lists what can be drawn.
//
// The words of places are asked one after the other while drawing.
func Tools() []Tool {
	return []Tool{
		{ID: "line", Name: "Line", Places: []string{"the start", "the end"}, Chain: true},
		{ID: "arc", Name: "Arc about a centre", Places: []string{"the centre", "the start", "the end"}},
		{ID: "arc-through", Name: "Arc through a place", Places: []string{"the start", "the end", "a place on it"}},
		{ID: "circle", Name: "Circle", Places: []string{"the centre", "a place on it"}},
		{ID: "rectangle", Name: "Rectangle from a corner", Places: []string{"a corner", "the opposite corner"}},
		{ID: "rectangle-centre", Name: "Rectangle about a centre", Places: []string{"the centre", "a corner"}},
		{ID: "polygon", Name: "Regular polygon by its corners", Places: []string{"the centre", "a corner"}},
		{ID: "polygon-flats", Name: "Regular polygon by its flats", Places: []string{"the centre", "the middle of a side"}},
		{ID: "slot", Name: "Slot", Places: []string{"the centre of one end", "the centre of the other",
			"a place on its edge"}},
		{ID: "curved-slot", Name: "Curved slot", Places: []string{"the centre of the curve", "the centre of one end",
			"the centre of the other", "a place on its edge"}},
		{ID: "ellipse", Name: "Ellipse", Places: []string{"the centre", "the end of a half axis", "a place at its width"}},
		{ID: "spline", Name: "Spline through points", Places: []string{"a point"}, Open: true},
		{ID: "spline-poles", Name: "Spline by its poles", Places: []string{"a pole"}, Open: true},
		{ID: "point", Name: "Point", Places: []string{"the point"}},
	}
}

// Place is a place for drawing, on the screen, with what it is taken to be on.
type Place struct {
	X       float64 `json:"x"`
	Y       float64 `json:"y"`
	Point   string  `json:"point,omitempty"` // an existing point to go on from
	Guesses []Guess `json:"guesses,omitempty"`
	// What was typed: the place across and up from the origin, or how long (or wide) the curve
	// is. It becomes sizes of what is drawn.
	Across string `json:"across,omitempty"`
	Up     string `json:"up,omitempty"`
	Long   string `json:"long,omitempty"`
}

// Guess is a constraint that the drawing suggests. Whole is set when it is on the
// curve drawn and not on the place.
type Guess struct {
	Kind  string   `json:"kind"`
	With  []string `json:"with,omitempty"`
	Whole bool     `json:"whole,omitempty"`
	Words string   `json:"words"`
}

// Preview shows what a tool would draw with one more place.
type Preview struct {
	Place Place  `json:"place"`
	Path  string `json:"path"`
	Text  string `json:"text"` // the size of what would be drawn
	Ask   string `json:"ask"`  // what the next place is
}

// Reaches of guessing, in pixels, and how far a line may be off level (radians).
const (
	reachPoint = 10.0
	reachCurve = 7.0
	offLevel   = 3.5 * math.Pi / 180
)

// at is the place in the plane, with y upwards; places come from the screen,
// where y points down.
//
// It is turned over once, here and in put, so that no other code has to know.
func (p Place) at() sketch.Vec { return sketch.Vec{X: p.X, Y: -p.Y} }

// put moves the place, given with y upwards.
func (p *Place) put(v sketch.Vec) { p.X, p.Y = v.X, -v.Y }

// snap takes a place to what it is near. own are points not to snap to.
//
// A point wins over the middle of a line, and that over the line: what is
// smaller is harder to hit and more likely meant. Of two points at one place the
// one with the earlier id is taken, so that the same move always gives the same
// sketch.
func (s *Session) snap(at sketch.Vec, pixel float64) Place {
	var out Place
	out.put(at)
	best := reachPoint * pixel
	for id, p := range s.sol.Points {
		if d := p.Distance(at); d < best || d == best && len(out.Guesses) > 0 && id < out.Guesses[0].With[0] {
			best = d
			out.put(p)
			out.Guesses = []Guess{{Kind: "coincident", With: []string{id}, Words: "on " + s.call(id)}}
		}
	}
	if len(out.Guesses) > 0 {
		return out
	}
	for _, c := range s.sol.Curves {
		if c.Kind != sketch.KindLine {
			continue
		}
		if m := c.A.Midpoint(c.B); m.Distance(at) < best {
			best = m.Distance(at)
			out.put(m)
			out.Guesses = []Guess{{Kind: "midpoint", With: []string{c.ID}, Words: "in the middle of " + s.call(c.ID)}}
		}
	}
	if len(out.Guesses) > 0 {
		return out
	}
	near := s.near(at, pixel)
	switch len(near) {
	case 0:
	case 1:
		_, q := near[0].Nearest(at)
		out.put(q)
		out.Guesses = []Guess{{Kind: "on-curve", With: []string{near[0].ID}, Words: "on " + s.call(near[0].ID)}}
	default:
		_, q := near[0].Nearest(at)
		reach := reachPoint * pixel
		out.Guesses = []Guess{{Kind: "on-curve", With: []string{near[0].ID}, Words: "on " + s.call(near[0].ID)}}
		for _, x := range sketch.Crossings([]sketch.Curve{near[0], near[1]}, 0, false) {
			if d := x.At.Distance(at); d < reach {
				reach, q = d, x.At
				out.Guesses = append(out.Guesses[:1], Guess{Kind: "on-curve", With: []string{near[1].ID}, Words: "on " +
					s.call(near[1].ID)})
			}
		}
		out.put(q)
	}
	return out
}

// names are what the geometry is called, worked out once for each solution: a hand that moves asks for them
// many times a second.
func (s *Session) names() *called.Names {
	if s.called == nil || s.calledIn != s.sol {
		s.called, s.calledIn = called.Geometry(s.draft.Sketch, s.sol), s.sol
	}
	return s.called
}

// call says what a curve, point or axis is called for people.
func (s *Session) call(id string) string { return s.names().Of(id) }

// near lists the curves near a place, the nearest first; the axes come last.
//
// The axes come last because every sketch has them: a line drawn on one is meant
// before the axis under it. They are lines of ten times the sketch's size.
func (s *Session) near(at sketch.Vec, pixel float64) []sketch.Curve {
	type found struct {
		c sketch.Curve
		d float64
	}
	var list []found
	far := 10 * (s.sol.System().Scale() + at.Norm())
	for _, c := range append(append([]sketch.Curve(nil), s.sol.Curves...),
		sketch.Curve{ID: sketch.XAxis, Kind: sketch.KindLine, A: sketch.Vec{X: -far}, B: sketch.Vec{X: far}},
		sketch.Curve{ID: sketch.YAxis, Kind: sketch.KindLine, A: sketch.Vec{Y: -far}, B: sketch.Vec{Y: far}}) {
		_, q := c.Nearest(at)
		if d := q.Distance(at); d < reachCurve*pixel {
			i := len(list)
			for i > 0 && list[i-1].d > d && !strings.HasSuffix(c.ID, "-axis") {
				i--
			}
			list = append(list[:i], append([]found{{c, d}}, list[i:]...)...)
		}
	}
	var out []sketch.Curve
	for _, f := range list {
		out = append(out, f.c)
	}
	return out
}

// direct guesses the direction of a line from a place: level, plumb, square or
// tangent to what ends there. The end moves to where that holds.
//
// A line of less than four pixels has no direction yet. A start or an end that
// is fixed already cannot move to where the direction holds: then it must hold
// as it is. On a curve the end moves along it.
func (s *Session) direct(from Place, to Place, pixel float64) Place {
	a, b := from.at(), to.at()
	v := b.Sub(a)
	if v.Norm() < 4*pixel {
		return to
	}
	fixed := len(to.Guesses) > 0 && to.Guesses[0].Kind != "on-curve"
	limit := math.Sin(offLevel)
	if fixed {
		limit = 1e-6
	}
	for _, o := range s.directions(from, pixel) {
		if math.Abs(v.Unit().Cross(o.dir)) > limit {
			continue
		}
		switch {
		case len(to.Guesses) == 1 && to.Guesses[0].Kind == "on-curve":
			// Where that direction meets the curve.
			far := o.dir.Scale(10 * (v.Norm() + s.sol.System().Scale()))
			ray := sketch.Curve{ID: "ray", Kind: sketch.KindLine, A: a.Sub(far), B: a.Add(far)}
			at, ok := s.crossing(ray, to.Guesses[0].With[0], b, pixel)
			if !ok {
				continue
			}
			to.put(at)
		case !fixed:
			to.put(a.Add(o.dir.Scale(v.Dot(o.dir))))
		}
		to.Guesses = append(to.Guesses, o.Guess)
		break
	}
	return to
}

// direction is one that a line may take from its start, and what that says.
type direction struct {
	dir sketch.Vec
	Guess
}

// directions are level, upright, and square or tangent to what ends where the line starts.
//
// Both ends of a curve count, and not its centre: a tangent there means nothing.
func (s *Session) directions(from Place, pixel float64) []direction {
	list := []direction{{sketch.Vec{X: 1}, Guess{Kind: "horizontal", Whole: true, Words: "horizontal"}},
		{sketch.Vec{Y: 1}, Guess{Kind: "vertical", Whole: true, Words: "vertical"}}}
	start := from.Point
	for _, g := range from.Guesses {
		if g.Kind == "coincident" {
			start = g.With[0]
		}
	}
	if start == "" {
		return list
	}
	a, root := from.at(), s.roots()
	for _, c := range s.sol.Curves {
		for _, end := range s.draft.Entity(c.ID).Refs() {
			centre := c.Center == s.sol.Points[end] && c.Kind != sketch.KindLine
			if root(end) != root(start) || s.sol.Points[end].Distance(a) > pixel || c.Closed() || centre {
				continue
			}
			t, _ := c.Nearest(a)
			dir := c.Tangent(t).Unit()
			if c.Kind == sketch.KindLine {
				list = append(list, direction{dir.Left(), Guess{Kind: "perpendicular", With: []string{c.ID}, Whole: true,
					Words: "square to " + s.call(c.ID)}})
			} else if c.Kind != sketch.KindSpline {
				list = append(list, direction{dir, Guess{Kind: "tangent", With: []string{c.ID}, Whole: true,
					Words: "tangent to " + s.call(c.ID)}})
			}
		}
	}
	return list
}

// crossing is where a ray meets a curve nearest to a place, within twenty pixels of it.
//
// Beyond twenty pixels it would move the end to where no hand has been.
func (s *Session) crossing(ray sketch.Curve, id string, near sketch.Vec, pixel float64) (at sketch.Vec, ok bool) {
	best := 20 * pixel
	for _, c := range s.near(near, pixel) {
		if c.ID != id {
			continue
		}
		for _, x := range sketch.Crossings([]sketch.Curve{ray, c}, 0, false) {
			if d := x.At.Distance(near); d < best {
				best, at, ok = d, x.At, true
			}
		}
	}
	return at, ok
}

// rim guesses what a circle's rim touches or equals.
//
// A circle within seven pixels of touching a line touches it, and one within
// four pixels of another's radius equals it. Touching is looked for first, as it
// is what is seen.
func (s *Session) rim(centre Place, to Place, pixel float64) Place {
	m, p := centre.at(), to.at()
	r := m.Distance(p)
	to.Guesses = nil
	for _, c := range s.near(p, pixel) {
		if c.Kind != sketch.KindLine {
			continue
		}
		u := c.B.Sub(c.A).Unit()
		foot := c.A.Add(u.Scale(m.Sub(c.A).Dot(u)))
		if d := foot.Distance(m); math.Abs(d-r) < reachCurve*pixel && d > pixel {
			to.put(foot)
			to.Guesses = []Guess{{Kind: "tangent", With: []string{c.ID}, Whole: true, Words: "tangent to " + s.call(c.ID)}}
			return to
		}
	}
	for _, c := range s.sol.Curves {
		if c.Kind == sketch.KindCircle && math.Abs(c.Radius-r) < 4*pixel && r > 0 {
			to.put(m.Add(p.Sub(m).Unit().Scale(c.Radius)))
			to.Guesses = []Guess{{Kind: "equal", With: []string{c.ID}, Whole: true, Words: "equal to " + s.call(c.ID)}}
			return to
		}
	}
	return to
}

// Preview shows what a tool would draw if the next place were at the cursor. With
// free nothing is guessed.
//
// The shape is drawn into an empty draft and thrown away; only the side of an
// arc at half a turn is kept, because the hand has shown it and the places do
// not.
func (s *Session) Preview(tool string, places []Place, cursor sketch.Vec, pixel float64, free bool,
	sides int) (*Preview, error) {
	t, ok := toolByID(tool)
	if !ok {
		return nil, fmt.Errorf("there is no tool %q", tool)
	}
	out := &Preview{}
	cursor.Y = -cursor.Y
	s.cursor = cursor
	out.Place.put(cursor)
	if !free {
		out.Place = s.snap(cursor, pixel)
		if tool == "line" && len(places) == 1 {
			out.Place = s.direct(places[0], out.Place, pixel)
		}
		if tool == "circle" && len(places) == 1 {
			out.Place = s.rim(places[0], out.Place, pixel)
		}
	}
	ask := t.Places[min(len(places), len(t.Places)-1)]
	out.Ask = ask
	all := append(append([]Place(nil), places...), out.Place)
	trial := &Session{unit: s.unit, table: s.table, draft: s.emptyDraft(), sol: s.sol, arcSide: s.arcSide}
	_, err := trial.shape(tool, all, sides)
	s.arcSide = trial.arcSide
	if err == nil {
		if sys, err := sketch.Compile(trial.draft.Sketch, s.unit.Factor, s.table); err == nil {
			var b strings.Builder
			for _, c := range sys.Solution().Curves {
				b.WriteString(curvePath(&c, pixel))
			}
			out.Path = b.String()
		}
	} else if len(all) > 1 { // not enough yet: join the places
		var b strings.Builder
		for i, p := range all {
			b.WriteString(map[bool]string{true: "M", false: "L"}[i == 0] + num(p.X) + " " + num(p.Y))
		}
		out.Path = b.String()
	}
	if n := len(all); n > 1 {
		v := all[n-1].at().Sub(all[n-2].at())
		length := func(v float64) string { return s.number(quantity.Quantity{Value: math.Abs(v), Dim: quantity.Length}) }
		switch {
		case strings.HasPrefix(tool, "rectangle"):
			out.Text = length(v.X) + " × " + length(v.Y)
			if tool == "rectangle-centre" {
				out.Text = length(2*v.X) + " × " + length(2*v.Y)
			}
		case tool == "circle":
			out.Text = "⌀ " + length(2*v.Norm())
		default:
			out.Text = length(v.Norm()) + ", " + s.number(quantity.Quantity{Value: math.Atan2(v.Y, v.X), Dim: quantity.Angle})
		}
	}
	return out, nil
}

// toolByID finds a tool.
//
// There are few, so that a search is as quick as a map.
func toolByID(id string) (Tool, bool) {
	for _, t := range Tools() {
		if t.ID == id {
			return t, true
		}
	}
	return Tool{}, false
}

// drawn is what a tool made: the points of its places, and the curve that a guess
// on the whole is about.
type made struct {
	points []string // of each place, "" where none was made
	curve  string
	last   string // the point to go on from
	ids    []string
}

// shape draws a tool's shape into the draft, without guesses.
//
// Tools and preview share it: what was seen is what is made.
func (s *Session) shape(tool string, places []Place, sides int) (made, error) {
	t, ok := toolByID(tool)
	if !ok {
		return made{}, fmt.Errorf("there is no tool %q", tool)
	}
	if !t.Open && len(places) != len(t.Places) {
		return made{}, fmt.Errorf("%s takes %d places", t.Name, len(t.Places))
	}
	h := &drawing{session: s, draft: s.draft, places: places, sides: sides}
	h.points = make([]string, len(places))
	draw, ok := map[string]func() error{
		"point": h.dot, "line": h.line, "circle": h.circle, "arc": h.arc, "arc-through": h.arcThrough,
		"rectangle": h.rectangle, "rectangle-centre": h.centredRectangle,
		"polygon":       func() error { return h.polygon(false) },
		"polygon-flats": func() error { return h.polygon(true) },
		"slot":          h.slot, "curved-slot": h.curvedSlot, "ellipse": h.ellipse,
		"spline":       func() error { return h.spline(false) },
		"spline-poles": func() error { return h.spline(true) },
	}[tool]
	if !ok {
		return made{}, fmt.Errorf("the tool %q draws nothing", tool)
	}
	err := draw()
	if h.curve != "" {
		h.ids = []string{h.curve}
	}
	return h.made, err
}

// drawing is a shape that is being made of its places.
type drawing struct {
	made
	session *Session
	draft   *edit.Draft
	places  []Place
	sides   int
}

// short is a length that is none, mm.
const short = 1e-7

// at is the i-th place that was given.
func (h *drawing) at(i int) sketch.Vec { return h.places[i].at() }

// point is the point at a place: one that is there, or a new one.
func (h *drawing) point(i int) string {
	if h.points[i] == "" {
		if p := h.places[i].Point; p != "" && h.draft.Entity(p) != nil {
			h.points[i] = p
		} else {
			h.points[i] = h.draft.Point(h.at(i))
		}
	}
	return h.points[i]
}

func (h *drawing) dot() error {
	h.point(0)
	return nil
}

// line draws from the first place to the second. A line without a length has no
// direction, and every constraint on it would be singular; it is refused.
func (h *drawing) line() error {
	if h.at(0).Distance(h.at(1)) < short {
		return fmt.Errorf("a line has two different ends")
	}
	h.curve = h.draft.Line(h.point(0), h.point(1))
	h.last = h.points[1]
	return nil
}

// circle draws about the first place through the second.
func (h *drawing) circle() error {
	r := h.at(0).Distance(h.at(1))
	if r < short {
		return fmt.Errorf("a circle needs a radius greater than zero")
	}
	h.curve = h.draft.Circle(h.point(0), r)
	return nil
}

// arc goes the short way round, as the hand goes; at half a turn on the side that it came from.
func (h *drawing) arc() error {
	centre := h.at(0)
	r := centre.Distance(h.at(1))
	if r < short || centre.Distance(h.at(2)) < short {
		return fmt.Errorf("an arc needs a radius greater than zero")
	}
	h.places[2].put(centre.Polar(r, centre.AngleTo(h.at(2))))
	side := h.at(1).Sub(centre).Cross(h.at(2).Sub(centre))
	if math.Abs(side) > 1e-6*r*r {
		h.session.arcSide = side
	} else {
		side = h.session.arcSide
	}
	if side >= 0 {
		h.curve = h.draft.Arc(h.point(0), h.point(1), h.point(2))
	} else {
		h.curve = h.draft.Arc(h.point(0), h.point(2), h.point(1))
	}
	return nil
}

// arcThrough goes from the first place through the third to the second.
func (h *drawing) arcThrough() error {
	c, ok := circumcentre(h.at(0), h.at(1), h.at(2))
	if !ok {
		return fmt.Errorf("three places in a straight line make no arc")
	}
	centre := h.draft.Point(c)
	if h.at(1).Sub(h.at(0)).Cross(h.at(2).Sub(h.at(0))) < 0 {
		h.curve = h.draft.Arc(centre, h.point(0), h.point(1))
	} else {
		h.curve = h.draft.Arc(centre, h.point(1), h.point(0))
	}
	h.points[2] = "" // the third place is no point of the arc
	return nil
}

// rectangle draws from a corner to the opposite one. Of the constraints that
// make it one, only as many are put as take freedoms (three right angles are
// enough).
func (h *drawing) rectangle() (err error) {
	if h.ids, err = h.draft.Rectangle(h.at(0), h.at(1)); err == nil {
		h.points[0], h.points[1] = h.from(0), h.from(2)
	}
	return err
}

// centredRectangle draws about a centre, held in the middle by its diagonals.
func (h *drawing) centredRectangle() (err error) {
	if h.ids, err = h.draft.CentredRectangle(h.point(0), h.at(1)); err == nil {
		h.points[1] = h.from(2)
	}
	return err
}

// from is the first end of a line that was drawn.
func (h *drawing) from(i int) string { return h.draft.Entity(h.ids[i]).From }

// polygon has six sides where no number is given; the second place is a corner, or the middle of a
// flat.
func (h *drawing) polygon(flats bool) (err error) {
	sides := h.sides
	if sides == 0 {
		sides = 6
	}
	if h.ids, err = h.draft.Polygon(h.point(0), h.at(1), sides, flats); err == nil && !flats {
		h.points[1] = h.from(0)
	}
	return err
}

// slot draws two half circles about the first two places, as wide as the third
// is away from their line.
func (h *drawing) slot() (err error) {
	h.ids, err = h.draft.Slot(h.point(0), h.point(1), away(h.at(0), h.at(1), h.at(2)))
	return err
}

// curvedSlot draws a slot along an arc about the first place. The fourth place
// gives half its width by its distance from that arc.
func (h *drawing) curvedSlot() (err error) {
	r := h.at(0).Distance(h.at(1))
	h.ids, err = h.draft.CurvedSlot(h.point(0), h.point(1), h.point(2), math.Abs(h.at(0).Distance(h.at(3))-r))
	h.places[2].Guesses = nil // it was moved to the curve's radius
	return err
}

// ellipse draws by a centre, the end of one half axis, and a width: with u the
// unit vector of the half axis and d the vector to the third place, the other
// half axis is u × d, a signed length to the left of u.
func (h *drawing) ellipse() error {
	u := h.at(1).Sub(h.at(0))
	if u.Norm() < short {
		return fmt.Errorf("an ellipse needs half axes greater than zero")
	}
	w := u.Unit().Cross(h.at(2).Sub(h.at(0)))
	if math.Abs(w) < short {
		return fmt.Errorf("an ellipse needs a width greater than zero")
	}
	minor := h.draft.Point(h.at(0).Add(u.Unit().Left().Scale(w)))
	h.curve = h.draft.Add(sketch.Entity{Kind: sketch.KindEllipse, Center: h.point(0), Major: h.point(1), Minor: minor})
	h.points[2] = ""
	return nil
}

// spline draws through the places, or with them as its poles. A cubic needs four
// poles; through points, three are the least that give more than an arc.
func (h *drawing) spline(poles bool) error {
	least := 3
	if poles {
		least = 4
	}
	if len(h.places) < least {
		return fmt.Errorf("give at least %d places", least)
	}
	var list []string
	for i := range h.places {
		if i > 0 && h.at(i).Distance(h.at(i-1)) < short {
			return fmt.Errorf("two neighbouring places of the spline are one")
		}
		list = append(list, h.point(i))
	}
	e := sketch.Entity{Kind: sketch.KindSpline, Through: list}
	if poles {
		e.Through, e.Poles = nil, list
	}
	h.curve = h.draft.Add(e)
	return nil
}

// away is the distance of p from the line between a and b.
func away(a, b, p sketch.Vec) float64 { return math.Abs(b.Sub(a).Unit().Cross(p.Sub(a))) }

// circumcentre is the centre of the circle through three places. With u = b-a
// and v = c-a it lies at
//
//	a + ((v.Y |u|² - u.Y |v|²), (u.X |v|² - v.X |u|²)) / (2 u × v)
//
// and is not there where the three lie on a line, which is judged by the sine of
// the angle between u and v.
func circumcentre(a, b, c sketch.Vec) (sketch.Vec, bool) {
	u, v := b.Sub(a), c.Sub(a)
	den := 2 * u.Cross(v)
	if math.Abs(den) < 1e-9*u.Norm()*v.Norm() {
		return sketch.Vec{}, false
	}
	q, r := u.Dot(u), v.Dot(v)
	return a.Add(sketch.Vec{X: (v.Y*q - u.Y*r) / den, Y: (u.X*r - v.X*q) / den}), true
}

// Draw draws with a tool; guesses that come with the places are taken where they
// add something. It gives what was drawn and, for a chain, the place to go on
// from.
//
// All of it is one change, and one step of undo. A line that ends on something
// ends its chain: it has come to where it was to go.
func (s *Session) Draw(tool string, places []Place, sides int) (ids []string, next *Place, err error) {
	err = s.change("draw "+strings.ReplaceAll(tool, "-", " "), func() error {
		m, err := s.shape(tool, places, sides)
		if err != nil {
			return err
		}
		ids = m.ids
		if m.last != "" {
			p := places[len(places)-1]
			next = &Place{X: p.X, Y: p.Y, Point: m.last}
			for _, g := range p.Guesses {
				if g.Kind == "coincident" { // it has come to something: the chain ends
					next = nil
				}
			}
		}
		typed, err := s.typed(places, m)
		if err != nil {
			return err
		}
		for _, k := range typed {
			s.draft.Constrain(k.Kind, k.Value, k.Of...)
		}
		var wanted []sketch.Constraint
		for i, p := range places {
			for _, g := range p.Guesses {
				k := sketch.Constraint{Kind: g.Kind, Guessed: true}
				switch {
				case g.Whole && m.curve != "":
					k.Of = append(append([]string(nil), g.With...), m.curve)
				case !g.Whole && m.points[i] != "" && p.Point == "":
					k.Of = append([]string{m.points[i]}, g.With...)
				default:
					continue
				}
				wanted = append(wanted, k)
			}
		}
		return s.take(wanted)
	})
	return ids, next, err
}

// typed gives the sizes that come of what was typed while drawing: where a place lies from the
// origin, and how long a line or how wide a circle is.
//
// A distance of zero from an axis is no size but a place on it. What was typed
// becomes a size with its formula, so that a parameter that was typed goes on
// driving it.
func (s *Session) typed(places []Place, m made) ([]sketch.Constraint, error) {
	var out []sketch.Constraint
	size := func(kind, formula string, of ...string) error {
		v, err := s.draft.Values.Eval(formula, quantity.Length)
		if err != nil {
			return err
		}
		switch axis := map[string]string{"horizontal-distance": sketch.YAxis, "vertical-distance": sketch.XAxis}[kind]; {
		case v == 0 && axis != "":
			out = append(out, sketch.Constraint{Kind: "on-curve", Of: []string{of[1], axis}})
			return nil
		case v < 0: // a size has no sign: the side is that of the drawing
			formula = "-(" + formula + ")"
		}
		out = append(out, sketch.Constraint{Kind: kind, Of: of, Value: formula})
		return nil
	}
	for i, p := range places {
		joined := slices.ContainsFunc(p.Guesses, func(g Guess) bool { return g.Kind == "coincident" })
		if p.Across != "" && m.points[i] != "" && p.Point == "" && !joined {
			if err := errors.Join(size("horizontal-distance", p.Across, sketch.Origin, m.points[i]),
				size("vertical-distance", p.Up, sketch.Origin, m.points[i])); err != nil {
				return nil, err
			}
		}
		if p.Long == "" || m.curve == "" {
			continue
		}
		kind := "length"
		if s.draft.Entity(m.curve).Kind == sketch.KindCircle {
			kind = "diameter"
		}
		if err := size(kind, p.Long, m.curve); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Typed reads what was typed while drawing: a place, "across; up" from the origin, or with the
// first place of a line or circle given, its length or diameter in the direction of the pointer.
//
// Without a separator it is a length: that is the first size that a line has on
// a drawing. A diameter is asked of a circle, and not its radius, as the drawing
// states it.
func (s *Session) Typed(text, tool string, places []Place) (Place, error) {
	var out Place
	if strings.Contains(text, ";") || len(places) != 1 || tool != "line" && tool != "circle" {
		at, err := s.Spot(text)
		if err != nil {
			return out, err
		}
		parts := strings.Split(text, ";")
		return Place{X: at.X, Y: at.Y, Across: strings.TrimSpace(parts[0]), Up: strings.TrimSpace(parts[1])}, nil
	}
	v, err := s.positive(text, quantity.Length)
	if err != nil {
		return out, err
	}
	if v == 0 {
		return out, errors.New("a length or diameter is greater than zero")
	}
	from := places[0].at()
	dir := s.cursor.Sub(from)
	if tool == "circle" {
		v /= 2
	}
	if tool == "line" { // what the pointer guesses of the direction, it means
		guess := s.direct(places[0], Place{X: s.cursor.X, Y: -s.cursor.Y}, 0.01*math.Max(dir.Norm(), 1))
		dir = guess.at().Sub(from)
		for _, g := range guess.Guesses {
			if g.Whole {
				out.Guesses = append(out.Guesses, g)
			}
		}
	}
	if dir.Norm() < 1e-9 {
		dir = sketch.Vec{X: 1}
	}
	out.put(from.Add(dir.Unit().Scale(v)))
	out.Long = strings.TrimSpace(text)
	return out, nil
}

// take adds constraints that hold already and add something.
//
// A guess that holds anyway, or not within 1e-4 of the sketch's size, is left
// out; the others are marked as guessed, so that a person sees which were not
// asked for.
func (s *Session) take(wanted []sketch.Constraint) error {
	if len(wanted) == 0 {
		return nil
	}
	sol, err := sketch.Solve(s.draft.Sketch, s.unit.Factor, s.draft.Values)
	if err != nil {
		return err
	}
	probe := sol.Probe()
	for _, k := range wanted {
		if probe != nil {
			k.ID = "asked"
			g, ok := probe.Ask(k)
			if ok && (g.Takes == 0 || g.Off > 1e-4*sol.System().Scale()) {
				continue
			}
			if ok {
				probe.Take(g)
			}
		}
		id := s.draft.Constrain(k.Kind, "", k.Of...)
		s.draft.Constraint(id).Guessed = true
	}
	return nil
}

// otherAngle is a size for the angle on the other side of a line: the supplement of that
// between the directions of two lines.
const otherAngle = "angle-other"

// Offer is a constraint or size that can be put on a selection.
type Offer struct {
	Kind  string `json:"kind"`
	Size  bool   `json:"size"`
	Words string `json:"words"`
	Value string `json:"value,omitempty"` // what a size measures now
	Adds  bool   `json:"adds"`            // it would hold something that is loose
}

// movable tells whether any of the entities is not a part of the built-in
// geometry: on that alone nothing can be put.
//
// Origin and axes are held already.
func (s *Session) movable(ids []string) bool {
	return slices.ContainsFunc(ids, func(id string) bool {
		e := s.draft.Entity(id)
		return e != nil && len(e.Traced) == 0
	})
}

// Called says what entities are called for people.
func (s *Session) Called(ids []string) []string {
	return s.names().All(ids)
}

// Offers lists what can be put on a selection: sizes first, the likeliest first.
//
// Which sizes come first depends on what is chosen: two lines that cross have an
// angle, two parallel ones a distance, and an arc a radius.
func (s *Session) Offers(ids []string) []Offer {
	out := []Offer{}
	if !s.movable(ids) {
		return out
	}
	s.Analyse()
	probe := s.sol.Probe()
	lines, parallel := 0, true
	var first sketch.Vec
	for _, id := range ids {
		for _, c := range s.sol.Curves {
			if c.ID == id && c.Kind == sketch.KindLine {
				v := c.B.Sub(c.A).Unit()
				if lines > 0 && math.Abs(v.Cross(first)) > 1e-6 {
					parallel = false
				}
				first = v
				lines++
			}
		}
	}
	order := []string{"length", "distance", "diameter", "radius", "angle", "horizontal-distance", "vertical-distance"}
	if lines == 2 && !parallel {
		order[1], order[4] = "angle", "distance"
	}
	if len(ids) == 1 {
		if e := s.draft.Entity(ids[0]); e != nil && e.Kind == sketch.KindArc {
			order = []string{"radius", "diameter", "length", "angle"}
		}
	}
	for _, kind := range order {
		trial := s.draft.Sketch.Clone()
		k := sketch.Constraint{ID: "offered", Kind: kind, Of: ids, Driven: true}
		trial.Constraints = append(trial.Constraints, k)
		sys, err := sketch.Compile(trial, s.unit.Factor, s.draft.Values)
		if err != nil {
			continue
		}
		q := quantity.Quantity{Value: sys.Solution().Measures["offered"], Dim: sketch.Sizes[kind]}
		if kind == "angle" && lines == 2 && parallel {
			continue
		}
		if kind == "angle" && lines == 2 {
			other := quantity.Quantity{Value: math.Pi - q.Value, Dim: quantity.Angle}
			out = append(out, Offer{Kind: "angle", Size: true, Words: "angle", Value: strings.TrimSuffix(s.number(q), "°"),
				Adds: s.sol.Freedom > 0},
				Offer{Kind: otherAngle, Size: true, Words: "angle on the other side", Value: strings.TrimSuffix(s.number(other),
					"°"), Adds: s.sol.Freedom > 0})
			continue
		}
		out = append(out, Offer{Kind: kind, Size: true, Words: strings.ReplaceAll(kind, "-", " "),
			Value: strings.TrimSuffix(s.number(q), "°"), Adds: s.sol.Freedom > 0})
	}
	list := slices.DeleteFunc(sketch.Kinds(), func(kind string) bool {
		_, size := sketch.Sizes[kind]
		return size || kind == "fixed"
	})
	names := s.names()
	for _, kind := range append(list, "fixed") { // what says least comes last
		trial := s.draft.Sketch.Clone()
		k := sketch.Constraint{ID: "offered", Kind: kind, Of: ids}
		trial.Constraints = append(trial.Constraints, k)
		if _, err := sketch.Compile(trial, s.unit.Factor, s.draft.Values); err != nil {
			continue
		}
		o := Offer{Kind: kind, Words: names.Constraint(k), Adds: true}
		if probe != nil {
			if g, ok := probe.Ask(k); ok {
				o.Adds = g.Takes > 0
			}
		}
		out = append(out, o)
	}
	return out
}
