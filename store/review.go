package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
)

// Remark is a comment on a finding of an attempt, or on the attempt as a whole where
// Finding is empty.
type Remark struct {
	ID        int64     `db:"id"`
	AttemptID int64     `db:"attempt_id"`
	Finding   string    `db:"finding"`
	Text      string    `db:"text"`
	By        int64     `db:"made_by"`
	At        time.Time `db:"made_at"`
	ByName    string    `db:"by_name"`
}

// Remarks lists the remarks on an attempt.
func (s *Store) Remarks(ctx context.Context, attempt int64) ([]Remark, error) {
	out := []Remark{}
	return out, s.db.SelectContext(ctx, &out, `SELECT m.*, u.name by_name FROM remarks m JOIN users u ON u.id = m.made_by
		WHERE m.attempt_id = ? ORDER BY m.id`, attempt)
}

// SetRemark writes one remark on a finding of several attempts at once, in the place of what
// was there; an empty text removes it. Returned attempts keep what they were returned with.
func (s *Store) SetRemark(ctx context.Context, attempts []int64, finding string, texts []string,
	by int64) (int, error) {
	n := 0
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		n = 0
		for k, id := range attempts {
			text := texts[k]
			var state string
			if err := tx.GetContext(ctx, &state, `SELECT state FROM attempts WHERE id = ? FOR UPDATE`, id); err != nil {
				return found(err)
			}
			if state == "returned" {
				continue
			}
			if _, err := tx.ExecContext(ctx, `DELETE FROM remarks WHERE attempt_id = ? AND finding = ?`, id, finding); err !=
				nil {
				return err
			}
			if text != "" {
				if _, err := tx.ExecContext(ctx, `INSERT INTO remarks (attempt_id, finding, text, made_by, made_at)
		VALUES (?, ?, ?, ?, ?)`, id, finding, text, by, now()); err != nil {
					return err
				}
			}
			if err := audit(ctx, tx, by, "remark", &id, clip("remark: "+text)); err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}

// OwnRemark is something that a person has said of a finding, to be offered again.
type OwnRemark struct {
	Text string    `db:"text"`
	Here bool      `db:"here"` // of the same finding of the same exercise
	At   time.Time `db:"used_at"`
}

// KeepOwnRemark keeps what a person says of a finding of an exercise.
func (s *Store) KeepOwnRemark(ctx context.Context, user, exercise int64, finding, kind, text string) error {
	_, err := s.db.ExecContext(ctx, `INSERT INTO own_remarks (user_id, exercise_id, finding, kind, said, text, used_at)
		VALUES (?, ?, ?, ?, ?, ?, ?) ON DUPLICATE KEY UPDATE used_at = VALUES(used_at)`, user, exercise, finding, kind,
		digest([]byte(text)), text, now())
	return err
}

// OwnRemarks lists what a person has said of a finding of an exercise, and then of others of its kind, the latest
// first.
func (s *Store) OwnRemarks(ctx context.Context, user, exercise int64, finding, kind string, most int) ([]OwnRemark,
	error) {
	out := []OwnRemark{}
	return out, s.db.SelectContext(ctx, &out, `SELECT MIN(text) text, MAX(exercise_id = ? AND finding = ?) here,
		MAX(used_at) used_at FROM own_remarks WHERE user_id = ? AND kind = ? GROUP BY said
		ORDER BY here DESC, used_at DESC LIMIT ?`, exercise, finding, user, kind, most)
}

// ForgetOwnRemark takes something out of what is offered to a person.
func (s *Store) ForgetOwnRemark(ctx context.Context, user int64, kind, text string) error {
	_, err := s.db.ExecContext(ctx, `DELETE FROM own_remarks WHERE user_id = ? AND kind = ? AND said = ?`, user, kind,
		digest([]byte(text)))
	return err
}

// ErrMeasured is returned when versions differ in what is measured.
var ErrMeasured = errors.New("the versions differ in what is measured")

// Notice is what the students of an issue are told about its sheet.
type Notice struct {
	ID       int64     `db:"id"`
	IssueID  int64     `db:"issue_id"`
	Revision string    `db:"revision"` // of the sheet
	Text     string    `db:"text"`
	By       int64     `db:"made_by"`
	At       time.Time `db:"made_at"`
}

// Notices lists what the students of an issue were told, the newest first.
func (s *Store) Notices(ctx context.Context, issue int64) ([]Notice, error) {
	out := []Notice{}
	return out, s.db.SelectContext(ctx, &out, `SELECT * FROM notices WHERE issue_id = ? ORDER BY id DESC`, issue)
}

// tell keeps a notice; one without text is none.
func tell(ctx context.Context, tx *sqlx.Tx, n Notice) error {
	if n.Text == "" {
		return nil
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO notices (issue_id, revision, text, made_by, made_at)
		VALUES (?, ?, ?, ?, ?)`, n.IssueID, n.Revision, n.Text, n.By, now())
	return err
}

// Revise puts an issue on another version of its exercise in which nothing that is measured differs: the checks that
// were made stand. Action and what go into the trail, and the notice, where it has a text, to the students.
func (s *Store) Revise(ctx context.Context, n Notice, version int64, action, what string) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var same bool
		if err := tx.GetContext(ctx, &same, `SELECT x.hash = y.hash FROM issues i
		JOIN exercise_versions v ON v.id = i.version_id JOIN variants x ON x.version_id = v.id AND x.number = 0
		JOIN exercise_versions w ON w.id = ? AND w.exercise_id = v.exercise_id
		JOIN variants y ON y.version_id = w.id AND y.number = 0 WHERE i.id = ? FOR UPDATE`, version, n.IssueID); err != nil {
			return found(err)
		}
		if !same {
			return ErrMeasured
		}
		if err := repoint(ctx, tx, n.IssueID, version, false); err != nil {
			return err
		}
		if err := tell(ctx, tx, n); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, n.IssueID, n.By, action, what)
	})
}

// repoint moves an issue to a version, and its attempts to their reports there. Returned
// attempts keep the report that they were returned with. With all, attempts that could not
// be checked before and can be now count as checked.
func repoint(ctx context.Context, tx *sqlx.Tx, issue, version int64, all bool) error {
	states := `'checked'`
	if all {
		states = `'checked', 'unusable', 'parked'`
	}
	if _, err := tx.ExecContext(ctx, `UPDATE attempts a JOIN exercise_versions v ON v.id = ?
		JOIN reports r ON r.id = (SELECT MAX(q.id) FROM reports q WHERE q.measured = `+measuredAt+`
		AND q.file_sha = a.file_sha)
		SET a.report_id = r.id, a.version_id = ?, a.state = 'checked', a.what = '', a.remedy = '' WHERE a.issue_id = ?
		AND a.state IN (`+states+`)`, version, version, issue); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `UPDATE issues SET version_id = ? WHERE id = ?`, version, issue)
	return err
}

// RecheckRun is the check of all attempts of an issue against another version, to be looked at
// before it counts.
type RecheckRun struct {
	IssueID   int64     `db:"issue_id"`
	VersionID int64     `db:"version_id"`
	By        int64     `db:"started_by"`
	Started   time.Time `db:"started_at"`
	Number    int       `db:"version"`
}

// ErrRunning is returned when a re-check is under way already.
var ErrRunning = errors.New("a re-check is under way already: apply it or drop it first")

// StartRecheck queues the check of all attempts of an issue that are not returned against
// another version of its exercise. Nothing changes for them.
func (s *Store) StartRecheck(ctx context.Context, issue, version, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var same int
		if err := tx.GetContext(ctx, &same, `SELECT COUNT(*) FROM issues i JOIN exercise_versions v ON v.id = i.version_id
		JOIN exercise_versions w ON w.exercise_id = v.exercise_id WHERE i.id = ? AND w.id = ?`, issue, version); err != nil {
			return err
		}
		if same == 0 {
			return ErrNotFound
		}
		r, err := tx.ExecContext(ctx, `INSERT IGNORE INTO rechecks (issue_id, version_id, started_by, started_at)
		VALUES (?, ?, ?, ?)`, issue, version, by, now())
		if err != nil {
			return err
		}
		if n, err := r.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, ErrRunning)
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO jobs (attempt_id, state, created_at, version_id) SELECT id, 'queued', ?, ?
		FROM attempts WHERE issue_id = ? AND state <> 'returned'`, now(), version, issue)
		if err != nil {
			return err
		}
		return audit(ctx, tx, by, "recheck", nil, fmt.Sprintf("the issue %d is checked against another version", issue))
	})
}

