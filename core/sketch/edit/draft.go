// Package edit changes sketches the way people do: it draws shapes with the
// constraints that make them what they are, and trims, mirrors, copies and rounds
// so that constraints and sizes keep their meaning.
package edit

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
)

// Draft is a sketch being changed. Places are in millimetres; the document's
// coordinates are in its own unit. A method that fails leaves the draft in an
// unstated condition: callers work on a copy.
type Draft struct {
	*sketch.Sketch
	Unit   quantity.Unit // of the document
	Values sketch.Values
}

// Error says in words why an edit cannot be done.
type Error struct{ What string }

func (e *Error) Error() string { return e.What }

// refuse is an error that a person can do something about, in words.
func refuse(format string, args ...any) error { return &Error{fmt.Sprintf(format, args...)} }

// fresh gives an id that is not used yet.
func (d *Draft) fresh(prefix string) string {
	for n := 1; ; n++ {
		id := fmt.Sprintf("%s%d", prefix, n)
		if d.Entity(id) == nil && d.Constraint(id) == nil {
			return id
		}
	}
}

// prefixes of the ids of new entities.
var prefixes = map[string]string{sketch.KindPoint: "p", sketch.KindLine: "l", sketch.KindCircle: "c",
	sketch.KindArc:     "a",
	sketch.KindEllipse: "e", sketch.KindEllArc: "ea", sketch.KindSpline: "sp"}

// Add puts a new entity into the sketch and gives its id.
func (d *Draft) Add(e sketch.Entity) string {
	if e.ID == "" {
		e.ID = d.fresh(prefixes[e.Kind])
	}
	d.Entities = append(d.Entities, e)
	return e.ID
}

// Point adds a point.
func (d *Draft) Point(at sketch.Vec) string {
	at = at.Scale(1 / d.Unit.Factor)
	return d.Add(sketch.Entity{Kind: sketch.KindPoint, At: &[2]float64{at.X, at.Y}})
}

// Line adds a line between two points.
func (d *Draft) Line(from, to string) string {
	return d.Add(sketch.Entity{Kind: sketch.KindLine, From: from, To: to})
}

// guide adds a guide line.
func (d *Draft) guide(from, to string) string {
	return d.Add(sketch.Entity{Kind: sketch.KindLine, From: from, To: to, Guide: true})
}

// Circle adds a circle; the radius is in millimetres.
func (d *Draft) Circle(center string, radius float64) string {
	return d.Add(sketch.Entity{Kind: sketch.KindCircle, Center: center, Radius: radius / d.Unit.Factor})
}

// Arc adds an arc, counter-clockwise from start to end.
func (d *Draft) Arc(center, start, end string) string {
	return d.Add(sketch.Entity{Kind: sketch.KindArc, Center: center, Start: start, End: end})
}

// Constrain adds a constraint or, with a value, a size.
func (d *Draft) Constrain(kind, value string, of ...string) string {
	prefix := "k"
	if _, size := sketch.Sizes[kind]; size {
		prefix = "d"
	}
	id := d.fresh(prefix)
	d.Constraints = append(d.Constraints, sketch.Constraint{ID: id, Kind: kind, Of: of, Value: value})
	return id
}

// At is the place of a point.
func (d *Draft) At(id string) sketch.Vec {
	if e := d.Entity(id); e != nil && e.At != nil {
		return sketch.Vec{X: e.At[0] * d.Unit.Factor, Y: e.At[1] * d.Unit.Factor}
	}
	return sketch.Vec{}
}

// Put moves a point.
func (d *Draft) Put(id string, at sketch.Vec) {
	if e := d.Entity(id); e != nil && e.At != nil {
		e.At = &[2]float64{at.X / d.Unit.Factor, at.Y / d.Unit.Factor}
	}
}

// curves is the geometry as drawn.
func (d *Draft) curves() ([]sketch.Curve, error) {
	sys, err := sketch.Compile(&sketch.Sketch{Entities: d.Entities}, d.Unit.Factor, d.Values)
	if err != nil {
		return nil, err
	}
	return sys.Solution().Curves, nil
}

// call says what a curve or point is called for people, as it lies now.
func (d *Draft) call(id string) string {
	sys, err := sketch.Compile(&sketch.Sketch{Entities: d.Entities}, d.Unit.Factor, d.Values)
	if err != nil {
		return id
	}
	return called.Geometry(d.Sketch, sys.Solution()).Of(id)
}

