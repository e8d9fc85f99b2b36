package sheet

import (
	"context"
	"fmt"
	"math"
	"reflect"
	"slices"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/solid"
)

// Projection is a view of a solid in the plane of the view, in millimetres of the model: X and Y of
// the frame lie in the plane, and Z points to the viewer. Nothing of the paper is in it.
type Projection struct {
	Frame  solid.Frame
	Origin solid.Vec // what stands at the place of the view on the paper
	Curves []Curve
	// Drawn are the curves less what of the hidden ones lies under others. The edge of each is the number of its curve.
	Drawn  []solid.ViewCurve
	Cut    [][]solid.Edge // of a section: the edges of each face that lies in the cut
	CutOf  []int          // of each of them: a face of the reference beside it, or -1
	Planes []Plane        // of a section: where it is cut
	Turn   *Turn          // of an aligned section
	// Broken is where the part is broken off around a local section.
	Broken []solid.ViewCurve
	// Ends are outlines of components at the ends of drives, of an arrangement sheet.
	Ends []solid.ViewCurve
}

// Curve is a curve of a view, and the faces of the reference that it is a picture of: two at an edge, one at a
// silhouette, none where a section has cut it off.
type Curve struct {
	solid.ViewCurve
	Of []int
}

// Projected is all that the kernel has to say for a sheet: laying it out needs no more.
type Projected struct {
	Geometry *solid.Geometry
	Views    map[string]*Projection // by the id of the view
	// Composed is what an arrangement sheet shows; nil of one part.
	Composed *Composed
}

// Project has the kernel project a reference for the views of a set of sheets, but for those that are known already, by
// their ids.
func Project(ctx context.Context, k solid.Kernel, set exercise.Sheets, ref *part.Named,
	known map[string]*Projection) (*Projected, error) {
	geo, err := check.Described(k, ref)
	if err != nil {
		return nil, err
	}
	out := &Projected{Geometry: geo, Views: map[string]*Projection{}}
	for n := range set {
		stand, err := standing(geo, &set[n])
		if err != nil {
			return nil, err
		}
		for i := range set[n].Views {
			spec := &set[n].Views[i]
			if out.Views[spec.ID] = known[spec.ID]; known[spec.ID] != nil {
				continue
			}
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			p := projecting{kernel: k, geo: geo, others: out.Views, spec: spec, stand: stand}
			if out.Views[spec.ID], err = p.project(ref.Shape); err != nil {
				return nil, fmt.Errorf("view %s: %w", spec.ID, err)
			}
		}
	}
	return out, nil
}

// Counting is a set of sheets with only what counts for how its views are projected.
func Counting(set exercise.Sheets) exercise.Sheets {
	out := make(exercise.Sheets, len(set))
	for n := range set {
		out[n].Stands = set[n].Stands
		for i := range set[n].Views {
			v := &set[n].Views[i]
			cut := v.Cut
			if cut != nil {
				cut = &exercise.Cut{Kind: cut.Kind, Path: cut.Path, Side: cut.Side, Within: cut.Within, Uncut: cut.Uncut}
			}
			out[n].Views = append(out[n].Views, exercise.View{ID: v.ID, Kind: v.Kind, Parent: v.Parent, Square: v.Square,
				Origin: v.Origin, Cut: cut, Apart: v.Apart})
		}
	}
	return out
}

// Known are the projections that are as good for a set of sheets as it is now as for what it was when they were made.
func (p *Projected) Known(was, now exercise.Sheets) map[string]*Projection {
	was, now = Counting(was), Counting(now)
	out := map[string]*Projection{}
	for n := range now {
		for i := range now[n].Views {
			v := &now[n].Views[i]
			on := was.On(v.ID)
			if on < 0 || !reflect.DeepEqual(was[on].Stands, now[n].Stands) {
				continue
			}
			same := reflect.DeepEqual(was.View(v.ID), v)
			if same && (v.Parent == "" || out[v.Parent] != nil) {
				out[v.ID] = p.Views[v.ID]
			}
		}
	}
	return out
}

