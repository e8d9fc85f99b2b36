package sheet

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
)

// standing is the frame in which the part stands on a sheet: Z is up, and -Y looks to the front. Without faces that are
// named for it they are the axes of the model.
func standing(g *solid.Geometry, s *exercise.Sheet) (solid.Frame, error) {
	if s.Stands == nil {
		return solid.World, nil
	}
	var faces []solid.Face
	for _, ref := range []address.Ref{s.Stands.Up, s.Stands.Front} {
		if ref.Name == "" {
			continue // a turned part has no front
		}
		found, err := inspect.Operand(g, ref)
		if err != nil {
			return solid.World, err
		}
		faces = append(faces, g.Faces[found[0]])
	}
	f, ok := upright(faces)
	if !ok {
		return solid.World, fmt.Errorf("the part cannot stand by %q and %q: name a flat or a round face that is up, and "+
			"another that looks to another side or stands beside it", s.Stands.Up.Name, s.Stands.Front.Name)
	}
	if s.Stands.Lying {
		f = solid.Frame{X: f.Z, Y: f.Y, Z: f.X.Scale(-1)}
	}
	return f, nil
}

// direction is where a face looks: along a flat one's normal, a round one's axis.
func direction(f solid.Face) (solid.Vec, bool) {
	switch f.Kind {
	case solid.PlaneFace:
		return f.Normal, true
	case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
		return f.Axis, true
	}
	return solid.Vec{}, false
}

// upright is the frame in which the first face is up and the second, as far as that can be, to the front: it looks
// there, or where it looks up as well, its axis stands there beside that of the first.
func upright(faces []solid.Face) (solid.Frame, bool) {
	up, ok := direction(faces[0])
	if !ok {
		return solid.World, false
	}
	front := up.Perpendicular()
	if len(faces) > 1 {
		if front, ok = direction(faces[1]); !ok {
			return solid.World, false
		}
		if front.Parallel(up, 1e-3) {
			at := faces[0].Origin
			if faces[0].Kind == solid.PlaneFace {
				at = faces[0].Centroid
			}
			front = solid.FromAxis(faces[1].Origin, at, up)
		}
	}
	y := front.Sub(up.Scale(front.Dot(up))).Scale(-1)
	if y.Norm() < 1e-3 {
		return solid.World, false
	}
	y = y.Unit()
	return solid.Frame{X: y.Cross(up), Y: y, Z: up}, true
}

// viewOf is the frame of a kind of view of a part that stands in a frame.
func viewOf(kind string, stand solid.Frame) (solid.Frame, bool) {
	f, ok := viewFrame(kind)
	if stand == solid.World {
		return f, ok // to the last digit, as it was before a part could stand otherwise
	}
	return solid.Frame{X: stand.Point(f.X[0], f.X[1], f.X[2]), Y: stand.Point(f.Y[0], f.Y[1], f.Y[2]),
		Z: stand.Point(f.Z[0], f.Z[1], f.Z[2])}, ok
}

// boxIn is the box around a part along the axes of a frame, in coordinates of the frame. Free-form faces can reach over
// it a little: views are placed by it, and nothing is measured.
func boxIn(g *solid.Geometry, f solid.Frame) solid.Box {
	if f == solid.World {
		return g.Box
	}
	inf := math.Inf(1)
	out := solid.Box{Min: solid.Vec{inf, inf, inf}, Max: solid.Vec{-inf, -inf, -inf}}
	see := func(p solid.Vec) {
		q := f.Local(p)
		for k := range 3 {
			out.Min[k], out.Max[k] = math.Min(out.Min[k], q[k]), math.Max(out.Max[k], q[k])
		}
	}
	for _, e := range g.Edges {
		if e.Degenerate {
			continue
		}
		see(e.A)
		see(e.B)
		see(e.Mid)
		if e.Kind == solid.CircleEdge && e.A.Distance(e.B) < 1e-9 {
			x := e.Axis.Perpendicular()
			y := e.Axis.Cross(x)
			for k := range 32 {
				t := 2 * math.Pi * float64(k) / 32
				see(e.Center.Add(x.Scale(e.Radius * math.Cos(t))).Add(y.Scale(e.Radius * math.Sin(t))))
			}
		}
	}
	for _, face := range g.Faces {
		if face.Kind == solid.SphereFace {
			for _, d := range []solid.Vec{f.X, f.Y, f.Z} {
				see(face.Origin.Add(d.Scale(face.Radius)))
				see(face.Origin.Sub(d.Scale(face.Radius)))
			}
		}
	}
	return out
}

// askew is how much more of a part must lie along other axes than those of the model before it is stood by them.
const askew = 0.2

