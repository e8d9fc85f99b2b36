package session

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// plate is a part with a bore along z and flat ends, 10 mm high.
func plate() *assembly.Shape {
	z := solid.Vec{0, 0, 1}
	return &assembly.Shape{Box: solid.Box{Min: solid.Vec{-20, -20, 0}, Max: solid.Vec{20, 20, 10}}, Density: 7850,
		Props: solid.Props{Volume: 1e6, Centroid: solid.Vec{0, 0, 5}}, Features: []assembly.Feature{
			{Name: "top", Form: assembly.Plane, Words: "top", At: solid.Vec{0, 0, 10}, Axis: z},
			{Name: "foot", Form: assembly.Plane, Words: "foot", Axis: z.Scale(-1)},
			{Name: "bore", Form: assembly.Cylinder, Words: "bore", At: solid.Vec{10, 0, 5}, Axis: z, Radius: 4, Length: 10},
		}}
}

func opened(t *testing.T) *Session {
	t.Helper()
	s, err := Open(&assembly.Document{Hammerset: assembly.Version, Name: "stack", Unit: "mm"},
		map[string]*assembly.Shape{"p": plate()})
	if err != nil {
		t.Fatal(err)
	}
	for range 2 {
		if err := s.Do(Command{Do: "add", Name: "plate", Part: &assembly.Part{ID: "p", Name: "plate"}}); err != nil {
			t.Fatal(err)
		}
	}
	return s
}

