package inspect

import (
	"math"

	"hammerset/core/solid"
)

// impossible is the cost of a pair that must not be matched; unmatched that of
// leaving a face without a partner.
const (
	impossible = 1e6
	unmatched  = 1.0
)

// pairCost says how ill two faces fit, in the pose of the reference: 0 for equal
// faces, above unmatched for faces that have nothing to do with each other. size
// is the part's diagonal.
func pairCost(r, a *solid.Face, size float64) float64 {
	if r.Kind != a.Kind {
		return impossible
	}
	ratio := func(x, y, weight float64) float64 {
		if x <= 0 || y <= 0 {
			return 0
		}
		return weight * math.Abs(math.Log2(x/y))
	}
	cost := ratio(r.Area, a.Area, 0.08)
	place := a.Centroid.Sub(r.Centroid)
	switch r.Kind {
	case solid.PlaneFace:
		turn := r.Normal.Angle(a.Normal)
		if turn > 0.6 {
			return impossible
		}
		off := math.Abs(place.Dot(r.Normal))
		cost += 1.5*turn + 3*off/size + 1*place.Norm()/size
	case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
		if r.Hollow != a.Hollow {
			return impossible
		}
		turn := r.Axis.Angle(a.Axis)
		turn = math.Min(turn, math.Pi-turn)
		if turn > 0.3 {
			return impossible
		}
		off := solid.FromAxis(a.Origin, r.Origin, r.Axis).Norm()
		cost += 1.5*turn + 4*off/size + 1.5*place.Norm()/size + ratio(r.Radius, a.Radius, 0.15) + ratio(r.MinorRadius, a.MinorRadius, 0.15)
		if math.Abs(r.Span-a.Span) > 0.5 {
			cost += 0.1
		}
		if r.Kind == solid.ConeFace {
			cost += 0.5 * math.Abs(r.HalfAngle-a.HalfAngle)
		}
	case solid.SphereFace:
		if r.Hollow != a.Hollow {
			return impossible
		}
		cost += 4*a.Origin.Distance(r.Origin)/size + ratio(r.Radius, a.Radius, 0.15)
	default:
		cost += 4 * place.Norm() / size
	}
	return cost
}

// Matching pairs faces of the reference with faces of the attempt: Of[i] is the
// attempt's face for the reference's face i, or -1.
type Matching struct {
	Of    []int
	Extra []int // faces of the attempt without a partner
	Cost  float64
}

// Match finds the best pairing of faces of geometries in the same pose. It
// pairs, then pairs again with faces drawn to the partners of their neighbours,
// until nothing changes.
func Match(ref, att *Geometry) Matching {
	n, m := len(ref.Faces), len(att.Faces)
	size := math.Max(ref.Box.Diagonal(), 1e-9)
	base := make([][]float64, n)
	for i := range base {
		base[i] = make([]float64, m)
		for j := range base[i] {
			base[i][j] = pairCost(&ref.Faces[i], &att.Faces[j], size)
		}
	}
	refNext, attNext := neighbours(ref), neighbours(att)
	solve := func(extra func(i, j int) float64) ([]int, float64) {
		k := n + m
		cost := make([][]float64, k)
		for i := range cost {
			cost[i] = make([]float64, k)
			for j := range cost[i] {
				switch {
				case i < n && j < m:
					cost[i][j] = base[i][j]
					if extra != nil && cost[i][j] < impossible {
						cost[i][j] += extra(i, j)
					}
				case i < n || j < m:
					cost[i][j] = unmatched / 2
				}
			}
		}
		assigned := Assign(cost)
		of, total := make([]int, n), 0.0
		for i := range of {
			of[i] = -1
			if j := assigned[i]; j < m && cost[i][j] < unmatched {
				of[i] = j
				total += cost[i][j]
			} else {
				total += unmatched
			}
		}
		return of, total
	}
	of, total := solve(nil)
	for range 4 {
		prev := of
		next, t := solve(func(i, j int) float64 {
			have, agree := 0, 0
			for p := range refNext[i] {
				if q := prev[p]; q >= 0 {
					have++
					if attNext[j][q] {
						agree++
					}
				}
			}
			if have == 0 {
				return 0
			}
			return 0.25 * float64(have-agree) / float64(have)
		})
		of, total = next, t
		same := true
		for i := range next {
			same = same && next[i] == prev[i]
		}
		if same {
			break
		}
	}
	out := Matching{Of: of, Cost: total}
	used := make([]bool, m)
	for _, j := range of {
		if j >= 0 {
			used[j] = true
		}
	}
	for j, u := range used {
		if !u {
			out.Extra = append(out.Extra, j)
		}
	}
	return out
}

// neighbours gives for every face the set of faces that share an edge with it.
func neighbours(g *Geometry) []map[int]bool {
	out := make([]map[int]bool, len(g.Faces))
	for i := range out {
		out[i] = map[int]bool{}
	}
	for _, e := range g.Edges {
		if len(e.Faces) == 2 {
			out[e.Faces[0]][e.Faces[1]] = true
			out[e.Faces[1]][e.Faces[0]] = true
		}
	}
	return out
}
