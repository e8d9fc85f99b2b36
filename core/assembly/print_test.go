package assembly

import (
	"testing"

	"hammerset/core/address"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// A joint to a face of a STEP part is found again in a file that was written anew: under another number, a little
// larger, elsewhere by a little. Where the face is gone, or where two others could be meant, the joint is lost; it
// never goes to the face that has its number now.
func TestFacesOfChangedFilesAreFoundAgain(t *testing.T) {
	z := solid.Vec{0, 0, 1}
	plate := func(wide float64, holes ...Feature) *Shape {
		s := &Shape{Box: solid.Box{Max: solid.Vec{wide, 40, 10}}, Unit: "mm"}
		for i, h := range holes {
			h.Name = address.Numbered(address.Face, i).Name
			s.Features = append(s.Features, h)
		}
		return s
	}
	hole := func(x, y, r float64) Feature {
		return Feature{Form: Cylinder, Hollow: true, At: solid.Vec{x, y, 5}, Axis: z, Radius: r, Length: 10, Words: "hole"}
	}
	top := Feature{Form: Plane, At: solid.Vec{50, 20, 10}, Axis: z, Words: "top"}
	first := plate(100, hole(20, 20, 5), hole(80, 20, 5), top)
	pin := plate(10, Feature{Form: Cylinder, At: solid.Vec{5, 5, 5}, Axis: z, Radius: 5, Length: 30, Words: "pin"})
	d := &Document{Hammerset: Version, Name: "x", Unit: "mm", Parts: []Part{{ID: "p1"}, {ID: "p2"}},
		Components: []Component{{ID: "c1", Part: "p1", Pinned: true, Pose: rigid.Still()}, {ID: "c2", Part: "p2",
			Pose: rigid.Still()}},
		Joints: []Joint{{ID: "j1", Kind: "cylindrical", A: address.Ref{Component: "c2", Name: "face:0"},
			B: address.Ref{Component: "c1", Name: "face:1"}}}}
	mechanism := func(d *Document, s *Shape) *Mechanism {
		t.Helper()
		m, err := New(d, map[string]*Shape{"p1": s, "p2": pin}, nil)
		if err != nil {
			t.Fatal(err)
		}
		return m
	}
	d = mechanism(d, first).Bound(d)
	if len(d.Prints) != 2 || d.Prints["c1#face:1"].Place != (solid.Vec{0.8, 0.5, 0.5}) {
		t.Fatalf("the prints are %v", d.Prints)
	}
	for name, x := range map[string]struct {
		s    *Shape
		want string
	}{
		"the same":                     {first, "face:1"},
		"other numbers":                {plate(100, top, hole(80, 20, 5), hole(20, 20, 5)), "face:1"},
		"the other one has its number": {plate(100, hole(80, 20, 5), hole(20, 20, 5), top), "face:0"},
		"wider, and a larger hole":     {plate(120, top, hole(20, 20, 5), hole(100, 20, 5.5)), "face:2"},
		"the hole is gone":             {plate(100, hole(20, 20, 5), top), ""},
		"a shaft in its place": {plate(100, hole(20, 20, 5), Feature{Form: Cylinder, At: solid.Vec{80, 20, 5},
			Axis: z, Radius: 5}), ""},
		"two where it was, as near as it": {plate(100, hole(78, 20, 5), hole(82, 20, 5)), ""},
	} {
		m := mechanism(d, x.s)
		lost := len(m.Lost()) > 0
		if lost != (x.want == "") {
			t.Errorf("%s: lost %v", name, m.Lost())
			continue
		}
		now := m.Bound(d)
		if _, kept := now.Prints["c1#face:1"]; lost && !kept {
			t.Errorf("%s: what was lost cannot be found again once it is back", name)
		}
		if got := now.Joints[0].B.Name; !lost && got != x.want {
			t.Errorf("%s: %s", name, got)
		}
	}
}
