package sketch

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"hammerset/core/partition"
	"hammerset/core/quantity"
	"hammerset/core/solve"
)

// Compiling turns a sketch into unknowns and residuals. The unknowns are the
// coordinates of its points and the radii of its circles, in millimetres, and
// nothing else: lines, arcs and ellipses are what their points say, with
// residuals of their own where points could say what is no arc. A drawing with n
// points and r circles so has 2n + r unknowns, less two for each pair of joined
// points.
//
// Another choice would be lines by angle and distance, or arcs by radius and two
// angles. These are singular for vertical lines, or where an arc is flat, and
// drawings are full of both; coordinates never are.

// slot is an unknown of the system, or a constant when index is negative.
type slot struct {
	index int
	value float64
}

type pointSlots struct{ x, y slot }

type curveSlots struct {
	entity       int
	kind         string
	a, b         pointSlots // ends of all but circles and ellipses
	c            pointSlots
	r            slot // radius of a circle
	major, minor pointSlots
	poles        []pointSlots
	knots        []float64
}

// role says what an unknown is, for telling what is loose.
type role int8

const (
	roleX role = iota
	roleY
	roleRadius
	roleHidden // helps an equation and is nobody's coordinate
)

// equation is one constraint as one or two residuals over the unknowns it
// touches. All residuals are lengths in millimetres.
type equation struct {
	constraint int // index in Sketch.Constraints, or -1 for an entity's own condition
	entity     int // index of that entity
	vars       []int
	count      int
	eval       func(x []jet) [2]jet
	size       bool
	target     float64 // the wanted value of a size, in millimetres or radians
	measured   float64 // its value in the starting geometry
	set        *float64
	refresh    func(x []float64) bool // moves a spline's equation to another knot interval
}

// gauge measures a size in a solution, also a driven one.
type gauge struct {
	constraint int
	vars       []int
	measure    func(x []jet) jet
	double     bool // a diameter is measured as its radius
}

// System is a sketch made ready for solving: its unknowns and equations.
type System struct {
	sketch    *Sketch
	unit      float64
	x         []float64 // the unknowns, in millimetres
	owner     []int     // entity that owns each unknown, -1 for none
	roles     []role
	points    map[string]pointSlots
	curves    map[string]curveSlots
	order     []string // curve ids in document order
	equations []equation
	gauges    []gauge
	scale     float64 // a typical length of the sketch
	joined    [][]string
	solver    *solve.System
	local     *[jetSize]jet // work space of the solver's groups: to clear it for each would cost more than the rest
}

// Values evaluates the formula of a size.
type Values interface {
	Eval(formula string, want quantity.Dim) (float64, error)
}

// Compile checks a sketch and makes its system. unit is the length of the
// document's unit in millimetres. Errors name the entity or constraint.
func Compile(s *Sketch, unit float64, values Values) (*System, error) {
	c := &compiler{System: System{sketch: s, unit: unit, points: map[string]pointSlots{}, curves: map[string]curveSlots{}},
		values: values, index: map[string]int{}}
	if err := c.entities(); err != nil {
		return nil, err
	}
	for i := range s.Constraints {
		if err := c.condition(i); err != nil {
			return nil, err
		}
	}
	c.ready()
	return &c.System, nil
}

// ready makes the solver's view of the system. Its unknowns are the coordinates and radii
// themselves.
//
// The unknowns lie in a flat space, so that a step is x + d; rigid bodies will
// need another retraction, which is why the solver takes one.
func (s *System) ready() {
	s.local = new([jetSize]jet)
	groups := make([]solve.Group, len(s.equations))
	for i := range s.equations {
		groups[i] = s.group(&s.equations[i])
	}
	s.solver = solve.New(s.x, len(s.x), groups, s.scale, solve.Plain{})
	if slices.ContainsFunc(s.equations, func(e equation) bool { return e.refresh != nil }) {
		s.solver.Refresh = s.refresh
	}
}

