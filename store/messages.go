package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Kinds of messages.
const (
	ToldIssued   = "issued"
	ToldDue      = "due"      // within a day, and nothing is handed in
	ToldReturned = "returned" // an attempt, some minutes ago
	ToldRevised  = "revised"  // the sheet of a running issue
	ToldAsked    = "asked"    // a question, to who answers it
	ToldAnswered = "answered" // a question, to all students
)

// Message is what somebody is told.
type Message struct {
	ID        int64      `db:"id"`
	UserID    int64      `db:"user_id"`
	Kind      string     `db:"kind"`
	IssueID   int64      `db:"issue_id"`
	AttemptID *int64     `db:"attempt_id"`
	At        time.Time  `db:"at"` // when it happened, or is due
	Text      string     `db:"text"`
	Made      time.Time  `db:"made_at"`
	Read      *time.Time `db:"read_at"`
	// joined
	Title     string `db:"title"`
	ClassName string `db:"class_name"`
	Zone      string `db:"zone"` // of the class
}

// Tellings are the times by which it is found out what people are to be told at one moment.
type Tellings struct {
	Now    time.Time
	Since  time.Time // nobody is told what happened before
	Return time.Time // a return that was made later may still be undone
	Ahead  time.Time // what is due until then is told of
}

// student is whom an issue i is for: m is the membership, and x what is the student's own.
const student = `JOIN memberships m ON m.class_id = i.class_id AND m.role = 'student' AND ` + present + `
	JOIN users u ON u.id = m.user_id AND u.ended_at IS NULL
	LEFT JOIN issue_students x ON x.issue_id = i.id AND x.student_id = m.user_id
	WHERE i.withdrawn_at IS NULL AND (i.opens_at IS NULL OR i.opens_at <= :now)
	AND (NOT i.chosen OR x.given) AND NOT COALESCE(x.excused, 0)`

// gathering are the queries that find what people are to be told. Each is told once.
var gathering = []string{
	`INSERT IGNORE INTO messages (user_id, kind, issue_id, of_id, at, made_at)
	SELECT m.user_id, 'issued', i.id, i.id, i.issued_at, :now FROM issues i ` + student + `
	AND i.closed_at IS NULL AND (x.joined_at IS NULL OR x.joined_at < COALESCE(x.due_at, i.due_at))
	AND GREATEST(i.issued_at, COALESCE(i.opens_at, i.issued_at), m.from_at) > :since`,
	`INSERT IGNORE INTO messages (user_id, kind, issue_id, of_id, at, made_at)
	SELECT m.user_id, 'due', i.id, i.id, COALESCE(x.due_at, i.due_at), :now FROM issues i ` + student + `
	AND (i.closed_at IS NULL OR x.due_at > :now) AND COALESCE(x.due_at, i.due_at) > :now
	AND COALESCE(x.due_at, i.due_at) <= :ahead AND NOT EXISTS (SELECT 1 FROM attempts a WHERE a.issue_id = i.id
		AND a.student_id = m.user_id)`,
	`INSERT IGNORE INTO messages (user_id, kind, issue_id, attempt_id, of_id, at, made_at)
	SELECT a.student_id, 'returned', a.issue_id, a.id, a.id, r.returned_at, :now FROM returns r
	JOIN attempts a ON a.id = r.attempt_id JOIN issues i ON i.id = a.issue_id JOIN users u ON u.id = a.student_id
	WHERE r.returned_at > :since AND r.returned_at <= :return AND u.ended_at IS NULL AND i.withdrawn_at IS NULL`,
	`INSERT IGNORE INTO messages (user_id, kind, issue_id, of_id, at, text, made_at)
	SELECT m.user_id, 'revised', i.id, n.id, n.made_at, n.text, :now FROM issues i JOIN notices n ON n.issue_id = i.id
	` + student + ` AND n.made_at > :since`,
	`INSERT IGNORE INTO messages (user_id, kind, issue_id, of_id, at, text, made_at)
	SELECT m.user_id, 'answered', i.id, q.id, q.answered_at, q.answer, :now FROM issues i
	JOIN questions q ON q.issue_id = i.id ` + student + ` AND q.answer <> '' AND q.answered_at > :since`,
	`INSERT IGNORE INTO messages (user_id, kind, issue_id, of_id, at, text, made_at)
	SELECT m.user_id, 'asked', i.id, q.id, q.asked_at, q.text, :now FROM issues i JOIN questions q ON q.issue_id = i.id
	JOIN memberships m ON m.class_id = i.class_id AND m.role <> 'student' AND ` + present + `
	JOIN users u ON u.id = m.user_id AND u.ended_at IS NULL
	WHERE i.withdrawn_at IS NULL AND q.answer = '' AND q.asked_at > :since`,
}

