package store

import (
	"context"
	"time"
)

// Question is what a student asks of an issued sheet.
type Question struct {
	ID             int64      `db:"id"`
	IssueID        int64      `db:"issue_id"`
	Student        int64      `db:"student_id"`
	Characteristic string     `db:"characteristic"` // empty: of the sheet as a whole
	Text           string     `db:"text"`
	Asked          time.Time  `db:"asked_at"`
	Answer         string     `db:"answer"` // empty while there is none
	AnsweredBy     *int64     `db:"answered_by"`
	Answered       *time.Time `db:"answered_at"`
	// joined
	StudentName string  `db:"student_name"`
	ByName      *string `db:"by_name"`
}

// Questions lists what was asked at an issue, the newest first.
func (s *Store) Questions(ctx context.Context, issue int64) ([]Question, error) {
	out := []Question{}
	return out, s.db.SelectContext(ctx, &out, `SELECT q.*, u.name student_name, b.name by_name FROM questions q
		JOIN users u ON u.id = q.student_id LEFT JOIN users b ON b.id = q.answered_by WHERE q.issue_id = ?
		ORDER BY q.id DESC`, issue)
}

// Ask keeps a question. Where its student has as many open already, it gives ErrTooMany; the same again is asked once.
func (s *Store) Ask(ctx context.Context, q Question, most int) error {
	var open []Question
	if err := s.db.SelectContext(ctx, &open, `SELECT * FROM questions WHERE issue_id = ? AND student_id = ?
		AND answer = ''`, q.IssueID, q.Student); err != nil {
		return err
	}
	for _, o := range open {
		if o.Text == q.Text && o.Characteristic == q.Characteristic {
			return nil
		}
	}
	if len(open) >= most {
		return ErrTooMany
	}
	_, err := s.db.ExecContext(ctx, `INSERT INTO questions (issue_id, student_id, characteristic, text, asked_at)
		VALUES (?, ?, ?, ?, ?)`, q.IssueID, q.Student, q.Characteristic, q.Text, now())
	return err
}

// Answer answers a question of an issue, or changes the answer; ErrNotFound where there is no such question.
func (s *Store) Answer(ctx context.Context, issue, question int64, answer string, by int64) error {
	var id int64
	if err := s.db.GetContext(ctx, &id, `SELECT id FROM questions WHERE id = ? AND issue_id = ?`, question,
		issue); err != nil {
		return found(err)
	}
	_, err := s.db.ExecContext(ctx, `UPDATE questions SET answer = ?, answered_by = ?, answered_at = ? WHERE id = ?`,
		answer, by, now(), id)
	return err
}