// projecting makes one view, after its parents.
type projecting struct {
	kernel solid.Kernel
	geo    *solid.Geometry
	others map[string]*Projection
	spec   *exercise.View
	stand  solid.Frame
	// Of an arrangement sheet.
	parts    []PlacedPart
	composed *Composed
	index    []int // of each face of what is cut: which face of the whole it is; nil where it is the same
}

// project has the kernel make the view: the outlines as seen along the direction, with hidden lines, or a section. A
// detail shows the curves of its parent again.
func (p *projecting) project(shape solid.Shape) (*Projection, error) {
	out := &Projection{}
	var err error
	if out.Frame, err = p.frame(); err != nil {
		return nil, err
	}
	if p.spec.Origin.Name != "" {
		if out.Origin, err = p.middle(p.spec.Origin); err != nil {
			return nil, err
		}
	}
	if p.spec.Kind == "detail" {
		parent := p.others[p.spec.Parent]
		origin := out.Origin
		*out = *parent
		out.Origin = origin
		return out, nil
	}
	if p.spec.Apart && p.composed != nil {
		if shape, err = p.drawnApart(); err != nil {
			return nil, err
		}
	}
	if p.spec.Cut == nil {
		one := &piece{shape: shape}
		return out, p.pictured(out, &section{pieces: []piece{*one}}, one)
	}
	if shape, p.index, err = p.toCut(shape); err != nil {
		return nil, err
	}
	cut, err := p.cut(shape, out.Frame)
	if err != nil {
		return nil, err
	}
	out.Planes, out.Turn = cut.planes, cut.turn
	for i := range cut.pieces {
		one := &cut.pieces[i]
		out.Cut, out.CutOf = append(out.Cut, one.faces...), append(out.CutOf, one.of...)
		if err == nil {
			err = p.withWhole(one)
		}
		if err == nil {
			err = p.pictured(out, cut, one)
		}
	}
	return out, err
}

// pictured adds the curves of a piece to a view. Where a cut goes from one plane to the next, and where it ends, the
// part has no edge (ISO 128-3); around a local section it is broken off.
func (p *projecting) pictured(out *Projection, cut *section, one *piece) error {
	curves, err := p.kernel.View(one.shape, out.Frame)
	if err != nil {
		return err
	}
	edges := one.shape.Edges()
	var all []solid.ViewCurve
	for _, c := range curves {
		var faces []int
		if c.Edge >= 0 {
			faces = edges[c.Edge].Faces
		} else if c.Face >= 0 {
			faces = []int{c.Face}
		}
		curve := Curve{ViewCurve: c}
		if p.spec.Cut == nil {
			curve.Of = slices.Clone(faces)
		} else {
			wall, inCut := one.at(faces)
			if wall && cut.local && !c.Hidden && !slices.ContainsFunc(out.Broken, func(o solid.ViewCurve) bool {
				return coincide(o, c)
			}) {
				out.Broken = append(out.Broken, c)
			}
			if wall || cut.only && !inCut {
				continue
			}
			for _, f := range faces {
				curve.Of = append(curve.Of, one.from[f]...)
			}
		}
		c.Edge = len(out.Curves) // what is drawn of it knows it by its number
		out.Curves, all = append(out.Curves, curve), append(all, c)
	}
	out.Drawn = append(out.Drawn, uncovered(all)...)
	return one.shape.Err()
}

// frame is the frame of the view: Z points to the viewer.
func (p *projecting) frame() (solid.Frame, error) {
	switch p.spec.Kind {
	case "detail":
		return p.others[p.spec.Parent].Frame, nil
	case "auxiliary":
		return p.auxiliary()
	}
	f, ok := viewOf(p.spec.Kind, p.stand)
	if !ok {
		return f, fmt.Errorf("%q is not a kind of view: use front, back, top, bottom, left, right, pictorial, "+
			"pictorial-back, auxiliary or detail", p.spec.Kind)
	}
	return f, nil
}