// refresh moves equations on splines to the knot interval where their point is now.
//
// It runs between steps and never within one, so that a step sees one equation.
func (s *System) refresh() bool {
	moved := false
	for i := range s.equations {
		if f := s.equations[i].refresh; f != nil && f(s.x) {
			s.solver.Groups[i] = s.group(&s.equations[i])
			moved = true
		}
	}
	return moved
}

// group is the equation as the solver takes it.
//
// The derivatives come out of one evaluation. The jets' space is shared by all
// groups, which are evaluated one after the other: to clear a new one for each
// took longer than the arithmetic.
func (s *System) group(e *equation) solve.Group {
	vars, count, eval, local := e.vars, e.count, e.eval, s.local
	return solve.Group{Vars: vars, Rows: count, Eval: func(x, res, jac []float64) {
		for i, v := range vars {
			local[i] = jet{v: x[v]}
			local[i].d[i] = 1
		}
		r := eval(local[:len(vars)])
		for k := range count {
			res[k] = r[k].v
			if jac != nil {
				copy(jac[k*len(vars):(k+1)*len(vars)], r[k].d[:len(vars)])
			}
		}
	}}
}

type compiler struct {
	System
	values Values
	index  map[string]int
	parts  partition.Names     // points that are one, by coincidence
	held   map[string]bool     // points that traced edges hold
	links  map[string][]string // coincident constraints at each point
}

// point tells whether an id is that of a point.
func (c *compiler) point(id string) bool {
	i, ok := c.index[id]
	return id == Origin || ok && c.sketch.Entities[i].Kind == KindPoint
}

// entities gives every point its unknowns. Points that are coincident share
// theirs, which is decided here, before anything is solved: n joined points then
// have two unknowns instead of 2n and as many conditions. What is traced from
// the solid has none; it stays where the solid is. The origin and the axes are
// there in every sketch, and never move.
func (c *compiler) entities() error {
	s := c.sketch
	if err := c.ids(); err != nil {
		return err
	}
	c.held = map[string]bool{}
	for i := range s.Entities {
		if len(s.Entities[i].Traced) > 0 {
			for _, id := range s.Entities[i].Refs() {
				c.held[id] = true
			}
		}
	}
	c.coincide()
	fixed := func(x, y float64) pointSlots { return pointSlots{slot{-1, x}, slot{-1, y}} }
	c.points[Origin] = fixed(0, 0)
	c.curves[XAxis] = curveSlots{entity: -1, kind: KindLine, a: fixed(0, 0), b: fixed(1, 0)}
	c.curves[YAxis] = curveSlots{entity: -1, kind: KindLine, a: fixed(0, 0), b: fixed(0, 1)}
	for i, e := range s.Entities {
		switch {
		case e.Kind != KindPoint || c.parts.Root(e.ID) != e.ID:
		case c.held[e.ID]:
			c.points[e.ID] = fixed(e.At[0]*c.unit, e.At[1]*c.unit)
		default:
			c.points[e.ID] = pointSlots{c.unknown(i, roleX, e.At[0]*c.unit), c.unknown(i, roleY, e.At[1]*c.unit)}
		}
	}
	for _, e := range s.Entities {
		if e.Kind == KindPoint {
			c.points[e.ID] = c.points[c.parts.Root(e.ID)]
		}
	}
	c.scale = c.typicalLength()
	for i, e := range s.Entities {
		if err := c.curve(i, e); err != nil {
			return err
		}
	}
	return nil
}

// ids refuses entities and constraints without an id of their own, and points without a place.
func (c *compiler) ids() error {
	ids := map[string]bool{}
	for i, e := range c.sketch.Entities {
		if e.ID == "" {
			return failf(fmt.Sprintf("entity number %d", i+1), "has no id")
		}
		if _, dup := c.index[e.ID]; dup || e.ID == Origin || e.ID == XAxis || e.ID == YAxis {
			return failf(e.ID, "the id is used twice; give every entity its own")
		}
		c.index[e.ID] = i
		if e.Kind != KindPoint {
			continue
		}
		if e.At == nil {
			return failf(e.ID, "a point needs \"at\": [x, y]")
		}
		if !finite(e.At[0]) || !finite(e.At[1]) {
			return failf(e.ID, "the coordinates are not finite numbers")
		}
	}
	for i, k := range c.sketch.Constraints {
		if k.ID == "" {
			return failf(fmt.Sprintf("constraint number %d", i+1), "has no id")
		}
		if _, dup := c.index[k.ID]; dup || ids[k.ID] {
			return failf(k.ID, "the id is used twice; give every constraint its own")
		}
		ids[k.ID] = true
	}
	return nil
}

