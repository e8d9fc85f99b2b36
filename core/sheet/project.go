package sheet

import (
	"context"
	"fmt"
	"math"

	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/solid"
)

// Projection is a view of a solid in the plane of the view, in millimetres of the model: X and Y of
// the frame lie in the plane, and Z points to the viewer. Nothing of the paper is in it.
type Projection struct {
	Frame  solid.Frame
	Curves []solid.ViewCurve
	Cut    [][]solid.Edge // of a section: the edges of each face that lies in the cut
}

// Projected is all that the kernel has to say for a sheet: laying it out needs no more.
type Projected struct {
	Geometry *solid.Geometry
	Views    map[string]*Projection // by the id of the view
}

// Project has the kernel project a reference for the views of a sheet.
func Project(ctx context.Context, k solid.Kernel, s *exercise.Sheet, ref *part.Named) (*Projected, error) {
	geo, err := solid.Describe(k, ref.Shape, ref.Names)
	if err != nil {
		return nil, err
	}
	out := &Projected{Geometry: geo, Views: map[string]*Projection{}}
	for _, spec := range s.Views {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if out.Views[spec.ID], err = project(k, spec, ref.Shape, geo.Box); err != nil {
			return nil, fmt.Errorf("view %s: %w", spec.ID, err)
		}
	}
	return out, nil
}

// project has the kernel make one view: the outlines as seen along the
// direction, with hidden lines, or a full section. Faces in the plane of the
// section are what was cut, and are hatched: they are flat, face the reader, and
// lie in the plane through the origin to a millionth of a millimetre.
func project(k solid.Kernel, spec exercise.View, shape solid.Shape, box solid.Box) (*Projection, error) {
	f, ok := viewFrame(spec.Direction)
	if !ok {
		return nil, fmt.Errorf("%q is not a direction: use front, back, top, left, right, pictorial or pictorial-back",
			spec.Direction)
	}
	p := &Projection{Frame: f}
	var err error
	if spec.Section {
		if shape, err = cut(k, shape, box, f); err != nil {
			return nil, err
		}
		edges := shape.Edges()
		for _, face := range shape.Faces() {
			if face.Kind != solid.PlaneFace || face.Normal.Dot(f.Z) < 1-1e-9 || math.Abs(face.Centroid.Dot(f.Z)) > 1e-6 {
				continue
			}
			var around []solid.Edge
			for _, e := range face.Edges {
				around = append(around, edges[e])
			}
			p.Cut = append(p.Cut, around)
		}
		if err := shape.Err(); err != nil {
			return nil, err
		}
	}
	p.Curves, err = k.View(shape, f)
	return p, err
}

// viewFrame gives the frame of a view: Z points to the viewer. The pictorial view
// looks along the diagonal of the front (or back), top and right directions, so
// that all three axes are shortened alike (isometric, ISO 5456-3).
func viewFrame(direction string) (solid.Frame, bool) {
	up := solid.Vec{0, 0, 1}
	toViewer := map[string]solid.Vec{"front": {0, -1, 0}, "back": {0, 1, 0}, "right": {1, 0, 0}, "left": {-1, 0, 0},
		"pictorial": {1, -1, 1}, "pictorial-back": {1, 1, 1}}
	if direction == "top" {
		return solid.World, true
	}
	z, ok := toViewer[direction]
	if !ok {
		return solid.Frame{}, false
	}
	z = z.Unit()
	x := up.Cross(z).Unit()
	return solid.Frame{X: x, Y: z.Cross(x), Z: z}, true
}

// fromCorner tells whether a view shows the part from a corner.
func fromCorner(v exercise.View) bool {
	return v.Direction == "pictorial" || v.Direction == "pictorial-back"
}

// cut removes what stands before the plane through the origin of the model.
func cut(k solid.Kernel, shape solid.Shape, box solid.Box, f solid.Frame) (solid.Shape, error) {
	s := 4 * (box.Diagonal() + box.Max.Norm())
	c := [][2]float64{{-s, -s}, {s, -s}, {s, s}, {-s, s}}
	var loop []solid.Segment
	for i := range c {
		loop = append(loop, solid.Segment{Kind: "line", A: c[i], B: c[(i+1)%4]})
	}
	block, _, err := k.Prism(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, f.Z.Scale(s))
	if err != nil {
		return nil, err
	}
	half, _, err := k.Boolean(solid.Difference, shape, []solid.Shape{block})
	return half, err
}
