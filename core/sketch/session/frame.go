package session

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"hammerset/core/partition"
	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/review"
)

// The picture of a sketch is made here and only drawn on the screen: where
// curves, lettering and symbols are is a matter of geometry. While something is
// pulled only what moves is sent.

// Frame is the picture of a session. Its places are in millimetres with y
// downwards, as on a screen; paths are those of SVG.
type Frame struct {
	Revision   int          `json:"revision"`
	Solved     bool         `json:"solved"`
	Curves     []CurveView  `json:"curves"`
	Points     []PointView  `json:"points"`
	Sizes      []SizeView   `json:"sizes"`
	Marks      []MarkView   `json:"marks"`
	Regions    []RegionView `json:"regions"`
	Parameters []ParamView  `json:"parameters"`
	Box        [4]float64   `json:"box"`    // x, y, width, height of all geometry
	Margin     [4]float64   `json:"margin"` // how far lettering reaches beyond it, left, above, right, below, in pixels
	Undo       string       `json:"undo,omitempty"`
	Redo       string       `json:"redo,omitempty"`
	Trying     string       `json:"trying,omitempty"`
	Solve      float64      `json:"solve,omitempty"` // milliseconds that solving took, where it was measured
	// Filled by an analysis:
	Analysed    bool             `json:"analysed"`
	Freedom     int              `json:"freedom"`
	Loose       []string         `json:"loose"`
	Findings    []review.Finding `json:"findings"`
	Constraints []ConstraintRow  `json:"constraints"`
	Zigzags     []string         `json:"zigzags"`
}

// CurveView is a curve to be drawn.
type CurveView struct {
	ID     string `json:"id"`
	Kind   string `json:"kind"`
	Path   string `json:"path"`
	Guide  bool   `json:"guide,omitempty"`
	Traced bool   `json:"traced,omitempty"`
	Loose  bool   `json:"loose,omitempty"`
	Bad    bool   `json:"bad,omitempty"` // part of a conflict
}

// PointView is a point to be drawn; Arrows shows where it can still go.
type PointView struct {
	ID     string  `json:"id"`
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Loose  bool    `json:"loose,omitempty"`
	Joined bool    `json:"joined,omitempty"` // several points are one here
	Free   bool    `json:"free,omitempty"`   // no curve stands on it
	Arrows string  `json:"arrows,omitempty"`
}

// RegionView is a closed area; Material ones are those that "all" takes.
type RegionView struct {
	Path     string  `json:"path"`
	Area     string  `json:"area"`
	Material bool    `json:"material"`
	X        float64 `json:"x"`
	Y        float64 `json:"y"`
}

// ParamView is a parameter with its value in words, and the number for a slider.
type ParamView struct {
	Name    string  `json:"name"`
	Formula string  `json:"formula"`
	Note    string  `json:"note,omitempty"`
	Text    string  `json:"text"`
	Value   float64 `json:"value"`
	Driving bool    `json:"driving"`
}

// ConstraintRow is a constraint or size in the list of all.
type ConstraintRow struct {
	ID      string   `json:"id"`
	Kind    string   `json:"kind"`
	Words   string   `json:"words"`
	Of      []string `json:"of"`
	Guessed bool     `json:"guessed,omitempty"`
	Spare   bool     `json:"spare,omitempty"`
	Bad     bool     `json:"bad,omitempty"`
}

// flip is a place on the screen.
func flip(v sketch.Vec) sketch.Vec { return sketch.Vec{X: v.X, Y: -v.Y} }

// num writes a coordinate to a ten-thousandth of a millimetre. Thousands of them
// are written for every frame of a pull, so it does not go by way of the general
// formatting of floating-point numbers.
//
// Four decimals are a tenth of a micrometre, a thousandth of a screen's pixel at
// any zoom that shows a part.
func num(v float64) string {
	if !(math.Abs(v) < 1e12) {
		return quantity.FormatDecimal(v, 4)
	}
	n := int64(math.Round(v * 1e4))
	var b [24]byte
	out := b[:0]
	if n < 0 {
		out, n = append(out, '-'), -n
	}
	out = strconv.AppendInt(out, n/1e4, 10)
	if f := n % 1e4; f > 0 {
		out = append(out, '.', byte('0'+f/1000), byte('0'+f/100%10), byte('0'+f/10%10), byte('0'+f%10))
		for out[len(out)-1] == '0' {
			out = out[:len(out)-1]
		}
	}
	return string(out)
}

// xy writes a place for a path of SVG, whose y points down.
func xy(v sketch.Vec) string { return num(v.X) + " " + num(-v.Y) }

