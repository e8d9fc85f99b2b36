package sheet

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// section is what a cut leaves of a solid.
type section struct {
	shape  solid.Shape
	faces  [][]solid.Edge // the edges of each face that lies in the cut
	planes []Plane
	along  solid.Vec
	from   [][]int // of each face of the shape: the faces of the reference that it is of
	inCut  []bool  // of each face of the shape: it lies in a cutting plane
	wall   []bool  // of each face of the shape: it joins two cutting planes, or ends a half
	only   bool    // what stands behind the cut is left out
}

// draws tells whether an edge between faces is drawn. Where a stepped cut goes from one plane to the next, and where a
// half ends, the part has no edge (ISO 128-3).
func (s *section) draws(faces []int) bool {
	cut := false
	for _, f := range faces {
		if s.wall[f] {
			return false
		}
		cut = cut || s.inCut[f]
	}
	return cut || !s.only
}

// cut removes what stands before the cutting planes. Along the path they follow one another from left to right, or
// from the foot to the top where the parent is seen along that direction; each reaches half way to the next.
func (p *projecting) cut(shape solid.Shape, f solid.Frame) (*section, error) {
	along := f.X
	if side := p.spec.Cut.Side; p.cutUpwards(f) || side == "above" || side == "below" {
		along = f.Y
	}
	out := &section{along: along, only: p.spec.Cut.Kind == exercise.RemovedCut}
	reach := 4 * (p.geo.Box.Diagonal() + p.geo.Box.Max.Norm())
	if err := p.planes(out, along, reach); err != nil {
		return nil, err
	}
	// The material that goes: over the planes, in the plane of the path and the line of sight.
	profile := solid.Frame{X: along, Y: f.Z, Z: along.Cross(f.Z)}
	profile.O = profile.Z.Scale(-reach)
	var outline [][2]float64
	for _, c := range out.planes {
		depth := c.At.Dot(f.Z)
		outline = append(outline, [2]float64{c.From, depth}, [2]float64{c.To, depth})
	}
	from, to := out.planes[0].From, out.planes[len(out.planes)-1].To
	outline = slices.Compact(append(outline, [2]float64{to, reach}, [2]float64{from, reach}))
	var loop []solid.Segment
	for i := range outline {
		loop = append(loop, solid.Segment{Kind: "line", A: outline[i], B: outline[(i+1)%len(outline)]})
	}
	block, _, err := p.kernel.Prism(solid.Profile{Frame: profile, Loops: [][]solid.Segment{loop}},
		profile.Z.Scale(2*reach))
	if err != nil {
		return nil, err
	}
	left, history, err := p.kernel.Boolean(solid.Difference, shape, []solid.Shape{block})
	if err != nil {
		return nil, err
	}
	out.shape = left
	out.origins(history, f)
	return out, left.Err()
}

// cutUpwards tells whether the parent of a section shows its cutting planes as upright lines.
func (p *projecting) cutUpwards(f solid.Frame) bool {
	parent, ok := p.others[p.spec.Parent]
	return ok && parent.Frame.Z.Parallel(f.X, 1e-9)
}

// planes finds the cutting planes, in order.
func (p *projecting) planes(out *section, along solid.Vec, reach float64) error {
	c := p.spec.Cut
	for _, ref := range c.Path {
		at, err := p.middle(ref)
		if err != nil {
			return err
		}
		out.planes = append(out.planes, Plane{At: at})
	}
	if len(c.Path) == 0 {
		out.planes = []Plane{{}}
	}
	slices.SortStableFunc(out.planes, func(a, b Plane) int {
		if a.At.Dot(along) < b.At.Dot(along) {
			return -1
		}
		return 1
	})
	last := len(out.planes) - 1
	out.planes[0].From, out.planes[last].To = -reach, reach
	for i := range last {
		a, b := out.planes[i].At.Dot(along), out.planes[i+1].At.Dot(along)
		if b-a < 1e-6 {
			return fmt.Errorf("two features of the path of the cut lie one before the other: cut through one of them")
		}
		out.planes[i].To, out.planes[i+1].From = (a+b)/2, (a+b)/2
	}
	if c.Kind == exercise.HalfCut {
		middle := out.planes[0].At.Dot(along)
		if c.Side == "left" || c.Side == "below" {
			out.planes[0].To = middle
		} else {
			out.planes[0].From = middle
		}
	}
	return nil
}

// origins says of every face of what is left whether the cut made it, and else which faces of the reference it is of.
func (s *section) origins(history solid.History, f solid.Frame) {
	faces, edges := s.shape.Faces(), s.shape.Edges()
	s.from, s.inCut, s.wall = make([][]int, len(faces)), make([]bool, len(faces)), make([]bool, len(faces))
	for i, face := range faces {
		for _, from := range history[i] {
			if from.Operand == 0 && from.Kind == solid.FromFace {
				s.from[i] = append(s.from[i], from.Index)
			}
		}
		if len(s.from[i]) > 0 || face.Kind != solid.PlaneFace {
			continue
		}
		if face.Normal.Dot(f.Z) < 1-1e-9 {
			s.wall[i] = true
			continue
		}
		s.inCut[i] = slices.ContainsFunc(s.planes, func(c Plane) bool {
			return math.Abs(face.Centroid.Sub(c.At).Dot(f.Z)) < 1e-6
		})
		var around []solid.Edge
		for _, e := range face.Edges {
			around = append(around, edges[e])
		}
		s.faces = append(s.faces, around)
	}
}
