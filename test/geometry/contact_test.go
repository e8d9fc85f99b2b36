package geometry

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/assembly"
	"hammerset/core/assembly/contact"
	"hammerset/core/assembly/session"
	"hammerset/core/assembly/shapes"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
	"hammerset/test/samples"
)

// bench makes the parts of the tests of contacts and collisions.
type bench struct {
	t *testing.T
	k occ.Kernel
}

func (b bench) try(s solid.Shape, _ solid.History, err error) solid.Shape {
	b.t.Helper()
	if err != nil {
		b.t.Fatal(err)
	}
	return s
}

// lathe turns an outline of radii and heights about the upright axis.
func (b bench) lathe(outline ...[2]float64) solid.Shape {
	b.t.Helper()
	var loop []solid.Segment
	for i, p := range outline {
		loop = append(loop, solid.Segment{Kind: "line", A: p, B: outline[(i+1)%len(outline)]})
	}
	f := solid.Frame{X: solid.World.X, Y: solid.World.Z, Z: solid.World.Y.Scale(-1)}
	return b.try(b.k.Revolve(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, solid.Vec{}, solid.World.Z,
		2*math.Pi))
}

func (b bench) ball(r float64) solid.Shape {
	arc := []solid.Segment{{Kind: "arc", A: [2]float64{0, -r}, Mid: [2]float64{r, 0}, B: [2]float64{0, r}},
		{Kind: "line", A: [2]float64{0, r}, B: [2]float64{0, -r}}}
	f := solid.Frame{X: solid.World.X, Y: solid.World.Z, Z: solid.World.Y.Scale(-1)}
	return b.try(b.k.Revolve(solid.Profile{Frame: f, Loops: [][]solid.Segment{arc}}, solid.Vec{}, solid.World.Z,
		2*math.Pi))
}

func (b bench) block(low, high solid.Vec) solid.Shape {
	f := solid.Plane(solid.Vec{}, solid.World.Z)
	f.O, f.X, f.Y = solid.Vec{0, 0, low[2]}, solid.World.X, solid.World.Y
	p := [][2]float64{{low[0], low[1]}, {high[0], low[1]}, {high[0], high[1]}, {low[0], high[1]}}
	var loop []solid.Segment
	for i := range p {
		loop = append(loop, solid.Segment{Kind: "line", A: p[i], B: p[(i+1)%4]})
	}
	return b.try(b.k.Prism(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, solid.Vec{0, 0, high[2] - low[2]}))
}

func (b bench) less(s, tool solid.Shape) solid.Shape {
	return b.try(b.k.Boolean(solid.Difference, s, []solid.Shape{tool}))
}

// made makes a part of a solid, as a STEP file brings it.
func (b bench) made(s solid.Shape) *shapes.Made {
	b.t.Helper()
	data, err := b.k.WriteSTEP([]solid.Titled{{Shape: s, Name: "part"}}, "part", solid.AP214)
	if err != nil {
		b.t.Fatal(err)
	}
	made, err := (&shapes.Maker{Rebuilder: part.NewRebuilder(b.k)}).STEP(ctx, data, "")
	if err != nil {
		b.t.Fatal(err)
	}
	return made
}

func (b bench) body(id string, s solid.Shape, pose rigid.Pose) contact.Body {
	return contact.Body{ID: id, Title: id, Pose: pose, Shape: b.made(s).Shape}
}

