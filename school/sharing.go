package school

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"hammerset/store"
)

// MayMakeExercise refuses to make exercises to whom it is not allowed.
func (s *School) MayMakeExercise(ctx context.Context, by Person) error {
	return s.may(ctx, by, MakeExercise, row{})
}

// Exercises lists the newest versions of the exercises that the asker may read.
func (s *School) Exercises(ctx context.Context, by Person) ([]store.VersionRow, error) {
	if err := s.may(ctx, by, MakeExercise, row{}); err != nil {
		return nil, err
	}
	return s.store.Exercises(ctx, by)
}

// ShareExercise shares an exercise with the colleague who has a login, to use or to change; with neither no longer.
func (s *School) ShareExercise(ctx context.Context, by Person, exercise int64, login, may string) error {
	if err := s.may(ctx, by, ShareExercise, row{exercise: exercise}); err != nil {
		return err
	}
	login = cleanLogin(login)
	u, err := s.store.UserByLogin(ctx, login)
	switch {
	case errors.Is(err, ErrNotFound) || err == nil && !u.Teaches && !u.Administrator:
		return refuse(Faulty, fmt.Sprintf("no instructor has the login %q", login), "exercises are shared with instructors")
	case err != nil:
		return err
	case may != "" && may != store.ToUse && may != store.ToChange:
		return refuse(Faulty, "an exercise is shared either to use or to change", "")
	}
	ties, err := s.store.TiesTo(ctx, exercise, u.ID)
	if err != nil {
		return err
	}
	if ties.Maker {
		return refuse(Faulty, u.Name+" has made this exercise", "")
	}
	return s.store.Share(ctx, exercise, u.ID, may, by.ID)
}

// Bounds of tags.
const (
	mostTags   = 20
	longestTag = 40
)

// TagExercise gives an exercise other tags.
func (s *School) TagExercise(ctx context.Context, by Person, exercise int64, tags []string) error {
	if err := s.may(ctx, by, ChangeExercise, row{exercise: exercise}); err != nil {
		return err
	}
	var tidy []string
	for _, t := range tags {
		t = strings.Join(strings.Fields(t), " ")
		if utf8.RuneCountInString(t) > longestTag {
			return refuse(Faulty, fmt.Sprintf("a tag has at most %d letters", longestTag), "shorten it")
		}
		if t != "" && !slices.Contains(tidy, t) {
			tidy = append(tidy, t)
		}
	}
	if len(tidy) > mostTags {
		return refuse(Faulty, fmt.Sprintf("an exercise has at most %d tags", mostTags), "take some off")
	}
	return s.store.Tag(ctx, exercise, tidy, by.ID)
}

// ArchiveExercise puts an exercise away, or brings it back. What is issued of it goes on.
func (s *School) ArchiveExercise(ctx context.Context, by Person, exercise int64, archived bool) error {
	if err := s.may(ctx, by, ShareExercise, row{exercise: exercise}); err != nil {
		return err
	}
	return s.store.ArchiveExercise(ctx, exercise, archived, by.ID)
}

// RemoveExercise removes an exercise that was never issued.
func (s *School) RemoveExercise(ctx context.Context, by Person, exercise int64) error {
	if err := s.may(ctx, by, ShareExercise, row{exercise: exercise}); err != nil {
		return err
	}
	err := s.store.RemoveExercise(ctx, exercise, by.ID)
	if errors.Is(err, store.ErrIssued) {
		return refuse(Conflict, "this exercise has been issued, so that it stays", "archive it instead")
	}
	return err
}

// CopyExercise makes an exercise of the asker's own of the newest version of another one.
func (s *School) CopyExercise(ctx context.Context, by Person, id int64) (Exercise, error) {
	if err := s.may(ctx, by, MakeExercise, row{}); err != nil {
		return Exercise{}, err
	}
	v, _, reference, err := s.newest(ctx, by, ReadReference, id)
	if err != nil {
		return Exercise{}, err
	}
	what := fmt.Sprintf("a copy of version %d of %s", v.Number, strings.TrimSpace(v.Drawing+" "+v.Title))
	v, err = s.store.AddVersion(ctx, store.Version{Title: v.Title, Drawing: v.Drawing, Document: v.Document,
		Prepared: v.Prepared, Measured: v.Measured, CreatedBy: by.ID, What: what}, reference)
	if err != nil {
		return Exercise{}, err
	}
	return s.exercise(ctx, by, v)
}
