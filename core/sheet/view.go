package sheet

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"hammerset/core/exercise"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// view is a drawn view: its frame, its scale and where the origin of its frame is on the paper.
type view struct {
	spec   exercise.View
	frame  solid.Frame
	turn   *Turn // of an aligned section
	scale  float64
	origin Point
	window window
	box    Extent // on the paper
}

// paper takes a place of the view, in millimetres of the model, to the paper.
func (v *view) paper(p [2]float64) Point { return v.flat(v.window.fold(p)) }

// flat takes a place of the view to the paper as if nothing were broken out of it.
func (v *view) flat(p [2]float64) Point {
	return v.origin.add(Point{p[0] * v.scale, p[1] * v.scale})
}

// plane takes a place of the paper to the view, as if nothing were broken out of it.
func (v *view) plane(p Point) [2]float64 { return [2]float64(p.sub(v.origin).scale(1 / v.scale)) }

// project brings a model point onto the paper.
func (v *view) project(p solid.Vec) Point { return v.paper(v.local(p)) }

// local brings a model point into the plane of the view.
func (v *view) local(p solid.Vec) [2]float64 {
	q := v.frame.Local(v.shownAt(p))
	return [2]float64{q[0], q[1]}
}

// shownAt is where a model point is shown, in the model: half of what an aligned section shows is turned.
func (v *view) shownAt(p solid.Vec) solid.Vec {
	if v.turn != nil {
		return v.turn.Apply(p)
	}
	return p
}

// direction is a direction of space as seen in the view; it is shorter than one
// where it points towards the reader.
func (v *view) direction(d solid.Vec) Point { return Point{d.Dot(v.frame.X), d.Dot(v.frame.Y)} }

// scaleFactor finds a scale by its name. Only the scales that ISO 5455
// recommends are taken.
func scaleFactor(name string) (float64, error) {
	for _, s := range standards.Scales {
		if s.Name == name {
			return s.Factor, nil
		}
	}
	return 0, fmt.Errorf("%q is not a scale of ISO 5455", name)
}

// addView lays out one view.
func (b *builder) addView(spec exercise.View, p *Projection) (*view, error) {
	v, shown, err := placed(b.sheet, spec, b.projected.Views)
	if err != nil {
		return nil, err
	}
	for _, c := range shown {
		b.curve(v, c, p.Curves[c.Edge].Of)
	}
	for _, c := range p.Broken {
		for _, piece := range v.window.through(c) {
			b.strokeOf(v, piece, Item{Class: Thin, Width: standards.LineNarrow})
		}
	}
	ribs, err := b.ribs(v, p)
	if err != nil {
		return nil, err
	}
	for k, face := range p.Cut {
		b.hatch(v, face, ribs, b.hatching(p, k))
	}
	if v.revolved() {
		b.traced(v)
	}
	if !fromCorner(spec) {
		b.centreLines(v, p)
	}
	b.ends(v, p)
	if label := b.label(v); label != "" {
		middle := Point{(v.box.Min[0] + v.box.Max[0]) / 2, v.box.Max[1] + 4 + spec.LabelAway}
		b.text(Label, label, middle, 3.5, "middle", 0, "")
	}
	return v, nil
}

