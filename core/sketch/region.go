package sketch

import (
	"math"
	"slices"
	"sort"
	"strings"

	"fmt"
	"hammerset/core/partition"
)

// Closed areas are found as the bounded faces of a planar arrangement: all
// curves are cut where they meet, dangling pieces are taken off, and the faces
// are run round edge by edge (the half-edge method; de Berg et al.,
// Computational Geometry, chapter 2). Places are compared with one tolerance,
// that of measure, so that two questions about one place cannot be answered
// differently.

// Segment is a piece of a region's boundary: the part of a curve between two
// points, run from A to B. A full circle or ellipse has A equal to B.
type Segment struct {
	Entity  string
	Kind    string // line, arc, ellipse or spline
	A, B    Vec
	Center  Vec
	Radius  float64
	Forward bool // runs as its curve does; round curves run counter-clockwise
	Full    bool
	Curve   *Curve  // what it is a piece of
	Lo, Hi  float64 // the parameters of its ends along the curve, Lo < Hi
}

// Mid is the middle of the segment, by the parameter.
func (g Segment) Mid() Vec { return g.Curve.Point((g.Lo + g.Hi) / 2) }

// area is the segment's share of the signed area of its loop, by Green's
// theorem: the triangle to the origin plus what the curve adds to it.
//
// With the segment written C(t), t from lo to hi, Green's theorem gives the area
// swept from the origin as ½∫ C × C′ dt. It is split in the triangle O-A-B,
// which needs only the ends (and these are the joined ones, so that a loop
// closes), and the sliver between chord and curve: ½r²(t - sin t) for an arc,
// ½(U × V)(t - sin t) for its affine image, and a Gauss integral for a spline.
func (g Segment) area() float64 {
	a := 0.0
	switch g.Kind {
	case KindLine:
		return g.A.Cross(g.B) / 2
	case KindArc:
		t := g.Hi - g.Lo
		a = g.Radius * g.Radius * (t - math.Sin(t)) / 2
	case KindEllipse: // the affine image of an arc
		t := g.Hi - g.Lo
		a = g.Curve.U.Cross(g.Curve.V) * (t - math.Sin(t)) / 2
	default:
		from, to := g.Curve.Point(g.Lo), g.Curve.Point(g.Hi)
		a = g.Curve.integrate(g.Lo, g.Hi, func(p, d Vec) float64 { return p.Cross(d) / 2 }) - from.Cross(to)/2
	}
	if !g.Forward {
		a = -a
	}
	return a + g.A.Cross(g.B)/2
}

// Samples are points along the segment from A to B, within tol of it.
//
// The first and the last are the joined ends and not the curve's own, or the
// polygon of a loop would have gaps as wide as the tolerance.
func (g Segment) Samples(tol float64) []Vec {
	out := g.Curve.Samples(g.Lo, g.Hi, tol)
	if !g.Forward {
		slices.Reverse(out)
	}
	out[0], out[len(out)-1] = g.A, g.B
	return out
}

// Loop is a closed boundary.
type Loop []Segment

// Area is the signed area: positive when the loop runs counter-clockwise.
//
// The triangles to the origin cancel around a closed loop, wherever the origin
// is.
func (l Loop) Area() float64 {
	a := 0.0
	for _, g := range l {
		a += g.area()
	}
	return a
}

// Region is a closed area with its holes. The outer loop runs counter-clockwise
// and the holes clockwise. Depth counts the boundaries around it: material by
// the even-odd rule is where Depth is even.
type Region struct {
	Outer Loop
	Holes []Loop
	Depth int
}

// Area is the area inside the outer loop without the holes, in mm².
func (r Region) Area() float64 {
	a := r.Outer.Area()
	for _, h := range r.Holes {
		a += h.Area()
	}
	return a
}

// Bounds lists the entities of the outer loop, sorted, each once.
//
// They name the region in a document: entities keep their names when sizes
// change, whereas the number of a region in the list does not.
//
// Arcs and splines are sampled to a hundredth of their size: this box frames a
// picture, and the box of a flat arc's whole circle would leave the picture
// empty.
func (r Region) Bounds() []string {
	seen := map[string]bool{}
	var out []string
	for _, g := range r.Outer {
		if !seen[g.Entity] {
			seen[g.Entity] = true
			out = append(out, g.Entity)
		}
	}
	sort.Strings(out)
	return out
}

// Sides of a curve that a region lies on, in names of bounds: "l1.left".
const (
	onLeft  = ".left"
	onRight = ".right"
)

// sides tells on which sides of the entities of its outer loop the region lies. It lies to the
// left of the way around it.
func (r Region) sides() map[string]string {
	out := map[string]string{}
	for _, g := range r.Outer {
		side := onRight
		if g.Forward {
			side = onLeft
		}
		if was, ok := out[g.Entity]; ok && was != side {
			side = "" // on both
		}
		out[g.Entity] = side
	}
	return out
}

