package session

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

func open(t testing.TB, params ...string) *Session {
	t.Helper()
	d := Document{Unit: "mm"}
	for i := 0; i < len(params); i += 2 {
		d.Parameters = append(d.Parameters, quantity.Parameter{Name: params[i], Formula: params[i+1]})
	}
	s, err := Open(d)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

const pixel = 0.25

// hand draws with a tool as a hand does: places on the screen (y downwards), a
// little off.
func hand(t testing.TB, s *Session, tool string, free bool, places ...[2]float64) []string {
	t.Helper()
	var list []Place
	for _, p := range places {
		v, err := s.Preview(tool, list, sketch.Vec{X: p[0], Y: p[1]}, pixel, free, 6)
		if err != nil {
			t.Fatal(err)
		}
		list = append(list, v.Place)
	}
	ids, _, err := s.Draw(tool, list, 6)
	if err != nil {
		t.Fatalf("%s: %v", tool, err)
	}
	return ids
}

// polyline draws a chain of lines, each going on from the last.
func polyline(t testing.TB, s *Session, places ...[2]float64) []string {
	t.Helper()
	var out []string
	var from *Place
	for i, p := range places {
		v, err := s.Preview("line", nil, sketch.Vec{X: p[0], Y: p[1]}, pixel, false, 0)
		if from != nil {
			v, err = s.Preview("line", []Place{*from}, sketch.Vec{X: p[0], Y: p[1]}, pixel, false, 0)
		}
		if err != nil {
			t.Fatal(err)
		}
		if i == 0 {
			from = &v.Place
			continue
		}
		ids, next, err := s.Draw("line", []Place{*from, v.Place}, 0)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, ids...)
		if from = next; from == nil && i < len(places)-1 {
			t.Fatalf("the chain ends after %d places", i+1)
		}
	}
	return out
}

func do(t testing.TB, s *Session, c Command) {
	t.Helper()
	if err := s.Do(c); err != nil {
		t.Fatalf("%+v: %v", c, err)
	}
}

