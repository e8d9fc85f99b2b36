// Package store keeps everything in MariaDB: people, exercises and their
// versions, what was handed in, jobs, reports, marks and returns. It is the only
// package that talks to the database. All times are UTC.
package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"math/rand/v2"
	"time"

	"github.com/alexedwards/scs/mysqlstore"
	"github.com/alexedwards/scs/v2"
	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound is returned where a row does not exist.
var ErrNotFound = errors.New("not found")

// Store is the database. Its methods may be called concurrently.
type Store struct{ db *sqlx.DB }

// Open connects to the database.
func Open(ctx context.Context, dsn string) (*Store, error) {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database address: %w", err)
	}
	cfg.ParseTime, cfg.Loc = true, time.UTC
	cfg.MaxAllowedPacket = 256 << 20
	cfg.Params = map[string]string{"time_zone": "'+00:00'"}
	db, err := sqlx.Open("mysql", cfg.FormatDSN())
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(16)
	db.SetConnMaxLifetime(5 * time.Minute)
	if err := db.PingContext(ctx); err != nil {
		db.Close()
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	return &Store{db}, nil
}

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.db.PingContext(ctx) }

// Asked counts the questions that the database was asked so far by everybody, to see how many a screen needs.
func (s *Store) Asked(ctx context.Context) (n int, err error) {
	var rows []struct {
		Name  string `db:"Variable_name"`
		Value int    `db:"Value"`
	}
	err = s.db.SelectContext(ctx, &rows, `SHOW GLOBAL STATUS WHERE Variable_name IN ('Com_select', 'Com_insert',
		'Com_update', 'Com_delete')`)
	for _, r := range rows {
		n += r.Value
	}
	return n, err
}

// Close closes the connections.
func (s *Store) Close() error { return s.db.Close() }

// ErrNewer is returned for a database that a newer program has made.
var ErrNewer = errors.New("the database was brought up to date by a newer program")

// migrating is how long one program waits for another that is bringing the tables up to date.
const migrating = 5 * time.Minute

// Migrate brings the tables up to date. Of several programs that start at once one does it
// and the others wait. Every statement of a migration may be repeated, since MariaDB does not
// take back half a migration when it is broken off.
func (s *Store) Migrate(ctx context.Context) error {
	p, err := goose.NewProvider(goose.DialectMySQL, s.db.DB, mustSub())
	if err != nil {
		return err
	}
	alone, err := s.db.Connx(ctx)
	if err != nil {
		return err
	}
	defer alone.Close()
	var got sql.NullInt64
	if err := alone.GetContext(ctx, &got, `SELECT GET_LOCK(CONCAT(DATABASE(), '.migration'), ?)`,
		int(migrating.Seconds())); err != nil {
		return fmt.Errorf("wait for another migration: %w", err)
	}
	if got.Int64 != 1 {
		return fmt.Errorf("another program has been bringing the tables up to date for more than %s; look what holds it up",
			migrating)
	}
	defer func() {
		// closing lets it go as well
		_, _ = alone.ExecContext(context.WithoutCancel(ctx), `DO RELEASE_LOCK(CONCAT(DATABASE(), '.migration'))`)
	}()
	is, err := p.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("read the state of the tables: %w", err)
	}
	sources := p.ListSources()
	if knows := sources[len(sources)-1].Version; is > knows {
		return fmt.Errorf("%w: its tables are at %d and this one knows %d; start that one, or restore a backup",
			ErrNewer, is, knows)
	}
	if _, err = p.Up(ctx); err != nil {
		return fmt.Errorf("bring the tables up to date: %w; start again to go on where it ended", err)
	}
	return nil
}

// Sessions keeps the sessions of signed-in people.
func (s *Store) Sessions() scs.Store { return mysqlstore.New(s.db.DB) }

// deadlockTries is how often a transaction is run when others are in its way each time.
const deadlockTries = 8

// transaction runs f and commits, or rolls everything back. Two transactions may wait for each
// other's rows; the database then breaks one of them off, and that one is run anew: f sets
// whatever it gives its caller each time.
func (s *Store) transaction(ctx context.Context, f func(tx *sqlx.Tx) error) error {
	for n := 1; ; n++ {
		err := s.once(ctx, f)
		if !deadlocked(err) || n == deadlockTries {
			return err
		}
		select {
		case <-ctx.Done():
			return err
		case <-time.After(rand.N(time.Duration(n) * 10 * time.Millisecond)): // not in step with the other
		}
	}
}

// deadlocked tells that a transaction was broken off in favour of another.
func deadlocked(err error) bool {
	var my *mysql.MySQLError
	return errors.As(err, &my) && my.Number == 1213
}

func (s *Store) once(ctx context.Context, f func(tx *sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	if err := f(tx); err != nil {
		return errors.Join(err, ignoreDone(tx.Rollback()))
	}
	return tx.Commit()
}

func ignoreDone(err error) error {
	if errors.Is(err, sql.ErrTxDone) {
		return nil
	}
	return err
}

func found(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// now is the time with the precision that the database keeps.
func now() time.Time { return time.Now().UTC().Truncate(time.Millisecond) }

// putFile keeps a file under its SHA-256. Files are never changed.
func putFile(ctx context.Context, tx *sqlx.Tx, data []byte) (string, error) {
	sha := digest(data)
	_, err := tx.ExecContext(ctx, `INSERT IGNORE INTO files (sha256, size, data) VALUES (?, ?, ?)`, sha, len(data), data)
	return sha, err
}

// digest is the name by which content is kept.
func digest(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// File gives the content of a file.
func (s *Store) File(ctx context.Context, sha string) ([]byte, error) {
	var data []byte
	err := s.db.GetContext(ctx, &data, `SELECT data FROM files WHERE sha256 = ?`, sha)
	return data, found(err)
}

// since is since when something is so, now that it begins or ends, and what is said of that.
func since(so bool, begins, ends string) (*time.Time, string) {
	if !so {
		return nil, ends
	}
	t := now()
	return &t, begins
}
