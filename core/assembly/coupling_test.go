package assembly

import (
	"fmt"
	"math"
	"testing"

	"hammerset/core/solid"
)

// shafts are parallel shafts on a pinned frame, each turning in a revolute joint: j1, j2 and so on.
func shafts(t testing.TB, n int) *linkage {
	l := newLinkage(t)
	frame := l.body()
	for k := range n {
		l.joint("revolute", l.body(), frame, bore(solid.Vec{50 * float64(k), 0, 0}, solid.Vec{0, 0, 1}))
	}
	return l
}

func (l *linkage) couple(kind, a, b, ratio string) {
	l.doc.Couplings = append(l.doc.Couplings, Coupling{ID: fmt.Sprintf("k%d", len(l.doc.Couplings)+1), Kind: kind, A: a,
		B:     b,
		Ratio: ratio})
}

// A gear train turns by the product of its tooth numbers, drivers over driven, and against one another at each mesh
// that is outside (any book of machine elements); over many turns, which no pose can show.
func TestGearTrainsByTheirTeeth(t *testing.T) {
	for _, c := range []struct {
		name   string
		ratios []string
		want   float64
	}{
		{"a pair", []string{"-18/54"}, -18.0 / 54},
		{"an idler only turns the sense", []string{"-18/30", "-30/54"}, 18.0 / 54},
		{"geared up", []string{"-60/12", "-40/10"}, 20},
		{"an annulus", []string{"20/80"}, 0.25},
		{"three stages down", []string{"-15/47", "-14/52", "-17/61"}, -15.0 / 47 * 14 / 52 * 17 / 61},
	} {
		l := shafts(t, len(c.ratios)+1)
		for k, r := range c.ratios {
			l.couple([]string{"gear pair", "belt"}[k%2], fmt.Sprintf("j%d", k+1), fmt.Sprintf("j%d", k+2), r)
		}
		m := l.mechanism()
		if s, mob := m.Solve(), m.Mobility(); !s.Holds || mob.Freedom != 1 || mob.Counted != 1 {
			t.Fatalf("%s: %+v %+v", c.name, s, mob)
		}
		drive, err := m.Drive("j1")
		if err != nil {
			t.Fatal(err)
		}
		last := fmt.Sprintf("j%d", len(c.ratios)+1)
		if drive.To(drive.Value()+14*math.Pi, nil) {
			t.Fatalf("%s: it stops at %g", c.name, drive.Value())
		}
		if turn, _, _ := m.Coordinate(last); math.Abs(turn-c.want*14*math.Pi) > 1e-9*math.Max(1, math.Abs(turn)) {
			t.Errorf("%s: after seven turns the last gear is at %g turns, not %g", c.name, turn/(2*math.Pi), 7*c.want)
		}
		// What was kept goes on from there, and one turn back leads to six.
		l.doc = m.Placed()
		m = l.mechanism()
		if drive, err = m.Drive("j1"); err != nil || drive.To(12*math.Pi, nil) {
			t.Fatalf("%s: kept and driven back it stops (%v)", c.name, err)
		}
		if turn, _, _ := m.Coordinate(last); math.Abs(turn-c.want*12*math.Pi) > 1e-9*math.Max(1, math.Abs(turn)) {
			t.Errorf("%s: one turn back the last gear is at %g turns, not %g", c.name, turn/(2*math.Pi), 6*c.want)
		}
	}
}

// A pinion of module 2 with 15 teeth moves its rack by π m z in one turn (any book of machine elements), however far.
func TestRackAndPinion(t *testing.T) {
	l := shafts(t, 1)
	l.joint("prismatic", l.body(), "c1", bore(solid.Vec{0, -15, 0}, solid.Vec{1, 0, 0}))
	l.couple("rack and pinion", "j1", "j2", "pi * 2 mm * 15")
	m := l.mechanism()
	if s, mob := m.Solve(), m.Mobility(); !s.Holds || mob.Freedom != 1 {
		t.Fatalf("%+v %+v", s, mob)
	}
	drive, _ := m.Drive("j1")
	if _, slide, _ := m.Coordinate("j2"); drive.To(6*math.Pi, nil) || slide != 0 {
		t.Fatal("it stops, or began elsewhere", slide)
	}
	if _, slide, _ := m.Coordinate("j2"); math.Abs(slide-3*math.Pi*30) > 1e-9*300 {
		t.Errorf("three turns move the rack by %g, not %g", slide, 3*math.Pi*30)
	}
	// The rack drives the pinion as well.
	drive, _ = m.Drive("j2")
	if turn, _, _ := m.Coordinate("j1"); drive.To(-math.Pi*30, nil) || math.Abs(turn-6*math.Pi) > 1e-9 {
		t.Fatal("it stops, or the pinion was elsewhere", turn)
	}
	if turn, _, _ := m.Coordinate("j1"); math.Abs(turn+2*math.Pi) > 1e-9 {
		t.Errorf("the rack turned the pinion to %g", turn)
	}
}

