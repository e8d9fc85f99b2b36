package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
)

// What somebody is to a class.
const (
	Student    = "student"
	Assistant  = "assistant"
	Instructor = "instructor"
)

// Class is a class with the number of its students as they are now.
type Class struct {
	ID       int64      `db:"id"`
	Name     string     `db:"name"`
	Year     string     `db:"school_year"` // as the school writes it: 2026/27
	Zone     string     `db:"time_zone"`   // in which its dates are meant, by the IANA's name
	Archived *time.Time `db:"archived_at"`
	Students int        `db:"students"`
	Role     *string    `db:"role"` // of whom it is listed for; nil where that is nobody of the class
	// SourcedID is what the class is called where it came from.
	SourcedID *string `db:"sourced_id"`
}

// Membership is what somebody is to a class, and from when until when. Who has left keeps what was handed in.
type Membership struct {
	ClassID int64      `db:"class_id"`
	UserID  int64      `db:"user_id"`
	Role    string     `db:"role"`
	From    time.Time  `db:"from_at"`
	Until   *time.Time `db:"until_at"`
	// Extra is how many hours after the others a student hands in.
	Extra int `db:"extra_hours"`
}

// Member is somebody of a class.
type Member struct {
	Membership
	Name  string     `db:"name"`
	Login string     `db:"login"`
	Mail  string     `db:"mail"`
	Ended *time.Time `db:"ended_at"` // the account
}

// There tells whether the membership holds.
func (m *Membership) There() bool { return m.Until == nil || m.Until.After(time.Now()) }

// ErrNameTaken is returned when there is a class of that name in that school year.
var ErrNameTaken = errors.New("there is a class of this name in this school year")

// isDuplicate tells whether a statement failed since a key is taken.
func isDuplicate(err error) bool {
	var my *mysql.MySQLError
	return errors.As(err, &my) && my.Number == 1062
}

// present is the condition that a membership m holds now.
const present = `(m.until_at IS NULL OR m.until_at > UTC_TIMESTAMP(3))`

// AddClass makes a class with members.
func (s *Store) AddClass(ctx context.Context, c Class, members []Membership) (int64, error) {
	var id int64
	err := s.transaction(ctx, func(tx *sqlx.Tx) (err error) {
		id, err = addClass(ctx, tx, c, members)
		return err
	})
	return id, err
}

func addClass(ctx context.Context, tx *sqlx.Tx, c Class, members []Membership) (int64, error) {
	if c.Zone == "" {
		c.Zone = "UTC"
	}
	r, err := tx.NamedExecContext(ctx, `INSERT INTO classes (name, school_year, time_zone, sourced_id)
		VALUES (:name, :school_year, :time_zone, :sourced_id)`, c)
	if isDuplicate(err) {
		return 0, ErrNameTaken
	}
	if err != nil {
		return 0, err
	}
	id, err := r.LastInsertId()
	if err != nil {
		return 0, err
	}
	for _, m := range members {
		m.ClassID = id
		if err := join(ctx, tx, m); err != nil {
			return 0, err
		}
	}
	return id, nil
}

// join makes somebody a member; who has left is one again, and who is there has the role from now on.
func join(ctx context.Context, tx *sqlx.Tx, m Membership) error {
	if m.From.IsZero() {
		m.From = now()
	}
	if m.Role == Student {
		// From before the membership: who was one already when it was issued comes to nothing new.
		if _, err := tx.NamedExecContext(ctx, `INSERT INTO issue_students (issue_id, student_id, joined_at)
		SELECT i.id, :user_id, :from_at FROM issues i LEFT JOIN memberships m ON m.class_id = i.class_id
		AND m.user_id = :user_id WHERE i.class_id = :class_id AND i.issued_at < :from_at AND (m.user_id IS NULL
		OR m.role <> 'student' OR m.until_at <= i.issued_at)
		ON DUPLICATE KEY UPDATE joined_at = VALUES(joined_at)`, m); err != nil {
			return err
		}
	}
	_, err := tx.NamedExecContext(ctx, `INSERT INTO memberships (class_id, user_id, role, from_at)
		VALUES (:class_id, :user_id, :role, :from_at) ON DUPLICATE KEY UPDATE role = VALUES(role), until_at = NULL`, m)
	return err
}

// MakeClass makes a class of which its maker is the instructor.
func (s *Store) MakeClass(ctx context.Context, c Class, by int64) (id int64, err error) {
	err = s.transaction(ctx, func(tx *sqlx.Tx) (err error) {
		if id, err = addClass(ctx, tx, c, []Membership{{UserID: by, Role: Instructor}}); err != nil {
			return err
		}
		return audit(ctx, tx, by, "class", nil, fmt.Sprintf("the class %d (%s) was made", id, c.Name))
	})
	return id, err
}

