package sheet

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// Plane is a cutting plane of a section: through At, from one place to another along Along, and looked at against
// Sight.
type Plane struct {
	At, Along, Sight solid.Vec
	From, To         float64 // counted from At
}

// holds tells whether a direction at a place lies in the plane.
func (c Plane) holds(at, direction solid.Vec) bool {
	return math.Abs(at.Sub(c.At).Dot(c.Sight)) < 1e-6 && math.Abs(direction.Dot(c.Sight)) < 1e-6
}

// Turn lays one half of an aligned section into the plane of the view: what lies nearer to Dir than to Kept, as seen
// from the pivot, is turned about it (ISO 128-3).
type Turn struct {
	Pivot, Kept, Dir solid.Vec
	Motion           solid.Transform
}

// Apply is where a place of the part is shown.
func (t *Turn) Apply(p solid.Vec) solid.Vec {
	if from := p.Sub(t.Pivot); from.Dot(t.Dir) > from.Dot(t.Kept) {
		return t.Motion.Apply(p)
	}
	return p
}

// whole tells whether the whole view is a section: not a piece of it alone.
func (p *Projection) whole() bool { return len(p.Planes) > 0 && len(p.Broken) == 0 }

// ErrNothingCut says that a local section cuts nothing.
var ErrNothingCut = errors.New("nothing is cut within the line: draw it around the feature that the cut goes through")

// section is what a cut leaves of a solid.
type section struct {
	pieces []piece
	planes []Plane
	turn   *Turn
	only   bool // what stands behind the cut is left out
	local  bool // what bounds the cut is where the part is broken off
}

// piece is one piece of what a cut leaves.
type piece struct {
	shape solid.Shape
	faces [][]solid.Edge // the edges of each face that lies in the cut
	of    []int          // of each of them: a face of the reference beside it, or -1
	from  [][]int        // of each face of the shape: the faces of the reference that it is of
	inCut []bool         // of each face of the shape: it lies in a cutting plane
	wall  []bool         // of each face of the shape: it joins two cutting planes, or ends one
}

// at tells of an edge between faces whether one is a wall, and whether one lies in the cut.
func (p *piece) at(faces []int) (wall, cut bool) {
	for _, f := range faces {
		wall, cut = wall || p.wall[f], cut || p.inCut[f]
	}
	return wall, cut
}

// cut removes what stands before the cutting planes.
func (p *projecting) cut(shape solid.Shape, f solid.Frame) (*section, error) {
	reach := 4 * (p.geo.Box.Diagonal() + p.geo.Box.Max.Norm())
	switch p.spec.Cut.Kind {
	case exercise.LocalCut:
		return p.brokenOut(shape, f, reach)
	case exercise.AlignedCut:
		return p.aligned(shape, f, reach)
	}
	return p.across(shape, f, reach)
}

// across cuts from one side of the part to the other. Along the path the planes follow one another from left to right,
// or from the foot to the top where the parent is seen along that direction; each reaches half way to the next.
func (p *projecting) across(shape solid.Shape, f solid.Frame, reach float64) (*section, error) {
	along := f.X
	if side := p.spec.Cut.Side; p.cutUpwards(f) || side == "above" || side == "below" {
		along = f.Y
	}
	planes, err := p.planes(along, f.Z, reach)
	if err != nil {
		return nil, err
	}
	var outline [][2]float64 // of what goes: over the planes
	for _, c := range planes {
		u, depth := c.At.Dot(along), c.At.Dot(f.Z)
		outline = append(outline, [2]float64{u + c.From, depth}, [2]float64{u + c.To, depth})
	}
	from, to := outline[0][0], outline[len(outline)-1][0]
	outline = append(outline, [2]float64{to, reach}, [2]float64{from, reach})
	one, err := p.leave(shape, along, f.Z, outline, reach, planes)
	if err != nil {
		return nil, err
	}
	kind := p.spec.Cut.Kind
	return &section{pieces: []piece{*one}, planes: planes,
		only: kind == exercise.RemovedCut || kind == exercise.RevolvedCut}, nil
}

// cutUpwards tells whether the parent of a section shows its cutting planes as upright lines.
func (p *projecting) cutUpwards(f solid.Frame) bool {
	parent, ok := p.others[p.spec.Parent]
	return ok && parent.Frame.Z.Parallel(f.X, 1e-9)
}

