package review

import (
	"strings"
	"testing"

	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
)

// Geometry is called by where it is among its own kind, and never by its id; nothing else has its name.
func TestGeometryIsCalledByWhereItIs(t *testing.T) {
	d, tab := start(t)
	lines := held(t, d)
	var circles []string
	for _, c := range []sketch.Vec{at(8, 6), at(32, 6), at(32, 19), at(8, 19), at(20, 12.5)} {
		circles = append(circles, d.Circle(d.Point(c), 3))
	}
	outer := d.Circle(d.Point(at(20, 12.5)), 5)
	sol, findings := look(t, d, tab)
	call := called.Geometry(d.Sketch, sol)
	first := d.Entity(lines[0])
	for id, want := range map[string]string{
		sketch.Origin: "the origin", sketch.YAxis: "the y axis",
		lines[0]: "the lower line", lines[1]: "the right line", lines[2]: "the upper line", lines[3]: "the left line",
		first.From: "the lower left corner", first.To: "the lower right corner",
		circles[0]: "the lower left circle", circles[2]: "the upper right circle",
		circles[4]: "circle 3 of 6", outer: "circle 4 of 6", // in one place
		d.Entity(circles[0]).Center: "the centre of the lower left circle",
	} {
		if got := call.Of(id); got != want {
			t.Errorf("%s is called %q, not %q", id, got, want)
		}
	}
	seen := map[string]string{}
	for i := range d.Sketch.Entities {
		id := d.Sketch.Entities[i].ID
		name := call.Of(id)
		if other := seen[name]; other != "" || name == id {
			t.Errorf("%s and %s are both called %q", id, other, name)
		}
		seen[name] = id
	}
	for _, f := range findings {
		for i := range d.Sketch.Entities {
			for _, word := range strings.FieldsFunc(f.What+" "+f.Repair, func(r rune) bool {
				return strings.ContainsRune(" ,;:.", r)
			}) {
				if word == d.Sketch.Entities[i].ID {
					t.Errorf("%q says %s", f.What, word)
				}
			}
		}
	}

	two, tab := start(t)
	inner, ring := two.Circle(two.Point(at(0, 0)), 3), two.Circle(two.Point(at(0, 0)), 9)
	bar := two.Line(two.Point(at(-30, 4)), two.Point(at(-20, 5)))
	sol, _ = look(t, two, tab)
	call = called.Geometry(two.Sketch, sol)
	for id, want := range map[string]string{
		inner: "the inner circle", ring: "the outer circle", bar: "the line",
		two.Entity(bar).From: "the left end of the line", two.Entity(bar).To: "the right end of the line",
	} {
		if got := call.Of(id); got != want {
			t.Errorf("%s is called %q, not %q", id, got, want)
		}
	}
}
