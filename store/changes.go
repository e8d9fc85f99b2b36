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

// ChangesWithin lists what has changed lately, by the database's own clock. What is written in a
// transaction has the time of its statement and shows only after the commit: whoever asks again and
// again asks for longer than the time between, and knows by comparing what is new.
func (s *Store) ChangesWithin(ctx context.Context, lately time.Duration) ([]Change, error) {
	var since time.Time
	if err := s.db.GetContext(ctx, &since, `SELECT CURRENT_TIMESTAMP(3)`); err != nil {
		return nil, err
	}
	since = since.Add(-lately)
	var out []Change
	err := s.db.SelectContext(ctx, &out, `
		SELECT i.class_id, a.student_id, CONCAT('attempt ', a.id) changed_row, a.changed_at FROM attempts a
		JOIN issues i ON i.id = a.issue_id WHERE a.changed_at >= ?
		UNION ALL SELECT class_id, 0, CONCAT('issue ', id), changed_at FROM issues WHERE changed_at >= ?
		UNION ALL SELECT i.class_id, f.student_id, CONCAT('further ', i.id), f.changed_at FROM issue_students f
		JOIN issues i ON i.id = f.issue_id WHERE f.changed_at >= ?
		UNION ALL SELECT class_id, user_id, 'membership', changed_at FROM memberships
		WHERE changed_at >= ?`, since, since, since, since)
	return out, err
}
