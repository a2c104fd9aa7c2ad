-- +goose Up
CREATE TABLE IF NOT EXISTS collections (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(16) NOT NULL,              -- library, site, kit
  name VARCHAR(160) NOT NULL,
  title VARCHAR(255) NOT NULL DEFAULT '',
  revision BIGINT NOT NULL DEFAULT 0,
  digest CHAR(64) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY collection_name (kind, name)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS revisions (
  collection_id BIGINT NOT NULL,
  rev BIGINT NOT NULL,
  at DATETIME(6) NOT NULL,
  by_user VARCHAR(80) NOT NULL,
  act VARCHAR(32) NOT NULL,
  says VARCHAR(500) NOT NULL,
  digest CHAR(64) NOT NULL,
  changed INT NOT NULL,
  delivery_id BIGINT NULL,
  PRIMARY KEY (collection_id, rev),
  CONSTRAINT revision_collection FOREIGN KEY (collection_id) REFERENCES collections (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- Items are temporal rows: one is valid from from_rev up to, not including, to_rev.
-- Open rows carry the largest number and not NULL, so that uniqueness holds.
CREATE TABLE IF NOT EXISTS items (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  collection_id BIGINT NOT NULL,
  item_id CHAR(36) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  item_key VARCHAR(160) NOT NULL,
  doc CHAR(64) NOT NULL,
  sense CHAR(64) NOT NULL,
  bytes BIGINT NOT NULL,
  meta TEXT NOT NULL,
  state CHAR(64) NOT NULL,
  from_rev BIGINT NOT NULL,
  to_rev BIGINT NOT NULL DEFAULT 9223372036854775807,
  UNIQUE KEY item_address (collection_id, kind, item_key, to_rev),
  UNIQUE KEY item_identity (collection_id, item_id, to_rev),
  KEY item_doc (doc),
  CONSTRAINT item_collection FOREIGN KEY (collection_id) REFERENCES collections (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS drafts (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  collection_id BIGINT NOT NULL,
  name VARCHAR(160) NOT NULL,
  token CHAR(20) NOT NULL,
  state VARCHAR(16) NOT NULL,             -- open, live, discarded
  base_rev BIGINT NOT NULL,
  live_rev BIGINT NULL,
  version INT NOT NULL DEFAULT 1,
  by_user VARCHAR(80) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY draft_token (token),
  KEY draft_collection_state (collection_id, state),
  CONSTRAINT draft_collection FOREIGN KEY (collection_id) REFERENCES collections (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS draft_items (
  draft_id BIGINT NOT NULL,
  item_id CHAR(36) NOT NULL,
  op VARCHAR(8) NOT NULL,                 -- put, delete
  kind VARCHAR(16) NOT NULL,
  item_key VARCHAR(160) NOT NULL,
  doc CHAR(64) NOT NULL,
  sense CHAR(64) NOT NULL,
  bytes BIGINT NOT NULL,
  meta TEXT NOT NULL,
  base_state CHAR(64) NOT NULL DEFAULT '',  -- of the live item; empty when it was not there
  PRIMARY KEY (draft_id, item_id),
  UNIQUE KEY draft_address (draft_id, kind, item_key, op),
  CONSTRAINT draft_item_draft FOREIGN KEY (draft_id) REFERENCES drafts (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- What a draft relies on beside what it changes: an item in a state, or its absence.
CREATE TABLE IF NOT EXISTS draft_premises (
  draft_id BIGINT NOT NULL,
  kind VARCHAR(16) NOT NULL,
  item_key VARCHAR(160) NOT NULL,
  state CHAR(64) NOT NULL DEFAULT '',
  PRIMARY KEY (draft_id, kind, item_key),
  CONSTRAINT premise_draft FOREIGN KEY (draft_id) REFERENCES drafts (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- Origins outlive the items that they speak of.
CREATE TABLE IF NOT EXISTS origins (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  collection_id BIGINT NOT NULL,
  kit VARCHAR(160) NOT NULL,
  kit_kind VARCHAR(16) NOT NULL,
  kit_key VARCHAR(160) NOT NULL,
  copy INT NOT NULL DEFAULT 1,
  version VARCHAR(64) NOT NULL,
  item_id CHAR(36) NOT NULL,
  sense CHAR(64) NOT NULL,                -- as delivered, transform included
  delivery_id BIGINT NOT NULL,
  UNIQUE KEY origin_identity (collection_id, kit, kit_kind, kit_key, copy),
  KEY origin_item (collection_id, item_id),
  CONSTRAINT origin_collection FOREIGN KEY (collection_id) REFERENCES collections (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS docs (
  digest CHAR(64) NOT NULL PRIMARY KEY,
  bytes BIGINT NOT NULL,
  coding VARCHAR(8) NOT NULL,             -- plain, zstd
  body MEDIUMBLOB NOT NULL,
  created_at DATETIME(6) NOT NULL
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS blobs (
  digest CHAR(64) NOT NULL PRIMARY KEY,
  bytes BIGINT NOT NULL,
  created_at DATETIME(6) NOT NULL
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS blob_leases (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  digest CHAR(64) NOT NULL,
  until DATETIME(6) NOT NULL,
  KEY lease_digest (digest, until)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS facts (
  digest CHAR(64) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  context VARCHAR(32) NOT NULL DEFAULT '',
  engine INT NOT NULL,                    -- version of the reader that found them
  body MEDIUMBLOB NOT NULL,               -- zstd JSON
  PRIMARY KEY (digest, kind, context, engine)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- Where used, of the live state: item_id names to_name, whether or not it is there.
CREATE TABLE IF NOT EXISTS item_refs (
  collection_id BIGINT NOT NULL,
  item_id CHAR(36) NOT NULL,
  to_name VARCHAR(200) NOT NULL,
  PRIMARY KEY (collection_id, item_id, to_name),
  KEY ref_target (collection_id, to_name)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS item_terms (
  collection_id BIGINT NOT NULL,
  item_id CHAR(36) NOT NULL,
  term VARCHAR(40) NOT NULL,
  PRIMARY KEY (collection_id, item_id, term),
  KEY term_prefix (collection_id, term)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS kits (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(160) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY kit_name (name)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS kit_versions (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  kit_id BIGINT NOT NULL,
  version VARCHAR(64) NOT NULL,
  state VARCHAR(16) NOT NULL,             -- making, sealed
  making MEDIUMTEXT NOT NULL,             -- picks and words of a kit in the making
  collection_id BIGINT NULL,              -- its items, once sealed
  list LONGTEXT NOT NULL,                 -- the packing list, once sealed
  digest CHAR(64) NOT NULL DEFAULT '',
  file CHAR(64) NOT NULL DEFAULT '',      -- the .cpkit file's blob
  file_bytes BIGINT NOT NULL DEFAULT 0,
  etag INT NOT NULL DEFAULT 1,
  by_user VARCHAR(80) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  sealed_at DATETIME(6) NULL,
  UNIQUE KEY kit_version (kit_id, version),
  CONSTRAINT version_kit FOREIGN KEY (kit_id) REFERENCES kits (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS deliveries (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  collection_id BIGINT NOT NULL,
  kit_version_id BIGINT NOT NULL,
  state VARCHAR(16) NOT NULL,             -- opened, planned, staged, live, undone, discarded
  ask MEDIUMTEXT NOT NULL,
  plan LONGTEXT NOT NULL,
  plan_digest CHAR(64) NOT NULL DEFAULT '',
  draft_id BIGINT NULL,
  receipt LONGTEXT NOT NULL,
  base_rev BIGINT NOT NULL DEFAULT 0,
  live_rev BIGINT NULL,
  undo_rev BIGINT NULL,
  etag INT NOT NULL DEFAULT 1,
  by_user VARCHAR(80) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  updated_at DATETIME(6) NOT NULL,
  KEY delivery_site (collection_id, id),
  CONSTRAINT delivery_collection FOREIGN KEY (collection_id) REFERENCES collections (id),
  CONSTRAINT delivery_kit FOREIGN KEY (kit_version_id) REFERENCES kit_versions (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS jobs (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(40) NOT NULL,
  payload MEDIUMTEXT NOT NULL,
  state VARCHAR(16) NOT NULL,             -- waiting, running, done, failed
  run_at DATETIME(6) NOT NULL,
  fence BIGINT NOT NULL DEFAULT 0,        -- counts the leases; every write names it
  lease_until DATETIME(6) NULL,
  attempts INT NOT NULL DEFAULT 0,
  done_count BIGINT NOT NULL DEFAULT 0,
  total_count BIGINT NOT NULL DEFAULT 0,
  says VARCHAR(1000) NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL,
  KEY job_next (state, run_at)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS users (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  role VARCHAR(16) NOT NULL,
  password VARCHAR(200) NOT NULL,         -- argon2id, PHC string
  disabled BOOLEAN NOT NULL DEFAULT FALSE,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY user_name (name)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS sessions (
  hash CHAR(64) NOT NULL PRIMARY KEY,     -- SHA-256 of the cookie
  user_id BIGINT NOT NULL,
  created_at DATETIME(6) NOT NULL,
  renewed_at DATETIME(6) NOT NULL,
  expires_at DATETIME(6) NOT NULL,
  CONSTRAINT session_user FOREIGN KEY (user_id) REFERENCES users (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS access_tokens (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT NOT NULL,
  name VARCHAR(80) NOT NULL,
  hash CHAR(64) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  used_at DATETIME(6) NULL,
  UNIQUE KEY token_hash (hash),
  CONSTRAINT token_user FOREIGN KEY (user_id) REFERENCES users (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS setup_links (
  hash CHAR(64) NOT NULL PRIMARY KEY,
  expires_at DATETIME(6) NOT NULL
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS grants (
  user_id BIGINT NOT NULL,
  collection_id BIGINT NOT NULL,
  role VARCHAR(16) NOT NULL,
  PRIMARY KEY (user_id, collection_id),
  CONSTRAINT grant_user FOREIGN KEY (user_id) REFERENCES users (id),
  CONSTRAINT grant_collection FOREIGN KEY (collection_id) REFERENCES collections (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS trust_keys (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  team VARCHAR(80) NOT NULL,
  name VARCHAR(80) NOT NULL,
  public_key VARCHAR(100) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY trust_key (team, public_key)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

CREATE TABLE IF NOT EXISTS audit_events (
  id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  at DATETIME(6) NOT NULL,
  by_user VARCHAR(80) NOT NULL,
  act VARCHAR(40) NOT NULL,
  subject VARCHAR(255) NOT NULL,
  says VARCHAR(1000) NOT NULL,
  request_id VARCHAR(40) NOT NULL DEFAULT '',
  KEY audit_at (at)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;

-- +goose Down
DROP TABLE IF EXISTS audit_events, trust_keys, grants, setup_links, access_tokens, sessions, users, jobs, deliveries, kit_versions, kits,
  item_terms, item_refs, facts, blob_leases, blobs, docs, origins, draft_premises, draft_items, drafts, items, revisions, collections;
