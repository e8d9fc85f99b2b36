package interval

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/edit"
)

func at(x, y float64) sketch.Vec { return sketch.Vec{X: x, Y: y} }

// example is a sketch with its parameters.
type example struct {
	*edit.Draft
	params []quantity.Parameter
}

func start(t *testing.T, params ...string) *example {
	t.Helper()
	e := &example{}
	for i := 0; i < len(params); i += 2 {
		e.params = append(e.params, quantity.Parameter{Name: params[i], Formula: params[i+1]})
	}
	tab, err := quantity.Evaluate(e.params, quantity.Millimetre, nil)
	if err != nil {
		t.Fatal(err)
	}
	e.Draft = &edit.Draft{Sketch: &sketch.Sketch{}, Unit: quantity.Millimetre, Values: tab}
	return e
}

func (e *example) find(t *testing.T, name string) Interval {
	t.Helper()
	q, set, err := Parameter(e.params, quantity.Millimetre, name)
	if err != nil {
		t.Fatal(err)
	}
	got, err := Find(t.Context(), e.Sketch, 1, q.Value, set)
	if err != nil {
		t.Fatal(err)
	}
	return got
}

// plate is a rectangle of width W by 30 in the origin's corner.
func (e *example) plate(t *testing.T) []string {
	t.Helper()
	lines, err := e.Rectangle(at(0, 0), at(60, 30))
	if err != nil {
		t.Fatal(err)
	}
	e.Join(e.Entity(lines[0]).From, sketch.Origin)
	e.Constrain("length", "W", lines[0])
	e.Constrain("length", "30", lines[1])
	return lines
}

// Sketches whose ends follow from elementary geometry: where a hole meets the
// edge or another hole, where a rounded side has no straight part left, where a
// linkage is stretched.
func TestIntervalsInClosedForm(t *testing.T) {
	for _, c := range []struct {
		name      string
		draw      func(t *testing.T) *example
		vary      string
		low, high float64 // 0: open
		lowWhy    string
		highWhy   string
	}{
		{"hole in a plate, grown", func(t *testing.T) *example {
			e := start(t, "W", "60 mm", "D", "10 mm")
			e.plate(t)
			h := e.Circle(e.Point(at(20, 15)), 5)
			e.Constrain("horizontal-distance", "20", sketch.Origin, e.Entity(h).Center)
			e.Constrain("vertical-distance", "15", sketch.Origin, e.Entity(h).Center)
			e.Constrain("diameter", "D", h)
			return e
		}, "D", 0, 30, "", "meet"},
		{"hole in a plate, the plate made short", func(t *testing.T) *example {
			e := start(t, "W", "60 mm")
			e.plate(t)
			h := e.Circle(e.Point(at(20, 15)), 5)
			e.Constrain("horizontal-distance", "20", sketch.Origin, e.Entity(h).Center)
			e.Constrain("vertical-distance", "15", sketch.Origin, e.Entity(h).Center)
			e.Constrain("radius", "5", h)
			return e
		}, "W", 25, 0, "meet", ""},
		{"two holes moved together and apart", func(t *testing.T) *example {
			e := start(t, "W", "60 mm", "pitch", "24 mm")
			e.plate(t)
			a, b := e.Circle(e.Point(at(10, 15)), 4), e.Circle(e.Point(at(34, 15)), 4)
			for id, x := range map[string]string{a: "10", b: "10 mm + pitch"} {
				e.Constrain("horizontal-distance", x, sketch.Origin, e.Entity(id).Center)
				e.Constrain("vertical-distance", "15", sketch.Origin, e.Entity(id).Center)
				e.Constrain("radius", "4", id)
			}
			return e
		}, "pitch", 8, 46, "meet", "meet"},
		{"rounds in two corners of one side", func(t *testing.T) *example {
			e := start(t, "W", "60 mm", "R", "8 mm")
			lines := e.plate(t)
			for _, corner := range []string{e.Entity(lines[1]).From, e.Entity(lines[1]).To} {
				if _, err := e.Round(corner, "R", 8); err != nil {
					t.Fatal(err)
				}
			}
			return e
		}, "R", 0, 15, "", "meet"},
		{"a triangle by three sides", func(t *testing.T) *example {
			e := start(t, "a", "50 mm")
			p := []string{e.Point(at(0, 0)), e.Point(at(50, 0)), e.Point(at(18, 24))}
			l := []string{e.Line(p[0], p[1]), e.Line(p[1], p[2]), e.Line(p[2], p[0])}
			e.Join(p[0], sketch.Origin)
			e.Constrain("horizontal", "", l[0])
			e.Constrain("length", "a", l[0])
			e.Constrain("length", "40", l[1])
			e.Constrain("length", "30", l[2])
			return e
		}, "a", 10, 70, "", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			e := c.draw(t)
			if !Uses(e.Sketch, e.params, c.vary) || Uses(e.Sketch, e.params, "other") {
				t.Error("the parameter's uses")
			}
			got := e.find(t, c.vary)
			for _, end := range []struct {
				name string
				End
				want float64
				why  string
			}{{"low", got.Low, c.low, c.lowWhy}, {"high", got.High, c.high, c.highWhy}} {
				switch {
				case end.Open != (end.want == 0):
					t.Errorf("%s end: %+v, want %g", end.name, end.End, end.want)
				case end.want != 0 && math.Abs(end.Value-end.want) > relative*end.want:
					t.Errorf("%s end at %g, want %g", end.name, end.Value, end.want)
				case !end.Open && (end.Why == "" || !strings.Contains(end.Why, end.why)):
					t.Errorf("%s end: %q", end.name, end.Why)
				}
			}
		})
	}
}

