package sketch

import (
	"fmt"
	"math"
	"sort"
)

// Segment is a piece of a region's boundary: the part of a curve between two
// points, run from A to B. A full circle has A equal to B.
type Segment struct {
	Entity  string
	Kind    string // line or arc
	A, B    Vec
	Center  Vec
	Radius  float64
	Forward bool // runs as the arc does, counter-clockwise
	Full    bool
}

// sweep is the angle of an arc from A to B, positive counter-clockwise.
func (g Segment) sweep() float64 {
	if g.Full {
		if g.Forward {
			return 2 * math.Pi
		}
		return -2 * math.Pi
	}
	t := g.Center.angleTo(g.B) - g.Center.angleTo(g.A)
	if g.Forward {
		for t <= 0 {
			t += 2 * math.Pi
		}
	} else {
		for t >= 0 {
			t -= 2 * math.Pi
		}
	}
	return t
}

// Mid is the middle of the segment.
func (g Segment) Mid() Vec {
	if g.Kind == KindLine {
		return g.A.midpoint(g.B)
	}
	return g.Center.polar(g.Radius, g.Center.angleTo(g.A)+g.sweep()/2)
}

// area is the segment's share of the signed area of its loop, by Green's
// theorem: the triangle to the origin plus the circular segment.
func (g Segment) area() float64 {
	a := g.A.Cross(g.B) / 2
	if g.Kind == KindArc {
		t := g.sweep()
		a += g.Radius * g.Radius * (t - math.Sin(t)) / 2
	}
	return a
}

// Loop is a closed boundary.
type Loop []Segment

// Area is the signed area: positive when the loop runs counter-clockwise.
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

// Problem is a reason why geometry encloses no region, with its place.
type Problem struct {
	Kind     string // "open-end", "doubled" or "left-over"
	At       Vec
	Entities []string
	Gap      float64 // distance to the nearest other end, for an open end
	Message  string
}

// piece is an undivided part of a curve between two nodes.
type piece struct {
	curve  int
	a, b   int // nodes
	seg    Segment
	doomed bool
}

type half struct {
	piece   int
	forward bool
}

// Regions finds all closed areas of the curves that are not guide lines, and
// what keeps others from closing.
func Regions(curves []Curve) ([]Region, []Problem) {
	a := arrangement{curves: curves}
	a.measure()
	a.split()
	problems := a.prune()
	loops := a.trace()
	return a.nest(loops), problems
}

type arrangement struct {
	curves []Curve
	eps    float64
	nodes  []Vec
	pieces []piece
}

func (a *arrangement) measure() {
	size := 0.0
	for _, c := range a.curves {
		size = math.Max(size, math.Max(c.A.distance(c.B), c.Radius))
	}
	a.eps = math.Max(1e-6*size, 1e-7)
}

func (a *arrangement) node(p Vec) int {
	for i, q := range a.nodes {
		if p.near(q, a.eps) {
			return i
		}
	}
	a.nodes = append(a.nodes, p)
	return len(a.nodes) - 1
}

// param gives where p stands along a curve: the length fraction of a line, the
// angle after the start of an arc; ok is false when p is not on it.
func (a *arrangement) param(c Curve, p Vec) (t float64, ok bool) {
	if c.Kind == KindLine {
		d := c.B.Sub(c.A)
		l := d.Norm()
		if l == 0 {
			return 0, false
		}
		t = p.Sub(c.A).Dot(d) / (l * l)
		off := math.Abs(d.Cross(p.Sub(c.A))) / l
		return t, off <= a.eps && t >= -a.eps/l && t <= 1+a.eps/l
	}
	if math.Abs(p.distance(c.Center)-c.Radius) > a.eps {
		return 0, false
	}
	if c.Kind == KindCircle {
		return wrap(c.Center.angleTo(p)), true
	}
	t = wrap(c.Center.angleTo(p) - c.Center.angleTo(c.A))
	span := arcSpan(c)
	slack := a.eps / c.Radius
	if t > 2*math.Pi-slack {
		t -= 2 * math.Pi
	}
	return t, t >= -slack && t <= span+slack
}

func wrap(t float64) float64 {
	t = math.Mod(t, 2*math.Pi)
	if t < 0 {
		t += 2 * math.Pi
	}
	return t
}

func arcSpan(c Curve) float64 {
	t := wrap(c.Center.angleTo(c.B) - c.Center.angleTo(c.A))
	if t == 0 {
		t = 2 * math.Pi
	}
	return t
}

// meet lists the points common to two curves taken as infinite lines and full
// circles; callers test the ends.
func (a *arrangement) meet(c, d Curve) []Vec {
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
		h := foot.distance(d.Center)
		if h > d.Radius+a.eps {
			return nil
		}
		w := math.Sqrt(math.Max(0, d.Radius*d.Radius-h*h))
		if math.Abs(h-d.Radius) <= a.eps {
			return []Vec{foot}
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
		return []Vec{c.Center.Add(u.Scale(math.Copysign(c.Radius, x)))}
	}
	n := Vec{-u.Y, u.X}.Scale(math.Sqrt(w2))
	return []Vec{foot.Add(n), foot.Sub(n)}
}

