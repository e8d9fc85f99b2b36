package store

import (
	"context"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// Group is a group of a class with the ids of its students, of those who are in the class now.
type Group struct {
	Name     string
	Students []int64
}

// ErrGroupTaken is returned when a class has a group of that name.
var ErrGroupTaken = errors.New("the class has a group of this name")

// Groups lists the groups of a class by name.
func (s *Store) Groups(ctx context.Context, class int64) ([]Group, error) {
	rows := []struct {
		Name    string `db:"name"`
		Student int64  `db:"student_id"`
	}{}
	err := s.db.SelectContext(ctx, &rows, `SELECT g.name, g.student_id FROM class_groups g
		JOIN memberships m ON m.class_id = g.class_id AND m.user_id = g.student_id AND m.role = 'student' AND `+present+`
		JOIN users u ON u.id = g.student_id WHERE g.class_id = ? ORDER BY g.name, u.name, u.id`, class)
	out := []Group{}
	for _, r := range rows {
		if n := len(out); n == 0 || out[n-1].Name != r.Name {
			out = append(out, Group{Name: r.Name})
		}
		g := &out[len(out)-1]
		g.Students = append(g.Students, r.Student)
	}
	return out, err
}

// SetGroup makes a group of a class, where was is empty, or changes its name and who is in it; without anybody it is no
// more. What is issued to the group and neither closed nor withdrawn is issued to all who are in it then; who leaves it
// keeps what was issued already.
func (s *Store) SetGroup(ctx context.Context, class int64, was string, g Group, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var id int64 // locked, so that two who change it at once do so one after the other
		if err := tx.GetContext(ctx, &id, `SELECT id FROM classes WHERE id = ? FOR UPDATE`, class); err != nil {
			return found(err)
		}
		if g.Name != was {
			var n int // a group whose students have all left the class is none
			if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM class_groups g JOIN memberships m
		ON m.class_id = g.class_id AND m.user_id = g.student_id AND m.role = 'student' AND `+present+`
		WHERE g.class_id = ? AND g.name = ?`, class, g.Name); err != nil {
				return err
			}
			if n > 0 {
				return ErrGroupTaken
			}
			if err := endGroup(ctx, tx, class, g.Name); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM class_groups WHERE class_id = ? AND name = ?`, class, was); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE issue_groups g JOIN issues i ON i.id = g.issue_id SET g.name = ?
		WHERE i.class_id = ? AND g.name = ?`, g.Name, class, was); err != nil {
			return err
		}
		if len(g.Students) == 0 {
			if err := endGroup(ctx, tx, class, g.Name); err != nil {
				return err
			}
		}
		for _, u := range g.Students {
			if _, err := tx.ExecContext(ctx, `INSERT INTO class_groups (class_id, name, student_id) VALUES (?, ?, ?)`, class,
				g.Name, u); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO issue_students (issue_id, student_id, given, joined_at)
		SELECT i.id, c.student_id, TRUE, ? FROM issues i JOIN issue_groups g ON g.issue_id = i.id
		JOIN class_groups c ON c.class_id = i.class_id AND c.name = g.name WHERE i.class_id = ? AND g.name = ?
		AND i.withdrawn_at IS NULL AND i.closed_at IS NULL ON DUPLICATE KEY UPDATE
		joined_at = IF(issue_students.given, joined_at, VALUES(joined_at)), given = TRUE`, now(), class, g.Name); err != nil {
			return err
		}
		return audit(ctx, tx, by, "class", nil, fmt.Sprintf("the group %s of the class %d has %d students", g.Name, class,
			len(g.Students)))
	})
}

// endGroup forgets a group: another one of its name is another group. What was issued to it stays issued.
func endGroup(ctx context.Context, tx *sqlx.Tx, class int64, name string) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM class_groups WHERE class_id = ? AND name = ?`, class, name); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `DELETE g FROM issue_groups g JOIN issues i ON i.id = g.issue_id
		WHERE i.class_id = ? AND g.name = ?`, class, name)
	return err
}

// GroupsOf lists the groups that an issue is for.
func (s *Store) GroupsOf(ctx context.Context, issue int64) ([]string, error) {
	out := []string{}
	return out, s.db.SelectContext(ctx, &out, `SELECT name FROM issue_groups WHERE issue_id = ? ORDER BY name`, issue)
}
