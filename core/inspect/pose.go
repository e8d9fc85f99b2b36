package inspect

import (
	"math"
	"regexp"
	"slices"
	"sort"

	"gonum.org/v1/gonum/mat"

	"hammerset/core/solid"
)

// A sheet does not say where in space a part lies, so the check must not either.
// A pose has six unknowns and many local optima (a plate with four holes fits in
// four ways), so that descending from one start is of no use; but a solid has
// few directions of its own, its principal axes and those of its faces, and
// nearly every right pose lays one onto another. They are all tried cheaply, and
// only the best is refined.
//
// Everything is weighed so that a wrong size does not draw the whole part along:
// areas weigh the rotation, and the shift is a median in spirit (see shift).

// Pose is how the attempt lies against the reference: Transform brings the
// attempt onto the reference.
type Pose struct {
	Transform solid.Transform
	AsModeled bool    // no motion was needed
	Mirrored  bool    // only the mirror image fits
	Misfit    float64 // mean cost of a face, 0 for a perfect fit
	Angle     float64 // of the rotation, radians
	Shift     float64 // of the origin, mm
}

// FindPose looks for the motion that brings the attempt onto the reference: as
// modelled first; then every frame of the principal axes of inertia, and frames
// made from pairs of face directions where those are not distinct; each also
// mirrored. A mirror image is taken only where it fits clearly better than any
// motion.
//
// As modelled comes first and is taken at a misfit under 0.02: of two poses that
// fit, a person means the one in which the part lies. A symmetric part is its
// own mirror image, and a wrong size can make the image fit a little better; so
// the image has to fit better by half and more before anybody is told of it.
func FindPose(ref, att *solid.Geometry) (Pose, Matching) {
	size := math.Max(ref.Box.Diagonal(), 1e-9)
	asIs := quickMisfit(ref, att, solid.Identity, size)
	if asIs < 0.02 {
		m := Match(ref, att)
		return Pose{Transform: solid.Identity, AsModeled: true, Misfit: m.Cost / float64(max(1, len(ref.Faces)))}, m
	}
	best := map[bool]candidate{}
	consider := func(c candidate) {
		mirrored := c.t.Det() < 0
		if b, ok := best[mirrored]; !ok || c.misfit < b.misfit {
			best[mirrored] = c
		}
	}
	try := func(turn solid.Transform) {
		for _, flip := range []bool{false, true} {
			t := turn
			if flip {
				// Mirroring the attempt through its centroid first keeps the rest a turn.
				t = solid.Transform{M: [3]solid.Vec{{-1, 0, 0}, {0, -1, 0}, {0, 0, -1}}}.Then(turn)
			}
			t.T = ref.Props.Centroid.Sub(t.Turn(att.Props.Centroid))
			consider(candidate{t, quickMisfit(ref, att, t, size)})
		}
	}
	for _, turn := range turns(ref, att) {
		try(turn)
	}
	if c, ok := best[false]; !ok || asIs <= c.misfit+0.01 {
		best[false] = candidate{solid.Identity, asIs}
	}
	var pose Pose
	var match Matching
	found := false
	for _, mirrored := range []bool{false, true} {
		c, ok := best[mirrored]
		if !ok {
			continue
		}
		p, m := settle(ref, att, c.t)
		p.Mirrored = mirrored
		// Wrong sizes shift a symmetric part; only a clear gain makes a mirror image.
		if !found || p.Misfit < 0.6*pose.Misfit-0.02 {
			pose, match, found = p, m, true
		}
	}
	return pose, match
}

type candidate struct {
	t      solid.Transform
	misfit float64
}

