package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
)

// ErrUsedUp is returned when all attempts of an issue are used.
var ErrUsedUp = errors.New("all attempts are used")

// ErrClosed is returned when an issue is closed.
var ErrClosed = errors.New("the issue is closed")

// Attempt is what a student handed in, with its state.
type Attempt struct {
	ID       int64     `db:"id"`
	IssueID  int64     `db:"issue_id"`
	Student  int64     `db:"student_id"`
	Number   int       `db:"number"`
	FileSHA  string    `db:"file_sha"`
	FileName string    `db:"file_name"`
	HandedIn time.Time `db:"handed_in_at"`
	Late     bool      `db:"late"`
	State    string    `db:"state"`
	What     string    `db:"what"`
	Remedy   string    `db:"remedy"`
	ReportID *int64    `db:"report_id"`
	// VersionID is the version by which it is marked, once there is a report.
	VersionID *int64 `db:"version_id"`
	// SentSHA is what was sent, where FileSHA is all parts of an assembly so far; Continued is how many attempts up to
	// this one only added parts to those before them.
	SentSHA   *string `db:"sent_sha"`
	Continued int     `db:"continued"`
	// joined
	Due         time.Time `db:"due_at"` // for this student
	StudentName string    `db:"student_name"`
	Report      []byte    `db:"report"`
	Points      *float64  `db:"points"` // as returned
	OutOf       *float64  `db:"out_of"`
	In          *int      `db:"in_count"` // characteristics within their limits
	Of          *int      `db:"of_count"`
}

const attemptSummary = `a.*, COALESCE(o.due_at, q.due_at) due_at, u.name student_name, r.in_count, r.of_count,
	t.points, t.out_of`

const attemptColumns = attemptSummary + `, r.report ` + attemptTables

const attemptTables = ` FROM attempts a JOIN users u ON u.id = a.student_id LEFT JOIN reports r ON r.id = a.report_id
	LEFT JOIN returns t ON t.attempt_id = a.id JOIN issues q ON q.id = a.issue_id
	LEFT JOIN issue_students o ON o.issue_id = a.issue_id AND o.student_id = a.student_id`

// HandIn keeps a file as the student's next attempt and queues its check. Files
// that could not be used do not count against the number of attempts. The same file sent
// again, because the answer to the first was lost, is the same attempt.
func (s *Store) HandIn(ctx context.Context, issue, student int64, name string,
	data []byte) (id int64, already bool, err error) {
	return s.HandInAt(ctx, issue, student, name, data, now())
}

// HandInAt is HandIn at a given time, for attempts that come from elsewhere.
func (s *Store) HandInAt(ctx context.Context, issue, student int64, name string, data []byte,
	t time.Time) (id int64, already bool, err error) {
	err = s.transaction(ctx, func(tx *sqlx.Tx) error {
		var i Issue // locked, so that two tabs get two numbers
		if err := tx.GetContext(ctx, &i, `SELECT id, attempts, due_at, closed_at FROM issues WHERE id = ?
		AND withdrawn_at IS NULL FOR UPDATE`, issue); err != nil {
			return found(err)
		}
		used := struct {
			Next      int `db:"next"`
			Counted   int `db:"counted"`
			Continued int `db:"continued"`
		}{}
		if err := tx.GetContext(ctx, &used, `SELECT COALESCE(MAX(number), 0) + 1 next, COALESCE(SUM(state <> 'unusable'),
		0) - COALESCE(MAX(continued), 0) counted, COALESCE(MAX(continued), 0) continued FROM attempts
		WHERE issue_id = ? AND student_id = ?`, issue, student); err != nil {
			return err
		}
		sha, err := putFile(ctx, tx, data)
		if err != nil {
			return err
		}
		err = tx.GetContext(ctx, &id, `SELECT id FROM attempts WHERE issue_id = ? AND student_id = ? AND number = ?
		AND COALESCE(sent_sha, file_sha) = ? AND state IN ('queued', 'checking', 'checked')`, issue, student,
			used.Next-1, sha)
		if already = err == nil; !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		var rows []Own
		if err := tx.SelectContext(ctx, &rows, `SELECT * FROM issue_students WHERE issue_id = ? AND student_id = ?`, issue,
			student); err != nil {
			return err
		}
		var own Own
		if len(rows) > 0 {
			own = rows[0]
		}
		if i.Closed != nil && (own.Due == nil || own.Due.Before(t)) {
			return ErrClosed
		}
		if used.Counted >= i.Attempts+own.More {
			return ErrUsedUp
		}
		if own.Due != nil {
			i.Due = *own.Due
		}
		r, err := tx.ExecContext(ctx, `INSERT INTO attempts (issue_id, student_id, number, file_sha, file_name,
		handed_in_at, late, continued, state) VALUES (?, ?, ?, ?, ?, ?, ?, ?, 'queued')`, issue, student, used.Next, sha,
			name, t, t.After(i.Due), used.Continued)
		if err != nil {
			return err
		}
		if id, err = r.LastInsertId(); err != nil {
			return err
		}
		return queue(ctx, tx, id)
	})
	return id, already, err
}

