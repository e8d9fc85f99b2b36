package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
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
	Measured  string    `db:"measured"`
	CreatedBy int64     `db:"created_by"`
	Created   time.Time `db:"created_at"`
	What      string    `db:"-"` // what the version came from, for the trail
	Ends      int64     `db:"-"` // the revision of the draft that it was made of, which ends with it; 0: of none
}

// Issue is an exercise given to a class.
type Issue struct {
	ID        int64     `db:"id"`
	VersionID int64     `db:"version_id"`
	ClassID   int64     `db:"class_id"`
	IssuedBy  int64     `db:"issued_by"`
	Issued    time.Time `db:"issued_at"`
	Due       time.Time `db:"due_at"`
	Attempts  int       `db:"attempts"`
	Results   string    `db:"results"`
	Released  bool      `db:"released"`
	// joined
	ExerciseID int64  `db:"exercise_id"`
	Title      string `db:"title"`
	Drawing    string `db:"number"`
	Version    int    `db:"version"`
	ClassName  string `db:"class_name"`
	// The newest notice about its sheet.
	NoticeAt       *time.Time `db:"notice_at"`
	NoticeRevision *string    `db:"notice_revision"`
	NoticeText     *string    `db:"notice_text"`
	// Withdrawn issues are not there for anybody any more.
	Withdrawn *time.Time `db:"withdrawn_at"`
}