// planes finds the cutting planes, in order.
func (p *projecting) planes(along, sight solid.Vec, reach float64) ([]Plane, error) {
	c := p.spec.Cut
	var out []Plane
	for _, ref := range c.Path {
		at, err := p.middle(ref)
		if err != nil {
			return nil, err
		}
		out = append(out, Plane{At: at, Along: along, Sight: sight})
	}
	if len(c.Path) == 0 {
		out = []Plane{{Along: along, Sight: sight}}
	}
	slices.SortStableFunc(out, func(a, b Plane) int {
		if a.At.Dot(along) < b.At.Dot(along) {
			return -1
		}
		return 1
	})
	last := len(out) - 1
	out[0].From, out[last].To = -reach, reach
	for i := range last {
		apart := out[i+1].At.Sub(out[i].At).Dot(along)
		if apart < 1e-6 {
			return nil, fmt.Errorf(
				"two features of the path of the cut lie one before the other: cut through one of them")
		}
		out[i].To, out[i+1].From = apart/2, -apart/2
	}
	if c.Kind == exercise.HalfCut {
		if c.Side == "left" || c.Side == "below" {
			out[0].To = 0
		} else {
			out[0].From = 0
		}
	}
	return out, nil
}

// aligned cuts by two planes that meet in the axis of the first feature of the path: one lies in the view, and the
// other goes through the second feature and is turned into the view with what it shows (ISO 128-3).
func (p *projecting) aligned(shape solid.Shape, f solid.Frame, reach float64) (*section, error) {
	path := p.spec.Cut.Path
	pivot, err := p.middle(path[0])
	if err != nil {
		return nil, err
	}
	at, err := p.middle(path[1])
	if err != nil {
		return nil, err
	}
	along := f.X
	if p.cutUpwards(f) {
		along = f.Y
	}
	axis := along.Cross(f.Z)
	d := solid.FromAxis(at, pivot, axis)
	if d.Norm() < 1e-6 || math.Abs(d.Dot(f.Z)) < 1e-6 {
		return nil, fmt.Errorf("the second feature of the path lies in the plane through the first: cut right through them")
	}
	side := 1.0 // on which the second plane lies
	if d.Dot(along) < -1e-9 {
		side = -1
	}
	angle := math.Atan2(d.Dot(f.Z), d.Dot(along))
	if side < 0 {
		angle -= math.Pi
	}
	turn := &Turn{Pivot: pivot, Kept: along.Scale(-side), Dir: d.Unit(), Motion: solid.Rotation(pivot, axis, -angle)}
	turned, _, err := p.kernel.Transform(shape, turn.Motion)
	if err != nil {
		return nil, err
	}
	out := &section{turn: turn}
	u, depth := pivot.Dot(along), pivot.Dot(f.Z)
	main := Plane{At: pivot, Along: along, Sight: f.Z, From: -reach}
	back := turn.Motion.Inverse()
	other := Plane{At: pivot, Along: back.Turn(along), Sight: back.Turn(f.Z), To: reach}
	if out.planes = []Plane{main, other}; side < 0 {
		main.From, main.To, other.From, other.To = 0, reach, -reach, 0
		out.planes = []Plane{other, main}
	}
	for _, half := range []struct {
		of   solid.Shape
		side float64 // that stays
	}{{shape, -side}, {turned, side}} {
		outline := [][2]float64{{u - reach*half.side, -reach}, {u, -reach}, {u, depth}, {u + reach*half.side, depth},
			{u + reach*half.side, reach}, {u - reach*half.side, reach}}
		one, err := p.leave(half.of, along, f.Z, outline, reach, []Plane{{At: pivot, Along: along, Sight: f.Z}})
		if err != nil {
			return nil, err
		}
		if half.side == side {
			one.moved(back)
		}
		out.pieces = append(out.pieces, *one)
	}
	return out, nil
}

// moved moves the faces that lie in the cut.
func (p *piece) moved(by solid.Transform) {
	for _, face := range p.faces {
		for i, e := range face {
			e.A, e.B, e.Mid, e.Center, e.Axis = by.Apply(e.A), by.Apply(e.B), by.Apply(e.Mid), by.Apply(e.Center),
				by.Turn(e.Axis)
			face[i] = e
		}
	}
}

// Of the freehand line around a local section: how many pieces it has, and how far it swings from the circle or the
// rectangle that it goes around.
const (
	freehandPieces = 48
	freehandSwing  = 0.035
)

