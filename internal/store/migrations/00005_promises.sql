-- +goose Up
-- No two pages of a site are at one address. Where two have come to be, the second keeps
-- its page and not its claim; cparceld verify tells of it.
ALTER TABLE items ADD COLUMN IF NOT EXISTS slug VARCHAR(500) NULL AFTER item_key;
UPDATE IGNORE items JOIN collections ON collections.id = items.collection_id SET items.slug = JSON_VALUE(items.meta, '$.slug')
  WHERE collections.kind = 'site' AND items.kind = 'page' AND items.slug IS NULL AND CHAR_LENGTH(JSON_VALUE(items.meta, '$.slug')) BETWEEN 1 AND 500;
UPDATE items JOIN (SELECT collection_id, slug, to_rev, MIN(id) AS first FROM items WHERE slug IS NOT NULL GROUP BY collection_id, slug, to_rev HAVING COUNT(*) > 1) twice
  ON items.collection_id = twice.collection_id AND items.slug = twice.slug AND items.to_rev = twice.to_rev AND items.id <> twice.first SET items.slug = NULL;
ALTER TABLE items ADD UNIQUE KEY IF NOT EXISTS item_slug (collection_id, slug, to_rev);

-- Requests that carry a key: a repeated one gets the first one's answer.
CREATE TABLE IF NOT EXISTS request_keys (
  user_id BIGINT NOT NULL,
  request_key CHAR(64) NOT NULL,          -- SHA-256 of what was sent
  request CHAR(64) NOT NULL,              -- SHA-256 of method, address and body
  process CHAR(36) NOT NULL,              -- which service process answers it
  commits INT NOT NULL DEFAULT 0,         -- how many of its transactions were committed
  subject VARCHAR(200) NOT NULL DEFAULT '',
  status INT NOT NULL DEFAULT 0,          -- of the answer; 0 as long as there is none
  header TEXT NOT NULL DEFAULT '',
  body MEDIUMBLOB NULL,                   -- zstd
  created_at DATETIME(6) NOT NULL,
  PRIMARY KEY (user_id, request_key),
  KEY request_age (created_at)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- Outlets that failed are tried again, with growing pauses.
ALTER TABLE outlets
  ADD COLUMN IF NOT EXISTS attempts INT NOT NULL DEFAULT 0 AFTER says,
  ADD COLUMN IF NOT EXISTS try_at DATETIME(6) NULL AFTER attempts;

-- Sign-ins can be told apart and ended; tokens have a time and a scope.
ALTER TABLE sessions
  ADD COLUMN IF NOT EXISTS family CHAR(36) NOT NULL DEFAULT '' AFTER user_id,
  ADD COLUMN IF NOT EXISTS agent VARCHAR(200) NOT NULL DEFAULT '' AFTER family,
  ADD COLUMN IF NOT EXISTS place VARCHAR(64) NOT NULL DEFAULT '' AFTER agent,
  ADD COLUMN IF NOT EXISTS started_at DATETIME(6) NULL AFTER place;
UPDATE sessions SET family = UUID(), started_at = created_at WHERE family = '';
ALTER TABLE sessions ADD KEY IF NOT EXISTS session_family (user_id, family);
ALTER TABLE access_tokens
  ADD COLUMN IF NOT EXISTS scope VARCHAR(16) NOT NULL DEFAULT '' AFTER hash,   -- the most that it may do; empty: all that its person may
  ADD COLUMN IF NOT EXISTS expires_at DATETIME(6) NULL AFTER scope;

-- +goose Down
ALTER TABLE access_tokens DROP COLUMN IF EXISTS scope, DROP COLUMN IF EXISTS expires_at;
ALTER TABLE sessions DROP KEY IF EXISTS session_family, DROP COLUMN IF EXISTS family, DROP COLUMN IF EXISTS agent, DROP COLUMN IF EXISTS place, DROP COLUMN IF EXISTS started_at;
ALTER TABLE outlets DROP COLUMN IF EXISTS attempts, DROP COLUMN IF EXISTS try_at;
DROP TABLE IF EXISTS request_keys;
ALTER TABLE items DROP KEY IF EXISTS item_slug, DROP COLUMN IF EXISTS slug;