func queue(ctx context.Context, tx *sqlx.Tx, attempt int64) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO jobs (attempt_id, state, created_at) VALUES (?, 'queued', ?)`,
		attempt, now())
	return err
}

// Gathered makes all parts that were handed in so far the file of an attempt.
func (s *Store) Gathered(ctx context.Context, j *Job, data []byte) (sha string, err error) {
	err = s.transaction(ctx, func(tx *sqlx.Tx) error {
		if err := held(ctx, tx, j); err != nil {
			return err
		}
		if sha, err = putFile(ctx, tx, data); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE attempts SET sent_sha = COALESCE(sent_sha, file_sha), file_sha = ?
		WHERE id = ?`, sha, j.AttemptID)
		return err
	})
	return sha, err
}

// Continue keeps how many attempts of a student, up to this one, only added parts to those before them.
func (s *Store) Continue(ctx context.Context, attempt int64, continued int) error {
	_, err := s.db.ExecContext(ctx, `UPDATE attempts SET continued = ? WHERE id = ?`, continued, attempt)
	return err
}

// Recheck queues the check of an attempt anew, after it was parked.
func (s *Store) Recheck(ctx context.Context, attempt, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `UPDATE attempts SET state = 'queued', what = '', remedy = '' WHERE id = ?
		AND state IN ('parked', 'unusable')`, attempt)
		if err != nil {
			return err
		}
		if n, err := r.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, fmt.Errorf("only an attempt that could not be checked can be checked again: %w",
				ErrNotFound))
		}
		if err := queue(ctx, tx, attempt); err != nil {
			return err
		}
		return audit(ctx, tx, by, "recheck", &attempt, "the check was queued again")
	})
}

// Attempt gives one attempt with its report.
func (s *Store) Attempt(ctx context.Context, id int64) (Attempt, error) {
	var a Attempt
	err := s.db.GetContext(ctx, &a, `SELECT `+attemptColumns+` WHERE a.id = ?`, id)
	return a, found(err)
}

// AttemptsOf lists the attempts at an issue; student 0 means all.
func (s *Store) AttemptsOf(ctx context.Context, issue, student int64) ([]Attempt, error) {
	out := []Attempt{}
	return out, s.db.SelectContext(ctx, &out, `SELECT `+attemptColumns+` WHERE a.issue_id = ? AND (? = 0
		OR a.student_id = ?) ORDER BY u.name, a.number`, issue, student, student)
}

// AttemptRows lists the attempts at an issue without their reports; student 0 means all.
func (s *Store) AttemptRows(ctx context.Context, issue, student int64) ([]Attempt, error) {
	out := []Attempt{}
	return out, s.db.SelectContext(ctx, &out, `SELECT `+attemptSummary+attemptTables+` WHERE a.issue_id = ? AND (? = 0
		OR a.student_id = ?) ORDER BY u.name, a.number`, issue, student, student)
}