func text(t testing.TB, s *Session) string {
	t.Helper()
	b, err := json.Marshal(s.Document())
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

// A profile drawn roughly from the origin: what is nearly level becomes level,
// the end closes on the start, the first size scales it all, three more hold it,
// and everything can be undone and done again.
func TestDrawnRoughlyThenHeld(t *testing.T) {
	s := open(t, "wide", "80 mm", "high", "wide/2")
	start := text(t, s)
	lines := polyline(t, s, [2]float64{0.4, -0.3}, [2]float64{30, -0.8}, [2]float64{30.5, -9}, [2]float64{11, -9.6},
		[2]float64{11.3, -22}, [2]float64{0.2, -21.5}, [2]float64{0.5, 0.4})
	s.Analyse()
	if len(lines) != 6 || s.sol.Freedom != 4 || len(s.sol.Spare) != 0 {
		t.Fatalf("%d lines, freedom %d, spare %v, constraints %+v", len(lines), s.sol.Freedom, s.sol.Spare,
			s.draft.Constraints)
	}
	for _, k := range s.draft.Constraints {
		if !k.Guessed {
			t.Errorf("%s is not marked as guessed", k.ID)
		}
	}
	f := s.Frame(pixel)
	if len(f.Regions) != 1 || len(f.Loose) == 0 {
		t.Errorf("%d regions, loose %v", len(f.Regions), f.Loose)
	}
	shape := s.sol.Points
	do(t, s, Command{Do: "size", Kind: "length", IDs: lines[:1], Value: "wide"})
	ratio := 80 / shape[s.draft.Entity(lines[0]).To].X
	for id, p := range s.sol.Points {
		if p.Distance(shape[id].Scale(ratio)) > 1e-6 {
			t.Errorf("%s at %v is not scaled from %v", id, p, shape[id])
		}
	}
	do(t, s, Command{Do: "size", Kind: "length", IDs: lines[4:5], Value: "high - 10 mm"})
	do(t, s, Command{Do: "size", Kind: "length", IDs: lines[1:2], Value: "120/5"})
	do(t, s, Command{Do: "size", Kind: "length", IDs: lines[3:4], Value: "1.25 in"})
	s.Analyse()
	if !s.sol.Held() || len(s.Findings()) != 0 {
		t.Fatalf("freedom %d, findings %+v", s.sol.Freedom, s.Findings())
	}
	if got := s.sol.Points[s.draft.Entity(lines[4]).To]; got.Distance(sketch.Vec{X: 0, Y: 24 + 31.75}) > 1e-6 {
		t.Errorf("the corner is at %v", got)
	}
	end := text(t, s)
	n := 0
	for {
		label, err := s.Undo()
		if err != nil {
			t.Fatal(err)
		}
		if label == "" {
			break
		}
		n++
	}
	if n != 10 || text(t, s) != start {
		t.Errorf("%d steps undone; the sketch is %s", n, text(t, s))
	}
	for range n {
		if _, err := s.Redo(); err != nil {
			t.Fatal(err)
		}
	}
	if text(t, s) != end {
		t.Error("done again, the sketch is another")
	}
}

// Guesses can be held off, and are only taken where they add something.
func TestGuesses(t *testing.T) {
	s := open(t)
	hand(t, s, "line", true, [2]float64{0.1, 0.1}, [2]float64{40, 0.5})
	if len(s.draft.Constraints) != 0 {
		t.Errorf("guessed although held off: %+v", s.draft.Constraints)
	}
	s = open(t)
	box := hand(t, s, "rectangle", false, [2]float64{0, 0}, [2]float64{50, -30})
	mid := hand(t, s, "line", false, [2]float64{25.2, 0.1}, [2]float64{25.1, -29.8}) // from middle to middle, upright
	hole := hand(t, s, "circle", false, [2]float64{12, -15}, [2]float64{17, -15})
	twin := hand(t, s, "circle", false, [2]float64{38, -15}, [2]float64{43.2, -15})
	touching := hand(t, s, "circle", false, [2]float64{30, -6}, [2]float64{30, -0.5})
	kinds := map[string][]string{}
	for _, k := range s.draft.Constraints {
		if k.Guessed {
			kinds[k.Kind] = append(kinds[k.Kind], fmt.Sprint(k.Of))
		}
	}
	s.Analyse()
	if len(kinds["midpoint"]) != 2 || len(kinds["vertical"]) != 0 || !strings.Contains(fmt.Sprint(kinds["equal"]),
		twin[0]) || !strings.Contains(fmt.Sprint(kinds["tangent"]), touching[0]) || len(s.sol.Spare) != 0 {
		t.Errorf("guessed %v; spare %v", kinds, s.sol.Spare)
	}
	_, _, _ = box, mid, hole
	// An accidental guess is found in the list and removed.
	var row *ConstraintRow
	for _, k := range s.Frame(pixel).Constraints {
		if k.Guessed && k.Kind == "equal" {
			row = &k
		}
	}
	if row == nil || !strings.Contains(row.Words, "are equal") {
		t.Fatalf("the guess is not listed: %+v", row)
	}
	do(t, s, Command{Do: "remove", IDs: []string{row.ID}})
	if s.draft.Constraint(row.ID) != nil {
		t.Error("the guess is still there")
	}
}

// Guesses and refusals speak of what is seen, and not of ids.
func TestGuessesAreWorded(t *testing.T) {
	s := open(t)
	box := hand(t, s, "rectangle", false, [2]float64{0, 0}, [2]float64{50, -30})
	for _, c := range []struct {
		at   [2]float64
		want string
	}{
		{[2]float64{49.8, -8}, "on the right line"},
		{[2]float64{24.9, -29.9}, "in the middle of the upper line"},
		{[2]float64{50.3, -29.8}, "on the upper right corner"},
		{[2]float64{0.3, 0.2}, "on the origin"},
	} {
		v, err := s.Preview("line", nil, sketch.Vec{X: c.at[0], Y: c.at[1]}, pixel, false, 0)
		if err != nil || len(v.Place.Guesses) == 0 || v.Place.Guesses[0].Words != c.want {
			t.Errorf("at %v it says %+v, %v; want %q", c.at, v, err, c.want)
		}
	}
	corner := s.draft.Entity(box[0]).From
	if _, err := s.draft.Split(box[0], s.draft.At(corner)); err == nil || !strings.HasSuffix(err.Error(),
		" line already ends here") {
		t.Errorf("a line split at its end: %v", err)
	}
}

// Pulling keeps every constraint at every frame and is one step to undo.
func TestPull(t *testing.T) {
	s := open(t)
	box := hand(t, s, "rectangle-centre", false, [2]float64{0, 0}, [2]float64{20, -12})
	before := text(t, s)
	corner := s.draft.Entity(box[2]).From
	if !s.Take(corner, sketch.Vec{}) {
		t.Fatal("the corner cannot be taken")
	}
	for i := range 30 {
		to := sketch.Vec{X: 20 + float64(i), Y: 12 + 5*math.Sin(float64(i)/4)}
		if !s.Pull(to) {
			t.Fatalf("frame %d is not solved", i)
		}
		if p := s.sol.Points[corner]; p.Distance(to) > 0.1 || p.Add(s.sol.Points[s.draft.Entity(box[0]).From]).Norm() > 1e-6 {
			t.Errorf("frame %d: the corner is at %v", i, p)
		}
	}
	if err := s.Release(true); err != nil {
		t.Fatal(err)
	}
	after := text(t, s)
	if label, err := s.Undo(); err != nil || label != "pull "+corner || text(t, s) != before {
		t.Errorf("undone: %q %v", label, err)
	}
	if _, err := s.Redo(); err != nil || text(t, s) != after {
		t.Error("the pull is not done again")
	}
	if s.Take(sketch.Origin, sketch.Vec{}) {
		t.Error("the origin is taken")
	}
	// A circle taken by its rim changes its radius alone.
	c := hand(t, s, "circle", false, [2]float64{60, 0}, [2]float64{70, 0})
	if !s.Take(c[0], sketch.Vec{X: 70}) || !s.Pull(sketch.Vec{X: 75}) {
		t.Fatal("the rim is not pulled")
	}
	if k := s.sol.Curves[len(s.sol.Curves)-1]; math.Abs(k.Radius-15) > 0.1 {
		t.Errorf("the radius is %g", k.Radius)
	}
	if err := s.Release(false); err != nil || s.sol.Curves[len(s.sol.Curves)-1].Radius != 10 {
		t.Errorf("given back: %v", err)
	}
}

// A contradiction changes nothing on the screen, is joined by a zigzag, and its
// repair is one step.
func TestContradiction(t *testing.T) {
	s := open(t)
	box := hand(t, s, "rectangle", false, [2]float64{0, 0}, [2]float64{40, -25})
	do(t, s, Command{Do: "size", Kind: "length", IDs: box[:1], Value: "40"})
	do(t, s, Command{Do: "size", Kind: "length", IDs: box[2:3], Value: "55"})
	s.Analyse()
	f := s.Frame(pixel)
	if f.Solved || len(f.Zigzags) != 1 || len(f.Findings) != 1 || f.Findings[0].Kind != "conflict" {
		t.Fatalf("solved %v, %d zigzags, findings %+v", f.Solved, len(f.Zigzags), f.Findings)
	}
	bad := 0
	for _, v := range f.Sizes {
		if v.Bad {
			bad++
		}
	}
	if bad != 2 || math.Abs(f.Box[2]-40) > 1e-6 {
		t.Errorf("%d sizes marked, width %g", bad, f.Box[2])
	}
	if s.Take(box[0], sketch.Vec{}) {
		t.Error("a sketch that contradicts itself is pulled")
	}
	do(t, s, Command{Do: "repair", ID: f.Findings[0].ID})
	s.Analyse()
	if !s.sol.Solved || s.sol.Measures["d2"] != 40 {
		t.Errorf("after the repair: solved %v, the second length measures %g", s.sol.Solved, s.sol.Measures["d2"])
	}
}

// A parameter can be tried without changing anything, kept, renamed everywhere,
// and is not taken away while it is used.
func TestParameters(t *testing.T) {
	s := open(t, "wide", "40 mm")
	s.others = []string{"2*deep"}
	box := hand(t, s, "rectangle", false, [2]float64{0, 0}, [2]float64{40, -25})
	do(t, s, Command{Do: "size", Kind: "length", IDs: box[:1], Value: "wide"})
	before := text(t, s)
	for _, v := range []float64{50, 60, 10} {
		if err := s.Try("wide", v); err != nil || math.Abs(s.Frame(pixel).Box[2]-v) > 1e-6 {
			t.Errorf("tried %g: %v, width %g", v, err, s.Frame(pixel).Box[2])
		}
	}
	if err := s.EndTry(false); err != nil || text(t, s) != before {
		t.Errorf("after the try: %v %s", err, text(t, s))
	}
	if err := s.Try("wide", 62); err != nil {
		t.Fatal(err)
	}
	if err := s.EndTry(true); err != nil || s.params[0].Formula != "62 mm" || math.Abs(s.Frame(pixel).Box[2]-62) > 1e-6 {
		t.Errorf("kept: %v %+v", err, s.params)
	}
	do(t, s, Command{Do: "parameter", ID: "wide", Name: "breadth", Value: "64 mm"})
	if k := s.draft.Constraint("d1"); k.Value != "breadth" {
		t.Errorf("the size is %q", k.Value)
	}
	do(t, s, Command{Do: "parameter", Name: "deep", Value: "breadth/4"})
	for _, c := range []struct {
		Command
		say string
	}{
		{Command{Do: "remove-parameter", Name: "breadth"}, "is used by"}, {Command{Do: "remove-parameter", Name: "deep"},
			"another step"},
		{Command{Do: "parameter", ID: "breadth", Name: "breadth", Value: "deep*2"}, "depends on itself"},
		{Command{Do: "parameter", ID: "breadth", Name: "sin", Value: "4"}, "function"},
		{Command{Do: "set", ID: "d1", Value: "brdth"}, "brdth"}, {Command{Do: "set", ID: "d1", Value: "-3"},
			"less than zero"}, {Command{Do: "set", ID: "d1", Value: "3 deg"}, "angle"},
		{Command{Do: "round", ID: box[0], Value: "3"}, "corner"}, {Command{Do: "mirror", IDs: box[:1]}, "choose"},
		{Command{Do: "row", IDs: box, Value: "3; 5"}, "3 values"},
	} {
		keep := text(t, s)
		if err := s.Do(c.Command); err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%+v: %v", c.Command, err)
		}
		if text(t, s) != keep {
			t.Errorf("%+v failed and changed the sketch", c.Command)
		}
	}
	got, err := s.Reach(t.Context(), "breadth")
	if err != nil || !got.High.Open || !got.Low.Open {
		t.Errorf("%+v %v", got, err)
	}
}

