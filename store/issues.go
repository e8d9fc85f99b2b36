package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"
)

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
	// Opens is when students see it; nil from the beginning.
	Opens *time.Time `db:"opens_at"`
	// Closed is since when nobody hands in any more, but for whom it was extended.
	Closed *time.Time `db:"closed_at"`
	// Practice: results are seen at once, and nothing is marked.
	Practice bool `db:"practice"`
	// Chosen: it is for some students of the class alone.
	Chosen bool `db:"chosen"`
	// Personal: every student has sizes of the own.
	Personal bool `db:"personal"`
	// Weight among the issues of the class, in the gradebook.
	Weight float64 `db:"weight"`
	// joined
	ExerciseID int64  `db:"exercise_id"`
	Title      string `db:"title"`
	Drawing    string `db:"number"`
	Version    int    `db:"version"`
	ClassName  string `db:"class_name"`
	Zone       string `db:"zone"`     // of the class
	Students   int    `db:"students"` // whom it is for, now
	// The newest notice about its sheet.
	NoticeAt       *time.Time `db:"notice_at"`
	NoticeRevision *string    `db:"notice_revision"`
	NoticeText     *string    `db:"notice_text"`
	// Withdrawn issues are there for instructors alone.
	Withdrawn *time.Time `db:"withdrawn_at"`
	// Groups that it is made for; GroupsOf reads them.
	Groups []string `db:"-"`
}

const issueColumns = `i.*, (SELECT COUNT(*) FROM memberships m WHERE m.class_id = i.class_id AND m.role = 'student'
	AND ` + present + ` AND (NOT i.chosen OR EXISTS (SELECT 1 FROM issue_students x WHERE x.issue_id = i.id
	AND x.student_id = m.user_id AND x.given))) students, v.exercise_id, v.title, v.number, v.version, c.name
		class_name, c.time_zone zone, n.made_at notice_at,
	n.revision notice_revision, n.text notice_text
	FROM issues i JOIN exercise_versions v ON v.id = i.version_id JOIN classes c ON c.id = i.class_id
	LEFT JOIN notices n ON n.id = (SELECT MAX(id) FROM notices WHERE issue_id = i.id)`

// ErrIssued is returned when a class has an exercise already.
var ErrIssued = errors.New("this class has the exercise already")

// AddIssue gives an exercise to a class; where the class has it already, only if again is set. Open is what its sheet
// leaves open, knowing which it is issued: the audit trail keeps it. Students are whom it is for, where that is
// not the whole class.
func (s *Store) AddIssue(ctx context.Context, i Issue, again bool, open string,
	students ...int64) (int64, error) {
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
		i.Chosen = len(students) > 0
		r, err := tx.NamedExecContext(ctx, `INSERT INTO issues (version_id, class_id, issued_by, issued_at, due_at, attempts,
		results, opens_at, practice, chosen, personal) VALUES (:version_id, :class_id, :issued_by, :issued_at, :due_at,
		:attempts, :results, :opens_at, :practice, :chosen, :personal)`, i)
		if err == nil {
			id, err = r.LastInsertId()
		}
		if err != nil {
			return err
		}
		for _, u := range students {
			if _, err := tx.ExecContext(ctx, `INSERT INTO issue_students (issue_id, student_id, given) VALUES (?, ?, TRUE)`, id,
				u); err != nil {
				return err
			}
		}
		for _, g := range i.Groups {
			if _, err := tx.ExecContext(ctx, `INSERT INTO issue_groups (issue_id, name) VALUES (?, ?)`, id, g); err != nil {
				return err
			}
		}
		if err := spread(ctx, tx, id); err != nil {
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

func (s *Store) noteIssue(ctx context.Context, tx *sqlx.Tx, issue, by int64, action, detail string) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO audit (at, user_id, action, issue_id, exercise_id, detail)
		SELECT ?, ?, ?, i.id, v.exercise_id, CONCAT(c.name, ': ', ?) FROM issues i
		JOIN exercise_versions v ON v.id = i.version_id JOIN classes c ON c.id = i.class_id
		WHERE i.id = ?`, now(), by, action, detail, issue)
	return err
}

// Terms are what an instructor changes of an issue afterwards.
type Terms struct {
	Due      time.Time
	Opens    *time.Time
	Attempts int
	Results  string
}

// SetTerms changes the terms of an issue. Whether attempts were late is said anew, but for those that are returned.
func (s *Store) SetTerms(ctx context.Context, issue int64, t Terms, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE issues SET due_at = ?, opens_at = ?, attempts = ?, results = ? WHERE id = ?`,
			t.Due, t.Opens, t.Attempts, t.Results, issue); err != nil {
			return err
		}
		if err := spread(ctx, tx, issue); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, issue, by, "due", fmt.Sprintf("due %s UTC, %d attempts, results %s",
			t.Due.Format("2006-01-02 15:04"), t.Attempts, t.Results))
	})
}

