package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
)

// keepVersions is how many states of a model or an assembly are kept.
const keepVersions = 300

// SavedState is a state of a model or an assembly as it was saved. What says what was done.
type SavedState struct {
	Version  int       `db:"version"`
	Saved    time.Time `db:"saved_at"`
	What     string    `db:"what"`
	Document []byte    `db:"document"`
}

// versioned is what states are kept of: the table of it, and in which column of the table of states it stands.
type versioned struct{ table, states, column string }

var (
	ofModel    = versioned{"models", "model_versions", "model_id"}
	ofAssembly = versioned{"assemblies", "assembly_versions", "assembly_id"}
)

// keepState keeps a state, and lets the oldest go.
func keepState(ctx context.Context, tx *sqlx.Tx, of versioned, id int64, v SavedState) error {
	if _, err := tx.ExecContext(ctx, fmt.Sprintf(`INSERT INTO %s (%s, version, document, saved_at, what)
		VALUES (?, ?, ?, ?, ?)`, of.states, of.column), id, v.Version, v.Document, v.Saved, v.What); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, fmt.Sprintf(`DELETE FROM %s WHERE %s = ? AND version <= ?`, of.states, of.column), id,
		v.Version-keepVersions)
	return err
}

// ModelVersions lists the states of a model of an owner without their documents, the newest first.
func (s *Store) ModelVersions(ctx context.Context, id, owner int64) ([]SavedState, error) {
	return s.states(ctx, ofModel, id, owner)
}

// ModelVersion gives one state of a model of an owner.
func (s *Store) ModelVersion(ctx context.Context, id, owner int64, number int) (SavedState, error) {
	return s.state(ctx, ofModel, id, owner, number)
}

// AssemblyVersions lists the states of an assembly of an owner without their documents, the newest first.
func (s *Store) AssemblyVersions(ctx context.Context, id, owner int64) ([]SavedState, error) {
	return s.states(ctx, ofAssembly, id, owner)
}

// AssemblyVersion gives one state of an assembly of an owner.
func (s *Store) AssemblyVersion(ctx context.Context, id, owner int64, number int) (SavedState, error) {
	return s.state(ctx, ofAssembly, id, owner, number)
}

func (s *Store) states(ctx context.Context, of versioned, id, owner int64) ([]SavedState, error) {
	out := []SavedState{}
	return out, s.db.SelectContext(ctx, &out, fmt.Sprintf(`SELECT v.version, v.saved_at, v.what FROM %s v
		JOIN %s m ON m.id = v.%s WHERE m.id = ? AND m.owner_id = ? ORDER BY v.version DESC`, of.states, of.table, of.column),
		id, owner)
}

func (s *Store) state(ctx context.Context, of versioned, id, owner int64, number int) (SavedState, error) {
	var v SavedState
	err := s.db.GetContext(ctx, &v, fmt.Sprintf(`SELECT v.version, v.saved_at, v.what, v.document FROM %s v
		JOIN %s m ON m.id = v.%s WHERE m.id = ? AND m.owner_id = ? AND v.version = ?`, of.states, of.table, of.column), id,
		owner, number)
	return v, found(err)
}
