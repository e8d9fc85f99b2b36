package assembly

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"hammerset/core/solid"
)

// where is a place that a component carries along, given where it was at first.
func (m *Mechanism) where(component string, at solid.Vec) solid.Vec {
	c, _ := m.Document.Component(component)
	return m.Pose(component).Apply(c.Pose.Inverse().Apply(at))
}

// A four-bar obeys Freudenstein's equation K1 cos ψ - K2 cos φ + K3 = cos(φ - ψ) (F. Freudenstein, Approximate
// synthesis of four-bar linkages, 1955) all the way round, and by Grashof's rule the shortest bar goes round where
// s + l < p + q, else not.
func TestFourBarsAgainstFreudenstein(t *testing.T) {
	for _, bar := range []struct {
		crank, coupler, rocker, ground float64
		round                          bool
	}{{20, 60, 50, 55, true}, {30, 55, 50, 60, true}, {35, 40, 30, 60, false}} {
		a, b, c, d := bar.crank, bar.coupler, bar.rocker, bar.ground
		const phi = 1.2
		crank := solid.Vec{a * math.Cos(phi), a * math.Sin(phi), 0}
		// The coupler's other end is where two circles meet.
		to := solid.Vec{d, 0, 0}.Sub(crank)
		r := to.Norm()
		x := (b*b - c*c + r*r) / (2 * r)
		end := crank.Add(to.Scale(x / r)).Add(solid.Vec{-to[1], to[0], 0}.Scale(math.Sqrt(b*b-x*x) / r))
		places := map[string]solid.Vec{"o": {}, "p": crank, "q": end, "g": {d, 0, 0}}
		l := bars(t, places, "og", "op", "pq", "qg")
		m := l.mechanism()
		drive, err := m.Drive("j1") // the crank on the ground
		if err != nil {
			t.Fatal(err)
		}
		from, steps := drive.Value(), 0
		stopped := drive.To(from+2*math.Pi, func(float64) {
			steps++
			p, q := m.where("c2", crank), m.where("c4", end)
			f, s := math.Atan2(p[1], p[0]), math.Atan2(q[1], q[0]-d)
			left := d/a*math.Cos(s) - d/c*math.Cos(f) + (a*a-b*b+c*c+d*d)/(2*a*c) - math.Cos(f-s)
			if math.Abs(left) > 1e-9 {
				t.Errorf("bars of %v: Freudenstein's equation is off by %g", bar, left)
			}
		})
		if stopped == bar.round || steps < 5 {
			t.Errorf("bars of %v: stopped is %v after %d steps, at %g", bar, stopped, steps, drive.Value()-from)
		}
		if bar.round && m.where("c4", end).Distance(end) > 1e-7 {
			t.Errorf("bars of %v: after one turn the rocker is elsewhere", bar)
		}
	}
}

// The slide of a crank is x = r cos φ + sqrt(l² - r² sin² φ) (any book of mechanics).
func TestSliderCrank(t *testing.T) {
	const r, length = 25.0, 80.0
	phi := 0.7
	pin := solid.Vec{r * math.Cos(phi), r * math.Sin(phi), 0}
	cross := solid.Vec{pin[0] + math.Sqrt(length*length-pin[1]*pin[1]), 0, 0}
	l := newLinkage(t)
	frame, crank, rod, piston := l.body(), l.body(), l.body(), l.body()
	z, x := solid.Vec{0, 0, 1}, solid.Vec{1, 0, 0}
	l.joint("revolute", crank, frame, bore(solid.Vec{}, z))
	l.joint("revolute", rod, crank, bore(pin, z))
	l.joint("revolute", piston, rod, bore(cross, z))
	l.joint("prismatic", piston, frame, bore(cross, x))
	m := l.mechanism()
	if s, mob := m.Solve(), m.Mobility(); !s.Holds || mob.Freedom != 1 {
		t.Fatalf("%+v %+v", s, mob)
	}
	drive, err := m.Drive("j1")
	if err != nil {
		t.Fatal(err)
	}
	if drive.To(drive.Value()+4*math.Pi, func(v float64) {
		f := phi + v
		want := r*math.Cos(f) + math.Sqrt(length*length-r*r*math.Sin(f)*math.Sin(f))
		if got := m.where(piston, cross); math.Abs(got[0]-want) > 1e-9*length || math.Hypot(got[1], got[2]) > 1e-9*length {
			t.Errorf("at %g the piston is at %v, not at %g", f, got, want)
		}
	}) {
		t.Errorf("it stopped at %g", drive.Value())
	}
	// Driven by the piston it comes to its dead point, where the crank lies along the rod, and stops there.
	drive, err = m.Drive("j4")
	if err != nil {
		t.Fatal(err)
	}
	if !drive.To(drive.Value()+40, nil) {
		t.Error("the piston goes beyond its dead point")
	} else if got := m.where(piston, cross)[0]; math.Abs(got-(r+length)) > 1e-3 {
		t.Errorf("the piston stops at %g, not at %g", got, r+length)
	}
}