// RowsOf lists the attempts at issues without their reports, by issue; student 0 means all.
func (s *Store) RowsOf(ctx context.Context, issues []int64, student int64) (map[int64][]Attempt, error) {
	out := map[int64][]Attempt{}
	if len(issues) == 0 {
		return out, nil
	}
	query, args, err := sqlx.In(`SELECT `+attemptSummary+attemptTables+` WHERE a.issue_id IN (?) AND (? = 0
		OR a.student_id = ?) ORDER BY u.name, a.number`, issues, student, student)
	if err != nil {
		return nil, err
	}
	var list []Attempt
	err = s.db.SelectContext(ctx, &list, query, args...)
	for _, a := range list {
		out[a.IssueID] = append(out[a.IssueID], a)
	}
	return out, err
}

// Mesh gives the mesh of a checked attempt as JSON.
func (s *Store) Mesh(ctx context.Context, attempt int64) ([]byte, error) {
	var data []byte
	err := s.db.GetContext(ctx, &data, `SELECT r.mesh FROM attempts a JOIN reports r ON r.id = a.report_id
		WHERE a.id = ?`, attempt)
	return data, found(err)
}

// Compared gives what a checked attempt has too much and lacks, beside the reference, as
// JSON; nil where the two do not differ.
func (s *Store) Compared(ctx context.Context, attempt int64) ([]byte, error) {
	var data []byte
	err := s.db.GetContext(ctx, &data, `SELECT r.compared FROM attempts a JOIN reports r ON r.id = a.report_id
		WHERE a.id = ?`, attempt)
	return data, found(err)
}

// Mark is a mark that a person changed.
type Mark struct {
	AttemptID int64     `db:"attempt_id"`
	Mark      string    `db:"mark"`
	Points    float64   `db:"points"`
	Reason    string    `db:"reason"`
	By        int64     `db:"marked_by"`
	At        time.Time `db:"marked_at"`
	ByName    string    `db:"by_name"`
}

// Marks lists the changed marks of an attempt.
func (s *Store) Marks(ctx context.Context, attempt int64) ([]Mark, error) {
	out := []Mark{}
	return out, s.db.SelectContext(ctx, &out, `SELECT m.*, u.name by_name FROM marks m JOIN users u ON u.id = m.marked_by
		WHERE m.attempt_id = ?`, attempt)
}

// SetMark changes a mark, with its reason; note is what the audit trail says of it.
func (s *Store) SetMark(ctx context.Context, m Mark, note string) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		m.At = now()
		if _, err := tx.NamedExecContext(ctx, `REPLACE INTO marks (attempt_id, mark, points, reason, marked_by, marked_at)
		VALUES (:attempt_id, :mark, :points, :reason, :marked_by, :marked_at)`, m); err != nil {
			return err
		}
		return audit(ctx, tx, m.By, "mark", &m.AttemptID, note)
	})
}

// Return is the feedback as sent.
type Return struct {
	AttemptID int64     `db:"attempt_id"`
	Comment   string    `db:"comment"`
	Points    float64   `db:"points"`
	OutOf     float64   `db:"out_of"`
	By        int64     `db:"returned_by"`
	At        time.Time `db:"returned_at"`
	ByName    string    `db:"by_name"`
	Marks     []byte    `db:"marks"` // the marks as returned, as JSON
	// Opened is when the student has opened it; until then it can be undone.
	Opened *time.Time `db:"opened_at"`
}

// OpenReturn notes that the student has opened a return.
func (s *Store) OpenReturn(ctx context.Context, attempt int64) error {
	_, err := s.db.ExecContext(ctx, `UPDATE returns SET opened_at = ? WHERE attempt_id = ? AND opened_at IS NULL`, now(),
		attempt)
	return err
}

