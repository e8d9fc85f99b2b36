package session

import (
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/sketch"
	"hammerset/core/sketch/review"
)

// stage is a plate of 60 by 40 in the corner of the origin, held, with a held
// circle in it and a slanted line above; names of what was drawn.
type stage struct {
	*Session
	plate  []string
	circle string
	line   string
}

func set(t *testing.T) *stage {
	t.Helper()
	s := open(t, "r", "5 mm")
	k := &stage{Session: s}
	k.plate = hand(t, s, "rectangle", false, [2]float64{0, 0}, [2]float64{60, -40})
	do(t, s, Command{Do: "size", Kind: "length", IDs: k.plate[:1], Value: "60"})
	do(t, s, Command{Do: "size", Kind: "length", IDs: k.plate[1:2], Value: "40"})
	k.circle = hand(t, s, "circle", true, [2]float64{20, -15}, [2]float64{26, -15})[0]
	do(t, s, Command{Do: "constrain", Kind: "fixed", IDs: []string{k.circle}})
	k.line = hand(t, s, "line", true, [2]float64{10, -60}, [2]float64{40, -70})[0]
	do(t, s, Command{Do: "constrain", Kind: "fixed", IDs: []string{k.line}})
	s.Analyse()
	if !s.sol.Held() || len(s.sol.Spare) > 0 {
		t.Fatalf("the stage is not set: freedom %d, spare %v", s.sol.Freedom, s.sol.Spare)
	}
	return k
}

// area is the sum of all regions.
func (k *stage) area() float64 {
	total := 0.0
	regions, _ := sketch.Regions(k.sol.Curves)
	for _, r := range regions {
		total += r.Area()
	}
	return total
}

func (k *stage) end(line string, to bool) string {
	if to {
		return k.draft.Entity(line).To
	}
	return k.draft.Entity(line).From
}

