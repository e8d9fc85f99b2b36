-- +goose Up
-- The model or assembly, and its version, that a file came from.
ALTER TABLE assembly_files
  ADD COLUMN IF NOT EXISTS model_id BIGINT UNSIGNED NULL,
  ADD COLUMN IF NOT EXISTS source_id BIGINT UNSIGNED NULL,
  ADD COLUMN IF NOT EXISTS version INT NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE assembly_files
  DROP COLUMN IF EXISTS model_id,
  DROP COLUMN IF EXISTS source_id,
  DROP COLUMN IF EXISTS version;