// What is chosen decides what can be put on it.
func TestOffers(t *testing.T) {
	s := open(t)
	box := hand(t, s, "rectangle", false, [2]float64{0, 0}, [2]float64{40, -25})
	circle := hand(t, s, "circle", false, [2]float64{12, -12}, [2]float64{17, -12})
	slant := hand(t, s, "line", false, [2]float64{60, -3}, [2]float64{75, -17})
	corner := s.draft.Entity(box[0]).To
	for _, c := range []struct {
		ids   []string
		first string
		value string
		also  string
		never string
	}{
		{box[:1], "length", "40", "horizontal-distance", "radius"}, {circle, "diameter", "10", "radius", "length"},
		{[]string{box[0], box[2]}, "distance", "25", "equal", "angle"}, {[]string{box[0], slant[0]}, "angle", "43.03",
			"perpendicular", "tangent"},
		{[]string{corner, circle[0]}, "distance", "25.463", "on-curve", "equal"}, {[]string{circle[0], slant[0]}, "distance",
			"", "tangent", "parallel"},
	} {
		offers := s.Offers(c.ids)
		kinds := []string{}
		for _, o := range offers {
			kinds = append(kinds, o.Kind)
		}
		if len(offers) == 0 || offers[0].Kind != c.first || c.value != "" && offers[0].Value != c.value ||
			!slices.Contains(kinds, c.also) || slices.Contains(kinds, c.never) {
			t.Errorf("%v: %+v", c.ids, offers)
		}
	}
	for _, o := range s.Offers(box[:1]) {
		if o.Kind == "horizontal" && o.Adds {
			t.Error("horizontal is offered as if it added something")
		}
	}
}

