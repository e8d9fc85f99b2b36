-- +goose Up
-- When a student has opened a return; until then it can be undone.
ALTER TABLE returns ADD COLUMN IF NOT EXISTS opened_at DATETIME(3) NULL;
-- What a person has said of findings (and, with an empty finding, of whole attempts), to be offered again.
CREATE TABLE IF NOT EXISTS own_remarks (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  exercise_id BIGINT UNSIGNED NOT NULL,
  finding VARCHAR(200) NOT NULL,
  kind VARCHAR(60) NOT NULL,
  said CHAR(64) NOT NULL,
  text TEXT NOT NULL,
  used_at DATETIME(3) NOT NULL,
  UNIQUE KEY once (user_id, exercise_id, finding, said),
  KEY by_kind (user_id, kind, used_at),
  FOREIGN KEY (user_id) REFERENCES users(id)
);

-- +goose Down
DROP TABLE IF EXISTS own_remarks;
ALTER TABLE returns DROP COLUMN IF EXISTS opened_at;
