package session

import (
	"testing"

	"hammerset/core/sketch"
)

// A cross of two lines with a size and a mark on it, seen at a quarter of a millimetre a
// pixel: each place gives what a hand means there.
func TestPick(t *testing.T) {
	at := func(x, y float64) *[2]float64 { return &[2]float64{x, y} }
	s, err := Open(Document{Unit: "mm", Entities: []sketch.Entity{
		{ID: "p1", Kind: sketch.KindPoint, At: at(-40, 5)}, {ID: "p2", Kind: sketch.KindPoint, At: at(40, 5)},
		{ID: "l1", Kind: sketch.KindLine, From: "p1", To: "p2"},
		{ID: "p3", Kind: sketch.KindPoint, At: at(10, -30)}, {ID: "p4", Kind: sketch.KindPoint, At: at(10, 30)},
		{ID: "l2", Kind: sketch.KindLine, From: "p3", To: "p4"}},
		Constraints: []sketch.Constraint{{ID: "k1", Kind: "horizontal", Of: []string{"l1"}},
			{ID: "d1", Kind: "length", Of: []string{"l1"}, Value: "80", At: at(-20, 0)}}})
	if err != nil {
		t.Fatal(err)
	}
	const pixel = 0.25
	f := s.Frame(pixel)
	mark, size := f.Marks[0], f.Sizes[0] // the size lies on its own line
	for _, c := range []struct {
		name, tool string
		x, y       float64 // on the screen
		want       string
	}{
		{"on a point", "choose", -40, -5, "p1"},
		{"beside a point, on its line", "choose", -38, -5, "l1"},
		{"a near miss of a point with the line at 10 px", "choose", -39, -6.9, "l1"},
		{"a near miss of a point away from its line", "choose", -42, -5, "p1"},
		{"on the line under its own size", "choose", size.X, size.Y, "l1"},
		{"on the lettering beside the line", "choose", size.X, size.Y + 6*pixel, "d1"},
		{"on the mark", "choose", mark.X, mark.Y, "k1"},
		{"trimming under the mark", "trim", mark.X, mark.Y + 4*pixel, "l1"},
		{"splitting under the size", "split", size.X, size.Y + 6*pixel, "l1"},
		{"nowhere", "choose", -25, 20, ""},
		{"an axis", "choose", -25, 0.5, "x-axis"},
	} {
		got := ""
		if p := s.Pick(c.tool, sketch.Vec{X: c.x, Y: c.y}, pixel); p != nil {
			got = p.ID
		}
		if got != c.want {
			t.Errorf("%s: took %q, want %q", c.name, got, c.want)
		}
	}
	// What trimming would take away runs from the left end to the crossing.
	if p := s.Pick("trim", sketch.Vec{X: -20, Y: -5}, pixel); p == nil || p.Piece != "M-40 -5L10 -5" {
		t.Errorf("the piece to be trimmed is %+v", p)
	}
}