// BoundsAmong are the bounds by which a region is told from others: where several have the same,
// each entity says on which side of it this one lies.
func (r Region) BoundsAmong(all []Region) []string {
	own := r.Bounds()
	same := 0
	for _, o := range all {
		if slices.Equal(o.Bounds(), own) {
			same++
		}
	}
	if same < 2 {
		return own
	}
	sides := r.sides()
	for i, id := range own {
		own[i] = id + sides[id]
	}
	return own
}

// BoundedBy tells whether the outer loop is made of just the named entities, on the sides that
// are said.
func (r Region) BoundedBy(bounds []string) bool {
	sides := r.sides()
	seen := map[string]bool{}
	for _, b := range bounds {
		id, side := b, ""
		for _, s := range []string{onLeft, onRight} {
			if strings.HasSuffix(b, s) {
				id, side = strings.TrimSuffix(b, s), s
			}
		}
		is, ok := sides[id]
		if !ok || side != "" && is != side {
			return false
		}
		seen[id] = true
	}
	return len(seen) == len(sides)
}

// Problem is a reason why geometry encloses no region, with its place. Near is
// the other place that is meant: the open end nearest to an open end.
type Problem struct {
	Kind     string // "open-end", "doubled", "left-over" (leads nowhere) or "crossing" (runs on past another curve)
	At       Vec
	Near     *Vec
	Entities []string
	Gap      float64 // distance to Near, for an open end; else the length that is too much
	words    string  // with {length} where a length stands, {0} and {1} for the entities
	length   float64 // that length
}

// Message says what is wrong; length writes a length with its unit, and call an entity.
func (p *Problem) Message(length func(mm float64) string, call func(id string) string) string {
	pairs := []string{"{length}", length(p.length)}
	for i, id := range p.Entities {
		pairs = append(pairs, fmt.Sprintf("{%d}", i), call(id))
	}
	return strings.NewReplacer(pairs...).Replace(p.words)
}

// piece is an undivided part of a curve between two nodes.
type piece struct {
	curve  int
	a, b   int // nodes
	seg    Segment
	doomed bool
}

// A half is one side of a piece: each piece bounds the face to its left and, run
// the other way, the face to its right.
type half struct {
	piece   int
	forward bool
}

// Regions finds all closed areas of the curves that are not guide lines, and
// what keeps others from closing.
//
// Guide lines take no part: they are there to measure from. Problems do not keep
// other regions from being found, since a half-drawn sketch is the usual one.
func Regions(curves []Curve) ([]Region, []Problem) {
	a := arrangement{curves: curves}
	a.measure()
	a.split()
	problems := a.prune()
	loops := a.trace()
	return a.nest(loops), problems
}

// An arrangement is a plane cut up by curves: nodes are places, pieces the
// undivided parts of curves between two nodes. By Euler's formula the number of
// bounded faces is pieces - nodes + connected parts, which the tests count.
type arrangement struct {
	curves []Curve
	eps    float64
	nodes  []Vec
	pieces []piece
}

// measure sets below what distance two places are one: a millionth of the
// largest curve. What a solver leaves is a thousandth of that, and what a hand
// has drawn apart is a thousand times more.
func (a *arrangement) measure() {
	size := 0.0
	for i := range a.curves {
		size = math.Max(size, a.curves[i].size())
	}
	a.eps = math.Max(1e-6*size, 1e-7)
}

// node is the number of a place, which is the same for all ends within the
// tolerance. A sketch has few hundred ends, so that looking through all of them
// is quick enough.
func (a *arrangement) node(p Vec) int {
	for i, q := range a.nodes {
		if p.near(q, a.eps) {
			return i
		}
	}
	a.nodes = append(a.nodes, p)
	return len(a.nodes) - 1
}

// param gives where p stands along a curve, from its start; ok is false when p
// is not on it.
//
// It is the line's share of its length, the angle of a round curve counted on
// from its start, and a spline's parameter. For each the tolerance is a distance
// in mm across and along the curve, and is divided by the curve's size where the
// parameter is an angle. An angle just short of a full turn is read as just
// before the start: the start itself, computed with an error, comes out so.
func (a *arrangement) param(c *Curve, p Vec) (t float64, ok bool) {
	lo, hi := c.Range()
	switch c.Kind {
	case KindLine:
		d := c.B.Sub(c.A)
		l := d.Norm()
		if l == 0 {
			return 0, false
		}
		t = p.Sub(c.A).Dot(d) / (l * l)
		off := math.Abs(d.Cross(p.Sub(c.A))) / l
		return t, off <= a.eps && t >= -a.eps/l && t <= 1+a.eps/l
	case KindSpline:
		t, q := c.Nearest(p)
		return t, q.Distance(p) <= 2*a.eps
	case KindCircle, KindArc:
		if math.Abs(p.Distance(c.Center)-c.Radius) > a.eps {
			return 0, false
		}
		t = c.Center.AngleTo(p)
	default:
		t = c.eccentric(p)
		if c.Point(t).Distance(p) > 2*a.eps {
			return 0, false
		}
	}
	t = lo + wrap(t-lo)
	if c.Closed() {
		return t, true
	}
	slack := 2 * a.eps / c.size()
	if t > lo+2*math.Pi-slack {
		t -= 2 * math.Pi
	}
	return t, t >= lo-slack && t <= hi+slack
}

