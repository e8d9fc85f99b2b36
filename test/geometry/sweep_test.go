package geometry

import (
	"math"
	"testing"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// A fin of 0.2 mm is passed by a block of 0.2 mm in a small part of one step, and the place is found to a thousandth of
// the way, forwards and backwards; a block that misses it by 0.1 mm passes freely; one that grazes it is not proved to.
func TestAFinIsNotPassedUnseen(t *testing.T) {
	b := bench{t: t}
	for _, c := range []struct {
		name     string
		low      float64 // of the moving block, the fin ends at z = 5
		from, to float64
		kind     string
	}{
		{"through the fin", 2, 0, 100, clash.Collision},
		{"and back", 2, 100, 0, clash.Collision},
		{"over the fin", 5.1, 0, 100, ""},
		{"grazing it", 5, 0, 100, clash.Ask},
	} {
		fin, block := b.made(b.block(solid.Vec{50.03, -5, 0}, solid.Vec{50.23, 5, 5})), b.made(b.block(solid.Vec{0, -1,
			c.low},
			solid.Vec{0.2, 1, c.low + 2}))
		shapes := map[string]*assembly.Shape{"fin": fin.Shape, "block": block.Shape}
		for _, s := range shapes {
			s.Features = append(s.Features, assembly.Feature{Name: "way", Form: assembly.Line, Axis: solid.World.X,
				Words: "a way"})
		}
		d := &assembly.Document{Hammerset: assembly.Version, Name: "fin", Unit: "mm", Parts: []assembly.Part{{ID: "fin"},
			{ID: "block"}},
			Components: []assembly.Component{{ID: "c1", Part: "fin", Pinned: true, Pose: rigid.Still()},
				{ID: "c2", Part: "block", Pose: rigid.Still()}},
			Joints: []assembly.Joint{{ID: "j1", Kind: "prismatic", A: address.Ref{Component: "c2", Name: "way"},
				B: address.Ref{Component: "c1", Name: "way"}}}}
		m, err := assembly.New(d, shapes, nil)
		if err != nil {
			t.Fatal(err)
		}
		m.Solve()
		found, ended, err := clash.Sweep(ctx, m, "j1", c.from, c.to, func(float64) {})
		if err != nil || ended != c.to {
			t.Fatal(ended, err)
		}
		if c.kind == "" {
			if len(found) > 0 {
				t.Errorf("%s: %+v", c.name, found)
			}
			continue
		}
		// The block's 0.2 mm meet the fin from 49.83 to 50.23.
		if len(found) != 1 || found[0].Kind != c.kind || math.Abs(found[0].From-49.83) > 0.2 ||
			math.Abs(found[0].To-50.23) > 0.2 {
			t.Errorf("%s: %+v", c.name, found)
		}
	}
}

// Driven all the way round, the eye of the tackle joint goes through the back of its fork over one interval, whose ends
// are those at which the kernel begins to see a collision; nothing else collides, touching as it is.
func TestTheEyeGoesThroughItsFork(t *testing.T) {
	s := tackle(t)
	m, err := s.Mechanism()
	if err != nil {
		t.Fatal(err)
	}
	found, _, err := clash.Sweep(ctx, m, "j2", 0, 2*math.Pi, func(float64) {})
	if err != nil || len(found) != 1 || found[0].Kind != clash.Collision || found[0].A != "c1" || found[0].B != "c2" {
		t.Fatalf("%+v, %v", found, err)
	}
	d, err := m.Drive("j2")
	if err != nil {
		t.Fatal(err)
	}
	const near = 0.02 // radians: a few thousandths of the way, and what facets leave open
	for _, c := range []struct {
		at       float64
		collides bool
	}{{found[0].From - near, false}, {found[0].From + near, true}, {found[0].To - near, true}, {found[0].To + near,
		false}} {
		d.To(c.at, nil)
		if got := collides(t, m, "c1", "c2"); got != c.collides {
			t.Errorf("at %g of %g to %g the kernel says that it collides: %v", c.at, found[0].From, found[0].To, got)
		}
	}
}

// collides asks the kernel.
func collides(t *testing.T, m *assembly.Mechanism, a, b string) bool {
	t.Helper()
	var list []clash.Placed
	for _, id := range []string{a, b} {
		c, _ := m.Document.Component(id)
		made := tackleSolids(t)[c.Part]
		list = append(list, clash.Placed{ID: id, Title: id, Pose: m.Pose(id), Shape: made.Shape, Solid: made.Solid})
	}
	l := clash.Looker{Kernel: occ.Kernel{}}
	pairs, err := l.All(ctx, list, func(float64) {})
	if err != nil {
		t.Fatal(err)
	}
	return len(pairs) == 1 && pairs[0].Kind == clash.Collision
}