// split cuts every curve where another meets it or ends on it.
func (a *arrangement) split() {
	cuts := make([][]float64, len(a.curves))
	mark := func(i int, p Vec) {
		if t, ok := a.param(a.curves[i], p); ok {
			cuts[i] = append(cuts[i], t)
		}
	}
	for i, c := range a.curves {
		if c.Guide {
			continue
		}
		for j, d := range a.curves {
			if j == i || d.Guide {
				continue
			}
			if d.Kind != KindCircle {
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
	for i, c := range a.curves {
		if c.Guide {
			continue
		}
		t := cuts[i]
		switch c.Kind {
		case KindLine:
			t = append(t, 0, 1)
		case KindArc:
			t = append(t, 0, arcSpan(c))
		case KindCircle:
			if len(t) == 0 {
				t = append(t, 0)
			}
		}
		sort.Float64s(t)
		if c.Kind == KindCircle {
			t = append(t, t[0]+2*math.Pi)
		}
		for k := 0; k+1 < len(t); k++ {
			a.addPiece(i, t[k], t[k+1])
		}
	}
}

func (a *arrangement) addPiece(i int, t0, t1 float64) {
	c := a.curves[i]
	seg := Segment{Entity: c.ID, Kind: KindArc, Center: c.Center, Radius: c.Radius, Forward: true}
	switch c.Kind {
	case KindLine:
		d := c.B.Sub(c.A)
		if (t1-t0)*d.Norm() <= 2*a.eps {
			return
		}
		seg.Kind, seg.A, seg.B = KindLine, c.A.Add(d.Scale(t0)), c.A.Add(d.Scale(t1))
	default:
		if (t1-t0)*c.Radius <= 2*a.eps {
			return
		}
		base := 0.0
		if c.Kind == KindArc {
			base = c.Center.angleTo(c.A)
		}
		seg.A, seg.B = c.Center.polar(c.Radius, base+t0), c.Center.polar(c.Radius, base+t1)
		seg.Full = t1-t0 > 2*math.Pi-1e-12
	}
	p := piece{curve: i, a: a.node(seg.A), b: a.node(seg.B)}
	seg.A, seg.B = a.nodes[p.a], a.nodes[p.b]
	p.seg = seg
	a.pieces = append(a.pieces, p)
}

// prune removes doubled pieces and everything that hangs from an open end, and
// says so.
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
					Message: fmt.Sprintf("%s and %s lie on one another; remove one of them", ids[0], ids[1])})
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
		gap := math.Inf(1)
		for _, m := range ends {
			if m != n {
				gap = math.Min(gap, a.nodes[n].distance(a.nodes[m]))
			}
		}
		msg := fmt.Sprintf("%s ends in the open", a.pieces[i].seg.Entity)
		if !math.IsInf(gap, 1) {
			msg += fmt.Sprintf(", %.4g mm from the next open end", gap)
		} else {
			gap = 0
		}
		problems = append(problems, Problem{Kind: "open-end", At: a.nodes[n], Entities: []string{a.pieces[i].seg.Entity}, Gap: gap, Message: msg + "; join or trim it"})
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

// leaving is the direction in which a half-edge leaves its start, and its
// curvature (positive to the left), which orders tangent neighbours.
func (a *arrangement) leaving(h half) (dir, curvature float64) {
	g := a.pieces[h.piece].seg
	if g.Kind == KindLine {
		if h.forward {
			return g.A.angleTo(g.B), 0
		}
		return g.B.angleTo(g.A), 0
	}
	if h.forward {
		return g.Center.angleTo(g.A) + math.Pi/2, 1 / g.Radius
	}
	return g.Center.angleTo(g.B) - math.Pi/2, -1 / g.Radius
}

func reversed(g Segment) Segment {
	g.A, g.B, g.Forward = g.B, g.A, !g.Forward
	return g
}

type tracedLoop struct {
	loop  Loop
	nodes []int
}

// trace follows every half-edge around the face to its left.
func (a *arrangement) trace() []tracedLoop {
	out := make([][]half, len(a.nodes))
	for i, p := range a.pieces {
		if !p.doomed {
			out[p.a] = append(out[p.a], half{i, true})
			out[p.b] = append(out[p.b], half{i, false})
		}
	}
	type key struct {
		dir, curv float64
	}
	keys := map[half]key{}
	for _, hs := range out {
		for _, h := range hs {
			d, k := a.leaving(h)
			if d = wrap(d); d > 2*math.Pi-1e-7 {
				d = 0
			}
			keys[h] = key{d, k}
		}
		sort.Slice(hs, func(i, j int) bool {
			p, q := keys[hs[i]], keys[hs[j]]
			diff := math.Remainder(p.dir-q.dir, 2*math.Pi)
			if math.Abs(diff) > 1e-6 {
				return p.dir < q.dir
			}
			return p.curv < q.curv
		})
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

func (a *arrangement) connectivity() []int {
	parent := make([]int, len(a.nodes))
	for i := range parent {
		parent[i] = i
	}
	root := func(i int) int {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	for _, p := range a.pieces {
		if !p.doomed {
			parent[root(p.a)] = root(p.b)
		}
	}
	for i := range parent {
		parent[i] = root(i)
	}
	return parent
}

// contains tells whether p is inside the loop, by its winding number: the sum
// of the angles under which p sees the segments.
func (l Loop) contains(p Vec) bool {
	total := 0.0
	for _, g := range l {
		n := 1
		if g.Kind == KindArc {
			n = 64
		}
		prev := g.A.Sub(p)
		for k := 1; k <= n; k++ {
			q := g.B
			if k < n || g.Full {
				q = g.Center.polar(g.Radius, g.Center.angleTo(g.A)+g.sweep()*float64(k)/float64(n))
			}
			if g.Kind == KindLine {
				q = g.B
			}
			cur := q.Sub(p)
			total += math.Atan2(prev.Cross(cur), prev.Dot(cur))
			prev = cur
		}
	}
	return math.Abs(total) > math.Pi
}
