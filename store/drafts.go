package store

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
)

// Draft is what is worked on of an exercise and is no version yet. There is one for each exercise, in the hand of one
// person.
type Draft struct {
	ExerciseID int64     `db:"exercise_id"`
	Version    int       `db:"version"`  // that it was begun from
	Revision   int64     `db:"revision"` // counts the changes; 0: there is no draft
	State      int       `db:"state"`    // that it is in now
	Last       string    `db:"last"`     // names the change that was made last
	By         int64     `db:"changed_by"`
	Changed    time.Time `db:"changed_at"`
	// joined
	Name string `db:"name"` // of the person
	DraftDocument
	Undo int `db:"before_it"` // how many states there are before this one
	Redo int `db:"after_it"`  // and after it
}

// DraftDocument is one state of a draft: the exercise, and what is filled in of it that cannot be measured yet; nil
// where that is nothing.
type DraftDocument struct {
	Document []byte `db:"document"`
	Filled   []byte `db:"filled"`
}

// mostStates is how many states of a draft can be gone back to.
const mostStates = 100

// Draft gives the draft of an exercise, or ErrNotFound.
func (s *Store) Draft(ctx context.Context, exercise int64) (Draft, error) {
	d, err := s.DraftState(ctx, exercise)
	if err == nil {
		err = found(s.db.GetContext(ctx, &d.DraftDocument, `SELECT document, filled FROM draft_states
			WHERE exercise_id = ? AND number = ?`, exercise, d.State))
	}
	return d, err
}

// DraftState gives the draft of an exercise without its document, or ErrNotFound.
func (s *Store) DraftState(ctx context.Context, exercise int64) (Draft, error) {
	var d Draft
	err := s.db.GetContext(ctx, &d, `SELECT d.*, u.name,
		(SELECT COUNT(*) FROM draft_states o WHERE o.exercise_id = d.exercise_id AND o.number < d.state) before_it,
		(SELECT COUNT(*) FROM draft_states o WHERE o.exercise_id = d.exercise_id AND o.number > d.state) after_it
		FROM drafts d JOIN users u ON u.id = d.changed_by WHERE d.exercise_id = ?`, exercise)
	return d, found(err)
}

// DraftChange names a change of a draft: of which revision, whose it is and what it is called.
type DraftChange struct {
	ExerciseID int64
	Revision   int64
	By         int64
	Name       string
}

// BeginDraft begins the draft of an exercise from a version, whose document it can be gone back to, with its first
// change. Where somebody has begun one meanwhile it gives ErrStale.
func (s *Store) BeginDraft(ctx context.Context, c DraftChange, version int, was []byte,
	is DraftDocument) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		// No revision comes twice, also where a draft was let go and another one begun.
		if _, err := tx.ExecContext(ctx, `UPDATE exercises SET draft_revision = draft_revision + 1 WHERE id = ?`,
			c.ExerciseID); err != nil {
			return err
		}
		r, err := tx.ExecContext(ctx, `INSERT IGNORE INTO drafts (exercise_id, version, revision, state, last, changed_by,
			changed_at) SELECT id, ?, draft_revision, 1, ?, ?, ? FROM exercises WHERE id = ?`, version, c.Name, c.By, now(),
			c.ExerciseID)
		if err != nil {
			return err
		}
		if n, err := r.RowsAffected(); err != nil || n == 0 {
			return cmp.Or(err, ErrStale)
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO draft_states (exercise_id, number, document, filled) VALUES
			(?, 0, ?, NULL), (?, 1, ?, ?)`, c.ExerciseID, was, c.ExerciseID, is.Document, is.Filled)
		return err
	})
}

// ChangeDraft gives a draft its next state. What was undone before can no longer be done again.
func (s *Store) ChangeDraft(ctx context.Context, c DraftChange, is DraftDocument) error {
	return s.draft(ctx, c, func(tx *sqlx.Tx, d *Draft) error {
		d.State++
		_, err := tx.ExecContext(ctx, `DELETE FROM draft_states WHERE exercise_id = ? AND (number >= ? OR number < ?)`,
			c.ExerciseID, d.State, d.State-mostStates)
		if err == nil {
			_, err = tx.ExecContext(ctx, `INSERT INTO draft_states (exercise_id, number, document, filled) VALUES
				(?, ?, ?, ?)`, c.ExerciseID, d.State, is.Document, is.Filled)
		}
		return err
	})
}

// GoInDraft goes back by one state, or ahead by one; ErrNotFound where there is none.
func (s *Store) GoInDraft(ctx context.Context, c DraftChange, by int) error {
	return s.draft(ctx, c, func(tx *sqlx.Tx, d *Draft) error {
		d.State += by
		var n int
		err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM draft_states WHERE exercise_id = ? AND number = ?`,
			c.ExerciseID, d.State)
		if err == nil && n == 0 {
			return ErrNotFound
		}
		return err
	})
}

// TakeDraft puts a draft into another hand. That is noted in the trail of the exercise.
func (s *Store) TakeDraft(ctx context.Context, c DraftChange) error {
	return s.draft(ctx, c, func(tx *sqlx.Tx, d *Draft) error {
		var whose string
		if err := tx.GetContext(ctx, &whose, `SELECT name FROM users WHERE id = ?`, d.By); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO audit (at, user_id, action, exercise_id, detail)
			VALUES (?, ?, 'draft', ?, ?)`, now(), c.By, c.ExerciseID, fmt.Sprintf("the draft of %s was taken over", whose))
		return err
	})
}

// DropDraft lets a draft go that is still in a revision; else it gives ErrStale.
func (s *Store) DropDraft(ctx context.Context, exercise, revision int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error { return dropDraft(ctx, tx, exercise, revision) })
}

func dropDraft(ctx context.Context, tx *sqlx.Tx, exercise, revision int64) error {
	if _, err := tx.ExecContext(ctx, `UPDATE exercises e JOIN drafts d ON d.exercise_id = e.id
		SET e.draft_revision = d.revision WHERE e.id = ? AND d.revision = ?`, exercise, revision); err != nil {
		return err
	}
	r, err := tx.ExecContext(ctx, `DELETE FROM drafts WHERE exercise_id = ? AND revision = ?`, exercise, revision)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return cmp.Or(err, ErrStale)
	}
	return nil
}

// draft changes a draft that is still in the revision that the change was made of; else it gives ErrStale.
func (s *Store) draft(ctx context.Context, c DraftChange, change func(*sqlx.Tx, *Draft) error) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var d Draft
		err := found(tx.GetContext(ctx, &d, `SELECT * FROM drafts WHERE exercise_id = ? FOR UPDATE`, c.ExerciseID))
		if errors.Is(err, ErrNotFound) || err == nil && d.Revision != c.Revision {
			return ErrStale
		}
		if err != nil {
			return err
		}
		if err := change(tx, &d); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE drafts SET revision = revision + 1, state = ?, last = ?, changed_by = ?,
			changed_at = ? WHERE exercise_id = ?`, d.State, c.Name, c.By, now(), c.ExerciseID)
		return err
	})
}
