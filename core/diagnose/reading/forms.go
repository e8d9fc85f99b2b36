package reading

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/part"
	"hammerset/core/solid"
)

// broken looks for a bevel where the part has a round, and a round where it has a bevel: a face of the attempt
// between the faces whose edge the step breaks.
func (r *Reader) broken(s *part.Step) []part.Mistake {
	lost := true
	for _, i := range r.own[s.ID] {
		lost = lost && (r.Match.Of[i] < 0 || r.free(r.Match.Of[i]))
	}
	if !lost {
		return nil
	}
	round := func(f solid.Face) bool { return f.Kind == solid.CylinderFace || f.Kind == solid.TorusFace }
	bevel := func(f solid.Face) bool { return f.Kind == solid.PlaneFace || f.Kind == solid.ConeFace }
	if m := r.otherEdges(s, pick(s.Do, bevel, round)); m != nil {
		return []part.Mistake{*m}
	}
	switch do := s.Do.(type) {
	case *part.Fillet:
		if r.between(s.ID, bevel) {
			other := part.Become(s.ID, "chamfer", &part.Chamfer{Broken: do.Broken, Distance: do.Radius})
			return []part.Mistake{{Kind: "form", Step: s.ID, What: s.Title() + ": a chamfer in place of the round",
				Cause: "a round and a chamfer were taken for one another", Remedy: "round the edge as the sheet shows it",
				Alterations: []part.Alteration{other}}}
		}
	case *part.Chamfer:
		if r.between(s.ID, round) {
			other := part.Become(s.ID, "fillet", &part.Fillet{Broken: do.Broken, Radius: do.Distance})
			return []part.Mistake{{Kind: "form", Step: s.ID, What: s.Title() + ": a round in place of the chamfer",
				Cause: "a round and a chamfer were taken for one another", Remedy: "bevel the edge as the sheet shows it",
				Alterations: []part.Alteration{other}}}
		}
	}
	return nil
}

// pick is the form of the faces that a step makes.
func pick(do part.Operation, bevel, round func(solid.Face) bool) func(solid.Face) bool {
	if _, ok := do.(*part.Chamfer); ok {
		return bevel
	}
	return round
}

// otherEdges looks for rounds or bevels, as the step makes them, on other edges of the part: free faces between two
// faces that the part has before the step.
func (r *Reader) otherEdges(s *part.Step, form func(solid.Face) bool) *part.Mistake {
	later := map[string]bool{}
	for i := len(r.Document.Steps) - 1; i >= 0 && r.Document.Steps[i].ID != s.ID; i-- {
		later[r.Document.Steps[i].ID] = true
	}
	later[s.ID] = true
	earlier := func(j int) string {
		if r.back[j] < 0 {
			return ""
		}
		for _, name := range r.Part.Names[r.back[j]] {
			if step, _ := part.Origin(name); !later[step] {
				return name
			}
		}
		return ""
	}
	var edges []part.EdgeRef
	for j := range r.Attempt.Faces {
		if !form(r.Attempt.Faces[j]) || !r.free(j) {
			continue
		}
		var names []string
		for k := range r.next[j] {
			if n := earlier(k); n != "" && len(r.next[j]) < 5 {
				names = append(names, n)
			}
		}
		slices.Sort(names)
		if len(names) == 2 {
			edges = append(edges, part.EdgeRef{Between: &[2]string{names[0], names[1]}})
		}
	}
	if len(edges) == 0 || len(edges) > 12 {
		return nil
	}
	return &part.Mistake{Kind: "other-edge", Step: s.ID, What: s.Title() + ": on another edge than the sheet shows",
		Cause:       "the edge at the other end, or on the other side, was taken",
		Remedy:      "look which edges the sheet shows broken",
		Alterations: []part.Alteration{part.Set(s.ID, "edges", edges)}}
}

// between tells whether the attempt has free faces of a form between the faces that the faces of a step lie
// between in the part, for one of them at least.
func (r *Reader) between(step string, form func(solid.Face) bool) bool {
	next := r.Part.Neighbours()
	for _, i := range r.own[step] {
		var sides []int
		for k := range next[i] {
			if r.Match.Of[k] >= 0 {
				sides = append(sides, r.Match.Of[k])
			}
		}
		for j := range r.Attempt.Faces {
			if !form(r.Attempt.Faces[j]) || !r.free(j) {
				continue
			}
			touched := 0
			for _, side := range sides {
				if r.next[j][side] {
					touched++
				}
			}
			if touched >= 2 && touched == len(sides) || touched >= 2 && len(sides) > 2 {
				return true
			}
		}
	}
	return false
}