// brokenOut breaks off a piece of the part before a plane through a feature, within a freehand line (ISO 128-3: a local
// section).
func (p *projecting) brokenOut(shape solid.Shape, f solid.Frame, reach float64) (*section, error) {
	c := p.spec.Cut
	at, err := p.middle(c.Path[0])
	if err != nil {
		return nil, err
	}
	origin := solid.Vec{}
	if p.spec.Origin.Name != "" {
		if origin, err = p.middle(p.spec.Origin); err != nil {
			return nil, err
		}
	}
	middle := [2]float64{origin.Dot(f.X) + c.Within.At[0], origin.Dot(f.Y) + c.Within.At[1]}
	half := [2]float64{c.Within.Radius, c.Within.Radius}
	if c.Within.Size != nil {
		half = [2]float64{c.Within.Size[0] / 2, c.Within.Size[1] / 2}
	}
	var loop []solid.Segment
	for _, q := range freehand(half) {
		loop = append(loop, solid.Segment{Kind: "line", A: [2]float64{middle[0] + q[0], middle[1] + q[1]}})
	}
	for i := range loop {
		loop[i].B = loop[(i+1)%len(loop)].A
	}
	frame := f
	frame.O = f.Z.Scale(at.Dot(f.Z))
	block, _, err := p.kernel.Prism(solid.Profile{Frame: frame, Loops: [][]solid.Segment{loop}}, f.Z.Scale(reach))
	if err != nil {
		return nil, err
	}
	planes := []Plane{{At: at, Along: f.X, Sight: f.Z, From: -reach, To: reach}}
	one, err := p.without(shape, block, planes)
	if err != nil {
		return nil, err
	}
	if len(one.faces) == 0 {
		return nil, ErrNothingCut
	}
	return &section{pieces: []piece{*one}, planes: planes, local: true}, nil
}

// freehand is a line around the middle of an ellipse or, as much as that, of a rectangle with some half sizes, that
// swings a little as one drawn by hand does: by two waves that do not come round together, so that it looks like no
// pattern, and always alike.
func freehand(half [2]float64) [][2]float64 {
	out := make([][2]float64, freehandPieces)
	for i := range out {
		t := 2 * math.Pi * float64(i) / freehandPieces
		swing := 1 - freehandSwing + freehandSwing*(0.6*math.Sin(5*t+1)+0.4*math.Sin(8*t))
		out[i] = [2]float64{half[0] * swing * math.Cos(t), half[1] * swing * math.Sin(t)}
	}
	return out
}

// leave takes away a block of the material: what lies within an outline in the plane of two directions, all through the
// part.
func (p *projecting) leave(shape solid.Shape, along, sight solid.Vec, outline [][2]float64, reach float64,
	planes []Plane) (*piece, error) {
	profile := solid.Frame{X: along, Y: sight, Z: along.Cross(sight)}
	profile.O = profile.Z.Scale(-reach)
	outline = slices.Compact(outline)
	area := 0.0
	for i, a := range outline {
		b := outline[(i+1)%len(outline)]
		area += a[0]*b[1] - a[1]*b[0]
	}
	if area < 0 { // an outline goes round counter-clockwise
		slices.Reverse(outline)
	}
	var loop []solid.Segment
	for i := range outline {
		loop = append(loop, solid.Segment{Kind: "line", A: outline[i], B: outline[(i+1)%len(outline)]})
	}
	block, _, err := p.kernel.Prism(solid.Profile{Frame: profile, Loops: [][]solid.Segment{loop}},
		profile.Z.Scale(2*reach))
	if err != nil {
		return nil, err
	}
	return p.without(shape, block, planes)
}

// without takes a block away, and says of every face of what is left whether the cut made it, and else which faces of
// the reference it is of.
func (p *projecting) without(shape, block solid.Shape, planes []Plane) (*piece, error) {
	left, history, err := p.kernel.Boolean(solid.Difference, shape, []solid.Shape{block})
	if err != nil {
		return nil, err
	}
	faces, edges := left.Faces(), left.Edges()
	out := &piece{shape: left, from: make([][]int, len(faces)), inCut: make([]bool, len(faces)),
		wall: make([]bool, len(faces))}
	for i, face := range faces {
		for _, from := range history[i] {
			if from.Operand == 0 && from.Kind == solid.FromFace {
				index := from.Index
				if p.index != nil {
					index = p.index[index]
				}
				out.from[i] = append(out.from[i], index)
			}
		}
		if len(out.from[i]) > 0 || face.Kind != solid.PlaneFace {
			continue
		}
		sight := planes[0].Sight
		if face.Normal.Dot(sight) < 1-1e-9 {
			out.wall[i] = true
			continue
		}
		out.inCut[i] = slices.ContainsFunc(planes, func(c Plane) bool {
			return math.Abs(face.Centroid.Sub(c.At).Dot(sight)) < 1e-6
		})
		var around []solid.Edge
		for _, e := range face.Edges {
			around = append(around, edges[e])
		}
		out.faces, out.of = append(out.faces, around), append(out.of, i)
	}
	for k, face := range out.of {
		out.of[k] = out.whose(face, faces)
	}
	return out, left.Err()
}
