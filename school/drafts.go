package school

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"hammerset/core/exercise"
	"hammerset/formats/documents"
	"hammerset/store"
)

// Working says in whose hand the draft of an exercise is, and how it can be gone on with.
type Working struct {
	Revision   int64 // of the draft, 0: there is none
	Version    int   // that it was begun from, or the newest
	Newest     int
	Undo, Redo int       // how many steps
	By         string    // who has it
	Mine       bool      // the asker has it, or nobody
	Changed    time.Time // when it was changed last
	Running    Running   // what is being done to it now
}

// worked is an exercise as it is worked on: its draft, or its newest version where there is none.
type worked struct {
	version   store.Version // that the draft was begun from, or the newest
	newest    int
	draft     store.Draft // its revision is 0 where there is none
	exercise  *exercise.Exercise
	filled    *DraftChange // in the place of what the exercise has, as far as it cannot be measured yet
	reference []byte
}

// worked finds what somebody may change of an exercise.
func (s *School) worked(ctx context.Context, by Person, id int64) (w worked, err error) {
	if err = s.may(ctx, by, ReadDraft, row{exercise: id}); err != nil {
		return w, err
	}
	if w.version, err = s.store.Newest(ctx, id); err != nil {
		return w, err
	}
	w.newest = w.version.Number
	document := w.version.Document
	w.draft, err = s.store.Draft(ctx, id)
	switch {
	case err == nil:
		document = w.draft.Document
		if w.draft.Version != w.newest {
			if w.version, err = s.store.VersionNumbered(ctx, id, w.draft.Version); err != nil {
				return w, err
			}
		}
	case !errors.Is(err, ErrNotFound):
		return w, err
	}
	if w.reference, err = s.store.File(ctx, w.version.ReferenceSHA); err != nil {
		return w, err
	}
	if w.draft.Filled != nil {
		w.filled = &DraftChange{}
		if err := json.Unmarshal(w.draft.Filled, w.filled); err != nil {
			return w, err
		}
	}
	w.exercise, err = documents.ReadExercise(document)
	return w, err
}

// state is what is worked on, as it is kept.
func (w *worked) state() (out store.DraftDocument, err error) {
	if out.Document, err = json.Marshal(w.exercise); err == nil && w.filled != nil {
		out.Filled, err = json.Marshal(w.filled)
	}
	return out, err
}

// working says how somebody stands to what is worked on.
func (w *worked) working(by Person) Working {
	d := &w.draft
	return Working{Revision: d.Revision, Version: w.version.Number, Newest: w.newest, Undo: d.Undo, Redo: d.Redo,
		By: d.Name, Mine: d.Revision == 0 || d.By == by.ID, Changed: d.Changed}
}

// Step names a change of a draft: the revision that it is made of, and a name of its own, by which it is known again
// where it is told twice, since the answer did not arrive.
type Step struct {
	Revision int64
	Name     string
}

// done tells that a step has been made already.
func (w *worked) done(by Person, c Step) bool {
	return w.draft.Revision != 0 && w.draft.By == by.ID && w.draft.Last == c.Name
}

// longestStepName is how many bytes the name of a step has at most.
const longestStepName = 40

func (c Step) valid() error {
	if c.Name == "" || len(c.Name) > longestStepName {
		return refuse(Unreadable, fmt.Sprintf("a step has a name of 1 to %d letters", longestStepName),
			"give it one that no other step has")
	}
	return nil
}

// held refuses a step of a draft that is in another hand, or was changed meanwhile.
func (w *worked) held(by Person, c Step) error {
	if err := c.valid(); err != nil {
		return err
	}
	if d := &w.draft; d.Revision != 0 && d.By != by.ID {
		return refuse(Conflict, d.Name+" works on this exercise", "look at it as it is now, or take the draft over")
	}
	if w.draft.Revision != c.Revision {
		return stale()
	}
	return nil
}

func stale() error {
	return refuse(Conflict, "this exercise was worked on in another window meanwhile",
		"it is shown as it is now: do it again there")
}

// keep makes an exercise, as it was changed by a step, the next state of its draft. One that is as it was makes none.
func (s *School) keep(ctx context.Context, by Person, w *worked, c Step, was store.DraftDocument) error {
	is, err := w.state()
	if err != nil || bytes.Equal(was.Document, is.Document) && bytes.Equal(was.Filled, is.Filled) {
		return err
	}
	change := w.change(by, c)
	if c.Revision == 0 {
		err = s.store.BeginDraft(ctx, change, w.version.Number, w.version.Document, is)
	} else {
		err = s.store.ChangeDraft(ctx, change, is)
	}
	if err == nil {
		w.draft, err = s.store.Draft(ctx, w.version.ExerciseID)
	}
	return kept(err)
}

