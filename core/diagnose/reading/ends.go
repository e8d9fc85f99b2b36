package reading

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/part"
	"hammerset/core/solid"
)

// ends looks for flat faces at which a step's material ends before it does in the part: a hole that does not go
// through, a groove that stops. Such a face lies beside faces of that step alone. Where the step has a floor of
// its own there, its depth is a size, and nothing is read.
func (r *Reader) ends(s *part.Step) []part.Mistake {
	var out []part.Mistake
	for j := range r.Attempt.Faces {
		p := r.Attempt.Faces[j]
		if p.Kind != solid.PlaneFace || !r.free(j) || len(r.next[j]) == 0 || r.floored(s, p) {
			continue
		}
		walls, mine := 0, true
		for k := range r.next[j] {
			switch steps := r.of(k); {
			case slices.Contains(steps, s.ID):
				walls++
			case r.back[k] < 0 || !r.across(p, k):
				mine = false
			}
		}
		if walls == 0 || !mine {
			continue
		}
		deep, ok := r.deep(j, s.ID)
		if !ok {
			continue
		}
		m := part.Mistake{Kind: "short", Step: s.ID,
			What:  fmt.Sprintf("%s: blind, %s deep, in place of through", s.Title(), r.length(deep)),
			Cause: "a depth was given where the sheet has none", Remedy: "let it go through, as the sheet shows it",
			Alterations: []part.Alteration{part.Ended(s.ID, p.Centroid, p.Normal.Scale(-1))}}
		if !hollow(s) {
			m.What = fmt.Sprintf("%s ends too early, after %s", s.Title(), r.length(deep))
			m.Cause, m.Remedy = "it was made too short", "let it go as far as the sheet shows it"
			m.Alterations = []part.Alteration{part.Ended(s.ID, p.Centroid, p.Normal)}
		}
		if !slices.ContainsFunc(out, func(o part.Mistake) bool { return o.What == m.What }) {
			out = append(out, m)
		}
	}
	return out
}

// floored tells whether a step has a flat face in the part that looks as a face of the attempt does, and that the
// attempt has not where the part has it: that one is this one, at another depth.
func (r *Reader) floored(s *part.Step, p solid.Face) bool {
	return slices.ContainsFunc(r.own[s.ID], func(i int) bool {
		f := r.Part.Faces[i]
		j := r.Match.Of[i]
		return f.Kind == solid.PlaneFace && f.Normal.Angle(p.Normal) < even && (j < 0 || r.free(j))
	})
}

// across tells whether a face beside a floor is one that the feature runs out through, and not a wall of it.
func (r *Reader) across(floor solid.Face, k int) bool {
	f := r.Attempt.Faces[k]
	return f.Kind == solid.PlaneFace && math.Abs(f.Normal.Dot(floor.Normal)) < 0.999
}

// deep is how far the walls of a step reach from a floor of the attempt to where they begin.
func (r *Reader) deep(floor int, step string) (float64, bool) {
	p := r.Attempt.Faces[floor]
	most := 0.0
	for _, e := range r.Attempt.Edges {
		wall := false
		for _, f := range e.Faces {
			wall = wall || r.next[floor][f] && slices.Contains(r.of(f), step)
		}
		if !wall {
			continue
		}
		for _, q := range []solid.Vec{e.A, e.B, e.Mid} {
			most = math.Max(most, math.Abs(q.Sub(p.Centroid).Dot(p.Normal)))
		}
	}
	return most, most > close
}

// hollow tells whether a step takes material away.
func hollow(s *part.Step) bool {
	switch do := s.Do.(type) {
	case *part.Extrude:
		return do.Result == "cut"
	case *part.Revolve:
		return do.Result == "cut"
	case *part.Hole:
		return true
	}
	kind := s.Declared()
	return kind != nil && slices.Contains([]string{"slot", "keyway"}, kind.Name)
}