// late says anew of the attempts at an issue that are not returned whether they were late.
func late(ctx context.Context, tx *sqlx.Tx, issue int64) error {
	_, err := tx.ExecContext(ctx, `UPDATE attempts a JOIN issues i ON i.id = a.issue_id LEFT JOIN issue_students x
		ON x.issue_id = a.issue_id AND x.student_id = a.student_id
		SET a.late = a.handed_in_at > COALESCE(x.due_at, i.due_at) WHERE a.issue_id = ? AND a.state <> 'returned'
		AND a.late <> (a.handed_in_at > COALESCE(x.due_at, i.due_at))`, issue)
	return err
}

// Own is what is one student's own at an issue.
type Own struct {
	Issue   int64      `db:"issue_id"`
	Student int64      `db:"student_id"`
	Given   bool       `db:"given"`  // one of those whom it is for, where it is not for all
	Due     *time.Time `db:"due_at"` // in place of that of the issue
	More    int        `db:"more"`   // attempts beyond those of the issue; below 0 fewer
	Excused bool       `db:"excused"`
	Variant int        `db:"variant"` // of the exercise, at sizes of the own; 0 of the plain one
	// Joined is when the student came to it, where that was after it had been issued.
	Joined *time.Time `db:"joined_at"`
	// ByExtra: the due date comes from extra time that the student has everywhere.
	ByExtra bool `db:"by_extra"`
}

// OwnAt lists what students have of their own at an issue, by student.
func (s *Store) OwnAt(ctx context.Context, issue int64) (map[int64]Own, error) {
	var rows []Own
	err := s.db.SelectContext(ctx, &rows, `SELECT * FROM issue_students WHERE issue_id = ?`, issue)
	out := map[int64]Own{}
	for _, r := range rows {
		out[r.Student] = r
	}
	return out, err
}

// OwnOf lists what a student has of the own at issues, by issue.
func (s *Store) OwnOf(ctx context.Context, student int64) (map[int64]Own, error) {
	var rows []Own
	err := s.db.SelectContext(ctx, &rows, `SELECT * FROM issue_students WHERE student_id = ?`, student)
	out := map[int64]Own{}
	for _, r := range rows {
		out[r.Issue] = r
	}
	return out, err
}

// OwnIn lists what students have of their own at the issues of a class, by issue.
func (s *Store) OwnIn(ctx context.Context, class int64) (map[int64][]Own, error) {
	var rows []Own
	err := s.db.SelectContext(ctx, &rows, `SELECT x.* FROM issue_students x JOIN issues i ON i.id = x.issue_id
		WHERE i.class_id = ?`, class)
	out := map[int64][]Own{}
	for _, r := range rows {
		out[r.Issue] = append(out[r.Issue], r)
	}
	return out, err
}

