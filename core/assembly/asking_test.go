package assembly

import (
	"math"
	"testing"

	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// moved is a pose after a turn about a place and a shift.
func movedBy(t *testing.T, p rigid.Pose, about, axis solid.Vec, angle float64, shift solid.Vec) rigid.Pose {
	t.Helper()
	return p.Then(must(t, solid.Rotation(about, axis, angle))).Then(rigid.Pose{Turn: rigid.Still().Turn, Shift: shift})
}

// What a joint asks for is nothing off where it holds, wherever the whole lies; each way to be off shows at the
// condition that it breaks, by as much, and at no other.
func TestWhatIsOff(t *testing.T) {
	up := solid.Vec{0, 0, 1}
	for _, c := range []struct {
		what  string
		kind  string
		axis  solid.Vec // of a turn
		angle float64
		shift solid.Vec
		off   map[What]float64
	}{
		{"as it should be", "revolute", up, 0, solid.Vec{}, nil},
		{"a revolute joint turned", "revolute", up, 1.2, solid.Vec{}, nil},
		{"along its axis", "revolute", up, 0, solid.Vec{0, 0, 4}, map[What]float64{Seated: 4}},
		{"the other way along its axis", "revolute", up, 0, solid.Vec{0, 0, -2.5}, map[What]float64{Seated: -2.5}},
		{"off its axis", "revolute", up, 0, solid.Vec{3, 4, 0}, map[What]float64{Coaxial: 5}},
		{"leaning", "revolute", solid.Vec{1, 0, 0}, 0.02, solid.Vec{}, map[What]float64{Parallel: 0.02}},
		{"upside down", "revolute", solid.Vec{1, 0, 0}, math.Pi, solid.Vec{}, map[What]float64{Facing: math.Pi}},
		{"a cylindrical joint along its axis", "cylindrical", up, 0, solid.Vec{0, 0, 4}, nil},
		{"a rigid joint turned", "rigid", up, math.Pi / 3, solid.Vec{}, map[What]float64{Held: math.Pi / 3}},
		{"a rigid joint turned right round", "rigid", up, math.Pi, solid.Vec{}, map[What]float64{Held: math.Pi}},
		{"a prismatic joint along its axis", "prismatic", up, 0, solid.Vec{0, 0, 9}, nil},
		{"a spherical joint apart", "spherical", up, 0, solid.Vec{2, 3, 6}, map[What]float64{Meeting: 7}},
	} {
		for _, whole := range []rigid.Pose{rigid.Still(), must(t, solid.Rotation(solid.Vec{7, 1, -3}, solid.Vec{1, -2, 0.5},
			0.65))} {
			l := newLinkage(t)
			a, b := l.body(), l.body()
			f := bore(solid.Vec{}, up)
			if c.kind == "spherical" {
				f = Feature{Form: Corner}
			}
			j := l.join(c.kind, l.feature(b, f), l.feature(a, f))
			if c.kind != "spherical" {
				j.Sense = Same
			}
			asked, ok := l.mechanism().Asking(j.ID)
			if !ok {
				t.Fatalf("%s: the joint cannot be made", c.what)
			}
			of, on := asked.Features()
			at := movedBy(t, rigid.Still(), solid.Vec{}, c.axis, c.angle, c.shift)
			list, ok := asked.Off(of, on, at.Then(whole), whole)
			if !ok {
				t.Fatalf("%s: the features are not taken", c.what)
			}
			for _, o := range list {
				by, want := o.By, c.off[o.What]
				if o.Angle {
					by, want = math.Abs(math.Remainder(by, 2*math.Pi)), math.Abs(want)
				}
				if math.Abs(by-want) > 1e-9 {
					t.Errorf("%s: %s is off by %g, and not by %g", c.what, o.What, by, want)
				}
			}
		}
	}
}

// The motions of a mechanism are those that its mobility counts, and each moves every joint as that allows: the places
// of a revolute joint stand still on its axis.
func TestMotionsOfALinkage(t *testing.T) {
	l := bars(t, map[string]solid.Vec{"A": {0, 0, 0}, "B": {20, 40, 0}, "C": {80, 60, 0}, "D": {100, 0, 0}}, "AD", "AB",
		"BC", "CD")
	m := l.mechanism()
	if !m.Solve().Holds {
		t.Fatal("it cannot be put together")
	}
	motions := m.Motions()
	if len(motions) != 1 || m.Mobility().Freedom != 1 {
		t.Fatalf("%d motions of a four-bar linkage", len(motions))
	}
	for i := range l.doc.Joints {
		j := &l.doc.Joints[i]
		p, ok := m.joint(j.ID)
		if !ok {
			t.Fatal(j.ID)
		}
		_, on := m.frames(p)
		a, b := motions[0][j.A.Component], motions[0][j.B.Component]
		if d := a.At(on.O).Sub(b.At(on.O)).Norm(); d > 1e-6 {
			t.Errorf("the two places of the joint %s part by %g", j.ID, d)
		}
	}
}

// Paths are compared as curves: wherever their places lie on them, and by how far they part at most.
func TestPathsApart(t *testing.T) {
	ellipse := func(a, b, from float64, n int) []solid.Vec {
		var out []solid.Vec
		for k := range n {
			s, c := math.Sincos(from + 2*math.Pi*float64(k)/float64(n-1))
			out = append(out, solid.Vec{a * c, b * s, 0})
		}
		return out
	}
	// An elliptic trammel of semi-axes 76.2 and 38.1 mm (x²/a² + y²/b² = 1).
	for _, c := range []struct {
		what  string
		other []solid.Vec
		apart float64
		slack float64
	}{
		{"itself", ellipse(76.2, 38.1, 0, 145), 0, 1e-9},
		{"begun elsewhere, in other steps", ellipse(76.2, 38.1, 0.37, 131), 0, 2e-3},
		{"a longer arm", ellipse(77.2, 38.1, 0, 145), 1, 1e-2},
		{"a circle", ellipse(76.2, 76.2, 0, 145), 38.1, 1e-2},
	} {
		if got := PathApart(ellipse(76.2, 38.1, 0, 145), c.other); math.Abs(got-c.apart) > c.slack {
			t.Errorf("%s: %g apart, and not %g", c.what, got, c.apart)
		}
	}
}