// AddReturn sends an attempt back. It can be done once. Note is what the audit trail says of it.
func (s *Store) AddReturn(ctx context.Context, r Return, note string) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE attempts SET state = 'returned' WHERE id = ? AND state = 'checked'`,
			r.AttemptID)
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, fmt.Errorf("only a checked attempt can be returned, and once: %w", ErrNotFound))
		}
		r.At = now()
		if _, err := tx.NamedExecContext(ctx, `INSERT INTO returns (attempt_id, comment, points, out_of, returned_by,
		returned_at, marks)
		VALUES (:attempt_id, :comment, :points, :out_of, :returned_by, :returned_at, :marks)`, r); err != nil {
			return err
		}
		return audit(ctx, tx, r.By, "return", &r.AttemptID, note)
	})
}

// ErrWentOn is returned when a return cannot be taken back any more.
var ErrWentOn = errors.New("the student has handed in again since")

// TakeBack takes back a return: the attempt is to be returned again. The student's next
// attempt makes it final.
func (s *Store) TakeBack(ctx context.Context, attempt, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var a struct {
			Issue   int64 `db:"issue_id"`
			Student int64 `db:"student_id"`
			Number  int   `db:"number"`
		}
		if err := tx.GetContext(ctx, &a, `SELECT issue_id, student_id, number FROM attempts WHERE id = ?
		AND state = 'returned' FOR UPDATE`, attempt); err != nil {
			return found(err)
		}
		var later int
		if err := tx.GetContext(ctx, &later, `SELECT COUNT(*) FROM attempts WHERE issue_id = ? AND student_id = ?
		AND number > ?`, a.Issue, a.Student, a.Number); err != nil {
			return err
		}
		if later > 0 {
			return ErrWentOn
		}
		var opened *time.Time
		if err := tx.GetContext(ctx, &opened, `SELECT opened_at FROM returns WHERE attempt_id = ?`, attempt); err != nil {
			return found(err)
		}
		said := "the return was taken back, after the student had opened it"
		if opened == nil {
			said = "the return was undone before the student had opened it"
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM returns WHERE attempt_id = ?`, attempt); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE attempts SET state = 'checked' WHERE id = ?`, attempt); err != nil {
			return err
		}
		return audit(ctx, tx, by, "take back", &attempt, said)
	})
}

// ReturnOf gives the return of an attempt.
func (s *Store) ReturnOf(ctx context.Context, attempt int64) (Return, error) {
	var r Return
	err := s.db.GetContext(ctx, &r, `SELECT t.*, u.name by_name FROM returns t JOIN users u ON u.id = t.returned_by
		WHERE t.attempt_id = ?`, attempt)
	return r, found(err)
}

// AuditEntry is one line of the audit trail.
type AuditEntry struct {
	At     time.Time `db:"at"`
	Name   string    `db:"name"`
	Action string    `db:"action"`
	Detail string    `db:"detail"`
}

// Audit lists what was done to an attempt, oldest first.
func (s *Store) Audit(ctx context.Context, attempt int64) ([]AuditEntry, error) {
	out := []AuditEntry{}
	return out, s.db.SelectContext(ctx, &out, `SELECT a.at, u.name, a.action, a.detail FROM audit a
		JOIN users u ON u.id = a.user_id WHERE a.attempt_id = ? ORDER BY a.id`, attempt)
}

// Job is the check of an attempt as a unit of work.
type Job struct {
	ID        int64        `db:"id"`
	AttemptID int64        `db:"attempt_id"`
	State     string       `db:"state"`
	Stage     string       `db:"stage"`
	Progress  float64      `db:"progress"`
	Tries     int          `db:"tries"`
	Worker    string       `db:"worker"`
	Lease     sql.NullTime `db:"lease_until"`
	Reason    string       `db:"reason"`
	Created   time.Time    `db:"created_at"`
	// VersionID is set where the check is against another version than that of the issue,
	// to be looked at before it counts: the attempt itself is not touched.
	VersionID *int64 `db:"version_id"`
}

// Lease is how long a worker may be silent before its job is taken again.
const Lease = 20 * time.Second

// MaxTries is how often a check is tried before it is parked.
const MaxTries = 3

// Claim takes the oldest job that waits or whose worker has fallen silent; nil
// when there is none. A job that was tried too often is parked instead.
func (s *Store) Claim(ctx context.Context, worker string) (*Job, error) {
	var job *Job
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		var j Job
		t := now()
		// Students take turns: whoever has less under way and less before this job comes first.
		var open []int64
		if err := tx.SelectContext(ctx, &open, `SELECT j.id FROM jobs j JOIN attempts a ON a.id = j.attempt_id
			WHERE j.state = 'queued' OR (j.state = 'running' AND j.lease_until < ?)
			ORDER BY j.version_id IS NOT NULL,
				(SELECT COUNT(*) FROM jobs r JOIN attempts b ON b.id = r.attempt_id WHERE b.student_id = a.student_id
		AND (r.state = 'running' AND r.lease_until >= ? OR r.state = 'queued' AND r.id < j.id)), j.id
			LIMIT 16`, t, t); err != nil || len(open) == 0 {
			return err
		}
		query, args, err := sqlx.In(`SELECT * FROM jobs WHERE id IN (?) AND (state = 'queued' OR (state = 'running'
		AND lease_until < ?)) ORDER BY FIELD(id, ?) LIMIT 1 FOR UPDATE SKIP LOCKED`, open, t, open)
		if err == nil {
			err = tx.GetContext(ctx, &j, query, args...)
		}
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		if err != nil {
			return err
		}
		if j.Tries >= MaxTries {
			return park(ctx, tx, j, "the worker died or was stopped in the middle of it, three times")
		}
		if _, err := tx.ExecContext(ctx, `UPDATE jobs SET state = 'running', stage = 'reading', progress = 0,
		tries = tries + 1, worker = ?, lease_until = ? WHERE id = ?`, worker, t.Add(Lease), j.ID); err != nil {
			return err
		}
		if j.VersionID == nil {
			if _, err := tx.ExecContext(ctx, `UPDATE attempts SET state = 'checking' WHERE id = ?`, j.AttemptID); err != nil {
				return err
			}
		}
		j.Tries++
		j.Worker = worker
		job = &j
		return nil
	})
	return job, err
}

func park(ctx context.Context, tx *sqlx.Tx, j Job, reason string) error {
	if _, err := tx.ExecContext(ctx, `UPDATE jobs SET state = 'parked', stage = 'parked', reason = ? WHERE id = ?`, reason,
		j.ID); err != nil || j.VersionID != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `UPDATE attempts SET state = 'parked', what = ?,
		remedy = 'your file is kept; your instructor can have it checked again'
		WHERE id = ?`, "the check could not be finished: "+reason, j.AttemptID)
	return err
}

// ErrLost is returned when a worker has lost its job to another.
var ErrLost = errors.New("the job was taken by another worker")

// Beat renews the lease and notes progress.
func (s *Store) Beat(ctx context.Context, j *Job, stage string, progress float64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `UPDATE jobs SET stage = ?, progress = ?, lease_until = ? WHERE id = ? AND worker = ?
		AND state = 'running'`, stage, progress, now().Add(Lease), j.ID, j.Worker)
		if err != nil {
			return err
		}
		// An update that changes nothing affects no row; the lease always moves on.
		if n, err := r.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, ErrLost)
		}
		return nil
	})
}

// held locks a job for its worker, or says that it was lost.
func held(ctx context.Context, tx *sqlx.Tx, j *Job) error {
	var worker string
	err := tx.GetContext(ctx, &worker, `SELECT worker FROM jobs WHERE id = ? AND state = 'running' FOR UPDATE`, j.ID)
	if errors.Is(err, sql.ErrNoRows) || (err == nil && worker != j.Worker) {
		return ErrLost
	}
	return err
}

// Checked is what a check has come to.
type Checked struct {
	Report, Mesh, Compared []byte
	Digest                 []byte // what lists need of the report
	In, Of                 int    // characteristics within their limits, of all
}

// Finish keeps the report of a job, with how many of its characteristics are in, and closes it.
func (s *Store) Finish(ctx context.Context, j *Job, version int64, sha, checker string, r Checked) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if err := held(ctx, tx, j); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO reports (version_id, measured, file_sha, checker, report, mesh,
		compared, digest, in_count, of_count, created_at) SELECT v.id, `+measuredAt+`, ?, ?, ?, ?, ?, ?, ?, ?, ?
		FROM exercise_versions v JOIN attempts a ON a.id = ? WHERE v.id = ?`, sha, checker, r.Report, r.Mesh, r.Compared,
			r.Digest, r.In, r.Of, now(), j.AttemptID, version); err != nil {
			return err
		}
		return s.close(ctx, tx, j, version, sha, checker)
	})
}

