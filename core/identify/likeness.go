package identify

import (
	"math"
	"slices"

	"hammerset/core/solid"
)

// Parts of the cost of taking one solid for another, which add up to one.
const (
	ofKinds   = 0.15 // how many faces of each kind
	ofRadii   = 0.25 // radii that the other has not
	ofHoles   = 0.20 // distances between axes that the other has not
	ofVolume  = 0.20
	ofMoments = 0.20 // how the material is spread
)

// mirrored is the cost of taking a mirror image for the part: it is the part, made with the wrong hand.
const mirrored = 0.02

// sameLength is how near two lengths must be to be one, in shares: a wrong size is farther off, a rounded one nearer.
const sameLength = 1e-3

// Likeness is how little a solid differs from a part, wherever both lie.
type Likeness struct {
	Cost float64 // 0 of the part itself, to 1
	Sameness
	// Scale is what its sizes must be taken times to be those of the part, where it is in another unit; else 1.
	Scale float64
}

// units are what sizes in a wrong unit must be taken times to be right.
var units = []float64{25.4, 1 / 25.4, 10, 0.1, 1000, 0.001}

// inUnit is the cost of taking a solid for a part in another unit.
const inUnit = 0.05

// aboutUnit is how closely, as a share, the size of a solid must agree with another unit.
const aboutUnit = 0.15

// Like compares a solid with a part, also in other units where its size speaks for one.
func Like(part, of *solid.Geometry) Likeness {
	out := like(part, of)
	if out.Cost < 2*inUnit {
		return out
	}
	ratio := math.Cbrt(part.Props.Volume / of.Props.Volume)
	for _, u := range units {
		if math.Abs(ratio/u-1) > aboutUnit {
			continue
		}
		if x := like(part, of.Scaled(u)); x.Cost+inUnit < out.Cost {
			out = Likeness{x.Cost + inUnit, Other, u}
		}
	}
	return out
}

// like compares a solid with a part as it is.
func like(part, of *solid.Geometry) Likeness {
	switch _, same := onto(part, of); same {
	case Same:
		return Likeness{0, Same, 1}
	case Mirror:
		return Likeness{mirrored, Mirror, 1}
	}
	a, b := looks(part), looks(of)
	cost := ofKinds*apart(a.kinds, b.kinds) + ofRadii*unlike(a.radii, b.radii) + ofHoles*unlike(a.holes, b.holes)
	cost += ofVolume * math.Min(1, math.Abs(math.Log(part.Props.Volume/of.Props.Volume)))
	for k := range a.spread {
		cost += ofMoments / 3 * math.Min(1, math.Abs(math.Log(a.spread[k]/b.spread[k])))
	}
	return Likeness{math.Max(2*mirrored, cost), Other, 1}
}

// look is what a solid looks like wherever it lies.
type look struct {
	kinds  map[string]int
	radii  []float64 // mm
	holes  []float64 // distances between parallel axes of hollow rounds, mm
	spread [3]float64
}

func looks(g *solid.Geometry) look {
	l := look{kinds: map[string]int{}}
	var axes []solid.Face
	for _, f := range g.Faces {
		kind := string(f.Kind)
		if f.Hollow {
			kind += " hollow"
		}
		l.kinds[kind]++
		if f.Kind == solid.CylinderFace || f.Kind == solid.SphereFace || f.Kind == solid.TorusFace {
			l.radii = append(l.radii, f.Radius)
		}
		if f.Kind != solid.CylinderFace || !f.Hollow {
			continue
		}
		known := false
		for _, o := range axes {
			if o.Axis.Parallel(f.Axis, 1e-6) {
				d := solid.FromAxis(f.Origin, o.Origin, o.Axis).Norm()
				if known = known || d < 1e-6; d >= 1e-6 {
					l.holes = append(l.holes, d)
				}
			}
		}
		if !known {
			axes = append(axes, f)
		}
	}
	slices.Sort(l.radii)
	slices.Sort(l.holes)
	_, moments := g.Props.Principal()
	for k := range l.spread { // a length, which is always positive
		l.spread[k] = math.Sqrt(moments[k] / g.Props.Volume)
	}
	return l
}

// apart is the share of counts that two lists have not in common.
func apart(a, b map[string]int) float64 {
	more, all := 0, 0
	for kind, n := range a {
		more += max(n-b[kind], b[kind]-n)
		all += max(n, b[kind])
	}
	for kind, n := range b {
		if a[kind] == 0 {
			more, all = more+n, all+n
		}
	}
	return float64(more) / float64(max(1, all))
}

// unlike is the share of lengths, in order, that one of two lists has and the other has not.
func unlike(a, b []float64) float64 {
	i, k, pairs := 0, 0, 0
	for i < len(a) && k < len(b) {
		switch d := a[i] - b[k]; {
		case math.Abs(d) <= sameLength*math.Max(a[i], b[k]):
			pairs, i, k = pairs+1, i+1, k+1
		case d < 0:
			i++
		default:
			k++
		}
	}
	longer := max(len(a), len(b))
	return float64(longer-pairs) / float64(max(1, longer))
}
