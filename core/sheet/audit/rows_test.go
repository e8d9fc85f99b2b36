package audit

import (
	"math"
	"testing"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// block is two pairs of flat faces, a bottom and a top, and six bores, without edges, turned and shifted.
func block() *solid.Geometry {
	g := &solid.Geometry{Box: solid.Box{Max: solid.Vec{60, 40, 10}}}
	flat := func(at, normal solid.Vec) {
		g.Faces = append(g.Faces, solid.Face{Kind: solid.PlaneFace, Centroid: at, Origin: at, Normal: normal, Area: 100})
	}
	flat(solid.Vec{0, 20, 5}, solid.Vec{-1, 0, 0})
	flat(solid.Vec{60, 20, 5}, solid.Vec{1, 0, 0})
	flat(solid.Vec{30, 0, 5}, solid.Vec{0, -1, 0})
	flat(solid.Vec{30, 40, 5}, solid.Vec{0, 1, 0})
	flat(solid.Vec{30, 20, 0}, solid.Vec{0, 0, -1})
	flat(solid.Vec{30, 20, 10}, solid.Vec{0, 0, 1})
	for _, at := range []solid.Vec{{30, 20, 0}, {30, 32, 1}, {30 + 12*math.Sqrt(3)/2, 14, 2}, {30 - 12*math.Sqrt(3)/2,
		14, 3},
		{15, 31, 4}, {45, 31, 5}} {
		g.Faces = append(g.Faces, solid.Face{Kind: solid.CylinderFace, Origin: at, Centroid: at, Axis: solid.Vec{0, 0, 1},
			Radius: 2, Area: 50, Span: 2 * math.Pi})
	}
	for range g.Faces {
		g.Names = append(g.Names, nil)
	}
	return g.Moved(solid.Rotation(solid.Vec{3, -8, 1}, solid.Vec{1, 2, 3}.Unit(), 0.7))
}

// No row sees a motion of the whole, whatever it is read from: it says nothing of the part.
func TestRowsDoNotSeeTheWholeMove(t *testing.T) {
	u := newUnknowns(block())
	rows := map[string][][]float64{}
	put := func(name string, list []drawn) {
		for _, d := range list {
			rows[name] = append(rows[name], d.row)
		}
	}
	put("directions", u.directions())
	for name, faces := range map[string][]int{"bores in planes": {10, 11, 0, 1},
		"planes about bores": {0, 1, 10, 11}, "bores about bores": {10, 11, 8, 9}, "bores about a bore": {10, 11, 6},
		"planes about a bore": {0, 1, 7}} {
		rows[name] = [][]float64{u.middleRow(faces)}
	}
	ring := characteristic.Place{{6}, {7, 8, 9}}
	rows["gaps"] = u.gapRows(ring)
	for _, k := range characteristic.All() {
		if k.Ring {
			put("evenly spaced", u.evenly(k, []characteristic.Place{ring}))
		}
		for _, p := range []characteristic.Place{{{0}, {1}}, {{10}, {0}}, {{10}, {11}}, {{7}}} {
			if k.Measure == nil || k.Zero() || k.Datum || k.Around {
				continue
			}
			if row, err := u.measured(k, p, characteristic.How{}); err == nil && norm(row) > nothing {
				rows[k.Name] = append(rows[k.Name], row)
			}
		}
	}
	for name, list := range rows {
		for _, r := range list {
			for k, whole := range u.rigid() {
				if x := dot(r, whole); math.Abs(x) > 1e-6*norm(whole)*math.Max(norm(r), nothing) {
					t.Errorf("a row of %s sees motion %d of the whole: %g", name, k, x)
				}
			}
		}
	}
	if len(rows["directions"]) == 0 || len(rows["gaps"]) != 2 || len(rows["evenly spaced"]) == 0 ||
		len(rows["distance"]) < 3 {
		t.Errorf("there are too few rows: %d", len(rows))
	}
}

// A part with very many surfaces is not kept anyone waiting for, and what is of free form says nothing and breaks
// nothing.
func TestWhatCannotBeJudged(t *testing.T) {
	g := block()
	for i := range g.Faces[7:10] {
		g.Faces[7+i].Kind = solid.OtherFace
	}
	u := newUnknowns(g)
	ring := characteristic.Place{{6}, {7, 8, 9}}
	if list := u.gapRows(ring); len(list) != 2 || len(u.shapeless) != 3 {
		t.Errorf("%d rows, of %d faces of free form", len(list), len(u.shapeless))
	}
	for _, k := range characteristic.All() {
		if list := u.evenly(k, []characteristic.Place{ring}); len(list) > 0 {
			t.Errorf("faces of free form are read to be evenly spaced by a %s", k.Title)
		}
	}
	for i := range Most {
		f := g.Faces[6]
		f.Origin = f.Origin.Add(solid.Vec{0, 0, float64(i + 1)})
		f.Centroid, f.Radius = f.Origin, 3+float64(i)
		g.Faces, g.Names = append(g.Faces, f), append(g.Names, nil)
	}
	r, err := Of(g, &exercise.Exercise{Unit: "mm"})
	if err != nil || r.TooMany <= Most || r.Clean() || len(r.Missing) > 0 {
		t.Errorf("%d surfaces: %v %+v", len(g.Faces), err, r)
	}
}

// A part that is all of free form cannot be judged, and nothing is said to be stated or missing of it.
func TestAllOfFreeForm(t *testing.T) {
	g := &solid.Geometry{Box: solid.Box{Max: solid.Vec{10, 10, 10}},
		Faces: []solid.Face{{Kind: solid.OtherFace, Edges: []int{0}}, {Kind: solid.OtherFace, Edges: []int{0}}},
		Edges: []solid.Edge{{Kind: solid.OtherEdge, Faces: []int{0, 1}}}, Names: make([][]string, 2)}
	r, err := Of(g, &exercise.Exercise{})
	if err != nil || len(r.Unjudged) != 2 || r.Clean() || r.Sizes != 0 || len(r.Missing) != 0 {
		t.Errorf("%+v, %v", r, err)
	}
}
