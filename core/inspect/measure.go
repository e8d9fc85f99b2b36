package inspect

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Place is one place of a characteristic: the operands, each a face of the
// reference or the line in which two flat faces meet.
type Place [][]int

// Faces lists all faces of a place.
func (p Place) Faces() []int {
	var out []int
	for _, o := range p {
		out = append(out, o...)
	}
	return out
}

// Places resolves the places of a characteristic on the reference. A pattern
// that fits several faces makes one place of each where the characteristic has a
// single operand, and belongs to one place where it is measured over all (a bolt
// circle).
func Places(ref *Geometry, c *exercise.Characteristic) ([]Place, error) {
	var out []Place
	for _, names := range c.Of {
		var operands [][]int
		for _, n := range names {
			if a, b, ok := strings.Cut(n, "&"); ok {
				fa, fb := ref.Named(strings.TrimSpace(a)), ref.Named(strings.TrimSpace(b))
				if len(fa) == 0 || len(fb) == 0 {
					return nil, fmt.Errorf("characteristic %s: the reference has no faces %q", c.ID, n)
				}
				operands = append(operands, []int{largest(ref, fa), largest(ref, fb)})
				continue
			}
			list := ref.Named(n)
			if len(list) == 0 {
				return nil, fmt.Errorf("characteristic %s: the reference has no face %q", c.ID, n)
			}
			if !strings.Contains(n, "*") && len(list) > 1 && len(names) > 1 {
				list = []int{largest(ref, list)}
			}
			operands = append(operands, list)
		}
		switch {
		case exercise.Kinds[c.Kind].Each:
			for _, o := range operands {
				for _, f := range o {
					out = append(out, Place{{f}})
				}
			}
		case exercise.Around(c.Kind) || c.Kind == "pitch" || c.Kind == "count":
			out = append(out, operands)
		default:
			out = append(out, each(operands, names)...)
		}
	}
	return out, nil
}

// each makes a place of every face of an operand whose pattern fits several.
func each(operands [][]int, names []string) []Place {
	for i, o := range operands {
		if len(o) < 2 || !strings.Contains(names[i], "*") || strings.Contains(names[i], "&") {
			continue
		}
		var out []Place
		for _, f := range o {
			one := append([][]int(nil), operands...)
			one[i] = []int{f}
			out = append(out, each(one, names)...)
		}
		return out
	}
	return []Place{operands}
}

func largest(g *Geometry, list []int) int {
	best := list[0]
	for _, i := range list[1:] {
		if g.Faces[i].Area > g.Faces[best].Area {
			best = i
		}
	}
	return best
}

// Measure gives the value of a characteristic at one place of a geometry, in mm,
// radians or a plain number. The error says in words what cannot be measured.
func Measure(g *Geometry, c *exercise.Characteristic, p Place) (float64, error) {
	switch c.Kind {
	case "solids":
		return float64(g.Solids), nil
	case "count":
		return float64(len(p.Faces())), nil
	case "depth", "wall", "slot-length", "key-depth", "symmetric", "concentric", "parallel", "perpendicular", "cone-angle", "pitch", "datum":
		return related(g, c, p)
	case "distance":
		if len(p) != 2 {
			return 0, fmt.Errorf("a distance needs two places, and has %d", len(p))
		}
		return distance(locus(g, p[0]), locus(g, p[1]))
	case "diameter", "radius":
		f := g.Faces[p[0][0]]
		r := f.Radius
		switch f.Kind {
		case solid.CylinderFace, solid.SphereFace:
		case solid.TorusFace:
			r = f.MinorRadius
		default:
			return 0, fmt.Errorf("the face is %s, not round", f.Kind)
		}
		if c.Kind == "diameter" {
			return 2 * r, nil
		}
		return r, nil
	case "bend":
		if f := g.Faces[p[0][0]]; f.Kind == solid.TorusFace {
			return f.Radius, nil
		}
		return 0, fmt.Errorf("the face is not bent round")
	case "angle":
		if len(p) != 2 {
			return 0, fmt.Errorf("an angle needs two faces, and has %d", len(p))
		}
		a, b := g.Faces[p[0][0]], g.Faces[p[1][0]]
		t := a.Axis.Angle(b.Axis)
		if a.Kind == solid.PlaneFace && b.Kind == solid.PlaneFace {
			t = a.Normal.Angle(b.Normal)
			if c.Supplement {
				t = math.Pi - t
			}
			return t, nil
		}
		return math.Min(t, math.Pi-t), nil
	case "chamfer":
		return chamfer(g, p[0][0])
	case "bolt-circle", "spacing", "start-angle":
		return circle(g, c.Kind, p)
	}
	return 0, fmt.Errorf("%q cannot be measured", c.Kind)
}

// place is a plane, a line or a point to measure from.
type place struct {
	kind string // plane, line or point
	at   solid.Vec
	dir  solid.Vec
}

// locus is what an operand is measured from: a flat face is its plane, a round
// one its axis, a sphere its centre, two flat faces the line in which they meet.
func locus(g *Geometry, operand []int) place {
	f := g.Faces[operand[0]]
	if len(operand) == 2 && f.Kind == solid.PlaneFace && g.Faces[operand[1]].Kind == solid.PlaneFace {
		h := g.Faces[operand[1]]
		d := f.Normal.Cross(h.Normal)
		if q := d.Dot(d); q > 1e-12 {
			// The point of both planes nearest to the origin.
			p := h.Normal.Cross(d).Scale(f.Centroid.Dot(f.Normal)).Add(d.Cross(f.Normal).Scale(h.Centroid.Dot(h.Normal))).Scale(1 / q)
			return place{"line", p, d.Unit()}
		}
	}
	switch f.Kind {
	case solid.PlaneFace:
		return place{"plane", f.Centroid, f.Normal}
	case solid.SphereFace:
		return place{"point", f.Origin, solid.Vec{}}
	case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
		return place{"line", f.Origin, f.Axis}
	}
	return place{"point", f.Centroid, solid.Vec{}}
}

