package school

import (
	"context"
	"encoding/json"
	"fmt"

	"hammerset/core/exercise"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/kernel/task"
	"hammerset/store"
)

// SheetChange is the sheet of an exercise as somebody works on it: the version that it was begun from, 0 for the
// newest; the sheet and the characteristics as they are now, nil for those of the version; and what is done to it. With
// Save it becomes a new version.
type SheetChange struct {
	Version         int
	Sheet           *exercise.Sheet
	Characteristics []exercise.Characteristic
	Command         *sheet.Command
	Save            bool
}

// SheetDraft is a sheet that is worked on, as it is drawn.
type SheetDraft struct {
	Version  store.Version
	Exercise *exercise.Exercise
	*prepare.Edited
}

// EditSheet does something to the sheet of an exercise, and draws it. A sheet that was begun from another than the
// newest version is refused, so that nobody's work is overwritten.
func (s *School) EditSheet(ctx context.Context, by Person, id int64, c SheetChange) (SheetDraft, error) {
	v, ex, reference, err := s.newest(ctx, by, ChangeExercise, id)
	if err != nil {
		return SheetDraft{}, err
	}
	if c.Version != 0 && c.Version != v.Number {
		return SheetDraft{}, refuse(Conflict, fmt.Sprintf("version %d of this exercise has been saved meanwhile", v.Number),
			"begin from what is saved; what you did here stays in this browser until then")
	}
	if c.Sheet != nil {
		ex.Sheets = []exercise.Sheet{*c.Sheet}
	}
	if c.Characteristics != nil {
		ex.Characteristics = c.Characteristics
	}
	doc, err := json.Marshal(ex)
	if err != nil {
		return SheetDraft{}, err
	}
	edited, err := ask[*prepare.Edited](ctx, s, &task.Request{Kind: task.EditSheet, Exercise: doc, Reference: reference,
		OnSheet: c.Command, Keep: fmt.Sprintf("sheet %d", id)})
	if err != nil || !c.Save {
		return SheetDraft{v, ex, edited}, err
	}
	ex.Sheets, ex.Characteristics = []exercise.Sheet{edited.Sheet}, edited.Characteristics
	b, err := bundled(ex, reference)
	if err != nil {
		return SheetDraft{}, err
	}
	v, err = s.AddBundle(ctx, by.ID, b, v.ExerciseID, "sheet edited")
	return SheetDraft{v, b.Parsed, edited}, err
}
