-- +goose Up
CREATE TABLE IF NOT EXISTS assemblies (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  owner_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(200) NOT NULL,
  version INT NOT NULL,
  document LONGBLOB NOT NULL,
  saved_at DATETIME(3) NOT NULL,
  KEY by_owner (owner_id, saved_at),
  FOREIGN KEY (owner_id) REFERENCES users(id)
);
-- The files that an assembly may have parts of: those that its owner has put in, and no others.
CREATE TABLE IF NOT EXISTS assembly_files (
  assembly_id BIGINT UNSIGNED NOT NULL,
  sha256 CHAR(64) NOT NULL,
  PRIMARY KEY (assembly_id, sha256),
  FOREIGN KEY (assembly_id) REFERENCES assemblies(id) ON DELETE CASCADE,
  FOREIGN KEY (sha256) REFERENCES files(sha256)
);

-- +goose Down
DROP TABLE IF EXISTS assembly_files;
DROP TABLE IF EXISTS assemblies;
