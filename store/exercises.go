package store

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
)

// Version is one version of an exercise. It never changes; an edit is a new one.
type Version struct {
	ID           int64  `db:"id"`
	ExerciseID   int64  `db:"exercise_id"`
	Number       int    `db:"version"`
	Title        string `db:"title"`
	Drawing      string `db:"number"`
	Document     []byte `db:"document"`
	ReferenceSHA string `db:"reference_sha"`
	Prepared     []byte `db:"prepared"` // task.Prepared as JSON
	// Measured stands for all that the check depends on: versions that share it share reports and atlas. Where none is
	// given, it stands for the whole document and the reference.
	Measured string `db:"measured"`
	// Variant is whose sizes it has, where it is given as a student has it; 0 of the plain one.
	Variant   int       `db:"variant"`
	CreatedBy int64     `db:"created_by"`
	Created   time.Time `db:"created_at"`
	What      string    `db:"-"` // what the version came from, for the trail
	Ends      int64     `db:"-"` // the revision of the draft that it was made of, which ends with it; 0: of none
}

// AddVersion keeps a new version of an exercise; exercise 0 makes a new one. Where the draft that it was made of has
// been changed meanwhile it gives ErrStale.
func (s *Store) AddVersion(ctx context.Context, v Version, reference []byte) (Version, error) {
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		var err error
		if v.ReferenceSHA, err = putFile(ctx, tx, reference); err != nil {
			return err
		}
		if v.ExerciseID == 0 {
			r, err := tx.ExecContext(ctx, `INSERT INTO exercises (created_by) VALUES (?)`, v.CreatedBy)
			if err != nil {
				return err
			}
			if v.ExerciseID, err = r.LastInsertId(); err != nil {
				return err
			}
		}
		var id int64 // locks the exercise, so that two edits get two numbers
		if err := tx.GetContext(ctx, &id, `SELECT id FROM exercises WHERE id = ? FOR UPDATE`, v.ExerciseID); err != nil {
			return found(err)
		}
		if v.Ends != 0 {
			if err := dropDraft(ctx, tx, v.ExerciseID, v.Ends); err != nil {
				return err
			}
		}
		if err := tx.GetContext(ctx, &v.Number, `SELECT COALESCE(MAX(version), 0) + 1 FROM exercise_versions
		WHERE exercise_id = ?`, v.ExerciseID); err != nil {
			return err
		}
		v.Created = now()
		if v.Measured == "" {
			v.Measured = digest(append(slices.Clone(v.Document), v.ReferenceSHA...))
		}
		r, err := tx.NamedExecContext(ctx, `INSERT INTO exercise_versions (exercise_id, version, title, number, created_by,
		created_at) VALUES (:exercise_id, :version, :title, :number, :created_by, :created_at)`, v)
		if err != nil {
			return err
		}
		if v.ID, err = r.LastInsertId(); err != nil {
			return err
		}
		if err := addVariant(ctx, tx, plain(v)); err != nil {
			return err
		}
		what := v.What
		if what == "" {
			what = "a new version"
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO audit (at, user_id, action, exercise_id, detail)
		VALUES (?, ?, 'version', ?, ?)`, v.Created, v.CreatedBy, v.ExerciseID, fmt.Sprintf("version %d: %s", v.Number, what))
		return err
	})
	return v, err
}

// Sharing is what a colleague may do with an exercise: use or change it.
type Sharing struct {
	UserID int64  `db:"user_id"`
	Name   string `db:"name"`
	Login  string `db:"login"`
	May    string `db:"may"`
}

// What an exercise is shared for.
const (
	ToUse    = "use"
	ToChange = "change"
)

// Shares lists with whom an exercise is shared, by name.
func (s *Store) Shares(ctx context.Context, exercise int64) ([]Sharing, error) {
	out := []Sharing{}
	return out, s.db.SelectContext(ctx, &out, `SELECT x.user_id, x.may, u.name, u.login FROM exercise_shares x
		JOIN users u ON u.id = x.user_id WHERE x.exercise_id = ? ORDER BY u.name, u.id`, exercise)
}

// Share shares an exercise with somebody, to use or to change; with an empty may no longer.
func (s *Store) Share(ctx context.Context, exercise, user int64, may string, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var name string
		if err := tx.GetContext(ctx, &name, `SELECT name FROM users WHERE id = ?`, user); err != nil {
			return found(err)
		}
		said := "shared with " + name + " to " + may
		_, err := tx.ExecContext(ctx, `DELETE FROM exercise_shares WHERE exercise_id = ? AND user_id = ?`, exercise, user)
		if err == nil && may != "" {
			_, err = tx.ExecContext(ctx, `INSERT INTO exercise_shares (exercise_id, user_id, may) VALUES (?, ?, ?)`, exercise,
				user, may)
		} else {
			said = "no longer shared with " + name
		}
		if err != nil {
			return err
		}
		return noteExercise(ctx, tx, exercise, by, "share", said)
	})
}

func noteExercise(ctx context.Context, tx *sqlx.Tx, exercise, by int64, action, detail string) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO audit (at, user_id, action, exercise_id, detail) VALUES (?, ?, ?, ?, ?)`,
		now(), by, action, exercise, detail)
	return err
}

