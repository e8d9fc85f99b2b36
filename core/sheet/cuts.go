package sheet

import (
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// cutAs changes how a section is cut.
func (c Command) cutAs(set exercise.Sheets, v *exercise.View) error {
	if v.Cut == nil {
		return &Impossible{"this view is not cut", "draw a cutting line across a view"}
	}
	cut := *v.Cut
	sides := []string{"left", "right", "above", "below"}
	switch steps := len(cut.Path) > 1; {
	case cut.Kind == exercise.LocalCut && c.Text == "":
		v.Cut = nil
		return nil
	case cut.Kind == exercise.LocalCut:
		return &Impossible{"a local section is cut as far as its line goes", "close it, and draw it anew"}
	case steps && c.Text == exercise.FullCut: // straight again
		cut.Path = cut.Path[:1]
	case c.Text == exercise.SteppedCut && steps, c.Text == exercise.AlignedCut && len(cut.Path) == 2:
	case c.Text == exercise.AlignedCut:
		return &Impossible{"two planes that meet go through the axis of one feature and through one other",
			"step the section to the other feature first"}
	case steps:
		return &Impossible{"a section through several features is cut as a whole", "cut it straight first"}
	case c.Text == exercise.RevolvedCut && (v.Parent == "" || len(cut.Path) == 0):
		return &Impossible{"only a section that is cut across a view is turned into it", "draw a cutting line across a view"}
	case c.Text == exercise.RevolvedCut && set.On(v.Parent) != c.Sheet:
		return &Impossible{"its view is on another sheet", "put the section onto that sheet before"}
	case slices.Contains(sides, c.Text), c.Text == exercise.FullCut, c.Text == exercise.RemovedCut,
		c.Text == exercise.RevolvedCut:
	default:
		return c.unknown()
	}
	cut.Kind, cut.Side = c.Text, ""
	if slices.Contains(sides, c.Text) {
		cut.Kind, cut.Side = exercise.HalfCut, c.Text
	}
	switch {
	case cut.Kind == exercise.RevolvedCut: // it needs no letter where it is cut
		v.Letter = ""
	case v.Letter == "" && v.Parent != "":
		v.Letter = freshLetter(set)
	}
	v.Cut = &cut
	return nil
}

// turn has a section looked at from its other side.
func turn(v *exercise.View) error {
	opposite := map[string]string{"front": "back", "back": "front", "left": "right", "right": "left", "top": "bottom",
		"bottom": "top"}
	if v.Cut == nil || opposite[v.Kind] == "" || v.Cut.Kind == exercise.LocalCut {
		return &Impossible{"only a section is looked at from its other side", "add a view from that side"}
	}
	v.Kind = opposite[v.Kind]
	return nil
}

// breakOut cuts a piece of a view, in the circle about the first pick through the second: through the axis of a hole or
// of a round face that lies in it, else through the middle of a feature.
func (c Command) breakOut(s *exercise.Sheet, p *Projected, id string) error {
	v, _, err := p.placedView(s, id)
	if err != nil {
		return err
	}
	q := c.picks()
	switch {
	case len(q) != 2 || q[0].distance(q[1]) < 2:
		return &Impossible{"no circle is drawn", "draw it from the middle of what is cut outwards"}
	case v.spec.Cut != nil:
		return &Impossible{"this view is cut already", "draw the circle on a view that is not, or close its local section"}
	case fromCorner(v.spec) || v.spec.Kind == "detail":
		return &Impossible{"a local section is cut in a view that shows the part squarely", "draw the circle on such a view"}
	}
	radius := q[0].distance(q[1])
	face := p.lengthwise(v, q[0], radius)
	if face < 0 {
		return &Impossible{"no feature has its axis or its middle within the circle",
			"draw it around a hole, a slot or a shaft"}
	}
	at := v.plane(q[0])
	s.View(id).Cut = &exercise.Cut{Kind: exercise.LocalCut, Path: []address.Ref{{Name: p.Geometry.Address(face)}},
		Within: &exercise.Clip{Radius: neatly(radius / v.scale),
			At: [2]float64{neatly(at[0] - v.window.origin[0]), neatly(at[1] - v.window.origin[1])}}}
	return nil
}

// mostLocal is which share of a view a local section takes at most: of more the whole view is better cut.
const mostLocal = 0.4

// CutLocally has a view cut free around some faces, and tells whether it is: through that of them which is nearest to
// the middle of the part, where they take a small part of the view.
func CutLocally(s *exercise.Sheet, p *Projected, id string, faces []int) (bool, error) {
	v, _, err := p.placedView(s, id)
	if err != nil {
		return false, err
	}
	low, high := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	best, nearest := -1, math.Inf(1)
	middle := p.Geometry.Box.Min.Add(p.Geometry.Box.Max).Scale(0.5)
	for _, i := range p.withWalls(faces) {
		f := p.Geometry.Faces[i]
		for _, e := range p.edges(f) {
			for _, q := range e.Places() {
				at := Point(v.local(q))
				for k := range 2 {
					low[k], high[k] = math.Min(low[k], at[k]), math.Max(high[k], at[k])
				}
			}
		}
		at := f.Centroid
		if f.Kind == solid.CylinderFace || f.Kind == solid.ConeFace {
			at = f.Origin
		}
		if d := math.Abs(at.Sub(middle).Dot(v.frame.Z)); slices.Contains(faces, i) && len(p.Geometry.Names[i]) > 0 &&
			d < nearest-1e-6 {
			best, nearest = i, d
		}
	}
	const around = 4.0 // mm of paper
	half := high.sub(low).scale(math.Sqrt2 / 2).add(Point{around / v.scale, around / v.scale})
	size := v.box.Max.sub(v.box.Min).scale(1 / v.scale)
	if best < 0 || v.spec.Cut != nil || len(v.spec.Breaks) > 0 && !v.window.whole(low.sub(half), high.add(half)) ||
		math.Pi*half[0]*half[1] > mostLocal*size[0]*size[1] {
		return false, nil
	}
	at := low.add(high).scale(0.5).sub(Point(v.window.origin))
	s.View(id).Cut = &exercise.Cut{Kind: exercise.LocalCut, Path: []address.Ref{{Name: p.Geometry.Address(best)}},
		Within: &exercise.Clip{At: [2]float64{neatly(at[0]), neatly(at[1])},
			Size: &[2]float64{neatly(2 * half[0]), neatly(2 * half[1])}}}
	return true, nil
}

// withWalls are faces with those beside them that are not much larger: the walls of a pocket with its floor.
func (p *Projected) withWalls(faces []int) []int {
	const larger = 4
	out := slices.Clone(faces)
	for _, i := range faces {
		for _, e := range p.edges(p.Geometry.Faces[i]) {
			for _, o := range e.Faces {
				if !slices.Contains(out, o) && p.Geometry.Faces[o].Area < larger*p.Geometry.Faces[i].Area {
					out = append(out, o)
				}
			}
		}
	}
	return out
}

// lengthwise is the feature that a cut within a circle shows best: a hole along the view rather than a shaft, a round
// face along the view rather than one that is seen end on, any of these rather than a flat one, and of two alike the
// nearer one; -1 where there is none.
func (p *Projected) lengthwise(v *view, at Point, radius float64) int {
	best, nearest := -1, math.Inf(1)
	for i, middle := range p.features() {
		f := p.Geometry.Faces[i]
		d, class := v.project(middle).distance(at), 3.0
		round := f.Kind == solid.CylinderFace || f.Kind == solid.ConeFace
		switch {
		case round && math.Abs(f.Axis.Dot(v.frame.Z)) < 1e-6:
			d = p.fromAxis(v, f, at)
			if class = 1; f.Hollow {
				class = 0
			}
		case round:
			class = 2
		}
		if d < radius && class*1e6+d < nearest {
			best, nearest = i, class*1e6+d
		}
	}
	return best
}

// fromAxis is how far a place of a view is from the axis of a round face that lies along it, as long as the face is.
func (p *Projected) fromAxis(v *view, f solid.Face, at Point) float64 {
	dir, from := v.direction(f.Axis), v.project(f.Origin)
	low, high := math.Inf(1), math.Inf(-1)
	for _, e := range p.edges(f) {
		for _, q := range []solid.Vec{e.A, e.B, e.Mid} {
			t := v.project(q).sub(from).dot(dir)
			low, high = math.Min(low, t), math.Max(high, t)
		}
	}
	t := math.Max(low, math.Min(high, at.sub(from).dot(dir)))
	return at.distance(from.add(dir.scale(t)))
}