// heads looks for a head of another form than the part has, or where it has none: round about the axis of a hole.
func (r *Reader) heads(s *part.Step, do *part.Hole) []part.Mistake {
	var out []part.Mistake
	for _, i := range r.own[s.ID] {
		bore := r.Part.Faces[i]
		if !slices.ContainsFunc(r.Part.Names[i], func(n string) bool { return strings.HasSuffix(n, "/bore") }) {
			continue
		}
		for j, f := range r.Attempt.Faces {
			about := f.Hollow && f.Axis.Parallel(bore.Axis, even) && solid.FromAxis(f.Origin, bore.Origin,
				bore.Axis).Norm() < close
			if !about || !r.free(j) {
				continue
			}
			wide, deep := r.reach(j, bore.Axis)
			var list []part.Alteration
			what := ""
			switch {
			case f.Kind == solid.ConeFace && wide > 2*bore.Radius+close && do.Form != "countersink":
				what = "a countersink"
				list = []part.Alteration{part.Set(s.ID, "form", "countersink"), part.Set(s.ID, "headDiameter", formula(wide)),
					part.Set(s.ID, "headAngle", fmt.Sprintf("%.9g deg", 2*math.Abs(f.HalfAngle)*180/math.Pi))}
			case f.Kind == solid.CylinderFace && wide > 2*bore.Radius+close && do.Form != "counterbore" && do.Form != "spotface":
				what = "a counterbore"
				list = []part.Alteration{part.Set(s.ID, "form", "counterbore"), part.Set(s.ID, "headDiameter", formula(wide)),
					part.Set(s.ID, "headDepth", formula(deep))}
			default:
				continue
			}
			m := part.Mistake{Kind: "form", Step: s.ID, What: s.Title() + ": " + what + " in place of the " + do.Form,
				Cause: "the " +
					"symbols of countersink and counterbore were taken for one another",
				Remedy: "give the hole the head that the sheet shows", Alterations: list}
			if do.Form == "" || do.Form == "plain" || do.Form == "tapped" {
				m.What, m.Cause = s.Title()+" has "+what+" that is not on the sheet", "the hole was given a head"
				m.Remedy = "make the hole plain, as the sheet shows it"
			}
			if !slices.ContainsFunc(out, func(o part.Mistake) bool { return o.What == m.What }) {
				out = append(out, m)
			}
		}
	}
	return out
}

// reach is how wide a turned face of the attempt is at its widest, and how long it is along its axis.
func (r *Reader) reach(j int, axis solid.Vec) (wide, long float64) {
	for _, e := range r.Attempt.Edges {
		if slices.Contains(e.Faces, j) {
			for _, p := range []solid.Vec{e.A, e.B, e.Mid} {
				wide = math.Max(wide, 2*solid.FromAxis(p, r.Attempt.Faces[j].Origin, axis).Norm())
			}
		}
	}
	low, high := r.Attempt.Reach(j, axis)
	return wide, high - low
}

// oneOfMany looks for a hole of several that has another diameter than the others.
func (r *Reader) oneOfMany(s *part.Step, do *part.Hole) []part.Mistake {
	if len(do.At) < 2 {
		return nil
	}
	var out []part.Mistake
	for k, at := range do.At {
		for _, i := range r.own[s.ID] {
			j := r.Match.Of[i]
			if !slices.Contains(r.Part.Names[i], s.ID+"."+at+"/bore") || j < 0 {
				continue
			}
			f, want := r.Attempt.Faces[j], r.Part.Faces[i].Radius
			if math.Abs(f.Radius-want) < close {
				continue
			}
			twin := part.TwinOf(s.ID, at)
			out = append(out, part.Mistake{Kind: "one-size", Step: s.ID,
				What: fmt.Sprintf("one place of %s has another diameter, "+
					"%s", s.Title(), r.length(2*f.Radius)), Cause: "the size of the note was not given at all the places",
				Remedy: "the note covers all the places; give each its size", Alterations: []part.Alteration{
					{Step: s.ID, Do: part.AlterCopy, Path: twin}, {Step: s.ID, Do: part.AlterLeave, Path: fmt.Sprintf("at.%d", k)},
					part.Set(twin, "at", []string{at}), part.Set(twin, "diameter", formula(2*f.Radius))}})
		}
	}
	if len(out) == len(do.At) {
		return nil // all of them: that is a size
	}
	return out
}