// quickMisfit is the mean cost of the nearest partner of every reference face.
//
// Each face takes its nearest partner, whether another has it too. It bounds the
// cost of a true matching from below and costs n² instead of n³, which is what
// makes a hundred candidates possible.
func quickMisfit(ref, att *solid.Geometry, t solid.Transform, size float64) float64 {
	moved := make([]solid.Face, len(att.Faces))
	for i, a := range att.Faces {
		a.Origin, a.Centroid, a.Axis, a.Normal = t.Apply(a.Origin), t.Apply(a.Centroid), t.Turn(a.Axis), t.Turn(a.Normal)
		moved[i] = a
	}
	total, all := 0.0, 0.0
	for i, w := range weights(ref) {
		best := unmatched
		for j := range moved {
			best = math.Min(best, pairCost(&ref.Faces[i], &moved[j], size))
		}
		total += w * best
		all += w
	}
	return total / math.Max(all, 1e-9)
}

// weights are how much each face of a reference says of the pose: those that are instances of one feature say
// together as much as any other face, or six counterbores would outweigh the hub that stands between them.
func weights(ref *solid.Geometry) []float64 {
	out := slices.Repeat([]float64{1}, len(ref.Faces))
	groups := map[string][]int{}
	for i, names := range ref.Names {
		if len(names) > 0 && i < len(out) {
			key := instance.ReplaceAllString(names[0], "")
			groups[key] = append(groups[key], i)
		}
	}
	for _, list := range groups {
		for _, i := range list {
			out[i] = 1 / float64(len(list))
		}
	}
	return out
}

// instance is what tells the instances of a feature apart in the names of their faces: of a pattern before the name,
// of the places of a step within it.
var instance = regexp.MustCompile(`^([a-z]+\d+(\.\d+)*:)+|\.[A-Za-z]?\d+(?:/)`)

// settle refines a candidate: match, fit rotation and shift to the matched
// faces, and match again.
//
// Three rounds are enough: after the first the matching hardly changes, and a
// rotation fitted to the right pairs is exact.
func settle(ref, att *solid.Geometry, t solid.Transform) (Pose, Matching) {
	m := Match(ref, att.Moved(t))
	for range 3 {
		t = refine(ref, att, m, t)
		m = Match(ref, att.Moved(t))
	}
	p := Pose{Transform: t, Misfit: m.Cost / float64(max(1, len(ref.Faces)))}
	p.Angle = turnAngle(t)
	p.Shift = t.T.Norm()
	p.AsModeled = t.Det() > 0 && p.Angle < 1e-6 && p.Shift < 1e-4
	return p, m
}

// The trace of a rotation by a is 1 + 2 cos a. A reflection through the middle
// has the opposite sign.
func turnAngle(t solid.Transform) float64 {
	trace := t.M[0][0] + t.M[1][1] + t.M[2][2]
	if t.Det() < 0 {
		trace = -trace
	}
	return math.Acos(math.Max(-1, math.Min(1, (trace-1)/2)))
}

// turns lists candidate rotations (without shift) from attempt to reference.
//
// Principal axes have no sense, so that four sign patterns give proper
// rotations. Where two moments are nearly equal their axes are undetermined, and
// directions of faces take their place: two of the reference that are not
// parallel are laid on every pair of the attempt with the same angle between
// them.
func turns(ref, att *solid.Geometry) []solid.Transform {
	var out []solid.Transform
	rf, rm := ref.Props.Principal()
	af, _ := att.Props.Principal()
	if distinct(rm) {
		for _, s := range [][2]float64{{1, 1}, {1, -1}, {-1, 1}, {-1, -1}} {
			x, y := af[0].Scale(s[0]), af[1].Scale(s[1])
			out = append(out, between([2]solid.Vec{x, y}, [2]solid.Vec{rf[0], rf[1]}))
		}
	}
	rd, ad := directions(ref), directions(att)
	if len(rd) == 0 || len(ad) == 0 {
		return out
	}
	main := rd[0]
	second := -1
	for i := 1; i < len(rd); i++ {
		if !rd[i].Parallel(main, 0.02) {
			second = i
			break
		}
	}
	if second >= 0 {
		want := main.Angle(rd[second])
		before := len(out)
		for _, a := range ad {
			for _, b := range ad {
				for _, s := range [][2]float64{{1, 1}, {1, -1}, {-1, 1}, {-1, -1}} {
					x, y := a.Scale(s[0]), b.Scale(s[1])
					if math.Abs(x.Angle(y)-want) < 0.02 {
						out = append(out, between([2]solid.Vec{x, y}, [2]solid.Vec{main, rd[second]}))
					}
				}
			}
		}
		if len(out) > before {
			return out
		}
		// What gives the reference its second direction is missing: one axis is left.
	}
	return append(out, about(ref, att, main, ad[0])...)
}

