-- +goose Up
CREATE TABLE IF NOT EXISTS model_versions (
  model_id BIGINT UNSIGNED NOT NULL,
  version INT NOT NULL,
  document LONGBLOB NOT NULL,
  saved_at DATETIME(3) NOT NULL,
  what VARCHAR(200) NOT NULL,
  PRIMARY KEY (model_id, version),
  FOREIGN KEY (model_id) REFERENCES models(id) ON DELETE CASCADE
);
INSERT IGNORE INTO model_versions (model_id, version, document, saved_at, what) SELECT id, version, document, saved_at, 'saved' FROM models;

-- +goose Down
DROP TABLE IF EXISTS model_versions;
