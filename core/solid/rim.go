package solid

import "math"

// Rim is the circle in which two round faces about one axis meet, or would meet if the corner between them were not
// rounded or bevelled.
type Rim struct {
	Center, Axis Vec
	Radius       float64
}

// sameAxis is how far two axes may be from one another, in shares of the larger radius and in radians, so that faces
// about them still have a circle in common for all that a drawing says.
const sameAxis = 0.02

// Rim gives the circle in which the face meets another one about its axis, the nearer to the middle of the face where
// there are two; not ok where they do not meet in a circle. Along the axis the radius of a cylinder is constant, that
// of a cone grows evenly, and that of a sphere is that of a circle.
func (f Face) Rim(g Face) (r Rim, ok bool) {
	axis := f.Axis
	if f.Kind == SphereFace {
		axis = g.Axis
	}
	larger := math.Max(f.Radius, g.Radius)
	if FromAxis(g.Origin, f.Origin, axis).Norm() > sameAxis*larger || g.Kind != SphereFace &&
		math.Abs(axis.Dot(g.Axis)) < 1-sameAxis*sameAxis/2 {
		return r, false
	}
	a, okA := f.profile(axis, f.Origin)
	b, okB := g.profile(axis, f.Origin)
	if !okA || !okB {
		return r, false
	}
	middle := f.Centroid.Sub(f.Origin).Dot(axis)
	best, found := 0.0, false
	for _, t := range a.meets(b) {
		if radius := a.at(t); radius > 0 && (!found || math.Abs(t-middle) < math.Abs(best-middle)) {
			best, found = t, true
		}
	}
	return Rim{f.Origin.Add(axis.Scale(best)), axis, a.at(best)}, found
}

// profile is the radius of a round face along an axis: of a cylinder or a cone r + s t; of a sphere the root of
// r² - (t - c)².
type profile struct {
	round   bool
	r, s, c float64
}

// profile is that of the face along an axis, counted from a place; not ok of a face that has none.
func (f Face) profile(axis, from Vec) (p profile, ok bool) {
	c := f.Origin.Sub(from).Dot(axis)
	switch f.Kind {
	case CylinderFace:
		return profile{r: f.Radius}, true
	case ConeFace:
		s := math.Tan(f.HalfAngle) * math.Copysign(1, f.Axis.Dot(axis))
		return profile{r: f.Radius - s*c, s: s}, true
	case SphereFace:
		return profile{round: true, r: f.Radius, c: c}, true
	}
	return p, false
}

// at is the radius at a place of the axis.
func (p profile) at(t float64) float64 {
	if p.round {
		return math.Sqrt(math.Max(0, p.r*p.r-(t-p.c)*(t-p.c)))
	}
	return p.r + p.s*t
}

// meets are the places at which two profiles have one radius.
func (p profile) meets(q profile) []float64 {
	if p.round && q.round {
		return nil
	}
	if p.round {
		p, q = q, p
	}
	if !q.round {
		if math.Abs(p.s-q.s) < 1e-9 {
			return nil
		}
		return []float64{(q.r - p.r) / (p.s - q.s)}
	}
	// (r + s t)² + (t - c)² = R²
	a, h, k := 1+p.s*p.s, p.r*p.s-q.c, p.r*p.r+q.c*q.c-q.r*q.r
	w := h*h - a*k
	if w < 0 {
		return nil
	}
	return []float64{(-h - math.Sqrt(w)) / a, (-h + math.Sqrt(w)) / a}
}