func (s *Store) close(ctx context.Context, tx *sqlx.Tx, j *Job, version int64, sha, checker string) error {
	if j.VersionID != nil {
		_, err := tx.ExecContext(ctx, `UPDATE jobs SET state = 'done', stage = 'done', progress = 1 WHERE id = ?`, j.ID)
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE attempts a JOIN exercise_versions v ON v.id = ?
		JOIN reports r ON r.measured = `+measuredAt+` AND r.file_sha = ? AND r.checker = ?
		SET a.state = 'checked', a.report_id = r.id, a.version_id = v.id WHERE a.id = ?`, version, sha, checker,
		j.AttemptID); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `UPDATE jobs SET state = 'done', stage = 'done', progress = 1 WHERE id = ?`, j.ID)
	return err
}

// Reuse closes a job with a report that exists already for what the version measures, the
// file and the checker; false when there is none.
func (s *Store) Reuse(ctx context.Context, j *Job, version int64, sha, checker string) (bool, error) {
	done := false
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		done = false
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM attempts a JOIN exercise_versions v ON v.id = ?
		JOIN reports r ON r.measured = `+measuredAt+` WHERE a.id = ? AND r.file_sha = ? AND r.checker = ?`, version,
			j.AttemptID, sha, checker); err != nil || n == 0 {
			return err
		}
		if err := held(ctx, tx, j); err != nil {
			return err
		}
		done = true
		return s.close(ctx, tx, j, version, sha, checker)
	})
	return done, err
}

