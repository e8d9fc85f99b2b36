package assembly

import (
	"math"

	"hammerset/core/solid"
)

// condition is one residual of a joint: a length that vanishes where it holds. Of works it out from the
// frames of the two features in space, and writes to da and db by how much it changes with each of their vectors.
// What it asks for may take several of them.
type condition struct {
	what What
	of   func(a, b *solid.Frame, da, db *solid.Frame) float64
}

// What is one thing that a joint asks for.
type What string

// What joints ask for.
const (
	Parallel What = "parallel" // directions
	Coaxial  What = "coaxial"  // places on an axis
	Seated   What = "seated"   // so far along an axis, or over a flat face
	Held     What = "turned"   // so far about an axis
	Meeting  What = "meeting"  // at one place
	Screwed  What = "screwed"  // along an axis as far as it is turned
	Running  What = "on the curve"
	Distant  What = "distance"
	Angled   What = "angle"
	Touching What = "touching"
	Facing   What = "facing" // the right way round
)

// placedJoint is a joint with its sizes and features, before it becomes conditions.
type placedJoint struct {
	*Joint
	kind                          *Kind
	roles                         [2]role
	a, b                          *Feature
	offset, angle, lead, distance float64
	sense                         float64 // 1 same, -1 opposed
	reach                         float64 // mm: what a turn is multiplied by to be a length
}

// maker makes conditions of a joint.
type maker func(j *placedJoint) []condition

// conditions puts makers one after the other.
func conditions(list ...maker) func(j *placedJoint) []condition {
	return func(j *placedJoint) []condition {
		var out []condition
		for _, m := range list {
			out = append(out, m(j)...)
		}
		return out
	}
}

// along are the products of a vector of a frame with one of another: r = f u·v, with its slopes.
func product(f float64, u, v solid.Vec, du, dv *solid.Vec) float64 {
	*du, *dv = du.Add(v.Scale(f)), dv.Add(u.Scale(f))
	return f * u.Dot(v)
}

// between is (a.O - b.O)·v, with v a vector of b.
func between(a, b *solid.Frame, v solid.Vec, da, db *solid.Frame, dv *solid.Vec) float64 {
	d := a.O.Sub(b.O)
	da.O, db.O, *dv = da.O.Add(v), db.O.Sub(v), dv.Add(d)
	return d.Dot(v)
}

// parallelAxes: the directions of both are parallel. The products of Z of a with X and Y of b vanish for both
// senses; which of them holds is what the joint began with.
func parallelAxes(j *placedJoint) []condition {
	return []condition{
		{Parallel, func(a, b, da, db *solid.Frame) float64 { return product(j.reach, a.Z, b.X, &da.Z, &db.X) }},
		{Parallel, func(a, b, da, db *solid.Frame) float64 { return product(j.reach, a.Z, b.Y, &da.Z, &db.Y) }},
	}
}

// squareAxes: the directions are square to one another.
func squareAxes(j *placedJoint) []condition {
	return []condition{{Parallel, func(a, b, da, db *solid.Frame) float64 {
		return product(j.reach, a.Z, b.Z, &da.Z, &db.Z)
	}}}
}

// onAxis: the place of a is on the axis of b.
func onAxis(*placedJoint) []condition {
	return []condition{
		{Coaxial, func(a, b, da, db *solid.Frame) float64 { return between(a, b, b.X, da, db, &db.X) }},
		{Coaxial, func(a, b, da, db *solid.Frame) float64 { return between(a, b, b.Y, da, db, &db.Y) }},
	}
}

// alongAxis: the place of a is as far along the direction of b as the offset says.
func alongAxis(j *placedJoint) []condition {
	return []condition{{Seated, func(a, b, da, db *solid.Frame) float64 {
		return between(a, b, b.Z, da, db, &db.Z) - j.offset
	}}}
}

// meeting: both are at one place.
func meeting(*placedJoint) []condition {
	var out []condition
	for k := range 3 {
		out = append(out, condition{Meeting, func(a, b, da, db *solid.Frame) float64 {
			da.O[k], db.O[k] = 1, -1
			return a.O[k] - b.O[k]
		}})
	}
	return out
}

// heldTurn: a is turned about the direction of b by the angle. With p = Xa·Xb and q = Xa·Yb, which are the
// cosine and the sine of how far it is turned, q cos - p sin is the sine of what is left.
func heldTurn(j *placedJoint) []condition {
	sin, cos := math.Sincos(j.angle)
	return []condition{{Held, func(a, b, da, db *solid.Frame) float64 {
		return product(j.reach*cos, a.X, b.Y, &da.X, &db.Y) + product(-j.reach*sin, a.X, b.X, &da.X, &db.X)
	}}}
}