// about handles parts with one direction only (turned parts, discs): the axis is
// laid on the axis both ways, and turned so that a face off the axis meets one
// of the attempt's of its kind.
//
// What the axis leaves open is one angle. The largest face off the axis decides
// it, since it is the least likely to be missing; where it is missing all the
// same, the axes alone are one candidate more.
func about(ref, att *solid.Geometry, axis, attAxis solid.Vec) []solid.Transform {
	var out []solid.Transform
	radial := func(g *solid.Geometry, f solid.Face, ax solid.Vec) solid.Vec {
		p := f.Centroid
		if f.Kind == solid.CylinderFace && f.Span > 2*math.Pi-1e-3 { // a piece of a cylinder tells where it is itself
			p = f.Origin
		}
		return solid.FromAxis(p, g.Props.Centroid, ax)
	}
	size := ref.Box.Diagonal()
	pick := -1
	for i, f := range ref.Faces {
		if radial(ref, f, axis).Norm() > 1e-3*size && (pick < 0 || f.Area > ref.Faces[pick].Area) {
			pick = i
		}
	}
	for _, s := range []float64{1, -1} {
		z := attAxis.Scale(s)
		// The axes alone: what stands off the axis may be missing from the attempt.
		out = append(out, between([2]solid.Vec{z, z.Perpendicular()}, [2]solid.Vec{axis, axis.Perpendicular()}))
		if pick < 0 {
			continue
		}
		want := radial(ref, ref.Faces[pick], axis)
		for _, f := range att.Faces {
			r := radial(att, f, z)
			if f.Kind != ref.Faces[pick].Kind || f.Hollow != ref.Faces[pick].Hollow || r.Norm() < 1e-3*size {
				continue
			}
			// The other way round as well: a mirror image is turned through its middle first.
			out = append(out, between([2]solid.Vec{z, r}, [2]solid.Vec{axis, want}),
				between([2]solid.Vec{z, r.Scale(-1)}, [2]solid.Vec{axis, want}))
		}
	}
	return out
}

// between is the rotation that takes the first direction of one pair to that of
// the other, and the second as nearly as can be.
//
// It is R = Σ g_k f_kᵀ with the two orthonormal frames f and g, of which the
// first directions agree exactly.
func between(from, to [2]solid.Vec) solid.Transform {
	frame := func(p [2]solid.Vec) [3]solid.Vec {
		x := p[0].Unit()
		y := p[1].Sub(x.Scale(p[1].Dot(x))).Unit()
		return [3]solid.Vec{x, y, x.Cross(y)}
	}
	f, g := frame(from), frame(to)
	var t solid.Transform
	for k := range 3 {
		for i := range 3 {
			for j := range 3 {
				t.M[i][j] += g[k][i] * f[k][j]
			}
		}
	}
	return t
}

// distinct tells whether all three moments differ by more than two percent.
//
// Within two percent a wrong size could exchange two axes.
func distinct(m [3]float64) bool {
	return m[0]-m[1] > 0.02*m[0] && m[1]-m[2] > 0.02*m[0]
}

// maxDirections bounds the directions that are paired.
const maxDirections = 8

// directions lists the directions of plane normals and axes, those with the most
// area first; opposite ones count as one.
func directions(g *solid.Geometry) []solid.Vec {
	type weighted struct {
		d solid.Vec
		w float64
	}
	var list []weighted
	for _, f := range g.Faces {
		if f.Kind == solid.OtherFace || f.Kind == solid.SphereFace {
			continue
		}
		found := false
		for i := range list {
			if list[i].d.Parallel(f.Axis, 1e-3) {
				list[i].w += f.Area
				found = true
				break
			}
		}
		if !found {
			list = append(list, weighted{f.Axis, f.Area})
		}
	}
	sort.SliceStable(list, func(i, j int) bool { return list[i].w > list[j].w })
	var out []solid.Vec
	for _, w := range list[:min(len(list), maxDirections)] {
		out = append(out, w.d)
	}
	return out
}

