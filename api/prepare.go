package api

import (
	"context"

	"hammerset/core/diagnose/atlas"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// AddBundle keeps an exercise as a new version: its sheet is drawn and its
// reference meshed first, so that only a sound exercise comes in. Exercise 0
// makes a new one.
func AddBundle(ctx context.Context, st *store.Store, kernel Kernel, b *documents.Bundle, exercise, by int64) (store.Version, error) {
	raw, err := kernel.Do(ctx, &task.Request{Kind: task.Prepare, Exercise: b.Exercise, Reference: b.Reference}, nil)
	if err != nil {
		return store.Version{}, err
	}
	v, err := st.AddVersion(ctx, store.Version{ExerciseID: exercise, Title: b.Parsed.Title, Drawing: b.Parsed.Number, Document: b.Exercise, Prepared: raw, CreatedBy: by}, b.Reference)
	if err == nil && b.Atlas != nil {
		err = st.KeepAtlas(ctx, v.ID, atlas.Version, b.Atlas)
	}
	return v, err
}