// Weigh changes what an issue weighs in the gradebook.
func (s *Store) Weigh(ctx context.Context, issue int64, weight float64, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE issues SET weight = ? WHERE id = ?`, weight, issue); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, issue, by, "weight", fmt.Sprintf("weighs %g in the gradebook", weight))
	})
}

// SetOwn changes what is one student's own at an issue; what says it in the trail.
func (s *Store) SetOwn(ctx context.Context, o Own, by int64, action, what string) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.NamedExecContext(ctx, `INSERT INTO issue_students (issue_id, student_id, given, due_at, more, excused)
		VALUES (:issue_id, :student_id, :given, :due_at, :more, :excused) ON DUPLICATE KEY UPDATE given = VALUES(given),
		due_at = VALUES(due_at), more = VALUES(more), excused = VALUES(excused), by_extra = 0`, o); err != nil {
			return err
		}
		if err := spread(ctx, tx, o.Issue); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, o.Issue, by, action, what)
	})
}

// CloseIssue ends handing in at an issue, or begins it again.
func (s *Store) CloseIssue(ctx context.Context, issue int64, closed bool, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		at, said := since(closed, "closed", "open again")
		if _, err := tx.ExecContext(ctx, `UPDATE issues SET closed_at = ? WHERE id = ?`, at, issue); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, issue, by, "close", said)
	})
}

// ErrHandedIn is returned when an issue is not withdrawn, since something was handed in.
var ErrHandedIn = errors.New("something was handed in already")

// Withdraw takes an issue back: it is there for instructors alone. Where something was handed in, only if anyway is
// set; that stays, and counts for nothing. Models that were begun for it stay.
func (s *Store) Withdraw(ctx context.Context, issue int64, anyway bool, by int64) error {
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
		if n > 0 && !anyway {
			return ErrHandedIn
		}
		if _, err := tx.ExecContext(ctx, `UPDATE issues SET withdrawn_at = ? WHERE id = ?`, now(), issue); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, issue, by, "withdraw", fmt.Sprintf("withdrawn, with %d attempts", n))
	})
}

// BringBack issues again what was withdrawn.
func (s *Store) BringBack(ctx context.Context, issue, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE issues SET withdrawn_at = NULL WHERE id = ?`, issue); err != nil {
			return err
		}
		return s.noteIssue(ctx, tx, issue, by, "withdraw", "brought back")
	})
}

// Issue gives one issue.
func (s *Store) Issue(ctx context.Context, id int64) (Issue, error) {
	var i Issue
	err := s.db.GetContext(ctx, &i, `SELECT `+issueColumns+` WHERE i.id = ?`, id)
	return i, found(err)
}

// Issues lists the issues of the classes to which a person is one of some, the soonest due first. An administrator is
// an instructor of every class. Classes that are archived are left out.
func (s *Store) Issues(ctx context.Context, u User, roles ...string) ([]Issue, error) {
	return s.issues(ctx, `c.archived_at IS NULL`, u, roles)
}

// IssuesOf lists the issues of one exercise in classes that a person is an instructor of.
func (s *Store) IssuesOf(ctx context.Context, u User, exercise int64) ([]Issue, error) {
	return s.issues(ctx, `v.exercise_id = ?`, u, []string{Instructor}, exercise)
}

// IssuesIn lists the issues of a class, those that were withdrawn as well.
func (s *Store) IssuesIn(ctx context.Context, class int64) ([]Issue, error) {
	out := []Issue{}
	return out, s.db.SelectContext(ctx, &out, `SELECT `+issueColumns+` WHERE i.class_id = ?
		ORDER BY i.withdrawn_at IS NOT NULL, i.due_at, i.id`, class)
}

func (s *Store) issues(ctx context.Context, where string, u User, roles []string, args ...any) ([]Issue, error) {
	all := u.Administrator && slices.Contains(roles, Instructor)
	query, args, err := sqlx.In(`SELECT `+issueColumns+` WHERE i.withdrawn_at IS NULL AND `+where+`
		AND (? OR EXISTS (SELECT 1 FROM memberships m WHERE m.class_id = i.class_id AND m.user_id = ? AND m.role IN (?)
		AND `+present+` AND (m.role <> 'student' OR (i.opens_at IS NULL OR i.opens_at <= UTC_TIMESTAMP(3))
			AND (NOT i.chosen OR EXISTS (SELECT 1 FROM issue_students x WHERE x.issue_id = i.id AND x.student_id = m.user_id
			AND x.given))))) ORDER BY i.due_at, i.id`, append(args, all, u.ID, roles)...)
	if err != nil {
		return nil, err
	}
	out := []Issue{}
	return out, s.db.SelectContext(ctx, &out, query, args...)
}
