package api

import (
	"context"
	"fmt"
	"unicode/utf8"

	"hammerset/core/diagnose/atlas"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// Longest title and drawing number of an exercise, in letters: what a title block holds.
const (
	longestTitle  = 150
	longestNumber = 60
)

// tooLong says which of the two is too long for a title block.
func tooLong(title, number string) string {
	switch {
	case utf8.RuneCountInString(title) > longestTitle:
		return fmt.Sprintf("the title has more than %d letters", longestTitle)
	case utf8.RuneCountInString(number) > longestNumber:
		return fmt.Sprintf("the drawing number has more than %d letters", longestNumber)
	}
	return ""
}

// AddBundle keeps an exercise as a new version: its sheet is drawn and its
// reference meshed first, so that only a sound exercise comes in. Exercise 0
// makes a new one.
func AddBundle(ctx context.Context, st *store.Store, kernel Kernel, b *documents.Bundle, exercise, by int64, what string) (store.Version, error) {
	if long := tooLong(b.Parsed.Title, b.Parsed.Number); long != "" {
		return store.Version{}, &task.Error{Kind: task.Faulty, What: long, Remedy: "shorten it"}
	}
	raw, err := kernel.Do(ctx, &task.Request{Kind: task.Prepare, Exercise: b.Exercise, Reference: b.Reference}, nil)
	if err != nil {
		return store.Version{}, err
	}
	v, err := st.AddVersion(ctx, store.Version{ExerciseID: exercise, Title: b.Parsed.Title, Drawing: b.Parsed.Number, Document: b.Exercise, Prepared: raw, CreatedBy: by, What: what}, b.Reference)
	if err == nil && b.Atlas != nil {
		err = st.KeepAtlas(ctx, v.ID, atlas.Version, b.Atlas)
	}
	return v, err
}
