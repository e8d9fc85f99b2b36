package store

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// SetExtraTime changes how many hours after the others a student hands in, at what is issued to the class and still
// runs and at all that will be.
func (s *Store) SetExtraTime(ctx context.Context, class, student int64, hours int, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var was int
		if err := tx.GetContext(ctx, &was, `SELECT extra_hours FROM memberships WHERE class_id = ? AND user_id = ?
		AND role = 'student' FOR UPDATE`, class, student); err != nil {
			return found(err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE memberships SET extra_hours = ? WHERE class_id = ? AND user_id = ?`, hours,
			class, student); err != nil {
			return err
		}
		var running []int64
		if err := tx.SelectContext(ctx, &running, `SELECT id FROM issues WHERE class_id = ? AND withdrawn_at IS NULL
		AND due_at + INTERVAL ? HOUR > ?`, class, max(hours, was), now()); err != nil {
			return err
		}
		for _, issue := range running {
			if err := spread(ctx, tx, issue); err != nil {
				return err
			}
		}
		return audit(ctx, tx, by, "extra time", nil, fmt.Sprintf("the student %d has %d hours more in the class %d", student,
			hours, class))
	})
}

// spread gives the students of an issue who have extra time their own due dates, but for those with an extension, and
// says anew what was late.
func spread(ctx context.Context, tx *sqlx.Tx, issue int64) error {
	if _, err := tx.ExecContext(ctx, `UPDATE issue_students SET due_at = NULL, by_extra = 0 WHERE issue_id = ?
		AND by_extra`, issue); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO issue_students (issue_id, student_id, due_at, by_extra)
		SELECT i.id, m.user_id, i.due_at + INTERVAL m.extra_hours HOUR, 1 FROM issues i
		JOIN memberships m ON m.class_id = i.class_id AND m.role = 'student' AND m.extra_hours > 0 WHERE i.id = ?
		ON DUPLICATE KEY UPDATE by_extra = IF(issue_students.due_at IS NULL, 1, by_extra),
		due_at = COALESCE(issue_students.due_at, VALUES(due_at))`, issue); err != nil {
		return err
	}
	return late(ctx, tx, issue)
}
