package part

import (
	"math"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/solid"
)

// What a sketch gives to a step that makes material: its regions, or walls along
// its runs of curves. Each boundary carries the entity that it was drawn as,
// since all persistent names of faces begin with that.

// pair is a place of a sketch for the kernel.
func pair(v sketch.Vec) [2]float64 { return [2]float64{v.X, v.Y} }

// segment is the piece of a curve between two of its parameters.
//
// Kinds, parameters and ends are handed on as they are, and not as a polygon or
// a spline, so that a circle of the sketch is a cylinder of the part and its
// diameter can be measured.
func segment(c *sketch.Curve, lo, hi float64, forward bool) solid.Segment {
	a, b, m := c.Point(lo), c.Point(hi), c.Point((lo+hi)/2)
	if !forward {
		a, b = b, a
	}
	s := solid.Segment{Kind: c.Kind, A: pair(a), B: pair(b), Mid: pair(m), Center: pair(c.Center), Radius: c.Radius,
		Forward: forward, Lo: lo, Hi: hi}
	switch c.Kind {
	case sketch.KindEllipse, sketch.KindEllArc:
		s.Kind, s.U, s.V = "ellipse", pair(c.U), pair(c.V)
	case sketch.KindSpline:
		s.Knots = c.Knots
		for _, q := range c.Poles {
			s.Poles = append(s.Poles, pair(q))
		}
	}
	return s
}

// outline is a profile with the entity of every edge, numbered through all loops.
//
// Owners are counted through all loops in the order in which the kernel gives
// back edges as sources, so that the number of a source is the place in the
// list.
type outline struct {
	solid.Profile
	owners []string
}

// placedSketch finds a sketch that comes before the step.
//
// Only sketches before the step are known to it: what a step is made from does
// not hang on what is made from the step.
func (w *worker) placedSketch(id string) (*placed, error) {
	p, ok := w.state.sketches[id]
	if id == "" {
		return nil, because("choose a sketch", "it names no sketch")
	}
	if !ok {
		return nil, because("name a sketch that comes before this step", "there is no sketch %q", id)
	}
	return p, nil
}

// Drawn is what a step takes of a sketch: regions of it, or thin walls along its curves.
//
// The wall, where there is one, wins: its sketch need not enclose anything.
type Drawn struct {
	Sketch  string   `json:"sketch,omitempty"`
	Regions *Regions `json:"regions,omitempty"`
	Wall    *Wall    `json:"wall,omitempty"`
}

// The formula of the wall is told under the path that the form has for it, so
// that a mistake in it is shown at its field.
func (do *Drawn) visit(v *visitor) {
	v.steps(do.Sketch)
	if do.Wall != nil {
		v.length("wall.thickness", "thickness", &do.Wall.Thickness)
	}
}

// drawnFields asks for a sketch and its regions, and wallFields for a wall in their place.
func drawnFields() []Field {
	return []Field{sketchField(), {Path: "regions", Label: "Regions", Kind: asRegions,
		Hint: "all material, or the regions that you pick", Default: "all"}}
}

// sketchField asks for the sketch that a step is drawn on.
//
// It has no first value: which sketch is meant is asked, not guessed.
func sketchField() Field { return Field{Path: "sketch", Label: "Sketch", Kind: asSketch} }

// wallFields make a wall along curves in the place of a region.
func wallFields() []Field {
	return []Field{optional(Field{Path: "wall.thickness", Label: "Thin wall", Kind: asLength,
		Hint: "a wall along the curves in place of the regions"}),
		{Path: "wall.side", Label: "Wall lies", Kind: asChoice, Options: []string{"middle", "left", "right"},
			When: "wall.thickness", Default: "middle"}}
}