// placed is a view where it stands on the paper, and the curves that it shows.
func placed(s *exercise.Sheet, spec exercise.View, views map[string]*Projection) (*view, []solid.ViewCurve, error) {
	p := views[spec.ID]
	v := &view{spec: spec, frame: p.Frame, turn: p.Turn}
	name := spec.Scale
	if name == "" {
		name = s.Scale
	}
	var err error
	if v.scale, err = scaleFactor(name); err != nil {
		return nil, nil, fmt.Errorf("view %s: %w", spec.ID, err)
	}
	v.window = windowOf(&spec, v.local(p.Origin), v.scale)
	shown := v.shown(p)
	if len(shown) == 0 {
		return nil, nil, fmt.Errorf("view %s: nothing of the part lies in the piece that it shows", spec.ID)
	}
	lo, hi := bounds(shown)
	at := v.window.origin
	if spec.Middle {
		at = [2]float64{(lo[0] + hi[0]) / 2, (lo[1] + hi[1]) / 2}
	}
	v.origin = Point(spec.At).sub(Point(at).scale(v.scale))
	if v.revolved() {
		if v.origin, err = v.whereCut(s, views); err != nil {
			return nil, nil, err
		}
	}
	v.box = Extent{v.flat(lo), v.flat(hi)}
	if c := spec.Clip; c != nil && c.Size == nil { // its circle is drawn
		at, r := v.flat([2]float64{v.window.origin[0] + c.At[0], v.window.origin[1] + c.At[1]}), c.Radius*v.scale
		v.box = Extent{at.sub(Point{r, r}), at.add(Point{r, r})}
	}
	return v, shown, nil
}

// revolved tells whether the view is a section that stands where it is cut.
func (v *view) revolved() bool { return v.spec.Cut != nil && v.spec.Cut.Kind == exercise.RevolvedCut }

// whereCut is where the origin of a revolved section comes to lie: what it is cut through stands where its parent shows
// it (ISO 128-3).
func (v *view) whereCut(s *exercise.Sheet, views map[string]*Projection) (Point, error) {
	spec := s.View(v.spec.Parent)
	if spec == nil {
		return Point{}, fmt.Errorf("view %s: a revolved section stands on the sheet of the view that it is cut from",
			v.spec.ID)
	}
	parent, _, err := placed(s, *spec, views)
	if err != nil {
		return Point{}, err
	}
	at := views[v.spec.ID].Planes[0].At
	return parent.project(at).sub(Point(v.local(at)).scale(v.scale)), nil
}

// traced draws the line about which a revolved section is turned into its view: the cutting plane, seen edge on.
func (b *builder) traced(v *view) {
	const beyond = 3
	up := Point{0, 1}
	if parent := b.views[v.spec.Parent]; parent != nil && parent.direction(v.frame.Z)[0] == 0 {
		up = Point{1, 0} // the plane lies level in the parent
	}
	middle := v.box.Min.add(v.box.Max).scale(0.5)
	half := math.Abs(v.box.Max.sub(v.box.Min).dot(up))/2 + beyond
	at := v.project(b.projected.Views[v.spec.ID].Planes[0].At)
	middle = at.add(up.scale(middle.sub(at).dot(up)))
	b.drawn(v, middle.sub(up.scale(half)), middle.add(up.scale(half)),
		Item{Class: Centre, Width: 0.18, Dash: []float64{8, 1, 0.5, 1}})
}

// Settle places by their origins the views of sheets that are placed by the middle of what they show, as documents
// before exercise/3 have them. Nothing moves by more than half a thousandth of a millimetre.
func Settle(set exercise.Sheets, projected *Projected) error {
	for _, is := range set.Views() {
		s, spec := &set[set.On(is.ID)], set.View(is.ID)
		if !spec.Middle {
			continue
		}
		v, _, err := placed(s, *spec, projected.Views)
		if err != nil {
			return err
		}
		at := v.flat(v.window.origin)
		for k := range 2 {
			spec.At[k] = math.Round(1e3*at[k]) / 1e3
		}
		spec.Middle = false
	}
	return nil
}

// shown are the curves of a view that are drawn, where they are drawn.
func (v *view) shown(p *Projection) []solid.ViewCurve {
	var out []solid.ViewCurve
	for _, c := range p.Drawn {
		if c.Smooth && (c.Hidden || !v.spec.Smooth) || c.Hidden && !v.showsHidden() {
			continue
		}
		out = append(out, v.window.through(c)...)
	}
	return out
}

// showsHidden tells whether hidden edges are drawn: a section has none, but for one that is cut in a piece alone.
func (v *view) showsHidden() bool {
	return v.spec.Hidden && (v.spec.Cut == nil || v.spec.Cut.Kind == exercise.LocalCut)
}

