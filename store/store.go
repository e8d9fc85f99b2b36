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

// Close closes the connections.
func (s *Store) Close() error { return s.db.Close() }

// Migrate brings the tables up to date.
func (s *Store) Migrate(ctx context.Context) error {
	p, err := goose.NewProvider(goose.DialectMySQL, s.db.DB, mustSub())
	if err != nil {
		return err
	}
	_, err = p.Up(ctx)
	return err
}

// Sessions keeps the sessions of signed-in people.
func (s *Store) Sessions() scs.Store { return mysqlstore.New(s.db.DB) }

// transaction runs f and commits, or rolls everything back.
func (s *Store) transaction(ctx context.Context, f func(tx *sqlx.Tx) error) error {
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
	sum := sha256.Sum256(data)
	sha := hex.EncodeToString(sum[:])
	_, err := tx.ExecContext(ctx, `INSERT IGNORE INTO files (sha256, size, data) VALUES (?, ?, ?)`, sha, len(data), data)
	return sha, err
}

// File gives the content of a file.
func (s *Store) File(ctx context.Context, sha string) ([]byte, error) {
	var data []byte
	err := s.db.GetContext(ctx, &data, `SELECT data FROM files WHERE sha256 = ?`, sha)
	return data, found(err)
}