// profiles gives the regions of the sketch, or the walls along its curves.
//
// Each region is a profile of its own: two regions that touch in a point would
// make a solid that is none if they were one.
func (do *Drawn) profiles(w *worker) (*placed, []outline, error) {
	p, err := w.placedSketch(do.Sketch)
	if err != nil {
		return nil, nil, err
	}
	if do.Wall != nil {
		list, err := do.walls(w, p)
		return p, list, err
	}
	chosen, err := w.choose(p, do.Sketch, do.Regions)
	if err != nil {
		return nil, nil, err
	}
	var list []outline
	for _, r := range chosen {
		list = append(list, outlined(p.frame, r))
	}
	return p, list, nil
}

// outlined is a region as a profile for the kernel, with the entity that each
// side comes from: the faces of the solid are named after them. Ends are taken
// as the regions joined them, so that a loop closes to the last bit and the
// kernel does not have to decide what is near enough.
func outlined(f solid.Frame, r sketch.Region) outline {
	o := outline{Profile: solid.Profile{Frame: f}}
	for _, loop := range append([]sketch.Loop{r.Outer}, r.Holes...) {
		var segs []solid.Segment
		for _, g := range loop {
			s := segment(g.Curve, g.Lo, g.Hi, g.Forward)
			s.A, s.B = pair(g.A), pair(g.B) // the ends as the regions joined them
			if g.Kind == sketch.KindArc {
				s.Kind = "arc"
				if g.Full {
					s.Kind = "circle"
				}
			}
			segs = append(segs, s)
			o.owners = append(o.owners, g.Entity)
		}
		o.Loops = append(o.Loops, segs)
	}
	return o
}

// choose picks regions of a sketch.
//
// Without a choice it is all that is material by the even-odd rule, which is how
// a drawing hatches. Regions are named by a point in them or by what bounds
// them; a name that no longer fits is an error, because any other region in its
// place would be another part and nobody would notice.
func (w *worker) choose(p *placed, id string, want *Regions) ([]sketch.Region, error) {
	if len(p.regions) == 0 {
		return nil, because("close the profile: look at the open ends of the sketch", "%s encloses no region",
			calledStep(id))
	}
	var out []sketch.Region
	switch {
	case want == nil || want.All:
		for _, r := range p.regions {
			if r.Depth%2 == 0 {
				out = append(out, r)
			}
		}
	case want.Holding != nil:
		for _, name := range want.Holding {
			at, ok := p.solution.Points[name]
			if name == sketch.Origin {
				ok = true
			}
			if !ok {
				return nil, because("choose the region anew", "a point that bounds it is not in %s any more", calledStep(id))
			}
			i := slices.IndexFunc(p.regions, func(r sketch.Region) bool { return r.Contains(at) })
			if i < 0 {
				return nil, because("choose the region anew", "%s lies in no region any more", p.call(name))
			}
			out = append(out, p.regions[i])
		}
	default:
		for _, bounds := range want.Bounded {
			n := len(out)
			for _, r := range p.regions {
				if r.BoundedBy(bounds) {
					out = append(out, r)
				}
			}
			if len(out) == n {
				var words []string
				for _, b := range bounds {
					words = append(words, p.call(strings.TrimSuffix(strings.TrimSuffix(b, ".left"), ".right")))
				}
				return nil, because("choose the region anew", "%s has no region bounded by %s any more", calledStep(id),
					quantity.List(words, 4))
			}
		}
	}
	return out, nil
}

// sameSet compares lists without regard to order or repeats.
//
// Documents list bounds as they were picked, and a hand may pick one twice.
func sameSet(sorted, want []string) bool {
	m := map[string]bool{}
	for _, s := range want {
		m[s] = true
	}
	if len(m) != len(sorted) {
		return false
	}
	for _, s := range sorted {
		if !m[s] {
			return false
		}
	}
	return true
}

// run is a row of curves, each beginning where the last ended.
//
// Forward says of each curve whether it is run from its A to its B.
type run struct {
	curves  []sketch.Curve
	forward []bool
	closed  bool
}

// at gives the end of piece i of the run: its beginning or its end.
func (r *run) at(i int, end bool) sketch.Vec {
	if r.forward[i] == end {
		return r.curves[i].B
	}
	return r.curves[i].A
}