const issueColumns = `i.*, v.exercise_id, v.title, v.number, v.version, c.name class_name, n.made_at notice_at,
	n.revision notice_revision, n.text notice_text
	FROM issues i JOIN exercise_versions v ON v.id = i.version_id JOIN classes c ON c.id = i.class_id
	LEFT JOIN notices n ON n.id = (SELECT MAX(id) FROM notices WHERE issue_id = i.id)`

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
		r, err := tx.NamedExecContext(ctx, `INSERT INTO exercise_versions (exercise_id, version, title, number, document,
		reference_sha, prepared, measured, created_by, created_at) VALUES (:exercise_id, :version, :title, :number, :document,
		:reference_sha, :prepared, :measured, :created_by, :created_at)`, v)
		if err != nil {
			return err
		}
		if v.ID, err = r.LastInsertId(); err != nil {
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

// MayChange tells whether a person may change an exercise: its maker, and the instructors of a
// class that it is issued to. Administrators may change all.
func (s *Store) MayChange(ctx context.Context, u User, exercise int64) (bool, error) {
	if u.Role == "administrator" {
		return true, nil
	}
	var n int
	err := s.db.GetContext(ctx, &n, `SELECT (SELECT COUNT(*) FROM exercises WHERE id = ? AND created_by = ?) +
		(SELECT COUNT(*) FROM issues i JOIN exercise_versions v ON v.id = i.version_id
		JOIN memberships m ON m.class_id = i.class_id WHERE v.exercise_id = ?
		AND m.user_id = ?)`, exercise, u.ID, exercise, u.ID)
	return n > 0 && u.Role == "instructor", err
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
	// Alike: the same is measured as in the version that it is listed for.
	Alike bool `db:"alike"`
}

// Exercises lists the newest version of every exercise.
func (s *Store) Exercises(ctx context.Context) ([]VersionRow, error) {
	out := []VersionRow{}
	return out, s.db.SelectContext(ctx, &out, `SELECT v.id, v.exercise_id, v.version, v.title, v.number, v.created_at,
		(SELECT COUNT(*) FROM issues i JOIN exercise_versions w ON w.id = i.version_id WHERE w.exercise_id = v.exercise_id
		AND i.withdrawn_at IS NULL) issues
		FROM exercise_versions v WHERE v.version = (SELECT MAX(version) FROM exercise_versions w
		WHERE w.exercise_id = v.exercise_id) ORDER BY v.number, v.title`)
}

// Newest gives the newest version of an exercise.
func (s *Store) Newest(ctx context.Context, exercise int64) (Version, error) {
	var v Version
	err := s.db.GetContext(ctx, &v, `SELECT * FROM exercise_versions WHERE exercise_id = ?
		ORDER BY version DESC LIMIT 1`, exercise)
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
	err := s.db.GetContext(ctx, &v, `SELECT * FROM exercise_versions WHERE exercise_id = ? AND version = ?`, exercise,
		number)
	return v, found(err)
}

// Version gives one version.
func (s *Store) Version(ctx context.Context, id int64) (Version, error) {
	var v Version
	err := s.db.GetContext(ctx, &v, `SELECT * FROM exercise_versions WHERE id = ?`, id)
	return v, found(err)
}

// Atlas gives the mistake atlas of what a version measures, if there is one of that kind.
func (s *Store) Atlas(ctx context.Context, version int64, kind string) ([]byte, error) {
	var data []byte
	err := s.db.GetContext(ctx, &data, `SELECT data FROM atlases WHERE measured = (SELECT measured FROM exercise_versions
		WHERE id = ?) AND kind = ?`, version, kind)
	return data, found(err)
}

// OtherPart is what the part of an exercise measures: the first figures of its mistake atlas.
type OtherPart struct {
	Title  string `db:"title"`
	Inner  []byte `db:"inner_figures"` // JSON: volume, area, and moments of inertia, the largest first
	Number string `db:"number"`
}

// OtherParts lists the parts of all other exercises that were ever issued to the class of an issue, where they have a
// mistake atlas of that kind.
func (s *Store) OtherParts(ctx context.Context, issue int64, kind string) ([]OtherPart, error) {
	out := []OtherPart{}
	return out, s.db.SelectContext(ctx, &out, `SELECT DISTINCT v.title, v.number,
		JSON_EXTRACT(CONVERT(a.data USING utf8mb4), '$.figures.inner') inner_figures FROM issues i
		JOIN exercise_versions v ON v.id = i.version_id JOIN atlases a ON a.measured = v.measured AND a.kind = ?
		WHERE JSON_EXTRACT(CONVERT(a.data USING utf8mb4), '$.figures.inner') IS NOT NULL
		AND i.class_id = (SELECT class_id FROM issues WHERE id = ?) AND v.exercise_id <> (SELECT w.exercise_id
		FROM issues j JOIN exercise_versions w ON w.id = j.version_id WHERE j.id = ?)`, kind, issue, issue)
}

// KeepAtlas keeps the mistake atlas of a version in place of an earlier one.
func (s *Store) KeepAtlas(ctx context.Context, version int64, kind string, data []byte) error {
	_, err := s.db.ExecContext(ctx, `REPLACE INTO atlases (version_id, measured, kind, data, made_at)
		SELECT id, measured, ?, ?, ? FROM exercise_versions WHERE id = ?`, kind, data, now(), version)
	return err
}

// WithoutAtlas gives the version that was issued last and has no atlas of that kind,
// leaving some out.
func (s *Store) WithoutAtlas(ctx context.Context, kind string, but []int64) (Version, error) {
	var v Version
	query, args, err := sqlx.In(`SELECT v.* FROM exercise_versions v JOIN issues i ON i.version_id = v.id LEFT
		JOIN atlases a ON a.measured = v.measured AND a.kind = ?
		WHERE a.measured IS NULL AND v.id NOT IN (?) ORDER BY i.issued_at DESC LIMIT 1`, kind, append([]int64{0}, but...))
	if err != nil {
		return v, err
	}
	return v, found(s.db.GetContext(ctx, &v, query, args...))
}

// ErrIssued is returned when a class has an exercise already.
var ErrIssued = errors.New("this class has the exercise already")

// AddIssue gives an exercise to a class; where the class has it already, only if again is set. Open is what its sheet
// leaves open, knowing which it is issued: the audit trail keeps it.
func (s *Store) AddIssue(ctx context.Context, i Issue, again bool, open string) (int64, error) {
	var id int64
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		var class int64 // locked, so that a second click finds what the first made
		if err := tx.GetContext(ctx, &class, `SELECT id FROM classes WHERE id = ? FOR UPDATE`, i.ClassID); err != nil {
			return found(err)
		}
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM issues i JOIN exercise_versions v ON v.id = i.version_id
		JOIN exercise_versions w ON w.exercise_id = v.exercise_id WHERE w.id = ? AND i.class_id = ?
		AND i.withdrawn_at IS NULL`, i.VersionID, i.ClassID); err != nil {
			return err
		}
		if n > 0 && !again {
			return ErrIssued
		}
		r, err := tx.NamedExecContext(ctx, `INSERT INTO issues (version_id, class_id, issued_by, issued_at, due_at, attempts,
		results) VALUES (:version_id, :class_id, :issued_by, :issued_at, :due_at, :attempts, :results)`, i)
		if err == nil {
			id, err = r.LastInsertId()
		}
		if err != nil {
			return err
		}
		said := "issued, due " + i.Due.Format("2006-01-02 15:04") + " UTC"
		if open != "" {
			said += ", although the sheet leaves open: " + short(open)
		}
		return s.noteIssue(ctx, tx, id, i.IssuedBy, "issue", said)
	})
	return id, err
}

// short is a text that fits the audit trail.
func short(text string) string {
	const most = 1500
	if r := []rune(text); len(r) > most {
		return string(r[:most]) + " …"
	}
	return text
}

func (s *Store) noteIssue(ctx context.Context, tx *sqlx.Tx, issue, by int64, action, detail string) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO audit (at, user_id, action, issue_id, exercise_id, detail)
		SELECT ?, ?, ?, i.id, v.exercise_id, CONCAT(c.name, ': ', ?) FROM issues i
		JOIN exercise_versions v ON v.id = i.version_id JOIN classes c ON c.id = i.class_id
		WHERE i.id = ?`, now(), by, action, detail, issue)
	return err
}

