package identify

import (
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/inspect"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Part is a part of a reference or of an attempt, in its own coordinates. The faces of its geometry are those of the
// features of its shape.
type Part struct {
	Shape    *assembly.Shape
	Geometry *solid.Geometry
	Closed   *solid.Geometry // with round surfaces in one piece, by which parts are compared
	Corners  []solid.Vec
}

// Way is one way in which a part of an attempt is one of the reference: its features by the names that they have there,
// and how they lie in the attempt's part. A part that has symmetries is the other in several ways.
type Way struct {
	Shape *assembly.Shape
	Pose  rigid.Pose
	// Round: it looks the same however it is turned about its axis, so that no joint can ask for that; of a mirror image
	// it cannot be said.
	Round bool
}

// At is the way where the attempt's part stands.
func (w Way) At(pose rigid.Pose) Way {
	w.Pose = w.Pose.Then(pose)
	return w
}

// mostWays bounds the ways of one part to be another.
const mostWays = 64

// Ways lists the ways in which a part of an attempt can be one of the reference, the plain one first.
//
// With the motion T that brings the attempt's part onto the reference's, and a symmetry S of the latter, the
// reference's features lie in the attempt at T⁻¹ S. Where the two are not the same solid, the features are those of
// the attempt's own faces that match, named for the reference's; then the symmetries of the attempt's part count as
// well, since what makes the reference's less symmetric may be what is wrong.
func Ways(ref, att *Part) []Way {
	if u := Like(ref.Closed, att.Closed).Scale; u != 1 {
		_, match := inspect.FindPose(ref.Geometry, att.Geometry.Scaled(u))
		return []Way{plainWay(ref, att, match)}
	}
	pose, _ := inspect.FindPose(ref.Closed, att.Closed)
	t := pose.Transform
	turns := turnsOf(ref.Shape)
	round := isRound(ref.Shape) || isRound(att.Shape)
	var out []Way
	if t.Det() > 0 && inspect.Congruent(ref.Closed, att.Closed, t) {
		for _, s := range turns {
			if p, err := rigid.Of(s.Then(t.Inverse())); err == nil {
				out = append(out, Way{ref.Shape, p, round})
			}
		}
		return out
	}
	own, match := inspect.FindPose(ref.Geometry, att.Geometry)
	t = own.Transform
	for _, turn := range turnsOf(att.Shape) {
		if t.Det() < 0 { // of a mirror image where its faces are is all that can be said
			return []Way{plainWay(ref, att, match)}
		}
		for _, s := range turns {
			if len(out) == mostWays {
				return out
			}
			toRef := turn.Then(t).Then(s.Inverse())
			p, err := rigid.Of(toRef.Inverse())
			if err != nil {
				continue
			}
			out = append(out, Way{named(ref, att, match, s, toRef), p, round})
		}
	}
	return out
}

// plainWay is the one way in which a mirror image, or what is in another unit, is the part: its faces in its own
// coordinates.
func plainWay(ref, att *Part, match inspect.Matching) Way {
	return Way{named(ref, att, match, solid.Identity, solid.Identity), rigid.Still(), true}
}

// named is the attempt's part in the coordinates of the reference's, which a motion leads to, with its features named
// for those of the reference that lie where they do once that is turned by one of its symmetries.
func named(ref, att *Part, match inspect.Matching, symmetry, to solid.Transform) *assembly.Shape {
	labels := make([]string, len(att.Geometry.Faces))
	words := make([]string, len(labels))
	for i, f := range surfaces(ref) {
		if f == nil {
			continue
		}
		if j := image(ref.Geometry, symmetry, i); j >= 0 && match.Of[j] >= 0 {
			labels[match.Of[j]], words[match.Of[j]] = f.Name, f.Words
		}
	}
	corners := make([]solid.Vec, len(att.Corners))
	for i, c := range att.Corners {
		corners[i] = to.Apply(c)
	}
	g := att.Geometry.Moved(to)
	out := att.Shape.With(assembly.Named(g, labels, words, corners), g.Box)
	out.Props.Centroid = to.Apply(out.Props.Centroid)
	if out.Mesh != nil {
		out.Mesh = out.Mesh.Moved(to)
	}
	return out
}

// surfaces are the features that the faces of a part are, nil of those that are none.
func surfaces(p *Part) []*assembly.Feature {
	out := make([]*assembly.Feature, len(p.Geometry.Faces))
	for i := range p.Shape.Features {
		f := &p.Shape.Features[i]
		if len(f.Lines) > 0 {
			continue
		}
		for _, face := range f.Faces {
			if face < len(out) {
				out[face] = f
			}
		}
	}
	return out
}

// image is the face that a symmetry brings a face onto, or -1.
func image(g *solid.Geometry, symmetry solid.Transform, face int) int {
	const near = 1e-3 // mm
	f := &g.Faces[face]
	at, along := symmetry.Apply(f.Centroid), symmetry.Turn(f.Normal)
	return slices.IndexFunc(g.Faces, func(o solid.Face) bool {
		return o.Kind == f.Kind && o.Hollow == f.Hollow && at.Distance(o.Centroid) < near &&
			(f.Kind != solid.PlaneFace || along.Dot(o.Normal) > 0.999)
	})
}

// turnsOf are the motions that bring a part onto itself, the one that leaves it where it is first.
func turnsOf(s *assembly.Shape) []solid.Transform {
	out := []solid.Transform{solid.Identity}
	if s.Symmetry != nil {
		for _, t := range s.Symmetry.Turns {
			out = append(out, t.Transform())
		}
	}
	return out
}

func isRound(s *assembly.Shape) bool { return s.Symmetry != nil && s.Symmetry.Axis != nil }
