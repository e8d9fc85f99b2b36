package characteristic

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// concentric is how far two round faces miss having one axis, or one centre.
func concentric() *Kind {
	return between(Kind{
		Name: "concentric", Title: "concentric", On: "two round faces", Dim: quantity.Length, State: None,
		Print: title("concentric"), Holds: Axes, Symbol: Coaxiality,
	}, func(_ *solid.Geometry, a, b solid.Locus, _, _ solid.Face, _ How) (float64, error) {
		if a.Kind == solid.PlaneLocus || b.Kind == solid.PlaneLocus {
			return 0, fmt.Errorf("a flat face has no middle to be concentric to")
		}
		return apart(a, b)
	})
}

// parallel is by how much two directions miss being parallel; a flat face counts by itself and
// not by its normal.
func parallel() *Kind {
	return between(Kind{
		Name: "parallel", Title: "parallel", On: "two faces or axes", Dim: quantity.Angle, State: None,
		Print: title("parallel"), Holds: Directions, Symbol: Parallelism, Leg: longestReach,
	}, func(_ *solid.Geometry, a, b solid.Locus, _, _ solid.Face, _ How) (float64, error) { return slant(a, b) })
}

// perpendicular is by how much two directions miss being square.
func perpendicular() *Kind {
	return between(Kind{
		Name: "perpendicular", Title: "perpendicular", On: "two faces or axes", Dim: quantity.Angle, State: None,
		Print: title("perpendicular"), Holds: Directions, Symbol: Perpendicularity, Leg: longestReach,
	}, func(_ *solid.Geometry, a, b solid.Locus, _, _ solid.Face, _ How) (float64, error) {
		t, err := slant(a, b)
		return math.Pi/2 - t, err
	})
}

// longestReach is how long the first face of a place is, in mm: along its axis, or the longer way across it.
func longestReach(g *solid.Geometry, p Place) float64 {
	f := g.Faces[p[0][0]]
	if f.Kind != solid.PlaneFace {
		return span(g, p[0][0], f.Axis)
	}
	most := 0.0
	for _, e := range f.Edges {
		for _, o := range f.Edges {
			most = math.Max(most, g.Edges[e].A.Distance(g.Edges[o].B))
		}
	}
	return most
}

// slant is the angle of two directions, a right angle at most.
func slant(a, b solid.Locus) (float64, error) {
	if a.Kind == solid.PointLocus || b.Kind == solid.PointLocus {
		return 0, fmt.Errorf("one of the two has no direction")
	}
	t := a.Dir.Angle(b.Dir)
	t = math.Min(t, math.Pi-t)
	if (a.Kind == solid.PlaneLocus) != (b.Kind == solid.PlaneLocus) {
		t = math.Pi/2 - t
	}
	return t, nil
}

// symmetric is how far the middle between the first two places is from the middle between the
// others, or from the third where there is one.
func symmetric() *Kind {
	k := &Kind{
		Name: "symmetric", Title: "symmetric", On: "two faces, and the two that they are symmetric to",
		Dim: quantity.Length, State: None,
		Print: title("symmetric"), Holds: Middles, Symbol: Symmetry,
	}
	k.Measure = func(g *solid.Geometry, p Place, _ How) (float64, error) {
		if len(p) < 3 || len(p) > 4 {
			return 0, fmt.Errorf("%s is measured on %s", k.Title, k.On)
		}
		return unsymmetric(located(g, p))
	}
	return k
}

// unsymmetric is how far the middle of the first two places is from the middle
// of the others, along the direction in which the first two are apart: their
// common normal, or the line between their axes or centres. The places are
// averaged along that direction alone, so that it does not count how long
// anything is across it.
func unsymmetric(at []solid.Locus) (float64, error) {
	n := at[0].Dir
	if at[0].Kind != solid.PlaneLocus {
		d := at[1].At.Sub(at[0].At)
		if at[0].Kind == solid.LineLocus {
			d = d.Sub(n.Scale(d.Dot(n)))
		}
		if d.Norm() < 1e-9 {
			return 0, fmt.Errorf("the two places are one")
		}
		n = d.Unit()
	}
	for _, p := range at {
		if p.Kind == solid.PlaneLocus && !p.Dir.Parallel(n, square) || p.Kind == solid.LineLocus &&
			math.Abs(p.Dir.Dot(n)) > square {
			return 0, fmt.Errorf("the faces are not parallel, so that they have no common middle")
		}
	}
	middle := func(list []solid.Locus) float64 {
		sum := 0.0
		for _, p := range list {
			sum += p.At.Dot(n) / float64(len(list))
		}
		return sum
	}
	return math.Abs(middle(at[:2]) - middle(at[2:])), nil
}

// title prints the name of what is asked for, which has no number.
func title(t string) func(Stated, How) string { return func(Stated, How) string { return t } }
