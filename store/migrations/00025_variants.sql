-- +goose Up
-- Sizes of one student's own. A variant is an exercise at sizes that were drawn for it; the plain exercise is the version
-- itself, and goes by the number 0. One that is refused cannot be had at its sizes, and says why.
CREATE TABLE IF NOT EXISTS variants (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  version_id BIGINT UNSIGNED NOT NULL,
  number INT NOT NULL,
  drawn INT NOT NULL,                 -- which draw it is, counted from 0
  size_values LONGTEXT NOT NULL,      -- JSON: formulas by driving sizes
  hash CHAR(64) NOT NULL DEFAULT '',  -- stands for what is measured, as that of a version
  document LONGBLOB NULL,
  stated LONGTEXT NULL,               -- JSON: what its sheet states, by characteristics, in mm, degrees or as numbers
  reference_sha CHAR(64) NULL,
  prepared LONGBLOB NULL,             -- with the audit of its sheet
  refused VARCHAR(1000) NOT NULL DEFAULT '',
  UNIQUE KEY one_number (version_id, number),
  KEY by_hash (hash),
  FOREIGN KEY (version_id) REFERENCES exercise_versions(id) ON DELETE CASCADE,
  FOREIGN KEY (reference_sha) REFERENCES files(sha256)
);
ALTER TABLE issues ADD COLUMN IF NOT EXISTS personal TINYINT(1) NOT NULL DEFAULT 0;
ALTER TABLE issue_students ADD COLUMN IF NOT EXISTS variant INT NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE issue_students DROP COLUMN IF EXISTS variant;
ALTER TABLE issues DROP COLUMN IF EXISTS personal;
DROP TABLE IF EXISTS variants;