// Gather finds what people are to be told, and keeps it as messages.
func (s *Store) Gather(ctx context.Context, t Tellings) error {
	for _, q := range gathering {
		if _, err := s.db.NamedExecContext(ctx, q, map[string]any{"now": t.Now.UTC(), "since": t.Since.UTC(),
			"return": t.Return.UTC(), "ahead": t.Ahead.UTC()}); err != nil {
			return err
		}
	}
	return nil
}

const messageColumns = `g.id, g.user_id, g.kind, g.issue_id, g.attempt_id, g.at, g.text, g.made_at, g.read_at, v.title,
	c.name class_name, c.time_zone zone FROM messages g JOIN issues i ON i.id = g.issue_id
	JOIN exercise_versions v ON v.id = i.version_id JOIN classes c ON c.id = i.class_id`

// Messages lists what somebody was told last, the newest first, and how much of it is not read.
func (s *Store) Messages(ctx context.Context, user int64) (list []Message, unread int, err error) {
	list = []Message{}
	err = s.db.SelectContext(ctx, &list, `SELECT `+messageColumns+` WHERE g.user_id = ? AND i.withdrawn_at IS NULL
		ORDER BY g.id DESC LIMIT 100`, user)
	for _, m := range list {
		if m.Read == nil {
			unread++
		}
	}
	return list, unread, err
}

// ReadMessages notes that somebody has read the messages up to one.
func (s *Store) ReadMessages(ctx context.Context, user, until int64) error {
	_, err := s.db.ExecContext(ctx, `UPDATE messages SET read_at = ? WHERE user_id = ? AND id <= ? AND read_at IS NULL`,
		now(), user, until)
	return err
}

// Mail is a mail that is to go out.
type Mail struct {
	ID      int64  `db:"id"`
	UserID  int64  `db:"user_id"`
	Address string `db:"address"`
	Subject string `db:"subject"`
	Body    string `db:"body"`
	Tries   int    `db:"tries"`
}

// PostMessages makes mails of the messages that were not mailed yet, of those who want mail of their kind. Compose
// writes one. Messages that were read meanwhile need no mail.
func (s *Store) PostMessages(ctx context.Context, compose func(Message, User) Mail) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var rows []struct {
			Message
			Address string `db:"address"`
			Name    string `db:"name"`
			Wanted  bool   `db:"wanted"`
		}
		if err := tx.SelectContext(ctx, &rows, `SELECT u.mail address, u.name, (u.mail <> '' AND u.ended_at IS NULL
		AND g.read_at IS NULL AND i.withdrawn_at IS NULL AND FIND_IN_SET(g.kind, u.mail_kinds) > 0) wanted, `+
			messageColumns+` JOIN users u ON u.id = g.user_id WHERE g.mailed = 0 ORDER BY g.id LIMIT 500
		FOR UPDATE SKIP LOCKED`); err != nil {
			return err
		}
		for _, r := range rows {
			if r.Wanted {
				m := compose(r.Message, User{ID: r.UserID, Name: r.Name, Mail: r.Address})
				if err := addMail(ctx, tx, m); err != nil {
					return err
				}
			}
			if _, err := tx.ExecContext(ctx, `UPDATE messages SET mailed = 1 WHERE id = ?`, r.ID); err != nil {
				return err
			}
		}
		return nil
	})
}