// segments are the pieces of the run and the entities that they are.
func (r *run) segments() (segs []solid.Segment, owners []string) {
	for i := range r.curves {
		c := &r.curves[i]
		lo, hi := c.Range()
		segs, owners = append(segs, segment(c, lo, hi, r.forward[i])), append(owners, c.ID)
	}
	return segs, owners
}

// reverse turns the run round.
//
// Both the order and every direction turn: a run read backwards is the same
// places.
func (r *run) reverse() {
	slices.Reverse(r.curves)
	slices.Reverse(r.forward)
	for i := range r.forward {
		r.forward[i] = !r.forward[i]
	}
}

const joined = 1e-6 // ends nearer than this are one place, mm

// rows are the curves of a sketch that are no guides, put one after the other.
type rows struct {
	list []sketch.Curve
	used []bool
}

// meets lists the open curves that end at a place.
//
// A closed curve meets nothing with its ends; it has none.
func (r *rows) meets(p sketch.Vec) (out []int) {
	for i, c := range r.list {
		if !c.Closed() && (c.A.Distance(p) < joined || c.B.Distance(p) < joined) {
			out = append(out, i)
		}
	}
	return out
}

// grow follows curves from one on, as far as unused ones go on.
//
// It is closed when it comes back to its own beginning. One curve alone cannot
// close so: an arc whose ends are one place is a circle.
func (r *rows) grow(start int, forward bool) *run {
	out := &run{}
	for i := start; ; {
		r.used[i] = true
		out.curves, out.forward = append(out.curves, r.list[i]), append(out.forward, forward)
		end := out.at(len(out.curves)-1, true)
		next := -1
		for _, k := range r.meets(end) {
			if !r.used[k] {
				next = k
			}
		}
		if next < 0 {
			out.closed = len(out.curves) > 1 && end.Distance(out.at(0, false)) < joined
			return out
		}
		i, forward = next, r.list[next].A.Distance(end) < joined
	}
}

// from gives the row that a curve is in: it walks back to an open end, or round to the curve.
//
// So a row always begins at an end that is open, if it has one, and a change of
// size does not make it begin elsewhere: first and last, left and right of a
// wall hang on it.
func (r *rows) from(i int) *run {
	at, end := i, r.list[i].A
	for range r.list {
		m := r.meets(end)
		if len(m) < 2 {
			return r.grow(at, r.list[at].A.Distance(end) < joined)
		}
		k := m[0]
		if k == at {
			k = m[1]
		}
		if r.list[k].A.Distance(end) < joined {
			end = r.list[k].B
		} else {
			end = r.list[k].A
		}
		if at = k; at == i {
			break
		}
	}
	return r.grow(i, true)
}

// runs puts the curves of a sketch in rows. A row begins with the curve that was
// drawn first, at an open end; where more than two curves meet there is no row.
//
// Rows with ends come first, then closed curves, each in the order in which they
// were drawn. Order and direction must not change when a size does: the names of
// the faces that come of them are made from both.
func runs(curves []sketch.Curve, unit quantity.Unit) ([]*run, error) {
	r := &rows{}
	for _, c := range curves {
		if !c.Guide {
			r.list = append(r.list, c)
		}
	}
	r.used = make([]bool, len(r.list))
	for _, c := range r.list {
		for _, p := range []sketch.Vec{c.A, c.B} {
			if n := r.meets(p); !c.Closed() && len(n) > 2 {
				return nil, because("leave one row of curves, or make the others guide lines", "%d curves meet at %s", len(n),
					calledPlace(unit, p.X, p.Y))
			}
		}
	}
	var out []*run
	for i, c := range r.list { // rows with ends first
		if !r.used[i] && !c.Closed() {
			out = append(out, r.from(i))
		}
	}
	for _, c := range r.list {
		if c.Closed() {
			out = append(out, &run{curves: []sketch.Curve{c}, forward: []bool{true}, closed: true})
		}
	}
	return out, nil
}