// What touches leaves the freedoms of the pair that it makes (Reuleaux's lower pairs, and any book of fixtures on what
// bodies that rest can still do), at any pose; and what can be drawn straight out is found, with its direction.
func TestContactsLeaveTheFreedomsOfTheirPairs(t *testing.T) {
	b := bench{t: t}
	up, none := solid.World.Z, solid.Vec{}
	bored := b.lathe([2]float64{6, -8}, [2]float64{20, -8}, [2]float64{20, 8}, [2]float64{6, 8})
	pin := b.lathe([2]float64{0, -20}, [2]float64{6, -20}, [2]float64{6, 20}, [2]float64{0, 20})
	headed := b.lathe([2]float64{0, -20}, [2]float64{6, -20}, [2]float64{6, 8}, [2]float64{10, 8}, [2]float64{10, 14},
		[2]float64{0, 14})
	seat := b.lathe([2]float64{6, -8}, [2]float64{20, -8}, [2]float64{20, 8}, [2]float64{14, 8})
	plug := b.lathe([2]float64{0, -6}, [2]float64{7, -6}, [2]float64{13, 6}, [2]float64{0, 6})
	slab := b.block(solid.Vec{-30, -30, -10}, solid.Vec{30, 30, 0})
	cube := b.block(solid.Vec{-5, -5, 0}, solid.Vec{5, 5, 10})
	channel := b.less(b.block(solid.Vec{-20, -30, -10}, solid.Vec{20, 30, 10}), b.block(solid.Vec{-5, -40, 0},
		solid.Vec{5, 40, 20}))
	pocket := b.less(b.block(solid.Vec{-20, -20, -10}, solid.Vec{20, 20, 10}), b.block(solid.Vec{-5, -5, 0},
		solid.Vec{5, 5, 20}))
	closed := b.less(b.block(solid.Vec{-20, -20, -10}, solid.Vec{20, 20, 20}), b.block(solid.Vec{-5, -5, 0},
		solid.Vec{5, 5, 10}))
	half := b.less(b.block(solid.Vec{-20, -20, -20}, solid.Vec{20, 20, 0}), b.ball(8))
	hollow := b.less(b.block(solid.Vec{-20, -20, -20}, solid.Vec{20, 20, 20}), b.ball(8))
	cradle := b.less(b.block(solid.Vec{-20, -8, -20}, solid.Vec{20, 8, 0}), b.try(b.k.Transform(pin, solid.Transform{
		M: [3]solid.Vec{{1, 0, 0}, {0, 0, -1}, {0, 1, 0}}})))
	lying := b.try(b.k.Transform(pin, solid.Transform{M: [3]solid.Vec{{1, 0, 0}, {0, 0, -1}, {0, 1, 0}}}))
	for _, c := range []struct {
		name      string
		on, it    solid.Shape
		kinds     string
		freedom   int
		ways      []solid.Vec // one of them, or none where it is held
		clearance float64
	}{
		{"a pin in a bore", bored, pin, contact.ShaftInBore, 2, []solid.Vec{up, up.Scale(-1)}, 0},
		{"a pin with play", b.lathe([2]float64{6.3, -8}, [2]float64{20, -8}, [2]float64{20, 8}, [2]float64{6.3, 8}), pin,
			contact.ShaftInBore, 2, []solid.Vec{up, up.Scale(-1)}, 0.6},
		{"a pin with a head", bored, headed, contact.FaceOnFace + ", " + contact.ShaftInBore, 1, []solid.Vec{up}, 0},
		{"a plug in a seat", seat, plug, contact.ConeInCone, 1, []solid.Vec{up}, 0},
		{"a cube on a slab", slab, cube, contact.FaceOnFace, 3, []solid.Vec{up}, 0},
		{"a cube in a channel", channel, cube, contact.FaceOnFace, 1, []solid.Vec{up}, 0},
		{"a cube in a pocket", pocket, cube, contact.FaceOnFace, 0, []solid.Vec{up}, 0},
		{"a cube in a box", closed, cube, contact.FaceOnFace, 0, nil, 0},
		{"a ball in half a socket", half, b.ball(8), contact.BallInSocket, 3, []solid.Vec{up}, 0},
		{"a ball in a whole socket", hollow, b.ball(8), contact.BallInSocket, 3, nil, 0},
		{"a ball on a slab", slab, b.try(b.k.Transform(b.ball(8), solid.Translation(solid.Vec{3, 4, 8}))),
			contact.BallOnFace, 5, []solid.Vec{up}, 0},
		{"a shaft on a slab", slab, b.try(b.k.Transform(lying, solid.Translation(solid.Vec{0, 0, 6}))),
			contact.ShaftOnFace, 4, []solid.Vec{up}, 0},
		{"a shaft in a cradle", cradle, lying, contact.ShaftInBore, 2, []solid.Vec{up}, 0},
		{"beside one another", slab, b.block(solid.Vec{31, 0, 0}, solid.Vec{40, 9, 9}), "", 6, []solid.Vec{none}, 0},
		{"an edge along an edge", slab, b.block(solid.Vec{30, 0, 0}, solid.Vec{40, 9, 9}), "", 6, []solid.Vec{none}, 0},
	} {
		for _, at := range []solid.Transform{solid.Identity, oddPose()} {
			pose, err := rigid.Of(at)
			if err != nil {
				t.Fatal(err)
			}
			found := contact.Find([]contact.Body{b.body("on", c.on, pose), b.body("it", c.it, pose)})
			var kinds []string
			for _, x := range found.Contacts {
				if len(kinds) == 0 || kinds[len(kinds)-1] != x.Kind {
					kinds = append(kinds, x.Kind)
				}
				if math.Abs(x.Clearance-c.clearance) > 1e-9 {
					t.Errorf("%s: the clearance is %g, not %g", c.name, x.Clearance, c.clearance)
				}
			}
			h := found.Around("it", nil)
			way, out := h.Way()
			right := !out && c.ways == nil
			for _, w := range c.ways {
				right = right || out && way.Distance(at.Turn(w)) < 1e-6
			}
			if got := strings.Join(kinds, ", "); got != c.kinds && got != reversed(c.kinds) || h.Freedom() != c.freedom ||
				!right {
				t.Errorf("%s: %q with %d freedoms, out by %v (%v); want %q with %d, out by %v", c.name, got, h.Freedom(), way, out,
					c.kinds, c.freedom, c.ways)
			}
		}
	}
}