func addMail(ctx context.Context, tx *sqlx.Tx, m Mail) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO mails (user_id, address, subject, body, made_at, next_at)
		VALUES (?, ?, ?, ?, ?, ?)`, m.UserID, m.Address, m.Subject, m.Body, now(), now())
	return err
}

// mostTries is how often a mail is tried, each time after twice as many minutes.
const mostTries = 8

// NextMail takes the next mail that is to go out; ErrNotFound where there is none. Until it is settled nobody else
// takes it, for some minutes.
func (s *Store) NextMail(ctx context.Context) (m Mail, err error) {
	err = s.transaction(ctx, func(tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &m, `SELECT id, user_id, address, subject, body, tries FROM mails WHERE sent_at IS NULL
		AND tries < ? AND next_at <= ? ORDER BY next_at, id LIMIT 1 FOR UPDATE SKIP LOCKED`, mostTries, now()); err != nil {
			return found(err)
		}
		m.Tries++
		_, err := tx.ExecContext(ctx, `UPDATE mails SET tries = ?, next_at = ? WHERE id = ?`, m.Tries,
			now().Add(time.Minute<<m.Tries), m.ID)
		return err
	})
	return m, err
}

// SettleMail notes that a mail has gone out, or why it has not. What it said is forgotten when it has gone.
func (s *Store) SettleMail(ctx context.Context, id int64, failed string) error {
	if failed == "" {
		_, err := s.db.ExecContext(ctx, `UPDATE mails SET sent_at = ?, body = '', failed = '' WHERE id = ?`, now(), id)
		return err
	}
	_, err := s.db.ExecContext(ctx, `UPDATE mails SET failed = LEFT(?, 500) WHERE id = ?`, failed, id)
	return err
}

// SetTelling changes where somebody gets mail, and of what.
func (s *Store) SetTelling(ctx context.Context, user int64, address, kinds string) error {
	_, err := s.db.ExecContext(ctx, `UPDATE users SET mail = ?, mail_kinds = ? WHERE id = ?`, address, kinds, user)
	return err
}

// SetCalendar gives somebody's calendar another secret, by its hash, so that the address before ends; nil revokes it.
func (s *Store) SetCalendar(ctx context.Context, user int64, hash *string) error {
	_, err := s.db.ExecContext(ctx, `UPDATE users SET calendar = ? WHERE id = ?`, hash, user)
	return err
}

// UserByCalendar finds whose calendar a secret is of, by its hash.
func (s *Store) UserByCalendar(ctx context.Context, hash string) (User, error) {
	var u User
	return u, found(s.db.GetContext(ctx, &u, `SELECT * FROM users WHERE calendar = ? AND ended_at IS NULL`, hash))
}

// Dated is an issue in a calendar.
type Dated struct {
	IssueID   int64      `db:"id"`
	Title     string     `db:"title"`
	Drawing   string     `db:"number"`
	ClassName string     `db:"class_name"`
	Zone      string     `db:"zone"`
	Due       time.Time  `db:"due_at"`
	Issued    time.Time  `db:"issued_at"`
	Withdrawn *time.Time `db:"withdrawn_at"`
	// Changes counts what was done to its terms, so that it never falls, and Changed is when that was last.
	Changes int        `db:"changes"`
	Changed *time.Time `db:"changed"`
}

// Calendar lists what is due for somebody: a student's own due dates, and those of classes where the person is staff.
// What was withdrawn stays in it.
func (s *Store) Calendar(ctx context.Context, user int64) ([]Dated, error) {
	out := []Dated{}
	return out, s.db.SelectContext(ctx, &out, `SELECT i.id, v.title, v.number, c.name class_name, c.time_zone zone,
		IF(m.role = 'student', COALESCE(x.due_at, i.due_at), i.due_at) due_at, i.issued_at, i.withdrawn_at,
		(SELECT COUNT(*) FROM audit a WHERE a.issue_id = i.id AND a.action <> 'issue') changes,
		(SELECT MAX(a.at) FROM audit a WHERE a.issue_id = i.id) changed
		FROM issues i JOIN exercise_versions v ON v.id = i.version_id JOIN classes c ON c.id = i.class_id
		JOIN memberships m ON m.class_id = i.class_id AND m.user_id = ? AND `+present+`
		LEFT JOIN issue_students x ON x.issue_id = i.id AND x.student_id = m.user_id
		WHERE c.archived_at IS NULL AND (m.role <> 'student' OR (i.opens_at IS NULL OR i.opens_at <= UTC_TIMESTAMP(3))
			AND (NOT i.chosen OR x.given)) ORDER BY i.due_at, i.id`, user)
}

// AddPasswordLink keeps a link by which somebody chooses a password, by the hash of its secret, and mails it. Where the
// person has got as many already that are still good, it gives ErrTooMany.
func (s *Store) AddPasswordLink(ctx context.Context, hash string, until time.Time, m Mail, most int) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM password_links WHERE user_id = ? AND until_at > ? FOR UPDATE`,
			m.UserID, now()); err != nil {
			return err
		}
		if n >= most {
			return ErrTooMany
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO password_links (hash, user_id, made_at, until_at) VALUES (?, ?, ?, ?)`,
			hash, m.UserID, now(), until.UTC()); err != nil {
			return err
		}
		return addMail(ctx, tx, m)
	})
}

// TakePasswordLink uses a link up, and all others of its person; ErrNotFound where it is none, or not good any more.
func (s *Store) TakePasswordLink(ctx context.Context, hash string) (u User, err error) {
	err = s.transaction(ctx, func(tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &u, `SELECT u.* FROM users u JOIN password_links l ON l.user_id = u.id
		WHERE l.hash = ? AND l.until_at > ? AND u.ended_at IS NULL FOR UPDATE`, hash, now()); err != nil {
			return found(err)
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM password_links WHERE user_id = ?`, u.ID)
		return err
	})
	return u, err
}