// Joints stop at their limits: driven, pulled, and where a mechanism is solved that stands beyond one; what else can
// move goes on, and what pushes away from the limit is free.
func TestLimitsStop(t *testing.T) {
	l := newLinkage(t)
	frame, slide, arm := l.body(), l.body(), l.body()
	j := l.joint("prismatic", slide, frame, bore(solid.Vec{}, solid.Vec{1, 0, 0}))
	j.Limits = &Limits{Slide: &Limit{Least: "-10 mm", Most: "25 mm"}}
	j = l.joint("revolute", arm, slide, bore(solid.Vec{}, solid.Vec{0, 0, 1}))
	j.Limits = &Limits{Turn: &Limit{Most: "90 deg"}}
	m := l.mechanism()
	m.Solve()
	drive, _ := m.Drive("j1")
	if !drive.To(40, nil) || drive.Value() != 25 || len(m.Stopped()) != 1 {
		t.Errorf("driven beyond its limit it is at %g, and stopped are %v", drive.Value(), m.Stopped())
	}
	if drive.To(0, nil) || len(m.Stopped()) != 0 {
		t.Errorf("driven back it is at %g, and stopped are %v", drive.Value(), m.Stopped())
	}
	pull := m.Pull(arm, solid.Vec{30, 0, 0})
	for _, goal := range []solid.Vec{{60, 0, 0}, {60, 40, 0}, {200, 30, 0}} {
		if !pull.To(goal) {
			t.Errorf("the arm cannot be pulled to %v", goal)
		}
	}
	if _, at, _ := m.Coordinate("j1"); math.Abs(at-25) > 1e-7 {
		t.Errorf("pulled far beyond its limit the slide is at %g", at)
	}
	if turn, _, _ := m.Coordinate("j2"); turn < 0.1 {
		t.Errorf("at the limit of the slide the arm no longer turns: %g", turn)
	}
	if pull.To(solid.Vec{-500, 5, 0}); m.where(slide, solid.Vec{})[0] > 24 {
		t.Errorf("pulled back the slide stays at %v", m.where(slide, solid.Vec{}))
	}
	l.doc.Components[1].Pose.Shift[0], l.doc.Components[2].Pose.Shift[0] = 31, 31
	m = l.mechanism()
	solved := m.Solve()
	if _, at, _ := m.Coordinate("j1"); !solved.Holds || math.Abs(at-25) > 1e-7 {
		t.Errorf("what stood beyond its limit is at %g: %+v", at, solved)
	}
	// Held there by another joint, the two contradict.
	l.doc.Components[1].Pinned = true
	m = l.mechanism()
	if s := m.Solve(); s.Holds || len(s.Contradiction) == 0 || s.Contradiction[0] != "j1" {
		t.Errorf("pinned beyond its limit: %+v", s)
	}
}

// The coordinates' slopes by the unknowns are those that differences give, at any pose; a part between two of them
// counts in both.
func TestSlopesOfCouplings(t *testing.T) {
	l := newLinkage(t)
	frame, one, two := l.body(), l.body(), l.body()
	l.joint("cylindrical", one, frame, bore(solid.Vec{3, 1, 2}, solid.Vec{1, 2, 3}))
	l.joint("cylindrical", two, one, bore(solid.Vec{-7, 4, 1}, solid.Vec{2, -1, 1}))
	l.couple("rack and pinion", "j1", "j2", "7 mm")
	m := l.mechanism()
	m.Solve()
	s := m.system
	for v := range s.Unknowns() { // anywhere
		m.moves.Move(s.State, append([]float64(nil), s.State...), []int{v}, []float64{0.7 * math.Sin(float64(3*v+1))})
	}
	g := &s.Groups[len(s.Groups)-1]
	r, jac := make([]float64, 1), make([]float64, len(g.Vars))
	g.Eval(s.State, r, jac)
	const h = 1e-6
	for i, v := range g.Vars {
		before, d := append([]float64(nil), s.State...), [2]float64{}
		for side, by := range []float64{-h, h} {
			copy(s.State, before)
			m.moves.Move(s.State, before, []int{v}, []float64{by})
			g.Eval(s.State, r, nil)
			d[side] = r[0]
		}
		copy(s.State, before)
		if got := (d[1] - d[0]) / (2 * h); math.Abs(got-jac[i]) > 1e-6*math.Max(1, math.Abs(got)) {
			t.Errorf("by unknown %d the slope is %g, and differences give %g", v, jac[i], got)
		}
	}
}

