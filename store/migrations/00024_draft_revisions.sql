-- +goose Up
-- The last revision that a draft of an exercise has had: none comes twice, also where a draft is let go and another one
-- begun in the same moment. Revisions so far began at the time in milliseconds.
ALTER TABLE exercises ADD COLUMN IF NOT EXISTS draft_revision BIGINT UNSIGNED NOT NULL DEFAULT 0;
UPDATE exercises SET draft_revision = UNIX_TIMESTAMP() * 1000;

-- +goose Down
ALTER TABLE exercises DROP COLUMN IF EXISTS draft_revision;
