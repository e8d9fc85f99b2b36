-- +goose Up
-- An exercise that was taken out of one of an assembly, to be worked on and put back: which, and of what part.
ALTER TABLE exercises ADD COLUMN IF NOT EXISTS taken_from BIGINT UNSIGNED NULL,
  ADD COLUMN IF NOT EXISTS part VARCHAR(200) NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE exercises DROP COLUMN IF EXISTS taken_from, DROP COLUMN IF EXISTS part;
