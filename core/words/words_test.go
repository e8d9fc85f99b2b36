package words

import (
	"slices"
	"testing"

	"hammerset/core/solid"
)

func flat(x, y, z float64) solid.Face {
	return solid.Face{Kind: solid.PlaneFace, Normal: solid.Vec{x, y, z}.Unit()}
}

var titles = map[string]string{"e1": "base", "e2": "extrude e2", "h1": "bolt holes", "f1": "soft corners",
	"m1": "other half", "r1": "ring"}

// Faces are called by what they are and by the step that makes them; a name is never shown.
func TestFacesAreCalledByWhatTheyAre(t *testing.T) {
	bore := solid.Face{Kind: solid.CylinderFace, Radius: 4, Hollow: true}
	boss := solid.Face{Kind: solid.CylinderFace, Radius: 4}
	n := NewNamer(titles, "mm")
	for _, c := range []struct {
		name string
		face solid.Face
		want string
	}{
		{"e1/end", flat(0, 0, 1), "top of base"},
		{"e1/start", flat(0, 0, -1), "underside of base"},
		{"e1/end", flat(1, 0, 1), "end of base"},
		{"e1/side:l1", flat(0, -1, 0), "front of base"},
		{"e1/side:l2", flat(1, 0, 0), "right side of base"},
		{"e1/side:l3", flat(1, 1, 0), "back right side of base"},
		{"e1/side:l3", flat(0.602, -0.798, 0), "front right side of base"}, // turned by 37 degrees
		{"e1/side:l3", flat(-1, 0, 1), "slanting left side of base"},
		{"e1/side:l3", flat(0.1, 0, -1), "slanting side of base"},
		{"e2/side:c0", boss, "round side of extrude e2"},
		{"e2/side:c0", bore, "bore of extrude e2"},
		{"h1.p3/bore", bore, "bore of bolt holes"},
		{"h1.2/sink", solid.Face{Kind: solid.ConeFace}, "countersink of bolt holes"},
		{"f1/round(e1/side:l1|e1/side:l2)", boss, "round of soft corners"},
		{"m1:h1.p3/bore", bore, "bore of bolt holes, copied by other half"},
		{"r1.3:h1.p3/bore", bore, "bore of bolt holes, place 3 of ring"},
		{"e1/end@e2", flat(0, 0, 1), "top of base"},
		{"i9/face:7", flat(0, 0, 1), "face 7 of i9"},
		{"face:7", bore, "bore"},
		{"", flat(0, 1, 0), "flat face"},
		{"e1/side:l1", solid.Face{}, "side of base"}, // gone
		{"h1.*/bore", bore, "every bore of bolt holes"},
		{"e1/side:*", flat(1, 1, 0), "every side of base"},
	} {
		if got := n.Face(c.name, c.face); got != c.want {
			t.Errorf("%s is called %q, not %q", c.name, got, c.want)
		}
	}
	got := n.Faces([]string{"h1.p1/bore", "e1/end", "h1.p2/bore"}, []solid.Face{bore, flat(0, 0, 1), bore})
	want := []string{"bore of bolt holes, diameter 8 mm (1)", "top of base", "bore of bolt holes, diameter 8 mm (2)"}
	if !slices.Equal(got, want) {
		t.Errorf("they are called %q, not %q", got, want)
	}
	edge := solid.Edge{Kind: solid.LineEdge, Length: 25.4}
	if got := NewNamer(nil, "in").Edge(edge, "top of base", "front of base"); got !=
		"straight edge, 1 in, between the top of base and the front of base" {
		t.Errorf("an edge is called %q", got)
	}
}
