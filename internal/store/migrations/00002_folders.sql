-- +goose Up
-- The files of the folder that a site was adopted from last, so that adopting it
-- again finds what somebody changed in it since.
CREATE TABLE IF NOT EXISTS folder_files (
  collection_id BIGINT NOT NULL,
  path VARCHAR(500) NOT NULL,
  digest CHAR(64) NOT NULL,               -- of the file as it lay there
  item_id CHAR(36) NOT NULL,
  doc CHAR(64) NOT NULL,                  -- of the item's content, as it was read from the file
  PRIMARY KEY (collection_id, path),
  CONSTRAINT folder_collection FOREIGN KEY (collection_id) REFERENCES collections (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- Where a site's live state is published by itself.
CREATE TABLE IF NOT EXISTS outlets (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  collection_id BIGINT NOT NULL,
  name VARCHAR(80) NOT NULL,
  folder VARCHAR(500) NOT NULL,
  base VARCHAR(200) NOT NULL DEFAULT '/',
  links VARCHAR(16) NOT NULL DEFAULT 'rooted',
  release_number INT NOT NULL DEFAULT 0,  -- of the last release
  site_digest CHAR(64) NOT NULL DEFAULT '',
  says VARCHAR(1000) NOT NULL DEFAULT '', -- why the last publication did not happen; empty when it did
  by_user VARCHAR(80) NOT NULL,
  published_at DATETIME(6) NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY outlet_name (collection_id, name),
  CONSTRAINT outlet_collection FOREIGN KEY (collection_id) REFERENCES collections (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- +goose Down
DROP TABLE IF EXISTS outlets, folder_files;
