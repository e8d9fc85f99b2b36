package session

import (
	"testing"

	"hammerset/core/sketch"
)

// A wheel drawn by typing is held when it is drawn: places and diameters become sizes, and what
// holds already is not said twice.
func TestTypedPlacesGiveSizes(t *testing.T) {
	s, err := Open(Document{Unit: "mm"})
	if err != nil {
		t.Fatal(err)
	}
	draw := func(tool string, texts ...string) {
		t.Helper()
		var places []Place
		for _, text := range texts {
			p, err := s.Typed(text, tool, places)
			if err != nil {
				t.Fatalf("%s: %v", text, err)
			}
			places = append(places, p)
		}
		if _, _, err := s.Draw(tool, places, 0); err != nil {
			t.Fatalf("%s %v: %v", tool, texts, err)
		}
	}
	draw("circle", "0;0", "80")
	draw("circle", "0;0", "24 mm")
	draw("circle", "28;0", "10")
	draw("circle", "-28;5", "10")
	s.cursor = sketch.Vec{X: 30, Y: 60.2} // almost level with where the line begins
	draw("line", "0;60", "45")
	s.Analyse()
	if s.sol.Freedom != 0 || len(s.sol.Spare) != 0 || !s.sol.Solved {
		t.Errorf("%d loose, %d spare", s.sol.Freedom, len(s.sol.Spare))
	}
	for _, c := range s.sol.Curves {
		if c.Kind == sketch.KindLine && (c.B.Distance(sketch.Vec{X: 45, Y: 60}) > 1e-9) {
			t.Errorf("the line ends at %v", c.B)
		}
	}
}