// Speeds in a record are those of the mechanism: of a slider-crank the piston's is the derivative of its known place
// (any book of mechanics), of a gear pair the ratio, and at a dead point there are none.
func TestRecordedSpeeds(t *testing.T) {
	const r, length, phi = 25.0, 80.0, 0.7
	pin := solid.Vec{r * math.Cos(phi), r * math.Sin(phi), 0}
	cross := solid.Vec{pin[0] + math.Sqrt(length*length-pin[1]*pin[1]), 0, 0}
	l := newLinkage(t)
	frame, crank, rod, piston, gear := l.body(), l.body(), l.body(), l.body(), l.body()
	z := solid.Vec{0, 0, 1}
	l.joint("revolute", crank, frame, bore(solid.Vec{}, z))
	l.joint("revolute", rod, crank, bore(pin, z))
	l.joint("revolute", piston, rod, bore(cross, z))
	l.joint("prismatic", piston, frame, bore(cross, solid.Vec{1, 0, 0}))
	l.joint("revolute", gear, frame, bore(solid.Vec{-60, 0, 0}, z))
	l.couple("gear pair", "j1", "j5", "-20/40")
	point := l.feature(rod, Feature{Form: Corner, At: cross})
	m := l.mechanism()
	m.Solve()
	drive, _ := m.Drive("j1")
	p, err := m.Point(point)
	if err != nil {
		t.Fatal(err)
	}
	got := drive.Record(0, 2*math.Pi, 36, []Point{p})
	if len(got.Moments) != 37 || got.Stopped || got.Columns[3] != (Axis{"j5", true}) {
		t.Fatalf("%d moments, stopped %v, columns %v", len(got.Moments), got.Stopped, got.Columns)
	}
	for _, x := range got.Moments {
		f := phi + x.Value
		root := math.Sqrt(length*length - r*r*math.Sin(f)*math.Sin(f))
		place, speed := r*math.Cos(f)+root, -r*math.Sin(f)-r*r*math.Sin(f)*math.Cos(f)/root
		if math.Abs(x.Places[0][0]-place) > 1e-8 || math.Abs(x.Speeds[0][0]-speed) > 1e-7 ||
			math.Abs(x.Rates[2]-speed) > 1e-7 {
			t.Errorf("at %g the piston is at %v with %v and slides by %g, not at %g with %g", x.Value, x.Places[0], x.Speeds[0],
				x.Rates[2], place, speed)
		}
		if math.Abs(x.Rates[3]+0.5) > 1e-9 {
			t.Errorf("at %g the gear goes %g as fast", x.Value, x.Rates[3])
		}
	}
	// As a table it is in degrees.
	table, err := m.Table(got)
	if err != nil || len(table.Head) != len(table.Rows[0]) || table.Head[0] != "revolute between c2 and c1, °" ||
		math.Abs(*table.Rows[36][0]-360) > 1e-9 || math.Abs(*table.Rows[9][8]+0.5) > 1e-9 {
		t.Errorf("as a table: %v, %v", table.Head, err)
	}
	// Driven by the piston it comes to the dead point, and the crank's speed grows without end before it.
	drive, _ = m.Drive("j4")
	dead := drive.Record(drive.Value(), drive.Value()+40, 40, nil)
	if last := dead.Moments[len(dead.Moments)-1]; !dead.Stopped || last.Rates != nil && math.Abs(last.Rates[0]) < 1 {
		t.Errorf("driven by the piston: stopped %v, at last %+v", dead.Stopped, last)
	}
}
