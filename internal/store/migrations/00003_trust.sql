-- +goose Up
-- Whether kits for a site must be signed, and by whose keys.
CREATE TABLE IF NOT EXISTS site_trust (
  collection_id BIGINT NOT NULL PRIMARY KEY,
  policy VARCHAR(16) NOT NULL,            -- ignore, warn, require
  team VARCHAR(80) NOT NULL DEFAULT '',   -- empty: the keys of all teams
  CONSTRAINT trust_collection FOREIGN KEY (collection_id) REFERENCES collections (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- The signatures of a sealed kit: its seal.json.
ALTER TABLE kit_versions ADD COLUMN IF NOT EXISTS seal LONGTEXT NOT NULL DEFAULT '' AFTER list;

-- +goose Down
ALTER TABLE kit_versions DROP COLUMN IF EXISTS seal;
DROP TABLE IF EXISTS site_trust;
