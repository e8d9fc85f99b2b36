-- +goose Up
-- What a reference comes to, by which it is told when it is handed in at another exercise; of what was there before, where
-- a mistake atlas says it.
ALTER TABLE variants ADD COLUMN IF NOT EXISTS bulk LONGTEXT NULL;
UPDATE variants x JOIN atlases a ON a.measured = x.hash SET x.bulk = JSON_OBJECT('solids', 1,
  'volume', JSON_EXTRACT(CONVERT(a.data USING utf8mb4), '$.figures.inner[0]'),
  'area', JSON_EXTRACT(CONVERT(a.data USING utf8mb4), '$.figures.inner[1]'),
  'inertia', JSON_EXTRACT(CONVERT(a.data USING utf8mb4), '$.figures.inner[2]'))
  WHERE x.bulk IS NULL AND JSON_EXTRACT(CONVERT(a.data USING utf8mb4), '$.figures.inner[2]') IS NOT NULL;

-- +goose Down
ALTER TABLE variants DROP COLUMN IF EXISTS bulk;