// SetDue changes until when an issue is to be handed in. Whether attempts were late is said anew.
func (s *Store) SetDue(ctx context.Context, issue int64, due time.Time, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE issues SET due_at = ? WHERE id = ?`, due, issue); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE attempts SET late = handed_in_at > ? WHERE issue_id = ?
		AND state <> 'returned'`, due, issue); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, issue, by, "due", "due "+due.Format("2006-01-02 15:04")+" UTC")
	})
}

// Further gives a student attempts beyond those of the issue.
func (s *Store) Further(ctx context.Context, issue, student int64, more int, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO further_attempts (issue_id, student_id, more) VALUES (?, ?, ?)
		ON DUPLICATE KEY UPDATE more = more + VALUES(more)`, issue, student, more); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, issue, by, "further attempt", fmt.Sprintf("%d more for the student %d", more, student))
	})
}

// FurtherOf lists how many attempts beyond those of the issue its students have.
func (s *Store) FurtherOf(ctx context.Context, issue int64) (map[int64]int, error) {
	rows := []struct {
		Student int64 `db:"student_id"`
		More    int   `db:"more"`
	}{}
	err := s.db.SelectContext(ctx, &rows, `SELECT student_id, more FROM further_attempts WHERE issue_id = ?`, issue)
	out := map[int64]int{}
	for _, r := range rows {
		out[r.Student] = r.More
	}
	return out, err
}

// ErrHandedIn is returned when an issue cannot be withdrawn any more.
var ErrHandedIn = errors.New("something was handed in already")

// Withdraw takes an issue back while nothing was handed in. Models that were begun for it stay.
func (s *Store) Withdraw(ctx context.Context, issue, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var id int64
		if err := tx.GetContext(ctx, &id, `SELECT id FROM issues WHERE id = ? AND withdrawn_at IS NULL FOR UPDATE`,
			issue); err != nil {
			return found(err)
		}
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM attempts WHERE issue_id = ?`, issue); err != nil {
			return err
		}
		if n > 0 {
			return ErrHandedIn
		}
		if _, err := tx.ExecContext(ctx, `UPDATE issues SET withdrawn_at = ? WHERE id = ?`, now(), issue); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, issue, by, "withdraw", "withdrawn")
	})
}

// Issue gives one issue.
func (s *Store) Issue(ctx context.Context, id int64) (Issue, error) {
	var i Issue
	err := s.db.GetContext(ctx, &i, `SELECT `+issueColumns+` WHERE i.id = ? AND i.withdrawn_at IS NULL`, id)
	return i, found(err)
}

// Issues lists the issues of a person's classes, the soonest due first.
func (s *Store) Issues(ctx context.Context, u User) ([]Issue, error) {
	out := []Issue{}
	return out, s.db.SelectContext(ctx, &out, `SELECT `+issueColumns+` WHERE i.withdrawn_at IS NULL
		AND (? = 'administrator' OR EXISTS (SELECT 1 FROM memberships m WHERE m.class_id = i.class_id AND m.user_id = ?))
		ORDER BY i.due_at, i.id`, u.Role, u.ID)
}

// IssuesOf lists the issues of one exercise in a person's classes.
func (s *Store) IssuesOf(ctx context.Context, u User, exercise int64) ([]Issue, error) {
	out := []Issue{}
	return out, s.db.SelectContext(ctx, &out, `SELECT `+issueColumns+` WHERE i.withdrawn_at IS NULL AND v.exercise_id = ?
		AND (? = 'administrator' OR EXISTS (SELECT 1 FROM memberships m WHERE m.class_id = i.class_id AND m.user_id = ?))
		ORDER BY i.due_at, i.id`, exercise, u.Role, u.ID)
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
