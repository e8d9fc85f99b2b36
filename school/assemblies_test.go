package school

import (
	"context"
	"errors"
	"testing"

	"hammerset/core/assembly"
	"hammerset/store"
)

// An exercise goes onto another state of its assembly where that has the same parts, whatever is done with them: each
// keeps its exercise.
func TestOtherParts(t *testing.T) {
	parts := func(list ...string) *assembly.Document {
		d := &assembly.Document{}
		for i := 0; i+1 < len(list); i += 2 {
			d.Parts = append(d.Parts, assembly.Part{ID: list[i], Name: list[i], File: list[i+1]})
		}
		return d
	}
	was := parts("p1", "nut/reference.json", "p2", "bolt/reference.step")
	for name, c := range map[string]struct {
		is   *assembly.Document
		want string
	}{
		"the same":           {parts("p1", "nut/reference.json", "p2", "bolt/reference.step"), ""},
		"in another order":   {parts("p2", "bolt/reference.step", "p1", "nut/reference.json"), ""},
		"under another name": {parts("p1", "nut 2.json", "p2", "bolt/reference.step"), ""},
		"one is gone":        {parts("p1", "nut/reference.json"), "the part p2 is no longer in it, and has an exercise"},
		"a file in place of a model": {parts("p1", "nut.step", "p2", "bolt/reference.step"),
			"the part p1 is no longer in it, and has an exercise"},
		"one more": {parts("p1", "nut/reference.json", "p2", "bolt/reference.step", "p3", "pin.json"),
			"the part p3 is new, and has no exercise"},
	} {
		if got := otherParts(was, c.is); got != c.want {
			t.Errorf("%s: %q, and not %q", name, got, c.want)
		}
	}
}

// An assembly is begun for an issue by those who may read it, and as the reference of an exercise by those who may
// change that; for everybody else there is neither.
func TestForWhomAnAssemblyIsBegun(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	issue, err := database.Issue(ctx, c.issue.ID)
	if err != nil {
		t.Fatal(err)
	}
	for who, may := range map[string]struct{ issue, exercise bool }{"administrator": {true, true}, "leader": {true, false},
		"helper": {true, false}, "pupil": {true, false}, "stranger": {false, false}, "gone": {false, false}} {
		by := c.people[who]
		if _, err := s.issue(ctx, by, ReadIssue, issue.ID); (err == nil) != may.issue {
			t.Errorf("%s reads the issue: %v", who, err)
		}
		_, err := s.StartAssembly(ctx, by, AssemblyStart{Name: "x", Unit: "mm", Issue: &issue.ID,
			Exercise: &issue.ExerciseID})
		var refusal *Refusal
		refused := errors.Is(err, ErrNotFound) || errors.As(err, &refusal) && refusal.Kind == Forbidden
		if refused == may.exercise {
			t.Errorf("%s begins an assembly as the reference: %v", who, err)
		}
	}
	if list, err := database.Assemblies(ctx, c.people["pupil"].ID); err != nil || len(list) != 0 {
		t.Errorf("a student has %v, %v", list, err)
	}
	kept, err := database.AddAssembly(ctx, store.Assembly{OwnerID: c.people["pupil"].ID, Name: "x", Document: []byte("{}"),
		IssueID: &issue.ID}, nil)
	if err != nil {
		t.Fatal(err)
	}
	list, err := s.Assemblies(ctx, c.people["pupil"])
	if err != nil || len(list) != 1 || list[0].ID != kept.ID || list[0].IssueID == nil || *list[0].IssueID != issue.ID {
		t.Errorf("the list has %+v, %v", list, err)
	}
}