// Whichever way two crossing lines were drawn, both angles between them are offered with what they
// are now, and a size near to that turns a line by no more than the difference.
func TestAnglesOfCrossingLines(t *testing.T) {
	for _, turn := range []float64{20, 70, 110, 160, 200, 250, 290, 340} {
		for _, kind := range []string{"angle", otherAngle} {
			s := open(t)
			flat := hand(t, s, "line", true, [2]float64{-40, 0.3}, [2]float64{40, 0.3})
			y, x := math.Sincos(turn * math.Pi / 180)
			slant := hand(t, s, "line", true, [2]float64{-35 * x, -35 * y}, [2]float64{35 * x, 35 * y})
			ids := []string{flat[0], slant[0]}
			var now float64
			for _, o := range s.Offers(ids) {
				if o.Kind == kind {
					if _, err := fmt.Sscan(o.Value, &now); err != nil {
						t.Fatal(err)
					}
				}
			}
			before := map[string]sketch.Vec{}
			for id, at := range s.sol.Points {
				before[id] = at
			}
			do(t, s, Command{Do: "size", Kind: kind, IDs: ids, Value: fmt.Sprintf("%g deg", now+5)})
			for id, at := range s.sol.Points {
				if far := at.Distance(before[id]); far > 41*5*math.Pi/180 {
					t.Errorf("at %g degrees %s of %g + 5 moves a point by %.1f mm", turn, kind, now, far)
				}
			}
		}
	}
}

