package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
)

func mustSub() fs.FS {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		panic(err) // the folder is embedded
	}
	return sub
}

// User is a person who can sign in.
type User struct {
	ID       int64     `db:"id"`
	Login    string    `db:"login"`
	Name     string    `db:"name"`
	Role     string    `db:"role"`
	Password string    `db:"password"` // argon2id hash
	Created  time.Time `db:"created_at"`
	// MustChange is set while the password is one that somebody else has given.
	MustChange bool `db:"must_change"`
}

// ErrLoginTaken is returned when a login belongs to somebody already.
var ErrLoginTaken = errors.New("this login is taken")

// Class is a class with the number of its students.
type Class struct {
	ID       int64  `db:"id"`
	Name     string `db:"name"`
	Students int    `db:"students"`
}

// AddUser makes an account; password is its hash.
func (s *Store) AddUser(ctx context.Context, u User) (int64, error) {
	return addUser(ctx, s.db, u)
}

func addUser(ctx context.Context, db sqlx.ExtContext, u User) (int64, error) {
	r, err := sqlx.NamedExecContext(ctx, db, `INSERT INTO users (login, name, role, password, must_change)
		VALUES (:login, :name, :role, :password, :must_change)`, u)
	var my *mysql.MySQLError
	if errors.As(err, &my) && my.Number == 1062 { // duplicate key
		return 0, ErrLoginTaken
	}
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
}

// AddAccount is AddUser by somebody, for the audit trail.
func (s *Store) AddAccount(ctx context.Context, u User, by int64) (id int64, err error) {
	err = s.transaction(ctx, func(tx *sqlx.Tx) error {
		if id, err = addUser(ctx, tx, u); err != nil {
			return err
		}
		return audit(ctx, tx, by, "account", nil, fmt.Sprintf("the account %d (%s, %s) was made", id, u.Login, u.Role))
	})
	return id, err
}

// SetPassword changes a password, given as its hash; mustChange where it is not the person's own.
func (s *Store) SetPassword(ctx context.Context, user int64, hash string, mustChange bool, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE users SET password = ?, must_change = ? WHERE id = ?`, hash, mustChange,
			user); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM devices WHERE user_id = ?`, user); err != nil {
			return err
		}
		return audit(ctx, tx, by, "password", nil, fmt.Sprintf("the password of the account %d was changed", user))
	})
}

