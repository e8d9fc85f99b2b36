-- +goose Up
-- The reports of the checks of parts of assemblies, by what they hang on: an unchanged part is not checked again.
CREATE TABLE IF NOT EXISTS part_reports (
  made_of CHAR(64) NOT NULL PRIMARY KEY,
  report LONGBLOB NOT NULL,
  used_at DATETIME(3) NOT NULL,
  KEY by_use (used_at)
);

-- +goose Down
DROP TABLE IF EXISTS part_reports;
