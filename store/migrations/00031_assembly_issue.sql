-- +goose Up
-- Which issued exercise an assembly is made for: it is handed in from where it is worked on.
ALTER TABLE assemblies ADD COLUMN IF NOT EXISTS issue_id BIGINT UNSIGNED NULL,
  ADD FOREIGN KEY IF NOT EXISTS assemblies_issue (issue_id) REFERENCES issues(id);

-- +goose Down
ALTER TABLE assemblies DROP FOREIGN KEY IF EXISTS assemblies_issue, DROP COLUMN IF EXISTS issue_id;