// ChangeClass gives a class another name, school year and time zone.
func (s *Store) ChangeClass(ctx context.Context, c Class, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.NamedExecContext(ctx, `UPDATE classes SET name = :name, school_year = :school_year,
		time_zone = :time_zone WHERE id = :id`, c)
		if isDuplicate(err) {
			return ErrNameTaken
		}
		if err != nil {
			return err
		}
		return audit(ctx, tx, by, "class", nil, fmt.Sprintf("the class %d is called %s, %s", c.ID, c.Name, c.Year))
	})
}

// ArchiveClass puts a class away, or brings it back.
func (s *Store) ArchiveClass(ctx context.Context, class int64, archived bool, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		at, said := since(archived, "archived", "brought back")
		if _, err := tx.ExecContext(ctx, `UPDATE classes SET archived_at = ? WHERE id = ?`, at, class); err != nil {
			return err
		}
		return audit(ctx, tx, by, "class", nil, fmt.Sprintf("the class %d was %s", class, said))
	})
}

// AddMembers makes more people members of a class.
func (s *Store) AddMembers(ctx context.Context, members []Membership) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		for _, m := range members {
			if err := join(ctx, tx, m); err != nil {
				return err
			}
		}
		return nil
	})
}

// Join makes somebody a member of a class.
func (s *Store) Join(ctx context.Context, m Membership, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if err := join(ctx, tx, m); err != nil {
			return err
		}
		return audit(ctx, tx, by, "member", nil, fmt.Sprintf("the person %d is %s of the class %d", m.UserID, m.Role,
			m.ClassID))
	})
}

// ErrNobodyLeads is returned where the last instructor of a class would leave.
var ErrNobodyLeads = errors.New("this is the last instructor of the class")

// Leave ends a membership. What the person handed in stays.
func (s *Store) Leave(ctx context.Context, class, user, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var list []Membership
		if err := tx.SelectContext(ctx, &list, `SELECT * FROM memberships m WHERE class_id = ? AND `+present+` FOR UPDATE`,
			class); err != nil {
			return err
		}
		leaders, is := 0, ""
		for _, m := range list {
			if m.UserID == user {
				is = m.Role
			} else if m.Role == Instructor {
				leaders++
			}
		}
		switch {
		case is == "":
			return ErrNotFound
		case is == Instructor && leaders == 0:
			return ErrNobodyLeads
		}
		if _, err := tx.ExecContext(ctx, `UPDATE memberships SET until_at = ? WHERE class_id = ? AND user_id = ?`, now(),
			class, user); err != nil {
			return err
		}
		return audit(ctx, tx, by, "member", nil, fmt.Sprintf("the person %d left the class %d", user, class))
	})
}

// Enrolment is what is done with a list of students.
type Enrolment struct {
	Fresh   []User  // whose accounts are made, and who join
	Join    []int64 // who have accounts, and join
	Leave   []int64
	Renamed []User // by their ids
	Sourced []User // of whom it is known now what they are called where the list comes from
}

// Enrol carries out what comes of a list of students, in one piece.
func (s *Store) Enrol(ctx context.Context, class int64, e Enrolment, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		members := slices.Clone(e.Join)
		for _, u := range e.Fresh {
			id, err := addUser(ctx, tx, u)
			if err != nil {
				return fmt.Errorf("%s: %w", u.Login, err)
			}
			members = append(members, id)
		}
		for _, id := range members {
			if err := join(ctx, tx, Membership{ClassID: class, UserID: id, Role: Student}); err != nil {
				return err
			}
		}
		for _, id := range e.Leave {
			if _, err := tx.ExecContext(ctx, `UPDATE memberships SET until_at = ? WHERE class_id = ? AND user_id = ?
		AND role = 'student'`, now(), class, id); err != nil {
				return err
			}
		}
		for _, u := range e.Renamed {
			if _, err := tx.ExecContext(ctx, `UPDATE users SET name = ? WHERE id = ?`, u.Name, u.ID); err != nil {
				return err
			}
		}
		for _, u := range e.Sourced {
			if _, err := tx.ExecContext(ctx, `UPDATE users SET sourced_id = ? WHERE id = ?`, u.SourcedID, u.ID); err != nil {
				return err
			}
		}
		return audit(ctx, tx, by, "enrol", nil, fmt.Sprintf("%d people joined the class %d, %d left", len(members), class,
			len(e.Leave)))
	})
}

// Elsewhere tells of the students of other classes of the same school year, one of these classes each.
func (s *Store) Elsewhere(ctx context.Context, class int64) (map[int64]string, error) {
	rows := []struct {
		User int64  `db:"user_id"`
		Name string `db:"name"`
	}{}
	err := s.db.SelectContext(ctx, &rows, `SELECT m.user_id, MIN(c.name) name FROM memberships m
		JOIN classes c ON c.id = m.class_id JOIN classes o ON o.id = ? AND o.school_year = c.school_year AND o.id <> c.id
		WHERE c.archived_at IS NULL AND m.role = 'student' AND `+present+` GROUP BY m.user_id`, class)
	out := map[int64]string{}
	for _, r := range rows {
		out[r.User] = r.Name
	}
	return out, err
}

