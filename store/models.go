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

// ErrStale is returned when a model was saved by somebody else in between.
var ErrStale = errors.New("the model was changed elsewhere")

// AddModel keeps a new model.
func (s *Store) AddModel(ctx context.Context, m Model) (Model, error) {
	m.Version, m.Saved = 1, now()
	r, err := s.db.NamedExecContext(ctx, `INSERT INTO models (owner_id, issue_id, exercise_id, name, version, document, saved_at) VALUES (:owner_id, :issue_id, :exercise_id, :name, :version, :document, :saved_at)`, m)
	if err != nil {
		return m, err
	}
	m.ID, err = r.LastInsertId()
	return m, err
}

// Model gives a model of an owner.
func (s *Store) Model(ctx context.Context, id, owner int64) (Model, error) {
	var m Model
	err := s.db.GetContext(ctx, &m, `SELECT * FROM models WHERE id = ? AND owner_id = ?`, id, owner)
	return m, found(err)
}

// Models lists the models of an owner without their documents, the last saved
// first.
func (s *Store) Models(ctx context.Context, owner int64) ([]Model, error) {
	out := []Model{}
	return out, s.db.SelectContext(ctx, &out, `SELECT id, owner_id, issue_id, exercise_id, name, version, saved_at FROM models WHERE owner_id = ? ORDER BY saved_at DESC, id DESC`, owner)
}

// SaveModel keeps a changed document, if the model is still in the version that
// was changed; else it gives ErrStale.
func (s *Store) SaveModel(ctx context.Context, id, owner int64, version int, name string, document []byte) (Model, error) {
	var m Model
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &m, `SELECT * FROM models WHERE id = ? AND owner_id = ? FOR UPDATE`, id, owner); err != nil {
			return found(err)
		}
		if m.Version != version {
			return ErrStale
		}
		m.Version, m.Name, m.Document, m.Saved = version+1, name, document, now()
		_, err := tx.NamedExecContext(ctx, `UPDATE models SET version = :version, name = :name, document = :document, saved_at = :saved_at WHERE id = :id`, m)
		return err
	})
	return m, err
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
