-- +goose Up
ALTER TABLE reports ADD COLUMN IF NOT EXISTS compared LONGBLOB NULL;

-- +goose Down
ALTER TABLE reports DROP COLUMN compared;