// refine fits the rotation to the directions of the matched faces, after Kabsch
// (1976), leaving out those that are off, and then the shift to their places by
// iteratively reweighted least squares, which leaves wrong sizes aside.
//
// The rotation that makes Σ w |R a - b|² least over pairs of directions comes
// from the singular value decomposition of Σ w b aᵀ (W. Kabsch, A solution for
// the best rotation to relate two sets of vectors, Acta Crystallographica A32,
// 1976). Pairs that are off by more than 0.05 radians are wrong by themselves
// and leave it alone. Axes have no sense and are turned to their partners first;
// normals have one.
func refine(ref, att *solid.Geometry, m Matching, t solid.Transform) solid.Transform {
	var cov [3][3]float64
	count := 0
	for i, j := range m.Of {
		if j < 0 {
			continue
		}
		r, a := ref.Faces[i], att.Faces[j]
		if r.Kind == solid.OtherFace || r.Kind == solid.SphereFace {
			continue
		}
		from, to := a.Axis, r.Axis
		if r.Kind == solid.PlaneFace {
			from, to = a.Normal, r.Normal
		} else if t.Turn(from).Dot(to) < 0 {
			from = from.Scale(-1)
		}
		if t.Turn(from).Angle(to) > 0.05 {
			continue
		}
		count++
		for x := range 3 {
			for y := range 3 {
				cov[x][y] += r.Area * to[x] * from[y]
			}
		}
	}
	if count >= 2 {
		if turn, ok := kabsch(cov, t); ok {
			t.M = turn
		} else {
			t = spun(ref, att, m, t)
		}
	}
	t.T = shift(ref, att, m, t)
	return t
}

// spun turns a part of one direction about its axis until what stands off the axis lies where it should: by the
// median of the angles that its round faces are off, so that one in a wrong place turns nothing. The axis is
// that of the largest round face.
func spun(ref, att *solid.Geometry, m Matching, t solid.Transform) solid.Transform {
	main := -1
	for i, j := range m.Of {
		if j >= 0 && ref.Faces[i].Kind == solid.CylinderFace && (main < 0 || ref.Faces[i].Area > ref.Faces[main].Area) {
			main = i
		}
	}
	if main < 0 {
		return t
	}
	axis, origin, middle := ref.Faces[main].Axis, ref.Faces[main].Origin, att.Faces[m.Of[main]].Origin
	least := 1e-3 * ref.Box.Diagonal()
	var angles []float64
	for i, j := range m.Of {
		if j < 0 || ref.Faces[i].Kind != solid.CylinderFace || !ref.Faces[i].Axis.Parallel(axis, 1e-4) {
			continue
		}
		want := solid.FromAxis(ref.Faces[i].Origin, origin, axis)
		off := t.Turn(att.Faces[j].Origin.Sub(middle))
		off = off.Sub(axis.Scale(off.Dot(axis)))
		if want.Norm() > least && off.Norm() > least {
			angles = append(angles, math.Atan2(off.Cross(want).Dot(axis), off.Dot(want)))
		}
	}
	if len(angles) == 0 {
		return t
	}
	sort.Float64s(angles)
	return t.Then(solid.Rotation(solid.Vec{}, axis, angles[len(angles)/2]))
}

