package reading

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// mostMotions bounds the motions that are looked at for one step.
const mostMotions = 400

// elsewhere looks for a step that is there as it should be, in another place: shifted, or on the other side. A motion
// that takes a face of the step to a face of the attempt of the same kind and size counts, if it takes all the
// others there too.
func (r *Reader) elsewhere(s *part.Step) []part.Mistake {
	var own []int
	gone := false
	for _, i := range r.own[s.ID] {
		if len(r.Part.Names[i]) > 1 {
			continue // joined with another step's: it has not moved
		}
		own = append(own, i)
		gone = gone || r.Match.Of[i] < 0 || !coincide(r.Part.Faces[i], r.Attempt.Faces[r.Match.Of[i]])
	}
	if !gone || len(own) == 0 {
		return nil
	}
	var out []part.Mistake
	for _, t := range r.motions(own) {
		if !r.lands(own, t) {
			continue
		}
		m := Shifted(s.Title(), t.T, r.unit())
		if t.Det() < 0 {
			m.What = head(s) + s.Title() + " is on the other side of the part"
			m.Cause = "it was begun on the wrong face, or a view was read from the wrong side"
			m.Remedy = "look in the views on which side the sheet has it"
		}
		m.Step, m.Alterations = s.ID, []part.Alteration{part.Moved(s.ID, t)}
		out = append(out, m)
		if len(out) == 3 {
			break
		}
	}
	return out
}

// Shifted is the mistake that a feature stands elsewhere by t, in the axes of the part.
func Shifted(title string, t solid.Vec, unit quantity.Unit) part.Mistake {
	where := "from where the sheet has it"
	if side := towards(t); side != "" {
		where = "nearer to the " + side + " than on the sheet"
	}
	return part.Mistake{Kind: "elsewhere",
		What:   fmt.Sprintf("%s stands %s %s", title, quantity.FormulaFormat(unit).Length(t.Norm()), where),
		Cause:  "it was placed from another edge or line, or by eye",
		Remedy: "place it by the sizes that the sheet gives from the edges and from the middle"}
}

// towards is the side of the part to which a shift leads, where it is along one of its axes.
func towards(t solid.Vec) string {
	for k, sides := range [3][2]string{{"left", "right"}, {"front", "back"}, {"bottom", "top"}} {
		switch v := t[k] / t.Norm(); {
		case v > 1-1e-6:
			return sides[1]
		case v < -(1 - 1e-6):
			return sides[0]
		}
	}
	return ""
}

// head is what of a hole can be told to be on the other side: its head, where it has one.
func head(s *part.Step) string {
	if do, ok := s.Do.(*part.Hole); ok && do.Form != "" && do.Form != "plain" && do.Form != "tapped" {
		return "the " + do.Form + " of "
	}
	return ""
}

// sunk looks for a step that adds material and is missing, while what stands on it is there, on the face that the step
// would stand on: as if it had been pushed into the part until its end is flush.
func (r *Reader) sunk(s *part.Step) []part.Mistake {
	if hollow(s) {
		return nil
	}
	var ends []int
	for _, i := range r.own[s.ID] {
		j := r.Match.Of[i]
		f := r.Part.Faces[i]
		switch {
		case f.Kind == solid.PlaneFace:
			ends = append(ends, i)
		case j >= 0 && coincide(f, r.Attempt.Faces[j]):
			return nil
		}
	}
	var out []part.Mistake
	for _, i := range ends {
		f := r.Part.Faces[i]
		for j, a := range r.Attempt.Faces {
			by := a.Centroid.Sub(f.Centroid).Dot(f.Normal)
			if a.Kind != solid.PlaneFace || r.free(j) || a.Normal.Angle(f.Normal) > even || by > -close || len(out) == 4 {
				continue
			}
			out = append(out, part.Mistake{Kind: "missing", Step: s.ID, What: s.Title() + " is missing",
				Cause:  "the feature was forgotten, and what stands on it was put on the face beneath",
				Remedy: "add it as the sheet shows it", Alterations: []part.Alteration{part.Moved(s.ID,
					solid.Translation(f.Normal.Scale(by)))}})
		}
	}
	return out
}

// lands tells whether a motion takes faces of the part onto faces of the attempt.
func (r *Reader) lands(own []int, t solid.Transform) bool {
	for _, i := range own {
		f := moved(r.Part.Faces[i], t)
		if !slices.ContainsFunc(r.Attempt.Faces, func(a solid.Face) bool { return coincide(f, a) }) {
			return false
		}
	}
	return true
}

// moved is a face after a motion.
func moved(f solid.Face, t solid.Transform) solid.Face {
	f.Origin, f.Centroid = t.Apply(f.Origin), t.Apply(f.Centroid)
	f.Axis, f.Normal = t.Turn(f.Axis), t.Turn(f.Normal)
	return f
}

// motions are the shifts and reflections that take one of the faces to a face of the attempt that lies on
// none of the part: those along one direction, and along two at right angles.
func (r *Reader) motions(own []int) []solid.Transform {
	var shifts []solid.Vec
	var out []solid.Transform
	add := func(v solid.Vec) {
		if v.Norm() > close && !slices.ContainsFunc(shifts, func(o solid.Vec) bool { return o.Distance(v) < 1e-6 }) {
			shifts = append(shifts, v)
		}
	}
	for _, i := range own {
		f := r.Part.Faces[i]
		for j, a := range r.Attempt.Faces {
			if a.Kind != f.Kind || !r.free(j) {
				continue
			}
			switch {
			case f.Kind == solid.PlaneFace && a.Normal.Angle(f.Normal) < even:
				add(f.Normal.Scale(a.Centroid.Sub(f.Centroid).Dot(f.Normal)))
			case f.Kind == solid.PlaneFace && a.Normal.Angle(f.Normal.Scale(-1)) < even:
				out = append(out, solid.Reflection(f.Centroid.Add(f.Normal.Scale(a.Centroid.Sub(f.Centroid).Dot(f.Normal)/2)),
					f.Normal))
			case f.Kind == solid.CylinderFace && a.Hollow == f.Hollow && a.Axis.Parallel(f.Axis, even) &&
				math.Abs(a.Radius-f.Radius) < close:
				add(solid.FromAxis(a.Origin, f.Origin, f.Axis))
			}
		}
	}
	// A shift is told before a reflection: of a symmetric feature they are the same.
	turned := out
	out = nil
	for _, v := range shifts {
		out = append(out, solid.Translation(v))
	}
	for k, v := range shifts {
		for _, u := range shifts[:k] {
			if math.Abs(v.Dot(u)) < 1e-6*v.Norm()*u.Norm() && len(out) < mostMotions {
				out = append(out, solid.Translation(v.Add(u)))
			}
		}
	}
	return append(out, turned...)
}
