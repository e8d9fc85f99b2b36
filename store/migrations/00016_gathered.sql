-- +goose Up
-- Parts of an assembly that are handed in one by one are checked together: the file of an attempt is then all parts so
-- far, and what was sent is kept beside it. Attempts that only add to those before them are not counted: continued is
-- how many of a student's were so, up to this one.
ALTER TABLE attempts ADD COLUMN IF NOT EXISTS sent_sha CHAR(64) NULL,
  ADD COLUMN IF NOT EXISTS continued INT NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE attempts DROP COLUMN IF EXISTS sent_sha, DROP COLUMN IF EXISTS continued;