// square is how far from parallel or perpendicular two places may be for a
// distance to make sense, in radians: modelled geometry is exact.
const square = 1e-4

func distance(a, b place) (float64, error) {
	if b.kind == "plane" && a.kind != "plane" {
		a, b = b, a
	}
	d := b.at.Sub(a.at)
	if a.kind == "plane" {
		switch {
		case b.kind == "plane" && !a.dir.Parallel(b.dir, square):
			return 0, fmt.Errorf("the two faces are not parallel: they are %s° apart", degrees(math.Min(a.dir.Angle(b.dir), math.Pi-a.dir.Angle(b.dir))))
		case b.kind == "line" && math.Abs(a.dir.Dot(b.dir)) > square:
			return 0, fmt.Errorf("the axis is not parallel to the face")
		}
		return math.Abs(d.Dot(a.dir)), nil
	}
	if a.kind == "line" && b.kind == "line" && !a.dir.Parallel(b.dir, square) {
		return 0, fmt.Errorf("the two axes are not parallel")
	}
	for _, p := range []place{a, b} {
		if p.kind == "line" {
			return d.Sub(p.dir.Scale(d.Dot(p.dir))).Norm(), nil
		}
	}
	return d.Norm(), nil
}

func degrees(rad float64) string { return quantity.FormatDecimal(rad/quantity.Degree.Factor, 2) }

// chamfer is the leg of a 45 degree bevel: the axial length of a cone, or the
// width of a flat bevel divided by the root of two.
func chamfer(g *Geometry, face int) (float64, error) {
	f := g.Faces[face]
	switch f.Kind {
	case solid.ConeFace:
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, e := range f.Edges {
			if g.Edges[e].Kind == solid.CircleEdge {
				z := g.Edges[e].Center.Sub(f.Origin).Dot(f.Axis)
				lo, hi = math.Min(lo, z), math.Max(hi, z)
			}
		}
		if hi > lo {
			return hi - lo, nil
		}
	case solid.PlaneFace:
		var lines []solid.Edge
		for _, e := range f.Edges {
			if g.Edges[e].Kind == solid.LineEdge {
				lines = append(lines, g.Edges[e])
			}
		}
		sort.Slice(lines, func(i, j int) bool { return lines[i].Length > lines[j].Length })
		for i := 1; i < len(lines); i++ {
			d := lines[0].B.Sub(lines[0].A).Unit()
			if d.Parallel(lines[i].B.Sub(lines[i].A), square) {
				return solid.FromAxis(lines[i].A, lines[0].A, d).Norm() / math.Sqrt2, nil
			}
		}
	}
	return 0, fmt.Errorf("the face is not a bevel")
}

// circle measures holes around the axis of the first operand: the diameter of
// their circle, or the angle between neighbours; the one farthest from the mean
// counts.
func circle(g *Geometry, kind string, p Place) (float64, error) {
	if len(p) < 2 {
		return 0, fmt.Errorf("a bolt circle needs an axis and the holes around it")
	}
	axis := g.Faces[p[0][0]]
	if axis.Kind == solid.PlaneFace {
		return 0, fmt.Errorf("the middle of the bolt circle is not round")
	}
	var holes []int
	rest := p[1:]
	if kind == "start-angle" {
		if len(p) < 3 || g.Faces[p[1][0]].Kind != solid.PlaneFace {
			return 0, fmt.Errorf("the angle of the first hole needs the middle, a flat face to start from, and the holes")
		}
		rest = p[2:]
	}
	for _, o := range rest {
		holes = append(holes, o...)
	}
	var radii, angles []float64
	x := perpendicular(axis.Axis)
	y := axis.Axis.Cross(x)
	for _, h := range holes {
		f := g.Faces[h]
		if !f.Axis.Parallel(axis.Axis, square) {
			return 0, fmt.Errorf("a hole is not parallel to the middle axis")
		}
		v := solid.FromAxis(f.Origin, axis.Origin, axis.Axis)
		radii = append(radii, v.Norm())
		angles = append(angles, math.Atan2(v.Dot(y), v.Dot(x)))
	}
	switch kind {
	case "bolt-circle":
		return 2 * farthest(radii), nil
	case "start-angle":
		// From the line through the middle that runs along the flat face.
		n := g.Faces[p[1][0]].Normal
		first := math.Inf(1)
		for _, h := range holes {
			v := solid.FromAxis(g.Faces[h].Origin, axis.Origin, axis.Axis)
			first = math.Min(first, math.Asin(math.Min(1, math.Abs(v.Unit().Dot(n)))))
		}
		return first, nil
	}
	sort.Float64s(angles)
	var gaps []float64
	for i := range angles {
		d := angles[(i+1)%len(angles)] - angles[i]
		if d <= 0 {
			d += 2 * math.Pi
		}
		gaps = append(gaps, d)
	}
	return farthest(gaps), nil
}

// farthest gives the value farthest from the mean.
func farthest(v []float64) float64 {
	mean := 0.0
	for _, x := range v {
		mean += x / float64(len(v))
	}
	out := mean
	for _, x := range v {
		if math.Abs(x-mean) > math.Abs(out-mean) {
			out = x
		}
	}
	return out
}
