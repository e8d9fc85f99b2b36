-- +goose Up
-- Roles are those of memberships: what somebody is to a class, from when until when. Of an account itself only two
-- things are kept: whether it is an administrator's, and whether its person teaches, and so may make classes and
-- exercises. The old role is not used any more.
ALTER TABLE users ADD COLUMN IF NOT EXISTS administrator TINYINT(1) NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS teaches TINYINT(1) NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS mail VARCHAR(254) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS sourced_id VARCHAR(255) NULL,
  ADD COLUMN IF NOT EXISTS ended_at DATETIME(3) NULL,
  ADD COLUMN IF NOT EXISTS sessions INT NOT NULL DEFAULT 0,
  ADD UNIQUE KEY IF NOT EXISTS by_source (sourced_id),
  MODIFY COLUMN role ENUM('student','assistant','instructor','administrator') NULL INVISIBLE;
UPDATE users SET administrator = role = 'administrator', teaches = role IN ('instructor', 'administrator')
  WHERE role IS NOT NULL;
ALTER TABLE memberships ADD COLUMN IF NOT EXISTS role ENUM('student','assistant','instructor') NOT NULL DEFAULT 'student',
  ADD COLUMN IF NOT EXISTS from_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  ADD COLUMN IF NOT EXISTS until_at DATETIME(3) NULL,
  MODIFY COLUMN changed_at DATETIME(3) INVISIBLE NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3);
UPDATE memberships m JOIN users u ON u.id = m.user_id SET m.from_at = u.created_at, m.role = CASE u.role
  WHEN 'student' THEN 'student' WHEN 'assistant' THEN 'assistant' ELSE 'instructor' END WHERE u.role IS NOT NULL;
UPDATE users SET role = NULL;
-- A class is of a school year, and is archived when it is over.
ALTER TABLE classes ADD COLUMN IF NOT EXISTS school_year VARCHAR(20) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS time_zone VARCHAR(64) NOT NULL DEFAULT 'UTC',
  ADD COLUMN IF NOT EXISTS sourced_id VARCHAR(255) NULL,
  ADD COLUMN IF NOT EXISTS archived_at DATETIME(3) NULL,
  ADD UNIQUE KEY IF NOT EXISTS by_source (sourced_id),
  ADD UNIQUE KEY IF NOT EXISTS one_a_year (name, school_year), DROP INDEX IF EXISTS name;
-- An exercise is its maker's, and shared with colleagues to use or to change.
ALTER TABLE exercises ADD COLUMN IF NOT EXISTS archived_at DATETIME(3) NULL;
CREATE TABLE IF NOT EXISTS exercise_shares (
  exercise_id BIGINT UNSIGNED NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  may ENUM('use','change') NOT NULL,
  PRIMARY KEY (exercise_id, user_id),
  FOREIGN KEY (exercise_id) REFERENCES exercises(id),
  FOREIGN KEY (user_id) REFERENCES users(id)
);
-- So far every instructor could use every exercise, and change those that a class of theirs has.
INSERT IGNORE INTO exercise_shares (exercise_id, user_id, may) SELECT e.id, u.id,
  IF(EXISTS (SELECT 1 FROM issues i JOIN exercise_versions v ON v.id = i.version_id JOIN memberships m
    ON m.class_id = i.class_id AND m.user_id = u.id WHERE v.exercise_id = e.id), 'change', 'use')
  FROM exercises e JOIN users u ON u.teaches AND NOT u.administrator AND u.id <> e.created_by;
CREATE TABLE IF NOT EXISTS exercise_tags (
  exercise_id BIGINT UNSIGNED NOT NULL,
  tag VARCHAR(40) NOT NULL,
  PRIMARY KEY (exercise_id, tag),
  FOREIGN KEY (exercise_id) REFERENCES exercises(id)
);

-- +goose Down
DROP TABLE IF EXISTS exercise_tags, exercise_shares;
ALTER TABLE exercises DROP COLUMN IF EXISTS archived_at;
ALTER TABLE classes ADD UNIQUE KEY IF NOT EXISTS name (name), DROP INDEX IF EXISTS one_a_year, DROP INDEX IF EXISTS by_source,
  DROP COLUMN IF EXISTS school_year, DROP COLUMN IF EXISTS time_zone, DROP COLUMN IF EXISTS sourced_id, DROP COLUMN IF EXISTS archived_at;
UPDATE users u SET role = CASE WHEN administrator THEN 'administrator' WHEN teaches THEN 'instructor'
  WHEN EXISTS (SELECT 1 FROM memberships m WHERE m.user_id = u.id AND m.role = 'assistant') THEN 'assistant' ELSE 'student' END;
ALTER TABLE memberships DROP COLUMN IF EXISTS role, DROP COLUMN IF EXISTS from_at, DROP COLUMN IF EXISTS until_at;
ALTER TABLE users MODIFY COLUMN role ENUM('student','assistant','instructor','administrator') NOT NULL VISIBLE,
  DROP INDEX IF EXISTS by_source, DROP COLUMN IF EXISTS administrator, DROP COLUMN IF EXISTS teaches,
  DROP COLUMN IF EXISTS mail, DROP COLUMN IF EXISTS sourced_id, DROP COLUMN IF EXISTS ended_at, DROP COLUMN IF EXISTS sessions;
