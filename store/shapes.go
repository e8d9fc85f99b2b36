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

// keepShapes is how long shapes of parts are kept that nobody asks for.
const keepShapes = 90 * 24 * time.Hour

// Shapes gives the kept shapes of parts by what they are made of; those that are not kept are left out.
func (s *Store) Shapes(ctx context.Context, madeOf []string) (map[string][]byte, error) {
	out := map[string][]byte{}
	if len(madeOf) == 0 {
		return out, nil
	}
	query, args, err := sqlx.In(`SELECT made_of, shape FROM part_shapes WHERE made_of IN (?)`, madeOf)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		MadeOf string `db:"made_of"`
		Shape  []byte `db:"shape"`
	}
	if err := s.db.SelectContext(ctx, &rows, query, args...); err != nil {
		return nil, err
	}
	for _, r := range rows {
		z, err := gzip.NewReader(bytes.NewReader(r.Shape))
		if err != nil {
			return nil, fmt.Errorf("a kept shape: %w", err)
		}
		if out[r.MadeOf], err = io.ReadAll(z); err != nil {
			return nil, fmt.Errorf("a kept shape: %w", err)
		}
	}
	if query, args, err = sqlx.In(`UPDATE part_shapes SET used_at = ? WHERE made_of IN (?) AND used_at < ?`, now(), madeOf,
		now().Add(-keepShapes/10)); err != nil {
		return nil, err
	}
	_, err = s.db.ExecContext(ctx, query, args...)
	return out, err
}

// KeepShape keeps the shape of a part by what it is made of, and lets some go that nobody has asked for in a long time.
func (s *Store) KeepShape(ctx context.Context, madeOf string, shape []byte) error {
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	if _, err := z.Write(shape); err != nil {
		return err
	}
	if err := z.Close(); err != nil {
		return err
	}
	if _, err := s.db.ExecContext(ctx, `REPLACE INTO part_shapes (made_of, shape, used_at) VALUES (?, ?, ?)`, madeOf,
		packed.Bytes(), now()); err != nil {
		return err
	}
	_, err := s.db.ExecContext(ctx, `DELETE FROM part_shapes WHERE used_at < ? LIMIT 100`, now().Add(-keepShapes))
	return err
}