// coincide joins coincident points, which share their unknowns: those of one that does not move,
// where there is one.
//
// A point that does not move keeps its place, and the other comes to it. Joining
// two that are joined already closes a circle of coincident constraints; the
// circle is kept, since one of them is spare.
func (c *compiler) coincide() {
	c.links = map[string][]string{}
	still := func(id string) bool { return id == Origin || c.held[id] }
	for _, k := range c.sketch.Constraints {
		if k.Kind != "coincident" || len(k.Of) != 2 || !c.point(k.Of[0]) || !c.point(k.Of[1]) {
			continue // what is wrong with it is told where it is compiled
		}
		a, b := c.parts.Root(k.Of[0]), c.parts.Root(k.Of[1])
		switch {
		case a == b:
			c.joined = append(c.joined, append(c.path(k.Of[0], k.Of[1]), k.ID))
			continue
		case still(a) && still(b):
			continue // an equation between two places that do not move
		case still(b):
			c.parts.Join(b, a)
		default:
			c.parts.Join(a, b)
		}
		c.links[k.Of[0]] = append(c.links[k.Of[0]], k.ID, k.Of[1])
		c.links[k.Of[1]] = append(c.links[k.Of[1]], k.ID, k.Of[0])
	}
}

// interpolate gives the poles of the natural spline through points as they
// stand: one row of x and y each.
//
// The natural spline has a second derivative of zero at both ends, the freest
// shape through its points. With uniform knots from end to end the condition
// reads d0 - 1.5 d1 + 0.5 d2 = 0 of the first three poles (de Boor, A Practical
// Guide to Splines, 1978, chapter IV, in terms of poles). The poles are found
// once, as a start; from then on they are unknowns that conditions hold, since
// the points move.
func (c *compiler) interpolate(list []pointSlots, knots []float64) *mat.Dense {
	n := len(list)
	a, b := mat.NewDense(n+2, n+2, nil), mat.NewDense(n+2, 2, nil)
	put := func(r, j int) {
		at := c.at(list[j])
		b.SetRow(r, []float64{at.X, at.Y})
	}
	a.Set(0, 0, 1)
	put(0, 0)
	a.Set(n+1, n+1, 1)
	put(n+1, n-1)
	for j, w := range []float64{1, -1.5, 0.5} { // see spline
		a.Set(1, j, w)
		a.Set(n, n+1-j, w)
	}
	for j := 1; j < n-1; j++ {
		at := span(knots, n+2, float64(j))
		for q, w := range basis(knots, at, float64(j)) {
			a.Set(j+1, at-3+q, w)
		}
		put(j+1, j)
	}
	out := mat.NewDense(n+2, 2, nil)
	if err := out.Solve(a, b); err != nil {
		for j := range n + 2 { // cannot happen: the matrix is diagonally dominant but for its ends
			at := c.at(list[max(0, min(j-1, n-1))])
			out.SetRow(j, []float64{at.X, at.Y})
		}
	}
	return out
}

func finite(v float64) bool { return !math.IsNaN(v) && !math.IsInf(v, 0) }

// path lists the coincident constraints that join p to q already.
//
// It is a search by breadth, so that the circle named is a shortest one.
func (c *compiler) path(p, q string) []string {
	from := map[string][2]string{p: {}}
	for queue := []string{p}; len(queue) > 0; queue = queue[1:] {
		at := queue[0]
		for i := 0; i < len(c.links[at]); i += 2 {
			next := c.links[at][i+1]
			if _, seen := from[next]; !seen {
				from[next] = [2]string{at, c.links[at][i]}
				queue = append(queue, next)
			}
		}
	}
	var out []string
	for at := q; at != p && from[at][0] != ""; at = from[at][0] {
		out = append(out, from[at][1])
	}
	return out
}