// auxiliary looks squarely at a face that the parent shows edge on. It is turned as projection turns it: what lies on a
// line square to the face in the parent lies on the same line here (ISO 5456-2).
func (p *projecting) auxiliary() (solid.Frame, error) {
	found, err := inspect.Operand(p.geo, p.spec.Square)
	if err != nil {
		return solid.Frame{}, err
	}
	face, parent := p.geo.Faces[found[0]], p.others[p.spec.Parent].Frame
	if face.Kind != solid.PlaneFace {
		return solid.Frame{}, fmt.Errorf("%q is not flat, and cannot be looked at squarely", p.spec.Square.Name)
	}
	n := face.Normal
	if math.Abs(n.Dot(parent.Z)) > 1e-9 {
		return solid.Frame{}, fmt.Errorf("%q is not seen edge on in the view %s: lay the view out from one that shows it so",
			p.spec.Square.Name, p.spec.Parent)
	}
	// On the paper of the parent the face looks along d, and the line in which the two planes of projection meet, along e.
	fold := parent.Z.Cross(n)
	d := [2]float64{n.Dot(parent.X), n.Dot(parent.Y)}
	e := [2]float64{-d[1], d[0]}
	x := fold.Scale(e[0]).Sub(parent.Z.Scale(d[0]))
	y := fold.Scale(e[1]).Sub(parent.Z.Scale(d[1]))
	return solid.Frame{X: x, Y: y, Z: n}, nil
}

// middle is where a view or a cut is held by a feature: the axis of a round face, the middle of any other, the
// middle of the line in which two flat faces meet, or of the circle of two round ones.
func (p *projecting) middle(ref address.Ref) (solid.Vec, error) {
	operand, err := inspect.Operand(p.geo, ref)
	if err != nil {
		return solid.Vec{}, err
	}
	if r, ok := rimOf(p.geo, operand); ok {
		return r.Center, nil
	}
	if len(operand) == 2 {
		at, _ := meet(p.geo, operand)
		return at, nil
	}
	f := p.geo.Faces[operand[0]]
	switch f.Kind {
	case solid.CylinderFace, solid.ConeFace, solid.SphereFace, solid.TorusFace:
		return f.Origin.Add(f.Axis.Scale(f.Centroid.Sub(f.Origin).Dot(f.Axis))), nil
	}
	return f.Centroid, nil
}

// viewFrame gives the frame of a view: Z points to the viewer. The pictorial view
// looks along the diagonal of the front (or back), top and right directions, so
// that all three axes are shortened alike (isometric, ISO 5456-3).
func viewFrame(kind string) (solid.Frame, bool) {
	up := solid.Vec{0, 0, 1}
	toViewer := map[string]solid.Vec{"front": {0, -1, 0}, "back": {0, 1, 0}, "right": {1, 0, 0}, "left": {-1, 0, 0},
		"pictorial": {1, -1, 1}, "pictorial-back": {1, 1, 1}}
	switch kind {
	case "top":
		return solid.World, true
	case "bottom": // unfolded downwards from the front, as the top is upwards
		return solid.Frame{X: solid.Vec{1, 0, 0}, Y: solid.Vec{0, -1, 0}, Z: solid.Vec{0, 0, -1}}, true
	}
	z, ok := toViewer[kind]
	if !ok {
		return solid.Frame{}, false
	}
	z = z.Unit()
	x := up.Cross(z).Unit()
	return solid.Frame{X: x, Y: z.Cross(x), Z: z}, true
}

// fromCorner tells whether a view shows the part from a corner.
func fromCorner(v exercise.View) bool {
	return v.Kind == "pictorial" || v.Kind == "pictorial-back"
}
