package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Brief is an attempt with what lists need of its report, and no more.
type Brief struct {
	ID          int64     `db:"id"`
	IssueID     int64     `db:"issue_id"`
	Student     int64     `db:"student_id"`
	StudentName string    `db:"student_name"`
	Number      int       `db:"number"`
	FileSHA     string    `db:"file_sha"`
	HandedIn    time.Time `db:"handed_in_at"`
	Late        bool      `db:"late"`
	State       string    `db:"state"`
	What        string    `db:"what"`
	ReportID    *int64    `db:"report_id"`
	Digest      []byte    `db:"digest"`
	In          *int      `db:"in_count"`
	Of          *int      `db:"of_count"`
}

// Briefs lists the attempts at issues, by issue, student and number.
func (s *Store) Briefs(ctx context.Context, issues []int64) ([]Brief, error) {
	out := []Brief{}
	if len(issues) == 0 {
		return out, nil
	}
	query, args, err := sqlx.In(`SELECT a.id, a.issue_id, a.student_id, u.name student_name, a.number, a.file_sha,
		a.handed_in_at, a.late, a.state, a.what, a.report_id, r.digest, r.in_count, r.of_count FROM attempts a
		JOIN users u ON u.id = a.student_id LEFT JOIN reports r ON r.id = a.report_id WHERE a.issue_id IN (?)
		ORDER BY a.issue_id, u.name, a.number`, issues)
	if err != nil {
		return nil, err
	}
	return out, s.db.SelectContext(ctx, &out, query, args...)
}

// ReportOf gives a report.
func (s *Store) ReportOf(ctx context.Context, id int64) ([]byte, error) {
	var data []byte
	err := s.db.GetContext(ctx, &data, `SELECT report FROM reports WHERE id = ?`, id)
	return data, found(err)
}

// KeepDigest keeps what lists need of a report.
func (s *Store) KeepDigest(ctx context.Context, report int64, digest []byte) error {
	_, err := s.db.ExecContext(ctx, `UPDATE reports SET digest = ? WHERE id = ?`, digest, report)
	return err
}

// Stop is where a person has stopped: the last thing of a kind that the person did.
type Stop struct {
	At    time.Time `db:"at"`
	Kind  string    `db:"kind"` // attempt, exercise or model
	ID    int64     `db:"id"`
	Title string    `db:"title"`
	Of    string    `db:"of"` // the student of an attempt
}

// Stopped tells where a person has stopped last: with an attempt, an exercise and a model, the latest first.
func (s *Store) Stopped(ctx context.Context, user int64) ([]Stop, error) {
	out := []Stop{}
	return out, s.db.SelectContext(ctx, &out, `(SELECT t.at, 'attempt' kind, a.id, v.title, u.name of FROM audit t
		JOIN attempts a ON a.id = t.attempt_id JOIN users u ON u.id = a.student_id JOIN issues i ON i.id = a.issue_id
		JOIN exercise_versions v ON v.id = i.version_id WHERE t.user_id = ? ORDER BY t.id DESC LIMIT 1)
		UNION ALL (SELECT t.at, 'exercise', v.exercise_id, v.title, '' FROM audit t JOIN exercise_versions v
		ON v.exercise_id = t.exercise_id WHERE t.user_id = ? AND t.action <> 'issue' ORDER BY t.id DESC, v.version
			DESC LIMIT 1)
		UNION ALL (SELECT m.saved_at, 'model', m.id, m.name, '' FROM models m WHERE m.owner_id = ?
		ORDER BY m.saved_at DESC LIMIT 1) ORDER BY at DESC`, user, user, user)
}
