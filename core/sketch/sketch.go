// Package sketch solves plane geometry under constraints and sizes, says what
// is still free to move and what contradicts, and finds the closed regions that
// a profile encloses.
package sketch

import (
	"fmt"
	"math"
)

// Kinds of entities.
const (
	KindPoint   = "point"
	KindLine    = "line"
	KindCircle  = "circle"
	KindArc     = "arc"
	KindEllipse = "ellipse"
	KindEllArc  = "elliptical-arc"
	KindSpline  = "spline"
)

// Built-in geometry that every sketch may refer to: it never moves.
const (
	Origin = "origin"
	XAxis  = "x-axis"
	YAxis  = "y-axis"
)

// Entity is one piece of sketch geometry as it stands in a model document.
// Coordinates and radii are in the document's unit of length.
//
// A line runs between the points From and To. A circle has a Center point and a
// Radius. An arc has a Center and runs counter-clockwise from the point Start to
// the point End; its radius is the distance of the two.
//
// An ellipse has a Center and the points Major and Minor at the ends of two
// perpendicular half axes. An elliptical arc adds Start and End and runs in the
// sense from Major to Minor.
//
// A spline is a cubic B-spline: with Through it passes through these points at
// equal steps of its parameter and ends without curvature (a natural spline);
// with Poles it has these control points, and clamped Knots, equally spaced
// unless they are given.
//
// A guide line helps and bounds no region. Traced names the two faces whose
// common edge the entity follows: its points do not move in the sketch.
type Entity struct {
	ID      string      `json:"id"`
	Kind    string      `json:"kind"`
	At      *[2]float64 `json:"at,omitempty"`
	From    string      `json:"from,omitempty"`
	To      string      `json:"to,omitempty"`
	Center  string      `json:"center,omitempty"`
	Start   string      `json:"start,omitempty"`
	End     string      `json:"end,omitempty"`
	Radius  float64     `json:"radius,omitempty"`
	Major   string      `json:"major,omitempty"`
	Minor   string      `json:"minor,omitempty"`
	Through []string    `json:"through,omitempty"`
	Poles   []string    `json:"poles,omitempty"`
	Knots   []float64   `json:"knots,omitempty"`
	Guide   bool        `json:"guide,omitempty"`
	Traced  []string    `json:"traced,omitempty"`
}

// Refs lists the points that an entity stands on, in the order of its fields.
func (e *Entity) Refs() []string {
	var out []string
	for _, r := range e.refs() {
		if *r != "" {
			out = append(out, *r)
		}
	}
	return out
}

// refs are the places of the entity where ids of points stand, so that they can
// be exchanged when points are joined or copied.
func (e *Entity) refs() []*string {
	out := []*string{&e.From, &e.To, &e.Center, &e.Start, &e.End, &e.Major, &e.Minor}
	for i := range e.Through {
		out = append(out, &e.Through[i])
	}
	for i := range e.Poles {
		out = append(out, &e.Poles[i])
	}
	return out
}

// Rename gives the entity's points other names, where the map has one.
func (e *Entity) Rename(names map[string]string) {
	for _, r := range e.refs() {
		if n, ok := names[*r]; ok {
			*r = n
		}
	}
}

// Constraint is a geometric condition; with a Value it is a size. A driven size
// is measured and holds nothing; it is shown in parentheses. At is where a
// size's lettering stands, as an offset from its own place; Quiet sizes are
// drawn small and pale.
type Constraint struct {
	ID     string      `json:"id"`
	Kind   string      `json:"kind"`
	Of     []string    `json:"of"`
	Value  string      `json:"value,omitempty"`
	Driven bool        `json:"driven,omitempty"`
	At     *[2]float64 `json:"at,omitempty"`
	Quiet  bool        `json:"quiet,omitempty"`
	// Guessed marks a constraint that was taken from how it was drawn and not
	// asked for, so that an accidental one is found.
	Guessed bool `json:"guessed,omitempty"`
}

// Sketch is a set of entities and the constraints between them.
type Sketch struct {
	Entities    []Entity     `json:"entities"`
	Constraints []Constraint `json:"constraints"`
}

// Clone is a deep copy.
func (s *Sketch) Clone() *Sketch {
	out := &Sketch{Entities: append([]Entity(nil), s.Entities...),
		Constraints: append([]Constraint(nil), s.Constraints...)}
	for i := range out.Entities {
		e := &out.Entities[i]
		if e.At != nil {
			at := *e.At
			e.At = &at
		}
		e.Through, e.Poles = append([]string(nil), e.Through...), append([]string(nil), e.Poles...)
		e.Knots, e.Traced = append([]float64(nil), e.Knots...), append([]string(nil), e.Traced...)
	}
	for i := range out.Constraints {
		k := &out.Constraints[i]
		k.Of = append([]string(nil), k.Of...)
		if k.At != nil {
			at := *k.At
			k.At = &at
		}
	}
	return out
}

// Entity finds an entity by its id; nil if there is none.
func (s *Sketch) Entity(id string) *Entity {
	for i := range s.Entities {
		if s.Entities[i].ID == id {
			return &s.Entities[i]
		}
	}
	return nil
}

// Constraint finds a constraint by its id; nil if there is none.
func (s *Sketch) Constraint(id string) *Constraint {
	for i := range s.Constraints {
		if s.Constraints[i].ID == id {
			return &s.Constraints[i]
		}
	}
	return nil
}

// Error names the entity or constraint at fault.
type Error struct {
	ID      string
	Message string
}

func (e *Error) Error() string { return fmt.Sprintf("%s: %s", e.ID, e.Message) }

// failf is an error of one entity or constraint.
func failf(id, format string, args ...any) error {
	return &Error{ID: id, Message: fmt.Sprintf(format, args...)}
}

// Vec is a point or a direction in the sketch plane, in millimetres.
type Vec struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// Add, Sub, Scale, Dot, Cross and Norm are the usual operations of the plane;
// Cross is the signed area of the parallelogram.
func (a Vec) Add(b Vec) Vec       { return Vec{a.X + b.X, a.Y + b.Y} }
func (a Vec) Sub(b Vec) Vec       { return Vec{a.X - b.X, a.Y - b.Y} }
func (a Vec) Scale(f float64) Vec { return Vec{a.X * f, a.Y * f} }
func (a Vec) Dot(b Vec) float64   { return a.X*b.X + a.Y*b.Y }
func (a Vec) Cross(b Vec) float64 { return a.X*b.Y - a.Y*b.X }
func (a Vec) Norm() float64       { return math.Hypot(a.X, a.Y) }

// Polar is the point at radius r and angle t (radians) about a, AngleTo the
// angle under which a sees b, Distance how far it is.
func (a Vec) Polar(r, t float64) Vec     { return Vec{a.X + r*math.Cos(t), a.Y + r*math.Sin(t)} }
func (a Vec) AngleTo(b Vec) float64      { return math.Atan2(b.Y-a.Y, b.X-a.X) }
func (a Vec) Distance(b Vec) float64     { return math.Hypot(b.X-a.X, b.Y-a.Y) }
func (a Vec) Midpoint(b Vec) Vec         { return Vec{(a.X + b.X) / 2, (a.Y + b.Y) / 2} }
func (a Vec) Left() Vec                  { return Vec{-a.Y, a.X} }
func (a Vec) near(b Vec, e float64) bool { return a.Distance(b) <= e }

// Unit is the direction of a; the x direction when a has no length.
func (a Vec) Unit() Vec {
	if n := a.Norm(); n > 0 {
		return a.Scale(1 / n)
	}
	return Vec{1, 0}
}