// A universal joint turns by tan(out) = tan(in) / cos(bend) (J. E. Shigley and J. J. Uicker, Theory of Machines and
// Mechanisms; from memory), and a shaft with two in phase turns out as it turns in.
func TestUniversalJoints(t *testing.T) {
	for _, degrees := range []float64{5, 20, 35, 50, 60} {
		bend := degrees * math.Pi / 180
		l := newLinkage(t)
		frame, in, out := l.body(), l.body(), l.body()
		x, away := solid.Vec{1, 0, 0}, solid.Vec{math.Cos(bend), math.Sin(bend), 0}
		l.joint("revolute", in, frame, bore(solid.Vec{-30, 0, 0}, x))
		l.joint("revolute", out, frame, bore(away.Scale(30), away))
		// The cross has its pins along z, which the input fork holds, and square to that and to the output.
		l.join("universal", l.feature(in, bore(solid.Vec{}, solid.Vec{0, 0, 1})),
			l.feature(out, bore(solid.Vec{}, away.Cross(solid.Vec{0, 0, 1}))))
		m := l.mechanism()
		if s, mob := m.Solve(), m.Mobility(); !s.Holds || mob.Freedom != 1 {
			t.Fatalf("bent by %g: %+v %+v", degrees, s, mob)
		}
		drive, err := m.Drive("j1")
		if err != nil {
			t.Fatal(err)
		}
		begin, turns := drive.Value(), 0.0
		other, _, _ := m.Coordinate("j2")
		last := other
		if drive.To(begin+2*math.Pi, func(v float64) {
			now, _, _ := m.Coordinate("j2")
			turns, last = turns+wrap(now-last), now
			// The fork in stands across the bend at first: tan(in) = tan(out) cos(bend) from there.
			a, b := v-begin, turns
			if d := wrap(math.Atan2(math.Sin(a), math.Cos(a)*math.Cos(bend)) - b); math.Abs(d) > 1e-9 {
				if e := wrap(math.Atan2(math.Sin(a)*math.Cos(bend), math.Cos(a)) - b); math.Abs(e) > 1e-9 {
					t.Errorf("bent by %g: turned in by %g it turns out by %g", degrees, a, b)
				}
			}
		}) {
			t.Errorf("bent by %g it stops", degrees)
		}
		if math.Abs(math.Abs(turns)-2*math.Pi) > 1e-9 {
			t.Errorf("bent by %g: one turn in is %g out", degrees, turns)
		}
	}
}

// Two sliders at right angles carry a bar: each of its points goes on an ellipse whose half axes are its distances
// from the sliders (the trammel of Archimedes; any book of mechanics).
func TestTrammel(t *testing.T) {
	const length = 50.0
	a, b := solid.Vec{length * math.Cos(0.5), 0, 0}, solid.Vec{0, length * math.Sin(0.5), 0}
	l := newLinkage(t)
	frame, slideX, slideY, bar := l.body(), l.body(), l.body(), l.body()
	z := solid.Vec{0, 0, 1}
	l.joint("prismatic", slideX, frame, bore(a, solid.Vec{1, 0, 0}))
	l.joint("prismatic", slideY, frame, bore(b, solid.Vec{0, 1, 0}))
	l.joint("revolute", bar, slideX, bore(a, z))
	l.joint("revolute", bar, slideY, bore(b, z))
	m := l.mechanism()
	if mob := m.Mobility(); mob.Freedom != 1 {
		t.Fatalf("%+v", mob)
	}
	drive, err := m.Drive("j3")
	if err != nil {
		t.Fatal(err)
	}
	steps := 0
	if drive.To(drive.Value()+2*math.Pi, func(float64) {
		steps++
		for _, share := range []float64{-0.6, 0.3, 1.7} { // along the bar from the slider on x
			p := m.where(bar, a.Add(b.Sub(a).Scale(share)))
			x, y := (1-share)*length, share*length
			if e := p[0]*p[0]/(x*x) + p[1]*p[1]/(y*y) - 1; math.Abs(e) > 1e-9 {
				t.Errorf("the point at %g is off its ellipse by %g", share, e)
			}
		}
	}) || steps < 70 {
		t.Errorf("it stopped after %d steps", steps)
	}
}

