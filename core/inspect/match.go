package inspect

import (
	"math"
	"slices"

	"hammerset/core/solid"
)

// Two programs name nothing alike, so faces are matched by what they are. Costs
// are of one scale: 0 for equal faces, 1 for having no partner. Directions weigh
// most, since a wrong size seldom turns a face; sizes weigh least and by their
// logarithm, since a bore of half the size is still that bore, and twice and
// half should weigh the same. Hollow and solid are never matched: a bore is no
// shaft.

// impossible is the cost of a pair that must not be matched; unmatched that of
// leaving a face without a partner.
// otherRadius is what a radius costs that is not the very same: of two bores, the one that has the radius is seldom
// the wrong one.
const (
	impossible  = 1e6
	unmatched   = 1.0
	otherRadius = 0.2
)

// pairCost says how ill two faces fit, in the pose of the reference: 0 for equal
// faces, above unmatched for faces that have nothing to do with each other. size
// is the part's diagonal.
func pairCost(r, a *solid.Face, size float64) float64 {
	return faceCost(r, a, size, func(share float64) float64 { return share })
}

// farCost is pairCost for faces that may lie anywhere: how far they are apart counts for
// little, and the more the less.
//
// The weight of a distance saturates, so that a face at the other end of the
// part is not worse than one in the middle: used where faces are wanted that
// could have been moved.
func farCost(r, a *solid.Face, size float64) float64 {
	return faceCost(r, a, size, func(share float64) float64 { return 0.25 * (1 - math.Exp(-share)) })
}

