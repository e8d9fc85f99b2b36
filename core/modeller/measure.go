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
	s := b.Solid.Shape
	faces, edges, corners := s.Faces(), s.Edges(), s.Vertices()
	if err := s.Err(); err != nil {
		return nil, err
	}
	out := &Measured{Rows: []MeasuredRow{}}
	size := func(label string, mm float64) {
		out.Rows = append(out.Rows, MeasuredRow{Label: label, First: quantity.FormatDecimal(mm, 6) + " mm", Other: quantity.FormatDecimal(mm/25.4, 6) + " in"})
	}
	angle := func(label string, rad float64) {
		out.Rows = append(out.Rows, MeasuredRow{Label: label, First: quantity.FormatDecimal(rad*180/math.Pi, 6) + " deg"})
	}
	place := func(label string, v solid.Vec) {
		in := v.Scale(1 / 25.4)
		f := func(v solid.Vec, u string) string {
			return fmt.Sprintf("%s, %s, %s %s", quantity.FormatDecimal(v[0], 4), quantity.FormatDecimal(v[1], 4), quantity.FormatDecimal(v[2], 4), u)
		}
		out.Rows = append(out.Rows, MeasuredRow{Label: label, First: f(v, "mm"), Other: f(in, "in")})
	}
	var picks []solid.Pick
	var dirs []solid.Vec
	for _, ref := range list {
		what, i, ok := ref.Number()
		if !ok || ref.Component != "" {
			return nil, &Refused{What: fmt.Sprintf("%q cannot be measured", ref), Remedy: "pick a face, an edge or a corner"}
		}
		kind, n := solid.PickFace, len(faces)
		switch what {
		case address.Edge:
			kind, n = solid.PickEdge, len(edges)
		case address.Corner:
			kind, n = solid.PickVertex, len(corners)
		}
		if i >= n {
			return nil, &Refused{What: "what was picked is not there any more", Remedy: "pick it again"}
		}
		picks = append(picks, solid.Pick{Shape: s, Kind: kind, Index: i})
		var d solid.Vec
		switch {
		case kind == solid.PickFace:
			d = faces[i].Axis
		case kind == solid.PickEdge && edges[i].Kind != solid.OtherEdge:
			d = edges[i].Axis
		}
		dirs = append(dirs, d)
	}
	switch len(picks) {
	case 1:
		p := picks[0]
		switch p.Kind {
		case solid.PickFace:
			f := faces[p.Index]
			switch f.Kind {
			case solid.CylinderFace, solid.SphereFace:
				size("diameter", 2*f.Radius)
				size("radius", f.Radius)
			case solid.TorusFace:
				size("radius", f.MinorRadius)
				size("radius of the ring", f.Radius)
			case solid.ConeFace:
				angle("full angle", 2*f.HalfAngle)
			}
			out.Rows = append(out.Rows, MeasuredRow{Label: "area", First: quantity.FormatDecimal(f.Area, 4) + " mm²", Other: quantity.FormatDecimal(f.Area/645.16, 6) + " in²"})
		case solid.PickEdge:
			e := edges[p.Index]
			size("length", e.Length)
			if e.Kind == solid.CircleEdge {
				size("radius", e.Radius)
				size("diameter", 2*e.Radius)
				place("centre", e.Center)
			}
		default:
			place("place", corners[p.Index])
		}
	case 2:
		d, from, to, err := m.Rebuilder.Kernel().Distance(picks[0], picks[1])
		if err != nil {
			return nil, err
		}
		size("distance", d)
		delta := to.Sub(from)
		for i, name := range []string{"along X", "along Y", "along Z"} {
			size(name, math.Abs(delta[i]))
		}
		if dirs[0].Norm() > 0 && dirs[1].Norm() > 0 {
			a := dirs[0].Angle(dirs[1])
			angle("angle", math.Min(a, math.Pi-a))
		}
		if a, ok := axisOf(picks[0], faces, edges); ok {
			if c, ok := axisOf(picks[1], faces, edges); ok && a[1].Parallel(c[1], 1e-9) {
				size("between the axes", solid.FromAxis(c[0], a[0], a[1]).Norm())
			}
		}
		out.From, out.To = &from, &to
	default:
		return nil, &Refused{What: "one or two picks are measured", Remedy: "pick a face, an edge or a corner, or two of them"}
	}
	return out, nil
}

func axisOf(p solid.Pick, faces []solid.Face, edges []solid.Edge) ([2]solid.Vec, bool) {
	if p.Kind == solid.PickFace && (faces[p.Index].Kind == solid.CylinderFace || faces[p.Index].Kind == solid.ConeFace || faces[p.Index].Kind == solid.TorusFace) {
		return [2]solid.Vec{faces[p.Index].Origin, faces[p.Index].Axis}, true
	}
	if p.Kind == solid.PickEdge && edges[p.Index].Kind == solid.CircleEdge {
		return [2]solid.Vec{edges[p.Index].Center, edges[p.Index].Axis}, true
	}
	return [2]solid.Vec{}, false
}