// How many times higher than wide a part is before it is laid down: one that is turned, and any other.
const (
	layTurned = 1.2
	layAny    = 4.0
)

// stands says how a part stands on a sheet that is arranged for it: by the axes of its file, or by faces where it lies
// askew there; and one that would stand high is laid down.
func stands(g *solid.Geometry) *exercise.Standing {
	out := straightened(g)
	f, err := standing(g, &exercise.Sheet{Stands: out})
	if err != nil {
		return out
	}
	size := boxIn(g, f).Size()
	high := size[2] / math.Max(size[0], size[1])
	axis, round := turned(g)
	if round = round && axis.Parallel(f.Z, 1e-6); high < layAny && !(round && high > layTurned) {
		return out
	}
	lying := &exercise.Standing{Up: facing(g, toTheRight(g, f.Z)), Front: facing(g, f.Y.Scale(-1)), Lying: true}
	if lying.Up.Name == "" {
		return out
	}
	return lying
}

// toTheRight is the end of a part, along an axis or against it, that is laid to the right: the other one is looked at
// by the view from the left, and more faces look that way, or it is the heavier one.
func toTheRight(g *solid.Geometry, axis solid.Vec) solid.Vec {
	ends := 0
	for _, f := range g.Faces {
		if f.Kind == solid.PlaneFace && f.Normal.Parallel(axis, 1e-6) {
			ends += int(math.Copysign(1, f.Normal.Dot(axis)))
		}
	}
	middle := g.Box.Min.Add(g.Box.Max).Scale(0.5)
	if ends > 0 || ends == 0 && g.Props.Centroid.Sub(middle).Dot(axis) > 1e-6 {
		return axis.Scale(-1)
	}
	return axis
}

// facing is the largest face with a name that looks in a direction or, where none does, along it.
func facing(g *solid.Geometry, way solid.Vec) address.Ref {
	best, most := -1, 0.0
	for i, face := range g.Faces {
		d, ok := direction(face)
		if !ok || len(g.Names[i]) == 0 || !d.Parallel(way, 1e-6) {
			continue
		}
		area := face.Area
		if d.Dot(way) > 0 {
			area += g.Box.Diagonal() * g.Box.Diagonal() * 10 // before all that look the other way
		}
		if area > most {
			best, most = i, area
		}
	}
	if best < 0 {
		return address.Ref{}
	}
	return address.Ref{Name: g.Address(best)}
}

// straightened names the faces by which a part stands that lies askew in its file; nil where the model's axes do.
func straightened(g *solid.Geometry) *exercise.Standing {
	whole := 0.0
	for _, f := range g.Faces {
		whole += f.Area
	}
	// along is the share of the part's faces that lie along the axes of a frame.
	along := func(f solid.Frame) float64 {
		sum := 0.0
		for _, face := range g.Faces {
			if d, ok := direction(face); ok &&
				(d.Parallel(f.X, 1e-6) || d.Parallel(f.Y, 1e-6) || d.Parallel(f.Z, 1e-6)) {
				sum += face.Area
			}
		}
		return sum / whole
	}
	best, most := (*exercise.Standing)(nil), along(solid.World)+askew
	faces := make([]int, 0, len(g.Faces))
	for i, f := range g.Faces {
		if _, ok := direction(f); ok && len(g.Names[i]) > 0 {
			faces = append(faces, i)
		}
	}
	// The largest faces first, so that a plate lies flat.
	slices.SortStableFunc(faces, func(a, b int) int { return cmp.Compare(g.Faces[b].Area, g.Faces[a].Area) })
	try := func(list ...int) {
		named := []solid.Face{g.Faces[list[0]]}
		if len(list) > 1 {
			named = append(named, g.Faces[list[1]])
		}
		f, ok := upright(named)
		if !ok {
			return
		}
		if share := along(f); share > most+1e-9 {
			best, most = &exercise.Standing{Up: address.Ref{Name: g.Address(list[0])}}, share
			if len(list) > 1 {
				best.Front = address.Ref{Name: g.Address(list[1])}
			}
		}
	}
	const tried = 12
	for n, i := range faces[:min(len(faces), tried)] {
		beside := 0
		for _, k := range faces {
			up, _ := direction(g.Faces[i])
			front, _ := direction(g.Faces[k])
			s := math.Abs(up.Dot(front))
			if k != i && (s < 1e-6 || s > 1-1e-9 && g.Faces[k].Kind == solid.CylinderFace) && beside < tried {
				beside++
				try(i, k)
			}
		}
		if n == 0 && best == nil {
			try(i)
		}
	}
	return best
}