// path writes a piece of a curve; tol is how far chords may be off.
//
// An arc of SVG cannot be a full circle, whose ends are one place: it is written
// as two halves. With y downwards a counter-clockwise arc has the sweep flag 0.
func path(b *strings.Builder, c *sketch.Curve, lo, hi float64, forward bool, start bool, tol float64) {
	from, to := c.Point(lo), c.Point(hi)
	if !forward {
		from, to = to, from
	}
	if start {
		b.WriteString("M" + xy(from))
	}
	switch {
	case c.Kind == sketch.KindLine:
		b.WriteString("L" + xy(to))
	case c.Kind == sketch.KindCircle || c.Kind == sketch.KindArc:
		r := num(c.Radius)
		if hi-lo > 2*math.Pi-1e-9 {
			mid := c.Center.Scale(2).Sub(from)
			fmt.Fprintf(b, "A%s %s 0 0 0 %sA%s %s 0 0 0 %s", r, r, xy(mid), r, r, xy(from))
			return
		}
		large, sweep := "0", "0" // counter-clockwise with y upwards
		if hi-lo > math.Pi {
			large = "1"
		}
		if !forward {
			sweep = "1"
		}
		fmt.Fprintf(b, "A%s %s 0 %s %s %s", r, r, large, sweep, xy(to))
	default:
		pts := c.Samples(lo, hi, tol)
		if !forward {
			slices.Reverse(pts)
		}
		for _, p := range pts[1:] {
			b.WriteString("L" + xy(p))
		}
	}
}

// curvePath is a whole curve as a path; tol is how far a chord may leave it.
func curvePath(c *sketch.Curve, tol float64) string {
	var b strings.Builder
	lo, hi := c.Range()
	path(&b, c, lo, hi, true, true, tol)
	if c.Closed() {
		b.WriteString("Z")
	}
	return b.String()
}

// loopPath is the boundary of a region, in the order in which it is run through.
func loopPath(b *strings.Builder, l sketch.Loop, tol float64) {
	for i, g := range l {
		path(b, g.Curve, g.Lo, g.Hi, g.Forward, i == 0, tol)
	}
	b.WriteString("Z")
}

// Frame draws the session; pixel is the size of a screen's pixel in millimetres.
//
// Findings are copied before their places are turned over, or a second frame of
// the same analysis would turn them back.
func (s *Session) Frame(pixel float64) *Frame {
	f := s.Moving(pixel)
	f.Analysed, f.Freedom = s.analysed, s.sol.Freedom
	f.Findings, f.Loose = append([]review.Finding{}, s.findings...), []string{} // a copy: it is turned over
	for i := range f.Findings {                                                 // on the screen
		f.Findings[i] = onScreen(f.Findings[i])
	}
	if len(s.undo) > 0 {
		f.Undo = s.undo[len(s.undo)-1].label
	}
	if len(s.redo) > 0 {
		f.Redo = s.redo[len(s.redo)-1].label
	}
	s.parameters(f)
	s.regions(f, pixel)
	s.rows(f)
	if s.analysed {
		for _, l := range s.sol.Loose {
			f.Loose = append(f.Loose, l.Entity)
		}
		s.zigzags(f, pixel)
	}
	return f
}

// onScreen turns the places of a finding to the screen.
func onScreen(f review.Finding) review.Finding {
	for _, p := range []**sketch.Vec{&f.At, &f.Near} {
		if *p != nil {
			v := flip(**p)
			*p = &v
		}
	}
	return f
}

// Moving draws what moves while something is pulled: curves, points, sizes and
// marks.
func (s *Session) Moving(pixel float64) *Frame {
	f := &Frame{Revision: s.revision, Solved: s.sol.Solved, Curves: []CurveView{}, Points: []PointView{},
		Sizes: []SizeView{}, Marks: []MarkView{},
		Regions: []RegionView{}, Parameters: []ParamView{}, Findings: []review.Finding{}, Constraints: []ConstraintRow{},
		Zigzags: []string{}, Loose: []string{}}
	if s.trying != nil {
		f.Trying = s.trying.name
	}
	loose := map[string]sketch.Loose{}
	if s.analysed {
		for _, l := range s.sol.Loose {
			loose[l.Entity] = l
		}
	}
	bad := s.conflicting()
	j := s.joints(loose)
	for i := range s.sol.Curves {
		c := &s.sol.Curves[i]
		v := CurveView{ID: c.ID, Kind: c.Kind, Path: curvePath(c, 0.3*pixel), Guide: c.Guide, Traced: c.Traced,
			Bad: bad[c.ID]}
		_, v.Loose = loose[c.ID]
		for _, p := range s.draft.Entity(c.ID).Refs() {
			if _, ok := j.loose[j.root(p)]; ok {
				v.Loose = true
			}
		}
		f.Curves = append(f.Curves, v)
	}
	s.points(f, j, pixel)
	s.marks(f, s.sizes(f, pixel), pixel)
	s.bound(f, pixel)
	s.shown = f
	return f
}