// curve finds a curve among all of the sketch as they lie now; others are given
// as well, since what cuts it is looked for among them.
func (d *Draft) curve(id string) ([]sketch.Curve, int, error) {
	all, err := d.curves()
	if err != nil {
		return nil, 0, err
	}
	for i := range all {
		if all[i].ID == id {
			return all, i, nil
		}
	}
	return nil, 0, refuse("%s is no curve of this sketch", d.call(id))
}

// Length writes a length in the document's unit, for a size.
func (d *Draft) Length(mm float64) string {
	return quantity.Format{Unit: d.Unit, Lengths: 4, Decimal: true}.Length(mm)
}

// angleFormula writes an angle as a size that gives it again to a millionth of a degree.
func angleFormula(rad float64) string { return quantity.GaugeFormat(quantity.Degree).Angle(rad) }

// Words writes a length with the document's unit, for people to read.
func (d *Draft) Words(mm float64) string {
	return quantity.FormulaFormat(d.Unit).Length(mm)
}

// same groups points that coincident constraints join.
func (d *Draft) same(a, b string) bool {
	if a == b {
		return true
	}
	seen := map[string]bool{a: true}
	for queue := []string{a}; len(queue) > 0; queue = queue[1:] {
		for _, k := range d.Constraints {
			if k.Kind != "coincident" || !slices.Contains(k.Of, queue[0]) {
				continue
			}
			for _, id := range k.Of {
				if id == b {
					return true
				}
				if !seen[id] {
					seen[id] = true
					queue = append(queue, id)
				}
			}
		}
	}
	return false
}

// Remove takes entities and constraints out, with the curves that stand on a
// removed point, the constraints on anything removed, and points that nothing
// stands on any more.
func (d *Draft) Remove(ids ...string) {
	gone := map[string]bool{}
	for _, id := range ids {
		gone[id] = true
	}
	for changed := true; changed; {
		changed = false
		for i := range d.Entities {
			e := &d.Entities[i]
			if !gone[e.ID] && slices.ContainsFunc(e.Refs(), func(p string) bool { return gone[p] }) {
				gone[e.ID], changed = true, true
			}
		}
	}
	held := map[string]int{}
	for i := range d.Entities {
		for _, p := range d.Entities[i].Refs() {
			if gone[d.Entities[i].ID] {
				held[p] |= 1
			} else {
				held[p] |= 2
			}
		}
	}
	for p, by := range held {
		if by == 1 {
			gone[p] = true
		}
	}
	d.Entities = slices.DeleteFunc(d.Entities, func(e sketch.Entity) bool { return gone[e.ID] })
	d.Constraints = slices.DeleteFunc(d.Constraints, func(k sketch.Constraint) bool {
		return gone[k.ID] || slices.ContainsFunc(k.Of, func(id string) bool { return gone[id] })
	})
}

// retarget puts constraints of the given kinds on another entity.
func (d *Draft) retarget(from, to string, kinds ...string) (moved int) {
	for i := range d.Constraints {
		k := &d.Constraints[i]
		if len(kinds) > 0 && !slices.Contains(kinds, k.Kind) {
			continue
		}
		for j := range k.Of {
			if k.Of[j] == from {
				k.Of[j] = to
				moved++
			}
		}
	}
	return moved
}

// Join makes two points one place.
func (d *Draft) Join(a, b string) {
	if !d.same(a, b) {
		d.Constrain("coincident", "", a, b)
	}
}

// closure is a selection with all points that its curves stand on, in document
// order.
func (d *Draft) closure(ids []string) []string {
	in := map[string]bool{}
	for _, id := range ids {
		in[id] = true
		if e := d.Entity(id); e != nil {
			for _, p := range e.Refs() {
				in[p] = true
			}
		}
	}
	var out []string
	for _, e := range d.Entities {
		if in[e.ID] {
			out = append(out, e.ID)
		}
	}
	return out
}

// Move shifts entities; their points go along.
func (d *Draft) Move(ids []string, by sketch.Vec) {
	d.transform(ids, func(p sketch.Vec) sketch.Vec { return p.Add(by) })
}

