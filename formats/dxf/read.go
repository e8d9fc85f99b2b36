package dxf

import (
	"bytes"
	"fmt"
	"math"
	"sort"
	"strconv"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

// Fault is a place in a file that cannot be read: the line, and what is wrong.
type Fault struct {
	Line int
	What string
}

func (e *Fault) Error() string {
	if e.Line == 0 {
		return e.What
	}
	return fmt.Sprintf("line %d: %s", e.Line, e.What)
}

// Drawing is what was read: geometry in millimetres as a sketch in a unit, and
// notes on what was left out or assumed.
type Drawing struct {
	Sketch *sketch.Sketch
	Notes  []string
}

// Limits on a file, against hostile ones.
const (
	maxBytes    = 16 << 20
	maxEntities = 5000
)

// pair is a group code with its value.
type pair struct {
	code int
	text string
	line int
}

func (p pair) number() (float64, error) {
	v, err := strconv.ParseFloat(strings.TrimSpace(p.text), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) || math.Abs(v) > 1e9 {
		return 0, &Fault{p.line, fmt.Sprintf("%q is not a number that a drawing can have", strings.TrimSpace(p.text))}
	}
	return v, nil
}

// reader turns entities into a sketch whose coordinates are in unit.
type reader struct {
	unit  quantity.Unit
	scale float64 // from the file's unit to the sketch's
	out   *sketch.Sketch
	left  map[string]int // kinds that were left out
	n     int
	notes []string
}

// Read reads the curves of the entities section. Every curve gets points of its
// own: what belongs together is for the reader of the sketch to say.
func Read(data []byte, unit quantity.Unit) (*Drawing, error) {
	if len(data) > maxBytes {
		return nil, &Fault{0, fmt.Sprintf("the file is larger than the %d MB that are read", maxBytes>>20)}
	}
	if bytes.IndexByte(data, 0) >= 0 {
		return nil, &Fault{0, "this is not an ASCII DXF file; save it as ASCII DXF and try again"}
	}
	pairs, err := scan(data)
	if err != nil {
		return nil, err
	}
	r := &reader{unit: unit, scale: 1, out: &sketch.Sketch{}, left: map[string]int{}}
	r.header(pairs)
	if err := r.entities(pairs); err != nil {
		return nil, err
	}
	var kinds []string
	for k := range r.left {
		kinds = append(kinds, k)
	}
	sort.Strings(kinds)
	for _, k := range kinds {
		r.notes = append(r.notes, fmt.Sprintf(
			"%d of kind %s left out: only lines, arcs, circles, ellipses, splines, polylines and points are read", r.left[k], k))
	}
	if len(r.out.Entities) == 0 {
		return nil, &Fault{0, "the file holds no lines, arcs, circles, ellipses, splines or polylines"}
	}
	return &Drawing{r.out, r.notes}, nil
}

// scan splits a file into pairs.
func scan(data []byte) ([]pair, error) {
	lines := strings.Split(strings.ReplaceAll(string(data), "\r\n", "\n"), "\n")
	var out []pair
	for i := 0; i+1 < len(lines); i += 2 {
		text := strings.TrimSpace(lines[i])
		code, err := strconv.Atoi(text)
		if err != nil {
			if i == 0 {
				return nil, &Fault{1, "this is not a DXF file: it begins with no group code"}
			}
			return nil, &Fault{i + 1, fmt.Sprintf("%q is not a group code; the file may be cut short or edited", cut(text))}
		}
		out = append(out, pair{code, lines[i+1], i + 2})
		if code == 0 && strings.TrimSpace(lines[i+1]) == "EOF" {
			return out, nil
		}
	}
	switch {
	case len(strings.TrimSpace(string(data))) == 0:
		return nil, &Fault{0, "the file is empty"}
	case len(out) == 0:
		return nil, &Fault{1, "this is not a DXF file: it has no group codes"}
	}
	return nil, &Fault{len(lines), "the file is cut short: its EOF mark is missing"}
}

func cut(s string) string {
	if len(s) > 40 {
		return s[:40] + "…"
	}
	return s
}

// header finds the unit of the file.
func (r *reader) header(pairs []pair) {
	units := map[int]float64{1: 25.4, 2: 304.8, 4: 1, 5: 10, 6: 1000}
	for i, p := range pairs {
		if p.code == 9 && strings.TrimSpace(p.text) == "$INSUNITS" && i+1 < len(pairs) {
			n, _ := strconv.Atoi(strings.TrimSpace(pairs[i+1].text))
			if f, ok := units[n]; ok {
				r.scale = f / r.unit.Factor
				return
			}
		}
	}
	r.notes = append(r.notes, "the file names no unit of length; its numbers were taken as "+r.unit.Symbol)
}

// entities reads the entities section.
func (r *reader) entities(pairs []pair) error {
	in, found := false, false
	for i := 0; i < len(pairs); i++ {
		p := pairs[i]
		if p.code != 0 {
			continue
		}
		kind := strings.TrimSpace(p.text)
		switch {
		case kind == "SECTION":
			in = i+1 < len(pairs) && strings.TrimSpace(pairs[i+1].text) == "ENTITIES"
			found = found || in
		case kind == "ENDSEC":
			in = false
		case in:
			end := i + 1
			for end < len(pairs) && pairs[end].code != 0 {
				end++
			}
			e := entity{kind: kind, line: p.line, pairs: pairs[i+1 : end]}
			if kind == "POLYLINE" { // its vertices follow as entities of their own
				for end < len(pairs) && strings.TrimSpace(pairs[end].text) == "VERTEX" {
					next := end + 1
					for next < len(pairs) && pairs[next].code != 0 {
						next++
					}
					e.vertices = append(e.vertices, entity{kind: "VERTEX", line: pairs[end].line, pairs: pairs[end+1 : next]})
					end = next
				}
			}
			if err := r.entity(&e); err != nil {
				return err
			}
			if r.n > maxEntities {
				return &Fault{p.line, fmt.Sprintf("the file has more than the %d curves that are read", maxEntities)}
			}
			i = end - 1
		}
	}
	if !found {
		return &Fault{0, "the file has no section of entities"}
	}
	return nil
}

// entity is one entity of the file.
type entity struct {
	kind     string
	line     int
	pairs    []pair
	vertices []entity
}

// get gives the number of a group code, or the default when it is absent.
func (e *entity) get(code int, otherwise float64) (float64, error) {
	for _, p := range e.pairs {
		if p.code == code {
			return p.number()
		}
	}
	return otherwise, nil
}

// must gives numbers that have to be there.
func (e *entity) must(codes ...int) ([]float64, error) {
	var out []float64
	for _, c := range codes {
		v, err := e.get(c, math.NaN())
		if err != nil {
			return nil, err
		}
		if math.IsNaN(v) {
			return nil, &Fault{e.line, fmt.Sprintf("this %s has no value for group %d", e.kind, c)}
		}
		out = append(out, v)
	}
	return out, nil
}

func (e *entity) all(code int) ([]float64, error) {
	var out []float64
	for _, p := range e.pairs {
		if p.code == code {
			v, err := p.number()
			if err != nil {
				return nil, err
			}
			out = append(out, v)
		}
	}
	return out, nil
}

// turned tells whether the entity is seen from below: its x axis runs the other
// way.
func (e *entity) turned() bool {
	z, err := e.get(230, 1)
	return err == nil && z < 0
}

func (e *entity) guide() bool {
	for _, p := range e.pairs {
		if p.code == 8 {
			return strings.EqualFold(strings.TrimSpace(p.text), guides)
		}
	}
	return false
}

func (r *reader) id(prefix string) string {
	r.n++
	return fmt.Sprintf("%s%d", prefix, r.n)
}

// point adds a point, given in the file's unit.
func (r *reader) point(p sketch.Vec) string {
	id := r.id("p")
	r.out.Entities = append(r.out.Entities, sketch.Entity{ID: id, Kind: sketch.KindPoint,
		At: &[2]float64{p.X * r.scale, p.Y * r.scale}})
	return id
}

func (r *reader) curve(e *entity, c sketch.Entity) {
	c.ID, c.Guide = r.id("e"), e.guide()
	r.out.Entities = append(r.out.Entities, c)
}

func (r *reader) entity(e *entity) error {
	side := 1.0
	if e.turned() {
		side = -1
	}
	at := func(x, y float64) sketch.Vec { return sketch.Vec{X: side * x, Y: y} }
	switch e.kind {
	case "POINT":
		v, err := e.must(10, 20)
		if err == nil {
			r.point(at(v[0], v[1]))
		}
		return err
	case "LINE":
		v, err := e.must(10, 20, 11, 21)
		if err != nil {
			return err
		}
		a, b := sketch.Vec{X: v[0], Y: v[1]}, sketch.Vec{X: v[2], Y: v[3]} // lines are in world coordinates
		if a.Distance(b) < 1e-9 {
			r.left["LINE of no length"]++
			return nil
		}
		r.curve(e, sketch.Entity{Kind: sketch.KindLine, From: r.point(a), To: r.point(b)})
	case "CIRCLE":
		v, err := e.must(10, 20, 40)
		if err != nil {
			return err
		}
		if v[2] <= 0 {
			return &Fault{e.line, "this circle has no radius greater than zero"}
		}
		r.curve(e, sketch.Entity{Kind: sketch.KindCircle, Center: r.point(at(v[0], v[1])), Radius: v[2] * r.scale})
	case "ARC":
		v, err := e.must(10, 20, 40, 50, 51)
		if err != nil {
			return err
		}
		if v[2] <= 0 {
			return &Fault{e.line, "this arc has no radius greater than zero"}
		}
		lo, hi := v[3]*math.Pi/180, v[4]*math.Pi/180
		if side < 0 {
			lo, hi = math.Pi-hi, math.Pi-lo
		}
		r.arc(e, at(v[0], v[1]), v[2], lo, hi)
	case "ELLIPSE":
		return r.ellipse(e)
	case "SPLINE":
		return r.spline(e)
	case "LWPOLYLINE", "POLYLINE":
		return r.polyline(e, at, side)
	case "SEQEND":
	default:
		r.left[e.kind]++
	}
	return nil
}

func (r *reader) arc(e *entity, centre sketch.Vec, radius, lo, hi float64) {
	r.curve(e, sketch.Entity{Kind: sketch.KindArc, Center: r.point(centre), Start: r.point(centre.Polar(radius, lo)),
		End: r.point(centre.Polar(radius, hi))})
}

func (r *reader) ellipse(e *entity) error {
	v, err := e.must(10, 20, 11, 21, 40)
	if err != nil {
		return err
	}
	c, u := sketch.Vec{X: v[0], Y: v[1]}, sketch.Vec{X: v[2], Y: v[3]}
	if u.Norm() <= 0 || v[4] <= 0 {
		return &Fault{e.line, "this ellipse has a half axis of no length"}
	}
	w := u.Left().Scale(v[4])
	if e.turned() {
		w = w.Scale(-1)
	}
	lo, err1 := e.get(41, 0)
	hi, err2 := e.get(42, 2*math.Pi)
	if err1 != nil || err2 != nil {
		return &Fault{e.line, "the ends of this ellipse are no numbers"}
	}
	k := sketch.Entity{Kind: sketch.KindEllipse, Center: r.point(c), Major: r.point(c.Add(u)), Minor: r.point(c.Add(w))}
	on := func(t float64) sketch.Vec { return c.Add(u.Scale(math.Cos(t))).Add(w.Scale(math.Sin(t))) }
	if math.Abs(math.Remainder(hi-lo, 2*math.Pi)) > 1e-9 {
		k.Kind, k.Start, k.End = sketch.KindEllArc, r.point(on(lo)), r.point(on(hi))
	}
	r.curve(e, k)
	return nil
}

func (r *reader) spline(e *entity) error {
	degree, err := e.get(71, 3)
	if err != nil {
		return err
	}
	get := func(code int) []float64 {
		v, e2 := e.all(code)
		if e2 != nil {
			err = e2
		}
		return v
	}
	knots, weights, x, y, fx, fy := get(40), get(41), get(10), get(20), get(11), get(21)
	if err != nil {
		return err
	}
	if len(x) != len(y) || len(fx) != len(fy) {
		return &Fault{e.line, "this spline has points without both coordinates"}
	}
	for _, w := range weights {
		if math.Abs(w-weights[0]) > 1e-9*math.Abs(weights[0]) {
			r.left["SPLINE with weights"]++
			return nil
		}
	}
	if len(x) == 0 && len(fx) >= 3 {
		var list []string
		for i := range fx {
			list = append(list, r.point(sketch.Vec{X: fx[i], Y: fy[i]}))
		}
		r.curve(e, sketch.Entity{Kind: sketch.KindSpline, Through: list})
		return nil
	}
	if degree != 3 {
		r.left[fmt.Sprintf("SPLINE of degree %g", degree)]++
		return nil
	}
	n := len(x)
	if n < 4 || len(knots) != n+4 {
		return &Fault{e.line, fmt.Sprintf("this spline has %d poles and %d knots; a cubic with %d poles has %d knots", n,
			len(knots), n, n+4)}
	}
	c := sketch.Curve{Kind: sketch.KindSpline, Knots: knots}
	for i := range x {
		c.Poles = append(c.Poles, sketch.Vec{X: x[i], Y: y[i]})
	}
	for i := 1; i < len(knots); i++ {
		if knots[i] < knots[i-1] {
			return &Fault{e.line, "the knots of this spline fall"}
		}
	}
	if !(knots[3] < knots[n]) {
		return &Fault{e.line, "this spline has no length: its knots are all one"}
	}
	poles, clamped := c.Part(knots[3], knots[n]) // so that it ends in its poles
	if len(clamped) != len(poles)+4 || len(poles) < 4 {
		r.left["SPLINE with knots of too high a multiplicity"]++
		return nil
	}
	var list []string
	for _, p := range poles {
		list = append(list, r.point(p))
	}
	r.curve(e, sketch.Entity{Kind: sketch.KindSpline, Poles: list, Knots: clamped})
	return nil
}

// polyline reads straight pieces and arcs; an arc is given by its bulge, the
// tangent of a quarter of its angle. Its pieces share their ends.
func (r *reader) polyline(e *entity, at func(x, y float64) sketch.Vec, side float64) error {
	flags, err := e.get(70, 0)
	if err != nil {
		return err
	}
	if e.kind == "POLYLINE" && int(flags)&(8|16|64) != 0 {
		r.left["POLYLINE in space"]++
		return nil
	}
	list, err := e.corners(at)
	if err != nil {
		return err
	}
	closed := int(flags)&1 == 1
	for i := len(list) - 1; i > 0; i-- { // places given twice
		if list[i].at.Distance(list[i-1].at) < 1e-9 {
			list[i-1].bulge = list[i].bulge
			list = append(list[:i], list[i+1:]...)
		}
	}
	if closed && len(list) > 2 && list[0].at.Distance(list[len(list)-1].at) < 1e-9 {
		list = list[:len(list)-1]
	}
	if len(list) < 2 {
		r.left["POLYLINE of no length"]++
		return nil
	}
	points := make([]string, len(list))
	for i := range list {
		points[i] = r.point(list[i].at)
	}
	for i := range list {
		j := (i + 1) % len(list)
		if j == 0 && !closed {
			break
		}
		b := list[i].bulge * side
		if b == 0 {
			r.curve(e, sketch.Entity{Kind: sketch.KindLine, From: points[i], To: points[j]})
			continue
		}
		a, c := list[i].at, list[j].at
		// The centre stands off the chord's middle by (1 - b²)/(4 b) of its length.
		mid := a.Midpoint(c)
		centre := mid.Add(c.Sub(a).Left().Scale((1 - b*b) / (4 * b)))
		k := sketch.Entity{Kind: sketch.KindArc, Center: r.point(centre), Start: points[i], End: points[j]}
		if b < 0 {
			k.Start, k.End = k.End, k.Start
		}
		r.curve(e, k)
	}
	return nil
}

// corner is a vertex of a polyline. The piece after it is an arc where it has a bulge: the tangent of
// a quarter of its angle.
type corner struct {
	at    sketch.Vec
	bulge float64
}

// corners reads the vertices of a polyline: of its own entities, or of its pairs.
func (e *entity) corners(at func(x, y float64) sketch.Vec) ([]corner, error) {
	var list []corner
	if e.kind == "POLYLINE" {
		for i := range e.vertices {
			v := &e.vertices[i]
			p, err := v.must(10, 20)
			if err != nil {
				return nil, err
			}
			b, err := v.get(42, 0)
			if err != nil {
				return nil, err
			}
			list = append(list, corner{at(p[0], p[1]), b})
		}
		return list, nil
	}
	for _, p := range e.pairs {
		if p.code != 10 && p.code != 20 && p.code != 42 {
			continue
		}
		v, err := p.number()
		switch {
		case err != nil:
			return nil, err
		case p.code == 10:
			list = append(list, corner{at: at(v, 0)})
		case len(list) == 0:
			return nil, &Fault{p.line, "this polyline begins with no x coordinate"}
		case p.code == 20:
			list[len(list)-1].at.Y = v
		default:
			list[len(list)-1].bulge = v
		}
	}
	return list, nil
}
