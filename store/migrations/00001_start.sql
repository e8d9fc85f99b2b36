-- +goose Up
CREATE TABLE IF NOT EXISTS users (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  login VARCHAR(100) NOT NULL UNIQUE,
  name VARCHAR(200) NOT NULL,
  role ENUM('student','assistant','instructor','administrator') NOT NULL,
  password VARCHAR(200) NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
);
CREATE TABLE IF NOT EXISTS login_failures (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  login VARCHAR(100) NOT NULL,
  address VARCHAR(64) NOT NULL,
  at DATETIME(3) NOT NULL,
  KEY by_login (login, at), KEY by_address (address, at)
);
CREATE TABLE IF NOT EXISTS sessions (
  token CHAR(43) PRIMARY KEY,
  data BLOB NOT NULL,
  expiry TIMESTAMP(6) NOT NULL,
  KEY sessions_expiry_idx (expiry)
);
CREATE TABLE IF NOT EXISTS classes (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(200) NOT NULL UNIQUE
);
CREATE TABLE IF NOT EXISTS memberships (
  class_id BIGINT UNSIGNED NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (class_id, user_id),
  FOREIGN KEY (class_id) REFERENCES classes(id),
  FOREIGN KEY (user_id) REFERENCES users(id)
);
CREATE TABLE IF NOT EXISTS files (
  sha256 CHAR(64) PRIMARY KEY,
  size BIGINT UNSIGNED NOT NULL,
  data LONGBLOB NOT NULL
);
CREATE TABLE IF NOT EXISTS exercises (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  created_by BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  FOREIGN KEY (created_by) REFERENCES users(id)
);
CREATE TABLE IF NOT EXISTS exercise_versions (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  exercise_id BIGINT UNSIGNED NOT NULL,
  version INT NOT NULL,
  title VARCHAR(200) NOT NULL,
  number VARCHAR(100) NOT NULL,
  document LONGBLOB NOT NULL,
  reference_sha CHAR(64) NOT NULL,
  prepared LONGBLOB NOT NULL,
  created_by BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  UNIQUE KEY one_number (exercise_id, version),
  FOREIGN KEY (exercise_id) REFERENCES exercises(id),
  FOREIGN KEY (reference_sha) REFERENCES files(sha256)
);
CREATE TABLE IF NOT EXISTS issues (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  version_id BIGINT UNSIGNED NOT NULL,
  class_id BIGINT UNSIGNED NOT NULL,
  issued_by BIGINT UNSIGNED NOT NULL,
  issued_at DATETIME(3) NOT NULL,
  due_at DATETIME(3) NOT NULL,
  attempts INT NOT NULL,
  results ENUM('at once','with the return') NOT NULL,
  released BOOLEAN NOT NULL DEFAULT FALSE,
  FOREIGN KEY (version_id) REFERENCES exercise_versions(id),
  FOREIGN KEY (class_id) REFERENCES classes(id)
);
CREATE TABLE IF NOT EXISTS attempts (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  issue_id BIGINT UNSIGNED NOT NULL,
  student_id BIGINT UNSIGNED NOT NULL,
  number INT NOT NULL,
  file_sha CHAR(64) NOT NULL,
  file_name VARCHAR(255) NOT NULL,
  handed_in_at DATETIME(3) NOT NULL,
  late BOOLEAN NOT NULL,
  state ENUM('queued','checking','unusable','parked','checked','returned') NOT NULL,
  what VARCHAR(2000) NOT NULL DEFAULT '',
  remedy VARCHAR(2000) NOT NULL DEFAULT '',
  report_id BIGINT UNSIGNED NULL,
  UNIQUE KEY one_number (issue_id, student_id, number),
  KEY by_file (file_sha),
  FOREIGN KEY (issue_id) REFERENCES issues(id),
  FOREIGN KEY (student_id) REFERENCES users(id),
  FOREIGN KEY (file_sha) REFERENCES files(sha256)
);
CREATE TABLE IF NOT EXISTS jobs (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  attempt_id BIGINT UNSIGNED NOT NULL,
  state ENUM('queued','running','done','parked') NOT NULL,
  stage VARCHAR(40) NOT NULL DEFAULT 'queued',
  progress DOUBLE NOT NULL DEFAULT 0,
  tries INT NOT NULL DEFAULT 0,
  worker VARCHAR(100) NOT NULL DEFAULT '',
  lease_until DATETIME(3) NULL,
  reason VARCHAR(2000) NOT NULL DEFAULT '',
  created_at DATETIME(3) NOT NULL,
  KEY open_jobs (state, lease_until),
  KEY by_attempt (attempt_id),
  FOREIGN KEY (attempt_id) REFERENCES attempts(id)
);
CREATE TABLE IF NOT EXISTS reports (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  version_id BIGINT UNSIGNED NOT NULL,
  file_sha CHAR(64) NOT NULL,
  checker VARCHAR(20) NOT NULL,
  report LONGBLOB NOT NULL,
  mesh LONGBLOB NOT NULL,
  created_at DATETIME(3) NOT NULL,
  UNIQUE KEY pure (version_id, file_sha, checker),
  FOREIGN KEY (version_id) REFERENCES exercise_versions(id)
);
CREATE TABLE IF NOT EXISTS marks (
  attempt_id BIGINT UNSIGNED NOT NULL,
  mark VARCHAR(60) NOT NULL,
  points DOUBLE NOT NULL,
  reason VARCHAR(1000) NOT NULL,
  marked_by BIGINT UNSIGNED NOT NULL,
  marked_at DATETIME(3) NOT NULL,
  PRIMARY KEY (attempt_id, mark),
  FOREIGN KEY (attempt_id) REFERENCES attempts(id),
  FOREIGN KEY (marked_by) REFERENCES users(id)
);
CREATE TABLE IF NOT EXISTS returns (
  attempt_id BIGINT UNSIGNED PRIMARY KEY,
  comment TEXT NOT NULL,
  points DOUBLE NOT NULL,
  out_of DOUBLE NOT NULL,
  returned_by BIGINT UNSIGNED NOT NULL,
  returned_at DATETIME(3) NOT NULL,
  FOREIGN KEY (attempt_id) REFERENCES attempts(id),
  FOREIGN KEY (returned_by) REFERENCES users(id)
);
CREATE TABLE IF NOT EXISTS audit (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  at DATETIME(3) NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  action VARCHAR(60) NOT NULL,
  attempt_id BIGINT UNSIGNED NULL,
  detail VARCHAR(2000) NOT NULL,
  KEY by_attempt (attempt_id),
  FOREIGN KEY (user_id) REFERENCES users(id)
);

-- +goose Down
DROP TABLE IF EXISTS audit, returns, marks, reports, jobs, attempts, issues, exercise_versions, exercises, files, memberships, classes, sessions, login_failures, users;
