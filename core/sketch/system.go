package sketch

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
)

// slot is an unknown of the system, or a constant when index is negative.
type slot struct {
	index int
	value float64
}

type pointSlots struct{ x, y slot }

type curveSlots struct {
	entity int
	kind   string
	a, b   pointSlots // ends of a line or arc
	c      pointSlots
	r      slot // radius of a circle
}

// equation is one constraint as residuals over the unknowns it touches. All
// residuals are lengths in millimetres.
type equation struct {
	constraint int // index in Sketch.Constraints, or -1 for an arc's own condition
	entity     int // index of the arc, when constraint is -1
	vars       []int
	count      int
	eval       func(x []jet) [2]jet
	size       bool
	target     float64 // the wanted value of a size, in millimetres or radians
	measured   float64 // its value in the starting geometry
	set        *float64
}

// System is a sketch made ready for solving: its unknowns and equations.
type System struct {
	sketch    *Sketch
	x         []float64 // the unknowns, in millimetres
	owner     []int     // entity that owns each unknown
	points    map[string]pointSlots
	curves    map[string]curveSlots
	order     []string // curve ids in document order
	equations []equation
	scale     float64 // a typical length of the sketch
	joined    []int   // coincident constraints that join what is joined already
}

// Values evaluates the formula of a size.
type Values interface {
	Eval(formula string, want quantity.Dim) (float64, error)
}

// Compile checks a sketch and makes its system. unit is the length of the
// document's unit in millimetres. Errors name the entity or constraint.
func Compile(s *Sketch, unit float64, values Values) (*System, error) {
	c := &compiler{System: System{sketch: s, points: map[string]pointSlots{}, curves: map[string]curveSlots{}}, unit: unit, values: values, index: map[string]int{}}
	if err := c.entities(); err != nil {
		return nil, err
	}
	c.scale = c.typicalLength()
	for i := range s.Constraints {
		if err := c.constraint(i); err != nil {
			return nil, err
		}
	}
	return &c.System, nil
}

type compiler struct {
	System
	unit   float64
	values Values
	index  map[string]int
	parent map[string]string // union-find over points, by coincidence
}

func (c *compiler) root(id string) string {
	for c.parent[id] != id {
		c.parent[id] = c.parent[c.parent[id]]
		id = c.parent[id]
	}
	return id
}

func (c *compiler) entities() error {
	s := c.sketch
	c.parent = map[string]string{Origin: Origin}
	for i, e := range s.Entities {
		if e.ID == "" {
			return failf(fmt.Sprintf("entity number %d", i+1), "has no id")
		}
		if _, dup := c.index[e.ID]; dup || e.ID == Origin || e.ID == XAxis || e.ID == YAxis {
			return failf(e.ID, "the id is used twice; give every entity its own")
		}
		c.index[e.ID] = i
		if e.Kind == KindPoint {
			if e.At == nil {
				return failf(e.ID, "a point needs \"at\": [x, y]")
			}
			if !finite(e.At[0]) || !finite(e.At[1]) {
				return failf(e.ID, "the coordinates are not finite numbers")
			}
			c.parent[e.ID] = e.ID
		}
	}
	// Coincident points share their unknowns.
	for i, k := range s.Constraints {
		if k.Kind != "coincident" || len(k.Of) != 2 {
			continue
		}
		_, ok0 := c.parent[k.Of[0]]
		_, ok1 := c.parent[k.Of[1]]
		if !ok0 || !ok1 {
			continue // reported by constraint
		}
		a, b := c.root(k.Of[0]), c.root(k.Of[1])
		switch {
		case a == b:
			c.joined = append(c.joined, i)
		case b == Origin:
			c.parent[a] = b
		default:
			c.parent[b] = a
		}
	}
	fixed := func(x, y float64) pointSlots { return pointSlots{slot{-1, x}, slot{-1, y}} }
	c.points[Origin] = fixed(0, 0)
	c.curves[XAxis] = curveSlots{entity: -1, kind: KindLine, a: fixed(0, 0), b: fixed(1, 0)}
	c.curves[YAxis] = curveSlots{entity: -1, kind: KindLine, a: fixed(0, 0), b: fixed(0, 1)}
	for i, e := range s.Entities {
		if e.Kind == KindPoint && c.root(e.ID) == e.ID {
			c.points[e.ID] = pointSlots{c.unknown(i, e.At[0]*c.unit), c.unknown(i, e.At[1]*c.unit)}
		}
	}
	for _, e := range s.Entities {
		if e.Kind == KindPoint {
			c.points[e.ID] = c.points[c.root(e.ID)]
		}
	}
	for i, e := range s.Entities {
		if err := c.curve(i, e); err != nil {
			return err
		}
	}
	return nil
}

func finite(v float64) bool { return !math.IsNaN(v) && !math.IsInf(v, 0) }

func (c *compiler) unknown(owner int, v float64) slot {
	c.x = append(c.x, v)
	c.owner = append(c.owner, owner)
	return slot{index: len(c.x) - 1}
}

func (c *compiler) curve(i int, e Entity) error {
	need := func(role, id string) (pointSlots, error) {
		p, ok := c.points[id]
		if !ok {
			return p, failf(e.ID, "%q must name a point of this sketch, and %q is none", role, id)
		}
		return p, nil
	}
	k := curveSlots{entity: i, kind: e.Kind}
	var err error
	get := func(role, id string) (p pointSlots) {
		if err == nil {
			p, err = need(role, id)
		}
		return p
	}
	switch e.Kind {
	case KindPoint:
		return nil
	case KindLine:
		k.a, k.b = get("from", e.From), get("to", e.To)
		if err == nil && k.a == k.b {
			err = failf(e.ID, "the line starts and ends in the same point")
		}
	case KindCircle:
		k.c = get("center", e.Center)
		if err == nil && !(e.Radius > 0 && finite(e.Radius)) {
			err = failf(e.ID, "a circle needs a radius greater than zero")
		}
		k.r = c.unknown(i, e.Radius*c.unit)
	case KindArc:
		k.c, k.a, k.b = get("center", e.Center), get("start", e.Start), get("end", e.End)
		if err == nil && (k.a == k.c || k.b == k.c) {
			err = failf(e.ID, "the arc's end is its own centre")
		}
	default:
		err = failf(e.ID, "%q is not a kind of entity; use point, line, circle or arc", e.Kind)
	}
	if err != nil {
		return err
	}
	c.curves[e.ID] = k
	c.order = append(c.order, e.ID)
	if e.Kind == KindArc {
		b := c.equation(-1)
		ctr, s, f := b.point(k.c), b.point(k.a), b.point(k.b)
		b.entity = i
		return b.residual(func(x []jet) jet { return s(x).sub(ctr(x)).norm().sub(f(x).sub(ctr(x)).norm()) })
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
	for _, k := range c.curves {
		if k.kind == KindCircle {
			d = math.Max(d, 2*c.val(k.r))
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