// joints are the places of points, where several that are one count once.
type joints struct {
	root  func(string) string
	loose map[string]sketch.Loose // by place
	count map[string]int          // of points at a place
	used  map[string]bool         // points that curves are made of
	inner map[string]bool         // what a traced spline is made of in between: nothing to take hold of
}

// joints gathers what there is to show of points: which are one point by
// coincidence, which nothing uses, and which are inner poles of a traced spline,
// that nobody can take hold of.
func (s *Session) joints(loose map[string]sketch.Loose) *joints {
	j := &joints{root: s.roots(), loose: map[string]sketch.Loose{}, count: map[string]int{}, used: map[string]bool{},
		inner: map[string]bool{}}
	for i := range s.draft.Entities {
		e := &s.draft.Entities[i]
		if e.Kind == sketch.KindPoint {
			j.count[j.root(e.ID)]++
			if l, ok := loose[e.ID]; ok {
				j.loose[j.root(e.ID)] = l
			}
		}
		for k, p := range e.Refs() {
			j.used[p] = true
			if len(e.Traced) > 0 && e.Kind == sketch.KindSpline && k > 0 && k < len(e.Poles)-1 {
				j.inner[p] = true
			}
		}
	}
	return j
}

// points shows the points. Where loose ones crowd, the halo tells it and a few arrows the way.
func (s *Session) points(f *Frame, j *joints, pixel float64) {
	var pointing []sketch.Vec // points with arrows
	for _, e := range s.draft.Entities {
		root := j.root(e.ID)
		if e.Kind != sketch.KindPoint || j.inner[e.ID] && j.count[root] < 2 {
			continue
		}
		at := flip(s.sol.Points[e.ID])
		v := PointView{ID: e.ID, X: at.X, Y: at.Y, Joined: j.count[root] > 1 || root == sketch.Origin, Free: !j.used[e.ID]}
		if l, ok := j.loose[root]; ok {
			v.Loose = true
			p := s.sol.Points[e.ID]
			crowded := slices.ContainsFunc(pointing, func(q sketch.Vec) bool { return q.Distance(p) < 26*pixel })
			if (root == e.ID || l.Entity == e.ID) && !crowded {
				pointing = append(pointing, p)
				v.Arrows = arrows(p, l.Directions, pixel)
			}
		}
		f.Points = append(f.Points, v)
	}
}

// bound gives the box of the geometry, and how far lettering stands out of it.
func (s *Session) bound(f *Frame, pixel float64) {
	lo, hi, ok := sketch.Bounds(s.sol.Curves, s.sol.Points)
	if !ok {
		r := 75 * s.unit.Factor
		if s.unit.Symbol == "in" {
			r = 3 * s.unit.Factor
		}
		lo, hi = sketch.Vec{X: -r, Y: -r}, sketch.Vec{X: r, Y: r}
	}
	f.Box = [4]float64{lo.X, -hi.Y, hi.X - lo.X, hi.Y - lo.Y}
	for _, v := range f.Sizes {
		w := letterWide * float64(len([]rune(v.Text))) / 2
		for i, far := range []float64{(lo.X-v.X)/pixel + w, (-hi.Y-v.Y)/pixel + letterHigh, (v.X-hi.X)/pixel + w,
			(v.Y+lo.Y)/pixel + letterHigh} {
			f.Margin[i] = math.Max(f.Margin[i], far)
		}
	}
}

// roots tells which points are one.
func (s *Session) roots() func(string) string {
	parts := &partition.Names{}
	for _, k := range s.draft.Constraints {
		if k.Kind == "coincident" && len(k.Of) == 2 {
			a, b := k.Of[0], k.Of[1]
			if parts.Root(a) == sketch.Origin {
				a, b = b, a
			}
			parts.Join(b, a)
		}
	}
	return parts.Root
}

// arrows draws short arrows both ways along directions from a point.
func arrows(at sketch.Vec, dirs []sketch.Vec, pixel float64) string {
	var b strings.Builder
	for _, d := range dirs {
		for _, sign := range []float64{1, -1} {
			u := d.Scale(sign)
			n := u.Left()
			tip := at.Add(u.Scale(19 * pixel))
			fmt.Fprintf(&b, "M%sL%sM%sL%sL%s", xy(at.Add(u.Scale(8*pixel))), xy(tip),
				xy(tip.Sub(u.Scale(5*pixel)).Add(n.Scale(3.5*pixel))), xy(tip),
				xy(tip.Sub(u.Scale(5*pixel)).Sub(n.Scale(3.5*pixel))))
		}
	}
	return b.String()
}

