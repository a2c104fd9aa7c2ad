-- +goose Up
-- What a draft relies on is called its preconditions. The old table is made first where it
-- is not, so that each of these statements can be done again.
CREATE TABLE IF NOT EXISTS draft_premises (
  draft_id BIGINT NOT NULL,
  kind VARCHAR(16) NOT NULL,
  item_key VARCHAR(160) NOT NULL,
  state CHAR(64) NOT NULL DEFAULT '',
  PRIMARY KEY (draft_id, kind, item_key)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
CREATE TABLE IF NOT EXISTS draft_preconditions (
  draft_id BIGINT NOT NULL,
  kind VARCHAR(16) NOT NULL,
  item_key VARCHAR(160) NOT NULL,
  state CHAR(64) NOT NULL DEFAULT '',     -- empty: it was not there
  PRIMARY KEY (draft_id, kind, item_key),
  CONSTRAINT precondition_draft FOREIGN KEY (draft_id) REFERENCES drafts (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
INSERT IGNORE INTO draft_preconditions SELECT draft_id, kind, item_key, state FROM draft_premises;
DROP TABLE IF EXISTS draft_premises;

-- Columns of one meaning have one name.
ALTER TABLE items CHANGE COLUMN IF EXISTS sense normalized_digest CHAR(64) NOT NULL;
ALTER TABLE draft_items CHANGE COLUMN IF EXISTS sense normalized_digest CHAR(64) NOT NULL;
ALTER TABLE origins CHANGE COLUMN IF EXISTS sense normalized_digest CHAR(64) NOT NULL;
ALTER TABLE revisions CHANGE COLUMN IF EXISTS says message VARCHAR(500) NOT NULL;
ALTER TABLE outlets CHANGE COLUMN IF EXISTS says message VARCHAR(1000) NOT NULL DEFAULT '';
ALTER TABLE audit_events CHANGE COLUMN IF EXISTS says message VARCHAR(1000) NOT NULL;
ALTER TABLE jobs CHANGE COLUMN IF EXISTS says message VARCHAR(1000) NOT NULL DEFAULT '';

-- Rights for single sites were never given.
DROP TABLE IF EXISTS grants;

-- +goose Down
DROP TABLE IF EXISTS draft_preconditions;
