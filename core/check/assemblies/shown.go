package assemblies

import (
	"context"
	"fmt"
	"math"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/contact"
	"hammerset/core/exercise"
	"hammerset/core/report"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Shown is a reference as its arrangement sheet needs it.
type Shown struct {
	Components []ShownComponent
	Beside     [][2]int // components that touch
	Axes       []ShownAxis
	Lines      []assembly.Item
	Stated     []ShownStated
	// Curves are what points trace, Ends where components stand at the ends of drives, and Fits those that joints state.
	Curves [][]solid.Vec
	Ends   []ShownEnd
	Fits   []ShownFit
	Bulk   *report.Bulk
}

// ShownEnd is a component where it stands at an end of a drive.
type ShownEnd struct {
	Component int
	Pose      rigid.Pose
}

// ShownFit is a fit of a hole and a shaft (ISO 286-1) where the joint is that states it.
type ShownFit struct {
	Classes  string // H7/g6
	Diameter float64
	At, Axis solid.Vec
}

// ShownComponent is a component where it stands, with the names of its faces; Apart is how far it is drawn out when the
// whole is drawn apart. Lengthwise is the axis of a solid shaft, pin or bolt, nothing of what is none.
type ShownComponent struct {
	ID, Title  string
	Item       string
	Pose       rigid.Pose
	Shape      *assembly.Shape
	Solid      solid.Shape
	Names      [][]string
	Apart      solid.Vec
	Lengthwise solid.Vec
	Moves      bool // against the base
}

// ShownAxis is the axis of a joint, by a round face that it is of.
type ShownAxis struct {
	Of       address.Ref
	At, Axis solid.Vec
}

// ShownStated is a characteristic of the whole with what it states.
type ShownStated struct {
	*exercise.Requirement
	Asked exercise.Asked
}

// Shown lays a reference out for its arrangement sheet.
func (c *Checker) Shown(ctx context.Context, ex *exercise.Exercise, ref Reference) (*Shown, error) {
	r, err := c.keyOf(ex, ref)
	if err != nil {
		return nil, err
	}
	out := &Shown{Bulk: bulk(r.parts)}
	for i := range r.mech.Document.Components {
		x := r.component(i)
		made := r.Made[x.Part]
		shown := ShownComponent{ID: x.ID, Title: x.Title(), Item: itemNumber(r.Document, r.part(i)), Pose: r.pose(i),
			Shape: made.Shape, Solid: made.Solid, Names: namesOf(made.Shape, len(r.parts[i].Geometry.Faces)),
			Lengthwise: lengthwise(made.Shape)}
		shown.Lengthwise = shown.Pose.Rotate(shown.Lengthwise)
		out.Components = append(out.Components, shown)
	}
	bodies := r.bodies()
	for _, a := range contact.Find(bodies).Explode() {
		out.Components[r.number[a.Component]].Apart = a.By
	}
	out.Beside = contact.Beside(bodies)
	for _, j := range r.joints {
		out.axes(r, j.Joint.B)
		out.axes(r, j.Joint.A)
	}
	if len(out.Axes) == 0 { // without joints the section goes through what lies in the holes
		out.shafts(r)
	}
	table, err := r.Document.Table(nil)
	if err != nil {
		return nil, err
	}
	if out.Lines, _, err = r.mech.PartsList(table); err != nil {
		return nil, err
	}
	standing := r.ofReference(ctx)
	if err := out.moving(r, standing); err != nil {
		return nil, err
	}
	for i := range ex.Assembly.Characteristics {
		q := &ex.Assembly.Characteristics[i]
		v, err := 0.0, error(nil)
		if kind := q.Declared(); !kind.Zero {
			v, err = kind.Measure(standing, &q.About)
		}
		if err != nil {
			return nil, fmt.Errorf("balloon %d, %s: %w", q.Balloon, q.Label, err)
		}
		asked, err := ex.Asked(q, v)
		if err != nil {
			return nil, err
		}
		out.Stated = append(out.Stated, ShownStated{q, asked})
	}
	return out, nil
}

// namesOf are the names of the faces of a shape.
func namesOf(s *assembly.Shape, faces int) [][]string {
	out := make([][]string, faces)
	for i := range s.Features {
		f := &s.Features[i]
		if len(f.Lines) > 0 {
			continue
		}
		for _, k := range f.Faces {
			if k < faces {
				out[k] = append([]string{f.Name}, f.Also...)
			}
		}
	}
	return out
}

// lengthwise is the axis of a part that is round, solid along it and longer than wide.
func lengthwise(s *assembly.Shape) solid.Vec {
	if s.Symmetry == nil || s.Symmetry.Axis == nil {
		return solid.Vec{}
	}
	axis := *s.Symmetry.Axis
	widest := 0.0
	for _, f := range s.Features {
		if f.Form == assembly.Cylinder && f.Hollow {
			return solid.Vec{}
		}
		if f.Form == assembly.Cylinder {
			widest = math.Max(widest, 2*f.Radius)
		}
	}
	low, high := math.Inf(1), math.Inf(-1)
	for _, p := range s.Box.Corners() {
		low, high = math.Min(low, p.Dot(axis)), math.Max(high, p.Dot(axis))
	}
	if high-low < widest {
		return solid.Vec{}
	}
	return axis
}

// shafts adds the axes of shafts, pins and bolts.
func (s *Shown) shafts(r *key) {
	for i := range s.Components {
		x := &s.Components[i]
		if x.Lengthwise == (solid.Vec{}) {
			continue
		}
		for k := range x.Shape.Features {
			if f := &x.Shape.Features[k]; f.Form == assembly.Cylinder {
				s.axes(r, address.Ref{Component: x.ID, Name: f.Name})
				break
			}
		}
	}
}

// axes adds the axis that a joint holds on to, where it is that of a round face and not there yet.
func (s *Shown) axes(r *key, ref address.Ref) {
	n := r.number[ref.Component]
	f, ok := r.parts[n].Shape.Feature(ref.Name)
	if !ok {
		return
	}
	var face *assembly.Feature
	for i := range r.parts[n].Shape.Features { // an edge is of a round face about the same axis
		x := &r.parts[n].Shape.Features[i]
		if x.Form == assembly.Cylinder && x.Axis.Parallel(f.Axis, 1e-6) && solid.FromAxis(x.At, f.At, f.Axis).Norm() < 1e-6 {
			face = x
			break
		}
	}
	if face == nil || f.Form == assembly.Plane || f.Form == assembly.Line {
		return
	}
	at, axis := r.pose(n).Apply(face.At), r.pose(n).Rotate(face.Axis)
	for _, o := range s.Axes {
		if o.Axis.Parallel(axis, 1e-6) && solid.FromAxis(at, o.At, o.Axis).Norm() < 1e-6 {
			return
		}
	}
	s.Axes = append(s.Axes, ShownAxis{Of: address.Ref{Component: ref.Component, Name: face.Name}, At: at, Axis: axis})
}