func reversed(list string) string {
	a, b, two := strings.Cut(list, ", ")
	if !two {
		return list
	}
	return b + ", " + a
}

// The public AS1 assembly comes apart as it is put together by hand: every component straight out, nuts before the
// bolts and the rod that they are on, and drawn apart no two boxes along one axis are in one another.
func TestAssembliesComeApart(t *testing.T) {
	k := occ.Kernel{}
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(k)}
	doc, files, err := maker.Assembly(ctx, samples.Unzip(t, samples.AS1), "as1", nil, documents.PackAssembly)
	if err != nil {
		t.Fatal(err)
	}
	doc, of := makeFlat(t, maker, doc, files)
	var list []contact.Body
	for _, c := range doc.Components {
		list = append(list, contact.Body{ID: c.ID, Title: c.Title(), Pose: c.Pose, Shape: of[c.Part].Shape})
	}
	found := contact.Find(list)
	apart := found.Explode()
	if len(apart) != len(list) {
		t.Fatalf("%d of %d components", len(apart), len(list))
	}
	order := map[string]int{}
	title := map[string]string{}
	for _, b := range list {
		title[b.ID] = leaf(b.Title)
	}
	for _, x := range apart {
		order[x.Component] = x.Order
		if x.Forced {
			t.Errorf("%s goes through others", x.Component)
		}
	}
	nuts := 0
	for _, c := range found.Contacts {
		a, b := c.A, c.B
		if title[a] == "nut" {
			a, b = b, a
		}
		if c.Kind == contact.ShaftInBore && title[b] == "nut" {
			nuts++
			if order[b] > order[a] {
				t.Errorf("the nut %s comes off after the %s that it is on", b, title[a])
			}
		}
	}
	if last := apart[len(apart)-1]; nuts < 8 || title[last.Component] != "plate" || last.By != (solid.Vec{}) {
		t.Errorf("%d nuts on something, and last stands %s (%s) moved by %v", nuts, last.Component, title[last.Component],
			last.By)
	}
}

