package school

import (
	"context"
	"encoding/json"
	"fmt"

	"hammerset/core/exercise"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/kernel/task"
)

// SheetStep is what is done to the sheet of an exercise: a command that becomes the next state of its draft, or none.
// With Save the draft becomes a new version, with Over also where another one was saved meanwhile. Sheet is the number
// of the sheet that is looked at where nothing is done, from 0. Has is the key of what whoever asks lays sheets out
// from.
type SheetStep struct {
	Step
	Command    *sheet.Command
	Sheet      int
	Has        string
	Save, Over bool
}

// SheetDraft is the sheet of an exercise as it is worked on, drawn.
type SheetDraft struct {
	Working  Working
	Exercise *exercise.Exercise
	*prepare.Edited
}

// EditSheet does something to a sheet of an exercise, and draws it.
func (s *School) EditSheet(ctx context.Context, by Person, id int64, c SheetStep) (SheetDraft, error) {
	w, err := s.worked(ctx, by, id)
	if err != nil {
		return SheetDraft{}, err
	}
	done := c.Command != nil && w.done(by, c.Step)
	if done {
		c.Command = nil
	}
	changes := c.Save || c.Command != nil && c.Command.Do != sheet.AskFor
	if changes && !done {
		if err := w.held(by, c.Step); err != nil {
			return SheetDraft{}, err
		}
	}
	was, err := w.state()
	if err != nil {
		return SheetDraft{}, err
	}
	var progress func(task.Progress)
	if changes {
		tell, done := s.running.begin(draftKey(id))
		defer done()
		progress = tell
	}
	command := c.Command
	if command == nil {
		command = &sheet.Command{Sheet: c.Sheet}
	}
	raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.EditSheet, Exercise: was.Document, Reference: w.reference,
		OnSheet: command, Has: c.Has, Keep: fmt.Sprintf("sheet %d of version %d", id, w.version.Number)}, progress)
	if err != nil {
		return SheetDraft{}, err
	}
	edited := &prepare.Edited{}
	if err := json.Unmarshal(raw, edited); err != nil {
		return SheetDraft{}, err
	}
	if changes {
		w.filled.follow(w.exercise.Characteristics, edited.Characteristics)
		w.exercise.Sheets, w.exercise.Characteristics = edited.Sheets, edited.Characteristics
		if c.Save {
			err = s.saveDraft(ctx, by, &w, "sheet edited", c.Over)
		} else {
			err = s.keep(ctx, by, &w, c.Step, was)
		}
	}
	return SheetDraft{w.working(by), w.exercise, edited}, err
}
