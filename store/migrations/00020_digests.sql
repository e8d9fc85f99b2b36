-- +goose Up
-- What lists need of a report, so that they read no whole ones: see core/desk. Of reports from before it is made when
-- it is first asked for.
ALTER TABLE reports ADD COLUMN IF NOT EXISTS digest BLOB NULL;
ALTER TABLE audit ADD KEY IF NOT EXISTS by_person (user_id, id);

-- +goose Down
ALTER TABLE reports DROP COLUMN IF EXISTS digest;