// conflicting lists the constraints of conflicts and what they are on.
func (s *Session) conflicting() map[string]bool {
	out := map[string]bool{}
	for _, c := range s.sol.Conflicts {
		for _, id := range c.Set {
			out[id] = true
			if k := s.draft.Constraint(id); k != nil {
				for _, of := range k.Of {
					out[of] = true
				}
			}
		}
	}
	return out
}

// parameters lists the parameters with their values as they are now, those that
// are tried among them.
func (s *Session) parameters(f *Frame) {
	t, _ := s.draft.Values.(*quantity.Table)
	if t == nil {
		t = s.table
	}
	for _, p := range s.params {
		q, _ := t.Lookup(p.Name)
		v := ParamView{Name: p.Name, Formula: p.Formula, Note: p.Note, Text: s.write(q), Value: s.plain(q),
			Driving: slices.Contains(s.table.Driving(), p.Name)}
		f.Parameters = append(f.Parameters, v)
	}
}

// plain is a quantity in the document's unit or in degrees.
func (s *Session) plain(q quantity.Quantity) float64 {
	switch q.Dim {
	case quantity.Length:
		return q.Value / s.unit.Factor
	case quantity.Angle:
		return q.Value / quantity.Degree.Factor
	}
	return q.Value
}

// regions are the closed areas. Those at an even depth of nesting are material,
// since each boundary that is crossed turns material into void and back.
//
// The area is given in the unit of the document, squared.
func (s *Session) regions(f *Frame, pixel float64) {
	as := quantity.SheetFormat(s.unit)
	as.Symbolic = true
	regions, _ := sketch.Regions(s.sol.Curves)
	for _, r := range regions {
		var b strings.Builder
		loopPath(&b, r.Outer, 0.3*pixel)
		for _, h := range r.Holes {
			loopPath(&b, h, 0.3*pixel)
		}
		mid := flip(r.Outer[0].Mid())
		f.Regions = append(f.Regions, RegionView{Path: b.String(), Material: r.Depth%2 == 0, X: mid.X, Y: mid.Y,
			Area: as.Text(quantity.Quantity{Value: r.Area(), Dim: quantity.Dim{Length: 2}})})
	}
}

// rows lists all constraints and sizes, with those that are spare or contradict
// marked.
func (s *Session) rows(f *Frame) {
	spare := map[string]bool{}
	for _, r := range s.sol.Spare {
		spare[r.Drop] = true
	}
	bad, names := s.conflicting(), s.names()
	for _, k := range s.draft.Constraints {
		f.Constraints = append(f.Constraints, ConstraintRow{ID: k.ID, Kind: k.Kind, Words: names.Constraint(k), Of: k.Of,
			Guessed: k.Guessed, Spare: spare[k.ID], Bad: bad[k.ID]})
	}
}

// zigzags joins the members of every conflict by a zigzag line.
//
// A conflict is shown by a line through its members, since a list of their names
// says nothing to one who looks at the drawing.
func (s *Session) zigzags(f *Frame, pixel float64) {
	where := map[string]sketch.Vec{}
	for _, v := range f.Sizes {
		where[v.ID] = sketch.Vec{X: v.X, Y: v.Y}
	}
	for _, m := range f.Marks {
		if _, seen := where[m.ID]; !seen {
			where[m.ID] = sketch.Vec{X: m.X, Y: m.Y}
		}
	}
	for _, c := range s.sol.Conflicts {
		var b strings.Builder
		var left []sketch.Vec
		for _, id := range c.Set {
			if p, ok := where[id]; ok {
				left = append(left, p)
			}
		}
		// From each to the nearest that is left, so that the line stays short.
		for at := 0; len(left) > 1; {
			from := left[at]
			left = slices.Delete(left, at, at+1)
			at = 0
			for i := range left {
				if left[i].Distance(from) < left[at].Distance(from) {
					at = i
				}
			}
			zigzag(&b, from, left[at], pixel)
		}
		if b.Len() > 0 {
			f.Zigzags = append(f.Zigzags, b.String())
		}
	}
}

// Paths gives the paths of curves, in their order.
func Paths(curves []sketch.Curve, pixel float64) []string {
	out := make([]string, len(curves))
	for i := range curves {
		out[i] = curvePath(&curves[i], 0.3*pixel)
	}
	return out
}

// zigzag draws a zigzag from one place to another.
func zigzag(b *strings.Builder, from, to sketch.Vec, pixel float64) {
	u := to.Sub(from)
	n := max(2, int(u.Norm()/(9*pixel)))
	side := u.Unit().Left().Scale(4 * pixel)
	for i := 0; i <= n; i++ {
		q := from.Add(u.Scale(float64(i) / float64(n)))
		if i > 0 && i < n {
			q = q.Add(side.Scale(float64(1 - 2*(i%2))))
		}
		b.WriteString(map[bool]string{true: "M", false: "L"}[i == 0] + num(q.X) + " " + num(q.Y))
	}
}