// wrap takes an angle into [0, 2π).
func wrap(t float64) float64 {
	t = math.Mod(t, 2*math.Pi)
	if t < 0 {
		t += 2 * math.Pi
	}
	return t
}

// meet lists the points common to two curves taken as infinite lines and full
// circles; callers test the ends.
//
// Two lines A + su and B + tv meet at s = (B - A) × v / u × v. Of a line and a
// circle, the foot of the centre on the line is at h from the centre, and the
// places are √(r² - h²) to both sides of it. Of two circles whose centres are l
// apart, the chord that they share crosses the line of the centres at
//
//	x = (l² + r₁² - r₂²) / 2l
//
// from the first centre and is √(r₁² - x²) long on either side. Lines that are
// parallel to twelve digits, and circles with one centre, have no common point
// or all; pieces that lie on one another are found by prune.
func (a *arrangement) meet(c, d *Curve) []Vec {
	if !plain(c) || !plain(d) {
		return a.meetFreely(c, d)
	}
	if c.Kind == KindLine && d.Kind == KindLine {
		u, v := c.B.Sub(c.A), d.B.Sub(d.A)
		den := u.Cross(v)
		if math.Abs(den) <= 1e-12*u.Norm()*v.Norm() {
			return nil
		}
		return []Vec{c.A.Add(u.Scale(d.A.Sub(c.A).Cross(v) / den))}
	}
	if c.Kind == KindLine {
		u := c.B.Sub(c.A)
		l := u.Norm()
		if l == 0 {
			return nil
		}
		u = u.Scale(1 / l)
		foot := c.A.Add(u.Scale(d.Center.Sub(c.A).Dot(u)))
		h := foot.Distance(d.Center)
		if h > d.Radius+a.eps {
			return nil
		}
		w := math.Sqrt(math.Max(0, d.Radius*d.Radius-h*h))
		if math.Abs(h-d.Radius) <= a.eps {
			return []Vec{a.touch(foot, c, d, d.Radius)}
		}
		return []Vec{foot.Add(u.Scale(w)), foot.Sub(u.Scale(w))}
	}
	if d.Kind == KindLine {
		return a.meet(d, c)
	}
	u := d.Center.Sub(c.Center)
	l := u.Norm()
	if l <= a.eps || l > c.Radius+d.Radius+a.eps || l < math.Abs(c.Radius-d.Radius)-a.eps {
		return nil
	}
	x := (l*l + c.Radius*c.Radius - d.Radius*d.Radius) / (2 * l)
	u = u.Scale(1 / l)
	foot := c.Center.Add(u.Scale(x))
	w2 := c.Radius*c.Radius - x*x
	if math.Abs(l-(c.Radius+d.Radius)) <= a.eps || math.Abs(l-math.Abs(c.Radius-d.Radius)) <= a.eps || w2 <= 0 {
		return []Vec{a.touch(c.Center.Add(u.Scale(math.Copysign(c.Radius, x))), c, d, math.Min(c.Radius, d.Radius))}
	}
	n := Vec{-u.Y, u.X}.Scale(math.Sqrt(w2))
	return []Vec{foot.Add(n), foot.Sub(n)}
}

// touch is where two curves touch: the place itself, or the end of one of them that lies so near
// to it that nothing tells the two apart. Along the curves a place of touching is only known to
// the square root of how well it is known across them.
//
// Where a line touches a circle of radius r, moving the line by eps across moves
// the place by √(2 r eps) along. So an end of a curve that is as near as that,
// and lies on both curves, is taken for the place: the one who drew it meant the
// end.
func (a *arrangement) touch(p Vec, c, d *Curve, radius float64) Vec {
	reach := 2 * math.Sqrt(2*radius*a.eps)
	best := p
	for _, k := range []*Curve{c, d} {
		if k.Closed() {
			continue
		}
		for _, e := range []Vec{k.A, k.B} {
			_, on1 := a.param(c, e)
			_, on2 := a.param(d, e)
			if off := e.Distance(p); on1 && on2 && off <= reach {
				best, reach = e, off
			}
		}
	}
	return best
}

