-- +goose Up
CREATE TABLE IF NOT EXISTS models (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  owner_id BIGINT UNSIGNED NOT NULL,
  issue_id BIGINT UNSIGNED NULL,
  exercise_id BIGINT UNSIGNED NULL,
  name VARCHAR(200) NOT NULL,
  version INT NOT NULL,
  document LONGBLOB NOT NULL,
  saved_at DATETIME(3) NOT NULL,
  KEY by_owner (owner_id, saved_at),
  FOREIGN KEY (owner_id) REFERENCES users(id),
  FOREIGN KEY (issue_id) REFERENCES issues(id),
  FOREIGN KEY (exercise_id) REFERENCES exercises(id)
);

-- +goose Down
DROP TABLE IF EXISTS models;
