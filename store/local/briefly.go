package local

import (
	"context"
	"fmt"
	"os"
)

// Briefly starts a database server in a folder of its own, gives its address to use, and removes both
// afterwards: for tests, which want a real database and leave nothing behind.
func Briefly(ctx context.Context, use func(dsn string) error) error {
	dir, err := os.MkdirTemp("", "hammerset-database-")
	if err != nil {
		return fmt.Errorf("a folder for the database: %w", err)
	}
	defer os.RemoveAll(dir)
	server, err := Start(ctx, dir)
	if err != nil {
		return err
	}
	defer server.Stop()
	return use(server.DSN)
}
