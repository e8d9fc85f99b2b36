package store

import (
	"context"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"
)

// Model is a model document being worked on: a student's for an issue, or a
// reference of an exercise. Its version counts the times it was saved.
type Model struct {
	ID         int64     `db:"id"`
	OwnerID    int64     `db:"owner_id"`
	IssueID    *int64    `db:"issue_id"`
	ExerciseID *int64    `db:"exercise_id"`
	Name       string    `db:"name"`
	Version    int       `db:"version"`
	Document   []byte    `db:"document"`
	Saved      time.Time `db:"saved_at"`
}

// ErrStale is returned for what was saved by somebody else in between.
var ErrStale = errors.New("it was changed elsewhere")

// AddModel keeps a new model.
func (s *Store) AddModel(ctx context.Context, m Model) (Model, error) {
	m.Version, m.Saved = 1, now()
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		r, err := tx.NamedExecContext(ctx, `INSERT INTO models (owner_id, issue_id, exercise_id, name, version, document,
		saved_at) VALUES (:owner_id, :issue_id, :exercise_id, :name, :version, :document, :saved_at)`, m)
		if err != nil {
			return err
		}
		if m.ID, err = r.LastInsertId(); err != nil {
			return err
		}
		return keepState(ctx, tx, ofModel, m.ID, SavedState{m.Version, m.Saved, "started", m.Document})
	})
	return m, err
}

// Model gives a model of an owner.
func (s *Store) Model(ctx context.Context, id, owner int64) (Model, error) {
	var m Model
	err := s.db.GetContext(ctx, &m, `SELECT * FROM models WHERE id = ? AND owner_id = ?`, id, owner)
	return m, found(err)
}

// ModelWith gives the model of an owner, saved last, whose document is this one.
func (s *Store) ModelWith(ctx context.Context, owner int64, document []byte) (Model, error) {
	var m Model
	err := s.db.GetContext(ctx, &m, `SELECT * FROM models WHERE owner_id = ? AND document = ? ORDER BY saved_at DESC, id
		DESC LIMIT 1`, owner, document)
	return m, found(err)
}

// Models lists the models of an owner without their documents, the last saved
// first.
func (s *Store) Models(ctx context.Context, owner int64) ([]Model, error) {
	out := []Model{}
	return out, s.db.SelectContext(ctx, &out, `SELECT id, owner_id, issue_id, exercise_id, name, version, saved_at
		FROM models WHERE owner_id = ? ORDER BY saved_at DESC, id DESC`, owner)
}

// SaveModel keeps a changed document, if the model is still in the version that
// was changed; else it gives ErrStale. What says what was done.
func (s *Store) SaveModel(ctx context.Context, id, owner int64, was int, name string, document []byte,
	what string) (Model, error) {
	var m Model
	err := s.transaction(ctx, func(tx *sqlx.Tx) (err error) {
		m, err = saveModel(ctx, tx, owner, ModelSave{id, was, name, document, what})
		return err
	})
	return m, err
}

// ModelSave is a change of a model: of which version, and what was done.
type ModelSave struct {
	ID       int64
	Version  int
	Name     string
	Document []byte
	What     string
}

func saveModel(ctx context.Context, tx *sqlx.Tx, owner int64, c ModelSave) (Model, error) {
	var m Model
	err := tx.GetContext(ctx, &m, `SELECT * FROM models WHERE id = ? AND owner_id = ? FOR UPDATE`, c.ID, owner)
	if err != nil {
		return m, found(err)
	}
	if m.Version != c.Version {
		return m, ErrStale
	}
	m.Version, m.Name, m.Document, m.Saved = c.Version+1, c.Name, c.Document, now()
	if _, err := tx.NamedExecContext(ctx, `UPDATE models SET version = :version, name = :name, document = :document,
		saved_at = :saved_at WHERE id = :id`, m); err != nil {
		return m, err
	}
	return m, keepState(ctx, tx, ofModel, m.ID, SavedState{m.Version, m.Saved, c.What, m.Document})
}

// RemoveModel takes a model away. What was handed in from it stays.
func (s *Store) RemoveModel(ctx context.Context, id, owner int64) error {
	r, err := s.db.ExecContext(ctx, `DELETE FROM models WHERE id = ? AND owner_id = ?`, id, owner)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}

// Look is what was found when somebody asked which characteristics a model has already.
type Look struct {
	Document string    `db:"document"` // SHA-256
	Had      []byte    `db:"had"`      // as JSON
	At       time.Time `db:"at"`
}

// Looks lists the looks of a person at models for an issue, the newest first.
func (s *Store) Looks(ctx context.Context, user, issue int64) ([]Look, error) {
	out := []Look{}
	return out, s.db.SelectContext(ctx, &out, `SELECT document, had, at FROM looks WHERE user_id = ? AND issue_id = ?
		ORDER BY at DESC, document LIMIT 100`, user, issue)
}

// KeepLook keeps what a look found.
func (s *Store) KeepLook(ctx context.Context, user, issue int64, document string, had []byte) error {
	_, err := s.db.ExecContext(ctx, `REPLACE INTO looks (user_id, issue_id, document, had, at) VALUES (?, ?, ?, ?, ?)`,
		user, issue, document, had, now())
	return err
}
