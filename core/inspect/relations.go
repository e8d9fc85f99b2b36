package inspect

import (
	"fmt"
	"math"
	"sort"

	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// Amiss is the error of geometry that was found and is not as it must be for the measure
// to have a value: a face that should lie along a datum plane and is tilted.
type Amiss struct{ What string }

func (e *Amiss) Error() string { return e.What }

// related measures how operands lie to one another, beyond plain distances and angles.
func related(g *Geometry, c *exercise.Characteristic, p Place) (float64, error) {
	most := map[string][2]int{"cone-angle": {1, 1}, "pitch": {1, 1 << 20}, "datum": {1, 2}, "symmetric": {3, 4}}
	need, ok := most[c.Kind]
	if !ok {
		need = [2]int{2, 2}
	}
	if len(p) < need[0] || len(p) > need[1] {
		return 0, fmt.Errorf("%s is measured on %s", exercise.Kinds[c.Kind].Title, exercise.Kinds[c.Kind].On)
	}
	at := make([]place, len(p))
	for i := range p {
		at[i] = locus(g, p[i])
	}
	first := g.Faces[p[0][0]]
	last := g.Faces[p[len(p)-1][0]]
	switch c.Kind {
	case "cone-angle":
		if first.Kind != solid.ConeFace {
			return 0, fmt.Errorf("the face is %s, not a cone", first.Kind)
		}
		return 2 * math.Abs(first.HalfAngle), nil
	case "concentric":
		if at[0].kind == "plane" || at[1].kind == "plane" {
			return 0, fmt.Errorf("a flat face has no middle to be concentric to")
		}
		return distance(at[0], at[1])
	case "parallel", "perpendicular":
		return slant(at[0], at[1], c.Kind == "perpendicular")
	case "symmetric":
		return unsymmetric(at)
	case "datum":
		return fromDatum(at, c.Datum)
	case "depth":
		return depth(g, at[0], last)
	case "wall":
		return wall(at[0], at[1], first, last)
	case "slot-length":
		d, err := distance(at[0], at[1])
		if err != nil || !round(first) || !round(last) {
			return 0, fmt.Errorf("the ends of the slot are not two parallel rounds")
		}
		return d + first.Radius + last.Radius, nil
	case "key-depth":
		d, err := distance(at[0], at[1])
		if err != nil || first.Kind != solid.PlaneFace || !round(last) {
			return 0, fmt.Errorf("the floor of the keyway is not a flat face along the axis")
		}
		return math.Abs(last.Radius - d), nil
	case "pitch":
		return pitch(g, p)
	}
	return 0, fmt.Errorf("%q cannot be measured", c.Kind)
}

func round(f solid.Face) bool { return f.Kind == solid.CylinderFace }

// slant is the angle by which two directions miss being parallel, or perpendicular; a flat
// face counts by itself and not by its normal.
func slant(a, b place, square bool) (float64, error) {
	if a.kind == "point" || b.kind == "point" {
		return 0, fmt.Errorf("one of the two has no direction")
	}
	t := a.dir.Angle(b.dir)
	t = math.Min(t, math.Pi-t)
	if (a.kind == "plane") != (b.kind == "plane") {
		t = math.Pi/2 - t
	}
	if square {
		t = math.Pi/2 - t
	}
	return t, nil
}

// unsymmetric is how far the middle between the first two places is from the middle
// between the others, or from the third where there is one.
func unsymmetric(at []place) (float64, error) {
	n := at[0].dir
	if at[0].kind != "plane" {
		d := at[1].at.Sub(at[0].at)
		if at[0].kind == "line" {
			d = d.Sub(n.Scale(d.Dot(n)))
		}
		if d.Norm() < 1e-9 {
			return 0, fmt.Errorf("the two places are one")
		}
		n = d.Unit()
	}
	for _, p := range at {
		if p.kind == "plane" && !p.dir.Parallel(n, square) || p.kind == "line" && math.Abs(p.dir.Dot(n)) > square {
			return 0, fmt.Errorf("the faces are not parallel, so that they have no common middle")
		}
	}
	mid := func(list []place) float64 {
		sum := 0.0
		for _, p := range list {
			sum += p.at.Dot(n) / float64(len(list))
		}
		return sum
	}
	return math.Abs(mid(at[:2]) - mid(at[2:])), nil
}

// fromDatum is the distance of a place, or of the middle of two, from a datum plane of the
// model's own axes.
func fromDatum(at []place, datum string) (float64, error) {
	n := map[string]solid.Vec{"XY": {0, 0, 1}, "YZ": {1, 0, 0}, "XZ": {0, 1, 0}}[datum]
	if n == (solid.Vec{}) {
		return 0, fmt.Errorf("%q is not a datum plane: use XY, YZ or XZ", datum)
	}
	sum := 0.0
	for _, p := range at {
		if p.kind == "plane" && !p.dir.Parallel(n, square) || p.kind == "line" && math.Abs(p.dir.Dot(n)) > square {
			return 0, &Amiss{"it does not lie along the " + datum + " plane"}
		}
		sum += p.at.Dot(n) / float64(len(at))
	}
	return math.Abs(sum), nil
}

// depth is how far a round face reaches down from a flat one, to the end of the round face
// itself: a drill's point below does not count.
func depth(g *Geometry, from place, f solid.Face) (float64, error) {
	if from.kind != "plane" || f.Kind == solid.PlaneFace || !from.dir.Parallel(f.Axis, square) {
		return 0, fmt.Errorf("the round face does not stand square on the flat one")
	}
	far := 0.0
	for _, i := range f.Edges {
		if e := g.Edges[i]; !e.Seam {
			for _, q := range []solid.Vec{e.A, e.B, e.Mid} {
				far = math.Max(far, math.Abs(q.Sub(from.at).Dot(from.dir)))
			}
		}
	}
	return far, nil
}

// wall is the least thickness between two faces of a kind that a wall has: flat and
// parallel, or round about axes that are parallel, or one of each.
func wall(a, b place, f, h solid.Face) (float64, error) {
	d, err := distance(a, b)
	switch {
	case err != nil:
		return 0, err
	case a.kind == "plane" && b.kind == "plane":
		return d, nil
	case round(f) && round(h) && d < math.Max(f.Radius, h.Radius):
		return math.Abs(f.Radius-h.Radius) - d, nil // one within the other
	case round(f) && round(h):
		return d - f.Radius - h.Radius, nil
	case round(f) && b.kind == "plane":
		return d - f.Radius, nil
	case round(h) && a.kind == "plane":
		return d - h.Radius, nil
	}
	return 0, fmt.Errorf("a wall is measured between flat faces and cylinders")
}

// pitch is the distance between neighbours of a row; the one farthest from the mean
// counts.
func pitch(g *Geometry, p Place) (float64, error) {
	list := p.Faces()
	if len(list) < 2 {
		return 0, fmt.Errorf("a row has two or more places")
	}
	axis := g.Faces[list[0]]
	var at []solid.Vec
	for _, i := range list {
		f := g.Faces[i]
		if f.Kind != axis.Kind || !f.Axis.Parallel(axis.Axis, square) {
			return 0, fmt.Errorf("the places of the row are not alike")
		}
		q := f.Origin
		if f.Kind == solid.PlaneFace {
			q = f.Centroid
		} else if f.Kind != solid.SphereFace {
			q = solid.FromAxis(f.Origin, axis.Origin, axis.Axis)
		}
		at = append(at, q)
	}
	// Along the line through the two that are farthest apart.
	var along solid.Vec
	for i := range at {
		for k := range i {
			if d := at[i].Sub(at[k]); d.Norm() > along.Norm() {
				along = d
			}
		}
	}
	sort.Slice(at, func(i, k int) bool { return at[i].Dot(along) < at[k].Dot(along) })
	var gaps []float64
	for i := 1; i < len(at); i++ {
		gaps = append(gaps, at[i].Distance(at[i-1]))
	}
	return farthest(gaps), nil
}

// Thread is a cosmetic thread on a round face of a model.
type Thread struct {
	At, Axis solid.Vec
	Radius   float64
	Text     string
}

// ThreadOn gives the thread on a face; ok is false where there is none.
func (g *Geometry) ThreadOn(face int) (text string, ok bool) {
	f := g.Faces[face]
	for _, t := range g.Threads {
		if f.Kind == solid.CylinderFace && math.Abs(t.Radius-f.Radius) < 1e-6 && t.Axis.Parallel(f.Axis, square) && solid.FromAxis(t.At, f.Origin, f.Axis).Norm() < 1e-4+f.Radius {
			return t.Text, true
		}
	}
	return "", false
}

// Unplaced tells whether a kind's value depends on where the model lies in its own axes,
// or is no measure of its shape: such values say nothing of sizes.
func Unplaced(kind string) bool {
	k := exercise.Kinds[kind]
	return k.Whole() || k.Text || kind == "datum"
}
