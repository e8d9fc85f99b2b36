-- +goose Up
-- Lists read these in place of whole reports.
ALTER TABLE reports ADD COLUMN IF NOT EXISTS in_count INT NULL, ADD COLUMN IF NOT EXISTS of_count INT NULL;
UPDATE reports SET
  of_count = JSON_LENGTH(JSON_EXTRACT(CONVERT(report USING utf8mb4), '$.characteristics')),
  in_count = (LENGTH(JSON_EXTRACT(CONVERT(report USING utf8mb4), '$.characteristics[*].verdict')) - LENGTH(REPLACE(JSON_EXTRACT(CONVERT(report USING utf8mb4), '$.characteristics[*].verdict'), '"in"', ''))) / 4
  WHERE of_count IS NULL;
ALTER TABLE users ADD COLUMN IF NOT EXISTS must_change TINYINT(1) NOT NULL DEFAULT 0;
ALTER TABLE issues ADD COLUMN IF NOT EXISTS withdrawn_at DATETIME(3) NULL;
ALTER TABLE audit ADD COLUMN IF NOT EXISTS exercise_id BIGINT UNSIGNED NULL, ADD COLUMN IF NOT EXISTS issue_id BIGINT UNSIGNED NULL, ADD KEY IF NOT EXISTS by_exercise (exercise_id);
-- Attempts beyond those that an issue gives everybody.
CREATE TABLE IF NOT EXISTS further_attempts (
  issue_id BIGINT UNSIGNED NOT NULL,
  student_id BIGINT UNSIGNED NOT NULL,
  more INT NOT NULL,
  PRIMARY KEY (issue_id, student_id),
  FOREIGN KEY (issue_id) REFERENCES issues(id),
  FOREIGN KEY (student_id) REFERENCES users(id)
);
-- Browsers that somebody has signed in from: wrong guesses by others do not lock them out.
CREATE TABLE IF NOT EXISTS devices (
  token CHAR(64) PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  seen_at DATETIME(3) NOT NULL,
  FOREIGN KEY (user_id) REFERENCES users(id)
);
ALTER TABLE login_failures ADD COLUMN IF NOT EXISTS device CHAR(64) NOT NULL DEFAULT '';
-- What was asked of a saved model before it was handed in.
CREATE TABLE IF NOT EXISTS looks (
  user_id BIGINT UNSIGNED NOT NULL,
  issue_id BIGINT UNSIGNED NOT NULL,
  document CHAR(64) NOT NULL,
  had BLOB NOT NULL,
  at DATETIME(3) NOT NULL,
  PRIMARY KEY (user_id, issue_id, document),
  FOREIGN KEY (user_id) REFERENCES users(id),
  FOREIGN KEY (issue_id) REFERENCES issues(id)
);

-- +goose Down
DROP TABLE IF EXISTS looks, devices, further_attempts;
ALTER TABLE login_failures DROP COLUMN IF EXISTS device;
ALTER TABLE audit DROP COLUMN IF EXISTS exercise_id, DROP COLUMN IF EXISTS issue_id;
ALTER TABLE issues DROP COLUMN IF EXISTS withdrawn_at;
ALTER TABLE users DROP COLUMN IF EXISTS must_change;
ALTER TABLE reports DROP COLUMN IF EXISTS in_count, DROP COLUMN IF EXISTS of_count;