func frame(t *testing.T, s *Session) *Frame {
	t.Helper()
	f, err := s.Frame()
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func ref(text string) address.Ref {
	r, err := address.Parse(text)
	if err != nil {
		panic(err)
	}
	return r
}

// Components come in beside one another, the first pinned, with names of their own; a flat face goes against a flat
// face, and the bores make the other joint; every step can be undone and done again.
func TestPuttingTogether(t *testing.T) {
	s := opened(t)
	f := frame(t, s)
	if f.Freedom != 6 || !f.Components[0].Pinned || f.Components[1].Name != "plate 2" ||
		f.Components[1].Pose.Matrix[12] < 40 {
		t.Fatalf("%+v", f)
	}
	if f.Items[0].Quantity != 2 || f.Mass != "15.7 kg" { // 2 × 7850 kg/m³ × 1e-3 m³
		t.Errorf("parts list %+v, %s", f.Items, f.Mass)
	}
	offers, err := s.Offers(ref("c2#foot"), ref("c1#top"))
	if err != nil || offers[0].Kind != "planar" && offers[0].Kind != "rigid" {
		t.Errorf("offers %+v, %v", offers, err)
	}
	seat := assembly.Joint{ID: "new", Kind: "planar", A: ref("c2#foot"), B: ref("c1#top")}
	look, err := s.Preview(seat)
	if err != nil || !look.Holds || look.Freedom != 3 || math.Abs(look.Poses[1].Matrix[14]-10) > 1e-9 {
		t.Errorf("the preview is %+v, %v", look, err)
	}
	if frame(t, s).Freedom != 6 {
		t.Error("the preview has changed the assembly")
	}
	pins := assembly.Joint{Kind: "cylindrical", A: ref("c2#bore"), B: ref("c1#bore")}
	for _, j := range []assembly.Joint{seat, pins} {
		if err := s.Do(Command{Do: "join", Join: &j}); err != nil {
			t.Fatal(err)
		}
	}
	f = frame(t, s)
	if f.Freedom != 1 || len(f.Says) > 0 || f.Undo != "join: cylindrical" || f.Joints[0].Joint.Sense != assembly.Opposed {
		t.Fatalf("%+v", f)
	}
	way := f.Components[1].Twists[0]
	if d := solid.FromAxis(way.At, solid.Vec{10, 0, 0}, solid.Vec{0, 0, 1}); d.Norm() > 1e-9 || way.Shift.Norm() > 0 {
		t.Errorf("it turns about %+v", way)
	}
	for range 2 {
		if err := s.Undo(); err != nil {
			t.Fatal(err)
		}
	}
	if f = frame(t, s); f.Freedom != 6 || len(f.Joints) != 0 || f.Redo != "join: planar" {
		t.Errorf("undone: %+v", f)
	}
	if err := s.Redo(); err != nil || frame(t, s).Freedom != 3 {
		t.Errorf("done again: %v", err)
	}
}

// A pull is one step of undo, and let go without keeping it is none; what is turned the other way round stands on its
// other side; joints that contradict are said, and the rest goes on.
func TestPullingFlippingAndContradicting(t *testing.T) {
	s := opened(t)
	join := func(j assembly.Joint) {
		t.Helper()
		if err := s.Do(Command{Do: "join", Join: &j}); err != nil {
			t.Fatal(err)
		}
	}
	join(assembly.Joint{Kind: "planar", A: ref("c2#foot"), B: ref("c1#top")})
	steps := len(s.undo)
	for _, keep := range []bool{false, true} {
		if s.Take("c1", solid.Vec{}) || !s.Take("c2", solid.Vec{60, 0, 15}) {
			t.Fatal("the wrong one can be pulled")
		}
		for k := range 10 {
			s.Pull(solid.Vec{60 + 3*float64(k), 5, 15})
		}
		if m := s.Moving(); math.Abs(m.Poses[1].Matrix[14]-10) > 1e-8 {
			t.Errorf("pulled, it is at height %g", m.Poses[1].Matrix[14])
		}
		if err := s.Release(keep); err != nil || len(s.undo) != steps+map[bool]int{true: 1}[keep] {
			t.Errorf("released: %d steps, %v", len(s.undo)-steps, err)
		}
	}
	if err := s.Do(Command{Do: "flip", ID: "j1"}); err != nil {
		t.Fatal(err)
	}
	if f := frame(t, s); len(f.Says) > 0 || f.Components[1].Pose.Matrix[10] > -0.999 {
		t.Errorf("the other way round: %+v", f.Components[1].Pose)
	}
	join(assembly.Joint{Kind: "distance", A: ref("c2#foot"), B: ref("c1#top"), Distance: "4"})
	f := frame(t, s)
	if len(f.Says) != 1 || !strings.Contains(f.Says[0].What, "cannot hold together") ||
		f.Joints[1].State != "contradicting" {
		t.Errorf("%+v", f)
	}
	if err := s.Undo(); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Drive("j1", 30); err == nil {
		t.Error("a planar joint has no one coordinate, and is driven")
	}
	join(assembly.Joint{Kind: "revolute", A: ref("c2#bore"), B: ref("c1#bore")})
	row, steps := frame(t, s).Joints[1], len(s.undo)
	if row.Drive == nil || row.Drive.Unit != "°" {
		t.Fatalf("%+v", row)
	}
	for k := range 8 {
		m, err := s.Drive("j2", row.Drive.At+float64(10*k))
		if err != nil || m.Stopped || math.Abs(m.Value-row.Drive.At-float64(10*k)) > 1e-9 {
			t.Errorf("driven to %d: %+v, %v", 10*k, m, err)
		}
	}
	if err := s.Release(true); err != nil || len(s.undo) != steps+1 {
		t.Errorf("a drive is %d steps, %v", len(s.undo)-steps, err)
	}
	if at := frame(t, s).Joints[1].Drive.At; math.Abs(math.Remainder(at-row.Drive.At-70, 360)) > 1e-6 {
		t.Errorf("driven by 70 it stands at %g, from %g", at, row.Drive.At)
	}
	for _, bad := range []Command{{Do: "dance", ID: "c1"}, {Do: "pin", ID: "c9"}, {Do: "flip", ID: "j9"},
		{Do: "join", Join: &assembly.Joint{Kind: "planar", A: ref("c2#foot"), B: ref("c2#top")}}} {
		before := s.revision
		if err := s.Do(bad); err == nil || s.revision != before {
			t.Errorf("%+v: %v", bad, err)
		}
	}
	if err := s.Do(Command{Do: "remove", ID: "c2"}); err != nil || len(frame(t, s).Joints) != 0 {
		t.Errorf("removed with its joints: %v", err)
	}
}

// A coupling holds from where the joints stand, and goes with a joint that is removed; a limit is where a drive ends; a
// traced point draws its circle, whose size is said; a part that is replaced keeps its joints where the names fit.
func TestCouplingsTracesAndReplacing(t *testing.T) {
	s := opened(t)
	do := func(c Command) {
		t.Helper()
		if err := s.Do(c); err != nil {
			t.Fatal(err)
		}
	}
	do(Command{Do: "add", Name: "plate", Part: &assembly.Part{ID: "p"}})
	for _, c := range []string{"c2", "c3"} {
		do(Command{Do: "join", Join: &assembly.Joint{Kind: "revolute", A: ref(c + "#bore"), B: ref("c1#bore"),
			Sense: "same"}})
	}
	if _, err := s.Drive("j1", 25); err != nil {
		t.Fatal(err)
	}
	if err := s.Release(true); err != nil {
		t.Fatal(err)
	}
	do(Command{Do: "couple", Couple: &assembly.Coupling{Kind: "gear pair", A: "j1", B: "j2", Ratio: "-18/54"}})
	f := frame(t, s)
	if f.Freedom != 1 || math.Abs(f.Joints[0].Drive.At-25) > 1e-6 || math.Abs(f.Joints[1].Drive.At) > 1e-6 ||
		f.Couplings[0].Words != "revolute between plate 2 and plate drives revolute between plate 3 and plate" {
		t.Errorf("coupled: %d freedoms, at %g and %g, %+v", f.Freedom, f.Joints[0].Drive.At, f.Joints[1].Drive.At,
			f.Couplings)
	}
	j := f.Joints[0].Joint
	j.Limits = &assembly.Limits{Turn: &assembly.Limit{Least: "-30 deg", Most: "60 deg"}}
	do(Command{Do: "change-joint", ID: "j1", Join: &j})
	do(Command{Do: "trace", Trace: &assembly.Trace{Of: ref("c2#top")}})
	m, err := s.Motion("j1")
	if err != nil || len(m.Table.Rows) != 181 || len(m.Paths) != 1 {
		t.Fatalf("%+v, %v", m, err)
	}
	// The middle of the top is 10 from the axis; from -30 to 60 degrees, seen from the axis beyond it.
	last := m.Table.Rows[180]
	if math.Abs(*m.Table.Rows[0][0]+30) > 1e-6 || math.Abs(*last[0]-60) > 1e-6 || m.Paths[0].Size != "5 × 13.66 × 0 mm" {
		t.Errorf("from %g to %g, the path is %s", *m.Table.Rows[0][0], *last[0], m.Paths[0].Size)
	}
	if f = frame(t, s); math.Abs(f.Joints[0].Drive.At-25) > 1e-6 || math.Abs(f.Joints[0].Drive.Least+30) > 1e-9 ||
		math.Abs(f.Joints[0].Drive.Most-60) > 1e-9 {
		t.Errorf("after the motion was looked at it stands at %+v", f.Joints[0].Drive)
	}
	// A range of its own within the limits, and beyond them.
	for _, x := range [][4]string{{"-20 deg", "gap * 10", "-20", "40"}, {"-90 deg", "90 deg", "-30", "60"}} {
		do(Command{Do: "size", Size: &quantity.Parameter{Name: "gap", Formula: "4 deg"}, Name: "gap"})
		do(Command{Do: "drive-over", Range: &assembly.Driving{Joint: "j1", From: x[0], To: x[1]}})
		d := frame(t, s).Joints[0].Drive
		if fmt.Sprintf("%.6g %.6g", d.Least, d.Most) != x[2]+" "+x[3] || d.From != x[0] || d.To != x[1] {
			t.Errorf("driven from %s to %s it goes from %g to %g", x[0], x[1], d.Least, d.Most)
		}
	}
	do(Command{Do: "drive-over", Range: &assembly.Driving{Joint: "j1"}})
	if d := frame(t, s).Joints[0].Drive; d.Set || len(s.Document().Drives) > 0 {
		t.Errorf("without a range of its own it is driven over %+v", d)
	}
	for _, bad := range []Command{{Do: "drive-over", Range: &assembly.Driving{Joint: "j1", From: "1 mm", To: "2 mm"}},
		{Do: "drive-over", Range: &assembly.Driving{Joint: "j9", From: "1 deg", To: "2 deg"}}, {Do: "couple",
			Couple: &assembly.Coupling{Kind: "gear pair", A: "j1", B: "j1",
				Ratio: "1"}},
		{Do: "couple", Couple: &assembly.Coupling{Kind: "gear pair", A: "j1", B: "j2", Ratio: "0"}},
		{Do: "couple", Couple: &assembly.Coupling{Kind: "chain", A: "j1", B: "j2", Ratio: "1"}},
		{Do: "change-coupling", ID: "k1", Couple: &assembly.Coupling{Ratio: "18 mm"}},
		{Do: "trace", Trace: &assembly.Trace{Of: ref("c2#nothing")}}, {Do: "replace", ID: "c2"}} {
		if err := s.Do(bad); err == nil {
			t.Errorf("%+v is taken", bad)
		}
	}
	other := plate()
	other.Features = other.Features[2:] // without its flat faces
	s.Give(map[string]*assembly.Shape{"q": other})
	do(Command{Do: "replace", ID: "c2", Part: &assembly.Part{ID: "q", Name: "ring"}})
	if f = frame(t, s); f.Freedom != 1 || len(f.Says) != 1 || !strings.Contains(f.Says[0].What,
		"trace has lost its point") {
		t.Errorf("replaced: %d freedoms, %+v", f.Freedom, f.Says)
	}
	if n := len(s.Document().Parts); n != 2 {
		t.Errorf("with the ring there are %d parts", n)
	}
	do(Command{Do: "remove", ID: "c2"})
	if list := s.Document().Parts; len(list) != 1 || list[0].ID != "p" {
		t.Errorf("without the ring there are the parts %+v", list)
	}
	if err := s.Undo(); err != nil || len(s.Document().Parts) != 2 {
		t.Errorf("undone: %v, %+v", err, s.Document().Parts)
	}
	do(Command{Do: "remove-joint", ID: "j2"})
	if f = frame(t, s); len(f.Couplings) != 0 {
		t.Errorf("the coupling of a joint that is gone is still there: %+v", f.Couplings)
	}
}

// A size of the assembly that a part is given makes the part anew: the change waits for its shape, and undo has the one
// that was made before. A size that is called otherwise is called so in all formulas.
func TestSizesOfParts(t *testing.T) {
	s := opened(t)
	wide := func(radius float64) map[string]*assembly.Shape {
		p := plate()
		p.Features[2].Radius, p.Sizes = radius, []quantity.Parameter{{Name: "r", Formula: "4 mm"}}
		return map[string]*assembly.Shape{"p": p}
	}
	must := func(c Command) {
		t.Helper()
		if err := s.Do(c); err != nil {
			t.Fatalf("%s: %v", c.Do, err)
		}
	}
	must(Command{Do: "size", Size: &quantity.Parameter{Name: "bore", Formula: "4 mm"}})
	part := s.Document().Parts[0]
	part.Values = map[string]string{"r": "bore + 1 mm"}
	set := Command{Do: "part", ID: "p", Part: &part}
	var needs *Needed
	if err := s.Do(set); !errors.As(err, &needs) || len(needs.Parts) != 1 || needs.Document.Parts[0].Values["r"] == "" {
		t.Fatalf("a part at another size: %v", err)
	}
	if frame(t, s).Undo != "add bore" {
		t.Error("a change that waits is done already")
	}
	s.Give(wide(5))
	must(set)
	s.Give(wide(7))
	must(Command{Do: "size", Name: "bore", Size: &quantity.Parameter{Name: "hole", Formula: "6 mm"}})
	f := frame(t, s)
	if row := f.Parts[0].Sizes[0]; row.Set != "hole + 1 mm" || row.Value != "7 mm" || row.Own != "4 mm" {
		t.Errorf("%+v", row)
	}
	radius := func() float64 { return s.feature(ref("c1#bore")).Radius }
	if radius() != 7 || f.Components[0].Shape != "p r=7 mm" {
		t.Errorf("radius %g, %s", radius(), f.Components[0].Shape)
	}
	for _, want := range []float64{5, 4} {
		if err := s.Undo(); err != nil || radius() != want {
			t.Errorf("undone: %g, want %g: %v", radius(), want, err)
		}
	}
	if err := s.Do(Command{Do: "size", Name: "bore", Size: &quantity.Parameter{Name: "bore",
		Formula: "4 m"}}); err != nil {
		t.Errorf("a size that no part has: %v", err)
	}
	for _, bad := range []Command{{Do: "size", Size: &quantity.Parameter{Name: "two words", Formula: "1"}},
		{Do: "remove-size", Name: "none"}, {Do: "part", ID: "none", Part: &part}} {
		if err := s.Do(bad); err == nil || errors.As(err, &needs) || strings.Contains(err.Error(), "/parameters") {
			t.Errorf("%s is taken: %v", bad.Do, err)
		}
	}
}

// A joint of a pin with one of five bores is made at all that are equal to it and still empty: with the pins that are
// loose, and with copies; it is one step. Bores that are larger, sunk deeper or taken stay as they are.
func TestJoiningAllThatAreAlike(t *testing.T) {
	z := solid.Vec{0, 0, 1}
	hole := func(name string, x, y, up, r float64) assembly.Feature {
		return assembly.Feature{Name: name, Form: assembly.Cylinder, Words: name, At: solid.Vec{x, y, up}, Axis: z, Radius: r,
			Length: 10, Hollow: true}
	}
	box := solid.Box{Min: solid.Vec{-20, -20, 0}, Max: solid.Vec{20, 20, 10}}
	flange := &assembly.Shape{Box: box, Features: []assembly.Feature{hole("h1", 15, 0, 5, 3), hole("h2", 0, 15, 5, 3),
		hole("h3", -15, 0, 5, 3), hole("h4", 0, -15, 5, 3), hole("wide", 0, 0, 5, 8), hole("sunk", 12, 12, 2, 3)}}
	pin := &assembly.Shape{Box: box, Features: []assembly.Feature{{Name: "shank", Form: assembly.Cylinder, Words: "shank",
		Axis: z, Radius: 3, Length: 10}}}
	s, err := Open(&assembly.Document{Hammerset: assembly.Version, Name: "cover", Unit: "mm"},
		map[string]*assembly.Shape{"flange": flange, "pin": pin})
	if err != nil {
		t.Fatal(err)
	}
	for _, part := range []string{"flange", "pin", "pin", "pin"} {
		if err := s.Do(Command{Do: "add", Name: part, Part: &assembly.Part{ID: part, Name: part}}); err != nil {
			t.Fatal(err)
		}
	}
	joint := assembly.Joint{Kind: "cylindrical", A: ref("c2#shank"), B: ref("c1#h2")}
	if got := s.Alike(joint); got != (Alike{3, 1}) {
		t.Errorf("further places: %+v", got)
	}
	if err := s.Do(Command{Do: "join", Join: &joint, On: true}); err != nil {
		t.Fatal(err)
	}
	doc := s.Document()
	var at []string
	for _, j := range doc.Joints {
		at = append(at, j.A.Component+" "+j.B.Name)
		a, b := s.m.Pose(j.A.Component).Apply(solid.Vec{}), s.m.Pose("c1").Apply(s.feature(j.B).At)
		if math.Hypot(a[0]-b[0], a[1]-b[1]) > 1e-9 {
			t.Errorf("%s is not in its bore", j.A.Component)
		}
	}
	if got := strings.Join(at, ", "); got != "c2 h2, c3 h1, c4 h3, c5 h4" || len(doc.Components) != 5 {
		t.Errorf("joined: %s", got)
	}
	if got := s.Alike(joint); got.Places != 0 {
		t.Errorf("joined already: %+v", got)
	}
	if err := s.Undo(); err != nil || len(s.Document().Joints) != 0 || len(s.Document().Components) != 4 {
		t.Errorf("undone: %d joints, %v", len(s.Document().Joints), err)
	}
}
