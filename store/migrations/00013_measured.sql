-- +goose Up
-- Reports and atlases are of what is measured, and not of a version: a moved text leaves them as they are. What the
-- check of an earlier version depends on is not known here, so that each has its own.
ALTER TABLE exercise_versions ADD COLUMN IF NOT EXISTS measured CHAR(64) NOT NULL DEFAULT '', ADD KEY IF NOT EXISTS by_measured (measured);
UPDATE exercise_versions SET measured = SHA2(CONCAT('version ', id), 256) WHERE measured = '';
ALTER TABLE reports ADD COLUMN IF NOT EXISTS measured CHAR(64) NOT NULL DEFAULT '', ADD KEY IF NOT EXISTS by_version (version_id);
UPDATE reports r JOIN exercise_versions v ON v.id = r.version_id SET r.measured = v.measured WHERE r.measured = '';
ALTER TABLE reports DROP INDEX IF EXISTS pure, ADD UNIQUE KEY IF NOT EXISTS of_measured (measured, file_sha, checker);
ALTER TABLE atlases ADD COLUMN IF NOT EXISTS measured CHAR(64) NOT NULL DEFAULT '', ADD KEY IF NOT EXISTS by_version (version_id);
UPDATE atlases a JOIN exercise_versions v ON v.id = a.version_id SET a.measured = v.measured WHERE a.measured = '';
ALTER TABLE atlases DROP PRIMARY KEY, ADD PRIMARY KEY (measured);
-- The version by whose rubric an attempt is marked.
ALTER TABLE attempts ADD COLUMN IF NOT EXISTS version_id BIGINT UNSIGNED NULL, ADD FOREIGN KEY IF NOT EXISTS attempts_version (version_id) REFERENCES exercise_versions(id);
UPDATE attempts a JOIN reports r ON r.id = a.report_id SET a.version_id = r.version_id, a.changed_at = a.changed_at WHERE a.version_id IS NULL;
-- What students of an issue are told about its sheet.
CREATE TABLE IF NOT EXISTS notices (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  issue_id BIGINT UNSIGNED NOT NULL,
  revision VARCHAR(20) NOT NULL,
  text VARCHAR(1000) NOT NULL,
  made_by BIGINT UNSIGNED NOT NULL,
  made_at DATETIME(3) NOT NULL,
  FOREIGN KEY (issue_id) REFERENCES issues(id),
  FOREIGN KEY (made_by) REFERENCES users(id)
);

-- +goose Down
DROP TABLE IF EXISTS notices;
ALTER TABLE attempts DROP FOREIGN KEY attempts_version, DROP COLUMN version_id;
ALTER TABLE atlases DROP PRIMARY KEY, ADD PRIMARY KEY (version_id), DROP COLUMN measured;
ALTER TABLE reports DROP INDEX of_measured, ADD UNIQUE KEY pure (version_id, file_sha, checker), DROP COLUMN measured;
ALTER TABLE exercise_versions DROP COLUMN measured;
