-- +goose Up
-- A job with a version checks against that one without touching its attempt.
ALTER TABLE jobs ADD COLUMN IF NOT EXISTS version_id BIGINT UNSIGNED NULL, ADD FOREIGN KEY IF NOT EXISTS jobs_ibfk_2 (version_id) REFERENCES exercise_versions(id);
ALTER TABLE returns ADD COLUMN IF NOT EXISTS marks LONGBLOB NULL;
CREATE TABLE IF NOT EXISTS rechecks (
  issue_id BIGINT UNSIGNED PRIMARY KEY,
  version_id BIGINT UNSIGNED NOT NULL,
  started_by BIGINT UNSIGNED NOT NULL,
  started_at DATETIME(3) NOT NULL,
  FOREIGN KEY (issue_id) REFERENCES issues(id),
  FOREIGN KEY (version_id) REFERENCES exercise_versions(id),
  FOREIGN KEY (started_by) REFERENCES users(id)
);
CREATE TABLE IF NOT EXISTS remarks (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  attempt_id BIGINT UNSIGNED NOT NULL,
  finding VARCHAR(200) NOT NULL,
  text TEXT NOT NULL,
  made_by BIGINT UNSIGNED NOT NULL,
  made_at DATETIME(3) NOT NULL,
  UNIQUE KEY one_each (attempt_id, finding),
  FOREIGN KEY (attempt_id) REFERENCES attempts(id),
  FOREIGN KEY (made_by) REFERENCES users(id)
);

-- +goose Down
DROP TABLE IF EXISTS remarks, rechecks;
ALTER TABLE returns DROP COLUMN marks;
ALTER TABLE jobs DROP FOREIGN KEY jobs_ibfk_2, DROP COLUMN version_id;