// turned is by how much a is turned about the direction of b, in (-π, π], with its slopes times f.
func turned(f float64, a, b, da, db *solid.Frame) float64 {
	p, q := a.X.Dot(b.X), a.X.Dot(b.Y)
	s := p*p + q*q
	product(f*p/s, a.X, b.Y, &da.X, &db.Y)
	product(-f*q/s, a.X, b.X, &da.X, &db.X)
	return math.Atan2(q, p)
}

// wrap brings an angle into [-π, π].
func wrap(angle float64) float64 { return math.Remainder(angle, 2*math.Pi) }

// screwed: a turns by a whole turn for each lead that it slides. It is the sense of the thread that counts: a
// positive lead goes along the direction of b as a turns about it by the right-hand rule.
func screwed(j *placedJoint) []condition {
	pitch := j.lead / (2 * math.Pi) // along, for each radian
	return []condition{{Screwed, func(a, b, da, db *solid.Frame) float64 {
		var sa, sb solid.Frame
		along := between(a, b, b.Z, &sa, &sb, &sb.Z) - j.offset
		da.O, db.O, db.Z = sa.O.Scale(-1), sb.O.Scale(-1), sb.Z.Scale(-1)
		return pitch * wrap(turned(pitch, a, b, da, db)-along/pitch)
	}}}
}

// alongside: directions that are parallel; an axis lies along a flat face where it is square to its normal.
func alongside(j *placedJoint) []condition {
	if j.roles[0] != j.roles[1] {
		return squareAxes(j)
	}
	return parallelAxes(j)
}

// angled: the directions are at the angle; an axis and a flat face where the axis is at what is left to a right angle
// from its normal.
func angled(j *placedJoint) []condition {
	cos := math.Cos(j.angle)
	if j.roles[0] != j.roles[1] {
		cos = math.Sin(j.angle)
	}
	return []condition{{Angled, func(a, b, da, db *solid.Frame) float64 {
		return product(j.reach, a.Z, b.Z, &da.Z, &db.Z) - j.reach*cos
	}}}
}

// apart: the places are as far from one another as r.
func apart(what What, r float64) condition {
	return condition{what, func(a, b, da, db *solid.Frame) float64 {
		d := a.O.Sub(b.O)
		u := d.Unit()
		da.O, db.O = u, u.Scale(-1)
		return d.Norm() - r
	}}
}

// beside: the place of a is as far from the axis of b as r.
func beside(what What, r float64) condition {
	return condition{what, func(a, b, da, db *solid.Frame) float64 {
		d := a.O.Sub(b.O)
		x, y := d.Dot(b.X), d.Dot(b.Y)
		l := math.Hypot(x, y)
		if l == 0 {
			return -r
		}
		u := b.X.Scale(x / l).Add(b.Y.Scale(y / l))
		da.O, db.O = u, u.Scale(-1)
		db.X, db.Y = d.Scale(x/l), d.Scale(y/l)
		return l - r
	}}
}

// onCurve: the place of a is on a straight edge or an axis, on a round edge, or on a bent one.
func onCurve(j *placedJoint) []condition {
	if j.roles[1] == bent {
		return onBent(j)
	}
	if j.roles[1] != ring {
		return asked(Running, onAxis(j))
	}
	return []condition{level(Running, 0), beside(Running, j.b.Radius)}
}

// level: the place of a is as far above the plane of b as r.
func level(what What, r float64) condition {
	return condition{what, func(a, b, da, db *solid.Frame) float64 { return between(a, b, b.Z, da, db, &db.Z) - r }}
}

// asked are conditions that stand for another thing.
func asked(what What, list []condition) []condition {
	for i := range list {
		list[i].what = what
	}
	return list
}

// distant: so far from one another. Flat faces and axes are held parallel.
func distant(j *placedJoint) []condition {
	switch j.roles {
	case [2]role{flat, flat}:
		return append(parallelAxes(j), level(Distant, j.distance))
	case [2]role{point, flat}:
		return []condition{level(Distant, j.distance)}
	case [2]role{axis, flat}:
		return append(squareAxes(j), level(Distant, j.distance))
	case [2]role{point, point}:
		return []condition{apart(Distant, j.distance)}
	case [2]role{point, axis}:
		return []condition{beside(Distant, j.distance)}
	}
	return append(parallelAxes(j), beside(Distant, j.distance))
}

// touching: the surfaces touch from outside, or a shaft or ball inside a hollow one.
func touching(j *placedJoint) []condition {
	reach := j.a.Radius + j.b.Radius
	if j.a.Hollow != j.b.Hollow {
		reach = math.Abs(j.a.Radius - j.b.Radius)
	}
	switch j.roles {
	case [2]role{rod, flat}:
		return append(squareAxes(j), level(Touching, j.a.Radius))
	case [2]role{ball, flat}:
		return []condition{level(Touching, j.a.Radius)}
	case [2]role{rod, rod}:
		return append(parallelAxes(j), beside(Touching, reach))
	case [2]role{ball, rod}:
		return []condition{beside(Touching, reach)}
	}
	return []condition{apart(Touching, reach)}
}
