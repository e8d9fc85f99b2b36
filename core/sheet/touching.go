package sheet

import (
	"fmt"
	"math"
	"slices"
)

// Touch is a line, an arc or an arrow that runs through a text or a balloon, or another text that lies on it. Marks are
// those that the two belong to, empty where they belong to none.
type Touch struct {
	Mark, Other string
	What        string
}

func (t Touch) String() string { return t.What }

// Unreadable lists in words what is ill to read on a drawing: texts and balloons through which something runs, and
// those that reach over the frame.
func (d *Drawing) Unreadable(m Metrics) []string {
	var out []string
	for _, t := range d.Touching(m) {
		out = append(out, t.What)
	}
	for _, it := range d.Items {
		e, ok := it.extent(m)
		if ok && it.Kind == "text" && (e.Min[0] < binding || e.Min[1] < margin || e.Max[0] > d.Width-margin ||
			e.Max[1] > d.Height-margin) {
			out = append(out, fmt.Sprintf("“%s” reaches over the frame", it.Text))
		}
	}
	return out
}

// Touching lists what runs through the texts and balloons of a drawing, but for hatching, each text once.
func (d *Drawing) Touching(m Metrics) []Touch {
	var out []Touch
	labels, obstacles := d.labels(m), d.obstacles()
	for i, l := range labels {
		if t, ok := l.crossed(obstacles); ok {
			out = append(out, t)
			continue
		}
		for _, o := range labels[:i] {
			if l.liesOn(o) {
				out = append(out, Touch{l.mark, o.mark, fmt.Sprintf("%s and %s lie on one another", l.what, o.what)})
				break
			}
		}
		if !l.frame && (l.Min[0] < binding || l.Min[1] < margin || l.Max[0] > d.Width-margin || l.Max[1] > d.Height-margin) {
			out = append(out, Touch{l.mark, "", fmt.Sprintf("%s is out of the frame", l.what)})
		}
	}
	return append(out, d.beyond(obstacles)...)
}

// beyond lists the marks of which a line runs out of the frame, as to a centre that is far away.
func (d *Drawing) beyond(obstacles []obstacle) []Touch {
	var out []Touch
	for _, o := range obstacles {
		if o.Mark == "" || o.around.Min[0] >= binding && o.around.Min[1] >= margin && o.around.Max[0] <= d.Width-margin &&
			o.around.Max[1] <= d.Height-margin {
			continue
		}
		t := Touch{o.Mark, "", fmt.Sprintf("a %s line runs out of the frame", o.Class)}
		if !slices.Contains(out, t) {
			out = append(out, t)
		}
	}
	return out
}

// label is the rectangle around a text or a balloon, and the mark that it belongs to. A text that slants is level in a
// drawing that is turned by as much about its place: what runs through it is looked for there.
type label struct {
	Extent
	mark, what string
	frame      bool // of the frame or the title block
	slant      float64
	about      Point
	level      Extent
	radius     float64 // of a balloon
}

// labelled is the label of a text.
func labelled(it Item, m Metrics, what string) label {
	l := label{Extent: textExtent(it, m), mark: it.Mark, what: what, frame: it.Class == Frame}
	if s, c := math.Sincos(2 * it.Turn); math.Abs(s) > 1e-6 && math.Abs(c) < 1-1e-6 {
		flat := it
		flat.Turn = 0
		l.slant, l.about, l.level = it.Turn, it.Points[0], textExtent(flat, m)
	}
	return l
}

// turned is an item in the drawing in which the label is level, and its rectangle there.
func (l label) turned(it Item) (Item, Extent) {
	if l.slant == 0 {
		return it, l.Extent
	}
	s, c := math.Sincos(-l.slant)
	turn := func(p Point) Point {
		d := p.sub(l.about)
		return l.about.add(Point{d[0]*c - d[1]*s, d[0]*s + d[1]*c})
	}
	points := it.Points
	it.Points = make([]Point, len(points))
	for i, p := range points {
		it.Points[i] = turn(p)
	}
	it.Centre, it.Start = turn(it.Centre), it.Start-l.slant
	return it, l.level
}

// labels lists all texts and balloons.
func (d *Drawing) labels(m Metrics) []label {
	var out []label
	for _, it := range d.Items {
		switch {
		case it.Kind == "text" && it.Class != Balloon:
			out = append(out, labelled(it, m, fmt.Sprintf("“%s”", it.Text)))
		case it.Kind == "arc" && it.Class == Balloon:
			r := Point{it.Radius, it.Radius}
			out = append(out, label{Extent: Extent{it.Centre.sub(r), it.Centre.add(r)}, mark: it.Mark,
				what: fmt.Sprintf("balloon %d", d.balloon(it.Characteristic)), about: it.Centre, radius: it.Radius})
		}
	}
	return out
}

// balloon is the number of a characteristic on the drawing.
func (d *Drawing) balloon(id string) int {
	for _, m := range d.Marks {
		if m.Characteristic == id {
			return m.Balloon
		}
	}
	return 0
}