// Lettering keeps clear of other lettering, and stays where it is put.
func TestLetteringKeepsClear(t *testing.T) {
	s := open(t)
	box := hand(t, s, "rectangle", false, [2]float64{0, 0}, [2]float64{60, -40})
	do(t, s, Command{Do: "size", Kind: "length", IDs: box[:1], Value: "60"})
	for i := range 8 {
		c := hand(t, s, "circle", true, [2]float64{10 + 5*float64(i), -20}, [2]float64{11 + 5*float64(i), -20})
		do(t, s, Command{Do: "size", Kind: "horizontal-distance", IDs: []string{sketch.Origin, s.draft.Entity(c[0]).Center},
			Value: fmt.Sprint(10 + 5*i)})
		do(t, s, Command{Do: "size", Kind: "diameter", IDs: c, Value: "2"})
	}
	f := s.Frame(pixel)
	for i, a := range f.Sizes {
		for _, b := range f.Sizes[:i] {
			w := letterWide * pixel * float64(len([]rune(a.Text))+len([]rune(b.Text))) / 2
			if math.Abs(a.X-b.X) < w && math.Abs(a.Y-b.Y) < letterHigh*pixel {
				t.Errorf("%s at (%g, %g) lies on %s at (%g, %g)", a.Text, a.X, a.Y, b.Text, b.X, b.Y)
			}
		}
	}
	do(t, s, Command{Do: "place", ID: "d1", At: &sketch.Vec{X: 22, Y: 31}})
	do(t, s, Command{Do: "size", Kind: "length", IDs: box[1:2], Value: "44"})
	for _, v := range s.Frame(pixel).Sizes {
		if v.ID == "d1" && math.Hypot(v.X-22, v.Y-31) > 1e-3 {
			t.Errorf("the lettering put at (22, 31) is at (%g, %g)", v.X, v.Y)
		}
	}
}

// Whatever is done to a sketch, it stays one that can be read, every step goes
// back to just where it was, and errors change nothing.
func TestRandomEditing(t *testing.T) {
	rng := rand.New(rand.NewSource(17))
	refused, done := 0, 0
	for trial := range 8 {
		s := open(t, "a", "12 mm")
		var states []string
		for step := range 60 {
			before := text(t, s)
			var ids []string
			for _, e := range s.draft.Entities {
				ids = append(ids, e.ID)
			}
			ids = append(ids, sketch.Origin, sketch.XAxis, sketch.YAxis)
			for _, k := range s.draft.Constraints {
				if rng.Intn(3) == 0 {
					ids = append(ids, k.ID)
				}
			}
			pick := func() string { return ids[rng.Intn(len(ids))] }
			place := func() [2]float64 {
				return [2]float64{math.Round(rng.Float64()*60 - 10), math.Round(rng.Float64()*60 - 40)}
			}
			var err error
			switch rng.Intn(6) {
			case 0, 1:
				tools := Tools()
				tool := tools[rng.Intn(len(tools))]
				var list []Place
				for range max(len(tool.Places), 1+rng.Intn(4)) {
					p := place()
					v, e := s.Preview(tool.ID, list, sketch.Vec{X: p[0], Y: p[1]}, pixel, rng.Intn(3) == 0, 5)
					if e != nil {
						t.Fatal(e)
					}
					list = append(list, v.Place)
				}
				_, _, err = s.Draw(tool.ID, list, 3+rng.Intn(5))
			case 2:
				kinds := sketch.Kinds()
				k := kinds[rng.Intn(len(kinds))]
				c := Command{Do: "constrain", Kind: k}
				if _, size := sketch.Sizes[k]; size {
					c.Do, c.Value = "size", []string{"a", "15", "20 deg", "7/2", "2*a"}[rng.Intn(5)]
				}
				for range 1 + rng.Intn(3) {
					c.IDs = append(c.IDs, pick())
				}
				err = s.Do(c)
			case 3, 4:
				actions := Actions()
				p := place()
				c := Command{Do: actions[rng.Intn(len(actions))].Do, ID: pick(), IDs: []string{pick(), pick()},
					At: &sketch.Vec{X: p[0], Y: p[1]}, Value: []string{"3", "2; 9; 30 deg", "4; 360 deg", "1; 2", "15 deg",
						"1.5"}[rng.Intn(6)]}
				err = s.Do(c)
			default:
				s.Analyse()
				if list := s.Findings(); len(list) > 0 {
					err = s.Do(Command{Do: "repair", ID: list[rng.Intn(len(list))].ID})
				} else {
					err = errors.New("nothing to repair")
				}
			}
			now := text(t, s)
			if err != nil {
				refused++
				if now != before {
					t.Fatalf("trial %d step %d failed with %v and changed\n%s\nto\n%s", trial, step, err, before, now)
				}
				continue
			}
			done++
			states = append(states, before)
			if _, err := Open(s.Document()); err != nil {
				t.Fatalf("trial %d step %d: the sketch cannot be read any more: %v", trial, step, err)
			}
			if _, err := json.Marshal(s.Frame(pixel)); err != nil {
				t.Fatalf("trial %d step %d: %v", trial, step, err)
			}
		}
		for i := len(states) - 1; i >= 0; i-- {
			if _, err := s.Undo(); err != nil {
				t.Fatal(err)
			}
			if got := text(t, s); got != states[i] {
				t.Fatalf("trial %d: undoing step %d gives\n%s\nand it was\n%s", trial, i, got, states[i])
			}
		}
	}
	if done < 120 || refused < 80 {
		t.Errorf("%d done, %d refused", done, refused)
	}
}

