-- +goose Up
CREATE TABLE IF NOT EXISTS atlases (
  version_id BIGINT UNSIGNED PRIMARY KEY,
  kind VARCHAR(20) NOT NULL,
  data LONGBLOB NOT NULL,
  made_at DATETIME(3) NOT NULL,
  FOREIGN KEY (version_id) REFERENCES exercise_versions(id) ON DELETE CASCADE
);

-- +goose Down
DROP TABLE IF EXISTS atlases;
