package session

import (
	"cmp"
	"errors"
	"fmt"
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/quantity"
	"hammerset/core/standards"
)

// Proposed is a joint that was read from contacts. Takes is how many freedoms it takes away beyond those before it in
// the list: one that takes none repeats what the others hold already.
type Proposed struct {
	Join  assembly.Joint `json:"join"`
	Title string         `json:"title"`
	Words string         `json:"words"`
	Takes int            `json:"takes"`
}

// Propose reads joints from where components that are not joined touch, those that hold most first. Nothing is changed:
// they are made once they are confirmed.
func (s *Session) Propose() []Proposed {
	joined := func(a, b string) bool {
		return slices.ContainsFunc(s.m.Document.Joints, func(j assembly.Joint) bool {
			return !j.Off && (j.A.Component == a && j.B.Component == b || j.A.Component == b && j.B.Component == a)
		})
	}
	type weighed struct {
		assembly.Joint
		holds int
	}
	var list []weighed
	for _, p := range s.contacts().Propose(s.m.Body, joined) {
		j := assembly.Joint{ID: "proposed", Kind: p.Kind, A: p.A, B: p.B}
		if t, err := standards.MetricThread(p.Thread); err == nil && p.Kind == "cylindrical" {
			j.Kind, j.Lead = "helical", quantity.Quantity{Value: t.Pitch, Dim: quantity.Length}.Formula()
		}
		if j, ok := s.m.AsItStands(j); ok {
			list = append(list, weighed{j, s.m.Taken([]assembly.Joint{j})[0]})
		}
	}
	slices.SortStableFunc(list, func(a, b weighed) int { return cmp.Compare(b.holds, a.holds) })
	joints := make([]assembly.Joint, len(list))
	for i := range list {
		joints[i] = list[i].Joint
	}
	out := []Proposed{}
	for i, n := range s.m.Taken(joints) {
		j := joints[i]
		out = append(out, Proposed{j, s.doc.TitleOf(&j), s.called(j.A) + " – " + s.called(j.B), n})
	}
	return out
}

// joinAll makes several joints, as one step.
func joinAll(doc *assembly.Document, c Command) (string, error) {
	if len(c.Joins) == 0 {
		return "", errors.New("there is no joint to make")
	}
	for _, j := range c.Joins {
		j.ID = freshJoint(doc)
		doc.Joints = append(doc.Joints, j)
	}
	if len(c.Joins) == 1 {
		return "join: " + c.Joins[0].Kind, nil
	}
	return fmt.Sprintf("join at %d places", len(c.Joins)), nil
}
