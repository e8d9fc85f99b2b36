-- +goose Up
ALTER TABLE reports ADD COLUMN compared LONGBLOB NULL;

-- +goose Down
ALTER TABLE reports DROP COLUMN compared;
