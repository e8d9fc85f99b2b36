package store

import (
	"context"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"
)

// Assembly is an assembly document being worked on. Its version counts the times it was saved.
type Assembly struct {
	ID       int64     `db:"id"`
	OwnerID  int64     `db:"owner_id"`
	Name     string    `db:"name"`
	Version  int       `db:"version"`
	Document []byte    `db:"document"`
	Saved    time.Time `db:"saved_at"`
	// What it is made for: an issued exercise, or an exercise of which it becomes the reference.
	IssueID    *int64 `db:"issue_id"`
	ExerciseID *int64 `db:"exercise_id"`
}

// AddAssembly keeps a new assembly with the files of its parts.
func (s *Store) AddAssembly(ctx context.Context, a Assembly, files [][]byte) (Assembly, error) {
	a.Version, a.Saved = 1, now()
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		r, err := tx.NamedExecContext(ctx, `INSERT INTO assemblies (owner_id, name, version, document, saved_at, issue_id,
		exercise_id) VALUES (:owner_id, :name, :version, :document, :saved_at, :issue_id, :exercise_id)`, a)
		if err != nil {
			return err
		}
		if a.ID, err = r.LastInsertId(); err != nil {
			return err
		}
		for _, data := range files {
			if err := putPart(ctx, tx, a.ID, data, Source{}); err != nil {
				return err
			}
		}
		return keepState(ctx, tx, ofAssembly, a.ID, SavedState{a.Version, a.Saved, "started", a.Document})
	})
	return a, err
}

// Source is what the file of a part came from: a version of a model or of another assembly; neither of an uploaded
// file.
type Source struct {
	Model    *int64 `db:"model_id"`
	Assembly *int64 `db:"source_id"`
	Version  int    `db:"version"`
}