// transform moves all points that the ids depend on. Curves follow their points;
// what is traced from the solid stays where the solid is.
func (d *Draft) transform(ids []string, f func(sketch.Vec) sketch.Vec) {
	for _, id := range d.closure(ids) {
		if e := d.Entity(id); e.Kind == sketch.KindPoint && len(e.Traced) == 0 {
			d.Put(id, f(d.At(id)))
		}
	}
}

// Turn rotates entities about a place, by an angle in radians. Horizontals and
// verticals among them become parallel and perpendicular to one of them, which
// gets its angle as a size. Horizontal and vertical distances that would fight
// the turn are taken off; their ids are given back.
func (d *Draft) Turn(ids []string, about sketch.Vec, angle float64) (removed []string) {
	d.transform(ids, func(p sketch.Vec) sketch.Vec {
		v := p.Sub(about)
		return about.Polar(v.Norm(), sketch.Vec{}.AngleTo(v)+angle)
	})
	in := map[string]bool{}
	for _, id := range d.closure(ids) {
		in[id] = true
	}
	inside := func(k sketch.Constraint) bool {
		for _, id := range k.Of {
			if !in[id] {
				return false
			}
		}
		return true
	}
	lead := ""
	leadUpright := false
	var keep []sketch.Constraint
	for _, k := range d.Constraints {
		switch {
		case !inside(k):
		case (k.Kind == "horizontal" || k.Kind == "vertical") && len(k.Of) == 1:
			upright := k.Kind == "vertical"
			if lead == "" {
				lead, leadUpright = k.Of[0], upright
				k.Kind, k.Of, k.Value = "angle", []string{sketch.XAxis, lead}, ""
				e := d.Entity(lead)
				k.Value = angleFormula(math.Abs(sketch.Vec{}.AngleTo(d.At(e.To).Sub(d.At(e.From)))))
			} else {
				k.Of = []string{lead, k.Of[0]}
				k.Kind = "parallel"
				if upright != leadUpright {
					k.Kind = "perpendicular"
				}
			}
		case k.Kind == "horizontal-distance" || k.Kind == "vertical-distance" || k.Kind == "horizontal" ||
			k.Kind == "vertical":
			removed = append(removed, k.ID)
			continue
		}
		keep = append(keep, k)
	}
	d.Constraints = keep
	return removed
}

// Scale enlarges entities about a place. Sizes on them alone that are plain
// numbers are enlarged with them.
func (d *Draft) Scale(ids []string, about sketch.Vec, factor float64) error {
	if !(factor > 0) {
		return refuse("a sketch is scaled by a factor greater than zero")
	}
	d.transform(ids, func(p sketch.Vec) sketch.Vec { return about.Add(p.Sub(about).Scale(factor)) })
	in := map[string]bool{}
	for _, id := range d.closure(ids) {
		in[id] = true
		if e := d.Entity(id); e.Kind == sketch.KindCircle {
			e.Radius *= factor
		}
	}
	for i := range d.Constraints {
		k := &d.Constraints[i]
		if k.Value == "" || sketch.Sizes[k.Kind] != quantity.Length ||
			slices.ContainsFunc(k.Of, func(id string) bool { return !in[id] }) {
			continue
		}
		f, err := quantity.Parse(k.Value)
		if err != nil || len(f.Names()) > 0 {
			continue
		}
		v, err := d.Values.Eval(k.Value, quantity.Length)
		if err != nil {
			continue
		}
		k.Value = d.Length(v * factor)
	}
	return nil
}

// FirstSize gives a rough sketch its scale: when no size holds it yet, giving the
// first length enlarges everything about the origin so that the length comes out
// as typed and nothing folds over. measured and wanted are in millimetres; it
// reports whether it did.
func (d *Draft) FirstSize(measured, wanted float64) bool {
	if !(measured > 0) || !(wanted > 0) {
		return false
	}
	for _, k := range d.Constraints {
		if dim, size := sketch.Sizes[k.Kind]; size && dim == quantity.Length && !k.Driven || k.Kind == "fixed" {
			return false
		}
	}
	var all []string
	for _, e := range d.Entities {
		if len(e.Traced) > 0 {
			return false
		}
		all = append(all, e.ID)
	}
	return d.Scale(all, sketch.Vec{}, wanted/measured) == nil
}