// Enrol makes the accounts that are new and puts all into a class, in one piece.
func (s *Store) Enrol(ctx context.Context, class int64, fresh []User, known []int64, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		members := slices.Clone(known)
		for _, u := range fresh {
			id, err := addUser(ctx, tx, u)
			if err != nil {
				return fmt.Errorf("%s: %w", u.Login, err)
			}
			members = append(members, id)
		}
		for _, m := range members {
			if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO memberships (class_id, user_id) VALUES (?, ?)`, class,
				m); err != nil {
				return err
			}
		}
		return audit(ctx, tx, by, "enrol", nil, fmt.Sprintf("%d people joined the class %d", len(members), class))
	})
}

// KeepDevice notes that somebody signed in from a browser; the token is its hash. Browsers
// that were not seen for a year are forgotten.
func (s *Store) KeepDevice(ctx context.Context, token string, user int64) error {
	if _, err := s.db.ExecContext(ctx, `REPLACE INTO devices (token, user_id, seen_at) VALUES (?, ?, ?)`, token, user,
		now()); err != nil {
		return err
	}
	_, err := s.db.ExecContext(ctx, `DELETE FROM devices WHERE seen_at < ?`, now().AddDate(-1, 0, 0))
	return err
}

// KnownDevice tells whether a person has signed in from a browser before.
func (s *Store) KnownDevice(ctx context.Context, token string, user int64) (bool, error) {
	var n int
	err := s.db.GetContext(ctx, &n, `SELECT COUNT(*) FROM devices WHERE token = ? AND user_id = ?`, token, user)
	return n > 0, err
}

// UserByLogin and User find accounts.
func (s *Store) UserByLogin(ctx context.Context, login string) (User, error) {
	var u User
	err := s.db.GetContext(ctx, &u, `SELECT * FROM users WHERE login = ?`, login)
	return u, found(err)
}

// User finds an account by its number.
func (s *Store) User(ctx context.Context, id int64) (User, error) {
	var u User
	err := s.db.GetContext(ctx, &u, `SELECT * FROM users WHERE id = ?`, id)
	return u, found(err)
}

// Users lists all accounts.
func (s *Store) Users(ctx context.Context) ([]User, error) {
	out := []User{}
	return out, s.db.SelectContext(ctx, &out, `SELECT * FROM users ORDER BY role, name`)
}

// Failures counts failed sign-ins since a time, and when the last of an address was.
type Failures struct {
	Device int `db:"d"` // of a login from one browser that is known for it
	Here   int `db:"h"` // of a login from one address, browsers that are known apart
	Login  int `db:"l"` // of a login from anywhere, browsers that are known apart
	// Address counts those of any login from one address.
	Address int          `db:"a"`
	Last    sql.NullTime `db:"last"`
}

// LoginFailures counts failed sign-ins since a time.
func (s *Store) LoginFailures(ctx context.Context, login, address, device string, since time.Time) (Failures, error) {
	var f Failures
	err := s.db.GetContext(ctx, &f, `SELECT COALESCE(SUM(login = ? AND device = ?
		AND device <> ''), 0) d, COALESCE(SUM(login = ? AND address = ? AND device = ''), 0) h,
		COALESCE(SUM(login = ? AND device = ''), 0) l, COALESCE(SUM(address = ?
		AND device = ''), 0) a, MAX(CASE WHEN address = ? AND device = '' THEN at END) last
		FROM login_failures WHERE (login = ? OR address = ?)
		AND at > ?`, login, device, login, address, login, address, address, login, address, since)
	return f, err
}

// AddLoginFailure notes a failed sign-in; device is empty for a browser that is not known.
func (s *Store) AddLoginFailure(ctx context.Context, login, address, device string) error {
	_, err := s.db.ExecContext(ctx, `INSERT INTO login_failures (login, address, device, at) VALUES (?, ?, ?, ?)`, login,
		address, device, now())
	return err
}

// ClearLoginFailures forgets failed sign-ins of a login after a good one, and
// all old ones.
func (s *Store) ClearLoginFailures(ctx context.Context, login string) error {
	_, err := s.db.ExecContext(ctx, `DELETE FROM login_failures WHERE login = ? OR at < ?`, login,
		now().Add(-24*time.Hour))
	return err
}

// AddClass makes a class with members.
func (s *Store) AddClass(ctx context.Context, name string, members []int64) (int64, error) {
	var id int64
	err := s.transaction(ctx, func(tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `INSERT INTO classes (name) VALUES (?)`, name)
		if err != nil {
			return err
		}
		if id, err = r.LastInsertId(); err != nil {
			return err
		}
		for _, m := range members {
			if _, err := tx.ExecContext(ctx, `INSERT INTO memberships (class_id, user_id) VALUES (?, ?)`, id, m); err != nil {
				return err
			}
		}
		return nil
	})
	return id, err
}

// MakeClass makes a class that its maker belongs to.
func (s *Store) MakeClass(ctx context.Context, name string, by int64) (int64, error) {
	id, err := s.AddClass(ctx, name, []int64{by})
	if err != nil {
		return 0, err
	}
	return id, s.transaction(ctx, func(tx *sqlx.Tx) error {
		return audit(ctx, tx, by, "class", nil, fmt.Sprintf("the class %d (%s) was made", id, name))
	})
}

// AddMembers puts more people into a class.
func (s *Store) AddMembers(ctx context.Context, class int64, members []int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		for _, m := range members {
			if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO memberships (class_id, user_id) VALUES (?, ?)`, class,
				m); err != nil {
				return err
			}
		}
		return nil
	})
}

// Classes lists the classes of a person, or all for an administrator.
func (s *Store) Classes(ctx context.Context, u User) ([]Class, error) {
	out := []Class{}
	return out, s.db.SelectContext(ctx, &out, `SELECT c.id, c.name, (SELECT COUNT(*) FROM memberships m
		JOIN users u ON u.id = m.user_id WHERE m.class_id = c.id AND u.role = 'student') students
		FROM classes c WHERE ? = 'administrator' OR EXISTS (SELECT 1 FROM memberships m WHERE m.class_id = c.id
		AND m.user_id = ?) ORDER BY c.name`, u.Role, u.ID)
}

// Teaches tells whether two people belong to one class.
func (s *Store) Teaches(ctx context.Context, staff, student int64) (bool, error) {
	var n int
	err := s.db.GetContext(ctx, &n, `SELECT COUNT(*) FROM memberships a JOIN memberships b ON b.class_id = a.class_id
		WHERE a.user_id = ? AND b.user_id = ?`, staff, student)
	return n > 0, err
}

// Member tells whether a person belongs to a class.
func (s *Store) Member(ctx context.Context, class, user int64) (bool, error) {
	var n int
	err := s.db.GetContext(ctx, &n, `SELECT COUNT(*) FROM memberships WHERE class_id = ? AND user_id = ?`, class, user)
	return n > 0, err
}

// Roster lists the students of a class.
func (s *Store) Roster(ctx context.Context, class int64) ([]User, error) {
	out := []User{}
	return out, s.db.SelectContext(ctx, &out, `SELECT u.* FROM users u JOIN memberships m ON m.user_id = u.id
		WHERE m.class_id = ? AND u.role = 'student' ORDER BY u.name`, class)
}