// putPart keeps a file and lets an assembly have parts of it.
func putPart(ctx context.Context, tx *sqlx.Tx, assembly int64, data []byte, from Source) error {
	sha, err := putFile(ctx, tx, data)
	if err != nil {
		return err
	}
	again := `model_id = VALUES(model_id), source_id = VALUES(source_id), version = VALUES(version)`
	if from == (Source{}) {
		again = `version = version` // where it came from stays known
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO assembly_files (assembly_id, sha256, model_id, source_id, version)
	VALUES (?, ?, ?, ?, ?) ON DUPLICATE KEY UPDATE `+again, assembly, sha, from.Model, from.Assembly, from.Version)
	return err
}

// AddAssemblyFile keeps a file that an assembly may have parts of.
func (s *Store) AddAssemblyFile(ctx context.Context, assembly int64, data []byte, from Source) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error { return putPart(ctx, tx, assembly, data, from) })
}

// PartSource is a file of an assembly with the model or assembly that it came from, of which Newest is the version by
// now.
type PartSource struct {
	SHA256 string `db:"sha256"`
	Name   string `db:"name"`
	Source
	Newest int `db:"newest"`
}

// PartSources lists the files of an assembly that came from a model or another assembly. Only what the same owner has
// counts.
func (s *Store) PartSources(ctx context.Context, assembly, owner int64) ([]PartSource, error) {
	out := []PartSource{}
	err := s.db.SelectContext(ctx, &out, `
	SELECT a.sha256, m.name, a.model_id, a.source_id, a.version, m.version AS newest FROM assembly_files a
	JOIN models m ON m.id = a.model_id WHERE a.assembly_id = ? AND m.owner_id = ?
	UNION ALL
	SELECT a.sha256, x.name, a.model_id, a.source_id, a.version, x.version AS newest FROM assembly_files a
	JOIN assemblies x ON x.id = a.source_id WHERE a.assembly_id = ? AND x.owner_id = ?`, assembly, owner, assembly, owner)
	return out, err
}

// AssemblyFiles gives those files of an assembly that are asked for. One that it does not have is not found.
func (s *Store) AssemblyFiles(ctx context.Context, assembly int64, shas []string) (map[string][]byte, error) {
	out := map[string][]byte{}
	for _, sha := range shas {
		if _, have := out[sha]; have {
			continue
		}
		var data []byte
		err := s.db.GetContext(ctx, &data, `SELECT f.data FROM files f JOIN assembly_files a ON a.sha256 = f.sha256
		WHERE a.assembly_id = ? AND a.sha256 = ?`, assembly, sha)
		if err != nil {
			return nil, found(err)
		}
		out[sha] = data
	}
	return out, nil
}

// AssemblyBundles gives those files of an assembly that are bundles: of assemblies that were put into it.
func (s *Store) AssemblyBundles(ctx context.Context, assembly int64) ([][]byte, error) {
	var out [][]byte
	return out, s.db.SelectContext(ctx, &out, `SELECT f.data FROM files f JOIN assembly_files a ON a.sha256 = f.sha256
		WHERE a.assembly_id = ? AND LEFT(f.data, 4) = X'504B0304'`, assembly)
}

// Assembly gives an assembly of an owner.
func (s *Store) Assembly(ctx context.Context, id, owner int64) (Assembly, error) {
	var a Assembly
	err := s.db.GetContext(ctx, &a, `SELECT * FROM assemblies WHERE id = ? AND owner_id = ?`, id, owner)
	return a, found(err)
}

// Assemblies lists the assemblies of an owner without their documents, the last saved first.
func (s *Store) Assemblies(ctx context.Context, owner int64) ([]Assembly, error) {
	out := []Assembly{}
	return out, s.db.SelectContext(ctx, &out, `SELECT id, owner_id, name, version, saved_at, issue_id,
		exercise_id FROM assemblies WHERE owner_id = ? ORDER BY saved_at DESC, id DESC`, owner)
}

// AssemblySave is a change of an assembly: of which version, and what was done.
type AssemblySave struct {
	ID       int64
	Version  int
	Name     string
	Document []byte
	What     string
	// Models are models that are changed together with it: their documents are files of its parts.
	Models []ModelSave
}

// ErrStaleModel is returned when a model that is to be changed together with an assembly was saved by somebody else in
// between.
var ErrStaleModel = errors.New("a model of the assembly was changed elsewhere")

// SaveAssembly keeps a changed document, if the assembly is still in the version that was changed; else it gives
// ErrStale. The models that are changed with it are kept as well, under their own versions: all of it, or nothing.
func (s *Store) SaveAssembly(ctx context.Context, owner int64, c AssemblySave) (Assembly, []Model, error) {
	var a Assembly
	var models []Model
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		models = nil
		err := tx.GetContext(ctx, &a, `SELECT * FROM assemblies WHERE id = ? AND owner_id = ? FOR UPDATE`, c.ID, owner)
		if err != nil {
			return found(err)
		}
		if a.Version != c.Version {
			return ErrStale
		}
		for _, change := range c.Models {
			m, err := saveModel(ctx, tx, owner, change)
			if errors.Is(err, ErrStale) {
				return ErrStaleModel
			}
			if err != nil {
				return err
			}
			if err := putPart(ctx, tx, c.ID, m.Document, Source{Model: &m.ID, Version: m.Version}); err != nil {
				return err
			}
			models = append(models, m)
		}
		a.Version, a.Name, a.Document, a.Saved = c.Version+1, c.Name, c.Document, now()
		if _, err = tx.NamedExecContext(ctx, `UPDATE assemblies SET version = :version, name = :name, document = :document,
		saved_at = :saved_at WHERE id = :id`, a); err != nil {
			return err
		}
		return keepState(ctx, tx, ofAssembly, a.ID, SavedState{a.Version, a.Saved, c.What, a.Document})
	})
	return a, models, err
}

// RemoveAssembly takes an assembly away. Its files stay, as all files do.
func (s *Store) RemoveAssembly(ctx context.Context, id, owner int64) error {
	r, err := s.db.ExecContext(ctx, `DELETE FROM assemblies WHERE id = ? AND owner_id = ?`, id, owner)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}