// plain tells lines and circular curves from the others.
func plain(c *Curve) bool {
	return c.Kind == KindLine || c.Kind == KindCircle || c.Kind == KindArc
}

// meetFreely finds the common points of two curves of which one is an ellipse
// or a spline: chords that cross or nearly touch give starts for Newton's
// iteration on C(t) = D(u).
//
// With the gap g = D(u) - C(t) and the tangents v and w, one step of Newton's
// method solves v dt - w du = g, by Cramer's rule dt = g × w / v × w and du = g
// × v / v × w. A step is held to two chords, so that a start does not run off to
// another meeting that has a start of its own. Where the tangents are parallel
// the matrix is singular and the curves at best touch: there the nearest point
// is looked for.
func (a *arrangement) meetFreely(c, d *Curve) []Vec {
	ct, cp := chords(c)
	dt, dp := chords(d)
	var out []Vec
	add := func(p Vec) {
		for _, q := range out {
			if q.near(p, 4*a.eps) {
				return
			}
		}
		out = append(out, p)
	}
	for i := 0; i+1 < len(cp); i++ {
		near := cp[i].Distance(cp[i+1])
		for j := 0; j+1 < len(dp); j++ {
			reach := near + dp[j].Distance(dp[j+1])
			if cp[i].Midpoint(cp[i+1]).Distance(dp[j].Midpoint(dp[j+1])) > reach {
				continue
			}
			t, u := (ct[i]+ct[i+1])/2, (dt[j]+dt[j+1])/2
			cw, dw := 2*(ct[i+1]-ct[i]), 2*(dt[j+1]-dt[j])
			for range 40 {
				gap := d.Point(u).Sub(c.Point(t))
				v, w := c.Tangent(t), d.Tangent(u)
				den := v.Cross(w)
				if math.Abs(den) < 1e-9*v.Norm()*w.Norm() { // touching: go to the nearest point
					t += gap.Dot(v) / v.Dot(v) / 2
					_, q := d.Nearest(c.Point(t))
					if q.near(c.Point(t), a.eps) {
						add(q)
					}
					break
				}
				dt2, du := gap.Cross(w)/den, gap.Cross(v)/den
				t, u = t+math.Max(-cw, math.Min(cw, dt2)), u+math.Max(-dw, math.Min(dw, du))
				if math.Abs(dt2)*v.Norm()+math.Abs(du)*w.Norm() < a.eps/100 {
					break
				}
			}
			if p, q := c.Point(t), d.Point(u); p.near(q, a.eps) {
				add(p.Midpoint(q))
			}
		}
	}
	return out
}

// chords is a curve as a chain of chords with their parameters, for finding
// roughly where two curves meet; the places are then made exact by Newton's
// method. A spline has twelve chords to a span, and a cubic span turns at most
// twice.
func chords(c *Curve) (t []float64, p []Vec) {
	lo, hi := c.Range()
	n := 48
	switch c.Kind {
	case KindLine:
		n = 1
	case KindSpline:
		n = 12 * (len(c.Poles) - 3)
	}
	for i := range n + 1 {
		u := lo + (hi-lo)*float64(i)/float64(n)
		t, p = append(t, u), append(p, c.Point(u))
	}
	return t, p
}

// split cuts every curve where another meets it or ends on it.
//
// Ends count as meetings, because a curve that ends on another divides it. A
// closed curve that nothing meets is cut at its start, so that it is a piece
// with two ends like every other.
func (a *arrangement) split() {
	cuts := make([][]float64, len(a.curves))
	boxes := make([][2]Vec, len(a.curves))
	for i := range a.curves {
		boxes[i] = a.curves[i].box()
	}
	mark := func(i int, p Vec) {
		if t, ok := a.param(&a.curves[i], p); ok {
			cuts[i] = append(cuts[i], t)
		}
	}
	for i := range a.curves {
		c := &a.curves[i]
		if c.Guide {
			continue
		}
		for j := range a.curves {
			d := &a.curves[j]
			if j == i || d.Guide || apart(boxes[i], boxes[j], 4*a.eps) {
				continue
			}
			if !d.Closed() {
				mark(i, d.A)
				mark(i, d.B)
			}
			if j > i {
				for _, p := range a.meet(c, d) {
					_, on1 := a.param(c, p)
					_, on2 := a.param(d, p)
					if on1 && on2 {
						mark(i, p)
						mark(j, p)
					}
				}
			}
		}
	}
	for i := range a.curves {
		c := &a.curves[i]
		if c.Guide {
			continue
		}
		lo, hi := c.Range()
		t := cuts[i]
		if c.Kind == KindSpline {
			t = append(t, a.selfCrossings(c)...)
		}
		if !c.Closed() {
			t = append(t, lo, hi)
		} else if len(t) == 0 {
			t = append(t, lo)
		}
		sort.Float64s(t)
		if c.Closed() {
			t = append(t, t[0]+2*math.Pi)
		}
		for k := 0; k+1 < len(t); k++ {
			a.addPiece(i, math.Max(t[k], math.Min(lo, t[0])), t[k+1])
		}
	}
}

