package part

import (
	"math"
	"slices"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Revolve turns regions about an axis: a full turn without an extent.
type Revolve struct {
	Drawn
	Made
	Axis    *AxisRef `json:"axis,omitempty"`
	Extent  *Extent  `json:"extent,omitempty"`
	Reverse bool     `json:"reverse,omitempty"`
}

// A full turn is the extent that is left empty, since turned parts are what it
// is for.
func revolveKind() *Kind {
	return &Kind{
		Name: "revolve", Title: "Revolve", What: "material turned about an axis", Group: "material", Letter: "r",
		Main: "extent.length",
		New:  func() Operation { return &Revolve{} }, First: true, Feature: true, Repeats: true,
		Fields: slices.Concat(drawnFields(), []Field{axisField(), resultField(),
			{Path: "extent.kind", Label: "Turn", Kind: asChoice, Options: []string{"", "one-side", "symmetric", "two-sides"},
				Hint: "a full turn, or part of one"}}, spanFields(asAngle),
			[]Field{reverseField()}, wallFields(), []Field{solidsField()}),
	}
}

// The extent is one of angles here, and of lengths in an extrusion.
func (do *Revolve) visit(v *visitor) {
	do.Drawn.visit(v)
	v.axis(do.Axis)
	v.turn(do.Extent)
	do.Made.visit(v)
}

// run turns each profile about an axis. The profile must not cross the axis,
// where the solid would run through itself. A turn that does not begin in the
// sketch's plane begins with the profile turned there first.
//
// Angles count by the right-hand rule about the axis, whose sense is that of the
// line or datum: reversing it turns the other way.
func (do *Revolve) run(w *worker) error {
	p, profiles, err := do.profiles(w)
	if err != nil {
		return err
	}
	origin, axis, err := w.axis(do.Axis, p)
	if err != nil {
		return err
	}
	if do.Reverse {
		axis = axis.Scale(-1)
	}
	from, to := 0.0, 2*math.Pi
	if e := do.Extent; e != nil {
		if e.Kind == "through" || e.Kind == "to-face" || e.Kind == "to-next" {
			return because("use one-side, symmetric or two-sides, with angles, or no extent for a full turn",
				"%q is not an extent of a revolution", e.Kind)
		}
		if from, to, err = w.span(e, quantity.Angle); err != nil {
			return err
		}
	}
	if to-from > 2*math.Pi+1e-9 {
		return because("a full turn is 360 deg", "the angle is more than a full turn")
	}
	turn := solid.Rotation(origin, axis, from)
	var deeds []deed
	for _, prof := range profiles {
		if err := clearOfAxis(prof.Profile, origin, axis); err != nil {
			return err
		}
		f := prof.Frame
		prof.Frame = solid.Frame{O: turn.Apply(f.O), X: turn.Turn(f.X), Y: turn.Turn(f.Y), Z: turn.Turn(f.Z)}
		body, err := w.turned(prof.Profile, origin, axis, to-from, w.profileNamer(prof.owners), func(e int) string {
			return w.step.ID + "/side:" + prof.owners[e]
		})
		if err != nil {
			return because("look for lines that cross the axis", "the profile makes no solid: %v", err)
		}
		d, err := do.deed(body)
		if err != nil {
			return err
		}
		deeds = append(deeds, d)
	}
	if e := do.Extent; e != nil {
		at := solid.Rotation(origin, axis, to).Apply(profileMiddle(profiles[0].Profile))
		switch e.Kind {
		case "one-side":
			w.swung("extent.length", at, origin, axis, 1)
		case "symmetric":
			w.swung("extent.total", at, origin, axis, 2)
		case "two-sides":
			w.swung("extent.forward", at, origin, axis, 1)
		}
	}
	return w.apply(deeds)
}

// turned makes a revolved body and names its faces.
//
// Holes use it as well, with names of their own.
func (w *worker) turned(p solid.Profile, origin, axis solid.Vec, angle float64, made namer,
	name func(edge int) string) (*Named, error) {
	shape, h, err := w.kernel.Revolve(p, origin, axis, angle)
	if err != nil {
		return nil, err
	}
	body := carry(shape, h, nil, made)
	nameTurned(body, p, origin, axis, name)
	return body, nil
}

// clearOfAxis refuses a profile that lies on both sides of the axis.
//
// With n the normal of the sketch and a the axis, a × n points to one side in
// the sketch, and the distance to that side of every place of the outline has to
// have one sign. Ends and middles are looked at, and circles whole; a profile
// that touches the axis is allowed, as a solid shaft does. Touching is meant to
// 1e-6 mm.
func clearOfAxis(p solid.Profile, origin, axis solid.Vec) error {
	if math.Abs(axis.Dot(p.Frame.Z)) > 1e-9 {
		return because("choose an axis in the sketch plane", "the axis does not lie in the plane of the sketch")
	}
	side := axis.Cross(p.Frame.Z)
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, g := range p.Loops[0] {
		for _, q := range [][2]float64{g.A, g.B, g.Mid} {
			if g.Kind == "circle" {
				c := p.Frame.Point(g.Center[0], g.Center[1], 0).Sub(origin).Dot(side)
				lo, hi = math.Min(lo, c-g.Radius), math.Max(hi, c+g.Radius)
				continue
			}
			d := p.Frame.Point(q[0], q[1], 0).Sub(origin).Dot(side)
			if g.Kind == "line" && q == g.Mid {
				continue
			}
			lo, hi = math.Min(lo, d), math.Max(hi, d)
		}
	}
	if lo < -1e-6 && hi > 1e-6 {
		return because("draw half of the section, on one side of the axis", "the profile lies on both sides of the axis")
	}
	return nil
}

// nameTurned names the flat faces of a full revolution, for which a kernel may
// keep no history: each is the one that the middle of a profile edge across the
// axis lies on.
//
// A line across the axis sweeps a flat ring; the face is found by its height
// along the axis and by the radius of the line's middle, which lies between the
// ring's inner and outer edge. A full disc has one edge, and its inner radius is
// zero.
func nameTurned(body *Named, prof solid.Profile, origin, axis solid.Vec, name func(edge int) string) {
	edges := body.Shape.Edges()
	index := 0
	for _, loop := range prof.Loops {
		for _, g := range loop {
			i := index
			index++
			if g.Kind != "line" {
				continue
			}
			mid := prof.Frame.Point((g.A[0]+g.B[0])/2, (g.A[1]+g.B[1])/2, 0)
			r, z := solid.FromAxis(mid, origin, axis).Norm(), mid.Sub(origin).Dot(axis)
			for k, f := range body.Shape.Faces() {
				if len(body.Names[k]) > 0 || f.Kind != solid.PlaneFace || math.Abs(f.Centroid.Sub(origin).Dot(axis)-z) > 1e-6 {
					continue
				}
				lo, hi := math.Inf(1), 0.0
				for _, e := range f.Edges {
					if edges[e].Kind == solid.CircleEdge {
						lo, hi = math.Min(lo, edges[e].Radius), math.Max(hi, edges[e].Radius)
					}
				}
				if lo == hi {
					lo = 0
				}
				if n := name(i); n != "" && r > lo && r < hi {
					body.Names[k] = []string{n}
				}
			}
		}
	}
}
