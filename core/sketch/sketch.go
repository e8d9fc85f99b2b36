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
	KindPoint  = "point"
	KindLine   = "line"
	KindCircle = "circle"
	KindArc    = "arc"
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
type Entity struct {
	ID     string      `json:"id"`
	Kind   string      `json:"kind"`
	At     *[2]float64 `json:"at,omitempty"`
	From   string      `json:"from,omitempty"`
	To     string      `json:"to,omitempty"`
	Center string      `json:"center,omitempty"`
	Start  string      `json:"start,omitempty"`
	End    string      `json:"end,omitempty"`
	Radius float64     `json:"radius,omitempty"`
	Guide  bool        `json:"guide,omitempty"`
}

// Constraint is a geometric condition; with a Value it is a size.
type Constraint struct {
	ID    string   `json:"id"`
	Kind  string   `json:"kind"`
	Of    []string `json:"of"`
	Value string   `json:"value,omitempty"`
}

// Sketch is a set of entities and the constraints between them.
type Sketch struct {
	Entities    []Entity     `json:"entities"`
	Constraints []Constraint `json:"constraints"`
}

// Error names the entity or constraint at fault.
type Error struct {
	ID      string
	Message string
}

func (e *Error) Error() string { return fmt.Sprintf("%s: %s", e.ID, e.Message) }

func failf(id, format string, args ...any) error {
	return &Error{ID: id, Message: fmt.Sprintf(format, args...)}
}

// Vec is a point or a direction in the sketch plane, in millimetres.
type Vec struct{ X, Y float64 }

// Add, Sub, Scale, Dot, Cross and Norm are the usual operations of the plane;
// Cross is the signed area of the parallelogram.
func (a Vec) Add(b Vec) Vec              { return Vec{a.X + b.X, a.Y + b.Y} }
func (a Vec) Sub(b Vec) Vec              { return Vec{a.X - b.X, a.Y - b.Y} }
func (a Vec) Scale(f float64) Vec        { return Vec{a.X * f, a.Y * f} }
func (a Vec) Dot(b Vec) float64          { return a.X*b.X + a.Y*b.Y }
func (a Vec) Cross(b Vec) float64        { return a.X*b.Y - a.Y*b.X }
func (a Vec) Norm() float64              { return math.Hypot(a.X, a.Y) }
func (a Vec) polar(r, t float64) Vec     { return Vec{a.X + r*math.Cos(t), a.Y + r*math.Sin(t)} }
func (a Vec) angleTo(b Vec) float64      { return math.Atan2(b.Y-a.Y, b.X-a.X) }
func (a Vec) distance(b Vec) float64     { return math.Hypot(b.X-a.X, b.Y-a.Y) }
func (a Vec) midpoint(b Vec) Vec         { return Vec{(a.X + b.X) / 2, (a.Y + b.Y) / 2} }
func (a Vec) near(b Vec, e float64) bool { return a.distance(b) <= e }

// Curve is a solved line, circle or arc in the plane.
type Curve struct {
	ID     string
	Kind   string
	Guide  bool
	A, B   Vec // ends of a line or arc; an arc runs counter-clockwise from A to B
	Center Vec
	Radius float64
}