// What is usually not meant is found in two plates on one another and a pin through them: a hole that is out of line
// with the one below it, a pin that nothing keeps from sliding out, and a part with a name that a program gave; what
// lines up, what has a head and what has limits is not.
func TestLookingOver(t *testing.T) {
	b := bench{t: t}
	holes := func(low, high float64, places ...[2]float64) solid.Shape {
		s := b.block(solid.Vec{0, 0, low}, solid.Vec{80, 40, high})
		for _, p := range places {
			tool := b.try(b.k.Transform(b.lathe([2]float64{0, low - 1}, [2]float64{5, low - 1}, [2]float64{5, high + 1},
				[2]float64{0, high + 1}), solid.Translation(solid.Vec{p[0], p[1], 0})))
			s = b.less(s, tool)
		}
		return s
	}
	rod := b.lathe([2]float64{0, -20}, [2]float64{5, -20}, [2]float64{5, 30}, [2]float64{0, 30})
	of := map[string]*assembly.Shape{"low": b.made(holes(0, 10, [2]float64{20, 20}, [2]float64{60, 20})).Shape,
		"high": b.made(holes(10, 18, [2]float64{20, 20}, [2]float64{60, 20.8})).Shape, "rod": b.made(rod).Shape}
	name := map[string]string{"low": "base", "high": "Part1", "rod": "pin"}
	doc := &assembly.Document{Hammerset: assembly.Version, Name: "x", Unit: "mm", Joints: []assembly.Joint{}}
	for i, id := range []string{"low", "high", "rod"} {
		c := assembly.Component{ID: fmt.Sprint("c", i+1), Name: name[id], Part: id, Pinned: i < 2, Pose: rigid.Still()}
		if id == "rod" {
			c.Pose.Shift = solid.Vec{20, 20, 0}
		}
		doc.Parts = append(doc.Parts, assembly.Part{ID: id, Name: name[id]})
		doc.Components = append(doc.Components, c)
	}
	s, err := session.Open(doc, of)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range s.Propose() {
		if p.Takes > 0 {
			if err := s.Do(session.Command{Do: "join-all", Joins: []assembly.Joint{p.Join}}); err != nil {
				t.Fatal(err)
			}
		}
	}
	said := func() string {
		var list []string
		for _, f := range s.LookOver() {
			list = append(list, f.What)
		}
		return strings.Join(list, "\n")
	}
	first := said()
	for _, want := range []string{"two holes are out of line by 0.8 mm", "pin can slide out",
		"names say nothing of the part: " +
			"Part1"} {
		if strings.Count(first, want) != 1 {
			t.Errorf("not found once: %s\n%s", want, first)
		}
	}
	if err := s.Do(session.Command{Do: "part", ID: "high", Part: &assembly.Part{Name: "cover"}}); err != nil {
		t.Fatal(err)
	}
	j := s.Document().Joints[0]
	j.Limits = &assembly.Limits{Slide: &assembly.Limit{Least: "-5 mm", Most: "5 mm"}}
	if err := s.Do(session.Command{Do: "change-joint", ID: j.ID, Join: &j}); err != nil {
		t.Fatal(err)
	}
	if again := said(); strings.Contains(again, "slide out") || strings.Contains(again, "name") ||
		!strings.Contains(again, "out of line") {
		t.Errorf("put right, it says %s", again)
	}
}

// The symmetries of parts are those of their forms (the proper point groups of crystallography: D2 of a box, D4 of a
// square plate, D6 of a hexagonal prism, C1 of a wedge; about an axis those of what is turned).
func TestSymmetriesOfParts(t *testing.T) {
	b := bench{t: t}
	hexagon := func() solid.Shape {
		var rim []solid.Segment
		at := func(k int) [2]float64 {
			sin, cos := math.Sincos(float64(k) * math.Pi / 3)
			return [2]float64{20 * cos, 20 * sin}
		}
		for k := range 6 {
			rim = append(rim, solid.Segment{Kind: "line", A: at(k), B: at(k + 1), Forward: true})
		}
		return b.try(b.k.Prism(solid.Profile{Frame: solid.World, Loops: [][]solid.Segment{rim}}, solid.Vec{0, 0, 7}))
	}
	box := b.block(solid.Vec{}, solid.Vec{30, 20, 10})
	drilled := b.less(box, b.try(b.k.Transform(b.lathe([2]float64{0, -1}, [2]float64{3, -1}, [2]float64{3, 11},
		[2]float64{0, 11}), solid.Translation(solid.Vec{8, 10, 0}))))
	for name, x := range map[string]struct {
		s     solid.Shape
		turns int
		round bool
	}{
		"box":             {box, 3, false},
		"square plate":    {b.block(solid.Vec{}, solid.Vec{20, 20, 5}), 7, false},
		"cube":            {b.block(solid.Vec{}, solid.Vec{20, 20, 20}), 23, false},
		"hexagonal prism": {hexagon(), 11, false},
		"wedge":           {wedge(t, b.k), 0, false},
		"box with a hole": {drilled, 1, false},
		"cylinder":        {b.lathe([2]float64{0, 0}, [2]float64{5, 0}, [2]float64{5, 9}, [2]float64{0, 9}), 1, true},
		"cylinder with head": {b.lathe([2]float64{0, 0}, [2]float64{5, 0}, [2]float64{5, 9}, [2]float64{8, 9}, [2]float64{8,
			12}, [2]float64{0, 12}), 0, true},
	} {
		turned := b.try(b.k.Transform(x.s, solid.Rotation(solid.Vec{1, 2, 3}, solid.Vec{2, -1, 1}, 37*math.Pi/180)))
		for _, s := range []solid.Shape{x.s, turned} {
			g, err := solid.Describe(b.k, s, nil)
			if err != nil {
				t.Fatal(err)
			}
			if got := inspect.SymmetryOf(g); len(got.Turns) != x.turns || got.Round != x.round {
				t.Errorf("%s: %d turns, round %v", name, len(got.Turns), got.Round)
			}
		}
	}
}

