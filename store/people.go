package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
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

// User is a person who can sign in. What somebody is to a class, a membership says.
type User struct {
	ID       int64     `db:"id"`
	Login    string    `db:"login"`
	Name     string    `db:"name"`
	Password string    `db:"password"` // argon2id hash
	Created  time.Time `db:"created_at"`
	// MustChange is set while the password is one that somebody else has given.
	MustChange bool `db:"must_change"`
	// Administrator: may do everything that anybody may.
	Administrator bool `db:"administrator"`
	// Teaches: may make classes and exercises.
	Teaches bool   `db:"teaches"`
	Mail    string `db:"mail"` // where mail goes to; empty where none is wanted
	// SourcedID is what the account is called where it came from.
	SourcedID *string `db:"sourced_id"`
	// Ended is when the account was ended: nobody signs in with it, and its work stays.
	Ended *time.Time `db:"ended_at"`
	// Sessions counts how often all sessions of the account were ended: older ones are over.
	Sessions int `db:"sessions"`
	// MailKinds are the kinds of messages that mail is wanted of, with commas between.
	MailKinds string `db:"mail_kinds"`
	// Calendar is the hash of the secret in the address of the person's calendar; nil where there is none.
	Calendar *string `db:"calendar"`
}

// ErrLoginTaken is returned when a login belongs to somebody already.
var ErrLoginTaken = errors.New("this login is taken")

// AddUser makes an account; password is its hash.
func (s *Store) AddUser(ctx context.Context, u User) (int64, error) {
	return addUser(ctx, s.db, u)
}

func addUser(ctx context.Context, db sqlx.ExtContext, u User) (int64, error) {
	r, err := sqlx.NamedExecContext(ctx, db, `INSERT INTO users (login, name, password, must_change, administrator,
		teaches, mail, mail_kinds, sourced_id) VALUES (:login, :name, :password, :must_change, :administrator, :teaches,
		:mail, :mail_kinds, :sourced_id)`, u)
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
		return audit(ctx, tx, by, "account", nil, fmt.Sprintf("the account %d (%s) was made", id, u.Login))
	})
	return id, err
}

// SetPassword changes a password, given as its hash; mustChange where it is not the person's own.
func (s *Store) SetPassword(ctx context.Context, user int64, hash string, mustChange bool, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE users SET password = ?, must_change = ?, sessions = sessions + 1
		WHERE id = ?`, hash, mustChange, user); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM devices WHERE user_id = ?`, user); err != nil {
			return err
		}
		return audit(ctx, tx, by, "password", nil, fmt.Sprintf("the password of the account %d was changed", user))
	})
}

// EndSessions ends all sessions of a person, and forgets the browsers that were known.
func (s *Store) EndSessions(ctx context.Context, user, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE users SET sessions = sessions + 1 WHERE id = ?`, user); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM devices WHERE user_id = ?`, user); err != nil {
			return err
		}
		return audit(ctx, tx, by, "sessions", nil, fmt.Sprintf("all sessions of the account %d were ended", user))
	})
}

// ErrTooMany is returned where somebody asks for the same too often.
var ErrTooMany = errors.New("that was asked for too often")

// ErrLast is returned where the account of the last administrator would be ended.
var ErrLast = errors.New("this is the last administrator")

// EndAccount ends an account, or brings it back. What the person did stays.
func (s *Store) EndAccount(ctx context.Context, user int64, ended bool, by int64) error {
	return s.transaction(ctx, func(tx *sqlx.Tx) error {
		var u User
		if err := tx.GetContext(ctx, &u, `SELECT * FROM users WHERE id = ? FOR UPDATE`, user); err != nil {
			return found(err)
		}
		if u.Administrator && ended {
			var n int
			if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM users WHERE administrator AND ended_at IS NULL
		AND id <> ?`, user); err != nil {
				return err
			}
			if n == 0 {
				return ErrLast
			}
		}
		at, said := since(ended, "ended", "brought back")
		if _, err := tx.ExecContext(ctx, `UPDATE users SET ended_at = ?, sessions = sessions + 1 WHERE id = ?`, at,
			user); err != nil {
			return err
		}
		return audit(ctx, tx, by, "account", nil, fmt.Sprintf("the account %d (%s) was %s", user, u.Login, said))
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

// UserBySource finds an account by what it is called where it came from.
func (s *Store) UserBySource(ctx context.Context, source string) (User, error) {
	var u User
	err := s.db.GetContext(ctx, &u, `SELECT * FROM users WHERE sourced_id = ?`, source)
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
	return out, s.db.SelectContext(ctx, &out, `SELECT * FROM users ORDER BY name, id`)
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
