package part

import (
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Plane is a datum plane: beside another, at an angle to it, through three points, midway between
// two, or across an edge.
type Plane struct {
	Form    string     `json:"form,omitempty"`
	Plane   *PlaneRef  `json:"plane,omitempty"`
	Axis    *AxisRef   `json:"axis,omitempty"`
	Angle   string     `json:"angle,omitempty"`
	Points  []PointRef `json:"points,omitempty"`
	Planes  []PlaneRef `json:"planes,omitempty"`
	Edges   []EdgeRef  `json:"edges,omitempty"`
	Offset  string     `json:"offset,omitempty"` // the share of the length of the edge
	Reverse bool       `json:"reverse,omitempty"`
}

// All forms are one kind of step, because a plane that is placed another way is
// still that plane: what is sketched on it stays.
func planeKind() *Kind {
	return &Kind{
		Name: "plane", Title: "Datum plane", What: "to sketch on or measure from", Group: "draw", Letter: "p",
		Main: "plane.offset", New: func() Operation { return &Plane{} }, Gives: GivesPlane,
		Fields: []Field{{Path: "form", Label: "Form", Kind: asChoice, Options: []string{"offset", "angled", "three-points",
			"midway", "normal"}, Default: "offset"},
			{Path: "plane", Label: "From the plane", Kind: asPlane, When: "form=offset|angled"},
			{Path: "plane.offset", Label: "Offset", Kind: asLength, When: "form=offset"},
			{Path: "axis", Label: "About the axis", Kind: asAxis, When: "form=angled"},
			{Path: "angle", Label: "Angle", Kind: asAngle, When: "form=angled"},
			{Path: "points", Label: "Three points", Kind: asPoints, When: "form=three-points"},
			{Path: "planes", Label: "Between two planes", Kind: asPlanes, When: "form=midway"},
			{Path: "edges", Label: "Across the edge", Kind: asEdges, When: "form=normal"},
			optional(Field{Path: "offset", Label: "At the share of its length", Kind: asNumber, When: "form=normal"}),
			{Path: "reverse", Label: "Other side up", Kind: asFlag}},
	}
}

// Formulas of forms that are not chosen are told too: they must not break
// unseen.
func (do *Plane) visit(v *visitor) {
	v.angle("angle", "angle", &do.Angle)
	v.number("offset", "place", &do.Offset)
	v.plane("plane", do.Plane)
	v.planes("planes", do.Planes)
	v.points("points", do.Points)
	v.axis(do.Axis)
	v.edges(do.Edges...)
}

// run makes a datum plane by its form. Reversing it turns its normal and its x
// axis about the y axis, so that it stays right-handed and a sketch in it keeps
// what is up.
func (do *Plane) run(w *worker) error {
	forms := map[string]func(*worker) (solid.Frame, error){"": do.beside, "offset": do.beside, "angled": do.angled,
		"three-points": do.throughPoints, "midway": do.between, "normal": do.across}
	form := forms[do.Form]
	if form == nil {
		return because("use offset, angled, three-points, midway or normal", "%q is not a form of plane", do.Form)
	}
	f, err := form(w)
	if err != nil {
		return err
	}
	along := f.Z
	if do.Reverse {
		f = solid.Frame{O: f.O, X: f.X.Scale(-1), Y: f.Y, Z: f.Z.Scale(-1)}
	}
	w.state.planes[w.step.ID] = f
	if do.Plane != nil && (do.Form == "" || do.Form == "offset") {
		w.pulled("plane.offset", f.O, along, 1)
	}
	return nil
}

// beside is a plane at a distance from another.
func (do *Plane) beside(w *worker) (solid.Frame, error) { return w.frame(do.Plane) }

// angled is a plane through an axis that lies along another plane, at an angle to it.
//
// Turning the normal about the axis by the angle, counted by the right-hand
// rule.
func (do *Plane) angled(w *worker) (solid.Frame, error) {
	f, err := w.frame(do.Plane)
	if err != nil {
		return f, err
	}
	o, d, err := w.axis(do.Axis, nil)
	if err != nil {
		return f, err
	}
	angle, err := w.value("angle", do.Angle, quantity.Angle)
	if err != nil {
		return f, err
	}
	if math.Abs(d.Dot(f.Z)) > 1e-6 {
		return f, because("choose an axis that lies along the plane", "the axis is not parallel to the plane")
	}
	return solid.Plane(o, solid.Rotation(o, d, angle).Turn(f.Z)), nil
}

// throughPoints is the plane through three points. They are on a line when the
// parallelogram of their differences has no area, which is judged against the
// product of its sides.
//
// The normal is that of the points' order, and the first one is the origin: a
// sketch on it has its origin where the first pick was.
func (do *Plane) throughPoints(w *worker) (f solid.Frame, err error) {
	if len(do.Points) != 3 {
		return f, because("name three", "a plane goes through three points, and it has %d", len(do.Points))
	}
	var p [3]solid.Vec
	for i := range p {
		if p[i], err = w.point(&do.Points[i]); err != nil {
			return f, err
		}
	}
	u, v := p[1].Sub(p[0]), p[2].Sub(p[0])
	n := u.Cross(v)
	if n.Norm() < 1e-9*(1+u.Norm()*v.Norm()) {
		return f, because("choose three points that are not on one line", "the three points lie on one line")
	}
	return solid.Plane(p[0], n.Unit()), nil
}

// between is the plane in the middle of two others.
func (do *Plane) between(w *worker) (f solid.Frame, err error) {
	if len(do.Planes) != 2 {
		return f, because("name two", "a plane midway lies between two planes, and it has %d", len(do.Planes))
	}
	a, err := w.frame(&do.Planes[0])
	if err != nil {
		return f, err
	}
	b, err := w.frame(&do.Planes[1])
	if err != nil {
		return f, err
	}
	return midway(a, b)
}

// across is the plane across an edge at a share of its length.
//
// The normal runs along the edge, so that a profile sketched on it can be swept.
func (do *Plane) across(w *worker) (f solid.Frame, err error) {
	if len(do.Edges) != 1 {
		return f, because("name one edge", "a plane across a curve needs the edge")
	}
	e, err := w.oneEdge(do.Edges[0])
	if err != nil {
		return f, err
	}
	at, tangent, err := w.along(e, do.Offset)
	if err != nil {
		return f, err
	}
	f = solid.Plane(at, tangent)
	f.O = at
	return f, nil
}

// midway is the plane halfway between two parallel planes, or the one that halves
// the angle between two that cross.
//
// Normals that point against each other are turned alike first; then the sum of
// the unit normals is that of the bisecting plane, and the sum of two parallel
// ones is their direction.
func midway(a, b solid.Frame) (solid.Frame, error) {
	n := b.Z
	if a.Z.Dot(n) < 0 {
		n = n.Scale(-1)
	}
	line, ok := plane(a).Meet(plane(b))
	if !ok {
		return solid.Plane(a.O.Add(b.O).Scale(0.5), a.Z), nil
	}
	return solid.Plane(line.At, a.Z.Add(n).Unit()), nil
}

// plane is the XY plane of a frame.
//
// The loci know how planes meet, so that it is said in one place.
func plane(f solid.Frame) solid.Locus { return solid.Locus{Kind: solid.PlaneLocus, At: f.O, Dir: f.Z} }

// Axis is a datum axis: that of an edge or a round face, through two points, or where two planes
// cross.
type Axis struct {
	Axis    *AxisRef   `json:"axis,omitempty"`
	Points  []PointRef `json:"points,omitempty"`
	Planes  []PlaneRef `json:"planes,omitempty"`
	Reverse bool       `json:"reverse,omitempty"`
}

// It makes no material and may be the first step of a part.
func axisKind() *Kind {
	return &Kind{
		Name: "axis", Title: "Datum axis", What: "of an edge or round face, through points, where planes cross",
		Group: "draw", Letter: "a", New: func() Operation { return &Axis{} }, Gives: GivesAxis,
		Fields: []Field{optional(axisField()),
			optional(Field{Path: "points", Label: "or two points", Kind: asPoints, When: "axis="}),
			optional(Field{Path: "planes", Label: "or two planes", Kind: asPlanes, When: "axis="}), reverseField()},
	}
}

// References of the three ways are all told, as in Plane.visit.
func (do *Axis) visit(v *visitor) {
	v.planes("planes", do.Planes)
	v.points("points", do.Points)
	v.axis(do.Axis)
}

// run makes a datum axis in one of three ways: that of an edge or round face,
// through two points, or where two planes cross.
//
// Two points give the sense from the first to the second. The line of two planes
// has the sense of the cross product of their normals, and Reverse turns it.
func (do *Axis) run(w *worker) error {
	var r ray
	var err error
	switch {
	case do.Axis != nil:
		r.o, r.d, err = w.axis(do.Axis, nil)
	case len(do.Points) == 2:
		var b solid.Vec
		if r.o, err = w.point(&do.Points[0]); err == nil {
			b, err = w.point(&do.Points[1])
		}
		if err == nil && b.Distance(r.o) < 1e-9 {
			err = because("choose two different points", "the two points are in one place")
		}
		r.d = b.Sub(r.o).Unit()
	case len(do.Planes) == 2:
		a, aerr := w.frame(&do.Planes[0])
		if aerr != nil {
			return aerr
		}
		b, berr := w.frame(&do.Planes[1])
		if berr != nil {
			return berr
		}
		line, ok := plane(a).Meet(plane(b))
		if !ok {
			return because("choose two planes that cross", "the two planes are parallel")
		}
		r.o, r.d = line.At, line.Dir
	default:
		err = because("name an edge or round face, two points or two planes", "nothing says where the axis is")
	}
	if err != nil {
		return err
	}
	if do.Reverse {
		r.d = r.d.Scale(-1)
	}
	w.state.axes[w.step.ID] = r
	return nil
}

// Point is a datum point.
type Point struct {
	Points []PointRef `json:"points,omitempty"` // one
}

// A point is for measuring from and for holes; a sketch has points of its own.
func pointKind() *Kind {
	return &Kind{
		Name: "point", Title: "Datum point", What: "a corner, a centre, a place", Group: "draw", Letter: "q",
		New: func() Operation { return &Point{} }, Gives: GivesPoint,
		Fields: []Field{{Path: "points", Label: "Place", Kind: asPoints}},
	}
}

func (do *Point) visit(v *visitor) { v.points("points", do.Points) }

// run makes a datum point.
//
// It is stored as a place, so that steps behind it do not care how it was given.
func (do *Point) run(w *worker) error {
	if len(do.Points) != 1 {
		return because("name one", "a point step has one point, and it has %d", len(do.Points))
	}
	p, err := w.point(&do.Points[0])
	if err != nil {
		return err
	}
	w.state.points[w.step.ID] = p
	return nil
}
