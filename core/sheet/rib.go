package sheet

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Ribs and webs that a section goes along are not hatched, and the part is drawn there as if it were not cut: hatched
// they would look like solid material as deep as the part (ISO 128-3).

// ribs are the outlines of the sides of the ribs that a section leaves whole. Where no edge of the section runs along
// them they are drawn: there the rib meets the rest.
func (b *builder) ribs(v *view, p *Projection) ([]outline, error) {
	if v.spec.Cut == nil {
		return nil, nil
	}
	var out []outline
	for _, ref := range v.spec.Cut.Whole {
		operand, err := inspect.Operand(b.geo, ref)
		if err != nil {
			return nil, fmt.Errorf("view %s: a rib that stays whole: %w", v.spec.ID, err)
		}
		rib := v.outline(b.projected.edges(b.geo.Faces[operand[0]]))
		out = append(out, rib)
		for _, piece := range rib {
			b.meets(v, p, piece)
		}
	}
	return out, nil
}

// meets draws an edge of a rib, but for what the section shows already.
func (b *builder) meets(v *view, p *Projection, edge flat) {
	c := solid.ViewCurve{Kind: "line", Points: [][2]float64{v.plane(edge.a), v.plane(edge.b)}}
	if edge.radius > 0 {
		at := v.plane(edge.centre)
		from := edge.a.sub(edge.centre)
		c = solid.ViewCurve{Kind: "arc", Center: at, Radius: edge.radius / v.scale,
			Start: math.Atan2(from[1], from[0]), Sweep: edge.sweep()}
	}
	all := []solid.ViewCurve{}
	for _, x := range p.Drawn {
		if !x.Hidden {
			all = append(all, x)
		}
	}
	c.Hidden = true // what visible ones lie on is left out
	for _, x := range uncovered(append(all, c)) {
		if x.Hidden {
			x.Hidden = false
			for _, piece := range v.window.through(x) {
				b.strokeOf(v, piece, Item{Class: Visible, Width: standards.LineWide})
			}
		}
	}
}

// sweep is by how much the edge goes on as an arc, from a to b, counter-clockwise.
func (f flat) sweep() float64 {
	if f.full {
		return 2 * math.Pi
	}
	angle := func(q Point) float64 { return math.Atan2(q[1]-f.centre[1], q[0]-f.centre[0]) }
	to, mid := ahead(angle(f.a), angle(f.b)), ahead(angle(f.a), angle(f.mid))
	if mid > to {
		return to - 2*math.Pi
	}
	return to
}

// Of a rib, as it is found: it is thin beside what it reaches over, and a small part of what is cut.
const (
	ribThin  = 0.5
	ribShare = 0.6
)

// ribSides are the sides of what could be ribs that a section goes along, behind the cut: faces that lie along it, each
// with one of the same outline before the cut and near to it.
func (p *Projected) ribSides(v *view, q *Projection) []int {
	if len(q.Planes) != 1 {
		return nil
	}
	var out []int
	for i, f := range p.Geometry.Faces {
		behind := q.Planes[0].At.Sub(f.Centroid).Dot(v.frame.Z)
		if f.Kind != solid.PlaneFace || f.Normal.Dot(v.frame.Z) > -1+1e-9 || behind < 1e-6 || len(p.Geometry.Names[i]) == 0 {
			continue
		}
		if slices.ContainsFunc(p.Geometry.Faces, func(o solid.Face) bool {
			before := o.Centroid.Sub(q.Planes[0].At).Dot(v.frame.Z)
			return o.Kind == solid.PlaneFace && o.Normal.Dot(v.frame.Z) > 1-1e-9 && before > 1e-6 &&
				v.project(o.Centroid).distance(v.project(f.Centroid)) < 0.01*v.scale &&
				math.Abs(o.Area-f.Area) < 1e-6*f.Area && before+behind < ribThin*math.Sqrt(f.Area)
		}) {
			out = append(out, i)
		}
	}
	return out
}

// ribsOf finds the ribs that a section goes along: of what could be some, those that are small beside what is cut.
func (p *Projected) ribsOf(v *view, q *Projection) []address.Ref {
	cut := 0.0
	for _, face := range q.Cut {
		cut += v.outline(face).area()
	}
	var out []address.Ref
	for _, i := range p.ribSides(v, q) {
		if v.outline(p.edges(p.Geometry.Faces[i])).area() < ribShare*cut {
			out = append(out, address.Ref{Name: p.Geometry.Address(i)})
		}
	}
	return out
}

// edges are those of a face.
func (p *Projected) edges(f solid.Face) []solid.Edge {
	var out []solid.Edge
	for _, e := range f.Edges {
		out = append(out, p.Geometry.Edges[e])
	}
	return out
}

// area is about that of the outline, by level lines through it.
func (o outline) area() float64 {
	const lines = 200
	low, high := math.Inf(1), math.Inf(-1)
	for _, p := range o {
		for _, q := range p.extent() {
			low, high = math.Min(low, q[1]), math.Max(high, q[1])
		}
	}
	sum, pitch := 0.0, (high-low)/lines
	for k := range lines {
		for _, s := range o.within(Point{0, 1}, Point{1, 0}, low+(float64(k)+0.5)*pitch) {
			sum += pitch * (s.to - s.from)
		}
	}
	return sum
}

// LeaveRibs has a section leave the ribs whole that it goes along, as far as they are found.
func LeaveRibs(s *exercise.Sheet, p *Projected, id string) error {
	v, q, err := p.placedView(s, id)
	if err != nil || v.spec.Cut == nil {
		return err
	}
	cut := *v.spec.Cut
	cut.Whole = p.ribsOf(v, q)
	s.View(id).Cut = &cut
	return nil
}

// leaveWhole has a section leave the rib whole at a place, or cut it again.
func (c Command) leaveWhole(s *exercise.Sheet, p *Projected, id string) error {
	v, q, err := p.placedView(s, id)
	if err != nil {
		return err
	}
	picks := c.picks()
	if v.spec.Cut == nil || len(picks) != 1 {
		return &Impossible{"no rib is picked", "click the hatching of a rib in a section"}
	}
	cut := *v.spec.Cut
	for i, ref := range cut.Whole {
		operand, err := inspect.Operand(p.Geometry, ref)
		if err == nil && v.outline(p.edges(p.Geometry.Faces[operand[0]])).holds(picks[0]) {
			cut.Whole = slices.Delete(slices.Clone(cut.Whole), i, i+1)
			s.View(id).Cut = &cut
			return nil
		}
	}
	face := -1
	for _, i := range p.ribSides(v, q) {
		if v.outline(p.edges(p.Geometry.Faces[i])).holds(picks[0]) {
			face = i
		}
	}
	if face < 0 {
		return &Impossible{"the cut does not go along a rib there", "click the hatching between the sides of a thin rib"}
	}
	cut.Whole = append(slices.Clone(cut.Whole), address.Ref{Name: p.Geometry.Address(face)})
	s.View(id).Cut = &cut
	return nil
}
