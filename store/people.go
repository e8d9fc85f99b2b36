package store

import (
	"context"
	"io/fs"
	"time"

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
}

// Class is a class with the number of its students.
type Class struct {
	ID       int64  `db:"id"`
	Name     string `db:"name"`
	Students int    `db:"students"`
}

// AddUser makes an account; password is its hash.
func (s *Store) AddUser(ctx context.Context, u User) (int64, error) {
	r, err := s.db.NamedExecContext(ctx, `INSERT INTO users (login, name, role, password) VALUES (:login, :name, :role, :password)`, u)
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
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

// LoginFailures counts failed sign-ins of a login or an address since a time.
func (s *Store) LoginFailures(ctx context.Context, login, address string, since time.Time) (byLogin, byAddress int, err error) {
	row := struct {
		L int `db:"l"`
		A int `db:"a"`
	}{}
	err = s.db.GetContext(ctx, &row, `SELECT COALESCE(SUM(login = ?), 0) l, COALESCE(SUM(address = ?), 0) a FROM login_failures WHERE (login = ? OR address = ?) AND at > ?`, login, address, login, address, since)
	return row.L, row.A, err
}

// AddLoginFailure notes a failed sign-in.
func (s *Store) AddLoginFailure(ctx context.Context, login, address string) error {
	_, err := s.db.ExecContext(ctx, `INSERT INTO login_failures (login, address, at) VALUES (?, ?, ?)`, login, address, now())
	return err
}

// ClearLoginFailures forgets failed sign-ins of a login after a good one, and
// all old ones.
func (s *Store) ClearLoginFailures(ctx context.Context, login string) error {
	_, err := s.db.ExecContext(ctx, `DELETE FROM login_failures WHERE login = ? OR at < ?`, login, now().Add(-24*time.Hour))
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

// AddMembers puts more people into a class.
func (s *Store) AddMembers(ctx context.Context, class int64, members []int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		for _, m := range members {
			if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO memberships (class_id, user_id) VALUES (?, ?)`, class, m); err != nil {
				return err
			}
		}
		return nil
	})
}

// Classes lists the classes of a person, or all for an administrator.
func (s *Store) Classes(ctx context.Context, u User) ([]Class, error) {
	out := []Class{}
	return out, s.db.SelectContext(ctx, &out, `SELECT c.id, c.name, (SELECT COUNT(*) FROM memberships m JOIN users u ON u.id = m.user_id WHERE m.class_id = c.id AND u.role = 'student') students
		FROM classes c WHERE ? = 'administrator' OR EXISTS (SELECT 1 FROM memberships m WHERE m.class_id = c.id AND m.user_id = ?) ORDER BY c.name`, u.Role, u.ID)
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
	return out, s.db.SelectContext(ctx, &out, `SELECT u.* FROM users u JOIN memberships m ON m.user_id = u.id WHERE m.class_id = ? AND u.role = 'student' ORDER BY u.name`, class)
}
