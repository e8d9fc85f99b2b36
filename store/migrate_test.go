package store

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"sync"
	"testing"

	"github.com/go-sql-driver/mysql"
)

// fresh opens an empty database of its own.
func fresh(t *testing.T, name string) *Store {
	t.Helper()
	ctx := context.Background()
	if _, err := shared.db.ExecContext(ctx, "DROP DATABASE IF EXISTS hammerset_"+name); err != nil {
		t.Skipf("the account may not make databases: %v", err)
	}
	if _, err := shared.db.ExecContext(ctx, "CREATE DATABASE hammerset_"+name+
		" CHARACTER SET utf8mb4 COLLATE utf8mb4_bin"); err != nil {
		t.Fatal(err)
	}
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		t.Fatal(err)
	}
	cfg.DBName = "hammerset_" + name
	s, err := Open(ctx, cfg.FormatDSN())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

// A migration that was broken off after any of its statements is gone on with; four programs
// that start at once do it once; what a newer program made is refused.
func TestMigrations(t *testing.T) {
	ctx := context.Background()
	entries, err := migrations.ReadDir("migrations")
	if err != nil {
		t.Fatal(err)
	}
	up := regexp.MustCompile(`(?s)-- \+goose Up\n(.*?)(-- \+goose Down|$)`)
	s := fresh(t, "broken")
	for _, e := range entries {
		data, err := migrations.ReadFile("migrations/" + e.Name())
		if err != nil {
			t.Fatal(err)
		}
		// All statements, as if the program had died before it noted that they were done.
		for _, q := range strings.Split(up.FindStringSubmatch(string(data))[1], ";\n") {
			if strings.TrimSpace(q) == "" {
				continue
			}
			if _, err := s.db.ExecContext(ctx, q); err != nil {
				t.Fatalf("%s: %v", e.Name(), err)
			}
		}
	}
	if err := s.Migrate(ctx); err != nil {
		t.Errorf("after a migration that was broken off: %v", err)
	}

	s = fresh(t, "four")
	var wg sync.WaitGroup
	for i := range 4 {
		wg.Go(func() {
			if err := s.Migrate(ctx); err != nil {
				t.Errorf("program %d: %v", i, err)
			}
		})
	}
	wg.Wait()

	if _, err := s.db.ExecContext(ctx, fmt.Sprintf(`INSERT INTO goose_db_version (version_id, is_applied)
		VALUES (%d, 1)`, len(entries)+1)); err != nil {
		t.Fatal(err)
	}
	if err := s.Migrate(ctx); !errors.Is(err, ErrNewer) {
		t.Errorf("a database of a newer program: %v", err)
	}
}