// kept says what stands against a change of a draft.
func kept(err error) error {
	if errors.Is(err, store.ErrStale) {
		return stale()
	}
	return err
}

func (w *worked) change(by Person, c Step) store.DraftChange {
	return store.DraftChange{ExerciseID: w.version.ExerciseID, Revision: c.Revision, By: by.ID, Name: c.Name}
}

// saveDraft makes what is worked on a new version, with which the draft ends. Where another version was saved since the
// draft was begun, it is refused, unless over says that it is to be the newest all the same.
func (s *School) saveDraft(ctx context.Context, by Person, w *worked, what string, over bool) error {
	if w.version.Number != w.newest && !over {
		return &Refusal{Kind: Conflict, Code: NewerSaved,
			What:   fmt.Sprintf("version %d of this exercise has been saved meanwhile", w.newest),
			Remedy: "begin from what is saved, or save this all the same: both versions are kept"}
	}
	if w.filled != nil {
		return refuse(Conflict, "something that is filled in under Edit cannot be measured yet",
			"finish it there, or undo it, and save then")
	}
	ex := w.exercise
	ex.Title, ex.Number, ex.IssuedBy = strings.TrimSpace(ex.Title), strings.TrimSpace(ex.Number),
		strings.TrimSpace(ex.IssuedBy)
	b, err := bundled(ex, w.reference)
	if err != nil {
		return err
	}
	v, err := s.addVersion(ctx, by.ID, b, w.version.ExerciseID, what, w.draft.Revision)
	if err != nil {
		return kept(err)
	}
	w.version, w.newest, w.draft, w.exercise = v, v.Number, store.Draft{}, b.Parsed
	return nil
}

// draftKey keeps the progress of drafts apart from that of models, attempts and assemblies.
func draftKey(exercise int64) int64 { return exercise + 1<<49 }

// Working says in whose hand the draft of an exercise is. It is asked for often, and reads no document.
func (s *School) Working(ctx context.Context, by Person, id int64) (Working, error) {
	if err := s.may(ctx, by, ReadDraft, row{exercise: id}); err != nil {
		return Working{}, err
	}
	newest, err := s.store.NewestNumber(ctx, id)
	if err != nil {
		return Working{}, err
	}
	w := worked{newest: newest, version: store.Version{Number: newest}}
	w.draft, err = s.store.DraftState(ctx, id)
	switch {
	case err == nil:
		w.version.Number = w.draft.Version
	case !errors.Is(err, ErrNotFound):
		return Working{}, err
	}
	out := w.working(by)
	out.Running = s.running.get(draftKey(id))
	return out, nil
}

// What is done to a draft as a whole.
type DraftMove string

const (
	UndoStep  DraftMove = "undo"
	RedoStep  DraftMove = "redo"
	DropDraft DraftMove = "drop" // what is saved is there again
	TakeDraft DraftMove = "take" // over from somebody else
)

// MoveDraft does something to the draft of an exercise as a whole.
func (s *School) MoveDraft(ctx context.Context, by Person, id int64, c Step, m DraftMove) (Working, error) {
	w, err := s.worked(ctx, by, id)
	if err != nil {
		return Working{}, err
	}
	if !w.done(by, c) {
		if err := s.move(ctx, by, &w, c, m); err != nil {
			return Working{}, err
		}
	}
	return s.Working(ctx, by, id)
}

func (s *School) move(ctx context.Context, by Person, w *worked, c Step, m DraftMove) error {
	if w.draft.Revision == 0 {
		if m == DropDraft {
			return nil // it is gone already
		}
		return refuse(Conflict, "nothing is worked on: all that was done is saved", "go on from what is saved")
	}
	change := w.change(by, c)
	if m == TakeDraft {
		if err := c.valid(); err != nil {
			return err
		}
		return kept(s.store.TakeDraft(ctx, change))
	}
	if err := w.held(by, c); err != nil {
		return err
	}
	var err error
	switch m {
	case UndoStep:
		err = s.store.GoInDraft(ctx, change, -1)
	case RedoStep:
		err = s.store.GoInDraft(ctx, change, 1)
	case DropDraft:
		err = s.store.DropDraft(ctx, change.ExerciseID, c.Revision)
	default:
		return refuse(Faulty, fmt.Sprintf("%q is nothing that is done to a draft", m), "undo, redo, drop or take")
	}
	if errors.Is(err, ErrNotFound) {
		return refuse(Conflict, "there is nothing more to undo or to redo", "go on from here")
	}
	return kept(err)
}