func TestCoordinatesAreWritten(t *testing.T) {
	for _, v := range []float64{0, 1, -1, 0.5, -0.00004, 0.00006, 12.34567, -1234.5, 1e-9, 99999.9999, 1e13, -0.9999} {
		if got, want := num(v), quantity.FormatDecimal(v, 4); got != want {
			t.Errorf("%g is written %q, want %q", v, got, want)
		}
	}
}

// The places of findings are the same in every picture, however often it is drawn.
func TestPlacesOfFindingsStay(t *testing.T) {
	s, err := Open(Document{Unit: "in", Entities: []sketch.Entity{
		{ID: "p1", Kind: sketch.KindPoint, At: &[2]float64{0, 1}},
		{ID: "p2", Kind: sketch.KindPoint, At: &[2]float64{2, 1.5}}, {ID: "l1", Kind: sketch.KindLine, From: "p1", To: "p2"},
		{ID: "p3", Kind: sketch.KindPoint, At: &[2]float64{2.1875, 1.5}},
		{ID: "p4", Kind: sketch.KindPoint, At: &[2]float64{3, 0}}, {ID: "l2", Kind: sketch.KindLine, From: "p3", To: "p4"}}})
	if err != nil {
		t.Fatal(err)
	}
	s.Analyse()
	first := s.Frame(0.25).Findings
	second := s.Frame(0.5).Findings
	gap := false
	for i := range first {
		if a, b := first[i].At, second[i].At; a != nil && *a != *b {
			t.Errorf("%s wanders from %v to %v", first[i].What, *a, *b)
		}
		if strings.Contains(first[i].What, " mm") {
			t.Errorf("an inch sketch says %q", first[i].What)
		}
		gap = gap || strings.Contains(first[i].What, "3/16 in")
	}
	if !gap {
		t.Errorf("nothing tells of the gap of 3/16 in: %+v", first)
	}
}

// Half a turn goes round on the side that the hand came from.
func TestHalfTurn(t *testing.T) {
	for _, side := range []float64{1, -1} {
		s, err := Open(Document{Unit: "mm"})
		if err != nil {
			t.Fatal(err)
		}
		start := []Place{{X: 0, Y: 0}, {X: 10, Y: 0}}
		for _, turn := range []float64{90, 150, 178, 180} {
			a := side * turn * math.Pi / 180
			if _, err := s.Preview("arc", start, sketch.Vec{X: 10 * math.Cos(a), Y: -10 * math.Sin(a)}, 0.01, true,
				0); err != nil {
				t.Fatal(err)
			}
		}
		if _, _, err := s.Draw("arc", append(start, Place{X: -10, Y: 0}), 0); err != nil {
			t.Fatal(err)
		}
		c := s.sol.Curves[0]
		lo, hi := c.Range()
		if mid := c.Point((lo + hi) / 2); mid.Distance(sketch.Vec{Y: 10 * side}) > 1e-6 {
			t.Errorf("coming from %+g the arc bulges to %v", side, mid)
		}
	}
}
