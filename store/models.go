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

// keepVersions is how many states of a model are kept.
const keepVersions = 300

// ModelVersion is a state of a model as it was saved. What says what was done.
type ModelVersion struct {
	Version  int       `db:"version"`
	Saved    time.Time `db:"saved_at"`
	What     string    `db:"what"`
	Document []byte    `db:"document"`
}

// version keeps the state of a model among its versions, and lets the oldest go.
func version(ctx context.Context, tx *sqlx.Tx, m Model, what string) error {
	if _, err := tx.ExecContext(ctx, `INSERT INTO model_versions (model_id, version, document, saved_at, what)
		VALUES (?, ?, ?, ?, ?)`, m.ID, m.Version, m.Document, m.Saved, what); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `DELETE FROM model_versions WHERE model_id = ? AND version <= ?`, m.ID,
		m.Version-keepVersions)
	return err
}

// ModelVersions lists the states of a model of an owner without their documents,
// the newest first.
func (s *Store) ModelVersions(ctx context.Context, id, owner int64) ([]ModelVersion, error) {
	out := []ModelVersion{}
	return out, s.db.SelectContext(ctx, &out, `SELECT v.version, v.saved_at, v.what FROM model_versions v
		JOIN models m ON m.id = v.model_id WHERE m.id = ? AND m.owner_id = ? ORDER BY v.version DESC`, id, owner)
}

// ModelVersion gives one state of a model of an owner.
func (s *Store) ModelVersion(ctx context.Context, id, owner int64, number int) (ModelVersion, error) {
	var v ModelVersion
	err := s.db.GetContext(ctx, &v, `SELECT v.version, v.saved_at, v.what, v.document FROM model_versions v
		JOIN models m ON m.id = v.model_id WHERE m.id = ? AND m.owner_id = ? AND v.version = ?`, id, owner, number)
	return v, found(err)
}

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
		return version(ctx, tx, m, "started")
	})
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
	return out, s.db.SelectContext(ctx, &out, `SELECT id, owner_id, issue_id, exercise_id, name, version, saved_at
		FROM models WHERE owner_id = ? ORDER BY saved_at DESC, id DESC`, owner)
}

// SaveModel keeps a changed document, if the model is still in the version that
// was changed; else it gives ErrStale. What says what was done.
func (s *Store) SaveModel(ctx context.Context, id, owner int64, was int, name string, document []byte,
	what string) (Model, error) {
	var m Model
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &m, `SELECT * FROM models WHERE id = ? AND owner_id = ? FOR UPDATE`, id, owner); err !=
			nil {
			return found(err)
		}
		if m.Version != was {
			return ErrStale
		}
		m.Version, m.Name, m.Document, m.Saved = was+1, name, document, now()
		_, err := tx.NamedExecContext(ctx, `UPDATE models SET version = :version, name = :name, document = :document,
		saved_at = :saved_at WHERE id = :id`, m)
		if err != nil {
			return err
		}
		return version(ctx, tx, m, what)
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