// obstacle is a line or an arc that may run through a label, with a rectangle around it.
type obstacle struct {
	*Item
	around Extent
}

// obstacles lists what may run through texts and balloons.
func (d *Drawing) obstacles() []obstacle {
	var out []obstacle
	for i := range d.Items {
		it := &d.Items[i]
		if it.Class == Balloon || it.Class == Hatch || it.Kind == "text" {
			continue
		}
		o := obstacle{it, Extent{Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}}}
		points, reach := it.Points, Point{}
		if it.Kind == "arc" {
			points, reach = []Point{it.Centre}, Point{it.Radius, it.Radius}
		}
		for _, p := range points {
			low, high := p.sub(reach), p.add(reach)
			for k := range 2 {
				o.around.Min[k], o.around.Max[k] = math.Min(o.around.Min[k], low[k]), math.Max(o.around.Max[k], high[k])
			}
		}
		out = append(out, o)
	}
	return out
}

// crossed finds the first line that runs through a label.
func (l label) crossed(obstacles []obstacle) (Touch, bool) {
	for _, o := range obstacles {
		if o.Class == Frame && l.frame || o.around.Min[0] > l.Max[0] || o.around.Max[0] < l.Min[0] ||
			o.around.Min[1] > l.Max[1] || o.around.Max[1] < l.Min[1] {
			continue
		}
		if l.through(*o.Item) {
			return Touch{l.mark, o.Mark, fmt.Sprintf("a %s line runs through %s", o.Class, l.what)}, true
		}
	}
	return Touch{}, false
}

// through tells whether a line or an arc goes through the label.
func (l label) through(it Item) bool {
	it, e := l.turned(it)
	if it.Kind == "arc" {
		return arcThrough(it, e)
	}
	if l.radius > 0 {
		return near(it.Points, l.about, l.radius-touchHair)
	}
	return runThrough(it.Points, e)
}

// liesOn tells whether two labels lie on one another; a balloon is round.
func (l label) liesOn(o label) bool {
	if o.radius > 0 {
		l, o = o, l
	}
	switch {
	case !l.Overlaps(o.Extent):
		return false
	case l.radius > 0 && o.radius > 0:
		return l.about.distance(o.about) < l.radius+o.radius
	case l.radius > 0:
		it, e := o.turned(Item{Centre: l.about})
		return e.distance(it.Centre) < l.radius
	}
	return true
}

// distance is how far a place is from a rectangle; 0 inside.
func (e Extent) distance(p Point) float64 {
	return p.distance(Point{math.Max(e.Min[0], math.Min(e.Max[0], p[0])), math.Max(e.Min[1], math.Min(e.Max[1], p[1]))})
}

// near tells whether a run of straight pieces comes nearer to a place than a distance.
func near(points []Point, to Point, distance float64) bool {
	for i := 1; i < len(points); i++ {
		p, d := points[i-1], points[i].sub(points[i-1])
		t := to.sub(p).dot(d) / math.Max(d.dot(d), 1e-12)
		if p.add(d.scale(math.Max(0, math.Min(1, t)))).distance(to) < distance {
			return true
		}
	}
	return false
}

// touchHair is how far a line may reach into a rectangle around a text, in mm.
const touchHair = 0.1

// runThrough tells whether a run of straight pieces goes through the inside of a rectangle: each piece is cut to it
// (the parametric test of Cyrus and Beck, for upright and level sides).
func runThrough(points []Point, e Extent) bool {
	for i := 1; i < len(points); i++ {
		from, to := 0.0, 1.0
		p, d := points[i-1], points[i].sub(points[i-1])
		for k := range 2 {
			low, high := e.Min[k]+touchHair-p[k], e.Max[k]-touchHair-p[k]
			if math.Abs(d[k]) < 1e-12 {
				if low > 0 || high < 0 {
					from, to = 1, 0
				}
				continue
			}
			a, b := low/d[k], high/d[k]
			from, to = math.Max(from, math.Min(a, b)), math.Min(to, math.Max(a, b))
		}
		if from < to {
			return true
		}
	}
	return false
}

// arcThrough tells whether an arc goes through the inside of a rectangle, walked in steps of a fifth of a millimetre.
func arcThrough(it Item, e Extent) bool {
	nearest := Point{math.Max(e.Min[0], math.Min(e.Max[0], it.Centre[0])), math.Max(e.Min[1], math.Min(e.Max[1],
		it.Centre[1]))}
	if nearest.distance(it.Centre) > it.Radius {
		return false
	}
	n := int(math.Abs(it.Sweep)*it.Radius/0.2) + 1
	for i := range n + 1 {
		p := it.Centre.add(polar(it.Radius, it.Start+it.Sweep*float64(i)/float64(n)))
		if p[0] > e.Min[0]+touchHair && p[0] < e.Max[0]-touchHair && p[1] > e.Min[1]+touchHair &&
			p[1] < e.Max[1]-touchHair {
			return true
		}
	}
	return false
}
