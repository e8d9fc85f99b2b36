package robust

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// half says what of an attempt lost its other half when a parameter took a value, or
// nothing: about a plane through the middle in which the attempt is symmetric at the
// nominal values it is not any more, although the reference keeps its symmetries there.
func (s *Sweeper) half(ctx context.Context, p Partner, v quantity.Quantity) (string, error) {
	rebuild := func(d *part.Document, name string, v quantity.Quantity) (before, after *part.Build, err error) {
		if before, err = s.Rebuilder.Rebuild(ctx, d, nil); err == nil {
			after, err = s.Rebuilder.Rebuild(ctx, d, map[string]quantity.Quantity{name: v})
		}
		if err == nil && (before.Solid == nil || after.Solid == nil) {
			err = fmt.Errorf("there is no solid")
		}
		return before, after, err
	}
	ref0, ref1, err := rebuild(s.Reference, p.Reference, v)
	if err != nil {
		return "", err
	}
	att0, att1, err := rebuild(s.Attempt, p.Attempt, s.own(v))
	if err != nil {
		return "", err
	}
	kept := func(a, b *part.Build) (lost []mirrorPlane, err error) {
		planes, err := s.symmetries(a)
		if err != nil {
			return nil, err
		}
		k := s.Rebuilder.Kernel()
		props, err := k.Props(b.Solid.Shape)
		if err != nil {
			return nil, err
		}
		for _, m := range planes {
			// The part may grow to one side: the plane goes through the middle.
			if len(unmatched(b.Solid.Shape.Faces(), mirrorPlane{props.Centroid, m.normal})) > 0 {
				lost = append(lost, m)
			}
		}
		return lost, nil
	}
	lost, err := kept(ref0, ref1)
	if err != nil || len(lost) > 0 {
		return "", err // the part itself is not symmetric there
	}
	if lost, err = kept(att0, att1); err != nil || len(lost) == 0 {
		return "", err
	}
	// Where the plane was, what moved and what stayed have no other half.
	var steps []string
	faces := att1.Solid.Shape.Faces()
	for _, i := range unmatched(faces, lost[0]) {
		for _, n := range att1.Solid.Names[i] {
			id, _, _ := strings.Cut(n, "/")
			for k := range s.Attempt.Steps {
				if st := &s.Attempt.Steps[k]; st.ID == id && !slices.Contains(steps, st.Title()) {
					steps = append(steps, st.Title())
				}
			}
		}
	}
	if len(steps) == 0 || len(steps) > 4 {
		return "one half does not follow the other", nil
	}
	return "one half does not follow the other: look at " + strings.Join(steps, ", "), nil
}

// mirrorPlane is a plane of symmetry.
type mirrorPlane struct{ at, normal solid.Vec }

// symmetries finds planes in which the faces of a solid mirror each other, among those
// through its middle square to a model axis or to a principal axis of inertia. The
// normal of a plane of symmetry is a principal axis; where two moments are equal, those
// of the model stand for the ones that the inertia does not tell.
func (s *Sweeper) symmetries(b *part.Build) ([]mirrorPlane, error) {
	props, err := s.Rebuilder.Kernel().Props(b.Solid.Shape)
	if err != nil {
		return nil, err
	}
	normals := []solid.Vec{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}
	axes, _ := props.Principal()
	for _, n := range axes {
		if !slices.ContainsFunc(normals, func(m solid.Vec) bool { return m.Parallel(n, 1e-6) }) {
			normals = append(normals, n)
		}
	}
	var out []mirrorPlane
	faces := b.Solid.Shape.Faces()
	for _, n := range normals {
		if m := (mirrorPlane{props.Centroid, n}); len(unmatched(faces, m)) == 0 {
			out = append(out, m)
		}
	}
	return out, nil
}

// unmatched lists the faces that have no mirror image among the others: of the same
// kind and area, with its middle where the mirror puts it.
func unmatched(faces []solid.Face, m mirrorPlane) []int {
	size := 0.0
	for _, f := range faces {
		size = math.Max(size, f.Bounds.Diagonal())
	}
	tol := 1e-5 * size
	used := make([]bool, len(faces))
	var out []int
	for i, f := range faces {
		image := f.Centroid.Sub(m.normal.Scale(2 * f.Centroid.Sub(m.at).Dot(m.normal)))
		found := false
		for k, g := range faces {
			if !used[k] && g.Kind == f.Kind && g.Hollow == f.Hollow && math.Abs(g.Area-f.Area) <= 1e-5*f.Area &&
				g.Centroid.Distance(image) <= tol {
				used[k], found = true, true
				break
			}
		}
		if !found {
			out = append(out, i)
		}
	}
	return out
}