// The inversor of Peaucellier and Lipkin draws a straight line: with long bars of length l on o, a rhombus of side s
// and a bar that leads the near corner on a circle through o, the far corner goes straight (A. B. Kempe, How to Draw a
// Straight Line, 1877).
func TestInversorDrawsAStraightLine(t *testing.T) {
	const long, side, half = 80.0, 40.0, 30.0 // half: the radius of the circle through o
	near := solid.Vec{half + half*math.Cos(0.6), half * math.Sin(0.6), 0}
	r := near.Norm()
	reach := (r + (long*long-side*side)/r) / 2 // to the middle of the rhombus
	along := near.Unit()
	across := solid.Vec{-along[1], along[0], 0}
	h := math.Sqrt(long*long - reach*reach)
	places := map[string]solid.Vec{"o": {}, "k": {half, 0, 0}, "n": near, "u": along.Scale(reach).Add(across.Scale(h)),
		"v": along.Scale(reach).Sub(across.Scale(h)), "f": along.Scale(2*reach - r)}
	l := bars(t, places, "ok", "kn", "ou", "ov", "nu", "nv", "fu", "fv")
	m := l.mechanism()
	if s, mob := m.Solve(), m.Mobility(); !s.Holds || mob.Freedom != 1 {
		t.Fatalf("%+v %+v", s, mob)
	}
	drive, err := m.Drive("j1")
	if err != nil {
		t.Fatal(err)
	}
	far := "c7"
	x := m.where(far, places["f"])[0]
	for _, turn := range []float64{0.5, -1.2, 0} {
		if drive.To(turn, func(float64) {
			if d := m.where(far, places["f"])[0] - x; math.Abs(d) > 1e-8 {
				t.Errorf("the far corner leaves its line by %g", d)
			}
		}) {
			t.Errorf("it stops at %g", drive.Value())
		}
	}
}

// Pulling keeps every state solved, follows the hand as far as the joints allow, and leaves the rest where it is.
func TestPulling(t *testing.T) {
	places := map[string]solid.Vec{"o": {}, "p": {30, 0, 0}, "q": {60, 5, 0}}
	l := bars(t, places, "o", "op", "pq")
	l.doc.Joints[0].A.Component, l.doc.Joints[0].B.Component = "c2", "c1"
	m := l.mechanism()
	if got := m.Mobility(); got.Freedom != 2 {
		t.Fatalf("%+v", got)
	}
	pull := m.Pull("c3", places["q"])
	for k := range 60 {
		f := float64(k) / 20
		goal := solid.Vec{45 * math.Cos(f), 45 * math.Sin(f), 7} // reachable but for its height
		if !pull.To(goal) {
			t.Fatalf("frame %d is not solved", k)
		}
		// From a straight arm it takes a few frames to fold.
		if got := m.where("c3", places["q"]); k >= 10 && got.Distance(solid.Vec{goal[0], goal[1], 0}) > 0.05 {
			t.Fatalf("frame %d: pulled to %v, it is at %v", k, goal, got)
		}
	}
	for range 10 { // as many frames
		pull.To(solid.Vec{500, 0, 0})
	}
	if got := m.where("c3", places["q"]); got.Norm() > 60.5 || got[0] < 55 {
		t.Errorf("pulled far away it is at %v", got)
	}
	stood, lo, hi := m.Pose("c3"), math.Inf(1), math.Inf(-1)
	if !m.Wiggle("c3", 4, 20, func() {
		y := m.Pose("c3").Shift.Distance(stood.Shift)
		lo, hi = math.Min(lo, y), math.Max(hi, y)
		if p := m.where("c2", places["o"]); p.Norm() > 1e-8 {
			t.Errorf("wiggling takes the arm off its pin: %v", p)
		}
	}) || lo > 1e-9 || hi < 1 || m.Pose("c3") != stood || m.Wiggle("c1", 4, 20, func() {}) {
		t.Errorf("it wiggles between %g and %g mm, and ends at %v", lo, hi, m.Pose("c3"))
	}
	if m.Pull("c1", solid.Vec{}) != nil {
		t.Error("what is pinned is pulled")
	}
}