// selfCrossings are the parameters at which a spline crosses itself.
//
// Crossing chords that are no neighbours give the starts, and Newton's method on
// C(u) = C(w) the places, as in meetFreely. Of the other kinds no curve crosses
// itself.
func (a *arrangement) selfCrossings(c *Curve) []float64 {
	t, p := chords(c)
	var out []float64
	for i := 0; i+1 < len(p); i++ {
		for j := i + 2; j+1 < len(p); j++ {
			d1, d2, gap := p[i+1].Sub(p[i]), p[j+1].Sub(p[j]), p[j].Sub(p[i])
			den := d1.Cross(d2)
			if den == 0 {
				continue
			}
			f, g := gap.Cross(d2)/den, gap.Cross(d1)/den
			if f < 0 || f > 1 || g < 0 || g > 1 {
				continue
			}
			u, w := t[i]+f*(t[i+1]-t[i]), t[j]+g*(t[j+1]-t[j])
			for range 30 {
				v1, v2, gap := c.Tangent(u), c.Tangent(w), c.Point(w).Sub(c.Point(u))
				den := v1.Cross(v2)
				if den == 0 {
					break
				}
				u, w = u+gap.Cross(v2)/den, w+gap.Cross(v1)/den
			}
			if w-u > 1e-6 && c.Point(u).near(c.Point(w), a.eps) {
				out = append(out, u, w)
			}
		}
	}
	return out
}

// box is a box around the curve.
//
// It may be larger than need be (that of an arc is its circle's): it only serves
// to leave out pairs that cannot meet.
func (c *Curve) box() [2]Vec {
	lo, hi := Vec{math.Inf(1), math.Inf(1)}, Vec{math.Inf(-1), math.Inf(-1)}
	grow := func(p Vec) {
		lo = Vec{math.Min(lo.X, p.X), math.Min(lo.Y, p.Y)}
		hi = Vec{math.Max(hi.X, p.X), math.Max(hi.Y, p.Y)}
	}
	switch c.Kind {
	case KindLine:
		grow(c.A)
		grow(c.B)
	case KindSpline: // it lies within the hull of its poles
		for _, p := range c.Poles {
			grow(p)
		}
	default:
		r := c.size()
		grow(c.Center.Sub(Vec{r, r}))
		grow(c.Center.Add(Vec{r, r}))
	}
	return [2]Vec{lo, hi}
}

// Bounds is a box around curves that are not guide lines, or around all when
// every one is; ok is false when there are none.
func Bounds(curves []Curve, points map[string]Vec) (lo, hi Vec, ok bool) {
	lo, hi = Vec{math.Inf(1), math.Inf(1)}, Vec{math.Inf(-1), math.Inf(-1)}
	grow := func(p Vec) {
		ok = true
		lo = Vec{math.Min(lo.X, p.X), math.Min(lo.Y, p.Y)}
		hi = Vec{math.Max(hi.X, p.X), math.Max(hi.Y, p.Y)}
	}
	for i := range curves {
		c := &curves[i]
		a, b := c.Range()
		if c.Kind == KindArc || c.Kind == KindEllArc || c.Kind == KindSpline {
			for _, p := range c.Samples(a, b, c.size()/100) {
				grow(p)
			}
			continue
		}
		b2 := c.box()
		grow(b2[0])
		grow(b2[1])
	}
	for id, p := range points {
		if id != Origin {
			grow(p)
		}
	}
	return lo, hi, ok
}

// apart tells that two boxes do not touch, so that what is in them does not
// meet.
func apart(a, b [2]Vec, slack float64) bool {
	return a[0].X > b[1].X+slack || b[0].X > a[1].X+slack || a[0].Y > b[1].Y+slack || b[0].Y > a[1].Y+slack
}

// addPiece takes a piece of a curve between two parameters into the arrangement,
// with its ends put exactly on their nodes. A piece shorter than twice the
// tolerance would begin and end in one node, and is nothing.
func (a *arrangement) addPiece(i int, t0, t1 float64) {
	c := &a.curves[i]
	if c.Length(t0, t1) <= 2*a.eps {
		return
	}
	seg := Segment{Entity: c.ID, Kind: c.Kind, Center: c.Center, Radius: c.Radius, Forward: true, Curve: c, Lo: t0, Hi: t1}
	switch c.Kind {
	case KindCircle:
		seg.Kind = KindArc
	case KindEllArc:
		seg.Kind = KindEllipse
	}
	seg.A, seg.B = c.Point(t0), c.Point(t1)
	seg.Full = c.Closed() && t1-t0 > 2*math.Pi-1e-12
	p := piece{curve: i, a: a.node(seg.A), b: a.node(seg.B)}
	seg.A, seg.B = a.nodes[p.a], a.nodes[p.b]
	p.seg = seg
	a.pieces = append(a.pieces, p)
}