// RecheckOf gives the re-check that is under way for an issue.
func (s *Store) RecheckOf(ctx context.Context, issue int64) (RecheckRun, error) {
	var r RecheckRun
	err := s.db.GetContext(ctx, &r, `SELECT r.*, v.version FROM rechecks r JOIN exercise_versions v ON v.id = r.version_id
		WHERE r.issue_id = ?`, issue)
	return r, found(err)
}

// Rechecked is an attempt as it would be after the re-check: its report there, or why there
// is none.
type Rechecked struct {
	AttemptID int64  `db:"attempt_id"`
	State     string `db:"state"` // of the job
	Reason    string `db:"reason"`
	Report    []byte `db:"report"`
}

// RecheckedOf lists what a re-check has come to so far.
func (s *Store) RecheckedOf(ctx context.Context, issue, version int64, checker string) ([]Rechecked, error) {
	out := []Rechecked{}
	return out, s.db.SelectContext(ctx, &out, `SELECT j.attempt_id, j.state, j.reason, r.report FROM jobs j
		JOIN attempts a ON a.id = j.attempt_id
		JOIN exercise_versions v ON v.id = j.version_id
		LEFT JOIN reports r ON r.measured = `+measuredAt+` AND r.file_sha = a.file_sha AND r.checker = ?
		WHERE a.issue_id = ? AND j.version_id = ? ORDER BY j.attempt_id, j.id`, checker, issue, version)
}