// kabsch finds the orthogonal matrix, of the same sense as t, that is nearest to
// the covariance; ok is false where the directions do not span the plane at
// least, so that the rotation is not determined.
//
// With the decomposition U S Vᵀ the matrix is U D Vᵀ, and D = diag(1, 1, ±1)
// gives it the sense that is asked for. One direction alone leaves the turn
// about itself open: then the second singular value is nothing.
func kabsch(cov [3][3]float64, t solid.Transform) ([3]solid.Vec, bool) {
	c := mat.NewDense(3, 3, nil)
	for i := range 3 {
		for j := range 3 {
			c.Set(i, j, cov[i][j])
		}
	}
	var svd mat.SVD
	if !svd.Factorize(c, mat.SVDFull) {
		return t.M, false
	}
	s := svd.Values(nil)
	if s[1] < 1e-9*s[0] {
		return t.M, false
	}
	var u, v, r mat.Dense
	svd.UTo(&u)
	svd.VTo(&v)
	sense := 1.0
	if t.Det() < 0 {
		sense = -1
	}
	d := mat.NewDiagDense(3, []float64{1, 1, sense * math.Copysign(1, mat.Det(&u)*mat.Det(&v))})
	r.Mul(&u, d)
	r.Mul(&r, v.T())
	var out [3]solid.Vec
	for i := range 3 {
		for j := range 3 {
			out[i][j] = r.At(i, j)
		}
	}
	return out, true
}

// shift fits the translation: planes fix it along their normals, axes across
// themselves, spheres fully.
//
// Weighting each equation by the inverse of its error and solving again and
// again minimises the sum of the errors and not of their squares: the median of
// several values instead of their mean. A face that is off by 5 mm weighs no
// more than one that is off by 0.1, so that a single wrong size does not move
// all the rest (the method of Weiszfeld; convergence: Daubechies and others,
// 2010). The least weight keeps equations that hold exactly from weighing
// infinitely much.
func shift(ref, att *solid.Geometry, m Matching, t solid.Transform) solid.Vec {
	type equation struct {
		n solid.Vec
		d float64 // n · T = d
	}
	var eqs []equation
	for i, j := range m.Of {
		if j < 0 {
			continue
		}
		r, a := ref.Faces[i], att.Faces[j]
		switch r.Kind {
		case solid.PlaneFace:
			eqs = append(eqs, equation{r.Normal, r.Normal.Dot(r.Centroid.Sub(t.Turn(a.Centroid)))})
		case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
			x := r.Axis.Perpendicular()
			for _, n := range []solid.Vec{x, r.Axis.Cross(x)} {
				eqs = append(eqs, equation{n, n.Dot(r.Origin.Sub(t.Turn(a.Origin)))})
			}
		case solid.SphereFace:
			for k := range 3 {
				var n solid.Vec
				n[k] = 1
				eqs = append(eqs, equation{n, n.Dot(r.Origin.Sub(t.Turn(a.Origin)))})
			}
		}
	}
	start := ref.Props.Centroid.Sub(t.Turn(att.Props.Centroid))
	cur := start
	for range 40 {
		normal := mat.NewSymDense(3, nil)
		rhs := mat.NewVecDense(3, nil)
		for _, e := range eqs {
			w := 1 / math.Max(math.Abs(e.n.Dot(cur)-e.d), 1e-7)
			for x := range 3 {
				for y := x; y < 3; y++ {
					normal.SetSym(x, y, normal.At(x, y)+w*e.n[x]*e.n[y])
				}
				rhs.SetVec(x, rhs.AtVec(x)+w*e.n[x]*e.d)
			}
		}
		// A weak pull to the centroid holds directions that nothing else fixes.
		pull := 1e-9 * (1 + mat.Trace(normal))
		for x := range 3 {
			normal.SetSym(x, x, normal.At(x, x)+pull)
			rhs.SetVec(x, rhs.AtVec(x)+pull*start[x])
		}
		var chol mat.Cholesky
		var sol mat.VecDense
		if !chol.Factorize(normal) || chol.SolveVecTo(&sol, rhs) != nil {
			return cur
		}
		next := solid.Vec{sol.AtVec(0), sol.AtVec(1), sol.AtVec(2)}
		moved := next.Distance(cur)
		cur = next
		if moved < 1e-10 {
			break
		}
	}
	return cur
}