// prune removes doubled pieces and everything that hangs from an open end, and
// says so.
//
// Of two pieces that join the same nodes and have their middles in one place one
// is taken away, or the area between them, which is none, would be a region.
// Taking an open end away may open the next, so it goes on until every node that
// is left has two pieces or more: only those bound anything.
func (a *arrangement) prune() []Problem {
	var problems []Problem
	for i := range a.pieces {
		for j := 0; j < i; j++ {
			p, q := &a.pieces[i], &a.pieces[j]
			if p.doomed || q.doomed || !(p.a == q.a && p.b == q.b || p.a == q.b && p.b == q.a) {
				continue
			}
			if p.seg.Mid().near(q.seg.Mid(), 4*a.eps) {
				p.doomed = true
				ids := []string{q.seg.Entity, p.seg.Entity}
				problems = append(problems, Problem{Kind: "doubled", At: p.seg.Mid(), Entities: ids,
					Gap:    p.seg.Curve.Length(p.seg.Lo, p.seg.Hi),
					words:  "{0} and {1} lie on one another over {length}; remove one of them",
					length: p.seg.Curve.Length(p.seg.Lo, p.seg.Hi)})
			}
		}
	}
	degree := make([][]int, len(a.nodes))
	for i, p := range a.pieces {
		if !p.doomed {
			degree[p.a] = append(degree[p.a], i)
			degree[p.b] = append(degree[p.b], i)
		}
	}
	alive := func(n int) (count, last int) {
		for _, i := range degree[n] {
			if !a.pieces[i].doomed {
				count, last = count+1, i
			}
		}
		return count, last
	}
	var ends []int
	for n := range a.nodes {
		if k, _ := alive(n); k == 1 {
			ends = append(ends, n)
		}
	}
	for _, n := range ends {
		_, i := alive(n)
		problems = append(problems, a.openEnd(n, i, ends, alive))
	}
	for queue := ends; len(queue) > 0; queue = queue[1:] {
		n := queue[0]
		if k, i := alive(n); k == 1 {
			a.pieces[i].doomed = true
			other := a.pieces[i].a
			if other == n {
				other = a.pieces[i].b
			}
			queue = append(queue, other)
		}
	}
	return problems
}

// openEnd says what is wrong where the last piece at a node ends: a curve that
// runs on past another, a curve that leads nowhere, or a gap.
//
// The three cases are told apart by the last piece. It hangs from a junction of
// three or more: then it is the tail of a longer curve (which was not trimmed),
// or all of a curve (a left-over). Else two ends should have met, and the
// nearest other open end is the one meant, unless a curve passes at less than a
// third of that gap.
func (a *arrangement) openEnd(n, i int, ends []int, alive func(int) (int, int)) Problem {
	p := &a.pieces[i]
	c := p.seg.Curve
	other := p.a
	if other == n {
		other = p.b
	}
	lo, hi := c.Range()
	length := c.Length(p.seg.Lo, p.seg.Hi)
	out := Problem{Kind: "open-end", At: a.nodes[n], Entities: []string{c.ID}}
	degree, _ := alive(other)
	switch whole := length > c.Length(lo, hi)-4*a.eps; {
	case !whole && degree >= 3:
		out.Kind, out.Gap = "crossing", length
		out.words, out.length = "{0} runs on past another curve by {length}; trim it", length
		return out
	case whole && degree >= 3:
		out.Kind, out.Gap = "left-over", length
		out.words = "{0} leads from the profile to nowhere; remove it or make it a guide line"
		return out
	}
	gap := math.Inf(1)
	for _, m := range ends {
		if d := a.nodes[n].Distance(a.nodes[m]); m != n && d < gap {
			gap, out.Near = d, &a.nodes[m]
		}
	}
	for j := range a.curves {
		d := &a.curves[j]
		if d.Guide || d.ID == c.ID {
			continue
		}
		_, q := d.Nearest(a.nodes[n])
		if l := q.Distance(a.nodes[n]); l > a.eps && l < 0.3*gap && l < 0.1*length {
			gap, out.Near, out.Entities = l, &q, []string{c.ID, d.ID}
		}
	}
	out.words = "{0} ends in the open"
	switch {
	case len(out.Entities) == 2:
		out.words += ", {length} from {1}"
	case !math.IsInf(gap, 1):
		out.words += ", {length} from the next open end"
	default:
		gap = 0
	}
	out.Gap, out.length = gap, gap
	out.words += "; join or trim it"
	return out
}

