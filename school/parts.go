package school

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"hammerset/core/exercise"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
)

// TakeOut makes the exercise of a part of an assembly one by itself: to be worked on and put back, or to be used alone.
func (s *School) TakeOut(ctx context.Context, by Person, id int64, part string) (Exercise, error) {
	v, ex, data, err := s.newest(ctx, by, ReadReference, id)
	if err == nil {
		err = s.may(ctx, by, MakeExercise, row{})
	}
	if err != nil {
		return Exercise{}, err
	}
	ref, item, err := s.itemOf(ex, data, part)
	if err != nil {
		return Exercise{}, err
	}
	p, _ := ref.Document.Part(part)
	b := &documents.Bundle{Exercise: item.Exercise, Reference: ref.Files[p.File], Parsed: item.Parsed, Atlas: item.Atlas}
	made, err := s.AddBundle(ctx, by.ID, b, 0, fmt.Sprintf("taken out of version %d of %s", v.Number,
		strings.TrimSpace(v.Drawing+" "+v.Title)))
	if err == nil {
		err = s.store.TakeOut(ctx, made.ExerciseID, id, part)
	}
	if err != nil {
		return Exercise{}, err
	}
	return s.exercise(ctx, by, made)
}

// itemOf reads the exercise of an assembly with that of one of its parts.
func (s *School) itemOf(ex *exercise.Exercise, data []byte, part string) (*documents.AssemblyReference,
	*documents.Bundle, error) {
	if ex.Kind != exercise.Assembly {
		return nil, nil, refuse(Faulty, "this exercise is of one part", "")
	}
	ref, err := documents.ReadAssemblyReference(ex, data)
	if err != nil {
		return nil, nil, err
	}
	item := ref.Exercises[part]
	if item == nil {
		return nil, nil, ErrNotFound
	}
	return ref, item, nil
}

// PutBack puts an exercise that was taken out of one of an assembly back into it, as a new version of that, and
// archives it: its reference becomes that of the part, and the joints have to hold on it.
func (s *School) PutBack(ctx context.Context, by Person, id int64) (Exercise, error) {
	v, _, reference, err := s.newest(ctx, by, ChangeExercise, id)
	if err != nil {
		return Exercise{}, err
	}
	from, err := s.store.OriginOf(ctx, id)
	if err != nil {
		return Exercise{}, err
	}
	if from.From == nil {
		return Exercise{}, refuse(Conflict, "this exercise was not taken out of one of an assembly", "")
	}
	whole, ex, data, err := s.newest(ctx, by, ChangeExercise, *from.From)
	if err != nil {
		return Exercise{}, err
	}
	ref, item, err := s.itemOf(ex, data, from.Part)
	if errors.Is(err, ErrNotFound) {
		return Exercise{}, refuse(Conflict, "the assembly has no such part any more", "use the exercise by itself")
	}
	if err != nil {
		return Exercise{}, err
	}
	p, _ := ref.Document.Part(from.Part)
	item.Exercise, item.Atlas = v.Document, nil
	ref.Files[p.File], p.SHA256 = reference, documents.Sum(reference)
	b := &documents.Bundle{Exercise: whole.Document, Parsed: ex}
	if b.Reference, err = ref.Zip(); err != nil {
		return Exercise{}, err
	}
	next, err := s.AddBundle(ctx, by.ID, b, whole.ExerciseID, fmt.Sprintf("the exercise of %s, worked on by itself",
		p.Name))
	var te *task.Error
	if errors.As(err, &te) && te.Kind == task.Faulty {
		return Exercise{}, refuse(Faulty, "the part does not go back into the assembly: "+te.What,
			"keep the faces that joints are on, or change the joints first")
	}
	if err == nil {
		err = s.store.ArchiveExercise(ctx, id, true, by.ID)
	}
	if err != nil {
		return Exercise{}, err
	}
	return s.exercise(ctx, by, next)
}
