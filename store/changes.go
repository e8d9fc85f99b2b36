package store

import (
	"context"
	"time"
)

// Change is a row that lists show and that was written lately.
type Change struct {
	Class   int64     `db:"class_id"`
	Student int64     `db:"student_id"` // whose alone it is; 0 for everybody of the class
	Row     string    `db:"changed_row"`
	At      time.Time `db:"changed_at"`
}

// ChangesSince lists what has changed since a time. What is written in a transaction has the
// time of its statement and shows only after the commit: whoever asks again and again asks
// from a little before the last time, and knows by comparing what is new.
func (s *Store) ChangesSince(ctx context.Context, since time.Time) ([]Change, error) {
	var out []Change
	err := s.db.SelectContext(ctx, &out, `
		SELECT i.class_id, a.student_id, CONCAT('attempt ', a.id) changed_row, a.changed_at FROM attempts a JOIN issues i ON i.id = a.issue_id WHERE a.changed_at >= ?
		UNION ALL SELECT class_id, 0, CONCAT('issue ', id), changed_at FROM issues WHERE changed_at >= ?
		UNION ALL SELECT i.class_id, f.student_id, CONCAT('further ', i.id), f.changed_at FROM further_attempts f JOIN issues i ON i.id = f.issue_id WHERE f.changed_at >= ?
		UNION ALL SELECT class_id, user_id, 'membership', changed_at FROM memberships WHERE changed_at >= ?`, since, since, since, since)
	return out, err
}
