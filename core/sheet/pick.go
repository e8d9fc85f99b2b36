package sheet

import (
	"fmt"
	"iter"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// picked is a curve of a view that was pointed at.
type picked struct {
	curve Curve
	faces []int // of the reference, those first that the view shows edge on or end on
}

// pick finds the curve of a view that lies nearest to a place of the paper, no farther than reach; visible ones before
// hidden ones.
func (v *view) pick(g *solid.Geometry, p *Projection, at Point, reach float64) (*picked, error) {
	best, nearest := -1, math.Inf(1)
	for i, c := range p.Curves {
		if c.Smooth || len(c.Of) == 0 || c.Hidden && !v.showsHidden() {
			continue
		}
		d := math.Inf(1)
		for _, piece := range v.window.through(c.ViewCurve) {
			d = math.Min(d, away(piece, v.plane(at))*v.scale)
		}
		if c.Hidden {
			d += reach / 2
		}
		if d < nearest-1e-6 && d <= reach {
			best, nearest = i, d
		}
	}
	if best < 0 {
		return nil, &Impossible{"no edge of the view is here", "point at a line of its outline"}
	}
	out := &picked{curve: p.Curves[best]}
	for _, c := range p.Curves { // edges that lie on one another are picked together
		if c.Hidden == out.curve.Hidden && !c.Smooth && coincide(c.ViewCurve, out.curve.ViewCurve) {
			for _, f := range c.Of {
				if !slices.Contains(out.faces, f) {
					out.faces = append(out.faces, f)
				}
			}
		}
	}
	slices.SortStableFunc(out.faces, func(a, b int) int { return v.turned(g.Faces[a]) - v.turned(g.Faces[b]) })
	return out, nil
}

// operands are what a size can be measured on at the curve: its faces, and the circle in which two round ones meet.
func (e *picked) operands(g *solid.Geometry) [][]int {
	var out [][]int
	for i, f := range e.faces {
		out = append(out, []int{f})
		for _, o := range e.faces[:i] {
			if _, ok := g.Faces[f].Rim(g.Faces[o]); ok {
				out = append(out, []int{f, o})
			}
		}
	}
	return out
}

// turned is 0 for a face that the view shows edge on or end on, and 1 for any other.
func (v *view) turned(f solid.Face) int {
	switch f.Kind {
	case solid.PlaneFace:
		if math.Abs(f.Normal.Dot(v.frame.Z)) < 1e-6 {
			return 0
		}
	case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
		if f.Axis.Parallel(v.frame.Z, 1e-6) {
			return 0
		}
	}
	return 1
}

// coincide tells whether two curves lie on one another: arcs by their circles, runs by their ends.
func coincide(a, b solid.ViewCurve) bool {
	if a.Kind != b.Kind {
		return false
	}
	if a.Kind == "arc" {
		return math.Hypot(a.Center[0]-b.Center[0], a.Center[1]-b.Center[1]) < together &&
			math.Abs(a.Radius-b.Radius) < together
	}
	for _, p := range [][2]float64{a.Points[0], a.Points[len(a.Points)-1]} {
		if away(b, p) > together {
			return false
		}
	}
	return true
}

// away is how far a place is from a curve, in the plane of the view.
func away(c solid.ViewCurve, p [2]float64) float64 {
	if c.Kind == "arc" {
		d := Point(p).sub(Point(c.Center))
		if onSweep(c, math.Atan2(d[1], d[0])) {
			return math.Abs(d.norm() - c.Radius)
		}
		ends := []Point{polar(c.Radius, c.Start), polar(c.Radius, c.Start+c.Sweep)}
		return math.Min(d.distance(ends[0]), d.distance(ends[1]))
	}
	out := math.Inf(1)
	for i := 1; i < len(c.Points); i++ {
		a, d := Point(c.Points[i-1]), Point(c.Points[i]).sub(Point(c.Points[i-1]))
		t := 0.0
		if l := d.dot(d); l > 0 {
			t = math.Max(0, math.Min(1, Point(p).sub(a).dot(d)/l))
		}
		out = math.Min(out, Point(p).distance(a.add(d.scale(t))))
	}
	return out
}

// ends are the flat faces square to a straight edge in which it ends: its length is their distance.
func (v *view) ends(g *solid.Geometry, p *Projection, c Curve) []int {
	if c.Kind == "arc" || len(c.Points) != 2 {
		return nil
	}
	a, b := Point(c.Points[0]), Point(c.Points[1])
	d := b.sub(a).unit()
	along := v.frame.X.Scale(d[0]).Add(v.frame.Y.Scale(d[1]))
	var out []int
	for _, end := range []Point{a, b} {
		found := -1
		for _, o := range p.Curves {
			if o.Kind != "arc" && away(o.ViewCurve, end) > together {
				continue
			}
			for _, f := range o.Of {
				face := g.Faces[f]
				if face.Kind == solid.PlaneFace && face.Normal.Parallel(along, 1e-6) &&
					math.Abs(Point(v.local(face.Centroid)).sub(end).dot(d)) < together {
					found = f
				}
			}
		}
		if found < 0 {
			return nil
		}
		out = append(out, found)
	}
	return out
}

// features are the faces that a cut can be held by, with their middles: those that have a name.
func (p *Projected) features() iter.Seq2[int, solid.Vec] {
	return func(yield func(int, solid.Vec) bool) {
		pr := projecting{geo: p.Geometry}
		for i, names := range p.Geometry.Names {
			if len(names) == 0 {
				continue
			}
			middle, err := pr.middle(address.Ref{Name: names[0]})
			if err == nil && !yield(i, middle) {
				return
			}
		}
	}
}

// placedView is a view of a sheet where it stands, with its projection.
func (p *Projected) placedView(s *exercise.Sheet, id string) (*view, *Projection, error) {
	spec := s.View(id)
	if spec == nil {
		return nil, nil, &Impossible{fmt.Sprintf("there is no view %q", id), "choose one that is there"}
	}
	v, _, err := placed(s, *spec, p.Views)
	return v, p.Views[id], err
}