// Origin is where an exercise comes from.
type Origin struct {
	Maker    string     `db:"maker"` // by name
	Archived *time.Time `db:"archived_at"`
	// From is the exercise of an assembly that it was taken out of, as that of a part; nil of others.
	From *int64 `db:"taken_from"`
	Part string `db:"part"`
}

// OriginOf tells where an exercise comes from.
func (s *Store) OriginOf(ctx context.Context, exercise int64) (o Origin, err error) {
	err = s.db.GetContext(ctx, &o, `SELECT u.name maker, e.archived_at, e.taken_from, e.part FROM exercises e
		JOIN users u ON u.id = e.created_by WHERE e.id = ?`, exercise)
	return o, found(err)
}

// TakeOut keeps of which part of which exercise an exercise was taken out.
func (s *Store) TakeOut(ctx context.Context, exercise, from int64, part string) error {
	_, err := s.db.ExecContext(ctx, `UPDATE exercises SET taken_from = ?, part = ? WHERE id = ?`, from, part, exercise)
	return err
}

// Tags lists the tags of an exercise.
func (s *Store) Tags(ctx context.Context, exercise int64) ([]string, error) {
	out := []string{}
	return out, s.db.SelectContext(ctx, &out, `SELECT tag FROM exercise_tags WHERE exercise_id = ? ORDER BY tag`, exercise)
}

// Tag gives an exercise other tags.
func (s *Store) Tag(ctx context.Context, exercise int64, tags []string, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `DELETE FROM exercise_tags WHERE exercise_id = ?`, exercise); err != nil {
			return err
		}
		for _, t := range tags {
			if _, err := tx.ExecContext(ctx, `INSERT INTO exercise_tags (exercise_id, tag) VALUES (?, ?)`, exercise,
				t); err != nil {
				return err
			}
		}
		return noteExercise(ctx, tx, exercise, by, "tags", "tags: "+strings.Join(tags, ", "))
	})
}

// ArchiveExercise puts an exercise away, or brings it back.
func (s *Store) ArchiveExercise(ctx context.Context, exercise int64, archived bool, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		at, said := since(archived, "archived", "brought back")
		if _, err := tx.ExecContext(ctx, `UPDATE exercises SET archived_at = ? WHERE id = ?`, at, exercise); err != nil {
			return err
		}
		return noteExercise(ctx, tx, exercise, by, "archive", said)
	})
}

