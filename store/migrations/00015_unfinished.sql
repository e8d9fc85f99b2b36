-- +goose Up
-- What is filled in of an exercise and cannot be measured yet belongs to the state of its draft.
ALTER TABLE draft_states ADD COLUMN IF NOT EXISTS filled LONGBLOB NULL;

-- +goose Down
ALTER TABLE draft_states DROP COLUMN IF EXISTS filled;