// label is what stands over a view: the letters of a section or a detail, and the scale where it is its own.
func (b *builder) label(v *view) string {
	out := v.spec.Label
	if l := v.spec.Letter; l != "" && out == "" {
		if out = l; v.spec.Cut != nil {
			out = l + "–" + l
		}
	}
	if on := b.set().On(v.spec.Parent); out != "" && on >= 0 && on != max(0, b.number) {
		out += fmt.Sprintf(" from sheet %d", on+1)
	}
	if out != "" && v.spec.Letter != "" && v.spec.Scale != "" && v.spec.Scale != b.sheet.Scale {
		out += " (" + v.spec.Scale + ")"
	}
	return out
}

// curve draws a curve of a view, which is of some faces. Hidden outlines are narrow and dashed, visible
// ones wide, tangent edges narrow: types 02.1, 01.2 and 01.1 of ISO 128-2.
func (b *builder) curve(v *view, c solid.ViewCurve, faces []int) {
	it := Item{Class: Visible, Width: standards.LineWide, Faces: faces}
	switch {
	case v.revolved(): // narrow, upon the lines of its view (ISO 128-3)
		it.Class, it.Width = Thin, standards.LineNarrow
	case c.Hidden:
		it.Class, it.Width, it.Dash = Hidden, standards.LineNarrow, []float64{3, 1}
	case c.Smooth:
		it.Class, it.Width = Thin, standards.LineNarrow
	}
	b.strokeOf(v, c, it)
}

// strokeOf draws a curve of a view, which is where it is drawn, as an item is drawn.
func (b *builder) strokeOf(v *view, c solid.ViewCurve, it Item) {
	if c.Kind == "arc" {
		it.Kind, it.Centre, it.Radius, it.Start, it.Sweep = "arc", v.flat(c.Center), c.Radius*v.scale, c.Start, c.Sweep
	} else {
		it.Kind = "run"
		for _, p := range c.Points {
			it.Points = append(it.Points, v.flat(p))
		}
	}
	b.add(it)
}

// drawn draws a straight line of the view plane, as far as the view shows it.
func (b *builder) drawn(v *view, from, to Point, it Item) {
	line := solid.ViewCurve{Kind: "line", Points: [][2]float64{v.plane(from), v.plane(to)}}
	for _, c := range v.window.through(line) {
		b.strokeOf(v, c, it)
	}
}