// Classes lists the classes that a person belongs to, or all for an administrator; those that are archived come last.
func (s *Store) Classes(ctx context.Context, u User) ([]Class, error) {
	out := []Class{}
	return out, s.db.SelectContext(ctx, &out, `SELECT c.*, (SELECT COUNT(*) FROM memberships m WHERE m.class_id = c.id
		AND m.role = 'student' AND `+present+`) students, m.role FROM classes c
		LEFT JOIN memberships m ON m.class_id = c.id AND m.user_id = ? AND `+present+`
		WHERE ? OR m.role IS NOT NULL
		ORDER BY c.archived_at IS NOT NULL, c.school_year DESC, c.name`, u.ID, u.Administrator)
}

// Class gives one class.
func (s *Store) Class(ctx context.Context, id int64) (Class, error) {
	var c Class
	err := s.db.GetContext(ctx, &c, `SELECT c.*, (SELECT COUNT(*) FROM memberships m WHERE m.class_id = c.id
		AND m.role = 'student' AND `+present+`) students FROM classes c WHERE c.id = ?`, id)
	return c, found(err)
}

// Memberships lists what a person is and was to classes.
func (s *Store) Memberships(ctx context.Context, user int64) ([]Membership, error) {
	out := []Membership{}
	return out, s.db.SelectContext(ctx, &out, `SELECT * FROM memberships WHERE user_id = ? ORDER BY class_id`, user)
}

// ClassesOfAll lists for everybody the classes with what the person is to them now, in words.
func (s *Store) ClassesOfAll(ctx context.Context) (map[int64][]string, error) {
	rows := []struct {
		User int64  `db:"user_id"`
		Text string `db:"text"`
	}{}
	err := s.db.SelectContext(ctx, &rows, `SELECT m.user_id, CONCAT(c.name, ', ', m.role) text FROM memberships m
		JOIN classes c ON c.id = m.class_id WHERE c.archived_at IS NULL AND `+present+` ORDER BY c.name`)
	out := map[int64][]string{}
	for _, r := range rows {
		out[r.User] = append(out[r.User], r.Text)
	}
	return out, err
}

// Membership gives what a person is or was to a class.
func (s *Store) Membership(ctx context.Context, class, user int64) (Membership, error) {
	var m Membership
	err := s.db.GetContext(ctx, &m, `SELECT * FROM memberships WHERE class_id = ? AND user_id = ?`, class, user)
	return m, found(err)
}

// Leads tells whether a person is an instructor of a class of which the other one is a student.
func (s *Store) Leads(ctx context.Context, instructor, student int64) (bool, error) {
	var n int
	err := s.db.GetContext(ctx, &n, `SELECT COUNT(*) FROM memberships m JOIN memberships o ON o.class_id = m.class_id
		WHERE m.user_id = ? AND m.role = 'instructor' AND `+present+` AND o.user_id = ? AND o.role = 'student'
		AND (o.until_at IS NULL OR o.until_at > UTC_TIMESTAMP(3))`, instructor, student)
	return n > 0, err
}

// Members lists everybody of a class, also those who have left: instructors first, then assistants and students, by
// name.
func (s *Store) Members(ctx context.Context, class int64) ([]Member, error) {
	out := []Member{}
	return out, s.db.SelectContext(ctx, &out, `SELECT m.*, u.name, u.login, u.mail, u.ended_at FROM memberships m
		JOIN users u ON u.id = m.user_id WHERE m.class_id = ?
		ORDER BY FIELD(m.role, 'instructor', 'assistant', 'student'), u.name, u.id`, class)
}

// Pupil is a student of a class, and until when; nil as long as that holds.
type Pupil struct {
	User
	Until *time.Time `db:"until_at"`
}

// Pupils lists the students of a class, also those who have left.
func (s *Store) Pupils(ctx context.Context, class int64) ([]Pupil, error) {
	out := []Pupil{}
	return out, s.db.SelectContext(ctx, &out, `SELECT u.*, IF(`+present+`, NULL, m.until_at) until_at FROM users u
		JOIN memberships m ON m.user_id = u.id WHERE m.class_id = ? AND m.role = 'student' ORDER BY u.name, u.id`, class)
}

// Roster lists the students of a class as it is now.
func (s *Store) Roster(ctx context.Context, class int64) ([]User, error) {
	out := []User{}
	return out, s.db.SelectContext(ctx, &out, `SELECT u.* FROM users u JOIN memberships m ON m.user_id = u.id
		WHERE m.class_id = ? AND m.role = 'student' AND `+present+` ORDER BY u.name, u.id`, class)
}
