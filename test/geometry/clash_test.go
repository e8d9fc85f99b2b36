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
				loops = append(loops, []solid.Segment{{Kind: "circle", Radius: h, Forward: true, Hi: 2 * math.Pi}})
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
		{"a face on a face", plate, round(5)(solid.Vec{}, z.Scale(9)), clash.Contact, 0, 1},
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
