package characteristic

import (
	"fmt"
	"math"
	"strconv"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// taper is the rate of a cone (ISO 3040): the difference of two of its diameters over their distance, C = 2 tan(α/2),
// stated as 1:n behind the symbol of the conical taper. Its value is the angle α.
func taper() *Kind {
	cone := coneAngle()
	return &Kind{
		Name: "taper", Title: "taper of a cone", On: "cones", Dim: quantity.Angle, Scope: EachFace,
		Measure: cone.Measure, Leg: cone.Leg, Arranged: AtLeader,
		Stated: func(v float64) Stated { return ratio(taperOf(v), coneOf) },
		Shown:  func(v float64) string { return oneTo(taperOf(v), 2) },
		Print:  func(s Stated, _ How) string { return "⌲" + s.Text },
	}
}

// slope is the rate at which one flat face falls against another one, tan α, stated as 1:n behind the symbol of the
// slope (ISO 129-1). Its value is the angle α.
func slope() *Kind {
	return between(Kind{
		Name: "slope", Title: "slope", On: "a slanting flat face and the one that it falls against", Dim: quantity.Angle,
		Leg: shorterLeg, Arranged: AtLeader,
		Stated: func(v float64) Stated { return ratio(1/math.Tan(v), slopeOf) },
		Shown:  func(v float64) string { return oneTo(1/math.Tan(v), 2) },
		Print:  func(s Stated, _ How) string { return "⌳" + s.Text },
	}, func(_ *solid.Geometry, _, _ solid.Locus, a, b solid.Face, _ How) (float64, error) {
		if a.Kind != solid.PlaneFace || b.Kind != solid.PlaneFace {
			return 0, fmt.Errorf("a slope is that of two flat faces")
		}
		v := a.Normal.Angle(b.Normal)
		v = math.Min(v, math.Pi-v)
		if v < square || v > math.Pi/2-square {
			return 0, fmt.Errorf("the faces are parallel or square: nothing slopes")
		}
		return v, nil
	})
}

// coneOf and slopeOf give the angle of a rate 1:n; taperOf is the n of a cone.
func coneOf(n float64) float64  { return 2 * math.Atan(1/(2*n)) }
func slopeOf(n float64) float64 { return math.Atan(1 / n) }
func taperOf(v float64) float64 { return 1 / (2 * math.Tan(v/2)) }

// ratio states 1:n, of which an angle follows. A whole n is exact; any other is rounded to its first decimal.
func ratio(n float64, angle func(n float64) float64) Stated {
	if whole := math.Round(n); whole >= 1 && math.Abs(n-whole) < 1e-5*n {
		return Stated{Text: oneTo(whole, 0), Value: angle(whole)}
	}
	rounded := math.Round(10*n) / 10
	return Stated{Text: oneTo(rounded, 1), Value: angle(rounded), Half: angle(rounded-0.05) - angle(rounded)}
}

// oneTo writes 1:n with so many decimals at most.
func oneTo(n float64, decimals int) string {
	p := math.Pow(10, float64(decimals))
	return "1:" + strconv.FormatFloat(math.Round(n*p)/p, 'f', -1, 64)
}

// arcLength is how long an arc of a rounded face is, along its edge; stated behind the symbol of an arc (ISO 129-1).
func arcLength() *Kind {
	return &Kind{
		Name: "arc-length", Title: "length of an arc", On: "rounded faces", Dim: quantity.Length, Scope: EachFace,
		EndOn: true, Arranged: AtLeader,
		Print: func(s Stated, _ How) string { return "⌒" + s.Text },
		Measure: func(g *solid.Geometry, p Place, _ How) (float64, error) {
			f := g.Faces[p[0][0]]
			if f.Kind != solid.CylinderFace {
				return 0, fmt.Errorf("the face is %s, not a rounded one", f.Kind)
			}
			best := 0.0
			for _, e := range f.Edges {
				if x := g.Edges[e]; x.Kind == solid.CircleEdge && x.A.Distance(x.B) > square && x.Axis.Parallel(f.Axis, square) {
					best = math.Max(best, x.Radius*swept(x))
				}
			}
			if best == 0 {
				return 0, fmt.Errorf("the face goes all the way round: state its diameter")
			}
			return best, nil
		},
	}
}

// swept is the angle that an arc covers: both of its halves.
func swept(e solid.Edge) float64 {
	half := func(a, b solid.Vec) float64 { return a.Sub(e.Center).Angle(b.Sub(e.Center)) }
	return half(e.A, e.Mid) + half(e.Mid, e.B)
}