// A slot that is no unknown is a constant: the equations need not tell one from
// the other.
func (c *compiler) unknown(owner int, r role, v float64) slot {
	c.x = append(c.x, v)
	c.owner = append(c.owner, owner)
	c.roles = append(c.roles, r)
	return slot{index: len(c.x) - 1}
}

// An arc has six coordinates and five freedoms, and an ellipse six and five: one
// residual each makes up for it. The ends of an elliptical arc lie on the
// ellipse, one residual each.
func (c *compiler) curve(i int, e Entity) error {
	if e.Kind == KindPoint {
		return nil
	}
	k, err := c.slots(i, e)
	if err != nil {
		return err
	}
	c.curves[e.ID] = k
	c.order = append(c.order, e.ID)
	if len(e.Traced) > 0 {
		return nil
	}
	b := c.equation(-1)
	b.entity = i
	switch e.Kind {
	case KindArc: // both ends are as far from the centre
		ctr, s, f := b.point(k.c), b.point(k.a), b.point(k.b)
		return b.residual(func(x []jet) jet { return s(x).sub(ctr(x)).norm().sub(f(x).sub(ctr(x)).norm()) })
	case KindEllipse, KindEllArc: // the half axes are square to one another, and the ends lie on it
		ctr, u, v := b.point(k.c), b.point(k.major), b.point(k.minor)
		err := b.residual(func(x []jet) jet {
			c := ctr(x)
			d := u(x).sub(c)
			return v(x).sub(c).dot(d).div(d.norm())
		})
		if e.Kind == KindEllipse {
			return err
		}
		for _, end := range []pointSlots{k.a, k.b} {
			if err == nil {
				b := c.equation(-1)
				b.entity = i
				err = b.residual(b.offEllipse(end, k))
			}
		}
		return err
	}
	return nil
}

// slots gives the points and unknowns that a curve is made of.
func (c *compiler) slots(i int, e Entity) (curveSlots, error) {
	k := curveSlots{entity: i, kind: e.Kind}
	var err error
	get := func(role, id string) pointSlots {
		p, ok := c.points[id]
		if err == nil && !ok {
			err = failf(e.ID, "%q must name a point of this sketch, and %q is none", role, id)
		}
		return p
	}
	wrong := func(is bool, what string) {
		if err == nil && is {
			err = failf(e.ID, "%s", what)
		}
	}
	switch e.Kind {
	case KindLine:
		k.a, k.b = get("from", e.From), get("to", e.To)
		wrong(k.a == k.b, "the line starts and ends in the same point")
	case KindCircle:
		k.c = get("center", e.Center)
		wrong(!(e.Radius > 0 && finite(e.Radius)), "a circle needs a radius greater than zero")
		if len(e.Traced) > 0 {
			k.r = slot{-1, e.Radius * c.unit}
		} else {
			k.r = c.unknown(i, roleRadius, e.Radius*c.unit)
		}
	case KindArc:
		k.c, k.a, k.b = get("center", e.Center), get("start", e.Start), get("end", e.End)
		wrong(k.a == k.c || k.b == k.c, "the arc's end is its own centre")
	case KindEllipse, KindEllArc:
		k.c, k.major, k.minor = get("center", e.Center), get("major", e.Major), get("minor", e.Minor)
		wrong(k.major == k.c || k.minor == k.c || k.major == k.minor,
			"the half axes of an ellipse end in two points other than its centre")
		if e.Kind == KindEllArc {
			k.a, k.b = get("start", e.Start), get("end", e.End)
		}
	case KindSpline:
		err = c.spline(i, e, &k)
	default:
		err = failf(e.ID, "%q is not a kind of entity; use point, line, circle, arc, ellipse, elliptical-arc or spline",
			e.Kind)
	}
	return k, err
}

