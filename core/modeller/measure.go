package modeller

import (
	"context"
	"fmt"
	"math"

	"hammerset/core/address"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Measure measures one or two picks, faces, edges or corners of the rebuilt model by their numbers,
// from the kernel's own geometry.
func (m *Modeller) Measure(ctx context.Context, doc *part.Document, list []address.Ref) (*Measured, error) {
	b, err := m.Rebuilder.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	if b.Solid == nil {
		return nil, &Refused{What: "there is no solid to measure", Remedy: "make one first"}
	}
	g := &gauge{shape: b.Solid.Shape, out: &Measured{Rows: []MeasuredRow{}}}
	g.faces, g.edges, g.corners = g.shape.Faces(), g.shape.Edges(), g.shape.Vertices()
	if err := g.shape.Err(); err != nil {
		return nil, err
	}
	var picks []solid.Pick
	for _, ref := range list {
		p, err := g.pick(ref)
		if err != nil {
			return nil, err
		}
		picks = append(picks, p)
	}
	switch len(picks) {
	case 1:
		g.one(picks[0])
	case 2:
		if err := g.two(m.Rebuilder.Kernel(), picks[0], picks[1]); err != nil {
			return nil, err
		}
	default:
		return nil, &Refused{What: "one or two picks are measured",
			Remedy: "pick a face, an edge or a corner, or two of them"}
	}
	return g.out, nil
}

// gauge measures what is picked of a solid, and writes down the figures.
type gauge struct {
	shape   solid.Shape
	faces   []solid.Face
	edges   []solid.Edge
	corners []solid.Vec
	out     *Measured
}

// say adds a line to what is measured; other is the same in inches.
func (g *gauge) say(label, first, other string) {
	g.out.Rows = append(g.out.Rows, MeasuredRow{Label: label, First: first, Other: other})
}

// size writes a length, in millimetres and inches.
//
// Both units are shown, since a drawing in inches is checked in a model in
// millimetres.
func (g *gauge) size(label string, mm float64) {
	g.both(label, quantity.Quantity{Value: mm, Dim: quantity.Length})
}

// both writes a length or an area in millimetres and inches.
func (g *gauge) both(label string, q quantity.Quantity) {
	g.say(label, quantity.GaugeFormat(quantity.Millimetre).Text(q), quantity.GaugeFormat(quantity.Inch).Text(q))
}

// angle tells an angle in degrees.
func (g *gauge) angle(label string, rad float64) {
	g.say(label, quantity.GaugeFormat(quantity.Millimetre).Angle(rad), "")
}

// place tells a place, in millimetres and in inches.
func (g *gauge) place(label string, v solid.Vec) {
	text := func(unit quantity.Unit) string {
		f := quantity.GaugeFormat(unit)
		f.Symbolic = false
		return fmt.Sprintf("%s, %s, %s %s", f.Length(v[0]), f.Length(v[1]), f.Length(v[2]), unit.Symbol)
	}
	g.say(label, text(quantity.Millimetre), text(quantity.Inch))
}

// pick finds what an address names.
//
// Numbers are of this rebuild; a pick of an earlier one may no longer be there.
func (g *gauge) pick(ref address.Ref) (solid.Pick, error) {
	what, i, ok := ref.Number()
	if !ok || ref.Component != "" {
		return solid.Pick{}, &Refused{What: fmt.Sprintf("%q cannot be measured", ref),
			Remedy: "pick a face, an edge or a corner"}
	}
	kind, n := solid.PickFace, len(g.faces)
	switch what {
	case address.Edge:
		kind, n = solid.PickEdge, len(g.edges)
	case address.Corner:
		kind, n = solid.PickVertex, len(g.corners)
	}
	if i >= n {
		return solid.Pick{}, &Refused{What: "what was picked is not there any more", Remedy: "pick it again"}
	}
	return solid.Pick{Shape: g.shape, Kind: kind, Index: i}, nil
}

// one writes what a single pick measures.
//
// What a caliper would give comes first: a diameter before a radius.
func (g *gauge) one(p solid.Pick) {
	switch p.Kind {
	case solid.PickFace:
		f := g.faces[p.Index]
		switch f.Kind {
		case solid.CylinderFace, solid.SphereFace:
			g.size("diameter", 2*f.Radius)
			g.size("radius", f.Radius)
		case solid.TorusFace:
			g.size("radius", f.MinorRadius)
			g.size("radius of the ring", f.Radius)
		case solid.ConeFace:
			g.angle("full angle", 2*f.HalfAngle)
		}
		g.both("area", quantity.Quantity{Value: f.Area, Dim: quantity.Dim{Length: 2}})
	case solid.PickEdge:
		e := g.edges[p.Index]
		g.size("length", e.Length)
		if e.Kind == solid.CircleEdge {
			g.size("radius", e.Radius)
			g.size("diameter", 2*e.Radius)
			g.place("centre", e.Center)
		}
	default:
		g.place("place", g.corners[p.Index])
	}
}

// two writes how two picks lie to one another.
//
// The distance is the least one between the picks. The angle is between
// directions without a sense, from 0 to 90 degrees.
func (g *gauge) two(k solid.Kernel, p, q solid.Pick) error {
	d, from, to, err := k.Distance(p, q)
	if err != nil {
		return err
	}
	g.size("distance", d)
	delta := to.Sub(from)
	for i, name := range []string{"along X", "along Y", "along Z"} {
		g.size(name, math.Abs(delta[i]))
	}
	if u, v := g.direction(p), g.direction(q); u.Norm() > 0 && v.Norm() > 0 {
		g.angle("angle", solid.Locus{Dir: u}.Slope(solid.Locus{Dir: v}))
	}
	a, isAxis := g.axis(p)
	b, isAxisToo := g.axis(q)
	if isAxis && isAxisToo && a.Slope(b) <= 1e-9 {
		g.size("between the axes", a.Apart(b))
	}
	g.out.From, g.out.To = &from, &to
	return nil
}

// direction is that of a face's axis or normal, or of an edge; zero where it has none.
func (g *gauge) direction(p solid.Pick) solid.Vec {
	switch {
	case p.Kind == solid.PickFace:
		return g.faces[p.Index].Axis
	case p.Kind == solid.PickEdge && g.edges[p.Index].Kind != solid.OtherEdge:
		return g.edges[p.Index].Axis
	}
	return solid.Vec{}
}

// axis is the line that a pick is round about; ok is false where it is about none.
func (g *gauge) axis(p solid.Pick) (l solid.Locus, ok bool) {
	switch p.Kind {
	case solid.PickFace:
		l = g.faces[p.Index].Locus()
		return l, l.Kind == solid.LineLocus
	case solid.PickEdge:
		return g.edges[p.Index].Locus()
	}
	return l, false
}
