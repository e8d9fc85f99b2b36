package geometry

import (
	"math"
	"testing"

	"hammerset/core/assembly/clash"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// What components share is that of closed forms: crossed equal cylinders 16 r³/3 (Steinmetz), a ball in a plate its
// cap π h² (r - h/3), one inside another all of it; and what only touches, or misses by less than anybody can make, is
// contact, at any pose. What surely is free is found without the kernel.
func TestClashesAgainstClosedForms(t *testing.T) {
	b := bench{t: t}
	k, try, ball := b.k, b.try, b.ball
	round := func(r float64, holes ...float64) func(solid.Vec, solid.Vec) solid.Shape {
		return func(at, along solid.Vec) solid.Shape {
			f := solid.Plane(at, along.Unit())
			f.O = at
			loops := [][]solid.Segment{{{Kind: "circle", Radius: r, Forward: true, Hi: 2 * math.Pi}}}
			for _, h := range holes {
				loops = append(loops, []solid.Segment{{Kind: "circle", Radius: h, Hi: 2 * math.Pi}})
			}
			return try(k.Prism(solid.Profile{Frame: f, Loops: loops}, along))
		}
	}
	x, z := solid.World.X, solid.World.Z
	rod := round(6)(z.Scale(-20), z.Scale(40))
	plate := round(30)(z.Scale(-10), z.Scale(10))
	bored := func(r float64) solid.Shape { return round(15, r)(z.Scale(-8), z.Scale(16)) }
	for _, c := range []struct {
		name   string
		a, b   solid.Shape
		kind   string // "" for free
		volume float64
		asked  int // booleans
	}{
		{"crossed cylinders", rod, round(6)(x.Scale(-20), x.Scale(40)), clash.Collision, 16 * 216.0 / 3, 1},
		{"a ball in a plate", plate, try(k.Transform(ball(9), solid.Translation(z.Scale(7)))), clash.Collision,
			math.Pi * 4 * (9 - 2.0/3), 1},
		{"one inside another", round(30)(z.Scale(-30), z.Scale(60)), ball(5), clash.Collision, 4 * math.Pi * 125 / 3, 1},
		{"two in one place", rod, rod, clash.Collision, math.Pi * 36 * 40, 1},
		{"equal pin and bore", bored(6), rod, clash.Contact, 0, 1},
		{"a hundred-thousandth apart", bored(6 + 1e-5), rod, clash.Contact, 0, 1},
		{"a ten-millionth in one another", bored(6 - 1e-7), rod, clash.Contact, 0, 1},
		{"a pin too large", bored(5.9), rod, clash.Collision, math.Pi * (36 - 5.9*5.9) * 16, 1},
		{"a pin with play", bored(6.3), rod, "", 0, 0},
		{"a face on a face", plate, round(5)(solid.Vec{}, z.Scale(9)), clash.Contact, 0, 0},
		{"in the plane of the face, past its edge", bored(6), round(5)(solid.Vec{0, 0, 8}, z.Scale(9)), "", 0, 0},
		{"beside it", plate, round(5)(x.Scale(40), z.Scale(9)), "", 0, 0},
	} {
		for _, pose := range []solid.Transform{solid.Identity, oddPose()} {
			p, err := rigid.Of(pose)
			if err != nil {
				t.Fatal(err)
			}
			var list []clash.Placed
			for i, s := range []solid.Shape{c.a, c.b} {
				made := b.made(s)
				list = append(list, clash.Placed{ID: []string{"c1", "c2"}[i], Title: []string{"one", "the other"}[i], Pose: p,
					Shape: made.Shape, Solid: made.Solid})
			}
			l := clash.Looker{Kernel: k}
			got, err := l.All(ctx, list, func(float64) {})
			if err != nil {
				t.Fatal(err)
			}
			if l.Booleans != c.asked {
				t.Errorf("%s: the kernel was asked %d times, not %d", c.name, l.Booleans, c.asked)
			}
			if c.kind == "" {
				if len(got) > 0 {
					t.Errorf("%s: %+v", c.name, got)
				}
				continue
			}
			if len(got) != 1 || got[0].Kind != c.kind || c.volume > 0 && !near(got[0].Volume, c.volume, 1e-6) {
				t.Errorf("%s: %+v, want %s of %g", c.name, got, c.kind, c.volume)
			}
		}
	}
}

// A shaft that is larger than its bore on purpose is no collision: within a stated fit it is pressed in, and with a
// thread in a hole of its core size screwed in. Anything beyond is one, and so is whatever else is shared.
func TestPressFitsAndThreads(t *testing.T) {
	b := bench{t: t}
	k, try := b.k, b.try
	z := solid.World.Z
	ring := func(outer, hole float64) solid.Shape {
		f := solid.Plane(z.Scale(-8), z)
		f.O = z.Scale(-8)
		loops := [][]solid.Segment{{{Kind: "circle", Radius: outer, Forward: true, Hi: 2 * math.Pi}}}
		if hole > 0 {
			loops = append(loops, []solid.Segment{{Kind: "circle", Radius: hole, Hi: 2 * math.Pi}})
		}
		return try(k.Prism(solid.Profile{Frame: f, Loops: loops}, z.Scale(16)))
	}
	for _, c := range []struct {
		name              string
		bore, shaft       float64 // radii
		fit, hole, thread string
		aside             solid.Vec
		kind              string
	}{
		// ISO 286-2, up to 18 mm: H7 is 0 to 18 µm, p6 is 18 to 29 µm; s6 is 28 to 39 µm.
		{"p6 at its largest in H7 at its least", 6, 6 + 0.0145, "H7/p6", "", "", solid.Vec{}, clash.PressFit},
		{"larger than p6", 6, 6 + 0.0170, "H7/p6", "", "", solid.Vec{}, clash.Collision},
		{"which s6 allows", 6, 6 + 0.0170, "H7/s6", "", "", solid.Vec{}, clash.PressFit},
		{"no fit stated", 6, 6 + 0.0145, "", "", "", solid.Vec{}, clash.Collision},
		{"a fit with play", 6, 6 + 0.0145, "H7/g6", "", "", solid.Vec{}, clash.Collision},
		// ISO 724: M12 with a pitch of 1.75 has a minor diameter of 10.106 mm; the drill is 10.25 (common practice).
		{"M12 in its core", 10.106 / 2, 6, "", "M12", "M12", solid.Vec{}, clash.Thread},
		{"M12 in the drilled hole", 10.25 / 2, 6, "", "", "M12", solid.Vec{}, clash.Thread},
		{"M12 in too small a hole", 9.9 / 2, 6, "", "", "M12", solid.Vec{}, clash.Collision},
		{"another thread in the hole", 10.25 / 2, 6, "", "M10", "M12", solid.Vec{}, clash.Collision},
		{"a plain shaft", 10.25 / 2, 6, "", "M12", "", solid.Vec{}, clash.Collision},
		{"beside its hole", 10.25 / 2, 6, "", "M12", "M12", solid.Vec{0.4, 0, 0}, clash.Collision},
	} {
		p, err := rigid.Of(oddPose())
		if err != nil {
			t.Fatal(err)
		}
		aside := p
		aside.Shift = aside.Shift.Add(p.Rotate(c.aside))
		plate, pin := b.made(ring(20, c.bore)), b.made(ring(c.shaft, 0))
		for i := range plate.Shape.Features {
			if f := &plate.Shape.Features[i]; f.Hollow {
				f.Thread = c.hole
			}
		}
		for i := range pin.Shape.Features {
			pin.Shape.Features[i].Thread = c.thread
		}
		l := clash.Looker{Kernel: k, Stated: map[[2]string]string{{"pin", "plate"}: c.fit}}
		got, err := l.All(ctx, []clash.Placed{{ID: "plate", Title: "plate", Pose: p, Shape: plate.Shape, Solid: plate.Solid},
			{ID: "pin", Title: "pin", Pose: aside, Shape: pin.Shape, Solid: pin.Solid}}, func(float64) {})
		if err != nil || len(got) != 1 || got[0].Kind != c.kind {
			t.Errorf("%s: %+v, %v, want %s", c.name, got, err, c.kind)
		}
	}
}
