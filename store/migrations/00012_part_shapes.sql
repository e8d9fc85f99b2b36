-- +goose Up
-- What assemblies need of parts, made once for each part at its sizes: a second opening needs no kernel.
CREATE TABLE IF NOT EXISTS part_shapes (
  made_of CHAR(64) NOT NULL PRIMARY KEY,
  shape LONGBLOB NOT NULL,
  used_at DATETIME(3) NOT NULL,
  KEY by_use (used_at)
);

-- +goose Down
DROP TABLE IF EXISTS part_shapes;
