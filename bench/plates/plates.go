// Package plates makes sketches of any size for benchmarks.
package plates

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/sketch"
)

// Plate makes a held sketch of about n entities as people draw them: an outline
// of steps with rounded corners, holes in rows placed from its edges and from one
// another, slots, some of it under an angle.
func Plate(n int) *sketch.Sketch {
	s := &sketch.Sketch{}
	count := 0
	point := func(x, y float64) string {
		id := fmt.Sprintf("p%d", count)
		count++
		s.Entities = append(s.Entities, sketch.Entity{ID: id, Kind: sketch.KindPoint, At: &[2]float64{x, y}})
		return id
	}
	entity := func(e sketch.Entity) string {
		e.ID = fmt.Sprintf("e%d", count)
		count++
		s.Entities = append(s.Entities, e)
		return e.ID
	}
	con := func(kind, value string, of ...string) {
		s.Constraints = append(s.Constraints, sketch.Constraint{ID: fmt.Sprintf("k%d", len(s.Constraints)), Kind: kind,
			Of: of, Value: value})
	}
	line := func(a, b string) string { return entity(sketch.Entity{Kind: sketch.KindLine, From: a, To: b}) }
	// Cells of 40 by 30: a tilted rectangle with a hole in it and a slot beside it.
	prev := sketch.Origin
	for cell := 0; len(s.Entities) < n; cell++ {
		x, y := 60*float64(cell%5), 50*float64(cell/5)
		a, b, c, d := point(x, y), point(x+38, y+8), point(x+33, y+30), point(x-6, y+22)
		ab, bc, cd, da := line(a, b), line(b, c), line(c, d), line(d, a)
		con("perpendicular", "", ab, bc)
		con("parallel", "", ab, cd)
		con("parallel", "", bc, da)
		con("length", "40", ab)
		con("length", "25", bc)
		if prev == sketch.Origin {
			con("coincident", "", a, sketch.Origin)
		} else {
			con("horizontal-distance", fmt.Sprint(math.Max(1, math.Abs(x-lastX(cell)))), prev, a)
			con("vertical-distance", fmt.Sprint(math.Max(1, math.Abs(y-lastY(cell)))), prev, a)
		}
		con("angle", "12 deg", sketch.XAxis, ab)
		prev = a
		m := point(x+10, y+10)
		hole := entity(sketch.Entity{Kind: sketch.KindCircle, Center: m, Radius: 3})
		con("distance", "11", m, ab)
		con("distance", "9", m, da)
		con("diameter", "6.6", hole)
		// A slot: two arcs and two lines, tangent and equal.
		c0, c1 := point(x+20, y+14), point(x+30, y+16)
		q0, q1, q2, q3 := point(x+20, y+11), point(x+30, y+13), point(x+30, y+19), point(x+20, y+17)
		l0, l1 := line(q0, q1), line(q2, q3)
		a1 := entity(sketch.Entity{Kind: sketch.KindArc, Center: c1, Start: q1, End: q2})
		a0 := entity(sketch.Entity{Kind: sketch.KindArc, Center: c0, Start: q3, End: q0})
		con("tangent", "", l0, a0)
		con("tangent", "", l0, a1)
		con("tangent", "", l1, a1)
		con("tangent", "", l1, a0)
		con("equal", "", a0, a1)
		con("radius", "3", a0)
		con("distance", "10", c0, c1)
		con("parallel", "", l0, ab)
		con("distance", "12", c0, m)
		con("distance", "13", c0, ab)
	}
	return s
}

func lastX(cell int) float64 { return 60 * float64((cell-1)%5) }
func lastY(cell int) float64 { return 50 * float64((cell-1)/5) }

// Loose takes a few sizes off a plate, so that something of it can be pulled.
func Loose(n int) *sketch.Sketch {
	s := Plate(n)
	s.Constraints = slices.DeleteFunc(s.Constraints, func(k sketch.Constraint) bool {
		return k.Kind == "angle" && len(k.Of) == 2 && k.Of[0] == sketch.XAxis || k.Kind == "diameter"
	})
	return s
}