// Unusable closes a job whose file cannot be checked.
func (s *Store) Unusable(ctx context.Context, j *Job, what, remedy string) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if err := held(ctx, tx, j); err != nil {
			return err
		}
		if j.VersionID == nil {
			if _, err := tx.ExecContext(ctx, `UPDATE attempts SET state = 'unusable', what = ?, remedy = ? WHERE id = ?`,
				clip(what), clip(remedy), j.AttemptID); err != nil {
				return err
			}
		}
		_, err := tx.ExecContext(ctx, `UPDATE jobs SET state = 'done', stage = 'done', progress = 1, reason = ? WHERE id = ?`,
			clip(what), j.ID)
		return err
	})
}

// Fail gives a job back after an error that is not the file's; after the last
// try it is parked with the reason.
func (s *Store) Fail(ctx context.Context, j *Job, reason string) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if err := held(ctx, tx, j); err != nil {
			return err
		}
		if j.Tries >= MaxTries {
			return park(ctx, tx, *j, clip(reason))
		}
		if _, err := tx.ExecContext(ctx, `UPDATE jobs SET state = 'queued', stage = 'queued', progress = 0, worker = '',
		lease_until = NULL, reason = ? WHERE id = ?`, clip(reason), j.ID); err != nil || j.VersionID != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE attempts SET state = 'queued' WHERE id = ?`, j.AttemptID)
		return err
	})
}

func clip(s string) string {
	s = strings.ToValidUTF8(s, "\uFFFD")
	if len(s) > 1900 {
		return strings.ToValidUTF8(s[:1900], "") // a letter that is cut in two goes
	}
	return s
}

// JobOf gives the newest job of an attempt.
func (s *Store) JobOf(ctx context.Context, attempt int64) (Job, error) {
	var j Job
	err := s.db.GetContext(ctx, &j, `SELECT * FROM jobs WHERE attempt_id = ? AND version_id IS NULL
		ORDER BY id DESC LIMIT 1`, attempt)
	return j, found(err)
}