// RemoveExercise removes an exercise with all its versions; ErrIssued where one of them was ever issued. Models that
// were made of it stay.
func (s *Store) RemoveExercise(ctx context.Context, exercise, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var title string
		if err := tx.GetContext(ctx, &title, `SELECT title FROM exercise_versions WHERE exercise_id = ?
		ORDER BY version DESC LIMIT 1 FOR UPDATE`, exercise); err != nil {
			return found(err)
		}
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM issues i JOIN exercise_versions v ON v.id = i.version_id
		WHERE v.exercise_id = ?`, exercise); err != nil {
			return err
		}
		if n > 0 {
			return ErrIssued
		}
		for _, q := range []string{
			`UPDATE models SET exercise_id = NULL WHERE exercise_id = ?`,
			`UPDATE assemblies SET exercise_id = NULL WHERE exercise_id = ?`,
			`DELETE FROM drafts WHERE exercise_id = ?`,
			`DELETE FROM exercise_shares WHERE exercise_id = ?`, `DELETE FROM exercise_tags WHERE exercise_id = ?`,
			`DELETE FROM atlases WHERE version_id IN (SELECT id FROM exercise_versions WHERE exercise_id = ?)`,
			`DELETE FROM exercise_versions WHERE exercise_id = ?`, `DELETE FROM exercises WHERE id = ?`,
		} {
			if _, err := tx.ExecContext(ctx, q, exercise); err != nil {
				return err
			}
		}
		return audit(ctx, tx, by, "remove", nil, fmt.Sprintf("the exercise %d (%s) was removed", exercise, title))
	})
}

// Ties are what ties a person to an exercise.
type Ties struct {
	Maker bool   `db:"maker"`
	May   string `db:"may"`   // what it is shared with the person for; empty where it is not
	Leads bool   `db:"leads"` // it is issued to a class that the person is an instructor of
}

// TiesTo gives what ties a person to an exercise; ErrNotFound where there is no such exercise.
func (s *Store) TiesTo(ctx context.Context, exercise, user int64) (Ties, error) {
	var t Ties
	err := s.db.GetContext(ctx, &t, `SELECT e.created_by = ? maker, COALESCE((SELECT may FROM exercise_shares x
		WHERE x.exercise_id = e.id AND x.user_id = ?), '') may, EXISTS (SELECT 1 FROM issues i
		JOIN exercise_versions v ON v.id = i.version_id JOIN memberships m ON m.class_id = i.class_id
		WHERE v.exercise_id = e.id AND i.withdrawn_at IS NULL AND m.user_id = ? AND m.role = 'instructor'
		AND `+present+`) leads FROM exercises e WHERE e.id = ?`, user, user, user, exercise)
	return t, found(err)
}

// Trail lists what was done to an exercise, the newest first.
func (s *Store) Trail(ctx context.Context, exercise int64) ([]AuditEntry, error) {
	out := []AuditEntry{}
	return out, s.db.SelectContext(ctx, &out, `SELECT a.at, u.name, a.action, a.detail FROM audit a
		JOIN users u ON u.id = a.user_id WHERE a.exercise_id = ? ORDER BY a.id DESC LIMIT 100`, exercise)
}

// VersionRow is a version without its documents.
type VersionRow struct {
	ID         int64     `db:"id"`
	ExerciseID int64     `db:"exercise_id"`
	Number     int       `db:"version"`
	Title      string    `db:"title"`
	Drawing    string    `db:"number"`
	Created    time.Time `db:"created_at"`
	Issues     int       `db:"issues"`
	// Of the exercise, where exercises are listed.
	Maker    string     `db:"maker"`
	Mine     bool       `db:"mine"`
	May      string     `db:"may"`  // what it is shared with whom it is listed for
	Tags     *string    `db:"tags"` // a line each
	Archived *time.Time `db:"archived_at"`
	// Alike: the same is measured as in the version that it is listed for.
	Alike bool `db:"alike"`
}

// Exercises lists the newest versions of the exercises that a person may read: made by the person, shared with the
// person, or issued to a class that the person is an instructor of; all to an administrator.
func (s *Store) Exercises(ctx context.Context, u User) ([]VersionRow, error) {
	out := []VersionRow{}
	return out, s.db.SelectContext(ctx, &out, `SELECT v.id, v.exercise_id, v.version, v.title, v.number, v.created_at,
		e.archived_at, w.name maker, e.created_by = ? mine, COALESCE(x.may, '') may,
		(SELECT GROUP_CONCAT(tag ORDER BY tag SEPARATOR '\n') FROM exercise_tags t WHERE t.exercise_id = e.id) tags,
		(SELECT COUNT(*) FROM issues i JOIN exercise_versions n ON n.id = i.version_id WHERE n.exercise_id = e.id
		AND i.withdrawn_at IS NULL) issues
		FROM exercises e JOIN exercise_versions v ON v.exercise_id = e.id JOIN users w ON w.id = e.created_by
		LEFT JOIN exercise_shares x ON x.exercise_id = e.id AND x.user_id = ?
		WHERE v.version = (SELECT MAX(version) FROM exercise_versions n WHERE n.exercise_id = e.id)
		AND (? OR e.created_by = ? OR x.may IS NOT NULL OR EXISTS (SELECT 1 FROM issues i
			JOIN exercise_versions n ON n.id = i.version_id JOIN memberships m ON m.class_id = i.class_id
			WHERE n.exercise_id = e.id AND i.withdrawn_at IS NULL AND m.user_id = ? AND m.role = 'instructor'
			AND `+present+`))
		ORDER BY v.number, v.title, v.id`, u.ID, u.ID, u.Administrator, u.ID, u.ID)
}

// selectVersion reads a version v, at the sizes of its plain variant x.
const selectVersion = `SELECT v.id, v.exercise_id, v.version, v.title, v.number, v.created_by, v.created_at, x.document,
	x.reference_sha, x.prepared, x.hash measured FROM exercise_versions v
	JOIN variants x ON x.version_id = v.id AND x.number = 0 `

// Newest gives the newest version of an exercise.
func (s *Store) Newest(ctx context.Context, exercise int64) (Version, error) {
	var v Version
	err := s.db.GetContext(ctx, &v, selectVersion+`WHERE v.exercise_id = ? ORDER BY v.version DESC LIMIT 1`, exercise)
	return v, found(err)
}

// NewestNumber gives the number of the newest version of an exercise.
func (s *Store) NewestNumber(ctx context.Context, exercise int64) (int, error) {
	var n *int
	err := s.db.GetContext(ctx, &n, `SELECT MAX(version) FROM exercise_versions WHERE exercise_id = ?`, exercise)
	if err == nil && n == nil {
		return 0, ErrNotFound
	}
	if err != nil {
		return 0, err
	}
	return *n, nil
}

// VersionNumbered gives a version of an exercise by its number.
func (s *Store) VersionNumbered(ctx context.Context, exercise int64, number int) (Version, error) {
	var v Version
	err := s.db.GetContext(ctx, &v, selectVersion+`WHERE v.exercise_id = ? AND v.version = ?`, exercise, number)
	return v, found(err)
}

// Version gives one version.
func (s *Store) Version(ctx context.Context, id int64) (Version, error) {
	var v Version
	err := s.db.GetContext(ctx, &v, selectVersion+`WHERE v.id = ?`, id)
	return v, found(err)
}

// Atlas gives the mistake atlas of what is measured, if there is one of that kind.
func (s *Store) Atlas(ctx context.Context, measured, kind string) ([]byte, error) {
	var data []byte
	err := s.db.GetContext(ctx, &data, `SELECT data FROM atlases WHERE measured = ? AND kind = ?`, measured, kind)
	return data, found(err)
}

// OtherReference is what the reference of an exercise comes to.
type OtherReference struct {
	Title  string `db:"title"`
	Number string `db:"number"`
	Bulk   []byte `db:"bulk"` // a report.Bulk as JSON
}

// OtherReferences lists those of all other exercises that were ever issued to the class of an issue.
func (s *Store) OtherReferences(ctx context.Context, issue int64) ([]OtherReference, error) {
	out := []OtherReference{}
	return out, s.db.SelectContext(ctx, &out, `SELECT DISTINCT v.title, v.number, x.bulk FROM issues i
		JOIN exercise_versions v ON v.id = i.version_id JOIN variants x ON x.version_id = v.id AND x.number = 0
		WHERE x.bulk IS NOT NULL AND i.class_id = (SELECT class_id FROM issues WHERE id = ?)
		AND v.exercise_id <> (SELECT w.exercise_id FROM issues j JOIN exercise_versions w ON w.id = j.version_id
			WHERE j.id = ?)`, issue, issue)
}

// KeepAtlas keeps the mistake atlas of a version, or of a variant of it, in place of an earlier one.
func (s *Store) KeepAtlas(ctx context.Context, v Version, kind string, data []byte) error {
	_, err := s.db.ExecContext(ctx, `REPLACE INTO atlases (version_id, measured, kind, data, made_at)
		VALUES (?, ?, ?, ?, ?)`, v.ID, v.Measured, kind, data, now())
	return err
}

// WithoutAtlas gives the version that was issued last and has no atlas of that kind,
// leaving some out.
func (s *Store) WithoutAtlas(ctx context.Context, kind string, but []int64) (Version, error) {
	var v Version
	query, args, err := sqlx.In(selectVersion+`JOIN issues i ON i.version_id = v.id
		LEFT JOIN atlases a ON a.measured = x.hash AND a.kind = ?
		WHERE a.measured IS NULL AND v.id NOT IN (?) ORDER BY i.issued_at DESC LIMIT 1`, kind, append([]int64{0}, but...))
	if err != nil {
		return v, err
	}
	return v, found(s.db.GetContext(ctx, &v, query, args...))
}

// short is a text that fits the audit trail.
func short(text string) string {
	const most = 1500
	if r := []rune(text); len(r) > most {
		return string(r[:most]) + " …"
	}
	return text
}

// Release lets students of an issue see the reference, or no longer.
func (s *Store) Release(ctx context.Context, issue int64, released bool, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE issues SET released = ? WHERE id = ?`, released, issue); err != nil {
			return err
		}
		detail := "the reference of an issue was released"
		if !released {
			detail = "the reference of an issue was withdrawn"
		}
		return audit(ctx, tx, by, "release", nil, detail)
	})
}

func audit(ctx context.Context, tx *sqlx.Tx, by int64, action string, attempt *int64, detail string) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO audit (at, user_id, action, attempt_id, detail) VALUES (?, ?, ?, ?, ?)`,
		now(), by, action, attempt, detail)
	return err
}