// EndRecheck applies a re-check that has ended, or drops it. The notice, where it has a text, goes to the students.
// Where onto is not 0, the issue is put on that version, in which the same is measured.
func (s *Store) EndRecheck(ctx context.Context, n Notice, apply bool, onto int64) error {
	issue, by := n.IssueID, n.By
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var r RecheckRun
		if err := tx.GetContext(ctx, &r, `SELECT r.*, v.version FROM rechecks r
		JOIN exercise_versions v ON v.id = r.version_id WHERE r.issue_id = ? FOR UPDATE`, issue); err != nil {
			return found(err)
		}
		if apply {
			var open int
			if err := tx.GetContext(ctx, &open, `SELECT COUNT(*) FROM jobs j JOIN attempts a ON a.id = j.attempt_id
		WHERE a.issue_id = ? AND j.version_id = ? AND j.state IN ('queued', 'running')`, issue, r.VersionID); err != nil {
				return err
			}
			if open > 0 {
				return fmt.Errorf("%d checks are still to be made: %w", open, ErrRunning)
			}
			if onto == 0 {
				onto = r.VersionID
			}
			if err := repoint(ctx, tx, issue, onto, true); err != nil {
				return err
			}
			if err := tell(ctx, tx, n); err != nil {
				return err
			}
			if err := audit(ctx, tx, by, "recheck", nil, fmt.Sprintf("issue %d is checked against version %d from now on", issue,
				r.Number)); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `DELETE j FROM jobs j JOIN attempts a ON a.id = j.attempt_id WHERE a.issue_id = ?
		AND j.version_id = ?`, issue, r.VersionID); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM rechecks WHERE issue_id = ?`, issue)
		return err
	})
}

// VersionsOf lists the versions of the exercise that an issue is of, newest first.
func (s *Store) VersionsOf(ctx context.Context, issue int64) ([]VersionRow, error) {
	out := []VersionRow{}
	return out, s.db.SelectContext(ctx, &out, `SELECT w.id, w.exercise_id, w.version, w.title, w.number, w.created_at,
		y.hash = x.hash alike, 0 issues FROM issues i JOIN exercise_versions v ON v.id = i.version_id
		JOIN variants x ON x.version_id = v.id AND x.number = 0 JOIN exercise_versions w ON w.exercise_id = v.exercise_id
		JOIN variants y ON y.version_id = w.id AND y.number = 0 WHERE i.id = ? ORDER BY w.version DESC`, issue)
}