// spline makes the poles. Those of a spline through points are hidden unknowns,
// held by the points and by two conditions at the ends.
//
// Poles that a person gave are points like others. Those of a spline through
// points are nobody's: they are hidden, so that nothing of them is shown loose.
func (c *compiler) spline(i int, e Entity, k *curveSlots) error {
	if (len(e.Through) > 0) == (len(e.Poles) > 0) {
		return failf(e.ID, "a spline needs either the points it goes \"through\" or its \"poles\"")
	}
	var list []pointSlots
	for _, id := range append(append([]string(nil), e.Through...), e.Poles...) {
		p, ok := c.points[id]
		if !ok {
			return failf(e.ID, "the spline stands on %q, which is no point of this sketch", id)
		}
		if len(list) > 0 && list[len(list)-1] == p {
			return failf(e.ID, "two neighbouring points of the spline are one")
		}
		list = append(list, p)
	}
	if len(e.Poles) > 0 {
		if len(list) < 4 {
			return failf(e.ID, "a cubic spline needs at least four poles")
		}
		k.poles, k.knots = list, uniformKnots(len(list))
		k.a, k.b = list[0], list[len(list)-1]
		if len(e.Knots) > 0 {
			k.knots = e.Knots
			return checkKnots(e.ID, e.Knots, len(list))
		}
		return nil
	}
	if len(list) < 3 {
		return failf(e.ID, "a spline goes through at least three points")
	}
	return c.throughPoints(i, list, k)
}

// checkKnots refuses knots that do not make a cubic spline of n poles that ends in its poles.
//
// Four equal knots at an end make a cubic end in its pole; four in between would
// part it in two.
func checkKnots(id string, knots []float64, n int) error {
	if len(knots) != n+4 {
		return failf(id, "%d poles need %d knots, not %d", n, n+4, len(knots))
	}
	for j, t := range knots {
		falls := j > 0 && t < knots[j-1]
		fourfold := j >= 4 && j < n && t <= knots[j-1] && t == knots[max(0, j-3)]
		if !finite(t) || falls || fourfold {
			return failf(id, "the knots must not fall")
		}
	}
	if knots[0] != knots[3] || knots[n] != knots[n+3] || knots[3] >= knots[n] {
		return failf(id, "the first four and the last four knots must be equal, so that the spline ends in its poles")
	}
	return nil
}

// throughPoints makes the poles of the natural spline through points, with the conditions that hold
// them.
//
// A spline through n points has n + 2 poles, of which two are the ends: 2n
// unknowns more. The n - 2 inner points give two residuals each, and the two
// natural ends two each: as many, so that nothing of it is loose.
func (c *compiler) throughPoints(i int, list []pointSlots, k *curveSlots) error {
	n := len(list)
	k.a, k.b, k.knots = list[0], list[n-1], uniformKnots(n+2)
	start := c.interpolate(list, k.knots)
	for j := range n + 2 {
		switch j {
		case 0:
			k.poles = append(k.poles, k.a)
		case n + 1:
			k.poles = append(k.poles, k.b)
		default:
			k.poles = append(k.poles, pointSlots{c.unknown(i, roleHidden, start.At(j, 0)),
				c.unknown(i, roleHidden, start.At(j, 1))})
		}
	}
	for j := 1; j < n-1; j++ {
		at := span(k.knots, n+2, float64(j))
		w := basis(k.knots, at, float64(j))
		parts := []pointSlots{k.poles[at-3], k.poles[at-2], k.poles[at-1], k.poles[at], list[j]}
		if err := c.balance(i, parts, []float64{w[0], w[1], w[2], w[3], -1}); err != nil {
			return err
		}
	}
	// No curvature at the ends: with knots 0 0 0 0 1 2 the second derivative
	// there is 6 ((P2 - P1)/2 - (P1 - P0)).
	w := []float64{1, -1.5, 0.5}
	if err := c.balance(i, []pointSlots{k.poles[0], k.poles[1], k.poles[2]}, w); err != nil {
		return err
	}
	return c.balance(i, []pointSlots{k.poles[n+1], k.poles[n], k.poles[n-1]}, w)
}