// faceCost weighs distances, given in shares of the part's size, by a function.
func faceCost(r, a *solid.Face, size float64, weigh func(share float64) float64) float64 {
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
		cost += 1.5*turn + weigh(3*off/size) + weigh(place.Norm()/size)
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
		cost += 1.5*turn + weigh(4*off/size) + weigh(1.5*place.Norm()/size) + ratio(r.Radius, a.Radius, 0.15) +
			ratio(r.MinorRadius, a.MinorRadius, 0.15)
		if math.Abs(r.Radius-a.Radius) > 1e-4*r.Radius {
			cost += otherRadius
		}
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
		cost += weigh(4*a.Origin.Distance(r.Origin)/size) + ratio(r.Radius, a.Radius, 0.15)
	default:
		cost += weigh(4 * place.Norm() / size)
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
func Match(ref, att *solid.Geometry) Matching {
	p := newPairing(ref, att)
	of, total := p.solve(nil)
	for range 4 {
		prev := of
		of, total = p.solve(func(i, j int) float64 { return p.strange(prev, i, j) })
		if slices.Equal(of, prev) {
			break
		}
	}
	for range 3 {
		if !reachOut(ref, att, of, p.refNext, p.attNext, p.size) {
			break
		}
	}
	uncross(ref, att, of)
	shared(ref, att, of)
	out := Matching{Of: of, Cost: total}
	for j := range att.Faces {
		if !slices.Contains(of, j) {
			out.Extra = append(out.Extra, j)
		}
	}
	return out
}

// uncross gives two bores on one axis to each other's partners where those have just their diameter and length: a
// counterbore that was cut at the other end is still the counterbore.
func uncross(ref, att *solid.Geometry, of []int) {
	alike := func(i, j int) bool {
		r, a := ref.Faces[i], att.Faces[j]
		low, high := ref.Reach(i, r.Axis)
		from, to := att.Reach(j, a.Axis)
		return math.Abs(r.Radius-a.Radius) < 1e-4*r.Radius && math.Abs((high-low)-(to-from)) < 1e-3
	}
	for i := range of {
		for k := range i {
			a, b := ref.Faces[i], ref.Faces[k]
			if of[i] < 0 || of[k] < 0 || a.Kind != solid.CylinderFace || b.Kind != a.Kind || !a.Hollow || !b.Hollow ||
				!a.Axis.Parallel(b.Axis, 1e-5) || solid.FromAxis(a.Origin, b.Origin, b.Axis).Norm() > 1e-3 || alike(i, of[i]) {
				continue
			}
			if alike(i, of[k]) && alike(k, of[i]) {
				of[i], of[k] = of[k], of[i]
			}
		}
	}
}

// shared gives a round face that is left the face of the attempt on which it lies whole, though that is matched
// already: two lengths of one shaft are one face where what parts them is missing.
func shared(ref, att *solid.Geometry, of []int) {
	for i, r := range ref.Faces {
		if of[i] >= 0 || r.Kind != solid.CylinderFace {
			continue
		}
		low, high := ref.Reach(i, r.Axis)
		for j, a := range att.Faces {
			if a.Kind != r.Kind || a.Hollow != r.Hollow || math.Abs(a.Radius-r.Radius) > 1e-4*r.Radius ||
				!a.Axis.Parallel(r.Axis, 1e-5) || solid.FromAxis(a.Origin, r.Origin, r.Axis).Norm() > 1e-3 ||
				math.Abs(a.Span-r.Span) > 0.1 {
				continue
			}
			if from, to := att.Reach(j, r.Axis); from < low+1e-3 && to > high-1e-3 {
				of[i] = j
				break
			}
		}
	}
}

// pairing is what faces cost to be paired, each by itself, and which faces lie beside one another.
type pairing struct {
	size             float64
	base             [][]float64
	refNext, attNext []map[int]bool
}

func newPairing(ref, att *solid.Geometry) *pairing {
	p := &pairing{size: math.Max(ref.Box.Diagonal(), 1e-9), refNext: ref.Neighbours(), attNext: att.Neighbours()}
	p.base = make([][]float64, len(ref.Faces))
	for i := range p.base {
		p.base[i] = make([]float64, len(att.Faces))
		for j := range p.base[i] {
			p.base[i][j] = pairCost(&ref.Faces[i], &att.Faces[j], p.size)
		}
	}
	return p
}

// strange is how little the neighbours of two faces are paired with one another: from 0 to 0.25.
func (p *pairing) strange(of []int, i, j int) float64 {
	have, agree := 0, 0
	for n := range p.refNext[i] {
		if q := of[n]; q >= 0 {
			have++
			if p.attNext[j][q] {
				agree++
			}
		}
	}
	if have == 0 {
		return 0
	}
	return 0.25 * float64(have-agree) / float64(have)
}

// solve finds the assignment of least cost. Every face may stay without a partner: the matrix has a
// row or column of its own for that, at half the cost on either side.
func (p *pairing) solve(extra func(i, j int) float64) (of []int, total float64) {
	n, m := len(p.refNext), len(p.attNext)
	cost := make([][]float64, n+m)
	for i := range cost {
		cost[i] = make([]float64, n+m)
		for j := range cost[i] {
			switch {
			case i < n && j < m:
				cost[i][j] = p.base[i][j]
				if extra != nil && cost[i][j] < impossible {
					cost[i][j] += extra(i, j)
				}
			case i < n || j < m:
				cost[i][j] = unmatched / 2
			}
		}
	}
	assigned := Assign(cost)
	of = make([]int, n)
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

// reachOut pairs what is left after a matching, wherever it lies: a size that is far
// off moves its face far from where it should be, and leaves it beside the same
// neighbours. At least half of the matched neighbours must agree. It tells whether it
// found any.
func reachOut(ref, att *solid.Geometry, of []int, refNext, attNext []map[int]bool, size float64) bool {
	used := map[int]bool{}
	var rest, free []int
	for i, j := range of {
		if j < 0 {
			rest = append(rest, i)
		} else {
			used[j] = true
		}
	}
	for j := range att.Faces {
		if !used[j] {
			free = append(free, j)
		}
	}
	if len(rest) == 0 || len(free) == 0 {
		return false
	}
	k := len(rest) + len(free)
	cost := make([][]float64, k)
	for a := range cost {
		cost[a] = make([]float64, k)
		for b := range cost[a] {
			switch {
			case a < len(rest) && b < len(free):
				i, j := rest[a], free[b]
				have, agree := 0, 0
				for p := range refNext[i] {
					if q := of[p]; q >= 0 {
						have++
						if attNext[j][q] {
							agree++
						}
					}
				}
				cost[a][b] = impossible
				if have > 0 && 2*agree >= have {
					cost[a][b] = farCost(&ref.Faces[i], &att.Faces[j], size) + 0.4*float64(have-agree)/float64(have)
				}
			case a < len(rest) || b < len(free):
				cost[a][b] = unmatched / 2
			}
		}
	}
	found := false
	for a, b := range Assign(cost)[:len(rest)] {
		if b < len(free) && cost[a][b] < unmatched {
			of[rest[a]] = free[b]
			found = true
		}
	}
	return found
}

// Surplus lists the faces of the attempt that no face of the reference answers to and
// that are instances of the same feature as the given matched ones: of their kind, size
// and direction, and not more of the same cylinder.
func (m Matching) Surplus(att *solid.Geometry, matched []int) []int {
	var out []int
	alike := func(f, g solid.Face) bool {
		return f.Kind == g.Kind && f.Hollow == g.Hollow && f.Axis.Parallel(g.Axis, 1e-4) && math.Abs(f.Radius-g.Radius) <
			1e-3 && math.Abs(f.MinorRadius-g.MinorRadius) < 1e-3
	}
	// The round ends of a slot are no holes: a hole goes all round, in one piece or in several.
	around := func(f solid.Face) bool {
		span := 0.0
		for _, g := range att.Faces {
			if alike(f, g) && solid.FromAxis(f.Origin, g.Origin, g.Axis).Norm() < 1e-4 {
				span += g.Span
			}
		}
		return span > 1.5*math.Pi
	}
	coaxial := func(f, g solid.Face) bool { return solid.FromAxis(f.Origin, g.Origin, g.Axis).Norm() < 1e-4 }
	for _, j := range m.Extra {
		f := att.Faces[j]
		if f.Kind != solid.CylinderFace || f.Hollow && !around(f) {
			continue
		}
		same, part := false, false
		for _, k := range matched {
			same = same || alike(f, att.Faces[k])
			part = part || alike(f, att.Faces[k]) && coaxial(f, att.Faces[k])
		}
		for _, k := range out {
			part = part || coaxial(f, att.Faces[k])
		}
		if same && !part {
			out = append(out, j)
		}
	}
	return out
}