// walls are the thin profiles along the runs of a sketch.
//
// The two sides are the runs moved to the left by left and right. Those of a
// closed run are two loops, outside and hole, and those of an open one are
// joined at the ends by lines that are called first and last.
func (do *Drawn) walls(w *worker, p *placed) ([]outline, error) {
	t, err := w.positive("wall", do.Wall.Thickness, quantity.Length)
	if err != nil {
		return nil, err
	}
	left, right := 0.0, 0.0
	switch do.Wall.Side {
	case "left":
		left = t
	case "right":
		right = -t
	case "", "middle":
		left, right = t/2, -t/2
	default:
		return nil, because("use left, right or middle", "%q is not a side of a wall", do.Wall.Side)
	}
	list, err := runs(p.solution.Curves, w.table.Unit())
	if err != nil {
		return nil, err
	}
	if len(list) == 0 {
		return nil, because("draw the middle or one side of the wall", "%s has no curves", calledStep(do.Sketch))
	}
	var out []outline
	for _, r := range list {
		o := outline{Profile: solid.Profile{Frame: p.frame}}
		a, err := r.offset(left, p.call)
		if err != nil {
			return nil, err
		}
		b, err := r.offset(right, p.call)
		if err != nil {
			return nil, err
		}
		if r.closed {
			// The larger of the two is the boundary, counter-clockwise, the other its hole.
			outer, hole, side, other := a, b, ".left", ".right"
			if math.Abs(a.area()) < math.Abs(b.area()) {
				outer, hole, side, other = b, a, other, side
			}
			if outer.area() < 0 {
				outer.reverse()
			}
			if hole.area() > 0 {
				hole.reverse()
			}
			o.add(outer, side)
			o.add(hole, other)
		} else {
			b.reverse()
			as, an := a.owned(".left")
			bs, bn := b.owned(".right")
			line := func(a, b [2]float64) solid.Segment { return solid.Segment{Kind: "line", A: a, B: b} }
			loop := append(as, line(as[len(as)-1].B, bs[0].A))
			first := as[0].A
			loop = append(loop, bs...)
			loop = append(loop, line(bs[len(bs)-1].B, first))
			o.Loops = [][]solid.Segment{loop}
			o.owners = append(append(append(an, "last"), bn...), "first")
		}
		out = append(out, o)
	}
	return out, nil
}

// owned gives the pieces of the run with the names that their faces will have.
//
// Left and right are as seen along the run.
func (r *run) owned(side string) ([]solid.Segment, []string) {
	segs, owners := r.segments()
	for i := range owners {
		owners[i] += side
	}
	return segs, owners
}

// add puts a closed run into an outline.
func (o *outline) add(r *run, side string) {
	segs, owners := r.owned(side)
	o.Loops, o.owners = append(o.Loops, segs), append(o.owners, owners...)
}

// area is the signed area of a closed run: positive counter-clockwise. Curves
// count by their ends and middles.
//
// Only its sign is used, to tell which way round the run goes; chords to ends
// and middles give it for every run that does not cross itself.
func (r *run) area() float64 {
	if c := r.curves[0]; c.Kind == sketch.KindCircle {
		if r.forward[0] {
			return math.Pi * c.Radius * c.Radius
		}
		return -math.Pi * c.Radius * c.Radius
	}
	sum := 0.0
	last := r.at(0, false)
	for i := range r.curves {
		c := &r.curves[i]
		lo, hi := c.Range()
		for _, p := range []sketch.Vec{c.Point((lo + hi) / 2), r.at(i, true)} {
			sum += last.Cross(p)
			last = p
		}
	}
	return sum / 2
}

