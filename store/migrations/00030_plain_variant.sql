-- +goose Up
-- The plain exercise is a variant as well, number 0: what is measured, the document, the reference and what was prepared of
-- them stand in variants alone. What has moved is added first, so that a migration that was broken off can be gone on with.
ALTER TABLE exercise_versions ADD COLUMN IF NOT EXISTS document LONGBLOB NULL, ADD COLUMN IF NOT EXISTS reference_sha CHAR(64) NULL,
  ADD COLUMN IF NOT EXISTS prepared LONGBLOB NULL, ADD COLUMN IF NOT EXISTS measured CHAR(64) NOT NULL DEFAULT '';
INSERT IGNORE INTO variants (version_id, number, drawn, size_values, hash, document, reference_sha, prepared)
  SELECT id, 0, 0, '{}', measured, document, reference_sha, prepared FROM exercise_versions;
ALTER TABLE exercise_versions DROP FOREIGN KEY IF EXISTS exercise_versions_ibfk_2, DROP KEY IF EXISTS by_measured;
ALTER TABLE exercise_versions DROP KEY IF EXISTS reference_sha, DROP COLUMN IF EXISTS document, DROP COLUMN IF EXISTS reference_sha,
  DROP COLUMN IF EXISTS prepared, DROP COLUMN IF EXISTS measured;
-- When a student came to an exercise that had been issued before: by joining the class, or a group that it is for.
ALTER TABLE issue_students ADD COLUMN IF NOT EXISTS joined_at DATETIME(3) NULL;
INSERT INTO issue_students (issue_id, student_id, joined_at) SELECT i.id, m.user_id, m.from_at FROM issues i
  JOIN memberships m ON m.class_id = i.class_id AND m.role = 'student' AND m.from_at > i.issued_at
  ON DUPLICATE KEY UPDATE joined_at = COALESCE(joined_at, VALUES(joined_at));

-- +goose Down
ALTER TABLE issue_students DROP COLUMN IF EXISTS joined_at;
ALTER TABLE exercise_versions ADD COLUMN IF NOT EXISTS document LONGBLOB NULL, ADD COLUMN IF NOT EXISTS reference_sha CHAR(64) NULL,
  ADD COLUMN IF NOT EXISTS prepared LONGBLOB NULL, ADD COLUMN IF NOT EXISTS measured CHAR(64) NOT NULL DEFAULT '',
  ADD KEY IF NOT EXISTS by_measured (measured);
UPDATE exercise_versions v JOIN variants x ON x.version_id = v.id AND x.number = 0 SET v.document = x.document,
  v.reference_sha = x.reference_sha, v.prepared = x.prepared, v.measured = x.hash;
DELETE FROM variants WHERE number = 0;
ALTER TABLE exercise_versions MODIFY document LONGBLOB NOT NULL, MODIFY reference_sha CHAR(64) NOT NULL, MODIFY prepared LONGBLOB NOT NULL,
  ADD FOREIGN KEY IF NOT EXISTS exercise_versions_ibfk_2 (reference_sha) REFERENCES files(sha256);