// Every action of the list does what its name says, is one step that can be
// undone, and leaves a sketch that solves with nothing spare.
func TestActions(t *testing.T) {
	screen := func(x, y float64) *sketch.Vec { return &sketch.Vec{X: x, Y: -y} }
	tried := map[string]bool{}
	const disc = math.Pi * 36
	for _, c := range []struct {
		name    string
		command func(k *stage) Command
		area    float64 // of all regions after it
		curves  int
		freedom int
		more    func(t *testing.T, k *stage)
	}{
		{"remove a side", func(k *stage) Command { return Command{Do: "remove", IDs: k.plate[2:3]} }, disc, 5, -1, nil},
		{"make the circle a guide", func(k *stage) Command { return Command{Do: "guide", IDs: []string{k.circle}} },
			2400, 6, 0, nil},
		{"trim the slanted line: nothing bounds it", func(k *stage) Command {
			return Command{Do: "trim", ID: k.line, At: screen(20, 63)}
		}, 2400, 5, 0, nil},
		{"extend the slanted line to the y axis's side", func(k *stage) Command {
			return Command{Do: "extend", ID: k.plate[0], At: screen(60, 0)}
		}, 0, -1, 0, nil},
		{"split a side", func(k *stage) Command {
			return Command{Do: "split", ID: k.plate[1], At: screen(60, 12)}
		}, 2400, 8, 1, nil},
		{"round a corner by a parameter", func(k *stage) Command {
			return Command{Do: "round", ID: k.end(k.plate[0], true), Value: "r"}
		}, 2400 - (25 - 25*math.Pi/4), -1, 0, func(t *testing.T, k *stage) {
			do(t, k.Session, Command{Do: "parameter", ID: "r", Name: "r", Value: "8 mm"})
			if got, want := k.area(), 2400-(64-16*math.Pi); math.Abs(got-want) > 1e-6 {
				t.Errorf("with r = 8 the area is %g, want %g", got, want)
			}
		}},
		{"bevel a corner", func(k *stage) Command {
			return Command{Do: "bevel", ID: k.end(k.plate[0], true), Value: "6"}
		}, 2400 - 18, -1, 0, nil},
		{"offset the outline inwards", func(k *stage) Command {
			return Command{Do: "offset", IDs: k.plate[:1], Value: "3"}
		}, 2400, 10, 0, nil},
		{"offset the outline outwards", func(k *stage) Command {
			return Command{Do: "offset", IDs: k.plate[:1], Value: "-3"}
		}, 66 * 46, 10, 0, nil},
		{"mirror the circle about a side", func(k *stage) Command {
			return Command{Do: "mirror", IDs: []string{k.circle, k.plate[1]}}
		}, 2400 + disc, 7, 0, func(t *testing.T, k *stage) {
			if c := k.sol.Curves[len(k.sol.Curves)-1]; c.Center.Distance(sketch.Vec{X: 100, Y: 15}) > 1e-7 ||
				math.Abs(c.Radius-6) > 1e-7 {
				t.Errorf("the image is at %v with radius %g", c.Center, c.Radius)
			}
		}},
		{"copy the circle in a row", func(k *stage) Command {
			return Command{Do: "row", IDs: []string{k.circle}, Value: "3; 2*r + 3 mm; 0"}
		}, 2400, -1, 0, func(t *testing.T, k *stage) {
			do(t, k.Session, Command{Do: "parameter", ID: "r", Name: "r", Value: "6 mm"})
			far := 0.0
			for _, v := range k.sol.Curves {
				if v.Kind == sketch.KindCircle {
					far = math.Max(far, v.Center.X)
				}
			}
			if math.Abs(far-50) > 1e-6 {
				t.Errorf("the last of the row is at %g, want 50", far)
			}
		}},
		{"copy the circle in a ring", func(k *stage) Command {
			return Command{Do: "ring", IDs: []string{k.circle, k.end(k.plate[1], true)}, Value: "4; 360 deg"}
		}, -1, -1, 0, func(t *testing.T, k *stage) {
			n := 0
			for _, v := range k.sol.Curves {
				if v.Kind == sketch.KindCircle && !v.Guide {
					n++
					if d := v.Center.Distance(sketch.Vec{X: 60, Y: 40}); math.Abs(d-math.Hypot(40, 25)) > 1e-7 {
						t.Errorf("a circle at %g from the centre", d)
					}
				}
			}
			if n != 4 {
				t.Errorf("%d circles around", n)
			}
		}},
		{"move what is fixed: it is fixed where it goes", func(k *stage) Command {
			return Command{Do: "move", IDs: []string{k.circle}, Value: "10; 2*r"}
		}, 2400, 6, 0, func(t *testing.T, k *stage) {
			if c := k.sol.Curves[4]; c.Center.Distance(sketch.Vec{X: 30, Y: 25}) > 1e-9 {
				t.Errorf("moved to %v", c.Center)
			}
		}},
		{"turn the slanted line about its start", func(k *stage) Command {
			return Command{Do: "turn", IDs: []string{k.line, k.end(k.line, false)}, Value: "90 deg"}
		}, 2400, 6, 0, func(t *testing.T, k *stage) {
			if c := k.sol.Curves[5]; c.B.Distance(sketch.Vec{X: 0, Y: 90}) > 1e-6 {
				t.Errorf("turned to %v", c.B)
			}
		}},
		{"scale the circle about the origin", func(k *stage) Command {
			return Command{Do: "scale", IDs: []string{k.circle, sketch.Origin}, Value: "1.5"}
		}, 2400, 6, 0, func(t *testing.T, k *stage) {
			if c := k.sol.Curves[4]; math.Abs(c.Radius-9) > 1e-9 || c.Center.Distance(sketch.Vec{X: 30, Y: 22.5}) > 1e-9 {
				t.Errorf("scaled to %g at %v", c.Radius, c.Center)
			}
		}},
		{"join the line's end to a corner: both are held", func(k *stage) Command {
			return Command{Do: "join", IDs: []string{k.end(k.line, true), k.end(k.plate[1], true)}}
		}, 2400, 6, -2, nil},
		{"part a corner", func(k *stage) Command { return Command{Do: "unjoin", ID: k.end(k.plate[0], true)} }, 2400, 6, 2,
			func(t *testing.T, k *stage) {
				if f := k.Findings(); !slices.ContainsFunc(f, func(f review.Finding) bool { return f.Kind == review.Apart }) {
					t.Errorf("that the ends are apart is not found: %+v", f)
				}
			}},
	} {
		t.Run(c.name, func(t *testing.T) {
			k := set(t)
			before := text(t, k.Session)
			command := c.command(k)
			tried[command.Do] = true
			err := k.Do(command)
			if c.area == 0 && c.curves == -1 { // refused
				if err == nil || text(t, k.Session) != before {
					t.Fatalf("%v", err)
				}
				return
			}
			if err != nil {
				t.Fatal(err)
			}
			k.Analyse()
			switch {
			case c.freedom == -2:
				if k.sol.Solved || k.Findings()[0].Kind != "conflict" {
					t.Error("a contradiction is taken")
				}
			case !k.sol.Solved || len(k.sol.Spare) > 0 || c.freedom >= 0 && k.sol.Freedom != c.freedom:
				t.Errorf("solved %v, freedom %d (want %d), spare %v", k.sol.Solved, k.sol.Freedom, c.freedom, k.sol.Spare)
			}
			if got := k.area(); c.area > 0 && math.Abs(got-c.area) > 1e-6*c.area {
				t.Errorf("the area is %g, want %g", got, c.area)
			}
			if c.curves >= 0 && len(k.sol.Curves) != c.curves {
				t.Errorf("%d curves, want %d", len(k.sol.Curves), c.curves)
			}
			if c.more != nil {
				c.more(t, k)
			}
			for k.Frame(pixel).Undo != "" && text(t, k.Session) != before {
				if _, err := k.Undo(); err != nil {
					t.Fatal(err)
				}
			}
			if text(t, k.Session) != before {
				t.Error("undone, it is not what it was")
			}
		})
	}
	for _, a := range Actions() {
		if !tried[a.Do] {
			t.Errorf("%s is not tried", a.Do)
		}
	}
}