// A plain size is varied like a parameter; of two sketches of one shape the one
// that ties its hole to the middle holds longer.
func TestSizesWithoutNames(t *testing.T) {
	ends := map[bool]float64{}
	for _, tied := range []bool{true, false} {
		e := start(t, "W", "60 mm")
		lines := e.plate(t)
		h := e.Circle(e.Point(at(30, 15)), 5)
		e.Constrain("radius", "5", h)
		e.Constrain("vertical-distance", "15", sketch.Origin, e.Entity(h).Center)
		if tied {
			m := e.Point(at(30, 0))
			e.Constrain("midpoint", "", m, lines[0])
			e.Constrain("vertical", "", m, e.Entity(h).Center)
		} else {
			e.Constrain("horizontal-distance", "30", sketch.Origin, e.Entity(h).Center)
		}
		s, nominal, set, err := Size(e.Sketch, "d1", e.Values)
		if err != nil || nominal != 60 {
			t.Fatal(nominal, err)
		}
		got, err := Find(t.Context(), s, 1, nominal, set)
		if err != nil {
			t.Fatal(err)
		}
		ends[tied] = got.Low.Value
	}
	if math.Abs(ends[true]-10) > 0.01 || math.Abs(ends[false]-35) > 0.035 {
		t.Errorf("the plate holds down to %v, want 10 with the hole in the middle and 35 with a typed place",
			fmt.Sprint(ends))
	}
}

// Angles and round geometry: an isosceles triangle by its base and the angle at
// it ends where the legs are parallel; an arc held by its sagitta ends where it
// is flat; a sector's angle where it has gone round.
func TestRoundIntervals(t *testing.T) {
	e := start(t, "tilt", "50 deg")
	p := []string{e.Point(at(0, 0)), e.Point(at(40, 0)), e.Point(at(20, 24))}
	l := []string{e.Line(p[0], p[1]), e.Line(p[1], p[2]), e.Line(p[2], p[0])}
	e.Join(p[0], sketch.Origin)
	e.Constrain("horizontal", "", l[0])
	e.Constrain("length", "40", l[0])
	e.Constrain("equal", "", l[1], l[2])
	e.Constrain("angle", "tilt", l[0], l[2])
	// The angle is measured between the directions: 180 degrees less the tilt.
	for i := range e.Constraints {
		if e.Constraints[i].Value == "tilt" {
			e.Constraints[i].Value = "180 deg - tilt"
		}
	}
	got := e.find(t, "tilt")
	if got.High.Open || math.Abs(got.High.Value-math.Pi/2) > 2e-3 || !got.Low.Open {
		t.Errorf("the triangle's tilt: %+v, want up to 90 degrees", got)
	}

	// A bow: a chord of 60 with an arc over it whose crown is h above.
	e = start(t, "h", "12 mm")
	a, b := e.Point(at(-30, 0)), e.Point(at(30, 0))
	chord := e.Line(a, b)
	r := (30*30 + 12*12) / 24.0
	arc := e.Arc(e.Point(at(0, 12-r)), b, a)
	crown := e.Point(at(0, 12))
	e.Constrain("midpoint", "", sketch.Origin, chord)
	e.Constrain("horizontal", "", chord)
	e.Constrain("length", "60", chord)
	e.Constrain("midpoint", "", crown, arc)
	e.Constrain("vertical-distance", "h", sketch.Origin, crown)
	got = e.find(t, "h")
	if !got.High.Open || !got.Low.Open && got.Low.Value > 0.5 {
		t.Errorf("the bow's height: %+v", got)
	}
}

// What cannot be varied says why: a sketch that contradicts itself, a parameter
// that is not there, a search that was called off.
func TestIntervalsThatCannotBeFound(t *testing.T) {
	e := start(t, "W", "60 mm")
	lines := e.plate(t)
	e.Constrain("length", "70", lines[2])
	_, set, err := Parameter(e.params, quantity.Millimetre, "W")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Find(t.Context(), e.Sketch, 1, 60, set); err == nil ||
		!strings.Contains(err.Error(), "does not hold as it is") {
		t.Errorf("a contradiction: %v", err)
	}
	if _, _, err := Parameter(e.params, quantity.Millimetre, "H"); err == nil {
		t.Error("a parameter that is not there is varied")
	}
	if _, _, _, err := Size(e.Sketch, "d9", e.Values); err == nil {
		t.Error("a size that is not there is varied")
	}
	e = start(t, "W", "60 mm")
	e.plate(t)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := Find(ctx, e.Sketch, 1, 60, set); !errors.Is(err, context.Canceled) {
		t.Errorf("called off: %v", err)
	}
}
