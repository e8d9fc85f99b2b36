package characteristic

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// boltCircle is the diameter of the circle that holes stand on; the one farthest from the mean
// counts.
func boltCircle() *Kind {
	k := around(Kind{
		Name: "bolt-circle", Title: "bolt circle", On: "the middle, and the holes around it", Dim: quantity.Length,
		Print: func(s Stated, _ How) string { return "⌀" + s.Text },
		Line:  AcrossRing, Ring: true, EndOn: true, Arranged: AtLeader,
		Slips: roundSlips(),
		Proposed: func(g *solid.Geometry, p Place) bool {
			if len(p) < 4 || !round(g.Faces[p[0][0]]) {
				return false
			}
			first := g.Faces[p[1][0]]
			return !slices.ContainsFunc(p[1:].Faces(), func(i int) bool {
				f := g.Faces[i]
				return f.Kind != solid.CylinderFace || !f.Hollow || math.Abs(f.Radius-first.Radius) > square ||
					!f.Axis.Parallel(first.Axis, square)
			})
		},
	}, 1)
	k.Measure = func(g *solid.Geometry, p Place, _ How) (float64, error) {
		arms, err := armsOf(g, p, p[1:])
		if err != nil {
			return 0, err
		}
		var radii []float64
		for _, v := range arms {
			radii = append(radii, v.Norm())
		}
		return 2 * farthest(radii), nil
	}
	return k
}

// armOf is how far the last of the holes around a middle is from its axis.
func armOf(g *solid.Geometry, p Place) float64 {
	arms, err := armsOf(g, p, p[len(p)-1:])
	if err != nil || len(arms) == 0 {
		return 0
	}
	return arms[0].Norm()
}

// spacing is the angle between neighbours of the holes around a middle; the one farthest from
// the mean counts.
func spacing() *Kind {
	k := around(Kind{
		Name: "spacing", Title: "angle between neighbours", On: "the middle, and the holes around it", Dim: quantity.Angle,
		InNote:   func(text string) string { return text + " apart" },
		Arranged: AtFeature, Leg: armOf,
	}, 1)
	k.Measure = func(g *solid.Geometry, p Place, _ How) (float64, error) {
		arms, err := armsOf(g, p, p[1:])
		if err != nil {
			return 0, err
		}
		axis := g.Faces[p[0][0]].Axis
		x := axis.Perpendicular()
		y := axis.Cross(x)
		var angles, gaps []float64
		for _, v := range arms {
			angles = append(angles, math.Atan2(v.Dot(y), v.Dot(x)))
		}
		sort.Float64s(angles)
		for i := range angles {
			d := angles[(i+1)%len(angles)] - angles[i]
			if d <= 0 {
				d += 2 * math.Pi
			}
			gaps = append(gaps, d)
		}
		return farthest(gaps), nil
	}
	return k
}

// startAngle is the angle of the first hole from the line through the middle that runs along a
// flat face.
func startAngle() *Kind {
	k := around(Kind{
		Name: "start-angle", Title: "angle of the first", On: "the middle, a flat face to start from, and the holes",
		Dim:      quantity.Angle,
		Print:    func(s Stated, _ How) string { return "first at " + s.Text },
		Arranged: AtFeature, Leg: armOf,
	}, 2)
	k.Measure = func(g *solid.Geometry, p Place, _ How) (float64, error) {
		if len(p) < 3 || g.Faces[p[1][0]].Kind != solid.PlaneFace {
			return 0, fmt.Errorf("the angle of the first hole needs the middle, a flat face to start from, and the holes")
		}
		arms, err := armsOf(g, p, p[2:])
		if err != nil {
			return 0, err
		}
		first, n := math.Inf(1), g.Faces[p[1][0]].Normal
		for _, v := range arms {
			first = math.Min(first, math.Asin(math.Min(1, math.Abs(v.Unit().Dot(n)))))
		}
		return first, nil
	}
	return k
}

// around makes a kind of holes around a middle, which are the operands from a number on.
func around(k Kind, from int) *Kind {
	k.Scope, k.Around, k.Surplus = Together, true, true
	k.Repeated = func(p Place) []int { return p[from:].Faces() }
	return &k
}

// armsOf gives the ways from the middle axis, the first operand, to the axes of the holes.
func armsOf(g *solid.Geometry, p Place, holes Place) ([]solid.Vec, error) {
	if len(p) < 2 {
		return nil, fmt.Errorf("a bolt circle needs an axis and the holes around it")
	}
	axis := g.Faces[p[0][0]]
	if axis.Kind == solid.PlaneFace {
		return nil, fmt.Errorf("the middle of the bolt circle is not round")
	}
	var out []solid.Vec
	for _, h := range holes.Faces() {
		f := g.Faces[h]
		if !f.Axis.Parallel(axis.Axis, square) {
			return nil, fmt.Errorf("a hole is not parallel to the middle axis")
		}
		out = append(out, solid.FromAxis(f.Origin, axis.Origin, axis.Axis))
	}
	return out, nil
}