// balance asks that the weighted sum of points be zero, in x and in y: a condition of entity i itself.
func (c *compiler) balance(i int, parts []pointSlots, weights []float64) error {
	for axis := range 2 {
		b := c.equation(-1)
		b.entity = i
		var f []func([]jet) jet
		for _, p := range parts {
			if axis == 0 {
				f = append(f, b.scalar(p.x))
			} else {
				f = append(f, b.scalar(p.y))
			}
		}
		err := b.residual(func(x []jet) jet {
			var sum jet
			for j := range f {
				sum = sum.add(f[j](x).scale(weights[j]))
			}
			return sum
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// typicalLength is the diagonal of the starting geometry, at least 1e-3 mm.
func (c *compiler) typicalLength() float64 {
	lo, hi := Vec{math.Inf(1), math.Inf(1)}, Vec{math.Inf(-1), math.Inf(-1)}
	for _, p := range c.points {
		v := c.at(p)
		lo = Vec{math.Min(lo.X, v.X), math.Min(lo.Y, v.Y)}
		hi = Vec{math.Max(hi.X, v.X), math.Max(hi.Y, v.Y)}
	}
	d := hi.Sub(lo).Norm()
	for _, e := range c.sketch.Entities {
		if e.Kind == KindCircle && finite(e.Radius) {
			d = math.Max(d, 2*e.Radius*c.unit)
		}
	}
	return math.Max(d, 1e-3)
}

func (s *System) val(k slot) float64 {
	if k.index < 0 {
		return k.value
	}
	return s.x[k.index]
}

func (s *System) at(p pointSlots) Vec { return Vec{s.val(p.x), s.val(p.y)} }

// builder collects the unknowns of one equation.
type builder struct {
	*compiler
	equation
	local map[int]int
}

func (c *compiler) equation(constraint int) *builder {
	return &builder{compiler: c, equation: equation{constraint: constraint}, local: map[int]int{}}
}

func (b *builder) scalar(s slot) func(x []jet) jet {
	if s.index < 0 {
		v := s.value
		return func([]jet) jet { return constant(v) }
	}
	k, ok := b.local[s.index]
	if !ok {
		k = len(b.vars)
		b.local[s.index] = k
		b.vars = append(b.vars, s.index)
	}
	return func(x []jet) jet { return x[k] }
}

func (b *builder) point(p pointSlots) func(x []jet) jvec {
	px, py := b.scalar(p.x), b.scalar(p.y)
	return func(x []jet) jvec { return jvec{px(x), py(x)} }
}

// radius gives the radius of a circle or arc.
func (b *builder) radius(k curveSlots) func(x []jet) jet {
	if k.kind == KindCircle {
		return b.scalar(k.r)
	}
	ctr, s := b.point(k.c), b.point(k.a)
	return func(x []jet) jet { return s(x).sub(ctr(x)).norm() }
}

// axes gives the half axes of an ellipse as vectors.
func (b *builder) axes(k curveSlots) (u, v func(x []jet) jvec) {
	c, p, q := b.point(k.c), b.point(k.major), b.point(k.minor)
	return func(x []jet) jvec { return p(x).sub(c(x)) }, func(x []jet) jvec { return q(x).sub(c(x)) }
}

// offEllipse is how far a point is outside an ellipse, to first order a length:
// (sqrt(α²+β²) - 1)·sqrt(|u||v|) with the point at c + αu + βv.
func (b *builder) offEllipse(p pointSlots, k curveSlots) func(x []jet) jet {
	pt, c := b.point(p), b.point(k.c)
	u, v := b.axes(k)
	return func(x []jet) jet {
		d, uu, vv := pt(x).sub(c(x)), u(x), v(x)
		alpha, beta := d.dot(uu).div(uu.dot(uu)), d.dot(vv).div(vv.dot(vv))
		return alpha.mul(alpha).add(beta.mul(beta)).sqrt().shift(-1).mul(uu.norm().mul(vv.norm()).sqrt())
	}
}

// ellipseNormal is the outward normal of the ellipse through a point.
func (b *builder) ellipseNormal(p pointSlots, k curveSlots) func(x []jet) jvec {
	pt, c := b.point(p), b.point(k.c)
	u, v := b.axes(k)
	return func(x []jet) jvec {
		d, uu, vv := pt(x).sub(c(x)), u(x), v(x)
		q, r := uu.dot(uu), vv.dot(vv)
		return uu.scale(d.dot(uu).div(q.mul(q))).add(vv.scale(d.dot(vv).div(r.mul(r))))
	}
}

// hidden makes a point that belongs to no entity, such as a point of contact.
func (c *compiler) hidden(at Vec) pointSlots {
	return pointSlots{c.unknown(-1, roleHidden, at.X), c.unknown(-1, roleHidden, at.Y)}
}

// line gives the start and the direction vector of a line.
func (b *builder) line(k curveSlots) (start, along func(x []jet) jvec) {
	p, q := b.point(k.a), b.point(k.b)
	return p, func(x []jet) jvec { return q(x).sub(p(x)) }
}

func (b *builder) residual(f func(x []jet) jet) error {
	return b.residuals(1, func(x []jet) [2]jet { return [2]jet{f(x)} })
}

func (b *builder) residuals(n int, f func(x []jet) [2]jet) error {
	b.count, b.eval = n, f
	if len(b.vars) > jetSize {
		return fmt.Errorf("internal error: an equation with %d unknowns", len(b.vars))
	}
	b.equations = append(b.equations, b.equation)
	return nil
}

// now evaluates a jet expression in the present geometry.
func (b *builder) now(f func(x []jet) jet) float64 {
	x := make([]jet, len(b.vars))
	for i, v := range b.vars {
		x[i].v = b.x[v]
	}
	return f(x).v
}

// sizeEquation adds the equation measure = target. With signed set, the target
// takes the sign that the measure has in the starting geometry, so that nothing
// changes sides.
func (b *builder) sizeEquation(measure func(x []jet) jet, target float64, signed bool) error {
	b.gauge(measure)
	if b.driven() {
		return nil
	}
	b.measured = b.now(measure)
	if signed && b.measured < 0 {
		target = -target
	}
	b.size, b.target = true, target
	set := new(float64)
	*set = target
	b.set = set
	return b.residual(func(x []jet) jet { return measure(x).shift(-*set) })
}

func (b *builder) driven() bool { return b.sketch.Constraints[b.constraint].Driven }

// gauge remembers how to measure a size.
func (b *builder) gauge(measure func(x []jet) jet) {
	k := b.sketch.Constraints[b.constraint].Kind
	b.gauges = append(b.gauges, gauge{b.constraint, b.vars, measure, k == "diameter"})
}

// curveOf is a curve of the system as it stands.
func (s *System) curveOf(id string) Curve {
	k := s.curves[id]
	c := Curve{ID: id, Kind: k.kind}
	if k.entity >= 0 {
		c.Guide, c.Traced = s.sketch.Entities[k.entity].Guide, len(s.sketch.Entities[k.entity].Traced) > 0
	}
	switch k.kind {
	case KindLine:
		c.A, c.B = s.at(k.a), s.at(k.b)
	case KindCircle:
		c.Center, c.Radius = s.at(k.c), s.val(k.r)
	case KindArc:
		c.A, c.B, c.Center = s.at(k.a), s.at(k.b), s.at(k.c)
		c.Radius = c.A.Distance(c.Center)
	case KindEllipse, KindEllArc:
		c.Center = s.at(k.c)
		c.U, c.V = s.at(k.major).Sub(c.Center), s.at(k.minor).Sub(c.Center)
		if c.U.Cross(c.V) < 0 {
			c.V = c.V.Scale(-1)
		}
		if k.kind == KindEllArc {
			c.A, c.B = s.at(k.a), s.at(k.b)
			if s.at(k.major).Sub(c.Center).Cross(s.at(k.minor).Sub(c.Center)) < 0 {
				c.A, c.B = c.B, c.A // it runs from Major to Minor; curves run counter-clockwise
			}
		}
	case KindSpline:
		for _, p := range k.poles {
			c.Poles = append(c.Poles, s.at(p))
		}
		c.Knots, c.A, c.B = k.knots, c.Poles[0], c.Poles[len(c.Poles)-1]
	}
	return c
}