// leaving is the direction in which a half-edge leaves its start, and its
// curvature (positive to the left), which orders tangent neighbours.
//
// Among half-edges that leave in one direction, the one that bends more to the
// left lies to the left.
func (a *arrangement) leaving(h half) (dir, curvature float64) {
	g := a.pieces[h.piece].seg
	if g.Kind == KindLine {
		if h.forward {
			return g.A.AngleTo(g.B), 0
		}
		return g.B.AngleTo(g.A), 0
	}
	if h.forward {
		d := g.Curve.Tangent(g.Lo)
		return math.Atan2(d.Y, d.X), g.Curve.curvature(g.Lo)
	}
	d := g.Curve.Tangent(g.Hi)
	return math.Atan2(-d.Y, -d.X), -g.Curve.curvature(g.Hi)
}

// along is the direction from the start of a half-edge to the place that stands a share of its
// length along it.
func (a *arrangement) along(h half, share float64) float64 {
	g := a.pieces[h.piece].seg
	from, t := g.Lo, g.Lo+share*(g.Hi-g.Lo)
	if !h.forward {
		from, t = g.Hi, g.Hi-share*(g.Hi-g.Lo)
	}
	return g.Curve.Point(from).AngleTo(g.Curve.Point(t))
}

// alike is how far apart the directions of curves may be that touch where they meet: the place
// of touching is not better known than that (see touch).
const alike = 5e-3

// order puts the half-edges that leave a node in their order around it. Those that leave in
// almost one direction are told apart a little further on, where they have parted.
//
// The order decides which face a half-edge belongs to; a wrong one swaps two
// faces. Directions that differ by less than alike are not to be trusted, so
// such curves are compared at a quarter of the shorter one's length, where they
// have parted, and by curvature if even there they have not.
func (a *arrangement) order(hs []half) {
	type key struct{ dir, curv, length float64 }
	keys := map[half]key{}
	var dirs []float64
	for _, h := range hs {
		d, k := a.leaving(h)
		g := a.pieces[h.piece].seg
		keys[h] = key{wrap(d), k, g.Curve.Length(g.Lo, g.Hi)}
		dirs = append(dirs, wrap(d))
	}
	// Angles count from the middle of the widest gap, so that none is cut in two.
	sort.Float64s(dirs)
	cut, widest := 0.0, -1.0
	for i, d := range dirs {
		before := dirs[(i+len(dirs)-1)%len(dirs)]
		if gap := wrap(d - before); gap > widest || len(dirs) == 1 {
			cut, widest = d-gap/2, gap
		}
	}
	sort.SliceStable(hs, func(i, j int) bool {
		p, q := keys[hs[i]], keys[hs[j]]
		x, y := wrap(p.dir-cut), wrap(q.dir-cut)
		if math.Abs(x-y) > alike {
			return x < y
		}
		s := 0.25 * math.Min(p.length, q.length)
		if diff := math.Remainder(a.along(hs[i], s/p.length)-a.along(hs[j], s/q.length), 2*math.Pi); math.Abs(diff) > 1e-9 {
			return diff < 0
		}
		return p.curv < q.curv
	})
}

// reversed is a piece run through the other way.
func reversed(g Segment) Segment {
	g.A, g.B, g.Forward = g.B, g.A, !g.Forward
	return g
}

// A tracedLoop is the way around one face, with the node at which each segment
// begins. Run to the left it is the outside of a bounded face when its area is
// positive, and the outline of a connected part seen from outside when negative.
type tracedLoop struct {
	loop  Loop
	nodes []int
}

// trace follows every half-edge around the face to its left.
//
// Arriving at a node, the next half-edge around the face to the left is the one
// just clockwise of the way back. Each half-edge is in exactly one loop, so that
// the loops together are all faces, each once.
func (a *arrangement) trace() []tracedLoop {
	out := make([][]half, len(a.nodes))
	for i, p := range a.pieces {
		if !p.doomed {
			out[p.a] = append(out[p.a], half{i, true})
			out[p.b] = append(out[p.b], half{i, false})
		}
	}
	for _, hs := range out {
		a.order(hs)
	}
	next := func(h half) half {
		p := a.pieces[h.piece]
		n := p.b
		if !h.forward {
			n = p.a
		}
		back := half{h.piece, !h.forward}
		hs := out[n]
		for i, g := range hs {
			if g == back {
				return hs[(i+len(hs)-1)%len(hs)]
			}
		}
		return back
	}
	used := map[half]bool{}
	var loops []tracedLoop
	for _, hs := range out {
		for _, h := range hs {
			if used[h] {
				continue
			}
			var t tracedLoop
			for g := h; !used[g]; g = next(g) {
				used[g] = true
				p := a.pieces[g.piece]
				if g.forward {
					t.loop = append(t.loop, p.seg)
					t.nodes = append(t.nodes, p.a)
				} else {
					t.loop = append(t.loop, reversed(p.seg))
					t.nodes = append(t.nodes, p.b)
				}
			}
			loops = append(loops, t)
		}
	}
	return loops
}

