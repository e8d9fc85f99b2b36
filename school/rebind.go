package school

import (
	"bytes"
	"context"
	"fmt"

	"hammerset/core/prepare"
	"hammerset/kernel/task"
)

// NewReference is another reference for an exercise: its file, the version that it is for (0 for any), and the doubtful
// bindings that are right. With Save the exercise goes onto it, as its next version.
type NewReference struct {
	File     File
	Version  int
	Accepted []string
	Save     bool
}

// Rebind says what becomes of an exercise around another reference, and with which version it goes on.
func (s *School) Rebind(ctx context.Context, by Person, id int64, r NewReference) (*prepare.Rebound, int, error) {
	v, _, reference, err := s.newest(ctx, by, ChangeExercise, id)
	if err != nil {
		return nil, 0, err
	}
	switch {
	case r.Version != 0 && r.Version != v.Number:
		return nil, 0, refuse(Conflict, fmt.Sprintf("version %d of this exercise has been saved meanwhile", v.Number),
			"look at it, and then give the reference again")
	case bytes.HasPrefix(r.File.Data, []byte("PK\x03\x04")):
		return nil, 0, refuse(Faulty, "this is a packed file, and no reference",
			"give a STEP file or a model document of the part, or bring the whole exercise in as a new version")
	}
	b, err := ask[*prepare.Rebound](ctx, s, &task.Request{Kind: task.Rebind, Exercise: v.Document, Reference: reference,
		File: r.File.Data, Accepted: r.Accepted, Patience: 2})
	if err != nil || !r.Save {
		return b, v.Number, err
	}
	next, err := bundled(b.Exercise, r.File.Data)
	if err != nil {
		return nil, 0, err
	}
	v, err = s.AddBundle(ctx, by.ID, next, v.ExerciseID, "another reference, "+r.File.Name)
	return b, v.Number, err
}
