package store

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"time"

	"github.com/jmoiron/sqlx"
)

// keptFor is how long something is kept that nobody asks for.
const keptFor = 90 * 24 * time.Hour

// kept is a table of what can be made again, compressed, by what it is made of.
type kept struct{ table, column string }

// of gives what is kept; what is not is left out.
func (k kept) of(ctx context.Context, db *sqlx.DB, madeOf []string) (map[string][]byte, error) {
	out := map[string][]byte{}
	if len(madeOf) == 0 {
		return out, nil
	}
	query, args, err := sqlx.In(`SELECT made_of, `+k.column+` data FROM `+k.table+` WHERE made_of IN (?)`, madeOf)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		MadeOf string `db:"made_of"`
		Data   []byte `db:"data"`
	}
	if err := db.SelectContext(ctx, &rows, query, args...); err != nil {
		return nil, err
	}
	for _, r := range rows {
		z, err := gzip.NewReader(bytes.NewReader(r.Data))
		if err != nil {
			return nil, fmt.Errorf("kept in %s: %w", k.table, err)
		}
		if out[r.MadeOf], err = io.ReadAll(z); err != nil {
			return nil, fmt.Errorf("kept in %s: %w", k.table, err)
		}
	}
	if query, args, err = sqlx.In(`UPDATE `+k.table+` SET used_at = ? WHERE made_of IN (?) AND used_at < ?`, now(), madeOf,
		now().Add(-keptFor/10)); err != nil {
		return nil, err
	}
	_, err = db.ExecContext(ctx, query, args...)
	return out, err
}

// keep keeps something, and lets some go that nobody has asked for in a long time.
func (k kept) keep(ctx context.Context, db *sqlx.DB, madeOf string, data []byte) error {
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	if _, err := z.Write(data); err != nil {
		return err
	}
	if err := z.Close(); err != nil {
		return err
	}
	if _, err := db.ExecContext(ctx, `REPLACE INTO `+k.table+` (made_of, `+k.column+`, used_at) VALUES (?, ?, ?)`, madeOf,
		packed.Bytes(), now()); err != nil {
		return err
	}
	_, err := db.ExecContext(ctx, `DELETE FROM `+k.table+` WHERE used_at < ? LIMIT 100`, now().Add(-keptFor))
	return err
}

func keptShapes() kept  { return kept{"part_shapes", "shape"} }
func keptReports() kept { return kept{"part_reports", "report"} }

// Shapes gives the kept shapes of parts by what they are made of; those that are not kept are left out.
func (s *Store) Shapes(ctx context.Context, madeOf []string) (map[string][]byte, error) {
	return keptShapes().of(ctx, s.db, madeOf)
}

// KeepShape keeps the shape of a part by what it is made of.
func (s *Store) KeepShape(ctx context.Context, madeOf string, shape []byte) error {
	return keptShapes().keep(ctx, s.db, madeOf, shape)
}

// PartReport gives the kept report of the check of a part by what it hangs on; nil where it is not kept.
func (s *Store) PartReport(ctx context.Context, madeOf string) ([]byte, error) {
	found, err := keptReports().of(ctx, s.db, []string{madeOf})
	return found[madeOf], err
}

// KeepPartReport keeps the report of the check of a part by what it hangs on.
func (s *Store) KeepPartReport(ctx context.Context, madeOf string, report []byte) error {
	return keptReports().keep(ctx, s.db, madeOf, report)
}
