-- +goose Up
-- Groups of a class, by name. What was issued to a group goes to those too who come into it later.
CREATE TABLE IF NOT EXISTS class_groups (
  class_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(60) NOT NULL,
  student_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (class_id, name, student_id),
  FOREIGN KEY (class_id) REFERENCES classes(id),
  FOREIGN KEY (student_id) REFERENCES users(id)
);
CREATE TABLE IF NOT EXISTS issue_groups (
  issue_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(60) NOT NULL,
  PRIMARY KEY (issue_id, name),
  FOREIGN KEY (issue_id) REFERENCES issues(id)
);

-- +goose Down
DROP TABLE IF EXISTS issue_groups, class_groups;
