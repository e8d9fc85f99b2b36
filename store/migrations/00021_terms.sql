-- +goose Up
-- An issue opens at a time, may be for practice (results at once, no marks) or for some students alone, and is closed.
ALTER TABLE issues ADD COLUMN IF NOT EXISTS opens_at DATETIME(3) NULL,
  ADD COLUMN IF NOT EXISTS closed_at DATETIME(3) NULL,
  ADD COLUMN IF NOT EXISTS practice TINYINT(1) NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS chosen TINYINT(1) NOT NULL DEFAULT 0;
-- All that is one student's own at an issue. Given: one of those that it was issued to, where it is chosen.
CREATE TABLE IF NOT EXISTS issue_students (
  issue_id BIGINT UNSIGNED NOT NULL,
  student_id BIGINT UNSIGNED NOT NULL,
  given TINYINT(1) NOT NULL DEFAULT 0,
  due_at DATETIME(3) NULL,
  more INT NOT NULL DEFAULT 0,
  excused TINYINT(1) NOT NULL DEFAULT 0,
  changed_at DATETIME(3) INVISIBLE NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
  PRIMARY KEY (issue_id, student_id),
  KEY by_change (changed_at),
  FOREIGN KEY (issue_id) REFERENCES issues(id),
  FOREIGN KEY (student_id) REFERENCES users(id)
);
INSERT IGNORE INTO issue_students (issue_id, student_id, more) SELECT issue_id, student_id, more FROM further_attempts;

-- +goose Down
INSERT IGNORE INTO further_attempts (issue_id, student_id, more) SELECT issue_id, student_id, more FROM issue_students WHERE more > 0;
DROP TABLE IF EXISTS issue_students;
ALTER TABLE issues DROP COLUMN IF EXISTS opens_at, DROP COLUMN IF EXISTS closed_at, DROP COLUMN IF EXISTS practice, DROP COLUMN IF EXISTS chosen;