// bounds is the box around curves. Arcs are walked in steps, so that it can be
// short of a true arc by the height over a chord of 1/64 of its sweep, under 0.2
// percent of the radius; views are placed by it and nothing is measured.
func bounds(curves []solid.ViewCurve) (lo, hi [2]float64) {
	lo, hi = [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	see := func(x, y float64) {
		lo = [2]float64{math.Min(lo[0], x), math.Min(lo[1], y)}
		hi = [2]float64{math.Max(hi[0], x), math.Max(hi[1], y)}
	}
	for _, c := range curves {
		for _, p := range c.Points {
			see(p[0], p[1])
		}
		if c.Kind == "arc" {
			for k := 0; k <= 64; k++ {
				t := c.Start + c.Sweep*float64(k)/64
				see(c.Center[0]+c.Radius*math.Cos(t), c.Center[1]+c.Radius*math.Sin(t))
			}
		}
	}
	return lo, hi
}

// hatch fills a cut face, given by its edges, with lines at 45 degrees (ISO 128-3: narrow lines, at
// a spacing suited to the area).
//
// Ribs that the cut goes along are left free. The shift by 1e-7 keeps lines from running exactly through corners, where
// a crossing would count twice.
func (b *builder) hatch(v *view, face []solid.Edge, ribs []outline, as hatching) {
	dir := polar(1, as.angle)
	normal := Point{-dir[1], dir[0]}
	area := v.outline(face)
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, p := range area {
		for _, q := range p.extent() {
			lo, hi = math.Min(lo, q.dot(normal)), math.Max(hi, q.dot(normal))
		}
	}
	for k := math.Ceil(lo / as.spacing); k*as.spacing < hi; k++ {
		at := k*as.spacing + 1e-7
		var left []stretch // what ribs leave free
		for _, r := range ribs {
			left = append(left, r.within(normal, dir, at)...)
		}
		for _, s := range area.within(normal, dir, at) {
			for _, piece := range rest(s, left, 0) {
				from, to := normal.scale(at).add(dir.scale(piece.from)), normal.scale(at).add(dir.scale(piece.to))
				b.drawn(v, from, to, Item{Class: Hatch, Width: 0.18})
			}
		}
	}
}

// outline is the outline of a flat face on the paper.
type outline []flat

// outline is that of a face which is given by its edges.
func (v *view) outline(face []solid.Edge) outline {
	var out outline
	for _, e := range face {
		if p, ok := v.flatten(e); ok {
			out = append(out, p)
		}
	}
	return out
}

// within is where the line normal·p = at runs inside the outline, along dir: odd crossings enter it and even ones leave
// it.
func (o outline) within(normal, dir Point, at float64) []stretch {
	var hits []float64
	for _, p := range o {
		hits = append(hits, p.meet(normal, dir, at)...)
	}
	sort.Float64s(hits)
	var out []stretch
	for i := 0; i+1 < len(hits); i += 2 {
		out = append(out, stretch{hits[i], hits[i+1]})
	}
	return out
}

// holds tells whether a place lies inside the outline.
func (o outline) holds(p Point) bool {
	return slices.ContainsFunc(o.within(Point{0, 1}, Point{1, 0}, p[1]+1e-7), func(s stretch) bool {
		return p[0] > s.from && p[0] < s.to
	})
}

// flat is an edge on the paper: a line, or an arc when radius is positive.
type flat struct {
	a, b, mid, centre Point
	radius            float64
	full              bool
}

// flatten is an edge as the view shows it. Of a circle the centre and radius are
// kept, since it is dimensioned by them even where it is seen as an ellipse or a
// line.
//
// A degenerate edge (the apex of a cone) has no length and no place in a
// picture.
func (v *view) flatten(e solid.Edge) (flat, bool) {
	if e.Degenerate {
		return flat{}, false
	}
	on := func(p solid.Vec) Point { return v.flat(v.local(p)) }
	f := flat{a: on(e.A), b: on(e.B), mid: on(e.Mid)}
	if e.Kind == solid.CircleEdge {
		f.centre, f.radius, f.full = on(e.Center), e.Radius*v.scale, e.A.Distance(e.B) < 1e-9
	}
	return f, true
}

// extent are points that an edge reaches to, for placing what stands beside it.
//
// Of a circle the square around it is taken; of an arc that is more than it
// needs.
func (f flat) extent() []Point {
	if f.radius > 0 {
		r := Point{f.radius, f.radius}
		return []Point{f.centre.sub(r), f.centre.add(r), f.a, f.b, f.mid}
	}
	return []Point{f.a, f.b}
}

// meet gives where the line normal·p = at crosses the edge, along dir.
//
// A line crosses a segment if its ends are on different sides; each end belongs
// to one side only, so that a corner is crossed once.
func (f flat) meet(normal, dir Point, at float64) []float64 {
	if f.radius == 0 {
		da, db := f.a.dot(normal)-at, f.b.dot(normal)-at
		if (da < 0) == (db < 0) {
			return nil
		}
		t := da / (da - db)
		return []float64{f.a.add(f.b.sub(f.a).scale(t)).dot(dir)}
	}
	h := at - f.centre.dot(normal)
	if math.Abs(h) >= f.radius {
		return nil
	}
	w := math.Sqrt(f.radius*f.radius - h*h)
	var out []float64
	for _, s := range []float64{-w, w} {
		p := normal.scale(at).add(dir.scale(f.centre.dot(dir) + s))
		if f.full || f.onArc(p) {
			out = append(out, p.dot(dir))
		}
	}
	return out
}

// onArc tells whether a point of the circle lies on the arc from a through mid
// to b.
//
// Angles are counted from a: the arc is that of the two which has the middle in
// it.
func (f flat) onArc(p Point) bool {
	angle := func(q Point) float64 { return math.Atan2(q[1]-f.centre[1], q[0]-f.centre[0]) }
	wrap := func(t float64) float64 { return math.Mod(t+4*math.Pi, 2*math.Pi) }
	a := angle(f.a)
	b, m, q := wrap(angle(f.b)-a), wrap(angle(f.mid)-a), wrap(angle(p)-a)
	if m <= b {
		return q <= b
	}
	return q >= b
}

// centreLines draws the axes of round faces that go more than half around: a
// cross where they are seen end on, a line where they lie in the view.
//
// Less than half of a round is a corner radius, which has no centre line (ISO
// 128-2). Holes with one axis share one cross, as large as the largest.
func (b *builder) centreLines(v *view, p *Projection) {
	type cross struct {
		at Point
		r  float64
	}
	type axis struct {
		at, dir Point
		lo, hi  float64
	}
	var crosses []cross
	var axes []axis
	for _, f := range b.geo.Faces {
		if (f.Kind != solid.CylinderFace && f.Kind != solid.ConeFace) || f.Around < math.Pi-0.01 {
			continue
		}
		middle := f.Origin.Add(f.Axis.Scale(f.Centroid.Sub(f.Origin).Dot(f.Axis)))
		at, turned := v.flat(v.local(middle)), v.shownAt(middle.Add(f.Axis)).Sub(v.shownAt(middle))
		if turned.Parallel(v.frame.Z, 1e-6) {
			r := f.Radius * v.scale
			i := slices.IndexFunc(crosses, func(c cross) bool { return c.at.distance(at) < 0.1 })
			if i < 0 {
				crosses = append(crosses, cross{at, r})
			} else {
				crosses[i].r = math.Max(crosses[i].r, r)
			}
			continue
		}
		if math.Abs(turned.Dot(v.frame.Z)) > 1e-6 {
			continue
		}
		// A section shows the axes that lie in the cut.
		if p.whole() && !slices.ContainsFunc(p.Planes, func(c Plane) bool { return c.holds(middle, f.Axis) }) {
			continue
		}
		dir := v.direction(turned).unit()
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, e := range f.Edges {
			for _, p := range []solid.Vec{b.geo.Edges[e].A, b.geo.Edges[e].B, b.geo.Edges[e].Mid} {
				t := v.flat(v.local(p)).sub(at).dot(dir)
				lo, hi = math.Min(lo, t), math.Max(hi, t)
			}
		}
		start, end := at.add(dir.scale(lo)), at.add(dir.scale(hi))
		i := slices.IndexFunc(axes, func(a axis) bool {
			off := start.sub(a.at)
			return math.Abs(math.Abs(a.dir.dot(dir))-1) < 1e-9 && off.sub(a.dir.scale(off.dot(a.dir))).norm() < 0.1
		})
		if i < 0 {
			axes = append(axes, axis{at, dir, lo, hi})
			continue
		}
		for _, p := range []Point{start, end} {
			t := p.sub(axes[i].at).dot(axes[i].dir)
			axes[i].lo, axes[i].hi = math.Min(axes[i].lo, t), math.Max(axes[i].hi, t)
		}
	}
	const beyond = 3
	line := func(p, q Point) {
		b.drawn(v, p, q, Item{Class: Centre, Width: 0.18, Dash: []float64{8, 1, 0.5, 1}})
	}
	for _, c := range crosses {
		e := c.r + beyond
		line(c.at.sub(Point{e, 0}), c.at.add(Point{e, 0}))
		line(c.at.sub(Point{0, e}), c.at.add(Point{0, e}))
	}
	for _, a := range axes {
		line(a.at.add(a.dir.scale(a.lo-beyond)), a.at.add(a.dir.scale(a.hi+beyond)))
	}
}
