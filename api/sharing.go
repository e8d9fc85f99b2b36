package api

import (
	"context"
	"strings"

	"hammerset/store"
)

func exerciseRow(v store.VersionRow) ExerciseRow {
	out := ExerciseRow{Id: v.ExerciseID, Title: v.Title, Number: v.Drawing, Version: v.Number, Issues: v.Issues,
		Maker: v.Maker, Mine: v.Mine, May: given(Sharing(v.May)), Archived: v.Archived, Created: v.Created, Tags: []string{}}
	if v.Tags != nil {
		out.Tags = strings.Split(*v.Tags, "\n")
	}
	return out
}

// ListExercises lists the exercises that the asker may read.
func (s *Server) ListExercises(ctx context.Context, _ ListExercisesRequestObject) (ListExercisesResponseObject, error) {
	ctx, by := asking(ctx)
	all, err := s.school.Exercises(ctx, by)
	return ListExercises200JSONResponse(list(all, exerciseRow)), err
}

// ShareExercise shares an exercise with a colleague.
func (s *Server) ShareExercise(ctx context.Context, in ShareExerciseRequestObject) (ShareExerciseResponseObject,
	error) {
	ctx, by := asking(ctx)
	return ShareExercise204Response{}, s.school.ShareExercise(ctx, by, in.Id, in.Body.Login, string(value(in.Body.May)))
}

// TagExercise gives an exercise other tags.
func (s *Server) TagExercise(ctx context.Context, in TagExerciseRequestObject) (TagExerciseResponseObject, error) {
	ctx, by := asking(ctx)
	return TagExercise204Response{}, s.school.TagExercise(ctx, by, in.Id, in.Body.Tags)
}

// ArchiveExercise puts an exercise away, or brings it back.
func (s *Server) ArchiveExercise(ctx context.Context, in ArchiveExerciseRequestObject) (ArchiveExerciseResponseObject,
	error) {
	ctx, by := asking(ctx)
	return ArchiveExercise204Response{}, s.school.ArchiveExercise(ctx, by, in.Id, in.Body.Archived)
}

// CopyExercise makes an exercise of the asker's own of another one.
func (s *Server) CopyExercise(ctx context.Context, in CopyExerciseRequestObject) (CopyExerciseResponseObject, error) {
	ctx, by := asking(ctx)
	made, err := s.school.CopyExercise(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return CopyExercise201JSONResponse(exerciseOf(made)), nil
}

// RemoveExercise removes an exercise that was never issued.
func (s *Server) RemoveExercise(ctx context.Context, in RemoveExerciseRequestObject) (RemoveExerciseResponseObject,
	error) {
	ctx, by := asking(ctx)
	return RemoveExercise204Response{}, s.school.RemoveExercise(ctx, by, in.Id)
}

// TakeOutPart makes the exercise of a part of an assembly one by itself.
func (s *Server) TakeOutPart(ctx context.Context, in TakeOutPartRequestObject) (TakeOutPartResponseObject, error) {
	ctx, by := asking(ctx)
	made, err := s.school.TakeOut(ctx, by, in.Id, in.Part)
	if err != nil {
		return nil, err
	}
	return TakeOutPart201JSONResponse(exerciseOf(made)), nil
}

// PutBackPart puts an exercise back into that of the assembly that it was taken out of.
func (s *Server) PutBackPart(ctx context.Context, in PutBackPartRequestObject) (PutBackPartResponseObject, error) {
	ctx, by := asking(ctx)
	made, err := s.school.PutBack(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return PutBackPart200JSONResponse(exerciseOf(made)), nil
}
