-- +goose Up
CREATE TABLE IF NOT EXISTS assembly_versions (
  assembly_id BIGINT UNSIGNED NOT NULL,
  version INT NOT NULL,
  document LONGBLOB NOT NULL,
  saved_at DATETIME(3) NOT NULL,
  what VARCHAR(200) NOT NULL,
  PRIMARY KEY (assembly_id, version),
  FOREIGN KEY (assembly_id) REFERENCES assemblies(id) ON DELETE CASCADE
);
INSERT IGNORE INTO assembly_versions (assembly_id, version, document, saved_at, what)
  SELECT id, version, document, saved_at, 'saved' FROM assemblies;

-- +goose Down
DROP TABLE IF EXISTS assembly_versions;