// Joints that contradict one another are named as a smallest set, and nothing moves; what is fine is solved all the
// same. Joints with a sense are brought the right way round.
func TestContradictionsAndSenses(t *testing.T) {
	places := map[string]solid.Vec{"a": {0, 0, 0}, "b": {40, 0, 0}, "c": {45, 30, 0}, "d": {-5, 25, 0}}
	l := bars(t, places, "ab", "bc", "cd", "da")
	l.doc.Joints = append(l.doc.Joints, Joint{ID: "gap", Kind: "distance", Distance: "72",
		A: l.feature("c2", Feature{Form: Corner, At: places["b"]}), B: l.feature("c4", Feature{Form: Corner,
			At: places["d"]})})
	other := l.body()
	seat := l.join("planar", l.feature(other, Feature{Form: Plane, At: solid.Vec{0, 0, 9}, Axis: solid.Vec{0.1, 0, 1}}),
		l.feature("c1", Feature{Form: Plane, At: solid.Vec{0, 0, 4}, Axis: solid.Vec{0, 0, 1}}))
	seat.Sense = Opposed
	m := l.mechanism()
	s := m.Solve()
	if s.Holds || len(s.Flipped) > 0 || !slices.Contains(s.Contradiction, "gap") || slices.Contains(s.Contradiction,
		seat.ID) {
		t.Errorf("%+v", s)
	}
	if m.Pose("c3") != m.Document.Components[2].Pose {
		t.Error("what contradicts has moved")
	}
	p, _ := m.joint(seat.ID)
	if f := m.facing(p); math.Abs(f-1) > 1e-9 {
		t.Errorf("the seat faces the other way: %g", f)
	}
	for i := range l.doc.Joints {
		if id := l.doc.Joints[i].ID; slices.Contains(s.Contradiction, id) {
			l.doc.Joints[i].Off = true
			if again := l.mechanism().Solve(); !again.Holds {
				t.Errorf("without %s it still does not hold: %+v", id, again)
			}
			l.doc.Joints[i].Off = false
		}
	}
}

// Rigidly joined components are one body, wherever they were put before; a chain of them hangs on what is pinned.
func TestRigidJointsMerge(t *testing.T) {
	l := newLinkage(t)
	ids := []string{l.body(), l.body(), l.body()}
	for i := range 2 {
		f := Feature{Form: Plane, At: solid.Vec{float64(10 * (i + 1)), 0, 0}, Axis: solid.Vec{1, 0, 0}}
		g := f
		g.Axis = solid.Vec{-1, 0, 0}
		j := l.join("rigid", l.feature(ids[i+1], g), l.feature(ids[i], f))
		j.Sense, j.Offset = Opposed, "2"
		l.doc.Components[i+1].Pose.Shift = solid.Vec{7, float64(i), 3}
	}
	m := l.mechanism()
	if got := m.Mobility(); len(m.bodies) != 0 || got.Freedom != 0 {
		t.Errorf("%d bodies, %+v", len(m.bodies), got)
	}
	for i, id := range ids {
		if got := m.Pose(id).Apply(solid.Vec{}); got.Distance(solid.Vec{float64(2 * i), 0, 0}) > 1e-12 {
			t.Errorf("%s is at %v", id, got)
		}
	}
}

// What a joint cannot hold is told with its place and a remedy, and the rest stands.
func TestJointsThatCannotBeMade(t *testing.T) {
	for want, change := range map[string]func(l *linkage){
		"has lost a feature: the face or edge of c1": func(l *linkage) { l.doc.Joints[0].B.Name = "gone" },
		"cannot hold":            func(l *linkage) { l.doc.Joints[0].Kind = "planar" },
		"put this formula right": func(l *linkage) { l.doc.Joints[0].Offset = "wide*" },
	} {
		l := bars(t, map[string]solid.Vec{"a": {}, "b": {40, 0, 0}}, "ab", "ab")
		change(l)
		m, err := New(l.doc, l.of, nil)
		if err != nil || len(m.Lost()) != 1 || !strings.Contains(fmt.Sprint(m.Lost()), want) {
			t.Errorf("%v %v, want %q", err, m.Lost(), want)
			continue
		}
		if s := m.Solve(); !s.Holds || m.Mobility().Freedom != 1 {
			t.Errorf("the rest does not stand: %+v, %+v", s, m.Mobility())
		}
	}
}
