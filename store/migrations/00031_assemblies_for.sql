-- +goose Up
-- What an assembly is made for: an issued exercise, or an exercise of which it becomes the reference.
ALTER TABLE assemblies ADD COLUMN IF NOT EXISTS issue_id BIGINT UNSIGNED NULL, ADD COLUMN IF NOT EXISTS exercise_id BIGINT UNSIGNED NULL,
  ADD FOREIGN KEY IF NOT EXISTS assemblies_issue (issue_id) REFERENCES issues(id),
  ADD FOREIGN KEY IF NOT EXISTS assemblies_exercise (exercise_id) REFERENCES exercises(id);

-- +goose Down
ALTER TABLE assemblies DROP FOREIGN KEY IF EXISTS assemblies_exercise, DROP FOREIGN KEY IF EXISTS assemblies_issue,
  DROP COLUMN IF EXISTS exercise_id, DROP COLUMN IF EXISTS issue_id;
