-- +goose Up
-- What people are told: in a list of their own, and by mail where they want that.
ALTER TABLE users ADD COLUMN IF NOT EXISTS mail_kinds VARCHAR(200) NOT NULL DEFAULT '',  -- what mail is wanted of, with commas between
  ADD COLUMN IF NOT EXISTS calendar CHAR(64) NULL,  -- the hash of the secret in the address of the calendar
  ADD UNIQUE KEY IF NOT EXISTS by_calendar (calendar);
CREATE TABLE IF NOT EXISTS messages (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('issued','due','returned','revised') NOT NULL,
  issue_id BIGINT UNSIGNED NOT NULL,
  attempt_id BIGINT UNSIGNED NULL,
  of_id BIGINT UNSIGNED NOT NULL,   -- of the issue, return or notice: with the time each is told once
  at DATETIME(3) NOT NULL,
  text VARCHAR(1000) NOT NULL DEFAULT '',
  made_at DATETIME(3) NOT NULL,
  read_at DATETIME(3) NULL,
  mailed TINYINT(1) NOT NULL DEFAULT 0,
  UNIQUE KEY once (user_id, kind, of_id, at),
  KEY to_mail (mailed, id),
  FOREIGN KEY (user_id) REFERENCES users(id) ON DELETE CASCADE,
  FOREIGN KEY (issue_id) REFERENCES issues(id),
  FOREIGN KEY (attempt_id) REFERENCES attempts(id)
);
-- Mail that is to go out, or went. What it says is forgotten when it has gone.
CREATE TABLE IF NOT EXISTS mails (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  address VARCHAR(254) NOT NULL,
  subject VARCHAR(300) NOT NULL,
  body TEXT NOT NULL,
  made_at DATETIME(3) NOT NULL,
  next_at DATETIME(3) NOT NULL,
  tries INT NOT NULL DEFAULT 0,
  sent_at DATETIME(3) NULL,
  failed VARCHAR(500) NOT NULL DEFAULT '',
  KEY open_mails (sent_at, next_at),
  FOREIGN KEY (user_id) REFERENCES users(id) ON DELETE CASCADE
);
-- Links by which somebody chooses a password, by the hash of their secret.
CREATE TABLE IF NOT EXISTS password_links (
  hash CHAR(64) PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  made_at DATETIME(3) NOT NULL,
  until_at DATETIME(3) NOT NULL,
  KEY by_user (user_id),
  FOREIGN KEY (user_id) REFERENCES users(id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE IF EXISTS password_links, mails, messages;
ALTER TABLE users DROP INDEX IF EXISTS by_calendar, DROP COLUMN IF EXISTS calendar, DROP COLUMN IF EXISTS mail_kinds;
