package modeller

import (
	"testing"

	"hammerset/core/part"
)

// A sketch plane is named as people call it.
func TestPlanesOfSketches(t *testing.T) {
	doc := &part.Document{Unit: "mm", Steps: []part.Step{
		{ID: "e1", Kind: "extrude", Name: "base", Do: &part.Extrude{}},
		{ID: "h1", Kind: "hole", Do: &part.Hole{}},
	}}
	for want, p := range map[string]*part.PlaneRef{
		"XY": {Datum: "XY"}, "XZ, moved by 3 mm": {Datum: "XZ", Offset: "3 mm"}, "the end of base": {Face: "e1/end"},
		"a side of base": {Face: "e1/side:l1"}, "hole 1": {Step: "h1"},
	} {
		if got := plane(doc, p); got != want {
			t.Errorf("%+v is called %q, not %q", p, got, want)
		}
	}
}