// leaf is the kind of a component of AS1, from its title: the last of the names of what it is nested in.
func leaf(title string) string {
	return strings.ToLower(strings.Fields(title[strings.LastIndex(title, ":")+1:])[0])
}

// Joints are read from the contacts of AS1, laid flat: made together they hold everything where it stands, and leave
// what a hand can still do, which is to turn every bolt, every nut and the rod. Where its assemblies are nested, each
// is one body, and what is left is the rod with its nuts.
func TestJointsAreReadFromContacts(t *testing.T) {
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(occ.Kernel{})}
	doc, files, err := maker.Assembly(ctx, samples.Unzip(t, samples.AS1), "as1", nil, documents.PackAssembly)
	if err != nil {
		t.Fatal(err)
	}
	for _, flat := range []bool{false, true} {
		of := map[string]*assembly.Shape{}
		for id, m := range makeAll(t, maker, doc, files) {
			of[id] = m.Shape
		}
		s, err := session.Open(doc, of)
		if err != nil {
			t.Fatal(err)
		}
		do := func(c session.Command) {
			t.Helper()
			if err := s.Do(c); err != nil {
				t.Fatal(err)
			}
		}
		do(session.Command{Do: "pin", ID: "c1"})
		for _, c := range doc.Components {
			if leaf(c.Title()) == "plate" {
				do(session.Command{Do: "pin", ID: c.ID, On: true})
			}
		}
		for more := flat; more; {
			more = false
			frame := frameOf(t, s)
			for _, c := range frame.Components {
				if more = c.Nested; more {
					do(session.Command{Do: "lay-flat", ID: c.Of})
					break
				}
			}
		}
		before := frameOf(t, s)
		var joints []assembly.Joint
		kinds := map[string]int{}
		for _, p := range s.Propose() {
			if p.Takes > 0 {
				joints = append(joints, p.Join)
				kinds[p.Join.Kind]++
			}
		}
		do(session.Command{Do: "join-all", Joins: joints})
		after := frameOf(t, s)
		for i, c := range after.Components {
			for k, v := range c.Pose.Matrix {
				if math.Abs(v-before.Components[i].Pose.Matrix[k]) > 1e-6 {
					t.Errorf("flat %v: %s has moved", flat, c.Name)
					break
				}
			}
		}
		if want := map[bool]int{false: 1, true: 6 + 6 + 2 + 2}[flat]; after.Freedom != want || len(after.Says) > 0 {
			t.Errorf("flat %v: %d freedoms, not %d; it says %v", flat, after.Freedom, want, after.Says)
		}
		for _, c := range after.Components {
			want := map[string]int{"nut": 1, "bolt": 1, "rod": 2}[leaf(c.Name)]
			if !flat { // the rod turns with its nuts
				want = map[bool]int{true: 1}[c.Of == "c1"]
			}
			if c.Freedom != want {
				t.Errorf("flat %v: %s has %d freedoms, not %d", flat, c.Name, c.Freedom, want)
			}
		}
	}
}

func frameOf(t *testing.T, s *session.Session) *session.Frame {
	t.Helper()
	f, err := s.Frame()
	if err != nil {
		t.Fatal(err)
	}
	return f
}