// offset moves a run of lines, arcs and circles to its left by d (to the right by
// a negative one); the corners stay corners.
//
// A line moves along its normal and an arc keeps its centre. Where two moved
// neighbours do not end in one place any more, both are lengthened or cut to
// where they cross, nearest to the middle of the gap. A line that comes out the
// other way round was eaten up by its neighbours: the wall is too thick for it.
// The inside of an arc goes to its centre at most.
func (r *run) offset(d float64, call func(id string) string) (*run, error) {
	out := &run{forward: slices.Clone(r.forward), closed: r.closed}
	for i, c := range r.curves {
		by := d
		if !r.forward[i] {
			by = -d
		}
		switch c.Kind {
		case sketch.KindLine:
			n := c.B.Sub(c.A).Unit().Left().Scale(by)
			c.A, c.B = c.A.Add(n), c.B.Add(n)
		case sketch.KindArc, sketch.KindCircle:
			// Round curves run counter-clockwise: their left is inside.
			if c.Radius-by < 1e-6 {
				return nil, because("make the wall thinner or the radius larger", "the wall is thicker than the radius of %s",
					call(c.ID))
			}
			scale := (c.Radius - by) / c.Radius
			c.Radius -= by
			c.A, c.B = c.Center.Add(c.A.Sub(c.Center).Scale(scale)), c.Center.Add(c.B.Sub(c.Center).Scale(scale))
		default:
			return nil, because("use lines, arcs and circles", "a wall cannot follow %s", call(c.ID))
		}
		out.curves = append(out.curves, c)
	}
	n := len(out.curves)
	for i := range n {
		k := (i + 1) % n
		if n == 1 || k == 0 && !r.closed {
			break
		}
		a, b := out.at(i, true), out.at(k, false)
		if a.Distance(b) < joined {
			continue
		}
		q, ok := crossing(&out.curves[i], &out.curves[k], a.Midpoint(b))
		if !ok {
			return nil, because("make the wall thinner", "the sides of the wall do not meet between %s and %s",
				call(out.curves[i].ID), call(out.curves[k].ID))
		}
		set := func(i int, end bool) {
			if out.forward[i] == end {
				out.curves[i].B = q
			} else {
				out.curves[i].A = q
			}
		}
		set(i, true)
		set(k, false)
	}
	for i, c := range out.curves {
		if was := r.curves[i]; c.Kind == sketch.KindLine && c.B.Sub(c.A).Dot(was.B.Sub(was.A)) <= 0 {
			return nil, because("make the wall thinner", "the wall is too thick for %s", call(c.ID))
		}
	}
	return out, nil
}

// crossing is the place nearest to p where the whole lines or circles of two
// curves cross.
//
// It is the meeting of sketch regions without their tolerance, as the curves
// here are known to cross somewhere: taken whole they only need a choice of two.
func crossing(c, d *sketch.Curve, p sketch.Vec) (sketch.Vec, bool) {
	if c.Kind != sketch.KindLine && d.Kind == sketch.KindLine {
		c, d = d, c
	}
	var all []sketch.Vec
	switch {
	case d.Kind == sketch.KindLine:
		u, v := c.B.Sub(c.A), d.B.Sub(d.A)
		if x := u.Cross(v); math.Abs(x) > 1e-12*u.Norm()*v.Norm() {
			all = append(all, c.A.Add(u.Scale(d.A.Sub(c.A).Cross(v)/x)))
		}
	case c.Kind == sketch.KindLine:
		u := c.B.Sub(c.A).Unit()
		foot := c.A.Add(u.Scale(d.Center.Sub(c.A).Dot(u)))
		if h := d.Radius*d.Radius - foot.Sub(d.Center).Dot(foot.Sub(d.Center)); h >= 0 {
			all = append(all, foot.Add(u.Scale(math.Sqrt(h))), foot.Sub(u.Scale(math.Sqrt(h))))
		}
	default:
		v := d.Center.Sub(c.Center)
		l := v.Norm()
		if l < 1e-12 {
			break
		}
		x := (l*l + c.Radius*c.Radius - d.Radius*d.Radius) / (2 * l)
		if h := c.Radius*c.Radius - x*x; h >= 0 {
			foot, n := c.Center.Add(v.Scale(x/l)), v.Unit().Left().Scale(math.Sqrt(h))
			all = append(all, foot.Add(n), foot.Sub(n))
		}
	}
	if len(all) == 0 {
		return p, false
	}
	return slices.MinFunc(all, func(a, b sketch.Vec) int {
		if a.Distance(p) < b.Distance(p) {
			return -1
		}
		return 1
	}), true
}