// Sizes can be measured only, quietened, moved and placed by themselves again;
// an edge of the solid is traced once and does not move.
func TestSizesAndTracedEdges(t *testing.T) {
	k := set(t)
	view := func(id string) SizeView {
		f := k.Frame(pixel)
		i := slices.IndexFunc(f.Sizes, func(v SizeView) bool { return v.ID == id })
		if i < 0 {
			t.Fatalf("no size %s", id)
		}
		return f.Sizes[i]
	}
	do(t, k.Session, Command{Do: "size", Kind: "distance", IDs: []string{k.plate[0], k.plate[2]}, On: true})
	id := k.draft.Constraints[len(k.draft.Constraints)-1].ID
	if v := view(id); v.Text != "(40)" || !v.Driven {
		t.Errorf("measured: %+v", v)
	}
	do(t, k.Session, Command{Do: "drive", ID: "d2", On: true})
	k.Analyse()
	if k.sol.Freedom != 1 || view("d2").Text != "(40)" {
		t.Errorf("freedom %d, %+v", k.sol.Freedom, view("d2"))
	}
	do(t, k.Session, Command{Do: "set", ID: id, Value: "44"}) // a value makes it hold
	if v := view("d2"); v.Text != "(44)" || view(id).Text != "44" {
		t.Errorf("%+v", v)
	}
	before := view("d1")
	do(t, k.Session, Command{Do: "place", ID: "d1", At: &sketch.Vec{X: before.X + 3, Y: before.Y + 9}})
	if v := view("d1"); math.Abs(v.X-before.X-3) > 1e-6 || math.Abs(v.Y-before.Y-9) > 1e-6 {
		t.Errorf("put to (%g, %g)", v.X, v.Y)
	}
	do(t, k.Session, Command{Do: "tidy"})
	if v := view("d1"); math.Hypot(v.X-before.X, v.Y-before.Y) > 1e-6 {
		t.Errorf("tidied to %+v, was %+v", v, before)
	}
	do(t, k.Session, Command{Do: "quiet", ID: "d1", On: true})
	if !view("d1").Quiet {
		t.Error("the size is not quiet")
	}
	edge := &Edge{Faces: [2]string{"e1/end", "e1/side:l1"}, Kind: sketch.KindLine, A: sketch.Vec{X: -9, Y: 3},
		B: sketch.Vec{X: -9, Y: 33}}
	do(t, k.Session, Command{Do: "trace", Edge: edge})
	if err := k.Do(Command{Do: "trace", Edge: edge}); err == nil || !strings.Contains(err.Error(), "already") {
		t.Errorf("traced twice: %v", err)
	}
	c := k.sol.Curves[len(k.sol.Curves)-1]
	if !c.Traced || !c.Guide || k.Take(c.ID, c.A) {
		t.Errorf("the traced edge: %+v", c)
	}
	if offers := k.Offers([]string{c.ID}); len(offers) != 0 {
		t.Errorf("put on a traced edge alone: %+v", offers)
	}
	do(t, k.Session, Command{Do: "constrain", Kind: "parallel", IDs: []string{c.ID, k.plate[1]}})
	k.Analyse()
	if len(k.sol.Spare) != 1 {
		t.Errorf("parallel to what is upright already: spare %v", k.sol.Spare)
	}
}