// nest sorts loops into regions and their holes.
//
// A connected part that lies wholly inside a face of another is a hole in it: of
// all the faces around its outline the smallest one has it directly. Depth then
// counts how many parts one has to cross from outside, which makes a plate with
// a hole, and a boss in that hole, material, no material and material.
func (a *arrangement) nest(loops []tracedLoop) []Region {
	component := a.connectivity()
	var outers, hulls []tracedLoop
	for _, l := range loops {
		switch area := l.loop.Area(); {
		case area > a.eps*a.eps:
			outers = append(outers, l)
		case area < -a.eps*a.eps:
			hulls = append(hulls, l)
		}
	}
	regions := make([]Region, len(outers))
	for i, o := range outers {
		regions[i].Outer = o.loop
	}
	// The smallest face of another component around each hull holds it as a hole.
	inside := make(map[int]int) // component -> face index that contains it
	for _, h := range hulls {
		best, bestArea := -1, math.Inf(1)
		p := h.loop[0].Mid()
		for i, o := range outers {
			if component[o.nodes[0]] == component[h.nodes[0]] {
				continue
			}
			if area := o.loop.Area(); area < bestArea && o.loop.contains(p) {
				best, bestArea = i, area
			}
		}
		if best >= 0 {
			regions[best].Holes = append(regions[best].Holes, h.loop)
			inside[component[h.nodes[0]]] = best
		}
	}
	for i, o := range outers {
		for c, depth := component[o.nodes[0]], 0; ; {
			face, ok := inside[c]
			if !ok {
				regions[i].Depth = depth
				break
			}
			c, depth = component[outers[face].nodes[0]], depth+1
		}
	}
	return regions
}

// connectivity says for every node in which connected part it lies, along pieces
// that can bound something.
func (a *arrangement) connectivity() []int {
	parts := partition.Of(len(a.nodes))
	for _, p := range a.pieces {
		if !p.doomed {
			parts.Join(p.b, p.a)
		}
	}
	out := make([]int, len(a.nodes))
	for i := range out {
		out[i] = parts.Root(i)
	}
	return out
}

// contains tells whether p is inside the loop, by its winding number: the sum
// of the angles under which p sees the segments.
//
// The sum is 2π around a point inside and 0 around one outside, so that half of
// it decides even where chords stand for curves.
func (l Loop) contains(p Vec) bool {
	total := 0.0
	for _, g := range l {
		points := []Vec{g.A, g.B}
		if g.Kind != KindLine {
			points = g.Samples(g.Curve.size() / 500)
		}
		for i := 1; i < len(points); i++ {
			u, v := points[i-1].Sub(p), points[i].Sub(p)
			total += math.Atan2(u.Cross(v), u.Dot(v))
		}
	}
	return math.Abs(total) > math.Pi
}

// Contains tells whether p is in the region: inside its boundary and in none of
// its holes.
func (r *Region) Contains(p Vec) bool {
	if !r.Outer.contains(p) {
		return false
	}
	for _, h := range r.Holes {
		if h.contains(p) {
			return false
		}
	}
	return true
}

// Crossing is a place where another curve meets a curve, by the parameter along
// the first.
type Crossing struct {
	T    float64
	At   Vec
	With string
}

// Crossings lists where the other curves meet curve i, in order along it. With
// beyond, curve i is taken as longer than it is: a line as endless, an arc as its
// whole circle.
//
// Trimming and lengthening ask this: where, along the curve, could it end? The
// places at which other curves end on it count too.
func Crossings(curves []Curve, i int, beyond bool) []Crossing {
	a := arrangement{curves: curves}
	a.measure()
	c := &curves[i]
	long := *c
	if beyond {
		switch c.Kind {
		case KindArc:
			long.Kind = KindCircle
		case KindEllArc:
			long.Kind = KindEllipse
		}
	}
	var out []Crossing
	for j := range curves {
		d := &curves[j]
		if j == i {
			continue
		}
		places := a.meet(&long, d)
		if !d.Closed() {
			places = append(places, d.A, d.B)
		}
		for _, p := range places {
			if _, on := a.param(d, p); !on {
				continue
			}
			t, on := a.param(&long, p)
			if long.Kind == KindLine && beyond {
				dir := c.B.Sub(c.A)
				t = p.Sub(c.A).Dot(dir) / dir.Dot(dir)
				on = c.Point(t).near(p, 4*a.eps)
			}
			if on {
				out = append(out, Crossing{t, p, d.ID})
			}
		}
	}
	sort.SliceStable(out, func(p, q int) bool { return out[p].T < out[q].T })
	return out
}
