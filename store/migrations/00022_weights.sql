-- +goose Up
-- What an issue weighs in the gradebook among the others of its class.
ALTER TABLE issues ADD COLUMN IF NOT EXISTS weight DOUBLE NOT NULL DEFAULT 1;

-- +goose Down
ALTER TABLE issues DROP COLUMN IF EXISTS weight;
