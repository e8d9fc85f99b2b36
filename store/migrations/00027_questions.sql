-- +goose Up
-- What students ask at balloons of an issued sheet; the answer is read by all of the class.
CREATE TABLE IF NOT EXISTS questions (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  issue_id BIGINT UNSIGNED NOT NULL,
  student_id BIGINT UNSIGNED NOT NULL,
  characteristic VARCHAR(200) NOT NULL DEFAULT '',  -- empty: of the sheet as a whole
  text VARCHAR(1000) NOT NULL,
  asked_at DATETIME(3) NOT NULL,
  answer VARCHAR(2000) NOT NULL DEFAULT '',
  answered_by BIGINT UNSIGNED NULL,
  answered_at DATETIME(3) NULL,
  KEY by_issue (issue_id, id),
  FOREIGN KEY (issue_id) REFERENCES issues(id),
  FOREIGN KEY (student_id) REFERENCES users(id),
  FOREIGN KEY (answered_by) REFERENCES users(id)
);
ALTER TABLE messages MODIFY COLUMN kind ENUM('issued','due','returned','revised','asked','answered') NOT NULL,
  MODIFY COLUMN text VARCHAR(2000) NOT NULL DEFAULT '';

-- +goose Down
DELETE FROM messages WHERE kind IN ('asked', 'answered');
ALTER TABLE messages MODIFY COLUMN kind ENUM('issued','due','returned','revised') NOT NULL;
DROP TABLE IF EXISTS questions;
