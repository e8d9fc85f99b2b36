-- +goose Up
-- What is worked on of an exercise and is no version yet: one draft for each exercise, with the states that can be gone
-- back to.
CREATE TABLE IF NOT EXISTS drafts (
  exercise_id BIGINT UNSIGNED PRIMARY KEY,
  version INT UNSIGNED NOT NULL,      -- that it was begun from
  revision BIGINT UNSIGNED NOT NULL,  -- counts its changes
  state INT UNSIGNED NOT NULL,        -- that it is in now, of draft_states
  last VARCHAR(40) NOT NULL,          -- names the change that was made last
  changed_by BIGINT UNSIGNED NOT NULL,
  changed_at DATETIME(3) NOT NULL,
  FOREIGN KEY (exercise_id) REFERENCES exercises(id),
  FOREIGN KEY (changed_by) REFERENCES users(id)
);
CREATE TABLE IF NOT EXISTS draft_states (
  exercise_id BIGINT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  document LONGBLOB NOT NULL,
  PRIMARY KEY (exercise_id, number),
  FOREIGN KEY (exercise_id) REFERENCES drafts(exercise_id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE IF EXISTS draft_states;
DROP TABLE IF EXISTS drafts;
