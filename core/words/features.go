package words

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Features calls some faces of a solid by what they are together: those that share edges are one feature, as a
// hole, a slot or a pocket. Sized says how large each is and where it is, in the unit of the document; without,
// what it is alone.
func Features(g *solid.Geometry, faces []int, unit string, sized bool) []string {
	var out []string
	for _, group := range joined(g, faces) {
		f := &grouped{g: g, faces: group, unit: unit, sized: sized}
		out = append(out, f.words())
	}
	return out
}

// joined puts faces that share edges together.
func joined(g *solid.Geometry, faces []int) [][]int {
	var out [][]int
	for _, f := range faces {
		out = append(out, []int{f})
	}
	at := func(f int) int {
		return slices.IndexFunc(out, func(group []int) bool { return slices.Contains(group, f) })
	}
	for _, e := range g.Edges {
		if len(e.Faces) != 2 {
			continue
		}
		a, b := at(e.Faces[0]), at(e.Faces[1])
		if a < 0 || b < 0 || a == b {
			continue
		}
		out[min(a, b)] = append(out[min(a, b)], out[max(a, b)]...)
		out = slices.Delete(out, max(a, b), max(a, b)+1)
	}
	return out
}

// grouped is one feature of a solid that is called by its faces.
type grouped struct {
	g     *solid.Geometry
	faces []int
	unit  string
	sized bool
}

// words says what the feature is.
func (f *grouped) words() string {
	var round, flat []solid.Face
	for _, i := range f.faces {
		switch face := f.g.Faces[i]; face.Kind {
		case solid.CylinderFace:
			round = append(round, face)
		case solid.PlaneFace:
			flat = append(flat, face)
		}
	}
	switch {
	case len(f.faces) == 1 && len(flat) == 1:
		return f.floor(flat[0])
	case len(f.faces) == 1 && len(round) == 0, len(round)+len(flat) == 0:
		if f.sized {
			return "a " + Face(f.g.Faces[f.faces[0]], f.unit)
		}
		return "a " + Kind(f.g.Faces[f.faces[0]])
	case len(round) == 0:
		what := "a block"
		if f.sunk() {
			what = "a pocket or groove"
		}
		return what + f.place(solid.Vec{})
	}
	first := round[0]
	slices.SortFunc(round, func(a, b solid.Face) int { return int(math.Copysign(1, a.Radius-b.Radius)) })
	apart := solid.FromAxis(round[len(round)-1].Origin, first.Origin, first.Axis).Norm()
	switch small := round[0]; {
	case apart > 1e-3 && len(round) == 2 && small.Hollow && len(flat) >= 2:
		return "a slot" + f.size("%s wide", 2*small.Radius) + f.size("%s long", apart+2*small.Radius) + f.place(small.Axis)
	case small.Hollow && small.Span > math.Pi:
		return "a hole" + f.deep(flat) + f.size("diameter %s", 2*small.Radius) + f.place(small.Axis)
	case small.Hollow:
		return "a round of a corner" + f.size("radius %s", small.Radius)
	case small.Span > math.Pi:
		return "a cylinder" + f.size("diameter %s", 2*small.Radius) + f.place(small.Axis)
	default:
		return "a round" + f.size("radius %s", small.Radius)
	}
}

// size is a size in words, where sizes are told.
func (f *grouped) size(format string, mm float64) string {
	if !f.sized {
		return ""
	}
	return ", " + fmt.Sprintf(format, length(mm, f.unit))
}

// floor calls a flat face: one within a bore closes it.
func (f *grouped) floor(face solid.Face) string {
	walls := map[int]bool{}
	for _, e := range f.g.Edges {
		if slices.Contains(e.Faces, f.faces[0]) {
			for _, k := range e.Faces {
				walls[k] = true
			}
		}
	}
	delete(walls, f.faces[0])
	if len(walls) == 1 {
		for k := range walls {
			if w := f.g.Faces[k]; w.Kind == solid.CylinderFace && w.Hollow {
				return "a flat face that closes a bore" + f.size("diameter %s", 2*w.Radius)
			}
		}
	}
	if where := facing(face); where != "" {
		return "a flat face to the " + map[string]string{"left side": "left", "right side": "right", "front": "front",
			"back":      "back",
			"underside": "bottom", "top": "top"}[where]
	}
	return "a flat face"
}

// deep says whether a hole has a floor.
func (f *grouped) deep(flat []solid.Face) string {
	if len(flat) == 0 {
		return ""
	}
	return " with a floor"
}

// sunk tells whether flat faces lie lower than what is around them: over the edges between them the one rises in
// front of the other.
func (f *grouped) sunk() bool {
	in, out := 0, 0
	for _, e := range f.g.Edges {
		if len(e.Faces) != 2 || !slices.Contains(f.faces, e.Faces[0]) || !slices.Contains(f.faces, e.Faces[1]) {
			continue
		}
		a, b := f.g.Faces[e.Faces[0]], f.g.Faces[e.Faces[1]]
		if b.Centroid.Sub(e.Mid).Dot(a.Normal) > 0 {
			in++
		} else {
			out++
		}
	}
	return in >= out
}

// place says how far from the sides of the part the feature is, across its axis; of a round part how far from
// the middle.
func (f *grouped) place(axis solid.Vec) string {
	if !f.sized {
		return ""
	}
	middle := solid.Vec{}
	for _, i := range f.faces {
		face := f.g.Faces[i]
		at := face.Centroid
		if face.Kind == solid.CylinderFace {
			at = face.Origin
		}
		middle = middle.Add(at.Scale(1 / float64(len(f.faces))))
	}
	var list []string
	for k, sides := range [3][2]string{{"left", "right"}, {"front", "back"}, {"bottom", "top"}} {
		if math.Abs(axis[k]) > 0.999 || f.roundAcross(k) {
			continue
		}
		low, high := middle[k]-f.g.Box.Min[k], f.g.Box.Max[k]-middle[k]
		side := sides[0]
		if high < low {
			low, side = high, sides[1]
		}
		list = append(list, length(math.Round(low*1e3)/1e3, f.unit)+" from the "+side)
	}
	if len(list) == 0 {
		return ""
	}
	return ", " + quantity.List(list, len(list))
}

// roundAcross tells whether the part is a round body across a direction, whose sides are no faces.
func (f *grouped) roundAcross(k int) bool {
	return slices.ContainsFunc(f.g.Faces, func(c solid.Face) bool {
		return c.Kind == solid.CylinderFace && !c.Hollow && math.Abs(c.Axis[k]) < 1e-6 &&
			math.Abs(2*c.Radius-f.g.Box.Size()[k]) < 1e-2*c.Radius
	})
}
